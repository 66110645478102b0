//! The lights that something may touch, as ranges of LEDs tile by tile.

use std::collections::HashMap;
use std::ops::Range;

use splimo_light::rig::{Rig, TILE};
use splimo_show::{Group, Show};

/// The lights that a tier or a group has.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub(super) struct Reach {
    /// Ranges within their tiles, in the order of the rig; none crosses a tile.
    ranges: Vec<Range<usize>>,
    /// The place of the first range of each tile, and behind them the number of all.
    starts: Vec<usize>,
}

impl Reach {
    /// The lights that some names of groups and fixtures mean.
    pub(super) fn of(names: &[String], show: &Show, rig: &Rig) -> Self {
        Self::of_fixtures(show.fixtures_of(names).into_iter(), rig)
    }

    /// The lights of each group of a show.
    pub(super) fn of_groups(show: &Show, rig: &Rig) -> Vec<Self> {
        if show.groups.is_empty() {
            return Vec::new();
        }
        let places: HashMap<&str, usize> = show.fixtures.iter().map(|one| one.name.as_str()).zip(0..).collect();
        let members = |group: &Group| {
            let places = group.members.iter().filter_map(|name| places.get(name.as_str()).copied());
            Self::of_fixtures(places, rig)
        };
        show.groups.iter().map(members).collect()
    }

    fn of_fixtures(fixtures: impl Iterator<Item = usize>, rig: &Rig) -> Self {
        let mut leds: Vec<Range<usize>> =
            fixtures.filter_map(|fixture| Some(rig.fixtures.get(fixture)?.leds())).collect();
        leds.sort_unstable_by_key(|range| range.start);
        let mut reach = Self { ranges: Vec::new(), starts: vec![0] };
        for mut range in leds {
            while range.start < range.end {
                let tile = range.start / TILE;
                while reach.starts.len() <= tile {
                    reach.starts.push(reach.ranges.len());
                }
                let (start, end) = (tile * TILE, range.end.min((tile + 1) * TILE));
                reach.add(range.start - start..end - start);
                range.start = end;
            }
        }
        while reach.starts.len() <= rig.tiles() {
            reach.starts.push(reach.ranges.len());
        }
        reach
    }

    fn add(&mut self, range: Range<usize>) {
        let first = self.starts.last().copied().unwrap_or(0);
        match self.ranges[first..].last_mut() {
            Some(last) if last.end >= range.start => last.end = last.end.max(range.end),
            _ => self.ranges.push(range),
        }
    }

    /// The ranges of a tile, within it.
    pub(super) fn on(&self, tile: usize) -> impl Iterator<Item = Range<usize>> {
        let range = |tile: usize| self.starts.get(tile).copied().unwrap_or(0);
        self.ranges[range(tile)..range(tile + 1)].iter().cloned()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::{Fixture, Shape};

    #[test]
    fn the_lights_of_names_are_found_tile_by_tile() {
        let mut show = Show::empty("Reach");
        let bar = |name: &str, cells: u32| Fixture::new(name, "rgb", Shape::Line { cells });
        show.fixtures = vec![bar("A", 1000), bar("B", 100), bar("C", 100), bar("D", 10)];
        show.groups = vec![Group { name: "Two".into(), members: vec!["C".into(), "B".into()], colour: None }];
        let rig = Rig::compile(&show);
        let reach = Reach::of(&["Two".into(), "D".into(), "B".into()], &show, &rig);
        let on = |tile: usize| reach.on(tile).collect::<Vec<_>>();
        assert_eq!(on(0), vec![1000..1024]);
        assert_eq!(on(1), vec![0..186]);
        assert_eq!(Reach::of(&["A".into()], &show, &rig).on(0).collect::<Vec<_>>(), vec![0..1000]);
    }
}
