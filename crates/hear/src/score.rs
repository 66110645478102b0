//! A score: the beats, bars and parts of a whole recording, as they are heard from its start to its end.

use splimo_time::music::Section;

use crate::Listener;
use crate::strike::Striker;

/// The beats, bars and parts of a recording; times are in seconds.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Score {
    /// The times of beats.
    pub beats: Vec<f64>,
    /// The times of those that were the first of a bar.
    pub bars: Vec<f64>,
    /// The parts.
    pub parts: Vec<Part>,
}

/// A part of a recording.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Part {
    /// The time at which it begins, in seconds.
    pub start: f64,
    /// Its kind.
    pub kind: Section,
    /// The time that it took to know, in seconds.
    pub delay: f32,
}

/// A score that is being written, hop by hop.
#[derive(Debug, Clone, Default)]
pub struct Scribe {
    striker: Striker,
    score: Score,
}

impl Scribe {
    /// Takes what was heard last.
    pub fn hop(&mut self, listener: &Listener) {
        let now = listener.hearing();
        if let Some(strike) = self.striker.hop(now) {
            let time = to_ms(strike.time);
            self.score.beats.push(time);
            if strike.first {
                self.score.bars.push(time);
            }
        }
        let last = self.score.parts.last();
        if last.is_none_or(|last| last.kind != now.section) {
            let start = last.map_or(0.0, |last| to_ms(now.section_start).max(last.start));
            self.score.parts.push(Part { start, kind: now.section, delay: now.section_delay });
        }
    }

    /// The score.
    #[must_use]
    pub fn finish(self) -> Score {
        self.score
    }
}

/// Without digits that nobody measured.
fn to_ms(seconds: f64) -> f64 {
    (seconds * 1000.0).round() / 1000.0
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{HOP, SAMPLE_RATE};

    /// Clicks at 120 beats a minute, the first of four the loudest.
    fn clicks(at: usize) -> f32 {
        let beat = SAMPLE_RATE as usize / 2;
        let (count, within) = (at / beat, (at % beat) as f32 / SAMPLE_RATE as f32);
        let loud = if count.is_multiple_of(4) { 0.9 } else { 0.5 };
        loud * (within * 120.0 * std::f32::consts::TAU).sin() * (-within * 30.0).exp()
    }

    #[test]
    fn beats_of_clicks_are_where_they_are_and_the_parts_stand_in_order() {
        let (mut listener, mut scribe) = (Listener::default(), Scribe::default());
        for hop in 0..30 * SAMPLE_RATE as usize / HOP {
            let mut samples = [0.0; HOP];
            samples.iter_mut().enumerate().for_each(|(at, sample)| *sample = clicks(hop * HOP + at));
            listener.listen(&samples, |_| {});
            scribe.hop(&listener);
        }
        let score = scribe.finish();
        let late: Vec<f64> = score.beats.iter().filter(|beat| **beat > 10.0).map(|beat| beat % 0.5).collect();
        assert!(late.len() >= 36, "{} beats", late.len());
        assert!(late.iter().all(|off| off.min(0.5 - off) < 0.03), "{late:?}");
        assert!(score.bars.iter().all(|bar| score.beats.contains(bar)) && score.bars.len() >= 8);
        assert!(score.beats.is_sorted() && score.parts.is_sorted_by(|a, b| a.start <= b.start));
        assert_eq!(score.parts[0].start, 0.0);
    }
}
