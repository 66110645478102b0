//! The view Looks: the list of looks, the layers of one, everything about a layer edited in place, and the stage.

mod area;
mod chooser;
mod colours;
mod deeds;
mod entry;
mod lines;
mod many;
mod menu;
mod modulators;
mod rows;
mod sheet;
mod shelf;
mod stage;
mod swatches;
mod target;
#[cfg(test)]
mod tests;
mod variations;

use std::collections::BTreeSet;
use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};
use splimo_core::action::{Action, View};
use splimo_core::engine::Snapshot;
use splimo_core::rig::Rig;
use splimo_core::show::{Layer, Look, Show};

use super::face::Seen;
use super::keys;
use crate::kit::gallery::Gallery;
use crate::kit::list::List;
use crate::kit::pen::Pen;
use crate::kit::selection::followed;
use crate::kit::theme::Theme;
use rows::Row;
use sheet::{Bench, Sheet};
use splimo_runtime::clock::Instant;
use stage::LookStage;

/// How long a value may stand nudged before it counts as kept, in seconds.
const SETTLES: f64 = 1.5;
/// How long after its key the comparison is held; a held key repeats sooner.
const COMPARED: f64 = 0.7;

/// Which part of the view the arrows move in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
enum Pane {
    #[default]
    Looks,
    Layers,
    Lines,
}

impl Pane {
    fn next(self) -> Self {
        match self {
            Self::Looks => Self::Layers,
            Self::Layers => Self::Lines,
            Self::Lines => Self::Looks,
        }
    }
}

/// Looks that were edited blind, each with the name that it has in the show.
type Drafts = Vec<(String, Look)>;

/// The state of the view.
pub(super) struct LooksView {
    pane: Pane,
    looks: List,
    layers: List,
    lines: List,
    /// Looks and layers that are chosen besides the one that is pointed at.
    more_looks: BTreeSet<usize>,
    more_layers: BTreeSet<usize>,
    /// What looks are found by, and whether it is being typed.
    filter: String,
    filtering: bool,
    /// What was typed over the value of a line.
    typed: Option<String>,
    /// The look as it is tried, until it is kept.
    work: Option<Look>,
    worked: Instant,
    blind: bool,
    drafts: Drafts,
    drafts_before: Vec<Drafts>,
    drafts_after: Vec<Drafts>,
    sheet: Option<Box<dyn Sheet>>,
    copied: Option<Layer>,
    compared: Option<Instant>,
    values: bool,
    light: usize,
    gallery: Gallery,
    stage: LookStage,
    said: Option<String>,
    /// What was seen last, for keys.
    show: Arc<Show>,
    saved: Arc<Show>,
    rig: Arc<Rig>,
    snapshot: Snapshot,
}

impl LooksView {
    pub(super) fn new(show: &Arc<Show>) -> Self {
        Self {
            pane: Pane::default(),
            looks: List::of_height(2),
            layers: List::default(),
            lines: List::default(),
            more_looks: BTreeSet::new(),
            more_layers: BTreeSet::new(),
            filter: String::new(),
            filtering: false,
            typed: None,
            work: None,
            worked: Instant::now(),
            blind: false,
            drafts: Vec::new(),
            drafts_before: Vec::new(),
            drafts_after: Vec::new(),
            sheet: None,
            copied: None,
            compared: None,
            values: false,
            light: 0,
            gallery: Gallery::default(),
            stage: LookStage::default(),
            said: None,
            show: show.clone(),
            saved: show.clone(),
            rig: Arc::default(),
            snapshot: Snapshot::default(),
        }
    }

    /// What there is to say since it was last asked.
    pub(super) fn said(&mut self) -> Option<String> {
        self.said.take()
    }

    pub(super) fn has_open(&self) -> bool {
        self.sheet.is_some() || self.filtering || self.typed.is_some() || !self.filter.is_empty()
    }

    /// Whether letters are typed into something.
    pub(super) fn types(&self) -> bool {
        self.filtering || self.sheet.as_ref().is_some_and(|sheet| sheet.types())
    }

    pub(super) fn hints(&self) -> Option<Vec<(&'static str, &'static str)>> {
        if let Some(sheet) = &self.sheet {
            return Some(sheet.hints());
        }
        if self.filtering {
            return Some(vec![("type", "a part of a name or a tag"), ("Enter", "done"), ("Esc", "all looks")]);
        }
        let typed = self.typed.as_ref()?;
        let turn = if typed.is_empty() { "" } else { "turns the sign" };
        Some(vec![("type", "the value"), ("-", turn), ("Enter", "keep"), ("Esc", "restore")])
    }

    pub(super) fn refused(&mut self, why: &str) {
        if let Some(sheet) = &mut self.sheet {
            sheet.refused(why);
        }
        self.work = None;
    }

    /// The looks that are listed, by index: all, or those that are found.
    fn listed(&self) -> Vec<usize> {
        let wanted = self.filter.to_lowercase();
        let found = |look: &Look| {
            look.name.to_lowercase().contains(&wanted)
                || look.tags.iter().any(|tag| tag.to_lowercase().contains(&wanted))
        };
        let looks = self.show.looks.iter().enumerate();
        looks.filter(|(_, look)| wanted.is_empty() || found(look)).map(|(index, _)| index).collect()
    }

    /// The place of the chosen look in the show.
    fn index(&self) -> Option<usize> {
        self.listed().get(self.looks.chosen).copied()
    }

    /// The look of the show, or what was made of it blind, without what is only tried.
    fn base(&self, index: usize) -> Option<&Look> {
        let look = self.show.looks.get(index)?;
        let draft = self.drafts.iter().find(|(name, _)| *name == look.name);
        Some(draft.map_or(look, |(_, draft)| draft))
    }

    /// The chosen look as it is edited.
    fn look(&self) -> Option<&Look> {
        self.work.as_ref().or_else(|| self.base(self.index()?))
    }

    /// The chosen layer's place in its look. The list has the topmost first.
    fn layer_index(&self) -> Option<usize> {
        let count = self.look()?.layers.len();
        count.checked_sub(1 + self.layers.chosen.min(count.checked_sub(1)?))
    }

    fn layer(&self) -> Option<&Layer> {
        self.look()?.layers.get(self.layer_index()?)
    }

    fn row(&self) -> Option<Row> {
        rows::rows_of(self.layer()?).get(self.lines.chosen).copied()
    }

    /// The layers that are chosen, by their places in the look.
    fn chosen_layers(&self) -> Vec<usize> {
        let mut chosen: BTreeSet<usize> = self.more_layers.clone();
        chosen.extend(self.layer_index());
        let count = self.look().map_or(0, |look| look.layers.len());
        chosen.into_iter().filter(|index| *index < count).collect()
    }

    /// The looks that are chosen, by their places in the show.
    fn chosen_looks(&self) -> Vec<usize> {
        let mut chosen: BTreeSet<usize> = self.more_looks.clone();
        chosen.extend(self.index());
        chosen.into_iter().filter(|index| *index < self.show.looks.len()).collect()
    }

    /// Does something with what sheets work on.
    fn on_bench<T>(&self, work: impl FnOnce(&Bench<'_>) -> T) -> Option<T> {
        let empty = Look::new("", Vec::new());
        let look = self.index().and_then(|index| self.base(index)).unwrap_or(&empty);
        let layers = self.chosen_layers();
        let layer = self.layer_index().unwrap_or(0);
        Some(work(&Bench { show: &self.show, rig: &self.rig, look, layer, layers: &layers }))
    }

    /// Takes note of the show as it is now, for the keys that follow.
    pub(super) fn see(&mut self, kept: &Arc<Show>) {
        if !Arc::ptr_eq(&self.show, kept) {
            let [before, after] =
                [&self.show, kept].map(|show| show.looks.iter().map(|look| look.name.as_str()).collect::<Vec<_>>());
            let places = followed(&before, &after);
            self.more_looks = self.more_looks.iter().filter_map(|index| *places.get(*index)?).collect();
            let layers = |show: &Show, name: &str| {
                show.looks.iter().find(|look| look.name == name).map(|look| look.layers.len())
            };
            let name = self.index().map(|index| self.show.looks[index].name.clone());
            if name.is_some_and(|name| layers(&self.show, &name) != layers(kept, &name)) {
                // Layers have no names: which is which cannot be told any more.
                self.more_layers.clear();
            }
            self.show = kept.clone();
            let names: BTreeSet<&str> = kept.looks.iter().map(|look| look.name.as_str()).collect();
            self.drafts.retain(|(name, _)| names.contains(name.as_str()));
        }
    }

    /// Whether something was edited blind that is neither kept nor dropped yet.
    pub(super) fn holds_back(&self) -> bool {
        !self.drafts.is_empty()
    }

    /// Takes note of the show as it was saved last.
    pub(super) fn see_saved(&mut self, saved: &Arc<Show>) {
        self.saved = saved.clone();
    }

    /// Closes what is open and keeps what was only nudged.
    pub(super) fn leave(&mut self) -> Vec<Action> {
        if self.sheet.take().is_some() {
            return self.drop_work();
        }
        if self.typed.take().is_some() {
            return Vec::new();
        }
        if !self.filter.is_empty() {
            self.filter.clear();
        }
        self.filtering = false;
        self.keep_work()
    }

    /// What a key leads to, where it is this view's own.
    pub(super) fn key(&mut self, key: KeyEvent) -> Option<Vec<Action>> {
        let held = key.modifiers & (KeyModifiers::CONTROL | KeyModifiers::ALT);
        if held == KeyModifiers::CONTROL && key.code == KeyCode::Char('c') {
            return None;
        }
        if let Some(mut sheet) = self.sheet.take() {
            let answer = self.on_bench(|bench| sheet.key(key, bench)).flatten();
            self.sheet = Some(sheet);
            return answer.map(|answer| self.take_answer(answer));
        }
        if self.filtering {
            return self.type_filter(key);
        }
        if held == KeyModifiers::CONTROL && self.blind && matches!(key.code, KeyCode::Char('z' | 'y')) {
            return self.step_blind(key.code == KeyCode::Char('z'));
        }
        if self.pane == Pane::Lines
            && held.is_empty()
            && let Some(actions) = self.type_value(key)
        {
            return Some(actions);
        }
        if self.work.is_some() && held.is_empty() {
            // What is being turned is kept or restored, and nothing else happens.
            match key.code {
                KeyCode::Esc => {
                    self.said = Some("as it was".to_owned());
                    return Some(self.drop_work());
                }
                KeyCode::Enter => return Some(self.keep_work()),
                _ => {}
            }
        }
        let nudges = matches!(key.code, KeyCode::Left | KeyCode::Right) && held.is_empty();
        if self.work.is_some() && !nudges {
            // What was nudged counts from now on, before anything else happens.
            let mut actions = self.keep_work();
            actions.extend(keys::action(View::Looks, 0, key));
            return Some(actions);
        }
        None
    }

    fn type_filter(&mut self, key: KeyEvent) -> Option<Vec<Action>> {
        match key.code {
            KeyCode::Enter | KeyCode::Down => self.filtering = false,
            KeyCode::Esc => {
                self.filtering = false;
                self.filter.clear();
            }
            KeyCode::Backspace => drop(self.filter.pop()),
            KeyCode::Char(letter) if letter != '`' && !key.modifiers.contains(KeyModifiers::CONTROL) => {
                self.filter.push(letter);
            }
            _ => return None,
        }
        self.looks.chosen = 0;
        Some(Vec::new())
    }

    /// Digits replace the value of a line at once.
    fn type_value(&mut self, key: KeyEvent) -> Option<Vec<Action>> {
        let row = self.row()?;
        let begins = matches!(key.code, KeyCode::Char('0'..='9')) && row.takes_digits(self.layer()?);
        let Some(typed) = &mut self.typed else {
            let KeyCode::Char(digit) = key.code else { return None };
            if !begins {
                return None;
            }
            self.typed = Some(digit.to_string());
            return Some(Vec::new());
        };
        match key.code {
            KeyCode::Esc => self.typed = None,
            KeyCode::Backspace => drop(typed.pop()),
            KeyCode::Char('-') => match typed.strip_prefix('-') {
                Some(positive) => *typed = positive.to_owned(),
                None => typed.insert(0, '-'),
            },
            KeyCode::Char(letter) if letter != '`' => typed.push(letter),
            KeyCode::Enter | KeyCode::Up | KeyCode::Down | KeyCode::Tab => {
                let text = self.typed.take()?;
                let mut actions = self.take_typed(row, &text);
                if key.code != KeyCode::Enter {
                    actions.extend(keys::action(View::Looks, 0, key));
                }
                return Some(actions);
            }
            _ => return None,
        }
        Some(Vec::new())
    }

    fn take_typed(&mut self, row: Row, text: &str) -> Vec<Action> {
        let (Some(look), Some(index)) = (self.look().cloned(), self.layer_index()) else { return Vec::new() };
        let mut look = look;
        match row.take(&mut look.layers[index], text) {
            Ok(()) => {
                self.work = Some(look);
                self.keep_work()
            }
            Err(why) => {
                self.said = Some(why);
                Vec::new()
            }
        }
    }

    pub(super) fn paste(&mut self, text: &str) -> Vec<Action> {
        let Some(mut sheet) = self.sheet.take() else {
            if self.filtering {
                self.filter.extend(text.chars().filter(|c| !c.is_control()).take(40));
            }
            return Vec::new();
        };
        let deed = self.on_bench(|bench| sheet.paste(text, bench));
        self.sheet = Some(sheet);
        deed.map_or_else(Vec::new, |deed| self.carry_out(deed))
    }

    /// What the mouse leads to.
    pub(super) fn mouse(&mut self, mouse: MouseEvent) -> Vec<Action> {
        let at = Position::new(mouse.column, mouse.row);
        if let Some(mut sheet) = self.sheet.take() {
            let stage = self.stage.area();
            let deed = self.on_bench(|bench| sheet.mouse(mouse, stage, bench));
            self.sheet = Some(sheet);
            return deed.map_or_else(Vec::new, |deed| self.carry_out(deed));
        }
        match mouse.kind {
            MouseEventKind::Down(MouseButton::Left) => {
                let kept = self.keep_work();
                let before = self.looks.chosen;
                if self.looks.click(at) {
                    self.pane = Pane::Looks;
                    self.more_looks.clear();
                    if before != self.looks.chosen {
                        self.another_look();
                    }
                } else if self.layers.click(at) {
                    self.pane = Pane::Layers;
                    self.more_layers.clear();
                    self.lines.chosen = 0;
                } else if self.lines.click(at) {
                    self.pane = Pane::Lines;
                } else if let Some(light) = self.stage.light_at(at, &self.rig) {
                    (self.light, self.values) = (light, true);
                }
                kept
            }
            MouseEventKind::ScrollUp | MouseEventKind::ScrollDown => {
                let up = mouse.kind == MouseEventKind::ScrollUp;
                // The wheel turns the value that it is over, and moves in the lists.
                if self.lines.click(at) {
                    self.pane = Pane::Lines;
                    return self.nudge(if up { 1 } else { -1 });
                }
                self.choose_by(if up { -1 } else { 1 })
            }
            _ => Vec::new(),
        }
    }

    fn another_look(&mut self) {
        self.layers.chosen = 0;
        self.lines.chosen = 0;
        self.more_layers.clear();
    }

    pub(super) fn draw(&mut self, seen: &Seen<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) -> Vec<Action> {
        self.see(&seen.desk.kept);
        self.rig = seen.rig.clone();
        self.snapshot.clone_from(seen.snapshot);
        let (list, middle, stage) = parts(area);
        let wide = self.sheet.as_ref().is_some_and(|sheet| sheet.wide());
        if wide {
            let both = Rect { width: middle.right() - list.x, ..list };
            self.draw_sheet(theme, both, buffer);
        } else {
            self.draw_looks(seen, theme, list, buffer);
            let count = self.look().map_or(0, |look| look.layers.len()) as u16;
            let height = (count + 2).clamp(3, (area.height / 3).max(4)).min(middle.height);
            self.draw_layers(theme, Rect { height, ..middle }, buffer);
            let below = Rect { y: middle.y + height, height: middle.height - height, ..middle };
            if self.sheet.is_some() {
                self.draw_sheet(theme, below, buffer);
            } else {
                self.draw_lines(theme, below, buffer);
            }
        }
        self.draw_stage(seen, theme, stage, buffer);
        if self.work.is_some() && self.sheet.is_none() && Instant::now().seconds_since(self.worked) > SETTLES {
            return self.keep_work();
        }
        Vec::new()
    }

    fn draw_sheet(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let Some(mut sheet) = self.sheet.take() else { return };
        let title = Rect { x: area.x + 1, width: area.width.saturating_sub(2), height: 1, ..area };
        let lines = crate::kit::words::folded(&sheet.title(), usize::from(title.width.max(10)));
        for (line, words) in lines.iter().enumerate().take(4) {
            Pen::new(Rect { y: title.y + line as u16, ..title }, buffer).put(words, theme.dim());
        }
        let above = lines.len().min(4) as u16 + 1;
        let inside = Rect { y: area.y + above, height: area.height.saturating_sub(above), ..title };
        self.on_bench(|bench| sheet.draw(bench, &self.snapshot, theme, inside, buffer));
        self.sheet = Some(sheet);
    }
}

/// The list of looks, what is edited, and the stage.
fn parts(area: Rect) -> (Rect, Rect, Rect) {
    let (list, middle) = match area.width {
        140.. => (27, 59),
        100.. => (27, 48),
        _ => (17, 36),
    };
    let stage = area.width.saturating_sub(list + middle);
    (
        Rect { width: list, ..area },
        Rect { x: area.x + list, width: middle, ..area },
        Rect { x: area.x + list + middle, width: stage.saturating_sub(1), ..area },
    )
}
