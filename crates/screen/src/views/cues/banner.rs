//! The cue that runs, in large letters, with what it waits for and what comes next.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_engine::ListState;
use splimo_show::{CueList, says_of_tiers};

use super::words::waits;
use crate::kit::bars::bar;
use crate::kit::large::large;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;
use crate::model::ViewContext;

/// The rows of the banner with large letters, and without.
pub(super) const TALL: u16 = 8;
pub(super) const LOW: u16 = 3;

/// Draws the running cue of a list.
pub(super) fn draw(
    list: &CueList,
    state: &ListState,
    context: &ViewContext<'_>,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
) {
    for x in area.left()..area.right() {
        buffer[(x, area.y)].set_symbol("─").set_style(theme.faint());
    }
    let waits = waits(list, state, context.snapshot);
    let row = |y: u16| Rect { y: area.y + y, height: 1, ..area };
    let tall = area.height >= TALL;
    let cue = state.at.and_then(|at| list.cues.get(at));
    let name = cue.map_or(list.name.clone(), |cue| format!("{} {}", cue.number, cue.name));
    let foot = if tall {
        let letters = Rect { x: area.x + 1, y: area.y + 1, width: area.width.saturating_sub(2), height: 4 };
        let style = if cue.is_some() { theme.bright() } else { theme.dim() };
        let count = waits.left.clone().unwrap_or_default();
        // The countdown keeps its place at the right, whatever the name is.
        let right = (count.chars().count() as u16 * 9).min(letters.width / 3);
        let left = Rect { width: letters.width.saturating_sub(right + 2), ..letters };
        large(&name, left, style, buffer);
        large(&count, Rect { x: letters.right().saturating_sub(right), width: right, ..letters }, style, buffer);
        5
    } else {
        1
    };
    let mut pen = Pen::new(row(foot), buffer);
    pen.put(" ", theme.text());
    if !tall {
        pen.put(&format!("{} ", shortened(&name, 24)), if cue.is_some() { theme.filled() } else { theme.dim() });
        pen.put(" ", theme.text());
    }
    if let Some(share) = waits.share {
        let cells = usize::from(area.width / 4).clamp(8, 40);
        pen.put("▕", theme.faint());
        pen.put(&bar(share, cells), theme.text());
        pen.put("▏ ", theme.faint());
    }
    pen.put(&waits.words, if state.paused { theme.filled() } else { theme.text() });
    if state.delay_left > 0.01 {
        pen.put(&format!("   in {:.1} beats it fades", state.delay_left), theme.armed());
    } else if state.at.is_some() && state.fade_done < 1.0 {
        pen.put("   fades ▕", theme.faint());
        pen.put(&bar(state.fade_done, 10), theme.text());
        pen.put(&format!("▏ {:.1} beats", state.fade_left), theme.dim());
    }
    let mut pen = Pen::new(row(foot + 1), buffer);
    match state.next.and_then(|next| list.cues.get(next)) {
        Some(next) => {
            pen.put(" then ", theme.dim());
            pen.put(&format!("⟨{} {}⟩", next.number, next.name), theme.armed());
            pen.put(&format!("  {}", says_of_tiers(&next.tiers, next.others_out)), theme.text());
        }
        None => drop(pen.put(" nothing comes after it", theme.dim())),
    }
    if let Some(note) = cue.map(|cue| &cue.note).filter(|note| !note.is_empty() && tall) {
        Pen::new(row(foot + 2), buffer).put(&format!(" note: {note}"), theme.bright());
    }
}
