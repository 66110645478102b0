//! Problems of a show, each with its place and its mend.

mod aims;
mod cues;
mod inputs;
mod looks;
mod outputs;
mod patterns;
mod play;
mod references;
mod schedule;
mod timelines;

use std::collections::HashSet;

use crate::patch::{Occupancy, Profiles};
use splimo_light::rig;
use splimo_show::setting::SETTINGS;
use splimo_show::{Fixture, Place, Problem, Severity, Show, Step};

/// The most cells that all fixtures together may have.
pub const MOST_LEDS: u64 = 4_000_000;

/// Every problem of a show, the worst first.
#[must_use]
pub fn check(show: &Show) -> Vec<Problem> {
    let mut found = Found(structure(show));
    if found.0.iter().all(|p| p.severity != Severity::Broken) {
        found.patch(show);
    }
    found.0.sort_by_key(|p| std::cmp::Reverse(p.severity));
    found.0
}

/// The problems that lie in the document itself: values out of range, names used twice, references to nothing. What
/// channels and places the fixtures take is not looked at.
#[must_use]
pub fn structure(show: &Show) -> Vec<Problem> {
    let mut found = Found(Vec::new());
    found.settings(show);
    found.profiles(show);
    found.names(show);
    found.fixtures(show);
    found.aims(show);
    found.references(show);
    found.palette(show);
    found.regions(show);
    found.looks(show);
    found.routes(show);
    found.supplies(show);
    found.play(show);
    found.cues(show);
    found.schedule(show);
    found.patterns(show);
    found.timelines(show);
    found.inputs(show);
    found.0
}

struct Found(Vec<Problem>);

impl Found {
    fn add(
        &mut self,
        severity: Severity,
        place: Place,
        subject: impl Into<String>,
        message: impl Into<String>,
        mend: impl Into<String>,
    ) {
        let (subject, message, mend) = (subject.into(), message.into(), mend.into());
        self.0.push(Problem { severity, place, subject, message, mend });
    }

    fn range(&mut self, place: Place, subject: &str, value: f32, from: f32, to: f32) {
        if !(from..=to).contains(&value) {
            let name = match place.0.last() {
                Some(Step::Key(name)) => format!("{name}: "),
                Some(Step::Index(_) | Step::Named(_)) | None => String::new(),
            };
            let message = format!("{name}{value} is out of range");
            self.add(Severity::Broken, place, subject, message, format!("write a number from {from} to {to}"));
        }
    }

    fn settings(&mut self, show: &Show) {
        for spec in SETTINGS {
            let place = Place::root().key("settings").key(spec.key);
            if let Err(why) = spec.put(&mut show.settings.clone(), &spec.value(&show.settings)) {
                let mend = format!("write {}", spec.range());
                self.add(Severity::Broken, place, format!("setting {}", spec.key), why, mend);
            }
        }
        let canvas = || Place::root().key("canvas");
        self.range(canvas().key("width"), "canvas width", show.canvas.width, 1.0, 100_000.0);
        self.range(canvas().key("height"), "canvas height", show.canvas.height, 1.0, 100_000.0);
    }

    fn profiles(&mut self, show: &Show) {
        for (i, profile) in show.profiles.iter().enumerate() {
            let place = Place::root().key("profiles").index(i);
            let subject = format!("profile {}", profile.name);
            if let Some((message, mend)) = profile.fault() {
                self.add(Severity::Broken, place, subject, message, mend);
            }
        }
    }

    fn names(&mut self, show: &Show) {
        let lights = show.fixtures.iter().enumerate().map(|(i, f)| ("fixtures", "fixture", i, &f.name));
        let groups = show.groups.iter().enumerate().map(|(i, g)| ("groups", "group", i, &g.name));
        self.unique(lights.chain(groups));
        self.unique(show.palette.iter().enumerate().map(|(i, s)| ("palette", "palette entry", i, &s.name)));
        self.unique(show.regions.iter().enumerate().map(|(i, r)| ("regions", "region", i, &r.name)));
        self.unique(show.looks.iter().enumerate().map(|(i, l)| ("looks", "look", i, &l.name)));
        self.unique(show.routes.iter().enumerate().map(|(i, r)| ("routes", "route", i, &r.name)));
        self.unique(show.supplies.iter().enumerate().map(|(i, s)| ("supplies", "supply", i, &s.name)));
        self.unique(show.aims.iter().enumerate().map(|(i, a)| ("aims", "aim", i, &a.name)));
        self.unique(show.tiers.iter().enumerate().map(|(i, t)| ("tiers", "tier", i, &t.name)));
        self.unique(show.banks.iter().enumerate().map(|(i, b)| ("banks", "bank", i, &b.name)));
        self.unique(show.cue_lists.iter().enumerate().map(|(i, c)| ("cue_lists", "cue list", i, &c.name)));
        self.unique(show.timelines.iter().enumerate().map(|(i, t)| ("timelines", "timeline", i, &t.name)));
        self.unique(show.programs.iter().enumerate().map(|(i, p)| ("programs", "program", i, &p.name)));
        self.unique(show.controls.iter().enumerate().map(|(i, c)| ("controls", "control", i, &c.name)));
        self.unique(show.inputs.iter().enumerate().map(|(i, n)| ("inputs", "input", i, &n.name)));
        self.unique(show.profiles.iter().enumerate().map(|(i, p)| ("profiles", "profile", i, &p.name)));
    }

    fn unique<'a>(&mut self, names: impl Iterator<Item = (&'static str, &'static str, usize, &'a String)>) {
        let mut seen = HashSet::new();
        for (list, kind, index, name) in names {
            let place = || Place::root().key(list).index(index).key("name");
            if name.trim().is_empty() {
                self.add(Severity::Error, place(), format!("{kind} {}", index + 1), "has no name", "give it a name");
            } else if !seen.insert(name) {
                self.add(
                    Severity::Error,
                    place(),
                    format!("{kind} {name}"),
                    "its name is used twice",
                    "give one of the two another name",
                );
            }
        }
    }

    fn fixtures(&mut self, show: &Show) {
        let mut leds = 0;
        for (i, fixture) in show.fixtures.iter().enumerate() {
            leds += fixture.shape.cells();
            // Nearly all are right, and of those nothing is to be written.
            if is_right(fixture) {
                continue;
            }
            let place = || Place::root().key("fixtures").index(i);
            let subject = format!("fixture {}", fixture.name);
            for (field, fault) in [("shape", fixture.shape.fault()), ("wiring", fixture.wiring.fault())] {
                if let Some((message, mend)) = fault {
                    self.add(Severity::Broken, place().key(field), &subject, message, mend);
                }
            }
            self.range(place().key("pan"), &subject, fixture.pan, 0.0, 100.0);
            self.range(place().key("tilt"), &subject, fixture.tilt, 0.0, 100.0);
            self.range(place().key("pitch"), &subject, fixture.pitch, 0.001, 10_000.0);
            self.range(place().key("angle"), &subject, fixture.angle, -3600.0, 3600.0);
            self.range(place().key("x"), &subject, fixture.x, -1e6, 1e6);
            self.range(place().key("y"), &subject, fixture.y, -1e6, 1e6);
        }
        if leds > MOST_LEDS {
            let mend = format!("keep all fixtures together under {MOST_LEDS} cells");
            self.add(
                Severity::Broken,
                Place::root().key("fixtures"),
                "fixtures",
                format!("they have {leds} cells"),
                mend,
            );
        }
    }

    fn patch(&mut self, show: &Show) {
        let mut profiles = Profiles::of(show);
        for (i, fixture) in show.fixtures.iter().enumerate() {
            let place = || Place::root().key("fixtures").index(i);
            let subject = || format!("fixture {}", fixture.name);
            if fixture.address.is_none() {
                let mend = "give it an address, such as \"1.1\"";
                self.add(Severity::Warning, place(), subject(), "it is not patched", mend);
                continue;
            }
            let laid = profiles.lay(fixture);
            if !laid.whole {
                let patched: u64 = laid.portions.iter().map(|p| u64::from(p.cells)).sum();
                let message =
                    format!("only {patched} of its {} cells lie before the last universe", fixture.shape.cells());
                self.add(Severity::Error, place().key("address"), subject(), message, "patch it lower");
            }
        }
        let occupancy = Occupancy::of(show);
        self.overlaps(show, &occupancy);
        self.off_canvas(show);
        self.doubled_numbers(show);
        for universe in occupancy.unrouted(show) {
            let message = "no route carries it";
            self.add(
                Severity::Warning,
                Place::root().key("routes"),
                format!("universe {universe}"),
                message,
                "add it to a route, or add a route",
            );
        }
    }

    fn overlaps(&mut self, show: &Show, occupancy: &Occupancy) {
        for (a, b, universe, slot) in occupancy.overlaps() {
            let (first, second) = (&show.fixtures[a].name, &show.fixtures[b].name);
            let message = format!("it overlaps fixture {first} at {universe}.{}", slot + 1);
            let (free, at) = occupancy.behind_all();
            let mend = format!("move one of them; from {free}.{} on all is free", at + 1);
            let place = Place::root().key("fixtures").index(b).key("address");
            self.add(Severity::Error, place, format!("fixture {second}"), message, mend);
        }
    }

    fn off_canvas(&mut self, show: &Show) {
        let rig = rig::Rig::compile(show);
        for (i, patched) in rig.fixtures.iter().enumerate() {
            let inside = |led: &usize| {
                let (x, y) = rig.position(*led);
                (0.0..=show.canvas.width).contains(&x) && (0.0..=show.canvas.height).contains(&y)
            };
            let off = patched.leds().filter(|led| !inside(led)).count();
            if off > 0 {
                let fixture = &show.fixtures[i].name;
                let message = format!("{off} of its {} cells lie off the canvas", patched.cells);
                let mend = "move it (x and y are the middle of its shape), or enlarge the canvas";
                self.add(
                    Severity::Warning,
                    Place::root().key("fixtures").index(i).key("x"),
                    format!("fixture {fixture}"),
                    message,
                    mend,
                );
            }
        }
    }
}

/// True if every number of a fixture is in its range.
fn is_right(fixture: &Fixture) -> bool {
    fixture.shape.fault().is_none()
        && fixture.wiring.fault().is_none()
        && (0.0..=100.0).contains(&fixture.pan)
        && (0.0..=100.0).contains(&fixture.tilt)
        && (0.001..=10_000.0).contains(&fixture.pitch)
        && (-3600.0..=3600.0).contains(&fixture.angle)
        && (-1e6..=1e6).contains(&fixture.x)
        && (-1e6..=1e6).contains(&fixture.y)
}
