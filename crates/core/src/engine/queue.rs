//! The queue of what waits for its boundary, the soonest first.

use super::snapshot::Armed;
use crate::show::Boundary;

/// The most things that wait at once. Room for them is there from the beginning, so that arming never allocates.
pub(super) const MOST: usize = 64;

/// Looks that wait for their boundaries.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Queue {
    /// By where they land, the soonest first.
    waiting: Vec<Armed>,
}

impl Default for Queue {
    fn default() -> Self {
        Self { waiting: Vec::with_capacity(MOST) }
    }
}

impl Queue {
    /// Puts a look in. There is one stage, so that what waited for it gives way.
    pub(super) fn arm(&mut self, armed: Armed) {
        self.waiting.clear();
        self.insert(armed);
    }

    fn insert(&mut self, armed: Armed) {
        if self.waiting.len() < MOST {
            let place = self.waiting.partition_point(|other| other.lands_at <= armed.lands_at);
            self.waiting.insert(place, armed);
        }
    }

    /// Takes out the soonest.
    pub(super) fn take_first(&mut self) -> Option<Armed> {
        (!self.waiting.is_empty()).then(|| self.waiting.remove(0))
    }

    /// Takes out the soonest if it lands by a beat.
    pub(super) fn take_due(&mut self, beat: f64) -> Option<Armed> {
        self.waiting.first().is_some_and(|armed| beat >= armed.lands_at).then(|| self.waiting.remove(0))
    }

    /// Lets nothing wait any more.
    pub(super) fn clear(&mut self) {
        self.waiting.clear();
    }

    /// Finds its looks again in another list of looks: `place` tells where each stands there. What has none waits no more.
    pub(super) fn follow(&mut self, place: &[Option<usize>]) {
        self.waiting.retain_mut(|armed| {
            let look = place.get(armed.look).copied().flatten();
            armed.look = look.unwrap_or(armed.look);
            look.is_some()
        });
    }

    /// Aims each anew: `lands_at` tells at which beat what waits for a boundary lands, nothing where it stays as it is.
    pub(super) fn aim(&mut self, lands_at: impl Fn(Boundary) -> Option<f64>) {
        for armed in &mut self.waiting {
            armed.lands_at = lands_at(armed.boundary).unwrap_or(armed.lands_at);
        }
        self.waiting.sort_unstable_by(|a, b| a.lands_at.total_cmp(&b.lands_at));
    }

    /// The looks that wait, the soonest first.
    pub(super) fn waiting(&self) -> &[Armed] {
        &self.waiting
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn armed(look: usize, boundary: Boundary, lands_at: f64) -> Armed {
        Armed { look, boundary, lands_at }
    }

    fn queue(waiting: &[Armed]) -> Queue {
        let mut queue = Queue::default();
        waiting.iter().for_each(|armed| queue.insert(*armed));
        queue
    }

    #[test]
    fn the_soonest_is_taken_first_and_only_when_it_is_due() {
        let mut queue =
            queue(&[armed(1, Boundary::Phrase, 64.0), armed(2, Boundary::Bar, 8.0), armed(3, Boundary::Beat, 5.0)]);
        assert_eq!(queue.take_due(4.9), None);
        assert_eq!(queue.take_due(8.5).map(|armed| armed.look), Some(3));
        assert_eq!(queue.take_due(8.5).map(|armed| armed.look), Some(2));
        assert_eq!(queue.take_due(8.5), None);
        assert_eq!(queue.take_first().map(|armed| armed.look), Some(1));
        assert_eq!(queue.take_first(), None);
    }

    #[test]
    fn what_is_aimed_anew_is_sorted_anew() {
        let mut queue = queue(&[armed(1, Boundary::Bar, 8.0), armed(2, Boundary::Phrase, 16.0)]);
        queue.aim(|boundary| (boundary == Boundary::Phrase).then_some(6.0));
        assert_eq!(queue.waiting(), [armed(2, Boundary::Phrase, 6.0), armed(1, Boundary::Bar, 8.0)]);
    }

    #[test]
    fn looks_are_found_again_or_wait_no_more() {
        let mut queue = queue(&[armed(0, Boundary::Bar, 8.0), armed(1, Boundary::Bar, 8.0)]);
        queue.follow(&[None, Some(4)]);
        assert_eq!(queue.waiting(), [armed(4, Boundary::Bar, 8.0)]);
    }

    #[test]
    fn one_stage_has_one_look_that_waits_for_it() {
        let mut queue = Queue::default();
        queue.arm(armed(0, Boundary::Phrase, 64.0));
        queue.arm(armed(1, Boundary::Bar, 8.0));
        assert_eq!(queue.waiting(), [armed(1, Boundary::Bar, 8.0)]);
        queue.clear();
        assert!(queue.waiting().is_empty());
    }

    #[test]
    fn more_than_there_is_room_for_is_left_out() {
        let many: Vec<Armed> = (0..2 * MOST).map(|look| armed(look, Boundary::Bar, 8.0)).collect();
        assert_eq!(queue(&many).waiting().len(), MOST);
    }
}
