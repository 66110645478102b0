//! The view as the screen sees it.

use std::time::Instant;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyEvent, MouseEvent};
use ratatui::layout::Rect;
use splimo_link::subscription::Subscription;
use splimo_show::command::EngineCommand;

use super::action::{Ask, KEYS, LooksAction};
use super::chooser::Chooser;
use super::rows::Row;
use super::state::{LooksView, Pane};
use super::swatches::Swatches;
use crate::kit::stage_map::enough_of;
use crate::kit::theme::Theme;
use crate::model::{Model, ViewContext};
use crate::view::{Handled, Hints, KeyBinding, Learn, Memory, Modality, Targets, View, ViewSpec};

/// The time that a value may stand nudged before it counts as kept, in seconds.
const SETTLES: f64 = 1.5;

impl View for LooksView {
    type Action = LooksAction;

    const SPEC: ViewSpec = ViewSpec {
        name: "looks",
        function_key: 4,
        digit: '3',
        help: &[
            "A look is layers on top of each other, each an effect on some of the lights. Tab goes from the looks",
            "to the layers of one, and to the lines of a layer, which ← and → turn and digits replace.",
            "It is live: the lights follow while you turn. b makes it blind, and nothing goes out until b ends it.",
            "The line beside a value shows what moves it; m sets that. Held, k shows the look as it was saved.",
            "Shift-↑ ↓ choose several looks or layers; g then changes one thing in all of them.",
        ],
        other_keys: &[],
        shift_arrows: true,
    };

    const KEYS: &'static [KeyBinding<LooksAction>] = KEYS;

    fn sync(&mut self, model: &Model) {
        self.see(model.document.kept());
        self.saved = model.document.saved().clone();
        self.drafts.clone_from(&model.drafts);
        self.reduced_motion = model.reduced_motion;
    }

    fn key(&mut self, key: KeyEvent) -> Handled<LooksAction> {
        self.handle_key(key)
    }

    fn mouse(&mut self, mouse: MouseEvent) -> Option<Vec<Ask>> {
        Some(self.handle_mouse(mouse))
    }

    fn wheel(&self, by: i32) -> Ask {
        Ask::Action(LooksAction::ChooseRow(-by))
    }

    fn paste(&mut self, text: &str) -> Vec<Ask> {
        self.handle_paste(text)
    }

    fn act(&mut self, action: &LooksAction) -> Vec<Ask> {
        match action {
            LooksAction::NextPane => self.pane = self.pane.next(),
            LooksAction::ChooseRow(by) => return self.choose_by(*by),
            LooksAction::ChooseMore(by) => return self.choose_more(*by),
            LooksAction::ChooseAll => return self.choose_all(),
            LooksAction::ChooseNone => {
                self.more_looks.clear();
                self.more_layers.clear();
            }
            LooksAction::NewLook => return self.new_look(),
            LooksAction::AddLayer => return self.if_look(|view| view.open(Chooser::adding())),
            LooksAction::ChangeHere => return self.change_here(),
            LooksAction::NudgeValue(by) => return self.nudge(*by),
            LooksAction::MoveLayer(by) => return self.move_by(*by),
            LooksAction::MuteLayer => return self.switch(|layer| &mut layer.mute, "is left out", "is seen again"),
            LooksAction::SoloLayer => {
                return self.switch(|layer| &mut layer.solo, "is seen alone", "is not alone any more");
            }
            LooksAction::TargetLayer => return self.open_target(false),
            LooksAction::Retarget => return self.open_target(true),
            LooksAction::NextSpan(by) => return self.change_layer(|layer| Row::Span.nudge(layer, *by)),
            LooksAction::ShowArea => return self.with_layer(|view, layer| view.open_area(&layer)),
            LooksAction::ShowModulator => return self.open_modulator(),
            LooksAction::ShowColours => return self.open_colours(),
            LooksAction::ShowPalette => return self.open(Swatches::list()),
            LooksAction::SpreadColours => return self.open_spread(false),
            LooksAction::MirrorColours => return self.open_spread(true),
            LooksAction::EditBlind => return self.turn_blind(),
            LooksAction::Compare => self.compared = Some(Instant::now()),
            LooksAction::Vary => return self.open_variations(),
            LooksAction::Freeze => return self.open_freeze(),
            LooksAction::ChaseLooks => return self.chase_looks(),
            LooksAction::BankOfLooks => return self.bank_of_looks(),
            LooksAction::CopyLayer => return self.copy_layer(),
            LooksAction::PasteLayer => return self.open_paste(),
            LooksAction::ChangeMany => return self.open_bulk_edit(),
            LooksAction::FindLook => (self.filtering, self.pane) = (true, Pane::Looks),
            LooksAction::ArmLook => return self.arm(),
            LooksAction::CentreLayer => return self.shift_phase(EngineCommand::CentrePhase),
            LooksAction::RestartLayer => return self.shift_phase(EngineCommand::RestartPhase),
            LooksAction::StepLayer(by) if *by < 0 => return self.shift_phase(EngineCommand::StepBack),
            LooksAction::StepLayer(_) => return self.shift_phase(EngineCommand::StepForward),
            LooksAction::ChooseLight(by) => self.choose_light(*by),
            LooksAction::ShowValues => self.values = !self.values,
            LooksAction::Duplicate => return self.duplicate(),
            LooksAction::Remove => return self.remove(),
        }
        Vec::new()
    }

    fn tick(&mut self) -> Vec<Ask> {
        let settled = self.work.is_some() && self.panel.is_none() && self.worked.elapsed().as_secs_f64() > SETTLES;
        if settled { self.keep_work() } else { Vec::new() }
    }

    fn draw(
        &mut self,
        context: &ViewContext<'_>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
        _targets: &mut Targets<LooksAction>,
    ) {
        self.draw_all(context, theme, area, buffer);
    }

    fn hints(&self) -> Option<Hints> {
        if let Some(panel) = &self.panel {
            return Some(panel.hints());
        }
        if self.filtering {
            return Some(vec![("type", "a part of a name or a tag"), ("Enter", "done"), ("Esc", "all looks")]);
        }
        let typed = self.typed.as_ref()?;
        let turn = if typed.is_empty() { "" } else { "turns the sign" };
        Some(vec![("type", "the value"), ("-", turn), ("Enter", "keep"), ("Esc", "restore")])
    }

    fn modality(&self) -> Modality {
        if self.filtering || self.panel.as_ref().is_some_and(|panel| panel.types()) {
            Modality::Typing
        } else if self.panel.is_some() || self.typed.is_some() || !self.filter.is_empty() {
            Modality::Open
        } else {
            Modality::Free
        }
    }

    fn leave(&mut self) -> Vec<Ask> {
        if self.panel.take().is_some() {
            return self.drop_work();
        }
        if self.typed.take().is_some() {
            return Vec::new();
        }
        self.filter.clear();
        self.filtering = false;
        self.keep_work()
    }

    fn learn(&mut self) -> Learn {
        self.learned_here()
    }

    fn refused(&mut self, why: &str) {
        if let Some(panel) = &mut self.panel {
            panel.refused(why);
        }
        self.work = None;
    }

    fn said(&mut self) -> Option<String> {
        self.said.take()
    }

    fn subscribe(&self, subscription: &mut Subscription) {
        subscription.light = Some(enough_of(self.rig.len()));
        subscription.led = self.values.then_some(self.light as u32);
        subscription.media = true;
    }

    fn remember(&self, memory: &mut Memory) {
        if let Some(look) = self.index().and_then(|index| self.show.looks.get(index)) {
            memory.insert("look".into(), look.name.clone());
        }
    }

    fn recall(&mut self, memory: &Memory) {
        let place = memory.get("look").and_then(|name| self.show.look(name)).map(|(index, _)| index);
        self.looks.chosen = place.unwrap_or(self.looks.chosen);
    }
}
