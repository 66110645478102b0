//! Edits of inputs and bindings.

use super::{Refused, names, outputs};
use splimo_show::BUILT_IN;
use splimo_show::CONTROLS;
use splimo_show::reference::ReferenceKind;
use splimo_show::{Binding, Input, MOST_BINDINGS, MOST_INPUTS, NamedControl, Show};

impl outputs::Named for Input {
    const KIND: &'static str = "input";
    fn name(&self) -> &str {
        &self.name
    }
}

fn check_name(name: &str) -> Result<(), Refused> {
    match BUILT_IN.contains(&name) {
        true => Err(Refused(format!("every show has an input \"{name}\" already; take another name"))),
        false => Ok(()),
    }
}

pub(super) fn add(show: &mut Show, input: &Input) -> Result<(), Refused> {
    check_name(&input.name)?;
    if show.inputs.len() >= MOST_INPUTS {
        return Err(Refused(format!("a show has {MOST_INPUTS} inputs at the most; take one out first")));
    }
    outputs::add(&mut show.inputs, input)
}

pub(super) fn put(show: &mut Show, index: usize, input: &Input) -> Result<(), Refused> {
    check_name(&input.name)?;
    let before = show.inputs.get(index).map(|one| one.name.clone());
    outputs::put(&mut show.inputs, index, input)?;
    if let Some(before) = before.filter(|before| *before != input.name) {
        names::rename(show, ReferenceKind::Input, &before, &input.name);
    }
    Ok(())
}

/// Takes an input out, and its bindings.
pub(super) fn remove(show: &mut Show, index: usize) -> Result<(), Refused> {
    let name = show.inputs.get(index).map(|one| one.name.clone());
    outputs::remove(&mut show.inputs, index)?;
    names::remove(show, ReferenceKind::Input, &name.into_iter().collect())
}

/// Gives a control a name; an empty one takes it.
pub(super) fn name_control(show: &mut Show, number: u8, name: &str) -> Result<(), Refused> {
    if !(1..=CONTROLS as u8).contains(&number) {
        return Err(Refused(format!("there is no control {number}; there are 1 to {CONTROLS}")));
    }
    let name = name.trim();
    if let Some(other) = show.controls.iter().find(|one| one.name == name && one.number != number) {
        return Err(Refused(format!("control {} is called \"{name}\"; take another name", other.number)));
    }
    show.controls.retain(|one| one.number != number);
    if !name.is_empty() {
        show.controls.push(NamedControl { number, name: name.to_owned() });
        show.controls.sort_by_key(|one| one.number);
    }
    Ok(())
}

fn no_binding(index: usize) -> Refused {
    Refused(format!("there is no binding {} any more; choose again", index + 1))
}

pub(super) fn add_bindings(show: &mut Show, bindings: &[Binding]) -> Result<(), Refused> {
    show.bindings.extend_from_slice(bindings);
    match show.bindings.len() > MOST_BINDINGS {
        true => Err(Refused(format!("a show has {MOST_BINDINGS} bindings at the most; take one out first"))),
        false => Ok(()),
    }
}

pub(super) fn put_bindings(show: &mut Show, changed: &[(usize, Binding)]) -> Result<(), Refused> {
    for (index, binding) in changed {
        *show.bindings.get_mut(*index).ok_or_else(|| no_binding(*index))? = binding.clone();
    }
    Ok(())
}

pub(super) fn remove_bindings(show: &mut Show, removed: &[usize]) -> Result<(), Refused> {
    if let Some(index) = removed.iter().find(|index| **index >= show.bindings.len()) {
        return Err(no_binding(*index));
    }
    let mut index = 0;
    show.bindings.retain(|_| {
        index += 1;
        !removed.contains(&(index - 1))
    });
    Ok(())
}

#[cfg(test)]
mod tests {
    use crate::edit::Edit;
    use crate::making::controls_in_use;
    use splimo_show::{Binding, Input, InputKind, Look, Show, Tier};

    fn show() -> Show {
        let mut show = Show::empty("Bound");
        show.looks = ["Tide", "Gale"].map(|name| Look::new(name, Vec::new())).to_vec();
        show.tiers = ["base", "top"].map(Tier::new).to_vec();
        show.inputs = vec![Input::new("box", InputKind::Midi, "/dev/midi1")];
        let bound = |event: &str, does: &str| Binding::new("box", event.parse().expect("an event"), does);
        show.bindings =
            vec![bound("note 1", "fire-look top/Tide"), bound("note 2", "go"), bound("note 3", "cut-to Gale")];
        show
    }

    fn edited(show: &Show, edit: &Edit) -> Show {
        edit.apply(show).expect("a good edit")
    }

    fn does(show: &Show) -> Vec<&str> {
        show.bindings.iter().flat_map(|binding| &binding.does).map(|command| command.as_str()).collect()
    }

    #[test]
    fn bindings_follow_the_names_of_what_they_ask_for() {
        let show = edited(&show(), &Edit::PutLooks(vec![(0, Look::new("High Tide", Vec::new()))]));
        let show = edited(&show, &Edit::PutTier(1, Tier::new("over all")));
        assert_eq!(does(&show), ["fire-look over all/High Tide", "go", "cut-to Gale"]);
        let show = edited(&show, &Edit::RemoveLooks(vec![0]));
        assert_eq!(does(&show), ["go", "cut-to Gale"], "what has nothing to ask for is gone");
    }

    #[test]
    fn a_control_has_one_name_and_a_name_one_control() {
        let named = |show: &Show, number: u8, name: &str| Edit::NameControl(number, name.into()).apply(show);
        let show = named(&show(), 3, "haze").expect("a good edit");
        assert_eq!((show.control_words(3).as_str(), show.control_words(4).as_str()), ("control 3 (haze)", "control 4"));
        assert_eq!(controls_in_use(&show), [3]);
        for (number, name) in [(4, "haze"), (0, "low"), (65, "high")] {
            assert!(named(&show, number, name).is_err(), "{number} {name}");
        }
        let show = named(&show, 3, "  smoke ").expect("a good edit");
        assert_eq!(show.control_name(3), Some("smoke"));
        assert!(named(&show, 3, "").expect("a good edit").controls.is_empty());
    }

    #[test]
    fn an_input_takes_its_bindings_along() {
        let renamed = Input { name: "pad box".into(), ..show().inputs[0].clone() };
        let show = edited(&show(), &Edit::PutInput(0, renamed));
        assert!(show.bindings.iter().all(|binding| binding.source == "pad box"));
        let show = edited(&show, &Edit::RemoveInput(0));
        assert!(show.inputs.is_empty() && show.bindings.is_empty());
    }

    #[test]
    fn inputs_and_bindings_that_cannot_be_are_refused_in_words() {
        let input = |name: &str, address: &str| Edit::AddInput(Input::new(name, InputKind::Sacn, address));
        let bound = |source: &str, does: &str| {
            Edit::AddBindings(vec![Binding::new(source, "note 1".parse().expect("an event"), does)])
        };
        for (edit, why) in [
            (input("keys", "1"), "every show has an input"),
            (input("box", "1"), "there is a input"),
            (input("desk", "70000"), "1 to 63999"),
            (bound("box", "dance"), "there is no command"),
            (bound("box", ""), "asks for nothing"),
            (Edit::RemoveBindings(vec![9]), "no binding 10"),
        ] {
            let refused = edit.apply(&show()).expect_err(why).to_string();
            assert!(refused.contains(why), "{refused}");
        }
        assert!(bound("nobody", "go").apply(&show()).is_ok(), "check tells of it, and it is kept");
    }
}
