//! A changed show written over the text it came from: only what changed is written anew, so that comments, order and the
//! person's own way of writing stay.

use toml::Value;
use toml_edit::{DocumentMut, Item, Table};

use super::Show;
use super::file::{read, write};

/// The text `before` with what has changed since it was read, or `show` as a new text where `before` was no show, or
/// where the two cannot be brought together.
///
/// # Errors
/// As [`write()`].
pub fn write_over(before: &str, show: &Show) -> Result<String, super::file::FileError> {
    match revised(before, show) {
        Some(text) => Ok(text),
        None => write(show),
    }
}

fn revised(before: &str, show: &Show) -> Option<String> {
    let was = Value::try_from(&read(before).ok()?.show).ok()?;
    let is = Value::try_from(show).ok()?;
    let mut document: DocumentMut = before.parse().ok()?;
    revise_table(document.as_table_mut(), was.as_table()?, is.as_table()?)?;
    let text = document.to_string();
    // Whatever the text was like: it is taken only if it says what the show says.
    let again = read(&text).ok()?.show;
    (Show { unknown: show.unknown.clone(), ..again } == *show).then_some(text)
}

fn revise_table(text: &mut Table, was: &toml::Table, is: &toml::Table) -> Option<()> {
    for key in was.keys().filter(|key| !is.contains_key(*key)) {
        text.remove(key);
    }
    for (key, now) in is {
        match (was.get(key), text.get_mut(key)) {
            (Some(before), _) if before == now => {}
            (Some(before), Some(item)) => revise_item(item, before, now)?,
            (_, _) => {
                text.insert(key, written(now)?);
            }
        }
    }
    Some(())
}

fn revise_item(item: &mut Item, was: &Value, is: &Value) -> Option<()> {
    match (item, was, is) {
        (Item::Table(text), Value::Table(was), Value::Table(is)) => revise_table(text, was, is),
        (Item::ArrayOfTables(text), Value::Array(was), Value::Array(is)) if was.len() == is.len() => {
            for ((text, was), is) in text.iter_mut().zip(was).zip(is) {
                revise_table(text, was.as_table()?, is.as_table()?)?;
            }
            Some(())
        }
        (Item::Value(text), _, is) => {
            let decor = text.decor().clone();
            *text = is.to_string().parse().ok()?;
            *text.decor_mut() = decor;
            Some(())
        }
        (item, _, is) => {
            *item = written(is)?;
            Some(())
        }
    }
}

/// A value as it is written where there was none.
fn written(value: &Value) -> Option<Item> {
    let mut table = toml::Table::new();
    table.insert("value".to_owned(), value.clone());
    let mut document: DocumentMut = toml::to_string(&table).ok()?.parse().ok()?;
    document.remove("value")
}
