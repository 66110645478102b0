//! Lists: which entry of the new list is which of the old one, and lists within a line.

use std::collections::{HashMap, VecDeque};

use toml::Value;
use toml_edit::Array;

use super::{revise_value, value_of};

/// The place in the old list of each entry of the new one; none for one that is new. Entries with a name or a number are
/// known by it, others by being the same; of the rest, what stands in the same gap is taken for the same, changed.
pub(super) fn pairs(was: &[Value], is: &[Value]) -> Vec<Option<usize>> {
    let mut known: HashMap<String, VecDeque<usize>> = HashMap::new();
    for (index, entry) in was.iter().enumerate() {
        known.entry(identity(entry)).or_default().push_back(index);
    }
    let mut pairs: Vec<Option<usize>> =
        is.iter().map(|entry| known.get_mut(&identity(entry)).and_then(VecDeque::pop_front)).collect();
    let mut taken = vec![false; was.len()];
    for &index in pairs.iter().flatten() {
        taken[index] = true;
    }
    for at in 0..pairs.len() {
        let behind = at.checked_sub(1).map_or(Some(0), |before| pairs[before].map(|index| index + 1));
        if let Some(index) = behind.filter(|&index| pairs[at].is_none() && taken.get(index) == Some(&false)) {
            pairs[at] = Some(index);
            taken[index] = true;
        }
    }
    pairs
}

fn identity(entry: &Value) -> String {
    let named = ["name", "number"].iter().find_map(|key| entry.get(key));
    named.map_or_else(|| format!("same {entry}"), |name| format!("called {name}"))
}

/// Brings a list within a line, or over some lines, up to date. False if the text is not the list that it was.
pub(super) fn revise_array(text: &mut Array, was: &[Value], is: &[Value], written: &toml_edit::Value) -> bool {
    let Some(written) = written.as_array().filter(|written| written.len() == is.len() && text.len() == was.len())
    else {
        return false;
    };
    let pairs = pairs(was, is);
    let old: Vec<toml_edit::Value> = text.iter().cloned().collect();
    let style = Style::of(text);
    text.clear();
    let mut comments = String::new();
    let mut next = 0;
    for (place, pair) in pairs.iter().enumerate() {
        let Some(new) = written.get(place) else { return false };
        let value = match *pair {
            Some(index) => {
                // What is gone leaves its comments to who comes next.
                for gone in next..index {
                    comments.push_str(&comments_of(&old[gone], &pairs, gone));
                }
                next = next.max(index + 1);
                let mut value = old[index].clone();
                revise_value(&mut value, Some(&was[index]), &is[place], new);
                value
            }
            None => style.new_entry(new),
        };
        text.push_formatted(style.placed(value, place, is.len(), std::mem::take(&mut comments)));
    }
    for gone in next..old.len() {
        comments.push_str(&comments_of(&old[gone], &pairs, gone));
    }
    if !comments.is_empty() {
        let trailing = text.trailing().as_str().unwrap_or_default().to_owned();
        // A comment that stood behind the last entry takes a line of its own.
        let between = if trailing.trim_start().starts_with('#') && !trailing.starts_with('\n') { "\n   " } else { "" };
        // A comment ends with its line.
        let end = if trailing.contains('\n') { "" } else { "\n" };
        text.set_trailing(comments + between + &trailing + end);
    }
    true
}

fn comments_of(gone: &toml_edit::Value, pairs: &[Option<usize>], index: usize) -> String {
    if pairs.contains(&Some(index)) {
        return String::new();
    }
    let parts = [gone.decor().prefix(), gone.decor().suffix()]
        .map(|part| part.and_then(|part| part.as_str()).unwrap_or_default());
    parts.into_iter().filter(|part| part.contains('#')).map(|part| part.trim_end_matches([' ', '\t', '\n'])).collect()
}

/// The way a list is spaced.
struct Style {
    first: String,
    rest: String,
    last: String,
}

impl Style {
    fn of(array: &Array) -> Self {
        let prefix = |value: &toml_edit::Value| {
            let prefix = value.decor().prefix().and_then(|prefix| prefix.as_str()).unwrap_or_default();
            prefix.rfind('\n').map_or_else(|| prefix.to_owned(), |at| prefix[at..].to_owned())
        };
        let suffix = |value: &toml_edit::Value| {
            let suffix = value.decor().suffix().and_then(|suffix| suffix.as_str()).unwrap_or_default();
            suffix.to_owned()
        };
        let first = array.get(0).map(prefix).unwrap_or_default();
        let rest =
            array.get(1).map(prefix).unwrap_or_else(|| if first.contains('\n') { first.clone() } else { " ".into() });
        Self { last: array.iter().last().map(suffix).unwrap_or_default(), first, rest }
    }

    fn new_entry(&self, written: &toml_edit::Value) -> toml_edit::Value {
        let mut value = value_of(written);
        value.decor_mut().set_prefix(self.rest.clone());
        value
    }

    /// A value at its place: on one line the first and the last stand as the first and the last did.
    fn placed(&self, mut value: toml_edit::Value, place: usize, count: usize, comments: String) -> toml_edit::Value {
        let own = value.decor().prefix().and_then(|prefix| prefix.as_str()).unwrap_or_default().to_owned();
        let comment =
            value.decor().suffix().and_then(|suffix| suffix.as_str()).is_some_and(|suffix| suffix.contains('#'));
        let one_line = !self.first.contains('\n') && !own.contains(['\n', '#']) && !comment && !self.last.contains('#');
        let prefix = match (one_line, place) {
            (true, 0) => self.first.clone(),
            (true, _) if own.is_empty() => self.rest.clone(),
            _ => own,
        };
        let line = if comments.is_empty() || prefix.starts_with('\n') { "" } else { "\n    " };
        value.decor_mut().set_prefix(comments + line + &prefix);
        if one_line {
            value.decor_mut().set_suffix(if place + 1 == count { self.last.clone() } else { String::new() });
        }
        value
    }
}
