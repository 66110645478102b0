//! The seams of the program: what each crate may be built on, and that no files of the screen import each other in a circle.

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::path::{Path, PathBuf};
use std::process::Command;

/// Crates by which a program reaches a terminal, a socket, a device or the clock of the machine.
const OUTSIDE: [&str; 15] = [
    "ratatui",
    "crossterm",
    "socket2",
    "nix",
    "libc",
    "mio",
    "cpal",
    "midir",
    "symphonia",
    "serialport",
    "rustix",
    "termios",
    "clap",
    "tracing-subscriber",
    "signal-hook",
];

fn workspace() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").canonicalize().expect("a folder")
}

/// The crates that a crate is built on, itself included.
fn tree(of: &str) -> BTreeSet<String> {
    let cargo = std::env::var("CARGO").unwrap_or_else(|_| "cargo".to_owned());
    let mut command = Command::new(cargo);
    command.args(["tree", "--offline", "--locked", "--edges", "normal", "--prefix", "none", "--package", of]);
    let output = command.current_dir(workspace()).output().expect("cargo runs");
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let text = String::from_utf8_lossy(&output.stdout).into_owned();
    text.lines().filter_map(|line| line.split_whitespace().next()).map(str::to_owned).collect()
}

#[test]
fn a_screen_holds_no_runtime() {
    let own: Vec<String> = tree("splimo-screen").into_iter().filter(|name| name.starts_with("splimo")).collect();
    assert_eq!(own, ["splimo-core", "splimo-link", "splimo-screen", "splimo-wire"]);
}

#[test]
fn core_hearing_and_link_touch_nothing_outside() {
    for pure in ["splimo-core", "splimo-hear", "splimo-link", "splimo-wire", "splimo-draw"] {
        let found: Vec<String> = tree(pure).into_iter().filter(|name| OUTSIDE.contains(&name.as_str())).collect();
        assert!(found.is_empty(), "{pure} is built on {found:?}");
    }
}

/// A module, by the names on the way to it.
type Module = Vec<String>;

/// Every module of a crate that has a file, with its text; tests are left out.
fn modules(source: &Path) -> BTreeMap<Module, String> {
    let mut found = BTreeMap::new();
    let mut folders = vec![source.to_owned()];
    while let Some(folder) = folders.pop() {
        for entry in std::fs::read_dir(&folder).expect("a folder").map(|entry| entry.expect("an entry").path()) {
            let name = entry.file_stem().expect("a name").to_string_lossy().into_owned();
            if entry.is_dir() && name != "tests" {
                folders.push(entry);
            } else if entry.extension().is_some_and(|ending| ending == "rs") && name != "tests" {
                let inside = entry.strip_prefix(source).expect("inside").with_extension("");
                let mut module: Module = inside.iter().map(|part| part.to_string_lossy().into_owned()).collect();
                module.pop_if(|last| last == "mod" || last == "lib");
                let text = std::fs::read_to_string(&entry).expect("it is read");
                found.insert(module, without_tests(&text));
            }
        }
    }
    found
}

/// A text without its comments and its test module.
fn without_tests(text: &str) -> String {
    let text = text.split("#[cfg(test)]\nmod tests {").next().unwrap_or_default();
    text.lines().map(|line| line.split("//").next().unwrap_or_default()).collect::<Vec<_>>().join("\n")
}

/// Every path in a text, braces spelt out: `a::{b, c::d}` is `a::b` and `a::c::d`.
fn paths(text: &str) -> Vec<Vec<String>> {
    let mut all = Vec::new();
    let mut open: Vec<Vec<String>> = Vec::new();
    let mut path: Vec<String> = Vec::new();
    let mut rest = text;
    while let Some(first) = rest.chars().next() {
        if let Some(after) = rest.strip_prefix("::{") {
            open.push(path.clone());
            rest = after;
        } else if let Some(after) = rest.strip_prefix("::") {
            rest = after;
        } else if first.is_alphanumeric() || first == '_' {
            let end = rest.find(|c: char| !c.is_alphanumeric() && c != '_').unwrap_or(rest.len());
            path.push(rest[..end].to_owned());
            rest = &rest[end..];
            continue_or_end(rest, &mut path, &mut all, &open);
        } else {
            if first == '}' {
                open.pop();
            } else if first == ';' {
                open.clear();
            }
            rest = &rest[first.len_utf8()..];
            if !rest.starts_with("::") {
                path = open.last().cloned().unwrap_or_default();
            }
        }
    }
    all
}

fn continue_or_end(rest: &str, path: &mut Vec<String>, all: &mut Vec<Vec<String>>, open: &[Vec<String>]) {
    if !rest.starts_with("::") {
        all.push(std::mem::replace(path, open.last().cloned().unwrap_or_default()));
    }
}

/// The module that a path leads to from a module, if it is one of the crate.
fn target(path: &[String], from: &Module, modules: &BTreeMap<Module, String>) -> Option<Module> {
    // A single word, such as the `crate` of `pub(crate)`, leads nowhere.
    let first = path.first().filter(|_| path.len() > 1)?;
    let (mut base, mut rest) = match first.as_str() {
        "crate" => (Module::new(), &path[1..]),
        "super" | "self" => (from.clone(), path),
        child => {
            let below: Module = from.iter().cloned().chain([child.to_owned()]).collect();
            modules.contains_key(&below).then_some((from.clone(), path))?
        }
    };
    while let Some(word) = rest.first().filter(|word| *word == "super" || *word == "self") {
        if word == "super" {
            base.pop();
        }
        rest = &rest[1..];
    }
    for word in rest {
        let below: Module = base.iter().cloned().chain([word.clone()]).collect();
        if !modules.contains_key(&below) {
            break;
        }
        base = below;
    }
    (base != *from && modules.contains_key(&base)).then_some(base)
}

/// A way round from a module back to itself, if there is one. `done` are modules from which there is none.
fn circle<'m>(
    from: &'m Module,
    imports: &'m HashMap<&Module, BTreeSet<Module>>,
    way: &mut Vec<&'m Module>,
    done: &mut BTreeSet<&'m Module>,
) -> Option<Vec<String>> {
    if let Some(start) = way.iter().position(|known| *known == from) {
        return Some(way[start..].iter().map(|module| module.join("/")).collect());
    }
    if done.contains(from) {
        return None;
    }
    way.push(from);
    let found = imports[from].iter().find_map(|next| circle(next, imports, way, done));
    way.pop();
    done.insert(from);
    found
}

#[test]
fn no_files_of_the_screen_import_each_other_in_a_circle() {
    let modules = modules(&workspace().join("crates/screen/src"));
    assert!(modules.len() > 50, "{}", modules.len());
    let imports: HashMap<&Module, BTreeSet<Module>> = modules
        .iter()
        .map(|(module, text)| (module, paths(text).iter().filter_map(|path| target(path, module, &modules)).collect()))
        .collect();
    let count: usize = imports.values().map(BTreeSet::len).sum();
    assert!(count > 100, "only {count} imports were understood");
    let mut done = BTreeSet::new();
    for module in modules.keys() {
        let circle = circle(module, &imports, &mut Vec::new(), &mut done);
        assert_eq!(circle, None, "these import each other in a circle");
    }
}

#[test]
fn imports_are_understood() {
    let spelt = |text: &str| paths(text).iter().map(|path| path.join("::")).collect::<Vec<_>>();
    assert_eq!(spelt("use crate::{a::B, c::{D, e}};"), ["use", "crate::a::B", "crate::c::D", "crate::c::e"]);
    assert_eq!(
        spelt("use super::x::Y; let a = crate::m::f(1);"),
        ["use", "super::x::Y", "let", "a", "crate::m::f", "1"]
    );
}
