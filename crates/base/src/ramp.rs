//! Gradients as people write them, and the table they are drawn from.

use std::fmt;
use std::str::FromStr;

use multiversion::multiversion;

use crate::colour::{Hex, OkLab, Rgba};
use crate::colour_words;
use crate::maths;

/// One colour of a gradient, as [`colour_words`] reads it, and behind it either where it stands (`0.25`, from 0 to 1) or how much room it
/// takes against the others (`x3`), if it is not to stand evenly among them.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stop {
    /// The colour.
    pub colour: Hex,
    /// Its place on the gradient, 0..1.
    pub at: Option<f32>,
    /// The room that it takes against the others, 0.01..100.
    pub room: f32,
}

impl Stop {
    /// A colour that stands evenly among others.
    #[must_use]
    pub fn of(colour: Hex) -> Self {
        Self { colour, at: None, room: 1.0 }
    }
}

/// The way the colours of a gradient meet.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Mixing {
    /// The path on which one colour becomes the next.
    pub path: Path,
    /// The share of the way between two colours that is left out: 0 is all of it, 1 has an edge in the middle.
    pub sharpness: f32,
}

/// The way from one colour to the next.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Path {
    /// Straight through OKLab.
    #[default]
    Smooth,
    /// Along the hue circle upward: red, yellow, green, blue.
    HueUp,
    /// Along the hue circle downward: red, blue, green, yellow.
    HueDown,
    /// Not at all: each colour is a band.
    Steps,
}

/// The words by which a parameter chooses a [`Path`].
pub const PATHS: &[&str] = &["smooth", "hue up", "hue down", "steps"];

impl Path {
    /// The path of a place in [`PATHS`].
    #[must_use]
    pub fn nth(index: usize) -> Self {
        [Self::Smooth, Self::HueUp, Self::HueDown, Self::Steps][index.min(3)]
    }
}

/// A text that is no stop.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error(
    "\"{0}\" is not a colour: write \"#ff8800\", a name such as \"orange\", a white such as \"3200 K\", or \"{{name}}\" of the palette, and after it where it stands, such as \"#0080ff 0.25\", or how much room it takes, such as \"#0080ff x3\""
)]
pub struct BadStop(String);

impl FromStr for Stop {
    type Err = BadStop;

    fn from_str(text: &str) -> Result<Self, BadStop> {
        let bad = || BadStop(text.to_owned());
        if let Some(colour) = colour_words::parse(text) {
            return Ok(Self::of(colour));
        }
        // A colour may be several words; where it stands, or its room, is the last.
        let (colour, place) = text.trim().rsplit_once(char::is_whitespace).ok_or_else(bad)?;
        let mut stop = Self::of(colour_words::parse(colour).ok_or_else(bad)?);
        match place.strip_prefix('x') {
            Some(room) => {
                stop.room = room.parse().ok().filter(|room| (0.01..=100.0).contains(room)).ok_or_else(bad)?;
            }
            None => stop.at = Some(place.parse::<f32>().ok().filter(|at| (0.0..=1.0).contains(at)).ok_or_else(bad)?),
        }
        Ok(stop)
    }
}

impl fmt::Display for Stop {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.at {
            Some(at) => write!(f, "{} {at}", self.colour),
            None if self.room != 1.0 => write!(f, "{} x{}", self.colour, self.room),
            None => self.colour.fmt(f),
        }
    }
}

/// The number of entries that a [`Ramp`] has: neighbours differ by a thousandth of lightness, which is less than a step of 8 bits, so
/// that the nearest is as good as a mix.
const ENTRIES: usize = 1024;
/// The last of them.
const LAST: f32 = (ENTRIES - 1) as f32;

/// A gradient as a table of linear light, mixed in OKLab. Looking a colour up costs the same for any number of stops.
#[derive(Debug, Clone, PartialEq)]
pub struct Ramp {
    table: Box<[Rgba; ENTRIES]>,
}

impl Ramp {
    /// A gradient from its first stop (at 0) to its last (at 1).
    #[must_use]
    pub fn open(stops: &[Stop], mixing: Mixing) -> Self {
        Self::baked(&placed(stops, false, mixing), mixing)
    }

    /// A gradient that goes on from its last stop to its first, so that it can go round without an edge.
    #[must_use]
    pub fn closed(stops: &[Stop], mixing: Mixing) -> Self {
        Self::baked(&closed(stops, mixing), mixing)
    }

    fn baked(placed: &[Placed], mixing: Mixing) -> Self {
        let mut ramp = Self { table: Box::new([[0.0; 4]; ENTRIES]) };
        ramp.bake(placed, mixing, 0.0, 1.0);
        ramp
    }

    /// Bakes the table anew, with all hues turned by some turns and all light multiplied. Allocates nothing.
    fn bake(&mut self, placed: &[Placed], mixing: Mixing, hue: f32, brightness: f32) {
        let turn = (hue != 0.0).then(|| (maths::cos_turns(hue), maths::sin_turns(hue)));
        let mut next = 0;
        for (i, entry) in self.table.iter_mut().enumerate() {
            let t = i as f32 / LAST;
            while next < placed.len() && placed[next].at <= t {
                next += 1;
            }
            let (mut lab, alpha) = mixed_at(placed, next, t, mixing);
            if let Some((cos, sin)) = turn {
                lab = OkLab { a: lab.a * cos - lab.b * sin, b: lab.a * sin + lab.b * cos, ..lab };
            }
            let [r, g, b] = lab.to_linear();
            *entry = [r * brightness, g * brightness, b * brightness, alpha];
        }
    }

    /// The colour at `t`, which is clamped to 0..1.
    #[inline(always)]
    #[must_use]
    pub fn at(&self, t: f32) -> Rgba {
        self.table[entry(t)]
    }

    /// The colour at `t` turns round the gradient.
    #[inline(always)]
    #[must_use]
    pub fn around(&self, t: f32) -> Rgba {
        self.at(maths::fract(t))
    }

    /// The colours at some places, each clamped to 0..1.
    pub fn colour_along(&self, places: &[f32], out: &mut [Rgba]) {
        let mut entries = [0; AT_ONCE];
        for (places, out) in places.chunks(AT_ONCE).zip(out.chunks_mut(AT_ONCE)) {
            entries_along(places, &mut entries[..places.len()]);
            self.look_up(&entries, out);
        }
    }

    /// The colours at some places, in turns round the gradient.
    pub fn colour_around(&self, places: &[f32], out: &mut [Rgba]) {
        let mut entries = [0; AT_ONCE];
        for (places, out) in places.chunks(AT_ONCE).zip(out.chunks_mut(AT_ONCE)) {
            entries_around(places, &mut entries[..places.len()]);
            self.look_up(&entries, out);
        }
    }

    /// As [`Self::colour_along`], with a share of each alpha.
    pub fn covered_along(&self, places: &[f32], cover: &[f32], out: &mut [Rgba]) {
        let mut entries = [0; AT_ONCE];
        let chunks = places.chunks(AT_ONCE).zip(cover.chunks(AT_ONCE)).zip(out.chunks_mut(AT_ONCE));
        for ((places, cover), out) in chunks {
            entries_along(places, &mut entries[..places.len()]);
            self.look_up_covered(&entries, cover, out);
        }
    }

    /// As [`Self::colour_around`], with a share of each alpha.
    pub fn covered_around(&self, places: &[f32], cover: &[f32], out: &mut [Rgba]) {
        let mut entries = [0; AT_ONCE];
        let chunks = places.chunks(AT_ONCE).zip(cover.chunks(AT_ONCE)).zip(out.chunks_mut(AT_ONCE));
        for ((places, cover), out) in chunks {
            entries_around(places, &mut entries[..places.len()]);
            self.look_up_covered(&entries, cover, out);
        }
    }

    fn look_up_covered(&self, entries: &[u32; AT_ONCE], cover: &[f32], out: &mut [Rgba]) {
        for ((out, &entry), &cover) in out.iter_mut().zip(entries).zip(cover) {
            let [r, g, b, a] = self.table[entry as usize & (ENTRIES - 1)];
            *out = [r, g, b, a * cover];
        }
    }

    fn look_up(&self, entries: &[u32; AT_ONCE], out: &mut [Rgba]) {
        for (out, &entry) in out.iter_mut().zip(entries) {
            *out = self.table[entry as usize & (ENTRIES - 1)];
        }
    }
}

/// Places that are looked up together: finding where they stand in the table goes many at a time, looking there does not.
const AT_ONCE: usize = 256;

#[inline(always)]
fn entry(t: f32) -> usize {
    maths::round_to_bits::<{ ENTRIES as u32 - 1 }>(t.clamp(0.0, 1.0) * LAST) as usize
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn entries_along(places: &[f32], out: &mut [u32]) {
    for (out, &place) in out.iter_mut().zip(places) {
        *out = entry(place) as u32;
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn entries_around(places: &[f32], out: &mut [u32]) {
    for (out, &place) in out.iter_mut().zip(places) {
        *out = entry(maths::fract(place)) as u32;
    }
}

/// A stop at its place.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Placed {
    at: f32,
    /// The room that it takes against its neighbours: the edge between two lies where their rooms meet.
    room: f32,
    lab: OkLab,
    alpha: f32,
}

/// A gradient that is baked anew as its hue and brightness are moved.
#[derive(Debug, Clone, PartialEq)]
pub struct MovableRamp {
    placed: Vec<Placed>,
    mixing: Mixing,
    moved: (f32, f32),
    ramp: Ramp,
}

impl MovableRamp {
    /// A gradient of stops; a round one leads from its last stop back to the first.
    #[must_use]
    pub fn new(stops: &[Stop], mixing: Mixing, round: bool) -> Self {
        let placed = if round { closed(stops, mixing) } else { placed(stops, false, mixing) };
        Self { ramp: Ramp::baked(&placed, mixing), placed, mixing, moved: (0.0, 1.0) }
    }

    /// Turns all hues (in turns) and multiplies all light.
    pub fn move_to(&mut self, hue: f32, brightness: f32) {
        if self.moved != (hue, brightness) {
            self.moved = (hue, brightness);
            self.ramp.bake(&self.placed, self.mixing, hue, brightness);
        }
    }
}

impl std::ops::Deref for MovableRamp {
    type Target = Ramp;
    fn deref(&self) -> &Ramp {
        &self.ramp
    }
}

/// The stops with a place each: those without one spread between those that have one, each in its room. `round` leaves
/// room behind the last for the way back to the first.
fn placed(stops: &[Stop], round: bool, mixing: Mixing) -> Vec<Placed> {
    let all: f32 = stops.iter().map(|stop| stop.room).sum();
    let half = |stop: Option<&Stop>| stop.map_or(0.0, |stop| stop.room / 2.0);
    let (first, last) = (half(stops.first()), half(stops.last()));
    // Bands stand in the middle of their room; else the first and the last stand at the ends.
    let (start, length) = match (round, mixing.path) {
        (true, _) => (first, all),
        (false, Path::Steps) => (0.0, all),
        (false, _) => (first, all - first - last),
    };
    let mut before = 0.0;
    let mut placed: Vec<Placed> = stops
        .iter()
        .map(|stop| {
            let middle = (before + stop.room / 2.0 - start) / length.max(f32::MIN_POSITIVE);
            before += stop.room;
            let [r, g, b, alpha] = stop.colour.to_linear();
            Placed { at: stop.at.unwrap_or(middle), room: stop.room, lab: OkLab::from_linear([r, g, b]), alpha }
        })
        .collect();
    placed.sort_by(|a, b| a.at.total_cmp(&b.at));
    placed
}

fn closed(stops: &[Stop], mixing: Mixing) -> Vec<Placed> {
    let mut placed = placed(stops, true, mixing);
    if let (Some(&first), Some(last)) = (placed.first(), placed.last())
        && last.at - 1.0 < first.at
    {
        placed.push(Placed { at: first.at + 1.0, ..first });
    }
    if let Some(&last) = placed.iter().rev().nth(1) {
        placed.insert(0, Placed { at: last.at - 1.0, ..last });
    }
    placed
}

/// The colour and alpha at `t`, before which `next` stops stand.
fn mixed_at(placed: &[Placed], next: usize, t: f32, mixing: Mixing) -> (OkLab, f32) {
    let Some(first) = placed.first() else { return (OkLab { l: 0.0, a: 0.0, b: 0.0 }, 0.0) };
    if next == 0 {
        return (first.lab, first.alpha);
    }
    let from = &placed[next - 1];
    let Some(to) = placed.get(next) else { return (from.lab, from.alpha) };
    let t = halved((t - from.at) / (to.at - from.at), from.room / (from.room + to.room));
    let left = 1.0 - mixing.sharpness.clamp(0.0, 1.0);
    let t = match mixing.path {
        Path::Steps => f32::from(t >= 0.5),
        _ if left < 1.0 => ((t - 0.5) / left.max(1e-6) + 0.5).clamp(0.0, 1.0),
        _ => t,
    };
    mix(from, to, t, mixing.path)
}

/// Moves a place between two stops, 0..1, so that half the way lies at `edge`.
fn halved(t: f32, edge: f32) -> f32 {
    if t < edge { t / (2.0 * edge) } else { 0.5 + (t - edge) / (2.0 * (1.0 - edge)) }
}

/// Mixes two stops. One that is wholly transparent lends the other no hue of its own.
fn mix(from: &Placed, to: &Placed, t: f32, path: Path) -> (OkLab, f32) {
    let alpha = from.alpha + (to.alpha - from.alpha) * t;
    let share = match (from.alpha > 0.0, to.alpha > 0.0) {
        (true, false) => 0.0,
        (false, true) => 1.0,
        _ => t,
    };
    let lab = match path {
        Path::Smooth | Path::Steps => from.lab.mix(to.lab, share),
        Path::HueUp => from.lab.mix_along_hue(to.lab, share, true),
        Path::HueDown => from.lab.mix_along_hue(to.lab, share, false),
    };
    (lab, alpha)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn stops(texts: &[&str]) -> Vec<Stop> {
        texts.iter().map(|t| t.parse().expect("a good stop")).collect()
    }

    #[test]
    fn stops_are_read_and_refused() {
        assert_eq!("#102030 0.5".parse::<Stop>().map(|s| s.to_string()), Ok("#102030 0.5".into()));
        assert_eq!("#102030 x2.5".parse::<Stop>().map(|s| s.to_string()), Ok("#102030 x2.5".into()));
        assert_eq!("Hot Pink".parse::<Stop>().map(|s| s.to_string()), Ok("#ff69b4".into()));
        assert_eq!("orange 0.25".parse::<Stop>().map(|s| s.to_string()), Ok("#ffa500 0.25".into()));
        assert_eq!("3200 K x2".parse::<Stop>().map(|s| (s.colour, s.room)), Ok((colour_words::white(3200.0), 2.0)));
        for bad in [
            "",
            "reddish",
            "0.5",
            "3200 0.5",
            "#112233 x0",
            "#112233 x",
            "#12",
            "#112233 2",
            "#112233 x",
            "#112233 0.5 0.6",
            "#112233 nan",
        ] {
            assert!(bad.parse::<Stop>().is_err(), "{bad}");
        }
    }

    #[test]
    fn an_open_ramp_ends_where_its_stops_do() {
        let ramp = Ramp::open(&stops(&["#000000", "#ffffff"]), Mixing::default());
        assert_eq!(ramp.at(-1.0), [0.0, 0.0, 0.0, 1.0]);
        assert!(ramp.at(1.0)[0] > 0.99 && ramp.at(7.0)[0] > 0.99);
        // Half way in OKLab lightness is 0.5^3 of the light.
        assert!((ramp.at(0.5)[1] - 0.125).abs() < 2e-3);
    }

    #[test]
    fn a_closed_ramp_has_no_edge_where_it_wraps() {
        for colours in [&["#ff0000", "#00ff00", "#0000ff"][..], &["#ff0000 0.2", "#0000ff 0.7"], &["#336699"]] {
            let ramp = Ramp::closed(&stops(colours), Mixing::default());
            let (end, start) = (ramp.around(0.9999), ramp.around(0.0001));
            for c in 0..4 {
                assert!((end[c] - start[c]).abs() < 0.02, "{colours:?}: {end:?} {start:?}");
            }
        }
    }

    #[test]
    fn a_clear_stop_fades_the_colour_and_not_through_black() {
        let ramp = Ramp::open(&stops(&["#ff0000", "#00000000"]), Mixing::default());
        let middle = ramp.at(0.5);
        assert!(middle[0] > 0.99 && (middle[3] - 0.5).abs() < 0.01, "{middle:?}");
    }

    #[test]
    fn no_stops_are_no_light() {
        assert_eq!(Ramp::closed(&[], Mixing::default()).at(0.3), [0.0; 4]);
    }

    #[test]
    fn colours_take_the_room_they_are_given() {
        let mixing = Mixing { path: Path::Steps, sharpness: 0.0 };
        let ramp = Ramp::open(&stops(&["#ff0000 x3", "#0000ff"]), mixing);
        let red = (0..100).filter(|i| ramp.at(*i as f32 / 99.0)[0] > 0.5).count();
        assert_eq!(red, 75);
        assert!(ramp.at(0.0)[0] > 0.99 && ramp.at(1.0)[2] > 0.99);
    }

    #[test]
    fn smooth_colours_take_the_room_they_are_given() {
        let half = |texts: &[&str], ramp: fn(&[Stop], Mixing) -> Ramp| {
            let ramp = ramp(&stops(texts), Mixing::default());
            // Where one colour is as much as the other.
            (0..1000).map(|i| i as f32 / 999.0).find(|t| ramp.at(*t)[1] < 0.125).expect("there is an edge")
        };
        assert!((half(&["#ffffff", "#000000"], Ramp::open) - 0.5).abs() < 0.02);
        assert!((half(&["#ffffff x3", "#000000"], Ramp::open) - 0.75).abs() < 0.02);
        assert!((half(&["#ffffff", "#000000 x3"], Ramp::open) - 0.25).abs() < 0.02);
        // Round, the first colour begins in the middle of its room.
        assert!((half(&["#ffffff x3", "#000000"], Ramp::closed) - 0.375).abs() < 0.02);
        // With places of their own, the edge between them still follows the rooms.
        assert_eq!(halved(0.75, 0.75), 0.5);
    }

    #[test]
    fn sharpness_leaves_an_edge_and_nothing_between() {
        let ramp = Ramp::open(&stops(&["#ff0000", "#0000ff"]), Mixing { path: Path::Smooth, sharpness: 1.0 });
        assert!(ramp.at(0.49)[0] > 0.99 && ramp.at(0.51)[2] > 0.99);
    }

    #[test]
    fn hues_go_round_the_way_they_are_told() {
        let at_half = |path| {
            let [r, g, b, _] = Ramp::open(&stops(&["#ff0000", "#0000ff"]), Mixing { path, sharpness: 0.0 }).at(0.5);
            (r, g, b)
        };
        let (up, down) = (at_half(Path::HueUp), at_half(Path::HueDown));
        assert!(up.1 > up.0 && up.1 > up.2, "green lies upward: {up:?}");
        assert!(down.1 < down.0 && down.1 < down.2, "magenta lies downward: {down:?}");
    }

    #[test]
    fn a_moved_ramp_comes_back() {
        let mut ramp = MovableRamp::new(&stops(&["#ff0000", "#00ff00"]), Mixing::default(), true);
        let before = ramp.at(0.3);
        ramp.move_to(0.25, 0.5);
        assert_ne!(ramp.at(0.3), before);
        ramp.move_to(0.0, 1.0);
        assert_eq!(ramp.at(0.3), before);
    }
}
