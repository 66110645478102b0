//! The drawing of a pattern: its title, a ruler of bars, and its lanes: level as height, colour as colour, looks by name.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_base::colour::to_screen;
use splimo_base::ramp::{Mixing, Ramp};
use splimo_engine::Snapshot;
use splimo_show::palette;
use splimo_show::{Lane, LaneKind, PATTERN_BAR, Pattern, PatternEvent, Show, TICKS, Ticks};

use super::drag::Rows;
use super::{PatternPart, all};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;

/// The width of what stands before the lanes, in columns.
const NAMES: u16 = 24;
/// Levels as blocks.
const LEVELS: [&str; 9] = [" ", "▁", "▂", "▃", "▄", "▅", "▆", "▇", "█"];

impl PatternPart {
    /// Draws the chosen pattern, and tells what room is left below its lanes.
    pub(crate) fn draw(&mut self, show: &Show, now: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer) -> Rect {
        let Some((look, of, pattern)) = self.chosen(show) else {
            let lines = [
                "There is no pattern yet: T adds one.",
                "A pattern is written bar by bar and shown by a tier as a look is.",
            ];
            for (row, words) in lines.iter().enumerate() {
                let row = Rect { y: area.y + 1 + row as u16, height: 1, ..area };
                Pen::new(row, buffer).to(3).put(words, theme.text());
            }
            return Rect { y: area.y + 4, height: area.height.saturating_sub(4), ..area };
        };
        self.plays.clear();
        self.plays.extend(now.stage.iter().filter(|on| on.comes).map(|on| on.look));
        let place = now.stage.iter().filter(|on| on.look == look && on.weight > 0.0).find_map(|on| on.place);
        self.place = place;
        self.title(show, &of.name, pattern, place, theme, Rect { height: 1, ..area }, buffer);
        let wide = Rect { x: area.x + NAMES, width: area.width.saturating_sub(NAMES + 2), ..area };
        self.window.lay_out(pattern, self.at, wide);
        let ruler = Rect { y: area.y + 2, height: 1, ..wide };
        self.ruler(pattern, theme, ruler, buffer);
        let first = area.y + 3;
        let room = usize::from(area.bottom().saturating_sub(first + 1)).max(1);
        let from = (self.lane + 1).saturating_sub(room);
        let mut y = first;
        if pattern.lanes.is_empty() {
            let row = Rect { y: first + 1, height: 1, ..area };
            Pen::new(row, buffer)
                .to(3)
                .put("no lane yet: L adds one, for a level, colours, looks or a strobe", theme.text());
            y += 2;
        }
        for (place, lane) in pattern.lanes.iter().enumerate().skip(from).take(room) {
            self.lane(show, lane, place, theme, Rect { y, height: 1, ..area }, buffer);
            y += 1;
        }
        self.rows = Rows { first, from, end: first + pattern.lanes.len().saturating_sub(from).min(room) as u16 };
        self.cursor(pattern, theme, first, from, y, buffer);
        if let Some(x) = place.and_then(|beats| self.window.seen(beats * f64::from(TICKS))) {
            for row in ruler.y..y {
                let shown = if row == ruler.y { "▼" } else { "│" };
                if row == ruler.y || buffer[(x, row)].symbol() == " " || buffer[(x, row)].symbol() == "·" {
                    buffer.set_stringn(x, row, shown, 1, theme.armed());
                }
            }
        }
        self.foot(pattern, theme, Rect { y: area.bottom().saturating_sub(1), height: 1, ..area }, buffer);
        Rect { x: wide.x, y: y + 1, width: wide.width, height: area.bottom().saturating_sub(y + 2) }
    }

    #[expect(clippy::too_many_arguments, reason = "a title is of all of these")]
    fn title(
        &self,
        show: &Show,
        name: &str,
        pattern: &Pattern,
        place: Option<f64>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
    ) {
        let patterns = all(show);
        let mut pen = Pen::new(area, buffer);
        pen.to(3).put(name, theme.bright());
        if patterns.len() > 1 {
            let at = patterns.iter().position(|(_, look, _)| look.name == name).unwrap_or(0);
            pen.put(&format!("   {} of {}: ( )", at + 1, patterns.len()), theme.dim());
        }
        let bars = if pattern.bars == 1 { "1 bar".to_owned() } else { format!("{} bars", pattern.bars) };
        pen.put(&format!("   {bars}, grid {}", pattern.grid), theme.text());
        match place {
            Some(beats) => drop(pen.put(&format!("   plays, bar {}", place_words(beats)), theme.text())),
            None => drop(pen.put("   rests", theme.dim())),
        }
        if pattern.once {
            pen.put("   once", theme.dim());
        }
        if pattern.speed != 1.0 {
            pen.put(&format!("   {} times faster", pattern.speed), theme.dim());
        }
        if let Some(tempo) = pattern.tempo {
            pen.put(&format!("   at {tempo} a minute"), theme.dim());
        }
        if show.rotation.without.iter().any(|one| one == name) {
            pen.put("   kept out of the rotation", theme.dim());
        }
        let marked: Vec<&str> = self.marked.iter().map(String::as_str).filter(|one| show.look(one).is_some()).collect();
        if !marked.is_empty() {
            pen.put(&format!("   + {}", marked.join(", ")), theme.bright());
        }
    }

    fn ruler(&self, pattern: &Pattern, theme: Theme, ruler: Rect, buffer: &mut Buffer) {
        for x in ruler.left()..ruler.right() {
            buffer[(x, ruler.y)].set_symbol(" ").set_style(theme.faint());
        }
        let beats = pattern.bars * PATTERN_BAR;
        let wide = self.window.columns(Ticks(0), Ticks(PATTERN_BAR * TICKS)).len().max(1);
        for beat in 0..beats {
            let Some(x) = self.window.seen(f64::from(beat * TICKS)) else { continue };
            if beat % PATTERN_BAR == 0 {
                let room = usize::from(ruler.right() - x);
                buffer.set_stringn(x, ruler.y, format!("╷{}", beat / PATTERN_BAR + 1), room, theme.text());
            } else if wide >= 8 {
                buffer[(x, ruler.y)].set_symbol("'").set_style(theme.dim());
            }
        }
    }

    fn lane(&self, show: &Show, lane: &Lane, place: usize, theme: Theme, row: Rect, buffer: &mut Buffer) {
        let chosen = place == self.lane;
        let style = if chosen { theme.bright() } else { theme.dim() };
        let mut pen = Pen::new(row, buffer);
        pen.put(if chosen { " ▸ " } else { "   " }, theme.bright());
        pen.put(&format!("{:<7}", lane.kind.name()), style);
        pen.put(&shortened(&about(lane), usize::from(NAMES - 11)), style);
        let lanes = Rect { y: row.y, height: 1, ..self.window.area() };
        for x in lanes.left()..lanes.right() {
            if self.window.is_within(x) {
                buffer[(x, row.y)].set_symbol("·").set_style(theme.faint());
            }
        }
        if lane.mute {
            buffer.set_stringn(lanes.x, row.y, "left out: m brings it back", usize::from(lanes.width), theme.dim());
            return;
        }
        for event in &lane.events {
            self.event(show, lane.kind, event, theme, row.y, buffer);
        }
    }

    fn event(&self, show: &Show, kind: LaneKind, event: &PatternEvent, theme: Theme, y: u16, buffer: &mut Buffer) {
        let columns = self.window.columns(event.at, event.end());
        let share = |x: u16| {
            let within = self.window.middle(x) - f64::from(event.at.0);
            (within / f64::from(event.length.0.max(1))).clamp(0.0, 1.0) as f32
        };
        let words = words(kind, event);
        let mut letters = words.chars();
        for x in columns.clone() {
            let cell = &mut buffer[(x, y)];
            match kind {
                LaneKind::Level => {
                    let level = (event.level_at(share(x)) / 100.0 * 8.0).ceil() as usize;
                    cell.set_symbol(LEVELS[level.clamp(1, 8)]).set_style(theme.text());
                }
                LaneKind::Colour => {
                    let rgb = event.colour.as_deref().map_or([0; 3], |text| rgb_of(text, share(x), show));
                    let mark = match letters.next() {
                        _ if event.fades && x + 1 == columns.end => "▸".to_owned(),
                        Some(letter) => letter.to_string(),
                        None => " ".to_owned(),
                    };
                    let bright = rgb.iter().map(|part| u32::from(*part)).sum::<u32>() > 300;
                    let ink = theme.colour(if bright { [0; 3] } else { [255; 3] });
                    cell.set_symbol(&mark).set_style(theme.text().bg(theme.colour(rgb)).fg(ink));
                }
                LaneKind::Aim => {
                    // The name of where they go, and arrows while they are on their way.
                    let glides = event.glide.is_some_and(|glide| share(x) * (event.length.0 as f32) < glide.0 as f32);
                    let rest = if glides { "→" } else { " " };
                    let letter = match x == columns.start {
                        true => "→".to_owned(),
                        false => letters.next().map_or(rest.to_owned(), String::from),
                    };
                    cell.set_symbol(&letter).set_style(theme.text().bg(theme.glow(0.55)));
                }
                LaneKind::Look | LaneKind::Strobe => {
                    let letter = letters.next().map_or(" ".to_owned(), String::from);
                    cell.set_symbol(&letter).set_style(theme.text().bg(theme.glow(0.55)));
                }
            }
        }
        // Where one event begins behind another, that is seen.
        if kind == LaneKind::Level && columns.len() > 1 && event.shape == splimo_show::EventShape::On {
            buffer[(columns.start, y)].set_symbol("▌");
        }
    }

    /// Marks the cursor, and what is chosen.
    fn cursor(&self, pattern: &Pattern, theme: Theme, first: u16, from: usize, below: u16, buffer: &mut Buffer) {
        if pattern.lanes.is_empty() {
            return;
        }
        let step = pattern.grid.ticks().0;
        if self.mark.is_some() {
            let (lanes, start, end) = self.choice(pattern);
            for lane in lanes.iter().filter(|lane| **lane >= from) {
                let y = first + (lane - from) as u16;
                if y < below {
                    for x in self.window.columns(start, end) {
                        let cell = &mut buffer[(x, y)];
                        cell.set_style(cell.style().add_modifier(ratatui::style::Modifier::REVERSED));
                    }
                }
            }
        }
        let y = first + (self.lane - from.min(self.lane)) as u16;
        for x in self.window.columns(self.at, Ticks(self.at.0 + step)) {
            let cell = &mut buffer[(x, y)];
            cell.set_style(theme.filled());
            if cell.symbol() == "·" {
                cell.set_symbol(" ");
            }
        }
    }

    fn foot(&self, pattern: &Pattern, theme: Theme, row: Rect, buffer: &mut Buffer) {
        let mut pen = Pen::new(row, buffer);
        pen.to(3).put(&format!("bar {}", place_words(self.at.beats())), theme.text());
        let event =
            pattern.lanes.get(self.lane).and_then(|lane| Some((lane.kind, &lane.events[lane.event_at(self.at)?])));
        if let Some((kind, event)) = event {
            let long = (event.length.beats() * 1000.0).round() / 1000.0;
            pen.put(&format!("   {}, {long} beats", words(kind, event)), theme.text());
        }
        if self.mark.is_some() {
            pen.put("   v or Esc ends what is chosen", theme.dim());
        }
        if self.window.is_part() {
            pen.put("   G has more of it in sight", theme.dim());
        }
    }
}

/// A place as bar and beat, such as `3.2.50` for the middle of the second beat of the third bar.
fn place_words(beats: f64) -> String {
    let bar = (beats / f64::from(PATTERN_BAR)).floor();
    let beat = beats - bar * f64::from(PATTERN_BAR);
    let hundredths = ((beat - beat.floor()) * 100.0).floor();
    let rest = if hundredths > 0.0 { format!(".{hundredths:02}") } else { String::new() };
    format!("{}.{}{rest}", bar + 1.0, beat.floor() + 1.0)
}

/// The lights of a lane, and the way in which they are later.
fn about(lane: &Lane) -> String {
    let lights = if lane.lights.is_empty() { "all".to_owned() } else { lane.lights.join(", ") };
    match lane.later {
        Some(note) => format!("{note} {lights}"),
        None => lights,
    }
}

/// An event in a word or two.
fn words(kind: LaneKind, event: &PatternEvent) -> String {
    match kind {
        LaneKind::Level => format!("{} {}", event.shape, event.level.unwrap_or(100.0)),
        LaneKind::Colour => {
            let text = event.colour.as_deref().unwrap_or_default();
            palette::referred(text).map_or(text, |(name, _)| name).to_owned()
        }
        LaneKind::Look => event.look.clone().unwrap_or_default(),
        LaneKind::Aim => event.aim.clone().unwrap_or_default(),
        LaneKind::Strobe => format!("{}/s", event.rate.unwrap_or(0.0)),
    }
}

/// The colour of a text at a place in its event, 0..1, as a screen shows it.
fn rgb_of(text: &str, share: f32, show: &Show) -> [u8; 3] {
    let Some(stops) = palette::gradient(text, &show.palette).ok().filter(|stops| !stops.is_empty()) else {
        return [0; 3];
    };
    let [red, green, blue, cover] = Ramp::open(&stops, Mixing::default()).at(share);
    // Not as bright as the stage below.
    to_screen([red, green, blue].map(|part| part * cover)).map(|part| (f32::from(part) * 0.7) as u8)
}
