//! From the canvas to the slots: what a look says of a place is what stands at the address of the cell there.

use std::sync::Arc;

use proptest::prelude::*;
use splimo_document::file;
use splimo_engine::miniature::{Miniature, Raster};
use splimo_engine::{Engine, Inputs};
use splimo_light::rig::Rig;
use splimo_show::Show;
use splimo_time::music::Hearing;
use splimo_time::rate::Step;

/// A show of one look, which is red in the left half of the canvas and blue in the right, without dithering.
fn halves(fixtures: &str) -> Show {
    let text = format!(
        r##"
version = 1
name = "Halves"
[settings]
dither = false
[canvas]
width = 40.0
height = 20.0
{fixtures}
[[looks]]
name = "Halves"
[[looks.layers]]
effect = "gradient"
area = {{ width = 50.0 }}
params = {{ colours = ["#ff0000"] }}
[[looks.layers]]
effect = "gradient"
area = {{ x = 50.0, width = 50.0 }}
params = {{ colours = ["#0000ff"] }}
"##
    );
    file::read(&text).expect("a good show").show
}

fn slots(show: Show) -> (Vec<u8>, Arc<Rig>) {
    let mut engine = Engine::new(Arc::new(show));
    engine.cut_to(0);
    let slots = engine.tick(0.0, &Inputs::default()).slots.clone();
    (slots, engine.rig().clone())
}

#[test]
fn a_panel_that_turns_round_has_each_cell_at_its_address() {
    let (slots, rig) = slots(halves(
        r#"
[[fixtures]]
name = "Panel"
profile = "grb"
address = "3.10"
shape = { grid = { columns = 4, rows = 2 } }
wiring = { start = "top left", along = "rows", turns = true }
x = 20.0
y = 10.0
"#,
    ));
    assert_eq!(rig.universes, [3]);
    // Green, red, blue: along the first row red red blue blue, and back along the second blue blue red red.
    let (red, blue) = ([0, 255, 0], [0, 0, 255]);
    let wanted: Vec<u8> = [red, red, blue, blue, blue, blue, red, red].concat();
    assert_eq!(slots[9..9 + 24], wanted);
    assert!(slots[..9].iter().chain(&slots[33..]).all(|&v| v == 0), "nothing else is touched");
}

#[test]
fn a_cell_goes_whole_to_the_next_universe() {
    let (slots, rig) = slots(halves(
        r#"
[[fixtures]]
name = "Bar"
profile = "rgbw"
address = "1.507"
shape = { line = { cells = 4 } }
x = 20.0
y = 10.0
"#,
    ));
    assert_eq!(rig.universes, [1, 2]);
    assert_eq!(slots[506..512], [255, 0, 0, 0, 0, 0]);
    assert_eq!(slots[512..524], [255, 0, 0, 0, 0, 0, 255, 0, 0, 0, 255, 0]);
}

#[test]
fn a_dimmer_follows_the_strongest_colour_by_its_square_law() {
    let mut show = halves(
        r#"
[[fixtures]]
name = "Lamp"
profile = "dimmer"
address = "1.1"
shape = { line = { cells = 2 } }
x = 20.0
y = 10.0
"#,
    );
    for layer in &mut show.looks[0].layers {
        layer.opacity = 0.26;
    }
    assert_eq!(slots(show).0[..3], [130, 130, 0]);
}

#[test]
fn a_miniature_shows_the_look_on_the_rig_itself() {
    let show = halves(
        r#"
[[fixtures]]
name = "Panel"
profile = "rgb"
shape = { grid = { columns = 40, rows = 10 } }
x = 20.0
y = 10.0
"#,
    );
    let rig = Rig::compile(&show);
    let raster = Raster::new(&rig, 8, 2);
    let mut miniature = Miniature::new(&show.looks[0], &show, &rig, &raster, &mut Default::default());
    let hearing = Hearing::SILENCE;
    let moment = splimo_light::effect::Moment::at(0.0, 0.0, Step::default(), &hearing);
    let mut cells = vec![[-1.0; 3]; 16];
    miniature.draw(&moment, &raster, &mut cells);
    for (index, cell) in cells.iter().enumerate() {
        let wanted = if index % 8 < 4 { [1.0, 0.0, 0.0] } else { [0.0, 0.0, 1.0] };
        assert!(
            cell.iter().zip(wanted).all(|(is, wanted): (&f32, f32)| (is - wanted).abs() < 1e-3),
            "cell {index}: {cell:?}"
        );
    }
}

/// A bar of `cells` lights across both halves, with more fields of its own.
fn bar(profile: &str, address: &str, cells: u32, more: &str) -> String {
    format!(
        "[[fixtures]]\nname = \"Bar\"\nprofile = \"{profile}\"\naddress = \"{address}\"\nx = 20.0\ny = 10.0\n\
         shape = {{ line = {{ cells = {cells} }} }}\n{more}\n"
    )
}

#[test]
fn a_cell_that_may_be_split_runs_on_into_the_next_universe() {
    let (slots, rig) = slots(halves(&bar("rgbw", "1.507", 4, "split = true")));
    assert_eq!(rig.universes, [1, 2]);
    assert_eq!(slots[506..522], [255, 0, 0, 0, 255, 0, 0, 0, 0, 0, 255, 0, 0, 0, 255, 0]);
}

#[test]
fn pixels_that_are_skipped_take_channels_and_stay_dark() {
    let (slots, _) = slots(halves(&bar("rgb", "1.1", 4, "wiring = { skip = [1, 4] }")));
    let (dark, red, blue) = ([0, 0, 0], [255, 0, 0], [0, 0, 255]);
    assert_eq!(slots[..18], [dark, red, red, dark, blue, blue].concat());
    let reversed = slots_of(&bar("rgb", "1.1", 4, "wiring = { reversed = true, along = \"columns\", gap = 1 }"));
    assert_eq!(reversed[..21], [blue, dark, blue, dark, red, dark, red].concat());
}

fn slots_of(fixtures: &str) -> Vec<u8> {
    slots(halves(fixtures)).0
}

#[test]
fn a_bar_with_a_master_has_it_at_full_before_its_cells() {
    let slots = slots_of(&bar("dimmer strobe + grb 16", "1.1", 2, ""));
    assert_eq!(slots[..14], [255, 255, 0, 0, 255, 255, 0, 0, 0, 0, 0, 0, 255, 255]);
}

#[test]
fn a_moving_head_points_where_it_was_told_to() {
    let slots = slots_of(&bar("moving head", "1.11", 2, "pan = 25.0\ntilt = 0.0"));
    assert_eq!(slots[10..23], [0x40, 0, 0, 0, 255, 255, 0, 0, 0, 0, 0, 255, 0]);
}

#[test]
fn cells_that_are_interleaved_have_each_its_own_colour() {
    let profile = r#"
[[profiles]]
name = "pair"
channels = ["red", { does = "red", cell = 2 }, "blue", { does = "blue", cell = 2 }, { does = "fixed", default = 7 }]
"#;
    // The middle of four cells lies between the halves: red red blue blue.
    let slots = slots_of(&format!("{profile}{}", bar("pair", "1.1", 4, "")));
    assert_eq!(slots[..10], [255, 255, 0, 0, 7, 0, 0, 255, 255, 7]);
}

#[test]
fn shapes_of_every_kind_are_lit_at_their_places() {
    for shape in [
        "ring = { cells = 24 }",
        "arc = { cells = 24, degrees = 270.0 }",
        "cone = { strings = 6, cells = 5, degrees = 200.0, width = 9.0 }",
        "cone = { strings = 6, cells = 5, degrees = 200.0, width = 9.0, unrolled = true }",
        "points = { at = [[-3.0, 0.0], [2.0, 4.0], [5.0, -1.0]] }",
    ] {
        for more in ["", "angle = 33.0", "mirror = true", "pitch = 0.5\nangle = 200.0"] {
            let text = bar("rgb", "1.1", 1, more).replace("line = { cells = 1 }", shape);
            // A second light far off on each side keeps the middle where it is.
            let ends = "[[fixtures]]\nname = \"Ends\"\nprofile = \"rgb\"\nshape = { line = { cells = 40 } }\nx = 20.0\ny = 19.0\n";
            let (slots, rig) = slots(halves(&format!("{text}{ends}")));
            for led in rig.fixtures[0].leds() {
                let (x, _) = rig.position(led);
                if (x - 20.0).abs() > 0.6 {
                    let wanted = if x < 20.0 { [255, 0, 0] } else { [0, 0, 255] };
                    assert_eq!(slots[led * 3..led * 3 + 3], wanted, "{shape} {more}: LED {led} at {x}");
                }
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn every_cell_of_any_wiring_shows_its_half(
        columns in 1u32..30, rows in 1u32..12, corner in 0usize..4, along_columns: bool, turns: bool, angle in 0u32..4,
        channel in 1u16..=512,
    ) {
        let corner = ["top left", "top right", "bottom left", "bottom right"][corner];
        let along = if along_columns { "columns" } else { "rows" };
        let show = halves(&format!(
            "[[fixtures]]\nname = \"F\"\nprofile = \"rgb\"\naddress = \"5.{channel}\"\nx = 20.0\ny = 10.0\nangle = {}.0\n\
             shape = {{ grid = {{ columns = {columns}, rows = {rows} }} }}\n\
             wiring = {{ start = \"{corner}\", along = \"{along}\", turns = {turns} }}\n",
            angle * 90
        ));
        let (slots, rig) = slots(show);
        let patched = rig.fixtures[0];
        let mut universe = 0;
        let mut slot = usize::from(channel) - 1;
        let middle = 20.0;
        for led in patched.leds() {
            if slot + 3 > 512 {
                universe += 1;
                slot = 0;
            }
            // Universes without a cell have no slots.
            let at = (universe - usize::from(channel > 510)) * 512 + slot;
            let (x, _) = rig.position(led);
            if (x - middle).abs() > 0.4 {
                let wanted = if x < middle { [255, 0, 0] } else { [0, 0, 255] };
                prop_assert_eq!(&slots[at..at + 3], wanted, "LED {} at {}", led, x);
            }
            slot += 3;
        }
    }
}
