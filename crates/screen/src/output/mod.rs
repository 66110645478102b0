//! The view Output: which box gets what and whether it is well, who is on the network, and what is in every slot.

mod nodes;
mod panel;
mod power;
mod route_form;
mod routes;
mod slots;
#[cfg(test)]
mod tests;

use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::{Position, Rect};
use splimo_core::action::Action;
use splimo_core::edit::Edit;
use splimo_core::rig::Rig;
use splimo_core::show::{Route, Show};
use splimo_wire::Protocol;

use super::face::Seen;
use crate::kit::list::List;
use crate::kit::selection::followed;
use crate::kit::stage_map::StageMap;
use crate::kit::theme::Theme;
use panel::{Answer, Panel};
use slots::Slots;
use splimo_link::advice::{self, Advice};
use splimo_link::output::StreamStatus;
use splimo_runtime::network::NetworkStatus;

/// Which part of the view the arrows move in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) enum Pane {
    /// The routes.
    #[default]
    Routes,
    /// The nodes.
    Nodes,
    /// The slots of a universe.
    Slots,
}

impl Pane {
    fn next(self) -> Self {
        match self {
            Self::Routes => Self::Nodes,
            Self::Nodes => Self::Slots,
            Self::Slots => Self::Routes,
        }
    }
}

/// The state of the view.
pub(super) struct OutputView {
    stage: StageMap,
    pane: Pane,
    routes: List,
    nodes: List,
    slots: Slots,
    panel: Option<Panel>,
    advice: Advice,
    /// What was seen last, for keys.
    network: NetworkStatus,
    streams: Vec<StreamStatus>,
    show: Arc<Show>,
    said: Option<String>,
}

impl OutputView {
    pub(super) fn new(show: &Arc<Show>) -> Self {
        Self {
            stage: StageMap::default(),
            pane: Pane::default(),
            routes: List::default(),
            nodes: List::default(),
            slots: Slots::default(),
            panel: None,
            advice: Advice::default(),
            network: NetworkStatus::default(),
            streams: Vec::new(),
            show: show.clone(),
            said: None,
        }
    }

    /// Takes note that the lights are others, or lie elsewhere.
    pub(super) fn rig_changed(&mut self) {
        self.stage = StageMap::default();
    }

    /// What there is to say since it was last asked.
    pub(super) fn said(&mut self) -> Option<String> {
        self.said.take()
    }

    pub(super) fn has_open(&self) -> bool {
        self.panel.is_some()
    }

    /// Whether letters are typed into something.
    pub(super) fn types(&self) -> bool {
        self.panel.as_ref().is_some_and(Panel::types)
    }

    pub(super) fn hints(&self) -> Option<Vec<(&'static str, &'static str)>> {
        self.panel.as_ref().map(Panel::hints)
    }

    pub(super) fn refused(&mut self, why: &str) {
        if let Some(panel) = &mut self.panel {
            panel.refused(why);
        }
    }

    /// The universe of the other side that is looked at, if one is.
    pub(super) fn watched(&self) -> Option<(Protocol, u16)> {
        self.slots.watched()
    }

    /// Closes what is open; what was only tried is dropped.
    pub(super) fn leave(&mut self) -> Vec<Action> {
        if self.panel.take().is_some() { vec![Action::DropTried] } else { Vec::new() }
    }

    /// Carries out an action that is this view's; false where it is not.
    pub(super) fn act(&mut self, action: &Action) -> Option<Vec<Action>> {
        match action {
            Action::NextPane => self.pane = self.pane.next(),
            Action::ChooseRow(by) => match self.pane {
                Pane::Routes => {
                    self.routes.choose_by(*by);
                    self.slots.go_to_route(self.routes.chosen, &self.streams);
                }
                Pane::Nodes => self.nodes.choose_by(*by),
                Pane::Slots => self.slots.move_down(*by),
            },
            Action::ChooseSlot(by) => match self.pane {
                Pane::Slots => self.slots.move_by(*by),
                _ => self.slots.choose_by(*by),
            },
            Action::NextUniverse(by) => self.slots.choose_by(*by),
            Action::SlotBars => self.slots.turn_bars(),
            Action::ShowReceived => self.slots.turn_received(),
            Action::AddRoute => {
                let route = route_form::fresh(&self.show);
                self.panel = Some(Panel::route(None, &route, &self.network));
            }
            Action::ChangeRoute => match self.route() {
                Some(route) => self.panel = Some(Panel::route(Some(self.routes.chosen), &route, &self.network)),
                None => self.said = Some("there is no route yet: a adds one".to_owned()),
            },
            Action::SwitchRoute => {
                let Some(route) = self.route() else { return Some(Vec::new()) };
                self.said = Some(format!("{} is {}", route.name, if route.enabled { "off" } else { "on" }));
                let switched = Route { enabled: !route.enabled, ..route };
                return Some(vec![Action::Edit(Edit::PutRoute(self.routes.chosen, switched))]);
            }
            Action::RemoveRoute => {
                let Some(route) = self.route() else { return Some(Vec::new()) };
                self.said = Some(format!("{} is gone; Ctrl-Z brings it back", route.name));
                return Some(vec![Action::Edit(Edit::RemoveRoute(self.routes.chosen))]);
            }
            Action::RouteToNode => return Some(self.route_to_node()),
            Action::ShowSupplies => self.panel = Some(Panel::supplies()),
            _ => return None,
        }
        Some(Vec::new())
    }

    fn route(&self) -> Option<Route> {
        self.show.routes.get(self.routes.chosen).cloned()
    }

    /// Routes for the ports of the chosen node that nothing feeds.
    fn route_to_node(&mut self) -> Vec<Action> {
        let Some(device) = self.network.directory.devices().get(self.nodes.chosen) else {
            self.said = Some("no node has answered yet".to_owned());
            return Vec::new();
        };
        let routes = advice::routes_to(&self.show, &self.streams, device);
        let Some(first) = routes.first() else {
            let why = if device.outputs.is_empty() { "has no output" } else { "is fed already" };
            self.said = Some(format!("{} {why}", device.address));
            return Vec::new();
        };
        let what = if routes.len() == 1 { "a route".to_owned() } else { format!("{} routes", routes.len()) };
        self.said = Some(format!("{what} to {}, from universe {} on", device.address, first.universes.first));
        vec![Action::Edit(Edit::AddRoutes(routes))]
    }

    /// What a key leads to where something is open.
    pub(super) fn key(&mut self, key: KeyEvent) -> Option<Vec<Action>> {
        let quits = key.modifiers.contains(KeyModifiers::CONTROL) && key.code == KeyCode::Char('c');
        let panel = self.panel.as_mut().filter(|_| !quits)?;
        let Answer { actions, open, said } = panel.key(key, &self.show)?;
        self.said = said;
        if !open {
            self.panel = None;
        }
        Some(actions)
    }

    pub(super) fn paste(&mut self, text: &str) -> Vec<Action> {
        self.panel.as_mut().map_or_else(Vec::new, |panel| panel.paste(text, &self.show))
    }

    /// Chooses what is clicked on.
    pub(super) fn click(&mut self, at: Position) {
        if let Some(panel) = &mut self.panel {
            panel.click(at);
        }
        if self.routes.click(at) {
            self.pane = Pane::Routes;
            self.slots.go_to_route(self.routes.chosen, &self.streams);
        } else if self.nodes.click(at) {
            self.pane = Pane::Nodes;
        } else if self.slots.click(at) {
            self.pane = Pane::Slots;
        }
    }

    pub(super) fn draw(&mut self, seen: &Seen<'_>, rig: &Rig, theme: Theme, area: Rect, buffer: &mut Buffer) {
        self.note(seen);
        let below = self.slots.lines(area);
        let top = Rect { height: area.height.saturating_sub(below + 1), ..area };
        let wide = area.width >= 110;
        let side = if wide { area.width * 2 / 5 } else { area.width / 4 };
        let left = Rect { width: area.width - side, ..top };
        let stage = Rect { x: left.right(), y: top.y, width: side - 1, height: top.height };
        if let Some(panel) = &mut self.panel {
            panel.draw(seen, theme, Rect { x: left.x + 1, width: left.width - 2, ..left }, buffer);
        } else {
            self.draw_lists(seen, theme, left, buffer);
        }
        self.stage.draw(rig, seen.show.canvas, &seen.snapshot.light, stage, theme, buffer);
        let rule = "─".repeat(usize::from(area.width.saturating_sub(2)));
        buffer.set_stringn(area.x + 1, top.bottom(), rule, usize::from(area.width), theme.faint());
        let slots = Rect { y: top.bottom() + 1, height: (area.height - top.height).saturating_sub(1), ..area };
        self.slots.draw(seen, rig, self.pane == Pane::Slots, theme, slots, buffer);
    }

    fn draw_lists(&mut self, seen: &Seen<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        // Routes are few and have to be seen; nodes get the rest, three lines at the least.
        let wanted = seen.desk.show.routes.len() as u16 + 2;
        let most = area.height.saturating_sub(5).max(area.height * 3 / 5);
        let routes = Rect { height: wanted.clamp(3, most.max(3)).min(area.height), ..area };
        let nodes = Rect { y: routes.bottom(), height: area.height - routes.height, ..area };
        let chosen = self.pane == Pane::Routes;
        routes::draw(&mut self.routes, seen, &self.advice, chosen, theme, routes, buffer);
        nodes::draw(&mut self.nodes, seen, &self.advice, self.pane == Pane::Nodes, theme, nodes, buffer);
    }

    /// Has the same route and the same node be chosen where others come and go, so that no key means one that came between.
    fn follow(&mut self, show: &Show, network: &NetworkStatus) {
        let routes =
            [&self.show, show].map(|show| show.routes.iter().map(|route| route.name.as_str()).collect::<Vec<_>>());
        if let Some(Some(place)) = followed(&routes[0], &routes[1]).get(self.routes.chosen) {
            self.routes.chosen = *place;
        }
        let address = self.network.directory.devices().get(self.nodes.chosen).map(|device| device.address);
        let place = network.directory.devices().iter().position(|device| Some(device.address) == address);
        self.nodes.chosen = place.unwrap_or(self.nodes.chosen);
    }

    /// Takes note of what is seen, for the keys that follow.
    fn note(&mut self, seen: &Seen<'_>) {
        let changed = !Arc::ptr_eq(&self.show, &seen.desk.show)
            || self.network.now != seen.network.now
            || self.streams.len() != seen.output.streams.len();
        if changed {
            self.follow(&seen.desk.show, seen.network);
            self.show = seen.desk.show.clone();
            self.network = seen.network.clone();
            self.advice = advice::advise(&self.show, &seen.output.streams, seen.network);
        }
        self.streams.clone_from(&seen.output.streams);
    }
}
