//! The stage of the view: the look as it is edited, and what is on the lights meanwhile. It is always said which is which.

use std::collections::VecDeque;
use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::layout::{Position, Rect};
use splimo_core::engine::{Snapshot, trace_slot};
use splimo_core::miniature::Preview;
use splimo_core::rate::Step;
use splimo_core::rig::Rig;
use splimo_core::show::{Look, Show};

use super::LooksView;
use crate::face::Seen;
use crate::kit::gallery::moment_of;
use crate::kit::pen::Pen;
use crate::kit::stage_map::StageMap;
use crate::kit::theme::Theme;

/// Values that are remembered of each modulator, two to a cell.
const REMEMBERED: usize = 16;

/// The stage.
#[derive(Default)]
pub(super) struct LookStage {
    large: StageMap,
    small: StageMap,
    preview: Option<Preview>,
    look: Option<Look>,
    rig: Option<Arc<Rig>>,
    show: Option<Arc<Show>>,
    time: f64,
    beat: f64,
    /// For each layer, for each of its modulators, what it gave of late.
    traces: Vec<Vec<VecDeque<f32>>>,
    screens: u32,
    area: Rect,
}

impl LookStage {
    /// Where the large stage is drawn.
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

    /// What the modulators of a layer gave of late.
    pub(super) fn traces(&self, layer: usize) -> Vec<Vec<f32>> {
        let modulators = self.traces.get(layer).map_or(&[][..], Vec::as_slice);
        modulators.iter().map(|values| values.iter().copied().collect()).collect()
    }

    /// Goes on with the preview of a look.
    fn advance(&mut self, look: &Look, show: &Arc<Show>, rig: &Arc<Rig>, snapshot: &Snapshot) {
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

impl LooksView {
    pub(super) fn draw_stage(&mut self, seen: &Seen<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let look = self.look().cloned();
        let compares = self.compares();
        let shown = match (&look, compares) {
            (Some(look), true) => self.saved.looks.iter().find(|l| l.name == look.name).or(Some(look)).cloned(),
            (look, _) => look.clone(),
        };
        let name = self.index().and_then(|index| self.show.looks.get(index)).map(|look| look.name.clone());
        let on_lights = |index: usize| seen.show.looks.get(index).map(|look| &look.name) == name.as_ref();
        let alone = matches!(seen.snapshot.stage.first(), Some(entry) if entry.weight > 0.995 && on_lights(entry.look));
        // The lights themselves are seen where they are what one edits.
        let direct = alone && !self.blind && !compares;
        let values = if self.values { 6.min(area.height / 3) } else { 0 };
        let above = Rect { height: area.height.saturating_sub(values), ..area };
        let (words, style) = match () {
            () if compares => (" as it was saved ".to_owned(), theme.filled()),
            () if self.blind => (" BLIND: this does not go out; b ends it ".to_owned(), theme.filled()),
            () if look.is_none() => ("on the lights".to_owned(), theme.dim()),
            () if direct => ("live: on the lights now".to_owned(), theme.text()),
            () => ("live, but not on the lights: l arms it".to_owned(), theme.text()),
        };
        Pen::new(Rect { height: 1, ..above }, buffer).put(&words, style);
        let body = Rect { y: above.y + 1, height: above.height.saturating_sub(1), ..above };
        let small = if direct || shown.is_none() { 0 } else { (body.height / 3).clamp(3, 14) };
        let large = Rect { height: body.height.saturating_sub(small), ..body };
        self.stage.area = large;
        if let Some(look) = &shown {
            self.stage.advance(look, &seen.desk.show, seen.rig, seen.snapshot);
        }
        let canvas = seen.show.canvas;
        if seen.rig.is_empty() {
            let words = Rect { y: large.y + 1, height: 1, ..large };
            Pen::new(words, buffer).put("No fixtures yet: F2, then a adds them.", theme.text());
            return;
        }
        match (&self.stage.preview, direct || shown.is_none()) {
            (Some(preview), false) => {
                let light = preview.light().to_vec();
                self.stage.large.draw(seen.rig, canvas, &light, large, theme, buffer);
            }
            _ => self.stage.large.draw(seen.rig, canvas, &seen.snapshot.light, large, theme, buffer),
        }
        if small > 0 {
            let title = Rect { y: large.bottom(), height: 1, ..large };
            let what = match seen.snapshot.stage.first().and_then(|entry| seen.show.looks.get(entry.look)) {
                Some(look) => format!("on the lights: {}", look.name),
                None => "nothing is on the lights".to_owned(),
            };
            Pen::new(title, buffer).put(&what, theme.dim());
            let below = Rect { y: title.y + 1, height: small - 1, ..large };
            self.stage.small.draw(seen.rig, canvas, &seen.snapshot.light, below, theme, buffer);
        }
        if values > 0 {
            let foot = Rect { y: above.bottom(), height: values, ..area };
            self.draw_values(seen, theme, foot, buffer);
        }
    }

    /// The numbers that leave for the chosen light.
    fn draw_values(&mut self, seen: &Seen<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        self.light = self.light.min(seen.rig.len().saturating_sub(1));
        let led = self.light as u32;
        let line = |y: u16| Rect { y: area.y + y, height: 1, ..area };
        let fixture = seen.rig.fixtures.iter().position(|patched| patched.leds().contains(&self.light));
        let Some((index, fixture)) = fixture.and_then(|index| Some((index, seen.show.fixtures.get(index)?))) else {
            return;
        };
        let cell = led - seen.rig.fixtures[index].first;
        let words = format!("{}, cell {}   (; and ' or a click: another light)", fixture.name, cell + 1);
        Pen::new(line(0), buffer).put(&words, theme.bright());
        let [r, g, b] = seen.snapshot.light.get(self.light).copied().unwrap_or_default();
        Pen::new(line(1), buffer).put(&format!("light   {r:.3}  {g:.3}  {b:.3}"), theme.text());
        let run = seen.rig.runs.iter().find(|run| run.leds().contains(&self.light) && seen.rig.is_first_variant(run));
        let Some(run) = run else {
            Pen::new(line(2), buffer).put("it is not patched: nothing leaves for it", theme.text());
            return;
        };
        // Cells of a profile may be interleaved: each slot of the universe tells itself to whom it belongs.
        let block = (run.slot / 512) as usize;
        let mut shown = 0;
        for slot in 0..512u16 {
            let Some(road) = trace_slot(seen.show, seen.rig, &seen.snapshot.light, seen.snapshot.master, block, slot) else {
                continue;
            };
            if road.fixture != index || road.cell != Some(cell) || shown + 2 >= area.height {
                continue;
            }
            let value = seen.snapshot.slots.get(block * 512 + usize::from(slot)).copied().unwrap_or(0);
            let words = format!("slot {:>3}  {:<8} {value:>3}", slot + 1, road.does.name());
            Pen::new(line(2 + shown), buffer).put(&words, theme.text());
            shown += 1;
        }
    }
}
