//! The screens as text, drawn from a real engine on a clock of the test's own.

use std::sync::Arc;

use proptest::prelude::*;
use ratatui::Terminal;
use ratatui::backend::TestBackend;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use splimo_core::action::{Action, View};
use splimo_core::engine::{Engine, Inputs, Snapshot};
use splimo_core::music::Hearing;
use splimo_core::rig::Rig;
use splimo_core::show::{Show, file};

use super::face::{Face, Seen};
use super::theme::{Depth, Theme};
use crate::files::LANTERN_QUAY;
use crate::runtime::output::{OutputStatus, streams};
use crate::runtime::trouble::Trouble;

struct Scene {
    show: Arc<Show>,
    face: Face,
    snapshot: Snapshot,
    output: OutputStatus,
    troubles: Vec<Trouble>,
}

impl Scene {
    /// The demo with Undertow on stage and Squall armed for the phrase, at the end of its seventh bar.
    fn demo() -> Self {
        let mut show = file::read(LANTERN_QUAY).expect("a good show").show;
        show.settings.lands = splimo_core::show::Boundary::Phrase;
        Self::of(show, &[(0, Action::FirePad(2)), (0, Action::Go), (40, Action::FirePad(4))], 610)
    }

    fn of(show: Show, script: &[(u32, Action)], ticks: u32) -> Self {
        let show = Arc::new(show);
        let mut engine = Engine::new(show.clone());
        for tick in 0..ticks {
            let time = f64::from(tick) / 44.0;
            script.iter().filter(|(at, _)| *at == tick).for_each(|(_, action)| engine.act(action, time));
            let hearing = Hearing {
                time,
                level: 0.7,
                peak: 0.5,
                bands: std::array::from_fn(|band| 1.0 - band as f32 / 24.0),
                tempo_bpm: 124.0,
                beat: time * 124.0 / 60.0,
                confidence: 0.9,
                ..Hearing::SILENCE
            };
            engine.tick(time, &Inputs { hearing });
        }
        let mut snapshot = Snapshot::default();
        engine.publish(&mut snapshot);
        let (_, mut streams) = streams(&show, engine.rig());
        for stream in &mut streams {
            (stream.packets, stream.rate) = (610, 44.0);
        }
        let output = OutputStatus { frames: 610, fps: 44.0, packets: 10_370, streams, ..OutputStatus::default() };
        let rig: Arc<Rig> = engine.rig().clone();
        let face = Face::with_theme(&show, rig, Theme { depth: Depth::None });
        Self { show, face, snapshot, output, troubles: Vec::new() }
    }

    fn screen(&mut self, width: u16, height: u16) -> String {
        let mut terminal = Terminal::new(TestBackend::new(width, height)).expect("a backend");
        let seen = Seen {
            show: &self.show,
            unsaved: false,
            snapshot: &self.snapshot,
            output: &self.output,
            troubles: &self.troubles,
        };
        terminal.draw(|frame| self.face.draw(&seen, frame.area(), frame.buffer_mut())).expect("draws");
        let buffer = terminal.backend().buffer();
        let line = |y: u16| (0..width).map(|x| buffer[(x, y)].symbol()).collect::<String>().trim_end().to_owned();
        (0..height).map(line).collect::<Vec<_>>().join("\n")
    }

    fn press(&mut self, code: KeyCode) -> Option<Action> {
        self.face.key(KeyEvent::new(code, KeyModifiers::NONE))
    }

    /// Opens what an action opens.
    fn open(&mut self, action: &Action) {
        self.face.act(action, false);
    }
}

#[test]
fn play_at_its_three_sizes() {
    let mut scene = Scene::demo();
    for (width, height) in [(158, 48), (120, 36), (80, 24)] {
        insta::assert_snapshot!(format!("play_{width}x{height}"), scene.screen(width, height));
    }
}

#[test]
fn output_as_numbers_and_as_bars() {
    let mut scene = Scene::demo();
    scene.open(&Action::ShowView(View::Output));
    scene.screen(120, 36);
    scene.open(&Action::NextUniverse(7));
    insta::assert_snapshot!("output_120x36", scene.screen(120, 36));
    insta::assert_snapshot!("output_80x24", scene.screen(80, 24));
    scene.open(&Action::SlotBars);
    insta::assert_snapshot!("output_bars_120x36", scene.screen(120, 36));
}

#[test]
fn help_and_palette_float_over_the_view() {
    let mut scene = Scene::demo();
    scene.open(&Action::Help);
    insta::assert_snapshot!("help_120x36", scene.screen(120, 36));
    scene.open(&Action::FindAction);
    for letter in "tem".chars() {
        assert_eq!(scene.press(KeyCode::Char(letter)), None, "typing fires no pads");
    }
    insta::assert_snapshot!("palette_100x30", scene.screen(100, 30));
}

#[test]
fn the_palette_asks_for_what_an_action_needs() {
    let mut scene = Scene::demo();
    scene.open(&Action::FindAction);
    "tempo".chars().for_each(|c| assert_eq!(scene.press(KeyCode::Char(c)), None));
    assert_eq!(scene.press(KeyCode::Enter), None, "it needs a number first");
    assert!(scene.screen(120, 36).contains("type the bpm"));
    "12x".chars().for_each(|c| assert_eq!(scene.press(KeyCode::Char(c)), None));
    assert_eq!(scene.press(KeyCode::Enter), None);
    assert!(scene.screen(120, 36).contains("\"12x\" is not a bpm"));
    scene.press(KeyCode::Backspace);
    scene.press(KeyCode::Char('8'));
    assert_eq!(scene.press(KeyCode::Enter), Some(Action::Tempo(128.0)));
    assert!(!scene.face.has_open());
}

#[test]
fn leaving_is_asked_twice_and_escape_stays() {
    let mut scene = Scene::demo();
    scene.open(&Action::Quit);
    assert!(scene.screen(120, 36).contains("leave Splimo?"));
    assert_eq!(scene.press(KeyCode::Char('q')), None);
    assert_eq!(scene.press(KeyCode::Esc), Some(Action::Back));
    scene.open(&Action::Back);
    assert!(!scene.face.has_open() && !scene.face.leaves());
    scene.open(&Action::Quit);
    assert_eq!(scene.press(KeyCode::Enter), Some(Action::QuitNow));
}

#[test]
fn trouble_is_a_word() {
    let mut scene = Scene::demo();
    scene.troubles = vec![Trouble { subject: "output".into(), message: "3 packets could not be sent".into() }];
    let screen = scene.screen(120, 36);
    assert!(screen.contains("1 trouble") && screen.contains("output: 3 packets could not be sent"), "{screen}");
}

#[test]
fn empty_places_say_what_to_do() {
    let mut scene = Scene::of(Show::empty("Nothing"), &[], 3);
    let play = scene.screen(120, 36);
    assert!(play.contains("No fixtures yet") && play.contains("no looks yet"), "{play}");
    scene.open(&Action::ShowView(View::Output));
    assert!(scene.screen(120, 36).contains("No universe goes out"));
    assert_eq!(scene.face.answer_to(&Action::FirePad(0), &scene.show), Some("there is no look on this pad".into()));
}

#[test]
fn a_click_on_a_pad_or_a_tab_does_what_its_key_does() {
    let mut scene = Scene::demo();
    let screen = scene.screen(120, 36);
    let mut click = |word: &str| {
        let row = screen.lines().position(|l| l.contains(word)).expect("it is on the screen");
        let line = screen.lines().nth(row).expect("a line");
        let column = line[..line.find(word).expect("in it")].chars().count();
        let event = MouseEvent {
            kind: MouseEventKind::Down(MouseButton::Left),
            column: column as u16,
            row: row as u16,
            modifiers: KeyModifiers::NONE,
        };
        scene.face.mouse(event)
    };
    assert_eq!(click("Ember"), Some(Action::FirePad(6)));
    assert_eq!(click("output"), Some(Action::ShowView(View::Output)));
    assert_eq!(click("Lantern Quay"), None);
}

#[test]
fn a_paste_fires_nothing() {
    let mut scene = Scene::demo();
    scene.face.paste("qwerty 12345");
    scene.open(&Action::FindAction);
    scene.face.paste("black\nout");
    assert!(scene.screen(120, 36).contains("› blackout"));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn no_size_breaks_a_screen(width in 1u16..260, height in 1u16..90, output: bool, floats in 0u8..4) {
        let mut scene = Scene::of(file::read(LANTERN_QUAY).expect("a good show").show, &[(0, Action::FirePad(2)), (0, Action::Go)], 2);
        if output {
            scene.open(&Action::ShowView(View::Output));
        }
        match floats {
            1 => scene.open(&Action::Help),
            2 => scene.open(&Action::FindAction),
            3 => scene.open(&Action::Quit),
            _ => {}
        }
        let screen = scene.screen(width, height);
        let wanted = if width < 60 || height < 18 { "Splimo needs" } else { "Lant" };
        prop_assert!(width < 30 || screen.contains(wanted), "no {} in {}", wanted, screen);
    }
}
