//! The model: what this screen has been told of its session. Views read it, and nothing else.

use std::collections::VecDeque;
use std::sync::Arc;

use splimo_engine::{LedValues, Load, Snapshot};
use splimo_light::rig::Rig;
use splimo_link::document::{DocumentCopy, DocumentState, DraftState};
use splimo_link::inputs::InputsStatus;
use splimo_link::media::MediaCopy;
use splimo_link::message::{SessionInfo, SlotsUpdate, Update};
use splimo_link::network::NetworkStatus;
use splimo_link::night::{MOST_LINES, NightLine};
use splimo_link::output::{OutputStatus, PortStatus};
use splimo_link::trouble::Trouble;
use splimo_show::Problem;
use splimo_show::Show;

use crate::hearing_history::HearingHistory;
use crate::keyboard::Layout;

/// Rigs that are kept: that of the show as it is edited, that of the show as it is played, and some of a moment ago.
const RIGS: usize = 4;

/// The session as a screen knows it.
#[derive(Default)]
pub(crate) struct Model {
    /// The layout of the keyboard in front of the person.
    pub(crate) layout: Layout,
    /// True if little is to move that is no light.
    pub(crate) reduced_motion: bool,
    /// The session, once it has said who it is.
    pub(crate) session: Option<SessionInfo>,
    /// The document.
    pub(crate) document: DocumentCopy,
    /// The document apart from the show.
    pub(crate) state: DocumentState,
    /// The looks that are edited blind.
    pub(crate) drafts: DraftState,
    /// The engine.
    pub(crate) snapshot: Snapshot,
    /// The light of every LED, linear, and the edition of the show whose rig they are of.
    pub(crate) light: (u64, Vec<[f32; 3]>),
    /// The slots of the universe that is shown.
    pub(crate) slots: Option<SlotsUpdate>,
    /// The numbers of the light that is shown.
    pub(crate) led: Option<LedValues>,
    /// The current that each fixture takes.
    pub(crate) loads: Vec<Load>,
    /// The output.
    pub(crate) output: OutputStatus,
    /// The network.
    pub(crate) network: NetworkStatus,
    /// The serial ports.
    pub(crate) ports: Vec<PortStatus>,
    /// The inputs, and what came in.
    pub(crate) inputs: InputsStatus,
    /// The troubles of the moment.
    pub(crate) troubles: Vec<Trouble>,
    /// The problems of the show.
    pub(crate) problems: Arc<Vec<Problem>>,
    /// The recent hearing.
    pub(crate) history: HearingHistory,
    /// The night log.
    pub(crate) night: Night,
    media: MediaCopy,
    rigs: Vec<(Arc<Show>, Arc<Rig>)>,
    played: Option<(Arc<Show>, Arc<Rig>)>,
}

/// The last lines of the night log, the newest last.
#[derive(Debug, Default)]
pub(crate) struct Night(VecDeque<NightLine>);

impl Night {
    fn take(&mut self, lines: Vec<NightLine>) {
        for line in lines {
            match self.0.back_mut() {
                Some(last) if last.number == line.number => *last = line,
                Some(last) if last.number > line.number => {}
                _ => self.0.push_back(line),
            }
            if self.0.len() > MOST_LINES {
                self.0.pop_front();
            }
        }
    }

    /// The lines, the newest first.
    pub(crate) fn newest(&self) -> impl Iterator<Item = &NightLine> {
        self.0.iter().rev()
    }
}

/// The consequence of an update, besides a changed model.
#[derive(Debug, Clone, PartialEq)]
pub(crate) enum News {
    /// Nothing.
    None,
    /// A command has its outcome.
    Answer(u64, splimo_document::Outcome),
    /// Something is said to everybody.
    Said(String),
    /// The session ends, or ends this screen; why.
    Ended(String),
    /// The document did not fit: the screen has to be attached anew.
    Lost(String),
    /// The memory of the last screen.
    Remembered(Vec<u8>),
}

/// The show as it is edited.
#[derive(Debug, Clone)]
pub(crate) struct EditedShow {
    /// The show with what is tried.
    pub(crate) show: Arc<Show>,
    /// Without it.
    pub(crate) kept: Arc<Show>,
    /// Its rig, as it lies with what is tried.
    pub(crate) rig: Arc<Rig>,
    /// The fault in it.
    pub(crate) problems: Arc<Vec<Problem>>,
}

/// The context of a view: everything that it is drawn from.
pub(crate) struct ViewContext<'a> {
    /// The show that the snapshot is of.
    pub(crate) show: &'a Arc<Show>,
    /// Its rig.
    pub(crate) rig: &'a Arc<Rig>,
    /// The show as it is edited.
    pub(crate) edited: EditedShow,
    /// True if anything is not saved.
    pub(crate) unsaved: bool,
    /// The engine.
    pub(crate) snapshot: &'a Snapshot,
    /// The light of every LED of the rig, linear.
    pub(crate) light: &'a [[f32; 3]],
    /// The slots of the universe that is shown.
    pub(crate) slots: Option<&'a SlotsUpdate>,
    /// The numbers of the light that is shown.
    pub(crate) led: Option<&'a LedValues>,
    /// The current that each fixture takes.
    pub(crate) loads: &'a [Load],
    /// The output.
    pub(crate) output: &'a OutputStatus,
    /// The network.
    pub(crate) network: &'a NetworkStatus,
    /// The serial ports.
    pub(crate) ports: &'a [PortStatus],
    /// The inputs, and what came in.
    pub(crate) inputs: &'a InputsStatus,
    /// The troubles of the moment.
    pub(crate) troubles: &'a [Trouble],
    /// The recent hearing.
    pub(crate) history: &'a HearingHistory,
    /// The layout of the keyboard in front of the person.
    pub(crate) layout: Layout,
    /// True if little is to move that is no light.
    pub(crate) reduced_motion: bool,
}

impl Model {
    /// The model of a screen at a keyboard.
    pub(crate) fn on(layout: Layout) -> Self {
        Self { layout, ..Self::default() }
    }

    /// Takes an update over.
    pub(crate) fn take(&mut self, update: Update) -> News {
        match update {
            Update::Welcome { session, remembered, .. } => {
                self.session = Some(session);
                return News::Remembered(remembered);
            }
            Update::Answer { number, outcome } => return News::Answer(number, outcome),
            Update::Document(update) => {
                if let Err(why) = self.document.take(*update) {
                    return News::Lost(why);
                }
            }
            Update::State(state) => {
                if !state.unsaved && state.saved == self.document.edition() {
                    self.document.mark_saved();
                }
                self.state = *state;
            }
            Update::Drafts(drafts) => self.drafts = *drafts,
            Update::Engine(snapshot) => {
                self.snapshot = *snapshot;
                self.history.listen(&self.snapshot.hearing);
            }
            Update::Light(light) => {
                self.light.0 = light.edition;
                light.expand(&mut self.light.1);
            }
            Update::Slots(slots) => self.slots = Some(*slots),
            Update::Led(led) => self.led = led.map(|led| *led),
            Update::Loads(loads) => self.loads = loads,
            Update::Output(output) => self.output = *output,
            Update::Network(network) => self.network = *network,
            Update::Ports(ports) => self.ports = ports,
            Update::Inputs(inputs) => self.inputs = *inputs,
            Update::Troubles(troubles) => self.troubles = troubles,
            Update::Problems(problems) => self.problems = Arc::new(problems),
            Update::Night(lines) => self.night.take(lines),
            Update::Media(media) => self.media.take(*media),
            Update::Said(words) => return News::Said(words),
            Update::Ended(why) => return News::Ended(why),
        }
        News::None
    }

    /// Compiles what has to be compiled for the present shows.
    pub(crate) fn prepare(&mut self) {
        let shown = self.document.shown().clone();
        self.rig_of(&shown);
        let show = self.document.played(self.snapshot.edition).clone();
        let rig = self.rig_of(&show);
        self.played = Some((show, rig));
    }

    /// The rig of a show. Shows that differ in looks and settings alone have the same.
    fn rig_of(&mut self, show: &Arc<Show>) -> Arc<Rig> {
        let media = self.media.media().clone();
        if let Some(place) = self.rigs.iter().position(|(known, _)| Arc::ptr_eq(known, show) || known.hangs_like(show))
        {
            let (_, mut rig) = self.rigs.remove(place);
            if rig.media != media {
                rig = Arc::new(Rig { media, ..Rig::clone(&rig) });
            }
            self.rigs.push((show.clone(), rig.clone()));
            return rig;
        }
        let rig = Arc::new(Rig { media, ..Rig::compile(show) });
        if self.rigs.len() == RIGS {
            self.rigs.remove(0);
        }
        self.rigs.push((show.clone(), rig.clone()));
        rig
    }

    /// The show as it is edited; `prepare` has to have come before.
    pub(crate) fn edited(&self) -> EditedShow {
        let show = self.document.shown().clone();
        let found = self.rigs.iter().rev().find(|(known, _)| Arc::ptr_eq(known, &show) || known.hangs_like(&show));
        let rig = found.map_or_else(Arc::default, |(_, rig)| rig.clone());
        EditedShow { show, kept: self.document.kept().clone(), rig, problems: self.problems.clone() }
    }

    /// The context of views; `prepare` has to have come before.
    pub(crate) fn context<'a>(&'a self, nothing: &'a (Arc<Show>, Arc<Rig>)) -> ViewContext<'a> {
        let (show, rig) = self.played.as_ref().unwrap_or(nothing);
        // Between an edit and the engine's next frame the lights may not be the same yet.
        let light = if self.light.1.len() == rig.len() { self.light.1.as_slice() } else { &[] };
        ViewContext {
            show,
            rig,
            edited: self.edited(),
            unsaved: self.state.unsaved,
            snapshot: &self.snapshot,
            light,
            slots: self.slots.as_ref(),
            led: self.led.as_ref(),
            loads: &self.loads,
            output: &self.output,
            network: &self.network,
            ports: &self.ports,
            inputs: &self.inputs,
            troubles: &self.troubles,
            history: &self.history,
            layout: self.layout,
            reduced_motion: self.reduced_motion,
        }
    }
}
