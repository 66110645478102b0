//! The fields of shapes and wirings, which several forms share.

use std::path::Path;

use splimo_document::patch::csv;
use splimo_show::{Corner, Numbers, Run, Shape, Show, Wiring, numbers_of};

use crate::importing::bytes_of;
use crate::kit::form::{Field, Form};

/// The names of every profile that a fixture can have, the show's own first.
pub(super) fn profile_names(show: &Show) -> Vec<String> {
    let mut names: Vec<String> = show.profiles.iter().map(|p| p.name.clone()).collect();
    names.extend(
        splimo_show::Profile::built_in_names().into_iter().filter(|name| show.profiles.iter().all(|p| p.name != *name)),
    );
    names
}

/// The fields of a shape.
pub(super) fn shape_fields(shape: &Shape) -> Vec<Field> {
    let (columns, rows) = shape.lattice();
    let (degrees, width, unrolled) = match shape {
        Shape::Arc { degrees, .. } => (*degrees, 10.0, false),
        Shape::Cone { degrees, width, unrolled, .. } => (*degrees, *width, *unrolled),
        _ => (180.0, 10.0, false),
    };
    let most = f64::from(splimo_show::MOST_CELLS);
    let size = |id, label, value: u32| Field::number(id, label, f64::from(value), 1.0, most, 1.0);
    let cone = matches!(shape, Shape::Cone { .. });
    vec![
        Field::choice("shape", "shape", Shape::NAMES, shape.name()),
        size("cells", "pixels", if matches!(shape, Shape::Grid { .. } | Shape::Cone { .. }) { 16 } else { columns }),
        size("columns", "columns", if cone { 8 } else { columns }),
        size("rows", "rows", if cone { 8 } else { rows }),
        size("strings", "strings", columns),
        size("pixels", "pixels a string", rows),
        Field::number("degrees", "degrees", f64::from(degrees), 1.0, 360.0, 5.0),
        Field::number("width", "width at the foot", f64::from(width), 0.0, 1000.0, 1.0),
        Field::flag("unrolled", "cut open", unrolled),
        Field::text("points", "points file", ""),
    ]
}

/// Shows those fields that the chosen shape has.
pub(super) fn show_shape_fields(form: &mut Form) {
    let shape = form.text("shape");
    let is = |words: &[&str]| words.contains(&shape.as_str());
    for (id, shown) in [
        ("cells", is(&["line", "ring", "arc"])),
        ("columns", is(&["grid"])),
        ("rows", is(&["grid"])),
        ("strings", is(&["cone"])),
        ("pixels", is(&["cone"])),
        ("degrees", is(&["arc", "cone"])),
        ("width", is(&["cone"])),
        ("unrolled", is(&["cone"])),
        ("points", is(&["points"])),
    ] {
        form.show(id, shown);
    }
    form.hint("points", "a CSV file with the columns x and y".to_owned());
}

/// The shape that the fields say. `before` is what a fixture has, which keeps its points where no file is named.
pub(super) fn shape_of(form: &Form, before: Option<&Shape>) -> Result<Shape, String> {
    let (cells, degrees) = (form.whole("cells"), form.number("degrees") as f32);
    Ok(match form.text("shape").as_str() {
        "line" => Shape::Line { cells },
        "ring" => Shape::Ring { cells },
        "grid" => Shape::Grid { columns: form.whole("columns"), rows: form.whole("rows") },
        "arc" => Shape::Arc { cells, degrees },
        "cone" => Shape::Cone {
            strings: form.whole("strings"),
            cells: form.whole("pixels"),
            degrees,
            width: form.number("width") as f32,
            unrolled: form.flag("unrolled"),
        },
        _ => {
            let file = form.text("points");
            match (file.is_empty(), before) {
                (true, Some(shape @ Shape::Points { .. })) => shape.clone(),
                (true, _) => return Err("type the name of a CSV file with the columns x and y".to_owned()),
                (false, _) => csv::read_points(&bytes_of(Path::new(&file), "CSV", csv::LONGEST as u64)?)
                    .map_err(|e| format!("{file}: {e}"))?,
            }
        }
    })
}

/// The fields of a wiring.
pub(super) fn wiring_fields(wiring: &Wiring) -> Vec<Field> {
    let longest = f64::from(Wiring::LONGEST_GAP);
    vec![
        Field::choice("start", "starts", Corner::ALL.map(Corner::name), wiring.start.name()),
        Field::choice("along", "runs along", Run::ALL.map(Run::name), wiring.along.name()),
        Field::flag("turns", "turns round", wiring.turns),
        Field::flag("reversed", "reversed", wiring.reversed),
        Field::number("dark", "dark after a run", f64::from(wiring.gap), 0.0, longest, 1.0),
        Field::text("skip", "skipped pixels", Numbers(&wiring.skip).to_string()),
    ]
}

/// The wiring that the fields say.
pub(super) fn wiring_of(form: &Form) -> Result<Wiring, String> {
    let skip = form.text("skip");
    let skip = numbers_of(&skip).ok_or_else(|| format!("\"{skip}\" are not pixels; write such as 5 17-20"))?;
    Ok(Wiring {
        start: corner(&form.text("start")),
        along: run(&form.text("along")),
        turns: form.flag("turns"),
        reversed: form.flag("reversed"),
        gap: form.whole("dark"),
        skip,
    })
}

pub(super) fn corner(word: &str) -> Corner {
    Corner::ALL.into_iter().find(|corner| corner.name() == word).unwrap_or_default()
}

pub(super) fn run(word: &str) -> Run {
    Run::ALL.into_iter().find(|run| run.name() == word).unwrap_or_default()
}
