//! Modulators at work: each tick they find what they give at that moment and move the parameters of a layer by it.

mod running;
#[cfg(test)]
mod tests;

use crate::effect::{ColoursParam, EffectSpec, Moment, NumberParam, ParamKind, Params, Tinge};
use running::Running;
use splimo_base::formula::Formula;
use splimo_show::{MOST_STEPS, Modulator, ModulatorSource};
use splimo_time::rate::Rate;

/// The word behind the name of a gradient by which its hue is meant.
pub const HUE: &str = "hue";
/// The same for its brightness.
pub const BRIGHTNESS: &str = "brightness";
/// The same for where it is.
pub const POSITION: &str = "position";
/// The name by which the layer's opacity is meant.
pub const OPACITY: &str = "opacity";
/// The name by which the layer's place in its cycles is meant.
pub const PHASE: &str = "phase";

/// The target of a modulator.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Target {
    /// A number of the effect, within its range.
    Number {
        /// The parameter.
        param: NumberParam,
        /// The least it may be.
        min: f32,
        /// The most it may be.
        max: f32,
    },
    /// The hue of a gradient, in degrees.
    Hue(ColoursParam),
    /// The brightness of a gradient, in percent.
    Brightness(ColoursParam),
    /// The place of a gradient, in percent of its length.
    Position(ColoursParam),
    /// The opacity of the layer, in percent.
    Opacity,
    /// The place of the layer in its cycles, in percent of one.
    Phase,
}

/// The effect of modulators on a layer at a moment, beside its parameters.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Moved {
    /// By how much its opacity is other, in shares of 1.
    pub opacity: f32,
    /// By how much it is further in its cycles, in turns.
    pub phase: f32,
}

impl Target {
    /// The target of a name.
    #[must_use]
    pub fn named(name: &str, spec: &EffectSpec) -> Option<Self> {
        if name == OPACITY {
            return Some(Self::Opacity);
        }
        if name == PHASE {
            return Some(Self::Phase);
        }
        let place = |wanted: &str| spec.params.iter().position(|param| param.name == wanted);
        if let Some(index) = place(name) {
            let param = NumberParam::at(spec.params, index)?;
            let ParamKind::Number { min, max, .. } = spec.params[index].kind else { return None };
            return Some(Self::Number { param, min, max });
        }
        let (param, aspect) = name.rsplit_once(' ')?;
        let param = ColoursParam::at(spec.params, place(param)?)?;
        match aspect {
            HUE => Some(Self::Hue(param)),
            BRIGHTNESS => Some(Self::Brightness(param)),
            POSITION => Some(Self::Position(param)),
            _ => None,
        }
    }

    /// The names of everything that can be moved on a layer of an effect.
    #[must_use]
    pub fn names(spec: &EffectSpec) -> Vec<String> {
        let mut names = Vec::new();
        for param in spec.params {
            match param.kind {
                ParamKind::Number { .. } => names.push(param.name.to_owned()),
                ParamKind::Colours { .. } => {
                    names.extend([HUE, BRIGHTNESS, POSITION].map(|aspect| format!("{} {aspect}", param.name)));
                }
                _ => {}
            }
        }
        names.extend([OPACITY, PHASE].map(str::to_owned));
        names
    }

    /// A depth that shows, to begin with.
    #[must_use]
    pub fn fair_depth(self) -> f32 {
        match self {
            Self::Number { min, max, .. } => {
                let depth = (max - min) / 8.0;
                if depth > 4.0 { depth.min(30.0).round() } else { (depth * 100.0).round() / 100.0 }
            }
            Self::Hue(_) => 60.0,
            Self::Brightness(_) | Self::Position(_) | Self::Opacity => 50.0,
            // One whole cycle.
            Self::Phase => 100.0,
        }
    }
}

/// The reason why a modulator of a show cannot work.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct BadModulator {
    /// The field.
    pub field: &'static str,
    /// The fault.
    pub message: String,
    /// The way to mend it.
    pub mend: String,
}

/// Finds what is wrong with a modulator.
///
/// # Errors
/// [`BadModulator`] with its field.
pub fn check(modulator: &Modulator, spec: &EffectSpec) -> Result<(), BadModulator> {
    compile(modulator, spec, 0).map(|_| ())
}

fn bad<T>(field: &'static str, message: impl Into<String>, mend: impl Into<String>) -> Result<T, BadModulator> {
    Err(BadModulator { field, message: message.into(), mend: mend.into() })
}

fn in_range(field: &'static str, value: f32, from: f32, to: f32) -> Result<(), BadModulator> {
    if (from..=to).contains(&value) {
        return Ok(());
    }
    bad(field, format!("{value} is out of range"), format!("write a number from {from} to {to}"))
}

fn compile(modulator: &Modulator, spec: &EffectSpec, seed: u32) -> Result<(Target, Running), BadModulator> {
    let Some(target) = Target::named(&modulator.param, spec) else {
        let message = format!("{} has nothing to move that is called \"{}\"", spec.name, modulator.param);
        return bad("param", message, format!("it has {}", Target::names(spec).join(", ")));
    };
    in_range("depth", modulator.depth, -1e5, 1e5)?;
    in_range("offset", modulator.offset, -1e5, 1e5)?;
    in_range("curve", modulator.curve, 0.05, 20.0)?;
    in_range("smooth", modulator.smooth, 0.0, 60.0)?;
    let (rate, formula) = compile_source(&modulator.source)?;
    Ok((target, Running::new(modulator, rate, formula, seed)))
}

/// The rate and the formula of a source, as far as it has them.
fn compile_source(source: &ModulatorSource) -> Result<(Rate, Option<Formula>), BadModulator> {
    if let Some(cycle) = source.cycle() {
        in_range("phase", cycle.phase, -64.0, 64.0)?;
    }
    let rate = match source.rate().map(str::parse::<Rate>) {
        None => Rate::Stopped,
        Some(Ok(rate)) => rate,
        Some(Err(why)) => return bad("rate", "is not a rate", splimo_time::rate::BadRate::to_string(&why)),
    };
    match source {
        ModulatorSource::Band(number) => {
            in_range("number", *number as f32, 1.0, splimo_time::music::MOST_BANDS as f32)?
        }
        ModulatorSource::Control(number) => in_range("number", *number as f32, 1.0, splimo_show::CONTROLS as f32)?,
        ModulatorSource::Counter(counter) => in_range("count", counter.count as f32, 1.0, 10_000.0)?,
        ModulatorSource::Steps(_, steps) => check_steps(steps)?,
        ModulatorSource::Formula(formula) => match Formula::compile(formula) {
            Ok(formula) => return Ok((rate, Some(formula))),
            Err(why) => {
                let mend = "splimo effects lists what it may hold";
                return bad("formula", format!("the formula is wrong at {why}"), mend);
            }
        },
        ModulatorSource::Sine(_)
        | ModulatorSource::Triangle(_)
        | ModulatorSource::SawUp(_)
        | ModulatorSource::SawDown(_)
        | ModulatorSource::Square(_)
        | ModulatorSource::Random(_)
        | ModulatorSource::Drift(_)
        | ModulatorSource::Draw
        | ModulatorSource::Level
        | ModulatorSource::Bass
        | ModulatorSource::Mids
        | ModulatorSource::Highs
        | ModulatorSource::Onset(_)
        | ModulatorSource::Beat(_) => {}
    }
    Ok((rate, None))
}

fn check_steps(steps: &[f32]) -> Result<(), BadModulator> {
    if steps.is_empty() || steps.len() > MOST_STEPS {
        let message = format!("it has {} steps", steps.len());
        return bad("steps", message, format!("give it 1 to {MOST_STEPS}, such as [0, 50, 100]"));
    }
    steps.iter().try_for_each(|step| in_range("steps", *step, -100.0, 100.0))
}

/// The modulators of a layer.
#[derive(Debug, Default)]
pub struct Modulators {
    running: Vec<(usize, Running)>,
    /// The targets, each once, and by how much each is moved at the moment.
    moved: Vec<(Target, f32)>,
}

impl Modulators {
    /// The modulators of a layer. One that cannot work is left out, which the check of a document tells.
    #[must_use]
    pub fn compile(modulators: &[Modulator], spec: &EffectSpec, seed: u32) -> Self {
        let mut all = Self::default();
        for (index, modulator) in modulators.iter().enumerate() {
            let seed = seed.wrapping_mul(31).wrapping_add(index as u32);
            let Ok((target, running)) = compile(modulator, spec, seed) else { continue };
            let place = all.moved.iter().position(|(known, _)| *known == target);
            let place = place.unwrap_or_else(|| {
                all.moved.push((target, 0.0));
                all.moved.len() - 1
            });
            all.running.push((place, running));
        }
        all
    }

    /// Goes on to a moment and moves the parameters; `base` has them as the layer says.
    pub fn apply(&mut self, moment: &Moment<'_>, base: &Params, params: &mut Params) -> Moved {
        let mut moved = Moved::default();
        if self.running.is_empty() {
            return moved;
        }
        self.moved.iter_mut().for_each(|(_, by)| *by = 0.0);
        for (place, running) in &mut self.running {
            self.moved[*place].1 += running.advance(moment);
        }
        for &(target, by) in &self.moved {
            match target {
                Target::Number { param, min, max } => {
                    params.set_number(param, (base.number(param) + by).clamp(min, max));
                }
                Target::Opacity => moved.opacity = by / 100.0,
                Target::Phase => moved.phase = by / 100.0,
                Target::Hue(param) | Target::Brightness(param) | Target::Position(param) => {
                    params.tinge(param, self.tinge(param));
                }
            }
        }
        moved
    }

    fn tinge(&self, wanted: ColoursParam) -> Tinge {
        let mut tinge = Tinge::NONE;
        for &(target, by) in &self.moved {
            match target {
                Target::Hue(param) if param == wanted => tinge.hue = by / 360.0,
                Target::Brightness(param) if param == wanted => tinge.brightness = (1.0 + by / 100.0).clamp(0.0, 1.0),
                Target::Position(param) if param == wanted => tinge.position = by / 100.0,
                _ => {}
            }
        }
        tinge
    }

    /// Goes on where older ones of the same layer are: each where the one is that moved the same by the same, wherever it stood,
    /// and else where the one in its place is.
    pub fn take_over(&mut self, older: &Self) {
        let mut taken = vec![false; older.running.len()];
        let mut left = Vec::new();
        for (place, (_, running)) in self.running.iter_mut().enumerate() {
            let fits = |at: &usize| !taken[*at] && running.is_like(&older.running[*at].1);
            match Some(place).filter(|at| *at < taken.len() && fits(at)).or_else(|| (0..taken.len()).find(fits)) {
                Some(found) => {
                    taken[found] = true;
                    running.take_over(&older.running[found].1);
                }
                None => left.push(place),
            }
        }
        for place in left {
            if taken.get(place) == Some(&false) {
                self.running[place].1.take_over(&older.running[place].1);
            }
        }
    }

    /// The value of each at the moment, -1..1, in their order.
    pub fn values(&self) -> impl Iterator<Item = f32> + '_ {
        self.running.iter().map(|(_, running)| running.value())
    }
}
