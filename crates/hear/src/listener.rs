//! The whole road from samples to [`Hearing`].

use splimo_time::music::Section;

use crate::band_meter::BandMeter;
use crate::bar::BarTracker;
use crate::beat::BeatTracker;
use crate::chroma::ChromaMeter;
use crate::features::Features;
use crate::form::FormMeter;
use crate::gain::Gain;
use crate::hits::HitMeter;
use crate::key::KeyMeter;
use crate::loudness::LoudnessMeter;
use crate::network::{Activations, Network};
use crate::onset::{self, OnsetMeter};
use crate::phrase::PhraseMeter;
use crate::pitch::PitchMeter;
use crate::section::SectionMeter;
use crate::section_features::HopLevels;
use crate::spectrum::Spectrum;
use crate::{BANDS, BEAT_LATE, HOP, HOPS_PER_SECOND, Hearing, SAMPLE_RATE};

/// The move of the pitch, in semitones, that makes it another note.
const ANOTHER_NOTE: f32 = 0.7;
/// Hops that a pitch has to stay to be a note: as long as its window, in which two notes may sound like a third, far lower.
const NOTE_HOPS: u32 = 8;
/// Parts of the range of hearing by which phrases are told apart.
const COLOURS: usize = 8;

/// The settings of a listener.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Ears {
    /// By what samples are multiplied.
    pub gain: f32,
    /// The level below which a hop counts as silence: root of the mean square, of full scale, after the gain.
    pub floor: f32,
    /// The number of bands that are told, 16..64.
    pub bands: usize,
    /// The time that a band takes to rise and to fall to a third of the way, in seconds; 0 is at once.
    pub swing: [f32; 2],
}

impl Default for Ears {
    fn default() -> Self {
        Self { gain: 1.0, floor: 0.0, bands: BANDS, swing: [0.0, 0.06] }
    }
}

/// An onset that was made sure of, which takes longer than to hear that something sets in ([`Hearing::onsets`]).
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Mark {
    /// The number that there have been.
    pub count: u64,
    /// The time of the last, in seconds since the first sample.
    pub time: f64,
}

/// Listens to samples at [`SAMPLE_RATE`], mono.
pub struct Listener {
    ears: Ears,
    pending: [f32; HOP],
    filled: usize,
    samples: u64,
    spectrum: Spectrum,
    meter: BandMeter,
    chroma: ChromaMeter,
    form: FormMeter,
    loudness: LoudnessMeter,
    pitch: PitchMeter,
    note: Note,
    key: KeyMeter,
    features: Features,
    network: Network,
    told: Activations,
    hits: HitMeter,
    onsets: OnsetMeter,
    /// Whether something has set in since the last hop.
    has_set_in: bool,
    beat: BeatTracker,
    bar: BarTracker,
    phrase: PhraseMeter,
    cue: HopLevels,
    section: SectionMeter,
    level_gain: Gain,
    mark: Mark,
    hearing: Hearing,
}

impl Default for Listener {
    fn default() -> Self {
        Self::new(Ears::default())
    }
}

impl Listener {
    /// One that listens in a way of its own.
    #[must_use]
    pub fn new(ears: Ears) -> Self {
        Self::with(ears, Network::default())
    }

    /// One with another network.
    #[must_use]
    pub fn with(ears: Ears, network: Network) -> Self {
        Self {
            ears,
            pending: [0.0; HOP],
            filled: 0,
            samples: 0,
            spectrum: Spectrum::default(),
            meter: BandMeter::new(ears.bands),
            chroma: ChromaMeter::default(),
            form: FormMeter::default(),
            loudness: LoudnessMeter::default(),
            pitch: PitchMeter::default(),
            note: Note::default(),
            key: KeyMeter::default(),
            features: Features::default(),
            network,
            told: Activations::default(),
            hits: HitMeter::default(),
            onsets: OnsetMeter::default(),
            has_set_in: false,
            beat: BeatTracker::default(),
            bar: BarTracker::default(),
            phrase: PhraseMeter::new(COLOURS),
            cue: HopLevels::default(),
            section: SectionMeter::default(),
            level_gain: Gain::new(20.0 * HOPS_PER_SECOND),
            mark: Mark::default(),
            hearing: Hearing::SILENCE,
        }
    }

    /// Listens in another way from now on. Allocates where that is in another number of bands.
    pub fn set_ears(&mut self, ears: Ears) {
        self.meter.set_count(ears.bands);
        self.ears = ears;
    }

    /// Takes samples, any number of them, and hands each [`Hearing`] that they complete to `heard`. Its time is counted
    /// in samples from the first one. One in which something has just set in is handed over as soon as that is known, between
    /// two others: nothing but its onsets is newer than in the one before. Samples that are no numbers count as silence.
    /// Allocates nothing.
    pub fn listen(&mut self, samples: &[f32], mut heard: impl FnMut(&Hearing)) {
        for &sample in samples {
            let sample = sample * self.ears.gain;
            self.pending[self.filled] = if sample.is_finite() { sample.clamp(-8.0, 8.0) } else { 0.0 };
            self.filled += 1;
            let set_in = self.filled.is_multiple_of(onset::LOOK) && self.set_in();
            if self.filled == HOP {
                self.filled = 0;
                self.hop();
            } else if !set_in {
                continue;
            }
            heard(&self.hearing);
        }
    }

    /// The last hearing.
    #[must_use]
    pub fn hearing(&self) -> &Hearing {
        &self.hearing
    }

    /// The last onset that was made sure of.
    #[must_use]
    pub fn mark(&self) -> Mark {
        self.mark
    }

    /// The measures of the last hop by which parts are told.
    #[must_use]
    pub fn cue(&self) -> &HopLevels {
        &self.cue
    }

    fn hop(&mut self) {
        self.samples += HOP as u64;
        let peak = self.pending.iter().fold(0.0f32, |peak, s| peak.max(s.abs()));
        let mut rms = rms(&self.pending);
        if rms < self.ears.floor {
            self.pending.fill(0.0);
            rms = 0.0;
        }
        let hearing = &mut self.hearing;
        hearing.time = self.samples as f64 / f64::from(SAMPLE_RATE);
        hearing.peak = peak.min(1.0);
        hearing.rms = rms.min(1.0);
        hearing.level = self.level_gain.apply(rms);
        hearing.loudness = self.loudness.hop(&self.pending);
        hearing.wave = self.form.hop(&self.pending);
        hearing.pitch = self.pitch.hop(&self.pending);
        hearing.interval = self.note.hop(hearing.pitch);
        hearing.chroma = self.chroma.hop(&self.pending);
        let magnitudes = self.spectrum.hop(&self.pending);
        let (key, sure, changed) = self.key.hop(&hearing.chroma);
        (hearing.key, hearing.key_confidence) = (key, sure.clamp(0.0, 1.0));
        hearing.chords += u64::from(changed);
        hearing.bands = self.meter.hop(magnitudes, self.ears.swing);
        self.cue = HopLevels::of(magnitudes, rms);
        hearing.centroid = self.cue.centroid;
        if let Some(view) = self.features.hop(magnitudes) {
            self.told = self.network.see(view);
            self.struck();
        }
        self.cue.struck[4] = std::mem::take(&mut self.has_set_in);
        self.count();
    }

    /// Takes hits out of what was told of a view.
    fn struck(&mut self) {
        let struck = self.hits.view(&self.told);
        let [low, mid, high] = struck.kinds.map(|kind| kind.is_some());
        self.cue.struck = [low, mid, high, struck.any.is_some(), false];
        for (count, kind) in self.hearing.hits.iter_mut().zip(struck.kinds) {
            *count += u64::from(kind.is_some());
        }
        if struck.any.is_some() {
            self.mark = Mark { count: self.mark.count + 1, time: (self.hearing.time - struck.ago).max(0.0) };
        }
    }

    /// Whether something has set in just before the last sample.
    fn set_in(&mut self) -> bool {
        let quiet = [0.0; onset::LOOK];
        let looked = self.pending[..self.filled].last_chunk().filter(|l| rms(*l) >= self.ears.floor).unwrap_or(&quiet);
        let Some(strength) = self.onsets.look(looked) else { return false };
        self.has_set_in = true;
        let hearing = &mut self.hearing;
        hearing.onsets += 1;
        hearing.onset_strength = strength;
        true
    }

    /// Beats, bars, phrases and sections.
    fn count(&mut self) {
        let hearing = &mut self.hearing;
        let beat = self.beat.hop(&self.told);
        hearing.tempo_bpm = beat.bpm;
        hearing.confidence = beat.confidence.clamp(0.0, 1.0);
        // The beat was where the sound was, not where it was told of.
        hearing.beat = beat.position + BEAT_LATE * f64::from(beat.bpm) / 60.0;
        let bar = self.bar.hop(&self.told, &hearing.chroma, self.features.loud(), beat.position);
        hearing.bar_beats = bar.beats;
        hearing.bar_start = bar.start;
        hearing.bar_confidence = (bar.confidence * hearing.confidence).clamp(0.0, 1.0);
        let before = hearing.section;
        let part = self.section.hop(&self.cue);
        (hearing.section, hearing.section_start) = (part.section, part.start);
        hearing.section_delay = part.delay as f32;
        let began = hearing.beat - part.delay * f64::from(hearing.tempo_bpm) / 60.0;
        let changed = (part.section != before && part.section != Section::Intro).then_some(began);
        let bars = [hearing.bar_start, f64::from(hearing.bar_beats)];
        let colours: [f32; COLOURS] = std::array::from_fn(|place| {
            let share = |place: usize| place as f32 / COLOURS as f32;
            self.meter.plain().mean(share(place)..share(place + 1))
        });
        let (start, sure) = self.phrase.hop(&colours, bars, changed);
        (hearing.phrase_start, hearing.phrase_confidence) = (start, sure * hearing.bar_confidence);
    }
}

/// The root of the mean square of some samples.
fn rms(samples: &[f32]) -> f32 {
    (samples.iter().map(|s| s * s).sum::<f32>() / samples.len().max(1) as f32).sqrt()
}

/// The notes that the pitch makes.
#[derive(Debug, Clone, Copy, Default)]
struct Note {
    /// The pitch that may become a note, in semitones, and for how many hops it has stayed.
    candidate: f32,
    stayed: u32,
    note: Option<f32>,
    interval: f32,
}

impl Note {
    /// The last move from note to note, in semitones.
    fn hop(&mut self, hertz: f32) -> f32 {
        if hertz <= 0.0 {
            self.stayed = 0;
            return self.interval;
        }
        let pitch = 12.0 * (hertz / 440.0).log2();
        if (pitch - self.candidate).abs() > 0.5 {
            (self.candidate, self.stayed) = (pitch, 0);
        }
        self.stayed += 1;
        if self.stayed == NOTE_HOPS {
            if let Some(note) = self.note.filter(|note| (pitch - note).abs() > ANOTHER_NOTE) {
                self.interval = (pitch - note).clamp(-48.0, 48.0);
            }
            self.note = Some(pitch);
        }
        self.interval
    }
}
