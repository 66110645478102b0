//! `docs/show-file.md`: every field of a show's file, out of the types themselves and their documentation, with an example of each table.
//! `UPDATE_DOCS=1 cargo test -p splimo-document --test show_file_reference` writes it anew.

use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write as _;
use std::path::{Path, PathBuf};

use splimo_document::file;
use splimo_show::FIELDS;
use splimo_show::setting::SETTINGS;
use splimo_transport::{FieldKind, TransportKind, field_named};
use syn::{Attribute, Expr, Fields, Item, Lit, Meta, Type};

/// A type of the file.
struct Kind {
    doc: String,
    /// The type by way of which it is read, where that is another one.
    by: Option<String>,
    shape: Form,
}

enum Form {
    /// A table with its fields: name, documentation, type, and whether it may be left out.
    Table(Vec<(String, String, String, bool)>),
    /// One of some words, each with its documentation.
    Words(Vec<(String, String)>),
    /// A text with a form of its own, or something else.
    Other,
}

fn folder(of: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join(of)
}

fn doc(attributes: &[Attribute]) -> String {
    let line = |attribute: &Attribute| match &attribute.meta {
        Meta::NameValue(pair) if pair.path.is_ident("doc") => match &pair.value {
            Expr::Lit(literal) => match &literal.lit {
                Lit::Str(text) => Some(text.value().trim().to_owned()),
                _ => None,
            },
            _ => None,
        },
        _ => None,
    };
    let words = attributes.iter().filter_map(line).collect::<Vec<_>>().join(" ");
    // Links of the documentation of the code lead nowhere here.
    words.replace("[`", "`").replace("`]", "`").replace("Show::", "")
}

/// The value of a word of serde, such as `rename = "x"`.
fn serde(attributes: &[Attribute], wanted: &str) -> Option<String> {
    let mut found = None;
    for attribute in attributes.iter().filter(|attribute| attribute.path().is_ident("serde")) {
        let _ = attribute.parse_nested_meta(|meta| {
            let named = meta.path.is_ident(wanted);
            let value = meta.value().ok().and_then(|value| value.parse::<Lit>().ok());
            if named {
                found = Some(match value {
                    Some(Lit::Str(text)) => text.value(),
                    _ => String::new(),
                });
            }
            Ok(())
        });
    }
    found
}

/// A type in words, with the names of tables and words that are told of elsewhere.
fn words_of(kind: &Type, names: &mut BTreeSet<String>) -> String {
    let Type::Path(path) = kind else { return "values in brackets".to_owned() };
    let Some(last) = path.path.segments.last() else { return String::new() };
    let inner = || match &last.arguments {
        syn::PathArguments::AngleBracketed(all) => all.args.iter().filter_map(|argument| match argument {
            syn::GenericArgument::Type(inner) => Some(inner.clone()),
            _ => None,
        }),
        _ => unreachable!("it has arguments"),
    };
    match last.ident.to_string().as_str() {
        "Option" | "Box" | "Arc" => inner().map(|kind| words_of(&kind, names)).collect(),
        "Vec" => format!("a list of: {}", inner().map(|kind| words_of(&kind, names)).collect::<String>()),
        "BTreeMap" | "HashMap" => {
            let last = inner().last().map(|kind| words_of(&kind, names)).unwrap_or_default();
            format!("a table of names, each with: {last}")
        }
        "String" | "CommandTemplate" => "text".to_owned(),
        "bool" => "true or false".to_owned(),
        "f32" | "f64" => "number".to_owned(),
        "u8" | "u16" | "u32" | "u64" | "usize" | "i32" | "i64" => "whole number".to_owned(),
        name => {
            names.insert(name.to_owned());
            name.to_owned()
        }
    }
}

fn cased(name: &str, rule: Option<&str>) -> String {
    let mut words = String::new();
    for (at, letter) in name.char_indices() {
        if letter.is_uppercase() && at > 0 && rule == Some("kebab-case") {
            words.push('-');
        }
        words.extend(letter.to_lowercase());
    }
    if rule.is_some() { words } else { name.to_owned() }
}

/// The types of a file, or of all files below a folder.
fn kinds(folder: &Path, found: &mut BTreeMap<String, Kind>) {
    let below = || std::fs::read_dir(folder).expect("a folder").map(|entry| entry.expect("an entry").path()).collect();
    let entries: Vec<PathBuf> = if folder.is_file() { vec![folder.to_owned()] } else { below() };
    for entry in entries {
        // Commands and events stand in a file as text.
        if entry.is_dir() && !(entry.ends_with("command") || entry.ends_with("event")) {
            kinds(&entry, found);
        }
        if entry.is_dir() || entry.ends_with("setting.rs") || entry.ends_with("part.rs") {
            continue;
        }
        let text = std::fs::read_to_string(&entry).expect("it is read");
        for item in syn::parse_file(&text).expect("it is Rust").items {
            match item {
                Item::Struct(item) => {
                    let by = serde(&item.attrs, "from").or_else(|| serde(&item.attrs, "try_from"));
                    let all = serde(&item.attrs, "default").is_some();
                    let shape = match &item.fields {
                        Fields::Named(fields) => Form::Table(
                            fields.named.iter().filter(|field| serde(&field.attrs, "skip").is_none()).map(|field| {
                                let own = field.ident.as_ref().expect("it is named").to_string();
                                let name = serde(&field.attrs, "rename").unwrap_or(own);
                                let mut names = BTreeSet::new();
                                let kind = words_of(&field.ty, &mut names);
                                let optional = matches!(&field.ty, Type::Path(path) if path.path.segments.last().is_some_and(|last| last.ident == "Option"));
                                let left = all || optional || serde(&field.attrs, "default").is_some();
                                (name.trim_start_matches("r#").to_owned(), doc(&field.attrs), kind, left)
                            }).collect(),
                        ),
                        _ => Form::Other,
                    };
                    found.insert(item.ident.to_string(), Kind { doc: doc(&item.attrs), by, shape });
                }
                Item::Enum(item) => {
                    let by = serde(&item.attrs, "from").or_else(|| serde(&item.attrs, "try_from"));
                    let rule = serde(&item.attrs, "rename_all");
                    let plain = item.variants.iter().all(|variant| matches!(variant.fields, Fields::Unit));
                    let word = |variant: &syn::Variant| {
                        let name = serde(&variant.attrs, "rename");
                        (
                            name.unwrap_or_else(|| cased(&variant.ident.to_string(), rule.as_deref())),
                            doc(&variant.attrs),
                        )
                    };
                    let shape = if plain { Form::Words(item.variants.iter().map(word).collect()) } else { Form::Other };
                    found.insert(item.ident.to_string(), Kind { doc: doc(&item.attrs), by, shape });
                }
                _ => {}
            }
        }
    }
}

/// Examples of tables that the demo does not have.
const EXAMPLES: &[(&str, &str)] = &[
    ("profiles", "[[profiles]]\nname = \"bar cell\"\nchannels = [\"red\", \"green\", \"blue\", \"white\"]\n"),
    ("regions", "[[regions]]\nname = \"the left half\"\narea = { x = 0.0, y = 0.0, width = 50.0, height = 100.0 }\n"),
    ("controls", "[[controls]]\nnumber = 1\nname = \"smoke\"\n"),
    ("programs", "[[programs]]\nname = \"doors\"\ncommand = [\"/usr/bin/true\"]\n"),
    ("values_out", "[[values_out]]\nwhat = \"master\"\nto = \"osc 127.0.0.1:9100 /level\"\n"),
];

/// The first part of the demo's file that is a table of a name.
fn example(name: &str, demo: &str) -> Option<String> {
    if let Some((_, text)) = EXAMPLES.iter().find(|(own, _)| *own == name) {
        return Some((*text).to_owned());
    }
    let heads = [format!("[[{name}]]\n"), format!("[{name}]\n")];
    let begins = heads.iter().find_map(|head| demo.find(head))?;
    let rest = &demo[begins..];
    let next = |from: usize| rest[from..].find("\n[").map(|at| from + at);
    let mut end = next(1).unwrap_or(rest.len());
    // Tables within it belong to it.
    while rest[end..].trim_start().trim_start_matches('[').starts_with(&format!("{name}.")) {
        end = next(end + 1).unwrap_or(rest.len());
    }
    let lines = rest[..end].trim_end().lines().filter(|line| !line.starts_with('#')).take(24);
    Some(lines.collect::<Vec<_>>().join("\n") + "\n")
}

fn table(name: &str, all: &BTreeMap<String, Kind>, told: &mut Vec<String>, page: &mut String) {
    let Some(kind) = all.get(name) else { return };
    // What is read out of a text has no fields of its own.
    let kind = match &kind.by {
        None => kind,
        Some(by) => match all.get(by) {
            Some(by) => by,
            None => return,
        },
    };
    match &kind.shape {
        Form::Table(fields) => {
            page.push_str("\n| field | value | |\n|---|---|---|\n");
            for (field, doc, value, left) in fields {
                let must = if *left { "" } else { " **Needed.**" };
                let _ =
                    writeln!(page, "| `{field}` | {} | {}{must} |", value.replace('|', "\\|"), doc.replace('|', "\\|"));
                for word in value.split([' ', ',', ':']).filter(|word| all.contains_key(*word)) {
                    if !told.contains(&word.to_owned()) {
                        told.push(word.to_owned());
                    }
                }
            }
        }
        Form::Words(words) => {
            page.push('\n');
            for (word, doc) in words {
                let _ = writeln!(page, "- `{word}`: {doc}");
            }
        }
        Form::Other => {}
    }
}

/// What transports say of themselves: their words, and their own fields among those of routes.
fn transports(all: &mut BTreeMap<String, Kind>) {
    let words = TransportKind::ALL.iter().map(|kind| (kind.key().to_owned(), kind.about().to_owned())).collect();
    let doc = "The kind of a transport.".to_owned();
    all.insert("TransportKind".to_owned(), Kind { doc, by: None, shape: Form::Words(words) });
    all.get_mut("Route").expect("routes").by = Some("RouteFields".to_owned());
    let Some(Form::Table(fields)) = all.get_mut("RouteFields").map(|kind| &mut kind.shape) else {
        unreachable!("a route is a table")
    };
    for field in TransportKind::ALL.iter().flat_map(|kind| kind.usual().fields()) {
        let behind = fields.iter().position(|(name, ..)| name == field.behind).expect("there is such a field");
        let kind = if field.kind == FieldKind::Flag { "true or false" } else { "whole number" };
        fields.insert(behind + 1, (field.name.to_owned(), field.about.to_owned(), kind.to_owned(), true));
    }
}

fn page() -> String {
    let demo = std::fs::read_to_string(folder("../../shows/lantern-quay.splimo")).expect("the demo");
    let mut all = BTreeMap::new();
    kinds(&folder("../show/src"), &mut all);
    kinds(&folder("../base/src/white.rs"), &mut all);
    kinds(&folder("../transport/src/destination.rs"), &mut all);
    transports(&mut all);
    let mut page = "# The show file\n\nA show is one UTF-8 TOML file, `NAME.splimo`. This page is made out of the types that read it \
        (`crates/document/tests/show_file_reference.rs`): every table with its fields, then what those hold. A field that is not needed has what is \
        usual where it is left out. Fields that this version does not know are kept and told of by `splimo check`. Effects and their parameters are \
        in [effects.md](effects.md), modulators too; colours are `#ff8800`, `orange`, `3200 K` or `{Foam}` of the palette.\n"
        .to_owned();
    let Some(Form::Table(fields)) = all.get("Show").map(|kind| &kind.shape) else { unreachable!("a show is a table") };
    page.push_str("\n## At the top\n\n| field | |\n|---|---|\n");
    let mut told: Vec<String> = Vec::new();
    for (name, doc, ..) in fields {
        let _ = writeln!(page, "| `{name}` | {doc} |");
    }
    for (name, about, value, _) in fields {
        let list = value.starts_with("a list");
        let kind = value.trim_start_matches("a list of: ");
        if !all.contains_key(kind) {
            continue;
        }
        let head = if list { format!("[[{name}]]") } else { format!("[{name}]") };
        let _ = writeln!(page, "\n## `{head}`\n\n{about}");
        if let Some(text) = example(name, &demo) {
            let _ = write!(page, "\n```toml\n{text}```\n");
        }
        if name == "settings" {
            settings(&mut page);
            continue;
        }
        table(kind, &all, &mut told, &mut page);
    }
    page.push_str("\n## What fields hold\n");
    let mut at = 0;
    while let Some(name) = told.get(at).cloned() {
        at += 1;
        let Some(kind) = all.get(&name) else { continue };
        let _ = writeln!(page, "\n### {name}\n\n{}", kind.doc);
        table(&name, &all, &mut told, &mut page);
    }
    page
}

/// The settings, which are declared as data.
fn settings(page: &mut String) {
    page.push_str("\n| field | name on the screen | |\n|---|---|---|\n");
    for setting in SETTINGS {
        let _ = writeln!(page, "| `{}` | {} | {} |", setting.key, setting.name, setting.help.replace('|', "\\|"));
    }
}

#[test]
fn the_reference_is_that_of_the_types() {
    let path = folder("../../docs/show-file.md");
    let page = page();
    if std::env::var_os("UPDATE_DOCS").is_some() {
        std::fs::write(&path, &page).expect("it is written");
    }
    let written = std::fs::read_to_string(&path).expect("docs/show-file.md");
    assert!(written == page, "docs/show-file.md is not that of the types: UPDATE_DOCS=1 writes it anew");
    for wanted in ["`[[fixtures]]`", "`[[routes]]`", "`protocol`", "### Wiring", "`[[values_out]]`"] {
        assert!(page.contains(wanted), "{wanted}");
    }
    // Every field that is told of is known by name, so that a slip finds it.
    let fields = page.lines().filter_map(|line| line.strip_prefix("| `")?.split_once('`'));
    for (field, _) in fields {
        assert!(FIELDS.contains(&field) || field_named(field).is_some(), "{field} is not among the names of fields");
    }
    // Nothing is without words.
    assert!(!page.contains("|  |\n"), "a field has no documentation");
}

#[test]
fn the_examples_are_read() {
    for (name, example) in EXAMPLES {
        let text = format!("version = 1\nname = \"x\"\n{example}");
        let opened = file::read(&text).unwrap_or_else(|why| panic!("{name}: {why}"));
        assert!(opened.warnings.is_empty(), "{name}: {:?}", opened.warnings);
    }
}
