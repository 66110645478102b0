//! Where a count of samples began on the show's time line.

use splimo_hear::SAMPLE_RATE;

/// How much later the beginning may come to lie with each piece, in seconds: the clock of a device is not ours.
const DRIFT: f64 = 2e-6;

/// Samples as they arrive. Pieces come late, never early, so that the earliest is nearest to the truth.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct Arrival {
    samples: u64,
    zero: Option<f64>,
}

impl Arrival {
    /// Takes note of samples that are there at `now`, in seconds of the show; returns when the first of all was heard.
    pub(super) fn came(&mut self, now: f64, samples: usize) -> f64 {
        self.samples += samples as u64;
        let began = now - self.seconds();
        *self.zero.insert(self.zero.map_or(began, |zero| (zero + DRIFT).min(began)))
    }

    /// How many seconds of sound have come.
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
}
