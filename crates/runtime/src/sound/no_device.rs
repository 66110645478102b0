//! Capture devices in a build without devices: there are none.

use super::Ear;

/// The reason why there are none.
pub(super) const NONE: &str = "this build has no sound devices: build it with the feature \"devices\"";

/// The names of the devices that can be listened to: none.
#[must_use]
pub fn devices() -> Vec<String> {
    Vec::new()
}

/// Tells that nothing can be listened to.
pub(super) fn capture(wanted: &str, ear: &mut Ear) {
    ear.silence();
    ear.troubles.tell("sound", format!("there is no capture device \"{wanted}\": {NONE}"));
}
