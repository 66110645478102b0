//! The show and the stage as they are with a pattern that is written blind: an engine of the screen's own shows it.

use std::sync::Arc;

use splimo_engine::{Engine, Prepared, Published, Snapshot};
use splimo_show::command::{EngineCommand, Origin};
use splimo_show::{Look, Show};

use super::blind::{inputs_of, stage_of};
use super::patterns::pattern_tier;
use crate::model::ViewContext;

/// A show with looks as they were edited blind.
pub(super) struct Written {
    of: Arc<Show>,
    looks: Vec<(String, Look)>,
    show: Arc<Show>,
}

impl Written {
    /// True if it is made of these.
    pub(super) fn is_of(&self, show: &Arc<Show>, looks: &[(String, Look)]) -> bool {
        Arc::ptr_eq(&self.of, show) && self.looks == looks
    }

    pub(super) fn new(of: &Arc<Show>, looks: &[(String, Look)]) -> Self {
        let mut show = Show::clone(of);
        for (name, look) in looks {
            if let Some(place) = show.looks.iter().position(|known| known.name == *name) {
                show.looks[place] = look.clone();
            }
        }
        Self { of: of.clone(), looks: looks.to_vec(), show: Arc::new(show) }
    }

    /// The show with the looks as they were edited.
    pub(super) fn show(&self) -> &Arc<Show> {
        &self.show
    }
}

/// The stage with a pattern on it that nobody else sees.
pub(super) struct BlindStage {
    name: String,
    show: Arc<Show>,
    engine: Engine,
    published: Published,
}

impl BlindStage {
    /// Plays a pattern over what is on stage, on the tier above the lowest.
    pub(super) fn new(name: &str, show: &Arc<Show>, context: &ViewContext<'_>) -> Self {
        let mut engine = stage_of(show, context, |_| true);
        let on = &pattern_tier(show).name;
        let (command, time) = (EngineCommand::CutTo(format!("{on}/{name}")), context.snapshot.time);
        engine.apply_from(&command, Origin::Session, time);
        Self { name: name.to_owned(), show: show.clone(), engine, published: Published::default() }
    }

    /// True if it shows a pattern on the rig that is drawn.
    pub(super) fn shows(&self, name: &str, context: &ViewContext<'_>) -> bool {
        self.name == name && Arc::ptr_eq(self.engine.rig(), context.rig)
    }

    /// Goes on to now, with the pattern as it is written.
    pub(super) fn advance(&mut self, show: &Arc<Show>, context: &ViewContext<'_>) {
        if !Arc::ptr_eq(&self.show, show) {
            let prepared = Prepared::new(show.clone(), context.rig.clone(), context.snapshot.edition);
            drop(self.engine.adopt(Box::new(prepared)));
            self.show = show.clone();
        }
        self.engine.tick(context.snapshot.time, &inputs_of(context));
        self.engine.publish(&mut self.published);
    }

    /// The state of its engine.
    pub(super) fn snapshot(&self) -> &Snapshot {
        &self.published.snapshot
    }

    /// Its light.
    pub(super) fn light(&self) -> &[[f32; 3]] {
        &self.published.light
    }
}
