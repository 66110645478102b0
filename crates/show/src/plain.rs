//! Faults of a text in plain words: what the reader of TOML and of its values says, for people who write shows.

use splimo_base::nearest::meant;

/// The words for the names of types that the reader has.
const TYPES: [(&str, &str); 17] = [
    ("f32", "a number"),
    ("f64", "a number"),
    ("u8", "a whole number from 0 to 255"),
    ("u16", "a whole number from 0 to 65535"),
    ("u32", "a whole number from 0"),
    ("u64", "a whole number from 0"),
    ("usize", "a whole number from 0"),
    ("i16", "a whole number"),
    ("i32", "a whole number"),
    ("i64", "a whole number"),
    ("a boolean", "true or false"),
    ("a string", "a text in quotation marks"),
    ("a sequence", "a list in brackets"),
    ("a map", "a table such as { name = value }"),
    ("a table", "a table such as { name = value }"),
    ("borrowed string", "a text in quotation marks"),
    ("an array", "a list in brackets"),
];

/// The beginnings of what the reader of TOML says, and what they mean.
const SYNTAX: [(&str, &str); 18] = [
    ("wanted string or table", "something else stands where a text belongs; write a text in quotation marks"),
    ("unquoted keys cannot be empty", "there is no name before the equals sign; write name = value"),
    ("invalid control", "there is a sign that cannot be seen; take it out, or write it as \\uXXXX in a text"),
    (
        "missing escaped value",
        "a \\ stands before a sign that it cannot stand before; write \\\\ for the sign itself, or put the text between ' and '",
    ),
    ("invalid escape", "a \\ stands before a sign that it cannot stand before; write \\\\ for the sign itself"),
    ("invalid basic string", "a text has no end; close it with a quotation mark"),
    ("invalid literal string", "a text has no end; close it with a '"),
    ("unexpected key or value, expected newline", "something stands behind the value; put it on a line of its own"),
    ("key with no value", "there is no value; write name = value"),
    ("string values must be quoted", "this is no number, true or false; put a text in quotation marks"),
    ("unclosed array table", "the brackets are not closed; write [[name]]"),
    ("unclosed table", "the brackets are not closed; write [name]"),
    ("unclosed inline table", "the braces are not closed; write } behind the last value"),
    ("unclosed array", "the brackets are not closed; write ] behind the last value"),
    ("duplicate key", "this name stands here twice; take one of them out"),
    ("missing value", "there is no value; write name = value"),
    ("invalid table header", "this is no header of a table; write [name] or [[name]]"),
    ("extra comma", "there is a comma too many; take it out"),
];

/// A fault in plain words, and its mend where one can be said.
pub(super) fn plain(message: &str) -> (String, Option<String>) {
    let message = message.trim().replace('\n', ", ");
    if let Some((_, words)) = SYNTAX.iter().find(|(begins, _)| message.starts_with(begins)) {
        let (what, mend) = words.split_once("; ").unwrap_or((words, ""));
        return (what.to_owned(), Some(mend.to_owned()));
    }
    if message.contains(" in array, expected") {
        return ("a list has no end, or no comma between its values".to_owned(), Some("close it with ]".to_owned()));
    }
    if let Some((found, wanted)) =
        message.strip_prefix("invalid type: ").and_then(|rest| rest.split_once(", expected "))
    {
        let what = format!("{} stands where {} belongs", found_words(found), type_words(wanted));
        return (what, Some(format!("write {}", type_words(wanted))));
    }
    if let Some((found, wanted)) =
        message.strip_prefix("invalid value: ").and_then(|rest| rest.split_once(", expected "))
    {
        let what = format!("{} is out of range", found_words(found));
        return (what, Some(format!("write {}", type_words(wanted))));
    }
    if let Some(name) = message.strip_prefix("missing field `").and_then(|rest| rest.split('`').next()) {
        return (format!("{name} is missing"), Some(format!("write {name} = and its value")));
    }
    if let Some((found, known)) =
        message.strip_prefix("unknown variant `").and_then(|rest| rest.split_once("`, expected "))
    {
        let known = known.trim_start_matches("one of ").replace('`', "\"");
        let near = meant(found, known.split('"').skip(1).step_by(2));
        return (format!("there is no \"{found}\" here{near}"), Some(format!("write {known}")));
    }
    // Whatever else the reader expected is told in its own words for it.
    match message.split_once(", expected ") {
        Some((what, _)) => (what.replace('`', "\"").replace("unexpected", "misplaced").replace("invalid", "odd"), None),
        None => (message, None),
    }
}

fn type_words(name: &str) -> &str {
    TYPES.iter().find(|(known, _)| name.starts_with(known)).map_or(name, |(_, words)| words)
}

/// `string "fast"` as `"fast"`, `integer `300`` as `300`.
fn found_words(found: &str) -> String {
    let words = found.split_once(' ').map_or(found, |(kind, value)| match kind {
        "string" | "integer" | "boolean" => value,
        "floating" => value.trim_start_matches("point "),
        _ => found,
    });
    match words {
        "sequence" => "a list".to_owned(),
        "map" => "a table".to_owned(),
        words => words.replace('`', ""),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_the_reader_says_becomes_plain() {
        for (said, what, mend) in [
            ("invalid type: string \"fast\", expected f32", "\"fast\" stands where a number belongs", "write a number"),
            ("invalid type: sequence, expected a string", "a list stands where a text", "write a text in quotation"),
            ("invalid value: integer `300`, expected u8", "300 is out of range", "from 0 to 255"),
            ("missing field `name`", "name is missing", "write name ="),
            ("unknown variant `bat`, expected `bar` or `beat`", "no \"bat\" here", "write \"bar\" or \"beat\""),
            ("unknown variant `x`, expected one of `a`, `b`", "no \"x\" here", "write \"a\", \"b\""),
            ("invalid basic string, expected `\"`", "a text has no end", "quotation mark"),
            ("unexpected `=` in array, expected value, `]`", "a list has no end", "close it"),
        ] {
            let (words, mended) = plain(said);
            assert!(words.contains(what) && mended.is_some_and(|m| m.contains(mend)), "{said}: {words}");
        }
        assert_eq!(plain("its name is odd"), ("its name is odd".to_owned(), None));
    }
}
