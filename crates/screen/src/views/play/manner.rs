//! The fields of a manner: how a pad, or all pads of a bank, play.

use splimo_show::{Boundary, Manner, PadMode, Show};

use crate::kit::form::{Field, Form};

/// The fields of some manners. What they do not agree on is shown as various, and stays so unless it is touched. `none` is the word
/// for what is not said.
pub(super) fn fields(manners: &[&Manner], show: &Show, none: &'static str) -> Vec<Field> {
    let Some(first) = manners.first() else { return Vec::new() };
    let with_none = |words: Vec<String>| -> Vec<String> { std::iter::once(none.to_owned()).chain(words).collect() };
    let tiers = with_none(show.stack().iter().map(|tier| tier.name.clone()).collect());
    let modes = with_none(PadMode::ALL.map(|mode| mode.name().to_owned()).to_vec());
    let boundaries = with_none(Boundary::ALL.map(|boundary| boundary.name().to_owned()).to_vec());
    let number = |number: Option<f32>| number.map_or_else(String::new, |number| number.to_string());
    let mut fields = vec![
        Field::choice("tier", "tier", tiers, first.tier.as_deref().unwrap_or(none)),
        Field::choice("mode", "mode", modes, first.mode.map_or(none, PadMode::name)),
        Field::choice("lands", "lands on", boundaries, first.lands.map_or(none, Boundary::name)),
        Field::text("fade_in", "fade in", number(first.fade_in)),
        Field::text("fade_out", "fade out", number(first.fade_out)),
        Field::text("beats", "length", number(first.beats)),
    ];
    fields[0].mixed = manners.iter().any(|manner| manner.tier != first.tier);
    fields[1].mixed = manners.iter().any(|manner| manner.mode != first.mode);
    fields[2].mixed = manners.iter().any(|manner| manner.lands != first.lands);
    fields[3].mixed = manners.iter().any(|manner| manner.fade_in != first.fade_in);
    fields[4].mixed = manners.iter().any(|manner| manner.fade_out != first.fade_out);
    fields[5].mixed = manners.iter().any(|manner| manner.beats != first.beats);
    for field in &mut fields[3..5] {
        field.hint = format!("beats; empty is {none}");
    }
    fields[5].hint = "beats, for beats and for a flash that nobody holds".to_owned();
    fields[1].hint = "toggle: again clears; flash: while held; beats: a while".to_owned();
    fields
}

/// The manner with what was touched in a form.
///
/// # Errors
/// The field that cannot be, and what it may be.
pub(super) fn taken(form: &Form, before: &Manner, none: &str) -> Result<Manner, String> {
    let word = |id: &str| Some(form.text(id)).filter(|word| word != none);
    let number = |id: &str, name: &str, from: f32| match form.text(id).as_str() {
        "" => Ok(None),
        text => match text.parse::<f32>() {
            Ok(number) if (from..=64.0).contains(&number) => Ok(Some(number)),
            _ => Err(format!("{name}: \"{text}\" cannot be; type a number of beats from {from} to 64, or nothing")),
        },
    };
    let mut manner = before.clone();
    if form.touched("tier") {
        manner.tier = word("tier");
    }
    if form.touched("mode") {
        manner.mode = word("mode").and_then(|word| PadMode::ALL.into_iter().find(|mode| mode.name() == word));
    }
    if form.touched("lands") {
        manner.lands = word("lands").and_then(|word| Boundary::ALL.into_iter().find(|one| one.name() == word));
    }
    if form.touched("fade_in") {
        manner.fade_in = number("fade_in", "fade in", 0.0)?;
    }
    if form.touched("fade_out") {
        manner.fade_out = number("fade_out", "fade out", 0.0)?;
    }
    if form.touched("beats") {
        manner.beats = number("beats", "length", 0.25)?;
    }
    Ok(manner)
}
