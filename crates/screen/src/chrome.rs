//! The lines around every view: the status line, the tabs, the runway and the hint line.

use crate::kit::bars::{bar, spectrum_line};
use crate::kit::pen::Pen;
use crate::kit::words::{columns as columns_of, cut_at_a_word, shortened};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

use splimo_link::output::{OutputStatus, PortStatus};
use splimo_show::CueList;

use crate::keymap::Keys;
use crate::kit::theme::Theme;
use crate::model::ViewContext;
use crate::view::{Ask, Targets};
use crate::views::{AnyAction, Told, ViewId};

/// Name, tempo, hearing, master and output, always at the same places.
pub(crate) fn status_line(context: &ViewContext<'_>, keys: &Keys, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let snapshot = context.snapshot;
    let width = area.width;
    let wide = width >= 119;
    let [tempo, hear, master, output] = columns(width, wide);
    let mut pen = Pen::new(area, buffer);
    let room = usize::from(tempo.saturating_sub(4));
    pen.to(1).put(&shortened(&context.show.name, room), theme.bright());
    if context.unsaved {
        pen.put(" *", theme.armed());
    }

    let clock = &snapshot.clock;
    pen.to(tempo).put(&format!("{:5.1}", clock.bpm), theme.bright());
    pen.put(if wide { " bpm " } else { " " }, theme.dim());
    pen.put(&format!("{:<7}", clock.source.name()), theme.dim());
    let beat = clock.beat_in_bar() as usize;
    for place in 0..clock.bar_beats as usize {
        pen.put(if place == beat { "█" } else { "▁" }, if place == beat { theme.bright() } else { theme.dim() });
    }
    if wide {
        pen.put(&format!("  bar {}", clock.bar() + 1), theme.dim());
        pen.put(&format!("/{}", clock.phrase_bars), theme.dim());
    }

    if hear < master {
        pen.to(hear).put("hear ", theme.dim());
        let cells = if wide { 12 } else { 4 };
        pen.put(&spectrum_line(&snapshot.hearing.bands, cells), theme.text());
    }

    pen.to(master);
    if snapshot.blackout {
        pen.put(" BLACKOUT ", theme.filled());
        let key = keys.key_for("blackout").unwrap_or_default();
        let room = usize::from(output.saturating_sub(pen.column() + 1));
        let words = ["brings the light back", "light again", "back"].map(|words| format!("  {key} {words}"));
        let fits = words.iter().position(|words| columns_of(words) <= room).unwrap_or(words.len() - 1);
        pen.put(if wide { &words[fits] } else { &words[2][1..] }, theme.dim());
    } else {
        pen.put(if wide { "master " } else { "mst " }, theme.dim());
        pen.put(&format!("{:3.0} ", snapshot.master * 100.0), theme.bright());
        let limit = strobe_limit(context);
        if let Some(words) = limit.filter(|_| !wide) {
            // Where there is little room it is worth more than the bar.
            pen.put(words[1], theme.bright());
        } else {
            let cells = if wide { 10 } else { 5 };
            pen.put("▕", theme.faint());
            pen.put(&bar(snapshot.master, cells), theme.text());
            pen.put("▏ ", theme.faint());
            let room = usize::from(output.saturating_sub(pen.column() + 1));
            if let Some(words) = limit.and_then(|words| words.into_iter().find(|words| words.len() <= room)) {
                pen.put(words, theme.bright());
            }
        }
    }

    let health =
        if context.troubles.is_empty() { "well".to_owned() } else { format!("{} trouble", context.troubles.len()) };
    let style = if context.troubles.is_empty() { theme.text() } else { theme.filled() };
    pen.to(output);
    if wide {
        pen.put(&format!("{} uni  ", context.snapshot.universes), theme.dim());
    }
    pen.put(&format!("{:.1}", frames_a_second(context.output, context.ports)), theme.bright());
    pen.put(if wide { " fps  " } else { " " }, theme.dim());
    pen.put(&health, style);
}

/// The frames a second that leave: those of the network or, where only serial ports are fed, those that the quickest takes.
fn frames_a_second(output: &OutputStatus, ports: &[PortStatus]) -> f32 {
    match output.streams.is_empty() && !ports.is_empty() {
        true => ports.iter().map(|port| port.rate).fold(0.0, f32::max),
        false => output.fps,
    }
}

/// The words for a strobe limit that is switched off, or that holds light back, long and short.
fn strobe_limit(context: &ViewContext<'_>) -> Option<[&'static str; 2]> {
    match (context.show.settings.strobe_limit, context.snapshot.flash_limit.acts) {
        (0, _) => Some(["no strobe limit", "no limit"]),
        (_, true) => Some(["strobe limited", "limited"]),
        (_, false) => None,
    }
}

/// The columns of tempo, hearing, master and output: as far to the right as their words allow, evenly apart. Hearing has
/// none of its own where there is no room for it.
fn columns(width: u16, wide: bool) -> [u16; 4] {
    // How long each is at the most, and the least that is left for the name of the show.
    let [tempo, hear, master, output, name] = match width {
        _ if wide => [32, 17, 23, 27, 16],
        76.. => [17, 9, 15, 15, 15],
        _ => [17, 0, 15, 15, 9],
    };
    let gap = (width.saturating_sub(tempo + hear + master + output + name) / 4).max(1);
    let output_at = width.saturating_sub(output + 1);
    let master_at = output_at.saturating_sub(master + gap);
    let hear_at = if hear > 0 { master_at.saturating_sub(hear + gap) } else { master_at };
    [hear_at.saturating_sub(tempo + gap), hear_at, master_at, output_at]
}

/// The views, and the first trouble.
pub(crate) fn tabs(
    view: ViewId,
    context: &ViewContext<'_>,
    list: Option<&CueList>,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
    targets: &mut Targets<AnyAction>,
) {
    let mut pen = Pen::new(area, buffer);
    pen.to(1);
    for &tab in ViewId::ALL {
        let (name, key) = (tab.spec().name, tab.spec().function_key);
        let start = if tab == view {
            pen.put(&format!(" {} ", name.to_uppercase()), theme.filled())
        } else {
            pen.put(&format!(" {name} "), theme.text())
        };
        let gap = if area.width < 132 { " " } else { "   " };
        let end = pen.put(&format!(" F{key}{gap}"), theme.dim());
        targets.push((start.union(end), Ask::GoTo(name)));
    }
    if let Some(list) = list {
        let room = usize::from(area.width.saturating_sub(pen.column() + 1));
        let (words, runs) = cue_words(list, context, room.min(34));
        pen.put(&words, if runs { theme.bright() } else { theme.dim() });
        pen.put("   ", theme.text());
    }
    if let Some(what) = &context.inputs.learning {
        let room = usize::from(area.width.saturating_sub(pen.column() + 2));
        let words = shortened(&format!(" LEARNING {what}: move a control, Esc ends "), room);
        let column = area.width.saturating_sub(words.chars().count() as u16 + 2);
        pen.to(column).put(&words, theme.filled());
    } else if let Some(trouble) = context.troubles.last() {
        // As far right as it goes, but clear of the tabs.
        let room = usize::from(area.width.saturating_sub(pen.column() + 2));
        let words = shortened(&format!("{}: {}", trouble.subject, trouble.message), room);
        let column = area.width.saturating_sub(words.chars().count() as u16 + 2);
        pen.to(column).put(&words, theme.bright());
    }
}

/// The list that Ctrl-N goes on in, where it is, and what comes next; and whether it runs.
fn cue_words(list: &CueList, context: &ViewContext<'_>, room: usize) -> (String, bool) {
    let place = context.show.cue_list(&list.name);
    let state = place.and_then(|place| context.snapshot.lists.get(place)).copied().unwrap_or_default();
    let number = |place: Option<usize>| place.and_then(|place| list.cues.get(place)).map(|cue| cue.number.to_string());
    let next = number(state.next).map(|next| format!(" ⟨{next}⟩")).unwrap_or_default();
    let behind = match (number(state.at), state.paused) {
        (None, _) => " rests".to_owned(),
        (Some(at), true) => format!(" ■{at} held"),
        (Some(at), false) => format!(" ■{at}{next}"),
    };
    // Of a long name less is left than of where it is.
    let name = shortened(&list.name, room.saturating_sub(behind.chars().count()));
    (format!("{name}{behind}"), state.at.is_some())
}

/// The ruler of the phrase with the playhead and what is armed: one line, or three where there is room.
pub(crate) fn runway(context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let clock = &context.snapshot.clock;
    let left = area.x + 1;
    let columns = area.width.saturating_sub(2);
    let phrase = clock.phrase_beats();
    let column_of = |beat: f64| left + ((beat / phrase * f64::from(columns)) as u16).min(columns - 1);
    let place = clock.beat_in_phrase();
    let playhead = column_of(place);
    let tall = area.height >= 3;

    for column in left..left + columns {
        let cell = &mut buffer[(column, area.y)];
        if !tall && column < playhead {
            cell.set_symbol("━").set_style(theme.dim());
        } else {
            cell.set_symbol("·").set_style(theme.faint());
        }
    }
    for bar in 0..clock.phrase_bars {
        let column = column_of(f64::from(bar * clock.bar_beats));
        // Numbers leave room for each other.
        let every = (clock.phrase_bars * 5 / u32::from(columns).max(1)).max(1);
        let now = bar == clock.bar();
        if tall || column >= playhead {
            let number = if bar % every == 0 { format!("╷{}", bar + 1) } else { "╷".to_owned() };
            let room = usize::from(left + columns - column);
            buffer.set_stringn(column, area.y, number, room, if now { theme.bright() } else { theme.dim() });
        }
    }
    if tall {
        for column in left..left + columns {
            let passed = column < playhead;
            let style = if passed { theme.text() } else { theme.faint() };
            buffer[(column, area.y + 1)].set_symbol(if passed { "━" } else { "─" }).set_style(style);
        }
    }
    if tall {
        // The parts of the music, where they were heard to begin.
        for (ago, part) in context.history.parts() {
            let began = place - ago * f64::from(clock.bpm) / 60.0;
            if began >= 0.0 {
                let column = column_of(began);
                let room = usize::from(playhead.saturating_sub(column));
                buffer.set_stringn(column, area.y + 2, format!("▏{}", part.name()), room, theme.dim());
            }
        }
    }
    if let Some((part, beats)) = clock.expected(&context.snapshot.hearing).filter(|_| tall) {
        let turn = place + beats;
        let label = format!("▏{}?", part.name());
        let room = usize::from(left + columns - column_of(turn.min(phrase)));
        if turn < phrase && label.chars().count() <= room {
            buffer.set_stringn(column_of(turn), area.y + 2, label, room, theme.dim());
        }
    }
    let line = if tall { area.y + 1 } else { area.y };
    buffer[(playhead, line)].set_symbol("▶").set_style(theme.bright());

    let ruler = Ruler { left, columns, phrase, place };
    let line = if tall { area.y + 2 } else { area.y };
    let landings = landings(context, ruler, tall);
    for Landing { column, at, label, .. } in &landings {
        let room = usize::from(left + columns - column);
        buffer.set_stringn(*column, line, label, room, theme.armed());
        if tall {
            buffer[(*at, area.y + 1)].set_symbol("┬").set_style(theme.armed());
        }
    }
}

/// The ruler of the phrase on the screen.
#[derive(Clone, Copy)]
struct Ruler {
    left: u16,
    columns: u16,
    /// Beats in the phrase, and those that are over.
    phrase: f64,
    place: f64,
}

impl Ruler {
    fn column_of(self, beat: f64) -> u16 {
        let column = (beat / self.phrase * f64::from(self.columns)) as u16;
        self.left + column.min(self.columns - 1)
    }
}

/// Something that waits, as it hangs from the ruler.
struct Landing {
    /// The column of its words, and that of the beat at which it lands.
    column: u16,
    at: u16,
    label: String,
}

/// Everything that waits, the soonest first, as far as there is room; of what has none it is told how much it is.
fn landings(context: &ViewContext<'_>, ruler: Ruler, tall: bool) -> Vec<Landing> {
    let (left, right) = (ruler.left, ruler.left + ruler.columns);
    let mut hung: Vec<Landing> = Vec::new();
    let mut hidden = 0;
    for (index, armed) in context.snapshot.queue.iter().enumerate() {
        let beats = (armed.lands_at - context.snapshot.clock.beat).max(0.0);
        let name = armed.wish.look.and_then(|look| context.show.looks.get(look)).map_or("clear", |look| &look.name);
        let tiers = context.show.stack();
        let tier = tiers.get(armed.wish.tier).filter(|_| tiers.len() > 1).map_or("", |tier| tier.name.as_str());
        let label = match index {
            0 => format!("⟨{name} {beats:.1}⟩ {tier}"),
            _ => format!("⟨{name}⟩ {tier}"),
        };
        let label = label.trim_end().to_owned();
        // A landing at the end of the phrase hangs from the ruler's end.
        let at = ruler.column_of((ruler.place + beats).min(ruler.phrase));
        let length = label.chars().count() as u16;
        let wanted = if at + length <= right { at } else { right.saturating_sub(length).max(left) };
        let taken = |column: u16| {
            hung.iter().any(|other| {
                let end = other.column + other.label.chars().count() as u16 + 1;
                column < end && other.column < column + length + 1
            })
        };
        if !tall && index > 0 || taken(wanted) {
            hidden += 1;
        } else {
            hung.push(Landing { column: wanted, at, label });
        }
    }
    if let Some(first) = hung.first_mut().filter(|_| hidden > 0) {
        first.label.push_str(&format!(" +{hidden}"));
        let length = first.label.chars().count() as u16;
        first.column = first.column.min(right.saturating_sub(length).max(left));
    }
    hung
}

/// The keys that work now, or what was just said.
pub(crate) fn hint_line(
    (view, keys): (ViewId, &Keys),
    said: Option<&str>,
    open: Option<&[(&str, &str)]>,
    theme: Theme,
    area: Rect,
    buffer: &mut Buffer,
) {
    let mut pen = Pen::new(area, buffer);
    pen.to(1);
    if let Some(said) = said {
        let room = usize::from(area.width.saturating_sub(1));
        pen.put(&cut_at_a_word(said, room), theme.bright());
        return;
    }
    if let Some(open) = open {
        return put_hints(open.iter().copied(), theme, &mut pen);
    }
    for [names, hint, _] in view.spec().other_keys {
        pen.put(&format!("{} ", keys.in_words(names)), theme.text());
        pen.put(&format!("{hint}   "), theme.dim());
    }
    let mut hints: Vec<Told> = keys.told(view).into_iter().filter(|told| !told.hint.is_empty()).collect();
    // What is needed most has to fit: the way to everything else is kept, and what help tells too goes first.
    let length =
        |hints: &[Told]| -> usize { hints.iter().map(|g| g.keys.chars().count() + g.hint.chars().count() + 4).sum() };
    let room = usize::from(area.width.saturating_sub(pen.column()));
    for spare in [
        "bands",
        "floor",
        "seek",
        "pause",
        "universes",
        "follow music",
        "bar here",
        "find",
        "freeze",
        "area",
        "arm",
        "span",
        "profiles",
        "universe, slot",
        "record",
        "bars",
        "more",
        "zoom",
        "master",
        "fade",
        "leave",
        "bank",
        "edit pads",
        "rotation",
        "masters",
        "who leads",
        "learn",
        "tap",
        "tiers, waiting",
        "panic",
        "land now",
        "any action",
        "flash and click",
        "lands on",
        "fit",
        "groups",
        "channel test",
        "vary",
        "blind",
        "target",
        "palette",
        "colours",
        "modulator",
        "change",
    ] {
        if length(&hints) <= room {
            break;
        }
        hints.retain(|group| group.hint != spare);
    }
    put_hints(hints.iter().map(|group| (group.keys.as_str(), group.hint)), theme, &mut pen);
}

/// The way to what has no room among the hints.
const REST: (&str, &str) = ("F1", "all keys");

/// Puts keys and what they do, each whole; where not all have room, the last is the way to the rest.
fn put_hints<'h>(hints: impl Iterator<Item = (&'h str, &'h str)>, theme: Theme, pen: &mut Pen<'_>) {
    let hints: Vec<(&str, &str)> = hints.collect();
    let wide = |(keys, does): &(&str, &str)| keys.chars().count() + does.chars().count() + 4;
    let room = usize::from(pen.width().saturating_sub(pen.column()));
    // Behind the last one there need be nothing.
    let all = |hints: &[(&str, &str)]| hints.iter().map(wide).sum::<usize>().saturating_sub(3);
    let mut shown = hints;
    if all(&shown) > room {
        // Help tells all of them too.
        if !shown.iter().any(|(keys, _)| *keys == REST.0) {
            shown.push(REST);
        }
        // How one ends it stays to the last.
        let spare = |(keys, _): &(&str, &str)| !matches!(*keys, "Enter" | "Esc" | "F1");
        while all(&shown) > room
            && let Some(at) = shown.iter().rposition(spare)
        {
            shown.remove(at);
        }
    }
    for (keys, does) in shown {
        pen.put(&format!("{keys} "), theme.text());
        pen.put(&format!("{does}   "), theme.dim());
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn hints_that_have_no_room_are_left_out_whole_and_the_way_to_them_is_said() {
        let hints = [("↑ ↓", "field"), ("← →", "nudge; Shift coarse"), ("type", "replaces"), ("Enter", "keep")];
        let shown = |width: u16| {
            let area = Rect::new(0, 0, width, 1);
            let mut buffer = Buffer::empty(area);
            put_hints(hints.into_iter(), Theme::plain(), &mut Pen::new(area, &mut buffer));
            (0..width).map(|x| buffer[(x, 0)].symbol()).collect::<String>().trim_end().to_owned()
        };
        assert_eq!(shown(80), "↑ ↓ field   ← → nudge; Shift coarse   type replaces   Enter keep");
        assert_eq!(shown(64), shown(80), "just enough");
        assert_eq!(shown(63), "↑ ↓ field   ← → nudge; Shift coarse   Enter keep   F1 all keys");
        assert_eq!(shown(40), "↑ ↓ field   Enter keep   F1 all keys");
    }

    #[test]
    fn the_header_counts_what_serial_ports_take_where_nothing_else_leaves() {
        let port = |rate: f32| PortStatus { rate, ..PortStatus::default() };
        let alone = OutputStatus { fps: 44.0, ..OutputStatus::default() };
        assert_eq!(frames_a_second(&alone, &[port(21.5), port(40.0)]), 40.0);
        assert_eq!(frames_a_second(&alone, &[port(0.0)]), 0.0, "a port that is not there takes none");
        assert_eq!(frames_a_second(&alone, &[]), 44.0);
    }
}
