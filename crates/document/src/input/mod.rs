//! Input from outside, and what it asks for: events of inputs, and the bindings that make commands of them. All of it is
//! a function of the events and their times.

mod charge;
mod controller;
mod evaluator;
mod evaluator_state;
mod learn;
mod reading;
mod target;
#[cfg(test)]
mod tests;

pub use controller::{Controller, ControllerControl, Lit};
pub use evaluator::{Evaluator, Made, Outcome};
pub use learn::{Learned, Learner, Moved};
pub use reading::{Readings, control, group_level, reading, tier_level};
pub use target::{Target, beyond, bind, bindable};

pub use splimo_transport::artnet::port_address;
