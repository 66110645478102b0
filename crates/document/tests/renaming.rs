//! What a command names follows its name: each kind of thing is renamed under each command that names it, and taken away.

use std::collections::BTreeSet;

use splimo_document::edit::Edit;
use splimo_document::reference::{self, Use};
use splimo_show::command::COMMANDS;
use splimo_show::event::EventAddress;
use splimo_show::reference::ReferenceKind;
use splimo_show::{
    Aim, AimedHead, Binding, Clip, CommandTemplate, CueList, Fixture, Group, Input, InputKind, Look, Pad, Program,
    Shape, Show, Tier, Timeline,
};

/// A show with one thing of each kind that commands name.
fn show() -> Show {
    let mut show = Show::empty("Names");
    show.fixtures = vec![Fixture::new("Old gull", "moving head", Shape::Line { cells: 1 })];
    show.groups = vec![Group { name: "Old sails".into(), members: vec!["Old gull".into()], colour: None }];
    show.aims = vec![Aim {
        heads: vec![AimedHead { fixture: "Old gull".into(), pan: 0.0, tilt: 0.0 }],
        ..Aim::new("Old booth")
    }];
    show.looks = vec![Look::new("Old / tide", Vec::new())];
    show.tiers = vec![Tier::new("base"), Tier::new("Old top")];
    show.cue_lists = vec![CueList::new("Old opening")];
    show.timelines = vec![Timeline { name: "Old song".into(), length: 60.0, ..Timeline::default() }];
    show.inputs = vec![Input::new("Old desk", InputKind::Osc, "0.0.0.0:9000")];
    show.programs = vec![Program { name: "Old fog".into(), command: vec!["true".into()], sound: String::new() }];
    show
}

/// A kind, the name of the one of it, and the edit that gives that another.
type Renamed = (ReferenceKind, &'static str, fn(&Show, &str) -> Edit);

/// The kinds that commands name.
fn kinds() -> Vec<Renamed> {
    vec![
        (ReferenceKind::Fixture, "Old gull", |show, new| {
            Edit::Put(vec![(0, Fixture { name: new.into(), ..show.fixtures[0].clone() })])
        }),
        (ReferenceKind::Group, "Old sails", |show, new| {
            Edit::PutGroup(0, Group { name: new.into(), ..show.groups[0].clone() })
        }),
        (ReferenceKind::Aim, "Old booth", |show, new| {
            Edit::PutAim(0, Aim { name: new.into(), ..show.aims[0].clone() })
        }),
        (ReferenceKind::Look, "Old / tide", |show, new| {
            Edit::PutLooks(vec![(0, Look { name: new.into(), ..show.looks[0].clone() })])
        }),
        (ReferenceKind::Tier, "Old top", |show, new| {
            Edit::PutTier(1, Tier { name: new.into(), ..show.tiers[1].clone() })
        }),
        (ReferenceKind::CueList, "Old opening", |show, new| {
            Edit::PutCueLists(vec![(0, CueList { name: new.into(), ..show.cue_lists[0].clone() })])
        }),
        (ReferenceKind::Timeline, "Old song", |show, new| {
            Edit::PutTimeline(0, Timeline { name: new.into(), ..show.timelines[0].clone() })
        }),
        (ReferenceKind::Input, "Old desk", |show, new| {
            Edit::PutInput(0, Input { name: new.into(), ..show.inputs[0].clone() })
        }),
        (ReferenceKind::Program, "Old fog", |show, new| {
            Edit::PutProgram(0, Program { name: new.into(), ..show.programs[0].clone() })
        }),
    ]
}

/// The texts of a command that name something: every form that an argument has, of which it takes those that it knows.
fn texts(command: &str, name: &str) -> Vec<CommandTemplate> {
    let forms = [
        "NAME",
        "NAME 50",
        "NAME {}",
        "NAME/4.5",
        "NAME/4.5 3",
        "NAME/2",
        "2/NAME",
        "NAME out.csv",
        "safe-look NAME",
        "fallback-look NAME",
        "Old top/NAME",
        "NAME/Old / tide",
        "Old sails/NAME",
        "NAME/Old booth",
        "fire-look NAME",
        "tier-level NAME",
    ];
    let texts = forms.map(|form| CommandTemplate::from(format!("{command} {}", form.replace("NAME", name))));
    // Once in each: what is named twice may be of another kind there.
    texts.into_iter().filter(|text| text.fault().is_none() && text.matches(name).count() == 1).collect()
}

/// The names of a kind that a command has.
fn names(command: &CommandTemplate, kind: ReferenceKind, name: &str) -> bool {
    let mut show = show();
    show.schedule.start = vec![command.clone()];
    reference::uses(&show, kind, name).iter().any(|one| one.kind == ReferenceKind::Setting)
}

#[test]
fn each_kind_is_renamed_under_each_command_that_names_it_wherever_it_stands() {
    let mut tried = BTreeSet::new();
    for info in COMMANDS.iter().filter(|info| info.is_for_people()) {
        for (kind, old, edit) in kinds() {
            for command in texts(info.name, old).into_iter().filter(|command| names(command, kind, old)) {
                tried.insert((info.name, kind.name()));
                let mut show = show();
                let all = || vec![command.clone()];
                show.bindings = vec![Binding { let_go: all(), ..Binding::new("keys", EventAddress::Bar, &command) }];
                show.inputs[0].when_silent = all();
                // Only a binding has a value to give.
                if !command.takes_value() {
                    show.schedule.start = all();
                    let cue = splimo_show::Cue::new("1".parse().expect("a number"), "");
                    show.cue_lists[0].cues = vec![splimo_show::Cue { does: all(), ..cue }];
                    show.timelines[0].clips = vec![Clip { does: all(), length: 1.0, ..Clip::default() }];
                    show.give_banks();
                    show.banks[0].pads.push(Pad {
                        look: None,
                        command: Some(command.clone()),
                        place: 30,
                        ..Pad::default()
                    });
                }
                let renamed = edit(&show, "New name").apply(&show).unwrap_or_else(|why| panic!("{command}: {why}"));
                let wanted = command.replace(old, "New name");
                let mut places = vec![
                    renamed.inputs[0].when_silent.first(),
                    renamed.bindings[0].does.first(),
                    renamed.bindings[0].let_go.first(),
                ];
                if !command.takes_value() {
                    places.extend([
                        renamed.schedule.start.first(),
                        renamed.cue_lists[0].cues[0].does.first(),
                        renamed.timelines[0].clips[0].does.first(),
                        renamed.banks[0].pads.last().and_then(|pad| pad.command.as_ref()),
                    ]);
                }
                for place in places {
                    assert_eq!(place.map(CommandTemplate::as_str), Some(&*wanted), "{} {}", info.name, kind.name());
                }
            }
        }
    }
    // Every command whose argument says that it names something was tried with each kind that it says.
    for info in COMMANDS {
        for kind in info.argument.map_or(&[][..], |argument| argument.names) {
            let is_named = kinds().iter().any(|(known, ..)| known == kind);
            assert!(!is_named || tried.contains(&(info.name, kind.name())), "{} names a {}", info.name, kind.name());
        }
    }
    for wanted in [
        ("switch-input", "input"),
        ("bind-model", "input"),
        ("hear-recording", "timeline"),
        ("export-cues", "cue list"),
        ("set", "look"),
        ("fire-look", "tier"),
        ("call-aim", "group"),
        ("learn", "tier"),
    ] {
        assert!(tried.contains(&wanted), "{wanted:?} of {tried:?}");
    }
}

#[test]
fn what_is_made_under_a_name_follows_it_and_needs_nothing_of_that_name() {
    let mut before = show();
    before.schedule.start = vec!["record-aim Old booth".into(), "record-aim Another".into()];
    let problems = splimo_document::check::check(&before);
    assert!(problems.iter().all(|problem| !problem.message.contains("Another")), "{problems:?}");
    let edit = Edit::PutAim(0, Aim { name: "Desk".into(), ..before.aims[0].clone() });
    let after = edit.apply(&before).expect("it is renamed");
    assert_eq!(after.schedule.start, ["record-aim Desk", "record-aim Another"]);
    let used: Vec<Use> = reference::uses(&after, ReferenceKind::Aim, "Another");
    assert!(used.is_empty());
}
