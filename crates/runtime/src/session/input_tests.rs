//! Inputs of a session, from what is sent to what the engine does.

use std::fs::{File, OpenOptions};
use std::io::{Read, Write};
use std::net::{IpAddr, Ipv4Addr, SocketAddr, TcpStream, UdpSocket};
use std::path::PathBuf;
use std::time::Duration;

use splimo_document::DocumentCommand;
use splimo_document::Outcome;
use splimo_document::edit::Edit;
use splimo_link::inputs::InputState;
use splimo_show::RemoteLayout;
use splimo_show::command::{EngineCommand, SessionCommand};
use splimo_show::{
    Answer, Band, Binding, Fallback, Input, InputKind, Look, OutRange, Program, Remote, Show, Tier, ValueOut,
};
use splimo_wire::osc::{Argument, emit, messages};
use splimo_wire::{Data, Protocol, artnet, data_of, sacn};

use super::tests::{Running, Screening};

/// Everybody on this machine.
const ALL: Ipv4Addr = Ipv4Addr::new(127, 255, 255, 255);

fn show() -> Show {
    let mut show = Show::empty("Inputs");
    show.looks = ["Tide", "Gale", "Low"].map(|name| Look::new(name, Vec::new())).to_vec();
    show.tiers = ["base", "top"].map(Tier::new).to_vec();
    show.settings.lands = splimo_show::Boundary::Now;
    show.settings.fade_beats = 0.0;
    show.give_banks();
    show
}

fn on(input: Input) -> Input {
    Input { on: true, ..input }
}

fn bound(source: &str, event: &str, does: &str) -> Binding {
    Binding::new(source, event.parse().expect("an event"), does)
}

fn follows(source: &str, event: &str, does: &str) -> Binding {
    Binding { answer: Answer::Value, ..bound(source, event, does) }
}

/// A pipe with an end to write into.
struct Pipe {
    _folder: tempfile::TempDir,
    path: PathBuf,
}

impl Pipe {
    fn new() -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("pipe");
        nix::unistd::mkfifo(&path, nix::sys::stat::Mode::S_IRWXU).expect("a pipe");
        Self { _folder: folder, path }
    }

    /// Waits until somebody reads.
    fn write(&self) -> File {
        OpenOptions::new().write(true).open(&self.path).expect("somebody reads")
    }

    fn address(&self) -> String {
        self.path.display().to_string()
    }
}

/// The look of a tier.
fn on_tier(screen: &Screening, tier: usize) -> Option<usize> {
    screen.engine.tiers.get(tier).and_then(|tier| tier.look)
}

fn state(screen: &Screening, name: &str) -> InputState {
    let found = screen.inputs.inputs.iter().find(|one| one.input.name == name);
    found.map(|one| one.state.clone()).unwrap_or_default()
}

#[test]
fn a_controller_on_a_pipe_fires_a_pad_moves_a_level_and_is_seen() {
    let pipe = Pipe::new();
    let mut show = show();
    show.inputs = vec![on(Input::new("box", InputKind::Midi, &pipe.address()))];
    let held =
        Binding { answer: Answer::Held, let_go: vec!["let-pad-go 2".into()], ..bound("box", "note 36", "hold-pad 2") };
    show.bindings =
        vec![held, follows("box", "control 7", "tier-level top {}"), follows("box", "control 1 fine", "master {}")];
    let session = Running::of(show);
    let mut screen = session.screen();
    let mut controller = pipe.write();
    controller.write_all(&[0x90, 36, 100, 0xb0, 7, 64, 1, 64, 33, 0]).expect("written");
    screen.wait("the pad and both levels", |screen| {
        on_tier(screen, 0) == Some(1)
            && screen.engine.tiers[1].level == 0.5039
            && (screen.engine.master - 0.5).abs() < 0.001
    });
    assert!(
        screen.night.iter().any(|line| line.by == "box" && line.what.starts_with("hold-pad 2")),
        "{:?}",
        screen.night
    );
    screen.wait("the events in words", |screen| {
        let asked =
            |event: &str| screen.inputs.events.iter().find(|line| line.event == event).map(|line| line.asked.clone());
        asked("note 36 channel 1").as_deref() == Some("hold-pad 2")
            && asked("control 7 channel 1").as_deref() == Some("tier-level top 50.39")
    });
    assert_eq!(state(&screen, "box"), InputState::Working);
}

#[test]
fn what_is_learnt_is_bound_in_the_way_that_suits_it_and_can_be_undone() {
    let pipe = Pipe::new();
    let mut show = show();
    show.inputs = vec![on(Input::new("box", InputKind::Midi, &pipe.address()))];
    let session = Running::of(show);
    let mut screen = session.screen();
    let mut controller = pipe.write();
    assert!(matches!(screen.ask(SessionCommand::Learn("dance".into())), Outcome::Refused(_)));
    assert!(matches!(screen.ask(SessionCommand::Learn("fire-pad 3".into())), Outcome::Told(_)));
    controller.write_all(&[0x90, 40, 100, 0x80, 40, 0]).expect("written");
    screen.wait("the binding", |screen| screen.document.kept().bindings.len() == 1);
    let first = &screen.document.kept().bindings[0];
    assert_eq!((first.answer, &first.does[0][..]), (Answer::Held, "hold-pad 3"));
    controller.write_all(&[0x90, 40, 100]).expect("written");
    screen.wait("the pad", |screen| on_tier(screen, 0) == Some(2));
    assert!(matches!(screen.ask(SessionCommand::Learn("master".into())), Outcome::Told(_)));
    controller.write_all(&[0xb0, 9, 1, 9, 1, 9, 1, 9, 1]).expect("written");
    screen.wait("the other", |screen| screen.document.kept().bindings.len() == 2);
    assert_eq!(screen.document.kept().bindings[1].answer, Answer::Relative);
    controller.write_all(&[0xb0, 9, 127]).expect("written");
    screen.wait("the master", |screen| (screen.engine.master - 0.99).abs() < 0.001);
    assert!(matches!(screen.ask(DocumentCommand::Undo), Outcome::Told(_)));
    assert_eq!(screen.document.kept().bindings.len(), 1);
}

#[test]
fn osc_asks_for_commands_is_answered_and_is_an_event_by_udp_and_tcp() {
    let address = SocketAddr::from(([127, 93, 2, 1], 9094));
    let stream = SocketAddr::from(([127, 93, 2, 1], 9095));
    let mut show = show();
    show.inputs = vec![
        on(Input::new("osc", InputKind::Osc, &address.to_string())),
        on(Input::new("wire", InputKind::Osc, &format!("tcp:{stream}"))),
    ];
    let level = Binding { range: [0.0, 50.0], ..follows("osc", "/desk/1/level", "tier-level top {}") };
    show.bindings = vec![level, follows("osc", "/desk/2/level", "tier-level base {}")];
    let session = Running::of(show);
    let mut screen = session.screen();
    let socket = UdpSocket::bind("127.0.0.1:0").expect("a socket");
    socket.set_read_timeout(Some(Duration::from_secs(20))).expect("a socket");
    let send = |path: &str, arguments: &[Argument]| {
        socket.send_to(&emit(path, arguments).expect("a packet"), address).expect("sent");
    };
    send("/splimo/master", &[Argument::Number(40.0)]);
    send("/splimo/fire-look/top/Gale", &[]);
    screen.wait("both", |screen| screen.engine.master == 0.4 && on_tier(screen, 1) == Some(1));
    send("/splimo/master", &[]);
    let mut bytes = [0; 256];
    let (count, _) = socket.recv_from(&mut bytes).expect("an answer");
    let answer = messages(&bytes[..count]).expect("a packet");
    assert_eq!((answer[0].address.as_str(), answer[0].arguments[0].number()), ("/splimo/master", Some(40.0)));
    send("/desk/*/level", &[Argument::Number(1.0)]);
    screen.wait("both levels", |screen| screen.engine.tiers[1].level == 0.5 && screen.engine.tiers[0].level == 1.0);
    // A bundle that is due a little later, over the stream.
    let mut tcp = TcpStream::connect(stream).expect("a connection");
    let packet = emit("/splimo/master", &[Argument::Number(60.0)]).expect("a packet");
    tcp.write_all(&[&(packet.len() as u32).to_be_bytes()[..], &packet].concat()).expect("written");
    screen.wait("the master", |screen| screen.engine.master == 0.6);
    let question = emit("/splimo/tier-level/top", &[]).expect("a packet");
    tcp.write_all(&[&(question.len() as u32).to_be_bytes()[..], &question].concat()).expect("written");
    let mut head = [0; 4];
    tcp.set_read_timeout(Some(Duration::from_secs(20))).expect("a stream");
    tcp.read_exact(&mut head).expect("an answer");
    // What inputs may not do they do not.
    send("/splimo/end", &[]);
    send("/splimo/save-as", &[Argument::Text("/tmp/never".into())]);
    screen.wait("both refusals", |screen| {
        screen.said.iter().filter(|said| said.contains("inputs may not do that")).count() >= 2
    });
}

/// A desk that sends a universe.
struct Desk {
    socket: UdpSocket,
    protocol: Protocol,
    universe: u16,
    identity: [u8; 16],
    sequence: u8,
    slots: [u8; 512],
}

impl Desk {
    fn new(protocol: Protocol, universe: u16, number: u8) -> Self {
        let socket = UdpSocket::bind((Ipv4Addr::new(127, 93, 4, number), 0)).expect("a socket");
        socket.set_broadcast(true).expect("a socket");
        Self { socket, protocol, universe, identity: [number; 16], sequence: 0, slots: [0; 512] }
    }

    fn send(&mut self, slot: usize, value: u8) {
        self.slots[slot - 1] = value;
        self.sequence = self.sequence % 255 + 1;
        let data = Data {
            source: Some((self.identity, "desk")),
            slots: &self.slots,
            ..data_of(self.protocol, self.universe, self.sequence)
        };
        let port = if self.protocol == Protocol::ArtNet { artnet::PORT } else { sacn::PORT };
        self.socket.send_to(&data.emit(), (ALL, port)).expect("sent");
    }

    /// Sends again and again until it is as wanted.
    fn send_until(
        &mut self,
        slot: usize,
        value: u8,
        screen: &mut Screening,
        what: &str,
        done: impl Fn(&Screening) -> bool,
    ) {
        let start = std::time::Instant::now();
        while !done(screen) {
            assert!(start.elapsed() < Duration::from_secs(60), "waited in vain for {what}: {:?}", screen.inputs);
            self.send(slot, value);
            screen.look(Duration::from_millis(25));
        }
    }
}

fn choice(source: &str) -> Binding {
    let band = |from, does: &str| Band { from, does: vec![does.into()] };
    let bands = vec![band(0, "release-tier base"), band(1, "fire-look base/Tide"), band(101, "fire-look base/Gale")];
    Binding { bands, ..bound(source, "slot 1", "") }
}

#[test]
fn a_desk_picks_looks_by_one_channel_falls_silent_and_comes_back_by_both_protocols() {
    for (kind, protocol, universe) in
        [(InputKind::ArtNet, Protocol::ArtNet, 1201), (InputKind::Sacn, Protocol::Sacn, 1202)]
    {
        let mut show = show();
        show.settings.fallback = Fallback::Look;
        show.settings.fallback_look = "Low".into();
        show.inputs = vec![Input {
            silent_after: 1.0,
            from: vec![IpAddr::V4(Ipv4Addr::new(127, 93, 4, 10)).into()],
            ..on(Input::new("desk", kind, &universe.to_string()))
        }];
        show.bindings = vec![choice("desk")];
        let session = Running::of(show);
        let mut screen = session.screen();
        let mut stranger = Desk::new(protocol, universe, 11);
        let mut desk = Desk::new(protocol, universe, 10);
        stranger.send_until(1, 200, &mut screen, "strangers to be counted", |screen| {
            screen.inputs.inputs.first().is_some_and(|one| one.refused > 0)
        });
        desk.send_until(1, 50, &mut screen, "the first", |screen| on_tier(screen, 0) == Some(0));
        desk.send_until(1, 150, &mut screen, "the second", |screen| on_tier(screen, 0) == Some(1));
        desk.send_until(1, 0, &mut screen, "it to rest", |screen| on_tier(screen, 0).is_none());
        desk.send_until(1, 50, &mut screen, "the first again", |screen| on_tier(screen, 0) == Some(0));
        screen.wait("the fallback", |screen| on_tier(screen, 0) == Some(2));
        screen.wait("it to be told", |screen| state(screen, "desk") == InputState::Silent);
        assert!(screen.said.iter().any(|said| said.contains("desk has been silent")), "{:?}", screen.said);
        desk.send_until(1, 50, &mut screen, "the desk to have it again", |screen| on_tier(screen, 0) == Some(0));
        assert!(screen.said.iter().any(|said| said == "desk is back"), "{:?}", screen.said);
    }
}

#[test]
fn the_layout_of_a_desk_drives_everything_that_it_names() {
    let mut show = show();
    let remote = Some(Remote { layout: RemoteLayout::Full, first: 11 });
    show.inputs = vec![Input { remote, ..on(Input::new("desk", InputKind::Sacn, "1203")) }];
    let session = Running::of(show);
    let mut screen = session.screen();
    let mut desk = Desk::new(Protocol::Sacn, 1203, 12);
    type Done = fn(&Screening) -> bool;
    let all: [(usize, u8, &str, Done); 14] = [
        (1, 255, "the master", |s| s.engine.master == 1.0),
        (1, 51, "the master", |s| (s.engine.master - 0.2).abs() < 0.01),
        (2, 200, "blackout", |s| s.engine.blackout),
        (2, 0, "light", |s| !s.engine.blackout),
        (3, 85, "the strobe", |s| (s.engine.strobe - 4.0).abs() < 0.1),
        (4, 255, "the speed", |s| s.engine.speed == 2.0),
        (5, 255, "the tempo", |s| (s.engine.clock.bpm - 180.0).abs() < 0.5),
        (7, 6, "a look on the lowest tier", |s| on_tier(s, 0) == Some(1)),
        (9, 2, "a look on the next tier", |s| on_tier(s, 1) == Some(0)),
        (10, 51, "its level", |s| (s.engine.tiers[1].level - 0.2).abs() < 0.01),
        (15, 255, "a colour", |s| s.engine.recolour.colours[0][0] == 1.0),
        (21, 128, "colours", |s| (s.engine.recolour.by - 0.5).abs() < 0.01),
        (23, 15, "a pad", |s| on_tier(s, 0) == Some(2)),
        (32, 128, "a control", |s| s.engine.controls.get(7).is_some_and(|level| (level - 0.5).abs() < 0.01)),
    ];
    for (slot, value, what, done) in all {
        desk.send_until(10 + slot, value, &mut screen, what, done);
    }
}

#[test]
fn an_input_is_switched_on_and_off_and_what_it_holds_is_let_go() {
    let pipe = Pipe::new();
    let mut show = show();
    show.inputs = vec![Input::new("box", InputKind::Midi, &pipe.address())];
    show.banks[0].pads[0].plays.mode = Some(splimo_show::PadMode::Flash);
    let held =
        Binding { answer: Answer::Held, let_go: vec!["let-pad-go 1".into()], ..bound("box", "note 1", "hold-pad 1") };
    show.bindings = vec![held];
    let session = Running::of(show);
    let mut screen = session.screen();
    screen.wait("it to be off", |screen| state(screen, "box") == InputState::Off);
    assert_eq!(screen.ask(SessionCommand::SwitchInput("box".into())), Outcome::Told("box is on".into()));
    pipe.write().write_all(&[0x90, 1, 100]).expect("written");
    let is_held = |screen: &Screening| screen.engine.tiers.first().is_some_and(|tier| tier.held);
    // The controller goes, and what it held is let go.
    let let_go = |screen: &Screening| screen.inputs.events.iter().any(|line| line.asked == "let-pad-go 1");
    screen.wait("its end", |screen| let_go(screen) && !is_held(screen));
    let mut kept = pipe.write();
    kept.write_all(&[0x90, 1, 100]).expect("written");
    screen.wait("the flash", is_held);
    assert_eq!(screen.ask(SessionCommand::SwitchInput("box".into())), Outcome::Told("box is off".into()));
    screen.wait("its end", |screen| !is_held(screen));
    let gone = screen.ask(SessionCommand::SwitchInput("nobody".into()));
    assert!(matches!(&gone, Outcome::Nothing(why) if why.contains("it has box")), "{gone:?}");
    // It can be taken back as any edit.
    assert!(matches!(screen.ask(DocumentCommand::Undo), Outcome::Told(_)));
    screen.wait("it to be on again", |screen| state(screen, "box") != InputState::Off);
    assert_eq!(screen.edit(Edit::RemoveInput(0)), Outcome::Done);
    assert!(screen.document.kept().bindings.is_empty());
}

#[test]
fn music_and_keys_of_the_show_ask_for_commands() {
    let mut show = show();
    show.settings.tempo = 240.0;
    show.bindings = vec![bound("music", "bar", "count-forward"), bound("keys", "key F5", "set-blackout on")];
    let session = Running::of(show);
    let mut screen = session.screen();
    screen.wait("three bars", |screen| screen.engine.counts.forward >= 3);
    assert_eq!(screen.ask(SessionCommand::PressKey("F5".into())), Outcome::Done);
    screen.wait("blackout", |screen| screen.engine.blackout);
    assert!(matches!(screen.ask(SessionCommand::PressKey("F6".into())), Outcome::Nothing(_)));
}

/// The end of a pipe at which a controller reads.
struct Lamps {
    pipe: File,
    all: Vec<u8>,
}

impl Lamps {
    /// Reads until a message of three bytes has come.
    fn wait(&mut self, wanted: [u8; 3]) {
        let start = std::time::Instant::now();
        loop {
            if let Some(place) = self.all.windows(3).position(|message| message == wanted) {
                self.all.drain(..place + 3);
                return;
            }
            assert!(start.elapsed() < Duration::from_secs(60), "waited in vain for {wanted:02x?} in {:02x?}", self.all);
            let mut bytes = [0; 64];
            match self.pipe.read(&mut bytes) {
                Ok(count) => self.all.extend_from_slice(&bytes[..count]),
                Err(_) => std::thread::sleep(Duration::from_millis(5)),
            }
        }
    }
}

#[test]
fn a_controller_is_lit_its_faders_follow_and_values_leave_as_osc_and_midi() {
    use std::os::unix::fs::OpenOptionsExt;
    let (pipe, lit) = (Pipe::new(), Pipe::new());
    let socket = UdpSocket::bind("127.0.0.1:0").expect("a socket");
    socket.set_read_timeout(Some(Duration::from_secs(60))).expect("a socket");
    let to = socket.local_addr().expect("an address");
    let mut show = show();
    show.palette = vec![splimo_show::Swatch::new("Foam", &["#204080"])];
    show.inputs = vec![Input {
        controller: "quay-16".into(),
        feedback: lit.address(),
        ..on(Input::new("box", InputKind::Midi, &pipe.address()))
    }];
    let held =
        Binding { answer: Answer::Held, let_go: vec!["let-pad-go 2".into()], ..bound("box", "note 36", "hold-pad 2") };
    let armed = bound("box", "note 37", "fire-pad 3");
    show.banks[0].pads[2].plays.lands = Some(splimo_show::Boundary::Phrase);
    show.bindings = vec![held, armed, follows("box", "control 1", "master {}")];
    let out = |what: &str, to: String| ValueOut::new(what.parse().expect("a source"), to.parse().expect("a place"));
    show.values_out = vec![
        ValueOut { order: "bgr".into(), range: OutRange::Percent, ..out("colour Foam", format!("osc {to} /colour")) },
        out("master", "midi box control 40".to_owned()),
    ];
    let session = Running::of(show);
    let mut screen = session.screen();
    let flags = nix::fcntl::OFlag::O_NONBLOCK.bits();
    let pipe_back = OpenOptions::new().read(true).custom_flags(flags).open(&lit.path).expect("a pipe");
    let mut lamps = Lamps { pipe: pipe_back, all: Vec::new() };
    let mut controller = pipe.write();
    lamps.wait([0xb0, 1, 127]);
    lamps.wait([0xb0, 40, 127]);
    controller.write_all(&[0x90, 36, 100]).expect("written");
    lamps.wait([0x90, 36, 127]);
    controller.write_all(&[0x80, 36, 0, 0x90, 37, 100]).expect("written");
    lamps.wait([0x90, 37, 64]);
    screen.ask(EngineCommand::Go);
    lamps.wait([0x90, 37, 127]);
    screen.ask(EngineCommand::Master(50.0));
    lamps.wait([0xb0, 1, 64]);
    let mut bytes = [0; 256];
    let (count, _) = socket.recv_from(&mut bytes).expect("a colour");
    let colour = messages(&bytes[..count]).expect("a packet");
    let numbers: Vec<f64> = colour[0].arguments.iter().filter_map(Argument::number).map(f64::round).collect();
    assert_eq!((colour[0].address.as_str(), numbers), ("/colour", vec![50.0, 25.0, 13.0]));
}

#[test]
fn time_code_in_a_sound_and_in_midi_leads_and_its_seconds_are_events() {
    let (tape, cable) = (Pipe::new(), Pipe::new());
    let mut show = show();
    show.settings.sync_source = splimo_time::sync::SyncSource::TimeCode;
    show.inputs = vec![
        on(Input::new("tape", InputKind::Ltc, &format!("raw:{},48000,1,f32", tape.address()))),
        on(Input::new("cable", InputKind::Midi, &cable.address())),
    ];
    show.bindings = vec![bound("tape", "at 00:00:42", "master 30")];
    let session = Running::of(show);
    let mut screen = session.screen();
    let (mut writer, mut samples) = (splimo_wire::ltc::Writer::default(), Vec::new());
    for count in 41 * 25..44 * 25u32 {
        let time = [0, 0, (count / 25) as u8, (count % 25) as u8];
        writer.frame(splimo_wire::ltc::bits_of(time, false), 24.0, false, &mut samples);
    }
    let bytes: Vec<u8> = samples.iter().flat_map(|sample| sample.to_le_bytes()).collect();
    let path = tape.path.clone();
    let player = std::thread::spawn(move || {
        OpenOptions::new().write(true).open(path).expect("somebody reads").write_all(&bytes).expect("written");
    });
    screen.wait("the second to come", |screen| (screen.engine.master - 0.3).abs() < 0.01);
    screen.wait("it to lead", |screen| screen.engine.clock.source == splimo_time::tempo::ClockSource::TimeCode);
    player.join().expect("it was heard");
    // MIDI time code at 0:01:40, eight quarter frames at a time.
    let mut cable = cable.write();
    let start = std::time::Instant::now();
    let beat = |screen: &Screening| screen.engine.clock.beat;
    while !(190.0..230.0).contains(&beat(&screen)) {
        assert!(start.elapsed() < Duration::from_secs(60), "it does not lead: {:?}", screen.engine.clock);
        let time = 100.0 + start.elapsed().as_secs_f64();
        for piece in 0..8 {
            cable.write_all(&[0xf1, splimo_wire::midi::time_code::quarter_of(time, piece)]).expect("written");
        }
        screen.look(Duration::from_millis(80));
    }
}

#[test]
fn programs_are_started_where_this_machine_lets_them_and_never_from_the_network_unless_said_twice() {
    let folder = tempfile::tempdir().expect("a folder");
    let mark = folder.path().join("started");
    let address = SocketAddr::from(([127, 93, 2, 9], 9097));
    let mut show = show();
    show.name = format!("Programs {}", std::process::id());
    let program = |name: &str, command: &[&str]| Program {
        name: name.into(),
        command: command.iter().map(|&word| word.to_owned()).collect(),
        sound: String::new(),
    };
    let mark_text = mark.display().to_string();
    show.programs = vec![program("mark", &["touch", &mark_text]), program("wait", &["sleep", "600"])];
    show.inputs = vec![on(Input::new("osc", InputKind::Osc, &address.to_string()))];
    let session = Running::of(show);
    let mut screen = session.screen();
    let run = |name: &str| SessionCommand::Run(name.into());
    let refused = |outcome: Outcome, words: &str| {
        assert!(matches!(&outcome, Outcome::Refused(why) if why.contains(words)), "{outcome:?}")
    };
    refused(screen.ask(run("mark")), "may not be started on this machine");
    assert!(matches!(screen.ask(run("nobody")), Outcome::Nothing(_)));
    assert!(matches!(screen.ask(SessionCommand::AllowPrograms("on".into())), Outcome::Told(_)));
    let socket = UdpSocket::bind("127.0.0.1:0").expect("a socket");
    let packet = emit("/splimo/run", &[Argument::Text("mark".into())]).expect("a packet");
    socket.send_to(&packet, address).expect("sent");
    screen.wait("the network to be refused", |screen| {
        screen.said.iter().any(|said| said.contains("the network may not"))
    });
    assert!(!mark.exists());
    assert!(matches!(screen.ask(run("wait")), Outcome::Told(_)));
    assert!(matches!(screen.ask(SessionCommand::EndRun("wait".into())), Outcome::Told(_)));
    assert!(matches!(screen.ask(SessionCommand::EndRun("wait".into())), Outcome::Nothing(_)));
    refused(screen.ask(SessionCommand::AllowPrograms("network".into())), "once more");
    assert!(matches!(screen.ask(SessionCommand::AllowPrograms("network".into())), Outcome::Told(_)));
    socket.send_to(&packet, address).expect("sent");
    let start = std::time::Instant::now();
    while !mark.exists() {
        assert!(start.elapsed() < Duration::from_secs(60), "it was not started: {:?}", screen.said);
        screen.look(Duration::from_millis(20));
    }
    assert!(matches!(screen.ask(SessionCommand::AllowPrograms("off".into())), Outcome::Told(_)));
    refused(screen.ask(run("mark")), "may not be started");
}

#[test]
fn lines_and_a_midi_file_come_in_as_if_somebody_sent_them() {
    let (lines, folder) = (Pipe::new(), tempfile::tempdir().expect("a folder"));
    // A note after half a second, and its end.
    let track = [0x60u8, 0x90, 60, 100, 0x10, 0x80, 60, 0, 0, 0xff, 0x2f, 0];
    let mut file = b"MThd\0\0\0\x06\0\0\0\x01\0\x60MTrk\0\0\0".to_vec();
    file.push(track.len() as u8);
    file.extend(track);
    let song = folder.path().join("song.mid");
    std::fs::write(&song, file).expect("written");
    let mut show = show();
    show.inputs = vec![
        on(Input::new("pipe", InputKind::Lines, &lines.address())),
        on(Input::new("song", InputKind::Midi, &song.display().to_string())),
    ];
    show.bindings = vec![bound("song", "note 60", "fire-look top/Gale")];
    let session = Running::of(show);
    let mut screen = session.screen();
    lines.write().write_all(b"# a comment\nmaster 25\ndance\n\nspeed 0.5\n").expect("written");
    screen.wait("both lines", |screen| screen.engine.master == 0.25 && screen.engine.speed == 0.5);
    screen.wait("the note", |screen| on_tier(screen, 1) == Some(1));
    screen.wait("what is no command to be counted", |screen| {
        screen.inputs.inputs.iter().any(|one| one.input.name == "pipe" && one.malformed == 1)
    });
}

#[test]
fn a_flood_of_events_delays_nobody_and_loses_no_release() {
    let pipe = Pipe::new();
    let mut show = show();
    show.inputs = vec![on(Input::new("box", InputKind::Midi, &pipe.address()))];
    show.banks[0].pads[1].plays.mode = Some(splimo_show::PadMode::Flash);
    let held =
        Binding { answer: Answer::Held, let_go: vec!["let-pad-go 2".into()], ..bound("box", "note 1", "hold-pad 2") };
    show.bindings = vec![held, follows("box", "control 7", "master {}")];
    let session = Running::of(show);
    let mut screen = session.screen();
    let mut controller = pipe.write();
    let mut flood = Vec::new();
    for n in 0..20_000u32 {
        flood.extend([0xb0, 7, (n % 128) as u8]);
        if n % 2000 == 0 {
            flood.extend([0x90, 1, 100]);
        }
        if n % 2000 == 1000 {
            flood.extend([0x80, 1, 0]);
        }
    }
    flood.extend([0xb0, 7, 127, 0x90, 1, 90, 0x80, 1, 0]);
    controller.write_all(&flood).expect("written");
    controller.write_all(&[0xb0, 7, 64]).expect("written");
    screen.wait("the last value", |screen| (screen.engine.master - 0.5039).abs() < 0.001);
    screen.wait("the last release", |screen| !screen.engine.tiers[0].held);
    assert!(session.runtime.troubles().list().iter().all(|trouble| trouble.subject != "engine"));
}
