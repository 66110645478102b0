//! Widths of words in the font of drawings.

use crate::fonts;

/// The width of a text of some size, in the unit of the size.
pub(crate) fn width(text: &str, size: f32) -> f32 {
    width_of(text, size, false)
}

/// The width of a text in light or bold letters.
pub(crate) fn width_of(text: &str, size: f32, bold: bool) -> f32 {
    text.chars().map(|letter| fonts::advance(letter, bold)).sum::<f32>() * size
}

/// As much of a text as fits into a width.
pub(crate) fn cut(text: &str, size: f32, room: f32) -> String {
    cut_to(text, |text| width(text, size), room)
}

/// As much of a bold text as fits into a width.
pub(crate) fn cut_bold(text: &str, size: f32, room: f32) -> String {
    cut_to(text, |text| width_of(text, size, true), room)
}

fn cut_to(text: &str, width: impl Fn(&str) -> f32, room: f32) -> String {
    if width(text) <= room {
        return text.to_owned();
    }
    let mut cut = String::new();
    for letter in text.chars() {
        cut.push(letter);
        if width(&cut) + width("...") > room {
            cut.pop();
            break;
        }
    }
    cut + "..."
}

/// A text in lines of a width, broken between words.
pub(crate) fn folded(text: &str, size: f32, room: f32) -> Vec<String> {
    let mut lines = vec![String::new()];
    for word in text.split(' ') {
        let last = lines.last_mut().filter(|line| line.is_empty() || width(&format!("{line} {word}"), size) <= room);
        match last {
            Some(line) if line.is_empty() => line.push_str(word),
            Some(line) => *line = format!("{line} {word}"),
            None => lines.push(word.to_owned()),
        }
    }
    lines
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn widths_are_those_of_the_font() {
        assert!((width("Sail 1", 10.0) - 23.1).abs() < 0.6, "{}", width("Sail 1", 10.0));
        assert!(width_of("Sail 1", 10.0, true) > width("Sail 1", 10.0));
        assert_eq!(cut("Sail", 10.0, 100.0), "Sail");
        let short = cut("A very long name indeed", 10.0, 50.0);
        assert!(short.ends_with("...") && width(&short, 10.0) <= 50.0, "{short}");
    }
}
