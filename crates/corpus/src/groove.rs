//! What drums play in a bar, on a grid of steps.

use crate::lot::Lot;

/// Families of drum patterns.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Groove {
    /// A kick on each beat.
    Floor,
    /// Kick on one and three, snare on two and four.
    Backbeat,
    /// The snare on three only.
    Half,
    /// A backbeat with a kick that is early and ghosts between.
    Broken,
    /// A backbeat with hats in sixteenths and a kick all over.
    Funk,
    /// A kick in even eighths or sixteenths, a snare on the beat, between beats, or on every other one.
    Driven,
    /// Kick and rim together on three.
    OneDrop,
    /// A clave on a rim, shakers, a low drum on three.
    Clave,
    /// A ride that swings, a hat on two and four.
    Ride,
    /// A low drum on the beat, a snare between.
    March,
    /// Toms, drawn anew for each piece.
    Toms,
    /// Low on one, high on the other beats.
    Waltz,
    /// Two groups of three.
    SixEight,
    /// Claps or a shaker alone.
    Hands,
    /// Drawn from how heavy each step is.
    Drawn,
    /// A kick on each beat, and threes across it.
    Threes,
    /// The kick on each beat, the snare between beats.
    Double,
    /// The snare on three only, a wandering kick, hats that roll.
    Rolling,
    /// A snare that never rests, accented between beats, over a low drum on them.
    Brushed,
    /// A low drum that is heavy on every other beat, from the second on, under a shaker and a rim across the beat.
    Surdo,
    /// Snares on two and four over a kick in bursts, as heavy guitars go.
    Chug,
    /// No drums.
    None,
}

/// Which drum plays.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Voice {
    /// The kick.
    Kick,
    /// The snare, or what stands for it.
    Snare,
    /// A closed hat or a shaker.
    Hat,
    /// An open hat, a ride, a crash.
    Ring,
    /// A tom.
    Tom,
    /// A rim or a block.
    Rim,
}

/// Hits of a bar: the step and how hard, for each voice.
pub(crate) type Bar = Vec<(Voice, usize, f32)>;

fn every(steps: usize, from: usize, by: usize) -> impl Iterator<Item = usize> {
    (from..steps).step_by(by.max(1))
}

/// How heavy a step is in its bar, 0..1.
pub(crate) fn weight(step: usize, sub: usize, bar: usize) -> f32 {
    match step {
        0 => 1.0,
        s if s.is_multiple_of(sub) && bar == 4 && s / sub == 2 => 0.8,
        s if s.is_multiple_of(sub) => 0.65,
        s if sub == 4 && s % 2 == 0 => 0.4,
        _ => 0.18,
    }
}

/// The pattern of a piece: `bar` beats of `sub` steps.
pub(crate) fn pattern(groove: Groove, bar: usize, sub: usize, lot: &mut Lot) -> Bar {
    let steps = bar * sub;
    let beat = |n: usize| n * sub;
    let mut hits: Bar = Vec::new();
    let mut hit = |voice, step: usize, level: f32| {
        if step < steps {
            hits.push((voice, step, level));
        }
    };
    let off = if sub == 3 { 2 } else { sub / 2 };
    // Which steps of a beat hats play: halves, or the first and the last of three.
    let shuffles = sub == 3 && lot.chance(0.65);
    let hats = |lot: &mut Lot| -> Vec<usize> {
        let kind = lot.below(7);
        (0..steps)
            .filter(|step| match (kind, step % sub) {
                // None at all.
                (6, _) => false,
                (_, place) if shuffles && kind > 0 => place != 1,
                (0, place) => place == 0,
                (1 | 2, place) => sub == 3 || place % 2 == 0,
                (3, place) => place == off,
                _ => true,
            })
            .collect()
    };
    let backbeat = [beat(1), beat(3)];
    match groove {
        Groove::Floor => {
            every(steps, 0, sub).for_each(|s| hit(Voice::Kick, s, 1.0));
            if lot.chance(0.6) {
                backbeat.iter().for_each(|&s| hit(Voice::Snare, s, 0.8));
            }
            if lot.chance(0.8) {
                let voice = if lot.chance(0.4) { Voice::Hat } else { Voice::Ring };
                every(steps, off, sub).for_each(|s| hit(voice, s, 0.6));
            }
            if lot.chance(0.5) {
                every(steps, 0, 1).for_each(|s| hit(Voice::Hat, s, if s % sub == 0 { 0.4 } else { 0.25 }));
            }
        }
        Groove::Backbeat | Groove::Half | Groove::Broken | Groove::Funk => {
            hit(Voice::Kick, 0, 1.0);
            match groove {
                Groove::Half => {
                    hit(Voice::Snare, beat(2), 1.0);
                    for step in 1..steps {
                        if lot.chance(0.18) && step != beat(2) {
                            hit(Voice::Kick, step, 0.8);
                        }
                    }
                }
                Groove::Backbeat => {
                    backbeat.iter().for_each(|&s| hit(Voice::Snare, s, 0.9));
                    if lot.chance(0.8) {
                        hit(Voice::Kick, beat(2), 0.9);
                    }
                    for step in [beat(2) + off, beat(3) + off, beat(1) + off] {
                        if lot.chance(0.3) {
                            hit(Voice::Kick, step, 0.8);
                        }
                    }
                }
                Groove::Broken => {
                    backbeat.iter().for_each(|&s| hit(Voice::Snare, s, 0.95));
                    hit(Voice::Kick, beat(2) + off, 0.9);
                    for step in 1..steps {
                        if step % sub != 0 && lot.chance(0.16) {
                            hit(if lot.chance(0.5) { Voice::Snare } else { Voice::Kick }, step, lot.range(0.2, 0.7));
                        }
                    }
                }
                _ => {
                    backbeat.iter().for_each(|&s| hit(Voice::Snare, s, 0.9));
                    for step in 1..steps {
                        if lot.chance(0.25) && !backbeat.contains(&step) {
                            hit(Voice::Kick, step, 0.8);
                        }
                        if lot.chance(0.12) {
                            hit(Voice::Snare, step, 0.25);
                        }
                    }
                }
            }
            let hats = hats(lot);
            let accents = lot.pick(&[[0.5, 0.3], [0.5, 0.3], [0.45, 0.4], [0.3, 0.5]]);
            let voice = if lot.chance(0.8) { Voice::Hat } else { Voice::Ring };
            hats.into_iter().for_each(|s| hit(voice, s, accents[usize::from(s % sub != 0)]));
            if lot.chance(0.25) {
                let (voice, by) = (lot.pick(&[Voice::Ring, Voice::Rim]), lot.pick(&[sub, sub, 2 * sub, off.max(1)]));
                every(steps, 0, by).for_each(|s| hit(voice, s, 0.5));
            }
        }
        Groove::Threes => {
            let threes: Vec<usize> =
                every(steps, 0, 2 * sub).flat_map(|s| [s + sub * 3 / 4, s + sub * 3 / 2]).collect();
            every(steps, 0, if lot.chance(0.8) { sub } else { 2 * sub }).for_each(|s| hit(Voice::Kick, s, 1.0));
            let voice = lot.pick(&[Voice::Snare, Voice::Snare, Voice::Rim]);
            threes.iter().for_each(|&s| hit(voice, s, 0.8));
            if lot.chance(0.6) {
                hats(lot).into_iter().for_each(|s| hit(Voice::Hat, s, if s % sub == 0 { 0.35 } else { 0.3 }));
            }
        }
        Groove::Double => {
            every(steps, 0, sub).for_each(|s| hit(Voice::Kick, s, 1.0));
            let rests = lot.chance(0.3);
            every(steps, off, sub).filter(|s| !rests || s + sub < steps).for_each(|s| hit(Voice::Snare, s, 0.9));
            for step in 0..steps {
                if step % (sub / 2).max(1) != 0 && lot.chance(0.2) {
                    hit(Voice::Kick, step, 0.8);
                }
            }
            let voice = lot.pick(&[Voice::Hat, Voice::Ring]);
            let by = lot.pick(&[sub, off.max(1), off.max(1), 1]);
            every(steps, 0, by).for_each(|s| hit(voice, s, 0.5));
        }
        Groove::Rolling => {
            hit(Voice::Kick, 0, 1.0);
            hit(lot.pick(&[Voice::Snare, Voice::Snare, Voice::Rim]), beat(2), 1.0);
            for step in 1..steps {
                if step != beat(2) && lot.chance(0.2) {
                    hit(Voice::Kick, step, 0.9);
                }
                if lot.chance(0.06) {
                    hit(Voice::Ring, step, 0.5);
                }
            }
            let by = lot.pick(&[1, 2, 2, sub]);
            every(steps, 0, by).for_each(|s| hit(Voice::Hat, s, if s % sub == 0 { 0.45 } else { 0.35 }));
        }
        Groove::Driven => {
            let by = lot.pick(&[1, 1, off.max(1), sub]);
            every(steps, 0, by).for_each(|s| hit(Voice::Kick, s, if s % sub == 0 { 0.8 } else { 0.6 }));
            let (from, by) = lot.pick(&[(0, sub), (sub, 2 * sub), (sub, 2 * sub), (sub, 2 * sub)]);
            every(steps, from, by).for_each(|s| hit(Voice::Snare, s, 0.9));
            let (voice, by) = (lot.pick(&[Voice::Hat, Voice::Ring]), lot.pick(&[sub, off.max(1)]));
            every(steps, 0, by).for_each(|s| hit(voice, s, 0.5));
        }
        Groove::OneDrop => {
            hit(Voice::Kick, beat(2), 1.0);
            hit(Voice::Rim, beat(2), 0.8);
            let heavy = usize::from(lot.chance(0.5)) * off;
            every(steps, 0, off.max(1)).for_each(|s| hit(Voice::Hat, s, if s % sub == heavy { 0.5 } else { 0.3 }));
        }
        Groove::Clave => {
            let claves = [[0, 3, 6, 10, 12], [0, 3, 7, 10, 12], [0, 3, 6, 10, 13], [2, 4, 8, 11, 14]];
            let clave = lot.pick(&claves);
            clave.iter().for_each(|&s| hit(Voice::Rim, s * sub / 4, 0.8));
            every(steps, 0, 1).for_each(|s| hit(Voice::Hat, s, if s % sub == 0 { 0.4 } else { 0.3 }));
            hit(Voice::Kick, 0, 0.6);
            hit(Voice::Kick, beat(2), 1.0);
            if lot.chance(0.6) {
                hit(Voice::Kick, beat(1) + sub * 3 / 4, 0.7);
                hit(Voice::Kick, beat(3) + sub * 3 / 4, 0.7);
            }
        }
        Groove::Ride => {
            for n in 0..bar {
                hit(Voice::Ring, beat(n), 0.5);
                if n % 2 == 1 {
                    hit(Voice::Hat, beat(n), 0.5);
                    hit(Voice::Ring, beat(n) + sub - 1, 0.45);
                }
            }
            if lot.chance(0.4) {
                every(steps, 0, sub).for_each(|s| hit(Voice::Kick, s, 0.3));
            }
            // What snare and kick throw in comes on beats or as late between them as the ride does, or hardly ever.
            for step in 0..steps {
                let [snare, kick] = match step % sub {
                    0 => [0.08, 0.1],
                    place if place == off => [0.12, 0.1],
                    _ => [0.02, 0.01],
                };
                if lot.chance(snare) {
                    hit(Voice::Snare, step, lot.range(0.2, 0.7));
                }
                if lot.chance(kick) {
                    hit(Voice::Kick, step, lot.range(0.3, 0.8));
                }
            }
        }
        Groove::March => {
            for n in 0..bar {
                if n % 2 == 0 {
                    hit(Voice::Kick, beat(n), 1.0);
                }
                hit(Voice::Snare, beat(n) + if lot.chance(0.5) { off } else { 0 }, 0.7);
                if lot.chance(0.4) {
                    every(sub, 0, 1).for_each(|s| hit(Voice::Snare, beat(n) + s, 0.3));
                }
            }
        }
        Groove::Toms | Groove::Drawn => {
            let density = lot.range(0.3, 1.1);
            let voices: &[Voice] = if groove == Groove::Toms {
                &[Voice::Tom, Voice::Tom, Voice::Kick, Voice::Rim]
            } else {
                &[Voice::Kick, Voice::Snare, Voice::Hat, Voice::Tom, Voice::Rim]
            };
            for step in 0..steps {
                if lot.chance((weight(step, sub, bar) * density).min(0.97)) {
                    let voice = if step == 0 { Voice::Kick } else { lot.pick(voices) };
                    hit(voice, step, lot.range(0.5, 1.0) * (0.5 + 0.5 * weight(step, sub, bar)));
                }
            }
            if lot.chance(0.4) {
                hats(lot).into_iter().for_each(|s| hit(Voice::Hat, s, 0.3));
            }
        }
        Groove::Waltz => {
            hit(Voice::Kick, 0, 1.0);
            let voice = lot.pick(&[Voice::Snare, Voice::Hat, Voice::Rim]);
            (1..bar).for_each(|n| hit(voice, beat(n), 0.6));
            if lot.chance(0.5) {
                every(steps, 0, off.max(1)).for_each(|s| hit(Voice::Hat, s, 0.3));
            }
        }
        Groove::SixEight => {
            hit(Voice::Kick, 0, 1.0);
            (1..bar).for_each(|n| hit(if n % 2 == 1 { Voice::Snare } else { Voice::Kick }, beat(n), 0.9));
            every(steps, 0, 1).for_each(|s| hit(Voice::Hat, s, if s % sub == 0 { 0.5 } else { 0.3 }));
            if lot.chance(0.5) {
                hit(Voice::Kick, steps - 1, 0.6);
            }
        }
        Groove::Hands => {
            let voice = lot.pick(&[Voice::Snare, Voice::Hat, Voice::Rim]);
            let by = lot.pick(&[sub, sub, off.max(1)]);
            // Nobody could tell where beats are if all were alike.
            let level = |s: usize| if s.is_multiple_of(sub) { 0.7 } else { 0.35 };
            every(steps, if lot.chance(0.3) { sub } else { 0 }, by).for_each(|s| hit(voice, s, level(s)));
        }
        Groove::Brushed => {
            let (rests, heavy) = (lot.chance(0.3), lot.pick(&[off, off, sub / 4 * 3, 0]));
            every(steps, 0, if lot.chance(0.7) { 1 } else { off.max(1) }).for_each(|s| {
                let accent = s % sub == heavy || (heavy == 0 && (s / sub) % 2 == 1);
                hit(Voice::Snare, s, if accent && s % sub == heavy { 0.8 } else { 0.35 });
            });
            every(steps, 0, if rests { 2 * sub } else { sub }).for_each(|s| hit(Voice::Kick, s, 0.8));
            if lot.chance(0.4) {
                every(steps, off, sub).for_each(|s| hit(Voice::Hat, s, 0.5));
            }
        }
        Groove::Surdo => {
            let (light, late) = (lot.range(0.0, 0.7), lot.chance(0.4));
            for n in 0..bar {
                let level = if n % 2 == 1 { 1.0 } else { light };
                if level > 0.2 {
                    hit(Voice::Kick, beat(n), level);
                }
                if late {
                    hit(Voice::Kick, beat(n) + sub * 3 / 4, 0.5);
                }
            }
            every(steps, 0, 1).for_each(|s| hit(Voice::Hat, s, if s % off.max(1) == 0 { 0.4 } else { 0.25 }));
            across(bar, sub, lot)
                .into_iter()
                .for_each(|s| hit(lot.pick(&[Voice::Rim, Voice::Rim, Voice::Tom]), s, 0.6));
        }
        Groove::Chug => {
            let snares: &[usize] = if lot.chance(0.85) { &backbeat } else { &backbeat[1..] };
            snares.iter().for_each(|&s| hit(Voice::Snare, s, 1.0));
            hit(Voice::Kick, 0, 1.0);
            bursts(bar, sub, lot).into_iter().filter(|s| *s > 0).for_each(|s| hit(Voice::Kick, s, 0.85));
            let (voice, by) = (lot.pick(&[Voice::Hat, Voice::Ring]), lot.pick(&[sub, sub, off.max(1), off.max(1), 1]));
            every(steps, 0, by).for_each(|s| hit(voice, s, 0.5));
        }
        Groove::None => {}
    }
    hits
}

/// Bursts of a kick: each beat of a bar has one of a few of a piece.
fn bursts(bar: usize, sub: usize, lot: &mut Lot) -> Vec<usize> {
    const FOURS: [[bool; 4]; 8] = [
        [true, false, false, false],
        [true, false, true, false],
        [true, false, true, true],
        [true, true, true, false],
        [true, true, false, true],
        [true; 4],
        [false, true, true, false],
        [false, false, true, true],
    ];
    const THREES: [[bool; 3]; 4] = [[true, false, false], [true, false, true], [true; 3], [false, true, true]];
    let few = [0, 1].map(|_| lot.below(if sub == 3 { THREES.len() } else { FOURS.len() }));
    let strikes = |kind: usize, step: usize| if sub == 3 { THREES[kind][step] } else { FOURS[kind][step % 4] };
    (0..bar)
        .flat_map(|beat| {
            let (kind, rests) = (lot.pick(&few), lot.chance(0.15));
            (0..sub).filter(move |step| !rests && strikes(kind, *step)).map(move |step| beat * sub + step)
        })
        .collect()
}

/// Steps across the beat, as hands play them: drawn once, the lighter places as likely as the heavy ones.
fn across(bar: usize, sub: usize, lot: &mut Lot) -> Vec<usize> {
    let density = lot.range(0.25, 0.6);
    (0..bar * sub).filter(|_| lot.chance(density)).collect()
}

/// What somebody plays besides the drums: a shaker, a tambourine, blocks, hand drums.
pub(crate) fn besides(bar: usize, sub: usize, lot: &mut Lot) -> Bar {
    let steps = bar * sub;
    let off = if sub == 3 { 2 } else { sub / 2 };
    let level = lot.range(0.25, 0.7);
    let shares = |s: usize, heavy: usize| if s % sub == heavy { level } else { 0.6 * level };
    match lot.below(5) {
        0 => {
            let heavy = lot.pick(&[0, 0, off]);
            every(steps, 0, 1).map(|s| (Voice::Hat, s, shares(s, heavy))).collect()
        }
        1 => every(steps, sub, 2 * sub).map(|s| (Voice::Ring, s, level)).collect(),
        2 => {
            let (from, by) = lot.pick(&[(0, sub), (off, sub), (0, off.max(1))]);
            every(steps, from, by).map(|s| (Voice::Rim, s, shares(s, 0))).collect()
        }
        3 => across(bar, sub, lot).into_iter().map(|s| (Voice::Rim, s, level)).collect(),
        _ => across(bar, sub, lot).into_iter().map(|s| (Voice::Tom, s, level)).collect(),
    }
}

/// What replaces the end of a bar before a new part.
pub(crate) fn fill(bar: usize, sub: usize, lot: &mut Lot) -> (usize, Bar) {
    let steps = bar * sub;
    let from = steps - (sub * (1 + lot.below(2))).min(steps);
    let voice = lot.pick(&[Voice::Snare, Voice::Tom, Voice::Tom]);
    // Each other step is twos where there are three.
    let by = lot.pick(&[1, 1, if sub == 3 { 3 } else { 2 }]);
    (from, (from..steps).step_by(by).filter(|_| lot.chance(0.85)).map(|s| (voice, s, 0.8)).collect::<Vec<_>>())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn hits_lie_within_their_bar_whatever_is_drawn() {
        use Groove::{
            Backbeat, Broken, Brushed, Chug, Clave, Double, Drawn, Driven, Floor, Funk, Half, Hands, March, OneDrop,
            Ride, Rolling, SixEight, Surdo, Threes, Toms, Waltz,
        };
        let all = [
            Backbeat, Broken, Brushed, Chug, Clave, Double, Drawn, Driven, Floor, Funk, Half, Hands, March, OneDrop,
            Ride, Rolling, SixEight, Surdo, Threes, Toms, Waltz,
        ];
        let mut lot = Lot::new(5);
        for (bar, sub) in [(4, 4), (4, 3), (3, 4), (2, 3), (2, 4)] {
            for groove in all {
                for _ in 0..8 {
                    let mut hits = pattern(groove, bar, sub, &mut lot);
                    hits.extend(besides(bar, sub, &mut lot));
                    let good = |hit: &(Voice, usize, f32)| hit.1 < bar * sub && (0.05..=1.0).contains(&hit.2);
                    assert!(hits.iter().all(good), "{groove:?} in {bar} by {sub}: {hits:?}");
                }
            }
        }
    }

    /// The steps of a bar of four by four on which a voice plays.
    fn steps_of(hits: &Bar, voice: Voice) -> Vec<usize> {
        let mut steps: Vec<usize> = hits.iter().filter(|hit| hit.0 == voice).map(|hit| hit.1).collect();
        steps.sort_unstable();
        steps.dedup();
        steps
    }

    #[test]
    fn grooves_are_what_they_are_called() {
        let mut lot = Lot::new(17);
        // The steps on which a voice always plays.
        let always: [(Groove, Voice, &[usize]); 9] = [
            (Groove::Floor, Voice::Kick, &[0, 4, 8, 12]),
            (Groove::Backbeat, Voice::Snare, &[4, 12]),
            (Groove::Half, Voice::Snare, &[8]),
            (Groove::Broken, Voice::Snare, &[4, 12]),
            (Groove::OneDrop, Voice::Kick, &[8]),
            (Groove::Double, Voice::Kick, &[0, 4, 8, 12]),
            (Groove::Rolling, Voice::Kick, &[0]),
            (Groove::March, Voice::Kick, &[0, 8]),
            (Groove::Waltz, Voice::Kick, &[0]),
        ];
        for (groove, voice, steps) in always {
            for _ in 0..40 {
                let played = steps_of(&pattern(groove, 4, 4, &mut lot), voice);
                assert!(steps.iter().all(|step| played.contains(step)), "{groove:?}: {voice:?} on {played:?}");
            }
        }
        // The one drop and half time leave the first beat's snare and kick out.
        for _ in 0..40 {
            assert_eq!(steps_of(&pattern(Groove::OneDrop, 4, 4, &mut lot), Voice::Kick), [8]);
            assert_eq!(steps_of(&pattern(Groove::Half, 4, 4, &mut lot), Voice::Snare), [8]);
            assert!(pattern(Groove::None, 4, 4, &mut lot).is_empty());
        }
    }

    #[test]
    fn heavier_steps_are_heavier() {
        let weights: Vec<f32> = (0..16).map(|step| weight(step, 4, 4)).collect();
        assert!(weights[0] > weights[8] && weights[8] > weights[4] && weights[4] == weights[12]);
        assert!(weights[4] > weights[2] && weights[2] > weights[1]);
    }

    #[test]
    fn a_fill_takes_the_last_beat_or_two_and_nothing_before() {
        let mut lot = Lot::new(23);
        let mut lengths = Vec::new();
        for _ in 0..60 {
            let (from, hits) = fill(4, 4, &mut lot);
            assert!(hits.iter().all(|(_, step, _)| (from..16).contains(step)), "from {from}: {hits:?}");
            lengths.push(16 - from);
        }
        assert!(lengths.contains(&4) && lengths.contains(&8) && lengths.iter().all(|length| [4, 8].contains(length)));
    }
}
