//! Heads on the stage, on a clock that the tests turn, read from the slots as they leave.

use std::sync::Arc;

use proptest::prelude::*;

use crate::{Engine, Inputs, Prepared, Published};
use splimo_light::rig::Rig;
use splimo_show::command::Command;
use splimo_show::command::Origin;
use splimo_show::{AimedHead, Cue, CueNumber, Fixture, Group, Profile, Shape, Show, Swivel};

/// Degrees a second that the heads of the tests turn at the most.
const SPEEDS: [f64; 2] = [180.0, 120.0];
const RANGES: [f64; 2] = [540.0, 270.0];

const LOOKS: &str = r##"
tiers = [{ name = "base" }, { name = "top" }]
[[looks]]
name = "Booth"
[[looks.layers]]
effect = "solid"
[[looks.layers]]
effect = "aim"
params = { aim = "Booth" }
[[looks]]
name = "Ceiling"
[[looks.layers]]
effect = "aim"
params = { aim = "Ceiling" }
[[looks]]
name = "Circle"
[[looks.layers]]
effect = "movement"
params = { aim = "Booth", size = 40, spread = 100, speed = "2 beats" }
[[looks]]
name = "Round below"
[[looks.layers]]
effect = "movement"
params = { figure = "eight", symmetric = "yes", speed = "1 beat" }
[[looks]]
name = "Light"
[[looks.layers]]
effect = "solid"
[[looks]]
name = "Turns"
[looks.pattern]
bars = 2
[[looks.pattern.lanes]]
of = "aim"
events = [{ at = 0, length = 2, aim = "Booth" }, { at = 2, length = 4, aim = "Ceiling", glide = 2 }, { at = 6, length = 1, aim = "Booth" }]
[[looks.pattern.lanes]]
of = "aim"
lights = ["Two"]
later = "1/4"
events = [{ at = 7, length = 1, aim = "Ceiling", glide = 0.5 }]
"##;

/// Three heads: one whose channels are two slots each, one of one slot, and one whose pan lies across two universes' variants.
fn show() -> Show {
    let mut show =
        splimo_show::file::read_unchecked(&format!("version = 1\nname = \"Heads\"\n{LOOKS}")).expect("a good file");
    let swivel = Some(Swivel { pan: 540.0, tilt: 270.0, pan_speed: 180.0, tilt_speed: 120.0 });
    let wide = Profile { name: "wide".into(), swivel, ..Profile::built_in("moving head").expect("built in") };
    let mut narrow = Profile { name: "narrow".into(), ..wide.clone() };
    narrow.channels.iter_mut().for_each(|channel| channel.wide = false);
    show.profiles = vec![wide, narrow];
    let head = |name: &str, profile: &str, at: u16| {
        Fixture::new(name, profile, Shape::Line { cells: 1 }).patched(1, at).at(f32::from(at), 1.0)
    };
    show.fixtures = vec![head("A", "wide", 1), head("B", "wide", 21), head("C", "narrow", 41)];
    show.groups = vec![Group { name: "Two".into(), members: vec!["C".into(), "A".into()], colour: None }];
    for (name, directions) in
        [("Booth", [[10.0, 60.0], [90.0, 20.0], [40.0, 50.0]]), ("Ceiling", [[80.0, 0.0], [5.0, 100.0], [70.0, 90.0]])]
    {
        let heads = ["A", "B", "C"].iter().zip(directions);
        let heads = heads.map(|(name, [pan, tilt])| AimedHead { fixture: (*name).to_owned(), pan, tilt });
        show.aims.push(splimo_show::Aim { name: name.into(), heads: heads.collect() });
    }
    show.cue_lists = vec![splimo_show::CueList::new("List")];
    let number = |number: u32| number.to_string().parse::<CueNumber>().expect("a number");
    show.cue_lists[0].cues = vec![
        Cue::of_look(number(1), "base", "Booth"),
        Cue { others_out: true, ..Cue::new(number(2), "Dark") },
        Cue { ahead: true, ..Cue::of_look(number(3), "base", "Ceiling") },
    ];
    show
}

/// Pan and tilt of each head in degrees, as the slots say it.
fn directions(slots: &[u8]) -> Vec<[f64; 2]> {
    let wide = |at: usize| f64::from(u16::from_be_bytes([slots[at], slots[at + 1]])) / 65_535.0;
    let narrow = |at: usize| f64::from(slots[at]) / 255.0;
    let heads = [[wide(0), wide(2)], [wide(20), wide(22)], [narrow(40), narrow(41)]];
    heads.into_iter().map(|[pan, tilt]| [pan * RANGES[0], tilt * RANGES[1]]).collect()
}

struct Desk {
    engine: Engine,
    time: f64,
    rate: f64,
}

impl Desk {
    fn new(show: Show) -> Self {
        Self { engine: Engine::new(Arc::new(show)), time: 0.0, rate: 50.0 }
    }

    fn ask(&mut self, text: &str) {
        match text.parse::<Command>().expect(text) {
            Command::Engine(command) => self.engine.apply_from(&command, Origin::CommandLine, self.time),
            other => panic!("{other} is none of the engine's"),
        }
    }

    fn tick(&mut self) -> Vec<[f64; 2]> {
        let slots = &self.engine.tick(self.time, &Inputs::default()).slots;
        let directions = directions(slots);
        self.time += 1.0 / self.rate;
        directions
    }

    fn run(&mut self, seconds: f64) -> Vec<[f64; 2]> {
        let frames = (seconds * self.rate).round() as usize;
        (0..frames).fold(Vec::new(), |_, _| self.tick())
    }

    fn adopt(&mut self, show: Show) {
        let rig = Arc::new(Rig::compile(&show));
        drop(self.engine.adopt(Box::new(Prepared::new(Arc::new(show), rig, 1))));
    }
}

/// True if two directions are the same, whole turns of pan apart.
fn near(found: [f64; 2], wanted: [f64; 2]) -> bool {
    let turned = (found[0] - wanted[0] + 180.0).rem_euclid(360.0) - 180.0;
    turned.abs() < 1.5 && (found[1] - wanted[1]).abs() < 1.5
}

#[test]
fn heads_rest_go_where_an_aim_says_and_stay_when_it_goes() {
    let mut desk = Desk::new(show());
    assert!(desk.tick().iter().all(|head| near(*head, [270.0, 135.0])), "they rest in the middle");
    desk.ask("cut-to Booth");
    assert!(near(desk.run(0.1)[0], [288.0, 147.0]), "a tenth of a second, of 180 and 120 degrees a second");
    let there = desk.run(4.0);
    let booth = [[54.0, 162.0], [486.0, 54.0], [216.0, 135.0]];
    assert!(there.iter().zip(booth).all(|(found, wanted)| near(*found, wanted)), "{there:?}");
    desk.ask("release-tier base");
    assert_eq!(desk.run(3.0), there, "they stay where they were");
}

#[test]
fn a_level_and_a_look_that_aims_at_nothing_move_no_head() {
    let mut desk = Desk::new(show());
    desk.ask("cut-to Booth");
    let there = desk.run(4.0);
    for command in ["tier-level base 30", "blackout", "cut-to Light", "master 0", "strobe 3"] {
        desk.ask(command);
        assert_eq!(desk.run(1.0), there, "{command}");
    }
}

#[test]
fn a_fade_goes_the_short_way_over_the_end_of_a_turn() {
    let mut show = show();
    for (aim, pan) in [(0, 350.0), (1, 10.0)] {
        show.aims[aim].heads[0] = AimedHead { fixture: "A".into(), pan: pan / 5.4, tilt: 50.0 };
    }
    let mut desk = Desk::new(show);
    desk.ask("cut-to Booth");
    let from = desk.run(4.0)[0][0];
    assert!((from - 350.0).abs() < 0.1, "{from}");
    desk.ask("next-lands now");
    desk.ask("next-fade 4");
    desk.ask("fire-look Ceiling");
    for _ in 0..150 {
        let pan = desk.tick()[0][0];
        assert!((349.9..370.1).contains(&pan), "{pan}");
    }
    assert!((desk.tick()[0][0] - 370.0).abs() < 0.1, "10 and 370 degrees point the same way");
}

#[test]
fn a_hand_points_heads_until_it_lets_go() {
    let mut desk = Desk::new(show());
    desk.ask("cut-to Booth");
    let there = desk.run(4.0);
    desk.ask("head-pan Two 75");
    desk.ask("nudge-tilt A -10");
    let turned = desk.run(4.0);
    assert!(near(turned[0], [405.0, 135.0]) && near(turned[2], [405.0, 135.0]), "{turned:?}");
    assert_eq!(turned[1], there[1], "B is none of them");
    desk.ask("call-aim B/Ceiling");
    assert!(near(desk.run(5.0)[1], [27.0, 270.0]));
    let mut published = Published::default();
    desk.engine.publish(&mut published);
    let live: Vec<bool> = published.snapshot.heads.iter().map(|head| head.live).collect();
    assert_eq!(live, [true; 3]);
    desk.ask("let-heads A");
    assert!(near(desk.run(4.0)[0], there[0]), "the stage points it again");
    desk.ask("panic");
    let again = desk.run(5.0);
    assert!(near(again[2], there[2]), "{again:?}");
}

#[test]
fn a_movement_without_an_aim_goes_round_where_the_tier_below_points() {
    let mut desk = Desk::new(show());
    desk.ask("cut-to Booth");
    let booth = desk.run(4.0);
    desk.ask("cut-to top/Round below");
    desk.ask("tempo 60");
    desk.run(4.0);
    let seen: Vec<Vec<[f64; 2]>> = (0..400).map(|_| desk.tick()).collect();
    let span = |head: usize, axis: usize| {
        let all = || seen.iter().map(|heads| heads[head][axis]);
        (all().fold(f64::MAX, f64::min), all().fold(f64::MIN, f64::max))
    };
    let (low, high) = span(0, 0);
    let around =
        |low: f64, high: f64| (low - booth[0][0] + 20.0).abs() < 2.0 && (high - booth[0][0] - 20.0).abs() < 2.0;
    assert!(around(low, high), "20 degrees to both sides of {booth:?}: {low} {high}");
    // A and C mirror each other.
    for heads in &seen {
        let (a, c) = (heads[0][0] - booth[0][0], heads[2][0] - booth[2][0]);
        assert!((a + c).abs() < 3.5, "{a} {c}");
    }
    desk.ask("release-tier top");
    let after = desk.run(6.0);
    assert!(near(after[0], [54.0, 162.0]), "{after:?}");
}

#[test]
fn lanes_glide_from_one_aim_to_the_next_and_each_head_later() {
    let mut desk = Desk::new(show());
    desk.ask("tempo 30");
    desk.ask("cut-to Turns");
    // The bar began with the first beat; two beats are four seconds.
    let booth = desk.run(3.9);
    assert!(near(booth[0], [54.0, 162.0]), "{booth:?}");
    let half = desk.run(2.1);
    assert!((half[0][1] - 81.0).abs() < 4.0, "half way after a beat: {half:?}");
    let there = desk.run(4.0);
    assert!(near(there[0], [432.0, 0.0]) && near(there[2], [378.0, 243.0]), "{there:?}");
    // From beat 7 the group goes there again, A, its second, a beat later: when all has begun anew.
    desk.run(3.4);
    let back = desk.run(2.3);
    assert!(near(back[2], [378.0, 243.0]) && near(back[1], [486.0, 54.0]), "{back:?}");
    assert!(near(back[0], [54.0, 162.0]), "{back:?}");
}

#[test]
fn dark_heads_go_ahead_where_the_next_cue_says_so() {
    let mut desk = Desk::new(show());
    desk.ask("go-cue List");
    let booth = desk.run(5.0);
    desk.ask("go-cue List");
    let ahead = desk.run(5.0);
    assert!(!near(ahead[0], booth[0]) && near([0.0, ahead[0][1]], [0.0, 0.0]), "in the dark: {ahead:?}");
    desk.ask("go-cue List");
    assert_eq!(desk.run(2.0), ahead, "they are there already");
    // Without the word they wait.
    let mut show = show();
    show.cue_lists[0].cues[2].ahead = false;
    let mut desk = Desk::new(show);
    desk.ask("go-cue List");
    let booth = desk.run(5.0);
    desk.ask("go-cue List");
    assert_eq!(desk.run(5.0), booth);
}

#[test]
fn an_edit_and_a_new_engine_leave_heads_where_they_point() {
    let mut desk = Desk::new(show());
    desk.ask("cut-to Ceiling");
    let there = desk.run(5.0);
    let mut edited = show();
    edited.settings.fade_beats = 3.0;
    // C comes first.
    edited.fixtures[..3].rotate_right(1);
    desk.adopt(edited);
    assert_eq!(desk.tick(), there);
    let mut other = Desk::new(show());
    other.engine.restore(&desk.engine.state());
    let state = desk.engine.state();
    assert_eq!(other.engine.state().heads, state.heads);
}

/// The beats by which each head is later in a lane of aims over two groups of heads, once with an order that is mixed.
fn places(mixed: &str) -> Vec<f64> {
    let mut show = show();
    let head = |at: u16| {
        Fixture::new(&format!("H{at}"), "wide", Shape::Line { cells: 1 })
            .patched(1, 100 + 20 * at)
            .at(f32::from(at), 1.0)
    };
    show.fixtures.extend((0..8).map(head));
    let names = |from: u16| (from..from + 4).map(|at| format!("H{at}")).collect();
    show.groups = vec![("Left", 0), ("Right", 4)]
        .into_iter()
        .map(|(name, from)| Group { name: name.into(), members: names(from), colour: None })
        .collect();
    let heads = (0..8).map(|at| AimedHead { fixture: format!("H{at}"), pan: 50.0, tilt: 100.0 });
    show.aims = vec![splimo_show::Aim { heads: heads.collect(), ..splimo_show::Aim::new("Down") }];
    let pattern = format!(
        "version = 1\nname = \"L\"\n[[looks]]\nname = \"Lane\"\n[looks.pattern]\nbars = 4\n[[looks.pattern.lanes]]\nof = \"aim\"\nlights = [\"Left\", \"Right\"]\norder = \"order in each group\"\nlater = \"1/4\"\n{mixed}events = [{{ at = 0, length = 12, aim = \"Down\" }}]\n"
    );
    show.looks = splimo_show::file::read_unchecked(&pattern).expect("a good file").looks;
    let mut desk = Desk { rate: 100.0, ..Desk::new(show) };
    desk.ask("tempo 60");
    desk.ask("cut-to Lane");
    let mut began = vec![None; 8];
    for frame in 0..600 {
        desk.tick();
        let slots = &desk.engine.frame().slots;
        for (at, began) in began.iter_mut().enumerate() {
            let tilt = u16::from_be_bytes([slots[101 + 20 * at], slots[102 + 20 * at]]);
            if tilt > 33_000 && began.is_none() {
                *began = Some(f64::from(frame) / 100.0);
            }
        }
    }
    began.into_iter().map(|began| began.expect("each begins").round()).collect()
}

#[test]
fn heads_of_each_group_are_later_one_by_one_in_their_order_or_mixed() {
    assert_eq!(places(""), [0.0, 1.0, 2.0, 3.0, 0.0, 1.0, 2.0, 3.0]);
    let mixed = places("mixed = 5\n");
    assert_eq!(mixed[..4], mixed[4..], "alike in both");
    let mut sorted = mixed[..4].to_vec();
    sorted.sort_by(f64::total_cmp);
    assert_eq!(sorted, [0.0, 1.0, 2.0, 3.0], "each has a place of its own: {mixed:?}");
    assert_ne!(mixed[..4], sorted[..], "it is mixed");
}

#[test]
fn a_layer_of_half_its_opacity_points_half_way_and_one_without_an_aim_nowhere() {
    let mut show = show();
    show.looks[1].layers[0].opacity = 0.5;
    let mut nowhere = show.looks[1].clone();
    nowhere.name = "Nowhere".into();
    nowhere.layers[0].params.clear();
    show.looks.push(nowhere);
    let mut desk = Desk::new(show);
    desk.ask("cut-to Booth");
    let booth = desk.run(5.0);
    desk.ask("cut-to Nowhere");
    assert_eq!(desk.run(2.0), booth, "what names no aim points nobody");
    desk.ask("cut-to Ceiling");
    let half = desk.run(5.0);
    // Tilt of A: 162 degrees at the booth, 0 at the ceiling.
    assert!((half[0][1] - 81.0).abs() < 1.0, "{half:?}");
}

fn any_command() -> impl Strategy<Value = String> {
    let look = prop::sample::select(vec!["Booth", "Ceiling", "Circle", "Round below", "Light", "Turns"]);
    let tier = prop::sample::select(vec!["base", "top"]);
    let head = prop::sample::select(vec!["A", "B", "C", "Two"]);
    prop_oneof![
        (tier.clone(), look.clone()).prop_map(|(tier, look)| format!("cut-to {tier}/{look}")),
        (tier.clone(), look).prop_map(|(tier, look)| format!("fire-look {tier}/{look}")),
        tier.clone().prop_map(|tier| format!("release-tier {tier}")),
        tier.clone().prop_map(|tier| format!("mute-tier {tier}")),
        tier.prop_map(|tier| format!("solo-tier {tier}")),
        (head.clone(), 0u8..=100).prop_map(|(head, to)| format!("head-pan {head} {to}")),
        (head.clone(), -50i8..=50).prop_map(|(head, by)| format!("nudge-tilt {head} {by}")),
        head.prop_map(|head| format!("let-heads {head}")),
        prop::sample::select(vec!["Booth", "Ceiling", "Two/Booth"]).prop_map(|aim| format!("call-aim {aim}")),
        prop::sample::select(vec!["go-cue List", "back-cue List", "go-to-cue List/3", "release-cues List"])
            .prop_map(str::to_owned),
        prop::sample::select(vec!["blackout", "panic", "bar-here", "tap", "let-all-heads", "speed 2", "go"])
            .prop_map(str::to_owned),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    /// Coarse and fine slots together never move faster than a head can, whatever is asked.
    #[test]
    fn packed_slots_are_continuous_within_the_speed_limit(
        commands in prop::collection::vec((any_command(), 1usize..60), 1..25),
        rate in prop::sample::select(vec![30.0, 44.0, 120.0]),
    ) {
        let mut desk = Desk { rate, ..Desk::new(show()) };
        let mut before = desk.tick();
        for (at, (command, frames)) in commands.iter().enumerate() {
            desk.ask(command);
            if at % 7 == 3 {
                let mut changed = show();
                changed.aims[0].heads[0].pan = 40.0;
                desk.adopt(changed);
            }
            for _ in 0..*frames {
                let now = desk.tick();
                for (head, (now, before)) in now.iter().zip(&before).enumerate() {
                    let steps = if head == 2 { 255.0 } else { 65_535.0 };
                    for axis in 0..2 {
                        let most = SPEEDS[axis] / rate + RANGES[axis] / steps;
                        let moved = (now[axis] - before[axis]).abs();
                        prop_assert!(moved <= most + 1e-6, "{command}: head {head} axis {axis} by {moved} of {most}");
                    }
                }
                before = now;
            }
        }
    }
}
