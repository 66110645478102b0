//! The names and functions of formulas.

use crate::maths;

/// The present as a formula knows it.
#[derive(Debug, Clone, Copy)]
pub struct Present<'a> {
    /// Seconds since the start.
    pub time: f64,
    /// The position in beats.
    pub beat: f64,
    /// Beats in a bar.
    pub bar_beats: f64,
    /// Beats a minute.
    pub tempo: f32,
    /// The hearing at the moment, in numbers.
    pub heard: Heard<'a>,
    /// The controls, 0..1 each.
    pub controls: &'a [f32],
    /// 1 at an onset, falling to 0 within a beat.
    pub onset: f32,
    /// The same for low, middle and high hits.
    pub hits: [f32; 3],
}

/// The hearing as a formula knows it.
#[derive(Debug, Clone, Copy, Default)]
pub struct Heard<'a> {
    /// Loudness, 0..1.
    pub level: f32,
    /// The low bands, 0..1.
    pub bass: f32,
    /// The middle bands, 0..1.
    pub mids: f32,
    /// The high bands, 0..1.
    pub highs: f32,
    /// Every band, 0..1, from the lowest.
    pub bands: &'a [f32],
    /// The peak, 0..1 of full scale.
    pub peak: f32,
    /// Loudness as it is perceived, in LUFS.
    pub loudness: f32,
    /// The middle of the spectrum, in hertz.
    pub centroid: f32,
    /// The strongest pitch, in hertz; 0 where there is none.
    pub pitch: f32,
    /// Changes of the chord since the start.
    pub chords: f64,
    /// The part of the music: 0 intro, 1 build, 2 drop, 3 breakdown, 4 outro.
    pub section: f64,
}

/// The names, and what each means.
pub const NAMES: [(&str, &str); 18] = [
    ("time", "seconds since the start"),
    ("beat", "beats since the start; whole at each beat"),
    ("bar", "bars since the start; whole at each bar"),
    ("tempo", "beats a minute"),
    ("level", "loudness, 0 to 1"),
    ("bass", "the low bands, 0 to 1"),
    ("mids", "the middle bands, 0 to 1"),
    ("highs", "the high bands, 0 to 1"),
    ("onset", "1 at each attack, falling to 0 within a beat"),
    ("peak", "the peak of the sound, 0 to 1 of full scale"),
    ("kick", "1 at each low hit, falling to 0 within a beat"),
    ("snare", "1 at each hit in the middle, falling to 0 within a beat"),
    ("hat", "1 at each high hit, falling to 0 within a beat"),
    ("loudness", "how loud it is perceived, in LUFS: -90 in silence, about -10 at a set"),
    ("centroid", "the middle of the spectrum, in hertz"),
    ("pitch", "the strongest pitch in semitones from the A of 440 Hz; 0 where there is none"),
    ("chords", "how often the chord has changed since the start"),
    ("section", "0 intro, 1 build, 2 drop, 3 breakdown, 4 outro"),
];

/// The value of a name, by its place in [`NAMES`].
pub(super) fn value(name: usize, present: &Present<'_>) -> f64 {
    match name {
        0 => present.time,
        1 => present.beat,
        2 => present.beat / present.bar_beats.max(1.0),
        3 => f64::from(present.tempo),
        4 => f64::from(present.heard.level),
        5 => f64::from(present.heard.bass),
        6 => f64::from(present.heard.mids),
        7 => f64::from(present.heard.highs),
        8 => f64::from(present.onset),
        9 => f64::from(present.heard.peak),
        10 => f64::from(present.hits[0]),
        11 => f64::from(present.hits[1]),
        12 => f64::from(present.hits[2]),
        13 => f64::from(present.heard.loudness),
        14 => f64::from(present.heard.centroid),
        15 => pitch(present.heard.pitch),
        16 => present.heard.chords,
        _ => present.heard.section,
    }
}

/// Semitones from the A of 440 Hz.
fn pitch(hertz: f32) -> f64 {
    if hertz > 0.0 { 12.0 * f64::from(hertz / 440.0).log2() } else { 0.0 }
}

/// A function.
pub struct Function {
    /// Its name.
    pub name: &'static str,
    /// The number of arguments that it takes.
    pub arguments: usize,
    /// Its function.
    pub help: &'static str,
    pub(super) run: fn(&[f64], &Present<'_>) -> f64,
}

/// The sine of turns, whatever their number.
fn sin(turns: f64) -> f64 {
    f64::from(maths::sin_turns((turns - turns.floor()) as f32))
}

fn fract(x: f64) -> f64 {
    x - x.floor()
}

/// A number that looks drawn by lot, 0..1, the same for the same whole number.
fn rand(x: f64) -> f64 {
    f64::from(maths::unit(maths::hash(x.floor().rem_euclid(4_294_967_296.0) as u32 ^ 0x5eed)))
}

fn smooth(t: f64) -> f64 {
    let t = t.clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

/// The functions.
pub const FUNCTIONS: &[Function] = &[
    Function { name: "sin", arguments: 1, help: "the sine of turns, -1 to 1", run: |a, _| sin(a[0]) },
    Function { name: "cos", arguments: 1, help: "the cosine of turns, -1 to 1", run: |a, _| sin(a[0] + 0.25) },
    Function {
        name: "tri",
        arguments: 1,
        help: "a triangle once a turn, 1 to -1 and back",
        run: |a, _| 4.0 * (fract(a[0]) - 0.5).abs() - 1.0,
    },
    Function { name: "saw", arguments: 1, help: "rises from -1 to 1 once a turn", run: |a, _| 2.0 * fract(a[0]) - 1.0 },
    Function {
        name: "square",
        arguments: 1,
        help: "1 for half a turn, then -1",
        run: |a, _| if fract(a[0]) < 0.5 { 1.0 } else { -1.0 },
    },
    Function { name: "abs", arguments: 1, help: "without its sign", run: |a, _| a[0].abs() },
    Function { name: "floor", arguments: 1, help: "the whole number below", run: |a, _| a[0].floor() },
    Function { name: "fract", arguments: 1, help: "what is left above the whole number", run: |a, _| fract(a[0]) },
    Function { name: "sqrt", arguments: 1, help: "the square root", run: |a, _| a[0].max(0.0).sqrt() },
    Function { name: "min", arguments: 2, help: "the smaller of two", run: |a, _| a[0].min(a[1]) },
    Function { name: "max", arguments: 2, help: "the larger of two", run: |a, _| a[0].max(a[1]) },
    Function {
        name: "clamp",
        arguments: 3,
        help: "the first, not below the second nor above the third",
        run: |a, _| a[0].min(a[2]).max(a[1]),
    },
    Function {
        name: "mix",
        arguments: 3,
        help: "from the first to the second by the share of the third",
        run: |a, _| a[0] + (a[1] - a[0]) * a[2],
    },
    Function { name: "smooth", arguments: 1, help: "0 to 1, flat at both ends", run: |a, _| smooth(a[0]) },
    Function {
        name: "if",
        arguments: 3,
        help: "the second if the first is not 0, else the third",
        run: |a, _| if a[0] != 0.0 { a[1] } else { a[2] },
    },
    Function {
        name: "rand",
        arguments: 1,
        help: "a number drawn by lot for each whole number, 0 to 1",
        run: |a, _| rand(a[0]),
    },
    Function {
        name: "noise",
        arguments: 1,
        help: "wanders smoothly between such numbers",
        run: |a, _| rand(a[0]) + (rand(a[0] + 1.0) - rand(a[0])) * smooth(fract(a[0])),
    },
    Function {
        name: "band",
        arguments: 1,
        help: "a band of the music, 1 (low) to 24 (high), 0 to 1",
        run: |a, p| p.heard.bands.get((a[0] as usize).wrapping_sub(1)).map_or(0.0, |b| f64::from(*b)),
    },
    Function {
        name: "control",
        arguments: 1,
        help: "a control, 1 to 16, 0 to 1",
        run: |a, p| p.controls.get((a[0] as usize).wrapping_sub(1)).map_or(0.0, |c| f64::from(*c)),
    },
];
