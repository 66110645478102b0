//! Problems of the schedule.

use super::Found;
use splimo_show::Severity;
use splimo_show::{CommandTemplate, DayTime, MOST_EVENTS, Place, Show};

impl Found {
    pub(super) fn schedule(&mut self, show: &Show) {
        let schedule = &show.schedule;
        let place = || Place::root().key("schedule");
        for (key, value, most) in [("latitude", schedule.latitude, 90.0), ("longitude", schedule.longitude, 180.0)] {
            if let Some(value) = value {
                self.range(place().key(key), "schedule", value as f32, -most, most);
            }
        }
        if schedule.events.len() > MOST_EVENTS {
            let message = format!("there are {} events", schedule.events.len());
            self.add(Severity::Broken, place().key("events"), "schedule", message, format!("keep it to {MOST_EVENTS}"));
        }
        self.commands(&place().key("start"), "schedule, start", &schedule.start);
        let has_place = schedule.latitude.is_some() && schedule.longitude.is_some();
        for (index, event) in schedule.events.iter().enumerate() {
            let (place, subject) = (place().key("events").index(index), format!("schedule, {}", event.name));
            self.commands(&place.clone().key("do"), &subject, &event.does);
            if !has_place && !matches!(event.at, DayTime::Clock(_)) {
                let mend = "write the latitude and the longitude of the place into the schedule";
                let message = format!("it comes by the sun ({}), and nobody knows where", event.at);
                self.add(Severity::Error, place.clone().key("at"), &subject, message, mend);
            }
            if event.from.zip(event.to).is_some_and(|(from, to)| from > to) {
                let message = "it ends before it begins, and never comes";
                self.add(Severity::Warning, place.key("to"), &subject, message, "write a later last date");
            }
        }
    }

    /// Commands that a show gives by itself.
    pub(super) fn commands(&mut self, place: &Place, subject: &str, commands: &[CommandTemplate]) {
        for command in commands {
            if let Err(why) = command.command() {
                let mend = "splimo do --help lists what there is";
                self.add(Severity::Broken, place.clone(), subject, why.to_string(), mend);
            }
        }
    }
}
