//! Claims: which of several senders has a thing, and to whom it goes back when one lets it go. Cue lists claim tiers and values; whoever
//! else had them is kept below as the hands.

use super::claimant::{Claimant, MOST_CLAIMANTS};

/// The sender that has a thing.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Owner {
    /// A person, or anything else that claims nothing.
    Hands,
    /// A cue list or a timeline.
    Claimant(Claimant),
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
    claims: [Option<Said<T>>; MOST_CLAIMANTS],
}

impl<T: Copy> Claims<T> {
    pub(super) const NONE: Self = Self { hands: None, claims: [None; MOST_CLAIMANTS] };

    /// True if somebody claims it.
    pub(super) fn is_claimed(&self) -> bool {
        self.claims.iter().any(Option::is_some)
    }

    /// The thing that a claimant said of it last.
    pub(super) fn of(&self, by: Claimant) -> Option<T> {
        self.claims.get(usize::from(by)).copied().flatten().map(|said| said.what)
    }

    /// The one who has it, and what they said: of the highest priority the latest. Hands have priority 0.
    pub(super) fn top(&self, priority: impl Fn(Claimant) -> u8) -> Option<(Owner, T)> {
        let hands = self.hands.map(|said| (0, said, Owner::Hands));
        let claims = self.claims.iter().zip((0..).map(Claimant::from));
        let claims = claims.filter_map(|(said, by)| said.map(|said| (priority(by), said, Owner::Claimant(by))));
        let top = hands.into_iter().chain(claims).max_by_key(|(priority, said, _)| (*priority, said.order))?;
        Some((top.2, top.1.what))
    }

    /// Has somebody claim it; `before` is what the hands had if nobody claimed it yet.
    pub(super) fn say(&mut self, by: Claimant, what: T, order: u64, before: impl FnOnce() -> T) {
        if !self.is_claimed() {
            self.hands = Some(Said { what: before(), order: 0 });
        }
        if let Some(said) = self.claims.get_mut(usize::from(by)) {
            *said = Some(Said { what, order });
        }
    }

    /// Has the hands say something, where somebody claims it besides.
    pub(super) fn hands_say(&mut self, what: T, order: u64) {
        if self.is_claimed() {
            self.hands = Some(Said { what, order });
        }
    }

    /// Ends a claim.
    pub(super) fn release(&mut self, by: Claimant) {
        if let Some(said) = self.claims.get_mut(usize::from(by)) {
            *said = None;
        }
    }

    /// The same claims by other claimants, and with what was said changed, or gone.
    pub(super) fn moved(&self, claimants: &[Option<Claimant>; MOST_CLAIMANTS], now: impl Fn(T) -> Option<T>) -> Self {
        let now = |said: Said<T>| Some(Said { what: now(said.what)?, ..said });
        let mut moved = Self { hands: self.hands.and_then(now), ..Self::NONE };
        for (said, by) in self.claims.iter().zip(claimants) {
            if let (Some(said), Some(by)) = (said, by) {
                moved.claims[usize::from(*by)] = now(*said);
            }
        }
        moved
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn top(claims: &Claims<u8>) -> Option<(Owner, u8)> {
        claims.top(|by| [0, 0, 50][usize::from(by)])
    }

    #[test]
    fn the_latest_of_the_highest_priority_has_it_and_it_goes_back_to_whoever_is_next() {
        let mut claims = Claims::NONE;
        claims.hands_say(9, 1);
        assert_eq!(top(&claims), None, "nobody keeps book of hands alone");
        claims.say(Claimant::List(0), 10, 2, || 9);
        assert_eq!(top(&claims), Some((Owner::Claimant(Claimant::List(0)), 10)));
        claims.say(Claimant::List(2), 12, 3, || unreachable!("it is claimed"));
        claims.say(Claimant::List(1), 11, 4, || unreachable!("it is claimed"));
        assert_eq!(top(&claims), Some((Owner::Claimant(Claimant::List(2)), 12)));
        claims.hands_say(99, 5);
        assert_eq!(top(&claims), Some((Owner::Claimant(Claimant::List(2)), 12)), "hands wait below a list of priority");
        claims.release(Claimant::List(2));
        assert_eq!(top(&claims), Some((Owner::Hands, 99)));
        claims.say(Claimant::List(0), 20, 6, || unreachable!("it is claimed"));
        assert_eq!(top(&claims), Some((Owner::Claimant(Claimant::List(0)), 20)));
        claims.release(Claimant::List(0));
        claims.release(Claimant::List(1));
        assert_eq!((claims.is_claimed(), top(&claims)), (false, Some((Owner::Hands, 99))));
    }

    #[test]
    fn claims_follow_their_lists() {
        let mut claims = Claims::NONE;
        claims.say(Claimant::List(0), 1, 1, || 7);
        claims.say(Claimant::List(1), 2, 2, || 7);
        let mut places = [None; MOST_CLAIMANTS];
        (places[0], places[1]) = (Some(Claimant::List(2)), Some(Claimant::List(0)));
        let moved = claims.moved(&places, |what| (what != 1).then_some(what + 10));
        assert_eq!(
            (moved.of(Claimant::List(0)), moved.of(Claimant::List(2)), moved.hands.map(|said| said.what)),
            (Some(12), None, Some(17))
        );
    }
}
