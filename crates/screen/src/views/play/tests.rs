use ratatui::crossterm::event::{
    KeyCode, KeyEvent, KeyEventKind, KeyModifiers, MouseButton, MouseEvent, MouseEventKind,
};
use splimo_document::Command;
use splimo_show::command::{ControlLevel, EngineCommand, NamedLevel};
use splimo_show::{Blend, Boundary, PadMode, Show};

use crate::tests::Scene;

const NONE: KeyModifiers = KeyModifiers::NONE;
const SHIFT: KeyModifiers = KeyModifiers::SHIFT;
const CTRL: KeyModifiers = KeyModifiers::CONTROL;

/// The demo on the view Play, drawn once.
fn scene() -> Scene {
    let mut scene = Scene::demo();
    scene.screen(158, 48);
    scene
}

fn show(scene: &Scene) -> Show {
    Show::clone(scene.document.kept())
}

/// The command to the engine that was asked for last.
fn asked(scene: &mut Scene) -> Option<EngineCommand> {
    match scene.asked.pop() {
        Some(Command::Engine(command)) => Some(command),
        _ => None,
    }
}

/// Goes to a field of the form by its name, and types over what stands there.
fn fill(scene: &mut Scene, field: &str, text: &str) {
    for _ in 0..20 {
        let chosen = format!("▸ {field}");
        if scene.screen(158, 48).contains(&chosen) {
            return scene.type_keys(text);
        }
        scene.type_keys("↓");
    }
    panic!("there is no field {field}:\n{}", scene.screen(158, 48));
}

#[test]
fn pads_are_changed_together_by_letters_and_a_form() {
    let mut scene = scene();
    scene.press_with(KeyCode::Char('e'), CTRL);
    scene.type_keys("qwe");
    assert!(scene.screen(158, 48).contains("EDITING PADS: 3 chosen"), "{}", scene.screen(158, 48));
    assert_eq!(scene.asked, [], "nothing was fired");
    scene.type_keys("⏎");
    fill(&mut scene, "tier", "top");
    fill(&mut scene, "mode", "flash");
    fill(&mut scene, "fade out", "1.5");
    scene.type_keys("⏎");
    let show = show(&scene);
    for place in 11..=13 {
        let pad = show.banks[0].pad(place).expect("a pad");
        assert_eq!(pad.plays.tier.as_deref(), Some("top"));
        assert_eq!((pad.plays.mode, pad.plays.fade_out, pad.plays.fade_in), (Some(PadMode::Flash), Some(1.5), None));
    }
    assert_eq!(show.banks[0].pad(11).and_then(|pad| pad.look.clone()).as_deref(), Some("Riptide"), "as it was");
    // What cannot be is said, and the form stays.
    scene.type_keys("⏎");
    fill(&mut scene, "fade in", "99");
    scene.type_keys("⏎");
    assert!(scene.screen(158, 48).contains("type a number of beats from 0 to 64"), "{}", scene.screen(158, 48));
    scene.type_keys("⎋⎋⎋");
    assert!(!scene.screen(158, 48).contains("EDITING"));
    scene.type_keys("q");
    assert_eq!(asked(&mut scene), Some(EngineCommand::FirePad(11)));
}

#[test]
fn pads_are_put_moved_cleared_and_brought_back() {
    let mut scene = scene();
    scene.press_with(KeyCode::Char('e'), CTRL);
    // The free pad at the end of the third bank becomes a command.
    scene.type_keys("→→0⏎");
    fill(&mut scene, "does", "command");
    fill(&mut scene, "command", "tap");
    scene.type_keys("⏎");
    assert_eq!(show(&scene).banks[2].pad(10).and_then(|pad| pad.command.clone()).as_deref(), Some("tap"));
    // It changes places with the first.
    scene.press(KeyCode::Home);
    scene.type_keys("1");
    let label = |scene: &Scene, place| show(scene).banks[2].pad(place).map(|pad| pad.label().to_owned());
    assert_eq!((label(&scene, 1).as_deref(), label(&scene, 10).as_deref()), (Some("tap"), Some("Flashbulbs")));
    scene.press(KeyCode::Delete);
    assert_eq!(label(&scene, 1), None);
    scene.press_with(KeyCode::Char('z'), CTRL);
    assert_eq!(label(&scene, 1).as_deref(), Some("tap"));
    // A command that there is not is refused in words.
    scene.type_keys("⏎");
    fill(&mut scene, "command", "dance");
    scene.type_keys("⏎");
    assert!(scene.screen(158, 48).contains("there is no command \"dance\""), "{}", scene.screen(158, 48));
}

#[test]
fn banks_and_tiers_are_made_named_ordered_and_taken_out() {
    let mut scene = scene();
    scene.press_with(KeyCode::Char('b'), CTRL);
    scene.type_keys("n");
    fill(&mut scene, "name", "Calm");
    fill(&mut scene, "begins with", "tag calm");
    fill(&mut scene, "lands on", "phrase");
    scene.type_keys("⏎");
    let names = |scene: &Scene| show(scene).banks.iter().map(|bank| bank.name.clone()).collect::<Vec<_>>();
    assert_eq!(names(&scene), ["Harbour", "Calm", "Night", "Over all"]);
    let calm = show(&scene).banks[1].clone();
    assert_eq!((calm.plays.lands, calm.pads.len()), (Some(Boundary::Phrase), 10));
    assert!(calm.pads.iter().any(|pad| pad.label() == "Low Tide"));
    scene.screen(158, 48);
    scene.press_with(KeyCode::Down, SHIFT);
    assert_eq!(names(&scene), ["Calm", "Harbour", "Night", "Over all"]);
    scene.type_keys("d");
    assert_eq!(names(&scene).len(), 3);
    scene.type_keys("⎋");

    scene.press_with(KeyCode::Char('t'), CTRL);
    let stack = |scene: &Scene| show(scene).stack().iter().map(|tier| tier.name.clone()).collect::<Vec<_>>();
    scene.screen(158, 48);
    // The lowest is chosen; a new one comes above it.
    scene.type_keys("n");
    fill(&mut scene, "name", "accents");
    fill(&mut scene, "blend", "screen");
    fill(&mut scene, "lights", "Masts, Nowhere");
    scene.type_keys("⏎");
    assert!(scene.screen(158, 48).contains("there is no group or fixture \"Nowhere\""));
    fill_again(&mut scene, "Masts, Floods");
    assert_eq!(stack(&scene), ["base", "accents", "top", "words"]);
    let accents = show(&scene).tiers[1].clone();
    assert_eq!((accents.blend, accents.lights), (Blend::Screen, vec!["Masts".to_owned(), "Floods".to_owned()]));
    scene.screen(158, 48);
    scene.press_with(KeyCode::Up, SHIFT);
    assert_eq!(stack(&scene), ["base", "top", "accents", "words"], "the new one, which is chosen, went up");
}

/// Types over the field that is chosen, and keeps the form.
fn fill_again(scene: &mut Scene, text: &str) {
    scene.type_keys("↑↓");
    scene.type_keys(text);
    scene.type_keys("⏎");
}

#[test]
fn the_keys_of_tiers_and_of_what_waits_act_on_what_is_chosen() {
    let mut scene = scene();
    let level = |name: &str, percent: f32| NamedLevel { name: name.into(), percent };
    scene.press(KeyCode::Tab);
    assert!(scene.screen(158, 48).contains("▸ base"));
    scene.type_keys("↑←");
    assert_eq!(asked(&mut scene), Some(EngineCommand::NudgeTier(level("top", -5.0))));
    scene.press_with(KeyCode::Right, SHIFT);
    assert_eq!(asked(&mut scene), Some(EngineCommand::NudgeTier(level("top", 20.0))));
    for (key, command) in [
        (KeyCode::Delete, EngineCommand::ReleaseTier("top".into())),
        (KeyCode::Home, EngineCommand::SoloTier("top".into())),
        (KeyCode::End, EngineCommand::MuteTier("top".into())),
        (KeyCode::Backspace, EngineCommand::ClearTiers),
        (KeyCode::Char('5'), EngineCommand::FirePad(5)),
    ] {
        scene.press(key);
        assert_eq!(asked(&mut scene), Some(command));
    }
    scene.press(KeyCode::Tab);
    assert!(scene.screen(158, 48).contains("▸ ⟨Squall⟩"), "{}", scene.screen(158, 48));
    for (key, command) in [
        (KeyCode::Home, EngineCommand::Land(1)),
        (KeyCode::End, EngineCommand::Push(1)),
        (KeyCode::Delete, EngineCommand::TakeBack(1)),
    ] {
        scene.press(key);
        assert_eq!(asked(&mut scene), Some(command));
    }
    scene.published.snapshot.queue.clear();
    scene.screen(158, 48);
    scene.press(KeyCode::Down);
    scene.press(KeyCode::Home);
    assert_eq!(asked(&mut scene), None, "nothing waits");
}

#[test]
fn levels_follow_click_drag_and_wheel() {
    let mut scene = scene();
    let screen = scene.screen(158, 48);
    let row = screen.lines().position(|line| line.contains("base   ")).expect("the lowest tier");
    let line = screen.lines().nth(row).expect("it");
    let left = line.chars().position(|c| c == '▕').expect("its bar") as u16 + 1;
    let mut mouse = |kind, column| {
        scene.mouse(MouseEvent { kind, column, row: row as u16, modifiers: NONE });
        asked(&mut scene)
    };
    let level = |percent| Some(EngineCommand::TierLevel(NamedLevel { name: "base".into(), percent }));
    assert_eq!(mouse(MouseEventKind::Down(MouseButton::Left), left), level(0.0));
    assert_eq!(mouse(MouseEventKind::Drag(MouseButton::Left), left + 4), level(55.0));
    assert_eq!(mouse(MouseEventKind::Drag(MouseButton::Left), left + 30), level(100.0));
    assert_eq!(mouse(MouseEventKind::Up(MouseButton::Left), left + 30), None);
    assert_eq!(mouse(MouseEventKind::Drag(MouseButton::Left), left), None, "it is let go");
    let nudged = |percent| Some(EngineCommand::NudgeTier(NamedLevel { name: "base".into(), percent }));
    assert_eq!(mouse(MouseEventKind::ScrollDown, left), nudged(-5.0));
    assert_eq!(mouse(MouseEventKind::ScrollUp, left - 20), nudged(5.0));
}

#[test]
fn masters_are_turned_one_by_one() {
    let mut scene = scene();
    scene.press_with(KeyCode::Char('g'), CTRL);
    scene.screen(158, 48);
    scene.type_keys("←");
    assert_eq!(asked(&mut scene), Some(EngineCommand::Master(95.0)));
    scene.type_keys("↓→");
    assert_eq!(asked(&mut scene), Some(EngineCommand::Speed(2.0)));
    scene.press(KeyCode::End);
    assert_eq!(asked(&mut scene), Some(EngineCommand::Speed(0.0)));
    scene.type_keys("↓");
    scene.press_with(KeyCode::Left, SHIFT);
    let sail = NamedLevel { name: "Sail".into(), percent: 80.0 };
    assert_eq!(asked(&mut scene), Some(EngineCommand::GroupLevel(sail)));
    scene.type_keys("q");
    assert_eq!(asked(&mut scene), None, "a letter is a slip while a list is open");
    scene.type_keys("n");
    fill(&mut scene, "name", "haze");
    scene.type_keys("⏎");
    assert_eq!(show(&scene).control_name(3), Some("haze"), "the first that is free: the pad box moves two");
    scene.asked.clear();
    scene.screen(158, 48);
    let bottom = show(&scene).groups.len() + 2;
    scene.type_keys(&"↓".repeat(bottom + 2));
    assert!(scene.screen(158, 48).contains("▸ control 3 (haze)"), "{}", scene.screen(158, 48));
    scene.press(KeyCode::Home);
    let haze = ControlLevel { control: 3, percent: 100.0 };
    assert_eq!(asked(&mut scene), Some(EngineCommand::Control(haze)));
    scene.type_keys("⎋q");
    assert_eq!(asked(&mut scene), Some(EngineCommand::FirePad(11)));
}

#[test]
fn the_rotation_is_a_form_and_wrong_names_are_said() {
    let mut scene = scene();
    scene.press_with(KeyCode::Char('r'), CTRL);
    assert_eq!(asked(&mut scene), Some(EngineCommand::Rotate(true)));
    scene.press_with(KeyCode::Char('o'), CTRL);
    fill(&mut scene, "every", "0");
    fill(&mut scene, "banks", "Night, Nowhere");
    scene.type_keys("⏎");
    assert!(scene.screen(158, 48).contains("there is no bank \"Nowhere\""), "{}", scene.screen(158, 48));
    fill_again(&mut scene, "Night");
    let rotation = show(&scene).rotation;
    assert_eq!((rotation.bars, rotation.banks, rotation.seed), (0, vec!["Night".to_owned()], 1));
}

#[test]
fn shift_and_an_arrow_are_for_the_next_press() {
    let mut scene = scene();
    scene.press_with(KeyCode::Up, SHIFT);
    assert_eq!(asked(&mut scene), Some(EngineCommand::NextLands(Boundary::Phrase)), "it is the last already");
    scene.press_with(KeyCode::Down, SHIFT);
    assert_eq!(asked(&mut scene), Some(EngineCommand::NextLands(Boundary::FourBars)));
    scene.press_with(KeyCode::Right, SHIFT);
    assert_eq!(asked(&mut scene), Some(EngineCommand::NextFade(4.0)));
    scene.published.snapshot.once.lands = Some(Boundary::Beat);
    scene.published.snapshot.once.fade = Some(8.0);
    assert!(scene.screen(158, 48).contains("⟨next press lands on beat, fades 8 beats⟩"), "{}", scene.screen(158, 48));
}

#[test]
fn a_key_that_is_let_go_lets_go_of_the_pad_that_it_held() {
    let mut scene = scene();
    let release = |scene: &mut Scene, letter: char| {
        let key = KeyEvent { kind: KeyEventKind::Release, ..KeyEvent::new(KeyCode::Char(letter), NONE) };
        scene.ui.released(key);
        scene.perform();
    };
    scene.type_keys("→→");
    assert!(scene.screen(158, 48).contains("flash: for its length"), "it is not known yet");
    scene.type_keys("1");
    assert_eq!(asked(&mut scene), Some(EngineCommand::FirePad(73)), "a terminal that tells nothing");
    release(&mut scene, '1');
    assert_eq!(asked(&mut scene), None);
    assert!(scene.screen(158, 48).contains("flash: while the key is held"));
    scene.type_keys("1");
    assert_eq!(asked(&mut scene), Some(EngineCommand::HoldPad(73)));
    // Whatever is looked at by then.
    scene.type_keys("←");
    scene.press(KeyCode::F(4));
    release(&mut scene, '1');
    assert_eq!(asked(&mut scene), Some(EngineCommand::LetPadGo(73)));
}
