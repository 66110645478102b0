//! Two hands on one file: what somebody else writes is noticed before it is written over, and no show runs twice.

mod desk;

use std::process::Command;

use desk::Desk;

const SHOW: &str = "version = 1\nname = \"Ours\"\n# kept\n[[fixtures]]\nname = \"Bar\"\nprofile = \"rgb\"\naddress = \"1.1\"\nshape = { line = { cells = 10 } }\nx = 50.0\ny = 10.0\n";

#[test]
fn what_somebody_else_wrote_is_not_written_over_before_one_chooses() {
    let desk = Desk::new("two-hands");
    let file = desk.state.path().join("night.splimo");
    std::fs::write(&file, SHOW).expect("written");
    desk.start("", "open night.splimo --audio none");
    desk.wait("the show", |s| s.contains("Ours") && s.contains(" fps"));
    assert!(desk.splimo(&["do", "set", "tempo", "90"]).status.success());
    let theirs = SHOW.replace("x = 50.0", "x = 60.0 # theirs");
    std::fs::write(&file, &theirs).expect("written");
    desk.wait("the trouble", |s| s.contains("somebody else wrote it"));
    desk.keys(&["C-s"]);
    desk.wait("the question", |s| s.contains("two hands on one file") && s.contains("take theirs"));
    desk.keys(&["d"]);
    desk.wait("the difference", |s| s.contains("- x = 60.0 # theirs") && s.contains("+ x = 50.0"));
    assert_eq!(std::fs::read_to_string(&file).expect("it is there"), theirs, "nothing was written over");

    // Mine: theirs is kept beside it.
    desk.keys(&["m"]);
    desk.wait("its end", |s| !s.contains("two hands on one file") && !s.contains("somebody else wrote it"));
    desk.keys(&["C-s"]);
    desk.wait("saved", |s| s.contains("saved as"));
    let ours = std::fs::read_to_string(&file).expect("it is there");
    assert!(ours.contains("x = 50.0") && ours.contains("tempo = 90"), "{ours}");
    let kept = std::fs::read_to_string(desk.state.path().join("night.splimo.bak")).expect("it is there");
    assert_eq!(kept, theirs);

    // Theirs, and back with one key.
    std::fs::write(&file, ours.replace("\"Ours\"", "\"Theirs now\"")).expect("written");
    desk.wait("the trouble", |s| s.contains("somebody else wrote it"));
    desk.keys(&["C-s"]);
    desk.wait("the question", |s| s.contains("take theirs"));
    desk.keys(&["t"]);
    desk.wait("theirs", |s| s.lines().next().is_some_and(|line| line.contains("Theirs now")));
    desk.keys(&["C-z"]);
    desk.wait("ours again", |s| s.lines().next().is_some_and(|line| line.contains("Ours")));

    // A file whose folder is away is not made anew in its place.
    std::fs::rename(&file, desk.state.path().join("elsewhere")).expect("it moves");
    desk.wait("the trouble", |s| s.contains("not there any more"));
    desk.keys(&["C-s"]);
    desk.wait("the question", |s| s.contains("two hands on one file") && !s.contains("take theirs"));
    assert!(!file.exists());
    desk.keys(&["m"]);
    desk.wait("its end", |s| !s.contains("two hands on one file"));
    desk.keys(&["C-s"]);
    desk.wait("saved", |s| s.contains("saved as"));
    assert!(file.exists());
    desk.leave();
}

#[test]
fn a_show_that_runs_on_another_machine_is_not_run_here() {
    let desk = Desk::new("two-hosts");
    let file = desk.state.path().join("shared.splimo");
    std::fs::write(&file, SHOW).expect("written");
    desk.start("", "open shared.splimo --audio none");
    desk.wait("the show", |s| s.contains("Ours") && s.contains(" fps"));
    // Another machine has other sessions and the same folder.
    let elsewhere = tempfile::tempdir().expect("a folder");
    let run = || {
        Command::new(env!("CARGO_BIN_EXE_splimo"))
            .args(["run", "--for", "100ms"])
            .arg(&file)
            .env("XDG_RUNTIME_DIR", elsewhere.path())
            .env("XDG_STATE_HOME", elsewhere.path())
            .output()
            .expect("it runs")
    };
    let refused = run();
    let words = String::from_utf8_lossy(&refused.stderr).into_owned();
    assert_eq!(refused.status.code(), Some(1), "{words}");
    assert!(words.contains("runs already on ") && words.contains("as the session shared"), "{words}");
    desk.leave();
    let start = std::time::Instant::now();
    while !run().status.success() {
        assert!(start.elapsed() < desk::PATIENCE, "it is not let go");
        std::thread::sleep(std::time::Duration::from_millis(50));
    }
    let left: Vec<_> = std::fs::read_dir(desk.state.path()).expect("lists").flatten().map(|e| e.file_name()).collect();
    assert!(left.iter().all(|name| !name.to_string_lossy().ends_with(".lock")), "{left:?}");
}
