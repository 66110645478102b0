//! Edits of regions.

use super::{Refused, names};
use splimo_show::reference::ReferenceKind;
use splimo_show::{Region, Show};

fn no_region(index: usize) -> Refused {
    Refused(format!("there is no region {} any more", index + 1))
}

fn check_name(show: &Show, index: Option<usize>, region: &Region) -> Result<(), Refused> {
    if region.name.trim().is_empty() {
        return Err(Refused("a region needs a name; type one".to_owned()));
    }
    if show.regions.iter().enumerate().any(|(other, one)| Some(other) != index && one.name == region.name) {
        return Err(Refused(format!("there is a region \"{}\" already; give this another name", region.name)));
    }
    Ok(())
}

pub(super) fn add(show: &mut Show, region: &Region) -> Result<(), Refused> {
    check_name(show, None, region)?;
    show.regions.push(region.clone());
    Ok(())
}

pub(super) fn put(show: &mut Show, index: usize, region: &Region) -> Result<(), Refused> {
    check_name(show, Some(index), region)?;
    let before = show.regions.get_mut(index).ok_or_else(|| no_region(index))?;
    let old = std::mem::replace(before, region.clone()).name;
    if old != region.name {
        names::rename(show, ReferenceKind::Region, &old, &region.name);
    }
    Ok(())
}

pub(super) fn remove(show: &mut Show, index: usize) -> Result<(), Refused> {
    let region = show.regions.get(index).ok_or_else(|| no_region(index))?;
    names::refuse_used(show, ReferenceKind::Region, &region.name, "give them another area first")?;
    show.regions.remove(index);
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::edit::Edit;
    use splimo_show::{Area, Layer, Look};

    fn region(name: &str) -> Region {
        Region { name: name.to_owned(), of: String::new(), area: Area { width: 50.0, ..Area::WHOLE } }
    }

    #[test]
    fn a_region_is_renamed_with_its_layers_and_stays_while_one_uses_it() {
        let layer = Layer { region: "Left".into(), ..Layer::new("plasma") };
        let show = Show {
            regions: vec![region("Left"), region("Spare")],
            looks: vec![Look::new("Tide", vec![layer])],
            ..Show::empty("Quay")
        };
        let renamed = Edit::PutRegion(0, region("West")).apply(&show).expect("it is renamed");
        assert_eq!(renamed.looks[0].layers[0].region, "West");
        let why = Edit::RemoveRegion(0).apply(&show).expect_err("it is used").to_string();
        assert!(why.contains("look Tide, layer 1") && why.contains("another area"), "{why}");
        assert_eq!(Edit::RemoveRegion(1).apply(&show).map(|show| show.regions.len()), Ok(1));
        assert!(Edit::AddRegion(region("Left")).apply(&show).is_err(), "the name is taken");
        assert!(Edit::AddRegion(region(" ")).apply(&show).is_err(), "no name");
    }
}
