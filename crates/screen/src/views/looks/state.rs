//! The state of the view: what is chosen, what is open, and the look that is being turned.

use std::collections::BTreeSet;
use std::sync::Arc;
use std::time::Instant;

use splimo_engine::Snapshot;
use splimo_light::rig::Rig;
use splimo_link::document::DraftState;
use splimo_show::followed;
use splimo_show::{Layer, Look, Show};

use super::panel::{LookPanel, PanelContext};
use super::rows::{self, Row};
use super::stage::LookStage;
use crate::kit::gallery::Gallery;
use crate::kit::list::List;
use crate::kit::text_field::TextField;

/// The time that after its key the comparison is held, in seconds; a held key repeats sooner.
const COMPARED: f64 = 0.7;

/// The part of the view that the arrows move in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) enum Pane {
    #[default]
    Looks,
    Layers,
    Lines,
}

impl Pane {
    pub(super) fn next(self) -> Self {
        match self {
            Self::Looks => Self::Layers,
            Self::Layers => Self::Lines,
            Self::Lines => Self::Looks,
        }
    }
}

/// The state of the view.
pub(crate) struct LooksView {
    pub(super) pane: Pane,
    pub(super) looks: List,
    pub(super) layers: List,
    pub(super) lines: List,
    /// Looks and layers that are chosen besides the one that is pointed at.
    pub(super) more_looks: BTreeSet<usize>,
    pub(super) more_layers: BTreeSet<usize>,
    /// The text by which looks are found.
    pub(super) filter: TextField,
    pub(super) filtering: bool,
    /// The text that was typed over the value of a line.
    pub(super) typed: Option<TextField>,
    /// The look as it is tried, until it is kept.
    pub(super) work: Option<Look>,
    pub(super) worked: Instant,
    pub(super) drafts: DraftState,
    /// True if nothing is to move but the stage.
    pub(super) reduced_motion: bool,
    pub(super) panel: Option<Box<dyn LookPanel>>,
    pub(super) copied: Option<Layer>,
    pub(super) compared: Option<Instant>,
    pub(super) values: bool,
    pub(super) light: usize,
    pub(super) gallery: Gallery,
    pub(super) stage: LookStage,
    pub(super) said: Option<String>,
    /// The show that was seen last, for keys.
    pub(super) show: Arc<Show>,
    pub(super) saved: Arc<Show>,
    pub(super) rig: Arc<Rig>,
    pub(super) snapshot: Snapshot,
}

impl Default for LooksView {
    fn default() -> Self {
        let show = Arc::new(Show::empty(""));
        Self {
            pane: Pane::default(),
            looks: List::of_height(2),
            layers: List::default(),
            lines: List::default(),
            more_looks: BTreeSet::new(),
            more_layers: BTreeSet::new(),
            filter: TextField::default(),
            filtering: false,
            typed: None,
            work: None,
            worked: Instant::now(),
            drafts: DraftState::default(),
            reduced_motion: false,
            panel: None,
            copied: None,
            compared: None,
            values: false,
            light: 0,
            gallery: Gallery::default(),
            stage: LookStage::default(),
            said: None,
            show: show.clone(),
            saved: show,
            rig: Arc::default(),
            snapshot: Snapshot::default(),
        }
    }
}

impl LooksView {
    /// The looks that are listed, by index: all, or those that are found.
    pub(super) fn listed(&self) -> Vec<usize> {
        let wanted = self.filter.text().to_lowercase();
        let found = |look: &Look| {
            look.name.to_lowercase().contains(&wanted)
                || look.tags.iter().any(|tag| tag.to_lowercase().contains(&wanted))
        };
        let looks = self.show.looks.iter().enumerate();
        looks.filter(|(_, look)| wanted.is_empty() || found(look)).map(|(index, _)| index).collect()
    }

    /// The place of the chosen look in the show.
    pub(super) fn index(&self) -> Option<usize> {
        self.listed().get(self.looks.chosen).copied()
    }

    /// The look of the show, or what was made of it blind, without what is only tried.
    pub(super) fn base(&self, index: usize) -> Option<&Look> {
        let look = self.show.looks.get(index)?;
        let draft = self.drafts.looks.iter().find(|(name, _)| *name == look.name);
        Some(draft.map_or(look, |(_, draft)| draft))
    }

    /// The chosen look as it is edited.
    pub(super) fn look(&self) -> Option<&Look> {
        self.work.as_ref().or_else(|| self.base(self.index()?))
    }

    /// The chosen layer's place in its look. The list has the topmost first.
    pub(super) fn layer_index(&self) -> Option<usize> {
        let count = self.look()?.layers.len();
        count.checked_sub(1 + self.layers.chosen.min(count.checked_sub(1)?))
    }

    pub(super) fn layer(&self) -> Option<&Layer> {
        self.look()?.layers.get(self.layer_index()?)
    }

    pub(super) fn row(&self) -> Option<Row> {
        rows::rows_of(self.layer()?).get(self.lines.chosen).copied()
    }

    /// The layers that are chosen, by their places in the look.
    pub(super) fn chosen_layers(&self) -> Vec<usize> {
        let mut chosen: BTreeSet<usize> = self.more_layers.clone();
        chosen.extend(self.layer_index());
        let count = self.look().map_or(0, |look| look.layers.len());
        chosen.into_iter().filter(|index| *index < count).collect()
    }

    /// The looks that are chosen, by their places in the show.
    pub(super) fn chosen_looks(&self) -> Vec<usize> {
        let mut chosen: BTreeSet<usize> = self.more_looks.clone();
        chosen.extend(self.index());
        chosen.into_iter().filter(|index| *index < self.show.looks.len()).collect()
    }

    /// Does something with what panels work on.
    pub(super) fn in_context<T>(&self, work: impl FnOnce(&PanelContext<'_>) -> T) -> Option<T> {
        let empty = Look::new("", Vec::new());
        let look = self.index().and_then(|index| self.base(index)).unwrap_or(&empty);
        let layers = self.chosen_layers();
        let layer = self.layer_index().unwrap_or(0);
        Some(work(&PanelContext {
            show: &self.show,
            rig: &self.rig,
            look,
            layer,
            layers: &layers,
            still: self.reduced_motion,
        }))
    }

    /// Takes note of the show as it is now, for the keys that follow.
    pub(super) fn see(&mut self, kept: &Arc<Show>) {
        if !Arc::ptr_eq(&self.show, kept) {
            let [before, after] =
                [&self.show, kept].map(|show| show.looks.iter().map(|look| look.name.as_str()).collect::<Vec<_>>());
            let places = followed(&before, &after);
            self.more_looks = self.more_looks.iter().filter_map(|index| *places.get(*index)?).collect();
            let layers = |show: &Show, name: &str| {
                show.looks.iter().find(|look| look.name == name).map(|look| look.layers.len())
            };
            let name = self.index().map(|index| self.show.looks[index].name.clone());
            if name.is_some_and(|name| layers(&self.show, &name) != layers(kept, &name)) {
                // Layers have no names: which is which cannot be told any more.
                self.more_layers.clear();
            }
            self.show = kept.clone();
        }
    }

    pub(super) fn another_look(&mut self) {
        self.layers.chosen = 0;
        self.lines.chosen = 0;
        self.more_layers.clear();
    }

    /// True if the look is held against how it was saved at this moment.
    pub(super) fn compares(&self) -> bool {
        self.compared.is_some_and(|since| since.elapsed().as_secs_f64() < COMPARED)
    }
}
