//! Tempo and beat from the novelty, causally: a bar-pointer model of one beat with a discrete state space, followed by its
//! forward algorithm (N. Whiteley, A. T. Cemgil and S. Godsill, "Bayesian modelling of temporal structure in musical
//! audio", ISMIR 2006; F. Krebs, S. Böck and G. Widmer, "An efficient state-space model for joint tempo and meter
//! tracking", ISMIR 2015).
//!
//! A state is a tempo (a whole number of hops a beat) and a place within the beat. Each hop every place moves on by one; at
//! the beat the tempo may change a little. The likelihood of a hop is high where its novelty suits the place. What is
//! published is read off the distribution and smoothed by a second-order loop, which gives the fraction of a hop.

use crate::HOPS_PER_SECOND;

/// The fastest tempo that is looked for, in beats a minute.
const FASTEST: f64 = 190.0;
/// The slowest tempo that is looked for, in beats a minute.
const SLOWEST: f64 = 68.0;
/// How unwilling the tempo is to change at a beat: the weight falls by e for each 1/TRANSITION of change.
const TRANSITION: f64 = 90.0;
/// The share of a beat, from its start on, in which its attack is expected.
const ATTACK: f64 = 1.0 / 12.0;
/// Prefers tempi around this one, in beats a minute, as listeners do (D. Moelants, "Preferred tempo reconsidered", 2002).
const PREFERRED: f64 = 124.0;
/// The width of that preference, in octaves.
const PREFERENCE: f64 = 0.9;
/// The share of the probability within half a beat interval's twelfth of the best state from which it is trusted fully.
const SURE: f32 = 0.75;
/// Hops that the confidence is averaged over: 1.5 s.
const CONFIDENCE_HOPS: f32 = 140.0;

/// What is known of the beat.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Beat {
    /// Beats a minute; 0 while nothing is known.
    pub bpm: f32,
    /// Position in beats, rising steadily, whole at each beat.
    pub position: f64,
    /// 0..1.
    pub confidence: f32,
}

/// Follows the beat.
#[derive(Debug, Clone)]
pub struct BeatTracker {
    /// Hops a beat of each tempo.
    intervals: Vec<usize>,
    /// Where the places of each tempo begin in `belief`.
    starts: Vec<usize>,
    belief: Vec<f32>,
    scratch: Vec<f32>,
    /// The weight of a change from each tempo (row) to each (column).
    transitions: Vec<f32>,
    arrivals: Vec<f32>,
    loop_filter: PhaseLoop,
    confidence: f32,
    strength: f32,
    contrast: Contrast,
    hops: u64,
}

impl Default for BeatTracker {
    fn default() -> Self {
        let shortest = (60.0 / FASTEST * HOPS_PER_SECOND).floor() as usize;
        let longest = (60.0 / SLOWEST * HOPS_PER_SECOND).ceil() as usize;
        let intervals: Vec<usize> = (shortest..=longest).collect();
        let mut starts = Vec::with_capacity(intervals.len());
        let mut states = 0;
        for interval in &intervals {
            starts.push(states);
            states += interval;
        }
        let transitions = transitions(&intervals);
        let mut belief = vec![0.0; states];
        for (&interval, &start) in intervals.iter().zip(&starts) {
            let weight = preference(interval) / interval as f32;
            belief[start..start + interval].fill(weight);
        }
        normalise(&mut belief);
        Self {
            scratch: vec![0.0; states],
            arrivals: vec![0.0; intervals.len()],
            belief,
            transitions,
            starts,
            intervals,
            loop_filter: PhaseLoop::default(),
            confidence: 0.0,
            strength: 0.0,
            contrast: Contrast::default(),
            hops: 0,
        }
    }
}

impl BeatTracker {
    /// Takes the novelty of a hop (0 or more, about 1 at a clear attack). Allocates nothing.
    pub fn hop(&mut self, novelty: f32) -> Beat {
        self.hops += 1;
        self.move_on();
        self.weigh(novelty.clamp(0.0, 1.0));
        normalise(&mut self.belief);
        let estimate = self.estimate();
        self.strength += (novelty.min(1.0) - self.strength) / 400.0;
        self.contrast.hop(novelty.min(1.0), estimate.phase);
        // Without any attacks the distribution stays where it was, but says nothing any more; in noise it leans
        // somewhere, but the attacks do not come where it leans.
        let sure = ((estimate.mass - 0.2) / (SURE - 0.2)).clamp(0.0, 1.0);
        let heard = if self.strength > 0.01 { sure * self.contrast.share() } else { 0.0 };
        self.confidence += (heard - self.confidence) / CONFIDENCE_HOPS;
        let (bpm, position) = self.loop_filter.hop(&estimate, self.confidence);
        let known = self.hops as f64 > 2.0 * HOPS_PER_SECOND && self.confidence > 0.1;
        Beat { bpm: if known { bpm } else { 0.0 }, position, confidence: self.confidence }
    }

    /// Every place moves on by one hop; those at the end of their beat start one of a similar tempo.
    fn move_on(&mut self) {
        let tempi = self.intervals.len();
        for (arrival, row) in self.arrivals.iter_mut().zip(self.transitions.chunks_exact(tempi)) {
            *arrival = row
                .iter()
                .zip(self.starts.iter().zip(&self.intervals))
                .map(|(weight, (start, interval))| weight * self.belief[start + interval - 1])
                .sum();
        }
        for ((&start, &interval), &arrival) in self.starts.iter().zip(&self.intervals).zip(&self.arrivals) {
            self.scratch[start] = arrival;
            self.scratch[start + 1..start + interval].copy_from_slice(&self.belief[start..start + interval - 1]);
        }
        std::mem::swap(&mut self.belief, &mut self.scratch);
    }

    /// Weighs each place by how well the novelty suits it.
    fn weigh(&mut self, novelty: f32) {
        let on_beat = 0.12 + 0.88 * novelty;
        // What is no beat is expected to be quiet, but off-beats and fills are music too.
        let off_beat = (1.0 - 0.88 * novelty).max(0.12) * 0.6;
        for (&start, &interval) in self.starts.iter().zip(&self.intervals) {
            let attack = ((interval as f64 * ATTACK).round() as usize).max(1);
            let (beat, rest) = self.belief[start..start + interval].split_at_mut(attack);
            beat.iter_mut().for_each(|b| *b *= on_beat);
            rest.iter_mut().for_each(|b| *b *= off_beat);
        }
    }

    /// The best state, refined by the mean of its neighbours.
    fn estimate(&self) -> Estimate {
        let mut best = (0, 0.0);
        for (index, (&start, &interval)) in self.starts.iter().zip(&self.intervals).enumerate() {
            let mass: f32 = self.belief[start..start + interval].iter().sum();
            if mass > best.1 {
                best = (index, mass);
            }
        }
        let near = best.0.saturating_sub(2)..(best.0 + 3).min(self.intervals.len());
        let (mut mass, mut interval_sum, mut sin, mut cos) = (0.0, 0.0, 0.0, 0.0);
        for index in near {
            let (start, interval) = (self.starts[index], self.intervals[index]);
            for (place, &belief) in self.belief[start..start + interval].iter().enumerate() {
                let angle = std::f32::consts::TAU * place as f32 / interval as f32;
                mass += belief;
                interval_sum += belief * interval as f32;
                sin += belief * angle.sin();
                cos += belief * angle.cos();
            }
        }
        let phase = (sin.atan2(cos) / std::f32::consts::TAU).rem_euclid(1.0);
        // Sure of the tempo, and sure of the phase: how far the places of these tempi agree.
        let agreement = (sin * sin + cos * cos).sqrt();
        Estimate { interval: interval_sum / mass.max(1e-9), phase, mass: agreement }
    }
}

struct Estimate {
    /// Hops a beat.
    interval: f32,
    /// Place within the beat, 0..1.
    phase: f32,
    /// How sure both are, 0..1.
    mass: f32,
}

/// How much stronger the novelty is where beats are expected than elsewhere.
#[derive(Debug, Clone, Default)]
struct Contrast {
    on: f32,
    off: f32,
}

impl Contrast {
    /// Hops that are averaged over, of either kind: about 4 s of both.
    const HOPS: f32 = 90.0;
    /// The contrast from which the music is clear.
    const CLEAR: f32 = 0.4;

    fn hop(&mut self, novelty: f32, phase: f32) {
        let near_beat = !(0.125..0.875).contains(&phase);
        let (mean, hops) = if near_beat { (&mut self.on, Self::HOPS) } else { (&mut self.off, 3.0 * Self::HOPS) };
        *mean += (novelty - *mean) / hops;
    }

    /// 0 where beats are like the rest, 1 where they are clear.
    fn share(&self) -> f32 {
        let contrast = (self.on - self.off) / (self.on + self.off).max(1e-6);
        (contrast / Self::CLEAR).clamp(0.0, 1.0)
    }
}

/// A second-order phase-locked loop (F. M. Gardner, "Phaselock techniques"): follows phase and tempo of the estimate, and
/// averages the steps of a whole hop out.
#[derive(Debug, Clone, Default)]
struct PhaseLoop {
    /// Beats a hop.
    pace: f64,
    position: f64,
    /// Hops for which the estimate has been far from the loop.
    astray: u32,
}

impl PhaseLoop {
    /// Hops after which the loop gives way to an estimate that stays elsewhere: 1 s.
    const PATIENCE: u32 = 94;

    fn hop(&mut self, estimate: &Estimate, confidence: f32) -> (f32, f64) {
        let measured = 1.0 / f64::from(estimate.interval.max(1.0));
        self.position += self.pace;
        let error = f64::from(estimate.phase) - self.position;
        let error = error - (error + 0.5).floor();
        let far = error.abs() > 0.15 || (self.pace / measured - 1.0).abs() > 0.03;
        self.astray = if far && estimate.mass > 0.4 { self.astray + 1 } else { 0 };
        if self.pace == 0.0 || confidence < 0.15 || self.astray > Self::PATIENCE {
            self.pace = measured;
            // Only ever forwards.
            self.position += error.rem_euclid(1.0);
            self.astray = 0;
        } else if estimate.mass > 0.3 {
            self.position += 0.02 * error;
            self.pace += 0.000_1 * error * 2.0;
            self.pace = self.pace.clamp(measured * 0.96, measured * 1.04);
        }
        ((self.pace * HOPS_PER_SECOND * 60.0) as f32, self.position)
    }
}

fn preference(interval: usize) -> f32 {
    let octaves = (60.0 * HOPS_PER_SECOND / interval as f64 / PREFERRED).log2() / PREFERENCE;
    (-0.5 * octaves * octaves).exp() as f32
}

/// For each tempo arrived at (row), the weight of each tempo left (column).
fn transitions(intervals: &[usize]) -> Vec<f32> {
    let tempi = intervals.len();
    let weight = |from: usize, to: usize| {
        let change = intervals[to] as f64 / intervals[from] as f64 - 1.0;
        (-TRANSITION * change.abs()).exp() * f64::from(preference(intervals[to])).powf(0.02)
    };
    let mut table = vec![0.0; tempi * tempi];
    for from in 0..tempi {
        let total: f64 = (0..tempi).map(|to| weight(from, to)).sum();
        for to in 0..tempi {
            table[to * tempi + from] = (weight(from, to) / total) as f32;
        }
    }
    table
}

fn normalise(belief: &mut [f32]) {
    let total: f32 = belief.iter().sum();
    let scale = 1.0 / total.max(f32::MIN_POSITIVE);
    // A little of everything is always possible, or a change of the music could never be found again.
    let floor = 1e-7;
    belief.iter_mut().for_each(|b| *b = (*b * scale).max(floor));
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Attacks at a tempo, each spread over the hops that a window would spread it over.
    fn clicks(bpm: f64, seconds: f64) -> impl Iterator<Item = (f64, f32)> {
        (0..(seconds * HOPS_PER_SECOND) as u64).map(move |hop| {
            let beat = hop as f64 / HOPS_PER_SECOND * bpm / 60.0;
            let since = (beat - beat.floor()) * 60.0 / bpm * HOPS_PER_SECOND;
            (
                beat,
                if since < 1.0 {
                    1.0
                } else if since < 2.0 {
                    0.5
                } else {
                    0.02
                },
            )
        })
    }

    #[test]
    fn clicks_of_any_tempo_are_found() {
        for bpm in [85.0, 100.0, 120.0, 128.0, 140.0, 174.0] {
            let mut tracker = BeatTracker::default();
            let mut last = (0.0, Beat::default());
            for (beat, novelty) in clicks(bpm, 12.0) {
                last = (beat, tracker.hop(novelty));
            }
            let (truth, beat) = last;
            assert!((f64::from(beat.bpm) / bpm - 1.0).abs() < 0.01, "{bpm} was heard as {}", beat.bpm);
            let off = beat.position - truth;
            assert!((off - off.round()).abs() < 0.08, "{bpm}: {off} beats off");
            assert!(beat.confidence > 0.5, "{bpm}: confidence {}", beat.confidence);
        }
    }

    #[test]
    fn silence_and_noise_are_not_trusted() {
        let mut tracker = BeatTracker::default();
        let mut noise = 12_345u32;
        for hop in 0..3000 {
            noise = noise.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            let novelty = if hop < 1500 { 0.0 } else { (noise >> 8) as f32 / 16_777_216.0 * 0.5 };
            let beat = tracker.hop(novelty);
            assert!(beat.confidence < 0.5, "hop {hop}: {beat:?}");
        }
    }

    #[test]
    fn the_position_never_runs_backwards() {
        let mut tracker = BeatTracker::default();
        let mut last = 0.0;
        for (_, novelty) in clicks(96.0, 8.0).chain(clicks(150.0, 12.0)).chain(clicks(120.0, 8.0)) {
            let beat = tracker.hop(novelty);
            assert!(beat.position >= last, "{beat:?} after {last}");
            last = beat.position;
        }
    }
}
