//! The built-in profiles. Their names are made of what a cell has, `16` where its channels are coarse and fine, and what
//! the fixture as a whole has before its cells: `rgb`, `grbw 16`, `dimmer strobe + rgb`.

use super::{Channel, Curve, Extraction, Function, Power, Profile};

/// The kinds of cells, in the order in which they are offered.
const CELLS: [&str; 19] = [
    "rgb",
    "grb",
    "rbg",
    "gbr",
    "brg",
    "bgr",
    "rgbw",
    "grbw",
    "wrgb",
    "bgrw",
    "rgba",
    "rgbaw",
    "rgbwa",
    "rgbawuv",
    "rgb warm cool",
    "warm cool",
    "cool warm",
    "white",
    "dimmer",
];
/// The channels that a fixture can have before its cells.
const HEADS: [&str; 3] = ["dimmer", "strobe", "dimmer strobe"];
/// A light that points somewhere.
const MOVING_HEAD: &str = "moving head";

impl Profile {
    /// The names of the built-in profiles, the plain ones first.
    #[must_use]
    pub fn built_in_names() -> Vec<String> {
        let plain = CELLS.iter().map(|cell| (*cell).to_owned());
        let fine = CELLS.iter().map(|cell| format!("{cell} 16"));
        let coarse_and_fine: Vec<String> = plain.chain(fine).collect();
        let headed = HEADS.iter().flat_map(|head| coarse_and_fine.iter().map(move |cell| format!("{head} + {cell}")));
        let headed: Vec<String> = headed.collect();
        coarse_and_fine.into_iter().chain([MOVING_HEAD.to_owned()]).chain(headed).collect()
    }

    /// A built-in profile by its name.
    #[must_use]
    pub fn built_in(name: &str) -> Option<Self> {
        let channels = if name == MOVING_HEAD {
            moving_head()
        } else {
            let (head, cell) = name.split_once(" + ").map_or((None, name), |(head, cell)| (Some(head), cell));
            let (cell, wide) = cell.strip_suffix(" 16").map_or((cell, false), |cell| (cell, true));
            let cell = cell_functions(CELLS.iter().find(|known| **known == cell)?);
            let cell = cell.into_iter().map(|does| Channel { wide, ..Channel::new(does) });
            head_channels(head)?.into_iter().chain(cell).collect()
        };
        // A dimmer of its own is a lamp; everything else is LEDs.
        let lamp = name.contains("dimmer") && !name.contains('+');
        let curve = if lamp { Curve::Square } else { Curve::Linear };
        // Plain cells are nearly always pixels; of lamps and heads nobody knows what they take.
        let power = (!lamp && !name.contains('+') && name != MOVING_HEAD).then_some(Power::PIXEL);
        let white = Extraction::default();
        Some(Self { name: name.to_owned(), channels, curve, white, highlight: 1.0, power, swivel: None })
    }
}

fn head_channels(head: Option<&str>) -> Option<Vec<Channel>> {
    let Some(head) = head else { return Some(Vec::new()) };
    HEADS.contains(&head).then(|| {
        let does = |word: &str| if word == "dimmer" { Function::Dimmer } else { Function::Shutter };
        head.split(' ').map(|word| Channel { cell: 0, ..Channel::new(does(word)) }).collect()
    })
}

fn cell_functions(cell: &str) -> Vec<Function> {
    use Function::{Amber, Blue, CoolWhite, Dimmer, Green, Red, Uv, WarmWhite, White};
    match cell {
        "dimmer" => return vec![Dimmer],
        "white" => return vec![White],
        "warm cool" => return vec![WarmWhite, CoolWhite],
        "cool warm" => return vec![CoolWhite, WarmWhite],
        "rgb warm cool" => return vec![Red, Green, Blue, WarmWhite, CoolWhite],
        _ => {}
    }
    let (letters, uv) = cell.strip_suffix("uv").map_or((cell, None), |letters| (letters, Some(Uv)));
    let letter = |letter: char| match letter {
        'r' => Red,
        'g' => Green,
        'b' => Blue,
        'w' => White,
        _ => Amber,
    };
    letters.chars().map(letter).chain(uv).collect()
}

fn moving_head() -> Vec<Channel> {
    use Function::{Blue, Dimmer, Green, Pan, Red, Tilt, White};
    let whole = |does, wide| Channel { wide, cell: 0, ..Channel::new(does) };
    let colours = [Red, Green, Blue, White].map(Channel::new);
    [whole(Pan, true), whole(Tilt, true), whole(Dimmer, false)].into_iter().chain(colours).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::HashSet;

    #[test]
    fn every_name_has_a_profile_that_is_right_and_differs_from_the_others() {
        let names = Profile::built_in_names();
        let mut seen = HashSet::new();
        for name in &names {
            let profile = Profile::built_in(name).expect("it is built in");
            assert_eq!(profile.fault(), None, "{name}");
            assert!(seen.insert(format!("{:?}", profile.channels)), "{name} has the channels of another");
        }
        assert_eq!(names.len(), 19 * 2 * 4 + 1);
        for name in ["", "rgbx", "strobe dimmer + rgb", "rgb + rgb", "16", "rgb 16 16"] {
            assert_eq!(Profile::built_in(name), None, "{name}");
        }
    }

    #[test]
    fn layouts_count_slots() {
        let layout = |name: &str| {
            let layout = Profile::built_in(name).expect("built in").layout();
            (layout.head, layout.block, layout.cells, layout.tail)
        };
        assert_eq!(layout("rgb"), (0, 3, 1, 0));
        assert_eq!(layout("rgbawuv 16"), (0, 12, 1, 0));
        assert_eq!(layout("dimmer strobe + rgbw"), (2, 4, 1, 0));
        assert_eq!(layout("moving head"), (5, 4, 1, 0));
        assert_eq!(Profile::built_in("dimmer + rgb").expect("built in").layout().slots(12), 37);
    }

    #[test]
    fn letters_are_channels_in_order() {
        use Function::{Amber, Blue, Green, Red, Uv, White};
        let does = |name: &str| -> Vec<Function> {
            Profile::built_in(name).expect("built in").channels.iter().map(|c| c.does).collect()
        };
        assert_eq!(does("bgr"), [Blue, Green, Red]);
        assert_eq!(does("wrgb"), [White, Red, Green, Blue]);
        assert_eq!(does("rgbawuv"), [Red, Green, Blue, Amber, White, Uv]);
    }
}
