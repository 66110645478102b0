//! The view Output: the universes on their way, and every slot of the chosen one.

use ratatui::buffer::Buffer;
use ratatui::layout::{Position, Rect};
use splimo_core::rig::Rig;
use splimo_core::show::{Route, Unchanged};

use super::chrome::{EIGHTHS, Pen};
use super::face::Seen;
use super::stage::StageMap;
use super::theme::Theme;
use crate::runtime::output::StreamStatus;

/// Lines of a bar.
const BAR_LINES: u16 = 3;

/// The state of the view.
#[derive(Default)]
pub(super) struct OutputView {
    stage: StageMap,
    /// The chosen row of the list.
    chosen: usize,
    rows: usize,
    /// The first row that is seen, and where.
    first: usize,
    list: Rect,
    bars: bool,
}

impl OutputView {
    pub(super) fn choose_by(&mut self, by: i32) {
        self.chosen = (self.chosen as i64 + i64::from(by)).clamp(0, self.rows.saturating_sub(1) as i64) as usize;
    }

    /// Takes note that the lights are others, or lie elsewhere.
    pub(super) fn rig_changed(&mut self) {
        self.stage = StageMap::default();
    }

    pub(super) fn turn_bars(&mut self) {
        self.bars = !self.bars;
    }

    /// Chooses the row at a place, if there is one.
    pub(super) fn click(&mut self, at: Position) {
        if self.list.contains(at) {
            let row = self.first + usize::from(at.y - self.list.y);
            if row < self.rows {
                self.chosen = row;
            }
        }
    }

    pub(super) fn draw(&mut self, seen: &Seen<'_>, rig: &Rig, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let streams = &seen.output.streams;
        self.rows = streams.len();
        self.chosen = self.chosen.min(self.rows.saturating_sub(1));
        let slots = slot_lines(area, self.bars);
        let top = Rect { height: area.height.saturating_sub(slots + 1), ..area };
        let side = if area.width >= 110 { area.width * 2 / 5 } else { area.width / 4 };
        let list = Rect { width: area.width - side, ..top };
        self.universes(seen, theme, list, buffer);
        let stage = Rect { x: list.right(), y: top.y, width: side - 1, height: top.height };
        self.stage.draw(rig, seen.show.canvas, &seen.snapshot.light, stage, theme, buffer);
        let below = Rect { y: top.bottom(), height: area.height - top.height, ..area };
        match streams.get(self.chosen) {
            Some(stream) => self.slots(seen, stream, theme, below, buffer),
            None => {
                let words = "No universe goes out: patch fixtures (address = \"1.1\") and add a [[routes]] entry to the show's file.";
                buffer.set_stringn(area.x + 1, area.y + 1, words, usize::from(area.width) - 2, theme.text());
            }
        }
    }

    fn universes(&mut self, seen: &Seen<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let wide = area.width >= 90;
        let mut pen = Pen::new(Rect { height: 1, ..area }, buffer);
        let heading = if wide {
            "  uni  route            protocol   number  to                 packets    rate  state"
        } else {
            "  uni  route       number  to               rate  state"
        };
        pen.put(heading, theme.dim());
        let out = seen.output;
        self.list = Rect { y: area.y + 1, height: area.height.saturating_sub(4), ..area };
        let lines = usize::from(self.list.height).max(1);
        self.first = self.first.clamp(self.chosen.saturating_sub(lines - 1), self.chosen);
        for (line, (index, stream)) in out.streams.iter().enumerate().skip(self.first).take(lines).enumerate() {
            let Some(route) = seen.show.routes.get(stream.route) else { continue };
            let chosen = index == self.chosen;
            let style = if chosen { theme.bright() } else { theme.text() };
            let row = Rect { y: self.list.y + line as u16, height: 1, ..area };
            Pen::new(row, buffer).put(&universe_row(stream, route, seen.show.settings.rate, chosen, wide), style);
        }
        let mut pen = Pen::new(Rect { y: area.bottom().saturating_sub(2), height: 1, ..area }, buffer);
        let late = out.late_ms;
        pen.put(&format!("  {} packets, ", out.packets), theme.dim());
        let refused = match &out.last_error {
            Some(why) if out.errors > 0 => format!("{} refused ({why})", out.errors),
            _ => format!("{} refused", out.errors),
        };
        pen.put(&refused, if out.errors > 0 { theme.bright() } else { theme.dim() });
        let words = if wide {
            format!("   frames late by {:.2} ms, p99 {:.2}, most {:.2}", late.p50, late.p99, late.max)
        } else {
            format!("  late p99 {:.2} ms", late.p99)
        };
        pen.put(&words, theme.dim());
    }

    fn slots(&self, seen: &Seen<'_>, stream: &StreamStatus, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let start = stream.source * 512;
        let Some(slots) = seen.snapshot.slots.get(start..start + 512) else { return };
        let mut pen = Pen::new(Rect { height: 1, ..area }, buffer);
        pen.to(1).put(&format!("universe {}", stream.universe), theme.bright());
        pen.put("   512 slots   ", theme.dim());
        let lit = slots.iter().filter(|&&v| v > 0).count();
        let most = slots.iter().max().copied().unwrap_or(0);
        pen.put(&format!("{lit} above 0, highest {most}   "), theme.dim());
        pen.put(if self.bars { "b shows numbers" } else { "b shows bars" }, theme.faint());
        let body = Rect { y: area.y + 1, height: area.height.saturating_sub(1), ..area };
        if self.bars { bars(slots, theme, body, buffer) } else { numbers(slots, theme, body, buffer) }
    }
}

/// A universe as a line. One whose route sends every frame is slow where fewer leave.
fn universe_row(stream: &StreamStatus, route: &Route, frame_rate: f32, chosen: bool, wide: bool) -> String {
    let mark = if chosen { "▸" } else { " " };
    let state = if stream.packets == 0 {
        "starting"
    } else if stream.rate < 0.1 {
        "silent"
    } else if route.unchanged == Unchanged::Repeat && stream.rate < frame_rate * 0.9 {
        "slow"
    } else {
        "well"
    };
    let cut = |text: &str, room: usize| text.chars().take(room).collect::<String>();
    let to = route.to.to_string();
    if wide {
        let protocol = route.protocol.name();
        format!(
            "{mark} {:>3}  {:<15}  {protocol:<9}  {:>6}  {to:<15}  {:>9}  {:>6.1}  {state}",
            stream.universe,
            cut(&route.name, 15),
            stream.number,
            stream.packets,
            stream.rate
        )
    } else {
        format!(
            "{mark} {:>3}  {:<10}  {:>6}  {to:<15}  {:>4.1}  {state}",
            stream.universe,
            cut(&route.name, 10),
            stream.number,
            stream.rate
        )
    }
}

/// Slots side by side: a multiple of eight that fits.
fn per_line(area: Rect, bars: bool) -> u16 {
    let room = area.width.saturating_sub(6);
    let fits = if bars { room } else { room / 4 };
    (fits / 8 * 8).clamp(8, if bars { 512 } else { 32 })
}

/// The lines that the slots of a universe take.
fn slot_lines(area: Rect, bars: bool) -> u16 {
    let lines = 512u16.div_ceil(per_line(area, bars));
    let wanted = if bars { lines * (BAR_LINES + 1) } else { lines };
    // The list keeps its place where there is little.
    (wanted + 1).min(if area.height < 30 { area.height / 2 } else { area.height * 6 / 10 })
}

fn numbers(slots: &[u8], theme: Theme, area: Rect, buffer: &mut Buffer) {
    let per_line = per_line(area, false);
    for (line, row) in slots.chunks(usize::from(per_line)).enumerate().take(usize::from(area.height)) {
        let mut pen = Pen::new(Rect { y: area.y + line as u16, height: 1, ..area }, buffer);
        pen.to(1).put(&format!("{:>3} ", line * usize::from(per_line) + 1), theme.faint());
        for &value in row {
            let style = match value {
                0 => theme.faint(),
                1..=127 => theme.dim(),
                128..=254 => theme.text(),
                255 => theme.bright(),
            };
            pen.put(&format!("{value:>4}"), style);
        }
    }
}

fn bars(slots: &[u8], theme: Theme, area: Rect, buffer: &mut Buffer) {
    let per_line = per_line(area, true);
    for (line, row) in slots.chunks(usize::from(per_line)).enumerate() {
        let top = area.y + line as u16 * (BAR_LINES + 1);
        if top + BAR_LINES > area.bottom() {
            return;
        }
        let mut pen = Pen::new(Rect { y: top + BAR_LINES - 1, height: 1, ..area }, buffer);
        pen.to(1).put(&format!("{:>3} ", line * usize::from(per_line) + 1), theme.faint());
        for (slot, &value) in row.iter().enumerate() {
            let eighths = (f32::from(value) / 255.0 * f32::from(BAR_LINES) * 8.0).ceil() as i32;
            for step in 0..BAR_LINES {
                let here = (eighths - i32::from(BAR_LINES - 1 - step) * 8).clamp(0, 8) as usize;
                let style = if value == 0 { theme.faint() } else { theme.text() };
                // An empty slot keeps its foot, so that the eye can count.
                let symbol = if here == 0 && step == BAR_LINES - 1 { "·" } else { EIGHTHS[here] };
                if let Some(cell) = buffer.cell_mut((area.x + 5 + slot as u16, top + step)) {
                    cell.set_symbol(symbol).set_style(style);
                }
            }
        }
    }
}
