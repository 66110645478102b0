//! Heads: where they point, where they were left, and how fast they may go where they are to point.

use super::aiming::{Asked, Pointed, WHOLE};
use super::player::Player;
use super::snapshot::HeadState;
use super::stage::Stage;
use super::tiers::Tiers;
use splimo_base::colour::Rgba;
use splimo_light::rig::{Head, Rig};
use splimo_show::Show;
use splimo_time::rate::Step;

/// The time for which a head has to be dark before it goes ahead to where it is to point next, in seconds.
const DARK_FOR: f64 = 0.3;

/// The most heads of which an engine that goes on for another one knows where they point.
pub const MOST_KEPT: usize = 256;

/// The direction of a head at a moment. All directions are pan and tilt, in degrees from the beginning of their ranges.
#[derive(Debug, Clone, Copy, PartialEq)]
struct HeadNow {
    /// The direction that it had last when that hung on aims alone.
    left: [f64; 2],
    /// The direction in which it points.
    at: [f64; 2],
    /// The direction to which it turns.
    to: [f64; 2],
    /// The direction in which a hand points it.
    live: Option<[f64; 2]>,
    /// The time since it gave light, in seconds.
    dark: f64,
}

/// The heads of a rig.
pub(super) struct Heads {
    now: Vec<HeadNow>,
    /// For each tier the heads that it may turn; none where it may turn all.
    reaches: Vec<Option<Vec<bool>>>,
}

/// Everything on stage that may turn heads.
pub(super) struct Turning<'e> {
    pub players: &'e [Player],
    pub tiers: &'e Tiers,
    pub rig: &'e Rig,
    /// The light of the last frame.
    pub light: &'e [Rgba],
    /// The looks to which heads go ahead in the dark, the lowest tier first.
    pub ahead: &'e [Option<usize>],
}

impl Heads {
    /// The heads of a rig, at rest.
    pub(super) fn new(show: &Show, rig: &Rig) -> Self {
        let rests = |head: &Head| HeadNow { left: head.rest, at: head.rest, to: head.rest, live: None, dark: 0.0 };
        let reach = |lights: &Vec<String>| {
            let fixtures = (!lights.is_empty()).then(|| show.fixtures_of(lights))?;
            Some(rig.heads.iter().map(|head| fixtures.contains(&(head.fixture as usize))).collect())
        };
        let reaches = match rig.heads.is_empty() {
            true => Vec::new(),
            false => show.stack().iter().map(|tier| reach(&tier.lights)).collect(),
        };
        Self { now: rig.heads.iter().map(rests).collect(), reaches }
    }

    /// Goes on where the heads of another edition of the show point, by the names of their fixtures. A head that was given
    /// another direction to rest in goes there.
    pub(super) fn take_over(&mut self, older: &Self, [before, now]: [(&Show, &Rig); 2]) {
        for (head, mine) in now.1.heads.iter().zip(&mut self.now) {
            let name = &now.0.fixtures[head.fixture as usize].name;
            let of = |other: &&Head| before.0.fixtures.get(other.fixture as usize).is_some_and(|one| one.name == *name);
            // Nearly always it stands where it stood.
            let same =
                now.1.head_of(head.fixture as usize).filter(|at| before.1.heads.get(*at).is_some_and(|one| of(&one)));
            let Some(place) = same.or_else(|| before.1.heads.iter().position(|other| of(&other))) else { continue };
            let (was, old) = (older.now[place], &before.1.heads[place]);
            let moved = |direction: [f64; 2]| head.degrees(old.percent(direction));
            let rests_elsewhere = old.percent(old.rest) != head.percent(head.rest);
            *mine = HeadNow {
                left: if rests_elsewhere { head.rest } else { moved(was.left) },
                at: moved(was.at),
                to: moved(was.to),
                live: was.live.map(moved),
                dark: was.dark,
            };
        }
    }

    /// Points a head by hand: what is said of pan and tilt, in percent, or added to where it points.
    pub(super) fn point_live(&mut self, rig: &Rig, head: usize, to: LiveTurn) {
        let (Some(now), Some(head)) = (self.now.get_mut(head), rig.heads.get(head)) else { return };
        let mut at = head.percent(now.live.unwrap_or(now.at));
        match to {
            LiveTurn::To(axis, percent) => at[axis] = percent,
            LiveTurn::By(axis, percent) => at[axis] += percent,
            LiveTurn::Aim(aim) => at = aim,
        }
        now.live = Some(head.degrees(at));
    }

    /// Lets a head go that a hand points.
    pub(super) fn let_go(&mut self, head: usize) {
        if let Some(now) = self.now.get_mut(head) {
            now.live = None;
        }
    }

    /// Lets all heads go.
    pub(super) fn let_all_go(&mut self) {
        self.now.iter_mut().for_each(|now| now.live = None);
    }

    /// Goes on by a step: heads turn to where they are to point, no faster than they can.
    pub(super) fn advance(&mut self, turning: &Turning<'_>, step: Step) {
        for (index, head) in turning.rig.heads.iter().enumerate() {
            let leds = turning.rig.fixtures[head.fixture as usize].leds();
            let lit = turning.light[leds].iter().any(|[r, g, b, _]| r + g + b > 0.0);
            let now = &mut self.now[index];
            now.dark = if lit { 0.0 } else { now.dark + step.seconds };
            let asked = Asked { head, index, near: now.left[0] };
            let mut pointed = Pointed::left(now.left);
            if let Some(live) = now.live {
                pointed = Pointed { at: live, share: 1.0, sure: true };
            } else {
                pointed = on_tiers(&self.reaches, turning, &asked, pointed);
                if now.dark >= DARK_FOR {
                    pointed = ahead(&self.reaches, turning, &asked, pointed);
                }
            }
            now.to = std::array::from_fn(|axis| pointed.at[axis].clamp(0.0, head.ranges[axis]));
            if pointed.sure {
                now.left = now.to;
            }
            for axis in 0..2 {
                let most = head.speeds[axis] * step.seconds;
                now.at[axis] += (now.to[axis] - now.at[axis]).clamp(-most, most);
            }
        }
    }

    /// Writes where they point into the slots of a frame.
    pub(super) fn write(&self, rig: &Rig, slots: &mut [u8]) {
        for slot in &rig.head_slots {
            let head = slot.head as usize;
            slot.write(&rig.heads[head], self.now[head].at, slots);
        }
    }

    /// Writes where they point for a screen.
    pub(super) fn publish(&self, rig: &Rig, heads: &mut Vec<HeadState>) {
        heads.clear();
        heads.extend(rig.heads.iter().zip(&self.now).map(|(head, now)| {
            let [pan, tilt] = head.percent(now.at).map(|percent| percent as f32);
            let goes_to = head.percent(now.to).map(|percent| percent as f32);
            HeadState { fixture: head.fixture as usize, pan, tilt, goes_to, live: now.live.is_some() }
        }));
    }

    /// The directions of the first heads, in percent, for an engine that goes on for this one.
    pub(super) fn kept(&self, rig: &Rig) -> [Option<[f32; 2]>; MOST_KEPT] {
        let mut kept = [None; MOST_KEPT];
        for ((place, head), now) in kept.iter_mut().zip(&rig.heads).zip(&self.now) {
            *place = Some(head.percent(now.at).map(|percent| percent as f32));
        }
        kept
    }

    /// Points the heads at once where those of another engine pointed.
    pub(super) fn restore(&mut self, rig: &Rig, kept: &[Option<[f32; 2]>; MOST_KEPT]) {
        for ((now, head), kept) in self.now.iter_mut().zip(&rig.heads).zip(kept) {
            if let Some(percent) = kept {
                now.at = head.degrees(percent.map(f64::from));
                (now.left, now.to) = (now.at, now.at);
            }
        }
    }
}

/// A turn of a head by hand. Axis 0 is pan, 1 tilt.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum LiveTurn {
    /// A turn to percents of what it can turn on an axis.
    To(usize, f64),
    /// A turn by percents of it.
    By(usize, f64),
    /// A turn to pan and tilt, in percent.
    Aim([f64; 2]),
}

/// The direction that the tiers give a head.
fn on_tiers(reaches: &[Option<Vec<bool>>], turning: &Turning<'_>, asked: &Asked<'_>, from: Pointed) -> Pointed {
    let solo = turning.tiers.tiers.iter().any(|tier| tier.solo);
    let mut pointed = from;
    if !solo {
        pointed = mix(turning.tiers.fallback(), turning, asked, pointed);
    }
    for (place, tier) in turning.tiers.tiers.iter().enumerate() {
        let seen = !tier.mute && (tier.solo || !solo);
        if seen && may_turn(reaches, place, asked.index) {
            pointed = mix(tier.stage(), turning, asked, pointed);
        }
    }
    pointed
}

fn may_turn(reaches: &[Option<Vec<bool>>], tier: usize, head: usize) -> bool {
    reaches.get(tier).is_none_or(|reach| reach.as_ref().is_none_or(|heads| heads[head]))
}

/// The direction that the looks of a tier give a head, each as much as it weighs. Neither the level of a tier nor its blend has
/// a part in it: a tier that is taken down dims its light and leaves heads where they point.
fn mix(stage: &Stage, turning: &Turning<'_>, asked: &Asked<'_>, below: Pointed) -> Pointed {
    if let Some(look) = stage.alone() {
        return turning.players[look].point(asked, below);
    }
    let mut mixed = below;
    for (look, weight) in stage.weights() {
        let pointed = turning.players[look].point(asked, below);
        if pointed.share > below.share || pointed.at != below.at {
            for axis in 0..2 {
                mixed.at[axis] += f64::from(weight) * (pointed.at[axis] - below.at[axis]);
            }
            mixed.sure = mixed.sure && f64::from(weight) >= WHOLE;
        }
    }
    mixed
}

/// The direction that the next cue gives a head, if it gives any.
fn ahead(reaches: &[Option<Vec<bool>>], turning: &Turning<'_>, asked: &Asked<'_>, now: Pointed) -> Pointed {
    let mut pointed = now;
    for (tier, look) in turning.ahead.iter().enumerate() {
        if let Some(player) = look.and_then(|look| turning.players.get(look))
            && may_turn(reaches, tier, asked.index)
        {
            pointed = player.point(asked, pointed);
        }
    }
    pointed
}
