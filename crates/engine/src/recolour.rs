//! The two colours of the stage: what is bright takes the first, what is dark the second, and black stays black.

use serde::{Deserialize, Serialize};

use splimo_base::colour::Rgba;
use splimo_show::command::ColourPart;

/// The two colours of the stage, and how far light takes them.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Recolour {
    /// The colours, linear, 0..1.
    pub colours: [[f32; 3]; 2],
    /// The share to which light takes them, 0..1.
    pub by: f32,
}

impl Default for Recolour {
    fn default() -> Self {
        Self { colours: [[1.0; 3]; 2], by: 0.0 }
    }
}

impl Recolour {
    /// True if light keeps its own colours.
    #[must_use]
    pub fn is_off(&self) -> bool {
        self.by <= 0.0
    }

    pub(super) fn set(&mut self, part: ColourPart) {
        if let Some(level) =
            self.colours.get_mut(usize::from(part.colour)).and_then(|one| one.get_mut(usize::from(part.part)))
        {
            *level = (part.percent / 100.0).clamp(0.0, 1.0);
        }
    }

    /// Colours light.
    pub(super) fn apply(&self, light: &mut [Rgba]) {
        if self.is_off() {
            return;
        }
        let [bright, dark] = &self.colours;
        for led in light {
            let level = led[0].max(led[1]).max(led[2]).clamp(0.0, 1.0);
            for part in 0..3 {
                let coloured = level * (dark[part] + (bright[part] - dark[part]) * level);
                led[part] += (coloured - led[part]) * self.by;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn bright_light_takes_the_first_colour_dark_light_the_second_and_black_neither() {
        let colours = [[1.0, 0.0, 0.0], [0.0, 0.0, 1.0]];
        let mut light = [[0.2, 1.0, 0.2, 1.0], [0.0, 0.5, 0.0, 1.0], [0.0, 0.0, 0.0, 1.0]];
        let plain = light;
        Recolour { colours, by: 0.0 }.apply(&mut light);
        assert_eq!(light, plain);
        Recolour { colours, by: 1.0 }.apply(&mut light);
        assert_eq!(light, [[1.0, 0.0, 0.0, 1.0], [0.25, 0.0, 0.25, 1.0], [0.0, 0.0, 0.0, 1.0]]);
    }
}
