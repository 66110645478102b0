//! What comes in as data: events of inputs, the addresses by which they are told apart, and conditions on their values.

mod address;
mod condition;
mod incoming;

pub use address::{EventAddress, Hit, TriggerKey};
pub use condition::Condition;
pub use incoming::{Edge, InputEvent};
