//! The strips of universes: who takes which slots, what is free, what overlaps; and one address in all its forms.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Style;
use splimo_document::patch::Occupancy;
use splimo_show::{Address, SLOTS, Show, Tint};

use crate::kit::pen::Pen;
use crate::kit::theme::Theme;

/// Draws as many universes as there are lines for, from `first` on, each with the colour of its lights where they have one.
pub(super) fn draw(
    show: &Show,
    occupancy: &Occupancy,
    chosen: &[usize],
    (first, tinted): (u32, bool),
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
) {
    let before = occupancy.universes().take_while(|universe| *universe < first).count();
    let mut universes: Vec<u32> = occupancy.universes().filter(|universe| *universe >= first).collect();
    universes.truncate(usize::from(area.height));
    if universes.is_empty() {
        Pen::new(Rect { height: 1, ..area }, buffer)
            .to(1)
            .put("no slot is taken yet: p gives the chosen fixtures addresses", theme.text());
    }
    for (line, universe) in universes.into_iter().enumerate() {
        let row = Rect { y: area.y + line as u16, height: 1, ..area };
        strip(show, occupancy, chosen, universe, theme, row, buffer);
        if tinted {
            let tint = Tint::of(before + line).0;
            let style = Style::new().fg(theme.colour(theme.mark(tint))).bg(theme.ground());
            buffer.set_string(row.x, row.y, "■", style);
        }
    }
}

fn strip(
    show: &Show,
    occupancy: &Occupancy,
    chosen: &[usize],
    universe: u32,
    theme: Theme,
    row: Rect,
    buffer: &mut Buffer,
) {
    let wide = row.width >= 100;
    let mut pen = Pen::new(row, buffer);
    pen.to(1).put(if wide { "universe " } else { "u " }, theme.dim());
    pen.put(&format!("{universe:<4}"), theme.bright());
    let used = occupancy.used(universe);
    let right = if wide { format!("{used:>3} of {SLOTS}  {}", goes_to(show, universe)) } else { format!("{used:>3}") };
    let reserve = if wide { 48 } else { 4 };
    let start = pen.put("▕", theme.faint()).right();
    let cells = usize::from(row.width.saturating_sub(start - row.x + reserve + 2)).max(8);
    let owners = occupancy.owners(universe);
    let mut labels = Vec::new();
    for cell in 0..cells {
        let (from, to) = (cell * 512 / cells, ((cell + 1) * 512 / cells).max(cell * 512 / cells + 1));
        let here: Vec<_> = owners
            .iter()
            .enumerate()
            .filter(|(_, o)| usize::from(o.slot) < to && usize::from(o.end()) > from)
            .collect();
        let overlaps = here.iter().enumerate().any(|(i, (_, a))| here[..i].iter().any(|(_, b)| b.end() > a.slot));
        let (symbol, style) = match here.first() {
            None => ("·", theme.faint()),
            Some(_) if overlaps => ("╳", theme.armed()),
            Some((_, owner)) if chosen.contains(&owner.fixture) => ("█", theme.bright()),
            Some((place, _)) if place % 2 == 0 => ("▓", theme.dim()),
            Some(_) => ("▒", theme.dim()),
        };
        if let Some((_, owner)) = here.iter().find(|(_, o)| usize::from(o.slot) >= from) {
            labels.push((cell, owner.fixture, usize::from(owner.slots) * cells / 512, overlaps));
        }
        pen.put(symbol, style);
    }
    let end = pen.put("▏", theme.faint());
    pen.put(" ", theme.dim());
    pen.put(&right, theme.dim());
    // A name where there is room for it.
    for (cell, fixture, room, overlaps) in labels {
        let name = show.fixtures.get(fixture).map_or("", |f| f.name.as_str());
        if name.chars().count() + 2 <= room && !overlaps {
            let column = start + cell as u16 + 1;
            let style = if chosen.contains(&fixture) { theme.filled() } else { theme.text() };
            buffer.set_stringn(column, row.y, name, usize::from(end.x.saturating_sub(column)), style);
        }
    }
}

/// The names of the universe in the protocols, and the routes that take it.
fn goes_to(show: &Show, universe: u32) -> String {
    let Some(route) = show.routes.iter().find(|r| r.enabled && r.universes.numbers().contains(&universe)) else {
        return "no route carries it".to_owned();
    };
    format!("{} to {}", route.name_of(universe).unwrap_or_default(), route.to)
}

/// The address of a fixture in all the forms, and how it goes out.
pub(super) fn address_line(show: &Show, fixture: usize, theme: Theme, row: Rect, buffer: &mut Buffer) {
    let mut pen = Pen::new(row, buffer);
    pen.to(1).put("address  ", theme.dim());
    match show.fixtures.get(fixture).and_then(|f| f.address) {
        None => {
            pen.put("not patched: p gives it one", theme.text());
        }
        Some(address) => forms(show, address, row.width < 100, theme, &mut pen),
    }
}

fn forms(show: &Show, address: Address, narrow: bool, theme: Theme, pen: &mut Pen<'_>) {
    let between = if narrow { " = " } else { "  =  " };
    pen.put(&address.to_string(), theme.bright());
    let sent = show.sent_as(address);
    if sent.is_empty() {
        pen.put(between, theme.text());
        pen.put(&show.sent_words(address), theme.armed());
    }
    for name in sent {
        pen.put(&format!("{between}{name}"), theme.text());
        for other in name.kind.usual().other_names(name.number) {
            pen.put(&format!("{between}{other}"), theme.text());
        }
    }
    pen.put(&format!("{between}running {}", address.running()), theme.text());
    let (universe, channel) = (address.universe - 1, address.channel - 1);
    let running = if narrow { String::new() } else { format!(", running {}", address.running() - 1) };
    pen.put(&format!("   from 0: {universe}.{channel}{running}"), theme.dim());
}
