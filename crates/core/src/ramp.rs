//! Gradients as people write them, and the table they are drawn from.

use std::fmt;
use std::str::FromStr;

use multiversion::multiversion;

use crate::colour::{Hex, OkLab, Rgba};
use crate::maths;

/// One colour of a gradient: `#rrggbb[aa]`, and where it stands (0..1) if it is not to stand evenly among the others.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stop {
    /// The colour.
    pub colour: Hex,
    /// Where it stands on the gradient, 0..1.
    pub at: Option<f32>,
}

/// What a stop may not be.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error(
    "\"{0}\" is not a colour: write \"#rrggbb\" or \"#rrggbbaa\", and after it where it stands, such as \"#0080ff 0.25\""
)]
pub struct BadStop(String);

impl FromStr for Stop {
    type Err = BadStop;

    fn from_str(text: &str) -> Result<Self, BadStop> {
        let bad = || BadStop(text.to_owned());
        let mut words = text.split_whitespace();
        let colour = words.next().and_then(Hex::parse).ok_or_else(bad)?;
        let at = match words.next() {
            Some(word) => Some(word.parse::<f32>().ok().filter(|at| (0.0..=1.0).contains(at)).ok_or_else(bad)?),
            None => None,
        };
        if words.next().is_some() { Err(bad()) } else { Ok(Self { colour, at }) }
    }
}

impl fmt::Display for Stop {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.at {
            Some(at) => write!(f, "{} {at}", self.colour),
            None => self.colour.fmt(f),
        }
    }
}

/// How many entries a [`Ramp`] has: neighbours differ by a thousandth of lightness, which is less than a step of 8 bits, so
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
    pub fn open(stops: &[Stop]) -> Self {
        let placed = placed(stops, false);
        Self::baked(&placed)
    }

    /// A gradient that goes on from its last stop to its first, so that it can go round without an edge.
    #[must_use]
    pub fn closed(stops: &[Stop]) -> Self {
        let mut placed = placed(stops, true);
        if let (Some(&(first, colour)), Some(&(last, _))) = (placed.first(), placed.last())
            && last - 1.0 < first
        {
            placed.push((first + 1.0, colour));
        }
        if let Some(&(last, colour)) = placed.iter().rev().nth(1) {
            placed.insert(0, (last - 1.0, colour));
        }
        Self::baked(&placed)
    }

    fn baked(placed: &[(f32, Rgba)]) -> Self {
        let mut table = Box::new([[0.0; 4]; ENTRIES]);
        for (i, entry) in table.iter_mut().enumerate() {
            *entry = colour_at(placed, i as f32 / LAST);
        }
        Self { table }
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
        for (places, out) in places.chunks(AT_ONCE).zip(out.chunks_mut(AT_ONCE)) {
            let mut entries = [0; AT_ONCE];
            entries_along(places, &mut entries[..places.len()]);
            self.look_up(&entries, out);
        }
    }

    /// The colours at some places, in turns round the gradient.
    pub fn colour_around(&self, places: &[f32], out: &mut [Rgba]) {
        for (places, out) in places.chunks(AT_ONCE).zip(out.chunks_mut(AT_ONCE)) {
            let mut entries = [0; AT_ONCE];
            entries_around(places, &mut entries[..places.len()]);
            self.look_up(&entries, out);
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

/// The stops with a place each: those without one spread evenly between those that have one. `closed` leaves room
/// behind the last for the way back to the first.
fn placed(stops: &[Stop], closed: bool) -> Vec<(f32, Rgba)> {
    let count = stops.len();
    let end = if closed { count } else { count.saturating_sub(1) }.max(1) as f32;
    let mut placed: Vec<(f32, Rgba)> = stops
        .iter()
        .enumerate()
        .map(|(i, stop)| (stop.at.unwrap_or(i as f32 / end), stop.colour.to_linear()))
        .collect();
    placed.sort_by(|a, b| a.0.total_cmp(&b.0));
    placed
}

fn colour_at(placed: &[(f32, Rgba)], t: f32) -> Rgba {
    let Some(&first) = placed.first() else { return [0.0; 4] };
    let after = placed.iter().position(|&(at, _)| at > t);
    match after {
        Some(0) => first.1,
        None => placed[placed.len() - 1].1,
        Some(next) => {
            let ((from, a), (to, b)) = (placed[next - 1], placed[next]);
            mix(a, b, (t - from) / (to - from))
        }
    }
}

/// Mixes two colours in OKLab. A colour that is wholly transparent lends the other no hue of its own.
fn mix(a: Rgba, b: Rgba, t: f32) -> Rgba {
    let alpha = a[3] + (b[3] - a[3]) * t;
    let hue = match (a[3] > 0.0, b[3] > 0.0) {
        (true, false) => 0.0,
        (false, true) => 1.0,
        _ => t,
    };
    let lab = |c: Rgba| OkLab::from_linear([c[0], c[1], c[2]]);
    let [r, g, b] = lab(a).mix(lab(b), hue).to_linear();
    [r, g, b, alpha]
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
        for bad in ["", "red", "#123", "#112233 2", "#112233 x", "#112233 0.5 0.6", "#112233 nan"] {
            assert!(bad.parse::<Stop>().is_err(), "{bad}");
        }
    }

    #[test]
    fn an_open_ramp_ends_where_its_stops_do() {
        let ramp = Ramp::open(&stops(&["#000000", "#ffffff"]));
        assert_eq!(ramp.at(-1.0), [0.0, 0.0, 0.0, 1.0]);
        assert!(ramp.at(1.0)[0] > 0.99 && ramp.at(7.0)[0] > 0.99);
        // Half way in OKLab lightness is 0.5^3 of the light.
        assert!((ramp.at(0.5)[1] - 0.125).abs() < 2e-3);
    }

    #[test]
    fn a_closed_ramp_has_no_edge_where_it_wraps() {
        for colours in [&["#ff0000", "#00ff00", "#0000ff"][..], &["#ff0000 0.2", "#0000ff 0.7"], &["#336699"]] {
            let ramp = Ramp::closed(&stops(colours));
            let (end, start) = (ramp.around(0.9999), ramp.around(0.0001));
            for c in 0..4 {
                assert!((end[c] - start[c]).abs() < 0.02, "{colours:?}: {end:?} {start:?}");
            }
        }
    }

    #[test]
    fn a_clear_stop_fades_the_colour_and_not_through_black() {
        let ramp = Ramp::open(&stops(&["#ff0000", "#00000000"]));
        let middle = ramp.at(0.5);
        assert!(middle[0] > 0.99 && (middle[3] - 0.5).abs() < 0.01, "{middle:?}");
    }

    #[test]
    fn no_stops_are_no_light() {
        assert_eq!(Ramp::closed(&[]).at(0.3), [0.0; 4]);
    }
}
