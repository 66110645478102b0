//! Text from outside: names in files, on the network and of devices. Where it is shown, letters that a terminal obeys, or that hide
//! or turn around what stands beside them, are written as what they are, such as `\u001b`.

use std::borrow::Cow;
use std::fmt::{self, Display, Write};

/// A text from outside, shown so that it can do nothing but be read. The escapes are those of JSON (RFC 8259, section 7), so that
/// text within a JSON document stays the same text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Outside<'t>(pub &'t str);

impl<'t> Outside<'t> {
    /// The same with lines and tabs left as they are, for what is a page and not a name.
    #[must_use]
    pub fn page(self) -> Cow<'t, str> {
        self.escaped(|letter| !matches!(letter, '\n' | '\t') && is_hidden(letter))
    }

    /// The text as it may be shown within a line.
    #[must_use]
    pub fn line(self) -> Cow<'t, str> {
        self.escaped(is_hidden)
    }

    fn escaped(self, hidden: impl Fn(char) -> bool) -> Cow<'t, str> {
        if !self.0.chars().any(&hidden) {
            return Cow::Borrowed(self.0);
        }
        let mut out = String::with_capacity(self.0.len() + 16);
        for letter in self.0.chars() {
            match hidden(letter) {
                // A string takes everything.
                true => drop(write_escape(letter, &mut out)),
                false => out.push(letter),
            }
        }
        Cow::Owned(out)
    }
}

impl Display for Outside<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(&self.line())
    }
}

fn write_escape(letter: char, out: &mut impl Write) -> fmt::Result {
    letter.encode_utf16(&mut [0; 2]).iter().try_for_each(|unit| write!(out, "\\u{unit:04x}"))
}

/// A text from outside as it may be shown within a line.
#[must_use]
pub fn shown(text: &str) -> String {
    Outside(text).line().into_owned()
}

/// True for letters that a terminal obeys (C0, delete and C1; ECMA-48), that turn the direction of what follows around (Unicode
/// Standard Annex 9), that break a line, or that take no room.
#[must_use]
pub fn is_hidden(letter: char) -> bool {
    letter.is_control()
        || matches!(letter,
            '\u{ad}' | '\u{61c}' | '\u{180e}'
            | '\u{200b}'..='\u{200f}'
            | '\u{2028}'..='\u{202e}'
            | '\u{2060}'..='\u{206f}'
            | '\u{feff}' | '\u{fff9}'..='\u{fffb}'
            | '\u{e0000}'..='\u{e007f}')
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn what_a_terminal_obeys_is_read_and_not_done() {
        for (text, line) in [
            ("Box 3 – Ü", "Box 3 – Ü"),
            ("\u{1b}]0;mine\u{7}", "\\u001b]0;mine\\u0007"),
            ("a\u{9b}2Jb", "a\\u009b2Jb"),
            ("evil\u{202e}gpj", "evil\\u202egpj"),
            ("two\u{200b}words\n", "two\\u200bwords\\u000a"),
            ("\u{e0041}", "\\udb40\\udc41"),
        ] {
            assert_eq!(shown(text), line);
        }
        assert_eq!(Outside("one\n\ttwo\u{1b}").page(), "one\n\ttwo\\u001b");
        assert_eq!(format!("{:<8}|", Outside("a\u{7}")), "a\\u0007 |");
    }

    proptest! {
        #[test]
        fn nothing_hidden_is_left_and_json_stays_the_same(text in any::<String>()) {
            prop_assert!(!shown(&text).chars().any(is_hidden));
            let json = serde_json::to_string(&text).expect("JSON");
            let read: String = serde_json::from_str(&Outside(&json).line()).expect("still JSON");
            prop_assert_eq!(read, text);
        }
    }
}
