//! Panels that open on the view, and the keys, the mouse and the text that they get.

use std::path::Path;

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseEvent, MouseEventKind};
use ratatui::layout::Position;
use splimo_document::edit::Edit;
use splimo_document::import::Patch;
use splimo_document::{Command, DocumentCommand};
use splimo_show::LightTest;
use splimo_show::{Show, Step};

use super::action::{Ask, RigAction};
use super::arranging::Arranging;
use super::camera::Fit;
use super::groups::{Asked, Groups};
use super::panel::{ALONG, STAY};
use super::panel::{PanelReply, RigPanel};
use super::profiles::Profiles;
use super::state::RigView;
use super::test_panel::TestPanel;
use super::{adding, changing, patching};
use crate::importing::{Importing, Keep};
use crate::kit::form::{Field, Form};

/// A panel that can be opened on the view.
#[derive(Debug, Clone, PartialEq)]
pub(super) enum Opening {
    /// The form by which fixtures are added.
    Add,
    /// The form by which the chosen ones are changed.
    Change,
    /// The keys by which they are arranged.
    Arrange,
    /// The form by which they are patched.
    Patch,
    /// The groups.
    Groups,
    /// The profiles of the show.
    Profiles,
    /// The problems of the show.
    Problems,
    /// The flashing of the chosen fixtures.
    Identify,
    /// The walk along them.
    Walk,
    /// The form by which slots are held.
    HoldSlots,
    /// The size of the canvas.
    Canvas,
    /// A table that is to be imported.
    Import(String),
}

impl RigView {
    /// Opens something, and ends what was open.
    pub(super) fn open(&mut self, opening: &Opening) -> Vec<Ask> {
        let show = self.edited.kept.clone();
        let meant = self.meant();
        let mut actions = self.close();
        let needs_fixtures = match opening {
            Opening::Change | Opening::Arrange | Opening::Patch | Opening::Identify | Opening::Walk => true,
            Opening::Add
            | Opening::Groups
            | Opening::Profiles
            | Opening::Problems
            | Opening::HoldSlots
            | Opening::Canvas
            | Opening::Import(_) => false,
        };
        if needs_fixtures && meant.is_empty() {
            self.said = Some("there is no fixture yet: a adds some".to_owned());
            return actions;
        }
        if needs_fixtures && self.chosen.is_empty() {
            self.chosen.clone_from(&meant);
        }
        let panel = match opening {
            Opening::Add => Some(RigPanel::Add(adding::form(&show))),
            Opening::Change => changing::form(&show, &meant).map(|form| RigPanel::Change(form, meant)),
            Opening::Patch => Some(RigPanel::Patch(patching::form(&show, &meant), meant)),
            Opening::Canvas => Some(RigPanel::Canvas(Form::new(vec![
                Field::number("width", "width", f64::from(show.canvas.width), 1.0, 100_000.0, 1.0),
                Field::number("height", "height", f64::from(show.canvas.height), 1.0, 100_000.0, 1.0),
                Field::choice("lights", "the lights", [STAY, ALONG], STAY),
            ]))),
            Opening::Arrange => Some(RigPanel::Arrange(Box::new(Arranging::new(&show, &meant)))),
            Opening::Groups => Some(RigPanel::Groups(Groups::default())),
            Opening::Profiles => Some(RigPanel::Profiles(Profiles::default())),
            Opening::Problems => Some(RigPanel::Problems(0)),
            Opening::Identify => Some(RigPanel::Test(TestPanel::Identify(meant))),
            Opening::Walk => Some(RigPanel::Test(TestPanel::walk(&meant))),
            Opening::HoldSlots => Some(RigPanel::Test(TestPanel::hold(&show, meant.first().copied()))),
            Opening::Import(path) => match Importing::read(Path::new(path.trim()), Box::new(Patch), &show) {
                Ok(importing) => Some(RigPanel::Import(Box::new(importing))),
                Err(why) => {
                    self.said = Some(why);
                    None
                }
            },
        };
        self.panel = panel;
        match &mut self.panel {
            // What will be added is seen at once.
            Some(panel @ RigPanel::Add(_)) => {
                actions.retain(|a| *a != Ask::drop_tried());
                self.camera.fit = Fit::Lights;
                actions.extend(panel.form_changed(&show));
            }
            // What is moved is not to drag the camera along.
            Some(RigPanel::Arrange(_) | RigPanel::Change(..)) if self.camera.fit == Fit::Chosen => {
                self.camera.holds = true;
            }
            Some(RigPanel::Test(test_panel)) => actions.push(Ask::test(test_panel.test(&show))),
            _ => {}
        }
        actions
    }

    /// The requests of a key while a panel is open; none where it is not the panel's.
    pub(super) fn key_of_panel(&mut self, key: KeyEvent) -> Option<Vec<Ask>> {
        let kept = self.edited.kept.clone();
        let answer = self.panel_key(key, &kept)?;
        if !answer.open {
            self.closed(&answer.actions);
        }
        Some(answer.actions)
    }

    fn panel_key(&mut self, key: KeyEvent, kept: &Show) -> Option<PanelReply> {
        let chosen = self.chosen.clone();
        let walked = self.walked;
        let held = key.modifiers.contains(KeyModifiers::CONTROL);
        match self.panel.as_mut()? {
            _ if held => None,
            panel @ (RigPanel::Add(_) | RigPanel::Change(..) | RigPanel::Patch(..) | RigPanel::Canvas(_)) => {
                panel.form_key(key, kept)
            }
            RigPanel::Arrange(arranging) if arranging.types() => match arranging.type_key(key) {
                None => PanelReply::stay(Vec::new()),
                Some(Ok(())) => PanelReply::stay(vec![Ask::try_edit(arranging.edit())]),
                Some(Err(why)) => {
                    arranging.said = why;
                    PanelReply::stay(Vec::new())
                }
            },
            RigPanel::Arrange(arranging) => match key.code {
                KeyCode::Esc => PanelReply::close(vec![Ask::drop_tried()]),
                KeyCode::Enter => PanelReply::close(vec![Ask::edit(arranging.edit())]),
                _ => match arranging.key(key)? {
                    Ok(()) => PanelReply::stay(vec![Ask::try_edit(arranging.edit())]),
                    Err(refused) => {
                        arranging.said = refused.to_string();
                        PanelReply::stay(Vec::new())
                    }
                },
            },
            RigPanel::Groups(groups) => {
                let asked = groups.key(key, kept, &chosen)?;
                self.asked(asked)
            }
            RigPanel::Profiles(profiles) => {
                let asked = profiles.key(key, kept)?;
                self.asked(asked)
            }
            RigPanel::Problems(at) => match key.code {
                KeyCode::Up => {
                    *at = at.saturating_sub(1);
                    PanelReply::stay(Vec::new())
                }
                KeyCode::Down => {
                    *at += 1;
                    PanelReply::stay(Vec::new())
                }
                KeyCode::Enter => {
                    let at = *at;
                    PanelReply::close(self.go_to_problem(at))
                }
                KeyCode::Esc => PanelReply::close(Vec::new()),
                _ => None,
            },
            RigPanel::Test(test_panel) => {
                let (actions, open) = test_panel.key(key, kept, walked)?;
                if open { PanelReply::stay(actions) } else { PanelReply::close(vec![Ask::test(LightTest::Off)]) }
            }
            RigPanel::Import(importing) => match key.code {
                KeyCode::Esc => PanelReply::close(Vec::new()),
                KeyCode::Enter => match importing.keep(kept) {
                    Ok(Keep::Nothing) => {
                        self.said = Some("nothing was changed: there is nothing new in it".to_owned());
                        PanelReply::close(Vec::new())
                    }
                    Ok(Keep::Look) => PanelReply::stay(Vec::new()),
                    Ok(Keep::Edit(edit)) => match edit.apply(kept) {
                        Ok(_) => PanelReply::close(vec![Ask::edit(*edit)]),
                        Err(refused) => {
                            self.said = Some(refused.to_string());
                            PanelReply::stay(Vec::new())
                        }
                    },
                    Err(why) => {
                        self.said = Some(why);
                        PanelReply::stay(Vec::new())
                    }
                },
                _ => importing.key(key).then(|| PanelReply { actions: Vec::new(), open: true }),
            },
        }
    }

    fn asked(&mut self, asked: Asked) -> Option<PanelReply> {
        match asked {
            Asked::Nothing => PanelReply::stay(Vec::new()),
            Asked::Close => PanelReply::close(Vec::new()),
            Asked::Edit(edit) => PanelReply::stay(vec![Ask::edit(edit)]),
            Asked::Say(words) => {
                self.said = Some(words);
                PanelReply::stay(Vec::new())
            }
            Asked::Choose(fixtures) => {
                self.at = fixtures.first().copied().unwrap_or(self.at);
                self.chosen = fixtures;
                PanelReply::close(Vec::new())
            }
        }
    }

    /// Chooses what was added.
    fn closed(&mut self, actions: &[Ask]) {
        let panel = self.panel.take();
        let Some(Ask::Command(Command::Document(DocumentCommand::Edit(edit)))) = actions.first() else { return };
        if let (Some(RigPanel::Patch(..)), Edit::Patch(fixtures, _)) = (&panel, edit)
            && let Ok(patched) = edit.apply(&self.edited.kept)
            && let Some(first) = fixtures.first().and_then(|&index| patched.fixtures.get(index))
        {
            let address = first.address.map_or_else(String::new, |a| a.to_string());
            self.said = Some(format!("{} begins at {address}", first.name));
        }
        if let (Some(RigPanel::Add(_)), Edit::Add(batch)) = (panel, edit) {
            let first = self.edited.kept.fixtures.len();
            self.coming = first..first + batch.count as usize;
            let count = batch.count;
            self.said = Some(format!("{count} added and chosen; Ctrl-Z takes them back"));
        }
    }

    /// Goes to where a problem lies.
    fn go_to_problem(&mut self, at: usize) -> Vec<Ask> {
        let Some(problem) = self.edited.problems.get(at).cloned() else { return Vec::new() };
        self.said = Some(problem.mend.clone());
        let index = match problem.place.0.get(1) {
            Some(Step::Index(index)) => Some(*index),
            _ => None,
        };
        match (problem.place.0.first(), index) {
            (Some(Step::Key(list)), Some(index)) if list == "fixtures" => {
                self.choose_one(index.min(self.edited.kept.fixtures.len().saturating_sub(1)));
                self.camera.fit = Fit::Chosen;
                Vec::new()
            }
            (Some(Step::Key(list)), _) => match list.as_str() {
                "routes" => vec![Ask::GoTo("output")],
                "groups" => vec![Ask::Action(RigAction::ShowGroups)],
                "profiles" => vec![Ask::Action(RigAction::ShowProfiles)],
                "canvas" => vec![Ask::Action(RigAction::SizeCanvas)],
                _ => Vec::new(),
            },
            _ => Vec::new(),
        }
    }

    /// A paste goes into what is typed, and nowhere else.
    pub(super) fn paste_into_panel(&mut self, text: &str) -> Vec<Ask> {
        let kept = self.edited.kept.clone();
        let Some(panel) = &mut self.panel else { return Vec::new() };
        match panel {
            RigPanel::Groups(groups) => groups.paste(text),
            RigPanel::Profiles(profiles) => profiles.paste(text),
            RigPanel::Test(test_panel) => test_panel.paste(text),
            _ => {}
        }
        match panel.form().is_some_and(|form| form.paste(text)) {
            true => panel.form_changed(&kept),
            false => Vec::new(),
        }
    }

    /// The requests of the mouse.
    pub(super) fn handle_mouse(&mut self, mouse: MouseEvent) -> Vec<Ask> {
        let at = Position::new(mouse.column, mouse.row);
        if let Some(form) = self.panel.as_mut().and_then(RigPanel::form)
            && matches!(mouse.kind, MouseEventKind::Down(_))
            && form.click(at)
        {
            return Vec::new();
        }
        self.point(mouse)
    }
}
