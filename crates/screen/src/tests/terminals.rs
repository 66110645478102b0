//! Screens of other kinds: hardly any room, another keyboard, what is found in the help.

use ratatui::crossterm::event::KeyCode;

use super::scene::Scene;
use crate::views::ViewId;

fn scene() -> Scene {
    Scene::demo()
}

#[test]
fn what_matters_most_is_seen_where_there_is_hardly_any_room() {
    let mut scene = scene();
    insta::assert_snapshot!("compact_40x12", scene.screen(40, 12));
    scene.press(KeyCode::Char('`'));
    for (width, height) in [(40, 12), (59, 17), (59, 40), (200, 12)] {
        let screen = scene.screen(width, height);
        assert!(screen.contains("Lantern") && screen.contains("dark"), "{width}x{height}: {screen}");
    }
    scene.run("help");
    assert!(scene.screen(40, 12).contains("Esc closes"), "{}", scene.screen(40, 12));
    assert!(scene.screen(39, 12).contains("Splimo needs 40 x 12"));
}

#[test]
fn help_has_headings_and_finds_what_is_typed() {
    let mut scene = scene();
    scene.go(ViewId::Rig);
    scene.run("help");
    let whole = scene.screen(120, 140);
    for heading in ["on rig", "for the lights, everywhere", "views", "where text is typed"] {
        assert!(whole.contains(heading), "{heading}: {whole}");
    }
    scene.type_keys("black");
    let found = scene.screen(120, 36);
    assert!(found.contains("black") && !found.contains("where text is typed"), "{found}");
    insta::assert_snapshot!("help_found_100x24", scene.screen(100, 24));
    scene.type_keys("zzz");
    assert!(scene.screen(100, 24).contains("no key does that"));
    scene.press(KeyCode::Esc);
    assert!(scene.screen(100, 24).contains("type to find"), "Escape takes what was typed back first");
    scene.press(KeyCode::Esc);
    assert!(!scene.ui.has_open());
}
