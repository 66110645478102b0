//! Variations of a look: the same layers with numbers, rates and colours a little or a lot different, drawn from a seed.

use splimo_base::colour::{Hex, OkLab, to_screen};
use splimo_base::maths::{cos_turns, hash, sin_turns, unit};
use splimo_base::ramp::Stop;
use splimo_light::effect::{self, ParamKind, ParamSpec};
use splimo_show::palette;
use splimo_show::{Layer, Look, Param, Swatch};
use splimo_time::rate::{LADDER, Rate};

/// Draws numbers, the same for the same seed.
struct Lot(u32);

impl Lot {
    /// A number from -1 to 1.
    fn draw(&mut self) -> f32 {
        self.0 = self.0.wrapping_add(0x9e37_79b9);
        unit(hash(self.0)) * 2.0 - 1.0
    }

    fn chance(&mut self, share: f32) -> bool {
        (self.draw() + 1.0) / 2.0 < share
    }
}

/// A variation of a look. Its target, spans and areas stay; colours turn round the hue circle together, so that they still
/// go with each other.
#[must_use]
pub fn variation(look: &Look, palette: &[Swatch], seed: u32) -> Look {
    let mut lot = Lot(hash(seed ^ 0x5eed_1e55));
    let hue = lot.draw() * 0.5;
    let hue = if lot.chance(0.3) { 0.0 } else { hue };
    let mut varied = look.clone();
    for layer in &mut varied.layers {
        vary_layer(layer, palette, hue, &mut lot);
    }
    varied
}

fn vary_layer(layer: &mut Layer, palette: &[Swatch], hue: f32, lot: &mut Lot) {
    let Some(spec) = effect::find(&layer.effect) else { return };
    for param in spec.params {
        let value = super::value_of(layer, param);
        if let Some(value) = vary_value(param, &value, palette, hue, lot) {
            super::set_value(layer, param, value);
        }
    }
}

fn vary_value(spec: &ParamSpec, value: &Param, palette: &[Swatch], hue: f32, lot: &mut Lot) -> Option<Param> {
    match (spec.kind, value) {
        (ParamKind::Number { min, max, .. }, Param::Number(number)) => {
            if lot.chance(0.35) {
                return None;
            }
            let number = *number as f32;
            // What lies on both sides of zero moves by its range, the rest by its own size.
            let moved = match min < 0.0 {
                true => number + lot.draw() * ((max - min) * 0.12).min(60.0),
                false => (number * (1.0 + 0.8 * lot.draw())).max(min),
            };
            Some(Param::Number(
                f64::from((moved.clamp(min, max) * 10.0).round() / 10.0).clamp(f64::from(min), f64::from(max)),
            ))
        }
        (ParamKind::Rate { .. }, Param::Text(text)) => vary_rate(text, lot).map(Param::Text),
        (ParamKind::Choice { options }, Param::Text(_)) if lot.chance(0.35) => {
            let at = ((lot.draw() + 1.0) / 2.0 * options.len() as f32) as usize;
            Some(Param::Text(options[at.min(options.len() - 1)].to_owned()))
        }
        (ParamKind::Colours { .. }, value) if hue != 0.0 => Some(Param::List(turned(value, palette, hue)?)),
        _ => None,
    }
}

/// A rate one or two steps faster or slower.
fn vary_rate(text: &str, lot: &mut Lot) -> Option<String> {
    let rate: Rate = text.parse().ok()?;
    let by = (lot.draw() * 2.4).round() as i32;
    let Rate::Beats(beats) = rate else { return None };
    let place = LADDER.iter().position(|step| step.parse() == Ok(Rate::Beats(beats.abs())))? as i32;
    let step = LADDER[(place + by).clamp(1, 11) as usize];
    Some(if beats < 0.0 { format!("-{step}") } else { step.to_owned() })
}

/// Colours turned round the hue circle by some turns.
fn turned(value: &Param, palette: &[Swatch], hue: f32) -> Option<Vec<String>> {
    let texts: Vec<&str> = match value {
        Param::List(list) => list.iter().map(String::as_str).collect(),
        Param::Text(text) => vec![text.as_str()],
        _ => return None,
    };
    let stops = palette::stops(texts.into_iter(), palette).ok()?;
    Some(stops.iter().map(|stop| turn(*stop, hue).to_string()).collect())
}

fn turn(stop: Stop, hue: f32) -> Stop {
    let [r, g, b, _] = stop.colour.to_linear();
    let lab = OkLab::from_linear([r, g, b]);
    let (sin, cos) = (sin_turns(hue), cos_turns(hue));
    let turned = OkLab { a: lab.a * cos - lab.b * sin, b: lab.a * sin + lab.b * cos, ..lab };
    let [r, g, b] = to_screen(turned.to_linear());
    Stop { colour: Hex([r, g, b, stop.colour.0[3]]), ..stop }
}
