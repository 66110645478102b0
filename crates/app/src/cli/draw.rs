//! `splimo draw`.

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use clap::ValueEnum;

use super::{Failure, hear, play};
use splimo_runtime::files;

/// The kind of drawing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(super) enum What {
    /// The way each fixture is wired
    Wiring,
    /// Who takes which channels of which universe
    Patch,
    /// The cue lists as sheets of paper, with their times as a chart
    Cues,
    /// The timelines, clip by clip on their tiers
    Timeline,
    /// The patterns, lane by lane over their bars
    Pattern,
    /// Which route carries which universes, and to which box
    Signal,
    /// The channels by which a desk plays it, value by value (also .csv, and .gdtf as DIN SPEC 15800 has it)
    Remote,
    /// What is heard in a recording, which stands in the place of the show
    Hearing,
}

/// Draws a show on as many pages as it needs. An SVG has one page a file.
pub(super) fn run(show: &Path, what: What, out: &Path) -> Result<ExitCode, Failure> {
    let ending = out.extension().and_then(|e| e.to_str()).unwrap_or_default().to_lowercase();
    if what == What::Remote && matches!(ending.as_str(), "csv" | "gdtf") {
        let show = play::opened(show)?;
        match ending.as_str() {
            "csv" => files::write(out, splimo_draw::remote_csv(&show).as_bytes())?,
            _ => files::write(out, &splimo_draw::fixture_file(&show)?)?,
        }
        say!("{}", out.display());
        return Ok(ExitCode::SUCCESS);
    }
    if !matches!(ending.as_str(), "svg" | "pdf") {
        return Err(format!("{}: write a name that ends in .svg or .pdf", out.display()).into());
    }
    let pages = match what {
        What::Wiring => splimo_draw::wiring(&play::opened(show)?),
        What::Patch => splimo_draw::patch(&play::opened(show)?),
        What::Cues => splimo_draw::cues(&play::opened(show)?),
        What::Timeline => splimo_draw::timelines(&play::opened(show)?),
        What::Pattern => splimo_draw::patterns(&play::opened(show)?),
        What::Signal => splimo_draw::signal(&play::opened(show)?),
        What::Remote => splimo_draw::remote(&play::opened(show)?),
        What::Hearing => splimo_draw::hearing(&hear::chart(show)?),
    };
    if ending == "pdf" {
        files::write(out, &splimo_draw::pdf(&pages))?;
        say!("{}: {} pages", out.display(), pages.len());
        return Ok(ExitCode::SUCCESS);
    }
    for (index, page) in pages.iter().enumerate() {
        let path = numbered(out, index, pages.len());
        files::write(&path, splimo_draw::svg(page).as_bytes())?;
        say!("{}", path.display());
    }
    Ok(ExitCode::SUCCESS)
}

/// The name of a page: `wiring.svg`, or `wiring-2.svg` of several.
fn numbered(out: &Path, index: usize, count: usize) -> PathBuf {
    if count == 1 {
        return out.to_owned();
    }
    let stem = out.file_stem().unwrap_or_default().to_string_lossy();
    out.with_file_name(format!("{stem}-{}.svg", index + 1))
}
