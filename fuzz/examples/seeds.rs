//! Writes the seeds of the fuzz targets from what the codecs emit: `cargo run --bin seeds`, in this folder.

use std::fs;
use std::net::Ipv4Addr;
use std::path::Path;

use splimo_document::making::write_sheet;
use splimo_document::patch::csv;
use splimo_document::file;
use splimo_link::frame::encode;
use splimo_link::message::{Guest, Request, VERSION};
use splimo_wire::artnet::poll_reply::{OEM_UNKNOWN, Port, Repr, Style};
use splimo_wire::artnet::{dmx, poll, sync, time_code, trigger};
use splimo_wire::osc::{Argument, emit};
use splimo_wire::sacn::{data, discovery};

fn put(target: &str, name: &str, bytes: &[u8]) {
    let folder = Path::new("seeds").join(target);
    fs::create_dir_all(&folder).expect("a folder");
    fs::write(folder.join(name), bytes).expect("writes");
}

fn packet(name: &str, bytes: &[u8]) {
    let mut framed = (bytes.len() as u16).to_le_bytes().to_vec();
    framed.extend(bytes);
    put("packet", name, &framed);
}

fn main() {
    packet("poll", &poll::Repr::default().emit());
    packet("sync", &sync::emit());
    packet("time-code", &time_code::Repr::at(3_661.5, time_code::CountingKind::Ebu).emit());
    packet("trigger", &trigger::Repr::Macro(3).emit());
    let address = Ipv4Addr::new(10, 0, 0, 205);
    let reply = Repr {
        address,
        version: 1,
        oem: OEM_UNKNOWN,
        short_name: "Box",
        long_name: "Pixel box",
        report: "#0001 [0001] well",
        switch: 0,
        ports: std::array::from_fn(|i| Port { output: Some(i as u16), ..Port::default() }),
        port_count: 4,
        style: Style::Node,
        mac: [2; 6],
        bind_address: address,
        bind_index: 1,
        refresh_rate: 44,
    };
    packet("poll-reply", &reply.emit());
    let repr = dmx::Repr { sequence: 1, physical: 0, port_address: 7, data: &[128; 512] };
    let mut bytes = vec![0; repr.buffer_len()];
    repr.emit(&mut dmx::Packet::new_unchecked(&mut bytes));
    packet("art-net-frame", &bytes);
    let repr = data::Repr {
        cid: [7; 16],
        source_name: "Desk",
        priority: 100,
        sync_address: 9,
        sequence: 3,
        preview: false,
        terminated: false,
        force_sync: false,
        universe: 7,
        start_code: 0,
        slots: &[128; 512],
    };
    let mut bytes = vec![0; repr.buffer_len()];
    repr.emit(&mut data::Packet::new_unchecked(&mut bytes));
    packet("sacn-frame", &bytes);
    packet("sacn-discovery", &discovery::pages([7; 16], "Desk", &[1, 2, 3, 900])[0]);

    put("osc", "tempo", &emit("/splimo/tempo", &[Argument::Number(124.0)]).expect("OSC"));
    put("osc", "press", &emit("/box/1", &[]).expect("OSC"));
    put("midi", "notes", &[0x90, 36, 100, 0x80, 36, 0, 0xb0, 7, 64, 0xf8, 0xf1, 0x23, 0xf0, 1, 2, 0xf7]);
    put("link", "attach", &encode(&Request::Hello { version: VERSION, guest: Guest::Screen }).expect("a frame"));

    let demo = fs::read_to_string("../shows/lantern-quay.splimo").expect("the demo");
    put("show", "lantern-quay", demo.as_bytes());
    let show = file::read(&demo).expect("a good show").show;
    put("show", "small", b"version = 1\nname = \"Small\"\n[[fixtures]]\nname = \"Bar\"\nprofile = \"rgb\"\naddress = \"1.1\"\n");
    put("table", "patch.csv", csv::write(&show).as_bytes());
    if let Some(list) = show.cue_lists.first() {
        put("table", "cues.csv", write_sheet(list, &show).as_bytes());
    }
    for (place, words) in ["master 50", "fire-pad 3", "nodes 10.0.0.7 10.0.0.8", "10.0.0.0/24", "1.1-144", "note 36 of 10", "1/16 note"]
        .iter()
        .enumerate()
    {
        put("words", &place.to_string(), words.as_bytes());
    }
}
