//! What the commands of a show name: the look of `fire-look top/Beacon`, the tier of `tier-level top {}`.

use std::collections::HashSet;

use splimo_base::nearest::meant;
use splimo_show::command::{Argument, Command, Visitor};
use splimo_show::reference::{Fate, ReferenceKind, names};
use splimo_show::{CommandTemplate, Show};

/// So many names are told where one is not known.
const FEW: usize = 12;

/// The names that say where one ends in an argument, as marks may be part of a name.
pub(super) struct Known(HashSet<(ReferenceKind, String)>);

impl Known {
    pub(super) fn of(show: &Show) -> Self {
        let kinds = [ReferenceKind::Look, ReferenceKind::Aim, ReferenceKind::CueList, ReferenceKind::Timeline];
        let all = kinds.into_iter().flat_map(|kind| names(show, kind).map(move |name| (kind, name.to_owned())));
        Self(all.collect())
    }

    fn has(&self, kinds: &[ReferenceKind], name: &str) -> bool {
        kinds.iter().any(|kind| self.0.contains(&(*kind, name.to_owned())))
    }
}

/// Looks at names, and has each befall what is said of it.
struct Names<'k, F> {
    known: &'k Known,
    ask: F,
}

impl<'n, F: FnMut(&'static [ReferenceKind], &str) -> Fate<'n>> Visitor for Names<'_, F> {
    fn name(&mut self, kinds: &'static [ReferenceKind], name: &mut String) -> bool {
        (self.ask)(kinds, name).befall(name)
    }

    fn new_name(&mut self, kinds: &'static [ReferenceKind], name: &mut String) -> bool {
        // What is gone is made anew.
        let _ = (self.ask)(kinds, name).befall(name);
        true
    }

    fn file(&mut self, _path: &mut String) {}

    fn is_known(&mut self, kinds: &'static [ReferenceKind], name: &str) -> bool {
        // What is being renamed has its new name already.
        self.known.has(kinds, name) || (self.ask)(kinds, name) != Fate::Keep
    }
}

/// Finds the names in a command; not those of what it makes.
struct Found<'k, F> {
    known: &'k Known,
    found: F,
}

impl<F: FnMut(&'static [ReferenceKind], &str)> Visitor for Found<'_, F> {
    fn name(&mut self, kinds: &'static [ReferenceKind], name: &mut String) -> bool {
        (self.found)(kinds, name);
        true
    }

    fn new_name(&mut self, _kinds: &'static [ReferenceKind], _name: &mut String) -> bool {
        true
    }

    fn file(&mut self, _path: &mut String) {}

    fn is_known(&mut self, kinds: &'static [ReferenceKind], name: &str) -> bool {
        self.known.has(kinds, name)
    }
}

/// Finds the names in a command, each with the kinds of things that it may be of.
pub(super) fn visit(command: &CommandTemplate, known: &Known, found: impl FnMut(&'static [ReferenceKind], &str)) {
    command.clone().visit(&mut Found { known, found });
}

/// Rewrites the names in a command. Whether it stays.
pub(super) fn rewrite<'n>(
    command: &mut CommandTemplate,
    known: &Known,
    ask: impl FnMut(&'static [ReferenceKind], &str) -> Fate<'n>,
) -> bool {
    command.visit(&mut Names { known, ask })
}

/// The first thing that a command names and a show has not, in words, with what there is.
#[must_use]
pub fn unknown<E: Argument + Clone>(command: &Command<E>, show: &Show) -> Option<String> {
    let known = Known::of(show);
    let mut missing = None;
    let found = |kinds: &'static [ReferenceKind], name: &str| {
        let all = || kinds.iter().flat_map(|kind| names(show, *kind));
        if missing.is_some() || all().any(|known| known == name) {
            return;
        }
        let kinds: Vec<&str> = kinds.iter().map(|kind| kind.name()).collect();
        let near = meant(name, all());
        let there: Vec<&str> = all().collect();
        let there = match (near.is_empty(), there.len()) {
            (_, 0) => "; this show has none yet".to_owned(),
            (true, 1..=FEW) => format!("; there is {}", there.join(", ")),
            (true | false, _) => near,
        };
        missing = Some(format!("there is no {} \"{name}\"{there}", kinds.join(" or ")));
    };
    command.clone().visit(&mut Found { known: &known, found });
    missing
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::{Aim, CueList, Look, Timeline};

    fn known() -> Known {
        let mut show = Show::empty("Quay");
        show.looks = ["Low Tide", "Beacon", "Low / high"].map(|name| Look::new(name, Vec::new())).to_vec();
        show.aims = vec![Aim::new("Booth")];
        show.cue_lists = ["Opening", "The end"].map(CueList::new).to_vec();
        show.timelines = vec![Timeline { name: "Anchor Song".into(), ..Timeline::default() }];
        Known::of(&show)
    }

    fn named(text: &str) -> Vec<(ReferenceKind, String)> {
        let mut all = Vec::new();
        visit(&text.into(), &known(), |kinds, name| all.push((kinds[0], name.to_owned())));
        all.reverse();
        all
    }

    #[test]
    fn names_are_found_within_commands() {
        use ReferenceKind::{Aim, CueList, Group, Input, Look, Program, Tier, Timeline};
        for (text, wanted) in [
            ("fire-look Low Tide", vec![(Look, "Low Tide")]),
            ("fire-look top/Beacon", vec![(Tier, "top"), (Look, "Beacon")]),
            ("fire-look Low / high", vec![(Look, "Low / high")]),
            ("tier-level top {}", vec![(Tier, "top")]),
            ("tier-level two words 50", vec![(Tier, "two words")]),
            ("group-level Sails {}", vec![(Group, "Sails")]),
            ("release-tier base", vec![(Tier, "base")]),
            ("restart-phase 2/Low Tide", vec![(Look, "Low Tide")]),
            ("go-cue Opening", vec![(CueList, "Opening")]),
            ("go-to-cue The end/4.5 3", vec![(CueList, "The end")]),
            ("record-cue The end/4.5", vec![(CueList, "The end")]),
            ("export-cues The end out.csv", vec![(CueList, "The end")]),
            ("hear-recording Anchor Song", vec![(Timeline, "Anchor Song")]),
            ("hear-recording Anchor Song take 2.wav", vec![(Timeline, "Anchor Song")]),
            ("seek-timeline Anchor Song {}", vec![(Timeline, "Anchor Song")]),
            ("call-aim Booth", vec![(Aim, "Booth")]),
            ("call-aim Gulls/Booth", vec![(Group, "Gulls"), (Aim, "Booth")]),
            ("head-pan Gulls {}", vec![(Group, "Gulls")]),
            ("let-heads Gull 1", vec![(Group, "Gull 1")]),
            ("strike Low Tide/2", vec![(Look, "Low Tide")]),
            ("run Fog", vec![(Program, "Fog")]),
            ("switch-input desk", vec![(Input, "desk")]),
            ("bind-model desk", vec![(Input, "desk")]),
            ("set safe-look Beacon", vec![(Look, "Beacon")]),
            ("set fade 2", vec![]),
            ("learn fire-look Beacon", vec![(Look, "Beacon")]),
            ("learn tier-level top", vec![(Tier, "top")]),
            ("record-aim Booth", vec![]),
            ("master {}", vec![]),
            ("go", vec![]),
        ] {
            let wanted: Vec<(ReferenceKind, String)> =
                wanted.into_iter().map(|(kind, name)| (kind, name.to_owned())).collect();
            assert_eq!(named(text), wanted, "{text}");
        }
    }

    #[test]
    fn what_is_renamed_is_renamed_within_and_what_is_gone_takes_the_command_along() {
        let mut command = CommandTemplate::from("fire-look top/Beacon");
        assert!(rewrite(&mut command, &known(), |kinds, name| match (kinds, name) {
            ([ReferenceKind::Tier], "top") => Fate::Rename("the top"),
            ([ReferenceKind::Look], "Beacon") => Fate::Rename("Mast"),
            _ => Fate::Keep,
        }));
        assert_eq!(command, "fire-look the top/Mast");
        assert!(!rewrite(&mut command, &known(), |_, _| Fate::Remove));
    }

    proptest::proptest! {
        #[test]
        fn any_text_is_taken_and_kept(text in "(fire-look|tier-level|group-level|restart-phase|export-cues|learn) ?.{0,30}") {
            let mut command = CommandTemplate::from(text.as_str());
            proptest::prop_assert!(rewrite(&mut command, &known(), |_, _| Fate::Keep));
            proptest::prop_assert_eq!(command.as_str(), &text);
        }
    }
}
