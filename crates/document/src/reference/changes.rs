//! Names that changed between two editions of a show.

use std::collections::HashMap;

use splimo_show::Show;
use splimo_show::followed;
use splimo_show::reference::{Fate, ReferenceKind, names};

/// The changes of names between two editions of a show: what is called otherwise, and what is gone.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct NameChanges(HashMap<(ReferenceKind, String), Option<String>>);

impl NameChanges {
    /// The changes from one edition to another.
    #[must_use]
    pub fn between(before: &Show, after: &Show) -> Self {
        let mut changes = HashMap::new();
        for kind in [
            ReferenceKind::Look,
            ReferenceKind::Fixture,
            ReferenceKind::Group,
            ReferenceKind::Profile,
            ReferenceKind::Swatch,
            ReferenceKind::Region,
            ReferenceKind::Supply,
            ReferenceKind::Tier,
            ReferenceKind::Bank,
            ReferenceKind::CueList,
            ReferenceKind::Timeline,
            ReferenceKind::Aim,
            ReferenceKind::Input,
            ReferenceKind::Program,
        ] {
            let [was, is] = [before, after].map(|show| names(show, kind).collect::<Vec<_>>());
            if was == is {
                continue;
            }
            for (name, place) in was.iter().zip(followed(&was, &is)) {
                let now = place.and_then(|place| is.get(place)).map(|now| (*now).to_owned());
                if now.as_deref() != Some(name) {
                    changes.insert((kind, (*name).to_owned()), now);
                }
            }
        }
        Self(changes)
    }

    /// True if nothing has.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// The fate of a reference.
    #[must_use]
    pub fn fate(&self, kinds: &[ReferenceKind], name: &str) -> Fate<'_> {
        match kinds.iter().find_map(|kind| self.0.get(&(*kind, name.to_owned()))) {
            None => Fate::Keep,
            Some(Some(now)) => Fate::Rename(now),
            Some(None) => Fate::Remove,
        }
    }
}
