//! What may be open on the view: a form, a list or a choice that works on the look. It has the keys first.

use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyEvent, MouseEvent};
use ratatui::layout::Rect;
use splimo_core::action::Action;
use splimo_core::engine::Snapshot;
use splimo_core::rig::Rig;
use splimo_core::show::{Layer, Look, Show};

use crate::kit::theme::Theme;

/// What a sheet works on.
pub(super) struct Bench<'a> {
    /// The show, without what is only tried.
    pub(super) show: &'a Arc<Show>,
    pub(super) rig: &'a Arc<Rig>,
    /// The look as it is edited.
    pub(super) look: &'a Look,
    /// Which layer is chosen.
    pub(super) layer: usize,
    /// The layers that are chosen with it.
    pub(super) layers: &'a [usize],
}

impl Bench<'_> {
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

/// What a sheet asks the view to do.
#[derive(Debug)]
pub(super) enum Deed {
    Nothing,
    /// Show this look, without keeping it yet.
    Try(Look),
    /// Keep this look.
    Keep(Look),
    /// Go back to the look as it was before the sheet was opened.
    Drop,
    /// Change all chosen looks this way, in one step.
    Each(fn(&Look, &[usize], &Parcel) -> Look, Box<Parcel>),
    /// Go on to the layer that was added last.
    KeepAndGoTo(Look, usize),
    /// Anything else.
    Do(Vec<Action>),
    /// Leave blind editing: keep what was edited, or drop it.
    EndBlind {
        keep: bool,
    },
}

/// What a change of many looks carries along.
#[derive(Debug, Clone, PartialEq)]
pub(super) enum Parcel {
    Target(Vec<String>),
    Change(splimo_core::making::Change),
}

/// What a key leads to.
pub(super) struct Answer {
    pub(super) deed: Deed,
    pub(super) open: bool,
    pub(super) said: Option<String>,
    /// What opens in its place.
    pub(super) next: Option<Box<dyn Sheet>>,
}

impl Answer {
    pub(super) fn stay() -> Option<Self> {
        Self::with(Deed::Nothing)
    }

    pub(super) fn with(deed: Deed) -> Option<Self> {
        Some(Self { deed, open: true, said: None, next: None })
    }

    pub(super) fn close(deed: Deed) -> Option<Self> {
        Some(Self { deed, open: false, said: None, next: None })
    }

    pub(super) fn said(deed: Deed, said: String) -> Option<Self> {
        Some(Self { deed, open: false, said: Some(said), next: None })
    }

    pub(super) fn open(next: Box<dyn Sheet>) -> Option<Self> {
        Some(Self { deed: Deed::Nothing, open: false, said: None, next: Some(next) })
    }
}

/// Something that is open on the view.
pub(super) trait Sheet {
    /// What it is, in a line.
    fn title(&self) -> String;

    /// The keys that work now.
    fn hints(&self) -> Vec<(&'static str, &'static str)>;

    /// What a key leads to; none where the key is not its own.
    fn key(&mut self, key: KeyEvent, bench: &Bench<'_>) -> Option<Answer>;

    fn draw(&mut self, bench: &Bench<'_>, snapshot: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer);

    /// Whether letters are typed into it.
    fn types(&self) -> bool {
        true
    }

    fn paste(&mut self, _text: &str, _bench: &Bench<'_>) -> Deed {
        Deed::Nothing
    }

    /// The document would not have what it asked for.
    fn refused(&mut self, _why: &str) {}

    /// Whether it needs the room of the lists as well.
    fn wide(&self) -> bool {
        false
    }

    /// What the mouse does on the stage, which is `stage`.
    fn mouse(&mut self, _mouse: MouseEvent, _stage: Rect, _bench: &Bench<'_>) -> Deed {
        Deed::Nothing
    }
}

pub(super) const FORM_HINTS: [(&str, &str); 5] =
    [("↑ ↓", "field"), ("← →", "nudge; Shift coarse"), ("type", "replaces"), ("Enter", "keep"), ("Esc", "restore")];
