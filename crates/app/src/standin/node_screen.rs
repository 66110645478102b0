//! The screen of stand-in nodes: what comes in at each, as pixels of three channels, with its rate and its sources.

use std::io;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::Builder;
use std::time::Duration;

use ratatui::Terminal;
use ratatui::backend::CrosstermBackend;
use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{self, Event, KeyCode, KeyEventKind, KeyModifiers};
use ratatui::layout::Rect;
use splimo_core::show::net_form;
use splimo_wire::Protocol;
use splimo_wire::reception::{Reception, Universe};

use crate::standin::node::Node;
use splimo_runtime::clock::Instant;
use splimo_screen::kit::pen::Pen;
use splimo_screen::kit::stage_map::paint;
use splimo_screen::kit::theme::{Depth, Theme};
use splimo_screen::terminal::{Taken, give_back};

/// Screens a second.
const PAUSE: Duration = Duration::from_millis(50);
/// Pixels of a universe: a third of its slots.
const PIXELS: usize = 170;

/// Shows nodes until a person leaves or it is over. The screen has a thread of its own, which is not waited for where it
/// hangs on a terminal that is gone.
///
/// # Errors
/// If the terminal cannot be used.
pub fn run(nodes: &Arc<Vec<Node>>, over: impl Fn() -> bool) -> io::Result<()> {
    let (ended, theirs) = (Arc::new(AtomicBool::new(false)), nodes.clone());
    let told = ended.clone();
    let screen = Builder::new().name("screen".into()).spawn(move || show(&theirs, &told))?;
    while !screen.is_finished() && !over() {
        std::thread::sleep(PAUSE);
    }
    ended.store(true, Ordering::Relaxed);
    let patience = Instant::now().plus(500_000_000);
    while !screen.is_finished() && Instant::now() < patience {
        std::thread::sleep(Duration::from_millis(10));
    }
    if screen.is_finished() {
        return screen.join().unwrap_or(Ok(()));
    }
    give_back();
    Ok(())
}

fn show(nodes: &[Node], ended: &AtomicBool) -> io::Result<()> {
    let _taken = Taken::take(Some(&splimo_runtime::files::state_folder().join("splimo.log")))?;
    let mut terminal = Terminal::new(CrosstermBackend::new(io::BufWriter::with_capacity(1 << 16, io::stdout())))?;
    let theme = Theme { depth: Depth::of_environment() };
    let mut first = 0usize;
    while !ended.load(Ordering::Relaxed) {
        let title = |node: &Node| format!("{}  {}   {} polls answered", node.address(), node.name(), node.polls());
        let seen: Vec<(String, Reception)> = nodes.iter().map(|node| (title(node), node.reception())).collect();
        terminal.draw(|frame| draw(&seen, &mut first, theme, frame.area(), frame.buffer_mut()))?;
        if !event::poll(PAUSE)? {
            continue;
        }
        if let Event::Key(key) = event::read()?
            && key.kind != KeyEventKind::Release
        {
            let held = key.modifiers.contains(KeyModifiers::CONTROL);
            match key.code {
                KeyCode::Char('c' | 'q') if held => return Ok(()),
                KeyCode::Char('q') | KeyCode::Esc => return Ok(()),
                KeyCode::Down => first += 1,
                KeyCode::Up => first = first.saturating_sub(1),
                _ => {}
            }
        }
    }
    Ok(())
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
                let name = match protocol {
                    Protocol::ArtNet => format!("Art-Net {}", net_form(*number)),
                    Protocol::Sacn => format!("sACN {number}"),
                };
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
        draw(&nodes, &mut 0, Theme { depth: Depth::None }, area, &mut buffer);
        let line = |y: u16| (0..100).map(|x| buffer[(x, y)].symbol()).collect::<String>();
        assert!(
            line(0).contains("127.0.0.2  Box") && line(1).contains("Art-Net 1:0:5") && line(1).contains("10.0.0.1")
        );
        assert_eq!(line(2).trim().chars().count(), 85, "{}", line(2));
        assert!(line(3).contains("waits for Art-Net and sACN"));
    }
}
