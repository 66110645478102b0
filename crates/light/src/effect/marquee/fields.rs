//! The text at a moment: the words with its living fields filled in, laid out letter by letter. It is laid out anew each
//! frame, into memory that is there already.

use crate::effect::Moment;
use crate::lettering::Lettering;

/// The most letters that are written.
const MOST: usize = 512;

/// Letters in a row.
pub(super) struct Written {
    /// For each letter its place in the lettering, and where it begins, in the pixels of the letters.
    letters: Vec<(usize, f32)>,
    length: f32,
    /// The beginning and the end of what is lit of it, in the pixels of the letters.
    ink: [f32; 2],
    /// The row as a picture: how much there is of a letter, column by column, one more at each end and at the top and the
    /// foot of each, so that looking between pixels never leaves it.
    strip: Vec<f32>,
    columns: usize,
    /// Pixels of a column.
    rows: usize,
    /// The letters as they were when the picture was drawn.
    drawn: Vec<(usize, f32)>,
}

impl Default for Written {
    fn default() -> Self {
        let letters = || Vec::with_capacity(MOST);
        Self {
            letters: letters(),
            length: 0.0,
            ink: [0.0; 2],
            strip: Vec::new(),
            columns: 0,
            rows: 0,
            drawn: letters(),
        }
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
                let bar = moment.beat.rem_euclid(moment.phrase_beats.max(1.0)) / moment.bar_beats.max(1.0);
                number(bar as u32 + 1, 1, &mut put);
            }
            (Field::Beat, _) => number(moment.beat.rem_euclid(moment.bar_beats.max(1.0)) as u32 + 1, 1, &mut put),
        }
    }

    /// The length of the row, in the pixels of the letters.
    pub(super) fn length(&self) -> f32 {
        self.length
    }

    /// The beginning and the end of what is lit of the row, in the pixels of the letters: without the room around letters.
    pub(super) fn ink(&self) -> [f32; 2] {
        self.ink
    }

    /// Makes room for all that a text may become in a lettering, and forgets what was drawn. Asks for memory.
    pub(super) fn make_room(&mut self, text: &str, lettering: &Lettering, spacing: f32) {
        let letters = text.chars().count().min(MOST) + 32;
        let columns = (letters as f32 * (lettering.widest() + spacing.max(0.0))) as usize + 4;
        self.rows = lettering.height + 2;
        self.strip = Vec::with_capacity(columns * self.rows);
        self.drawn.clear();
        self.columns = 0;
    }

    /// Draws the row anew, if it is another than it was.
    pub(super) fn draw(&mut self, lettering: &Lettering) {
        if self.drawn == self.letters && self.columns > 0 {
            return;
        }
        self.drawn.clear();
        self.drawn.extend_from_slice(&self.letters);
        let room = self.strip.capacity() / self.rows.max(1);
        self.columns = (self.length.max(0.0) as usize + 3).min(room);
        self.strip.clear();
        self.strip.resize(self.columns * self.rows, 0.0);
        for &(place, start) in &self.letters {
            let wide = lettering.width(place) as usize + 1;
            let first = start.floor().max(0.0) as usize;
            for column in first..=(first + wide).min(self.columns.saturating_sub(2)) {
                for row in 0..lettering.height {
                    let cover = lettering.cover(place, column as f32 + 0.5 - start, row as f32 + 0.5);
                    let pixel = &mut self.strip[(column + 1) * self.rows + row + 1];
                    *pixel = pixel.max(cover);
                }
            }
        }
        let lit = |column: &usize| self.strip[column * self.rows..][..self.rows].iter().any(|cover| *cover > 0.0);
        let first = (0..self.columns).find(lit);
        let last = (0..self.columns).rev().find(lit);
        // The picture has one column before the first.
        self.ink = first.zip(last).map_or([0.0; 2], |(first, last)| [first as f32 - 1.0, last as f32]);
    }

    /// The share of a letter at a place in the pixels of the letters, between pixels.
    #[inline(always)]
    pub(super) fn cover(&self, x: f32, y: f32) -> f32 {
        let (x, y) = (x + 0.5, y + 0.5);
        let inside = x >= 0.0 && y >= 0.0 && x < (self.columns as f32 - 1.0) && y < (self.rows as f32 - 1.0);
        if !inside {
            return 0.0;
        }
        let (left, top) = (x as u32 as usize, y as u32 as usize);
        let (u, v) = (x - left as f32, y - top as f32);
        let at = left * self.rows + top;
        let column = |at: usize| self.strip[at] + (self.strip[at + 1] - self.strip[at]) * v;
        let (a, b) = (column(at), column(at + self.rows));
        a + (b - a) * u
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
    use splimo_time::music::Hearing;
    use splimo_time::rate::Step;

    fn written(text: &str) -> String {
        let silence = Hearing::SILENCE;
        let moment = Moment { time_of_day: Some(81_000.5), ..Moment::at(1.0, 21.5, Step::default(), &silence) };
        let lettering = Lettering::built_in(0, "{clock} ABCDEFX", 100.0, false);
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
        let lettering = Lettering::built_in(1, "A", 100.0, false);
        let mut line = Written::default();
        let silence = Hearing::SILENCE;
        line.write(&"A".repeat(3000), &lettering, 0.0, &Moment::at(0.0, 0.0, Step::default(), &silence));
        assert_eq!(line.letters.len(), MOST);
    }
}
