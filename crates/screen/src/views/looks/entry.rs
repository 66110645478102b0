//! One text that is typed: the words of a parameter, a rate, or what a look is called.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::KeyEvent;
use ratatui::layout::Rect;
use splimo_engine::Snapshot;
use splimo_light::effect::ParamKind;
use splimo_show::{Layer, Look, Param, Tint};
use splimo_time::music::Section;

use super::panel::{FORM_HINTS, LookPanel, PanelContext, PanelReply, PanelRequest};
use super::rows::Row;
use crate::kit::form::{Field, Form, Reply};
use crate::kit::theme::Theme;

/// The kind of text that is typed.
enum What {
    /// A line of the chosen layer.
    Line(Row),
    /// Name, tags and colour of the look.
    Look,
}

/// The form of it.
pub(super) struct Entry {
    what: What,
    form: Form,
    title: String,
}

impl Entry {
    /// The text of a line.
    pub(super) fn line(row: Row, context: &PanelContext<'_>) -> Option<Box<Self>> {
        let layer = context.chosen()?;
        let field = Field::text("value", row.label(layer), row.value(layer));
        let title = row.help(layer).to_owned();
        Some(Box::new(Self { what: What::Line(row), form: Form::new(vec![field]), title }))
    }

    /// The entry of a look's name.
    pub(super) fn look(look: &Look) -> Box<Self> {
        let colour = look.colour.map_or_else(String::new, |tint| tint.to_string());
        let mut form = Form::new(vec![
            Field::text("name", "name", look.name.as_str()),
            Field::text("tags", "tags", look.tags.join(", ")),
            Field::text("colour", "colour", colour),
            Field::text("fits", "fits", look.fits.iter().map(|part| part.name()).collect::<Vec<_>>().join(", ")),
        ]);
        let parts = Section::ALL.map(Section::name).join(", ");
        form.hint("fits", format!("in the rotation: {parts}; empty is any"));
        form.hint("tags", "with commas; f finds looks by them".into());
        form.hint("colour", "of its name in lists: #40a0ff, orange; empty is none".into());
        Box::new(Self { what: What::Look, form, title: "the look".to_owned() })
    }

    fn changed(&self, context: &PanelContext<'_>) -> Result<Look, String> {
        match self.what {
            What::Line(row) => {
                let mut look = context.look.clone();
                if let Some(layer) = look.layers.get_mut(context.layer) {
                    row.take(layer, &self.form.text("value"))?;
                    known(row, layer, context)?;
                }
                Ok(look)
            }
            What::Look => {
                let tags = self.form.text("tags");
                let colour = match self.form.text("colour").as_str() {
                    "" => None,
                    text => Some(text.parse::<Tint>().map_err(|e| e.to_string())?),
                };
                let name = self.form.text("name");
                let taken = context.show.looks.iter().any(|look| look.name == name) && name != context.look.name;
                if taken || name.is_empty() {
                    let why = if taken { "another look is called that" } else { "a look needs a name" };
                    return Err(format!("{why}; type one that is free"));
                }
                let fits = parts(&self.form.text("fits"))?;
                let tags = tags.split(',').map(str::trim).filter(|t| !t.is_empty()).map(str::to_owned).collect();
                Ok(Look { name, tags, colour, fits, ..context.look.clone() })
            }
        }
    }
}

/// The parts of the music that a text names.
fn parts(text: &str) -> Result<Vec<Section>, String> {
    let part = |name: &str| {
        let known = Section::ALL.into_iter().find(|part| part.name() == name);
        known.ok_or_else(|| {
            format!("fits: there is no part \"{name}\"; there are {}", Section::ALL.map(Section::name).join(", "))
        })
    };
    text.split(',').map(str::trim).filter(|name| !name.is_empty()).map(part).collect()
}

/// Checks that the looks or the aim that a line names are there.
fn known(row: Row, layer: &Layer, context: &PanelContext<'_>) -> Result<(), String> {
    let Some(spec) = row.param(layer) else { return Ok(()) };
    match (spec.kind, layer.params.get(spec.name)) {
        (ParamKind::Looks, Some(Param::List(names))) => {
            match names.iter().find(|name| context.show.look(name).is_none()) {
                Some(name) => Err(format!("there is no look \"{name}\"; type names with commas between")),
                None => Ok(()),
            }
        }
        (ParamKind::Aim, Some(Param::Text(name))) if !name.is_empty() && context.show.aim(name).is_none() => {
            let known: Vec<&str> = context.show.aims.iter().map(|aim| aim.name.as_str()).collect();
            Err(match known.is_empty() {
                true => format!("there is no aim \"{name}\"; F5 and Tab lead to the aims, where e records one"),
                false => format!("there is no aim \"{name}\"; there is {}", known.join(", ")),
            })
        }
        (
            ParamKind::Looks
            | ParamKind::Aim
            | ParamKind::Number { .. }
            | ParamKind::Rate { .. }
            | ParamKind::Colours { .. }
            | ParamKind::Choice { .. }
            | ParamKind::Text { .. }
            | ParamKind::Times
            | ParamKind::File { .. },
            _,
        ) => Ok(()),
    }
}

impl LookPanel for Entry {
    fn title(&self) -> String {
        self.title.clone()
    }

    fn hints(&self) -> Vec<(&'static str, &'static str)> {
        FORM_HINTS.to_vec()
    }

    fn key(&mut self, key: KeyEvent, context: &PanelContext<'_>) -> Option<PanelReply> {
        match self.form.key(key) {
            Reply::Pass => None,
            Reply::Quiet => PanelReply::stay(),
            Reply::Restore => PanelReply::close(PanelRequest::Drop),
            Reply::Keep => match self.changed(context) {
                Ok(look) => PanelReply::close(PanelRequest::Keep(look)),
                Err(why) => {
                    self.form.error = Some(why);
                    PanelReply::stay()
                }
            },
            Reply::Changed => match (&self.what, self.changed(context)) {
                // Words are seen as they are typed; half a name is nobody's.
                (What::Line(_), Ok(look)) => {
                    self.form.error = None;
                    PanelReply::with(PanelRequest::Try(look))
                }
                _ => PanelReply::stay(),
            },
        }
    }

    fn paste(&mut self, text: &str, _: &PanelContext<'_>) -> PanelRequest {
        self.form.paste(text);
        PanelRequest::Nothing
    }

    fn refused(&mut self, why: &str) {
        self.form.error = Some(why.to_owned());
    }

    fn draw(&mut self, _: &PanelContext<'_>, _: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer) {
        self.form.draw(theme, area, buffer);
    }
}
