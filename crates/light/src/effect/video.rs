//! A film that runs by itself: the newest picture of it.

use std::sync::Arc;

use super::frame::{self, FrameParams, Placing};
use super::params::handle::FileParam;
use super::params::{Holds, file};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::media::Picture;
use splimo_base::colour::{CLEAR, Rgba};

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    file("file", Holds::Film, "the film: a file, a pipe (FIFO), or - for standard input"),
    frame::FIT,
    frame::SIZE,
    frame::X,
    frame::Y,
    frame::TURN,
    frame::PIXELS,
];

const FILE: FileParam = FileParam::named(PARAMS, "file");
const FRAME: FrameParams = FrameParams::of(PARAMS);

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "video",
    family: "words",
    help: "A film: YUV4MPEG2 from a file, a pipe or standard input, so that any player can feed it",
    params: PARAMS,
    start: |_| Box::new(Screen { newest: None }),
};

struct Screen {
    newest: Option<Arc<Picture>>,
}

impl Effect for Screen {
    fn advance(&mut self, params: &Params, _: &Moment<'_>) {
        // What was seen last stays, whatever becomes of the film.
        if let Some(newest) = params.film(FILE).and_then(|film| film.newest()) {
            self.newest = Some(newest);
        }
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        match &self.newest {
            Some(picture) if params.film(FILE).is_some() => Placing::of(params, FRAME).light(picture, 0, cells, out),
            _ => out.fill(CLEAR),
        }
    }
}
