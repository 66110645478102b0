//! Tests of edits: what they do, what they refuse, and that they never leave a broken show.

use proptest::prelude::*;

use super::*;
use crate::patch::Packing;
use splimo_light::rig::cell_positions;
use splimo_show::{Address, Corner, Run, Shape, Wiring};

fn demo() -> Show {
    crate::file::read(include_str!("../../../../shows/lantern-quay.splimo")).expect("a good show").show
}

fn plan(universe: u32, channel: u16) -> Option<Plan> {
    Some(Plan { first: Address { universe, channel }, packing: Packing::NextFree, split: false })
}

fn tubes() -> Batch {
    Batch {
        name: "Tube".into(),
        profile: "rgb".into(),
        count: 10,
        shape: Shape::Line { cells: 16 },
        wiring: Wiring::default(),
        angle: 90.0,
        pitch: 1.0,
        rows: Rows::Row,
        gap: 0.0,
        middle: None,
        plan: plan(1, 1),
        group: "Wall".into(),
    }
}

fn refusal(show: &Show, edit: Edit) -> String {
    edit.apply(show).expect_err("it has to be refused").to_string()
}

#[test]
fn a_wall_of_tubes_runs_down_from_the_top_left() {
    let show = Edit::Add(tubes()).apply(&Show::empty("Wall")).expect("room");
    assert_eq!(show.fixtures.len(), 10);
    let (first, last) = (cell_positions(&show.fixtures[0]), cell_positions(&show.fixtures[9]));
    assert_eq!(first[1], (first[0].0, first[0].1 + 1.0), "it runs down");
    assert_eq!((last[15].0 - first[0].0, last[15].1 - first[0].1), (9.0, 15.0));
    assert_eq!(show.fixtures[9].address.map(|a| a.to_string()), Some("1.433".into()));
    assert_eq!(show.groups[0].members.len(), 10);
}

#[test]
fn a_grid_of_lights_has_the_order_that_is_asked_for() {
    let order = Wiring { start: Corner::BottomLeft, along: Run::Columns, turns: true, ..Wiring::default() };
    let rows = Rows::Grid { columns: 24, order };
    let batch =
        Batch { count: 432, shape: Shape::Line { cells: 1 }, angle: 0.0, rows, group: String::new(), ..tubes() };
    let show = Edit::Add(batch).apply(&Show::empty("Grid")).expect("room");
    let place =
        |index: usize| (show.fixtures[index].x - show.fixtures[0].x, show.fixtures[index].y - show.fixtures[0].y);
    assert_eq!((place(1), place(17), place(18), place(431)), ((0.0, -1.0), (0.0, -17.0), (1.0, -17.0), (23.0, 0.0)));
    assert_eq!(show.fixtures[170].address.map(|a| a.to_string()), Some("2.1".into()), "170 cells fill a universe");
}

#[test]
fn what_is_larger_than_the_canvas_enlarges_it() {
    let batch = Batch { shape: Shape::Grid { columns: 300, rows: 90 }, count: 1, plan: None, ..tubes() };
    let show =
        Edit::Add(Batch { angle: 0.0, group: String::new(), ..batch }).apply(&Show::empty("Large")).expect("room");
    assert_eq!((show.canvas.width, show.canvas.height), (300.0, 90.0));
    assert_eq!(crate::check::check(&show).iter().filter(|p| p.message.contains("off the canvas")).count(), 0);
    let again = Edit::Add(tubes()).apply(&show).expect("room");
    assert!(again.canvas.height > 90.0 && again.fixtures[1].y > 90.0, "the next lie below");
}

#[test]
fn a_circle_faces_outward() {
    let batch =
        Batch { count: 4, rows: Rows::Circle { radius: 10.0 }, angle: 0.0, middle: Some((50.0, 30.0)), ..tubes() };
    let show = Edit::Add(batch).apply(&Show::empty("Circle")).expect("room");
    let places: Vec<_> = show.fixtures.iter().map(|f| (f.x.round(), f.y.round(), f.angle)).collect();
    assert_eq!(places, [(50.0, 20.0, 0.0), (60.0, 30.0, 90.0), (50.0, 40.0, 180.0), (40.0, 30.0, 270.0)]);
}

#[test]
fn what_cannot_be_is_refused_with_its_mend() {
    let show = demo();
    let tube = |change: &dyn Fn(&mut Batch)| {
        let mut batch = tubes();
        change(&mut batch);
        refusal(&show, Edit::Add(batch))
    };
    assert!(tube(&|b| b.shape = Shape::Grid { columns: 1, rows: 100_000 }).contains("give it 1 to 65536 cells"));
    assert!(tube(&|b| b.count = 0).contains("write 1 to"));
    assert!(tube(&|b| b.profile = "xyz".into()).contains("no profile \"xyz\""));
    assert!(tube(&|b| b.pitch = -1.0).contains("above 0"));
    assert!(tube(&|b| b.group = "Sail".into()).contains("there is a \"Sail\" already"));
    let mut bar = show.fixtures[1].clone();
    bar.address = Some(Address { universe: 8, channel: 100 });
    assert!(refusal(&show, Edit::Put(vec![(1, bar.clone())])).contains("Sail 2 would overlap Bridge at 8.100"));
    bar.name = "Sail 3".into();
    assert!(refusal(&show, Edit::Put(vec![(1, bar)])).contains("there is a \"Sail 3\" already"));
    let bridge = show.fixtures.iter().position(|f| f.name == "Bridge").expect("it is there");
    assert!(refusal(&show, Edit::Remove(vec![bridge])).contains("of the look Signal Flags lights nothing else"));
    let import = |address: &str| {
        let bar = Fixture { name: "New".into(), address: address.parse().ok(), ..show.fixtures[1].clone() };
        Edit::Import(vec![show.fixtures[0].clone(), bar], None)
    };
    assert!(refusal(&show, import("8.100")).contains("New would overlap Bridge at 8.100"));
    assert_eq!(import("30.1").apply(&show).expect("it is free").fixtures.len(), show.fixtures.len() + 1);
    assert!(refusal(&show, Edit::RemoveGroup(0)).contains("lights nothing else"));
    assert!(refusal(&show, Edit::Canvas(Canvas { width: -4.0, height: 5.0 })).contains("out of range"));
    assert!(refusal(&show, Edit::MergeGroups(vec![1])).contains("two groups"));
    assert!(refusal(&show, Edit::Arrange(vec![0], Arrangement::Move(f32::NAN, 0.0))).contains("out of range"));
    assert!(refusal(&show, Edit::Remove(vec![5000])).contains("any more"));
}

#[test]
fn names_are_carried_to_wherever_they_stand() {
    let show = demo();
    let renamed = Fixture { name: "Sheet 1".into(), ..show.fixtures[0].clone() };
    let show = Edit::Put(vec![(0, renamed)]).apply(&show).expect("a free name");
    assert_eq!(show.groups[0].members[0], "Sheet 1");
    let group = Group { name: "Canvas Wall".into(), ..show.groups[0].clone() };
    let show = Edit::PutGroup(0, group).apply(&show).expect("a free name");
    let targets: Vec<&String> = show.looks.iter().flat_map(|l| &l.layers).flat_map(|l| &l.target).collect();
    assert!(targets.iter().any(|t| *t == "Canvas Wall") && !targets.iter().any(|t| *t == "Sail"));
    let profile = Profile { name: "mine".into(), ..Profile::built_in("rgb").expect("built in") };
    let show = Edit::AddProfile(profile.clone()).apply(&show).expect("a free name");
    let uses = Fixture { profile: "mine".into(), ..show.fixtures[0].clone() };
    let show = Edit::Put(vec![(0, uses)]).apply(&show).expect("it is there");
    assert!(refusal(&show, Edit::RemoveProfile(0)).contains("has the profile mine"));
    let show = Edit::PutProfile(0, Profile { name: "ours".into(), ..profile }).apply(&show).expect("free");
    assert_eq!(show.fixtures[0].profile, "ours");
}

#[test]
fn merged_groups_keep_their_order_and_their_lights() {
    let show = Edit::MergeGroups(vec![2, 3]).apply(&demo()).expect("two groups");
    let merged = &show.groups[2];
    assert_eq!((merged.name.as_str(), merged.members.len()), ("Gangway", 16));
    assert_eq!((merged.members[0].as_str(), merged.members[8].as_str()), ("Gangway 1", "Flood 1"));
    assert!(show.looks.iter().flat_map(|l| &l.layers).all(|l| !l.target.contains(&"Floods".to_owned())));
}

#[test]
fn picks_take_what_they_say() {
    let five = [1, 2, 3, 4, 5];
    let picks = [Pick::Odd, Pick::Even, Pick::Every(3), Pick::FirstHalf, Pick::SecondHalf, Pick::Reversed];
    let picked = picks.map(|pick| pick.from(&five));
    assert_eq!(picked, [vec![1, 3, 5], vec![2, 4], vec![1, 4], vec![1, 2, 3], vec![4, 5], vec![5, 4, 3, 2, 1]]);
}

#[test]
fn reordering_moves_the_list() {
    let show = Edit::Reorder(vec![4, 0], 3).apply(&demo()).expect("they are there");
    let names: Vec<&str> = show.fixtures[..5].iter().map(|f| f.name.as_str()).collect();
    assert_eq!(names, ["Sail 2", "Sail 3", "Sail 5", "Sail 1", "Sail 4"]);
}

#[test]
fn aligned_and_distributed_fixtures_lie_evenly() {
    let mut show = Show::empty("Even");
    for (i, x) in [0.0, 3.0, 10.0].into_iter().enumerate() {
        let line = Shape::Line { cells: 2 + i as u32 };
        show.fixtures.push(Fixture::new(&format!("F{i}"), "rgb", line).at(x, i as f32));
    }
    let all = vec![0, 1, 2];
    let arranged = |how| Edit::Arrange(all.clone(), how).apply(&show).expect("they are there").fixtures;
    let lefts: Vec<f32> = arranged(Arrangement::Align(Side::Left)).iter().map(|f| Bounds::of(f).left).collect();
    assert_eq!(lefts, [-0.5; 3]);
    let middles: Vec<f32> = arranged(Arrangement::Distribute(Axis::X)).iter().map(|f| f.x).collect();
    assert_eq!(middles, [0.0, 5.0, 10.0]);
    let tops: Vec<f32> = arranged(Arrangement::Align(Side::Middle)).iter().map(|f| f.y).collect();
    assert_eq!(tops, [1.0; 3]);
}

fn arrangement() -> impl Strategy<Value = Arrangement> {
    let sides = [Side::Left, Side::Centre, Side::Right, Side::Top, Side::Middle, Side::Bottom];
    let axis = any::<bool>().prop_map(|x| if x { Axis::X } else { Axis::Y });
    prop_oneof![
        (-50f32..50.0, -50f32..50.0).prop_map(|(x, y)| Arrangement::Move(x, y)),
        (-360f32..360.0).prop_map(Arrangement::Turn),
        axis.clone().prop_map(Arrangement::Mirror),
        (0.1f32..4.0).prop_map(Arrangement::Scale),
        (0usize..6).prop_map(move |side| Arrangement::Align(sides[side])),
        axis.prop_map(Arrangement::Distribute),
    ]
}

/// Any edit of the demo, right or wrong.
pub(crate) fn any_edit() -> impl Strategy<Value = Edit> {
    let some = || proptest::collection::vec(0usize..50, 0..6);
    let plans =
        (1u32..20, 1u16..=512, 0u32..5, 1u32..600, any::<bool>()).prop_map(|(universe, channel, rule, n, split)| {
            let packing = match rule {
                0 => Packing::NextFree,
                1 => Packing::NewUniverse,
                2 => Packing::Fixtures(n),
                3 => Packing::Channels(n),
                _ => Packing::Offset(n),
            };
            Plan { first: Address { universe, channel }, packing, split }
        });
    let name = prop_oneof![Just("Sail 1".to_owned()), Just(String::new()), "[A-Z][a-z]{0,6}"];
    prop_oneof![
        (0u32..40, 0u32..200, plans.clone()).prop_map(|(count, cells, plan)| Edit::Add(Batch {
            count,
            shape: Shape::Line { cells },
            plan: Some(plan),
            ..tubes()
        })),
        some().prop_map(Edit::Remove),
        some().prop_map(Edit::Duplicate),
        (some(), plans).prop_map(|(fixtures, plan)| Edit::Patch(fixtures, plan)),
        some().prop_map(Edit::Unpatch),
        (some(), arrangement()).prop_map(|(fixtures, how)| Edit::Arrange(fixtures, how)),
        (some(), 0usize..60).prop_map(|(fixtures, to)| Edit::Reorder(fixtures, to)),
        (0usize..50, name.clone(), 0u32..300).prop_map(|(index, name, cells)| {
            Edit::Put(vec![(index, Fixture::new(&name, "grb", Shape::Line { cells }).patched(30, 1))])
        }),
        (0usize..6, name.clone()).prop_map(|(index, name)| {
            Edit::PutGroup(index, Group { name, members: vec!["Lantern".into()], colour: None })
        }),
        (0usize..6).prop_map(Edit::RemoveGroup),
        proptest::collection::vec(0usize..6, 0..3).prop_map(Edit::MergeGroups),
        name.prop_map(|name| Edit::AddProfile(Profile { name, ..Profile::built_in("rgb").expect("built in") })),
        (-5f32..300.0).prop_map(|width| Edit::Canvas(Canvas { width, height: 40.0 })),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(100))]

    #[test]
    fn an_edit_leaves_a_show_that_opens_again(edits in proptest::collection::vec(any_edit(), 1..8)) {
        let mut show = demo();
        for edit in edits {
            if let Ok(edited) = edit.apply(&show) {
                show = edited;
            }
        }
        let text = crate::file::write(&show).expect("it can be written");
        let again = crate::file::read(&text).map_err(|e| TestCaseError::fail(e.to_string()))?;
        prop_assert_eq!(again.show, show);
    }

    #[test]
    fn mirroring_twice_and_turning_back_changes_nothing(
        indices in proptest::collection::vec(0usize..40, 1..8), degrees in -360f32..360.0,
    ) {
        let show = demo();
        let apply = |show: &Show, how| Edit::Arrange(indices.clone(), how).apply(show).expect("they are there");
        for pair in [
            [Arrangement::Mirror(Axis::X); 2],
            [Arrangement::Mirror(Axis::Y); 2],
            [Arrangement::Turn(90.0), Arrangement::Turn(-90.0)],
            [Arrangement::Move(degrees, 1.0), Arrangement::Move(-degrees, -1.0)],
        ] {
            let back = apply(&apply(&show, pair[0]), pair[1]);
            for (before, after) in show.fixtures.iter().zip(&back.fixtures) {
                for (a, b) in cell_positions(before).into_iter().zip(cell_positions(after)) {
                    prop_assert!((a.0 - b.0).abs() < 0.02 && (a.1 - b.1).abs() < 0.02, "{:?} {:?}", a, b);
                }
            }
        }
    }

    #[test]
    fn edits_are_data(edit in any_edit()) {
        let text = serde_json::to_string(&edit).expect("it serialises");
        prop_assert_eq!(serde_json::from_str::<Edit>(&text).expect("it comes back"), edit);
    }
}

#[test]
fn a_smaller_canvas_says_what_hangs_off_it_or_takes_it_along() {
    let edited = |show: &Show, edit: &Edit| edit.apply(show).expect("it fits");
    let line = |name: &str, x: f32, y: f32, cells: u32| Fixture {
        name: name.into(),
        x,
        y,
        address: None,
        shape: Shape::Line { cells },
        angle: 0.0,
        pitch: 1.0,
        profile: "rgb".into(),
        wiring: Wiring::default(),
        ..demo().fixtures[0].clone()
    };
    let show = Show {
        fixtures: vec![line("Left", 10.0, 10.0, 8), line("Right", 110.0, 50.0, 8), line("Wide", 60.0, 30.0, 50)],
        groups: Vec::new(),
        canvas: Canvas { width: 120.0, height: 60.0 },
        ..Show::empty("Quay")
    };
    assert_eq!(off_canvas(&show), Vec::<&str>::new());
    let small = Canvas { width: 60.0, height: 30.0 };
    let stays = edited(&show, &Edit::Canvas(small));
    assert_eq!(off_canvas(&stays), ["Right", "Wide"]);
    assert_eq!(stays.fixtures[1].x, 110.0);
    let along = edited(&show, &Edit::FitCanvas(small));
    assert_eq!(off_canvas(&along), Vec::<&str>::new());
    let places: Vec<(f32, f32)> = along.fixtures.iter().map(|f| (f.x, f.y)).collect();
    assert_eq!(places, [(5.0, 5.0), (55.0, 25.0), (30.0, 15.0)]);
    // One that reaches over the edge moves in as far as it has to, and one that has no room stands in the middle.
    let tiny = edited(&show, &Edit::FitCanvas(Canvas { width: 12.0, height: 6.0 }));
    let reach = Bounds::of(&tiny.fixtures[1]);
    assert!((reach.right - 11.5).abs() < 1e-3 && off_canvas(&tiny) == ["Wide"], "{reach:?}");
    assert!((Bounds::of(&tiny.fixtures[2]).middle().0 - 6.0).abs() < 1e-3);
    let grown = edited(&along, &Edit::FitCanvas(Canvas { width: 120.0, height: 60.0 }));
    assert_eq!(grown.fixtures[1].x, 110.0, "and back");
}
