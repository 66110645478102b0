//! The pads with their living miniatures.

use std::sync::Arc;

use splimo_core::effect::Moment;
use splimo_core::engine::Snapshot;
use splimo_core::miniature::{Miniature, Raster};
use splimo_core::rate::Step;
use splimo_core::rig::Rig;
use splimo_core::show::Show;
use splimo_core::tempo::BEATS_PER_BAR;

/// The miniatures are drawn anew every so many screens: at 15 a second they live, and cost little.
const EVERY: u32 = 2;

/// The miniatures of the looks of a show, at one size.
#[derive(Default)]
pub(super) struct Miniatures {
    size: (usize, usize),
    raster: Option<Raster>,
    players: Vec<(usize, Miniature)>,
    pictures: Vec<(usize, Vec<[f32; 3]>)>,
    looks: Vec<usize>,
    time: f64,
    beat: f64,
    screens: u32,
}

/// The light of a cell where there is none.
pub(super) const NO_LIGHT: [f32; 3] = [-1.0; 3];

/// The moment of a snapshot, for looks that are drawn beside the engine.
pub(super) fn moment_of(snapshot: &Snapshot, step: Step) -> Moment<'_> {
    Moment {
        phrase_beats: BEATS_PER_BAR * f64::from(snapshot.clock.phrase_bars.max(1)),
        tempo: snapshot.clock.bpm,
        controls: &snapshot.controls,
        counts: snapshot.counts,
        ..Moment::at(snapshot.time, snapshot.clock.beat, step, &snapshot.hearing)
    }
}

impl Miniatures {
    /// Goes on to the moment of a snapshot, for the looks that are seen, each as `size` dots.
    pub(super) fn advance(
        &mut self,
        show: &Arc<Show>,
        rig: &Rig,
        snapshot: &Snapshot,
        looks: &[usize],
        size: (usize, usize),
    ) {
        if self.size != size || self.looks != looks || self.raster.is_none() {
            self.begin(show, rig, looks, size);
        }
        self.screens += 1;
        if !self.screens.is_multiple_of(EVERY) && self.screens > 2 {
            return;
        }
        let Some(raster) = &self.raster else { return };
        let step = Step {
            seconds: (snapshot.time - self.time).clamp(0.0, 0.5),
            beats: (snapshot.clock.beat - self.beat).clamp(0.0, 2.0),
        };
        (self.time, self.beat) = (snapshot.time, snapshot.clock.beat);
        let moment = moment_of(snapshot, step);
        for ((_, player), (_, picture)) in self.players.iter_mut().zip(&mut self.pictures) {
            player.draw(&moment, raster, picture);
        }
    }

    fn begin(&mut self, show: &Arc<Show>, rig: &Rig, looks: &[usize], size: (usize, usize)) {
        self.size = size;
        self.looks = looks.to_vec();
        let raster = Raster::new(rig, size.0.max(1), size.1.max(1));
        let chosen = || looks.iter().filter_map(|&look| show.looks.get(look).map(|l| (look, l)));
        self.players = chosen().map(|(index, look)| (index, Miniature::new(look, show, rig, &raster))).collect();
        self.pictures = chosen().map(|(index, _)| (index, vec![NO_LIGHT; raster.columns * raster.rows])).collect();
        self.raster = Some(raster);
        self.screens = 0;
    }

    /// The dots of a look's miniature, row by row, and how many there are in a row.
    pub(super) fn picture(&self, look: usize) -> Option<(&[[f32; 3]], usize)> {
        let columns = self.raster.as_ref()?.columns;
        self.pictures.iter().find(|(index, _)| *index == look).map(|(_, picture)| (picture.as_slice(), columns))
    }
}
