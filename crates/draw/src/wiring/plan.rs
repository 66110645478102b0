//! The hanging plan: the lights as they hang, seen from the front, as large as the page, each with a label that can be read. Where
//! labels would lie over one another, the plan is drawn on several pages.

use splimo_light::rig::{cell_positions, order};
use splimo_show::{Fixture, Shape, Show};

use super::{FOOT, TOP};
use crate::metrics;
use crate::page::{Anchor, Page};

/// The size of names and of numbers, in millimetres; smaller ones are hard to read in a rig.
const NAME: f32 = 2.6;
const NUMBER: f32 = 2.2;
/// The most pages in each direction.
const MOST_PARTS: usize = 8;
/// The largest that a pitch is drawn, in millimetres.
const LARGEST: f32 = 12.0;
/// The room of the list beside a plan, in millimetres.
const LIST: f32 = 92.0;
const ROW: f32 = 4.0;

/// A part of the canvas on a page.
#[derive(Clone, Copy)]
struct View {
    left: f32,
    top: f32,
    scale: f32,
    /// The part of the canvas that is seen: left, top, right, bottom.
    part: [f32; 4],
}

impl View {
    fn place(&self, (x, y): (f32, f32)) -> (f32, f32) {
        (self.left + (x - self.part[0]) * self.scale, self.top + (y - self.part[1]) * self.scale)
    }

    fn holds(&self, (x, y): (f32, f32)) -> bool {
        (self.part[0]..self.part[2]).contains(&x) && (self.part[1]..self.part[3]).contains(&y)
    }
}

/// The pages of the plan, and true if a list of all fixtures stands beside it.
pub(super) fn pages(show: &Show) -> (Vec<Page>, bool) {
    let cells: Vec<Vec<(f32, f32)>> = show.fixtures.iter().map(cell_positions).collect();
    let Some(bounds) = bounds(cells.iter().flatten()) else { return (Vec::new(), false) };
    let listed = show.fixtures.len() as f32 * ROW <= Page::a4_lying().height - TOP - FOOT - 8.0;
    for named in [true, false] {
        for parts in 1..=MOST_PARTS {
            let room = if listed && parts == 1 { LIST } else { 0.0 };
            let drawn: Option<Vec<Page>> = views(bounds, parts, room)
                .map(|view| draw(show, &cells, view, named, parts == MOST_PARTS && !named))
                .collect();
            // Names are worth no page of their own.
            if named && parts > 1 {
                break;
            }
            if let Some(mut pages) = drawn {
                let beside = listed && parts == 1;
                if let Some(page) = pages.first_mut().filter(|_| beside) {
                    list(show, page);
                }
                return (pages, beside);
            }
        }
    }
    (Vec::new(), false)
}

/// The box around some lights, each a square of a pitch.
fn bounds<'a>(cells: impl Iterator<Item = &'a (f32, f32)>) -> Option<[f32; 4]> {
    cells.fold(None, |bounds: Option<[f32; 4]>, &(x, y)| {
        let [left, top, right, bottom] = bounds.unwrap_or([x, y, x, y]);
        Some([left.min(x - 1.0), top.min(y - 1.0), right.max(x + 1.0), bottom.max(y + 1.0)])
    })
}

/// The parts of the canvas for a number of pages in each direction, row by row.
fn views(bounds: [f32; 4], parts: usize, list: f32) -> impl Iterator<Item = View> {
    let page = Page::a4_lying();
    let (room, height) = (page.room() - list, page.height - TOP - FOOT - 6.0);
    let size = [(bounds[2] - bounds[0]) / parts as f32, (bounds[3] - bounds[1]) / parts as f32];
    let scale = (room / size[0]).min(height / size[1]).min(LARGEST);
    (0..parts * parts).map(move |index| {
        let (column, row) = ((index % parts) as f32, (index / parts) as f32);
        let (left, top) = (bounds[0] + column * size[0], bounds[1] + row * size[1]);
        View {
            left: Page::MARGIN + (room - size[0] * scale) / 2.0,
            top: TOP + 2.0 + (height - size[1] * scale) / 2.0,
            scale,
            part: [left, top, left + size[0], top + size[1]],
        }
    })
}

/// A page of the plan; none where a label finds no room, unless it has to do.
fn draw(show: &Show, cells: &[Vec<(f32, f32)>], view: View, named: bool, has_to_do: bool) -> Option<Page> {
    let mut page = Page::a4_lying();
    let side = (view.scale * 0.7).clamp(0.3, 4.0);
    let square = |(x, y): (f32, f32), side: f32| [x - side / 2.0, y - side / 2.0, side, side];
    for (fixture, cells) in show.fixtures.iter().zip(cells) {
        for &cell in cells.iter().filter(|cell| view.holds(**cell)) {
            page.rect(square(view.place(cell), side), Some(0.82), 0.0);
        }
        way(fixture, cells, view, &mut page);
        if let Some(&first) = cells.first().filter(|first| view.holds(**first)) {
            page.rect(square(view.place(first), side.max(1.1)), Some(0.0), 0.0);
        }
    }
    let mut taken: Vec<[f32; 4]> = Vec::new();
    for (index, (fixture, cells)) in show.fixtures.iter().zip(cells).enumerate() {
        let middle = cells[cells.len() / 2];
        if !view.holds(middle) {
            continue;
        }
        let (words, size) = match named {
            true => (fixture.name.clone(), NAME),
            false => ((index + 1).to_string(), NUMBER),
        };
        let Some(area) = free_place(cells, view, metrics::width(&words, size), size, &taken) else {
            if has_to_do {
                continue;
            }
            return None;
        };
        page.rect(area, Some(1.0), 0.0);
        page.bold([area[0] + area[2] / 2.0, area[1] + size * 0.95], size, Anchor::Middle, words);
        taken.push(area);
    }
    Some(page)
}

/// The first place around a fixture where its label lies over no other: on its middle, below, above, beside, at its ends.
fn free_place(cells: &[(f32, f32)], view: View, width: f32, size: f32, taken: &[[f32; 4]]) -> Option<[f32; 4]> {
    let placed: Vec<(f32, f32)> = cells.iter().map(|cell| view.place(*cell)).collect();
    let [left, top, right, bottom] = bounds(placed.iter())?;
    let (left, top, right, bottom) = (left + 1.0, top + 1.0, right - 1.0, bottom - 1.0);
    let (across, down) = ((left + right) / 2.0, (top + bottom) / 2.0);
    let (wide, high) = (width + 1.4, size + 0.5);
    let far = high / 2.0 + (view.scale * 0.35).clamp(0.6, 2.0) + 0.2;
    let page = Page::a4_lying();
    // On a single light there is no room for a label: it would hide it.
    let on = if cells.len() > 1 { (across, down) } else { (across, bottom + far) };
    let places = [
        on,
        (across, bottom + far),
        (across, top - far),
        (right + wide / 2.0 + 1.0, down),
        (left - wide / 2.0 - 1.0, down),
        (across, top + high),
        (across, bottom - high),
        (across, down + high),
        (across, down - high),
    ];
    let areas = places.map(|(x, y)| [x - wide / 2.0, y - high / 2.0, wide, high]);
    // Single lights have theirs in the same place, so that nobody asks whose it is.
    let tried = if cells.len() > 1 { areas.len() } else { 1 };
    areas.into_iter().take(tried).find(|area| {
        let inside = area[0] >= 2.0 && area[1] >= TOP - 4.0 && area[0] + wide <= page.width - 2.0;
        inside && area[1] + high <= page.height - FOOT + 3.0 && !taken.iter().any(|other| meets(area, other))
    })
}

fn meets(a: &[f32; 4], b: &[f32; 4]) -> bool {
    a[0] < b[0] + b[2] && b[0] < a[0] + a[2] && a[1] < b[1] + b[3] && b[1] < a[1] + a[3]
}

/// The way of the wire: an arrow along each run, from its first cell to its last. Runs that lie close get one on the first alone.
fn way(fixture: &Fixture, cells: &[(f32, f32)], view: View, page: &mut Page) {
    let runs = runs_of(fixture);
    let most = if view.scale >= 2.0 { usize::MAX } else { 1 };
    for run in runs.iter().take(most).filter(|run| run.1 > run.0) {
        let (Some(&from), Some(&to)) = (cells.get(run.0), cells.get(run.1)) else { continue };
        if view.holds(from) && view.holds(to) {
            let ((x1, y1), (x2, y2)) = (view.place(from), view.place(to));
            page.arrow([x1, y1, x2, y2], 0.25);
        }
    }
}

/// The first and the last cell of each straight run of the wire.
fn runs_of(fixture: &Fixture) -> Vec<(usize, usize)> {
    let (columns, rows) = fixture.shape.lattice();
    let count = fixture.shape.cells() as usize;
    match fixture.shape {
        Shape::Grid { .. } | Shape::Cone { .. } => {
            let along_row = order(columns, rows, &fixture.wiring).take(2).map(|(_, row)| row).collect::<Vec<_>>();
            let length = if along_row.windows(2).all(|pair| pair[0] == pair[1]) { columns } else { rows } as usize;
            (0..count).step_by(length.max(1)).map(|first| (first, (first + length - 1).min(count - 1))).collect()
        }
        Shape::Line { .. } => vec![(0, count.saturating_sub(1))],
        // What bends has an arrow over its first cells.
        Shape::Ring { .. } | Shape::Arc { .. } | Shape::Points { .. } => {
            vec![(0, (count / 12).min(count.saturating_sub(1)))]
        }
    }
}

/// The list beside the plan: each number with its name, its first channel, and how that leaves.
fn list(show: &Show, page: &mut Page) {
    let left = page.width - Page::MARGIN - LIST + 4.0;
    let mut y = TOP + 3.0;
    page.bold([left, y], 2.6, Anchor::Start, "fixture");
    page.bold([left + 46.0, y], 2.6, Anchor::Start, "begins at");
    for (index, fixture) in show.fixtures.iter().enumerate() {
        y += ROW;
        let [number, name, begins, sent] = row(show, index, fixture);
        page.grey([left + 6.0, y], 2.4, Anchor::End, number);
        page.text([left + 7.5, y], 2.6, Anchor::Start, metrics::cut(&name, 2.6, 37.0));
        page.text([left + 46.0, y], 2.6, Anchor::Start, begins);
        page.grey([left + 60.0, y], 2.2, Anchor::Start, metrics::cut(&sent, 2.2, 28.0));
    }
}

/// A fixture in a list: its number, its name, where it begins, and how that leaves.
pub(super) fn row(show: &Show, index: usize, fixture: &Fixture) -> [String; 4] {
    let begins = fixture.address.map_or_else(|| "not patched".to_owned(), |address| address.to_string());
    let sent = fixture.address.map(|address| show.sent_words(address)).unwrap_or_default();
    [(index + 1).to_string(), fixture.name.clone(), begins, sent]
}
