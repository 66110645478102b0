//! Lessons: what the network is shown, and what it should tell.

use splimo_hear::network::TOLD;
use splimo_hear::sight::{HOPS_A_VIEW, Sight};
use splimo_hear::spectrum::Spectrum;
use splimo_hear::{HOP, TOLD_LATE};

use crate::noises::{Noise, noise};
use crate::style::STYLES;
use crate::{Bank, Lot, Piece, RATE, Voice, piece_with};

/// Views and truths, time after time.
#[derive(Debug, Clone)]
pub struct Lesson {
    /// What is shown.
    pub views: Vec<f32>,
    /// What should be told, 0..1; below 0 where nobody knows.
    pub truth: Vec<f32>,
}

impl Lesson {
    /// How many views there are.
    #[must_use]
    pub fn times(&self) -> usize {
        self.views.len() / splimo_hear::sight::VIEW
    }
}

/// How often a lesson has no music in it.
const NOISES: f32 = 0.1;
/// How often it is of the plainest styles: the first and the last.
const PLAIN: f32 = 0.25;
/// How long a piece has been going on where music has to be known as such, in seconds.
const TO_KNOW: f64 = 3.0;

/// The views of samples.
fn views(samples: &[f32]) -> Vec<f32> {
    let (mut spectrum, mut sight) = (Spectrum::default(), Sight::default());
    let mut views = Vec::new();
    for hop in samples.as_chunks::<HOP>().0 {
        if let Some(view) = sight.hop(spectrum.hop(hop)) {
            views.extend_from_slice(view);
        }
    }
    views
}

/// The view in which something at a time is told.
fn view_of(time: f64) -> usize {
    ((time + TOLD_LATE) * RATE / (HOP * HOPS_A_VIEW) as f64).ceil() as usize - 1
}

/// The lesson of a piece.
#[must_use]
pub fn lesson_of(piece: &Piece) -> Lesson {
    let views = views(&piece.samples);
    let times = views.len() / splimo_hear::sight::VIEW;
    let mut truth = vec![0.0f32; times * TOLD];
    let mut mark = |time: f64, output: usize, beside: f32| {
        let at = view_of(time.max(0.0));
        for (view, value) in [(at.wrapping_sub(1), beside), (at, 1.0), (at + 1, beside)] {
            if view < times {
                let truth = &mut truth[view * TOLD + output];
                *truth = truth.max(value);
            }
        }
    };
    piece.beats.iter().for_each(|beat| mark(*beat, 0, 0.4));
    piece.downbeats.iter().for_each(|beat| mark(*beat, 1, 0.4));
    for hit in piece.struck.iter().filter(|hit| hit.level > 0.22) {
        let output = match hit.voice {
            Voice::Kick => 3,
            Voice::Snare | Voice::Tom | Voice::Rim => 4,
            Voice::Hat | Voice::Ring => 5,
        };
        mark(hit.time, output, 0.15);
        mark(hit.time, 6, 0.15);
    }
    piece.notes.iter().for_each(|note| mark(*note, 6, 0.15));
    for view in 0..times {
        let time = (view + 1) as f64 * (HOP * HOPS_A_VIEW) as f64 / RATE;
        truth[view * TOLD + 2] = if time < TO_KNOW { -1.0 } else { 1.0 };
    }
    Lesson { views, truth }
}

/// A lesson of a seed: a piece of any style that is not held out, with instruments of the bank if there is one, or
/// something that is no music.
#[must_use]
pub fn lesson(bank: Option<&Bank>, seed: u64, seconds: f64) -> Lesson {
    let mut lot = Lot::new(seed ^ 0x1e55);
    if lot.chance(NOISES) {
        let views = views(&noise(lot.pick(&Noise::ALL), seconds, seed));
        let times = views.len() / splimo_hear::sight::VIEW;
        return Lesson { views, truth: vec![0.0; times * TOLD] };
    }
    let styles: Vec<_> = STYLES.iter().filter(|style| !style.held_out).collect();
    // From anywhere in a piece, as one who comes in late hears it.
    let late = if lot.chance(0.4) { 0.0 } else { f64::from(lot.range(0.0, 20.0)) };
    // The plainest is what one has to be surest of.
    let style = if lot.chance(PLAIN) { styles[lot.below(2) * (styles.len() - 1)] } else { lot.pick(&styles) };
    let mut whole = piece_with(bank, style, seconds + late, seed);
    let from = (late * RATE) as usize;
    whole.samples.drain(..from.min(whole.samples.len()));
    let shift = |times: &mut Vec<f64>| *times = times.iter().map(|t| t - late).filter(|t| *t >= 0.0).collect();
    [&mut whole.beats, &mut whole.downbeats, &mut whole.notes].into_iter().for_each(shift);
    whole.struck.retain(|hit| hit.time >= late);
    whole.struck.iter_mut().for_each(|hit| hit.time -= late);
    lesson_of(&whole)
}
