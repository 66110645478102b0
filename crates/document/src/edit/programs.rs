//! Edits of the programs and sounds that a show may start.

use super::{Refused, names, outputs};
use splimo_show::reference::ReferenceKind;
use splimo_show::{MOST_PROGRAMS, Program, Show};

impl outputs::Named for Program {
    const KIND: &'static str = "program";
    fn name(&self) -> &str {
        &self.name
    }
}

pub(super) fn add(show: &mut Show, program: &Program) -> Result<(), Refused> {
    if show.programs.len() >= MOST_PROGRAMS {
        return Err(Refused(format!("a show has {MOST_PROGRAMS} programs at the most; take one out first")));
    }
    outputs::add(&mut show.programs, program)
}

pub(super) fn put(show: &mut Show, index: usize, program: &Program) -> Result<(), Refused> {
    let before = show.programs.get(index).map(|one| one.name.clone());
    outputs::put(&mut show.programs, index, program)?;
    if let Some(before) = before.filter(|before| *before != program.name) {
        names::rename(show, ReferenceKind::Program, &before, &program.name);
    }
    Ok(())
}

/// Takes a program out, and what starts it.
pub(super) fn remove(show: &mut Show, index: usize) -> Result<(), Refused> {
    let name = show.programs.get(index).map(|one| one.name.clone());
    outputs::remove(&mut show.programs, index)?;
    names::remove(show, ReferenceKind::Program, &name.into_iter().collect())
}

#[cfg(test)]
mod tests {
    use crate::edit::Edit;
    use splimo_show::{Binding, Program, Show};

    #[test]
    fn a_program_is_renamed_and_taken_out_with_what_starts_it() {
        let program = |name: &str| Program { name: name.into(), command: vec!["true".into()], sound: String::new() };
        let show = Edit::AddProgram(program("Fog")).apply(&Show::empty("Programs")).expect("a good edit");
        let bound = Binding::new("keys", "key F5".parse().expect("an event"), "run Fog");
        let show = Edit::AddBindings(vec![bound]).apply(&show).expect("a good edit");
        let show = Edit::PutProgram(0, program("Haze")).apply(&show).expect("a good edit");
        assert_eq!(show.bindings[0].does, ["run Haze"]);
        let neither = Program { command: Vec::new(), ..program("Haze") };
        let refused = Edit::PutProgram(0, neither).apply(&show).expect_err("it starts nothing").to_string();
        assert!(refused.contains("neither a command nor a sound"), "{refused}");
        assert!(Edit::AddProgram(program("Haze")).apply(&show).is_err(), "there is one already");
        let show = Edit::RemoveProgram(0).apply(&show).expect("a good edit");
        assert!(show.programs.is_empty() && show.bindings.is_empty());
    }
}
