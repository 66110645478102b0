//! The musical clock: one position in beats that everything in time with the music follows. It is led by what is heard, by
//! another machine or by taps; corrections are slewed, never jumped, and it never runs backwards.

mod taps;

use serde::{Deserialize, Serialize};

use crate::music::Hearing;
use crate::rate::{BEATS_PER_BAR, Step};
use crate::sync::{MusicPlace, SyncPosition, SyncSource};
use splimo_base::Seconds;

use taps::Taps;

/// The slowest tempo, in beats a minute.
pub const SLOWEST: f64 = 20.0;
/// The fastest tempo, in beats a minute.
pub const FASTEST: f64 = 400.0;
/// The confidence from which what is heard leads the clock.
pub const TRUSTED: f32 = 0.5;

/// The time that a phase error takes to shrink to a third, in seconds.
const SLEW: f64 = 0.35;
/// The most by which the clock may run faster or slower than its tempo to catch up.
const MOST_SLEW: f64 = 0.25;
/// The confidence in bars and phrases from which they are taken over.
const BARS_TRUSTED: f32 = 0.55;
/// The time that bars have to be heard elsewhere before the clock's go there, in seconds.
const BARS_PATIENCE: f64 = 3.0;
/// Bars in a phrase that is heard.
const HEARD_PHRASE: f64 = 8.0;
/// The limits within which the tempo may be halved or doubled.
const MULTIPLES: [f64; 2] = [0.25, 4.0];
/// The most that nudges may add up to, in beats of the source or of the clock, whichever are longer.
const MOST_NUDGE: f64 = 0.5;

/// The source that leads the clock.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum ClockSource {
    /// The tempo of the show, or one that was typed.
    #[default]
    Set,
    /// Taps.
    Tapped,
    /// The music.
    Heard,
    /// The music, which has not been clear for a while: its last tempo is held.
    Held,
    /// MIDI clock.
    Midi,
    /// Time code.
    TimeCode,
    /// OSC.
    Osc,
}

impl ClockSource {
    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Set => "set",
            Self::Tapped => "tapped",
            Self::Heard => "heard",
            Self::Held => "held",
            Self::Midi => "MIDI",
            Self::TimeCode => "code",
            Self::Osc => "OSC",
        }
    }
}

/// The clock.
#[derive(Debug, Clone, PartialEq)]
pub struct Clock {
    time: Seconds,
    beat: f64,
    bpm: f64,
    source: ClockSource,
    follows_music: bool,
    /// The beat at which the present count of phrases began.
    origin: f64,
    /// Beats in a bar.
    bar: f64,
    tapped: Taps,
    /// The number of the clock's beats in one that is heard.
    multiple: f64,
    /// The beat of the source's count from which those are counted: with half as many it tells which half.
    from: f64,
    /// The lead of the clock's count over its source's, in whole beats.
    apart: f64,
    /// The shift of the beat against the source, in beats.
    nudge: f64,
    /// The way that the beat still has to glide, in beats.
    owed: f64,
    /// By how much light has to be early to be seen in time, in seconds.
    latency: f64,
    /// True if bars are set by hand.
    own_bars: bool,
    /// The time that the heard bars are and how far they lie from the clock's, and since when.
    bars_off: ([f64; 2], Seconds),
    /// The last position of a source outside the program.
    position: Option<SyncPosition>,
}

impl Clock {
    /// A clock that runs at `bpm` from beat 0.
    #[must_use]
    pub fn new(bpm: f32) -> Self {
        Self {
            time: 0.0,
            beat: 0.0,
            bpm: f64::from(bpm),
            source: ClockSource::Set,
            follows_music: true,
            origin: 0.0,
            bar: BEATS_PER_BAR,
            tapped: Taps::default(),
            multiple: 1.0,
            from: 0.0,
            apart: 0.0,
            nudge: 0.0,
            owed: 0.0,
            latency: 0.0,
            own_bars: false,
            bars_off: ([BEATS_PER_BAR, 0.0], 0.0),
            position: None,
        }
    }

    /// Has light be earlier than sound by so many seconds, for what it takes to be seen.
    pub fn set_latency(&mut self, seconds: f64) {
        self.latency = seconds.clamp(-1.0, 1.0);
    }

    /// Has somebody outside lead, as long as it is heard of; none leaves it to the music.
    pub fn lead(&mut self, position: Option<SyncPosition>) {
        self.position = position;
    }

    /// Goes on to `time`, led by `hearing` where it is trusted. Time that runs backwards counts as standing still.
    pub fn advance(&mut self, time: Seconds, hearing: &Hearing) -> Step {
        let seconds = (time - self.time).max(0.0);
        self.time = self.time.max(time);
        let led_to = self.led_to(hearing);
        let pace = self.bpm / 60.0;
        let behind = led_to.map(|led_to| led_to - (self.beat + seconds * pace));
        // To the nearest beat: which number it has is nobody's business.
        let error = behind.map_or(self.owed, |behind| behind - (behind + 0.5).floor());
        let correction =
            (error * (seconds / SLEW).min(1.0)).clamp(-MOST_SLEW * pace * seconds, MOST_SLEW * pace * seconds);
        self.owed = error - correction;
        let beats = (pace * seconds + correction).max(0.0);
        self.beat += beats;
        if let Some(led_to) = led_to {
            // Both count the same beats, but not from the same one on.
            self.apart = (self.beat - led_to).round();
        }
        self.follow_bars(hearing);
        Step { seconds, beats }
    }

    /// Takes over bars and phrases that are heard for a while, unless they were set by hand. They are as early, and as far
    /// nudged, as beats are.
    fn follow_bars(&mut self, hearing: &Hearing) {
        if self.own_bars || self.source != ClockSource::Heard || hearing.bar_confidence < BARS_TRUSTED {
            self.bars_off.1 = self.time;
            return;
        }
        // Two bars of two are one of four; what is counted in other numbers of beats is counted so.
        let heard = f64::from(hearing.bar_beats.max(1));
        let bar = if heard == 2.0 { BEATS_PER_BAR } else { heard };
        let (start, comes_again, most) = match hearing.phrase_confidence >= BARS_TRUSTED {
            true => (hearing.phrase_start, HEARD_PHRASE * heard * self.multiple, HEARD_PHRASE * bar),
            false => (hearing.bar_start, heard * self.multiple, heard),
        };
        let whole = comes_again.fract() == 0.0;
        let round = if whole { comes_again.min(most) } else { most };
        let began = (start - self.from) * self.multiple + self.apart;
        // With half the beats bars may begin between two: then it is the other half that counts, if all of them do.
        let between = if whole { began - began.round() } else { 0.0 };
        let off = (began.round() - self.origin + round / 2.0).rem_euclid(round) - round / 2.0;
        let wanted = [bar, off + between];
        if wanted == [self.bar, 0.0] || (0..2).any(|i| (wanted[i] - self.bars_off.0[i]).abs() > 0.2) {
            self.bars_off = (wanted, self.time);
        } else if self.time - self.bars_off.1 > BARS_PATIENCE {
            self.origin += off;
            self.from += (between / self.multiple).round();
            self.bar = bar;
            self.bars_off = ([bar, 0.0], self.time);
        }
    }

    /// The beat at which the clock is to be by its source's count, after taking over the source's tempo; none where nobody leads.
    fn led_to(&mut self, hearing: &Hearing) -> Option<f64> {
        let heard = hearing.confidence >= TRUSTED && hearing.tempo_bpm > 0.0;
        let outside = if self.follows_music { self.outside() } else { None };
        if outside.is_some() {
            outside
        } else if self.follows_music && heard {
            self.source = ClockSource::Heard;
            self.bpm = f64::from(hearing.tempo_bpm) * self.multiple;
            let since = self.time - hearing.time + self.latency;
            Some((hearing.beat - self.from) * self.multiple + since * self.bpm / 60.0 + self.nudge)
        } else if let (ClockSource::Tapped, Some(anchor)) = (self.source, self.tapped.anchor()) {
            Some((self.time - anchor + self.latency) * self.bpm / 60.0 + self.nudge)
        } else {
            if !matches!(self.source, ClockSource::Set | ClockSource::Tapped) {
                self.source = ClockSource::Held;
            }
            None
        }
    }

    /// The beat to which somebody outside leads, if there is anybody; its tempo is taken over.
    fn outside(&mut self) -> Option<f64> {
        let position = self.position.filter(|position| self.time - position.time < SyncPosition::FRESH)?;
        let since = self.time - position.time + self.latency;
        let (beat, counted) = match position.place {
            MusicPlace::Beats { beat, bpm, counted } => {
                self.bpm = bpm * self.multiple;
                let from = if counted { 0.0 } else { self.from };
                ((beat - from) * self.multiple + since * self.bpm / 60.0, counted)
            }
            MusicPlace::Seconds(at) => ((at + since) * self.bpm / 60.0, true),
            MusicPlace::Stopped => return None,
        };
        self.source = match position.source {
            SyncSource::Midi => ClockSource::Midi,
            SyncSource::TimeCode => ClockSource::TimeCode,
            SyncSource::Osc => ClockSource::Osc,
            SyncSource::Music => return None,
        };
        let led_to = beat + self.nudge;
        if counted && !self.own_bars {
            // It knows which beat it is, so that bars and phrases go there at once.
            self.origin = (self.beat - led_to).round();
        }
        Some(led_to)
    }

    /// A tap at `time`. The first of a series marks the first beat of a bar; from the second on they set the tempo.
    pub fn tap(&mut self, time: Seconds) {
        if let Some(interval) = self.tapped.tap(time) {
            self.bpm = (60.0 / interval).clamp(SLOWEST, FASTEST);
            self.source = ClockSource::Tapped;
            self.follows_music = false;
            (self.multiple, self.from, self.nudge) = (1.0, 0.0, 0.0);
        }
        self.own_bars = true;
        // Counted in time and not in taps, which may have been missed or doubled.
        self.origin = self.seen().round() - ((time - self.tapped.began()) * self.bpm / 60.0).round();
    }

    /// Sets the tempo by hand.
    pub fn set(&mut self, bpm: f32) {
        self.bpm = f64::from(bpm).clamp(SLOWEST, FASTEST);
        // Time code knows no tempo, and goes on leading at this one.
        if self.source != ClockSource::TimeCode {
            self.source = ClockSource::Set;
            self.follows_music = false;
        }
    }

    /// Lets the music, or whoever is to lead, lead again.
    pub fn follow_music(&mut self) {
        self.follows_music = true;
        (self.own_bars, self.multiple, self.from, self.nudge) = (false, 1.0, 0.0, 0.0);
        self.tapped = Taps::default();
        if self.source == ClockSource::Tapped {
            self.source = ClockSource::Set;
        }
    }

    /// Counts twice as many beats, or half as many, from the first beat of the phrase on, so that bars still begin where they
    /// began; the music goes on leading where it does, and is counted so as well when it comes back.
    pub fn multiply(&mut self, by: f64) {
        let multiple = (self.multiple * by).clamp(MULTIPLES[0], MULTIPLES[1]);
        let bpm = self.bpm * multiple / self.multiple;
        let led = match self.source {
            ClockSource::Heard | ClockSource::Midi | ClockSource::Osc => true,
            ClockSource::Held => (SLOWEST..=FASTEST).contains(&bpm),
            ClockSource::Set | ClockSource::Tapped | ClockSource::TimeCode => false,
        };
        if self.follows_music && led {
            self.from = (self.from + (self.origin - self.apart) / self.multiple).round();
            self.recount(multiple / self.multiple);
            (self.bpm, self.multiple, self.apart) = (bpm, multiple, self.origin);
        } else if (SLOWEST..=FASTEST).contains(&(self.bpm * by)) {
            let apart = 60.0 / self.bpm;
            self.tapped.count_from(self.time - (self.seen() - self.nudge - self.origin) * apart, apart);
            self.recount(by);
            self.bpm *= by;
        }
    }

    /// There are so many times as many beats in each bar. The beat glides to where it is in those.
    fn recount(&mut self, by: f64) {
        let since = (self.beat() + self.owed) * by;
        self.origin = (self.beat - since).round();
        self.nudge *= by;
        self.owed = since - self.beat();
    }

    /// Moves the beat a little against what leads it. It glides there.
    pub fn nudge(&mut self, beats: f64) {
        let free = match self.source {
            ClockSource::Set | ClockSource::Held => true,
            // One tap of a new series, as to mark a bar, leads nowhere yet.
            ClockSource::Tapped => self.tapped.anchor().is_none(),
            ClockSource::Heard | ClockSource::Midi | ClockSource::TimeCode | ClockSource::Osc => false,
        };
        let moved = if free { &mut self.owed } else { &mut self.nudge };
        let most = MOST_NUDGE * self.multiple.max(1.0);
        *moved = (*moved + beats).clamp(-most, most);
    }

    /// The nearest beat is the first of a bar; which bar of the phrase it is stays the same.
    pub fn bar_here(&mut self) {
        self.own_bars = true;
        let off = (self.seen().round() - self.origin).rem_euclid(self.bar);
        self.origin += if off > self.bar / 2.0 { off - self.bar } else { off };
    }

    /// The nearest beat is the first of a phrase.
    pub fn phrase_here(&mut self) {
        self.own_bars = true;
        self.origin = self.seen().round();
    }

    /// The beat whose light is seen now, and whose sound is heard: whoever presses a key means that one.
    fn seen(&self) -> f64 {
        self.beat - self.latency * self.bpm / 60.0
    }

    /// Beats in a bar, whole: those that were heard, or [`BEATS_PER_BAR`].
    #[must_use]
    pub fn bar(&self) -> f64 {
        self.bar
    }

    /// Beats since the count of phrases began; bars begin where it divides by [`Clock::bar`].
    #[must_use]
    pub fn beat(&self) -> f64 {
        self.beat - self.origin
    }

    /// Beats a minute.
    #[must_use]
    pub fn bpm(&self) -> f64 {
        self.bpm
    }

    /// The source that leads.
    #[must_use]
    pub fn source(&self) -> ClockSource {
        self.source
    }

    /// The time it has gone on to.
    #[must_use]
    pub fn time(&self) -> Seconds {
        self.time
    }
}

#[cfg(test)]
mod tests;
