//! The inputs of a session: what comes in is made into commands here, by the bindings of the show, and goes through the one
//! dispatch as everybody's.

mod events;
mod feedback;
mod learning;
mod listening;
mod silence;
mod status;

use std::collections::HashMap;
use std::sync::Arc;

use splimo_base::Seconds;
use splimo_document::Command;
use splimo_document::Outcome;
use splimo_document::input::{Evaluator, Made, reading};
use splimo_show::CommandTemplate;
use splimo_show::command::{EngineCommand, Origin, SessionCommand};
use splimo_show::{
    BUILT_IN,
    event::{Edge, EventAddress, InputEvent},
};
use splimo_show::{Input, InputKind, PADS, Parts, Show};
use splimo_time::sync::SyncSource;

use super::Session;
use super::dispatch::told;
use crate::clock::Instant;
use crate::inputs::inbox::Arrival;
use events::Events;
use feedback::Feedback;
use learning::Learning;
use listening::Source;
use silence::Watch;

/// The time between two looks into the inbox at the least, in seconds: what comes faster is taken together.
const PAUSE: f64 = 0.002;

/// The parts of a show of which bindings at work are made: its own, those of layouts, which name looks, tiers, banks and controls, and
/// those by which cue lists go on.
pub(crate) const BINDINGS: Parts = Parts::BINDINGS
    .and(Parts::INPUTS)
    .and(Parts::CUE_LISTS)
    .and(Parts::LOOK_NAMES)
    .and(Parts::TIERS)
    .and(Parts::BANKS)
    .and(Parts::CONTROLS);
/// The parts of a show of which it is made what controllers and others are told.
const FEEDBACK: Parts = Parts::INPUTS.and(Parts::VALUES_OUT);

/// The name of the input that keys are.
const KEYS: &str = "keys";

/// Everything that the session knows of its inputs.
#[derive(Default)]
pub(super) struct InputDesk {
    evaluator: Evaluator,
    /// The show whose bindings count.
    show: Option<Arc<Show>>,
    /// Inputs of the command line.
    extra: Vec<Input>,
    sources: Vec<Source>,
    /// The names of inputs; each asks for things under the number of its place here.
    names: Vec<Arc<str>>,
    learning: Option<Learning>,
    events: Events,
    /// The last slots of each universe.
    slots: HashMap<Arc<str>, Box<[u8; 512]>>,
    /// The bank of pads that each has chosen.
    banks: HashMap<Origin, usize>,
    watch: Watch,
    feedback: Feedback,
    drained: Option<Instant>,
    arrivals: Vec<Arrival>,
}

impl InputDesk {
    pub(super) fn new(extra: Vec<Input>) -> Self {
        Self { extra, ..Self::default() }
    }

    /// The origin under which an input asks for things.
    fn origin(&mut self, name: &Arc<str>) -> Origin {
        let place = self.names.iter().position(|known| known == name).unwrap_or_else(|| {
            self.names.push(name.clone());
            self.names.len() - 1
        });
        Origin::Input(place.min(usize::from(u8::MAX)) as u8)
    }

    /// The kind of an input; none for those that are always there.
    pub(super) fn kind_of(&self, name: &str) -> Option<InputKind> {
        match BUILT_IN.contains(&name) {
            // What nobody sends is of this machine.
            true => Some(InputKind::Lines),
            false => self.sources.iter().find(|source| *source.name == *name).map(|source| source.input.kind),
        }
    }

    /// The names of inputs, by the numbers under which they ask.
    pub(super) fn names(&self) -> &[Arc<str>] {
        &self.names
    }

    /// True if something has to be looked at often: music and time are looked at here.
    pub(super) fn is_watching(&self) -> bool {
        self.watch.is_needed() || self.learning.is_some() || self.feedback.is_needed()
    }
}

impl Session {
    /// Takes what has come in.
    pub(super) fn take_inputs(&mut self) {
        let now = Instant::now();
        if let Some(last) = self.inputs.drained {
            let left = PAUSE - now.seconds_since(last);
            if left > 0.0 {
                std::thread::sleep(std::time::Duration::from_secs_f64(left));
            }
        }
        self.inputs.drained = Some(Instant::now());
        self.follow_show();
        self.outlook.published.update();
        let mut arrivals = std::mem::take(&mut self.inputs.arrivals);
        self.runtime.inbox().drain(&mut arrivals);
        let mut made = Vec::new();
        for arrival in arrivals.drain(..) {
            match arrival {
                Arrival::Event(event) => self.take_event(event, &mut made),
                Arrival::Ask(source, command, at) if self.leads_by(&source, &command) => {
                    self.inputs.events.asked(&source, &command, at);
                }
                Arrival::Ask(source, command, at) => {
                    self.inputs.events.asked(&source, &command, at);
                    made.push(Made { command: *command, source, at, binding: usize::MAX });
                }
                Arrival::Query(command, reply) => reply(self.read(&command)),
                Arrival::Slots(source, slots, at) => self.take_slots(&source, slots, at, &mut made),
            }
        }
        self.inputs.arrivals = arrivals;
        self.carry_out(made);
    }

    /// True if an input leads the clock by what it asks for, so that it is not to be set beside.
    fn leads_by(&self, source: &str, command: &Command) -> bool {
        let leads = self.document.shown().settings.sync_source == SyncSource::Osc;
        let is_tempo = matches!(command, Command::Engine(EngineCommand::Tempo(_)));
        leads && is_tempo && self.inputs.kind_of(source) == Some(InputKind::Osc)
    }

    /// Has the bindings of the show as it is now count, and its inputs be listened to.
    pub(super) fn follow_show(&mut self) {
        let show = self.document.shown();
        if self.inputs.show.as_ref().is_some_and(|known| Arc::ptr_eq(known, show)) {
            return;
        }
        let show = show.clone();
        let before = self.inputs.show.replace(show.clone());
        // At the start everything is new.
        let changed = |parts: Parts| before.as_ref().is_none_or(|known| Parts::changed(known, &show).touch(parts));
        let mut made = Vec::new();
        if changed(BINDINGS) {
            self.inputs.evaluator.adopt(&show, self.runtime.now(), &mut made);
            self.inputs.watch.adopt(&self.inputs.evaluator);
        }
        if changed(Parts::INPUTS) {
            self.listen_to(&show);
        }
        if changed(FEEDBACK) {
            self.follow_feedback(&show);
        }
        self.carry_out(made);
    }

    /// Takes an event: who learns has it, else the bindings do.
    fn take_event(&mut self, event: InputEvent, made: &mut Vec<Made>) {
        if self.learn_from(&event) {
            self.inputs.events.learned(&event);
            return;
        }
        let Some(show) = self.inputs.show.clone() else { return };
        // A pattern of OSC means every address that it fits.
        if let EventAddress::Osc(pattern, argument) = &event.address
            && splimo_wire::osc::is_pattern(pattern)
        {
            let fits = splimo_wire::osc::matching(pattern, self.inputs.evaluator.paths(&event.source));
            for path in fits {
                let address = EventAddress::Osc(path, *argument);
                self.evaluate(&InputEvent { address, ..event.clone() }, &show, made);
            }
            return;
        }
        self.evaluate(&event, &show, made);
    }

    fn evaluate(&mut self, event: &InputEvent, show: &Show, made: &mut Vec<Made>) {
        let before = made.len();
        let Self { inputs, outlook, .. } = self;
        let published = outlook.published.output_buffer();
        let outcome = inputs.evaluator.take(event, show, &|command| reading(command, show, &published.snapshot), made);
        inputs.events.happened(event, &outcome, &made[before..]);
        inputs.watch.heard(&event.source, event.at);
    }

    /// Takes the slots of a universe: those that changed and that a binding looks at are events, or all while somebody learns.
    fn take_slots(&mut self, source: &Arc<str>, slots: Box<[u8; 512]>, at: Seconds, made: &mut Vec<Made>) {
        let before = self.inputs.slots.get(source).cloned();
        let learns = self.inputs.learning.is_some();
        let mut addresses: Vec<EventAddress> = match (&before, learns) {
            // Of what was there before somebody began to learn only the changes count.
            (Some(before), true) => {
                let moved = (0..512).filter(|slot| before[*slot] != slots[*slot]);
                moved.map(|slot| EventAddress::Slot(slot as u16 + 1, false)).collect()
            }
            _ => self.inputs.evaluator.slots(source).cloned().collect(),
        };
        // The banks of pads are chosen before the pads, the fades before the looks.
        addresses.sort_by_key(|address| if let EventAddress::Slot(slot, _) = address { *slot } else { 0 });
        for address in addresses {
            let EventAddress::Slot(slot, fine) = address else { continue };
            let value = |slots: &[u8; 512]| slot_value(slots, slot, fine);
            let raw = value(&slots);
            if before.as_ref().is_none_or(|before| value(before) != raw) {
                let most = address_most(fine);
                let event = InputEvent { source: source.clone(), address, raw, most, edge: Edge::Value, at };
                self.take_event(event, made);
            }
        }
        self.inputs.watch.heard(source, at);
        self.inputs.slots.insert(source.clone(), slots);
    }

    /// The place of the value that a command moves.
    fn read(&mut self, command: &CommandTemplate) -> Option<f32> {
        let show = self.document.shown();
        reading(command.moves().or(command.whole())?, show, &self.outlook.published.read().snapshot)
    }

    /// Carries out what was made of events: of what moves on and on only the last.
    pub(super) fn carry_out(&mut self, made: Vec<Made>) {
        for Made { command, source, at, .. } in latest(made) {
            let by = self.inputs.origin(&source);
            let outcome = self.dispatch(&command, by, None, Some(at));
            if let Outcome::Nothing(why) | Outcome::Refused(why) = &outcome {
                self.inputs.events.refused(&source, &command, why);
                let asked = crate::asked::Asked { command, origin: by, at };
                self.say_what_came_in(&asked, &outcome);
            }
        }
    }

    /// Takes note that somebody who is no input has moved something: nobody else is in charge of it then.
    pub(super) fn overrule_inputs(&mut self, command: &Command, by: Origin) {
        if !matches!(
            by,
            Origin::Input(_)
                | Origin::Rotation
                | Origin::List(_)
                | Origin::Timeline(_)
                | Origin::Schedule
                | Origin::Session
        ) {
            self.inputs.evaluator.overruled_by_hand(command, self.document.shown());
        }
    }

    /// Carries a command out that concerns inputs.
    pub(super) fn dispatch_to_inputs(&mut self, command: &SessionCommand, by: Origin) -> Option<Outcome> {
        Some(match command {
            SessionCommand::Learn(what) => self.learn(what, by),
            SessionCommand::SwitchInput(name) => self.switch_input(name, by),
            SessionCommand::BindModel(name) => self.bind_model(name, by),
            SessionCommand::PressKey(key) => self.press_key(key, true),
            SessionCommand::LetKeyGo(key) => self.press_key(key, false),
            SessionCommand::ChooseBank(bank) => {
                let Some(named) = self.document.shown().banks.get(bank.wrapping_sub(1)) else {
                    let count = self.document.shown().banks.len();
                    return Some(Outcome::Nothing(format!("there is no bank {bank}; there are {count}")));
                };
                let name = named.name.clone();
                self.inputs.banks.insert(by, *bank);
                told(&format!("bank-pad fires pads of {name}"))
            }
            SessionCommand::BankPad(pad) => self.dispatch_bank_pad(*pad, by, EngineCommand::FirePad),
            SessionCommand::HoldBankPad(pad) => self.dispatch_bank_pad(*pad, by, EngineCommand::HoldPad),
            SessionCommand::LetBankPadGo(pad) => self.dispatch_bank_pad(*pad, by, EngineCommand::LetPadGo),
            SessionCommand::Save
            | SessionCommand::SaveAs(_)
            | SessionCommand::ExportPatch(_)
            | SessionCommand::ExportCues(_)
            | SessionCommand::HearRecording(_)
            | SessionCommand::Recover
            | SessionCommand::LeaveFound
            | SessionCommand::Resume
            | SessionCommand::BeginAnew
            | SessionCommand::HoldLight(_)
            | SessionCommand::RecordCue(_)
            | SessionCommand::RecordChanges(_)
            | SessionCommand::UpdateCue(_)
            | SessionCommand::RecordAim(_)
            | SessionCommand::Strike(_)
            | SessionCommand::Trigger(_)
            | SessionCommand::Record(_)
            | SessionCommand::StopRecording
            | SessionCommand::TakeTheirs
            | SessionCommand::KeepMine
            | SessionCommand::ForgetNodes
            | SessionCommand::Run(_)
            | SessionCommand::EndRun(_)
            | SessionCommand::AllowPrograms(_)
            | SessionCommand::PauseMusic
            | SessionCommand::SeekMusic(_)
            | SessionCommand::FlashAndClick
            | SessionCommand::End => return None,
        })
    }

    fn dispatch_bank_pad(&mut self, pad: usize, by: Origin, does: fn(usize) -> EngineCommand) -> Outcome {
        if pad > PADS {
            return Outcome::Nothing(format!("a bank has pads from 1 to {PADS}, and no {pad}"));
        }
        let bank = self.inputs.banks.get(&by).copied().unwrap_or(1);
        self.dispatch_to_engine(&does((bank - 1) * PADS + pad), by, None)
    }

    fn press_key(&mut self, key: &str, down: bool) -> Outcome {
        self.follow_show();
        let address = EventAddress::Key(key.to_owned());
        if !self.inputs.evaluator.has(KEYS, &address) {
            return Outcome::Nothing(format!("this show binds nothing to the key {key}"));
        }
        let edge = if down { Edge::Press } else { Edge::Release };
        let at = self.runtime.now();
        let raw = f32::from(u8::from(down));
        let mut made = Vec::new();
        self.take_event(InputEvent { source: KEYS.into(), address, raw, most: 1.0, edge, at }, &mut made);
        self.carry_out(made);
        Outcome::Done
    }
}

fn address_most(fine: bool) -> f32 {
    if fine { 65_535.0 } else { 255.0 }
}

fn slot_value(slots: &[u8; 512], slot: u16, fine: bool) -> f32 {
    let at = |slot: u16| slots.get(usize::from(slot)).copied().unwrap_or(0);
    let coarse = at(slot - 1);
    if fine { f32::from(u16::from(coarse) << 8 | u16::from(at(slot))) } else { f32::from(coarse) }
}

/// The commands that were made, with only the last of what sets the same thing to one value after the other.
fn latest(made: Vec<Made>) -> Vec<Made> {
    let mut seen: Vec<String> = Vec::new();
    let mut kept: Vec<Made> = Vec::with_capacity(made.len());
    for one in made.into_iter().rev() {
        if let Some(what) = sets(&one.command) {
            if seen.contains(&what) {
                continue;
            }
            seen.push(what);
        }
        kept.push(one);
    }
    kept.reverse();
    kept
}

/// The target that a command sets to a value, whatever it was before: all of its text but that.
fn sets(command: &Command) -> Option<String> {
    let number = command.number_info().filter(|number| number.sets)?;
    // The same for any number.
    let mut alike = command.clone();
    alike.set_number(number.range[0]).then(|| alike.to_string())
}
