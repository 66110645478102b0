//! Strangers on the network: what they say, claim and flood puts no light out, and has nothing sent where nobody asked for it.

mod desk;

use std::net::{IpAddr, Ipv4Addr, SocketAddr, UdpSocket};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use desk::output::{find, frames, node, route, show, started, wait};
use splimo::standin::node::Node;
use splimo_runtime::{Outlook, Runtime};
use splimo_show::Show;
use splimo_show::command::EngineCommand;
use splimo_wire::Protocol;
use splimo_wire::artnet::poll_reply::{OEM_UNKNOWN, Port, Repr, Style};
use splimo_wire::artnet::{self, poll, trigger};
use splimo_wire::socket::Receiver;

/// Somebody at an address who listens as a node does, and knows where a show listens.
struct Stranger {
    own: SocketAddr,
    ears: Receiver,
    victim: SocketAddr,
}

impl Stranger {
    fn at(own: [u8; 4], show: &str) -> Self {
        let own = SocketAddr::from((Ipv4Addr::from(own), artnet::PORT));
        let mut ears = Receiver::default();
        ears.listen(own, false).expect("a free address");
        ears.listen(SocketAddr::from((Ipv4Addr::new(127, 255, 255, 255), artnet::PORT)), true).expect("shared");
        let victim = find(&mut ears, own, show);
        Self { own, ears, victim }
    }

    /// Answers for an address, with some ports.
    fn claims(&self, address: impl Into<Ipv4Addr>, ports: &[u16]) {
        self.ears.send_from(&self.own, &answer(address.into(), ports), self.victim).expect("sends");
    }
}

fn answer(address: Ipv4Addr, outputs: &[u16]) -> Vec<u8> {
    let port = |i: usize| Port { output: outputs.get(i).copied(), ..Port::default() };
    let reply = Repr {
        address,
        version: 1,
        oem: OEM_UNKNOWN,
        short_name: "Stranger",
        long_name: "Stranger",
        report: "",
        switch: outputs.first().map_or(0, |o| o & 0x7ff0),
        ports: std::array::from_fn(port),
        port_count: outputs.len(),
        style: Style::Node,
        mac: [6; 6],
        bind_address: address,
        bind_index: 1,
        refresh_rate: 44,
    };
    reply.emit().to_vec()
}

/// The time of the last answer of a node that counted.
fn answered(runtime: &Runtime, address: Ipv4Addr) -> f64 {
    let status = runtime.exchange().status();
    status.directory.devices().iter().find(|d| d.address == address).map_or(-1.0, |d| d.last)
}

/// The longest time without a frame of a universe at a node while something goes on, in seconds.
fn longest_gap(mut count: impl FnMut() -> u64, mut goes_on: impl FnMut() -> bool) -> f64 {
    let (mut seen, mut since, mut longest) = (count(), Instant::now(), 0.0_f64);
    while goes_on() {
        std::thread::sleep(Duration::from_millis(5));
        let now = count();
        if now != seen {
            (seen, since) = (now, Instant::now());
        }
        longest = longest.max(since.elapsed().as_secs_f64());
    }
    longest
}

#[test]
fn forged_answers_put_no_light_out_and_send_nothing_to_others() {
    let real = node([127, 92, 1, 7], &[7101]);
    let other = UdpSocket::bind(("127.92.1.9", artnet::PORT)).expect("a free address");
    other.set_read_timeout(Some(Duration::from_millis(300))).expect("a socket");
    let mut forged = show(&route("Found", "art-net", 7101, "nodes", "unchanged = \"repeat\""));
    forged.name = "Forged 92".into();
    let (runtime, _outlook) = started(forged);
    wait("the node to be fed", || frames(&real, Protocol::ArtNet, 7101) > 3);
    let stranger = Stranger::at([127, 92, 1, 66], "Forged 92");
    let (mut sent, began) = (0_u32, answered(&runtime, real.address()));
    let gap = longest_gap(
        || frames(&real, Protocol::ArtNet, 7101),
        || {
            sent += 1;
            // The real node without its ports, others that are not there, and everybody.
            stranger.claims(real.address(), &[]);
            stranger.claims([127, 92, 1, 9], &[7101, 7102]);
            stranger.claims(Ipv4Addr::from(0x7f00_0100 + sent % 4000), &[7101]);
            stranger.claims([127, 255, 255, 255], &[7101]);
            stranger.claims([255, 255, 255, 255], &[7101]);
            stranger.claims([224, 0, 0, 1], &[7101]);
            // As long as it takes the real one to answer three polls.
            answered(&runtime, real.address()) < began + 8.0
        },
    );
    assert!(sent > 100, "{sent}");
    assert!(gap < 1.0, "no frame for {gap} s");
    let status = runtime.exchange().status();
    let believed: Vec<_> =
        status.directory.devices().iter().map(|d| d.address).filter(|a| a.octets()[1..3] == [92, 1]).collect();
    assert_eq!(believed, [real.address()], "whoever claims to be another is not believed");
    let doubted = status.directory.doubted();
    assert!(doubted.iter().any(|d| d.from == Ipv4Addr::new(127, 92, 1, 66) && d.count > 100), "{doubted:?}");
    assert!(other.recv(&mut [0; 1500]).is_err(), "nothing goes to whom others speak for");
    assert!(runtime.exchange().network().takers[&7101].iter().all(|to| *to == real.address()));
    runtime.stop();
}

#[test]
fn a_port_that_vanishes_for_one_poll_stays_lit_and_goes_by_its_own_word() {
    let mut vanishing = show(&route("Found", "art-net", 7111, "nodes", "unchanged = \"repeat\""));
    vanishing.name = "Vanishing 92".into();
    let (runtime, _outlook) = started(vanishing);
    let box_ = Stranger::at([127, 92, 2, 7], "Vanishing 92");
    let taken = || runtime.exchange().network().takers.contains_key(&7111);
    box_.claims([127, 92, 2, 7], &[7111]);
    wait("its port to be known", taken);
    let before = answered(&runtime, Ipv4Addr::new(127, 92, 2, 7));
    box_.claims([127, 92, 2, 7], &[]);
    wait("that to be heard", || answered(&runtime, Ipv4Addr::new(127, 92, 2, 7)) > before);
    assert!(taken());
    let start = Instant::now();
    wait("its word to count", || {
        box_.claims([127, 92, 2, 7], &[]);
        !taken()
    });
    assert!(start.elapsed() > Duration::from_secs(1), "after one poll");
    runtime.stop();
}

#[test]
fn nobody_falls_silent_in_a_flood_and_the_flooder_is_named() {
    let real = node([127, 92, 3, 7], &[7121]);
    let mut deaf = show(&route("Found", "art-net", 7121, "nodes", "unchanged = \"repeat\""));
    deaf.name = "Deaf 92".into();
    let (runtime, _outlook) = started(deaf);
    wait("the node to be fed", || frames(&real, Protocol::ArtNet, 7121) > 3);
    let stranger = Stranger::at([127, 92, 3, 66], "Deaf 92");
    let (question, start) = (poll::Repr::default().emit(), Instant::now());
    let trouble = || runtime.troubles().list().into_iter().find(|t| t.subject == "flood").map(|t| t.message);
    let mut told = None;
    // Longer than a node may be silent.
    let gap = longest_gap(
        || frames(&real, Protocol::ArtNet, 7121),
        || {
            for _ in 0..400 {
                let _ = stranger.ears.send_from(&stranger.own, &question, stranger.victim);
            }
            told = told.take().or_else(trouble);
            start.elapsed() < Duration::from_secs(12)
        },
    );
    assert!(gap < 1.0, "no frame for {gap} s");
    let told = told.expect("the flood is told of");
    assert!(told.starts_with("127.92.3.66 sends ") && told.contains("stay as they were"), "{told}");
    wait("the end of it", || trouble().is_none());
    runtime.stop();
}

#[test]
fn blackout_and_panic_go_before_a_flood_of_commands() {
    let (runtime, mut outlook) = started(show(""));
    let over = AtomicBool::new(false);
    std::thread::scope(|scope| {
        scope.spawn(|| {
            let mut percent = 0.0;
            while !over.load(Ordering::Relaxed) {
                percent = (percent + 1.0) % 100.0;
                runtime.apply(&EngineCommand::Master(percent));
            }
        });
        wait("more than the engine takes", || runtime.troubles().list().iter().any(|t| t.subject == "engine"));
        for dark in [true, false] {
            runtime.apply(&EngineCommand::Blackout);
            wait("it to be done", || outlook.published.read().snapshot.blackout == dark);
        }
        over.store(true, Ordering::Relaxed);
    });
    wait("the end of the flood", || {
        runtime.apply(&EngineCommand::Master(100.0));
        runtime.troubles().list().iter().all(|t| t.subject != "engine")
    });
    runtime.stop();
}

#[test]
fn a_route_that_is_kept_to_its_nodes_sends_to_no_other() {
    let real = node([127, 92, 4, 7], &[7131]);
    let mut kept = show(&route("Kept", "art-net", 7131, "nodes 127.92.4.7", "unchanged = \"repeat\""));
    kept.name = "Kept 92".into();
    let (runtime, _outlook) = started(kept);
    let second = node([127, 92, 4, 8], &[7131]);
    wait("both to be known", || answered(&runtime, real.address()) > 0.0 && answered(&runtime, second.address()) > 0.0);
    let before = frames(&real, Protocol::ArtNet, 7131);
    wait("frames", || frames(&real, Protocol::ArtNet, 7131) > before + 100);
    assert_eq!(frames(&second, Protocol::ArtNet, 7131), 0);
    // Where it is gone frames go there all the same: what others say puts no light out.
    let address = real.address();
    drop(real);
    let silent = UdpSocket::bind((address, artnet::PORT)).expect("its address");
    silent.set_read_timeout(Some(Duration::from_secs(1))).expect("a socket");
    wait("the node to be gone", || {
        let status = runtime.exchange().status();
        status.directory.devices().iter().any(|d| d.address == address && d.is_gone(status.now))
    });
    let mut packet = [0; 1500];
    wait("frames", || silent.recv(&mut packet).is_ok_and(|length| length > 400));
    assert_eq!(frames(&second, Protocol::ArtNet, 7131), 0);
    runtime.stop();
}

#[test]
fn only_those_that_a_person_allows_are_believed() {
    let [first, second] = [7, 8].map(|last| node([127, 92, 5, last], &[7141]));
    let mut allowed = show(&route("Found", "art-net", 7141, "nodes", ""));
    allowed.settings.nodes_from = vec![IpAddr::V4(second.address()).into()];
    let (runtime, _outlook) = started(allowed);
    wait("the second to be fed", || frames(&second, Protocol::ArtNet, 7141) > 3);
    assert_eq!(frames(&first, Protocol::ArtNet, 7141), 0);
    assert!(answered(&runtime, first.address()) < 0.0);
    runtime.stop();
}

/// A running show whose settings are changed while it runs.
struct Edited {
    runtime: Runtime,
    outlook: Outlook,
    show: Show,
    edition: u64,
}

impl Edited {
    fn start(show: Show) -> Self {
        let (runtime, outlook) = started(show.clone());
        Self { runtime, outlook, show, edition: 0 }
    }

    /// Changes the show, and waits until frames are of it.
    fn change(&mut self, change: impl FnOnce(&mut Show)) {
        change(&mut self.show);
        self.edition += 1;
        self.runtime.go_over(self.edition, Arc::new(self.show.clone()));
        wait("frames of the changed show", || self.outlook.published.read().snapshot.edition == self.edition);
    }

    /// Waits until so many frames more were made.
    fn run_on(&mut self, frames: u64) {
        let until = self.outlook.published.read().snapshot.frame + frames;
        wait("frames", || self.outlook.published.read().snapshot.frame >= until);
    }
}

#[test]
fn who_is_ignored_while_a_show_runs_gets_two_frames_more_at_the_most_and_all_of_them_again() {
    let node = node([127, 92, 6, 7], &[7151]);
    let fed = || frames(&node, Protocol::ArtNet, 7151);
    let mut edited = Edited::start(show(&route("Found", "art-net", 7151, "nodes", "unchanged = \"repeat\"")));
    wait("the node to be fed", || fed() > 3);
    for _ in 0..2 {
        let address = node.address();
        edited.change(|show| show.settings.ignored_nodes.push(address));
        // What was on its way comes yet.
        edited.run_on(2);
        let before = fed();
        edited.run_on(20);
        assert!(fed() <= before + 1, "{} frames more", fed() - before);
        let dark = fed();
        edited.change(|show| show.settings.ignored_nodes.clear());
        wait("light", || fed() > dark + 3);
    }
    edited.runtime.stop();
}

#[test]
fn whom_a_show_believes_can_be_changed_while_it_runs() {
    let [first, second] = [7, 8].map(|last| node([127, 92, 7, last], &[7161]));
    let fed = |node: &Node| frames(node, Protocol::ArtNet, 7161);
    let mut edited = Edited::start(show(&route("Found", "art-net", 7161, "nodes", "unchanged = \"repeat\"")));
    wait("both to be fed", || fed(&first) > 3 && fed(&second) > 3);
    edited.change(|show| show.settings.nodes_from = vec![IpAddr::V4(second.address()).into()]);
    let mut last = fed(&first);
    wait("the first to be left alone", || {
        edited.run_on(10);
        let now = fed(&first);
        std::mem::replace(&mut last, now) == now
    });
    let before = fed(&second);
    wait("the second to be fed on", || fed(&second) > before + 3);
    edited.change(|show| show.settings.nodes_from.clear());
    wait("the first to be fed again", || fed(&first) > last + 3);
    edited.runtime.stop();
}

#[test]
fn who_may_fire_pads_from_the_network_can_be_changed_while_a_show_runs() {
    let mut open = show("");
    open.name = "Triggered 92".into();
    open.settings.triggers = true;
    let mut edited = Edited::start(open);
    let stranger = Stranger::at([127, 92, 8, 2], "Triggered 92");
    let fire = || {
        let bytes = trigger::Repr::Macro(1).emit();
        stranger.ears.send_from(&stranger.own, &bytes, stranger.victim).expect("sends");
    };
    let fires = |edited: &Edited| {
        wait("a trigger to be taken", || {
            fire();
            edited.outlook.asked.try_recv().is_ok()
        });
    };
    fires(&edited);
    edited.change(|show| show.settings.triggers_from = vec![IpAddr::V4(Ipv4Addr::new(10, 9, 8, 7)).into()]);
    // What was on its way is taken yet.
    edited.run_on(10);
    edited.outlook.asked.try_iter().for_each(drop);
    for _ in 0..20 {
        fire();
        edited.run_on(1);
    }
    assert_eq!(edited.outlook.asked.try_iter().count(), 0, "a stranger fires nothing");
    edited.change(|show| show.settings.triggers_from.clear());
    fires(&edited);
    edited.runtime.stop();
}
