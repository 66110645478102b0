//! `splimo attach`: a screen on a running session.

use std::io;
use std::process::ExitCode;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use signal_hook::consts::SIGCONT;
use signal_hook::flag;
use splimo_link::message::Guest;
use splimo_runtime::fault;
use splimo_runtime::session::client::{Client, ClientError};
use splimo_runtime::urgency::{Patience, give_way};
use splimo_screen::{Elsewhere, End, Link, Options};

use super::stop::StopSignal;
use super::{Failure, config, logging};

/// The time that a session may take to end once it was asked to.
const ENDS: Duration = Duration::from_secs(5);
/// The number of times that a link that broke is taken up again before the session counts as gone.
const TRIES: u32 = 3;

/// The way in which a screen was left.
pub(super) enum Left {
    /// For good, with an exit code.
    Done(ExitCode),
    /// For another show or session.
    For(Elsewhere),
}

/// The state that a screen begins in.
#[derive(Debug, Default)]
pub(super) struct Manner {
    /// The tutorial.
    pub(super) tutorial: bool,
    /// Something that is said at first.
    pub(super) told: Option<String>,
}

/// Shows a session of a name until the person leaves.
pub(super) fn attach(name: &str, stop: &StopSignal, manner: Manner) -> Result<Left, Failure> {
    // The lights go before what is seen of them here.
    give_way(Patience::Rest);
    let stop = stop.clone();
    let (config, wrong) = config::told();
    let options = Options {
        ended: Arc::new(move || stop.came()),
        resumed: resumed()?,
        tutorial: manner.tutorial,
        told: manner.told.or(wrong),
        config,
        log: Some(logging::path()),
        strike: || fault::strike("screen"),
    };
    let mut tries = 0;
    loop {
        let client = match Client::connect(name, Guest::Screen) {
            Ok(client) => client,
            Err(ClientError::None(_)) if tries > 0 => return Err(format!("the session {name} is gone").into()),
            Err(error) => return Err(error.into()),
        };
        let (send, updates) = client.into_link()?;
        match splimo_screen::run(Link { send: Box::new(send), updates }, &options)? {
            End::ShowEnded => {
                wait_for_the_end(name);
                return Ok(Left::Done(ExitCode::SUCCESS));
            }
            End::Elsewhere(elsewhere) => return Ok(Left::For(elsewhere)),
            End::RunsOn => {
                say(&format!("the show runs on as the session {name}; `splimo attach {name}` shows it again"));
                return Ok(Left::Done(ExitCode::SUCCESS));
            }
            End::Sent(why) => {
                say(&why);
                return Ok(Left::Done(ExitCode::SUCCESS));
            }
            End::Lost if tries < TRIES => tries += 1,
            End::Lost => return Err(format!("the link to the session {name} breaks again and again").into()),
            End::TerminalGone(why) => {
                tracing::info!(why, "the terminal is gone; the show runs on");
                return Ok(Left::Done(ExitCode::FAILURE));
            }
            End::Failed(why) => {
                say(&format!("{why}\nThe lights run on; `splimo attach {name}` shows them again."));
                return Ok(Left::Done(ExitCode::FAILURE));
            }
        }
    }
}

/// True if the process was stopped and goes on, each time that it is asked.
fn resumed() -> io::Result<Arc<dyn Fn() -> bool + Send + Sync>> {
    let goes_on = Arc::new(AtomicBool::new(false));
    flag::register(SIGCONT, goes_on.clone())?;
    Ok(Arc::new(move || goes_on.swap(false, Ordering::Relaxed)))
}

/// Says something on standard error, which may be gone with the terminal.
fn say(words: &str) {
    use io::Write;
    let _ = writeln!(io::stderr(), "splimo: {words}");
}

/// Waits until a session that was ended is gone, so that its show can be opened again at once.
fn wait_for_the_end(name: &str) {
    let start = std::time::Instant::now();
    while start.elapsed() < ENDS
        && matches!(Client::connect(name, Guest::Visitor), Ok(_) | Err(ClientError::SentAway(_)))
    {
        std::thread::sleep(Duration::from_millis(10));
    }
}
