//! Playing: everything that is on, and how much of it.

use super::night::{self, Happening};
use super::prepared::Prepared;
use super::recolour::Recolour;
use super::rotation::RotationNow;
use super::snapshot::{Once, Snapshot};
use super::strobe::Strobe;
use super::tiers::Tiers;
use splimo_show::Boundary;
use splimo_show::command::Origin;

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
    pub(super) once: Vec<Once>,
    pub(super) rotation: RotationNow,
    pub(super) strobe: Strobe,
    pub(super) recolour: Recolour,
    /// True for each look that was found to be on stage in the present walk over them.
    seen: Vec<bool>,
    /// The looks that give light, each once; see [`Playing::find_on_stage`].
    pub(super) on_stage: Vec<usize>,
    /// The look that is on as nothing else is.
    pub(super) fell_back: Option<usize>,
    pub(super) limited: bool,
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
            strobe: Strobe::default(),
            recolour: Recolour::default(),
            seen: vec![false; looks],
            on_stage: Vec::with_capacity(looks),
            fell_back: None,
            limited: false,
            happened: Vec::with_capacity(night::MOST),
        }
    }

    /// Master, blackout and strobe together, 0..1.
    pub(super) fn level(&self) -> f32 {
        let level = if self.dark > 0.0 { self.master * (1.0 - self.dark) } else { self.master };
        if self.strobe.is_dark() { 0.0 } else { level }
    }

    /// Goes on to blackout, or back to the light, within so many seconds.
    pub(super) fn darken(&mut self, seconds: f64, fade: f32) {
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
    pub(super) fn use_once(&mut self, by: Origin) -> Once {
        match self.once.iter().position(|once| once.by == Some(by)) {
            Some(place) => self.once.remove(place),
            None => Once::default(),
        }
    }

    /// Writes what a screen may show of it.
    pub(super) fn publish(&self, beat: f64, pace: f64, snapshot: &mut Snapshot) {
        snapshot.master = self.master;
        snapshot.blackout = self.blackout;
        snapshot.strobe = self.strobe.rate();
        snapshot.recolour = self.recolour;
        snapshot.rotation = self.rotation.state();
        snapshot.once = self.once.last().copied().unwrap_or_default();
        snapshot.groups.clear();
        // Room for all that may ever be, so that no later moment has to make more.
        snapshot.groups.reserve(self.groups.capacity());
        snapshot.stage.reserve(self.on_stage.capacity());
        snapshot.groups.extend_from_slice(&self.groups);
        snapshot.fallback = self.fell_back;
        self.tiers.publish(beat, pace, &mut snapshot.stage, &mut snapshot.tiers);
    }
}
