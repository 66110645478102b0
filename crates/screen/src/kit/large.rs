//! Words in large letters, out of half blocks, to be read from two metres.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Style;
use splimo_light::lettering::Lettering;

/// The built-in fonts by their places, the largest first, each with the rows that it takes.
const FONTS: [(usize, u16); 2] = [(0, 4), (1, 3)];

/// The width of a text in a font, in columns.
fn width(lettering: &Lettering, text: &str) -> u16 {
    text.chars().map(|letter| lettering.width(lettering.place(letter)) as u16 + 1).sum()
}

/// Writes a text as large as there is room for, in capitals, and tells how wide it became; where there is room for no large letters,
/// in plain ones.
pub(crate) fn large(text: &str, area: Rect, style: Style, buffer: &mut Buffer) -> u16 {
    let text = text.to_uppercase();
    for (font, rows) in FONTS {
        let lettering = Lettering::built_in(font, &text, 100.0, false);
        let wide = width(&lettering, &text);
        if wide <= area.width && rows <= area.height {
            draw(&lettering, &text, area, style, buffer);
            return wide;
        }
    }
    if area.height > 0 {
        buffer.set_stringn(area.x, area.y + area.height / 2, &text, usize::from(area.width), style);
    }
    (text.chars().count() as u16).min(area.width)
}

fn draw(lettering: &Lettering, text: &str, area: Rect, style: Style, buffer: &mut Buffer) {
    let mut x = area.x;
    for letter in text.chars().map(|letter| lettering.place(letter)) {
        let columns = lettering.width(letter) as u16;
        for (column, row) in (0..columns).flat_map(|column| (0..area.height).map(move |row| (column, row))) {
            let lit = |dot: u16| {
                usize::from(dot) < lettering.height
                    && lettering.cover(letter, f32::from(column) + 0.5, f32::from(dot) + 0.5) > 0.5
            };
            let symbol = match (lit(row * 2), lit(row * 2 + 1)) {
                (true, true) => "█",
                (true, false) => "▀",
                (false, true) => "▄",
                (false, false) => continue,
            };
            buffer[(x + column, area.y + row)].set_symbol(symbol).set_style(style);
        }
        x += columns + 1;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn letters_are_as_large_as_there_is_room_for() {
        let widths = [100, 30, 6].map(|columns| {
            let area = Rect::new(0, 0, columns, 4);
            let mut buffer = Buffer::empty(area);
            large("4.5 Drop", area, Style::default(), &mut buffer)
        });
        assert!(widths[0] > widths[1] && widths[1] > widths[2], "{widths:?}");
        assert_eq!(widths[2], 6);
    }
}
