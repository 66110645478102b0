//! The hearing of recordings, by the real program: made music as files of many kinds, and what is no recording.

mod desk;

use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::{Command, Output, Stdio};

use serde_json::Value;
use splimo_corpus::measure::{after, f_measure};
use splimo_corpus::{Piece, flac, piece, style, wav};

fn splimo(arguments: &[&str]) -> Output {
    let mut command = Command::new(env!("CARGO_BIN_EXE_splimo"));
    command.args(arguments).envs(desk::apart()).output().expect("it runs")
}

fn hear(path: &Path) -> Value {
    let output = splimo(&["hear", path.to_str().expect("a name"), "--json"]);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    serde_json::from_slice(&output.stdout).expect("one JSON document and nothing else")
}

fn numbers(value: &Value) -> Vec<f64> {
    value.as_array().expect("a list").iter().filter_map(Value::as_f64).collect()
}

fn disco() -> Piece {
    piece(style::find("disco").expect("a style"), 30.0, 1)
}

fn written(folder: &Path, name: &str, bytes: &[u8]) -> PathBuf {
    let path = folder.join(name);
    std::fs::write(&path, bytes).expect("written");
    path
}

#[test]
fn a_recording_is_told_as_the_contract_says() {
    let folder = tempfile::tempdir().expect("a folder");
    let made = disco();
    let heard = hear(&written(folder.path(), "made.wav", &wav(&made.samples, 48_000, 1)));
    let keys: Vec<&str> = heard.as_object().expect("an object").keys().map(String::as_str).collect();
    let contract = [
        "version",
        "tempo_bpm",
        "confidence",
        "beats",
        "downbeats",
        "onsets",
        "key",
        "sections",
        "tempo_track",
        "locked",
        "f0",
        "analysed_seconds",
        "cpu_seconds",
    ];
    assert_eq!(keys, contract);
    let score = f_measure(&after(&made.beats, 8.0), &after(&numbers(&heard["beats"]), 8.0), 0.07);
    assert!(score > 0.9, "{score}");
    assert_eq!(heard["locked"], true);
    assert!((heard["analysed_seconds"].as_f64().expect("a number") - 30.0).abs() < 0.1);
    let key = heard["key"].as_str().expect("a text");
    assert!(key.ends_with(" major") || key.ends_with(" minor"), "{key}");
    assert_eq!(heard["sections"][0]["start"], 0.0);
    let beats = numbers(&heard["beats"]);
    assert!(numbers(&heard["downbeats"]).iter().all(|down| beats.contains(down)), "first beats are beats");
    assert!(heard["f0"][9].as_array().is_some_and(|pair| pair.len() == 2));
}

#[test]
fn rates_and_channels_of_any_kind_are_heard_alike() {
    let folder = tempfile::tempdir().expect("a folder");
    let made = disco();
    let slow: Vec<f32> = made.samples.iter().step_by(6).copied().collect();
    let fast: Vec<f32> = made.samples.iter().take(48_000 * 20).flat_map(|s| [*s; 4]).collect();
    let wide: Vec<f32> = made.samples.iter().take(48_000 * 20).flat_map(|s| [*s; 6]).collect();
    for (name, bytes) in
        [("8k.wav", wav(&slow, 8_000, 1)), ("192k.wav", wav(&fast, 192_000, 1)), ("six.wav", wav(&wide, 48_000, 6))]
    {
        let heard = hear(&written(folder.path(), name, &bytes));
        assert!(numbers(&heard["beats"]).len() > 15, "{name}: {}", numbers(&heard["beats"]).len());
        assert!(heard["tempo_bpm"].as_f64().is_some_and(|bpm| (50.0..215.0).contains(&bpm)), "{name}");
    }
}

#[test]
fn a_recording_that_is_cut_off_is_heard_as_far_as_it_goes() {
    let folder = tempfile::tempdir().expect("a folder");
    let made = disco();
    let whole = flac(&made.samples[..48_000 * 20], 48_000);
    let heard = hear(&written(folder.path(), "whole.flac", &whole));
    assert!((heard["analysed_seconds"].as_f64().expect("a number") - 20.0).abs() < 0.1);
    let cut = hear(&written(folder.path(), "cut.flac", &whole[..whole.len() * 6 / 10]));
    assert!((cut["analysed_seconds"].as_f64().expect("a number") - 12.0).abs() < 0.3, "{}", cut["analysed_seconds"]);
    let (all, part) = (numbers(&heard["beats"]), numbers(&cut["beats"]));
    assert!(part.len() > 5 && all.starts_with(&part), "what is heard does not hang on what comes later");
}

#[test]
fn an_endless_stream_of_silence_leaves_the_tempo_alone() {
    let folder = tempfile::tempdir().expect("a folder");
    let show = written(folder.path(), "ears.splimo", b"version = 1\nname = \"Ears\"\nsettings = { tempo = 77.0 }\n");
    let show = show.to_str().expect("a name");
    let output = splimo(&["run", show, "--audio", "raw:/dev/zero,48000,2,s16", "--for", "4s", "--json"]);
    let report: Value = serde_json::from_slice(&output.stdout).expect("a report");
    assert_eq!((output.status.code(), report["tempo_bpm"].as_f64()), (Some(0), Some(77.0)));
}

#[test]
fn silence_has_no_beat_and_what_is_no_recording_is_refused() {
    let folder = tempfile::tempdir().expect("a folder");
    let heard = hear(&written(folder.path(), "silence.wav", &wav(&vec![0.0; 48_000 * 20], 48_000, 1)));
    assert_eq!((numbers(&heard["beats"]).len(), heard["locked"].clone()), (0, Value::Bool(false)));
    for (name, bytes) in [("empty.wav", &b""[..]), ("noise.flac", b"not a recording")] {
        let path = written(folder.path(), name, bytes);
        let output = splimo(&["hear", path.to_str().expect("a name")]);
        let why = String::from_utf8_lossy(&output.stderr).into_owned();
        assert!(output.status.code() == Some(1) && why.contains(name) && why.contains("WAV"), "{why}");
    }
}

#[test]
fn what_is_heard_is_drawn() {
    let folder = tempfile::tempdir().expect("a folder");
    let made = disco();
    let path = written(folder.path(), "made.wav", &wav(&made.samples, 48_000, 1));
    let out = folder.path().join("chart.svg");
    let names = [path.to_str().expect("a name"), out.to_str().expect("a name")];
    let output = splimo(&["draw", names[0], "--what", "hearing", "--out", names[1]]);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let svg = std::fs::read_to_string(&out).expect("it is there");
    assert!(svg.contains("made.wav: what is heard") && svg.matches("<line").count() > 60);
}

#[test]
fn raw_samples_are_heard_as_they_come() {
    let folder = tempfile::tempdir().expect("a folder");
    let show = written(folder.path(), "ears.splimo", b"version = 1\nname = \"Ears\"\nsettings = { tempo = 77.0 }\n");
    let mut command = Command::new(env!("CARGO_BIN_EXE_splimo"));
    command.args(["run", show.to_str().expect("a name"), "--audio", "raw:-,48000,1,f32", "--for", "12s", "--json"]);
    command.envs(desk::apart());
    let mut child = command.stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().expect("it runs");
    let mut pipe = child.stdin.take().expect("a pipe");
    let made = disco();
    let truly = 60.0 * 20.0 / (made.beats[30] - made.beats[10]);
    // In real time, as a player would; what is no number is silence.
    std::thread::spawn(move || {
        let began = std::time::Instant::now();
        for (index, hop) in made.samples.chunks(480).enumerate() {
            let mut bytes: Vec<u8> = hop.iter().flat_map(|s| s.to_le_bytes()).collect();
            bytes[..4].copy_from_slice(&f32::NAN.to_le_bytes());
            if pipe.write_all(&bytes).is_err() {
                return;
            }
            let due = std::time::Duration::from_millis(10 * index as u64);
            std::thread::sleep(due.saturating_sub(began.elapsed()));
        }
    });
    let output = child.wait_with_output().expect("it ends");
    let report: Value = serde_json::from_slice(&output.stdout).expect("a report");
    let bpm = report["tempo_bpm"].as_f64().expect("a tempo");
    let factor = (bpm / truly).log2().round().exp2();
    assert!((bpm / (truly * factor) - 1.0).abs() < 0.05, "{bpm} and {truly}");
}
