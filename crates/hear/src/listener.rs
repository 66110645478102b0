//! The whole road from samples to [`Hearing`].

use crate::bands::FilterBank;
use crate::beat::BeatTracker;
use crate::chroma::ChromaMeter;
use crate::flux::FluxMeter;
use crate::form::FormMeter;
use crate::gain::Gain;
use crate::spectrum::Spectrum;
use crate::{BANDS, HOP, HOPS_PER_SECOND, Hearing, SAMPLE_RATE};

/// How late the novelty of an attack peaks, in hops: the middle of the window, and the lag of the flux.
const ATTACK_DELAY_HOPS: f64 = 1.4;

/// Listens to samples at [`SAMPLE_RATE`], mono.
pub struct Listener {
    pending: [f32; HOP],
    filled: usize,
    samples: u64,
    spectrum: Spectrum,
    bank: FilterBank,
    flux: FluxMeter,
    chroma: ChromaMeter,
    form: FormMeter,
    beat: BeatTracker,
    level_gain: Gain,
    band_gain: Gain,
    own_gains: Vec<Gain>,
    hearing: Hearing,
}

impl Default for Listener {
    fn default() -> Self {
        Self {
            pending: [0.0; HOP],
            filled: 0,
            samples: 0,
            spectrum: Spectrum::default(),
            bank: FilterBank::default(),
            flux: FluxMeter::default(),
            chroma: ChromaMeter::default(),
            form: FormMeter::default(),
            beat: BeatTracker::default(),
            level_gain: Gain::new(20.0 * HOPS_PER_SECOND),
            band_gain: Gain::new(10.0 * HOPS_PER_SECOND),
            own_gains: vec![Gain::new(10.0 * HOPS_PER_SECOND); BANDS],
            hearing: Hearing::SILENCE,
        }
    }
}

impl Listener {
    /// Takes samples, any number of them, and hands each [`Hearing`] that they complete to `heard`. Its time is counted
    /// in samples from the first one. Samples that are no numbers count as silence. Allocates nothing.
    pub fn listen(&mut self, samples: &[f32], mut heard: impl FnMut(&Hearing)) {
        for &sample in samples {
            self.pending[self.filled] = if sample.is_finite() { sample.clamp(-8.0, 8.0) } else { 0.0 };
            self.filled += 1;
            if self.filled == HOP {
                self.filled = 0;
                self.hop();
                heard(&self.hearing);
            }
        }
    }

    /// What was heard last.
    #[must_use]
    pub fn hearing(&self) -> &Hearing {
        &self.hearing
    }

    fn hop(&mut self) {
        self.samples += HOP as u64;
        let mean_square = self.pending.iter().map(|s| s * s).sum::<f32>() / HOP as f32;
        let peak = self.pending.iter().fold(0.0f32, |peak, s| peak.max(s.abs()));
        let magnitudes = self.spectrum.hop(&self.pending);
        let flux = self.flux.hop(magnitudes);
        let mut bands = [0.0; BANDS];
        self.bank.apply(magnitudes, &mut bands);
        let beat = self.beat.hop(flux.novelty);
        let hearing = &mut self.hearing;
        hearing.time = self.samples as f64 / f64::from(SAMPLE_RATE);
        hearing.level = self.level_gain.apply(mean_square.sqrt());
        hearing.peak = peak.min(1.0);
        // Half against the loudest band and half against the band's own past: quiet bands are seen, and the shape stays.
        let loudest = bands.iter().copied().fold(0.0, f32::max);
        let reach = self.band_gain.apply(loudest) / loudest.max(1e-6);
        for ((out, band), own) in hearing.bands.iter_mut().zip(bands).zip(&mut self.own_gains) {
            *out = (0.35 * (band * reach).sqrt() + 0.65 * own.apply(band)).clamp(0.0, 1.0);
        }
        hearing.chroma = self.chroma.hop(magnitudes);
        hearing.wave = self.form.hop(&self.pending);
        if let Some(strength) = flux.onset {
            hearing.onsets += 1;
            hearing.onset_strength = strength;
        }
        hearing.tempo_bpm = beat.bpm;
        hearing.confidence = beat.confidence;
        // The beat was where the attack was, not where its novelty peaked.
        hearing.beat = beat.position + ATTACK_DELAY_HOPS / HOPS_PER_SECOND * f64::from(beat.bpm) / 60.0;
    }
}
