//! Reading and changing by the same walk: what a walk can be done with.

use std::collections::{BTreeMap, HashSet};
use std::ops::Deref;

use super::commands::{self, Known};
use super::{LayerAt, Site};
use splimo_show::reference::{Fate, ReferenceKind};
use splimo_show::{CommandTemplate, Param, palette};

/// A way of going through a show: reading it ([`Read`]) or changing it ([`Change`]). What is said to stay or not is heeded by the latter.
pub(super) trait Access {
    /// A part of the show: `&T`, or `&mut T`.
    type Ref<'a, T: 'static>: Deref<Target = T>;

    /// A part of a part.
    fn part<'a, T: 'static, U: 'static>(
        of: &'a mut Self::Ref<'_, T>,
        read: impl FnOnce(&T) -> &U,
        change: impl FnOnce(&mut T) -> &mut U,
    ) -> Self::Ref<'a, U>;

    /// A part of a part that is not always there.
    fn inside<'a, T: 'static, U: 'static>(
        of: &'a mut Self::Ref<'_, T>,
        read: impl FnOnce(&T) -> Option<&U>,
        change: impl FnOnce(&mut T) -> Option<&mut U>,
    ) -> Option<Self::Ref<'a, U>>;

    /// Goes through a list, of which those go that do not stay.
    fn each<T: 'static>(list: Self::Ref<'_, Vec<T>>, stays: impl FnMut(usize, Self::Ref<'_, T>) -> bool);

    /// The same for what has names.
    fn each_named<T: 'static>(
        all: Self::Ref<'_, BTreeMap<String, T>>,
        stays: impl FnMut(&str, Self::Ref<'_, T>) -> bool,
    );

    /// Goes through the texts of a parameter. Whether it stays.
    fn texts(param: Self::Ref<'_, Param>, stays: impl FnMut(usize, Self::Ref<'_, String>) -> bool) -> bool;

    /// Puts another value in the place of one that does not stay.
    fn put<T: 'static>(of: &mut Self::Ref<'_, T>, value: T);

    /// A name. Whether it stays.
    fn name(&mut self, site: Site<'_>, name: Self::Ref<'_, String>) -> bool;

    /// A name that is part of something else and is never another. Whether it stays.
    fn fixed(&mut self, site: Site<'_>, name: &str) -> bool;

    /// Names in a list that says *which*: two that became the same are made one.
    fn set(&mut self, names: Self::Ref<'_, Vec<String>>, site: impl Fn(usize) -> Site<'static>);

    /// A colour in a text, which may be one of the palette. Whether it stays.
    fn colour(&mut self, site: Site<'_>, text: Self::Ref<'_, String>) -> bool;

    /// The fixtures of which a layer holds lights.
    fn lights(&mut self, of: LayerAt, lights: Self::Ref<'_, BTreeMap<String, String>>);

    /// The names in a command. Whether it stays.
    fn command(
        &mut self,
        known: &Known,
        site: impl Fn(&'static [ReferenceKind]) -> Site<'static>,
        command: Self::Ref<'_, CommandTemplate>,
    ) -> bool;
}

/// Reads: `found` is told of every reference.
pub(super) struct Read<F>(pub(super) F);

impl<F: FnMut(Site<'_>, &str)> Access for Read<F> {
    type Ref<'a, T: 'static> = &'a T;

    fn part<'a, T: 'static, U: 'static>(
        of: &'a mut &T,
        read: impl FnOnce(&T) -> &U,
        _change: impl FnOnce(&mut T) -> &mut U,
    ) -> &'a U {
        read(of)
    }

    fn inside<'a, T: 'static, U: 'static>(
        of: &'a mut &T,
        read: impl FnOnce(&T) -> Option<&U>,
        _change: impl FnOnce(&mut T) -> Option<&mut U>,
    ) -> Option<&'a U> {
        read(of)
    }

    fn each<T: 'static>(list: &Vec<T>, mut stays: impl FnMut(usize, &T) -> bool) {
        for (at, one) in list.iter().enumerate() {
            stays(at, one);
        }
    }

    fn each_named<T: 'static>(all: &BTreeMap<String, T>, mut stays: impl FnMut(&str, &T) -> bool) {
        for (name, one) in all {
            stays(name, one);
        }
    }

    fn texts(param: &Param, mut stays: impl FnMut(usize, &String) -> bool) -> bool {
        match param {
            Param::List(list) => Self::each(list, stays),
            Param::Text(text) => _ = stays(0, text),
            Param::Flag(_) | Param::Number(_) => {}
        }
        true
    }

    fn put<T: 'static>(_of: &mut &T, _value: T) {}

    fn name(&mut self, site: Site<'_>, name: &String) -> bool {
        self.fixed(site, name)
    }

    fn fixed(&mut self, site: Site<'_>, name: &str) -> bool {
        (self.0)(site, name);
        true
    }

    fn set(&mut self, names: &Vec<String>, site: impl Fn(usize) -> Site<'static>) {
        names.iter().enumerate().for_each(|(at, name)| (self.0)(site(at), name));
    }

    fn colour(&mut self, site: Site<'_>, text: &String) -> bool {
        if let Some((name, _)) = palette::referred(text) {
            (self.0)(site, name);
        }
        true
    }

    fn lights(&mut self, of: LayerAt, lights: &BTreeMap<String, String>) {
        lights.keys().for_each(|fixture| (self.0)(Site::Light { of, fixture }, fixture));
    }

    fn command(
        &mut self,
        known: &Known,
        site: impl Fn(&'static [ReferenceKind]) -> Site<'static>,
        command: &CommandTemplate,
    ) -> bool {
        commands::visit(command, known, |kinds, name| (self.0)(site(kinds), name));
        true
    }
}

/// Changes: every reference has the fate that is said of it, by what may be named there and what is.
pub(super) struct Change<F>(pub(super) F);

impl<'n, F: FnMut(&'static [ReferenceKind], &str) -> Fate<'n>> Access for Change<F> {
    type Ref<'a, T: 'static> = &'a mut T;

    fn part<'a, T: 'static, U: 'static>(
        of: &'a mut &mut T,
        _read: impl FnOnce(&T) -> &U,
        change: impl FnOnce(&mut T) -> &mut U,
    ) -> &'a mut U {
        change(of)
    }

    fn inside<'a, T: 'static, U: 'static>(
        of: &'a mut &mut T,
        _read: impl FnOnce(&T) -> Option<&U>,
        change: impl FnOnce(&mut T) -> Option<&mut U>,
    ) -> Option<&'a mut U> {
        change(of)
    }

    fn each<T: 'static>(list: &mut Vec<T>, mut stays: impl FnMut(usize, &mut T) -> bool) {
        let mut at = 0;
        list.retain_mut(|one| {
            at += 1;
            stays(at - 1, one)
        });
    }

    fn each_named<T: 'static>(all: &mut BTreeMap<String, T>, mut stays: impl FnMut(&str, &mut T) -> bool) {
        all.retain(|name, one| stays(name, one));
    }

    fn texts(param: &mut Param, mut stays: impl FnMut(usize, &mut String) -> bool) -> bool {
        match param {
            Param::List(list) => Self::each(list, stays),
            Param::Text(text) => return stays(0, text),
            Param::Flag(_) | Param::Number(_) => {}
        }
        true
    }

    fn put<T: 'static>(of: &mut &mut T, value: T) {
        **of = value;
    }

    fn name(&mut self, site: Site<'_>, name: &mut String) -> bool {
        (self.0)(site.accepts(), name).befall(name)
    }

    fn fixed(&mut self, site: Site<'_>, name: &str) -> bool {
        (self.0)(site.accepts(), name) != Fate::Remove
    }

    fn set(&mut self, names: &mut Vec<String>, site: impl Fn(usize) -> Site<'static>) {
        let mut renamed = false;
        Self::each(names, |at, name| {
            let fate = (self.0)(site(at).accepts(), name);
            renamed |= matches!(fate, Fate::Rename(_));
            fate.befall(name)
        });
        if renamed {
            let mut seen = HashSet::new();
            names.retain(|name| seen.insert(name.clone()));
        }
    }

    fn colour(&mut self, site: Site<'_>, text: &mut String) -> bool {
        let Some((name, behind)) = palette::referred(text) else { return true };
        match (self.0)(site.accepts(), name) {
            Fate::Keep => true,
            Fate::Rename(new) => {
                *text = format!("{} {behind}", palette::reference(new)).trim_end().to_owned();
                true
            }
            Fate::Remove => false,
        }
    }

    fn lights(&mut self, of: LayerAt, lights: &mut BTreeMap<String, String>) {
        let mut renamed = Vec::new();
        lights.retain(|fixture, held| match (self.0)(Site::Light { of, fixture }.accepts(), fixture) {
            Fate::Keep => true,
            Fate::Rename(new) => {
                renamed.push((new.to_owned(), std::mem::take(held)));
                false
            }
            Fate::Remove => false,
        });
        lights.extend(renamed);
    }

    fn command(
        &mut self,
        known: &Known,
        _site: impl Fn(&'static [ReferenceKind]) -> Site<'static>,
        command: &mut CommandTemplate,
    ) -> bool {
        commands::rewrite(command, known, &mut self.0)
    }
}
