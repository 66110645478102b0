//! The schedule: its events as a table, and its forms.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::KeyEvent;
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_link::document::NextEvent;
use splimo_show::CommandTemplate;
use splimo_show::{Dates, DayTime, Days, Schedule, ScheduledEvent, Show};

use super::forms::{Reply, answer};
use crate::kit::float::float;
use crate::kit::form::{self, Field, Form};
use crate::kit::list::List;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;

/// The width of a form, in columns.
const WIDTH: u16 = 84;

fn text_of<T: ToString>(value: Option<T>) -> String {
    value.map(|value| value.to_string()).unwrap_or_default()
}

/// A form of the schedule.
pub(super) struct ScheduleForm {
    title: String,
    pub(super) form: Form,
    /// The place of the event, or one behind the last for a new one; none for the schedule itself.
    event: Option<usize>,
}

impl ScheduleForm {
    /// The form of an event, or of a new one.
    pub(super) fn event(show: &Show, place: Option<usize>) -> Self {
        let events = &show.schedule.events;
        let known = place.and_then(|place| events.get(place)).cloned();
        let title = known.as_ref().map_or("a new event".to_owned(), |event| format!("the event {}", event.name));
        let first = show.cue_lists.first().map(|list| format!("go-cue {}", list.name).into());
        let event = known.unwrap_or_else(|| ScheduledEvent {
            does: first.into_iter().collect(),
            ..ScheduledEvent::new("Event", DayTime::Clock(20 * 3600))
        });
        let mut fields = vec![
            Field::text("name", "name", event.name.clone()),
            Field::text("at", "at", event.at.to_string()),
            Field::text("days", "days", event.days.to_string()),
            Field::text("dates", "dates besides", event.dates.to_string()),
            Field::text("except", "but not on", event.except.to_string()),
            Field::text("from", "from", text_of(event.from)),
            Field::text("to", "to", text_of(event.to)),
            Field::text("do", "commands", event.does.join("; ")),
            Field::flag("catch", "caught up", event.catch_up),
            Field::flag("off", "left out", event.off),
        ];
        let hints = [
            (1, "22:00, sunset, sunrise -0:30"),
            (2, "every day, weekdays, Fri Sat"),
            (3, "2026-12-31, with commas"),
            (4, "2026-12-25, with commas"),
            (5, "2026-11-01, or empty"),
            (7, "go-cue Opening, rotate on; with ; between them"),
            (8, "if it was missed, as by a power cut"),
        ];
        for (place, hint) in hints {
            hint.clone_into(&mut fields[place].hint);
        }
        Self { title, form: Form::new(fields), event: Some(place.unwrap_or(events.len())) }
    }

    /// The form of the schedule itself: the place, and what begins with the session.
    pub(super) fn whole(show: &Show) -> Self {
        let schedule = &show.schedule;
        let mut fields = vec![
            Field::flag("on", "on", schedule.on),
            Field::text("latitude", "latitude", text_of(schedule.latitude)),
            Field::text("longitude", "longitude", text_of(schedule.longitude)),
            Field::text("start", "at the start", schedule.start.join("; ")),
            Field::flag("go_on", "goes on", schedule.go_on),
        ];
        fields[1].hint = "degrees, north above zero; for the sun".to_owned();
        fields[2].hint = "degrees, east above zero".to_owned();
        fields[3].hint = "go-cue Opening, rotate on, fire-look Tide".to_owned();
        fields[4].hint = "after a power cut where it was, without a question".to_owned();
        Self { title: "the schedule".to_owned(), form: Form::new(fields), event: None }
    }

    /// Handles a key.
    pub(super) fn key(&mut self, key: KeyEvent, show: &Show) -> Reply {
        let reply = self.form.key(key);
        let schedule = |form: &Self| Ok(Edit::PutSchedule(Box::new(form.schedule(&show.schedule)?)));
        let edit = (reply == form::Reply::Keep).then(|| schedule(self));
        answer(&mut self.form, reply, edit)
    }

    /// The schedule with what the form says.
    fn schedule(&self, before: &Schedule) -> Result<Schedule, String> {
        let mut schedule = before.clone();
        let Some(place) = self.event else {
            let degrees = |id: &str, most: f64| {
                let text = self.form.text(id);
                let number = text.parse::<f64>().ok().filter(|value| (-most..=most).contains(value));
                match (text.is_empty(), number) {
                    (true, _) => Ok(None),
                    (false, Some(number)) => Ok(Some(number)),
                    (false, None) => Err(format!("{id}: \"{text}\" cannot be; type degrees from -{most} to {most}")),
                }
            };
            schedule.on = self.form.flag("on");
            (schedule.latitude, schedule.longitude) = (degrees("latitude", 90.0)?, degrees("longitude", 180.0)?);
            schedule.start = CommandTemplate::list(&self.form.text("start"));
            schedule.go_on = self.form.flag("go_on");
            return Ok(schedule);
        };
        let say = |id: &str, why: &dyn std::fmt::Display| format!("{id}: {why}");
        let date = |id: &str| {
            let text = self.form.text(id);
            let dates = text.parse::<Dates>().map_err(|why| say(id, &why))?;
            Ok::<_, String>(dates.0.first().copied())
        };
        let event = ScheduledEvent {
            name: self.form.text("name"),
            at: self.form.text("at").parse::<DayTime>().map_err(|why| say("at", &why))?,
            days: self.form.text("days").parse::<Days>().map_err(|why| say("days", &why))?,
            dates: self.form.text("dates").parse::<Dates>().map_err(|why| say("dates besides", &why))?,
            except: self.form.text("except").parse::<Dates>().map_err(|why| say("but not on", &why))?,
            from: date("from")?,
            to: date("to")?,
            does: CommandTemplate::list(&self.form.text("do")),
            catch_up: self.form.flag("catch"),
            off: self.form.flag("off"),
        };
        match schedule.events.get_mut(place) {
            Some(known) => *known = event,
            None => schedule.events.push(event),
        }
        Ok(schedule)
    }

    /// Draws the form over the view.
    pub(super) fn draw(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let inside = float(&self.title, WIDTH, self.form.fields.len() as u16 + 5, theme, area, buffer);
        self.form.draw(theme, inside, buffer);
    }
}

/// The events as a table.
pub(super) fn draw_events(list: &mut List, show: &Show, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let schedule = &show.schedule;
    let row = |y: u16| Rect { y: area.y + y, height: 1, ..area };
    let mut pen = Pen::new(row(0), buffer);
    pen.to(3).put("schedule", theme.bright());
    pen.put(if schedule.on { "   on" } else { "   off: x switches it on" }, theme.text());
    if let (Some(latitude), Some(longitude)) = (schedule.latitude, schedule.longitude) {
        pen.put(&format!("   at {latitude}, {longitude}"), theme.dim());
    }
    let start = if schedule.start.is_empty() { "nothing".to_owned() } else { schedule.start.join("; ") };
    let mut pen = Pen::new(row(1), buffer);
    pen.to(3).put(&format!("at the start: {start}"), theme.dim());
    pen.put(if schedule.go_on { "   after a power cut it goes on" } else { "" }, theme.dim());
    let rows = Rect { y: area.y + 3, height: area.height.saturating_sub(3), ..area };
    if schedule.events.is_empty() {
        Pen::new(Rect { height: 1, ..rows }, buffer).to(5).put("no event yet: a adds one", theme.text());
    }
    for place in list.lay_out(schedule.events.len(), rows) {
        let event = &schedule.events[place];
        let chosen = place == list.chosen;
        let mut pen = Pen::new(list.row(place), buffer);
        pen.put(if chosen { " ▸ " } else { "   " }, theme.bright());
        let style = match (event.off, chosen) {
            (true, _) => theme.dim(),
            (false, true) => theme.bright(),
            (false, false) => theme.text(),
        };
        pen.put(&format!("{:<16} {:<15} ", shortened(&event.name, 16), event.at.to_string()), style);
        pen.put(&format!("{:<12} ", shortened(&days(event), 12)), theme.text());
        let more = if event.off {
            " left out"
        } else if event.catch_up {
            " caught up"
        } else {
            ""
        };
        pen.put(&event.does.join("; "), theme.text());
        pen.put(more, theme.dim());
    }
}

fn days(event: &ScheduledEvent) -> String {
    let words = match (event.dates.0.is_empty(), event.days == Days::ALL) {
        (false, true) => event.dates.to_string(),
        (true, _) => event.days.to_string(),
        (false, false) => format!("{} +{}", event.days, event.dates.0.len()),
    };
    if event.except.0.is_empty() { words } else { format!("{words} -{}", event.except.0.len()) }
}

/// The events that come next, two lines each, below the lists.
pub(super) fn draw_next(next: &[NextEvent], show: &Show, chosen: bool, theme: Theme, area: Rect, buffer: &mut Buffer) {
    if area.height < 2 {
        return;
    }
    let row = |y: u16| Rect { y: area.y + y, height: 1, ..area };
    Pen::new(row(0), buffer).to(1).put("schedule", if chosen { theme.bright() } else { theme.dim() });
    let words = match (show.schedule.on, next.is_empty()) {
        (false, _) => Some("off"),
        (true, true) => Some("nothing to come"),
        (true, false) => None,
    };
    if let Some(words) = words {
        Pen::new(row(1), buffer).to(3).put(words, theme.dim());
    }
    for (line, one) in next.iter().enumerate().take(usize::from(area.height - 1) / 2) {
        let name = show.schedule.events.get(one.event).map_or("", |event| &event.name);
        Pen::new(row(1 + line as u16 * 2), buffer).to(3).put(&one.at, theme.text());
        let room = usize::from(area.width.saturating_sub(5));
        Pen::new(row(2 + line as u16 * 2), buffer).to(4).put(&shortened(name, room), theme.dim());
    }
}
