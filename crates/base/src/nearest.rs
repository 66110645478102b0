//! The word that may be meant where one is not known.

/// From this nearness of words on (Jaro-Winkler, 0..1) one may have been meant for the other.
const NEAR: f64 = 0.8;

/// The known word that is nearest to what was typed, whatever the case; none where all are far from it.
#[must_use]
pub fn nearest<'a>(typed: &str, known: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    let typed = typed.to_lowercase();
    let near = known.into_iter().map(|word| (strsim::jaro_winkler(&word.to_lowercase(), &typed), word));
    near.max_by(|a, b| a.0.total_cmp(&b.0)).filter(|(nearness, _)| *nearness > NEAR).map(|(_, word)| word)
}

/// The nearest known word, as the end of a message: `; "Tide" may be meant`, or nothing where nothing is near.
#[must_use]
pub fn meant<'a>(typed: &str, known: impl IntoIterator<Item = &'a str>) -> String {
    nearest(typed, known).map_or_else(String::new, |word| format!("; \"{word}\" may be meant"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_slip_of_the_finger_finds_its_word_and_another_word_does_not() {
        let looks = ["Tide", "Undertow", "Ember Night"];
        assert_eq!(nearest("tdie", looks), Some("Tide"));
        assert_eq!(nearest("UNDERTO", looks), Some("Undertow"));
        assert_eq!(meant("ember nihgt", looks), "; \"Ember Night\" may be meant");
        assert_eq!((nearest("xyz", looks), meant("xyz", looks)), (None, String::new()));
        assert_eq!(nearest("Tide", []), None);
    }
}
