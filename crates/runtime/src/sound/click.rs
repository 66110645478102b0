//! Clicks at each whole second of the show, out of the machine's own sound: beside the flash of the lights
//! ([`splimo_show::LightTest::Flash`]) they let one see and hear how late light is.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::Builder;
use std::time::Duration;

use splimo_hear::SAMPLE_RATE;

use super::samples::Samples;
use super::speaker::Speaker;
use crate::clock::Instant;
use crate::trouble::Troubles;

/// The length of a click, in seconds.
const LENGTH: f64 = 0.012;
/// Its pitch, in hertz.
const PITCH: f64 = 1_900.0;
/// From how far off, in seconds, the time of the samples is set anew instead of being led there.
const ASTRAY: f64 = 0.02;

/// Clicks until it is dropped.
pub struct Clicker(Arc<AtomicBool>);

impl Clicker {
    /// Begins to click on the time line that began at `epoch`. Where there is no sound to be had, that is told as trouble and the
    /// lights flash alone.
    ///
    /// # Errors
    /// If the system gives no thread.
    pub fn start(epoch: Instant, troubles: &Troubles) -> std::io::Result<Self> {
        let stop = Arc::new(AtomicBool::new(false));
        let (stopped, troubles) = (stop.clone(), troubles.clone());
        let work = move || {
            let line = TimeLine::new(f64::from(SAMPLE_RATE));
            match Speaker::start(Clicks { epoch, line, at: 0.0, step: 0.0 }) {
                Ok(_speaker) => {
                    while !stopped.load(Ordering::Relaxed) {
                        std::thread::sleep(Duration::from_millis(20));
                    }
                }
                Err(why) => troubles.tell("click", format!("{why}; only the lights flash")),
            }
            while !stopped.load(Ordering::Relaxed) {
                std::thread::sleep(Duration::from_millis(20));
            }
            troubles.over("click");
        };
        Builder::new().name("click".into()).spawn(work)?;
        Ok(Self(stop))
    }
}

impl Drop for Clicker {
    fn drop(&mut self) {
        // Its thread is not waited for: a sound server that died may hold it.
        self.0.store(true, Ordering::Relaxed);
    }
}

/// The clicks as the sound asks for them.
struct Clicks {
    epoch: Instant,
    line: TimeLine,
    at: f64,
    step: f64,
}

impl Samples for Clicks {
    fn begin(&mut self, ahead: f64, count: usize, rate: f64) {
        (self.line.rate, self.step) = (rate, 1.0 / rate);
        self.at = self.line.next(Instant::now().seconds_since(self.epoch) + ahead, count);
    }

    fn next(&mut self) -> f32 {
        let sample = click(self.at);
        self.at += self.step;
        sample
    }
}

/// The sample of a moment of the show.
fn click(time: f64) -> f32 {
    let since = time.rem_euclid(1.0);
    if since >= LENGTH {
        return 0.0;
    }
    let fade = (1.0 - since / LENGTH).powi(2);
    (0.8 * fade * (since * PITCH * std::f64::consts::TAU).cos()) as f32
}

/// The times at which the samples of each call are heard: counted, and led by what the device says, which trembles.
struct TimeLine {
    rate: f64,
    next: Option<f64>,
}

impl TimeLine {
    fn new(rate: f64) -> Self {
        Self { rate, next: None }
    }

    /// The time at which the first of so many samples is heard, where the device says that it is at `told`.
    fn next(&mut self, told: f64, samples: usize) -> f64 {
        let counted = self.next.unwrap_or(told);
        let off = told - counted;
        let at = if off.abs() > ASTRAY { told } else { counted + 0.05 * off };
        self.next = Some(at + samples as f64 / self.rate);
        at
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_click_sounds_at_each_whole_second_however_the_calls_tremble() {
        let mut line = TimeLine::new(48_000.0);
        let mut heard = Vec::new();
        let mut before = 0.0f32;
        for call in 0..400 {
            let trembling = if call % 2 == 0 { 0.003 } else { -0.003 };
            let mut at = line.next(7.3 + f64::from(call) * 0.01 + trembling, 480);
            for _ in 0..480 {
                let now = click(at);
                if now != 0.0 && before == 0.0 {
                    heard.push(at);
                }
                before = now;
                at += 1.0 / 48_000.0;
            }
        }
        assert_eq!(heard.iter().map(|at| at.round()).collect::<Vec<_>>(), [8.0, 9.0, 10.0, 11.0]);
        assert!(heard.iter().all(|at| (at - at.round()).abs() < 0.002), "{heard:?}");
    }

    #[test]
    fn where_the_device_lost_its_place_it_is_found_again() {
        let mut line = TimeLine::new(48_000.0);
        line.next(1.0, 480);
        assert_eq!(line.next(5.0, 480), 5.0);
        assert!((line.next(5.012, 480) - 5.0101).abs() < 1e-9);
    }
}
