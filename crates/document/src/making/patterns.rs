//! Changes of patterns: events are put, moved, stretched, split, repeated, and copied with some of their lanes. None ever overlaps another.

use splimo_show::{EventShape, Lane, LaneKind, MOST_LANE_EVENTS, Pattern, PatternEvent, TICKS, Ticks};

/// Some time of some lanes, to be pasted elsewhere.
#[derive(Debug, Clone, PartialEq)]
pub struct Clipping {
    /// The lanes, with the events of that time only, which begin at 0.
    pub lanes: Vec<Lane>,
    /// Its length.
    pub length: Ticks,
}

/// Takes what lies in a time of a lane out: events within it go, others end or begin beside it.
pub fn clear(lane: &mut Lane, from: Ticks, to: Ticks) {
    let mut kept = Vec::with_capacity(lane.events.len() + 1);
    for event in lane.events.drain(..) {
        let end = event.end();
        if end <= from || event.at >= to {
            kept.push(event);
            continue;
        }
        if event.at < from {
            kept.push(PatternEvent { length: Ticks(from.0 - event.at.0), ..event.clone() });
        }
        if end > to {
            kept.push(PatternEvent { at: to, length: Ticks(end.0 - to.0), ..event });
        }
    }
    lane.events = kept;
}

/// Puts an event into a lane of a pattern of a length: what lies there gives way, and what would be behind the pattern is cut off.
///
/// # Errors
/// If there is no room for it.
pub fn put(lane: &mut Lane, event: PatternEvent, length: Ticks) -> Result<(), String> {
    let end = event.end().min(length);
    if event.at >= end {
        return Err("there is no room for an event there".to_owned());
    }
    clear(lane, event.at, end);
    if lane.events.len() >= MOST_LANE_EVENTS {
        return Err(format!("a lane has {MOST_LANE_EVENTS} events at the most; take some out first"));
    }
    let place = lane.events.partition_point(|one| one.at < event.at);
    let length = Ticks(end.0 - event.at.0);
    lane.events.insert(place, PatternEvent { length, ..event });
    Ok(())
}

/// The time between the events beside one, in which it may be moved and stretched.
fn room(lane: &Lane, place: usize, length: Ticks) -> (Ticks, Ticks) {
    let before = place.checked_sub(1).map_or(Ticks(0), |before| lane.events[before].end());
    let behind = lane.events.get(place + 1).map_or(length, |behind| behind.at);
    (before, behind)
}

/// Moves an event to a place, as far as those beside it let it.
pub fn move_to(lane: &mut Lane, place: usize, at: Ticks, length: Ticks) {
    if place >= lane.events.len() {
        return;
    }
    let (from, to) = room(lane, place, length);
    let own = lane.events[place].length.0;
    lane.events[place].at = Ticks(at.0.clamp(from.0, to.0.saturating_sub(own).max(from.0)));
}

/// Has an event end at a place, as far as the one behind it lets it; it keeps a length of `least`, or its own if that is shorter.
pub fn end_at(lane: &mut Lane, place: usize, end: Ticks, least: Ticks, length: Ticks) {
    if place >= lane.events.len() {
        return;
    }
    let (_, to) = room(lane, place, length);
    let event = &mut lane.events[place];
    let least = least.0.min(event.length.0);
    let end = end.0.min(to.0).max(event.at.0 + least);
    event.length = Ticks(end - event.at.0);
}

/// Splits an event at a place within it.
///
/// # Errors
/// If the place is not within it.
pub fn split(lane: &mut Lane, place: usize, at: Ticks) -> Result<(), String> {
    let within = lane.events.get(place).filter(|event| event.at < at && at < event.end());
    let Some(event) = within.cloned() else { return Err("that is not within an event; go into one first".to_owned()) };
    lane.events[place].length = Ticks(at.0 - event.at.0);
    lane.events.insert(place + 1, PatternEvent { at, length: Ticks(event.end().0 - at.0), ..event });
    Ok(())
}

/// Puts an event that is struck while a pattern plays onto the grid, at the place that is nearest to `beats`: as long as a step of
/// the grid, and else like `like`, or without that like the event before it. Returns its place.
///
/// # Errors
/// If there is no such lane, or nothing that the event could be like.
pub fn strike(pattern: &mut Pattern, lane: usize, beats: f64, like: Option<PatternEvent>) -> Result<Ticks, String> {
    let (step, length) = (pattern.grid.ticks(), pattern.length());
    let count = pattern.lanes.len();
    let lane =
        pattern.lanes.get_mut(lane).ok_or_else(|| format!("there is no lane {}; there are {count}", lane + 1))?;
    let nearest = (beats * f64::from(TICKS) / f64::from(step.0)).round() as u32 * step.0;
    // What is struck just before the end is meant for the beginning, where it comes to it again.
    let at = Ticks(if nearest >= length.0 { 0 } else { nearest });
    let before = lane.events.partition_point(|event| event.at <= at).checked_sub(1).and_then(|at| lane.events.get(at));
    let known = like.or_else(|| before.or(lane.events.last()).cloned());
    let model = match known {
        Some(known) => known,
        None => usual(lane.kind)
            .ok_or_else(|| format!("the lane has no {} yet; put one first, others are like it", lane.kind))?,
    };
    put(lane, PatternEvent { at, length: step, ..model }, length)?;
    Ok(at)
}

/// The event of a lane of a kind where nothing is said of it.
fn usual(kind: LaneKind) -> Option<PatternEvent> {
    let event = PatternEvent::default();
    match kind {
        LaneKind::Level => Some(PatternEvent { level: Some(100.0), ..event }),
        LaneKind::Colour => Some(PatternEvent { colour: Some("#ffffff".to_owned()), ..event }),
        LaneKind::Strobe => Some(PatternEvent { rate: Some(8.0), ..event }),
        LaneKind::Look | LaneKind::Aim => None,
    }
}

/// Draws a shape over the events of a time of a level lane: each gets the level that the shape has where it begins, the first that of
/// its beginning and the last that of its end.
///
/// # Errors
/// If fewer than two events begin there, or the lane is none of levels.
pub fn draw_over(lane: &mut Lane, from: Ticks, to: Ticks, shape: EventShape, level: f32) -> Result<(), String> {
    if lane.kind != LaneKind::Level {
        return Err("a shape is drawn over the events of a level lane".to_owned());
    }
    let drawn = PatternEvent { level: Some(level), shape, ..PatternEvent::default() };
    let mut within: Vec<&mut PatternEvent> =
        lane.events.iter_mut().filter(|event| from <= event.at && event.at < to).collect();
    let (Some(first), Some(last)) = (within.first().map(|event| event.at), within.last().map(|event| event.at)) else {
        return Err("there is no event to draw over; v chooses some".to_owned());
    };
    if first == last {
        return Err("there is one event alone; v chooses several to draw over".to_owned());
    }
    for event in &mut within {
        let share = f64::from(event.at.0 - first.0) / f64::from(last.0 - first.0);
        event.level = Some((drawn.level_at(share as f32) * 10.0).round() / 10.0);
    }
    Ok(())
}

/// The events of a time of a lane, cut at its ends and moved to its beginning.
fn within(lane: &Lane, from: Ticks, to: Ticks) -> Vec<PatternEvent> {
    let cut = lane.events.iter().filter(|event| event.end() > from && event.at < to).map(|event| {
        let (at, end) = (event.at.max(from), event.end().min(to));
        PatternEvent { at: Ticks(at.0 - from.0), length: Ticks(end.0 - at.0), ..event.clone() }
    });
    cut.collect()
}

/// Repeats a time of a lane every so many ticks, to the end of a pattern of a length.
///
/// # Errors
/// If there is nothing to repeat, or it would overlap itself.
pub fn repeat(lane: &mut Lane, from: Ticks, to: Ticks, every: Ticks, length: Ticks) -> Result<(), String> {
    let events = within(lane, from, to);
    if events.is_empty() {
        return Err("there is no event to repeat".to_owned());
    }
    if every.0 < to.0.saturating_sub(from.0) {
        return Err("it is longer than it is repeated after; repeat it after more".to_owned());
    }
    let mut at = from.0 + every.0;
    while at < length.0 {
        clear(lane, Ticks(at), Ticks((at + to.0 - from.0).min(length.0)));
        for event in &events {
            let event = PatternEvent { at: Ticks(at + event.at.0), ..event.clone() };
            if event.at < length {
                put(lane, event, length)?;
            }
        }
        at += every.0;
    }
    Ok(())
}

/// Copies a time of some lanes, by their places.
#[must_use]
pub fn copy(pattern: &Pattern, lanes: &[usize], from: Ticks, to: Ticks) -> Clipping {
    let of = |lane: &Lane| Lane { events: within(lane, from, to), ..lane.clone() };
    let lanes = lanes.iter().filter_map(|place| pattern.lanes.get(*place)).map(of);
    Clipping { lanes: lanes.collect(), length: Ticks(to.0.saturating_sub(from.0)) }
}

/// Pastes a clipping at a place: each lane onto the one of the same kind for the same lights, or as a new one. Other lanes stay as they
/// are.
///
/// # Errors
/// If there is no room.
pub fn paste(pattern: &mut Pattern, clipping: &Clipping, at: Ticks) -> Result<(), String> {
    let length = pattern.length();
    if at >= length {
        return Err("that is behind the end of the pattern".to_owned());
    }
    let end = Ticks((at.0 + clipping.length.0).min(length.0));
    let mut taken = vec![false; pattern.lanes.len()];
    for lane in &clipping.lanes {
        let fits = |(place, one): &(usize, &Lane)| !taken[*place] && one.kind == lane.kind && one.lights == lane.lights;
        let place = pattern.lanes.iter().enumerate().find(fits).map(|(place, _)| place);
        let place = place.unwrap_or_else(|| {
            pattern.lanes.push(Lane { events: Vec::new(), ..lane.clone() });
            taken.push(false);
            pattern.lanes.len() - 1
        });
        taken[place] = true;
        clear(&mut pattern.lanes[place], at, end);
        for event in &lane.events {
            let event = PatternEvent { at: Ticks(at.0 + event.at.0), ..event.clone() };
            if event.at < end {
                put(&mut pattern.lanes[place], event, end)?;
            }
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use splimo_show::{LaneKind, Note, TICKS};

    fn event(at: u32, length: u32, level: f32) -> PatternEvent {
        let ticks = |beats: u32| Ticks(beats * TICKS);
        PatternEvent { at: ticks(at), length: ticks(length), level: Some(level), ..PatternEvent::default() }
    }

    fn lane(events: &[(u32, u32)]) -> Lane {
        let events = events.iter().map(|(at, length)| event(*at, *length, 50.0)).collect();
        Lane { events, ..Lane::new(LaneKind::Level) }
    }

    fn told(lane: &Lane) -> Vec<(f64, f64)> {
        lane.events.iter().map(|event| (event.at.beats(), event.length.beats())).collect()
    }

    const LONG: Ticks = Ticks(16 * TICKS);

    #[test]
    fn an_event_that_is_put_has_others_give_way() {
        let mut one = lane(&[(0, 4), (4, 4), (10, 4)]);
        put(&mut one, event(3, 8, 90.0), LONG).expect("there is room");
        assert_eq!(told(&one), [(0.0, 3.0), (3.0, 8.0), (11.0, 3.0)]);
        put(&mut one, event(15, 9, 90.0), LONG).expect("there is room");
        assert_eq!(told(&one)[3], (15.0, 1.0));
        assert!(put(&mut one, event(16, 1, 90.0), LONG).is_err());
    }

    #[test]
    fn events_are_moved_stretched_and_split_between_those_beside_them() {
        let mut one = lane(&[(0, 2), (4, 2), (8, 2)]);
        move_to(&mut one, 1, Ticks(7 * TICKS), LONG);
        assert_eq!(told(&one)[1], (6.0, 2.0));
        move_to(&mut one, 1, Ticks(0), LONG);
        assert_eq!(told(&one)[1], (2.0, 2.0));
        end_at(&mut one, 1, Ticks(12 * TICKS), Ticks(TICKS), LONG);
        assert_eq!(told(&one)[1], (2.0, 6.0));
        end_at(&mut one, 1, Ticks(0), Ticks(TICKS), LONG);
        assert_eq!(told(&one)[1], (2.0, 1.0));
        assert!(split(&mut one, 1, Ticks(2 * TICKS)).is_err());
        split(&mut one, 2, Ticks(9 * TICKS)).expect("it is within");
        assert_eq!(told(&one)[2..], [(8.0, 1.0), (9.0, 1.0)]);
    }

    #[test]
    fn a_time_is_repeated_to_the_end() {
        let mut one = lane(&[(0, 1), (2, 1), (5, 9)]);
        repeat(&mut one, Ticks(0), Ticks(4 * TICKS), Ticks(4 * TICKS), LONG).expect("there is something");
        let beats: Vec<f64> = told(&one).iter().map(|(at, _)| *at).collect();
        assert_eq!(beats, [0.0, 2.0, 4.0, 6.0, 8.0, 10.0, 12.0, 14.0]);
        assert!(repeat(&mut lane(&[]), Ticks(0), LONG, LONG, LONG).is_err());
        assert!(repeat(&mut one, Ticks(0), LONG, Ticks(TICKS), LONG).is_err(), "it would overlap itself");
    }

    #[test]
    fn pasting_goes_by_kind_and_lights_and_makes_lanes_that_are_missing() {
        let mut from = Pattern::new(4);
        from.lanes =
            vec![lane(&[(0, 1)]), Lane { lights: vec!["Sail".into()], ..lane(&[(1, 1)]) }, Lane::new(LaneKind::Colour)];
        let clipping = copy(&from, &[1, 0], Ticks(0), Ticks(4 * TICKS));
        let mut to = Pattern::new(4);
        to.lanes = vec![Lane::new(LaneKind::Colour), lane(&[(4, 2), (12, 1)])];
        paste(&mut to, &clipping, Ticks(4 * TICKS)).expect("there is room");
        assert_eq!(to.lanes.len(), 3);
        assert_eq!(told(&to.lanes[1]), [(4.0, 1.0), (12.0, 1.0)]);
        assert_eq!((to.lanes[2].lights.as_slice(), told(&to.lanes[2])), (&["Sail".to_owned()][..], vec![(5.0, 1.0)]));
    }

    fn sound(lane: &Lane, length: Ticks) -> bool {
        let follow = lane.events.windows(2).all(|pair| pair[0].end() <= pair[1].at);
        follow && lane.events.iter().all(|event| event.length.0 > 0 && event.end() <= length)
    }

    proptest! {
        #[test]
        fn whatever_is_done_nothing_overlaps_and_other_lanes_stay(
            deeds in prop::collection::vec((0u8..6, 0usize..6, 0u32..70, 1u32..20), 1..40),
        ) {
            let grid = Note::Sixteenth.ticks().0;
            let mut pattern = Pattern::new(4);
            pattern.lanes = vec![lane(&[(0, 1), (3, 2)]), Lane { lights: vec!["Sail".into()], ..lane(&[(1, 1)]) }];
            let (length, untouched) = (pattern.length(), pattern.lanes[1].clone());
            for (deed, place, at, long) in deeds {
                let (at, long) = (Ticks(at * grid), Ticks(long * grid));
                let lane = &mut pattern.lanes[0];
                // Some of these are refused; none may do harm.
                let _ = match deed {
                    0 => put(lane, PatternEvent { at, length: long, level: Some(1.0), ..PatternEvent::default() }, length),
                    1 => { move_to(lane, place, at, length); Ok(()) }
                    2 => { end_at(lane, place, at, Ticks(grid), length); Ok(()) }
                    3 => split(lane, place, at),
                    4 => repeat(lane, at, Ticks(at.0 + long.0).min(length), long, length),
                    _ => {
                        let clipping = copy(&pattern, &[0], at, Ticks(at.0 + long.0));
                        paste(&mut pattern, &clipping, Ticks(long.0))
                    }
                };
                prop_assert!(sound(&pattern.lanes[0], length), "{:?}", pattern.lanes[0]);
            }
            prop_assert_eq!(&pattern.lanes[1], &untouched);
        }
    }

    #[test]
    fn what_is_struck_comes_onto_the_grid_and_is_like_what_was_before() {
        let mut pattern = Pattern::new(1);
        pattern.lanes = vec![lane(&[]), Lane::new(LaneKind::Look)];
        let at = |pattern: &mut Pattern, beats: f64| strike(pattern, 0, beats, None).map(Ticks::beats);
        assert_eq!(
            [at(&mut pattern, 0.9), at(&mut pattern, 2.2), at(&mut pattern, 3.95)],
            [Ok(1.0), Ok(2.25), Ok(0.0)]
        );
        let like = PatternEvent { level: Some(30.0), ..PatternEvent::default() };
        strike(&mut pattern, 0, 2.0, Some(like)).expect("there is room");
        strike(&mut pattern, 0, 3.0, None).expect("there is room");
        let levels: Vec<Option<f32>> = pattern.lanes[0].events.iter().map(|event| event.level).collect();
        assert_eq!(levels, [100.0, 100.0, 30.0, 100.0, 100.0].map(Some), "each like the one before it");
        assert!(strike(&mut pattern, 1, 0.0, None).is_err_and(|why| why.contains("no look yet")));
        assert!(strike(&mut pattern, 5, 0.0, None).is_err_and(|why| why.contains("there are 2")));
    }

    #[test]
    fn a_shape_is_drawn_over_events_from_the_first_to_the_last() {
        let mut drawn = lane(&[(0, 1), (2, 1), (4, 1), (8, 1)]);
        draw_over(&mut drawn, Ticks(0), Ticks(9000), EventShape::Up, 80.0).expect("there are four");
        let levels: Vec<f32> = drawn.events.iter().filter_map(|event| event.level).collect();
        assert_eq!(levels, [0.0, 20.0, 40.0, 80.0]);
        assert!(draw_over(&mut drawn, Ticks(0), Ticks(1), EventShape::Up, 80.0).is_err(), "one alone");
        assert!(draw_over(&mut Lane::new(LaneKind::Colour), Ticks(0), Ticks(9), EventShape::Up, 80.0).is_err());
    }
}
