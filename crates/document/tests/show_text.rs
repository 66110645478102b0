//! A show that is saved again and again over its text: nothing that a person wrote in it is moved, lost or written anew without need.

use std::collections::BTreeMap;

use proptest::prelude::*;
use splimo_document::file::read;
use splimo_document::file::write;
use splimo_show::{
    Bank, Cue, CueList, CueNumber, Group, Layer, Look, Param, Route, Show, TransportKind, UniverseRange, write_over,
};

const LANTERN_QUAY: &str = include_str!("../../../shows/lantern-quay.splimo");

/// As a person writes it: lists over some lines, dotted names, tables in an order of their own.
const BY_HAND: &str = r##"# Friday
version = 1
name = "By hand" # and for hands

# The looks come first here.

[[looks]] # warm
name = "Amber"
fade = 2.0 # slow

  # the ground
  [[looks.layers]]
  effect = "solid"
  params.colours = ["#ff8000", "#401000"]

# Cold.
[[looks]]
name = "Ice"
layers = [
    { effect = "plasma" }, # soft
    # hard
    { effect = "sparkle", opacity = 0.5, target = ["Bars"] },
]

# Four bars.
[[fixtures]]
name = "Bar 1"
profile = "rgb"
address = "1.1"
shape.line.cells = 8 # short
x = 4.0
y = 4.0
[[fixtures]]
name = "Bar 2"
profile = "rgb"
address = "1.25"
x = 14.0
y = 4.0
[fixtures.shape.line]
# A long one.
cells = 80

[[groups]]
name = "Bars"
members = [
    # left
    "Bar 1",
    "Bar 2", # right
]

[[banks]]
name = "Pads"
pads = [
    { place = 1, look = "Amber" }, # for the start
    { place = 8, look = "Ice" },
]

[settings]
# As the house likes it.
fade_beats = 2.0
dither = true

[canvas]
height = 20.0
width = 100.0
# The end.
"##;

#[derive(Debug, Clone)]
enum Change {
    FadeBeats(u8),
    Dither,
    Opacity(prop::sample::Index, prop::sample::Index, u8),
    Move(prop::sample::Index, u8),
    AddFixture(prop::sample::Index),
    RemoveFixture(prop::sample::Index),
    RenameFixture(prop::sample::Index),
    Address(prop::sample::Index),
    AddGroup,
    Member(prop::sample::Index),
    NoMember(prop::sample::Index),
    AddLook(prop::sample::Index),
    RemoveLook(prop::sample::Index),
    MoveLook(prop::sample::Index, prop::sample::Index),
    AddLayer(prop::sample::Index, prop::sample::Index),
    RemoveLayer(prop::sample::Index, prop::sample::Index),
    Colours(prop::sample::Index, prop::sample::Index, u8),
    AddRoute,
    RemoveRoute,
    AddCues,
    Cue(prop::sample::Index),
}

fn change() -> impl Strategy<Value = Change> {
    let at = any::<prop::sample::Index>;
    prop_oneof![
        any::<u8>().prop_map(Change::FadeBeats),
        Just(Change::Dither),
        (at(), at(), any::<u8>()).prop_map(|(a, b, c)| Change::Opacity(a, b, c)),
        (at(), any::<u8>()).prop_map(|(a, b)| Change::Move(a, b)),
        at().prop_map(Change::AddFixture),
        at().prop_map(Change::RemoveFixture),
        at().prop_map(Change::RenameFixture),
        at().prop_map(Change::Address),
        Just(Change::AddGroup),
        at().prop_map(Change::Member),
        at().prop_map(Change::NoMember),
        at().prop_map(Change::AddLook),
        at().prop_map(Change::RemoveLook),
        (at(), at()).prop_map(|(a, b)| Change::MoveLook(a, b)),
        (at(), at()).prop_map(|(a, b)| Change::AddLayer(a, b)),
        (at(), at()).prop_map(|(a, b)| Change::RemoveLayer(a, b)),
        (at(), at(), 1u8..5).prop_map(|(a, b, c)| Change::Colours(a, b, c)),
        Just(Change::AddRoute),
        Just(Change::RemoveRoute),
        Just(Change::AddCues),
        at().prop_map(Change::Cue),
    ]
}

/// Makes a change where it can be made; `fresh` makes new names.
fn make(show: &mut Show, change: &Change, fresh: usize) {
    match change {
        Change::FadeBeats(beats) => show.settings.fade_beats = f32::from(*beats) / 8.0,
        Change::Dither => show.settings.dither ^= true,
        Change::Opacity(look, layer, value) => {
            if let Some(layer) = layer_of(show, look, layer) {
                layer.opacity = f32::from(*value) / 255.0;
            }
        }
        Change::Move(fixture, by) if !show.fixtures.is_empty() => {
            let at = fixture.index(show.fixtures.len());
            show.fixtures[at].x = f32::from(*by) / 3.0;
        }
        Change::AddFixture(at) => {
            let mut fixture = read(BY_HAND).expect("a show").show.fixtures[1].clone();
            fixture.name = format!("New {fresh}");
            fixture.address = None;
            show.fixtures.insert(at.index(show.fixtures.len() + 1), fixture);
        }
        Change::RemoveFixture(at) if !show.fixtures.is_empty() => {
            let gone = show.fixtures.remove(at.index(show.fixtures.len())).name;
            show.groups.iter_mut().for_each(|group| group.members.retain(|name| *name != gone));
            let named = |target: &String| *target != gone;
            show.looks.iter_mut().flat_map(|look| &mut look.layers).for_each(|layer| layer.target.retain(named));
            show.aims.clear();
        }
        Change::RenameFixture(at) if !show.fixtures.is_empty() => {
            let at = at.index(show.fixtures.len());
            let (was, is) = (show.fixtures[at].name.clone(), format!("Named {fresh}"));
            let renamed = |name: &mut String| {
                if *name == was {
                    name.clone_from(&is);
                }
            };
            show.groups.iter_mut().flat_map(|group| &mut group.members).for_each(renamed);
            show.looks.iter_mut().flat_map(|look| &mut look.layers).flat_map(|l| &mut l.target).for_each(renamed);
            show.aims.clear();
            show.fixtures[at].name.clone_from(&is);
        }
        Change::Address(at) if !show.fixtures.is_empty() => {
            let at = at.index(show.fixtures.len());
            show.fixtures[at].address = if fresh.is_multiple_of(3) { None } else { "90.7".parse().ok() };
        }
        Change::AddGroup => {
            let members = show.fixtures.iter().take(3).map(|fixture| fixture.name.clone()).collect();
            show.groups.push(Group { name: format!("Group {fresh}"), members, colour: None });
        }
        Change::Member(at) if !show.groups.is_empty() && !show.fixtures.is_empty() => {
            let (name, count) = (show.fixtures[at.index(show.fixtures.len())].name.clone(), show.groups.len());
            let members = &mut show.groups[at.index(count)].members;
            if !members.contains(&name) {
                members.insert(at.index(members.len() + 1), name);
            }
        }
        Change::NoMember(at) if !show.groups.is_empty() => {
            let count = show.groups.len();
            let members = &mut show.groups[at.index(count)].members;
            if !members.is_empty() {
                members.remove(at.index(members.len()));
            }
        }
        Change::AddLook(at) => {
            let look = Look::new(&format!("Look {fresh}"), vec![Layer::new("plasma"), Layer::new("solid")]);
            show.looks.insert(at.index(show.looks.len() + 1), look);
        }
        // Pads, cues and patterns name looks; one that nobody names yet can go.
        Change::RemoveLook(at) => {
            let free: Vec<usize> = (0..show.looks.len()).filter(|&i| show.looks[i].name.starts_with("Look ")).collect();
            if !free.is_empty() {
                show.looks.remove(free[at.index(free.len())]);
            }
        }
        Change::MoveLook(from, to) if !show.looks.is_empty() => {
            let look = show.looks.remove(from.index(show.looks.len()));
            show.looks.insert(to.index(show.looks.len() + 1), look);
        }
        Change::AddLayer(look, at) if !show.looks.is_empty() => {
            let count = show.looks.len();
            let layers = &mut show.looks[look.index(count)].layers;
            layers.insert(at.index(layers.len() + 1), Layer::new("noise"));
        }
        Change::RemoveLayer(look, at) if !show.looks.is_empty() => {
            let count = show.looks.len();
            let layers = &mut show.looks[look.index(count)].layers;
            if layers.len() > 1 {
                layers.remove(at.index(layers.len()));
            }
        }
        Change::Colours(look, layer, count) => {
            if let Some(layer) = layer_of(show, look, layer).filter(|layer| layer.effect == "plasma") {
                let colours = vec!["#102030".to_owned(); usize::from(*count)];
                layer.params.insert("colours".to_owned(), Param::List(colours));
            }
        }
        Change::AddRoute => {
            let to = "10.0.0.7".parse().expect("an address");
            let range = UniverseRange { first: 70 + fresh as u32, last: 70 + fresh as u32 };
            show.routes.push(Route::new(&format!("Route {fresh}"), range, TransportKind::Sacn, 9, to));
        }
        Change::RemoveRoute => {
            show.routes.pop();
        }
        Change::AddCues => {
            let mut list = CueList::new(&format!("Cues {fresh}"));
            list.cues.push(Cue::new(CueNumber::ONE, ""));
            show.cue_lists.push(list);
        }
        Change::Cue(at) if !show.cue_lists.is_empty() => {
            let count = show.cue_lists.len();
            let cues = &mut show.cue_lists[at.index(count)].cues;
            let next = cues.last().map_or(Some(CueNumber::ONE), |cue| cue.number.next());
            cues.extend(next.map(|number| Cue::new(number, "")));
        }
        _ => {}
    }
}

fn layer_of<'a>(show: &'a mut Show, look: &prop::sample::Index, layer: &prop::sample::Index) -> Option<&'a mut Layer> {
    let count = show.looks.len();
    let layers = &mut show.looks.get_mut(if count == 0 { 0 } else { look.index(count) })?.layers;
    let count = layers.len();
    if count == 0 { None } else { layers.get_mut(layer.index(count)) }
}

/// Lines that are only a comment.
fn comments(text: &str) -> BTreeMap<String, usize> {
    let mut all = BTreeMap::new();
    for line in text.lines().map(str::trim).filter(|line| line.starts_with("# ")) {
        *all.entry(line.to_owned()).or_default() += 1;
    }
    all
}

/// The kinds of the tables at the root, each run of one kind once.
fn kinds(text: &str) -> Vec<&str> {
    let headers = text.lines().map(str::trim).filter(|line| line.starts_with('[') && !line.starts_with("[\""));
    let mut kinds: Vec<&str> =
        headers.map(|line| line.trim_start_matches('[').split([']', '.']).next().unwrap_or_default()).collect();
    kinds.dedup();
    kinds
}

/// The lines taken out and put in between two texts.
fn difference(before: &str, after: &str) -> (usize, usize) {
    let (mut a, mut b): (Vec<&str>, Vec<&str>) = (before.lines().collect(), after.lines().collect());
    let same = a.iter().zip(&b).take_while(|(a, b)| a == b).count();
    (a, b) = (a.split_off(same), b.split_off(same));
    let same = a.iter().rev().zip(b.iter().rev()).take_while(|(a, b)| a == b).count();
    a.truncate(a.len() - same);
    b.truncate(b.len() - same);
    // The longest common subsequence.
    let mut row = vec![0usize; b.len() + 1];
    for line in &a {
        let mut corner = 0;
        for (at, other) in b.iter().enumerate() {
            let above = row[at + 1];
            row[at + 1] = if line == other { corner + 1 } else { above.max(row[at]) };
            corner = above;
        }
    }
    (a.len() - row[b.len()], b.len() - row[b.len()])
}

/// The most lines that a change may take out and put in. Moving looks is told by the looks that change places.
fn most(change: &Change, show: &Show) -> (usize, usize) {
    let uses = show.groups.len() + show.looks.iter().map(|look| look.layers.len()).sum::<usize>();
    match change {
        Change::FadeBeats(_) | Change::Dither | Change::Opacity(..) | Change::Move(..) | Change::Address(_) => (1, 1),
        Change::Colours(..) => (1, 2),
        Change::AddFixture(_) => (0, 9),
        Change::RemoveFixture(_) => (14 + uses, uses + 1),
        Change::RenameFixture(_) => (uses + 1, uses + 1),
        Change::AddGroup => (0, 4),
        Change::Member(_) => (1, 2),
        Change::NoMember(_) => (2, 1),
        Change::AddLook(_) => (0, 15),
        Change::RemoveLook(_) => (34, 1),
        Change::MoveLook(..) => (usize::MAX, usize::MAX),
        Change::AddLayer(..) => (1, 7),
        Change::RemoveLayer(..) => (16, 2),
        Change::AddRoute => (0, 9),
        Change::RemoveRoute => (9, 1),
        Change::AddCues => (0, 8),
        Change::Cue(_) => (1, 5),
    }
}

fn saved_again_and_again(first: &str, changes: &[Change]) -> Result<(), TestCaseError> {
    let mut text = first.to_owned();
    let mut show = read(&text).expect("a show").show;
    for (fresh, change) in changes.iter().enumerate() {
        let mut next = show.clone();
        make(&mut next, change, fresh);
        if write(&next).is_ok_and(|text| read(&text).is_err()) {
            continue;
        }
        show = next;
        let after = write_over(&text, &show).expect("writes");
        let again = read(&after).map_err(|e| TestCaseError::fail(format!("{e}\n{after}")))?;
        prop_assert!(again.show == show, "{:?}: it is another show:\n{}", change, after);
        for (comment, times) in comments(&text) {
            let stays = comments(&after).get(&comment) == Some(&times) || comment == "# A long one.";
            prop_assert!(stays, "{:?}: {} is gone or doubled:\n{}", change, comment, after);
        }
        let (was, is) = (kinds(&text), kinds(&after));
        let once: std::collections::BTreeSet<&str> = is.iter().copied().collect();
        prop_assert_eq!(once.len(), is.len(), "{:?}: each kind stands together: {:?}", change, is);
        let stay = |kinds: &[&str], others: &[&str]| {
            kinds.iter().filter(|kind| others.contains(kind)).map(|k| (*k).to_owned()).collect::<Vec<_>>()
        };
        prop_assert_eq!(stay(&was, &is), stay(&is, &was), "{:?}: the kinds keep their order", change);
        prop_assert!(!after.contains("\n\n\n"), "{:?}: blank lines pile up:\n{}", change, after);
        let (out, put) = difference(&text, &after);
        let most = most(change, &show);
        prop_assert!(out <= most.0 && put <= most.1, "{change:?}: {out} lines out, {put} in:\n{text}\n=====\n{after}");
        text = after;
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn a_text_by_hand_stays_by_hand(changes in proptest::collection::vec(change(), 1..12)) {
        saved_again_and_again(BY_HAND, &changes)?;
    }

    #[test]
    fn a_show_of_its_own_stays_in_order(changes in proptest::collection::vec(change(), 1..20)) {
        let bank = Bank { name: "Pads".to_owned(), ..Bank::default() };
        let show = Show { banks: vec![bank], ..Show::empty("New") };
        saved_again_and_again(&write(&show).expect("writes"), &changes)?;
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    #[test]
    fn the_demo_stays_in_order(changes in proptest::collection::vec(change(), 1..6)) {
        saved_again_and_again(LANTERN_QUAY, &changes)?;
    }
}

#[test]
fn windows_lines_and_a_mark_at_the_beginning_stay() {
    let text = format!("\u{feff}{}", BY_HAND.replace('\n', "\r\n"));
    let mut show = read(text.trim_start_matches('\u{feff}')).expect("a show").show;
    show.settings.fade_beats = 9.0;
    let after = write_over(&text, &show).expect("writes");
    assert_eq!(after, text.replace("fade_beats = 2.0", "fade_beats = 9.0"));
}

/// A new show is saved, gets lights, a route, a look and more lights, and is saved again.
#[test]
fn a_new_show_is_written_as_a_person_would() {
    let mut show = Show::empty("New");
    let first = write(&show).expect("writes");
    let mut tube = read(BY_HAND).expect("a show").show.fixtures[1].clone();
    tube.name = "Tube 1".to_owned();
    show.fixtures.push(tube.clone());
    let to = "10.0.0.7".parse().expect("an address");
    let range = UniverseRange { first: 1, last: 1 };
    show.routes.push(Route::new("Tubes", range, TransportKind::ArtNet, 16, to));
    let mut layer = Layer::new("plasma");
    layer.params.insert("size".to_owned(), Param::Number(20.0));
    show.looks.push(Look::new("Sea", vec![layer]));
    let second = write_over(&first, &show).expect("writes");
    show.fixtures.push(splimo_show::Fixture { name: "Tube 2".to_owned(), address: None, ..tube });
    let third = write_over(&second, &show).expect("writes");
    let behind = third.split_once("height = 60.0\n").expect("the canvas").1;
    assert!(third.starts_with(first.split_once("[canvas]").expect("the canvas").0), "{third}");
    insta::assert_snapshot!(behind);
}
