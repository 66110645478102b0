//! Names within the text of a command: the look of `fire-look top/Beacon`, the tier of `tier-level top {}`.

use std::ops::Range;

use super::Fate;
use splimo_show::reference::ReferenceKind;

/// The names in a text, each with its kind and its place.
pub(super) fn names(text: &str) -> Vec<(ReferenceKind, Range<usize>)> {
    let Some((command, _)) = text.split_once(' ') else { return Vec::new() };
    let from = command.len() + 1;
    let all = trimmed(text, from..text.len());
    if all.is_empty() {
        return Vec::new();
    }
    let before = |mark: char| text[all.clone()].rfind(mark).map(|at| trimmed(text, all.start..all.start + at));
    let behind = |mark: char| text[all.clone()].find(mark).map(|at| trimmed(text, all.start + at + 1..all.end));
    let head = |mark: char| text[all.clone()].find(mark).map(|at| trimmed(text, all.start..all.start + at));
    match command {
        "fire-look" | "cut-to" => match (head('/'), behind('/')) {
            (Some(tier), Some(look)) => vec![(ReferenceKind::Tier, tier), (ReferenceKind::Look, look)],
            _ => vec![(ReferenceKind::Look, all)],
        },
        "centre-phase" | "restart-phase" | "step-forward" | "step-back" => {
            let numbered = head('/').is_some_and(|number| text[number].parse::<usize>().is_ok());
            vec![(ReferenceKind::Look, behind('/').filter(|_| numbered).unwrap_or(all))]
        }
        "go-cue" | "back-cue" | "skip-cue" | "pause-cues" | "reset-cues" | "release-cues" | "record-changes"
        | "update-cue" => {
            vec![(ReferenceKind::CueList, all)]
        }
        "strike" => before('/').map(|name| (ReferenceKind::Look, name)).into_iter().collect(),
        "go-to-cue" | "cue-goes-on" => before('/').map(|name| (ReferenceKind::CueList, name)).into_iter().collect(),
        "play-timeline" | "hold-timeline" | "stop-timeline" => vec![(ReferenceKind::Timeline, all)],
        "seek-timeline" => before(' ').map(|name| (ReferenceKind::Timeline, name)).into_iter().collect(),
        "record-cue" => vec![(ReferenceKind::CueList, before('/').unwrap_or(all))],
        "head-pan" | "head-tilt" | "nudge-pan" | "nudge-tilt" => {
            before(' ').map(|name| (ReferenceKind::Fixture, name)).into_iter().collect()
        }
        "let-heads" => vec![(ReferenceKind::Fixture, all)],
        "call-aim" => match (head('/'), behind('/')) {
            (Some(lights), Some(aim)) => vec![(ReferenceKind::Fixture, lights), (ReferenceKind::Aim, aim)],
            _ => vec![(ReferenceKind::Aim, all)],
        },
        "run" | "end-run" => vec![(ReferenceKind::Program, all)],
        "release-tier" | "mute-tier" | "solo-tier" => vec![(ReferenceKind::Tier, all)],
        "tier-level" | "nudge-tier" => before(' ').map(|name| (ReferenceKind::Tier, name)).into_iter().collect(),
        "group-level" => before(' ').map(|name| (ReferenceKind::Group, name)).into_iter().collect(),
        _ => Vec::new(),
    }
}

/// The kinds that may be named where a command names one: lights are a group, or a fixture.
pub(super) fn accepted(kind: ReferenceKind) -> &'static [ReferenceKind] {
    match kind {
        ReferenceKind::Look => &[ReferenceKind::Look],
        ReferenceKind::Fixture => &[ReferenceKind::Group, ReferenceKind::Fixture],
        ReferenceKind::Group => &[ReferenceKind::Group],
        ReferenceKind::Profile => &[ReferenceKind::Profile],
        ReferenceKind::Swatch => &[ReferenceKind::Swatch],
        ReferenceKind::Supply => &[ReferenceKind::Supply],
        ReferenceKind::Control => &[ReferenceKind::Control],
        ReferenceKind::Aim => &[ReferenceKind::Aim],
        ReferenceKind::Region => &[ReferenceKind::Region],
        ReferenceKind::Tier => &[ReferenceKind::Tier],
        ReferenceKind::Bank => &[ReferenceKind::Bank],
        ReferenceKind::CueList => &[ReferenceKind::CueList],
        ReferenceKind::Timeline => &[ReferenceKind::Timeline],
        ReferenceKind::Input => &[ReferenceKind::Input],
        ReferenceKind::Binding => &[ReferenceKind::Binding],
        ReferenceKind::Program => &[ReferenceKind::Program],
        ReferenceKind::ValueOut => &[ReferenceKind::ValueOut],
        ReferenceKind::Setting => &[ReferenceKind::Setting],
    }
}

/// Rewrites the names in a text. Whether it stays.
pub(super) fn rewrite<'n>(text: &mut String, mut ask: impl FnMut(&[ReferenceKind], &str) -> Fate<'n>) -> bool {
    // From behind, so that the places before stay where they are.
    let mut fates: Vec<(Range<usize>, Fate<'n>)> =
        names(text).into_iter().map(|(kind, place)| (place.clone(), ask(accepted(kind), &text[place]))).collect();
    fates.reverse();
    for (place, fate) in fates {
        match fate {
            Fate::Keep => {}
            Fate::Rename(new) => text.replace_range(place, new),
            Fate::Remove => return false,
        }
    }
    true
}

fn trimmed(text: &str, range: Range<usize>) -> Range<usize> {
    let part = &text[range.clone()];
    let start = range.start + (part.len() - part.trim_start().len());
    start..start + part.trim().len()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn named(text: &str) -> Vec<(ReferenceKind, &str)> {
        names(text).into_iter().map(|(kind, place)| (kind, &text[place])).collect()
    }

    #[test]
    fn names_are_found_within_commands() {
        use ReferenceKind::{Group, Look, Tier};
        for (text, wanted) in [
            ("fire-look Low Tide", vec![(Look, "Low Tide")]),
            ("fire-look top/Beacon", vec![(Tier, "top"), (Look, "Beacon")]),
            ("tier-level top {}", vec![(Tier, "top")]),
            ("tier-level two words 50", vec![(Tier, "two words")]),
            ("group-level Sails {}", vec![(Group, "Sails")]),
            ("release-tier base", vec![(Tier, "base")]),
            ("restart-phase 2/Tide", vec![(Look, "Tide")]),
            ("go-cue Opening", vec![(ReferenceKind::CueList, "Opening")]),
            ("go-to-cue The end/4.5 3", vec![(ReferenceKind::CueList, "The end")]),
            ("call-aim Booth", vec![(ReferenceKind::Aim, "Booth")]),
            ("call-aim Gulls/Booth", vec![(ReferenceKind::Fixture, "Gulls"), (ReferenceKind::Aim, "Booth")]),
            ("head-pan Gulls {}", vec![(ReferenceKind::Fixture, "Gulls")]),
            ("let-heads Gull 1", vec![(ReferenceKind::Fixture, "Gull 1")]),
            ("strike Drop Hits/2", vec![(Look, "Drop Hits")]),
            ("run Fog", vec![(ReferenceKind::Program, "Fog")]),
            ("master {}", vec![]),
            ("go", vec![]),
        ] {
            assert_eq!(named(text), wanted, "{text}");
        }
    }

    #[test]
    fn what_is_renamed_is_renamed_within_and_what_is_gone_takes_the_text_along() {
        let mut text = "fire-look top/Beacon".to_owned();
        assert!(rewrite(&mut text, |kinds, _| match kinds {
            [ReferenceKind::Tier] => Fate::Rename("the top"),
            _ => Fate::Rename("Mast"),
        }));
        assert_eq!(text, "fire-look the top/Mast");
        assert!(!rewrite(&mut text, |_, _| Fate::Remove));
    }

    proptest! {
        #[test]
        fn any_text_is_taken(text in "(fire-look|tier-level|group-level|restart-phase) ?.{0,30}") {
            for (_, place) in names(&text) {
                prop_assert_eq!(text[place.clone()].trim(), &text[place]);
            }
        }
    }
}
