//! The settings of the show as a form, made of their declarations ([`splimo_show::setting`]).

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::KeyEvent;
use ratatui::layout::Rect;
use splimo_document::DocumentCommand;
use splimo_show::command::SettingChange;
use splimo_show::setting::{self, SETTINGS, SettingKind, SettingValue};
use splimo_show::{Look, Settings};

use super::reply::OverlayReply;
use crate::kit::float::float;
use crate::kit::form::{Field, Form, Reply};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::view::Ask;
use crate::views::AnyAsk;

/// The form. What is changed in it counts at once, and can be undone.
pub(crate) struct SettingsForm {
    form: Form,
}

impl SettingsForm {
    /// The form of some settings.
    pub(crate) fn of(settings: &Settings, looks: &[Look]) -> Self {
        let fields = SETTINGS.iter().map(|spec| {
            let mut field = match (spec.kind, spec.value(settings)) {
                (SettingKind::Number { from, to, step }, SettingValue::Number(value)) => {
                    Field::number(spec.name, spec.name, value.into(), from.into(), to.into(), step.into())
                }
                (SettingKind::Whole { from, to, step }, SettingValue::Number(value)) => {
                    Field::number(spec.name, spec.name, value.into(), from.into(), to.into(), step.into())
                }
                (SettingKind::Length { least, to }, SettingValue::Number(value)) => {
                    Field::number(spec.name, spec.name, value.into(), 0.0, to.into(), least.into())
                }
                (SettingKind::Words { words, .. }, value) => {
                    Field::choice(spec.name, spec.name, words.iter().copied(), &value.to_string())
                }
                (SettingKind::Look, value) => {
                    let names = looks.iter().map(|look| look.name.clone());
                    let words = std::iter::once(setting::NO_LOOK.to_owned()).chain(names);
                    Field::choice(spec.name, spec.name, words, &value.to_string())
                }
                (SettingKind::Addresses, value) => Field::text(spec.name, spec.name, value.to_string()),
                (_, value) => Field::flag(spec.name, spec.name, value == SettingValue::Flag(true)),
            };
            field.hint = spec.unit.to_owned();
            field
        });
        Self { form: Form::new(fields.collect()) }
    }

    pub(super) fn key(&mut self, key: KeyEvent) -> OverlayReply {
        match self.form.key(key) {
            Reply::Pass | Reply::Quiet => OverlayReply::Stay,
            Reply::Keep | Reply::Restore => OverlayReply::Close,
            Reply::Changed => OverlayReply::Ask(self.changed().into_iter().collect()),
        }
    }

    /// The change of the field that is edited.
    fn changed(&mut self) -> Option<AnyAsk> {
        let spec = setting::find(self.form.current())?;
        let value = match spec.kind {
            SettingKind::Number { .. } | SettingKind::Length { .. } => {
                SettingValue::Number(self.form.number(spec.name) as f32)
            }
            SettingKind::Whole { .. } => SettingValue::Number(self.form.whole(spec.name) as f32),
            SettingKind::Words { .. } => SettingValue::Word(self.form.text(spec.name)),
            SettingKind::Look => spec.parse(&self.form.text(spec.name))?,
            SettingKind::Addresses => {
                // Half an address is said to be one, and not yet asked for.
                let value = SettingValue::Word(self.form.text(spec.name));
                if let Err(why) = spec.put(&mut Settings::default(), &value) {
                    self.form.error = Some(why);
                    return None;
                }
                value
            }
            SettingKind::Flag => SettingValue::Flag(self.form.flag(spec.name)),
        };
        self.form.error = None;
        Some(Ask::Command(DocumentCommand::Set(SettingChange { name: spec.name.to_owned(), value }).into()))
    }

    pub(super) fn paste(&mut self, text: &str) {
        self.form.paste(text);
    }

    pub(super) fn refused(&mut self, why: &str) {
        self.form.error = Some(why.to_owned());
    }

    pub(super) fn draw(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let inside = float("settings of the show", 72, SETTINGS.len() as u16 + 7, theme, area, buffer);
        let form = Rect { height: inside.height.saturating_sub(3), ..inside };
        self.form.draw(theme, form, buffer);
        let help = setting::find(self.form.current()).map_or("", |spec| spec.help);
        let row = |up: u16| Rect { y: inside.bottom().saturating_sub(up), height: 1, ..inside };
        Pen::new(row(2), buffer).put(help, theme.text());
        let mut pen = Pen::new(row(1), buffer);
        for (key, does) in [("↑ ↓", "setting"), ("← →", "nudge"), ("type", "replaces"), ("Esc", "closes")] {
            pen.put(&format!("{key} "), theme.bright());
            pen.put(&format!("{does}   "), theme.dim());
        }
    }
}
