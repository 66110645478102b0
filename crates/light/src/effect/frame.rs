//! A picture on a plane: how it fits, where it lies, and how it is turned.

use super::params::handle::{ChoiceParam, NumberParam, choices};
use super::params::{Params, choice, number};
use super::{Cells, ParamSpec};
use crate::media::{Picture, Sampling};
use splimo_base::colour::Rgba;
use splimo_base::maths::{cos_turns, sin_turns};

choices! {
    /// The choice "fit".
    Fit {
        Whole = "fit",
        Fill = "fill",
        Stretch = "stretch",
        Tile = "tile",
    }
}

choices! {
    /// The choice "pixels".
    Pixels {
        Smooth = "smooth",
        Hard = "hard",
    }
}

/// The parameters that all effects with pictures have.
pub(super) const FIT: ParamSpec =
    choice("fit", Fit::WORDS, "all of it is seen, all lights are lit, both by pulling it, or it repeats");
pub(super) const SIZE: ParamSpec = number("size", [1.0, 100.0, 2000.0], "%", "how large it is");
pub(super) const X: ParamSpec = number("x", [-500.0, 0.0, 500.0], "%", "how far it is moved to the right, of the span");
pub(super) const Y: ParamSpec = number("y", [-500.0, 0.0, 500.0], "%", "how far it is moved down, of the span");
pub(super) const TURN: ParamSpec = number("turn", [-360.0, 0.0, 360.0], "°", "how far it is turned");
pub(super) const PIXELS: ParamSpec = choice("pixels", Pixels::WORDS, "mixed between pixels, or the nearest");

/// The handles of these parameters.
#[derive(Debug, Clone, Copy)]
pub(super) struct FrameParams {
    fit: ChoiceParam<Fit>,
    size: NumberParam,
    x: NumberParam,
    y: NumberParam,
    turn: NumberParam,
    pixels: ChoiceParam<Pixels>,
}

impl FrameParams {
    /// Those of an effect.
    pub(super) const fn of(params: &[ParamSpec]) -> Self {
        Self {
            fit: ChoiceParam::named(params, FIT.name),
            size: NumberParam::named(params, SIZE.name),
            x: NumberParam::named(params, X.name),
            y: NumberParam::named(params, Y.name),
            turn: NumberParam::named(params, TURN.name),
            pixels: ChoiceParam::named(params, PIXELS.name),
        }
    }
}

/// The placing of a picture.
#[derive(Debug, Clone, Copy)]
pub(super) struct Placing {
    pub(super) fit: Fit,
    pub(super) size: f32,
    pub(super) x: f32,
    pub(super) y: f32,
    pub(super) turn: f32,
    pub(super) smooth: bool,
}

impl Placing {
    /// The placing that the parameters say.
    pub(super) fn of(params: &Params, handles: FrameParams) -> Self {
        Self {
            fit: params.choice(handles.fit),
            size: params.number(handles.size) / 100.0,
            x: params.number(handles.x) / 100.0,
            y: params.number(handles.y) / 100.0,
            turn: params.number(handles.turn) / 360.0,
            smooth: params.choice(handles.pixels) == Pixels::Smooth,
        }
    }

    /// Lights what lies under a picture.
    pub(super) fn light(self, picture: &Picture, frame: usize, cells: &Cells<'_>, out: &mut [Rgba]) {
        let (wide, high) = picture.size();
        let (across, down) = (cells.width / wide, cells.height / high);
        // Lights to a pixel, each way.
        let (sx, sy) = match self.fit {
            Fit::Whole => (across.min(down), across.min(down)),
            Fit::Fill => (across.max(down), across.max(down)),
            Fit::Stretch => (across, down),
            Fit::Tile => (down, down),
        };
        let (sx, sy) = ((sx * self.size).max(1e-4), (sy * self.size).max(1e-4));
        let (sin, cos) = (sin_turns(self.turn), cos_turns(self.turn));
        let (cx, cy) = (cells.width * (0.5 + self.x), cells.height * (0.5 + self.y));
        let how = Sampling { frame, pixels: 1.0 / sx.min(sy), smooth: self.smooth, tiled: self.fit == Fit::Tile };
        for (i, out) in out.iter_mut().enumerate() {
            let (dx, dy) = (cells.x[i] - cx, cells.y[i] - cy);
            let (px, py) = (dx * cos + dy * sin, dy * cos - dx * sin);
            *out = picture.at(px / (sx * wide) + 0.5, py / (sy * high) + 0.5, how);
        }
    }
}
