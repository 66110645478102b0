//! The notes of what is heard, each in its own place and colour.

use super::follow::{follow, sensed};
use super::params::handle::{ChoiceParam, ColoursParam, NumberParam, choices};
use super::params::{choice, colours, number};
use super::table::Table;
use super::{Cells, Effect, EffectSpec, Moment, ParamSpec, Params};
use crate::rig::TILE;
use splimo_base::colour::Rgba;
use splimo_base::maths::{angle_turns, fract};
use splimo_time::music::PITCHES;

choices! {
    /// The choice "form".
    Form {
        Across = "across",
        Around = "around",
        AllTogether = "all together",
    }
}

choices! {
    /// The choice "order".
    Order {
        ByPitch = "by pitch",
        ByFifths = "by fifths",
    }
}

/// The parameters.
const PARAMS: &[ParamSpec] = &[
    colours(
        &["#ff3b3b", "#ff8a2b", "#ffd52b", "#9be22d", "#2fd27a", "#2bcfd6", "#3b83ff", "#7a4dff", "#e04be0"],
        "from C round to B",
    ),
    choice("form", Form::WORDS, "notes side by side, around the middle, or as one colour"),
    choice("order", Order::WORDS, "neighbours are half a tone apart, or a fifth"),
    number("sensitivity", [0.1, 1.0, 8.0], "", "how bright the notes are"),
    number("attack", [0.0, 0.04, 5.0], "s", "how long a note takes to come"),
    number("decay", [0.0, 0.5, 10.0], "s", "how long it takes to go"),
];

const COLOURS: ColoursParam = ColoursParam::named(PARAMS, "colours");
const FORM: ChoiceParam<Form> = ChoiceParam::named(PARAMS, "form");
const ORDER: ChoiceParam<Order> = ChoiceParam::named(PARAMS, "order");
const SENSITIVITY: NumberParam = NumberParam::named(PARAMS, "sensitivity");
const ATTACK: NumberParam = NumberParam::named(PARAMS, "attack");
const DECAY: NumberParam = NumberParam::named(PARAMS, "decay");

/// The declaration.
pub(super) static SPEC: EffectSpec = EffectSpec {
    name: "chroma",
    family: "music",
    help: "The notes of what is heard: each of the twelve has its place and its colour",
    params: PARAMS,
    start: |_| Box::new(Chroma { notes: [0.0; PITCHES], strength: Table::default() }),
};

struct Chroma {
    /// The strength of each note, in the order in which they lie.
    notes: [f32; PITCHES],
    /// The brightness along the octave.
    strength: Table,
}

impl Effect for Chroma {
    fn advance(&mut self, params: &Params, moment: &Moment<'_>) {
        let seconds = moment.step.seconds as f32;
        let step = if params.choice(ORDER) == Order::ByFifths { 7 } else { 1 };
        for (place, note) in self.notes.iter_mut().enumerate() {
            let heard = moment.hearing.chroma[place * step % PITCHES] * moment.hearing.level.sqrt();
            let wanted = sensed(heard, params.number(SENSITIVITY));
            follow(note, wanted, seconds, params.number(ATTACK), params.number(DECAY));
        }
        let notes = self.notes;
        self.strength.fill(|share| {
            let strength = strength_at(&notes, share);
            strength * strength
        });
    }

    fn light(&self, params: &Params, cells: &Cells<'_>, out: &mut [Rgba]) {
        if params.choice(FORM) == Form::AllTogether {
            out.fill(self.together(params));
            return;
        }
        let (mut places, mut cover) = ([0.0; TILE], [0.0; TILE]);
        let (places, cover) = (&mut places[..out.len()], &mut cover[..out.len()]);
        let (cx, cy) = (cells.width / 2.0, cells.height / 2.0);
        let per_width = 1.0 / cells.width.max(1e-3);
        let lights = places.iter_mut().zip(cells.x.iter().zip(cells.y));
        match params.choice(FORM) {
            // From the top on, clockwise.
            Form::Around => lights.for_each(|(place, (x, y))| *place = fract(angle_turns(cy - y, x - cx))),
            Form::Across | Form::AllTogether => {
                lights.for_each(|(place, (x, _))| *place = (x * per_width).clamp(0.0, 0.9999))
            }
        }
        for (cover, place) in cover.iter_mut().zip(places.iter()) {
            *cover = self.strength.at(*place);
        }
        params.covered_around(COLOURS, places, cover, out);
    }
}

impl Chroma {
    /// The colours of all notes, each as strong as it is.
    fn together(&self, params: &Params) -> Rgba {
        let mut sum = [0.0; 4];
        let mut all = 1e-6;
        for (place, note) in self.notes.iter().enumerate() {
            let [r, g, b, a] = params.colour_at(COLOURS, (place as f32 + 0.5) / PITCHES as f32);
            // The strongest are to be seen and not the mud of all.
            let weight = note * note * note;
            all += weight;
            for (sum, part) in sum.iter_mut().zip([r, g, b, a]) {
                *sum += part * weight;
            }
        }
        let strongest = self.notes.iter().copied().fold(0.0, f32::max);
        [sum[0] / all, sum[1] / all, sum[2] / all, (sum[3] / all * strongest).min(1.0)]
    }
}

/// The strength of the notes at a share of the octave, gliding from note to note.
fn strength_at(notes: &[f32; PITCHES], share: f32) -> f32 {
    let place = share * PITCHES as f32 - 0.5 + PITCHES as f32;
    let note = place as usize;
    let (a, b) = (notes[note % PITCHES], notes[(note + 1) % PITCHES]);
    a + (b - a) * splimo_base::maths::smooth(place - note as f32)
}
