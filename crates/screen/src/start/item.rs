//! A line of the start screen.

use super::new_show::Point;
use super::offer::{Recent, Running};

/// A line that can be chosen.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Item {
    Join(Running),
    Open(Recent),
    New(Point),
    Demo,
    Tutorial,
}

pub(super) fn name_of(item: &Item) -> String {
    match item {
        Item::Join(running) => running.name.clone(),
        Item::Open(recent) => recent.path.file_stem().unwrap_or_default().to_string_lossy().into_owned(),
        Item::New(point) => point.words().0.to_owned(),
        Item::Demo => "demo".to_owned(),
        Item::Tutorial => "tutorial".to_owned(),
    }
}

pub(super) fn words_of(item: &Item) -> String {
    match item {
        Item::Join(running) => {
            let screens = match running.screens {
                0 => "no screen".to_owned(),
                1 => "1 screen".to_owned(),
                count => format!("{count} screens"),
            };
            format!("{screens}   {}", running.show)
        }
        Item::Open(recent) => format!("{}   {}", recent.saved, recent.path.display()),
        Item::New(point) => point.words().1.to_owned(),
        Item::Demo => "Lantern Quay: a made-up night, with its own music and its own nodes".to_owned(),
        Item::Tutorial => "fifteen minutes, from nothing to a small show on stand-in nodes".to_owned(),
    }
}

pub(super) fn heading_of(item: &Item) -> &'static str {
    match item {
        Item::Join(_) => "runs on this machine: its screen is joined",
        Item::Open(_) => "open again",
        Item::New(_) => "a new show",
        Item::Demo | Item::Tutorial => "to look at, and to learn",
    }
}
