//! Every kind of reference, found and rewritten in one show that has them all.

use super::*;
use crate::check::check;
use splimo_show::{CommandTemplate, Param};

const SHOW: &str = r##"
version = 1
name = "References"

[[profiles]]
name = "Odd"
channels = ["red", "green", "blue"]

[[palette]]
name = "Foam"
colours = ["#eeffff"]

[[fixtures]]
name = "Sail 1"
profile = "Odd"
address = "1.1"
shape = { grid = { columns = 2, rows = 1 } }
x = 1.0
y = 1.0
[[fixtures]]
name = "Sail 2"
profile = "rgb"
address = "1.10"
shape = { grid = { columns = 2, rows = 1 } }
x = 2.0
y = 1.0

[[groups]]
name = "Sails"
members = ["Sail 1", "Sail 2"]

[[supplies]]
name = "Left"
feeds = ["Sails"]

[[looks]]
name = "Foam"
[[looks.layers]]
effect = "gradient"
target = ["Sails", "Sail 2"]
params = { colours = ["{Foam} 0.2", "#000000"] }
modulators = [{ param = "opacity", source = "control", number = 3, depth = 50.0 }]
[[looks.layers]]
effect = "still"
lights = { "Sail 1" = "ff0000" }
[[looks.layers]]
effect = "marquee"
params = { text = "{Foam}" }

[[looks]]
name = "Turns"
[[looks.layers]]
effect = "looks"
params = { looks = ["Foam", "Foam"] }

[settings]
safe_look = "Foam"
fallback_look = "Turns"

[[tiers]]
name = "base"
[[tiers]]
name = "top"
lights = ["Sails"]

[[banks]]
name = "Peak"
plays = { tier = "top" }
[[banks.pads]]
place = 1
look = "Foam"
[[banks.pads]]
place = 2
command = "go"
plays = { tier = "base" }

[rotation]
tier = "top"
looks = ["Turns"]
banks = ["Peak"]
without = ["Foam"]
"##;

fn show() -> Show {
    crate::file::read(SHOW).expect("a good show").show
}

fn listed(show: &Show) -> Vec<String> {
    let mut all = Vec::new();
    visit(show, |site, name| all.push(format!("{} {name}", site.place())));
    all
}

#[test]
fn every_place_is_visited() {
    assert_eq!(
        listed(&show()),
        [
            "fixtures[1].profile Odd",
            "fixtures[2].profile rgb",
            "groups[1].members[1] Sail 1",
            "groups[1].members[2] Sail 2",
            "supplies[1].feeds[1] Sails",
            "looks[1].layers[1].target[1] Sails",
            "looks[1].layers[1].target[2] Sail 2",
            "looks[1].layers[1].params.colours[1] Foam",
            "looks[1].layers[1].modulators[1] 3",
            "looks[1].layers[2].lights.Sail 1 Sail 1",
            "looks[2].layers[1].params.looks[1] Foam",
            "looks[2].layers[1].params.looks[2] Foam",
            "tiers[2].lights[1] Sails",
            "banks[1].plays.tier top",
            "banks[1].pads[1].look Foam",
            "banks[1].pads[2].plays.tier base",
            "settings.fallback_look Turns",
            "settings.safe_look Foam",
            "rotation.tier top",
            "rotation.looks[1] Turns",
            "rotation.banks[1] Peak",
            "rotation.without[1] Foam",
        ]
    );
}

#[test]
fn what_is_visited_is_what_is_rewritten() {
    let mut show = show();
    let mut visited = Vec::new();
    visit(&show, |site, name| visited.push((site.accepts().to_vec(), name.to_owned())));
    let (mut asked, before) = (Vec::new(), show.clone());
    rewrite(&mut show, |kinds, name| {
        asked.push((kinds.to_vec(), name.to_owned()));
        Fate::Keep
    });
    let sorted = |mut all: Vec<(Vec<ReferenceKind>, String)>| {
        all.sort_by_key(|(kinds, name)| (name.clone(), kinds[0].name()));
        all
    };
    assert_eq!(sorted(asked), sorted(visited));
    assert_eq!(show, before, "kept, nothing changes");
}

#[test]
fn a_kind_of_thing_is_renamed_and_no_other_of_that_name() {
    let renamed = |kind: ReferenceKind, new: &'static str, old: &str| {
        let mut show = show();
        rewrite(&mut show, |kinds, name| match kinds.contains(&kind) && name == old {
            true => Fate::Rename(new),
            false => Fate::Keep,
        });
        let new: Vec<String> = listed(&show).into_iter().filter(|line| line.ends_with(new)).collect();
        (new.len(), show)
    };
    let (count, show) = renamed(ReferenceKind::Swatch, "Spray", "Foam");
    assert_eq!(
        (count, show.looks[0].layers[0].params["colours"].clone()),
        (1, Param::List(vec!["{Spray} 0.2".into(), "#000000".into()]))
    );
    assert_eq!(show.looks[0].layers[2].params["text"], Param::Text("{Foam}".into()), "words are no reference");
    assert_eq!(renamed(ReferenceKind::Look, "Spray", "Foam").0, 5);
    assert_eq!(renamed(ReferenceKind::Group, "All", "Sails").0, 3);
    assert_eq!(renamed(ReferenceKind::Tier, "words", "top").0, 2);
    assert_eq!(renamed(ReferenceKind::Bank, "Late", "Peak").0, 1);
    assert_eq!(renamed(ReferenceKind::Fixture, "Mast", "Sail 1").0, 2);
    assert_eq!(renamed(ReferenceKind::Profile, "Even", "Odd").0, 1);
    let (_, merged) = renamed(ReferenceKind::Group, "Sail 2", "Sails");
    assert_eq!(merged.looks[0].layers[0].target, ["Sail 2"], "once is enough");
}

#[test]
fn what_is_removed_is_gone_everywhere_and_emptied_targets_are_told() {
    let mut show = show();
    let emptied = rewrite(&mut show, |kinds, name| match (kinds, name) {
        ([ReferenceKind::Profile], _) => Fate::Keep,
        _ => Fate::Remove,
    });
    assert_eq!(emptied, [Emptied::Layer(LayerAt { look: 0, layer: 0 }), Emptied::Tier(1)]);
    assert_eq!(listed(&show), ["fixtures[1].profile Odd", "fixtures[2].profile rgb"]);
    assert!(show.looks[0].layers[0].modulators.is_empty(), "what followed a control");
}

#[test]
fn uses_are_told_each_once_in_words() {
    let told = |kind, name| uses(&show(), kind, name).iter().map(Use::to_string).collect::<Vec<_>>();
    assert_eq!(
        told(ReferenceKind::Look, "Foam"),
        ["look Turns, layer 1", "bank Peak", "setting safe_look", "setting rotation",]
    );
    assert_eq!(told(ReferenceKind::Swatch, "Foam"), ["look Foam, layer 1"]);
    assert_eq!(told(ReferenceKind::Fixture, "Sail 1"), ["group Sails", "look Foam, layer 2"]);
    assert_eq!(told(ReferenceKind::Group, "Sails"), ["supply Left", "look Foam, layer 1", "tier top"]);
    assert_eq!(told(ReferenceKind::Control, "3"), ["look Foam, layer 1"]);
    assert_eq!(told(ReferenceKind::Profile, "Odd"), ["fixture Sail 1"]);
    assert!(told(ReferenceKind::Supply, "Left").is_empty());
}

#[test]
fn names_of_every_kind_are_known() {
    let count = |kind| splimo_show::reference::names(&show(), kind).count();
    let kinds = [
        ReferenceKind::Look,
        ReferenceKind::Fixture,
        ReferenceKind::Group,
        ReferenceKind::Profile,
        ReferenceKind::Swatch,
        ReferenceKind::Supply,
        ReferenceKind::Control,
        ReferenceKind::Tier,
        ReferenceKind::Bank,
        ReferenceKind::Setting,
    ];
    assert_eq!(kinds.map(count), [2, 2, 1, 1, 1, 1, splimo_show::CONTROLS, 2, 1, splimo_show::setting::SETTINGS.len()]);
}

#[test]
fn commands_about_heads_name_groups_fixtures_and_aims() {
    let mut show = show();
    show.aims = vec![splimo_show::Aim::new("Booth")];
    let commands = ["call-aim Booth", "call-aim Sails/Booth", "head-pan Sail 1 40", "let-heads Sails"];
    show.schedule.start = commands.map(CommandTemplate::from).to_vec();
    let told = || check(&show).into_iter().filter(|problem| problem.place.to_string().contains("schedule"));
    assert_eq!(told().map(|problem| problem.message).collect::<Vec<_>>(), Vec::<String>::new());
    // What is renamed is so in them, a group as well as a fixture.
    let changes = [
        (ReferenceKind::Aim, "Booth", "Desk"),
        (ReferenceKind::Group, "Sails", "All"),
        (ReferenceKind::Fixture, "Sail 1", "Mast"),
    ];
    for (kind, old, new) in changes {
        rewrite(&mut show, |kinds, name| match kinds.contains(&kind) && name == old {
            true => Fate::Rename(new),
            false => Fate::Keep,
        });
    }
    assert_eq!(show.schedule.start, ["call-aim Desk", "call-aim All/Desk", "head-pan Mast 40", "let-heads All"]);
    // One that is not there is told.
    show.schedule.start = vec!["call-aim Nowhere".into(), "head-tilt Mast 2 50".into()];
    let missing: Vec<String> = check(&show).into_iter().map(|problem| problem.message).collect();
    for wanted in ["there is no aim \"Nowhere\"", "there is no group or fixture \"Mast 2\""] {
        assert!(missing.iter().any(|message| message == wanted), "{wanted}: {missing:?}");
    }
}
