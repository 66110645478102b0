//! Looks as living miniatures, side by side. One that is edited goes on where it was, so that nothing jumps.

use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_engine::miniature::{Miniature, Raster};
use splimo_engine::{Maps, Snapshot};
use splimo_light::effect::Moment;
use splimo_light::rig::Rig;
use splimo_show::{Look, Show, Swatch};
use splimo_time::rate::Step;

use super::stage_map::{paint, shown};
use super::theme::Theme;

/// The miniatures are drawn anew every so many screens: at 12 a second they live, and cost little.
const EVERY: u32 = 2;

/// The light of a cell where there is none.
const NO_LIGHT: [f32; 3] = [-1.0; 3];

/// The moment of a snapshot, for looks that are drawn beside the engine.
pub(crate) fn moment_of(snapshot: &Snapshot, step: Step) -> Moment<'_> {
    Moment {
        bar_beats: f64::from(snapshot.clock.bar_beats.max(1)),
        phrase_beats: snapshot.clock.phrase_beats(),
        tempo: snapshot.clock.bpm,
        onset: snapshot.onset,
        hits: snapshot.hits,
        time_of_day: snapshot.time_of_day,
        controls: &snapshot.controls,
        counts: snapshot.counts,
        ..Moment::at(snapshot.time, snapshot.clock.beat, step, &snapshot.hearing)
    }
}

struct Item {
    look: Look,
    player: Miniature,
    light: Vec<[f32; 3]>,
    /// The colour of each dot that there is.
    picture: Vec<Option<[u8; 3]>>,
}

/// Some looks, each as a miniature of the same size.
#[derive(Default)]
pub(crate) struct Gallery {
    items: Vec<Item>,
    size: (usize, usize),
    rig: Option<Arc<Rig>>,
    palette: Vec<Swatch>,
    raster: Option<Raster>,
    time: f64,
    beat: f64,
    screens: u32,
    /// True if they stand still once they are drawn.
    still: bool,
}

impl Gallery {
    /// Has them stand still, or live.
    pub(crate) fn hold(&mut self, still: bool) {
        self.still = still;
    }

    /// Shows these looks, and goes on to the moment of a snapshot. `size` is in cells of a terminal.
    pub(crate) fn advance(
        &mut self,
        looks: &[&Look],
        show: &Show,
        rig: &Arc<Rig>,
        snapshot: &Snapshot,
        size: (u16, u16),
    ) {
        self.lay_out(rig, &show.palette, size);
        let same =
            self.items.len() == looks.len() && self.items.iter().zip(looks).all(|(item, look)| item.look == **look);
        if !same {
            self.hang(looks, show, rig);
        }
        self.screens += 1;
        if same && (self.still || !self.screens.is_multiple_of(EVERY)) {
            return;
        }
        let Some(raster) = &self.raster else { return };
        let step = Step {
            seconds: (snapshot.time - self.time).clamp(0.0, 0.5),
            beats: (snapshot.clock.beat - self.beat).clamp(0.0, 2.0),
        };
        (self.time, self.beat) = (snapshot.time, snapshot.clock.beat);
        let moment = moment_of(snapshot, step);
        for item in &mut self.items {
            item.player.draw(&moment, raster, &mut item.light);
            item.picture.clear();
            item.picture.extend(item.light.iter().map(|light| (*light != NO_LIGHT).then(|| shown(*light))));
        }
    }

    fn lay_out(&mut self, rig: &Arc<Rig>, palette: &[Swatch], (columns, rows): (u16, u16)) {
        let size = (usize::from(columns.max(1)), usize::from(rows.max(1)) * 2);
        let lies_alike = |known: &Arc<Rig>| {
            Arc::ptr_eq(known, rig)
                || (known.x == rig.x
                    && known.y == rig.y
                    && known.media == rig.media
                    && known.fixtures.len() == rig.fixtures.len())
        };
        let stays = self.size == size && self.palette == palette && self.rig.as_ref().is_some_and(lies_alike);
        if !stays {
            self.items.clear();
            self.raster = Some(Raster::new(rig, size.0, size.1));
            (self.size, self.palette) = (size, palette.to_vec());
        }
        self.rig = Some(rig.clone());
    }

    fn hang(&mut self, looks: &[&Look], show: &Show, rig: &Rig) {
        let Some(raster) = &self.raster else { return };
        let mut before = std::mem::take(&mut self.items);
        // Looks that lie on the same lights in the same way share what is compiled for them.
        let mut maps = Maps::default();
        for look in looks {
            if let Some(place) = before.iter().position(|item| item.look == **look) {
                self.items.push(before.swap_remove(place));
                continue;
            }
            let mut player = Miniature::new(look, show, rig, raster, &mut maps);
            let mut light = vec![NO_LIGHT; raster.columns * raster.rows];
            let mut picture = Vec::new();
            // An edited one goes on where it was.
            if let Some(place) = before.iter().position(|item| item.look.name == look.name) {
                let mut older = before.swap_remove(place);
                player.take_over(&mut older.player);
                (light, picture) = (older.light, older.picture);
            }
            self.items.push(Item { look: (*look).clone(), player, light, picture });
        }
    }

    /// Draws a miniature with its upper left corner in that of `area`.
    pub(crate) fn draw(&self, index: usize, area: Rect, theme: Theme, buffer: &mut Buffer) {
        let (Some(item), Some(raster)) = (self.items.get(index), &self.raster) else { return };
        let dot = |column: usize, row: usize| item.picture.get(row * raster.columns + column).copied().flatten();
        for row in 0..(raster.rows / 2).min(usize::from(area.height)) {
            for column in 0..raster.columns.min(usize::from(area.width)) {
                let (top, bottom) = (dot(column, 2 * row), dot(column, 2 * row + 1));
                if top.is_none() && bottom.is_none() {
                    continue;
                }
                if let Some(cell) = buffer.cell_mut((area.x + column as u16, area.y + row as u16)) {
                    paint(cell, top, bottom, theme);
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use splimo_document::file;

    use super::*;

    #[test]
    fn a_miniature_moves_with_what_is_hit() {
        let text = "version = 1\nname = \"Hit\"\n[[fixtures]]\nname = \"Bar\"\nprofile = \"rgb\"\naddress = \"1.1\"\nx = 0.0\ny = 0.0\nshape = { line = { cells = 4 } }\n[[looks]]\nname = \"Kick\"\n[[looks.layers]]\neffect = \"solid\"\nopacity = 0.0\n[[looks.layers.modulators]]\nparam = \"opacity\"\nsource = \"formula\"\ndepth = 1.0\nformula = \"100 * kick\"\n";
        let show = file::read(text).expect("a good show").show;
        let rig = Arc::new(Rig::compile(&show));
        let brightest = |hits: [f32; 3]| {
            let mut gallery = Gallery::default();
            for tick in 0..4 {
                let snapshot = Snapshot { time: f64::from(tick) * 0.04, hits, ..Snapshot::default() };
                gallery.advance(&[&show.looks[0]], &show, &rig, &snapshot, (8, 2));
            }
            gallery.items[0].light.iter().flatten().copied().fold(0.0, f32::max)
        };
        let [without, with] = [[0.0, 1.0, 1.0], [1.0, 0.0, 0.0]].map(brightest);
        assert!(without < 0.01 && with > 0.5, "{without} {with}");
    }
}
