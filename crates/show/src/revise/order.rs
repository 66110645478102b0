//! The order of the tables of a document. The parser numbers them; between two of them room is made for new ones.

use toml_edit::{Item, Table};

/// A place in the order of tables.
pub(super) type Place = isize;

/// Room between two tables that stood next to each other, in places: more than any show has tables.
const ROOM: Place = 1 << 24;

/// The two ends of the order.
pub(super) struct Order;

impl Order {
    /// Before every table.
    pub(super) const START: Place = 0;
}

/// Moves the tables of a document apart.
pub(super) fn make_room(root: &mut Table) {
    each(root, &mut |table| table.set_position(table.position().map(|place| (place + 1) * ROOM)));
}

/// The place just before that of a table, behind all that stood before it.
pub(super) fn before(place: Place) -> Place {
    place - ROOM / 2
}

/// Calls `what` for a table and every table in it, in the order of the keys.
pub(super) fn each(table: &mut Table, what: &mut impl FnMut(&mut Table)) {
    what(table);
    for (_, item) in table.iter_mut() {
        match item {
            Item::Table(table) => each(table, what),
            Item::ArrayOfTables(list) => list.iter_mut().for_each(|table| each(table, what)),
            _ => {}
        }
    }
}

/// The place of the last table of an item, if it has one.
pub(super) fn last_of(item: &Item) -> Option<Place> {
    match item {
        Item::Table(table) => last(table),
        Item::ArrayOfTables(list) => list.iter().filter_map(last).max(),
        _ => None,
    }
}

/// The place of the last table in a table, itself included.
pub(super) fn last(table: &Table) -> Option<Place> {
    table.iter().filter_map(|(_, item)| last_of(item)).chain(table.position()).max()
}

/// Gives a table that is new here, and all in it, the places behind `place`; the last of them.
pub(super) fn follow(table: &mut Table, place: Place) -> Place {
    let mut at = place;
    each(table, &mut |table| {
        at += 1;
        table.set_position(Some(at));
    });
    at
}

/// Moves a table with all in it, which keep their order, to a place; the last of them.
pub(super) fn move_to(table: &mut Table, place: Place) -> Place {
    let mut places = Vec::new();
    each(table, &mut |table| places.extend(table.position()));
    places.sort_unstable();
    let rank = |from: Place| place + places.binary_search(&from).unwrap_or(0) as Place;
    each(table, &mut |table| table.set_position(table.position().map(rank)));
    place + places.len().saturating_sub(1) as Place
}
