//! Routes and supplies: lists whose entries have names of their own.

use std::net::Ipv4Addr;

use super::Refused;
use splimo_show::{Route, Show, Supply};

/// An entry of such a list.
pub(super) trait Named: Clone {
    /// The word for it.
    const KIND: &'static str;
    /// Its name.
    fn name(&self) -> &str;
}

impl Named for Route {
    const KIND: &'static str = "route";
    fn name(&self) -> &str {
        &self.name
    }
}

impl Named for Supply {
    const KIND: &'static str = "supply";
    fn name(&self) -> &str {
        &self.name
    }
}

fn check_free<T: Named>(list: &[T], name: &str, but: Option<usize>) -> Result<(), Refused> {
    let kind = T::KIND;
    if name.trim().is_empty() {
        return Err(Refused(format!("a {kind} needs a name; type one")));
    }
    match list.iter().enumerate().any(|(index, entry)| Some(index) != but && entry.name() == name) {
        true => Err(Refused(format!("there is a {kind} \"{name}\" already; take another name"))),
        false => Ok(()),
    }
}

fn gone<T: Named>() -> Refused {
    Refused(format!("there is no such {} any more; choose again", T::KIND))
}

pub(super) fn add<T: Named>(list: &mut Vec<T>, entry: &T) -> Result<(), Refused> {
    check_free(list, entry.name(), None)?;
    list.push(entry.clone());
    Ok(())
}

pub(super) fn add_routes(show: &mut Show, routes: &[Route]) -> Result<(), Refused> {
    routes.iter().try_for_each(|route| add(&mut show.routes, route))
}

pub(super) fn put<T: Named>(list: &mut [T], index: usize, entry: &T) -> Result<(), Refused> {
    check_free(list, entry.name(), Some(index))?;
    *list.get_mut(index).ok_or_else(gone::<T>)? = entry.clone();
    Ok(())
}

pub(super) fn remove<T: Named>(list: &mut Vec<T>, index: usize) -> Result<(), Refused> {
    if index >= list.len() {
        return Err(gone::<T>());
    }
    list.remove(index);
    Ok(())
}

/// Leaves a node alone, or no more.
pub(super) fn ignore_node(show: &mut Show, address: Ipv4Addr, ignored: bool) -> Result<(), Refused> {
    let list = &mut show.settings.ignored_nodes;
    if list.contains(&address) == ignored {
        let how = if ignored { "is left alone already" } else { "is not left alone" };
        return Err(Refused(format!("the node {address} {how}; look again")));
    }
    match ignored {
        true => list.push(address),
        false => list.retain(|known| *known != address),
    }
    Ok(())
}
