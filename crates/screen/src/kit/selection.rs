//! The selection of a list, by place.

use std::collections::BTreeSet;

/// The chosen places after two of them have changed.
pub(crate) fn swapped(chosen: &BTreeSet<usize>, one: usize, other: usize) -> BTreeSet<usize> {
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

    #[test]
    fn layers_that_change_places_take_it_along_that_they_are_chosen() {
        assert_eq!(swapped(&[0, 2].into(), 1, 2), [0, 1].into());
        assert_eq!(swapped(&[1, 2].into(), 1, 2), [1, 2].into());
        assert_eq!(swapped(&[0].into(), 1, 2), [0].into());
    }
}
