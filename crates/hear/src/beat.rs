//! Tempo and beat, causally: a bar-pointer model of one beat with a discrete state space, followed by its forward algorithm
//! (N. Whiteley, A. T. Cemgil and S. Godsill, "Bayesian modelling of temporal structure in musical audio", ISMIR 2006; F.
//! Krebs, S. Böck and G. Widmer, "An efficient state-space model for joint tempo and meter tracking", ISMIR 2015), over what
//! the [`crate::network`] tells.
//!
//! A state is a tempo (a whole number of hops a beat) and a place within the beat. Each hop every place moves on by one; at
//! the beat the tempo may change a little. What is published is read off the distribution and smoothed by a second-order
//! loop, which gives the fraction of a hop.

use crate::HOPS_PER_SECOND;
use crate::breakdown::Breakdown;
use crate::network::Activations;
use crate::phase_loop::{Estimate, PhaseLoop};
use crate::steady::Steadiness;

/// The fastest tempo that is looked for, in beats a minute.
const FASTEST: f64 = 202.0;
/// The slowest tempo that is looked for, in beats a minute: a waltz at 170 is no one at 57.
const SLOWEST: f64 = 57.0;
/// The resistance of the tempo to a change at a beat: the weight falls by e for each 1/TRANSITION of change.
const TRANSITION: f64 = 90.0;
/// The places of a beat, from its start on, in which it is told: as long in slow music as in fast, or slow tempi would hold
/// more of what is told.
const ATTACK: usize = 4;
/// Prefers tempi around this one, in beats a minute, as listeners do (D. Moelants, "Preferred tempo reconsidered", 2002), though
/// slower ones than they: what the networks tell leans towards double tempo.
const PREFERRED: f64 = 100.0;
/// The width of that preference towards slower and towards faster ones, in octaves.
const PREFERENCE: [f64; 2] = [0.9, 0.9];
/// The share of it that counts anew with each hop: half tempo and double suit most music as well, and are held off by nothing
/// else.
const INSISTENCE: f32 = 0.024;
/// The share of the strongest beat told, against which all are taken, that is forgotten each hop: where the networks are
/// half-hearted about each beat and sure of nothing between, every other one would be left out otherwise. A third of it goes
/// in 10 s.
const FORGOTTEN: f32 = 0.001;
/// The hops between two fades of what was believed, and the share of its weight that goes in each: what was told half a minute
/// ago, or in the first seconds, when the networks had hardly heard anything, does not outweigh the present for long (J. Q.
/// Smith, "A generalization of the Bayesian steady forecasting model", J. R. Stat. Soc. B 41, 1979).
const FADES_EVERY: u64 = 47;
const FADES: f32 = 7e-4 * FADES_EVERY as f32;
/// The least that counts as the strongest.
const STRONGEST: f32 = 0.3;
/// The power to which what is told of a beat is taken: half beats are often told half-heartedly, and would have the tempo doubled.
const FAINT: f32 = 1.2;
/// The least that is believed of what is told, so that a single slip is forgiven.
const DOUBT: f32 = 0.15;
/// The weight with which nothing told speaks for a place between beats. With less, tempi win that are too fast; with more, too
/// slow.
const REST: f32 = 0.35;
/// The share of a beat that is not believed where only hats are heard.
const HATS: f32 = 0.5;
/// The agreement of the states near the best one from which it is trusted fully.
const SURE: f32 = 0.6;
/// The probability of music that it takes, 0..1, for anything to be sure, and for all of it: chords that beat
/// have a pulse too.
const MUSIC: [f32; 2] = [0.65, 0.85];
/// The probability of music before anything is heard.
const AT_FIRST: f32 = 0.3;
/// Hops over which it is averaged that there is music, and that there is none: it becomes thin for a few bars, and talk never
/// sounds like music for long.
const MUSIC_HOPS: [f32; 2] = [21.0, 420.0];
/// The certainty of the beat that it takes for it to be held, and the time for which its tempo has been steady, in seconds.
const HELD_FROM: f32 = 0.8;
const HELD_AFTER: f32 = 10.0;
/// The probability of music that it takes all the same: where it has ended, nothing is held.
const HELD_BY: f32 = 0.3;
/// The power by which what is told is believed while it is held, and the share of that which is one's own count.
const HELD: f32 = 0.5;
const OWN_COUNT: f32 = 0.25;
/// Hops that the confidence is averaged over: 0.45 s.
const CONFIDENCE_HOPS: f32 = 42.0;

/// The belief about the beat.
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
    /// The place in `belief` at which the places of each tempo begin.
    starts: Vec<usize>,
    /// The preference for each tempo, each hop, and where the beat is held.
    liked: Vec<f32>,
    liked_held: Vec<f32>,
    belief: Vec<f32>,
    scratch: Vec<f32>,
    /// The weight of a change from each tempo (row) to each (column).
    transitions: Vec<f32>,
    /// The belief in the last place of each tempo, and in the first one of each after it.
    ends: Vec<f32>,
    arrivals: Vec<f32>,
    loop_filter: PhaseLoop,
    strongest: f32,
    breakdown: Breakdown,
    /// The tempo and the position of the last hop.
    last: Beat,
    music: f32,
    steady: Steadiness,
    confidence: f32,
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
        let liked = |much: f32| intervals.iter().map(|interval| preference(*interval).powf(much)).collect();
        Self {
            scratch: vec![0.0; states],
            ends: vec![0.0; intervals.len()],
            arrivals: vec![0.0; intervals.len()],
            liked: liked(INSISTENCE),
            liked_held: liked(INSISTENCE * HELD),
            belief,
            transitions,
            starts,
            intervals,
            loop_filter: PhaseLoop::default(),
            strongest: STRONGEST,
            breakdown: Breakdown::default(),
            last: Beat::default(),
            music: AT_FIRST,
            steady: Steadiness::default(),
            confidence: 0.0,
            hops: 0,
        }
    }
}

impl BeatTracker {
    /// Takes what was told last, each hop. Allocates nothing.
    pub fn hop(&mut self, told: &Activations) -> Beat {
        self.hops += 1;
        self.move_on();
        let sure = self.confidence > HELD_FROM && self.steady.seconds() >= HELD_AFTER;
        let held = self.breakdown.hop(told.low.max(told.mid), sure, self.music > HELD_BY);
        if self.hops.is_multiple_of(FADES_EVERY) && !held {
            self.belief.iter_mut().for_each(|belief| *belief = belief.powf(1.0 - FADES));
        }
        // Hats alone say little of where the beat is: they stand between beats as often as on them.
        let hats_alone = (told.high - told.low.max(told.mid)).clamp(0.0, 1.0);
        let beat = told.beat * (1.0 - HATS * hats_alone);
        self.strongest = (self.strongest * (1.0 - FORGOTTEN)).max(beat).max(STRONGEST);
        let beat = beat / self.strongest;
        self.weigh(if held { beat + (self.own_count() - beat) * OWN_COUNT } else { beat }, held);
        normalise(&mut self.belief);
        let estimate = self.estimate();
        self.music += (told.music - self.music) / MUSIC_HOPS[usize::from(told.music < self.music)];
        let sure = ((estimate.agreement - 0.1) / (SURE - 0.1)).clamp(0.0, 1.0);
        let music = self.steady.hop(&estimate, sure, self.music);
        let music = ((music - MUSIC[0]) / (MUSIC[1] - MUSIC[0])).clamp(0.0, 1.0);
        self.confidence += (sure * music - self.confidence) / CONFIDENCE_HOPS;
        let (bpm, position) = self.loop_filter.hop(&estimate, self.confidence);
        self.last = Beat { bpm, position, confidence: self.confidence };
        let known = self.hops as f64 > HOPS_PER_SECOND && self.confidence > 0.1;
        Beat { bpm: if known { bpm } else { 0.0 }, position, confidence: self.confidence }
    }

    /// The value that would be told of this hop if the beat went on as it was counted last.
    fn own_count(&self) -> f32 {
        let pace = f64::from(self.last.bpm) / 60.0 / HOPS_PER_SECOND;
        let since = (self.last.position + pace).rem_euclid(1.0) / pace.max(1e-9);
        f32::from(u8::from(since < 2.0))
    }

    /// Every place moves on by one hop; those at the end of their beat start one of a similar tempo.
    fn move_on(&mut self) {
        let tempi = self.intervals.len();
        for (end, (start, interval)) in self.ends.iter_mut().zip(self.starts.iter().zip(&self.intervals)) {
            *end = self.belief[start + interval - 1];
        }
        for (arrival, row) in self.arrivals.iter_mut().zip(self.transitions.chunks_exact(tempi)) {
            *arrival = product(row, &self.ends);
        }
        for ((&start, &interval), &arrival) in self.starts.iter().zip(&self.intervals).zip(&self.arrivals) {
            self.scratch[start] = arrival;
            self.scratch[start + 1..start + interval].copy_from_slice(&self.belief[start..start + interval - 1]);
        }
        std::mem::swap(&mut self.belief, &mut self.scratch);
    }

    /// Weighs each place by how well what was told suits it; by less where the beat is held.
    fn weigh(&mut self, beat: f32, held: bool) {
        let beat = beat.clamp(0.0, 1.0).powf(FAINT);
        // What is told lasts for two hops, and is believed once.
        let (power, liked) = if held { (0.5 * HELD, &self.liked_held) } else { (0.5, &self.liked) };
        let on_beat = (DOUBT + beat).powf(power);
        let off_beat = (DOUBT + (1.0 - beat) * REST).powf(power);
        for ((&start, &interval), &liked) in self.starts.iter().zip(&self.intervals).zip(liked) {
            let (on_beat, off_beat) = (on_beat * liked, off_beat * liked);
            let (on, off) = self.belief[start..start + interval].split_at_mut(ATTACK);
            on.iter_mut().for_each(|b| *b *= on_beat);
            off.iter_mut().for_each(|b| *b *= off_beat);
        }
    }

    /// The best state, refined by the mean of its neighbours.
    fn estimate(&self) -> Estimate {
        let mut best = (0, 0.0);
        for (index, (&start, &interval)) in self.starts.iter().zip(&self.intervals).enumerate() {
            let mass: f32 = sum(&self.belief[start..start + interval]);
            if mass > best.1 {
                best = (index, mass);
            }
        }
        let near = best.0.saturating_sub(3)..(best.0 + 4).min(self.intervals.len());
        let (mut mass, mut interval_sum, mut sin, mut cos) = (0.0, 0.0, 0.0, 0.0);
        for index in near {
            let (start, interval) = (self.starts[index], self.intervals[index]);
            let turn = std::f32::consts::TAU / interval as f32;
            // Turned on from place to place, which is cheaper than a sine for each.
            let (step_sin, step_cos) = turn.sin_cos();
            let (mut s, mut c) = (0.0f32, 1.0f32);
            for &belief in &self.belief[start..start + interval] {
                mass += belief;
                interval_sum += belief * interval as f32;
                sin += belief * s;
                cos += belief * c;
                (s, c) = (s * step_cos + c * step_sin, c * step_cos - s * step_sin);
            }
        }
        let phase = (sin.atan2(cos) / std::f32::consts::TAU).rem_euclid(1.0);
        let agreement = (sin * sin + cos * cos).sqrt();
        Estimate { interval: interval_sum / mass.max(1e-9), phase, agreement }
    }
}

fn preference(interval: usize) -> f32 {
    let octaves = (60.0 * HOPS_PER_SECOND / interval as f64 / PREFERRED).log2();
    let octaves = octaves / PREFERENCE[usize::from(octaves > 0.0)];
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

/// Sums that are kept side by side, so that each need not wait for the one before: several times as fast.
const LANES: usize = 16;

fn sum(numbers: &[f32]) -> f32 {
    let (blocks, rest) = numbers.as_chunks::<LANES>();
    let mut sums = [0.0f32; LANES];
    for block in blocks {
        sums.iter_mut().zip(block).for_each(|(sum, number)| *sum += number);
    }
    sums.iter().chain(rest).sum()
}

/// The scalar product of as many numbers.
fn product(one: &[f32], other: &[f32]) -> f32 {
    let ((blocks, rest), (others, other_rest)) = (one.as_chunks::<LANES>(), other.as_chunks::<LANES>());
    let mut sums = [0.0f32; LANES];
    for (block, other) in blocks.iter().zip(others) {
        sums.iter_mut().zip(block.iter().zip(other)).for_each(|(sum, (a, b))| *sum += a * b);
    }
    sums.iter().sum::<f32>() + rest.iter().zip(other_rest).map(|(a, b)| a * b).sum::<f32>()
}

fn normalise(belief: &mut [f32]) {
    let total = sum(belief);
    if total > 0.0 && total.is_finite() {
        let scale = 1.0 / total;
        // A floor, so that nothing is ever ruled out for good.
        belief.iter_mut().for_each(|b| *b = (*b * scale).max(1e-9));
    } else {
        let even = 1.0 / belief.len().max(1) as f32;
        belief.fill(even);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The beat after some seconds of a tempo, of which each beat is told as the network does, this late in hops.
    fn followed(bpm: f64, seconds: f64, tracker: &mut BeatTracker) -> (Beat, f64) {
        let (mut beat, mut truth) = (Beat::default(), 0.0);
        for hop in 0..(seconds * HOPS_PER_SECOND) as u32 {
            truth = f64::from(hop) / HOPS_PER_SECOND * bpm / 60.0;
            let since = (truth - truth.floor()) * 60.0 / bpm * HOPS_PER_SECOND;
            // Less sure in the views beside the one in which it is told.
            let beside = since < 4.0 || since > 60.0 / bpm * HOPS_PER_SECOND - 2.0;
            let beat_told = if since < 2.0 { 0.9 } else { f32::from(u8::from(beside)) * 0.4 + 0.01 };
            let told = Activations { beat: beat_told, low: 0.8, music: 1.0, ..Activations::default() };
            let before = beat.position;
            beat = tracker.hop(&told);
            assert!(beat.position.floor() >= before.floor(), "no beat comes again");
        }
        (beat, truth)
    }

    #[test]
    fn tempi_from_60_to_200_are_followed_to_less_than_a_percent() {
        for bpm in [60.0, 76.5, 93.0, 118.3, 132.0, 161.0, 200.0] {
            let (beat, truth) = followed(bpm, 14.0, &mut BeatTracker::default());
            assert!((f64::from(beat.bpm) / bpm - 1.0).abs() < 0.01, "{bpm}: {}", beat.bpm);
            let off = beat.position - truth;
            assert!((off - off.round()).abs() < 0.1, "{bpm}: {off}");
            assert!(beat.confidence > 0.8, "{bpm}: {}", beat.confidence);
        }
    }

    #[test]
    fn in_even_music_the_beat_stands_still_though_it_is_told_in_steps() {
        for bpm in [97.3, 127.0, 151.7] {
            let mut tracker = BeatTracker::default();
            let hops = |seconds: f64| (seconds * HOPS_PER_SECOND) as u32;
            let mut offs = Vec::new();
            for hop in 0..hops(30.0) {
                let truth = f64::from(hop) / HOPS_PER_SECOND * bpm / 60.0;
                // A view is two hops long, and a beat is told in the view in which it lies.
                let view_began = f64::from(hop / 2 * 2) / HOPS_PER_SECOND * bpm / 60.0;
                let view = 2.0 / HOPS_PER_SECOND * bpm / 60.0;
                let told = f32::from(u8::from((view_began + view).floor() > view_began.floor()));
                let beat =
                    tracker.hop(&Activations { beat: told * 0.9, low: 0.8, music: 1.0, ..Activations::default() });
                if hop > hops(15.0) {
                    let off = beat.position - truth;
                    offs.push((off - off.round()) * 60_000.0 / bpm);
                }
            }
            let [least, most] = [f64::min, f64::max].map(|pick| offs.iter().copied().reduce(pick).expect("some"));
            assert!(most - least < 16.0, "{bpm}: {least:.1} to {most:.1} ms");
        }
    }

    #[test]
    fn another_tempo_is_taken_over_within_a_few_seconds() {
        let mut tracker = BeatTracker::default();
        followed(120.0, 10.0, &mut tracker);
        let (beat, _) = followed(140.0, 6.0, &mut tracker);
        assert!((beat.bpm - 140.0).abs() < 1.4, "{}", beat.bpm);
    }

    #[test]
    fn beats_told_half_heartedly_are_all_beats_where_nothing_is_told_between() {
        for bpm in [84.0, 150.0, 172.0] {
            let mut tracker = BeatTracker::default();
            let mut beat = Beat::default();
            for hop in 0..3000u32 {
                let since = (f64::from(hop) / HOPS_PER_SECOND * bpm / 60.0).fract() * 60.0 / bpm * HOPS_PER_SECOND;
                let told = if since < 2.0 { 0.5 } else { 0.03 };
                beat = tracker.hop(&Activations { beat: told, low: 0.8, music: 1.0, ..Activations::default() });
            }
            assert!((f64::from(beat.bpm) / bpm - 1.0).abs() < 0.01, "{bpm}: {}", beat.bpm);
        }
    }

    #[test]
    fn a_pulse_of_what_is_hardly_music_is_not_trusted_before_it_has_been_steady_for_long() {
        for (music, seconds, trusted) in [(0.6, 5.0, false), (0.8, 5.0, true), (0.05, 8.0, false), (0.05, 20.0, true)] {
            let mut tracker = BeatTracker::default();
            let mut beat = Beat::default();
            for hop in 0..(seconds * HOPS_PER_SECOND) as u32 {
                let told = if hop % 47 < 2 { 0.7 } else { 0.02 };
                beat = tracker.hop(&Activations { beat: told, low: 0.8, music, ..Activations::default() });
            }
            let sure = beat.confidence > crate::strike::SURE;
            assert_eq!(sure, trusted, "{music} for {seconds} s: {}", beat.confidence);
        }
    }

    #[test]
    fn music_that_becomes_thin_for_a_moment_is_still_trusted_and_talk_is_not() {
        // Seconds of music and of what is hardly any, over and over; nobody talks in time.
        for (music, hardly, trusted) in [(6.0, 2.0, true), (0.06, 2.0, false)] {
            let mut tracker = BeatTracker::default();
            let mut trusting = 0;
            for hop in 0..3000u32 {
                let inside = (f64::from(hop) / HOPS_PER_SECOND) % (music + hardly);
                let apart = if trusted { 47 } else { [43, 61, 37][hop as usize / 560 % 3] };
                let beat = if hop % apart < 2 { 0.7 } else { 0.02 };
                let told = Activations {
                    beat,
                    low: 0.8,
                    music: if inside < music { 0.99 } else { 0.1 },
                    ..Activations::default()
                };
                trusting += u32::from(tracker.hop(&told).confidence > crate::strike::SURE && hop > 1000);
            }
            assert_eq!(trusting, if trusted { 1999 } else { 0 }, "{music} s of {hardly} s");
        }
    }

    #[test]
    fn drums_that_led_for_long_and_are_away_leave_the_beat_where_it_was() {
        // Seconds of drums, and whether a pulse between the beats that is a little stronger leads astray without them.
        for (drums, astray) in [(20.0, false), (4.0, true)] {
            let mut tracker = BeatTracker::default();
            let (mut beat, mut truth) = (Beat::default(), 0.0);
            for hop in 0..((drums + 40.0) * HOPS_PER_SECOND) as u32 {
                let time = f64::from(hop) / HOPS_PER_SECOND;
                truth = time * 2.0;
                let place = |at: f64| (truth + at).fract() / 2.0 * HOPS_PER_SECOND < 2.0;
                let told = match (time < drums, place(0.0), place(0.5)) {
                    (true, true, _) => Activations { beat: 0.9, low: 0.9, music: 1.0, ..Activations::default() },
                    (false, true, _) => Activations { beat: 0.3, low: 0.05, music: 1.0, ..Activations::default() },
                    (false, _, true) => Activations { beat: 0.4, low: 0.05, music: 1.0, ..Activations::default() },
                    _ => Activations { beat: 0.02, low: 0.02, music: 1.0, ..Activations::default() },
                };
                beat = tracker.hop(&told);
            }
            let off = beat.position - truth;
            let off = (off - off.round()).abs();
            assert_eq!(off > 0.25, astray, "{drums} s: {off} at {} a minute", beat.bpm);
        }
    }

    #[test]
    fn where_music_that_drums_led_has_ended_one_is_soon_unsure() {
        let mut tracker = BeatTracker::default();
        followed(120.0, 40.0, &mut tracker);
        // Silence, and somebody who talks.
        for told in
            [Activations::default(), Activations { beat: 0.05, mid: 0.1, music: 0.05, ..Activations::default() }]
        {
            let mut tracker = tracker.clone();
            let confidence = (0..(15.0 * HOPS_PER_SECOND) as u32).map(|_| tracker.hop(&told).confidence).last();
            assert!(confidence.is_some_and(|confidence| confidence < crate::strike::SURE), "{confidence:?}");
        }
    }

    #[test]
    fn where_no_music_is_told_nothing_is_known() {
        let mut tracker = BeatTracker::default();
        let mut beat = Beat::default();
        for _ in 0..1000 {
            beat = tracker.hop(&Activations { beat: 0.02, ..Activations::default() });
        }
        assert_eq!((beat.bpm, beat.confidence < 0.1), (0.0, true));
    }
}
