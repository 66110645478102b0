//! A patch out of a table.

use std::collections::HashMap;

use splimo_show::{Fixture, Show};

use super::{Importer, Proposal, Warning};
use crate::edit::Edit;
use crate::patch::csv;

/// A patch as comma-separated values, as [`csv::write`] writes it.
#[derive(Debug, Clone, Copy)]
pub struct Patch;

impl Importer for Patch {
    fn file_kind(&self) -> &'static str {
        "CSV"
    }

    fn longest(&self) -> u64 {
        csv::LONGEST as u64
    }

    fn propose(&self, bytes: &[u8], show: &Show) -> Result<Proposal, String> {
        let parsed = csv::read(bytes, show)?;
        let known: HashMap<&str, &Fixture> = show.fixtures.iter().map(|f| (f.name.as_str(), f)).collect();
        let (mut fresh, mut changed, mut same) = (0, 0, 0);
        for (_, fixture) in &parsed.fixtures {
            match known.get(fixture.name.as_str()) {
                None => fresh += 1,
                Some(before) if *before != fixture => changed += 1,
                Some(_) => same += 1,
            }
        }
        let mut changes = vec![format!("{fresh} new fixtures, {changed} changed, {same} the same")];
        let edit = Edit::Import(parsed.fixtures.iter().map(|(_, one)| one.clone()).collect(), parsed.groups.clone());
        let regroups = edit.apply(show).is_ok_and(|moved| moved.groups != show.groups);
        if regroups {
            changes.push("groups change with them".to_owned());
        }
        let contents = parsed.fixtures.iter().map(|(line, f)| {
            let address = f.address.map_or_else(|| "not patched".to_owned(), |a| a.to_string());
            format!("line {line}: {} {} {} {address}", f.name, f.profile, f.shape)
        });
        Ok(Proposal {
            contents: contents.collect(),
            edit: (fresh + changed > 0 || regroups).then_some(edit),
            changes,
            warnings: parsed.failures.into_iter().map(|f| Warning { line: Some(f.line), message: f.message }).collect(),
        })
    }
}
