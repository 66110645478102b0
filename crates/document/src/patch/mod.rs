//! The patch: who takes which slots, where there is room, and how fixtures are packed into universes.

pub mod csv;
mod occupancy;
mod packing;

pub(crate) use occupancy::Profiles;
pub use occupancy::{Occupancy, Owner};
pub use packing::{NoRoom, Packing, Plan, pack};
