//! Counts that go on from listener to listener.

use splimo_time::music::Hearing;

/// The counts of earlier listeners. Each change of a count is a hit for the lights, so that none may begin again with 0 where a
/// device is gone or a recording starts anew.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) struct Tally {
    onsets: u64,
    hits: [u64; 3],
    chords: u64,
}

impl Tally {
    /// Keeps what a listener, which is done, has counted up to its last hearing.
    pub(super) fn keep(&mut self, last: &Hearing) {
        let Hearing { onsets, hits, chords, .. } = self.on(last);
        *self = Self { onsets, hits, chords };
    }

    /// The hearing, with all counts since the first listener.
    pub(super) fn on(&self, heard: &Hearing) -> Hearing {
        Hearing {
            onsets: heard.onsets + self.onsets,
            hits: std::array::from_fn(|kind| heard.hits[kind] + self.hits[kind]),
            chords: heard.chords + self.chords,
            ..*heard
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn counts_go_on_from_listener_to_listener() {
        let mut tally = Tally::default();
        let first = Hearing { onsets: 140, hits: [40, 20, 80], chords: 3, ..Hearing::SILENCE };
        assert_eq!(tally.on(&first), first);
        tally.keep(&first);
        let silence = tally.on(&Hearing::SILENCE);
        assert_eq!((silence.onsets, silence.hits, silence.chords), (140, [40, 20, 80], 3));
        tally.keep(&Hearing { onsets: 2, hits: [1, 0, 1], ..Hearing::SILENCE });
        let third = tally.on(&Hearing { onsets: 1, level: 0.5, ..Hearing::SILENCE });
        assert_eq!((third.onsets, third.hits, third.chords, third.level), (143, [41, 20, 81], 3, 0.5));
    }
}
