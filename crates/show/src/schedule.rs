//! The schedule of a show: what begins with the session, and what comes at times of the day, by the clock on the wall or by the sun.

use std::fmt;
use std::str::FromStr;

use chrono::{NaiveDate, Weekday};
use serde::{Deserialize, Serialize};

use super::CommandTemplate;

/// The most events of a schedule.
pub const MOST_EVENTS: usize = 256;

/// The most by which an event may come before or after the sun, in minutes.
const MOST_OFFSET: i32 = 720;

/// A text that tells no part of an event.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum BadEvent {
    /// It is no time of the day.
    #[error("\"{0}\" is no time of the day; write 22:00, sunset, or sunrise -0:30")]
    Time(String),
    /// They are no days.
    #[error("\"{0}\" are no days; write every day, weekdays, or such as Fri Sat")]
    Days(String),
    /// They are no dates.
    #[error("\"{0}\" are no dates; write such as 2026-12-24, with commas between several")]
    Dates(String),
}

/// A time of the day.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub enum DayTime {
    /// By the clock, in seconds since midnight.
    Clock(u32),
    /// So many minutes after sunrise; below zero, before it.
    Sunrise(i32),
    /// So many minutes after sunset; below zero, before it.
    Sunset(i32),
}

/// Minutes of a text such as `1:30` or `0:05`, and the seconds behind them if there are any.
fn clock(text: &str) -> Option<(u32, u32)> {
    let parts: Vec<&str> = text.split(':').collect();
    let number = |part: &str| part.parse::<u32>().ok().filter(|_| part.len() <= 2 && !part.starts_with('+'));
    let (hours, minutes, seconds) = match parts.as_slice() {
        [hours, minutes] => (number(hours)?, number(minutes)?, 0),
        [hours, minutes, seconds] => (number(hours)?, number(minutes)?, number(seconds)?),
        _ => return None,
    };
    (minutes < 60 && seconds < 60).then_some((hours * 60 + minutes, seconds))
}

impl FromStr for DayTime {
    type Err = BadEvent;
    fn from_str(text: &str) -> Result<Self, BadEvent> {
        let bad = || BadEvent::Time(text.to_owned());
        let text = text.trim();
        let offset = |rest: &str| -> Option<i32> {
            let rest = rest.trim();
            let (sign, minutes) = match rest.chars().next() {
                None => return Some(0),
                Some('-') => (-1, rest[1..].trim()),
                Some('+') => (1, rest[1..].trim()),
                Some(_) => return None,
            };
            let (minutes, seconds) = clock(minutes)?;
            let minutes = i32::try_from(minutes).ok().filter(|minutes| *minutes <= MOST_OFFSET && seconds == 0)?;
            Some(sign * minutes)
        };
        if let Some(rest) = text.strip_prefix("sunrise") {
            return offset(rest).map(Self::Sunrise).ok_or_else(bad);
        }
        if let Some(rest) = text.strip_prefix("sunset") {
            return offset(rest).map(Self::Sunset).ok_or_else(bad);
        }
        let (minutes, seconds) = clock(text).filter(|(minutes, _)| *minutes < 24 * 60).ok_or_else(bad)?;
        Ok(Self::Clock(minutes * 60 + seconds))
    }
}

impl fmt::Display for DayTime {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let mut by_sun = |name: &str, minutes: i32| match minutes {
            0 => f.write_str(name),
            _ => {
                let sign = if minutes < 0 { '-' } else { '+' };
                write!(f, "{name} {sign}{}:{:02}", minutes.abs() / 60, minutes.abs() % 60)
            }
        };
        match *self {
            Self::Sunrise(minutes) => by_sun("sunrise", minutes),
            Self::Sunset(minutes) => by_sun("sunset", minutes),
            Self::Clock(seconds) => {
                write!(f, "{:02}:{:02}", seconds / 3600, seconds / 60 % 60)?;
                if seconds % 60 > 0 { write!(f, ":{:02}", seconds % 60) } else { Ok(()) }
            }
        }
    }
}

/// Days of the week, a bit each from Monday on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct Days(u8);

/// The days of the week.
const WEEK: [Weekday; 7] =
    [Weekday::Mon, Weekday::Tue, Weekday::Wed, Weekday::Thu, Weekday::Fri, Weekday::Sat, Weekday::Sun];

impl Days {
    /// Every day.
    pub const ALL: Self = Self(0x7f);
    const WEEKDAYS: Self = Self(0x1f);

    /// True if a day is among them.
    #[must_use]
    pub fn has(self, day: Weekday) -> bool {
        self.0 >> day.num_days_from_monday() & 1 == 1
    }
}

impl Default for Days {
    fn default() -> Self {
        Self::ALL
    }
}

impl FromStr for Days {
    type Err = BadEvent;
    fn from_str(text: &str) -> Result<Self, BadEvent> {
        match text.trim() {
            "" | "every day" => return Ok(Self::ALL),
            "weekdays" => return Ok(Self::WEEKDAYS),
            _ => {}
        }
        let words = text.split([' ', ',']).filter(|word| !word.is_empty());
        let bits = words.map(|word| word.parse::<Weekday>().map(|day| 1u8 << day.num_days_from_monday()));
        let bits = bits.collect::<Result<Vec<u8>, _>>().map_err(|_| BadEvent::Days(text.to_owned()))?;
        Ok(Self(bits.iter().fold(0, |all, bit| all | bit)))
    }
}

impl fmt::Display for Days {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match *self {
            Self::ALL => f.write_str("every day"),
            Self::WEEKDAYS => f.write_str("weekdays"),
            days => {
                let names: Vec<String> =
                    WEEK.into_iter().filter(|day| days.has(*day)).map(|day| day.to_string()).collect();
                f.write_str(&names.join(" "))
            }
        }
    }
}

/// Some dates.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct Dates(pub Vec<NaiveDate>);

impl FromStr for Dates {
    type Err = BadEvent;
    fn from_str(text: &str) -> Result<Self, BadEvent> {
        let words = text.split([' ', ',']).filter(|word| !word.is_empty());
        let dates = words.map(|word| word.parse()).collect::<Result<Vec<NaiveDate>, _>>();
        dates.map(Self).map_err(|_| BadEvent::Dates(text.to_owned()))
    }
}

impl fmt::Display for Dates {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let words: Vec<String> = self.0.iter().map(ToString::to_string).collect();
        f.write_str(&words.join(", "))
    }
}

macro_rules! as_text {
    ($($type:ty),*) => {$(
        impl TryFrom<String> for $type {
            type Error = BadEvent;
            fn try_from(text: String) -> Result<Self, BadEvent> {
                text.parse()
            }
        }

        impl From<$type> for String {
            fn from(value: $type) -> Self {
                value.to_string()
            }
        }
    )*};
}

as_text!(DayTime, Days, Dates);

/// Something that comes at a time of the day.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct ScheduledEvent {
    /// Its name.
    pub name: String,
    /// The time of the day.
    pub at: DayTime,
    /// The days of the week on which it comes.
    #[serde(default, skip_serializing_if = "is_every_day")]
    pub days: Days,
    /// The dates on which it comes besides, whatever the day of the week.
    #[serde(default, skip_serializing_if = "has_none")]
    pub dates: Dates,
    /// The dates on which it does not come.
    #[serde(default, skip_serializing_if = "has_none")]
    pub except: Dates,
    /// The first date on which it comes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub from: Option<NaiveDate>,
    /// The last date on which it comes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to: Option<NaiveDate>,
    /// The commands that it gives.
    #[serde(rename = "do", default, skip_serializing_if = "Vec::is_empty")]
    pub does: Vec<CommandTemplate>,
    /// True if it is caught up when it was missed, as by a power cut.
    #[serde(default, skip_serializing_if = "is_not")]
    pub catch_up: bool,
    /// True if it is left out for now.
    #[serde(default, skip_serializing_if = "is_not")]
    pub off: bool,
}

impl ScheduledEvent {
    /// One that comes every day and does nothing yet.
    #[must_use]
    pub fn new(name: &str, at: DayTime) -> Self {
        Self {
            name: name.to_owned(),
            at,
            days: Days::ALL,
            dates: Dates::default(),
            except: Dates::default(),
            from: None,
            to: None,
            does: Vec::new(),
            catch_up: false,
            off: false,
        }
    }

    /// True if it comes on a date.
    #[must_use]
    pub fn is_on(&self, date: NaiveDate) -> bool {
        use chrono::Datelike;
        let within = self.from.is_none_or(|from| date >= from) && self.to.is_none_or(|to| date <= to);
        let named = self.dates.0.contains(&date);
        // With dates alone no day of the week counts.
        let by_day = self.days.has(date.weekday()) && (self.dates.0.is_empty() || self.days != Days::ALL);
        !self.off && !self.except.0.contains(&date) && (named || within && by_day)
    }
}

/// The list of what a show does by itself.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Schedule {
    /// True if what begins with the session begins, and events come at their times.
    #[serde(default, skip_serializing_if = "is_not")]
    pub on: bool,
    /// The latitude of the place in degrees, -90..90, north above zero; for the sun.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub latitude: Option<f64>,
    /// The longitude of the place in degrees, -180..180, east above zero.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub longitude: Option<f64>,
    /// The commands that are given when the session starts.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub start: Vec<CommandTemplate>,
    /// True if a session that ended badly, as by a power cut, goes on where it was, without being asked.
    #[serde(default, skip_serializing_if = "is_not")]
    pub go_on: bool,
    /// The events.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub events: Vec<ScheduledEvent>,
}

impl Schedule {
    /// True if it says nothing.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_not(flag: &bool) -> bool {
    !*flag
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_every_day(days: &Days) -> bool {
    *days == Days::ALL
}

fn has_none(dates: &Dates) -> bool {
    dates.0.is_empty()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn times_days_and_dates_are_read_as_people_write_them() {
        for text in ["22:00", "06:30:15", "sunrise", "sunset -0:30", "sunrise +1:05", "00:00"] {
            assert_eq!(text.parse::<DayTime>().expect(text).to_string(), text);
        }
        assert_eq!("7:05".parse(), Ok(DayTime::Clock(7 * 3600 + 300)));
        for bad in ["24:00", "7", "sunset 30", "sunset -13:00", "12:60", "noon", "-1:00", "+1:00", "1:2:3:4"] {
            assert!(bad.parse::<DayTime>().is_err(), "{bad}");
        }
        for (text, told) in
            [("Fri Sat", "Fri Sat"), ("sat, fri", "Fri Sat"), ("", "every day"), ("Mon Tue Wed Thu Fri", "weekdays")]
        {
            assert_eq!(text.parse::<Days>().expect(text).to_string(), told);
        }
        assert!("Fri Noday".parse::<Days>().is_err());
        assert_eq!("2026-12-24,2026-12-31".parse::<Dates>().expect("dates").to_string(), "2026-12-24, 2026-12-31");
        assert!("24.12.".parse::<Dates>().is_err());
    }

    #[test]
    fn an_event_comes_on_its_days_within_its_dates_but_for_exceptions() {
        let date = |text: &str| text.parse::<NaiveDate>().expect("a date");
        let mut event = ScheduledEvent::new("Late", DayTime::Clock(0));
        event.days = "Fri Sat".parse().expect("days");
        event.except = "2026-12-25".parse().expect("a date");
        event.dates = "2026-12-31".parse().expect("a date");
        (event.from, event.to) = (Some(date("2026-12-01")), Some(date("2027-01-15")));
        let on: Vec<u32> = (1..=31).filter(|day| event.is_on(date(&format!("2026-12-{day:02}")))).collect();
        assert_eq!(on, [4, 5, 11, 12, 18, 19, 26, 31]);
        event.days = Days::ALL;
        assert!(!event.is_on(date("2026-12-02")) && event.is_on(date("2026-12-31")), "dates alone");
    }
}
