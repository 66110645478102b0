//! Playing: what is fired, held, released and taken back, what lands, and what turns by itself. It puts looks on tiers; what they
//! look like there is the renderer's business.

use super::night::{self, Happening, StageEvent};
use super::prepared::Prepared;
use super::rotation::{RotationNow, RotationState, Turn};
use super::snapshot::{Once, Snapshot};
use super::tiers::{TierNow, Tiers};
use super::wish::{Armed, Stay, Wish};
use super::{Engine, LightTest};
use crate::Seconds;
use crate::command::{NamedLevel, Origin};
use crate::rate::Step;
use crate::show::{Boundary, Fallback, PadMode, Played};

/// The number of screens that may each have chosen a boundary or a fade for what they fire next.
const MOST_ONCE: usize = 8;

/// Everything that is on, and how much of it.
pub(super) struct Playing {
    pub(super) tiers: Tiers,
    pub(super) master: f32,
    pub(super) blackout: bool,
    /// The way from light (0) to dark (1).
    dark: f32,
    /// The level of each group, 0..1; empty where all are whole.
    pub(super) groups: Vec<f32>,
    once: Vec<Once>,
    pub(super) rotation: RotationNow,
    /// True for each look that was found to be on stage in the present walk over them.
    seen: Vec<bool>,
    /// The looks that give light, each once; see [`Playing::find_on_stage`].
    pub(super) on_stage: Vec<usize>,
    /// The look that is on as nothing else is.
    fell_back: Option<usize>,
    limited: bool,
    pub(super) happened: Vec<Happening>,
}

impl Playing {
    pub(super) fn new(prepared: &Prepared) -> Self {
        let looks = prepared.players.len();
        Self {
            tiers: Tiers::new(prepared.show.stack().len(), looks),
            master: 1.0,
            blackout: false,
            dark: 0.0,
            groups: Vec::with_capacity(prepared.groups.len()),
            once: Vec::with_capacity(MOST_ONCE),
            rotation: RotationNow::default(),
            seen: vec![false; looks],
            on_stage: Vec::with_capacity(looks),
            fell_back: None,
            limited: false,
            happened: Vec::with_capacity(night::MOST),
        }
    }

    /// Master and blackout together, 0..1.
    pub(super) fn level(&self) -> f32 {
        if self.dark > 0.0 { self.master * (1.0 - self.dark) } else { self.master }
    }

    /// Goes on to blackout, or back to the light, within so many seconds.
    fn darken(&mut self, seconds: f64, fade: f32) {
        let to = if self.blackout { 1.0 } else { 0.0 };
        let most = if fade > 0.0 { seconds as f32 / fade } else { 1.0 };
        self.dark += (to - self.dark).clamp(-most, most);
    }

    /// Is dark or light at once, without a fade.
    pub(super) fn darken_now(&mut self) {
        self.dark = if self.blackout { 1.0 } else { 0.0 };
    }

    /// Finds everything again in a changed show: the places tell where each look, tier and group stands there.
    pub(super) fn follow(
        &mut self,
        looks: &[Option<usize>],
        tiers: &[Option<usize>],
        groups: &[Option<usize>],
        to: &Prepared,
    ) {
        let count = to.players.len();
        self.tiers = self.tiers.moved(looks, count, tiers, to.show.stack().len());
        self.rotation.follow(looks);
        self.seen = vec![false; count];
        self.on_stage = Vec::with_capacity(count);
        self.fell_back = self.fell_back.and_then(|look| looks.get(look).copied().flatten());
        let before = std::mem::replace(&mut self.groups, Vec::with_capacity(to.groups.len()));
        if !before.is_empty() {
            self.groups.resize(to.groups.len(), 1.0);
            for (level, place) in before.iter().zip(groups) {
                if let Some(now) = place.and_then(|place| self.groups.get_mut(place)) {
                    *now = *level;
                }
            }
        }
    }

    /// Finds the looks that give light, each once.
    pub(super) fn find_on_stage(&mut self) {
        self.on_stage.clear();
        for look in self.tiers.looks() {
            if !std::mem::replace(&mut self.seen[look], true) {
                self.on_stage.push(look);
            }
        }
        self.on_stage.sort_unstable();
        for look in &self.on_stage {
            self.seen[*look] = false;
        }
    }

    /// Moves everything that counts in beats along with their count.
    pub(super) fn shift(&mut self, by: f64) {
        self.tiers.shift(by);
        self.rotation.shift(by);
    }

    /// Takes note of a boundary or a fade that somebody has chosen for what they fire next.
    pub(super) fn choose_once(&mut self, by: Origin, lands: Option<Boundary>, fade: Option<f32>) {
        let fade = fade.map(|beats| beats.clamp(0.0, 64.0));
        match self.once.iter_mut().find(|once| once.by == Some(by)) {
            Some(once) => (once.lands, once.fade) = (lands.or(once.lands), fade.or(once.fade)),
            None => {
                if self.once.len() == MOST_ONCE {
                    self.once.remove(0);
                }
                self.once.push(Once { by: Some(by), lands, fade });
            }
        }
    }

    /// The choice for what somebody fires now, which is used up with it.
    fn use_once(&mut self, by: Origin) -> Once {
        match self.once.iter().position(|once| once.by == Some(by)) {
            Some(place) => self.once.remove(place),
            None => Once::default(),
        }
    }

    /// Writes what a screen may show of it.
    pub(super) fn publish(&self, beat: f64, snapshot: &mut Snapshot) {
        snapshot.master = self.master;
        snapshot.blackout = self.blackout;
        snapshot.rotation = self.rotation.state();
        snapshot.once = self.once.last().copied().unwrap_or_default();
        snapshot.groups.clear();
        // Room for all that may ever be, so that no later moment has to make more.
        snapshot.groups.reserve(self.groups.capacity());
        snapshot.stage.reserve(self.on_stage.capacity());
        snapshot.groups.extend_from_slice(&self.groups);
        snapshot.fallback = self.fell_back;
        self.tiers.publish(beat, &mut snapshot.stage, &mut snapshot.tiers);
    }
}

/// The beat at which a fade begins that was due at a beat, and the time that it takes. One that comes late by more than a frame or
/// two, as after "a bar begins here", is quicker and ends where it would have: it does not jump.
fn caught_up(due: f64, now: f64, fade: f32) -> (f64, f32) {
    let late = now - due;
    if late < LATE { (due, fade) } else { (now, (fade - late as f32).max(fade / 2.0)) }
}

/// From so many beats on a fade comes late.
const LATE: f64 = 0.2;

impl Engine {
    /// Does what is due at a moment: lands what waits, ends what has had its time, and lets the rotation turn.
    pub(super) fn play_on(&mut self, step: Step) {
        while let Some(armed) = self.conductor.take_due() {
            self.land(&armed.wish, armed.lands_at);
        }
        self.turn();
        let beat = self.conductor.beat();
        self.playing.tiers.advance(beat);
        self.note_what_is_back();
        self.fall_back(beat);
        let fade = self.now.show.settings.blackout_fade;
        self.playing.darken(step.seconds, fade);
    }

    /// Fires a pad: arms what it does, or takes back what it has armed. One that is held stays until it is let go.
    pub(super) fn fire_pad(&mut self, number: usize, by: Origin, held: bool) {
        let Some((bank, pad)) = self.now.show.pad(number) else { return };
        let Some(look) = pad.look.as_deref().and_then(|look| self.now.show.look(look)) else { return };
        let (look, manner) = (look.0, bank.manner_of(Some(pad), &self.now.show));
        if self.conductor.queue.take_if(|armed| armed.wish.pad == Some(number)).is_some() {
            return;
        }
        let on = self.playing.tiers.tiers.get(manner.tier).is_some_and(|tier| tier.shows_pad(number));
        let stay = match manner.mode {
            PadMode::Change | PadMode::Toggle => Stay::ForGood,
            PadMode::Flash if held => Stay::Held,
            PadMode::Flash | PadMode::Beats => Stay::Beats(manner.beats),
        };
        let look = Some(look).filter(|_| !(manner.mode == PadMode::Toggle && on));
        self.arm(look, manner, stay, by, Some(number));
    }

    /// Lets a pad go: what it holds, or was about to, ends.
    pub(super) fn let_pad_go(&mut self, number: usize, by: Origin) {
        self.conductor.queue.take_if(|armed| armed.wish.pad == Some(number) && armed.wish.stay == Stay::Held);
        let beat = self.conductor.beat();
        for tier in 0..self.playing.tiers.tiers.len() {
            if self.playing.tiers.tiers[tier].let_go(number, beat) {
                self.note_back(tier, by);
            }
        }
    }

    /// Arms a look by its name, on the lowest tier or on the one that is named with it.
    pub(super) fn fire_look(&mut self, name: &str, by: Origin) {
        if let Some((tier, look)) = self.now.show.look_on_tier(name) {
            let manner = Played { tier: tier.unwrap_or(0), ..Played::plain(&self.now.show.settings) };
            self.arm(Some(look), manner, Stay::ForGood, by, None);
        }
    }

    fn arm(&mut self, look: Option<usize>, manner: Played, stay: Stay, by: Origin, pad: Option<usize>) {
        let once = self.playing.use_once(by);
        let fade = once.fade.unwrap_or(manner.fade_in);
        let fade_out = once.fade.filter(|_| look.is_none()).unwrap_or(manner.fade_out);
        let wish = Wish { tier: manner.tier, look, fade, fade_out, stay, by, pad };
        if stay == Stay::ForGood {
            self.yield_to(wish.tier, by);
        }
        self.conductor.arm(wish, once.lands.unwrap_or(manner.lands));
    }

    /// Puts a look on a tier at once and whole.
    pub(super) fn cut_tier(&mut self, tier: usize, look: usize, by: Origin) {
        while self.conductor.queue.take_if(|armed| armed.wish.tier == tier).is_some() {}
        let beat = self.conductor.beat();
        if let Some(tier) = self.playing.tiers.tiers.get_mut(tier) {
            tier.cut_to(Some(look), by, beat);
        }
        self.yield_to(tier, by);
        self.happen(by, StageEvent::Landed { tier, look, fade: 0.0 });
    }

    /// Lands everything that waits.
    pub(super) fn land_all(&mut self, _by: Origin) {
        while let Some(armed) = self.conductor.queue.take_first() {
            self.land(&armed.wish, self.conductor.beat());
        }
    }

    /// Lands one thing that waits.
    pub(super) fn land_number(&mut self, number: usize) {
        if let Some(Armed { wish, .. }) = self.conductor.queue.take(number) {
            self.land(&wish, self.conductor.beat());
        }
    }

    /// Lands a wish at a beat.
    fn land(&mut self, wish: &Wish, beat: f64) {
        self.conductor.counts.landings += 1;
        if let Some(look) = wish.look
            && !self.playing.tiers.looks().any(|on_stage| on_stage == look)
        {
            self.now.players[look].begin_turns();
        }
        let now = self.conductor.beat();
        let Some(tier) = self.playing.tiers.tiers.get_mut(wish.tier) else { return };
        let (from, fade) = caught_up(beat, now, wish.fade);
        tier.land(&Wish { fade, ..*wish }, from);
        match (wish.by, wish.stay) {
            (Origin::Rotation, _) => self.playing.rotation.landed(),
            (_, Stay::ForGood) => self.yield_to(wish.tier, wish.by),
            (_, Stay::Held | Stay::Beats(_)) => {}
        }
        let tier = wish.tier;
        self.happen(
            wish.by,
            match wish.look {
                Some(look) => StageEvent::Landed { tier, look, fade: wish.fade },
                None => StageEvent::Cleared { tier },
            },
        );
    }

    /// Releases a tier: what it shows fades out by its own time.
    pub(super) fn release_tier(&mut self, name: &str, by: Origin) {
        if let Some(tier) = self.now.show.tier(name) {
            self.release(tier, by);
        }
    }

    /// Releases all tiers but the lowest.
    pub(super) fn clear_tiers(&mut self, by: Origin) {
        for tier in 1..self.playing.tiers.tiers.len() {
            self.release(tier, by);
        }
    }

    fn release(&mut self, tier: usize, by: Origin) {
        while self.conductor.queue.take_if(|armed| armed.wish.tier == tier).is_some() {}
        if self.playing.tiers.tiers[tier].is_taken() {
            let plain = Played::plain(&self.now.show.settings);
            let (fade, fade_out) = (plain.fade_in, plain.fade_out);
            let clear = Wish { tier, look: None, fade, fade_out, stay: Stay::ForGood, by, pad: None };
            self.land(&clear, self.conductor.beat());
        }
    }

    /// Changes a tier that is named.
    pub(super) fn on_tier(&mut self, name: &str, change: impl FnOnce(&mut TierNow)) {
        if let Some(tier) = self.now.show.tier(name).and_then(|tier| self.playing.tiers.tiers.get_mut(tier)) {
            change(tier);
        }
    }

    /// Sets the level of a group of lights.
    pub(super) fn set_group(&mut self, level: &NamedLevel) {
        let Some(group) = self.now.show.groups.iter().position(|group| group.name == level.name) else { return };
        self.playing.groups.resize(self.now.groups.len(), 1.0);
        self.playing.groups[group] = (level.percent / 100.0).clamp(0.0, 1.0);
        // Where all are whole again nothing is to be done for them.
        if self.playing.groups.iter().all(|level| *level == 1.0) {
            self.playing.groups.clear();
        }
    }

    /// Switches the rotation on or off.
    pub(super) fn rotate(&mut self, on: bool, by: Origin) {
        let gave_way = self.playing.rotation.state() == RotationState::GaveWay;
        self.playing.rotation.switch(on);
        self.conductor.queue.take_if(|armed| armed.wish.by == Origin::Rotation);
        if on && gave_way {
            self.happen(by, StageEvent::TookBack);
        }
    }

    /// Ends every test, flash, hold, rotation and armed thing. The safe look is there at once and whole, on an otherwise empty stage;
    /// without one, what the lowest tier shows. Master and blackout stay.
    pub(super) fn panic(&mut self, by: Origin) {
        self.conductor.queue.clear();
        self.conductor.speed.set(1.0);
        self.playing.rotation.switch(false);
        self.playing.once.clear();
        self.test(&LightTest::Off);
        let beat = self.conductor.beat();
        let safe = self.now.show.look(&self.now.show.settings.safe_look).map(|(look, _)| look);
        for tier in &mut self.playing.tiers.tiers {
            (tier.level, tier.mute, tier.solo) = (1.0, false, false);
        }
        let look = safe.or_else(|| self.playing.tiers.tiers[0].look());
        for tier in 0..self.playing.tiers.tiers.len() {
            let look = look.filter(|_| tier == 0);
            let was = self.playing.tiers.tiers[tier].is_taken();
            self.playing.tiers.tiers[tier].cut_to(look, by, beat);
            match look {
                Some(look) => self.happen(by, StageEvent::Landed { tier, look, fade: 0.0 }),
                None if was => self.happen(by, StageEvent::Cleared { tier }),
                None => {}
            }
        }
    }

    /// Has the rotation give way to a hand that took its tier.
    fn yield_to(&mut self, tier: usize, by: Origin) {
        if tier == self.now.rotation.tier && self.playing.rotation.give_way(self.conductor.beat()) {
            self.conductor.queue.take_if(|armed| armed.wish.by == Origin::Rotation);
            self.happen(by, StageEvent::GaveWay);
        }
    }

    /// Lets the rotation arm what comes next.
    fn turn(&mut self) {
        let (beat, bar) = (self.conductor.beat(), self.conductor.clock().bar());
        let plan = &self.now.rotation;
        if self.playing.rotation.take_back(plan, beat, bar) {
            self.happen(Origin::Rotation, StageEvent::TookBack);
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

    fn note_back(&mut self, tier: usize, by: Origin) {
        let look = self.playing.tiers.tiers[tier].stage().target();
        self.happen(by, StageEvent::Back { tier, look });
    }

    fn happen(&mut self, by: Origin, event: StageEvent) {
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
