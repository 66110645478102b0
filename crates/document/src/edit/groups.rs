//! Groups: their names, their order, and the usual ways to pick members.

use std::collections::HashSet;

use serde::{Deserialize, Serialize};

use super::{Refused, names};
use crate::reference::{self, Fate};
use splimo_show::reference::ReferenceKind;
use splimo_show::{Fixture, Group, Show};

/// A choice of some things in an order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Pick {
    /// All, in their order.
    All,
    /// The first, the third and so on.
    Odd,
    /// The second, the fourth and so on.
    Even,
    /// Every nth, beginning with the first.
    Every(usize),
    /// The first half; the middle one belongs to it.
    FirstHalf,
    /// The second half.
    SecondHalf,
    /// All, the last first.
    Reversed,
}

impl Pick {
    /// Picks.
    #[must_use]
    pub fn from<T: Clone>(self, all: &[T]) -> Vec<T> {
        let half = all.len().div_ceil(2);
        match self {
            Self::All => all.to_vec(),
            Self::Odd => all.iter().step_by(2).cloned().collect(),
            Self::Even => all.iter().skip(1).step_by(2).cloned().collect(),
            Self::Every(nth) => all.iter().step_by(nth.max(1)).cloned().collect(),
            Self::FirstHalf => all[..half].to_vec(),
            Self::SecondHalf => all[half..].to_vec(),
            Self::Reversed => all.iter().rev().cloned().collect(),
        }
    }
}

fn no_group() -> Refused {
    Refused::because("there is no such group any more; choose again")
}

fn check_members(group: &Group) -> Result<(), Refused> {
    let mut seen = HashSet::new();
    match group.members.iter().find(|name| !seen.insert(name.as_str())) {
        Some(twice) => Err(Refused(format!("{twice} is in the group {} twice; take one out", group.name))),
        None if group.members.is_empty() => {
            Err(Refused(format!("the group {} has no members; choose some", group.name)))
        }
        None => Ok(()),
    }
}

pub(super) fn add(show: &mut Show, group: &Group) -> Result<(), Refused> {
    names::check_free(show, &group.name)?;
    check_members(group)?;
    show.groups.push(group.clone());
    Ok(())
}

pub(super) fn put(show: &mut Show, index: usize, group: &Group) -> Result<(), Refused> {
    let before = show.groups.get(index).ok_or_else(no_group)?.name.clone();
    check_members(group)?;
    if before != group.name {
        names::check_free(show, &group.name)?;
        names::rename(show, ReferenceKind::Group, &before, &group.name);
    }
    show.groups[index] = group.clone();
    Ok(())
}

pub(super) fn remove(show: &mut Show, index: usize) -> Result<(), Refused> {
    if index >= show.groups.len() {
        return Err(no_group());
    }
    let group = show.groups.remove(index);
    names::remove(show, ReferenceKind::Group, &HashSet::from([group.name]))
}

pub(super) fn merge(show: &mut Show, merged: &[usize]) -> Result<(), Refused> {
    let (Some(&first), true) = (merged.first(), merged.len() > 1) else {
        return Err(Refused::because("mark two groups or more to merge them"));
    };
    if merged.iter().any(|&index| index >= show.groups.len()) {
        return Err(no_group());
    }
    let name = show.groups[first].name.clone();
    let mut members: Vec<String> = Vec::new();
    for &index in merged {
        for member in &show.groups[index].members {
            if !members.contains(member) {
                members.push(member.clone());
            }
        }
    }
    show.groups[first].members = members;
    let gone: HashSet<String> = merged[1..].iter().map(|&index| show.groups[index].name.clone()).collect();
    show.groups.retain(|group| !gone.contains(&group.name));
    // What lit or fed one of them has the whole.
    let fate =
        |kinds: &[ReferenceKind], named: &str| match kinds.contains(&ReferenceKind::Group) && gone.contains(named) {
            true => Fate::Rename(&name),
            false => Fate::Keep,
        };
    reference::rewrite(show, fate);
    Ok(())
}

/// Has fixtures be in the groups that are told, each with its members among them, and in no others. Groups that are not there
/// yet are made.
pub(super) fn join_as_told(
    show: &mut Show,
    fixtures: &[Fixture],
    told: &[(String, Vec<String>)],
) -> Result<(), Refused> {
    let meant: HashSet<&str> = fixtures.iter().map(|fixture| fixture.name.as_str()).collect();
    for group in &mut show.groups {
        let stay = told.iter().find(|(name, _)| *name == group.name).map_or(&[][..], |(_, members)| members.as_slice());
        group.members.retain(|member| !meant.contains(member.as_str()) || stay.contains(member));
        group.members.extend(stay.iter().filter(|member| !group.members.contains(member)).cloned().collect::<Vec<_>>());
    }
    for (name, members) in told {
        if show.groups.iter().any(|group| group.name == *name) {
            continue;
        }
        if show.fixtures.iter().any(|fixture| fixture.name == *name) {
            return Err(Refused(format!("\"{name}\" is a fixture; give the group another name in the table")));
        }
        show.groups.push(Group { name: name.clone(), members: members.clone(), colour: None });
    }
    Ok(())
}
