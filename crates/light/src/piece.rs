//! A piece of a layer: LEDs behind one another on one plane.

/// LEDs behind one another that share one plane.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Piece {
    /// The first LED of the rig.
    pub led: u32,
    /// The number of LEDs.
    pub count: u32,
    /// The place of their first position in [`crate::layer::LayerMap`].
    pub start: u32,
    /// The width of the plane, in pitches.
    pub width: f32,
    /// The height of the plane, in pitches.
    pub height: f32,
    /// The part of the span that it belongs to, from 0.
    pub part: u32,
}
