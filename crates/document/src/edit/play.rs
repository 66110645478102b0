//! Edits of what a show is played with: tiers, banks of pads, and the rotation.

use super::{Refused, names};
use splimo_show::reference::ReferenceKind;
use splimo_show::{Bank, MOST_BANKS, MOST_TIERS, Show, Tier};

fn no_tier(index: usize) -> Refused {
    Refused(format!("there is no tier {} any more; choose again", index + 1))
}

fn no_bank(index: usize) -> Refused {
    Refused(format!("there is no bank {} any more; choose again", index + 1))
}

fn check_name<'n>(mut others: impl Iterator<Item = &'n str>, kind: &str, name: &str) -> Result<(), Refused> {
    if name.trim().is_empty() {
        return Err(Refused(format!("a {kind} needs a name; type one")));
    }
    match others.any(|other| other == name) {
        true => Err(Refused(format!("there is a {kind} \"{name}\" already; take another name"))),
        false => Ok(()),
    }
}

/// Writes the one tier of a show down that says nothing of tiers, so that it can be changed.
fn write_stack(show: &mut Show) {
    if show.tiers.is_empty() {
        show.tiers = show.stack().to_vec();
    }
}

pub(super) fn add_tier(show: &mut Show, at: usize, tier: &Tier) -> Result<(), Refused> {
    write_stack(show);
    check_name(show.tiers.iter().map(|one| one.name.as_str()), "tier", &tier.name)?;
    if show.tiers.len() >= MOST_TIERS {
        return Err(Refused(format!("a stage has {MOST_TIERS} tiers at the most; take one out first")));
    }
    show.tiers.insert(at.min(show.tiers.len()), tier.clone());
    Ok(())
}

pub(super) fn put_tier(show: &mut Show, index: usize, tier: &Tier) -> Result<(), Refused> {
    write_stack(show);
    let before = show.tiers.get(index).ok_or_else(|| no_tier(index))?.name.clone();
    if before != tier.name {
        check_name(show.tiers.iter().map(|one| one.name.as_str()), "tier", &tier.name)?;
        names::rename(show, ReferenceKind::Tier, &before, &tier.name);
    }
    show.tiers[index] = tier.clone();
    Ok(())
}

pub(super) fn remove_tier(show: &mut Show, index: usize) -> Result<(), Refused> {
    write_stack(show);
    if show.tiers.len() == 1 {
        return Err(Refused("a stage has one tier at the least; this is the last".to_owned()));
    }
    let name = show.tiers.get(index).ok_or_else(|| no_tier(index))?.name.clone();
    show.tiers.remove(index);
    names::remove(show, ReferenceKind::Tier, &[name].into())
}

pub(super) fn move_tier(show: &mut Show, from: usize, to: usize) -> Result<(), Refused> {
    write_stack(show);
    if from >= show.tiers.len() {
        return Err(no_tier(from));
    }
    let tier = show.tiers.remove(from);
    show.tiers.insert(to.min(show.tiers.len()), tier);
    Ok(())
}

pub(super) fn add_banks(show: &mut Show, at: usize, banks: &[Bank]) -> Result<(), Refused> {
    for (place, bank) in banks.iter().enumerate() {
        check_name(show.banks.iter().map(|one| one.name.as_str()), "bank", &bank.name)?;
        show.banks.insert((at + place).min(show.banks.len()), bank.clone());
    }
    match show.banks.len() > MOST_BANKS {
        true => Err(Refused(format!("a show has {MOST_BANKS} banks at the most; take one out first"))),
        false => Ok(()),
    }
}

pub(super) fn put_banks(show: &mut Show, changed: &[(usize, Bank)]) -> Result<(), Refused> {
    for (index, bank) in changed {
        let before = show.banks.get(*index).ok_or_else(|| no_bank(*index))?.name.clone();
        if before != bank.name {
            check_name(show.banks.iter().map(|one| one.name.as_str()), "bank", &bank.name)?;
            names::rename(show, ReferenceKind::Bank, &before, &bank.name);
        }
        show.banks[*index] = bank.clone();
    }
    Ok(())
}

pub(super) fn remove_bank(show: &mut Show, index: usize) -> Result<(), Refused> {
    let name = show.banks.get(index).ok_or_else(|| no_bank(index))?.name.clone();
    show.banks.remove(index);
    names::remove(show, ReferenceKind::Bank, &[name].into())
}

pub(super) fn move_bank(show: &mut Show, from: usize, to: usize) -> Result<(), Refused> {
    if from >= show.banks.len() {
        return Err(no_bank(from));
    }
    let bank = show.banks.remove(from);
    show.banks.insert(to.min(show.banks.len()), bank);
    Ok(())
}

/// Puts new looks on free pads, while the show has one bank; where there are several a person says which. No pad moves.
pub(super) fn place_looks(show: &mut Show, looks: &[String]) {
    if show.banks.is_empty() {
        show.banks.push(Bank { name: "Looks".to_owned(), ..Bank::default() });
    }
    let [bank] = show.banks.as_mut_slice() else { return };
    for look in looks {
        let Some(place) = bank.free_place() else { return };
        bank.pads.push(splimo_show::Pad::of_look(place, look));
    }
}

#[cfg(test)]
mod tests {
    use crate::edit::Edit;
    use splimo_show::{Bank, Look, Manner, Pad, Show, Tier};

    fn show() -> Show {
        let mut show = Show::empty("Play");
        show.looks = ["Tide", "Gale", "Foam"].map(|name| Look::new(name, Vec::new())).to_vec();
        show.give_banks();
        show
    }

    fn edited(show: &Show, edit: &Edit) -> Show {
        edit.apply(show).expect("a good edit")
    }

    fn labels(show: &Show) -> Vec<(usize, &str)> {
        show.banks[0].pads.iter().map(|pad| (pad.place, pad.label())).collect()
    }

    #[test]
    fn a_new_look_takes_a_free_pad_and_leaves_all_others_where_they_are() {
        let show = edited(&show(), &Edit::AddLooks(0, vec![Look::new("New", Vec::new())]));
        assert_eq!(labels(&show), [(1, "Tide"), (2, "Gale"), (3, "Foam"), (4, "New")]);
        let show = edited(&show, &Edit::MoveLook(3, 0));
        assert_eq!(labels(&show), [(1, "Tide"), (2, "Gale"), (3, "Foam"), (4, "New")]);
        let show = edited(&show, &Edit::RemoveLooks(vec![0]));
        assert_eq!(labels(&show), [(1, "Tide"), (2, "Gale"), (4, "New")], "Foam went, and its pad is free");
        let show = edited(&show, &Edit::AddLooks(9, vec![Look::new("Newer", Vec::new())]));
        assert_eq!(labels(&show), [(1, "Tide"), (2, "Gale"), (4, "New"), (3, "Newer")]);
    }

    #[test]
    fn where_there_are_several_banks_a_new_look_is_on_none() {
        let show = edited(&show(), &Edit::AddBanks(1, vec![Bank { name: "Peak".into(), ..Bank::default() }]));
        let show = edited(&show, &Edit::AddLooks(0, vec![Look::new("New", Vec::new())]));
        assert_eq!(labels(&show).len(), 3);
        assert!(show.banks[1].pads.is_empty());
    }

    #[test]
    fn tiers_are_added_renamed_moved_and_taken_out_and_pads_follow() {
        let show = edited(&show(), &Edit::AddTier(1, Tier::new("top")));
        assert_eq!(show.tiers.iter().map(|tier| tier.name.as_str()).collect::<Vec<_>>(), ["base", "top"]);
        let on_top = Pad { plays: Manner { tier: Some("top".into()), ..Manner::default() }, ..Pad::of_look(1, "Tide") };
        let bank = Bank { pads: vec![on_top], ..show.banks[0].clone() };
        let show = edited(&show, &Edit::PutBanks(vec![(0, bank)]));
        let show = edited(&show, &Edit::PutTier(1, Tier::new("words")));
        assert_eq!(show.banks[0].pads[0].plays.tier.as_deref(), Some("words"));
        let show = edited(&show, &Edit::MoveTier(1, 0));
        assert_eq!(show.tier("words"), Some(0));
        let show = edited(&show, &Edit::RemoveTier(0));
        assert_eq!((show.tiers.len(), show.banks[0].pads[0].plays.tier.as_deref()), (1, None));
        assert!(Edit::RemoveTier(0).apply(&show).is_err(), "the last stays");
        assert!(Edit::AddTier(0, Tier::new("base")).apply(&show).is_err(), "two of one name");
    }

    #[test]
    fn pads_that_cannot_be_are_refused_in_words() {
        let show = show();
        let with = |pads: Vec<Pad>| Edit::PutBanks(vec![(0, Bank { pads, ..show.banks[0].clone() })]).apply(&show);
        for (pads, why) in [
            (vec![Pad::of_look(37, "Tide")], "a number from 1 to 36"),
            (vec![Pad::of_look(1, "Tide"), Pad::of_look(1, "Gale")], "two pads"),
            (vec![Pad { place: 1, ..Pad::default() }], "neither a look nor a command"),
            (vec![Pad { place: 1, command: Some("dance".into()), ..Pad::default() }], "there is no command"),
        ] {
            let refused = with(pads).expect_err(why).to_string();
            assert!(refused.contains(why), "{refused}");
        }
        assert!(with(vec![Pad { place: 9, command: Some("blackout".into()), ..Pad::default() }]).is_ok());
    }
}
