//! Profiles of one's own: their channels in order, their curve, what becomes of white.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_show::{Channel, Curve, Extraction, Function, Profile, Show, Swivel};

use super::fields::profile_names;
use super::groups::Asked;
use crate::kit::form::{Field, Form, Reply};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;

/// The list of profiles, and the editor of one.
#[derive(Debug, Clone, Default)]
pub(super) struct Profiles {
    at: usize,
    editor: Option<Editor>,
}

#[derive(Debug, Clone)]
struct Editor {
    /// Its index; none for a new one.
    index: Option<usize>,
    profile: Profile,
    form: Form,
}

impl Editor {
    fn new(show: &Show, index: Option<usize>, profile: Profile) -> Self {
        let channel = profile.channels.first().copied().unwrap_or(Channel::new(Function::Red));
        let mut fields = vec![Field::text("name", "name", profile.name.clone())];
        if index.is_none() {
            fields.push(Field::choice("like", "begin like", profile_names(show), &profile.name));
        }
        fields.extend([
            Field::text("curve", "curve", profile.curve.to_string()),
            Field::choice("white", "white", Extraction::ALL.map(Extraction::name), profile.white.name()),
            Field::number("highlight", "highlight", f64::from(profile.highlight) * 100.0, 0.0, 100.0, 5.0),
            Field::number("count", "channels", profile.channels.len() as f64, 1.0, 512.0, 1.0),
            Field::number("channel", "edit channel", 1.0, 1.0, 512.0, 1.0),
            Field::choice("does", "does", Function::ALL.map(Function::name), channel.does.name()),
            Field::choice("width", "width", ["8 bit", "16 bit"], "8 bit"),
            Field::text("default", "rests at", ""),
            Field::number("cell", "cell", 1.0, 0.0, 512.0, 1.0),
            Field::text("swivel", "a head turns", profile.swivel.map_or_else(String::new, |s| s.to_string())),
            Field::text("power", "takes", profile.power.map_or_else(|| "unknown".to_owned(), |p| p.to_string())),
        ]);
        let mut editor = Self { index, profile, form: Form::new(fields) };
        editor.load_channel();
        editor.hints();
        editor
    }

    fn hints(&mut self) {
        self.form.hint("curve", "linear, square, gamma 2.2, or points 0.25 0.04; 0.5 0.2".into());
        self.form.hint("highlight", "percent".into());
        self.form.hint("power", "an emitter at full and a dark cell: 5 V 20 mA 1 mA, or unknown".into());
        let usual = Swivel::default();
        self.form.hint("swivel", format!("degrees of pan, tilt, and a second of each; empty: {usual}"));
        self.form.hint("cell", "0 is the fixture as a whole".into());
        let rest = self.channel().map_or(0, |c| c.rest());
        let hint = if self.form.text("default").is_empty() { format!("{rest}, as is usual") } else { String::new() };
        self.form.hint("default", hint);
    }

    fn place(&self) -> usize {
        (self.form.whole("channel") as usize).clamp(1, self.profile.channels.len().max(1)) - 1
    }

    fn channel(&self) -> Option<Channel> {
        self.profile.channels.get(self.place()).copied()
    }

    /// Shows the channel that is chosen in the fields.
    fn load_channel(&mut self) {
        let Some(channel) = self.channel() else { return };
        let place = self.place();
        for fresh in [
            Field::number("channel", "edit channel", place as f64 + 1.0, 1.0, 512.0, 1.0),
            Field::choice("does", "does", Function::ALL.map(Function::name), channel.does.name()),
            Field::choice("width", "width", ["8 bit", "16 bit"], if channel.wide { "16 bit" } else { "8 bit" }),
            Field::text("default", "rests at", channel.default.map(|d| d.to_string()).unwrap_or_default()),
            Field::number("cell", "cell", f64::from(channel.cell), 0.0, 512.0, 1.0),
        ] {
            if let Some(field) = self.form.field_mut(fresh.id) {
                field.value = fresh.value;
            }
        }
    }

    /// Takes what a key changed over into the profile.
    fn changed(&mut self, show: &Show) {
        let form = &self.form;
        match form.current() {
            "like" => {
                if let Some(like) = show.profile(&form.text("like")) {
                    let name = if form.touched("name") { form.text("name") } else { String::new() };
                    *self = Self::new(show, None, Profile { name: name.clone(), ..like.clone() });
                    self.form.go_to("like");
                    if let Some(field) = self.form.field_mut("name") {
                        (field.value, field.touched) = (crate::kit::form::Value::Text(name.clone()), !name.is_empty());
                    }
                    if let Some(field) = self.form.field_mut("like") {
                        *field = Field::choice("like", "begin like", profile_names(show), &like.name);
                    }
                }
            }
            "count" => {
                let last = self.profile.channels.last().copied().unwrap_or(Channel::new(Function::Red));
                self.profile.channels.resize(form.whole("count").max(1) as usize, last);
                self.load_channel();
            }
            "channel" => self.load_channel(),
            "does" | "width" | "default" | "cell" => {
                let does = form.text("does");
                let does = Function::ALL.into_iter().find(|f| f.name() == does).unwrap_or(Function::Fixed);
                let channel = Channel {
                    does,
                    wide: form.text("width") == "16 bit",
                    default: form.text("default").parse().ok(),
                    cell: form.whole("cell") as u16,
                };
                let place = self.place();
                self.profile.channels[place] = channel;
            }
            _ => {}
        }
        self.hints();
    }

    fn finished(&self) -> Result<Profile, String> {
        let form = &self.form;
        let white = form.text("white");
        let default = form.text("default");
        if !default.is_empty() && default.parse::<u16>().is_err() {
            return Err(format!("\"{default}\" is no value; write 0 to 255, or to 65535 for 16 bit, or nothing"));
        }
        let power = form.text("power");
        let swivel = form.text("swivel");
        let profile = Profile {
            power: if power.is_empty() || power == "unknown" { None } else { Some(power.parse()?) },
            swivel: if swivel.trim().is_empty() { None } else { Some(swivel.parse()?) },
            name: form.text("name"),
            curve: form.text("curve").parse::<Curve>()?,
            white: Extraction::ALL.into_iter().find(|e| e.name() == white).unwrap_or_default(),
            highlight: form.number("highlight") as f32 / 100.0,
            ..self.profile.clone()
        };
        match profile.fault() {
            Some((message, mend)) => Err(format!("{message}; {mend}")),
            None => Ok(profile),
        }
    }
}

impl Profiles {
    pub(super) fn paste(&mut self, text: &str) {
        if let Some(editor) = &mut self.editor {
            editor.form.paste(text);
        }
    }

    pub(super) fn types(&self) -> bool {
        self.editor.is_some()
    }

    pub(super) fn key(&mut self, key: KeyEvent, show: &Show) -> Option<Asked> {
        if let Some(editor) = &mut self.editor {
            match editor.form.key(key) {
                Reply::Pass => return None,
                Reply::Restore => self.editor = None,
                Reply::Changed => editor.changed(show),
                Reply::Quiet => {}
                Reply::Keep => return Some(self.keep(show)),
            }
            return Some(Asked::Nothing);
        }
        self.at = self.at.min(show.profiles.len().saturating_sub(1));
        match key.code {
            KeyCode::Esc => return Some(Asked::Close),
            KeyCode::Up => self.at = self.at.saturating_sub(1),
            KeyCode::Down => self.at += 1,
            KeyCode::Char('n') => {
                let like =
                    show.fixtures.last().and_then(|f| show.profile(&f.profile)).or_else(|| Profile::built_in("rgb"));
                let mut editor = Editor::new(show, None, like?);
                if let Some(field) = editor.form.field_mut("name") {
                    field.value = crate::kit::form::Value::Text(String::new());
                }
                self.editor = Some(editor);
            }
            KeyCode::Char('e') | KeyCode::Enter if !show.profiles.is_empty() => {
                self.editor = Some(Editor::new(show, Some(self.at), show.profiles[self.at].clone()));
            }
            KeyCode::Delete if !show.profiles.is_empty() => return Some(Asked::Edit(Edit::RemoveProfile(self.at))),
            _ => return None,
        }
        Some(Asked::Nothing)
    }

    fn keep(&mut self, show: &Show) -> Asked {
        let Some(editor) = &mut self.editor else { return Asked::Nothing };
        let edit = editor.finished().and_then(|profile| {
            let edit = match editor.index {
                None => Edit::AddProfile(profile),
                Some(index) => Edit::PutProfile(index, profile),
            };
            edit.apply(show).map(|_| edit).map_err(|refused| refused.to_string())
        });
        match edit {
            Ok(edit) => {
                self.editor = None;
                Asked::Edit(edit)
            }
            Err(why) => {
                editor.form.error = Some(why);
                Asked::Nothing
            }
        }
    }

    pub(super) fn draw(&mut self, show: &Show, theme: Theme, area: Rect, buffer: &mut Buffer) {
        if let Some(editor) = &mut self.editor {
            let form = Rect { height: area.height.min(14), ..area };
            editor.form.draw(theme, form, buffer);
            let list = Rect { y: form.bottom(), height: area.height.saturating_sub(form.height), ..area };
            channels(&editor.profile, editor.place(), theme, list, buffer);
            return;
        }
        if show.profiles.is_empty() {
            let words = [
                "No profiles of your own yet: n makes one.",
                "Built in are rgb, grb, rgbw, rgba, dimmer and many more.",
            ];
            for (line, words) in words.iter().enumerate() {
                Pen::new(Rect { y: area.y + line as u16, height: 1, ..area }, buffer).put(words, theme.text());
            }
        }
        for (line, profile) in show.profiles.iter().enumerate().take(usize::from(area.height)) {
            let mut pen = Pen::new(Rect { y: area.y + line as u16, height: 1, ..area }, buffer);
            let chosen = line == self.at;
            pen.put(if chosen { "▸ " } else { "  " }, theme.bright());
            pen.put(&format!("{:<18}", profile.name), if chosen { theme.bright() } else { theme.text() });
            let does: Vec<&str> = profile.channels.iter().map(|c| c.does.name()).collect();
            pen.put(&format!("{:>3}  {}", does.len(), does.join(" ")), theme.dim());
        }
    }
}

/// The channels with their slots.
fn channels(profile: &Profile, at: usize, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let mut slot = 1;
    let room = usize::from(area.height);
    let first = (at + 1).saturating_sub(room);
    for (index, channel) in profile.channels.iter().enumerate() {
        let slots = if channel.wide { format!("{slot}-{}", slot + 1) } else { slot.to_string() };
        slot += channel.slots();
        if index < first || index >= first + room {
            continue;
        }
        let row = Rect { y: area.y + (index - first) as u16, height: 1, ..area };
        let mut pen = Pen::new(row, buffer);
        let style = if index == at { theme.bright() } else { theme.text() };
        pen.put(if index == at { "▸ " } else { "  " }, theme.bright());
        pen.put(&format!("{slots:>7}  {:<11}", channel.does.name()), style);
        let cell = if channel.cell == 0 { "whole fixture".to_owned() } else { format!("cell {}", channel.cell) };
        pen.put(&format!("{cell:<14} rests at {}", channel.rest()), theme.dim());
    }
}
