//! The hearing: what is heard, how sure that is, and how it went.

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use splimo_time::music::{Hearing, PITCH_NAMES, Section};
use splimo_time::tempo::TRUSTED;

use crate::kit::bars::{EIGHTHS, bar};
use crate::kit::beams;
use crate::kit::pen::Pen;
use crate::kit::stage_map::StageMap;
use crate::kit::theme::Theme;
use crate::kit::words::beats;
use crate::model::ViewContext;

/// The time that it is told how late a part was known, in seconds.
const JUST: f64 = 5.0;
/// The width that the names of all parts need, in columns.
const WIDE: u16 = 72;
/// A level from which the sound is cut off.
const OVER: f32 = 0.999;

/// The page of what is heard.
#[derive(Default)]
pub(super) struct HearingPage {
    stage: StageMap,
    /// The number of lights that are drawn.
    pub(super) lights: usize,
    /// The time when the sound was cut off last.
    over: Option<f64>,
}

impl HearingPage {
    /// Writes the present down; whatever view is shown.
    pub(super) fn listen(&mut self, hearing: &Hearing) {
        if hearing.peak >= OVER {
            self.over = Some(hearing.time);
        }
    }

    pub(super) fn draw(&mut self, context: &ViewContext<'_>, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let rig = context.rig;
        self.lights = rig.len();
        let hearing = &context.snapshot.hearing;
        let left = (area.width / 2).clamp(38, 78).min(area.width);
        let facts = Rect { x: area.x + 1, width: left - 2, ..area };
        let right = Rect { x: area.x + left, width: area.width - left - 1, ..area };
        let used = self.facts(context, hearing, theme, facts, buffer);
        let below = Rect { y: facts.y + used, height: facts.height.saturating_sub(used), ..facts };
        context.history.draw(theme, below, buffer);
        let stage_height = (right.height / 2).max(6).min(right.height);
        let stage = Rect { height: stage_height, ..right };
        if rig.is_empty() {
            buffer.set_string(stage.x, stage.y + 1, "No fixtures yet: F2, then a adds them.", theme.text());
        } else {
            beams::live_stage(&mut self.stage, context, theme, stage, buffer);
        }
        let rest = Rect { y: right.y + stage_height, height: right.height - stage_height, ..right };
        let notes_height = if rest.height >= 12 { 5 } else { 3 }.min(rest.height);
        let bands = Rect { height: rest.height - notes_height, ..rest };
        spectrum(hearing, theme, bands, buffer);
        notes(hearing, theme, Rect { y: bands.bottom(), height: notes_height, ..rest }, buffer);
    }

    /// Tempo, level, key and part in words; returns how many lines they took.
    fn facts(
        &self,
        context: &ViewContext<'_>,
        hearing: &Hearing,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
    ) -> u16 {
        let mut y = 0;
        let mut line = |buffer: &mut Buffer, name: &str, write: &mut dyn FnMut(&mut Pen<'_>)| {
            if y < area.height {
                let mut pen = Pen::new(Rect { y: area.y + y, height: 1, ..area }, buffer);
                pen.put(&format!("{name:<10}"), theme.dim());
                write(&mut pen);
            }
            y += 1;
        };
        let settings = &context.show.settings;
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
            let since = (hearing.time - hearing.section_start).max(0.0);
            pen.put(&format!(" {since:.0} s"), theme.dim());
            // Of a part that has just been told one asks how late that was, later on what comes next.
            if since < JUST && hearing.section_delay > 0.0 {
                pen.fit(&format!("   known after {:.1} s", hearing.section_delay), theme.dim());
            } else if let Some((part, left)) = context.snapshot.clock.expected(hearing) {
                pen.fit(&format!("   {}? {}", part.name(), beats(left.round() as f32)), theme.dim());
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
            let clock = &context.snapshot.clock;
            pen.put(settings.sync_source.name(), theme.bright());
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
