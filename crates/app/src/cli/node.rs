//! `splimo node`: stand-in nodes, and a stand-in controller of serial pixels.

use std::io::{ErrorKind, IsTerminal};
use std::net::Ipv4Addr;
use std::process::ExitCode;
use std::sync::Arc;
use std::time::Duration;

use clap::{Args, ValueEnum};
use serde::Serialize;
use splimo_show::UniverseRange;
use splimo_wire::arbitration::Merge;

use super::stop::StopSignal;
use super::{Failure, print_json};
use crate::standin::controller::Controller;
use crate::standin::node::{self, FaultSpec, Node, NodeSpec};
use crate::standin::{controller_screen, node_screen};
use splimo_runtime::clock::Instant;

/// The rule for sources of equal priority.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
enum MergeWord {
    /// Of each slot the highest value
    Highest,
    /// The slots that came last
    Latest,
}

/// The arguments of a node.
#[derive(Debug, Args)]
pub(super) struct Arguments {
    /// The address to listen at; several nodes take the ones behind it
    #[arg(long, default_value = "127.0.0.2")]
    bind: Ipv4Addr,
    /// Number of nodes
    #[arg(long, default_value_t = 1, value_parser = clap::value_parser!(u8).range(1..=64))]
    count: u8,
    /// The universes of the first node, such as 1-8: sACN groups that are joined, and Art-Net ports that are told of;
    /// the others have the ones behind them
    #[arg(long)]
    universes: Option<String>,
    /// Name of the node
    #[arg(long)]
    name: Option<String>,
    /// What becomes of sources of equal priority
    #[arg(long, value_enum, default_value = "highest")]
    merge: MergeWord,
    /// The way it misbehaves: drop 10%, delay 50 (milliseconds), vanish 5 10 (after 5 seconds, for 10), wrong; with commas
    #[arg(long)]
    misbehave: Option<String>,
    /// Be a controller of serial pixels on a pseudo-terminal, with room for so many channels
    #[arg(long, value_name = "CHANNELS", conflicts_with_all = ["count", "universes", "merge", "misbehave"])]
    serial: Option<u32>,
    /// Length of the run; without it, until Ctrl-C
    #[arg(long)]
    seconds: Option<f64>,
    /// As a JSON document
    #[arg(long)]
    json: bool,
}

impl Arguments {
    /// The nodes that are asked for.
    fn specs(&self) -> Result<Vec<NodeSpec>, Failure> {
        let range = self.universes.as_deref().map(str::parse::<UniverseRange>).transpose()?;
        let faults = self.misbehave.as_deref().map(str::parse::<FaultSpec>).transpose()?.unwrap_or_default();
        let [a, b, c, d] = self.bind.octets();
        let spec = |index: u8| {
            let address = Ipv4Addr::new(a, b, c, d.checked_add(index)?);
            let plain = NodeSpec::at(address);
            let universes: Vec<u32> = match range {
                None => Vec::new(),
                Some(range) => {
                    let by = range.count() * u32::from(index);
                    (range.first + by..=range.last + by).collect()
                }
            };
            let name = self
                .name
                .as_ref()
                .map(|name| if self.count > 1 { format!("{name} {}", index + 1) } else { name.clone() });
            Some(NodeSpec {
                name: name.unwrap_or(plain.name),
                ports: universes.iter().filter_map(|u| u16::try_from(u - 1).ok()).filter(|p| *p < 32_768).collect(),
                groups: universes.iter().filter_map(|u| u16::try_from(*u).ok()).collect(),
                merge: match self.merge {
                    MergeWord::Highest => Merge::Highest,
                    MergeWord::Latest => Merge::Latest,
                },
                faults,
                address,
            })
        };
        let specs: Option<Vec<NodeSpec>> = (0..self.count).map(spec).collect();
        specs.ok_or_else(|| {
            format!("{} and {} more addresses go beyond the last; take a lower --bind", self.bind, self.count - 1)
                .into()
        })
    }
}

/// Receives for a while, and tells what came.
pub(super) fn run(arguments: &Arguments) -> Result<ExitCode, Failure> {
    let stop = StopSignal::register()?;
    if let Some(room) = arguments.serial {
        return serial(arguments, room, &stop);
    }
    let nodes = Arc::new(started(arguments.specs()?)?);
    let start = Instant::now();
    let over = || stop.came() || arguments.seconds.is_some_and(|s| Instant::now().seconds_since(start) >= s);
    if !arguments.json && std::io::stdout().is_terminal() && std::io::stdin().is_terminal() {
        node_screen::run(&nodes, over)?;
    } else {
        each_second(start, over, |second| {
            if !arguments.json {
                say_aside!("{second:>5} s  {}", summary(&nodes));
            }
        });
    }
    let report = node::report(&nodes);
    if arguments.json {
        print_json(&report)?;
    } else {
        tell(&report);
    }
    Ok(ExitCode::SUCCESS)
}

/// Waits until it is over, and tells each second since the start.
fn each_second(start: Instant, over: impl Fn() -> bool, mut tell: impl FnMut(u64)) {
    let mut told = 0;
    while !over() {
        std::thread::sleep(Duration::from_millis(20));
        let second = Instant::now().seconds_since(start) as u64;
        if second > told {
            told = second;
            tell(second);
        }
    }
}

fn started(specs: Vec<NodeSpec>) -> Result<Vec<Node>, Failure> {
    let mut nodes = Vec::new();
    for spec in specs {
        let at = spec.address;
        let node = Node::start(spec).map_err(|error| match error.kind() {
            ErrorKind::AddrNotAvailable => {
                format!("cannot be a node at {at}: this machine has no such address; choose one of its own with --bind")
            }
            ErrorKind::AddrInUse => {
                format!("cannot be a node at {at}: something else listens on port 6454 or 5568 there; end that, or choose another --bind")
            }
            _ => format!("cannot be a node at {at}: {error}"),
        })?;
        say_aside!("listening at {at} for Art-Net (port 6454) and sACN (port 5568); Ctrl-C ends");
        nodes.push(node);
    }
    Ok(nodes)
}

fn summary(nodes: &[Node]) -> String {
    let (mut universes, mut frames, mut lost, mut malformed) = (0, 0, 0, 0);
    for reception in nodes.iter().map(Node::reception) {
        universes += reception.universes().count();
        frames += reception.universes().map(|(.., u)| u.frames).sum::<u64>();
        lost += reception.universes().map(|(.., u)| u.lost).sum::<u64>();
        malformed += reception.malformed;
    }
    format!("{universes} universes, {frames} frames, {lost} lost, {malformed} malformed")
}

#[derive(Serialize)]
struct SerialReport {
    port: String,
    frames: u64,
    channels: usize,
    octets: u64,
    damaged: u64,
    asked: u64,
    /// The channels of the last frame, two digits each.
    last: String,
}

/// A controller of serial pixels.
fn serial(arguments: &Arguments, room: u32, stop: &StopSignal) -> Result<ExitCode, Failure> {
    if !(1..=1_000_000).contains(&room) {
        return Err("--serial takes 1 to 1000000 channels".into());
    }
    let controller = Arc::new(Controller::start(arguments.name.as_deref().unwrap_or("Stand-in"), room)?);
    say_aside!("a controller of serial pixels at {}; Ctrl-C ends", controller.path().display());
    let start = Instant::now();
    let over = || stop.came() || arguments.seconds.is_some_and(|s| Instant::now().seconds_since(start) >= s);
    if !arguments.json && std::io::stdout().is_terminal() && std::io::stdin().is_terminal() {
        controller_screen::run(&controller, over)?;
    } else {
        each_second(start, over, |second| {
            if !arguments.json {
                let shown = controller.shown();
                say_aside!(
                    "{second:>5} s  {} frames, {} octets  {}",
                    shown.frames,
                    shown.octets,
                    begin(&shown.channels)
                );
            }
        });
    }
    let shown = controller.shown();
    let port = controller.path().display().to_string();
    let (frames, channels) = (shown.frames, shown.channels.len());
    let last = shown.channels.iter().map(|channel| format!("{channel:02x}")).collect();
    let report =
        SerialReport { port, frames, channels, octets: shown.octets, damaged: shown.damaged, asked: shown.asked, last };
    if arguments.json {
        print_json(&report)?;
    } else {
        let SerialReport { port, octets, damaged, .. } = &report;
        say!("{port}: {frames} frames of {channels} channels, {octets} octets, {damaged} packets damaged");
        say!("{}", begin(&shown.channels));
    }
    Ok(ExitCode::SUCCESS)
}

/// The first pixels of a frame, two digits a channel.
fn begin(channels: &[u8]) -> String {
    let pixel = |pixel: &[u8]| pixel.iter().map(|channel| format!("{channel:02x}")).collect::<String>();
    let shown: Vec<String> = channels.chunks(3).take(12).map(pixel).collect();
    let more = if channels.len() > 36 { " ..." } else { "" };
    format!("{}{more}", shown.join(" "))
}

/// Prints a report as a table.
pub(super) fn tell(report: &node::Report) {
    say!("node             universe  protocol    frames     fps    lost  reordered   gap p50   p99    max ms");
    for node in &report.nodes {
        for u in &node.universes {
            say!(
                "{:<15} {:>9}  {:<8} {:>9} {:>7.2} {:>7} {:>10} {:>9.2} {:>5.1} {:>9.1}",
                node.address.to_string(),
                u.universe,
                u.protocol,
                u.frames,
                u.fps,
                u.lost,
                u.reordered,
                u.gap_ms.p50,
                u.gap_ms.p99,
                u.gap_ms.max
            );
        }
        if node.universes.is_empty() {
            say!("{:<15} nothing came", node.address.to_string());
        }
    }
    say!("{} malformed packets", report.malformed);
}
