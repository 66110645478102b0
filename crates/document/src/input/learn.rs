//! Learning: which control somebody moves, and whether that is a button, a fader or an encoder.

use splimo_base::Seconds;
use splimo_show::Coding;
use splimo_show::event::{Edge, EventAddress, InputEvent};

/// The time without events after which it is decided by what came, in seconds.
const PAUSE: Seconds = 0.6;
/// Events of one control after which it is decided.
const ENOUGH: usize = 6;
/// Controls that are told apart while somebody moves one.
const MOST: usize = 64;
/// The share of its range that a value has to move before it counts: noise does not.
const MOVES: f32 = 0.02;

/// The kind of a control that was moved.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Moved {
    /// It is pressed and let go.
    Button,
    /// It calls a program of this number.
    Program(f32),
    /// It has a place.
    Fader,
    /// It only says by how much it was turned.
    Encoder(Coding),
}

impl Moved {
    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Button => "button",
            Self::Program(_) => "program",
            Self::Fader => "fader",
            Self::Encoder(_) => "encoder",
        }
    }
}

/// A binding that was learnt.
#[derive(Debug, Clone, PartialEq)]
pub struct Learned {
    /// The address of the control.
    pub address: EventAddress,
    /// Its kind.
    pub moved: Moved,
}

/// Watches events until it is clear which control somebody moves, and of which kind it is.
#[derive(Debug, Clone, Default)]
pub struct Learner {
    seen: Vec<Seen>,
}

/// A control that moved.
#[derive(Debug, Clone)]
struct Seen {
    source: std::sync::Arc<str>,
    address: EventAddress,
    values: Vec<f32>,
    last: Seconds,
}

impl Learner {
    /// Takes an event; the input and what was learnt, once that is clear.
    pub fn take(&mut self, event: &InputEvent) -> Option<(std::sync::Arc<str>, Learned)> {
        let done = |moved| Some((event.source.clone(), Learned { address: event.address.clone(), moved }));
        match (&event.address, event.edge) {
            (EventAddress::Silent | EventAddress::Back, _) | (_, Edge::Release) => return None,
            // What the music and the clock do is nobody's hand.
            (
                EventAddress::Beat
                | EventAddress::Bar
                | EventAddress::Phrase
                | EventAddress::Onset
                | EventAddress::Hit(_)
                | EventAddress::Part(_)
                | EventAddress::At(_)
                | EventAddress::Pressure(..),
                _,
            ) => return None,
            (EventAddress::Program(_), _) => return done(Moved::Program(event.raw)),
            (_, Edge::Press) => return done(Moved::Button),
            (_, Edge::Value) => {}
        }
        let seen = self.seen(event)?;
        seen.last = event.at;
        if seen.values.len() < ENOUGH * 4 {
            seen.values.push(event.raw);
        }
        let moved = seen.kind(false)?;
        done(moved)
    }

    /// The binding that was learnt of a control that rests since a while.
    pub fn pass_time(&mut self, now: Seconds) -> Option<(std::sync::Arc<str>, Learned)> {
        let rests = self.seen.iter().filter(|seen| now - seen.last > PAUSE);
        rests.into_iter().find_map(|seen| {
            let moved = seen.kind(true)?;
            Some((seen.source.clone(), Learned { address: seen.address.clone(), moved }))
        })
    }

    fn seen(&mut self, event: &InputEvent) -> Option<&mut Seen> {
        let known = self.seen.iter().position(|seen| seen.address == event.address && seen.source == event.source);
        match known {
            Some(index) => self.seen.get_mut(index),
            None if self.seen.len() >= MOST => None,
            None => {
                let (source, address) = (event.source.clone(), event.address.clone());
                self.seen.push(Seen { source, address, values: Vec::new(), last: event.at });
                self.seen.last_mut()
            }
        }
    }
}

impl Seen {
    /// The kind, if that is clear already, or has to be said.
    fn kind(&self, rests: bool) -> Option<Moved> {
        let most = self.address.most();
        let first = *self.values.first()?;
        let far = |a: f32, b: f32| (a - b).abs() / most > MOVES;
        // All the way and back in two steps is a finger.
        if let [pressed, let_go, ..] = self.values.as_slice()
            && *pressed >= most * 0.99
            && *let_go <= 0.0
        {
            return Some(Moved::Button);
        }
        let seven_bits = matches!(self.address, EventAddress::Control(_, _, false));
        if seven_bits
            && let Some(coding) = coding(&self.values)
            && self.values.len() >= 3
        {
            return Some(Moved::Encoder(coding));
        }
        let moves = self.values.iter().any(|value| far(*value, first));
        if (self.values.len() >= ENOUGH || rests && self.values.len() >= 2) && moves {
            return Some(Moved::Fader);
        }
        let whole = first >= most * 0.99 && self.values.len() == 1;
        (rests && whole).then_some(Moved::Button)
    }
}

/// The code of an encoder that said these values, if they are those of one: few values near those that mean one step, and the same
/// several times running, which no fader says.
fn coding(values: &[f32]) -> Option<Coding> {
    let steps = |coding: Coding| values.iter().all(|raw| (1..=7).contains(&coding.steps(*raw as u16).abs()));
    let repeats = values.windows(2).any(|pair| pair[0] == pair[1]);
    if !repeats {
        return None;
    }
    let has = |from: f32, to: f32| values.iter().any(|raw| (from..=to).contains(raw));
    let (low, above_middle, below_middle, high) = (has(1.0, 7.0), has(65.0, 71.0), has(57.0, 63.0), has(121.0, 127.0));
    let coding = match (low, above_middle, below_middle, high) {
        (true, true, false, false) if values[0] < 64.0 => Coding::SignBit,
        (true, true, false, false) => Coding::SignBitReversed,
        (false, true, _, false) | (false, false, true, false) => Coding::Offset,
        (_, false, false, _) => Coding::TwosComplement,
        _ => return None,
    };
    steps(coding).then_some(coding)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The binding that is learnt from values that come so many seconds apart, and then a pause.
    fn learnt(event: &str, values: &[f32]) -> Option<Moved> {
        let address: EventAddress = event.parse().expect("an event");
        let mut learner = Learner::default();
        for (place, raw) in values.iter().enumerate() {
            let at = place as f64 * 0.03;
            let most = address.most();
            let event =
                InputEvent { source: "box".into(), address: address.clone(), raw: *raw, most, edge: Edge::Value, at };
            if let Some((_, learned)) = learner.take(&event) {
                return Some(learned.moved);
            }
        }
        learner.pass_time(60.0).map(|(_, learned)| learned.moved)
    }

    #[test]
    fn buttons_faders_and_encoders_are_told_apart() {
        for (event, values, moved) in [
            ("control 20", &[127.0, 0.0][..], Some(Moved::Button)),
            ("control 20", &[127.0], Some(Moved::Button)),
            ("control 7", &[3.0, 4.0, 6.0, 9.0, 13.0, 18.0], Some(Moved::Fader)),
            ("control 7", &[90.0, 70.0], Some(Moved::Fader)),
            ("control 7 fine", &[9000.0, 9100.0, 9500.0, 9900.0, 10200.0, 10900.0], Some(Moved::Fader)),
            ("control 7", &[1.0, 1.0, 1.0], Some(Moved::Encoder(Coding::TwosComplement))),
            ("control 7", &[1.0, 2.0, 127.0, 127.0], Some(Moved::Encoder(Coding::TwosComplement))),
            ("control 7", &[65.0, 65.0, 66.0, 63.0], Some(Moved::Encoder(Coding::Offset))),
            ("control 7", &[1.0, 65.0, 65.0], Some(Moved::Encoder(Coding::SignBit))),
            ("control 7", &[65.0, 1.0, 1.0], Some(Moved::Encoder(Coding::SignBitReversed))),
            ("slot 5", &[0.0, 40.0, 90.0], Some(Moved::Fader)),
            // Noise, and the slots that merely are there.
            ("slot 5", &[100.0, 101.0, 100.0], None),
            ("control 7", &[64.0], None),
            ("bar", &[1.0], None),
        ] {
            assert_eq!(learnt(event, values), moved, "{event} {values:?}");
        }
    }
}
