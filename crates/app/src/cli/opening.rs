//! The beginnings of a session: its show, its sound, and the stand-in nodes of a demo.

use std::collections::{BTreeMap, HashMap};
use std::net::{IpAddr, Ipv4Addr};
use std::path::Path;

use splimo_runtime::output;
use splimo_runtime::sound::{self, Channels, Sound, SoundSource};
use splimo_show::{Destination, Show, TransportKind};

use super::{Failure, config, standard};
use crate::standin::node::{self, Node, NodeSpec};

/// Opens a show, or begins an empty one where there is no file yet; its first save makes it.
pub(super) fn opened_or_new(path: &Path) -> Result<Show, Failure> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    if path.exists() || !folder.is_dir() {
        return standard::opened(path);
    }
    let name = path.file_stem().map_or_else(|| "New show".into(), |stem| stem.to_string_lossy().into_owned());
    let mut show = Show::empty(&name);
    if let Some(latency) = config::read().0.latency_ms {
        show.settings.latency_ms = latency;
    }
    Ok(show)
}

/// A source that is there: a recording is tried before anything starts. A device may still come.
pub(super) fn checked_source(text: &str, channels: Channels) -> Result<Sound, Failure> {
    let source = SoundSource::parse(text)?;
    if let SoundSource::File(path) = &source {
        sound::File::open(path)?;
    }
    Ok(Sound { source, channels })
}

/// Starts a stand-in node for every loopback address that the show sends to, with the ports that it needs, and gives the
/// show their true addresses.
pub(super) fn with_standins(show: &Show) -> Result<(Show, Vec<Node>), Failure> {
    let mut wanted: BTreeMap<Ipv4Addr, NodeSpec> = BTreeMap::new();
    for route in &show.routes {
        for to in &route.to.0 {
            let Destination::Unicast(IpAddr::V4(address)) = to else { continue };
            if !address.is_loopback() {
                continue;
            }
            let spec = wanted.entry(*address).or_insert_with(|| NodeSpec::at(*address));
            spec.name = format!("{} box", route.name);
            if route.kind() == TransportKind::ArtNet {
                spec.ports.extend(route.universes.numbers().filter_map(|universe| route.number_of(universe)));
                spec.ports.sort_unstable();
                spec.ports.dedup();
            }
        }
    }
    let specs: Vec<NodeSpec> = wanted.values().cloned().collect();
    let nodes =
        node::start_block(&specs).map_err(|e| format!("no stand-in nodes could be started on loopback: {e}"))?;
    let moved: HashMap<_, _> = wanted.into_keys().zip(nodes.iter().map(Node::address)).collect();
    let mut show = show.clone();
    output::redirect(&mut show, &moved);
    Ok((show, nodes))
}
