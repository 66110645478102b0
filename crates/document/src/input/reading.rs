//! Readings: where that is which a command moves, for soft take-over, encoders, and what is told to others.

use splimo_engine::Snapshot;
use splimo_show::Show;
use splimo_show::command::{Argument, Command, EngineCommand, Unwritten};

/// A reading of what a command moves, whatever its own number is.
pub type Readings<'r> = dyn Fn(&Command<Unwritten>) -> Option<f32> + 'r;

/// The place of the value that a command moves, in the unit of the command; none for one that moves nothing that has a place.
#[must_use]
pub fn reading<E: Argument>(command: &Command<E>, show: &Show, snapshot: &Snapshot) -> Option<f32> {
    let Command::Engine(command) = command else { return None };
    if let EngineCommand::TierLevel(level) = command {
        return tier_level(&level.name, show, snapshot);
    }
    if let EngineCommand::GroupLevel(level) = command {
        return group_level(&level.name, show, snapshot);
    }
    if let EngineCommand::Control(level) = command {
        return Some(control(usize::from(level.control), snapshot));
    }
    let alone = [
        (matches!(command, EngineCommand::Master(_)), snapshot.master * 100.0),
        (matches!(command, EngineCommand::Speed(_)), snapshot.speed),
        (matches!(command, EngineCommand::Tempo(_)), snapshot.clock.bpm),
        (matches!(command, EngineCommand::Strobe(_)), snapshot.strobe),
        (
            matches!(command, EngineCommand::Blackout | EngineCommand::SetBlackout(_)),
            f32::from(u8::from(snapshot.blackout)),
        ),
    ];
    alone.into_iter().find_map(|(is_it, value)| is_it.then_some(value))
}

/// The level of a tier, in percent.
#[must_use]
pub fn tier_level(name: &str, show: &Show, snapshot: &Snapshot) -> Option<f32> {
    snapshot.tiers.get(show.tier(name)?).map(|tier| tier.level * 100.0)
}

/// The level of a group, in percent.
#[must_use]
pub fn group_level(name: &str, show: &Show, snapshot: &Snapshot) -> Option<f32> {
    let group = show.groups.iter().position(|group| group.name == name)?;
    Some(snapshot.groups.get(group).map_or(100.0, |level| level * 100.0))
}

/// The level of a control from 1, in percent.
#[must_use]
pub fn control(number: usize, snapshot: &Snapshot) -> f32 {
    let level = number.checked_sub(1).and_then(|place| snapshot.controls.get(place));
    level.map_or(0.0, |level| level * 100.0)
}
