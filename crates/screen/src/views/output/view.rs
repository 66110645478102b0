//! The view as the screen sees it.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyEvent, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};
use splimo_link::subscription::Subscription;

use super::action::{Ask, KEYS, OutputAction};
use super::panel::OutputPanel;
use super::reply::PanelReply;
use super::route_form;
use super::state::{OutputView, Pane};
use crate::kit::stage_map::enough_of;
use crate::kit::theme::Theme;
use crate::model::{Model, ViewContext};
use crate::view::{Handled, Hints, KeyBinding, Memory, Modality, Targets, View, ViewSpec};

impl View for OutputView {
    type Action = OutputAction;

    const SPEC: ViewSpec = ViewSpec {
        name: "output",
        function_key: 3,
        digit: '2',
        help: &[
            "Routes say which universes go to which box; nodes are the boxes that answer on the network.",
            "Below are the 512 slots of a universe, as they leave or (v) as they come in, and how the chosen slot got",
            "its value. Tab goes from routes to nodes to slots; a key changes only what is seen to be chosen.",
        ],
        other_keys: &[],
        shift_arrows: false,
    };

    const KEYS: &'static [KeyBinding<OutputAction>] = KEYS;

    fn sync(&mut self, model: &Model) {
        self.note(model);
    }

    fn key(&mut self, key: KeyEvent) -> Handled<OutputAction> {
        let reply = self.panel.as_mut().and_then(|panel| panel.key(key, &self.show));
        let Some(PanelReply { asks, open, said }) = reply else { return Handled::Not };
        self.said = said;
        if !open {
            self.panel = None;
        }
        Handled::Done(asks)
    }

    fn mouse(&mut self, mouse: MouseEvent) -> Option<Vec<Ask>> {
        if mouse.kind != MouseEventKind::Down(MouseButton::Left) {
            return None;
        }
        self.click(Position::new(mouse.column, mouse.row));
        Some(Vec::new())
    }

    fn wheel(&self, by: i32) -> Ask {
        Ask::Action(OutputAction::ChooseRow(-by))
    }

    fn paste(&mut self, text: &str) -> Vec<Ask> {
        self.panel.as_mut().map_or_else(Vec::new, |panel| panel.paste(text, &self.show))
    }

    fn act(&mut self, action: &OutputAction) -> Vec<Ask> {
        match action {
            OutputAction::NextPane => self.pane = self.pane.next(),
            OutputAction::ChooseRow(by) => self.choose_row(*by),
            OutputAction::ChooseSlot(by) => match self.pane {
                Pane::Slots => self.slots.move_by(*by),
                Pane::Routes | Pane::Nodes => self.slots.choose_by(*by),
            },
            OutputAction::NextUniverse(by) => self.slots.choose_by(*by),
            OutputAction::SlotBars => self.slots.turn_bars(),
            OutputAction::LookAt(universe) => {
                let looked = self.slots.look_at(universe);
                self.said = looked.err();
            }
            OutputAction::ShowReceived => self.slots.turn_received(),
            OutputAction::AddRoute => {
                let route = route_form::fresh(&self.show, &self.advice.unrouted);
                return self.open(OutputPanel::route(None, &route, &self.network.clone()));
            }
            OutputAction::ChangeRoute => return self.change_route(),
            OutputAction::SwitchRoute => return self.switch_route(),
            OutputAction::RemoveRoute => return self.remove_route(),
            OutputAction::RouteToNode => return self.route_to_node(),
            OutputAction::IgnoreNode => return self.ignore_node(),
            OutputAction::PinRoute => return self.pin_route(),
            OutputAction::ShowDoors => return self.open(OutputPanel::Doors),
            OutputAction::ShowSupplies => return self.open(OutputPanel::supplies()),
        }
        Vec::new()
    }

    fn draw(
        &mut self,
        context: &ViewContext<'_>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
        _targets: &mut Targets<OutputAction>,
    ) {
        self.draw_all(context, theme, area, buffer);
    }

    fn hints(&self) -> Option<Hints> {
        self.panel.as_ref().map(OutputPanel::hints)
    }

    fn modality(&self) -> Modality {
        match &self.panel {
            None => Modality::Free,
            Some(panel) if panel.types() => Modality::Typing,
            Some(_) => Modality::Open,
        }
    }

    fn leave(&mut self) -> Vec<Ask> {
        if self.panel.take().is_some() { vec![Ask::drop_tried()] } else { Vec::new() }
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
        subscription.light = Some(enough_of(self.lights));
        subscription.slots = self.slots.wanted();
        subscription.received = self.slots.watched();
        subscription.loads = matches!(self.panel, Some(OutputPanel::Supplies(_)));
    }

    fn remember(&self, memory: &mut Memory) {
        if let Some(route) = self.show.routes.get(self.routes.chosen) {
            memory.insert("route".into(), route.name.clone());
        }
    }

    fn recall(&mut self, memory: &Memory) {
        let place = |name: &String| self.show.routes.iter().position(|route| route.name == *name);
        self.routes.chosen = memory.get("route").and_then(place).unwrap_or(self.routes.chosen);
    }
}
