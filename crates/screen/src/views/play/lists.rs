//! The lists of the view: the banks, the tiers, and the masters.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_document::making::controls_in_use;
use splimo_document::making::free_control;
use splimo_engine::Snapshot;
use splimo_show::Show;
use splimo_show::command::{ControlLevel, EngineCommand, NamedLevel};

use super::action::Ask;
use super::forms::OpenForm;
use crate::kit::bars::bar;
use crate::kit::float::float;
use crate::kit::list::List;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::shortened;
use crate::model::ViewContext;
use crate::view::Hints;

/// The kind of a list.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Kind {
    /// The banks of pads.
    Banks,
    /// The tiers, the topmost first.
    Tiers,
    /// The masters: all light, the speed, each group of lights, and the controls that are in use.
    Masters,
}

/// A list that is open.
pub(super) struct OpenList {
    kind: Kind,
    list: List,
}

/// The reply of a list to a key.
pub(super) enum ListReply {
    /// It stays open; this is asked for.
    Asks(Vec<Ask>),
    /// A form is opened over it.
    Form(OpenForm),
    /// It closes.
    Close,
    /// The key means nothing here.
    Pass,
}

/// The speeds that one goes through.
const SPEEDS: [f32; 7] = [0.0, 0.25, 0.5, 1.0, 2.0, 4.0, 8.0];

impl OpenList {
    pub(super) fn new(kind: Kind, chosen: usize) -> Self {
        let mut list = List::default();
        list.chosen = chosen;
        Self { kind, list }
    }

    fn count(&self, show: &Show) -> usize {
        match self.kind {
            Kind::Banks => show.banks.len(),
            Kind::Tiers => show.stack().len(),
            Kind::Masters => 2 + show.groups.len() + controls_in_use(show).len(),
        }
    }

    /// The chosen entry's place in the show: of tiers the topmost is listed first.
    fn place(&self, show: &Show) -> usize {
        match self.kind {
            Kind::Tiers => show.stack().len().saturating_sub(1 + self.list.chosen),
            Kind::Banks | Kind::Masters => self.list.chosen,
        }
    }

    pub(super) fn hints(&self) -> Hints {
        match self.kind {
            Kind::Banks => vec![
                ("↑ ↓", "bank"),
                ("n", "new"),
                ("Enter", "change"),
                ("d", "take out"),
                ("Shift-↑ ↓", "move"),
                ("Esc", "closes"),
            ],
            Kind::Tiers => vec![
                ("↑ ↓", "tier"),
                ("n", "new above it"),
                ("Enter", "change"),
                ("d", "take out"),
                ("Shift-↑ ↓", "move"),
                ("Esc", "closes"),
            ],
            Kind::Masters => {
                vec![
                    ("↑ ↓", "master"),
                    ("← →", "level"),
                    ("Home", "full"),
                    ("End", "none"),
                    ("n", "name a control"),
                    ("Ctrl-K", "learn"),
                    ("Esc", "closes"),
                ]
            }
        }
    }

    pub(super) fn key(&mut self, key: KeyEvent, show: &Show, snapshot: &Snapshot) -> ListReply {
        let shift = key.modifiers.contains(KeyModifiers::SHIFT);
        if key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT) {
            return ListReply::Pass;
        }
        match key.code {
            KeyCode::Esc => return ListReply::Close,
            KeyCode::Up if shift => return self.shift(-1, show),
            KeyCode::Down if shift => return self.shift(1, show),
            KeyCode::Up => self.list.choose_by(-1),
            KeyCode::Down => self.list.choose_by(1),
            KeyCode::Left | KeyCode::Right | KeyCode::Home | KeyCode::End if self.kind == Kind::Masters => {
                return ListReply::Asks(self.turn(key.code, shift, show, snapshot).into_iter().collect());
            }
            KeyCode::Enter if self.kind == Kind::Masters => return ListReply::Close,
            KeyCode::Enter => return self.form(false, show),
            KeyCode::Char('n') => return self.form(true, show),
            KeyCode::Char('d') if self.kind != Kind::Masters => return self.take_out(show),
            KeyCode::Char('`') => return ListReply::Pass,
            KeyCode::Char(_) => {}
            _ => return ListReply::Pass,
        }
        ListReply::Asks(Vec::new())
    }

    fn form(&self, new: bool, show: &Show) -> ListReply {
        let place = self.place(show);
        let there = place < self.count(show);
        let at = if new && there { place + 1 } else { place };
        match self.kind {
            Kind::Banks if new || there => ListReply::Form(OpenForm::bank(at, new, show)),
            Kind::Tiers if new || there => ListReply::Form(OpenForm::tier(at, new, show)),
            Kind::Masters => {
                let number = self.control(show).or_else(|| free_control(show)).unwrap_or(1);
                ListReply::Form(OpenForm::control(number, show))
            }
            Kind::Banks | Kind::Tiers => ListReply::Asks(Vec::new()),
        }
    }

    fn take_out(&self, show: &Show) -> ListReply {
        let place = self.place(show);
        let edit = match self.kind {
            Kind::Banks if place < show.banks.len() => Edit::RemoveBank(place),
            Kind::Tiers => Edit::RemoveTier(place),
            Kind::Banks | Kind::Masters => return ListReply::Asks(Vec::new()),
        };
        ListReply::Asks(vec![Ask::edit(edit)])
    }

    /// Moves the chosen entry up or down in the list.
    fn shift(&mut self, by: i32, show: &Show) -> ListReply {
        let from = self.place(show);
        // A tier that goes up in the list goes up in the stack.
        let down = if self.kind == Kind::Tiers { -by } else { by };
        let to = from as i64 + i64::from(down);
        if self.kind == Kind::Masters || to < 0 || to as usize >= self.count(show) {
            return ListReply::Asks(Vec::new());
        }
        self.list.choose_by(by);
        let to = to as usize;
        let edit = if self.kind == Kind::Tiers { Edit::MoveTier(from, to) } else { Edit::MoveBank(from, to) };
        ListReply::Asks(vec![Ask::edit(edit)])
    }

    /// The value that the chosen entry moves, if it is a master.
    pub(super) fn moves(&self, show: &Show) -> Option<String> {
        match (self.kind, self.list.chosen) {
            (Kind::Banks | Kind::Tiers, _) => None,
            (Kind::Masters, 0) => Some("master".to_owned()),
            (Kind::Masters, 1) => Some("speed".to_owned()),
            (Kind::Masters, place) => match (show.groups.get(place - 2), self.control(show)) {
                (Some(group), _) => Some(format!("group-level {}", group.name)),
                (None, control) => control.map(|number| format!("control {number}")),
            },
        }
    }

    /// The control that is chosen, if one is.
    fn control(&self, show: &Show) -> Option<u8> {
        let place = self.list.chosen.checked_sub(2 + show.groups.len())?;
        controls_in_use(show).get(place).copied().filter(|_| self.kind == Kind::Masters)
    }

    /// Turns the chosen master.
    fn turn(&self, code: KeyCode, coarse: bool, show: &Show, snapshot: &Snapshot) -> Option<Ask> {
        let step = if coarse { 20.0 } else { 5.0 };
        let moved = |level: f32| match code {
            KeyCode::Left => (level * 100.0 - step).max(0.0),
            KeyCode::Right => (level * 100.0 + step).min(100.0),
            KeyCode::End => 0.0,
            _ => 100.0,
        };
        Some(Ask::engine(match self.list.chosen {
            0 => EngineCommand::Master(moved(snapshot.master)),
            1 => EngineCommand::Speed(speed_after(snapshot.speed, code)),
            place if place >= 2 + show.groups.len() => {
                let control = self.control(show)?;
                let level = snapshot.controls.get(usize::from(control) - 1).copied().unwrap_or(0.0);
                EngineCommand::Control(ControlLevel { control, percent: moved(level) })
            }
            place => {
                let level = snapshot.groups.get(place - 2).copied().unwrap_or(1.0);
                let name = show.groups.get(place - 2)?.name.clone();
                EngineCommand::GroupLevel(NamedLevel { name, percent: moved(level) })
            }
        }))
    }

    pub(super) fn draw(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let show = &context.edited.show;
        let count = self.count(show);
        let title = match self.kind {
            Kind::Banks => "banks of pads",
            Kind::Tiers => "tiers, the topmost first",
            Kind::Masters => "masters and controls",
        };
        let inside = float(title, 64, (count.max(1) + 3) as u16, theme, area, buffer);
        let rows = Rect { height: inside.height.saturating_sub(1), ..inside };
        if count == 0 {
            Pen::new(rows, buffer).put("none yet: n makes one", theme.text());
        }
        for index in self.list.lay_out(count, rows) {
            let chosen = index == self.list.chosen;
            let mut pen = Pen::new(self.list.row(index), buffer);
            pen.put(if chosen { "▸ " } else { "  " }, theme.bright());
            let style = if chosen { theme.bright() } else { theme.text() };
            self.draw_row(index, context, style, theme, &mut pen);
        }
    }

    fn draw_row(
        &self,
        index: usize,
        context: &ViewContext<'_>,
        style: ratatui::style::Style,
        theme: Theme,
        pen: &mut Pen<'_>,
    ) {
        let (show, snapshot) = (&context.edited.show, context.snapshot);
        let mut level = |name: &str, level: f32| {
            pen.put(&format!("{name:<24}"), style);
            pen.put("▕", theme.faint());
            pen.put(&bar(level, 20), style);
            pen.put("▏", theme.faint());
            pen.put(&format!("{:4.0}", level * 100.0), style);
        };
        match self.kind {
            Kind::Banks => {
                let Some(bank) = show.banks.get(index) else { return };
                let manner = bank.manner_of(None, show);
                let tier = show.stack().get(manner.tier).map_or("", |tier| tier.name.as_str());
                pen.put(&format!("{:<20}", bank.name), style);
                let lands = manner.lands.name();
                let words = format!("{:>2} pads   {} on {tier}, lands on {lands}", bank.pads.len(), manner.mode.name());
                pen.put(&words, theme.dim());
            }
            Kind::Tiers => {
                let Some(tier) = show.stack().iter().rev().nth(index) else { return };
                pen.put(&format!("{:<20}", tier.name), style);
                let lights = if tier.lights.is_empty() { "every light".to_owned() } else { tier.lights.join(", ") };
                pen.put(&format!("{:<11} {lights}", tier.blend.name()), theme.dim());
            }
            Kind::Masters => match index {
                0 => level("all light", snapshot.master),
                1 => {
                    pen.put(&format!("{:<24}", "speed of effects"), style);
                    let words = match snapshot.speed {
                        0.0 => "held".to_owned(),
                        1.0 => "their own".to_owned(),
                        times => format!("{times} times"),
                    };
                    pen.put(&words, style);
                }
                place if place >= 2 + show.groups.len() => {
                    let controls = controls_in_use(show);
                    let Some(number) = controls.get(place - 2 - show.groups.len()) else { return };
                    let now = snapshot.controls.get(usize::from(*number) - 1).copied().unwrap_or(0.0);
                    level(&shortened(&show.control_words(u32::from(*number)), 23), now);
                }
                place => {
                    let Some(group) = show.groups.get(place - 2) else { return };
                    level(&group.name, snapshot.groups.get(place - 2).copied().unwrap_or(1.0));
                }
            },
        }
    }
}

/// The speed after a key.
fn speed_after(speed: f32, code: KeyCode) -> f32 {
    match code {
        KeyCode::Left => SPEEDS.into_iter().rev().find(|one| *one < speed).unwrap_or(0.0),
        KeyCode::Right => SPEEDS.into_iter().find(|one| *one > speed).unwrap_or(8.0),
        KeyCode::End => 0.0,
        _ => 1.0,
    }
}
