//! Cue lists on a clock that the tests turn.

use std::sync::Arc;

use proptest::prelude::*;

use crate::{Engine, EngineState, Happening, Inputs, ListState, Published, StageEvent, TierState};
use splimo_show::command::Command;
use splimo_show::command::{EngineCommand, Origin};
use splimo_show::{Cue, CueList, CueTier, Look, Show, Tier};

const FPS: f64 = 50.0;

struct Desk {
    engine: Engine,
    frames: u32,
    published: Published,
    happened: Vec<Happening>,
}

fn cue(number: &str, tiers: &[(&str, &str)]) -> Cue {
    let mut cue = Cue::new(number.parse().expect("a number"), "");
    cue.tiers = tiers
        .iter()
        .map(|(tier, said)| match *said {
            "out" => CueTier { tier: (*tier).to_owned(), out: true, ..CueTier::default() },
            look => CueTier { tier: (*tier).to_owned(), look: Some(look.to_owned()), ..CueTier::default() },
        })
        .collect();
    cue
}

fn show(lists: Vec<CueList>) -> Show {
    let text = "version = 1\nname = \"Cues\"\n[settings]\ntempo = 120.0\nfade_beats = 0.0\nlands = \"now\"\n[[fixtures]]\nname = \"Bar\"\nprofile = \"rgb\"\naddress = \"1.1\"\nshape = { grid = { columns = 4, rows = 2 } }\nx = 2.0\ny = 1.0\n";
    let mut show = splimo_show::file::read_unchecked(text).expect("a good show");
    show.tiers = ["base", "mid", "top"].map(Tier::new).to_vec();
    show.looks = ["A", "B", "C", "D"].map(|name| Look::new(name, Vec::new())).to_vec();
    show.cue_lists = lists;
    show
}

fn list(name: &str, cues: Vec<Cue>) -> CueList {
    CueList { cues, ..CueList::new(name) }
}

impl Desk {
    fn new(lists: Vec<CueList>) -> Self {
        let mut desk = Self {
            engine: Engine::new(Arc::new(show(lists))),
            frames: 0,
            published: Published::default(),
            happened: Vec::new(),
        };
        desk.frames(1);
        desk
    }

    fn say(&mut self, text: &str) {
        let Ok(Command::Engine(command)) = text.parse::<Command>() else { panic!("{text} is for the engine") };
        self.engine.apply_from(&command, Origin::Screen(1), f64::from(self.frames) / FPS);
    }

    fn frames(&mut self, count: u32) {
        for _ in 0..count {
            self.engine.tick(f64::from(self.frames) / FPS, &Inputs::default());
            self.frames += 1;
            self.happened.extend(self.engine.take_happenings());
        }
        self.engine.publish(&mut self.published);
    }

    fn seconds(&mut self, seconds: f64) {
        self.frames((seconds * FPS).round() as u32);
    }

    fn tiers(&self) -> &[TierState] {
        &self.published.snapshot.tiers
    }

    /// The looks of the tiers by their names, `-` for none.
    fn stage(&self) -> String {
        self.tiers().iter().map(|tier| tier.look.map_or('-', |look| ['A', 'B', 'C', 'D'][look])).collect()
    }

    fn list(&self, list: usize) -> ListState {
        self.published.snapshot.lists[list]
    }

    fn weight(&self, look: usize) -> f32 {
        self.published.snapshot.stage.iter().filter(|on| on.look == look).map(|on| on.weight).sum()
    }

    /// The seconds at which the cues began.
    fn begins(&self) -> Vec<(String, f64)> {
        let began = self.happened.iter().filter_map(|happening| match happening.event {
            StageEvent::CueBegan { cue, .. } => Some((cue.to_string(), happening.time)),
            _ => None,
        });
        began.collect()
    }
}

fn opening() -> CueList {
    let mut cues = vec![
        cue("1", &[("base", "A")]),
        cue("2", &[("base", "B"), ("top", "C")]),
        cue("3", &[("mid", "D")]),
        cue("4.5", &[("top", "out")]),
    ];
    cues[1].tiers[1].level = Some(50.0);
    cues[2].master = Some(40.0);
    list("Opening", cues)
}

#[test]
fn a_list_says_what_it_says_leaves_the_rest_and_gives_all_back() {
    let mut desk = Desk::new(vec![opening()]);
    desk.say("cut-to mid/A");
    desk.say("cut-to top/B");
    desk.frames(1);
    assert_eq!(desk.stage(), "-AB");
    let mut seen = Vec::new();
    for _ in 0..5 {
        desk.say("go-cue Opening");
        desk.frames(1);
        seen.push((desk.stage(), desk.tiers()[2].level, desk.published.snapshot.master));
    }
    let wanted = [("AAB", 1.0, 1.0), ("BAC", 0.5, 1.0), ("BDC", 0.5, 0.4), ("BD-", 0.5, 0.4), ("BD-", 0.5, 0.4)];
    assert_eq!(seen, wanted.map(|(stage, level, master)| (stage.to_owned(), level, master)));
    assert_eq!(desk.list(0).at, Some(3));
    desk.say("back-cue Opening");
    desk.seconds(1.5);
    assert_eq!((desk.stage(), desk.list(0).at), ("BDC".to_owned(), Some(2)));
    desk.say("go-to-cue Opening/1");
    desk.frames(1);
    assert_eq!((desk.stage(), desk.tiers()[2].level, desk.published.snapshot.master), ("AAB".to_owned(), 1.0, 1.0));
    desk.say("go-cue Opening");
    desk.say("release-cues Opening");
    desk.seconds(1.5);
    assert_eq!((desk.stage(), desk.tiers()[2].level), ("-AB".to_owned(), 1.0));
    assert_eq!(desk.list(0), ListState { next: Some(0), fade_done: 1.0, ..ListState::default() });
}

#[test]
fn hands_take_a_tier_from_a_list_and_keep_it_until_it_names_it_again() {
    let mut desk = Desk::new(vec![opening()]);
    desk.say("go-to-cue Opening/2");
    desk.say("cut-to base/D");
    desk.frames(1);
    assert_eq!(desk.stage(), "D-C");
    desk.say("go-cue Opening");
    desk.frames(1);
    assert_eq!(desk.stage(), "DDC", "cue 3 says nothing of the base");
    desk.say("master 90");
    desk.say("release-cues Opening");
    desk.seconds(1.5);
    assert_eq!((desk.stage(), desk.published.snapshot.master), ("D--".to_owned(), 0.9), "what hands took stays theirs");
}

#[test]
fn a_list_of_priority_keeps_its_tiers_and_hands_have_them_afterwards() {
    let high = CueList { priority: 50, ..list("High", vec![cue("1", &[("base", "A")])]) };
    let low = list("Low", vec![cue("1", &[("base", "B"), ("mid", "B")])]);
    let mut desk = Desk::new(vec![high, low]);
    desk.say("go-cue High");
    desk.say("go-cue Low");
    desk.frames(1);
    assert_eq!(desk.stage(), "AB-");
    desk.say("cut-to base/D");
    desk.frames(1);
    assert_eq!(desk.stage(), "AB-");
    assert!(
        desk.happened
            .iter()
            .any(|happening| happening.event == StageEvent::Kept { tier: 0, owner: crate::Claimant::List(0) })
    );
    desk.say("release-cues High");
    desk.seconds(1.5);
    assert_eq!(desk.stage(), "DB-", "hands were the latest of those below");
    desk.say("release-cues Low");
    desk.seconds(1.5);
    assert_eq!(desk.stage(), "D--");
}

#[test]
fn times_are_kept_to_the_frame_and_do_not_drift_over_changes_of_tempo() {
    let mut cues: Vec<Cue> =
        (1..=4).map(|number| cue(&number.to_string(), &[("base", ["A", "B"][number % 2])])).collect();
    for (one, then) in cues.iter_mut().zip(["after 0.333 s", "after 2 beats", "on bar", "after 0.1 s"]) {
        one.then = then.parse().expect("a way to go on");
    }
    let mut looped = CueList { wrap: true, ..list("Loop", cues) };
    looped.cues[3].delay = "1 s".parse().expect("a time");
    let mut desk = Desk::new(vec![looped]);
    desk.say("go-cue Loop");
    desk.seconds(20.0);
    let begins = desk.begins();
    for pair in begins.windows(2) {
        let [(cue, from), (_, to)] = pair else { unreachable!("two of them") };
        let wanted = match cue.as_str() {
            "1" => 0.333,
            "2" => 1.0,
            "4" => 0.1,
            _ => continue,
        };
        assert!((to - from - wanted).abs() <= 1.0 / FPS + 1e-6, "cue {cue}: {} for {wanted}", to - from);
    }
    let bars = begins.windows(2).filter(|pair| pair[0].0 == "3").map(|pair| pair[1].1);
    assert!(bars.clone().count() > 5);
    assert!(bars.map(|at| (at / 2.0).fract()).all(|into| !(0.011..=0.99).contains(&into)), "{begins:?}");
    // Many short waits do not add up to a drift.
    let mut cues: Vec<Cue> = (1..=3).map(|number| cue(&number.to_string(), &[])).collect();
    cues.iter_mut().for_each(|cue| cue.then = "after 0.33 s".parse().expect("a way to go on"));
    let mut desk = Desk::new(vec![CueList { wrap: true, ..list("Loop", cues) }]);
    desk.say("go-cue Loop");
    for tempo in [90, 140, 61, 128] {
        desk.say(&format!("tempo {tempo}"));
        desk.seconds(8.0);
    }
    let begins = desk.begins();
    for (place, (_, at)) in begins.iter().enumerate() {
        let wanted = begins[0].1 + place as f64 * 0.33;
        assert!((0.0..=1.0 / FPS + 1e-6).contains(&(at - wanted)), "{place}: {at} for {wanted}");
    }
    assert!(begins.len() > 95, "{}", begins.len());
}

#[test]
fn pause_holds_fades_and_waits_and_go_ends_it() {
    let mut one = cue("1", &[("base", "A")]);
    (one.fade_in, one.then) = ("2 s".parse().expect("a time"), "after 3 s".parse().expect("a way"));
    one.master = Some(0.0);
    let mut desk = Desk::new(vec![list("Slow", vec![one, cue("2", &[("base", "B")])])]);
    desk.say("go-cue Slow");
    desk.seconds(1.0);
    let half = (desk.weight(0), desk.published.snapshot.master);
    assert!((half.0 - 0.5).abs() < 0.02 && (half.1 - 0.5).abs() < 0.02, "{half:?}");
    desk.say("pause-cues Slow");
    desk.seconds(10.0);
    assert!((desk.weight(0) - half.0).abs() < 0.02 && (desk.published.snapshot.master - half.1).abs() < 0.02);
    assert!(desk.list(0).paused && desk.list(0).at == Some(0));
    desk.say("pause-cues Slow");
    desk.seconds(1.1);
    assert_eq!((desk.weight(0), desk.published.snapshot.master, desk.list(0).at), (1.0, 0.0, Some(0)));
    desk.seconds(1.0);
    assert_eq!((desk.stage(), desk.list(0).at), ("B--".to_owned(), Some(1)));
}

#[test]
fn a_delay_holds_the_fades_back_and_a_cue_that_was_waited_for_is_not_lost() {
    let mut first = cue("1", &[("base", "A")]);
    first.delay = "1 s".parse().expect("a time");
    let second = cue("2", &[("top", "B")]);
    let mut desk = Desk::new(vec![list("Late", vec![first, second])]);
    desk.say("cut-to base/D");
    desk.say("go-cue Late");
    desk.seconds(0.5);
    assert_eq!(desk.stage(), "D--");
    assert!((desk.list(0).delay_left - 1.0).abs() < 0.1, "half a second is a beat at 120");
    desk.say("go-cue Late");
    desk.frames(1);
    assert_eq!(desk.stage(), "A-B", "both are there");
}

#[test]
fn loops_run_as_often_as_they_say_or_until_go() {
    let looped = |times: u16| {
        let mut cues: Vec<Cue> = (1..=4).map(|number| cue(&number.to_string(), &[])).collect();
        cues[1].then = "after 0.1 s".parse().expect("a way");
        cues[2].then = "after 0.1 s".parse().expect("a way");
        (cues[2].back_to, cues[2].times) = ("2".parse().ok(), times);
        let mut desk = Desk::new(vec![list("Loop", cues)]);
        desk.say("go-cue Loop");
        desk.say("go-cue Loop");
        desk
    };
    let numbers = |desk: &Desk| desk.begins().into_iter().map(|(number, _)| number).collect::<Vec<_>>();
    let mut thrice = looped(3);
    thrice.seconds(5.0);
    assert_eq!(numbers(&thrice), ["1", "2", "3", "2", "3", "2", "3", "4"]);
    let mut endless = looped(0);
    endless.seconds(1.0);
    assert!(numbers(&endless).len() > 9 && endless.list(0).at != Some(3));
    assert_eq!(endless.list(0).next, Some(3), "go leaves it");
    endless.say("go-cue Loop");
    endless.seconds(1.0);
    assert_eq!(endless.list(0).at, Some(3));
}

#[test]
fn a_list_is_stepped_skipped_and_reset_and_wraps_or_stops() {
    let steps = |wrap| CueList { wrap, ..list("Steps", (1..=3).map(|number| cue(&number.to_string(), &[])).collect()) };
    for wrap in [false, true] {
        let mut desk = Desk::new(vec![steps(wrap)]);
        let mut seen = Vec::new();
        for what in ["go-cue", "skip-cue", "go-cue", "go-cue", "back-cue", "reset-cues", "back-cue"] {
            desk.say(&format!("{what} Steps"));
            desk.frames(1);
            seen.push(desk.list(0).at.expect("it runs"));
        }
        let wanted = if wrap { [0, 0, 2, 0, 2, 0, 2] } else { [0, 0, 2, 2, 1, 0, 0] };
        assert_eq!(seen, wanted, "wrap {wrap}");
    }
}

#[test]
fn an_event_has_the_list_go_on_from_the_cue_that_waits_for_it_alone() {
    let mut desk = Desk::new(vec![opening()]);
    desk.say("cue-goes-on Opening/1");
    desk.frames(1);
    assert_eq!(desk.list(0).at, None);
    desk.say("go-cue Opening");
    desk.say("cue-goes-on Opening/2");
    desk.frames(1);
    assert_eq!(desk.list(0).at, Some(0));
    desk.say("cue-goes-on Opening/1");
    desk.frames(1);
    assert_eq!(desk.list(0).at, Some(1));
}

#[test]
fn others_out_and_panic() {
    let mut two = cue("2", &[("top", "C")]);
    two.others_out = true;
    let mut desk = Desk::new(vec![list("Out", vec![cue("1", &[("base", "A"), ("mid", "B")]), two])]);
    desk.say("go-cue Out");
    desk.say("go-cue Out");
    desk.frames(1);
    assert_eq!(desk.stage(), "--C");
    desk.say("back-cue Out");
    desk.seconds(1.5);
    assert_eq!(desk.stage(), "AB-");
    desk.say("panic");
    desk.frames(1);
    assert_eq!((desk.stage(), desk.list(0).at), ("A--".to_owned(), None));
    desk.say("cut-to top/D");
    desk.frames(1);
    assert_eq!(desk.stage(), "A-D");
}

#[test]
fn a_changed_show_keeps_lists_where_they_are_and_a_new_engine_goes_on_there() {
    let mut desk = Desk::new(vec![opening(), list("Other", vec![cue("1", &[("mid", "D")])])]);
    desk.say("cut-to base/D");
    desk.say("go-to-cue Opening/2");
    desk.frames(1);
    let mut changed = opening();
    changed.cues.insert(1, cue("1.5", &[("base", "C")]));
    let mut changed = show(vec![list("Other", Vec::new()), changed]);
    changed.looks.reverse();
    let changed = Arc::new(changed);
    let rig = Arc::new(splimo_light::rig::Rig::compile(&changed));
    drop(desk.engine.adopt(Box::new(crate::Prepared::new(changed.clone(), rig, 1))));
    desk.frames(1);
    assert_eq!((desk.list(0).at, desk.list(1).at), (None, Some(2)));
    let state: EngineState = desk.engine.state();
    let mut next = Desk { engine: Engine::new(changed), ..Desk::new(Vec::new()) };
    next.engine.restore(&state);
    next.frames(1);
    assert_eq!((next.list(1).at, next.stage()), (Some(2), desk.stage()));
    for desk in [&mut desk, &mut next] {
        desk.say("go-cue Opening");
        desk.frames(1);
        assert_eq!(desk.list(1).at, Some(3));
        assert_eq!(desk.tiers()[1].look, Some(0), "D is the first now");
    }
    desk.say("release-cues Opening");
    desk.seconds(1.5);
    assert_eq!(desk.tiers().iter().map(|tier| tier.look).collect::<Vec<_>>(), [Some(0), None, None]);
}

#[test]
fn a_list_whose_cues_are_all_taken_out_claims_nothing_any_more() {
    let mut desk = Desk::new(vec![CueList { priority: 10, ..opening() }]);
    desk.say("go-cue Opening");
    desk.frames(1);
    let changed = Arc::new(show(vec![CueList { priority: 10, ..list("Opening", Vec::new()) }]));
    let rig = Arc::new(splimo_light::rig::Rig::compile(&changed));
    drop(desk.engine.adopt(Box::new(crate::Prepared::new(changed, rig, 1))));
    desk.say("cut-to base/D");
    desk.frames(1);
    assert_eq!((desk.stage(), desk.list(0).at), ("D--".to_owned(), None));
}

/// Something done to a list.
#[derive(Debug, Clone)]
enum Act {
    Go,
    Back,
    To(usize),
    Skip,
    Pause,
    Reset,
    Wait(u32),
}

fn acts() -> impl Strategy<Value = Vec<Act>> {
    let act = prop_oneof![
        4 => Just(Act::Go),
        2 => Just(Act::Back),
        2 => (0usize..6).prop_map(Act::To),
        1 => Just(Act::Skip),
        1 => Just(Act::Pause),
        1 => Just(Act::Reset),
        3 => (1u32..120).prop_map(Act::Wait),
    ];
    prop::collection::vec(act, 1..25)
}

fn any_cue(number: usize) -> impl Strategy<Value = Cue> {
    let said = prop::option::of(prop_oneof![Just("A"), Just("B"), Just("C"), Just("out")]);
    let time = prop_oneof![Just("0"), Just("0.4 s"), Just("1 beat"), Just("1 bar")];
    let level = prop::option::of(0u8..=100);
    (said.clone(), said.clone(), said, level.clone(), level, time.clone(), time, any::<bool>()).prop_map(
        move |(base, mid, top, level, master, fade, delay, others_out)| {
            let tiers: Vec<(&str, &str)> = [("base", base), ("mid", mid), ("top", top)]
                .into_iter()
                .filter_map(|(tier, said)| Some((tier, said?)))
                .collect();
            let mut cue = cue(&(number + 1).to_string(), &tiers);
            if let (Some(first), Some(level)) = (cue.tiers.first_mut(), level) {
                first.level = Some(f32::from(level));
            }
            cue.master = master.map(f32::from);
            (cue.fade_in, cue.delay) = (fade.parse().expect("a time"), delay.parse().expect("a time"));
            (cue.fade_out, cue.others_out) = (cue.fade_in, others_out && number % 3 == 2);
            cue
        },
    )
}

fn any_list() -> impl Strategy<Value = CueList> {
    let cues = (0..6).map(any_cue).collect::<Vec<_>>();
    (cues, any::<bool>()).prop_map(|(cues, wrap)| CueList { wrap, ..list("Any", cues) })
}

/// The stage once all fades are over: looks, levels and master.
fn settled(desk: &mut Desk) -> (String, Vec<f32>, f32) {
    if desk.list(0).paused {
        desk.say("pause-cues Any");
    }
    desk.seconds(6.0);
    (desk.stage(), desk.tiers().iter().map(|tier| tier.level).collect(), desk.published.snapshot.master)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn the_stage_at_a_cue_is_the_same_however_one_came(any in any_list(), acts in acts()) {
        let before = ["cut-to mid/D", "tier-level top 70"];
        let mut desk = Desk::new(vec![any.clone()]);
        before.iter().for_each(|text| desk.say(text));
        let at_rest = { desk.frames(1); settled(&mut desk) };
        for act in acts {
            match act {
                Act::Go => desk.say("go-cue Any"),
                Act::Back => desk.say("back-cue Any"),
                Act::To(place) => desk.say(&format!("go-to-cue Any/{} 0.3", place + 1)),
                Act::Skip => desk.say("skip-cue Any"),
                Act::Pause => desk.say("pause-cues Any"),
                Act::Reset => desk.say("reset-cues Any"),
                Act::Wait(frames) => desk.frames(frames),
            }
        }
        desk.frames(1);
        let came = settled(&mut desk);
        if let Some(at) = desk.list(0).at {
            let mut other = Desk::new(vec![any.clone()]);
            before.iter().for_each(|text| other.say(text));
            for _ in 0..=at {
                other.say("go-cue Any");
                other.frames(150);
            }
            prop_assert_eq!(&came, &settled(&mut other), "at cue {}", at + 1);
        }
        desk.say("release-cues Any");
        prop_assert_eq!(settled(&mut desk), at_rest, "nothing is left of it");
    }

    #[test]
    fn lists_of_priorities_hand_tiers_over_and_back_without_residue(
        lists in prop::collection::vec((any_list(), 0u8..3), 3),
        acts in prop::collection::vec((0usize..3, 0usize..4), 1..30),
    ) {
        let lists: Vec<CueList> = lists.into_iter().enumerate().map(|(place, (list, priority))| {
            CueList { name: format!("L{place}"), priority: priority * 10, ..list }
        }).collect();
        let mut desk = Desk::new(lists);
        desk.say("cut-to base/D");
        desk.seconds(1.0);
        let before = (desk.stage(), desk.tiers().to_vec(), desk.published.snapshot.master);
        for (list, act) in acts {
            desk.say(&format!("{} L{list}", ["go-cue", "back-cue", "release-cues", "pause-cues"][act]));
            desk.frames(17);
        }
        for list in 0..3 {
            desk.say(&format!("release-cues L{list}"));
        }
        desk.seconds(3.0);
        let strip = |tiers: &[TierState]| tiers.iter().map(|tier| (tier.look, tier.level)).collect::<Vec<_>>();
        prop_assert_eq!(desk.stage(), before.0);
        prop_assert_eq!(strip(desk.tiers()), strip(&before.1));
        prop_assert_eq!(desk.published.snapshot.master, before.2);
    }
}

#[test]
fn commands_of_cues_are_read_back_as_they_are_written() {
    for text in ["go-to-cue The end/4.5", "go-to-cue The end/4.5 3", "cue-goes-on Opening/2", "release-cues Opening"] {
        let command: Command = text.parse().expect(text);
        assert_eq!(command.to_string(), text);
    }
    assert!("go-to-cue Opening".parse::<Command>().is_err());
    let command = EngineCommand::GoCue("Opening".to_owned());
    assert_eq!(Command::<splimo_show::command::Unwritten>::from(command).to_string(), "go-cue Opening");
}
