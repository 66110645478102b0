//! Recordings heard beforehand, as fast as the machine can.

use std::path::Path;

use splimo_hear::score::{Score, Scribe};
use splimo_hear::{HOP, HOPS_PER_SECOND, Listener};

use super::{Channels, File};

/// Hears a recording from its start to its end, as it would be heard live. `goes_on` is told each second of it how many have been heard,
/// and says whether to go on.
///
/// # Errors
/// The reason why it cannot be heard; none but that it was not to go on gives an empty score.
pub fn score(path: &Path, channels: Channels, mut goes_on: impl FnMut(u64) -> bool) -> Result<Score, String> {
    let mut file = File::open(path).map_err(|error| error.to_string())?.picking(channels);
    let (mut listener, mut scribe) = (Listener::default(), Scribe::default());
    let (mut samples, mut hops) = ([0.0; HOP], 0u64);
    while file.next(&mut samples) {
        listener.listen(&samples, |_| {});
        scribe.hop(&listener);
        hops += 1;
        if hops.is_multiple_of(HOPS_PER_SECOND as u64) && !goes_on(hops / HOPS_PER_SECOND as u64) {
            return Ok(Score::default());
        }
    }
    match (hops, &file.broken) {
        (0, _) => Err(format!("there is no sound in {}; choose another file", path.display())),
        (_, Some(reason)) => Err(format!("{} is damaged ({reason}); choose a whole one", path.display())),
        (_, None) => Ok(scribe.finish()),
    }
}
