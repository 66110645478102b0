//! A page as SVG 1.1.

use std::fmt::Write;

use splimo_base::outside::Outside;

use crate::page::{Anchor, Item, Page};

/// A page as a document of its own.
#[must_use]
pub fn svg(page: &Page) -> String {
    let mut out = String::new();
    let (w, h) = (page.width, page.height);
    // Writing into memory does not fail.
    let _ = writeln!(out, "<?xml version=\"1.0\" encoding=\"UTF-8\"?>");
    let _ = writeln!(
        out,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w}mm\" height=\"{h}mm\" viewBox=\"0 0 {w} {h}\" \
         font-family=\"Helvetica, Arial, Liberation Sans, sans-serif\">"
    );
    let _ = writeln!(out, "<rect width=\"{w}\" height=\"{h}\" fill=\"#ffffff\"/>");
    for item in &page.items {
        let _ = writeln!(out, "{}", element(item));
    }
    out.push_str("</svg>\n");
    out
}

fn grey(shade: f32) -> String {
    let byte = (shade.clamp(0.0, 1.0) * 255.0).round() as u8;
    format!("#{byte:02x}{byte:02x}{byte:02x}")
}

/// A length to a thousandth of a millimetre.
fn mm(length: f32) -> String {
    let text = format!("{length:.3}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

fn element(item: &Item) -> String {
    match item {
        Item::Line { ends: [x1, y1, x2, y2], width, shade } => format!(
            "<line x1=\"{}\" y1=\"{}\" x2=\"{}\" y2=\"{}\" stroke=\"{}\" stroke-width=\"{}\"/>",
            mm(*x1),
            mm(*y1),
            mm(*x2),
            mm(*y2),
            grey(*shade),
            mm(*width)
        ),
        Item::Rect { area: [x, y, w, h], fill, edge } => format!(
            "<rect x=\"{}\" y=\"{}\" width=\"{}\" height=\"{}\" fill=\"{}\" stroke=\"{}\" stroke-width=\"{}\"/>",
            mm(*x),
            mm(*y),
            mm(*w),
            mm(*h),
            fill.map_or_else(|| "none".to_owned(), grey),
            if *edge > 0.0 { "#000000" } else { "none" },
            mm(*edge)
        ),
        Item::Triangle([x1, y1, x2, y2, x3, y3]) => format!(
            "<polygon points=\"{},{} {},{} {},{}\" fill=\"#000000\"/>",
            mm(*x1),
            mm(*y1),
            mm(*x2),
            mm(*y2),
            mm(*x3),
            mm(*y3)
        ),
        Item::Text { at: [x, y], size, anchor, bold, shade, words } => format!(
            "<text x=\"{}\" y=\"{}\" font-size=\"{}\" text-anchor=\"{}\"{} fill=\"{}\">{}</text>",
            mm(*x),
            mm(*y),
            mm(*size),
            match anchor {
                Anchor::Start => "start",
                Anchor::Middle => "middle",
                Anchor::End => "end",
            },
            if *bold { " font-weight=\"bold\"" } else { "" },
            grey(*shade),
            escaped(words)
        ),
    }
}

/// Words as they may stand in XML 1.0; what could not be seen, or would be obeyed, is written as what it is.
fn escaped(words: &str) -> String {
    let mut out = String::with_capacity(words.len());
    for letter in Outside(words).line().chars() {
        match letter {
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            '&' => out.push_str("&amp;"),
            '"' => out.push_str("&quot;"),
            other => out.push(other),
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_cannot_break_the_document() {
        let mut page = Page::a4_lying();
        page.text([1.0, 2.0], 3.0, Anchor::End, "</svg> & \"Söhne\" \u{7}");
        let text = svg(&page);
        assert!(text.contains("text-anchor=\"end\"") && text.contains("&lt;/svg&gt; &amp; &quot;Söhne&quot; \\u0007<"));
        assert_eq!(text.matches("</svg>").count(), 1);
    }
}
