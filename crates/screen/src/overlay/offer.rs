//! Offers at the start: work that was not saved, and what was on stage when the session ended badly.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_show::command::SessionCommand;

use super::reply::OverlayReply;
use crate::kit::float::float;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::view::Ask;

pub(super) fn recovery_key(key: KeyEvent) -> OverlayReply {
    reply(key, SessionCommand::Recover, SessionCommand::LeaveFound)
}

pub(super) fn resuming_key(key: KeyEvent) -> OverlayReply {
    reply(key, SessionCommand::Resume, SessionCommand::BeginAnew)
}

fn reply(key: KeyEvent, yes: SessionCommand, no: SessionCommand) -> OverlayReply {
    match key.code {
        KeyCode::Enter => OverlayReply::CloseAsking(vec![Ask::Command(yes.into())]),
        KeyCode::Esc => OverlayReply::CloseAsking(vec![Ask::Command(no.into())]),
        _ => OverlayReply::Stay,
    }
}

pub(super) fn recovery(theme: Theme, area: Rect, buffer: &mut Buffer) {
    let words = [
        "Splimo ended the last time with changes that were not saved.".to_owned(),
        "They were kept. Nothing is lost, whichever you choose.".to_owned(),
    ];
    let keys = [("Enter", "keeps them"), ("Esc", "goes back to the file as it was saved")];
    offer("work that was not saved", &words, &keys, theme, area, buffer);
}

pub(super) fn resuming(ran: &str, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let words = ["Splimo ended during the show; the stage is as it was:".to_owned(), format!("{ran}.")];
    let keys = [("Enter", "keeps it so"), ("Esc", "begins as a fresh start does")];
    offer("go on where it ended?", &words, &keys, theme, area, buffer);
}

fn offer(title: &str, words: &[String], keys: &[(&str, &str)], theme: Theme, area: Rect, buffer: &mut Buffer) {
    let inside = float(title, 66, 7, theme, area, buffer);
    for (line, words) in words.iter().enumerate() {
        Pen::new(Rect { y: inside.y + 1 + line as u16, height: 1, ..inside }, buffer).put(words, theme.text());
    }
    let mut pen = Pen::new(Rect { y: inside.bottom() - 1, height: 1, ..inside }, buffer);
    for (key, does) in keys {
        pen.put(&format!("{key} "), theme.bright());
        pen.put(&format!("{does}   "), theme.dim());
    }
}
