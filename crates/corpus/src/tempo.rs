//! Where the beats lie in time.

use crate::lot::Lot;

/// How the tempo behaves.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Motion {
    /// As a machine has it.
    Steady,
    /// As people have it: it wanders by this share.
    Human(f32),
    /// It goes evenly to this many times itself over the piece.
    Ramp(f32),
    /// It is this many times itself from the middle on, from one bar to the next.
    Jump(f32),
    /// It swings by this share, slowly, as a hand on a record does.
    Bend(f32),
}

/// The times of the beats.
#[derive(Debug, Clone, PartialEq)]
pub struct TempoMap {
    times: Vec<f64>,
}

impl TempoMap {
    /// Beats from `start` seconds on until `end`.
    #[must_use]
    pub fn new(bpm: f32, motion: Motion, bar: usize, [start, end]: [f64; 2], lot: &mut Lot) -> Self {
        let mut times = vec![start];
        let mut time = start;
        let mut wander = 0.0f32;
        let swing = f64::from(lot.range(4.0, 9.0));
        let lean = lot.range(0.0, 6.3);
        let mut jumped = false;
        while time < end + 4.0 {
            let gone = ((time - start) / (end - start).max(1.0)).clamp(0.0, 1.0) as f32;
            let share = match motion {
                Motion::Steady => 1.0,
                Motion::Human(by) => {
                    wander = wander * 0.92 + lot.bell() * by * 0.4;
                    1.0 + wander
                }
                Motion::Ramp(to) => 1.0 + (to - 1.0) * gone,
                Motion::Jump(to) => {
                    jumped |= gone > 0.5 && (times.len() - 1).is_multiple_of(bar);
                    if jumped { to } else { 1.0 }
                }
                Motion::Bend(by) => 1.0 + by * ((time / swing) as f32 * std::f32::consts::TAU + lean).sin(),
            };
            time += 60.0 / f64::from(bpm * share.clamp(0.5, 2.0));
            times.push(time);
        }
        Self { times }
    }

    /// When a beat is, counted from 0; between beats in equal parts.
    #[must_use]
    pub fn time(&self, beat: f64) -> f64 {
        let last = self.times.len() - 2;
        let whole = (beat.max(0.0).floor() as usize).min(last);
        self.times[whole] + (self.times[whole + 1] - self.times[whole]) * (beat - whole as f64)
    }

    /// The times of all beats.
    #[must_use]
    pub fn beats(&self) -> &[f64] {
        &self.times
    }
}
