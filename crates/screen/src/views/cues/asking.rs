//! The keys of the view, and what they ask for.

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use splimo_document::edit::Edit;
use splimo_document::making;
use splimo_engine::TimelineState;
use splimo_show::command::{CuePlace, CueTarget, EngineCommand, SessionCommand};
use splimo_show::{CueList, Schedule, Show};

use super::action::{Ask, CuesAction};
use super::forms::{OpenForm, Reply};
use super::opened::Opened;
use super::schedule::ScheduleForm;
use super::sheet::SheetForm;
use super::{CuesView, Part, aims, editing, patterns, timeline};
use crate::view::Handled;

impl CuesView {
    /// The list that is chosen.
    pub(crate) fn list(&self) -> Option<&CueList> {
        self.show.as_ref()?.cue_lists.get(self.lists.chosen)
    }

    /// The cues that are marked, or the one that is chosen, in their order.
    pub(super) fn places(&self) -> Vec<usize> {
        let count = self.list().map_or(0, |list| list.cues.len());
        let marked: Vec<usize> = self.marked.iter().copied().filter(|place| *place < count).collect();
        match marked.is_empty() {
            true => Some(self.cues.chosen).filter(|place| *place < count).into_iter().collect(),
            false => marked,
        }
    }

    /// The cue that is chosen.
    pub(super) fn cue(&self) -> Option<CuePlace> {
        let list = self.list()?;
        let number = list.cues.get(self.cues.chosen)?.number;
        Some(CuePlace { list: list.name.clone(), number })
    }

    pub(super) fn of_another_list(&mut self) {
        self.marked.clear();
        self.blind = None;
        self.was_at = self.snapshot.lists.get(self.lists.chosen).and_then(|list| list.at);
        self.cues.chosen = self.was_at.unwrap_or(0);
    }

    pub(super) fn choose_by(&mut self, by: i32) {
        match self.part {
            Part::Lists => {
                self.lists.choose_by(by);
                self.of_another_list();
            }
            Part::Cues => self.cues.choose_by(by),
            Part::Schedule => self.events.choose_by(by),
            Part::Timeline | Part::Patterns | Part::Aims => {}
        }
    }

    pub(super) fn key_of_form(&mut self, key: KeyEvent) -> Option<Handled<CuesAction>> {
        let show = if self.part == Part::Patterns { self.written_show()? } else { self.show.clone()? };
        let asks = match self.form.as_mut()?.key(key, &show) {
            Reply::Pass => return None,
            Reply::Stay => return Some(Handled::Done(Vec::new())),
            Reply::Close => Vec::new(),
            Reply::Keep(edit) => {
                if self.part == Part::Patterns {
                    self.patterns.learn(&edit, &show);
                }
                if let Edit::AddAim(_) = *edit {
                    self.aims.go_to_last(&show);
                }
                self.follow(&edit);
                self.kept_back(vec![Ask::edit(*edit)])
            }
            Reply::Ask(command) => vec![Ask::Command(*command)],
        };
        self.form = None;
        Some(Handled::Done(asks))
    }

    /// Goes to a list that is about to be there.
    fn follow(&mut self, edit: &Edit) {
        if let Edit::AddCueLists(at, _) = edit {
            self.lists.chosen = *at;
            self.of_another_list();
            self.part = Part::Cues;
        }
    }

    pub(super) fn key_of_list(&mut self, key: KeyEvent) -> Handled<CuesAction> {
        let Some(show) = self.show.clone() else { return Handled::Not };
        if self.part == Part::Timeline {
            let state = self.timeline_state();
            return match self.timeline.key(key, &show, state) {
                Some(reply) => Handled::Done(self.of_timeline(reply)),
                None => Handled::Not,
            };
        }
        if self.part == Part::Patterns {
            let show = self.written_show().unwrap_or(show);
            return match self.patterns.key(key, &show) {
                Some(reply) => Handled::Done(self.of_patterns(reply)),
                None => Handled::Not,
            };
        }
        if self.part == Part::Aims {
            return match self.aims.key(key, &show, &self.snapshot) {
                Some(reply) => Handled::Done(self.of_aims(reply)),
                None => Handled::Not,
            };
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
                self.form = Some(ScheduleForm::whole(&show).into());
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

    pub(super) fn no_list(&mut self) -> Vec<Ask> {
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
    pub(super) fn edit(&mut self, edit: Result<Edit, String>) -> Vec<Ask> {
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

    pub(super) fn add(&mut self, show: &Show) -> Vec<Ask> {
        if self.part == Part::Patterns {
            let written = self.written_show();
            let reply = self.patterns.key(KeyEvent::from(KeyCode::Char('a')), written.as_deref().unwrap_or(show));
            return reply.map(|reply| self.of_patterns(reply)).unwrap_or_default();
        }
        if self.part == Part::Aims {
            let reply = self.aims.key(KeyEvent::from(KeyCode::Char('a')), show, &self.snapshot);
            return reply.map(|reply| self.of_aims(reply)).unwrap_or_default();
        }
        if self.part == Part::Timeline {
            let state = self.timeline_state();
            let reply = self.timeline.add(show, state);
            return self.of_timeline(reply);
        }
        if self.part == Part::Schedule {
            self.form = Some(ScheduleForm::event(show, None).into());
            return Vec::new();
        }
        if self.part == Part::Lists || show.cue_lists.is_empty() {
            self.form = Some(OpenForm::list(show, None).into());
            return Vec::new();
        }
        match OpenForm::new_cue(show, self.lists.chosen, self.cue().map(|_| self.cues.chosen)) {
            Ok(form) => self.form = Some(form.into()),
            Err(why) => self.said = Some(why),
        }
        Vec::new()
    }

    pub(super) fn change(&mut self, show: &Show) -> Vec<Ask> {
        if self.part == Part::Patterns {
            let written = self.written_show();
            let reply = self.patterns.key(KeyEvent::from(KeyCode::Char('e')), written.as_deref().unwrap_or(show));
            return reply.map(|reply| self.of_patterns(reply)).unwrap_or_default();
        }
        if self.part == Part::Aims {
            let reply = self.aims.key(KeyEvent::from(KeyCode::Char('e')), show, &self.snapshot);
            return reply.map(|reply| self.of_aims(reply)).unwrap_or_default();
        }
        if self.part == Part::Timeline {
            let reply = self.timeline.change(show);
            return self.of_timeline(reply);
        }
        if self.part == Part::Schedule {
            let place = Some(self.events.chosen).filter(|place| *place < show.schedule.events.len());
            self.form = place.map(|_| ScheduleForm::event(show, place).into());
            self.said = place.is_none().then(|| "there is no event to change; a adds one".to_owned());
            return Vec::new();
        }
        if show.cue_lists.is_empty() {
            return self.no_list();
        }
        self.form = match self.part {
            Part::Lists => Some(OpenForm::list(show, Some(self.lists.chosen)).into()),
            Part::Cues | Part::Schedule | Part::Timeline | Part::Patterns | Part::Aims => {
                OpenForm::cues(show, self.lists.chosen, self.places()).map(Opened::from)
            }
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
            Some(list) => self.form = Some(SheetForm::new(self.lists.chosen, list).into()),
            None => return self.no_list(),
        }
        Vec::new()
    }

    /// Does what the patterns reply.
    pub(super) fn of_patterns(&mut self, reply: patterns::Reply) -> Vec<Ask> {
        match reply {
            patterns::Reply::Asks(asks) => return self.kept_back(asks),
            patterns::Reply::Opens(form) => self.form = Some(Opened::Pattern(form)),
            patterns::Reply::Says(words) => self.said = Some(words),
        }
        Vec::new()
    }

    /// Does what the aims reply.
    fn of_aims(&mut self, reply: aims::Reply) -> Vec<Ask> {
        match reply {
            aims::Reply::Asks(asks) => return asks,
            aims::Reply::Opens(form) => self.form = Some(Opened::Aim(form)),
            aims::Reply::Says(words) => self.said = Some(words),
        }
        Vec::new()
    }

    /// Does what the timelines reply.
    pub(super) fn of_timeline(&mut self, reply: timeline::Reply) -> Vec<Ask> {
        match reply {
            timeline::Reply::Asks(asks) => return asks,
            timeline::Reply::Opens(form) => self.form = Some(form.into()),
            timeline::Reply::Says(words) => self.said = Some(words.to_owned()),
        }
        Vec::new()
    }

    pub(super) fn own_looks(&mut self, show: &Show) -> Vec<Ask> {
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

    pub(super) fn try_blind(&mut self, _show: &Show) -> Vec<Ask> {
        let cue = self.cue();
        if self.blind.take().is_some_and(|blind| Some(&blind.cue) == cue.as_ref()) {
            return Vec::new();
        }
        self.tries = cue;
        Vec::new()
    }
}
