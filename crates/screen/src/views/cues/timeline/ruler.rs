//! The ruler: bars and beats of a recording that was heard beforehand with its parts, or else a stroke and a number as often as there
//! is room.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_show::{Marks, TimeUnit, Timeline, bar_at};

use super::window::Window;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;

/// The columns that a number needs.
const ROOM: f32 = 6.0;

/// Draws the ruler, and the parts on the row above it.
pub(super) fn draw(line: &Timeline, window: &Window, theme: Theme, ruler: Rect, buffer: &mut Buffer) {
    for x in ruler.left()..ruler.right() {
        buffer[(x, ruler.y)].set_symbol("·").set_style(theme.faint());
    }
    let marks = line.marks.as_ref().filter(|marks| marks.bars.len() > 1);
    match marks.filter(|_| line.unit == TimeUnit::Seconds) {
        Some(marks) => beats(marks, window, theme, ruler, buffer),
        None => numbers(line, window, theme, ruler, buffer),
    }
    if let Some(marks) = marks {
        parts(marks, line, window, theme, Rect { y: ruler.y - 1, ..ruler }, buffer);
    }
}

fn number(at: Option<u16>, words: &str, theme: Theme, ruler: Rect, buffer: &mut Buffer) {
    if let Some(x) = at {
        buffer.set_stringn(x, ruler.y, words, usize::from(ruler.right() - x), theme.dim());
    }
}

fn numbers(line: &Timeline, window: &Window, theme: Theme, ruler: Rect, buffer: &mut Buffer) {
    let steps = [1.0, 2.0, 4.0, 8.0, 16.0, 32.0, 60.0, 120.0, 300.0, 600.0, 1800.0, 3600.0, 7200.0];
    let step = steps.into_iter().find(|step| step * window.scale() >= ROOM).unwrap_or(14_400.0);
    let (from, to) = window.ends();
    let mut at = (from / step).floor() * step;
    while at < to.min(line.length) {
        let shown = if line.unit == TimeUnit::Bars { at + 1.0 } else { at };
        number(window.seen(at), &format!("╷{shown}"), theme, ruler, buffer);
        at += step;
    }
}

/// The beats as strokes where there is room for each, and the numbers of bars, every so many.
fn beats(marks: &Marks, window: &Window, theme: Theme, ruler: Rect, buffer: &mut Buffer) {
    let length = (marks.bars[marks.bars.len() - 1] - marks.bars[0]) as f32 / (marks.bars.len() - 1) as f32;
    let wide = length * window.scale();
    if wide >= 8.0 {
        for beat in &marks.beats {
            if let Some(x) = window.seen(*beat as f32) {
                buffer[(x, ruler.y)].set_symbol("'").set_style(theme.dim());
            }
        }
    }
    let every =
        [1usize, 2, 4, 8, 16, 32, 64, 128].into_iter().find(|every| *every as f32 * wide >= ROOM).unwrap_or(256);
    for (place, bar) in marks.bars.iter().enumerate().step_by(every) {
        number(window.seen(*bar as f32), &format!("╷{}", place + 1), theme, ruler, buffer);
    }
}

fn parts(marks: &Marks, line: &Timeline, window: &Window, theme: Theme, row: Rect, buffer: &mut Buffer) {
    let unit = |seconds: f64| match line.unit {
        TimeUnit::Seconds => seconds as f32,
        TimeUnit::Bars => bar_at(&marks.bars, seconds).unwrap_or(0.0).max(0.0) as f32,
    };
    for (place, part) in marks.parts.iter().enumerate() {
        let begins = window.column(unit(part.at)).max(i32::from(row.left()));
        let next = marks.parts.get(place + 1).map_or(line.length, |next| unit(next.at));
        let ends = window.column(next).min(i32::from(row.right()));
        if ends - begins > 1 {
            let words = shortened(&format!("╷{}", part.kind), (ends - begins) as usize);
            buffer.set_string(begins as u16, row.y, words, theme.text());
        }
    }
}
