//! All faults of a show's text at once, and what can be read of it: each part that cannot be read is blanked, and the rest is
//! read again. Lines stay where they are.

use std::ops::Range;

use splimo_show::file::{Cut, FileError, line_at};
use splimo_show::{Place, Step};
use toml::de::{DeTable, DeValue};

use crate::file::{Opened, fault_in, read};

/// The most parts that are left out.
const MOST: usize = 200;

/// A show out of a text that has faults, as far as it can be read.
#[derive(Debug, Clone, PartialEq)]
pub struct Salvaged {
    /// The show without what was left out.
    pub opened: Opened,
    /// The text without it, line for line.
    pub text: String,
    /// The faults, by line. What is at fault only because something else was left out is not told.
    pub faults: Vec<FileError>,
}

/// Reads what can be read of a text.
///
/// # Errors
/// The first fault, where nothing can be left out for it: a version that is not known, or a show without a name.
pub fn salvage(text: &str) -> Result<Salvaged, FileError> {
    let mut rest = text.to_owned();
    let mut faults: Vec<FileError> = Vec::new();
    let mut gone: Vec<String> = Vec::new();
    while let Some(fault) = fault_in(&rest) {
        let range = range_of(&rest, &fault.cut).filter(|range| !rest[range.clone()].trim().is_empty());
        let Some(range) = range.filter(|_| faults.len() < MOST) else { return Err(first(faults, fault.told)) };
        // What a table lacks may have stood on a line that went, and who names what is gone is not to blame.
        let words = format!("{} {}", fault.told.message, fault.told.mend.as_deref().unwrap_or_default());
        let lines = line_at(&rest, range.start)..=line_at(&rest, range.end);
        let lacks = matches!(fault.cut, Cut::Table(_));
        let follows = gone.iter().any(|name| words.contains(&format!("\"{name}\"")))
            || lacks && faults.iter().filter_map(|fault| fault.line).any(|line| lines.contains(&line));
        gone.extend(names_in(&rest[range.clone()]));
        blank(&mut rest, range);
        if !follows {
            faults.push(fault.told);
        }
    }
    faults.sort_by_key(|fault| fault.line);
    let opened = read(&rest)?;
    Ok(Salvaged { opened, text: rest, faults })
}

fn first(faults: Vec<FileError>, last: FileError) -> FileError {
    faults.into_iter().next().unwrap_or(last)
}

/// The names that a part of a text gives.
fn names_in(part: &str) -> impl Iterator<Item = String> + '_ {
    part.lines().filter_map(|line| Some(line.trim().strip_prefix("name")?.split('"').nth(1)?.to_owned()))
}

fn blank(text: &mut String, range: Range<usize>) {
    let blanks: String = text[range.clone()].chars().map(|c| if c == '\n' { '\n' } else { ' ' }).collect();
    text.replace_range(range, &blanks);
}

fn range_of(text: &str, cut: &Cut) -> Option<Range<usize>> {
    match cut {
        Cut::Lines(range) => {
            let lines = lines_around(text, range.clone());
            // Without its header, a table's fields would be those of the table before.
            if header_of(text[lines.clone()].lines().next()?).is_some() {
                table_around(text, lines.start)
            } else {
                Some(lines)
            }
        }
        Cut::Table(at) => table_around(text, *at),
        Cut::At(place) => place_in(text, place),
    }
}

fn lines_around(text: &str, range: Range<usize>) -> Range<usize> {
    let start = text[..range.start.min(text.len())].rfind('\n').map_or(0, |at| at + 1);
    let end = range.end.max(range.start).min(text.len());
    start..text[end..].find('\n').map_or(text.len(), |at| end + at)
}

/// The path of a header: `looks.layers` of `[[looks.layers]]`.
fn header_of(line: &str) -> Option<&str> {
    let line = line.split('#').next()?.trim();
    let inside = line.strip_prefix("[[").or_else(|| line.strip_prefix('['))?.trim_end_matches(']');
    let named = |c: char| c.is_alphanumeric() || matches!(c, '_' | '-' | '.' | ' ');
    (!inside.is_empty() && inside.chars().next().is_some_and(char::is_alphabetic) && inside.chars().all(named))
        .then_some(inside.trim())
}

/// The table in which a byte lies, from its header to the next that is not within it.
fn table_around(text: &str, at: usize) -> Option<Range<usize>> {
    let mut begins: Option<(usize, String)> = None;
    let mut start = 0;
    for line in text.split_inclusive('\n') {
        if let Some(path) = header_of(line) {
            let within = begins.as_ref().is_some_and(|(_, of)| path.starts_with(&format!("{of}.")));
            if start > at && !within {
                break;
            }
            if start <= at {
                begins = Some((start, path.to_owned()));
            }
        }
        start += line.len();
    }
    begins.map(|(begin, _)| begin..start)
}

/// The smallest entry of a list, or field, on the way to a place, with the comma behind it where it stands within a line.
fn place_in(text: &str, place: &Place) -> Option<Range<usize>> {
    let root = DeTable::parse(text).ok()?;
    let mut table = Some(root.get_ref());
    let mut value: Option<&DeValue<'_>> = None;
    let mut found: Option<Range<usize>> = None;
    for step in &place.0 {
        let next = match (step, table, value) {
            (Step::Key(key), Some(table), _) => {
                let Some((name, next)) = table.get_key_value(key.as_str()) else { break };
                // A field that a table has to have takes the whole of it along.
                if !matches!(key.as_str(), "name" | "profile" | "shape" | "effect" | "number" | "place") {
                    let is_list = matches!(next.get_ref(), DeValue::Array(_));
                    found = if is_list && table_header(text, name.span().start) {
                        found
                    } else {
                        Some(name.span().start..next.span().end)
                    };
                }
                next
            }
            (Step::Index(index), _, Some(DeValue::Array(list))) => {
                let Some(next) = list.get(*index) else { break };
                found = Some(next.span());
                next
            }
            _ => break,
        };
        value = Some(next.get_ref());
        table = if let DeValue::Table(table) = next.get_ref() { Some(table) } else { None };
    }
    let found = found?;
    if table_header(text, found.start) {
        return table_around(text, found.start);
    }
    let behind = &text[found.end..];
    let comma = behind.len() - behind.trim_start().len();
    let end = if behind.trim_start().starts_with(',') { found.end + comma + 1 } else { found.end };
    Some(found.start..end)
}

/// True if a byte lies in the header of a table.
fn table_header(text: &str, at: usize) -> bool {
    let line = lines_around(text, at..at);
    header_of(&text[line]).is_some()
}

#[cfg(test)]
mod tests {
    use super::*;

    const DEMO: &str = include_str!("../../../shows/lantern-quay.splimo");

    fn line_of(text: &str, part: &str) -> usize {
        text.lines().position(|line| line.contains(part)).expect(part) + 1
    }

    #[test]
    fn all_faults_are_told_at_once_and_the_rest_is_read() {
        let mut text = DEMO.to_owned();
        for (right, wrong) in [
            ("rate = 44.0", "rate = \"fast\""),
            ("address = \"8.1\"", "address = \"8.1"),
            ("effect = \"rain\"", "effect = \"rian\""),
            ("name = \"Sail 7\"", "name \"Sail 7\""),
            ("[[palette]]\nname = \"Deep water\"", "[[palette\nname = \"Deep water\""),
            ("    { place = 3, look = \"Undertow\" },", "    { place = 99, look = \"Undertow\" },"),
            ("to = \"127.0.0.4\"", "to = \"the box\""),
        ] {
            assert!(text.contains(right), "{right}");
            text = text.replacen(right, wrong, 1);
        }
        let salvaged = salvage(&text).expect("most of it can be read");
        let lines: Vec<usize> = salvaged.faults.iter().filter_map(|fault| fault.line).collect();
        for part in
            ["rate = \"fast\"", "address = \"8.1", "\"rian\"", "name \"Sail 7\"", "[[palette", "place = 99", "the box"]
        {
            assert!(lines.contains(&line_of(&text, part)), "{part} in {:#?}", salvaged.faults);
        }
        let (show, whole) = (&salvaged.opened.show, read(DEMO).expect("it is right").show);
        assert!(show.fixtures.len() + 3 >= whole.fixtures.len() && show.looks.len() == whole.looks.len());
        assert_eq!(salvaged.text.lines().count(), text.lines().count());
        assert!(salvaged.faults.len() <= 9, "{:#?}", salvaged.faults);
    }

    #[test]
    fn what_is_right_loses_nothing() {
        let salvaged = salvage(DEMO).expect("it is right");
        assert!(salvaged.faults.is_empty() && salvaged.text == DEMO);
    }

    #[test]
    fn what_cannot_be_read_at_all_is_refused() {
        for text in ["", "version = 7\nname = \"Late\"", "\u{0}\u{1}"] {
            assert!(salvage(text).is_err(), "{text:?}");
        }
    }

    proptest::proptest! {
        #![proptest_config(proptest::prelude::ProptestConfig::with_cases(40))]

        #[test]
        fn any_damage_is_told_or_refused(damage in proptest::collection::vec((proptest::prelude::any::<proptest::sample::Index>(), "\\PC"), 1..4)) {
            let start = DEMO.find("[[routes]]").expect("routes");
            let mut text = format!("version = 1\nname = \"Damaged\"\n{}", &DEMO[start..start + 2000]);
            for (at, with) in damage {
                let at = text.floor_char_boundary(at.index(text.len()));
                text.insert_str(at, &with);
            }
            if let Ok(salvaged) = salvage(&text) {
                proptest::prop_assert!(read(&salvaged.text).is_ok());
            }
        }
    }
}
