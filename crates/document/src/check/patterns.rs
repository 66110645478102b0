//! Problems of patterns.

use super::Found;
use splimo_show::Severity;
use splimo_show::palette;
use splimo_show::{
    FASTEST_STROBE, Lane, LaneKind, MOST_BARS, MOST_LANE_EVENTS, MOST_LANES, Pattern, PatternEvent, Place, Show, Span,
};
use splimo_time::tempo::{FASTEST, SLOWEST};

impl Found {
    pub(super) fn patterns(&mut self, show: &Show) {
        for (index, look) in show.looks.iter().enumerate() {
            if let Some(pattern) = &look.pattern {
                let place = Place::root().key("looks").index(index).key("pattern");
                self.pattern(&place, &format!("pattern {}", look.name), pattern, show);
            }
        }
    }

    fn pattern(&mut self, place: &Place, subject: &str, pattern: &Pattern, show: &Show) {
        self.range(place.clone().key("bars"), subject, pattern.bars as f32, 1.0, MOST_BARS as f32);
        self.range(place.clone().key("speed"), subject, pattern.speed as f32, 0.125, 8.0);
        if let Some(tempo) = pattern.tempo {
            self.range(place.clone().key("tempo"), subject, tempo as f32, SLOWEST as f32, FASTEST as f32);
        }
        if pattern.lanes.len() > MOST_LANES {
            let message = format!("it has {} lanes", pattern.lanes.len());
            self.add(
                Severity::Broken,
                place.clone().key("lanes"),
                subject,
                message,
                format!("keep it to {MOST_LANES}"),
            );
        }
        for (index, lane) in pattern.lanes.iter().enumerate() {
            let place = place.clone().key("lanes").index(index);
            let subject = format!("{subject}, lane {} ({})", index + 1, lane.kind);
            self.lane(&place, &subject, lane, pattern);
            for (at, event) in lane.events.iter().enumerate() {
                self.event(&place.clone().key("events").index(at), &subject, event, lane, show);
            }
        }
    }

    fn lane(&mut self, place: &Place, subject: &str, lane: &Lane, pattern: &Pattern) {
        if let Some(rest) = lane.rest {
            self.range(place.clone().key("rest"), subject, rest, 0.0, 100.0);
        }
        if !matches!(lane.order, Span::Order | Span::OrderInGroup | Span::OrderInFixture) {
            let mend = "write order, order in each group, or order in each fixture";
            self.add(Severity::Broken, place.clone().key("order"), subject, "lights are not later over an area", mend);
        }
        if lane.events.len() > MOST_LANE_EVENTS {
            let message = format!("it has {} events", lane.events.len());
            let mend = format!("keep it to {MOST_LANE_EVENTS}");
            self.add(Severity::Broken, place.clone().key("events"), subject, message, mend);
        }
        for (at, pair) in lane.events.windows(2).enumerate() {
            if pair[1].at < pair[0].end() {
                let message =
                    format!("the event at {} begins before the one at {} ends", pair[1].at.beats(), pair[0].at.beats());
                let place = place.clone().key("events").index(at + 1);
                self.add(
                    Severity::Broken,
                    place,
                    subject,
                    message,
                    "events of a lane follow one another; move or shorten one",
                );
            }
        }
        if let Some(last) = lane.events.last().filter(|last| last.end() > pattern.length()) {
            let message = format!("the event at {} ends behind the pattern", last.at.beats());
            let place = place.clone().key("events").index(lane.events.len() - 1);
            self.add(Severity::Broken, place, subject, message, "shorten it, or make the pattern longer");
        }
    }

    fn event(&mut self, place: &Place, subject: &str, event: &PatternEvent, lane: &Lane, show: &Show) {
        if event.length.0 == 0 {
            self.add(Severity::Broken, place.clone().key("length"), subject, "an event has no length", "give it one");
        }
        for (key, value) in
            event.level.iter().map(|level| ("level", level)).chain(event.curve.iter().map(|point| ("curve", point)))
        {
            self.range(place.clone().key(key), subject, *value, 0.0, 100.0);
        }
        if let Some(rate) = event.rate {
            self.range(place.clone().key("rate"), subject, rate, 0.1, FASTEST_STROBE);
        }
        if let Some(Err(why)) = event.colour.as_deref().map(|colour| palette::gradient(colour, &show.palette)) {
            self.add(Severity::Broken, place.clone().key("colour"), subject, "has a colour that cannot be read", why);
        }
        let (has, mend) = match lane.kind {
            LaneKind::Level => (event.level.is_some(), "write level = 100"),
            LaneKind::Colour => (event.colour.is_some(), "write colour = \"#ff8040\""),
            LaneKind::Look => (event.look.is_some(), "write look and the name of one"),
            LaneKind::Aim => (event.aim.is_some(), "write aim and the name of one"),
            LaneKind::Strobe => (event.rate.is_some(), "write rate, in flashes a second"),
        };
        if !has {
            let message = format!("an event says no {}", lane.kind);
            self.add(Severity::Broken, place.clone(), subject, message, mend);
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::file::read;

    #[test]
    fn a_pattern_with_what_cannot_be_is_refused_with_its_place() {
        for (bad, why) in [
            (
                "events = [{ at = 0, length = 2, level = 10.0 }, { at = 1, length = 1, level = 10.0 }]",
                "begins before the one at 0 ends",
            ),
            ("events = [{ at = 3, length = 2, level = 10.0 }]", "ends behind the pattern"),
            ("events = [{ at = 3, length = 1, colour = \"#ffffff\" }]", "an event says no level"),
            ("order = \"canvas\"", "not later over an area"),
            ("events = [{ at = 300, length = 1, level = 10.0 }]", "300 beats are not 0 to 256"),
        ] {
            let text = format!(
                "version = 1\nname = \"Bad\"\n[[looks]]\nname = \"Bad\"\n[looks.pattern]\nbars = 1\n[[looks.pattern.lanes]]\nof = \"level\"\n{bad}\n"
            );
            let error = read(&text).expect_err("it is refused").to_string();
            assert!(error.contains(why) && error.contains("line"), "{bad}: {error}");
            let error =
                read(&text.replace("of = \"level\"", "of = \"aim\"").replace(bad, "events = [{ at = 0, length = 1 }]"));
            assert!(error.expect_err("it is refused").to_string().contains("an event says no aim"));
        }
    }
}
