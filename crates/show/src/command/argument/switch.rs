//! Arguments that are one of a few words, and what only programs write.

use super::{Argument, JSON};
use crate::{Boundary, HeldSlot, LightTest, Look};

impl Argument for Boundary {
    type Value = Self;
    const TAKES: &'static str = "one of now, beat, bar, 4 bars, phrase";
    fn parse(text: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|boundary| boundary.name() == text)
    }
    fn text(value: &Self) -> String {
        value.name().to_owned()
    }
}

impl Argument for bool {
    type Value = Self;
    const TAKES: &'static str = "on or off";
    fn parse(text: &str) -> Option<Self> {
        match text {
            "on" => Some(true),
            "off" => Some(false),
            _ => None,
        }
    }
    fn text(value: &Self) -> String {
        if *value { "on" } else { "off" }.to_owned()
    }
}

/// Fixtures count from 1 here, as on the list of the view Rig. What the short form cannot say is written as JSON.
impl Argument for LightTest {
    type Value = Self;
    const TAKES: &'static str = "off, flash, identify 3 4, walk 3 4, or hold 1.10 255 (universe.channel and value)";
    fn parse(text: &str) -> Option<Self> {
        if text.starts_with(['{', '"']) {
            return serde_json::from_str(text).ok();
        }
        let mut words = text.split_whitespace();
        let kind = words.next()?;
        let mut fixtures = || -> Option<Vec<u32>> {
            let numbers: Option<Vec<u32>> =
                words.by_ref().map(|word| word.parse::<u32>().ok()?.checked_sub(1)).collect();
            numbers.filter(|numbers| !numbers.is_empty())
        };
        match kind {
            "off" => Some(Self::Off).filter(|_| words.next().is_none()),
            "flash" => Some(Self::Flash).filter(|_| words.next().is_none()),
            "identify" => fixtures().map(Self::Identify),
            "walk" => fixtures().map(|fixtures| Self::Walk { fixtures, at: 0, speed: 0.0 }),
            "hold" => {
                let words: Vec<&str> = words.collect();
                let (pairs, rest) = words.as_chunks::<2>();
                let held: Option<Vec<HeldSlot>> = pairs.iter().map(|[place, value]| held(place, value)).collect();
                held.filter(|held| rest.is_empty() && !held.is_empty()).map(Self::Hold)
            }
            _ => None,
        }
    }
    fn text(value: &Self) -> String {
        let numbers =
            |fixtures: &[u32]| -> String { fixtures.iter().map(|fixture| format!(" {}", fixture + 1)).collect() };
        match value {
            Self::Off => "off".to_owned(),
            Self::Flash => "flash".to_owned(),
            Self::Identify(fixtures) if !fixtures.is_empty() => format!("identify{}", numbers(fixtures)),
            Self::Walk { fixtures, at: 0, speed: 0.0 } if !fixtures.is_empty() => format!("walk{}", numbers(fixtures)),
            Self::Identify(_) | Self::Walk { .. } | Self::Hold(_) => serde_json::to_string(value).unwrap_or_default(),
        }
    }
}

fn held(place: &str, value: &str) -> Option<HeldSlot> {
    let (universe, channel) = place.split_once('.')?;
    let channel = channel.parse().ok().filter(|channel| (1..=512).contains(channel))?;
    Some(HeldSlot { universe: universe.parse().ok()?, channel, value: value.parse().ok()? })
}

/// Looks that are edited blind, each with the name of the look that it stands for.
pub(in crate::command) type BlindLooks = Vec<(String, Look)>;

impl Argument for BlindLooks {
    type Value = Self;
    const TAKES: &'static str = JSON;
    fn parse(text: &str) -> Option<Self> {
        serde_json::from_str(text).ok()
    }
    fn text(value: &Self) -> String {
        serde_json::to_string(value).unwrap_or_default()
    }
}
