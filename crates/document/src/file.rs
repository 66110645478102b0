//! Opening a show: its text is read, and what it says is looked at.

use splimo_light::effect::EFFECTS;
use splimo_show::file::{Cut, Fault, Parsed, parse};
pub use splimo_show::file::{FileError, line_of, write};
use splimo_show::{Problem, Severity, Show};

use crate::check::check;

/// A show that was read, and what was odd about its text.
#[derive(Debug, Clone, PartialEq)]
pub struct Opened {
    /// The show.
    pub show: Show,
    /// One line for each field that is not known, with its place.
    pub warnings: Vec<String>,
}

/// Reads a show. One without banks of pads gets them from its looks.
///
/// # Errors
/// [`FileError`] with the line, for text that is no TOML, a version newer than [`splimo_show::VERSION`], a field of the wrong type or
/// missing, or a name that refers to nothing.
pub fn read(text: &str) -> Result<Opened, FileError> {
    let parsed = checked(text).map_err(|fault| fault.told)?;
    let params = EFFECTS.iter().flat_map(|effect| effect.params).map(|param| param.name);
    let warnings = parsed.warnings(text, params);
    let mut show = parsed.show;
    show.give_banks();
    Ok(Opened { show, warnings })
}

/// The first fault of a text, and the part that has to go for it; none where it is a show.
pub(crate) fn fault_in(text: &str) -> Option<Fault> {
    checked(text).err()
}

fn checked(text: &str) -> Result<Parsed, Fault> {
    let parsed = parse(text)?;
    match check(&parsed.show).into_iter().find(|problem| problem.severity == Severity::Broken) {
        Some(problem) => Err(Fault { told: broken(text, &problem), cut: Cut::At(problem.place) }),
        None => Ok(parsed),
    }
}

fn broken(text: &str, problem: &Problem) -> FileError {
    FileError { line: line_of(text, &problem.place), message: problem.to_string(), mend: Some(problem.mend.clone()) }
}

/// Every problem of a show with the line of its text, for `splimo check`.
#[must_use]
pub fn lines_of(text: &str, problems: &[Problem]) -> Vec<Option<usize>> {
    problems.iter().map(|p| line_of(text, &p.place)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::{Param, write_over};

    #[test]
    fn the_forms_of_a_rainbow_are_its_shapes() {
        let text = "version = 1\nname = \"Quay\"\n[[looks]]\nname = \"Reef\"\n[[looks.layers]]\neffect = \"rainbow\"\nparams = { form = \"rings\" }\n";
        let show = read(text).expect("it is a show").show;
        assert_eq!(show.looks[0].layers[0].params["shape"], Param::Text("circle".into()));
        assert!(read(&text.replace("rings", "knots")).is_err());
        let again = write_over(text, &show).expect("it is written");
        assert!(again.contains("form = \"rings\""), "what nobody changed stays: {again}");
    }
}
