//! The start screen without a terminal.

use std::path::Path;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::KeyCode;
use ratatui::layout::Rect;

use super::state::StartScreen;
use super::{Choice, Offers, Recent, Running};
use crate::kit::theme::Theme;

fn offers(folder: &Path) -> Offers {
    Offers {
        running: vec![Running { name: "hall".to_owned(), show: "/shows/hall.splimo".to_owned(), screens: 1 }],
        recent: vec![Recent { path: "/shows/window.splimo".into(), saved: "3 days ago".to_owned() }],
        folder: folder.to_owned(),
    }
}

fn press(screen: &mut StartScreen, code: KeyCode) -> Option<Choice> {
    screen.key(code.into())
}

fn typed(screen: &mut StartScreen, text: &str) {
    text.chars().for_each(|letter| drop(press(screen, KeyCode::Char(letter))));
}

fn seen(screen: &mut StartScreen, width: u16, height: u16) -> String {
    let area = Rect::new(0, 0, width, height);
    let mut buffer = Buffer::empty(area);
    screen.draw(Theme::plain(), area, &mut buffer);
    let line = |y: u16| (0..width).map(|x| buffer[(x, y)].symbol()).collect::<String>().trim_end().to_owned();
    (0..height).map(line).collect::<Vec<_>>().join("\n")
}

#[test]
fn everything_that_can_be_chosen_is_seen_and_leads_somewhere() {
    let folder = tempfile::tempdir().expect("a folder");
    let mut screen = StartScreen::new(offers(folder.path()));
    insta::assert_snapshot!(seen(&mut screen, 100, 24));
    assert_eq!(press(&mut screen, KeyCode::Enter), Some(Choice::Join("hall".to_owned())));
    press(&mut screen, KeyCode::Down);
    assert_eq!(press(&mut screen, KeyCode::Enter), Some(Choice::Open("/shows/window.splimo".into())));
    press(&mut screen, KeyCode::End);
    assert_eq!(press(&mut screen, KeyCode::Enter), Some(Choice::Tutorial));
    press(&mut screen, KeyCode::Up);
    assert_eq!(press(&mut screen, KeyCode::Enter), Some(Choice::Demo));
    typed(&mut screen, "p");
    assert_eq!(press(&mut screen, KeyCode::Enter), None);
    assert!(seen(&mut screen, 100, 24).contains("a new show: panel"));
    assert_eq!(press(&mut screen, KeyCode::Esc), None);
    assert_eq!(press(&mut screen, KeyCode::Esc), Some(Choice::Leave));
    assert!(seen(&mut screen, 40, 12).contains("panel"), "what is chosen is seen where there is little room");
}

#[test]
fn a_new_show_is_made_of_a_handful_of_answers_and_never_over_another() {
    let folder = tempfile::tempdir().expect("a folder");
    let mut screen = StartScreen::new(offers(folder.path()));
    typed(&mut screen, "t");
    press(&mut screen, KeyCode::Enter);
    typed(&mut screen, "4");
    press(&mut screen, KeyCode::Down);
    typed(&mut screen, "30");
    for _ in 0..2 {
        press(&mut screen, KeyCode::Up);
    }
    typed(&mut screen, "Harbour Hall");
    let Some(Choice::New(path, show)) = press(&mut screen, KeyCode::Enter) else {
        panic!("{}", seen(&mut screen, 100, 24))
    };
    assert_eq!(path, folder.path().join("harbour-hall.splimo"));
    assert_eq!((show.name.as_str(), show.fixtures.len(), show.looks.len()), ("Harbour Hall", 4, 6));
    std::fs::write(&path, "mine").expect("written");
    assert_eq!(press(&mut screen, KeyCode::Enter), None);
    assert!(seen(&mut screen, 100, 24).contains("is there already"), "{}", seen(&mut screen, 100, 24));
}

#[test]
fn what_is_chosen_stays_chosen_when_a_session_ends() {
    let folder = tempfile::tempdir().expect("a folder");
    let mut screen = StartScreen::new(offers(folder.path()));
    typed(&mut screen, "d");
    screen.take(Offers { running: Vec::new(), ..offers(folder.path()) });
    typed(&mut screen, "");
    assert!(seen(&mut screen, 100, 24).contains("▸  DMX lights"), "{}", seen(&mut screen, 100, 24));
    screen.take(Offers { folder: folder.path().to_owned(), ..Offers::default() });
    assert!(seen(&mut screen, 100, 24).contains("▸  DMX lights"));
}
