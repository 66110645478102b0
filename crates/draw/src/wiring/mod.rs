//! The wiring of every fixture: its cells numbered in the order of the wire, where it starts, arrows along the runs, and the
//! channels of each run.

mod plan;

use splimo_document::patch::Occupancy;
use splimo_light::rig::{Laid, cell_positions, lay, order, runs};
use splimo_show::{Address, Fixture, Profile, Sent, Shape, Show};

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
/// The least width to which words are folded, in millimetres, and the most that stands over the boxes.
const NARROWEST: f32 = 23.0;
const HEAD: f32 = 24.5;
const TOP: f32 = 22.0;
const FOOT: f32 = 12.0;
const LEGEND: &str = "black: the first pixel   grey: the first in a universe   arrows: the way of the wire   \
                      numbers: pixels in the order of the wire   a:b:c is Art-Net net:subnet:universe";

/// Pages with every fixture of a show, an overview before them and a table behind.
#[must_use]
pub fn wiring(show: &Show) -> Vec<Page> {
    let (mut pages, listed) = plan::pages(show);
    // A light of one cell has nothing to be drawn: it is on the plan and in the list.
    let many = show.fixtures.iter().filter(|fixture| fixture.shape.cells() > 1);
    let drawn = many.filter_map(|fixture| Some((fixture, show.profile(&fixture.profile)?)));
    let pieces: Vec<Piece> = drawn.flat_map(|(fixture, profile)| pieces(show, fixture, &profile)).collect();
    pages.append(&mut as_large_as_fits(&pieces));
    if !listed {
        pages.extend(lists(show));
    }
    pages.extend(table(show));
    number(&mut pages, &format!("{}: wiring", show.name), LEGEND);
    pages
}

/// The pieces on one page, enlarged, if they fit on one; else in their usual size on as many as they need.
fn as_large_as_fits(pieces: &[Piece]) -> Vec<Page> {
    let laid = |times: f32| {
        let mut flow = Flow { pages: Vec::new(), x: Page::MARGIN, y: TOP, shelf: 0.0 };
        // Each is drawn, also behind one that does not fit.
        let fits = pieces.iter().filter(|piece| !flow.add(&piece.enlarged(times))).count() == 0;
        (flow.pages, fits)
    };
    let larger = [3.0, 2.5, 2.0, 1.6, 1.3].map(laid).into_iter().find(|(pages, fits)| *fits && pages.len() <= 1);
    larger.unwrap_or_else(|| laid(1.0)).0
}

/// Every fixture in a line of a list with columns, where there is no room for it beside the plan.
fn lists(show: &Show) -> Vec<Page> {
    const COLUMNS: usize = 4;
    const ROW: f32 = 3.8;
    let height = Page::a4_lying().height - TOP - FOOT;
    let rows = (height / ROW) as usize - 1;
    let mut pages = Vec::new();
    for (part, fixtures) in show.fixtures.chunks(rows * COLUMNS).enumerate() {
        let mut page = Page::a4_lying();
        let width = page.room() / COLUMNS as f32;
        for (place, fixture) in fixtures.iter().enumerate() {
            let (column, row) = (place / rows, place % rows);
            let (x, y) = (Page::MARGIN + column as f32 * width, TOP + 3.0 + row as f32 * ROW);
            let [number, name, begins, sent] = plan::row(show, part * rows * COLUMNS + place, fixture);
            page.grey([x + 7.0, y], 2.2, Anchor::End, number);
            page.text([x + 8.5, y], 2.4, Anchor::Start, metrics::cut(&name, 2.4, 22.0));
            page.text([x + 31.5, y], 2.4, Anchor::Start, begins);
            page.grey([x + 43.5, y], 2.0, Anchor::Start, metrics::cut(&sent, 2.0, width - 44.5));
        }
        pages.push(page);
    }
    pages
}

/// A part of a fixture that fits on a page.
#[derive(Clone)]
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
    /// True if the cells lie in rows and columns.
    lattice: bool,
    /// Millimetres from one cell to the next, across and down, and the box of a cell.
    step: [f32; 2],
    side: [f32; 2],
}

impl Piece {
    /// The same, so many times as large; its words stay.
    fn enlarged(&self, times: f32) -> Self {
        let scaled = |pair: [f32; 2]| pair.map(|length| length * times);
        Self { step: scaled(self.step), side: scaled(self.side), ..self.clone() }
    }

    /// True if no words fit between two rows.
    fn is_close(&self) -> bool {
        self.lattice && self.step[1] - self.side[1] < 2.3
    }

    /// The lines under the title, folded so that they are not much wider than what is drawn.
    fn lines(&self) -> Vec<String> {
        metrics::folded(&self.under, 2.4, (self.width * self.step[0]).max(NARROWEST))
    }

    /// The height of what stands over the boxes.
    fn head(&self) -> f32 {
        7.6 + 3.2 * self.lines().len() as f32
    }

    fn size(&self) -> (f32, f32) {
        let lines = self.lines();
        let words = lines.iter().map(|line| metrics::width(line, 2.4)).fold(metrics::width(&self.title, 3.2), f32::max);
        ((self.width * self.step[0]).max(words) + 4.0, self.height * self.step[1] + self.head() + 4.0)
    }

    fn draw(&self, page: &mut Page, x: f32, y: f32) {
        page.bold([x, y + 3.2], 3.2, Anchor::Start, &self.title);
        for (line, words) in self.lines().iter().enumerate() {
            page.grey([x, y + 6.6 + 3.2 * line as f32], 2.4, Anchor::Start, words);
        }
        let (left, top) = (x, y + self.head());
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
            let size =
                (if number > 999 { 1.5 } else { 1.9 }) * (self.side[0] / BOX[0]).min(self.side[1] / BOX[1]).min(1.8);
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
            let Some((_, cx, cy)) = self.cells.iter().find(|(n, ..)| n == number) else { continue };
            let (x, y) = (left + cx * self.step[0], top + cy * self.step[1]);
            // Where rows are close there is room beside the box, or none: then the words under the title tell.
            match (self.is_close(), self.width <= 2.0) {
                (false, _) => page.text([x, y - 0.5], 2.0, Anchor::Start, words),
                (true, true) => page.text([x + self.side[0] + 0.6, y + self.side[1] * 0.8], 2.0, Anchor::Start, words),
                (true, false) => {}
            }
        }
    }

    /// The way from the end of a run to the beginning of the next that is not beside it: out into the room between the boxes, along
    /// it, and in, so that it crosses none.
    fn way_back(&self, page: &mut Page, from: (f32, f32), to: (f32, f32)) {
        let ((x1, y1), (x2, y2)) = (from, to);
        let half = [self.side[0] / 2.0, self.side[1] / 2.0];
        let room = [(self.step[0] - self.side[0]) / 2.0, (self.step[1] - self.side[1]) / 2.0];
        let down = (y2 - y1).signum();
        let over = (x2 - x1).signum();
        if (y2 - y1).abs() <= (x2 - x1).abs() {
            let gap = y2 - down * (half[1] + room[1]);
            page.line([x1, y1 + down * half[1], x1, gap], 0.2, 0.0);
            page.line([x1, gap, x2, gap], 0.2, 0.0);
            page.arrow([x2, gap, x2, y2 - down * half[1]], 0.2);
        } else {
            let gap = x2 - over * (half[0] + room[0]);
            page.line([x1 + over * half[0], y1, gap, y1], 0.2, 0.0);
            page.line([gap, y1, gap, y2], 0.2, 0.0);
            page.arrow([gap, y2, x2 - over * half[0], y2], 0.2);
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
                let apart = ((bx - ax).abs() * self.step[0], (by - ay).abs() * self.step[1]);
                let beside = apart.0 <= self.step[0] * 1.1 && apart.1 <= self.step[1] * 1.7;
                if self.lattice && !beside {
                    self.way_back(page, (x1, y1), (x2, y2));
                    before = Some(direction);
                    continue;
                }
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
fn pieces(show: &Show, fixture: &Fixture, profile: &Profile) -> Vec<Piece> {
    let page = Page::a4_lying();
    let laid = lay(fixture, profile);
    let under = under(show, fixture, &laid);
    if matches!(fixture.shape, Shape::Ring { .. } | Shape::Arc { .. } | Shape::Points { .. }) {
        return vec![free_piece(fixture, under, begins(&laid), [page.room() - 8.0, page.height - TOP - FOOT - 20.0])];
    }
    let places = places(fixture);
    let begins = begins(&laid);
    let width = places.iter().map(|p| p.0).fold(0.0, f32::max) + 1.0;
    let height = places.iter().map(|p| p.1).fold(0.0, f32::max) + 1.0;
    let room = page.height - TOP - FOOT - HEAD;
    let (step, side) = steps(&fixture.shape, height, room);
    let most = (((page.room() - 5.0) / step[0]).floor(), (room / step[1]).floor());
    let close = step[1] - side[1] < 2.3 && width > 2.0;
    let later: Vec<String> = begins.iter().skip(1).map(|(cell, words)| format!("{cell} = {words}")).collect();
    let under =
        if close && !later.is_empty() { format!("{under}; universes begin at {}", later.join(", ")) } else { under };
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
                lattice: true,
                step,
                side,
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

/// The distances between the cells of a piece and the box of a cell: a little closer than usual where all rows fit on a page then.
fn steps(shape: &Shape, rows: f32, room: f32) -> ([f32; 2], [f32; 2]) {
    let least = if matches!(shape, Shape::Line { .. }) { 3.1 } else { 4.6 };
    let down = (room / rows).clamp(least, DOWN);
    ([ACROSS, down], [BOX[0], BOX[1].min(down - 0.6)])
}

/// The kind of a fixture and its channels.
fn under(show: &Show, fixture: &Fixture, laid: &Laid) -> String {
    let ranges: Vec<String> = laid
        .taken
        .iter()
        .map(|t| {
            let address = Address { universe: t.universe, channel: t.slot + 1 };
            let sent: Vec<String> = show.sent_as(address).into_iter().map(Sent::universe).collect();
            let sent = if sent.is_empty() { "no route".to_owned() } else { sent.join(", ") };
            format!("{}.{}-{} ({sent})", t.universe, t.slot + 1, t.slot + t.slots)
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
    if fixture.angle != 0.0 && quarters(fixture).is_none() {
        lies.push_str(&format!(", hung turned by {} degrees clockwise", fixture.angle));
    }
    // Of a line it is seen where it begins.
    let plain =
        matches!(fixture.shape, Shape::Line { .. }) && fixture.wiring.gap == 0 && fixture.wiring.skip.is_empty();
    let wiring = if plain { String::new() } else { format!(", {}", fixture.wiring) };
    format!("{}, {}{wiring}{lies}; {ranges}", fixture.profile, short(&fixture.shape))
}

fn short(shape: &Shape) -> String {
    match shape {
        Shape::Points { at } => format!("{} points", at.len()),
        other => other.to_string(),
    }
}

/// The quarters of a turn by which a fixture hangs turned clockwise; none where it hangs at another angle.
fn quarters(fixture: &Fixture) -> Option<u32> {
    let turned = (fixture.angle / 90.0).round();
    ((fixture.angle - turned * 90.0).abs() < 0.01).then(|| turned.rem_euclid(4.0) as u32)
}

/// The place where each cell of a lattice is drawn, in cells, in the order of the wire: as it hangs, seen from the front, long
/// lines in rows, or in columns where they hang upright.
fn places(fixture: &Fixture) -> Vec<(f32, f32)> {
    let (columns, rows) = fixture.shape.lattice();
    let turned = quarters(fixture).unwrap_or(0);
    let hung = |(column, row): (u32, u32)| {
        let column = if fixture.mirror { columns - 1 - column } else { column };
        match turned {
            1 => (rows - 1 - row, column),
            2 => (columns - 1 - column, rows - 1 - row),
            3 => (row, columns - 1 - column),
            _ => (column, row),
        }
    };
    let cells = order(columns, rows, &fixture.wiring).map(hung);
    match &fixture.shape {
        Shape::Line { .. } if turned % 2 == 1 => {
            let place = |(_, at): (u32, u32)| ((at / LINE) as f32 * 1.6, (at % LINE) as f32);
            cells.map(place).collect()
        }
        Shape::Line { .. } => cells.map(|(at, _)| ((at % LINE) as f32, (at / LINE) as f32 * 1.6)).collect(),
        Shape::Grid { .. } | Shape::Cone { .. } => cells.map(|(column, row)| (column as f32, row as f32)).collect(),
        Shape::Ring { .. } | Shape::Arc { .. } | Shape::Points { .. } => Vec::new(),
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
        lattice: false,
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
    /// Adds a piece; true if it fits between the margins.
    fn add(&mut self, piece: &Piece) -> bool {
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
        width <= page_room()[0] && height <= page_room()[1]
    }
}

/// The room of a page for pieces.
fn page_room() -> [f32; 2] {
    let page = Page::a4_lying();
    [page.room() + 0.1, page.height - FOOT - TOP + 0.1]
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
    for fixture in show.fixtures.iter().filter(|fixture| fixture.shape.cells() > 1) {
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
    use splimo_document::file;
    use splimo_show::Wiring;

    fn demo() -> Show {
        file::read(include_str!("../../../../shows/lantern-quay.splimo")).expect("a good show").show
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

    fn at(page: &Page, wanted: &str) -> Vec<[f32; 2]> {
        let found = page.items.iter().filter_map(|item| match item {
            Item::Text { at, words, .. } if words == wanted => Some(*at),
            _ => None,
        });
        found.collect()
    }

    #[test]
    fn ten_upright_tubes_hang_upright_and_each_has_its_label() {
        let mut show = Show::empty("Tubes");
        for number in 0..10u32 {
            let tube = Fixture::new(&format!("Tube {}", number + 1), "rgb", Shape::Line { cells: 48 });
            let tube =
                tube.patched(number / 3 + 1, (number % 3 * 144 + 1) as u16).at(10.0 + number as f32 * 10.0, 30.0);
            show.fixtures.push(Fixture { angle: if number == 9 { 270.0 } else { 90.0 }, ..tube });
        }
        let pages = wiring(&show);
        assert_eq!(pages.len(), 3, "the plan, the tubes and the table");
        let labels: Vec<f32> = (1..=10).map(|n| at(&pages[0], &format!("Tube {n}"))[0][0]).collect();
        assert!(labels.is_sorted() && at(&pages[0], "Tube 10").len() == 2, "as they hang, and in the list: {labels:?}");
        // The first pixel is above the last where the tube hangs from its first, and below it where it is turned over.
        let pixels = |number: &str| at(&pages[1], number).into_iter().map(|at| at[1]).collect::<Vec<_>>();
        let (first, last) = (pixels("1"), pixels("48"));
        assert!(first[0] < last[0] && first[9] > last[9] && first.len() == 10, "{first:?} {last:?}");
    }

    #[test]
    fn single_lights_are_numbered_on_the_plan_and_listed_behind_it() {
        let mut show = Show::empty("Ceiling");
        for number in 0..432u32 {
            let light = Fixture::new(&format!("Light {}", number + 1), "rgb", Shape::Line { cells: 1 });
            let light = light.patched(number / 128 + 1, (number % 128 * 4 + 1) as u16);
            show.fixtures.push(light.at(5.0 + (number % 24) as f32 * 4.0, 3.0 + (number / 24) as f32 * 3.0));
        }
        let pages = wiring(&show);
        assert!(pages.len() <= 5, "{} pages", pages.len());
        for number in [1, 24, 25, 217, 432] {
            // By its number, or by its name where that has room.
            let label = |words: &str| at(&pages[0], words).len();
            assert_eq!(label(&number.to_string()) + label(&format!("Light {number}")), 1, "{number} is on the plan");
            let listed = pages[1..].iter().any(|page| !at(page, &format!("Light {number}")).is_empty());
            assert!(listed, "{number} is in the list");
        }
    }

    #[test]
    fn the_way_back_to_the_next_row_crosses_no_box() {
        let mut show = Show::empty("Panel");
        show.fixtures = vec![Fixture::new("Panel", "rgb", Shape::Grid { columns: 32, rows: 32 }).patched(1, 1)];
        let pages = wiring(&show);
        assert_eq!(pages.len(), 3, "one page for all its rows");
        let boxes: Vec<[f32; 4]> = pages[1]
            .items
            .iter()
            .filter_map(|item| match item {
                Item::Rect { area, .. } => Some(*area),
                _ => None,
            })
            .collect();
        let lines = pages[1]
            .items
            .iter()
            .filter_map(|item| if let Item::Line { ends, .. } = item { Some(*ends) } else { None });
        let level = lines.filter(|ends| (ends[1] - ends[3]).abs() < 0.01 && ends[1] > TOP + 1.0 && ends[0] != ends[2]);
        for ends in level.filter(|ends| (ends[2] - ends[0]).abs() > 20.0) {
            assert!(boxes.iter().all(|b| ends[1] <= b[1] + 0.01 || ends[1] >= b[1] + b[3] - 0.01), "{ends:?}");
        }
    }
}
