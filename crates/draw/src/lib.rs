//! Drawings of a show to hang in the truck: how each fixture is wired, who takes which channels, where they go, and how a desk plays it. They are made of pages
//! of simple shapes, which are written as SVG or PDF. Nothing here does I/O: text and bytes come out.
//!
//! It may use `splimo-document` and what that is built on. Its main types: [`Page`], simple shapes in millimetres; [`Item`], one of those shapes;
//! [`Fonts`], what letters are drawn with.

mod cues;
mod fixture_file;
mod fonts;
mod hearing;
mod metrics;
mod page;
mod patch;
mod pattern;
mod pdf;
mod remote;
mod signal;
mod svg;
mod timeline;
mod wiring;

pub use cues::cues;
pub use fixture_file::fixture_file;
pub use fonts::Fonts;
pub use hearing::{HearingChart, hearing};
pub use page::{Anchor, Item, Page};
pub use patch::patch;
pub use pattern::patterns;
pub use pdf::{About, BadPdf, foreign_letters, pdf};
pub use remote::{RemoteRow, has_remote, remote, remote_csv, remote_rows};
pub use signal::signal;
pub use svg::svg;
pub use timeline::timelines;
pub use wiring::wiring;
