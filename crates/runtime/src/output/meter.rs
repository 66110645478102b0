//! Rates and lateness, measured over a second at a time.

use splimo_base::histogram::Histogram;

use super::{OutputStatus, StreamStatus};
use crate::clock::Instant;

/// Time over which rates are measured for the screen, in seconds.
const MEASURE: f64 = 1.0;

/// Measures rates over a second at a time.
pub(super) struct Meter {
    first: Option<Instant>,
    pub(super) window: Instant,
    frames: u32,
    late: Histogram,
    counts: Vec<u32>,
    /// The time when each stream last left, and its longest gap since the window began, in nanoseconds.
    gaps: Vec<(Option<Instant>, i64)>,
    pub(super) streams: Vec<StreamStatus>,
    pub(super) fps: f32,
}

impl Meter {
    pub(super) fn new(streams: Vec<StreamStatus>) -> Self {
        Self {
            first: None,
            window: Instant::now(),
            frames: 0,
            late: Histogram::default(),
            counts: vec![0; streams.len()],
            gaps: vec![(None, 0); streams.len()],
            streams,
            fps: 0.0,
        }
    }

    /// Goes over to other streams; those that were there before keep their counts.
    pub(super) fn go_over(&mut self, mut streams: Vec<StreamStatus>) {
        let key = |s: &StreamStatus| (s.route, s.universe, s.number, s.to);
        let known: std::collections::HashMap<_, _> =
            self.streams.iter().map(|s| (key(s), (s.packets, s.rate))).collect();
        for stream in &mut streams {
            if let Some(&before) = known.get(&key(stream)) {
                (stream.packets, stream.rate) = before;
            }
        }
        self.counts = vec![0; streams.len()];
        self.gaps = vec![(None, 0); streams.len()];
        self.streams = streams;
    }

    /// Seconds since the first frame.
    pub(super) fn seconds(&mut self, deadline: Instant) -> f64 {
        deadline.seconds_since(*self.first.get_or_insert(deadline))
    }

    /// Counts a frame; true when a second is full.
    pub(super) fn count(&mut self, due: impl Iterator<Item = usize>, late: f32, deadline: Instant) -> bool {
        self.frames += 1;
        self.late.add(late);
        let left = deadline.plus((f64::from(late) * 1e6) as i64);
        for index in due {
            self.counts[index] += 1;
            let (last, longest) = &mut self.gaps[index];
            if let Some(last) = last.replace(left) {
                *longest = left.since(last).max(*longest);
            }
        }
        let seconds = deadline.seconds_since(self.window);
        if seconds < MEASURE {
            return false;
        }
        for ((stream, count), (_, gap)) in self.streams.iter_mut().zip(&mut self.counts).zip(&mut self.gaps) {
            stream.gap_ms = std::mem::take(gap) as f32 / 1e6;
            stream.packets += u64::from(*count);
            stream.rate = (f64::from(std::mem::take(count)) / seconds) as f32;
        }
        self.fps = (f64::from(std::mem::take(&mut self.frames)) / seconds) as f32;
        self.window = deadline;
        true
    }

    pub(super) fn write(&mut self, status: &mut OutputStatus) {
        status.fps = self.fps;
        status.late_ms = self.late.quantiles();
        status.streams.clone_from(&self.streams);
        self.late = Histogram::default();
    }
}
