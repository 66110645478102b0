//! What is written at a moment: the text with its living fields filled in, laid out letter by letter. It is laid out anew each
//! frame, into memory that is there already.

use crate::effect::Moment;
use crate::lettering::Lettering;
use crate::tempo::BEATS_PER_BAR;

/// The most letters that are written.
const MOST: usize = 512;

/// Letters in a row.
pub(super) struct Written {
    /// For each letter its place in the lettering, and where it begins, in the pixels of the letters.
    letters: Vec<(usize, f32)>,
    length: f32,
}

impl Default for Written {
    fn default() -> Self {
        Self { letters: Vec::with_capacity(MOST), length: 0.0 }
    }
}

/// A field that lives.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Field {
    Clock,
    /// Until a time of day, in seconds since midnight.
    Countdown(f64),
    Tempo,
    Bar,
    Beat,
}

impl Field {
    /// The field that a text begins with, and what follows.
    fn first(text: &str) -> Option<(Self, &str)> {
        let (name, rest) = text.strip_prefix('{')?.split_once('}')?;
        let field = match name.trim() {
            "clock" => Self::Clock,
            "tempo" => Self::Tempo,
            "bar" => Self::Bar,
            "beat" => Self::Beat,
            name => {
                let (hours, minutes) = name.strip_prefix("countdown ")?.trim().split_once(':')?;
                let (hours, minutes): (u32, u32) = (hours.parse().ok()?, minutes.parse().ok()?);
                (hours < 24 && minutes < 60).then_some(Self::Countdown(f64::from(hours * 3600 + minutes * 60)))?
            }
        };
        Some((field, rest))
    }
}

impl Written {
    /// Lays a text out.
    pub(super) fn write(&mut self, text: &str, lettering: &Lettering, spacing: f32, moment: &Moment<'_>) {
        self.letters.clear();
        self.length = 0.0;
        let mut rest = text;
        while let Some(character) = rest.chars().next() {
            match Field::first(rest) {
                Some((field, after)) => {
                    self.fill_in(field, lettering, spacing, moment);
                    rest = after;
                }
                None => {
                    self.put(character, lettering, spacing);
                    rest = &rest[character.len_utf8()..];
                }
            }
        }
    }

    fn put(&mut self, character: char, lettering: &Lettering, spacing: f32) {
        if self.letters.len() < MOST {
            let place = lettering.place(character);
            self.letters.push((place, self.length));
            self.length += (lettering.width(place) + spacing).max(1.0);
        }
    }

    fn fill_in(&mut self, field: Field, lettering: &Lettering, spacing: f32, moment: &Moment<'_>) {
        let mut put = |character| self.put(character, lettering, spacing);
        match (field, moment.time_of_day) {
            (Field::Clock, Some(now)) => pair(now as u32 / 3600, now as u32 / 60 % 60, &mut put),
            // The last second is over when the time has come, and then it stands still.
            (Field::Countdown(until), Some(now)) => clock(left(until, now), &mut put),
            // Without a clock the time since the start has to do.
            (Field::Clock | Field::Countdown(_), None) => clock(moment.time, &mut put),
            (Field::Tempo, _) => number(moment.tempo.round().max(0.0) as u32, 1, &mut put),
            (Field::Bar, _) => {
                let bar = moment.beat.rem_euclid(moment.phrase_beats.max(1.0)) / BEATS_PER_BAR;
                number(bar as u32 + 1, 1, &mut put);
            }
            (Field::Beat, _) => number(moment.beat.rem_euclid(BEATS_PER_BAR) as u32 + 1, 1, &mut put),
        }
    }

    /// How long the row is, in the pixels of the letters.
    pub(super) fn length(&self) -> f32 {
        self.length
    }

    /// How much of a letter is there at a place.
    pub(super) fn cover(&self, lettering: &Lettering, x: f32, y: f32) -> f32 {
        let after = self.letters.partition_point(|(_, start)| *start <= x + 1.0);
        // A letter and the one before it may share a place where they stand close.
        let near = self.letters[after.saturating_sub(2)..after].iter();
        near.map(|(place, start)| lettering.cover(*place, x - start, y)).fold(0.0, f32::max)
    }
}

/// Seconds until a time of day; nothing once it has passed by less than half a day.
fn left(until: f64, now: f64) -> f64 {
    let left = (until - now).rem_euclid(86_400.0);
    if left > 43_200.0 { 0.0 } else { left.ceil() }
}

/// Hours and minutes, or minutes and seconds within the last hour of a countdown.
fn clock(seconds: f64, put: &mut impl FnMut(char)) {
    let seconds = seconds.max(0.0) as u32;
    let (hours, minutes) = (seconds / 3600, seconds / 60 % 60);
    if hours > 0 { pair(hours, minutes, put) } else { pair(minutes, seconds % 60, put) }
}

fn pair(first: u32, second: u32, put: &mut impl FnMut(char)) {
    number(first, 2, put);
    put(':');
    number(second, 2, put);
}

fn number(number: u32, digits: u32, put: &mut impl FnMut(char)) {
    let mut begun = false;
    for power in (0..10).rev() {
        let digit = number / 10u32.pow(power) % 10;
        begun |= digit > 0 || power < digits;
        if begun {
            put(char::from(b'0' + digit as u8));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::music::Hearing;
    use crate::rate::Step;

    fn written(text: &str) -> String {
        let silence = Hearing::SILENCE;
        let moment = Moment { time_of_day: Some(81_000.5), ..Moment::at(1.0, 21.5, Step::default(), &silence) };
        let lettering = Lettering::built_in(0, "{clock} ABCDEFX", false);
        let mut written = Written::default();
        written.write(text, &lettering, 0.0, &moment);
        let known = "{clock} ABDEFX0123456789:.-?";
        let name = |place: usize| known.chars().find(|c| lettering.place(*c) == place).unwrap_or('?');
        written.letters.iter().map(|(place, _)| name(*place)).collect()
    }

    #[test]
    fn fields_live_and_the_rest_stays() {
        assert_eq!(written("A {clock} B"), "A 22:30 B");
        assert_eq!(written("{countdown 22:45}"), "15:00");
        assert_eq!(written("{countdown 22:00}"), "00:00");
        assert_eq!(written("{tempo}"), "120");
        assert_eq!(written("{bar}.{beat}"), "6.2");
        assert_eq!(written("{X"), "{X");
    }

    #[test]
    fn a_very_long_text_is_cut_and_nothing_else() {
        let lettering = Lettering::built_in(1, "A", false);
        let mut line = Written::default();
        let silence = Hearing::SILENCE;
        line.write(&"A".repeat(3000), &lettering, 0.0, &Moment::at(0.0, 0.0, Step::default(), &silence));
        assert_eq!(line.letters.len(), MOST);
    }
}
