//! The screen of a stand-in for a controller of serial pixels: the pixels of the last frame, and the octets of the line.

use std::fmt::Write as _;
use std::io;
use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_screen::kit::pen::Pen;
use splimo_screen::kit::stage_map::paint;
use splimo_screen::kit::theme::Theme;

use super::controller::{Controller, Shown};
use super::screen;

/// Octets in a line.
const IN_A_LINE: usize = 16;

/// Shows a controller until a person leaves or it is over.
///
/// # Errors
/// If the terminal cannot be used.
pub fn run(controller: &Arc<Controller>, over: impl Fn() -> bool) -> io::Result<()> {
    let theirs = controller.clone();
    screen::run(over, move |first, theme, area, buffer| {
        let path = theirs.path().display().to_string();
        draw(&path, &theirs.shown(), first, theme, area, buffer);
    })
}

fn draw(path: &str, shown: &Shown, first: &mut usize, theme: Theme, area: Rect, buffer: &mut Buffer) {
    buffer.set_style(area, theme.text());
    let line = |y: u16| Rect { y: area.y + y, height: 1, ..area };
    let mut pen = Pen::new(line(0), buffer);
    pen.put(&format!(" {path}"), theme.bright());
    let Shown { frames, damaged, asked, octets, .. } = shown;
    let words = format!("   {frames} frames, {octets} octets, {damaged} packets damaged, asked {asked} times");
    pen.put(&words, theme.dim());
    let pixels =
        draw_pixels(shown, theme, Rect { y: area.y + 1, height: area.height.saturating_sub(2) / 2, ..area }, buffer);
    let top = 2 + pixels;
    let room = usize::from(area.height.saturating_sub(top + 1));
    let lines: Vec<&[u8]> = shown.channels.chunks(IN_A_LINE).collect();
    *first = (*first).min(lines.len().saturating_sub(room));
    for (row, octets) in lines.iter().skip(*first).take(room).enumerate() {
        let text = octets.iter().fold(String::new(), |mut text, octet| {
            // Writing into a text cannot fail.
            let _ = write!(text, " {octet:02x}");
            text
        });
        let channel = (*first + row) * IN_A_LINE + 1;
        Pen::new(line(top + row as u16), buffer).put(&format!(" {channel:>6} {text}"), theme.text());
    }
    let tail: String = shown.tail.iter().rev().take(24).rev().map(|octet| format!("{octet:02x} ")).collect();
    let more = lines.len().saturating_sub(*first + room);
    let more = if more > 0 { format!(" ↑ ↓ {more} lines more  ") } else { String::new() };
    let foot = format!("{more} q ends   last on the line: {tail}");
    Pen::new(line(area.height.saturating_sub(1)), buffer).put(&foot, theme.dim());
}

/// Draws the pixels of three channels each, two rows of them in a line; returns the lines.
fn draw_pixels(shown: &Shown, theme: Theme, area: Rect, buffer: &mut Buffer) -> u16 {
    if shown.channels.is_empty() {
        Pen::new(Rect { height: 1, ..area }, buffer).put("   waits for pixels", theme.text());
        return 1;
    }
    let width = usize::from(area.width.saturating_sub(4)).max(1);
    let pixel = |index: usize| shown.channels.get(index * 3..index * 3 + 3).map(|p| [p[0], p[1], p[2]]);
    let rows = shown.channels.len().div_ceil(3).div_ceil(2 * width).min(usize::from(area.height));
    for row in 0..rows {
        for column in 0..width {
            let above = row * 2 * width + column;
            if pixel(above).is_some()
                && let Some(cell) = buffer.cell_mut((area.x + 3 + column as u16, area.y + row as u16))
            {
                paint(cell, pixel(above), pixel(above + width), theme);
            }
        }
    }
    rows as u16
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pixels_and_octets_are_seen() {
        let shown = Shown {
            channels: (196..=255).collect(),
            frames: 7,
            octets: 640,
            tail: vec![0xa5, 0x5a],
            ..Shown::default()
        };
        let area = Rect::new(0, 0, 90, 12);
        let mut buffer = Buffer::empty(area);
        draw("/dev/pts/9", &shown, &mut 0, Theme::plain(), area, &mut buffer);
        let line = |y: u16| (0..90).map(|x| buffer[(x, y)].symbol()).collect::<String>();
        assert!(line(0).contains("/dev/pts/9   7 frames, 640 octets"), "{}", line(0));
        assert_eq!(line(1).trim().chars().count(), 20, "{}", line(1));
        assert!(line(3).contains("1  c4 c5 c6") && line(4).contains("17  d4 d5"), "{}", line(3));
        assert!(line(11).contains("last on the line: a5 5a"), "{}", line(11));
    }
}
