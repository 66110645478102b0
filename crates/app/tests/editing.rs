//! The show is edited while it plays: what leaves for the network before, at and after the change.

use std::collections::BTreeMap;
use std::net::{Ipv4Addr, UdpSocket};
use std::sync::Arc;
use std::time::{Duration, Instant};

use splimo_document::file;
use splimo_runtime::Runtime;
use splimo_runtime::sound::SoundSource;
use splimo_show::LightTest;
use splimo_show::Show;
use splimo_show::command::EngineCommand;

const PATIENCE: Duration = Duration::from_secs(60);

fn show(node: Ipv4Addr) -> Show {
    let text = format!(
        r##"
version = 1
name = "Editing"
[[fixtures]]
name = "Bar"
profile = "rgb"
address = "1.1"
shape = {{ line = {{ cells = 4 }} }}
x = 10.0
y = 10.0
[[fixtures]]
name = "Panel"
profile = "rgb"
address = "3.1"
shape = {{ grid = {{ columns = 4, rows = 4 }} }}
x = 30.0
y = 10.0
[[looks]]
name = "White"
[[looks.layers]]
effect = "gradient"
params = {{ colours = ["#ffffff"] }}
[[routes]]
name = "Box"
universes = "1-8"
protocol = "sacn"
first = 1
to = "{node}"
unchanged = "repeat"
"##
    );
    file::read(&text).expect("a good show").show
}

/// The frames of a universe that arrived.
#[derive(Debug, Default, Clone)]
struct Seen {
    sequences: Vec<u8>,
    terminated: usize,
    slots: Vec<u8>,
}

/// Receives until what has arrived is as wanted.
fn receive(
    socket: &UdpSocket,
    seen: &mut BTreeMap<u16, Seen>,
    what: &str,
    wanted: impl Fn(&BTreeMap<u16, Seen>) -> bool,
) {
    let mut packet = [0; 2048];
    let start = Instant::now();
    while !wanted(seen) {
        assert!(start.elapsed() < PATIENCE, "waited in vain for {what}: {:?}", seen.keys());
        let Ok(length) = socket.recv(&mut packet) else { continue };
        let data = splimo_wire::parse(&packet[..length]).expect("a frame");
        let universe = seen.entry(data.universe).or_default();
        universe.sequences.push(data.sequence);
        universe.terminated += usize::from(data.terminated);
        universe.slots = data.slots.to_vec();
    }
}

#[test]
fn streams_begin_stay_and_end_as_the_patch_says() {
    let pid = std::process::id();
    let node = Ipv4Addr::new(127, 81, (pid / 250 % 250) as u8, (pid % 250 + 2) as u8);
    let socket = UdpSocket::bind((node, 5568)).expect("a node's port");
    socket.set_read_timeout(Some(Duration::from_millis(200))).expect("a socket");
    let before = Arc::new(show(node));
    let (runtime, mut outlook) = Runtime::start(&before, SoundSource::Silence).expect("it starts");
    runtime.cut_to(0);
    let mut seen = BTreeMap::new();
    receive(&socket, &mut seen, "both universes", |s| {
        [1, 3].iter().all(|u| s.get(u).is_some_and(|seen| seen.slots[0] == 255))
    });

    // The bar goes to another universe, and another fixture joins the panel on its own.
    let mut after = Show::clone(&before);
    after.fixtures[0].address = "2.10".parse().ok();
    after.fixtures.push(splimo_show::Fixture {
        address: "3.101".parse().ok(),
        name: "New".into(),
        ..after.fixtures[0].clone()
    });
    runtime.go_over(7, Arc::new(after));
    receive(&socket, &mut seen, "the new universe and the end of the old", |s| {
        s.get(&2).is_some_and(|seen| seen.slots[9..21] == [255; 12])
            && s.get(&1).is_some_and(|seen| seen.terminated == 3)
    });
    receive(&socket, &mut seen, "the new fixture", |s| s[&3].slots[100..112] == [255; 12]);
    let gaps = seen[&3].sequences.windows(2).filter(|pair| pair[1] != pair[0].wrapping_add(1)).count();
    assert_eq!(gaps, 0, "the stream that stays goes on counting");
    assert_eq!(seen[&3].terminated, 0);

    // What a screen reads is of the new edition, whose show and rig it finds.
    let start = Instant::now();
    while outlook.published.read().snapshot.edition != 7 {
        assert!(start.elapsed() < PATIENCE, "no snapshot of the new edition");
        std::thread::sleep(Duration::from_millis(5));
    }
    let found = runtime.editions().get(7);
    assert_eq!((found.show.fixtures.len(), found.rig.len()), (3, 24));
    assert_eq!(outlook.published.read().light.len(), 24);

    // The lights can be proved at once, and the check has looked at the new show.
    runtime.apply(&EngineCommand::Test(LightTest::Walk { fixtures: vec![2], at: 3, speed: 0.0 }));
    receive(&socket, &mut seen, "the walking pixel", |s| {
        s[&3].slots[100..109] == [0; 9] && s[&3].slots[109..112] == [255; 3] && s[&3].slots[0] == 255
    });
    while runtime.editions().problems().iter().any(|p| p.message.contains("no route")) {
        assert!(start.elapsed() < PATIENCE);
        std::thread::sleep(Duration::from_millis(5));
    }
    assert_eq!(runtime.stop().universes, 2);
}

#[test]
fn an_edit_of_a_look_is_seen_and_leaves_rig_and_streams_alone() {
    let pid = std::process::id();
    let node = Ipv4Addr::new(127, 83, (pid / 250 % 250) as u8, (pid % 250 + 2) as u8);
    let socket = UdpSocket::bind((node, 5568)).expect("a node's port");
    socket.set_read_timeout(Some(Duration::from_millis(200))).expect("a socket");
    let before = Arc::new(show(node));
    let (runtime, _outlook) = Runtime::start(&before, SoundSource::Silence).expect("it starts");
    runtime.cut_to(0);
    let mut seen = BTreeMap::new();
    receive(&socket, &mut seen, "light", |s| s.get(&3).is_some_and(|seen| seen.slots[0] == 255));
    let rig = runtime.editions().newest().rig;
    let mut after = Show::clone(&before);
    after.looks[0].layers[0].opacity = 0.5;
    runtime.go_over(7, Arc::new(after));
    receive(&socket, &mut seen, "half of the light", |s| (100..160).contains(&s[&3].slots[0]));
    let newest = runtime.editions().newest();
    assert!(newest.number == 7 && Arc::ptr_eq(&newest.rig, &rig), "the rig is the same");
    let gaps = seen[&3].sequences.windows(2).filter(|pair| pair[1] != pair[0].wrapping_add(1)).count();
    assert_eq!((gaps, seen[&3].terminated), (0, 0));
    assert_eq!(runtime.stop().universes, 2);
}

#[test]
fn another_rate_is_kept_from_the_next_frame_on() {
    let pid = std::process::id();
    let node = Ipv4Addr::new(127, 82, (pid / 250 % 250) as u8, (pid % 250 + 2) as u8);
    let before = Arc::new(show(node));
    let (runtime, mut outlook) = Runtime::start(&before, SoundSource::Silence).expect("it starts");
    let mut after = Show::clone(&before);
    after.settings.rate = 10.0;
    runtime.go_over(7, Arc::new(after));
    let start = Instant::now();
    loop {
        let fps = outlook.output.read().fps;
        if (8.0..12.0).contains(&fps) {
            break;
        }
        assert!(start.elapsed() < PATIENCE, "{fps} frames a second");
        std::thread::sleep(Duration::from_millis(20));
    }
    runtime.stop();
}
