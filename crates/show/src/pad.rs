//! Pads: what is fired by a key. They belong to banks, and stay where they were put.

use serde::{Deserialize, Serialize};

use super::{Boundary, CommandTemplate, Settings, Show};

/// The pads of a bank: as many as there are keys in the four rows of letters and digits.
pub const PADS: usize = 36;

/// The most banks that a show has.
pub const MOST_BANKS: usize = 32;

/// The name of the bank that is made of the looks of a show that has none.
const FIRST_BANK: &str = "Looks";

/// A bank of pads.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Bank {
    /// The name, unique among banks.
    pub name: String,
    /// The manner of the pads that say nothing else.
    #[serde(default, skip_serializing_if = "Manner::is_empty")]
    pub plays: Manner,
    /// The pads that do something, in any order.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub pads: Vec<Pad>,
}

/// A pad that does something: it puts a look on a tier, or gives a command.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Pad {
    /// Its place in the bank, 1..36, row by row.
    pub place: usize,
    /// The name of the look that it puts on its tier.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub look: Option<String>,
    /// The command that it gives, as `splimo do` takes it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub command: Option<CommandTemplate>,
    /// The manner in which it plays, where that is not the bank's.
    #[serde(default, skip_serializing_if = "Manner::is_empty")]
    pub plays: Manner,
}

impl Pad {
    /// A pad for a look.
    #[must_use]
    pub fn of_look(place: usize, look: &str) -> Self {
        Self { place, look: Some(look.to_owned()), ..Self::default() }
    }

    /// The name under which it is shown: that of its look, else its command.
    #[must_use]
    pub fn label(&self) -> &str {
        self.look.as_deref().or(self.command.as_deref()).unwrap_or("")
    }
}

/// The manner in which a pad plays. What is not said is taken from the bank, and from the settings of the show in the end.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Manner {
    /// The name of the tier; the lowest, where nobody names one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tier: Option<String>,
    /// The mode.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mode: Option<PadMode>,
    /// The boundary at which it lands.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lands: Option<Boundary>,
    /// The time that it takes to fade in, in beats, 0..64.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fade_in: Option<f32>,
    /// The time that it takes to fade out, in beats, 0..64.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fade_out: Option<f32>,
    /// The time that it stays, in beats, 0.25..64: in the mode `beats`, and for a flash whose key does not tell when it is let go.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub beats: Option<f32>,
}

impl Manner {
    /// True if it says nothing.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }
}

/// The mode of a pad.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum PadMode {
    /// It takes its tier, and stays.
    #[default]
    Change,
    /// It takes its tier; again, and its tier is cleared.
    Toggle,
    /// It lies over what its tier shows as long as it is held; then that is back.
    Flash,
    /// It lies over what its tier shows for some beats; then that is back.
    Beats,
}

impl PadMode {
    /// Every one.
    pub const ALL: [Self; 4] = [Self::Change, Self::Toggle, Self::Flash, Self::Beats];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Change => "change",
            Self::Toggle => "toggle",
            Self::Flash => "flash",
            Self::Beats => "beats",
        }
    }
}

/// The manner of a pad with everything said.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Played {
    /// The place of the tier in the stack.
    pub tier: usize,
    /// The mode.
    pub mode: PadMode,
    /// The boundary at which it lands.
    pub lands: Boundary,
    /// The time that it takes to fade in, in beats.
    pub fade_in: f32,
    /// The time that it takes to fade out, in beats.
    pub fade_out: f32,
    /// The time that it stays, in beats, where its mode or the lack of a release limits that.
    pub beats: f32,
}

impl Played {
    /// The manner of something that is fired without a pad.
    #[must_use]
    pub fn plain(settings: &Settings) -> Self {
        Self {
            tier: 0,
            mode: PadMode::Change,
            lands: settings.lands,
            fade_in: settings.fade_beats,
            fade_out: settings.fade_beats,
            beats: 1.0,
        }
    }

    /// The same with what a manner says.
    fn with(self, manner: &Manner, show: &Show) -> Self {
        Self {
            tier: manner.tier.as_deref().and_then(|tier| show.tier(tier)).unwrap_or(self.tier),
            mode: manner.mode.unwrap_or(self.mode),
            lands: manner.lands.unwrap_or(self.lands),
            fade_in: manner.fade_in.unwrap_or(self.fade_in),
            fade_out: manner.fade_out.unwrap_or(self.fade_out),
            beats: manner.beats.unwrap_or(self.beats),
        }
    }
}

impl Bank {
    /// The pad at a place, 1..36, if that does something.
    #[must_use]
    pub fn pad(&self, place: usize) -> Option<&Pad> {
        self.pads.iter().find(|pad| pad.place == place)
    }

    /// The first place, from 1, at which there is no pad.
    #[must_use]
    pub fn free_place(&self) -> Option<usize> {
        (1..=PADS).find(|place| self.pad(*place).is_none())
    }

    /// The manner of one of its pads, or of the bank itself.
    #[must_use]
    pub fn manner_of(&self, pad: Option<&Pad>, show: &Show) -> Played {
        let of_bank = Played::plain(&show.settings).with(&self.plays, show);
        // A flash that says nothing else is there at once, and gone at once.
        let mode = pad.and_then(|pad| pad.plays.mode).unwrap_or(of_bank.mode);
        let at_once = |manner: Played, own: &Manner| Played {
            lands: own.lands.or(self.plays.lands).unwrap_or(Boundary::Now),
            fade_in: own.fade_in.or(self.plays.fade_in).unwrap_or(0.0),
            fade_out: own.fade_out.or(self.plays.fade_out).unwrap_or(0.0),
            ..manner
        };
        let own = pad.map_or(&self.plays, |pad| &pad.plays);
        let manner = of_bank.with(own, show);
        if mode == PadMode::Flash { at_once(manner, own) } else { manner }
    }

    /// Banks with a pad for each look, in their order.
    #[must_use]
    pub fn of_looks<'l>(name: &str, looks: impl Iterator<Item = &'l str>) -> Vec<Self> {
        let mut banks: Vec<Self> = Vec::new();
        for (index, look) in looks.take(PADS * MOST_BANKS).enumerate() {
            if index % PADS == 0 {
                let number = index / PADS + 1;
                let name = if number == 1 { name.to_owned() } else { format!("{name} {number}") };
                banks.push(Self { name, ..Self::default() });
            }
            if let Some(bank) = banks.last_mut() {
                bank.pads.push(Pad::of_look(index % PADS + 1, look));
            }
        }
        banks
    }
}

impl Show {
    /// The bank and the pad of a number, counted from 1 through all banks, 36 a bank.
    #[must_use]
    pub fn pad(&self, number: usize) -> Option<(&Bank, &Pad)> {
        let bank = self.banks.get(number.checked_sub(1)? / PADS)?;
        Some((bank, bank.pad((number - 1) % PADS + 1)?))
    }

    /// Gives a show that has looks and no banks those that follow from its looks.
    pub fn give_banks(&mut self) {
        if self.banks.is_empty() {
            self.banks = Bank::of_looks(FIRST_BANK, self.looks.iter().map(|look| look.name.as_str()));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Look, Tier};

    #[test]
    fn a_show_without_banks_gets_them_from_its_looks() {
        let mut show = Show::empty("Many");
        show.looks = (0..40).map(|n| Look::new(&format!("L{n}"), Vec::new())).collect();
        show.give_banks();
        assert_eq!(show.banks.iter().map(|bank| bank.name.as_str()).collect::<Vec<_>>(), ["Looks", "Looks 2"]);
        assert_eq!(show.pad(38).map(|(_, pad)| pad.label()), Some("L37"));
        assert!(show.pad(0).is_none() && show.pad(41).is_none() && show.pad(1000).is_none());
        let before = show.banks.clone();
        show.looks.insert(0, Look::new("New", Vec::new()));
        show.give_banks();
        assert_eq!(show.banks, before);
    }

    #[test]
    fn what_a_pad_does_not_say_the_bank_says_and_then_the_show() {
        let mut show = Show::empty("Two");
        show.tiers = vec![Tier::new("base"), Tier::new("top")];
        show.settings.fade_beats = 3.0;
        let plays = Manner { tier: Some("top".into()), fade_out: Some(8.0), ..Manner::default() };
        let own = Manner { fade_in: Some(0.5), ..Manner::default() };
        let pad = Pad { plays: own, ..Pad::of_look(1, "A") };
        let bank = Bank { name: "B".into(), plays, pads: vec![pad, Pad::of_look(2, "B")] };
        let [first, second] = [1, 2].map(|place| bank.manner_of(bank.pad(place), &show));
        assert_eq!((first.tier, first.fade_in, first.fade_out), (1, 0.5, 8.0));
        assert_eq!((second.tier, second.fade_in, second.fade_out), (1, 3.0, 8.0));
        assert_eq!((second.mode, second.lands), (PadMode::Change, Boundary::Bar));
    }

    #[test]
    fn a_flash_is_there_at_once_unless_it_says_otherwise() {
        let show = Show::empty("One");
        let flash = Pad { plays: Manner { mode: Some(PadMode::Flash), ..Manner::default() }, ..Pad::of_look(1, "A") };
        let mut bank = Bank { name: "B".into(), pads: vec![flash], ..Bank::default() };
        let manner = bank.manner_of(bank.pad(1), &show);
        assert_eq!((manner.lands, manner.fade_in, manner.fade_out), (Boundary::Now, 0.0, 0.0));
        bank.plays.fade_out = Some(2.0);
        assert_eq!(bank.manner_of(bank.pad(1), &show).fade_out, 2.0);
    }
}
