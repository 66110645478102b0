//! Names, and everything that refers to something by its name.

use std::collections::HashSet;

use super::{Refused, gone};
use crate::show::{Profile, Show};

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

/// Puts a new name of a fixture or a group wherever the old one stands.
pub(super) fn rename_target(show: &mut Show, old: &str, new: &str) {
    let members = show.groups.iter_mut().flat_map(|g| &mut g.members);
    let targets = show.looks.iter_mut().flat_map(|l| &mut l.layers).flat_map(|l| &mut l.target);
    let fed = show.supplies.iter_mut().flat_map(|s| &mut s.feeds);
    for name in members.chain(targets).chain(fed).filter(|name| *name == old) {
        new.clone_into(name);
    }
    for layer in show.looks.iter_mut().flat_map(|look| &mut look.layers) {
        if let Some(lights) = layer.lights.remove(old) {
            layer.lights.insert(new.to_owned(), lights);
        }
    }
}

/// Takes names out of every target. Refused where a layer would have none left, as it would then light everything.
pub(super) fn remove_targets(show: &mut Show, gone: &HashSet<String>) -> Result<(), Refused> {
    show.supplies.iter_mut().for_each(|supply| supply.feeds.retain(|name| !gone.contains(name)));
    for look in &mut show.looks {
        for (index, layer) in look.layers.iter_mut().enumerate() {
            let had = layer.target.len();
            layer.target.retain(|name| !gone.contains(name));
            layer.lights.retain(|name, _| !gone.contains(name));
            if had > 0 && layer.target.is_empty() {
                return Err(Refused(format!(
                    "layer {} of the look {} lights nothing else; give it another target first",
                    index + 1,
                    look.name
                )));
            }
        }
    }
    Ok(())
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
    show.groups.iter_mut().for_each(|group| group.members.retain(|name| !names.contains(name)));
    remove_targets(show, &names)
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
        for fixture in show.fixtures.iter_mut().filter(|f| f.profile == before) {
            fixture.profile.clone_from(&profile.name);
        }
    }
    show.profiles[index] = profile.clone();
    Ok(())
}

pub(super) fn remove_profile(show: &mut Show, index: usize) -> Result<(), Refused> {
    let name = show.profiles.get(index).ok_or_else(no_profile)?.name.clone();
    // One that hides a built-in one may go: its fixtures take that.
    if Profile::built_in(&name).is_none()
        && let Some(user) = show.fixtures.iter().find(|f| f.profile == name)
    {
        return Err(Refused(format!("{} has the profile {name}; give it another first", user.name)));
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
