//! The view Play: the stage, what is on it, what will land, and the pads.

mod action;

use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use splimo_core::command::EngineCommand;
use splimo_core::engine::OnStage;
use splimo_core::rig::Rig;
use splimo_core::show::{Look, Show};
use splimo_link::subscription::Subscription;

use action::{Ask, KEYS, PlayAction};

use crate::kit::bars::{EIGHTHS, bar};
use crate::kit::gallery::Gallery;
use crate::kit::pen::Pen;
use crate::kit::stage_map::{StageMap, enough_of};
use crate::kit::theme::Theme;
use crate::kit::words::{beats, short_name};
use crate::model::{Model, ViewContext};
use crate::view::{Handled, KeyBinding, Memory, Targets, View, ViewSpec};

/// The width of what stands beside the stage.
const SIDE: u16 = 42;

/// The state of the view.
#[derive(Default)]
pub(crate) struct PlayView {
    stage: StageMap,
    miniatures: Gallery,
    bank: usize,
    banks: usize,
    /// The number of lights that are drawn.
    lights: usize,
}

/// The grid of the pads.
#[derive(Clone, Copy)]
struct PadGrid {
    /// Rows of keys that are shown.
    rows: usize,
    /// Lines of a pad: its name and its miniature.
    height: u16,
    /// Columns of a pad.
    width: u16,
}

/// The keys of the pads, row by row; a bank has as many pads.
const PAD_ROWS: [&str; 4] = ["1234567890", "qwertyuiop", "asdfghjkl", "zxcvbnm"];

/// The number of pads that a bank has.
fn pads_in_bank() -> usize {
    PAD_ROWS.iter().map(|row| row.len()).sum()
}

/// The pad of a letter or number key within a bank; Shift makes no difference.
fn pad_of(letter: char) -> Option<usize> {
    let letter = letter.to_ascii_lowercase();
    PAD_ROWS.iter().flat_map(|row| row.chars()).position(|key| key == letter)
}

impl View for PlayView {
    type Action = PlayAction;

    const SPEC: ViewSpec = ViewSpec {
        name: "play",
        function_key: 6,
        digit: '5',
        help: &[
            "Press a pad to arm its look. It lands on the boundary that is set above the pads,",
            "and fades in from there. The runway shows the phrase, and what will land where.",
            "A pad is plain while it rests, ⟨armed⟩ with its beats left, filled on stage.",
        ],
        other_keys: &[["1-0 q-p a-l z-m", "pads", "The pads"]],
        shift_arrows: false,
    };

    const KEYS: &'static [KeyBinding<PlayAction>] = KEYS;

    fn sync(&mut self, _model: &Model) {}

    fn key(&mut self, key: KeyEvent) -> Handled<PlayAction> {
        let held = key.modifiers & (KeyModifiers::CONTROL | KeyModifiers::ALT);
        let KeyCode::Char(letter) = key.code else { return Handled::Not };
        let pad = pad_of(letter).filter(|_| held.is_empty());
        let fire = |pad| vec![Ask::engine(EngineCommand::FirePad(self.bank * pads_in_bank() + pad + 1))];
        Handled::done(pad.map(fire))
    }

    fn wheel(&self, by: i32) -> Ask {
        Ask::Action(PlayAction::PadBank(-by))
    }

    fn act(&mut self, action: &PlayAction) -> Vec<Ask> {
        match action {
            PlayAction::PadBank(by) => self.turn_bank(*by),
        }
        Vec::new()
    }

    fn draw(
        &mut self,
        context: &ViewContext<'_>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
        targets: &mut Targets<PlayAction>,
    ) {
        self.draw_all(context, theme, area, buffer, targets);
    }

    fn subscribe(&self, subscription: &mut Subscription) {
        subscription.light = Some(enough_of(self.lights));
        subscription.media = true;
    }

    fn remember(&self, memory: &mut Memory) {
        memory.insert("bank".into(), self.bank.to_string());
    }

    fn recall(&mut self, memory: &Memory) {
        self.bank = memory.get("bank").and_then(|bank| bank.parse().ok()).unwrap_or(self.bank);
    }
}

impl PlayView {
    fn turn_bank(&mut self, by: i32) {
        self.bank = (self.bank as i64 + i64::from(by)).clamp(0, self.banks.max(1) as i64 - 1) as usize;
    }

    fn draw_all(
        &mut self,
        context: &ViewContext<'_>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
        targets: &mut Targets<PlayAction>,
    ) {
        let rig = context.rig;
        self.lights = rig.len();
        self.banks = context.show.looks.len().div_ceil(pads_in_bank()).max(1);
        self.bank = self.bank.min(self.banks - 1);
        let grid = self.grid(context.show, area);
        let pads_height = grid.rows as u16 * grid.height + 1;
        let top = Rect { height: area.height.saturating_sub(pads_height), ..area };
        let pads = Rect { y: top.bottom(), height: pads_height.min(area.height), ..area };
        let side = if area.width >= 110 { SIDE } else { 0 };
        let stage = Rect { x: area.x + 1, width: area.width - side - 2, ..top };
        if rig.is_empty() {
            buffer.set_string(stage.x, stage.y + 1, "No fixtures yet: F2, then a adds them.", theme.text());
        } else {
            self.stage.draw(rig, context.show.canvas, context.light, stage, theme, buffer);
        }
        if side > 0 {
            let side = Rect { x: area.right() - side, width: side - 1, y: top.y, height: top.height };
            beside_the_stage(context, theme, side, buffer);
        }
        targets.extend(self.pads(context, rig, theme, grid, pads, buffer));
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
        context: &ViewContext<'_>,
        rig: &Arc<Rig>,
        theme: Theme,
        grid: PadGrid,
        area: Rect,
        buffer: &mut Buffer,
    ) -> Targets<PlayAction> {
        let first = self.bank * pads_in_bank();
        pads_heading(context, self.bank, self.banks, theme, area, buffer);
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
        let looks: Vec<&Look> = places.iter().filter_map(|(pad, ..)| context.show.looks.get(*pad)).collect();
        self.miniatures.advance(&looks, context.show, rig, context.snapshot, size);
        let mut targets = Vec::with_capacity(looks.len());
        for (pad, key, place) in places {
            pad_label(context, pad, key, theme, place, buffer);
            if pad < context.show.looks.len() {
                targets.push((place, Ask::engine(EngineCommand::FirePad(pad + 1))));
                let picture = Rect { x: place.x + 2, y: place.y + 1, width: size.0, height: size.1 };
                self.miniatures.draw(pad - first, picture, theme, buffer);
            }
        }
        targets
    }
}

fn pads_heading(context: &ViewContext<'_>, bank: usize, banks: usize, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let settings = &context.show.settings;
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
    if context.show.looks.is_empty() {
        pen.put("   no looks yet: F4, then n makes one", theme.text());
    }
}

/// Key, name and state: plain, ⟨armed⟩ with its countdown, filled on stage, and marked while it fades out.
fn pad_label(context: &ViewContext<'_>, pad: usize, key: char, theme: Theme, place: Rect, buffer: &mut Buffer) {
    let mut pen = Pen::new(Rect { height: place.height.min(1), ..place }, buffer);
    let Some(look) = context.show.looks.get(pad) else {
        pen.put(&key.to_string(), theme.faint());
        return;
    };
    let armed = context.snapshot.waits(pad);
    let entry = context.snapshot.stage.iter().find(|entry| entry.look == pad);
    let room = usize::from(place.width).saturating_sub(2);
    pen.put(&format!("{key} "), theme.text());
    match (armed, entry) {
        (Some(armed), _) => {
            let left = (armed.lands_at - context.snapshot.clock.beat).max(0.0);
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

/// Draws what is on stage, what is armed, and what is heard.
fn beside_the_stage(context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
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
    for entry in context.snapshot.stage.iter().take(4) {
        line(buffer, &mut |pen| on_stage(context, entry, theme, pen));
    }
    if context.snapshot.stage.is_empty() {
        line(buffer, &mut |pen| {
            pen.put("nothing: press a pad", theme.text());
        });
    }
    line(buffer, &mut |_| {});
    line(buffer, &mut |pen| {
        pen.put("armed", theme.dim());
    });
    line(buffer, &mut |pen| armed(context, theme, pen));
    line(buffer, &mut |_| {});
    line(buffer, &mut |pen| heard(context, theme, pen));
    let heading = y;
    spectrum(
        context,
        theme,
        Rect { y: heading, height: area.bottom().saturating_sub(heading + 1).min(6), ..area },
        buffer,
    );
}

fn on_stage(context: &ViewContext<'_>, entry: &OnStage, theme: Theme, pen: &mut Pen<'_>) {
    let name = short_name(context.show.looks.get(entry.look).map_or("", |look| &look.name), 15);
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

fn armed(context: &ViewContext<'_>, theme: Theme, pen: &mut Pen<'_>) {
    let Some(armed) = context.snapshot.next_to_land() else {
        pen.put("nothing", theme.faint());
        return;
    };
    let name = short_name(context.show.looks.get(armed.look).map_or("", |look| &look.name), 15);
    let left = (armed.lands_at - context.snapshot.clock.beat).max(0.0);
    pen.put(&format!("{:<17}", format!("⟨{name}⟩")), theme.armed());
    pen.put(&format!("{:<7}", armed.boundary.name()), theme.text());
    pen.put(&format!("{left:4.1} beats"), theme.armed());
}

fn heard(context: &ViewContext<'_>, theme: Theme, pen: &mut Pen<'_>) {
    let hearing = &context.snapshot.hearing;
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
fn spectrum(context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
    if area.height < 2 {
        return;
    }
    let lines = area.height;
    let width = (area.width / context.snapshot.hearing.bands.len() as u16).max(1);
    for (band, &level) in context.snapshot.hearing.bands.iter().enumerate() {
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
