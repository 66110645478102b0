//! The view as the screen sees it.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, MouseEvent};
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_link::subscription::Subscription;

use super::action::{Ask, KEYS, RigAction};
use super::canvas::ColourBy;
use super::opening::Opening;
use super::panel::RigPanel;
use super::pointer::Drag;
use super::state::RigView;
use crate::kit::stage_map::enough_of;
use crate::kit::theme::Theme;
use crate::model::{Model, ViewContext};
use crate::typed_path::path_from;
use crate::view::{Handled, Hints, KeyBinding, Memory, Modality, Targets, View, ViewSpec};

impl View for RigView {
    type Action = RigAction;

    const SPEC: ViewSpec = ViewSpec {
        name: "rig",
        function_key: 2,
        digit: '1',
        help: &[
            "What hangs there: a adds fixtures, and shows them on the canvas while you say what they are.",
            "Choose with the arrows or the mouse; then change, arrange, patch, or test them on the lights.",
            "Below are the slots of each universe: filled is chosen, shaded is taken, ╳ is taken twice.",
            "On the canvas a click chooses (Ctrl: more), a drag moves (Ctrl: along one axis) or draws a band,",
            "the right button pans and the wheel zooms.",
        ],
        other_keys: &[],
        shift_arrows: true,
    };

    const KEYS: &'static [KeyBinding<RigAction>] = KEYS;

    fn sync(&mut self, model: &Model) {
        self.see(model.edited());
        self.folder = model.session.as_ref().map(|session| session.folder()).unwrap_or_default();
    }

    fn key(&mut self, key: KeyEvent) -> Handled<RigAction> {
        // What is being dragged goes back to where it was.
        if key.code == KeyCode::Esc && matches!(self.pointer.drag, Some(Drag::Move { moved: true, .. })) {
            self.pointer.drag = None;
            self.said = Some("as it was".to_owned());
            return Handled::Done(vec![Ask::drop_tried()]);
        }
        Handled::done(self.key_of_panel(key))
    }

    fn mouse(&mut self, mouse: MouseEvent) -> Option<Vec<Ask>> {
        Some(self.handle_mouse(mouse))
    }

    fn wheel(&self, by: i32) -> Ask {
        Ask::Action(RigAction::ChooseFixture(-by))
    }

    fn paste(&mut self, text: &str) -> Vec<Ask> {
        self.paste_into_panel(text)
    }

    fn act(&mut self, action: &RigAction) -> Vec<Ask> {
        match action {
            RigAction::ChooseFixture(by) => self.choose_by(*by, false),
            RigAction::ChooseMore(by) => self.choose_by(*by, true),
            RigAction::ChooseAll => self.chosen = (0..self.edited.kept.fixtures.len()).collect(),
            RigAction::ChooseNone => self.chosen.clear(),
            RigAction::Choose(name) => self.choose_named(name),
            RigAction::ColourLights => {
                self.colour_by = self.colour_by.next();
                self.said = Some(format!("coloured by {}", self.colour_by.name()));
            }
            RigAction::Zoom(by) => self.camera.zoom(*by, None),
            RigAction::PanAcross(by) => self.camera.pan(*by, 0),
            RigAction::PanDown(by) => self.camera.pan(0, *by),
            RigAction::Fit => self.camera.fit = self.next_fit(),
            RigAction::NextUniverse(by) => self.turn_strips(*by),
            RigAction::Remove => return self.of_meant(Edit::Remove),
            RigAction::Duplicate => {
                let fixtures = self.edited.kept.fixtures.len();
                let copies = self.meant().len();
                let asks = self.of_meant(Edit::Duplicate);
                self.coming = fixtures..fixtures + copies;
                return asks;
            }
            RigAction::AddFixtures => return self.open(&Opening::Add),
            RigAction::ChangeFixtures => return self.open(&Opening::Change),
            RigAction::ArrangeFixtures => return self.open(&Opening::Arrange),
            RigAction::PatchFixtures => return self.open(&Opening::Patch),
            RigAction::ShowGroups => return self.open(&Opening::Groups),
            RigAction::ShowProfiles => return self.open(&Opening::Profiles),
            RigAction::ShowProblems => return self.open(&Opening::Problems),
            RigAction::Identify => return self.open(&Opening::Identify),
            RigAction::Walk => return self.open(&Opening::Walk),
            RigAction::HoldSlots => return self.open(&Opening::HoldSlots),
            RigAction::SizeCanvas => return self.open(&Opening::Canvas),
            RigAction::ImportPatch(file) => return self.open(&Opening::Import(path_from(&self.folder, file))),
        }
        Vec::new()
    }

    fn draw(
        &mut self,
        context: &ViewContext<'_>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
        targets: &mut Targets<RigAction>,
    ) {
        self.draw_all(context.light, context.snapshot.walked, theme, area, buffer, targets);
    }

    fn hints(&self) -> Option<Hints> {
        self.panel.as_ref().map(RigPanel::hints)
    }

    fn modality(&self) -> Modality {
        match &self.panel {
            None => Modality::Free,
            Some(panel) if panel.types() => Modality::Typing,
            Some(_) => Modality::Open,
        }
    }

    fn leave(&mut self) -> Vec<Ask> {
        self.close()
    }

    fn before_undo(&mut self) -> Vec<Ask> {
        if matches!(self.panel, Some(RigPanel::Test(_))) { Vec::new() } else { self.close() }
    }

    fn refused(&mut self, why: &str) {
        if let Some(panel) = &mut self.panel {
            panel.refused(why);
        }
    }

    fn said(&mut self) -> Option<String> {
        self.said.take()
    }

    fn subscribe(&self, subscription: &mut Subscription) {
        let live = self.colour_by == ColourBy::Live || matches!(self.panel, Some(RigPanel::Test(_)));
        subscription.light = live.then(|| enough_of(self.derived.rig.len()));
    }

    fn remember(&self, memory: &mut Memory) {
        let name = |index: &usize| self.edited.kept.fixtures.get(*index).map(|fixture| fixture.name.clone());
        if let Some(name) = self.chosen.first().and_then(name) {
            memory.insert("fixture".into(), name);
        }
    }

    fn recall(&mut self, memory: &Memory) {
        if let Some(name) = memory.get("fixture") {
            self.choose_named(name);
            self.said = None;
        }
    }
}
