//! Silence: an input that falls silent is announced, what it held is let go, and what it was in charge of goes to the fallback; and
//! what music and time do are events too.

use std::collections::HashMap;
use std::sync::Arc;

use splimo_base::Seconds;
use splimo_document::Command;
use splimo_document::input::{Evaluator, Made};
use splimo_engine::Snapshot;
use splimo_link::message::Update;
use splimo_show::command::EngineCommand;
use splimo_show::event::{Edge, EventAddress, Hit, InputEvent};
use splimo_show::{Fallback, Input, InputKind};
use splimo_time::music::Section;
use splimo_wire::arbitration::ART_NET_LOSS;
use splimo_wire::sacn;

use crate::clock;
use crate::session::Session;

/// A hit is new where it has just jumped up.
const JUST: f32 = 0.9;

/// A watch for events that nobody sends.
#[derive(Default)]
pub(in super::super) struct Watch {
    /// The time when each input was heard last, and whether it counts as silent.
    heard: HashMap<Arc<str>, (Seconds, bool)>,
    /// The count of events of each input when it was looked at last.
    counted: HashMap<Arc<str>, u64>,
    music: bool,
    time: bool,
    before: Option<Heard>,
}

/// The music and the time as they were looked at last.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Heard {
    beat: i64,
    bar: i64,
    phrase: i64,
    onset: f32,
    hits: [f32; 3],
    section: Section,
    second: u32,
}

impl Heard {
    fn of(snapshot: &Snapshot) -> Self {
        let clock = &snapshot.clock;
        let bar = f64::from(clock.bar_beats.max(1));
        Self {
            beat: clock.beat.floor() as i64,
            bar: (clock.beat / bar).floor() as i64,
            phrase: (clock.beat / clock.phrase_beats()).floor() as i64,
            onset: snapshot.onset,
            hits: snapshot.hits,
            section: snapshot.hearing.section,
            second: clock::time_of_day().map_or(u32::MAX, |seconds| seconds as u32),
        }
    }
}

impl Watch {
    /// Finds out what has to be watched.
    pub(super) fn adopt(&mut self, evaluator: &Evaluator) {
        self.music = evaluator.bindings().any(|binding| binding.source == "music");
        self.time = evaluator.bindings().any(|binding| binding.source == "time");
    }

    pub(super) fn is_needed(&self) -> bool {
        self.music || self.time
    }

    /// Takes note that an input was heard.
    pub(super) fn heard(&mut self, source: &Arc<str>, at: Seconds) {
        match self.heard.get_mut(source) {
            Some(known) => known.0 = known.0.max(at),
            None => drop(self.heard.insert(source.clone(), (at, false))),
        }
    }

    /// The state of an input: when it was heard last, and whether it counts as silent.
    pub(super) fn of(&self, source: &str) -> Option<(Seconds, bool)> {
        self.heard.get(source).copied()
    }

    /// The events of music and time since it was looked last.
    fn events(&mut self, snapshot: &Snapshot) -> Vec<(&'static str, EventAddress)> {
        let now = Heard::of(snapshot);
        let Some(before) = self.before.replace(now) else { return Vec::new() };
        let mut all = Vec::new();
        if self.music {
            let rose = |now: f32, before: f32| now > JUST && before < now;
            let mut add = |happened: bool, address: EventAddress| {
                if happened {
                    all.push(("music", address));
                }
            };
            // A clock that was set back has no beat.
            add(now.beat > before.beat, EventAddress::Beat);
            add(now.bar > before.bar, EventAddress::Bar);
            add(now.phrase > before.phrase, EventAddress::Phrase);
            add(rose(now.onset, before.onset), EventAddress::Onset);
            for (place, hit) in Hit::ALL.into_iter().enumerate() {
                add(rose(now.hits[place], before.hits[place]), EventAddress::Hit(hit));
            }
            add(now.section != before.section, EventAddress::Part(now.section));
        }
        if self.time && now.second != before.second && now.second != u32::MAX {
            all.push(("time", EventAddress::At(now.second)));
        }
        all
    }
}

/// The seconds after which an input counts as silent; none for one that may be.
fn patience(input: &Input) -> Option<f64> {
    match (input.silent_after, input.kind) {
        (after, _) if after > 0.0 => Some(f64::from(after)),
        (_, InputKind::ArtNet) => Some(ART_NET_LOSS),
        (_, InputKind::Sacn) => Some(sacn::DATA_LOSS),
        (_, InputKind::Midi | InputKind::Osc | InputKind::Ltc | InputKind::Lines) => None,
    }
}

impl Session {
    /// Looks after inputs: who fell silent, who is back, and what music and time do.
    pub(in crate::session) fn mind_inputs(&mut self) {
        self.follow_show();
        let Some(show) = self.inputs.show.clone() else { return };
        let (now, mut made) = (self.runtime.now(), Vec::new());
        self.learn_from_rest();
        self.inputs.evaluator.pass_time(now, &show, &mut made);
        if self.inputs.watch.is_needed() {
            let snapshot = &self.outlook.published.read().snapshot;
            for (source, address) in self.inputs.watch.events(snapshot) {
                if self.inputs.evaluator.has(source, &address) {
                    let source: Arc<str> = source.into();
                    let event = InputEvent { source, address, raw: 1.0, most: 1.0, edge: Edge::Press, at: now };
                    self.take_event(event, &mut made);
                }
            }
        }
        self.carry_out(made);
        self.mind_silence(now);
        self.feed_back();
    }

    fn mind_silence(&mut self, now: Seconds) {
        let InputDeskParts { sources, watch } = self.inputs.parts();
        let (mut silent, mut back) = (Vec::new(), Vec::new());
        for source in sources.iter().filter(|source| source.input.on) {
            let events = Self::events_of(source);
            let counted = watch.counted.insert(source.name.clone(), events).unwrap_or(0);
            if events > counted {
                watch.heard(&source.name, now);
            }
            let Some(known) = watch.heard.get_mut(&source.name) else { continue };
            let after = patience(&source.input);
            let is_silent = after.is_some_and(|after| now - known.0 > after);
            if is_silent && !known.1 {
                known.1 = true;
                silent.push((source.name.clone(), now - known.0));
            } else if known.1 && !is_silent {
                known.1 = false;
                back.push(source.name.clone());
            }
        }
        silent.into_iter().for_each(|(name, since)| self.fell_silent(&name, since));
        back.into_iter().for_each(|name| self.came_back(&name));
    }

    fn fell_silent(&mut self, name: &Arc<str>, since: f64) {
        let charges = self.end_input(name);
        self.happen_to(name, EventAddress::Silent);
        let after = self.fall_back(name, &charges);
        let words = format!("{name} has been silent for {since:.1} s; {after}");
        self.troubles().tell(&format!("input {name}"), words.clone());
        self.guests.put_all(&Update::Said(words));
    }

    fn came_back(&mut self, name: &Arc<str>) {
        self.troubles().over(&format!("input {name}"));
        self.guests.put_all(&Update::Said(format!("{name} is back")));
        // What it says now counts anew, all of it.
        if let Some(slots) = self.inputs.slots.remove(name) {
            let mut made = Vec::new();
            let now = self.runtime.now();
            self.take_slots(name, slots, now, &mut made);
            self.carry_out(made);
        }
        self.happen_to(name, EventAddress::Back);
    }

    /// An input ends: what it holds is let go. Returns what it was in charge of.
    pub(super) fn end_input(&mut self, name: &Arc<str>) -> Vec<String> {
        let Some(show) = self.inputs.show.clone() else { return Vec::new() };
        let mut made = Vec::new();
        let charges = self.inputs.evaluator.end(name, self.runtime.now(), &show, &mut made);
        self.carry_out(made);
        let origin = self.inputs.origin(name);
        self.let_go_of(origin);
        charges
    }

    fn happen_to(&mut self, name: &Arc<str>, address: EventAddress) {
        if self.inputs.evaluator.has(name, &address) {
            let (source, at) = (name.clone(), self.runtime.now());
            let mut made = Vec::new();
            self.take_event(InputEvent { source, address, raw: 1.0, most: 1.0, edge: Edge::Press, at }, &mut made);
            self.carry_out(made);
        }
    }

    /// Carries out what is to be when an input is silent; returns it in words.
    fn fall_back(&mut self, name: &Arc<str>, charges: &[String]) -> String {
        let Some(show) = self.inputs.show.clone() else { return String::new() };
        let input = show.inputs.iter().find(|input| *input.name == **name);
        let own: Vec<Command> = input
            .iter()
            .flat_map(|input| &input.when_silent)
            .filter_map(|one| Some(one.whole()?.clone().widened()))
            .collect();
        let made = |command: Command| Made { command, source: name.clone(), at: 0.0, binding: usize::MAX };
        let tiers = charges.iter().filter(|charge| show.tier(charge).is_some());
        let (commands, words): (Vec<Command>, String) = match (own.is_empty(), show.settings.fallback) {
            (false, _) => (own.clone(), own.iter().map(Command::to_string).collect::<Vec<_>>().join(", ")),
            (true, Fallback::Last) => (Vec::new(), "all stays as it was".to_owned()),
            (true, Fallback::Dark) => {
                let all: Vec<Command> = tiers.map(|tier| EngineCommand::ReleaseTier(tier.clone()).into()).collect();
                let words =
                    if all.is_empty() { "it was in charge of no tier" } else { "what it put on stage fades out" };
                (all, words.to_owned())
            }
            (true, Fallback::Look) => {
                let look = &show.settings.fallback_look;
                let all: Vec<Command> =
                    tiers.map(|tier| EngineCommand::FireLook(format!("{tier}/{look}")).into()).collect();
                (all, format!("{look} comes where it was in charge"))
            }
        };
        let at = self.runtime.now();
        self.carry_out(commands.into_iter().map(|command| Made { at, ..made(command) }).collect());
        words
    }
}

/// Two parts of the desk that are looked at together.
struct InputDeskParts<'d> {
    sources: &'d [super::Source],
    watch: &'d mut Watch,
}

impl super::InputDesk {
    fn parts(&mut self) -> InputDeskParts<'_> {
        InputDeskParts { sources: &self.sources, watch: &mut self.watch }
    }
}
