//! A place where a show refers to something.

use super::{CueAt, LaneAt, LayerAt, Use};
use splimo_show::reference::ReferenceKind;
use splimo_show::{Place, Show};

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
    /// The aim of a layer.
    LayerAim {
        /// The layer.
        of: LayerAt,
        /// The parameter.
        param: &'s str,
    },
    /// The region of a layer.
    LayerRegion(LayerAt),
    /// The group or fixture whose box a region is of.
    RegionOf(usize),
    /// A head of an aim: the aim, and the place in its list.
    AimedHead(usize, usize),
    /// A modulator that follows a control.
    Control {
        /// The layer.
        of: LayerAt,
        /// The modulator within it.
        modulator: usize,
    },
    /// A light that a tier may touch.
    TierLight {
        /// The tier.
        tier: usize,
        /// The place in its list.
        at: usize,
    },
    /// The tier of a bank, or of one of its pads.
    PadTier {
        /// The bank.
        bank: usize,
        /// The pad within its list; none for the bank's own.
        pad: Option<usize>,
    },
    /// The look of a pad.
    PadLook {
        /// The bank.
        bank: usize,
        /// The pad within its list.
        pad: usize,
    },
    /// The tier of which a cue says something.
    CueTier {
        /// The cue.
        of: CueAt,
        /// The place in its list.
        at: usize,
    },
    /// The look that a cue puts on a tier.
    CueLook {
        /// The cue.
        of: CueAt,
        /// The place in its list.
        at: usize,
    },
    /// Something that a command of a cue names.
    CueCommand(CueAt, &'static [ReferenceKind]),
    /// The input on whose event a list goes on from a cue.
    CueInput(CueAt),
    /// The input on whose event a list goes on from cues that say nothing of their own.
    ListInput(usize),
    /// A group or fixture of a lane: the place in its list.
    LaneLight(LaneAt, usize),
    /// The colour of an event of a lane.
    LaneColour(LaneAt, usize),
    /// The look of an event of a lane.
    LaneLook(LaneAt, usize),
    /// The aim of an event of a lane.
    LaneAim(LaneAt, usize),
    /// The tier of a clip: the timeline, and the clip within it.
    ClipTier(usize, usize),
    /// The look of a clip.
    ClipLook(usize, usize),
    /// The cue list of a clip.
    ClipList(usize, usize),
    /// Something that a command of a clip names.
    ClipCommand(usize, usize, &'static [ReferenceKind]),
    /// Something that a command of the schedule names: of an event, or of the start.
    ScheduleCommand(Option<usize>, &'static [ReferenceKind]),
    /// A look that a setting names, by its key.
    SettingLook(&'static str),
    /// The input of a binding.
    BindingInput(usize),
    /// Something that a command of a binding names.
    BindingCommand(usize, &'static [ReferenceKind]),
    /// Something that the command of a pad names.
    PadCommand {
        /// The bank.
        bank: usize,
        /// The pad within its list.
        pad: usize,
        /// The kinds of things that it may be.
        kinds: &'static [ReferenceKind],
    },
    /// Something that a command names which is carried out when an input falls silent.
    SilentCommand(usize, &'static [ReferenceKind]),
    /// The source of a value that leaves.
    OutSource(usize, &'static [ReferenceKind]),
    /// The input to whose controller a value leaves.
    OutInput(usize),
    /// The tier of the rotation.
    RotationTier,
    /// A look or a bank that is in the rotation, or a look that is kept out: the list, and the place in it.
    InRotation(&'static str, usize),
}

impl Site<'_> {
    /// The kinds that may be named here.
    #[must_use]
    pub fn accepts(&self) -> &'static [ReferenceKind] {
        match self {
            Self::Profile(_) => &[ReferenceKind::Profile],
            Self::Member { .. } | Self::Light { .. } | Self::AimedHead(..) => &[ReferenceKind::Fixture],
            Self::Feed { .. }
            | Self::Target { .. }
            | Self::TierLight { .. }
            | Self::RegionOf(_)
            | Self::LaneLight(..) => &[ReferenceKind::Group, ReferenceKind::Fixture],
            Self::InRotation("banks", _) => &[ReferenceKind::Bank],
            Self::Turn { .. }
            | Self::PadLook { .. }
            | Self::CueLook { .. }
            | Self::ClipLook(..)
            | Self::LaneLook(..)
            | Self::SettingLook(_)
            | Self::InRotation(..) => &[ReferenceKind::Look],
            Self::ClipList(..) => &[ReferenceKind::CueList],
            Self::PadTier { .. } | Self::CueTier { .. } | Self::ClipTier(..) | Self::RotationTier => {
                &[ReferenceKind::Tier]
            }
            Self::BindingInput(_) | Self::OutInput(_) | Self::CueInput(_) | Self::ListInput(_) => {
                &[ReferenceKind::Input]
            }
            Self::BindingCommand(_, kinds)
            | Self::PadCommand { kinds, .. }
            | Self::SilentCommand(_, kinds)
            | Self::CueCommand(_, kinds)
            | Self::ScheduleCommand(_, kinds)
            | Self::ClipCommand(_, _, kinds)
            | Self::OutSource(_, kinds) => kinds,
            Self::Colour { .. } | Self::LaneColour(..) => &[ReferenceKind::Swatch],
            Self::LayerAim { .. } | Self::LaneAim(..) => &[ReferenceKind::Aim],
            Self::LayerRegion(_) => &[ReferenceKind::Region],
            Self::Control { .. } => &[ReferenceKind::Control],
        }
    }

    /// The layer that it belongs to, if it is in one.
    #[must_use]
    pub fn layer(&self) -> Option<LayerAt> {
        match self {
            Self::Profile(_)
            | Self::Member { .. }
            | Self::Feed { .. }
            | Self::RegionOf(_)
            | Self::TierLight { .. }
            | Self::PadTier { .. }
            | Self::PadLook { .. }
            | Self::CueTier { .. }
            | Self::CueLook { .. }
            | Self::CueCommand(..)
            | Self::ScheduleCommand(..)
            | Self::LaneLight(..)
            | Self::LaneColour(..)
            | Self::LaneLook(..)
            | Self::LaneAim(..)
            | Self::AimedHead(..)
            | Self::ClipTier(..)
            | Self::ClipLook(..)
            | Self::ClipList(..)
            | Self::ClipCommand(..)
            | Self::CueInput(_)
            | Self::ListInput(_)
            | Self::SettingLook(_)
            | Self::BindingInput(_)
            | Self::BindingCommand(..)
            | Self::PadCommand { .. }
            | Self::SilentCommand(..)
            | Self::OutSource(..)
            | Self::OutInput(_)
            | Self::RotationTier
            | Self::InRotation(..) => None,
            Self::Target { of, .. }
            | Self::Light { of, .. }
            | Self::Turn { of, .. }
            | Self::Colour { of, .. }
            | Self::LayerAim { of, .. }
            | Self::LayerRegion(of)
            | Self::Control { of, .. } => Some(*of),
        }
    }

    /// Its place in the document.
    #[must_use]
    pub fn place(&self) -> Place {
        let entry = |list: &str, index: usize| Place::root().key(list).index(index);
        let cue = |of: &CueAt| entry("cue_lists", of.list).key("cues").index(of.cue);
        let clip = |line: usize, at: usize| entry("timelines", line).key("clips").index(at);
        let layer = |of: &LayerAt| entry("looks", of.look).key("layers").index(of.layer);
        let lane = |of: &LaneAt| entry("looks", of.look).key("pattern").key("lanes").index(of.lane);
        match self {
            Self::Profile(fixture) => entry("fixtures", *fixture).key("profile"),
            Self::Member { group, at } => entry("groups", *group).key("members").index(*at),
            Self::Feed { supply, at } => entry("supplies", *supply).key("feeds").index(*at),
            Self::Target { of, at } => layer(of).key("target").index(*at),
            Self::Light { of, fixture } => layer(of).key("lights").key(fixture),
            Self::Turn { of, param, at } | Self::Colour { of, param, at } => {
                layer(of).key("params").key(param).index(*at)
            }
            Self::LayerAim { of, param } => layer(of).key("params").key(param),
            Self::LayerRegion(of) => layer(of).key("region"),
            Self::RegionOf(region) => entry("regions", *region).key("of"),
            Self::AimedHead(aim, at) => entry("aims", *aim).key("heads").index(*at),
            Self::Control { of, modulator } => layer(of).key("modulators").index(*modulator),
            Self::TierLight { tier, at } => entry("tiers", *tier).key("lights").index(*at),
            Self::PadTier { bank, pad: None } => entry("banks", *bank).key("plays").key("tier"),
            Self::PadTier { bank, pad: Some(pad) } => {
                entry("banks", *bank).key("pads").index(*pad).key("plays").key("tier")
            }
            Self::PadLook { bank, pad } => entry("banks", *bank).key("pads").index(*pad).key("look"),
            Self::CueTier { of, at } => cue(of).key("tiers").index(*at).key("tier"),
            Self::CueLook { of, at } => cue(of).key("tiers").index(*at).key("look"),
            Self::CueCommand(of, _) => cue(of).key("do"),
            Self::CueInput(of) => cue(of).key("then"),
            Self::ListInput(list) => entry("cue_lists", *list).key("then"),
            Self::LaneLight(of, at) => lane(of).key("lights").index(*at),
            Self::LaneColour(of, event) => lane(of).key("events").index(*event).key("colour"),
            Self::LaneLook(of, event) => lane(of).key("events").index(*event).key("look"),
            Self::LaneAim(of, event) => lane(of).key("events").index(*event).key("aim"),
            Self::ClipTier(line, at) => clip(*line, *at).key("tier"),
            Self::ClipLook(line, at) => clip(*line, *at).key("look"),
            Self::ClipList(line, at) => clip(*line, *at).key("list"),
            Self::ClipCommand(line, at, _) => clip(*line, *at).key("do"),
            Self::ScheduleCommand(Some(event), _) => {
                Place::root().key("schedule").key("events").index(*event).key("do")
            }
            Self::ScheduleCommand(None, _) => Place::root().key("schedule").key("start"),
            Self::SettingLook(key) => Place::root().key("settings").key(key),
            Self::BindingInput(binding) => entry("bindings", *binding).key("source"),
            Self::BindingCommand(binding, _) => entry("bindings", *binding),
            Self::PadCommand { bank, pad, .. } => entry("banks", *bank).key("pads").index(*pad).key("command"),
            Self::SilentCommand(input, _) => entry("inputs", *input).key("when_silent"),
            Self::OutSource(out, _) => entry("values_out", *out).key("what"),
            Self::OutInput(out) => entry("values_out", *out).key("to"),
            Self::RotationTier => Place::root().key("rotation").key("tier"),
            Self::InRotation(list, at) => Place::root().key("rotation").key(list).index(*at),
        }
    }

    /// The user of the reference.
    #[must_use]
    pub fn user(&self, show: &Show) -> Use {
        let (kind, name): (ReferenceKind, &str) = match self {
            Self::Profile(fixture) => (ReferenceKind::Fixture, &show.fixtures[*fixture].name),
            Self::Member { group, .. } => (ReferenceKind::Group, &show.groups[*group].name),
            Self::Feed { supply, .. } => (ReferenceKind::Supply, &show.supplies[*supply].name),
            Self::Target { of, .. }
            | Self::Light { of, .. }
            | Self::Turn { of, .. }
            | Self::Colour { of, .. }
            | Self::LayerAim { of, .. }
            | Self::LayerRegion(of)
            | Self::Control { of, .. } => (ReferenceKind::Look, &show.looks[of.look].name),
            Self::RegionOf(region) => (ReferenceKind::Region, &show.regions[*region].name),
            Self::AimedHead(aim, _) => (ReferenceKind::Aim, &show.aims[*aim].name),
            Self::LaneLight(of, _) | Self::LaneColour(of, _) | Self::LaneLook(of, _) | Self::LaneAim(of, _) => {
                (ReferenceKind::Look, &show.looks[of.look].name)
            }
            Self::TierLight { tier, .. } => (ReferenceKind::Tier, &show.tiers[*tier].name),
            Self::PadTier { bank, .. } | Self::PadLook { bank, .. } => (ReferenceKind::Bank, &show.banks[*bank].name),
            Self::BindingInput(binding) | Self::BindingCommand(binding, _) => {
                let binding = &show.bindings[*binding];
                let name = format!("{} {}", binding.source, binding.event);
                return Use { kind: ReferenceKind::Binding, name, layer: None };
            }
            Self::OutSource(out, _) | Self::OutInput(out) => {
                let name = show.values_out[*out].what.to_string();
                return Use { kind: ReferenceKind::ValueOut, name, layer: None };
            }
            Self::PadCommand { bank, .. } => (ReferenceKind::Bank, &show.banks[*bank].name),
            Self::SilentCommand(input, _) => (ReferenceKind::Input, &show.inputs[*input].name),
            Self::CueTier { of, .. } | Self::CueLook { of, .. } | Self::CueCommand(of, _) | Self::CueInput(of) => {
                let list = &show.cue_lists[of.list];
                let name = format!("{}, cue {}", list.name, list.cues[of.cue].number);
                return Use { kind: ReferenceKind::CueList, name, layer: None };
            }
            Self::ListInput(list) => (ReferenceKind::CueList, &show.cue_lists[*list].name),
            Self::ClipTier(line, _)
            | Self::ClipLook(line, _)
            | Self::ClipList(line, _)
            | Self::ClipCommand(line, ..) => (ReferenceKind::Timeline, &show.timelines[*line].name),
            Self::ScheduleCommand(..) => (ReferenceKind::Setting, "schedule"),
            Self::SettingLook(key) => (ReferenceKind::Setting, key),
            Self::RotationTier | Self::InRotation(..) => (ReferenceKind::Setting, "rotation"),
        };
        Use { kind, name: name.to_owned(), layer: self.layer().map(|of| of.layer) }
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
