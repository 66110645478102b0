//! Pages as PDF 1.7 (ISO 32000-1), whose fonts are embedded, so that they look alike everywhere and their words can be searched for.

use std::collections::BTreeSet;

use krilla::Document;
use krilla::color::luma;
use krilla::geom::{Path, PathBuilder, Point, Rect, Transform};
use krilla::metadata::Metadata;
use krilla::num::NormalizedF32;
use krilla::page::PageSettings;
use krilla::paint::{Fill, FillRule, LineCap, Stroke};
use krilla::surface::Surface;
use krilla::text::TextDirection;
use splimo_base::outside::Outside;

use crate::fonts::{DRAWN, Fonts, foreign};
use crate::metrics;
use crate::page::{Anchor, Item, Page};

/// Points a millimetre.
const POINTS: f32 = 72.0 / 25.4;

/// The information dictionary of a document.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct About {
    /// Its title.
    pub title: String,
    /// Its author.
    pub author: String,
}

/// The reason why there is no document.
#[derive(Debug, thiserror::Error)]
#[error("the drawing cannot be written as a PDF: {0}")]
pub struct BadPdf(String);

/// All pages as one document.
///
/// # Errors
/// [`BadPdf`] where a font cannot be embedded.
pub fn pdf(about: &About, pages: &[Page], fonts: &Fonts) -> Result<Vec<u8>, BadPdf> {
    let mut document = Document::new();
    let authors = Some(about.author.clone()).filter(|author| !author.is_empty());
    let creator = concat!("Splimo ", env!("CARGO_PKG_VERSION")).to_owned();
    document.set_metadata(
        Metadata::new().title(about.title.clone()).authors(authors.into_iter().collect()).creator(creator),
    );
    for page in pages {
        let size = PageSettings::from_wh(page.width * POINTS, page.height * POINTS);
        let Some(size) = size else { return Err(BadPdf("a page has no size".to_owned())) };
        let mut written = document.start_page_with(size);
        let mut surface = written.surface();
        // Millimetres from the top left from here on.
        surface.push_transform(&Transform::from_scale(POINTS, POINTS));
        for item in &page.items {
            draw(item, fonts, &mut surface);
        }
        surface.pop();
        surface.finish();
        written.finish();
    }
    document.finish().map_err(|why| BadPdf(format!("{why:?}")))
}

/// The letters on some pages that the fonts of the program do not have.
#[must_use]
pub fn foreign_letters(pages: &[Page]) -> BTreeSet<char> {
    let words = pages.iter().flat_map(|page| &page.items).filter_map(|item| match item {
        Item::Text { words, .. } => Some(words),
        Item::Line { .. } | Item::Rect { .. } | Item::Triangle(_) => None,
    });
    words.flat_map(|words| foreign(words)).collect()
}

fn fill(shade: f32) -> Fill {
    Fill { paint: grey(shade).into(), opacity: NormalizedF32::ONE, rule: FillRule::NonZero }
}

fn grey(shade: f32) -> luma::Color {
    luma::Color::new((shade.clamp(0.0, 1.0) * 255.0).round() as u8)
}

fn stroke(shade: f32, width: f32) -> Stroke {
    Stroke { paint: grey(shade).into(), width, line_cap: LineCap::Round, ..Stroke::default() }
}

/// Draws a path filled, or along its edge, or both.
fn trace(path: Option<Path>, filled: Option<Fill>, edge: Option<Stroke>, surface: &mut Surface<'_>) {
    let Some(path) = path.filter(|_| filled.is_some() || edge.is_some()) else { return };
    surface.set_fill(filled);
    surface.set_stroke(edge);
    surface.draw_path(&path);
}

fn polygon(corners: &[[f32; 2]], close: bool) -> Option<Path> {
    let mut path = PathBuilder::new();
    for (place, [x, y]) in corners.iter().enumerate() {
        if place == 0 { path.move_to(*x, *y) } else { path.line_to(*x, *y) }
    }
    if close {
        path.close();
    }
    path.finish()
}

fn draw(item: &Item, fonts: &Fonts, surface: &mut Surface<'_>) {
    match item {
        Item::Line { ends: [x1, y1, x2, y2], width, shade } => {
            trace(polygon(&[[*x1, *y1], [*x2, *y2]], false), None, Some(stroke(*shade, *width)), surface);
        }
        Item::Rect { area: [x, y, w, h], fill: shade, edge } => {
            let path = Rect::from_xywh(*x, *y, *w, *h).and_then(|area| {
                let mut path = PathBuilder::new();
                path.push_rect(area);
                path.finish()
            });
            trace(path, shade.map(fill), (*edge > 0.0).then(|| stroke(0.0, *edge)), surface);
        }
        Item::Triangle([x1, y1, x2, y2, x3, y3]) => {
            trace(polygon(&[[*x1, *y1], [*x2, *y2], [*x3, *y3]], true), Some(fill(0.0)), None, surface);
        }
        Item::Text { at: [x, y], size, anchor, bold, shade, words } => {
            let words = Outside(words).line();
            let width = metrics::width_of(&words, *size, *bold);
            let mut x = match anchor {
                Anchor::Start => *x,
                Anchor::Middle => x - width / 2.0,
                Anchor::End => x - width,
            };
            surface.set_fill(Some(fill(*shade)));
            surface.set_stroke(None);
            for piece in fonts.pieces(&words, *bold) {
                let at = Point::from_xy(x, *y);
                surface.draw_text(at, piece.font.clone(), size * DRAWN, piece.words, false, TextDirection::Auto);
                x += piece.width * size;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_document_has_its_pages_its_title_and_its_fonts() {
        let mut page = Page::a4_lying();
        page.text([10.0, 20.0], 4.0, Anchor::Middle, "Söhne Москва 船");
        page.rect([1.0, 1.0, 0.0, 0.0], Some(0.5), 0.2);
        let about = About { title: "Quay: wiring".to_owned(), author: "Ada".to_owned() };
        let pages = [page.clone(), page];
        let bytes = pdf(&about, &pages, &Fonts::default()).expect("a document");
        let text = String::from_utf8_lossy(&bytes);
        assert!(text.starts_with("%PDF-1.7") && text.trim_end().ends_with("%%EOF"));
        // Two pages and a subset of a font, compressed: an empty document is far smaller, the whole font far larger.
        let empty = pdf(&about, &pages[..0], &Fonts::default()).map_or(0, |bytes| bytes.len());
        assert!(bytes.len() > empty + 3_000 && bytes.len() < 200_000, "{} of {empty}", bytes.len());
        assert_eq!(foreign_letters(&pages).into_iter().collect::<String>(), "船");
        let again = pdf(&about, &pages, &Fonts::default()).expect("a document");
        assert_eq!(bytes, again, "the same show gives the same document");
    }
}
