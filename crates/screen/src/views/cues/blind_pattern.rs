//! A pattern that is written blind: what is changed of it is kept back, and an engine of the screen's own shows the stage with it.

use std::sync::Arc;

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use splimo_core::command::{Command, DocumentCommand, EngineCommand, Origin};
use splimo_core::edit::Edit;
use splimo_core::engine::{Engine, Inputs, Prepared, Published, Snapshot};
use splimo_core::show::{Look, Show};

use super::action::{Ask, CuesAction};
use super::{CuesView, Part};
use crate::model::ViewContext;
use crate::view::Handled;

/// A show with looks as they were edited blind.
pub(super) struct Written {
    of: Arc<Show>,
    looks: Vec<(String, Look)>,
    show: Arc<Show>,
}

impl Written {
    /// True if it is made of these.
    fn is_of(&self, show: &Arc<Show>, looks: &[(String, Look)]) -> bool {
        Arc::ptr_eq(&self.of, show) && self.looks == looks
    }

    fn new(of: &Arc<Show>, looks: &[(String, Look)]) -> Self {
        let mut show = Show::clone(of);
        for (name, look) in looks {
            if let Some(place) = show.looks.iter().position(|known| known.name == *name) {
                show.looks[place] = look.clone();
            }
        }
        Self { of: of.clone(), looks: looks.to_vec(), show: Arc::new(show) }
    }
}

/// The stage with a pattern on it that nobody else sees.
pub(super) struct BlindStage {
    name: String,
    show: Arc<Show>,
    engine: Engine,
    published: Published,
}

impl BlindStage {
    /// Plays a pattern over what is on stage, on the tier above the lowest.
    fn new(name: &str, show: &Arc<Show>, context: &ViewContext<'_>) -> Self {
        let prepared = Prepared::new(show.clone(), context.rig.clone(), context.snapshot.edition);
        let mut engine = Engine::start(prepared);
        let time = context.snapshot.time;
        let mut ask = |command: EngineCommand| engine.apply_from(&command, Origin::Session, time);
        ask(EngineCommand::Tempo(context.snapshot.clock.bpm));
        let stack = show.stack();
        let on = stack.get(1).unwrap_or(&stack[0]).name.clone();
        for (tier, state) in stack.iter().zip(&context.snapshot.tiers).filter(|(tier, _)| tier.name != on) {
            if let Some(look) = state.look.and_then(|look| context.show.looks.get(look)) {
                ask(EngineCommand::CutTo(format!("{}/{}", tier.name, look.name)));
            }
        }
        ask(EngineCommand::CutTo(format!("{on}/{name}")));
        Self { name: name.to_owned(), show: show.clone(), engine, published: Published::default() }
    }

    /// Goes on to now, with the pattern as it is written.
    fn advance(&mut self, show: &Arc<Show>, context: &ViewContext<'_>) {
        if !Arc::ptr_eq(&self.show, show) {
            let prepared = Prepared::new(show.clone(), context.rig.clone(), context.snapshot.edition);
            drop(self.engine.adopt(Box::new(prepared)));
            self.show = show.clone();
        }
        let inputs = Inputs {
            hearing: context.snapshot.hearing,
            time_of_day: context.snapshot.time_of_day,
            ..Inputs::default()
        };
        self.engine.tick(context.snapshot.time, &inputs);
        self.engine.publish(&mut self.published);
    }

    /// The state of its engine.
    pub(super) fn snapshot(&self) -> &Snapshot {
        &self.published.snapshot
    }

    /// Its light.
    pub(super) fn light(&self) -> &[[f32; 3]] {
        &self.published.light
    }
}

impl CuesView {
    /// True if patterns are written blind here.
    pub(super) fn writes_blind(&self) -> bool {
        self.part == Part::Patterns && self.drafts.blind
    }

    /// Makes the show anew as it is written, if anything of it has changed.
    pub(super) fn write(&mut self) {
        let Some(show) = self.show.clone() else { return };
        if !self.drafts.blind || self.drafts.looks.is_empty() {
            self.written = None;
        } else if !self.written.as_ref().is_some_and(|written| written.is_of(&show, &self.drafts.looks)) {
            self.written = Some(Written::new(&show, &self.drafts.looks));
        }
    }

    /// The show as patterns are written in it: with what was changed blind.
    pub(super) fn written_show(&self) -> Option<Arc<Show>> {
        self.written.as_ref().map(|written| written.show.clone()).or_else(|| self.show.clone())
    }

    /// The same requests, with changes of looks kept back where one writes blind.
    pub(super) fn kept_back(&self, asks: Vec<Ask>) -> Vec<Ask> {
        if !self.writes_blind() {
            return asks;
        }
        let Some(show) = &self.show else { return asks };
        let kept = |ask: Ask| match ask {
            Ask::Command(Command::Document(DocumentCommand::Edit(Edit::PutLooks(looks)))) => {
                let named = looks.into_iter().filter_map(|(at, look)| Some((show.looks.get(at)?.name.clone(), look)));
                Ask::Command(DocumentCommand::Draft(named.collect()).into())
            }
            other => other,
        };
        asks.into_iter().map(kept).collect()
    }

    /// Handles the keys of writing blind; none where it is another one.
    pub(super) fn key_of_blind(&mut self, key: KeyEvent) -> Option<Handled<CuesAction>> {
        if self.part != Part::Patterns || self.form.is_some() {
            return None;
        }
        let ask = |command: DocumentCommand| Some(Handled::Done(vec![Ask::Command(command.into())]));
        let held = key.modifiers.contains(KeyModifiers::CONTROL);
        match key.code {
            // What is undone while one writes blind is nothing that goes out.
            KeyCode::Char('z') if held && self.drafts.blind => ask(DocumentCommand::UndoDraft),
            KeyCode::Char('y') if held && self.drafts.blind => ask(DocumentCommand::RedoDraft),
            _ if held => None,
            KeyCode::Char('B') if !self.drafts.blind => ask(DocumentCommand::EditBlind),
            KeyCode::Char('B') if self.drafts.looks.is_empty() => ask(DocumentCommand::DropDrafts),
            KeyCode::Char('B') => {
                self.said = Some("it was written blind: K keeps it, and it goes out; D drops it".to_owned());
                Some(Handled::Done(Vec::new()))
            }
            KeyCode::Char('K') if self.drafts.blind => ask(DocumentCommand::KeepDrafts),
            KeyCode::Char('D') if self.drafts.blind => ask(DocumentCommand::DropDrafts),
            _ => None,
        }
    }

    /// Goes on with the stage that nobody else sees, if patterns are written blind.
    pub(super) fn advance_blind(&mut self, context: &ViewContext<'_>) {
        let show = self.written_show().filter(|_| self.writes_blind());
        let chosen = show.as_ref().and_then(|show| Some(self.patterns.chosen(show)?.1.name.clone()));
        let (Some(show), Some(name)) = (show, chosen) else {
            self.blind_stage = None;
            return;
        };
        let same = |stage: &BlindStage| stage.name == name && Arc::ptr_eq(stage.engine.rig(), context.rig);
        if !self.blind_stage.as_ref().is_some_and(same) {
            self.blind_stage = Some(BlindStage::new(&name, &show, context));
        }
        if let Some(stage) = &mut self.blind_stage {
            stage.advance(&show, context);
        }
    }
}
