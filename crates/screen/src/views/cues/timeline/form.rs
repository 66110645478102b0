//! The forms of clips, of timelines, and of the recording that one is for.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::KeyEvent;
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_show::CommandTemplate;
use splimo_show::command::SessionCommand;
use splimo_show::{Clip, CueTier, Follows, LONGEST_TIMELINE, Show, TimeUnit, Timeline};

use crate::kit::float::float;
use crate::kit::form::{self, Field, Form};
use crate::kit::theme::Theme;
use crate::views::cues::forms::Reply;

/// The width of a form, in columns.
const WIDTH: u16 = 84;
/// The choice of no cue list.
const NO_LIST: &str = "none";

/// The thing that a form is of.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Of {
    NewClip,
    Clip(usize),
    NewLine,
    Line,
    Recording,
}

/// A form of a timeline.
pub(crate) struct TimelineForm {
    of: Of,
    /// The place of the timeline.
    line: usize,
    pub(crate) form: Form,
}

fn clip_fields(clip: &Clip, show: &Show) -> Vec<Field> {
    let tiers = show.stack().iter().map(|tier| tier.name.clone());
    let tier = if clip.tier.is_empty() { show.stack()[0].name.as_str() } else { &clip.tier };
    let lists = std::iter::once(NO_LIST.to_owned()).chain(show.cue_lists.iter().map(|list| list.name.clone()));
    let most = f64::from(LONGEST_TIMELINE);
    let mut fields = vec![
        Field::number("at", "at", f64::from(clip.at), 0.0, most, 0.25),
        Field::number("length", "length", f64::from(clip.length), 0.0, most, 0.25),
        Field::choice("tier", "on tier", tiers, tier),
        Field::text("look", "look", clip.look.clone().unwrap_or_default()),
        Field::number("in", "fade in", f64::from(clip.fade_in), 0.0, most, 0.25),
        Field::number("out", "fade out", f64::from(clip.fade_out), 0.0, most, 0.25),
        Field::choice("list", "cue list", lists, clip.list.as_deref().unwrap_or(NO_LIST)),
        Field::text("do", "commands", clip.does.join("; ")),
    ];
    fields[3].hint = "a look, or the beginning of its name".to_owned();
    fields[6].hint = "in place of a look: it begins here, and is released at the end".to_owned();
    fields[7].hint = "when it begins; with ; between them".to_owned();
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

impl TimelineForm {
    /// The form of a new clip.
    pub(super) fn new_clip(line: usize, clip: &Clip, show: &Show) -> Self {
        Self::of_clip(Of::NewClip, line, clip, show)
    }

    /// The form of a clip.
    pub(super) fn clip(line: usize, place: usize, clip: &Clip, show: &Show) -> Self {
        Self::of_clip(Of::Clip(place), line, clip, show)
    }

    fn of_clip(of: Of, line: usize, clip: &Clip, show: &Show) -> Self {
        let mut form = Form::new(clip_fields(clip, show));
        form.go_to("look");
        Self { of, line, form }
    }

    /// The form of a new timeline.
    pub(super) fn new_line(show: &Show) -> Self {
        let line = Timeline {
            name: format!("Timeline {}", show.timelines.len() + 1),
            unit: TimeUnit::Bars,
            length: 32.0,
            ..Timeline::default()
        };
        Self { of: Of::NewLine, line: show.timelines.len(), form: Form::new(line_fields(&line)) }
    }

    /// The form of a timeline.
    pub(super) fn line(place: usize, line: &Timeline) -> Self {
        Self { of: Of::Line, line: place, form: Form::new(line_fields(line)) }
    }

    /// The form that asks which recording a timeline is for.
    pub(super) fn recording(place: usize, line: &Timeline) -> Self {
        let known = line.marks.as_ref().map(|marks| marks.recording.clone()).unwrap_or_default();
        let mut field = Field::text("file", "recording", known);
        field.hint = "WAV, AIFF, FLAC, MP3, OGG or M4A; empty: the one that plays".to_owned();
        Self { of: Of::Recording, line: place, form: Form::new(vec![field]) }
    }

    /// Handles a key.
    pub(crate) fn key(&mut self, key: KeyEvent, show: &Show) -> Reply {
        match self.form.key(key) {
            form::Reply::Restore => Reply::Close,
            form::Reply::Pass => Reply::Pass,
            form::Reply::Changed | form::Reply::Quiet => Reply::Stay,
            form::Reply::Keep => self.kept(show).unwrap_or_else(|why| {
                self.form.error = Some(why);
                Reply::Stay
            }),
        }
    }

    fn kept(&self, show: &Show) -> Result<Reply, String> {
        let edit = match self.of {
            Of::Recording => {
                let line = show.timelines.get(self.line).ok_or("the timeline is gone")?;
                let what = format!("{} {}", line.name, self.form.text("file"));
                return Ok(Reply::Ask(Box::new(SessionCommand::HearRecording(what.trim().to_owned()).into())));
            }
            Of::NewLine => Edit::AddTimeline(self.timeline(Timeline::default())),
            Of::Line => {
                let line = show.timelines.get(self.line).ok_or("the timeline is gone")?;
                Edit::PutTimeline(self.line, self.timeline(line.clone()))
            }
            Of::NewClip | Of::Clip(_) => self.with_clip(show)?,
        };
        Ok(Reply::Keep(Box::new(edit)))
    }

    fn timeline(&self, known: Timeline) -> Timeline {
        let word = |id: &str| self.form.text(id);
        Timeline {
            name: word("name"),
            unit: TimeUnit::ALL.into_iter().find(|unit| unit.name() == word("unit")).unwrap_or_default(),
            length: self.form.number("length") as f32,
            loops: self.form.flag("loops"),
            follows: Follows::ALL.into_iter().find(|one| one.name() == word("follows")).unwrap_or_default(),
            priority: self.form.whole("priority") as u8,
            ..known
        }
    }

    fn with_clip(&self, show: &Show) -> Result<Edit, String> {
        let mut line = show.timelines.get(self.line).ok_or("there is no timeline yet; T adds one")?.clone();
        let said = CueTier::of_words("look", &self.form.text("look"), &show.looks)?;
        let look = said.and_then(|said| said.look);
        let list = Some(self.form.text("list")).filter(|list| list != NO_LIST);
        let tier = if look.is_some() { self.form.text("tier") } else { String::new() };
        let number = |id: &str| self.form.number(id) as f32;
        let clip = Clip {
            at: number("at"),
            length: number("length"),
            tier,
            look,
            list,
            does: CommandTemplate::list(&self.form.text("do")),
            fade_in: number("in"),
            fade_out: number("out"),
        };
        match self.of {
            Of::Clip(place) => *line.clips.get_mut(place).ok_or("the clip is gone")? = clip,
            Of::NewClip | Of::NewLine | Of::Line | Of::Recording => line.clips.push(clip),
        }
        Ok(Edit::PutTimeline(self.line, line))
    }

    /// Draws it over the view.
    pub(crate) fn draw(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let title = match self.of {
            Of::NewClip => "a new clip",
            Of::Clip(_) => "the clip",
            Of::NewLine => "a new timeline",
            Of::Line => "the timeline",
            Of::Recording => "a recording to hear: its beats, bars and parts come onto the ruler",
        };
        let inside = float(title, WIDTH, self.form.fields.len() as u16 + 5, theme, area, buffer);
        self.form.draw(theme, inside, buffer);
    }
}
