//! A sheet of cues that is read: first the file is named, then it is told what it would change.

use std::path::PathBuf;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_document::import::CueSheet;
use splimo_show::{CueList, Show};

use super::forms::Reply;
use crate::importing::{Importing, Keep};
use crate::kit::float::float;
use crate::kit::form::{self, Field, Form};
use crate::kit::theme::Theme;

/// The width of what is shown, in columns.
const WIDTH: u16 = 90;

/// A sheet that is to be read into a list.
pub(super) struct SheetForm {
    list: usize,
    form: Form,
    read: Option<Importing>,
}

impl SheetForm {
    /// Asks for the file.
    pub(super) fn new(list: usize, of: &CueList) -> Self {
        let field = Field::text("file", "file", format!("{}.csv", of.name));
        Self { list, form: Form::new(vec![field]), read: None }
    }

    /// Writes a text into the field.
    pub(super) fn paste(&mut self, text: &str) {
        if self.read.is_none() {
            self.form.paste(text);
        }
    }

    /// Takes note of why the edit was refused.
    pub(super) fn refuse(&mut self, why: &str) {
        (self.read, self.form.error) = (None, Some(why.to_owned()));
    }

    /// Handles a key.
    pub(super) fn key(&mut self, key: KeyEvent, show: &Show) -> Reply {
        if self.read.is_some() {
            return self.key_of_preview(key, show);
        }
        match self.form.key(key) {
            form::Reply::Restore => return Reply::Close,
            form::Reply::Pass => return Reply::Pass,
            form::Reply::Changed | form::Reply::Quiet => {}
            form::Reply::Keep => {
                let path = PathBuf::from(self.form.text("file"));
                match Importing::read(&path, Box::new(CueSheet { list: self.list }), show) {
                    Ok(read) => self.read = Some(read),
                    Err(why) => self.form.error = Some(why),
                }
            }
        }
        Reply::Stay
    }

    fn key_of_preview(&mut self, key: KeyEvent, show: &Show) -> Reply {
        let Some(importing) = &mut self.read else { return Reply::Close };
        match key.code {
            KeyCode::Esc => return Reply::Close,
            KeyCode::Enter => match importing.keep(show) {
                Ok(Keep::Edit(edit)) => return Reply::Keep(edit),
                Ok(Keep::Nothing) => return Reply::Close,
                Ok(Keep::Look) => {}
                Err(why) => self.refuse(&why),
            },
            _ if importing.key(key) => {}
            _ => return Reply::Pass,
        }
        Reply::Stay
    }

    /// Draws it over the view.
    pub(super) fn draw(&mut self, show: &Show, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let name = show.cue_lists.get(self.list).map_or("a list that is gone", |list| &list.name);
        let title = format!("a sheet of cues for {name}");
        match &mut self.read {
            None => {
                let inside = float(&title, WIDTH, 7, theme, area, buffer);
                self.form.draw(theme, inside, buffer);
            }
            Some(importing) => {
                let inside = float(&title, WIDTH, area.height.saturating_sub(4), theme, area, buffer);
                importing.draw(theme, inside, buffer);
            }
        }
    }
}
