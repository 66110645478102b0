//! The timelines: the clips of the chosen one on their tiers over time, its transport, and the editing of clips.

mod drag;
mod drawing;
mod form;
mod pointing;
mod ruler;
mod window;

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_engine::TimelineState;
use splimo_show::command::{EngineCommand, TimelinePlace};
use splimo_show::{Clip, Show, Timeline};

pub(super) use form::TimelineForm;

use super::action::Ask;
use drag::Drag;
use window::Window;

/// The words where there is no timeline.
const NONE: &str = "there is no timeline yet; T adds one";

/// The reply of the part to a key or the mouse.
pub(super) enum Reply {
    /// These are asked for.
    Asks(Vec<Ask>),
    /// A form opens.
    Opens(TimelineForm),
    /// There is something to say.
    Says(&'static str),
}

impl Reply {
    const NOTHING: Self = Self::Asks(Vec::new());
}

/// The part of the view for timelines.
#[derive(Default)]
pub(super) struct TimelinePart {
    line: usize,
    clip: usize,
    window: Window,
    /// The clip that is to come into sight.
    reach: bool,
    /// The lanes of tiers as they were drawn last, and the blocks of clips.
    lanes: Vec<(Rect, String)>,
    blocks: Vec<(Rect, usize)>,
    ruler: Rect,
    drag: Option<Drag>,
}

impl TimelinePart {
    /// The place of the timeline that is chosen.
    pub(super) fn place(&self) -> usize {
        self.line
    }

    fn line<'s>(&self, show: &'s Show) -> Option<&'s Timeline> {
        show.timelines.get(self.line)
    }

    fn changed(&self, show: &Show, change: impl FnOnce(&mut Timeline)) -> Reply {
        let Some(line) = self.line(show) else { return Reply::Says(NONE) };
        let mut line = line.clone();
        change(&mut line);
        Reply::Asks(vec![Ask::edit(Edit::PutTimeline(self.line, line))])
    }

    /// Handles a key; none where it means nothing here.
    pub(super) fn key(&mut self, key: KeyEvent, show: &Show, state: TimelineState) -> Option<Reply> {
        let shift = key.modifiers.contains(KeyModifiers::SHIFT);
        let by = if matches!(key.code, KeyCode::Left | KeyCode::Up | KeyCode::Char('<')) { -1 } else { 1 };
        Some(match key.code {
            KeyCode::Left | KeyCode::Right if shift => self.move_by(show, by),
            KeyCode::Left | KeyCode::Right => self.choose_by(show, i64::from(by)),
            KeyCode::Up | KeyCode::Down => self.choose_line(show, i64::from(by)),
            KeyCode::Home => self.choose_by(show, i64::MIN / 2),
            KeyCode::End => self.choose_by(show, i64::MAX / 2),
            KeyCode::Char('n') => self.transport(show, EngineCommand::PlayTimeline),
            KeyCode::Char('x') => self.transport(show, EngineCommand::HoldTimeline),
            KeyCode::Char('z') => self.transport(show, EngineCommand::StopTimeline),
            KeyCode::Char('g') => self.go_to_clip(show),
            KeyCode::Char('<' | '>') => self.stretch_by(show, by),
            KeyCode::Char('s') => self.split_clip(show, self.clip, state.runs.then_some(state.at as f32)),
            KeyCode::Char('d') => self.copy_clip(show, self.clip, None),
            KeyCode::Char('i') => self.zoom(show, 1, state),
            KeyCode::Char('o') => self.zoom(show, -1, state),
            KeyCode::Char('T') => Reply::Opens(TimelineForm::new_line(show)),
            KeyCode::Char('l') => match self.line(show) {
                Some(line) => Reply::Opens(TimelineForm::line(self.line, line)),
                None => Reply::Says(NONE),
            },
            KeyCode::Char('h') => match self.line(show) {
                Some(line) => Reply::Opens(TimelineForm::recording(self.line, line)),
                None => Reply::Says(NONE),
            },
            KeyCode::Delete | KeyCode::Backspace => self.take_out(show),
            _ => return None,
        })
    }

    fn transport(&self, show: &Show, command: fn(String) -> EngineCommand) -> Reply {
        match self.line(show) {
            Some(line) => Reply::Asks(vec![Ask::engine(command(line.name.clone()))]),
            None => Reply::Says(NONE),
        }
    }

    fn go_to_clip(&self, show: &Show) -> Reply {
        let found = self.line(show).and_then(|line| Some((line, line.clips.get(self.clip)?)));
        let Some((line, clip)) = found else { return Reply::Says("there is no clip to go to; a adds one") };
        self.seek(line, clip.at)
    }

    fn seek(&self, line: &Timeline, at: f32) -> Reply {
        let place = TimelinePlace { name: line.name.clone(), at: f64::from(at) };
        Reply::Asks(vec![Ask::engine(EngineCommand::SeekTimeline(place))])
    }

    /// Opens the form of a new clip where the timeline is.
    pub(super) fn add(&self, show: &Show, state: TimelineState) -> Reply {
        match self.line(show) {
            Some(line) => self.add_at(show, line.snapped(state.at as f32), String::new()),
            None => Reply::Says(NONE),
        }
    }

    fn add_at(&self, show: &Show, at: f32, tier: String) -> Reply {
        let clip = Clip { at, length: 4.0, tier, ..Clip::default() };
        Reply::Opens(TimelineForm::new_clip(self.line, &clip, show))
    }

    /// Opens the form of the chosen clip.
    pub(super) fn change(&self, show: &Show) -> Reply {
        match self.line(show).map(|line| line.clips.get(self.clip)) {
            None => Reply::Says(NONE),
            Some(None) => Reply::Says("there is no clip to change; a adds one"),
            Some(Some(clip)) => Reply::Opens(TimelineForm::clip(self.line, self.clip, clip, show)),
        }
    }

    fn take_out(&mut self, show: &Show) -> Reply {
        match self.line(show).map(|line| line.clips.len()) {
            None => Reply::Says(NONE),
            Some(0) => Reply::Asks(vec![Ask::edit(Edit::RemoveTimeline(self.line))]),
            Some(_) => self.changed(show, |line| drop(line.clips.remove(self.clip.min(line.clips.len() - 1)))),
        }
    }

    fn choose_by(&mut self, show: &Show, by: i64) -> Reply {
        let count = self.line(show).map_or(0, |line| line.clips.len());
        self.clip = (self.clip as i64).saturating_add(by).clamp(0, count.saturating_sub(1) as i64) as usize;
        self.reach = true;
        Reply::NOTHING
    }

    fn choose_line(&mut self, show: &Show, by: i64) -> Reply {
        self.line = (self.line as i64 + by).clamp(0, show.timelines.len().saturating_sub(1) as i64) as usize;
        (self.clip, self.window) = (0, Window::default());
        Reply::NOTHING
    }

    /// Goes nearer, or further off, around the place where it plays or the chosen clip.
    fn zoom(&mut self, show: &Show, by: i32, state: TimelineState) -> Reply {
        let clip = self.line(show).and_then(|line| line.clips.get(self.clip)).map(|clip| clip.at);
        let around = if state.runs { state.at as f32 } else { clip.unwrap_or(0.0) };
        self.window.reach(around);
        self.window.zoom(by, around);
        Reply::NOTHING
    }

    /// Moves the chosen clip to the next beat, or place of the grid, or to the one before.
    fn move_by(&mut self, show: &Show, by: i32) -> Reply {
        let Some(line) = self.line(show) else { return Reply::Says(NONE) };
        let Some(clip) = line.clips.get(self.clip) else { return Reply::NOTHING };
        self.reach = true;
        self.move_to(show, self.clip, line.beside(clip.at, by))
    }

    /// Moves a clip to a place, and keeps it chosen.
    fn move_to(&mut self, show: &Show, place: usize, at: f32) -> Reply {
        let Some(line) = self.line(show) else { return Reply::Says(NONE) };
        let Some(clip) = line.clips.get(place) else { return Reply::NOTHING };
        let at = at.clamp(0.0, (line.length - clip.length).max(0.0));
        if at == clip.at {
            return Reply::NOTHING;
        }
        // Clips stand in the order of their places.
        let before = |other: &Clip| other.at < at || (other.at == at && at > clip.at);
        let others = line.clips.iter().enumerate().filter(|(index, other)| *index != place && before(other));
        self.clip = others.count();
        self.changed(show, |line| line.clips[place].at = at)
    }

    /// Stretches the chosen clip to the next beat, or place of the grid, or to the one before.
    fn stretch_by(&self, show: &Show, by: i32) -> Reply {
        let Some(line) = self.line(show) else { return Reply::Says(NONE) };
        let Some(clip) = line.clips.get(self.clip) else { return Reply::NOTHING };
        self.stretch_to(show, self.clip, line.beside(clip.end(), by))
    }

    /// Has a clip end at a place.
    fn stretch_to(&self, show: &Show, place: usize, end: f32) -> Reply {
        self.changed(show, |line| {
            let length = line.length;
            let Some(at) = line.clips.get(place).map(|clip| clip.at) else { return };
            let end = end.min(length).max(line.beside(at, 1));
            line.clips[place].length = end - at;
        })
    }

    /// Copies a clip to a place, or behind itself.
    fn copy_clip(&mut self, show: &Show, place: usize, at: Option<f32>) -> Reply {
        let Some(line) = self.line(show) else { return Reply::Says(NONE) };
        let Some(clip) = line.clips.get(place).cloned() else { return Reply::NOTHING };
        let at = at.unwrap_or_else(|| clip.end()).clamp(0.0, (line.length - clip.length).max(0.0));
        self.changed(show, |line| line.clips.push(Clip { at, ..clip }))
    }

    /// Splits a clip at a place within it, or in its middle.
    fn split_clip(&self, show: &Show, place: usize, at: Option<f32>) -> Reply {
        let Some(line) = self.line(show) else { return Reply::Says(NONE) };
        let Some(clip) = line.clips.get(place) else { return Reply::NOTHING };
        let within = |at: &f32| *at > clip.at && *at < clip.end();
        let at = line.snapped(at.filter(within).unwrap_or(clip.at + clip.length / 2.0));
        if !within(&at) {
            return Reply::Says("there is no beat within the clip to split it at");
        }
        self.changed(show, |line| {
            let clip = &mut line.clips[place];
            let behind = Clip { at, length: clip.end() - at, fade_in: 0.0, does: Vec::new(), ..clip.clone() };
            (clip.length, clip.fade_out) = (at - clip.at, 0.0);
            line.clips.push(behind);
        })
    }
}
