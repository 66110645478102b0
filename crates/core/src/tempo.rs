//! The musical clock: one position in beats that everything in time with the music follows. It is led by what is heard, by
//! another machine or by taps; corrections are slewed, never jumped, and it never runs backwards.

use serde::{Deserialize, Serialize};

use crate::Seconds;
use crate::leader::{Beacon, Leader, Place};
use crate::music::Hearing;
use crate::rate::Step;

/// Beats in a bar, where nobody says otherwise.
pub const BEATS_PER_BAR: f64 = 4.0;
/// The confidence from which what is heard leads the clock.
pub const TRUSTED: f32 = 0.5;

/// How long a phase error takes to shrink to a third, in seconds.
const SLEW: f64 = 0.35;
/// How much faster or slower than its tempo the clock may run to catch up.
const MOST_SLEW: f64 = 0.25;
/// A pause between taps after which a new series begins, in seconds.
const TAP_PAUSE: f64 = 2.5;
/// How far a tap may lie from where it was to come, as a share of the time between two.
const OFF: f64 = 0.18;
/// Taps that are averaged, at the most.
const TAPS: usize = 8;

/// The confidence in bars and phrases from which they are taken over.
const BARS_TRUSTED: f32 = 0.55;
/// How long bars have to be heard elsewhere before the clock's go there, in seconds.
const BARS_PATIENCE: f64 = 3.0;
/// Bars in a phrase that is heard.
const HEARD_PHRASE: f64 = 8.0;
/// How far the tempo may be halved or doubled.
const MULTIPLES: [f64; 2] = [0.25, 4.0];
/// How far a nudge may add up to, in beats.
const MOST_NUDGE: f64 = 0.5;

/// Who leads the clock.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Source {
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

impl Source {
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
    source: Source,
    follows_music: bool,
    /// The beat at which the present count of phrases began.
    origin: f64,
    /// Beats in a bar.
    bar: f64,
    tapped: Tapped,
    /// How many of the clock's beats there are in one that is heard.
    multiple: f64,
    /// How far the beat is moved against what leads it, in beats.
    nudge: f64,
    /// How far the beat still glides where nobody leads, in beats.
    owed: f64,
    /// By how much light has to be early to be seen in time, in seconds.
    latency: f64,
    /// Whether bars are set by hand.
    own_bars: bool,
    /// How long the heard bars are and how far they lie from the clock's, and since when.
    bars_off: ([f64; 2], Seconds),
    /// Where an outside leader was last.
    beacon: Option<Beacon>,
}

#[derive(Debug, Clone, PartialEq, Default)]
struct Tapped {
    times: [Seconds; TAPS],
    count: usize,
    /// When the first tap of the series came.
    began: Seconds,
    /// Where the beat lies in time, once there are two taps.
    anchor: Option<Seconds>,
}

impl Clock {
    /// A clock that runs at `bpm` from beat 0.
    #[must_use]
    pub fn new(bpm: f32) -> Self {
        Self {
            time: 0.0,
            beat: 0.0,
            bpm: f64::from(bpm),
            source: Source::Set,
            follows_music: true,
            origin: 0.0,
            bar: BEATS_PER_BAR,
            tapped: Tapped::default(),
            multiple: 1.0,
            nudge: 0.0,
            owed: 0.0,
            latency: 0.0,
            own_bars: false,
            bars_off: ([BEATS_PER_BAR, 0.0], 0.0),
            beacon: None,
        }
    }

    /// Has light be earlier than sound by so many seconds, for what it takes to be seen.
    pub fn set_latency(&mut self, seconds: f64) {
        self.latency = seconds.clamp(-1.0, 1.0);
    }

    /// Has somebody outside lead, as long as it is heard of; none leaves it to the music.
    pub fn lead(&mut self, beacon: Option<Beacon>) {
        self.beacon = beacon;
    }

    /// Goes on to `time`, led by `hearing` where it is trusted. Time that runs backwards counts as standing still.
    pub fn advance(&mut self, time: Seconds, hearing: &Hearing) -> Step {
        let seconds = (time - self.time).max(0.0);
        self.time = self.time.max(time);
        let led = self.error(hearing, seconds);
        let error = led.unwrap_or(self.owed);
        let pace = self.bpm / 60.0;
        let correction =
            (error * (seconds / SLEW).min(1.0)).clamp(-MOST_SLEW * pace * seconds, MOST_SLEW * pace * seconds);
        self.owed = if led.is_none() { self.owed - correction } else { 0.0 };
        let beats = (pace * seconds + correction).max(0.0);
        self.beat += beats;
        self.follow_bars(hearing);
        Step { seconds, beats }
    }

    /// Takes over bars and phrases that are heard for a while, unless they were set by hand.
    fn follow_bars(&mut self, hearing: &Hearing) {
        if self.own_bars || self.source != Source::Heard || hearing.bar_confidence < BARS_TRUSTED {
            self.bars_off.1 = self.time;
            return;
        }
        // Two bars of two are one of four; what is counted in other numbers of beats is counted so.
        let heard = f64::from(hearing.bar_beats.max(1));
        let (bar, least) = if heard == 2.0 { (BEATS_PER_BAR, 2.0) } else { (heard, heard) };
        let (start, round) = match hearing.phrase_confidence >= BARS_TRUSTED {
            true => (hearing.phrase_start, HEARD_PHRASE * bar),
            false => (hearing.bar_start, least),
        };
        // Both count the same beats, but not from the same one on.
        let apart = (self.beat - hearing.beat * self.multiple).round();
        let began = (start * self.multiple + apart).round();
        let off = (began - self.origin + round / 2.0).rem_euclid(round) - round / 2.0;
        let wanted = [bar, off];
        if wanted == [self.bar, 0.0] || (0..2).any(|i| (wanted[i] - self.bars_off.0[i]).abs() > 0.5) {
            self.bars_off = (wanted, self.time);
        } else if self.time - self.bars_off.1 > BARS_PATIENCE {
            self.origin += off;
            self.bar = bar;
            self.bars_off = ([bar, 0.0], self.time);
        }
    }

    /// How many beats the clock is behind its leader (-0.5..0.5), after taking over the leader's tempo; none where nobody leads.
    fn error(&mut self, hearing: &Hearing, seconds: f64) -> Option<f64> {
        let heard = hearing.confidence >= TRUSTED && hearing.tempo_bpm > 0.0;
        let outside = if self.follows_music { self.outside() } else { None };
        let expected = self.beat + seconds * self.bpm / 60.0;
        let led_to = if let Some(beat) = outside {
            beat
        } else if self.follows_music && heard {
            self.source = Source::Heard;
            self.bpm = f64::from(hearing.tempo_bpm) * self.multiple;
            let since = self.time - hearing.time + self.latency;
            hearing.beat * self.multiple + since * self.bpm / 60.0 + self.nudge
        } else if let (Source::Tapped, Some(anchor)) = (self.source, self.tapped.anchor) {
            (self.time - anchor + self.latency) * self.bpm / 60.0 + self.nudge
        } else {
            if !matches!(self.source, Source::Set | Source::Tapped) {
                self.source = Source::Held;
            }
            return None;
        };
        let error = led_to - expected;
        Some(error - (error + 0.5).floor())
    }

    /// The beat to which somebody outside leads, if there is anybody; its tempo is taken over.
    fn outside(&mut self) -> Option<f64> {
        let beacon = self.beacon.filter(|beacon| self.time - beacon.time < Beacon::FRESH)?;
        let since = self.time - beacon.time + self.latency;
        let (beat, counted) = match beacon.place {
            Place::Beats { beat, bpm, counted } => {
                self.bpm = bpm * self.multiple;
                (beat * self.multiple + since * self.bpm / 60.0, counted)
            }
            Place::Seconds(at) => ((at + since) * self.bpm / 60.0, true),
            Place::Stopped => return None,
        };
        self.source = match beacon.leader {
            Leader::Midi => Source::Midi,
            Leader::TimeCode => Source::TimeCode,
            Leader::Osc => Source::Osc,
            Leader::Music => return None,
        };
        if counted && !self.own_bars {
            // It knows which beat it is, so that bars and phrases go there at once.
            self.origin = (self.beat - beat).round();
        }
        Some(beat + self.nudge)
    }

    /// A tap at `time`. The first of a series marks the first beat of a bar; from the second on they set the tempo.
    pub fn tap(&mut self, time: Seconds) {
        let taps = &mut self.tapped;
        let last = taps.count.checked_sub(1).map(|i| taps.times[i % TAPS]);
        if last.is_none_or(|last| time - last > TAP_PAUSE || time <= last) {
            *taps = Tapped { began: time, ..Tapped::default() };
        }
        taps.times[taps.count % TAPS] = time;
        taps.count += 1;
        if let Some(interval) = taps.interval() {
            if taps.is_in_time(interval) {
                taps.anchor = Some(time);
            }
            self.bpm = (60.0 / interval).clamp(20.0, 400.0);
            self.source = Source::Tapped;
            self.follows_music = false;
            (self.multiple, self.nudge) = (1.0, 0.0);
        }
        self.own_bars = true;
        // Counted in time and not in taps, which may have been missed or doubled.
        self.origin = self.beat.round() - ((time - self.tapped.began) * self.bpm / 60.0).round();
    }

    /// Sets the tempo by hand.
    pub fn set(&mut self, bpm: f32) {
        self.bpm = f64::from(bpm.clamp(20.0, 400.0));
        // Time code knows no tempo, and goes on leading at this one.
        if self.source != Source::TimeCode {
            self.source = Source::Set;
            self.follows_music = false;
        }
    }

    /// Lets the music, or whoever is to lead, lead again.
    pub fn follow_music(&mut self) {
        self.follows_music = true;
        (self.own_bars, self.multiple, self.nudge) = (false, 1.0, 0.0);
        self.tapped = Tapped::default();
        if self.source == Source::Tapped {
            self.source = Source::Set;
        }
    }

    /// Counts twice as many beats, or half as many; the music goes on leading where it does, and is counted so as well when it
    /// comes back.
    pub fn multiply(&mut self, by: f64) {
        let multiple = (self.multiple * by).clamp(MULTIPLES[0], MULTIPLES[1]);
        let bpm = self.bpm * multiple / self.multiple;
        let led = match self.source {
            Source::Heard | Source::Midi | Source::Osc => true,
            Source::Held => (20.0..=400.0).contains(&bpm),
            Source::Set | Source::Tapped | Source::TimeCode => false,
        };
        if self.follows_music && led {
            (self.bpm, self.multiple) = (bpm, multiple);
        } else if (20.0..=400.0).contains(&(self.bpm * by)) {
            self.bpm *= by;
        }
    }

    /// Moves the beat a little against what leads it. It glides there.
    pub fn nudge(&mut self, beats: f64) {
        let free = match self.source {
            Source::Set | Source::Held => true,
            // One tap of a new series, as to mark a bar, leads nowhere yet.
            Source::Tapped => self.tapped.anchor.is_none(),
            Source::Heard | Source::Midi | Source::TimeCode | Source::Osc => false,
        };
        let moved = if free { &mut self.owed } else { &mut self.nudge };
        *moved = (*moved + beats).clamp(-MOST_NUDGE, MOST_NUDGE);
    }

    /// The nearest beat is the first of a bar; which bar of the phrase it is stays the same.
    pub fn bar_here(&mut self) {
        self.own_bars = true;
        let off = (self.beat.round() - self.origin).rem_euclid(self.bar);
        self.origin += if off > self.bar / 2.0 { off - self.bar } else { off };
    }

    /// The nearest beat is the first of a phrase.
    pub fn phrase_here(&mut self) {
        self.own_bars = true;
        self.origin = self.beat.round();
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

    /// Who leads.
    #[must_use]
    pub fn source(&self) -> Source {
        self.source
    }

    /// The time it has gone on to.
    #[must_use]
    pub fn time(&self) -> Seconds {
        self.time
    }
}

impl Tapped {
    /// The mean time between the taps, without those that are far from the median: a tap that was missed or doubled.
    fn interval(&self) -> Option<f64> {
        let kept = self.count.min(TAPS);
        let mut gaps = [0.0; TAPS];
        let gaps = &mut gaps[..kept.saturating_sub(1)];
        for (i, gap) in gaps.iter_mut().enumerate() {
            let nth = self.count - kept + i;
            *gap = self.times[(nth + 1) % TAPS] - self.times[nth % TAPS];
        }
        gaps.sort_by(f64::total_cmp);
        let median = *gaps.get(gaps.len() / 2)?;
        let good = || gaps.iter().filter(|&&gap| (gap / median - 1.0).abs() < OFF);
        Some(good().sum::<f64>() / good().count() as f64)
    }

    /// Whether the last tap lies where one was to come, after the one before it or on the beat that was tapped so far: a hand
    /// that slips once does not move the beat, one that goes on elsewhere does with its second tap there.
    fn is_in_time(&self, interval: f64) -> bool {
        let [before, last] = [2, 1].map(|back| self.times[(self.count - back) % TAPS]);
        let beats = |from: f64| (last - from) / interval;
        let whole = |beats: f64| (beats - beats.round()).abs() < OFF;
        let after = beats(before);
        (after > 0.5 && whole(after)) || self.anchor.is_none_or(|anchor| whole(beats(anchor)))
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn heard(time: f64, bpm: f32, beat: f64) -> Hearing {
        Hearing { time, tempo_bpm: bpm, beat, confidence: 1.0, ..Hearing::SILENCE }
    }

    #[test]
    fn it_slews_to_the_music_without_a_jump() {
        let mut clock = Clock::new(120.0);
        let mut time = 0.0;
        for _ in 0..400 {
            time += 0.01;
            let step = clock.advance(time, &heard(time, 128.0, time * 128.0 / 60.0 + 0.4));
            assert!(step.beats >= 0.0 && step.beats < 0.01 * 128.0 / 60.0 * 1.26, "{step:?}");
        }
        let off = clock.beat() - (time * 128.0 / 60.0 + 0.4);
        assert!((off - off.round()).abs() < 0.01, "{off} beats off");
        assert_eq!(clock.source(), Source::Heard);
    }

    fn beacon(time: f64, place: Place) -> Option<Beacon> {
        Some(Beacon {
            leader: if let Place::Seconds(_) = place { Leader::TimeCode } else { Leader::Midi },
            time,
            place,
        })
    }

    #[test]
    fn somebody_outside_leads_before_the_music_and_the_music_where_it_is_silent() {
        let mut clock = Clock::new(120.0);
        for tick in 0..600 {
            let time = f64::from(tick) * 0.01;
            // It is at beat 64 when the show begins, and is not heard of any more after three seconds.
            let told = time.min(3.0);
            clock.lead(beacon(told, Place::Beats { beat: 64.0 + told * 2.5, bpm: 150.0, counted: true }));
            let step = clock.advance(time, &heard(time, 128.0, time * 128.0 / 60.0));
            assert!(step.beats >= 0.0 && step.beats < 0.032, "{step:?}");
            if tick == 290 {
                assert!((clock.beat() - 64.0 - 2.9 * 2.5).abs() < 0.02, "{}", clock.beat());
                assert_eq!((clock.source(), clock.bpm().round()), (Source::Midi, 150.0));
            }
        }
        assert_eq!((clock.source(), clock.bpm().round()), (Source::Heard, 128.0));
    }

    #[test]
    fn who_stands_leaves_the_tempo_and_who_winds_takes_the_bars_along() {
        let mut clock = Clock::new(120.0);
        let silence = Hearing::SILENCE;
        for tick in 0..300 {
            let time = f64::from(tick) * 0.01;
            let place =
                Place::Beats { beat: time * 2.5 + if tick < 200 { 0.0 } else { 101.0 }, bpm: 150.0, counted: true };
            clock.lead(beacon(time, place));
            clock.advance(time, &silence);
        }
        assert!((clock.beat() - 101.0 - 2.99 * 2.5).abs() < 0.05, "{}", clock.beat());
        clock.lead(beacon(3.0, Place::Stopped));
        clock.advance(3.0, &silence);
        assert_eq!((clock.source(), clock.bpm().round()), (Source::Held, 150.0));
    }

    #[test]
    fn time_code_leads_at_a_tempo_that_is_set() {
        let mut clock = Clock::new(120.0);
        for tick in 0..500 {
            let time = f64::from(tick) * 0.01;
            clock.lead(beacon(time, Place::Seconds(60.0 + time)));
            clock.advance(time, &Hearing::SILENCE);
            if tick == 100 {
                clock.set(90.0);
            }
        }
        assert_eq!(clock.source(), Source::TimeCode);
        assert!((clock.beat() - 64.99 * 1.5).abs() < 0.05, "{}", clock.beat());
    }

    #[test]
    fn bars_that_are_heard_for_a_while_are_taken_over_unless_they_are_set_by_hand() {
        for by_hand in [false, true] {
            let mut clock = Clock::new(120.0);
            for tick in 0..1200 {
                let time = f64::from(tick) * 0.01;
                // The music is two beats ahead of the clock, and its bars begin at its beat 3, 7, 11...
                let heard = Hearing {
                    bar_beats: 4,
                    bar_start: ((time * 2.0 + 2.0 - 3.0) / 4.0).floor() * 4.0 + 3.0,
                    bar_confidence: 0.9,
                    ..heard(time, 120.0, time * 2.0 + 2.0)
                };
                clock.advance(time, &heard);
                if by_hand && tick == 50 {
                    clock.phrase_here();
                }
            }
            // At 11.99 s the music is at beat 25.98, so its bar began at 23: 2.98 beats ago.
            let in_bar = clock.beat().rem_euclid(4.0);
            let expected = if by_hand { (23.98 - 1.0f64).rem_euclid(4.0) } else { 2.98 };
            assert!((in_bar - expected).abs() < 0.02, "{by_hand}: {in_bar}");
        }
    }

    #[test]
    fn music_in_three_is_counted_in_three_and_bars_of_two_are_halves_of_four() {
        for (heard_bar, counted) in [(3u32, 3.0), (2, 4.0)] {
            let mut clock = Clock::new(120.0);
            let mut last = Hearing::SILENCE;
            for tick in 0..1200 {
                let time = f64::from(tick) * 0.01;
                let bar = f64::from(heard_bar);
                // Its bars begin at beat 1, 4, 7... and at 1, 3, 5...
                let start = ((time * 2.0 - 1.0) / bar).floor() * bar + 1.0;
                last = Hearing {
                    bar_beats: heard_bar,
                    bar_start: start,
                    bar_confidence: 0.9,
                    ..heard(time, 120.0, time * 2.0)
                };
                clock.advance(time, &last);
            }
            assert_eq!(clock.bar(), counted);
            let since = (last.beat - last.bar_start).rem_euclid(f64::from(heard_bar));
            assert!((clock.beat().rem_euclid(f64::from(heard_bar)) - since).abs() < 0.03, "{} {since}", clock.beat());
        }
    }

    #[test]
    fn half_and_double_keep_the_music_as_leader() {
        let mut clock = Clock::new(120.0);
        let mut time = 0.0;
        let mut run = |clock: &mut Clock| {
            for _ in 0..500 {
                time += 0.01;
                let step = clock.advance(time, &heard(time, 90.0, time * 1.5));
                assert!(step.beats >= 0.0 && step.beats < 0.05);
            }
            (clock.bpm(), clock.source())
        };
        assert_eq!(run(&mut clock), (90.0, Source::Heard));
        clock.multiply(2.0);
        assert_eq!(run(&mut clock), (180.0, Source::Heard));
        clock.multiply(0.5);
        clock.multiply(0.5);
        assert_eq!(run(&mut clock), (45.0, Source::Heard));
        clock.set(100.0);
        clock.multiply(2.0);
        assert_eq!(clock.bpm(), 200.0);
    }

    #[test]
    fn light_is_early_by_the_latency_and_by_the_nudge() {
        let mut clock = Clock::new(120.0);
        clock.set_latency(0.05);
        for tick in 0..600 {
            let time = f64::from(tick) * 0.01;
            clock.advance(time, &heard(time, 120.0, time * 2.0));
            if tick == 300 {
                let off = clock.beat() - time * 2.0;
                assert!((off - off.round() - 0.1).abs() < 0.005, "{off}");
                clock.nudge(-0.04);
            }
        }
        let off = clock.beat() - 5.99 * 2.0;
        assert!((off - off.round() - 0.06).abs() < 0.005, "{off}");
    }

    #[test]
    fn taps_are_of_the_sound_and_their_light_is_early_too() {
        let mut clock = Clock::new(120.0);
        clock.set_latency(0.05);
        for tick in 0..600 {
            let time = f64::from(tick) * 0.01;
            clock.advance(time, &Hearing::SILENCE);
            if tick % 50 == 0 && tick <= 200 {
                clock.tap(time);
            }
        }
        let off = clock.beat() - 5.99 * 2.0;
        assert!((off - off.round() - 0.1).abs() < 0.005, "{off}");
    }

    #[test]
    fn where_nobody_leads_a_nudge_glides_even_after_taps() {
        let typed: fn(&mut Clock) = |clock| clock.set(120.0);
        for then in [typed, |clock| clock.tap(9.0)] {
            let mut clock = Clock::new(120.0);
            for time in [0.0, 0.5, 1.0] {
                clock.advance(time, &Hearing::SILENCE);
                clock.tap(time);
            }
            clock.advance(9.0, &Hearing::SILENCE);
            then(&mut clock);
            let before = clock.beat();
            clock.nudge(-0.1);
            clock.nudge(-0.1);
            assert_eq!(clock.beat(), before);
            for tick in 1..300 {
                let step = clock.advance(9.0 + f64::from(tick) * 0.01, &Hearing::SILENCE);
                assert!(step.beats > 0.0149, "{step:?}");
            }
            assert!((clock.beat() - before - 2.99 * 2.0 + 0.2).abs() < 0.005, "{} {before}", clock.beat());
        }
    }

    #[test]
    fn music_that_is_halved_while_it_is_silent_comes_back_halved() {
        let mut clock = Clock::new(120.0);
        clock.advance(1.0, &heard(1.0, 90.0, 0.0));
        clock.advance(2.0, &Hearing::SILENCE);
        clock.multiply(0.5);
        assert_eq!((clock.bpm(), clock.source()), (45.0, Source::Held));
        clock.advance(3.0, &heard(3.0, 90.0, 3.0));
        assert_eq!((clock.bpm(), clock.source()), (45.0, Source::Heard));
    }

    #[test]
    fn it_holds_the_tempo_when_the_music_is_gone() {
        let mut clock = Clock::new(120.0);
        clock.advance(1.0, &heard(1.0, 90.0, 0.0));
        clock.advance(2.0, &Hearing::SILENCE);
        assert_eq!((clock.bpm(), clock.source()), (90.0, Source::Held));
    }

    #[test]
    fn taps_set_tempo_and_bar() {
        let mut clock = Clock::new(120.0);
        let mut next_tap = 0;
        for tick in 0..400 {
            let time = f64::from(tick) * 0.01;
            clock.advance(time, &heard(time, 174.0, time));
            if tick >= 100 && (tick - 100) % 60 == 0 && next_tap < 5 {
                clock.tap(time);
                next_tap += 1;
            }
        }
        assert!((clock.bpm() - 100.0).abs() < 0.1, "{}", clock.bpm());
        assert_eq!(clock.source(), Source::Tapped);
        // The first tap came at 1.0 s, so at 3.99 s almost 5 beats have gone.
        assert!((clock.beat() - 2.99 / 0.6).abs() < 0.05, "{}", clock.beat());
        clock.follow_music();
        clock.advance(5.0, &heard(5.0, 174.0, 0.0));
        assert_eq!(clock.bpm(), 174.0);
    }

    #[test]
    fn a_single_tap_marks_a_bar_and_leaves_the_music_as_it_is_counted() {
        let mut clock = Clock::new(120.0);
        for tick in 0..800 {
            let time = f64::from(tick) * 0.01;
            clock.advance(time, &heard(time, 160.0, time * 160.0 / 60.0));
            match tick {
                100 => clock.multiply(0.5),
                // At 5.25 s the music's fourteenth beat begins, which is the seventh as it is counted.
                525 => clock.tap(time),
                _ => {}
            }
        }
        assert_eq!((clock.bpm(), clock.source()), (80.0, Source::Heard));
        assert!((clock.beat() - 2.74 * 80.0 / 60.0).abs() < 0.05, "{}", clock.beat());
    }

    #[test]
    fn one_bad_tap_does_not_spoil_the_tempo() {
        let mut clock = Clock::new(120.0);
        for time in [0.0, 0.5, 1.0, 1.1, 1.5, 2.0, 2.5] {
            clock.advance(time, &Hearing::SILENCE);
            clock.tap(time);
        }
        assert!((clock.bpm() - 120.0).abs() < 1.0, "{}", clock.bpm());
    }

    #[test]
    fn one_bad_tap_does_not_move_the_beat_and_a_hand_that_goes_on_elsewhere_does() {
        let beat_after = |taps: &[f64]| {
            let mut clock = Clock::new(120.0);
            let mut taps = taps.iter().peekable();
            for tick in 0..=600 {
                let time = f64::from(tick) * 0.01;
                clock.advance(time, &Hearing::SILENCE);
                if taps.next_if(|tap| **tap <= time).is_some() {
                    clock.tap(time);
                }
            }
            clock.beat().rem_euclid(1.0)
        };
        let off = |taps: &[f64], wanted: f64| {
            let off = (beat_after(taps) - wanted).rem_euclid(1.0);
            off.min(1.0 - off)
        };
        for slip in [2.1, 2.2, 2.3] {
            assert!(off(&[0.5, 1.0, 1.5, 2.0, slip], 0.0) < 0.01, "{slip}");
            assert!(off(&[0.5, 1.0, 1.5, 2.0, slip, 2.5], 0.0) < 0.02, "{slip}");
        }
        assert!(off(&[0.5, 1.0, 1.5, 2.0, 2.75, 3.25, 3.75], 0.5) < 0.02);
    }

    #[test]
    fn a_bar_can_be_moved_without_moving_the_beat() {
        let mut clock = Clock::new(60.0);
        clock.advance(5.1, &Hearing::SILENCE);
        let fraction = clock.beat().fract();
        clock.bar_here();
        assert!((clock.beat() - 4.1).abs() < 1e-9, "{}", clock.beat());
        assert!((clock.beat().fract() - fraction).abs() < 1e-9);
        clock.phrase_here();
        assert!((clock.beat() - 0.1).abs() < 1e-9);
    }

    /// What may come between two ticks, and what is heard or told from outside from then on.
    #[derive(Debug, Clone)]
    enum Happening {
        Tap,
        Set(f32),
        Times(f64),
        Nudge(f64),
        Follow,
        BarHere,
        PhraseHere,
        Hear(Box<Hearing>),
        Led(Option<Beacon>),
        Pause(f64),
    }

    fn happening() -> impl Strategy<Value = Happening> {
        let music =
            (50f32..210.0, 0f64..8.0, 0f32..1.0, 1u32..9, 0f32..1.0).prop_map(|(bpm, beat, sure, bar, bars)| {
                let (bar_start, bar_confidence) = ((beat / f64::from(bar)).floor() * f64::from(bar), bars);
                let heard = heard(0.0, bpm, beat);
                Happening::Hear(Box::new(Hearing {
                    confidence: sure,
                    bar_beats: bar,
                    bar_start,
                    bar_confidence,
                    ..heard
                }))
            });
        let place = prop_oneof![
            Just(Place::Stopped),
            (0f64..5000.0).prop_map(Place::Seconds),
            (0f64..900.0, 30f64..300.0, any::<bool>()).prop_map(|(beat, bpm, counted)| Place::Beats {
                beat,
                bpm,
                counted
            }),
        ];
        prop_oneof![
            3 => Just(Happening::Tap),
            1 => (0f32..500.0).prop_map(Happening::Set),
            1 => prop_oneof![Just(0.5), Just(2.0)].prop_map(Happening::Times),
            2 => (-0.1f64..0.1).prop_map(Happening::Nudge),
            1 => Just(Happening::Follow),
            1 => Just(Happening::BarHere),
            1 => Just(Happening::PhraseHere),
            3 => music,
            2 => proptest::option::of(place).prop_map(|place| Happening::Led(place.and_then(|place| beacon(0.0, place)))),
            1 => (0f64..4.0).prop_map(Happening::Pause),
        ]
    }

    proptest! {
        // Whoever leads and whatever is done to it: what follows the clock is never thrown back or forth.
        #[test]
        fn it_never_jumps(happenings in proptest::collection::vec((happening(), 1u32..120), 1..40)) {
            let mut clock = Clock::new(120.0);
            let (mut time, mut music, mut told) = (0.0, (Hearing::SILENCE, 0.0), None::<(Beacon, f64)>);
            for (happening, ticks) in happenings {
                let before = clock.beat;
                match happening {
                    Happening::Tap => clock.tap(time),
                    Happening::Set(bpm) => clock.set(bpm),
                    Happening::Times(by) => clock.multiply(by),
                    Happening::Nudge(by) => clock.nudge(by),
                    Happening::Follow => clock.follow_music(),
                    Happening::BarHere => clock.bar_here(),
                    Happening::PhraseHere => clock.phrase_here(),
                    Happening::Hear(hearing) => music = (*hearing, time),
                    Happening::Led(beacon) => told = beacon.map(|beacon| (beacon, time)),
                    Happening::Pause(seconds) => time += seconds,
                }
                prop_assert_eq!(clock.beat, before);
                for _ in 0..ticks {
                    time += 1.0 / 44.0;
                    let (heard, since) = (music.0, time - music.1);
                    let beat = heard.beat + since * f64::from(heard.tempo_bpm) / 60.0;
                    clock.lead(told.map(|(beacon, since)| Beacon { time, place: on(beacon.place, time - since), ..beacon }));
                    let (time_before, beat_before) = (clock.time, clock.beat);
                    let step = clock.advance(time, &Hearing { time, beat, ..heard });
                    let beats = (time - time_before) * clock.bpm / 60.0;
                    prop_assert!(step.beats >= 0.749 * beats && step.beats <= 1.251 * beats, "{:?} at {}", step, clock.bpm);
                    prop_assert_eq!(clock.beat, beat_before + step.beats);
                    prop_assert!((7.0..=1250.0).contains(&clock.bpm) && clock.bar >= 1.0 && clock.beat().is_finite());
                }
            }
        }
    }

    /// Where a leader is so many seconds later.
    fn on(place: Place, seconds: f64) -> Place {
        match place {
            Place::Beats { beat, bpm, counted } => Place::Beats { beat: beat + seconds * bpm / 60.0, bpm, counted },
            Place::Seconds(at) => Place::Seconds(at + seconds),
            Place::Stopped => Place::Stopped,
        }
    }
}
