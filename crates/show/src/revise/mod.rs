//! A changed show written over the text it came from: only what changed is written anew, so that comments, blank lines, order
//! and the person's own way of writing stay. New tables follow those of their kind, new keys those before them in the format.

mod order;
mod table;
mod tidy;

use toml_edit::DocumentMut;

use self::order::Order;
use self::table::{Change, Revision};
pub(super) use self::tidy::tidy;
use super::Show;
use super::file::{FileError, parse, plain_text, tidied, write};

/// The text `before` with what has changed since it was read, or `show` as a new text where `before` was no show, or
/// where the two cannot be brought together.
///
/// # Errors
/// As [`write()`].
pub fn write_over(before: &str, show: &Show) -> Result<String, FileError> {
    let (mark, before) = before.strip_prefix('\u{feff}').map_or(("", before), |rest| ("\u{feff}", rest));
    let windows = before.contains("\r\n") && before.matches('\n').count() == before.matches("\r\n").count();
    let lines = if windows { before.replace("\r\n", "\n") } else { before.to_owned() };
    let text = match revised(&lines, show) {
        Some(text) => text,
        None => write(show)?,
    };
    Ok(format!("{mark}{}", if windows { text.replace('\n', "\r\n") } else { text }))
}

fn revised(before: &str, show: &Show) -> Option<String> {
    let as_written = parse(before).ok()?.show;
    let mut opened = as_written.clone();
    opened.give_banks();
    if opened == *show {
        return Some(before.to_owned());
    }
    // What the program has put in since, such as banks, is new to the text.
    let (was, is) = (plain_text(&as_written).ok()?, plain_text(show).ok()?);
    let (was, values): (toml::Table, toml::Table) = (was.parse().ok()?, is.parse().ok()?);
    let written = tidied(&is).ok()?;
    let mut document: DocumentMut = before.parse().ok()?;
    order::make_room(document.as_table_mut());
    let mut revision = Revision::default();
    revision.table(
        document.as_table_mut(),
        &Change { was: &was, is: &values, written: written.as_table() },
        Order::START,
    )?;
    revision.settle_comments(&mut document);
    let text = document.to_string();
    // Whatever the text was like: it is taken only if it says what the show says.
    let again = parse(&text).ok()?.show;
    (Show { unknown: show.unknown.clone(), ..again } == *show).then_some(text)
}
