//! Pieces: a style and a seed make notes and hits, and these make samples and their truth.

use crate::RATE;
use crate::groove::{Bar, Groove, Voice, besides, fill, pattern};
use crate::harmony::Harmony;
use crate::lot::Lot;
use crate::noises::{hiss, speech};
use crate::rhythm::Grid;
use crate::riff::{ARPEGGIO, BASS, CHORDS, MELODY, Riff, Stroke, riffs};
use crate::sampled::{Bank, Note, Player, key_of, keys};
use crate::sound::{Drum, Mix, Tone, compress, dull, room, tone_controls};
use crate::style::{Finish, Form, Moves, Style};
use crate::tempo::{Motion, TempoMap};

/// One hit of a drum, as it is heard.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Struck {
    /// When, in seconds.
    pub time: f64,
    /// Which drum.
    pub voice: Voice,
    /// How loud among the drums.
    pub level: f32,
}

/// A piece of music and its truth.
#[derive(Debug, Clone, Default)]
pub struct Piece {
    /// Mono, 48,000 a second.
    pub samples: Vec<f32>,
    /// The drums and everything else, each in its room, before they are mixed and recorded.
    pub stems: [Vec<f32>; 2],
    /// When the beats are, in seconds.
    pub beats: Vec<f64>,
    /// When bars begin.
    pub downbeats: Vec<f64>,
    /// The hits of the drums.
    pub struck: Vec<Struck>,
    /// When pitched notes set in.
    pub notes: Vec<f64>,
    /// Parts: when they begin, and what they are.
    pub sections: Vec<(f64, &'static str)>,
    /// The tonic as a pitch class from C on, and whether the key is minor.
    pub key: (usize, bool),
}

/// What plays in some bars.
#[derive(Debug, Clone, Copy)]
struct Section {
    kind: &'static str,
    bars: usize,
    drums: bool,
    /// Hats only, or all of the drums.
    full: bool,
    parts: [bool; 5],
    /// How loud.
    level: f32,
    /// Rolls of the snare that thicken.
    rises: bool,
}

/// The part that is held, behind those that play riffs.
const PAD: usize = 4;
/// How often all strike once in the last bar of a section and are silent then.
const STOPS: f32 = 0.06;

fn sections(style: &Style, bars: usize, lot: &mut Lot) -> Vec<Section> {
    let mut mine = [false; 5];
    for (mine, likely) in mine.iter_mut().zip(style.parts) {
        *mine = lot.chance(likely);
    }
    // Something has to play.
    if style.grooves == [Groove::None] && !mine[CHORDS] && !mine[ARPEGGIO] && !mine[MELODY] && !mine[BASS] {
        mine[if lot.chance(0.5) { CHORDS } else { ARPEGGIO }] = true;
    }
    let all = Section { kind: "drop", bars: 8, drums: true, full: true, parts: mine, level: 1.0, rises: false };
    let calm =
        Section { kind: "breakdown", drums: false, level: 0.6, parts: [false, true, mine[2], mine[3], true], ..all };
    match style.form {
        Form::Club => {
            let intro = Section { kind: "intro", parts: [false; 5], level: 0.8, ..all };
            let build =
                Section { kind: "build", parts: [false, true, true, false, true], level: 0.7, rises: true, ..all };
            let drop = Section { parts: [true, true, mine[2], mine[3], mine[4]], bars: 16, ..all };
            let outro = Section { kind: "outro", ..intro };
            vec![intro, build, drop, Section { bars: 8, ..calm }, build, drop, outro]
        }
        Form::Breakdown => {
            vec![Section { bars: 16, ..all }, Section { bars: 32, ..calm }, Section { bars: 64, ..all }]
        }
        Form::Free => {
            let mut list = Vec::new();
            let mut gone = 0;
            while gone < bars {
                let bars = lot.pick(&[2, 4, 4, 8, 8]);
                let mut section = Section { bars, ..all };
                section.drums = lot.chance(0.88);
                section.full = lot.chance(0.85);
                for part in &mut section.parts {
                    *part &= lot.chance(0.85);
                }
                if !section.drums || style.grooves == [Groove::None] {
                    // Where there are no drums, what else there is goes on.
                    section.parts = mine;
                }
                section.level = lot.range(0.7, 1.0);
                gone += bars;
                list.push(section);
            }
            list
        }
    }
}

/// Where a step of the grid lies, in beats, with its swing.
fn place(step: usize, sub: usize, swing: f32) -> f64 {
    let (whole, rest) = (step / sub, step % sub);
    if sub == 4 {
        // Halves of each half beat: the second is later.
        let (half, second) = (rest / 2, rest % 2);
        let inside = if second == 1 { f64::from(swing) } else { 0.0 };
        // Slow music swings in eighths, which comes to the same on a coarser grid.
        whole as f64 + 0.5 * (half as f64 + inside)
    } else {
        whole as f64 + rest as f64 / sub as f64
    }
}

/// What all instruments of a piece need to know.
struct Score<'a> {
    map: &'a TempoMap,
    grid: Grid,
    swing: f32,
    /// How far off its place a hit is at most, in seconds.
    loose: f32,
    tonic: f32,
    minor: bool,
    harmony: Harmony,
}

impl Score<'_> {
    fn time(&self, bar: usize, step: usize, lot: &mut Lot) -> f64 {
        let beat = (bar * self.grid.bar) as f64 + place(step, self.grid.sub, self.swing);
        self.map.time(beat) + f64::from(lot.bell() * self.loose)
    }

    fn scale(&self) -> [f32; 7] {
        if self.minor { [0.0, 2.0, 3.0, 5.0, 7.0, 8.0, 10.0] } else { [0.0, 2.0, 4.0, 5.0, 7.0, 9.0, 11.0] }
    }

    /// The pitch of a degree of the scale, which may lie octaves away.
    fn hz(&self, degree: i32, octave: f32) -> f32 {
        let semitones = self.scale()[degree.rem_euclid(7) as usize] + 12.0 * degree.div_euclid(7) as f32;
        self.tonic * ((semitones + 12.0 * octave) / 12.0).exp2()
    }

    fn steps(&self) -> usize {
        self.grid.steps()
    }

    fn step_seconds(&self, bar: usize) -> f32 {
        let beat = (bar * self.grid.bar) as f64;
        ((self.map.time(beat + 1.0) - self.map.time(beat)) / self.grid.sub as f64) as f32
    }
}

/// Makes a piece of about so many seconds.
#[must_use]
pub fn piece(style: &Style, seconds: f64, seed: u64) -> Piece {
    piece_with(None, style, seconds, seed)
}

/// Makes a piece of about so many seconds, some of whose instruments are of a bank.
#[must_use]
pub fn piece_with(bank: Option<&Bank>, style: &Style, seconds: f64, seed: u64) -> Piece {
    let mut lot = Lot::new(seed);
    let lot = &mut lot;
    let bpm = lot.scale(style.bpm[0], style.bpm[1]);
    let human = Motion::Human(lot.scale(0.002, 0.02));
    let motion = match style.moves {
        Moves::Usual if lot.chance(0.75) => Motion::Steady,
        Moves::Usual | Moves::Human => human,
        Moves::Free if lot.chance(0.5) => Motion::Human(lot.scale(0.015, 0.05)),
        Moves::Free => Motion::Bend(lot.range(0.01, 0.06)),
        Moves::Ramp => Motion::Ramp(if lot.chance(0.5) { lot.range(1.1, 1.35) } else { lot.range(0.75, 0.9) }),
        Moves::Jump => Motion::Jump(if lot.chance(0.5) { lot.range(1.04, 1.2) } else { lot.range(0.85, 0.96) }),
        Moves::Bend => Motion::Bend(lot.range(0.01, 0.05)),
    };
    let start = f64::from(if lot.chance(0.5) { 0.0 } else { lot.range(0.0, 2.0) });
    let map = TempoMap::new(bpm, motion, style.bar, [start, seconds], lot);
    let minor = lot.chance(0.5);
    let tonic_class = lot.below(12);
    let score = Score {
        map: &map,
        grid: Grid { bar: style.bar, sub: style.sub },
        swing: lot.range(style.swing[0], style.swing[1]),
        loose: if motion == Motion::Steady { lot.range(0.0, 0.001) } else { lot.range(0.001, 0.009) },
        tonic: 261.625_58 * (tonic_class as f32 / 12.0 - if tonic_class > 6 { 1.0 } else { 0.0 }).exp2(),
        minor,
        harmony: Harmony::new(style.bar, lot),
    };
    let end = map.beats().iter().take_while(|time| **time < seconds).count();
    let bars = end / style.bar + 1;
    let mut piece = Piece {
        samples: Vec::new(),
        stems: [Vec::new(), Vec::new()],
        beats: map.beats()[..end].to_vec(),
        downbeats: map.beats()[..end].iter().step_by(style.bar).copied().collect(),
        struck: Vec::new(),
        notes: Vec::new(),
        sections: Vec::new(),
        key: (tonic_class, minor),
    };
    let mut band = Band::new(bank, style, &score, (seconds * RATE) as usize, lot);
    let mut bar = 0;
    for section in sections(style, bars, lot) {
        if bar >= bars {
            break;
        }
        piece.sections.push((map.time((bar * style.bar) as f64), section.kind));
        if lot.chance(0.3) {
            // Other parts of a song go otherwise.
            let kicks = band.pattern.clone();
            band.riffs = riffs(score.grid, &kicks, lot);
        }
        let stops = lot.chance(STOPS);
        for inside in 0..section.bars {
            band.stopped = stops && inside + 1 == section.bars;
            if bar < bars {
                band.play(&score, &section, bar, inside, &mut piece, lot);
            }
            bar += 1;
        }
    }
    if let Some(bank) = bank {
        band.perform(bank);
    }
    (piece.samples, piece.stems) = finish(band, style, lot);
    piece.struck.sort_by(|a, b| a.time.total_cmp(&b.time));
    piece.struck.retain(|hit| hit.time < seconds - 0.05);
    piece.notes.sort_by(f64::total_cmp);
    piece
}

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
struct Band {
    /// The drums of a bank, and its keys.
    sampled_kit: Option<(Player, [u8; 6])>,
    pattern: Bar,
    second: Bar,
    /// After how many bars the second pattern comes.
    turns: usize,
    /// Whether all strike once in this bar and are silent then.
    stopped: bool,
    kit: [Drum; 6],
    kit_levels: [f32; 6],
    tones: [Instrument; 5],
    levels: [f32; 5],
    riffs: [Riff; 4],
    /// Whether a part anticipates the first of a bar by half a beat.
    pushes: [bool; 5],
    octaves: [f32; 5],
    /// The tones of a chord, as degrees from its root on.
    voicing: &'static [i32],
    /// How often a bar before a new part has a fill.
    fills: f32,
    /// How much the kick pushes everything else down.
    pumps: f32,
    drums: Mix,
    music: Mix,
    kicks: Vec<f64>,
}

impl Band {
    fn new(bank: Option<&Bank>, style: &Style, score: &Score<'_>, length: usize, lot: &mut Lot) -> Self {
        let groove = lot.pick(style.grooves);
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
        // Most bars are alike in most music.
        let second = if lot.chance(0.5) { own.clone() } else { pattern(groove, style.bar, style.sub, lot) };
        Self {
            sampled_kit,
            riffs: riffs(score.grid, &own, lot),
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

    fn play(
        &mut self,
        score: &Score<'_>,
        section: &Section,
        bar: usize,
        inside: usize,
        piece: &mut Piece,
        lot: &mut Lot,
    ) {
        if section.drums && !self.pattern.is_empty() {
            self.beat(score, section, bar, inside, piece, lot);
        }
        if section.rises && inside * 2 >= section.bars {
            let by = if inside + 2 >= section.bars { 1 } else { score.grid.half() };
            for step in (0..score.steps()).step_by(by) {
                let level = 0.3 + 0.5 * inside as f32 / section.bars as f32;
                self.hit(score, Voice::Snare, [bar, step], level, piece, lot);
            }
        }
        for part in 0..5 {
            if section.parts[part] {
                self.part(score, part, section.level, bar, piece, lot);
            }
        }
    }

    fn beat(
        &mut self,
        score: &Score<'_>,
        section: &Section,
        bar: usize,
        inside: usize,
        piece: &mut Piece,
        lot: &mut Lot,
    ) {
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
    fn perform(&mut self, bank: &Bank) {
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

/// The band in its room and through its recorder.
fn finish(band: Band, style: &Style, lot: &mut Lot) -> (Mix, [Mix; 2]) {
    let Band { mut drums, mut music, kicks, pumps, .. } = band;
    if pumps > 0.0 {
        for time in kicks {
            let start = ((time.max(0.0) * RATE) as usize).min(music.len());
            let length = (0.25 * RATE) as usize;
            for (index, sample) in music[start..].iter_mut().take(length).enumerate() {
                *sample *= 1.0 - pumps * (1.0 - index as f32 / length as f32);
            }
        }
    }
    if lot.chance(0.7) {
        let (wet, size) = (lot.range(0.05, 0.6), lot.range(0.6, 1.8));
        room(&mut music, wet, size, lot);
    }
    if lot.chance(0.5) {
        let (wet, size) = (lot.range(0.02, 0.4), lot.range(0.4, 1.4));
        room(&mut drums, wet, size, lot);
    }
    let mut mix: Mix = drums.iter().zip(&music).map(|(d, m)| d + m).collect();
    if lot.chance(0.15) {
        // Somebody raps or talks over it.
        let level = lot.range(0.05, 0.4);
        speech(&mut mix, level, lot);
    }
    if lot.chance(0.08) {
        let level = lot.scale(0.003, 0.05);
        hiss(&mut mix, level, lot);
    }
    if lot.chance(0.7) {
        let (bass, treble) = (lot.scale(0.3, 2.0), lot.scale(0.3, 2.0));
        tone_controls(&mut mix, bass, treble);
    }
    if lot.chance(0.5) {
        let (amount, release) = (lot.range(0.2, 2.0), lot.range(0.05, 0.3));
        compress(&mut mix, amount, release);
    }
    if lot.chance(0.15) {
        let hz = lot.scale(2500.0, 9000.0);
        dull(&mut mix, hz);
    }
    let most = mix.iter().fold(1e-6f32, |most, sample| most.max(sample.abs()));
    let level = match style.finish {
        Finish::Usual => lot.scale(0.1, 1.3),
        Finish::Quiet => lot.scale(0.002, 0.02),
        Finish::Clipped => lot.range(3.0, 8.0),
    } / most;
    mix.iter_mut().for_each(|sample| *sample *= level);
    if lot.chance(0.3) || style.finish == Finish::Quiet {
        let floor = lot.scale(0.0002, 0.004) * if style.finish == Finish::Quiet { 0.1 } else { 1.0 };
        hiss(&mut mix, floor, lot);
    }
    mix.iter_mut().for_each(|sample| *sample = sample.clamp(-1.0, 1.0));
    (mix, [drums, music])
}
