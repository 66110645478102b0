//! The questions before a new show: a handful for each starting point.

use std::path::{Path, PathBuf};

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::KeyEvent;
use ratatui::layout::{Position, Rect};
use splimo_document::making::{Beginning, FirstLights};
use splimo_show::{Address, Profile, Show};

use crate::kit::form::{Field, Form, Reply};
use crate::kit::theme::Theme;

/// A starting point.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Point {
    Tubes,
    Panel,
    Lights,
    Empty,
}

impl Point {
    pub(super) const ALL: &'static [Self] = &[Self::Tubes, Self::Panel, Self::Lights, Self::Empty];

    /// Its name, and what it is for.
    pub(super) fn words(self) -> (&'static str, &'static str) {
        match self {
            Self::Tubes => ("tubes", "upright tubes, battens or strips side by side"),
            Self::Panel => ("panel", "one panel of pixels, wired row by row"),
            Self::Lights => ("DMX lights", "single lights with some channels each"),
            Self::Empty => ("an empty show", "nothing hangs yet; lights are added on the view Rig"),
        }
    }
}

/// The result of a key.
pub(super) enum Made {
    /// Nothing yet.
    Not,
    /// The person goes back.
    Back,
    /// A show, and its file, which is not there yet.
    Show(PathBuf, Box<Show>),
}

/// The questions as they are answered.
pub(super) struct NewShow {
    point: Point,
    form: Form,
}

impl NewShow {
    pub(super) fn of(point: Point, folder: &Path) -> Self {
        let count = |id, label, value: f64, most: f64| Field::number(id, label, value, 1.0, most, 1.0);
        let profiles = Profile::built_in_names();
        let mut fields = vec![Field::text("name", "name", free_name(folder))];
        match point {
            Point::Tubes => fields.extend([
                count("count", "how many", 8.0, 512.0),
                count("pixels", "pixels of each", 60.0, 1024.0),
                Field::flag("turns", "up and down", false),
            ]),
            Point::Panel => fields.extend([
                count("columns", "columns", 16.0, 512.0),
                count("rows", "rows", 16.0, 512.0),
                Field::flag("turns", "turns round", true),
            ]),
            Point::Lights => fields.push(count("count", "how many", 8.0, 512.0)),
            Point::Empty => {}
        }
        if point != Point::Empty {
            let usual = if point == Point::Lights { "rgbw" } else { "rgb" };
            fields.extend([
                Field::choice("profile", "channels", profiles, usual),
                Field::text("first", "first address", "1.1"),
                Field::choice("transport", "sent as", ["art-net", "sacn"], "art-net"),
                Field::text("to", "to", "nodes"),
            ]);
        }
        let mut form = Form::new(fields);
        form.go_to(if point == Point::Empty {
            "name"
        } else if point == Point::Panel {
            "columns"
        } else {
            "count"
        });
        let mut new = Self { point, form };
        new.follow(folder);
        new
    }

    /// Has hints and the usual destination follow what was answered.
    fn follow(&mut self, folder: &Path) {
        let sacn = self.form.text("transport") == "sacn";
        if self.point != Point::Empty && !self.form.touched("to") {
            self.form.set_text("to", if sacn { "multicast" } else { "nodes" }.to_owned());
        }
        self.form.hint("name", format!("{}", file_of(folder, &self.form.text("name")).display()));
        self.form.hint("profile", "in the order of the wire; more on the view Rig".to_owned());
        self.form.hint("first", "universe.channel".to_owned());
        let turns = match self.point {
            Point::Tubes => "every second one is wired from its other end",
            Point::Panel => "every second row goes back",
            Point::Lights | Point::Empty => "",
        };
        self.form.hint("turns", turns.to_owned());
        let to =
            if sacn { "multicast, or an address" } else { "nodes: whoever asks for it; or an address, or broadcast" };
        self.form.hint("to", to.to_owned());
    }

    pub(super) fn key(&mut self, key: KeyEvent, folder: &Path) -> Made {
        match self.form.key(key) {
            Reply::Restore => return Made::Back,
            Reply::Keep => match self.made(folder) {
                Ok(made) => return made,
                Err(why) => self.form.error = Some(why),
            },
            Reply::Changed | Reply::Quiet | Reply::Pass => self.follow(folder),
        }
        Made::Not
    }

    pub(super) fn paste(&mut self, text: &str, folder: &Path) {
        self.form.paste(text);
        self.follow(folder);
    }

    pub(super) fn click(&mut self, at: Position) {
        self.form.click(at);
    }

    fn made(&self, folder: &Path) -> Result<Made, String> {
        let name = self.form.text("name");
        if name.is_empty() {
            return Err("name: a show needs one, which is that of its file too".to_owned());
        }
        let path = file_of(folder, &name);
        if path.exists() {
            return Err(format!("name: {} is there already; take another name", path.display()));
        }
        if !folder.is_dir() {
            return Err(format!("there is no folder {}; make it, or set shows in the configuration", folder.display()));
        }
        let show = self.show(name)?;
        Ok(Made::Show(path, Box::new(show)))
    }

    fn show(&self, name: String) -> Result<Show, String> {
        let form = &self.form;
        let lights = match self.point {
            Point::Empty => return Ok(Show::empty(&name)),
            Point::Tubes => FirstLights::Tubes {
                count: form.whole("count"),
                pixels: form.whole("pixels"),
                turns: form.flag("turns"),
            },
            Point::Panel => FirstLights::Panel {
                columns: form.whole("columns"),
                rows: form.whole("rows"),
                turns: form.flag("turns"),
            },
            Point::Lights => FirstLights::Single { count: form.whole("count") },
        };
        let first: Address = form.text("first").parse().map_err(|_| {
            format!("first address: \"{}\" is none; write universe.channel, such as 1.1", form.text("first"))
        })?;
        let beginning = Beginning {
            name,
            lights,
            profile: form.text("profile"),
            first,
            transport: form.text("transport"),
            to: form.text("to"),
        };
        beginning.show()
    }

    pub(super) fn title(&self) -> String {
        format!("a new show: {}", self.point.words().0)
    }

    pub(super) fn draw(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        self.form.draw(theme, area, buffer);
    }
}

/// The file of a name: what a shell does not like in names becomes a hyphen.
fn file_of(folder: &Path, name: &str) -> PathBuf {
    let plain = |letter: char| if letter.is_alphanumeric() { letter } else { '-' };
    let name: String = name.trim().to_lowercase().chars().map(plain).collect();
    let parts: Vec<&str> = name.split('-').filter(|part| !part.is_empty()).collect();
    folder.join(format!("{}.splimo", parts.join("-")))
}

/// A name of which there is no file yet.
fn free_name(folder: &Path) -> String {
    let names = (1..).map(|number| if number == 1 { "New show".to_owned() } else { format!("New show {number}") });
    let mut names = names.take(1000);
    names.find(|name| !file_of(folder, name).exists()).unwrap_or_else(|| "New show".to_owned())
}
