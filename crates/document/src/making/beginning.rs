//! A show to begin with: some lights side by side, a route to them, and a few looks that move across them.

use crate::edit::{Batch, Edit, Rows};
use crate::file;
use crate::patch::{Packing, Plan};
use splimo_show::{Address, Corner, Layer, Look, Param, Run, Shape, Show, Wiring};

/// The lights of a new show.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum FirstLights {
    /// Upright tubes or battens side by side.
    Tubes {
        /// The number of them.
        count: u32,
        /// The pixels of each.
        pixels: u32,
        /// True if every second one is wired from the other end.
        turns: bool,
    },
    /// A panel of pixels.
    Panel {
        /// Its columns.
        columns: u32,
        /// Its rows.
        rows: u32,
        /// True if every second row goes back.
        turns: bool,
    },
    /// Single lights in a row, each with its channels.
    Single {
        /// The number of them.
        count: u32,
    },
}

/// The answers that a new show is made from.
#[derive(Debug, Clone, PartialEq)]
pub struct Beginning {
    /// The name of the show.
    pub name: String,
    /// Its lights.
    pub lights: FirstLights,
    /// The profile of a cell, such as `rgb`.
    pub profile: String,
    /// The first address.
    pub first: Address,
    /// The way universes leave: `art-net` or `sacn`.
    pub transport: String,
    /// The destinations, as a route has them.
    pub to: String,
}

/// The looks of a new show: a name, an effect, and its colours.
const LOOKS: [(&str, &str, &[&str]); 6] = [
    ("Glow", "solid", &["#ff9a4d"]),
    ("Wave", "gradient", &["#1d3cff", "#00d0ff", "#1d3cff"]),
    ("Chase", "chase", &[]),
    ("Sparkle", "sparkle", &[]),
    ("Rainbow", "rainbow", &[]),
    ("Pulse", "pulse", &[]),
];

impl Beginning {
    /// The show.
    ///
    /// # Errors
    /// In words, where lights, profile or route cannot be so.
    pub fn show(&self) -> Result<Show, String> {
        let name = if self.name.trim().is_empty() { "New show" } else { self.name.trim() };
        let added = Edit::Add(self.batch()).apply(&Show::empty(name)).map_err(|why| why.to_string())?;
        let mut show = self.turned(added);
        let last = last_universe(&show);
        show.routes = self.routes(last)?;
        show.looks =
            LOOKS.iter().map(|(name, effect, colours)| Look::new(name, vec![layer(effect, colours)])).collect();
        "Glow".clone_into(&mut show.settings.safe_look);
        // As it is once it is read from its file, with pads for its looks.
        let read = file::write(&show).and_then(|text| crate::file::read(&text));
        read.map(|opened| opened.show).map_err(|why| why.message)
    }

    fn batch(&self) -> Batch {
        let (name, count, shape, wiring, angle) = match self.lights {
            FirstLights::Tubes { count, pixels, .. } => {
                ("Tube", count, Shape::Line { cells: pixels }, Wiring::default(), 90.0)
            }
            FirstLights::Panel { columns, rows, turns } => {
                ("Panel", 1, Shape::Grid { columns, rows }, Wiring { turns, ..Wiring::default() }, 0.0)
            }
            FirstLights::Single { count } => ("Light", count, Shape::Line { cells: 1 }, Wiring::default(), 0.0),
        };
        Batch {
            name: name.to_owned(),
            profile: self.profile.clone(),
            count,
            shape,
            wiring,
            angle,
            pitch: 1.0,
            rows: Rows::Row,
            gap: 1.0,
            middle: None,
            plan: Some(Plan { first: self.first, packing: Packing::NextFree, split: false }),
            group: "All".to_owned(),
        }
    }

    /// Has every second tube be wired from its other end.
    fn turned(&self, mut show: Show) -> Show {
        if let FirstLights::Tubes { turns: true, .. } = self.lights {
            let seconds = show.fixtures.iter_mut().skip(1).step_by(2);
            seconds.for_each(|tube| {
                tube.wiring = Wiring { start: Corner::TopRight, along: Run::Rows, ..Wiring::default() }
            });
        }
        show
    }

    /// A route with all universes.
    fn routes(&self, last: u32) -> Result<Vec<splimo_show::Route>, String> {
        let text = |words: &str| toml::Value::from(words).to_string();
        let first = self.first.universe;
        let universes = if last > first { format!("{first}-{last}") } else { first.to_string() };
        let route = format!(
            "version = 1\nname = \"x\"\n[[routes]]\nname = \"Lights\"\nuniverses = {}\nprotocol = {}\nto = {}\n",
            text(&universes),
            text(&self.transport),
            text(&self.to),
        );
        crate::file::read(&route).map(|opened| opened.show.routes).map_err(|why| why.message)
    }
}

fn last_universe(show: &Show) -> u32 {
    let occupancy = crate::patch::Occupancy::of(show);
    occupancy.unrouted(show).into_iter().max().unwrap_or(1)
}

fn layer(effect: &str, colours: &[&str]) -> Layer {
    let mut layer = Layer::new(effect);
    if !colours.is_empty() {
        let list = colours.iter().map(|colour| (*colour).to_owned()).collect();
        layer.params.insert("colours".to_owned(), Param::List(list));
    }
    layer
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::check::check;
    use splimo_show::Severity;

    fn beginning(lights: FirstLights, profile: &str) -> Beginning {
        Beginning {
            name: "Hall".to_owned(),
            lights,
            profile: profile.to_owned(),
            first: Address { universe: 1, channel: 1 },
            transport: "art-net".to_owned(),
            to: "127.0.0.2".to_owned(),
        }
    }

    #[test]
    fn each_beginning_is_a_show_without_errors() {
        for (lights, profile, cells, universes) in [
            (FirstLights::Tubes { count: 10, pixels: 60, turns: true }, "grb", 600, "1-4"),
            (FirstLights::Panel { columns: 16, rows: 16, turns: true }, "rgb", 256, "1-2"),
            (FirstLights::Single { count: 8 }, "dimmer strobe + rgb", 8, "1"),
        ] {
            let show = beginning(lights.clone(), profile).show().expect("a show");
            assert_eq!(splimo_light::rig::Rig::compile(&show).len(), cells, "{lights:?}");
            assert_eq!(show.routes[0].universes.to_string(), universes, "{lights:?}");
            let errors: Vec<_> = check(&show).into_iter().filter(|p| p.severity >= Severity::Error).collect();
            assert!(errors.is_empty(), "{lights:?}: {errors:?}");
            let text = file::write(&show).expect("it is written");
            assert_eq!(file::read(&text).expect("it is read").show, show);
        }
    }

    #[test]
    fn what_cannot_be_is_said_in_words() {
        let lights = || FirstLights::Single { count: 4 };
        let wrong = Beginning { to: "nowhere at all !".to_owned(), ..beginning(lights(), "rgb") };
        assert!(wrong.show().is_err_and(|why| why.contains("nowhere")), "{:?}", wrong.show());
        let wrong = beginning(lights(), "no such");
        assert!(wrong.show().is_err_and(|why| why.contains("no such")), "{:?}", wrong.show());
        let none = beginning(FirstLights::Single { count: 0 }, "rgb");
        assert!(none.show().is_err());
    }
}
