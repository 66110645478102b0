//! The updates of screens: of everything that has changed, when it has; of the engine and the light, as often as they want.

use std::sync::Arc;

use splimo_engine::{Published, led_values, trace_slot};
use splimo_light::media::Media;
use splimo_link::document::{DocumentState, DraftState};
use splimo_link::light::LightUpdate;
use splimo_link::media::{MediaUpdate, StillMedia, films_of};
use splimo_link::message::{SlotsUpdate, Update};
use splimo_link::network::NetworkStatus;
use splimo_link::night::NightLine;
use splimo_link::output::{OutputStatus, PortStatus};
use splimo_link::trouble::Trouble;
use splimo_show::Problem;
use splimo_show::SLOTS;

use super::Session;
use super::guest::Screen;
use crate::clock::Instant;
use crate::engine::editions::Edition;
use crate::media::Library;

/// The number of times that the output is told at the most, in seconds: its counts are others at every frame.
const OUTPUT: f64 = 0.2;
/// The number of times that the inputs are told, in seconds.
const INPUTS: f64 = 0.1;
/// The number of times that the pictures of films are told, in seconds.
const FILMS: f64 = 0.12;

/// The state of what was told when it changed.
#[derive(Default)]
pub(super) struct Told {
    state: Option<DocumentState>,
    drafts: Option<DraftState>,
    output: Option<OutputStatus>,
    output_at: Option<Instant>,
    network: Option<Arc<NetworkStatus>>,
    ports: Option<Vec<PortStatus>>,
    inputs_at: Option<Instant>,
    troubles: Option<Vec<Trouble>>,
    problems: Option<Arc<Vec<Problem>>>,
    media: Option<Arc<Media>>,
    films_at: Option<Instant>,
    /// The line of the night log from which on all is still to be told.
    night: u64,
    /// The same line, as it was told.
    night_last: Option<NightLine>,
}

impl Session {
    /// Tells the screens what is new.
    pub(super) fn tell_screens(&mut self) {
        let updates = self.changes();
        for update in &updates {
            self.guests.put_all(update);
        }
        self.tell_media();
        let now = Instant::now();
        let Self { guests, outlook, runtime, .. } = self;
        // Reading has the engine write anew: that is for when somebody is due only.
        if guests.is_any_due(now) {
            let published = outlook.published.read();
            let edition = runtime.editions().get(published.snapshot.edition);
            guests.each_screen(|screen| {
                if screen.take_turn(now) {
                    tell_present(screen, published, &edition);
                }
            });
        }
        let watched = guests.received();
        runtime.exchange().watch(watched);
    }

    /// The updates for what has changed and is told to all.
    fn changes(&mut self) -> Vec<Update> {
        let mut updates = Vec::new();
        let state = self.state();
        if self.told.state.as_ref() != Some(&state) {
            self.told.state = Some(state.clone());
            updates.push(Update::State(Box::new(state)));
        }
        let night: Vec<NightLine> = self.night.since(self.told.night).cloned().collect();
        if !night.is_empty() && self.told.night_last.as_ref() != night.last() {
            // The last line may go on.
            self.told.night = self.night.last();
            self.told.night_last = night.last().cloned();
            updates.push(Update::Night(night));
        }
        let drafts = DraftState::from(self.document.drafts());
        if self.told.drafts.as_ref() != Some(&drafts) {
            self.told.drafts = Some(drafts.clone());
            updates.push(Update::Drafts(Box::new(drafts)));
        }
        let now = Instant::now();
        let output = self.outlook.output.read();
        let due = self.told.output_at.is_none_or(|at| now.seconds_since(at) >= OUTPUT);
        if due && self.told.output.as_ref() != Some(output) {
            (self.told.output, self.told.output_at) = (Some(output.clone()), Some(now));
            updates.push(Update::Output(Box::new(output.clone())));
        }
        let network = self.runtime.exchange().status();
        if self.told.network.as_ref().is_none_or(|told| !Arc::ptr_eq(told, &network)) {
            updates.push(Update::Network(Box::new(NetworkStatus::clone(&network))));
            self.told.network = Some(network);
        }
        if self.told.inputs_at.is_none_or(|at| now.seconds_since(at) >= INPUTS) {
            self.told.inputs_at = Some(now);
            updates.push(Update::Inputs(Box::new(self.inputs_status())));
        }
        let ports = self.runtime.editions().ports();
        if self.told.ports.as_ref() != Some(&ports) {
            updates.push(Update::Ports(ports.clone()));
            self.told.ports = Some(ports);
        }
        let troubles = self.runtime.troubles().list();
        if self.told.troubles.as_ref() != Some(&troubles) {
            updates.push(Update::Troubles(troubles.clone()));
            self.told.troubles = Some(troubles);
        }
        let problems = self.runtime.editions().problems();
        if self.told.problems.as_ref().is_none_or(|told| !Arc::ptr_eq(told, &problems)) {
            updates.push(Update::Problems(Vec::clone(&problems)));
            self.told.problems = Some(problems);
        }
        updates
    }

    fn state(&self) -> DocumentState {
        DocumentState {
            path: self.path.clone(),
            unsaved: self.document.unsaved(),
            saved: self.saved,
            found: self.found.is_some(),
            ran: self.ran.as_ref().map(|ran| ran.words()),
            screens: self.guests.screens(),
            next: self.scheduler.next().to_vec(),
            folder: Library::folder_of(self.path.as_deref()),
            theirs: self.theirs.clone(),
        }
    }

    /// Tells pictures, films and fonts to the screens that show them.
    fn tell_media(&mut self) {
        if !self.guests.want_media() {
            // Whoever wants them next is told all of them.
            self.told.media = None;
            return;
        }
        let media = self.runtime.editions().newest().rig.media.clone();
        let another = self.told.media.as_ref().is_none_or(|told| !Arc::ptr_eq(told, &media));
        let now = Instant::now();
        let films_due = self.told.films_at.is_none_or(|at| now.seconds_since(at) >= FILMS) && !media.films.is_empty();
        if !another && !films_due {
            return;
        }
        let still = another.then(|| StillMedia::of(&media));
        let films = films_of(&media);
        (self.told.media, self.told.films_at) = (Some(media), Some(now));
        self.guests.put_media(&Update::Media(Box::new(MediaUpdate { still, films })));
    }
}

/// Tells a screen the present, as much of it as it wants.
fn tell_present(screen: &mut Screen<'_>, published: &Published, edition: &Edition) {
    let snapshot = &published.snapshot;
    screen.put(Update::Engine(Box::new(snapshot.clone())));
    let wanted = screen.subscription().clone();
    if let Some(set) = &wanted.light {
        screen.put(Update::Light(Box::new(LightUpdate::of(snapshot.edition, &published.light, set))));
    }
    let size = usize::from(SLOTS);
    if let Some((block, slot)) = wanted.slots
        && let Some(slots) = published.slots.get(block.saturating_mul(size)..).and_then(|rest| rest.get(..size))
    {
        let slot = slot.min(SLOTS - 1);
        let trace = trace_slot(&edition.show, &edition.rig, &published.light, snapshot.master, block, slot);
        screen.put(Update::Slots(Box::new(SlotsUpdate { block, slots: slots.to_vec(), slot, trace })));
    }
    if let Some(led) = wanted.led {
        screen.put(Update::Led(led_values(&edition.show, &edition.rig, published, led).map(Box::new)));
    }
    if wanted.loads {
        screen.put(Update::Loads(published.loads.clone()));
    }
}
