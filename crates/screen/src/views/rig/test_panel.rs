//! Tests on the lights: what is chosen flashes, a pixel walks along it, slots are held. It ends when one leaves.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use splimo_engine::Walked;
use splimo_light::rig::{Rig, lay};
use splimo_show::Show;
use splimo_show::command::EngineCommand;
use splimo_show::{HeldSlot, LightTest};

use super::action::Ask;
use crate::kit::form::{Field, Form, Reply};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;

/// The speeds at which a pixel walks by itself, in pixels a second, from slow to fast.
const SPEEDS: [f32; 6] = [1.0, 2.0, 5.0, 10.0, 25.0, 60.0];

/// The test that is open.
#[derive(Debug, Clone)]
pub(super) enum TestPanel {
    Identify(Vec<usize>),
    Walk { fixtures: Vec<usize>, speed: usize, runs: bool },
    Hold { form: Form, held: Vec<HeldSlot> },
}

fn numbers(fixtures: &[usize]) -> Vec<u32> {
    fixtures.iter().filter_map(|&index| u32::try_from(index).ok()).collect()
}

impl TestPanel {
    pub(super) fn walk(fixtures: &[usize]) -> Self {
        Self::Walk { fixtures: fixtures.to_vec(), speed: 2, runs: false }
    }

    /// Begins at the first channel of a fixture.
    pub(super) fn hold(show: &Show, fixture: Option<usize>) -> Self {
        let address =
            fixture.and_then(|f| show.fixtures.get(f)?.address).map_or_else(|| "1.1".into(), |a| a.to_string());
        let form = Form::new(vec![
            Field::text("address", "channel", address),
            Field::number("value", "value", 0.0, 0.0, 255.0, 1.0),
        ]);
        let mut hold = Self::Hold { form, held: Vec::new() };
        if let Self::Hold { form, .. } = &mut hold {
            form.go_to("value");
        }
        hold
    }

    /// The test that the engine is asked for.
    pub(super) fn test(&self, show: &Show) -> LightTest {
        match self {
            Self::Identify(fixtures) => LightTest::Identify(numbers(fixtures)),
            Self::Walk { fixtures, speed, runs } => {
                LightTest::Walk { fixtures: numbers(fixtures), at: 0, speed: if *runs { SPEEDS[*speed] } else { 0.0 } }
            }
            Self::Hold { form, held } => {
                let mut held = held.clone();
                held.extend(slot(form, show).ok());
                LightTest::Hold(held)
            }
        }
    }

    pub(super) fn types(&self) -> bool {
        matches!(self, Self::Hold { .. })
    }

    /// The requests of a key; none where it means nothing here. An empty answer with `false` closes.
    pub(super) fn key(&mut self, key: KeyEvent, show: &Show, walked: Option<Walked>) -> Option<(Vec<Ask>, bool)> {
        if key.code == KeyCode::Esc {
            return Some((Vec::new(), false));
        }
        match self {
            Self::Identify(_) => None,
            Self::Walk { fixtures, speed, runs } => {
                let step = if key.modifiers.contains(KeyModifiers::SHIFT) { 10 } else { 1 };
                match key.code {
                    KeyCode::Right => return Some((vec![Ask::engine(EngineCommand::WalkStep(step))], true)),
                    KeyCode::Left => return Some((vec![Ask::engine(EngineCommand::WalkStep(-step))], true)),
                    KeyCode::Char('a') => *runs = !*runs,
                    KeyCode::Up => *speed = (*speed + 1).min(SPEEDS.len() - 1),
                    KeyCode::Down => *speed = speed.saturating_sub(1),
                    _ => return None,
                }
                let speed = if *runs { SPEEDS[*speed] } else { 0.0 };
                let at = walked.map_or(0, |w| w.at);
                Some((vec![Ask::test(LightTest::Walk { fixtures: numbers(fixtures), at, speed })], true))
            }
            Self::Hold { form, held } => {
                match form.key(key) {
                    Reply::Pass => return None,
                    Reply::Quiet => return Some((Vec::new(), true)),
                    Reply::Keep => match slot(form, show) {
                        // The next channel comes up, and this one stays held.
                        Ok(slot) => {
                            held.retain(|h| (h.universe, h.channel) != (slot.universe, slot.channel));
                            held.push(slot);
                            let next = slot.channel % 512 + 1;
                            if let Some(field) = form.field_mut("address") {
                                field.value = crate::kit::form::Value::Text(format!("{}.{next}", slot.universe));
                            }
                        }
                        Err(why) => form.error = Some(why),
                    },
                    Reply::Changed | Reply::Restore => {}
                }
                form.error = slot(form, show).err();
                Some((vec![Ask::test(self.test(show))], true))
            }
        }
    }

    pub(super) fn paste(&mut self, text: &str) {
        if let Self::Hold { form, .. } = self {
            form.paste(text);
        }
    }

    pub(super) fn hints(&self) -> Vec<(&'static str, &'static str)> {
        match self {
            Self::Identify(_) => vec![("Esc", "end")],
            Self::Walk { .. } => {
                vec![("← →", "pixel; Shift ten"), ("a", "by itself"), ("↑ ↓", "speed"), ("Esc", "end")]
            }
            Self::Hold { .. } => {
                vec![("↑ ↓", "field"), ("← →", "value; Shift ten"), ("Enter", "next channel too"), ("Esc", "end")]
            }
        }
    }

    pub(super) fn draw(
        &mut self,
        show: &Show,
        rig: &Rig,
        walked: Option<Walked>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
    ) {
        let mut y = area.y;
        let mut line = |buffer: &mut Buffer, words: &str, style| {
            if y < area.bottom() {
                Pen::new(Rect { y, height: 1, ..area }, buffer).put(words, style);
            }
            y += 1;
        };
        match self {
            Self::Identify(fixtures) => {
                line(buffer, "these flash at full, over everything:", theme.text());
                line(buffer, "", theme.text());
                for fixture in fixtures.iter().filter_map(|&index| show.fixtures.get(index)) {
                    line(buffer, &fixture.name, theme.bright());
                }
            }
            Self::Walk { speed, runs, .. } => {
                for (words, bright) in walk_words(show, rig, walked) {
                    line(buffer, &words, if bright { theme.bright() } else { theme.text() });
                }
                line(buffer, "", theme.text());
                let how =
                    if *runs { format!("by itself, {} pixels a second", SPEEDS[*speed]) } else { "by hand".to_owned() };
                line(buffer, &how, theme.text());
            }
            Self::Hold { form, held } => {
                line(buffer, "slots held over the show:", theme.text());
                for slot in held.iter().rev().take(8) {
                    line(buffer, &format!("  {}.{} at {}", slot.universe, slot.channel, slot.value), theme.bright());
                }
                line(buffer, "", theme.text());
                // A slot that nothing carries would be held in vain.
                if let Some(slot) = slot(form, show).ok().filter(|slot| rig.slot_index(slot.universe, 0).is_none()) {
                    let why = format!("universe {} does not leave: patch a fixture there first", slot.universe);
                    line(buffer, &why, theme.armed());
                }
                let rest = Rect { y, height: area.bottom().saturating_sub(y), ..area };
                form.draw(theme, rest, buffer);
            }
        }
    }
}

fn slot(form: &Form, show: &Show) -> Result<HeldSlot, String> {
    let address = show.read_address(&form.text("address")).map_err(|e| e.to_string())?;
    Ok(HeldSlot { universe: address.universe, channel: address.channel, value: form.whole("value").min(255) as u8 })
}

/// The pixel that is lit: its number, fixture, universe and channel.
fn walk_words(show: &Show, rig: &Rig, walked: Option<Walked>) -> Vec<(String, bool)> {
    let Some(walked) = walked else { return vec![("no pixel is lit yet".to_owned(), false)] };
    let place = rig.fixtures.iter().position(|f| f.leds().contains(&(walked.led as usize)));
    let Some((index, fixture)) = place.and_then(|index| Some((index, show.fixtures.get(index)?))) else {
        return Vec::new();
    };
    let cell = walked.led - rig.fixtures[index].first;
    let mut words = vec![
        (format!("pixel {} of {}", cell + 1, rig.fixtures[index].cells), true),
        (format!("of {}", fixture.name), true),
        (format!("number {} of {} on the walk", walked.at + 1, walked.of), false),
    ];
    let Some(profile) = show.profile(&fixture.profile) else { return words };
    let laid = lay(fixture, &profile);
    match laid.address_of(cell, &profile) {
        None => words.push(("it is not patched".to_owned(), false)),
        Some(address) => {
            words.push((format!("universe {} channel {}", address.universe, address.channel), true));
            words.push((show.sent_words(address), false));
        }
    }
    words
}
