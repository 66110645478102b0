//! Standard MIDI Files, played in as if somebody sent them: for practice, and to try bindings without the controller.

use std::path::Path;

use midly::live::LiveEvent;
use midly::{MetaMessage, MidiMessage, Smf, Timing, TrackEventKind};

use super::Follower;
use super::midi_ear::Ear;

/// The time of a quarter note in a file that says none, in microseconds.
const USUAL: f64 = 500_000.0;
/// The largest file, in bytes.
const LARGEST: u64 = 16 << 20;

/// A message at a time from the beginning, in seconds.
type Timed = (f64, Vec<u8>);

/// Plays a file from its beginning, once.
pub(super) fn play(follower: &Follower, path: &Path) {
    match read(path) {
        Ok(all) => play_all(follower, &all),
        Err(why) => follower.failed(format!("{} cannot be played: {why}", path.display())),
    }
    while !follower.stopped() {
        follower.wait(0.2);
    }
}

fn play_all(follower: &Follower, all: &[Timed]) {
    follower.well();
    let (mut ear, start) = (Ear::default(), follower.now());
    for (at, bytes) in all {
        let left = start + at - follower.now();
        if left > 0.0 {
            let whole = (left - 0.01).max(0.0);
            follower.wait(whole);
            std::thread::sleep(std::time::Duration::from_secs_f64((start + at - follower.now()).clamp(0.0, 0.02)));
        }
        if follower.stopped() {
            break;
        }
        ear.take(follower, bytes, follower.now());
    }
    ear.let_go(follower);
}

fn read(path: &Path) -> Result<Vec<Timed>, String> {
    let size = std::fs::metadata(path).map_err(|e| e.to_string())?.len();
    if size > LARGEST {
        return Err(format!("it has {size} bytes, and {LARGEST} is the most"));
    }
    let bytes = crate::files::read_bounded(path, LARGEST).map_err(|e| e.to_string())?;
    messages(&bytes)
}

/// The messages of all tracks together, with their times.
fn messages(bytes: &[u8]) -> Result<Vec<Timed>, String> {
    let file = Smf::parse(bytes).map_err(|_| "it is no Standard MIDI File".to_owned())?;
    let mut all: Vec<(u64, TrackEventKind<'_>)> = Vec::new();
    for track in &file.tracks {
        let mut tick = 0u64;
        for event in track {
            tick += u64::from(event.delta.as_int());
            all.push((tick, event.kind));
        }
    }
    all.sort_by_key(|(tick, _)| *tick);
    let mut a_tick = match file.header.timing {
        Timing::Metrical(ticks) => USUAL / 1e6 / f64::from(ticks.as_int().max(1)),
        Timing::Timecode(rate, ticks) => 1.0 / (f64::from(rate.as_f32()) * f64::from(ticks.max(1))),
    };
    let (mut time, mut last, mut timed) = (0.0, 0, Vec::new());
    for (tick, kind) in all {
        time += (tick - last) as f64 * a_tick;
        last = tick;
        match kind {
            TrackEventKind::Meta(MetaMessage::Tempo(microseconds)) => {
                if let Timing::Metrical(ticks) = file.header.timing {
                    a_tick = f64::from(microseconds.as_int()) / 1e6 / f64::from(ticks.as_int().max(1));
                }
            }
            TrackEventKind::Midi { channel, message } => timed.push((time, written(channel, message))),
            TrackEventKind::Meta(_) | TrackEventKind::SysEx(_) | TrackEventKind::Escape(_) => {}
        }
    }
    Ok(timed)
}

fn written(channel: midly::num::u4, message: MidiMessage) -> Vec<u8> {
    let mut bytes = Vec::with_capacity(3);
    // Into memory it always goes.
    let _ = LiveEvent::Midi { channel, message }.write_std(&mut bytes);
    bytes
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn tracks_are_played_together_at_the_tempo_that_they_say() {
        // One track: 96 ticks a quarter note, 120 and then 240 beats a minute; a note at each of three quarters.
        let track: &[u8] = &[
            0x00, 0x90, 60, 100, 0x60, 0x90, 61, 100, 0x00, 0xff, 0x51, 0x03, 0x03, 0xd0, 0x90, 0x60, 0x80, 61, 0,
            0x00, 0xff, 0x2f, 0x00,
        ];
        let mut bytes = b"MThd\0\0\0\x06\0\0\0\x01\0\x60MTrk\0\0\0".to_vec();
        bytes.push(track.len() as u8);
        bytes.extend(track);
        let all = messages(&bytes).expect("a file");
        let times: Vec<f64> = all.iter().map(|(at, _)| *at).collect();
        assert_eq!(times, [0.0, 0.5, 0.75]);
        assert_eq!(all[2].1, [0x80, 61, 0]);
        assert!(messages(b"RIFF").is_err());
    }

    proptest! {
        #[test]
        fn any_bytes_are_read_or_refused(bytes in proptest::collection::vec(any::<u8>(), 0..200), head: bool) {
            let mut all = if head { b"MThd\0\0\0\x06\0\0\0\x01\0\x60MTrk".to_vec() } else { Vec::new() };
            all.extend(bytes);
            if let Ok(read) = messages(&all) {
                prop_assert!(read.iter().all(|(at, _)| at.is_finite()));
            }
        }
    }
}
