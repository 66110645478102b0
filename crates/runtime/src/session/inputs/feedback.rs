//! Messages that go back to controllers, and values of the show that leave as OSC and MIDI: each is said when it is another.

use std::collections::HashMap;
use std::net::{SocketAddr, UdpSocket};
use std::sync::Arc;

use splimo_document::input::{self, Controller, reading};
use splimo_engine::{Published, Snapshot, colour_of, led_of};
use splimo_light::rig::Rig;
use splimo_show::CommandTemplate;
use splimo_show::command::{Command, EngineCommand};
use splimo_show::event::EventAddress;
use splimo_show::{Binding, OutSource, OutTarget, Show, ValueOut};
use splimo_wire::midi::{Voice, emit};
use splimo_wire::osc::{self, Argument};

use crate::clock::Instant;
use crate::inputs::controllers;
use crate::inputs::midi_out::MidiOut;
use crate::session::Session;

/// The time between two looks at what is to be said, in seconds.
const PAUSE: f64 = 0.03;

/// The address of a message: its kind, channel and number.
type MessageTo = (u8, u8, u8);

/// A controller that is lit.
struct LitController {
    input: Arc<str>,
    out: MidiOut,
    model: Option<Controller>,
    /// True if it has just come, and has been told nothing yet.
    fresh: bool,
    /// The values that it was told last, by channel and message.
    told: HashMap<MessageTo, u8>,
}

/// Everything that goes out of a session besides light.
#[derive(Default)]
pub(in super::super) struct Feedback {
    lit: Vec<LitController>,
    values: Vec<ValueOut>,
    socket: Option<UdpSocket>,
    /// The bytes that each value was told by last.
    said: HashMap<usize, Vec<u8>>,
    looked: Option<Instant>,
}

impl Feedback {
    pub(super) fn is_needed(&self) -> bool {
        self.lit.iter().any(|lit| !lit.out.is_to("")) || !self.values.is_empty()
    }

    /// The events of the controls of an input and what these are called, as its model has it.
    pub(super) fn controls_of(&self, input: &str) -> Vec<(String, String)> {
        let model = self.lit.iter().find(|lit| *lit.input == *input).and_then(|lit| lit.model.as_ref());
        let controls = model.into_iter().flat_map(|model| &model.controls);
        controls.map(|control| (control.event.to_string(), control.name.clone())).collect()
    }
}

impl Session {
    /// Goes over to the controllers and values of a show.
    pub(super) fn follow_feedback(&mut self, show: &Show) {
        let folder = crate::media::Library::folder_of(self.path.as_deref());
        let mut before = std::mem::take(&mut self.inputs.feedback.lit);
        let on = show
            .inputs
            .iter()
            .chain(&self.inputs.extra)
            .filter(|input| input.on && !(input.feedback.is_empty() && input.controller.is_empty()));
        let mut lit = Vec::new();
        for input in on {
            let subject = format!("controller of {}", input.name);
            let model = match input.controller.as_str() {
                "" => None,
                name => match controllers::find(name, &folder) {
                    Ok(model) => {
                        self.runtime.troubles().over(&subject);
                        Some(model)
                    }
                    Err(why) => {
                        self.runtime.troubles().tell(&subject, why);
                        None
                    }
                },
            };
            let known = before.iter().position(|one| *one.input == *input.name && one.out.is_to(&input.feedback));
            let known = known.map(|place| before.swap_remove(place));
            let (out, told) =
                known.map_or_else(|| (MidiOut::to(&input.feedback), HashMap::new()), |one| (one.out, one.told));
            lit.push(LitController { input: input.name.as_str().into(), out, model, fresh: false, told });
        }
        let leaves = |out: &&ValueOut| !matches!(out.to, OutTarget::Dmx(_));
        let values: Vec<ValueOut> = show.values_out.iter().filter(leaves).cloned().collect();
        let feedback = &mut self.inputs.feedback;
        feedback.lit = lit;
        if feedback.values != values {
            (feedback.values, feedback.said) = (values, HashMap::new());
        }
    }

    /// Says what is another since it was said last.
    pub(super) fn feed_back(&mut self) {
        let now = Instant::now();
        let feedback = &mut self.inputs.feedback;
        if !feedback.is_needed() || feedback.looked.is_some_and(|last| now.seconds_since(last) < PAUSE) {
            return;
        }
        feedback.looked = Some(now);
        let published = self.outlook.published.read();
        let edition = self.runtime.editions().get(published.snapshot.edition);
        let bindings: Vec<&Binding> = self.inputs.evaluator.bindings().collect();
        let mut placed = Vec::new();
        for lit in &mut feedback.lit {
            let moved = lit.tell(&bindings, &edition.show, &published.snapshot);
            placed.extend(moved.into_iter().map(|(event, value)| (lit.input.clone(), event, value)));
        }
        feedback.tell_values(&edition.show, &edition.rig, published);
        for (input, event, value) in placed {
            self.inputs.evaluator.placed(&input, &event, value);
        }
    }
}

impl LitController {
    /// Says what is another; the controls that a motor has put elsewhere, with their values of 0..1.
    fn tell(&mut self, bindings: &[&Binding], show: &Show, snapshot: &Snapshot) -> Vec<(EventAddress, f32)> {
        self.fresh = self.out.open();
        if self.fresh {
            self.told.clear();
        }
        let mut placed = Vec::new();
        let Some(model) = &self.model else { return placed };
        let own = bindings.iter().filter(|binding| binding.source == *self.input);
        let mut wanted: Vec<(MessageTo, u8, Option<&EventAddress>)> = Vec::new();
        for control in model.controls.iter().filter(|control| control.lit || control.motor) {
            let bound = own.clone().find(|binding| {
                binding.event == control.event || binding.event.of_any_channel().as_ref() == Some(&control.event)
            });
            let value = match bound {
                Some(binding) if control.motor => place_of(binding, show, snapshot),
                Some(binding) => Some(match state_of(binding, show, snapshot) {
                    LampState::Off => model.lit.off,
                    LampState::Armed => model.lit.armed,
                    LampState::On => model.lit.on,
                }),
                None if control.lit => Some(model.lit.off),
                None => None,
            };
            if let (Some(value), Some(message)) = (value, message_of(&control.event)) {
                let moved = (control.motor && bound.is_some()).then_some(&control.event);
                wanted.push((message, value, moved));
            }
        }
        for (message, value, moved) in wanted {
            if self.told.get(&message) == Some(&value) {
                continue;
            }
            let (kind, channel, number) = message;
            let voice = if kind == 0 { Voice::NoteOn(number, value) } else { Voice::Control(number, value) };
            let (bytes, count) = emit(channel, voice);
            if self.out.send(&bytes[..count]) {
                self.told.insert(message, value);
                placed.extend(moved.map(|event| (event.clone(), f32::from(value) / 127.0)));
            }
        }
        placed
    }
}

/// The message by which a control is lit or moved: its kind, channel and number.
fn message_of(event: &EventAddress) -> Option<MessageTo> {
    match event {
        EventAddress::Note(channel, note) => Some((0, channel.unwrap_or(1), *note)),
        EventAddress::Control(channel, number, _) => Some((1, channel.unwrap_or(1), *number)),
        _ => None,
    }
}

/// The state of the lamp of a button.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum LampState {
    Off,
    Armed,
    On,
}

fn state_of(binding: &Binding, show: &Show, snapshot: &Snapshot) -> LampState {
    let Some(Command::Engine(command)) = binding.does.first().and_then(CommandTemplate::whole) else {
        return LampState::Off;
    };
    let lamp = |on: bool, armed: bool| match (on, armed) {
        (_, true) => LampState::Armed,
        (true, false) => LampState::On,
        (false, false) => LampState::Off,
    };
    let state = |name: &str| show.tier(name).and_then(|tier| snapshot.tiers.get(tier));
    if let EngineCommand::FirePad(pad) | EngineCommand::HoldPad(pad) = command {
        let on = snapshot.tiers.iter().any(|tier| tier.pad == Some(*pad) && tier.look.is_some());
        return lamp(on, snapshot.queue.iter().any(|armed| armed.wish.pad == Some(*pad)));
    }
    if let EngineCommand::FireLook(name) | EngineCommand::CutTo(name) = command {
        let Some((tier, look)) = show.look_on_tier(name) else { return LampState::Off };
        let tier = tier.unwrap_or(0);
        let on = snapshot.tiers.get(tier).is_some_and(|state| state.look == Some(look));
        return lamp(on, snapshot.queue.iter().any(|armed| armed.wish.tier == tier && armed.wish.look == Some(look)));
    }
    if let EngineCommand::MuteTier(name) = command {
        return lamp(state(name).is_some_and(|tier| tier.mute), false);
    }
    if let EngineCommand::SoloTier(name) = command {
        return lamp(state(name).is_some_and(|tier| tier.solo), false);
    }
    let dark = matches!(command, EngineCommand::Blackout | EngineCommand::SetBlackout(_)) && snapshot.blackout;
    let waits = matches!(command, EngineCommand::Go | EngineCommand::Disarm) && !snapshot.queue.is_empty();
    lamp(dark, waits)
}

/// The place where a fader belongs, 0..127.
fn place_of(binding: &Binding, show: &Show, snapshot: &Snapshot) -> Option<u8> {
    let number = reading(binding.does.iter().find_map(CommandTemplate::moves)?, show, snapshot)?;
    Some((binding.value(number).clamp(0.0, 1.0) * 127.0).round() as u8)
}

impl Feedback {
    fn tell_values(&mut self, show: &Show, rig: &Rig, published: &Published) {
        for (place, out) in self.values.iter().enumerate() {
            let Some(value) = value_of(&out.what, show, rig, published) else { continue };
            let parts: Vec<f32> = (0..out.parts()).map(|part| out.part(part, value)).collect();
            match &out.to {
                OutTarget::Dmx(_) => {}
                OutTarget::Osc(to, path) => {
                    let Some(bytes) = osc_of(path, out, &parts) else { continue };
                    if self.said.get(&place) != Some(&bytes) && send(&mut self.socket, *to, &bytes) {
                        self.said.insert(place, bytes);
                    }
                }
                OutTarget::Midi(input, number, channel) => {
                    let bytes = midi_of(*number, *channel, out, &parts);
                    let lit = self.lit.iter_mut().find(|lit| *lit.input == **input);
                    if let Some(lit) = lit.filter(|lit| lit.fresh || self.said.get(&place) != Some(&bytes))
                        && lit.out.send(&bytes)
                    {
                        self.said.insert(place, bytes);
                    }
                }
            }
        }
    }
}

fn send(socket: &mut Option<UdpSocket>, to: SocketAddr, bytes: &[u8]) -> bool {
    if socket.is_none() {
        let any = if to.is_ipv4() { "0.0.0.0:0" } else { "[::]:0" };
        *socket = UdpSocket::bind(any).ok().filter(|socket| socket.set_nonblocking(true).is_ok());
    }
    socket.as_ref().is_some_and(|socket| socket.send_to(bytes, to).is_ok())
}

fn osc_of(path: &str, out: &ValueOut, parts: &[f32]) -> Option<Vec<u8>> {
    use splimo_show::OutRange;
    let most = out.range.most();
    match out.range {
        OutRange::Byte | OutRange::Word => {
            let whole: Vec<i32> = parts.iter().map(|part| (part.clamp(0.0, 1.0) * most).round() as i32).collect();
            osc::emit_whole(path, &whole).ok()
        }
        OutRange::Percent | OutRange::Unit => {
            let all: Vec<Argument> = parts.iter().map(|part| Argument::Number(f64::from(part * most))).collect();
            osc::emit(path, &all).ok()
        }
    }
}

/// Controllers from a number on, one for each part; 16 bits leave as 14, the coarse ones first.
fn midi_of(number: u8, channel: u8, out: &ValueOut, parts: &[f32]) -> Vec<u8> {
    use splimo_show::OutRange;
    let mut all = Vec::new();
    for (number, part) in (number..128).zip(parts) {
        let value = part.clamp(0.0, 1.0);
        let messages = match out.range {
            OutRange::Word if number < 32 => {
                let fine = (value * 16_383.0).round() as u16;
                vec![Voice::Control(number, (fine >> 7) as u8), Voice::Control(number + 32, (fine & 0x7f) as u8)]
            }
            OutRange::Percent => vec![Voice::Control(number, (value * 100.0).round() as u8)],
            OutRange::Unit => vec![Voice::Control(number, value.round() as u8)],
            OutRange::Byte | OutRange::Word => vec![Voice::Control(number, (value * 127.0).round() as u8)],
        };
        for voice in messages {
            let (bytes, count) = emit(channel, voice);
            all.extend_from_slice(&bytes[..count]);
        }
    }
    all
}

fn value_of(what: &OutSource, show: &Show, rig: &Rig, published: &Published) -> Option<[f32; 3]> {
    let snapshot = &published.snapshot;
    let level = |percent: f32| [percent / 100.0; 3];
    match what {
        OutSource::Master => Some(level(snapshot.master * 100.0)),
        OutSource::Control(number) => Some(level(input::control(usize::from(*number), snapshot))),
        OutSource::Tier(name) => input::tier_level(name, show, snapshot).map(level),
        OutSource::Group(name) => input::group_level(name, show, snapshot).map(level),
        OutSource::Colour(name) => colour_of(show, name),
        OutSource::Light(fixture, cell) => {
            let led = led_of(show, rig, fixture, *cell)?;
            published.light.get(led).map(|light| light.map(splimo_base::colour::linear_to_srgb))
        }
    }
}
