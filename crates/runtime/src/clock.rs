//! The machine's clock, and deadlines on it.

use std::sync::OnceLock;
use std::time::Duration;

use nix::errno::Errno;
use nix::sys::time::TimeSpec;
use nix::time::{ClockId, ClockNanosleepFlags, clock_gettime, clock_nanosleep};

/// A moment on the machine's monotonic clock, in nanoseconds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Instant(i64);

impl Instant {
    /// The present.
    #[must_use]
    pub fn now() -> Self {
        // The monotonic clock is always there on the systems that this builds for.
        clock_gettime(ClockId::CLOCK_MONOTONIC).map_or(Self(0), |t| Self(t.tv_sec() * 1_000_000_000 + t.tv_nsec()))
    }

    /// A while later, or earlier for a negative number of nanoseconds.
    #[must_use]
    pub fn plus(self, nanoseconds: i64) -> Self {
        Self(self.0 + nanoseconds)
    }

    /// Nanoseconds since `earlier`.
    #[must_use]
    pub fn since(self, earlier: Self) -> i64 {
        self.0 - earlier.0
    }

    /// Seconds since `earlier`.
    #[must_use]
    pub fn seconds_since(self, earlier: Self) -> f64 {
        self.since(earlier) as f64 / 1e9
    }

    /// Sleeps until this moment, by absolute time, so that being late once does not make everything after it late.
    pub fn sleep(self) {
        let at = TimeSpec::from_duration(Duration::from_nanos(self.0.max(0) as u64));
        while clock_nanosleep(ClockId::CLOCK_MONOTONIC, ClockNanosleepFlags::TIMER_ABSTIME, &at) == Err(Errno::EINTR) {}
    }
}

/// Seconds since midnight where the machine stands. How far that is from the world's time is asked once, when it is first
/// needed, since asking may read files.
#[must_use]
pub fn time_of_day() -> Option<f64> {
    static OFFSET: OnceLock<i64> = OnceLock::new();
    let now = clock_gettime(ClockId::CLOCK_REALTIME).ok()?;
    let offset = *OFFSET.get_or_init(|| i64::from(chrono::Local::now().offset().local_minus_utc()));
    let seconds = (now.tv_sec() + offset).rem_euclid(86_400);
    Some(seconds as f64 + now.tv_nsec() as f64 / 1e9)
}

/// Deadlines in equal steps.
#[derive(Debug, Clone, Copy)]
pub struct Deadlines {
    start: Instant,
    rate: f64,
    next: u64,
    /// Late frames one after the other.
    late: u32,
    /// Frames on time after which the machine is no longer too slow; 0 where it is not.
    slow: u32,
}

impl Deadlines {
    /// The most that a deadline may be old and still be kept, in seconds.
    const OLDEST: f64 = 0.1;
    /// After so many late frames one after the other the machine is too slow, and not held up for a moment.
    const TOO_SLOW: u32 = 8;
    /// After so many frames on time it is no more.
    const RESTED: u32 = 100;
    /// The distance of deadlines from which on one may be kept half-way before its time, in nanoseconds: nodes are not sent
    /// two frames in less than half of this.
    const FAR_APART: i64 = 16_000_000;

    /// `rate` deadlines a second, the first at `start`.
    #[must_use]
    pub fn new(start: Instant, rate: f64) -> Self {
        Self { start, rate, next: 0, late: 0, slow: 0 }
    }

    /// The time between two, in nanoseconds.
    #[must_use]
    pub fn period(&self) -> i64 {
        (1e9 / self.rate) as i64
    }

    /// Half-way between a deadline and the one before it, where they are so far apart that what is heard between them would be
    /// shown late.
    #[must_use]
    pub fn half_way(&self, deadline: Instant) -> Option<Instant> {
        (self.period() >= Self::FAR_APART).then(|| deadline.plus(-self.period() / 2))
    }

    /// Has all that are still to come be so much later, in nanoseconds; earlier for a negative number.
    pub fn lean(&mut self, nanoseconds: i64) {
        self.start = self.start.plus(nanoseconds);
    }

    /// The next deadline. Where the machine held us up for a moment, the frames of that moment follow closely; those that
    /// are older than a tenth of a second, as when the machine slept, are left out: no burst of old frames follows. Where it is too slow
    /// for all of them, those that are late are left out one by one, so that the others come evenly.
    pub fn next(&mut self, now: Instant) -> Instant {
        let passed = now.since(self.start) as f64 * self.rate / 1e9;
        let behind = passed - self.next as f64;
        self.late = if behind > 1.0 { self.late + 1 } else { 0 };
        if self.late >= Self::TOO_SLOW {
            (self.late, self.slow) = (0, Self::RESTED);
        } else if behind <= 0.0 {
            self.slow = self.slow.saturating_sub(1);
        }
        if behind > (Self::OLDEST * self.rate).max(1.0) || (self.slow > 0 && behind > 0.5) {
            self.next = passed.ceil() as u64;
        }
        let deadline = self.start.plus((self.next as f64 * 1e9 / self.rate).round() as i64);
        self.next += 1;
        deadline
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The gaps between frames in milliseconds at 50 a second, on a machine on which each takes so long.
    fn gaps(frames: usize, takes: impl Fn(usize) -> i64) -> Vec<i64> {
        let start = Instant(1_000_000_000);
        let (mut deadlines, mut now) = (Deadlines::new(start, 50.0), start);
        let mut times = Vec::new();
        for frame in 0..frames {
            let deadline = deadlines.next(now);
            now = Instant(now.0.max(deadline.0));
            times.push(now.since(start) / 1_000_000);
            now = now.plus(takes(frame) * 1_000_000);
        }
        times.windows(2).map(|two| two[1] - two[0]).collect()
    }

    #[test]
    fn on_a_machine_that_is_too_slow_frames_are_left_out_evenly() {
        for takes in [23, 25, 30, 36, 50] {
            let gaps = gaps(300, |_| takes);
            assert!(gaps[80..].iter().all(|gap| (takes..=takes + 10).contains(gap)), "{takes} ms: {gaps:?}");
        }
        // One that has time again makes all of them again.
        let gaps = gaps(400, |frame| if frame < 100 { 30 } else { 2 });
        assert!(gaps[120..].iter().all(|gap| *gap == 20), "{gaps:?}");
    }

    #[test]
    fn a_moment_costs_no_frame() {
        let gaps = gaps(100, |frame| if frame == 50 { 85 } else { 2 });
        assert_eq!(gaps.iter().sum::<i64>(), 99 * 20, "as many as there were to be: {gaps:?}");
        assert!(gaps[60..].iter().all(|gap| *gap == 20), "{gaps:?}");
    }

    #[test]
    fn only_deadlines_that_are_far_apart_have_a_half_way() {
        let start = Instant(1_000_000_000);
        let half_way = |rate: f64| Deadlines::new(start, rate).half_way(start).map(|early| start.since(early));
        assert_eq!((half_way(44.0), half_way(25.0)), (Some(11_363_636), Some(20_000_000)));
        assert_eq!((half_way(100.0), half_way(66.0)), (None, None));
    }

    #[test]
    fn deadlines_do_not_drift_and_skip_what_is_past() {
        let start = Instant(1_000_000_000);
        let mut deadlines = Deadlines::new(start, 44.0);
        let mut last = start;
        for n in 0..44_000i64 {
            last = deadlines.next(last);
            assert_eq!(last.since(start), (n as f64 * 1e9 / 44.0).round() as i64);
        }
        let slept = last.plus(5_000_000_000);
        let next = deadlines.next(slept);
        assert!(next >= slept && next.since(slept) <= deadlines.period(), "{}", next.since(slept));
    }
}
