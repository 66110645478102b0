//! `splimo nodes`: what answers on the network.

use std::process::ExitCode;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use serde::Serialize;

use super::stop::StopSignal;
use super::{Failure, print_json};
use splimo_link::advice::ports;
use splimo_runtime::clock::Instant;
use splimo_runtime::network::{self, Exchange, Listener};
use splimo_runtime::trouble::Troubles;

#[derive(Serialize)]
struct Report {
    nodes: Vec<NodeReport>,
    sources: Vec<SourceReport>,
    interfaces: Vec<InterfaceReport>,
}

#[derive(Serialize)]
struct NodeReport {
    address: String,
    name: String,
    long_name: String,
    report: String,
    mac: String,
    outputs: Vec<u16>,
    inputs: Vec<u16>,
    /// Another box that answers from the same address.
    double: bool,
}

#[derive(Serialize)]
struct SourceReport {
    address: String,
    name: String,
    universes: Vec<u16>,
}

#[derive(Serialize)]
struct InterfaceReport {
    name: String,
    address: Option<String>,
    link: bool,
}

/// Asks, waits, and tells who answered.
pub(super) fn run(seconds: f64, json: bool) -> Result<ExitCode, Failure> {
    if !(seconds > 0.0 && seconds < 3600.0) {
        return Err("--seconds has to be above 0, and an hour at most".into());
    }
    let stop = StopSignal::register()?;
    let (exchange, ends) = (Arc::new(Exchange::default()), Arc::new(AtomicBool::new(false)));
    let troubles = Troubles::default();
    let listener = Listener {
        exchange: exchange.clone(),
        epoch: Instant::now(),
        stop: ends.clone(),
        troubles: troubles.clone(),
        engine: None,
        asks: None,
        inbox: Arc::default(),
        refresh: None,
    };
    let thread = network::start(listener)?;
    let start = Instant::now();
    while !stop.came() && Instant::now().seconds_since(start) < seconds {
        std::thread::sleep(Duration::from_millis(20));
    }
    ends.store(true, Ordering::Relaxed);
    let _ = thread.join();
    for trouble in troubles.list() {
        say_aside!("splimo: trouble: {}: {}", trouble.subject, trouble.message);
    }
    let report = report(&exchange);
    if json {
        print_json(&report)?;
    } else {
        tell(&report);
    }
    Ok(ExitCode::SUCCESS)
}

fn report(exchange: &Exchange) -> Report {
    let status = exchange.status();
    let node = |device: &splimo_wire::directory::Device| NodeReport {
        address: device.address.to_string(),
        name: device.name.clone(),
        long_name: device.long_name.clone(),
        report: device.report.clone(),
        mac: device.mac.map(|byte| format!("{byte:02x}")).join(":"),
        outputs: device.outputs.clone(),
        inputs: device.inputs.clone(),
        double: device.double.is_some(),
    };
    let source = |source: &splimo_wire::directory::Announced| SourceReport {
        address: source.address.to_string(),
        name: source.name.clone(),
        universes: source.universes.clone(),
    };
    let interface = |interface: &splimo_wire::interface::Interface| InterfaceReport {
        name: interface.name.clone(),
        address: interface.v4.map(|a| a.to_string()),
        link: interface.up && interface.link,
    };
    Report {
        nodes: status.directory.devices().iter().map(node).collect(),
        sources: status.directory.sources().iter().map(source).collect(),
        interfaces: status.interfaces.iter().map(interface).collect(),
    }
}

fn tell(report: &Report) {
    for node in &report.nodes {
        let outputs = if node.outputs.is_empty() { "no output".to_owned() } else { ports(&node.outputs) };
        let double = if node.double { "   two boxes answer here" } else { "" };
        say!("{:<15}  {:<17}  {outputs}{double}", node.address, node.name);
    }
    for source in &report.sources {
        let universes: Vec<String> = source.universes.iter().map(ToString::to_string).collect();
        say!("{:<15}  {:<17}  sends sACN {}", source.address, source.name, universes.join(", "));
    }
    if report.nodes.is_empty() && report.sources.is_empty() {
        let names: Vec<&str> = report.interfaces.iter().map(|i| i.name.as_str()).collect();
        say!("nobody answered on {}", names.join(", "));
    }
}
