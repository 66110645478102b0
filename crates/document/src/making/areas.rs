//! Areas that have a name.

use splimo_show::Area;

const fn area(x: f32, y: f32, width: f32, height: f32) -> Area {
    Area { x, y, width, height }
}

const THIRD: f32 = 100.0 / 3.0;

/// The areas that have a name.
pub const AREAS: [(&str, Area); 17] = [
    ("whole", Area::WHOLE),
    ("left half", area(0.0, 0.0, 50.0, 100.0)),
    ("right half", area(50.0, 0.0, 50.0, 100.0)),
    ("top half", area(0.0, 0.0, 100.0, 50.0)),
    ("bottom half", area(0.0, 50.0, 100.0, 50.0)),
    ("left third", area(0.0, 0.0, THIRD, 100.0)),
    ("middle third", area(THIRD, 0.0, THIRD, 100.0)),
    ("right third", area(2.0 * THIRD, 0.0, THIRD, 100.0)),
    ("top third", area(0.0, 0.0, 100.0, THIRD)),
    ("centre third", area(0.0, THIRD, 100.0, THIRD)),
    ("bottom third", area(0.0, 2.0 * THIRD, 100.0, THIRD)),
    ("top left quarter", area(0.0, 0.0, 50.0, 50.0)),
    ("top right quarter", area(50.0, 0.0, 50.0, 50.0)),
    ("bottom left quarter", area(0.0, 50.0, 50.0, 50.0)),
    ("bottom right quarter", area(50.0, 50.0, 50.0, 50.0)),
    ("twice as large", area(-50.0, -50.0, 200.0, 200.0)),
    ("four times as large", area(-150.0, -150.0, 400.0, 400.0)),
];

/// The area of a name.
#[must_use]
pub fn area_named(name: &str) -> Option<Area> {
    AREAS.iter().find(|(known, _)| *known == name).map(|(_, area)| *area)
}

/// The name of an area, if it has one.
#[must_use]
pub fn name_of_area(area: Area) -> Option<&'static str> {
    let near = |a: f32, b: f32| (a - b).abs() < 0.01;
    let same = |known: &Area| {
        near(known.x, area.x)
            && near(known.y, area.y)
            && near(known.width, area.width)
            && near(known.height, area.height)
    };
    AREAS.iter().find(|(_, known)| same(known)).map(|(name, _)| *name)
}
