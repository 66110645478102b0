//! Linear time code (SMPTE ST 12-1, "Linear time code"): eighty bits a frame as sound, in which every bit begins with a change of sign and
//! a one has another in its middle. It is read at any speed from a third to three times, and backward.
//!
//! | bits | field | |
//! |---|---|---|
//! | 0..3, 8..9 | frames | units and tens, low bit first |
//! | 10 | drop frame | numbers are left out, at 29.97 frames a second |
//! | 16..19, 24..26 | seconds | |
//! | 32..35, 40..42 | minutes | |
//! | 48..51, 56..57 | hours | |
//! | 64..79 | sync word | 0011 1111 1111 1101 |
//!
//! The other bits are for users and flags, and are passed over.

/// The bits of a frame.
const BITS: u32 = 80;
/// The sync word, the first bit lowest.
const SYNC: u128 = 0xbffc;
/// The sync word as it comes backward.
const SYNC_BACK: u128 = 0x3ffd;
/// The bits of a frame as a mask.
const FRAME: u128 = (1 << BITS) - 1;
/// Intervals that are looked at to find out how long a bit is.
const LOOKED_AT: usize = 64;
/// The share of the way to another length that one interval moves the length of a bit.
const FOLLOWS: f32 = 0.06;
/// The share of the height of the sound that it has to cross for a change of sign: noise does not.
const CROSSES: f32 = 0.2;
/// The share of the height that is forgotten with each sample.
const FORGETS: f32 = 0.9995;

/// A frame that was read.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Frame {
    /// Hours, minutes, seconds and frames.
    pub time: [u8; 4],
    /// True if frame numbers are left out (29.97 a second).
    pub drop: bool,
    /// True if it came backward.
    pub backward: bool,
    /// The samples that it took.
    pub samples: f32,
    /// The place of its last sample in what was given, from 0.
    pub ends: usize,
}

impl Frame {
    /// Its time in seconds, where a second has so many frames.
    #[must_use]
    pub fn seconds(&self, rate: u8) -> f64 {
        let [hours, minutes, seconds, frames] = self.time.map(f64::from);
        let whole = hours * 3600.0 + minutes * 60.0 + seconds;
        if !self.drop {
            return whole + frames / f64::from(rate.max(1));
        }
        // Two numbers are left out each minute but every tenth (ST 12-1, "Drop frame").
        let all_minutes = hours * 60.0 + minutes;
        let left_out = 2.0 * (all_minutes - (all_minutes / 10.0).floor());
        (whole * 30.0 + frames - left_out) * 1001.0 / 30_000.0
    }
}

/// Reads time code out of samples.
#[derive(Debug, Clone)]
pub struct Reader {
    /// The sign of the sound, and its height of late.
    high: bool,
    height: f32,
    /// Samples since the sign changed last.
    since: f32,
    /// The length of a bit in samples, once that is known.
    bit: Option<f32>,
    intervals: Vec<f32>,
    odd: u32,
    /// True if the first half of a one has come.
    half: bool,
    bits: u128,
    count: u32,
    /// Samples since the last frame.
    length: f32,
    /// Frames whose numbers could not be, or that were damaged.
    pub malformed: u64,
    /// Frames a second: what the numbers go up to.
    rate: u8,
    last: Option<[u8; 4]>,
}

impl Default for Reader {
    fn default() -> Self {
        Self {
            high: false,
            height: 0.0,
            since: 0.0,
            bit: None,
            intervals: Vec::with_capacity(LOOKED_AT),
            odd: 0,
            half: false,
            bits: 0,
            count: 0,
            length: 0.0,
            malformed: 0,
            rate: 25,
            last: None,
        }
    }
}

impl Reader {
    /// Frames a second, as far as the numbers have told: 24, 25 or 30.
    #[must_use]
    pub fn rate(&self) -> u8 {
        self.rate
    }

    /// Takes samples, and hands on each frame that ends in them.
    pub fn take(&mut self, samples: &[f32], mut read: impl FnMut(Frame)) {
        for (place, &sample) in samples.iter().enumerate() {
            let sample = if sample.is_finite() { sample.clamp(-8.0, 8.0) } else { 0.0 };
            self.height = (self.height * FORGETS).max(sample.abs());
            self.since += 1.0;
            self.length += 1.0;
            let level = if self.high { -self.height * CROSSES } else { self.height * CROSSES };
            let crosses = self.height > 1e-4 && if self.high { sample < level } else { sample > level };
            if crosses {
                self.high = !self.high;
                let interval = std::mem::take(&mut self.since);
                if let Some(bit) = self.interval(interval)
                    && let Some(frame) = self.push(bit, place)
                {
                    read(frame);
                }
            }
        }
    }

    /// Takes the time between two changes of sign; a bit, if one ends with it.
    fn interval(&mut self, samples: f32) -> Option<bool> {
        if self.intervals.len() == LOOKED_AT {
            self.intervals.remove(0);
        }
        self.intervals.push(samples);
        let Some(bit) = self.bit else {
            self.find_length();
            return None;
        };
        let share = samples / bit;
        match share {
            0.3..0.75 => {
                self.odd = 0;
                self.bit = Some(bit + (2.0 * samples - bit) * FOLLOWS);
                if std::mem::replace(&mut self.half, true) {
                    self.half = false;
                    return Some(true);
                }
                None
            }
            0.75..1.5 => {
                self.bit = Some(bit + (samples - bit) * FOLLOWS);
                // Half a one before a nought: something was missed, and the bits begin anew.
                if std::mem::take(&mut self.half) {
                    self.lose();
                }
                self.odd = 0;
                Some(false)
            }
            _ => {
                self.lose();
                self.odd += 1;
                if self.odd > 8 {
                    self.bit = None;
                    self.odd = 0;
                }
                None
            }
        }
    }

    /// Finds out how long a bit is: the longer of the two lengths that there are.
    fn find_length(&mut self) {
        if self.intervals.len() < LOOKED_AT / 2 {
            return;
        }
        let mut sorted = self.intervals.clone();
        sorted.sort_by(f32::total_cmp);
        let long = sorted[sorted.len() * 9 / 10];
        let longs: Vec<f32> =
            sorted.into_iter().filter(|length| *length > long * 0.75 && *length < long * 1.3).collect();
        self.bit = Some(longs.iter().sum::<f32>() / longs.len().max(1) as f32).filter(|bit| *bit >= 3.0);
        self.half = false;
        self.lose();
    }

    fn lose(&mut self) {
        self.count = 0;
        self.half = false;
    }

    fn push(&mut self, bit: bool, ends: usize) -> Option<Frame> {
        self.bits = (self.bits >> 1 | u128::from(bit) << (BITS - 1)) & FRAME;
        self.count = (self.count + 1).min(BITS);
        if self.count < BITS {
            return None;
        }
        let forward = self.bits >> 64 == SYNC;
        let backward = self.bits & 0xffff == SYNC_BACK;
        if !forward && !backward {
            return None;
        }
        let bits = if forward { self.bits } else { self.bits.reverse_bits() >> (128 - BITS) };
        let samples = std::mem::take(&mut self.length);
        self.count = 0;
        match fields(bits) {
            Some((time, drop)) => {
                self.learn_rate(time, drop, !forward);
                Some(Frame { time, drop, backward: !forward, samples, ends })
            }
            None => {
                self.malformed += 1;
                None
            }
        }
    }

    /// Finds out how many frames a second has, where one follows the last of another.
    fn learn_rate(&mut self, time: [u8; 4], drop: bool, backward: bool) {
        let before = self.last.replace(time);
        if drop {
            self.rate = 30;
            return;
        }
        let Some(before) = before else { return };
        let (first, second) = if backward { (time, before) } else { (before, time) };
        if second[3] == 0 && first[3] >= 23 && first[2] != second[2] {
            self.rate = (first[3] + 1).clamp(24, 30);
        } else if time[3] >= self.rate {
            self.rate = if time[3] < 25 { 25 } else { 30 };
        }
    }
}

/// The numbers of a frame, and whether some are left out; none where they cannot be.
fn fields(bits: u128) -> Option<([u8; 4], bool)> {
    let part = |from: u32, width: u32| (bits >> from) as u8 & ((1 << width) - 1);
    let number = |units: u32, tens: u32, width: u32| {
        let units = part(units, 4);
        (units < 10).then(|| part(tens, width) * 10 + units)
    };
    let time = [number(48, 56, 2)?, number(32, 40, 3)?, number(16, 24, 3)?, number(0, 8, 2)?];
    let [hours, minutes, seconds, frames] = time;
    (hours < 24 && minutes < 60 && seconds < 60 && frames < 30).then_some((time, part(10, 1) == 1))
}

/// The bits of a frame, the first lowest.
#[must_use]
pub fn bits_of([hours, minutes, seconds, frames]: [u8; 4], drop: bool) -> u128 {
    let put = |value: u8, from: u32| u128::from(value) << from;
    put(frames % 10, 0)
        | put(frames / 10, 8)
        | put(u8::from(drop), 10)
        | put(seconds % 10, 16)
        | put(seconds / 10, 24)
        | put(minutes % 10, 32)
        | put(minutes / 10, 40)
        | put(hours % 10, 48)
        | put(hours / 10, 56)
        | SYNC << 64
}

/// Writes time code as samples.
#[derive(Debug, Clone, Default)]
pub struct Writer {
    high: bool,
    /// The part of a sample that is left over.
    over: f64,
}

impl Writer {
    /// Adds the samples of a frame in which a bit takes so many, which need not be a whole number.
    pub fn frame(&mut self, bits: u128, a_bit: f64, backward: bool, samples: &mut Vec<f32>) {
        for place in 0..BITS {
            let place = if backward { BITS - 1 - place } else { place };
            let one = bits >> place & 1 == 1;
            self.high = !self.high;
            self.hold(a_bit / 2.0, samples);
            if one {
                self.high = !self.high;
            }
            self.hold(a_bit / 2.0, samples);
        }
    }

    fn hold(&mut self, length: f64, samples: &mut Vec<f32>) {
        self.over += length;
        while self.over >= 1.0 {
            self.over -= 1.0;
            samples.push(if self.high { 0.5 } else { -0.5 });
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const RATE: f64 = 48_000.0;

    fn time_of(count: u32, rate: u32) -> [u8; 4] {
        let seconds = count / rate;
        [(seconds / 3600) as u8, (seconds / 60 % 60) as u8, (seconds % 60) as u8, (count % rate) as u8]
    }

    /// Frames from a count on, at a rate and a speed; noise of some height lies over them.
    fn sound(from: u32, count: u32, rate: u32, speed: f64, backward: bool, noise: f32) -> Vec<f32> {
        let (mut writer, mut samples, mut random) = (Writer::default(), Vec::new(), 1u32);
        for n in 0..count {
            let number = if backward { from - n } else { from + n };
            writer.frame(
                bits_of(time_of(number, rate), false),
                RATE / f64::from(rate) / 80.0 / speed,
                backward,
                &mut samples,
            );
        }
        for sample in &mut samples {
            random = random.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            *sample += ((random >> 8) as f32 / 8_388_608.0 - 1.0) * noise;
        }
        samples
    }

    fn read(samples: &[f32]) -> (Vec<Frame>, Reader) {
        let (mut reader, mut frames) = (Reader::default(), Vec::new());
        samples.chunks(480).for_each(|piece| reader.take(piece, |frame| frames.push(frame)));
        (frames, reader)
    }

    #[test]
    fn every_rate_is_read_at_half_to_double_speed_in_both_directions() {
        for rate in [24u32, 25, 30] {
            for speed in [0.5, 0.77, 1.0, 1.5, 2.0] {
                for backward in [false, true] {
                    let from = 3_723 * rate + 11;
                    let (frames, reader) = read(&sound(from, 80, rate, speed, backward, 0.02));
                    let what = format!("{rate} frames at {speed}, backward {backward}");
                    assert!(frames.len() >= 76, "{what}: {}", frames.len());
                    assert!(frames.iter().all(|frame| frame.backward == backward), "{what}");
                    assert_eq!(u32::from(reader.rate()), rate, "{what}");
                    let numbers: Vec<f64> =
                        frames.iter().map(|frame| (frame.seconds(rate as u8) * f64::from(rate)).round()).collect();
                    let step = if backward { -1.0 } else { 1.0 };
                    assert!(numbers.windows(2).all(|pair| pair[1] - pair[0] == step), "{what}: {numbers:?}");
                    let took = frames[frames.len() - 1].samples;
                    assert!((f64::from(took) - RATE / f64::from(rate) / speed).abs() < 40.0, "{what}: {took}");
                }
            }
        }
    }

    #[test]
    fn noise_and_quiet_sound_cost_few_frames_and_make_none_up() {
        let mut half = sound(50_000, 200, 25, 0.5, false, 0.12);
        half.iter_mut().for_each(|sample| *sample *= 0.02);
        let (frames, _) = read(&half);
        assert!(frames.len() > 190, "{}", frames.len());
        let numbers: Vec<i64> = frames.iter().map(|frame| (frame.seconds(25) * 25.0).round() as i64).collect();
        assert!(numbers.iter().all(|number| (50_000..50_200).contains(number)));
        let mut random = 7u32;
        let noise: Vec<f32> = (0..480_000)
            .map(|_| {
                random = random.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
                (random >> 8) as f32 / 8_388_608.0 - 1.0
            })
            .collect();
        assert_eq!(read(&noise).0.len(), 0, "ten seconds of noise are no time");
    }

    #[test]
    fn it_goes_on_when_the_tape_turns_round() {
        let forth_and_back = [sound(1000, 40, 25, 1.0, false, 0.0), sound(1040, 40, 25, 1.0, true, 0.0)].concat();
        let (frames, _) = read(&forth_and_back);
        assert!(frames.iter().filter(|frame| frame.backward).count() > 35);
    }

    #[test]
    fn numbers_that_are_left_out_are_counted_as_the_standard_has_it() {
        let frame = |time: [u8; 4]| Frame { time, drop: true, backward: false, samples: 0.0, ends: 0 };
        assert!((frame([0, 1, 0, 2]).seconds(30) - 1800.0 * 1.001 / 30.0).abs() < 1e-6);
        assert!((frame([1, 0, 0, 0]).seconds(30) - 3600.0).abs() < 0.01, "an hour is an hour");
        assert_eq!(fields(bits_of([23, 59, 58, 29], true)), Some(([23, 59, 58, 29], true)));
        assert_eq!(fields(bits_of([31, 0, 0, 0], false)), None);
    }

    proptest! {
        #[test]
        fn any_samples_are_taken(samples in proptest::collection::vec(any::<f32>(), 0..2000)) {
            let _ = read(&samples);
        }
    }
}
