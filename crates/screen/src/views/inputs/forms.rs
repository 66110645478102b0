//! The forms of the view: of an input, of a binding, and of a choice by value.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::KeyEvent;
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_link::inputs::InputsStatus;
use splimo_show::CommandTemplate;
use splimo_show::{
    AddressBlock, Answer, Binding, Coding, Input, InputKind, OutRange, OutSource, OutTarget, Program, Remote, Response,
    Show, ValueOut,
};
use splimo_show::{BUILT_IN, RemoteLayout};

use super::choice;
use crate::kit::float::float;
use crate::kit::form::{self, Field, Form};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;

/// The words for what is started.
const PROGRAM: &str = "program";
const SOUND: &str = "sound";
/// The word for no layout.
const NONE: &str = "none";
/// The width of a form, in columns.
const WIDTH: u16 = 96;

/// A form that is open.
pub(super) struct OpenForm {
    title: &'static str,
    pub(super) form: Form,
    of: Of,
    /// The binding that the form would make, in words, below it.
    preview: Vec<String>,
}

/// The thing that a form is of.
enum Of {
    /// An input: its place, if it is not new.
    Input(Option<usize>),
    /// A binding: its place, if it is not new, and what it was.
    Binding(Option<usize>, Box<Binding>),
    /// A choice by value.
    Choice,
    /// A program or a sound: its place, if it is not new.
    Program(Option<usize>),
    /// A value that leaves: its place, if it is not new.
    ValueOut(Option<usize>),
}

/// The reply of a form to a key.
pub(super) enum Reply {
    /// It stays open.
    Stay,
    /// It closes.
    Close,
    /// It closes, and this is to be done.
    Keep(Box<Edit>),
    /// The key means nothing here.
    Pass,
}

/// Commands with a `;` between them.
fn joined(texts: &[CommandTemplate]) -> String {
    texts.join("; ")
}

impl OpenForm {
    fn new(title: &'static str, fields: Vec<Field>, of: Of) -> Self {
        let mut open = Self { title, form: Form::new(fields), of, preview: Vec::new() };
        open.follow();
        open
    }

    /// The form of an input, or of a new one.
    pub(super) fn input(place: Option<usize>, show: &Show) -> Self {
        let known = place.and_then(|place| show.inputs.get(place)).cloned();
        let input = known.unwrap_or_else(|| {
            let number = (1..).find(|n| show.inputs.iter().all(|input| input.name != format!("input {n}")));
            let name = format!("input {}", number.unwrap_or(1));
            Input { on: true, ..Input::new(&name, InputKind::Midi, "") }
        });
        let layouts = std::iter::once(NONE).chain(RemoteLayout::ALL.map(RemoteLayout::name));
        let layout = input.remote.map_or(NONE, |remote| remote.layout.name());
        let fields = vec![
            Field::text("name", "name", input.name.clone()),
            Field::choice("kind", "kind", InputKind::ALL.map(InputKind::name), input.kind.name()),
            Field::text("address", "address", input.address.clone()),
            Field::flag("on", "on", input.on),
            Field::number("priority", "priority", f64::from(input.priority), 0.0, 200.0, 10.0),
            Field::text("from", "only from", AddressBlock::words(&input.from)),
            Field::number("silent", "silent after", f64::from(input.silent_after), 0.0, 3600.0, 0.5),
            Field::text("then", "then", joined(&input.when_silent)),
            Field::text("controller", "controller", input.controller.clone()),
            Field::text("feedback", "lit by", input.feedback.clone()),
            Field::choice("layout", "desk's layout", layouts, layout),
            Field::number("first", "from slot", f64::from(input.remote.map_or(1, |r| r.first)), 1.0, 512.0, 1.0),
        ];
        let title = if place.is_some() { "the input" } else { "a new input" };
        Self::new(title, fields, Of::Input(place))
    }

    /// The form of a binding, or of a new one.
    pub(super) fn binding(place: Option<usize>, show: &Show, status: &InputsStatus) -> Self {
        let known = place.and_then(|place| show.bindings.get(place)).cloned();
        let binding = known.unwrap_or_else(|| {
            let source = show.inputs.first().map_or("music", |input| input.name.as_str());
            Binding::new(source, splimo_show::event::EventAddress::Bar, "")
        });
        Self::of_binding(place, &binding, show, status)
    }

    /// The form of a new binding to an event.
    pub(super) fn binding_of(source: &str, event: &str, show: &Show, status: &InputsStatus) -> Self {
        match event.parse() {
            Ok(address) => Self::of_binding(None, &Binding::new(source, address, ""), show, status),
            Err(_) => Self::binding(None, show, status),
        }
    }

    fn of_binding(place: Option<usize>, binding: &Binding, show: &Show, status: &InputsStatus) -> Self {
        let own = show.inputs.iter().map(|input| input.name.clone());
        let others = status.inputs.iter().filter(|one| one.extra).map(|one| one.input.name.clone());
        let sources = own.chain(others).chain(BUILT_IN.map(str::to_owned));
        let event =
            if place.is_some() || !binding.source.is_empty() { binding.event.to_string() } else { String::new() };
        let fields = vec![
            Field::choice("source", "input", sources, &binding.source),
            Field::text("event", "event", event),
            Field::text("when", "when", binding.when.map(|when| when.to_string()).unwrap_or_default()),
            Field::text("does", "asks for", joined(&binding.does)),
            Field::choice("answer", "answers to", Answer::ALL.map(Answer::name), binding.answer.name()),
            Field::text("let_go", "let go", joined(&binding.let_go)),
            Field::number("low", "from", f64::from(binding.range[0]), -100_000.0, 100_000.0, 1.0),
            Field::number("high", "to", f64::from(binding.range[1]), -100_000.0, 100_000.0, 1.0),
            Field::choice("curve", "curve", Response::ALL.map(Response::name), binding.curve.name()),
            Field::flag("invert", "inverted", binding.invert),
            Field::flag("soft", "soft take-over", binding.soft),
            Field::choice("coding", "encoder's code", Coding::ALL.map(Coding::name), binding.coding.name()),
            Field::text("layer", "in layer", binding.layer.clone()),
            Field::text("shifts", "holds layer", binding.shifts.clone()),
        ];
        let title = if place.is_some() { "the binding" } else { "a new binding" };
        Self::new(title, fields, Of::Binding(place, Box::new(binding.clone())))
    }

    /// The form of a choice by value.
    pub(super) fn choice(show: &Show, _status: &InputsStatus) -> Self {
        let desk = show.inputs.iter().find(|input| matches!(input.kind, InputKind::ArtNet | InputKind::Sacn));
        let source = desk.or(show.inputs.first()).map_or("", |input| input.name.as_str());
        let mut open =
            Self::new("looks by the value of one channel", choice::fields(source, "slot 1", show), Of::Choice);
        open.look_ahead(show);
        open
    }

    /// The same for an event that came in.
    pub(super) fn choice_of(source: &str, event: &str, show: &Show, _status: &InputsStatus) -> Self {
        let mut open = Self::new("looks by the value of one channel", choice::fields(source, event, show), Of::Choice);
        open.look_ahead(show);
        open
    }

    /// The form of a program or a sound, or of a new one.
    pub(super) fn program(place: Option<usize>, show: &Show) -> Self {
        let known = place.and_then(|place| show.programs.get(place)).cloned();
        let program = known.unwrap_or_else(|| {
            let number = (1..).find(|n| show.programs.iter().all(|one| one.name != format!("program {n}")));
            let name = format!("program {}", number.unwrap_or(1));
            Program { name, command: Vec::new(), sound: String::new() }
        });
        let kind = if program.sound.is_empty() { PROGRAM } else { SOUND };
        let (first, rest) = program.command.split_first().map_or(("", &[][..]), |(first, rest)| (first.as_str(), rest));
        let fields = vec![
            Field::text("name", "name", program.name.clone()),
            Field::choice("kind", "kind", [PROGRAM, SOUND], kind),
            Field::text("command", "program", first),
            Field::text("arguments", "arguments", quoted(rest)),
            Field::text("sound", "file", program.sound.clone()),
        ];
        let title = if place.is_some() { "the program" } else { "a new program" };
        Self::new(title, fields, Of::Program(place))
    }

    /// The form of a value that leaves, or of a new one.
    pub(super) fn value_out(place: Option<usize>, show: &Show) -> Self {
        let known = place.and_then(|place| show.values_out.get(place)).cloned();
        let (what, to, order, range) = match known {
            Some(out) => (out.what.to_string(), out.to.to_string(), out.order, out.range),
            None => ("master".to_owned(), "dmx 1.1".to_owned(), "rgb".to_owned(), OutRange::Byte),
        };
        let fields = vec![
            Field::text("what", "what", what),
            Field::text("to", "to", to),
            Field::text("order", "order", order),
            Field::choice("range", "range", OutRange::ALL.map(OutRange::name), range.name()),
        ];
        let title = if place.is_some() { "the value out" } else { "a new value out" };
        Self::new(title, fields, Of::ValueOut(place))
    }

    /// Shows the fields that apply, and says what stands behind them.
    pub(super) fn follow(&mut self) {
        let form = &mut self.form;
        match &self.of {
            Of::Input(_) => {
                let kind = kind(form);
                let dmx = matches!(kind, InputKind::ArtNet | InputKind::Sacn);
                form.hint("address", kind.address_form().to_owned());
                form.show("from", kind.is_network());
                form.show("layout", dmx);
                let layout = form.text("layout");
                form.show("first", dmx && layout != NONE);
                form.hint("priority", "what a higher one moved a lower one leaves alone".to_owned());
                form.hint("from", "addresses or networks that may send; empty is any".to_owned());
                form.hint("silent", "seconds; 0 is as the kind has it".to_owned());
                form.show("controller", kind == InputKind::Midi);
                form.show("feedback", kind == InputKind::Midi);
                form.hint("controller", "its model, such as quay-16; empty is none".to_owned());
                form.hint("feedback", "the port, device or pipe that lights it".to_owned());
                form.hint("then", "commands with ;, or empty for the show's fallback (F9)".to_owned());
            }
            Of::Binding(..) => {
                let answer = form.text("answer");
                let follows = answer == Answer::Value.name() || answer == Answer::Relative.name();
                let lets_go = answer == Answer::Held.name() || answer == Answer::Toggle.name();
                form.show("let_go", lets_go);
                for id in ["low", "high"] {
                    form.show(id, follows);
                }
                form.show("curve", answer == Answer::Value.name());
                form.show("soft", answer == Answer::Value.name());
                form.show("invert", follows);
                form.show("coding", answer == Answer::Relative.name());
                form.hint(
                    "event",
                    "note 36, control 7, slot 5, /path, key F5, bar, part drop, at 21:30, silent".to_owned(),
                );
                form.hint("when", "nothing, or equal 5, above 64, below 9, between 10 20, rising 64".to_owned());
                form.hint("does", "as splimo do takes it, with ; between; {} is the value".to_owned());
                form.hint("layer", "only while that layer is held".to_owned());
                form.hint("shifts", "this event is a shift key for it".to_owned());
            }
            Of::Choice => choice::follow(form),
            Of::Program(_) => {
                let sound = form.text("kind") == SOUND;
                form.show("command", !sound);
                form.show("arguments", !sound);
                form.show("sound", sound);
                form.hint("name", "run NAME starts it: from a binding, a pad, a line".to_owned());
                form.hint("command", "found as the shell finds it; no shell looks at it".to_owned());
                form.hint("arguments", "with spaces between; \"one of two words\"".to_owned());
                form.hint("sound", "its path from where the show's file is".to_owned());
            }
            Of::ValueOut(_) => {
                let colour = form.text("what").parse::<OutSource>().is_ok_and(|what| what.is_colour());
                form.show("order", colour);
                form.hint("what", OutSource::TAKES.to_owned());
                form.hint("to", OutTarget::TAKES.to_owned());
                form.hint("order", "of r, g, b, w (the white in it), i (the brightest)".to_owned());
            }
        }
    }

    fn look_ahead(&mut self, show: &Show) {
        if matches!(self.of, Of::Choice) {
            self.preview = match choice::binding(&self.form, show) {
                Ok(binding) => choice::words(&binding),
                Err(why) => vec![why],
            };
        }
    }

    pub(super) fn key(&mut self, key: KeyEvent, show: &Show) -> Reply {
        match self.form.key(key) {
            form::Reply::Changed => {
                self.follow();
                self.look_ahead(show);
                Reply::Stay
            }
            form::Reply::Quiet => Reply::Stay,
            form::Reply::Restore => Reply::Close,
            form::Reply::Pass => Reply::Pass,
            form::Reply::Keep => match self.edit(show).and_then(|edit| tried(&edit, show)) {
                Ok(edit) => Reply::Keep(Box::new(edit)),
                Err(why) => {
                    self.form.error = Some(why);
                    Reply::Stay
                }
            },
        }
    }

    fn edit(&self, show: &Show) -> Result<Edit, String> {
        match &self.of {
            Of::Input(place) => {
                let input = input_of(&self.form)?;
                Ok(place.map_or_else(|| Edit::AddInput(input.clone()), |place| Edit::PutInput(place, input.clone())))
            }
            Of::Binding(place, before) => {
                let binding = binding_of(&self.form, before)?;
                Ok(match place {
                    Some(place) => Edit::PutBindings(vec![(*place, binding)]),
                    None => Edit::AddBindings(vec![binding]),
                })
            }
            Of::Choice => Ok(Edit::AddBindings(vec![choice::binding(&self.form, show)?])),
            Of::Program(place) => {
                let program = program_of(&self.form)?;
                Ok(place.map_or_else(
                    || Edit::AddProgram(program.clone()),
                    |place| Edit::PutProgram(place, program.clone()),
                ))
            }
            Of::ValueOut(place) => {
                let out = value_of(&self.form)?;
                let mut values = show.values_out.clone();
                match place.and_then(|place| values.get_mut(place)) {
                    Some(known) => *known = out,
                    None => values.push(out),
                }
                Ok(Edit::PutValuesOut(values))
            }
        }
    }

    pub(super) fn draw(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let columns = usize::from((WIDTH - 4) / 30);
        let below = self.preview.len().div_ceil(columns.max(1)).min(10) as u16;
        let shown = self.form.fields.iter().filter(|field| field.shown).count() as u16;
        let height = shown + 5 + if below > 0 { below + 1 } else { 0 };
        let inside = float(self.title, WIDTH, height, theme, area, buffer);
        let top = Rect { height: inside.height.saturating_sub(if below > 0 { below + 1 } else { 0 }), ..inside };
        self.form.draw(theme, top, buffer);
        if below == 0 {
            return;
        }
        let rest = Rect { y: top.bottom(), height: inside.height - top.height, ..inside };
        let columns = usize::from(rest.width / 30).max(1);
        for (place, words) in self.preview.iter().enumerate() {
            let row = place / columns;
            if row as u16 >= rest.height {
                break;
            }
            // The last that has room says how many have none.
            let room = usize::from(rest.height) * columns;
            let hidden = self.preview.len().saturating_sub(room);
            let more = format!("and {} more", hidden + 1);
            let words = if hidden > 0 && place + 1 == room { &more } else { words };
            let x = rest.x + (place % columns) as u16 * 30;
            let cell = Rect { x, y: rest.y + row as u16, width: 30.min(rest.right().saturating_sub(x)), height: 1 };
            Pen::new(cell, buffer).put(&shortened(words, 29), theme.text());
        }
    }
}

/// The edit, if the show takes it.
fn tried(edit: &Edit, show: &Show) -> Result<Edit, String> {
    edit.apply(show).map(|_| edit.clone()).map_err(|refused| refused.to_string())
}

fn kind(form: &Form) -> InputKind {
    let word = form.text("kind");
    InputKind::ALL.into_iter().find(|kind| kind.name() == word).unwrap_or(InputKind::Midi)
}

fn input_of(form: &Form) -> Result<Input, String> {
    let kind = kind(form);
    let from = form.text("from");
    let from = AddressBlock::list(&from).map_err(|why| format!("only from: {why}"))?;
    let layout = form.text("layout");
    let layout = RemoteLayout::ALL.into_iter().find(|one| one.name() == layout);
    let dmx = matches!(kind, InputKind::ArtNet | InputKind::Sacn);
    let remote = layout.filter(|_| dmx).map(|layout| Remote { layout, first: form.whole("first") as u16 });
    Ok(Input {
        name: form.text("name"),
        kind,
        address: form.text("address"),
        on: form.flag("on"),
        priority: form.whole("priority").min(200) as u8,
        from: if kind.is_network() { from } else { Vec::new() },
        silent_after: form.number("silent") as f32,
        when_silent: CommandTemplate::list(&form.text("then")),
        controller: form.text("controller"),
        feedback: form.text("feedback"),
        remote,
    })
}

fn program_of(form: &Form) -> Result<Program, String> {
    let name = form.text("name");
    if form.text("kind") == SOUND {
        return Ok(Program { name, command: Vec::new(), sound: form.text("sound") });
    }
    let first = Some(form.text("command")).filter(|program| !program.is_empty());
    let command = first.into_iter().chain(unquoted(&form.text("arguments"))?).collect();
    Ok(Program { name, command, sound: String::new() })
}

/// Words in one line: those with a space or a quotation mark in them, or none, within quotation marks.
fn quoted(words: &[String]) -> String {
    let one = |word: &String| match word.is_empty() || word.contains([' ', '"', '\\']) {
        true => format!("\"{}\"", word.replace('\\', "\\\\").replace('"', "\\\"")),
        false => word.clone(),
    };
    words.iter().map(one).collect::<Vec<_>>().join(" ")
}

/// The words of a line, as [`quoted`] writes them.
fn unquoted(line: &str) -> Result<Vec<String>, String> {
    let (mut words, mut word, mut within) = (Vec::new(), None::<String>, false);
    let mut letters = line.chars();
    while let Some(letter) = letters.next() {
        match letter {
            '"' => {
                within = !within;
                word.get_or_insert_default();
            }
            '\\' if within => word.get_or_insert_default().extend(letters.next()),
            ' ' if !within => words.extend(word.take()),
            letter => word.get_or_insert_default().push(letter),
        }
    }
    words.extend(word);
    if within { Err("arguments: a quotation mark is not closed".to_owned()) } else { Ok(words) }
}

fn value_of(form: &Form) -> Result<ValueOut, String> {
    let what: OutSource = form.text("what").parse()?;
    let to = form.text("to").parse::<OutTarget>()?;
    let range = OutRange::ALL.into_iter().find(|range| range.name() == form.text("range")).unwrap_or_default();
    let order = if what.is_colour() { form.text("order") } else { "rgb".to_owned() };
    Ok(ValueOut { order, range, ..ValueOut::new(what, to) })
}

fn binding_of(form: &Form, before: &Binding) -> Result<Binding, String> {
    let word = |id: &str| form.text(id);
    let when = word("when");
    let answer = Answer::ALL.into_iter().find(|one| one.name() == word("answer")).unwrap_or_default();
    let lets_go = matches!(answer, Answer::Held | Answer::Toggle);
    Ok(Binding {
        source: word("source"),
        event: word("event").parse().map_err(|why| format!("event: {why}"))?,
        when: if when.is_empty() { None } else { Some(when.parse().map_err(|why| format!("when: {why}"))?) },
        layer: word("layer"),
        shifts: word("shifts"),
        does: CommandTemplate::list(&word("does")),
        let_go: if lets_go { CommandTemplate::list(&word("let_go")) } else { Vec::new() },
        answer,
        coding: Coding::ALL.into_iter().find(|one| one.name() == word("coding")).unwrap_or_default(),
        range: [form.number("low") as f32, form.number("high") as f32],
        curve: Response::ALL.into_iter().find(|one| one.name() == word("curve")).unwrap_or_default(),
        invert: form.flag("invert"),
        soft: form.flag("soft"),
        bands: before.bands.clone(),
        hysteresis: before.hysteresis,
    })
}

#[cfg(test)]
mod tests {
    use super::{quoted, unquoted};
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn words_in_one_line_are_the_same_words_again(words in prop::collection::vec(r#"[a-z "\\]{0,5}"#, 0..5)) {
            prop_assert_eq!(unquoted(&quoted(&words)), Ok(words));
        }
    }

    #[test]
    fn an_open_quotation_mark_is_told() {
        assert_eq!(unquoted("-v  \"two words\" x"), Ok(vec!["-v".into(), "two words".into(), "x".into()]));
        assert!(unquoted("say \"hello").is_err());
    }
}
