//! The patch: a strip and a table for each universe, with what it is called in the protocols and where it
//! goes.

use splimo_document::patch::{Occupancy, Owner};
use splimo_show::{SLOTS, Show};

use crate::metrics;
use crate::page::{Anchor, Page, number};

const TOP: f32 = 22.0;
const FOOT: f32 = 14.0;
const COLUMNS: usize = 4;
const LINE: f32 = 3.8;
const LEGEND: &str =
    "strips: 512 channels from left to right; white is free, shades are fixtures   channels are counted from 1";

/// Pages with every universe that is in use.
#[must_use]
pub fn patch(show: &Show) -> Vec<Page> {
    let occupancy = Occupancy::of(show);
    let mut pages = vec![Page::a4_lying()];
    let mut y = TOP;
    for universe in occupancy.universes() {
        let owners = occupancy.owners(universe);
        // A universe of very many fixtures goes on on the next page.
        let per_page = ((Page::a4_lying().height - TOP - FOOT - 16.0) / LINE) as usize * COLUMNS;
        for (part, some) in owners.chunks(per_page).enumerate() {
            let height = 16.0 + some.len().div_ceil(COLUMNS) as f32 * LINE + 4.0;
            let page = Page::a4_lying();
            if y + height > page.height - FOOT && y > TOP {
                pages.push(page);
                y = TOP;
            }
            if let Some(page) = pages.last_mut() {
                block(show, &occupancy, universe, part, some, y, page);
            }
            y += height;
        }
    }
    if occupancy.universes().next().is_none() {
        pages[0].text([Page::MARGIN, TOP + 6.0], 4.0, Anchor::Start, "No fixture is patched yet.");
    }
    number(&mut pages, &format!("{}: patch", show.name), LEGEND);
    pages
}

fn block(show: &Show, occupancy: &Occupancy, universe: u32, part: usize, owners: &[Owner], y: f32, page: &mut Page) {
    let more = if part > 0 { " (continued)" } else { "" };
    page.bold([Page::MARGIN, y + 4.0], 3.8, Anchor::Start, format!("universe {universe}{more}"));
    let used = occupancy.used(universe);
    let words = format!("{used} of {SLOTS} channels   {}", names(show, universe));
    page.grey([Page::MARGIN + 45.0, y + 4.0], 2.8, Anchor::Start, words);
    let (left, width) = (Page::MARGIN, page.room());
    let at = |slot: u16| left + f32::from(slot) / f32::from(SLOTS) * width;
    for (place, owner) in occupancy.owners(universe).iter().enumerate() {
        let shade = [0.72, 0.88][place % 2];
        let (from, to) = (at(owner.slot), at(owner.end()));
        page.rect([from, y + 6.0, to - from, 4.5], Some(shade), 0.1);
        let name = &show.fixtures[owner.fixture].name;
        if metrics::width(name, 2.2) < to - from - 0.6 {
            page.text([(from + to) / 2.0, y + 9.1], 2.2, Anchor::Middle, name);
        }
    }
    page.rect([left, y + 6.0, width, 4.5], None, 0.2);
    let rows = owners.len().div_ceil(COLUMNS);
    for (place, owner) in owners.iter().enumerate() {
        let (column, row) = (place / rows, place % rows);
        let x = left + column as f32 * width / COLUMNS as f32;
        let line = y + 15.0 + row as f32 * LINE;
        let fixture = &show.fixtures[owner.fixture];
        page.text([x + 14.0, line], 2.6, Anchor::End, format!("{}-{}", owner.slot + 1, owner.end()));
        page.text([x + 16.0, line], 2.6, Anchor::Start, metrics::cut(&fixture.name, 2.6, 30.0));
        let what = format!("{} {}", fixture.profile, fixture.shape.name());
        page.grey([x + 47.0, line], 2.2, Anchor::Start, metrics::cut(&what, 2.2, 20.0));
    }
}

/// The names of a universe on its way, and where it goes.
fn names(show: &Show, universe: u32) -> String {
    let carried: Vec<String> = show
        .routes
        .iter()
        .filter(|route| route.enabled && route.universes.numbers().contains(&universe))
        .map(|route| {
            let number = route.number_of(universe);
            let name = number.map(|number| route.transport.universe_in_full(number)).unwrap_or_default();
            format!("{name} to {}", route.to)
        })
        .collect();
    if carried.is_empty() { "no route carries it".to_owned() } else { carried.join("   ") }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Item;
    use splimo_document::file;
    use splimo_show::{Fixture, Shape};

    fn words(pages: &[Page]) -> String {
        let all = pages.iter().flat_map(|page| &page.items);
        let words = all.filter_map(|item| match item {
            Item::Text { words, .. } => Some(words.as_str()),
            _ => None,
        });
        words.collect::<Vec<_>>().join("\n")
    }

    #[test]
    fn every_universe_says_who_takes_what_and_where_it_goes() {
        let show = file::read(include_str!("../../../shows/lantern-quay.splimo")).expect("a good show").show;
        let words = words(&patch(&show));
        for wanted in [
            "universe 1",
            "universe 17",
            "Gangway 8",
            "433-510",
            "Art-Net 0:1:4 (port-address 20) to 127.0.0.4",
            "sACN 9",
        ] {
            assert!(words.contains(wanted), "{wanted} is missing");
        }
    }

    #[test]
    fn many_fixtures_take_many_pages_and_none_is_lost() {
        let mut show = Show::empty("Many");
        show.fixtures = (0..700)
            .map(|i| {
                let light = Fixture::new(&format!("Light {i}!"), "dimmer", Shape::Line { cells: 1 });
                light.patched(1 + i / 512, (i % 512) as u16 + 1)
            })
            .collect();
        let pages = patch(&show);
        assert!(pages.len() > 3);
        let words = words(&pages);
        assert!((0..700).all(|i| words.contains(&format!("Light {i}!"))) && words.contains("no route carries it"));
        let low = |item: &Item| matches!(item, Item::Text { at, .. } if at[1] > 206.0);
        assert!(!pages.iter().flat_map(|p| &p.items).any(low));
        assert!(self::words(&patch(&Show::empty("None"))).contains("No fixture is patched"));
    }
}
