//! The target that the next moved control is bound to: the chosen look, or the chosen line of a layer by way of a control of the
//! show.

use splimo_document::edit::Edit;
use splimo_document::making;

use super::rows::Row;
use super::state::{LooksView, Pane};
use crate::view::Learn;

impl LooksView {
    pub(super) fn learned_here(&self) -> Learn {
        if self.panel.is_some() {
            return Learn::Nothing("close what is open first");
        }
        let (Some(index), Some(look)) = (self.index(), self.look()) else {
            return Learn::Nothing("choose a look first");
        };
        let row = match self.pane {
            Pane::Looks => return Learn::Target(format!("fire-look {}", look.name)),
            Pane::Layers => Some(Row::Opacity),
            Pane::Lines => self.row(),
        };
        let Some(place) = self.layer_index() else { return Learn::Nothing("there is no layer yet: a adds one") };
        let layer = &look.layers[place];
        let Some(name) = row.and_then(|row| row.moved_name(layer)) else {
            return Learn::Nothing("numbers, colours and the opacity can be learnt; choose one of them");
        };
        if let Some(control) = making::control_of(layer, &name) {
            return Learn::Target(format!("control {control}"));
        }
        if self.drafts.blind {
            return Learn::Nothing("a control is bound to what is live: b ends blind");
        }
        let Some(control) = making::free_control(&self.show) else {
            return Learn::Nothing("all 64 controls are taken");
        };
        let Some(moved) = making::controlled(layer, &name, control) else {
            return Learn::Nothing("that cannot be moved by a control");
        };
        let mut look = look.clone();
        look.layers[place] = moved;
        Learn::After(Box::new(Edit::PutLooks(vec![(index, look)])), format!("control {control}"))
    }
}
