//! The list of fixtures: name, what it is, and which channels it takes.

use ratatui::buffer::Buffer;
use ratatui::layout::{Position, Rect};
use ratatui::style::Style;
use splimo_light::rig::lay;
use splimo_show::{Fixture, Shape, Show, Tint};

use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;

/// The list, as far as it is scrolled.
#[derive(Debug, Clone, Default)]
pub(super) struct List {
    first: usize,
    area: Rect,
    count: usize,
}

impl List {
    pub(super) fn draw(
        &mut self,
        show: &Show,
        (at, chosen): (usize, &[usize]),
        tinted: bool,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
    ) {
        let room = usize::from(area.height).max(1);
        self.first = self.first.min(at).max((at + 1).saturating_sub(room));
        (self.area, self.count) = (area, show.fixtures.len());
        let chosen: std::collections::HashSet<usize> = chosen.iter().copied().collect();
        for (line, (index, fixture)) in show.fixtures.iter().enumerate().skip(self.first).take(room).enumerate() {
            let row = Rect { y: area.y + line as u16, height: 1, ..area };
            let mut pen = Pen::new(row, buffer);
            let here = chosen.contains(&index);
            // The cursor and the choice have a shape each, not only a brightness.
            pen.put(if index == at { "▸" } else { " " }, theme.bright());
            pen.put(if here { "▌" } else { " " }, theme.bright());
            if tinted {
                let tint = Tint::of(index).0;
                pen.put("■ ", Style::new().fg(theme.colour(theme.mark(tint))).bg(theme.ground()));
            }
            let style = if here { theme.bright() } else { theme.text() };
            let wide = area.width >= 44;
            let room = if wide { 16 } else { 13 };
            let name = shortened(&fixture.name, room);
            pen.put(&format!("{name:<room$} "), style);
            if wide {
                let profile = shortened(&fixture.profile, 8);
                pen.put(&format!("{profile:<9}"), theme.dim());
            }
            pen.put(&size(&fixture.shape), theme.dim());
            let address = addresses(show, fixture);
            let column = area.width.saturating_sub(address.chars().count() as u16 + 1);
            pen.to(column).put(&address, if fixture.address.is_some() { style } else { theme.armed() });
        }
    }

    /// The fixture that a click is on.
    pub(super) fn fixture_at(&self, at: Position) -> Option<usize> {
        let index = self.first + usize::from(at.y.checked_sub(self.area.y)?);
        (self.area.contains(at) && index < self.count).then_some(index)
    }

    pub(super) fn contains(&self, at: Position) -> bool {
        self.area.contains(at)
    }
}

fn size(shape: &Shape) -> String {
    match shape {
        Shape::Line { cells } => cells.to_string(),
        Shape::Grid { columns, rows } => format!("{columns}x{rows}"),
        Shape::Cone { strings, cells, .. } => format!("{strings}x{cells}"),
        Shape::Ring { cells } => format!("ring {cells}"),
        Shape::Arc { cells, .. } => format!("arc {cells}"),
        Shape::Points { at } => format!("points {}", at.len()),
    }
}

/// The channels of a fixture: `1.1-144`, or `1.433-2.66` where it ends in another universe.
pub(super) fn addresses(show: &Show, fixture: &Fixture) -> String {
    let taken = show.profile(&fixture.profile).map(|profile| lay(fixture, &profile).taken).unwrap_or_default();
    match (taken.first(), taken.last()) {
        (Some(first), Some(last)) if first.universe == last.universe => {
            format!("{}.{}-{}", first.universe, first.slot + 1, last.slot + last.slots)
        }
        (Some(first), Some(last)) => {
            format!("{}.{}-{}.{}", first.universe, first.slot + 1, last.universe, last.slot + last.slots)
        }
        _ => "not patched".to_owned(),
    }
}
