//! Recordings played out of the machine's own sound, once from beginning to end.

use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::Builder;
use std::time::Duration;

use splimo_hear::{HOP, SAMPLE_RATE};

use super::file::File;
use super::samples::Samples;
use super::speaker::Speaker;
use crate::trouble::Troubles;

/// Samples that wait for the device: half a second.
const AHEAD: usize = SAMPLE_RATE as usize / 2;

/// A recording that plays until it ends, or this is dropped.
pub struct SoundPlayer {
    stop: Arc<AtomicBool>,
    ended: Arc<AtomicBool>,
}

impl SoundPlayer {
    /// Begins to play a recording.
    ///
    /// # Errors
    /// If it is none, or the system gives no thread.
    pub fn start(path: &Path, troubles: &Troubles) -> Result<Self, String> {
        let mut file = File::open(path).map_err(|e| e.to_string())?;
        let (stop, ended) = (Arc::new(AtomicBool::new(false)), Arc::new(AtomicBool::new(false)));
        let (stopped, over, troubles) = (stop.clone(), ended.clone(), troubles.clone());
        let work = move || {
            if let Err(why) = play(&mut file, &stopped) {
                troubles.tell("sound out", why);
            }
            over.store(true, Ordering::Relaxed);
        };
        Builder::new().name("sound out".into()).spawn(work).map_err(|e| e.to_string())?;
        Ok(Self { stop, ended })
    }

    /// True if it has ended.
    #[must_use]
    pub fn is_over(&self) -> bool {
        self.ended.load(Ordering::Relaxed)
    }
}

impl Drop for SoundPlayer {
    fn drop(&mut self) {
        // Its thread is not waited for: a sound server that died may hold it.
        self.stop.store(true, Ordering::Relaxed);
    }
}

fn play(file: &mut File, stop: &AtomicBool) -> Result<(), String> {
    let (mut samples, taken) = rtrb::RingBuffer::<f32>::new(AHEAD);
    let _speaker = Speaker::start(Played { samples: taken, place: 0.0, pair: [0.0; 2], step: 1.0 })?;
    let mut hop = [0.0; HOP];
    while !stop.load(Ordering::Relaxed) && file.next(&mut hop) {
        while samples.slots() < HOP && !stop.load(Ordering::Relaxed) {
            std::thread::sleep(Duration::from_millis(5));
        }
        for sample in hop {
            // There is room for all of them.
            let _ = samples.push(sample);
        }
    }
    while samples.slots() < AHEAD && !stop.load(Ordering::Relaxed) && !samples.is_abandoned() {
        std::thread::sleep(Duration::from_millis(10));
    }
    Ok(())
}

/// The samples as the sound asks for them. Between two of them it goes straight.
struct Played {
    samples: rtrb::Consumer<f32>,
    place: f64,
    pair: [f32; 2],
    step: f64,
}

impl Samples for Played {
    fn begin(&mut self, _: f64, _: usize, rate: f64) {
        self.step = f64::from(SAMPLE_RATE) / rate;
    }

    fn next(&mut self) -> f32 {
        while self.place >= 1.0 {
            self.pair = [self.pair[1], self.samples.pop().unwrap_or(0.0)];
            self.place -= 1.0;
        }
        let sample = self.pair[0] + (self.pair[1] - self.pair[0]) * self.place as f32;
        self.place += self.step;
        sample
    }
}
