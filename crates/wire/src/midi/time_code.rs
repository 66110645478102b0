//! MIDI time code (MMA 0001, "MIDI Time Code"): a time in eight quarter frames, each of which has a piece of it, or in one full frame.
//!
//! | piece | nibble |
//! |---|---|
//! | 0, 1 | frames, the low and the high one |
//! | 2, 3 | seconds |
//! | 4, 5 | minutes |
//! | 6, 7 | hours; bits 1 and 2 of piece 7 are the kind: 24, 25, 30 drop, 30 |
//!
//! Forward the pieces come from 0 to 7, backward from 7 to 0. Eight of them take two frames: once all are there, the time that they say is
//! two frames ago.

/// Frames a second of the four kinds; the third leaves numbers out.
const RATES: [f64; 4] = [24.0, 25.0, 29.97, 30.0];

/// Puts the pieces of a time together.
#[derive(Debug, Clone, Default)]
pub struct TimeReader {
    pieces: [u8; 8],
    /// The piece that comes next, and how many came one after the other; below zero where they come backward.
    next: i8,
    run: i8,
}

impl TimeReader {
    /// Takes a quarter frame; the time in seconds as it is now, with every piece that completes one. Each of the others lies a
    /// quarter of a frame later.
    pub fn quarter(&mut self, data: u8) -> Option<f64> {
        let piece = (data >> 4 & 7) as i8;
        let forward = self.run > 0 && piece == self.next;
        let backward = self.run < 0 && piece == self.next;
        self.pieces[piece as usize] = data & 0x0f;
        match (forward, backward) {
            (true, _) => self.run = (self.run + 1).min(9),
            (_, true) => self.run = (self.run - 1).max(-9),
            _ => self.run = if piece == 7 { -1 } else { 1 },
        }
        // At either end it may turn round.
        let before = piece;
        self.next = if self.run > 0 { (piece + 1) & 7 } else { (piece - 1) & 7 };
        match (self.run, before) {
            (8.., 7) => self.time().map(|(time, rate)| time + 2.0 / rate),
            (..=-8, 0) => self.time().map(|(time, rate)| time - 2.0 / rate),
            _ => None,
        }
    }

    /// A whole frame: the time in seconds.
    #[must_use]
    pub fn full(bytes: [u8; 4]) -> Option<f64> {
        let [hours, minutes, seconds, frames] = bytes;
        seconds_of(hours & 0x1f, minutes, seconds, frames, hours >> 5 & 3).map(|(time, _)| time)
    }

    fn time(&self) -> Option<(f64, f64)> {
        let whole = |low: usize| self.pieces[low] | self.pieces[low + 1] << 4;
        seconds_of(whole(6) & 0x1f, whole(4), whole(2), whole(0), self.pieces[7] >> 1 & 3)
    }
}

fn seconds_of(hours: u8, minutes: u8, seconds: u8, frames: u8, kind: u8) -> Option<(f64, f64)> {
    let rate = RATES[usize::from(kind & 3)];
    let can_be = hours < 24 && minutes < 60 && seconds < 60 && f64::from(frames) < rate.ceil();
    let whole = f64::from(hours) * 3600.0 + f64::from(minutes) * 60.0 + f64::from(seconds);
    can_be.then(|| (whole + f64::from(frames) / rate, rate))
}

/// The data of a piece, 0..7, of a time at 25 frames a second.
#[must_use]
pub fn quarter_of(seconds: f64, piece: u8) -> u8 {
    let frames = (seconds.max(0.0) * 25.0).floor() as u64;
    let (f, s, m, h) = (frames % 25, frames / 25 % 60, frames / 1500 % 60, frames / 90_000 % 24);
    let nibble = match piece & 7 {
        0 => f & 15,
        1 => f >> 4,
        2 => s & 15,
        3 => s >> 4,
        4 => m & 15,
        5 => m >> 4,
        6 => h & 15,
        _ => h >> 4 | 1 << 1,
    };
    (piece & 7) << 4 | nibble as u8
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn eight_quarters_are_a_time_forward_and_backward() {
        let mut reader = TimeReader::default();
        let pieces = |time: f64| (0..8).map(move |piece| quarter_of(time, piece));
        let forward: Vec<f64> = pieces(3723.2).chain(pieces(3723.28)).filter_map(|data| reader.quarter(data)).collect();
        assert!((forward[0] - 3723.28).abs() < 0.001 && (forward[1] - 3723.36).abs() < 0.001, "{forward:?}");
        let back: Vec<u8> = pieces(100.0).collect::<Vec<u8>>().into_iter().rev().collect();
        let told: Vec<f64> = back.iter().filter_map(|data| reader.quarter(*data)).collect();
        assert_eq!(told.len(), 1);
        assert!((told[0] - 99.92).abs() < 0.001, "{told:?}");
    }

    #[test]
    fn a_piece_that_is_missing_is_no_time_until_all_are_there_again() {
        let mut reader = TimeReader::default();
        let with_gap = (0..8).filter(|piece| *piece != 3).map(|piece| quarter_of(10.0, piece));
        assert_eq!(with_gap.filter_map(|data| reader.quarter(data)).count(), 0);
        let whole = (0..8).map(|piece| quarter_of(10.08, piece));
        assert_eq!(whole.filter_map(|data| reader.quarter(data)).count(), 1);
    }

    #[test]
    fn a_full_frame_is_a_time_and_what_cannot_be_is_none() {
        assert_eq!(TimeReader::full([0x20 | 1, 2, 3, 5]), Some(3600.0 + 123.0 + 0.2));
        assert_eq!(TimeReader::full([0x20 | 1, 60, 3, 5]), None);
        assert_eq!(TimeReader::full([0x20 | 1, 2, 3, 25]), None);
    }

    proptest! {
        #[test]
        fn any_quarters_are_taken(data in proptest::collection::vec(any::<u8>(), 0..100)) {
            let mut reader = TimeReader::default();
            for byte in data {
                if let Some(time) = reader.quarter(byte) {
                    prop_assert!((-1.0..90_000.0).contains(&time));
                }
            }
        }
    }
}
