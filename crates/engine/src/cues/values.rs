//! Values that cues move besides looks: levels of tiers, the master, the speed and the controls, each gliding to where it is to be.

use super::super::fade::{Fade, Length};
use splimo_show::CONTROLS;
use splimo_show::MOST_TIERS;
use splimo_time::rate::Step;

/// The number of values.
pub(super) const MOST_VALUES: usize = MOST_TIERS + 2 + CONTROLS;

/// A value, by its number: the levels of the tiers, then the master, the speed, and the controls.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct ValueId(u8);

/// The value that a number means.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Value {
    /// The level of a tier, by its place.
    Level(usize),
    /// The master.
    Master,
    /// The speed.
    Speed,
    /// A control, from 0.
    Control(usize),
}

impl ValueId {
    pub(super) const MASTER: Self = Self(MOST_TIERS as u8);
    pub(super) const SPEED: Self = Self(MOST_TIERS as u8 + 1);

    /// The level of a tier.
    pub(super) fn level(tier: usize) -> Self {
        Self(tier.min(MOST_TIERS - 1) as u8)
    }

    /// A control, from 1.
    pub(super) fn control(number: u8) -> Self {
        Self(Self::SPEED.0 + number.clamp(1, CONTROLS as u8))
    }

    pub(super) fn all() -> impl Iterator<Item = Self> {
        (0..MOST_VALUES as u8).map(Self)
    }

    pub(super) fn place(self) -> usize {
        usize::from(self.0)
    }

    pub(super) fn value(self) -> Value {
        match self.place() {
            tier if tier < MOST_TIERS => Value::Level(tier),
            MOST_TIERS => Value::Master,
            place if place == Self::SPEED.place() => Value::Speed,
            place => Value::Control(place - MOST_TIERS - 2),
        }
    }
}

/// A value on its way.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Glide {
    from: f32,
    pub to: f32,
    fade: Fade,
    /// The value that it set last: if it is another one now, a hand has moved it.
    last: f32,
    /// The list that moves it.
    pub list: usize,
}

impl Glide {
    pub(super) fn new(from: f32, to: f32, beat: f64, length: Length, list: usize) -> Self {
        Self { from, to, fade: Fade::new(beat, length), last: from, list }
    }

    /// Goes on to a beat. Returns the value, or nothing where a hand has taken it.
    pub(super) fn advance(&mut self, now: f32, beat: f64, step: Step) -> Option<f32> {
        self.fade.advance(step);
        let done = self.fade.done(beat);
        let value = if done >= 1.0 { self.to } else { self.from + (self.to - self.from) * done };
        (now == std::mem::replace(&mut self.last, value)).then_some(value)
    }

    /// True if it is where it was to be.
    pub(super) fn is_over(&self) -> bool {
        self.last == self.to
    }

    /// True if the value is still what it set.
    pub(super) fn has(&self, now: f32) -> bool {
        self.last == now
    }

    pub(super) fn hold(&mut self, held: bool) {
        self.fade.hold(held);
    }

    pub(super) fn shift(&mut self, beats: f64) {
        self.fade.shift(beats);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_value_has_its_number() {
        let values: Vec<Value> = ValueId::all().map(ValueId::value).collect();
        assert_eq!(values.len(), 82);
        assert_eq!((values[15], values[16], values[17]), (Value::Level(15), Value::Master, Value::Speed));
        assert_eq!((values[18], values[81]), (Value::Control(0), Value::Control(63)));
        assert_eq!((ValueId::control(1).place(), ValueId::control(64).place()), (18, 81));
    }

    #[test]
    fn a_glide_ends_where_a_hand_takes_the_value() {
        let step = Step { seconds: 1.0, beats: 2.0 };
        let mut glide = Glide::new(0.2, 0.6, 0.0, Length::Seconds(4.0), 0);
        assert_eq!(glide.advance(0.2, 2.0, step), Some(0.3));
        assert_eq!(glide.advance(0.9, 4.0, step), None);
    }
}
