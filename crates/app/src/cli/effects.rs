//! `splimo effects`.

use std::process::ExitCode;

use serde::Serialize;
use splimo_core::effect::{EFFECTS, Kind, ParamSpec};

use super::{Failure, print_json};

#[derive(Serialize)]
struct Row {
    name: &'static str,
    family: &'static str,
    help: &'static str,
    params: &'static [ParamSpec],
}

/// Lists the effects.
pub(super) fn run(json: bool) -> Result<ExitCode, Failure> {
    if json {
        let rows: Vec<Row> =
            EFFECTS.iter().map(|e| Row { name: e.name, family: e.family, help: e.help, params: e.params }).collect();
        print_json(&rows)?;
        return Ok(ExitCode::SUCCESS);
    }
    for effect in EFFECTS {
        println!("{}  ({})\n  {}", effect.name, effect.family, effect.help);
        for param in effect.params {
            println!("    {:<10} {:<44} {}", param.name, range(param.kind), param.help);
        }
        println!();
    }
    Ok(ExitCode::SUCCESS)
}

fn range(kind: Kind) -> String {
    match kind {
        Kind::Number { min, max, default, unit } => format!("{min} to {max} {unit}, {default}"),
        Kind::Rate { default } => format!("rate, {default}"),
        Kind::Colours { default } => format!("colours, {}", default.join(" ")),
        Kind::Choice { options } => options.join(" | "),
        Kind::Text { default } => format!("text, \"{default}\""),
    }
}
