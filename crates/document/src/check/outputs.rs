//! Problems of routes and supplies.

use std::collections::HashMap;

use super::Found;
use splimo_show::Severity;
use splimo_show::{Destination, Place, Route, Show, TransportKind};
use splimo_transport::FieldKind;

impl Found {
    pub(super) fn routes(&mut self, show: &Show) {
        for (i, route) in show.routes.iter().enumerate() {
            let place = || Place::root().key("routes").index(i);
            let subject = format!("route {}", route.name);
            self.numbers(route, place(), &subject);
            for field in route.transport.fields() {
                if let FieldKind::Whole { from, to, .. } = field.kind {
                    let value = route.transport.value(field.name).whole();
                    self.range(place().key(field.name), &subject, value as f32, from as f32, to as f32);
                }
            }
            self.range(place().key("limit"), &subject, route.limit, 0.0, 100.0);
            if let Some(rate) = route.rate {
                self.range(place().key("rate"), &subject, rate, 1.0, 1000.0);
            }
            for destination in &route.to.0 {
                if !route.transport.reaches(destination) {
                    let message = format!("{} does not go to {destination}", route.transport.name());
                    let mend = route.transport.destination_mend();
                    self.add(Severity::Broken, place().key("to"), &subject, message, mend);
                }
            }
            self.rate_of(show, i, route);
        }
    }

    /// Numbers that the protocol does not have.
    fn numbers(&mut self, route: &Route, place: Place, subject: &str) {
        let Some(numbers) = route.transport.numbers() else { return };
        let first = u32::from(route.first());
        let last = first + route.universes.count() - 1;
        if !numbers.contains(&first) || !numbers.contains(&last) {
            let message = format!("{} universes {first} to {last} do not all exist", route.transport.name());
            let mend = format!("keep them within {} to {}", numbers.start(), numbers.end());
            self.add(Severity::Broken, place.key("first"), subject, message, mend);
        }
    }

    /// A rate that no frame is made for.
    fn rate_of(&mut self, show: &Show, index: usize, route: &Route) {
        if let Some(rate) = route.rate.filter(|rate| *rate > show.settings.rate) {
            let made = show.settings.rate;
            let place = Place::root().key("routes").index(index).key("rate");
            let message = format!("it asks for {rate} frames a second, and only {made} are made");
            let mend = format!("raise rate under [settings] to {rate}, or lower that of the route");
            self.add(Severity::Warning, place, format!("route {}", route.name), message, mend);
        }
    }

    /// Two universes of the show that go by the same number to the same place.
    pub(super) fn doubled_numbers(&mut self, show: &Show) {
        let mut taken: HashMap<(TransportKind, u16, &Destination), (&str, u32)> = HashMap::new();
        for (i, route) in show.routes.iter().enumerate().filter(|(_, r)| r.enabled && r.transport.numbers().is_some()) {
            let mut told = false;
            for universe in route.universes.numbers().take(MOST_LOOKED_AT) {
                let Some(number) = route.number_of(universe) else { break };
                for to in &route.to.0 {
                    let (other, theirs) = *taken.entry((route.kind(), number, to)).or_insert((&route.name, universe));
                    if (other, theirs) != (route.name.as_str(), universe) && !std::mem::replace(&mut told, true) {
                        let name = route.kind().name();
                        let message = format!(
                            "it sends universe {universe} to {to} as {name} {number}, and so does route {other} with universe {theirs}"
                        );
                        let place = Place::root().key("routes").index(i).key("first");
                        let mend = "give one of them another first number, or another destination";
                        self.add(Severity::Error, place, format!("route {}", route.name), message, mend);
                    }
                }
            }
        }
    }

    pub(super) fn supplies(&mut self, show: &Show) {
        let mut fed: HashMap<usize, &str> = HashMap::new();
        for (i, supply) in show.supplies.iter().enumerate() {
            let place = || Place::root().key("supplies").index(i);
            let subject = format!("supply {}", supply.name);
            if let Some(limit) = supply.limit {
                self.range(place().key("limit"), &subject, limit, 0.01, 100_000.0);
            }
            let twice = show.fixtures_of(&supply.feeds).into_iter().find_map(|fixture| {
                let first = *fed.entry(fixture).or_insert(&supply.name);
                (first != supply.name).then_some((fixture, first))
            });
            if let Some((fixture, first)) = twice {
                let message = format!("{} is fed by supply {first} already", show.fixtures[fixture].name);
                let mend = "let one supply feed it; it counts for the first";
                self.add(Severity::Warning, place().key("feeds"), &subject, message, mend);
            }
        }
    }
}

/// Numbers of a route that are looked at, so that the largest routes do not hold up an edit.
const MOST_LOOKED_AT: usize = 4096;
