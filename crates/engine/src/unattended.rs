//! The stage by itself: what is due lands, what has had its time goes, the rotation turns, the fallback is on, and all of it is noted
//! for the night log.

use super::Engine;
use super::cues::Lead;
use super::night::{self, Happening, StageEvent};
use super::rotation::Turn;
use super::wish::{Stay, Wish};
use splimo_base::Seconds;
use splimo_show::command::Origin;
use splimo_show::{Boundary, Fallback};
use splimo_time::rate::Step;

impl Engine {
    /// Does what is due at a moment: lands what waits, ends what has had its time, and lets the rotation turn.
    pub(super) fn play_on(&mut self, step: Step, leads: [Option<Lead>; 2]) {
        while let Some(armed) = self.conductor.take_due() {
            self.land(&armed.wish, armed.lands_at);
        }
        self.turn();
        let beat = self.conductor.beat();
        self.playing.tiers.advance(beat, step);
        self.run_lists(step);
        self.run_timelines(step, leads);
        self.note_what_is_back();
        self.fall_back(beat);
        let fade = self.now.show.settings.blackout_fade;
        self.playing.darken(step.seconds, fade);
    }

    /// Lets the rotation arm what comes next.
    fn turn(&mut self) {
        let (beat, bar) = (self.conductor.beat(), self.conductor.clock().bar());
        let plan = &self.now.rotation;
        if self.playing.rotation.take_back(plan, beat, bar) {
            self.happen(Origin::Rotation, StageEvent::TookBack);
        }
        let waits = self.conductor.queue.waiting().iter().any(|armed| armed.wish.by == Origin::Rotation);
        if !waits {
            // Somebody took back what it had armed, or that is no look any more: it chooses again.
            self.playing.rotation.forget_choice();
        }
        let section = self.conductor.section();
        let (choice, at) = match self.playing.rotation.turn(&self.now.rotation, beat, bar, section) {
            Turn::None => return,
            Turn::Choose(choice, at) | Turn::Rechoose(choice, at) => (choice, at),
        };
        let plan = &self.now.rotation;
        let wish = Wish {
            tier: plan.tier,
            look: Some(choice.look),
            fade: plan.fade,
            fade_out: plan.fade,
            stay: Stay::ForGood,
            by: Origin::Rotation,
            pad: None,
        };
        self.conductor.queue.arm(wish, Boundary::Bar, at);
        self.happen(Origin::Rotation, StageEvent::Chose { look: choice.look, section: choice.section, of: choice.of });
    }

    /// Shows what is to be on where nothing else is.
    fn fall_back(&mut self, beat: f64) {
        let settings = &self.now.show.settings;
        let look = match settings.fallback {
            _ if self.playing.tiers.is_taken() => None,
            Fallback::Dark => None,
            Fallback::Look => self.now.show.look(&settings.fallback_look).map(|(look, _)| look),
            Fallback::Last => self.playing.tiers.last(),
        };
        if look != self.playing.fell_back {
            self.playing.fell_back = look;
            let fade = f64::from(settings.fade_beats);
            self.playing.tiers.fall_back_on(look, beat, fade);
            self.happen(Origin::Session, StageEvent::FellBack { look });
        }
    }

    /// Takes note of the strobe limit where it begins to act, or ends.
    pub(super) fn note_limit(&mut self) {
        let time: Seconds = self.conductor.clock().time();
        let acts = self.now.guard.state(time).acts;
        if acts != std::mem::replace(&mut self.playing.limited, acts) {
            self.happen(Origin::Session, StageEvent::Limited(acts));
        }
    }

    fn note_what_is_back(&mut self) {
        for tier in 0..self.playing.tiers.tiers.len() {
            if self.playing.tiers.tiers[tier].take_ended() {
                self.note_back(tier, Origin::Session);
            }
        }
    }

    pub(super) fn note_back(&mut self, tier: usize, by: Origin) {
        let look = self.playing.tiers.tiers[tier].stage().target();
        self.happen(by, StageEvent::Back { tier, look });
    }

    pub(super) fn happen(&mut self, by: Origin, event: StageEvent) {
        if self.playing.happened.len() < night::MOST {
            let clock = self.conductor.clock();
            let (time, beat, bar_beats) = (clock.time(), clock.beat(), clock.bar() as u32);
            self.playing.happened.push(Happening { edition: self.now.edition, time, beat, bar_beats, by, event });
        }
    }

    /// Takes what has happened on the stage since it was last taken.
    pub fn take_happenings(&mut self) -> impl Iterator<Item = Happening> + '_ {
        self.playing.happened.drain(..)
    }
}
