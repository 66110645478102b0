//! The strobe limit on the output, whatever the looks of the demo do.

use std::sync::Arc;

use splimo_document::file;
use splimo_engine::{Engine, Inputs};
use splimo_show::Show;
use splimo_show::command::EngineCommand;
use splimo_time::music::{Bands, Hearing};

/// Music that strikes sixteen times a second, which is as wild as it gets.
fn inputs(tick: u32) -> Inputs {
    let time = f64::from(tick) / 44.0;
    let strikes = u64::from(tick * 16 / 44);
    let struck = tick * 16 % 44 < 16;
    let hearing = Hearing {
        time,
        level: if struck { 1.0 } else { 0.05 },
        peak: if struck { 1.0 } else { 0.05 },
        bands: Bands::of(&[if struck { 1.0 } else { 0.0 }; 24]),
        onsets: strikes,
        hits: [strikes; 3],
        tempo_bpm: 180.0,
        beat: time * 3.0,
        confidence: 1.0,
        ..Hearing::SILENCE
    };
    Inputs { hearing, ..Inputs::default() }
}

/// The brightness of each light in each frame of some seconds of a look.
fn frames(show: &Arc<Show>, look: &str, seconds: u32) -> Vec<Vec<f32>> {
    let mut engine = Engine::new(show.clone());
    engine.apply(&EngineCommand::CutTo(look.to_owned()), 0.0);
    let bright = |light: &[f32; 4]| light[0].max(light[1]).max(light[2]).min(1.0);
    (0..seconds * 44)
        .map(|tick| engine.tick(f64::from(tick) / 44.0, &inputs(tick)).light.iter().map(bright).collect())
        .collect()
}

/// The frames at which more than a quarter of the lights are more than half of full brighter than at some time in the tenth of a
/// second before, each rise counted once.
fn flashes(frames: &[Vec<f32>]) -> Vec<usize> {
    let mut flashes = Vec::new();
    let mut from = 0;
    for (now, frame) in frames.iter().enumerate() {
        let before = from.max(now.saturating_sub(4))..now;
        let risen = |led: usize| before.clone().any(|at| frame[led] - frames[at][led] > 0.5);
        if (0..frame.len()).filter(|led| risen(*led)).count() * 4 > frame.len() {
            flashes.push(now);
            from = now;
        }
    }
    flashes
}

/// The most flashes within a second, less the tenth by which the measure may see one late.
fn most_in_a_second(frames: &[Vec<f32>]) -> usize {
    let flashes = flashes(frames);
    flashes.iter().map(|first| flashes.iter().filter(|at| (*first..first + 40).contains(at)).count()).max().unwrap_or(0)
}

#[test]
fn no_look_of_the_demo_flashes_more_often_than_four_times_a_second() {
    let mut show = file::read(include_str!("../../../shows/lantern-quay.splimo")).expect("a good show").show;
    show.settings.tempo = 180.0;
    assert_eq!(show.settings.strobe_limit, 4, "as shows have it");
    let mut wild = show.clone();
    wild.settings.strobe_limit = 0;
    let [show, wild] = [show, wild].map(Arc::new);
    let mut limited = Vec::new();
    for look in &show.looks {
        let most = most_in_a_second(&frames(&show, &look.name, 3));
        assert!(most <= 4, "{} flashes {most} times", look.name);
        if look.tags.iter().any(|tag| tag == "strobe") && most_in_a_second(&frames(&wild, &look.name, 3)) > 4 {
            limited.push(look.name.as_str());
        }
    }
    assert!(!limited.is_empty(), "without the limit some flash more often, or nothing was shown");
}
