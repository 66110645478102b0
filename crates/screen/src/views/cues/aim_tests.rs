//! The keys and the mouse of aims, and how they are drawn.

use ratatui::crossterm::event::KeyCode;
use splimo_document::{Command, DocumentCommand};
use splimo_engine::HeadState;
use splimo_show::{Aim, AimedHead, Fixture, Shape};

use super::tests::{edited, view};
use super::*;

/// A view at the aims of a show with three heads and a bar.
fn at_aims() -> CuesView {
    let mut view = view();
    let mut show = Show::clone(view.show.as_ref().expect("a show"));
    let head = |name: &str, x: f32| Fixture::new(name, "moving head", Shape::Line { cells: 1 }).at(x, 5.0);
    let bar = Fixture::new("Sail", "rgb", Shape::Line { cells: 8 });
    show.fixtures = vec![head("Gull 1", 10.0), bar, head("Gull 2", 30.0), head("Tern", 50.0)];
    let head = AimedHead { fixture: "Gull 1".into(), pan: 25.0, tilt: 75.0 };
    show.aims = vec![Aim { heads: vec![head], ..Aim::new("Booth") }];
    let state =
        |fixture: usize, pan: f32| HeadState { fixture, pan, tilt: 60.0, goes_to: [pan, 60.0], live: fixture == 2 };
    view.snapshot.heads = vec![state(0, 40.0), state(2, 50.0), state(3, 70.0)];
    (view.show, view.part) = (Some(Arc::new(show)), Part::Aims);
    drawn(&mut view, 136, 24);
    view
}

/// The part as it is drawn, line by line.
fn drawn(view: &mut CuesView, width: u16, height: u16) -> String {
    let area = Rect::new(0, 0, width, height);
    let mut buffer = Buffer::empty(area);
    let (show, snapshot) = (view.show.clone().expect("a show"), view.snapshot.clone());
    view.aims.draw(&show, &snapshot, Theme::plain(), area, &mut buffer);
    let line = |y: u16| (0..width).map(|x| buffer[(x, y)].symbol()).collect::<String>().trim_end().to_owned();
    (0..height).map(line).collect::<Vec<_>>().join("\n")
}

/// Presses keys, and has the show follow every edit; the other commands that are asked for.
fn play(view: &mut CuesView, keys: &[KeyEvent]) -> Vec<String> {
    let mut others = Vec::new();
    for key in keys {
        let Handled::Done(asks) = view.key(*key) else { panic!("{key:?} means nothing") };
        others.extend(carried_out(view, asks));
        drawn(view, 136, 24);
    }
    others
}

fn carried_out(view: &mut CuesView, asks: Vec<Ask>) -> Vec<String> {
    let mut others = Vec::new();
    for ask in asks {
        let Ask::Command(command) = ask else { continue };
        if matches!(command, Command::Document(DocumentCommand::Edit(_))) {
            let show = edited(view, &[command]);
            view.show = Some(Arc::new(show));
        } else {
            others.push(command.to_string());
        }
    }
    others
}

fn key(code: KeyCode) -> KeyEvent {
    KeyEvent::from(code)
}

fn letters(text: &str) -> Vec<KeyEvent> {
    text.chars().map(|letter| key(KeyCode::Char(letter))).collect()
}

fn shift(code: KeyCode) -> KeyEvent {
    KeyEvent::new(code, KeyModifiers::SHIFT)
}

#[test]
fn keys_turn_the_heads_that_are_seen_to_be_chosen_and_no_others() {
    let mut view = at_aims();
    assert_eq!(play(&mut view, &[shift(KeyCode::Right)]), ["nudge-pan Gull 1 1"]);
    assert_eq!(play(&mut view, &[key(KeyCode::Down), shift(KeyCode::Up)]), ["nudge-tilt Gull 2 -1"]);
    assert_eq!(play(&mut view, &letters("g")), Vec::<String>::new());
    assert_eq!(play(&mut view, &[shift(KeyCode::Down)]), ["nudge-tilt Gull 2 0.1"]);
    play(&mut view, &letters("Gv"));
    play(&mut view, &letters("v"));
    assert_eq!(play(&mut view, &[shift(KeyCode::Left)]), ["nudge-pan Gull 2 -1", "nudge-pan Tern -1"]);
    assert!(drawn(&mut view, 136, 24).contains("+Gull 2") && drawn(&mut view, 136, 24).contains("by hand"));
    assert_eq!(play(&mut view, &letters("z")), ["let-heads Gull 2", "let-heads Tern"]);
    // The aim has neither of them.
    assert_eq!(play(&mut view, &letters("n")), Vec::<String>::new());
    assert!(view.said().is_some_and(|said| said.contains("points none of the chosen heads")));
    assert_eq!(play(&mut view, &letters("An")), ["call-aim Gull 1/Booth"]);
}

#[test]
fn aims_are_recorded_overwritten_mirrored_renamed_and_taken_out() {
    let mut view = at_aims();
    let show = |view: &CuesView| view.show.clone().expect("a show");
    play(&mut view, &letters("AaCeiling"));
    play(&mut view, &[key(KeyCode::Enter)]);
    let recorded = show(&view).aims[1].clone();
    assert_eq!((recorded.name.as_str(), recorded.heads.len()), ("Ceiling", 3));
    assert_eq!(recorded.of("Tern"), Some([70.0, 60.0]));
    assert!(drawn(&mut view, 136, 24).contains("▸Ceiling"), "it is chosen: {}", drawn(&mut view, 136, 24));
    play(&mut view, &letters("M"));
    assert_eq!(show(&view).aims[1].of("Gull 1"), Some([30.0, 60.0]), "as Tern did, the other way");
    play(&mut view, &letters("o"));
    assert_eq!(show(&view).aims[1], recorded);
    play(&mut view, &[key(KeyCode::Delete)]);
    assert!(show(&view).aims[1].heads.is_empty());
    play(&mut view, &[key(KeyCode::Left)]);
    play(&mut view, &letters("e"));
    play(&mut view, &letters("Desk"));
    play(&mut view, &[key(KeyCode::Enter)]);
    assert_eq!(show(&view).aims[0].name, "Desk");
    play(&mut view, &letters("X"));
    assert_eq!(show(&view).aims.len(), 1);
    // A name that is taken is refused, with what does instead.
    play(&mut view, &letters("aCeiling"));
    play(&mut view, &[key(KeyCode::Enter)]);
    let Some(Opened::Aim(open)) = &view.form else { panic!("the form stays") };
    assert!(open.form.error.as_ref().is_some_and(|why| why.contains("o records into it")));
}

#[test]
fn a_drag_over_the_field_turns_one_head_to_the_pointer_and_several_along_with_it() {
    let mut view = at_aims();
    let mouse = |view: &mut CuesView, kind, (column, row)| {
        let asks = view.mouse(MouseEvent { kind, column, row, modifiers: KeyModifiers::NONE }).expect("it is taken");
        carried_out(view, asks)
    };
    // The field lies at the right, 44 by 14.
    let left = MouseButton::Left;
    assert_eq!(mouse(&mut view, MouseEventKind::Down(left), (90, 1)), ["head-pan Gull 1 0", "head-tilt Gull 1 0"]);
    let end = mouse(&mut view, MouseEventKind::Drag(left), (133, 14));
    assert_eq!(end, ["head-pan Gull 1 100", "head-tilt Gull 1 100"]);
    mouse(&mut view, MouseEventKind::Up(left), (133, 14));
    play(&mut view, &letters("A"));
    assert!(mouse(&mut view, MouseEventKind::Down(left), (100, 5)).is_empty(), "they stay until they are dragged");
    let dragged = mouse(&mut view, MouseEventKind::Drag(left), (143 - 43, 6));
    assert_eq!(dragged.len(), 3, "tilt alone: {dragged:?}");
    assert!(dragged.iter().all(|command| command.starts_with("nudge-tilt")));
}

#[test]
fn the_part_is_drawn_at_three_sizes_and_says_where_no_head_is() {
    let mut view = at_aims();
    let large = drawn(&mut view, 136, 24);
    for wanted in ["aims", "▸Booth", "Gull 2", "by hand", "25.00  75.00", "not in it", "pan → tilt ↓", "■ Gull 1", "○"]
    {
        assert!(large.contains(wanted), "{wanted}:\n{large}");
    }
    let small = drawn(&mut view, 62, 12);
    assert!(small.contains("Booth") && small.contains("Tern") && !small.contains("pan → tilt ↓"), "{small}");
    let mut show = Show::clone(view.show.as_ref().expect("a show"));
    show.fixtures.truncate(2);
    show.fixtures.remove(0);
    show.aims.clear();
    view.show = Some(Arc::new(show));
    assert!(drawn(&mut view, 80, 12).contains("no fixture of this show turns"));
    assert!(play(&mut view, &letters("a")).is_empty() && view.said().is_some());
}
