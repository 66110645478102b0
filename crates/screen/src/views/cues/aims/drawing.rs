//! The drawing of aims: the list of them, the heads with where they point, and a field of pan and tilt.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_document::making::aims;
use splimo_engine::{HeadState, Snapshot};
use splimo_show::{Aim, Show};

use super::{AimPart, NO_HEAD, STEPS};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;

/// The rows that aims, heads and the field take where there is room, the stage below them.
const ROWS: u16 = 16;
/// The width of the field.
const FIELD: u16 = 46;
/// The width of the heads, with which there is room for the field.
const HEADS: u16 = 58;

impl AimPart {
    /// Draws it, and tells what room is left below.
    pub(crate) fn draw(&mut self, show: &Show, now: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer) -> Rect {
        self.field = Rect::default();
        let heads = aims::heads_of(show);
        if heads.is_empty() {
            Pen::new(Rect { y: area.y + 1, height: 1, ..area }, buffer).to(3).put(NO_HEAD, theme.text());
            return Rect { y: area.y + 3, height: area.height.saturating_sub(3), ..area };
        }
        let names = if area.width >= 70 { 22 } else { 17 };
        let with_field = area.width >= names + HEADS + FIELD && area.height >= ROWS;
        let lines = heads.len().max(show.aims.len()).min(40) as u16 + 2;
        let rows = if with_field { ROWS } else { lines.min(area.height / 2) }.min(area.height);
        let above = Rect { height: rows, ..area };
        self.draw_aims(show, theme, Rect { width: names, ..above }, buffer);
        let field = if with_field { FIELD } else { 0 };
        let table = Rect { x: area.x + names, width: area.width.saturating_sub(names + field), ..above };
        self.draw_heads(show, now, &heads, theme, table, buffer);
        if with_field {
            self.draw_field(show, now, theme, Rect { x: table.right(), width: FIELD, ..above }, buffer);
        }
        Rect { y: above.bottom(), height: area.bottom().saturating_sub(above.bottom()), ..area }
    }

    fn draw_aims(&mut self, show: &Show, theme: Theme, area: Rect, buffer: &mut Buffer) {
        Pen::new(Rect { height: 1, ..area }, buffer).to(1).put("aims", theme.dim());
        if show.aims.is_empty() {
            let words = ["none yet: turn heads,", "a records an aim"];
            for (row, words) in words.into_iter().enumerate() {
                let row = Rect { y: area.y + 1 + row as u16, height: 1, ..area };
                Pen::new(row, buffer).to(1).put(words, theme.text());
            }
            return;
        }
        let rows = Rect { y: area.y + 1, height: area.height.saturating_sub(1), ..area };
        for place in self.aims.lay_out(show.aims.len(), rows) {
            let aim = &show.aims[place];
            let chosen = place == self.aims.chosen;
            let mut pen = Pen::new(self.aims.row(place), buffer);
            pen.put(if chosen { "▸" } else { " " }, theme.bright());
            let style = if chosen { theme.bright() } else { theme.text() };
            pen.put(&shortened(&aim.name, usize::from(area.width).saturating_sub(6)), style);
            pen.to(area.width.saturating_sub(4)).put(&format!("{:>2}", aim.heads.len()), theme.dim());
        }
    }

    fn draw_heads(
        &mut self,
        show: &Show,
        now: &Snapshot,
        heads: &[usize],
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
    ) {
        let name_room = if area.width >= 60 { 18 } else { 10 };
        let mut pen = Pen::new(Rect { height: 1, ..area }, buffer);
        pen.to(3).put("heads", theme.dim());
        pen.to(3 + name_room).put("pan      tilt", theme.dim());
        let aim = self.aim(show).map(|(_, aim)| aim.clone());
        if let Some(aim) = aim.as_ref().filter(|_| area.width >= 60) {
            pen.to(3 + name_room + 20).put(&format!("in {}", shortened(&aim.name, 20)), theme.dim());
        }
        let rows = Rect { y: area.y + 1, height: area.height - 1, ..area };
        let all_chosen = self.chosen(show);
        for place in self.heads.lay_out(heads.len(), rows) {
            let fixture = &show.fixtures[heads[place]];
            let state = now.heads.iter().find(|head| head.fixture == heads[place]);
            let chosen = all_chosen.contains(&heads[place]);
            let mut pen = Pen::new(self.heads.row(place), buffer);
            pen.put(if place == self.heads.chosen { " ▸" } else { "  " }, theme.bright());
            pen.put(if self.marked.contains(&fixture.name) { "+" } else { " " }, theme.bright());
            let style = if chosen { theme.bright() } else { theme.text() };
            pen.put(&shortened(&fixture.name, usize::from(name_room) - 1), style);
            if let Some(state) = state {
                pen.to(3 + name_room).put(&format!("{:>6.2}   {:>6.2} %", state.pan, state.tilt), style);
                pen.to(3 + name_room + 20).put(&recorded(aim.as_ref(), &fixture.name), theme.dim());
                pen.put(if state.live { "  by hand" } else { "" }, theme.armed());
            }
        }
    }

    /// The field: pan from left to right, tilt downward; the heads, and where the chosen aim has them.
    fn draw_field(&mut self, show: &Show, now: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let words = format!("pan → tilt ↓   a key turns by {} %", STEPS[self.step]);
        Pen::new(Rect { height: 1, ..area }, buffer).put(&words, theme.dim());
        let (width, height) = (area.width - 2, area.height - 2);
        self.field = Rect { x: area.x, y: area.y + 1, width, height };
        for y in self.field.top()..self.field.bottom() {
            for x in self.field.left()..self.field.right() {
                let middle = x == self.field.x + width / 2 || y == self.field.y + height / 2;
                let symbol = if middle { "·" } else { " " };
                buffer[(x, y)].set_symbol(symbol).set_style(theme.faint().bg(theme.glow(0.08)));
            }
        }
        let chosen = self.chosen(show);
        let aim = self.aim(show).map(|(_, aim)| aim.clone());
        for head in aim.iter().flat_map(|aim| &aim.heads) {
            self.put([head.pan as f32, head.tilt as f32], "○", theme.dim().bg(theme.glow(0.08)), buffer);
        }
        let is_chosen = |head: &&HeadState| chosen.contains(&head.fixture);
        for head in now.heads.iter().filter(|head| !is_chosen(head)) {
            self.put([head.pan, head.tilt], "□", theme.text().bg(theme.glow(0.08)), buffer);
        }
        for head in now.heads.iter().filter(is_chosen) {
            let (x, y) = self.put([head.pan, head.tilt], "■", theme.bright().bg(theme.glow(0.08)), buffer);
            let Some(fixture) = show.fixtures.get(head.fixture) else { continue };
            let room = usize::from(self.field.right().saturating_sub(x + 2));
            if room > 3 {
                let name = shortened(&fixture.name, room);
                buffer.set_stringn(x + 2, y, &name, room, theme.text().bg(theme.glow(0.08)));
            }
        }
    }

    fn put(
        &self,
        [pan, tilt]: [f32; 2],
        symbol: &str,
        style: ratatui::style::Style,
        buffer: &mut Buffer,
    ) -> (u16, u16) {
        let place = |percent: f32, from: u16, length: u16| {
            from + (percent / 100.0 * f32::from(length.saturating_sub(1))).round() as u16
        };
        let x = place(pan, self.field.x, self.field.width).min(self.field.right().saturating_sub(1));
        let y = place(tilt, self.field.y, self.field.height).min(self.field.bottom().saturating_sub(1));
        buffer[(x, y)].set_symbol(symbol).set_style(style);
        (x, y)
    }
}

/// The direction that an aim has for a head, in a few words.
fn recorded(aim: Option<&Aim>, name: &str) -> String {
    match aim.map(|aim| aim.of(name)) {
        Some(Some([pan, tilt])) => format!("{pan:>6.2} {tilt:>6.2}"),
        Some(None) => "not in it    ".to_owned(),
        None => String::new(),
    }
}
