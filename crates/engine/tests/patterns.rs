//! Patterns as light: golden frames of every shape, lane and order, and the same light whatever the frame rate.

use proptest::prelude::*;

use splimo_document::file;
use splimo_engine::{Maps, Player, SCRATCH};
use splimo_light::effect::Moment;
use splimo_light::rig::Rig;
use splimo_show::{EventShape, Fixture, Group, LaneKind, Repeat, Shape, Show, Span};
use splimo_time::music::Hearing;
use splimo_time::rate::Step;

/// Two bars of eight lights, a look that is half red, and a pattern of two bars with one lane.
fn show(lane: &str) -> Show {
    let text = format!(
        "version = 1\nname = \"Pattern\"\npalette = [{{ name = \"Dusk\", colours = [\"#ff0000\", \"#0000ff\"] }}]\n\
         [[looks]]\nname = \"Pattern\"\n[looks.pattern]\nbars = 2\n[[looks.pattern.lanes]]\n{lane}\n\
         [[looks]]\nname = \"Red\"\n[[looks.layers]]\neffect = \"solid\"\nparams = {{ colours = [\"#bc0000\"] }}\n"
    );
    let mut show = file::read(&text).unwrap_or_else(|why| panic!("{text}: {why}")).show;
    let bar = |name: &str, y: f32| Fixture::new(name, "rgb", Shape::Line { cells: 8 }).at(5.0, y);
    show.fixtures = vec![bar("Low", 20.0), bar("High", 10.0)];
    let group = |name: &str, member: &str| Group { name: name.into(), members: vec![member.into()], colour: None };
    show.groups = vec![group("Under", "Low"), group("Over", "High")];
    show
}

/// The light at a place in beats after frames of a rate at 120 beats a minute, or at once where it is 0.
fn light(show: &Show, at: f64, rate: f64) -> Vec<[f32; 4]> {
    let rig = Rig::compile(show);
    let mut player = Player::compile(&show.looks[0], show, &rig, &mut Maps::default());
    let silence = Hearing::SILENCE;
    player.begin(0.0);
    let mut beat = 0.0;
    while rate > 0.0 && beat < at {
        let step = Step { seconds: 1.0 / rate, beats: 2.0 / rate };
        player.advance(&Moment::at(beat / 2.0, beat, step, &silence));
        beat += step.beats;
    }
    player.advance(&Moment::at(at / 2.0, at, Step::default(), &silence));
    let mut light = vec![[0.0; 4]; rig.len()];
    player.light(0, &mut light, &mut vec![[0.0; 4]; SCRATCH]);
    light
}

/// Light as text: two hexadecimal digits for red, green, blue and cover, the bars one below the other.
fn golden(light: &[[f32; 4]]) -> String {
    let part = |part: f32| (part * 255.0).round().clamp(0.0, 255.0) as u8;
    let cell = |light: &[f32; 4]| light.iter().map(|one| format!("{:02x}", part(*one))).collect::<String>();
    light.chunks(8).map(|bar| bar.iter().map(cell).collect::<Vec<_>>().join(" ")).collect::<Vec<_>>().join("\n")
}

fn frames(lane: &str, places: &[f64]) -> String {
    let show = show(lane);
    let frame = |at: &f64| format!("beat {at}\n{}", golden(&light(&show, *at, 0.0)));
    format!("{lane}\n\n{}", places.iter().map(frame).collect::<Vec<_>>().join("\n\n"))
}

#[test]
fn every_event_shape_has_its_golden_frames() {
    for shape in EventShape::ALL {
        let lane = format!(
            "of = \"level\"\nrest = 10.0\nlater = \"1/16\"\nevents = [{{ at = 0, length = 2, level = 80.0, shape = \"{shape}\", curve = [0.0, 100.0, 30.0] }}]"
        );
        insta::assert_snapshot!(format!("shape {shape}"), frames(&lane, &[0.0, 0.5, 1.0, 2.75, 8.5]));
    }
}

#[test]
fn every_lane_has_its_golden_frames() {
    for kind in LaneKind::ALL {
        let events = match kind {
            LaneKind::Level => {
                "{ at = 0, length = 1, level = 60.0 }, { at = 1, length = 1, level = 20.0, shape = \"up\" }"
            }
            LaneKind::Colour => {
                "{ at = 0, length = 1, colour = \"#00ff00\", fades = true }, { at = 1, length = 1, colour = \"{Dusk}\" }"
            }
            LaneKind::Look => "{ at = 0, length = 1, look = \"Red\" }",
            LaneKind::Strobe => "{ at = 0, length = 2, rate = 4.0 }",
            LaneKind::Aim => continue,
        };
        let lane = format!("of = \"{kind}\"\nlights = [\"Over\"]\nevents = [{events}]");
        insta::assert_snapshot!(format!("lane {kind}"), frames(&lane, &[0.0, 0.3, 0.9, 1.5, 2.0, 8.3]));
    }
}

#[test]
fn every_order_has_its_golden_frames() {
    let orders = [Span::Order, Span::OrderInGroup, Span::OrderInFixture].into_iter();
    let ways = orders.flat_map(|order| Repeat::ALL.map(|turned| (order, turned, "")));
    for (order, turned, mixed) in ways.chain([(Span::Order, Repeat::Alike, "mixed = 7\n")]) {
        let lane = format!(
            "of = \"level\"\nrest = 0.0\nlater = \"1/16\"\norder = \"{}\"\nturned = \"{}\"\n{mixed}events = [{{ at = 0, length = 0.5 , level = 100.0 }}]",
            order.name(),
            turned.name()
        );
        let name = format!("order {} {} {}", order.name(), turned.name(), mixed.trim());
        insta::assert_snapshot!(name.trim().to_owned(), frames(&lane, &[0.5, 1.5, 3.0]));
    }
}

const LANES: [&str; 3] = [
    "of = \"level\"\nrest = 5.0\nlater = \"1/32\"\nevents = [{ at = 0, length = 0.5, level = 90.0, shape = \"pulse\" }, { at = 3, length = 2, level = 50.0, shape = \"decay\" }]",
    "of = \"colour\"\nlater = \"1/8t\"\nevents = [{ at = 0, length = 4, colour = \"rainbow\" }, { at = 4, length = 2, colour = \"{Dusk}\", fades = true }]",
    "of = \"strobe\"\nevents = [{ at = 1, length = 5, rate = 3.0 }]",
];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// A pattern looks the same at 30, 44 and 120 frames a second, and as if it had been played where one comes there at once.
    #[test]
    fn the_light_is_that_of_its_place_at_every_frame_rate(at in 0.0f64..40.0, lane in 0usize..3) {
        let show = show(LANES[lane]);
        let wanted = light(&show, at, 0.0);
        for rate in [30.0, 44.0, 120.0] {
            let found = light(&show, at, rate);
            let far = found.iter().zip(&wanted).flat_map(|(a, b)| a.iter().zip(b)).map(|(a, b)| (a - b).abs());
            let far = far.fold(0.0, f32::max);
            prop_assert!(far < 1e-5, "{} at {rate}: {far}", LANES[lane]);
        }
    }
}
