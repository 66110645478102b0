//! The course of a lane: what it says at each place of its pattern, and the sum of that up to there, by which a light that is later than
//! others by a little has the mean over its own time. Runs glide so, and together their lights are as bright at every moment.

use splimo_show::{EventShape, Lane, LaneKind, PatternEvent};

/// The four parts of a value: a colour with its cover, or a level in all of them.
pub(super) type Value = [f64; 4];

#[derive(Debug, Clone, PartialEq)]
enum Shape {
    /// From one value to another, in a line.
    Line(Value, Value),
    Pulse(f64),
    Decay(f64),
    /// Points at even distances, and the sum up to each in parts of the event.
    Curve(Vec<Value>, Vec<Value>),
}

/// An event, with places in beats.
#[derive(Debug, Clone, PartialEq)]
struct Part {
    at: f64,
    length: f64,
    shape: Shape,
    /// The sum of the course up to its beginning.
    sum: Value,
}

/// The course of a lane.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Course {
    parts: Vec<Part>,
    rest: Value,
    length: f64,
    loops: bool,
    /// The sum over all of the pattern.
    whole: Value,
}

fn plus(a: Value, b: Value, times: f64) -> Value {
    std::array::from_fn(|part| a[part] + b[part] * times)
}

impl Course {
    /// The course of a lane in a pattern of so many beats. `colours` reads a colour, or the points of a gradient at even distances;
    /// one that cannot be read is clear.
    pub(super) fn of(lane: &Lane, length: f64, loops: bool, colours: impl Fn(&str) -> Option<Vec<Value>>) -> Self {
        let rest = match lane.kind {
            LaneKind::Level => [f64::from(lane.rest.unwrap_or(100.0)) / 100.0; 4],
            LaneKind::Strobe => [1.0; 4],
            LaneKind::Colour | LaneKind::Look | LaneKind::Aim => [0.0; 4],
        };
        let colours: Vec<Vec<Value>> = match lane.kind {
            LaneKind::Colour => {
                let read = |event: &PatternEvent| {
                    let read = event.colour.as_deref().and_then(&colours).filter(|points| !points.is_empty());
                    read.unwrap_or_else(|| vec![[0.0; 4]])
                };
                lane.events.iter().map(read).collect()
            }
            LaneKind::Level | LaneKind::Look | LaneKind::Strobe | LaneKind::Aim => Vec::new(),
        };
        let mut course = Self { parts: Vec::new(), rest, length, loops, whole: [0.0; 4] };
        let (mut sum, mut end) = ([0.0; 4], 0.0);
        for (place, event) in lane.events.iter().enumerate() {
            let shape = match colours.get(place) {
                Some(points) => {
                    let next = event.fades.then(|| colours[(place + 1) % colours.len()][0]);
                    through(points.iter().copied().chain(next).collect())
                }
                None => shape_of(event),
            };
            let (at, length) = (event.at.beats(), event.length.beats());
            sum = plus(sum, rest, at - end);
            let part = Part { at, length, shape, sum };
            sum = plus(sum, part.sum_to(1.0), length);
            end = at + length;
            course.parts.push(part);
        }
        course.whole = plus(sum, rest, length - end);
        course
    }

    /// The event at a place of the pattern in beats, which may be behind its end where it loops, with the place in the event in
    /// parts of it. `near` is where the last one was.
    fn part(&self, at: f64, near: usize) -> (usize, Option<&Part>) {
        let begun = |place: usize| self.parts.get(place).is_none_or(|part| part.at > at);
        let fits = |count: usize| begun(count) && (count == 0 || self.parts[count - 1].at <= at);
        let count = [near, near.saturating_sub(1)].into_iter().find(|count| *count <= self.parts.len() && fits(*count));
        let count = count.unwrap_or_else(|| self.parts.partition_point(|part| part.at <= at));
        (count, count.checked_sub(1).map(|place| &self.parts[place]))
    }

    /// The number of times that it has been played before a place, and the place in it; none before its beginning and behind its
    /// end.
    fn place(&self, at: f64) -> Option<(f64, f64)> {
        if at < 0.0 || (!self.loops && at >= self.length) {
            return None;
        }
        let times = if self.loops { (at / self.length).floor() } else { 0.0 };
        Some((times, at - times * self.length))
    }

    /// The length of its pattern, in beats.
    pub(super) fn length(&self) -> f64 {
        self.length
    }

    /// The value at a place, in beats since it began.
    pub(super) fn value(&self, at: f64) -> Value {
        let Some((_, at)) = self.place(at) else { return self.rest };
        match self.part(at, usize::MAX).1 {
            Some(part) if at < part.at + part.length => part.value((at - part.at) / part.length),
            _ => self.rest,
        }
    }

    /// The place in its lane of the event that is on, and the beats since that began.
    pub(super) fn event(&self, at: f64) -> Option<(usize, f64)> {
        let (_, at) = self.place(at)?;
        let (count, part) = self.part(at, usize::MAX);
        let part = part.filter(|part| at < part.at + part.length)?;
        Some((count - 1, at - part.at))
    }

    /// The sum of all values up to a place; `near` helps to find it, and is where it was found.
    fn sum(&self, at: f64, near: &mut usize) -> Value {
        let Some((times, within)) = self.place(at) else {
            // Before its beginning and behind its end there is what there is without events.
            let (before, behind) = (at.min(0.0), (at - self.length).max(0.0));
            let whole = if at < 0.0 { [0.0; 4] } else { self.whole };
            return plus(whole, self.rest, before + behind);
        };
        let (count, part) = self.part(within, *near);
        *near = count;
        let sum = match part {
            None => plus([0.0; 4], self.rest, within),
            Some(part) => {
                let share = ((within - part.at) / part.length).min(1.0);
                let sum = plus(part.sum, part.sum_to(share), part.length);
                plus(sum, self.rest, (within - part.at - part.length).max(0.0))
            }
        };
        plus(sum, self.whole, times)
    }

    /// The means over a width, one after the other.
    pub(super) fn means(&self, width: f64) -> Means<'_> {
        Means { course: self, width, near: 0, edge: None }
    }
}

/// The means of a course over a width. Those of places a width apart, from the last to the first, have an edge in common, so that each
/// costs one sum.
pub(super) struct Means<'c> {
    course: &'c Course,
    width: f64,
    near: usize,
    /// The last lower edge, and the sum up to it.
    edge: Option<(f64, Value)>,
}

impl Means<'_> {
    /// The mean of the values from half a width before a place to half a width behind it.
    pub(super) fn at(&mut self, at: f64) -> Value {
        let (from, to) = (at - self.width / 2.0, at + self.width / 2.0);
        let known = self.edge.filter(|(edge, _)| (edge - to).abs() < 1e-9).map(|(_, sum)| sum);
        let upper = known.unwrap_or_else(|| self.course.sum(to, &mut self.near));
        let lower = self.course.sum(from, &mut self.near);
        self.edge = Some((from, lower));
        std::array::from_fn(|part| (upper[part] - lower[part]) / self.width)
    }
}

fn shape_of(event: &PatternEvent) -> Shape {
    let level = f64::from(event.level.unwrap_or(100.0)) / 100.0;
    match event.shape {
        EventShape::On => Shape::Line([level; 4], [level; 4]),
        EventShape::Up => Shape::Line([0.0; 4], [level; 4]),
        EventShape::Down => Shape::Line([level; 4], [0.0; 4]),
        EventShape::Pulse => Shape::Pulse(level),
        EventShape::Decay => Shape::Decay(level),
        EventShape::Curve => {
            let points: Vec<Value> = event.curve.iter().map(|point| [level * f64::from(*point) / 100.0; 4]).collect();
            through(if points.is_empty() { vec![[level; 4]] } else { points })
        }
    }
}

/// The shape that goes through points at even distances, of which there is one at the least.
fn through(mut points: Vec<Value>) -> Shape {
    if points.len() == 1 {
        points.push(points[0]);
    }
    if let [from, to] = points[..] {
        return Shape::Line(from, to);
    }
    let step = 1.0 / (points.len() - 1) as f64;
    let sums = points.windows(2).scan([0.0; 4], |sum, pair| {
        *sum = plus(*sum, plus(pair[0], pair[1], 1.0), step / 2.0);
        Some(*sum)
    });
    let sums = std::iter::once([0.0; 4]).chain(sums).collect();
    Shape::Curve(points, sums)
}

impl Part {
    /// The value at a place in it, in parts of it.
    fn value(&self, share: f64) -> Value {
        match &self.shape {
            Shape::Line(from, to) => std::array::from_fn(|part| from[part] + (to[part] - from[part]) * share),
            // Without a corner at either end.
            Shape::Pulse(level) => [level * 16.0 * (share * (1.0 - share)).powi(2); 4],
            Shape::Decay(level) => [level * (1.0 - share).powi(4); 4],
            Shape::Curve(points, _) => {
                let place = share * (points.len() - 1) as f64;
                let index = (place as usize).min(points.len() - 2);
                let (from, to) = (points[index], points[index + 1]);
                std::array::from_fn(|part| from[part] + (to[part] - from[part]) * (place - index as f64))
            }
        }
    }

    /// The sum of its values up to a place in it, both in parts of it.
    fn sum_to(&self, share: f64) -> Value {
        match &self.shape {
            Shape::Line(from, to) => {
                std::array::from_fn(|part| from[part] * share + (to[part] - from[part]) * share * share / 2.0)
            }
            Shape::Pulse(level) => [level * 16.0 * share.powi(3) * (1.0 / 3.0 - share / 2.0 + share * share / 5.0); 4],
            Shape::Decay(level) => [level * (1.0 - (1.0 - share).powi(5)) / 5.0; 4],
            Shape::Curve(points, sums) => {
                let place = share * (points.len() - 1) as f64;
                let index = (place as usize).min(points.len() - 2);
                let (within, step) = (place - index as f64, 1.0 / (points.len() - 1) as f64);
                let (from, to) = (points[index], points[index + 1]);
                std::array::from_fn(|part| {
                    let mean = from[part] + (to[part] - from[part]) * within / 2.0;
                    sums[index][part] + mean * within * step
                })
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use splimo_show::Ticks;

    fn lane(events: &[(f64, f64, EventShape)], rest: Option<f32>) -> Lane {
        let event = |(at, length, shape): &(f64, f64, EventShape)| PatternEvent {
            at: Ticks::of_beats(*at).expect("a place"),
            length: Ticks::of_beats(*length).expect("a length"),
            shape: *shape,
            level: Some(80.0),
            curve: vec![0.0, 100.0, 50.0],
            ..PatternEvent::default()
        };
        Lane { rest, events: events.iter().map(event).collect(), ..Lane::new(LaneKind::Level) }
    }

    fn course(events: &[(f64, f64, EventShape)], rest: Option<f32>, loops: bool) -> Course {
        Course::of(&lane(events, rest), 8.0, loops, |_| None)
    }

    #[test]
    fn each_shape_has_its_course() {
        let at = |shape, share: f64| {
            let value = course(&[(2.0, 4.0, shape)], Some(0.0), true).value(2.0 + 4.0 * share)[0];
            (value * 1000.0).round() / 1000.0
        };
        assert_eq!([0.0, 0.5, 0.99].map(|share| at(EventShape::On, share)), [0.8, 0.8, 0.8]);
        assert_eq!([0.0, 0.5].map(|share| at(EventShape::Up, share)), [0.0, 0.4]);
        assert_eq!([0.0, 0.5].map(|share| at(EventShape::Down, share)), [0.8, 0.4]);
        assert_eq!([0.0, 0.25, 0.5].map(|share| at(EventShape::Pulse, share)), [0.0, 0.45, 0.8]);
        assert_eq!([0.0, 0.5].map(|share| at(EventShape::Decay, share)), [0.8, 0.05]);
        assert_eq!([0.0, 0.25, 0.5, 0.75].map(|share| at(EventShape::Curve, share)), [0.0, 0.4, 0.8, 0.6]);
        // A screen draws the same.
        for shape in EventShape::ALL {
            let event = lane(&[(0.0, 1.0, *shape)], None).events.remove(0);
            for share in [0.0, 0.3, 0.7, 0.99] {
                let (drawn, lit) = (f64::from(event.level_at(share as f32)) / 100.0, at(*shape, share));
                assert!((drawn - lit).abs() < 2e-3, "{shape} {share}: {drawn} {lit}");
            }
        }
    }

    #[test]
    fn outside_its_events_it_rests_and_once_is_once() {
        let all = [(0.0, 1.0, EventShape::On)];
        let (loops, once, below) =
            (course(&all, Some(20.0), true), course(&all, Some(20.0), false), course(&all, None, true));
        let value = |course: &Course, at: f64| (course.value(at)[0] * 10.0).round();
        assert_eq!([-1.0, 0.5, 1.0, 8.5, 9.0].map(|at| value(&loops, at)), [2.0, 8.0, 2.0, 8.0, 2.0]);
        assert_eq!([0.5, 8.5].map(|at| value(&once, at)), [8.0, 2.0]);
        assert_eq!(value(&below, 4.0), 10.0, "as below");
        assert_eq!((loops.event(16.25), loops.event(2.0)), (Some((0, 0.25)), None));
    }

    proptest! {
        /// The mean over a width is that of many values within it.
        #[test]
        fn means_are_those_of_the_values(at in -2.0f64..30.0, width in 0.05f64..1.0, shape in 0usize..6, loops: bool, rest in prop::option::of(0.0f32..100.0)) {
            let shape = EventShape::ALL[shape];
            let course = course(&[(0.5, 1.5, shape), (2.0, 3.0, EventShape::Up), (7.0, 1.0, shape)], rest, loops);
            let mut means = course.means(width);
            means.at(at + width);
            let mean = means.at(at)[0];
            let steps = 4000;
            let sum: f64 = (0..steps).map(|step| course.value(at + width * ((f64::from(step) + 0.5) / f64::from(steps) - 0.5))[0]).sum();
            prop_assert!((mean - sum / f64::from(steps)).abs() < 2e-3, "{mean} {}", sum / f64::from(steps));
        }
    }
}
