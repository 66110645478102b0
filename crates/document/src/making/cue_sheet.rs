//! A cue list as comma-separated values (RFC 4180): one line a cue under a line of column names, with a column for each tier, and back
//! without a difference.

use csv::{ReaderBuilder, StringRecord, WriterBuilder};

use splimo_show::{CommandTemplate, Cue, CueControl, CueList, CueNumber, CueTier, CueTime, GoesOn, MOST_CUES, Show};

/// The columns besides those of tiers, which are headed `on` and the name of the tier.
const COLUMNS: [&str; 17] = [
    "number",
    "name",
    "note",
    "colour",
    "others out",
    "heads ahead",
    "fade in",
    "fade out",
    "delay",
    "goes on",
    "back to",
    "times",
    "master",
    "tempo",
    "speed",
    "controls",
    "commands",
];
/// The longest text that is read, in bytes.
pub const LONGEST_SHEET: usize = 16 << 20;
/// The most lines that fail before reading stops.
const MOST_FAILURES: usize = 1000;

/// A line that is no cue.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SheetFailure {
    /// The line of the text, from 1.
    pub line: u64,
    /// The fault in it, and the way to mend it.
    pub message: String,
}

/// The content of a sheet.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Sheet {
    /// The cues of the lines that are right, in the order of their numbers.
    pub cues: Vec<Cue>,
    /// The other lines.
    pub failures: Vec<SheetFailure>,
}

/// Writes a list.
#[must_use]
pub fn write_sheet(list: &CueList, show: &Show) -> String {
    let mut writer = WriterBuilder::new().from_writer(Vec::new());
    // Memory takes every line, and every line has as many fields as the first.
    let mut write = |record: &[String]| drop(writer.write_record(record));
    let tiers: Vec<&str> = show.stack().iter().map(|tier| tier.name.as_str()).collect();
    let heads = COLUMNS.iter().map(|name| (*name).to_owned());
    write(&heads.chain(tiers.iter().map(|tier| format!("on {tier}"))).collect::<Vec<_>>());
    for cue in &list.cues {
        let number = |value: Option<f32>| value.map(|value| value.to_string()).unwrap_or_default();
        let mut record = vec![
            cue.number.to_string(),
            cue.name.clone(),
            cue.note.clone(),
            cue.colour.clone(),
            yes(cue.others_out),
            yes(cue.ahead),
            cue.fade_in.to_string(),
            cue.fade_out.to_string(),
            cue.delay.to_string(),
            cue.then.to_string(),
            cue.back_to.map(|number| number.to_string()).unwrap_or_default(),
            cue.times.to_string(),
            number(cue.master),
            number(cue.tempo),
            number(cue.speed),
            CueControl::words(&cue.controls),
            cue.does.join("; "),
        ];
        record.extend(tiers.iter().map(|tier| cue.tier(tier).map(CueTier::words).unwrap_or_default()));
        write(&record);
    }
    String::from_utf8(writer.into_inner().unwrap_or_default()).unwrap_or_default()
}

/// Reads a list: columns in any order, found by their names; those that are missing say nothing.
///
/// # Errors
/// A message where no line can be read at all: too long, no UTF-8, or columns that are missing, twice there or not known.
pub fn read_sheet(bytes: &[u8], show: &Show) -> Result<Sheet, String> {
    if bytes.len() > LONGEST_SHEET {
        return Err(format!("it is longer than {} MB", LONGEST_SHEET >> 20));
    }
    let text = std::str::from_utf8(bytes).map_err(|_| "it is no text in UTF-8; save it as such".to_owned())?;
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let mut reader = ReaderBuilder::new().flexible(true).from_reader(text.as_bytes());
    let heads = reader.headers().map_err(|error| format!("line 1 cannot be read: {error}"))?.clone();
    let columns = columns_of(&heads, show)?;
    let mut sheet = Sheet::default();
    let mut record = StringRecord::new();
    loop {
        let read = reader.read_record(&mut record);
        let line = record.position().map_or(0, csv::Position::line);
        let cue = match read {
            Ok(false) => break,
            Ok(true) => cue_of(&record, &columns, show),
            Err(error) => Err(error.to_string()),
        };
        let known = |cue: &Cue| sheet.cues.iter().any(|other| other.number == cue.number);
        match cue {
            Ok(cue) if known(&cue) => {
                let message = format!("there is a cue {} above already; give one another number", cue.number);
                sheet.failures.push(SheetFailure { line, message });
            }
            Ok(cue) => sheet.cues.push(cue),
            Err(message) => sheet.failures.push(SheetFailure { line, message }),
        }
        if sheet.failures.len() >= MOST_FAILURES || sheet.cues.len() > MOST_CUES {
            return Err(format!("line {line}: too much of it cannot be read, or there are more than {MOST_CUES} cues"));
        }
    }
    sheet.cues.sort_by_key(|cue| cue.number);
    Ok(sheet)
}

fn yes(is: bool) -> String {
    if is { "yes" } else { "" }.to_owned()
}

/// The meaning of a column.
enum Column {
    Own(&'static str),
    Tier(String),
}

fn columns_of(heads: &StringRecord, show: &Show) -> Result<Vec<Column>, String> {
    let mut seen = Vec::new();
    let columns = heads
        .iter()
        .map(|head| {
            let head = head.trim();
            if seen.contains(&head) {
                return Err(format!("line 1: the column \"{head}\" is there twice"));
            }
            seen.push(head);
            if let Some(own) = COLUMNS.iter().find(|name| **name == head) {
                return Ok(Column::Own(own));
            }
            let tier = head.strip_prefix("on ").filter(|tier| show.tier(tier).is_some());
            let known = || show.stack().iter().map(|tier| format!("on {}", tier.name)).collect::<Vec<_>>().join(", ");
            tier.map(|tier| Column::Tier(tier.to_owned()))
                .ok_or_else(|| format!("line 1: there is no column \"{head}\"; tiers are {}", known()))
        })
        .collect::<Result<Vec<Column>, String>>()?;
    match columns.iter().any(|column| matches!(column, Column::Own("number"))) {
        true => Ok(columns),
        false => Err("line 1: the column \"number\" is missing; every cue needs one".to_owned()),
    }
}

fn cue_of(record: &StringRecord, columns: &[Column], show: &Show) -> Result<Cue, String> {
    let field = |name: &str| {
        let place = columns.iter().position(|column| matches!(column, Column::Own(own) if *own == name));
        place.and_then(|place| record.get(place)).unwrap_or("").trim()
    };
    let time = |name: &str| match field(name) {
        "" => Ok(CueTime::NONE),
        text => text.parse::<CueTime>().map_err(|why| format!("{name}: {why}")),
    };
    let number = |name: &str, from: f32, to: f32| match field(name) {
        "" => Ok(None),
        text => match text.parse::<f32>().ok().filter(|value| (from..=to).contains(value)) {
            Some(value) => Ok(Some(value)),
            None => Err(format!("{name}: \"{text}\" cannot be; write a number from {from} to {to}, or nothing")),
        },
    };
    let mut cue = Cue::new(field("number").parse().map_err(|why| format!("{why}"))?, field("name"));
    cue.note = field("note").to_owned();
    cue.colour = field("colour").to_owned();
    let flag = |name: &str| match field(name) {
        "yes" => Ok(true),
        "" | "no" => Ok(false),
        other => Err(format!("{name}: \"{other}\" is neither yes nor no")),
    };
    (cue.others_out, cue.ahead) = (flag("others out")?, flag("heads ahead")?);
    (cue.fade_in, cue.fade_out, cue.delay) = (time("fade in")?, time("fade out")?, time("delay")?);
    cue.then = field("goes on").parse::<GoesOn>().map_err(|why| why.to_string())?;
    let back = Some(field("back to")).filter(|text| !text.is_empty());
    cue.back_to = back.map(str::parse::<CueNumber>).transpose().map_err(|why| format!("back to: {why}"))?;
    cue.times = number("times", 0.0, 65_535.0)?.unwrap_or(0.0) as u16;
    cue.master = number("master", 0.0, 100.0)?;
    cue.tempo = number("tempo", 20.0, 400.0)?;
    cue.speed = number("speed", 0.0, 8.0)?;
    cue.controls = CueControl::of_words(field("controls"))?;
    cue.does = CommandTemplate::list(field("commands"));
    for (column, text) in columns.iter().zip(record) {
        if let Column::Tier(tier) = column {
            cue.tiers.extend(CueTier::of_words(tier, text, &show.looks)?);
        }
    }
    Ok(cue)
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use splimo_show::{Look, Tier};

    fn show() -> Show {
        let mut show = Show::empty("Sheet");
        show.looks = ["Low Tide", "Gale 2", "A, \"b\""].map(|name| Look::new(name, Vec::new())).to_vec();
        show.tiers = ["base", "top"].map(Tier::new).to_vec();
        show
    }

    fn any_cue() -> impl Strategy<Value = Cue> {
        let tier = |name: &'static str| {
            let look = prop::option::of(prop_oneof![Just("Low Tide"), Just("Gale 2"), Just("A, \"b\"")]);
            let level = prop::option::of((0u16..=1000).prop_map(|tenths| f32::from(tenths) / 10.0));
            (look, any::<bool>(), level).prop_map(move |(look, out, level)| {
                let tier =
                    CueTier { tier: name.into(), look: look.map(str::to_owned), out: out && look.is_none(), level };
                Some(tier).filter(|tier| tier.look.is_some() || tier.out || tier.level.is_some())
            })
        };
        let time = prop_oneof![
            (0u16..1000).prop_map(|tenths| CueTime::Seconds(f32::from(tenths) / 10.0)),
            (0u8..64).prop_map(|beats| CueTime::Beats(f32::from(beats))),
            (0u8..64).prop_map(|bars| CueTime::Bars(f32::from(bars))),
        ];
        let then = prop_oneof![Just("by hand"), Just("after 3 s"), Just("on phrase"), Just("on music part drop")];
        let words = "[a-z,\" ]{0,12}";
        ((words, words), (tier("base"), tier("top")), [time.clone(), time.clone(), time], then, any::<bool>(), 0u16..9)
            .prop_map(|((name, note), (base, top), [fade_in, fade_out, delay], then, others_out, times)| Cue {
                note: note.trim().to_owned(),
                tiers: base.into_iter().chain(top).collect(),
                others_out,
                ahead: times == 2,
                master: (times > 5).then_some(f32::from(times) * 2.5),
                does: if times == 3 { vec!["master 40".into(), "blackout".into()] } else { Vec::new() },
                controls: if times == 4 { vec![CueControl { control: 3, percent: 12.5 }] } else { Vec::new() },
                back_to: (times > 6).then_some(CueNumber::ONE),
                fade_in,
                fade_out,
                delay,
                then: then.parse().expect("a way"),
                times,
                ..Cue::new(CueNumber::ONE, name.trim())
            })
    }

    /// Times of nothing are the same in every unit.
    fn plain(mut cue: Cue) -> Cue {
        for time in [&mut cue.fade_in, &mut cue.fade_out, &mut cue.delay] {
            if time.count() == 0.0 {
                *time = CueTime::NONE;
            }
        }
        cue
    }

    proptest! {
        #[test]
        fn a_list_is_itself_again_as_a_sheet(cues in prop::collection::vec(any_cue(), 0..8)) {
            let mut list = CueList::new("Any");
            for cue in cues {
                let number = list.free_number(None).expect("a number");
                list.cues.push(Cue { number, ..cue });
            }
            let sheet = read_sheet(write_sheet(&list, &show()).as_bytes(), &show()).expect("it can be read");
            prop_assert_eq!(&sheet.failures, &[]);
            let wanted: Vec<Cue> = list.cues.into_iter().map(plain).collect();
            prop_assert_eq!(sheet.cues.into_iter().map(plain).collect::<Vec<_>>(), wanted);
        }

        #[test]
        fn any_bytes_are_taken(bytes in prop::collection::vec(any::<u8>(), 0..200)) {
            let _ = read_sheet(&bytes, &show());
        }
    }

    #[test]
    fn lines_that_fail_are_told_and_the_others_are_read() {
        let text = "name,number,on base,goes on,fade in\nDoors,1,low 60,by hand,2 bars\nBuild,two,,,\nStab,2,fog,,\nDrop,1,,,\nEnd,7.5,out,soon,\nLast,9,out,,\n";
        let sheet = read_sheet(text.as_bytes(), &show()).expect("it can be read");
        let numbers: Vec<String> = sheet.cues.iter().map(|cue| cue.number.to_string()).collect();
        assert_eq!(numbers, ["1", "9"]);
        assert_eq!(sheet.cues[0].tiers[0].words(), "Low Tide 60");
        let told: Vec<(u64, &str)> = sheet.failures.iter().map(|one| (one.line, one.message.as_str())).collect();
        assert_eq!(told.iter().map(|(line, _)| *line).collect::<Vec<_>>(), [3, 4, 5, 6]);
        for ((_, message), why) in
            told.iter().zip(["\"two\" is no number", "no look \"fog\"", "cue 1 above", "\"soon\""])
        {
            assert!(message.contains(why), "{message}");
        }
        for (head, why) in
            [("name", "\"number\" is missing"), ("number,on sky", "on base, on top"), ("number,number", "twice")]
        {
            assert!(read_sheet(head.as_bytes(), &show()).expect_err(head).contains(why), "{head}");
        }
    }
}
