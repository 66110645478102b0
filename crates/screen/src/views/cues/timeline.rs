//! The timelines: the clips of the chosen one on their tiers over time, its transport, and the editing of clips.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};
use splimo_core::command::{EngineCommand, TimelinePlace};
use splimo_core::edit::Edit;
use splimo_core::engine::TimelineState;
use splimo_core::show::{Clip, CueTier, Follows, LONGEST_TIMELINE, Show, TimeUnit, Timeline};

use super::action::Ask;
use super::forms::{Reply, split};
use crate::kit::float::float;
use crate::kit::form::{self, Field, Form};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;

/// The width of the names of tiers, and of a form, in columns.
const NAMES: u16 = 10;
const WIDTH: u16 = 84;

/// The grid on which clips are moved, in the unit of the timeline.
fn grid(unit: TimeUnit) -> f32 {
    match unit {
        TimeUnit::Seconds => 0.5,
        TimeUnit::Bars => 0.25,
    }
}

/// The part of the view for timelines.
#[derive(Default)]
pub(super) struct TimelinePart {
    line: usize,
    clip: usize,
    form: Option<(Of, Form)>,
    /// The lanes as they were drawn last, and the columns of the ruler.
    drawn: Vec<(Rect, usize)>,
    ruler: Rect,
    /// The clip that is dragged, with the column where it was taken and its place then.
    drag: Option<(usize, u16, f32)>,
}

/// The thing that a form is of.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Of {
    NewClip,
    Clip,
    NewLine,
    Line,
}

fn clip_fields(clip: &Clip, show: &Show) -> Vec<Field> {
    let tiers = show.stack().iter().map(|tier| tier.name.clone());
    let tier = if clip.tier.is_empty() { show.stack()[0].name.as_str() } else { &clip.tier };
    let most = f64::from(LONGEST_TIMELINE);
    let mut fields = vec![
        Field::number("at", "at", f64::from(clip.at), 0.0, most, 0.25),
        Field::number("length", "length", f64::from(clip.length), 0.0, most, 0.25),
        Field::choice("tier", "on tier", tiers, tier),
        Field::text("look", "look", clip.look.clone().unwrap_or_default()),
        Field::number("in", "fade in", f64::from(clip.fade_in), 0.0, most, 0.25),
        Field::number("out", "fade out", f64::from(clip.fade_out), 0.0, most, 0.25),
        Field::text("do", "commands", clip.does.join("; ")),
    ];
    fields[3].hint = "a look, or the beginning of its name".to_owned();
    fields[6].hint = "when it begins; with ; between them".to_owned();
    fields
}

fn line_fields(line: &Timeline) -> Vec<Field> {
    let mut fields = vec![
        Field::text("name", "name", line.name.clone()),
        Field::choice("unit", "counts in", TimeUnit::ALL.map(TimeUnit::name), line.unit.name()),
        Field::number("length", "length", f64::from(line.length), 0.1, f64::from(LONGEST_TIMELINE), 1.0),
        Field::flag("loops", "begins again", line.loops),
        Field::choice("follows", "follows", Follows::ALL.map(Follows::name), line.follows.name()),
        Field::number("priority", "priority", f64::from(line.priority), 0.0, 100.0, 5.0),
    ];
    fields[4].hint = "nobody: it has a transport of its own".to_owned();
    fields
}

impl TimelinePart {
    /// The place of the timeline that is chosen.
    pub(super) fn place(&self) -> usize {
        self.line
    }

    /// True while something is typed into.
    pub(super) fn types(&self) -> bool {
        self.form.is_some()
    }

    /// Closes what is open.
    pub(super) fn close(&mut self) {
        self.form = None;
    }

    /// Takes note of why an edit was refused.
    pub(super) fn refuse(&mut self, why: &str) {
        if let Some((_, form)) = &mut self.form {
            form.error = Some(why.to_owned());
        }
    }

    /// Writes a text into the field.
    pub(super) fn paste(&mut self, text: &str) {
        if let Some((_, form)) = &mut self.form {
            form.paste(text);
        }
    }

    fn line<'s>(&self, show: &'s Show) -> Option<&'s Timeline> {
        show.timelines.get(self.line)
    }

    fn changed(&self, show: &Show, change: impl FnOnce(&mut Timeline)) -> Vec<Ask> {
        let Some(line) = self.line(show) else { return Vec::new() };
        let mut line = line.clone();
        change(&mut line);
        vec![Ask::edit(Edit::PutTimeline(self.line, line))]
    }

    /// Handles a key of the form that is open.
    pub(super) fn key_of_form(&mut self, key: KeyEvent, show: &Show) -> Option<Reply> {
        let (of, form) = self.form.as_mut()?;
        let of = *of;
        Some(match form.key(key) {
            form::Reply::Restore => Reply::Close,
            form::Reply::Pass => Reply::Pass,
            form::Reply::Changed | form::Reply::Quiet => Reply::Stay,
            form::Reply::Keep => match self.edit(of, show) {
                Ok(edit) => Reply::Keep(Box::new(edit)),
                Err(why) => {
                    self.refuse(&why);
                    Reply::Stay
                }
            },
        })
    }

    fn edit(&self, of: Of, show: &Show) -> Result<Edit, String> {
        let Some((_, form)) = &self.form else { return Err(String::new()) };
        if matches!(of, Of::Line | Of::NewLine) {
            let known = self.line(show).filter(|_| of == Of::Line).cloned();
            let word = |id: &str| form.text(id);
            let line = Timeline {
                name: word("name"),
                unit: TimeUnit::ALL.into_iter().find(|unit| unit.name() == word("unit")).unwrap_or_default(),
                length: form.number("length") as f32,
                loops: form.flag("loops"),
                follows: Follows::ALL.into_iter().find(|one| one.name() == word("follows")).unwrap_or_default(),
                priority: form.whole("priority") as u8,
                clips: known.map(|line| line.clips).unwrap_or_default(),
            };
            return Ok(if of == Of::Line { Edit::PutTimeline(self.line, line) } else { Edit::AddTimeline(line) });
        }
        let mut line = self.line(show).ok_or("there is no timeline yet; T adds one")?.clone();
        let look = form.text("look");
        let said = CueTier::of_words("look", &look, &show.looks)?;
        let look = said.and_then(|said| said.look);
        let tier = if look.is_some() { form.text("tier") } else { String::new() };
        let number = |id: &str| form.number(id) as f32;
        let clip = Clip {
            at: number("at"),
            length: number("length"),
            tier,
            look,
            does: split(&form.text("do")),
            fade_in: number("in"),
            fade_out: number("out"),
        };
        match line.clips.get_mut(self.clip).filter(|_| of == Of::Clip) {
            Some(known) => *known = clip,
            None => line.clips.push(clip),
        }
        Ok(Edit::PutTimeline(self.line, line))
    }

    /// Handles a key; none where it means nothing here.
    pub(super) fn key(&mut self, key: KeyEvent, show: &Show, state: TimelineState) -> Option<Vec<Ask>> {
        let shift = key.modifiers.contains(KeyModifiers::SHIFT);
        let name = self.line(show).map(|line| line.name.clone());
        let engine = |command: fn(String) -> EngineCommand| name.clone().map(|name| vec![Ask::engine(command(name))]);
        let step = self.line(show).map_or(0.25, |line| grid(line.unit));
        let clip = self.line(show).and_then(|line| line.clips.get(self.clip)).cloned();
        let at = clip.as_ref().map(|clip| f64::from(clip.at));
        Some(match key.code {
            KeyCode::Left | KeyCode::Right if shift => {
                let by = if key.code == KeyCode::Left { -step } else { step };
                self.move_to(show, self.clip, clip.map_or(0.0, |clip| clip.at) + by)
            }
            KeyCode::Left => self.choose_by(show, -1),
            KeyCode::Right => self.choose_by(show, 1),
            KeyCode::Up => self.choose_line(show, -1),
            KeyCode::Down => self.choose_line(show, 1),
            KeyCode::Char('n') => engine(EngineCommand::PlayTimeline).unwrap_or_default(),
            KeyCode::Char('x') => engine(EngineCommand::HoldTimeline).unwrap_or_default(),
            KeyCode::Char('z') => engine(EngineCommand::StopTimeline).unwrap_or_default(),
            KeyCode::Char('g') => match (name, at) {
                (Some(name), Some(at)) => vec![Ask::engine(EngineCommand::SeekTimeline(TimelinePlace { name, at }))],
                _ => Vec::new(),
            },
            KeyCode::Char('<') => self.stretch(show, -step),
            KeyCode::Char('>') => self.stretch(show, step),
            KeyCode::Char('s') => self.split_clip(show, state),
            KeyCode::Char('d') => self.changed(show, |line| {
                line.clips.extend(clip.map(|clip| Clip { at: clip.end(), ..clip }));
            }),
            KeyCode::Char('T') => {
                let line = Timeline {
                    name: format!("Timeline {}", show.timelines.len() + 1),
                    unit: TimeUnit::Bars,
                    length: 32.0,
                    loops: false,
                    follows: Follows::Nobody,
                    priority: 0,
                    clips: Vec::new(),
                };
                self.form = Some((Of::NewLine, Form::new(line_fields(&line))));
                Vec::new()
            }
            KeyCode::Char('l') => {
                self.form = self.line(show).map(|line| (Of::Line, Form::new(line_fields(line))));
                Vec::new()
            }
            KeyCode::Delete | KeyCode::Backspace => match clip {
                Some(_) => self.changed(show, |line| drop(line.clips.remove(self.clip))),
                None if name.is_some() => vec![Ask::edit(Edit::RemoveTimeline(self.line))],
                None => Vec::new(),
            },
            _ => return None,
        })
    }

    /// Opens the form of a new clip where the timeline is, or of the chosen one.
    pub(super) fn open(&mut self, show: &Show, fresh: bool, state: TimelineState) -> Option<&'static str> {
        let Some(line) = self.line(show) else { return Some("there is no timeline yet; T adds one") };
        let place = (state.at as f32 / grid(line.unit)).round() * grid(line.unit);
        let new = Clip { at: place, length: 4.0, ..Clip::default() };
        let clip = if fresh { Some(&new) } else { line.clips.get(self.clip) };
        let Some(clip) = clip else { return Some("there is no clip to change; a adds one") };
        let mut form = Form::new(clip_fields(clip, show));
        form.go_to("look");
        self.form = Some((if fresh { Of::NewClip } else { Of::Clip }, form));
        None
    }

    fn choose_by(&mut self, show: &Show, by: i64) -> Vec<Ask> {
        let count = self.line(show).map_or(0, |line| line.clips.len());
        self.clip = (self.clip as i64 + by).clamp(0, count.saturating_sub(1) as i64) as usize;
        Vec::new()
    }

    fn choose_line(&mut self, show: &Show, by: i64) -> Vec<Ask> {
        self.line = (self.line as i64 + by).clamp(0, show.timelines.len().saturating_sub(1) as i64) as usize;
        self.clip = 0;
        Vec::new()
    }

    /// Moves a clip to a place on the grid, and keeps it chosen.
    fn move_to(&mut self, show: &Show, place: usize, at: f32) -> Vec<Ask> {
        let Some(line) = self.line(show) else { return Vec::new() };
        let step = grid(line.unit);
        let Some(clip) = line.clips.get(place) else { return Vec::new() };
        let at = ((at / step).round() * step).clamp(0.0, (line.length - clip.length).max(0.0));
        if at == clip.at {
            return Vec::new();
        }
        // Clips stand in the order of their places.
        let before = |other: &Clip| other.at < at || (other.at == at && at > clip.at);
        let others = line.clips.iter().enumerate().filter(|(index, other)| *index != place && before(other));
        self.clip = others.count();
        self.changed(show, |line| line.clips[place].at = at)
    }

    fn stretch(&mut self, show: &Show, by: f32) -> Vec<Ask> {
        let step = by.abs();
        self.changed(show, |line| {
            if let Some(clip) = line.clips.get_mut(self.clip) {
                clip.length = (clip.length + by).clamp(step, (line.length - clip.at).max(step));
            }
        })
    }

    /// Splits the chosen clip where the timeline is, or in its middle.
    fn split_clip(&mut self, show: &Show, state: TimelineState) -> Vec<Ask> {
        self.changed(show, |line| {
            let step = grid(line.unit);
            let Some(clip) = line.clips.get_mut(self.clip).filter(|clip| clip.length >= 2.0 * step) else { return };
            let here = state.at as f32;
            let within = state.runs && here > clip.at && here < clip.end();
            let at = if within { here } else { clip.at + clip.length / 2.0 };
            let at = ((at / step).round() * step).clamp(clip.at + step, clip.end() - step);
            let behind = Clip { at, length: clip.end() - at, fade_in: 0.0, does: Vec::new(), ..clip.clone() };
            (clip.length, clip.fade_out) = (at - clip.at, 0.0);
            line.clips.push(behind);
        })
    }

    /// Handles the mouse: a click chooses a clip, dragging moves it, a click on the ruler goes there.
    pub(super) fn mouse(&mut self, mouse: MouseEvent, show: &Show) -> Vec<Ask> {
        let at = Position::new(mouse.column, mouse.row);
        let Some(line) = self.line(show) else { return Vec::new() };
        let units = |columns: f32| columns * line.length / f32::from(self.ruler.width.max(1));
        match mouse.kind {
            MouseEventKind::Down(MouseButton::Left) if self.ruler.contains(at) => {
                let place = f64::from(units(f32::from(mouse.column - self.ruler.x)));
                let place = TimelinePlace { name: line.name.clone(), at: place };
                return vec![Ask::engine(EngineCommand::SeekTimeline(place))];
            }
            MouseEventKind::Down(MouseButton::Left) => {
                // What was drawn last lies above.
                let found = self.drawn.iter().rev().find(|(area, _)| area.contains(at)).map(|(_, clip)| *clip);
                if let Some(clip) = found {
                    self.clip = clip;
                    self.drag = line.clips.get(clip).map(|one| (clip, mouse.column, one.at));
                }
            }
            MouseEventKind::Up(MouseButton::Left) => {
                if let Some((clip, from, place)) = self.drag.take() {
                    let by = units(f32::from(mouse.column) - f32::from(from));
                    return if mouse.column == from { Vec::new() } else { self.move_to(show, clip, place + by) };
                }
            }
            _ => {}
        }
        Vec::new()
    }

    /// Draws the form over the view.
    pub(super) fn draw_form(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let Some((of, form)) = &mut self.form else { return };
        let title = match of {
            Of::NewClip => "a new clip",
            Of::Clip => "the clip",
            Of::NewLine => "a new timeline",
            Of::Line => "the timeline",
        };
        let inside = float(title, WIDTH, form.fields.len() as u16 + 5, theme, area, buffer);
        form.draw(theme, inside, buffer);
    }

    /// Draws the chosen timeline, and tells what room is left below its lanes.
    pub(super) fn draw(
        &mut self,
        show: &Show,
        states: &[TimelineState],
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
    ) -> Rect {
        self.drawn.clear();
        self.line = self.line.min(show.timelines.len().saturating_sub(1));
        let Some(line) = show.timelines.get(self.line) else {
            let row = Rect { y: area.y + 1, height: 1, ..area };
            Pen::new(row, buffer).to(3).put("There is no timeline yet: T adds one.", theme.text());
            return Rect { y: area.y + 3, height: area.height.saturating_sub(3), ..area };
        };
        self.clip = self.clip.min(line.clips.len().saturating_sub(1));
        let state = states.get(self.line).copied().unwrap_or_default();
        title(line, state, show.timelines.len(), theme, Rect { height: 1, ..area }, buffer);
        let lanes = Rect { x: area.x + NAMES + 3, width: area.width.saturating_sub(NAMES + 5), ..area };
        self.ruler = Rect { y: area.y + 2, height: 1, ..lanes };
        ruler(line, theme, self.ruler, buffer);
        let column = |at: f32| lanes.x + (at / line.length * f32::from(lanes.width)).round() as u16;
        let mut y = area.y + 3;
        for tier in show.stack().iter().rev() {
            if y + 2 > area.bottom().saturating_sub(3) {
                break;
            }
            Pen::new(Rect { y, height: 1, ..area }, buffer)
                .to(3)
                .put(&shortened(&tier.name, usize::from(NAMES)), theme.dim());
            for (place, clip) in line.clips.iter().enumerate().filter(|(_, clip)| clip.tier == tier.name) {
                let (left, right) = (column(clip.at), column(clip.end()).min(lanes.right()));
                let lane = Rect { x: left, y, width: right.saturating_sub(left).max(1), height: 1 };
                let fades = [clip.fade_in, clip.fade_out].map(|fade| fade / line.length * f32::from(lanes.width));
                block(clip.look.as_deref().unwrap_or(""), fades, place == self.clip, theme, lane, buffer);
                self.drawn.push((lane, place));
            }
            y += 2;
        }
        Pen::new(Rect { y, height: 1, ..area }, buffer).to(3).put("commands", theme.dim());
        for (place, clip) in line.clips.iter().enumerate().filter(|(_, clip)| !clip.does.is_empty()) {
            let x = column(clip.at).min(lanes.right().saturating_sub(1));
            let lane = Rect { x, y, width: 1, height: 1 };
            let style = if place == self.clip { theme.bright() } else { theme.text() };
            buffer.set_stringn(x, y, "▾", 1, style);
            self.drawn.push((lane, place));
        }
        if state.runs {
            let x = column(state.at as f32).min(lanes.right().saturating_sub(1));
            for row in self.ruler.y..=y {
                buffer.set_stringn(x, row, if row == self.ruler.y { "▼" } else { "│" }, 1, theme.armed());
            }
        }
        if let Some(clip) = line.clips.get(self.clip) {
            let row = Rect { y: area.bottom().saturating_sub(1), height: 1, ..area };
            Pen::new(row, buffer).to(3).put(&about(clip), theme.text());
        }
        Rect { x: lanes.x, y: y + 2, width: lanes.width, height: area.bottom().saturating_sub(y + 3) }
    }
}

/// The clip that is chosen, in words.
fn about(clip: &Clip) -> String {
    let mut words = format!("{} to {}", clip.at, clip.end());
    if let Some(look) = &clip.look {
        words.push_str(&format!("   {}: {look}", clip.tier));
    }
    if clip.fade_in > 0.0 || clip.fade_out > 0.0 {
        words.push_str(&format!("   in {}, out {}", clip.fade_in, clip.fade_out));
    }
    if !clip.does.is_empty() {
        words.push_str(&format!("   {}", clip.does.join("; ")));
    }
    words
}

fn title(line: &Timeline, state: TimelineState, count: usize, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let mut pen = Pen::new(area, buffer);
    pen.to(3).put(&line.name, theme.bright());
    if count > 1 {
        pen.put(&format!("   one of {count}: ↑ ↓"), theme.dim());
    }
    let place = format!("{:.1} of {} {}", state.at, line.length, line.unit.name());
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
}

/// The ruler: a stroke and a number as often as there is room for.
fn ruler(line: &Timeline, theme: Theme, area: Rect, buffer: &mut Buffer) {
    for x in area.left()..area.right() {
        buffer[(x, area.y)].set_symbol("·").set_style(theme.faint());
    }
    let steps = [1.0, 2.0, 4.0, 8.0, 16.0, 32.0, 60.0, 120.0, 300.0, 600.0, 1800.0, 3600.0, 7200.0];
    let per_column = line.length / f32::from(area.width.max(1));
    let step = steps.into_iter().find(|step| step / per_column >= 6.0).unwrap_or(14_400.0);
    let mut at = 0.0;
    while at < line.length {
        let x = area.x + (at / per_column).round() as u16;
        let room = usize::from(area.right().saturating_sub(x));
        let number = if line.unit == TimeUnit::Bars { at + 1.0 } else { at };
        buffer.set_stringn(x, area.y, format!("╷{number}"), room, theme.dim());
        at += step;
    }
}

/// A clip as a block: its fades as slopes at its ends, the name of its look within.
fn block(look: &str, fades: [f32; 2], chosen: bool, theme: Theme, area: Rect, buffer: &mut Buffer) {
    const RISE: [&str; 4] = ["▁", "▃", "▅", "▇"];
    let [fade_in, fade_out] = fades.map(|columns| (columns.round() as u16).min(area.width));
    let style = if chosen { theme.bright() } else { theme.dim() };
    let name = shortened(look, usize::from(area.width.saturating_sub(fade_in + fade_out)));
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
