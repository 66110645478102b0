//! The evaluator: events in, commands out, by the bindings of a show.

use std::collections::HashMap;
use std::sync::Arc;

use super::charge::{Charges, subject};
use super::evaluator_state::State;
use super::reading::Readings;
use crate::Command;
use splimo_base::Seconds;
use splimo_show::command::{CueSet, EngineCommand};
use splimo_show::event::{Edge, EventAddress, InputEvent};
use splimo_show::{Answer, Binding, CommandTemplate, CueList, CueNumber, GoesOn, INPUT_PRIORITY, Show};

/// The value from which what has many values counts as pressed, and below which as let go.
const PRESSED: [f32; 2] = [0.5, 0.4];
/// The distance to which a value has to come to where things are to take over, as a share of its range.
const NEAR: f32 = 0.02;
/// The share of its range by which a step of an encoder moves.
const STEP: f32 = 0.01;
/// The time for which what was asked for is believed before where things are is looked at again, in seconds.
const OWN: Seconds = 0.5;
/// The share of the highest value that a value has to fall below a level before it can rise past it again.
const BACK: f32 = 0.03;

/// A command that an event asks for.
#[derive(Debug, Clone, PartialEq)]
pub struct Made {
    /// The command.
    pub command: Command,
    /// The input that asks.
    pub source: Arc<str>,
    /// The time of the event.
    pub at: Seconds,
    /// The place of the binding in the list.
    pub binding: usize,
}

/// The outcome of an event.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Outcome {
    /// The bindings that answered to it, by their places in the list.
    pub bindings: Vec<usize>,
    /// The number that the value gave, where a binding follows it.
    pub number: Option<f32>,
    /// The reason why nothing moved, where a binding answered and nothing did.
    pub why_not: Option<String>,
}

#[derive(Debug, Clone)]
struct Bound {
    binding: Binding,
    edges: Vec<u16>,
    state: State,
}

impl Bound {
    fn new(binding: Binding) -> Self {
        Self { edges: binding.bands.iter().map(|band| band.from).collect(), state: State::default(), binding }
    }

    /// The command that its value moves.
    fn moves(&self) -> Option<&splimo_show::command::Command> {
        self.binding.does.iter().find_map(CommandTemplate::moves)
    }
}

/// The request of a binding.
enum Asks {
    Nothing,
    Does(f32),
    LetsGo(f32),
    Band(usize),
}

/// Makes commands of events. The same events at the same times ask for the same.
#[derive(Debug, Clone, Default)]
pub struct Evaluator {
    bound: Vec<Bound>,
    /// The bindings of each input, by the address of the event.
    index: HashMap<Arc<str>, HashMap<EventAddress, Vec<usize>>>,
    priorities: HashMap<String, u8>,
    /// Shift layers that are on, by the bindings that hold them.
    layers: Vec<(usize, Arc<str>, String)>,
    charges: Charges,
    /// The fade, in beats, of what each input fires, where it has chosen one by a value.
    fades: HashMap<Arc<str>, f32>,
}

impl Evaluator {
    /// Goes over to the bindings of a show. Those that are as they were remember what they did, and what others held is let go.
    pub fn adopt(&mut self, show: &Show, now: Seconds, made: &mut Vec<Made>) {
        let mut before = std::mem::take(&mut self.bound);
        self.bound = extended(show).map(Bound::new).collect();
        for bound in &mut self.bound {
            if let Some(at) = before.iter().position(|old| old.binding == bound.binding) {
                bound.state = before.swap_remove(at).state;
            }
        }
        for gone in before.iter().filter(|gone| gone.state.down && gone.binding.answer == Answer::Held) {
            let source: Arc<str> = gone.binding.source.as_str().into();
            let commands = gone.binding.let_go.iter().filter_map(|template| asked(template, 0.0));
            made.extend(commands.map(|command| Made { command, source: source.clone(), at: now, binding: usize::MAX }));
        }
        let mut index: HashMap<Arc<str>, HashMap<EventAddress, Vec<usize>>> = HashMap::new();
        for (place, bound) in self.bound.iter().enumerate() {
            let of = index.entry(bound.binding.source.as_str().into()).or_default();
            of.entry(bound.binding.event.clone()).or_default().push(place);
        }
        self.index = index;
        self.priorities = show.inputs.iter().map(|input| (input.name.clone(), input.priority)).collect();
        self.layers.clear();
    }

    /// The bindings, those of layouts behind those of the show.
    pub fn bindings(&self) -> impl Iterator<Item = &Binding> {
        self.bound.iter().map(|bound| &bound.binding)
    }

    /// The slots of DMX that bindings of an input look at.
    pub fn slots(&self, source: &str) -> impl Iterator<Item = &EventAddress> {
        let of = self.index.get(source).into_iter().flat_map(HashMap::keys);
        of.filter(|address| matches!(address, EventAddress::Slot(..)))
    }

    /// The paths of OSC that bindings of an input look at.
    pub fn paths(&self, source: &str) -> impl Iterator<Item = &str> {
        let of = self.index.get(source).into_iter().flat_map(HashMap::keys);
        of.filter_map(|address| match address {
            EventAddress::Osc(path, _) => Some(path.as_str()),
            _ => None,
        })
    }

    /// True if a binding of an input looks at an address.
    #[must_use]
    pub fn has(&self, source: &str, address: &EventAddress) -> bool {
        self.index.get(source).is_some_and(|of| of.contains_key(address))
    }

    /// Takes an event, and adds what it asks for to a list.
    pub fn take(&mut self, event: &InputEvent, show: &Show, readings: &Readings<'_>, made: &mut Vec<Made>) -> Outcome {
        let mut outcome = Outcome::default();
        for place in self.chosen(event) {
            let asks = self.ask(place, event, readings, &mut outcome);
            self.carry_out(place, &asks, event, show, made, &mut outcome);
            outcome.bindings.push(place);
        }
        outcome
    }

    /// A motor has put a control where what it moves is: it need not be come to.
    pub fn placed(&mut self, source: &str, address: &EventAddress, value: f32) {
        let of = |bound: &&mut Bound| {
            let event = &bound.binding.event;
            bound.binding.source == source && (event == address || event.of_any_channel().as_ref() == Some(address))
        };
        for bound in self.bound.iter_mut().filter(of) {
            (bound.state.last, bound.state.taken) = (Some(value), true);
        }
    }

    /// Takes note of the time: values that have stood still near the edge of a band count.
    pub fn pass_time(&mut self, now: Seconds, show: &Show, made: &mut Vec<Made>) {
        for place in 0..self.bound.len() {
            let bound = &mut self.bound[place];
            if bound.edges.is_empty() {
                continue;
            }
            if let Some(band) = bound.state.band.settle(&bound.edges, now) {
                let source: Arc<str> = bound.binding.source.as_str().into();
                let address = bound.binding.event.clone();
                let event = InputEvent { source, address, raw: 0.0, most: 1.0, edge: Edge::Value, at: now };
                self.carry_out(place, &Asks::Band(band), &event, show, made, &mut Outcome::default());
            }
        }
    }

    /// An input has fallen silent or is switched off: what it held is let go, and what it was in charge of comes back.
    pub fn end(&mut self, source: &str, now: Seconds, show: &Show, made: &mut Vec<Made>) -> Vec<String> {
        self.layers.retain(|(_, of, _)| **of != *source);
        let own: Vec<usize> = (0..self.bound.len()).filter(|at| self.bound[*at].binding.source == source).collect();
        for place in own {
            let held = self.bound[place].state.down && self.bound[place].binding.answer == Answer::Held;
            if held {
                let binding = &self.bound[place].binding;
                let (source, address) = (binding.source.as_str().into(), binding.event.clone());
                let event = InputEvent { source, address, raw: 0.0, most: 1.0, edge: Edge::Release, at: now };
                self.carry_out(place, &Asks::LetsGo(0.0), &event, show, made, &mut Outcome::default());
            }
            let state = &mut self.bound[place].state;
            (state.down, state.met, state.taken, state.last) = (false, false, false, None);
            state.band.forget();
        }
        self.charges.let_go(source)
    }

    /// A person, or the command line, has asked for something: nobody else is in charge of it any more.
    pub fn overruled_by_hand(&mut self, command: &Command, show: &Show) {
        if let Some(subject) = subject(command, show) {
            self.charges.free(&subject);
        }
    }

    /// The charges at present.
    pub fn charges(&self) -> impl Iterator<Item = (&str, &Arc<str>)> {
        self.charges.all()
    }

    /// The bindings that an event concerns: those of the layers that are on, else those of none; and those that it holds.
    fn chosen(&self, event: &InputEvent) -> Vec<usize> {
        let Some(of) = self.index.get(&event.source) else { return Vec::new() };
        let any_channel = event.address.of_any_channel();
        let own = of.get(&event.address).into_iter().flatten();
        let all: Vec<usize> =
            own.chain(any_channel.and_then(|any| of.get(&any)).into_iter().flatten()).copied().collect();
        let on = |layer: &str| self.layers.iter().any(|(_, source, on)| *source == event.source && on == layer);
        let layer = |place: usize| &self.bound[place].binding.layer;
        let in_layer = |place: &usize| !layer(*place).is_empty() && on(layer(*place));
        let layered = all.iter().any(in_layer);
        let counts = |place: &usize| {
            let chosen = if layered { in_layer(place) } else { layer(*place).is_empty() };
            chosen || self.bound[*place].state.down
        };
        all.into_iter().filter(counts).collect()
    }

    fn ask(&mut self, place: usize, event: &InputEvent, readings: &Readings<'_>, outcome: &mut Outcome) -> Asks {
        let bound = &mut self.bound[place];
        let (value, raw) = (event.value(), event.raw);
        let pressed = press_of(&mut bound.state, event);
        if !bound.binding.shifts.is_empty() {
            let (source, layer) = (event.source.clone(), bound.binding.shifts.clone());
            match pressed {
                Some(true) => self.layers.push((place, source, layer)),
                Some(false) => self.layers.retain(|(by, ..)| *by != place),
                None => {}
            }
            return Asks::Nothing;
        }
        if !bound.edges.is_empty() {
            let (edges, hysteresis) = (&bound.edges, bound.binding.hysteresis);
            return bound.state.band.take(edges, hysteresis, raw, event.at).map_or(Asks::Nothing, Asks::Band);
        }
        let begins = condition(bound, raw, event.most);
        let holds = bound.binding.when.is_none_or(|when| when.holds(raw));
        match bound.binding.answer {
            Answer::Value if holds && event.edge != Edge::Release => follow(bound, value, event.at, readings, outcome),
            Answer::Relative if holds => turn(bound, raw, event.at, readings, outcome),
            Answer::Value | Answer::Relative => Asks::Nothing,
            Answer::Press | Answer::Held | Answer::Toggle => {
                let pressed = match bound.binding.when {
                    None => pressed,
                    // What is pressed counts each time that it meets the condition, a value when it comes to.
                    Some(_) if event.edge == Edge::Press => holds.then_some(true),
                    Some(_) if event.edge == Edge::Release => Some(false),
                    Some(_) => begins,
                };
                press(bound, pressed, value)
            }
        }
    }

    fn carry_out(
        &mut self,
        place: usize,
        asks: &Asks,
        event: &InputEvent,
        show: &Show,
        made: &mut Vec<Made>,
        outcome: &mut Outcome,
    ) {
        let bound = &self.bound[place];
        let (templates, number) = match asks {
            Asks::Nothing => return,
            Asks::Does(number) => (&bound.binding.does, *number),
            Asks::LetsGo(number) => (&bound.binding.let_go, *number),
            Asks::Band(band) => (&bound.binding.bands[*band].does, 0.0),
        };
        let priority = self.priorities.get(&*event.source).copied().unwrap_or(INPUT_PRIORITY);
        for command in templates.iter().filter_map(|template| asked(template, number)) {
            let may = match subject(&command, show) {
                Some(subject) => self.charges.take(subject, &event.source, priority),
                None => true,
            };
            // A fader that says a fade says it for all that its input fires from then on.
            if let (Command::Engine(EngineCommand::NextFade(beats)), Answer::Value) = (&command, bound.binding.answer) {
                self.fades.insert(event.source.clone(), *beats);
                continue;
            }
            if let (Command::Engine(EngineCommand::FireLook(_)), Some(beats)) =
                (&command, self.fades.get(&event.source))
            {
                let command = EngineCommand::NextFade(*beats).into();
                made.push(Made { command, source: event.source.clone(), at: event.at, binding: place });
            }
            if may {
                made.push(Made { command, source: event.source.clone(), at: event.at, binding: place });
            } else {
                outcome.why_not = Some(format!("{command}: an input of a higher priority has it"));
            }
        }
    }
}

/// The command of a value.
fn asked(template: &CommandTemplate, value: f32) -> Option<Command> {
    template.with(value).map(splimo_show::command::Command::widened)
}

/// The bindings of a show, those of the layouts by which desks move it, and those by which cue lists go on.
fn extended(show: &Show) -> impl Iterator<Item = Binding> + '_ {
    let layouts = show.inputs.iter().filter_map(|input| {
        let remote = input.remote?;
        Some(remote.layout.bindings(&input.name, remote.first, show))
    });
    show.bindings.iter().cloned().chain(layouts.flatten()).chain(show.cue_lists.iter().flat_map(goes_on))
}

/// The bindings by which a list goes on: one for each event, whichever of its cues wait for that, so that one event is one step.
fn goes_on(list: &CueList) -> Vec<Binding> {
    let mut waits: Vec<(&str, &EventAddress, Vec<CueNumber>)> = Vec::new();
    for (place, cue) in list.cues.iter().enumerate() {
        let GoesOn::OnEvent(source, event) = list.goes_on(place) else { continue };
        match waits.iter_mut().find(|(of, on, _)| of == source && *on == event) {
            Some((_, _, numbers)) => numbers.push(cue.number),
            None => waits.push((source, event, vec![cue.number])),
        }
    }
    let binding = |(source, event, numbers): (&str, &EventAddress, Vec<CueNumber>)| {
        let cues = CueSet { list: list.name.clone(), numbers };
        Binding::new(source, event.clone(), &Command::from(EngineCommand::CueGoesOn(cues)).to_string())
    };
    waits.into_iter().map(binding).collect()
}

/// Takes note of a press or a release; what has values counts as pressed from the middle up. Returns whether it is one, and which.
fn press_of(state: &mut State, event: &InputEvent) -> Option<bool> {
    let down = match event.edge {
        Edge::Press => true,
        Edge::Release => false,
        Edge::Value => {
            let level = if state.down { PRESSED[1] } else { PRESSED[0] };
            event.value() >= level
        }
    };
    let before = std::mem::replace(&mut state.down, down);
    (before != down || event.edge == Edge::Press).then_some(down)
}

/// Takes note of whether the condition holds: whether it has begun to (true), has ended (false), or is as it was.
fn condition(bound: &mut Bound, raw: f32, most: f32) -> Option<bool> {
    let when = bound.binding.when?;
    let mut holds = when.holds(raw);
    // One that rose stays so until it is well below: noise does not rise twice.
    if let splimo_show::event::Condition::Rising(level) = when
        && bound.state.met
    {
        holds = raw > level - most * BACK;
    }
    let before = std::mem::replace(&mut bound.state.met, holds);
    (before != holds).then_some(holds)
}

fn press(bound: &mut Bound, pressed: Option<bool>, value: f32) -> Asks {
    let number = bound.binding.number(value);
    match (bound.binding.answer, pressed) {
        (Answer::Toggle, Some(true)) => {
            bound.state.on = !bound.state.on;
            if bound.state.on { Asks::Does(number) } else { Asks::LetsGo(number) }
        }
        (_, Some(true)) => Asks::Does(number),
        (Answer::Held, Some(false)) => Asks::LetsGo(number),
        (_, Some(false) | None) => Asks::Nothing,
    }
}

/// Follows a value; with soft take-over only once it has come to where things are.
fn follow(bound: &mut Bound, value: f32, at: Seconds, readings: &Readings<'_>, outcome: &mut Outcome) -> Asks {
    let number = bound.binding.number(value);
    outcome.number = Some(number);
    let before = bound.state.last.replace(value);
    let (soft, binding) = (bound.binding.soft, &bound.binding);
    if soft && let Some(there) = bound.moves().and_then(readings) {
        let there = binding.value(there);
        let own = bound.state.sent.is_some_and(|(_, when)| at - when < OWN);
        // Somebody else has moved it meanwhile: it has to be come to again.
        if bound.state.taken && !own && before.is_some_and(|before| (before - there).abs() > 2.0 * NEAR) {
            bound.state.taken = false;
        }
        if !bound.state.taken {
            let past = before.is_some_and(|before| (before - there) * (value - there) <= 0.0);
            if !past && (value - there).abs() > NEAR {
                let way = if value < there { "up" } else { "down" };
                outcome.why_not = Some(format!("soft: move it {way} to {:.0} first", bound.binding.number(there)));
                return Asks::Nothing;
            }
            bound.state.taken = true;
        }
    }
    bound.state.sent = Some((number, at));
    Asks::Does(number)
}

/// Moves by what an encoder says, from where things are.
fn turn(bound: &mut Bound, raw: f32, at: Seconds, readings: &Readings<'_>, outcome: &mut Outcome) -> Asks {
    let steps = bound.binding.coding.steps(raw as u16);
    let steps = if bound.binding.invert { -steps } else { steps };
    let [from, to] = bound.binding.range;
    let own = bound.state.sent.filter(|(_, when)| at - when < OWN).map(|(number, _)| number);
    let there = own.or_else(|| bound.moves().and_then(readings)).or(bound.state.sent.map(|(number, _)| number));
    let (low, high) = (from.min(to), from.max(to));
    let number = (there.unwrap_or(from) + steps as f32 * STEP * (to - from)).clamp(low, high);
    outcome.number = Some(number);
    bound.state.sent = Some((number, at));
    if steps == 0 { Asks::Nothing } else { Asks::Does(number) }
}
