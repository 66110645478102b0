//! The seams of the program: what each crate may be built on, and that no files import each other in a circle.

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

/// The crates of the program, each with those that it may be built on directly. What is above builds on what is below, never the other way.
const STOREYS: [(&str, &[&str]); 15] = [
    (
        "app",
        &[
            "screen",
            "runtime",
            "link",
            "draw",
            "hear",
            "wire",
            "document",
            "engine",
            "light",
            "show",
            "transport",
            "time",
            "base",
        ],
    ),
    ("screen", &["link", "wire", "document", "engine", "light", "show", "transport", "time", "base"]),
    ("runtime", &["link", "wire", "hear", "document", "engine", "light", "show", "transport", "time", "base"]),
    ("link", &["wire", "document", "engine", "light", "show", "transport", "time", "base"]),
    ("draw", &["document", "engine", "light", "show", "transport", "time", "base"]),
    ("wire", &["show", "transport", "time", "base"]),
    ("hear", &["time", "base"]),
    ("corpus", &["hear", "time", "base"]),
    ("document", &["engine", "light", "show", "transport", "time", "base"]),
    ("engine", &["light", "show", "transport", "time", "base"]),
    ("light", &["show", "transport", "time", "base"]),
    ("show", &["transport", "time", "base"]),
    ("time", &["base"]),
    ("transport", &["base"]),
    ("base", &[]),
];

#[test]
fn every_crate_is_built_on_those_below_alone() {
    let mut crates: Vec<String> = folders().into_iter().map(|(name, _)| name).collect();
    crates.sort_unstable();
    let mut known: Vec<&str> = STOREYS.iter().map(|(name, _)| *name).collect();
    known.sort_unstable();
    assert_eq!(crates, known, "a crate has its line here");
    for (name, below) in STOREYS {
        let own = format!("splimo-{name}");
        let tree = tree(if name == "app" { "splimo" } else { &own });
        for built_on in tree.iter().filter_map(|one| one.strip_prefix("splimo-")).filter(|one| *one != name) {
            assert!(below.contains(&built_on), "{name} is built on {built_on}");
        }
    }
}

#[test]
fn what_is_pure_touches_nothing_outside() {
    for pure in ["base", "time", "transport", "show", "light", "engine", "document", "hear", "link", "wire", "draw"] {
        let pure = format!("splimo-{pure}");
        let found: Vec<String> = tree(&pure).into_iter().filter(|name| OUTSIDE.contains(&name.as_str())).collect();
        assert!(found.is_empty(), "{pure} is built on {found:?}");
    }
}

#[test]
fn the_first_page_of_a_crate_says_what_it_is_for_what_it_may_use_and_its_main_types() {
    for (name, folder) in folders().into_iter().filter(|(name, _)| name != "app") {
        let text = std::fs::read_to_string(folder.join("src/lib.rs")).expect("a first page");
        let page: Vec<&str> = text.lines().map_while(|line| line.strip_prefix("//!")).map(str::trim).collect();
        let page = page.join(" ");
        for wanted in ["t may use", "ain types: [`"] {
            assert!(page.contains(wanted), "the first page of {name} does not say \"{wanted}\"");
        }
    }
}

/// Every crate, by its name, and its folder.
fn folders() -> Vec<(String, PathBuf)> {
    let folders = std::fs::read_dir(workspace().join("crates")).expect("a folder");
    let folders = folders.map(|entry| entry.expect("an entry").path()).filter(|path| path.is_dir());
    folders.map(|path| (path.file_name().expect("a name").to_string_lossy().into_owned(), path)).collect()
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
            } else if entry.extension().is_some_and(|ending| ending == "rs")
                && !name.ends_with("tests")
                && name != "main"
            {
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

/// The files of a crate, and what each brings in under which name.
struct Files {
    texts: BTreeMap<Module, String>,
    brought: BTreeMap<Module, HashMap<String, Vec<String>>>,
}

impl Files {
    fn of(source: &Path) -> Self {
        let texts = modules(source);
        let brought = texts.iter().map(|(module, text)| (module.clone(), brought(text))).collect();
        Self { texts, brought }
    }

    /// The module at which a path begins and as far as its words are modules, with the words behind; none if it leads outside.
    fn walk(&self, path: &[String], from: &Module) -> Option<(Module, Vec<String>)> {
        let (mut base, mut rest) = match path.first()?.as_str() {
            "crate" => (Module::new(), &path[1..]),
            "super" | "self" => (from.clone(), path),
            child => {
                let below: Module = from.iter().cloned().chain([child.to_owned()]).collect();
                self.texts.contains_key(&below).then_some((from.clone(), path))?
            }
        };
        while let Some(word) = rest.first().filter(|word| *word == "super" || *word == "self") {
            if word == "super" {
                base.pop();
            }
            rest = &rest[1..];
        }
        while let Some(word) = rest.first() {
            let below: Module = base.iter().cloned().chain([word.clone()]).collect();
            if !self.texts.contains_key(&below) {
                break;
            }
            (base, rest) = (below, &rest[1..]);
        }
        Some((base, rest.to_vec()))
    }

    /// The module that has what a path means, wherever that was brought in on the way.
    fn target(&self, path: &[String], from: &Module) -> Option<Module> {
        // A single word, such as the `crate` of `pub(crate)`, leads nowhere.
        let (mut base, mut rest) = self.walk(path, from).filter(|_| path.len() > 1)?;
        for _ in 0..8 {
            let Some(next) = rest.first().and_then(|word| self.brought.get(&base)?.get(word)) else { break };
            let Some((module, mut words)) = self.walk(next, &base).filter(|(module, _)| *module != base) else { break };
            words.extend(rest.drain(1..));
            (base, rest) = (module, words);
        }
        let is_family = base.starts_with(from) || from.starts_with(&base);
        (!is_family && self.texts.contains_key(&base)).then_some(base)
    }

    /// The files that each file imports from; a module and its own children are one house.
    fn imports(&self) -> HashMap<&Module, BTreeSet<Module>> {
        let of =
            |module: &Module, text: &str| paths(text).iter().filter_map(|path| self.target(path, module)).collect();
        self.texts.iter().map(|(module, text)| (module, of(module, text))).collect()
    }
}

/// The imports of a text at its outermost level, by the last word of each path.
fn brought(text: &str) -> HashMap<String, Vec<String>> {
    let starts = |line: &str| line.starts_with("use ") || line.starts_with("pub use ") || line.starts_with("pub(");
    let mut all = HashMap::new();
    let mut rest = text;
    while !rest.is_empty() {
        let line = rest.lines().next().unwrap_or_default();
        let (statement, behind) = match starts(line) && line.contains("use ") {
            true => rest.split_at(rest.find(';').map_or(rest.len(), |end| end + 1)),
            false => ("", &rest[(line.len() + 1).min(rest.len())..]),
        };
        for path in paths(statement).into_iter().filter(|path| path.len() > 1) {
            all.insert(path.last().cloned().unwrap_or_default(), path);
        }
        rest = behind;
    }
    all
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
fn no_files_import_each_other_in_a_circle() {
    for (name, folder) in folders() {
        let files = Files::of(&folder.join("src"));
        let imports = files.imports();
        let mut done = BTreeSet::new();
        for module in files.texts.keys() {
            let circle = circle(module, &imports, &mut Vec::new(), &mut done);
            assert_eq!(circle, None, "these of {name} import each other in a circle");
        }
        // Of a crate of many files some were understood.
        let count: usize = imports.values().map(BTreeSet::len).sum();
        assert!(
            count > files.texts.len() / 2 || files.texts.len() < 30,
            "{name}: only {count} imports were understood"
        );
    }
}

#[test]
fn whoever_adds_a_transport_touches_its_folder_and_its_line_alone() {
    for (name, folder) in folders().into_iter().filter(|(name, _)| name != "transport") {
        for (module, text) in modules(&folder.join("src")) {
            let file = format!("{name}/{}", module.join("/"));
            for line in text.lines().map(str::trim) {
                assert!(!line.contains("AnyTransport::") || line.contains("AnyTransport::of("), "{file}: {line}");
                let arm = line.split_once("TransportKind::").is_some_and(|(_, rest)| rest.contains("=>"));
                assert!(!arm, "{file} asks which transport it is, where the transport could say it: {line}");
            }
        }
    }
}

/// The names of commands of several words that may stand as text in one file: it asks for these, it has no list of them.
const FEW_NAMES: usize = 4;

#[test]
fn no_file_keeps_a_list_of_commands_of_its_own() {
    let names: BTreeSet<&str> = splimo_show::command::COMMANDS.iter().map(|info| info.name).collect();
    let names: BTreeSet<&str> = names.into_iter().filter(|name| name.contains('-')).collect();
    assert!(names.len() > 60);
    for (name, folder) in folders() {
        for (module, text) in modules(&folder.join("src")) {
            let file = format!("{name}/{}", module.join("/"));
            let quoted: BTreeSet<&str> = text.split('"').filter(|text| names.contains(text)).collect();
            assert!(quoted.len() <= FEW_NAMES || file == "show/command", "{file} has a list of commands: {quoted:?}");
        }
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

#[test]
fn what_is_brought_in_on_the_way_is_followed_to_where_it_is() {
    let files = [
        ("", "mod a;\nmod b;\npub use b::c::Deep;"),
        ("a", "use crate::Deep;"),
        ("b", "pub mod c;"),
        ("b/c", "use crate::a::Other;\npub struct Deep;"),
    ];
    let texts: BTreeMap<Module, String> = files
        .iter()
        .map(|(path, text)| {
            (path.split('/').filter(|p| !p.is_empty()).map(str::to_owned).collect(), (*text).to_owned())
        })
        .collect();
    let brought = texts.iter().map(|(module, text)| (module.clone(), brought(text))).collect();
    let files = Files { texts, brought };
    let (imports, a) = (files.imports(), vec!["a".to_owned()]);
    assert_eq!(imports[&a].iter().map(|module| module.join("/")).collect::<Vec<_>>(), ["b/c"]);
    assert!(circle(&a, &imports, &mut Vec::new(), &mut BTreeSet::new()).is_some());
}
