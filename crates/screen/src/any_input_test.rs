//! Whatever is heard, typed or clicked, and however large the terminal is: the screen is drawn, and one finds back.

use proptest::prelude::*;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use splimo_document::DocumentCommand;
use splimo_document::Outcome;
use splimo_document::file;
use splimo_link::testing::lantern_quay;
use splimo_show::command::EngineCommand;
use splimo_time::music::{Bands, Hearing, Key, PITCHES, Section, WAVE, Wave};

use crate::tests::Scene;
use crate::views::ViewId;

/// The sender who takes back what was made.
const BY: splimo_show::command::Origin = splimo_show::command::Origin::Session;

/// A look on stage.
fn scene() -> Scene {
    Scene::of(lantern_quay(), &[(0, EngineCommand::FirePad(3)), (0, EngineCommand::Go)], 2)
}

/// Checks what stands on every screen that is large enough, and on others.
fn is_drawn(screen: &str, width: u16, height: u16) -> bool {
    let wanted = match (width, height) {
        _ if width < 40 || height < 12 => "Splimo needs",
        // A question may lie over the name of the show where there is hardly any room.
        _ if width < 60 || height < 18 => return !screen.trim().is_empty(),
        _ => "Lant",
    };
    width < 30 || screen.contains(wanted)
}

fn share() -> impl Strategy<Value = f32> {
    prop_oneof![Just(0.0f32), Just(1.0), 0f32..1.0]
}

/// A number that nothing bounds, as where a stand-in or another program is the source.
fn wild() -> impl Strategy<Value = f32> {
    prop_oneof![4 => -200f32..2000.0, 1 => any::<f32>()]
}

prop_compose! {
    fn sound()(
        shares in proptest::collection::vec(share(), 6),
        bands in proptest::collection::vec(share(), 16..64),
        wilds in proptest::collection::vec(wild(), 4),
        chroma in proptest::array::uniform12(share()),
        wave in -1f32..1.0,
        tonic in 0u8..40,
        counts in proptest::array::uniform4(any::<u32>()),
    ) -> Hearing {
        debug_assert_eq!(chroma.len(), PITCHES);
        Hearing {
            level: shares[0], peak: shares[1], rms: shares[2], onset_strength: shares[3], key_confidence: shares[4],
            bands: Bands::of(&bands),
            loudness: wilds[0], centroid: wilds[1], pitch: wilds[2], interval: wilds[3],
            chroma, wave: Wave([wave; WAVE]),
            key: Key { tonic, minor: tonic % 2 == 0 },
            chords: counts[0].into(), onsets: counts[1].into(), hits: [counts[1].into(), counts[2].into(), counts[3].into()],
            ..Hearing::SILENCE
        }
    }
}

prop_compose! {
    fn hearing()(
        sound in sound(),
        time in 0f64..1e6,
        bpm in prop_oneof![Just(0f32), 20f32..400.0],
        beat in prop_oneof![0f64..1e3, 0f64..1e9],
        sure in proptest::array::uniform3(share()),
        bar_beats in 0u32..17,
        back in proptest::array::uniform3(-40f64..400.0),
        section in 0usize..5,
        delay in 0f32..60.0,
    ) -> Hearing {
        Hearing {
            time, tempo_bpm: bpm, beat,
            confidence: sure[0], bar_confidence: sure[1], phrase_confidence: sure[2],
            bar_beats, bar_start: beat - back[0], phrase_start: beat - back[1],
            section: Section::ALL[section], section_start: time - back[2], section_delay: delay,
            ..sound
        }
    }
}

fn key() -> impl Strategy<Value = KeyEvent> {
    let code = prop_oneof![
        6 => proptest::char::range(' ', '~').prop_map(KeyCode::Char),
        1 => any::<char>().prop_map(KeyCode::Char),
        2 => (1u8..13).prop_map(KeyCode::F),
        4 => proptest::sample::select(vec![KeyCode::Up, KeyCode::Down, KeyCode::Left, KeyCode::Right]),
        4 => proptest::sample::select(vec![
            KeyCode::Enter, KeyCode::Esc, KeyCode::Tab, KeyCode::BackTab, KeyCode::Backspace, KeyCode::Delete,
            KeyCode::Home, KeyCode::End, KeyCode::PageUp, KeyCode::PageDown, KeyCode::Insert, KeyCode::Null,
        ]),
    ];
    let held = prop_oneof![
        6 => Just(KeyModifiers::NONE),
        1 => Just(KeyModifiers::SHIFT),
        1 => Just(KeyModifiers::CONTROL),
        1 => Just(KeyModifiers::ALT),
    ];
    (code, held).prop_map(|(code, held)| KeyEvent::new(code, held))
}

fn mouse() -> impl Strategy<Value = MouseEvent> {
    let kind = proptest::sample::select(vec![
        MouseEventKind::Down(MouseButton::Left),
        MouseEventKind::Up(MouseButton::Left),
        MouseEventKind::Drag(MouseButton::Left),
        MouseEventKind::Down(MouseButton::Right),
        MouseEventKind::Moved,
        MouseEventKind::ScrollUp,
        MouseEventKind::ScrollDown,
    ]);
    (kind, 0u16..200, 0u16..70).prop_map(|(kind, column, row)| MouseEvent {
        kind,
        column,
        row,
        modifiers: KeyModifiers::NONE,
    })
}

#[derive(Debug, Clone)]
enum Input {
    Key(KeyEvent),
    Mouse(MouseEvent),
    Paste(String),
    Resize(u16, u16),
}

fn input() -> impl Strategy<Value = Input> {
    prop_oneof![
        12 => key().prop_map(Input::Key),
        3 => mouse().prop_map(Input::Mouse),
        1 => "\\PC{0,40}".prop_map(Input::Paste),
        1 => (1u16..200, 1u16..70).prop_map(|(width, height)| Input::Resize(width, height)),
    ]
}

/// Gives one input to the screen, and has done what follows.
fn give(scene: &mut Scene, input: Input) {
    match input {
        Input::Key(key) => {
            scene.key(key);
        }
        Input::Mouse(mouse) => scene.mouse(mouse),
        Input::Paste(text) => scene.paste(&text),
        Input::Resize(..) => {}
    }
}

/// Presses Escape until nothing is open any more.
fn leave(scene: &mut Scene) {
    for _ in 0..12 {
        scene.press(KeyCode::Esc);
    }
}

/// The keys that edit most: small letters, and ways through a list or a form.
fn editing() -> impl Strategy<Value = Input> {
    let letter = proptest::char::range('a', 'z').prop_map(KeyCode::Char);
    let other = proptest::sample::select(vec![
        KeyCode::Enter,
        KeyCode::Enter,
        KeyCode::Enter,
        KeyCode::Down,
        KeyCode::Down,
        KeyCode::Up,
        KeyCode::Right,
        KeyCode::Left,
        KeyCode::Tab,
        KeyCode::Delete,
        KeyCode::Char(' '),
        KeyCode::Char('1'),
        KeyCode::Char('3'),
    ]);
    let plain = |code| Input::Key(KeyEvent::new(code, KeyModifiers::NONE));
    prop_oneof![4 => letter.prop_map(plain), 5 => other.prop_map(plain), 1 => input()]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn no_size_breaks_a_screen(width in 1u16..260, height in 1u16..90, view in 0usize..5, floats in 0u8..14) {
        let mut scene = scene();
        scene.go(ViewId::ALL[view]);
        match floats {
            1 => scene.run("help"),
            2 => scene.run("find-action"),
            3 => scene.run("leave"),
            4.. if view == 0 => {
                let key = "aempgwtkri".chars().nth(usize::from(floats) - 4).unwrap_or('a');
                scene.type_keys(&key.to_string());
            }
            _ => {}
        }
        let screen = scene.screen(width, height);
        prop_assert!(is_drawn(&screen, width, height), "{}", screen);
    }

    #[test]
    fn nothing_that_is_heard_breaks_a_screen(
        width in 60u16..220,
        height in 18u16..70,
        moments in proptest::collection::vec(hearing(), 1..6),
    ) {
        let mut scene = scene();
        for view in [ViewId::Inputs, ViewId::Play] {
            scene.go(view);
            for moment in &moments {
                scene.hear(*moment);
                let screen = scene.screen(width, height);
                prop_assert!(is_drawn(&screen, width, height), "{}", screen);
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    // Escape leads out of everything, and then the keys of the views open them.
    #[test]
    fn one_finds_back_from_whatever_was_typed(view in 0usize..5, inputs in proptest::collection::vec(input(), 1..60)) {
        let mut scene = scene();
        scene.go(ViewId::ALL[view]);
        let (mut width, mut height) = (120, 36);
        for input in inputs {
            if let Input::Resize(to_width, to_height) = input {
                (width, height) = (to_width, to_height);
            }
            give(&mut scene, input);
            let screen = scene.screen(width, height);
            prop_assert!(is_drawn(&screen, width, height), "{}", screen);
        }
        leave(&mut scene);
        // The view that is open has its name in capitals.
        for (key, word) in [(7, "INPUTS"), (6, "PLAY"), (2, "RIG")] {
            scene.press(KeyCode::F(key));
            let screen = scene.screen(158, 48);
            prop_assert!(screen.contains(word), "F{}: {}", key, screen);
        }
    }

    // What was made is in the file that is written of it, and each step of it can be taken back and made anew.
    #[test]
    fn nothing_that_was_made_is_lost(view in 0usize..3, inputs in proptest::collection::vec(editing(), 1..100)) {
        let mut scene = scene();
        let first = scene.document.shown().clone();
        scene.go([ViewId::Rig, ViewId::Looks, ViewId::Output][view]);
        scene.screen(158, 48);
        for input in inputs {
            give(&mut scene, input);
            scene.screen(158, 48);
        }
        // What is tried and not yet said yes to goes.
        leave(&mut scene);
        let last = scene.document.shown().clone();
        let written = file::write(&last).expect("every show is written");
        let read = file::read(&written);
        prop_assert!(read.is_ok(), "{:?}", read.err());
        prop_assert_eq!(&read.expect("just seen").show, &*last);
        // What is live stays as it is while looks are edited blind.
        scene.document.apply(&DocumentCommand::DropDrafts, BY, None);
        let mut steps = 0;
        while matches!(scene.document.apply(&DocumentCommand::Undo, BY, None), Outcome::Told(_)) {
            steps += 1;
        }
        prop_assert_eq!(scene.document.shown(), &first);
        // No more than were undone: what was undone by a key before comes behind these.
        for _ in 0..steps {
            prop_assert!(matches!(scene.document.apply(&DocumentCommand::Redo, BY, None), Outcome::Told(_)));
        }
        prop_assert_eq!(scene.document.shown(), &last);
    }
}

/// A look that is being turned stays itself while another is found by its name.
#[test]
fn what_is_turned_is_kept_before_another_look_is_found() {
    let mut scene = scene();
    let first = scene.document.shown().clone();
    scene.go(ViewId::Looks);
    scene.screen(158, 48);
    for code in [KeyCode::Char('f'), KeyCode::Tab, KeyCode::Right, KeyCode::Char('f'), KeyCode::Char('j')] {
        scene.press(code);
        scene.screen(158, 48);
    }
    let last = scene.document.shown().clone();
    let changed = first.looks.iter().zip(&last.looks).filter(|(before, after)| before != after).count();
    assert_eq!((changed, first.looks[0] == last.looks[0]), (1, false), "the first one, by its opacity");
    scene.document.apply(&DocumentCommand::Undo, BY, None);
    assert_eq!(scene.document.shown(), &first);
}
