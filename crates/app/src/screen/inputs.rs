//! The view Inputs: what is heard, how sure that is, and how it went.

use std::collections::VecDeque;
use std::sync::Arc;

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_core::music::{Hearing, Hit, PITCH_NAMES, Section};
use splimo_core::rig::Rig;
use splimo_core::tempo::TRUSTED;

use super::chrome::{EIGHTHS, Pen, bar};
use super::face::Seen;
use super::stage::StageMap;
use super::theme::Theme;

/// How often the past is written down, in seconds.
const EVERY: f64 = 0.1;
/// How much of it is kept: as many columns as any screen has.
const KEPT: usize = 400;
/// How wide it has to be for the names of all parts, in columns.
const WIDE: u16 = 72;
/// A level from which the sound is cut off.
const OVER: f32 = 0.999;

/// A moment of the past.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Past {
    time: f64,
    bpm: f32,
    confidence: f32,
    level: f32,
    /// How many hits of each kind there were since the moment before.
    hits: [u64; 3],
    bar: bool,
    section: Section,
}

/// The state of the view.
#[derive(Default)]
pub(super) struct InputsView {
    stage: StageMap,
    past: VecDeque<Past>,
    last: Option<Hearing>,
    /// When the sound was cut off last.
    over: Option<f64>,
}

impl InputsView {
    /// Takes note that the lights are others, or lie elsewhere.
    pub(super) fn rig_changed(&mut self) {
        self.stage = StageMap::default();
    }

    /// Writes the present down; called each time the screen is drawn, whatever it shows.
    pub(super) fn listen(&mut self, hearing: &Hearing) {
        if hearing.peak >= OVER {
            self.over = Some(hearing.time);
        }
        let last = self.last.unwrap_or(*hearing);
        let due = self.past.back().is_none_or(|past| hearing.time - past.time >= EVERY || hearing.time < past.time);
        if !due {
            return;
        }
        let place = (hearing.beat - hearing.bar_start).floor().rem_euclid(f64::from(hearing.bar_beats.max(1)));
        let another = hearing.beat.floor() != last.beat.floor() && hearing.tempo_bpm > 0.0;
        let hits = std::array::from_fn(|kind| hearing.hits[kind].saturating_sub(last.hits[kind]));
        if self.past.len() == KEPT {
            self.past.pop_front();
        }
        self.past.push_back(Past {
            time: hearing.time,
            bpm: hearing.tempo_bpm,
            confidence: hearing.confidence,
            level: hearing.level,
            hits,
            bar: another && place == 0.0,
            section: hearing.section,
        });
        self.last = Some(*hearing);
    }

    /// The parts as they were heard: how long ago each began, the newest last.
    pub(super) fn parts(&self) -> impl Iterator<Item = (f64, Section)> + '_ {
        let now = self.past.back().map_or(0.0, |past| past.time);
        let pairs = self.past.iter().zip(self.past.iter().skip(1));
        pairs.filter(|(a, b)| a.section != b.section).map(move |(_, b)| (now - b.time, b.section))
    }

    pub(super) fn draw(&mut self, seen: &Seen<'_>, rig: &Arc<Rig>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let hearing = &seen.snapshot.hearing;
        let left = (area.width / 2).clamp(38, 78).min(area.width);
        let facts = Rect { x: area.x + 1, width: left - 2, ..area };
        let right = Rect { x: area.x + left, width: area.width - left - 1, ..area };
        let used = self.facts(seen, hearing, theme, facts, buffer);
        let below = Rect { y: facts.y + used, height: facts.height.saturating_sub(used), ..facts };
        self.lanes(theme, below, buffer);
        let stage_height = (right.height / 2).max(6).min(right.height);
        let stage = Rect { height: stage_height, ..right };
        if rig.is_empty() {
            buffer.set_string(stage.x, stage.y + 1, "No fixtures yet: F2, then a adds them.", theme.text());
        } else {
            self.stage.draw(rig, seen.show.canvas, &seen.snapshot.light, stage, theme, buffer);
        }
        let rest = Rect { y: right.y + stage_height, height: right.height - stage_height, ..right };
        let notes_height = if rest.height >= 12 { 5 } else { 3 }.min(rest.height);
        let bands = Rect { height: rest.height - notes_height, ..rest };
        spectrum(hearing, theme, bands, buffer);
        notes(hearing, theme, Rect { y: bands.bottom(), height: notes_height, ..rest }, buffer);
    }

    /// Tempo, level, key and part in words; returns how many lines they took.
    fn facts(&self, seen: &Seen<'_>, hearing: &Hearing, theme: Theme, area: Rect, buffer: &mut Buffer) -> u16 {
        let mut y = 0;
        let mut line = |buffer: &mut Buffer, name: &str, write: &mut dyn FnMut(&mut Pen<'_>)| {
            if y < area.height {
                let mut pen = Pen::new(Rect { y: area.y + y, height: 1, ..area }, buffer);
                pen.put(&format!("{name:<10}"), theme.dim());
                write(&mut pen);
            }
            y += 1;
        };
        let settings = &seen.show.settings;
        let silent = hearing.peak <= 0.001 && hearing.level <= 0.01;
        line(buffer, "level", &mut |pen| {
            pen.put("▕", theme.faint());
            pen.put(&bar(hearing.level, 12), theme.text());
            pen.put("▏ ", theme.faint());
            if silent {
                pen.put("silence", theme.bright());
                return;
            }
            if self.over.is_some_and(|at| (0.0..2.0).contains(&(hearing.time - at))) {
                pen.put(" TOO LOUD ", theme.filled());
            }
            pen.fit(&format!("{:5.1} LUFS  ", hearing.loudness), theme.text());
            pen.fit(&format!("peak {:5.1} dB", decibels(hearing.peak)), theme.text());
        });
        line(buffer, "tempo", &mut |pen| {
            let known = hearing.tempo_bpm > 0.0;
            let words = if known { format!("{:.1} bpm  ", hearing.tempo_bpm) } else { "not known yet  ".to_owned() };
            pen.put(&words, theme.bright());
            sureness(hearing.confidence, theme, pen);
        });
        line(buffer, "bar", &mut |pen| {
            let beat = (hearing.beat - hearing.bar_start).rem_euclid(f64::from(hearing.bar_beats.max(1)));
            for place in 0..hearing.bar_beats {
                let here = beat as u32 == place && hearing.tempo_bpm > 0.0;
                pen.put(if here { "█" } else { "▁" }, if here { theme.bright() } else { theme.dim() });
            }
            pen.put(&format!("  {} in a bar  ", hearing.bar_beats), theme.text());
            sureness(hearing.bar_confidence, theme, pen);
        });
        line(buffer, "part", &mut |pen| {
            let shown = if pen.width() < WIDE { &[hearing.section][..] } else { &Section::ALL };
            for &section in shown {
                let here = section == hearing.section;
                let word = if here { format!("[{}]", section.name()) } else { format!(" {} ", section.name()) };
                pen.put(&word, if here { theme.bright() } else { theme.faint_text() });
            }
            pen.put(&format!(" {:.0} s", (hearing.time - hearing.section_start).max(0.0)), theme.dim());
            if let Some((part, beats)) = seen.snapshot.clock.expected(hearing) {
                pen.fit(&format!("   {}? {beats:.0} beats", part.name()), theme.dim());
            }
        });
        line(buffer, "key", &mut |pen| {
            if hearing.key_confidence < 0.05 {
                pen.put("not known yet", theme.text());
            } else {
                pen.put(&format!("{:<9} ", hearing.key.to_string()), theme.bright());
                sureness(hearing.key_confidence, theme, pen);
            }
        });
        line(buffer, "pitch", &mut |pen| {
            pen.put(&pitch(hearing.pitch), theme.text());
            pen.fit(&format!("   last step {:+.0}", hearing.interval), theme.dim());
            pen.fit(&format!("   {} chord changes", hearing.chords), theme.dim());
        });
        line(buffer, "leads", &mut |pen| {
            let clock = &seen.snapshot.clock;
            pen.put(settings.leader.name(), theme.bright());
            pen.fit(&format!("  now {}, {:.1} bpm", clock.source.name(), clock.bpm), theme.text());
            pen.fit(&format!("   light {:.0} ms early", settings.latency_ms), theme.dim());
        });
        line(buffer, "ears", &mut |pen| {
            pen.put(&format!("gain {:+.0} dB", settings.hearing_gain), theme.text());
            if settings.hearing_floor > -90.0 {
                pen.fit(&format!("   silent below {:.0} dB", settings.hearing_floor), theme.text());
            }
            let swing = [settings.hearing_attack_ms, settings.hearing_decay_ms];
            pen.fit(&format!("   {} bands", settings.hearing_bands), theme.dim());
            pen.fit(&format!("   up {:.0} ms, down {:.0} ms", swing[0], swing[1]), theme.dim());
        });
        y + 1
    }

    /// How it went: tempo and confidence, level, hits by kind, parts; the present at the right.
    fn lanes(&self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        if area.height < 4 {
            return;
        }
        const NAMES: u16 = 10;
        let columns = usize::from(area.width.saturating_sub(NAMES));
        let shown: Vec<Past> = self.past.iter().rev().take(columns).rev().copied().collect();
        let first = area.x + NAMES + (columns - shown.len()) as u16;
        let label = |buffer: &mut Buffer, y: u16, name: &str| {
            Pen::new(Rect { y, height: 1, ..area }, buffer).put(name, theme.dim());
        };
        let tempo_rows = area.height.saturating_sub(8).clamp(1, 18);
        let (low, high) = tempo_range(&shown);
        label(buffer, area.y, &if low > high { "bpm".to_owned() } else { format!("bpm {high:5.1}") });
        if tempo_rows > 1 && low <= high {
            label(buffer, area.y + tempo_rows - 1, &format!("    {low:5.1}"));
        }
        tempo_lane(&shown, theme, Rect { x: first, y: area.y, width: shown.len() as u16, height: tempo_rows }, buffer);
        let mut y = area.y + tempo_rows;
        let mut row = |buffer: &mut Buffer, name: &str, symbol: &dyn Fn(&Past) -> Option<(&'static str, bool)>| {
            if y >= area.bottom() {
                return;
            }
            label(buffer, y, name);
            for (column, past) in shown.iter().enumerate() {
                if let Some((symbol, bright)) = symbol(past) {
                    let style = if bright { theme.bright() } else { theme.dim() };
                    buffer[(first + column as u16, y)].set_symbol(symbol).set_style(style);
                }
            }
            y += 1;
        };
        let eighth = |share: f32| EIGHTHS[(share * 8.0).round().clamp(0.0, 8.0) as usize];
        row(buffer, "sure", &|past| Some((eighth(past.confidence), past.confidence >= TRUSTED)));
        row(buffer, "level", &|past| Some((eighth(past.level), false)));
        for (kind, hit) in Hit::ALL.into_iter().enumerate() {
            row(buffer, hit.name(), &move |past| (past.hits[kind] > 0).then_some(("▮", true)));
        }
        row(buffer, "bars", &|past| Some(if past.bar { ("╷", true) } else { ("·", false) }));
        if y < area.bottom() {
            label(buffer, y, "parts");
            part_lane(&shown, theme, Rect { x: first, y, width: shown.len() as u16, height: 1 }, buffer);
        }
    }
}

fn decibels(level: f32) -> f32 {
    20.0 * level.max(1e-4).log10()
}

fn sureness(confidence: f32, theme: Theme, pen: &mut Pen<'_>) {
    let sure = match confidence {
        c if c >= 0.75 => "sure",
        c if c >= TRUSTED => "fairly sure",
        _ => "unsure",
    };
    pen.put("▕", theme.faint());
    pen.put(&bar(confidence, 8), theme.text());
    pen.put("▏ ", theme.faint());
    pen.put(sure, theme.dim());
}

/// A pitch as a note, its deviation, and hertz.
fn pitch(hertz: f32) -> String {
    if hertz <= 0.0 {
        return "none      ".to_owned();
    }
    let place = 12.0 * (hertz / 440.0).log2() + 69.0;
    let note = place.round();
    let name = PITCH_NAMES[(note as i32).rem_euclid(12) as usize];
    format!("{name}{} {:+.0} ct {hertz:.0} Hz", (note as i32).div_euclid(12) - 1, (place - note) * 100.0)
}

/// The tempi that are shown, from and to; at least four beats a minute apart, so that nothing trembles that does not.
fn tempo_range(shown: &[Past]) -> (f32, f32) {
    let known = shown.iter().map(|past| past.bpm).filter(|bpm| *bpm > 0.0);
    let (low, high) = known.fold((f32::MAX, f32::MIN), |(low, high), bpm| (low.min(bpm), high.max(bpm)));
    let middle = (low + high) / 2.0;
    if low <= high && high - low < 4.0 { (middle - 2.0, middle + 2.0) } else { (low, high) }
}

/// The tempo as a line of dots within the range that it had.
fn tempo_lane(shown: &[Past], theme: Theme, area: Rect, buffer: &mut Buffer) {
    let (low, high) = tempo_range(shown);
    if low > high {
        return;
    }
    let steps = f32::from(area.height) * 2.0;
    for (column, past) in shown.iter().enumerate().filter(|(_, past)| past.bpm > 0.0) {
        let step = (((high - past.bpm) / (high - low) * steps) as u16).min(area.height * 2 - 1);
        let symbol = if step.is_multiple_of(2) { "▀" } else { "▄" };
        let style = if past.confidence >= TRUSTED { theme.text() } else { theme.dim() };
        buffer[(area.x + column as u16, area.y + step / 2)].set_symbol(symbol).set_style(style);
    }
}

/// The parts, each with its name where it began.
fn part_lane(shown: &[Past], theme: Theme, area: Rect, buffer: &mut Buffer) {
    let mut before = None;
    for (column, past) in shown.iter().enumerate() {
        let x = area.x + column as u16;
        if before != Some(past.section) {
            let words = format!("▏{}", past.section.name());
            buffer.set_stringn(x, area.y, words, usize::from(area.right() - x), theme.text());
            before = Some(past.section);
        }
    }
}

/// The bands as bars, low to the left.
fn spectrum(hearing: &Hearing, theme: Theme, area: Rect, buffer: &mut Buffer) {
    if area.height < 3 {
        return;
    }
    let lines = area.height - 1;
    let width = (area.width / hearing.bands.len() as u16).max(1);
    for (band, &level) in hearing.bands.iter().enumerate() {
        let eighths = (level * f32::from(lines) * 8.0).round() as i32;
        for line in 0..lines {
            let here = (eighths - i32::from(lines - 1 - line) * 8).clamp(0, 8) as usize;
            let cell = Rect::new(area.x + band as u16 * width, area.y + line, width.max(2) - 1, 1).intersection(area);
            for column in cell.left()..cell.right() {
                buffer[(column, cell.y)].set_symbol(EIGHTHS[here]).set_style(theme.text());
            }
        }
    }
    let mut pen = Pen::new(Rect { y: area.bottom() - 1, height: 1, ..area }, buffer);
    pen.put("45 Hz", theme.dim());
    let end = (hearing.bands.len() as u16 * width).saturating_sub(7);
    pen.to(end).put("15 kHz", theme.dim());
    let middle = format!("middle {:.0} Hz", hearing.centroid);
    let from = (end / 2).saturating_sub(4);
    if from > 6 && from + (middle.len() as u16) < end {
        pen.to(from).put(&middle, theme.dim());
    }
}

/// The twelve notes, and how strong each is.
fn notes(hearing: &Hearing, theme: Theme, area: Rect, buffer: &mut Buffer) {
    if area.height < 2 {
        return;
    }
    let width = (area.width / 12).clamp(2, 6);
    let lines = area.height - 1;
    for (note, &strength) in hearing.chroma.iter().enumerate() {
        let x = area.x + note as u16 * width;
        let eighths = (strength * f32::from(lines) * 8.0).round() as i32;
        for line in 0..lines {
            let here = (eighths - i32::from(lines - 1 - line) * 8).clamp(0, 8) as usize;
            let cell = Rect::new(x, area.y + line, width - 1, 1).intersection(area);
            for column in cell.left()..cell.right() {
                buffer[(column, cell.y)].set_symbol(EIGHTHS[here]).set_style(theme.text());
            }
        }
        let tonic = usize::from(hearing.key.tonic) == note && hearing.key_confidence >= 0.05;
        let style = if tonic { theme.bright() } else { theme.dim() };
        buffer.set_stringn(x, area.bottom() - 1, PITCH_NAMES[note], usize::from(width), style);
    }
}
