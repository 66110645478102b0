//! Looks that are edited blind: kept back until somebody keeps or drops them, with a past of their own.

use super::Outcome;
use crate::edit::{Edit, Refused};
use crate::reference::{self, Fate, NameChanges};
use splimo_show::reference::ReferenceKind;
use splimo_show::{Look, Show};

/// Steps that can be undone.
const STEPS: usize = 500;

/// Looks as they were edited blind, each with the name that it has in the show.
type Looks = Vec<(String, Look)>;

/// The looks that are edited blind.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Drafts {
    blind: bool,
    looks: Looks,
    past: Vec<Looks>,
    future: Vec<Looks>,
}

impl Drafts {
    /// True if looks are edited blind.
    #[must_use]
    pub fn is_blind(&self) -> bool {
        self.blind
    }

    /// The looks that were edited blind, each with the name that it has in the show.
    #[must_use]
    pub fn looks(&self) -> &[(String, Look)] {
        &self.looks
    }

    /// True if there is a blind change to take back, and one to make again.
    #[must_use]
    pub fn steps(&self) -> [bool; 2] {
        [!self.past.is_empty(), !self.future.is_empty()]
    }

    pub(super) fn begin(&mut self) -> Outcome {
        if std::mem::replace(&mut self.blind, true) {
            return Outcome::Nothing("looks are edited blind already".to_owned());
        }
        self.past.clear();
        self.future.clear();
        Outcome::Told("blind: what you change does not go out until b ends it".to_owned())
    }

    pub(super) fn end(&mut self) -> Outcome {
        let dropped = !self.looks.is_empty();
        *self = Self::default();
        Outcome::Told(if dropped { "dropped; live again" } else { "live: what you change is seen at once" }.to_owned())
    }

    pub(super) fn put(&mut self, looks: &[(String, Look)], show: &Show) -> Result<Outcome, Refused> {
        if !self.blind {
            return Err(Refused("looks are not edited blind any more; look at it, and do it again".to_owned()));
        }
        if let Some((name, _)) = looks.iter().find(|(name, _)| show.look(name).is_none()) {
            return Err(Refused(format!("there is no look \"{name}\" any more")));
        }
        if self.past.len() == STEPS {
            self.past.remove(0);
        }
        self.past.push(self.looks.clone());
        self.future.clear();
        for (name, look) in looks {
            self.looks.retain(|(known, _)| known != name);
            self.looks.push((name.clone(), look.clone()));
        }
        Ok(Outcome::Done)
    }

    pub(super) fn step(&mut self, back: bool) -> Outcome {
        let (from, to, words) = match back {
            true => (&mut self.past, &mut self.future, ["nothing to undo, blind", "taken back, blind"]),
            false => (&mut self.future, &mut self.past, ["nothing to redo, blind", "made again, blind"]),
        };
        let Some(looks) = from.pop() else { return Outcome::Nothing(words[0].to_owned()) };
        to.push(std::mem::replace(&mut self.looks, looks));
        Outcome::Told(words[1].to_owned())
    }

    /// The edit that keeps everything; none where there is nothing.
    pub(super) fn edit(&self, show: &Show) -> Result<Option<Edit>, Refused> {
        let gone = |name: &str| Refused(format!("there is no look \"{name}\" any more"));
        let place = |(name, look): &(String, Look)| {
            show.look(name).map(|(index, _)| (index, look.clone())).ok_or_else(|| gone(name))
        };
        let looks = self.looks.iter().map(place).collect::<Result<Vec<_>, _>>()?;
        Ok((!looks.is_empty()).then_some(Edit::PutLooks(looks)))
    }

    /// Follows whatever has got another name, and forgets looks that are gone.
    pub(super) fn follow(&mut self, before: &Show, after: &Show) {
        if self.looks.is_empty() && self.past.is_empty() && self.future.is_empty() {
            return;
        }
        let changes = NameChanges::between(before, after);
        if !changes.is_empty() {
            let all = self.past.iter_mut().chain(&mut self.future).chain([&mut self.looks]);
            all.for_each(|looks| looks.retain_mut(|draft| follow(draft, &changes)));
        }
    }
}

/// Follows with one look. Whether it is still there.
fn follow((name, look): &mut (String, Look), changes: &NameChanges) -> bool {
    match changes.fate(&[ReferenceKind::Look], name) {
        Fate::Keep => {}
        Fate::Remove => return false,
        Fate::Rename(now) => {
            if look.name == *name {
                now.clone_into(&mut look.name);
            }
            now.clone_into(name);
        }
    }
    let mut followed = look.clone();
    // A layer without any target would light everything: it keeps the one that is gone, which is told when it is kept.
    if reference::rewrite_look(&mut followed, |kinds, name| changes.fate(kinds, name)).is_empty() {
        *look = followed;
    }
    true
}
