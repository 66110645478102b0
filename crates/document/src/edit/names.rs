//! Names, and everything that refers to something by its name.

use std::collections::HashSet;

use super::{Refused, gone};
use crate::reference::{self, Emptied, Fate};
use splimo_show::reference::ReferenceKind;
use splimo_show::{Profile, Show};

/// Refuses a name that a fixture or a group has, or that is empty.
pub(super) fn check_free(show: &Show, name: &str) -> Result<(), Refused> {
    if name.trim().is_empty() {
        return Err(Refused::because("a name cannot be empty; type one"));
    }
    let taken = show.fixtures.iter().any(|f| f.name == name) || show.groups.iter().any(|g| g.name == name);
    if taken {
        return Err(Refused(format!("there is a \"{name}\" already; take another name")));
    }
    Ok(())
}

/// A name like `name` that no fixture and no group has: the number at its end is raised.
pub(super) fn free_name(show: &Show, name: &str) -> String {
    let stem = name.trim_end_matches(|c: char| c.is_ascii_digit()).trim_end();
    let stem = if stem.is_empty() { "Light" } else { stem };
    let taken: HashSet<&str> =
        show.fixtures.iter().map(|f| f.name.as_str()).chain(show.groups.iter().map(|g| g.name.as_str())).collect();
    let mut number = 1u64;
    loop {
        let candidate = format!("{stem} {number}");
        if !taken.contains(candidate.as_str()) {
            return candidate;
        }
        number += 1;
    }
}

/// Puts another name wherever one of a kind of thing stands.
pub(super) fn rename(show: &mut Show, kind: ReferenceKind, old: &str, new: &str) {
    let fate = |kinds: &[ReferenceKind], name: &str| match kinds.contains(&kind) && name == old {
        true => Fate::Rename(new),
        false => Fate::Keep,
    };
    reference::rewrite(show, fate);
}

/// Takes names of a kind of thing out wherever they stand. Refused where a layer would have no target left, as it would then
/// light everything.
pub(super) fn remove(show: &mut Show, kind: ReferenceKind, gone: &HashSet<String>) -> Result<(), Refused> {
    let fate = |kinds: &[ReferenceKind], name: &str| match kinds.contains(&kind) && gone.contains(name) {
        true => Fate::Remove,
        false => Fate::Keep,
    };
    match reference::rewrite(show, fate).first() {
        Some(Emptied::Tier(tier)) => Err(Refused(format!(
            "the tier {} touches nothing else; give it other lights first",
            show.tiers[*tier].name
        ))),
        Some(Emptied::Layer(emptied)) => Err(Refused(format!(
            "layer {} of the look {} lights nothing else; give it another target first",
            emptied.layer + 1,
            show.looks[emptied.look].name
        ))),
        None => Ok(()),
    }
}

/// Refuses to take something out that something else names; `mend` says what those users need first.
pub(super) fn refuse_used(show: &Show, kind: ReferenceKind, name: &str, mend: &str) -> Result<(), Refused> {
    let uses = reference::uses(show, kind, name);
    let Some(user) = uses.first() else { return Ok(()) };
    let others = if uses.len() > 1 { format!(" and {} more", uses.len() - 1) } else { String::new() };
    Err(Refused(format!("\"{name}\" is used by {user}{others}; {mend}")))
}

pub(super) fn remove_fixtures(show: &mut Show, fixtures: &[usize]) -> Result<(), Refused> {
    if let Some(&index) = fixtures.iter().find(|&&index| index >= show.fixtures.len()) {
        return Err(gone(index));
    }
    let chosen: HashSet<usize> = fixtures.iter().copied().collect();
    let names: HashSet<String> = fixtures.iter().map(|&index| show.fixtures[index].name.clone()).collect();
    let mut index = 0;
    show.fixtures.retain(|_| {
        index += 1;
        !chosen.contains(&(index - 1))
    });
    remove(show, ReferenceKind::Fixture, &names)
}

pub(super) fn add_profile(show: &mut Show, profile: &Profile) -> Result<(), Refused> {
    check_profile_name(show, &profile.name)?;
    show.profiles.push(profile.clone());
    Ok(())
}

pub(super) fn put_profile(show: &mut Show, index: usize, profile: &Profile) -> Result<(), Refused> {
    let before = show.profiles.get(index).ok_or_else(no_profile)?.name.clone();
    if before != profile.name {
        check_profile_name(show, &profile.name)?;
        rename(show, ReferenceKind::Profile, &before, &profile.name);
    }
    show.profiles[index] = profile.clone();
    Ok(())
}

pub(super) fn remove_profile(show: &mut Show, index: usize) -> Result<(), Refused> {
    let name = show.profiles.get(index).ok_or_else(no_profile)?.name.clone();
    // One that hides a built-in one may go: its fixtures take that.
    if Profile::built_in(&name).is_none()
        && let Some(user) = reference::uses(show, ReferenceKind::Profile, &name).first()
    {
        return Err(Refused(format!("{user} has the profile {name}; give it another first")));
    }
    show.profiles.remove(index);
    Ok(())
}

fn no_profile() -> Refused {
    Refused::because("there is no such profile any more; choose again")
}

fn check_profile_name(show: &Show, name: &str) -> Result<(), Refused> {
    if name.trim().is_empty() {
        return Err(Refused::because("a profile needs a name; type one"));
    }
    match show.profiles.iter().any(|p| p.name == name) {
        true => Err(Refused(format!("there is a profile \"{name}\" already; take another name"))),
        false => Ok(()),
    }
}
