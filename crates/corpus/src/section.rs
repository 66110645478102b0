//! What plays from section to section of a piece.

use crate::groove::Voice;
use crate::lot::Lot;
use crate::riff::{ARPEGGIO, BASS, CHORDS};
use crate::style::{Form, Style};

/// What plays in some bars.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Section {
    pub(crate) kind: &'static str,
    pub(crate) bars: usize,
    pub(crate) drums: bool,
    /// Hats only, or all of the drums.
    pub(crate) full: bool,
    pub(crate) parts: [bool; 5],
    /// How loud.
    pub(crate) level: f32,
    /// What rises towards the next one.
    pub(crate) rise: Rise,
}

/// What rises in a build.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(crate) struct Rise {
    /// Rolls of a drum thicken.
    pub(crate) rolls: Option<Voice>,
    /// A hiss becomes louder and brighter.
    pub(crate) hisses: bool,
    /// The low end goes away.
    pub(crate) thins: bool,
}

/// Which parts play in a piece: bass, chords, arpeggio, melody, pad.
pub(crate) fn parts(style: &Style, lot: &mut Lot) -> [bool; 5] {
    let mut mine = style.parts.map(|likely| lot.chance(likely));
    if style.form == Form::Club {
        (mine[BASS], mine[CHORDS]) = (true, true);
    }
    mine
}

/// The same with one that can tell the beat, where drums do not: something has to play, and a melody alone does not tell it.
pub(crate) fn telling(mut mine: [bool; 5], lot: &mut Lot) -> [bool; 5] {
    if ![BASS, CHORDS, ARPEGGIO].iter().any(|part| mine[*part]) {
        mine[if lot.chance(0.5) { CHORDS } else { ARPEGGIO }] = true;
    }
    mine
}
