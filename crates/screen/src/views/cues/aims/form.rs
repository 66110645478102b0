//! The form of an aim: its name.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::KeyEvent;
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_document::making::aims;
use splimo_engine::HeadState;
use splimo_show::{Aim, Show};

use super::super::forms::{Reply, answer};
use crate::kit::float::float;
use crate::kit::form::{self, Field, Form};
use crate::kit::theme::Theme;

/// The width of the form.
const WIDTH: u16 = 70;

/// The thing that is named.
enum Of {
    /// A new aim of where some fixtures point.
    New(Vec<HeadState>, Vec<usize>),
    /// An aim that is there.
    Known(usize),
}

/// The form of an aim.
pub(crate) struct AimForm {
    of: Of,
    pub(crate) form: Form,
}

impl AimForm {
    /// The form of a new aim, which records where some fixtures point.
    pub(super) fn new(show: &Show, heads: Vec<HeadState>, fixtures: Vec<usize>) -> Self {
        let mut number = show.aims.len() + 1;
        while show.aim(&format!("Aim {number}")).is_some() {
            number += 1;
        }
        let mut field = Field::text("name", "name", format!("Aim {number}"));
        field.hint = format!("where {} heads point now", fixtures.len());
        Self { of: Of::New(heads, fixtures), form: Form::new(vec![field]) }
    }

    /// The form of an aim that is there.
    pub(super) fn known(place: usize, aim: &Aim) -> Self {
        Self { of: Of::Known(place), form: Form::new(vec![Field::text("name", "name", aim.name.as_str())]) }
    }

    /// Handles a key.
    pub(crate) fn key(&mut self, key: KeyEvent, show: &Show) -> Reply {
        let reply = self.form.key(key);
        let edit = (reply == form::Reply::Keep).then(|| self.edit(show));
        answer(&mut self.form, reply, edit)
    }

    fn edit(&self, show: &Show) -> Result<Edit, String> {
        let name = self.form.text("name");
        match &self.of {
            Of::New(..) if show.aim(&name).is_some() => {
                Err(format!("there is an aim \"{name}\" already; Esc, then o records into it"))
            }
            Of::New(heads, fixtures) => aims::recorded(show, heads, fixtures, &name),
            Of::Known(place) => {
                let aim = show.aims.get(*place).ok_or("the aim is gone")?;
                Ok(Edit::PutAim(*place, Aim { name, ..aim.clone() }))
            }
        }
    }

    /// Draws it over the view.
    pub(crate) fn draw(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let title = match self.of {
            Of::New(..) => "a new aim",
            Of::Known(_) => "the aim",
        };
        let inside = float(title, WIDTH, self.form.fields.len() as u16 + 5, theme, area, buffer);
        self.form.draw(theme, inside, buffer);
    }
}
