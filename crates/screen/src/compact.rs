//! The screen where there is hardly any room: what matters most on a stage, and the keys for it. Every key works as it does elsewhere.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

use crate::keymap::Keys;
use crate::kit::bars::bar;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::{cut_at_a_word, shortened};
use crate::model::ViewContext;

/// The columns of the names of tiers.
const TIER: usize = 9;

/// Draws the show, its light, its tempo and its tiers, and what was said last.
pub(crate) fn draw(
    context: &ViewContext<'_>,
    keys: &Keys,
    said: Option<&str>,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
) {
    let row = |line: u16| Rect { y: area.y + line, height: 1, ..area };
    heading(context, theme, row(0), buffer);
    light(context, keys, theme, row(1), buffer);
    tempo(context, theme, row(2), buffer);
    let tiers = area.height.saturating_sub(6);
    for (line, place) in (0..context.show.stack().len()).rev().take(usize::from(tiers)).enumerate() {
        tier(context, place, theme, row(4 + line as u16), buffer);
    }
    let mut pen = Pen::new(row(area.height - 1), buffer);
    if let Some(said) = said {
        pen.put(&cut_at_a_word(said, usize::from(area.width)), theme.bright());
        return;
    }
    let key = |what: &str| keys.key_for(what);
    for (what, words) in [("blackout", "dark"), ("panic", "panic"), ("tap", "tap"), ("go", "land")] {
        if let Some(key) = key(what) {
            pen.put(&key, theme.text());
            pen.put(&format!(" {words}  "), theme.dim());
        }
    }
}

fn heading(context: &ViewContext<'_>, theme: Theme, row: Rect, buffer: &mut Buffer) {
    let trouble = match context.troubles.len() {
        0 => "well".to_owned(),
        count => format!("{count} trouble"),
    };
    let room = usize::from(row.width).saturating_sub(trouble.len() + 3);
    let mut pen = Pen::new(row, buffer);
    pen.put(&shortened(&context.show.name, room), theme.bright());
    if context.unsaved {
        pen.put(" *", theme.armed());
    }
    let style = if context.troubles.is_empty() { theme.dim() } else { theme.filled() };
    pen.to(row.width.saturating_sub(trouble.len() as u16)).put(&trouble, style);
}

fn light(context: &ViewContext<'_>, keys: &Keys, theme: Theme, row: Rect, buffer: &mut Buffer) {
    let mut pen = Pen::new(row, buffer);
    if context.snapshot.blackout {
        pen.put(" BLACKOUT ", theme.filled());
        let key = keys.key_for("blackout").unwrap_or_default();
        pen.put(&format!("  {key} brings the light back"), theme.dim());
        return;
    }
    pen.put("master ", theme.dim());
    pen.put(&format!("{:3.0} ", context.snapshot.master * 100.0), theme.bright());
    pen.put(&bar(context.snapshot.master, usize::from(row.width).saturating_sub(14)), theme.text());
}

fn tempo(context: &ViewContext<'_>, theme: Theme, row: Rect, buffer: &mut Buffer) {
    let clock = &context.snapshot.clock;
    let mut pen = Pen::new(row, buffer);
    pen.put(&format!("{:5.1} bpm ", clock.bpm), theme.bright());
    pen.put(&format!("{:<7} ", clock.source.name()), theme.dim());
    let beat = clock.beat_in_bar() as usize;
    for place in 0..clock.bar_beats as usize {
        pen.put(if place == beat { "█" } else { "▁" }, if place == beat { theme.bright() } else { theme.dim() });
    }
    pen.put(&format!("  bar {}", clock.bar() + 1), theme.dim());
}

fn tier(context: &ViewContext<'_>, place: usize, theme: Theme, row: Rect, buffer: &mut Buffer) {
    let stack = context.show.stack();
    let (Some(tier), Some(state)) = (stack.get(place), context.snapshot.tiers.get(place)) else { return };
    let look = state.look.and_then(|look| context.show.looks.get(look)).map(|look| look.name.as_str());
    let armed = context.snapshot.queue.iter().find(|armed| armed.wish.tier == place);
    let mut pen = Pen::new(row, buffer);
    pen.put(&format!("{:<TIER$} ", shortened(&tier.name, TIER)), theme.dim());
    let room = usize::from(row.width).saturating_sub(TIER + 16);
    match look {
        Some(look) => pen.put(&format!(" {} ", shortened(look, room)), theme.filled()),
        None => pen.put(" - ", theme.dim()),
    };
    if let Some(armed) = armed {
        let beats = (armed.lands_at - context.snapshot.clock.beat).max(0.0);
        let name = armed.wish.look.and_then(|look| context.show.looks.get(look)).map_or("clear", |look| &look.name);
        let room = usize::from(row.width.saturating_sub(pen.column())).saturating_sub(8);
        pen.put(&format!(" ⟨{} {beats:.0}⟩", shortened(name, room)), theme.armed());
    }
}
