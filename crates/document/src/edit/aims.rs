//! Edits of aims.

use super::{Refused, names};
use splimo_show::reference::ReferenceKind;
use splimo_show::{Aim, MOST_AIMS, Show};

fn gone(index: usize) -> Refused {
    Refused(format!("there is no aim {} any more; choose again", index + 1))
}

fn check(show: &Show, index: Option<usize>, aim: &Aim) -> Result<(), Refused> {
    if aim.name.trim().is_empty() {
        return Err(Refused::because("an aim has a name; type one"));
    }
    if show.aims.iter().enumerate().any(|(other, one)| Some(other) != index && one.name == aim.name) {
        return Err(Refused(format!("there is an aim \"{}\" already; give this another name", aim.name)));
    }
    if index.is_none() && show.aims.len() >= MOST_AIMS {
        return Err(Refused(format!("there are {MOST_AIMS} aims already; take one out first")));
    }
    Ok(())
}

pub(super) fn add(show: &mut Show, aim: &Aim) -> Result<(), Refused> {
    check(show, None, aim)?;
    show.aims.push(aim.clone());
    Ok(())
}

pub(super) fn put(show: &mut Show, index: usize, aim: &Aim) -> Result<(), Refused> {
    check(show, Some(index), aim)?;
    let before = show.aims.get_mut(index).ok_or_else(|| gone(index))?;
    let old = std::mem::replace(before, aim.clone()).name;
    if old != aim.name {
        names::rename(show, ReferenceKind::Aim, &old, &aim.name);
    }
    Ok(())
}

pub(super) fn remove(show: &mut Show, index: usize) -> Result<(), Refused> {
    let aim = show.aims.get(index).ok_or_else(|| gone(index))?;
    names::refuse_used(show, ReferenceKind::Aim, &aim.name, "give them another aim first")?;
    show.aims.remove(index);
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::edit::Edit;
    use splimo_show::{AimedHead, Fixture, Layer, Look, Param, Shape};

    fn show() -> Show {
        let mut show = Show::empty("Aims");
        show.fixtures = vec![Fixture::new("Gull", "moving head", Shape::Line { cells: 1 })];
        let head = AimedHead { fixture: "Gull".into(), pan: 40.0, tilt: 60.0 };
        show.aims = vec![Aim { heads: vec![head], ..Aim::new("Booth") }, Aim::new("Ceiling")];
        let mut layer = Layer::new("aim");
        layer.params.insert("aim".into(), Param::Text("Booth".into()));
        show.looks = vec![Look::new("Nod", vec![layer])];
        show
    }

    #[test]
    fn a_new_name_goes_wherever_the_old_one_stands_and_what_is_used_stays() {
        let renamed = Edit::PutAim(0, Aim { name: "Desk".into(), ..show().aims[0].clone() });
        let renamed = renamed.apply(&show()).expect("it is renamed");
        assert_eq!(renamed.looks[0].layers[0].params["aim"], Param::Text("Desk".into()));
        let why = Edit::RemoveAim(0).apply(&show()).expect_err("a look points there");
        assert!(why.0.contains("look Nod, layer 1"), "{why}");
        assert_eq!(Edit::RemoveAim(1).apply(&show()).map(|show| show.aims.len()), Ok(1));
        for name in ["Ceiling", " "] {
            assert!(Edit::AddAim(Aim::new(name)).apply(&show()).is_err(), "{name}");
        }
    }

    #[test]
    fn a_fixture_that_is_renamed_or_taken_out_is_so_in_aims_too() {
        let gull = Fixture { name: "Tern".into(), ..show().fixtures[0].clone() };
        let renamed = Edit::Put(vec![(0, gull)]).apply(&show()).expect("it is renamed");
        assert_eq!(renamed.aims[0].of("Tern"), Some([40.0, 60.0]));
        let without = Edit::Remove(vec![0]).apply(&show()).expect("it is taken out");
        assert!(without.aims[0].heads.is_empty());
    }
}
