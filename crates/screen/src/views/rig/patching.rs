//! The fields by which fixtures get addresses.

use splimo_document::edit::Edit;
use splimo_document::patch::{Occupancy, Packing, Plan};
use splimo_show::{Address, Show};

use crate::kit::form::{Field, Form};

const RULES: [&str; 6] = [
    "next free channel",
    "a universe each",
    "fixtures a universe",
    "channels a universe",
    "fixed offset",
    "none: unpatch",
];

/// The fields of a packing rule.
pub(super) fn packing_fields(packing: Packing, split: bool) -> Vec<Field> {
    let (rule, number) = match packing {
        Packing::NextFree => (RULES[0], 0),
        Packing::NewUniverse => (RULES[1], 0),
        Packing::Fixtures(n) => (RULES[2], n),
        Packing::Channels(n) => (RULES[3], n),
        Packing::Offset(n) => (RULES[4], n),
    };
    let or = |usual: u32| f64::from(if number > 0 { number } else { usual });
    vec![
        Field::choice("packing", "packed by", RULES[..5].iter().copied(), rule),
        Field::number("fixtures", "at most", or(5), 1.0, 512.0, 1.0),
        Field::number("channels", "at most", or(510), 1.0, 512.0, 1.0),
        Field::number("offset", "offset", or(48), 1.0, 100_000.0, 1.0),
        Field::flag("split", "split cells", split),
    ]
}

/// Shows those that the rule has.
pub(super) fn show_packing_fields(form: &mut Form) {
    let rule = form.text("packing");
    for (id, of) in [("fixtures", RULES[2]), ("channels", RULES[3]), ("offset", RULES[4])] {
        form.show(id, rule == of);
    }
    form.hint("fixtures", "fixtures a universe".into());
    form.hint("channels", "channels a universe".into());
    form.hint("offset", "channels from one to the next".into());
    form.hint("split", "between two universes".into());
}

/// The rule that the fields say.
pub(super) fn packing_of(form: &Form) -> Packing {
    match RULES.iter().position(|rule| *rule == form.text("packing")) {
        Some(1) => Packing::NewUniverse,
        Some(2) => Packing::Fixtures(form.whole("fixtures")),
        Some(3) => Packing::Channels(form.whole("channels")),
        Some(4) => Packing::Offset(form.whole("offset")),
        _ => Packing::NextFree,
    }
}

/// The form that patches some fixtures anew.
pub(super) fn form(show: &Show, chosen: &[usize]) -> Form {
    let now = chosen.first().and_then(|&index| show.fixtures.get(index));
    let (universe, slot) = Occupancy::of(show).behind_all();
    let first = now.and_then(|f| f.address).unwrap_or(Address { universe, channel: slot + 1 });
    let mut fields = vec![Field::text("address", "first address", first.to_string())];
    fields.extend(packing_fields(Packing::NextFree, now.is_some_and(|f| f.split)));
    if let Some(field) = fields.iter_mut().find(|field| field.id == "packing") {
        *field = Field::choice("packing", "packed by", RULES, RULES[0]);
    }
    let mut form = Form::new(fields);
    show_fields(&mut form, show);
    form
}

/// Shows what applies.
pub(super) fn show_fields(form: &mut Form, show: &Show) {
    show_packing_fields(form);
    hint_address(form, show);
}

/// Says beside the field `address` how it leaves.
pub(super) fn hint_address(form: &mut Form, show: &Show) {
    let address = show.read_address(&form.text("address"));
    let words =
        |address| if show.sent_as(address).is_empty() { "no route yet".to_owned() } else { show.sent_words(address) };
    form.hint("address", address.map(words).unwrap_or_default());
}

/// The edit that the form says, of some fixtures.
pub(super) fn edit(form: &Form, show: &Show, chosen: &[usize]) -> Result<Edit, String> {
    if form.text("packing") == RULES[5] || form.text("address") == "none" {
        return Ok(Edit::Unpatch(chosen.to_vec()));
    }
    let first = show.read_address(&form.text("address")).map_err(|e| e.to_string())?;
    Ok(Edit::Patch(chosen.to_vec(), Plan { first, packing: packing_of(form), split: form.flag("split") }))
}
