//! The way what is heard went: a lane each for the tempo, the sound, hits, bars and parts; the present at the right.

use std::collections::VecDeque;

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use ratatui::style::Style;
use splimo_time::music::{Bands, Hearing, Hit, Section};
use splimo_time::tempo::TRUSTED;

use crate::kit::bars::EIGHTHS;
use crate::kit::pen::Pen;
use crate::kit::theme::{Depth, Theme};

/// The number of times that the past is written down, in seconds.
const EVERY: f64 = 0.1;
/// The most of it that is kept: as many columns as any screen has.
const KEPT: usize = 400;
/// The columns of the names of the lanes.
const NAMES: u16 = 10;
/// The lines of all lanes but the tempo and the sound.
const PLAIN: u16 = 7;
/// The lines of the tempo at the most, and of the sound at the least and at the most.
const TEMPO: u16 = 7;
const SOUND: [u16; 2] = [3, 18];

/// A moment of the past.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Moment {
    time: f64,
    bpm: f32,
    confidence: f32,
    level: f32,
    bands: Bands,
    /// The number of hits of each kind that there were since the moment before.
    hits: [u64; 3],
    bar: bool,
    section: Section,
}

/// The last moments.
#[derive(Default)]
pub(crate) struct HearingHistory {
    moments: VecDeque<Moment>,
    last: Option<Hearing>,
}

impl HearingHistory {
    /// Writes the present down, if that is due.
    pub(crate) fn listen(&mut self, hearing: &Hearing) {
        let last = self.last.unwrap_or(*hearing);
        let due = |before: &Moment| hearing.time - before.time >= EVERY || hearing.time < before.time;
        if !self.moments.back().is_none_or(due) {
            return;
        }
        let place = (hearing.beat - hearing.bar_start).floor().rem_euclid(f64::from(hearing.bar_beats.max(1)));
        let another = hearing.beat.floor() != last.beat.floor() && hearing.tempo_bpm > 0.0;
        if self.moments.len() == KEPT {
            self.moments.pop_front();
        }
        self.moments.push_back(Moment {
            time: hearing.time,
            bpm: hearing.tempo_bpm,
            confidence: hearing.confidence,
            level: hearing.level,
            bands: hearing.bands,
            hits: std::array::from_fn(|kind| hearing.hits[kind].saturating_sub(last.hits[kind])),
            bar: another && place == 0.0,
            section: hearing.section,
        });
        self.last = Some(*hearing);
    }

    /// The parts as they were heard: how long ago each began, the newest last.
    pub(crate) fn parts(&self) -> impl Iterator<Item = (f64, Section)> + '_ {
        let now = self.moments.back().map_or(0.0, |moment| moment.time);
        let pairs = self.moments.iter().zip(self.moments.iter().skip(1));
        pairs.filter(|(a, b)| a.section != b.section).map(move |(_, b)| (now - b.time, b.section))
    }

    /// Draws the lanes.
    pub(crate) fn draw(&self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        if area.height < 4 {
            return;
        }
        let columns = usize::from(area.width.saturating_sub(NAMES));
        let shown: Vec<&Moment> = self.moments.iter().skip(self.moments.len().saturating_sub(columns)).collect();
        let mut lanes = Lanes { first: area.right().saturating_sub(shown.len() as u16), shown, theme, area, y: area.y };
        let free = area.height.saturating_sub(PLAIN);
        let sound = free.saturating_sub(TEMPO).min(SOUND[1]);
        let sound = if sound < SOUND[0] { 0 } else { sound };
        lanes.tempo((free - sound).clamp(1, TEMPO), buffer);
        let eighth = |share: f32| EIGHTHS[(share * 8.0).round().clamp(0.0, 8.0) as usize];
        lanes.row("sure", buffer, |at| Some((eighth(at.confidence), at.confidence >= TRUSTED)));
        lanes.row("level", buffer, |at| Some((eighth(at.level), false)));
        lanes.sound(sound, buffer);
        for (kind, hit) in Hit::ALL.into_iter().enumerate() {
            lanes.row(hit.name(), buffer, |at| (at.hits[kind] > 0).then_some(("▮", true)));
        }
        lanes.row("bars", buffer, |at| Some(if at.bar { ("╷", true) } else { ("·", false) }));
        lanes.parts(buffer);
    }
}

/// The lanes, drawn from the top down.
struct Lanes<'a> {
    shown: Vec<&'a Moment>,
    /// The column of the first moment.
    first: u16,
    theme: Theme,
    area: Rect,
    /// The line of the next lane.
    y: u16,
}

impl Lanes<'_> {
    fn label(&self, y: u16, name: &str, buffer: &mut Buffer) {
        Pen::new(Rect { y, height: 1, ..self.area }, buffer).put(name, self.theme.dim());
    }

    /// A lane of one line with a symbol for each moment, bright or dim.
    fn row(&mut self, name: &str, buffer: &mut Buffer, symbol: impl Fn(&Moment) -> Option<(&'static str, bool)>) {
        if self.y >= self.area.bottom() {
            return;
        }
        self.label(self.y, name, buffer);
        for (moment, x) in self.shown.iter().zip(self.first..) {
            if let Some((symbol, bright)) = symbol(moment) {
                let style = if bright { self.theme.bright() } else { self.theme.dim() };
                buffer[(x, self.y)].set_symbol(symbol).set_style(style);
            }
        }
        self.y += 1;
    }

    /// The tempo as a line of dots within the range that it had.
    fn tempo(&mut self, height: u16, buffer: &mut Buffer) {
        let range = tempo_range(&self.shown);
        let words = range.map_or_else(|| "bpm".to_owned(), |[_, high]| format!("bpm {high:5.1}"));
        self.label(self.y, &words, buffer);
        if let Some([low, high]) = range {
            if height > 1 {
                self.label(self.y + height - 1, &format!("    {low:5.1}"), buffer);
            }
            let steps = f32::from(height) * 2.0;
            for (moment, x) in self.shown.iter().zip(self.first..).filter(|(moment, _)| moment.bpm > 0.0) {
                let step = (((high - moment.bpm) / (high - low) * steps) as u16).min(height * 2 - 1);
                let symbol = if step.is_multiple_of(2) { "▀" } else { "▄" };
                let style = if moment.confidence >= TRUSTED { self.theme.text() } else { self.theme.dim() };
                buffer[(x, self.y + step / 2)].set_symbol(symbol).set_style(style);
            }
        }
        self.y += height;
    }

    /// Draws the loudness from low, at the bottom, to high: the louder, the brighter.
    fn sound(&mut self, height: u16, buffer: &mut Buffer) {
        if height == 0 {
            return;
        }
        self.label(self.y, "high", buffer);
        self.label(self.y + height - 1, "low", buffer);
        let halves = f32::from(height) * 2.0;
        for (moment, x) in self.shown.iter().zip(self.first..) {
            for line in 0..height {
                // Each line has an upper and a lower half.
                let [upper, lower] =
                    [0.5, 1.5].map(|half| moment.bands.at(1.0 - (f32::from(line) * 2.0 + half) / halves));
                let (symbol, style) = dot(self.theme, [upper, lower]);
                buffer[(x, self.y + line)].set_symbol(symbol).set_style(style);
            }
        }
        self.y += height;
    }

    /// The parts, each with its name where it began.
    fn parts(&mut self, buffer: &mut Buffer) {
        if self.y >= self.area.bottom() {
            return;
        }
        self.label(self.y, "parts", buffer);
        let mut before = None;
        for (moment, x) in self.shown.iter().zip(self.first..) {
            if before != Some(moment.section) {
                // A name that has no room yet comes when it has.
                let (room, name) = (usize::from(self.area.right() - x), moment.section.name());
                let name = if name.len() < room { name } else { "" };
                buffer.set_stringn(x, self.y, format!("▏{name}"), room, self.theme.text());
                before = Some(moment.section);
            }
        }
        self.y += 1;
    }
}

/// Two levels, one over the other, in a cell; where there are no colours, as much of it as both fill.
fn dot(theme: Theme, [upper, lower]: [f32; 2]) -> (&'static str, Style) {
    if theme.depth == Depth::None {
        let shades = [" ", "░", "▒", "▓", "█"];
        let shade = ((upper + lower) * 0.5 * 4.0).round().clamp(0.0, 4.0) as usize;
        return (shades[shade], theme.text());
    }
    ("▀", Style::new().fg(theme.glow(upper)).bg(theme.glow(lower)))
}

/// The tempi that are shown, from and to; at least four beats a minute apart, so that nothing trembles that does not.
fn tempo_range(shown: &[&Moment]) -> Option<[f32; 2]> {
    let known = shown.iter().map(|moment| moment.bpm).filter(|bpm| *bpm > 0.0);
    let [low, high] = known.fold(None, |range: Option<[f32; 2]>, bpm| {
        let [low, high] = range.unwrap_or([bpm; 2]);
        Some([low.min(bpm), high.max(bpm)])
    })?;
    let middle = (low + high) / 2.0;
    Some(if high - low < 4.0 { [middle - 2.0, middle + 2.0] } else { [low, high] })
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Some music whose low end comes in after half of it, written down eight times a second.
    fn heard() -> HearingHistory {
        let mut past = HearingHistory::default();
        for eighth in 0..600u32 {
            let mut hearing = Hearing { time: f64::from(eighth) * 0.125, tempo_bpm: 120.0, ..Hearing::SILENCE };
            hearing.bands[20] = 0.4;
            if eighth >= 300 {
                hearing.bands[..3].fill(1.0);
                hearing.section = Section::Drop;
            }
            past.listen(&hearing);
            // Another look at the same moment.
            past.listen(&hearing);
        }
        past
    }

    fn drawn(depth: Depth, height: u16) -> Buffer {
        let area = Rect::new(0, 0, 80, height);
        let mut buffer = Buffer::empty(area);
        heard().draw(Theme::of(depth), area, &mut buffer);
        buffer
    }

    fn lines(buffer: &Buffer) -> Vec<String> {
        let width = usize::from(buffer.area.width);
        buffer.content.chunks(width).map(|line| line.iter().map(ratatui::buffer::Cell::symbol).collect()).collect()
    }

    #[test]
    fn the_oldest_moments_are_forgotten_and_none_is_written_twice() {
        let past = heard();
        assert_eq!(past.moments.len(), KEPT);
        assert_eq!(past.moments[1].time - past.moments[0].time, 0.125);
        let parts: Vec<(f64, Section)> = past.parts().collect();
        assert!(parts.len() == 1 && (parts[0].0 - 37.375).abs() < 1e-6 && parts[0].1 == Section::Drop, "{parts:?}");
    }

    #[test]
    fn what_is_low_lies_at_the_bottom_and_what_is_loud_is_bright() {
        let buffer = drawn(Depth::None, 32);
        let lines = lines(&buffer);
        let low = lines.iter().position(|line| line.starts_with("low")).expect("its lowest line");
        let high = lines.iter().position(|line| line.starts_with("high")).expect("its highest line");
        assert_eq!(low - high + 1, usize::from(SOUND[1]));
        // All that is shown is of after the low end came in.
        let row = |line: usize| lines[line].chars().nth(40).expect("a column");
        assert!((low - 2..=low).any(|line| "▓█".contains(row(line))), "{lines:?}");
        assert!((high..high + 5).any(|line| "░▒".contains(row(line))), "{lines:?}");
        assert_eq!(row((low + high) / 2), ' ', "nothing between");
    }

    #[test]
    fn a_part_that_has_just_begun_is_marked_and_its_name_comes_whole() {
        let mut past = heard();
        for moment in 1..12u32 {
            let time = 75.0 + f64::from(moment) * 0.125;
            past.listen(&Hearing { time, section: Section::Outro, ..Hearing::SILENCE });
            let area = Rect::new(0, 0, 80, 8);
            let mut buffer = Buffer::empty(area);
            past.draw(Theme::plain(), area, &mut buffer);
            let parts = lines(&buffer).pop().expect("the last lane");
            let end: String = parts.chars().skip(80 - moment as usize).collect();
            assert_eq!(end.trim_end(), if moment > 5 { "▏outro" } else { "▏" }, "{parts}");
        }
    }

    #[test]
    fn where_lines_are_few_the_sound_is_left_out_and_the_rest_stays_whole() {
        for height in 4..40 {
            let lines = lines(&drawn(Depth::True, height));
            let has = |name: &str| lines.iter().any(|line| line.starts_with(name));
            assert_eq!(has("high"), height >= PLAIN + TEMPO + SOUND[0], "{height}");
            assert!(height < PLAIN + 1 || (has("parts") && has("kick")), "{height}: {lines:?}");
        }
    }
}
