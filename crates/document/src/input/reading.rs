//! Readings: where that is which a command moves, for soft take-over, encoders, and what is told to others.

use splimo_engine::Snapshot;
use splimo_show::CONTROLS;
use splimo_show::Show;

/// A reading of what a command moves, by the text of the command without its value, such as `tier-level top`.
pub type Readings<'r> = dyn Fn(&str) -> Option<f32> + 'r;

/// The place of the value that a command moves, in the unit of the command; none for one that moves nothing that has a place.
#[must_use]
pub fn reading(text: &str, show: &Show, snapshot: &Snapshot) -> Option<f32> {
    let (name, rest) = text.trim().split_once(' ').unwrap_or((text.trim(), ""));
    let rest = rest.trim();
    match name {
        "master" => Some(snapshot.master * 100.0),
        "speed" => Some(snapshot.speed),
        "tempo" => Some(snapshot.clock.bpm),
        "strobe" => Some(snapshot.strobe),
        "set-blackout" | "blackout" => Some(f32::from(u8::from(snapshot.blackout))),
        "tier-level" => snapshot.tiers.get(show.tier(rest)?).map(|tier| tier.level * 100.0),
        "group-level" => {
            let group = show.groups.iter().position(|group| group.name == rest)?;
            Some(snapshot.groups.get(group).map_or(100.0, |level| level * 100.0))
        }
        "control" => {
            let number: usize = rest.parse().ok()?;
            (1..=CONTROLS)
                .contains(&number)
                .then(|| snapshot.controls.get(number - 1).map_or(0.0, |level| level * 100.0))
        }
        _ => None,
    }
}
