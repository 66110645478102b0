use super::*;
use crate::check;
use splimo_show::{Look, Repeat, Show, Span};

fn demo() -> Show {
    crate::file::read(include_str!("../../../../shows/lantern-quay.splimo")).expect("a good show").show
}

#[test]
fn variations_are_right_and_differ_and_come_again() {
    let show = demo();
    for (place, look) in show.looks.iter().enumerate() {
        let varied: Vec<Look> = (0..8).map(|seed| variation(look, &show.palette, seed)).collect();
        assert_eq!(varied[3], variation(look, &show.palette, 3));
        let different = (1..8).filter(|&i| varied[i] != varied[0]).count();
        assert!(different > 5 || look.layers.iter().all(|l| l.effect == "still"), "{}", look.name);
        for (seed, varied) in varied.into_iter().enumerate() {
            let mut show = show.clone();
            show.looks[place] = varied;
            let wrong = check::structure(&show);
            assert!(wrong.is_empty(), "{} by seed {seed}: {}", look.name, wrong[0]);
        }
    }
}

#[test]
fn colour_motion_and_place_are_copied_by_themselves() {
    let mut from = Layer::new("gradient");
    from.params.insert("colours".into(), Param::List(vec!["#112233".into()]));
    from.params.insert("speed".into(), Param::Text("2 beats".into()));
    from.params.insert("form".into(), Param::Text("mirrored".into()));
    (from.span, from.repeat) = (Span::EachFixture, Repeat::Mirrored);
    let to = Layer::new("sweep");
    let colour = put_on(&to, &from, Property::Colour);
    assert_eq!(colour.params.keys().collect::<Vec<_>>(), ["colours"]);
    let motion = put_on(&to, &from, Property::Motion);
    assert_eq!((motion.params["speed"].clone(), motion.span), (Param::Text("2 beats".into()), Span::Canvas));
    let place = put_on(&to, &from, Property::Place);
    assert!(place.params.is_empty() && place.span == Span::EachFixture && place.repeat == Repeat::Mirrored);
    assert_eq!(put_on(&to, &from, Property::Whole), from);
}

#[test]
fn one_change_reaches_all_layers_that_take_it() {
    let mut look = Look::new("Bulk", ["gradient", "sparkle", "solid"].map(Layer::new).into());
    let speed = LayerChange::Param("speed".into(), Param::Text("8 bars".into()));
    assert_eq!(change_all(&mut look, None, &speed), 2);
    assert_eq!(change_all(&mut look, Some(&[0]), &LayerChange::Span(Span::Order)), 1);
    assert_eq!(look.layers.iter().map(|l| l.span).collect::<Vec<_>>(), [Span::Order, Span::Canvas, Span::Canvas]);
    let nonsense = LayerChange::Param("speed".into(), Param::Text("fast".into()));
    assert_eq!(change_all(&mut look, None, &nonsense), 0);
}

#[test]
fn every_area_is_known_by_its_name() {
    for (name, area) in AREAS {
        assert_eq!((area_named(name), name_of_area(area)), (Some(area), Some(name)));
    }
}
