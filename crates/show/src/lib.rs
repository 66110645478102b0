//! The show: the document that a person makes, as plain data that is compared by value and saved as TOML; the commands by which it is
//! played, and the addresses of the events that play it.
//!
//! It may use `splimo-base` and `splimo-time`. Its main types: [`Show`], the document; [`command::Command`], something asked of a
//! session; [`event::EventAddress`], where an event came from.

mod address;
mod address_block;
mod address_forms;
mod aim;
mod binding;
mod built_in;
mod channel;
pub mod command;
mod control;
mod cue;
mod cue_number;
mod cue_text;
mod curve;
pub mod due;
pub mod event;
mod field_names;
pub mod file;
mod fixture;
mod follow;
mod identify;
mod input;
mod look;
mod marks;
mod modulator;
mod pad;
pub mod palette;
mod part;
mod pattern;
mod place;
mod plain;
mod problem;
mod profile;
mod program;
pub mod reference;
mod region;
mod remote;
mod revise;
mod rotation;
mod route;
mod schedule;
pub mod setting;
mod settings;
mod shape;
mod span;
mod supply;
mod swatch;
mod tier;
mod timeline;
mod tint;
mod unknown;
mod upgrade;
mod value_out;
mod wiring;

pub use address::{Address, BadAddress, LAST_UNIVERSE, SLOTS, UniverseRange};
pub use address_block::{AddressBlock, BadAddressBlock};
pub use address_forms::Sent;
pub use aim::{Aim, AimedHead, MOST_AIMS, Swivel};
pub use binding::{Answer, Band, Binding, Coding, MOST_BINDINGS, Response};
pub use channel::{Channel, Function};
pub use command::{CommandTemplate, VALUE};
pub use control::{CONTROLS, NamedControl};
pub use cue::{Cue, CueControl, CueList, CueTier, CueTime, GoesOn, LONGEST, MOST_CUES, MOST_LISTS};
pub use cue_number::{BadCue, CueNumber};
pub use cue_text::says_of_tiers;
pub use curve::Curve;
pub use field_names::FIELDS;
pub use fixture::Fixture;
pub use follow::followed;
pub use identify::{HeldSlot, LightTest};
pub use input::{INPUT_PRIORITY, Input, InputKind, MOST_INPUTS, Remote};
pub use look::{Area, Blend, Layer, Look, Param};
pub use marks::{LONGEST_TIMELINE, MOST_MARKS, Marks, PartMark, bar_at, time_of_bar};
pub use modulator::{
    CountEvent, Counter, Cycle, MOST_STEPS, Modulator, ModulatorFields, ModulatorKind, ModulatorSource,
};
pub use pad::{Bank, MOST_BANKS, Manner, PADS, Pad, PadMode, Played};
pub use part::Parts;
pub use pattern::{
    EventShape, FASTEST_STROBE, Lane, LaneKind, MOST_BARS, MOST_LANE_EVENTS, MOST_LANES, Note, PATTERN_BAR, Pattern,
    PatternEvent, TICKS, Ticks,
};
pub use place::{Place, Step};
pub use problem::{Problem, Severity};
pub use profile::{Extraction, Layout, Profile};
pub use program::{MOST_PROGRAMS, Program};
pub use reference::BUILT_IN;
pub use region::{MOST_REGIONS, Region};
pub use remote::{RemoteChannel, RemoteLayout, RemoteRange};
pub use revise::write_over;
pub use rotation::Rotation;
pub use route::{DMX_RATE, Pacing, Route, RouteFields, Unchanged};
pub use schedule::{BadEvent, Dates, DayTime, Days, MOST_EVENTS, Schedule, ScheduledEvent};
pub use settings::{Boundary, Fallback, Settings, TimeCode};
pub use shape::{BadShape, MOST_CELLS, Shape};
pub use span::{Repeat, Span};
pub use splimo_base::white::{BadWhitePoint, WhitePoint};
pub use splimo_transport::{
    AnyTransport, BadDestination, Destination, Destinations, Numbering, Transport, TransportKind, net_form,
};
pub use supply::{Power, Supply};
pub use swatch::Swatch;
pub use tier::{BASE, MOST_TIERS, Tier};
pub use timeline::{Clip, Follows, MOST_CLIPS, MOST_TIMELINES, TimeUnit, Timeline};
pub use tint::Tint;
pub use unknown::Unknown;
pub use value_out::{MOST_VALUES_OUT, OutRange, OutSource, OutTarget, ValueOut};
pub use wiring::{BadWiring, Corner, Numbers, Run, Wiring, numbers_of};

use std::collections::{HashMap, HashSet};

use serde::{Deserialize, Serialize};

/// The version of the file format that this program writes, and the newest that it reads.
pub const VERSION: u32 = 1;

/// A show: what hangs there, what it can look like, and where the frames go.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Show {
    /// The version of the file format.
    pub version: u32,
    /// The name of the show.
    pub name: String,
    /// The way the show is played.
    #[serde(default)]
    pub settings: Settings,
    /// The plane on which the lights lie.
    #[serde(default)]
    pub canvas: Canvas,
    /// Profiles of one's own, besides the built-in ones.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub profiles: Vec<Profile>,
    /// The fixtures, in the order in which they are listed.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub fixtures: Vec<Fixture>,
    /// Named, ordered selections of fixtures.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub groups: Vec<Group>,
    /// Colours and gradients with names.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub palette: Vec<Swatch>,
    /// Rectangles with names that layers share.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub regions: Vec<Region>,
    /// Named directions of heads.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub aims: Vec<Aim>,
    /// The looks, in the order in which they are listed.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub looks: Vec<Look>,
    /// The tiers of the stage, the lowest first; see [`Show::stack`].
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tiers: Vec<Tier>,
    /// The banks of pads.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub banks: Vec<Bank>,
    /// The rotation.
    #[serde(default, skip_serializing_if = "Rotation::is_empty")]
    pub rotation: Rotation,
    /// The cue lists.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub cue_lists: Vec<CueList>,
    /// The timelines.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub timelines: Vec<Timeline>,
    /// The schedule: what it does by itself.
    #[serde(default, skip_serializing_if = "Schedule::is_empty")]
    pub schedule: Schedule,
    /// The routes of its universes.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub routes: Vec<Route>,
    /// The inputs: sources outside the program.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub inputs: Vec<Input>,
    /// The bindings: which event of an input asks for what.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub bindings: Vec<Binding>,
    /// The names of controls.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub controls: Vec<NamedControl>,
    /// Values that leave for the picture of somebody else.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub values_out: Vec<ValueOut>,
    /// Programs and sounds that it may start, where the machine lets it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub programs: Vec<Program>,
    /// The supplies that feed the lights.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub supplies: Vec<Supply>,
    /// Fields of the file that this program does not know, kept for whoever wrote them.
    #[serde(skip)]
    pub unknown: Vec<Unknown>,
}

impl Show {
    /// A show with a name and nothing in it.
    #[must_use]
    pub fn empty(name: &str) -> Self {
        Self {
            version: VERSION,
            name: name.to_owned(),
            settings: Settings::default(),
            canvas: Canvas::default(),
            profiles: Vec::new(),
            fixtures: Vec::new(),
            groups: Vec::new(),
            palette: Vec::new(),
            regions: Vec::new(),
            looks: Vec::new(),
            tiers: Vec::new(),
            banks: Vec::new(),
            rotation: Rotation::default(),
            aims: Vec::new(),
            cue_lists: Vec::new(),
            timelines: Vec::new(),
            schedule: Schedule::default(),
            routes: Vec::new(),
            inputs: Vec::new(),
            bindings: Vec::new(),
            controls: Vec::new(),
            values_out: Vec::new(),
            programs: Vec::new(),
            supplies: Vec::new(),
            unknown: Vec::new(),
        }
    }

    /// True if this and another show differ in nothing of which a rig is compiled.
    #[must_use]
    pub fn hangs_like(&self, other: &Self) -> bool {
        !Parts::changed(self, other).touch(Parts::HANGING)
    }

    /// The look of a name, and its place in the list.
    #[must_use]
    pub fn look(&self, name: &str) -> Option<(usize, &Look)> {
        self.looks.iter().enumerate().find(|(_, look)| look.name == name)
    }

    /// The aim that a text calls, and the group or fixture for which alone it is called: `Booth`, or `Gulls/Booth`.
    #[must_use]
    pub fn called_aim<'t>(&self, text: &'t str) -> Option<(Option<&'t str>, &Aim)> {
        // The name of an aim may have a stroke of its own in it.
        let whole = self.aim(text).map(|aim| (None, aim));
        whole.or_else(|| {
            let (lights, name) = text.split_once('/')?;
            Some((Some(lights.trim()), self.aim(name.trim())?))
        })
    }

    /// The region of a name.
    #[must_use]
    pub fn region(&self, name: &str) -> Option<&Region> {
        self.regions.iter().find(|region| region.name == name)
    }

    /// The aim of a name.
    #[must_use]
    pub fn aim(&self, name: &str) -> Option<&Aim> {
        self.aims.iter().find(|aim| aim.name == name)
    }

    /// The place of the timeline of a name.
    #[must_use]
    pub fn timeline(&self, name: &str) -> Option<usize> {
        self.timelines.iter().position(|timeline| timeline.name == name)
    }

    /// The place of the cue list of a name.
    #[must_use]
    pub fn cue_list(&self, name: &str) -> Option<usize> {
        self.cue_lists.iter().position(|list| list.name == name)
    }

    /// The fixtures that some names of groups and fixtures mean, by index, each once, in the order of the names.
    #[must_use]
    pub fn fixtures_of(&self, names: &[String]) -> Vec<usize> {
        let place: HashMap<&str, usize> = self.fixtures.iter().enumerate().map(|(i, f)| (f.name.as_str(), i)).collect();
        let members = |name: &String| match self.groups.iter().find(|g| g.name == *name) {
            Some(group) => group.members.clone(),
            None => vec![name.clone()],
        };
        let mut seen = HashSet::new();
        let named = names.iter().flat_map(members);
        named.filter_map(|name| place.get(name.as_str()).copied()).filter(|index| seen.insert(*index)).collect()
    }

    /// The profile of a name: one of the show's own, else a built-in one.
    #[must_use]
    pub fn profile(&self, name: &str) -> Option<Profile> {
        let own = self.profiles.iter().find(|p| p.name == name).cloned();
        own.or_else(|| Profile::built_in(name))
    }
}

/// The plane on which the lights lie, measured in pixel pitches from its top left corner.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Canvas {
    /// Width in pixel pitches, above 0.
    pub width: f32,
    /// Height in pixel pitches, above 0.
    pub height: f32,
}

impl Default for Canvas {
    fn default() -> Self {
        Self { width: 120.0, height: 60.0 }
    }
}

/// A named, ordered selection of fixtures.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Group {
    /// The name, unique among groups and fixtures.
    pub name: String,
    /// Names of fixtures, in the group's order.
    pub members: Vec<String>,
    /// The colour by which it is told from others on the canvas; without one, the program chooses.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub colour: Option<Tint>,
}
