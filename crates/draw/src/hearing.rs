//! A chart of what was heard in a recording, over time: the wave, the bands, beats and bars, the tempo, the key and the parts.

use splimo_time::music::{Hearing, Section};

use crate::page::{Anchor, Page, number};

/// Seconds on a page.
const SECONDS: f64 = 90.0;
/// Columns on a page.
const COLUMNS: usize = 360;
/// Rows in which the bands are drawn.
const ROWS: usize = 12;
const LEFT: f32 = 26.0;
/// The loudest a recording counts as at the least, of full scale: what is quieter is no wave but noise.
const LOUDEST: f32 = 0.01;
/// Tops and heights of the rows: wave, bands, beats, tempo, confidence, key, parts.
const WAVE: [f32; 2] = [26.0, 26.0];
const BAND: [f32; 2] = [58.0, 48.0];
const BEATS: [f32; 2] = [112.0, 12.0];
const TEMPO: [f32; 2] = [130.0, 24.0];
const SURE: [f32; 2] = [159.0, 10.0];
const KEY: [f32; 2] = [174.0, 6.0];
const PARTS: [f32; 2] = [184.0, 7.0];
const LEGEND: &str = "the wave fills its row where it is loudest   long strokes are first beats of bars   short ones below are onsets   the tempo is black where it is trusted   nothing was known earlier than it is drawn";

/// The hearing of a recording.
#[derive(Debug, Clone, Default)]
pub struct HearingChart {
    /// Its name.
    pub name: String,
    /// The hearing, hop by hop.
    pub heard: Vec<Hearing>,
    /// The times of beats, in seconds, and whether each was the first of a bar.
    pub beats: Vec<(f64, bool)>,
    /// The times of onsets.
    pub onsets: Vec<f64>,
}

/// Pages with what was heard.
#[must_use]
pub fn hearing(chart: &HearingChart) -> Vec<Page> {
    let end = chart.heard.last().map_or(0.0, |last| last.time);
    let count = (end / SECONDS).ceil().max(1.0) as usize;
    let tempi = || chart.heard.iter().map(|h| h.tempo_bpm).filter(|bpm| *bpm > 0.0);
    let (low, high) = tempi().fold((f32::MAX, f32::MIN), |(low, high), bpm| (low.min(bpm), high.max(bpm)));
    let range = if low > high { [60.0, 180.0] } else { [low.min(high - 10.0) - 2.0, high.max(low + 10.0) + 2.0] };
    let loudest = chart.heard.iter().map(|h| h.peak).fold(LOUDEST, f32::max);
    let mut pages: Vec<Page> = (0..count).map(|index| page(chart, index as f64 * SECONDS, range, loudest)).collect();
    number(&mut pages, &format!("{}: what is heard", chart.name), LEGEND);
    pages
}

/// The time line of a page.
struct Line {
    start: f64,
    width: f32,
}

impl Line {
    fn x(&self, time: f64) -> f32 {
        LEFT + ((time - self.start) / SECONDS) as f32 * self.width
    }

    fn has(&self, time: f64) -> bool {
        (self.start..self.start + SECONDS).contains(&time)
    }
}

fn page(chart: &HearingChart, start: f64, range: [f32; 2], loudest: f32) -> Page {
    let mut page = Page::a4_lying();
    let line = Line { start, width: page.width - LEFT - Page::MARGIN };
    let rows = [
        (WAVE, "wave"),
        (BAND, "bands"),
        (BEATS, "beats"),
        (TEMPO, "bpm"),
        (SURE, "sure"),
        (KEY, "key"),
        (PARTS, "parts"),
    ];
    for ([top, height], name) in rows {
        page.grey([Page::MARGIN, top + height / 2.0 + 1.0], 3.2, Anchor::Start, name);
    }
    for second in (0..SECONDS as u32).step_by(10) {
        let x = line.x(start + f64::from(second));
        page.line([x, WAVE[0], x, PARTS[0] + PARTS[1]], 0.1, 0.75);
        page.grey([x + 0.6, 197.0], 2.6, Anchor::Start, format!("{} s", start as u32 + second));
    }
    let from = chart.heard.partition_point(|h| h.time <= start);
    let to = chart.heard.partition_point(|h| h.time <= start + SECONDS);
    let heard = &chart.heard[from..to];
    let hops = (heard.len().max(1) as f64 * (SECONDS / (to_end(heard, start)).max(1e-3)) / COLUMNS as f64).ceil();
    for column in heard.chunks(hops.max(1.0) as usize) {
        draw_column(column, loudest, &line, &mut page);
    }
    beats(chart, &line, &mut page);
    tempo(heard, &line, range, &mut page);
    words(heard, &line, KEY, |h| (h.key_confidence > 0.05).then(|| h.key.to_string()), &mut page);
    words(heard, &line, PARTS, |h| Some(Section::name(h.section).to_owned()), &mut page);
    page
}

/// The number of seconds of the page that are filled.
fn to_end(heard: &[Hearing], start: f64) -> f64 {
    heard.last().map_or(0.0, |last| last.time - start)
}

fn draw_column(column: &[Hearing], loudest: f32, line: &Line, page: &mut Page) {
    let (Some(first), Some(last)) = (column.first(), column.last()) else { return };
    let x = line.x(first.time);
    let width = (line.x(last.time) - x + line.width / COLUMNS as f32 * 0.25).max(0.2);
    let peak = column.iter().map(|h| h.peak).fold(0.0, f32::max);
    let height = (peak / loudest * WAVE[1]).max(0.1);
    page.rect([x, WAVE[0] + (WAVE[1] - height) / 2.0, width, height], Some(0.35), 0.0);
    let share = |row: usize| row as f32 / ROWS as f32;
    let tall = BAND[1] / ROWS as f32;
    for row in 0..ROWS {
        let level = column.iter().map(|h| h.bands.mean(share(row)..share(row + 1))).sum::<f32>() / column.len() as f32;
        if level > 0.04 {
            let y = BAND[0] + BAND[1] - (row + 1) as f32 * tall;
            page.rect([x, y, width, tall], Some(1.0 - 0.9 * level.min(1.0)), 0.0);
        }
    }
}

fn beats(chart: &HearingChart, line: &Line, page: &mut Page) {
    let [top, height] = BEATS;
    for (time, first) in chart.beats.iter().filter(|(time, _)| line.has(*time)) {
        let x = line.x(*time);
        let from = if *first { top } else { top + height * 0.45 };
        page.line([x, from, x, top + height], if *first { 0.35 } else { 0.2 }, 0.0);
    }
    for time in chart.onsets.iter().filter(|time| line.has(**time)) {
        // So thin that they stay apart where they come by the dozen a second.
        let x = line.x(*time);
        page.line([x, top + height + 1.0, x, top + height + 2.6], 0.1, 0.0);
    }
}

fn tempo(heard: &[Hearing], line: &Line, [low, high]: [f32; 2], page: &mut Page) {
    let [top, height] = TEMPO;
    let y = |bpm: f32| top + height * (1.0 - (bpm - low) / (high - low));
    for bpm in [low, high] {
        page.grey([LEFT - 1.0, y(bpm) + 1.0], 2.6, Anchor::End, format!("{bpm:.0}"));
        page.line([LEFT, y(bpm), LEFT + line.width, y(bpm)], 0.1, 0.75);
    }
    for pair in heard.chunks(24).collect::<Vec<_>>().windows(2) {
        let (a, b) = (&pair[0][0], &pair[1][0]);
        if a.tempo_bpm > 0.0 && b.tempo_bpm > 0.0 {
            let shade = if a.confidence >= splimo_time::tempo::TRUSTED { 0.0 } else { 0.65 };
            page.line([line.x(a.time), y(a.tempo_bpm), line.x(b.time), y(b.tempo_bpm)], 0.3, shade);
        }
        let tall = a.confidence * SURE[1];
        let width = line.x(b.time) - line.x(a.time);
        page.rect([line.x(a.time), SURE[0] + SURE[1] - tall, width, tall.max(0.05)], Some(0.55), 0.0);
    }
}

/// Draws words from where they were first told to where others were.
fn words(
    heard: &[Hearing],
    line: &Line,
    [top, height]: [f32; 2],
    say: impl Fn(&Hearing) -> Option<String>,
    page: &mut Page,
) {
    let mut runs: Vec<(String, f64, f64)> = Vec::new();
    for hearing in heard {
        let Some(words) = say(hearing) else { continue };
        match runs.last_mut() {
            Some((known, _, end)) if *known == words => *end = hearing.time,
            _ => runs.push((words, hearing.time, hearing.time)),
        }
    }
    for (words, from, to) in runs {
        let (x, end) = (line.x(from), line.x(to));
        page.rect([x, top, (end - x).max(0.2), height], Some(0.92), 0.1);
        if end - x > words.len() as f32 * 1.7 {
            page.text([x + 1.0, top + height - 1.8], 3.0, Anchor::Start, words);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::page::Item;

    #[test]
    fn beats_bars_and_parts_stand_where_they_were_heard() {
        let hop = |i: u32| Hearing {
            time: f64::from(i) * 0.01,
            peak: 0.5,
            bands: splimo_time::music::Bands::of(&[0.5; 24]),
            tempo_bpm: 120.0,
            confidence: 0.9,
            key_confidence: 0.5,
            section: if i < 6000 { Section::Intro } else { Section::Drop },
            ..Hearing::SILENCE
        };
        let chart = HearingChart {
            name: "made".into(),
            heard: (1..12_000).map(hop).collect(),
            beats: vec![(45.0, true), (45.5, false)],
            onsets: vec![100.0],
        };
        let pages = hearing(&chart);
        assert_eq!(pages.len(), 2);
        let lines: Vec<[f32; 4]> = pages[0]
            .items
            .iter()
            .filter_map(|i| if let Item::Line { ends, .. } = i { Some(*ends) } else { None })
            .collect();
        let middle = LEFT + (297.0 - LEFT - 10.0) / 2.0;
        assert!(lines.iter().any(|[x, y, _, _]| (x - middle).abs() < 0.01 && *y == BEATS[0]), "the bar at 45 s");
        let tallest = pages[0].items.iter().filter_map(|item| match item {
            Item::Rect { area: [_, top, _, height], .. } if *top < BAND[0] => Some(*height),
            _ => None,
        });
        assert!((tallest.fold(0.0, f32::max) - WAVE[1]).abs() < 0.01, "half of full scale fills the row");
        let says = |page: usize, word: &str| {
            pages[page].items.iter().any(|i| matches!(i, Item::Text { words, .. } if words == word))
        };
        assert!(says(0, "intro") && says(0, "drop") && !says(1, "intro") && says(1, "drop") && says(0, "C major"));
        assert_eq!(hearing(&HearingChart::default()).len(), 1, "nothing heard is a page all the same");
    }
}
