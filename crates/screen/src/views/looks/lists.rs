//! The list of looks with their living miniatures, and the layers of the chosen one.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Style;
use splimo_show::{Layer, Look};

use super::rows::plain;
use super::state::{LooksView, Pane};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::{short_name, shortened};
use crate::model::ViewContext;

/// The room of a miniature in the list, in cells.
const MINIATURE: (u16, u16) = (10, 2);

impl LooksView {
    pub(super) fn draw_looks(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let heading = Rect { x: area.x + 1, height: 1, width: area.width - 1, ..area };
        let listed = self.listed();
        let words = match (self.filtering, self.filter.text()) {
            (true, _) => format!("looks   {}", self.filter.with_cursor()),
            (false, "") => format!("looks   {}", listed.len()),
            (false, typed) => format!("looks with \"{typed}\"   {}", listed.len()),
        };
        let style = if self.pane == Pane::Looks { theme.bright() } else { theme.dim() };
        Pen::new(heading, buffer).put(&words, style);
        let inside = Rect { y: area.y + 1, height: area.height.saturating_sub(1), ..area };
        if listed.is_empty() {
            let words = match (self.show.looks.is_empty(), area.width) {
                (true, 24..) => "No looks yet: n makes one.",
                (true, _) => "n: a new look",
                (false, 24..) => "None is called that.",
                (false, _) => "none",
            };
            Pen::new(Rect { x: inside.x + 1, y: inside.y + 1, height: 1, ..inside }, buffer).put(words, theme.text());
            self.looks.lay_out(0, inside);
            return;
        }
        let shown = self.looks.lay_out(listed.len(), inside);
        let pictures = area.width >= 24;
        let first = shown.start;
        let drawn: Vec<Look> = shown.clone().filter_map(|i| self.base(listed[i]).cloned()).collect();
        if pictures {
            let hung: Vec<&Look> = drawn.iter().collect();
            self.gallery.hold(context.reduced_motion);
            self.gallery.advance(&hung, &self.show, &self.rig, context.snapshot, MINIATURE);
        }
        for (place, look) in shown.zip(&drawn) {
            let row = self.looks.row(place);
            if pictures {
                let picture = Rect { x: row.x + 1, width: MINIATURE.0, height: MINIATURE.1, ..row };
                self.gallery.draw(place - first, picture, theme, buffer);
            }
            let left = if pictures { MINIATURE.0 + 1 } else { 0 };
            let words = Rect { x: row.x + left, width: row.width.saturating_sub(left), ..row };
            let chosen = place == self.looks.chosen;
            self.draw_name(listed[place], chosen, look, theme, words, buffer);
            let state = self.state_of(context, listed[place], look);
            let below = Rect { y: words.y + 1, height: 1, ..words }.intersection(buffer.area);
            let state = shortened(&state, usize::from(below.width.saturating_sub(2)));
            Pen::new(below, buffer).put(&format!("  {state}"), theme.dim());
        }
    }

    fn draw_name(&self, index: usize, chosen: bool, look: &Look, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let room = usize::from(area.width.saturating_sub(4)).max(4);
        let name = short_name(&look.name, room);
        let mut pen = Pen::new(Rect { height: 1, ..area }, buffer);
        pen.put(if self.more_looks.contains(&index) { "■" } else { " " }, theme.text());
        let plain = look
            .colour
            .map_or(theme.text(), |tint| Style::new().fg(theme.colour(theme.mark(tint.0))).bg(theme.ground()));
        match (chosen, self.pane) {
            (true, Pane::Looks) => pen.put(&format!(" {name} "), theme.filled()),
            (true, _) => pen.put(&format!("▸{name}"), theme.bright()),
            _ => pen.put(&format!(" {name}"), plain),
        };
    }

    /// The state of a look in two words.
    fn state_of(&self, context: &ViewContext<'_>, index: usize, look: &Look) -> String {
        let in_show = &self.show.looks[index].name;
        let drafted = self.drafts.looks.iter().any(|(name, _)| name == in_show);
        // The engine may be an edition behind: names tell which look is meant.
        let named = |place: usize| context.show.looks.get(place).is_some_and(|l| l.name == *in_show);
        let stage = context.snapshot.stage.iter().find(|entry| named(entry.look));
        match stage {
            _ if drafted => "edited blind".to_owned(),
            Some(entry) if entry.weight > 0.995 => "live".to_owned(),
            Some(entry) => format!("{:.0} % live", entry.weight * 100.0),
            None if context.snapshot.queue.iter().any(|armed| armed.wish.look.is_some_and(named)) => "armed".to_owned(),
            None if look.layers.is_empty() => "empty".to_owned(),
            None => look.tags.join(" "),
        }
    }

    pub(super) fn draw_layers(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let Some(look) = self.look().cloned() else { return };
        let heading = Rect { x: area.x + 1, height: 1, width: area.width - 1, ..area };
        let style = if self.pane == Pane::Layers { theme.bright() } else { theme.dim() };
        Pen::new(heading, buffer).put(&format!("layers of {}", look.name), style);
        let inside = Rect { y: area.y + 1, height: area.height.saturating_sub(2), ..area };
        let shown = self.layers.lay_out(look.layers.len(), inside);
        if look.layers.is_empty() {
            let row = Rect { x: inside.x + 1, height: 1, width: inside.width - 1, ..inside };
            let words = match &look.pattern {
                Some(_) => "A pattern: F5 and Tab write it.",
                None => "Nothing yet: a adds a layer.",
            };
            Pen::new(row, buffer).put(words, theme.text());
        }
        for place in shown {
            let index = look.layers.len() - 1 - place;
            let row = self.layers.row(place);
            self.draw_layer(place, index, &look.layers[index], theme, row, buffer);
        }
        let rule = Rect { y: area.bottom() - 1, height: 1, x: area.x + 1, width: area.width.saturating_sub(2) };
        Pen::new(rule, buffer).put(&"─".repeat(usize::from(rule.width)), theme.faint());
    }

    fn draw_layer(&self, place: usize, index: usize, layer: &Layer, theme: Theme, row: Rect, buffer: &mut Buffer) {
        let chosen = place == self.layers.chosen;
        let mut pen = Pen::new(row, buffer);
        pen.put(if self.more_layers.contains(&index) { "■" } else { " " }, theme.text());
        pen.put(if chosen { "▸" } else { " " }, theme.bright());
        let style = match (chosen, self.pane) {
            (true, Pane::Layers) => theme.filled(),
            (true, _) => theme.bright(),
            _ if layer.mute => theme.faint_text(),
            _ => theme.text(),
        };
        pen.put(&format!(" {} {} ", index + 1, layer.effect), style);
        let wide = row.width >= 46;
        pen.to(if wide { 16 } else { 15 }).put(layer.blend.name(), theme.dim());
        pen.to(if wide { 27 } else { 25 });
        pen.put(&format!("{:>4} %", plain(f64::from((layer.opacity * 100.0).round()))), theme.text());
        pen.to(if wide { 34 } else { 32 });
        let state = match (layer.mute, layer.solo) {
            (true, _) => "out ",
            (false, true) => "solo",
            _ => "",
        };
        pen.put(state, theme.armed());
        if wide {
            let at = if state.is_empty() { 35 } else { 39 };
            let room = usize::from(row.width.saturating_sub(at + 1));
            let target = if layer.target.is_empty() { "every light".to_owned() } else { layer.target.join(" + ") };
            pen.to(at).put(&shortened(&target, room), theme.faint_text());
        }
    }
}
