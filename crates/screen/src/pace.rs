//! The pace of drawing: how soon the next screen may be drawn, so that no more goes to the terminal than its line takes, and
//! nothing queues up on the way.

use std::time::{Duration, Instant};

/// The time between two screens at the least.
const FASTEST: Duration = Duration::from_millis(45);
/// The most that goes to a terminal where nothing is known of its line, in bytes a second.
const USUAL: f64 = 240_000.0;
/// The same where the line is to be spared.
const SPARING: f64 = 24_000.0;
/// The most that may go at once beyond that, in seconds' worth.
const AHEAD: f64 = 0.25;
/// Writing that takes longer than this has to wait for the line.
const WAITS: Duration = Duration::from_millis(60);
/// The number of screens in a row the line has to keep waiting until it counts as slow.
const SLOW: u32 = 3;
/// The share of what a slow line took that is sent over it.
const SHARE: f64 = 0.6;
/// The least that is sent, in bytes a second, so that something is seen at all.
const LEAST: f64 = 4_000.0;

/// The pace of drawing.
#[derive(Debug, Clone)]
pub(crate) struct Pace {
    /// Bytes a second that may go.
    budget: f64,
    /// Bytes that may go now; below zero they have gone already.
    credit: f64,
    at: Instant,
    drawn: Instant,
    waited: u32,
    sparing: bool,
}

impl Pace {
    pub(crate) fn new(now: Instant) -> Self {
        Self { budget: USUAL, credit: USUAL * AHEAD, at: now, drawn: now - FASTEST, waited: 0, sparing: false }
    }

    /// True if colours are to be coarse and changes few.
    pub(crate) fn is_sparing(&self) -> bool {
        self.budget < USUAL
    }

    /// Spares the line from now on, or uses it as it takes.
    pub(crate) fn spare(&mut self, sparing: bool) {
        if self.sparing != sparing {
            (self.sparing, self.budget) = (sparing, if sparing { SPARING } else { USUAL });
            self.credit = self.credit.min(0.0);
        }
    }

    fn earn(&mut self, now: Instant) {
        let seconds = now.saturating_duration_since(self.at).as_secs_f64();
        self.credit = (self.credit + self.budget * seconds).min(self.budget * AHEAD);
        self.at = now;
    }

    /// The time that the next screen has to wait. One that shows what a person has just done may come a little sooner.
    pub(crate) fn wait(&mut self, now: Instant, urgent: bool) -> Duration {
        self.earn(now);
        let since = now.saturating_duration_since(self.drawn);
        let apart = FASTEST.saturating_sub(since);
        let floor = if urgent { -self.budget * AHEAD } else { 0.0 };
        let owed = Duration::from_secs_f64(((floor - self.credit) / self.budget).clamp(0.0, 10.0));
        apart.max(owed)
    }

    /// Takes note of a screen that begins to be drawn.
    pub(crate) fn draws(&mut self, now: Instant) {
        self.drawn = now;
    }

    /// Takes note of what a screen took: bytes, and the time until they were taken.
    pub(crate) fn took(&mut self, now: Instant, bytes: usize, time: Duration) {
        self.earn(now);
        self.credit -= bytes as f64;
        if time < WAITS {
            self.waited = 0;
            return;
        }
        self.waited += 1;
        if self.waited >= SLOW {
            // So much the line takes; what was written into its buffer did not cross it yet.
            let rate = bytes as f64 / time.as_secs_f64() * SHARE;
            self.budget = self.budget.min(rate.max(LEAST));
            self.credit = self.credit.min(0.0);
            self.waited = 0;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Draws for some seconds over a line that takes so many bytes a second; each screen has so many bytes. Returns bytes a
    /// second at the end, and the longest that a write waited in the last half.
    fn drawn(line: f64, screen: usize, seconds: f64, sparing: bool) -> (f64, f64) {
        let start = Instant::now();
        let mut pace = Pace::new(start);
        pace.spare(sparing);
        let (mut now, mut sent, mut longest) = (start, 0.0f64, 0.0f64);
        let at = |now: Instant| now.duration_since(start).as_secs_f64();
        // The line has a buffer that takes 64 kB at once.
        let mut buffered = 0.0f64;
        let mut last = start;
        while at(now) < seconds {
            now += pace.wait(now, false);
            buffered = (buffered - line * now.duration_since(last).as_secs_f64()).max(0.0);
            last = now;
            pace.draws(now);
            let blocked = ((buffered + screen as f64 - 65_536.0) / line).max(0.0);
            buffered += screen as f64;
            now += Duration::from_secs_f64(blocked + 0.001);
            pace.took(now, screen, Duration::from_secs_f64(blocked));
            if at(now) > seconds / 2.0 {
                sent += screen as f64;
                longest = longest.max(blocked);
            }
        }
        (sent / (seconds / 2.0), longest)
    }

    #[test]
    fn a_fast_line_gets_every_screen_and_no_more_than_the_budget() {
        let (rate, _) = drawn(1e9, 2_000, 10.0, false);
        assert!((40_000.0..46_000.0).contains(&rate), "{rate}");
        let (rate, _) = drawn(1e9, 60_000, 10.0, false);
        assert!((200_000.0..260_000.0).contains(&rate), "{rate}");
    }

    #[test]
    fn a_slow_line_is_not_filled_up() {
        for line in [10_000.0, 30_000.0, 100_000.0] {
            let (rate, longest) = drawn(line, 9_000, 60.0, false);
            assert!(rate <= line * 0.9 && longest < 0.06, "{line}: {rate} a second, waits of {longest} s");
        }
    }

    #[test]
    fn a_line_that_is_to_be_spared_is() {
        let (rate, _) = drawn(1e9, 9_000, 20.0, true);
        assert!(rate < 30_000.0, "{rate}");
    }

    #[test]
    fn what_a_person_did_is_shown_sooner() {
        let start = Instant::now();
        let mut pace = Pace::new(start);
        pace.took(start, 90_000, Duration::ZERO);
        let later = start + FASTEST;
        assert!(pace.wait(later, false) > pace.wait(later, true));
        assert_eq!(pace.wait(later, true), Duration::ZERO);
    }
}
