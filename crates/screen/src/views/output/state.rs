//! The state of the view: what is chosen in it, and what is open.

use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::layout::{Position, Rect};
use splimo_document::edit::Edit;
use splimo_document::patch::Occupancy;
use splimo_link::advice::{self, Advice};
use splimo_link::network::NetworkStatus;
use splimo_link::output::StreamStatus;
use splimo_show::followed;
use splimo_show::{Destination, Destinations, Route, Show};
use splimo_wire::directory::Device;

use super::action::Ask;
use super::panel::OutputPanel;
use super::slots::Slots;
use super::{nodes, routes};
use crate::kit::beams;
use crate::kit::list::List;
use crate::kit::stage_map::StageMap;
use crate::kit::theme::Theme;
use crate::model::{Model, ViewContext};

/// Said where a key is for a route and none is seen to be chosen.
const NO_ROUTE: &str = "no route is chosen: Tab goes to the routes";

/// The part of the view that the arrows move in.
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
    pub(super) fn next(self) -> Self {
        match self {
            Self::Routes => Self::Nodes,
            Self::Nodes => Self::Slots,
            Self::Slots => Self::Routes,
        }
    }
}

/// The view and its state.
pub(crate) struct OutputView {
    pub(super) stage: StageMap,
    pub(super) pane: Pane,
    pub(super) routes: List,
    pub(super) nodes: List,
    pub(super) slots: Slots,
    pub(super) panel: Option<OutputPanel>,
    pub(super) advice: Advice,
    /// The show that was seen last, for keys.
    pub(super) network: NetworkStatus,
    pub(super) streams: Vec<StreamStatus>,
    pub(super) show: Arc<Show>,
    /// The number of lights that are drawn.
    pub(super) lights: usize,
    pub(super) said: Option<String>,
}

impl Default for OutputView {
    fn default() -> Self {
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
            show: Arc::new(Show::empty("")),
            lights: 0,
            said: None,
        }
    }
}

impl OutputView {
    /// Takes note of what there is, for the keys that follow.
    pub(super) fn note(&mut self, model: &Model) {
        let show = model.document.shown();
        let changed = !Arc::ptr_eq(&self.show, show)
            || self.network.now != model.network.now
            || self.streams.len() != model.output.streams.len();
        if changed {
            self.follow(show, &model.network);
            let unrouted = match Arc::ptr_eq(&self.show, show) {
                true => std::mem::take(&mut self.advice.unrouted),
                false => Occupancy::of(show).unrouted(show),
            };
            self.show = show.clone();
            self.network = model.network.clone();
            self.advice = Advice { unrouted, ..advice::advise(&self.show, &model.output.streams, &model.network) };
        }
        self.streams.clone_from(&model.output.streams);
    }

    /// The route that is seen to be chosen.
    pub(super) fn route(&mut self) -> Option<Route> {
        let route = self.show.routes.get(self.routes.chosen).filter(|_| self.pane == Pane::Routes).cloned();
        if route.is_none() {
            let none = if self.show.routes.is_empty() { "there is no route yet: a adds one" } else { NO_ROUTE };
            self.said = Some(none.to_owned());
        }
        route
    }

    pub(super) fn open(&mut self, panel: OutputPanel) -> Vec<Ask> {
        self.panel = Some(panel);
        Vec::new()
    }

    pub(super) fn change_route(&mut self) -> Vec<Ask> {
        let Some(route) = self.route() else { return Vec::new() };
        self.open(OutputPanel::route(Some(self.routes.chosen), &route, &self.network.clone()))
    }

    pub(super) fn switch_route(&mut self) -> Vec<Ask> {
        let Some(route) = self.route() else { return Vec::new() };
        self.said = Some(format!("{} is {}", route.name, if route.enabled { "off" } else { "on" }));
        let switched = Route { enabled: !route.enabled, ..route };
        vec![Ask::edit(Edit::PutRoute(self.routes.chosen, switched))]
    }

    pub(super) fn remove_route(&mut self) -> Vec<Ask> {
        let Some(route) = self.route() else { return Vec::new() };
        self.said = Some(format!("{} is gone; Ctrl-Z brings it back", route.name));
        vec![Ask::edit(Edit::RemoveRoute(self.routes.chosen))]
    }

    pub(super) fn choose_row(&mut self, by: i32) {
        match self.pane {
            Pane::Routes => {
                self.routes.choose_by(by);
                self.slots.go_to_route(self.routes.chosen, &self.streams);
            }
            Pane::Nodes => self.nodes.choose_by(by),
            Pane::Slots => self.slots.move_down(by),
        }
    }

    /// The node that is seen to be chosen.
    fn node(&mut self) -> Option<Device> {
        if self.pane != Pane::Nodes {
            self.said = Some("no node is chosen: Tab goes to the nodes".to_owned());
            return None;
        }
        let device = self.network.directory.devices().get(self.nodes.chosen).cloned();
        if device.is_none() {
            self.said = Some("no node has answered yet".to_owned());
        }
        device
    }

    /// Routes for the universes that have none to the ports of the chosen node that nothing feeds.
    pub(super) fn route_to_node(&mut self) -> Vec<Ask> {
        let Some(device) = self.node() else { return Vec::new() };
        let routes = advice::routes_to(&self.show, &self.streams, &device, &self.advice.unrouted);
        if routes.is_empty() {
            let why = match (device.outputs.is_empty(), self.advice.unrouted.is_empty()) {
                (true, _) => "has no output",
                (false, true) => "gets nothing: every universe with lights has a route; a adds one by hand",
                (false, false) => "is fed already; a adds a route by hand",
            };
            self.said = Some(format!("{} {why}", device.address));
            return Vec::new();
        }
        let told: Vec<String> = routes
            .iter()
            .map(|route| format!("{} as {}", route.universes, route.name_of(route.universes.first).unwrap_or_default()))
            .collect();
        self.said = Some(format!("universes to {}: {}", device.address, told.join(", ")));
        vec![Ask::edit(Edit::AddRoutes(routes))]
    }

    /// Leaves the chosen node alone, or no more.
    pub(super) fn ignore_node(&mut self) -> Vec<Ask> {
        let Some(device) = self.node() else { return Vec::new() };
        let ignored = !self.show.settings.ignored_nodes.contains(&device.address);
        let what = if ignored { "is left alone: no route to nodes sends there" } else { "counts again" };
        self.said = Some(format!("{} {what}", device.address));
        vec![Ask::edit(Edit::IgnoreNode(device.address, ignored))]
    }

    /// Has the chosen route go to the nodes that it reaches now and to no others, or to all nodes again.
    pub(super) fn pin_route(&mut self) -> Vec<Ask> {
        let Some(route) = self.route() else { return Vec::new() };
        let pinned = route.to.0.iter().any(|to| matches!(to, Destination::OnlyNodes(_)));
        if !pinned && !route.to.0.contains(&Destination::Nodes) {
            self.said = Some(format!("{} goes to {}: only routes to nodes can be kept to some", route.name, route.to));
            return Vec::new();
        }
        let nodes = advice::takers_of(&route, &self.show.settings.ignored_nodes, &self.network);
        if !pinned && nodes.is_empty() {
            self.said = Some(format!("no node takes {} yet; its nodes have to answer first", route.name));
            return Vec::new();
        }
        let list: Vec<String> = nodes.iter().map(ToString::to_string).collect();
        self.said = Some(match pinned {
            true => format!("{} goes to all nodes that ask for it", route.name),
            false => format!("{} goes to {} only, whoever else answers", route.name, list.join(", ")),
        });
        let kept = route.to.0.iter().map(|to| match to {
            Destination::Nodes => Destination::OnlyNodes(nodes.clone()),
            Destination::OnlyNodes(_) => Destination::Nodes,
            other => other.clone(),
        });
        let kept = Route { to: Destinations(kept.collect()), ..route };
        vec![Ask::edit(Edit::PutRoute(self.routes.chosen, kept))]
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

    pub(super) fn draw_all(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let rig = context.rig;
        self.lights = rig.len();
        let below = self.slots.lines(area);
        let top = Rect { height: area.height.saturating_sub(below + 1), ..area };
        // The state of a route matters more here than the picture of the stage.
        let side = match area.width {
            110.. => area.width * 2 / 5,
            72.. => area.width / 4,
            _ => 0,
        };
        let left = Rect { width: area.width - side, ..top };
        let stage = Rect { x: left.right(), y: top.y, width: side.saturating_sub(1), height: top.height };
        if let Some(panel) = &mut self.panel {
            panel.draw(context, theme, Rect { x: left.x + 1, width: left.width - 2, ..left }, buffer);
        } else {
            self.draw_lists(context, theme, left, buffer);
        }
        if side > 0 {
            beams::live_stage(&mut self.stage, context, theme, stage, buffer);
        }
        let rule = "─".repeat(usize::from(area.width.saturating_sub(2)));
        buffer.set_stringn(area.x + 1, top.bottom(), rule, usize::from(area.width), theme.faint());
        let slots = Rect { y: top.bottom() + 1, height: (area.height - top.height).saturating_sub(1), ..area };
        self.slots.draw(context, rig, self.pane == Pane::Slots, theme, slots, buffer);
    }

    pub(super) fn draw_lists(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        // Routes are few and have to be seen; nodes get the rest, three lines at the least.
        let wanted = context.edited.show.routes.len() as u16 + 2 + u16::from(!self.advice.unrouted.is_empty());
        let most = area.height.saturating_sub(5).max(area.height * 3 / 5);
        let routes = Rect { height: wanted.clamp(3, most.max(3)).min(area.height), ..area };
        let nodes = Rect { y: routes.bottom(), height: area.height - routes.height, ..area };
        let chosen = self.pane == Pane::Routes;
        routes::draw(&mut self.routes, context, &self.advice, chosen, theme, routes, buffer);
        nodes::draw(&mut self.nodes, context, &self.advice, self.pane == Pane::Nodes, theme, nodes, buffer);
    }

    /// Has the same route and the same node be chosen where others come and go, so that no key means one that came between.
    pub(super) fn follow(&mut self, show: &Show, network: &NetworkStatus) {
        let routes =
            [&self.show, show].map(|show| show.routes.iter().map(|route| route.name.as_str()).collect::<Vec<_>>());
        if let Some(Some(place)) = followed(&routes[0], &routes[1]).get(self.routes.chosen) {
            self.routes.chosen = *place;
        }
        let address = self.network.directory.devices().get(self.nodes.chosen).map(|device| device.address);
        let place = network.directory.devices().iter().position(|device| Some(device.address) == address);
        self.nodes.chosen = place.unwrap_or(self.nodes.chosen);
    }
}
