//! The command line against the real program, with real packets on loopback.

mod desk;

use std::io::Write;
use std::net::Ipv4Addr;
use std::path::{Path, PathBuf};
use std::process::{Command, Output, Stdio};
use std::time::{Duration, Instant};

use desk::send_signal;
use nix::sys::signal::Signal;
use serde_json::Value;
use splimo::standin::node::{Node, NodeSpec, report};
use splimo_runtime::sound::Set;

fn splimo(arguments: &[&str]) -> Output {
    let mut command = Command::new(env!("CARGO_BIN_EXE_splimo"));
    command.args(arguments).envs(desk::apart()).output().expect("it runs")
}

fn json(output: &Output) -> Value {
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    serde_json::from_slice(&output.stdout).expect("one JSON document and nothing else")
}

fn errors(output: &Output) -> String {
    String::from_utf8_lossy(&output.stderr).into_owned()
}

fn keys(value: &Value) -> Vec<&str> {
    value.as_object().expect("an object").keys().map(String::as_str).collect()
}

fn lantern_quay() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../shows/lantern-quay.splimo")
}

/// The demo show, sending to addresses of this test alone.
fn show_in(folder: &Path, block: u8) -> PathBuf {
    let text =
        std::fs::read_to_string(lantern_quay()).expect("it is there").replace("127.0.0.", &format!("127.82.{block}."));
    let path = folder.join("night.splimo");
    std::fs::write(&path, text).expect("writes");
    path
}

#[test]
fn every_frame_of_the_demo_arrives_at_its_nodes() {
    let report = json(&splimo(&["demo", "--headless", "--for", "4s", "--json"]));
    for key in ["frames", "fps", "late_ms", "universes", "packets", "send_errors", "tempo_bpm", "nodes", "malformed"] {
        assert!(keys(&report).contains(&key), "{key} is missing");
    }
    assert_eq!(keys(&report["late_ms"]), ["p50", "p99", "max"]);
    let frames = report["frames"].as_u64().expect("a number");
    assert!(frames > 20, "{frames} frames in 4 s");
    assert_eq!(report["universes"], 17);
    // Five universes go by sACN, and each says three times that it ends.
    assert_eq!(report["packets"].as_u64(), Some(17 * frames + 3 * 5));
    assert_eq!((&report["send_errors"], &report["malformed"]), (&0.into(), &0.into()));
    let universes: Vec<&Value> =
        report["nodes"].as_array().expect("nodes").iter().flat_map(|n| n["universes"].as_array()).flatten().collect();
    assert_eq!(universes.len(), 17);
    for universe in universes {
        assert_eq!(
            keys(universe),
            ["universe", "protocol", "frames", "fps", "lost", "reordered", "terminated", "gap_ms", "sources"]
        );
        assert_eq!(
            (universe["frames"].as_u64(), &universe["lost"], &universe["reordered"]),
            (Some(frames), &0.into(), &0.into())
        );
        let ends = if universe["protocol"] == "sacn" { 3 } else { 0 };
        assert_eq!(universe["terminated"], ends);
    }
}

#[test]
fn sigterm_ends_the_streams_and_the_program_well() {
    let folder = tempfile::tempdir().expect("a folder");
    let show = show_in(folder.path(), 1);
    let nodes = [2, 3, 4].map(|d| Node::start(NodeSpec::at(Ipv4Addr::new(127, 82, 1, d))).expect("free"));
    let mut child = Command::new(env!("CARGO_BIN_EXE_splimo"))
        .args(["run", show.to_str().expect("a path"), "--json"])
        .envs(desk::apart())
        .stdout(Stdio::piped())
        .spawn()
        .expect("it runs");
    let start = Instant::now();
    while report(&nodes).nodes.iter().any(|n| n.universes.is_empty()) {
        assert!(start.elapsed() < Duration::from_secs(30), "nothing arrives");
        std::thread::sleep(Duration::from_millis(10));
    }
    assert!(send_signal(Signal::SIGTERM, child.id()));
    assert!(child.wait().expect("ends").success());
    let start = Instant::now();
    loop {
        let report = report(&nodes);
        let sacn: Vec<_> = report.nodes.iter().flat_map(|n| &n.universes).filter(|u| u.protocol == "sacn").collect();
        if sacn.len() == 5 && sacn.iter().all(|u| u.terminated == 3) {
            break;
        }
        assert!(start.elapsed() < Duration::from_secs(10), "{report:?}");
        std::thread::sleep(Duration::from_millis(10));
    }
}

#[test]
fn a_render_is_the_same_every_time() {
    let folder = tempfile::tempdir().expect("a folder");
    let render = |name: &str, look: &str| {
        let out = folder.path().join(name);
        let output =
            splimo(&["render", "demo", "--look", look, "--seconds", "1", "--out", out.to_str().expect("a path")]);
        assert!(output.status.success(), "{}", errors(&output));
        std::fs::read(out).expect("it is there")
    };
    for look in ["Undertow", "Phosphor", "Quayside"] {
        let frames = render("a.frames", look);
        assert_eq!(frames.len(), 44 * 17 * 512);
        assert!(frames == render("b.frames", look), "{look} differs");
    }
    let still = image::load_from_memory(&render("c.png", "Tide")).expect("a picture").into_rgb8();
    assert!(still.width() >= 800 && still.pixels().any(|p| p.0[2] > 150));
    let gif = render("d.gif", "Ember Night");
    let decoder = image::codecs::gif::GifDecoder::new(std::io::Cursor::new(gif)).expect("a GIF");
    assert_eq!(image::AnimationDecoder::into_frames(decoder).count(), 22);
}

#[test]
fn what_is_wrong_is_said_with_its_mend_and_an_exit_code() {
    let folder = tempfile::tempdir().expect("a folder");
    let broken = folder.path().join("broken.splimo");
    std::fs::write(&broken, "version = 1\nname = \"Broken\"\n[canvas]\nwidth = \"wide\"\n").expect("writes");
    let path = broken.to_str().expect("a path");
    let demo = lantern_quay();
    let demo = demo.to_str().expect("a path");
    for (arguments, code, words) in [
        (vec!["run", path], 1, "line 4"),
        (vec!["run", "/nowhere.splimo"], 1, "/nowhere.splimo"),
        (vec!["run", demo, "--look", "Nope"], 1, "it has: Tide"),
        (vec!["run", demo, "--audio", "/nowhere.wav"], 1, "/nowhere.wav"),
        (vec!["run", demo, "--audio", path], 1, "WAV, AIFF, FLAC, MP3, OGG"),
        (vec!["run", demo, "--for", "soon"], 2, "30s"),
        (vec!["render", demo, "--look", "Tide", "--out", "x.mov"], 1, ".frames, .png or .gif"),
        (vec!["render", demo, "--look", "Tide", "--seconds", "0", "--out", "x.gif"], 1, "--seconds"),
        (vec!["node", "--bind", "8.8.8.8", "--seconds", "1"], 1, "cannot be a node at 8.8.8.8"),
        (vec!["bench", "--universes", "0"], 2, "universes"),
        (vec!["frobnicate"], 2, "frobnicate"),
        (vec!["check", "--machnie"], 2, "--machine"),
        (vec!["render", demo, "--look", "Tdie", "--out", "x.gif"], 1, "\"Tide\" may be meant"),
        (vec!["run", demo, "--look", "Undertwo"], 1, "\"Undertow\" may be meant"),
        (vec!["demo", "--record", "x.pcapng"], 2, "needs --headless"),
        (vec!["run", demo, "--replay", "x.pcapng", "--look", "Tide"], 2, "--look"),
        (vec!["draw", demo, "--what", "patch", "--out", "x.gdtf"], 1, "only --what remote"),
        (vec!["--log", "loud", "effects"], 2, "error, warn, info"),
        (vec!["open", demo], 1, "needs a terminal"),
    ] {
        let output = splimo(&arguments);
        assert_eq!(output.status.code(), Some(code), "{arguments:?}: {}", errors(&output));
        assert!(errors(&output).contains(words), "{arguments:?}: {}", errors(&output));
        assert!(output.stdout.is_empty(), "messages go to standard error");
    }
}

#[test]
fn a_reader_that_has_gone_is_no_failure() {
    let demo = lantern_quay();
    let demo = demo.to_str().expect("a path");
    for arguments in [
        vec!["effects"],
        vec!["effects", "--json"],
        vec!["manual"],
        vec!["completions", "zsh"],
        vec!["config"],
        vec!["do", "--help"],
        vec!["cues", demo],
        vec!["draw", demo, "--what", "patch", "--out", "-"],
        vec!["check", demo, "--json"],
    ] {
        let mut command = Command::new(env!("CARGO_BIN_EXE_splimo"));
        let command = command.args(&arguments).envs(desk::apart()).stdout(Stdio::piped()).stderr(Stdio::piped());
        let mut child = command.spawn().expect("it runs");
        drop(child.stdout.take());
        let output = child.wait_with_output().expect("it ends");
        let words = errors(&output);
        assert!(
            output.status.code() == Some(0) && !words.contains("panic"),
            "{arguments:?}: {:?} {words}",
            output.status
        );
    }
}

#[test]
fn standard_input_and_output_stand_for_files() {
    let folder = tempfile::tempdir().expect("a folder");
    let there = |name: &str| folder.path().join(name).to_string_lossy().into_owned();
    let text = std::fs::read(lantern_quay()).expect("it is there");
    let piped = |arguments: &[&str], input: &[u8]| {
        let mut command = Command::new(env!("CARGO_BIN_EXE_splimo"));
        let command = command.args(arguments).envs(desk::apart()).current_dir(folder.path());
        let mut child =
            command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().expect("it runs");
        let mut stdin = child.stdin.take().expect("it has one");
        let input = input.to_owned();
        let feeding = std::thread::spawn(move || drop(stdin.write_all(&input)));
        let output = child.wait_with_output().expect("it ends");
        feeding.join().expect("it is fed");
        output
    };
    let checked = piped(&["check", "-", "--json"], &text);
    assert_eq!(json(&checked)["show"], "standard input");
    let drawn = piped(&["draw", "-", "--what", "patch", "--out", "-"], &text);
    assert!(drawn.status.success() && drawn.stdout.starts_with(b"%PDF-1.7"), "{}", errors(&drawn));
    let rendered = piped(&["render", "-", "--look", "Tide", "--seconds", "0.2", "--as", "png", "--out", "-"], &text);
    assert!(rendered.status.success() && rendered.stdout.starts_with(b"\x89PNG"), "{}", errors(&rendered));
    assert!(errors(&rendered).contains("times as fast as it plays"), "{}", errors(&rendered));
    let sheet = piped(&["cues", "-", "--write", "-"], &text);
    assert!(sheet.status.success() && sheet.stdout.len() > 100, "{}", errors(&sheet));
    std::fs::write(there("night.splimo"), &text).expect("written");
    let read = piped(&["cues", "night.splimo", "--read", "-"], &sheet.stdout);
    assert!(read.status.success() && String::from_utf8_lossy(&read.stdout).contains("0 new cues, 0 changed"));
    let wrong = piped(&["check", "-"], b"\xff\xfe");
    assert!(
        wrong.status.code() == Some(1) && errors(&wrong).contains("standard input is not UTF-8"),
        "{}",
        errors(&wrong)
    );
    let noise = piped(&["hear", "-"], b"no sound at all");
    assert!(noise.status.code() == Some(1) && errors(&noise).contains("standard input"), "{}", errors(&noise));
}

#[test]
fn check_tells_every_problem() {
    let demo = lantern_quay();
    let good = splimo(&["check", demo.to_str().expect("a path"), "--json"]);
    assert_eq!(json(&good)["problems"], Value::Array(vec![]));
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("overlap.splimo");
    let text = std::fs::read_to_string(&demo).expect("reads").replacen("address = \"8.1\"", "address = \"7.1\"", 1);
    std::fs::write(&path, &text).expect("writes");
    let bad = splimo(&["check", path.to_str().expect("a path"), "--json"]);
    assert_eq!(bad.status.code(), Some(1));
    let report: Value = serde_json::from_slice(&bad.stdout).expect("JSON all the same");
    let problem = &report["problems"][0];
    assert_eq!(keys(problem), ["severity", "line", "place", "subject", "message", "mend"]);
    assert_eq!(problem["severity"], "error");
    let line = text.lines().position(|l| l == "name = \"Bridge\"").expect("it is there");
    assert!(problem["line"].as_u64().is_some_and(|l| l as usize > line), "{problem}");
}

#[test]
fn bench_and_effects_have_their_documents() {
    let bench = json(&splimo(&["bench", "--universes", "4", "--layers", "2", "--seconds", "0.5", "--json"]));
    let wanted = [
        "version",
        "universes",
        "leds",
        "layers",
        "tiers",
        "seconds",
        "frames",
        "fps",
        "late_ms",
        "tick_ms",
        "send_ms",
        "cpu_percent",
        "packets",
        "send_errors",
        "frame_to_kernel",
        "tiers_to_layers",
        "send_to_bare",
    ];
    assert_eq!(keys(&bench), wanted);
    assert_eq!((&bench["leds"], &bench["send_errors"]), (&680.into(), &0.into()));
    assert_eq!(bench["packets"].as_u64(), bench["frames"].as_u64().map(|f| f * 4));
    let effects = json(&splimo(&["effects", "--json"]));
    let names: Vec<_> =
        effects.as_array().expect("a list").iter().map(|e| e["name"].as_str().unwrap_or_default()).collect();
    let known: Vec<_> = splimo_light::effect::EFFECTS.iter().map(|spec| spec.name).collect();
    assert_eq!(names, known);
    assert_eq!((&effects[1]["name"], &effects[1]["params"][2]["unit"]), (&"gradient".into(), &"°".into()));
}

#[test]
fn a_node_tells_what_came() {
    let child = Command::new(env!("CARGO_BIN_EXE_splimo"))
        .args(["node", "--bind", "127.82.5.2", "--seconds", "3", "--json"])
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("it runs");
    let socket = std::net::UdpSocket::bind("127.0.0.1:0").expect("a socket");
    let mut packet = b"Art-Net\0\x00\x50\x00\x0e\x00\x00\x05\x00\x00\x02\x07\x08".to_vec();
    for sequence in 1..=100u8 {
        packet[12] = sequence;
        let _ = socket.send_to(&packet, "127.82.5.2:6454");
        let _ = socket.send_to(b"noise", "127.82.5.2:5568");
        std::thread::sleep(Duration::from_millis(20));
    }
    let report = json(&child.wait_with_output().expect("ends"));
    let universe = &report["nodes"][0]["universes"][0];
    assert_eq!((&universe["universe"], &universe["protocol"]), (&5.into(), &"art-net".into()));
    assert_eq!(universe["lost"], 0);
    assert!(universe["frames"].as_u64() > Some(10) && report["malformed"].as_u64() > Some(10), "{report}");
}

#[test]
fn a_recording_is_heard() {
    let folder = tempfile::tempdir().expect("a folder");
    let show = show_in(folder.path(), 6);
    let path = folder.path().join("set.wav");
    let mut samples = vec![0.0; 48_000 * 14];
    Set::default().fill(&mut samples);
    let mut file = std::fs::File::create(&path).expect("creates");
    let bytes: Vec<u8> = samples.iter().flat_map(|s| ((s * 32_767.0) as i16).to_le_bytes()).collect();
    let mut header = b"RIFF".to_vec();
    header.extend((36 + bytes.len() as u32).to_le_bytes());
    header.extend(b"WAVEfmt \x10\0\0\0\x01\0\x01\0\x80\xbb\0\0\x00\x77\x01\0\x02\0\x10\0data");
    header.extend((bytes.len() as u32).to_le_bytes());
    file.write_all(&[header, bytes].concat()).expect("writes");
    let arguments =
        ["run", show.to_str().expect("a path"), "--for", "12s", "--audio", path.to_str().expect("a path"), "--json"];
    let tempo = json(&splimo(&arguments))["tempo_bpm"].as_f64().expect("a number");
    assert!((tempo - 124.0).abs() < 1.5, "{tempo}");
}

#[test]
fn drawings_have_as_many_pages_as_they_need() {
    let folder = tempfile::tempdir().expect("a folder");
    let show = concat!(env!("CARGO_MANIFEST_DIR"), "/../../shows/lantern-quay.splimo");
    let draw = |what: &str, out: &str| {
        let out = folder.path().join(out);
        let mut command = Command::new(env!("CARGO_BIN_EXE_splimo"));
        command.args(["draw", show, "--what", what, "--out"]).arg(&out).output().expect("runs")
    };
    assert!(draw("wiring", "wiring.pdf").status.success());
    let pdf = std::fs::read(folder.path().join("wiring.pdf")).expect("a file");
    assert!(pdf.starts_with(b"%PDF-1.7"));
    assert!(draw("patch", "patch.svg").status.success());
    let first = std::fs::read_to_string(folder.path().join("patch-1.svg")).expect("a page");
    assert!(first.contains("universe 1<") && first.contains("page 1 of"));
    assert!(draw("signal", "signal.svg").status.success());
    let signal = std::fs::read_to_string(folder.path().join("signal.svg")).expect("a page");
    assert!(signal.contains("127.0.0.4") && signal.contains("Art-Net 0:1:0 to 0:1:4"));
    let wrong = draw("wiring", "wiring.txt");
    assert_eq!(wrong.status.code(), Some(1));
    assert!(String::from_utf8_lossy(&wrong.stderr).contains(".svg or .pdf"));
    assert_eq!(draw("soup", "x.pdf").status.code(), Some(2));
}

#[test]
fn a_program_that_was_stopped_for_a_while_sends_no_old_frames() {
    let folder = tempfile::tempdir().expect("a folder");
    let show = show_in(folder.path(), 8);
    let mut command = Command::new(env!("CARGO_BIN_EXE_splimo"));
    command.envs(desk::apart());
    let child = command.args(["run", show.to_str().expect("a path"), "--for", "4s", "--json"]).stdout(Stdio::piped());
    let child = child.stderr(Stdio::null()).spawn().expect("it starts");
    std::thread::sleep(Duration::from_secs(1));
    assert!(send_signal(Signal::SIGSTOP, child.id()));
    std::thread::sleep(Duration::from_secs(2));
    assert!(send_signal(Signal::SIGCONT, child.id()));
    let report = json(&child.wait_with_output().expect("ends"));
    // Four seconds less two, and a tenth of a second of frames that may be made up.
    let frames = report["frames"].as_u64().expect("a number");
    assert!(frames <= 44 * 2 + 15, "{frames} frames");
}

#[test]
fn cue_lists_go_out_as_sheets_and_come_back_with_the_lines_that_fail_told() {
    let folder = tempfile::tempdir().expect("a folder");
    let (show, sheet) = (folder.path().join("quay.splimo"), folder.path().join("opening.csv"));
    std::fs::write(&show, splimo_runtime::files::LANTERN_QUAY).expect("written");
    let cues = |arguments: &[&str]| {
        let mut command = Command::new(env!("CARGO_BIN_EXE_splimo"));
        command.envs(desk::apart()).arg("cues").arg(&show).args(arguments).output().expect("it runs")
    };
    let path = sheet.to_str().expect("a path");
    assert!(cues(&["--list", "Opening", "--write", path]).status.success());
    let text = std::fs::read_to_string(&sheet).expect("it is there");
    assert!(text.contains("First song") && text.lines().count() == 13, "{text}");
    let read = cues(&["--read", path]);
    assert!(read.status.success());
    assert!(String::from_utf8_lossy(&read.stdout).contains("0 new cues, 0 changed, 12 the same, 0 go; 0 lines fail"));
    // One cue has another name, and one a look that is not there.
    let changed = text.replace("First song", "Second song").replace("Quayside", "Seaside");
    std::fs::write(&sheet, changed).expect("written");
    let before = std::fs::read(&show).expect("it is there");
    let read = cues(&["--read", path]);
    assert_eq!(read.status.code(), Some(1));
    assert!(String::from_utf8_lossy(&read.stderr).contains("line 13: base: there is no look \"Seaside\""));
    assert_eq!(std::fs::read(&show).expect("it is there"), before, "nothing is kept unasked");
    cues(&["--read", path, "--keep"]);
    let kept = std::fs::read_to_string(&show).expect("it is there");
    assert!(kept.contains("Second song") && !kept.contains("Applause"), "the line that fails is left out");
    let unknown = cues(&["--list", "Encore"]);
    assert!(String::from_utf8_lossy(&unknown.stderr).contains("there is Opening"));
}
