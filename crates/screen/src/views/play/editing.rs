//! Editing pads: letters choose them, and fire nothing. What is chosen is changed in a form, cleared, moved or copied.

use std::collections::BTreeSet;

use splimo_document::edit::Edit;
use splimo_show::{Bank, PADS, Pad, Show};

use super::forms::pad_at;
use crate::view::Hints;

/// The pads that are chosen, and what is carried to other places.
#[derive(Default)]
pub(super) struct PadEditing {
    /// The bank and the place of each.
    pub chosen: BTreeSet<(usize, usize)>,
    carried: Option<Carried>,
}

/// Pads that are carried to the next that is pressed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Carried {
    /// They leave where they are, and change places with what is there.
    Moved,
    /// They stay where they are too.
    Copied,
}

impl PadEditing {
    pub(super) fn hints(&self) -> Hints {
        match self.carried {
            Some(Carried::Moved) => vec![("1-0 q-p a-l z-m", "where to; what is there changes places"), ("Esc", "not")],
            Some(Carried::Copied) => vec![("1-0 q-p a-l z-m", "where to"), ("← →", "bank"), ("Esc", "not")],
            None => vec![
                ("1-0 q-p a-l z-m", "choose"),
                ("Enter", "change"),
                ("Home", "move"),
                ("End", "copy"),
                ("Del", "clear"),
                ("← →", "bank"),
                ("Esc", "ends editing"),
            ],
        }
    }

    /// Chooses a pad, or leaves it out again; or puts what is carried there, which is a change of the show.
    pub(super) fn press(&mut self, bank: usize, place: usize, show: &Show) -> Option<Edit> {
        let Some(carried) = self.carried.take() else {
            if !self.chosen.remove(&(bank, place)) {
                self.chosen.insert((bank, place));
            }
            return None;
        };
        let mut from: Vec<(usize, usize)> = std::mem::take(&mut self.chosen).into_iter().collect();
        let to: Vec<(usize, usize)> = (place..=PADS).take(from.len()).map(|place| (bank, place)).collect();
        // Those for which there is no place any more stay where they are.
        from.truncate(to.len());
        self.chosen = to.iter().copied().collect();
        Some(carry(&from, &to, carried, show))
    }

    /// Has what is chosen be carried.
    pub(super) fn pick_up(&mut self, copies: bool) {
        if !self.chosen.is_empty() {
            self.carried = Some(if copies { Carried::Copied } else { Carried::Moved });
        }
    }

    /// Takes a step back: what is carried stays where it is, then nothing is chosen. Whether there was any.
    pub(super) fn back(&mut self) -> bool {
        self.carried.take().is_some() || !std::mem::take(&mut self.chosen).is_empty()
    }

    /// The change that clears what is chosen, if anything is there.
    pub(super) fn clear(&self, show: &Show) -> Option<Edit> {
        let there = self.chosen.iter().any(|at| show.banks.get(at.0).is_some_and(|bank| bank.pad(at.1).is_some()));
        there.then(|| changed(show, |banks| self.chosen.iter().for_each(|at| put(banks, *at, None))))
    }
}

fn carry(from: &[(usize, usize)], to: &[(usize, usize)], carried: Carried, show: &Show) -> Edit {
    let there = |at: &(usize, usize)| Some(pad_at(show, *at)).filter(|pad| pad.look.is_some() || pad.command.is_some());
    let leaves: Vec<Option<Pad>> = from.iter().map(there).collect();
    let meets: Vec<Option<Pad>> = to.iter().map(there).collect();
    changed(show, |banks| {
        if carried == Carried::Moved {
            // What is where they go comes to where they were, unless that is one of their own places.
            from.iter().for_each(|at| put(banks, *at, None));
            let free = from.iter().filter(|at| !to.contains(at));
            let pushed = to.iter().zip(&meets).filter(|(at, _)| !from.contains(at)).map(|(_, pad)| pad);
            free.zip(pushed).for_each(|(at, pad)| put(banks, *at, pad.clone()));
        }
        to.iter().zip(&leaves).for_each(|(at, pad)| put(banks, *at, pad.clone()));
    })
}

/// The edit that puts changed banks in the place of those that are others then.
fn changed(show: &Show, change: impl FnOnce(&mut Vec<Bank>)) -> Edit {
    let mut banks = show.banks.clone();
    change(&mut banks);
    let others = banks.into_iter().enumerate().filter(|(place, bank)| show.banks[*place] != *bank);
    Edit::PutBanks(others.collect())
}

fn put(banks: &mut [Bank], (bank, place): (usize, usize), pad: Option<Pad>) {
    let Some(bank) = banks.get_mut(bank) else { return };
    bank.pads.retain(|other| other.place != place);
    bank.pads.extend(pad.map(|pad| Pad { place, ..pad }));
    bank.pads.sort_by_key(|pad| pad.place);
}

#[cfg(test)]
mod tests {
    use super::*;

    fn show() -> Show {
        let mut show = Show::empty("Pads");
        show.banks = Bank::of_looks("One", ["A", "B", "C"].into_iter());
        show.banks.extend(Bank::of_looks("Two", ["D"].into_iter()));
        show.looks = ["A", "B", "C", "D"].map(|name| splimo_show::Look::new(name, Vec::new())).to_vec();
        show
    }

    /// The pads of both banks after some are carried to a place.
    fn after(chosen: &[(usize, usize)], copies: bool, bank: usize, place: usize) -> Vec<String> {
        let show = show();
        let mut editing = PadEditing::default();
        for (bank, place) in chosen {
            assert_eq!(editing.press(*bank, *place, &show), None);
        }
        editing.pick_up(copies);
        let edit = editing.press(bank, place, &show).expect("a change");
        let show = edit.apply(&show).expect("a good one");
        let told =
            |bank: &Bank| bank.pads.iter().map(|pad| format!("{}{} ", pad.label(), pad.place)).collect::<String>();
        show.banks.iter().map(told).collect()
    }

    #[test]
    fn pads_are_moved_swapped_and_copied_within_a_bank_and_between_banks() {
        assert_eq!(after(&[(0, 1)], false, 0, 9), ["B2 C3 A9 ", "D1 "]);
        assert_eq!(after(&[(0, 1)], false, 0, 3), ["C1 B2 A3 ", "D1 "]);
        assert_eq!(after(&[(0, 2)], false, 1, 1), ["A1 D2 C3 ", "B1 "]);
        assert_eq!(after(&[(0, 2)], true, 1, 1), ["A1 B2 C3 ", "B1 "]);
        assert_eq!(after(&[(0, 1), (0, 2)], false, 0, 2), ["C1 A2 B3 ", "D1 "]);
        let no_room = after(&[(0, 1), (0, 2)], false, 1, 36);
        assert_eq!(no_room, ["B2 C3 ", "D1 A36 "], "there is room for one");
    }
}
