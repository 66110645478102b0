//! The pads of a bank: their keys, their names and states, and a living miniature of each look.

use std::collections::BTreeSet;
use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_engine::{Armed, TierState};
use splimo_light::rig::Rig;
use splimo_show::command::EngineCommand;
use splimo_show::{Bank, Boundary, Look, PADS, Pad, PadMode};

use super::action::{Ask, PlayAction};
use crate::keyboard::Layout;
use crate::kit::gallery::Gallery;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::{beats, short_name};
use crate::model::ViewContext;
use crate::view::Targets;

/// The keys of the pads, row by row; a bank has as many pads.
pub(super) const PAD_ROWS: [&str; 4] = ["1234567890", "qwertyuiop", "asdfghjkl", "zxcvbnm"];

/// The place of the pad of a letter or number key, from 1; Shift makes no difference.
pub(super) fn place_of(letter: char) -> Option<usize> {
    let letter = letter.to_ascii_lowercase();
    PAD_ROWS.iter().flat_map(|row| row.chars()).position(|key| key == letter).map(|place| place + 1)
}

/// The key of a pad by its place, from 1.
pub(super) fn key_of(place: usize, layout: Layout) -> char {
    layout.pad_rows().concat().chars().nth(place.wrapping_sub(1)).unwrap_or('?')
}

/// The grid of the pads.
#[derive(Clone, Copy)]
struct Grid {
    /// Rows of keys that are shown.
    rows: usize,
    /// Lines of a pad: its name and its miniature.
    height: u16,
    /// Columns of a pad.
    width: u16,
}

impl Grid {
    /// As many rows as the bank has pads for, and half of the height for the stage. While pads are edited all are shown.
    fn of(bank: Option<&Bank>, all: bool, area: Rect) -> Self {
        let last = bank.and_then(|bank| bank.pads.iter().map(|pad| pad.place).max()).unwrap_or(0);
        let last = if all { PADS } else { last };
        let mut wanted = 0;
        let mut covered = 0;
        while wanted < PAD_ROWS.len() && (covered < last || wanted == 0) {
            covered += PAD_ROWS[wanted].len();
            wanted += 1;
        }
        let room = area.height / 2;
        let height = (room / wanted as u16).clamp(if all { 1 } else { 2 }, 7);
        let rows = wanted.min(usize::from(area.height.saturating_sub(6) / height)).max(1);
        Self { rows, height, width: (area.width - 1) / 10 }
    }
}

/// The pads on the screen.
#[derive(Default)]
pub(super) struct Pads {
    miniatures: Gallery,
}

/// Everything besides the context that the pads are drawn from.
pub(super) struct PadsState<'s> {
    pub bank: usize,
    /// The pads that are chosen while pads are edited: the bank and the place of each.
    pub edited: Option<&'s BTreeSet<(usize, usize)>>,
    /// True if this terminal tells when a key is let go.
    pub releases: bool,
}

impl Pads {
    /// The height that the pads take of an area.
    pub(super) fn height(context: &ViewContext<'_>, state: &PadsState<'_>, area: Rect) -> u16 {
        let grid = Grid::of(context.show.banks.get(state.bank), state.edited.is_some(), area);
        grid.rows as u16 * grid.height + 1
    }

    /// Draws the pads, and tells what a click on each does. `whole` is the area of the view, `area` that of the pads.
    pub(super) fn draw(
        &mut self,
        context: &ViewContext<'_>,
        state: &PadsState<'_>,
        theme: Theme,
        [whole, area]: [Rect; 2],
        buffer: &mut Buffer,
        targets: &mut Targets<PlayAction>,
    ) {
        let rig: &Arc<Rig> = context.rig;
        let bank = context.show.banks.get(state.bank);
        let grid = Grid::of(bank, state.edited.is_some(), whole);
        heading(context, state, theme, Rect { height: 1, ..area }, buffer);
        // A line is left between rows where there are lines to spare.
        let spare = u16::from(grid.height >= 4);
        let size = (grid.width.saturating_sub(3), grid.height.saturating_sub(1 + spare));
        let mut shown: Vec<(usize, Rect, Option<&Pad>)> = Vec::with_capacity(PADS);
        let mut place = 0;
        for (row, keys) in PAD_ROWS.iter().take(grid.rows).enumerate() {
            for column in 0..keys.len() {
                place += 1;
                let x = area.x + 1 + column as u16 * grid.width;
                let y = area.y + 1 + row as u16 * grid.height;
                let at = Rect::new(x, y, grid.width - 1, grid.height).intersection(area);
                shown.push((place, at, bank.and_then(|bank| bank.pad(place))));
            }
        }
        let look = |pad: Option<&Pad>| Some(context.show.look(pad?.look.as_deref()?)?.1);
        let looks: Vec<&Look> = shown.iter().filter_map(|(.., pad)| look(*pad)).collect();
        self.miniatures.hold(context.reduced_motion);
        self.miniatures.advance(&looks, context.show, rig, context.snapshot, size);
        let mut picture = 0;
        for (place, at, pad) in shown {
            let number = state.bank * PADS + place;
            let label = Label { context, bank, number, place, pad, chosen: state.chosen(place) };
            label.draw(theme, at, buffer);
            if state.edited.is_some() {
                targets.push((at, Ask::Action(PlayAction::ChoosePad(place as i32))));
            } else if pad.is_some() {
                targets.push((at, Ask::engine(EngineCommand::FirePad(number))));
            }
            if look(pad).is_some() {
                let area = Rect { x: at.x + 2, y: at.y + 1, width: size.0, height: size.1 };
                self.miniatures.draw(picture, area.intersection(at), theme, buffer);
                picture += 1;
            }
        }
    }
}

impl PadsState<'_> {
    fn chosen(&self, place: usize) -> bool {
        self.edited.is_some_and(|chosen| chosen.contains(&(self.bank, place)))
    }
}

/// The bank, and the manner in which its pads play.
fn heading(context: &ViewContext<'_>, state: &PadsState<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let show = context.show;
    let mut pen = Pen::new(area, buffer);
    pen.to(1);
    if let Some(chosen) = state.edited {
        pen.put(&format!(" EDITING PADS: {} chosen ", chosen.len()), theme.filled());
        pen.put("  ", theme.dim());
    } else {
        pen.put("pads  ", theme.dim());
    }
    let Some(bank) = show.banks.get(state.bank) else {
        let words =
            if show.looks.is_empty() { "no looks yet: F4, then n makes one" } else { "no banks: Ctrl-B makes one" };
        pen.put(words, theme.text());
        return;
    };
    pen.put(&bank.name, theme.bright());
    if show.banks.len() > 1 {
        pen.put(&format!(" ({} of {})", state.bank + 1, show.banks.len()), theme.dim());
    }
    let manner = bank.manner_of(None, show);
    if let Some(tier) = show.stack().get(manner.tier).filter(|_| show.stack().len() > 1) {
        pen.put(&format!("  {} on ", manner.mode.name()), theme.dim());
        pen.put(&tier.name, theme.text());
    }
    pen.put("  land on ", theme.dim());
    // Where there is little room, only the one that counts.
    let narrow = area.width < 110;
    for boundary in Boundary::ALL.into_iter().filter(|one| !narrow || *one == manner.lands) {
        let chosen = boundary == manner.lands;
        let word = if chosen { format!("[{}]", boundary.name()) } else { format!(" {} ", boundary.name()) };
        pen.fit(&word, if chosen { theme.bright() } else { theme.faint_text() });
    }
    pen.fit("  fade ", theme.dim());
    pen.fit(&beats(manner.fade_in), theme.bright());
    once(context, theme, &mut pen);
    let flashes = bank.pads.iter().any(|pad| bank.manner_of(Some(pad), show).mode == PadMode::Flash);
    if flashes {
        let words = match state.releases {
            true => ["  flash: while the key is held", "  flash: held"],
            false => ["  flash: for its length, as keys tell no release here", "  flash: timed"],
        };
        let room = usize::from(area.width.saturating_sub(pen.column()));
        let fits = words.into_iter().find(|words| words.chars().count() <= room);
        pen.put(fits.unwrap_or(""), theme.faint_text());
    }
}

/// The choice for the next press only.
fn once(context: &ViewContext<'_>, theme: Theme, pen: &mut Pen<'_>) {
    let once = context.snapshot.once;
    if once.lands.is_none() && once.fade.is_none() {
        return;
    }
    let lands = once.lands.map(|lands| format!(" lands on {}", lands.name()));
    let fade = once.fade.map(|fade| format!(" fades {}", beats(fade)));
    let words: String = [lands, fade].into_iter().flatten().collect::<Vec<_>>().join(",");
    pen.put("   ", theme.dim());
    pen.put(&format!("⟨next press{words}⟩"), theme.armed());
}

/// Key, name and state of a pad: plain, ⟨armed⟩ with its countdown, filled on stage, ▣held▣, and ░marked░ while it fades out.
struct Label<'a> {
    context: &'a ViewContext<'a>,
    bank: Option<&'a Bank>,
    number: usize,
    place: usize,
    pad: Option<&'a Pad>,
    chosen: bool,
}

impl Label<'_> {
    fn draw(&self, theme: Theme, at: Rect, buffer: &mut Buffer) {
        let mut pen = Pen::new(Rect { height: at.height.min(1), ..at }, buffer);
        let key = key_of(self.place, self.context.layout);
        let key_style = if self.chosen { theme.filled() } else { theme.text() };
        let Some(pad) = self.pad else {
            pen.put(&key.to_string(), if self.chosen { theme.filled() } else { theme.faint() });
            return;
        };
        pen.put(&key.to_string(), key_style);
        let mark = self.mark(pad);
        let mut room = usize::from(at.width).saturating_sub(2);
        if mark.is_empty() || room < 8 {
            pen.put(if mark.is_empty() { " " } else { mark }, theme.dim());
        } else {
            // Behind the name, near the right end of the pad.
            pen.to(at.width - 2).put(mark, theme.dim());
            pen.to(2);
            room -= 3;
        }
        let name = |room: usize| short_name(pad.label(), room);
        if let Some(armed) = self.armed() {
            let left = (armed.lands_at - self.context.snapshot.clock.beat).max(0.0);
            // Where there is no room for the countdown, the runway has it.
            let countdown = if room >= 9 { format!(" {left:.0}") } else { String::new() };
            let sign = if armed.wish.look.is_none() { "-" } else { "" };
            if room < 4 {
                // Hardly any room: two letters tell more than the second bracket.
                pen.to(1).put(&format!("⟨{}", name(room)), theme.armed());
                return;
            }
            let name = name(room.saturating_sub(countdown.len() + 2 + sign.len()));
            pen.put(&format!("⟨{sign}{name}⟩{countdown}"), theme.armed());
            return;
        }
        match self.on_stage() {
            Some(tier) if tier.held => {
                pen.put(&format!("▣{}▣", name(room.saturating_sub(2))), theme.filled());
            }
            Some(_) => {
                let name = name(room);
                // With room around it where there is some.
                let name = if name.chars().count() + 2 <= room { format!(" {name} ") } else { name };
                pen.put(&name, theme.filled());
            }
            None if self.fades_out() => {
                pen.put(&format!("░{}░", name(room.saturating_sub(2))), theme.text());
            }
            None => {
                pen.put(&name(room), theme.text());
            }
        }
    }

    /// The mark of a mode that is not the usual one.
    fn mark(&self, pad: &Pad) -> &'static str {
        if pad.command.is_some() {
            return "!";
        }
        match self.bank.map_or(PadMode::Change, |bank| bank.manner_of(Some(pad), self.context.show).mode) {
            PadMode::Change => "",
            PadMode::Toggle => "±",
            PadMode::Flash => "▲",
            PadMode::Beats => "◔",
        }
    }

    fn armed(&self) -> Option<&Armed> {
        self.context.snapshot.queue.iter().find(|armed| armed.wish.pad == Some(self.number))
    }

    fn look(&self) -> Option<usize> {
        Some(self.context.show.look(self.pad?.look.as_deref()?)?.0)
    }

    /// The tier that shows its look, whoever put it there.
    fn on_stage(&self) -> Option<&TierState> {
        let look = self.look()?;
        let tier = self.bank?.manner_of(self.pad, self.context.show).tier;
        let state = self.context.snapshot.tiers.get(tier)?;
        (state.look == Some(look)).then_some(state)
    }

    fn fades_out(&self) -> bool {
        let Some(look) = self.look() else { return false };
        self.context.snapshot.stage.iter().any(|entry| entry.look == look && !entry.comes)
    }
}
