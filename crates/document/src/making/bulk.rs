//! One change in many looks or layers together.

use crate::reference::{self, Fate};
use splimo_light::effect;
use splimo_show::palette;
use splimo_show::reference::ReferenceKind;
use splimo_show::{Area, Blend, Layer, Look, Param, Repeat, Span};

/// A change.
#[derive(Debug, Clone, PartialEq)]
pub enum LayerChange {
    /// A parameter, in every layer whose effect has it and takes the value.
    Param(String, Param),
    /// The target.
    Target(Vec<String>),
    /// The span.
    Span(Span),
    /// The area.
    Area(Area),
    /// The way the parts of the span repeat the effect.
    Repeat(Repeat),
    /// The opacity, 0..1.
    Opacity(f32),
    /// The way a layer meets those below.
    Blend(Blend),
    /// One entry of the palette in the place of another, by name.
    Swatch(String, String),
}

/// Changes layers of a look: those of `layers`, or all of them. Returns how many were changed.
pub fn change_all(look: &mut Look, layers: Option<&[usize]>, change: &LayerChange) -> usize {
    let mut changed = 0;
    for (index, layer) in look.layers.iter_mut().enumerate() {
        if layers.is_none_or(|chosen| chosen.contains(&index)) {
            let before = layer.clone();
            apply(layer, change);
            changed += usize::from(*layer != before);
        }
    }
    changed
}

fn apply(layer: &mut Layer, change: &LayerChange) {
    match change {
        LayerChange::Param(name, value) => {
            let Some(spec) = effect::find(&layer.effect) else { return };
            let Some(param) = spec.params.iter().find(|param| param.name == *name) else { return };
            let given = [(name.clone(), value.clone())].into();
            let refers =
                matches!(value, Param::List(list) if list.iter().any(|text| palette::referred(text).is_some()));
            if refers || effect::Params::compile(spec, &given, &[]).is_ok() {
                super::set_value(layer, param, value.clone());
            }
        }
        LayerChange::Target(target) => layer.target.clone_from(target),
        LayerChange::Span(span) => layer.span = *span,
        LayerChange::Area(area) => {
            layer.area = *area;
            layer.region.clear();
        }
        LayerChange::Repeat(repeat) => layer.repeat = *repeat,
        LayerChange::Opacity(opacity) => layer.opacity = opacity.clamp(0.0, 1.0),
        LayerChange::Blend(blend) => layer.blend = *blend,
        LayerChange::Swatch(old, new) => {
            let mut fate =
                |kinds: &[ReferenceKind], name: &str| match kinds.contains(&ReferenceKind::Swatch) && name == old {
                    true => Fate::Rename(new),
                    false => Fate::Keep,
                };
            reference::rewrite_layer(layer, &mut fate);
        }
    }
}
