//! The sender's thread: each frame leaves at its deadline, and what became of it is counted.

use std::collections::HashMap;
use std::io;
use std::net::{Ipv4Addr, UdpSocket};

use crossbeam_channel::{Receiver, Sender};
use serde::Serialize;
use splimo_core::histogram::{Histogram, Quantiles};
use splimo_core::rig::Rig;
use splimo_core::show::{Destination, Protocol, Show, Unchanged};
use splimo_wire::burst::{Burst, Identity, Stream, TERMINATIONS};
use splimo_wire::socket;
use uuid::Uuid;

use super::clock::Instant;
use super::fault;
use super::frames::OutFrame;
use super::trouble::{Troubles, keep_alive};

/// Time over which rates are measured for the screen, in seconds.
const MEASURE: f64 = 1.0;
/// The name space of the sources' UUIDs.
const NAME_SPACE: Uuid = Uuid::from_u128(0x5b1f_6a3c_9f0e_4c57_8d21_7a90_51e0_c0de);

/// A universe on its way, for the screen.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct StreamStatus {
    /// Index of the route in the show.
    pub route: usize,
    /// The universe of the show.
    pub universe: u32,
    /// Its index in the rig, which is its place among the slots.
    pub source: usize,
    /// Its number in the protocol.
    pub number: u16,
    /// Packets since the start.
    pub packets: u64,
    /// Packets a second, of late.
    pub rate: f32,
}

/// What leaves, for screens and reports.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct OutputStatus {
    /// Frames sent.
    pub frames: u64,
    /// Frames a second, of late.
    pub fps: f32,
    /// Packets that left.
    pub packets: u64,
    /// Packets that the system refused.
    pub errors: u64,
    /// Why, the last time.
    pub last_error: Option<String>,
    /// How late frames began to leave, in milliseconds, of late.
    pub late_ms: Quantiles,
    /// Each universe on its way.
    pub streams: Vec<StreamStatus>,
}

/// What was sent in all.
#[derive(Debug, Clone, Default)]
pub struct OutputTotals {
    /// Frames sent.
    pub frames: u64,
    /// Seconds between the first and the last of them.
    pub seconds: f64,
    /// Packets that left.
    pub packets: u64,
    /// Packets that the system refused.
    pub errors: u64,
    /// How late frames began to leave.
    pub late: Histogram,
    /// How long sending a frame took.
    pub send: Histogram,
}

/// The totals as they are reported.
#[derive(Debug, Clone, Serialize)]
pub struct Report {
    /// Frames sent.
    pub frames: u64,
    /// Frames a second.
    pub fps: f64,
    /// How late they were.
    pub late_ms: Quantiles,
    /// How many universes of the rig have a route.
    pub universes: usize,
    /// Packets that left.
    pub packets: u64,
    /// Packets that the system refused.
    pub send_errors: u64,
    /// The tempo at the end.
    pub tempo_bpm: f64,
}

impl OutputTotals {
    /// Frames a second between the first and the last.
    #[must_use]
    pub fn fps(&self) -> f64 {
        let fps = if self.seconds > 0.0 { self.frames.saturating_sub(1) as f64 / self.seconds } else { 0.0 };
        (fps * 1000.0).round() / 1000.0
    }
}

/// The streams of a show's routes: one for each universe of a route that the rig uses.
#[must_use]
pub fn streams(show: &Show, rig: &Rig) -> (Vec<Stream>, Vec<StreamStatus>) {
    let mut streams = Vec::new();
    let mut status = Vec::new();
    for (index, route) in show.routes.iter().enumerate().filter(|(_, r)| r.enabled) {
        for universe in route.universes.numbers() {
            let Ok(source) = rig.universes.binary_search(&universe) else { continue };
            let Ok(number) = u16::try_from(u32::from(route.first) + universe - route.universes.first) else { continue };
            let to = match route.to {
                Destination::Unicast(address) => Some(address),
                Destination::Multicast => None,
            };
            let protocol = match route.protocol {
                Protocol::ArtNet => splimo_wire::Protocol::ArtNet,
                Protocol::Sacn => splimo_wire::Protocol::Sacn,
            };
            let keep_alive = route.unchanged == Unchanged::KeepAlive;
            streams.push(Stream { source, protocol, universe: number, to, priority: route.priority, keep_alive });
            status.push(StreamStatus { route: index, universe, source, number, packets: 0, rate: 0.0 });
        }
    }
    (streams, status)
}

/// Who this show is on the network: the same on the same machine at every start.
#[must_use]
pub fn identity(show: &Show) -> Identity {
    let machine = std::fs::read_to_string("/etc/machine-id").unwrap_or_default();
    let host = std::fs::read_to_string("/proc/sys/kernel/hostname").unwrap_or_default();
    let cid = Uuid::new_v5(&NAME_SPACE, format!("{machine}\n{host}\n{}", show.name).as_bytes());
    Identity { cid: *cid.as_bytes(), name: format!("Splimo {}", show.name) }
}

/// The streams of a changed show.
pub struct NewOutput {
    /// The packets.
    pub burst: Burst,
    /// The streams as they begin.
    pub streams: Vec<StreamStatus>,
    /// Frames a second that the show asks for.
    pub rate: f32,
}

impl NewOutput {
    /// The streams of a show.
    #[must_use]
    pub fn of(show: &Show, rig: &Rig) -> Self {
        let (streams, status) = streams(show, rig);
        Self { burst: Burst::new(&streams, &identity(show)), streams: status, rate: show.settings.rate }
    }

    /// How many universes have a route.
    #[must_use]
    pub fn universes(&self) -> usize {
        let mut carried: Vec<usize> = self.streams.iter().map(|s| s.source).collect();
        carried.sort_unstable();
        carried.dedup();
        carried.len()
    }
}

/// What the sender's thread has its hands on.
pub struct SendLoop {
    /// The packets.
    pub burst: Burst,
    /// The socket.
    pub socket: UdpSocket,
    /// Frames from the engine.
    pub full: Receiver<OutFrame>,
    /// Frames back to the engine.
    pub empty: Sender<OutFrame>,
    /// What screens see.
    pub status: triple_buffer::Input<OutputStatus>,
    /// Frames a second that the show asks for.
    pub rate: f32,
    /// The streams as they began.
    pub streams: Vec<StreamStatus>,
    /// Where failures are told.
    pub troubles: Troubles,
}

impl SendLoop {
    /// Sends until the engine is gone, then says that the streams end.
    ///
    /// # Errors
    /// Where the socket cannot be used.
    pub fn run(mut self) -> io::Result<OutputTotals> {
        let mut socket = socket::Sender::new(self.socket.try_clone()?);
        let mut totals = OutputTotals::default();
        let troubles = self.troubles.clone();
        let mut meter = Meter::new(std::mem::take(&mut self.streams));
        let mut restarts = false;
        keep_alive("sender", &troubles, || {
            if std::mem::replace(&mut restarts, true) {
                // The frame that was in hand is gone; another takes its place in the round.
                let _ = self.empty.try_send(OutFrame::default());
            }
            self.frames(&mut socket, &mut totals, &mut meter);
        });
        terminate(&mut self.burst, &mut socket, &mut totals);
        Ok(totals)
    }

    /// Goes over to other streams, and says of those that are not there any more that they end.
    fn go_over(
        &mut self,
        output: NewOutput,
        socket: &mut socket::Sender,
        totals: &mut OutputTotals,
        meter: &mut Meter,
    ) {
        let mut ended = self.burst.replace(output.burst);
        terminate(&mut ended, socket, totals);
        self.rate = output.rate;
        meter.go_over(output.streams);
    }

    fn frames(&mut self, socket: &mut socket::Sender, totals: &mut OutputTotals, meter: &mut Meter) {
        while let Ok(mut frame) = self.full.recv() {
            fault::strike("sender");
            let deadline = frame.deadline.take().unwrap_or_else(Instant::now);
            deadline.sleep();
            if let Some(output) = frame.output.take() {
                self.go_over(*output, socket, totals, meter);
            }
            let began = Instant::now();
            self.burst.prepare(&frame.slots, meter.seconds(deadline));
            let sent = socket.send(self.burst.packets());
            let done = Instant::now();
            // The engine takes the frame back; it is gone only when all ends.
            let _ = self.empty.try_send(frame);
            let late = began.since(deadline) as f32 / 1e6;
            totals.frames += 1;
            totals.seconds = meter.seconds(deadline);
            totals.packets += sent.packets;
            totals.errors += sent.errors;
            totals.late.add(late);
            totals.send.add(done.since(began) as f32 / 1e6);
            if meter.count(self.burst.due(), late, deadline) {
                self.tell(totals, meter, sent);
            }
        }
    }

    fn tell(&mut self, totals: &OutputTotals, meter: &mut Meter, sent: socket::Sent) {
        let status = self.status.input_buffer_mut();
        status.frames = totals.frames;
        status.packets = totals.packets;
        status.last_error = sent.last_error.map(|e| e.desc().to_owned()).or(status.last_error.take());
        let failed = totals.errors - meter.errors_told;
        status.errors = totals.errors;
        meter.write(status);
        self.status.publish();
        if failed > 0 {
            let why = sent.last_error.map_or("refused by the system", |e| e.desc());
            let mend = "see to the cable, the address of the route and this machine's network";
            self.troubles
                .tell("output", format!("{failed} packets could not be sent in the last second ({why}); {mend}"));
        } else {
            self.troubles.over("output");
        }
        meter.errors_told = totals.errors;
        self.tell_of_rate(meter);
    }

    /// Whether as many frames leave as the show asks for.
    fn tell_of_rate(&self, meter: &Meter) {
        if meter.fps < self.rate * 0.9 {
            let message = format!(
                "only {:.0} of {:.0} frames a second leave; the machine is busy elsewhere: end other programs, or lower the rate",
                meter.fps, self.rate
            );
            self.troubles.tell("frame rate", message);
        } else {
            self.troubles.over("frame rate");
        }
    }
}

fn terminate(burst: &mut Burst, socket: &mut socket::Sender, totals: &mut OutputTotals) {
    for _ in 0..TERMINATIONS {
        burst.terminate();
        let sent = socket.send(burst.packets());
        totals.packets += sent.packets;
        totals.errors += sent.errors;
    }
}

/// Measures rates over a second at a time.
struct Meter {
    first: Option<Instant>,
    window: Instant,
    frames: u32,
    late: Histogram,
    counts: Vec<u32>,
    streams: Vec<StreamStatus>,
    fps: f32,
    errors_told: u64,
}

impl Meter {
    fn new(streams: Vec<StreamStatus>) -> Self {
        Self {
            first: None,
            window: Instant::now(),
            frames: 0,
            late: Histogram::default(),
            counts: vec![0; streams.len()],
            streams,
            fps: 0.0,
            errors_told: 0,
        }
    }

    /// Goes over to other streams; those that were there before keep their counts.
    fn go_over(&mut self, mut streams: Vec<StreamStatus>) {
        for stream in &mut streams {
            let same = |old: &&StreamStatus| {
                (old.route, old.universe, old.number) == (stream.route, stream.universe, stream.number)
            };
            if let Some(old) = self.streams.iter().find(same) {
                (stream.packets, stream.rate) = (old.packets, old.rate);
            }
        }
        self.counts = vec![0; streams.len()];
        self.streams = streams;
    }

    /// Seconds since the first frame.
    fn seconds(&mut self, deadline: Instant) -> f64 {
        deadline.seconds_since(*self.first.get_or_insert(deadline))
    }

    /// Counts a frame; true when a second is full.
    fn count(&mut self, due: &[usize], late: f32, deadline: Instant) -> bool {
        self.frames += 1;
        self.late.add(late);
        for &index in due {
            self.counts[index] += 1;
        }
        let seconds = deadline.seconds_since(self.window);
        if seconds < MEASURE {
            return false;
        }
        for (stream, count) in self.streams.iter_mut().zip(&mut self.counts) {
            stream.packets += u64::from(*count);
            stream.rate = (f64::from(std::mem::take(count)) / seconds) as f32;
        }
        self.fps = (f64::from(std::mem::take(&mut self.frames)) / seconds) as f32;
        self.window = deadline;
        true
    }

    fn write(&mut self, status: &mut OutputStatus) {
        status.fps = self.fps;
        status.late_ms = self.late.quantiles();
        status.streams.clone_from(&self.streams);
        self.late = Histogram::default();
    }
}

/// Sends every unicast route elsewhere: to `map` of its address.
pub fn redirect(show: &mut Show, map: &HashMap<Ipv4Addr, Ipv4Addr>) {
    for route in &mut show.routes {
        if let Destination::Unicast(address) = &mut route.to {
            *address = map.get(address).copied().unwrap_or(*address);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_core::show::file;

    fn demo() -> Show {
        file::read(crate::files::LANTERN_QUAY).expect("a good show").show
    }

    #[test]
    fn routes_number_universes_as_their_protocol_does() {
        let show = demo();
        let (streams, status) = streams(&show, &Rig::compile(&show));
        assert_eq!((streams.len(), status.len()), (17, 17));
        let told = |universe: u32| {
            let index = status.iter().position(|s| s.universe == universe).expect("it is routed");
            (streams[index].protocol, streams[index].universe, streams[index].destination().to_string())
        };
        assert_eq!(told(1), (splimo_wire::Protocol::ArtNet, 0, "127.0.0.2:6454".into()));
        assert_eq!(told(9), (splimo_wire::Protocol::Sacn, 9, "127.0.0.3:5568".into()));
        assert_eq!(told(14), (splimo_wire::Protocol::ArtNet, 20, "127.0.0.4:6454".into()));
    }

    #[test]
    fn routes_that_are_off_or_carry_nothing_send_nothing() {
        let mut show = demo();
        show.routes[0].enabled = false;
        show.routes[1].universes.last = 2000;
        let (streams, _) = streams(&show, &Rig::compile(&show));
        assert_eq!(streams.len(), 10 + 8, "the second route now carries universes 8 to 17 too");
    }

    #[test]
    fn a_show_keeps_its_identity_and_another_has_another() {
        let mut show = demo();
        let first = identity(&show);
        assert_eq!(identity(&show), first);
        show.name = "Another".into();
        assert_ne!(identity(&show).cid, first.cid);
    }

    #[test]
    fn a_slow_second_is_seen_as_such() {
        let show = demo();
        let (_, status) = streams(&show, &Rig::compile(&show));
        let mut meter = Meter::new(status);
        let start = meter.window;
        let mut full = 0;
        for frame in 1..=30i64 {
            full += u32::from(meter.count(&[0, 3], 0.1, start.plus(frame * 50_000_000)));
        }
        assert_eq!(full, 1);
        assert!((meter.fps - 20.0).abs() < 0.1, "{}", meter.fps);
        assert!((meter.streams[3].rate - 20.0).abs() < 0.1 && meter.streams[1].rate == 0.0);
    }
}
