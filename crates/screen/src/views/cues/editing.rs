//! Edits of the chosen cues: copied, moved, numbered anew, taken out.

use splimo_document::edit::Edit;
use splimo_show::{CueList, CueNumber, Show};

/// The edit that changes a list of a show.
pub(super) fn changed(
    show: &Show,
    list: usize,
    change: impl FnOnce(&mut CueList) -> Result<(), String>,
) -> Result<Edit, String> {
    let mut changed = show.cue_lists.get(list).ok_or("there is no list yet; a adds one")?.clone();
    change(&mut changed)?;
    Ok(Edit::PutCueLists(vec![(list, changed)]))
}

/// Takes cues out.
pub(super) fn take_out(list: &mut CueList, places: &[usize]) -> Result<(), String> {
    let mut place = 0;
    let gone: Vec<CueNumber> = places.iter().filter_map(|place| list.cues.get(*place)).map(|cue| cue.number).collect();
    list.cues.retain(|_| {
        place += 1;
        !places.contains(&(place - 1))
    });
    for cue in list.cues.iter_mut().filter(|cue| cue.back_to.is_some_and(|back| gone.contains(&back))) {
        (cue.back_to, cue.times) = (None, 0);
    }
    if gone.is_empty() { Err("there is no cue to take out".to_owned()) } else { Ok(()) }
}

/// Copies cues behind the last of them.
pub(super) fn copy(list: &mut CueList, places: &[usize]) -> Result<(), String> {
    let mut behind = *places.last().ok_or("there is no cue to copy")?;
    let copies: Vec<_> = places.iter().filter_map(|place| list.cues.get(*place)).cloned().collect();
    for mut copy in copies {
        copy.number =
            list.free_number(Some(behind)).ok_or("there is no number free behind it; N renumbers the list")?;
        (copy.back_to, copy.times) = (None, 0);
        behind += 1;
        list.cues.insert(behind, copy);
    }
    Ok(())
}

/// Moves cues up or down among the others: they change their numbers with those that they pass. Returns whether they moved.
pub(super) fn move_by(list: &mut CueList, places: &[usize], down: bool) -> Result<(), String> {
    let last = list.cues.len().saturating_sub(1);
    let at_end = |place: &usize| if down { *place >= last } else { *place == 0 };
    if places.is_empty() || places.iter().any(at_end) {
        return Err("it is at the end of the list".to_owned());
    }
    let numbers: Vec<CueNumber> = list.cues.iter().map(|cue| cue.number).collect();
    let mut order: Vec<usize> = places.to_vec();
    if down {
        order.reverse();
    }
    for place in order {
        let other = if down { place + 1 } else { place - 1 };
        list.cues.swap(place, other);
    }
    number(list, &numbers);
    Ok(())
}

/// Gives the cues numbers in their order. Loops go along.
fn number(list: &mut CueList, numbers: &[CueNumber]) {
    let before: Vec<CueNumber> = list.cues.iter().map(|cue| cue.number).collect();
    let now = |old: CueNumber| before.iter().position(|number| *number == old).map(|place| numbers[place]);
    for (cue, number) in list.cues.iter_mut().zip(numbers) {
        cue.number = *number;
        cue.back_to = cue.back_to.and_then(now);
    }
    for cue in &mut list.cues {
        // A loop that would lead forward is none any more.
        if cue.back_to.is_some_and(|back| back > cue.number) {
            (cue.back_to, cue.times) = (None, 0);
        }
    }
}

/// Numbers all cues anew: 1, 2, 3.
pub(super) fn renumber(list: &mut CueList) -> Result<(), String> {
    let mut numbers = vec![CueNumber::ONE];
    while numbers.len() < list.cues.len() {
        numbers.push(numbers[numbers.len() - 1].next().ok_or("there are too many cues")?);
    }
    number(list, &numbers);
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::Cue;

    fn list(numbers: &[&str]) -> CueList {
        let cues = numbers.iter().map(|number| Cue::new(number.parse().expect("a number"), number));
        CueList { cues: cues.collect(), ..CueList::new("List") }
    }

    fn told(list: &CueList) -> Vec<String> {
        list.cues.iter().map(|cue| format!("{} {}", cue.number, cue.name)).collect()
    }

    #[test]
    fn cues_change_numbers_with_those_that_they_pass() {
        let mut moved = list(&["1", "2", "2.5", "9"]);
        moved.cues[3].back_to = "2".parse().ok();
        move_by(&mut moved, &[1, 2], true).expect("there is room");
        assert_eq!(told(&moved), ["1 1", "2 9", "2.5 2", "9 2.5"]);
        assert_eq!(moved.cues[1].back_to, None, "it stands before what it went back to");
        move_by(&mut moved, &[2, 3], false).expect("there is room");
        assert_eq!(told(&moved), ["1 1", "2 2", "2.5 2.5", "9 9"]);
        assert!(move_by(&mut moved, &[0], false).is_err() && move_by(&mut moved, &[3], true).is_err());
    }

    #[test]
    fn cues_are_copied_taken_out_and_numbered_anew() {
        let mut own = list(&["1", "2", "7.25"]);
        own.cues[2].back_to = "2".parse().ok();
        copy(&mut own, &[0, 1]).expect("there is room");
        assert_eq!(told(&own), ["1 1", "2 2", "3 1", "4 2", "7.25 7.25"]);
        renumber(&mut own).expect("there are enough");
        assert_eq!(told(&own), ["1 1", "2 2", "3 1", "4 2", "5 7.25"]);
        assert_eq!(own.cues[4].back_to, "2".parse().ok());
        take_out(&mut own, &[1, 3]).expect("they are there");
        assert_eq!(told(&own), ["1 1", "3 1", "5 7.25"]);
        assert_eq!(own.cues[2].back_to, None);
        assert!(take_out(&mut own, &[]).is_err());
    }
}
