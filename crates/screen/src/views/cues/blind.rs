//! The stage in an engine of the screen's own, from which nothing goes out; and a cue that is tried blind on it.

use std::sync::Arc;

use splimo_engine::{Engine, Inputs, Prepared};
use splimo_show::Show;
use splimo_show::command::{CuePlace, CueTarget, EngineCommand, NamedLevel, Origin};

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
        let mut engine = stage_of(context.show, context, |by| !matches!(by, Origin::List(_)));
        let time = context.snapshot.time;
        let mut ask = |command: EngineCommand| engine.apply_from(&command, Origin::Session, time);
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
        let frame = self.engine.tick(context.snapshot.time, &inputs_of(context));
        self.light.clear();
        self.light.extend(frame.light.iter().map(|&[r, g, b, _]| [r, g, b]));
        &self.light
    }

    /// A share of a stage that is shown in its place.
    pub(super) fn rig(&self) -> &Arc<splimo_light::rig::Rig> {
        self.engine.rig()
    }
}

/// An engine of a show with what is on stage now, as far as `keeps` says so of who put it there.
pub(super) fn stage_of(show: &Arc<Show>, context: &ViewContext<'_>, keeps: impl Fn(Origin) -> bool) -> Engine {
    let mut engine = Engine::start(Prepared::new(show.clone(), context.rig.clone(), context.snapshot.edition));
    let time = context.snapshot.time;
    let mut ask = |command: EngineCommand| engine.apply_from(&command, Origin::Session, time);
    ask(EngineCommand::Tempo(context.snapshot.clock.bpm));
    ask(EngineCommand::Master(context.snapshot.master * 100.0));
    for (tier, state) in show.stack().iter().zip(&context.snapshot.tiers) {
        let look = state.look.and_then(|look| context.show.looks.get(look));
        if let Some(look) = look.filter(|_| keeps(state.by)) {
            ask(EngineCommand::CutTo(format!("{}/{}", tier.name, look.name)));
        }
        ask(EngineCommand::TierLevel(NamedLevel { name: tier.name.clone(), percent: state.level * 100.0 }));
    }
    engine
}

/// Everything that such an engine knows of the moment.
pub(super) fn inputs_of(context: &ViewContext<'_>) -> Inputs {
    let snapshot = context.snapshot;
    Inputs { hearing: snapshot.hearing, time_of_day: snapshot.time_of_day, ..Inputs::default() }
}
