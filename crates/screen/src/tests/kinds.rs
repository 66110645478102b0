//! Every view on every kind of terminal: the sizes, the numbers of colours, the palettes, and ASCII alone.

use std::collections::BTreeSet;

use ratatui::buffer::{Buffer, Cell};
use ratatui::style::Color;

use super::scene::Scene;
use crate::encoder::Encoder;
use crate::kit::theme::{Depth, Palette, Theme, contrast};
use crate::views::ViewId;

/// From hardly any room to a wall.
const SIZES: [(u16, u16); 7] = [(40, 12), (60, 18), (80, 24), (100, 30), (120, 36), (158, 48), (250, 70)];
const DEPTHS: [Depth; 4] = [Depth::True, Depth::Indexed, Depth::Sixteen, Depth::None];

/// The word that only small screens have: what larger ones call the master.
const SHORT: &str = "mst";

fn text(buffer: &Buffer) -> String {
    let width = usize::from(buffer.area.width);
    let lines = buffer.content.chunks(width);
    let line = |cells: &[Cell]| cells.iter().map(Cell::symbol).collect::<String>().trim_end().to_owned();
    lines.map(line).collect::<Vec<_>>().join("\n")
}

/// The words of a screen that are not said to go on ("…").
fn words(screen: &str) -> BTreeSet<String> {
    let parts = screen.split(|letter: char| !(letter.is_alphabetic() || letter == '…' || letter == '’'));
    parts.filter(|part| part.chars().count() > 2 && !part.contains('…')).map(str::to_lowercase).collect()
}

#[test]
fn every_view_at_every_size() {
    for (width, height) in SIZES {
        let mut scene = Scene::demo();
        let mut screens = String::new();
        for view in ViewId::ALL {
            scene.go(*view);
            screens += &format!("── {}\n{}\n", view.spec().name, scene.screen(width, height));
        }
        insta::assert_snapshot!(format!("views_{width}x{height}"), screens);
    }
}

#[test]
fn no_word_is_cut() {
    let mut scene = Scene::demo();
    let mut whole = BTreeSet::from([SHORT.to_owned()]);
    // A pad has room for a few letters of its look, which tell more than that some are missing.
    let looks: Vec<String> = scene.show.looks.iter().flat_map(|look| words(&look.name)).collect();
    for view in ViewId::ALL {
        scene.go(*view);
        whole.extend(words(&scene.screen(400, 120)));
    }
    let mut cut = Vec::new();
    for view in ViewId::ALL {
        scene.go(*view);
        for (width, height) in SIZES {
            let screen = words(&scene.screen(width, height));
            let is_on_pad = |word: &&String| *view == ViewId::Play && looks.iter().any(|look| look.starts_with(*word));
            let unknown = screen.difference(&whole).filter(|word| !is_on_pad(word));
            cut.extend(unknown.map(|word| format!("{} {width}x{height}: {word}", view.spec().name)));
        }
    }
    assert!(cut.is_empty(), "{}", cut.join("\n"));
}

#[test]
fn no_view_uses_colours_that_the_terminal_has_not() {
    let mut scene = Scene::demo();
    for depth in DEPTHS {
        for (name, palette, _) in Palette::ALL {
            scene.ui.theme = Theme { depth, palette: *palette };
            for view in ViewId::ALL {
                scene.go(*view);
                for cell in &scene.buffer(120, 36).content {
                    for colour in [cell.fg, cell.bg] {
                        assert!(has(depth, colour), "{depth:?} {name} {}: {colour:?}", view.spec().name);
                    }
                }
            }
        }
    }
}

fn has(depth: Depth, colour: Color) -> bool {
    match (depth, colour) {
        (_, Color::Reset) => true,
        (Depth::True, Color::Rgb(..)) | (Depth::Indexed, Color::Indexed(16..)) => true,
        (Depth::Sixteen, named) => !matches!(named, Color::Rgb(..) | Color::Indexed(_)),
        (Depth::True | Depth::Indexed | Depth::None, _) => false,
    }
}

#[test]
fn words_of_every_view_can_be_read_in_every_palette() {
    let mut scene = Scene::demo();
    let mut faint = BTreeSet::new();
    for (name, palette, _) in Palette::ALL {
        scene.ui.theme = Theme { depth: Depth::True, palette: *palette };
        for view in ViewId::ALL {
            scene.go(*view);
            for cell in &scene.buffer(158, 48).content {
                let (Color::Rgb(r, g, b), Color::Rgb(red, green, blue)) = (cell.fg, cell.bg) else { continue };
                let is_word = cell.symbol().chars().all(char::is_alphanumeric);
                if is_word && contrast([r, g, b], [red, green, blue]) < 4.5 {
                    faint.insert(format!("{name} {}: {:?} on {:?}", view.spec().name, cell.fg, cell.bg));
                }
            }
        }
    }
    assert!(faint.is_empty(), "{faint:#?}");
}

#[test]
fn every_view_is_told_in_ascii() {
    let mut scene = Scene::demo();
    for view in ViewId::ALL {
        scene.go(*view);
        for (width, height) in SIZES {
            let screen = scene.buffer(width, height);
            let bytes = Encoder::new(true).encode(&screen, false).to_vec();
            assert!(bytes.iter().all(|byte| byte.is_ascii()), "{} {width}x{height}", view.spec().name);
            let unknown: BTreeSet<char> = text(&screen).chars().filter(|letter| asked(*letter)).collect();
            assert!(unknown.is_empty(), "{} {width}x{height}: {unknown:?}", view.spec().name);
        }
    }
}

/// True if ASCII has nothing like a letter but a question mark.
fn asked(letter: char) -> bool {
    letter != '?' && letter != '\n' && crate::encoder::in_ascii(letter) == b'?'
}
