//! The wiring of every fixture: its cells numbered in the order of the wire, where it starts, arrows along the runs, and the
//! channels of each run.

use splimo_core::patch::Occupancy;
use splimo_core::rig::{Laid, cell_positions, lay, order, runs};
use splimo_core::show::{Fixture, Forms, Profile, Shape, Show};

use crate::metrics;
use crate::page::{Anchor, Page, number};

/// The distance between cells, across and down; arrows and addresses stand between them.
const ACROSS: f32 = 5.6;
const DOWN: f32 = 6.2;
/// The box of a cell: three digits in it are two millimetres tall, which can be read.
const BOX: [f32; 2] = [4.1, 3.6];
/// A box less wide than this cannot be written in.
const SMALLEST: f32 = 2.6;
/// Cells of a line before it goes on in the next row.
const LINE: u32 = 48;
const TOP: f32 = 22.0;
const FOOT: f32 = 12.0;
const LEGEND: &str = "black: the first pixel   grey: the first in a universe   arrows: the way of the wire   \
                      numbers: pixels in the order of the wire   a:b:c is Art-Net net:subnet:universe";

/// Pages with every fixture of a show, an overview before them and a table behind.
#[must_use]
pub fn wiring(show: &Show) -> Vec<Page> {
    let mut pages = vec![overview(show)];
    let mut flow = Flow { pages: Vec::new(), x: Page::MARGIN, y: TOP, shelf: 0.0 };
    for fixture in &show.fixtures {
        let Some(profile) = show.profile(&fixture.profile) else { continue };
        for piece in pieces(fixture, &profile) {
            flow.add(&piece);
        }
    }
    pages.append(&mut flow.pages);
    pages.extend(table(show));
    number(&mut pages, &format!("{}: wiring", show.name), LEGEND);
    pages
}

/// The whole canvas with the name and the first address of each fixture.
fn overview(show: &Show) -> Page {
    let mut page = Page::a4_lying();
    let (width, height) = (page.room(), page.height - TOP - FOOT - 4.0);
    let scale = (width / show.canvas.width.max(1.0)).min(height / show.canvas.height.max(1.0));
    let (left, top) = (Page::MARGIN + (width - show.canvas.width * scale) / 2.0, TOP + 2.0);
    page.rect([left, top, show.canvas.width * scale, show.canvas.height * scale], None, 0.15);
    let side = (scale * 0.7).clamp(0.25, 4.0);
    for fixture in &show.fixtures {
        let cells = cell_positions(fixture);
        for (x, y) in &cells {
            page.rect([left + x * scale - side / 2.0, top + y * scale - side / 2.0, side, side], Some(0.75), 0.0);
        }
        if let Some((x, y)) = cells.first() {
            page.rect([left + x * scale - side / 2.0, top + y * scale - side / 2.0, side, side], Some(0.0), 0.0);
        }
    }
    // Names last, over the cells; what would cover another name is left to the pages behind.
    let mut written: Vec<[f32; 4]> = Vec::new();
    for fixture in &show.fixtures {
        let (x, y) = (left + fixture.x * scale, top + fixture.y * scale);
        let label = format!("{} {}", fixture.name, fixture.address.map(|a| a.to_string()).unwrap_or_default());
        let width = metrics::width(&label, 2.4);
        let area = [x - width / 2.0 - 0.4, y - 2.2, width + 0.8, 3.0];
        let meets = |other: &[f32; 4]| {
            area[0] < other[0] + other[2]
                && other[0] < area[0] + area[2]
                && area[1] < other[1] + other[3]
                && other[1] < area[1] + area[3]
        };
        if written.iter().any(meets) {
            continue;
        }
        page.rect(area, Some(1.0), 0.0);
        page.text([x, y], 2.4, Anchor::Middle, label);
        written.push(area);
    }
    page
}

/// A part of a fixture that fits on a page.
struct Piece {
    title: String,
    under: String,
    /// Cells with their numbers, and where they lie, in cells.
    cells: Vec<(u32, f32, f32)>,
    /// True if the wire goes straight on to the next cell of the list.
    joined: Vec<bool>,
    /// The beginning of each universe, by the cell's number.
    begins: Vec<(u32, String)>,
    width: f32,
    height: f32,
    /// Millimetres from one cell to the next, across and down, and the box of a cell.
    step: [f32; 2],
    side: [f32; 2],
}

impl Piece {
    fn size(&self) -> (f32, f32) {
        let words = metrics::width(&self.title, 3.2).max(metrics::width(&self.under, 2.4));
        ((self.width * self.step[0]).max(words) + 5.0, self.height * self.step[1] + 15.0)
    }

    fn draw(&self, page: &mut Page, x: f32, y: f32) {
        page.bold([x, y + 3.2], 3.2, Anchor::Start, &self.title);
        page.grey([x, y + 6.6], 2.4, Anchor::Start, &self.under);
        let (left, top) = (x, y + 11.0);
        let centre = |cx: f32, cy: f32| {
            (left + cx * self.step[0] + self.side[0] / 2.0, top + cy * self.step[1] + self.side[1] / 2.0)
        };
        for &(number, cx, cy) in &self.cells {
            let first = number == 1;
            let begins = self.begins.iter().any(|(begins, _)| *begins == number);
            let fill = if first {
                0.0
            } else if begins {
                0.8
            } else {
                1.0
            };
            page.rect(
                [left + cx * self.step[0], top + cy * self.step[1], self.side[0], self.side[1]],
                Some(fill),
                0.15,
            );
            let (mx, my) = centre(cx, cy);
            // Where boxes are too small to be written in, every fifth has its number beside it.
            if self.side[0] < SMALLEST {
                if first || number % 5 == 0 {
                    page.text([mx + self.side[0] / 2.0 + 0.3, my + 0.7], 1.9, Anchor::Start, number.to_string());
                }
                continue;
            }
            let size = (if number > 999 { 1.5 } else { 1.9 }) * (self.side[0] / BOX[0]);
            let shade = if first { 1.0 } else { 0.0 };
            page.items.push(crate::Item::Text {
                at: [mx, my + size * 0.36],
                size,
                anchor: Anchor::Middle,
                bold: first,
                shade,
                words: number.to_string(),
            });
        }
        self.arrows(page, &centre);
        for (number, words) in &self.begins {
            if let Some((_, cx, cy)) = self.cells.iter().find(|(n, ..)| n == number) {
                page.text([left + cx * self.step[0], top + cy * self.step[1] - 0.5], 2.0, Anchor::Start, words);
            }
        }
    }

    /// An arrow along the beginning of each run, and over each turn.
    fn arrows(&self, page: &mut Page, centre: &dyn Fn(f32, f32) -> (f32, f32)) {
        let mut before: Option<(i32, i32)> = None;
        for (pair, joined) in self.cells.windows(2).zip(&self.joined) {
            let ((_, ax, ay), (_, bx, by)) = (pair[0], pair[1]);
            let direction = (
                (bx - ax).signum() as i32 * i32::from((bx - ax).abs() > 0.3),
                (by - ay).signum() as i32 * i32::from((by - ay).abs() > 0.3),
            );
            if !joined {
                before = None;
                continue;
            }
            if before != Some(direction) {
                let ((x1, y1), (x2, y2)) = (centre(ax, ay), centre(bx, by));
                let length = ((x2 - x1).powi(2) + (y2 - y1).powi(2)).sqrt().max(0.01);
                let (dx, dy) = ((x2 - x1) / length, (y2 - y1) / length);
                // From the edge of one box to that of the next.
                let half = (self.side[0] / 2.0 / dx.abs().max(0.01)).min(self.side[1] / 2.0 / dy.abs().max(0.01));
                page.arrow([x1 + dx * half, y1 + dy * half, x2 - dx * half, y2 - dy * half], 0.3);
            }
            before = Some(direction);
        }
    }
}

/// The parts of a fixture: one, where it fits on a page.
fn pieces(fixture: &Fixture, profile: &Profile) -> Vec<Piece> {
    let page = Page::a4_lying();
    let most = (((page.room() - 5.0) / ACROSS).floor(), ((page.height - TOP - FOOT - 15.0) / DOWN).floor());
    let laid = lay(fixture, profile);
    let under = under(fixture, &laid);
    if matches!(fixture.shape, Shape::Ring { .. } | Shape::Arc { .. } | Shape::Points { .. }) {
        return vec![free_piece(fixture, under, begins(&laid), [page.room() - 8.0, page.height - TOP - FOOT - 20.0])];
    }
    let places = places(fixture);
    let begins = begins(&laid);
    let width = places.iter().map(|p| p.0).fold(0.0, f32::max) + 1.0;
    let height = places.iter().map(|p| p.1).fold(0.0, f32::max) + 1.0;
    let (across, down) = ((width / most.0).ceil().max(1.0) as u32, (height / most.1).ceil().max(1.0) as u32);
    let mut pieces = Vec::new();
    for row in 0..down {
        for column in 0..across {
            let (left, top) = (column as f32 * most.0, row as f32 * most.1);
            let inside = |p: &(f32, f32)| p.0 >= left && p.0 < left + most.0 && p.1 >= top && p.1 < top + most.1;
            let cells: Vec<(u32, f32, f32)> = (1u32..)
                .zip(&places)
                .filter(|(_, p)| inside(p))
                .map(|(number, p)| (number, p.0 - left, p.1 - top))
                .collect();
            let joined = cells.windows(2).map(|pair| pair[1].0 == pair[0].0 + 1).collect();
            let part = if across * down > 1 {
                format!(" (part {} of {})", pieces.len() + 1, across * down)
            } else {
                String::new()
            };
            pieces.push(Piece {
                title: format!("{}{part}", fixture.name),
                under: under.clone(),
                step: [ACROSS, DOWN],
                side: BOX,
                joined,
                begins: begins.clone(),
                width: cells.iter().map(|c| c.1).fold(0.0, f32::max) + 1.0,
                height: cells.iter().map(|c| c.2).fold(0.0, f32::max) + 1.0,
                cells,
            });
        }
    }
    pieces
}

/// The kind of a fixture and its channels.
fn under(fixture: &Fixture, laid: &Laid) -> String {
    let ranges: Vec<String> = laid
        .taken
        .iter()
        .map(|t| {
            let address = splimo_core::show::Address { universe: t.universe, channel: t.slot + 1 };
            let net = Forms(address).net_form().map(|n| format!(" ({n})")).unwrap_or_default();
            format!("{}.{}-{}{net}", t.universe, t.slot + 1, t.slot + t.slots)
        })
        .collect();
    let ranges = match ranges.as_slice() {
        [] => "not patched".to_owned(),
        [first, .., last] if ranges.len() > 3 => format!("{first} to {last}"),
        some => some.join(", "),
    };
    let mut lies = String::new();
    if fixture.mirror {
        lies.push_str(", mirrored");
    }
    if fixture.angle != 0.0 {
        lies.push_str(&format!(", hung turned by {} degrees clockwise", fixture.angle));
    }
    format!("{}, {}, {}{lies}; {ranges}", fixture.profile, short(&fixture.shape), fixture.wiring)
}

fn short(shape: &Shape) -> String {
    match shape {
        Shape::Points { at } => format!("{} points", at.len()),
        other => other.to_string(),
    }
}

/// The place where each cell of a lattice is drawn, in cells, in the order of the wire: grids as they are, long lines in rows.
fn places(fixture: &Fixture) -> Vec<(f32, f32)> {
    let (columns, rows) = fixture.shape.lattice();
    match &fixture.shape {
        Shape::Line { .. } => {
            let first_left = order(columns, rows, &fixture.wiring).next().is_none_or(|(column, _)| column == 0);
            let place = |(column, _): (u32, u32)| {
                if columns <= LINE {
                    return (column as f32, 0.0);
                }
                // Of a long line the wire's own order fills the rows.
                let step = if first_left { column } else { columns - 1 - column };
                ((step % LINE) as f32, (step / LINE) as f32 * 1.6)
            };
            order(columns, rows, &fixture.wiring).map(place).collect()
        }
        Shape::Grid { .. } | Shape::Cone { .. } => {
            order(columns, rows, &fixture.wiring).map(|(column, row)| (column as f32, row as f32)).collect()
        }
        _ => Vec::new(),
    }
}

/// A shape that is no lattice, with every cell at its own place: as large as its boxes ask for, or as the page allows.
fn free_piece(fixture: &Fixture, under: String, begins: Vec<(u32, String)>, room: [f32; 2]) -> Piece {
    let cells = cell_positions(&Fixture { angle: 0.0, pitch: 1.0, ..fixture.clone() });
    let apart = |pair: &[(f32, f32)]| (pair[1].0 - pair[0].0).hypot(pair[1].1 - pair[0].1);
    let mut gaps: Vec<f32> = cells.windows(2).map(apart).filter(|gap| *gap > 0.01).collect();
    gaps.sort_by(f32::total_cmp);
    // Of free points the usual distance counts, not that of the nearest two.
    let gap = gaps.get(gaps.len() / 4).copied().unwrap_or(1.0);
    let least = |axis: fn(&(f32, f32)) -> f32| cells.iter().map(axis).fold(f32::INFINITY, f32::min);
    let most = |axis: fn(&(f32, f32)) -> f32| cells.iter().map(axis).fold(f32::NEG_INFINITY, f32::max);
    let (left, top) = (least(|c| c.0), least(|c| c.1));
    let (width, height) = (most(|c| c.0) - left, most(|c| c.1) - top);
    let scale = (6.4 / gap).min(room[0] / width.max(0.01)).min(room[1] / height.max(0.01));
    let side = (gap * scale * 0.66).clamp(0.4, BOX[0]);
    Piece {
        title: fixture.name.clone(),
        under,
        joined: vec![true; cells.len().saturating_sub(1)],
        begins,
        width: width * scale + side,
        height: height * scale + side,
        step: [1.0, 1.0],
        side: [side, side.min(BOX[1])],
        cells: (1u32..).zip(&cells).map(|(number, (x, y))| (number, (x - left) * scale, (y - top) * scale)).collect(),
    }
}

/// The first cell of each universe, and the address there.
fn begins(laid: &Laid) -> Vec<(u32, String)> {
    let mut universe = 0;
    let mut begins = Vec::new();
    for portion in &laid.portions {
        if portion.universe != universe {
            universe = portion.universe;
            begins.push((portion.cell + 1, format!("{}.{}", portion.universe, portion.slot + 1)));
        }
    }
    begins
}

/// Pieces in shelves, page after page.
struct Flow {
    pages: Vec<Page>,
    x: f32,
    y: f32,
    shelf: f32,
}

impl Flow {
    fn add(&mut self, piece: &Piece) {
        let (width, height) = piece.size();
        let page = Page::a4_lying();
        if self.x > Page::MARGIN && self.x + width > page.width - Page::MARGIN {
            (self.x, self.y, self.shelf) = (Page::MARGIN, self.y + self.shelf, 0.0);
        }
        if self.pages.is_empty() || self.y + height > page.height - FOOT {
            self.pages.push(page);
            (self.x, self.y, self.shelf) = (Page::MARGIN, TOP, 0.0);
        }
        if let Some(page) = self.pages.last_mut() {
            piece.draw(page, self.x, self.y);
        }
        self.x += width;
        self.shelf = self.shelf.max(height);
    }
}

/// Every fixture in a line, with the channels of its first and its last run.
fn table(show: &Show) -> Vec<Page> {
    let heads = [
        ("fixture", 10.0),
        ("profile", 55.0),
        ("shape", 95.0),
        ("pixels", 145.0),
        ("wiring", 160.0),
        ("channels", 225.0),
    ];
    let mut pages: Vec<Page> = Vec::new();
    let mut y = f32::INFINITY;
    let occupancy = Occupancy::of(show);
    for fixture in &show.fixtures {
        if y > 190.0 {
            let mut page = Page::a4_lying();
            for (head, x) in heads {
                page.bold([x, TOP + 3.0], 2.8, Anchor::Start, head);
            }
            pages.push(page);
            y = TOP + 8.0;
        }
        let Some(page) = pages.last_mut() else { break };
        let laid = show.profile(&fixture.profile).map(|profile| lay(fixture, &profile)).unwrap_or_default();
        let ranges: Vec<String> =
            laid.taken.iter().map(|t| format!("{}.{}-{}", t.universe, t.slot + 1, t.slot + t.slots)).collect();
        let ranges = match ranges.as_slice() {
            [] => "not patched".to_owned(),
            [first, .., last] => format!("{first} to {last}"),
            [one] => one.clone(),
        };
        let (columns, rows) = fixture.shape.lattice();
        let (count, length) = runs(columns, rows, &fixture.wiring);
        let wiring = if count > 1 {
            format!("{} ({count} runs of {length})", fixture.wiring)
        } else {
            fixture.wiring.to_string()
        };
        let cells = [
            (fixture.name.clone(), 43.0),
            (fixture.profile.clone(), 38.0),
            (short(&fixture.shape), 48.0),
            (fixture.shape.cells().to_string(), 13.0),
            (wiring, 63.0),
            (ranges, 60.0),
        ];
        for ((words, room), (_, x)) in cells.iter().zip(heads) {
            page.text([x, y], 2.6, Anchor::Start, metrics::cut(words, 2.6, *room));
        }
        page.line([Page::MARGIN, y + 1.3, page.width - Page::MARGIN, y + 1.3], 0.08, 0.7);
        y += 4.4;
    }
    if let Some(page) = pages.last_mut() {
        let words = format!("{} fixtures in {} universes", show.fixtures.len(), occupancy.universes().count());
        page.grey([Page::MARGIN, (y + 2.0).min(page.height - FOOT)], 2.8, Anchor::Start, words);
    }
    pages
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Item;
    use splimo_core::show::{Wiring, file};

    fn demo() -> Show {
        file::read(include_str!("../../../shows/lantern-quay.splimo")).expect("a good show").show
    }

    fn words(pages: &[Page]) -> Vec<&str> {
        let all = pages.iter().flat_map(|page| &page.items);
        all.filter_map(|item| match item {
            Item::Text { words, .. } => Some(words.as_str()),
            _ => None,
        })
        .collect()
    }

    #[test]
    fn every_fixture_is_there_with_every_number_and_stays_on_the_page() {
        let show = demo();
        let pages = wiring(&show);
        let words = words(&pages);
        for fixture in &show.fixtures {
            let named = words.iter().filter(|w| w.starts_with(&fixture.name)).count();
            assert!(named >= 2, "{} is drawn and in the table", fixture.name);
        }
        let count = |number: &str| words.iter().filter(|w| **w == number).count();
        // As the number of a pixel, and in the table as the number of all.
        let with = |cells: u64| -> usize {
            let times = |f: &Fixture| usize::from(f.shape.cells() >= cells) + usize::from(f.shape.cells() == cells);
            show.fixtures.iter().map(times).sum()
        };
        assert_eq!((count("320"), count("400")), (with(320), with(400)));
        for page in &pages {
            for item in &page.items {
                let [x, y] = match item {
                    Item::Text { at, .. } => *at,
                    Item::Rect { area, .. } => [area[0] + area[2], area[1] + area[3]],
                    Item::Line { ends, .. } => [ends[2], ends[3]],
                    Item::Triangle(points) => [points[0], points[1]],
                };
                assert!((0.0..=page.width).contains(&x) && (0.0..=page.height).contains(&y), "{item:?}");
            }
        }
    }

    #[test]
    fn a_fixture_larger_than_a_page_takes_several() {
        let mut show = Show::empty("Large");
        show.fixtures = vec![
            Fixture::new("Wall", "rgb", Shape::Grid { columns: 100, rows: 60 }).patched(1, 1),
            Fixture::new("Rope", "rgb", Shape::Line { cells: 300 }).patched(60, 1),
        ];
        let pages = wiring(&show);
        let words = words(&pages);
        assert!(
            words.iter().any(|w| w.starts_with("Wall (part 6 of "))
                && words.contains(&"6000")
                && words.contains(&"300")
        );
    }

    #[test]
    fn a_panel_that_turns_round_as_it_is_drawn() {
        let mut show = Show::empty("Panel");
        let wiring_of = Wiring { turns: true, ..Wiring::default() };
        let panel = Fixture::new("Panel", "grb", Shape::Grid { columns: 4, rows: 3 }).patched(1, 509);
        show.fixtures = vec![Fixture { wiring: wiring_of, ..panel }.at(60.0, 30.0)];
        insta::assert_snapshot!("panel", crate::svg(&wiring(&show)[1]));
    }
}
