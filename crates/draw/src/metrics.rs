//! Widths of letters in Helvetica, as PDF 1.7 has it without embedding (ISO 32000-1, 9.6.2.2; Adobe's font metrics for the
//! 14 standard fonts).

/// Widths of the characters from space to tilde, in thousandths of the size.
const WIDTHS: [u16; 95] = [
    278, 278, 355, 556, 556, 889, 667, 191, 333, 333, 389, 584, 278, 333, 278, 278, 556, 556, 556, 556, 556, 556, 556,
    556, 556, 556, 278, 278, 584, 584, 584, 556, 1015, 667, 667, 722, 722, 667, 611, 778, 722, 278, 500, 667, 556, 833,
    722, 778, 667, 778, 722, 667, 611, 722, 667, 944, 667, 667, 611, 278, 278, 278, 469, 556, 333, 556, 556, 500, 556,
    556, 278, 556, 556, 222, 222, 500, 222, 833, 556, 556, 556, 556, 333, 500, 278, 556, 500, 722, 500, 500, 500, 334,
    260, 334, 584,
];
/// The width of any other letter.
const OTHER: u16 = 556;

/// The width of a text of some size, in the unit of the size.
pub(crate) fn width(text: &str, size: f32) -> f32 {
    let of = |letter: char| match letter {
        ' '..='~' => WIDTHS[letter as usize - 32],
        _ => OTHER,
    };
    text.chars().map(|letter| f32::from(of(letter))).sum::<f32>() * size / 1000.0
}

/// As much of a text as fits into a width.
pub(crate) fn cut(text: &str, size: f32, room: f32) -> String {
    if width(text, size) <= room {
        return text.to_owned();
    }
    let mut cut = String::new();
    for letter in text.chars() {
        cut.push(letter);
        if width(&cut, size) + width("...", size) > room {
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
        assert!((width("Sail 1", 10.0) - 25.01).abs() < 0.01, "{}", width("Sail 1", 10.0));
        assert_eq!(cut("Sail", 10.0, 100.0), "Sail");
        let short = cut("A very long name indeed", 10.0, 50.0);
        assert!(short.ends_with("...") && width(&short, 10.0) <= 50.0, "{short}");
    }
}
