//! The beginning of a count of samples on the show's time line.

use splimo_hear::SAMPLE_RATE;

/// The most by which the beginning may come to lie later with each piece, in seconds: the clock of a device is not ours.
const DRIFT: f64 = 2e-6;
/// For how long all pieces have to come late, in seconds, and by how much, before samples count as lost: those of a device that
/// was not read in time, or of a player that was held.
const WATCHED: f64 = 1.0;
const LOST: f64 = 0.005;

/// Samples as they arrive. Pieces come late, never early, so that the earliest is nearest to the truth, as long as none are
/// lost: where all come late from some moment on, the beginning of all seems to lie so much later.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct Arrival {
    samples: u64,
    zero: Option<f64>,
    /// Since when pieces are watched, and the earliest beginning that one of them spoke for.
    watched: Option<(f64, f64)>,
}

impl Arrival {
    /// Takes note of samples that are there at `now`, in seconds of the show; returns when the first of all was heard.
    pub(super) fn came(&mut self, now: f64, samples: usize) -> f64 {
        self.samples += samples as u64;
        let began = now - self.seconds();
        let mut zero = self.zero.map_or(began, |zero| (zero + DRIFT).min(began));
        let (since, earliest) = self.watched.unwrap_or((now, began));
        let earliest = earliest.min(began);
        self.watched = Some((since, earliest));
        if now - since > WATCHED {
            if earliest > zero + LOST {
                zero = earliest;
            }
            self.watched = None;
        }
        *self.zero.insert(zero)
    }

    /// The number of seconds of sound that have come.
    pub(super) fn seconds(&self) -> f64 {
        self.samples as f64 / f64::from(SAMPLE_RATE)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pieces_that_come_late_do_not_move_the_beginning() {
        let mut arrival = Arrival::default();
        let late = [0.02, 0.004, 0.03, 0.001, 0.05];
        let zeros: Vec<f64> =
            (0..5).map(|i| arrival.came(7.0 + f64::from(i + 1) * 0.01 + late[i as usize], 480)).collect();
        assert!((zeros[4] - 7.001).abs() < 1e-4, "{zeros:?}");
        assert!((arrival.seconds() - 0.05).abs() < 1e-9);
    }

    /// Pieces of 10 ms from a time on, each late by up to 3 ms; the last beginning.
    fn pieces(arrival: &mut Arrival, from: f64, count: u32) -> f64 {
        let late = |i: u32| f64::from(i * 7 % 10) * 0.000_3;
        let came = |i: u32| arrival.came(from + f64::from(i + 1) * 0.01 + late(i), 480);
        (0..count).map(came).last().expect("some")
    }

    #[test]
    fn where_samples_are_lost_the_rest_is_later() {
        let mut arrival = Arrival::default();
        assert!((pieces(&mut arrival, 5.0, 300) - 5.0).abs() < 1e-3);
        // 30 ms are lost: for a moment nobody knows whether pieces are late, then it is known.
        assert!((pieces(&mut arrival, 8.03, 20) - 5.0).abs() < 2e-3);
        let after = pieces(&mut arrival, 8.23, 250);
        assert!((after - 5.03).abs() < 2e-3, "{after}");
        // A player is held for ten seconds.
        let held = pieces(&mut arrival, 20.73, 250);
        assert!((held - 15.03).abs() < 2e-3, "{held}");
    }

    #[test]
    fn a_listener_that_is_held_up_and_catches_up_moves_nothing() {
        let mut arrival = Arrival::default();
        pieces(&mut arrival, 0.0, 300);
        // 600 ms wait in the device, and come at once.
        let burst = (0..60).map(|_| arrival.came(3.6, 480)).last().expect("some");
        assert!(burst.abs() < 2e-3, "{burst}");
        let after = pieces(&mut arrival, 3.6, 300);
        assert!(after.abs() < 2e-3, "{after}");
    }
}
