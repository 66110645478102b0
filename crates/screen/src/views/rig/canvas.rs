//! The canvas: every light at its place, in the colours that are asked for, and around the chosen ones their order.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_document::edit::Bounds;
use splimo_light::rig::Rig;
use splimo_show::{Show, Tint};

use super::camera::Camera;
use crate::kit::stage_map::{paint, shown};
use crate::kit::theme::Theme;

/// The property by which lights are coloured.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) enum ColourBy {
    /// As they go out.
    #[default]
    Live,
    /// Each fixture in one of its own.
    Fixture,
    /// Each universe in one of its own.
    Universe,
    /// Each group in its own; what is in none is grey.
    Group,
    /// From dark at the first pixel of the wire to bright at the last.
    Wiring,
}

impl ColourBy {
    const ALL: [Self; 5] = [Self::Live, Self::Fixture, Self::Universe, Self::Group, Self::Wiring];

    pub(super) fn next(self) -> Self {
        let place = Self::ALL.iter().position(|by| *by == self).unwrap_or(0);
        Self::ALL[(place + 1) % Self::ALL.len()]
    }

    pub(super) fn name(self) -> &'static str {
        match self {
            Self::Live => "live colour",
            Self::Fixture => "fixture",
            Self::Universe => "universe",
            Self::Group => "group",
            Self::Wiring => "wiring order",
        }
    }
}

/// The colour of each light of a rig by something else than its light.
pub(super) fn colours(by: ColourBy, show: &Show, rig: &Rig) -> Vec<[f32; 3]> {
    const NONE: [f32; 3] = [58.0, 62.0, 70.0];
    let mut colours = vec![NONE; rig.len()];
    let mut paint = |leds: std::ops::Range<usize>, colour: [u8; 3]| colours[leds].fill(colour.map(f32::from));
    match by {
        ColourBy::Live => {}
        ColourBy::Fixture => {
            rig.fixtures.iter().enumerate().for_each(|(index, f)| paint(f.leds(), Tint::of(index).0));
        }
        ColourBy::Universe => {
            for run in &rig.runs {
                let leds = run.first as usize..(run.first + run.cells) as usize;
                paint(leds, Tint::of((run.slot / 512) as usize).0);
            }
        }
        ColourBy::Group => {
            let place: std::collections::HashMap<&str, usize> =
                show.fixtures.iter().enumerate().map(|(i, f)| (f.name.as_str(), i)).collect();
            for (index, group) in show.groups.iter().enumerate() {
                let tint = group.colour.unwrap_or_else(|| Tint::of(index)).0;
                for fixture in group.members.iter().filter_map(|name| place.get(name.as_str())) {
                    paint(rig.fixtures[*fixture].leds(), tint);
                }
            }
        }
        ColourBy::Wiring => {
            for fixture in &rig.fixtures {
                let last = fixture.cells.saturating_sub(1).max(1) as f32;
                for (place, led) in fixture.leds().enumerate() {
                    let share = place as f32 / last;
                    colours[led] = [40.0 + 180.0 * share, 60.0 + 140.0 * share, 120.0];
                }
            }
        }
    }
    colours
}

/// The dots of an area, with memory for the next frame.
#[derive(Debug, Clone, Default)]
pub(super) struct Dots {
    columns: usize,
    rows: usize,
    sum: Vec<[f32; 3]>,
    count: Vec<u32>,
}

/// A function from the mean of the lights that share a dot to its colour.
pub(super) type Finish = fn([f32; 3]) -> [u8; 3];

/// Linear light, as it goes out.
pub(super) const LIGHT: Finish = shown;
/// Colours as they are to be seen.
pub(super) const COLOUR: Finish = |colour| colour.map(|c| c as u8);

impl Dots {
    /// Draws lights in their colours.
    pub(super) fn draw(
        &mut self,
        rig: &Rig,
        (colours, finish): (&[[f32; 3]], Finish),
        camera: &Camera,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
    ) {
        (self.columns, self.rows) = (usize::from(area.width), usize::from(area.height) * 2);
        self.sum.clear();
        self.sum.resize(self.columns * self.rows, [0.0; 3]);
        self.count.clear();
        self.count.resize(self.columns * self.rows, 0);
        let size = side(camera.scale);
        for (led, colour) in colours.iter().enumerate() {
            let (x, y) = rig.position(led);
            let (x, y) = corner(camera, size, x, y);
            self.add(x, y, size as i32, *colour);
        }
        for row in 0..self.rows / 2 {
            for column in 0..self.columns {
                let (top, bottom) = (self.dot(column, 2 * row, finish), self.dot(column, 2 * row + 1, finish));
                if (top, bottom) == (None, None) {
                    continue;
                }
                paint(&mut buffer[(area.x + column as u16, area.y + row as u16)], top, bottom, theme);
            }
        }
    }

    fn add(&mut self, x: i32, y: i32, size: i32, colour: [f32; 3]) {
        for row in y.max(0)..(y + size).min(self.rows as i32) {
            for column in x.max(0)..(x + size).min(self.columns as i32) {
                let dot = row as usize * self.columns + column as usize;
                self.count[dot] += 1;
                self.sum[dot].iter_mut().zip(colour).for_each(|(sum, c)| *sum += c);
            }
        }
    }

    fn dot(&self, column: usize, row: usize, finish: Finish) -> Option<[u8; 3]> {
        let dot = row * self.columns + column;
        let count = self.count[dot];
        (count > 0).then(|| finish(self.sum[dot].map(|sum| sum / count as f32)))
    }
}

/// The side of a light in dots: a little is left between lights where there is room.
fn side(scale: f32) -> f32 {
    if scale >= 4.0 { scale.floor() - 1.0 } else { scale.floor().max(1.0) }
}

/// The dot of a light's top left corner.
fn corner(camera: &Camera, size: f32, x: f32, y: f32) -> (i32, i32) {
    let (x, y) = camera.dot(x, y);
    ((x - size / 2.0).round() as i32, (y - size / 2.0).round() as i32)
}

/// Writes words on the canvas, where they are inside.
fn write(column: i32, row: i32, words: &str, style: ratatui::style::Style, area: Rect, buffer: &mut Buffer) {
    let inside = row >= i32::from(area.y) && row < i32::from(area.bottom());
    if !inside {
        return;
    }
    for (place, letter) in words.chars().enumerate() {
        let column = column + place as i32;
        if column >= i32::from(area.x) && column < i32::from(area.right()) {
            buffer[(column as u16, row as u16)].set_char(letter).set_style(style);
        }
    }
}

/// The corners of the canvas, where they are seen.
pub(super) fn frame(show: &Show, camera: &Camera, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let (left, top) = camera.dot(0.0, 0.0);
    let (right, bottom) = camera.dot(show.canvas.width, show.canvas.height);
    for (x, y, corner) in
        [(left, top, "┌"), (right - 1.0, top, "┐"), (left, bottom - 1.0, "└"), (right - 1.0, bottom - 1.0, "┘")]
    {
        let (column, row) = (i32::from(area.x) + x.floor() as i32, i32::from(area.y) + (y / 2.0).floor() as i32);
        write(column, row, corner, theme.dim(), area, buffer);
    }
}

/// A chosen fixture.
pub(super) struct Mark {
    /// Its place in the rig.
    pub(super) leds: std::ops::Range<usize>,
    /// The lengths of its runs.
    pub(super) run: usize,
}

/// The place of a light on the screen: its left column and its row.
fn cell(camera: &Camera, area: Rect, x: f32, y: f32) -> (i32, i32) {
    let (x, y) = corner(camera, side(camera.scale), x, y);
    (i32::from(area.x) + x, i32::from(area.y) + y.div_euclid(2))
}

/// The bracket around some lights, and what it is of.
pub(super) fn bracket(bounds: Bounds, label: &str, camera: &Camera, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let size = side(camera.scale);
    let (left, top) = cell(camera, area, bounds.left, bounds.top);
    let (right, bottom) = cell(camera, area, bounds.right, bounds.bottom);
    let (right, bottom) = (right + size as i32, bottom + ((size as i32 + 1) / 2).max(1));
    for (column, row, corner) in
        [(left - 1, top - 1, "┌"), (right, top - 1, "┐"), (left - 1, bottom, "└"), (right, bottom, "┘")]
    {
        write(column, row, corner, theme.bright(), area, buffer);
    }
    write(left, top - 1, label, theme.bright(), area, buffer);
}

/// The number of a fixture on its first light, where it is wide enough; else an arrow to where its wire goes.
pub(super) fn number(
    mark: &Mark,
    (number, of): (usize, usize),
    rig: &Rig,
    camera: &Camera,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
) {
    if mark.leds.is_empty() {
        return;
    }
    let (x, y) = rig.position(mark.leds.start);
    let (column, row) = cell(camera, area, x, y);
    let next = (mark.leds.len() > 1).then(|| rig.position(mark.leds.start + 1));
    let words = number.to_string();
    let across = next.is_some_and(|(nx, _)| nx - x > 0.0);
    let room = if across { mark.run as f32 * camera.scale } else { side(camera.scale) };
    let style = on_light(buffer, column, row, area, theme);
    // All of them or, but for the ends, none: some would look like a choice.
    let digits = of.to_string().len();
    if room > digits as f32 || (next.is_none() && (number == 1 || number == of)) || (of < 100 && room >= digits as f32)
    {
        write(column, row, &words, style, area, buffer);
    } else if let Some((nx, ny)) = next {
        write(column, row, arrow((nx - x, ny - y)), style, area, buffer);
    }
}

/// The order of a fixture's pixels: their numbers where there is room, else the number that each run begins with and an
/// arrow along it.
pub(super) fn order(mark: &Mark, rig: &Rig, camera: &Camera, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let count = mark.leds.len();
    let digits = count.to_string().len() as f32;
    let every = camera.scale >= digits + 2.0;
    let first = mark.leds.start;
    let step = if every { 1 } else { mark.run.max(1) };
    for place in (0..count).step_by(step) {
        let (x, y) = rig.position(first + place);
        let (column, row) = cell(camera, area, x, y);
        let next = (place + 1 < count).then(|| rig.position(first + place + 1));
        let towards = next.map_or((0.0, 0.0), |(nx, ny)| (nx - x, ny - y));
        let arrow = arrow(towards);
        let number = (place + 1).to_string();
        let style = on_light(buffer, column, row, area, theme);
        let along = (mark.run as f32 * camera.scale * towards.0.abs().clamp(0.0, 1.0)) as usize;
        if every {
            write(column, row, &number, style, area, buffer);
            if camera.scale >= digits + 3.0 && place % mark.run.max(1) + 1 < mark.run.max(1) {
                write(column + number.len() as i32, row, arrow, style, area, buffer);
            }
        } else if along > number.len() + 1 && towards.0 > 0.0 {
            write(column, row, &format!("{number}{arrow}"), style, area, buffer);
        } else if along > number.len() + 1 {
            write(column - number.len() as i32, row, &format!("{arrow}{number}"), style, area, buffer);
        } else {
            write(column, row, arrow, style, area, buffer);
        }
    }
}

/// Dark letters on bright lights, bright ones on dark lights.
fn on_light(buffer: &Buffer, column: i32, row: i32, area: Rect, theme: Theme) -> ratatui::style::Style {
    let inside = column >= i32::from(area.x) && row >= i32::from(area.y);
    let place = ratatui::layout::Position::new(column.max(0) as u16, row.max(0) as u16);
    let light = (inside && area.contains(place)).then(|| buffer[place].fg);
    match light {
        Some(ratatui::style::Color::Rgb(r, g, b)) if u16::from(r) + u16::from(g) + u16::from(b) > 330 => theme.filled(),
        _ => theme.bright(),
    }
}

fn arrow((dx, dy): (f32, f32)) -> &'static str {
    match (dx.abs() >= dy.abs(), dx > 0.0, dy > 0.0) {
        _ if dx == 0.0 && dy == 0.0 => "●",
        (true, true, _) => "→",
        (true, false, _) => "←",
        (false, _, true) => "↓",
        (false, _, false) => "↑",
    }
}

/// The rectangle around some lights.
pub(super) fn bounds_of(rig: &Rig, leds: std::ops::Range<usize>) -> Option<Bounds> {
    let at = |led: usize| {
        let (x, y) = rig.position(led);
        Bounds { left: x, top: y, right: x, bottom: y }
    };
    leds.map(at).reduce(|a, b| Bounds {
        left: a.left.min(b.left),
        top: a.top.min(b.top),
        right: a.right.max(b.right),
        bottom: a.bottom.max(b.bottom),
    })
}

/// The light under a place on the canvas, if there is one within reach of a pointer.
pub(super) fn light_at(rig: &Rig, camera: &Camera, (x, y): (f32, f32)) -> Option<usize> {
    let reach = (0.75f32).max(1.2 / camera.scale);
    let distance = |led: usize| {
        let (lx, ly) = rig.position(led);
        (lx - x).powi(2) + (ly - y).powi(2)
    };
    let nearest = (0..rig.len()).map(|led| (distance(led), led)).min_by(|a, b| a.0.total_cmp(&b.0))?;
    (nearest.0 <= reach * reach).then_some(nearest.1)
}
