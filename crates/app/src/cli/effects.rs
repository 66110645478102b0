//! `splimo effects`.

use std::path::Path;
use std::process::ExitCode;

use serde::Serialize;
use splimo_light::effect::{EFFECTS, Holds, ParamKind, ParamSpec};

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
            say!("    {:<10} {:<44} {}", param.name, range(param.kind), param.help);
        }
        say!("");
    }
    Ok(ExitCode::SUCCESS)
}

pub(super) fn range(kind: ParamKind) -> String {
    match kind {
        ParamKind::Number { min, max, default, unit } => format!("{min} to {max} {unit}, {default}"),
        ParamKind::Rate { default } => format!("rate, {default}"),
        ParamKind::Colours { default } => format!("colours, {}", default.join(" ")),
        ParamKind::Choice { options } => options.join(" | "),
        ParamKind::Text { default } => format!("text, \"{default}\""),
        ParamKind::Looks => "names of looks".to_owned(),
        ParamKind::Times => "times, one for each look".to_owned(),
        ParamKind::Aim => "the name of an aim".to_owned(),
        ParamKind::File { holds: Holds::Picture } => "a PNG, JPEG or GIF file".to_owned(),
        ParamKind::File { holds: Holds::Film } => "a YUV4MPEG2 file, pipe, or -".to_owned(),
        ParamKind::File { holds: Holds::Font } => "a TTF or OTF file".to_owned(),
    }
}
