//! Aims: named directions, and how far and how fast a head turns.

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

/// The most aims that a show has.
pub const MOST_AIMS: usize = 512;

/// A named direction: where each of some heads points.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Aim {
    /// The name, unique among aims.
    pub name: String,
    /// The heads that it points, each once.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub heads: Vec<AimedHead>,
}

/// The direction of one head in an aim. Three decimals tell all 65,536 values of two slots apart.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct AimedHead {
    /// The name of the fixture.
    pub fixture: String,
    /// The pan, in percent of what it can turn, 0..100.
    pub pan: f64,
    /// The tilt, in percent of what it can turn, 0..100.
    pub tilt: f64,
}

impl Aim {
    /// An aim that points no head yet.
    #[must_use]
    pub fn new(name: &str) -> Self {
        Self { name: name.to_owned(), heads: Vec::new() }
    }

    /// The direction of a fixture: pan and tilt in percent.
    #[must_use]
    pub fn of(&self, fixture: &str) -> Option<[f64; 2]> {
        self.heads.iter().find(|head| head.fixture == fixture).map(|head| [head.pan, head.tilt])
    }
}

/// The way a head turns: how far, and how fast at the most.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Swivel {
    /// The range of pan in degrees, 1..1080.
    #[serde(default = "usual_pan")]
    pub pan: f32,
    /// The range of tilt in degrees, 1..720.
    #[serde(default = "usual_tilt")]
    pub tilt: f32,
    /// The highest speed of pan in degrees a second, 1..2000.
    #[serde(default = "usual_pan_speed")]
    pub pan_speed: f32,
    /// The highest speed of tilt in degrees a second, 1..2000.
    #[serde(default = "usual_tilt_speed")]
    pub tilt_speed: f32,
}

fn usual_pan() -> f32 {
    540.0
}

fn usual_tilt() -> f32 {
    270.0
}

fn usual_pan_speed() -> f32 {
    220.0
}

fn usual_tilt_speed() -> f32 {
    160.0
}

impl Default for Swivel {
    fn default() -> Self {
        Self { pan: usual_pan(), tilt: usual_tilt(), pan_speed: usual_pan_speed(), tilt_speed: usual_tilt_speed() }
    }
}

/// As one writes it: the degrees of pan and tilt, then the degrees a second of both.
impl fmt::Display for Swivel {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} {} {} {}", self.pan, self.tilt, self.pan_speed, self.tilt_speed)
    }
}

impl FromStr for Swivel {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let numbers: Vec<f32> = text.split_whitespace().filter_map(|word| word.parse().ok()).collect();
        let [pan, tilt, pan_speed, tilt_speed] = numbers[..] else {
            return Err(format!("\"{text}\" is not how a head turns; write four numbers, such as 540 270 220 160"));
        };
        let swivel = Self { pan, tilt, pan_speed, tilt_speed };
        swivel.fault().map_or(Ok(swivel), Err)
    }
}

impl Swivel {
    /// The ranges of pan and tilt, in degrees.
    #[must_use]
    pub fn ranges(&self) -> [f64; 2] {
        [self.pan, self.tilt].map(f64::from)
    }

    /// The highest speeds of pan and tilt, in degrees a second.
    #[must_use]
    pub fn speeds(&self) -> [f64; 2] {
        [self.pan_speed, self.tilt_speed].map(f64::from)
    }

    /// The fault in it, if there is one.
    #[must_use]
    pub fn fault(&self) -> Option<String> {
        let ranges = [
            ("pan", self.pan, 1080.0),
            ("tilt", self.tilt, 720.0),
            ("pan_speed", self.pan_speed, 2000.0),
            ("tilt_speed", self.tilt_speed, 2000.0),
        ];
        let wrong = ranges.into_iter().find(|(_, value, most)| !(1.0..=*most).contains(value));
        wrong.map(|(key, value, most)| format!("a {key} of {value} in its swivel is out of range, 1 to {most}"))
    }
}
