//! The parts of a show, and which of them differ between two shows. Whoever makes something out of a show names the parts that it is
//! made of, and makes it anew when one of them has changed. A field of the show that is in no part does not compile.

use std::ops::{BitOr, BitOrAssign};

use crate::{Settings, Show};

/// A set of parts of a show.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Parts(u64);

macro_rules! parts {
    (
        of the show { $($(#[doc = $doc:literal])* $part:ident: $field:ident;)* }
        of the settings { $($(#[doc = $set_doc:literal])* $set:ident: $($setting:ident)+;)* }
        besides { $($(#[doc = $more_doc:literal])* $more:ident;)* }
    ) => {
        #[allow(non_camel_case_types, clippy::upper_case_acronyms)]
        #[derive(Clone, Copy)]
        enum Place { $($part,)* $($set,)* $($more,)* }

        impl Parts {
            $($(#[doc = $doc])* pub const $part: Self = Self(1 << Place::$part as u64);)*
            $($(#[doc = $set_doc])* pub const $set: Self = Self(1 << Place::$set as u64);)*
            $($(#[doc = $more_doc])* pub const $more: Self = Self(1 << Place::$more as u64);)*
            /// Every setting.
            pub const SETTINGS: Self = Self(0 $(| 1 << Place::$set as u64)*);

            /// Every part.
            pub const ALL: Self = Self(Self::SETTINGS.0 $(| 1 << Place::$part as u64)* $(| 1 << Place::$more as u64)*);

            /// The parts in which two shows differ, but for those that are told by names alone.
            fn differing(before: &Show, after: &Show) -> Self {
                let Show { version: _, unknown: _, settings: _, $($field: _,)* } = before;
                let Settings { $($($setting: _,)+)* } = &before.settings;
                let (was, is) = (&before.settings, &after.settings);
                let mut parts = Self::default();
                $(if before.$field != after.$field { parts |= Self::$part; })*
                $(if $(was.$setting != is.$setting)||+ { parts |= Self::$set; })*
                parts
            }
        }
    };
}

parts! {
    of the show {
        /// Its name.
        NAME: name;
        /// The canvas.
        CANVAS: canvas;
        /// The profiles of its own.
        PROFILES: profiles;
        /// The fixtures.
        FIXTURES: fixtures;
        /// The groups.
        GROUPS: groups;
        /// The palette.
        PALETTE: palette;
        /// The regions.
        REGIONS: regions;
        /// The aims.
        AIMS: aims;
        /// The looks.
        LOOKS: looks;
        /// The tiers.
        TIERS: tiers;
        /// The banks of pads.
        BANKS: banks;
        /// The rotation.
        ROTATION: rotation;
        /// The cue lists.
        CUE_LISTS: cue_lists;
        /// The timelines.
        TIMELINES: timelines;
        /// The schedule.
        SCHEDULE: schedule;
        /// The routes.
        ROUTES: routes;
        /// The inputs.
        INPUTS: inputs;
        /// The bindings.
        BINDINGS: bindings;
        /// The names of controls.
        CONTROLS: controls;
        /// The values that leave.
        VALUES_OUT: values_out;
        /// The programs.
        PROGRAMS: programs;
        /// The supplies.
        SUPPLIES: supplies;
    }
    of the settings {
        /// Settings of how frames leave, and of whom the network believes.
        OUTPUT_SETTINGS: rate time_code triggers ignored_nodes nodes_from triggers_from time_code_from;
        /// Settings of the clock.
        CLOCK_SETTINGS: tempo phrase_bars sync_source;
        /// Settings of hearing.
        HEARING_SETTINGS: hearing_gain hearing_floor hearing_bands hearing_attack_ms hearing_decay_ms;
        /// Settings of how the show is played.
        PLAY_SETTINGS: lands fade_beats latency_ms dither blackout_fade cue_back_fade strobe_limit fallback fallback_look safe_look;
        /// Settings of what inputs may do.
        INPUT_SETTINGS: inputs_may_all;
    }
    besides {
        /// The names of looks, in their order.
        LOOK_NAMES;
    }
}

impl Parts {
    /// What hangs there, and how its light is made into slots: what a rig is compiled of.
    pub const HANGING: Self = Self(
        Self::NAME.0
            | Self::FIXTURES.0
            | Self::GROUPS.0
            | Self::PROFILES.0
            | Self::CANVAS.0
            | Self::ROUTES.0
            | Self::SUPPLIES.0
            | Self::VALUES_OUT.0,
    );

    /// The parts in which two shows differ.
    #[must_use]
    pub fn changed(before: &Show, after: &Show) -> Self {
        let mut parts = Self::differing(before, after);
        let same_names = || before.looks.iter().map(|look| &look.name).eq(after.looks.iter().map(|look| &look.name));
        if parts.touch(Self::LOOKS) && !same_names() {
            parts |= Self::LOOK_NAMES;
        }
        parts
    }

    /// True if one of some parts is among these.
    #[must_use]
    pub fn touch(self, parts: Self) -> bool {
        self.0 & parts.0 != 0
    }

    /// These and others, in a constant.
    #[must_use]
    pub const fn and(self, others: Self) -> Self {
        Self(self.0 | others.0)
    }

    /// True if there is none beyond some.
    #[must_use]
    pub fn only(self, parts: Self) -> bool {
        self.0 & !parts.0 == 0
    }
}

impl BitOr for Parts {
    type Output = Self;
    fn bitor(self, other: Self) -> Self {
        self.and(other)
    }
}

impl BitOrAssign for Parts {
    fn bitor_assign(&mut self, other: Self) {
        *self = *self | other;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Boundary, Look};

    #[test]
    fn what_changed_is_told_by_its_part() {
        let show = Show::empty("Quay");
        let changed = |change: fn(&mut Show)| {
            let mut after = show.clone();
            change(&mut after);
            Parts::changed(&show, &after)
        };
        assert_eq!(changed(|_| {}), Parts::default());
        assert_eq!(changed(|show| show.name.push('!')), Parts::NAME);
        assert_eq!(changed(|show| show.settings.lands = Boundary::Now), Parts::PLAY_SETTINGS);
        assert_eq!(changed(|show| show.settings.ignored_nodes.push([10, 0, 0, 7].into())), Parts::OUTPUT_SETTINGS);
        let looks = changed(|show| show.looks.push(Look::new("Tide", Vec::new())));
        assert_eq!(looks, Parts::LOOKS | Parts::LOOK_NAMES);
        assert!(looks.touch(Parts::LOOKS) && !looks.touch(Parts::HANGING) && !looks.only(Parts::LOOKS));
        assert!(changed(|show| show.settings.dither ^= true).only(Parts::SETTINGS));
    }
}
