//! The palette of a show: colours and gradients with names. Looks refer to them as `{Deep water}`, so that changing one changes
//! every look that uses it.

use crate::Swatch;
use splimo_base::ramp::Stop;

/// The way a text refers to an entry of the palette.
#[must_use]
pub fn reference(name: &str) -> String {
    format!("{{{name}}}")
}

/// The name in a text that refers to an entry, and what stands behind it.
#[must_use]
pub fn referred(text: &str) -> Option<(&str, &str)> {
    let (name, rest) = text.trim().strip_prefix('{')?.split_once('}')?;
    Some((name, rest.trim()))
}

/// Reads the stops of a gradient, with what stands in the palette in the place of its name.
///
/// # Errors
/// The text that cannot be read, and the way to write it.
pub fn stops<'a>(texts: impl Iterator<Item = &'a str>, palette: &[Swatch]) -> Result<Vec<Stop>, String> {
    let texts: Vec<&str> = texts.collect();
    let mut stops = Vec::new();
    for text in &texts {
        let Some((name, behind)) = referred(text) else {
            stops.push(text.parse::<Stop>().map_err(|e| e.to_string())?);
            continue;
        };
        let Some(swatch) = palette.iter().find(|swatch| swatch.name == name) else {
            return Err(format!("there is no \"{name}\" in the palette: {}", known(palette)));
        };
        let own = swatch.colours.iter().map(|c| c.parse::<Stop>().map_err(|e| e.to_string()));
        let mut own = own.collect::<Result<Vec<Stop>, String>>()?;
        if let ([one], false) = (own.as_mut_slice(), behind.is_empty()) {
            *one = format!("{} {behind}", one.colour).parse::<Stop>().map_err(|e| e.to_string())?;
        } else if texts.len() > 1 {
            // Among others its stops stand where there is room, not where they stand in it.
            own.iter_mut().for_each(|stop| stop.at = None);
        }
        stops.extend(own);
    }
    Ok(stops)
}

/// The word for all hues, once round the circle and back to red.
pub const RAINBOW: &str = "rainbow";

/// Reads a text that stands for a whole gradient: an entry of the palette, a colour alone, or [`RAINBOW`].
///
/// # Errors
/// As [`stops`].
pub fn gradient(text: &str, palette: &[Swatch]) -> Result<Vec<Stop>, String> {
    const HUES: [&str; 7] = ["#ff0000", "#ffff00", "#00ff00", "#00ffff", "#0000ff", "#ff00ff", "#ff0000"];
    match text.trim() {
        RAINBOW => stops(HUES.into_iter(), palette),
        text => stops(std::iter::once(text), palette),
    }
}

fn known(palette: &[Swatch]) -> String {
    if palette.is_empty() {
        return "it is empty".to_owned();
    }
    let names: Vec<&str> = palette.iter().map(|swatch| swatch.name.as_str()).collect();
    format!("it has {}", names.join(", "))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn palette() -> Vec<Swatch> {
        vec![Swatch::new("Foam", &["#eeffff"]), Swatch::new("Dusk", &["#ff0000", "#0000ff 0.9", "#000000"])]
    }

    fn read(texts: &[&str]) -> Result<Vec<String>, String> {
        Ok(stops(texts.iter().copied(), &palette())?.iter().map(Stop::to_string).collect())
    }

    #[test]
    fn names_stand_for_their_colours() {
        assert_eq!(read(&["{Foam}"]), Ok(vec!["#eeffff".into()]));
        assert_eq!(read(&["#000000", "{Foam} 0.3"]), Ok(vec!["#000000".into(), "#eeffff 0.3".into()]));
        assert_eq!(read(&["{Dusk}"]).map(|s| s[1].clone()), Ok("#0000ff 0.9".into()));
        assert_eq!(read(&["{Foam}", "{Dusk}"]).map(|s| (s.len(), s[2].clone())), Ok((4, "#0000ff".into())));
    }

    #[test]
    fn what_is_not_there_is_told_with_what_is() {
        let why = read(&["{Fog}"]).expect_err("it is not there");
        assert!(why.contains("Fog") && why.contains("Foam, Dusk"), "{why}");
        assert!(read(&["{Foam"]).is_err() && read(&["{Foam} lots"]).is_err());
    }
}
