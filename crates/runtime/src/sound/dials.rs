//! Dials that can be turned while somebody listens: shared with the thread that does, which never waits for it.

use std::sync::atomic::{AtomicBool, AtomicI32, AtomicU32, AtomicU64, Ordering};

use splimo_engine::Lead;
use splimo_hear::Ears;
use splimo_show::Settings;

/// The dials.
#[derive(Debug)]
pub struct Dials {
    gain: AtomicU32,
    floor: AtomicU32,
    bands: AtomicU32,
    /// The time that bands take to rise and to fall.
    swing: [AtomicU32; 2],
    paused: AtomicBool,
    /// The way to go in a recording, in milliseconds.
    seek: AtomicI32,
    /// The place in the recording, in seconds, and the time of the session at which it began or would have; not a number where none
    /// plays, infinite where it is held. Both are numbers as their bits.
    place: AtomicU64,
    began: AtomicU64,
}

impl Default for Dials {
    fn default() -> Self {
        let usual = Ears::default();
        Self {
            gain: AtomicU32::new(1.0f32.to_bits()),
            floor: AtomicU32::new(0),
            bands: AtomicU32::new(usual.bands as u32),
            swing: usual.swing.map(|seconds| AtomicU32::new(seconds.to_bits())),
            paused: AtomicBool::new(false),
            seek: AtomicI32::new(0),
            place: AtomicU64::new(f64::NAN.to_bits()),
            began: AtomicU64::new(f64::NAN.to_bits()),
        }
    }
}

fn linear(decibels: f32) -> f32 {
    10.0f32.powf(decibels / 20.0)
}

impl Dials {
    /// Turns them to what a show says.
    pub fn follow(&self, settings: &Settings) {
        self.gain.store(linear(settings.hearing_gain).to_bits(), Ordering::Relaxed);
        let floor = if settings.hearing_floor > -90.0 { linear(settings.hearing_floor) } else { 0.0 };
        self.floor.store(floor.to_bits(), Ordering::Relaxed);
        self.bands.store(settings.hearing_bands, Ordering::Relaxed);
        for (dial, milliseconds) in self.swing.iter().zip([settings.hearing_attack_ms, settings.hearing_decay_ms]) {
            dial.store((milliseconds.max(0.0) / 1000.0).to_bits(), Ordering::Relaxed);
        }
    }

    /// The way to listen.
    #[must_use]
    pub fn ears(&self) -> Ears {
        let number = |bits: &AtomicU32| f32::from_bits(bits.load(Ordering::Relaxed));
        Ears {
            gain: number(&self.gain),
            floor: number(&self.floor),
            bands: self.bands.load(Ordering::Relaxed) as usize,
            swing: [0, 1].map(|way| number(&self.swing[way])),
        }
    }

    /// Holds a recording, or lets it go on; returns whether it is held now.
    pub fn toggle_pause(&self) -> bool {
        !self.paused.fetch_xor(true, Ordering::Relaxed)
    }

    /// True if the recording is held.
    #[must_use]
    pub fn paused(&self) -> bool {
        self.paused.load(Ordering::Relaxed)
    }

    /// Takes note of the place in the recording that the samples lead to which are heard next; none where no recording plays.
    pub(super) fn set_place(&self, seconds: Option<f64>) {
        self.place.store(seconds.unwrap_or(f64::NAN).to_bits(), Ordering::Relaxed);
        if seconds.is_none() {
            self.began.store(f64::NAN.to_bits(), Ordering::Relaxed);
        }
    }

    /// Takes note that those samples have been heard at a time of the session.
    pub(super) fn heard_at(&self, time: f64) {
        let place = f64::from_bits(self.place.load(Ordering::Relaxed));
        if !place.is_nan() {
            self.began.store((time - place).to_bits(), Ordering::Relaxed);
        }
    }

    /// Takes note that the recording is held. It goes on only with what is heard next, however soon that is asked for: until then
    /// the time at which it began is not known.
    pub(super) fn held(&self) {
        if !f64::from_bits(self.place.load(Ordering::Relaxed)).is_nan() {
            self.began.store(f64::INFINITY.to_bits(), Ordering::Relaxed);
        }
    }

    /// The place in the recording at a time of the session, and whether it goes on; nothing where none plays.
    #[must_use]
    pub fn recording(&self, time: f64) -> Option<Lead> {
        let [place, began] = [&self.place, &self.began].map(|bits| f64::from_bits(bits.load(Ordering::Relaxed)));
        if began.is_nan() {
            return None;
        }
        let runs = began.is_finite();
        Some(Lead { seconds: if runs { time - began } else { place }.max(0.0), runs })
    }

    /// Asks to go on by so many seconds.
    pub fn seek(&self, seconds: f32) {
        self.seek.fetch_add((seconds * 1000.0) as i32, Ordering::Relaxed);
    }

    /// True if it was asked for a way to go that nobody has taken yet.
    pub(super) fn is_sought(&self) -> bool {
        self.seek.load(Ordering::Relaxed) != 0
    }

    /// The way to go, in seconds, where that was asked for since the last time.
    #[must_use]
    pub fn take_seek(&self) -> Option<f64> {
        let milliseconds = self.seek.swap(0, Ordering::Relaxed);
        (milliseconds != 0).then(|| f64::from(milliseconds) / 1000.0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn decibels_become_factors_and_what_is_asked_is_taken_once() {
        let dials = Dials::default();
        dials.follow(&Settings { hearing_gain: 20.0, hearing_floor: -40.0, ..Settings::default() });
        assert!((dials.ears().gain - 10.0).abs() < 1e-4 && (dials.ears().floor - 0.01).abs() < 1e-6);
        dials.seek(10.0);
        dials.seek(-2.5);
        assert_eq!((dials.take_seek(), dials.take_seek()), (Some(7.5), None));
        assert_eq!((dials.toggle_pause(), dials.paused(), dials.toggle_pause()), (true, true, false));
    }

    #[test]
    fn a_recording_that_was_held_goes_on_where_it_was() {
        let dials = Dials::default();
        let lead = |seconds, runs| Some(Lead { seconds, runs });
        dials.held();
        assert_eq!(dials.recording(1.0), None);
        dials.set_place(Some(3.0));
        dials.heard_at(10.0);
        assert_eq!(dials.recording(10.5), lead(3.5, true));
        dials.held();
        assert_eq!(dials.recording(12.0), lead(3.0, false));
        // Asked to go on, it stands until the next of it is heard.
        dials.set_place(Some(3.25));
        assert_eq!(dials.recording(90.0), lead(3.25, false));
        dials.heard_at(90.5);
        assert_eq!(dials.recording(90.75), lead(3.5, true));
        dials.set_place(None);
        assert_eq!(dials.recording(91.0), None);
    }
}
