//! Splimo as a fixture in a file that desks load: DIN SPEC 15800:2022-02, an archive with one description in it. Each layout is a mode.
//!
//! | element | clause | what stands there |
//! |---|---|---|
//! | `FixtureType` | 6.1 | names, and an identity that stays the same for a show |
//! | `Attributes` | 6.2.3 | one for each channel: those of the standard where it has one, else of our own |
//! | `Geometries` | 6.6 | one body without a place |
//! | `DMXMode`, `DMXChannel` | 6.7 | the channels, each with a function and a set for each range of values |

use std::fmt::Write as _;
use std::io::{Cursor, Write as _};

use splimo_show::Show;
use splimo_show::{RemoteChannel, RemoteLayout};
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipWriter};

/// The name of the description within the archive.
const DESCRIPTION: &str = "description.xml";
/// A body in its own place, without turning.
const IDENTITY: &str = "{1,0,0,0}{0,1,0,0}{0,0,1,0}{0,0,0,1}";

/// The bytes of the file.
///
/// # Errors
/// In words, if the archive cannot be made.
pub fn fixture_file(show: &Show) -> Result<Vec<u8>, String> {
    let mut archive = ZipWriter::new(Cursor::new(Vec::new()));
    let options = SimpleFileOptions::default().compression_method(CompressionMethod::Stored);
    archive.start_file(DESCRIPTION, options).map_err(|e| e.to_string())?;
    archive.write_all(description(show).as_bytes()).map_err(|e| e.to_string())?;
    archive.finish().map(Cursor::into_inner).map_err(|e| e.to_string())
}

/// The attribute of a channel, its feature and its short name: that of the standard where there is one.
fn attribute(name: &str) -> (String, &'static str, String) {
    match name {
        "master" => ("Dimmer".to_owned(), "Dimmer.Dimmer", "Dim".to_owned()),
        "strobe" => ("Shutter1Strobe".to_owned(), "Beam.Beam", "Strobe1".to_owned()),
        other => {
            let plain: String = other.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { ' ' }).collect();
            let words = plain.split_whitespace().map(|word| {
                let mut letters = word.chars();
                letters.next().map_or(String::new(), |first| first.to_ascii_uppercase().to_string() + letters.as_str())
            });
            (format!("Splimo{}", words.collect::<String>()), "Control.Control", other.to_owned())
        }
    }
}

fn escaped(text: &str) -> String {
    let mut safe = String::with_capacity(text.len());
    for letter in text.chars() {
        match letter {
            '&' => safe.push_str("&amp;"),
            '<' => safe.push_str("&lt;"),
            '>' => safe.push_str("&gt;"),
            '"' => safe.push_str("&quot;"),
            letter if letter.is_control() => safe.push(' '),
            letter => safe.push(letter),
        }
    }
    safe
}

/// A name as the standard has names (clause 5, "Name"): without letters that separate.
fn name(text: &str) -> String {
    escaped(&text.chars().map(|c| if ".,:;()[]{}\"$&<>\\".contains(c) { ' ' } else { c }).collect::<String>())
}

fn description(show: &Show) -> String {
    let modes: Vec<(RemoteLayout, Vec<RemoteChannel>)> =
        RemoteLayout::ALL.iter().map(|layout| (*layout, layout.list(show))).collect();
    let identity = uuid::Uuid::new_v5(&uuid::Uuid::NAMESPACE_URL, format!("splimo:fixture:{}", show.name).as_bytes());
    let mut text = String::new();
    // Into a text it always goes.
    let mut line = |words: String| {
        let _ = writeln!(text, "{words}");
    };
    line("<?xml version=\"1.0\" encoding=\"UTF-8\" standalone=\"no\"?>".to_owned());
    line("<GDTF DataVersion=\"1.2\">".to_owned());
    line(format!(
        "<FixtureType Name=\"Splimo\" ShortName=\"Splimo\" LongName=\"Splimo, {}\" Manufacturer=\"Splimo\" Description=\"Plays the show {}\" FixtureTypeID=\"{}\" RefFT=\"\" Thumbnail=\"\" CanHaveChildren=\"No\">",
        escaped(&show.name),
        escaped(&show.name),
        identity.to_string().to_uppercase()
    ));
    line("<AttributeDefinitions>\n<ActivationGroups/>\n<FeatureGroups>".to_owned());
    for group in ["Dimmer", "Beam", "Control"] {
        line(format!("<FeatureGroup Name=\"{group}\" Pretty=\"{group}\"><Feature Name=\"{group}\"/></FeatureGroup>"));
    }
    line("</FeatureGroups>\n<Attributes>".to_owned());
    let mut known: Vec<String> = Vec::new();
    for channel in modes.iter().flat_map(|(_, channels)| channels) {
        let (attribute, feature, pretty) = attribute(&channel.name);
        if !known.contains(&attribute) {
            let pretty = name(&pretty);
            line(format!(
                "<Attribute Name=\"{attribute}\" Pretty=\"{pretty}\" Feature=\"{feature}\" PhysicalUnit=\"None\"/>"
            ));
            known.push(attribute);
        }
    }
    line("</Attributes>\n</AttributeDefinitions>\n<Wheels/>\n<PhysicalDescriptions/>\n<Models/>".to_owned());
    line(format!("<Geometries><Geometry Name=\"Body\" Model=\"\" Position=\"{IDENTITY}\"/></Geometries>"));
    line("<DMXModes>".to_owned());
    for (layout, channels) in &modes {
        line(format!("<DMXMode Name=\"{}\" Description=\"\" Geometry=\"Body\">\n<DMXChannels>", layout.name()));
        (1..).zip(channels).for_each(|(offset, channel)| line(channel_text(offset, channel)));
        line("</DMXChannels>\n<Relations/>\n<FTMacros/>\n</DMXMode>".to_owned());
    }
    line("</DMXModes>\n<Revisions/>\n<FTPresets/>\n<Protocols/>\n</FixtureType>\n</GDTF>".to_owned());
    text
}

fn channel_text(offset: u16, channel: &RemoteChannel) -> String {
    let (attribute, ..) = attribute(&channel.name);
    let sets: String = channel
        .ranges
        .iter()
        .map(|range| {
            format!("<ChannelSet Name=\"{}\" DMXFrom=\"{}/1\" WheelSlotIndex=\"0\"/>\n", name(&range.does), range.from)
        })
        .collect();
    let master = if channel.name == "master" { "Grand" } else { "None" };
    format!(
        "<DMXChannel DMXBreak=\"1\" Offset=\"{offset}\" InitialFunction=\"Body_{attribute}.{attribute}.{attribute} 1\" Highlight=\"None\" Geometry=\"Body\">\n\
         <LogicalChannel Attribute=\"{attribute}\" Snap=\"No\" Master=\"{master}\" MibFade=\"0\" DMXChangeTimeLimit=\"0\">\n\
         <ChannelFunction Name=\"{attribute} 1\" Attribute=\"{attribute}\" OriginalAttribute=\"\" DMXFrom=\"0/1\" Default=\"{}/1\" PhysicalFrom=\"0\" PhysicalTo=\"1\" RealFade=\"0\" RealAcceleration=\"0\">\n\
         {sets}</ChannelFunction>\n</LogicalChannel>\n</DMXChannel>",
        channel.rests
    )
}

#[cfg(test)]
mod tests {
    use super::*;
    use splimo_show::Look;

    fn show() -> Show {
        let mut show = Show::empty("Quay <1> & \"more\"");
        show.looks = vec![Look::new("Tide & <Gale>, low", Vec::new())];
        show
    }

    #[test]
    fn every_channel_of_both_layouts_is_there_and_tags_are_balanced() {
        let text = description(&show());
        assert_eq!(text.matches("<DMXChannel ").count(), 40);
        assert_eq!(text.matches("<DMXMode ").count(), 2);
        for tag in ["GDTF", "FixtureType", "DMXMode", "DMXChannel", "LogicalChannel", "ChannelFunction", "Attributes"] {
            let (opened, closed) =
                (text.matches(&format!("<{tag} ")).count(), text.matches(&format!("</{tag}>")).count());
            let plain = text.matches(&format!("<{tag}>")).count();
            assert_eq!(opened + plain, closed, "{tag}");
        }
        assert!(text.contains("Plays the show Quay &lt;1&gt; &amp; &quot;more&quot;"));
        assert!(
            text.contains("<ChannelSet Name=\"Tide    Gale   low\" DMXFrom=\"1/1\""),
            "names have no letters that separate"
        );
        assert!(text.contains("Attribute=\"Dimmer\" Snap=\"No\" Master=\"Grand\""));
        assert_eq!(description(&show()), text, "the same show is the same fixture");
    }

    #[test]
    fn the_file_is_an_archive_with_the_description() {
        let bytes = fixture_file(&show()).expect("an archive");
        let mut archive = zip::ZipArchive::new(Cursor::new(bytes)).expect("an archive");
        let mut text = String::new();
        std::io::Read::read_to_string(&mut archive.by_name(DESCRIPTION).expect("it is there"), &mut text)
            .expect("text");
        assert_eq!(text, description(&show()));
    }
}
