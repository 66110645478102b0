//! Small recurrent networks that tell beats, first beats of bars and hits from views (gated recurrent units: K. Cho et
//! al., "Learning phrase representations using RNN encoder-decoder", EMNLP 2014; for beats: S. Böck, F. Krebs and G. Widmer,
//! "Joint beat and downbeat tracking with recurrent neural networks", ISMIR 2016). Their weights were found by the trainer of
//! `splimo-corpus` on music that is made by code, and lie in `data`
//! beside this file's crate as numbers. The second ones came first, and were trained on from still earlier ones. The others
//! are larger and began by chance: those of the first are of the sixth of sixteen rounds, since later ones knew the corpus
//! better and other music worse; those of the third and the fourth, where units were left out and parts play riffs, are of
//! the eleventh of twelve and the last of ten, and became better to the end; the fourth went on for eight more on other
//! music, with echoes, filters and swells. The fifth are of the last of fourteen, on music whose parts are written for each
//! other; going on made them know that corpus better and recordings no better. The sixth are of the last of eleven, on more
//! pieces of which more are in three beats or beats of three, by more units: of two threes and three twos it knows most which
//! they are (of 80 pieces in six eight it finds 0.89 of the beats, the five before it together 0.78), and it counts twice. So does
//! the seventh, which began by another chance and learnt from other pieces of the same kinds. A small one learnt nothing but
//! what is music, of speech, noise and the like as much as of music: the others took a voice that talks for music, and its
//! syllables for beats.

use std::sync::{Arc, OnceLock};

use crate::features::VIEW;
use crate::packed::unpacked;
use crate::recurrent::{Layer, dense, logistic};

/// Numbers that the network gives.
pub const TOLD: usize = 7;
/// Which of them tells whether there is a beat.
const BEAT: usize = 0;
/// Which of them tells whether there is music.
pub const MUSIC: usize = 2;
/// Units of the first layer.
pub const ENTRY: usize = 64;
/// More units than a recurrent layer may have.
const MOST_UNITS: usize = 1024;

/// The beginnings of the matrices in the list of weights. A matrix has a row for each input and a column for each output;
/// behind it stand the biases. First comes the matrix from a view to the first layer, at 0.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Shape {
    /// Units of each recurrent layer.
    pub units: usize,
}

impl Shape {
    /// The shape of so many weights; none where there is none of as many.
    #[must_use]
    pub fn of(weights: usize) -> Option<Self> {
        (1..MOST_UNITS).map(|units| Self { units }).find(|shape| shape.weights() == weights)
    }

    /// The gates' numbers of all units: update, reset, new.
    #[must_use]
    pub const fn gates(self) -> usize {
        3 * self.units
    }

    /// The first recurrent layer: from below (and its bias), then from itself (and its bias). Columns: update, reset, new.
    #[must_use]
    pub const fn first(self) -> usize {
        VIEW * ENTRY + ENTRY
    }

    /// The second one.
    #[must_use]
    pub const fn second(self) -> usize {
        self.first() + (ENTRY + 1 + self.units + 1) * self.gates()
    }

    /// To what is told.
    #[must_use]
    pub const fn out(self) -> usize {
        self.second() + 2 * (self.units + 1) * self.gates()
    }

    /// The number of weights.
    #[must_use]
    pub const fn weights(self) -> usize {
        self.out() + self.units * TOLD + TOLD
    }
}

/// The values that the network tells of a view, each 0..1.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Activations {
    /// There is a beat.
    pub beat: f32,
    /// There is the first beat of a bar.
    pub downbeat: f32,
    /// There is music with a beat at all.
    pub music: f32,
    /// Something low was struck.
    pub low: f32,
    /// Something in the middle was struck.
    pub mid: f32,
    /// Something high was struck.
    pub high: f32,
    /// Anything set in.
    pub any: f32,
}

impl Activations {
    /// The mean of what several have told, each with how much it counts. Of beats the mean of the roots counts, so that one
    /// that is sure alone weighs less.
    fn mean(told: impl Iterator<Item = (f32, [f32; TOLD])>) -> Self {
        let mut count = 0.0f32;
        let mut sums = [0.0; TOLD];
        for (counts, mut told) in told {
            told[BEAT] = told[BEAT].sqrt();
            sums.iter_mut().zip(told).for_each(|(sum, told)| *sum += counts * told);
            count += counts;
        }
        sums[BEAT] = sums[BEAT].powi(2) / count.max(1.0);
        let [beat, downbeat, music, low, mid, high, any] = sums.map(|sum| sum / count.max(1.0));
        Self { beat, downbeat, music, low, mid, high, any }
    }
}

/// Several networks, each with weights and a size of its own, whose mean is told: they err in different places (L. K.
/// Hansen and P. Salamon, "Neural network ensembles", IEEE PAMI 12, 1990).
pub struct Network {
    members: Vec<Member>,
    /// The judge of whether there is music: what it does not take for music is none.
    judge: Option<Member>,
}

/// The description that the trainer has written of a network.
struct Written {
    shape: Shape,
    /// As [`packed`](crate::packed) has them.
    packed: &'static [u8],
    /// The weight of what it tells.
    counts: f32,
    /// The numbers, once they are wanted.
    weights: OnceLock<Arc<[f32]>>,
}

/// A network of so many units, counting so much, by its name in `data`. That it is as much as it should be is told when this is compiled.
macro_rules! written {
    ($units:literal, $counts:literal, $name:literal) => {{
        const SHAPE: Shape = Shape { units: $units };
        const LENGTH: usize = include_bytes!(concat!("../data/", $name, ".weights")).len();
        const { assert!(LENGTH == 4 * SHAPE.weights(), "no weights of a network of that size") };
        let packed = include_bytes!(concat!(env!("OUT_DIR"), "/", $name, ".packed"));
        Written { shape: SHAPE, packed, counts: $counts, weights: OnceLock::new() }
    }};
}

static WRITTEN: [Written; 7] = [
    written!(144, 1.0, "network"),
    written!(96, 1.0, "second"),
    written!(144, 1.0, "third"),
    written!(144, 1.0, "fourth"),
    written!(144, 1.0, "fifth"),
    written!(192, 2.0, "sixth"),
    written!(192, 2.0, "seventh"),
];

/// The one that tells what is music.
static JUDGE: Written = written!(64, 1.0, "judge");

impl Default for Network {
    fn default() -> Self {
        Self { members: WRITTEN.iter().map(Member::of_written).collect(), judge: None }.judged()
    }
}

impl Network {
    /// A single one of these weights; none where there is no [`Shape`] of as many.
    #[must_use]
    pub fn of(weights: Vec<f32>) -> Option<Self> {
        Self { members: Vec::new(), judge: None }.with(weights)
    }

    /// With a further one of these weights; none where there is no [`Shape`] of as many.
    #[must_use]
    pub fn with(mut self, weights: Vec<f32>) -> Option<Self> {
        let shape = Shape::of(weights.len())?;
        self.members.push(Member::new(shape, weights.into(), 1.0));
        Some(self)
    }

    /// With the judge that is shipped.
    #[must_use]
    pub fn judged(mut self) -> Self {
        self.judge = Some(Member::of_written(&JUDGE));
        self
    }

    /// The values that they tell of the next view. Allocates nothing.
    pub fn see(&mut self, view: &[f32; VIEW]) -> Activations {
        let told = Activations::mean(self.members.iter_mut().map(|member| (member.counts, member.see(view))));
        match &mut self.judge {
            Some(judge) => Activations { music: told.music * judge.see(view)[MUSIC], ..told },
            None => told,
        }
    }
}

/// One network, with what it remembers.
struct Member {
    shape: Shape,
    /// Those that are shipped are shared by all that listen.
    weights: Arc<[f32]>,
    counts: f32,
    first: Layer,
    second: Layer,
}

impl Member {
    fn new(shape: Shape, weights: Arc<[f32]>, counts: f32) -> Self {
        Self { shape, weights, counts, first: Layer::new(shape.units), second: Layer::new(shape.units) }
    }

    fn of_written(written: &Written) -> Self {
        let Written { shape, packed, counts, weights } = written;
        let weights = weights.get_or_init(|| unpacked(packed, shape.weights()).into());
        Self::new(*shape, weights.clone(), *counts)
    }

    fn see(&mut self, view: &[f32; VIEW]) -> [f32; TOLD] {
        let (shape, weights) = (self.shape, &self.weights);
        let mut entry = [0.0; ENTRY];
        dense(view, weights, &mut entry);
        entry.iter_mut().for_each(|unit| *unit = unit.max(0.1 * *unit));
        self.first.step(&entry, &weights[shape.first()..]);
        self.second.step(self.first.state(), &weights[shape.second()..]);
        let mut told = [0.0; TOLD];
        dense(self.second.state(), &weights[shape.out()..], &mut told);
        told.map(logistic)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_packed_comes_out_to_the_last_bit() {
        let kept: &[u8] = include_bytes!("../data/second.weights");
        let weights = unpacked(WRITTEN[1].packed, WRITTEN[1].shape.weights());
        assert!(weights.iter().flat_map(|weight| weight.to_le_bytes()).eq(kept.iter().copied()));
        assert!(WRITTEN[1].packed.len() < kept.len() * 9 / 10, "{}", WRITTEN[1].packed.len());
    }

    #[test]
    fn what_is_told_is_the_mean_of_what_each_tells() {
        // They need not be of the same size.
        let weights = |units: usize, lean: usize| {
            let count = Shape { units }.weights();
            (0..count).map(|i| ((i * lean) % 17) as f32 / 170.0 - 0.05).collect::<Vec<f32>>()
        };
        let several = [weights(96, 3), weights(40, 5)];
        let [mut one, mut two] = several.clone().map(|weights| Network::of(weights).expect("as many as there are"));
        let [first, second] = several;
        let mut both = Network::of(first).and_then(|one| one.with(second)).expect("as many as there are");
        for time in 0..20 {
            let view = std::array::from_fn(|i| ((i + time) % 7) as f32 / 7.0);
            let [one, two, both] = [&mut one, &mut two, &mut both].map(|network| network.see(&view));
            let root = (one.beat.sqrt() + two.beat.sqrt()) / 2.0;
            assert!((both.beat - root.powi(2)).abs() < 1e-6, "{one:?} {two:?} {both:?}");
            assert!((both.any - (one.any + two.any) / 2.0).abs() < 1e-6);
        }
        assert!(Network::of(vec![0.0; Shape { units: 96 }.weights() - 1]).is_none());
    }

    #[test]
    fn one_that_counts_twice_is_as_good_as_two() {
        let [one, other] = [[0.1, 0.9, 0.2, 0.3, 0.4, 0.5, 0.6], [0.7, 0.2, 0.8, 0.1, 0.9, 0.0, 0.3]];
        let twice = Activations::mean([(1.0, one), (2.0, other)].into_iter());
        let three = Activations::mean([(1.0, one), (1.0, other), (1.0, other)].into_iter());
        assert!((twice.beat - three.beat).abs() < 1e-6 && (twice.any - three.any).abs() < 1e-6, "{twice:?} {three:?}");
        assert!((twice.music - 0.6).abs() < 1e-6, "{twice:?}");
    }

    #[test]
    fn a_judge_only_takes_music_away() {
        let weights: Vec<f32> = (0..Shape { units: 24 }.weights()).map(|i| (i % 13) as f32 / 130.0 - 0.04).collect();
        let mut plain = Network::of(weights.clone()).expect("as many as there are");
        let mut judged = Network::of(weights).expect("as many as there are").judged();
        // A hum that stays as it is: a view without any change.
        for _ in 0..400 {
            let view = [0.1; VIEW];
            let [plain, judged] = [&mut plain, &mut judged].map(|network| network.see(&view));
            assert!(judged.music <= plain.music, "{judged:?} {plain:?}");
            assert_eq!(Activations { music: plain.music, ..judged }, plain);
        }
    }

    #[test]
    fn matrices_lie_behind_one_another() {
        let shape = Shape { units: 5 };
        let layer = |inputs: usize, outputs: usize| inputs * outputs + outputs;
        assert_eq!(shape.first(), layer(VIEW, ENTRY));
        assert_eq!(shape.second(), shape.first() + layer(ENTRY, 15) + layer(5, 15));
        assert_eq!(shape.out(), shape.second() + 2 * layer(5, 15));
        assert_eq!(Shape::of(shape.out() + layer(5, TOLD)), Some(shape));
    }
}
