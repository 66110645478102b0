//! Problems of aims.

use std::collections::HashSet;

use super::Found;
use crate::making::aims::heads_of;
use splimo_show::Severity;
use splimo_show::{Aim, MOST_AIMS, Place, Show};

impl Found {
    pub(super) fn aims(&mut self, show: &Show) {
        if show.aims.is_empty() {
            return;
        }
        if show.aims.len() > MOST_AIMS {
            let message = format!("there are {}", show.aims.len());
            let place = Place::root().key("aims");
            self.add(Severity::Broken, place, "aims", message, format!("keep it to {MOST_AIMS}"));
        }
        let turns: HashSet<&str> = heads_of(show).into_iter().map(|at| show.fixtures[at].name.as_str()).collect();
        let names: HashSet<&str> = show.fixtures.iter().map(|one| one.name.as_str()).collect();
        let fixed = |name: &str| names.contains(name) && !turns.contains(name);
        for (index, aim) in show.aims.iter().enumerate() {
            let place = Place::root().key("aims").index(index).key("heads");
            self.aimed_heads(&place, aim, fixed);
        }
    }

    fn aimed_heads(&mut self, heads: &Place, aim: &Aim, fixed: impl Fn(&str) -> bool) {
        let subject = format!("aim {}", aim.name);
        let mut seen = HashSet::new();
        for (at, head) in aim.heads.iter().enumerate() {
            let place = || heads.clone().index(at);
            self.range(place().key("pan"), &subject, head.pan as f32, 0.0, 100.0);
            self.range(place().key("tilt"), &subject, head.tilt as f32, 0.0, 100.0);
            if !seen.insert(&head.fixture) {
                let message = format!("it points {} twice", head.fixture);
                self.add(Severity::Broken, place(), &subject, message, "keep one of the two");
            }
            if fixed(&head.fixture) {
                let message = format!("{} does not turn", head.fixture);
                let mend = "take it out of the aim, or give it a profile with pan or tilt";
                self.add(Severity::Warning, place(), &subject, message, mend);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::check::check;
    use crate::file;
    use splimo_show::Severity;
    use splimo_show::{Aim, AimedHead, Fixture, Shape, Show};

    fn show(heads: &[(&str, f64, f64)]) -> Show {
        let mut show = Show::empty("Aims");
        let fixture = |name: &str, profile: &str| Fixture::new(name, profile, Shape::Line { cells: 1 });
        show.fixtures = vec![fixture("Gull", "moving head"), fixture("Lamp", "rgb")];
        let head = |(name, pan, tilt): &(&str, f64, f64)| AimedHead { fixture: (*name).into(), pan: *pan, tilt: *tilt };
        show.aims = vec![Aim { heads: heads.iter().map(head).collect(), ..Aim::new("Booth") }];
        show
    }

    #[test]
    fn directions_that_cannot_be_and_heads_that_do_not_turn_are_told() {
        for (heads, severity, wanted) in [
            (&[("Gull", 100.1, 50.0)][..], Severity::Broken, "100.1 is out of range"),
            (&[("Gull", 50.0, -1.0)][..], Severity::Broken, "-1 is out of range"),
            (&[("Gull", f64::NAN, 50.0)][..], Severity::Broken, "NaN is out of range"),
            (&[("Gull", 1.0, 1.0), ("Gull", 2.0, 2.0)][..], Severity::Broken, "it points Gull twice"),
            (&[("Lamp", 1.0, 1.0)][..], Severity::Warning, "Lamp does not turn"),
            (&[("Tern", 1.0, 1.0)][..], Severity::Warning, "there is no fixture \"Tern\""),
        ] {
            let problems = check(&show(heads));
            let found = problems.iter().find(|problem| problem.message.contains(wanted));
            assert_eq!(found.map(|problem| problem.severity), Some(severity), "{wanted}: {problems:?}");
        }
        let mut twice = show(&[]);
        twice.aims.push(Aim::new("Booth"));
        assert!(check(&twice).iter().any(|problem| problem.message.contains("used twice")));
    }

    #[test]
    fn a_file_with_a_direction_that_is_no_number_is_refused_with_its_line() {
        let text = "version = 1\nname = \"Aims\"\n[[aims]]\nname = \"Booth\"\nheads = [{ fixture = \"Gull\", pan = nan, tilt = 5.0 }]\n";
        let why = file::read(text).expect_err("no head turns there").to_string();
        assert!(why.contains("NaN is out of range") && why.contains('5'), "{why}");
    }
}
