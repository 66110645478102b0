//! A show as text: one TOML document with a version. Errors name the line; what is not known is kept and warned about.

use std::ops::Range;

use toml::de::{DeTable, DeValue};
use toml::{Table, Value};
use toml_edit::DocumentMut;

use super::field_names::FIELDS;
use super::place::{Place, Step};
use super::plain::plain;
use super::revise::tidy;
use super::{Show, Unknown, VERSION};
use splimo_base::nearest::{meant, nearest};
use splimo_transport::TransportKind;

/// The reason why a text is not a show.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{}{message}{}", line.map(|l| format!("line {l}: ")).unwrap_or_default(), mend.as_ref().map(|m| format!("; {m}")).unwrap_or_default())]
pub struct FileError {
    /// The line of the text, from 1, where one can be named.
    pub line: Option<usize>,
    /// The fault.
    pub message: String,
    /// The way to mend it, where that can be said.
    pub mend: Option<String>,
}

/// A text that is no show, where its fault stands, and the part that has to go for the rest to be read.
#[derive(Debug, Clone, PartialEq)]
pub struct Fault {
    /// What is wrong.
    pub told: FileError,
    /// The part that is at fault.
    pub cut: Cut,
}

/// The part of a text that is at fault.
#[derive(Debug, Clone, PartialEq)]
pub enum Cut {
    /// The lines of a range of bytes.
    Lines(Range<usize>),
    /// The table in which a byte lies, with what is in it.
    Table(usize),
    /// A place of the document.
    At(Place),
}

/// A text taken for a show, of which nobody knows yet whether it is right.
#[derive(Debug, Clone, PartialEq)]
pub struct Parsed {
    /// The show, with nothing in it that the text does not say.
    pub show: Show,
    /// The places of fields that are not known.
    pub unknown: Vec<Place>,
}

impl Parsed {
    /// One line for each field that is not known, with its place, and the name that is nearest to it: a field's, or one of `names`.
    #[must_use]
    pub fn warnings<'n>(&self, text: &str, names: impl Iterator<Item = &'n str> + Clone) -> Vec<String> {
        let warning = |place: &Place| {
            let line = line_of(text, place).map_or_else(String::new, |line| format!("line {line}: "));
            format!(
                "{line}{place} is not known to this version{}; it is kept as it is",
                meant_field(place, names.clone())
            )
        };
        self.unknown.iter().map(warning).collect()
    }
}

/// Reads the text of a show. Whether what it says makes sense is not looked at.
///
/// # Errors
/// [`Fault`] for text that is no TOML, a version newer than [`VERSION`], or a field of the wrong type or missing.
pub fn parse(text: &str) -> Result<Parsed, Fault> {
    // A version that is not known leaves nothing to be read.
    if let Err(error) = DeTable::parse(text) {
        let range = error.span().unwrap_or_default();
        return Err(Fault { told: syntax(text, &error), cut: Cut::Lines(range) });
    }
    check_version(text).map_err(|told| Fault { told, cut: Cut::Lines(text.len()..text.len()) })?;
    let mut unknown = Vec::new();
    let mut show = deserialized(text, &mut unknown).map_err(|error| {
        let range = error.span().unwrap_or_default();
        let lacks = error.message().starts_with("missing field");
        let cut = if lacks { Cut::Table(range.start) } else { Cut::Lines(range) };
        Fault { told: syntax(text, &error), cut }
    })?;
    show.upgrade();
    if !unknown.is_empty() {
        let document: Table = text.parse().map_err(|e| Fault { told: syntax(text, &e), cut: Cut::Lines(0..0) })?;
        show.unknown = unknown.iter().filter_map(|place| Unknown::found(&document, place)).collect();
    }
    Ok(Parsed { show, unknown })
}

/// Reads a show without looking whether it makes sense, as tests and tools do. One without banks of pads gets them from its looks.
///
/// # Errors
/// As [`parse()`].
pub fn read_unchecked(text: &str) -> Result<Show, FileError> {
    let mut show = parse(text).map_err(|fault| fault.told)?.show;
    show.give_banks();
    Ok(show)
}

/// The show of a text, and the places of what is not known. The only reader of shows: a second one would be a megabyte of the program.
fn deserialized(text: &str, unknown: &mut Vec<Place>) -> Result<Show, toml::de::Error> {
    serde_ignored::deserialize(toml::Deserializer::parse(text)?, |path| unknown.push(place_of(&path)))
}

/// Writes a show, with the unknown fields that it was read with.
///
/// # Errors
/// [`FileError`] without a line, where a value cannot be written as TOML.
pub fn write(show: &Show) -> Result<String, FileError> {
    let plain = plain_text(show)?;
    let text = if show.unknown.is_empty() {
        plain
    } else {
        let mut document: Value = toml::from_str(&plain).map_err(unwritten)?;
        show.unknown.iter().for_each(|unknown| unknown.restore(&mut document));
        toml::to_string(&document).map_err(unwritten)?
    };
    Ok(tidied(&text)?.to_string())
}

/// The known fields of a show as the serializer writes them.
pub(super) fn plain_text(show: &Show) -> Result<String, FileError> {
    toml::to_string(show).map_err(unwritten)
}

/// A document the way people write it.
pub(super) fn tidied(text: &str) -> Result<DocumentMut, FileError> {
    let mut document: DocumentMut = text.parse().map_err(unwritten::<toml_edit::TomlError>)?;
    tidy(&mut document);
    Ok(document)
}

fn unwritten<E: std::fmt::Display>(error: E) -> FileError {
    FileError { line: None, message: error.to_string(), mend: None }
}

/// The line of the text at which `place` stands, from 1.
#[must_use]
pub fn line_of(text: &str, place: &Place) -> Option<usize> {
    let root = DeTable::parse(text).ok()?;
    let mut offset = None;
    let mut table = Some(root.get_ref());
    let mut value: Option<&DeValue<'_>> = None;
    for step in &place.0 {
        let next = match (step, table, value) {
            (Step::Key(key), Some(table), _) => {
                let Some((key, next)) = table.get_key_value(key.as_str()) else { break };
                offset = Some(key.span().start);
                next
            }
            (Step::Index(index), _, Some(DeValue::Array(list))) => {
                let Some(next) = list.get(*index) else { break };
                offset = Some(next.span().start);
                next
            }
            _ => break,
        };
        value = Some(next.get_ref());
        table = match next.get_ref() {
            DeValue::Table(table) => Some(table),
            _ => None,
        };
    }
    offset.map(|offset| line_at(text, offset))
}

fn check_version(text: &str) -> Result<(), FileError> {
    let root = DeTable::parse(text).map_err(|e| syntax(text, &e))?;
    let found = root.get_ref().get("version");
    let number = found.and_then(|v| v.get_ref().as_integer()).and_then(|n| n.as_str().parse::<u32>().ok());
    match (found, number) {
        (Some(_), Some(number)) if number >= 1 && number <= VERSION => Ok(()),
        (Some(version), Some(number)) if number > VERSION => Err(FileError {
            line: Some(line_at(text, version.span().start)),
            message: format!("this show has version {number}, and this program knows versions up to {VERSION}"),
            mend: Some("open it with a newer Splimo".into()),
        }),
        (found, _) => Err(FileError {
            line: found.map_or(Some(1), |v| Some(line_at(text, v.span().start))),
            message: "the version of the show is missing or not a number".into(),
            mend: Some(format!("write \"version = {VERSION}\" above everything else")),
        }),
    }
}

/// The known field, or other name, that is nearest to one that is not known, as the end of a message.
fn meant_field<'n>(place: &Place, names: impl Iterator<Item = &'n str>) -> String {
    let Some(Step::Key(name)) = place.0.last() else { return String::new() };
    let own = TransportKind::ALL.iter().flat_map(|kind| kind.usual().fields()).map(|field| field.name);
    meant(name, FIELDS.iter().copied().chain(own).chain(names).filter(|known| known != name))
}

fn syntax(text: &str, error: &toml::de::Error) -> FileError {
    let line = error.span().map(|span| line_at(text, span.start));
    let (message, mend) = plain(error.message());
    let at = error.span().map_or(0, |span| span.start);
    let Some(missing) = error.message().strip_prefix("missing field `").and_then(|rest| rest.split('`').next()) else {
        // What stands for something says for what; a fault of the text itself has no such name.
        let name = DeTable::parse(text).ok().and_then(|_| name_at(text, at));
        let message = name.map_or_else(|| message.clone(), |name| format!("{name}: {message}"));
        return FileError { line, message, mend };
    };
    // What is missing may be there under a name that is none.
    let near = nearest(missing, names_below(text, at)).filter(|near| *near != missing);
    let mend = near.map(|near| format!("write {missing} in the place of {near}")).or(mend);
    FileError { line, message, mend }
}

/// The name on the line of a place: what stands before its equals sign.
fn name_at(text: &str, at: usize) -> Option<&str> {
    let begins = text.get(..at)?.rfind('\n').map_or(0, |before| before + 1);
    let line = text[begins..].lines().next()?;
    let (name, _) = line.split_once('=')?;
    let name = name.trim();
    let plain = |letter: char| letter.is_alphanumeric() || matches!(letter, '_' | '-' | '.');
    (!name.is_empty() && name.chars().all(plain)).then_some(name)
}

/// The names in the table that begins at a place.
fn names_below(text: &str, at: usize) -> impl Iterator<Item = &str> {
    let lines = text.get(at..).unwrap_or_default().lines().skip(1);
    let own = lines.take_while(|line| !line.trim_start().starts_with('['));
    own.filter_map(|line| line.split_once('=')).map(|(name, _)| name.trim())
}

/// The line of a byte of the text, from 1.
#[must_use]
pub fn line_at(text: &str, offset: usize) -> usize {
    let before = &text.as_bytes()[..offset.min(text.len())];
    before.iter().filter(|&&b| b == b'\n').count() + 1
}

fn place_of(path: &serde_ignored::Path<'_>) -> Place {
    use serde_ignored::Path;
    match path {
        Path::Root => Place::root(),
        Path::Seq { parent, index } => place_of(parent).index(*index),
        Path::Map { parent, key } => place_of(parent).key(key),
        Path::Some { parent } | Path::NewtypeStruct { parent } | Path::NewtypeVariant { parent } => place_of(parent),
    }
}
