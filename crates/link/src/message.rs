//! The messages: what a screen asks ([`Request`]), and what a session tells ([`Update`]).

use std::path::Path;

use serde::{Deserialize, Serialize};
use splimo_document::Command;
use splimo_document::Outcome;
use splimo_engine::{LedValues, Load, SlotTrace, Snapshot};
use splimo_show::Problem;

use crate::document::{DocumentState, DocumentUpdate, DraftState};
use crate::inputs::InputsStatus;
use crate::light::LightUpdate;
use crate::media::MediaUpdate;
use crate::network::NetworkStatus;
use crate::night::NightLine;
use crate::output::{OutputStatus, PortStatus};
use crate::subscription::Subscription;
use crate::trouble::Trouble;

/// The version of the link. Both sides have to speak the same; a screen of another version is told so in words.
pub const VERSION: u32 = 1;

/// The kind of a guest, which decides what it is told of its own accord.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Guest {
    /// A screen: it is told everything that it may show.
    Screen,
    /// A sender of commands (`splimo do`): it is told answers only.
    Sender,
    /// Somebody who asks what runs here (`splimo sessions`): it is told that, and no more.
    Visitor,
}

/// A request of a guest.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Request {
    /// The first request: who asks.
    Hello {
        /// The version of the link that it speaks.
        version: u32,
        /// The kind of guest.
        guest: Guest,
    },
    /// To carry a command out.
    Command {
        /// A number of the guest's own, which the answer has too.
        number: u64,
        /// The command.
        command: Box<Command>,
        /// The edition of the document on which it was made; none means whatever it is by then.
        base: Option<u64>,
    },
    /// To be told other things from now on.
    Subscribe(Box<Subscription>),
    /// To remember something of the screen, such as its view, for the next one that is attached. At most
    /// [`MOST_REMEMBERED`] bytes; the session does not look into it.
    Remember(#[serde(with = "crate::bytes")] Vec<u8>),
    /// To take note that the screen failed and was started anew; why.
    Failed(String),
}

/// The most that a session remembers of a screen, in bytes.
pub const MOST_REMEMBERED: usize = 16 << 10;

/// A session in a few words.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SessionInfo {
    /// Its name on this machine.
    pub name: String,
    /// The show's file, or the show's name where it has none.
    pub show: String,
    /// Its process.
    pub pid: u32,
    /// The time when it began, in seconds since 1970 (UTC).
    pub since: u64,
    /// The number of screens that are attached.
    pub screens: u32,
    /// The file of the night log; empty where it is kept in memory only.
    #[serde(default)]
    pub night_log: String,
}

impl SessionInfo {
    /// The folder of the show's file, from the root; empty where it has none.
    #[must_use]
    pub fn folder(&self) -> String {
        let path = Path::new(&self.show);
        let folder = path.parent().filter(|_| path.is_absolute());
        folder.map(|folder| folder.display().to_string()).unwrap_or_default()
    }
}

/// A message of a session.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Update {
    /// The first update: the session, and the version of the link that it speaks.
    Welcome {
        /// The version.
        version: u32,
        /// The session.
        session: SessionInfo,
        /// The number of this guest.
        guest: u32,
        /// The memory of the last screen.
        #[serde(with = "crate::bytes")]
        remembered: Vec<u8>,
    },
    /// The outcome of a command.
    Answer {
        /// The number that the guest gave the command.
        number: u64,
        /// The outcome.
        outcome: Outcome,
    },
    /// A change of the document.
    Document(Box<DocumentUpdate>),
    /// The document apart from the show.
    State(Box<DocumentState>),
    /// The looks that are edited blind.
    Drafts(Box<DraftState>),
    /// The engine.
    Engine(Box<Snapshot>),
    /// The light, for who subscribed to it.
    Light(Box<LightUpdate>),
    /// The slots of a universe, for who subscribed to it.
    Slots(Box<SlotsUpdate>),
    /// The numbers that leave for a light, for who subscribed to it.
    Led(Option<Box<LedValues>>),
    /// The current that each fixture takes, for who subscribed to it.
    Loads(Vec<Load>),
    /// The output.
    Output(Box<OutputStatus>),
    /// The network.
    Network(Box<NetworkStatus>),
    /// The inputs, and what came in.
    Inputs(Box<InputsStatus>),
    /// The serial ports.
    Ports(Vec<PortStatus>),
    /// The troubles of the moment.
    Troubles(Vec<Trouble>),
    /// The problems of the show.
    Problems(Vec<Problem>),
    /// Lines of the night log that are new, or go on.
    Night(Vec<NightLine>),
    /// Pictures and fonts, in the size that a screen needs.
    Media(Box<MediaUpdate>),
    /// Something said to everybody, as when another screen ends the show.
    Said(String),
    /// The session ends, or ends this guest; why.
    Ended(String),
}

/// The slots of a universe as they leave.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SlotsUpdate {
    /// Their place among the blocks of 512 slots of a frame.
    pub block: usize,
    /// The values.
    #[serde(with = "crate::bytes")]
    pub slots: Vec<u8>,
    /// The slot that is traced, 0..511.
    pub slot: u16,
    /// The way its value came about; none where it belongs to nothing.
    pub trace: Option<SlotTrace>,
}
