//! Words in the room that there is for them. What is measured is columns (Unicode Standard Annex 11): ideographs take two.

use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};

/// The columns that words take.
pub(crate) fn columns(words: &str) -> usize {
    words.width()
}

/// As much of words as has room.
pub(crate) fn that_fit(words: &str, room: usize) -> &str {
    let mut taken = 0;
    let end = words.char_indices().find(|(_, letter)| {
        taken += letter.width().unwrap_or(0);
        taken > room
    });
    end.map_or(words, |(at, _)| &words[..at])
}

/// Words in so many columns; where there are more of them they end in `…`, so that nobody takes a part for the whole.
pub(crate) fn shortened(words: &str, room: usize) -> String {
    if columns(words) <= room {
        return words.to_owned();
    }
    format!("{}{}", that_fit(words, room.saturating_sub(1)), if room > 0 { "…" } else { "" })
}

/// Words in so many columns, cut between two of them.
pub(crate) fn cut_at_a_word(words: &str, room: usize) -> String {
    if columns(words) <= room {
        return words.to_owned();
    }
    let whole = that_fit(words, room);
    match whole.rsplit_once(' ').map(|(before, _)| before.trim_end_matches([' ', ',', ';', ':'])) {
        Some(before) if !before.is_empty() && columns(before) + 2 <= room => format!("{before} …"),
        Some(before) if before.contains(' ') => cut_at_a_word(before, room.saturating_sub(1)),
        Some(_) | None => shortened(words, room),
    }
}

/// A name in so many columns. Where these are few it keeps its letters, which tell more than that some are missing.
pub(crate) fn short_name(name: &str, room: usize) -> String {
    if room < 12 { that_fit(name, room).to_owned() } else { shortened(name, room) }
}

/// Words in lines of a width.
pub(crate) fn folded(words: &str, width: usize) -> Vec<String> {
    let mut lines = vec![String::new()];
    for word in words.split(' ') {
        let last = lines.len() - 1;
        let line = &mut lines[last];
        if !line.is_empty() && columns(line) + 1 + columns(word) > width {
            lines.push(word.to_owned());
        } else {
            if !line.is_empty() {
                line.push(' ');
            }
            line.push_str(word);
        }
    }
    lines
}

/// Lines of at most `width` characters, broken between words.
pub(crate) fn wrapped(text: &str, width: usize) -> Vec<String> {
    let mut lines = vec![String::new()];
    for word in text.split_whitespace() {
        let last = lines.last_mut().expect("there is one from the start");
        let gone = columns(last);
        if gone > 0 && gone + 1 + columns(word) > width {
            lines.push(word.to_owned());
        } else {
            if gone > 0 {
                last.push(' ');
            }
            last.push_str(word);
        }
    }
    lines
}

/// A number of beats in words.
pub(crate) fn beats(beats: f32) -> String {
    let number = format!("{beats:.2}");
    let number = number.trim_end_matches('0').trim_end_matches('.');
    if beats == 1.0 { "1 beat".to_owned() } else { format!("{number} beats") }
}

#[cfg(test)]
mod tests {
    use super::{cut_at_a_word, short_name, shortened};

    #[test]
    fn words_are_cut_between_two_of_them() {
        let words = "One colour everywhere; of several";
        for (room, cut) in
            [(33, words), (30, "One colour everywhere; of …"), (24, "One colour everywhere …"), (5, "One …")]
        {
            assert_eq!(cut_at_a_word(words, room), cut, "{room}");
        }
        for room in 0..33 {
            assert!(cut_at_a_word(words, room).chars().count() <= room, "{room}");
        }
    }

    #[test]
    fn what_is_cut_says_so_where_there_is_room_to() {
        for (words, room, short) in
            [("1-4,7", 5, "1-4,7"), ("1-4,7,9", 5, "1-4,…"), ("Größe", 4, "Grö…"), ("two", 1, "…"), ("two", 0, "")]
        {
            assert_eq!(shortened(words, room), short);
        }
        assert_eq!(short_name("Running Lights", 12), "Running Lig…");
        assert_eq!(short_name("Running Lights", 8), "Running ");
        assert_eq!(short_name("Tide", 4), "Tide");
        assert_eq!((shortened("船の灯り", 5), short_name("船の灯り", 5)), ("船の…".to_owned(), "船の".to_owned()));
    }
}
