//! The current that lights take from their supplies, as an estimate, and the dimming that keeps a supply within its limit.

use serde::{Deserialize, Serialize};

use super::pack::Packer;
use splimo_base::Seconds;
use splimo_base::colour::Rgba;
use splimo_light::rig::Rig;
use splimo_show::{Power, Show};

/// The time that light that was dimmed for a supply's sake takes to come back by two thirds, in seconds.
const RECOVERY: f64 = 1.5;

/// The current that something takes, in amperes.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
pub struct Load {
    /// Now.
    pub now: f32,
    /// At most so far.
    pub peak: f32,
}

impl Load {
    fn set(&mut self, now: f32) {
        self.now = now;
        self.peak = self.peak.max(now);
    }
}

/// A supply as it is.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct SupplyLoad {
    /// The current that it gives.
    pub load: Load,
    /// The share of the light that is left for its sake, 0..1.
    pub gain: f32,
}

/// The current that a fixture takes.
#[derive(Clone, Copy)]
struct Draw {
    /// In the dark, in amperes.
    idle: f32,
    /// Of one emitter at full, in amperes.
    full: f32,
    supply: Option<u32>,
}

struct Feed {
    limit: Option<f32>,
    idle: f32,
    /// The current that the light of this frame takes, undimmed.
    lit: f32,
    state: SupplyLoad,
}

/// The meter of a show.
pub(super) struct Meter {
    draws: Vec<Draw>,
    /// Emitters at full of each fixture, in this frame, undimmed.
    lit: Vec<f32>,
    loads: Vec<Load>,
    feeds: Vec<Feed>,
    last: Option<Seconds>,
}

impl Meter {
    pub(super) fn new(show: &Show, rig: &Rig) -> Self {
        let mut meter = Self {
            draws: vec![Draw { idle: 0.0, full: 0.0, supply: None }; rig.fixtures.len()],
            lit: vec![0.0; rig.fixtures.len()],
            loads: vec![Load::default(); rig.fixtures.len()],
            feeds: Vec::new(),
            last: None,
        };
        for (draw, patched) in meter.draws.iter_mut().zip(&rig.fixtures) {
            let power = rig.profiles.get(patched.profile as usize).and_then(|p| p.power);
            let Power { full, idle, .. } = power.unwrap_or(Power { volts: 1.0, full: 0.0, idle: 0.0 });
            (draw.full, draw.idle) = (full, idle * patched.cells as f32);
        }
        for supply in &show.supplies {
            let index = meter.feeds.len() as u32;
            let mut idle = 0.0;
            for fixture in show.fixtures_of(&supply.feeds) {
                let draw = &mut meter.draws[fixture];
                // What is fed twice counts for the first.
                if draw.supply.is_none() {
                    draw.supply = Some(index);
                    idle += draw.idle;
                }
            }
            let state = SupplyLoad { load: Load::default(), gain: 1.0 };
            meter.feeds.push(Feed { limit: supply.limit, idle, lit: 0.0, state });
        }
        meter
    }

    /// Takes over what another meter has learned: of supplies by their names, of fixtures where they are the same ones.
    pub(super) fn take_over(&mut self, other: &Self, before: &Show, after: &Show) {
        self.last = other.last;
        for (feed, supply) in self.feeds.iter_mut().zip(&after.supplies) {
            if let Some(index) = before.supplies.iter().position(|s| s.name == supply.name) {
                feed.state = other.feeds[index].state;
            }
        }
        for (index, load) in self.loads.iter_mut().enumerate() {
            let names = (before.fixtures.get(index).map(|f| &f.name), after.fixtures.get(index).map(|f| &f.name));
            if names.0 == names.1 && index < other.loads.len() {
                *load = other.loads[index];
            }
        }
    }

    /// True if light may have to be dimmed, so that each frame has to be measured before it is packed.
    pub(super) fn limits(&self) -> bool {
        self.feeds.iter().any(|f| f.limit.is_some())
    }

    /// Begins to measure a frame.
    pub(super) fn begin(&mut self) {
        self.lit.fill(0.0);
    }

    /// Measures a tile.
    pub(super) fn add(&mut self, rig: &Rig, tile: usize, packer: &Packer, light: &[Rgba]) {
        for run in rig.runs_of(tile).iter().filter(|run| rig.is_first_variant(run)) {
            if self.draws[run.fixture as usize].full > 0.0 {
                self.lit[run.fixture as usize] += packer.emitters_at_full(rig, run, light);
            }
        }
    }

    /// Ends the measuring of a frame: what each supply leaves of the light follows.
    pub(super) fn settle(&mut self, time: Seconds) {
        let passed = time - self.last.replace(time).unwrap_or(time);
        let recovery = (1.0 - (-passed.max(0.0) / RECOVERY).exp()) as f32;
        self.feeds.iter_mut().for_each(|feed| feed.lit = 0.0);
        for (draw, lit) in self.draws.iter().zip(&self.lit) {
            if let Some(supply) = draw.supply {
                self.feeds[supply as usize].lit += draw.full * lit;
            }
        }
        for feed in &mut self.feeds {
            feed.settle(recovery);
        }
        for ((draw, lit), load) in self.draws.iter().zip(&self.lit).zip(&mut self.loads) {
            let gain = draw.supply.map_or(1.0, |supply| self.feeds[supply as usize].state.gain);
            load.set(draw.idle + draw.full * lit * gain);
        }
    }

    /// Dims the light of every fixture whose supply has to be spared.
    pub(super) fn dim(&self, rig: &Rig, light: &mut [Rgba]) {
        for (draw, patched) in self.draws.iter().zip(&rig.fixtures) {
            let gain = draw.supply.map_or(1.0, |supply| self.feeds[supply as usize].state.gain);
            if gain < 1.0 {
                light[patched.leds()].iter_mut().flatten().for_each(|part| *part *= gain);
            }
        }
    }

    pub(super) fn reset_peaks(&mut self) {
        let loads = self.loads.iter_mut().chain(self.feeds.iter_mut().map(|f| &mut f.state.load));
        loads.for_each(|load| load.peak = load.now);
    }

    pub(super) fn loads(&self) -> &[Load] {
        &self.loads
    }

    pub(super) fn supplies(&self) -> impl Iterator<Item = SupplyLoad> {
        self.feeds.iter().map(|f| f.state)
    }
}

impl Feed {
    fn settle(&mut self, recovery: f32) {
        let allowed = match self.limit {
            Some(limit) if self.idle + self.lit > limit => ((limit - self.idle) / self.lit).clamp(0.0, 1.0),
            _ => 1.0,
        };
        let gain = &mut self.state.gain;
        // Down at once, as the supply would not wait; up gently, so that nothing pumps.
        *gain = allowed.min(*gain + (allowed - *gain).max(0.0) * recovery);
        if allowed >= 1.0 && *gain > 0.999 {
            *gain = 1.0;
        }
        self.state.load.set(self.idle + self.lit * *gain);
    }
}
