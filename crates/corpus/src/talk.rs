//! People who talk: a source of pulses and breath through resonances that glide from sound to sound (D. H. Klatt, "Software
//! for a cascade/parallel formant synthesizer", JASA 67, 1980), over syllables, phrases and pauses as languages have them.

use crate::RATE;
use crate::lot::Lot;
use crate::sound::{Low, dull, share};

/// Samples for which everything is held: 5 ms.
const FRAME: usize = 240;
/// Resonances of vowels in hertz (G. E. Peterson and H. L. Barney, "Control methods used in a study of the vowels", JASA 24,
/// 1952).
const VOWELS: [[f32; 3]; 10] = [
    [270.0, 2290.0, 3010.0],
    [390.0, 1990.0, 2550.0],
    [530.0, 1840.0, 2480.0],
    [660.0, 1720.0, 2410.0],
    [730.0, 1090.0, 2440.0],
    [570.0, 840.0, 2410.0],
    [440.0, 1020.0, 2240.0],
    [300.0, 870.0, 2240.0],
    [640.0, 1190.0, 2390.0],
    [490.0, 1350.0, 1690.0],
];
/// How wide each resonance is, in hertz.
const WIDTHS: [f32; 3] = [70.0, 100.0, 140.0];

/// Those above, which stay where they are, and how wide they are.
const UPPER: [[f32; 2]; 2] = [[3_500.0, 220.0], [4_500.0, 300.0]];
/// How often one hears it through a telephone, and what that lets through (ITU-T G.712).
const TELEPHONE: f32 = 0.25;
const LINE: [f32; 2] = [300.0, 3_400.0];

/// What the mouth does for a frame.
#[derive(Debug, Clone, Copy, Default)]
struct Frame {
    voice: f32,
    breath: f32,
    /// Where breath hisses, in hertz.
    hiss: f32,
    pitch: f32,
    formants: [f32; 3],
}

/// Who talks.
struct Talker {
    pitch: f32,
    /// How far the pitch goes, as a power of e.
    melody: f32,
    /// How much smaller the head is.
    size: f32,
    /// Syllables a second.
    pace: f32,
    /// How much syllables differ in length.
    uneven: f32,
    pauses: [f32; 2],
    /// The most syllables between two pauses.
    breath: usize,
    /// Above this the throat's pulses become softer, in hertz.
    tilt: f32,
}

impl Talker {
    fn new(lot: &mut Lot) -> Self {
        let pitch = lot.scale(75.0, 260.0);
        Self {
            pitch,
            melody: if lot.chance(0.25) { lot.range(0.0, 0.05) } else { lot.range(0.08, 0.35) },
            size: (pitch / 130.0).powf(0.25) * lot.range(0.92, 1.1),
            pace: lot.scale(3.2, 8.0),
            uneven: lot.range(0.1, 0.45),
            pauses: [lot.scale(0.05, 0.4), lot.scale(0.3, 1.8)],
            breath: lot.pick(&[8, 14, 14, 40]),
            tilt: lot.scale(250.0, 3_000.0),
        }
    }

    /// What is said until there are so many frames.
    fn say(&self, frames: usize, lot: &mut Lot) -> Vec<Frame> {
        let mut said = vec![Frame { pitch: self.pitch, formants: VOWELS[8], ..Frame::default() }; lot.below(200)];
        while said.len() < frames {
            let syllables = 1 + lot.below(self.breath);
            let (fall, ends) = (lot.range(0.1, 0.5), lot.range(-0.8, 0.5));
            for syllable in 0..syllables {
                let gone = syllable as f32 / syllables as f32;
                let last = syllable + 1 == syllables;
                let stress = if lot.chance(0.35) { 1.0 } else { 0.0 };
                let bend = 0.5 - fall * 2.0 * gone + 0.7 * stress + if last { ends } else { 0.0 } + 0.3 * lot.bell();
                let pitch = self.pitch * (self.melody * bend).exp();
                let long = (self.uneven * lot.bell() + 0.25 * stress + if last { 0.35 } else { 0.0 }).exp();
                self.syllable(&mut said, pitch, long / self.pace, 0.6 + 0.4 * stress, lot);
            }
            let [short, long] = self.pauses;
            let pause = if lot.chance(0.6) { short } else { long } * lot.range(0.6, 1.5);
            self.add(&mut said, pause, Frame { pitch: self.pitch, formants: VOWELS[8], ..Frame::default() });
        }
        said.truncate(frames);
        said
    }

    fn add(&self, said: &mut Vec<Frame>, seconds: f32, frame: Frame) {
        let frames = (seconds * RATE as f32 / FRAME as f32).round().max(0.0) as usize;
        let formants = frame.formants.map(|hz| hz * self.size);
        said.extend(std::iter::repeat_n(Frame { formants, ..frame }, frames));
    }

    /// A consonant or none, a vowel that may glide to another, and a consonant or none.
    fn syllable(&self, said: &mut Vec<Frame>, pitch: f32, seconds: f32, level: f32, lot: &mut Lot) {
        let vowel = Frame { voice: level, breath: 0.02, hiss: 2500.0, pitch, formants: lot.pick(&VOWELS) };
        let glides = lot.chance(0.3);
        let (before, after) = (lot.chance(0.8), lot.chance(0.35));
        let share = 1.0 - if before { 0.35 } else { 0.0 } - if after { 0.3 } else { 0.0 };
        if before {
            self.consonant(said, vowel, seconds * 0.35, lot);
        }
        let half = seconds * share * 0.5;
        self.add(said, half, vowel);
        // Within a vowel the pitch moves on as well.
        let pitch = pitch * (0.5 * self.melody * lot.bell()).exp();
        let formants = if glides { lot.pick(&VOWELS) } else { vowel.formants };
        self.add(said, half, Frame { pitch, formants, ..vowel });
        if after {
            self.consonant(said, vowel, seconds * 0.3, lot);
        }
    }

    fn consonant(&self, said: &mut Vec<Frame>, vowel: Frame, seconds: f32, lot: &mut Lot) {
        let voiced = lot.chance(0.5);
        let murmur = Frame { voice: vowel.voice * 0.25, breath: 0.0, formants: [250.0, 1300.0, 2300.0], ..vowel };
        match lot.below(4) {
            // Closed, then burst.
            0 => {
                let shut = Frame { voice: if voiced { murmur.voice * 0.4 } else { 0.0 }, ..murmur };
                self.add(said, seconds * 0.7, shut);
                let burst = Frame { voice: 0.0, breath: lot.range(0.2, 0.7), hiss: lot.scale(900.0, 5_000.0), ..vowel };
                self.add(said, lot.range(0.008, 0.02), burst);
                self.add(said, if voiced { 0.0 } else { seconds * 0.3 }, Frame { breath: 0.12, ..burst });
            }
            // Hissed.
            1 => {
                let hiss = Frame { breath: lot.range(0.1, 0.5), hiss: lot.scale(1_800.0, 8_000.0), ..murmur };
                let voice = if voiced { murmur.voice } else { 0.0 };
                self.add(said, seconds.clamp(0.05, 0.14), Frame { voice, ..hiss });
            }
            // Through the nose.
            2 => self.add(said, seconds, murmur),
            // Between vowels.
            _ => {
                let formants = lot.pick(&[[310.0, 1060.0, 1380.0], [300.0, 610.0, 2200.0], [260.0, 2070.0, 3020.0]]);
                self.add(said, seconds, Frame { voice: vowel.voice * 0.6, formants, ..vowel });
            }
        }
    }
}

/// A resonance.
#[derive(Clone, Copy, Default)]
struct Resonance {
    factors: [f32; 3],
    past: [f32; 2],
}

impl Resonance {
    fn tuned(hz: f32, width: f32) -> Self {
        let mut resonance = Self::default();
        resonance.tune(hz, width);
        resonance
    }

    fn tune(&mut self, hz: f32, width: f32) {
        let shrink = (-std::f32::consts::PI * width / RATE as f32).exp();
        let back = 2.0 * shrink * (std::f32::consts::TAU * hz / RATE as f32).cos();
        self.factors = [1.0 - back + shrink * shrink, back, -shrink * shrink];
    }

    fn step(&mut self, sample: f32) -> f32 {
        let [own, one, two] = self.factors;
        let now = own * sample + one * self.past[0] + two * self.past[1];
        self.past = [now, self.past[0]];
        now
    }
}

/// Somebody talks into a mix, all the time.
pub(crate) fn talk(mix: &mut [f32], level: f32, lot: &mut Lot) {
    let talker = Talker::new(lot);
    let frames = talker.say(mix.len() / FRAME + 1, lot);
    let mut voice = sound(&talker, &frames, lot);
    if lot.chance(TELEPHONE) {
        dull(&mut voice, LINE[1]);
        let (mut low, share) = (Low::default(), share(LINE[0]));
        voice.iter_mut().for_each(|sample| *sample -= low.step(*sample, share));
    }
    let power = voice.iter().map(|sample| sample * sample).sum::<f32>() / voice.len().max(1) as f32;
    let scale = 0.2 * level / power.sqrt().max(1e-6);
    mix.iter_mut().zip(voice).for_each(|(mix, sample)| *mix += sample * scale);
}

/// What frames sound like.
fn sound(talker: &Talker, frames: &[Frame], lot: &mut Lot) -> Vec<f32> {
    let (mut now, mut turn) = (frames[0], 0.0f32);
    let mut formants = [Resonance::default(); 3];
    let mut upper = UPPER.map(|[hz, width]| Resonance::tuned(hz * talker.size, width));
    let (mut hiss, mut lips) = (Resonance::default(), Low::default());
    let tilt = share(talker.tilt);
    let (mut soft, shake) = (Low::default(), lot.range(0.002, 0.02));
    let mut sounds = Vec::with_capacity(frames.len() * FRAME);
    for aim in frames {
        let glide = |now: &mut f32, aim: f32, by: f32| *now += (aim - *now) * by;
        glide(&mut now.voice, aim.voice, 0.5);
        glide(&mut now.breath, aim.breath, 0.7);
        glide(&mut now.pitch, aim.pitch, 0.12);
        now.hiss = aim.hiss;
        for index in 0..3 {
            glide(&mut now.formants[index], aim.formants[index], 0.22);
            formants[index].tune(now.formants[index], WIDTHS[index] * talker.size);
        }
        hiss.tune(now.hiss.max(300.0), now.hiss.max(300.0) * 0.35);
        let step = now.pitch * (1.0 + shake * lot.bell()) / RATE as f32;
        for _ in 0..FRAME {
            turn += step;
            // A pulse each time the throat shuts, without its mean.
            let pulse = if turn >= 1.0 { 1.0 / step } else { 0.0 } - 1.0;
            turn -= turn.floor();
            let noise = lot.both();
            let source = soft.step(pulse * now.voice * 0.5, tilt) + noise * now.breath * 0.02;
            let voiced = formants.iter_mut().chain(&mut upper).fold(source, |sample, formant| formant.step(sample));
            let sound = voiced * 0.5 + hiss.step(noise) * now.breath;
            // What leaves the lips is how fast it changes.
            sounds.push(sound - 0.9 * lips.step(sound, 0.08));
        }
    }
    sounds
}

#[cfg(test)]
mod tests {
    use super::*;

    fn said(seed: u64) -> Vec<f32> {
        let mut mix = vec![0.0; 8 * RATE as usize];
        talk(&mut mix, 0.5, &mut Lot::new(seed));
        mix
    }

    #[test]
    fn syllables_come_and_go_with_pauses_between_phrases() {
        for seed in 0..8 {
            let mix = said(seed);
            let powers: Vec<f32> =
                mix.chunks(FRAME * 4).map(|part| part.iter().map(|s| s * s).sum::<f32>() / part.len() as f32).collect();
            let most = powers.iter().copied().fold(0.0, f32::max);
            let loud = powers.iter().filter(|power| **power > 0.05 * most).count() as f32 / powers.len() as f32;
            let silent = powers.iter().filter(|power| **power < 1e-3 * most).count() as f32 / powers.len() as f32;
            assert!(most > 0.01 && most < 1.0, "{seed}: {most}");
            assert!((0.1..0.8).contains(&loud) && silent > 0.05, "{seed}: {loud} {silent}");
            assert!(mix.iter().all(|sample| sample.is_finite()));
        }
    }

    #[test]
    fn a_resonance_lets_its_own_pitch_through() {
        let through = |hz: f32| {
            let mut resonance = Resonance::tuned(700.0, 80.0);
            let step = |i: u32| resonance.step((i as f32 * hz * std::f32::consts::TAU / RATE as f32).sin());
            (0..9_600).map(step).skip(4_800).fold(0.0f32, |most, sample| most.max(sample.abs()))
        };
        assert!(through(700.0) > 5.0 * through(1_500.0) && (through(20.0) - 1.0).abs() < 0.1);
    }
}
