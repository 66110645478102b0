//! The panel that may be open on the view: a form, a list or a choice that works on the look. It has the keys first.

use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyEvent, MouseEvent};
use ratatui::layout::Rect;
use splimo_engine::Snapshot;
use splimo_light::rig::Rig;
use splimo_show::{Layer, Look, Show};

use super::action::Ask;
use crate::kit::theme::Theme;

/// The context of a panel: what it works on.
pub(super) struct PanelContext<'a> {
    /// The show, without what is only tried.
    pub(super) show: &'a Arc<Show>,
    pub(super) rig: &'a Arc<Rig>,
    /// The look as it is edited.
    pub(super) look: &'a Look,
    /// The layer that is chosen.
    pub(super) layer: usize,
    /// The layers that are chosen with it.
    pub(super) layers: &'a [usize],
    /// True if miniatures stand still.
    pub(super) still: bool,
}

impl PanelContext<'_> {
    pub(super) fn chosen(&self) -> Option<&Layer> {
        self.look.layers.get(self.layer)
    }

    /// The look with the chosen layer changed.
    pub(super) fn with_layer(&self, change: impl FnOnce(&mut Layer)) -> Look {
        let mut look = self.look.clone();
        if let Some(layer) = look.layers.get_mut(self.layer) {
            change(layer);
        }
        look
    }
}

/// A request of a panel to its view.
#[derive(Debug)]
pub(super) enum PanelRequest {
    Nothing,
    /// Show this look, without keeping it yet.
    Try(Look),
    /// Keep this look.
    Keep(Look),
    /// Keep this look after something else, which it needs.
    KeepAfter(Vec<Ask>, Look),
    /// Go back to the look as it was before the panel was opened.
    Drop,
    /// Change all chosen looks this way, in one step.
    Each(fn(&Look, &[usize], &BulkChange) -> Look, Box<BulkChange>),
    /// Go on to the layer that was added last.
    KeepAndGoTo(Look, usize),
    /// Anything else.
    Ask(Vec<Ask>),
}

/// A change of many looks.
#[derive(Debug, Clone, PartialEq)]
pub(super) enum BulkChange {
    Target(Vec<String>),
    Change(splimo_document::making::LayerChange),
}

/// The reply of a panel to a key.
pub(super) struct PanelReply {
    pub(super) request: PanelRequest,
    pub(super) open: bool,
    pub(super) said: Option<String>,
    /// The panel that opens in its place.
    pub(super) next: Option<Box<dyn LookPanel>>,
}

impl PanelReply {
    pub(super) fn stay() -> Option<Self> {
        Self::with(PanelRequest::Nothing)
    }

    pub(super) fn with(request: PanelRequest) -> Option<Self> {
        Some(Self { request, open: true, said: None, next: None })
    }

    pub(super) fn close(request: PanelRequest) -> Option<Self> {
        Some(Self { request, open: false, said: None, next: None })
    }

    pub(super) fn said(request: PanelRequest, said: String) -> Option<Self> {
        Some(Self { request, open: false, said: Some(said), next: None })
    }

    pub(super) fn open(next: Box<dyn LookPanel>) -> Option<Self> {
        Some(Self { request: PanelRequest::Nothing, open: false, said: None, next: Some(next) })
    }
}

/// Something that is open on the view.
pub(super) trait LookPanel {
    /// Its title, in a line.
    fn title(&self) -> String;

    /// The keys that work now.
    fn hints(&self) -> Vec<(&'static str, &'static str)>;

    /// Handles a key; none where the key is not its own.
    fn key(&mut self, key: KeyEvent, context: &PanelContext<'_>) -> Option<PanelReply>;

    fn draw(&mut self, context: &PanelContext<'_>, snapshot: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer);

    /// True if letters are typed into it.
    fn types(&self) -> bool {
        true
    }

    fn paste(&mut self, _text: &str, _context: &PanelContext<'_>) -> PanelRequest {
        PanelRequest::Nothing
    }

    /// The document would not have what it asked for.
    fn refused(&mut self, _why: &str) {}

    /// True if it needs the room of the lists as well.
    fn wide(&self) -> bool {
        false
    }

    /// Handles the mouse on the stage, which is `stage`.
    fn mouse(&mut self, _mouse: MouseEvent, _stage: Rect, _context: &PanelContext<'_>) -> PanelRequest {
        PanelRequest::Nothing
    }
}

pub(super) const FORM_HINTS: [(&str, &str); 5] =
    [("↑ ↓", "field"), ("← →", "nudge; Shift coarse"), ("type", "replaces"), ("Enter", "keep"), ("Esc", "restore")];
