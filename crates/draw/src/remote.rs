//! Splimo as a fixture, and choices by value, for whoever sits at the other side: which channel does what, value by value.

use splimo_show::CommandTemplate;
use splimo_show::{Binding, Input, InputKind, Remote, Show};
use splimo_show::{RemoteLayout, RemoteRange, event::EventAddress};

use crate::metrics;
use crate::page::{Anchor, Page, number};

const TOP: f32 = 22.0;
const FOOT: f32 = 14.0;
const COLUMNS: usize = 3;
const LINE: f32 = 4.2;
const LEGEND: &str = "slots are counted from 1; values are those of one slot, 0 to 255";

/// One channel that somebody on the other side moves.
#[derive(Debug, Clone, PartialEq)]
pub struct RemoteRow {
    /// The input, and where it listens.
    pub input: String,
    /// The slot, or what else it is.
    pub channel: String,
    /// Its name.
    pub name: String,
    /// The effect of its values.
    pub ranges: Vec<RemoteRange>,
}

/// Every channel that moves a show from outside: those of layouts, and choices by value. A show without either has both layouts from slot
/// 1, as they would be.
#[must_use]
pub fn remote_rows(show: &Show) -> Vec<RemoteRow> {
    let mut rows = Vec::new();
    for input in &show.inputs {
        if let Some(Remote { layout, first }) = input.remote {
            rows.extend(layout_rows(layout, first, &place_of(input), show));
        }
        let own = show.bindings.iter().filter(|binding| binding.source == input.name);
        rows.extend(own.filter_map(|binding| choice_row(binding, &place_of(input))));
    }
    if rows.is_empty() {
        for layout in RemoteLayout::ALL {
            rows.extend(layout_rows(layout, 1, &format!("the {} layout", layout.name()), show));
        }
    }
    rows
}

fn place_of(input: &Input) -> String {
    format!("{}: {} {}", input.name, input.kind.name(), input.address)
}

fn layout_rows(layout: RemoteLayout, first: u16, place: &str, show: &Show) -> Vec<RemoteRow> {
    let channels = (first..).zip(layout.list(show));
    channels
        .map(|(slot, channel)| RemoteRow {
            input: place.to_owned(),
            channel: format!("slot {slot}"),
            name: channel.name,
            ranges: channel.ranges,
        })
        .collect()
}

/// A binding whose bands pick something.
fn choice_row(binding: &Binding, place: &str) -> Option<RemoteRow> {
    if binding.bands.is_empty() {
        return None;
    }
    let most = match binding.event {
        EventAddress::Slot(..) => 255,
        _ => binding.event.most() as u16,
    };
    let ends = binding.bands.iter().skip(1).map(|band| band.from.saturating_sub(1)).chain([most]);
    let ranges = binding.bands.iter().zip(ends).map(|(band, to)| RemoteRange {
        from: band.from.min(255) as u8,
        to: to.min(255) as u8,
        does: in_words(&band.does),
    });
    Some(RemoteRow {
        input: place.to_owned(),
        channel: binding.event.to_string(),
        name: "picks by its value".to_owned(),
        ranges: ranges.collect(),
    })
}

/// The request of a band, for people who do not know the commands.
fn in_words(does: &[CommandTemplate]) -> String {
    let words = does.iter().map(CommandTemplate::in_words);
    let all = words.collect::<Vec<String>>().join(", ");
    if all.is_empty() { "nothing".to_owned() } else { all }
}

/// The same as a table (RFC 4180): input, channel, name, from, to, what it does.
#[must_use]
pub fn remote_csv(show: &Show) -> String {
    let mut writer = csv::Writer::from_writer(Vec::new());
    // Into memory it always goes.
    let _ = writer.write_record(["input", "channel", "name", "from", "to", "does"]);
    for row in remote_rows(show) {
        for range in &row.ranges {
            let (from, to) = (range.from.to_string(), range.to.to_string());
            let _ = writer.write_record([&row.input, &row.channel, &row.name, &from, &to, &range.does]);
        }
    }
    String::from_utf8(writer.into_inner().unwrap_or_default()).unwrap_or_default()
}

/// A line of the list.
enum Line {
    Input(String),
    Channel(String, String),
    Range(String, String),
}

fn lines(rows: &[RemoteRow]) -> Vec<Line> {
    let mut lines = Vec::new();
    let mut last = "";
    for row in rows {
        if row.input != last {
            lines.push(Line::Input(row.input.clone()));
            last = &row.input;
        }
        lines.push(Line::Channel(row.channel.clone(), row.name.clone()));
        for range in &row.ranges {
            let values =
                if range.from == range.to { range.from.to_string() } else { format!("{}-{}", range.from, range.to) };
            lines.push(Line::Range(values, range.does.clone()));
        }
    }
    lines
}

/// Pages with every channel and what its values do.
#[must_use]
pub fn remote(show: &Show) -> Vec<Page> {
    let lines = lines(&remote_rows(show));
    let empty = Page::a4_lying();
    let a_column = ((empty.height - TOP - FOOT) / LINE) as usize;
    let width = empty.room() / COLUMNS as f32;
    let mut pages = vec![empty];
    let (mut column, mut row) = (0, 0);
    for (place, line) in lines.iter().enumerate() {
        // A heading does not stand alone at the foot of a column.
        let heads = matches!(line, Line::Input(_) | Line::Channel(..)) && place + 1 < lines.len();
        if row + usize::from(heads) >= a_column {
            (column, row) = (column + 1, 0);
        }
        if column == COLUMNS {
            pages.push(Page::a4_lying());
            column = 0;
        }
        let (x, y) = (Page::MARGIN + column as f32 * width, TOP + (row as f32 + 1.0) * LINE);
        if let Some(page) = pages.last_mut() {
            draw(line, x, y, width - 4.0, page);
        }
        row += 1;
    }
    number(&mut pages, &format!("{}: played from a desk", show.name), LEGEND);
    pages
}

fn draw(line: &Line, x: f32, y: f32, width: f32, page: &mut Page) {
    match line {
        Line::Input(words) => {
            page.bold([x, y], 3.6, Anchor::Start, metrics::cut_bold(words, 3.6, width));
            page.line([x, y + 1.0, x + width, y + 1.0], 0.3, 0.0);
        }
        Line::Channel(channel, name) => {
            page.bold([x, y], 3.0, Anchor::Start, metrics::cut_bold(&format!("{channel}   {name}"), 3.0, width));
        }
        Line::Range(values, does) => {
            page.grey([x + 14.0, y], 2.8, Anchor::End, values);
            page.text([x + 16.0, y], 2.8, Anchor::Start, metrics::cut(does, 2.8, width - 16.0));
        }
    }
}

/// True if a show is moved by DMX at all, so that the drawing says what is, and not what could be.
#[must_use]
pub fn has_remote(show: &Show) -> bool {
    show.inputs.iter().any(|input| input.remote.is_some() && matches!(input.kind, InputKind::ArtNet | InputKind::Sacn))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Item;
    use splimo_show::{Band, Look};

    fn show() -> Show {
        let mut show = Show::empty("Remote");
        show.looks = ["Tide", "Gale"].map(|name| Look::new(name, Vec::new())).to_vec();
        show.give_banks();
        let remote = Some(Remote { layout: RemoteLayout::Compact, first: 101 });
        show.inputs = vec![Input { remote, ..Input::new("desk", InputKind::Sacn, "7") }];
        let band = |from, does: &[&str]| Band { from, does: does.iter().map(|&text| text.into()).collect() };
        let bands = vec![band(0, &[]), band(1, &["fire-look Tide"])];
        let event = "slot 5".parse().expect("an event");
        show.bindings = vec![Binding { bands, ..Binding::new("desk", event, "") }];
        show
    }

    #[test]
    fn the_page_and_the_table_say_what_each_value_does() {
        let words: Vec<String> = remote(&show())
            .iter()
            .flat_map(|page| &page.items)
            .filter_map(|item| if let Item::Text { words, .. } = item { Some(words.clone()) } else { None })
            .collect();
        for wanted in [
            "desk: sACN 7",
            "slot 101   master",
            "slot 104   look of base",
            "1-4",
            "Tide",
            "slot 5   picks by its value",
        ] {
            assert!(words.iter().any(|words| words == wanted), "{wanted}: {words:?}");
        }
        let table = remote_csv(&show());
        assert!(table.contains("desk: sACN 7,slot 104,look of base,5,8,Gale\n"), "{table}");
        assert!(table.contains("desk: sACN 7,slot 5,picks by its value,1,255,Tide\n"), "{table}");
    }

    #[test]
    fn a_show_that_nobody_moves_has_the_layouts_as_they_would_be_and_nothing_is_off_the_page() {
        let mut show = Show::empty("None");
        show.looks = (0..90).map(|n| Look::new(&format!("Look {n}"), Vec::new())).collect();
        let pages = remote(&show);
        assert!(pages.len() > 1 && !has_remote(&show) && has_remote(&self::show()));
        let low = |item: &Item| matches!(item, Item::Text { at, .. } if at[1] > 206.0);
        assert!(!pages.iter().flat_map(|page| &page.items).any(low));
        assert_eq!(remote_rows(&show).len(), 40);
    }
}
