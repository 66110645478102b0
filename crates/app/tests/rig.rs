//! The view Rig in the real program: walls built by keys alone, and what then arrives at a node compared with the picture.

mod desk;

use std::collections::BTreeMap;
use std::net::{Ipv4Addr, UdpSocket};
use std::process::Command;
use std::time::{Duration, Instant};

use desk::{Desk, PATIENCE};
use nix::sys::signal::Signal;
use splimo_base::colour::to_screen;

/// A show in which nothing hangs yet, whose one look has another colour at every place, and whose universes go to a node.
fn empty_show(node: Ipv4Addr) -> String {
    format!(
        r##"version = 1
name = "Wall"
[settings]
dither = false
[[looks]]
name = "All colours"
[[looks.layers]]
effect = "gradient"
params = {{ colours = ["#ff0000", "#ffff00", "#00ff40", "#0040ff", "#ff00ff"], angle = 0.0 }}
[[looks.layers]]
effect = "gradient"
blend = "multiply"
params = {{ colours = ["#ffffff", "#404040"], angle = 90.0, form = "straight" }}
[[routes]]
name = "Box"
universes = "1-8"
protocol = "art-net"
first = 0
to = "{node}"
unchanged = "repeat"
"##
    )
}

/// An address for a node of this test's own.
fn address(number: u8) -> Ipv4Addr {
    let pid = std::process::id();
    Ipv4Addr::new(127, 77 + number, (pid / 250 % 250) as u8, (pid % 250 + 2) as u8)
}

/// The slots of each universe that arrive within a while, the last of each.
fn received(socket: &UdpSocket) -> BTreeMap<u16, Vec<u8>> {
    let mut universes = BTreeMap::new();
    let mut packet = [0; 2048];
    // What waited meanwhile is old.
    socket.set_nonblocking(true).expect("a socket");
    while socket.recv(&mut packet).is_ok() {}
    socket.set_nonblocking(false).expect("a socket");
    socket.set_read_timeout(Some(PATIENCE)).expect("a socket");
    let start = Instant::now();
    while start.elapsed() < Duration::from_millis(400) || universes.is_empty() {
        let length = socket.recv(&mut packet).expect("frames arrive");
        let data = splimo_wire::parse(&packet[..length]).expect("a frame");
        universes.insert(data.universe, data.slots.to_vec());
    }
    universes
}

/// The colours of the upper and the lower half of each character cell, where there are any.
fn picture(desk: &Desk) -> Vec<Vec<[Option<[u8; 3]>; 2]>> {
    let screen = desk.tmux(&["capture-pane", "-e", "-p", "-t", "desk"]);
    let mut colours: [Option<[u8; 3]>; 2] = [None, None];
    screen
        .lines()
        .map(|line| {
            let mut cells = Vec::new();
            let mut letters = line.chars();
            while let Some(letter) = letters.next() {
                if letter == '\u{1b}' {
                    let codes: String = letters.by_ref().skip(1).take_while(|c| !c.is_ascii_alphabetic()).collect();
                    follow(&codes, &mut colours);
                    continue;
                }
                cells.push(match letter {
                    '▀' => colours,
                    '▄' => [colours[1], colours[0]],
                    '█' => [colours[0]; 2],
                    ' ' => [colours[1]; 2],
                    _ => [None, None],
                });
            }
            cells
        })
        .collect()
}

/// Follows the colours of a control sequence (ECMA-48, SGR; colours as in ITU-T T.416).
fn follow(codes: &str, colours: &mut [Option<[u8; 3]>; 2]) {
    let numbers: Vec<u8> = codes.split([';', ':']).map(|n| n.parse().unwrap_or(0)).collect();
    let mut rest = numbers.as_slice();
    while let Some((&code, after)) = rest.split_first() {
        rest = match (code, after) {
            (38 | 48, [2, r, g, b, after @ ..]) => {
                colours[usize::from(code == 48)] = Some([*r, *g, *b]);
                after
            }
            (0, after) => {
                *colours = [None, None];
                after
            }
            (_, after) => after,
        };
    }
}

/// The colours of the lights on the canvas, as `columns` by `rows` of them fill it: each read in its middle.
fn lights(picture: &[Vec<[Option<[u8; 3]>; 2]>], columns: usize, rows: usize) -> Vec<Vec<[u8; 3]>> {
    let ground = Some([12, 14, 18]);
    let mut dots: BTreeMap<(usize, usize), [u8; 3]> = BTreeMap::new();
    // Right of the list, under the tabs and over the strips.
    for (y, line) in picture.iter().enumerate().take(39).skip(4) {
        for (x, halves) in line.iter().enumerate().skip(52) {
            for (half, colour) in halves.iter().enumerate() {
                if let Some(colour) = colour.filter(|c| Some(*c) != ground) {
                    dots.insert((x, 2 * y + half), colour);
                }
            }
        }
    }
    let span = |axis: fn(&(usize, usize)) -> usize| {
        let all = dots.keys().map(axis);
        (all.clone().min().unwrap_or(0), all.max().unwrap_or(0) + 1)
    };
    let ((left, right), (top, bottom)) = (span(|d| d.0), span(|d| d.1));
    let at = |from: usize, to: usize, place: usize, of: usize| from + (2 * place + 1) * (to - from) / (2 * of);
    let light = |column: usize, row: usize| {
        let dot = (at(left, right, column, columns), at(top, bottom, row, rows));
        *dots.get(&dot).unwrap_or_else(|| panic!("no light at {dot:?} of {left}-{right}, {top}-{bottom}"))
    };
    (0..rows).map(|row| (0..columns).map(|column| light(column, row)).collect()).collect()
}

/// True if what stands in three slots is what a dot of the picture shows, which has coarser colours.
fn agrees(slots: &[u8], dot: [u8; 3]) -> bool {
    let shown = to_screen([0, 1, 2].map(|c| f32::from(slots[c]) / 255.0)).map(|c| (c / 6 * 6).max(26));
    shown.iter().zip(dot).all(|(a, b)| a.abs_diff(b) <= 12)
}

/// Builds a wall from the empty show by keys alone; what arrives then has to be what the picture shows, light by light.
fn builds(name: &str, number: u8, keys: &[&str], columns: usize, rows: usize, place: fn(usize, usize) -> (u16, usize)) {
    assert!(keys.len() <= 20, "{} keys", keys.len());
    let node = address(number);
    let socket = UdpSocket::bind((node, 6454)).expect("a node's port");
    let desk = Desk::new(name);
    let path = desk.state.path().join("wall.splimo");
    std::fs::write(&path, empty_show(node)).expect("a show");
    desk.start("", "open wall.splimo");
    desk.wait("the empty rig", |s| s.contains("RIG") && s.contains("Nothing hangs here yet"));
    desk.keys(keys);
    desk.wait("the wall", |s| s.contains("added and chosen"));
    // The marks of what is chosen are not to hide a light.
    desk.keys(&["C-p"]);
    desk.wait("the palette", |s| s.contains("─ any action ─"));
    desk.tmux(&["send-keys", "-t", "desk", "-l", "choose-none"]);
    desk.keys(&["Enter"]);
    desk.wait("no marks", |s| !s.contains("chosen") && s.contains("all lights"));

    // The picture may be of the frame before; what stays different is wrong.
    let start = Instant::now();
    loop {
        let (universes, picture) = (received(&socket), picture(&desk));
        let lights = lights(&picture, columns, rows);
        let wrong = (0..columns).flat_map(|column| (0..rows).map(move |row| (column, row))).find(|&(column, row)| {
            let (universe, slot) = place(column, row);
            universes.get(&universe).is_none_or(|slots| !agrees(&slots[slot..slot + 3], lights[row][column]))
        });
        let Some((column, row)) = wrong else {
            let distinct: std::collections::BTreeSet<[u8; 3]> = lights.iter().flatten().copied().collect();
            assert!(distinct.len() > columns * rows / 4, "the picture tells places apart: {}", distinct.len());
            break;
        };
        let (universe, slot) = place(column, row);
        let is = universes.get(&universe).map(|slots| slots[slot..slot + 3].to_vec());
        assert!(
            start.elapsed() < PATIENCE,
            "column {column}, row {row}: {is:?} at {universe}/{slot} arrives, {:?} is shown",
            lights[row][column]
        );
    }
    desk.keys(&["C-s"]);
    desk.wait("the file", |s| s.contains("saved as wall.splimo"));
    desk.leave();
    let check = Command::new(env!("CARGO_BIN_EXE_splimo")).arg("check").arg(&path).output().expect("runs");
    assert!(check.status.success(), "{}", String::from_utf8_lossy(&check.stdout));
}

#[test]
fn a_wall_of_ten_tubes_of_sixteen_pixels() {
    let keys = ["a", "1", "0", "Down", "Down", "1", "6", "Down", "d", "Enter"];
    builds("tubes", 0, &keys, 10, 16, |tube, pixel| (0, tube * 48 + pixel * 3));
}

#[test]
fn a_grid_of_single_lights() {
    let keys = ["a", "2", "4", "x", "1", "8", "Enter"];
    // 170 lights of three channels fill a universe.
    let place = |column: usize, row: usize| {
        let light = row * 24 + column;
        ((light / 170) as u16, light % 170 * 3)
    };
    builds("grid", 1, &keys, 24, 18, place);
}

#[test]
fn work_comes_back_after_a_kill() {
    let desk = Desk::new("kill");
    let path = desk.state.path().join("night.splimo");
    desk.start("", "open night.splimo");
    desk.wait("an empty show", |s| s.contains("RIG") && s.contains("night"));
    desk.keys(&["a", "3", "Enter"]);
    desk.wait("three lights", |s| s.contains("Light 3") && s.contains("night *"));
    let autosave = desk.state.path().join("night.splimo.autosave");
    let start = Instant::now();
    while !std::fs::read_to_string(&autosave).is_ok_and(|text| text.contains("Light 3")) {
        assert!(start.elapsed() < PATIENCE, "no autosave");
        std::thread::sleep(Duration::from_millis(40));
    }
    desk.signal_session(Signal::SIGKILL);
    // The terminal is as the killed program left it: another takes its place.
    desk.sit_down_anew();
    desk.start("", "open night.splimo");
    desk.wait("the offer", |s| s.contains("work that was not saved") && s.contains("Enter keeps them"));
    desk.keys(&["Enter"]);
    desk.wait("the lights", |s| s.contains("Light 3") && s.contains("the work is back"));
    desk.keys(&["C-s"]);
    desk.wait("the file", |s| s.contains("saved as night.splimo"));
    // What is saved needs no autosave, and a question about what is not is asked.
    desk.keys(&["Down", "Down", "Delete"]);
    desk.wait("two lights", |s| s.contains("night *") && s.contains("2 fixtures"));
    desk.keys(&["C-q"]);
    desk.wait("the question", |s| s.contains("There are changes that are not saved."));
    desk.keys(&["Enter"]);
    desk.is_as_it_was(0);
    assert!(std::fs::read_to_string(&path).is_ok_and(|text| text.contains("Light 3")));
    assert!(!autosave.exists(), "they were left on purpose");
}

#[test]
fn patches_go_out_and_in_and_bad_ones_change_nothing() {
    let desk = Desk::new("csv");
    let folder = desk.state.path().to_owned();
    let ask = |keys: &str, path: &str| {
        desk.keys(&[keys]);
        desk.wait("the question", |s| s.contains("─ any action ─"));
        desk.tmux(&["send-keys", "-t", "desk", "-l", path]);
        desk.keys(&["Enter"]);
    };
    std::fs::write(folder.join("noise.csv"), b"name,profile,shape\nA,rgb,\xff\xfe\n").expect("writes");
    std::fs::write(folder.join("columns.csv"), "who,what\nA,rgb\n").expect("writes");
    let long = std::fs::File::create(folder.join("long.csv")).expect("a file");
    long.set_len(100 << 20).expect("a long file");
    std::fs::write(
        folder.join("some.csv"),
        "name,profile,shape,address\nBar,rgb,line 8,40.1\nBad,rgb,grid 1x100000,\n",
    )
    .expect("writes");
    desk.start("", "demo");
    desk.wait("the demo", |s| s.contains("PLAY"));
    desk.keys(&["F2"]);
    desk.wait("the rig", |s| s.contains("RIG") && s.contains("46 fixtures"));
    for (file, words) in [
        ("noise.csv", "line 2 is not UTF-8 text"),
        ("columns.csv", "there is no column \"who\""),
        ("long.csv", "are too many"),
        ("none.csv", "cannot be read"),
    ] {
        ask("I", file);
        desk.wait(words, |s| s.contains(words) && s.contains("46 fixtures") && !s.contains("Lantern Quay *"));
    }
    ask("O", "out.csv");
    desk.wait("the table", |s| s.contains("46 fixtures written to out.csv"));
    ask("I", "out.csv");
    desk.wait("a preview", |s| s.contains("0 new fixtures, 0 changed, 46 the same"));
    desk.keys(&["Enter"]);
    desk.wait("nothing new", |s| s.contains("nothing new in it") && !s.contains("Lantern Quay *"));
    ask("I", "some.csv");
    desk.wait("a preview", |s| s.contains("1 new fixtures") && s.contains("line 3: its shape has 100000 cells"));
    desk.keys(&["Enter"]);
    desk.wait("one more", |s| s.contains("47 fixtures"));
    desk.keys(&["C-z"]);
    desk.wait("it taken back", |s| s.contains("46 fixtures"));
    desk.leave();
}
