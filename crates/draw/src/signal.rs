//! The signal: what leads the show, what Splimo makes of it, which route carries which universes, and to which box.

use splimo_document::patch::Occupancy;
use splimo_show::{Destination, Pacing, Route, Show};

use crate::metrics;
use crate::page::{Anchor, Page, number};

const TOP: f32 = 24.0;
const FOOT: f32 = 14.0;
/// A route takes so much of the height, and a little more for each destination beyond the second.
const ROUTE: f32 = 27.0;
const MORE: f32 = 9.0;
/// Left edges and widths of the columns: sources, Splimo, routes, boxes.
const SOURCES: [f32; 2] = [10.0, 42.0];
const SPLIMO: [f32; 2] = [66.0, 44.0];
const ROUTES: [f32; 2] = [128.0, 74.0];
const BOXES: [f32; 2] = [222.0, 65.0];
const LEGEND: &str =
    "universes are those of the show; behind them what they are called on the way   grey routes are off";

/// Pages with every route of a show.
#[must_use]
pub fn signal(show: &Show) -> Vec<Page> {
    let mut pages = Vec::new();
    let room = Page::a4_lying().height - TOP - FOOT;
    let mut on_page: Vec<&Route> = Vec::new();
    let mut used = 0.0;
    for route in &show.routes {
        if used + height(route) > room && !on_page.is_empty() {
            pages.push(page(show, &on_page));
            (on_page, used) = (Vec::new(), 0.0);
        }
        on_page.push(route);
        used += height(route);
    }
    if !on_page.is_empty() || pages.is_empty() {
        pages.push(page(show, &on_page));
    }
    number(&mut pages, &format!("{}: signal", show.name), LEGEND);
    pages
}

fn height(route: &Route) -> f32 {
    ROUTE + route.to.0.len().saturating_sub(2) as f32 * MORE
}

fn page(show: &Show, routes: &[&Route]) -> Page {
    let mut page = Page::a4_lying();
    let middle = TOP + (page.height - TOP - FOOT) / 2.0;
    sources(show, middle, &mut page);
    splimo(show, middle, &mut page);
    if routes.is_empty() {
        page.text([ROUTES[0], middle], 3.6, Anchor::Start, "No route leads anywhere yet.");
    }
    let total: f32 = routes.iter().map(|route| height(route)).sum();
    let mut y = (middle - total / 2.0).max(TOP);
    let mut middles = Vec::new();
    let occupancy = Occupancy::of(show);
    for route in routes {
        let behind = behind(show, route, &occupancy);
        middles.push(draw_route(route, behind, [SPLIMO[0] + SPLIMO[1], middle], y, &mut page));
        y += height(route);
    }
    boxes(routes, &middles, middle, &mut page);
    page
}

/// Every destination once, and the way to it from each route that has it.
fn boxes(routes: &[&Route], middles: &[f32], middle: f32, page: &mut Page) {
    let mut all: Vec<&Destination> = Vec::new();
    for to in routes.iter().flat_map(|route| &route.to.0) {
        if !all.contains(&to) {
            all.push(to);
        }
    }
    let step = ((page.height - TOP - FOOT) / all.len().max(1) as f32).min(20.0);
    let tall = (step - 1.5).min(13.0);
    let first = middle - step * all.len() as f32 / 2.0;
    for (index, to) in all.into_iter().enumerate() {
        let top = first + step * index as f32 + (step - tall) / 2.0;
        let wanted = |route: &&Route| route.to.0.contains(to);
        let live = routes.iter().any(|route| wanted(route) && route.enabled);
        page.rect([BOXES[0], top, BOXES[1], tall], Some(if live { 1.0 } else { 0.85 }), 0.3);
        let words = destination(to);
        let line = top + tall / 2.0 + if tall > 9.0 { -0.4 } else { 1.0 };
        page.bold([BOXES[0] + 2.0, line], 3.0, Anchor::Start, metrics::cut_bold(&words, 3.0, BOXES[1] - 4.0));
        if tall > 9.0 {
            page.grey([BOXES[0] + 2.0, line + 4.0], 2.5, Anchor::Start, kind(to));
        }
        for (route, from) in routes.iter().zip(middles).filter(|(route, _)| wanted(route)) {
            let width = if route.enabled { 0.35 } else { 0.1 };
            page.arrow([ROUTES[0] + ROUTES[1], *from, BOXES[0], top + tall / 2.0], width);
        }
    }
}

/// A box with a bold first line and others below it.
fn framed(page: &mut Page, [left, top, width, height]: [f32; 4], fill: f32, title: &str, lines: &[String]) {
    page.rect([left, top, width, height], Some(fill), 0.3);
    page.bold([left + 2.0, top + 5.0], 3.4, Anchor::Start, metrics::cut_bold(title, 3.4, width - 4.0));
    for (line, words) in lines.iter().enumerate() {
        let y = top + 9.4 + line as f32 * 3.9;
        page.text([left + 2.0, y], 2.7, Anchor::Start, metrics::cut(words, 2.7, width - 4.0));
    }
}

fn sources(show: &Show, middle: f32, page: &mut Page) {
    let landing = format!("looks land on the {}", show.settings.lands.name());
    let music = ["tempo, level, bands, onsets".to_owned()];
    let person = ["keys, mouse, taps".to_owned(), landing];
    let mut all: Vec<(String, Vec<String>, bool)> =
        vec![("music".to_owned(), music.to_vec(), true), ("operator".to_owned(), person.to_vec(), true)];
    for input in &show.inputs {
        let on = if input.on { "" } else { ", off" };
        let bound = show.bindings.iter().filter(|binding| binding.source == input.name).count();
        let what = vec![format!("{} {}{on}", input.kind.name(), input.address), counted(bound, "binding")];
        all.push((input.name.clone(), what, input.on));
    }
    let step = ((page.height - TOP - FOOT) / all.len() as f32).min(26.0);
    let tall = (step - 3.0).min(18.0);
    let first = middle - step * all.len() as f32 / 2.0;
    for (index, (name, lines, live)) in all.iter().enumerate() {
        let top = first + step * index as f32 + (step - tall) / 2.0;
        let lines = &lines[..lines.len().min(((tall - 6.0) / 3.9) as usize)];
        framed(page, [SOURCES[0], top, SOURCES[1], tall], if *live { 0.96 } else { 0.85 }, name, lines);
        let width = if *live { 0.35 } else { 0.1 };
        let at = top + tall / 2.0;
        page.arrow([SOURCES[0] + SOURCES[1], at, SPLIMO[0], middle + (at - middle) * 0.15], width);
    }
}

/// A number of things: `1 look`, `2 looks`.
fn counted(number: usize, thing: &str) -> String {
    format!("{number} {thing}{}", if number == 1 { "" } else { "s" })
}

/// The fixtures that a route carries, in a few words.
fn behind(show: &Show, route: &Route, occupancy: &Occupancy) -> String {
    let mut names: Vec<&str> = Vec::new();
    let numbers = route.universes.numbers();
    for universe in occupancy.universes().filter(|universe| numbers.contains(universe)) {
        for owner in occupancy.owners(universe) {
            let name = show.fixtures.get(owner.fixture).map_or("", |fixture| fixture.name.as_str());
            if !names.contains(&name) {
                names.push(name);
            }
        }
    }
    match names.as_slice() {
        [] => "no fixture is patched there".to_owned(),
        [one] => (*one).to_owned(),
        [first, .., last] => format!("{}: {first} to {last}", counted(names.len(), "fixture")),
    }
}

fn splimo(show: &Show, middle: f32, page: &mut Page) {
    let occupancy = Occupancy::of(show);
    let universes = occupancy.universes().count();
    let cells: u64 = show.fixtures.iter().map(|f| f.shape.cells()).sum();
    let mut lines = vec![
        counted(show.looks.len(), "look"),
        format!("{}, {}", counted(show.fixtures.len(), "fixture"), counted(cells as usize, "cell")),
        counted(universes, "universe"),
        format!("{} frames a second", show.settings.rate),
    ];
    lines.extend(show.supplies.iter().take(4).map(|supply| match supply.limit {
        Some(limit) => format!("{}: {limit} A at most", supply.name),
        None => format!("{}: not limited", supply.name),
    }));
    let tall = 14.0 + lines.len() as f32 * 3.9;
    framed(page, [SPLIMO[0], middle - tall / 2.0, SPLIMO[1], tall], 0.9, "Splimo", &lines);
}

/// Draws a route and the way to it; where its middle is.
fn draw_route(route: &Route, behind: String, [from_x, from_y]: [f32; 2], y: f32, page: &mut Page) -> f32 {
    let tall = height(route) - 4.0;
    let fill = if route.enabled { 1.0 } else { 0.85 };
    let middle = y + tall / 2.0;
    framed(page, [ROUTES[0], y, ROUTES[1], tall], fill, &route.name, &about(route, behind));
    let width = if route.enabled { 0.35 } else { 0.1 };
    page.arrow([from_x, from_y, ROUTES[0], middle], width);
    middle
}

/// The description of a route, in a few lines.
fn about(route: &Route, behind: String) -> Vec<String> {
    let mut options = Vec::new();
    if !route.enabled {
        options.push("off".to_owned());
    }
    if let Some(rate) = route.rate {
        options.push(format!("{rate} fps"));
    }
    if route.limit < 100.0 {
        options.push(format!("{} % at most", route.limit));
    }
    if route.white.gains() != [1.0; 3] {
        options.push(format!("white {}", route.white));
    }
    if route.sync() {
        options.push("synchronised".to_owned());
    }
    if route.pacing != Pacing::Together {
        options.push(route.pacing.name().to_owned());
    }
    if let Some(interface) = route.interface() {
        options.push(format!("through {interface}"));
    }
    options.extend(route.transport.options());
    let word = if route.universes.count() == 1 { "universe" } else { "universes" };
    vec![format!("{word} {}  =  {}", route.universes, numbers(route)), behind, options.join(", ")]
}

fn numbers(route: &Route) -> String {
    route.transport.universes_in_full(route.first(), route.last())
}

fn destination(to: &Destination) -> String {
    match to {
        Destination::Nodes => "whatever nodes ask for it".to_owned(),
        Destination::OnlyNodes(_) => to.to_string(),
        Destination::Broadcast => "everybody on the network".to_owned(),
        Destination::Multicast => "multicast groups".to_owned(),
        Destination::MulticastV6 => "multicast groups, IPv6".to_owned(),
        other => other.to_string(),
    }
}

fn kind(to: &Destination) -> &'static str {
    match to {
        Destination::Unicast(_) => "one address",
        Destination::Host(_) => "a machine by its name",
        Destination::Multicast | Destination::MulticastV6 => "one group for each universe",
        Destination::Broadcast => "the broadcast address",
        Destination::Nodes => "found by polling",
        Destination::OnlyNodes(_) => "these nodes and no others",
        Destination::Port(_) => "a serial port",
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Item;
    use splimo_show::UniverseRange;

    fn show(count: u32) -> Show {
        let mut show = Show::empty("Signal");
        show.routes = (1..=count)
            .map(|n| {
                let range = UniverseRange { first: n, last: n };
                let to = format!("10.0.0.{n}, nodes, broadcast").parse().expect("destinations");
                Route {
                    limit: 80.0,
                    ..Route::new(&format!("Route {n}"), range, splimo_show::TransportKind::ArtNet, n as u16 - 1, to)
                }
            })
            .collect();
        show
    }

    fn words(pages: &[Page]) -> Vec<String> {
        let items = pages.iter().flat_map(|page| &page.items);
        items
            .filter_map(|item| match item {
                Item::Text { words, .. } => Some(words.clone()),
                _ => None,
            })
            .collect()
    }

    #[test]
    fn every_route_and_every_box_is_there_once() {
        let pages = signal(&show(12));
        assert!(pages.len() > 1);
        let words = words(&pages);
        for n in 1..=12 {
            for wanted in [format!("Route {n}"), format!("10.0.0.{n}")] {
                assert_eq!(words.iter().filter(|w| **w == wanted).count(), 1, "{wanted}");
            }
        }
        assert!(words.iter().any(|w| w.contains("80 % at most")));
        assert!(words.iter().any(|w| w == "universe 3  =  Art-Net 0:0:2 (port-address 2)"));
    }

    #[test]
    fn nothing_lies_off_the_paper() {
        for page in signal(&show(9)) {
            for item in &page.items {
                if let Item::Rect { area: [left, top, width, height], .. } = item {
                    assert!(
                        *left >= 0.0 && left + width <= page.width && *top >= 0.0 && top + height <= page.height - 7.0
                    );
                }
            }
        }
    }

    #[test]
    fn a_show_without_routes_says_so() {
        assert!(words(&signal(&show(0))).contains(&"No route leads anywhere yet.".to_owned()));
    }
}
