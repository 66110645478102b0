//! `splimo sim`: stand-ins for what sends to Splimo.

use std::net::{Ipv4Addr, SocketAddr};
use std::path::{Path, PathBuf};
use std::process::ExitCode;

use clap::{Subcommand, ValueEnum};
use splimo_document::input::port_address;
use splimo_runtime::file_error::Cause;
use splimo_runtime::files;
use splimo_runtime::session::place;
use splimo_wire::Protocol;

use super::Failure;
use super::stop::StopSignal;
use crate::standin::sim::desk::FaderDesk;
use crate::standin::sim::dj::DeckSim;
use crate::standin::sim::pads::PadBox;
use crate::standin::sim::script::Script;
use crate::standin::sim::{self, Sim, demo_pads};

/// A protocol that a desk sends.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(super) enum DeskProtocol {
    /// Art-Net
    ArtNet,
    /// Streaming ACN (E1.31)
    Sacn,
}

/// A stand-in.
#[derive(Subcommand)]
pub(super) enum Device {
    /// A pad controller: pads, faders and encoders as MIDI, on a pipe
    Midi {
        /// The pipe, which is made where there is none; how the pads are lit comes by PATH.lit. Without it, that of the demo that runs
        #[arg(long, value_name = "PATH")]
        pipe: Option<PathBuf>,
        /// A port that others see as a MIDI device, beside the pipe
        #[arg(long, value_name = "NAME")]
        port: Option<String>,
        #[command(flatten)]
        script: ScriptArguments,
    },
    /// A lighting desk: faders that leave as a universe
    Desk {
        /// The protocol that it sends
        #[arg(long, value_enum, default_value = "sacn")]
        protocol: DeskProtocol,
        /// The universe, or the port-address as a number or as 0:6:5
        #[arg(long, default_value = "101")]
        universe: String,
        /// The address that it sends to; without it, everybody on this machine
        #[arg(long)]
        to: Option<Ipv4Addr>,
        /// The address from which it sends; without it, of this machine to this machine, else as the way there has it
        #[arg(long)]
        from: Option<Ipv4Addr>,
        /// Its name (sACN)
        #[arg(long, default_value = "sim desk")]
        name: String,
        /// Its priority (sACN), 0 to 200
        #[arg(long, value_parser = clap::value_parser!(u8).range(0..=200))]
        priority: Option<u8>,
        #[command(flatten)]
        script: ScriptArguments,
    },
    /// A DJ program: MIDI clock on a pipe, beats and parts of the music as OSC
    Dj {
        /// The pipe of its clock, which is made where there is none
        #[arg(long, value_name = "PATH")]
        pipe: Option<PathBuf>,
        /// The address that its OSC goes to
        #[arg(long, value_name = "ADDRESS:PORT")]
        osc: Option<SocketAddr>,
        /// Its tempo
        #[arg(long, default_value_t = 128.0)]
        bpm: f64,
        #[command(flatten)]
        script: ScriptArguments,
    },
}

/// The actions of a stand-in by itself.
#[derive(clap::Args)]
pub(super) struct ScriptArguments {
    /// A file of timed lines to follow, such as "1.5 press 36"
    #[arg(long, value_name = "FILE")]
    script: Option<PathBuf>,
    /// Without a screen: only follow the file, then end
    #[arg(long, requires = "script")]
    headless: bool,
}

pub(super) fn run(device: &Device) -> Result<ExitCode, Failure> {
    match device {
        Device::Midi { pipe, port, script } => {
            let pipe = pipe.clone().or_else(|| demo_pads::newest(&place::folder().ok()?));
            let pipe = pipe.ok_or("no demo runs here: start one, or name a pipe with --pipe")?;
            let pads = PadBox::new(&pipe, port.as_deref())
                .map_err(|error| format!("{}: {}", pipe.display(), Cause::of(&pipe, &error)))?;
            follow(Box::new(pads), script)
        }
        Device::Desk { protocol, universe, to, from, name, priority, script } => {
            let (protocol, number) = match protocol {
                DeskProtocol::ArtNet => (Protocol::ArtNet, port_address(universe)),
                DeskProtocol::Sacn => (Protocol::Sacn, universe.parse().ok().filter(|n| (1..=63_999).contains(n))),
            };
            let number = number.ok_or_else(|| format!("\"{universe}\" is no universe of that protocol"))?;
            let at_home = to.is_none_or(|to| to.is_loopback());
            let usual = if at_home { Ipv4Addr::LOCALHOST } else { Ipv4Addr::UNSPECIFIED };
            let from = from.unwrap_or(usual);
            let desk = FaderDesk::new(protocol, number, from, *to, name, *priority)
                .map_err(|e| format!("{from} cannot be sent from: {e}"))?;
            follow(Box::new(desk), script)
        }
        Device::Dj { pipe, osc, bpm, script } => {
            let deck = DeckSim::new(pipe.as_deref(), *osc, *bpm).map_err(|e| e.to_string())?;
            follow(Box::new(deck), script)
        }
    }
}

fn follow(mut device: Box<dyn Sim + Send>, arguments: &ScriptArguments) -> Result<ExitCode, Failure> {
    let script = arguments.script.as_deref().map(read).transpose()?.unwrap_or_default();
    let stop = StopSignal::register()?;
    if arguments.headless {
        sim::follow(&mut *device, script, &|| stop.came())?;
    } else {
        sim::show(device, script, &|| stop.came(), &files::state_folder().join("splimo.log"))?;
    }
    Ok(ExitCode::SUCCESS)
}

fn read(path: &Path) -> Result<Script, String> {
    let text =
        std::fs::read_to_string(path).map_err(|error| format!("{}: {}", path.display(), Cause::of(path, &error)))?;
    Script::read(&text).map_err(|why| format!("{}: {why}", path.display()))
}
