//! Words that run across the lights, or stand there, with fields that live: the time, a countdown, the tempo.

mod fields;

use std::sync::Arc;

use super::params::handle::{ChoiceParam, ColoursParam, FileParam, NumberParam, RateParam, TextParam, choices};
use super::params::{Holds, choice, colours, file, number, rate, text};
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::lettering::{FONTS, Lettering};
use crate::media::Font;
use crate::rig::TILE;
use fields::Written;
use splimo_base::colour::Rgba;
use splimo_time::rate::{Phase, Rate};

choices! {
    /// The choice "way".
    Way {
        Left = "left",
        Right = "right",
        Up = "up",
        Down = "down",
    }
}

choices! {
    /// The choice "weight".
    Weight {
        Regular = "regular",
        Light = "light",
        Bold = "bold",
        Heavy = "heavy",
    }
}

choices! {
    /// The choice "outline".
    Outline {
        No = "no",
        Yes = "yes",
    }
}

choices! {
    /// The choice "across".
    Across {
        Centre = "centre",
        Left = "left",
        Right = "right",
    }
}

choices! {
    /// The choice "down".
    Down {
        Top = "top",
        Middle = "middle",
        Bottom = "bottom",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    text("text", "LANTERN QUAY", "the words; in braces what lives: clock, countdown 23:30, tempo, bar, beat"),
    rate("speed", "16 beats", "how long until the words come round again; stopped, they stand"),
    choice(
        "weight",
        Weight::WORDS,
        "how thick the strokes are; built-in fonts have no light, and 5 high has one weight",
    ),
    choice("across", Across::WORDS, "where words that stand are on the span; x moves them from there"),
    choice("down", Down::WORDS, "where words lower than the span are on it; y moves them from there"),
    colours(&["#fff3c4", "#ff9d3b"], "from the top of the letters to their foot"),
    number("size", [0.0, 0.0, 200.0], "lights", "the height of a letter; 0 is as high as the span"),
    number("x", [-200.0, 0.0, 200.0], "%", "how far the words are moved to the right"),
    number("y", [-200.0, 0.0, 200.0], "%", "how far the words are moved down"),
    choice("way", Way::WORDS, "where they run"),
    choice("font", FONTS, "a built-in one, or that of the file"),
    file("file", Holds::Font, "a font of your own: TTF or OTF, from the folder of the show on"),
    number("spacing", [-20.0, 0.0, 100.0], "%", "how far letters are apart, of their height"),
    choice("outline", Outline::WORDS, "only the edges of the letters"),
];

const TEXT: TextParam = TextParam::named(PARAMS, "text");
const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const SIZE: NumberParam = NumberParam::named(PARAMS, "size");
const SPEED: RateParam = RateParam::named(PARAMS, "speed");
const Y: NumberParam = NumberParam::named(PARAMS, "y");
const X: NumberParam = NumberParam::named(PARAMS, "x");
const WAY: ChoiceParam<Way> = ChoiceParam::named(PARAMS, "way");
const FONT: ChoiceParam<usize> = ChoiceParam::named(PARAMS, "font");
const FILE: FileParam = FileParam::named(PARAMS, "file");
const WEIGHT: ChoiceParam<Weight> = ChoiceParam::named(PARAMS, "weight");
const SPACING: NumberParam = NumberParam::named(PARAMS, "spacing");
const OUTLINE: ChoiceParam<Outline> = ChoiceParam::named(PARAMS, "outline");

const ACROSS: ChoiceParam<Across> = ChoiceParam::named(PARAMS, "across");
const DOWN: ChoiceParam<Down> = ChoiceParam::named(PARAMS, "down");

/// The thickness of a weight, in percent of the regular one. Weights are words, which no modulator moves: each is a drawing.
fn weight_of(weight: Weight) -> f32 {
    match weight {
        Weight::Regular => 100.0,
        Weight::Light => 70.0,
        Weight::Bold => 140.0,
        Weight::Heavy => 190.0,
    }
}

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "marquee",
    family: "words",
    help: "Words that run across the lights or stand there; {clock}, {countdown 23:30}, {tempo}, {bar} and {beat} live in them",
    params: PARAMS,
    start: |_| Box::new(Marquee::default()),
};

/// The values that letters were drawn for; they are drawn anew where any of it changes, which is an edit and not a frame.
#[derive(Clone, PartialEq, Default)]
struct DrawnFor {
    text: String,
    font: usize,
    weight: f32,
    outline: bool,
}

#[derive(Default)]
struct Marquee {
    phase: Phase,
    lettering: Option<Lettering>,
    drawn: DrawnFor,
    file: Option<Arc<Font>>,
    written: Written,
    stands: bool,
    /// True if the letters are others than those that were written last.
    fresh: bool,
}

impl Marquee {
    fn draw_letters(&mut self, params: &Params) {
        let (text, font) = (params.text(TEXT), params.choice(FONT));
        let (weight, outline) = (weight_of(params.choice(WEIGHT)), params.choice(OUTLINE) == Outline::Yes);
        let of_file = params.font(FILE).filter(|_| font == FONTS.len() - 1);
        let same_file = match (&self.file, of_file) {
            (None, None) => true,
            (Some(a), Some(b)) => Arc::ptr_eq(a, b),
            _ => false,
        };
        let drawn = &self.drawn;
        let same = drawn.text == text && drawn.font == font && drawn.weight == weight && drawn.outline == outline;
        if same && same_file && self.lettering.is_some() {
            return;
        }
        self.drawn = DrawnFor { text: text.to_owned(), font, weight, outline };
        self.file = of_file.cloned();
        self.fresh = true;
        self.lettering = Some(match &self.file {
            Some(file) => Lettering::from_font(file, text, weight, outline),
            None => Lettering::built_in(font, text, weight, outline),
        });
    }
}

impl Effect for Marquee {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        self.draw_letters(params);
        if let Some(lettering) = &self.lettering {
            let spacing = params.number(SPACING) / 100.0 * lettering.height as f32;
            if self.fresh {
                self.written.make_room(params.text(TEXT), lettering, spacing);
                self.fresh = false;
            }
            self.written.write(params.text(TEXT), lettering, spacing, moment);
            self.written.draw(lettering);
        }
        self.stands = params.rate(SPEED) == Rate::Stopped;
        if self.stands {
            // Wherever they were, they stand where they belong now.
            self.phase.restart();
        }
        self.phase.advance(params.rate(SPEED), moment.step);
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        let Some(lettering) = &self.lettering else { return };
        let size = if params.number(SIZE) > 0.0 { params.number(SIZE) } else { cells.height };
        let scale = lettering.height as f32 / size.max(1.0);
        let (wide, high) = (cells.width * scale, cells.height * scale);
        let length = self.written.length();
        let turns = self.phase.behind(cells.late).turns();
        // A whole round: the words, and as much nothing as the span is wide, or high.
        let [first, last] = self.written.ink();
        let across = match params.choice(ACROSS) {
            Across::Centre => (first + last - wide) / 2.0,
            Across::Left => first,
            Across::Right => last - wide,
        };
        let letters = lettering.height as f32;
        let down = match params.choice(DOWN) {
            Down::Top => 0.0,
            Down::Middle => (letters - high) / 2.0,
            Down::Bottom => letters - high,
        };
        let (mut shift, mut drop) = match params.choice(WAY) {
            _ if self.stands && turns == 0.0 => (across, down),
            Way::Left => (turns * (length + wide) - wide, down),
            Way::Right => ((1.0 - turns) * (length + wide) - wide, down),
            way @ (Way::Up | Way::Down) => {
                let gone = turns * (high + letters) - high;
                (across, if way == Way::Up { gone } else { -gone - (high - letters) })
            }
        };
        shift -= params.number(X) / 100.0 * wide;
        drop -= params.number(Y) / 100.0 * high;
        let (mut places, mut cover) = ([0.0; TILE], [0.0; TILE]);
        let (places, cover) = (&mut places[..out.len()], &mut cover[..out.len()]);
        for i in 0..out.len() {
            let v = cells.y[i] * scale + drop;
            places[i] = v / letters;
            cover[i] = self.written.cover(cells.x[i] * scale + shift, v);
        }
        params.covered_along(COLOURS, places, cover, out);
    }

    fn phase(&mut self) -> Option<&mut Phase> {
        Some(&mut self.phase)
    }

    fn has_prepared(&self) -> bool {
        true
    }
}
