//! A control for a parameter: a modulator that has it follow one over all of its range.

use super::value_of;
use crate::reference;
use splimo_light::effect;
use splimo_light::modulate::{self, Target};
use splimo_show::CONTROLS;
use splimo_show::reference::ReferenceKind;
use splimo_show::{Layer, Modulator, ModulatorFields, ModulatorKind, Param, Show};

/// The lowest control that has no name, that nothing of a show follows and no binding moves.
#[must_use]
pub fn free_control(show: &Show) -> Option<u8> {
    let used = controls_in_use(show);
    (1..=CONTROLS as u8).find(|number| !used.contains(number))
}

/// The controls that have a name, that a look follows, or that a binding or a value out has to do with; in the order of their numbers.
#[must_use]
pub fn controls_in_use(show: &Show) -> Vec<u8> {
    let used = |number: &u8| {
        show.control_name(u32::from(*number)).is_some()
            || !reference::uses(show, ReferenceKind::Control, &number.to_string()).is_empty()
            || binds_control(show, *number)
    };
    (1..=CONTROLS as u8).filter(used).collect()
}

/// True if a binding moves a control.
#[must_use]
pub fn binds_control(show: &Show, number: u8) -> bool {
    let start = format!("control {number} ");
    show.bindings.iter().flat_map(|binding| binding.commands()).any(|text| text.starts_with(&start))
}

/// The control that what is called `name` follows on a layer already.
#[must_use]
pub fn control_of(layer: &Layer, name: &str) -> Option<u32> {
    layer.modulators.iter().find_map(|modulator| {
        let fields = ModulatorFields::from(modulator.clone());
        (fields.param == name && fields.source == ModulatorKind::Control).then_some(fields.number)
    })
}

/// A layer on which what is called `name` follows a control: from its least to its most, wherever it stands itself. None where there is
/// nothing of the name that can be moved.
#[must_use]
pub fn controlled(layer: &Layer, name: &str, control: u8) -> Option<Layer> {
    let spec = effect::find(&layer.effect)?;
    let (least, most, own) = match Target::named(name, spec)? {
        Target::Number { min, max, .. } => {
            let param = spec.params.iter().find(|param| param.name == name)?;
            let Param::Number(own) = value_of(layer, param) else { return None };
            (min, max, own as f32)
        }
        Target::Hue(_) => (0.0, 360.0, 0.0),
        Target::Brightness(_) => (-100.0, 0.0, 0.0),
        Target::Position(_) => (0.0, 100.0, 0.0),
        Target::Opacity => (0.0, 100.0, layer.opacity * 100.0),
        Target::Phase => (0.0, 100.0, 0.0),
    };
    let fields = ModulatorFields {
        offset: least - own,
        number: u32::from(control),
        ..ModulatorFields::from(Modulator::new(name, ModulatorKind::Control, most - least))
    };
    let modulator = Modulator::from(fields);
    modulate::check(&modulator, spec).ok()?;
    let mut layer = layer.clone();
    layer.modulators.push(modulator);
    Some(layer)
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::{Binding, Look};

    #[test]
    fn a_parameter_follows_a_control_from_its_least_to_its_most() {
        let layer = Layer { opacity: 0.8, ..Layer::new("plasma") };
        let moved = controlled(&layer, "opacity", 7).expect("it can be moved");
        let fields = ModulatorFields::from(moved.modulators[0].clone());
        assert_eq!((fields.offset, fields.depth, fields.number), (-80.0, 100.0, 7));
        assert_eq!(control_of(&moved, "opacity"), Some(7));
        assert_eq!(controlled(&layer, "nothing", 7), None);
        let spec = effect::find("plasma").expect("an effect");
        for name in Target::names(spec) {
            assert!(controlled(&layer, &name, 1).is_some(), "{name}");
        }
    }

    #[test]
    fn a_control_is_free_where_neither_looks_nor_bindings_have_it() {
        let mut show = Show::empty("Free");
        assert_eq!(free_control(&show), Some(1));
        let layer = controlled(&Layer::new("plasma"), "opacity", 1).expect("it can be moved");
        show.looks.push(Look::new("Tide", vec![layer]));
        show.bindings.push(Binding::new("box", "control 1".parse().expect("an event"), "control 2 {}"));
        assert_eq!(free_control(&show), Some(3));
    }
}
