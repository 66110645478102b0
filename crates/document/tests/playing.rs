//! The stage on a fake clock: pads in every mode, on every boundary, with every fade, while the tempo changes and hands interrupt.

use std::sync::Arc;

use proptest::prelude::*;
use splimo_document::file;
use splimo_engine::{Engine, Happening, Inputs, Published, RotationState, StageEvent};
use splimo_show::command::{EngineCommand, NamedLevel, Origin};
use splimo_show::{Bank, Boundary, Look, Manner, Pad, PadMode, Show, Tier};

const FRAME: f64 = 1.0 / 44.0;

const RIG: &str = r##"
version = 1
name = "Playing"
settings = { dither = false, lands = "bar", fade_beats = 2.0, tempo = 120.0, strobe_limit = 0 }
[[fixtures]]
name = "Left"
profile = "rgb"
address = "1.1"
shape = { line = { cells = 4 } }
x = 10.0
y = 5.0
[[fixtures]]
name = "Right"
profile = "rgb"
address = "1.13"
shape = { line = { cells = 4 } }
x = 30.0
y = 5.0
[[groups]]
name = "Half"
members = ["Right"]
[[looks]]
name = "red"
[[looks.layers]]
effect = "solid"
params = { colours = ["#ff0000"] }
[[looks]]
name = "green"
[[looks.layers]]
effect = "solid"
params = { colours = ["#00ff00"] }
[[looks]]
name = "blue left"
[[looks.layers]]
effect = "solid"
target = ["Left"]
params = { colours = ["#0000ff"] }
[[looks]]
name = "white"
[[looks.layers]]
effect = "solid"
params = { colours = ["#ffffff"] }
[[tiers]]
name = "base"
[[tiers]]
name = "top"
[[tiers]]
name = "half"
blend = "add"
lights = ["Half"]
"##;

const RED: usize = 0;
const GREEN: usize = 1;
const BLUE: usize = 2;
const WHITE: usize = 3;

fn show() -> Show {
    file::read(RIG).expect("a good show").show
}

/// The show with one bank of these pads.
fn with_pads(pads: Vec<(&str, Manner)>) -> Show {
    let mut show = show();
    let pad = |(index, (look, plays)): (usize, (&str, Manner))| Pad { plays, ..Pad::of_look(index + 1, look) };
    let pads = pads.into_iter().enumerate().map(pad).collect();
    show.banks = vec![Bank { name: "All".into(), plays: Manner::default(), pads }];
    show
}

fn on(tier: &str, mode: PadMode, lands: Boundary, fade: f32) -> Manner {
    Manner {
        tier: Some(tier.into()),
        mode: Some(mode),
        lands: Some(lands),
        fade_in: Some(fade),
        fade_out: Some(fade),
        beats: Some(4.0),
    }
}

/// An engine on a fake clock.
struct Desk {
    engine: Engine,
    time: f64,
    published: Published,
    happened: Vec<Happening>,
}

impl Desk {
    fn of(show: Show) -> Self {
        let mut desk = Self {
            engine: Engine::new(Arc::new(show)),
            time: 0.0,
            published: Published::default(),
            happened: Vec::new(),
        };
        desk.tick();
        desk
    }

    fn tick(&mut self) {
        self.engine.tick(self.time, &Inputs::default());
        self.engine.publish(&mut self.published);
        self.happened.extend(self.engine.take_happenings());
        self.time += FRAME;
    }

    fn ask(&mut self, command: &EngineCommand) {
        self.engine.apply_from(command, Origin::Screen(1), self.time);
    }

    /// Goes on to a beat.
    fn to(&mut self, beat: f64) {
        while self.beat() < beat {
            self.tick();
        }
    }

    fn beat(&self) -> f64 {
        self.published.snapshot.clock.beat
    }

    /// The look that each tier shows.
    fn looks(&self) -> Vec<Option<usize>> {
        self.published.snapshot.tiers.iter().map(|tier| tier.look).collect()
    }

    /// The light of the first LED on the left and on the right.
    fn light(&self) -> [[f32; 3]; 2] {
        [0, 4].map(|led| self.published.light[led].map(|part| (part * 100.0).round() / 100.0))
    }

    fn waiting(&self) -> usize {
        self.published.snapshot.queue.len()
    }

    fn weight(&self, look: usize) -> f32 {
        self.published.snapshot.stage.iter().find(|entry| entry.look == look).map_or(0.0, |entry| entry.weight)
    }
}

fn level(name: &str, percent: f32) -> NamedLevel {
    NamedLevel { name: name.into(), percent }
}

#[test]
fn tiers_lie_over_one_another_and_what_is_clear_lets_through() {
    let pads = |name| on(name, PadMode::Change, Boundary::Now, 0.0);
    let mut desk =
        Desk::of(with_pads(vec![("red", pads("base")), ("blue left", pads("top")), ("green", pads("half"))]));
    for pad in 1..=3 {
        desk.ask(&EngineCommand::FirePad(pad));
        desk.tick();
    }
    assert_eq!(desk.looks(), [Some(RED), Some(BLUE), Some(GREEN)]);
    // The top covers the left only; the third adds its light on the right only.
    assert_eq!(desk.light(), [[0.0, 0.0, 1.0], [1.0, 1.0, 0.0]]);
    desk.ask(&EngineCommand::TierLevel(level("top", 25.0)));
    desk.ask(&EngineCommand::TierLevel(level("half", 50.0)));
    desk.tick();
    assert_eq!(desk.light(), [[0.75, 0.0, 0.25], [1.0, 0.5, 0.0]]);
    desk.ask(&EngineCommand::MuteTier("half".into()));
    desk.ask(&EngineCommand::SoloTier("base".into()));
    desk.tick();
    assert_eq!(desk.light(), [[1.0, 0.0, 0.0], [1.0, 0.0, 0.0]]);
    desk.ask(&EngineCommand::SoloTier("base".into()));
    desk.ask(&EngineCommand::GroupLevel(level("Half", 20.0)));
    desk.ask(&EngineCommand::Master(50.0));
    desk.tick();
    assert_eq!(desk.light(), [[0.37, 0.0, 0.12], [0.1, 0.0, 0.0]]);
    // All of them fade out by their own time, but for the lowest.
    desk.ask(&EngineCommand::ClearTiers);
    desk.tick();
    assert_eq!(desk.looks(), [Some(RED), None, None]);
    assert_eq!(desk.light()[0], [0.5, 0.0, 0.0]);
}

#[test]
fn a_toggle_goes_when_it_is_pressed_again_and_a_press_takes_back_what_waits() {
    let manner = |mode| on("top", mode, Boundary::Bar, 1.0);
    let mut desk = Desk::of(with_pads(vec![("white", manner(PadMode::Toggle)), ("red", manner(PadMode::Change))]));
    desk.ask(&EngineCommand::FirePad(1));
    desk.tick();
    assert_eq!(desk.waiting(), 1);
    desk.ask(&EngineCommand::FirePad(1));
    desk.tick();
    assert_eq!(desk.waiting(), 0, "the same again takes it back");
    desk.ask(&EngineCommand::FirePad(1));
    desk.to(6.0);
    assert_eq!(desk.looks()[1], Some(WHITE));
    desk.ask(&EngineCommand::FirePad(1));
    desk.to(9.5);
    assert_eq!((desk.looks()[1], desk.light()), (None, [[0.0; 3]; 2]));
    assert!(desk.published.snapshot.stage.is_empty(), "nothing is left");
}

#[test]
fn a_flash_lies_over_its_tier_while_it_is_held_and_then_that_is_back() {
    let flash = on("base", PadMode::Flash, Boundary::Now, 0.0);
    let change = on("base", PadMode::Change, Boundary::Phrase, 2.0);
    let mut desk = Desk::of(with_pads(vec![("white", flash), ("green", change)]));
    desk.ask(&EngineCommand::CutTo("red".into()));
    desk.ask(&EngineCommand::FirePad(2));
    desk.ask(&EngineCommand::HoldPad(1));
    desk.tick();
    assert_eq!((desk.light()[0], desk.waiting()), ([1.0; 3], 1), "what waits goes on waiting");
    assert!(desk.published.snapshot.tiers[0].held && desk.published.snapshot.tiers[0].below == Some(RED));
    desk.to(20.0);
    assert_eq!(desk.light()[0], [1.0; 3], "as long as it is held");
    desk.ask(&EngineCommand::LetPadGo(1));
    desk.tick();
    assert_eq!((desk.light()[0], desk.looks()[0]), ([1.0, 0.0, 0.0], Some(RED)));
    // Where a key does not tell when it is let go, a flash has its length.
    desk.ask(&EngineCommand::FirePad(1));
    desk.tick();
    let struck = desk.beat();
    assert_eq!(desk.light()[0], [1.0; 3]);
    desk.to(struck + 3.9);
    assert_eq!(desk.light()[0], [1.0; 3]);
    desk.to(struck + 4.05);
    assert_eq!(desk.light()[0], [1.0, 0.0, 0.0]);
}

#[test]
fn flashes_over_one_another_end_in_any_order() {
    let flash = || on("base", PadMode::Flash, Boundary::Now, 0.0);
    let mut desk = Desk::of(with_pads(vec![("white", flash()), ("green", flash())]));
    desk.ask(&EngineCommand::CutTo("red".into()));
    for (command, look) in [
        (EngineCommand::HoldPad(1), WHITE),
        (EngineCommand::HoldPad(2), GREEN),
        (EngineCommand::LetPadGo(1), GREEN),
        (EngineCommand::HoldPad(1), WHITE),
        (EngineCommand::LetPadGo(1), GREEN),
        (EngineCommand::LetPadGo(2), RED),
        (EngineCommand::LetPadGo(2), RED),
    ] {
        desk.ask(&command);
        desk.tick();
        assert_eq!(desk.looks()[0], Some(look), "{command:?}");
    }
}

#[test]
fn a_fade_of_four_beats_takes_four_beats_though_the_tempo_changes() {
    let mut desk = Desk::of(with_pads(vec![("green", on("base", PadMode::Change, Boundary::Bar, 4.0))]));
    desk.ask(&EngineCommand::CutTo("red".into()));
    desk.ask(&EngineCommand::FirePad(1));
    desk.to(4.0);
    for (beat, tempo) in [(5.0, 60.0), (6.0, 200.0), (7.0, 97.0)] {
        desk.ask(&EngineCommand::Tempo(tempo));
        while desk.beat() < beat {
            let share = ((desk.beat() - 4.0) / 4.0) as f32;
            assert!((desk.weight(GREEN) - share).abs() < 1e-4, "{} at {}", desk.weight(GREEN), desk.beat());
            desk.tick();
        }
    }
    desk.to(8.0);
    assert_eq!((desk.weight(GREEN), desk.weight(RED)), (1.0, 0.0));
}

#[test]
fn waiting_things_are_landed_pushed_and_taken_back_one_by_one() {
    let manner = |tier| on(tier, PadMode::Change, Boundary::Bar, 0.0);
    let mut desk =
        Desk::of(with_pads(vec![("red", manner("base")), ("white", manner("top")), ("green", manner("half"))]));
    desk.to(1.0);
    (1..=3).for_each(|pad| desk.ask(&EngineCommand::FirePad(pad)));
    desk.tick();
    let numbers: Vec<usize> = desk.published.snapshot.queue.iter().map(|armed| armed.number).collect();
    assert_eq!(numbers, [1, 2, 3]);
    desk.ask(&EngineCommand::Land(2));
    desk.ask(&EngineCommand::Push(1));
    desk.ask(&EngineCommand::TakeBack(3));
    desk.ask(&EngineCommand::TakeBack(77));
    desk.tick();
    assert_eq!((desk.looks(), desk.waiting()), (vec![None, Some(WHITE), None], 1));
    desk.to(7.9);
    assert_eq!(desk.waiting(), 1, "it was pushed beyond the fourth beat");
    desk.to(8.0);
    assert_eq!((desk.looks()[0], desk.waiting()), (Some(RED), 0));
}

#[test]
fn the_next_press_alone_has_what_was_chosen_for_it() {
    let mut desk = Desk::of(with_pads(vec![("red", on("base", PadMode::Change, Boundary::Now, 0.0))]));
    desk.ask(&EngineCommand::NextLands(Boundary::Phrase));
    desk.ask(&EngineCommand::NextFade(8.0));
    // Somebody else's press leaves it.
    desk.engine.apply_from(&EngineCommand::FirePad(1), Origin::Screen(2), desk.time);
    desk.tick();
    assert_eq!(desk.looks()[0], Some(RED));
    desk.ask(&EngineCommand::FirePad(1));
    desk.tick();
    let armed = desk.published.snapshot.queue[0];
    assert_eq!((armed.boundary, armed.wish.fade), (Boundary::Phrase, 8.0));
    assert_eq!(desk.published.snapshot.once.lands, None, "once");
}

#[test]
fn panic_ends_everything_and_leaves_the_safe_look_whole() {
    let flash = on("top", PadMode::Flash, Boundary::Now, 0.0);
    let change = on("base", PadMode::Change, Boundary::Phrase, 8.0);
    let mut show = with_pads(vec![("white", flash), ("red", change)]);
    show.settings.safe_look = "green".into();
    let mut desk = Desk::of(show);
    desk.ask(&EngineCommand::Master(50.0));
    for command in [
        EngineCommand::HoldPad(1),
        EngineCommand::FirePad(2),
        EngineCommand::Rotate(true),
        EngineCommand::Speed(0.0),
        EngineCommand::TierLevel(level("base", 10.0)),
        EngineCommand::MuteTier("base".into()),
        EngineCommand::SoloTier("half".into()),
        EngineCommand::Test(splimo_show::LightTest::Identify(vec![0])),
    ] {
        desk.ask(&command);
        desk.tick();
    }
    desk.ask(&EngineCommand::Panic);
    desk.tick();
    let snapshot = &desk.published.snapshot;
    assert_eq!((desk.looks(), desk.waiting()), (vec![Some(GREEN), None, None], 0));
    assert_eq!((snapshot.rotation, snapshot.speed, snapshot.master), (RotationState::Off, 1.0, 0.5));
    assert_eq!(desk.light(), [[0.0, 0.5, 0.0]; 2], "whole, at the master");
    // Letting go afterwards brings nothing back.
    desk.ask(&EngineCommand::LetPadGo(1));
    desk.tick();
    assert_eq!(desk.looks(), [Some(GREEN), None, None]);
}

#[test]
fn panic_without_a_safe_look_leaves_what_the_lowest_tier_shows() {
    let manner = |tier| on(tier, PadMode::Change, Boundary::Now, 4.0);
    let mut desk = Desk::of(with_pads(vec![("red", manner("base")), ("white", manner("top"))]));
    (1..=2).for_each(|pad| desk.ask(&EngineCommand::FirePad(pad)));
    desk.to(1.0);
    desk.ask(&EngineCommand::Panic);
    desk.tick();
    assert_eq!(desk.light(), [[1.0, 0.0, 0.0]; 2]);
}

#[test]
fn blackout_fades_as_the_show_says() {
    let mut show = show();
    show.settings.blackout_fade = 1.0;
    let mut desk = Desk::of(show);
    desk.ask(&EngineCommand::CutTo("red".into()));
    desk.tick();
    desk.ask(&EngineCommand::Blackout);
    (0..22).for_each(|_| desk.tick());
    assert_eq!(desk.light()[0], [0.5, 0.0, 0.0]);
    (0..22).for_each(|_| desk.tick());
    assert_eq!(desk.light()[0], [0.0; 3]);
    desk.ask(&EngineCommand::Blackout);
    (0..45).for_each(|_| desk.tick());
    assert_eq!(desk.light()[0], [1.0, 0.0, 0.0]);
}

#[test]
fn what_falls_back_is_on_when_nothing_else_is() {
    let mut show = with_pads(vec![("red", on("base", PadMode::Change, Boundary::Now, 0.0))]);
    show.settings.fade_beats = 0.0;
    show.settings.fallback = splimo_show::Fallback::Look;
    show.settings.fallback_look = "green".into();
    let mut desk = Desk::of(show);
    desk.tick();
    assert_eq!(desk.light()[0], [0.0, 1.0, 0.0], "nothing was fired yet");
    desk.ask(&EngineCommand::FirePad(1));
    desk.tick();
    assert_eq!(desk.light()[0], [1.0, 0.0, 0.0]);
    desk.ask(&EngineCommand::ReleaseTier("base".into()));
    desk.tick();
    assert_eq!((desk.light()[0], desk.published.snapshot.fallback), ([0.0, 1.0, 0.0], Some(GREEN)));
}

#[test]
fn the_rotation_turns_yields_to_a_hand_and_takes_back() {
    let mut show = with_pads(vec![("white", on("base", PadMode::Change, Boundary::Now, 0.0))]);
    show.rotation.bars = 2;
    show.rotation.fade = 1.0;
    show.rotation.without = vec!["white".into()];
    let mut desk = Desk::of(show);
    desk.ask(&EngineCommand::Rotate(true));
    desk.to(40.0);
    let landed = |desk: &Desk| -> Vec<(usize, f64)> {
        let of_rotation = desk.happened.iter().filter(|happening| happening.by == Origin::Rotation);
        of_rotation
            .filter_map(|happening| match happening.event {
                StageEvent::Landed { look, .. } => Some((look, (happening.beat / 4.0).floor())),
                _ => None,
            })
            .collect()
    };
    let turns = landed(&desk);
    assert_eq!(turns.iter().map(|(_, bar)| *bar).collect::<Vec<_>>(), [1.0, 4.0, 6.0, 8.0, 10.0]);
    assert!(turns.windows(2).all(|pair| pair[0].0 != pair[1].0) && turns.iter().all(|(look, _)| *look != WHITE));
    desk.ask(&EngineCommand::FirePad(1));
    desk.to(80.0);
    assert_eq!((desk.looks()[0], desk.waiting()), (Some(WHITE), 0), "it has given way");
    assert_eq!(desk.published.snapshot.rotation, RotationState::GaveWay);
    desk.ask(&EngineCommand::Rotate(true));
    desk.to(97.0);
    assert_ne!(desk.looks()[0], Some(WHITE), "it took back");
    assert_eq!(landed(&desk).len(), turns.len() + 2);
}

#[test]
fn the_rotation_goes_on_where_its_choice_is_taken_back_landed_or_gone() {
    let mut show = show();
    show.rotation.bars = 2;
    show.rotation.fade = 0.0;
    let mut desk = Desk::of(show);
    desk.ask(&EngineCommand::Rotate(true));
    desk.to(5.0);
    let chosen = |desk: &Desk| desk.published.snapshot.queue.first().and_then(|armed| armed.wish.look);
    for (beat, command) in [
        (20.0, EngineCommand::Disarm),
        (36.0, EngineCommand::TakeBack(1)),
        (52.0, EngineCommand::Go),
        (68.0, EngineCommand::Push(1)),
    ] {
        assert!(chosen(&desk).is_some(), "it always has the next one ready");
        desk.ask(&command);
        let before = desk.happened.len();
        desk.to(beat);
        let landed = |happening: &Happening| matches!(happening.event, StageEvent::Landed { .. });
        let count = desk.happened[before..].iter().filter(|happening| landed(happening)).count();
        assert!(count > 0, "after {command:?} nothing landed any more");
    }
    // The look that it has chosen is taken out of the show.
    let gone = chosen(&desk).expect("a choice");
    let mut edited = self::show();
    edited.looks.remove(gone);
    edited.rotation.bars = 2;
    let rig = desk.engine.rig().clone();
    drop(desk.engine.adopt(Box::new(splimo_engine::Prepared::new(Arc::new(edited), rig, 1))));
    desk.tick();
    assert!(chosen(&desk).is_some(), "it chose another");
}

#[test]
fn an_edited_stage_keeps_what_is_on_it() {
    let mut desk = Desk::of(with_pads(vec![("red", on("base", PadMode::Change, Boundary::Now, 0.0))]));
    desk.ask(&EngineCommand::CutTo("base/red".into()));
    desk.ask(&EngineCommand::CutTo("top/blue left".into()));
    desk.ask(&EngineCommand::TierLevel(level("top", 50.0)));
    desk.tick();
    let mut edited = show();
    edited.tiers.insert(1, Tier::new("middle"));
    edited.looks.insert(0, Look::new("new", Vec::new()));
    edited.tiers.swap(0, 2);
    let rig = desk.engine.rig().clone();
    drop(desk.engine.adopt(Box::new(splimo_engine::Prepared::new(Arc::new(edited), rig, 1))));
    desk.tick();
    assert_eq!(desk.looks(), [Some(BLUE + 1), None, Some(RED + 1), None]);
    assert_eq!(desk.published.snapshot.tiers[0].level, 0.5);
}

/// An action of somebody at the desk.
#[derive(Debug, Clone)]
enum Action {
    Ask(EngineCommand),
    Wait(u32),
}

fn action(only_gentle: bool) -> impl Strategy<Value = Action> {
    let pad = 1usize..=12;
    let tier = prop::sample::select(vec!["base", "top", "half"]);
    let gentle = prop_oneof![
        4 => pad.clone().prop_map(EngineCommand::FirePad),
        2 => pad.clone().prop_map(EngineCommand::HoldPad),
        2 => pad.prop_map(EngineCommand::LetPadGo),
        1 => Just(EngineCommand::Go),
        1 => Just(EngineCommand::Disarm),
        1 => (1usize..5).prop_map(EngineCommand::Land),
        1 => (1usize..5).prop_map(EngineCommand::Push),
        1 => (1usize..5).prop_map(EngineCommand::TakeBack),
        1 => prop::sample::select(Boundary::ALL.to_vec()).prop_map(EngineCommand::NextLands),
        1 => tier.clone().prop_map(|tier| EngineCommand::ReleaseTier(tier.into())),
        1 => Just(EngineCommand::ClearTiers),
        2 => (40f32..240.0).prop_map(EngineCommand::Tempo),
        1 => any::<bool>().prop_map(EngineCommand::Rotate),
        1 => Just(EngineCommand::BarHere),
    ];
    let sudden = prop_oneof![
        2 => (tier.clone(), 0f32..=100.0).prop_map(|(name, to)| EngineCommand::TierLevel(level(name, to))),
        1 => tier.clone().prop_map(|tier| EngineCommand::MuteTier(tier.into())),
        1 => tier.prop_map(|tier| EngineCommand::SoloTier(tier.into())),
        1 => (0f32..=100.0).prop_map(|to| EngineCommand::GroupLevel(level("Half", to))),
        1 => Just(EngineCommand::Panic),
        1 => Just(EngineCommand::CutTo("top/white".into())),
        1 => (0f32..3.0).prop_map(EngineCommand::Speed),
        1 => (0f32..8.0).prop_map(EngineCommand::NextFade),
    ];
    let asked = if only_gentle { gentle.boxed() } else { prop_oneof![3 => gentle, 1 => sudden].boxed() };
    prop_oneof![asked.prop_map(Action::Ask), (1u32..60).prop_map(Action::Wait)]
}

/// Pads in every mode on every tier; no fade is shorter than `least` beats.
fn every_pad(least: f32) -> Show {
    let boundaries = [Boundary::Now, Boundary::Beat, Boundary::Bar];
    let looks = ["red", "green", "blue left", "white"];
    let mut pads = Vec::new();
    for (number, mode) in PadMode::ALL.into_iter().enumerate() {
        for (place, tier) in ["base", "top", "half"].into_iter().enumerate() {
            let fade = least + [0.0, 1.0, 3.0][(number + place) % 3];
            pads.push((looks[(number + place) % 4], on(tier, mode, boundaries[(number + 2 * place) % 3], fade)));
        }
    }
    let mut show = with_pads(pads);
    show.rotation.bars = 1;
    show.rotation.fade = least.max(1.0);
    show
}

/// Performs actions and returns the frames; `look` sees each.
fn perform(show: Show, actions: &[Action], mut look: impl FnMut(&Desk, &Published)) -> Vec<Vec<u8>> {
    let mut desk = Desk::of(show);
    let mut frames = Vec::new();
    let mut tick = |desk: &mut Desk, frames: &mut Vec<Vec<u8>>| {
        let before = desk.published.clone();
        desk.tick();
        frames.push(desk.published.slots.clone());
        look(desk, &before);
    };
    for action in actions {
        match action {
            Action::Ask(command) => desk.ask(command),
            Action::Wait(ticks) => (0..*ticks).for_each(|_| tick(&mut desk, &mut frames)),
        }
    }
    tick(&mut desk, &mut frames);
    frames
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 96, ..ProptestConfig::default() })]

    #[test]
    fn whatever_is_played_levels_hold_and_things_land_on_their_boundary(
        actions in prop::collection::vec(action(false), 1..60)
    ) {
        perform(every_pad(0.0), &actions, |desk, _| {
            let snapshot = &desk.published.snapshot;
            assert!(snapshot.stage.iter().all(|entry| (0.0..=1.0).contains(&entry.weight)), "{:?}", snapshot.stage);
            assert!(snapshot.tiers.iter().all(|tier| (0.0..=1.0).contains(&tier.level)));
            for tier in 0..3 {
                let whole: f32 = snapshot.stage.iter().filter(|e| e.tier == tier).map(|e| e.weight).sum();
                assert!(whole <= 1.0001, "{:?}", snapshot.stage);
            }
            assert!(desk.published.light.iter().flatten().all(|part| (0.0..=2.001).contains(part)));
            // Nothing that is due waits on.
            let due = snapshot.queue.iter().find(|armed| armed.lands_at <= desk.beat());
            assert!(due.is_none(), "{due:?} at {}", desk.beat());
            let ordered = snapshot.queue.windows(2).all(|two| two[0].lands_at <= two[1].lands_at);
            assert!(ordered && snapshot.queue.iter().all(|armed| armed.lands_at > desk.beat()));
        });
    }

    #[test]
    fn the_same_at_the_same_times_gives_the_same_bytes(actions in prop::collection::vec(action(false), 1..40)) {
        let [one, other] = [0, 1].map(|_| perform(every_pad(0.0), &actions, |_, _| {}));
        prop_assert_eq!(one, other);
    }

    #[test]
    fn light_never_jumps_further_than_fades_allow(actions in prop::collection::vec(action(true), 1..60)) {
        let mut show = every_pad(2.0);
        show.settings.fade_beats = 2.0;
        perform(show, &actions, |desk, before| {
            // All of the three tiers may fade at once, each by this much of its light.
            let beats = desk.beat() - before.snapshot.clock.beat;
            let counted_anew = !(0.0..0.3).contains(&beats);
            let most = 3.0 * (240.0 / 60.0 * FRAME / 2.0) as f32 + 0.001;
            for (now, then) in desk.published.light.iter().zip(&before.light) {
                let jump = (0..3).map(|part| (now[part] - then[part]).abs()).fold(0.0, f32::max);
                assert!(jump <= most || counted_anew, "{jump} within {beats} beats: {then:?} to {now:?}");
            }
        });
    }

    #[test]
    fn what_is_released_leaves_nothing(actions in prop::collection::vec(action(false), 1..60)) {
        let mut all = actions;
        for command in [
            EngineCommand::Rotate(false),
            EngineCommand::Disarm,
            EngineCommand::Tempo(240.0),
            EngineCommand::ClearTiers,
            EngineCommand::ReleaseTier("base".into()),
        ] {
            all.push(Action::Ask(command));
        }
        all.push(Action::Wait(800));
        let mut last = None;
        perform(every_pad(0.0), &all, |desk, _| {
            last = Some((desk.published.clone(), desk.looks()));
        });
        let (published, looks) = last.expect("a frame");
        prop_assert_eq!(looks, vec![None, None, None]);
        prop_assert!(published.snapshot.stage.is_empty() && published.slots.iter().all(|slot| *slot == 0));
    }
}
