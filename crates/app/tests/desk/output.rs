//! Shows that send to stand-in nodes of this process.

use std::net::{Ipv4Addr, SocketAddr};
use std::sync::Arc;
use std::time::{Duration, Instant};

use splimo::standin::node::{Node, NodeSpec};
use splimo_document::file;
use splimo_runtime::sound::SoundSource;
use splimo_runtime::{Outlook, Runtime};
use splimo_show::Show;
use splimo_wire::Protocol;
use splimo_wire::artnet::poll;
use splimo_wire::artnet::poll_reply::Style;
use splimo_wire::message::Message;
use splimo_wire::socket::Receiver;

pub(crate) use super::PATIENCE;

/// A bar of 170 white pixels in each of two universes, and routes.
pub(crate) fn show(routes: &str) -> Show {
    file::read(&text(routes)).expect("a good show").show
}

/// The text of that show.
pub(crate) fn text(routes: &str) -> String {
    let bar = |n: u32| {
        format!(
            "[[fixtures]]\nname = \"Bar {n}\"\nprofile = \"rgb\"\naddress = \"{n}.1\"\nshape = {{ line = {{ cells = 170 }} }}\nx = 50.0\ny = {n}0.0\n"
        )
    };
    let look = "[[looks]]\nname = \"Drift\"\n[[looks.layers]]\neffect = \"gradient\"\nparams = { colours = [\"#ff0000\", \"#0000ff\"], speed = \"2 s\" }\n";
    format!("version = 1\nname = \"Output test\"\n{}{}{look}{routes}", bar(1), bar(2))
}

/// A route of universes 1 and 2.
pub(crate) fn route(name: &str, protocol: &str, first: u32, to: &str, more: &str) -> String {
    format!(
        "[[routes]]\nname = \"{name}\"\nuniverses = \"1-2\"\nprotocol = \"{protocol}\"\nfirst = {first}\nto = \"{to}\"\n{more}\n"
    )
}

/// Starts a show with its first look, in this process.
pub(crate) fn started(show: Show) -> (Runtime, Outlook) {
    let (runtime, outlook) = Runtime::start(&Arc::new(show), SoundSource::Silence).expect("it starts");
    runtime.cut_to(0);
    (runtime, outlook)
}

/// Waits until something is so.
pub(crate) fn wait(what: &str, mut done: impl FnMut() -> bool) {
    let start = Instant::now();
    while !done() {
        assert!(start.elapsed() < PATIENCE, "waited in vain for {what}");
        std::thread::sleep(Duration::from_millis(20));
    }
}

/// A stand-in node that has some ports.
pub(crate) fn node(address: [u8; 4], ports: &[u16]) -> Node {
    Node::start(NodeSpec { ports: ports.to_vec(), ..NodeSpec::at(Ipv4Addr::from(address)) }).expect("a free address")
}

/// The frames of a universe that a node has had.
pub(crate) fn frames(node: &Node, protocol: Protocol, universe: u16) -> u64 {
    node.reception().universe(protocol, universe).map_or(0, |u| u.frames)
}

/// Listens as a node would, and finds the address at which a show of this name answers polls.
pub(crate) fn find(ears: &mut Receiver, own: SocketAddr, name: &str) -> SocketAddr {
    let mut asked: Vec<SocketAddr> = Vec::new();
    let start = Instant::now();
    loop {
        assert!(start.elapsed() < PATIENCE, "{name} does not answer");
        let (mut found, mut polls) = (None, Vec::new());
        ears.receive(Duration::from_millis(200), 64, |bytes, from, _| match Message::parse(bytes) {
            Ok(Message::Poll(_)) => polls.push(from),
            Ok(Message::PollReply(reply)) if reply.long_name.contains(name) => {
                assert_eq!((reply.style, reply.port_count, reply.short_name), (Style::Controller, 0, "Splimo"));
                found = Some(from);
            }
            _ => {}
        })
        .expect("waits");
        if let Some(found) = found {
            return found;
        }
        for from in polls.into_iter().filter(|from| !asked.contains(from)).collect::<Vec<_>>() {
            asked.push(from);
            ears.send_from(&own, &poll::Repr::default().emit(), from).expect("sends");
        }
    }
}
