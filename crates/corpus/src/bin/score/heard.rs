//! What the hearing tells of samples.

use splimo_hear::hits::HIT_AGO;
use splimo_hear::network::Network;
use splimo_hear::onset::ONSET_AGO;
use splimo_hear::strike::Striker;
use splimo_hear::{Ears, HOP, Listener};
use splimo_time::music::{Hearing, Key};

/// What was heard.
pub(crate) struct Heard {
    pub(crate) beats: Vec<f64>,
    pub(crate) downbeats: Vec<f64>,
    /// Onsets of low, middle and high drums, and of anything.
    pub(crate) hits: [Vec<f64>; 3],
    pub(crate) onsets: Vec<f64>,
    /// The same, without being made sure of.
    pub(crate) early: Vec<f64>,
    pub(crate) bpm: f32,
    /// The key at the end, and when the chord changed.
    pub(crate) key: Key,
    pub(crate) chords: Vec<f64>,
    /// Which part it was from when on.
    pub(crate) parts: Vec<(f64, &'static str)>,
}

/// Hears samples with networks of some weights, or with those that are shipped where there are none.
pub(crate) fn hear(samples: &[f32], weights: &[Vec<f32>]) -> Heard {
    let add = |network: Option<Network>, weights: &Vec<f32>| match network {
        Some(network) => network.with(weights.clone()),
        None => Network::of(weights.clone()),
    };
    let network = weights.iter().fold(None, add).unwrap_or_default().judged();
    let mut listener = Listener::with(Ears::default(), network);
    let mut striker = Striker::default();
    let mut heard = Heard {
        beats: vec![],
        downbeats: vec![],
        hits: Default::default(),
        onsets: vec![],
        early: vec![],
        bpm: 0.0,
        key: Key::default(),
        chords: vec![],
        parts: vec![(0.0, last_part(Listener::default().hearing()))],
    };
    let mut last = *listener.hearing();
    for hop in samples.as_chunks::<HOP>().0 {
        listener.listen(hop, |_| {});
        let now = *listener.hearing();
        if let Some(strike) = striker.hop(&now) {
            heard.beats.push(strike.time);
            if strike.first {
                heard.downbeats.push(strike.time);
            }
        }
        for (kind, times) in heard.hits.iter_mut().enumerate() {
            if now.hits[kind] > last.hits[kind] {
                times.push(now.time - HIT_AGO);
            }
        }
        if listener.mark().count > heard.onsets.len() as u64 {
            heard.onsets.push(listener.mark().time);
        }
        if now.onsets > last.onsets {
            heard.early.push(now.time - ONSET_AGO);
        }
        if now.chords > last.chords {
            heard.chords.push(now.time);
        }
        if last_part(&now) != last_part(&last) {
            heard.parts.push((now.time, last_part(&now)));
        }
        if now.tempo_bpm > 0.0 {
            heard.bpm = now.tempo_bpm;
        }
        last = now;
    }
    heard.key = last.key;
    heard
}

fn last_part(hearing: &Hearing) -> &'static str {
    hearing.section.name()
}
