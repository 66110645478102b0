//! The drawing of a timeline: its title, the lanes of tiers and lists with their clips, and where it is.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_engine::TimelineState;
use splimo_show::{Clip, Follows, Show, TimeUnit, Timeline, bar_at};

use super::{TimelinePart, ruler};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;

/// The width of the names of lanes, in columns.
const NAMES: u16 = 10;

/// The thing whose clips a lane shows.
enum Lane<'s> {
    Tier(&'s str),
    List(&'s str),
    Commands,
}

impl Lane<'_> {
    fn name(&self) -> &str {
        match self {
            Self::Tier(name) | Self::List(name) => name,
            Self::Commands => "commands",
        }
    }

    fn has(&self, clip: &Clip) -> bool {
        match self {
            Self::Tier(name) => clip.tier == *name && clip.look.is_some(),
            Self::List(name) => clip.list.as_deref() == Some(name),
            Self::Commands => !clip.does.is_empty(),
        }
    }
}

/// The lanes of a timeline: every tier while there is room, else those that have clips; then the lists that have any.
fn lanes<'s>(line: &Timeline, show: &'s Show, room: usize) -> Vec<Lane<'s>> {
    let used = |lane: &Lane<'_>| line.clips.iter().any(|clip| lane.has(clip));
    let mut lists: Vec<Lane<'_>> = show.cue_lists.iter().map(|list| Lane::List(&list.name)).filter(used).collect();
    let mut lanes: Vec<Lane<'_>> = show.stack().iter().rev().map(|tier| Lane::Tier(&tier.name)).collect();
    if lanes.len() + lists.len() + 1 > room {
        lanes.retain(used);
    }
    lanes.append(&mut lists);
    lanes.truncate(room.saturating_sub(1));
    lanes.push(Lane::Commands);
    lanes
}

impl TimelinePart {
    /// Draws the chosen timeline, and tells what room is left below its lanes.
    pub(crate) fn draw(
        &mut self,
        show: &Show,
        states: &[TimelineState],
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
    ) -> Rect {
        self.blocks.clear();
        self.lanes.clear();
        self.line = self.line.min(show.timelines.len().saturating_sub(1));
        let Some(line) = show.timelines.get(self.line) else {
            let row = Rect { y: area.y + 1, height: 1, ..area };
            Pen::new(row, buffer).to(3).put("There is no timeline yet: T adds one.", theme.text());
            return Rect { y: area.y + 3, height: area.height.saturating_sub(3), ..area };
        };
        self.clip = self.clip.min(line.clips.len().saturating_sub(1));
        let state = states.get(self.line).copied().unwrap_or_default();
        let wide = Rect { x: area.x + NAMES + 3, width: area.width.saturating_sub(NAMES + 5), ..area };
        self.window.lay_out(line.length, wide);
        self.follow(line, state);
        title(line, state, show.timelines.len(), theme, Rect { height: 1, ..area }, buffer);
        self.ruler = Rect { y: area.y + 2, height: 1, ..wide };
        ruler::draw(line, &self.window, theme, self.ruler, buffer);
        let y = self.draw_lanes(line, show, theme, area, buffer);
        if let Some(x) = self.window.seen(state.at as f32).filter(|_| state.runs) {
            for row in self.ruler.y..=y {
                buffer.set_stringn(x, row, if row == self.ruler.y { "▼" } else { "│" }, 1, theme.armed());
            }
        }
        self.draw_foot(line, theme, Rect { y: area.bottom().saturating_sub(1), height: 1, ..area }, buffer);
        Rect { x: wide.x, y: y + 2, width: wide.width, height: area.bottom().saturating_sub(y + 3) }
    }

    /// Brings what plays, or what was chosen, into sight.
    fn follow(&mut self, line: &Timeline, state: TimelineState) {
        if state.runs && !state.paused {
            self.window.reach(state.at as f32);
        }
        if let Some(clip) = line.clips.get(self.clip).filter(|_| std::mem::take(&mut self.reach)) {
            self.window.reach(clip.at);
        }
    }

    /// Draws the lanes; the row of the last one.
    fn draw_lanes(&mut self, line: &Timeline, show: &Show, theme: Theme, area: Rect, buffer: &mut Buffer) -> u16 {
        let first = area.y + 3;
        let room = usize::from(area.bottom().saturating_sub(first + 1)).div_ceil(2).max(1);
        let window = self.window;
        let dragged = self.drag.and_then(|drag| drag.preview(line, |column| window.place(column)));
        let mut y = first;
        for (row, lane) in lanes(line, show, room).iter().enumerate() {
            y = first + 2 * row as u16;
            let names = Rect { y, height: 1, ..area };
            Pen::new(names, buffer).to(3).put(&shortened(lane.name(), usize::from(NAMES)), theme.dim());
            if let Lane::Tier(tier) = lane {
                self.lanes.push((Rect { y, height: 1, ..window.lanes() }, (*tier).to_owned()));
            }
            for (place, clip) in line.clips.iter().enumerate().filter(|(_, clip)| lane.has(clip)) {
                let (at, length) = dragged
                    .filter(|(of, ..)| *of == place)
                    .map_or((clip.at, clip.length), |(_, at, length)| (at, length));
                let shown = Clip { at, length, ..clip.clone() };
                self.draw_clip(&shown, place, lane, theme, y, buffer);
            }
        }
        y
    }

    fn draw_clip(&mut self, clip: &Clip, place: usize, lane: &Lane<'_>, theme: Theme, y: u16, buffer: &mut Buffer) {
        let (window, chosen) = (self.window, place == self.clip);
        if matches!(lane, Lane::Commands) {
            let Some(x) = window.seen(clip.at) else { return };
            buffer.set_stringn(x, y, "▾", 1, if chosen { theme.bright() } else { theme.text() });
            self.blocks.push((Rect { x, y, width: 1, height: 1 }, place));
            return;
        }
        let (first, last) = (i32::from(window.lanes().left()), i32::from(window.lanes().right()));
        let (left, right) = (window.column(clip.at), window.column(clip.end()));
        if right < first || left >= last {
            return;
        }
        let (from, to) = (left.max(first), right.max(left + 1).min(last));
        let block = Rect { x: from as u16, y, width: (to - from) as u16, height: 1 };
        // The slope of an end that is out of sight is out of sight.
        let fades = [(clip.fade_in, left >= first), (clip.fade_out, right <= last)];
        let fades = fades.map(|(fade, seen)| if seen { fade * window.scale() } else { 0.0 });
        draw_block(&words(clip), fades, chosen, theme, block, buffer);
        self.blocks.push((block, place));
    }

    fn draw_foot(&self, line: &Timeline, theme: Theme, row: Rect, buffer: &mut Buffer) {
        let mut pen = Pen::new(row, buffer);
        pen.to(3);
        if let Some(clip) = line.clips.get(self.clip) {
            pen.put(&about(clip), theme.text());
        }
        let (from, to) = self.window.ends();
        let seen = match (self.window.is_zoomed(), line.unit) {
            (false, _) => return,
            (true, TimeUnit::Seconds) => format!("{from:.1} to {to:.1} s in sight"),
            (true, TimeUnit::Bars) => format!("bars {:.1} to {:.1} in sight", from + 1.0, to + 1.0),
        };
        pen.to(row.width.saturating_sub(seen.chars().count() as u16 + 2)).put(&seen, theme.dim());
    }
}

/// The name in the block of a clip.
fn words(clip: &Clip) -> String {
    match (&clip.look, &clip.list) {
        (Some(look), _) => look.clone(),
        (None, Some(list)) => format!("cues of {list}"),
        (None, None) => String::new(),
    }
}

/// The clip that is chosen, in words.
fn about(clip: &Clip) -> String {
    let mut words = format!("{} to {}", clip.at, clip.end());
    if let Some(look) = &clip.look {
        words.push_str(&format!("   {}: {look}", clip.tier));
    }
    if let Some(list) = &clip.list {
        words.push_str(&format!("   list {list}"));
    }
    if clip.fade_in > 0.0 || clip.fade_out > 0.0 {
        words.push_str(&format!("   in {}, out {}", clip.fade_in, clip.fade_out));
    }
    if !clip.does.is_empty() {
        words.push_str(&format!("   {}", clip.does.join("; ")));
    }
    words
}

/// The place of a timeline, in words: with the bar and the part of its recording.
fn place_words(line: &Timeline, at: f64) -> String {
    let mut words = format!("{at:.1} of {} {}", line.length, line.unit.name());
    if let Some(marks) = line.marks.as_ref().filter(|_| line.unit == TimeUnit::Seconds) {
        if let Some(bar) = bar_at(&marks.bars, at).filter(|bar| *bar >= 0.0) {
            words.push_str(&format!(", bar {:.0}", bar.floor() + 1.0));
        }
        if let Some(part) = marks.part(at) {
            words.push_str(&format!(", {part}"));
        }
    }
    words
}

fn title(line: &Timeline, state: TimelineState, count: usize, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let mut pen = Pen::new(area, buffer);
    pen.to(3).put(&line.name, theme.bright());
    if count > 1 {
        pen.put(&format!("   one of {count}: ↑ ↓"), theme.dim());
    }
    let place = place_words(line, state.at);
    match state {
        TimelineState { runs: false, .. } => {
            pen.put(&format!("   rests, {} {}", line.length, line.unit.name()), theme.dim());
        }
        TimelineState { paused: true, .. } => {
            pen.put(&format!("   held at {place}"), theme.filled());
        }
        TimelineState { waits: true, .. } => {
            pen.put(&format!("   {} is silent: it stands at {place}", line.follows.name()), theme.filled());
        }
        TimelineState { .. } => {
            pen.put(&format!("   plays, {place}"), theme.text());
        }
    }
    if line.follows != Follows::Nobody {
        pen.put(&format!("   follows {}", line.follows.name()), theme.dim());
    }
    if line.loops {
        pen.put("   begins again", theme.dim());
    }
    if let Some(marks) = &line.marks {
        pen.put(&format!("   {}", marks.recording), theme.dim());
    }
}

/// A clip as a block: its fades as slopes at its ends, the name of its look within.
fn draw_block(words: &str, fades: [f32; 2], chosen: bool, theme: Theme, area: Rect, buffer: &mut Buffer) {
    const RISE: [&str; 4] = ["▁", "▃", "▅", "▇"];
    let [fade_in, fade_out] = fades.map(|columns| (columns.round() as u16).min(area.width));
    let style = if chosen { theme.bright() } else { theme.dim() };
    let name = shortened(words, usize::from(area.width.saturating_sub(fade_in + fade_out)));
    let mut letters = name.chars();
    for offset in 0..area.width {
        let cell = &mut buffer[(area.x + offset, area.y)];
        let from_end = area.width - 1 - offset;
        let slope = |place: u16, of: u16| RISE[usize::from(place * 4 / of.max(1)).min(3)];
        if offset < fade_in {
            cell.set_symbol(slope(offset, fade_in)).set_style(style);
        } else if from_end < fade_out {
            cell.set_symbol(slope(from_end, fade_out)).set_style(style);
        } else {
            let letter = letters.next().map_or(" ".to_owned(), String::from);
            let filled = if chosen { theme.filled() } else { theme.text().bg(theme.glow(0.55)) };
            cell.set_symbol(&letter).set_style(filled);
        }
    }
}
