//! The view Cues: the lists, the cues of the chosen one, what runs in large letters, and the stage.

mod action;
#[cfg(test)]
mod aim_tests;
mod aims;
mod asking;
mod banner;
mod blind;
mod blind_pattern;
mod drawing;
mod editing;
mod forms;
mod opened;
#[cfg(test)]
mod pattern_tests;
mod patterns;
mod schedule;
mod sheet;
mod table;
#[cfg(test)]
mod tests;
mod timeline;
#[cfg(test)]
mod timeline_tests;
mod words;
mod writing;

use std::collections::BTreeSet;
use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};
use splimo_engine::Snapshot;
use splimo_link::document::{DraftState, NextEvent};
use splimo_link::subscription::Subscription;
use splimo_show::Show;
use splimo_show::command::CuePlace;

use action::{Ask, CuesAction, KEYS};
use aims::AimPart;
use blind::Blind;
use blind_pattern::{BlindStage, Written};
use forms::OpenForm;
use opened::Opened;
use patterns::PatternPart;
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
    /// The patterns.
    Patterns,
    /// The aims of heads.
    Aims,
}

impl Part {
    /// Every part, in the order of Tab.
    const ALL: [Self; 6] = [Self::Cues, Self::Lists, Self::Schedule, Self::Timeline, Self::Patterns, Self::Aims];

    /// The part that is so many on.
    fn beside(self, by: usize) -> Self {
        let at = Self::ALL.iter().position(|part| *part == self).unwrap_or(0);
        Self::ALL[(at + by) % Self::ALL.len()]
    }
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
    form: Option<Opened>,
    timeline: TimelinePart,
    patterns: PatternPart,
    aims: AimPart,
    stage: StageMap,
    /// The number of lights that are drawn.
    lights: usize,
    /// The cue that is to be tried blind, until it is drawn, and the one that is tried.
    tries: Option<CuePlace>,
    blind: Option<Blind>,
    /// The looks that are edited blind, the show with them, and the stage with the pattern that is written so.
    drafts: DraftState,
    written: Option<Written>,
    blind_stage: Option<BlindStage>,
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
            "< > stretch it, s splits, d copies, a adds one, e changes it, i and o go nearer and further off, T adds a timeline, l changes it.",
            "h hears a recording: its beats, bars and parts come onto the ruler, and clips go from beat to beat. With the mouse: drag a clip,",
            "or its end, with Ctrl a copy; the right button splits it; the ruler is gone to; the wheel goes nearer.",
            "Then come the patterns: lanes of events over bars, shown by a tier as a look is. ← → ↑ ↓ go over the grid (g finer, G coarser), a puts",
            "an event like the last one, e changes it, Del takes it out, Shift-← → moves it, < > stretch it, s splits it, d puts it down again behind",
            "itself, r repeats it to the end, R every so many bars. v begins to choose a time of some lanes, c copies that, b puts it down, in another",
            "pattern too: ( ) go there. T adds a pattern, P changes it, L adds a lane, l changes it, m leaves it out, X takes it out. n plays it,",
            "w keeps it out of the rotation, W all of its bank. While it plays, t strikes an event into the lane of the cursor, 1 to 9 into one by its number, and so does",
            "what Ctrl-K learns. S draws a shape over the events of a level lane that are chosen. M marks patterns: b, P and w are for all of them.",
            "B writes blind: nothing of it goes out, the stage here shows it; K keeps it, D drops it, Ctrl-Z takes the last step back.",
            "With the mouse: drag an event or its end, or over several lanes to choose; the right button splits. A lane whose lights are each later by a note value makes a run of one event.",
            "Then come the aims of heads: ↑ ↓ and v choose heads, A all of them, Shift-arrows turn them live (g finer, G coarser), a drag on",
            "the field too. a records where they point as a new aim, o into the chosen one (← →), e renames it, M mirrors it, Del takes the",
            "chosen heads out of it, X takes it out. n points the chosen heads where it says, z lets them go: the stage points them again.",
            "Shift-Tab goes back by one.",
            "In a cue a tier takes a look and a level (Undertow 60), out, or nothing: then it stays as it is. Times are written 3 s,",
            "2 beats, 1 bar. It goes on by hand, after a time, on a boundary (on bar) or on an event (on music part drop).",
        ],
        other_keys: &[],
        shift_arrows: true,
    };

    const KEYS: &'static [KeyBinding<CuesAction>] = KEYS;

    fn sync(&mut self, model: &Model) {
        self.show = Some(model.document.shown().clone());
        self.drafts.clone_from(&model.drafts);
        self.write();
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
        if let Some(handled) = self.key_of_blind(key) {
            return handled;
        }
        if key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT) {
            return Handled::Not;
        }
        self.key_of_list(key)
    }

    fn mouse(&mut self, mouse: MouseEvent) -> Option<Vec<Ask>> {
        if self.part == Part::Timeline && self.form.is_none() {
            let show = self.show.clone()?;
            let reply = self.timeline.mouse(mouse, &show);
            return Some(self.of_timeline(reply));
        }
        if self.part == Part::Patterns && self.form.is_none() {
            let show = self.written_show()?;
            let reply = self.patterns.mouse(mouse, &show);
            return Some(self.of_patterns(reply));
        }
        if self.part == Part::Aims && self.form.is_none() {
            let show = self.show.clone()?;
            return Some(self.aims.mouse(mouse, &show));
        }
        let by = match mouse.kind {
            MouseEventKind::ScrollUp => -1,
            MouseEventKind::ScrollDown => 1,
            MouseEventKind::Down(MouseButton::Left) => 0,
            _ => return None,
        };
        if self.form.is_some() {
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
        Vec::new()
    }

    fn act(&mut self, action: &CuesAction) -> Vec<Ask> {
        let Some(show) = self.show.clone() else { return Vec::new() };
        let of_cues = matches!(action, CuesAction::Renumber | CuesAction::OwnLooks | CuesAction::TryBlind);
        if of_cues && matches!(self.part, Part::Schedule | Part::Timeline | Part::Patterns | Part::Aims) {
            self.said = Some("that is for cues: Tab goes there".to_owned());
            return Vec::new();
        }
        match action {
            CuesAction::NextList => {
                self.part = self.part.beside(1);
                Vec::new()
            }
            CuesAction::LastList => {
                self.part = self.part.beside(Part::ALL.len() - 1);
                Vec::new()
            }
            CuesAction::Add => self.add(&show),
            CuesAction::Change => self.change(&show),
            CuesAction::ListOfLooks => {
                self.form = Some(OpenForm::looks(&show).into());
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
        self.advance_blind(context);
        self.draw_all(context, theme, area, buffer);
        if let Some(open) = &mut self.form {
            open.draw(&context.edited.show, theme, area, buffer);
        }
    }

    fn hints(&self) -> Option<Hints> {
        if self.form.is_some() {
            return Some(vec![
                ("↑ ↓", "field"),
                ("← →", "change"),
                ("type", "replaces"),
                ("Enter", "keeps"),
                ("Esc", "not"),
            ]);
        }
        let own: &[(&'static str, &'static str)] = match self.part {
            Part::Schedule | Part::Timeline | Part::Patterns | Part::Aims => &[],
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
        if self.part == Part::Aims {
            return Some(vec![
                ("↑ ↓", "head"),
                ("v A", "choose several, all"),
                ("Shift-arrows", "turn"),
                ("n", "point"),
                ("z", "let go"),
                ("a", "record a new aim"),
                ("o", "overwrite"),
                ("← →", "aim"),
                ("M", "mirror"),
                ("Tab", "cues"),
                ("F1", "help"),
            ]);
        }
        if self.part == Part::Patterns {
            return Some(vec![
                ("n", "play"),
                ("a", "put"),
                ("e", "change"),
                ("Del", "take out"),
                ("Shift-← →", "move"),
                ("< >", "stretch"),
                ("v", "choose"),
                ("c b", "copy"),
                ("r", "repeat"),
                ("t", "strike"),
                ("B", "blind"),
                ("L", "lane"),
                ("T", "pattern"),
                ("Tab", "aims"),
                ("F1", "help"),
            ]);
        }
        if self.part == Part::Timeline {
            return Some(vec![
                ("n", "play"),
                ("x", "hold"),
                ("z", "stop"),
                ("← →", "clip"),
                ("g", "go"),
                ("Shift-← →", "move"),
                ("< >", "stretch"),
                ("s", "split"),
                ("a", "add"),
                ("e", "change"),
                ("i o", "zoom"),
                ("h", "hear"),
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
        match (self.form.is_some(), &self.blind) {
            (true, _) => Modality::Typing,
            (false, Some(_)) => Modality::Open,
            (false, None) => Modality::Free,
        }
    }

    fn leave(&mut self) -> Vec<Ask> {
        (self.form, self.blind, self.tries) = (None, None, None);
        Vec::new()
    }

    fn refused(&mut self, why: &str) {
        if let Some(open) = &mut self.form {
            open.refuse(why);
        }
    }

    fn said(&mut self) -> Option<String> {
        self.said.take()
    }

    fn learn(&mut self) -> Learn {
        if self.part == Part::Patterns {
            return match self.written_show().and_then(|show| self.patterns.lane_name(&show)) {
                Some(lane) => Learn::Target(format!("strike {lane}")),
                None => Learn::Nothing("the pattern has no lane yet; L adds one"),
            };
        }
        if self.part == Part::Aims {
            let aim = self.show.as_ref().and_then(|show| self.aims.aim_name(show));
            return match aim {
                Some(aim) => Learn::Target(format!("call-aim {aim}")),
                None => Learn::Nothing("there is no aim yet; a records one"),
            };
        }
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
