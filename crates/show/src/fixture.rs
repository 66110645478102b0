//! A fixture: a shape of cells, how it is wired, where it lies and where its channels start.

use serde::{Deserialize, Serialize};

use super::{Address, Shape, Wiring};

/// One fixture.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Fixture {
    /// The name, unique among fixtures and groups.
    pub name: String,
    /// The name of its profile.
    pub profile: String,
    /// The address of its first channel; a fixture without one is not patched.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub address: Option<Address>,
    /// True if a cell may begin in one universe and end in the next.
    #[serde(default, skip_serializing_if = "is_false")]
    pub split: bool,
    /// Its cells' arrangement.
    pub shape: Shape,
    /// The order in which its cells are wired.
    #[serde(default, skip_serializing_if = "Wiring::is_usual")]
    pub wiring: Wiring,
    /// The middle of the shape on the canvas, in pitches from the left.
    pub x: f32,
    /// The middle of the shape on the canvas, in pitches from the top.
    pub y: f32,
    /// The distance between neighbouring cells, in pitches of the canvas, above 0.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    pub pitch: f32,
    /// The angle by which the shape is turned clockwise about its middle, in degrees.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub angle: f32,
    /// True if left and right of the shape are exchanged before it is turned.
    #[serde(default, skip_serializing_if = "is_false")]
    pub mirror: bool,
    /// The direction from left to right, in percent of what it can; for profiles that can.
    #[serde(default = "middle", skip_serializing_if = "is_middle")]
    pub pan: f32,
    /// The direction up and down, in percent of what it can; for profiles that can.
    #[serde(default = "middle", skip_serializing_if = "is_middle")]
    pub tilt: f32,
}

impl Fixture {
    /// A fixture that is not patched, with its middle in the canvas's corner.
    #[must_use]
    pub fn new(name: &str, profile: &str, shape: Shape) -> Self {
        Self {
            name: name.to_owned(),
            profile: profile.to_owned(),
            address: None,
            split: false,
            shape,
            wiring: Wiring::default(),
            x: 0.0,
            y: 0.0,
            pitch: 1.0,
            angle: 0.0,
            mirror: false,
            pan: 50.0,
            tilt: 50.0,
        }
    }

    /// The same fixture with its middle elsewhere.
    #[must_use]
    pub fn at(self, x: f32, y: f32) -> Self {
        Self { x, y, ..self }
    }

    /// The same fixture with another address.
    #[must_use]
    pub fn patched(self, universe: u32, channel: u16) -> Self {
        Self { address: Some(Address { universe, channel }), ..self }
    }
}

fn one() -> f32 {
    1.0
}

fn middle() -> f32 {
    50.0
}

fn is_one(x: &f32) -> bool {
    *x == 1.0
}

fn is_zero(x: &f32) -> bool {
    *x == 0.0
}

fn is_middle(x: &f32) -> bool {
    *x == 50.0
}

fn is_false(x: &bool) -> bool {
    !*x
}
