//! The machine's own sound in a build without devices: there is none.

use super::samples::Samples;

/// A source that would be heard.
pub(super) struct Speaker;

impl Speaker {
    /// Tells that nothing can be heard.
    ///
    /// # Errors
    /// Always.
    pub(super) fn start(mut source: impl Samples) -> Result<Self, String> {
        source.begin(0.0, 1, 48_000.0);
        let _ = source.next();
        Err(super::device::NONE.to_owned())
    }
}
