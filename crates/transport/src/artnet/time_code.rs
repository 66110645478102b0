//! `ArtTimeCode`: time code over the network (Art-Net 4, "ArtTimeCode packet definition").
//!
//! | bytes | field | |
//! |---|---|---|
//! | 0..8 | ID | `Art-Net\0` |
//! | 8..10 | OpCode | 0x9700, low byte first |
//! | 10..12 | ProtVer | 14, high byte first |
//! | 12 | filler | 0 |
//! | 13 | StreamId | 0 for the main stream |
//! | 14 | Frames | 0..29, depending on the type |
//! | 15 | Seconds | 0..59 |
//! | 16 | Minutes | 0..59 |
//! | 17 | Hours | 0..23 |
//! | 18 | Type | 0 film (24), 1 EBU (25), 2 DF (29.97), 3 SMPTE (30) |

use serde::{Deserialize, Serialize};

use super::{check, check_version, emit_head_with_version};
use crate::Error;

/// The code of this packet.
pub const OP_TIME_CODE: u16 = 0x9700;
/// The length of the packet.
pub const LENGTH: usize = 19;

mod field {
    pub(super) const STREAM: usize = 13;
    pub(super) const FRAMES: usize = 14;
    pub(super) const SECONDS: usize = 15;
    pub(super) const MINUTES: usize = 16;
    pub(super) const HOURS: usize = 17;
    pub(super) const KIND: usize = 18;
}

/// The way frames are counted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub enum CountingKind {
    /// 24 a second.
    Film,
    /// 25 a second.
    Ebu,
    /// 30000/1001 a second; frames 0 and 1 are left out at each minute but every tenth.
    Drop,
    /// 30 a second.
    Smpte,
}

impl CountingKind {
    /// Every kind, in the order of their codes.
    pub const ALL: [Self; 4] = [Self::Film, Self::Ebu, Self::Drop, Self::Smpte];

    /// Frames that are counted in a second.
    #[must_use]
    pub fn frames(self) -> u8 {
        match self {
            Self::Film => 24,
            Self::Ebu => 25,
            Self::Drop | Self::Smpte => 30,
        }
    }
}

/// An `ArtTimeCode` packet by its meaning.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct Repr {
    /// The stream; 0 is the main one.
    pub stream: u8,
    /// Hours, 0..23.
    pub hours: u8,
    /// Minutes, 0..59.
    pub minutes: u8,
    /// Seconds, 0..59.
    pub seconds: u8,
    /// Frames, below what the kind counts.
    pub frames: u8,
    /// The way frames are counted.
    pub kind: CountingKind,
}

impl Repr {
    /// Reads a packet.
    ///
    /// # Errors
    /// [`Error::NotThis`], [`Error::Truncated`], or [`Error::Field`] for what is out of range.
    pub fn parse(bytes: &[u8]) -> Result<Self, Error> {
        check(bytes, OP_TIME_CODE, LENGTH)?;
        check_version(bytes)?;
        let kind = *CountingKind::ALL.get(usize::from(bytes[field::KIND])).ok_or(Error::Field("Type"))?;
        let below = |at: usize, end: u8, name| if bytes[at] < end { Ok(bytes[at]) } else { Err(Error::Field(name)) };
        Ok(Self {
            stream: bytes[field::STREAM],
            hours: below(field::HOURS, 24, "Hours")?,
            minutes: below(field::MINUTES, 60, "Minutes")?,
            seconds: below(field::SECONDS, 60, "Seconds")?,
            frames: below(field::FRAMES, kind.frames(), "Frames")?,
            kind,
        })
    }

    /// The packet.
    #[must_use]
    pub fn emit(&self) -> [u8; LENGTH] {
        let mut bytes = [0; LENGTH];
        emit_head_with_version(&mut bytes, OP_TIME_CODE);
        bytes[field::STREAM] = self.stream;
        bytes[field::FRAMES] = self.frames;
        bytes[field::SECONDS] = self.seconds;
        bytes[field::MINUTES] = self.minutes;
        bytes[field::HOURS] = self.hours;
        bytes[field::KIND] = CountingKind::ALL.iter().position(|k| *k == self.kind).unwrap_or(0) as u8;
        bytes
    }

    /// The time code of a time since it was zero, in seconds; it begins anew after 24 hours.
    #[must_use]
    pub fn at(seconds: f64, kind: CountingKind) -> Self {
        let count = match kind {
            CountingKind::Drop => with_dropped((seconds.max(0.0) * 30_000.0 / 1001.0 + 1e-6) as u64),
            _ => (seconds.max(0.0) * f64::from(kind.frames()) + 1e-6) as u64,
        };
        let a_second = u64::from(kind.frames());
        let (frames, whole) = (count % a_second, count / a_second);
        Self {
            stream: 0,
            hours: (whole / 3600 % 24) as u8,
            minutes: (whole / 60 % 60) as u8,
            seconds: (whole % 60) as u8,
            frames: frames as u8,
            kind,
        }
    }

    /// The time since it was zero, in seconds.
    #[must_use]
    pub fn seconds_since_zero(&self) -> f64 {
        let minutes = u64::from(self.hours) * 60 + u64::from(self.minutes);
        let count = (minutes * 60 + u64::from(self.seconds)) * u64::from(self.kind.frames()) + u64::from(self.frames);
        match self.kind {
            CountingKind::Drop => (count - 2 * (minutes - minutes / 10)) as f64 * 1001.0 / 30_000.0,
            kind => count as f64 / f64::from(kind.frames()),
        }
    }
}

/// The number that a frame has where two are left out at each minute but every tenth (SMPTE ST 12-1, 5.2.2).
fn with_dropped(frame: u64) -> u64 {
    const TEN_MINUTES: u64 = 17_982;
    const MINUTE: u64 = 1798;
    let (tens, rest) = (frame / TEN_MINUTES, frame % TEN_MINUTES);
    frame + 18 * tens + if rest < 2 { 0 } else { 2 * ((rest - 2) / MINUTE) }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn emits_the_bytes_of_the_table() {
        let repr = Repr { stream: 3, hours: 23, minutes: 59, seconds: 58, frames: 24, kind: CountingKind::Ebu };
        let wanted = [
            b'A', b'r', b't', b'-', b'N', b'e', b't', 0x00, 0x00, 0x97, 0x00, 0x0e, // ID, OpCode, ProtVer
            0x00, 0x03, 24, 58, 59, 23, 0x01, // filler, StreamId, Frames, Seconds, Minutes, Hours, Type
        ];
        assert_eq!((repr.emit(), Repr::parse(&wanted)), (wanted, Ok(repr)));
        for length in 0..LENGTH {
            assert_eq!(Repr::parse(&wanted[..length]), Err(Error::Truncated), "{length} bytes");
        }
    }

    #[test]
    fn what_is_out_of_range_is_named() {
        let good = Repr::at(0.0, CountingKind::Film).emit();
        for (at, value, name) in
            [(14, 24, "Frames"), (15, 60, "Seconds"), (16, 60, "Minutes"), (17, 24, "Hours"), (18, 4, "Type")]
        {
            let mut bytes = good;
            bytes[at] = value;
            assert_eq!(Repr::parse(&bytes), Err(Error::Field(name)));
        }
    }

    #[test]
    fn two_numbers_are_left_out_at_each_minute_but_the_tenth() {
        let at = |frame: u64| {
            let t = Repr::at(frame as f64 * 1001.0 / 30_000.0, CountingKind::Drop);
            (t.minutes, t.seconds, t.frames)
        };
        assert_eq!((at(1799), at(1800)), ((0, 59, 29), (1, 0, 2)));
        assert_eq!((at(17_981), at(17_982)), ((9, 59, 29), (10, 0, 0)));
    }

    proptest! {
        #[test]
        fn time_codes_round_trip(seconds in 0u32..86_300, frame in 0u8..24, kind in 0usize..4) {
            let time = Repr::at(f64::from(seconds) + f64::from(frame) / 24.0, CountingKind::ALL[kind]);
            prop_assert_eq!(Repr::parse(&time.emit()), Ok(time));
            prop_assert_eq!(Repr::at(time.seconds_since_zero(), time.kind), time);
        }
    }
}
