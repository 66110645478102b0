//! Splimo as one more fixture of a lighting desk: which of its channels moves what.

use serde::{Deserialize, Serialize};

use crate::event::{Condition, EventAddress};
use crate::{Answer, Band, Binding, CommandTemplate, PADS, SLOTS, Show, VALUE};

/// The values that one look takes: three are a per cent of a desk, so that each can be reached.
const A_LOOK: u16 = 4;
/// The looks that a channel can tell apart.
const LOOKS: usize = (255 / A_LOOK) as usize;
/// The values that one pad takes, and one bank.
const A_PAD: u16 = 7;
const A_BANK: u16 = 8;
/// The tiers that the full layout moves, and its controls.
const TIERS: usize = 4;
const CONTROLS: usize = 8;

/// A layout of channels.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum RemoteLayout {
    /// Eight channels.
    Compact,
    /// Thirty-two channels.
    Full,
}

/// A range of values of a channel.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RemoteRange {
    /// The lowest value.
    pub from: u8,
    /// The highest.
    pub to: u8,
    /// The effect, in words.
    pub does: String,
}

/// A channel of a layout.
#[derive(Debug, Clone, PartialEq)]
pub struct RemoteChannel {
    /// Its name.
    pub name: String,
    /// Its ranges, the lowest first; they have no gaps.
    pub ranges: Vec<RemoteRange>,
    /// The value at which it rests.
    pub rests: u8,
    binding: Binding,
}

impl RemoteLayout {
    /// Every layout.
    pub const ALL: [Self; 2] = [Self::Compact, Self::Full];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Compact => "compact",
            Self::Full => "full",
        }
    }

    /// The number of channels.
    #[must_use]
    pub fn channels(self) -> u16 {
        match self {
            Self::Compact => 8,
            Self::Full => 32,
        }
    }

    /// The channels, for the looks, tiers and banks of a show.
    #[must_use]
    pub fn list(self, show: &Show) -> Vec<RemoteChannel> {
        let lowest = show.stack()[0].name.as_str();
        match self {
            Self::Compact => {
                vec![master(), blackout(), strobe(), look(show, lowest), fade(), speed(), bank(show), pad()]
            }
            Self::Full => {
                let mut all = vec![master(), blackout(), strobe(), speed(), tempo(), fade()];
                for tier in 0..TIERS {
                    match show.stack().get(tier) {
                        Some(tier) => all.extend([look(show, &tier.name), tier_level(&tier.name)]),
                        None => all.extend([nothing("no tier"), nothing("no tier")]),
                    }
                }
                for colour in ["1", "2"] {
                    all.extend(["red", "green", "blue"].map(|part| colour_part(colour, part)));
                }
                all.extend([recolour(), bank(show), pad(), go()]);
                all.extend((1..=CONTROLS).map(|number| control(number, show)));
                all
            }
        }
    }

    /// The bindings that it stands for, from a first slot on. Channels behind the last slot have none.
    #[must_use]
    pub fn bindings(self, source: &str, first: u16, show: &Show) -> Vec<Binding> {
        let slots = (first.max(1)..=SLOTS).zip(self.list(show));
        let bound = slots.filter(|(_, channel)| !channel.binding.commands().count().eq(&0));
        bound
            .map(|(slot, channel)| Binding {
                source: source.to_owned(),
                event: EventAddress::Slot(slot, false),
                ..channel.binding
            })
            .collect()
    }
}

fn range(from: u16, to: u16, does: impl Into<String>) -> RemoteRange {
    RemoteRange { from: from.min(255) as u8, to: to.min(255) as u8, does: does.into() }
}

fn channel(name: impl Into<String>, ranges: Vec<RemoteRange>, binding: Binding) -> RemoteChannel {
    RemoteChannel { name: name.into(), ranges, rests: 0, binding }
}

/// A channel that follows the value over its whole range.
fn follows(name: impl Into<String>, does: &str, numbers: [f32; 2], unit: &str) -> RemoteChannel {
    let words = format!("{} to {} {unit}", numbers[0], numbers[1]);
    let binding = Binding { answer: Answer::Value, range: numbers, ..blank(does) };
    channel(name, vec![range(0, 255, words.trim_end())], binding)
}

/// The same with a lowest value at which it leaves things as they are.
fn follows_above_rest(name: &str, does: &str, numbers: [f32; 2], unit: &str) -> RemoteChannel {
    let plain = follows(name, does, numbers, unit);
    let ranges = vec![range(0, 0, "as it is"), range(1, 255, format!("{} to {} {unit}", numbers[0], numbers[1]))];
    RemoteChannel { ranges, binding: Binding { when: Some(Condition::Above(0.0)), ..plain.binding }, ..plain }
}

fn bands(name: impl Into<String>, ranges: Vec<(RemoteRange, Vec<String>)>) -> RemoteChannel {
    let bands =
        ranges.iter().map(|(range, does)| Band { from: u16::from(range.from), does: templates(does) }).collect();
    let binding = Binding { bands, hysteresis: 1, ..blank("") };
    channel(name, ranges.into_iter().map(|(range, _)| range).collect(), binding)
}

fn templates(texts: &[String]) -> Vec<CommandTemplate> {
    texts.iter().map(|text| text.as_str().into()).collect()
}

fn blank(does: &str) -> Binding {
    Binding::new("", EventAddress::Slot(1, false), does)
}

fn nothing(name: &str) -> RemoteChannel {
    channel(name, vec![range(0, 255, "nothing")], blank(""))
}

fn master() -> RemoteChannel {
    let plain = follows("master", "master {}", [0.0, 100.0], "%");
    RemoteChannel { rests: 255, ..plain }
}

fn blackout() -> RemoteChannel {
    let ranges = vec![
        (range(0, 127, "light"), vec!["set-blackout off".to_owned()]),
        (range(128, 255, "black out"), vec!["set-blackout on".to_owned()]),
    ];
    bands("blackout", ranges)
}

fn strobe() -> RemoteChannel {
    follows("strobe", "strobe {}", [0.0, 12.0], "flashes a second, within the strobe limit")
}

fn speed() -> RemoteChannel {
    follows_above_rest("speed", "speed {}", [0.0, 2.0], "times their own")
}

fn tempo() -> RemoteChannel {
    follows_above_rest("tempo", "tempo {}", [60.0, 180.0], "beats a minute")
}

fn fade() -> RemoteChannel {
    follows_above_rest("fade of looks", "next-fade {}", [0.0, 16.0], "beats")
}

fn tier_level(tier: &str) -> RemoteChannel {
    let plain = follows(format!("level of {tier}"), &format!("tier-level {tier} {VALUE}"), [0.0, 100.0], "%");
    RemoteChannel { rests: 255, ..plain }
}

fn control(number: usize, show: &Show) -> RemoteChannel {
    follows(show.control_words(number as u32), &format!("control {number} {VALUE}"), [0.0, 100.0], "%")
}

fn colour_part(colour: &str, part: &str) -> RemoteChannel {
    follows(format!("colour {colour}, {part}"), &format!("colour-part {colour} {part} {VALUE}"), [0.0, 100.0], "%")
}

fn recolour() -> RemoteChannel {
    follows("colours by", "recolour {}", [0.0, 100.0], "%: bright light takes colour 1, dark light colour 2")
}

/// Looks by their place in the list: one that is added behind the others moves none of them.
fn look(show: &Show, tier: &str) -> RemoteChannel {
    let mut ranges = vec![(range(0, 0, "as it is"), Vec::new())];
    for (place, look) in show.looks.iter().enumerate().take(LOOKS) {
        let from = 1 + place as u16 * A_LOOK;
        let does = vec![format!("fire-look {tier}/{}", look.name)];
        ranges.push((range(from, from + A_LOOK - 1, look.name.clone()), does));
    }
    let next = 1 + show.looks.len().min(LOOKS) as u16 * A_LOOK;
    if next <= 255 {
        ranges.push((range(next, 255, "nothing"), Vec::new()));
    }
    bands(format!("look of {tier}"), ranges)
}

fn bank(show: &Show) -> RemoteChannel {
    let mut ranges: Vec<(RemoteRange, Vec<String>)> = Vec::new();
    for (place, bank) in show.banks.iter().enumerate() {
        let from = place as u16 * A_BANK;
        ranges.push((range(from, from + A_BANK - 1, bank.name.clone()), vec![format!("choose-bank {}", place + 1)]));
    }
    let next = show.banks.len() as u16 * A_BANK;
    if next <= 255 {
        ranges.push((range(next, 255, "nothing"), Vec::new()));
    }
    bands("bank of pads", ranges)
}

fn pad() -> RemoteChannel {
    let mut ranges = vec![(range(0, 0, "none"), Vec::new())];
    for place in 1..=PADS {
        let from = 1 + (place as u16 - 1) * A_PAD;
        ranges.push((range(from, from + A_PAD - 1, format!("pad {place}")), vec![format!("bank-pad {place}")]));
    }
    ranges.push((range(1 + PADS as u16 * A_PAD, 255, "nothing"), Vec::new()));
    bands("pad of the bank", ranges)
}

fn go() -> RemoteChannel {
    let ranges = vec![
        (range(0, 63, "none"), Vec::new()),
        (range(64, 159, "back: take back all that waits"), vec!["disarm".to_owned()]),
        (range(160, 255, "go: land all that waits"), vec!["go".to_owned()]),
    ];
    bands("go and back", ranges)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Look, Tier};

    fn show() -> Show {
        let mut show = Show::empty("Remote");
        show.looks = ["Tide", "Gale", "Low / high"].map(|name| Look::new(name, Vec::new())).to_vec();
        show.tiers = ["base", "top"].map(Tier::new).to_vec();
        show.give_banks();
        show
    }

    #[test]
    fn a_layout_has_the_channels_that_it_says_and_each_value_means_one_thing() {
        let show = show();
        for layout in RemoteLayout::ALL {
            let list = layout.list(&show);
            assert_eq!(list.len(), usize::from(layout.channels()), "{}", layout.name());
            for channel in &list {
                let mut next = 0u16;
                for range in &channel.ranges {
                    assert_eq!(u16::from(range.from), next, "{}: {range:?}", channel.name);
                    assert!(range.to >= range.from);
                    next = u16::from(range.to) + 1;
                }
                assert_eq!(next, 256, "{}", channel.name);
            }
        }
    }

    #[test]
    fn channels_behind_the_last_slot_have_no_binding() {
        let bound = RemoteLayout::Compact.bindings("desk", 509, &show());
        let slots: Vec<&EventAddress> = bound.iter().map(|binding| &binding.event).collect();
        assert_eq!(slots.last(), Some(&&EventAddress::Slot(512, false)));
        assert_eq!(slots.len(), 4);
    }

    #[test]
    fn a_look_that_is_added_behind_the_others_moves_none_of_them() {
        let before = look(&show(), "base");
        let mut more = show();
        more.looks.push(Look::new("New", Vec::new()));
        let after = look(&more, "base");
        assert_eq!(before.ranges[..4], after.ranges[..4]);
        assert_eq!((after.ranges[4].from, after.ranges[4].does.as_str()), (13, "New"));
    }
}
