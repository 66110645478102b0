//! What stands around every view: the status line, the tabs, the runway and the hint line.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Style;
use splimo_core::action::{Action, View};
use splimo_core::music::Section;

use super::face::Seen;
use super::keys::{Group, groups};
use super::theme::Theme;

/// Eighths of a character cell, from nothing to all.
pub(super) const EIGHTHS: [&str; 9] = [" ", "▁", "▂", "▃", "▄", "▅", "▆", "▇", "█"];
const LEFT_EIGHTHS: [&str; 9] = [" ", "▏", "▎", "▍", "▌", "▋", "▊", "▉", "█"];

/// Words in so many columns; where there are more of them they end in `…`, so that nobody takes a part for the whole.
pub(super) fn shortened(words: &str, room: usize) -> String {
    if words.chars().count() <= room {
        return words.to_owned();
    }
    words.chars().take(room.saturating_sub(1)).chain((room > 0).then_some('…')).collect()
}

/// A name in so many columns. Where these are few it keeps its letters, which tell more than that some are missing.
pub(super) fn short_name(name: &str, room: usize) -> String {
    if room < 12 { name.chars().take(room).collect() } else { shortened(name, room) }
}

/// Writes from left to right on one line and keeps to its area.
pub(super) struct Pen<'a> {
    buffer: &'a mut Buffer,
    area: Rect,
    x: u16,
}

impl<'a> Pen<'a> {
    pub(super) fn new(area: Rect, buffer: &'a mut Buffer) -> Self {
        Self { x: area.x, area, buffer }
    }

    /// How wide its area is.
    pub(super) fn width(&self) -> u16 {
        self.area.width
    }

    /// Moves to a column of the area.
    pub(super) fn to(&mut self, column: u16) -> &mut Self {
        self.x = (self.area.x + column).min(self.area.right());
        self
    }

    /// The column that is written next, from the area's left.
    pub(super) fn column(&self) -> u16 {
        self.x - self.area.x
    }

    /// Writes what has room as a whole, and else nothing: half a word tells nothing.
    pub(super) fn fit(&mut self, text: &str, style: Style) {
        if text.trim_end().chars().count() <= usize::from(self.area.right().saturating_sub(self.x)) {
            self.put(text, style);
        }
    }

    /// Writes, and says where.
    pub(super) fn put(&mut self, text: &str, style: Style) -> Rect {
        let start = self.x;
        if self.area.height > 0 {
            let left = usize::from(self.area.right().saturating_sub(self.x));
            (self.x, _) = self.buffer.set_stringn(self.x, self.area.y, text, left, style);
        }
        Rect::new(start, self.area.y, self.x - start, 1)
    }
}

/// A bar of `width` cells that is filled to a share of 0..1, to an eighth of a cell.
pub(super) fn bar(share: f32, width: usize) -> String {
    let eighths = (share.clamp(0.0, 1.0) * (width * 8) as f32).round() as usize;
    (0..width).map(|cell| LEFT_EIGHTHS[eighths.saturating_sub(cell * 8).min(8)]).collect()
}

/// Name, tempo, hearing, master and output, always at the same places.
pub(super) fn status_line(seen: &Seen<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let snapshot = seen.snapshot;
    let width = area.width;
    let wide = width >= 119;
    let [tempo, hear, master, output] = columns(width, wide);
    let mut pen = Pen::new(area, buffer);
    let room = usize::from(tempo.saturating_sub(4));
    pen.to(1).put(&shortened(&seen.show.name, room), theme.bright());
    if seen.unsaved {
        pen.put(" *", theme.armed());
    }

    let clock = &snapshot.clock;
    pen.to(tempo).put(&format!("{:5.1}", clock.bpm), theme.bright());
    pen.put(if wide { " bpm " } else { " " }, theme.dim());
    pen.put(&format!("{:<7}", clock.source.name()), theme.dim());
    let beat = clock.beat_in_bar() as usize;
    for place in 0..clock.bar_beats as usize {
        pen.put(if place == beat { "█" } else { "▁" }, if place == beat { theme.bright() } else { theme.dim() });
    }
    if wide {
        pen.put(&format!("  bar {}", clock.bar() + 1), theme.dim());
        pen.put(&format!("/{}", clock.phrase_bars), theme.dim());
    }

    if hear < master {
        pen.to(hear).put("hear ", theme.dim());
        let cells = if wide { 12 } else { 4 };
        pen.put(&spectrum_line(&snapshot.hearing.bands, cells), theme.text());
    }

    pen.to(master);
    if snapshot.blackout {
        pen.put(" BLACKOUT ", theme.filled());
        pen.put(if wide { "  ` brings the light back" } else { " ` back" }, theme.dim());
    } else {
        pen.put(if wide { "master " } else { "mst " }, theme.dim());
        pen.put(&format!("{:3.0} ", snapshot.master * 100.0), theme.bright());
        let cells = if wide { 10 } else { 5 };
        pen.put("▕", theme.faint());
        pen.put(&bar(snapshot.master, cells), theme.text());
        pen.put("▏", theme.faint());
    }

    let out = seen.output;
    let health = if seen.troubles.is_empty() { "well".to_owned() } else { format!("{} trouble", seen.troubles.len()) };
    let style = if seen.troubles.is_empty() { theme.text() } else { theme.filled() };
    pen.to(output);
    if wide {
        pen.put(&format!("{} uni  ", seen.snapshot.slots.len() / 512), theme.dim());
    }
    pen.put(&format!("{:.1}", out.fps), theme.bright());
    pen.put(if wide { " fps  " } else { " " }, theme.dim());
    pen.put(&health, style);
}

/// The columns of tempo, hearing, master and output: as far to the right as their words allow, evenly apart. Hearing has
/// none of its own where there is no room for it.
fn columns(width: u16, wide: bool) -> [u16; 4] {
    // How long each is at the most, and the least that is left for the name of the show.
    let [tempo, hear, master, output, name] = match width {
        _ if wide => [32, 17, 23, 27, 16],
        76.. => [17, 9, 15, 15, 15],
        _ => [17, 0, 15, 15, 9],
    };
    let gap = (width.saturating_sub(tempo + hear + master + output + name) / 4).max(1);
    let output_at = width.saturating_sub(output + 1);
    let master_at = output_at.saturating_sub(master + gap);
    let hear_at = if hear > 0 { master_at.saturating_sub(hear + gap) } else { master_at };
    [hear_at.saturating_sub(tempo + gap), hear_at, master_at, output_at]
}

/// A line of bands, the loudest of those that share a cell.
pub(super) fn spectrum_line(bands: &[f32], cells: usize) -> String {
    let per_cell = bands.len().div_ceil(cells.max(1));
    let height =
        |chunk: &[f32]| EIGHTHS[(chunk.iter().copied().fold(0.0, f32::max) * 8.0).round().clamp(0.0, 8.0) as usize];
    bands.chunks(per_cell).map(height).collect()
}

/// The views, and the first trouble.
pub(super) fn tabs(
    view: View,
    seen: &Seen<'_>,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
    targets: &mut Vec<(Rect, Action)>,
) {
    let mut pen = Pen::new(area, buffer);
    pen.to(1);
    for (key, tab) in
        [("F2", View::Rig), ("F3", View::Output), ("F4", View::Looks), ("F6", View::Play), ("F7", View::Inputs)]
    {
        let name = tab.name();
        let start = if tab == view {
            pen.put(&format!(" {} ", name.to_uppercase()), theme.filled())
        } else {
            pen.put(&format!(" {name} "), theme.text())
        };
        let end = pen.put(&format!(" {key}   "), theme.dim());
        targets.push((start.union(end), Action::ShowView(tab)));
    }
    if let Some(trouble) = seen.troubles.last() {
        // As far right as it goes, but clear of the tabs.
        let room = usize::from(area.width.saturating_sub(pen.column() + 2));
        let words = shortened(&format!("{}: {}", trouble.subject, trouble.message), room);
        let column = area.width.saturating_sub(words.chars().count() as u16 + 2);
        pen.to(column).put(&words, theme.bright());
    }
}

/// The ruler of the phrase with the playhead and what is armed: one line, or three where there is room.
pub(super) fn runway(
    seen: &Seen<'_>,
    parts: impl Iterator<Item = (f64, Section)>,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
) {
    let clock = &seen.snapshot.clock;
    let left = area.x + 1;
    let columns = area.width.saturating_sub(2);
    let phrase = clock.phrase_beats();
    let column_of = |beat: f64| left + ((beat / phrase * f64::from(columns)) as u16).min(columns - 1);
    let place = clock.beat_in_phrase();
    let playhead = column_of(place);
    let tall = area.height >= 3;

    for column in left..left + columns {
        let cell = &mut buffer[(column, area.y)];
        if !tall && column < playhead {
            cell.set_symbol("━").set_style(theme.dim());
        } else {
            cell.set_symbol("·").set_style(theme.faint());
        }
    }
    for bar in 0..clock.phrase_bars {
        let column = column_of(f64::from(bar * clock.bar_beats));
        // Numbers leave room for each other.
        let every = (clock.phrase_bars * 5 / u32::from(columns).max(1)).max(1);
        let now = bar == clock.bar();
        if tall || column >= playhead {
            let number = if bar % every == 0 { format!("╷{}", bar + 1) } else { "╷".to_owned() };
            let room = usize::from(left + columns - column);
            buffer.set_stringn(column, area.y, number, room, if now { theme.bright() } else { theme.dim() });
        }
    }
    if tall {
        for column in left..left + columns {
            let passed = column < playhead;
            let style = if passed { theme.text() } else { theme.faint() };
            buffer[(column, area.y + 1)].set_symbol(if passed { "━" } else { "─" }).set_style(style);
        }
    }
    if tall {
        // The parts of the music, where they were heard to begin.
        for (ago, part) in parts {
            let began = place - ago * f64::from(clock.bpm) / 60.0;
            if began >= 0.0 {
                let column = column_of(began);
                let room = usize::from(playhead.saturating_sub(column));
                buffer.set_stringn(column, area.y + 2, format!("▏{}", part.name()), room, theme.dim());
            }
        }
    }
    if let Some((part, beats)) = clock.expected(&seen.snapshot.hearing).filter(|_| tall) {
        let turn = place + beats;
        let label = format!("▏{}?", part.name());
        let room = usize::from(left + columns - column_of(turn.min(phrase)));
        if turn < phrase && label.chars().count() <= room {
            buffer.set_stringn(column_of(turn), area.y + 2, label, room, theme.dim());
        }
    }
    let line = if tall { area.y + 1 } else { area.y };
    buffer[(playhead, line)].set_symbol("▶").set_style(theme.bright());

    if let Some(armed) = seen.snapshot.armed {
        let name = seen.show.looks.get(armed.look).map_or("", |l| l.name.as_str());
        let beats = (armed.lands_at - clock.beat).max(0.0);
        // A landing at the end of the phrase hangs from the ruler's end.
        let lands = column_of((place + beats).min(phrase));
        let label = format!("⟨{name} {beats:.1}⟩");
        let length = label.chars().count() as u16;
        let line = if tall { area.y + 2 } else { area.y };
        let column = if lands + length <= left + columns { lands } else { (left + columns).saturating_sub(length) };
        let room = usize::from(left + columns - column);
        buffer.set_stringn(column, line, &label, room, theme.armed());
        if tall {
            buffer[(lands, area.y + 1)].set_symbol("┬").set_style(theme.armed());
        }
    }
}

/// The keys that work now, or what was just said.
pub(super) fn hint_line(
    view: View,
    said: Option<&str>,
    open: Option<&[(&str, &str)]>,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
) {
    let mut pen = Pen::new(area, buffer);
    pen.to(1);
    if let Some(said) = said {
        pen.put(said, theme.bright());
        return;
    }
    if let Some(open) = open {
        for (keys, does) in open {
            pen.put(&format!("{keys} "), theme.text());
            pen.put(&format!("{does}   "), theme.dim());
        }
        return;
    }
    if view == View::Play {
        pen.put("1-0 q-p a-l z-m ", theme.text());
        pen.put("pads   ", theme.dim());
    }
    let mut hints: Vec<Group> = groups(view).into_iter().filter(|group| !group.hint.is_empty()).collect();
    // What is needed most has to fit: the way to everything else is kept, and what help tells too goes first.
    let length =
        |hints: &[Group]| -> usize { hints.iter().map(|g| g.keys.chars().count() + g.hint.chars().count() + 4).sum() };
    let room = usize::from(area.right().saturating_sub(pen.x));
    for spare in [
        "bands",
        "floor",
        "seek",
        "pause",
        "universes",
        "follow music",
        "bar here",
        "find",
        "freeze",
        "area",
        "arm",
        "span",
        "profiles",
        "universe, slot",
        "record",
        "bars",
        "more",
        "zoom",
        "master",
        "fade",
        "quit",
        "bank",
        "tap",
        "land now",
        "any action",
        "flash and click",
        "lands on",
        "fit",
        "groups",
        "channel test",
        "vary",
        "blind",
        "target",
        "palette",
        "colours",
        "modulator",
        "change",
    ] {
        if length(&hints) <= room {
            break;
        }
        hints.retain(|group| group.hint != spare);
    }
    for group in hints {
        pen.put(&format!("{} ", group.keys), theme.text());
        pen.put(&format!("{}   ", group.hint), theme.dim());
    }
}

#[cfg(test)]
mod tests {
    use super::{short_name, shortened};

    #[test]
    fn what_is_cut_says_so_where_there_is_room_to() {
        for (words, room, short) in
            [("1-4,7", 5, "1-4,7"), ("1-4,7,9", 5, "1-4,…"), ("Größe", 4, "Grö…"), ("two", 1, "…"), ("two", 0, "")]
        {
            assert_eq!(shortened(words, room), short);
        }
        assert_eq!(short_name("Running Lights", 12), "Running Lig…");
        assert_eq!(short_name("Running Lights", 8), "Running ");
        assert_eq!(short_name("Tide", 4), "Tide");
    }
}
