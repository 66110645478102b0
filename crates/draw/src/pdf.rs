//! Pages as PDF 1.7 (ISO 32000-1), with the standard fonts Helvetica and Helvetica-Bold, which every reader has. Letters
//! that they do not have become question marks; an SVG keeps them.

use pdf_writer::types::LineCapStyle;
use pdf_writer::{Content, Finish, Name, Pdf, Rect, Ref, Str};
use splimo_core::outside::Outside;

use crate::metrics;
use crate::page::{Anchor, Item, Page};

/// Points a millimetre.
const POINTS: f32 = 72.0 / 25.4;

/// All pages as one document.
#[must_use]
pub fn pdf(pages: &[Page]) -> Vec<u8> {
    let mut pdf = Pdf::new();
    let (catalog, tree, regular, bold) = (Ref::new(1), Ref::new(2), Ref::new(3), Ref::new(4));
    let page_ref = |index: usize| Ref::new(5 + 2 * index as i32);
    let content_ref = |index: usize| Ref::new(6 + 2 * index as i32);
    pdf.catalog(catalog).pages(tree);
    pdf.pages(tree).kids((0..pages.len()).map(page_ref)).count(pages.len() as i32);
    for (font, name) in [(regular, "Helvetica"), (bold, "Helvetica-Bold")] {
        pdf.type1_font(font).base_font(Name(name.as_bytes())).encoding_predefined(Name(b"WinAnsiEncoding"));
    }
    for (index, page) in pages.iter().enumerate() {
        let mut written = pdf.page(page_ref(index));
        written.media_box(Rect::new(0.0, 0.0, page.width * POINTS, page.height * POINTS));
        written.parent(tree);
        written.contents(content_ref(index));
        written.resources().fonts().pair(Name(b"R"), regular).pair(Name(b"B"), bold);
        written.finish();
        pdf.stream(content_ref(index), &content(page));
    }
    pdf.finish()
}

fn content(page: &Page) -> Vec<u8> {
    let mut content = Content::new();
    // Millimetres from the top left from here on.
    content.transform([POINTS, 0.0, 0.0, -POINTS, 0.0, page.height * POINTS]);
    content.set_line_cap(LineCapStyle::RoundCap);
    for item in &page.items {
        draw(item, &mut content);
    }
    content.finish().to_vec()
}

fn draw(item: &Item, content: &mut Content) {
    match item {
        Item::Line { ends: [x1, y1, x2, y2], width, shade } => {
            content.set_stroke_gray(*shade).set_line_width(*width).move_to(*x1, *y1).line_to(*x2, *y2).stroke();
        }
        Item::Rect { area: [x, y, w, h], fill, edge } => {
            if let Some(shade) = fill {
                content.set_fill_gray(*shade).rect(*x, *y, *w, *h).fill_nonzero();
            }
            if *edge > 0.0 {
                content.set_stroke_gray(0.0).set_line_width(*edge).rect(*x, *y, *w, *h).stroke();
            }
        }
        Item::Triangle([x1, y1, x2, y2, x3, y3]) => {
            content
                .set_fill_gray(0.0)
                .move_to(*x1, *y1)
                .line_to(*x2, *y2)
                .line_to(*x3, *y3)
                .close_path()
                .fill_nonzero();
        }
        Item::Text { at: [x, y], size, anchor, bold, shade, words } => {
            let width = metrics::width(words, *size);
            let x = match anchor {
                Anchor::Start => *x,
                Anchor::Middle => x - width / 2.0,
                Anchor::End => x - width,
            };
            content.set_fill_gray(*shade).begin_text();
            content.set_font(Name(if *bold { b"B" } else { b"R" }), *size);
            // Upright again, as the page is turned upside down.
            content.set_text_matrix([1.0, 0.0, 0.0, -1.0, x, *y]).show(Str(&latin(words))).end_text();
        }
    }
}

/// The letters as Windows code page 1252 has them, as far as it does.
fn latin(words: &str) -> Vec<u8> {
    let byte = |letter: char| match letter {
        ' '..='~' | '\u{a0}'..='\u{ff}' => letter as u8,
        '–' => 0x96,
        '—' => 0x97,
        '…' => 0x85,
        '€' => 0x80,
        _ => b'?',
    };
    Outside(words).line().chars().map(byte).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_document_has_its_pages_and_its_letters() {
        let mut page = Page::a4_lying();
        page.text([10.0, 20.0], 4.0, Anchor::Middle, "Söhne 船");
        let bytes = pdf(&[page.clone(), page]);
        let text = String::from_utf8_lossy(&bytes);
        assert!(text.starts_with("%PDF-1.7") && text.trim_end().ends_with("%%EOF"));
        assert!(text.contains("/Count 2") && text.contains("/MediaBox [0 0 841"));
        assert_eq!(latin("Söhne 船"), b"S\xf6hne ?");
    }
}
