//! `splimo draw`.

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use clap::ValueEnum;
use splimo_draw::{About, Page};
use splimo_show::Show;

use super::{Failure, fonts, hear, standard};

/// The kind of drawing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(super) enum What {
    /// The way each fixture is wired
    Wiring,
    /// The channels that each fixture takes of each universe
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

/// The kind of file that a drawing is written to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(super) enum Kind {
    /// Pages for print
    Pdf,
    /// A picture a page
    Svg,
    /// A table; of what a desk plays alone
    Csv,
    /// A fixture file (DIN SPEC 15800); of what a desk plays alone
    Gdtf,
}

impl Kind {
    fn of(out: &Path, what: What, named: Option<Self>) -> Result<Self, Failure> {
        let ending = out.extension().and_then(|e| e.to_str()).unwrap_or_default().to_lowercase();
        let kind = match (named, ending.as_str()) {
            (Some(kind), _) => kind,
            (None, "pdf") => Self::Pdf,
            (None, "svg") => Self::Svg,
            (None, "csv") => Self::Csv,
            (None, "gdtf") => Self::Gdtf,
            (None, _) if standard::is_meant(out) => Self::Pdf,
            (None, _) => return Err(format!("{}: write a name that ends in .svg or .pdf", out.display()).into()),
        };
        if what != What::Remote && matches!(kind, Self::Csv | Self::Gdtf) {
            return Err("only --what remote is written as .csv or .gdtf; the others are .svg or .pdf".into());
        }
        Ok(kind)
    }
}

/// Draws a show on as many pages as it needs. An SVG has one page a file.
pub(super) fn run(show: &Path, what: What, out: &Path, kind: Option<Kind>) -> Result<ExitCode, Failure> {
    let kind = Kind::of(out, what, kind)?;
    match kind {
        Kind::Csv => written(out, splimo_draw::remote_csv(&standard::opened(show)?).as_bytes(), None)?,
        Kind::Gdtf => written(out, &splimo_draw::fixture_file(&standard::opened(show)?)?, None)?,
        Kind::Pdf => {
            let (title, pages) = pages(show, what)?;
            let about = About { title, author: fonts::author() };
            written(out, &splimo_draw::pdf(&about, &pages, &fonts::fonts_for(&pages))?, Some(pages.len()))?;
        }
        Kind::Svg => {
            let (_, pages) = pages(show, what)?;
            if standard::is_meant(out) && pages.len() > 1 {
                return Err(format!("there are {} pages, an SVG has one; name a file", pages.len()).into());
            }
            for (index, page) in pages.iter().enumerate() {
                written(&numbered(out, index, pages.len()), splimo_draw::svg(page).as_bytes(), None)?;
            }
        }
    }
    Ok(ExitCode::SUCCESS)
}

/// Writes a drawing, and says where to.
fn written(out: &Path, bytes: &[u8], pages: Option<usize>) -> Result<(), Failure> {
    standard::write(out, bytes)?;
    match pages {
        _ if standard::is_meant(out) => {}
        Some(pages) => say!("{}: {pages} pages", out.display()),
        None => say!("{}", out.display()),
    }
    Ok(())
}

/// The pages of a drawing, and its title.
fn pages(path: &Path, what: What) -> Result<(String, Vec<Page>), Failure> {
    let (words, draw): (_, fn(&Show) -> Vec<Page>) = match what {
        What::Wiring => ("wiring", splimo_draw::wiring),
        What::Patch => ("patch", splimo_draw::patch),
        What::Cues => ("cues", splimo_draw::cues),
        What::Timeline => ("timelines", splimo_draw::timelines),
        What::Pattern => ("patterns", splimo_draw::patterns),
        What::Signal => ("signal", splimo_draw::signal),
        What::Remote => ("how a desk plays it", splimo_draw::remote),
        What::Hearing => {
            let chart = hear::chart(path)?;
            return Ok((format!("{}: what is heard", chart.name), splimo_draw::hearing(&chart)));
        }
    };
    let show = standard::opened(path)?;
    Ok((format!("{}: {words}", show.name), draw(&show)))
}

/// The name of a page: `wiring.svg`, or `wiring-2.svg` of several.
fn numbered(out: &Path, index: usize, count: usize) -> PathBuf {
    if count == 1 {
        return out.to_owned();
    }
    let stem = out.file_stem().unwrap_or_default().to_string_lossy();
    out.with_file_name(format!("{stem}-{}.svg", index + 1))
}
