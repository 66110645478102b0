//! The lights of a show and what shines on them: the rig compiled from the patch, layers, effects, modulators, lettering, pictures.
//!
//! It may use `splimo-base`, `splimo-time` and `splimo-show`. Its main types: [`rig::Rig`], flat arrays of LEDs; [`effect::Effect`],
//! what lights them; [`layer::LayerMap`], where each LED lies for one layer.

pub mod blend;
pub mod effect;
pub mod layer;
pub mod lettering;
pub mod media;
pub mod modulate;
mod piece;
pub mod rig;
pub mod still;
