//! Shapes that colours run along: for each light the distance along one, in lengths of all colours.

use multiversion::multiversion;

use super::params::handle::{ChoiceParam, NumberParam, choices};
use super::params::{choice, number};
use super::{Cells, ParamSpec, Params};
use splimo_base::maths::{angle_turns, cos_turns, sin_turns};

choices! {
    /// The choice "shape".
    Shape {
        Line = "line",
        Mirrored = "mirrored",
        Box = "box",
        Circle = "circle",
        RingAround = "ring around",
        Spiral = "spiral",
        Cross = "cross",
        Diamond = "diamond",
        InAndOut = "in and out",
    }
}

/// The range of a centre, in percent of the span: on the lights and as far again to each side.
const CENTRE: [f32; 3] = [-200.0, 50.0, 300.0];

/// The declaration of a shape.
pub(super) const SHAPE: ParamSpec = choice(
    "shape",
    Shape::WORDS,
    "along a line or what lies around the centre; mirrored runs from the centre both ways, in and out goes out and comes back",
);

/// The declaration of its angle.
pub(super) const ANGLE: ParamSpec =
    number("angle", [-360.0, 0.0, 360.0], "°", "0 runs to the right, 90 down; other shapes are turned by it");

/// The declaration of the centre, from the left.
pub(super) const CENTRE_X: ParamSpec = number(
    "centre x",
    CENTRE,
    "%",
    "the centre of the shape, from the left of the span; beyond 0 to 100 it is off the lights",
);

/// The declaration of the centre, from the top.
pub(super) const CENTRE_Y: ParamSpec = number("centre y", CENTRE, "%", "the same from the top");

/// The declaration of a spiral's turns.
pub(super) const TWIST: ParamSpec =
    number("twist", [-16.0, 1.0, 16.0], "turns", "how often a spiral winds around; negative winds the other way");

/// The parameters of a shape among those of an effect.
#[derive(Debug, Clone, Copy)]
pub(super) struct ShapeParams {
    /// Which shape.
    pub shape: ChoiceParam<Shape>,
    angle: NumberParam,
    centre: [NumberParam; 2],
    wavelength: NumberParam,
    twist: NumberParam,
}

impl ShapeParams {
    /// Those of an effect that declares all of them, and a wavelength.
    pub(super) const fn among(params: &[ParamSpec]) -> Self {
        Self {
            shape: ChoiceParam::named(params, "shape"),
            angle: NumberParam::named(params, "angle"),
            centre: [NumberParam::named(params, "centre x"), NumberParam::named(params, "centre y")],
            wavelength: NumberParam::named(params, "wavelength"),
            twist: NumberParam::named(params, "twist"),
        }
    }

    /// The shape as a layer sets it, with so many lengths on the span.
    pub(super) fn layout(&self, params: &Params, repeats: f32) -> Layout {
        Layout {
            shape: params.choice(self.shape),
            turn: params.number(self.angle) / 360.0,
            centre: self.centre.map(|along| params.number(along) / 100.0),
            repeats,
            wavelength: params.number(self.wavelength),
            twist: params.number(self.twist),
        }
    }
}

/// A shape as a layer sets it.
#[derive(Debug, Clone, Copy)]
pub(super) struct Layout {
    /// The shape.
    pub shape: Shape,
    /// By how much it is turned, in turns: at 0 a line runs to the right, at a quarter down.
    pub turn: f32,
    /// The centre, in shares of the plane from its left and from its top; beyond 0..1 it is off the lights.
    pub centre: [f32; 2],
    /// The number of lengths from the centre to the farthest corner of a plane around it, or along a line over the whole plane.
    pub repeats: f32,
    /// The size of a length in pitches, where it is not to fit the plane; 0 fits it.
    pub wavelength: f32,
    /// The turns of a spiral from its centre to its edge.
    pub twist: f32,
}

/// A shape laid on a plane at a moment.
#[derive(Debug, Clone, Copy)]
pub(super) struct Laid {
    shape: Shape,
    cos: f32,
    sin: f32,
    centre: (f32, f32),
    /// Lengths for each pitch along the shape's first axis, and along its second.
    scale: (f32, f32),
    /// Lengths around the centre, and lengths that a spiral's are later at its edge.
    around: f32,
    twist: f32,
    offset: f32,
    size: (f32, f32),
}

impl Layout {
    /// Lays the shape on the plane of some lights, moved by so many lengths (0..1).
    pub(super) fn on(self, cells: &Cells<'_>, phase: f32) -> Laid {
        let (sin, cos) = (sin_turns(self.turn), cos_turns(self.turn));
        let (width, height) = (cells.width, cells.height);
        let extent = ((width * cos).abs() + (height * sin).abs(), (width * sin).abs() + (height * cos).abs());
        let reach = (width * width + height * height).sqrt() / 2.0;
        let lengths =
            |extent: f32| self.repeats / if self.wavelength > 0.0 { self.wavelength } else { extent.max(1.0) };
        let scale = match self.shape {
            Shape::Line => (lengths(extent.0), 0.0),
            Shape::Mirrored => (lengths(extent.0 / 2.0), 0.0),
            Shape::Box | Shape::Cross => (lengths(extent.0 / 2.0), lengths(extent.1 / 2.0)),
            // Both add up, so that each has half the way to the corner.
            Shape::Diamond => (lengths(extent.0), lengths(extent.1)),
            Shape::Circle | Shape::RingAround | Shape::InAndOut => (lengths(reach), 0.0),
            Shape::Spiral => (1.0 / reach.max(1.0), 0.0),
        };
        let centre = (width * self.centre[0], height * self.centre[1]);
        // Around a centre only whole numbers meet without an edge.
        let around = splimo_base::maths::round(self.repeats).max(1.0);
        let offset = match self.shape {
            // Starts at the corner that comes first in its direction.
            Shape::Line => {
                let start = cos.min(0.0) * width + sin.min(0.0) * height;
                let moved = (centre.0 - width / 2.0) * cos + (centre.1 - height / 2.0) * sin;
                -(start * scale.0) - phase - moved * scale.0
            }
            Shape::InAndOut => -(0.5 - 0.5 * cos_turns(phase)),
            Shape::RingAround | Shape::Spiral => -self.turn * around - phase,
            Shape::Mirrored | Shape::Box | Shape::Circle | Shape::Cross | Shape::Diamond => -phase,
        };
        let twist = self.twist * around;
        Laid { shape: self.shape, cos, sin, centre, scale, around, twist, offset, size: (width, height) }
    }
}

impl Laid {
    /// The place of each light on the colours, in lengths.
    pub(super) fn places(&self, cells: &Cells<'_>, out: &mut [f32]) {
        match self.shape {
            Shape::Line => line(cells.x, cells.y, out, (self.cos * self.scale.0, self.sin * self.scale.0), self.offset),
            Shape::Mirrored => mirrored(cells.x, cells.y, out, self),
            Shape::Box => boxes(cells.x, cells.y, out, self),
            Shape::Circle | Shape::InAndOut => circles(cells.x, cells.y, out, self),
            Shape::Cross => crosses(cells.x, cells.y, out, self),
            Shape::Diamond => diamonds(cells.x, cells.y, out, self),
            Shape::RingAround => {
                ring(cells.x, cells.y, out, self);
                self.go_around(cells, out, 0.0);
            }
            Shape::Spiral => {
                spirals(cells.x, cells.y, out, self);
                self.go_around(cells, out, self.twist);
            }
        }
    }

    /// Places by the angle at which lights hang around a cone, for those that do; a spiral winds up from its foot.
    fn go_around(&self, cells: &Cells<'_>, out: &mut [f32], twist: f32) {
        let down = twist / self.size.1.max(1.0);
        for ((out, angle), y) in out.iter_mut().zip(cells.around).zip(cells.y) {
            if !angle.is_nan() {
                *out = angle * self.around + y * down + self.offset;
            }
        }
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn line(x: &[f32], y: &[f32], out: &mut [f32], step: (f32, f32), offset: f32) {
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        *out = x * step.0 + y * step.1 + offset;
    }
}

/// Lights by their distances from the centre along both axes, of which a shape makes one number.
macro_rules! by_axes {
    ($name:ident, |$u:ident, $v:ident| $place:expr) => {
        #[multiversion(targets("x86_64+avx2+fma"))]
        fn $name(x: &[f32], y: &[f32], out: &mut [f32], laid: &Laid) {
            let Laid { cos, sin, centre, scale, offset, .. } = *laid;
            for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
                let (dx, dy) = (x - centre.0, y - centre.1);
                let ($u, $v) = (((dx * cos + dy * sin) * scale.0).abs(), ((dy * cos - dx * sin) * scale.1).abs());
                *out = $place + offset;
            }
        }
    };
}

by_axes!(mirrored, |u, _v| u);
by_axes!(boxes, |u, v| u.max(v));
by_axes!(crosses, |u, v| u.min(v));
by_axes!(diamonds, |u, v| u + v);

#[multiversion(targets("x86_64+avx2+fma"))]
fn circles(x: &[f32], y: &[f32], out: &mut [f32], laid: &Laid) {
    let Laid { centre, scale, offset, .. } = *laid;
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        let (dx, dy) = (x - centre.0, y - centre.1);
        *out = (dx * dx + dy * dy).sqrt() * scale.0 + offset;
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn ring(x: &[f32], y: &[f32], out: &mut [f32], laid: &Laid) {
    let Laid { centre, around, offset, .. } = *laid;
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        *out = angle_turns(x - centre.0, y - centre.1) * around + offset;
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn spirals(x: &[f32], y: &[f32], out: &mut [f32], laid: &Laid) {
    let Laid { centre, scale, around, twist, offset, .. } = *laid;
    for ((out, x), y) in out.iter_mut().zip(x).zip(y) {
        let (dx, dy) = (x - centre.0, y - centre.1);
        *out = angle_turns(dx, dy) * around + (dx * dx + dy * dy).sqrt() * scale.0 * twist + offset;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const WHOLE: Layout =
        Layout { shape: Shape::Line, turn: 0.0, centre: [0.5; 2], repeats: 1.0, wavelength: 0.0, twist: 1.0 };

    fn place(layout: Layout, at: (f32, f32), phase: f32) -> f32 {
        let (x, y) = ([at.0], [at.1]);
        let cells = Cells::on_plane(&x, &y, 20.0, 10.0);
        let mut out = [0.0];
        layout.on(&cells, phase).places(&cells, &mut out);
        out[0]
    }

    fn of(shape: Shape) -> Layout {
        Layout { shape, ..WHOLE }
    }

    #[test]
    fn each_shape_begins_at_its_centre_and_ends_at_the_edge() {
        let near = |shape, at, wanted: f32| {
            let is = place(of(shape), at, 0.0);
            assert!((is - wanted).abs() < 1e-5, "{shape:?} at {at:?} is {is} and not {wanted}");
        };
        near(Shape::Line, (0.0, 3.0), 0.0);
        near(Shape::Line, (20.0, 3.0), 1.0);
        for shape in [Shape::Mirrored, Shape::Box, Shape::Circle, Shape::Cross, Shape::Diamond, Shape::InAndOut] {
            near(shape, (10.0, 5.0), 0.0);
            near(shape, (20.0, 10.0), 1.0);
            near(shape, (0.0, 0.0), 1.0);
        }
        near(Shape::Mirrored, (15.0, 0.0), 0.5);
        near(Shape::Box, (10.0, 10.0), 1.0);
        near(Shape::Cross, (20.0, 5.0), 0.0);
        near(Shape::Diamond, (20.0, 5.0), 0.5);
        near(Shape::RingAround, (10.0, 9.0), 0.25);
        near(Shape::Spiral, (10.0 + 125.0f32.sqrt(), 5.0), 1.0);
    }

    #[test]
    fn a_centre_may_lie_off_the_lights() {
        let off = Layout { centre: [1.5, 0.5], ..of(Shape::Circle) };
        assert!(place(off, (30.0, 5.0), 0.0).abs() < 1e-6);
        assert!(place(off, (20.0, 5.0), 0.0) > 0.8);
        let moved = Layout { centre: [0.75, 0.5], ..of(Shape::Line) };
        assert!((place(moved, (5.0, 0.0), 0.0)).abs() < 1e-6, "a line moves with its centre");
    }

    #[test]
    fn shapes_move_without_an_end_and_in_and_out_comes_back() {
        for shape in [Shape::Line, Shape::Mirrored, Shape::Box, Shape::Spiral, Shape::Cross, Shape::RingAround] {
            let moved = place(of(shape), (13.0, 7.0), 0.0) - place(of(shape), (13.0, 7.0), 0.25);
            assert!((moved - 0.25).abs() < 1e-5, "{shape:?} moves by {moved}");
        }
        let at = |phase| place(of(Shape::InAndOut), (13.0, 7.0), phase);
        assert!((at(0.25) - at(0.75)).abs() < 1e-5 && (at(0.0) - at(0.5) - 1.0).abs() < 1e-5);
    }

    #[test]
    fn a_length_in_lights_is_that_long_along_each_axis() {
        let four = |shape| Layout { wavelength: 4.0, ..of(shape) };
        assert!((place(four(Shape::Box), (14.0, 5.0), 0.0) - 1.0).abs() < 1e-5);
        assert!((place(four(Shape::Box), (10.0, 9.0), 0.0) - 1.0).abs() < 1e-5);
        assert!((place(four(Shape::Circle), (10.0, 9.0), 0.0) - 1.0).abs() < 1e-5);
    }

    #[test]
    fn around_a_cone_a_spiral_winds_by_the_angle() {
        let (x, y, around) = ([3.0, 3.0], [0.0, 5.0], [0.25, f32::NAN]);
        let cells = Cells { around: &around, ..Cells::on_plane(&x, &y, 20.0, 10.0) };
        let mut out = [0.0; 2];
        of(Shape::RingAround).on(&cells, 0.0).places(&cells, &mut out);
        assert!((out[0] - 0.25).abs() < 1e-6 && (out[1].abs() - 0.5).abs() < 1e-6, "{out:?}");
    }
}
