//! Looks and the palette.

use super::{Refused, names, play};
use splimo_show::reference::ReferenceKind;
use splimo_show::{Look, Show, Swatch};

fn no_look(index: usize) -> Refused {
    Refused(format!("there is no look {} any more; choose again", index + 1))
}

fn no_swatch(index: usize) -> Refused {
    Refused(format!("there is no entry {} in the palette any more; choose again", index + 1))
}

/// A name that no look has: the wanted one, else with a number behind it.
#[must_use]
pub(crate) fn free_look_name(show: &Show, wanted: &str) -> String {
    let taken = |name: &str| show.looks.iter().any(|look| look.name == name);
    if !taken(wanted) {
        return wanted.to_owned();
    }
    // "Tide 2" becomes "Tide 3" and not "Tide 2 2".
    let stem = wanted.trim_end_matches(|c: char| c.is_ascii_digit()).trim_end();
    let stem = if stem.is_empty() { wanted } else { stem };
    (2..).map(|number| format!("{stem} {number}")).find(|name| !taken(name)).unwrap_or_default()
}

pub(super) fn add(show: &mut Show, at: usize, looks: &[Look]) -> Result<(), Refused> {
    let mut added = Vec::with_capacity(looks.len());
    for (place, look) in looks.iter().enumerate() {
        let name = free_look_name(show, look.name.trim());
        added.push(name.clone());
        let at = (at + place).min(show.looks.len());
        show.looks.insert(at, Look { name, ..look.clone() });
    }
    play::place_looks(show, &added);
    Ok(())
}

pub(super) fn put(show: &mut Show, changed: &[(usize, Look)]) -> Result<(), Refused> {
    for (index, look) in changed {
        let taken = show.looks.iter().enumerate().any(|(other, l)| other != *index && l.name == look.name);
        if taken {
            return Err(Refused(format!("there is a look \"{}\" already; give this one another name", look.name)));
        }
        if look.name.trim().is_empty() {
            return Err(Refused("a look needs a name; type one".to_owned()));
        }
        let before = show.looks.get_mut(*index).ok_or_else(|| no_look(*index))?;
        let old = std::mem::replace(before, look.clone()).name;
        if old != look.name {
            names::rename(show, ReferenceKind::Look, &old, &look.name);
        }
    }
    Ok(())
}

pub(super) fn remove(show: &mut Show, removed: &[usize]) -> Result<(), Refused> {
    if let Some(gone) = removed.iter().find(|index| **index >= show.looks.len()) {
        return Err(no_look(*gone));
    }
    let gone = removed.iter().map(|index| show.looks[*index].name.clone()).collect();
    let mut place = 0;
    show.looks.retain(|_| {
        place += 1;
        !removed.contains(&(place - 1))
    });
    names::remove(show, ReferenceKind::Look, &gone)
}

pub(super) fn move_to(show: &mut Show, from: usize, to: usize) -> Result<(), Refused> {
    if from >= show.looks.len() {
        return Err(no_look(from));
    }
    let look = show.looks.remove(from);
    show.looks.insert(to.min(show.looks.len()), look);
    Ok(())
}

fn check_swatch(show: &Show, index: Option<usize>, swatch: &Swatch) -> Result<(), Refused> {
    if swatch.name.trim().is_empty() || swatch.name.contains(['{', '}']) {
        return Err(Refused(format!("\"{}\" cannot be a name in the palette; type one without braces", swatch.name)));
    }
    if show.palette.iter().enumerate().any(|(other, s)| Some(other) != index && s.name == swatch.name) {
        return Err(Refused(format!("there is \"{}\" in the palette already; give this another name", swatch.name)));
    }
    Ok(())
}

pub(super) fn add_swatch(show: &mut Show, swatch: &Swatch) -> Result<(), Refused> {
    check_swatch(show, None, swatch)?;
    show.palette.push(swatch.clone());
    Ok(())
}

pub(super) fn put_swatch(show: &mut Show, index: usize, swatch: &Swatch) -> Result<(), Refused> {
    check_swatch(show, Some(index), swatch)?;
    let before = show.palette.get_mut(index).ok_or_else(|| no_swatch(index))?;
    let old = std::mem::replace(before, swatch.clone()).name;
    if old != swatch.name {
        names::rename(show, ReferenceKind::Swatch, &old, &swatch.name);
    }
    Ok(())
}

pub(super) fn remove_swatch(show: &mut Show, index: usize) -> Result<(), Refused> {
    let swatch = show.palette.get(index).ok_or_else(|| no_swatch(index))?;
    names::refuse_used(show, ReferenceKind::Swatch, &swatch.name, "give them other colours first")?;
    show.palette.remove(index);
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::edit::Edit;
    use splimo_show::{Layer, Param};

    fn show() -> Show {
        let mut layer = Layer::new("gradient");
        layer.params.insert("colours".into(), Param::List(vec!["{Foam}".into(), "#000000".into()]));
        let mut show = Show::empty("Looks");
        show.palette = vec![Swatch::new("Foam", &["#eeffff"]), Swatch::new("Fog", &["#888888"])];
        show.looks = vec![Look::new("Tide", vec![layer]), Look::new("Squall", vec![])];
        show
    }

    #[test]
    fn added_looks_get_names_that_are_free() {
        let copy = Look::new("Tide", vec![]);
        let added = Edit::AddLooks(1, vec![copy.clone(), copy]).apply(&show()).expect("they are added");
        let names: Vec<&str> = added.looks.iter().map(|l| l.name.as_str()).collect();
        assert_eq!(names, ["Tide", "Tide 2", "Tide 3", "Squall"]);
        assert_eq!(free_look_name(&added, "Tide 2"), "Tide 4");
    }

    #[test]
    fn a_name_twice_or_none_is_refused() {
        for name in ["Squall", " "] {
            let look = Look { name: name.into(), ..show().looks[0].clone() };
            assert!(Edit::PutLooks(vec![(0, look)]).apply(&show()).is_err(), "{name}");
        }
    }

    #[test]
    fn a_new_name_in_the_palette_goes_wherever_the_old_one_stands() {
        let renamed = Edit::PutSwatch(0, Swatch::new("Spray", &["#eeffff"])).apply(&show()).expect("it is renamed");
        assert_eq!(renamed.looks[0].layers[0].params["colours"], Param::List(vec!["{Spray}".into(), "#000000".into()]));
    }

    #[test]
    fn what_is_used_stays_in_the_palette() {
        let why = Edit::RemoveSwatch(0).apply(&show()).expect_err("Tide uses it");
        assert!(why.0.contains("look Tide, layer 1"), "{why}");
        assert_eq!(Edit::RemoveSwatch(1).apply(&show()).map(|s| s.palette.len()), Ok(1));
        assert!(Edit::AddSwatch(Swatch::new("Bad", &["reddish"])).apply(&show()).is_err(), "no colour");
        assert!(Edit::AddSwatch(Swatch::new("{x", &["#112233"])).apply(&show()).is_err(), "no name");
    }

    #[test]
    fn looks_are_moved_and_taken_out() {
        let moved = Edit::MoveLook(0, 9).apply(&show()).expect("it is moved");
        assert_eq!(moved.looks[1].name, "Tide");
        assert_eq!(Edit::RemoveLooks(vec![0]).apply(&moved).map(|s| s.looks.len()), Ok(1));
        assert!(Edit::RemoveLooks(vec![7]).apply(&moved).is_err());
    }
}
