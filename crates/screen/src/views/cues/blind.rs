//! A cue tried blind: an engine of the screen's own shows what the stage would be at it, and nothing goes out.

use std::sync::Arc;

use splimo_core::command::{CuePlace, CueTarget, EngineCommand, NamedLevel, Origin};
use splimo_core::engine::{Engine, Inputs, Prepared};

use crate::model::ViewContext;

/// A cue that is tried.
pub(super) struct Blind {
    pub(super) cue: CuePlace,
    edition: u64,
    engine: Engine,
    light: Vec<[f32; 3]>,
}

impl Blind {
    /// Tries a cue on the stage as it is: what the cue and its list do not say stays as it is there.
    pub(super) fn new(cue: CuePlace, context: &ViewContext<'_>) -> Self {
        let prepared = Prepared::new(context.show.clone(), context.rig.clone(), context.snapshot.edition);
        let mut engine = Engine::start(prepared);
        let time = context.snapshot.time;
        let mut ask = |command: EngineCommand| engine.apply_from(&command, Origin::Session, time);
        ask(EngineCommand::Tempo(context.snapshot.clock.bpm));
        ask(EngineCommand::Master(context.snapshot.master * 100.0));
        let tiers = context.show.stack().iter().zip(&context.snapshot.tiers);
        for (tier, state) in tiers {
            let look = state.look.and_then(|look| context.show.looks.get(look));
            if let Some(look) = look.filter(|_| !matches!(state.by, Origin::List(_))) {
                ask(EngineCommand::CutTo(format!("{}/{}", tier.name, look.name)));
            }
            ask(EngineCommand::TierLevel(NamedLevel { name: tier.name.clone(), percent: state.level * 100.0 }));
        }
        ask(EngineCommand::GoToCue(CueTarget { cue: cue.clone(), seconds: 0.0 }));
        ask(EngineCommand::PauseCues(cue.list.clone()));
        Self { cue, edition: context.snapshot.edition, engine, light: Vec::new() }
    }

    /// True if it is of another edition of the show than the one that is played.
    pub(super) fn is_old(&self, context: &ViewContext<'_>) -> bool {
        self.edition != context.snapshot.edition
    }

    /// The light as it would be now.
    pub(super) fn light(&mut self, context: &ViewContext<'_>) -> &[[f32; 3]] {
        let inputs = Inputs {
            hearing: context.snapshot.hearing,
            sync_position: None,
            time_of_day: context.snapshot.time_of_day,
            ..Inputs::default()
        };
        let frame = self.engine.tick(context.snapshot.time, &inputs);
        self.light.clear();
        self.light.extend(frame.light.iter().map(|&[r, g, b, _]| [r, g, b]));
        &self.light
    }

    /// A share of a stage that is shown in its place.
    pub(super) fn rig(&self) -> &Arc<splimo_core::rig::Rig> {
        self.engine.rig()
    }
}
