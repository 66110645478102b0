//! Looks and their layers.

use std::collections::BTreeMap;
use std::fmt;

use serde::de::{Deserializer, SeqAccess, Visitor};
use serde::{Deserialize, Serialize};

use super::{Modulator, Pattern, Repeat, Span, Tint};
use splimo_time::music::Section;

/// A look: layers from the lowest to the topmost, kept under a name. A pattern is a look that is written bar by bar.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Look {
    /// The name, unique among looks.
    pub name: String,
    /// Words by which it is found again.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tags: Vec<String>,
    /// The colour by which it is told from others on a screen.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub colour: Option<Tint>,
    /// The parts of the music that it fits, for the rotation; empty means all.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub fits: Vec<Section>,
    /// The layers, the lowest first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub layers: Vec<Layer>,
    /// The pattern that is written over the layers, bar by bar.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pattern: Option<Pattern>,
}

impl Look {
    /// A look of a name and some layers.
    #[must_use]
    pub fn new(name: &str, layers: Vec<Layer>) -> Self {
        Self { name: name.to_owned(), tags: Vec::new(), colour: None, fits: Vec::new(), layers, pattern: None }
    }

    /// The layers that are seen: if any is solo those that are, and never one that is muted.
    pub fn seen(&self) -> impl Iterator<Item = (usize, &Layer)> {
        let solo = self.layers.iter().any(|layer| layer.solo);
        self.layers.iter().enumerate().filter(move |(_, layer)| !layer.mute && (layer.solo || !solo))
    }
}

/// One effect on some of the lights.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Layer {
    /// The name of the effect.
    pub effect: String,
    /// Names of groups and fixtures; empty means every fixture.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub target: Vec<String>,
    /// Over what the effect is stretched.
    #[serde(default)]
    pub span: Span,
    /// The layer's rectangle on its span.
    #[serde(default, skip_serializing_if = "Area::is_whole")]
    pub area: Area,
    /// The region in the place of that rectangle, by its name; empty where it has none.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub region: String,
    /// The way the parts of the span (its groups, its fixtures) repeat the effect.
    #[serde(default, skip_serializing_if = "Repeat::is_alike")]
    pub repeat: Repeat,
    /// By how much each part of the span is later than the one before, in percent of a cycle.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub later: f32,
    /// The place in its cycles at which the effect begins, in turns.
    #[serde(default, skip_serializing_if = "is_start")]
    pub phase: f64,
    /// True if it is left out.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub mute: bool,
    /// True if only it, and others that are solo, are seen.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub solo: bool,
    /// The opacity of the layer, 0..1.
    #[serde(default = "full")]
    pub opacity: f32,
    /// The way it meets the layers below.
    #[serde(default)]
    pub blend: Blend,
    /// The effect's parameters that differ from its defaults, by name.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub params: BTreeMap<String, Param>,
    /// The modulators that move its parameters.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub modulators: Vec<Modulator>,
    /// For `still`: the colour of each light of a fixture, by its name, as `rrggbb` behind one another; `*3` repeats.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub lights: BTreeMap<String, String>,
}

impl Layer {
    /// A layer of an effect on every light, with everything at its default.
    #[must_use]
    pub fn new(effect: &str) -> Self {
        Self {
            effect: effect.to_owned(),
            target: Vec::new(),
            span: Span::Canvas,
            area: Area::WHOLE,
            region: String::new(),
            repeat: Repeat::Alike,
            later: 0.0,
            phase: 0.0,
            mute: false,
            solo: false,
            opacity: 1.0,
            blend: Blend::Normal,
            params: BTreeMap::new(),
            modulators: Vec::new(),
            lights: BTreeMap::new(),
        }
    }
}

fn is_zero(number: &f32) -> bool {
    *number == 0.0
}

fn is_start(turns: &f64) -> bool {
    *turns == 0.0
}

impl Blend {
    /// Every one.
    pub const ALL: [Self; 9] = [
        Self::Normal,
        Self::Add,
        Self::Screen,
        Self::Multiply,
        Self::Lighten,
        Self::Darken,
        Self::Subtract,
        Self::Difference,
        Self::Mask,
    ];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Normal => "normal",
            Self::Add => "add",
            Self::Screen => "screen",
            Self::Multiply => "multiply",
            Self::Lighten => "lighten",
            Self::Darken => "darken",
            Self::Subtract => "subtract",
            Self::Difference => "difference",
            Self::Mask => "mask",
        }
    }
}

fn full() -> f32 {
    1.0
}

/// A rectangle in percent of a span; it may reach beyond it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Area {
    /// The left edge.
    pub x: f32,
    /// The top edge.
    pub y: f32,
    /// The width, above 0.
    pub width: f32,
    /// The height, above 0.
    pub height: f32,
}

impl Area {
    /// The whole span.
    pub const WHOLE: Self = Self { x: 0.0, y: 0.0, width: 100.0, height: 100.0 };

    fn is_whole(&self) -> bool {
        *self == Self::WHOLE
    }
}

impl Default for Area {
    fn default() -> Self {
        Self::WHOLE
    }
}

/// The way a layer meets what lies below it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Blend {
    /// It covers what is below.
    #[default]
    Normal,
    /// Its light is added.
    Add,
    /// Its light is added to what is missing to full.
    Screen,
    /// It filters what is below.
    Multiply,
    /// The brighter of both, for each colour.
    #[serde(alias = "max")]
    Lighten,
    /// The darker of both, for each colour.
    Darken,
    /// Its light is taken away.
    Subtract,
    /// The difference between both, for each colour.
    Difference,
    /// Its brightness lets what is below through.
    Mask,
}

/// The value of a parameter as it stands in a file; the effect's declaration says which kind it has to be.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(untagged)]
pub enum Param {
    /// On or off.
    Flag(bool),
    /// A number.
    Number(f64),
    /// A word, a text, a rate or a colour.
    Text(String),
    /// The stops of a gradient.
    List(Vec<String>),
}

impl<'de> Deserialize<'de> for Param {
    // By hand, since an untagged enum would lose the line of an error.
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct AnyParam;

        impl<'de> Visitor<'de> for AnyParam {
            type Value = Param;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a number, true or false, a text, or a list of colours")
            }

            fn visit_bool<E>(self, flag: bool) -> Result<Param, E> {
                Ok(Param::Flag(flag))
            }

            fn visit_i64<E>(self, number: i64) -> Result<Param, E> {
                Ok(Param::Number(number as f64))
            }

            fn visit_u64<E>(self, number: u64) -> Result<Param, E> {
                Ok(Param::Number(number as f64))
            }

            fn visit_f64<E>(self, number: f64) -> Result<Param, E> {
                Ok(Param::Number(number))
            }

            fn visit_str<E>(self, text: &str) -> Result<Param, E> {
                Ok(Param::Text(text.to_owned()))
            }

            fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<Param, A::Error> {
                let mut list = Vec::new();
                while let Some(text) = seq.next_element()? {
                    list.push(text);
                }
                Ok(Param::List(list))
            }
        }

        deserializer.deserialize_any(AnyParam)
    }
}
