//! The form of one fixture or of several: what is changed is changed on all of them.

use splimo_document::edit::Edit;
use splimo_show::{Fixture, Show, Wiring};

use super::fields::{profile_names, shape_fields, shape_of, show_shape_fields, wiring_fields, wiring_of};
use super::patching::hint_address;
use crate::kit::form::{Field, Form};

/// The form of some fixtures.
pub(super) fn form(show: &Show, chosen: &[usize]) -> Option<Form> {
    let fixtures: Vec<&Fixture> = chosen.iter().filter_map(|&index| show.fixtures.get(index)).collect();
    let first = *fixtures.first()?;
    let mut form = Form::new(fields(show, first));
    for other in &fixtures[1..] {
        let theirs = fields(show, other);
        for (field, other) in form.fields.iter_mut().zip(theirs) {
            field.mixed |= field.value != other.value;
        }
    }
    if fixtures.len() > 1 {
        form.hint("name", "one for all is numbered".to_owned());
    }
    form.show("address", fixtures.len() == 1);
    let aims = fixtures.iter().any(|f| show.profile(&f.profile).is_some_and(|p| p.aims()));
    form.show("pan", aims);
    form.show("tilt", aims);
    show_fields(&mut form, show);
    Some(form)
}

fn fields(show: &Show, f: &Fixture) -> Vec<Field> {
    let mut fields = vec![
        Field::text("name", "name", f.name.clone()),
        Field::choice("profile", "profile", profile_names(show), &f.profile),
        Field::text("address", "address", f.address.map(|a| a.to_string()).unwrap_or_default()),
    ];
    fields.extend(shape_fields(&f.shape));
    fields.extend(wiring_fields(&f.wiring));
    let place = |id, label, value: f32| Field::number(id, label, f64::from(value), -1e6, 1e6, 1.0);
    fields.extend([
        place("x", "middle x", f.x),
        place("y", "middle y", f.y),
        Field::number("angle", "turned", f64::from(f.angle), -3600.0, 3600.0, 5.0),
        Field::flag("mirror", "mirrored", f.mirror),
        Field::number("pitch", "pixel pitch", f64::from(f.pitch), 0.001, 10_000.0, 0.1),
        Field::flag("split", "split cells", f.split),
        Field::number("pan", "pan", f64::from(f.pan), 0.0, 100.0, 1.0),
        Field::number("tilt", "tilt", f64::from(f.tilt), 0.0, 100.0, 1.0),
    ]);
    fields
}

/// Shows what applies.
pub(super) fn show_fields(form: &mut Form, show: &Show) {
    show_shape_fields(form);
    let lattice = matches!(form.text("shape").as_str(), "grid" | "cone");
    for id in ["start", "along", "turns"] {
        form.show(id, lattice || form.fields.iter().any(|f| f.id == id && f.touched));
    }
    form.show("start", true);
    form.hint("angle", "degrees".to_owned());
    form.hint("pan", "percent".to_owned());
    form.hint("tilt", "percent".to_owned());
    hint_address(form, show);
}

/// The edit that the form says, of some fixtures of a show.
pub(super) fn edit(form: &Form, show: &Show, chosen: &[usize]) -> Result<Edit, String> {
    let mut changed = Vec::new();
    for (place, &index) in chosen.iter().enumerate() {
        let Some(before) = show.fixtures.get(index) else { continue };
        let mut fixture = before.clone();
        if form.touched("name") {
            let name = form.text("name");
            fixture.name = if chosen.len() > 1 { format!("{name} {}", place + 1) } else { name };
        }
        if form.touched("profile") {
            fixture.profile = form.text("profile");
        }
        if form.touched("address") {
            let text = form.text("address");
            let none = text.is_empty() || text == "none";
            fixture.address = if none { None } else { Some(show.read_address(&text).map_err(|e| e.to_string())?) };
        }
        let shape_ids =
            ["shape", "cells", "columns", "rows", "strings", "pixels", "degrees", "width", "unrolled", "points"];
        if shape_ids.iter().any(|id| form.touched(id)) {
            fixture.shape = shape_of(form, Some(&before.shape))?;
        }
        wire(form, &mut fixture)?;
        let number = |id: &str, value: &mut f32| {
            if form.touched(id) {
                *value = form.number(id) as f32;
            }
        };
        number("x", &mut fixture.x);
        number("y", &mut fixture.y);
        number("angle", &mut fixture.angle);
        number("pitch", &mut fixture.pitch);
        number("pan", &mut fixture.pan);
        number("tilt", &mut fixture.tilt);
        let flag = |id: &str, value: &mut bool| {
            if form.touched(id) {
                *value = form.flag(id);
            }
        };
        flag("mirror", &mut fixture.mirror);
        flag("split", &mut fixture.split);
        changed.push((index, fixture));
    }
    Ok(Edit::Put(changed))
}

/// The way a part of a wiring goes over to another.
type Take = fn(&mut Wiring, &Wiring);

/// The parts of a wiring by their fields.
const WIRING: [(&str, Take); 6] = [
    ("start", |wiring, said| wiring.start = said.start),
    ("along", |wiring, said| wiring.along = said.along),
    ("turns", |wiring, said| wiring.turns = said.turns),
    ("reversed", |wiring, said| wiring.reversed = said.reversed),
    ("dark", |wiring, said| wiring.gap = said.gap),
    ("skip", |wiring, said| wiring.skip.clone_from(&said.skip)),
];

/// Only what was touched goes over: the other fixtures keep the rest of their wirings.
fn wire(form: &Form, fixture: &mut Fixture) -> Result<(), String> {
    let said = wiring_of(form)?;
    for (_, take) in WIRING.iter().filter(|(id, _)| form.touched(id)) {
        take(&mut fixture.wiring, &said);
    }
    Ok(())
}
