//! References to nothing.

use std::collections::HashSet;

use super::Found;
use crate::making;
use crate::patch::Profiles;
use crate::reference::{self, Site};
use splimo_base::nearest::meant;
use splimo_show::Severity;
use splimo_show::reference::ReferenceKind;
use splimo_show::{Profile, Show};

/// The kinds of which a show may name one that is not there. A control always is, and what a colour names is told with the
/// colour.
const MAY_BE_MISSING: [ReferenceKind; 12] = [
    ReferenceKind::Swatch,
    ReferenceKind::Look,
    ReferenceKind::Fixture,
    ReferenceKind::Group,
    ReferenceKind::Tier,
    ReferenceKind::Bank,
    ReferenceKind::Input,
    ReferenceKind::Program,
    ReferenceKind::CueList,
    ReferenceKind::Timeline,
    ReferenceKind::Aim,
    ReferenceKind::Region,
];

impl Found {
    pub(super) fn references(&mut self, show: &Show) {
        let known = MAY_BE_MISSING.map(|kind| splimo_show::reference::names(show, kind).collect::<HashSet<&str>>());
        let mut profiles = Profiles::of(show);
        reference::visit(show, |site, name| match site {
            Site::Profile(fixture) if profiles.get(&show.fixtures[fixture].profile).is_none() => {
                let own = show.profiles.iter().map(|profile| profile.name.clone());
                let all: Vec<String> = own.chain(Profile::built_in_names()).collect();
                self.missing(show, site, name, &meant(name, all.iter().map(String::as_str)));
            }
            Site::Profile(_) | Site::Colour { .. } | Site::Control { .. } => {}
            Site::Member { .. }
            | Site::Feed { .. }
            | Site::Target { .. }
            | Site::Light { .. }
            | Site::Turn { .. }
            | Site::TierLight { .. }
            | Site::PadTier { .. }
            | Site::PadLook { .. }
            | Site::CueTier { .. }
            | Site::CueLook { .. }
            | Site::CueCommand(..)
            | Site::CueInput(_)
            | Site::ScheduleCommand(..)
            | Site::LaneLight(..)
            | Site::LaneColour(..)
            | Site::LaneLook(..)
            | Site::LaneAim(..)
            | Site::LayerAim { .. }
            | Site::AimedHead(..)
            | Site::LayerRegion(_)
            | Site::RegionOf(_)
            | Site::ClipTier(..)
            | Site::ClipLook(..)
            | Site::ClipList(..)
            | Site::ClipCommand(..)
            | Site::ListInput(_)
            | Site::SettingLook(_)
            | Site::BindingInput(_)
            | Site::BindingCommand(..)
            | Site::PadCommand { .. }
            | Site::SilentCommand(..)
            | Site::OutSource(..)
            | Site::OutInput(_)
            | Site::RotationTier
            | Site::InRotation(..) => {
                let accepted = |kind: &ReferenceKind| site.accepts().contains(kind);
                let there =
                    MAY_BE_MISSING.iter().zip(&known).any(|(kind, names)| accepted(kind) && names.contains(name));
                if !there {
                    let names = MAY_BE_MISSING.iter().zip(&known).filter(|(kind, _)| accepted(kind));
                    let near = meant(name, names.flat_map(|(_, names)| names.iter().copied()));
                    self.missing(show, site, name, &near);
                } else if matches!(site, Site::Turn { .. }) {
                    self.turns_within_turns(show, site, name);
                }
            }
        });
    }

    fn missing(&mut self, show: &Show, site: Site<'_>, name: &str, near: &str) {
        let kinds: Vec<&str> = site.accepts().iter().map(|kind| kind.name()).collect();
        let message = format!("there is no {} \"{name}\"{near}", kinds.join(" or "));
        let (severity, mend) = match site {
            Site::Profile(_) => (
                Severity::Broken,
                "use a built-in one, such as rgb, grb, rgbw, rgb 16 or dimmer, or add it under [[profiles]]",
            ),
            Site::Member { .. } => (Severity::Broken, "take it out, or add the fixture"),
            Site::Feed { .. } | Site::Target { .. } | Site::TierLight { .. } => {
                (Severity::Broken, "take it out, or add the group")
            }
            Site::Light { .. } => (Severity::Warning, "take the colours held for it out, or add the fixture"),
            Site::Turn { .. } | Site::SettingLook(_) => (Severity::Error, "take it out, or write the name of a look"),
            Site::PadTier { .. } | Site::RotationTier => {
                (Severity::Error, "take it out for the lowest tier, or add the tier")
            }
            Site::PadLook { .. } => (Severity::Error, "clear the pad, or write the name of a look"),
            Site::OutSource(..) | Site::OutInput(_) => {
                (Severity::Error, "it does not leave so; write the name of what is there")
            }
            Site::AimedHead(..) => (Severity::Warning, "take it out of the aim, or add the fixture"),
            Site::LayerRegion(_) => (Severity::Error, "take it out, or add the region under [[regions]]"),
            Site::RegionOf(_) => (Severity::Error, "take it out for the canvas, or add the group"),
            Site::LayerAim { .. } => (Severity::Error, "take it out, or write the name of an aim"),
            Site::LaneLight(..) | Site::LaneColour(..) | Site::LaneLook(..) | Site::LaneAim(..) => {
                (Severity::Error, "take it out of the lane, or write the name of what is there")
            }
            Site::ClipTier(..) | Site::ClipLook(..) | Site::ClipList(..) => {
                (Severity::Error, "take the clip out, or write the name of what is there")
            }
            Site::CueTier { .. } => (Severity::Error, "take it out of the cue, or add the tier"),
            Site::CueLook { .. } => (Severity::Error, "take it out of the cue, or write the name of a look"),
            Site::CueInput(_) | Site::ListInput(_) => {
                (Severity::Error, "it does not go on so; write the name of an input, or by hand")
            }
            Site::BindingInput(_) => (Severity::Error, "take the binding out, or add the input under [[inputs]]"),
            // The name of a look may have a stroke of its own in it.
            Site::BindingCommand(..)
            | Site::PadCommand { .. }
            | Site::SilentCommand(..)
            | Site::CueCommand(..)
            | Site::ClipCommand(..)
            | Site::ScheduleCommand(..) => (Severity::Error, "it asks for nothing so; write the name of what is there"),
            Site::InRotation(..) => (Severity::Warning, "take it out, or write the name of what is there"),
            Site::Colour { .. } | Site::Control { .. } => return,
        };
        self.add(severity, site.place(), site.subject(show), message, mend);
    }

    /// A look that takes its turn cannot have turns of others within.
    fn turns_within_turns(&mut self, show: &Show, site: Site<'_>, name: &str) {
        if show.look(name).is_some_and(|(_, look)| look.layers.iter().any(making::has_turns)) {
            let message = format!("the look \"{name}\" shows others in turn itself, which is left out here");
            let mend = "name those others here instead";
            self.add(Severity::Warning, site.place(), site.subject(show), message, mend);
        }
    }
}
