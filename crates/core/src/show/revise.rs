//! A changed show written over the text it came from: only what changed is written anew, so that comments, order and the
//! person's own way of writing stay.

use std::collections::{HashMap, HashSet};

use toml::Value;
use toml_edit::{ArrayOfTables, DocumentMut, Item, Table};

use super::Show;
use super::file::{read, read_as_written, write};

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
    if read(before).ok()?.show == *show {
        return Some(before.to_owned());
    }
    // What the program has put in since, such as banks, is new to the text.
    let was = Value::try_from(&read_as_written(before).ok()?.show).ok()?;
    let is = Value::try_from(show).ok()?;
    let mut document: DocumentMut = before.parse().ok()?;
    revise_table(document.as_table_mut(), was.as_table()?, is.as_table()?)?;
    let text = document.to_string();
    // Whatever the text was like: it is taken only if it says what the show says.
    let again = read_as_written(&text).ok()?.show;
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
        (Item::ArrayOfTables(text), Value::Array(was), Value::Array(is)) if only_renamed(was, is) => {
            for ((text, was), is) in text.iter_mut().zip(was).zip(is) {
                revise_table(text, was.as_table()?, is.as_table()?)?;
            }
            Some(())
        }
        (Item::ArrayOfTables(text), Value::Array(was), Value::Array(is)) if keeps_order(was, is) => {
            *text = revised_list(text, was, is)?;
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

fn name_of(entry: &Value) -> Option<&str> {
    entry.get("name").and_then(Value::as_str)
}

/// True if two lists have the same entries in the same order, some under new names.
fn only_renamed(was: &[Value], is: &[Value]) -> bool {
    let names = |list: &[Value]| -> HashSet<String> { list.iter().filter_map(name_of).map(str::to_owned).collect() };
    let (before, after) = (names(was), names(is));
    let renamed = |(a, b): (&Value, &Value)| match (name_of(a), name_of(b)) {
        (Some(a), Some(b)) => a == b || (!after.contains(a) && !before.contains(b)),
        (a, b) => a == b,
    };
    was.len() == is.len() && was.iter().zip(is).all(renamed)
}

/// True if those entries of two lists that have the same names stand in the same order, each name once.
fn keeps_order(was: &[Value], is: &[Value]) -> bool {
    let place: HashMap<&str, usize> =
        was.iter().enumerate().filter_map(|(index, entry)| Some((name_of(entry)?, index))).collect();
    let kept: Vec<usize> = is.iter().filter_map(|entry| place.get(name_of(entry)?).copied()).collect();
    place.len() == was.len() && !kept.is_empty() && kept.is_sorted_by(|a, b| a < b)
}

/// A list that grew or shrank: entries that stayed keep their text, found by their names.
fn revised_list(text: &ArrayOfTables, was: &[Value], is: &[Value]) -> Option<ArrayOfTables> {
    let place: HashMap<&str, usize> =
        was.iter().enumerate().filter_map(|(index, entry)| Some((name_of(entry)?, index))).collect();
    let mut list = ArrayOfTables::new();
    for entry in is {
        match name_of(entry).and_then(|name| place.get(name)) {
            Some(&index) => {
                let mut table = text.get(index)?.clone();
                revise_table(&mut table, was[index].as_table()?, entry.as_table()?)?;
                list.push(table);
            }
            None => list.push(new_entry(entry)?),
        }
    }
    Some(list)
}

/// An entry of a list of tables. It has no place of its own in the text, and so comes to stand behind the one before it.
fn new_entry(entry: &Value) -> Option<Table> {
    let mut document = toml::Table::new();
    document.insert("entry".to_owned(), Value::Array(vec![entry.clone()]));
    let document: DocumentMut = toml::to_string(&document).ok()?.parse().ok()?;
    let mut table = document.get("entry")?.as_array_of_tables()?.get(0)?.clone();
    forget_place(&mut table);
    table.decor_mut().set_prefix("\n");
    Some(table)
}

fn forget_place(table: &mut Table) {
    table.set_position(None);
    for (_, item) in table.iter_mut() {
        match item {
            Item::Table(table) => forget_place(table),
            Item::ArrayOfTables(list) => list.iter_mut().for_each(forget_place),
            _ => {}
        }
    }
}

/// A value as it is written where there was none.
fn written(value: &Value) -> Option<Item> {
    let mut table = toml::Table::new();
    table.insert("value".to_owned(), value.clone());
    let mut document: DocumentMut = toml::to_string(&table).ok()?.parse().ok()?;
    let item = document.remove("value")?;
    // A table within a list is written on the line of its name, as people do.
    match item {
        Item::Table(table) if table.iter().all(|(_, item)| item.is_value()) => {
            Some(Item::Value(table.into_inline_table().into()))
        }
        item => Some(item),
    }
}
