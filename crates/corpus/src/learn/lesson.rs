//! Lessons: what the network is shown, and what it should tell.

use splimo_hear::features::{BANDS_SHOWN, Features, HOPS_A_VIEW, VIEW};
use splimo_hear::network::{MUSIC, TOLD};
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
        let seconds = (views * HOPS_A_VIEW * HOP) as f32 / RATE as f32 * faster;
        let silent = Silent::of(material, seconds, lot);
        let mut mixer = Mixer::new(material.stems.len(), lot);
        let mut features = Features::default();
        let truth = truth(material, &silent, views, f64::from(faster));
        let mut lesson = Self { views: Vec::with_capacity(views * VIEW), truth };
        for hop in 0..views * HOPS_A_VIEW {
            let bands = mixer.mix(material, &silent, hop as f32 * faster, lot);
            if let Some(view) = features.bands(bands) {
                lesson.views.extend_from_slice(view);
            }
        }
        lesson
    }
}

impl Lesson {
    /// Nothing is asked but whether it is music.
    pub fn ask_for_music_only(&mut self) {
        for truth in self.truth.chunks_exact_mut(TOLD) {
            let music = truth[MUSIC];
            truth.fill(-1.0);
            truth[MUSIC] = music;
        }
    }

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

fn truth(material: &Material, silent: &[Silent], views: usize, faster: f64) -> Vec<f32> {
    let mut truth = vec![0.0f32; views * TOLD];
    for &(time, what) in &material.events {
        if silent.iter().any(|silent| silent.hides(time, what)) {
            continue;
        }
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
        truth[view * TOLD + MUSIC] = match material.music {
            true if time < TO_KNOW => -1.0,
            true => 1.0,
            false => 0.0,
        };
    }
    truth
}

/// A stem that is silent for a while, as where somebody takes the drums out.
struct Silent {
    stem: usize,
    /// In seconds of the piece.
    from: f32,
    until: f32,
}

/// How often a stem is silent for a while.
const SILENT: f32 = 0.25;

impl Silent {
    fn of(material: &Material, seconds: f32, lot: &mut Lot) -> Vec<Self> {
        if material.stems.len() < 2 || !lot.chance(SILENT) {
            return Vec::new();
        }
        let from = lot.range(-2.0, seconds * 0.8);
        vec![Self { stem: lot.below(2), from, until: from + lot.scale(1.0, 14.0) }]
    }

    fn at(&self, stem: usize, seconds: f32) -> bool {
        stem == self.stem && (self.from..self.until).contains(&seconds)
    }

    /// Whether one cannot hear what happens then. Beats go on.
    fn hides(&self, time: f64, what: What) -> bool {
        let stem = match what {
            What::Beat | What::Downbeat => return false,
            What::Low | What::Mid | What::High => 0,
            What::Note => 1,
        };
        self.at(stem, time as f32)
    }
}

/// How a lesson is mixed and what becomes of its sound.
struct Mixer {
    /// How loud each stem is in each band.
    levels: [[f32; BANDS_SHOWN]; 2],
    /// How many bands higher or lower each stem sounds.
    shifts: [f32; 2],
    /// How loud noise is in each band, against the loudest of the piece.
    noise: [f32; BANDS_SHOWN],
    /// The power to which loudness is taken: below 1 it is pressed together.
    curve: f32,
    room: Room,
}

/// A room as bands hear it: what was there falls as a power of time (M. R. Schroeder, "Natural sounding artificial
/// reverberation", 1962).
struct Room {
    wet: f32,
    /// What is left of the power from one hop to the next, and what is in the room, for each stem.
    falls: [f32; 2],
    power: [[f32; BANDS_SHOWN]; 2],
}

impl Room {
    fn new(lot: &mut Lot) -> Self {
        let wet = if lot.chance(0.35) { lot.scale(0.02, 0.8) } else { 0.0 };
        let falls = [0, 1].map(|_| {
            let seconds = lot.scale(0.2, 2.5);
            0.1f32.powf(6.0 * HOP as f32 / (seconds * RATE as f32))
        });
        Self { wet, falls, power: [[0.0; BANDS_SHOWN]; 2] }
    }

    /// The power of a band with what is left of earlier ones.
    fn hear(&mut self, stem: usize, band: usize, power: f32) -> f32 {
        let kept = &mut self.power[stem][band];
        let heard = power + *kept * self.wet;
        *kept += (power - *kept) * (1.0 - self.falls[stem]);
        heard
    }
}

impl Mixer {
    fn new(stems: usize, lot: &mut Lot) -> Self {
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
        let shift = if stems > 1 { 1.2 } else { 0.7 };
        Self {
            levels: [drums, music].map(|level| colours.map(|colour| colour * level)),
            shifts: [0, 1].map(|_| if lot.chance(0.6) { lot.bell() * shift } else { 0.0 }),
            noise: std::array::from_fn(|band| noise * (slope * (band as f32 - middle) / middle).exp()),
            curve: if lot.chance(0.4) { lot.range(0.8, 1.2) } else { 1.0 },
            room: Room::new(lot),
        }
    }

    /// The bands at a place in the piece, in hops, which may lie between two.
    fn mix(&mut self, material: &Material, silent: &[Silent], hop: f32, lot: &mut Lot) -> [f32; BANDS_SHOWN] {
        let (before, share) = (hop.floor() as usize, hop.fract());
        let seconds = hop * HOP as f32 / RATE as f32;
        let mut powers = [0.0; BANDS_SHOWN];
        for (index, stem) in material.stems.iter().enumerate() {
            let sounds = !silent.iter().any(|silent| silent.at(index, seconds));
            let row = |hop: usize| stem.get(hop * BANDS_SHOWN..(hop + 1) * BANDS_SHOWN);
            let rows = if sounds { [row(before), row(before + 1)] } else { [None; 2] };
            for (band, power) in powers.iter_mut().enumerate() {
                let [here, next] = rows.map(|row| row.map_or(0.0, |row| shifted(row, band, self.shifts[index])));
                let level = (here + (next - here) * share) * self.levels[index][band];
                *power += self.room.hear(index, band, level * level);
            }
        }
        let noisy = self.noise[0] > 0.0;
        let mut bands = powers;
        for (band, power) in bands.iter_mut().enumerate() {
            if noisy {
                *power += (self.noise[band] * material.loudest * lot.range(0.3, 1.7)).powi(2);
            }
            let level = power.sqrt();
            *power = if self.curve == 1.0 {
                level
            } else {
                material.loudest * (level / material.loudest).max(1e-6).powf(self.curve)
            };
        }
        bands
    }
}

/// What a band has where all sound so many bands higher.
fn shifted(row: &[f32], band: usize, by: f32) -> f32 {
    let from = band as f32 - by;
    if from < 0.0 || by == 0.0 {
        return if by == 0.0 { row[band] } else { row[0] * (1.0 + from).max(0.0) };
    }
    let (whole, share) = (from.floor() as usize, from.fract());
    let at = |band: usize| row.get(band).copied().unwrap_or(0.0);
    at(whole) + (at(whole + 1) - at(whole)) * share
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
    fn where_only_music_is_asked_for_nothing_else_is_known() {
        for music in [true, false] {
            let mut lesson = Lesson::of(&material(40, 0.5, music), 300, &mut Lot::new(4));
            lesson.ask_for_music_only();
            let last = lesson.truth.chunks_exact(TOLD).next_back().expect("some");
            for (output, truth) in last.iter().enumerate() {
                assert_eq!(*truth, if output == MUSIC { f32::from(u8::from(music)) } else { -1.0 });
            }
        }
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
                // It may sound a band or two higher or lower.
                let rises = |view: usize| &lesson.views[view * VIEW + BANDS_SHOWN..][1..10];
                let risen = (beat - 4..*beat).any(|view| rises(view).iter().sum::<f32>() > 0.1);
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
    fn where_the_drums_are_taken_out_their_hits_are_not_asked_for_and_beats_go_on() {
        let mut two = material(60, 0.5, true);
        two.stems.push(vec![0.0; two.stems[0].len()]);
        let silent = [Silent { stem: 0, from: 4.9, until: 10.1 }];
        let told = truth(&two, &silent, 600, 1.0);
        let count = |output: usize| told.chunks_exact(TOLD).filter(|truth| truth[output] == 1.0).count();
        assert_eq!(count(0) - count(3), 11, "from 5 s to 10 s there are eleven");
        let mut mixer = Mixer::new(2, &mut Lot::new(1));
        let mut loudest = |seconds: f32| {
            let hop = (f64::from(seconds) * RATE / HOP as f64).ceil() as f32;
            mixer.mix(&two, &silent, hop, &mut Lot::new(2)).into_iter().fold(0.0, f32::max)
        };
        let [sounds, is_out] = [4.5, 7.0].map(&mut loudest);
        assert!(sounds > 5.0 * is_out, "{sounds} {is_out}");
    }

    #[test]
    fn a_room_holds_what_sounded_and_what_is_shifted_moves_up() {
        let mut room = Room { wet: 0.5, falls: [0.9; 2], power: [[0.0; BANDS_SHOWN]; 2] };
        let after: Vec<f32> = (0..20).map(|hop| room.hear(0, 3, if hop == 0 { 1.0 } else { 0.0 })).collect();
        assert_eq!(after[0], 1.0);
        assert!((after[1] - 0.05).abs() < 1e-6 && (after[2] / after[1] - 0.9).abs() < 1e-5, "{after:?}");
        let mut row = [0.0; BANDS_SHOWN];
        row[10] = 1.0;
        let moved: Vec<f32> = (9..14).map(|band| shifted(&row, band, 1.5)).collect();
        assert_eq!(moved, [0.0, 0.0, 0.5, 0.5, 0.0]);
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
