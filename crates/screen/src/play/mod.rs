//! The view Play: the stage, what is on it, what will land, and the pads.

use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_core::action::Action;
use splimo_core::engine::OnStage;
use splimo_core::rig::Rig;
use splimo_core::show::{Look, Show};

use super::face::{Seen, beats};
use super::keys::{PAD_ROWS, pads_in_bank};
use crate::kit::bars::{EIGHTHS, bar};
use crate::kit::gallery::Gallery;
use crate::kit::pen::Pen;
use crate::kit::stage_map::StageMap;
use crate::kit::theme::Theme;
use crate::kit::words::short_name;

/// The width of what stands beside the stage.
const SIDE: u16 = 42;

/// The state of the view.
#[derive(Default)]
pub(super) struct PlayView {
    stage: StageMap,
    miniatures: Gallery,
    bank: usize,
    banks: usize,
}

/// Where the pads are.
#[derive(Clone, Copy)]
struct PadGrid {
    /// Rows of keys that are shown.
    rows: usize,
    /// Lines of a pad: its name and its miniature.
    height: u16,
    /// Columns of a pad.
    width: u16,
}

impl PlayView {
    /// Takes note that the lights are others, or lie elsewhere.
    pub(super) fn rig_changed(&mut self) {
        self.stage = StageMap::default();
    }

    pub(super) fn bank(&self) -> usize {
        self.bank
    }

    pub(super) fn turn_bank(&mut self, by: i32) {
        self.bank = (self.bank as i64 + i64::from(by)).clamp(0, self.banks.max(1) as i64 - 1) as usize;
    }

    pub(super) fn draw(
        &mut self,
        seen: &Seen<'_>,
        rig: &Arc<Rig>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
        targets: &mut Vec<(Rect, Action)>,
    ) {
        self.banks = seen.show.looks.len().div_ceil(pads_in_bank()).max(1);
        self.bank = self.bank.min(self.banks - 1);
        let grid = self.grid(seen.show, area);
        let pads_height = grid.rows as u16 * grid.height + 1;
        let top = Rect { height: area.height.saturating_sub(pads_height), ..area };
        let pads = Rect { y: top.bottom(), height: pads_height.min(area.height), ..area };
        let side = if area.width >= 110 { SIDE } else { 0 };
        let stage = Rect { x: area.x + 1, width: area.width - side - 2, ..top };
        if rig.is_empty() {
            buffer.set_string(stage.x, stage.y + 1, "No fixtures yet: F2, then a adds them.", theme.text());
        } else {
            self.stage.draw(rig, seen.show.canvas, &seen.snapshot.light, stage, theme, buffer);
        }
        if side > 0 {
            let side = Rect { x: area.right() - side, width: side - 1, y: top.y, height: top.height };
            beside_the_stage(seen, theme, side, buffer);
        }
        targets.extend(self.pads(seen, rig, theme, grid, pads, buffer));
    }

    /// As many rows of pads as there are looks for, and half of the height for the stage.
    fn grid(&self, show: &Show, area: Rect) -> PadGrid {
        let looks = show.looks.len().saturating_sub(self.bank * pads_in_bank());
        let mut wanted = 0;
        let mut covered = 0;
        while wanted < PAD_ROWS.len() && (covered < looks || wanted == 0) {
            covered += PAD_ROWS[wanted].len();
            wanted += 1;
        }
        let room = area.height / 2;
        let height = (room / wanted as u16).clamp(2, 7);
        let rows = wanted.min(usize::from(area.height.saturating_sub(6) / height)).max(1);
        PadGrid { rows, height, width: (area.width - 1) / 10 }
    }

    /// Draws the pads, and tells what a click on each does.
    fn pads(
        &mut self,
        seen: &Seen<'_>,
        rig: &Arc<Rig>,
        theme: Theme,
        grid: PadGrid,
        area: Rect,
        buffer: &mut Buffer,
    ) -> Vec<(Rect, Action)> {
        let first = self.bank * pads_in_bank();
        pads_heading(seen, self.bank, self.banks, theme, area, buffer);
        let keys = PAD_ROWS.iter().take(grid.rows).enumerate();
        let places: Vec<(usize, char, Rect)> = keys
            .flat_map(|(row, keys)| keys.chars().enumerate().map(move |(column, key)| (row, column, key)))
            .enumerate()
            .map(|(pad, (row, column, key))| {
                let x = area.x + 1 + column as u16 * grid.width;
                let y = area.y + 1 + row as u16 * grid.height;
                (first + pad, key, Rect::new(x, y, grid.width - 1, grid.height).intersection(area))
            })
            .collect();
        // A line is left between rows where there are lines to spare.
        let spare = u16::from(grid.height >= 4);
        let size = (grid.width.saturating_sub(3), grid.height - 1 - spare);
        let looks: Vec<&Look> = places.iter().filter_map(|(pad, ..)| seen.show.looks.get(*pad)).collect();
        self.miniatures.advance(&looks, seen.show, rig, seen.snapshot, size);
        let mut targets = Vec::with_capacity(looks.len());
        for (pad, key, place) in places {
            pad_label(seen, pad, key, theme, place, buffer);
            if pad < seen.show.looks.len() {
                targets.push((place, Action::FirePad(pad)));
                let picture = Rect { x: place.x + 2, y: place.y + 1, width: size.0, height: size.1 };
                self.miniatures.draw(pad - first, picture, theme, buffer);
            }
        }
        targets
    }
}

fn pads_heading(seen: &Seen<'_>, bank: usize, banks: usize, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let settings = &seen.show.settings;
    let mut pen = Pen::new(Rect { height: 1, ..area }, buffer);
    pen.to(1).put("pads  ", theme.dim());
    if banks > 1 {
        pen.put(&format!("bank {} of {banks}  ", bank + 1), theme.dim());
    }
    pen.put("land on ", theme.dim());
    for boundary in splimo_core::show::Boundary::ALL {
        let chosen = boundary == settings.lands;
        let word = if chosen { format!("[{}]", boundary.name()) } else { format!(" {} ", boundary.name()) };
        pen.put(&word, if chosen { theme.bright() } else { theme.faint() });
    }
    pen.put("  fade ", theme.dim());
    pen.put(&beats(settings.fade_beats), theme.bright());
    if seen.show.looks.is_empty() {
        pen.put("   no looks yet: F4, then n makes one", theme.text());
    }
}

/// Key, name and state: plain, ⟨armed⟩ with its countdown, filled on stage, and marked while it fades out.
fn pad_label(seen: &Seen<'_>, pad: usize, key: char, theme: Theme, place: Rect, buffer: &mut Buffer) {
    let mut pen = Pen::new(Rect { height: place.height.min(1), ..place }, buffer);
    let Some(look) = seen.show.looks.get(pad) else {
        pen.put(&key.to_string(), theme.faint());
        return;
    };
    let armed = seen.snapshot.armed.filter(|armed| armed.look == pad);
    let entry = seen.snapshot.stage.iter().find(|entry| entry.look == pad);
    let room = usize::from(place.width).saturating_sub(2);
    pen.put(&format!("{key} "), theme.text());
    match (armed, entry) {
        (Some(armed), _) => {
            let left = (armed.lands_at - seen.snapshot.clock.beat).max(0.0);
            // Where there is no room for the countdown, the runway has it.
            let countdown = if room >= 9 { format!(" {left:.0}") } else { String::new() };
            let name = short_name(&look.name, room.saturating_sub(countdown.len() + 2));
            pen.put(&format!("⟨{name}⟩{countdown}"), theme.armed());
        }
        (None, Some(OnStage { comes: true, .. })) => {
            let name = short_name(&look.name, room);
            // With room around it where there is some.
            let name = if name.chars().count() + 2 <= room { format!(" {name} ") } else { name };
            pen.put(&name, theme.filled());
        }
        (None, Some(_)) => {
            let name = short_name(&look.name, room.saturating_sub(2));
            pen.put(&format!("░{name}░"), theme.text());
        }
        (None, None) => {
            pen.put(&short_name(&look.name, room), theme.text());
        }
    }
}

/// What is on stage, what is armed, and what is heard.
fn beside_the_stage(seen: &Seen<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let mut y = area.y;
    let mut line = |buffer: &mut Buffer, write: &mut dyn FnMut(&mut Pen<'_>)| {
        if y < area.bottom() {
            write(&mut Pen::new(Rect { y, height: 1, ..area }, buffer));
        }
        y += 1;
    };
    line(buffer, &mut |pen| {
        pen.put("on stage", theme.dim());
    });
    for entry in seen.snapshot.stage.iter().take(4) {
        line(buffer, &mut |pen| on_stage(seen, entry, theme, pen));
    }
    if seen.snapshot.stage.is_empty() {
        line(buffer, &mut |pen| {
            pen.put("nothing: press a pad", theme.text());
        });
    }
    line(buffer, &mut |_| {});
    line(buffer, &mut |pen| {
        pen.put("armed", theme.dim());
    });
    line(buffer, &mut |pen| armed(seen, theme, pen));
    line(buffer, &mut |_| {});
    line(buffer, &mut |pen| heard(seen, theme, pen));
    let heading = y;
    spectrum(
        seen,
        theme,
        Rect { y: heading, height: area.bottom().saturating_sub(heading + 1).min(6), ..area },
        buffer,
    );
}

fn on_stage(seen: &Seen<'_>, entry: &OnStage, theme: Theme, pen: &mut Pen<'_>) {
    let name = short_name(seen.show.looks.get(entry.look).map_or("", |look| &look.name), 15);
    let style = if entry.comes { theme.bright() } else { theme.text() };
    pen.put(&format!("{name:<16}"), style);
    pen.put("▕", theme.faint());
    pen.put(&bar(entry.weight, 8), style);
    pen.put("▏", theme.faint());
    pen.put(&format!("{:3.0}", entry.weight * 100.0), style);
    if entry.fade_left > 0.05 {
        pen.put(&format!(" {} {:.1}", if entry.comes { "in" } else { "out" }, entry.fade_left), theme.dim());
    }
}

fn armed(seen: &Seen<'_>, theme: Theme, pen: &mut Pen<'_>) {
    let Some(armed) = seen.snapshot.armed else {
        pen.put("nothing", theme.faint());
        return;
    };
    let name = short_name(seen.show.looks.get(armed.look).map_or("", |look| &look.name), 15);
    let left = (armed.lands_at - seen.snapshot.clock.beat).max(0.0);
    pen.put(&format!("{:<17}", format!("⟨{name}⟩")), theme.armed());
    pen.put(&format!("{:<7}", armed.boundary.name()), theme.text());
    pen.put(&format!("{left:4.1} beats"), theme.armed());
}

fn heard(seen: &Seen<'_>, theme: Theme, pen: &mut Pen<'_>) {
    let hearing = &seen.snapshot.hearing;
    pen.put("heard  ", theme.dim());
    if hearing.peak <= 0.001 && hearing.level <= 0.01 {
        pen.put("silence", theme.faint());
        return;
    }
    pen.put("▕", theme.faint());
    pen.put(&bar(hearing.level, 10), theme.text());
    pen.put("▏", theme.faint());
    pen.put(&format!(" {:5.1} ", hearing.tempo_bpm), theme.text());
    let sure = match hearing.confidence {
        c if c >= 0.75 => "sure",
        c if c >= splimo_core::tempo::TRUSTED => "fairly sure",
        _ => "unsure",
    };
    pen.put(sure, theme.dim());
}

/// The bands as bars, low to the left.
fn spectrum(seen: &Seen<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
    if area.height < 2 {
        return;
    }
    let lines = area.height;
    let width = (area.width / seen.snapshot.hearing.bands.len() as u16).max(1);
    for (band, &level) in seen.snapshot.hearing.bands.iter().enumerate() {
        let eighths = (level * f32::from(lines) * 8.0).round() as i32;
        for line in 0..lines {
            let here = (eighths - i32::from(lines - 1 - line) * 8).clamp(0, 8) as usize;
            let x = area.x + band as u16 * width;
            let cell = Rect::new(x, area.y + line, width, 1).intersection(area);
            for column in cell.left()..cell.right() {
                buffer[(column, cell.y)].set_symbol(EIGHTHS[here]).set_style(theme.text());
            }
        }
    }
}
