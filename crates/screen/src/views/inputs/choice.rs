//! A choice by value: bands of one channel, each of which picks a look, made from chosen looks.

use splimo_show::CommandTemplate;
use splimo_show::event::EventAddress;
use splimo_show::{Band, Binding, Show};

use crate::kit::form::{Field, Form};

/// The words for which looks are chosen, besides tags and banks.
const ALL: &str = "all looks";
const NAMED: &str = "those named";
/// The words for what the channel rests at.
const RESTS: [&str; 2] = ["the tier fades out", "nothing"];
/// The highest value of a channel that has no other.
const LAST: u16 = 255;

/// The highest value that comes from an event.
pub(super) fn last_of(event: &EventAddress) -> u16 {
    let most = event.most();
    if most > 1.0 { most as u16 } else { LAST }
}

/// The fields of the form.
pub(super) fn fields(source: &str, event: &str, show: &Show) -> Vec<Field> {
    let sources: Vec<String> = show.inputs.iter().map(|input| input.name.clone()).collect();
    let mut tags: Vec<&str> = show.looks.iter().flat_map(|look| &look.tags).map(String::as_str).collect();
    tags.sort_unstable();
    tags.dedup();
    let banks = show.banks.iter().map(|bank| format!("bank {}", bank.name));
    let which = std::iter::once(ALL.to_owned())
        .chain(banks)
        .chain(tags.into_iter().map(|tag| format!("tag {tag}")))
        .chain([NAMED.to_owned()]);
    let tiers = show.stack().iter().map(|tier| tier.name.clone());
    let rests = RESTS.into_iter().map(str::to_owned).chain(show.looks.iter().map(|look| format!("look {}", look.name)));
    let mut fields = vec![
        Field::choice("source", "input", sources, source),
        Field::text("event", "channel", event),
        Field::choice("which", "looks", which, ALL),
        Field::text("names", "named", ""),
        Field::choice("tier", "on tier", tiers, show.stack()[0].name.as_str()),
        Field::choice("rests", "at the bottom", rests, RESTS[0]),
        Field::number("from", "first look from", 1.0, 1.0, 65_535.0, 1.0),
        Field::number("width", "values a look", 0.0, 0.0, 65_535.0, 1.0),
        Field::number("hysteresis", "noise", 2.0, 0.0, 50.0, 1.0),
    ];
    fields[1].hint = "slot 1, control 7, or /path".to_owned();
    fields[3].hint = "with commas".to_owned();
    fields[7].hint = "0 shares all values out evenly".to_owned();
    fields[8].hint = "counts by which it may tremble".to_owned();
    fields
}

/// Shows the fields that apply.
pub(super) fn follow(form: &mut Form) {
    let named = form.text("which") == NAMED;
    form.show("names", named);
}

/// The looks that are chosen.
fn chosen(form: &Form, show: &Show) -> Result<Vec<String>, String> {
    let which = form.text("which");
    let looks = || show.looks.iter();
    if which == ALL {
        return Ok(looks().map(|look| look.name.clone()).collect());
    }
    if let Some(tag) = which.strip_prefix("tag ") {
        return Ok(looks()
            .filter(|look| look.tags.iter().any(|own| own == tag))
            .map(|look| look.name.clone())
            .collect());
    }
    if let Some(bank) = which.strip_prefix("bank ") {
        let bank = show.banks.iter().find(|one| one.name == bank);
        let mut pads: Vec<_> = bank.into_iter().flat_map(|bank| &bank.pads).filter(|pad| pad.look.is_some()).collect();
        pads.sort_by_key(|pad| pad.place);
        return Ok(pads.iter().filter_map(|pad| pad.look.clone()).collect());
    }
    let names: Vec<String> =
        form.text("names").split(',').map(|name| name.trim().to_owned()).filter(|name| !name.is_empty()).collect();
    match names.iter().find(|name| show.look(name).is_none()) {
        Some(odd) => Err(format!("named: there is no look \"{odd}\"")),
        None => Ok(names),
    }
}

/// The binding that the form tells of.
///
/// # Errors
/// The field that does not fit, and the way to mend it.
pub(super) fn binding(form: &Form, show: &Show) -> Result<Binding, String> {
    let source = form.text("source");
    if source.is_empty() {
        return Err("input: there is none yet; Esc, then add one with a".to_owned());
    }
    let event: EventAddress = form.text("event").parse().map_err(|why| format!("channel: {why}"))?;
    let looks = chosen(form, show)?;
    let (tier, rests) = (form.text("tier"), form.text("rests"));
    let from = form.whole("from") as u16;
    let bands = bands(&looks, &tier, &rests, [from, form.whole("width") as u16, last_of(&event)])?;
    let hysteresis = form.whole("hysteresis") as u16;
    Ok(Binding { bands, hysteresis, ..Binding::new(&source, event, "") })
}

/// The bands of looks from a value on, each of a width (0 shares all out), up to the last.
fn bands(looks: &[String], tier: &str, rests: &str, [from, width, last]: [u16; 3]) -> Result<Vec<Band>, String> {
    if looks.is_empty() {
        return Err("looks: none are chosen; choose others, or name some".to_owned());
    }
    let (count, room) = (looks.len() as u16, (last + 1).saturating_sub(from));
    let width = if width == 0 { room / count } else { width };
    if width == 0 || u32::from(width) * u32::from(count) > u32::from(room) {
        let most = room.checked_div(width).unwrap_or(room);
        return Err(format!("{count} looks do not fit: from {from} to {last} there is room for {most}"));
    }
    let at_rest = match rests.strip_prefix("look ") {
        Some(look) => vec![format!("fire-look {tier}/{look}").into()],
        None if rests == RESTS[0] => vec![format!("release-tier {tier}").into()],
        None => Vec::new(),
    };
    let mut bands = vec![Band { from: 0, does: at_rest }];
    for (place, look) in (0u16..).zip(looks) {
        bands.push(Band { from: from + place * width, does: vec![format!("fire-look {tier}/{look}").into()] });
    }
    Ok(bands)
}

/// The request of a band, in words.
pub(super) fn does_words(does: &[CommandTemplate]) -> String {
    match does {
        [] => "nothing".to_owned(),
        [one] => one.in_words(),
        many => many.join(", "),
    }
}

/// The bands in words, as a person on the other side needs them: `1-16 Tide`.
pub(super) fn words(binding: &Binding) -> Vec<String> {
    let (bands, last) = (&binding.bands, last_of(&binding.event));
    let ends = bands.iter().skip(1).map(|band| band.from - 1).chain([last]);
    let all = bands.iter().zip(ends).map(|(band, to)| {
        let does = does_words(&band.does);
        if band.from == to { format!("{to} {does}") } else { format!("{}-{to} {does}", band.from) }
    });
    all.collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn names(count: usize) -> Vec<String> {
        (1..=count).map(|number| format!("L{number}")).collect()
    }

    /// The words of a choice that an event makes.
    fn told(event: &str, bands: Vec<Band>) -> Vec<String> {
        words(&Binding { bands, ..Binding::new("desk", event.parse().expect("an event"), "") })
    }

    #[test]
    fn bands_share_the_values_out_and_say_what_they_are() {
        let all = bands(&names(3), "base", RESTS[0], [1, 0, 255]).expect("they fit");
        assert_eq!(told("slot 1", all), ["0 base fades out", "1-85 base/L1", "86-170 base/L2", "171-255 base/L3"]);
        let fixed = bands(&names(2), "top", RESTS[1], [10, 10, 255]).expect("they fit");
        assert_eq!(told("slot 1", fixed), ["0-9 nothing", "10-19 top/L1", "20-255 top/L2"]);
        // A controller has half as many values as a slot.
        let seven =
            bands(&names(2), "top", RESTS[1], [1, 0, last_of(&"control 7".parse().expect("one"))]).expect("they fit");
        assert_eq!(told("control 7", seven), ["0 nothing", "1-63 top/L1", "64-127 top/L2"]);
        let many = bands(&names(255), "base", "look L1", [1, 0, 255]).expect("they fit");
        assert_eq!((many.len(), many[255].from), (256, 255));
        assert!(bands(&names(256), "base", RESTS[0], [1, 0, 255]).is_err());
        assert!(bands(&names(20), "base", RESTS[0], [1, 16, 255]).expect_err("too many").contains("room for 15"));
        assert!(bands(&[], "base", RESTS[0], [1, 0, 255]).is_err());
    }
}
