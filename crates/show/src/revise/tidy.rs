//! The way a new text is written: small tables on the line of their name, as people write them, and a blank line before each
//! entry of a list.

use toml_edit::{DocumentMut, InlineTable, Item, Table, Value};

/// The longest line that a small table may make, in characters.
const LONGEST: usize = 100;

/// The kinds whose entries take a line each within their list.
const ON_LINES: [&str; 1] = ["pads"];

/// Writes a document the way people do.
pub(crate) fn tidy(document: &mut DocumentMut) {
    let mut first = true;
    for (_, item) in document.as_table_mut().iter_mut() {
        match item {
            Item::Table(table) => {
                within(table);
                begin(table, if first { "" } else { "\n" });
                first = false;
            }
            Item::ArrayOfTables(list) => list.iter_mut().for_each(entry),
            _ => first = false,
        }
    }
}

fn entry(table: &mut Table) {
    within(table);
    begin(table, "\n");
}

fn begin(table: &mut Table, prefix: &str) {
    table.decor_mut().set_prefix(prefix);
}

/// Tidies the inside of a table: small tables come to stand on their line, others begin without a blank line.
fn within(table: &mut Table) {
    for (mut key, item) in table.iter_mut() {
        key.leaf_decor_mut().clear();
        match item {
            Item::Table(inner) => {
                within(inner);
                begin(inner, "");
                if let Some(small) = small(inner, key.get().len()) {
                    *item = Item::Value(Value::InlineTable(small));
                }
            }
            Item::ArrayOfTables(list) => {
                list.iter_mut().for_each(entry);
                if ON_LINES.contains(&key.get()) {
                    *item = Item::Value(on_lines(std::mem::take(list)));
                }
            }
            _ => {}
        }
    }
}

fn small(table: &Table, key: usize) -> Option<InlineTable> {
    if !table.iter().all(|(_, item)| item.is_value()) {
        return None;
    }
    let inline = table.clone().into_inline_table();
    let line = inline.to_string();
    (key + line.len() + 3 <= LONGEST && !line.contains('\n')).then_some(inline)
}

fn on_lines(list: toml_edit::ArrayOfTables) -> Value {
    let mut array = list.into_array();
    for value in array.iter_mut() {
        value.decor_mut().set_prefix("\n    ");
    }
    array.set_trailing("\n");
    array.set_trailing_comma(true);
    Value::Array(array)
}
