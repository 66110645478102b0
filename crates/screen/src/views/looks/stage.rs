//! The stage of the view: the look as it is edited, and what is on the lights meanwhile. It is always said which is which.

use std::collections::VecDeque;
use std::sync::Arc;

use ratatui::layout::{Position, Rect};
use splimo_engine::Snapshot;
use splimo_engine::miniature::Preview;
use splimo_light::rig::Rig;
use splimo_show::{Look, Show};
use splimo_time::rate::Step;

use crate::kit::gallery::moment_of;
use crate::kit::stage_map::StageMap;

/// Values that are remembered of each modulator, two to a cell.
const REMEMBERED: usize = 16;

/// The stage.
#[derive(Default)]
pub(super) struct LookStage {
    pub(super) large: StageMap,
    pub(super) small: StageMap,
    pub(super) preview: Option<Preview>,
    look: Option<Look>,
    rig: Option<Arc<Rig>>,
    show: Option<Arc<Show>>,
    time: f64,
    beat: f64,
    /// For each layer, for each of its modulators, what it gave of late.
    traces: Vec<Vec<VecDeque<f32>>>,
    screens: u32,
    pub(super) area: Rect,
}

impl LookStage {
    /// The area in which the large stage is drawn.
    pub(super) fn area(&self) -> Rect {
        self.area
    }

    /// The light that is drawn at a place.
    pub(super) fn light_at(&self, at: Position, rig: &Rig) -> Option<usize> {
        if !self.area.contains(at) {
            return None;
        }
        (0..rig.len()).find(|led| self.large.covers(*led, at))
    }

    /// The recent values of the modulators of a layer.
    pub(super) fn traces(&self, layer: usize) -> Vec<Vec<f32>> {
        let modulators = self.traces.get(layer).map_or(&[][..], Vec::as_slice);
        modulators.iter().map(|values| values.iter().copied().collect()).collect()
    }

    /// Goes on with the preview of a look.
    pub(super) fn advance(&mut self, look: &Look, show: &Arc<Show>, rig: &Arc<Rig>, snapshot: &Snapshot) {
        let same_rig = self.rig.as_ref().is_some_and(|known| Arc::ptr_eq(known, rig));
        let same_show = self.show.as_ref().is_some_and(|known| Arc::ptr_eq(known, show));
        if self.look.as_ref() != Some(look) || !same_rig || !same_show {
            let mut preview = Preview::new(look, show, rig);
            let named_alike = self.look.as_ref().is_some_and(|known| known.name == look.name);
            if let (Some(older), true) = (&mut self.preview, named_alike) {
                preview.take_over(older);
            } else {
                self.traces.clear();
            }
            self.preview = Some(preview);
            (self.look, self.rig, self.show) = (Some(look.clone()), Some(rig.clone()), Some(show.clone()));
        }
        let step = Step {
            seconds: (snapshot.time - self.time).clamp(0.0, 0.5),
            beats: (snapshot.clock.beat - self.beat).clamp(0.0, 2.0),
        };
        (self.time, self.beat) = (snapshot.time, snapshot.clock.beat);
        let Some(preview) = &mut self.preview else { return };
        preview.draw(&moment_of(snapshot, step));
        self.screens += 1;
        if self.screens.is_multiple_of(3) {
            self.trace(look);
        }
    }

    fn trace(&mut self, look: &Look) {
        let Some(preview) = &mut self.preview else { return };
        self.traces.resize(look.layers.len(), Vec::new());
        for (layer, traces) in self.traces.iter_mut().enumerate() {
            let values: Vec<f32> = preview.player().modulation(layer).collect();
            traces.resize(values.len(), VecDeque::new());
            for (trace, value) in traces.iter_mut().zip(values) {
                if trace.len() == REMEMBERED {
                    trace.pop_front();
                }
                trace.push_back(value);
            }
        }
    }
}
