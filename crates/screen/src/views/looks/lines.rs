//! Everything about the chosen layer, line by line.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Style;
use splimo_base::colour::to_screen;
use splimo_base::ramp::{Mixing, Ramp};
use splimo_document::making;
use splimo_light::effect::ParamKind;
use splimo_show::palette;
use splimo_show::{Layer, Modulator, ModulatorSource, Param, Show};

use super::rows::{Row, plain, rows_of};
use super::state::{LooksView, Pane};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::folded;
use crate::kit::words::shortened;

/// The columns of what a line holds.
const VALUE: u16 = 15;
/// Cells of the line that a modulator draws.
const TRACE: usize = 8;

impl LooksView {
    pub(super) fn draw_lines(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let Some(layer) = self.layer().cloned() else { return };
        let rows = rows_of(&layer);
        let inside = Rect { height: area.height.saturating_sub(3), ..area };
        let shown = self.lines.lay_out(rows.len(), inside);
        let traces = self.stage.traces(self.layer_index().unwrap_or(0));
        for place in shown {
            let line = self.lines.row(place);
            let pen = Pen::new(line, buffer);
            self.draw_line(place, rows[place], &layer, &traces, theme, pen);
        }
        let Some(row) = rows.get(self.lines.chosen) else { return };
        let words = folded(row.help(&layer), usize::from(area.width.saturating_sub(2)).max(10));
        for (line, words) in words.iter().take(2).enumerate() {
            let y = area.bottom().saturating_sub(2) + line as u16;
            let foot = Rect { x: area.x + 1, y, width: area.width.saturating_sub(1), height: 1 };
            Pen::new(foot.intersection(area), buffer).put(words, theme.faint_text());
        }
    }

    fn draw_line(&self, place: usize, row: Row, layer: &Layer, traces: &[Vec<f32>], theme: Theme, mut pen: Pen<'_>) {
        let chosen = place == self.lines.chosen;
        let edited = chosen && self.pane == Pane::Lines;
        let wide = pen.width();
        pen.to(1).put(if chosen { "▸" } else { " " }, theme.bright());
        pen.put(&format!(" {}", row.label(layer)), if edited { theme.bright() } else { theme.dim() });
        pen.to(VALUE);
        let colours = row.param(layer).filter(|param| matches!(param.kind, ParamKind::Colours { .. }));
        let value = match (&self.typed, edited) {
            (Some(typed), true) => typed.with_cursor(),
            _ => row.value(layer),
        };
        let room = usize::from(wide.saturating_sub(VALUE + 3));
        let modulators = row.modulators(layer);
        if let Some(param) = colours {
            let width = if modulators.is_empty() { room.min(30) } else { 9 };
            self.draw_colours(&making::value_of(layer, param), edited, width as u16, theme, &mut pen);
        } else {
            let width = if modulators.is_empty() { room } else { room.saturating_sub(31).max(9) };
            let value = shortened(&value, width);
            pen.put(&format!(" {value} "), if edited { theme.filled() } else { theme.text() });
            if let (Some(share), true) = (row.share(layer), modulators.is_empty() && wide >= 50) {
                pen.to(VALUE + 17);
                draw_ruler(share, theme, &mut pen);
            }
        }
        if let Some((index, modulator)) = modulators.first() {
            let trace = traces.get(*index).map_or(&[][..], Vec::as_slice);
            let start = wide.saturating_sub(33).max(VALUE + 10);
            pen.to(start);
            draw_modulator(modulator, trace, modulators.len() - 1, &self.show, theme, &mut pen);
        }
    }

    fn draw_colours(&self, value: &Param, edited: bool, width: u16, theme: Theme, pen: &mut Pen<'_>) {
        let texts: Vec<&str> = match value {
            Param::List(list) => list.iter().map(String::as_str).collect(),
            Param::Text(text) => vec![text.as_str()],
            _ => Vec::new(),
        };
        pen.put(if edited { "▕" } else { " " }, theme.bright());
        let stops = palette::stops(texts.iter().copied(), &self.show.palette).unwrap_or_default();
        let ramp = Ramp::open(&stops, Mixing::default());
        let strip = if width > 20 { 14 } else { width };
        for column in 0..strip {
            let [r, g, b, a] = ramp.at(f32::from(column) / f32::from(strip.max(2) - 1));
            pen.put(" ", Style::new().bg(theme.colour(to_screen([r * a, g * a, b * a]))));
        }
        pen.put(if edited { "▏" } else { " " }, theme.bright());
        let names: Vec<&str> = texts.iter().filter_map(|text| palette::referred(text)).map(|(name, _)| name).collect();
        if width > 20 {
            let words = if names.is_empty() { format!("{} colours", texts.len()) } else { names.join(" + ") };
            pen.put(&format!(" {words}").replace(" 1 colours", " 1 colour"), theme.faint_text());
        }
    }
}

/// Draws the place of a value in its range.
fn draw_ruler(share: f32, theme: Theme, pen: &mut Pen<'_>) {
    const CELLS: usize = 16;
    let at = (share.clamp(0.0, 1.0) * (CELLS - 1) as f32).round() as usize;
    pen.put("▕", theme.faint());
    pen.put(&"─".repeat(at), theme.faint());
    pen.put("●", theme.dim());
    pen.put(&"─".repeat(CELLS - 1 - at), theme.faint());
    pen.put("▏", theme.faint());
}

/// Draws what moves a value, and how it moved of late.
fn draw_modulator(modulator: &Modulator, trace: &[f32], more: usize, show: &Show, theme: Theme, pen: &mut Pen<'_>) {
    pen.put(&trace_of(trace), theme.text());
    let rate = match (&modulator.source, modulator.source.rate()) {
        (_, Some(rate)) => format!(" {rate}"),
        (ModulatorSource::Control(number), None) => match show.control_name(*number) {
            Some(name) => format!(" {}", shortened(name, 8)),
            None => format!(" {number}"),
        },
        (ModulatorSource::Band(number), None) => format!(" {number}"),
        (_, None) => String::new(),
    };
    let depth = plain(f64::from(modulator.depth.abs()));
    let more = if more > 0 { format!(" +{more}") } else { String::new() };
    pen.put(&format!(" {}{rate} ±{depth}{more}", modulator.source.kind().name()), theme.dim());
}

/// A line of braille dots, four high and two to a cell.
fn trace_of(values: &[f32]) -> String {
    const LEFT: [u32; 4] = [0x40, 0x04, 0x02, 0x01];
    const RIGHT: [u32; 4] = [0x80, 0x20, 0x10, 0x08];
    let dot = |index: usize, column: &[u32; 4]| {
        let value = values.get(index)?;
        Some(column[((value.clamp(-1.0, 1.0) + 1.0) * 1.999) as usize])
    };
    let start = values.len().saturating_sub(2 * TRACE);
    let cell = |cell: usize| {
        let (a, b) = (dot(start + 2 * cell, &LEFT), dot(start + 2 * cell + 1, &RIGHT));
        char::from_u32(0x2800 + a.unwrap_or(0) + b.unwrap_or(0)).unwrap_or(' ')
    };
    (0..TRACE).map(cell).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_trace_rises_from_left_to_right() {
        let values: Vec<f32> = (0..16).map(|i| i as f32 / 7.5 - 1.0).collect();
        assert_eq!(trace_of(&values), "⣀⣀⠤⠤⠒⠒⠉⠉");
        assert_eq!(trace_of(&[]).chars().count(), TRACE);
    }
}
