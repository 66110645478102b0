//! Some properties of a layer put onto others.

use splimo_light::effect::{self, ParamKind, ParamSpec};
use splimo_show::Layer;

/// The property that is copied.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Property {
    /// Everything.
    Whole,
    /// Gradients, and how their colours meet.
    Colour,
    /// Rates, angles and phases: all that moves.
    Motion,
    /// Target, span, area, and how it repeats.
    Place,
    /// Modulators.
    Modulators,
}

impl Property {
    /// Every one.
    pub const ALL: [Self; 5] = [Self::Whole, Self::Colour, Self::Motion, Self::Place, Self::Modulators];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Whole => "whole layer",
            Self::Colour => "colour",
            Self::Motion => "motion",
            Self::Place => "target, span and area",
            Self::Modulators => "modulators",
        }
    }
}

/// A layer with a property of another put onto it. Of parameters those are copied that both effects have.
#[must_use]
pub fn put_on(layer: &Layer, from: &Layer, property: Property) -> Layer {
    let mut layer = layer.clone();
    match property {
        Property::Whole => return from.clone(),
        Property::Colour => copy_params(&mut layer, from, |spec| {
            matches!(spec.kind, ParamKind::Colours { .. })
                || matches!(spec.name, "mix" | "sharpness" | "saturation" | "level")
        }),
        Property::Motion => {
            copy_params(&mut layer, from, |spec| {
                matches!(spec.kind, ParamKind::Rate { .. })
                    || matches!(spec.name, "angle" | "way" | "easing" | "motion" | "drift")
            });
            (layer.phase, layer.later) = (from.phase, from.later);
        }
        Property::Place => {
            layer.target.clone_from(&from.target);
            (layer.span, layer.area) = (from.span, from.area);
            layer.region.clone_from(&from.region);
            (layer.repeat, layer.later) = (from.repeat, from.later);
        }
        Property::Modulators => {
            let Some(spec) = effect::find(&layer.effect) else { return layer };
            let fits = |m: &&splimo_show::Modulator| splimo_light::modulate::Target::named(&m.param, spec).is_some();
            layer.modulators = from.modulators.iter().filter(fits).cloned().collect();
        }
    }
    layer
}

fn copy_params(layer: &mut Layer, from: &Layer, wanted: impl Fn(&ParamSpec) -> bool) {
    let (Some(spec), Some(other)) = (effect::find(&layer.effect), effect::find(&from.effect)) else { return };
    for param in spec.params.iter().filter(|param| wanted(param)) {
        // The word has to mean the same in both.
        let Some(theirs) = other.params.iter().find(|p| p.name == param.name) else { continue };
        let value = super::value_of(from, theirs);
        let mut tried = layer.clone();
        super::set_value(&mut tried, param, value);
        if effect::Params::compile(spec, &only(&tried, param.name), &[]).is_ok()
            || matches!(param.kind, ParamKind::Colours { .. })
        {
            *layer = tried;
        }
    }
}

/// The value of one parameter alone, as a layer says it.
fn only(layer: &Layer, name: &str) -> std::collections::BTreeMap<String, splimo_show::Param> {
    layer.params.iter().filter(|(known, _)| *known == name).map(|(n, v)| (n.clone(), v.clone())).collect()
}
