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

/// A port-address of Art-Net (Art-Net 4, "Addressing"), as a number or as net, sub-net and universe.
#[must_use]
pub fn port_address(text: &str) -> Option<u16> {
    let parts: Option<Vec<u16>> = text.trim().split(':').map(|part| part.trim().parse().ok()).collect();
    match parts?.as_slice() {
        [number @ ..0x8000] => Some(*number),
        [net @ ..128, sub_net @ ..16, universe @ ..16] => Some(net << 8 | sub_net << 4 | universe),
        _ => None,
    }
}
