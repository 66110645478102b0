//! Values of a show that leave as slots: levels, colours of the palette and the light of cells, written over what is there.

use super::tiers::Tiers;
use splimo_base::colour::{Rgba, linear_to_srgb};
use splimo_base::ramp::Stop;
use splimo_light::rig::Rig;
use splimo_show::palette;
use splimo_show::{OutSource, OutTarget, SLOTS, Show, ValueOut};

/// A source, by places.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Source {
    Master,
    Control(usize),
    Tier(usize),
    Group(usize),
    Colour([f32; 3]),
    Led(usize),
}

/// The levels that may leave, 0..1 each.
pub(super) struct Levels<'a> {
    pub(super) master: f32,
    pub(super) tiers: &'a Tiers,
    pub(super) groups: &'a [f32],
    pub(super) controls: &'a [f32; splimo_show::CONTROLS],
}

/// A value that leaves, and the places of its first slot in a frame: one for each variant of the universe.
struct SlotOut {
    out: ValueOut,
    source: Source,
    slots: Vec<usize>,
}

/// The values of a show that leave as slots.
#[derive(Default)]
pub(super) struct ValuesOut(Vec<SlotOut>);

impl ValuesOut {
    pub(super) fn of(show: &Show, rig: &Rig) -> Self {
        let all = show.values_out.iter().filter_map(|out| {
            let OutTarget::Dmx(address) = &out.to else { return None };
            let first = rig.slot_index(address.universe, address.channel - 1)?;
            let needs = out.parts() * usize::from(out.range.slots());
            let variants = rig.variants[first / usize::from(SLOTS)].len();
            let slots = (0..variants).map(|variant| first + variant * rig.stride());
            let slots: Vec<usize> =
                slots.filter(|slot| slot % usize::from(SLOTS) + needs <= usize::from(SLOTS)).collect();
            Some(SlotOut { out: out.clone(), source: source_of(&out.what, show, rig)?, slots })
        });
        Self(all.collect())
    }

    /// Writes the values into the slots of a frame.
    pub(super) fn write(&self, levels: &Levels<'_>, light: &[Rgba], slots: &mut [u8]) {
        for SlotOut { out, source, slots: places } in &self.0 {
            let value = source.value(levels, light);
            let width = usize::from(out.range.slots());
            for &first in places {
                for part in 0..out.parts() {
                    let bytes = out.range.bytes(out.part(part, value));
                    let at = first + part * width;
                    slots[at..at + width].copy_from_slice(&bytes[..width]);
                }
            }
        }
    }
}

impl Source {
    fn value(self, levels: &Levels<'_>, light: &[Rgba]) -> [f32; 3] {
        match self {
            Self::Master => [levels.master; 3],
            Self::Control(place) => [levels.controls[place]; 3],
            Self::Tier(tier) => [levels.tiers.tiers.get(tier).map_or(0.0, |tier| tier.level); 3],
            Self::Group(group) => [levels.groups.get(group).copied().unwrap_or(1.0); 3],
            Self::Colour(colour) => colour,
            Self::Led(led) => light.get(led).map_or([0.0; 3], |[r, g, b, _]| [*r, *g, *b].map(linear_to_srgb)),
        }
    }
}

fn source_of(what: &OutSource, show: &Show, rig: &Rig) -> Option<Source> {
    match what {
        OutSource::Master => Some(Source::Master),
        OutSource::Control(number) => Some(Source::Control(usize::from(*number).checked_sub(1)?)),
        OutSource::Tier(name) => show.tier(name).map(Source::Tier),
        OutSource::Group(name) => show.groups.iter().position(|group| group.name == *name).map(Source::Group),
        OutSource::Colour(name) => colour_of(show, name).map(Source::Colour),
        OutSource::Light(fixture, cell) => led_of(show, rig, fixture, *cell).map(Source::Led),
    }
}

/// The first colour of an entry of the palette, as screens have it (sRGB, 0..1).
#[must_use]
pub fn colour_of(show: &Show, name: &str) -> Option<[f32; 3]> {
    let text = palette::reference(name);
    let stops: Vec<Stop> = palette::stops(std::iter::once(text.as_str()), &show.palette).ok()?;
    let [r, g, b, _] = stops.first()?.colour.0;
    Some([r, g, b].map(|part| f32::from(part) / 255.0))
}

/// The place of a cell of a fixture, from 1, among all lights.
#[must_use]
pub fn led_of(show: &Show, rig: &Rig, fixture: &str, cell: u32) -> Option<usize> {
    let place = show.fixtures.iter().position(|one| one.name == fixture)?;
    rig.fixtures.get(place)?.leds().nth(cell.checked_sub(1)? as usize)
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use super::*;
    use crate::{Engine, Inputs};
    use splimo_show::command::{ControlLevel, EngineCommand};
    use splimo_show::{OutRange, file};

    const SHOW: &str = r##"
version = 1
name = "Out"
settings = { dither = false }
[[palette]]
name = "Foam"
colours = ["#204080"]
[[fixtures]]
name = "Bar"
profile = "rgb"
address = "1.1"
shape = { line = { cells = 2 } }
x = 1.0
y = 1.0
[[looks]]
name = "red"
[[looks.layers]]
effect = "solid"
params = { colours = ["#ff0000"] }
[[values_out]]
what = "colour Foam"
to = "dmx 1.10"
order = "grb"
[[values_out]]
what = "control 3"
to = "dmx 2.1"
range = "word"
[[values_out]]
what = "light Bar / 2"
to = "dmx 2.10"
order = "bri"
range = "percent"
[[values_out]]
what = "master"
to = "dmx 2.512"
"##;

    #[test]
    fn values_leave_in_their_orders_and_ranges_in_universes_of_their_own() {
        let show = file::read_unchecked(SHOW).expect("a good show");
        let mut engine = Engine::new(Arc::new(show.clone()));
        engine.cut_to(0);
        engine.apply(&EngineCommand::Control(ControlLevel { control: 3, percent: 50.0 }), 0.0);
        let slots = engine.tick(0.1, &Inputs::default()).slots.clone();
        let at = |universe: usize, channel: usize, count: usize| {
            let first = (universe - 1) * 512 + channel - 1;
            slots[first..first + count].to_vec()
        };
        assert_eq!(at(1, 10, 3), [0x40, 0x20, 0x80]);
        assert_eq!(at(2, 1, 2), [0x80, 0x00]);
        assert_eq!(at(2, 10, 3), [0, 100, 100]);
        assert_eq!(at(2, 512, 1), [255]);
        assert_eq!(at(1, 1, 3), [255, 0, 0], "the fixtures have theirs");
        // What is chosen anew leaves anew, and what is not there does not leave.
        assert_eq!(colour_of(&show, "nobody"), None);
        assert_eq!(OutRange::Word.slots(), 2);
    }
}
