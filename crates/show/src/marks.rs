//! Marks of a recording that was heard beforehand: its beats, the first beats of its bars, and its parts.

use serde::{Deserialize, Serialize};

/// The longest timeline, in its unit.
pub const LONGEST_TIMELINE: f32 = 86_400.0;
/// The most marks of each kind.
pub const MOST_MARKS: usize = 20_000;

/// A part of a recording.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct PartMark {
    /// The time at which it begins, in seconds.
    pub at: f64,
    /// Its kind, in a word.
    pub kind: String,
}

/// The marks of a recording, each kind in the order of its times, in seconds.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Marks {
    /// The name of the recording.
    pub recording: String,
    /// The beats.
    #[serde(default)]
    pub beats: Vec<f64>,
    /// The first beats of bars.
    #[serde(default)]
    pub bars: Vec<f64>,
    /// The parts.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub parts: Vec<PartMark>,
}

impl Marks {
    /// The beat that is nearest to a time; none where there is no beat.
    #[must_use]
    pub fn nearest_beat(&self, seconds: f64) -> Option<f64> {
        let behind = self.beats.partition_point(|beat| *beat < seconds);
        let near = [behind.checked_sub(1), Some(behind)].into_iter().flatten().filter_map(|at| self.beats.get(at));
        near.copied().min_by(|a, b| (a - seconds).abs().total_cmp(&(b - seconds).abs()))
    }

    /// The beat after a time, or before it for a negative `by`; none beyond the last.
    #[must_use]
    pub fn beat_beside(&self, seconds: f64, by: i32) -> Option<f64> {
        // Places of clips are rounded: a beat that lies on one is neither before nor after it.
        const SAME: f64 = 0.002;
        if by < 0 {
            self.beats.iter().rev().find(|beat| **beat < seconds - SAME).copied()
        } else {
            self.beats.iter().find(|beat| **beat > seconds + SAME).copied()
        }
    }

    /// The kind of the part that a time lies in.
    #[must_use]
    pub fn part(&self, seconds: f64) -> Option<&str> {
        let begun = self.parts.partition_point(|part| part.at <= seconds);
        Some(self.parts.get(begun.checked_sub(1)?)?.kind.as_str())
    }
}

/// The place of a time among the bars that begin at some times, in bars since the first; before it and behind the last one bars go
/// on as long as the one beside them. None where fewer than two are known.
#[must_use]
pub fn bar_at(bars: &[f64], seconds: f64) -> Option<f64> {
    if bars.len() < 2 {
        return None;
    }
    let from = bars.partition_point(|bar| *bar <= seconds).saturating_sub(1).min(bars.len() - 2);
    let length = (bars[from + 1] - bars[from]).max(1e-3);
    Some(from as f64 + (seconds - bars[from]) / length)
}

/// The time of a place among the bars that begin at some times, the other way round of [`bar_at`].
#[must_use]
pub fn time_of_bar(bars: &[f64], at: f64) -> Option<f64> {
    if bars.len() < 2 {
        return None;
    }
    let from = (at.max(0.0) as usize).min(bars.len() - 2);
    Some(bars[from] + (at - from as f64) * (bars[from + 1] - bars[from]).max(1e-3))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn marks() -> Marks {
        let part = |at: f64, kind: &str| PartMark { at, kind: kind.to_owned() };
        Marks {
            recording: "song.wav".into(),
            beats: vec![0.5, 1.0, 1.5, 2.0, 2.6],
            bars: vec![0.5, 2.6, 4.6],
            parts: vec![part(0.0, "intro"), part(2.6, "drop")],
        }
    }

    #[test]
    fn beats_are_found_beside_a_time() {
        let marks = marks();
        assert_eq!(marks.nearest_beat(0.0), Some(0.5));
        assert_eq!(marks.nearest_beat(1.2), Some(1.0));
        assert_eq!(marks.nearest_beat(90.0), Some(2.6));
        assert_eq!(Marks::default().nearest_beat(1.0), None);
        assert_eq!((marks.beat_beside(1.0, 1), marks.beat_beside(1.0005, -1)), (Some(1.5), Some(0.5)));
        assert_eq!((marks.beat_beside(2.6, 1), marks.beat_beside(0.5, -1)), (None, None));
        assert_eq!(
            (marks.part(2.59), marks.part(2.6), Marks::default().part(1.0)),
            (Some("intro"), Some("drop"), None)
        );
    }

    #[test]
    fn bars_are_counted_from_the_first() {
        let bars = marks().bars;
        assert_eq!(bar_at(&bars, 2.6), Some(1.0));
        assert!((bar_at(&bars, 0.5 - 1.05).expect("bars") + 0.5).abs() < 1e-9);
        assert!((bar_at(&bars, 6.6).expect("bars") - 3.0).abs() < 1e-9);
        assert_eq!(bar_at(&bars[..1], 1.0), None);
    }

    proptest! {
        #[test]
        fn a_later_time_is_at_a_later_bar(steps in prop::collection::vec(0.01f64..4.0, 2..20), a in 0.0f64..60.0, b in 0.0f64..60.0) {
            let bars: Vec<f64> = steps.iter().scan(0.0, |at, step| { *at += step; Some(*at) }).collect();
            let [low, high] = [a.min(b), a.max(b)].map(|at| bar_at(&bars, at).expect("bars"));
            prop_assert!(low <= high);
            prop_assert!((time_of_bar(&bars, low).expect("bars") - a.min(b)).abs() < 1e-6);
            for (place, bar) in bars.iter().enumerate() {
                prop_assert!((bar_at(&bars, *bar).expect("bars") - place as f64).abs() < 1e-9);
            }
        }
    }
}
