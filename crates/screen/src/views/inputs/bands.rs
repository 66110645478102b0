//! The bands of a choice by value, once it is made: each one's first value and what it asks for, beside the value that comes in.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_show::CommandTemplate;
use splimo_show::{Band, Binding, Show};

use super::choice::{does_words, last_of};
use crate::kit::float::float;
use crate::kit::form::{self, Field, Form};
use crate::kit::list::List;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;
use crate::model::ViewContext;

/// The width of it, in columns.
const WIDTH: u16 = 84;
/// The rows around the list: the frame, the channel, the line below.
const AROUND: u16 = 7;

/// The bands of a binding while they are changed.
pub(super) struct OpenBands {
    place: usize,
    binding: Binding,
    list: List,
    /// The form of the chosen band, or of the channel, while it is open.
    form: Option<(Of, Form)>,
    error: Option<String>,
}

/// The thing that the small form is of.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Of {
    Band,
    Channel,
}

/// The value that came in last for a binding, 0..1.
pub(super) fn value_of(context: &ViewContext<'_>, binding: &Binding) -> Option<f32> {
    let event = binding.event.to_string();
    let same = |of: &str, what: &str| {
        let any_channel = what.split(" channel ").next() == Some(event.as_str());
        of == binding.source && (what == event || any_channel)
    };
    context.inputs.values.iter().find(|(of, what, _)| same(of, what)).map(|(.., value)| *value)
}

/// The reply to a key.
pub(super) enum Reply {
    /// They stay open.
    Stay,
    /// They close, and nothing changes.
    Close,
    /// They close, and this is to be done.
    Keep(Box<Edit>),
    /// The key means nothing here.
    Pass,
}

impl OpenBands {
    /// The bands of the binding at a place.
    pub(super) fn new(place: usize, binding: Binding) -> Self {
        Self { place, binding, list: List::default(), form: None, error: None }
    }

    /// The binding as it is now.
    pub(super) fn binding(&self) -> &Binding {
        &self.binding
    }

    /// True while text is typed.
    pub(super) fn types(&self) -> bool {
        self.form.is_some()
    }

    pub(super) fn paste(&mut self, text: &str) {
        if let Some((_, form)) = &mut self.form {
            form.paste(text);
        }
    }

    /// Says why what was asked for cannot be.
    pub(super) fn refuse(&mut self, why: &str) {
        self.error = Some(why.to_owned());
    }

    pub(super) fn key(&mut self, key: KeyEvent, show: &Show) -> Reply {
        if self.form.is_some() {
            return self.key_of_form(key, show);
        }
        if key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT) {
            return Reply::Pass;
        }
        self.error = None;
        let coarse = if key.modifiers.contains(KeyModifiers::SHIFT) { 10 } else { 1 };
        match key.code {
            KeyCode::Esc => return Reply::Close,
            KeyCode::Enter => return self.keep(show),
            KeyCode::Up => self.list.choose_by(-1),
            KeyCode::Down => self.list.choose_by(1),
            KeyCode::PageUp => self.list.choose_by(-10),
            KeyCode::PageDown => self.list.choose_by(10),
            KeyCode::Left => self.move_edge(-coarse),
            KeyCode::Right => self.move_edge(coarse),
            KeyCode::Char('a') => self.split(),
            KeyCode::Char('s') => self.share_out(),
            KeyCode::Char('e') => self.form = self.band_form().map(|form| (Of::Band, form)),
            KeyCode::Char('c') => self.form = Some((Of::Channel, self.channel_form(show))),
            KeyCode::Delete | KeyCode::Backspace => self.take_out(),
            _ => return Reply::Pass,
        }
        Reply::Stay
    }

    fn keep(&mut self, show: &Show) -> Reply {
        let edit = Edit::PutBindings(vec![(self.place, self.binding.clone())]);
        match edit.apply(show) {
            Ok(_) => Reply::Keep(Box::new(edit)),
            Err(refused) => {
                self.error = Some(refused.to_string());
                Reply::Stay
            }
        }
    }

    fn last(&self) -> u16 {
        last_of(&self.binding.event)
    }

    /// The first values that the chosen band can have, between those of its neighbours. The lowest band begins at 0.
    fn room(&self, place: usize) -> std::ops::RangeInclusive<u16> {
        let bands = &self.binding.bands;
        let from = place.checked_sub(1).and_then(|before| bands.get(before)).map_or(0, |band| band.from + 1);
        let to = bands.get(place + 1).map_or(self.last(), |band| band.from.saturating_sub(1));
        if place == 0 { 0..=0 } else { from..=to.max(from) }
    }

    fn move_edge(&mut self, by: i32) {
        let (place, room) = (self.list.chosen, self.room(self.list.chosen));
        if place == 0 {
            self.error = Some("the lowest band begins at 0; move the band above it".to_owned());
        } else if let Some(band) = self.binding.bands.get_mut(place) {
            let wanted = (i32::from(band.from) + by).clamp(i32::from(*room.start()), i32::from(*room.end()));
            band.from = wanted as u16;
        }
    }

    /// The last value of a band.
    fn end(&self, place: usize) -> u16 {
        self.binding.bands.get(place + 1).map_or(self.last(), |band| band.from.saturating_sub(1))
    }

    /// Makes two of the chosen band, which ask for the same.
    fn split(&mut self) {
        let (place, end) = (self.list.chosen, self.end(self.list.chosen));
        let Some(band) = self.binding.bands.get(place).cloned() else { return };
        let from = band.from + (end.saturating_sub(band.from)).div_ceil(2);
        if from <= band.from {
            self.error = Some("a band of one value cannot be split; move its edges first".to_owned());
            return;
        }
        self.binding.bands.insert(place + 1, Band { from, ..band });
        self.list.chosen = place + 1;
    }

    /// Has all bands above the lowest share the values evenly.
    fn share_out(&mut self) {
        let last = self.last();
        let Some((_, rest)) = self.binding.bands.split_first_mut() else { return };
        let (Some(first), count) = (rest.first().map(|band| band.from), rest.len() as u32) else { return };
        let room = u32::from(last.saturating_sub(first)) + 1;
        for (place, band) in (0u32..).zip(rest) {
            band.from = first + (place * room / count) as u16;
        }
    }

    fn take_out(&mut self) {
        let bands = &mut self.binding.bands;
        if bands.len() <= 2 {
            self.error = Some("one band besides the lowest has to stay; Esc, then Del takes the choice out".to_owned());
            return;
        }
        bands.remove(self.list.chosen.min(bands.len() - 1));
        // The next one takes its values, so that none of the channel are without an owner.
        if let Some(lowest) = bands.first_mut() {
            lowest.from = 0;
        }
    }

    fn band_form(&self) -> Option<Form> {
        let band = self.binding.bands.get(self.list.chosen)?;
        let room = self.room(self.list.chosen);
        let (from, to) = (f64::from(*room.start()), f64::from(*room.end()));
        let mut fields = vec![
            Field::number("from", "first value", f64::from(band.from), from, to, 1.0),
            Field::text("does", "asks for", band.does.join("; ")),
        ];
        fields[1].hint = "commands, with ; between".to_owned();
        let mut form = Form::new(fields);
        form.go_to("does");
        Some(form)
    }

    fn channel_form(&self, show: &Show) -> Form {
        let sources = show.inputs.iter().map(|input| input.name.clone());
        let mut fields = vec![
            Field::choice("source", "input", sources, &self.binding.source),
            Field::text("event", "channel", self.binding.event.to_string()),
            Field::number("hysteresis", "noise", f64::from(self.binding.hysteresis), 0.0, 50.0, 1.0),
        ];
        fields[1].hint = "slot 1, control 7, or /path".to_owned();
        fields[2].hint = "counts by which it may tremble".to_owned();
        Form::new(fields)
    }

    fn key_of_form(&mut self, key: KeyEvent, show: &Show) -> Reply {
        let Some((of, form)) = &mut self.form else { return Reply::Pass };
        match form.key(key) {
            form::Reply::Changed | form::Reply::Quiet => Reply::Stay,
            form::Reply::Pass => Reply::Pass,
            form::Reply::Restore => {
                self.form = None;
                Reply::Stay
            }
            form::Reply::Keep => {
                let next = match of {
                    Of::Band => with_band(&self.binding, self.list.chosen, form),
                    Of::Channel => with_channel(&self.binding, form),
                };
                // What the show would refuse is told while the text still stands there.
                let tried = next.and_then(|binding| {
                    let edit = Edit::PutBindings(vec![(self.place, binding.clone())]);
                    edit.apply(show).map(|_| binding).map_err(|refused| refused.to_string())
                });
                match tried {
                    Ok(binding) => (self.binding, self.form) = (binding, None),
                    Err(why) => form.error = Some(why),
                }
                Reply::Stay
            }
        }
    }

    /// Draws them. `value` is the one that came in last, 0..1.
    pub(super) fn draw(&mut self, value: Option<f32>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let title = "looks by the value of one channel";
        let height = self.binding.bands.len().min(200) as u16 + AROUND;
        let inside = float(title, WIDTH, height, theme, area, buffer);
        let raw = value.map(|value| (value * f32::from(self.last())).round() as u16);
        let now = raw.map_or("nothing came in yet".to_owned(), |raw| format!("now {raw}"));
        let words =
            format!("{}, {}, noise {}: {now}", self.binding.source, self.binding.event, self.binding.hysteresis);
        Pen::new(Rect { height: 1, ..inside }, buffer).put(&words, theme.text());
        let rows = Rect { y: inside.y + 2, height: inside.height.saturating_sub(4), ..inside };
        for place in self.list.lay_out(self.binding.bands.len(), rows) {
            let (row, end) = (self.list.row(place), self.end(place));
            let band = &self.binding.bands[place];
            let here = raw.is_some_and(|raw| (band.from..=end).contains(&raw));
            band_line(band, end, [place == self.list.chosen, here], theme, row, buffer);
        }
        let foot = Rect { y: inside.bottom().saturating_sub(1), height: 1, ..inside };
        if let Some(error) = &self.error {
            Pen::new(foot, buffer).put(error, theme.armed());
        } else if raw.is_some() {
            Pen::new(foot, buffer).put("● is where the channel stands", theme.dim());
        }
        if let Some((of, form)) = &mut self.form {
            let title = if *of == Of::Band { "the band" } else { "the channel" };
            let small = float(title, WIDTH, form.fields.len() as u16 + 5, theme, area, buffer);
            form.draw(theme, small, buffer);
        }
    }
}

fn band_line(band: &Band, end: u16, [chosen, here]: [bool; 2], theme: Theme, row: Rect, buffer: &mut Buffer) {
    let style = if chosen || here { theme.bright() } else { theme.text() };
    let mut pen = Pen::new(row, buffer);
    pen.put(if chosen { "▶ " } else { "  " }, theme.bright());
    pen.put(if here { "● " } else { "  " }, theme.bright());
    let values = if band.from == end { end.to_string() } else { format!("{}-{end}", band.from) };
    pen.put(&format!("{values:>11}  "), style);
    let room = usize::from(row.width.saturating_sub(pen.column()));
    pen.put(&shortened(&does_words(&band.does), room), style);
}

fn with_band(binding: &Binding, place: usize, form: &Form) -> Result<Binding, String> {
    let mut binding = binding.clone();
    let band = binding.bands.get_mut(place).ok_or("there is no such band any more")?;
    band.does = CommandTemplate::list(&form.text("does"));
    band.from = form.whole("from") as u16;
    Ok(binding)
}

fn with_channel(binding: &Binding, form: &Form) -> Result<Binding, String> {
    let event = form.text("event").parse().map_err(|why| format!("channel: {why}"))?;
    let (last, highest) = (last_of(&event), binding.bands.last().map_or(0, |band| band.from));
    if highest > last {
        return Err(format!("channel: {event} has values up to {last}, and the highest band begins at {highest}"));
    }
    let hysteresis = form.whole("hysteresis") as u16;
    Ok(Binding { source: form.text("source"), event, hysteresis, ..binding.clone() })
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::{Input, InputKind, Look};

    fn show() -> Show {
        let mut show = Show::empty("Bands");
        show.looks = ["Tide", "Gale", "Foam"].map(|name| Look::new(name, Vec::new())).to_vec();
        show.inputs = vec![Input::new("desk", InputKind::Sacn, "101")];
        let band = |from, does: &str| Band { from, does: vec![does.into()] };
        let bands =
            vec![band(0, "release-tier base"), band(1, "fire-look base/Tide"), band(128, "fire-look base/Gale")];
        let event = "slot 1".parse().expect("an event");
        show.bindings = vec![Binding { bands, ..Binding::new("desk", event, "") }];
        show
    }

    fn open(show: &Show) -> OpenBands {
        let mut open = OpenBands::new(0, show.bindings[0].clone());
        open.list.lay_out(3, Rect::new(0, 0, 40, 10));
        open
    }

    fn press(open: &mut OpenBands, show: &Show, keys: &[KeyCode]) -> Option<Binding> {
        keys.iter().fold(None, |kept, key| match open.key(KeyEvent::from(*key), show) {
            Reply::Keep(edit) => match *edit {
                Edit::PutBindings(mut changed) => changed.pop().map(|(_, binding)| binding),
                other => panic!("{other:?}"),
            },
            Reply::Stay | Reply::Close | Reply::Pass => kept,
        })
    }

    fn edges(binding: &Binding) -> Vec<u16> {
        binding.bands.iter().map(|band| band.from).collect()
    }

    #[test]
    fn edges_are_moved_between_their_neighbours_and_no_further() {
        let show = show();
        let mut open = open(&show);
        press(&mut open, &show, &[KeyCode::Right]);
        assert!(open.error.as_ref().is_some_and(|why| why.contains("begins at 0")));
        press(&mut open, &show, &[KeyCode::Down, KeyCode::Left, KeyCode::Left, KeyCode::Right]);
        assert_eq!(edges(&open.binding), [0, 2, 128], "not onto the lowest, and back up by one");
        for _ in 0..20 {
            open.key(KeyEvent::new(KeyCode::Right, KeyModifiers::SHIFT), &show);
        }
        assert_eq!(edges(&open.binding), [0, 127, 128]);
        let kept = press(&mut open, &show, &[KeyCode::Enter]).expect("it is kept");
        assert_eq!(edges(&kept), [0, 127, 128]);
    }

    #[test]
    fn a_band_is_split_given_a_command_shared_out_and_taken_out() {
        let show = show();
        let mut open = open(&show);
        press(&mut open, &show, &[KeyCode::Down, KeyCode::Down, KeyCode::Char('a'), KeyCode::Char('e')]);
        for letter in "moon".chars() {
            press(&mut open, &show, &[KeyCode::Char(letter)]);
        }
        press(&mut open, &show, &[KeyCode::Enter]);
        assert!(open.form.as_ref().is_some_and(|(_, form)| form.error.is_some()), "it stays open and says why");
        press(&mut open, &show, &[KeyCode::Esc, KeyCode::Char('e')]);
        for letter in "fire-look base/Foam".chars() {
            press(&mut open, &show, &[KeyCode::Char(letter)]);
        }
        press(&mut open, &show, &[KeyCode::Enter, KeyCode::Char('s')]);
        assert_eq!(edges(&open.binding), [0, 1, 86, 171]);
        assert_eq!(open.binding.bands[3].does, ["fire-look base/Foam"]);
        press(&mut open, &show, &[KeyCode::Delete, KeyCode::Delete]);
        assert_eq!(edges(&open.binding), [0, 1]);
        press(&mut open, &show, &[KeyCode::Delete]);
        assert!(open.error.is_some(), "one has to stay");
    }

    #[test]
    fn a_channel_with_fewer_values_than_the_bands_is_refused() {
        let show = show();
        let mut open = open(&show);
        press(&mut open, &show, &[KeyCode::Char('c'), KeyCode::Down]);
        for letter in "control 7".chars() {
            press(&mut open, &show, &[KeyCode::Char(letter)]);
        }
        press(&mut open, &show, &[KeyCode::Enter]);
        let why = open.form.as_ref().and_then(|(_, form)| form.error.clone()).unwrap_or_default();
        assert!(why.contains("up to 127") && why.contains("128"), "{why}");
    }
}
