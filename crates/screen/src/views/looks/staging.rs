//! The stage of the view, and the numbers of a light below it.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

use super::state::LooksView;
use crate::kit::beams;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::model::ViewContext;

impl LooksView {
    pub(super) fn draw_stage(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let look = self.look().cloned();
        let compares = self.compares();
        let shown = match (&look, compares) {
            (Some(look), true) => self.saved.looks.iter().find(|l| l.name == look.name).or(Some(look)).cloned(),
            (look, _) => look.clone(),
        };
        let name = self.index().and_then(|index| self.show.looks.get(index)).map(|look| look.name.clone());
        let on_lights = |index: usize| context.show.looks.get(index).map(|look| &look.name) == name.as_ref();
        let alone =
            matches!(context.snapshot.stage.as_slice(), [entry] if entry.weight > 0.995 && on_lights(entry.look));
        // The lights themselves are seen where they are what one edits.
        let direct = alone && !self.drafts.blind && !compares;
        let values = if self.values { 6.min(area.height / 3) } else { 0 };
        let above = Rect { height: area.height.saturating_sub(values), ..area };
        let (words, style) = match () {
            () if compares => (" as it was saved ".to_owned(), theme.filled()),
            () if self.drafts.blind => (" BLIND: this does not go out; b ends it ".to_owned(), theme.filled()),
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
            self.stage.advance(look, &context.edited.show, context.rig, context.snapshot);
        }
        let canvas = context.show.canvas;
        if context.rig.is_empty() {
            let words = Rect { y: large.y + 1, height: 1, ..large };
            Pen::new(words, buffer).put("No fixtures yet: F2, then a adds them.", theme.text());
            return;
        }
        match (&self.stage.preview, direct || shown.is_none()) {
            (Some(preview), false) => {
                let light = preview.light().to_vec();
                self.stage.large.draw(context.rig, canvas, &light, large, theme, buffer);
            }
            _ => beams::live_stage(&mut self.stage.large, context, theme, large, buffer),
        }
        if small > 0 {
            let title = Rect { y: large.bottom(), height: 1, ..large };
            let what = match context.snapshot.stage.first().and_then(|entry| context.show.looks.get(entry.look)) {
                Some(look) => format!("on the lights: {}", look.name),
                None => "nothing is on the lights".to_owned(),
            };
            Pen::new(title, buffer).put(&what, theme.dim());
            let below = Rect { y: title.y + 1, height: small - 1, ..large };
            beams::live_stage(&mut self.stage.small, context, theme, below, buffer);
        }
        if values > 0 {
            let foot = Rect { y: above.bottom(), height: values, ..area };
            self.draw_values(context, theme, foot, buffer);
        }
    }

    /// The numbers that leave for the chosen light.
    fn draw_values(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let Some(led) = context.led.filter(|led| led.led as usize == self.light) else { return };
        let line = |y: u16| Rect { y: area.y + y, height: 1, ..area };
        let Some(fixture) = context.show.fixtures.get(led.fixture) else { return };
        let words = format!("{}, cell {}   (; and ' or a click: another light)", fixture.name, led.cell + 1);
        Pen::new(line(0), buffer).put(&words, theme.bright());
        let [r, g, b] = led.light;
        Pen::new(line(1), buffer).put(&format!("light   {r:.3}  {g:.3}  {b:.3}"), theme.text());
        if led.slots.is_empty() {
            Pen::new(line(2), buffer).put("it is not patched: nothing leaves for it", theme.text());
        }
        for (row, (slot, does, value)) in (2..area.height).zip(&led.slots) {
            let words = format!("slot {:>3}  {:<8} {value:>3}", slot + 1, does.name());
            Pen::new(line(row), buffer).put(&words, theme.text());
        }
    }
}
