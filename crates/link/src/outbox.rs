//! The outbox of a screen: what it has yet to be told. It never holds more than a bounded amount, however little a screen reads:
//! of what only shows the present the newest replaces the older, and a document that has changed too often is told anew as a
//! whole. Answers and edits are never dropped.

use std::collections::VecDeque;

use crate::document::KeptUpdate;
use crate::message::Update;

/// Changes of the document that wait at the most before the whole is told instead.
const MOST_CHANGES: usize = 256;
/// Answers that wait at the most. A guest that lets more come together does not read.
const MOST_ANSWERS: usize = 4096;

/// A topic of which only the newest update counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Topic {
    State,
    Drafts,
    Troubles,
    Problems,
    Engine,
    Output,
    Network,
    Ports,
    Inputs,
    Slots,
    Led,
    Loads,
    Media,
    Light,
}

/// The number of topics.
const TOPICS: usize = Topic::Light as usize + 1;

fn topic_of(update: &Update) -> Option<Topic> {
    Some(match update {
        Update::State(_) => Topic::State,
        Update::Drafts(_) => Topic::Drafts,
        Update::Troubles(_) => Topic::Troubles,
        Update::Problems(_) => Topic::Problems,
        Update::Engine(_) => Topic::Engine,
        Update::Output(_) => Topic::Output,
        Update::Network(_) => Topic::Network,
        Update::Ports(_) => Topic::Ports,
        Update::Inputs(_) => Topic::Inputs,
        Update::Slots(_) => Topic::Slots,
        Update::Led(_) => Topic::Led,
        Update::Loads(_) => Topic::Loads,
        Update::Media(_) => Topic::Media,
        Update::Light(_) => Topic::Light,
        Update::Welcome { .. }
        | Update::Answer { .. }
        | Update::Document(_)
        | Update::Night(_)
        | Update::Said(_)
        | Update::Ended(_) => return None,
    })
}

/// The next thing to tell.
#[derive(Debug, PartialEq)]
pub enum Next {
    /// This update.
    Update(Box<Update>),
    /// The whole document, as it is by now.
    WholeDocument,
}

/// The messages that a screen has yet to be told.
#[derive(Debug, Default)]
pub struct Outbox {
    /// The messages that are told in order, each once.
    ordered: VecDeque<Next>,
    /// The number of changes of the document that are among it, and whether the whole is.
    changes: usize,
    whole: bool,
    newest: [Option<Update>; TOPICS],
    dropped: u64,
}

impl Outbox {
    /// Puts an update in. Of a topic the newest takes the place of an older one that nobody has read.
    pub fn put(&mut self, update: Update) {
        if let Some(topic) = topic_of(&update) {
            self.put_newest(topic, update);
            return;
        }
        if let Update::Document(document) = &update {
            if self.whole {
                // The whole, which is still to be told, has this change too.
                return;
            }
            if matches!(document.kept, KeptUpdate::Whole { .. }) || self.changes == MOST_CHANGES {
                self.want_whole();
                return;
            }
            self.changes += 1;
        }
        self.ordered.push_back(Next::Update(Box::new(update)));
    }

    fn put_newest(&mut self, topic: Topic, update: Update) {
        let place = &mut self.newest[topic as usize];
        let update = match (place.take(), update) {
            // Pictures that nobody has read yet are not forgotten for those of films that came later.
            (Some(Update::Media(mut before)), Update::Media(mut now)) => {
                if now.still.is_none() {
                    now.still = before.still.take();
                }
                Update::Media(now)
            }
            (before, now) => {
                self.dropped += u64::from(before.is_some());
                now
            }
        };
        self.newest[topic as usize] = Some(update);
    }

    /// Has the whole document told, in the place of all changes that wait.
    pub fn want_whole(&mut self) {
        let is_document = |next: &Next| match next {
            Next::WholeDocument => true,
            Next::Update(update) => matches!(**update, Update::Document(_)),
        };
        self.ordered.retain(|next| !is_document(next));
        self.ordered.push_back(Next::WholeDocument);
        (self.changes, self.whole) = (0, true);
    }

    /// Takes out what is to be told next: first what is told in order, then the present, light last.
    pub fn take(&mut self) -> Option<Next> {
        let Some(next) = self.ordered.pop_front() else {
            let newest = self.newest.iter_mut().find_map(Option::take);
            return newest.map(|update| Next::Update(Box::new(update)));
        };
        match &next {
            Next::WholeDocument => self.whole = false,
            Next::Update(update) => self.changes -= usize::from(matches!(**update, Update::Document(_))),
        }
        Some(next)
    }

    /// True if nothing waits.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.ordered.is_empty() && self.newest.iter().all(Option::is_none)
    }

    /// True if the guest lets more come together than any that reads.
    #[must_use]
    pub fn overflows(&self) -> bool {
        self.ordered.len() > MOST_ANSWERS
    }

    /// The number of updates that were replaced before they were read.
    #[must_use]
    pub fn dropped(&self) -> u64 {
        self.dropped
    }
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use splimo_document::Outcome;
    use splimo_document::edit::Edit;
    use splimo_show::{Canvas, Show};

    use super::*;
    use crate::document::{DocumentUpdate, Parcel};
    use crate::light::{LedSet, LightUpdate};
    use crate::media::{MediaUpdate, StillMedia};

    fn change(edition: u64) -> Update {
        let kept = KeptUpdate::Edited(Box::new(Edit::Canvas(Canvas { width: edition as f32, height: 1.0 })));
        Update::Document(Box::new(DocumentUpdate { edition, kept, tried: Vec::new() }))
    }

    fn light(edition: u64) -> Update {
        Update::Light(Box::new(LightUpdate::of(edition, &[[1.0; 3]], &LedSet::Every(1))))
    }

    fn answer(number: u64) -> Update {
        Update::Answer { number, outcome: Outcome::Done }
    }

    fn all(outbox: &mut Outbox) -> Vec<Next> {
        std::iter::from_fn(|| outbox.take()).collect()
    }

    #[test]
    fn edits_and_answers_come_in_order_and_light_is_the_newest_and_last() {
        let mut outbox = Outbox::default();
        for update in [light(1), change(2), answer(7), light(2), change(3), light(3)] {
            outbox.put(update);
        }
        let told = all(&mut outbox);
        let wanted = [change(2), answer(7), change(3), light(3)].map(|update| Next::Update(Box::new(update)));
        assert_eq!((told.as_slice(), outbox.dropped()), (&wanted[..], 2));
        assert!(outbox.is_empty());
    }

    #[test]
    fn who_reads_nothing_is_told_the_whole_later_and_takes_no_more_memory() {
        let mut outbox = Outbox::default();
        outbox.put(answer(1));
        for edition in 0..100_000 {
            outbox.put(change(edition));
            outbox.put(light(edition));
        }
        assert!(outbox.ordered.len() <= MOST_CHANGES + 1 && !outbox.overflows());
        assert_eq!(outbox.take(), Some(Next::Update(Box::new(answer(1)))), "answers stay");
        assert_eq!(outbox.take(), Some(Next::WholeDocument));
        outbox.put(change(100_001));
        let told = all(&mut outbox);
        assert!(told.contains(&Next::Update(Box::new(change(100_001)))), "what came after the whole is told");
    }

    #[test]
    fn a_show_that_is_another_is_told_as_the_whole() {
        let mut outbox = Outbox::default();
        outbox.put(change(1));
        let kept = KeptUpdate::Whole { show: Parcel::of(&Arc::new(Show::empty("Other"))), saved: None };
        outbox.put(Update::Document(Box::new(DocumentUpdate { edition: 2, kept, tried: Vec::new() })));
        assert_eq!(all(&mut outbox), [Next::WholeDocument]);
    }

    #[test]
    fn pictures_are_not_forgotten_for_films() {
        let mut outbox = Outbox::default();
        outbox
            .put(Update::Media(Box::new(MediaUpdate { still: Some(StillMedia::default()), ..MediaUpdate::default() })));
        outbox.put(Update::Media(Box::default()));
        let Some(Next::Update(update)) = outbox.take() else { panic!("there is one") };
        assert!(matches!(*update, Update::Media(media) if media.still.is_some()));
    }

    #[test]
    fn who_asks_and_asks_and_reads_nothing_is_noticed() {
        let mut outbox = Outbox::default();
        (0..=MOST_ANSWERS as u64).for_each(|number| outbox.put(answer(number)));
        assert!(outbox.overflows());
    }
}
