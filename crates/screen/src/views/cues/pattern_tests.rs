//! The keys of patterns, and how they are drawn.

use ratatui::crossterm::event::KeyCode;
use splimo_document::{Command, DocumentCommand};
use splimo_engine::OnStage;
use splimo_show::{Fixture, LaneKind, Note, Pattern, Shape, Ticks};

use super::tests::{edited, typed, view};
use super::*;

/// A view at the patterns of a show that has none.
fn at_patterns() -> CuesView {
    let mut view = view();
    let mut show = Show::clone(view.show.as_ref().expect("a show"));
    show.fixtures = vec![Fixture::new("Sail", "rgb", Shape::Line { cells: 8 })];
    (view.show, view.part) = (Some(Arc::new(show)), Part::Patterns);
    view
}

/// Presses keys, and has the show follow every edit; the other commands that are asked for.
fn play(view: &mut CuesView, keys: &[KeyEvent]) -> Vec<Command> {
    let mut others = Vec::new();
    for key in keys {
        let Handled::Done(asks) = view.key(*key) else { panic!("{key:?} means nothing") };
        for ask in asks {
            let Ask::Command(command) = ask else { continue };
            if matches!(command, Command::Document(DocumentCommand::Edit(_))) {
                let show = edited(view, &[command]);
                view.show = Some(Arc::new(show));
            } else {
                others.push(command);
            }
        }
    }
    others
}

fn keys(text: &str) -> Vec<KeyEvent> {
    let key = |letter: char| match letter {
        '→' => KeyCode::Right,
        '←' => KeyCode::Left,
        '↓' => KeyCode::Down,
        '↑' => KeyCode::Up,
        '⏎' => KeyCode::Enter,
        '⌫' => KeyCode::Delete,
        '»' => KeyCode::PageDown,
        '⇤' => KeyCode::Home,
        letter => KeyCode::Char(letter),
    };
    text.chars().map(|letter| KeyEvent::from(key(letter))).collect()
}

fn pattern(view: &CuesView) -> Pattern {
    let show = view.show.as_ref().expect("a show");
    view.patterns.chosen(show).expect("a pattern").2.clone()
}

/// The events of a lane as beats and lengths.
fn told(view: &CuesView, lane: usize) -> Vec<(f64, f64)> {
    pattern(view).lanes[lane].events.iter().map(|event| (event.at.beats(), event.length.beats())).collect()
}

#[test]
fn a_pattern_is_written_from_nothing() {
    let mut view = at_patterns();
    assert!(play(&mut view, &keys("a")).is_empty());
    assert!(view.said().is_some_and(|said| said.contains("T adds one")));
    play(&mut view, &keys("T⏎a"));
    assert!(view.said().is_some_and(|said| said.contains("L adds one")));
    assert_eq!(pattern(&view), Pattern::new(4));
    // A lane of levels; an event on the first sixteenth, made an eighth long, and on every beat to the end.
    play(&mut view, &keys("L⏎a←>"));
    assert_eq!(told(&view, 0), [(0.0, 0.5)]);
    play(&mut view, &keys("v→→→r"));
    assert_eq!(told(&view, 0).len(), 16);
    assert_eq!(told(&view, 0)[1], (1.0, 0.5));
    let asked = play(&mut view, &keys("n"));
    assert_eq!(asked.iter().map(Command::to_string).collect::<Vec<_>>(), ["fire-look top/Pattern 1"]);
}

#[test]
fn a_run_over_all_lights_takes_under_thirty_keys() {
    let mut view = at_patterns();
    // A colour over all bars, and a level that is off but for an eighth, each light later by 1/32.
    let mut pressed = keys("T⏎L→⏎v");
    pressed.push(KeyEvent::from(KeyCode::End));
    pressed.extend(keys("aL↓↓"));
    pressed.extend(std::iter::repeat_n(KeyEvent::from(KeyCode::Right), 2));
    pressed.extend(keys("↓↓↓↓0⏎⇤a←>r"));
    assert!(pressed.len() < 30, "{}", pressed.len());
    play(&mut view, &pressed);
    let pattern = pattern(&view);
    assert_eq!(pattern.lanes.len(), 2, "{pattern:?}");
    assert_eq!((pattern.lanes[0].kind, told(&view, 0)), (LaneKind::Colour, vec![(0.0, 16.0)]));
    assert_eq!((pattern.lanes[1].later, pattern.lanes[1].rest), (Some(Note::ThirtySecond), Some(0.0)));
}

#[test]
fn events_are_moved_split_copied_to_another_pattern_and_taken_out() {
    let mut view = at_patterns();
    play(&mut view, &keys("T⏎L⏎a←>>>L→⏎a"));
    play(&mut view, &keys("↑⇤→s"));
    assert_eq!(told(&view, 0), [(0.0, 0.25), (0.25, 0.75)]);
    play(&mut view, &[KeyEvent::new(KeyCode::Right, KeyModifiers::SHIFT)]);
    assert_eq!(told(&view, 0)[1], (0.5, 0.75));
    // The level lane only goes into the other pattern, at the same place.
    let colours = pattern(&view).lanes[1].clone();
    play(&mut view, &keys("c"));
    assert!(view.said().is_some_and(|said| said.contains("1 events of 1 lanes")));
    let first = view.show.as_ref().expect("a show").looks.last().expect("a pattern").clone();
    play(&mut view, &keys("T"));
    play(&mut view, &typed("Other").into_iter().map(KeyEvent::from).collect::<Vec<_>>());
    play(&mut view, &keys("⏎»b"));
    assert_eq!(told(&view, 0), [(4.0, 0.75)]);
    play(&mut view, &keys("("));
    assert_eq!(pattern(&view).lanes[1], colours);
    assert_eq!(view.show.as_ref().expect("a show").looks.iter().find(|look| look.name == first.name), Some(&first));
    play(&mut view, &keys("⇤⌫"));
    assert_eq!(told(&view, 0), [(0.5, 0.75)]);
    play(&mut view, &keys("Xw"));
    assert_eq!(pattern(&view).lanes.len(), 1);
    assert_eq!(view.show.as_ref().expect("a show").rotation.without, ["Pattern 1"]);
}

#[test]
fn forms_refuse_what_cannot_be_and_say_why() {
    let mut view = at_patterns();
    let error = |view: &CuesView| match &view.form {
        Some(Opened::Pattern(open)) => open.form.error.clone().expect("it says why"),
        _ => panic!("no form of a pattern is open"),
    };
    play(&mut view, &keys("T⏎L↓"));
    play(&mut view, &typed("Hull").into_iter().map(KeyEvent::from).collect::<Vec<_>>());
    play(&mut view, &keys("⏎"));
    assert!(error(&view).contains("no group or fixture \"Hull\""));
    view.form = None;
    play(&mut view, &keys("L→⏎ae"));
    play(&mut view, &typed("reddish").into_iter().map(KeyEvent::from).collect::<Vec<_>>());
    let Handled::Done(asks) = view.key(KeyEvent::from(KeyCode::Enter)) else { panic!("it is kept") };
    let [Ask::Command(Command::Document(DocumentCommand::Edit(edit)))] = asks.as_slice() else { panic!("{asks:?}") };
    let why = edit.apply(view.show.as_ref().expect("a show")).expect_err("no colour").to_string();
    assert!(why.contains("colour"), "{why}");
}

#[test]
fn lanes_are_drawn_over_their_bars_with_the_cursor_and_what_plays() {
    let mut view = at_patterns();
    play(&mut view, &keys("T⏎L⏎a←>>e↓→→→→⏎r"));
    let show = view.show.clone().expect("a show");
    let (area, theme) = (Rect::new(0, 0, 120, 16), Theme::plain());
    let mut buffer = Buffer::empty(area);
    let on = OnStage { tier: 0, look: 3, weight: 1.0, comes: true, fade_left: 0.0, place: Some(5.0) };
    let now = Snapshot { stage: vec![on], ..Snapshot::default() };
    view.patterns.draw(&show, &now, theme, area, &mut buffer);
    let asked = play(&mut view, &keys("n"));
    assert_eq!(asked.iter().map(Command::to_string).collect::<Vec<_>>(), ["release-tier top"]);
    let symbols: Vec<&str> = buffer.content.iter().map(ratatui::buffer::Cell::symbol).collect();
    let rows: Vec<String> = symbols.chunks(120).map(|row| row.concat().trim_end().to_owned()).collect();
    assert!(rows[0].contains("Pattern 1   4 bars, grid 1/16   plays, bar 2.2"), "{rows:?}");
    assert!(rows[2].contains("╷1") && rows[2].contains("╷4") && rows[2].contains('▼'), "{rows:?}");
    assert!(rows[3].contains("▸ level  all") && rows[3].contains("▁▁▄▁▁▄"), "{rows:?}");
    assert_eq!(pattern(&view).lanes[0].events[0].length, Ticks(72));
}

/// Draws the part where it plays at a place, so that it knows where its lanes are.
fn drawn(view: &mut CuesView, place: Option<f64>) -> String {
    let show = view.show.clone().expect("a show");
    let look = view.patterns.chosen(&show).expect("a pattern").0;
    let on = OnStage { tier: 0, look, weight: 1.0, comes: true, fade_left: 0.0, place };
    let now = Snapshot { stage: vec![on], ..Snapshot::default() };
    let (area, theme) = (Rect::new(0, 0, 120, 16), Theme::plain());
    let mut buffer = Buffer::empty(area);
    view.patterns.draw(&show, &now, theme, area, &mut buffer);
    let symbols: Vec<&str> = buffer.content.iter().map(ratatui::buffer::Cell::symbol).collect();
    symbols.chunks(120).map(|row| row.concat().trim_end().to_owned()).collect::<Vec<_>>().join("\n")
}

fn point(view: &mut CuesView, kind: MouseEventKind, (column, row): (u16, u16)) {
    let asks = view.mouse(MouseEvent { kind, column, row, modifiers: KeyModifiers::NONE }).expect("it is taken");
    for ask in asks {
        if let Ask::Command(command) = ask {
            let show = edited(view, &[command]);
            view.show = Some(Arc::new(show));
        }
    }
}

#[test]
fn the_mouse_moves_stretches_splits_and_chooses() {
    let mut view = at_patterns();
    // Two lanes on a grid of beats: 16 of them in 94 columns, five columns each from the 24th on.
    play(&mut view, &keys("T⏎L⏎L⏎GGGG↑a"));
    drawn(&mut view, None);
    let (left, beat) = (MouseButton::Left, |beat: u16| 24 + beat * 5 + 2);
    let drag = |view: &mut CuesView, from: (u16, u16), to: (u16, u16)| {
        point(view, MouseEventKind::Down(left), from);
        point(view, MouseEventKind::Drag(left), to);
        point(view, MouseEventKind::Up(left), to);
        drawn(view, None);
    };
    assert_eq!(told(&view, 0), [(0.0, 1.0)]);
    drag(&mut view, (beat(0), 3), (beat(4), 3));
    assert_eq!(told(&view, 0), [(4.0, 1.0)], "it is moved");
    drag(&mut view, (24 + 5 * 5 - 1, 3), (beat(7), 3));
    assert_eq!(told(&view, 0), [(4.0, 4.0)], "it is stretched by its end");
    point(&mut view, MouseEventKind::Down(MouseButton::Right), (beat(6), 3));
    assert_eq!(told(&view, 0), [(4.0, 2.0), (6.0, 2.0)], "it is split");
    // A time of both lanes, beginning where there is nothing.
    drag(&mut view, (beat(1), 3), (beat(8), 4));
    play(&mut view, &keys("c"));
    assert!(view.said().is_some_and(|said| said.contains("2 events of 2 lanes are copied")));
    point(&mut view, MouseEventKind::Down(left), (5, 4));
    assert_eq!(
        view.patterns.chosen(view.show.as_ref().expect("a show")).map(|(_, look, _)| look.name.as_str()),
        Some("Pattern 1")
    );
    point(&mut view, MouseEventKind::Down(left), (60, 14));
    assert_eq!(told(&view, 0).len(), 2, "beside the lanes it does nothing");
}

#[test]
fn what_is_struck_while_it_plays_comes_onto_the_grid() {
    let mut view = at_patterns();
    play(&mut view, &keys("T⏎L⏎L→⏎"));
    play(&mut view, &keys("t"));
    assert!(view.said().is_some_and(|said| said.contains("it does not play")));
    for (key, at) in [("1", 1.1), ("1", 2.4), ("2", 3.0), ("t", 15.95)] {
        drawn(&mut view, Some(at));
        play(&mut view, &keys(key));
    }
    assert_eq!(told(&view, 0), [(1.0, 0.25), (2.5, 0.25)]);
    assert_eq!(told(&view, 1), [(0.0, 0.25), (3.0, 0.25)], "t strikes into the lane of the cursor");
    drawn(&mut view, Some(1.0));
    play(&mut view, &keys("9"));
    assert!(view.said().is_some_and(|said| said.contains("there is no lane 9; there are 2")));
}

#[test]
fn a_shape_is_drawn_over_events_and_several_patterns_are_changed_at_once() {
    let mut view = at_patterns();
    play(&mut view, &keys("T⏎L⏎GGGGa←r"));
    play(&mut view, &keys("⇤v»»»→→→S⏎"));
    let levels: Vec<f32> = pattern(&view).lanes[0].events.iter().filter_map(|event| event.level).collect();
    assert_eq!((levels.len(), levels[0], levels[15]), (16, 0.0, 100.0), "{levels:?}");
    assert!(levels.windows(2).all(|pair| pair[0] < pair[1]), "{levels:?}");
    // What is copied goes into every pattern that is marked, and so does what is changed of them.
    let name = view.said();
    assert_eq!(name, None);
    play(&mut view, &[KeyEvent::from(KeyCode::Esc)]);
    play(&mut view, &keys("⇤cT⏎MT⏎M("));
    play(&mut view, &keys(")"));
    assert!(drawn(&mut view, None).contains("+ Pattern 2, Pattern 3"), "{}", drawn(&mut view, None));
    play(&mut view, &keys("bP"));
    let Some(Opened::Pattern(open)) = &view.form else { panic!("a form opens") };
    assert!(!open.form.fields[0].shown, "names are not changed at once");
    play(&mut view, &keys("8⏎w"));
    let show = view.show.clone().expect("a show");
    let of = |name: &str| show.look(name).and_then(|(_, look)| look.pattern.clone()).expect("a pattern");
    assert_eq!([of("Pattern 1").bars, of("Pattern 2").bars, of("Pattern 3").bars], [4, 8, 8]);
    assert_eq!((of("Pattern 2").lanes.len(), of("Pattern 3").lanes.len()), (1, 1));
    assert_eq!(show.rotation.without, ["Pattern 3", "Pattern 2"]);
}

/// The demo at its patterns, of which Drop Hits is the first.
fn demo() -> crate::tests::Scene {
    let mut scene = crate::tests::Scene::demo();
    scene.screen(158, 48);
    scene.press(KeyCode::F(5));
    for _ in 0..4 {
        scene.press(KeyCode::Tab);
    }
    assert!(scene.screen(158, 48).contains("Drop Hits   1 of 4"), "{}", scene.screen(158, 48));
    scene
}

#[test]
fn what_is_written_blind_does_not_go_out_until_it_is_kept() {
    let mut scene = demo();
    let lanes = |scene: &crate::tests::Scene| {
        let show = scene.document.kept();
        show.look("Drop Hits").and_then(|(_, look)| look.pattern.as_ref()).expect("a pattern").lanes.len()
    };
    assert_eq!(lanes(&scene), 4);
    scene.type_keys("B");
    assert!(scene.screen(158, 48).contains("BLIND: this does not go out"));
    scene.type_keys("L⏎");
    let seen = |scene: &mut crate::tests::Scene| scene.screen(158, 48).matches("level  Masts").count();
    assert_eq!((lanes(&scene), seen(&mut scene)), (4, 1), "it is seen here alone");
    // Where nothing is left to take back of it, what goes out is not touched.
    for left in [0, 0, 0] {
        scene.press_with(KeyCode::Char('z'), KeyModifiers::CONTROL);
        assert_eq!((lanes(&scene), seen(&mut scene)), (4, left));
    }
    scene.press_with(KeyCode::Char('y'), KeyModifiers::CONTROL);
    assert_eq!(seen(&mut scene), 1);
    scene.type_keys("B");
    assert!(scene.screen(158, 48).contains("K keeps it"), "{}", scene.screen(158, 48));
    scene.type_keys("K");
    assert_eq!(lanes(&scene), 5);
    assert!(!scene.screen(158, 48).contains("BLIND"));
    scene.type_keys("BXD");
    assert_eq!(lanes(&scene), 5, "dropped");
    // One key keeps all of its bank out of the rotation, and lets it in again.
    let without = scene.document.kept().rotation.without.len();
    scene.type_keys("W");
    let kept_out = scene.document.kept().rotation.without.clone();
    let bank = ["Drop Hits", "Slack Water", "First Lamps", "Gangway Run", "Gull Flight"];
    assert!(bank.iter().all(|name| kept_out.iter().any(|known| known == name)), "{kept_out:?}");
    scene.type_keys("W");
    assert!(scene.document.kept().rotation.without.len() <= without);
}

#[test]
fn patterns_and_aims_of_the_demo_at_three_sizes() {
    let mut scene = demo();
    for (width, height) in [(158, 48), (120, 36), (80, 24)] {
        insta::assert_snapshot!(format!("patterns_{width}x{height}"), scene.screen(width, height));
    }
    scene.press(KeyCode::Tab);
    for (width, height) in [(158, 48), (120, 36), (80, 24)] {
        insta::assert_snapshot!(format!("aims_{width}x{height}"), scene.screen(width, height));
    }
}
