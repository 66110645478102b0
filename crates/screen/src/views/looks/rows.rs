//! The lines of a layer: everything about it, each edited in place.

use splimo_base::colour_words;
use splimo_document::making::{self, name_of_area};
use splimo_light::effect::{self, EffectSpec, ParamKind, ParamSpec};
use splimo_light::modulate;
use splimo_show::{Area, Blend, Layer, Modulator, Param, Repeat, Span};
use splimo_time::rate::{LADDER, Rate};

/// A line.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Row {
    Effect,
    /// A parameter of the effect, by its place in the declaration.
    Param(usize),
    Blend,
    Opacity,
    Target,
    Span,
    Area,
    Repeat,
    Later,
    Phase,
}

/// The lines of a layer, in their order.
pub(super) fn rows_of(layer: &Layer) -> Vec<Row> {
    let params = spec_of(layer).map_or(0, |spec| spec.params.len());
    let head = std::iter::once(Row::Effect).chain((0..params).map(Row::Param));
    let rest = [Row::Blend, Row::Opacity, Row::Target, Row::Span, Row::Area, Row::Repeat, Row::Later, Row::Phase];
    head.chain(rest).collect()
}

pub(super) fn spec_of(layer: &Layer) -> Option<&'static EffectSpec> {
    effect::find(&layer.effect)
}

impl Row {
    pub(super) fn param(self, layer: &Layer) -> Option<&'static ParamSpec> {
        match self {
            Self::Param(index) => spec_of(layer)?.params.get(index),
            _ => None,
        }
    }

    pub(super) fn label(self, layer: &Layer) -> &'static str {
        match self {
            Self::Effect => "effect",
            Self::Param(_) => self.param(layer).map_or("", |spec| spec.name),
            Self::Blend => "blend",
            Self::Opacity => "opacity",
            Self::Target => "target",
            Self::Span => "span",
            Self::Area => "area",
            Self::Repeat => "repeat",
            Self::Later => "each later",
            Self::Phase => "phase",
        }
    }

    /// The name by which a modulator moves it; of a gradient its hue, to begin with.
    pub(super) fn moved_name(self, layer: &Layer) -> Option<String> {
        match (self, self.param(layer).map(|spec| spec.kind)) {
            (Self::Opacity, _) => Some(modulate::OPACITY.to_owned()),
            (Self::Phase, _) => Some(modulate::PHASE.to_owned()),
            (_, Some(ParamKind::Number { .. })) => Some(self.label(layer).to_owned()),
            (_, Some(ParamKind::Colours { .. })) => Some(format!("{} {}", self.label(layer), modulate::HUE)),
            _ => None,
        }
    }

    /// The modulators that move it, with their places in the layer.
    pub(super) fn modulators(self, layer: &Layer) -> Vec<(usize, &Modulator)> {
        let label = self.label(layer);
        let moves = |m: &Modulator| match self {
            Self::Opacity => m.param == modulate::OPACITY,
            Self::Phase => m.param == modulate::PHASE,
            Self::Param(_) => m.param == label || m.param.rsplit_once(' ').is_some_and(|(param, _)| param == label),
            _ => false,
        };
        layer.modulators.iter().enumerate().filter(|(_, m)| moves(m)).collect()
    }

    /// Its value in words.
    pub(super) fn value(self, layer: &Layer) -> String {
        match self {
            Self::Effect => layer.effect.clone(),
            Self::Param(_) => {
                self.param(layer).map_or_else(String::new, |spec| words(spec, &making::value_of(layer, spec)))
            }
            Self::Blend => layer.blend.name().to_owned(),
            Self::Opacity => format!("{} %", plain(f64::from(layer.opacity) * 100.0)),
            Self::Target if layer.target.is_empty() => "every light".to_owned(),
            Self::Target => layer.target.join(" + "),
            Self::Span => layer.span.name().to_owned(),
            Self::Area if !layer.region.is_empty() => format!("region {}", layer.region),
            Self::Area => area_words(layer.area),
            Self::Repeat => layer.repeat.name().to_owned(),
            Self::Later => format!("{} %", plain(f64::from(layer.later))),
            Self::Phase => format!("{} %", plain(layer.phase * 100.0)),
        }
    }

    /// The help, in one line.
    pub(super) fn help(self, layer: &Layer) -> &'static str {
        match self {
            Self::Effect => spec_of(layer).map_or("", |spec| spec.help),
            Self::Param(_) => self.param(layer).map_or("", |spec| spec.help),
            Self::Blend => "how it meets the layers below",
            Self::Opacity => "how much of the layer there is",
            Self::Target => "which lights it has; t chooses them",
            Self::Span => "over what it is stretched",
            Self::Area => "its rectangle on the span, or a region that layers share; r changes it",
            Self::Repeat => "how the parts of the span repeat it",
            Self::Later => "by how much of a cycle each part of the span is later than the one before",
            Self::Phase => "where in its cycle it begins; m has a control or a wave drive it",
        }
    }

    /// The place of its value in its range, 0..1, for those that have one worth drawing.
    pub(super) fn share(self, layer: &Layer) -> Option<f32> {
        match self {
            Self::Opacity => Some(layer.opacity),
            Self::Param(_) => {
                let spec = self.param(layer)?;
                let ParamKind::Number { min, max, .. } = spec.kind else { return None };
                let Param::Number(number) = making::value_of(layer, spec) else { return None };
                let share = (number as f32 - min) / (max - min);
                // Of a long range the near end is where one works.
                Some(if min >= 0.0 && max > 60.0 * min.max(1.0) && max > 100.0 { share.max(0.0).sqrt() } else { share })
            }
            _ => None,
        }
    }

    /// Moves the value; `by` is 1 or -1, times 10 where it is to be coarse.
    pub(super) fn nudge(self, layer: &mut Layer, by: i32) {
        match self {
            Self::Effect => {
                let at = effect::EFFECTS.iter().position(|spec| spec.name == layer.effect).unwrap_or(0);
                let next = effect::EFFECTS[turned(at, by, effect::EFFECTS.len())];
                change_effect(layer, next);
            }
            Self::Param(_) => {
                let Some(spec) = self.param(layer) else { return };
                let value = making::value_of(layer, spec);
                if let Some(value) = nudged(spec, &value, by) {
                    making::set_value(layer, spec, value);
                }
            }
            Self::Blend => layer.blend = stepped(&Blend::ALL, layer.blend, by),
            Self::Opacity => layer.opacity = rounded(f64::from(layer.opacity) + 0.01 * f64::from(by), 0.0, 1.0) as f32,
            Self::Target => {}
            Self::Span => layer.span = stepped(&Span::ALL, layer.span, by),
            Self::Area => {
                let names: Vec<Area> = making::AREAS.iter().map(|(_, area)| *area).collect();
                let at = names.iter().position(|a| name_of_area(*a) == name_of_area(layer.area)).unwrap_or(0);
                layer.area = names[turned(at, by.signum(), names.len())];
                layer.region.clear();
            }
            Self::Repeat => layer.repeat = stepped(&Repeat::ALL, layer.repeat, by),
            Self::Later => layer.later = rounded(f64::from(layer.later) + f64::from(by), -10_000.0, 10_000.0) as f32,
            Self::Phase => layer.phase = rounded(layer.phase + 0.01 * f64::from(by), -1e6, 1e6),
        }
    }

    /// Takes what was typed.
    ///
    /// # Errors
    /// The reason why it cannot be, and what could.
    pub(super) fn take(self, layer: &mut Layer, text: &str) -> Result<(), String> {
        let text = text.trim();
        let number = |low: f64, high: f64| match text.trim_end_matches('%').trim().parse::<f64>() {
            Ok(number) if (low..=high).contains(&number) => Ok(number),
            Ok(number) => Err(format!("{} cannot be {number}; type a number from {low} to {high}", self.label(layer))),
            Err(_) => Err(format!("\"{text}\" is not a number; type one from {low} to {high}")),
        };
        match self {
            Self::Opacity => layer.opacity = (number(0.0, 100.0)? / 100.0) as f32,
            Self::Later => layer.later = number(-10_000.0, 10_000.0)? as f32,
            Self::Phase => layer.phase = number(-1e6, 1e6)? / 100.0,
            Self::Param(_) => {
                let Some(spec) = self.param(layer) else { return Ok(()) };
                let value = match spec.kind {
                    ParamKind::Number { min, max, .. } => Param::Number(number(f64::from(min), f64::from(max))?),
                    // A number alone means beats, and none of them that it stands.
                    ParamKind::Rate { .. } => {
                        let whole = match text.parse::<f64>() {
                            Ok(0.0) => LADDER[0].to_owned(),
                            Ok(_) => format!("{text} beats"),
                            Err(_) => text.to_owned(),
                        };
                        whole.parse::<Rate>().map_err(|e| e.to_string())?;
                        Param::Text(whole)
                    }
                    ParamKind::Looks => {
                        let names = text.split(',').map(str::trim).filter(|name| !name.is_empty());
                        Param::List(names.map(str::to_owned).collect())
                    }
                    // Nothing between two commas leaves a look the time of the layer.
                    ParamKind::Times => Param::List(times(text)),
                    ParamKind::Colours { .. } => Param::List(colour_words::list(text)),
                    _ => Param::Text(text.to_owned()),
                };
                making::set_value(layer, spec, value);
            }
            _ => {}
        }
        Ok(())
    }

    /// True if digits typed on it replace its value.
    pub(super) fn takes_digits(self, layer: &Layer) -> bool {
        match self {
            Self::Opacity | Self::Later | Self::Phase => true,
            Self::Param(_) => {
                matches!(self.param(layer).map(|s| s.kind), Some(ParamKind::Number { .. } | ParamKind::Rate { .. }))
            }
            _ => false,
        }
    }
}

/// Gives a layer another effect. What both have of the same name and kind stays.
pub(super) fn change_effect(layer: &mut Layer, spec: &'static EffectSpec) {
    layer.effect = spec.name.to_owned();
    let fits = |name: &String, value: &Param| {
        let known = spec.params.iter().find(|param| param.name == name);
        known.is_some_and(|param| {
            let alone = [(name.clone(), value.clone())].into();
            matches!(param.kind, ParamKind::Colours { .. }) || effect::Params::compile(spec, &alone, &[]).is_ok()
        })
    };
    layer.params.retain(|name, value| fits(name, value));
    layer.modulators.retain(|m| modulate::Target::named(&m.param, spec).is_some());
}

/// Times as they are typed, with commas between; those that are empty at the end are left out.
fn times(text: &str) -> Vec<String> {
    let mut times: Vec<String> = text.split(',').map(|time| time.trim().to_owned()).collect();
    while times.last().is_some_and(String::is_empty) {
        times.pop();
    }
    times
}

fn turned(at: usize, by: i32, of: usize) -> usize {
    (at as i64 + i64::from(by)).rem_euclid(of.max(1) as i64) as usize
}

fn stepped<T: Copy + PartialEq>(all: &[T], now: T, by: i32) -> T {
    let at = all.iter().position(|one| *one == now).unwrap_or(0);
    all[turned(at, by.signum(), all.len())]
}

/// Without the digits that steps of a tenth leave behind.
fn rounded(number: f64, low: f64, high: f64) -> f64 {
    (number.clamp(low, high) * 1e4).round() / 1e4
}

fn nudged(spec: &ParamSpec, value: &Param, by: i32) -> Option<Param> {
    match (spec.kind, value) {
        (ParamKind::Number { min, max, .. }, Param::Number(number)) => {
            let next = number + step_of(min, max) * f64::from(by);
            Some(Param::Number(rounded(next, f64::from(min), f64::from(max))))
        }
        (ParamKind::Rate { .. }, Param::Text(text)) => Some(Param::Text(nudged_rate(text, by))),
        (ParamKind::Choice { options }, Param::Text(text)) => {
            let at = options.iter().position(|o| o == text).unwrap_or(0);
            Some(Param::Text(options[turned(at, by.signum(), options.len())].to_owned()))
        }
        _ => None,
    }
}

/// The step of one key: small numbers move by hundredths, large ones by whole ones.
fn step_of(min: f32, max: f32) -> f64 {
    match max - min {
        range if range > 30.0 => 1.0,
        range if range > 3.0 => 0.1,
        _ => 0.02,
    }
}

/// The next faster or slower note value, keeping the direction. What is in no note value goes to the nearest.
pub(super) fn nudged_rate(text: &str, by: i32) -> String {
    let beats = |text: &str| match text.parse::<Rate>() {
        Ok(Rate::Beats(beats)) => beats,
        Ok(Rate::Seconds(s)) => s * 2.0,
        Ok(Rate::Hertz(hz)) => 2.0 / hz,
        _ => 0.0,
    };
    let now = beats(text);
    let at = if now == 0.0 {
        0
    } else {
        let distance = |step: &&str| (beats(step).ln() - now.abs().ln()).abs();
        let near = LADDER.iter().skip(1).min_by(|a, b| distance(a).total_cmp(&distance(b)));
        near.and_then(|step| LADDER.iter().position(|s| s == step)).unwrap_or(0)
    };
    let next = LADDER[(at as i64 + i64::from(by.signum())).clamp(0, LADDER.len() as i64 - 1) as usize];
    if now < 0.0 && next != LADDER[0] { format!("-{next}") } else { next.to_owned() }
}

fn words(spec: &ParamSpec, value: &Param) -> String {
    match (spec.kind, value) {
        (ParamKind::Number { unit, .. }, Param::Number(number)) => match unit {
            "" => plain(*number),
            unit => format!("{} {unit}", plain(*number)),
        },
        (ParamKind::Looks | ParamKind::Times, Param::List(names)) => names.join(", "),
        (_, Param::Text(text)) => text.clone(),
        (_, Param::List(list)) => list.join("  "),
        (_, Param::Number(number)) => plain(*number),
        (_, Param::Flag(flag)) => flag.to_string(),
    }
}

pub(super) fn area_words(area: Area) -> String {
    match name_of_area(area) {
        Some(name) => name.to_owned(),
        None => {
            let n = |number: f32| plain(f64::from((number * 10.0).round() / 10.0));
            format!("{} x {} % at {}, {}", n(area.width), n(area.height), n(area.x), n(area.y))
        }
    }
}

/// A number with as many digits as it needs, three behind the point at the most.
pub(super) fn plain(number: f64) -> String {
    let text = format!("{number:.3}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    if text == "-0" { "0".to_owned() } else { text.to_owned() }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_line_of_every_effect_can_be_nudged_and_stays_right() {
        for spec in effect::EFFECTS {
            let mut layer = Layer::new(spec.name);
            for row in rows_of(&layer).into_iter().skip(1) {
                for by in [1, 1, -1, 10, -30, 400] {
                    row.nudge(&mut layer, by);
                    assert!(effect::Params::compile(spec, &layer.params, &[]).is_ok(), "{} {row:?}", spec.name);
                }
                assert!(!row.label(&layer).is_empty() && !row.help(&layer).is_empty());
            }
        }
    }

    #[test]
    fn rates_go_up_and_down_the_note_values() {
        assert_eq!(nudged_rate("4 beats", 1), "2 beats");
        assert_eq!(nudged_rate("4 beats", -1), "2 bars");
        assert_eq!(nudged_rate("-2 beats", 1), "-1 beat");
        assert_eq!(nudged_rate("32 bars", -1), "stopped");
        assert_eq!(nudged_rate("stopped", 1), "32 bars");
        assert_eq!(nudged_rate("2 s", 1), "2 beats");
    }

    #[test]
    fn another_effect_keeps_what_both_have() {
        let mut layer = Layer::new("gradient");
        layer.params.insert("colours".into(), Param::List(vec!["#112233".into()]));
        layer.params.insert("repeats".into(), Param::Number(3.0));
        layer.params.insert("form".into(), Param::Text("mirrored".into()));
        change_effect(&mut layer, effect::find("sweep").expect("it is there"));
        assert_eq!(layer.params.keys().collect::<Vec<_>>(), ["colours"]);
    }

    #[test]
    fn what_is_typed_is_taken_or_refused_with_a_reason() {
        let mut layer = Layer::new("gradient");
        let row =
            |label: &str, layer: &Layer| rows_of(layer).into_iter().find(|r| r.label(layer) == label).expect("a row");
        let angle = row("angle", &layer);
        assert_eq!(angle.take(&mut layer, "35"), Ok(()));
        assert_eq!(angle.value(&layer), "35 °");
        assert!(angle.take(&mut layer, "9000").is_err_and(|why| why.contains("360")));
        let speed = row("speed", &layer);
        assert_eq!((speed.take(&mut layer, "3"), speed.value(&layer)), (Ok(()), "3 beats".into()));
        assert!(speed.take(&mut layer, "fast").is_err());
        assert_eq!(Row::Opacity.take(&mut layer, "60 %"), Ok(()));
        assert_eq!(layer.opacity, 0.6);
    }
}
