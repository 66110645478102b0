//! The colours that a still look holds, one for each light, as text: for each fixture `rrggbb` behind one another with spaces
//! between, and `*3` behind one that three lights in a row have.

mod onto;

use std::collections::BTreeMap;

pub(crate) use onto::Held;
pub use onto::Onto;

use crate::rig::Rig;
use splimo_base::colour::{CLEAR, Hex, Rgba, to_screen};
use splimo_show::Show;

/// The reason why a text does not hold colours of lights.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("\"{0}\" is no colour of lights: write \"rrggbb\", and \"rrggbb*3\" for three in a row")]
pub struct BadLights(String);

/// Reads the colours of a fixture's lights.
///
/// # Errors
/// [`BadLights`] with the word.
pub fn parse(text: &str) -> Result<Vec<Rgba>, BadLights> {
    let mut lights = Vec::new();
    for word in text.split_whitespace() {
        let bad = || BadLights(word.chars().take(20).collect());
        let (colour, times) = word.split_once('*').unwrap_or((word, "1"));
        let colour = Hex::parse(&format!("#{colour}")).filter(|_| colour.len() == 6).ok_or_else(bad)?;
        let times = times.parse::<u32>().ok().filter(|t| (1..=65_536).contains(t)).ok_or_else(bad)?;
        lights.extend(std::iter::repeat_n(colour.to_linear(), times as usize));
        if lights.len() > splimo_show::MOST_CELLS as usize {
            return Err(bad());
        }
    }
    Ok(lights)
}

/// Writes light as the colours of a fixture.
#[must_use]
pub fn write(light: &[[f32; 3]]) -> String {
    let mut words: Vec<(String, usize)> = Vec::new();
    for light in light {
        let [r, g, b] = to_screen(*light);
        let word = format!("{r:02x}{g:02x}{b:02x}");
        match words.last_mut() {
            Some((last, times)) if *last == word => *times += 1,
            _ => words.push((word, 1)),
        }
    }
    let text = |(word, times): (String, usize)| if times == 1 { word } else { format!("{word}*{times}") };
    words.into_iter().map(text).collect::<Vec<_>>().join(" ")
}

/// The colour of each LED of a rig; clear where none is held.
#[must_use]
pub fn read(lights: &BTreeMap<String, String>, show: &Show, rig: &Rig) -> Vec<Rgba> {
    let mut held = vec![CLEAR; rig.len()];
    for (fixture, patched) in show.fixtures.iter().zip(&rig.fixtures) {
        let Some(colours) = lights.get(&fixture.name).and_then(|text| parse(text).ok()) else { continue };
        for (led, colour) in patched.leds().zip(colours) {
            held[led] = colour;
        }
    }
    held
}

/// The colours of all lights of a rig, as a still look holds them.
#[must_use]
pub fn hold(light: &[[f32; 3]], show: &Show, rig: &Rig) -> BTreeMap<String, String> {
    let of = |(fixture, patched): (&splimo_show::Fixture, &crate::rig::Patched)| {
        let range = patched.leds();
        let lights = light.get(range)?;
        Some((fixture.name.clone(), write(lights)))
    };
    show.fixtures.iter().zip(&rig.fixtures).filter_map(of).filter(|(_, text)| !text.is_empty()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lights_are_written_and_read_again() {
        let light = [[1.0, 0.0, 0.0], [1.0, 0.0, 0.0], [0.0, 0.0, 1.0]];
        assert_eq!(write(&light), "ff0000*2 0000ff");
        let back = parse(&write(&light)).expect("reads");
        assert_eq!(back.len(), 3);
        assert!(back[1][0] > 0.999 && back[2][2] > 0.999 && back[2][3] == 1.0);
    }

    #[test]
    fn what_is_no_colour_is_refused() {
        for bad in ["red", "ff00", "ff0000*0", "ff0000*x", "ff0000ff", "ff0000*99999999"] {
            assert!(parse(bad).is_err(), "{bad}");
        }
        assert!(parse(&"ff0000*65536 ".repeat(3)).is_err(), "more than a fixture may have");
    }
}
