//! Instruments from a bank of sampled ones (SoundFont 2.04), with the programs and the drum keys of General MIDI Level 1.
//! No bank is shipped; the trainer is told where one lies.

use std::io;
use std::path::Path;
use std::sync::Arc;

use rustysynth::{SoundFont, Synthesizer, SynthesizerSettings};

use crate::RATE;
use crate::groove::Voice;
use crate::lot::Lot;
use crate::sound::Mix;

/// A bank of instruments, and further kits of drums.
#[derive(Clone)]
pub struct Bank {
    font: Arc<SoundFont>,
    kits: Vec<Arc<SoundFont>>,
}

/// A note as it is written down.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Note {
    /// When it sets in, in seconds.
    pub(crate) time: f64,
    /// How long it is held, in seconds.
    pub(crate) length: f64,
    /// The key: 60 is middle C.
    pub(crate) key: u8,
    /// How hard, 0..1.
    pub(crate) level: f32,
}

/// An instrument of a bank, and what it has to play.
pub(crate) struct Player {
    program: u8,
    drums: bool,
    /// Which of the further kits it is, if it is one.
    kit: Option<usize>,
    pub(crate) notes: Vec<Note>,
}

/// The channel on which drums are, counted from 0.
const DRUMS: i32 = 9;
/// How often drums of a bank are of one of its further kits, if there are any.
const FURTHER: f32 = 0.4;
const KITS: [u8; 7] = [0, 0, 8, 16, 24, 25, 32];

impl Bank {
    /// Reads a bank.
    ///
    /// # Errors
    /// That of the system, or what is wrong with the file.
    pub fn open(path: &Path) -> io::Result<Self> {
        let mut file = io::BufReader::new(std::fs::File::open(path)?);
        let font = SoundFont::new(&mut file).map_err(|error| io::Error::new(io::ErrorKind::InvalidData, error))?;
        Ok(Self { font: Arc::new(font), kits: Vec::new() })
    }

    /// Reads banks whose paths stand in a text, with commas between.
    ///
    /// # Errors
    /// That of the first one that cannot be read.
    pub fn open_all(paths: &str) -> io::Result<Vec<Self>> {
        paths.split(',').filter(|path| !path.is_empty()).map(|path| Self::open(Path::new(path))).collect()
    }

    /// The bank with the kits that others of a single instrument are.
    #[must_use]
    pub fn with_kits(mut self, kits: &[Self]) -> Self {
        self.kits.extend(kits.iter().map(|kit| kit.font.clone()));
        self
    }

    /// What a player has to play, in as many samples, the loudest of which is 1.
    pub(crate) fn perform(&self, player: &Player, samples: usize) -> Mix {
        let mut settings = SynthesizerSettings::new(RATE as i32);
        settings.enable_reverb_and_chorus = false;
        let kit = player.kit.and_then(|kit| self.kits.get(kit));
        let Ok(mut synthesizer) = Synthesizer::new(kit.unwrap_or(&self.font), &settings) else {
            return vec![0.0; samples];
        };
        let channel = if player.drums && kit.is_none() { DRUMS } else { 0 };
        synthesizer.process_midi_message(channel, 0xc0, i32::from(player.program), 0);
        let (mut left, mut right) = (vec![0.0; samples], vec![0.0; samples]);
        let mut gone = 0;
        for (at, key, velocity) in events(&player.notes, samples) {
            synthesizer.render(&mut left[gone..at], &mut right[gone..at]);
            gone = at;
            match velocity {
                0 => synthesizer.note_off(channel, key),
                velocity => synthesizer.note_on(channel, key, velocity),
            }
        }
        synthesizer.render(&mut left[gone..], &mut right[gone..]);
        left.iter_mut().zip(&right).for_each(|(l, r)| *l += r);
        let most = left.iter().fold(1e-6f32, |most, sample| most.max(sample.abs()));
        left.iter_mut().for_each(|sample| *sample /= most);
        left
    }
}

/// When which key goes down, and how hard, or up, in order.
fn events(notes: &[Note], samples: usize) -> Vec<(usize, i32, i32)> {
    let at = |time: f64| ((time.max(0.0) * RATE) as usize).min(samples);
    let mut events: Vec<_> = notes
        .iter()
        .flat_map(|note| {
            // A synthesizer of this kind is as loud as the square of how hard.
            let velocity = (127.0 * note.level.clamp(0.0, 1.0).sqrt()).clamp(12.0, 127.0) as i32;
            let key = i32::from(note.key);
            [(at(note.time), key, velocity), (at(note.time + note.length), key, 0)]
        })
        .collect();
    events.sort_by_key(|(at, _, velocity)| (*at, *velocity));
    events
}

impl Player {
    pub(crate) fn bass(lot: &mut Lot) -> Self {
        Self::of(lot.pick(&[32, 33, 33, 34, 35, 36, 37, 38, 39, 43, 58]))
    }

    /// Struck, plucked, or sudden.
    pub(crate) fn struck(lot: &mut Lot) -> Self {
        let few = [0, 1, 2, 4, 5, 6, 7, 11, 12, 13, 16, 18, 21, 24, 25, 26, 27, 28, 29, 30, 45, 46, 61, 62, 80, 81, 84];
        Self::of(lot.pick(&few))
    }

    /// Blown, bowed or sung.
    pub(crate) fn melody(lot: &mut Lot) -> Self {
        Self::of(lot.pick(&[22, 40, 41, 42, 52, 53, 56, 57, 60, 64, 65, 66, 68, 71, 73, 75, 80, 81, 85]))
    }

    pub(crate) fn pad(lot: &mut Lot) -> Self {
        Self::of(lot.pick(&[16, 17, 19, 48, 49, 50, 51, 52, 53, 54, 88, 89, 90, 91, 92, 94, 95]))
    }

    /// Drums of a bank, which may be of one of its further kits.
    pub(crate) fn drums(bank: &Bank, lot: &mut Lot) -> Self {
        let further = !bank.kits.is_empty() && lot.chance(FURTHER);
        let kit = further.then(|| lot.below(bank.kits.len()));
        let program = if further { 0 } else { lot.pick(&KITS) };
        Self { drums: true, kit, ..Self::of(program) }
    }

    fn of(program: u8) -> Self {
        Self { program, drums: false, kit: None, notes: Vec::new() }
    }

    /// Whether one hears at once that a note sets in.
    pub(crate) fn is_sudden(&self) -> bool {
        !matches!(self.program, 16..=23 | 40..=44 | 48..=54 | 56..=79 | 88..=95)
    }
}

/// Keys of a kit for each drum: the families of the General MIDI percussion map.
pub(crate) fn keys(lot: &mut Lot) -> [u8; 6] {
    let mut keys = [0; 6];
    for (voice, few) in [
        (Voice::Kick, &[35, 36, 36][..]),
        (Voice::Snare, &[38, 38, 40, 40, 39]),
        (Voice::Hat, &[42, 42, 42, 44, 54, 69, 70, 82]),
        (Voice::Ring, &[46, 46, 51, 49, 59, 57]),
        (Voice::Tom, &[41, 43, 45, 47, 48, 50, 61, 64, 66]),
        (Voice::Rim, &[37, 37, 56, 75, 76, 77, 60, 62, 63]),
    ] {
        keys[voice as usize] = lot.pick(few);
    }
    keys
}

/// The key nearest to a pitch in hertz, A above middle C being 440.
pub(crate) fn key_of(hz: f32) -> u8 {
    (69.0 + 12.0 * (hz / 440.0).log2()).round().clamp(12.0, 115.0) as u8
}
