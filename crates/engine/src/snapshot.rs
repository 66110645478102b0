//! Everything that a screen may show of the engine. Serialisable, so that a screen can live in another process.

use serde::{Deserialize, Serialize};

use super::cues::{ListState, TimelineState};
use super::flash_guard::FlashLimit;
use super::power::{Load, SupplyLoad};
use super::recolour::Recolour;
use super::rotation::RotationState;
use super::wish::Armed;
use crate::identify::Walked;
use splimo_base::Seconds;
use splimo_light::effect::Counts;
use splimo_show::Boundary;
use splimo_show::command::Origin;
use splimo_time::music::{Hearing, Section};
use splimo_time::{rate::BEATS_PER_BAR, tempo::ClockSource};

/// The state of the engine after a tick.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Snapshot {
    /// The edition of the show that it is of.
    pub edition: u64,
    /// The number of frames that have been made.
    pub frame: u64,
    /// The time of the last.
    pub time: Seconds,
    /// The musical clock.
    pub clock: ClockState,
    /// The master, 0..1.
    pub master: f32,
    /// True if all is dark.
    pub blackout: bool,
    /// The flashes a second of all light; 0 is none.
    pub strobe: f32,
    /// The two colours of the stage.
    pub recolour: Recolour,
    /// The hearing at the moment.
    pub hearing: Hearing,
    /// Everything that waits for its boundary, the soonest first.
    pub queue: Vec<Armed>,
    /// The boundary and the fade, in beats, that a person has chosen for what they fire next.
    pub once: Once,
    /// The speed at which effects run, in times of their own.
    pub speed: f32,
    /// The state of the rotation.
    pub rotation: RotationState,
    /// The tiers, the lowest first.
    pub tiers: Vec<TierState>,
    /// The cue lists.
    pub lists: Vec<ListState>,
    /// The timelines.
    pub timelines: Vec<TimelineState>,
    /// The level of each group of lights, 0..1; empty where all are whole.
    pub groups: Vec<f32>,
    /// The look that is on as nothing else is.
    pub fallback: Option<usize>,
    /// The limit of flashes.
    pub flash_limit: FlashLimit,
    /// The pixel that walks along the wiring, if one does.
    pub walked: Option<Walked>,
    /// Seconds since midnight where the show is, if that is known.
    pub time_of_day: Option<f64>,
    /// 1 at an onset, falling to 0 within a beat.
    pub onset: f32,
    /// The same for each kind of hit: low, middle, high.
    pub hits: [f32; 3],
    /// The controls that come in, 0..1 each; those behind the last are 0.
    pub controls: Vec<f32>,
    /// The counts of what a person may count with.
    pub counts: Counts,
    /// The phases of the layers of the looks on stage.
    pub phases: Vec<LayerPhase>,
    /// The looks on stage, tier by tier from the lowest; of each, the one that landed last first.
    pub stage: Vec<OnStage>,
    /// The heads, in the order of their fixtures.
    pub heads: Vec<HeadState>,
    /// The number of universes that the rig has, each as often as it has variants.
    pub universes: usize,
    /// The current that each supply gives, as an estimate.
    pub supplies: Vec<SupplyLoad>,
}

impl Snapshot {
    /// The first that lands, if anything waits.
    #[must_use]
    pub fn next_to_land(&self) -> Option<Armed> {
        self.queue.first().copied()
    }
}

/// Everything that the engine publishes after a tick: the snapshot, and what is large and read by few.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Published {
    /// The state of the engine.
    pub snapshot: Snapshot,
    /// The light of every LED as it goes out, linear.
    pub light: Vec<[f32; 3]>,
    /// 512 slots for each universe of the rig, as often as the rig has variants.
    pub slots: Vec<u8>,
    /// The current that each fixture takes, as an estimate.
    pub loads: Vec<Load>,
}

/// The musical clock as a screen sees it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct ClockState {
    /// Beats a minute.
    pub bpm: f32,
    /// The source that leads it.
    pub source: ClockSource,
    /// Beats since the count of phrases began.
    pub beat: f64,
    /// Beats in a bar.
    pub bar_beats: u32,
    /// Bars in a phrase.
    pub phrase_bars: u32,
}

impl Default for ClockState {
    fn default() -> Self {
        Self { bpm: 120.0, source: ClockSource::Set, beat: 0.0, bar_beats: BEATS_PER_BAR as u32, phrase_bars: 16 }
    }
}

impl ClockState {
    /// Beats since the phrase began.
    #[must_use]
    pub fn beat_in_phrase(&self) -> f64 {
        self.beat.rem_euclid(self.phrase_beats())
    }

    /// Beats in a phrase.
    #[must_use]
    pub fn phrase_beats(&self) -> f64 {
        f64::from(self.bar_beats.max(1)) * f64::from(self.phrase_bars.max(1))
    }

    /// Beats until the music may turn: to the end of the eight bars that are under way.
    #[must_use]
    pub fn beats_to_turn(&self) -> f64 {
        let eight = 8.0 * f64::from(self.bar_beats.max(1));
        eight - self.beat.rem_euclid(eight)
    }

    /// The part of the music that is expected next, and in how many beats, while music is heard.
    #[must_use]
    pub fn expected(&self, hearing: &Hearing) -> Option<(Section, f64)> {
        let heard = matches!(self.source, ClockSource::Heard | ClockSource::Held) && hearing.tempo_bpm > 0.0;
        let next = hearing.section.next().filter(|_| heard)?;
        let turn = self.beats_to_turn();
        // A part that has just begun does not end with the eight bars in which it began.
        let began = (hearing.time - hearing.section_start) * f64::from(self.bpm) / 60.0;
        let eight = 8.0 * f64::from(self.bar_beats.max(1));
        Some((next, if began + turn < eight / 2.0 { turn + eight } else { turn }))
    }

    /// Beats since the bar began.
    #[must_use]
    pub fn beat_in_bar(&self) -> f64 {
        self.beat.rem_euclid(f64::from(self.bar_beats.max(1)))
    }

    /// The bar of the phrase, from 0.
    #[must_use]
    pub fn bar(&self) -> u32 {
        (self.beat_in_phrase() / f64::from(self.bar_beats.max(1))) as u32
    }
}

/// The phase of a layer.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct LayerPhase {
    /// The index of its look in the show.
    pub look: usize,
    /// Its place in the look.
    pub layer: usize,
    /// Turns since its start.
    pub turns: f64,
}

/// The boundary and the fade of what is fired next, in place of its own.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
pub struct Once {
    /// The sender that chose them: they count for nobody else.
    pub by: Option<Origin>,
    /// The boundary.
    pub lands: Option<Boundary>,
    /// The fade, in beats.
    pub fade: Option<f32>,
}

/// A tier as a screen sees it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct TierState {
    /// The look that it shows, or fades to, by its place in the show.
    pub look: Option<usize>,
    /// The look that is back when what lies over it goes.
    pub below: Option<usize>,
    /// True if the look only lies over another for a while.
    pub held: bool,
    /// The sender that put it there, or cleared it.
    pub by: Origin,
    /// The number of the pad that did, if one did.
    pub pad: Option<usize>,
    /// The beat at which the look goes by itself.
    pub until: Option<f64>,
    /// Beats until the fade is over.
    pub fade_left: f64,
    /// The level, 0..1.
    pub level: f32,
    /// True if it is not seen.
    pub mute: bool,
    /// True if only it, and others that are solo, are seen.
    pub solo: bool,
}

/// A head as a screen sees it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct HeadState {
    /// Index of its fixture.
    pub fixture: usize,
    /// The pan, in percent of what it can turn.
    pub pan: f32,
    /// The tilt, in percent of what it can turn.
    pub tilt: f32,
    /// The direction to which it turns, as pan and tilt in percent: where it points once it is there.
    pub goes_to: [f32; 2],
    /// True if a hand points it.
    pub live: bool,
}

/// A look on stage.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct OnStage {
    /// The place of its tier in the stack.
    pub tier: usize,
    /// Its index in the show.
    pub look: usize,
    /// Its share of the tier, 0..1.
    pub weight: f32,
    /// True if it landed last; the others fade out.
    pub comes: bool,
    /// Beats until the fade is over.
    pub fade_left: f64,
    /// The place where its pattern is, in beats, if it is one that plays.
    pub place: Option<f64>,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_expected_comes_with_the_turn_of_eight_bars() {
        let hearing = Hearing { section: Section::Build, tempo_bpm: 120.0, time: 10.0, ..Hearing::SILENCE };
        let just = Hearing { section_start: 9.5, ..hearing };
        let clock =
            |bar_beats: u32| ClockState { source: ClockSource::Heard, beat: 50.5, bar_beats, ..ClockState::default() };
        assert_eq!(clock(4).expected(&hearing), Some((Section::Drop, 13.5)));
        assert_eq!(clock(3).expected(&hearing), Some((Section::Drop, 21.5)));
        assert_eq!(clock(4).expected(&just), Some((Section::Drop, 45.5)), "it has just begun");
        assert_eq!((clock(3).bar(), clock(3).beat_in_bar()), (0, 2.5));
        assert_eq!(ClockState::default().expected(&hearing), None, "nothing is heard");
        assert_eq!(clock(4).expected(&Hearing { section: Section::Outro, ..hearing }), None);
    }
}
