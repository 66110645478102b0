//! The times at which the events of a schedule come: by the clock of a place, over changes between summer and winter time, and by
//! its sun.

use chrono::{DateTime, Days, Duration, NaiveDate, NaiveDateTime, TimeZone, Utc};

use crate::{DayTime, Schedule, ScheduledEvent};

/// For so many days nothing that comes is looked for any further.
const FURTHEST: u64 = 800;

/// An event at its time.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Due {
    /// The time.
    pub at: DateTime<Utc>,
    /// The event, by its place in the schedule.
    pub event: usize,
}

/// The time in the world at which a clock in a time zone shows a date and a time. Where the clock is put forward over it, it is as much
/// later; where it is put back, the first of the two.
fn by_clock<Z: TimeZone>(zone: &Z, shown: NaiveDateTime) -> Option<DateTime<Utc>> {
    if let Some(found) = zone.from_local_datetime(&shown).earliest() {
        return Some(found.with_timezone(&Utc));
    }
    // By the offset that held before the clock was put forward.
    let before = zone.from_local_datetime(&(shown - Duration::hours(4))).earliest()?;
    Some(before.with_timezone(&Utc) + Duration::hours(4))
}

/// The time at which an event comes on a date, if it does.
fn on_date<Z: TimeZone>(
    schedule: &Schedule,
    event: &ScheduledEvent,
    zone: &Z,
    date: NaiveDate,
) -> Option<DateTime<Utc>> {
    if !event.is_on(date) {
        return None;
    }
    let place = || Some((schedule.latitude?, schedule.longitude?));
    let by_sun = |edge, offset: i32| {
        let (latitude, longitude) = place()?;
        Some(splimo_time::sun::time(date, latitude, longitude, edge)? + Duration::minutes(i64::from(offset)))
    };
    match event.at {
        DayTime::Clock(seconds) => by_clock(zone, date.and_hms_opt(0, 0, 0)? + Duration::seconds(i64::from(seconds))),
        DayTime::Sunrise(offset) => by_sun(splimo_time::sun::Edge::Rises, offset),
        DayTime::Sunset(offset) => by_sun(splimo_time::sun::Edge::Sets, offset),
    }
}

/// The date that a clock in a zone shows.
fn date_of<Z: TimeZone>(zone: &Z, at: DateTime<Utc>) -> NaiveDate {
    at.with_timezone(zone).date_naive()
}

/// The events of a date, in the order of their times.
fn of_date<Z: TimeZone>(schedule: &Schedule, zone: &Z, date: NaiveDate) -> Vec<Due> {
    let events = schedule.events.iter().enumerate();
    let mut due: Vec<Due> =
        events.filter_map(|(event, one)| Some(Due { at: on_date(schedule, one, zone, date)?, event })).collect();
    due.sort();
    due
}

/// The events that come after a time, up to another one with it, in their order.
pub fn between<Z: TimeZone>(schedule: &Schedule, zone: &Z, after: DateTime<Utc>, until: DateTime<Utc>) -> Vec<Due> {
    // Offsets from the sun may lead into the days beside.
    let (first, last) = (date_of(zone, after) - Days::new(1), date_of(zone, until) + Days::new(1));
    let dates = first.iter_days().take_while(|date| *date <= last);
    let mut due: Vec<Due> =
        dates.flat_map(|date| of_date(schedule, zone, date)).filter(|due| due.at > after && due.at <= until).collect();
    due.sort();
    due
}

/// The next events after a time, so many at the most.
pub fn next<Z: TimeZone>(schedule: &Schedule, zone: &Z, after: DateTime<Utc>, count: usize) -> Vec<Due> {
    let first = date_of(zone, after) - Days::new(1);
    let mut due: Vec<Due> = Vec::new();
    for date in first.iter_days().take(FURTHEST as usize) {
        // A day further than what was found last may still bring what comes before it.
        if due.len() >= count && due.get(count - 1).is_some_and(|last| date > date_of(zone, last.at) + Days::new(1)) {
            break;
        }
        due.extend(of_date(schedule, zone, date).into_iter().filter(|due| due.at > after));
        due.sort();
    }
    due.truncate(count);
    due
}

#[cfg(test)]
mod tests {
    use chrono::Timelike;
    use chrono_tz::Tz;

    use super::*;

    fn schedule(lines: &[(&str, &str)]) -> Schedule {
        let events = lines.iter().map(|(at, days)| {
            let days = days.parse().expect("days");
            ScheduledEvent { days, ..ScheduledEvent::new(at, at.parse().expect("a time")) }
        });
        Schedule { latitude: Some(52.52), longitude: Some(13.405), events: events.collect(), ..Schedule::default() }
    }

    /// The times at which a clock shows a time, found by looking at it every minute of a year.
    fn by_looking(zone: Tz, hour: u32, minute: u32) -> Vec<DateTime<Utc>> {
        let from: DateTime<Utc> = "2026-01-01T12:00:00Z".parse().expect("a time");
        let shows = |at: &DateTime<Utc>| {
            let local = at.with_timezone(&zone);
            (local.hour(), local.minute()) == (hour, minute)
        };
        let mut found: Vec<DateTime<Utc>> =
            (1..=365 * 24 * 60).map(|minutes| from + Duration::minutes(minutes)).filter(shows).collect();
        // What is shown twice, as the clock is put back, counts once.
        found.dedup_by(|later, earlier| *later - *earlier < Duration::hours(3));
        found
    }

    #[test]
    fn a_year_over_summer_and_winter_time_in_three_zones() {
        let from: DateTime<Utc> = "2026-01-01T12:00:00Z".parse().expect("a time");
        for zone in [chrono_tz::Europe::Berlin, chrono_tz::America::New_York, chrono_tz::Australia::Sydney] {
            for (hour, minute) in [(2u32, 30), (3, 0), (12, 0), (1, 15), (23, 59)] {
                let text = format!("{hour:02}:{minute:02}");
                let schedule = schedule(&[(&text, "every day")]);
                let found: Vec<DateTime<Utc>> =
                    between(&schedule, &zone, from, from + Duration::days(365)).iter().map(|due| due.at).collect();
                let seen = by_looking(zone, hour, minute);
                // On the day on which the clock is put forward over it, nobody sees it: it comes an hour later on the clock.
                let skipped = found.iter().filter(|at| !seen.contains(at)).count();
                assert_eq!(skipped, usize::from((hour, minute) == (2, 30)), "{zone} {text}");
                assert!(seen.iter().all(|at| found.contains(at)), "{zone} {text}");
                assert_eq!(found.len(), 365, "{zone} {text}: once each day");
                for due in found.iter().filter(|at| !seen.contains(at)) {
                    assert_eq!(due.with_timezone(&zone).hour(), 3, "{zone}: half past three instead");
                }
                let walked: Vec<DateTime<Utc>> = next(&schedule, &zone, from, 365).iter().map(|due| due.at).collect();
                assert_eq!(walked, found);
            }
        }
    }

    #[test]
    fn the_next_seven_are_in_order_whatever_they_come_by() {
        let schedule =
            schedule(&[("22:00", "Fri Sat"), ("sunset +0:10", "weekdays"), ("00:30", "Sun"), ("sunrise -1:00", "Mon")]);
        let zone = chrono_tz::Europe::Berlin;
        let from: DateTime<Utc> = "2026-11-26T12:00:00Z".parse().expect("a time");
        let told: Vec<String> = next(&schedule, &zone, from, 7)
            .iter()
            .map(|due| {
                format!("{} {}", due.at.with_timezone(&zone).format("%a %H:%M"), schedule.events[due.event].name)
            })
            .collect();
        assert_eq!(
            told,
            [
                "Thu 16:10 sunset +0:10",
                "Fri 16:09 sunset +0:10",
                "Fri 22:00 22:00",
                "Sat 22:00 22:00",
                "Sun 00:30 00:30",
                "Mon 06:52 sunrise -1:00",
                "Mon 16:06 sunset +0:10",
            ]
        );
        let nothing = Schedule { latitude: None, ..schedule };
        assert_eq!(next(&nothing, &zone, from, 3).len(), 3, "what comes by the clock comes without a place");
        assert_eq!(next(&Schedule::default(), &zone, from, 7), []);
    }
}
