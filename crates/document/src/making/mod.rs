//! Making looks out of looks: variations, frozen moments, copied properties, changes of many at once. Each is a function from
//! looks to looks.

pub mod aims;
mod areas;
mod beginning;
mod bulk;
mod control;
mod copy;
mod cue_sheet;
mod cues;
mod freeze;
pub mod patterns;
mod turns;
mod vary;

pub use areas::{AREAS, area_named, name_of_area};
pub use beginning::{Beginning, FirstLights};
pub use bulk::{LayerChange, change_all};
pub use control::{binds_control, control_of, controlled, controls_in_use, free_control};
pub use copy::{Property, put_on};
pub use cue_sheet::{LONGEST_SHEET, Sheet, SheetFailure, read_sheet, write_sheet};
pub use cues::{list_of, own_looks, recorded, updated};
pub use freeze::{frozen_layers, frozen_light};
pub(crate) use turns::has_turns;
pub use turns::{in_turn, next_looks};
pub use vary::variation;

#[cfg(test)]
mod tests;

use splimo_light::effect::{ParamKind, ParamSpec};
use splimo_show::{Layer, Param};

/// The value of a layer's parameter, or its default.
#[must_use]
pub fn value_of(layer: &Layer, spec: &ParamSpec) -> Param {
    layer.params.get(spec.name).cloned().unwrap_or_else(|| default_of(spec))
}

/// The default of a parameter.
#[must_use]
pub fn default_of(spec: &ParamSpec) -> Param {
    match spec.kind {
        ParamKind::Number { default, .. } => Param::Number(shortest(default)),
        ParamKind::Rate { default } | ParamKind::Text { default } => Param::Text(default.to_owned()),
        ParamKind::Colours { default } => Param::List(default.iter().map(|&c| c.to_owned()).collect()),
        ParamKind::Looks | ParamKind::Times => Param::List(Vec::new()),
        ParamKind::File { .. } | ParamKind::Aim => Param::Text(String::new()),
        ParamKind::Choice { options } => Param::Text(options.first().map_or_else(String::new, |&o| o.to_owned())),
    }
}

/// Sets a parameter; what is as it would be anyway is not kept.
pub fn set_value(layer: &mut Layer, spec: &ParamSpec, value: Param) {
    if value == default_of(spec) {
        layer.params.remove(spec.name);
    } else {
        layer.params.insert(spec.name.to_owned(), value);
    }
}

/// The number that is written as shortly as this one, without the digits that come of its width.
#[must_use]
pub fn shortest(number: f32) -> f64 {
    number.to_string().parse().unwrap_or(f64::from(number))
}
