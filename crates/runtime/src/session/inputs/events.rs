//! The last events, in words, for whoever looks at what comes in.

use std::collections::VecDeque;
use std::sync::Arc;

use splimo_base::Seconds;
use splimo_document::Command;
use splimo_document::input::{Made, Outcome};
use splimo_link::inputs::{EventLine, MOST_EVENTS, MOST_VALUES};
use splimo_show::event::InputEvent;

use crate::clock;

/// The last events, and the last value of each address.
#[derive(Default)]
pub(in super::super) struct Events {
    lines: VecDeque<EventLine>,
    /// Values by input and event, the one that moved last in front.
    values: VecDeque<(Arc<str>, String, f32)>,
}

impl Events {
    /// Takes note of an event and of what became of it.
    pub(super) fn happened(&mut self, event: &InputEvent, outcome: &Outcome, made: &[Made]) {
        let asked = match (made, &outcome.why_not) {
            ([], Some(why)) => why.clone(),
            ([], None) => String::new(),
            (made, _) => made.iter().map(|made| made.command.to_string()).collect::<Vec<_>>().join(", "),
        };
        // What is merely there when an input begins is no news unless it asks for something.
        if !(asked.is_empty() && event.raw == 0.0 && self.is_new(event)) {
            self.note(event, outcome.number, asked);
        }
    }

    /// True if nothing came from the address of an event before.
    fn is_new(&self, event: &InputEvent) -> bool {
        let words = event.address.to_string();
        !self.values.iter().any(|(of, what, _)| *of == event.source && *what == words)
    }

    /// Takes note of an event that somebody learns from.
    pub(super) fn learned(&mut self, event: &InputEvent) {
        self.note(event, None, "is learnt from".to_owned());
    }

    fn note(&mut self, event: &InputEvent, number: Option<f32>, asked: String) {
        let words = event.address.to_string();
        self.value(&event.source, &words, event.value());
        // What moves on and on goes on in one line, and what asks for nothing does not push out what did.
        let raw = [event.raw, event.most];
        let goes_on = self.lines.back_mut().filter(|line| line.event == words && *line.source == *event.source);
        match goes_on {
            Some(line) => {
                let asked = if asked.is_empty() && !line.asked.is_empty() { line.asked.clone() } else { asked };
                (line.at, line.raw, line.number, line.asked) = (event.at, raw, number.or(line.number), asked);
            }
            None => self.add(event.at, &event.source, words, raw, number, asked),
        }
    }

    /// Takes note of a command in words of its own.
    pub(super) fn asked(&mut self, source: &Arc<str>, command: &Command, at: Seconds) {
        self.add(at, source, "asks for".to_owned(), [1.0, 1.0], None, command.to_string());
    }

    /// Takes note that a command was not carried out.
    pub(super) fn refused(&mut self, source: &Arc<str>, command: &Command, why: &str) {
        let text = command.to_string();
        let line = self.lines.iter_mut().rev().find(|line| *line.source == **source && line.asked.contains(&text));
        if let Some(line) = line {
            line.asked = format!("{text}: {why}");
        }
    }

    fn add(&mut self, at: f64, source: &str, event: String, raw: [f32; 2], number: Option<f32>, asked: String) {
        if self.lines.len() == MOST_EVENTS {
            self.lines.pop_front();
        }
        let source = source.to_owned();
        self.lines.push_back(EventLine { at, clock: clock::time_of_day(), source, event, raw, number, asked });
    }

    fn value(&mut self, source: &Arc<str>, event: &str, value: f32) {
        let known = self.values.iter().position(|(of, what, _)| of == source && what == event);
        let mut entry = match known.and_then(|place| self.values.remove(place)) {
            Some(entry) => entry,
            None => (source.clone(), event.to_owned(), 0.0),
        };
        entry.2 = value;
        self.values.push_front(entry);
        self.values.truncate(MOST_VALUES);
    }

    pub(super) fn lines(&self) -> impl Iterator<Item = &EventLine> {
        self.lines.iter()
    }

    pub(super) fn values(&self) -> impl Iterator<Item = &(Arc<str>, String, f32)> {
        self.values.iter()
    }

    /// The last event of an input.
    pub(super) fn last_of(&self, source: &str) -> Option<&EventLine> {
        self.lines.iter().rev().find(|line| line.source == source)
    }
}
