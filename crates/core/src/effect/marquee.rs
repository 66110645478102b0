//! Words that run across the lights, in a built-in bitmap font of 8 by 8 (public domain, by the crate `font8x8`).

use font8x8::UnicodeFonts;

use super::{Cells, Effect, EffectSpec, Kind, Moment, ParamSpec, Params};
use crate::colour::Rgba;
use crate::maths::floor;
use crate::rate::Phase;
use crate::rig::TILE;

const TEXT: usize = 0;
const COLOURS: usize = 1;
const SIZE: usize = 2;
const SPEED: usize = 3;
const Y: usize = 4;

/// The height of a glyph, in its own pixels.
const HEIGHT: i32 = 8;

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "marquee",
    family: "words",
    help: "Words that run across the lights",
    params: &[
        ParamSpec { name: "text", kind: Kind::Text { default: "LANTERN QUAY" }, help: "the words" },
        ParamSpec {
            name: "colours",
            kind: Kind::Colours { default: &["#fff3c4", "#ff9d3b"] },
            help: "from the top of the letters to their foot",
        },
        ParamSpec {
            name: "size",
            kind: Kind::Number { min: 0.0, max: 200.0, default: 0.0, unit: "lights" },
            help: "the height of a letter; 0 is as high as the span",
        },
        ParamSpec {
            name: "speed",
            kind: Kind::Rate { default: "16 beats" },
            help: "how long until the words come round again; negative runs to the right",
        },
        ParamSpec {
            name: "y",
            kind: Kind::Number { min: -200.0, max: 200.0, default: 0.0, unit: "%" },
            help: "how far the words are moved down",
        },
    ],
    start: |_| Box::new(Marquee { columns: Vec::new(), written: String::new(), phase: Phase::default() }),
};

struct Marquee {
    /// The text as columns of pixels, the topmost in bit 0.
    columns: Vec<u8>,
    written: String,
    phase: Phase,
}

impl Marquee {
    fn write(&mut self, text: &str) {
        self.columns.clear();
        for letter in text.chars() {
            let glyph = font8x8::BASIC_FONTS
                .get(letter)
                .or_else(|| font8x8::LATIN_FONTS.get(letter))
                .or_else(|| font8x8::BASIC_FONTS.get('?'))
                .unwrap_or_default();
            for column in 0..8 {
                let bits = (0..8).filter(|&row| glyph[row] >> column & 1 == 1).fold(0, |bits, row| bits | 1 << row);
                self.columns.push(bits);
            }
        }
        self.written.clear();
        self.written.push_str(text);
    }

    fn pixel(&self, column: i32, row: i32) -> f32 {
        if !(0..HEIGHT).contains(&row) {
            return 0.0;
        }
        let bits = usize::try_from(column).ok().and_then(|c| self.columns.get(c)).copied().unwrap_or(0);
        f32::from(bits >> row & 1)
    }

    /// How much of an LED at (`u`, `v`), in pixels of the font, the letters cover.
    fn cover(&self, u: f32, v: f32) -> f32 {
        let (u, v) = (u - 0.5, v - 0.5);
        let (left, top) = (floor(u), floor(v));
        let (fu, fv) = (u - left, v - top);
        let (c, r) = (left as i32, top as i32);
        let above = self.pixel(c, r) * (1.0 - fu) + self.pixel(c + 1, r) * fu;
        let below = self.pixel(c, r + 1) * (1.0 - fu) + self.pixel(c + 1, r + 1) * fu;
        above * (1.0 - fv) + below * fv
    }
}

impl Effect for Marquee {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        // Only a changed text is written anew; that is an edit, not a frame.
        if self.written != params.text(TEXT) || self.columns.is_empty() {
            self.write(params.text(TEXT));
        }
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let size = if params.number(SIZE) > 0.0 { params.number(SIZE) } else { cells.height };
        let scale = HEIGHT as f32 / size.max(1.0);
        // A whole round: the words, and as much nothing as the span is wide.
        let round = self.columns.len() as f32 + cells.width * scale;
        let shift = self.phase.behind(cells.late).turns() * round - cells.width * scale;
        let down = params.number(Y) / 100.0 * cells.height;
        let mut places = [0.0; TILE];
        let mut cover = [0.0; TILE];
        let (places, cover) = (&mut places[..out.len()], &mut cover[..out.len()]);
        for i in 0..out.len() {
            let v = (cells.y[i] - down) * scale;
            places[i] = v / HEIGHT as f32;
            cover[i] = self.cover(cells.x[i] * scale + shift, v);
        }
        params.colour_along(COLOURS, places, out);
        for (out, cover) in out.iter_mut().zip(cover) {
            out[3] *= *cover;
        }
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}
