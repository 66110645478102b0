//! Tables and values brought up to date where they stand.

mod list;

use std::collections::HashSet;

use toml::Value;
use toml_edit::{ArrayOfTables, DocumentMut, InlineTable, Item, Table};

use super::order::{self, Place};
use list::{pairs, revise_array};

/// A change of a table: what it said, what it says now, and how that is written.
pub(super) struct Change<'a> {
    pub(super) was: &'a toml::Table,
    pub(super) is: &'a toml::Table,
    pub(super) written: &'a Table,
}

/// A revision under way.
#[derive(Debug, Default)]
pub(super) struct Revision {
    /// Comments of what is gone, with the place behind which they stood: they stay for whoever wrote them.
    comments: Vec<(Place, String)>,
}

impl Revision {
    /// Brings a table up to date that stands at a place, or within the table there.
    pub(super) fn table(&mut self, text: &mut Table, change: &Change<'_>, place: Place) -> Option<()> {
        let here = text.position().unwrap_or(place);
        self.take_out(text, change, here);
        let mut before: Option<&str> = None;
        let mut behind = here;
        for (key, written) in change.written {
            let (was, is) = (change.was.get(key), change.is.get(key)?);
            match text.get_mut(key) {
                Some(_) if was == Some(is) => {}
                Some(item) => self.item(item, was, is, written, here)?,
                // It is read from something else that the text says.
                None if was == Some(is) => continue,
                None => insert(text, key, written, before, behind),
            }
            behind = behind.max(text.get(key).and_then(order::last_of).unwrap_or(behind));
            before = Some(key);
        }
        Some(())
    }

    /// Takes out what is said no more. Comments over it stay.
    fn take_out(&mut self, text: &mut Table, change: &Change<'_>, here: Place) {
        let gone: Vec<&String> = change.was.keys().filter(|key| !change.is.contains_key(*key)).collect();
        for key in gone {
            let next = text.iter().skip_while(|(k, _)| k != key).skip(1).find(|(_, item)| item.is_value());
            let next = next.map(|(key, _)| key.to_owned());
            let Some((key, item)) = text.remove_entry(key) else { continue };
            match item {
                Item::Table(table) => self.leave_comment(here, table.decor().prefix()),
                Item::ArrayOfTables(list) => {
                    for table in list.iter() {
                        self.leave_comment(table.position().unwrap_or(here), table.decor().prefix());
                    }
                }
                _ => match next.and_then(|next| text.key_mut(&next)) {
                    Some(mut next) if has_comment(key.leaf_decor().prefix()) => {
                        let own = text_of(next.leaf_decor().prefix());
                        next.leaf_decor_mut()
                            .set_prefix(text_of(key.leaf_decor().prefix()) + own.trim_start_matches('\n'));
                    }
                    Some(_) => {}
                    None => self.leave_comment(here, key.leaf_decor().prefix()),
                },
            }
        }
    }

    fn leave_comment(&mut self, place: Place, prefix: Option<&toml_edit::RawString>) {
        if has_comment(prefix) {
            self.comments.push((place, text_of(prefix)));
        }
    }

    fn item(&mut self, item: &mut Item, was: Option<&Value>, is: &Value, written: &Item, here: Place) -> Option<()> {
        match (&mut *item, was, is) {
            (Item::Table(text), Some(Value::Table(_)) | None, Value::Table(is)) => {
                let (table, nothing) = (as_table(written)?, toml::Table::new());
                let was = was.and_then(Value::as_table).unwrap_or(&nothing);
                self.table(text, &Change { was, is, written: &table }, here)
            }
            (Item::ArrayOfTables(text), Some(Value::Array(was)), Value::Array(is)) if !is.is_empty() => {
                *text = self.list(text, was, is, &as_list(written)?)?;
                Some(())
            }
            (Item::Value(text), was, is) => {
                let written = written.clone().into_value().ok()?;
                revise_value(text, was, is, &written);
                Some(())
            }
            (Item::Table(_) | Item::ArrayOfTables(_) | Item::None, _, _) => {
                let place = order::last_of(item).unwrap_or(here);
                match &*item {
                    Item::Table(table) => self.leave_comment(place, table.decor().prefix()),
                    Item::ArrayOfTables(list) => {
                        list.iter().for_each(|table| self.leave_comment(place, table.decor().prefix()));
                    }
                    _ => {}
                }
                *item = Item::Value(written.clone().into_value().ok()?);
                Some(())
            }
        }
    }

    /// A list of tables: entries that stayed keep their text, wherever they stand now.
    fn list(
        &mut self,
        text: &ArrayOfTables,
        was: &[Value],
        is: &[Value],
        written: &ArrayOfTables,
    ) -> Option<ArrayOfTables> {
        if text.len() != was.len() || written.len() != is.len() {
            return None;
        }
        let pairs = pairs(was, is);
        let stays: HashSet<usize> = pairs.iter().flatten().copied().collect();
        for (_, table) in text.iter().enumerate().filter(|(index, _)| !stays.contains(index)) {
            self.leave_comment(table.position()?, table.decor().prefix());
        }
        let mut places: Vec<Place> = pairs.iter().flatten().filter_map(|&index| text.get(index)?.position()).collect();
        let stands = places.is_sorted();
        places.sort_unstable();
        let mut places = places.into_iter();
        let mut at = order::before(text.iter().filter_map(Table::position).min()?);
        let mut list = ArrayOfTables::new();
        for (place, pair) in pairs.iter().enumerate() {
            let new = written.get(place)?;
            let mut table = match *pair {
                Some(index) => text.get(index)?.clone(),
                None => new.clone(),
            };
            at = match *pair {
                Some(index) => {
                    if !stands {
                        order::move_to(&mut table, places.next()?);
                        if !text_of(table.decor().prefix()).starts_with('\n') {
                            let prefix = text_of(table.decor().prefix());
                            table.decor_mut().set_prefix(format!("\n{prefix}"));
                        }
                    }
                    let here = table.position()?;
                    let change = Change { was: was[index].as_table()?, is: is[place].as_table()?, written: new };
                    self.table(&mut table, &change, here)?;
                    order::last(&table)?
                }
                None => {
                    // One that comes to stand before all others leaves the comment over them where it is.
                    order::follow(&mut table, at)
                }
            };
            list.push(table);
        }
        Some(list)
    }

    /// Gives the comments of what is gone to what comes next in the text.
    pub(super) fn settle_comments(self, document: &mut DocumentMut) {
        for (place, comment) in self.comments.into_iter().rev() {
            let mut next: Option<Place> = None;
            order::each(document.as_table_mut(), &mut |table| {
                let seen = !table.is_implicit() && !table.is_dotted();
                let behind = table.position().filter(|&at| seen && at > place);
                next = behind.map_or(next, |at| Some(next.map_or(at, |next| next.min(at))));
            });
            let joined =
                |own: String| comment.trim_end_matches('\n').to_owned() + "\n\n" + own.trim_start_matches('\n');
            match next {
                None => {
                    let trailing = document.trailing().as_str().unwrap_or_default().to_owned();
                    document.set_trailing(joined(trailing).trim_end_matches('\n').to_owned() + "\n");
                }
                Some(next) => order::each(document.as_table_mut(), &mut |table| {
                    if table.position() == Some(next) {
                        let own = text_of(table.decor().prefix());
                        table.decor_mut().set_prefix(joined(own));
                    }
                }),
            }
        }
    }
}

fn text_of(raw: Option<&toml_edit::RawString>) -> String {
    raw.and_then(toml_edit::RawString::as_str).unwrap_or_default().to_owned()
}

fn has_comment(prefix: Option<&toml_edit::RawString>) -> bool {
    text_of(prefix).contains('#')
}

/// Puts a key into a table where none was: behind the key before it in the format, its tables behind a place.
fn insert(text: &mut Table, key: &str, written: &Item, before: Option<&str>, place: Place) {
    let mut item = written.clone();
    if text.is_dotted() {
        item = item.into_value().map_or_else(|item| item, Item::Value);
    }
    match &mut item {
        Item::Table(table) => {
            order::follow(table, place);
        }
        Item::ArrayOfTables(list) => {
            let mut at = place;
            for table in list.iter_mut() {
                at = order::follow(table, at);
            }
        }
        _ => {}
    }
    let mut keys: Vec<String> = text.iter().map(|(key, _)| key.to_owned()).collect();
    let at = before.and_then(|before| keys.iter().position(|key| key == before)).map_or(keys.len(), |at| at + 1);
    text.insert(key, item);
    if at < keys.len() {
        keys.insert(at, key.to_owned());
        let rank = |key: &str| keys.iter().position(|k| k == key);
        text.sort_values_by(|a, _, b, _| rank(a.get()).cmp(&rank(b.get())));
    }
}

fn as_table(written: &Item) -> Option<Table> {
    match written {
        Item::Table(table) => Some(table.clone()),
        Item::Value(toml_edit::Value::InlineTable(table)) => Some(table.clone().into_table()),
        _ => None,
    }
}

fn as_list(written: &Item) -> Option<ArrayOfTables> {
    written.clone().into_array_of_tables().ok()
}

/// A value as it is written, without the spaces around it.
pub(super) fn value_of(written: &toml_edit::Value) -> toml_edit::Value {
    let mut value = written.clone();
    value.decor_mut().clear();
    value
}

/// Brings a value up to date; what is around it stays.
pub(super) fn revise_value(text: &mut toml_edit::Value, was: Option<&Value>, is: &Value, written: &toml_edit::Value) {
    if was == Some(is) {
        return;
    }
    let done = match (&mut *text, was, is) {
        (toml_edit::Value::InlineTable(text), Some(Value::Table(was)), Value::Table(is)) => {
            revise_inline(text, was, is, written)
        }
        (toml_edit::Value::Array(text), Some(Value::Array(was)), Value::Array(is)) => {
            revise_array(text, was, is, written)
        }
        _ => false,
    };
    if !done {
        let decor = text.decor().clone();
        *text = written.clone();
        *text.decor_mut() = decor;
    }
}

fn revise_inline(text: &mut InlineTable, was: &toml::Table, is: &toml::Table, written: &toml_edit::Value) -> bool {
    let Some(written) = written.as_inline_table() else { return false };
    let plain = !text.to_string().contains(['\n', '#']);
    let keys = text.len();
    for key in was.keys().filter(|key| !is.contains_key(*key)) {
        text.remove(key);
    }
    for (key, now) in is {
        let Some(new) = written.get(key) else { return false };
        match text.get_mut(key) {
            Some(value) => revise_value(value, was.get(key), now, new),
            None if was.get(key) == Some(now) => {}
            None => {
                text.insert(key, value_of(new));
            }
        }
    }
    if plain && text.len() != keys {
        text.fmt();
    }
    true
}
