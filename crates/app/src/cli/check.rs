//! `splimo check`.

use std::path::Path;
use std::process::ExitCode;

use serde::Serialize;
use splimo_document::check::check;
use splimo_document::file::{self, FileError};
use splimo_document::salvage;
use splimo_show::Severity;

use super::{Failure, print_json, standard};
use splimo_runtime::media::{self, Library};

#[derive(Serialize)]
struct Report {
    show: String,
    problems: Vec<Line>,
}

#[derive(Serialize)]
struct Line {
    severity: Severity,
    line: Option<usize>,
    place: String,
    subject: String,
    message: String,
    mend: String,
}

/// Tells every problem; 1 where any is an error, and where any is a warning if one is strict.
pub(super) fn run(path: &Path, json: bool, strict: bool) -> Result<ExitCode, Failure> {
    let text = standard::text(path)?;
    let problems = match file::read(&text) {
        Ok(opened) => {
            let mut problems = check(&opened.show);
            problems.extend(media::problems(&opened.show, &Library::folder_of(Some(path))));
            let lines = file::lines_of(&text, &problems);
            let told = problems.into_iter().zip(lines).map(|(p, line)| Line {
                severity: p.severity,
                line,
                place: p.place.to_string(),
                subject: p.subject,
                message: p.message,
                mend: p.mend,
            });
            let unknown = opened.warnings.into_iter().zip(&opened.show.unknown).map(|(warning, unknown)| Line {
                severity: Severity::Warning,
                line: file::line_of(&text, &unknown.place),
                place: unknown.place.to_string(),
                subject: "file".into(),
                message: warning,
                mend: "take it out, or correct its name".into(),
            });
            told.chain(unknown).collect()
        }
        // All that keeps it from being read, not the first of it.
        Err(error) => match salvage(&text) {
            Ok(salvaged) => salvaged.faults.iter().map(broken).collect(),
            Err(_) => vec![broken(&error)],
        },
    };
    let least = if strict { Severity::Warning } else { Severity::Error };
    let failed = problems.iter().any(|p| p.severity >= least);
    let report = Report { show: standard::name(path), problems };
    if json {
        print_json(&report)?;
    } else {
        tell(&report);
    }
    Ok(if failed { ExitCode::FAILURE } else { ExitCode::SUCCESS })
}

fn broken(error: &FileError) -> Line {
    Line {
        severity: Severity::Broken,
        line: error.line,
        place: String::new(),
        subject: "file".into(),
        message: error.message.clone(),
        mend: error.mend.clone().unwrap_or_else(|| "correct that line".into()),
    }
}

fn tell(report: &Report) {
    for p in &report.problems {
        let severity = match p.severity {
            Severity::Warning => "warning",
            Severity::Error => "error",
            Severity::Broken => "broken",
        };
        let line = p.line.map(|l| format!(":{l}")).unwrap_or_default();
        say!("{}{line}: {severity}: {}: {}\n    mend: {}", report.show, p.subject, p.message, p.mend);
    }
    match report.problems.len() {
        0 => say!("{}: no problems", report.show),
        1 => say!("{}: 1 problem", report.show),
        n => say!("{}: {n} problems", report.show),
    }
}
