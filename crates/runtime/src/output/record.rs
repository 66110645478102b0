//! Recording: what leaves is copied, frame by frame, to a thread that writes it as pcapng. The sender never waits for it; what
//! it has no room for is left out and counted.

use std::fs::File;
use std::io::{self, BufWriter, Write};
use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::{Builder, JoinHandle};
use std::time::{Duration, SystemTime};

use arc_swap::ArcSwapOption;
use crossbeam_channel::{Receiver, Sender, bounded};
use etherparse::PacketBuilder;
use pcap_file::DataLink;
use pcap_file::pcapng::PcapNgWriter;
use pcap_file::pcapng::blocks::enhanced_packet::EnhancedPacketBlock;
use pcap_file::pcapng::blocks::interface_description::{InterfaceDescriptionBlock, InterfaceDescriptionOption};
use splimo_wire::burst::Burst;

use super::{LaneOutlet, RecordingStatus};
use crate::trouble::Troubles;

/// Frames that wait to be written at the most: more than a second of them.
const FRAMES: usize = 64;
/// The port that packets seem to come from.
const OWN_PORT: u16 = 50_000;

/// The packets of a frame, one behind the other.
#[derive(Default)]
struct Frame {
    /// The time when they left, since 1970.
    at: Duration,
    bytes: Vec<u8>,
    /// Of each packet its end among the bytes, where it comes from and where it goes.
    packets: Vec<(usize, IpAddr, SocketAddr)>,
}

/// A recording under way.
struct Recording {
    path: PathBuf,
    full: Sender<Frame>,
    empty: Receiver<Frame>,
    packets: Arc<AtomicU64>,
    left_out: AtomicU64,
}

/// The place where the sender leaves what it sends, if somebody records.
#[derive(Clone, Default)]
pub struct Tap {
    recording: Arc<ArcSwapOption<Recording>>,
    thread: Arc<Mutex<Option<JoinHandle<()>>>>,
}

impl Tap {
    /// Begins to record into a file.
    ///
    /// # Errors
    /// If the file cannot be made, or is there already.
    pub fn start(&self, path: &Path, troubles: Troubles) -> io::Result<()> {
        self.stop();
        let file = File::create_new(path)?;
        let writer = Writer::new(file)?;
        let (full, frames) = bounded(FRAMES);
        let (back, empty) = bounded(FRAMES);
        for _ in 0..FRAMES {
            // The channel is as long as there are frames.
            let _ = back.try_send(Frame::default());
        }
        let packets = Arc::new(AtomicU64::new(0));
        let counted = packets.clone();
        let work = move || write(writer, &frames, &back, &counted, &troubles);
        let thread = Builder::new().name("record".into()).spawn(work)?;
        *self.thread.lock().unwrap_or_else(PoisonError::into_inner) = Some(thread);
        let recording = Recording { path: path.to_owned(), full, empty, packets, left_out: AtomicU64::new(0) };
        self.recording.store(Some(Arc::new(recording)));
        Ok(())
    }

    /// Ends the recording, once everything is written. Returns how it was.
    pub fn stop(&self) -> Option<RecordingStatus> {
        let recording = self.recording.swap(None);
        let left = recording.map(|recording| {
            // The sender may be holding on to it for the length of a frame.
            (recording.path.clone(), recording.packets.clone(), recording.left_out.load(Ordering::Relaxed))
        });
        if let Some(thread) = self.thread.lock().unwrap_or_else(PoisonError::into_inner).take() {
            let _ = thread.join();
        }
        left.map(|(path, packets, left_out)| RecordingStatus {
            path,
            packets: packets.load(Ordering::Relaxed),
            left_out,
        })
    }

    /// The way the recording is, if there is one.
    #[must_use]
    pub fn status(&self) -> Option<RecordingStatus> {
        self.recording.load().as_ref().map(|recording| RecordingStatus {
            path: recording.path.clone(),
            packets: recording.packets.load(Ordering::Relaxed),
            left_out: recording.left_out.load(Ordering::Relaxed),
        })
    }

    /// Takes what is due of a burst, which has just left.
    pub(super) fn take(&self, burst: &Burst, outlets: &[LaneOutlet]) {
        let recording = self.recording.load();
        let Some(recording) = recording.as_ref() else { return };
        let Ok(mut frame) = recording.empty.try_recv() else {
            recording.left_out.fetch_add(1, Ordering::Relaxed);
            return;
        };
        frame.at = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
        frame.bytes.clear();
        frame.packets.clear();
        for (lane, outlet) in outlets.iter().enumerate() {
            for (packet, to) in burst.packets(lane, 0..burst.due_of(lane)).chain(burst.syncs(lane)) {
                frame.bytes.extend_from_slice(packet);
                frame.packets.push((frame.bytes.len(), outlet.own, to));
            }
        }
        let _ = recording.full.try_send(frame);
    }
}

fn write(mut writer: Writer, frames: &Receiver<Frame>, back: &Sender<Frame>, packets: &AtomicU64, troubles: &Troubles) {
    let mut failed = false;
    for frame in frames {
        if !failed {
            match writer.write(&frame) {
                Ok(count) => drop(packets.fetch_add(count, Ordering::Relaxed)),
                Err(error) => {
                    failed = true;
                    let mend = "what was written until now is kept; see whether the disk is full";
                    troubles.tell("recording", format!("cannot be written any more ({error}); {mend}"));
                }
            }
        }
        let _ = back.try_send(frame);
    }
    if let Err(error) = writer.finish() {
        troubles.tell("recording", format!("its end could not be written ({error})"));
    }
}

/// Writes packets as pcapng: raw IP, with times in nanoseconds.
struct Writer {
    file: PcapNgWriter<BufWriter<File>>,
    packet: Vec<u8>,
}

impl Writer {
    fn new(file: File) -> io::Result<Self> {
        let mut file = PcapNgWriter::new(BufWriter::with_capacity(1 << 18, file)).map_err(io::Error::other)?;
        let interface = InterfaceDescriptionBlock {
            linktype: DataLink::RAW,
            snaplen: 0,
            options: vec![InterfaceDescriptionOption::IfTsResol(9)],
        };
        file.write_pcapng_block(interface).map_err(io::Error::other)?;
        Ok(Self { file, packet: Vec::new() })
    }

    fn write(&mut self, frame: &Frame) -> io::Result<u64> {
        let mut start = 0;
        let mut count = 0;
        for (end, own, to) in &frame.packets {
            let payload = &frame.bytes[start..*end];
            start = *end;
            self.packet.clear();
            let builder = match (own, to.ip()) {
                (IpAddr::V4(own), IpAddr::V4(to)) => PacketBuilder::ipv4(own.octets(), to.octets(), 64),
                (IpAddr::V6(own), IpAddr::V6(to)) => PacketBuilder::ipv6(own.octets(), to.octets(), 64),
                (_, IpAddr::V4(to)) => PacketBuilder::ipv4(Ipv4Addr::UNSPECIFIED.octets(), to.octets(), 64),
                (_, IpAddr::V6(to)) => PacketBuilder::ipv6([0; 16], to.octets(), 64),
            };
            builder.udp(OWN_PORT, to.port()).write(&mut self.packet, payload).map_err(io::Error::other)?;
            let block = EnhancedPacketBlock {
                interface_id: 0,
                timestamp: frame.at,
                original_len: self.packet.len() as u32,
                data: (&self.packet[..]).into(),
                options: Vec::new(),
            };
            self.file.write_pcapng_block(block).map_err(io::Error::other)?;
            count += 1;
        }
        Ok(count)
    }

    fn finish(self) -> io::Result<()> {
        let mut file = self.file.into_inner();
        file.flush()?;
        file.get_ref().sync_all()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use etherparse::{NetHeaders, PacketHeaders, TransportHeader};
    use pcap_file::pcapng::{Block, PcapNgReader};

    /// The times of the packets of a recording, and each with where it comes from, where it goes, and what it carries.
    fn read(path: &Path) -> Vec<(Duration, IpAddr, SocketAddr, Vec<u8>)> {
        let mut reader = PcapNgReader::new(File::open(path).expect("it is there")).expect("a recording");
        let mut all = Vec::new();
        while let Some(block) = reader.next_block() {
            let Block::EnhancedPacket(block) = block.expect("a block") else { continue };
            let packet = PacketHeaders::from_ip_slice(&block.data).expect("a packet");
            let (own, to) = match packet.net.expect("an address") {
                NetHeaders::Ipv4(header, _) => (IpAddr::from(header.source), IpAddr::from(header.destination)),
                NetHeaders::Ipv6(header, _) => (IpAddr::from(header.source), IpAddr::from(header.destination)),
                other => panic!("neither: {other:?}"),
            };
            let Some(TransportHeader::Udp(udp)) = packet.transport else { panic!("no UDP") };
            let to = SocketAddr::new(to, udp.destination_port);
            all.push((block.timestamp, own, to, packet.payload.slice().to_vec()));
        }
        all
    }

    #[test]
    fn packets_are_written_as_they_left_by_either_protocol() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("left.pcapng");
        let mut writer = Writer::new(File::create_new(&path).expect("a file")).expect("its head");
        let [v4, v6] = ["10.0.0.2", "fe80::2"].map(|text| text.parse::<IpAddr>().expect("an address"));
        let [to_v4, to_v6] =
            ["10.0.0.9:6454", "[ff18::83:0:1]:5568"].map(|text| text.parse::<SocketAddr>().expect("an address"));
        // Where a route has no address of its own of the kind that it sends to, none is made up.
        let [none_v4, none_v6] = ["0.0.0.0", "::"].map(|text| text.parse::<IpAddr>().expect("an address"));
        let packets = [(v4, to_v4, v4), (v6, to_v6, v6), (v4, to_v6, none_v6), (v6, to_v4, none_v4)];
        let mut frame = Frame { at: Duration::new(1_700_000_000, 123_456_789), ..Frame::default() };
        for (index, (own, to, _)) in packets.iter().enumerate() {
            frame.bytes.extend(std::iter::repeat_n(index as u8, 10 + index));
            frame.packets.push((frame.bytes.len(), *own, *to));
        }
        assert_eq!(writer.write(&frame).expect("written"), 4);
        writer.finish().expect("whole");
        let read = read(&path);
        assert_eq!(read.len(), 4);
        for (index, ((at, own, to, bytes), truth)) in read.into_iter().zip(packets).enumerate() {
            assert_eq!((at, own, to), (frame.at, truth.2, truth.1));
            assert_eq!(bytes, vec![index as u8; 10 + index]);
        }
    }

    #[test]
    fn a_recording_never_takes_the_place_of_another() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("kept.pcapng");
        std::fs::write(&path, "an evening").expect("a file");
        let tap = Tap::default();
        let error = tap.start(&path, Troubles::default()).expect_err("it is there already");
        assert_eq!(error.kind(), io::ErrorKind::AlreadyExists);
        assert_eq!((tap.status(), std::fs::read_to_string(&path).expect("still there")), (None, "an evening".into()));
        // Another name records, and says how it was at its end.
        let other = folder.path().join("new.pcapng");
        tap.start(&other, Troubles::default()).expect("a new one");
        let status = tap.stop().expect("there was one");
        assert_eq!((status.packets, status.left_out, status.path), (0, 0, other.clone()));
        assert!(read(&other).is_empty() && tap.status().is_none());
    }
}
