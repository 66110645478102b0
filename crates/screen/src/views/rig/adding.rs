//! Adding fixtures: from what they are to where they lie and which addresses they get, live on the canvas.

use splimo_document::edit::{Batch, Edit, Rows};
use splimo_document::patch::{Occupancy, Packing, Plan};
use splimo_show::{Address, Corner, Run, Shape, Show, Wiring};

use super::fields::{corner, profile_names, run, shape_fields, shape_of, show_shape_fields, wiring_fields, wiring_of};
use super::patching::{hint_address, packing_fields, packing_of, show_packing_fields};
use crate::kit::form::{Field, Form};

const ROWS: [&str; 4] = ["row", "column", "grid", "circle"];
const DIRECTIONS: [&str; 4] = ["right", "down", "left", "up"];

/// The form with what is usual: one light, in the middle, at the first free channel.
pub(super) fn form(show: &Show) -> Form {
    let profile = show.fixtures.last().map_or("rgb", |f| f.profile.as_str());
    let (universe, slot) = Occupancy::of(show).behind_all();
    let first = Address { universe, channel: slot + 1 };
    let mut fields =
        vec![Field::choice("profile", "profile", profile_names(show), profile), Field::text("count", "how many", "1")];
    fields.extend(shape_fields(&Shape::Line { cells: 1 }));
    fields.push(Field::choice("direction", "runs", DIRECTIONS, "right"));
    fields.extend(wiring_fields(&Wiring::default()));
    fields.extend([
        Field::choice("arranged", "arranged in a", ROWS, "row"),
        Field::number("radius", "radius", 12.0, 0.0, 1000.0, 1.0),
        Field::choice("first", "first fixture", Corner::ALL.map(Corner::name), "top left"),
        Field::choice("next", "then along", Run::ALL.map(Run::name), "rows"),
        Field::flag("snake", "turning round", false),
        Field::number("gap", "space between", 0.0, -1000.0, 1000.0, 1.0),
        Field::text("address", "first address", first.to_string()),
    ]);
    fields.extend(packing_fields(Packing::NextFree, false));
    fields.extend([
        Field::text("name", "name", ""),
        Field::text("group", "group of them", ""),
        Field::number("pitch", "pixel pitch", 1.0, 0.001, 1000.0, 0.1),
        Field::text("middle", "middle at", ""),
    ]);
    let mut form = Form::new(fields);
    form.go_to("count");
    show_fields(&mut form, show);
    form
}

/// Shows what applies, and what is meant where nothing is typed.
pub(super) fn show_fields(form: &mut Form, show: &Show) {
    show_shape_fields(form);
    let shape = form.text("shape");
    let (lattice, line) = (matches!(shape.as_str(), "grid" | "cone"), shape == "line");
    for id in ["start", "along", "turns"] {
        form.show(id, lattice);
    }
    form.show("direction", line);
    form.show("reversed", shape != "line");
    let (count, columns) = count_of(&form.text("count")).unwrap_or((1, None));
    form.show("arranged", count > 1 && columns.is_none());
    let rows = rows_word(form, columns);
    form.show("radius", count > 1 && rows == "circle");
    for id in ["first", "next", "snake"] {
        form.show(id, count > 1 && rows == "grid");
    }
    form.show("gap", count > 1 && rows != "circle");
    show_packing_fields(form);
    form.hint("count", columns.map_or("10, or 24x18".to_owned(), |c| format!("{} in {c} columns", count)));
    form.hint("name", if form.text("name").is_empty() { usual_name(form).to_owned() } else { String::new() });
    form.hint("group", "its name, or nothing".to_owned());
    form.hint("middle", "x y, or nothing: where there is room".to_owned());
    hint_address(form, show);
}

fn rows_word(form: &Form, columns: Option<u32>) -> String {
    if columns.is_some() { "grid".to_owned() } else { form.text("arranged") }
}

/// `10`, or `24x18`: how many, and in how many columns.
fn count_of(text: &str) -> Result<(u32, Option<u32>), String> {
    let odd = || format!("\"{text}\" is not a number of fixtures; type such as 10, or 24x18");
    let number = |word: &str| word.trim().parse::<u32>().map_err(|_| odd());
    match text.split_once(['x', 'X']) {
        None => Ok((number(text)?, None)),
        Some((columns, rows)) => {
            let (columns, rows) = (number(columns)?, number(rows)?);
            Ok((columns.checked_mul(rows).ok_or_else(odd)?, Some(columns)))
        }
    }
}

fn usual_name(form: &Form) -> &'static str {
    match form.text("shape").as_str() {
        "line" if form.whole("cells") > 1 => "Tube",
        "grid" => "RigPanel",
        "ring" => "Ring",
        "arc" => "Arc",
        "cone" => "Cone",
        "points" => "Points",
        _ => "Light",
    }
}

/// The edit that the form says.
pub(super) fn edit(form: &Form, show: &Show) -> Result<Edit, String> {
    let (count, columns) = count_of(&form.text("count"))?;
    let shape = shape_of(form, None)?;
    let wiring = wiring_of(form)?;
    let rows = match rows_word(form, columns).as_str() {
        "row" => Rows::Row,
        "column" => Rows::Column,
        "circle" => Rows::Circle { radius: form.number("radius") as f32 },
        _ => Rows::Grid {
            columns: columns.unwrap_or_else(|| (f64::from(count)).sqrt().ceil() as u32),
            order: Wiring {
                start: corner(&form.text("first")),
                along: run(&form.text("next")),
                turns: form.flag("snake"),
                ..Wiring::default()
            },
        },
    };
    let direction = DIRECTIONS.iter().position(|word| *word == form.text("direction")).unwrap_or(0);
    let angle = if matches!(shape, Shape::Line { .. }) { direction as f32 * 90.0 } else { 0.0 };
    let address = form.text("address");
    let plan = match address.as_str() {
        "" | "none" => None,
        text => {
            let first = show.read_address(text).map_err(|e| e.to_string())?;
            Some(Plan { first, packing: packing_of(form), split: form.flag("split") })
        }
    };
    let name = form.text("name");
    let name = if name.is_empty() { usual_name(form).to_owned() } else { name };
    Ok(Edit::Add(Batch {
        name,
        profile: form.text("profile"),
        count,
        shape,
        wiring,
        angle,
        pitch: form.number("pitch") as f32,
        rows,
        gap: form.number("gap") as f32,
        middle: middle_of(&form.text("middle"))?,
        plan,
        group: form.text("group"),
    }))
}

fn middle_of(text: &str) -> Result<Option<(f32, f32)>, String> {
    let odd = || format!("\"{text}\" is no place; type x and y in pitches, such as 60 30, or nothing");
    let numbers: Vec<f32> = text
        .split([' ', ','])
        .filter(|word| !word.is_empty())
        .map(|word| word.parse().map_err(|_| odd()))
        .collect::<Result<_, _>>()?;
    match numbers[..] {
        [] => Ok(None),
        [x, y] if x.is_finite() && y.is_finite() => Ok(Some((x, y))),
        _ => Err(odd()),
    }
}
