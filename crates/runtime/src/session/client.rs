//! The other end of the link: a guest of a session that runs in another process.

use std::io;
use std::os::unix::net::UnixStream;
use std::thread::Builder;
use std::time::Duration;

use crossbeam_channel::{Receiver, bounded};
use splimo_base::nearest::meant as meant_name;
use splimo_document::Command;
use splimo_document::Outcome;
use splimo_link::frame::{self, FrameError, LONGEST_UPDATE};
use splimo_link::message::{Guest, Request, SessionInfo, Update, VERSION};

use super::place::{self, Refusal};

/// The time that a session may take to answer before it counts as hanging.
const PATIENCE: Duration = Duration::from_secs(3);
/// The time that a screen may wait for the session to take a request.
const TAKES: Duration = Duration::from_millis(500);
/// Updates that have been read and wait for the screen.
const ON_THE_WAY: usize = 64;

/// The reason why a session cannot be reached.
#[derive(Debug, thiserror::Error)]
pub enum ClientError {
    /// There is no such session.
    #[error("there is no session {0}{near}; `splimo sessions` lists those that run", near = near(.0))]
    None(String),
    /// No session runs.
    #[error("no session runs; `splimo open SHOW` starts one")]
    Nobody,
    /// Several run, and none is named.
    #[error("several sessions run: {0}; say which one")]
    Several(String),
    /// There is no folder for sessions.
    #[error(transparent)]
    SessionPlace(#[from] Refusal),
    /// The link broke, or something was not understood.
    #[error("the session {0} does not answer: {1}")]
    Silent(String, FrameError),
    /// The session sent the guest away.
    #[error("the session sends you away: {0}")]
    SentAway(String),
}

/// The session that may be meant by a name that none has.
fn near(name: &str) -> String {
    let all = place::names().unwrap_or_default();
    meant_name(name, all.iter().map(String::as_str))
}

/// A guest that has been welcomed.
pub struct Client {
    stream: UnixStream,
    /// The session.
    pub session: SessionInfo,
    /// The first update, which has told of it.
    pub welcome: Update,
}

impl Client {
    /// Attaches to a session.
    ///
    /// # Errors
    /// [`ClientError`].
    pub fn connect(name: &str, guest: Guest) -> Result<Self, ClientError> {
        let silent = |error: FrameError| ClientError::Silent(name.to_owned(), error);
        let path = place::socket_of(name)?;
        let stream = UnixStream::connect(path).map_err(|error| match error.kind() {
            io::ErrorKind::ConnectionRefused | io::ErrorKind::NotFound => ClientError::None(name.to_owned()),
            _ => silent(error.into()),
        })?;
        let ready = || -> io::Result<()> {
            stream.set_read_timeout(Some(PATIENCE))?;
            stream.set_write_timeout(Some(PATIENCE))
        };
        ready().map_err(|error| silent(error.into()))?;
        frame::write(&mut &stream, &Request::Hello { version: VERSION, guest }).map_err(silent)?;
        match frame::read::<Update>(&mut &stream, LONGEST_UPDATE).map_err(silent)? {
            welcome @ Update::Welcome { .. } => {
                let Update::Welcome { session, .. } = &welcome else { unreachable!("it has just been matched") };
                Ok(Self { stream, session: session.clone(), welcome })
            }
            Update::Ended(why) => Err(ClientError::SentAway(why)),
            _ => Err(silent(FrameError::Strange("it does not begin with a welcome".to_owned()))),
        }
    }

    /// Sends a command and waits for its outcome.
    ///
    /// # Errors
    /// [`ClientError`].
    pub fn ask(&mut self, command: Command) -> Result<Outcome, ClientError> {
        let silent = |error: FrameError| ClientError::Silent(self.session.name.clone(), error);
        let request = Request::Command { number: 1, command: Box::new(command), base: None };
        frame::write(&mut &self.stream, &request).map_err(silent)?;
        loop {
            match frame::read::<Update>(&mut &self.stream, LONGEST_UPDATE).map_err(silent)? {
                Update::Answer { outcome, .. } => return Ok(outcome),
                Update::Ended(why) => return Err(ClientError::SentAway(why)),
                _ => {}
            }
        }
    }

    /// The link as a screen uses it: a way to send, and updates as they come, the welcome first.
    ///
    /// # Errors
    /// If the system gives no thread.
    pub fn into_link(self) -> io::Result<(impl FnMut(&Request) -> io::Result<()> + Send, Receiver<Update>)> {
        let (send, updates) = bounded(ON_THE_WAY);
        self.stream.set_read_timeout(None)?;
        self.stream.set_write_timeout(Some(TAKES))?;
        let (mut reading, writing) = (self.stream.try_clone()?, self.stream);
        let welcome = self.welcome;
        Builder::new().name("link".into()).spawn(move || {
            let _ = send.send(welcome);
            loop {
                match frame::read::<Update>(&mut reading, LONGEST_UPDATE) {
                    Ok(update) => {
                        if send.send(update).is_err() {
                            return;
                        }
                    }
                    Err(error) => {
                        tracing::info!(%error, "the link to the session is closed");
                        return;
                    }
                }
            }
        })?;
        let sending = move |request: &Request| {
            frame::write(&mut &writing, request).map_err(|error| match error {
                FrameError::Broken(error) => error,
                other => io::Error::other(other.to_string()),
            })
        };
        Ok((sending, updates))
    }
}

/// Every session that answers. What is left of those that ended badly is cleared away.
///
/// # Errors
/// [`ClientError::SessionPlace`].
pub fn sessions() -> Result<Vec<SessionInfo>, ClientError> {
    let mut found = Vec::new();
    for name in place::names()? {
        match Client::connect(&name, Guest::Visitor) {
            Ok(client) => found.push(client.session),
            Err(ClientError::None(_)) => {
                if let Ok(path) = place::socket_of(&name) {
                    let _ = std::fs::remove_file(path);
                }
            }
            Err(error) => tracing::info!(%error, name, "a session does not tell of itself"),
        }
    }
    Ok(found)
}

/// The name of the session that is meant: the one that is named, or else the only one that runs.
///
/// # Errors
/// [`ClientError`] where there is none, or several and none is named.
pub fn meant(name: Option<&str>) -> Result<String, ClientError> {
    if let Some(name) = name {
        return Ok(name.to_owned());
    }
    let mut running = sessions()?;
    match running.len() {
        0 => Err(ClientError::Nobody),
        1 => Ok(running.remove(0).name),
        _ => {
            let names: Vec<String> = running.into_iter().map(|session| session.name).collect();
            Err(ClientError::Several(names.join(", ")))
        }
    }
}
