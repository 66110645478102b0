//! The state of the inputs for screens.

use std::sync::atomic::Ordering;

use splimo_link::inputs::{InputState, InputStatus, InputsStatus};

use crate::session::Session;

/// The time after which a flood is over, in seconds.
const FLOOD_OVER: f64 = 5.0;
/// The time over which events are counted, in seconds.
const MEASURE: f64 = 1.0;

impl Session {
    /// Everything that a screen may show of the inputs.
    pub(in crate::session) fn inputs_status(&mut self) -> InputsStatus {
        let now = self.runtime.now();
        let left_out = self.runtime.inbox().left_out();
        let (allowed, running) = (self.allowed_word(), self.running_programs());
        let desk = &mut self.inputs;
        for source in &mut desk.sources {
            let subject = format!("flood of {}", source.name);
            if let Some(count) = left_out.get(&source.name) {
                source.left_out += count;
                source.flooded = now;
                let words = format!(
                    "more comes in than is taken; {} were left out. Find out what sends so much",
                    source.left_out
                );
                self.runtime.troubles().tell(&subject, words);
            } else if source.flooded > 0.0 && now - source.flooded > FLOOD_OVER {
                source.flooded = 0.0;
                self.runtime.troubles().over(&subject);
            }
            let events = source.counts.events.load(Ordering::Relaxed);
            let (before, since, _) = source.measured;
            if now - since >= MEASURE {
                source.measured = (events, now, ((events - before) as f64 / (now - since)) as f32);
            }
        }
        let inputs = desk.sources.iter().map(|source| {
            let heard = desk.watch.of(&source.name);
            let failure = Self::failure_of(source).filter(|_| source.input.on);
            let state = match (source.input.on, failure, heard) {
                (false, ..) => InputState::Off,
                (true, Some(why), _) => InputState::Failed(why),
                (true, None, None) => InputState::Waiting,
                (true, None, Some((_, true))) => InputState::Silent,
                (true, None, Some((_, false))) => InputState::Working,
            };
            let line = desk.events.last_of(&source.name);
            InputStatus {
                input: (*source.input).clone(),
                extra: source.extra,
                state,
                rate: source.measured.2,
                last: line.map(|line| line.event.clone()).unwrap_or_default(),
                last_at: heard.map_or(0.0, |(at, _)| at),
                malformed: source.counts.malformed.load(Ordering::Relaxed),
                refused: source.counts.refused.load(Ordering::Relaxed),
                left_out: source.left_out,
                controls: desk.feedback.controls_of(&source.name),
                senders: source.counts.senders().iter().map(ToString::to_string).collect(),
            }
        });
        InputsStatus {
            now,
            allowed: allowed.to_owned(),
            running,
            inputs: inputs.collect(),
            events: desk.events.lines().cloned().collect(),
            charges: desk.evaluator.charges().map(|(what, who)| (what.to_owned(), who.to_string())).collect(),
            learning: desk.learning.as_ref().map(|learning| learning.text.clone()),
            names: desk.names.iter().map(ToString::to_string).collect(),
            values: desk.events.values().map(|(of, what, value)| (of.to_string(), what.clone(), *value)).collect(),
        }
    }
}
