//! The screen of stand-in nodes: what comes in at each, as pixels of three channels, with its rate and its sources.

use std::io;
use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_wire::Protocol;
use splimo_wire::reception::{Reception, Universe};

use super::screen;
use crate::standin::node::Node;
use splimo_screen::kit::pen::Pen;
use splimo_screen::kit::stage_map::paint;
use splimo_screen::kit::theme::Theme;

/// Pixels of a universe: a third of its slots.
const PIXELS: usize = 170;

/// Shows nodes until a person leaves or it is over.
///
/// # Errors
/// If the terminal cannot be used.
pub fn run(nodes: &Arc<Vec<Node>>, over: impl Fn() -> bool) -> io::Result<()> {
    let theirs = nodes.clone();
    screen::run(over, move |first, theme, area, buffer| {
        let title = |node: &Node| format!("{}  {}   {} polls answered", node.address(), node.name(), node.polls());
        let seen: Vec<(String, Reception)> = theirs.iter().map(|node| (title(node), node.reception())).collect();
        draw(&seen, first, theme, area, buffer);
    })
}

fn draw(nodes: &[(String, Reception)], first: &mut usize, theme: Theme, area: Rect, buffer: &mut Buffer) {
    buffer.set_style(area, theme.text());
    // A line of words and one of pixels for each universe, and a line for each node.
    let mut rows: Vec<Row<'_>> = Vec::new();
    for (title, reception) in nodes {
        rows.push(Row::Node(title, reception));
        for (protocol, number, universe) in reception.universes() {
            rows.push(Row::Words(protocol, number, universe));
            rows.push(Row::Pixels(universe));
        }
    }
    let room = usize::from(area.height.saturating_sub(1));
    *first = (*first).min(rows.len().saturating_sub(room));
    for (line, row) in rows.iter().skip(*first).take(room).enumerate() {
        row.draw(theme, Rect { y: area.y + line as u16, height: 1, ..area }, buffer);
    }
    let foot = Rect { y: area.bottom().saturating_sub(1), height: 1, ..area };
    let more = rows.len().saturating_sub(*first + room);
    let words = if more > 0 { format!(" ↑ ↓ {more} lines more   q ends") } else { " q ends".to_owned() };
    Pen::new(foot, buffer).put(&words, theme.dim());
}

enum Row<'a> {
    Node(&'a str, &'a Reception),
    Words(Protocol, u16, &'a Universe),
    Pixels(&'a Universe),
}

impl Row<'_> {
    fn draw(&self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        match self {
            Self::Node(title, reception) => {
                let mut pen = Pen::new(area, buffer);
                pen.put(&format!(" {title}"), theme.bright());
                let words = format!(
                    "   {} packets, {} malformed, {} syncs",
                    reception.packets, reception.malformed, reception.syncs
                );
                pen.put(&words, theme.dim());
                if reception.universes().next().is_none() {
                    pen.put("   waits for Art-Net and sACN", theme.text());
                }
            }
            Self::Words(protocol, number, universe) => {
                let name = protocol.transport().universe(*number);
                let mut pen = Pen::new(area, buffer);
                pen.put(&format!("   {name:<16} {:>5.1} fps  {} lost", universe.rate, universe.lost), theme.text());
                let sources = universe.arbiter().sources();
                if sources.is_empty() {
                    pen.put("  no source any more: the last is held", theme.armed());
                }
                for source in sources {
                    pen.put(&format!("  {} {} {}", source.address, source.name, source.priority), theme.dim());
                }
            }
            Self::Pixels(universe) => {
                // Two rows of pixels in half blocks: the first half above, the second below.
                let half = PIXELS.div_ceil(2);
                for column in 0..half.min(usize::from(area.width.saturating_sub(4))) {
                    let pixel = |index: usize| {
                        let start = index * 3;
                        universe.slots.get(start..start + 3).map(|p| [p[0], p[1], p[2]])
                    };
                    if let Some(cell) = buffer.cell_mut((area.x + 3 + column as u16, area.y)) {
                        paint(cell, pixel(column), pixel(half + column), theme);
                    }
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_wire::artnet::dmx;

    #[test]
    fn what_comes_in_is_seen_with_its_source() {
        let mut reception = Reception::default();
        let repr = dmx::Repr { sequence: 1, physical: 0, port_address: 0x0105, data: &[255; 510] };
        let mut bytes = vec![0; repr.buffer_len()];
        repr.emit(&mut dmx::Packet::new_unchecked(&mut bytes));
        reception.receive(&bytes, std::net::IpAddr::from([10, 0, 0, 1]), 0.0);
        let area = Rect::new(0, 0, 100, 10);
        let mut buffer = Buffer::empty(area);
        let nodes = [("127.0.0.2  Box".to_owned(), reception), ("127.0.0.3  Other".to_owned(), Reception::default())];
        draw(&nodes, &mut 0, Theme::plain(), area, &mut buffer);
        let line = |y: u16| (0..100).map(|x| buffer[(x, y)].symbol()).collect::<String>();
        assert!(
            line(0).contains("127.0.0.2  Box") && line(1).contains("Art-Net 1:0:5") && line(1).contains("10.0.0.1")
        );
        assert_eq!(line(2).trim().chars().count(), 85, "{}", line(2));
        assert!(line(3).contains("waits for Art-Net and sACN"));
    }
}
