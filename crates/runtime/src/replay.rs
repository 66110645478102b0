//! A recording (pcapng, or pcap as it was before) in the place of the engine: what was recorded leaves again with its own timing, through the routes of a show.

use std::collections::HashMap;
use std::fs::File;
use std::io::{BufRead, BufReader};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::Builder;

use crossbeam_channel::{Receiver, Sender, bounded};
use etherparse::{SlicedPacket, TransportSlice};
use pcap_file::pcap::PcapReader;
use pcap_file::pcapng::blocks::interface_description::InterfaceDescriptionOption;
use pcap_file::pcapng::{Block, PcapNgReader};
use pcap_file::{DataLink, PcapError};
use splimo_base::histogram::Histogram;
use splimo_light::rig::Rig;
use splimo_show::Show;
use splimo_wire::message::Message;

use super::clock::{Deadlines, Instant};
use super::output::NewOutput;
use super::trouble::{Troubles, keep_alive};
use crate::engine::frames::{EngineInput, OutFrame};
use crate::file_error::Cause;

/// Packets that are read ahead.
const AHEAD: usize = 4096;

/// The reason why a recording cannot be replayed.
#[derive(Debug, thiserror::Error)]
pub enum BadRecording {
    /// It cannot be read at all.
    #[error("cannot read {}: {}", .0.display(), Cause::of(.0, .1))]
    Open(PathBuf, std::io::Error),
    /// It is of another kind.
    #[error("{0} is no recording of a network ({1}); pcapng and pcap can be replayed")]
    Kind(PathBuf, PcapError),
}

/// A universe as it was recorded.
struct Recorded {
    /// Seconds since the first packet.
    at: f64,
    /// The place among the blocks of 512 slots of a frame.
    universe: usize,
    slots: Vec<u8>,
}

/// The reason why a recording cannot be read to its end, where it cannot.
type Broken = Arc<Mutex<Option<String>>>;

/// A recording that is read on a thread of its own.
pub struct Replay {
    packets: Receiver<Recorded>,
    /// Frames of universes that the show has no route for.
    strange: Arc<AtomicU64>,
    broken: Broken,
    /// Set once all of it has left.
    pub ended: Arc<AtomicBool>,
}

impl Replay {
    /// Opens a recording for a show.
    ///
    /// # Errors
    /// [`BadRecording`].
    pub fn open(path: &Path, show: &Show, rig: &Rig) -> Result<Self, BadRecording> {
        let file = File::open(path).map_err(|e| BadRecording::Open(path.to_owned(), e))?;
        let reader = Reader::of(BufReader::new(file)).map_err(|e| BadRecording::Kind(path.to_owned(), e))?;
        let (send, packets) = bounded(AHEAD);
        let (strange, broken) = (Arc::new(AtomicU64::new(0)), Broken::default());
        let source = Recording {
            reader,
            places: places(show, rig),
            strange: strange.clone(),
            broken: broken.clone(),
            first: None,
        };
        let work = move || source.read(&send);
        Builder::new().name("replay".into()).spawn(work).map_err(|e| BadRecording::Open(path.to_owned(), e))?;
        Ok(Self { packets, strange, broken, ended: Arc::new(AtomicBool::new(false)) })
    }

    /// Counts frames of universes that the show has no route for.
    #[must_use]
    pub fn strange_counter(&self) -> Arc<AtomicU64> {
        self.strange.clone()
    }
}

/// The place among the slots of a frame of each number of each protocol.
fn places(show: &Show, rig: &Rig) -> HashMap<(splimo_wire::Protocol, u16), usize> {
    let mut places = HashMap::new();
    for route in show.routes.iter().filter(|r| r.enabled) {
        let Some(protocol) = splimo_wire::Protocol::of(route.kind()) else { continue };
        for (index, universe) in rig.universes.iter().enumerate() {
            if let Some(number) = route.number_of(*universe) {
                places.entry((protocol, number)).or_insert(index);
            }
        }
    }
    places
}

/// A reader of one of the formats of recordings.
enum Reader {
    PcapNg {
        reader: PcapNgReader<BufReader<File>>,
        /// The length of a unit of time, and the kind of link that packets begin with, for each interface of the file.
        interfaces: Vec<(f64, DataLink)>,
    },
    Pcap(PcapReader<BufReader<File>>),
}

/// A packet of a recording: its bytes, how they begin, and its time in seconds.
type Taken = (Vec<u8>, DataLink, f64);

impl Reader {
    /// A pcapng file begins with its own kind of block (0x0a0d0d0a, alike in both orders of bytes), a pcap file does not.
    fn of(mut file: BufReader<File>) -> Result<Self, PcapError> {
        let begins = file.fill_buf().map_err(PcapError::IoError)?;
        if begins.starts_with(&[0x0a, 0x0d, 0x0d, 0x0a]) {
            return Ok(Self::PcapNg { reader: PcapNgReader::new(file)?, interfaces: Vec::new() });
        }
        Ok(Self::Pcap(PcapReader::new(file)?))
    }

    /// The next packet, or none at the end.
    fn next(&mut self) -> Option<Result<Taken, PcapError>> {
        match self {
            Self::Pcap(reader) => {
                let link = reader.header().datalink;
                let packet = reader.next_packet()?;
                Some(packet.map(|packet| (packet.data.into_owned(), link, packet.timestamp.as_secs_f64())))
            }
            Self::PcapNg { reader, interfaces } => loop {
                match reader.next_block()? {
                    Ok(Block::InterfaceDescription(interface)) => {
                        let resolution = interface.options.iter().find_map(|option| match option {
                            InterfaceDescriptionOption::IfTsResol(resolution) => Some(*resolution),
                            _ => None,
                        });
                        interfaces.push((unit(resolution.unwrap_or(6)), interface.linktype));
                    }
                    Ok(Block::EnhancedPacket(packet)) => {
                        let Some((unit, link)) = interfaces.get(packet.interface_id as usize).copied() else {
                            continue;
                        };
                        let units = packet.timestamp.as_nanos() as f64;
                        return Some(Ok((packet.data.into_owned(), link, units * unit)));
                    }
                    Ok(_) => {}
                    Err(error) => return Some(Err(error)),
                }
            },
        }
    }
}

struct Recording {
    reader: Reader,
    places: HashMap<(splimo_wire::Protocol, u16), usize>,
    strange: Arc<AtomicU64>,
    broken: Broken,
    first: Option<f64>,
}

impl Recording {
    /// Reads until the end, until something cannot be read, or until nobody listens any more.
    fn read(mut self, send: &Sender<Recorded>) {
        while let Some(packet) = self.reader.next() {
            let recorded = match packet {
                Ok((data, link, at)) => recorded(&data, link, at, &self.places, &self.strange),
                Err(error) => {
                    *self.broken.lock().unwrap_or_else(PoisonError::into_inner) = Some(error.to_string());
                    return;
                }
            };
            let Some(mut recorded) = recorded else { continue };
            recorded.at -= *self.first.get_or_insert(recorded.at);
            if send.send(recorded).is_err() {
                return;
            }
        }
    }
}

/// The length of a unit of time (pcapng, `if_tsresol`): a power of ten, or of two where the highest bit is set.
fn unit(resolution: u8) -> f64 {
    let power = i32::from(resolution & 0x7f);
    if resolution & 0x80 == 0 { 10f64.powi(-power) } else { 2f64.powi(-power) }
}

fn recorded(
    data: &[u8],
    link: DataLink,
    at: f64,
    places: &HashMap<(splimo_wire::Protocol, u16), usize>,
    strange: &AtomicU64,
) -> Option<Recorded> {
    let sliced = match link {
        DataLink::ETHERNET => SlicedPacket::from_ethernet(data).ok()?,
        // Packets of all interfaces in one, as the tools of Linux capture them.
        DataLink::LINUX_SLL => SlicedPacket::from_linux_sll(data).ok()?,
        _ => SlicedPacket::from_ip(data).ok()?,
    };
    let Some(TransportSlice::Udp(udp)) = sliced.transport else { return None };
    let Ok(Message::Data(frame)) = Message::parse(udp.payload()) else { return None };
    if frame.terminated {
        return None;
    }
    match places.get(&(frame.protocol, frame.universe)) {
        Some(&universe) => Some(Recorded { at, universe, slots: frame.slots.to_vec() }),
        None => {
            strange.fetch_add(1, Ordering::Relaxed);
            None
        }
    }
}

/// Everything that the thread that replays has in its hands.
pub struct ReplayLoop {
    /// The recording.
    pub replay: Replay,
    /// The rig of the show.
    pub rig: Arc<Rig>,
    /// Frames a second.
    pub rate: f64,
    /// Its inputs; only other streams are of interest.
    pub inputs: Receiver<EngineInput>,
    /// Frames to the sender.
    pub full: Sender<OutFrame>,
    /// Frames back from the sender.
    pub empty: Receiver<OutFrame>,
    /// Set when it is to end.
    pub stop: Arc<AtomicBool>,
    /// The troubles, where failures are told.
    pub troubles: Troubles,
}

impl ReplayLoop {
    /// Runs until the recording is over, and returns how long frames took.
    #[must_use]
    pub fn run(self) -> Histogram {
        let mut took = Histogram::default();
        let troubles = self.troubles.clone();
        keep_alive("replay", &troubles, || self.frames(&mut took));
        if let Some(why) = &*self.replay.broken.lock().unwrap_or_else(PoisonError::into_inner) {
            let message = format!("the recording is damaged or cut off ({why}); what came before it has left");
            self.troubles.tell("replay", message);
        }
        self.replay.ended.store(true, Ordering::Relaxed);
        took
    }

    fn frames(&self, took: &mut Histogram) {
        let start = Instant::now().plus(20_000_000);
        let mut deadlines = Deadlines::new(start, self.rate);
        let mut slots = vec![0; self.rig.slots()];
        let mut output: Option<Box<NewOutput>> = None;
        let mut next = self.replay.packets.recv().ok();
        while !self.stop.load(Ordering::Relaxed) {
            let deadline = deadlines.next(Instant::now());
            deadline.plus(-2_000_000).sleep();
            let began = Instant::now();
            while let Ok(command) = self.inputs.try_recv() {
                if let EngineInput::Output(changed) = command {
                    output = Some(changed);
                }
            }
            let now = deadline.seconds_since(start);
            while let Some(recorded) = next.take_if(|recorded| recorded.at <= now) {
                let stride = self.rig.stride();
                for variant in slots.chunks_mut(stride.max(1)) {
                    let place = recorded.universe * 512;
                    variant[place..place + recorded.slots.len()].copy_from_slice(&recorded.slots);
                }
                // The reader is far ahead of us, unless the disk is very slow.
                next = self.replay.packets.recv().ok();
            }
            if let Ok(mut out) = self.empty.try_recv() {
                out.slots.clear();
                out.slots.extend_from_slice(&slots);
                out.deadline = Some(deadline);
                out.output = output.take();
                let _ = self.full.try_send(out);
            }
            took.add(Instant::now().since(began) as f32 / 1e6);
            if next.is_none() {
                return;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use std::borrow::Cow;
    use std::time::Duration;

    use pcap_file::pcap::{PcapHeader, PcapPacket, PcapWriter};
    use pcap_file::pcapng::PcapNgWriter;
    use pcap_file::pcapng::blocks::enhanced_packet::EnhancedPacketBlock;
    use pcap_file::pcapng::blocks::interface_description::InterfaceDescriptionBlock;

    use super::*;

    const AT: [Duration; 2] = [Duration::from_micros(1_500_000), Duration::from_micros(1_525_000)];

    fn read(bytes: &[u8]) -> Result<Vec<Taken>, PcapError> {
        let mut file = tempfile::tempfile().expect("a file");
        std::io::Write::write_all(&mut file, bytes).expect("written");
        std::io::Seek::rewind(&mut file).expect("wound");
        let mut reader = Reader::of(BufReader::new(file))?;
        std::iter::from_fn(|| reader.next()).collect()
    }

    #[test]
    fn both_formats_give_the_same_packets() {
        let header = PcapHeader { datalink: DataLink::ETHERNET, ..PcapHeader::default() };
        let mut plain = PcapWriter::with_header(Vec::new(), header).expect("a header");
        let mut new = PcapNgWriter::new(Vec::new()).expect("a header");
        let interface = InterfaceDescriptionBlock { linktype: DataLink::ETHERNET, snaplen: 0, options: Vec::new() };
        new.write_pcapng_block(interface).expect("written");
        for (number, at) in AT.iter().enumerate() {
            let data: Cow<'_, [u8]> = Cow::Owned(vec![number as u8; 60]);
            let packet = PcapPacket { timestamp: *at, orig_len: 60, data: data.clone() };
            plain.write_packet(&packet).expect("written");
            // A unit is a microsecond where nothing is said; the writer takes units for nanoseconds.
            let units = Duration::from_nanos(at.as_micros() as u64);
            let block =
                EnhancedPacketBlock { interface_id: 0, timestamp: units, original_len: 60, data, options: Vec::new() };
            new.write_pcapng_block(block).expect("written");
        }
        let (plain, new) = (plain.into_writer(), new.into_inner());
        let taken = read(&plain).expect("it is read");
        assert_eq!(taken.len(), 2);
        let seconds: Vec<f64> = taken.iter().map(|(.., at)| *at).collect();
        assert!((seconds[0] - 1.5).abs() < 1e-6 && (seconds[1] - 1.525).abs() < 1e-6, "{seconds:?}");
        let other = read(&new).expect("it is read");
        let bytes = |all: &[Taken]| all.iter().map(|(data, ..)| data.clone()).collect::<Vec<_>>();
        assert_eq!(bytes(&taken), bytes(&other));
        assert!((other[1].2 - other[0].2 - 0.025).abs() < 1e-6, "{other:?}");
        assert!(read(&plain[..plain.len() - 20]).is_err(), "what is cut off says so");
        assert!(read(b"no recording at all, but long enough").is_err());
    }
}
