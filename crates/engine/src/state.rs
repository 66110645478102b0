//! The state that a person has set up, apart from the engine that plays it: another engine goes on from there if this one fails.

use super::Engine;
use super::cues::{ListSetting, TimelineSetting};
use super::heads::MOST_KEPT;
use super::recolour::Recolour;
use super::rotation::RotationNow;
use super::tiers::TierSetting;
use splimo_show::CONTROLS;
use splimo_show::{MOST_LISTS, MOST_TIERS, MOST_TIMELINES};
use splimo_time::tempo::Clock;

/// The state of an engine. It is the same as soon as an engine of the same show is in it.
#[derive(Debug, Clone, PartialEq)]
pub struct EngineState {
    /// The tiers, the lowest first.
    pub tiers: [TierSetting; MOST_TIERS],
    /// The master, 0..1.
    pub master: f32,
    /// True if all is dark.
    pub blackout: bool,
    /// The speed of effects, in times of their own.
    pub speed: f32,
    /// The flashes a second of all light.
    pub strobe: f32,
    /// The two colours of the stage.
    pub recolour: Recolour,
    /// The rotation.
    pub rotation: RotationNow,
    /// The controls, each 0..1.
    pub controls: [f32; CONTROLS],
    /// The cue lists that run, by their places in the show.
    pub lists: [Option<ListSetting>; MOST_LISTS],
    /// The timelines that run, by their places in the show.
    pub timelines: [Option<TimelineSetting>; MOST_TIMELINES],
    /// The directions of heads, as pan and tilt in percent.
    pub heads: [Option<[f32; 2]>; MOST_KEPT],
    /// The musical clock; none where another one is to begin.
    pub clock: Option<Clock>,
}

impl Engine {
    /// The state of the engine. Allocates nothing.
    #[must_use]
    pub fn state(&self) -> EngineState {
        let mut tiers = [TierSetting::EMPTY; MOST_TIERS];
        for (setting, tier) in tiers.iter_mut().zip(&self.playing.tiers.tiers) {
            *setting = tier.setting();
        }
        EngineState {
            tiers,
            master: self.playing.master,
            blackout: self.playing.blackout,
            speed: self.conductor.speed.speed(),
            strobe: self.playing.strobe.rate(),
            recolour: self.playing.recolour,
            rotation: self.playing.rotation,
            controls: self.conductor.controls,
            lists: self.list_settings(),
            timelines: self.timeline_settings(),
            heads: self.now.heads.kept(&self.now.rig),
            clock: Some(self.conductor.clock().clone()),
        }
    }

    /// Goes on from where another engine stood; its looks are there at once and whole.
    pub fn restore(&mut self, state: &EngineState) {
        let EngineState {
            tiers,
            master,
            blackout,
            speed,
            strobe,
            recolour,
            rotation,
            controls,
            lists,
            timelines,
            heads,
            clock,
        } = state;
        if let Some(clock) = clock {
            self.conductor.replace_clock(clock);
        }
        (self.playing.master, self.playing.blackout, self.conductor.controls) = (*master, *blackout, *controls);
        self.playing.darken_now();
        self.conductor.speed.set(*speed);
        self.playing.strobe.set(*strobe);
        self.playing.recolour = *recolour;
        self.playing.rotation = *rotation;
        let beat = self.conductor.beat();
        for (tier, setting) in self.playing.tiers.tiers.iter_mut().zip(tiers) {
            tier.set(setting, beat);
        }
        self.restore_lists(lists);
        self.restore_timelines(timelines);
        self.now.heads.restore(&self.now.rig, heads);
    }
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use super::*;
    use crate::Inputs;
    use splimo_show::command::EngineCommand;
    use splimo_show::file;

    fn engine() -> Engine {
        let look = |name: &str| format!("[[looks]]\nname = \"{name}\"\n[[looks.layers]]\neffect = \"plasma\"\n");
        let text = format!(
            "version = 1\nname = \"Two\"\n[[fixtures]]\nname = \"Bar\"\nprofile = \"rgb\"\naddress = \"1.1\"\nshape = {{ grid = {{ columns = 4, rows = 2 }} }}\nx = 2.0\ny = 1.0\n{}{}",
            look("One"),
            look("Other")
        );
        Engine::new(Arc::new(file::read_unchecked(&text).expect("a good show")))
    }

    #[test]
    fn another_engine_goes_on_where_one_stood() {
        let mut first = engine();
        first.cut_to(1);
        for (action, time) in
            [(EngineCommand::Tempo(97.0), 0.0), (EngineCommand::Master(20.0), 0.1), (EngineCommand::Blackout, 0.2)]
        {
            first.apply(&action, time);
        }
        for tick in 0..200 {
            first.tick(f64::from(tick) / 44.0, &Inputs::default());
        }
        let state = first.state();
        assert_eq!((state.tiers[0].look, state.master, state.blackout), (Some(1), 0.2, true));
        let mut second = engine();
        second.restore(&state);
        assert_eq!(second.state(), state);
        // Dark stays dark, and the beat goes on where it would have been.
        let frame = second.tick(200.0 / 44.0, &Inputs::default());
        assert!(frame.slots.iter().all(|slot| *slot == 0));
        first.tick(200.0 / 44.0, &Inputs::default());
        assert_eq!(second.clock().beat(), first.clock().beat());
        // With a clock of its own it keeps the light.
        let mut third = engine();
        third.restore(&EngineState { clock: None, ..state.clone() });
        assert_eq!(third.clock().bpm(), engine().clock().bpm());
        assert_eq!(EngineState { clock: None, ..third.state() }, EngineState { clock: None, ..state });
    }
}
