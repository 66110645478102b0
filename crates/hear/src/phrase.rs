//! Beginnings of phrases of eight bars: the bars, counted round, at which the music changes most.

/// Bars in a phrase.
pub const PHRASE: usize = 8;
/// The share of what was found that stays from one bar to the next.
const KEEP: f32 = 0.97;
/// The weight of a change of section; of sound, a change of all bands by all of their range counts 1.
const SECTION: f32 = 0.5;
/// The weight of the first bar that was heard.
const FIRST: f32 = 0.5;

/// Follows phrases.
#[derive(Debug, Clone)]
pub struct PhraseMeter {
    /// The change at each bar of the round.
    changes: [f32; PHRASE],
    /// The bands of the present bar and of those before it, averaged.
    bar: Vec<f32>,
    past: Vec<f32>,
    hops: u32,
    /// The number of the present bar, and where it began in beats.
    number: i64,
    start: f64,
}

impl PhraseMeter {
    /// A meter over so many bands.
    #[must_use]
    pub fn new(bands: usize) -> Self {
        Self {
            changes: [0.0; PHRASE],
            bar: vec![0.0; bands],
            past: vec![0.0; bands],
            hops: 0,
            number: 0,
            start: f64::MIN,
        }
    }

    /// Takes the bands of a hop, where the present bar began in beats and how many beats it has, and where a part began, in
    /// beats, if one has just been told. Returns where a phrase began in beats, and how sure that is. Allocates nothing.
    pub fn hop(&mut self, bands: &[f32], [start, beats]: [f64; 2], part: Option<f64>) -> (f64, f32) {
        if (start - self.start).abs() > 0.5 {
            let bars = ((start - self.start) / beats.max(1.0)).round().clamp(1.0, PHRASE as f64) as i64;
            self.begin(start, bars);
        }
        if let Some(part) = part {
            // A part is known some time after it began, which may be bars ago.
            let bar = self.number + ((part - start) / beats.max(1.0)).round().clamp(-14.0, 0.0) as i64;
            self.changes[bar.rem_euclid(PHRASE as i64) as usize] += SECTION;
        }
        for (sum, band) in self.bar.iter_mut().zip(bands) {
            *sum += band;
        }
        self.hops += 1;
        let best = (0..PHRASE).max_by(|a, b| self.changes[*a].total_cmp(&self.changes[*b])).unwrap_or(0);
        let since = (self.number - best as i64).rem_euclid(PHRASE as i64);
        let total: f32 = self.changes.iter().sum();
        let share = if total > 0.0 { self.changes[best] / total } else { 0.0 };
        let heard = (self.number as f32 / (2 * PHRASE) as f32).clamp(0.0, 1.0);
        // Where all bars are alike each has an even share.
        let even = 1.0 / PHRASE as f32;
        (start - since as f64 * beats, ((share - even) * 2.0).clamp(0.0, 1.0) * heard)
    }

    /// A bar begins, so many bars after the last.
    fn begin(&mut self, start: f64, bars: i64) {
        let hops = self.hops.max(1) as f32;
        let mut change = 0.0;
        for (bar, past) in self.bar.iter_mut().zip(&mut self.past) {
            let now = *bar / hops;
            change += (now - *past).abs();
            *past += (now - *past) * 0.4;
            *bar = 0.0;
        }
        // It is known at the end of a bar how much that bar differed.
        let first = self.start == f64::MIN;
        if !first {
            let place = self.number.rem_euclid(PHRASE as i64) as usize;
            let bands = self.past.len().max(1) as f32;
            self.changes.iter_mut().for_each(|change| *change *= KEEP);
            self.changes[place] += if self.number == 0 { FIRST } else { change / bands };
        }
        let next = if first { 0 } else { self.number + bars };
        (self.number, self.start, self.hops) = (next, start, 0);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn phrases_begin_where_the_music_changes() {
        let mut meter = PhraseMeter::new(4);
        let mut found = (0.0, 0.0);
        // The music changes every eight bars, from bar 3 on.
        for bar in 0..40u32 {
            let part = (bar + 5) / 8 % 2;
            let bands = if part == 0 { [1.0, 0.0, 1.0, 0.0] } else { [0.0, 1.0, 0.2, 1.0] };
            for _ in 0..100 {
                found = meter.hop(&bands, [f64::from(bar) * 4.0, 4.0], None);
            }
        }
        assert_eq!(found.0, 35.0 * 4.0, "the last phrase began at bar 35");
        assert!(found.1 > 0.5, "{}", found.1);
    }

    #[test]
    fn music_that_changes_as_much_at_every_bar_has_no_phrase() {
        let mut meter = PhraseMeter::new(4);
        let mut sure = 0.0;
        for bar in 0..60u32 {
            let bands: [f32; 4] = std::array::from_fn(|band| ((bar * 7 + band as u32 * 3) % 10) as f32 / 10.0);
            for _ in 0..100 {
                sure = meter.hop(&bands, [f64::from(bar) * 4.0, 4.0], None).1;
            }
        }
        assert!(sure < 0.3, "{sure}");
    }

    #[test]
    fn a_part_that_begins_is_a_phrase_that_begins_in_bars_of_three_too() {
        let mut meter = PhraseMeter::new(4);
        let mut found = (0.0, 0.0);
        for bar in 0..50u32 {
            for hop in 0..100 {
                // It is told in the middle of the bar after the one with which it began, and not to the beat.
                let part = (bar % 8 == 3 && hop == 50).then(|| f64::from(bar - 1) * 3.0 + 0.8);
                found = meter.hop(&[0.5, 0.4, 0.3, 0.2], [f64::from(bar) * 3.0, 3.0], part);
            }
        }
        assert_eq!(found.0, 42.0 * 3.0, "bar 42 is the last that began one");
    }
}
