//! The view Cues: the lists, the cues of the chosen one, what runs in large letters, and the stage.

mod action;
mod banner;
mod blind;
mod drawing;
mod editing;
mod forms;
mod importing;
mod schedule;
mod table;
#[cfg(test)]
mod tests;
mod timeline;
mod words;

use std::collections::BTreeSet;
use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};
use splimo_core::command::{CuePlace, CueTarget, EngineCommand, SessionCommand};
use splimo_core::edit::Edit;
use splimo_core::engine::{Snapshot, TimelineState};
use splimo_core::making;
use splimo_core::show::{CueList, Schedule, Show};
use splimo_link::document::NextEvent;
use splimo_link::subscription::Subscription;

use action::{Ask, CuesAction, KEYS};
use blind::Blind;
use forms::{OpenForm, Reply};
use importing::Importing;
use schedule::ScheduleForm;
use timeline::TimelinePart;

use crate::kit::list::List;
use crate::kit::stage_map::{StageMap, enough_of};
use crate::kit::theme::Theme;
use crate::model::{Model, ViewContext};
use crate::view::{Handled, Hints, KeyBinding, Learn, Memory, Modality, Targets, View, ViewSpec};

/// The part of the view that has the keys.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
enum Part {
    /// The lists.
    Lists,
    /// The cues of the chosen list.
    #[default]
    Cues,
    /// The events of the schedule.
    Schedule,
    /// The timelines.
    Timeline,
}

/// The state of the view.
#[derive(Default)]
pub(crate) struct CuesView {
    part: Part,
    lists: List,
    cues: List,
    /// The cues of the chosen list that are marked, by their places.
    marked: BTreeSet<usize>,
    events: List,
    /// The events that come next.
    next: Vec<NextEvent>,
    form: Option<OpenForm>,
    time_form: Option<ScheduleForm>,
    importing: Option<Importing>,
    timeline: TimelinePart,
    stage: StageMap,
    /// The number of lights that are drawn.
    lights: usize,
    /// The cue that is to be tried blind, until it is drawn, and the one that is tried.
    tries: Option<CuePlace>,
    blind: Option<Blind>,
    /// The cue at which the chosen list was when this was last looked at.
    was_at: Option<usize>,
    show: Option<Arc<Show>>,
    snapshot: Snapshot,
    said: Option<String>,
    /// The list that is to be taken out, once it is asked for again.
    doomed: Option<usize>,
}

impl View for CuesView {
    type Action = CuesAction;

    const SPEC: ViewSpec = ViewSpec {
        name: "cues",
        function_key: 5,
        digit: '4',
        help: &[
            "Cue lists: looks in an order that was rehearsed. On every view Ctrl-N goes on in the list that is chosen here, Ctrl-U",
            "back, Ctrl-X holds it and its fades; here n, u and x do the same. g goes to the chosen cue at once, G in the time that",
            "the setting cue-back-fade names; s passes over the next one, b begins again, z releases the list: who had its tiers",
            "below has them again. A list takes a tier where it says something of it, the latest hand takes it back; a list of",
            "priority keeps it.",
            "a adds a cue, e changes it, d copies, Del takes out, Shift-↑ ↓ moves, v marks several for all of these, N numbers anew.",
            "r records what is on stage as a new cue, c only the tiers that changed, o overwrites the cue that is on with the stage.",
            "k gives a cue looks of its own, t tries it blind. w makes a list of looks: so many seconds each, faded by so many.",
            "f writes the list into a CSV sheet, i reads one: what would change and which lines fail is told first.",
            "Tab goes on to the schedule: a adds an event that comes at a time of the day or by the sun, p says where the place is,",
            "what begins with the session, and whether a power cut is gone on after; x switches it on.",
            "Then come the timelines: clips on tiers over seconds or bars. n plays, x holds, z stops; ← → choose a clip, Shift-← → moves it,",
            "< > stretch it, s splits, d copies, a adds one, e changes it, T adds a timeline, l changes it; so does the mouse.",
            "In a cue a tier takes a look and a level (Undertow 60), out, or nothing: then it stays as it is. Times are written 3 s,",
            "2 beats, 1 bar. It goes on by hand, after a time, on a boundary (on bar) or on an event (on music part drop).",
        ],
        other_keys: &[],
        shift_arrows: true,
    };

    const KEYS: &'static [KeyBinding<CuesAction>] = KEYS;

    fn sync(&mut self, model: &Model) {
        self.show = Some(model.document.shown().clone());
        self.snapshot.clone_from(&model.snapshot);
        self.next.clone_from(&model.state.next);
        // The list that runs is followed, as long as nothing else is looked at in it.
        let at = self.snapshot.lists.get(self.lists.chosen).and_then(|list| list.at);
        if at != self.was_at {
            let followed = self.was_at.is_none() || self.was_at == Some(self.cues.chosen);
            if let Some(at) = at.filter(|_| followed) {
                self.cues.chosen = at;
            }
            self.was_at = at;
        }
    }

    fn key(&mut self, key: KeyEvent) -> Handled<CuesAction> {
        if let Some(handled) = self.key_of_form(key) {
            return handled;
        }
        if key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT) {
            return Handled::Not;
        }
        self.key_of_list(key)
    }

    fn mouse(&mut self, mouse: MouseEvent) -> Option<Vec<Ask>> {
        if self.part == Part::Timeline && !self.is_typed_into() {
            let show = self.show.clone()?;
            return Some(self.timeline.mouse(mouse, &show));
        }
        let by = match mouse.kind {
            MouseEventKind::ScrollUp => -1,
            MouseEventKind::ScrollDown => 1,
            MouseEventKind::Down(MouseButton::Left) => 0,
            _ => return None,
        };
        if self.is_typed_into() {
            return Some(Vec::new());
        }
        if by != 0 {
            self.choose_by(by);
            return Some(Vec::new());
        }
        let at = Position::new(mouse.column, mouse.row);
        let before = self.lists.chosen;
        if self.lists.click(at) {
            self.part = Part::Lists;
            if self.lists.chosen != before {
                self.of_another_list();
            }
        } else if self.part == Part::Schedule {
            self.events.click(at);
        } else if self.cues.click(at) {
            self.part = Part::Cues;
        }
        Some(Vec::new())
    }

    fn wheel(&self, _by: i32) -> Ask {
        Ask::Say(String::new())
    }

    fn paste(&mut self, text: &str) -> Vec<Ask> {
        if let Some(open) = &mut self.form {
            open.paste(text);
        }
        if let Some(open) = &mut self.time_form {
            open.form.paste(text);
        }
        if let Some(open) = &mut self.importing {
            open.paste(text);
        }
        self.timeline.paste(text);
        Vec::new()
    }

    fn act(&mut self, action: &CuesAction) -> Vec<Ask> {
        let Some(show) = self.show.clone() else { return Vec::new() };
        let of_cues = matches!(action, CuesAction::Renumber | CuesAction::OwnLooks | CuesAction::TryBlind);
        if of_cues && matches!(self.part, Part::Schedule | Part::Timeline) {
            self.said = Some("that is for cues: Tab goes there".to_owned());
            return Vec::new();
        }
        match action {
            CuesAction::NextList => {
                self.part = match self.part {
                    Part::Cues => Part::Lists,
                    Part::Lists => Part::Schedule,
                    Part::Schedule => Part::Timeline,
                    Part::Timeline => Part::Cues,
                };
                Vec::new()
            }
            CuesAction::Add => self.add(&show),
            CuesAction::Change => self.change(&show),
            CuesAction::ListOfLooks => {
                self.form = Some(OpenForm::looks(&show));
                Vec::new()
            }
            CuesAction::Renumber => self.edit(editing::changed(&show, self.lists.chosen, editing::renumber)),
            CuesAction::OwnLooks => self.own_looks(&show),
            CuesAction::TryBlind => self.try_blind(&show),
        }
    }

    fn draw(
        &mut self,
        context: &ViewContext<'_>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
        _targets: &mut Targets<CuesAction>,
    ) {
        self.lights = context.rig.len();
        if let Some(cue) = self.tries.take() {
            self.blind = Some(Blind::new(cue, context));
        }
        if let Some(cue) = self.blind.as_ref().filter(|blind| blind.is_old(context)).map(|blind| blind.cue.clone()) {
            self.blind = Some(Blind::new(cue, context));
        }
        self.draw_all(context, theme, area, buffer);
        if let Some(open) = &mut self.form {
            open.draw(theme, area, buffer);
        }
        if let Some(open) = &mut self.time_form {
            open.draw(theme, area, buffer);
        }
        self.timeline.draw_form(theme, area, buffer);
        if let Some(open) = &mut self.importing {
            open.draw(&context.edited.show, theme, area, buffer);
        }
    }

    fn hints(&self) -> Option<Hints> {
        if self.is_typed_into() {
            return Some(vec![
                ("↑ ↓", "field"),
                ("← →", "change"),
                ("type", "replaces"),
                ("Enter", "keeps"),
                ("Esc", "not"),
            ]);
        }
        let own: &[(&'static str, &'static str)] = match self.part {
            Part::Schedule | Part::Timeline => &[],
            Part::Lists => &[("a", "add"), ("w", "of looks"), ("e", "change"), ("Del", "take out")],
            Part::Cues => &[
                ("g", "go to"),
                ("r", "record"),
                ("c", "changes"),
                ("o", "overwrite"),
                ("a", "add"),
                ("e", "change"),
                ("t", "try blind"),
                ("v", "mark"),
            ],
        };
        if self.part == Part::Timeline {
            return Some(vec![
                ("n", "play"),
                ("x", "hold"),
                ("z", "stop"),
                ("← →", "clip"),
                ("g", "go there"),
                ("Shift-← →", "move"),
                ("< >", "stretch"),
                ("s", "split"),
                ("a", "add"),
                ("e", "change"),
                ("l", "timeline"),
                ("Tab", "cues"),
                ("F1", "help"),
            ]);
        }
        if self.part == Part::Schedule {
            return Some(vec![
                ("a", "add"),
                ("e", "change"),
                ("Del", "take out"),
                ("x", "on, off"),
                ("p", "place, start"),
                ("Tab", "cues"),
                ("`", "black out"),
                ("F1", "help"),
            ]);
        }
        let mut hints = vec![("n", "go"), ("u", "back"), ("x", "hold"), ("z", "release")];
        hints.extend_from_slice(own);
        hints.extend([("Tab", "lists, schedule"), ("`", "black out"), ("F1", "help")]);
        Some(hints)
    }

    fn modality(&self) -> Modality {
        match (self.is_typed_into(), &self.blind) {
            (true, _) => Modality::Typing,
            (false, Some(_)) => Modality::Open,
            (false, None) => Modality::Free,
        }
    }

    fn leave(&mut self) -> Vec<Ask> {
        (self.form, self.time_form, self.importing) = (None, None, None);
        (self.blind, self.tries) = (None, None);
        self.timeline.close();
        Vec::new()
    }

    fn refused(&mut self, why: &str) {
        if let Some(open) = &mut self.form {
            open.form.error = Some(why.to_owned());
        }
        if let Some(open) = &mut self.time_form {
            open.form.error = Some(why.to_owned());
        }
        if let Some(open) = &mut self.importing {
            open.refuse(why);
        }
        self.timeline.refuse(why);
    }

    fn said(&mut self) -> Option<String> {
        self.said.take()
    }

    fn learn(&mut self) -> Learn {
        match self.list() {
            Some(list) => Learn::Target(format!("go-cue {}", list.name)),
            None => Learn::Nothing("there is no cue list to go on in; a adds one"),
        }
    }

    fn subscribe(&self, subscription: &mut Subscription) {
        subscription.light = Some(enough_of(self.lights));
    }

    fn remember(&self, memory: &mut Memory) {
        if let Some(list) = self.list() {
            memory.insert("cue-list".into(), list.name.clone());
        }
    }

    fn recall(&mut self, memory: &Memory) {
        let place = memory.get("cue-list").and_then(|name| self.show.as_ref()?.cue_list(name));
        self.lists.chosen = place.unwrap_or(self.lists.chosen);
    }
}

impl CuesView {
    /// The list that is chosen.
    pub(crate) fn list(&self) -> Option<&CueList> {
        self.show.as_ref()?.cue_lists.get(self.lists.chosen)
    }

    /// The cues that are marked, or the one that is chosen, in their order.
    fn places(&self) -> Vec<usize> {
        let count = self.list().map_or(0, |list| list.cues.len());
        let marked: Vec<usize> = self.marked.iter().copied().filter(|place| *place < count).collect();
        match marked.is_empty() {
            true => Some(self.cues.chosen).filter(|place| *place < count).into_iter().collect(),
            false => marked,
        }
    }

    /// The cue that is chosen.
    fn cue(&self) -> Option<CuePlace> {
        let list = self.list()?;
        let number = list.cues.get(self.cues.chosen)?.number;
        Some(CuePlace { list: list.name.clone(), number })
    }

    fn of_another_list(&mut self) {
        self.marked.clear();
        self.blind = None;
        self.was_at = self.snapshot.lists.get(self.lists.chosen).and_then(|list| list.at);
        self.cues.chosen = self.was_at.unwrap_or(0);
    }

    fn choose_by(&mut self, by: i32) {
        match self.part {
            Part::Lists => {
                self.lists.choose_by(by);
                self.of_another_list();
            }
            Part::Cues => self.cues.choose_by(by),
            Part::Schedule => self.events.choose_by(by),
            Part::Timeline => {}
        }
    }

    fn key_of_form(&mut self, key: KeyEvent) -> Option<Handled<CuesAction>> {
        let show = self.show.clone()?;
        if let Some(reply) = self.timeline.key_of_form(key, &show) {
            return match reply {
                Reply::Stay => Some(Handled::Done(Vec::new())),
                Reply::Pass => None,
                Reply::Close => {
                    self.timeline.close();
                    Some(Handled::Done(Vec::new()))
                }
                Reply::Keep(edit) => {
                    self.timeline.close();
                    Some(Handled::Done(vec![Ask::edit(*edit)]))
                }
            };
        }
        let reply = match (&mut self.form, &mut self.time_form, &mut self.importing) {
            (Some(open), _, _) => open.key(key, &show),
            (None, Some(open), _) => open.key(key, &show),
            (None, None, Some(open)) => open.key(key, &show),
            (None, None, None) => return None,
        };
        match reply {
            Reply::Stay => Some(Handled::Done(Vec::new())),
            Reply::Close => {
                (self.form, self.time_form, self.importing) = (None, None, None);
                Some(Handled::Done(Vec::new()))
            }
            Reply::Keep(edit) => {
                (self.form, self.time_form, self.importing) = (None, None, None);
                self.follow(&edit);
                Some(Handled::Done(vec![Ask::edit(*edit)]))
            }
            Reply::Pass => None,
        }
    }

    /// Goes to a list that is about to be there.
    fn follow(&mut self, edit: &Edit) {
        if let Edit::AddCueLists(at, _) = edit {
            self.lists.chosen = *at;
            self.of_another_list();
            self.part = Part::Cues;
        }
    }

    fn key_of_list(&mut self, key: KeyEvent) -> Handled<CuesAction> {
        let Some(show) = self.show.clone() else { return Handled::Not };
        if self.part == Part::Timeline {
            let state = self.timeline_state();
            return Handled::done(self.timeline.key(key, &show, state));
        }
        let doomed = self.doomed.take();
        let moves = key.modifiers.contains(KeyModifiers::SHIFT);
        let asks = match key.code {
            KeyCode::Up | KeyCode::Down if moves => self.move_chosen(&show, key.code == KeyCode::Down),
            KeyCode::Up => return self.chooses(-1),
            KeyCode::Down => return self.chooses(1),
            KeyCode::PageUp => return self.chooses(-10),
            KeyCode::PageDown => return self.chooses(10),
            KeyCode::Home => return self.chooses(i32::MIN / 2),
            KeyCode::End => return self.chooses(i32::MAX / 2),
            KeyCode::Char('x') if self.part == Part::Schedule => {
                let schedule = Schedule { on: !show.schedule.on, ..show.schedule.clone() };
                vec![Ask::edit(Edit::PutSchedule(Box::new(schedule)))]
            }
            KeyCode::Char('p') if self.part == Part::Schedule => {
                self.time_form = Some(ScheduleForm::whole(&show));
                Vec::new()
            }
            KeyCode::Char('n') => self.of_list(EngineCommand::GoCue),
            KeyCode::Char('u') => self.of_list(EngineCommand::BackCue),
            KeyCode::Char('x') => self.of_list(EngineCommand::PauseCues),
            KeyCode::Char('s') => self.of_list(EngineCommand::SkipCue),
            KeyCode::Char('b') => self.of_list(EngineCommand::ResetCues),
            KeyCode::Char('z') => self.of_list(EngineCommand::ReleaseCues),
            KeyCode::Char('g') => self.go_to(0.0),
            KeyCode::Char('G') => self.go_to(show.settings.cue_back_fade),
            KeyCode::Char('r') => self.of_session(SessionCommand::RecordCue),
            KeyCode::Char('c') => self.of_session(SessionCommand::RecordChanges),
            KeyCode::Char('o') => self.of_session(SessionCommand::UpdateCue),
            KeyCode::Char('i') if self.part != Part::Schedule => self.read_sheet(&show),
            KeyCode::Char('f') if self.part != Part::Schedule => vec![Ask::Palette("export-cues")],
            KeyCode::Char('d') if self.part == Part::Cues => {
                let places = self.places();
                self.edit(editing::changed(&show, self.lists.chosen, |list| editing::copy(list, &places)))
            }
            KeyCode::Char('v') if self.part == Part::Cues => self.mark(),
            KeyCode::Delete | KeyCode::Backspace => self.take_out(&show, doomed),
            // Left and right mean nothing here, and nothing unseen is moved by them.
            KeyCode::Left | KeyCode::Right => Vec::new(),
            KeyCode::Esc if self.blind.is_some() || !self.marked.is_empty() => {
                self.blind = None;
                self.marked.clear();
                Vec::new()
            }
            _ => return Handled::Not,
        };
        Handled::Done(asks)
    }

    fn chooses(&mut self, by: i32) -> Handled<CuesAction> {
        self.choose_by(by);
        Handled::Done(Vec::new())
    }

    fn no_list(&mut self) -> Vec<Ask> {
        self.said = Some("there is no cue list yet: a adds one, w makes one of looks".to_owned());
        Vec::new()
    }

    fn of_list(&mut self, command: fn(String) -> EngineCommand) -> Vec<Ask> {
        match self.list().map(|list| list.name.clone()) {
            Some(name) => vec![Ask::engine(command(name))],
            None => self.no_list(),
        }
    }

    fn of_session(&mut self, command: fn(String) -> SessionCommand) -> Vec<Ask> {
        match self.list().map(|list| list.name.clone()) {
            Some(name) => vec![Ask::Command(command(name).into())],
            None => self.no_list(),
        }
    }

    fn go_to(&mut self, seconds: f32) -> Vec<Ask> {
        match self.cue() {
            Some(cue) => vec![Ask::engine(EngineCommand::GoToCue(CueTarget { cue, seconds }))],
            None => {
                self.said = Some("there is no cue to go to; a adds one, r records the stage".to_owned());
                Vec::new()
            }
        }
    }

    fn mark(&mut self) -> Vec<Ask> {
        let place = self.cues.chosen;
        if !self.marked.remove(&place) && self.cue().is_some() {
            self.marked.insert(place);
        }
        self.cues.choose_by(1);
        Vec::new()
    }

    /// Asks for an edit, or says why there is none.
    fn edit(&mut self, edit: Result<Edit, String>) -> Vec<Ask> {
        match edit {
            Ok(edit) => {
                self.marked.clear();
                vec![Ask::edit(edit)]
            }
            Err(why) => {
                self.said = Some(why);
                Vec::new()
            }
        }
    }

    fn timeline_state(&self) -> TimelineState {
        self.snapshot.timelines.get(self.timeline.place()).copied().unwrap_or_default()
    }

    fn add(&mut self, show: &Show) -> Vec<Ask> {
        if self.part == Part::Timeline {
            let state = self.timeline_state();
            self.said = self.timeline.open(show, true, state).map(str::to_owned);
            return Vec::new();
        }
        if self.part == Part::Schedule {
            self.time_form = Some(ScheduleForm::event(show, None));
            return Vec::new();
        }
        if self.part == Part::Lists || show.cue_lists.is_empty() {
            self.form = Some(OpenForm::list(show, None));
            return Vec::new();
        }
        match OpenForm::new_cue(show, self.lists.chosen, self.cue().map(|_| self.cues.chosen)) {
            Ok(form) => self.form = Some(form),
            Err(why) => self.said = Some(why),
        }
        Vec::new()
    }

    fn change(&mut self, show: &Show) -> Vec<Ask> {
        if self.part == Part::Timeline {
            let state = self.timeline_state();
            self.said = self.timeline.open(show, false, state).map(str::to_owned);
            return Vec::new();
        }
        if self.part == Part::Schedule {
            let place = Some(self.events.chosen).filter(|place| *place < show.schedule.events.len());
            self.time_form = place.map(|_| ScheduleForm::event(show, place));
            self.said = place.is_none().then(|| "there is no event to change; a adds one".to_owned());
            return Vec::new();
        }
        if show.cue_lists.is_empty() {
            return self.no_list();
        }
        self.form = match self.part {
            Part::Lists => Some(OpenForm::list(show, Some(self.lists.chosen))),
            Part::Cues | Part::Schedule | Part::Timeline => OpenForm::cues(show, self.lists.chosen, self.places()),
        };
        if self.form.is_none() {
            self.said = Some("there is no cue to change; a adds one, r records the stage".to_owned());
        }
        Vec::new()
    }

    fn move_chosen(&mut self, show: &Show, down: bool) -> Vec<Ask> {
        if self.part == Part::Schedule {
            return Vec::new();
        }
        let by: i32 = if down { 1 } else { -1 };
        if self.part == Part::Lists {
            let from = self.lists.chosen;
            let to = from as i64 + i64::from(by);
            if to < 0 || to as usize >= show.cue_lists.len() {
                return Vec::new();
            }
            self.lists.chosen = to as usize;
            return vec![Ask::edit(Edit::MoveCueList(from, to as usize))];
        }
        let (places, marked) = (self.places(), self.marked.clone());
        let asks = self.edit(editing::changed(show, self.lists.chosen, |list| editing::move_by(list, &places, down)));
        if !asks.is_empty() {
            self.marked = marked.iter().map(|place| (*place as i64 + i64::from(by)).max(0) as usize).collect();
            self.cues.choose_by(by);
        }
        asks
    }

    fn take_out(&mut self, show: &Show, doomed: Option<usize>) -> Vec<Ask> {
        if self.part == Part::Schedule {
            let mut schedule = show.schedule.clone();
            if self.events.chosen < schedule.events.len() {
                schedule.events.remove(self.events.chosen);
                return vec![Ask::edit(Edit::PutSchedule(Box::new(schedule)))];
            }
            return Vec::new();
        }
        if self.part == Part::Lists {
            let place = self.lists.chosen;
            let Some(list) = show.cue_lists.get(place) else { return self.no_list() };
            if !list.cues.is_empty() && doomed != Some(place) {
                self.doomed = Some(place);
                self.said = Some(format!("{} cues go with {}; Del again takes it out", list.cues.len(), list.name));
                return Vec::new();
            }
            return vec![Ask::edit(Edit::RemoveCueList(place))];
        }
        let places = self.places();
        self.edit(editing::changed(show, self.lists.chosen, |list| editing::take_out(list, &places)))
    }

    fn read_sheet(&mut self, show: &Show) -> Vec<Ask> {
        match show.cue_lists.get(self.lists.chosen) {
            Some(list) => self.importing = Some(Importing::new(self.lists.chosen, list)),
            None => return self.no_list(),
        }
        Vec::new()
    }

    /// True while something is typed into.
    fn is_typed_into(&self) -> bool {
        self.form.is_some() || self.time_form.is_some() || self.importing.is_some() || self.timeline.types()
    }

    fn own_looks(&mut self, show: &Show) -> Vec<Ask> {
        match making::own_looks(show, self.lists.chosen, self.cues.chosen) {
            Ok((edit, names)) => {
                self.said = Some(format!("{} is for this cue alone; F4 changes it", names.join(" and ")));
                vec![Ask::edit(edit)]
            }
            Err(why) => {
                self.said = Some(why);
                Vec::new()
            }
        }
    }

    fn try_blind(&mut self, _show: &Show) -> Vec<Ask> {
        let cue = self.cue();
        if self.blind.take().is_some_and(|blind| Some(&blind.cue) == cue.as_ref()) {
            return Vec::new();
        }
        self.tries = cue;
        Vec::new()
    }
}
