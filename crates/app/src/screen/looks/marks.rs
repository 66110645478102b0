//! Looks and layers that are chosen besides the one that is pointed at stay chosen when they move, and only they do.

use std::collections::BTreeSet;

use splimo_core::show::Look;

/// Where the chosen looks are after a change. One that is gone is chosen no more; one that has only another name stays.
pub(super) fn followed(chosen: &BTreeSet<usize>, before: &[Look], after: &[Look]) -> BTreeSet<usize> {
    let place = |name: &str| after.iter().position(|look| look.name == name);
    let follow = |&index: &usize| {
        let name = &before.get(index)?.name;
        let renamed = || {
            let same_place = after.get(index).filter(|_| before.len() == after.len())?;
            before.iter().all(|look| look.name != same_place.name).then_some(index)
        };
        place(name).or_else(renamed)
    };
    chosen.iter().filter_map(follow).collect()
}

/// Where the chosen layers are after two of them have changed places.
pub(super) fn swapped(chosen: &BTreeSet<usize>, one: usize, other: usize) -> BTreeSet<usize> {
    let place = |&index: &usize| match index {
        _ if index == one => other,
        _ if index == other => one,
        _ => index,
    };
    chosen.iter().map(place).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn looks(names: &str) -> Vec<Look> {
        names.split(' ').map(|name| Look::new(name, Vec::new())).collect()
    }

    fn set(indices: &[usize]) -> BTreeSet<usize> {
        indices.iter().copied().collect()
    }

    #[test]
    fn chosen_looks_are_the_same_ones_after_a_change() {
        let before = looks("a b c d");
        for (after, left) in [
            ("a b c d", &[1, 3][..]),
            ("b a c d", &[0, 3]),
            ("a c d", &[2]),
            ("new a b c d", &[2, 4]),
            ("a other c d", &[1, 3]),
            ("a c b d", &[2, 3]),
            ("x y", &[]),
        ] {
            assert_eq!(followed(&set(&[1, 3]), &before, &looks(after)), set(left), "{after}");
        }
        assert_eq!(followed(&set(&[9]), &before, &before), set(&[]));
    }

    #[test]
    fn layers_that_change_places_take_it_along_that_they_are_chosen() {
        assert_eq!(swapped(&set(&[0, 2]), 1, 2), set(&[0, 1]));
        assert_eq!(swapped(&set(&[1, 2]), 1, 2), set(&[1, 2]));
        assert_eq!(swapped(&set(&[0]), 1, 2), set(&[0]));
    }
}
