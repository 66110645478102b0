//! Hands on the stage: what is fired, held, released and taken back, what lands, and panic. It puts looks on tiers; what they look
//! like there is the renderer's business.

use super::Engine;
use super::heads::LiveTurn;
use super::night::StageEvent;
use super::prepared::Prepared;
use super::rotation::RotationState;
use super::tiers::TierNow;
use super::wish::{Armed, Stay, Wish};
use splimo_light::rig::Rig;
use splimo_show::LightTest;
use splimo_show::command::{NamedLevel, Origin};
use splimo_show::{PadMode, Played, Show};

/// The beat at which a fade begins that was due at a beat, and the time that it takes. One that comes late by more than a frame or
/// two, as after "a bar begins here", is quicker and ends where it would have: it does not jump.
fn caught_up(due: f64, now: f64, fade: f32) -> (f64, f32) {
    let late = now - due;
    if late < LATE { (due, fade) } else { (now, (fade - late as f32).max(fade / 2.0)) }
}

/// From so many beats on a fade comes late.
const LATE: f64 = 0.2;

impl Engine {
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
        let wish = Wish { tier, look: Some(look), fade: 0.0, fade_out: 0.0, stay: Stay::ForGood, by, pad: None };
        if !self.hands_put(&wish) {
            return;
        }
        if let Some(tier) = self.playing.tiers.tiers.get_mut(tier) {
            tier.cut_to(Some(look), by, beat);
        }
        self.yield_to(tier, by);
        self.happen(by, StageEvent::Landed { tier, look, fade: 0.0 });
    }

    /// Lands everything that waits.
    pub(super) fn land_all(&mut self) {
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
    pub(super) fn land(&mut self, wish: &Wish, beat: f64) {
        self.conductor.counts.landings += 1;
        if !self.hands_put(wish) {
            return;
        }
        if let Some(look) = wish.look {
            self.come_on(look);
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

    /// Has a look begin its turns if it is not on the stage yet.
    pub(super) fn come_on(&mut self, look: usize) {
        if !self.playing.tiers.looks().any(|on_stage| on_stage == look) {
            self.now.players[look].begin(self.conductor.look_beat());
        }
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

    /// Turns the heads of a group or fixture by hand.
    pub(super) fn turn_heads(&mut self, name: &str, to: LiveTurn) {
        let Prepared { heads, rig, show, .. } = &mut self.now;
        for head in heads_named(name, show, rig) {
            heads.point_live(rig, head, to);
        }
    }

    /// Points heads by hand as an aim says: all of it, or those of a group or fixture named before it.
    pub(super) fn call_aim(&mut self, text: &str) {
        let Prepared { heads, rig, show, .. } = &mut self.now;
        let Some((lights, aim)) = show.called_aim(text) else { return };
        for aimed in &aim.heads {
            let wanted = lights.is_none_or(|lights| lights == aimed.fixture || in_group(lights, &aimed.fixture, show));
            for head in heads_named(&aimed.fixture, show, rig).filter(|_| wanted) {
                heads.point_live(rig, head, LiveTurn::Aim([aimed.pan, aimed.tilt]));
            }
        }
    }

    /// Lets the heads of a group or fixture go that a hand pointed.
    pub(super) fn let_heads(&mut self, name: &str) {
        let Prepared { heads, rig, show, .. } = &mut self.now;
        heads_named(name, show, rig).for_each(|head| heads.let_go(head));
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

    /// Ends every test, flash, hold, rotation, cue list and armed thing. The safe look is there at once and whole, on an otherwise empty stage;
    /// without one, what the lowest tier shows. Master and blackout stay.
    pub(super) fn panic(&mut self, by: Origin) {
        self.conductor.queue.clear();
        self.conductor.speed.set(1.0);
        self.playing.rotation.switch(false);
        self.cues.end();
        self.playing.once.clear();
        self.test(&LightTest::Off);
        self.now.heads.let_all_go();
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
    pub(super) fn yield_to(&mut self, tier: usize, by: Origin) {
        if tier == self.now.rotation.tier && self.playing.rotation.give_way(self.conductor.beat()) {
            self.conductor.queue.take_if(|armed| armed.wish.by == Origin::Rotation);
            self.happen(by, StageEvent::GaveWay);
        }
    }
}

fn in_group(group: &str, fixture: &str, show: &Show) -> bool {
    let group = show.groups.iter().find(|one| one.name == group);
    group.is_some_and(|group| group.members.iter().any(|member| member == fixture))
}

/// The heads that the name of a group or fixture means, by their places in the rig.
fn heads_named<'s>(name: &'s str, show: &'s Show, rig: &'s Rig) -> impl Iterator<Item = usize> + 's {
    let means = move |fixture: &str| fixture == name || in_group(name, fixture, show);
    let heads = rig.heads.iter().enumerate();
    heads
        .filter(move |(_, head)| show.fixtures.get(head.fixture as usize).is_some_and(|one| means(&one.name)))
        .map(|(place, _)| place)
}
