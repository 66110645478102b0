//! Held colours on other lights than those that they were held from: along the order, over the span, or by their place.

use std::collections::BTreeMap;

use super::parse;
use crate::piece::Piece;
use crate::rig::Rig;
use splimo_base::colour::{CLEAR, Rgba};
use splimo_show::{Layer, Param, Show};

/// The way that held colours come to the lights of a layer.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Onto {
    /// Each to the light that it was held from.
    #[default]
    Same,
    /// The first to the first, the last to the last, and those between evenly.
    Order,
    /// As a picture that is stretched over the span.
    Span,
    /// Each light takes that of the nearest place on the canvas.
    Place,
}

impl Onto {
    /// The words by which a layer chooses one, in their order.
    pub const WORDS: &'static [&'static str] = &["the same lights", "order", "span", "place"];

    /// The choice of a layer.
    #[must_use]
    pub fn of(layer: &Layer) -> Self {
        let Some(Param::Text(word)) = layer.params.get("onto") else { return Self::Same };
        match Self::WORDS.iter().position(|known| known == word) {
            Some(1) => Self::Order,
            Some(2) => Self::Span,
            Some(3) => Self::Place,
            _ => Self::Same,
        }
    }
}

/// The colours that a layer holds, each with its place on the canvas, in the order of the show.
#[derive(Debug, Clone, PartialEq, Default)]
pub(crate) struct Held(Vec<([f32; 2], Rgba)>);

/// Cells of the raster in which the nearest is looked up, in each direction.
const SIDE: usize = 128;

impl Held {
    pub(crate) fn of(lights: &BTreeMap<String, String>, show: &Show, rig: &Rig) -> Self {
        let mut held = Vec::new();
        for (fixture, patched) in show.fixtures.iter().zip(&rig.fixtures) {
            let Some(colours) = lights.get(&fixture.name).and_then(|text| parse(text).ok()) else { continue };
            held.extend(patched.leds().zip(colours).map(|(led, colour)| {
                let (x, y) = rig.position(led);
                ([x, y], colour)
            }));
        }
        Self(held)
    }

    /// The colour of a light by its place in the order of so many.
    pub(crate) fn along(&self, place: usize, count: usize) -> Rgba {
        let last = self.0.len().saturating_sub(1);
        let at = if count > 1 { (place * last + (count - 1) / 2) / (count - 1) } else { 0 };
        self.0.get(at).map_or(CLEAR, |(_, colour)| *colour)
    }

    /// The raster of the nearest over a box of the canvas: left, top, width, height.
    pub(crate) fn raster(&self) -> Raster<'_> {
        let least = |axis: usize| self.0.iter().map(|(at, _)| at[axis]).fold(f32::INFINITY, f32::min);
        let most = |axis: usize| self.0.iter().map(|(at, _)| at[axis]).fold(f32::NEG_INFINITY, f32::max);
        let (left, top) = (least(0), least(1));
        let size = [(most(0) - left).max(1e-3), (most(1) - top).max(1e-3)];
        let mut raster = Raster { held: self, start: [left, top], size, nearest: vec![u32::MAX; SIDE * SIDE] };
        raster.fill();
        raster
    }
}

/// For each cell of the box around some lights, one of those that are nearest.
pub(crate) struct Raster<'h> {
    held: &'h Held,
    start: [f32; 2],
    size: [f32; 2],
    nearest: Vec<u32>,
}

impl Raster<'_> {
    fn cell(&self, share: [f32; 2]) -> usize {
        let at = share.map(|share| ((share * SIDE as f32) as usize).min(SIDE - 1));
        at[1] * SIDE + at[0]
    }

    /// Spreads each light over the cells around it until they meet.
    fn fill(&mut self) {
        let mut front = Vec::new();
        for (index, (at, _)) in self.held.0.iter().enumerate() {
            let cell = self.cell([0, 1].map(|axis| ((at[axis] - self.start[axis]) / self.size[axis]).clamp(0.0, 1.0)));
            if self.nearest[cell] == u32::MAX {
                self.nearest[cell] = index as u32;
                front.push(cell);
            }
        }
        while !front.is_empty() {
            for cell in std::mem::take(&mut front) {
                let (x, y) = (cell % SIDE, cell / SIDE);
                for (dx, dy) in [(-1i32, 0i32), (1, 0), (0, -1), (0, 1)] {
                    let (Some(x), Some(y)) = (x.checked_add_signed(dx as isize), y.checked_add_signed(dy as isize))
                    else {
                        continue;
                    };
                    if x < SIDE && y < SIDE && self.nearest[y * SIDE + x] == u32::MAX {
                        self.nearest[y * SIDE + x] = self.nearest[cell];
                        front.push(y * SIDE + x);
                    }
                }
            }
        }
    }

    /// The colour at a share of the box, both 0..1; what lies beyond takes that of the edge.
    pub(crate) fn at(&self, share: [f32; 2]) -> Rgba {
        let nearest = self.nearest[self.cell(share.map(|share| share.clamp(0.0, 1.0)))];
        self.held.0.get(nearest as usize).map_or(CLEAR, |(_, colour)| *colour)
    }

    /// The colour at a place of the canvas.
    pub(crate) fn at_place(&self, (x, y): (f32, f32)) -> Rgba {
        self.at([(x - self.start[0]) / self.size[0], (y - self.start[1]) / self.size[1]])
    }

    /// The colour of a light on the plane of a piece.
    pub(crate) fn on_plane(&self, piece: &Piece, x: f32, y: f32) -> Rgba {
        // The outermost lights lie half a pitch within the plane.
        let share = |at: f32, length: f32| if length > 1.0 { (at - 0.5) / (length - 1.0) } else { 0.5 };
        self.at([share(x, piece.width), share(y, piece.height)])
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layer::LayerMap;
    use splimo_show::{Fixture, Shape};

    const RED: [f32; 3] = [1.0, 0.0, 0.0];
    const BLUE: [f32; 3] = [0.0, 0.0, 1.0];

    /// The light of "To", which has eight lights and lies below "From", turned round; that is red on the left and blue on the right.
    fn put(onto: &str) -> Vec<[u8; 3]> {
        let mut show = Show::empty("Still");
        let from = Fixture::new("From", "rgb", Shape::Line { cells: 4 }).at(10.0, 5.0);
        let to = Fixture { angle: 180.0, ..Fixture::new("To", "rgb", Shape::Line { cells: 8 }).at(11.0, 9.0) };
        show.fixtures = vec![from, to];
        let rig = Rig::compile(&show);
        let light = [RED, RED, BLUE, BLUE];
        let mut layer = Layer { target: vec!["To".into()], ..Layer::new("still") };
        layer.lights.insert("From".to_owned(), crate::still::write(&light));
        layer.params.insert("onto".to_owned(), Param::Text(onto.to_owned()));
        let map = LayerMap::compile(&layer, &show, &rig);
        map.held.iter().map(|[r, _, b, a]| [*r > 0.9, *b > 0.9, *a > 0.9].map(u8::from)).collect()
    }

    #[test]
    fn what_was_held_comes_to_other_lights_as_chosen() {
        let (red, blue) = ([1, 0, 1], [0, 1, 1]);
        assert_eq!(put("the same lights"), [[0, 0, 0]; 8], "none of it was held from these");
        assert_eq!(put("order"), [red, red, red, red, blue, blue, blue, blue]);
        // Its first light is on the right.
        assert_eq!(put("span"), [blue, blue, blue, blue, red, red, red, red]);
        // Its lights lie from 7.5 to 14.5, and the middle of what was held at 10.
        assert_eq!(put("place"), [blue, blue, blue, blue, blue, red, red, red]);
    }
}
