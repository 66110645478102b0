//! The settings of a show, declared as data: what each is called, its unit, range, step, default and help. The form, the check,
//! the help, and the commands `set` and `nudge` are made of this table; the file has the same settings under the same keys
//! ([`crate::Settings`]).

use std::fmt;

use serde::{Deserialize, Serialize};

use crate::{AddressBlock, Boundary, Fallback, Settings, TimeCode};
use splimo_time::music::BANDS_RANGE;
use splimo_time::sync::SyncSource;
use splimo_time::tempo::{FASTEST, SLOWEST};

/// The kind of a setting: which values it may have, and how a nudge moves it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum SettingKind {
    /// A number from `from` to `to`; a nudge adds `step`.
    Number {
        /// The smallest value.
        from: f32,
        /// The largest value.
        to: f32,
        /// The step of a nudge.
        step: f32,
    },
    /// A whole number from `from` to `to`; a nudge adds `step`.
    Whole {
        /// The smallest value.
        from: u32,
        /// The largest value.
        to: u32,
        /// The step of a nudge.
        step: u32,
    },
    /// A length from 0 to `to`; a nudge doubles or halves it, and halving `least` gives 0.
    Length {
        /// The smallest value above 0.
        least: f32,
        /// The largest value.
        to: f32,
    },
    /// One of some words; a nudge takes the next, and where `round` is set the first follows the last.
    Words {
        /// The words.
        words: &'static [&'static str],
        /// True if the first follows the last.
        round: bool,
    },
    /// The name of a look, or none; a nudge leaves it.
    Look,
    /// Addresses and networks, or any; a nudge leaves them.
    Addresses,
    /// On or off; a nudge turns it over.
    Flag,
}

/// The value of a setting.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum SettingValue {
    /// A number in the unit of the setting.
    Number(f32),
    /// A word.
    Word(String),
    /// On or off.
    Flag(bool),
}

/// The declaration of a setting.
pub struct SettingSpec {
    /// The key in the file, under `[settings]`.
    pub key: &'static str,
    /// The name by which commands and forms call it.
    pub name: &'static str,
    /// The unit, or nothing.
    pub unit: &'static str,
    /// The values that it may have.
    pub kind: SettingKind,
    /// The help, in one line.
    pub help: &'static str,
    read: fn(&Settings) -> SettingValue,
    write: fn(&mut Settings, &SettingValue),
}

/// Every setting, in the order of forms and help.
pub static SETTINGS: &[SettingSpec] = &[
    SettingSpec {
        key: "lands",
        name: "lands",
        unit: "",
        kind: SettingKind::Words { words: &["now", "beat", "bar", "4 bars", "phrase"], round: false },
        help: "Where an armed look lands",
        read: |s| word(s.lands.name()),
        write: |s, value| put_word(&mut s.lands, value, Boundary::ALL, Boundary::name),
    },
    SettingSpec {
        key: "fade_beats",
        name: "fade",
        unit: "beats",
        kind: SettingKind::Length { least: 0.25, to: 64.0 },
        help: "How long a look takes to fade in",
        read: |s| SettingValue::Number(s.fade_beats),
        write: |s, value| put_number(&mut s.fade_beats, value),
    },
    SettingSpec {
        key: "tempo",
        name: "tempo",
        unit: "beats a minute",
        kind: SettingKind::Number { from: SLOWEST as f32, to: FASTEST as f32, step: 1.0 },
        help: "The tempo until the music or a tap sets another",
        read: |s| SettingValue::Number(s.tempo),
        write: |s, value| put_number(&mut s.tempo, value),
    },
    SettingSpec {
        key: "phrase_bars",
        name: "phrase",
        unit: "bars",
        kind: SettingKind::Whole { from: 1, to: 64, step: 1 },
        help: "How many bars a phrase has",
        read: |s| SettingValue::Number(s.phrase_bars as f32),
        write: |s, value| put_whole(&mut s.phrase_bars, value),
    },
    SettingSpec {
        key: "leader",
        name: "sync",
        unit: "",
        kind: SettingKind::Words { words: &["music", "midi", "time-code", "osc"], round: true },
        help: "Which source leads the clock",
        read: |s| word(s.sync_source.key()),
        write: |s, value| put_word(&mut s.sync_source, value, SyncSource::ALL, SyncSource::key),
    },
    SettingSpec {
        key: "latency_ms",
        name: "latency",
        unit: "ms",
        kind: SettingKind::Number { from: -500.0, to: 500.0, step: 1.0 },
        help: "How much earlier light leaves, for the time that lamps take",
        read: |s| SettingValue::Number(s.latency_ms),
        write: |s, value| put_number(&mut s.latency_ms, value),
    },
    SettingSpec {
        key: "hearing_gain",
        name: "gain",
        unit: "dB",
        kind: SettingKind::Number { from: -40.0, to: 40.0, step: 1.0 },
        help: "How much what is heard is turned up",
        read: |s| SettingValue::Number(s.hearing_gain),
        write: |s, value| put_number(&mut s.hearing_gain, value),
    },
    SettingSpec {
        key: "hearing_floor",
        name: "silence",
        unit: "dB",
        kind: SettingKind::Number { from: -90.0, to: 0.0, step: 3.0 },
        help: "The level below which what is heard counts as silence",
        read: |s| SettingValue::Number(s.hearing_floor),
        write: |s, value| put_number(&mut s.hearing_floor, value),
    },
    SettingSpec {
        key: "hearing_bands",
        name: "bands",
        unit: "",
        kind: SettingKind::Whole { from: BANDS_RANGE[0] as u32, to: BANDS_RANGE[1] as u32, step: 8 },
        help: "How many frequency bands are heard",
        read: |s| SettingValue::Number(s.hearing_bands as f32),
        write: |s, value| put_whole(&mut s.hearing_bands, value),
    },
    SettingSpec {
        key: "hearing_attack_ms",
        name: "attack",
        unit: "ms",
        kind: SettingKind::Number { from: 0.0, to: 500.0, step: 10.0 },
        help: "How long a band takes to rise",
        read: |s| SettingValue::Number(s.hearing_attack_ms),
        write: |s, value| put_number(&mut s.hearing_attack_ms, value),
    },
    SettingSpec {
        key: "hearing_decay_ms",
        name: "decay",
        unit: "ms",
        kind: SettingKind::Number { from: 0.0, to: 2000.0, step: 20.0 },
        help: "How long a band takes to fall to a third",
        read: |s| SettingValue::Number(s.hearing_decay_ms),
        write: |s, value| put_number(&mut s.hearing_decay_ms, value),
    },
    SettingSpec {
        key: "rate",
        name: "rate",
        unit: "frames a second",
        kind: SettingKind::Number { from: 1.0, to: 200.0, step: 1.0 },
        help: "How many frames leave each second; DMX512 carries 44 at the most",
        read: |s| SettingValue::Number(s.rate),
        write: |s, value| put_number(&mut s.rate, value),
    },
    SettingSpec {
        key: "dither",
        name: "dither",
        unit: "",
        kind: SettingKind::Flag,
        help: "Whether 8-bit values are dithered over time",
        read: |s| SettingValue::Flag(s.dither),
        write: |s, value| put_flag(&mut s.dither, value),
    },
    SettingSpec {
        key: "time_code",
        name: "time-code",
        unit: "",
        kind: SettingKind::Words { words: &["off", "film", "ebu", "drop", "smpte"], round: true },
        help: "Which time code is sent (Art-Net)",
        read: |s| word(s.time_code.name()),
        write: |s, value| put_word(&mut s.time_code, value, TimeCode::ALL, TimeCode::name),
    },
    SettingSpec {
        key: "safe_look",
        name: "safe-look",
        unit: "",
        kind: SettingKind::Look,
        help: "Which look the panic key leaves; without one, what the lowest tier shows",
        read: |s| word(&s.safe_look),
        write: |s, value| put_text(&mut s.safe_look, value),
    },
    SettingSpec {
        key: "fallback",
        name: "fallback",
        unit: "",
        kind: SettingKind::Words { words: &["dark", "look", "last"], round: true },
        help: "What is on when nothing else is: nothing, a look, or what was on last",
        read: |s| word(s.fallback.name()),
        write: |s, value| put_word(&mut s.fallback, value, Fallback::ALL, Fallback::name),
    },
    SettingSpec {
        key: "fallback_look",
        name: "fallback-look",
        unit: "",
        kind: SettingKind::Look,
        help: "Which look is on when nothing else is, where fallback says look",
        read: |s| word(&s.fallback_look),
        write: |s, value| put_text(&mut s.fallback_look, value),
    },
    SettingSpec {
        key: "blackout_fade",
        name: "blackout-fade",
        unit: "s",
        kind: SettingKind::Number { from: 0.0, to: 20.0, step: 0.5 },
        help: "How long it takes to black out and to bring the light back",
        read: |s| SettingValue::Number(s.blackout_fade),
        write: |s, value| put_number(&mut s.blackout_fade, value),
    },
    SettingSpec {
        key: "cue_back_fade",
        name: "cue-back-fade",
        unit: "s",
        kind: SettingKind::Number { from: 0.0, to: 60.0, step: 0.5 },
        help: "How long a cue list takes to go back, to its first cue, and off the stage",
        read: |s| SettingValue::Number(s.cue_back_fade),
        write: |s, value| put_number(&mut s.cue_back_fade, value),
    },
    SettingSpec {
        key: "strobe_limit",
        name: "strobe-limit",
        unit: "flashes a second",
        kind: SettingKind::Whole { from: 0, to: 25, step: 1 },
        help: "How often the whole output may flash; 0 sets no limit",
        read: |s| SettingValue::Number(s.strobe_limit as f32),
        write: |s, value| put_whole(&mut s.strobe_limit, value),
    },
    SettingSpec {
        key: "triggers",
        name: "triggers",
        unit: "",
        kind: SettingKind::Flag,
        help: "Whether macros that others set off fire pads (Art-Net)",
        read: |s| SettingValue::Flag(s.triggers),
        write: |s, value| put_flag(&mut s.triggers, value),
    },
    SettingSpec {
        key: "triggers_from",
        name: "triggers-from",
        unit: "",
        kind: SettingKind::Addresses,
        help: "Whose triggers fire pads: addresses and networks with commas, or any",
        read: |s| addresses(&s.triggers_from),
        write: |s, value| put_addresses(&mut s.triggers_from, value),
    },
    SettingSpec {
        key: "time_code_from",
        name: "time-code-from",
        unit: "",
        kind: SettingKind::Addresses,
        help: "Whose time code is followed: addresses and networks with commas, or any",
        read: |s| addresses(&s.time_code_from),
        write: |s, value| put_addresses(&mut s.time_code_from, value),
    },
    SettingSpec {
        key: "nodes_from",
        name: "nodes-from",
        unit: "",
        kind: SettingKind::Addresses,
        help: "Which nodes are believed: addresses and networks, or any of our own networks",
        read: |s| addresses(&s.nodes_from),
        write: |s, value| put_addresses(&mut s.nodes_from, value),
    },
    SettingSpec {
        key: "inputs_may_all",
        name: "inputs-may-all",
        unit: "",
        kind: SettingKind::Flag,
        help: "Whether inputs may save, edit and end the show as well",
        read: |s| SettingValue::Flag(s.inputs_may_all),
        write: |s, value| put_flag(&mut s.inputs_may_all, value),
    },
];

/// The setting of a name.
#[must_use]
pub fn find(name: &str) -> Option<&'static SettingSpec> {
    SETTINGS.iter().find(|spec| spec.name == name)
}

fn word(word: &str) -> SettingValue {
    SettingValue::Word(word.to_owned())
}

fn put_text(setting: &mut String, value: &SettingValue) {
    if let SettingValue::Word(word) = value {
        setting.clone_from(word);
    }
}

fn put_number(setting: &mut f32, value: &SettingValue) {
    if let SettingValue::Number(number) = value {
        *setting = *number;
    }
}

fn put_whole(setting: &mut u32, value: &SettingValue) {
    if let SettingValue::Number(number) = value {
        *setting = number.round() as u32;
    }
}

fn put_flag(setting: &mut bool, value: &SettingValue) {
    if let SettingValue::Flag(flag) = value {
        *setting = *flag;
    }
}

fn put_word<T: Copy, const N: usize>(setting: &mut T, value: &SettingValue, all: [T; N], name: fn(T) -> &'static str) {
    if let SettingValue::Word(word) = value
        && let Some(one) = all.into_iter().find(|one| name(*one) == word)
    {
        *setting = one;
    }
}

/// The word for a list of addresses that allows all.
const ANY: &str = "any";

fn addresses(list: &[AddressBlock]) -> SettingValue {
    if list.is_empty() { word(ANY) } else { word(&AddressBlock::words(list)) }
}

fn list_of(value: &SettingValue) -> Option<Vec<AddressBlock>> {
    match value {
        SettingValue::Word(word) if word == ANY => Some(Vec::new()),
        SettingValue::Word(word) => AddressBlock::list(word).ok().filter(|list| !list.is_empty()),
        SettingValue::Number(_) | SettingValue::Flag(_) => None,
    }
}

fn put_addresses(setting: &mut Vec<AddressBlock>, value: &SettingValue) {
    if let Some(list) = list_of(value) {
        *setting = list;
    }
}

/// The word for no look.
pub const NO_LOOK: &str = "none";

impl SettingSpec {
    /// The value in some settings.
    #[must_use]
    pub fn value(&self, settings: &Settings) -> SettingValue {
        (self.read)(settings)
    }

    /// Puts a value into some settings.
    ///
    /// # Errors
    /// The values that the setting may have, if it cannot have this one.
    pub fn put(&self, settings: &mut Settings, value: &SettingValue) -> Result<(), String> {
        if !self.takes(value) {
            return Err(format!("{} cannot be {value}; give it {}", self.name, self.range()));
        }
        (self.write)(settings, value);
        Ok(())
    }

    fn takes(&self, value: &SettingValue) -> bool {
        match (self.kind, value) {
            (SettingKind::Number { from, to, .. }, SettingValue::Number(number)) => (from..=to).contains(number),
            (SettingKind::Whole { from, to, .. }, SettingValue::Number(number)) => {
                (from as f32..=to as f32).contains(number) && number.fract() == 0.0
            }
            (SettingKind::Length { to, .. }, SettingValue::Number(number)) => (0.0..=to).contains(number),
            (SettingKind::Words { words, .. }, SettingValue::Word(word)) => words.contains(&word.as_str()),
            (SettingKind::Flag, SettingValue::Flag(_)) | (SettingKind::Look, SettingValue::Word(_)) => true,
            (SettingKind::Addresses, value) => list_of(value).is_some(),
            (
                SettingKind::Number { .. }
                | SettingKind::Whole { .. }
                | SettingKind::Length { .. }
                | SettingKind::Words { .. }
                | SettingKind::Look
                | SettingKind::Flag,
                _,
            ) => false,
        }
    }

    /// The values that it may have, in words.
    #[must_use]
    pub fn range(&self) -> String {
        let unit = if self.unit.is_empty() { String::new() } else { format!(" {}", self.unit) };
        match self.kind {
            SettingKind::Number { from, to, .. } => format!("a number from {from} to {to}{unit}"),
            SettingKind::Whole { from, to, .. } => format!("a whole number from {from} to {to}{unit}"),
            SettingKind::Length { to, .. } => format!("a number from 0 to {to}{unit}"),
            SettingKind::Words { words, .. } => format!("one of {}", words.join(", ")),
            SettingKind::Look => "the name of a look, or none".to_owned(),
            SettingKind::Addresses => {
                "addresses such as 10.20.0.11, networks such as 10.20.0.0/24, with commas between, or any".to_owned()
            }
            SettingKind::Flag => "on or off".to_owned(),
        }
    }

    /// The value that a text says, if it is of this setting's kind.
    #[must_use]
    pub fn parse(&self, text: &str) -> Option<SettingValue> {
        let value = match self.kind {
            SettingKind::Number { .. } | SettingKind::Whole { .. } | SettingKind::Length { .. } => {
                SettingValue::Number(text.parse().ok().filter(|x: &f32| x.is_finite())?)
            }
            SettingKind::Look if text == NO_LOOK => SettingValue::Word(String::new()),
            SettingKind::Look | SettingKind::Words { .. } | SettingKind::Addresses => {
                SettingValue::Word(text.to_owned())
            }
            SettingKind::Flag => SettingValue::Flag(match text {
                "on" => true,
                "off" => false,
                _ => return None,
            }),
        };
        Some(value)
    }

    /// The value after so many nudges upwards, or downwards below zero; it stops at the ends of the range.
    #[must_use]
    pub fn nudged(&self, value: &SettingValue, by: i32) -> SettingValue {
        match (self.kind, value) {
            (SettingKind::Number { from, to, step }, SettingValue::Number(number)) => {
                SettingValue::Number((number + step * by as f32).clamp(from, to))
            }
            (SettingKind::Whole { from, to, step }, SettingValue::Number(number)) => {
                SettingValue::Number((number + (step as i32).saturating_mul(by) as f32).clamp(from as f32, to as f32))
            }
            (SettingKind::Length { least, to }, SettingValue::Number(length)) => {
                let step = |length, _| nudged_length(length, by.signum(), least, to);
                SettingValue::Number((0..by.unsigned_abs().min(64)).fold(*length, step))
            }
            (SettingKind::Words { words, round }, SettingValue::Word(word)) => {
                let place = words.iter().position(|one| one == word).unwrap_or(0) as i64 + i64::from(by);
                let count = words.len() as i64;
                let place = if round { place.rem_euclid(count) } else { place.clamp(0, count - 1) };
                SettingValue::Word(words[place as usize].to_owned())
            }
            (SettingKind::Flag, SettingValue::Flag(flag)) => SettingValue::Flag(*flag ^ (by % 2 != 0)),
            (
                SettingKind::Number { .. }
                | SettingKind::Whole { .. }
                | SettingKind::Length { .. }
                | SettingKind::Words { .. }
                | SettingKind::Look
                | SettingKind::Addresses
                | SettingKind::Flag,
                other,
            ) => other.clone(),
        }
    }
}

fn nudged_length(length: f32, up: i32, least: f32, to: f32) -> f32 {
    match up {
        1 if length < least => least,
        1 => (length * 2.0).min(to),
        -1 if length <= least => 0.0,
        -1 => length / 2.0,
        _ => length,
    }
}

impl fmt::Display for SettingValue {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Number(number) => write!(f, "{number}"),
            Self::Word(word) if word.is_empty() => f.write_str(NO_LOOK),
            Self::Word(word) => f.write_str(word),
            Self::Flag(flag) => f.write_str(if *flag { "on" } else { "off" }),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_setting_is_in_the_file_under_its_key_and_takes_its_own_default() {
        let text = toml::Value::try_from(Settings {
            // What is as usual is left out of the file.
            sync_source: SyncSource::Midi,
            latency_ms: 1.0,
            hearing_gain: 1.0,
            hearing_floor: -40.0,
            hearing_bands: 32,
            hearing_attack_ms: 5.0,
            hearing_decay_ms: 90.0,
            time_code: TimeCode::Ebu,
            triggers: true,
            inputs_may_all: true,
            blackout_fade: 1.0,
            cue_back_fade: 3.0,
            strobe_limit: 3,
            fallback: Fallback::Look,
            fallback_look: "Tide".into(),
            safe_look: "House".into(),
            nodes_from: AddressBlock::list("10.0.0.0/8").expect("a list"),
            triggers_from: AddressBlock::list("10.0.0.7").expect("a list"),
            time_code_from: AddressBlock::list("10.0.0.7").expect("a list"),
            ..Settings::default()
        });
        let keys: Vec<String> = text.expect("a table").as_table().expect("one").keys().cloned().collect();
        assert_eq!(keys.len(), SETTINGS.len());
        for spec in SETTINGS {
            assert!(keys.iter().any(|key| key == spec.key), "{} is not in the file", spec.key);
            let mut settings = Settings::default();
            let value = spec.value(&settings);
            assert_eq!(spec.put(&mut settings, &value), Ok(()), "{}", spec.name);
            assert_eq!(settings, Settings::default(), "{}", spec.name);
            assert_eq!(spec.parse(&value.to_string()), Some(value), "{}", spec.name);
        }
    }

    #[test]
    fn each_nudge_changes_its_setting_and_no_other_and_stays_in_the_range() {
        for spec in SETTINGS {
            for by in [-1000, -1, 1, 1000] {
                let mut settings = Settings::default();
                let value = spec.nudged(&spec.value(&settings), by);
                assert_eq!(spec.put(&mut settings, &value), Ok(()), "{} by {by}", spec.name);
                assert_eq!(spec.value(&settings), value, "{} by {by}", spec.name);
                let others = SETTINGS.iter().filter(|other| other.name != spec.name);
                for other in others {
                    assert_eq!(other.value(&settings), other.value(&Settings::default()), "{} moves too", other.name);
                }
            }
        }
    }

    #[test]
    fn what_a_setting_cannot_be_is_refused_with_what_it_can() {
        let mut settings = Settings::default();
        for (name, value, range) in [
            ("fade", SettingValue::Number(65.0), "0 to 64 beats"),
            ("phrase", SettingValue::Number(2.5), "1 to 64 bars"),
            ("lands", SettingValue::Word("never".into()), "now, beat, bar, 4 bars, phrase"),
            ("dither", SettingValue::Number(1.0), "on or off"),
            ("latency", SettingValue::Number(f32::NAN), "-500 to 500 ms"),
            ("nodes-from", SettingValue::Word("box".into()), "networks such as 10.20.0.0/24"),
        ] {
            let why = find(name).expect(name).put(&mut settings, &value).expect_err(name);
            assert!(why.contains(range), "{why}");
        }
        assert_eq!(settings, Settings::default());
    }

    #[test]
    fn fades_double_and_halve_down_to_none() {
        let fade = find("fade").expect("one");
        let nudged = |beats: f32, by: i32| fade.nudged(&SettingValue::Number(beats), by);
        let down: Vec<SettingValue> = (1..=4).map(|by| nudged(1.0, -by)).collect();
        assert_eq!(down, [0.5, 0.25, 0.0, 0.0].map(SettingValue::Number));
        assert_eq!((nudged(0.0, 1), nudged(64.0, 1)), (SettingValue::Number(0.25), SettingValue::Number(64.0)));
    }
}
