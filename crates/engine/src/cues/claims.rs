//! Claims: which of several senders has a thing, and to whom it goes back when one lets it go. Cue lists claim tiers and values; whoever
//! else had them is kept below as the hands.

use splimo_show::{MOST_LISTS, MOST_TIMELINES};

/// The most owners besides the hands: the lists, and behind them the timelines.
pub(super) const MOST_OWNERS: usize = MOST_LISTS + MOST_TIMELINES;

/// The sender that has a thing.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Owner {
    /// A person, or anything else that is no list.
    Hands,
    /// A cue list, by its place in the show, or a timeline behind the lists.
    List(usize),
}

/// The thing that somebody says, and its place in the order in which such things were said.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Said<T> {
    what: T,
    order: u64,
}

/// The claims to one thing.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Claims<T> {
    hands: Option<Said<T>>,
    lists: [Option<Said<T>>; MOST_OWNERS],
}

impl<T: Copy> Claims<T> {
    pub(super) const NONE: Self = Self { hands: None, lists: [None; MOST_OWNERS] };

    /// True if a list claims it.
    pub(super) fn is_claimed(&self) -> bool {
        self.lists.iter().any(Option::is_some)
    }

    /// The thing that a list said of it last.
    pub(super) fn of(&self, list: usize) -> Option<T> {
        self.lists.get(list).copied().flatten().map(|said| said.what)
    }

    /// The one who has it, and what they said: of the highest priority the latest. Hands have priority 0.
    pub(super) fn top(&self, priority: impl Fn(usize) -> u8) -> Option<(Owner, T)> {
        let hands = self.hands.map(|said| (0, said, Owner::Hands));
        let lists = self.lists.iter().enumerate();
        let lists = lists.filter_map(|(list, said)| said.map(|said| (priority(list), said, Owner::List(list))));
        let top = hands.into_iter().chain(lists).max_by_key(|(priority, said, _)| (*priority, said.order))?;
        Some((top.2, top.1.what))
    }

    /// Has a list claim it; `before` is what the hands had if no list claimed it yet.
    pub(super) fn say(&mut self, list: usize, what: T, order: u64, before: impl FnOnce() -> T) {
        if !self.is_claimed() {
            self.hands = Some(Said { what: before(), order: 0 });
        }
        if let Some(said) = self.lists.get_mut(list) {
            *said = Some(Said { what, order });
        }
    }

    /// Has the hands say something, where a list claims it besides.
    pub(super) fn hands_say(&mut self, what: T, order: u64) {
        if self.is_claimed() {
            self.hands = Some(Said { what, order });
        }
    }

    /// Ends the claim of a list.
    pub(super) fn release(&mut self, list: usize) {
        if let Some(said) = self.lists.get_mut(list) {
            *said = None;
        }
    }

    /// The same claims for other lists, and with what was said changed, or gone.
    pub(super) fn moved(&self, lists: &[Option<usize>], now: impl Fn(T) -> Option<T>) -> Self {
        let now = |said: Said<T>| Some(Said { what: now(said.what)?, ..said });
        let mut moved = Self { hands: self.hands.and_then(now), ..Self::NONE };
        for (said, place) in self.lists.iter().zip(lists) {
            if let (Some(said), Some(place)) = (said, place) {
                moved.lists[*place] = now(*said);
            }
        }
        moved
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn top(claims: &Claims<u8>) -> Option<(Owner, u8)> {
        claims.top(|list| [0, 0, 50][list])
    }

    #[test]
    fn the_latest_of_the_highest_priority_has_it_and_it_goes_back_to_whoever_is_next() {
        let mut claims = Claims::NONE;
        claims.hands_say(9, 1);
        assert_eq!(top(&claims), None, "nobody keeps book of hands alone");
        claims.say(0, 10, 2, || 9);
        assert_eq!(top(&claims), Some((Owner::List(0), 10)));
        claims.say(2, 12, 3, || unreachable!("it is claimed"));
        claims.say(1, 11, 4, || unreachable!("it is claimed"));
        assert_eq!(top(&claims), Some((Owner::List(2), 12)));
        claims.hands_say(99, 5);
        assert_eq!(top(&claims), Some((Owner::List(2), 12)), "hands wait below a list of priority");
        claims.release(2);
        assert_eq!(top(&claims), Some((Owner::Hands, 99)));
        claims.say(0, 20, 6, || unreachable!("it is claimed"));
        assert_eq!(top(&claims), Some((Owner::List(0), 20)));
        claims.release(0);
        claims.release(1);
        assert_eq!((claims.is_claimed(), top(&claims)), (false, Some((Owner::Hands, 99))));
    }

    #[test]
    fn claims_follow_their_lists() {
        let mut claims = Claims::NONE;
        claims.say(0, 1, 1, || 7);
        claims.say(1, 2, 2, || 7);
        let moved = claims.moved(&[Some(2), Some(0)], |what| (what != 1).then_some(what + 10));
        assert_eq!((moved.of(0), moved.of(2), moved.hands.map(|said| said.what)), (Some(12), None, Some(17)));
    }
}
