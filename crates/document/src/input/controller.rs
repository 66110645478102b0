//! Models of controllers, as data: what their controls are called, how their encoders count, and how they are lit and moved. A model is
//! a TOML file of its own.

use serde::{Deserialize, Deserializer};

use super::bindable;
use splimo_show::event::EventAddress;
use splimo_show::{Binding, Coding};

/// The most controls of a model.
const MOST_CONTROLS: usize = 512;

/// A model of a controller.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Controller {
    /// Its name.
    pub name: String,
    /// The values by which its lights show what their buttons do.
    #[serde(default)]
    pub lit: Lit,
    /// Its controls.
    #[serde(default)]
    pub controls: Vec<ControllerControl>,
    /// Bindings that a show can take over for it, without a source.
    #[serde(default, deserialize_with = "without_source")]
    pub bindings: Vec<Binding>,
}

/// The values by which a light shows what its button does, 0..127.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Lit {
    /// Nothing of it is on.
    pub off: u8,
    /// It waits for its boundary.
    pub armed: u8,
    /// It is on.
    pub on: u8,
}

impl Default for Lit {
    fn default() -> Self {
        Self { off: 0, armed: 64, on: 127 }
    }
}

/// A control of a model.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ControllerControl {
    /// Its name, as it stands on the box.
    pub name: String,
    /// The event that it sends.
    pub event: EventAddress,
    /// The code of an encoder.
    #[serde(default)]
    pub coding: Option<Coding>,
    /// True if it has a light.
    #[serde(default)]
    pub lit: bool,
    /// True if it has a motor, or a ring that shows its place.
    #[serde(default)]
    pub motor: bool,
}

/// Reads bindings of a model: as a show has them, but that they name no input.
fn without_source<'de, D: Deserializer<'de>>(from: D) -> Result<Vec<Binding>, D::Error> {
    let tables = Vec::<toml::Table>::deserialize(from)?;
    let read = |(place, mut table): (usize, toml::Table)| {
        let wrong = |why: &str| serde::de::Error::custom(format!("binding {}: {why}", place + 1));
        if table.insert("source".to_owned(), String::new().into()).is_some() {
            return Err(wrong("it names a source; a model is for any input"));
        }
        let binding = Binding::deserialize(table).map_err(|error| wrong(error.message()))?;
        let fault = binding.commands().find_map(|command| bindable(command).err());
        match fault {
            Some(why) => Err(wrong(&why)),
            None => Ok(binding),
        }
    };
    tables.into_iter().enumerate().map(read).collect()
}

impl Controller {
    /// The bindings of the model for an input that a show does not have yet.
    #[must_use]
    pub fn bindings_for(&self, input: &str, known: &[Binding]) -> Vec<Binding> {
        let named = self.bindings.iter().map(|binding| Binding { source: input.to_owned(), ..binding.clone() });
        named.filter(|binding| !known.contains(binding)).collect()
    }

    /// Reads a model.
    ///
    /// # Errors
    /// The fault of the text, and its line.
    pub fn read(text: &str) -> Result<Self, String> {
        let model: Self = toml::from_str(text).map_err(|error| {
            let line = error.span().map(|span| text[..span.start.min(text.len())].lines().count().max(1));
            let words = error.message().replace('\n', ", ");
            line.map_or(words.clone(), |line| format!("line {line}: {words}"))
        })?;
        if model.controls.len() > MOST_CONTROLS {
            return Err(format!("it has {} controls, and {MOST_CONTROLS} are the most", model.controls.len()));
        }
        Ok(model)
    }

    /// The control that sends an event.
    #[must_use]
    pub fn control(&self, event: &EventAddress) -> Option<&ControllerControl> {
        let any = event.of_any_channel();
        self.controls.iter().find(|control| control.event == *event || Some(&control.event) == any.as_ref())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_model_is_read_and_what_is_wrong_in_it_has_a_line() {
        let text = "name = \"Box\"\n[[controls]]\nname = \"knob\"\nevent = \"control 16\"\ncoding = \"offset\"\n";
        let model = Controller::read(text).expect("a model");
        let knob = model.control(&"control 16 channel 3".parse().expect("an event")).expect("it is there");
        assert_eq!((knob.name.as_str(), knob.coding), ("knob", Some(Coding::Offset)));
        for (bad, why) in
            [("name = 3", "line 1"), ("name = \"Box\"\n[[controls]]\nname = \"x\"\nevent = \"moon\"", "line 4")]
        {
            let error = Controller::read(bad).expect_err(why);
            assert!(error.contains(why), "{error}");
        }
    }

    #[test]
    fn a_model_has_bindings_that_go_to_any_input_once() {
        let bound = |does: &str| format!("name = \"Box\"\n[[bindings]]\nevent = \"note 1\"\ndo = [\"{does}\"]\n");
        let model = Controller::read(&bound("fire-pad 1")).expect("a model");
        let first = model.bindings_for("left", &[]);
        assert_eq!((first[0].source.as_str(), first.len()), ("left", 1));
        assert!(model.bindings_for("left", &first).is_empty());
        let error = Controller::read(&bound("dance")).expect_err("no command");
        assert!(error.contains("binding 1") && error.contains("dance"), "{error}");
        let error = Controller::read(&format!("{}source = \"x\"", bound("go"))).expect_err("a source");
        assert!(error.contains("any input"), "{error}");
    }
}
