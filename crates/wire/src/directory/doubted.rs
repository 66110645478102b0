//! Answers that are not believed, for the person to see who sends them.

use std::net::Ipv4Addr;

use serde::{Deserialize, Serialize};

use crate::belief::Doubt;

/// Senders of such answers that are told apart; of more, the one that was silent longest goes.
const MOST: usize = 8;
/// The time for which one is told of, in seconds.
const TOLD: f64 = 60.0;

/// A sender of answers that are not believed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Doubted {
    /// The address that they came from.
    pub from: Ipv4Addr,
    /// The address that the last one claims.
    pub claimed: Ipv4Addr,
    /// The reason why it is not believed.
    pub why: Doubt,
    /// The number of them.
    pub count: u64,
    /// The time of the last, in the caller's seconds.
    pub last: f64,
}

/// Takes note of one.
pub(super) fn note(all: &mut Vec<Doubted>, from: Ipv4Addr, claimed: Ipv4Addr, why: Doubt, now: f64) {
    let count = match all.iter().position(|known| known.from == from) {
        Some(place) => all.remove(place).count + 1,
        None => 1,
    };
    all.truncate(MOST - 1);
    // The latest stands first.
    all.insert(0, Doubted { from, claimed, why, count, last: now });
}

/// Forgets those that are silent.
pub(super) fn pass_time(all: &mut Vec<Doubted>, now: f64) {
    all.retain(|known| now - known.last <= TOLD);
}
