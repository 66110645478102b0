//! `splimo effects`.

use std::path::Path;
use std::process::ExitCode;

use serde::Serialize;
use splimo_light::effect::{EFFECTS, ParamSpec};

use super::{Failure, effect_docs, print_json};

#[derive(Serialize)]
struct Row {
    name: &'static str,
    family: &'static str,
    help: &'static str,
    params: &'static [ParamSpec],
}

/// Lists the effects.
pub(super) fn run(json: bool, docs: Option<&Path>) -> Result<ExitCode, Failure> {
    if let Some(folder) = docs {
        effect_docs::write(folder)?;
        return Ok(ExitCode::SUCCESS);
    }
    if json {
        let rows: Vec<Row> =
            EFFECTS.iter().map(|e| Row { name: e.name, family: e.family, help: e.help, params: e.params }).collect();
        print_json(&rows)?;
        return Ok(ExitCode::SUCCESS);
    }
    for effect in EFFECTS {
        say!("{}  ({})\n  {}", effect.name, effect.family, effect.help);
        for param in effect.params {
            say!("    {:<10} {:<44} {}", param.name, effect_docs::range(param.kind), param.help);
        }
        say!("");
    }
    Ok(ExitCode::SUCCESS)
}
