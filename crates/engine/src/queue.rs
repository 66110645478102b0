//! The queue of what waits for its boundary, the soonest first.

use super::wish::{Armed, Stay, Wish};
use splimo_show::Boundary;

/// The most things that wait at once. Room for them is there from the beginning, so that arming never allocates.
pub(super) const MOST: usize = 64;

/// The lengths of bar and phrase, in beats.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Metre {
    pub bar: f64,
    pub phrase: f64,
}

impl Metre {
    /// The number of beats that lie between two boundaries of a kind; none for those that are everywhere.
    pub(super) fn length(self, boundary: Boundary) -> Option<f64> {
        match boundary {
            Boundary::Now => None,
            Boundary::Beat => Some(1.0),
            Boundary::Bar => Some(self.bar),
            Boundary::FourBars => Some(4.0 * self.bar),
            Boundary::Phrase => Some(self.phrase),
        }
    }

    /// The beat of the next boundary of a kind after a beat.
    pub(super) fn next(self, boundary: Boundary, beat: f64) -> f64 {
        self.length(boundary).map_or(beat, |every| ((beat / every).floor() + 1.0) * every)
    }
}

/// Wishes that wait for their boundaries.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Queue {
    /// By where they land, the soonest first; of those that land together the one asked for first.
    waiting: Vec<Armed>,
    asked: u64,
}

impl Default for Queue {
    fn default() -> Self {
        Self { waiting: Vec::with_capacity(MOST), asked: 0 }
    }
}

impl Queue {
    /// Puts a wish in. What waits for the same tier gives way, unless one of the two only lies over what the tier shows.
    pub(super) fn arm(&mut self, wish: Wish, boundary: Boundary, lands_at: f64) {
        let takes = |stay: Stay| stay == Stay::ForGood;
        self.waiting.retain(|other| {
            let same_pad = wish.pad.is_some() && other.wish.pad == wish.pad;
            let both_take = takes(other.wish.stay) && takes(wish.stay);
            other.wish.tier != wish.tier || !(both_take || same_pad)
        });
        self.asked += 1;
        let number = (1..).find(|number| self.waiting.iter().all(|other| other.number != *number)).unwrap_or(MOST);
        self.insert(Armed { number, wish, boundary, lands_at, asked: self.asked, pushed: 0 });
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

    /// Takes out what has a number.
    pub(super) fn take(&mut self, number: usize) -> Option<Armed> {
        let place = self.waiting.iter().position(|armed| armed.number == number)?;
        Some(self.waiting.remove(place))
    }

    /// Takes out the first that fits.
    pub(super) fn take_if(&mut self, fits: impl Fn(&Armed) -> bool) -> Option<Armed> {
        let place = self.waiting.iter().position(fits)?;
        Some(self.waiting.remove(place))
    }

    /// Has what has a number wait for the boundary after the one that it waits for. Whether there is such a thing.
    pub(super) fn push(&mut self, number: usize, metre: Metre) -> bool {
        let Some(armed) = self.waiting.iter_mut().find(|armed| armed.number == number) else { return false };
        let Some(every) = metre.length(armed.boundary) else { return false };
        armed.lands_at += every;
        armed.pushed += 1;
        self.sort();
        true
    }

    /// Lets nothing wait any more.
    pub(super) fn clear(&mut self) {
        self.waiting.clear();
    }

    /// Finds its looks and tiers again in other lists: the places tell where each stands there. What has none waits no more.
    pub(super) fn follow(&mut self, looks: &[Option<usize>], tiers: &[Option<usize>]) {
        let find = |places: &[Option<usize>], place: usize| places.get(place).copied().flatten();
        self.waiting.retain_mut(|armed| {
            let tier = find(tiers, armed.wish.tier);
            let look = armed.wish.look.map(|look| find(looks, look));
            armed.wish.tier = tier.unwrap_or(armed.wish.tier);
            armed.wish.look = look.flatten();
            tier.is_some() && look != Some(None)
        });
    }

    /// Aims each anew where the count of beats was moved by `shift`, or bars and phrases are others: at the next of its boundaries,
    /// or at the nearest to where it was pushed.
    pub(super) fn aim(&mut self, beat: f64, shift: f64, metre: Metre) {
        for armed in &mut self.waiting {
            let next = metre.next(armed.boundary, beat);
            armed.lands_at = match metre.length(armed.boundary) {
                Some(every) if armed.pushed > 0 => (((armed.lands_at + shift) / every).round() * every).max(next),
                _ => next,
            };
        }
        self.sort();
    }

    /// Has what waits for a boundary land at a beat that was marked as one.
    pub(super) fn land_on(&mut self, beat: f64, metre: Metre) {
        for armed in self.waiting.iter_mut().filter(|armed| armed.pushed == 0) {
            if metre.length(armed.boundary).is_some_and(|every| beat.rem_euclid(every) == 0.0) {
                armed.lands_at = beat;
            }
        }
        self.sort();
    }

    fn sort(&mut self) {
        self.waiting.sort_unstable_by(|a, b| a.lands_at.total_cmp(&b.lands_at).then(a.asked.cmp(&b.asked)));
    }

    /// Everything that waits, the soonest first.
    pub(super) fn waiting(&self) -> &[Armed] {
        &self.waiting
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::command::Origin;

    const METRE: Metre = Metre { bar: 4.0, phrase: 64.0 };

    fn wish(tier: usize, look: usize) -> Wish {
        Wish {
            tier,
            look: Some(look),
            fade: 1.0,
            fade_out: 1.0,
            stay: Stay::ForGood,
            by: Origin::Session,
            pad: Some(look + 1),
        }
    }

    /// Looks, each on a tier of its own, that wait for boundaries at beats.
    fn queue(waiting: &[(usize, Boundary, f64)]) -> Queue {
        let mut queue = Queue::default();
        waiting.iter().for_each(|(look, boundary, at)| queue.arm(wish(*look, *look), *boundary, *at));
        queue
    }

    fn looks(queue: &Queue) -> Vec<(usize, f64)> {
        queue.waiting().iter().map(|armed| (armed.wish.look.unwrap_or(99), armed.lands_at)).collect()
    }

    #[test]
    fn the_soonest_is_taken_first_and_only_when_it_is_due() {
        let mut queue = queue(&[(1, Boundary::Phrase, 64.0), (2, Boundary::Bar, 8.0), (3, Boundary::Beat, 5.0)]);
        let look = |armed: Option<Armed>| armed.and_then(|armed| armed.wish.look);
        assert_eq!(look(queue.take_due(4.9)), None);
        assert_eq!(look(queue.take_due(8.5)), Some(3));
        assert_eq!(look(queue.take_due(8.5)), Some(2));
        assert_eq!(look(queue.take_due(8.5)), None);
        assert_eq!(look(queue.take_first()), Some(1));
        assert_eq!(look(queue.take_first()), None);
    }

    #[test]
    fn what_lands_together_lands_in_the_order_in_which_it_was_asked_for() {
        let mut queue = queue(&[(5, Boundary::Bar, 8.0), (1, Boundary::Phrase, 8.0), (3, Boundary::Bar, 8.0)]);
        assert_eq!(looks(&queue), [(5, 8.0), (1, 8.0), (3, 8.0)]);
        queue.aim(9.0, 0.0, Metre { bar: 4.0, phrase: 4.0 });
        assert_eq!(looks(&queue), [(5, 12.0), (1, 12.0), (3, 12.0)]);
    }

    #[test]
    fn what_is_pushed_lands_one_boundary_later_wherever_boundaries_are_then() {
        let mut queue = queue(&[(1, Boundary::Bar, 8.0), (2, Boundary::FourBars, 16.0)]);
        let first = queue.waiting()[0].number;
        assert!(queue.push(first, METRE) && queue.push(first, METRE) && queue.push(first, METRE));
        assert_eq!(looks(&queue), [(2, 16.0), (1, 20.0)]);
        queue.aim(9.5, 1.0, METRE);
        assert_eq!(looks(&queue), [(2, 16.0), (1, 20.0)], "the count moved by a beat, bars are where they were");
        queue.aim(41.0, 0.0, METRE);
        assert_eq!(looks(&queue), [(1, 44.0), (2, 48.0)]);
        assert!(!queue.push(77, METRE));
    }

    #[test]
    fn looks_and_tiers_are_found_again_or_wait_no_more() {
        let mut queue = queue(&[(0, Boundary::Bar, 8.0), (1, Boundary::Bar, 8.0), (2, Boundary::Bar, 8.0)]);
        queue.follow(&[None, Some(4), Some(5)], &[Some(0), Some(1), None]);
        assert_eq!(looks(&queue), [(4, 8.0)]);
    }

    #[test]
    fn a_tier_that_is_armed_twice_keeps_the_later_wish_and_others_theirs() {
        let mut queue = Queue::default();
        queue.arm(wish(0, 0), Boundary::Phrase, 64.0);
        queue.arm(wish(1, 5), Boundary::Phrase, 64.0);
        queue.arm(wish(0, 1), Boundary::Bar, 8.0);
        assert_eq!(looks(&queue), [(1, 8.0), (5, 64.0)]);
        let flash = Wish { stay: Stay::Held, ..wish(0, 7) };
        queue.arm(flash, Boundary::Now, 3.0);
        assert_eq!(looks(&queue), [(7, 3.0), (1, 8.0), (5, 64.0)], "a flash leaves what waits");
        assert_eq!(queue.waiting().iter().map(|armed| armed.number).collect::<Vec<_>>(), [3, 1, 2]);
        queue.clear();
        assert!(queue.waiting().is_empty());
    }

    #[test]
    fn more_than_there_is_room_for_is_left_out() {
        let many: Vec<_> = (0..2 * MOST).map(|look| (look, Boundary::Bar, 8.0)).collect();
        assert_eq!(queue(&many).waiting().len(), MOST);
    }
}
