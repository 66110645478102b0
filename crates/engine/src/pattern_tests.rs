//! Patterns on the stage, on a clock that the tests turn: 120 beats a minute, 50 frames a second.

use std::sync::Arc;

use proptest::prelude::*;

use crate::{Engine, Inputs, Player, Published, SCRATCH};
use splimo_light::effect::Moment;
use splimo_light::rig::Rig;
use splimo_show::command::Command;
use splimo_show::command::Origin;
use splimo_show::{Cue, CueList, Fixture, Group, Shape, Show};
use splimo_time::music::Hearing;
use splimo_time::rate::Step;

/// A show of two bars of eight lights, with looks as the text of a file says.
fn show(looks: &str) -> Show {
    let bar = |name: &str, y: f32| Fixture::new(name, "rgb", Shape::Line { cells: 8 }).at(2.0, y);
    let mut show = Show::empty("Patterns");
    show.fixtures = vec![bar("Low", 10.0), bar("High", 20.0)];
    show.groups = vec![Group { name: "Both".into(), members: vec!["Low".into(), "High".into()], colour: None }];
    let looks = splimo_show::file::read_unchecked(&format!("version = 1\nname = \"Looks\"\n{looks}"))
        .expect("a good file")
        .looks;
    Show { looks, ..show }
}

/// The light of a look at a place in beats, as if it had been played from its beginning.
fn lit(show: &Show, at: f64) -> Vec<[f32; 4]> {
    let rig = Rig::compile(show);
    let mut player = Player::compile(&show.looks[0], show, &rig, &mut super::Maps::default());
    let silence = Hearing::SILENCE;
    player.begin(0.0);
    player.advance(&Moment::at(0.0, 0.0, Step::default(), &silence));
    player.advance(&Moment::at(at / 2.0, at, Step::default(), &silence));
    let mut light = vec![[0.0; 4]; rig.len()];
    player.light(0, &mut light, &mut vec![[0.0; 4]; SCRATCH]);
    light
}

fn red(light: &[[f32; 4]]) -> Vec<f32> {
    light.iter().map(|light| (light[0] * 1000.0).round() / 1000.0).collect()
}

const RUN: &str = r##"
[[looks]]
name = "Run"
[looks.pattern]
bars = 2
[[looks.pattern.lanes]]
of = "colour"
events = [{ at = 0, length = 8, colour = "#ffffff" }]
[[looks.pattern.lanes]]
of = "level"
later = "1/32"
rest = 0.0
events = [{ at = 0, length = 0.5, level = 100.0 }, { at = 4, length = 0.5, level = 100.0 }]
"##;

#[test]
fn a_run_is_four_lights_wide_and_goes_on_by_a_light_each_32nd() {
    let show = show(RUN);
    // After a beat the first has been on for its length of half a beat and is over; the eighth has just begun.
    let light = red(&lit(&show, 1.0));
    assert_eq!(light[4], 0.5, "{light:?}");
    assert_eq!(&light[5..8], [1.0, 1.0, 1.0]);
    assert_eq!((light[8], light[9]), (0.5, 0.0), "a light comes as the one before it is half there");
    let later = red(&lit(&show, 1.0 + 0.125));
    assert_eq!(later[5], 0.5);
    assert_eq!(&later[6..9], [1.0, 1.0, 1.0]);
}

#[test]
fn what_no_event_covers_is_as_below_or_at_rest() {
    let text = |rest: &str, level: f32| {
        format!(
            "[[looks]]\nname = \"Hits\"\n[looks.pattern]\nbars = 1\n[[looks.pattern.lanes]]\nof = \"level\"\nlights = [\"Low\"]\n{rest}\nevents = [{{ at = 1, length = 1, level = {level:?} }}]\n"
        )
    };
    let covers = |text: &str, at: f64| {
        let light = lit(&show(text), at);
        (light[0][3], light[8][3])
    };
    // Without light of its own it takes down what is below: darkness covers that as far as it is to go.
    assert_eq!(covers(&text("", 25.0), 0.5), (0.0, 0.0));
    assert_eq!(covers(&text("", 25.0), 1.5), (0.75, 0.0));
    assert_eq!(covers(&text("rest = 0.0", 100.0), 0.5), (1.0, 0.0));
    assert_eq!(covers(&text("rest = 0.0", 100.0), 1.5), (0.0, 0.0));
}

#[test]
fn colours_fade_looks_show_and_strobes_flash_on_their_lights() {
    let show = show(
        r##"
[[looks]]
name = "All"
[looks.pattern]
bars = 1
[[looks.pattern.lanes]]
of = "colour"
lights = ["Low"]
events = [{ at = 0, length = 2, colour = "#ff0000", fades = true }, { at = 2, length = 2, colour = "#0000ff" }]
[[looks.pattern.lanes]]
of = "look"
lights = ["High"]
events = [{ at = 1, length = 1, look = "White" }]
[[looks.pattern.lanes]]
of = "strobe"
events = [{ at = 3, length = 1, rate = 4.0 }]
[[looks]]
name = "White"
[[looks.layers]]
effect = "solid"
params = { colours = ["#ffffff"] }
"##,
    );
    let at = |place: f64| {
        let light = lit(&show, place);
        [light[0], light[8]].map(|light| light.map(|part| (part * 100.0).round() / 100.0))
    };
    assert_eq!(at(0.5), [[0.75, 0.0, 0.25, 1.0], [0.0; 4]]);
    assert_eq!(at(1.0), [[0.5, 0.0, 0.5, 1.0], [1.0; 4]]);
    assert_eq!(at(2.5), [[0.0, 0.0, 1.0, 1.0], [0.0; 4]]);
    // Four flashes a second at 120 beats a minute: each half beat one, and between them darkness.
    assert_eq!(at(3.1)[0], [0.0, 0.0, 1.0, 1.0]);
    assert_eq!(at(3.3), [[0.0, 0.0, 0.0, 1.0]; 2]);
}

#[test]
fn orders_go_from_the_middle_in_each_fixture_or_mixed() {
    let with = |more: &str| show(&RUN.replace("later = \"1/32\"", &format!("later = \"1/32\"\n{more}")));
    let light = red(&lit(&with("order = \"order in each fixture\""), 1.0));
    assert_eq!(light[..8], light[8..]);
    let light = red(&lit(&with("order = \"order in each fixture\"\nturned = \"mirrored\""), 0.25));
    assert_eq!(light[..8], [0.0, 0.5, 1.0, 1.0, 1.0, 1.0, 0.5, 0.0]);
    let light = red(&lit(&with("turned = \"reversed\""), 1.0));
    assert_eq!((light[11], light[7], light[6]), (0.5, 0.5, 0.0), "{light:?}");
    let (straight, mixed) = (red(&lit(&with(""), 1.0)), red(&lit(&with("mixed = 3"), 1.0)));
    let sorted = |mut light: Vec<f32>| {
        light.sort_by(f32::total_cmp);
        light
    };
    assert_ne!(straight, mixed);
    assert_eq!(sorted(straight), sorted(mixed));
}

struct Desk {
    engine: Engine,
    frames: u32,
}

impl Desk {
    fn new(show: Show) -> Self {
        let mut desk = Self { engine: Engine::new(Arc::new(show)), frames: 0 };
        desk.frame();
        desk
    }

    fn say(&mut self, text: &str) {
        let Ok(Command::Engine(command)) = text.parse::<Command>() else { panic!("{text} is for the engine") };
        self.engine.apply_from(&command, Origin::Screen(1), f64::from(self.frames) / 50.0);
    }

    fn frame(&mut self) -> Vec<f32> {
        self.engine.tick(f64::from(self.frames) / 50.0, &Inputs::default());
        self.frames += 1;
        red(&self.engine.frame().light)
    }

    fn beat(&self) -> f64 {
        self.engine.clock().beat()
    }
}

#[test]
fn a_tier_shows_it_in_step_with_the_bars_from_the_bar_that_it_came_in() {
    let mut show = show(RUN);
    show.settings.tempo = 120.0;
    let mut desk = Desk::new(show.clone());
    while desk.beat() < 9.0 {
        desk.frame();
    }
    desk.say("cut-to base/Run");
    let began = 8.0;
    for _ in 0..400 {
        let light = desk.frame();
        assert_eq!(light, red(&lit(&show, desk.beat() - began)), "at {}", desk.beat());
    }
}

#[test]
fn a_cue_goes_on_at_the_end_of_the_pattern_that_it_shows() {
    let mut show = show(&format!("{RUN}\n[[looks]]\nname = \"Dark\"\n"));
    (show.settings.tempo, show.settings.cue_back_fade) = (120.0, 0.0);
    let mut list = CueList::new("List");
    let cue = |number: &str, look: &str| Cue::of_look(number.parse().expect("a number"), "base", look);
    list.cues = vec![cue("1", "Run"), cue("2", "Dark")];
    list.cues[0].then = "at the end of a pattern".parse().expect("a good way");
    assert_eq!(list.cues[0].then.to_string(), "at the end of a pattern");
    show.cue_lists = vec![list];
    let mut desk = Desk::new(show);
    while desk.beat() < 5.0 {
        desk.frame();
    }
    desk.say("go-cue List");
    let at = |desk: &mut Desk| {
        let mut published = Published::default();
        desk.engine.publish(&mut published);
        published.snapshot.lists[0].at
    };
    // It began with the bar at 4, held for four beats, and has eight.
    while desk.beat() < 8.0 {
        desk.frame();
        assert_eq!(at(&mut desk), Some(0));
    }
    desk.say("pause-cues List");
    while desk.beat() < 12.5 {
        desk.frame();
    }
    assert_eq!(at(&mut desk), Some(0), "a list that is held does not go on");
    desk.say("pause-cues List");
    while at(&mut desk) == Some(0) {
        assert!(desk.beat() < 20.1, "{}", desk.beat());
        desk.frame();
    }
    assert!((20.0..20.05).contains(&desk.beat()), "with the frame of the bar: {}", desk.beat());
}

#[test]
fn half_and_double_speed_meet_on_the_bar_and_a_tempo_of_its_own_is_kept() {
    let with = |more: &str| show(&RUN.replace("bars = 2", &format!("bars = 2\n{more}")));
    for bar in [1.0, 2.0, 3.0] {
        let double = lit(&with("speed = 2.0"), 4.0 * bar);
        assert_eq!(double, lit(&show(RUN), 8.0 * bar));
        assert_eq!(lit(&with("speed = 0.5"), 8.0 * bar), lit(&show(RUN), 4.0 * bar));
    }
    // The clock of the tests has two beats a second; its own has one.
    assert_eq!(lit(&with("tempo = 60.0"), 6.0), lit(&with(""), 3.0));
    let once = lit(&with("once = true"), 8.2);
    assert!(once.iter().all(|light| light[0] == 0.0), "{once:?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// The lights of a run are as bright together at every moment while it is within them.
    #[test]
    fn a_gliding_run_is_as_bright_at_every_moment(at in 0.6f64..1.8, shape in 0usize..5) {
        let shape = splimo_show::EventShape::ALL[shape];
        let text = RUN.replace("level = 100.0 }, { at = 4", &format!("level = 100.0, shape = \"{shape}\" }}, {{ at = 4"));
        let show = show(&text);
        let sum = |at: f64| lit(&show, at).iter().map(|light| f64::from(light[0])).sum::<f64>();
        let (now, other) = (sum(at), sum(1.2));
        prop_assert!((now - other).abs() < 0.01 * other, "{now} {other}");
    }
}

const RAINBOW: &str = r##"
[[looks]]
name = "Rainbow"
[looks.pattern]
bars = 1
[[looks.pattern.lanes]]
of = "colour"
later = "1/8"
order = "order in each fixture"
events = [{ at = 0, length = 4, colour = "rainbow" }]
"##;

#[test]
fn a_gradient_runs_over_its_event_and_a_rainbow_climbs_along_each_fixture() {
    let show = show(RAINBOW);
    let lit = lit(&show, 4.0);
    // Eight lights an eighth of a bar apart: each hue once, from red backwards round the circle, the same on both bars.
    let hue = |light: &[f32; 4]| {
        let [r, g, b] = [light[0], light[1], light[2]];
        match (r > g && r > b, g > r && g > b) {
            (true, _) => 'r',
            (_, true) => 'g',
            _ => 'b',
        }
    };
    let hues: String = lit[..8].iter().map(hue).collect();
    assert_eq!(lit[..8], lit[8..16]);
    assert!(hues.starts_with('r') && hues.contains('g') && hues.contains('b'), "{hues}");
    assert!(hues.find('b') < hues.find('g'), "what comes later lies behind: {hues}");
    assert!(lit.iter().all(|light| light[3] > 0.999), "it covers what is below");
}
