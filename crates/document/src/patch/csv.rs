//! The patch as comma-separated values (RFC 4180): one line a fixture under a line of column names, and back without a
//! difference.

use std::collections::HashSet;
use std::fmt::Display;
use std::str::FromStr;

use csv::{ReaderBuilder, StringRecord, WriterBuilder};

use splimo_show::{Fixture, MOST_CELLS, Shape, Show, Wiring};

/// The columns, in the order in which they are written. The first three have to be there to be read.
pub const COLUMNS: [&str; 14] = [
    "name", "profile", "shape", "address", "split", "wiring", "x", "y", "pitch", "angle", "mirror", "pan", "tilt",
    "groups",
];
const NEEDED: usize = 3;
/// The sign between two groups.
const BETWEEN_GROUPS: &str = " | ";
/// The longest text that is read, in bytes.
pub const LONGEST: usize = 64 << 20;
/// The most lines that fail before reading stops.
const MOST_FAILURES: usize = 1000;

/// A line that is no fixture.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Failure {
    /// The line of the text, from 1.
    pub line: u64,
    /// The fault in it, and the way to mend it.
    pub message: String,
}

/// The content of a text.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Parsed {
    /// The fixtures of the lines that are right, with their lines.
    pub fixtures: Vec<(u64, Fixture)>,
    /// The groups that these fixtures are in, each with its members in the order of the lines; none where the table has no such
    /// column.
    pub groups: Option<Vec<(String, Vec<String>)>>,
    /// The other lines.
    pub failures: Vec<Failure>,
}

/// Writes the patch of a show.
#[must_use]
pub fn write(show: &Show) -> String {
    let mut writer = WriterBuilder::new().from_writer(Vec::new());
    // Memory takes every line, and every line has as many fields as the first.
    let mut write = |record: &[String]| drop(writer.write_record(record));
    write(&COLUMNS.map(str::to_owned));
    for f in &show.fixtures {
        write(&[
            f.name.clone(),
            f.profile.clone(),
            f.shape.to_string(),
            f.address.map(|a| a.to_string()).unwrap_or_default(),
            yes_or_no(f.split),
            f.wiring.to_string(),
            f.x.to_string(),
            f.y.to_string(),
            f.pitch.to_string(),
            f.angle.to_string(),
            yes_or_no(f.mirror),
            f.pan.to_string(),
            f.tilt.to_string(),
            groups_of(show, &f.name),
        ]);
    }
    String::from_utf8(writer.into_inner().unwrap_or_default()).unwrap_or_default()
}

/// The groups of a fixture, with ` | ` between them.
fn groups_of(show: &Show, name: &str) -> String {
    let groups = show.groups.iter().filter(|group| group.members.iter().any(|member| member == name));
    groups.map(|group| group.name.as_str()).collect::<Vec<_>>().join(BETWEEN_GROUPS)
}

fn yes_or_no(flag: bool) -> String {
    if flag { "yes" } else { "no" }.to_owned()
}

/// Reads the patch of a show: columns in any order, found by their names.
///
/// # Errors
/// A message where no line can be read at all: too long, no UTF-8, or columns that are missing, twice there or not known.
pub fn read(bytes: &[u8], show: &Show) -> Result<Parsed, String> {
    let text = text_of(bytes)?;
    let (whole, open) = closed_part(&text);
    let mut reader = reader_of(whole);
    let header = reader.headers().map_err(|e| format!("line 1 cannot be read: {e}"))?.clone();
    let columns = columns_of(&header)?;
    let has_groups = columns.iter().any(|column| COLUMNS[*column] == "groups");
    let mut parsed = Parsed { groups: has_groups.then(Vec::new), ..Parsed::default() };
    let mut names = HashSet::new();
    let mut record = StringRecord::new();
    loop {
        let line = reader.position().line();
        match reader.read_record(&mut record) {
            Ok(false) => break,
            Ok(true) => {
                let line = record.position().map_or(line, csv::Position::line);
                match fixture_of(&record, &columns, show) {
                    Ok(fixture) if !names.insert(fixture.name.clone()) => {
                        let message = format!("the name \"{}\" is used on a line above; give it another", fixture.name);
                        parsed.failures.push(Failure { line, message });
                    }
                    Ok(fixture) => {
                        if let Some(groups) = &mut parsed.groups {
                            join(groups, &record, &columns, &fixture.name);
                        }
                        parsed.fixtures.push((line, fixture));
                    }
                    Err(message) => parsed.failures.push(Failure { line, message }),
                }
            }
            Err(error) => {
                let message = format!("it cannot be read: {error}");
                parsed.failures.push(Failure { line, message });
            }
        }
        if parsed.failures.len() >= MOST_FAILURES {
            let message = "so many lines fail that the rest was not read; correct these first".to_owned();
            parsed.failures.push(Failure { line, message });
            break;
        }
    }
    if let Some(line) = open {
        let message = "a quotation mark is opened here and never closed, so that nothing from here on is read; close it, or take it out".to_owned();
        parsed.failures.push(Failure { line, message });
    }
    Ok(parsed)
}

/// Puts a fixture into the groups that its line names.
fn join(groups: &mut Vec<(String, Vec<String>)>, record: &StringRecord, columns: &[usize], name: &str) {
    let field =
        columns.iter().zip(record).find(|(column, _)| COLUMNS[**column] == "groups").map_or("", |(_, field)| field);
    for group in field.split(BETWEEN_GROUPS.trim()).map(str::trim).filter(|group| !group.is_empty()) {
        match groups.iter_mut().find(|(known, _)| known == group) {
            Some((_, members)) => members.push(name.to_owned()),
            None => groups.push((group.to_owned(), vec![name.to_owned()])),
        }
    }
}

/// A text up to the line on which a quotation mark is opened that is never closed, and that line, from 1.
fn closed_part(text: &str) -> (&str, Option<u64>) {
    let (mut line, mut line_start) = (1, 0);
    let mut open: Option<(u64, usize)> = None;
    let mut before = b'\n';
    for (at, byte) in text.bytes().enumerate() {
        match byte {
            b'"' if open.is_some() => open = None,
            // One in the middle of a field is a letter like others; one behind another is one of a pair.
            b'"' if matches!(before, b'\n' | b',' | b';' | b'"') => open = Some((line, line_start)),
            b'\n' => (line, line_start) = (line + 1, at + 1),
            _ => {}
        }
        before = byte;
    }
    match open {
        Some((line, start)) => (&text[..start], Some(line)),
        None => (text, None),
    }
}

/// The text of a table, with lines that end as on Unix.
fn text_of(bytes: &[u8]) -> Result<String, String> {
    if bytes.len() > LONGEST {
        return Err(format!("{} bytes are too many for a patch; at most {} are read", bytes.len(), LONGEST));
    }
    let text = std::str::from_utf8(bytes).map_err(|e| {
        let line = bytes[..e.valid_up_to()].iter().filter(|&&b| b == b'\n').count() + 1;
        format!("line {line} is not UTF-8 text; save the table as UTF-8")
    })?;
    Ok(text.strip_prefix('\u{feff}').unwrap_or(text).replace("\r\n", "\n"))
}

fn reader_of(text: &str) -> csv::Reader<&[u8]> {
    // Some tables separate by semicolons, as the comma is in their numbers.
    let first = text.lines().next().unwrap_or_default();
    let delimiter = if !first.contains(',') && first.contains(';') { b';' } else { b',' };
    ReaderBuilder::new().delimiter(delimiter).flexible(true).from_reader(text.as_bytes())
}

/// The place among [`COLUMNS`] of each column of the table.
fn columns_of(header: &StringRecord) -> Result<Vec<usize>, String> {
    let mut columns: Vec<usize> = Vec::new();
    for name in header {
        let name = name.trim().to_lowercase();
        let Some(column) = COLUMNS.iter().position(|known| *known == name) else {
            return Err(format!("line 1: there is no column \"{name}\"; the columns are {}", COLUMNS.join(", ")));
        };
        if columns.contains(&column) {
            return Err(format!("line 1: the column \"{name}\" is there twice; take one out"));
        }
        columns.push(column);
    }
    match (0..NEEDED).find(|needed| !columns.contains(needed)) {
        Some(missing) => Err(format!(
            "line 1: the column \"{}\" is missing; name, profile and shape have to be there",
            COLUMNS[missing]
        )),
        None => Ok(columns),
    }
}

fn fixture_of(record: &StringRecord, columns: &[usize], show: &Show) -> Result<Fixture, String> {
    if record.len() != columns.len() {
        return Err(format!("it has {} columns, and the first line names {}", record.len(), columns.len()));
    }
    let mut fields = [""; COLUMNS.len()];
    for (&column, field) in columns.iter().zip(record) {
        fields[column] = field.trim();
    }
    if let Some(field) = fields.iter().find(|field| field.contains('\n')) {
        let begins: String = field.chars().take_while(|c| *c != '\n').take(20).collect();
        return Err(format!("a quotation mark before \"{begins}\" runs over several lines; close it on its line"));
    }
    let [name, profile, shape, address, split, wiring, x, y, pitch, angle, mirror, pan, tilt, _groups] = fields;
    if name.is_empty() {
        return Err("it has no name; give it one".to_owned());
    }
    if show.profile(profile).is_none() {
        return Err(format!("there is no profile \"{profile}\"; use a built-in one, such as rgb, or make it first"));
    }
    let shape: Shape = shape.parse().map_err(|e: splimo_show::BadShape| e.to_string())?;
    let wiring: Wiring = wiring.parse().map_err(|e: splimo_show::BadWiring| e.to_string())?;
    if let Some((message, mend)) = shape.fault().or_else(|| wiring.fault()) {
        return Err(format!("{message}; {mend}"));
    }
    let address = match address {
        "" => None,
        text => Some(show.read_address(text).map_err(|e| e.to_string())?),
    };
    Ok(Fixture {
        name: name.to_owned(),
        profile: profile.to_owned(),
        address,
        split: flag("split", split)?,
        shape,
        wiring,
        x: number("x", x, 0.0, -1e6, 1e6)?,
        y: number("y", y, 0.0, -1e6, 1e6)?,
        pitch: number("pitch", pitch, 1.0, 0.001, 10_000.0)?,
        angle: number("angle", angle, 0.0, -3600.0, 3600.0)?,
        mirror: flag("mirror", mirror)?,
        pan: number("pan", pan, 50.0, 0.0, 100.0)?,
        tilt: number("tilt", tilt, 50.0, 0.0, 100.0)?,
    })
}

fn flag(column: &str, text: &str) -> Result<bool, String> {
    match text.to_lowercase().as_str() {
        "" | "no" | "false" | "0" => Ok(false),
        "yes" | "true" | "1" => Ok(true),
        other => Err(format!("{column}: \"{other}\" is neither yes nor no")),
    }
}

fn number<T: FromStr + PartialOrd + Display>(column: &str, text: &str, usual: T, from: T, to: T) -> Result<T, String> {
    if text.is_empty() {
        return Ok(usual);
    }
    let number = text.parse().ok().filter(|n| *n >= from && *n <= to);
    number.ok_or_else(|| format!("{column}: \"{text}\" is not a number from {from} to {to}"))
}

/// Reads free points: a table with the columns x and y, in pitches.
///
/// # Errors
/// A message with the line.
pub fn read_points(bytes: &[u8]) -> Result<Shape, String> {
    let text = text_of(bytes)?;
    let mut reader = reader_of(&text);
    let header = reader.headers().map_err(|e| format!("line 1 cannot be read: {e}"))?.clone();
    let column = |wanted: &str| {
        let found = header.iter().position(|name| name.trim().eq_ignore_ascii_case(wanted));
        found.ok_or_else(|| format!("line 1: the column \"{wanted}\" is missing; the columns are x and y"))
    };
    let columns = [column("x")?, column("y")?];
    let mut points = Vec::new();
    for record in reader.records() {
        let record = record.map_err(|e| format!("it cannot be read: {e}"))?;
        let line = record.position().map_or(0, csv::Position::line);
        let at = |place: usize| -> Result<f32, String> {
            let text = record.get(columns[place]).unwrap_or_default().trim();
            let value: Option<f32> = text.parse().ok();
            let value = value.filter(|v| v.is_finite() && v.abs() < 100_000.0);
            value.ok_or_else(|| format!("line {line}: \"{text}\" is not a number within 100000"))
        };
        points.push([at(0)?, at(1)?]);
        if points.len() > MOST_CELLS as usize {
            return Err(format!("line {line}: a fixture has at most {MOST_CELLS} cells"));
        }
    }
    if points.is_empty() {
        return Err("there is no point in it; write a line for each, under x,y".to_owned());
    }
    Ok(Shape::points(points))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use splimo_show::{Address, Corner, Run};

    fn shape() -> impl Strategy<Value = Shape> {
        let coordinate = -1000f32..1000.0;
        prop_oneof![
            (1u32..1000).prop_map(|cells| Shape::Line { cells }),
            (1u32..100, 1u32..100).prop_map(|(columns, rows)| Shape::Grid { columns, rows }),
            (1u32..1000).prop_map(|cells| Shape::Ring { cells }),
            (1u32..1000, 1f32..360.0).prop_map(|(cells, degrees)| Shape::Arc { cells, degrees }),
            (1u32..30, 1u32..60, 1f32..360.0, 0f32..100.0, any::<bool>()).prop_map(
                |(strings, cells, degrees, width, unrolled)| Shape::Cone { strings, cells, degrees, width, unrolled }
            ),
            proptest::collection::vec([coordinate.clone(), coordinate], 1..20).prop_map(|at| Shape::Points { at }),
        ]
    }

    fn fixture() -> impl Strategy<Value = Fixture> {
        let place = (-1e4f32..1e4, -1e4f32..1e4, 0.001f32..100.0, -720f32..720.0);
        let wiring = (0usize..4, 0usize..2, any::<bool>(), any::<bool>(), 0u32..9);
        let address = proptest::option::of((1u32..64_000, 1u16..=512));
        let rest = (any::<bool>(), any::<bool>(), 0f32..100.0, 0f32..100.0, 0usize..153);
        ("[A-Za-z,\"; é]{0,8}[a-z\"]", shape(), place, wiring, address, rest).prop_map(
            |(name, shape, (x, y, pitch, angle), (start, along, turns, reversed, gap), address, rest)| Fixture {
                name,
                profile: Profile::built_in_names()[rest.4].clone(),
                address: address.map(|(universe, channel)| Address { universe, channel }),
                split: rest.0,
                shape,
                wiring: Wiring {
                    start: Corner::ALL[start],
                    along: Run::ALL[along],
                    turns,
                    reversed,
                    gap,
                    skip: vec![3, 4, 9],
                },
                x,
                y,
                pitch,
                angle,
                mirror: rest.1,
                pan: rest.2,
                tilt: rest.3,
            },
        )
    }
    use splimo_show::Profile;

    proptest! {
        #[test]
        fn a_patch_comes_back_without_a_difference(fixtures in proptest::collection::vec(fixture(), 0..12)) {
            let mut show = Show::empty("Round trip");
            for (index, fixture) in fixtures.into_iter().enumerate() {
                let name = format!("{}{index}", fixture.name.trim_start());
                show.fixtures.push(Fixture { name, ..fixture });
            }
            let text = write(&show);
            let parsed = read(text.as_bytes(), &show).expect("its own text");
            prop_assert_eq!(&parsed.failures, &vec![]);
            let back: Vec<Fixture> = parsed.fixtures.into_iter().map(|(_, fixture)| fixture).collect();
            prop_assert_eq!(back, show.fixtures.clone());
        }

        #[test]
        fn any_bytes_are_read_or_refused(bytes: Vec<u8>, text in "name,profile,shape\n(\\PC{0,30}\n){0,4}") {
            let show = Show::empty("Any");
            let _ = read(&bytes, &show);
            let _ = read(text.as_bytes(), &show);
            let _ = read_points(&bytes);
        }
    }

    #[test]
    fn lines_that_fail_are_told_and_the_rest_is_read() {
        let show = Show::empty("Some");
        let text = "Name,Profile,Shape,Address\nA,rgb,line 4,1.1\nB,rgb,line 4,1.513\n,rgb,line 4,\nC,xyz,line 4,\n\
                    D,rgb,grid 1x100000,\nE,rgb,line 4\nA,rgb,line 4,\nF,rgb,ring 8,0:0:7/1\n";
        let parsed = read(text.as_bytes(), &show).expect("its columns are right");
        let names: Vec<&str> = parsed.fixtures.iter().map(|(_, f)| f.name.as_str()).collect();
        assert_eq!(names, ["A", "F"]);
        assert_eq!(parsed.fixtures[1].1.address, Some(Address { universe: 8, channel: 1 }));
        let failed: Vec<(u64, &str)> = parsed.failures.iter().map(|f| (f.line, f.message.as_str())).collect();
        let wanted = [
            (3, "channel 513"),
            (4, "no name"),
            (5, "\"xyz\""),
            (6, "100000"),
            (7, "3 columns"),
            (8, "used on a line above"),
        ];
        assert_eq!(failed.len(), wanted.len(), "{failed:?}");
        for (is, wanted) in failed.iter().zip(wanted) {
            assert!(is.0 == wanted.0 && is.1.contains(wanted.1), "{is:?}, not {wanted:?}");
        }
    }

    #[test]
    fn lines_are_numbered_as_an_editor_does() {
        let show = Show::empty("Some");
        let failed = |text: &str| -> Vec<(u64, String)> {
            read(text.as_bytes(), &show).expect("columns").failures.into_iter().map(|f| (f.line, f.message)).collect()
        };
        let table = "name,profile,shape\nA,rgb,line 4\nB,xyz,line 4\nC,rgb,line 0\n";
        assert_eq!(failed(table).iter().map(|f| f.0).collect::<Vec<_>>(), [3, 4]);
        assert_eq!(failed(&table.replace('\n', "\r\n")), failed(table));
        // A quotation mark that is never closed, and one that is closed lines later.
        let open = failed("name,profile,shape\nA,rgb,line 4\n\"B,rgb,line 4\nC,rgb,line 4\n");
        assert!(open.len() == 1 && open[0].0 == 3 && open[0].1.contains("never closed"), "{open:?}");
        let late = failed("name,profile,shape\n\"A,rgb,line 4\nB\",rgb,line 4\nC,rgb,line 0\n");
        assert!(late.len() == 2 && late[0].0 == 2 && late[0].1.contains("several lines"), "{late:?}");
    }

    #[test]
    fn groups_go_along() {
        let mut show = Show::empty("Grouped");
        for name in ["A", "B", "C"] {
            show.fixtures.push(Fixture::new(name, "rgb", Shape::Line { cells: 4 }));
        }
        let group = |name: &str, members: &[&str]| splimo_show::Group {
            name: name.to_owned(),
            members: members.iter().map(|&m| m.to_owned()).collect(),
            colour: None,
        };
        show.groups = vec![group("All", &["A", "B", "C"]), group("Ends", &["A", "C"])];
        let text = write(&show);
        assert!(text.contains("All | Ends"), "{text}");
        let groups = read(text.as_bytes(), &show).expect("its own").groups.expect("a column");
        let told: Vec<(&str, usize)> = groups.iter().map(|(name, members)| (name.as_str(), members.len())).collect();
        assert_eq!(told, [("All", 3), ("Ends", 2)]);
        assert_eq!(read(b"name,profile,shape\nA,rgb,line 4\n", &show).expect("columns").groups, None);
    }

    #[test]
    fn tables_that_are_no_patch_are_refused() {
        let show = Show::empty("None");
        for (text, words) in [
            ("a,b,c\n", "no column \"a\""),
            ("name,profile\n", "\"shape\" is missing"),
            ("name,name,profile,shape\n", "there twice"),
            ("", "missing"),
        ] {
            let error = read(text.as_bytes(), &show).expect_err("it is no patch");
            assert!(error.contains(words), "{error}");
        }
        assert!(read(b"name\n\xff", &show).expect_err("no text").contains("line 2 is not UTF-8"));
        assert!(read(&vec![b'a'; LONGEST + 1], &show).expect_err("too long").contains("too many"));
        assert!(read(b"\xef\xbb\xbfname;profile;shape\nA;rgb;line 4\n", &show).is_ok_and(|p| p.fixtures.len() == 1));
    }

    #[test]
    fn points_come_from_a_table() {
        assert_eq!(read_points(b"X,Y\n0,0\n4,2\n"), Ok(Shape::Points { at: vec![[-2.0, -1.0], [2.0, 1.0]] }));
        for (text, words) in [("x\n1\n", "\"y\" is missing"), ("x,y\n1,b\n", "line 2: \"b\""), ("x,y\n", "no point")] {
            assert!(read_points(text.as_bytes()).expect_err("no points").contains(words), "{text}");
        }
    }
}
