//! A picture from a file, still or moving.

use super::frame::{self, Fit, FrameParams, Placing};
use super::params::handle::{FileParam, NumberParam, RateParam};
use super::params::{Holds, file, number, rate};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use splimo_base::colour::{CLEAR, Rgba};
use splimo_base::maths::{cos_turns, sin_turns};
use splimo_time::rate::Phase;

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    file("file", Holds::Picture, "the picture, from the folder of the show on"),
    frame::FIT,
    frame::SIZE,
    frame::X,
    frame::Y,
    frame::TURN,
    frame::PIXELS,
    number("pace", [0.0, 100.0, 1000.0], "%", "how fast a moving one runs"),
    rate("pan", "stopped", "how long until it has drifted by once"),
    number("direction", [-360.0, 0.0, 360.0], "°", "where it drifts: 0 to the right, 90 down"),
];

const FILE: FileParam = FileParam::named(PARAMS, "file");
const FRAME: FrameParams = FrameParams::of(PARAMS);
const PACE: NumberParam = NumberParam::named(PARAMS, "pace");
const PAN: RateParam = RateParam::named(PARAMS, "pan");
const DIRECTION: NumberParam = NumberParam::named(PARAMS, "direction");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "picture",
    family: "words",
    help: "A picture from a file: PNG, JPEG or GIF, still, moving, or drifting by",
    params: PARAMS,
    start: |_| Box::new(Shown::default()),
};

#[derive(Default)]
struct Shown {
    phase: Phase,
    seconds: f64,
}

impl Effect for Shown {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.phase.advance(params.rate(PAN), moment.step);
        self.seconds += moment.step.seconds * f64::from(params.number(PACE)) / 100.0;
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let Some(picture) = params.picture(FILE) else {
            out.fill(CLEAR);
            return;
        };
        let mut frame = Placing::of(params, FRAME);
        let phase = self.phase.behind(cells.late).turns();
        if phase != 0.0 {
            // Away over the edge and in again on the other side: a whole way is the span and the picture.
            let (wide, high) = picture.size();
            let turn = params.number(DIRECTION) / 360.0;
            let way = if frame.fit == Fit::Tile {
                frame.size * wide / high * cells.height / cells.width.max(1.0)
            } else {
                1.0 + frame.size
            };
            let gone = if frame.fit == Fit::Tile { phase * way } else { ((phase + 0.5).fract() - 0.5) * way };
            frame.x += gone * cos_turns(turn);
            frame.y += gone * sin_turns(turn);
        }
        let late = f64::from(cells.late) * picture.seconds();
        frame.light(picture, picture.frame_at(self.seconds - late), cells, out);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }
}
