//! The form that is open over the view, whichever it is.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::KeyEvent;
use ratatui::layout::Rect;
use splimo_show::Show;

use super::aims::AimForm;
use super::forms::{OpenForm, Reply};
use super::patterns::PatternForm;
use super::schedule::ScheduleForm;
use super::sheet::SheetForm;
use super::timeline::TimelineForm;
use crate::kit::theme::Theme;

/// A form that is open.
pub(super) enum Opened {
    /// Of cues or a list.
    Cues(Box<OpenForm>),
    /// Of the schedule.
    Schedule(Box<ScheduleForm>),
    /// Of a sheet that is read.
    Sheet(Box<SheetForm>),
    /// Of a timeline.
    Timeline(Box<TimelineForm>),
    /// Of a pattern.
    Pattern(Box<PatternForm>),
    /// Of an aim.
    Aim(Box<AimForm>),
}

impl From<OpenForm> for Opened {
    fn from(form: OpenForm) -> Self {
        Self::Cues(Box::new(form))
    }
}

impl From<ScheduleForm> for Opened {
    fn from(form: ScheduleForm) -> Self {
        Self::Schedule(Box::new(form))
    }
}

impl From<SheetForm> for Opened {
    fn from(sheet: SheetForm) -> Self {
        Self::Sheet(Box::new(sheet))
    }
}

impl From<TimelineForm> for Opened {
    fn from(form: TimelineForm) -> Self {
        Self::Timeline(Box::new(form))
    }
}

impl Opened {
    /// Handles a key.
    pub(super) fn key(&mut self, key: KeyEvent, show: &Show) -> Reply {
        match self {
            Self::Cues(open) => open.key(key, show),
            Self::Schedule(open) => open.key(key, show),
            Self::Sheet(open) => open.key(key, show),
            Self::Timeline(open) => open.key(key, show),
            Self::Pattern(open) => open.key(key, show),
            Self::Aim(open) => open.key(key, show),
        }
    }

    /// Writes a text into the field.
    pub(super) fn paste(&mut self, text: &str) {
        match self {
            Self::Cues(open) => open.paste(text),
            Self::Schedule(open) => drop(open.form.paste(text)),
            Self::Sheet(open) => open.paste(text),
            Self::Timeline(open) => drop(open.form.paste(text)),
            Self::Pattern(open) => drop(open.form.paste(text)),
            Self::Aim(open) => drop(open.form.paste(text)),
        }
    }

    /// Takes note of why an edit was refused.
    pub(super) fn refuse(&mut self, why: &str) {
        let why = why.to_owned();
        match self {
            Self::Cues(open) => open.form.error = Some(why),
            Self::Schedule(open) => open.form.error = Some(why),
            Self::Sheet(open) => open.refuse(&why),
            Self::Timeline(open) => open.form.error = Some(why),
            Self::Pattern(open) => open.form.error = Some(why),
            Self::Aim(open) => open.form.error = Some(why),
        }
    }

    /// Draws it over the view.
    pub(super) fn draw(&mut self, show: &Show, theme: Theme, area: Rect, buffer: &mut Buffer) {
        match self {
            Self::Cues(open) => open.draw(theme, area, buffer),
            Self::Schedule(open) => open.draw(theme, area, buffer),
            Self::Sheet(open) => open.draw(show, theme, area, buffer),
            Self::Timeline(open) => open.draw(theme, area, buffer),
            Self::Pattern(open) => open.draw(theme, area, buffer),
            Self::Aim(open) => open.draw(theme, area, buffer),
        }
    }
}
