//! Lessons: what the network is shown, and what it should tell.

use splimo_hear::network::TOLD;
use splimo_hear::sight::{BANDS_SHOWN, HOPS_A_VIEW, Sight, VIEW};
use splimo_hear::{HOP, SURE_LATE, TOLD_LATE};

use super::material::{Material, What};
use crate::{Lot, RATE};

/// Views and truths, time after time.
#[derive(Debug, Clone)]
pub struct Lesson {
    /// What is shown.
    pub views: Vec<f32>,
    /// What should be told, 0..1; below 0 where nobody knows.
    pub truth: Vec<f32>,
}

/// How long a piece has been going on where music has to be known as such, in seconds.
const TO_KNOW: f64 = 3.0;
/// How often a lesson is made faster or slower, and by how much at the most, as a power of e.
const STRETCHED: f32 = 0.6;
const STRETCH: f32 = 0.13;

impl Lesson {
    /// How many views there are.
    #[must_use]
    pub fn times(&self) -> usize {
        self.views.len() / VIEW
    }

    /// The lesson of a piece, `views` long: mixed, coloured, and played faster or slower as chance has it.
    #[must_use]
    pub fn of(material: &Material, views: usize, lot: &mut Lot) -> Self {
        let faster = if lot.chance(STRETCHED) { (lot.both() * STRETCH).exp() } else { 1.0 };
        let mixer = Mixer::new(lot);
        let mut sight = Sight::default();
        let mut lesson =
            Self { views: Vec::with_capacity(views * VIEW), truth: truth(material, views, f64::from(faster)) };
        for hop in 0..views * HOPS_A_VIEW {
            let bands = mixer.mix(material, hop as f32 * faster, lot);
            if let Some(view) = sight.bands(bands) {
                lesson.views.extend_from_slice(view);
            }
        }
        lesson
    }
}

impl Lesson {
    /// From a view on it is the beginning of another one, as where somebody plays the next piece.
    pub fn go_over(&mut self, at: usize, other: &Self) {
        let at = at.min(self.times());
        let rest = (self.times() - at).min(other.times());
        self.views[at * VIEW..][..rest * VIEW].copy_from_slice(&other.views[..rest * VIEW]);
        self.truth[at * TOLD..][..rest * TOLD].copy_from_slice(&other.truth[..rest * TOLD]);
    }
}

/// The view in which something at a time is told.
fn view_of(time: f64) -> usize {
    ((time + TOLD_LATE) * RATE / (HOP * HOPS_A_VIEW) as f64).ceil() as usize - 1
}

fn truth(material: &Material, views: usize, faster: f64) -> Vec<f32> {
    let mut truth = vec![0.0f32; views * TOLD];
    for &(time, what) in &material.events {
        let (output, beside, late) = match what {
            What::Beat => (0, 0.4, SURE_LATE),
            What::Downbeat => (1, 0.4, SURE_LATE),
            What::Low => (3, 0.15, 0.0),
            What::Mid => (4, 0.15, 0.0),
            What::High => (5, 0.15, 0.0),
            What::Note => (6, 0.15, 0.0),
        };
        let at = view_of(time.max(0.0) / faster + late);
        for (view, value) in [(at.wrapping_sub(1), beside), (at, 1.0), (at + 1, beside)] {
            // Whatever is struck sets in.
            let sets_in = (output > 2).then_some(6);
            for output in [Some(output), sets_in].into_iter().flatten().filter(|_| view < views) {
                let truth = &mut truth[view * TOLD + output];
                *truth = truth.max(value);
            }
        }
    }
    for view in 0..views {
        let time = (view + 1) as f64 * (HOP * HOPS_A_VIEW) as f64 / RATE;
        truth[view * TOLD + 2] = match material.music {
            true if time < TO_KNOW => -1.0,
            true => 1.0,
            false => 0.0,
        };
    }
    truth
}

/// How a lesson is mixed and what becomes of its sound.
struct Mixer {
    /// How loud each stem is in each band.
    levels: [[f32; BANDS_SHOWN]; 2],
    /// How loud noise is in each band, against the loudest of the piece.
    noise: [f32; BANDS_SHOWN],
}

impl Mixer {
    fn new(lot: &mut Lot) -> Self {
        let [drums, music] = [0, 1].map(|_| (lot.bell() * 0.45).exp());
        let (tilt, middle) = (lot.bell() * 0.5, BANDS_SHOWN as f32 / 2.0);
        let bumps = [0, 1].map(|_| [lot.range(0.0, BANDS_SHOWN as f32), lot.bell() * 0.5, lot.range(2.0, 10.0)]);
        let (low, high) = (lot.chance(0.12), lot.chance(0.12));
        let cut = [lot.range(2.0, 12.0), lot.range(2.0, 16.0)];
        let colour = |band: usize| {
            let band = band as f32;
            let bump = |[at, by, wide]: [f32; 3]| by * (-((band - at) / wide).powi(2)).exp();
            let mut power = tilt * (band - middle) / middle + bumps.map(bump).iter().sum::<f32>();
            if low && band < cut[0] {
                power -= 0.5 * (cut[0] - band);
            }
            if high && band > BANDS_SHOWN as f32 - cut[1] {
                power -= 0.5 * (band - BANDS_SHOWN as f32 + cut[1]);
            }
            power.exp()
        };
        let colours: [f32; BANDS_SHOWN] = std::array::from_fn(colour);
        let noise = if lot.chance(0.3) { lot.scale(0.000_5, 0.03) } else { 0.0 };
        let slope = lot.range(-1.0, 1.0);
        Self {
            levels: [drums, music].map(|level| colours.map(|colour| colour * level)),
            noise: std::array::from_fn(|band| noise * (slope * (band as f32 - middle) / middle).exp()),
        }
    }

    /// The bands at a place in the piece, in hops, which may lie between two.
    fn mix(&self, material: &Material, hop: f32, lot: &mut Lot) -> [f32; BANDS_SHOWN] {
        let (before, share) = (hop.floor() as usize, hop.fract());
        let noisy = self.noise[0] > 0.0;
        std::array::from_fn(|band| {
            let mut power = 0.0;
            for (stem, levels) in material.stems.iter().zip(&self.levels) {
                let at = |hop: usize| stem.get(hop * BANDS_SHOWN + band).copied().unwrap_or(0.0);
                let here = at(before) + (at(before + 1) - at(before)) * share;
                power += (here * levels[band]).powi(2);
            }
            if noisy {
                power += (self.noise[band] * material.loudest * lot.range(0.3, 1.7)).powi(2);
            }
            power.sqrt()
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Two bands that sound at each beat of a tempo, and nothing else.
    fn material(beats: usize, seconds_a_beat: f64, music: bool) -> Material {
        let times: Vec<f64> = (0..beats).map(|beat| beat as f64 * seconds_a_beat).collect();
        let hops = (beats as f64 * seconds_a_beat * RATE / HOP as f64) as usize;
        let mut stem = vec![0.0; hops * BANDS_SHOWN];
        for time in &times {
            let hop = (time * RATE / HOP as f64).ceil() as usize;
            stem[hop * BANDS_SHOWN + 5] = 0.5;
            stem[hop * BANDS_SHOWN + 30] = 0.2;
        }
        let events = times.iter().flat_map(|time| [(*time, What::Beat), (*time, What::Low)]).collect();
        Material { stems: vec![stem], loudest: 0.5, events, music }
    }

    fn beats(lesson: &Lesson) -> Vec<usize> {
        let rows = lesson.truth.chunks_exact(TOLD).enumerate();
        rows.filter(|(_, truth)| truth[0] == 1.0).map(|(view, _)| view).collect()
    }

    #[test]
    fn beats_are_told_where_they_are_heard_however_fast_it_is_played() {
        let material = material(40, 0.5, true);
        let mut gaps = Vec::new();
        for seed in 0..12 {
            let lesson = Lesson::of(&material, 300, &mut Lot::new(seed));
            assert_eq!((lesson.times(), lesson.truth.len()), (300, 300 * TOLD));
            let told = beats(&lesson);
            let gap = (told[told.len() - 1] - told[0]) as f64 / (told.len() - 1) as f64;
            gaps.push(gap);
            // The rise of the loud band stands in the views just before those in which its beat is told.
            for beat in &told[1..told.len() - 1] {
                let risen = (beat - 4..*beat).any(|view| lesson.views[view * VIEW + BANDS_SHOWN + 5] > 0.1);
                assert!(risen, "seed {seed}: nothing is heard before view {beat}");
            }
        }
        // Half a second is 23.4 views.
        assert!(gaps.iter().any(|gap| (gap - 23.44).abs() < 0.1), "some are as they were: {gaps:?}");
        assert!(gaps.iter().any(|gap| (gap - 23.44).abs() > 0.8), "some are faster or slower: {gaps:?}");
    }

    #[test]
    fn what_is_struck_sets_in_and_what_is_no_music_is_known_as_such() {
        let music = Lesson::of(&material(20, 0.5, true), 200, &mut Lot::new(3));
        assert!(music.truth.chunks_exact(TOLD).all(|truth| truth[3] == truth[6]), "all that sets in is low");
        let known = |lesson: &Lesson, view: usize| lesson.truth[view * TOLD + 2];
        assert_eq!((known(&music, 5), known(&music, 199)), (-1.0, 1.0));
        let other = Lesson::of(&material(20, 0.5, false), 200, &mut Lot::new(3));
        assert_eq!((known(&other, 5), known(&other, 199)), (0.0, 0.0));
    }

    #[test]
    fn a_lesson_may_go_over_to_the_beginning_of_another() {
        let mut lot = Lot::new(7);
        let [mut one, two] = [0.5, 0.4].map(|beat| Lesson::of(&material(40, beat, true), 200, &mut lot));
        let before = one.clone();
        one.go_over(120, &two);
        assert_eq!(one.views[..120 * VIEW], before.views[..120 * VIEW]);
        assert_eq!(one.views[120 * VIEW..], two.views[..80 * VIEW]);
        assert_eq!(one.truth[120 * TOLD..], two.truth[..80 * TOLD]);
        assert_eq!(one.times(), 200);
    }
}
