//! A layer of a look, compiled for a rig: which LEDs it lights, and where each lies on the layer's own plane.

pub use crate::piece::Piece;
use std::collections::{HashMap, HashSet};

use crate::rig::{Patched, Rig, TILE, angles_around, lights_around};
use crate::still::{self, Held, Onto};
use splimo_base::colour::Rgba;
use splimo_show::{Area, Layer, Repeat, Show, Span};

/// The positions of the LEDs of a layer on its plane: x and y in pitches from the top left corner of its area, so that an LED
/// in the corner lies at (0.5, 0.5).
#[derive(Debug, Clone, PartialEq, Default)]
pub struct LayerMap {
    /// In the order of the rig; none crosses a tile.
    pub pieces: Vec<Piece>,
    /// Positions from the left.
    pub x: Vec<f32>,
    /// Positions from the top.
    pub y: Vec<f32>,
    /// The angle of each around its cone, in turns from the middle of the front; NaN where it hangs on none. Empty where nothing
    /// does, and where the layer goes along an order.
    pub around: Vec<f32>,
    /// The number of lights that a whole turn around has, of the cone with the most; 0 without one.
    pub lights_around: f32,
    /// The colours that the layer holds for its LEDs, in their order; empty where it holds none.
    pub held: Vec<Rgba>,
    tile_pieces: Vec<u32>,
}

#[derive(Clone, Copy)]
struct Spot {
    x: f32,
    y: f32,
    plane: u32,
}

impl LayerMap {
    /// Compiles the target, span and area of a layer. Fixtures that the rig has not are left out: it follows an edited show a
    /// moment later, and meanwhile the screen shows what there is.
    #[must_use]
    pub fn compile(layer: &Layer, show: &Show, rig: &Rig) -> Self {
        let mut spots: Vec<Option<Spot>> = vec![None; rig.len()];
        let mut planes: Vec<(f32, f32)> = Vec::new();
        let in_order = matches!(layer.span, Span::Order | Span::OrderInGroup | Span::OrderInFixture);
        for fixtures in planes_of(layer, show) {
            let leds = || fixtures.iter().filter_map(|&f| rig.fixtures.get(f).copied()).flat_map(Patched::leds);
            let (frame, place) = if in_order { along_order(leds().count()) } else { on_canvas(rig, leds()) };
            let plane = planes.len() as u32;
            let (area_left, area_top, width, height) = area_of(layer, frame, show, rig);
            let turned = Turned::of(layer.repeat, plane, width, height);
            planes.push(turned.size());
            for (index, led) in leds().enumerate() {
                let (x, y) = place(rig, index, led);
                let (x, y) = (x - area_left, y - area_top);
                let inside = (0.0..=width).contains(&x) && (0.0..=height).contains(&y);
                if inside && spots[led].is_none() {
                    let (x, y) = turned.place(x, y);
                    spots[led] = Some(Spot { x, y, plane });
                }
            }
        }
        let mut map = Self::from_spots(&spots, &planes);
        if !in_order {
            map.go_around(&spots, show, rig);
        }
        if !layer.lights.is_empty() {
            map.held = held(layer, &spots, &map, show, rig);
        }
        map
    }

    fn from_spots(spots: &[Option<Spot>], planes: &[(f32, f32)]) -> Self {
        let mut map = Self::default();
        let mut open: Option<(u32, Piece)> = None;
        for (led, spot) in spots.iter().enumerate() {
            let Some(spot) = spot else {
                map.pieces.extend(open.take().map(|(_, piece)| piece));
                continue;
            };
            match &mut open {
                Some((plane, piece)) if *plane == spot.plane && led % TILE != 0 => piece.count += 1,
                _ => {
                    map.pieces.extend(open.take().map(|(_, piece)| piece));
                    let (width, height) = planes[spot.plane as usize];
                    let start = map.x.len() as u32;
                    let piece = Piece { led: led as u32, count: 1, start, width, height, part: spot.plane };
                    open = Some((spot.plane, piece));
                }
            }
            map.x.push(spot.x);
            map.y.push(spot.y);
        }
        map.pieces.extend(open.take().map(|(_, piece)| piece));
        map.index_tiles(spots.len());
        map
    }

    /// Takes note of the angles of those LEDs that hang on a cone.
    fn go_around(&mut self, spots: &[Option<Spot>], show: &Show, rig: &Rig) {
        let mut around: Vec<f32> = Vec::new();
        for (fixture, patched) in show.fixtures.iter().zip(&rig.fixtures) {
            let leds = patched.leds();
            let lit = leds.clone().any(|led| spots.get(led).is_some_and(Option::is_some));
            let Some(angles) = lit.then(|| angles_around(fixture)).flatten() else { continue };
            around.resize(spots.len(), f32::NAN);
            for (led, angle) in leds.zip(angles) {
                around[led] = angle;
            }
            self.lights_around = self.lights_around.max(lights_around(fixture));
        }
        if !around.is_empty() {
            self.around = spots.iter().zip(around).filter(|(spot, _)| spot.is_some()).map(|(_, angle)| angle).collect();
        }
    }

    fn index_tiles(&mut self, leds: usize) {
        let start = |tile: usize| self.pieces.partition_point(|p| (p.led as usize) < tile * TILE) as u32;
        self.tile_pieces = (0..=leds.div_ceil(TILE)).map(start).collect();
    }

    /// The pieces of a tile of the rig.
    #[must_use]
    pub fn pieces_of(&self, tile: usize) -> &[Piece] {
        &self.pieces[self.tile_pieces[tile] as usize..self.tile_pieces[tile + 1] as usize]
    }

    /// The same layer for chosen LEDs only, renumbered from 0 in the order of `leds`.
    #[must_use]
    pub fn thinned(&self, leds: &[u32]) -> Self {
        let mut planes: Vec<(f32, f32)> = Vec::new();
        let (mut parts, mut held, mut around) = (Vec::new(), Vec::new(), Vec::new());
        let spots: Vec<Option<Spot>> = leds
            .iter()
            .map(|&led| {
                let after = self.pieces.partition_point(|p| p.led <= led);
                let piece = self.pieces[..after].last().filter(|p| led < p.led + p.count)?;
                let at = (piece.start + led - piece.led) as usize;
                planes.push((piece.width, piece.height));
                parts.push(piece.part);
                held.extend(self.held.get(at));
                around.extend(self.around.get(at));
                Some(Spot { x: self.x[at], y: self.y[at], plane: planes.len() as u32 - 1 })
            })
            .collect();
        let mut map = Self::from_spots(&spots, &planes);
        map.pieces.iter_mut().for_each(|piece| piece.part = parts[piece.part as usize]);
        (map.held, map.around, map.lights_around) = (held, around, self.lights_around);
        map.joined()
    }
}

impl LayerMap {
    /// The same with pieces that follow each other on planes that are alike made one.
    fn joined(mut self) -> Self {
        let mut joined: Vec<Piece> = Vec::new();
        for piece in std::mem::take(&mut self.pieces) {
            match joined.last_mut() {
                Some(last)
                    if last.led + last.count == piece.led
                        && !(piece.led as usize).is_multiple_of(TILE)
                        && (last.width, last.height, last.part) == (piece.width, piece.height, piece.part) =>
                {
                    last.count += piece.count;
                }
                _ => joined.push(piece),
            }
        }
        self.pieces = joined;
        let leds = self.tile_pieces.len().saturating_sub(1) * TILE;
        self.index_tiles(leds);
        self
    }
}

/// The colours that a layer holds for the LEDs of its map, in their order.
fn held(layer: &Layer, spots: &[Option<Spot>], map: &LayerMap, show: &Show, rig: &Rig) -> Vec<Rgba> {
    let lit = || spots.iter().enumerate().filter(|(_, spot)| spot.is_some()).map(|(led, _)| led);
    let onto = Onto::of(layer);
    if onto == Onto::Same {
        let held = still::read(&layer.lights, show, rig);
        return lit().map(|led| held[led]).collect();
    }
    let held = Held::of(&layer.lights, show, rig);
    if onto == Onto::Order {
        // The order of the target, each light once.
        let planes = planes_of(layer, show);
        let order = planes.into_iter().flatten().filter_map(|f| rig.fixtures.get(f).copied()).flat_map(Patched::leds);
        let mut seen = HashSet::new();
        let order: Vec<usize> = order.filter(|led| spots[*led].is_some() && seen.insert(*led)).collect();
        let place: HashMap<usize, usize> = order.iter().enumerate().map(|(place, led)| (*led, place)).collect();
        return lit().map(|led| held.along(place.get(&led).copied().unwrap_or(0), order.len())).collect();
    }
    let raster = held.raster();
    if onto == Onto::Place {
        return lit().map(|led| raster.at_place(rig.position(led))).collect();
    }
    let of_piece = |piece: &Piece| {
        let range = piece.start as usize..(piece.start + piece.count) as usize;
        range.map(|at| raster.on_plane(piece, map.x[at], map.y[at])).collect::<Vec<_>>()
    };
    map.pieces.iter().flat_map(of_piece).collect()
}

/// The way a plane is turned round for the part of a span that lies on it, along its longer side.
#[derive(Clone, Copy)]
struct Turned {
    width: f32,
    height: f32,
    upright: bool,
    mirrored: bool,
    reversed: bool,
}

impl Turned {
    fn of(repeat: Repeat, part: u32, width: f32, height: f32) -> Self {
        let reversed = repeat == Repeat::Reversed || (repeat == Repeat::Alternate && part % 2 == 1);
        Self { width, height, upright: height > width, mirrored: repeat == Repeat::Mirrored, reversed }
    }

    /// The size of the plane that the effect gets.
    fn size(self) -> (f32, f32) {
        match (self.mirrored, self.upright) {
            (false, _) => (self.width, self.height),
            (true, true) => (self.width, self.height / 2.0),
            (true, false) => (self.width / 2.0, self.height),
        }
    }

    fn place(self, x: f32, y: f32) -> (f32, f32) {
        let along = |at: f32, length: f32| match (self.mirrored, self.reversed) {
            // From the middle outward.
            (true, _) => (at - length / 2.0).abs(),
            (_, true) => length - at,
            _ => at,
        };
        if self.upright { (x, along(y, self.height)) } else { (along(x, self.width), y) }
    }
}

/// The fixtures of each plane that a layer is stretched over, by index.
pub fn planes_of(layer: &Layer, show: &Show) -> Vec<Vec<usize>> {
    let sections = sections_of(layer, show);
    match layer.span {
        Span::Canvas | Span::Order => {
            let mut all = Vec::new();
            let mut seen = vec![false; show.fixtures.len()];
            for fixture in sections.into_iter().flatten() {
                if !std::mem::replace(&mut seen[fixture], true) {
                    all.push(fixture);
                }
            }
            vec![all]
        }
        Span::EachGroup | Span::OrderInGroup => sections,
        Span::EachFixture | Span::OrderInFixture => sections.into_iter().flatten().map(|f| vec![f]).collect(),
    }
}

/// The target of a layer as groups of fixtures; without a target, every group of the show and then what is in none.
fn sections_of(layer: &Layer, show: &Show) -> Vec<Vec<usize>> {
    let index: HashMap<&str, usize> =
        show.fixtures.iter().enumerate().rev().map(|(i, f)| (f.name.as_str(), i)).collect();
    let fixture = |name: &str| index.get(name).copied();
    let members = |names: &[String]| names.iter().filter_map(|n| fixture(n)).collect::<Vec<_>>();
    if layer.target.is_empty() {
        if matches!(layer.span, Span::Canvas | Span::Order) {
            return vec![(0..show.fixtures.len()).collect()];
        }
        let mut sections: Vec<Vec<usize>> = show.groups.iter().map(|g| members(&g.members)).collect();
        let grouped: HashSet<usize> = sections.iter().flatten().copied().collect();
        sections.push((0..show.fixtures.len()).filter(|f| !grouped.contains(f)).collect());
        return sections;
    }
    let section = |name: &String| match show.groups.iter().find(|g| g.name == *name) {
        Some(group) => members(&group.members),
        None => fixture(name).into_iter().collect(),
    };
    layer.target.iter().map(section).collect()
}

/// The rectangle around lights: its top left corner on the canvas, and its size, in pitches.
#[derive(Debug, Clone, Copy)]
struct Frame {
    corner: (f32, f32),
    size: (f32, f32),
}

type Placing = Box<dyn Fn(&Rig, usize, usize) -> (f32, f32)>;

fn along_order(count: usize) -> (Frame, Placing) {
    let frame = Frame { corner: (0.0, 0.0), size: (count.max(1) as f32, 1.0) };
    (frame, Box::new(|_, index, _| (index as f32 + 0.5, 0.5)))
}

fn on_canvas(rig: &Rig, leds: impl Iterator<Item = usize>) -> (Frame, Placing) {
    let frame = frame_of(rig, leds);
    let place = move |rig: &Rig, _: usize, led: usize| {
        let (x, y) = rig.position(led);
        (x - frame.corner.0, y - frame.corner.1)
    };
    (frame, Box::new(place))
}

fn frame_of(rig: &Rig, leds: impl Iterator<Item = usize>) -> Frame {
    let (mut low, mut high) = ((f32::MAX, f32::MAX), (f32::MIN, f32::MIN));
    for led in leds {
        let (x, y) = rig.position(led);
        low = (low.0.min(x), low.1.min(y));
        high = (high.0.max(x), high.1.max(y));
    }
    if low.0 > high.0 {
        low = (0.0, 0.0);
        high = low;
    }
    // Each LED is a square of one pitch around its place.
    Frame { corner: (low.0 - 0.5, low.1 - 0.5), size: (high.0 - low.0 + 1.0, high.1 - low.1 + 1.0) }
}

/// The rectangle of a layer on one of its planes: left, top, width and height, in pitches from the plane's corner. That of a region
/// lies where it does on the canvas, whichever lights the layer has, where the layer is one plane of the canvas; on the parts of
/// other spans it is its share of each.
fn area_of(layer: &Layer, frame: Frame, show: &Show, rig: &Rig) -> (f32, f32, f32, f32) {
    let Some(region) = show.region(&layer.region) else { return area_on(layer.area, frame.size) };
    if layer.span != Span::Canvas {
        return area_on(region.area, frame.size);
    }
    let within = match region.of.as_str() {
        "" => Frame { corner: (0.0, 0.0), size: (show.canvas.width, show.canvas.height) },
        name => {
            let section = Layer { target: vec![name.to_owned()], ..Layer::new("") };
            let fixtures: Vec<usize> = sections_of(&section, show).into_iter().flatten().collect();
            frame_of(rig, fixtures.iter().filter_map(|&f| rig.fixtures.get(f).copied()).flat_map(Patched::leds))
        }
    };
    let (left, top, width, height) = area_on(region.area, within.size);
    (left + within.corner.0 - frame.corner.0, top + within.corner.1 - frame.corner.1, width, height)
}

fn area_on(area: Area, (width, height): (f32, f32)) -> (f32, f32, f32, f32) {
    let percent = |share: f32, of: f32| share / 100.0 * of;
    (percent(area.x, width), percent(area.y, height), percent(area.width, width), percent(area.height, height))
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::{Fixture, Group, Shape};

    fn show() -> Show {
        let bar = |name: &str, x: f32| Fixture::new(name, "rgb", Shape::Line { cells: 4 }).at(x, 5.0);
        let mut show = Show::empty("Layers");
        show.fixtures = vec![bar("A", 2.0), bar("B", 12.0), bar("C", 22.0)];
        show.groups = vec![Group { name: "Ends".into(), members: vec!["C".into(), "A".into()], colour: None }];
        show
    }

    fn layer(target: &[&str], span: Span, area: Area) -> LayerMap {
        repeated(target, span, area, Repeat::Alike)
    }

    fn repeated(target: &[&str], span: Span, area: Area, repeat: Repeat) -> LayerMap {
        let target = target.iter().map(|&t| t.into()).collect();
        let layer = Layer { target, span, area, repeat, ..Layer::new("plasma") };
        let show = show();
        LayerMap::compile(&layer, &show, &Rig::compile(&show))
    }

    #[test]
    fn what_the_rig_has_not_yet_or_has_no_more_is_left_out() {
        let (before, mut after) = (show(), show());
        after.fixtures.push(Fixture::new("D", "rgb", Shape::Line { cells: 4 }).at(32.0, 5.0));
        for span in [Span::Canvas, Span::EachGroup, Span::EachFixture, Span::Order, Span::OrderInFixture] {
            let layer = Layer { span, ..Layer::new("plasma") };
            let lit = |show: &Show, rig: &Show| LayerMap::compile(&layer, show, &Rig::compile(rig)).x.len();
            assert_eq!([lit(&after, &before), lit(&before, &after), lit(&after, &after)], [12, 12, 16], "{span:?}");
        }
    }

    #[test]
    fn a_region_lies_where_it_does_on_the_canvas_whatever_lights_a_layer_has() {
        use splimo_show::{Area, Region};
        let mut show = show();
        show.canvas.width = 24.0;
        let right_half = Area { x: 50.0, width: 50.0, ..Area::WHOLE };
        let (width, name) = (show.canvas.width, show.fixtures[0].name.clone());
        show.regions = vec![
            Region { name: "Right".into(), of: String::new(), area: right_half },
            Region { name: "Of the first".into(), of: name.clone(), area: right_half },
        ];
        let rig = Rig::compile(&show);
        let lit = |layer: &Layer| -> Vec<usize> {
            let map = LayerMap::compile(layer, &show, &rig);
            map.pieces.iter().flat_map(|p| p.led as usize..(p.led + p.count) as usize).collect()
        };
        let of = |region: &str, target: &[&str]| Layer {
            region: region.into(),
            target: target.iter().map(|one| (*one).to_owned()).collect(),
            ..Layer::new("plasma")
        };
        let right: Vec<usize> = (0..rig.len()).filter(|led| rig.position(*led).0 >= width / 2.0).collect();
        assert_eq!(lit(&of("Right", &[])), right);
        let first: Vec<usize> = right.iter().copied().filter(|led| rig.fixtures[0].leds().contains(led)).collect();
        assert_eq!(lit(&of("Right", &[&name])), first, "the same place for fewer lights");
        let (leds, frame) = (rig.fixtures[0].leds(), frame_of(&rig, rig.fixtures[0].leds()));
        let middle = frame.corner.0 + frame.size.0 / 2.0;
        let half: Vec<usize> = leds.filter(|led| rig.position(*led).0 >= middle).collect();
        assert!(!half.is_empty());
        assert_eq!(lit(&of("Of the first", &[&name])), half, "its box is that of the fixture");
        let piece = LayerMap::compile(&of("Right", &[&name]), &show, &rig).pieces;
        assert!(piece.iter().all(|piece| piece.width == width / 2.0), "the plane is the region");
        assert_eq!(lit(&of("Nowhere", &[])).len(), rig.len(), "one that is not there is no limit");
    }

    #[test]
    fn the_canvas_span_is_the_box_around_the_target() {
        let map = layer(&[], Span::Canvas, Area::WHOLE);
        assert_eq!((map.pieces.len(), map.pieces[0].count), (1, 12));
        assert_eq!((map.pieces[0].width, map.pieces[0].height), (24.0, 1.0));
        assert_eq!(&map.x[..5], [0.5, 1.5, 2.5, 3.5, 10.5]);
    }

    #[test]
    fn an_order_follows_the_group_and_not_the_canvas() {
        let map = layer(&["Ends"], Span::Order, Area::WHOLE);
        assert_eq!(map.pieces.iter().map(|p| p.led).collect::<Vec<_>>(), [0, 8]);
        assert_eq!(map.x, [4.5, 5.5, 6.5, 7.5, 0.5, 1.5, 2.5, 3.5]);
    }

    #[test]
    fn each_fixture_has_a_plane_of_its_own() {
        let map = layer(&["Ends", "B"], Span::EachFixture, Area::WHOLE);
        assert_eq!(map.pieces.len(), 3);
        assert!(map.pieces.iter().all(|p| p.width == 4.0 && p.count == 4));
        assert_eq!(map.x[..4], map.x[4..8]);
    }

    #[test]
    fn an_area_leaves_out_what_lies_beyond_it() {
        let map = layer(&["A"], Span::Canvas, Area { x: 50.0, y: 0.0, width: 50.0, height: 100.0 });
        assert_eq!((map.pieces[0].led, map.pieces[0].count, map.pieces[0].width), (2, 2, 2.0));
        assert_eq!(map.x, [0.5, 1.5]);
        let wide = layer(&["A"], Span::Canvas, Area { x: -100.0, y: 0.0, width: 300.0, height: 100.0 });
        assert_eq!((wide.x.clone(), wide.pieces[0].width), (vec![4.5, 5.5, 6.5, 7.5], 12.0));
    }

    #[test]
    fn thinning_keeps_the_places() {
        let map = layer(&["Ends"], Span::Order, Area::WHOLE).thinned(&[9, 4, 0]);
        assert_eq!(map.pieces.iter().map(|p| (p.led, p.count)).collect::<Vec<_>>(), [(0, 1), (2, 1)]);
        assert_eq!(map.x, [1.5, 4.5]);
    }

    #[test]
    fn parts_repeat_alike_mirrored_or_turned_round() {
        let map = |repeat| repeated(&["A", "B"], Span::EachFixture, Area::WHOLE, repeat);
        assert_eq!(map(Repeat::Mirrored).x[..4], [1.5, 0.5, 0.5, 1.5]);
        assert!(map(Repeat::Mirrored).pieces.iter().all(|p| p.width == 2.0));
        assert_eq!(map(Repeat::Reversed).x[..8], [3.5, 2.5, 1.5, 0.5, 3.5, 2.5, 1.5, 0.5]);
        let alternate = map(Repeat::Alternate);
        assert_eq!(alternate.x[..8], [0.5, 1.5, 2.5, 3.5, 3.5, 2.5, 1.5, 0.5]);
        assert_eq!(alternate.pieces.iter().map(|p| p.part).collect::<Vec<_>>(), [0, 1]);
    }
}
