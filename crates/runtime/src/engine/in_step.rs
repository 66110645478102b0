//! Frames in step with the beat. Frames that come evenly whatever the music does meet a beat anywhere: what flashes on it is
//! up to a frame late, and each time by another while, so that one flash is brighter than the next. Here the time between
//! two is stretched or pressed a little, so that a frame lies on each beat; on average there are as many as the show asks for.

/// Nanoseconds.
type Nanos = f64;

/// The time that after the beat its frame lies: a beat that is corrected a little meanwhile is still over then.
const BEHIND: Nanos = 1.5e6;
/// The most that a single step may be stretched or pressed, as a share of it.
const MOST: f64 = 0.25;
/// The most that frames may be from where they were if they came evenly, in frames: a route leaves out those that come
/// sooner than its rate allows, and a clock that is being put right may run faster than its tempo for seconds.
const FARTHEST: f64 = 0.6;
/// Frames that a beat has at least: with fewer the rate would be another one.
const LEAST: f64 = 12.0;

/// Keeps count of the frames of each beat.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct InStep {
    /// The beat that is going on, and how many frames it gets.
    beat: i64,
    frames: f64,
    /// The delay of the frames at present against even ones, in frames.
    behind: f64,
    /// The musical clock at the last frame, and how long ago that is.
    last: Option<(f64, Nanos)>,
}

impl InStep {
    /// By how much later than evenly the next frame is to come, in nanoseconds, where the musical clock stands at `beat` in
    /// the present one, at so many beats a minute; `period` is the even time between two frames.
    pub(super) fn lean(&mut self, beat: f64, bpm: f64, period: Nanos) -> i64 {
        let length = self.length(beat, 60e9 / bpm.max(1.0));
        let even = length / period;
        let wanted = if even < LEAST { 0.0 } else { self.wanted(beat - BEHIND / length, even) };
        let lean = wanted.clamp(-MOST, MOST).clamp(-FARTHEST - self.behind, FARTHEST - self.behind);
        self.behind += lean;
        self.last = Some((beat, period * (1.0 + lean)));
        (lean * period) as i64
    }

    /// The time that a beat takes as the clock runs now: its tempo says so, but while it is put right it is slower or faster.
    fn length(&self, beat: f64, nominal: Nanos) -> Nanos {
        let Some((last, elapsed)) = self.last else { return nominal };
        let advance = (beat - last) * nominal / elapsed;
        if (0.7..1.4).contains(&advance) { nominal / advance } else { nominal }
    }

    /// By how many frames the next one had to come later than evenly, from the nearest place of a frame to the next, where
    /// `place` is in beats and a beat has room for `even` frames.
    fn wanted(&mut self, place: f64, even: f64) -> f64 {
        // One that lies on the beat but for a rounding belongs to it.
        let going_on = (place + 0.02 / even).floor() as i64;
        if going_on != self.beat || self.frames == 0.0 {
            self.beat = going_on;
            self.frames = (even + self.behind).round();
        }
        let done = (place - self.beat as f64) * self.frames;
        (done.round() + 1.0 - done) * even / self.frames - 1.0
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The times of frames over some seconds of a tempo that begins at a place in the beat.
    fn frames(bpm: f64, rate: f64, seconds: f64, from: f64) -> Vec<f64> {
        let (mut step, mut time, mut times) = (InStep::default(), 0.0, Vec::new());
        while time < seconds {
            times.push(time);
            let lean = step.lean(from + time * bpm / 60.0, bpm, 1e9 / rate);
            time += 1.0 / rate + lean as f64 / 1e9;
        }
        times
    }

    #[test]
    fn after_a_moment_a_frame_lies_on_each_beat_and_none_is_lost() {
        for (bpm, rate, from) in [(127.0, 44.0, 0.3), (120.0, 44.0, 0.77), (93.4, 44.0, 0.5), (171.3, 100.0, 0.1)] {
            let times = frames(bpm, rate, 60.0, from);
            let settled: Vec<f64> = times.iter().copied().filter(|time| *time > 2.0).collect();
            let beats = (2..((58.0 * bpm / 60.0) as i64)).map(|beat| (beat as f64 - from) * 60.0 / bpm);
            for beat in beats.filter(|beat| *beat > 2.1) {
                // The first frame that is not before it.
                let late = settled.iter().map(|time| time - beat).find(|late| *late >= 0.0).expect("a frame");
                assert!(late < 2.5e-3, "{bpm} at {rate}: {:.2} ms late", late * 1e3);
            }
            let mean = (settled.len() - 1) as f64 / (settled[settled.len() - 1] - settled[0]);
            assert!((mean / rate - 1.0).abs() < 0.003, "{bpm} at {rate}: {mean} a second");
            let mut gaps = settled.windows(2).map(|two| (two[1] - two[0]) * rate);
            assert_eq!(gaps.find(|gap| !(0.93..1.07).contains(gap)), None, "{bpm} at {rate}");
        }
    }

    #[test]
    fn a_clock_that_is_put_right_does_not_make_a_route_leave_frames_out() {
        use splimo_show::{AnyTransport, TransportKind};
        use splimo_wire::burst::{Burst, Identity, Lane, Stream};

        let stream = Stream { source: 0, universe: 0, to: ([127, 0, 0, 2], 6454).into(), keep_alive: false };
        let lane = || Lane::new(AnyTransport::of(TransportKind::ArtNet), vec![stream]);
        for (bpm, faster) in [(124.0, 0.25), (124.0, 0.08), (90.0, 0.05), (171.0, 0.12), (124.0, -0.25), (140.0, 0.02)]
        {
            let lanes = [Lane { rate: 44.0, ..lane() }];
            let mut burst = Burst::new(&lanes, &Identity::default());
            let (mut step, mut time, mut beat, mut made, mut sent) = (InStep::default(), 0.0, 0.37, 0u32, 0u32);
            while time < 30.0 {
                made += 1;
                sent += burst.prepare(&[0; 512], time, false) as u32;
                let next = 1.0 / 44.0 + step.lean(beat, bpm, 1e9 / 44.0) as f64 / 1e9;
                // From the fifth second on it is put right every now and then.
                let hurry = if time > 5.0 && time % 5.0 < 3.0 { 1.0 + faster } else { 1.0 };
                (time, beat) = (time + next, beat + next * bpm / 60.0 * hurry);
            }
            assert_eq!(sent, made, "{bpm} beats a minute, {faster} faster");
            assert!((f64::from(made) - 30.0 * 44.0).abs() < 2.0, "{made} frames at {bpm}");
        }
    }

    #[test]
    fn where_a_beat_has_few_frames_they_come_evenly() {
        assert!(frames(180.0, 20.0, 5.0, 0.4).windows(2).all(|two| (two[1] - two[0] - 0.05).abs() < 1e-9));
    }
}
