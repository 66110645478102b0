//! A show without a screen tells what fails as it fails, in its report, and by its exit code.

mod desk;

use std::process::{Command, Output};

use desk::output::{node, route, text};
use serde_json::Value;

fn splimo(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_splimo")).args(arguments).envs(desk::apart()).output().expect("it runs")
}

#[test]
fn a_recording_that_is_cut_off_and_a_node_that_falls_silent_are_told_of() {
    let folder = tempfile::tempdir().expect("a folder");
    let there = |name: &str| folder.path().join(name).to_string_lossy().into_owned();
    let (show, recording) = (there("show.splimo"), there("night.pcapng"));
    let well = node([127, 93, 1, 7], &[7201, 7202]);
    let routes = route("Out", "art-net", 7201, &well.address().to_string(), "unchanged = \"repeat\"");
    std::fs::write(&show, text(&routes)).expect("written");
    let run = splimo(&["run", &show, "--for", "500ms", "--record", &recording, "--json"]);
    let report: Value = serde_json::from_slice(&run.stdout).expect("one JSON document");
    let failed = |report: &Value| -> Vec<String> {
        let all = report["troubles"].as_array().expect("a list").iter();
        all.map(|trouble| trouble["subject"].as_str().unwrap_or_default().to_owned()).collect()
    };
    assert_eq!(run.status.code(), Some(0), "{report}");

    let bytes = std::fs::read(&recording).expect("it is there");
    std::fs::write(&recording, &bytes[..bytes.len() - 300]).expect("written");
    let run = splimo(&["run", &show, "--replay", &recording, "--json"]);
    let report: Value = serde_json::from_slice(&run.stdout).expect("one JSON document");
    assert_eq!(run.status.code(), Some(3), "{report}");
    assert!(failed(&report).contains(&"replay".to_owned()), "{report}");
    let words = String::from_utf8_lossy(&run.stderr).into_owned();
    assert_eq!(words.matches("trouble: replay: the recording is damaged or cut off").count(), 1, "{words}");

    // A node that answered and falls silent, where the route goes to whoever asks.
    std::fs::write(&show, text(&route("Out", "art-net", 7201, "nodes", "unchanged = \"repeat\""))).expect("written");
    let running = Command::new(env!("CARGO_BIN_EXE_splimo"))
        .args(["run", &show, "--for", "20s", "--json"])
        .envs(desk::apart())
        .stdout(std::process::Stdio::piped())
        .stderr(std::process::Stdio::piped())
        .spawn()
        .expect("it runs");
    let start = std::time::Instant::now();
    while well.polls() < 1 {
        assert!(start.elapsed() < desk::PATIENCE, "nobody asks it");
        std::thread::sleep(std::time::Duration::from_millis(20));
    }
    drop(well);
    let run = running.wait_with_output().expect("it ends");
    let report: Value = serde_json::from_slice(&run.stdout).expect("one JSON document");
    let words = String::from_utf8_lossy(&run.stderr).into_owned();
    assert_eq!(run.status.code(), Some(3), "{words}");
    assert_eq!(words.matches("trouble: node 127.93.1.7: has not answered").count(), 1, "{words}");
    assert!(failed(&report).contains(&"node 127.93.1.7".to_owned()), "{report}");
}

#[test]
fn what_the_machine_does_not_give_is_told_with_how_to_grant_it() {
    let told = splimo(&["check", "--machine", "--json"]);
    let all: Value = serde_json::from_slice(&told.stdout).expect("one JSON document");
    let all = all.as_array().expect("a list");
    assert!(told.status.success() && all.len() == 6);
    assert!(all.iter().all(|one| one["granted"].as_bool() == one["mend"].as_str().map(str::is_empty)));
    let words = String::from_utf8_lossy(&splimo(&["check", "--machine"]).stdout).into_owned();
    assert!(words.contains("real-time priority") && words.contains("memory lock"), "{words}");
    assert_eq!(splimo(&["check"]).status.code(), Some(2), "neither a show nor the machine");
}

#[test]
fn what_names_hold_reaches_no_terminal_but_as_text() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("evil.splimo").to_string_lossy().into_owned();
    let evil = "\\u001B]0;mine\\u0007\\u202Egpj";
    std::fs::write(&path, text("").replace("Bar 1", evil).replace("Drift", evil)).expect("written");
    let svg = folder.path().join("rig.svg").to_string_lossy().into_owned();
    for arguments in [
        vec!["check", &path],
        vec!["run", &path, "--look", "nobody", "--for", "100ms"],
        vec!["draw", &path, "patch", "--out", &svg],
        vec!["check", &path, "--json"],
    ] {
        let output = splimo(&arguments);
        let mut words = String::from_utf8(output.stdout).expect("text") + &String::from_utf8_lossy(&output.stderr);
        if arguments[0] == "draw" {
            words += &std::fs::read_to_string(&svg).unwrap_or_default();
        }
        let bad = words.chars().find(|c| (c.is_control() && !"\n\t".contains(*c)) || *c == '\u{202e}');
        assert_eq!(bad, None, "{arguments:?}: {words:?}");
    }
}
