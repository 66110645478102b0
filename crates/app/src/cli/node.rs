//! `splimo node`.

use std::net::Ipv4Addr;
use std::process::ExitCode;
use std::time::Duration;

use splimo_core::show::UniverseRange;

use super::stop::StopSignal;
use super::{Failure, print_json};
use crate::runtime::clock::Instant;
use crate::standin::node::{self, Node, NodeSpec};

/// Receives for a while, and tells what came.
pub(super) fn run(
    bind: Ipv4Addr,
    universes: Option<&str>,
    seconds: Option<f64>,
    json: bool,
) -> Result<ExitCode, Failure> {
    let stop = StopSignal::register()?;
    let groups = universes.map(str::parse::<UniverseRange>).transpose()?;
    let groups = groups.into_iter().flat_map(UniverseRange::numbers).filter_map(|u| u16::try_from(u).ok());
    let spec = NodeSpec { groups: groups.collect(), ..NodeSpec::at(bind) };
    let node = Node::start(spec).map_err(|e| {
        format!("cannot be a node at {bind}: {e}; see that nothing else listens on ports 6454 and 5568 there, or use another --bind")
    })?;
    eprintln!("listening at {bind} for Art-Net (port 6454) and sACN (port 5568); Ctrl-C ends");
    let start = Instant::now();
    let mut told = 0;
    while !stop.came() && seconds.is_none_or(|s| Instant::now().seconds_since(start) < s) {
        std::thread::sleep(Duration::from_millis(20));
        let second = Instant::now().seconds_since(start) as u64;
        if !json && second > told {
            told = second;
            eprintln!("{second:>5} s  {}", summary(&node));
        }
    }
    let report = node::report(std::slice::from_ref(&node));
    if json {
        print_json(&report)?;
    } else {
        tell(&report);
    }
    Ok(ExitCode::SUCCESS)
}

fn summary(node: &Node) -> String {
    let reception = node.reception();
    let frames: u64 = reception.universes().map(|(.., u)| u.frames).sum();
    let lost: u64 = reception.universes().map(|(.., u)| u.lost).sum();
    format!(
        "{} universes, {frames} frames, {lost} lost, {} malformed",
        reception.universes().count(),
        reception.malformed
    )
}

/// Prints a report as a table.
pub(super) fn tell(report: &node::Report) {
    println!("node             universe  protocol    frames     fps    lost  reordered   gap p50   p99    max ms");
    for node in &report.nodes {
        for u in &node.universes {
            println!(
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
            println!("{:<15} nothing came", node.address.to_string());
        }
    }
    println!("{} malformed packets", report.malformed);
}
