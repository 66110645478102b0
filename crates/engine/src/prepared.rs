//! A show compiled for the engine. Compiling takes its time and memory, so that it is done on another thread while the engine
//! goes on with what it has.

use std::collections::HashMap;
use std::sync::Arc;

use super::Frame;
use super::cues::CuePlans;
use super::flash_guard::FlashGuard;
use super::heads::Heads;
use super::pack::Packer;
use super::player::{Maps, Player};
use super::power::Meter;
use super::reach::Reach;
use super::rotation::RotationPlan;
use super::values_out::ValuesOut;
use splimo_light::rig::Rig;
use splimo_show::Show;
use splimo_show::followed;
use splimo_show::reference::{ReferenceKind, names};

/// A show compiled for the engine.
pub struct Prepared {
    pub(super) show: Arc<Show>,
    pub(super) rig: Arc<Rig>,
    pub(super) edition: u64,
    pub(super) players: Vec<Player>,
    pub(super) packer: Packer,
    pub(super) power: Meter,
    pub(super) guard: FlashGuard,
    /// The lights of each tier; none where it may touch all.
    pub(super) reaches: Vec<Option<Reach>>,
    /// The lights of each group.
    pub(super) groups: Vec<Reach>,
    pub(super) rotation: RotationPlan,
    pub(super) cues: CuePlans,
    pub(super) values_out: ValuesOut,
    pub(super) heads: Heads,
    pub(super) frame: Frame,
}

impl Prepared {
    /// Compiles the looks of a show for its rig. `edition` is a number by which a reader of snapshots finds the show again.
    #[must_use]
    pub fn new(show: Arc<Show>, rig: Arc<Rig>, edition: u64) -> Self {
        Self::with_maps(show, rig, edition, &mut Maps::default())
    }

    /// The same with what was compiled for other editions of the show on this very rig, which is most of the work where
    /// lights are many.
    #[must_use]
    pub fn with_maps(show: Arc<Show>, rig: Arc<Rig>, edition: u64, maps: &mut Maps) -> Self {
        let players = show.looks.iter().map(|look| Player::compile(look, &show, &rig, maps)).collect();
        maps.forget_unused();
        let frame = Frame { number: 0, light: vec![[0.0; 4]; rig.len()], slots: vec![0; rig.slots()] };
        let power = Meter::new(&show, &rig);
        let limited = |names: &Vec<String>| (!names.is_empty()).then(|| Reach::of(names, &show, &rig));
        Self {
            packer: Packer::new(&rig),
            power,
            players,
            guard: FlashGuard::new(rig.len()),
            reaches: show.stack().iter().map(|tier| limited(&tier.lights)).collect(),
            groups: Reach::of_groups(&show, &rig),
            rotation: RotationPlan::of(&show),
            cues: CuePlans::of(&show),
            values_out: ValuesOut::of(&show, &rig),
            heads: Heads::new(&show, &rig),
            frame,
            edition,
            rig,
            show,
        }
    }

    /// For each thing of a kind of another show, where the one of this name stands in this one.
    pub(super) fn followed_from(&self, other: &Show, kind: ReferenceKind) -> Vec<Option<usize>> {
        let [before, after] = [other, &self.show].map(|show| names(show, kind).collect::<Vec<_>>());
        followed(&before, &after)
    }

    /// For each look of another show, where the look of this name stands in this one.
    pub(super) fn places_of(&self, other: &Show) -> Vec<Option<usize>> {
        let place: HashMap<&str, usize> =
            self.show.looks.iter().enumerate().map(|(index, look)| (look.name.as_str(), index)).collect();
        other.looks.iter().map(|look| place.get(look.name.as_str()).copied()).collect()
    }
}
