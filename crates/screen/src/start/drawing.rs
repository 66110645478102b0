//! The start screen as it is drawn: a heading for each kind of choice, and a line for each choice.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

use super::item::{Item, heading_of, name_of, words_of};
use super::state::StartScreen;
use crate::kit::float::float;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;

/// The widest that the lines are, and the columns of their names.
const WIDTH: u16 = 100;
const NAME: usize = 24;

/// A line of the screen.
enum Line {
    Heading(&'static str),
    Item(usize, Item),
    Empty,
}

impl StartScreen {
    pub(crate) fn draw(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        buffer.set_style(area, theme.text());
        if area.width < 30 || area.height < 8 {
            Pen::new(area, buffer).put("Splimo needs more room", theme.bright());
            return;
        }
        let left = area.x + area.width.saturating_sub(WIDTH) / 2;
        let inside = Rect { x: left.max(area.x + 1), width: WIDTH.min(area.width - 2), ..area };
        let row = |y: u16| Rect { y, height: 1, ..inside };
        Pen::new(row(area.y + 1), buffer).put("Splimo", theme.bright());
        let list = Rect { y: area.y + 3, height: area.height - 5, ..inside };
        self.draw_list(theme, list, buffer);
        self.draw_foot(theme, row(area.bottom() - 1), buffer);
        if let Some(form) = &mut self.form {
            let inside = float(&form.title(), 92, 14, theme, area, buffer);
            form.draw(theme, Rect { height: inside.height.saturating_sub(1), ..inside }, buffer);
            let mut pen = Pen::new(Rect { y: inside.bottom() - 1, height: 1, ..inside }, buffer);
            for (key, does) in [("↑ ↓", "fields"), ("← →", "values"), ("Enter", "makes the show"), ("Esc", "back")]
            {
                pen.put(&format!("{key} "), theme.bright());
                pen.put(&format!("{does}   "), theme.dim());
            }
        }
    }

    fn lines(&self) -> Vec<Line> {
        let mut lines = Vec::new();
        let mut last = "";
        for (place, item) in self.items().into_iter().enumerate() {
            let heading = heading_of(&item);
            if heading != last {
                if !lines.is_empty() {
                    lines.push(Line::Empty);
                }
                lines.push(Line::Heading(heading));
                last = heading;
            }
            lines.push(Line::Item(place, item));
        }
        lines
    }

    fn draw_list(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let lines = self.lines();
        let room = usize::from(area.height);
        let at = lines.iter().position(|line| matches!(line, Line::Item(place, _) if *place == self.at)).unwrap_or(0);
        // The heading above the first line is seen with it.
        let least = if at <= 1 { 0 } else { (at + 1).saturating_sub(room) };
        self.first = self.first.clamp(least, at.saturating_sub(1).max(least));
        self.rows.clear();
        for (y, line) in lines.into_iter().skip(self.first).take(room).enumerate() {
            let row = Rect { y: area.y + y as u16, height: 1, ..area };
            match line {
                Line::Empty => {}
                Line::Heading(words) => drop(Pen::new(row, buffer).put(words, theme.dim())),
                Line::Item(place, item) => {
                    self.rows.push((row, place));
                    draw_item(&item, place == self.at, theme, row, buffer);
                }
            }
        }
    }

    fn draw_foot(&self, theme: Theme, row: Rect, buffer: &mut Buffer) {
        let mut pen = Pen::new(row, buffer);
        if let Some(said) = &self.said {
            pen.put(&shortened(said, usize::from(row.width)), theme.armed());
            return;
        }
        for (key, does) in [("↑ ↓", "choose"), ("Enter", "take"), ("a letter", "goes to its name"), ("Esc", "leave")]
        {
            pen.put(&format!("{key} "), theme.text());
            pen.put(&format!("{does}   "), theme.dim());
        }
    }
}

fn draw_item(item: &Item, chosen: bool, theme: Theme, row: Rect, buffer: &mut Buffer) {
    let mut pen = Pen::new(row, buffer);
    pen.put(if chosen { "▸ " } else { "  " }, theme.bright());
    let name = shortened(&name_of(item), NAME);
    pen.put(&format!(" {name} "), if chosen { theme.filled() } else { theme.text() });
    pen.to(NAME as u16 + 5);
    let room = usize::from(row.width).saturating_sub(NAME + 5);
    pen.put(&shortened(&words_of(item), room), if chosen { theme.text() } else { theme.dim() });
}
