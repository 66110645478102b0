//! Writing patterns blind: what is changed of them is kept back until somebody keeps or drops it.

use std::sync::Arc;

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use splimo_document::edit::Edit;
use splimo_document::{Command, DocumentCommand};
use splimo_show::Show;

use super::action::{Ask, CuesAction};
use super::blind_pattern::{BlindStage, Written};
use super::{CuesView, Part};
use crate::model::ViewContext;
use crate::view::Handled;

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
        self.written.as_ref().map(|written| written.show().clone()).or_else(|| self.show.clone())
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
        if !self.blind_stage.as_ref().is_some_and(|stage| stage.shows(&name, context)) {
            self.blind_stage = Some(BlindStage::new(&name, &show, context));
        }
        if let Some(stage) = &mut self.blind_stage {
            stage.advance(&show, context);
        }
    }
}
