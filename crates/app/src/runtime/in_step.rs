//! Frames in step with the beat. Frames that come evenly whatever the music does meet a beat anywhere: what flashes on it is
//! up to a frame late, and each time by another while, so that one flash is brighter than the next. Here the time between
//! two is stretched or pressed a little, so that a frame lies on each beat; on average there are as many as the show asks for.

/// Nanoseconds.
type Nanos = f64;

/// How long after the beat its frame lies: a beat that is corrected a little meanwhile is still over then.
const BEHIND: Nanos = 1.5e6;
/// How far a single step may be stretched or pressed, as a share of it.
const MOST: f64 = 0.25;
/// Frames that a beat has at least: with fewer the rate would be another one.
const LEAST: f64 = 12.0;

/// Keeps count of the frames of each beat.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct InStep {
    /// The beat that is going on, and how many frames it gets.
    beat: i64,
    frames: f64,
    /// How many frames the beats before were short of: half a one at the most.
    short: f64,
}

impl InStep {
    /// By how much later than evenly the next frame is to come, in nanoseconds, where the musical clock stands at `beat` in
    /// the present one, at so many beats a minute; `period` is the even time between two frames.
    pub(super) fn lean(&mut self, beat: f64, bpm: f64, period: Nanos) -> i64 {
        let length = 60e9 / bpm.max(1.0);
        let even = length / period;
        if even < LEAST {
            return 0;
        }
        let place = beat - BEHIND / length;
        let going_on = place.floor() as i64;
        if going_on != self.beat || self.frames == 0.0 {
            self.beat = going_on;
            self.frames = (even + self.short).round();
            self.short += even - self.frames;
        }
        let done = (place - place.floor()) * self.frames;
        // From the nearest place of a frame to the next.
        let wanted = (done.round() + 1.0 - done) * length / self.frames;
        (wanted - period).clamp(-MOST * period, MOST * period) as i64
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
            let gaps: Vec<f64> = settled.windows(2).map(|two| (two[1] - two[0]) * rate).collect();
            assert!(gaps.iter().all(|gap| (0.93..1.07).contains(gap)), "{bpm} at {rate}: {gaps:?}");
        }
    }

    #[test]
    fn where_a_beat_has_few_frames_they_come_evenly() {
        assert!(frames(180.0, 20.0, 5.0, 0.4).windows(2).all(|two| (two[1] - two[0] - 0.05).abs() < 1e-9));
    }
}
