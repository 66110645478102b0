//! Taps of a hand, of which some are missed, doubled or late.

use splimo_base::Seconds;

/// A pause between taps after which a new series begins, in seconds.
const PAUSE: f64 = 2.5;
/// The most that a tap may lie from where it was to come, as a share of the time between two.
const OFF: f64 = 0.18;
/// Taps that are averaged, at the most.
const MOST: usize = 8;

/// A series of taps.
#[derive(Debug, Clone, PartialEq, Default)]
pub(super) struct Taps {
    times: [Seconds; MOST],
    count: usize,
    began: Seconds,
    anchor: Option<Seconds>,
}

impl Taps {
    /// One more. The mean time between them, in seconds, from the second of a series on.
    pub(super) fn tap(&mut self, time: Seconds) -> Option<f64> {
        let last = self.count.checked_sub(1).map(|last| self.times[last % MOST]);
        if last.is_none_or(|last| time - last > PAUSE || time <= last) {
            *self = Self { began: time, ..Self::default() };
        }
        self.times[self.count % MOST] = time;
        self.count += 1;
        let interval = self.interval()?;
        if self.is_in_time(interval) {
            self.anchor = Some(time);
        }
        Some(interval)
    }

    /// Of the beats that were tapped, this far apart in seconds, the one nearest to a time is the one to count from.
    pub(super) fn count_from(&mut self, time: Seconds, apart: f64) {
        self.anchor = self.anchor.map(|anchor| anchor + ((time - anchor) / apart).round() * apart);
    }

    /// The time of the first tap of the series.
    pub(super) fn began(&self) -> Seconds {
        self.began
    }

    /// The time of the beat, once there are two taps.
    pub(super) fn anchor(&self) -> Option<Seconds> {
        self.anchor
    }

    /// The mean time between the taps, without those that are far from the median: a tap that was missed or doubled.
    fn interval(&self) -> Option<f64> {
        let kept = self.count.min(MOST);
        let mut gaps = [0.0; MOST];
        let gaps = &mut gaps[..kept.saturating_sub(1)];
        for (i, gap) in gaps.iter_mut().enumerate() {
            let nth = self.count - kept + i;
            *gap = self.times[(nth + 1) % MOST] - self.times[nth % MOST];
        }
        gaps.sort_by(f64::total_cmp);
        let median = *gaps.get(gaps.len() / 2)?;
        let good = || gaps.iter().filter(|&&gap| (gap / median - 1.0).abs() < OFF);
        Some(good().sum::<f64>() / good().count() as f64)
    }

    /// True if the last tap lies where one was to come, after the one before it or on the beat that was tapped so far: a hand
    /// that slips once does not move the beat, one that goes on elsewhere does with its second tap there.
    fn is_in_time(&self, interval: f64) -> bool {
        let [before, last] = [2, 1].map(|back| self.times[(self.count - back) % MOST]);
        let beats = |from: f64| (last - from) / interval;
        let whole = |beats: f64| (beats - beats.round()).abs() < OFF;
        let after = beats(before);
        (after > 0.5 && whole(after)) || self.anchor.is_none_or(|anchor| whole(beats(anchor)))
    }
}
