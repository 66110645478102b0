//! The way the light of a cell is shared among its emitters.

use splimo_base::colour::Rgba;
use splimo_show::{Extraction, Function};

/// The emitters of a cell, and what becomes of white.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Emitters {
    coloured: bool,
    white: bool,
    amber: bool,
    extraction: Extraction,
}

/// The light of each emitter, linear, 0 or more.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Shares {
    rgb: [f32; 3],
    white: f32,
    warm: f32,
    cool: f32,
    amber: f32,
    uv: f32,
    strongest: f32,
}

impl Emitters {
    pub(super) fn new(functions: impl Iterator<Item = Function>, extraction: Extraction) -> Self {
        let mut emitters = Self { coloured: false, white: false, amber: false, extraction };
        for function in functions {
            match function {
                Function::Red | Function::Green | Function::Blue => emitters.coloured = true,
                Function::White | Function::WarmWhite | Function::CoolWhite => emitters.white = true,
                Function::Amber => emitters.amber = true,
                _ => {}
            }
        }
        emitters
    }

    /// Shares a colour. What red, green and blue have in common goes to white, and of the rest what red and half as much
    /// green have in common to amber; without colours all light goes to what there is. Warm and cool white are both full for
    /// a neutral colour; the cool one gives way to a reddish, the warm one to a bluish.
    pub(super) fn share(&self, [r, g, b, _]: Rgba) -> Shares {
        let strongest = r.max(g).max(b);
        let used = !self.coloured || self.extraction != Extraction::Off;
        let replaced = if self.coloured && self.extraction == Extraction::Replace { 1.0 } else { 0.0 };
        let white = match (self.white && used, self.coloured) {
            (false, _) => 0.0,
            (true, false) => strongest,
            (true, true) => r.min(g).min(b),
        };
        let rest = [r, g, b].map(|light| light - white * replaced);
        let amber = match (self.amber && used, self.coloured) {
            (false, _) => 0.0,
            (true, false) => strongest,
            (true, true) => rest[0].min(rest[1] * 2.0).max(0.0),
        };
        let cool_share = if b < r { b / r } else { 1.0 };
        let warm_share = if r < b { r / b } else { 1.0 };
        Shares {
            rgb: [rest[0] - amber * replaced, rest[1] - amber * 0.5 * replaced, rest[2]],
            white,
            warm: white * warm_share,
            cool: white * cool_share,
            amber,
            uv: (r.min(b) - g).max(0.0),
            strongest,
        }
    }
}

impl Shares {
    /// The light of one emitter.
    pub(super) fn of(&self, function: Function) -> f32 {
        match function {
            Function::Red => self.rgb[0],
            Function::Green => self.rgb[1],
            Function::Blue => self.rgb[2],
            Function::White => self.white,
            Function::WarmWhite => self.warm,
            Function::CoolWhite => self.cool,
            Function::Amber => self.amber,
            Function::Uv => self.uv,
            Function::Dimmer => self.strongest,
            Function::Shutter | Function::Pan | Function::Tilt | Function::Fixed => 0.0,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use Function::{Amber, Blue, Green, Red, Uv, White};

    fn shared(emitters: &[Function], extraction: Extraction, [r, g, b]: [f32; 3]) -> Vec<f32> {
        let shares = Emitters::new(emitters.iter().copied(), extraction).share([r, g, b, 0.0]);
        emitters.iter().map(|&emitter| shares.of(emitter)).collect()
    }

    #[test]
    fn white_is_replaced_added_or_left_alone() {
        let rgbw = [Red, Green, Blue, White];
        assert_eq!(shared(&rgbw, Extraction::Replace, [1.0, 0.5, 0.25]), [0.75, 0.25, 0.0, 0.25]);
        assert_eq!(shared(&rgbw, Extraction::Add, [1.0, 0.5, 0.25]), [1.0, 0.5, 0.25, 0.25]);
        assert_eq!(shared(&rgbw, Extraction::Off, [1.0, 0.5, 0.25]), [1.0, 0.5, 0.25, 0.0]);
    }

    #[test]
    fn amber_and_violet_have_their_emitters() {
        let all = [Red, Green, Blue, Amber, White, Uv];
        assert_eq!(shared(&all, Extraction::Replace, [1.0, 0.5, 0.0]), [0.0, 0.0, 0.0, 1.0, 0.0, 0.0]);
        assert_eq!(shared(&all, Extraction::Replace, [0.5, 0.0, 1.0]), [0.5, 0.0, 1.0, 0.0, 0.0, 0.5]);
        assert_eq!(shared(&all, Extraction::Replace, [1.0; 3]), [0.0, 0.0, 0.0, 0.0, 1.0, 0.0]);
    }

    #[test]
    fn without_colours_all_light_is_white() {
        let pair = [Function::WarmWhite, Function::CoolWhite];
        assert_eq!(shared(&pair, Extraction::Off, [1.0; 3]), [1.0, 1.0]);
        assert_eq!(shared(&pair, Extraction::Replace, [1.0, 0.5, 0.25]), [1.0, 0.25]);
        assert_eq!(shared(&pair, Extraction::Replace, [0.0, 0.0, 0.0]), [0.0, 0.0]);
    }
}
