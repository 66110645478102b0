//! Edits of cue lists.

use super::{Refused, names, outputs};
use splimo_show::reference::ReferenceKind;
use splimo_show::{CueList, Look, MOST_LISTS, Show};

impl outputs::Named for CueList {
    const KIND: &'static str = "cue list";
    fn name(&self) -> &str {
        &self.name
    }
}

/// Refuses a list that names looks or tiers that the show does not have: what is asked for now is to be there now.
fn check_names(show: &Show, list: &CueList) -> Result<(), Refused> {
    let said = list.cues.iter().flat_map(|cue| cue.tiers.iter().map(move |said| (cue.number, said)));
    for (number, said) in said {
        if show.tier(&said.tier).is_none() {
            return Err(Refused(format!("cue {number}: there is no tier \"{}\"; take one that is there", said.tier)));
        }
        if let Some(look) = said.look.as_ref().filter(|look| show.look(look).is_none()) {
            return Err(Refused(format!("cue {number}: there is no look \"{look}\"; take one that is there")));
        }
    }
    Ok(())
}

fn in_order(list: &CueList) -> CueList {
    let mut list = list.clone();
    list.cues.sort_by_key(|cue| cue.number);
    list
}

pub(super) fn add(show: &mut Show, at: usize, lists: &[CueList]) -> Result<(), Refused> {
    for (place, list) in lists.iter().enumerate() {
        check_names(show, list)?;
        outputs::add(&mut show.cue_lists, &in_order(list))?;
        let last = show.cue_lists.pop().into_iter();
        let at = (at + place).min(show.cue_lists.len());
        show.cue_lists.splice(at..at, last);
    }
    match show.cue_lists.len() > MOST_LISTS {
        true => Err(Refused(format!("a show has {MOST_LISTS} cue lists at the most; take one out first"))),
        false => Ok(()),
    }
}

pub(super) fn put(show: &mut Show, changed: &[(usize, CueList)]) -> Result<(), Refused> {
    for (index, list) in changed {
        check_names(show, list)?;
        let before = show.cue_lists.get(*index).map(|one| one.name.clone());
        outputs::put(&mut show.cue_lists, *index, &in_order(list))?;
        if let Some(before) = before.filter(|before| *before != list.name) {
            names::rename(show, ReferenceKind::CueList, &before, &list.name);
        }
    }
    Ok(())
}

/// Takes a list out, and what runs it.
pub(super) fn remove(show: &mut Show, index: usize) -> Result<(), Refused> {
    let name = show.cue_lists.get(index).map(|one| one.name.clone());
    outputs::remove(&mut show.cue_lists, index)?;
    names::remove(show, ReferenceKind::CueList, &name.into_iter().collect())
}

/// Adds looks, and has a cue show them in place of its own.
pub(super) fn own_looks(show: &mut Show, list: usize, place: usize, looks: &[Look]) -> Result<(), Refused> {
    let cue = show.cue_lists.get_mut(list).and_then(|list| list.cues.get_mut(place));
    let cue = cue.ok_or_else(|| Refused("that cue is gone; choose again".to_owned()))?;
    let shown = cue.tiers.iter_mut().filter_map(|tier| tier.look.as_mut());
    for (look, own) in shown.zip(looks) {
        look.clone_from(&own.name);
    }
    show.looks.extend_from_slice(looks);
    Ok(())
}

pub(super) fn move_to(show: &mut Show, from: usize, to: usize) -> Result<(), Refused> {
    if from >= show.cue_lists.len() {
        return Err(Refused(format!("there is no cue list {} any more; choose again", from + 1)));
    }
    let list = show.cue_lists.remove(from);
    show.cue_lists.insert(to.min(show.cue_lists.len()), list);
    Ok(())
}

#[cfg(test)]
mod tests {
    use crate::edit::Edit;
    use splimo_show::{Cue, CueList, GoesOn, Look, Show};

    fn show() -> Show {
        let mut show = Show::empty("Evening");
        show.looks = ["Tide", "Gale"].map(|name| Look::new(name, Vec::new())).to_vec();
        show.give_banks();
        show
    }

    fn list() -> CueList {
        let mut list = CueList::new("Opening");
        for (number, look) in [("4.5", "Gale"), ("1", "Tide")] {
            list.cues.push(Cue::of_look(number.parse().expect("a number"), "base", look));
        }
        list.cues[0].does = vec!["go-cue Opening".into()];
        list.cues[0].then = GoesOn::OnEvent("music".to_owned(), "part drop".parse().expect("an event"));
        list
    }

    fn edited(show: &Show, edit: &Edit) -> Show {
        edit.apply(show).expect("a good edit")
    }

    #[test]
    fn cues_stand_in_the_order_of_their_numbers_and_follow_names() {
        let show = edited(&show(), &Edit::AddCueLists(0, vec![list()]));
        let numbers = |show: &Show| show.cue_lists[0].cues.iter().map(|cue| cue.number.to_string()).collect::<Vec<_>>();
        assert_eq!(numbers(&show), ["1", "4.5"]);
        let renamed = CueList { name: "The end".to_owned(), ..show.cue_lists[0].clone() };
        let show = edited(&show, &Edit::PutCueLists(vec![(0, renamed)]));
        assert_eq!(show.cue_lists[0].cues[1].does, ["go-cue The end"]);
        let show = edited(&show, &Edit::PutLooks(vec![(0, Look::new("Ebb", Vec::new()))]));
        assert_eq!(show.cue_lists[0].cues[0].tiers[0].look.as_deref(), Some("Ebb"));
        let show = edited(&show, &Edit::RemoveLooks(vec![0]));
        assert!(show.cue_lists[0].cues[0].tiers.is_empty(), "the cue stays, and says nothing of the tier");
        let show = edited(&show, &Edit::RemoveCueList(0));
        assert!(show.cue_lists.is_empty());
    }

    #[test]
    fn what_would_not_run_is_refused_in_words() {
        let refused = |change: fn(&mut CueList)| {
            let mut list = list();
            change(&mut list);
            Edit::AddCueLists(0, vec![list]).apply(&show()).expect_err("it is broken").to_string()
        };
        for (change, why) in [
            ((|list| list.cues[1].number = list.cues[0].number) as fn(&mut CueList), "two cues have the number 4.5"),
            (|list| list.cues[0].does = vec!["jump".into()], "jump"),
            (|list| list.cues[1].back_to = "4.5".parse().ok(), "goes back to cue 4.5"),
            (|list| list.cues[0].tiers[0].look = Some("Nothing".to_owned()), "Nothing"),
            (|list| list.cues[0].tiers[0].tier = "nowhere".to_owned(), "nowhere"),
            (|list| list.cues[0].master = Some(101.0), "out of range"),
            (|list| list.cues[0].colour = "greenish".to_owned(), "greenish"),
            (|list| list.name = " ".to_owned(), "name"),
        ] {
            let said = refused(change);
            assert!(said.contains(why), "{said}");
        }
    }
}
