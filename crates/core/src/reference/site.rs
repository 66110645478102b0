//! A place where a show refers to something.

use super::{LayerAt, ReferenceKind, Use};
use crate::show::{Place, Show};

/// A place where a show refers to something, by indices from 0.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Site<'s> {
    /// The profile of a fixture.
    Profile(usize),
    /// A member of a group.
    Member {
        /// The group.
        group: usize,
        /// The member within it.
        at: usize,
    },
    /// A light that a supply feeds.
    Feed {
        /// The supply.
        supply: usize,
        /// The place in its list.
        at: usize,
    },
    /// A light that a layer has for its target.
    Target {
        /// The layer.
        of: LayerAt,
        /// The place in its list.
        at: usize,
    },
    /// A fixture whose lights a layer holds.
    Light {
        /// The layer.
        of: LayerAt,
        /// The fixture's name.
        fixture: &'s str,
    },
    /// A look that takes its turn in a layer.
    Turn {
        /// The layer.
        of: LayerAt,
        /// The parameter.
        param: &'s str,
        /// The place in its list.
        at: usize,
    },
    /// A colour of a layer that stands in the palette.
    Colour {
        /// The layer.
        of: LayerAt,
        /// The parameter.
        param: &'s str,
        /// The place in its list.
        at: usize,
    },
    /// A modulator that follows a control.
    Control {
        /// The layer.
        of: LayerAt,
        /// The modulator within it.
        modulator: usize,
    },
}

impl Site<'_> {
    /// The kinds that may be named here.
    #[must_use]
    pub fn accepts(&self) -> &'static [ReferenceKind] {
        match self {
            Self::Profile(_) => &[ReferenceKind::Profile],
            Self::Member { .. } | Self::Light { .. } => &[ReferenceKind::Fixture],
            Self::Feed { .. } | Self::Target { .. } => &[ReferenceKind::Group, ReferenceKind::Fixture],
            Self::Turn { .. } => &[ReferenceKind::Look],
            Self::Colour { .. } => &[ReferenceKind::Swatch],
            Self::Control { .. } => &[ReferenceKind::Control],
        }
    }

    /// The layer that it belongs to, if it is in one.
    #[must_use]
    pub fn layer(&self) -> Option<LayerAt> {
        match self {
            Self::Profile(_) | Self::Member { .. } | Self::Feed { .. } => None,
            Self::Target { of, .. }
            | Self::Light { of, .. }
            | Self::Turn { of, .. }
            | Self::Colour { of, .. }
            | Self::Control { of, .. } => Some(*of),
        }
    }

    /// Its place in the document.
    #[must_use]
    pub fn place(&self) -> Place {
        let entry = |list: &str, index: usize| Place::root().key(list).index(index);
        let layer = |of: &LayerAt| entry("looks", of.look).key("layers").index(of.layer);
        match self {
            Self::Profile(fixture) => entry("fixtures", *fixture).key("profile"),
            Self::Member { group, at } => entry("groups", *group).key("members").index(*at),
            Self::Feed { supply, at } => entry("supplies", *supply).key("feeds").index(*at),
            Self::Target { of, at } => layer(of).key("target").index(*at),
            Self::Light { of, fixture } => layer(of).key("lights").key(fixture),
            Self::Turn { of, param, at } | Self::Colour { of, param, at } => {
                layer(of).key("params").key(param).index(*at)
            }
            Self::Control { of, modulator } => layer(of).key("modulators").index(*modulator),
        }
    }

    /// The user of the reference.
    #[must_use]
    pub fn user(&self, show: &Show) -> Use {
        let (kind, name) = match self {
            Self::Profile(fixture) => (ReferenceKind::Fixture, &show.fixtures[*fixture].name),
            Self::Member { group, .. } => (ReferenceKind::Group, &show.groups[*group].name),
            Self::Feed { supply, .. } => (ReferenceKind::Supply, &show.supplies[*supply].name),
            Self::Target { of, .. }
            | Self::Light { of, .. }
            | Self::Turn { of, .. }
            | Self::Colour { of, .. }
            | Self::Control { of, .. } => (ReferenceKind::Look, &show.looks[of.look].name),
        };
        Use { kind, name: name.clone(), layer: self.layer().map(|of| of.layer) }
    }

    /// The user of the reference, with the effect of the layer.
    #[must_use]
    pub fn subject(&self, show: &Show) -> String {
        let user = self.user(show);
        match self.layer() {
            Some(of) => format!("{user} ({})", show.looks[of.look].layers[of.layer].effect),
            None => user.to_string(),
        }
    }
}
