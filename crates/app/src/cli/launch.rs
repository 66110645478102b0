//! Sessions in processes of their own: how they are launched, and the process that they are.

use std::io::{BufRead, BufReader, Write};
use std::net::Ipv4Addr;
use std::path::PathBuf;
use std::process::{Child, Command, ExitCode, Stdio};
use std::time::Duration;

use clap::Args;
use splimo_document::file;
use splimo_runtime::files;
use splimo_runtime::machine;
use splimo_runtime::session::{Ends, Session, Start, place};
use splimo_runtime::sound::Channels;

use super::inputs::InputArguments;
use super::opening::{checked_source, opened_or_new, with_standins};
use super::stop::StopSignal;
use super::{Failure, Span, logging};
use crate::standin::node::{Node, NodeSpec};
use crate::standin::sim::demo_pads::DemoPads;

/// The time that a session may take to begin.
const PATIENCE: Duration = Duration::from_secs(30);
/// The time that a demo that nobody is attached to goes on.
const UNATTENDED: Duration = Duration::from_secs(600);
/// The words of the session on standard output once guests may come; its name follows.
const READY: &str = "ready ";

/// The arguments of a session in a process of its own.
#[derive(Debug, Args)]
pub(super) struct SessionArguments {
    /// The show's file; without one, the demo
    #[arg(long)]
    pub(super) show: Option<PathBuf>,
    /// Source of the sound
    #[arg(long)]
    pub(super) audio: String,
    /// Which channels of it are heard
    #[arg(long, default_value = "mono")]
    pub(super) channels: Channels,
    /// The look to begin with
    #[arg(long)]
    pub(super) look: Option<String>,
    /// End with the last screen
    #[arg(long)]
    pub(super) with_screen: bool,
    /// Length of the run, such as 90s or 5m
    #[arg(long = "for", value_name = "TIME")]
    pub(super) span: Option<Span>,
    /// Be a lighting node at an address of the loopback too
    #[arg(long)]
    pub(super) node: Option<Ipv4Addr>,
    #[command(flatten)]
    pub(super) inputs: InputArguments,
}

impl SessionArguments {
    /// The arguments of the demo, with nothing but what is listened to.
    pub(super) fn plain(audio: &str) -> Self {
        Self {
            show: None,
            audio: audio.to_owned(),
            channels: Channels::All,
            look: None,
            with_screen: false,
            span: None,
            node: None,
            inputs: InputArguments::default(),
        }
    }

    /// The options beside the show that say anything else than usual.
    pub(super) fn beyond_the_show(&self) -> Option<String> {
        let plain = Self::plain("none");
        let said = [
            (self.audio != plain.audio, "--audio"),
            (self.channels != plain.channels, "--channels"),
            (self.look.is_some(), "--look"),
            (self.with_screen, "--with-screen"),
            (!self.inputs.is_empty(), "the inputs"),
        ];
        let said: Vec<&str> = said.into_iter().filter(|(said, _)| *said).map(|(_, name)| name).collect();
        (!said.is_empty()).then(|| said.join(", "))
    }

    /// The command line that says the same.
    fn to_command(&self) -> Result<Command, Failure> {
        let mut command = Command::new(std::env::current_exe()?);
        command.arg("session").arg("--audio").arg(&self.audio).arg("--channels").arg(self.channels.to_string());
        if let Some(show) = &self.show {
            command.arg("--show").arg(show);
        }
        if let Some(look) = &self.look {
            command.arg("--look").arg(look);
        }
        if self.with_screen {
            command.arg("--with-screen");
        }
        if let Some(span) = self.span {
            command.arg("--for").arg(format!("{}s", span.0));
        }
        if let Some(node) = self.node {
            command.arg("--node").arg(node.to_string());
        }
        self.inputs.say_to(&mut command);
        if let Some(levels) = logging::asked() {
            command.env(logging::LEVELS, levels);
        }
        // What is read from standard input is the session's to read.
        let standard = self.audio == "-" || self.inputs.reads_standard_input();
        command.stdin(if standard { Stdio::inherit() } else { Stdio::null() }).stdout(Stdio::piped());
        Ok(command)
    }

    /// Starts a session in a process of its own, waits until it is ready, and returns its name.
    ///
    /// # Errors
    /// The words of a session that cannot begin.
    pub(super) fn launch(&self) -> Result<String, Failure> {
        let mut child = self.to_command()?.spawn().map_err(|error| format!("no session can be started: {error}"))?;
        let output = child.stdout.take().ok_or("the session has no output")?;
        let (send, lines) = std::sync::mpsc::channel();
        std::thread::spawn(move || {
            for line in BufReader::new(output).lines().map_while(Result::ok) {
                if send.send(line).is_err() {
                    return;
                }
            }
        });
        loop {
            match lines.recv_timeout(PATIENCE) {
                Ok(line) => {
                    if let Some(name) = line.strip_prefix(READY) {
                        return Ok(name.to_owned());
                    }
                }
                Err(std::sync::mpsc::RecvTimeoutError::Timeout) => return Err(given_up(child)),
                // It has said on standard error why it could not begin.
                Err(std::sync::mpsc::RecvTimeoutError::Disconnected) => {
                    let code = child.wait().ok().and_then(|status| status.code());
                    return Err(Failure::from(Silent(code.unwrap_or(1))));
                }
            }
        }
    }
}

/// A failure of which has been told already.
#[derive(Debug, thiserror::Error)]
#[error("the session could not begin")]
pub(super) struct Silent(pub(super) i32);

fn given_up(mut child: Child) -> Failure {
    let _ = child.kill();
    "the session did not begin in time; the log says more".into()
}

/// `splimo session`: the process of a session. It has no terminal, and outlives whoever launched it.
pub(super) fn run(arguments: &SessionArguments) -> Result<ExitCode, Failure> {
    // Nobody's job any more: no terminal that goes away takes it along. As the leader of a group, it is that already.
    let _ = nix::unistd::setsid();
    let stop = StopSignal::register_detached()?;
    let source = checked_source(&arguments.audio, arguments.channels)?;
    let (show, nodes) = match &arguments.show {
        Some(path) => (opened_or_new(path)?, arguments.node.map(standin).transpose()?.into_iter().collect()),
        None => with_standins(&file::read(files::LANTERN_QUAY)?.show)?,
    };
    let mut show = show;
    let pads = match &arguments.show {
        Some(_) => None,
        None => Some(DemoPads::make(&place::folder()?)?),
    };
    if let Some(pads) = &pads {
        pads.stand_in(&mut show);
    }
    let ends = Ends {
        with_screen: arguments.with_screen,
        unattended: arguments.show.is_none().then_some(UNATTENDED),
        after: arguments.span.map(|span| Duration::from_secs_f64(span.0)),
    };
    let (path, look) = (arguments.show.clone(), arguments.look.clone());
    let inputs = arguments.inputs.inputs();
    let session = Session::start(Start { show, path, sound: source, inputs, look, ends, keeps: true, listens: true })?;
    machine::lock_memory();
    let mut output = std::io::stdout();
    writeln!(output, "{READY}{}", session.name())?;
    output.flush()?;
    let_go_of_the_terminal();
    session.run(|| stop.came());
    drop((nodes, pads));
    Ok(ExitCode::SUCCESS)
}

/// A stand-in node with four universes.
fn standin(address: Ipv4Addr) -> Result<Node, Failure> {
    let spec = NodeSpec { name: "Practice box".to_owned(), ports: (0..4).collect(), ..NodeSpec::at(address) };
    Node::start(spec)
        .map_err(|why| format!("no practice node can be at {address}: {why}; is a tutorial open already?").into())
}

/// From here on nothing is written to the terminal from which the session was launched.
fn let_go_of_the_terminal() {
    let Ok(nowhere) = std::fs::OpenOptions::new().write(true).open("/dev/null") else { return };
    let log = std::fs::OpenOptions::new().create(true).append(true).open(super::logging::path());
    let _ = nix::unistd::dup2_stdout(&nowhere);
    let _ = nix::unistd::dup2_stderr(log.as_ref().unwrap_or(&nowhere));
}
