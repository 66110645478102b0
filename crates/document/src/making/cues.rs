//! Making cues: out of what is on stage, and out of looks.

use crate::edit::Edit;
use splimo_engine::{Snapshot, TierState};
use splimo_show::{Cue, CueList, CueNumber, CueTier, CueTime, GoesOn, Look, MOST_CUES, Show};

/// The thing that a list says of a tier after some of its cues: the look or nothing, and the level in percent.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
struct SaidOf<'l> {
    /// The look; none within where it is out.
    look: Option<Option<&'l str>>,
    level: Option<f32>,
}

/// The things that a list says of a tier once the cue at a place has come.
fn said<'l>(list: &'l CueList, place: Option<usize>, tier: &str) -> SaidOf<'l> {
    let cues = place.and_then(|place| list.cues.get(..=place)).unwrap_or(&[]);
    cues.iter().fold(SaidOf::default(), |before, cue| match cue.tier(tier) {
        None if cue.others_out => SaidOf { look: Some(None), ..before },
        None => before,
        Some(one) => {
            let look = if one.out { Some(None) } else { one.look.as_deref().map(Some).or(before.look) };
            SaidOf { look, level: one.level.or(before.level) }
        }
    })
}

/// A tier of the stage in the words of a cue.
fn tier_now(show: &Show, place: usize, state: &TierState) -> CueTier {
    // What lies over a look for a while is none of a cue.
    let look = if state.held { state.below } else { state.look };
    let look = look.and_then(|look| show.looks.get(look)).map(|look| look.name.clone());
    let level = Some((state.level * 100.0).round());
    CueTier { tier: show.stack()[place].name.clone(), out: look.is_none(), look, level }
}

/// The tiers of the stage, as a cue would say it.
fn stage(show: &Show, snapshot: &Snapshot) -> Vec<CueTier> {
    let tiers = snapshot.tiers.iter().enumerate().take(show.stack().len());
    tiers.map(|(place, state)| tier_now(show, place, state)).collect()
}

/// Leaves out what a list says already after the cue at a place.
fn changed(list: &CueList, place: Option<usize>, now: CueTier) -> Option<CueTier> {
    let before = said(list, place, &now.tier);
    let same_look = before.look == Some(now.look.as_deref());
    let level = now.level.filter(|level| before.level.unwrap_or(100.0) != *level);
    let look = now.look.filter(|_| !same_look);
    let out = now.out && !same_look && before.look.is_some();
    (look.is_some() || out || level.is_some()).then_some(CueTier { look, out, level, ..now })
}

/// The edit that records what is on stage as a new cue behind the one at a place, or at the end of the list; and the number of the
/// cue. With `changes`, only the tiers that are not as the list says after that cue.
///
/// # Errors
/// Words for a person where there is no room for it, or nothing has changed.
pub fn recorded(
    show: &Show,
    snapshot: &Snapshot,
    list: usize,
    number: Option<CueNumber>,
    changes: bool,
) -> Result<(Edit, CueNumber), String> {
    let mut list_now = show.cue_lists.get(list).ok_or("that cue list is gone")?.clone();
    let at = snapshot.lists.get(list).and_then(|state| state.at).filter(|at| *at < list_now.cues.len());
    let behind = at.or(list_now.cues.len().checked_sub(1));
    let number = match number {
        Some(number) if list_now.place(number).is_some() => {
            return Err(format!("there is a cue {number} already; take another number, or go there and update it"));
        }
        Some(number) => number,
        None => {
            list_now.free_number(behind).ok_or("there is no number free behind that cue; renumber the list first")?
        }
    };
    if list_now.cues.len() >= MOST_CUES {
        return Err(format!("a list has {MOST_CUES} cues at the most; take one out first"));
    }
    let before = list_now.cues.partition_point(|cue| cue.number < number).checked_sub(1);
    let stage = stage(show, snapshot);
    let tiers: Vec<CueTier> = match changes {
        true => stage.into_iter().filter_map(|tier| changed(&list_now, before, tier)).collect(),
        false => stage,
    };
    if changes && tiers.is_empty() {
        return Err("nothing on stage has changed since the last cue".to_owned());
    }
    let name = tiers.iter().rev().find_map(|tier| tier.look.clone()).unwrap_or_default();
    let fade = list_now.cues.get(before.unwrap_or(0)).map_or(CueTime::NONE, |cue| cue.fade_in);
    let cue = Cue { tiers, fade_in: fade, fade_out: fade, ..Cue::new(number, &name) };
    list_now.cues.insert(before.map_or(0, |before| before + 1), cue);
    Ok((Edit::PutCueLists(vec![(list, list_now)]), number))
}

/// The edit that changes the cue that a list is at to what is on stage: the tiers that it names, and those that are not as the list
/// says; and the number of the cue.
///
/// # Errors
/// Words for a person where the list rests, or the stage is as the cue says.
pub fn updated(show: &Show, snapshot: &Snapshot, list: usize) -> Result<(Edit, CueNumber), String> {
    let mut list_now = show.cue_lists.get(list).ok_or("that cue list is gone")?.clone();
    let at = snapshot.lists.get(list).and_then(|state| state.at).filter(|at| *at < list_now.cues.len());
    let at = at.ok_or_else(|| format!("{} rests; go to the cue that is to change", list_now.name))?;
    for now in stage(show, snapshot) {
        let Some(new) = changed(&list_now, Some(at), now) else { continue };
        let cue = &mut list_now.cues[at];
        match cue.tiers.iter_mut().find(|tier| tier.tier == new.tier) {
            None => cue.tiers.push(new),
            Some(known) => {
                if new.look.is_some() || new.out {
                    (known.look, known.out) = (new.look, new.out);
                }
                known.level = new.level.or(known.level);
            }
        }
    }
    let number = list_now.cues[at].number;
    match list_now == show.cue_lists[list] {
        true => Err(format!("the stage is as cue {number} says")),
        false => Ok((Edit::PutCueLists(vec![(list, list_now)]), number)),
    }
}

/// A list of looks, one after another on a tier, each with a fade, going on by itself or by hand.
#[must_use]
pub fn list_of(name: &str, looks: &[String], tier: &str, fade: CueTime, then: &GoesOn) -> CueList {
    let mut list = CueList { then: then.clone(), ..CueList::new(name) };
    let mut number = Some(CueNumber::ONE);
    for look in looks.iter().take(MOST_CUES) {
        let Some(own) = number else { break };
        list.cues.push(Cue { fade_in: fade, fade_out: fade, ..Cue::of_look(own, tier, look) });
        number = own.next();
    }
    list
}

/// The edit that gives a cue looks of its own, copies of those that it shows, so that they can be changed for it alone; and the names
/// of the copies. Other places of the show keep theirs.
///
/// # Errors
/// Words for a person where the cue shows none.
pub fn own_looks(show: &Show, list: usize, place: usize) -> Result<(Edit, Vec<String>), String> {
    let list_now = show.cue_lists.get(list).ok_or("that cue list is gone")?;
    let cue = list_now.cues.get(place).ok_or("that cue is gone")?;
    let mut names = Vec::new();
    let mut copies: Vec<Look> = Vec::new();
    for look in cue.tiers.iter().filter_map(|tier| tier.look.as_deref()) {
        let Some((_, original)) = show.look(look) else { continue };
        let stem = format!("{look}, cue {}", cue.number);
        let taken = |name: &str| show.look(name).is_some() || copies.iter().any(|copy| copy.name == name);
        let mut names_like = std::iter::once(stem.clone()).chain((2..).map(|count: u32| format!("{stem} ({count})")));
        let name = names_like.find(|name| !taken(name)).unwrap_or(stem);
        names.push(name.clone());
        copies.push(Look { name, ..original.clone() });
    }
    match copies.is_empty() {
        true => Err(format!("cue {} shows no look of its own: it keeps what the cues before it say", cue.number)),
        false => Ok((Edit::OwnLooks(list, place, copies), names)),
    }
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use super::*;
    use crate::Command;
    use splimo_engine::{Engine, Inputs, Published};
    use splimo_show::Tier;
    use splimo_show::command::Origin;

    /// A show of three tiers and one list, and its stage after some commands.
    fn stage_after(cues: Vec<Cue>, commands: &[&str]) -> (Show, Snapshot) {
        let mut show = Show::empty("Making");
        show.settings.cue_back_fade = 0.0;
        show.tiers = ["base", "mid", "top"].map(Tier::new).to_vec();
        show.looks = ["A", "B", "C"].map(|name| Look::new(name, Vec::new())).to_vec();
        show.cue_lists = vec![CueList { cues, ..CueList::new("Opening") }];
        let mut engine = Engine::new(Arc::new(show.clone()));
        for text in commands {
            let Ok(Command::Engine(command)) = text.parse() else { panic!("{text}") };
            engine.apply_from(&command, Origin::Screen(1), 0.0);
        }
        engine.tick(0.1, &Inputs::default());
        let mut published = Published::default();
        engine.publish(&mut published);
        (show, published.snapshot)
    }

    fn number(text: &str) -> CueNumber {
        text.parse().expect("a number")
    }

    fn says(cue: &Cue) -> Vec<String> {
        let words = |one: &CueTier| {
            let look = one.look.as_deref().unwrap_or(if one.out { "out" } else { "keep" });
            format!("{} {look} {}", one.tier, one.level.map_or("-".to_owned(), |level| level.to_string()))
        };
        cue.tiers.iter().map(words).collect()
    }

    fn cue_of(edit: &Edit, show: &Show, text: &str) -> Cue {
        let show = edit.apply(show).expect("a good edit");
        let list = &show.cue_lists[0];
        list.cues[list.place(number(text)).expect("it is there")].clone()
    }

    #[test]
    fn the_stage_is_recorded_whole_or_where_it_changed() {
        let one = Cue::of_look(number("1"), "base", "A");
        let commands = ["go-cue Opening", "cut-to top/C", "tier-level top 40"];
        let (show, now) = stage_after(vec![one, Cue::of_look(number("2"), "base", "B")], &commands);
        let (edit, at) = recorded(&show, &now, 0, None, false).expect("it is recorded");
        assert_eq!(at, number("1.5"), "behind the cue that runs");
        assert_eq!(says(&cue_of(&edit, &show, "1.5")), ["base A 100", "mid out 100", "top C 40"]);
        let (edit, _) = recorded(&show, &now, 0, None, true).expect("it is recorded");
        assert_eq!(says(&cue_of(&edit, &show, "1.5")), ["top C 40"]);
        let (edit, _) = recorded(&show, &now, 0, Some(number("7")), true).expect("it is recorded");
        assert_eq!(says(&cue_of(&edit, &show, "7")), ["base A -", "top C 40"], "cue 2 says otherwise");
        let why = recorded(&show, &now, 0, Some(number("2")), false).expect_err("there is one");
        assert!(why.contains("there is a cue 2 already"), "{why}");
    }

    #[test]
    fn nothing_new_is_no_cue_and_a_list_that_rests_has_none_to_change() {
        let (show, now) = stage_after(vec![Cue::of_look(number("1"), "base", "A")], &["go-cue Opening"]);
        assert!(recorded(&show, &now, 0, None, true).expect_err("nothing").contains("nothing on stage has changed"));
        assert!(updated(&show, &now, 0).expect_err("nothing").contains("the stage is as cue 1 says"));
        let (show, now) = stage_after(vec![Cue::of_look(number("1"), "base", "A")], &["cut-to B"]);
        assert!(updated(&show, &now, 0).expect_err("it rests").contains("Opening rests"));
        let (edit, at) = recorded(&show, &now, 0, None, false).expect("it is recorded");
        assert_eq!((at, says(&cue_of(&edit, &show, "2")).len()), (number("2"), 3));
    }

    #[test]
    fn the_cue_that_is_on_becomes_as_the_stage_is() {
        let cues = vec![Cue::of_look(number("1"), "base", "A"), Cue::of_look(number("2"), "mid", "B")];
        let commands = ["go-cue Opening", "go-cue Opening", "cut-to mid/C", "cut-to base/B", "release-tier top"];
        let (show, now) = stage_after(cues, &commands);
        let (edit, at) = updated(&show, &now, 0).expect("it is changed");
        assert_eq!(at, number("2"));
        assert_eq!(says(&cue_of(&edit, &show, "2")), ["mid C -", "base B -"]);
        assert_eq!(says(&cue_of(&edit, &show, "1")), ["base A -"], "the cue before keeps what it says");
    }

    #[test]
    fn looks_in_a_row_and_looks_of_its_own() {
        let looks = ["A", "B", "C"].map(str::to_owned);
        let (fade, then) = (CueTime::Seconds(1.0), "after 3 s".parse().expect("a way"));
        let list = list_of("Row", &looks, "base", fade, &then);
        let cues = list.cues.iter().map(|cue| (cue.number.to_string(), cue.name.clone())).collect::<Vec<_>>();
        assert_eq!(cues, [("1", "A"), ("2", "B"), ("3", "C")].map(|(n, name)| (n.to_owned(), name.to_owned())));
        assert!(list.cues.iter().all(|cue| cue.fade_in == fade) && *list.goes_on(2) == then);
        let (mut show, _) = stage_after(list.cues, &[]);
        for wanted in ["B, cue 2", "B, cue 2, cue 2"] {
            let (edit, names) = own_looks(&show, 0, 1).expect("it has one");
            assert_eq!(names, [wanted]);
            show = edit.apply(&show).expect("a good edit");
            assert_eq!(show.cue_lists[0].cues[1].tiers[0].look.as_deref(), Some(wanted));
        }
        assert_eq!(show.looks.len(), 5);
        show.cue_lists[0].cues[1].tiers.clear();
        assert!(own_looks(&show, 0, 1).is_err());
    }
}
