//! The panel that is open on the view: the form of a route, or the supplies. It has the keys first.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::{Position, Rect};
use splimo_document::edit::Edit;
use splimo_show::{Route, Show, TransportKind};

use super::action::Ask;
use super::doors;
use super::power::Power;
use super::reply::PanelReply;
use super::route_form;
use crate::kit::form::{Form, Reply};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::model::ViewContext;
use splimo_link::network::NetworkStatus;

/// The panel that is open.
pub(super) enum OutputPanel {
    /// A route; without an index it is a new one.
    Route { index: Option<usize>, before: Box<Route>, form: Form },
    /// The supplies.
    Supplies(Power),
    /// The list of what listens where.
    Doors,
}

impl OutputPanel {
    pub(super) fn route(index: Option<usize>, route: &Route, network: &NetworkStatus) -> Self {
        Self::Route { index, before: Box::new(route.clone()), form: route_form::form_of(route, network) }
    }

    pub(super) fn supplies() -> Self {
        Self::Supplies(Power::default())
    }

    pub(super) fn types(&self) -> bool {
        match self {
            Self::Route { .. } => true,
            Self::Supplies(power) => power.types(),
            Self::Doors => false,
        }
    }

    pub(super) fn hints(&self) -> Vec<(&'static str, &'static str)> {
        match self {
            Self::Route { .. } => vec![
                ("↑ ↓", "field"),
                ("← →", "nudge; Shift coarse"),
                ("type", "replaces"),
                ("Enter", "keep"),
                ("Esc", "restore"),
            ],
            Self::Supplies(power) => power.hints(),
            Self::Doors => vec![("Esc", "close")],
        }
    }

    pub(super) fn refused(&mut self, why: &str) {
        match self {
            Self::Route { form, .. } => form.error = Some(why.to_owned()),
            Self::Supplies(power) => power.refused(why),
            Self::Doors => {}
        }
    }

    pub(super) fn click(&mut self, at: Position) {
        if let Self::Route { form, .. } = self {
            form.click(at);
        }
    }

    pub(super) fn key(&mut self, key: KeyEvent, show: &Show) -> Option<PanelReply> {
        match self {
            Self::Supplies(power) => power.key(key, show),
            Self::Doors => match key.code {
                KeyCode::Esc | KeyCode::Enter => PanelReply::close(Vec::new()),
                _ => None,
            },
            Self::Route { index, before, form } => {
                let protocol = form.text("protocol");
                match form.key(key) {
                    Reply::Pass => None,
                    Reply::Restore => PanelReply::close(vec![Ask::drop_tried()]),
                    Reply::Keep => keep(*index, before, form, show),
                    Reply::Quiet => PanelReply::stay(Vec::new()),
                    Reply::Changed => {
                        let was = TransportKind::ALL.iter().copied().find(|p| p.name() == protocol);
                        route_form::protocol_changed(form, was.unwrap_or(before.kind()));
                        route_form::follow(form);
                        PanelReply::stay(tried(*index, before, form))
                    }
                }
            }
        }
    }

    pub(super) fn paste(&mut self, text: &str, show: &Show) -> Vec<Ask> {
        match self {
            Self::Supplies(power) => power.paste(text, show),
            Self::Doors => {}
            Self::Route { form, .. } => {
                form.paste(text);
                route_form::follow(form);
            }
        }
        Vec::new()
    }

    pub(super) fn draw(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let title = match self {
            Self::Route { index: None, .. } => "a new route",
            Self::Route { .. } => "a route; brightness and white point are seen while you change them",
            Self::Supplies(_) => "supplies: what the lights take, as an estimate",
            Self::Doors => "what listens on the network, and who may send",
        };
        Pen::new(Rect { height: 1, ..area }, buffer).put(title, theme.dim());
        let inside = Rect { y: area.y + 2, height: area.height.saturating_sub(2), ..area };
        match self {
            Self::Route { form, .. } => form.draw(theme, inside, buffer),
            Self::Supplies(power) => power.draw(context, theme, inside, buffer),
            Self::Doors => doors::draw(context, theme, inside, buffer),
        }
    }
}

/// The edit that is seen on the lights before it is kept. Addresses are not: half an address is somebody else's.
fn tried(index: Option<usize>, before: &Route, form: &Form) -> Vec<Ask> {
    let (Some(index), "limit" | "white") = (index, form.current()) else { return Vec::new() };
    match route_form::route_of(form, before) {
        Ok(route) => {
            let seen = Route { limit: route.limit, white: route.white, ..before.clone() };
            vec![Ask::try_edit(Edit::PutRoute(index, seen))]
        }
        Err(_) => Vec::new(),
    }
}

fn keep(index: Option<usize>, before: &Route, form: &mut Form, show: &Show) -> Option<PanelReply> {
    let edit = route_form::route_of(form, before).map(|route| match index {
        None => Edit::AddRoutes(vec![route]),
        Some(index) => Edit::PutRoute(index, route),
    });
    match edit.and_then(|edit| edit.apply(show).map(|_| edit).map_err(|refused| refused.to_string())) {
        Ok(edit) => PanelReply::close(vec![Ask::edit(edit)]),
        Err(why) => {
            form.error = Some(why);
            PanelReply::stay(Vec::new())
        }
    }
}
