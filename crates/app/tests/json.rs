//! The documents of `--json` have the fields that `docs/json.md` tells of, and no others.

mod desk;

use std::path::Path;
use std::process::Command;

use serde_json::Value;

/// The document that a command prints.
fn document(arguments: &[&str]) -> Value {
    let mut command = Command::new(env!("CARGO_BIN_EXE_splimo"));
    let output = command.args(arguments).envs(desk::apart()).output().expect("it runs");
    let words = String::from_utf8_lossy(&output.stderr);
    serde_json::from_slice(&output.stdout).unwrap_or_else(|why| panic!("{arguments:?}: {why}: {words}"))
}

/// The names of all fields of a document, those within others too.
fn fields(value: &Value, found: &mut Vec<String>) {
    match value {
        Value::Object(fields_of) => {
            for (name, value) in fields_of {
                found.push(name.clone());
                fields(value, found);
            }
        }
        Value::Array(all) => all.iter().for_each(|value| fields(value, found)),
        _ => {}
    }
}

/// The part of the page below a heading.
fn part<'p>(page: &'p str, heading: &str) -> &'p str {
    let begins = page.find(&format!("\n## {heading}\n")).unwrap_or_else(|| panic!("no part {heading}"));
    let rest = &page[begins + 4..];
    &rest[..rest.find("\n## ").unwrap_or(rest.len())]
}

#[test]
fn every_field_is_told() {
    let page = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/json.md");
    let page = std::fs::read_to_string(page).expect("it is there");
    let shows = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../shows/lantern-quay.splimo");
    let show = shows.to_str().expect("a path");
    let folder = tempfile::tempdir().expect("a folder");
    let wrong = folder.path().join("wrong.splimo");
    std::fs::write(&wrong, "version = 1\nname = \"x\"\nnmae = 3\n").expect("written");
    for (heading, arguments) in [
        ("check", vec!["check", wrong.to_str().expect("a path"), "--json"]),
        ("check", vec!["check", show, "--json"]),
        ("check --machine", vec!["check", "--machine", "--json"]),
        ("run, demo --headless", vec!["demo", "--headless", "--for", "1s", "--json"]),
        ("nodes", vec!["nodes", "--seconds", "0.3", "--json"]),
        ("sessions", vec!["sessions", "--json"]),
        ("effects", vec!["effects", "--json"]),
        ("bench", vec!["bench", "--universes", "2", "--layers", "1", "--seconds", "0.5", "--json"]),
    ] {
        let document = document(&arguments);
        if document.is_object() {
            assert_eq!(document["version"], 1, "{heading}");
        }
        let mut all = Vec::new();
        fields(&document, &mut all);
        let told = part(&page, heading);
        for field in all.iter().filter(|field| *field != "version") {
            // What an effect's parameters take is told in the reference of effects.
            let known = told.contains(&format!("`{field}`")) || heading == "effects";
            assert!(known, "docs/json.md does not tell of {field} of {heading}");
        }
    }
}
