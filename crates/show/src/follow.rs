//! Following a selection through changes of a list: the same entries stay chosen, and no others in their place.

use std::collections::HashMap;

/// For each place in a list of names where it is afterwards; none for what is gone. Where as many are left and names are
/// others, some have been renamed and all are where they were. Of several of one name the first stays the first.
#[must_use]
pub fn followed(before: &[&str], after: &[&str]) -> Vec<Option<usize>> {
    let now: HashMap<(&str, usize), usize> = numbered(after).zip(0..).collect();
    let places: Vec<Option<usize>> = numbered(before).map(|named| now.get(&named).copied()).collect();
    if before.len() == after.len() && places.contains(&None) {
        return (0..before.len()).map(Some).collect();
    }
    places
}

/// Names, each with how many of the same name stand before it.
fn numbered<'a>(names: &[&'a str]) -> impl Iterator<Item = (&'a str, usize)> {
    let mut counts: HashMap<&'a str, usize> = HashMap::new();
    names.iter().map(move |name| {
        let count = counts.entry(name).or_default();
        *count += 1;
        (*name, *count - 1)
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn list(names: &str) -> Vec<&str> {
        names.split_whitespace().collect()
    }

    /// The places of the second and the fourth of four afterwards.
    fn two(before: &str, after: &str) -> [Option<usize>; 2] {
        let places = followed(&list(before), &list(after));
        assert_eq!(places.len(), 4);
        [places[1], places[3]]
    }

    #[test]
    fn what_is_chosen_is_found_again_after_a_change() {
        for (after, places) in [
            ("a b c d", [Some(1), Some(3)]),
            ("b a c d", [Some(0), Some(3)]),
            ("a c d", [None, Some(2)]),
            ("new a b c d", [Some(2), Some(4)]),
            ("a other c d", [Some(1), Some(3)]),
            ("a c b d", [Some(2), Some(3)]),
            ("x y", [None, None]),
            ("", [None, None]),
        ] {
            assert_eq!(two("a b c d", after), places, "{after}");
        }
    }

    #[test]
    fn of_several_of_one_name_each_stays_the_one_it_was() {
        assert_eq!(two("par par par par", "new par par par par"), [Some(2), Some(4)]);
        assert_eq!(two("par par bar par", "par par par"), [Some(1), Some(2)]);
        assert_eq!(two("par par bar par", "front par bar par"), [Some(1), Some(3)]);
    }
}
