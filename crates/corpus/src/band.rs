//! The instruments of a piece and what they play.

use crate::drum::Drum;
use crate::groove::{Bar, Groove, Voice, besides, fill, pattern};
use crate::lot::Lot;
use crate::piece::{Piece, Struck};
use crate::riff::{CHORDS, Riff, Stroke, beat_is_told, riffs};
use crate::sampled::{Bank, Note, Player, key_of, keys};
use crate::score::Score;
use crate::section::{Section, parts, telling};
use crate::sound::Mix;
use crate::style::Style;
use crate::tone::Tone;

/// The part that is held, behind those that play riffs.
const PAD: usize = 4;
/// An instrument: made, or of a bank.
enum Instrument {
    Made(Tone),
    Sampled(Player),
}

/// How often the drums of a piece are of the bank, if there is one.
const SAMPLED_KITS: f32 = 0.5;
/// How often somebody plays something besides the drums.
const BESIDES: f32 = 0.25;
/// How often each other instrument is.
const SAMPLED: f32 = 0.55;
/// Tones of chords: of three, of four, without the third, spread, turned.
const VOICINGS: [&[i32]; 8] =
    [&[0, 2, 4], &[0, 2, 4], &[0, 2, 4, 6], &[0, 2, 4, 6], &[0, 4, 7], &[0, 4, 9], &[-3, 0, 2], &[-5, -3, 0]];

/// The instruments of a piece and what they have played.
pub(crate) struct Band {
    /// The drums of a bank, and its keys.
    sampled_kit: Option<(Player, [u8; 6])>,
    pub(crate) pattern: Bar,
    second: Bar,
    /// After how many bars the second pattern comes.
    turns: usize,
    /// Whether all strike once in this bar and are silent then.
    pub(crate) stopped: bool,
    kit: [Drum; 6],
    kit_levels: [f32; 6],
    tones: [Instrument; 5],
    levels: [f32; 5],
    pub(crate) riffs: [Riff; 4],
    /// Which parts play in the piece.
    pub(crate) plays: [bool; 5],
    /// Whether a part anticipates the first of a bar by half a beat.
    pushes: [bool; 5],
    octaves: [f32; 5],
    /// The tones of a chord, as degrees from its root on.
    voicing: &'static [i32],
    /// How often a bar before a new part has a fill.
    fills: f32,
    /// How much the kick pushes everything else down.
    pub(crate) pumps: f32,
    pub(crate) drums: Mix,
    pub(crate) music: Mix,
    pub(crate) kicks: Vec<f64>,
}

/// A bar whose turn it is.
pub(crate) struct Turn<'a> {
    pub(crate) section: &'a Section,
    /// Which bar of the piece, and which of its section.
    pub(crate) bar: usize,
    pub(crate) inside: usize,
}

impl Band {
    pub(crate) fn new(bank: Option<&Bank>, style: &Style, score: &Score<'_>, length: usize, lot: &mut Lot) -> Self {
        let groove = lot.pick(style.grooves);
        let mut plays = parts(style, lot);
        let hat = lot.scale(0.012, 0.06);
        let ring = lot.scale(0.08, 0.6);
        let snare = if lot.chance(0.3) { Drum::clap(lot) } else { Drum::snare(lot) };
        let kick = if lot.chance(0.08) { Drum::tom(lot) } else { Drum::kick(lot) };
        let kit = [kick, snare, Drum::metal(lot, hat), Drum::metal(lot, ring), Drum::tom(lot), Drum::rim(lot)];
        let level = |lot: &mut Lot| lot.scale(0.3, 1.0);
        let kit_levels = [1.0, 0.8, 0.3, 0.3, 0.7, 0.5].map(|usual| usual * level(lot));
        let chords = if lot.chance(0.7) { Tone::struck(lot) } else { Tone::held(lot, [0.005, 0.05]) };
        let melody = match lot.below(3) {
            0 => Tone::sung(lot),
            1 => Tone::held(lot, [0.005, 0.06]),
            _ => Tone::struck(lot),
        };
        let mut tones =
            [Tone::bass(lot), chords, Tone::struck(lot), melody, Tone::held(lot, [0.05, 0.6])].map(Instrument::Made);
        let players = [Player::bass, Player::struck, Player::struck, Player::melody, Player::pad];
        for (part, player) in players.into_iter().enumerate() {
            if bank.is_some() && lot.chance(SAMPLED) {
                tones[part] = Instrument::Sampled(player(lot));
            }
        }
        let kit_bank = bank.filter(|_| lot.chance(SAMPLED_KITS));
        let sampled_kit = kit_bank.map(|bank| (Player::drums(bank, lot), keys(lot)));
        let drums_to_music = lot.scale(0.4, 2.5);
        let levels = [0.9, 0.35, 0.4, 0.6, 0.3].map(|usual: f32| usual * lot.scale(0.3, 1.2) / drums_to_music);
        let mut own = pattern(groove, style.bar, style.sub, lot);
        if groove != Groove::None && lot.chance(BESIDES) {
            own.extend(besides(style.bar, style.sub, lot));
        }
        if !beat_is_told(score.grid, &own) {
            plays = telling(plays, lot);
        }
        // Most bars are alike in most music.
        let second = if lot.chance(0.5) { own.clone() } else { pattern(groove, style.bar, style.sub, lot) };
        Self {
            sampled_kit,
            riffs: riffs(score.grid, &own, &plays, lot),
            plays,
            pushes: std::array::from_fn(|part| part <= CHORDS && lot.chance(0.15)),
            pattern: own,
            second,
            turns: lot.pick(&[2, 4, 4]),
            stopped: false,
            kit,
            kit_levels,
            tones,
            levels,
            octaves: [
                -2.0 - lot.below(2) as f32,
                -1.0 + lot.below(2) as f32,
                lot.below(2) as f32,
                lot.below(2) as f32,
                -1.0,
            ],
            voicing: lot.pick(&VOICINGS),
            fills: lot.range(0.0, 0.8),
            pumps: if groove == Groove::Floor && lot.chance(0.5) { lot.range(0.2, 0.9) } else { 0.0 },
            drums: vec![0.0; length],
            music: vec![0.0; length],
            kicks: Vec::new(),
        }
    }

    pub(crate) fn play(&mut self, score: &Score<'_>, turn: &Turn<'_>, piece: &mut Piece, lot: &mut Lot) {
        let Turn { section, bar, inside } = *turn;
        if section.drums && !self.pattern.is_empty() {
            self.beat(score, turn, piece, lot);
        }
        if let Some(voice) = section.rise.rolls.filter(|_| inside * 2 >= section.bars) {
            let by = if inside + 2 >= section.bars { 1 } else { score.grid.half() };
            for step in (0..score.steps()).step_by(by) {
                let level = 0.3 + 0.5 * inside as f32 / section.bars as f32;
                self.hit(score, voice, [bar, step], level, piece, lot);
            }
        }
        for part in 0..5 {
            if section.parts[part] {
                self.part(score, part, section.level, bar, piece, lot);
            }
        }
    }

    fn beat(&mut self, score: &Score<'_>, turn: &Turn<'_>, piece: &mut Piece, lot: &mut Lot) {
        let Turn { section, bar, inside } = *turn;
        let last = inside + 1 == section.bars;
        let (until, filled) = if last && lot.chance(self.fills) {
            fill(score.grid.bar, score.grid.sub, lot)
        } else {
            (score.steps(), Vec::new())
        };
        let pattern = if inside % self.turns == self.turns - 1 { self.second.clone() } else { self.pattern.clone() };
        let hits = pattern.into_iter().filter(|(_, step, _)| *step < until).chain(filled);
        for (voice, step, level) in hits {
            if section.full || matches!(voice, Voice::Hat | Voice::Ring | Voice::Rim) {
                self.hit(score, voice, [bar, step], level * section.level * lot.range(0.8, 1.0), piece, lot);
            }
        }
        if inside == 0 && bar > 0 && section.full && lot.chance(0.4) {
            self.hit(score, Voice::Ring, [bar, 0], 1.0, piece, lot);
        }
    }

    fn hit(
        &mut self,
        score: &Score<'_>,
        voice: Voice,
        [bar, step]: [usize; 2],
        level: f32,
        piece: &mut Piece,
        lot: &mut Lot,
    ) {
        if self.stopped && step > 0 {
            return;
        }
        let time = score.time(bar, step, lot);
        let index = voice as usize;
        let loud = level * self.kit_levels[index];
        match &mut self.sampled_kit {
            Some((player, keys)) => {
                player.notes.push(Note { time, length: 0.1, key: keys[index], level: loud });
            }
            None => self.kit[index].hit(&mut self.drums, time, loud, lot),
        }
        piece.struck.push(Struck { time: time.max(0.0), voice, level });
        if voice == Voice::Kick {
            self.kicks.push(time);
        }
    }

    fn part(&mut self, score: &Score<'_>, part: usize, level: f32, bar: usize, piece: &mut Piece, lot: &mut Lot) {
        let level = level * self.levels[part];
        if part == PAD {
            self.hold(score, level, bar, lot);
            return;
        }
        let (omits, steps) = (self.riffs[part].omits, score.steps());
        let strokes: Vec<(usize, Stroke)> = self.riffs[part].bar(bar, steps).collect();
        for (step, stroke) in strokes {
            if lot.chance(omits) || (self.stopped && step > 0) {
                continue;
            }
            let early = step == 0 && bar > 0 && self.pushes[part] && lot.chance(0.7);
            let time =
                if early { score.time(bar - 1, steps - score.grid.half(), lot) } else { score.time(bar, step, lot) };
            let length = score.step_seconds(bar) * stroke.length * lot.range(0.85, 1.0);
            let loud = level * stroke.level * lot.range(0.9, 1.0);
            let root = score.harmony.root(bar as f64 + step as f64 / steps as f64);
            if part == CHORDS {
                self.chord(score, part, root + stroke.degree, [time, f64::from(length)], loud, lot);
                piece.notes.push(time);
                continue;
            }
            let degree = if self.riffs[part].rooted { root + stroke.degree } else { stroke.degree };
            let hz = score.hz(degree, self.octaves[part]);
            // Nobody can tell to 50 ms when a soft one sets in.
            if self.note(part, time, length, hz, loud, lot) {
                piece.notes.push(time);
            }
        }
    }

    /// What is held under a bar.
    fn hold(&mut self, score: &Score<'_>, level: f32, bar: usize, lot: &mut Lot) {
        if self.stopped {
            return;
        }
        let steps = score.steps();
        for held in score.harmony.held(bar) {
            let time = score.time(bar, (held.place * steps as f64) as usize, lot);
            let length = f64::from(score.step_seconds(bar)) * steps as f64 * held.bars;
            let root = score.harmony.root(bar as f64 + held.place);
            self.chord(score, PAD, root, [time, length], level, lot);
        }
    }

    /// Plays a note; whether one hears at once that it sets in.
    fn note(&mut self, part: usize, time: f64, length: f32, hz: f32, level: f32, lot: &mut Lot) -> bool {
        match &mut self.tones[part] {
            Instrument::Made(tone) => {
                tone.play(&mut self.music, time, length, hz, level, lot);
                tone.is_sudden()
            }
            Instrument::Sampled(player) => {
                let level = level / self.levels[part] * lot.range(0.5, 0.8);
                player.notes.push(Note { time, length: f64::from(length), key: key_of(hz), level });
                player.is_sudden()
            }
        }
    }

    /// Adds what the instruments of a bank play.
    pub(crate) fn perform(&mut self, bank: &Bank) {
        let length = self.music.len();
        let add = |mix: &mut Mix, player: &Player, level: f32| {
            if !player.notes.is_empty() {
                let played = bank.perform(player, length);
                mix.iter_mut().zip(played).for_each(|(mix, played)| *mix += played * level);
            }
        };
        if let Some((player, _)) = &self.sampled_kit {
            add(&mut self.drums, player, 1.0);
        }
        for (tone, level) in self.tones.iter().zip(self.levels) {
            if let Instrument::Sampled(player) = tone {
                add(&mut self.music, player, level * 1.3);
            }
        }
    }

    fn chord(
        &mut self,
        score: &Score<'_>,
        part: usize,
        root: i32,
        [time, length]: [f64; 2],
        level: f32,
        lot: &mut Lot,
    ) {
        let strum = if part == CHORDS && lot.chance(0.3) { f64::from(lot.range(0.0, 0.02)) } else { 0.0 };
        let voices = self.voicing;
        for (place, third) in voices.iter().enumerate() {
            let hz = score.hz(root + third, self.octaves[part]);
            let time = time + strum * place as f64;
            self.note(part, time, length as f32, hz, level, lot);
        }
    }
}
