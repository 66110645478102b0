//! Styles of music, as ranges that a piece is drawn from.

use crate::groove::Groove;
use crate::groove::Groove::{
    Backbeat, Broken, Brushed, Chug, Clave, Double, Drawn, Driven, Floor, Funk, Half, Hands, March, None, OneDrop,
    Ride, Rolling, SixEight, Surdo, Threes, Toms, Waltz,
};

/// How the parts of a piece follow each other.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Form {
    /// Instruments come and go every few bars.
    Free,
    /// An intro, builds, drops, breakdowns and an outro, as chance has it.
    Club,
    /// Music, then many bars without drums, then music.
    Breakdown,
}

/// How the tempo moves.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Moves {
    /// Mostly as a machine has it, sometimes as people.
    Usual,
    /// As people have it.
    Human,
    /// As people have it who play alone or follow a hand.
    Free,
    /// Steadily faster or slower.
    Ramp,
    /// Another tempo from the middle on.
    Jump,
    /// As a hand on a record bends it.
    Bend,
}

/// What becomes of the recording.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Finish {
    /// Anything that happens to recordings.
    Usual,
    /// Very quiet, with some hiss.
    Quiet,
    /// Far too loud.
    Clipped,
}

/// A style.
#[derive(Debug, Clone, Copy)]
pub struct Style {
    /// What it is called.
    pub name: &'static str,
    /// Whether nothing is trained on it.
    pub held_out: bool,
    /// Beats a minute, from and to.
    pub bpm: [f32; 2],
    /// Beats in a bar.
    pub bar: usize,
    /// Steps in a beat: 4, or 3 where it swings or is compound.
    pub sub: usize,
    /// How late the second half of a half beat is, as a share of it, from and to; 0.5 is straight.
    pub swing: [f32; 2],
    /// What the drums play.
    pub grooves: &'static [Groove],
    /// How likely there are bass, chords, arpeggio, melody and pad.
    pub parts: [f32; 5],
    /// The form.
    pub form: Form,
    /// The tempo.
    pub moves: Moves,
    /// The recording.
    pub finish: Finish,
}

const BASE: Style = Style {
    name: "",
    held_out: false,
    bpm: [80.0, 160.0],
    bar: 4,
    sub: 4,
    swing: [0.5, 0.5],
    grooves: &[],
    parts: [0.85, 0.7, 0.35, 0.5, 0.4],
    form: Form::Free,
    moves: Moves::Usual,
    finish: Finish::Usual,
};

/// Every style. Where the snare, or what stands for it, comes once in four beats, those are counted as they are written and
/// danced to: at 140 a minute rather than at 70.
pub static STYLES: &[Style] = &[
    Style { name: "four on the floor", bpm: [110.0, 150.0], grooves: &[Floor], ..BASE },
    Style { name: "slow floor", bpm: [84.0, 112.0], swing: [0.5, 0.6], grooves: &[Floor], ..BASE },
    Style { name: "backbeat", bpm: [84.0, 170.0], moves: Moves::Human, grooves: &[Backbeat], ..BASE },
    Style { name: "rock", bpm: [92.0, 164.0], grooves: &[Backbeat], parts: [0.95, 0.8, 0.2, 0.6, 0.2], ..BASE },
    Style { name: "disco", bpm: [104.0, 132.0], grooves: &[Floor, Funk], parts: [0.95, 0.8, 0.4, 0.6, 0.4], ..BASE },
    Style { name: "threes", bpm: [84.0, 116.0], grooves: &[Threes], parts: [0.8, 0.7, 0.4, 0.5, 0.3], ..BASE },
    Style { name: "rolling", bpm: [120.0, 172.0], grooves: &[Rolling], parts: [0.8, 0.6, 0.4, 0.5, 0.5], ..BASE },
    Style {
        name: "combo",
        bpm: [76.0, 150.0],
        grooves: &[None, Ride, Backbeat],
        parts: [0.95, 0.9, 0.1, 0.8, 0.1],
        moves: Moves::Human,
        ..BASE
    },
    Style { name: "double", bpm: [100.0, 172.0], grooves: &[Double], parts: [0.95, 0.8, 0.3, 0.5, 0.2], ..BASE },
    Style { name: "ballad", bpm: [62.0, 92.0], moves: Moves::Human, grooves: &[Backbeat, Backbeat, Hands], ..BASE },
    Style { name: "breakbeat", bpm: [88.0, 140.0], grooves: &[Broken], ..BASE },
    Style { name: "fast breaks", bpm: [158.0, 184.0], grooves: &[Broken, Backbeat], ..BASE },
    Style { name: "half time", bpm: [116.0, 176.0], swing: [0.5, 0.58], grooves: &[Half], ..BASE },
    Style { name: "funk", bpm: [88.0, 126.0], swing: [0.5, 0.58], grooves: &[Funk], moves: Moves::Human, ..BASE },
    Style { name: "latin", bpm: [84.0, 132.0], grooves: &[Clave, Toms, Surdo], moves: Moves::Human, ..BASE },
    Style { name: "brushed", bpm: [78.0, 136.0], grooves: &[Brushed], moves: Moves::Human, ..BASE },
    Style { name: "shuffle", bpm: [80.0, 150.0], sub: 3, grooves: &[Backbeat, Ride], moves: Moves::Human, ..BASE },
    Style { name: "waltz", bpm: [84.0, 180.0], bar: 3, grooves: &[Waltz, None, Drawn], moves: Moves::Human, ..BASE },
    Style { name: "six eight", bpm: [60.0, 100.0], bar: 2, sub: 3, grooves: &[SixEight, None], ..BASE },
    Style { name: "twelve eight", bpm: [60.0, 110.0], bar: 4, sub: 3, grooves: &[SixEight, Drawn], ..BASE },
    Style {
        name: "heavy",
        bpm: [76.0, 190.0],
        grooves: &[Chug, Chug, Backbeat, Driven],
        parts: [0.95, 0.95, 0.2, 0.4, 0.1],
        moves: Moves::Human,
        ..BASE
    },
    Style {
        name: "heavy swing",
        bpm: [84.0, 150.0],
        sub: 3,
        grooves: &[Chug],
        parts: [0.95, 0.9, 0.2, 0.4, 0.1],
        ..BASE
    },
    Style { name: "driven", bpm: [90.0, 200.0], grooves: &[Driven], moves: Moves::Human, ..BASE },
    Style {
        name: "oompah",
        bpm: [90.0, 200.0],
        bar: 2,
        grooves: &[None, Hands, Backbeat],
        moves: Moves::Human,
        ..BASE
    },
    Style { name: "hands", bpm: [70.0, 150.0], grooves: &[Hands], moves: Moves::Human, ..BASE },
    Style { name: "drawn", bpm: [66.0, 180.0], swing: [0.5, 0.62], grooves: &[Drawn, Toms], ..BASE },
    Style { name: "no drums", bpm: [66.0, 150.0], grooves: &[None], parts: [0.7, 0.8, 0.6, 0.6, 0.3], ..BASE },
    Style {
        name: "strings",
        bpm: [62.0, 130.0],
        grooves: &[None],
        parts: [0.5, 0.5, 0.1, 0.8, 0.9],
        moves: Moves::Free,
        ..BASE
    },
    Style {
        name: "solo",
        bpm: [66.0, 140.0],
        grooves: &[None],
        parts: [0.3, 0.9, 0.3, 0.6, 0.0],
        moves: Moves::Free,
        ..BASE
    },
    Style { name: "club set", bpm: [116.0, 150.0], grooves: &[Floor, Broken], form: Form::Club, ..BASE },
    Style { name: "ramp", bpm: [84.0, 140.0], grooves: &[Floor, Backbeat, Funk], moves: Moves::Ramp, ..BASE },
    Style { name: "bend", bpm: [90.0, 150.0], grooves: &[Floor, Broken, Backbeat], moves: Moves::Bend, ..BASE },
    Style { name: "quiet", bpm: [80.0, 150.0], grooves: &[Floor, Backbeat, Funk], finish: Finish::Quiet, ..BASE },
    Style { name: "clipped", bpm: [90.0, 170.0], grooves: &[Floor, Backbeat, Broken], finish: Finish::Clipped, ..BASE },
    Style { name: "clicks", bpm: [60.0, 200.0], grooves: &[Hands], parts: [0.1, 0.1, 0.0, 0.1, 0.0], ..BASE },
    Style {
        name: "one drop",
        bpm: [126.0, 184.0],
        swing: [0.5, 0.62],
        grooves: &[OneDrop],
        moves: Moves::Human,
        ..BASE
    },
    Style {
        name: "swing",
        bpm: [100.0, 190.0],
        sub: 3,
        grooves: &[Ride],
        parts: [0.95, 0.6, 0.1, 0.7, 0.1],
        moves: Moves::Human,
        ..BASE
    },
    Style {
        name: "machine",
        bpm: [84.0, 176.0],
        grooves: &[Floor, Backbeat],
        parts: [0.3, 0.3, 0.3, 0.2, 0.4],
        ..BASE
    },
    // Nothing is trained on these.
    Style { name: "march", held_out: true, bpm: [96.0, 132.0], grooves: &[March], moves: Moves::Human, ..BASE },
    Style {
        name: "syncopated bass",
        held_out: true,
        bpm: [88.0, 140.0],
        grooves: &[None],
        parts: [1.0, 0.3, 0.3, 0.2, 0.3],
        ..BASE
    },
    Style {
        name: "transition",
        held_out: true,
        bpm: [100.0, 150.0],
        grooves: &[Floor, Broken],
        moves: Moves::Jump,
        ..BASE
    },
    Style {
        name: "long breakdown",
        held_out: true,
        bpm: [120.0, 140.0],
        grooves: &[Floor],
        form: Form::Breakdown,
        ..BASE
    },
    Style {
        name: "toms in three",
        held_out: true,
        bpm: [90.0, 150.0],
        bar: 3,
        grooves: &[Toms, Hands],
        moves: Moves::Human,
        ..BASE
    },
];

/// The styles of which beats, bars and the time to lock have aims: four on the floor, breakbeats, half time, swing, three and
/// six beats, a syncopated bass without drums, tempi that change, breakdowns, and poor recordings. The others are there to
/// learn from, and many are harder.
pub const AIMED: [&str; 13] = [
    "four on the floor",
    "breakbeat",
    "half time",
    "swing",
    "waltz",
    "six eight",
    "syncopated bass",
    "transition",
    "long breakdown",
    "ramp",
    "bend",
    "quiet",
    "clipped",
];

/// The style of a name.
#[must_use]
pub fn find(name: &str) -> Option<&'static Style> {
    STYLES.iter().find(|style| style.name == name)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_aimed_at_are_styles_in_four_and_three_and_in_threes_some_of_them_held_out() {
        let aimed = AIMED.map(|name| find(name).unwrap_or_else(|| panic!("no style is called {name}")));
        for (bar, sub) in [(4, 4), (4, 3), (3, 4), (2, 3)] {
            assert!(aimed.iter().any(|style| (style.bar, style.sub) == (bar, sub)), "{bar} by {sub}");
        }
        let held_out = aimed.iter().filter(|style| style.held_out).count();
        assert!((1..aimed.len()).contains(&held_out));
        assert!(aimed.iter().all(|one| aimed.iter().filter(|other| other.name == one.name).count() == 1));
    }
}
