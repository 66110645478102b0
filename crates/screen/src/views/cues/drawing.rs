//! The drawing of the view: lists at the left, cues in the middle, the stage at the right, what runs below.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_base::colour::Hex;
use splimo_base::colour_words;
use splimo_engine::ListState;
use splimo_show::CommandTemplate;
use splimo_show::{Cue, CueList, Show};

use super::blind_pattern::BlindStage;
use super::table::Columns;
use super::words;
use super::{CuesView, Part, banner, schedule};
use crate::kit::beams;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;
use crate::model::ViewContext;

/// From so many columns on there is room for the stage.
const WIDE: u16 = 132;
/// The width of the stage.
const STAGE: u16 = 36;

impl CuesView {
    pub(super) fn draw_all(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let show = context.edited.show.clone();
        let below = if area.height >= 26 { banner::TALL } else { banner::LOW };
        let stage = if area.width >= WIDE { STAGE } else { 0 };
        let lists = if area.width >= 100 { 22 } else { 17 };
        let above = Rect { height: area.height.saturating_sub(below), ..area };
        let left = Rect { width: lists, ..above };
        let middle = Rect { x: above.x + lists, width: above.width.saturating_sub(lists + stage), ..above };
        self.draw_lists(&show, context, theme, left, buffer);
        let lanes = matches!(self.part, Part::Timeline | Part::Patterns | Part::Aims);
        if lanes {
            // Lanes need the room of the stage.
            let wide = Rect { width: above.width.saturating_sub(lists), ..middle };
            let rest = match self.part {
                Part::Patterns => self.draw_patterns(context, theme, wide, buffer),
                Part::Aims => self.aims.draw(&show, context.snapshot, theme, wide, buffer),
                Part::Lists | Part::Cues | Part::Schedule | Part::Timeline => {
                    self.timeline.draw(&show, &context.snapshot.timelines, theme, wide, buffer)
                }
            };
            if rest.height >= 5 {
                match self.blind_stage.take() {
                    Some(blind) => {
                        self.draw_blind_stage(&blind, context, theme, rest, buffer);
                        self.blind_stage = Some(blind);
                    }
                    None => beams::live_stage(&mut self.stage, context, theme, rest, buffer),
                }
            }
        } else if self.part == Part::Schedule {
            schedule::draw_events(&mut self.events, &show, theme, middle, buffer);
        } else {
            self.draw_cues(&show, context, theme, middle, buffer);
        }
        if stage > 0 && !lanes {
            let right = Rect { x: middle.right() + 1, width: stage - 2, ..above };
            self.draw_stage(context, theme, right, buffer);
        }
        let foot = Rect { y: above.bottom(), height: below, ..area };
        let Some(list) = show.cue_lists.get(self.lists.chosen) else { return };
        let state = context.snapshot.lists.get(self.lists.chosen).copied().unwrap_or_default();
        banner::draw(list, &state, context, theme, foot, buffer);
    }

    fn draw_lists(&mut self, show: &Show, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let head = if self.part == Part::Lists { theme.bright() } else { theme.dim() };
        Pen::new(Rect { height: 1, ..area }, buffer).to(1).put("lists", head);
        let below = (area.height / 2).clamp(2, 15).min(area.height.saturating_sub(show.cue_lists.len() as u16 + 2));
        let lists = area.height.saturating_sub(1 + below);
        let rows = Rect { y: area.y + 1, height: lists, width: area.width - 1, ..area };
        let foot = Rect { y: rows.bottom(), height: below, ..area };
        schedule::draw_next(&self.next, show, self.part == Part::Schedule, theme, foot, buffer);
        for place in self.lists.lay_out(show.cue_lists.len(), rows) {
            let list = &show.cue_lists[place];
            let state = context.snapshot.lists.get(place);
            let runs = state.is_some_and(|state| state.at.is_some());
            let chosen = place == self.lists.chosen;
            let mut pen = Pen::new(self.lists.row(place), buffer);
            pen.put(if chosen { " ▸ " } else { "   " }, theme.bright());
            let told = words::state(list, state);
            let room = usize::from(area.width).saturating_sub(told.chars().count() + 6);
            let style = if runs {
                theme.filled()
            } else if chosen {
                theme.bright()
            } else {
                theme.text()
            };
            pen.put(&shortened(&list.name, room), style);
            pen.to(area.width.saturating_sub(told.chars().count() as u16 + 2)).put(&told, theme.dim());
        }
    }

    fn draw_cues(&mut self, show: &Show, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let Some(list) = show.cue_lists.get(self.lists.chosen) else {
            let lines = ["There is no cue list yet.", "a adds an empty one, w makes one of looks in a form."];
            for (line, words) in lines.iter().enumerate() {
                let row = Rect { y: area.y + 1 + line as u16, height: 1, ..area };
                Pen::new(row, buffer).to(1).put(words, theme.text());
            }
            return;
        };
        let state = context.snapshot.lists.get(self.lists.chosen).copied().unwrap_or_default();
        title(list, &state, theme, Rect { height: 1, ..area }, buffer);
        let columns = Columns::new(list, show, usize::from(area.width).saturating_sub(6));
        let head = if self.part == Part::Cues { theme.text() } else { theme.dim() };
        let mut pen = Pen::new(Rect { y: area.y + 1, height: 1, ..area }, buffer);
        pen.put("    ", theme.text());
        for (word, width) in columns.heads(show) {
            pen.put(&format!("{word:<width$} "), head);
        }
        let rows = Rect { y: area.y + 2, height: area.height.saturating_sub(3), ..area };
        if list.cues.is_empty() {
            let words = "no cue yet: r records the stage, a adds one by hand";
            Pen::new(Rect { height: 1, ..rows }, buffer).to(5).put(words, theme.text());
        }
        let seen = self.cues.lay_out(list.cues.len(), rows);
        for place in seen.clone() {
            let row = self.cues.row(place);
            self.cue_line((list, place, &list.cues[place]), &state, show, &columns, theme, row, buffer);
        }
        let more = list.cues.len().saturating_sub(seen.end);
        let foot = Rect { y: area.bottom().saturating_sub(1), height: 1, ..area };
        let mut pen = Pen::new(foot, buffer);
        pen.to(5);
        if more > 0 {
            pen.put(&format!("↓ {more} more   "), theme.dim());
        }
        if let Some(cue) = list.cues.get(self.cues.chosen) {
            pen.put(&about(cue), theme.dim());
        }
    }

    #[expect(clippy::too_many_arguments, reason = "a line of a table is of all of these")]
    fn cue_line(
        &self,
        (list, place, cue): (&CueList, usize, &Cue),
        state: &ListState,
        show: &Show,
        columns: &Columns,
        theme: Theme,
        row: Rect,
        buffer: &mut Buffer,
    ) {
        let chosen = place == self.cues.chosen;
        let (runs, next) = (state.at == Some(place), state.next == Some(place) && state.at.is_some());
        let mut pen = Pen::new(row, buffer);
        pen.put(if chosen { " ▸" } else { "  " }, theme.bright());
        pen.put(if self.marked.contains(&place) { "+" } else { " " }, theme.bright());
        let hex = colour_words::parse(&cue.colour).map(|Hex([r, g, b, _])| [r, g, b]);
        match hex {
            Some(rgb) => drop(pen.put("▌", theme.text().fg(theme.colour(rgb)))),
            None => drop(pen.put(" ", theme.text())),
        }
        let style = match (runs, next, chosen) {
            (true, ..) => theme.filled(),
            (_, true, _) => theme.armed(),
            (_, _, true) => theme.bright(),
            (..) => theme.text(),
        };
        for (column, (word, width)) in columns.cells(cue, place, list, show).into_iter().enumerate() {
            // Which runs and which is next is told by shape, too.
            let word = match column {
                0 if runs => format!("■{word}"),
                0 if next => format!("⟨{word}⟩"),
                0 => format!(" {word}"),
                _ => word,
            };
            pen.put(&format!("{word:<width$}"), if column < 2 || runs { style } else { theme.text() });
            pen.put(" ", theme.text());
        }
    }

    fn draw_stage(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let words = match &self.blind {
            Some(blind) => format!("cue {} tried blind: not going out", blind.cue.number),
            None => "stage".to_owned(),
        };
        let style = if self.blind.is_some() { theme.filled() } else { theme.dim() };
        Pen::new(Rect { height: 1, ..area }, buffer).put(&words, style);
        let stage = Rect { y: area.y + 1, height: area.height.saturating_sub(1), ..area };
        let canvas = context.show.canvas;
        match &mut self.blind {
            Some(blind) => {
                let rig = blind.rig().clone();
                self.stage.draw(&rig, canvas, blind.light(context), stage, theme, buffer);
            }
            None => beams::live_stage(&mut self.stage, context, theme, stage, buffer),
        }
    }

    /// The chosen pattern, as it is or as it is written blind.
    fn draw_patterns(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) -> Rect {
        let show = self.written_show().unwrap_or_else(|| context.edited.show.clone());
        let now = self.blind_stage.as_ref().map_or(context.snapshot, BlindStage::snapshot);
        self.patterns.draw(&show, now, theme, area, buffer)
    }

    /// The stage as it would be with the pattern that is written blind.
    fn draw_blind_stage(
        &mut self,
        blind: &BlindStage,
        context: &ViewContext<'_>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
    ) {
        let words = " BLIND: this does not go out; K keeps it, D drops it, B ends it ";
        Pen::new(Rect { height: 1, ..area }, buffer).put(words, theme.filled());
        let stage = Rect { y: area.y + 1, height: area.height - 1, ..area };
        self.stage.draw(context.rig, context.show.canvas, blind.light(), stage, theme, buffer);
        let heads = &blind.snapshot().heads;
        beams::draw(&self.stage, (context.rig, context.show), heads, blind.light(), theme, buffer);
    }
}

/// The name of the list, with its priority, and where it is.
fn title(list: &CueList, state: &ListState, theme: Theme, area: Rect, buffer: &mut Buffer) {
    let mut pen = Pen::new(area, buffer);
    pen.to(3).put(&list.name, theme.bright());
    if list.priority > 0 {
        pen.put(&format!("   priority {}", list.priority), theme.text());
    }
    if list.wrap {
        pen.put("   begins again", theme.dim());
    }
    let number = |place: Option<usize>| place.and_then(|place| list.cues.get(place)).map(|cue| cue.number.to_string());
    match (number(state.at), number(state.next)) {
        (Some(at), Some(next)) => drop(pen.put(&format!("   at {at}, then {next}"), theme.text())),
        (Some(at), None) => drop(pen.put(&format!("   at {at}, the last"), theme.text())),
        (None, _) => drop(pen.put("   rests", theme.dim())),
    }
    if state.passes > 0 {
        pen.put(&format!("   loop {} is over", state.passes), theme.dim());
    }
}

/// The parts of a cue that stand in no column: the note, other values and commands.
fn about(cue: &Cue) -> String {
    let mut words = Vec::new();
    let mut add = |name: &str, value: Option<f32>| words.extend(value.map(|value| format!("{name} {value}")));
    add("master", cue.master);
    add("tempo", cue.tempo);
    add("speed", cue.speed);
    words.extend(cue.controls.iter().map(|one| format!("control {} at {}", one.control, one.percent)));
    words.extend(cue.does.iter().map(CommandTemplate::to_string));
    if !cue.note.is_empty() {
        words.push(format!("note: {}", cue.note));
    }
    words.join("   ")
}
