//! Listening: an input that is on is followed, one that is changed is followed anew, one that is off or gone is not.

use std::sync::Arc;
use std::sync::atomic::Ordering;

use splimo_document::DocumentCommand;
use splimo_document::Outcome;
use splimo_document::edit::Edit;
use splimo_show::command::Origin;
use splimo_show::{Input, InputKind, Show};

use crate::inputs::{Counts, Following, controllers};
use crate::media::Library;
use crate::network::DmxInput;
use crate::session::Session;
use crate::session::dispatch::told;

/// An input, and what follows it.
pub(super) struct Source {
    pub(super) input: Arc<Input>,
    pub(super) name: Arc<str>,
    pub(super) extra: bool,
    pub(super) counts: Arc<Counts>,
    /// The reason why it could not be followed.
    pub(super) failure: Option<String>,
    /// It ends with this.
    _following: Option<Following>,
    /// Events up to the last measurement, when that was, and how many came a second.
    pub(super) measured: (u64, f64, f32),
    pub(super) left_out: u64,
    /// The time when something was left out last; 0 where that is over.
    pub(super) flooded: f64,
}

impl Session {
    /// Follows the inputs of a show and those of the command line.
    pub(super) fn listen_to(&mut self, show: &Show) {
        let wanted: Vec<(Input, bool)> = show
            .inputs
            .iter()
            .map(|input| (input.clone(), false))
            .chain(self.inputs.extra.iter().map(|input| (input.clone(), true)))
            .collect();
        let mut before = std::mem::take(&mut self.inputs.sources);
        let mut sources = Vec::with_capacity(wanted.len());
        for (input, extra) in wanted {
            let same =
                before.iter().position(|source| listens_alike(&source.input, &input) && source.failure.is_none());
            match same {
                Some(place) => {
                    let mut source = before.swap_remove(place);
                    source.input = Arc::new(input);
                    sources.push(source);
                }
                None => {
                    // What it had, such as a port, is free before it is asked for again.
                    before.retain(|source| *source.name != *input.name);
                    sources.push(self.source_of(input, extra));
                }
            }
        }
        for gone in before {
            self.troubles().over(&gone.name);
            self.end_input(&gone.name);
        }
        for off in sources.iter().filter(|source| !source.input.on) {
            self.troubles().over(&off.name);
        }
        self.inputs.sources = sources;
        self.night.name_inputs(self.inputs.names());
        self.listen_to_universes();
    }

    fn source_of(&mut self, input: Input, extra: bool) -> Source {
        let (input, counts) = (Arc::new(input), Arc::new(Counts::default()));
        let name: Arc<str> = input.name.as_str().into();
        // It has its number from the beginning.
        self.inputs.origin(&name);
        let threaded = input.on && !matches!(input.kind, InputKind::ArtNet | InputKind::Sacn);
        let started = threaded.then(|| Following::start(self.runtime.follower(&input, &counts)));
        let (following, failure) = match started {
            Some(Ok(following)) => (Some(following), None),
            Some(Err(why)) => {
                self.troubles().tell(&name, why.clone());
                (None, Some(why))
            }
            None => (None, None),
        };
        Source {
            input,
            name,
            extra,
            counts,
            failure,
            _following: following,
            measured: Default::default(),
            left_out: 0,
            flooded: 0.0,
        }
    }

    /// Has the network's thread hand over the universes that are inputs.
    fn listen_to_universes(&self) {
        let universes = self.inputs.sources.iter().filter(|source| source.input.on);
        let all = universes.filter_map(|source| DmxInput::of(&source.input, &source.name, &source.counts));
        self.runtime.exchange().listen_to(all.collect());
    }

    /// Switches an input on, or off again.
    pub(super) fn switch_input(&mut self, name: &str, by: Origin) -> Outcome {
        let show = self.document.shown();
        let Some((place, input)) = show.inputs.iter().enumerate().find(|(_, input)| input.name == name) else {
            return no_input(show, name);
        };
        let turned = Input { on: !input.on, ..input.clone() };
        let (on, edition) = (turned.on, self.document.edition());
        let edit = DocumentCommand::Edit(Edit::PutInput(place, turned));
        match self.dispatch(&edit.into(), by, Some(edition), None) {
            Outcome::Done => {
                self.follow_show();
                told(&format!("{name} is {}", if on { "on" } else { "off" }))
            }
            other => other,
        }
    }

    /// Brings in the bindings of the model of an input's controller that the show does not have yet.
    pub(super) fn bind_model(&mut self, name: &str, by: Origin) -> Outcome {
        let show = self.document.shown().clone();
        let Some(input) = show.inputs.iter().find(|input| input.name == name) else {
            return no_input(&show, name);
        };
        if input.controller.is_empty() {
            return Outcome::Nothing(format!("{name} has no controller model; give it one on Inputs (F7) first"));
        }
        let model = match controllers::find(&input.controller, &Library::folder_of(self.path.as_deref())) {
            Ok(model) => model,
            Err(why) => return Outcome::Refused(why),
        };
        let bindings = model.bindings_for(name, &show.bindings);
        let count = bindings.len();
        if count == 0 {
            return Outcome::Nothing(match model.bindings.is_empty() {
                true => format!("{} comes with no bindings", model.name),
                false => format!("{name} has all bindings of {} already", model.name),
            });
        }
        let edit = DocumentCommand::Edit(Edit::AddBindings(bindings));
        match self.dispatch(&edit.into(), by, None, None) {
            Outcome::Done => {
                self.follow_show();
                told(&format!("{count} bindings of {} are {name}'s now", model.name))
            }
            other => other,
        }
    }

    /// The failure of an input, if nothing can come in.
    pub(super) fn failure_of(source: &Source) -> Option<String> {
        source.failure.clone().or_else(|| source.counts.failure())
    }

    /// Events of an input since it is followed.
    pub(super) fn events_of(source: &Source) -> u64 {
        source.counts.events.load(Ordering::Relaxed)
    }
}

fn no_input(show: &Show, name: &str) -> Outcome {
    let known: Vec<&str> = show.inputs.iter().map(|input| input.name.as_str()).collect();
    let known = if known.is_empty() { "it has none".to_owned() } else { format!("it has {}", known.join(", ")) };
    Outcome::Nothing(format!("this show has no input \"{name}\"; {known}"))
}

/// True if two inputs are listened to in the same way, so that one need not begin anew.
fn listens_alike(a: &Input, b: &Input) -> bool {
    a.name == b.name && a.kind == b.kind && a.address == b.address && a.on == b.on && a.from == b.from
}
