//! What is done to what a band plays, in time with it: echoes, filters that open and close, music that ducks at each beat as
//! if there were a kick, and swells over some bars.

use crate::RATE;
use crate::lot::Lot;
use crate::recording::pump;
use crate::rhythm::Grid;
use crate::score::Score;
use crate::section::Rise;
use crate::sound::{Low, samples, share};

/// How often machines do something to the music.
const MACHINES: f32 = 0.3;
/// How often the band swells.
const SWELLS: f32 = 0.12;
/// Echoes, in beats, as the metre has them: in fours, where bars have three beats, and where beats have three steps. What comes
/// back after half a bar of three, or after two thirds, makes twos of threes and threes of twos.
const ECHOES: [[f32; 6]; 3] = [
    [0.5, 0.75, 0.75, 1.0, 1.5, 1.0 / 3.0],
    [0.5, 0.5, 0.5, 1.0, 1.0, 3.0],
    [1.0 / 3.0, 1.0 / 3.0, 1.0 / 3.0, 1.0, 1.0, 2.0],
];

/// Echoes that go with a metre.
fn echoes(grid: Grid) -> &'static [f32; 6] {
    match grid {
        Grid { sub: 3, .. } => &ECHOES[2],
        Grid { bar: 3, .. } => &ECHOES[1],
        Grid { .. } => &ECHOES[0],
    }
}

/// The softest that a swell begins, as a power of ten.
const SOFTEST: f32 = -0.9;

/// Does some of it to the drums and the rest of a band, as chance has it.
pub(crate) fn effects([drums, music]: [&mut [f32]; 2], score: &Score<'_>, lot: &mut Lot) {
    if lot.chance(MACHINES) {
        if lot.chance(0.5) {
            let seconds = score.step_seconds(0) * score.grid.sub as f32 * lot.pick(echoes(score.grid));
            let [back, wet] = [lot.range(0.2, 0.65), lot.range(0.15, 0.7)];
            echo(music, seconds, back, wet);
        }
        if lot.chance(0.4) {
            let bars = lot.pick(&[2.0, 4.0, 8.0, 16.0]);
            let range = [lot.scale(180.0, 700.0), lot.scale(2_500.0, 10_000.0)];
            let falls = lot.chance(0.4);
            sweep(music, score, bars, range, falls);
        }
        if lot.chance(0.3) {
            pump(music, score.map.beats(), lot.range(0.3, 0.9));
        }
    }
    if lot.chance(SWELLS) {
        let levels = swells(score, lot);
        for stem in [drums, music] {
            swell(stem, &levels);
        }
    }
}

/// What sounded comes again, duller and softer each time.
fn echo(music: &mut [f32], seconds: f32, back: f32, wet: f32) {
    let (mut line, mut damp) = (vec![0.0f32; samples(seconds).max(1)], Low::default());
    let (length, share) = (line.len(), share(3_000.0));
    for (at, sample) in music.iter_mut().enumerate() {
        let late = line[at % length];
        line[at % length] = *sample + damp.step(late, share) * back;
        *sample += late * wet;
    }
}

/// A low-pass whose edge goes up, or down, over some bars and begins anew then.
fn sweep(music: &mut [f32], score: &Score<'_>, bars: f64, [low, high]: [f32; 2], falls: bool) {
    let beats = bars * score.grid.bar as f64;
    let mut poles = [Low::default(); 2];
    let mut first = 0.0;
    while score.map.time(first + beats) > score.map.time(first) {
        let [start, end] = [first, first + beats].map(|beat| (score.map.time(beat) * RATE) as usize);
        if start >= music.len() {
            break;
        }
        let end = end.min(music.len());
        for (index, sample) in music[start..end].iter_mut().enumerate() {
            let gone = index as f32 / (end - start) as f32;
            let open = if falls { 1.0 - gone } else { gone };
            let share = share(low * (high / low).powf(open));
            *sample = poles.iter_mut().fold(*sample, |sample, pole| pole.step(sample, share));
        }
        first += beats;
    }
}

/// Levels at times, in seconds: over some bars it grows or fades, and often begins anew at once.
fn swells(score: &Score<'_>, lot: &mut Lot) -> Vec<(f64, f32)> {
    let mut levels = vec![(0.0, 10.0f32.powf(lot.range(SOFTEST, 0.0)))];
    let (mut beat, last) = (0.0, (score.map.beats().len() - 2) as f64);
    while beat < last {
        beat += f64::from(lot.pick(&[2, 4, 4, 8]) * score.grid.bar as i32);
        levels.push((score.map.time(beat), 10.0f32.powf(lot.range(SOFTEST, 0.0))));
        if lot.chance(0.4) {
            levels.push((score.map.time(beat) + 0.02, 1.0));
        }
    }
    levels
}

/// What has these levels at these times, and those between in between.
fn swell(stem: &mut [f32], levels: &[(f64, f32)]) {
    for pair in levels.windows(2) {
        let [start, end] = [pair[0].0, pair[1].0].map(|time| ((time * RATE) as usize).min(stem.len()));
        for (index, sample) in stem[start..end].iter_mut().enumerate() {
            let gone = index as f32 / (end - start) as f32;
            *sample *= pair[0].1 + (pair[1].1 - pair[0].1) * gone;
        }
    }
    if let Some((time, level)) = levels.last() {
        stem.iter_mut().skip((time * RATE) as usize).for_each(|sample| *sample *= level);
    }
}

/// What rises from a time to another, in seconds.
pub(crate) fn rise([drums, music]: [&mut [f32]; 2], what: Rise, [from, until]: [f64; 2], lot: &mut Lot) {
    let [from, until] = [from, until].map(|time| ((time * RATE) as usize).min(music.len()));
    let [drums, music] = [&mut drums[from..until], &mut music[from..until]];
    if what.thins {
        let edge = lot.scale(250.0, 1_200.0);
        thin(drums, edge);
        thin(music, edge);
    }
    if what.hisses {
        let power: f32 = drums.iter().zip(music.iter()).map(|(drum, note)| (drum + note).powi(2)).sum();
        let loud = (power / music.len().max(1) as f32).sqrt();
        hiss(music, loud * lot.scale(0.2, 1.6), lot);
    }
}

/// A high-pass whose edge goes up to `edge` hertz.
fn thin(stem: &mut [f32], edge: f32) {
    let mut poles = [Low::default(); 2];
    let length = stem.len() as f32;
    for (index, sample) in stem.iter_mut().enumerate() {
        let share = share(30.0 * (edge / 30.0).powf(index as f32 / length));
        *sample = poles.iter_mut().fold(*sample, |sample, pole| sample - pole.step(sample, share));
    }
}

/// Noise that becomes louder, up to `loud`, and brighter.
fn hiss(stem: &mut [f32], loud: f32, lot: &mut Lot) {
    let [low, high] = [lot.scale(300.0, 1_500.0), lot.scale(3_000.0, 14_000.0)];
    let (mut pole, length) = (Low::default(), stem.len() as f32);
    for (index, sample) in stem.iter_mut().enumerate() {
        let gone = index as f32 / length;
        let share = share(low * (high / low).powf(gone));
        // What is left of white noise is the weaker the more is taken away.
        *sample += pole.step(lot.both(), share) * loud * gone * (3.0 / share).sqrt().min(6.0);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::harmony::Harmony;
    use crate::tempo::{Motion, TempoMap};

    #[test]
    fn an_echo_comes_after_its_time_and_softer_each_time() {
        let mut music = vec![0.0; samples(2.0)];
        music[0] = 1.0;
        echo(&mut music, 0.25, 0.5, 0.8);
        let around = |time: f32| music[samples(time)..samples(time + 0.05)].iter().sum::<f32>();
        let heard = [0.0, 0.1, 0.25, 0.5, 0.75].map(around);
        for (heard, truth) in heard.iter().zip([1.0, 0.0, 0.8, 0.4, 0.2]) {
            assert!((heard - truth).abs() < 0.02, "{heard} for {truth}");
        }
    }

    #[test]
    fn a_filter_opens_over_its_bars_and_closes_at_the_next() {
        with_score(|score| {
            let tone = |i: usize| (i as f32 * 2_000.0 * std::f32::consts::TAU / RATE as f32).sin();
            let mut music: Vec<f32> = (0..samples(8.0)).map(tone).collect();
            sweep(&mut music, score, 2.0, [200.0, 9_000.0], false);
            let power = |time: f32| music[samples(time)..samples(time + 0.2)].iter().map(|s| s * s).sum::<f32>();
            // Bars of 2 s.
            assert!(power(3.7) > 20.0 * power(0.1) && power(3.7) > 20.0 * power(4.1) && power(7.7) > 20.0 * power(4.1));
        });
    }

    #[test]
    fn a_swell_goes_from_level_to_level_and_stays_at_the_last() {
        let mut stem = vec![1.0; samples(4.0)];
        swell(&mut stem, &[(0.0, 0.2), (2.0, 0.8), (2.02, 1.0), (3.0, 0.5)]);
        for (time, truth) in [(0.0, 0.2), (1.0, 0.5), (1.99, 0.8), (2.03, 1.0), (3.5, 0.5)] {
            assert!((stem[samples(time)] - truth).abs() < 0.02, "{time}: {}", stem[samples(time)]);
        }
        with_score(|score| {
            let levels = swells(score, &mut Lot::new(2));
            assert!(levels.windows(2).all(|pair| pair[0].0 <= pair[1].0) && levels.len() > 2, "{levels:?}");
            assert!(levels.iter().all(|(_, level)| (0.12..=1.0).contains(level)), "{levels:?}");
        });
    }

    fn rising(what: Rise) -> Vec<f32> {
        let tone = |i: usize| 0.5 * (i as f32 * 60.0 * std::f32::consts::TAU / RATE as f32).sin();
        let (mut drums, mut music): (Vec<f32>, Vec<f32>) = (0..samples(8.0)).map(|i| (tone(i), tone(i))).unzip();
        rise([&mut drums, &mut music], what, [2.0, 6.0], &mut Lot::new(4));
        music
    }

    #[test]
    fn what_thins_loses_its_low_end_until_it_drops() {
        let music = rising(Rise { thins: true, ..Rise::default() });
        let power = |time: f32| music[samples(time)..samples(time + 0.1)].iter().map(|s| s * s).sum::<f32>();
        assert!(power(5.8) < 0.05 * power(1.0) && power(6.1) > 0.9 * power(1.0), "{} {}", power(5.8), power(1.0));
        assert!(power(2.1) > 4.0 * power(5.0));
    }

    #[test]
    fn what_hisses_becomes_louder_and_brighter_until_it_drops() {
        let music = rising(Rise { hisses: true, ..Rise::default() });
        let high = |time: f32| {
            let part = &music[samples(time)..samples(time + 0.2)];
            part.windows(2).map(|pair| (pair[1] - pair[0]).powi(2)).sum::<f32>()
        };
        assert!(high(5.7) > 3.0 * high(4.0) && high(4.0) > 3.0 * high(2.2) && high(6.1) < 1.1 * high(1.0));
    }

    fn with_score(test: impl FnOnce(&Score<'_>)) {
        let mut lot = Lot::new(3);
        let map = TempoMap::new(120.0, Motion::Steady, 4, [0.0, 30.0], &mut lot);
        let harmony = Harmony::new(4, &mut lot);
        let grid = Grid { bar: 4, sub: 4 };
        test(&Score { map: &map, grid, swing: 0.5, loose: 0.0, tonic: 220.0, minor: false, harmony });
    }

    #[test]
    fn echoes_make_no_twos_of_threes_nor_threes_of_twos() {
        for (bar, sub) in [(2, 3), (4, 3), (3, 4)] {
            for echo in echoes(Grid { bar, sub }) {
                // A part of a beat that there is in this metre, or whole beats.
                let parts = (sub as f32 * echo).round();
                assert!((parts / sub as f32 - echo).abs() < 1e-6, "{echo} in {bar} by {sub}");
                let grouped = if sub == 3 { [2.0, 4.0, 5.0] } else { [3.0, 6.0, 9.0] };
                assert!(!grouped.contains(&parts), "{echo} in {bar} by {sub}");
            }
        }
    }
}
