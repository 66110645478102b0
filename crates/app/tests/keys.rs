//! Keys at fifty a second on each view: none is lost, and none strikes another view.

mod desk;

use std::time::{Duration, Instant};

use desk::Desk;
use splimo_document::file;
use splimo_show::Show;

/// Keys a second.
const RATE: f64 = 50.0;

/// A view, the keys that move something on it up and down, and where that is seen.
struct Moving {
    view: &'static str,
    first: &'static [&'static str],
    up: &'static str,
    down: &'static str,
    /// The place in a screen, counted in presses.
    place: fn(&str, &Show) -> Option<i32>,
    /// The places that there are.
    from: i32,
    to: i32,
}

fn number_after(screen: &str, words: &str) -> Option<i32> {
    let rest = screen.split(words).nth(1)?.trim_start();
    rest.split(|c: char| !c.is_ascii_digit() && c != '-' && c != '+').next()?.parse().ok()
}

fn moving() -> [Moving; 5] {
    let fixture = |screen: &str, show: &Show| {
        let name: String = screen.split("▸▌").nth(1)?.chars().take(16).collect();
        show.fixtures.iter().position(|fixture| fixture.name == name.trim()).map(|place| place as i32)
    };
    let look = |screen: &str, show: &Show| {
        let rest = screen.split("layers of ").nth(1)?;
        show.looks.iter().rposition(|look| rest.starts_with(&look.name)).map(|place| place as i32)
    };
    [
        Moving { view: "F2", first: &["Down"], up: "Down", down: "Up", place: fixture, from: 0, to: 43 },
        Moving {
            view: "F3",
            first: &["Tab", "Tab"],
            up: "Right",
            down: "Left",
            place: |screen, _| number_after(screen, " slot "),
            from: 1,
            to: 512,
        },
        Moving { view: "F4", first: &[], up: "Down", down: "Up", place: look, from: 0, to: 20 },
        Moving {
            view: "F6",
            first: &[],
            up: "=",
            down: "-",
            place: |screen, _| number_after(screen, "master ").map(|percent| percent / 5),
            from: 0,
            to: 20,
        },
        Moving {
            view: "F7",
            first: &[],
            up: "Up",
            down: "Down",
            place: |screen, _| number_after(screen, "gain "),
            from: -12,
            to: 12,
        },
    ]
}

/// Numbers that look like chance and are the same each time (xorshift; G. Marsaglia, "Xorshift RNGs", 2003).
struct Chance(u64);

impl Chance {
    fn yes(&mut self) -> bool {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        self.0 & 1 == 1
    }
}

/// The time that keys are typed on each view: a few seconds, or as `SPLIMO_KEYS_SECONDS` says.
fn seconds() -> f64 {
    std::env::var("SPLIMO_KEYS_SECONDS").ok().and_then(|text| text.parse().ok()).unwrap_or(4.0)
}

#[test]
fn fifty_keys_a_second_are_all_done_on_the_view_they_are_for() {
    let desk = Desk::new("keys");
    let show = file::read(include_str!("../../../shows/lantern-quay.splimo")).expect("a good show").show;
    desk.start("", "demo");
    desk.wait("the demo", |s| s.contains("PLAY") && s.contains("master 100"));
    let moving = moving();
    let mut places = Vec::new();
    for Moving { view, first, up, down, place, from, to } in &moving {
        desk.keys(&[view]);
        desk.keys(first);
        let screen = desk.wait("a place", |s| place(s, &show).is_some());
        let begun = place(&screen, &show).expect("it was there");
        let (mut at, mut chance) = (begun, Chance(0x9e37_79b9_7f4a_7c15));
        let (start, mut pressed) = (Instant::now(), 0.0);
        while start.elapsed().as_secs_f64() < seconds() {
            let upwards = if at >= *to { false } else { at <= *from || chance.yes() };
            desk.keys(&[if upwards { up } else { down }]);
            at += if upwards { 1 } else { -1 };
            pressed += 1.0;
            let due = Duration::from_secs_f64(pressed / RATE);
            std::thread::sleep(due.saturating_sub(start.elapsed()));
        }
        desk.wait(&format!("{view}: place {at} after {pressed} keys from {begun}"), |s| place(s, &show) == Some(at));
        // And back to where it began, in one breath.
        let back = vec![if at > begun { *down } else { *up }; at.abs_diff(begun) as usize];
        if !back.is_empty() {
            desk.tmux(&[["send-keys", "-t", "desk"].as_slice(), &back].concat());
        }
        desk.wait(&format!("{view}: back at {begun}"), |s| place(s, &show) == Some(begun));
        places.push(begun);
    }
    // From view to view without waiting: each key is for the view that was asked for before it. Away from the place and back.
    for round in 0..20 {
        let away = round % 2 == 0;
        let keys = moving.iter().zip(&places).flat_map(|(m, place)| {
            let upwards = (*place < m.to) == away;
            [m.view, if upwards { m.up } else { m.down }]
        });
        let keys: Vec<&str> = keys.collect();
        desk.tmux(&[["send-keys", "-t", "desk"].as_slice(), &keys].concat());
        if round == 18 {
            for (m, place) in moving.iter().zip(&places) {
                let away = if *place < m.to { place + 1 } else { place - 1 };
                desk.keys(&[m.view]);
                desk.wait(&format!("{}: {away}", m.view), |s| (m.place)(s, &show) == Some(away));
            }
        }
    }
    desk.keys(&["F6"]);
    let screen = desk.wait("Play", |s| s.contains("PLAY") && s.contains("master 100"));
    assert!(!screen.contains('⟨') && !screen.contains("Lantern Quay *"), "a key struck another view:\n{screen}");
    desk.leave();
}
