//! The forms of the view: of a cue or several, of a list, and of a list made of looks.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::KeyEvent;
use ratatui::layout::Rect;
use splimo_document::Command;
use splimo_document::edit::Edit;
use splimo_document::making;
use splimo_show::CommandTemplate;
use splimo_show::{Cue, CueControl, CueList, CueNumber, CueTier, CueTime, GoesOn, MOST_TIERS, Show};

use crate::kit::float::float;
use crate::kit::form::{self, Field, Form};
use crate::kit::theme::Theme;

/// The width of a form, in columns.
const WIDTH: u16 = 92;
/// The ids of the fields of tiers.
const TIERS: [&str; MOST_TIERS] = [
    "tier 1", "tier 2", "tier 3", "tier 4", "tier 5", "tier 6", "tier 7", "tier 8", "tier 9", "tier 10", "tier 11",
    "tier 12", "tier 13", "tier 14", "tier 15", "tier 16",
];
/// The words for the looks of a new list, besides tags and banks.
const ALL: &str = "all looks";
const NAMED: &str = "those named";

/// A form that is open.
pub(super) struct OpenForm {
    title: String,
    pub(super) form: Form,
    of: Of,
}

/// The thing that a form is of.
enum Of {
    /// Cues of a list, by their places: one, or several of which only what is touched changes.
    Cues(usize, Vec<usize>),
    /// A new cue behind the one at a place.
    NewCue(usize),
    /// A list: its place, if it is not new.
    List(Option<usize>),
    /// A list of looks.
    Looks,
}

/// The reply of a form to a key.
pub(super) enum Reply {
    /// It stays open.
    Stay,
    /// It closes.
    Close,
    /// It closes, and this edit is to be done.
    Keep(Box<Edit>),
    /// It closes, and this is to be asked for.
    Ask(Box<Command>),
    /// The key means nothing here.
    Pass,
}

fn number_text(value: Option<f32>) -> String {
    value.map(|value| value.to_string()).unwrap_or_default()
}

/// Commands with a `;` between them.
fn cue_fields(cue: &Cue, list: &CueList, show: &Show, many: bool) -> Vec<Field> {
    let mut fields = vec![
        Field::text("number", "number", cue.number.to_string()),
        Field::text("name", "name", cue.name.clone()),
        Field::text("note", "note", cue.note.clone()),
        Field::text("colour", "colour", cue.colour.clone()),
    ];
    fields[0].shown = !many;
    fields[3].hint = "#ff8800 or orange; empty is none".to_owned();
    for (id, tier) in TIERS.iter().zip(show.stack()) {
        let words = cue.tier(&tier.name).map(CueTier::words).unwrap_or_default();
        let mut field = Field::text(id, format!("on {}", tier.name), words);
        field.hint = "a look and a level, out, or empty to keep".to_owned();
        fields.push(field);
    }
    let mut more = vec![
        Field::flag("others", "all others out", cue.others_out),
        Field::text("in", "fade in", cue.fade_in.to_string()),
        Field::text("out", "fade out", cue.fade_out.to_string()),
        Field::text("delay", "delay", cue.delay.to_string()),
        Field::text("then", "goes on", cue.then.to_string()),
        Field::text("back", "back to cue", cue.back_to.map(|number| number.to_string()).unwrap_or_default()),
        Field::number("times", "so many times", f64::from(cue.times), 0.0, 999.0, 1.0),
        Field::text("master", "master", number_text(cue.master)),
        Field::text("tempo", "tempo", number_text(cue.tempo)),
        Field::text("speed", "speed", number_text(cue.speed)),
        Field::text("controls", "controls", CueControl::words(&cue.controls)),
        Field::text("do", "commands", cue.does.join("; ")),
        Field::flag("ahead", "heads go ahead", cue.ahead),
    ];
    let hints = [
        ("in", "3 s, 2 beats, 1 bar"),
        ("then", "by hand, after 3 s, on bar, on music part drop"),
        ("ahead", "dark heads turn to it while the list waits for it"),
        ("back", "a cue before it, for a loop; else empty"),
        ("times", "0 until go"),
        ("controls", "such as 3 50, 4 0"),
        ("do", "with ; between them"),
        ("master", "percent, or empty to keep"),
    ];
    for (id, hint) in hints {
        if let Some(field) = more.iter_mut().find(|field| field.id == id) {
            hint.clone_into(&mut field.hint);
        }
    }
    if cue.then == GoesOn::ByHand && list.then != GoesOn::ByHand {
        let field = more.iter_mut().find(|field| field.id == "then");
        field.into_iter().for_each(|field| field.hint = format!("as the list: {}", list.then));
    }
    fields.append(&mut more);
    fields
}

/// Takes a number, or nothing, out of a field.
fn read_number(form: &Form, id: &str, from: f32, to: f32) -> Result<Option<f32>, String> {
    let text = form.text(id);
    if text.is_empty() {
        return Ok(None);
    }
    let number = text.trim_end_matches('%').trim().parse::<f32>().ok().filter(|number| (from..=to).contains(number));
    number.map(Some).ok_or_else(|| format!("{id}: \"{text}\" cannot be; type a number from {from} to {to}, or nothing"))
}

/// Puts what a form says into a cue: all of it, or what was touched.
fn put_into(form: &Form, cue: &mut Cue, show: &Show, many: bool) -> Result<(), String> {
    let takes = |id: &str| !many || form.touched(id);
    let time = |id: &str| form.text(id).parse::<CueTime>().map_err(|why| format!("{id}: {why}"));
    if !many {
        cue.number = form.text("number").parse().map_err(|why| format!("{why}"))?;
    }
    for (id, text) in [("name", &mut cue.name), ("note", &mut cue.note), ("colour", &mut cue.colour)] {
        if takes(id) {
            *text = form.text(id);
        }
    }
    for (id, tier) in TIERS.iter().zip(show.stack()).filter(|(id, _)| takes(id)) {
        let said = CueTier::of_words(&tier.name, &form.text(id), &show.looks)?;
        let place = cue.tiers.iter().position(|one| one.tier == tier.name);
        match (said, place) {
            (Some(said), Some(place)) => cue.tiers[place] = said,
            (Some(said), None) => cue.tiers.push(said),
            (None, Some(place)) => drop(cue.tiers.remove(place)),
            (None, None) => {}
        }
    }
    if takes("others") {
        cue.others_out = form.flag("others");
    }
    if takes("ahead") {
        cue.ahead = form.flag("ahead");
    }
    for (id, field) in [("in", &mut cue.fade_in), ("out", &mut cue.fade_out), ("delay", &mut cue.delay)] {
        if takes(id) {
            *field = time(id)?;
        }
    }
    if takes("then") {
        cue.then = form.text("then").parse::<GoesOn>().map_err(|why| why.to_string())?;
    }
    if takes("back") {
        let text = form.text("back");
        let number = (!text.is_empty()).then(|| text.parse::<CueNumber>()).transpose();
        cue.back_to = number.map_err(|why| why.to_string())?;
    }
    if takes("times") {
        cue.times = form.whole("times") as u16;
    }
    for (id, value, most) in [
        ("master", &mut cue.master, [0.0, 100.0]),
        ("tempo", &mut cue.tempo, [20.0, 400.0]),
        ("speed", &mut cue.speed, [0.0, 8.0]),
    ] {
        if takes(id) {
            *value = read_number(form, id, most[0], most[1])?;
        }
    }
    if takes("controls") {
        cue.controls = CueControl::of_words(&form.text("controls"))?;
    }
    if takes("do") {
        cue.does = CommandTemplate::list(&form.text("do"));
    }
    Ok(())
}

fn list_fields(list: &CueList) -> Vec<Field> {
    let mut fields = vec![
        Field::text("name", "name", list.name.clone()),
        Field::number("priority", "priority", f64::from(list.priority), 0.0, 100.0, 5.0),
        Field::text("then", "goes on", list.then.to_string()),
        Field::flag("wrap", "begins again", list.wrap),
    ];
    fields[1].hint = "above 0 it keeps its tiers from pads and lower lists".to_owned();
    fields[2].hint = "by hand, after 3 s, on bar, on pad box note 36".to_owned();
    fields[3].hint = "the first cue follows the last".to_owned();
    fields
}

/// A name that no list has.
fn free_name(show: &Show, stem: &str) -> String {
    let mut names = std::iter::once(stem.to_owned()).chain((2..).map(|count: u32| format!("{stem} {count}")));
    names.find(|name| show.cue_list(name).is_none()).unwrap_or_else(|| stem.to_owned())
}

/// The answer to a key by what the form made of it. `edit` is there where it is to be kept: why it cannot be stands in the form.
pub(super) fn answer(form: &mut Form, reply: form::Reply, edit: Option<Result<Edit, String>>) -> Reply {
    match (reply, edit) {
        (form::Reply::Restore, _) => Reply::Close,
        (form::Reply::Pass, _) => Reply::Pass,
        (form::Reply::Keep, Some(Ok(edit))) => Reply::Keep(Box::new(edit)),
        (form::Reply::Keep, Some(Err(why))) => {
            form.error = Some(why);
            Reply::Stay
        }
        (form::Reply::Keep, None) | (form::Reply::Changed | form::Reply::Quiet, _) => Reply::Stay,
    }
}

impl OpenForm {
    fn new(title: String, fields: Vec<Field>, of: Of) -> Self {
        let mut open = Self { title, form: Form::new(fields), of };
        open.follow();
        open
    }

    /// The form of cues of a list.
    pub(super) fn cues(show: &Show, list: usize, places: Vec<usize>) -> Option<Self> {
        let of = show.cue_lists.get(list)?;
        let first = of.cues.get(*places.first()?)?;
        let title = match places.len() {
            1 => format!("cue {} of {}", first.number, of.name),
            count => format!("{count} cues of {}", of.name),
        };
        let mut fields = cue_fields(first, of, show, places.len() > 1);
        for place in &places[1..] {
            let others = cue_fields(of.cues.get(*place)?, of, show, true);
            for (field, other) in fields.iter_mut().zip(others) {
                field.mixed |= field.value != other.value;
            }
        }
        let mut open = Self::new(title, fields, Of::Cues(list, places));
        open.form.go_to("name");
        Some(open)
    }

    /// The form of a new cue behind the one at a place.
    pub(super) fn new_cue(show: &Show, list: usize, behind: Option<usize>) -> Result<Self, String> {
        let of = show.cue_lists.get(list).ok_or("there is no list yet; a adds one")?;
        let number = of.free_number(behind).ok_or("there is no number free behind that cue; N renumbers the list")?;
        let fade = behind.and_then(|place| of.cues.get(place)).map_or(CueTime::NONE, |cue| cue.fade_in);
        let cue = Cue { fade_in: fade, fade_out: fade, ..Cue::new(number, "") };
        let mut open =
            Self::new(format!("a new cue of {}", of.name), cue_fields(&cue, of, show, false), Of::NewCue(list));
        open.form.go_to("name");
        Ok(open)
    }

    /// The form of a list, or of a new one.
    pub(super) fn list(show: &Show, place: Option<usize>) -> Self {
        let known = place.and_then(|place| show.cue_lists.get(place)).cloned();
        let title = known.as_ref().map_or("a new cue list".to_owned(), |list| format!("the list {}", list.name));
        let list = known.unwrap_or_else(|| CueList::new(&free_name(show, "List")));
        Self::new(title, list_fields(&list), Of::List(place))
    }

    /// The form of a list of looks.
    pub(super) fn looks(show: &Show) -> Self {
        let mut tags: Vec<&str> = show.looks.iter().flat_map(|look| &look.tags).map(String::as_str).collect();
        tags.sort_unstable();
        tags.dedup();
        let banks = show.banks.iter().map(|bank| format!("bank {}", bank.name));
        let tags = tags.into_iter().map(|tag| format!("tag {tag}"));
        let which = [NAMED.to_owned(), ALL.to_owned()].into_iter().chain(banks).chain(tags);
        let tiers = show.stack().iter().map(|tier| tier.name.clone());
        let mut fields = vec![
            Field::text("name", "name", free_name(show, "List")),
            Field::choice("which", "looks", which, NAMED),
            Field::text("names", "named", ""),
            Field::choice("tier", "on tier", tiers, &show.stack()[0].name),
            Field::text("each", "each for", "3 s"),
            Field::text("fade", "faded by", "1 s"),
            Field::flag("wrap", "begins again", true),
        ];
        fields[2].hint = "with commas, in this order".to_owned();
        fields[4].hint = "3 s, 4 bars; empty goes on by hand".to_owned();
        fields[5].hint = "1 s, 2 beats, 0".to_owned();
        Self::new("a list of looks".to_owned(), fields, Of::Looks)
    }

    fn follow(&mut self) {
        if matches!(self.of, Of::Looks) {
            let named = self.form.text("which") == NAMED;
            self.form.show("names", named);
        }
    }

    /// Writes a text into the field.
    pub(super) fn paste(&mut self, text: &str) {
        self.form.paste(text);
        self.follow();
    }

    /// Handles a key.
    pub(super) fn key(&mut self, key: KeyEvent, show: &Show) -> Reply {
        let reply = self.form.key(key);
        if reply == form::Reply::Changed {
            self.follow();
        }
        let edit = (reply == form::Reply::Keep).then(|| self.edit(show));
        answer(&mut self.form, reply, edit)
    }

    /// The edit that the form tells of.
    fn edit(&self, show: &Show) -> Result<Edit, String> {
        let gone = || "that list is gone; Esc closes".to_owned();
        match &self.of {
            Of::Cues(list, places) => {
                let mut changed = show.cue_lists.get(*list).ok_or_else(gone)?.clone();
                for place in places {
                    let cue = changed.cues.get_mut(*place).ok_or_else(gone)?;
                    put_into(&self.form, cue, show, places.len() > 1)?;
                }
                Ok(Edit::PutCueLists(vec![(*list, changed)]))
            }
            Of::NewCue(list) => {
                let mut changed = show.cue_lists.get(*list).ok_or_else(gone)?.clone();
                let mut cue = Cue::new(CueNumber::ONE, "");
                put_into(&self.form, &mut cue, show, false)?;
                changed.cues.push(cue);
                Ok(Edit::PutCueLists(vec![(*list, changed)]))
            }
            Of::List(place) => {
                let known = place.and_then(|place| show.cue_lists.get(place)).cloned();
                let list = CueList {
                    name: self.form.text("name"),
                    priority: self.form.whole("priority") as u8,
                    then: self.form.text("then").parse().map_err(|why| format!("{why}"))?,
                    wrap: self.form.flag("wrap"),
                    ..known.unwrap_or_else(|| CueList::new(""))
                };
                Ok(match place {
                    Some(place) => Edit::PutCueLists(vec![(*place, list)]),
                    None => Edit::AddCueLists(show.cue_lists.len(), vec![list]),
                })
            }
            Of::Looks => {
                let looks = self.looks_chosen(show)?;
                let time = |id: &str| self.form.text(id).parse::<CueTime>().map_err(|why| why.to_string());
                let then = match self.form.text("each").is_empty() {
                    true => GoesOn::ByHand,
                    false => GoesOn::After(time("each")?),
                };
                let list =
                    making::list_of(&self.form.text("name"), &looks, &self.form.text("tier"), time("fade")?, &then);
                let list = CueList { wrap: self.form.flag("wrap"), ..list };
                Ok(Edit::AddCueLists(show.cue_lists.len(), vec![list]))
            }
        }
    }

    fn looks_chosen(&self, show: &Show) -> Result<Vec<String>, String> {
        let which = self.form.text("which");
        let all = || show.looks.iter();
        let looks: Vec<String> = if which == ALL {
            all().map(|look| look.name.clone()).collect()
        } else if let Some(tag) = which.strip_prefix("tag ") {
            all().filter(|look| look.tags.iter().any(|own| own == tag)).map(|look| look.name.clone()).collect()
        } else if let Some(bank) = which.strip_prefix("bank ") {
            let bank = show.banks.iter().find(|one| one.name == bank);
            let mut pads: Vec<_> = bank.into_iter().flat_map(|bank| &bank.pads).collect();
            pads.sort_by_key(|pad| pad.place);
            pads.iter().filter_map(|pad| pad.look.clone()).collect()
        } else {
            let text = self.form.text("names");
            let names = text.split(',').map(str::trim).filter(|name| !name.is_empty());
            let meant = |name: &str| {
                let said = CueTier::of_words("named", name, &show.looks)?;
                said.and_then(|said| said.look).ok_or_else(|| format!("named: \"{name}\" is no look"))
            };
            names.map(meant).collect::<Result<_, String>>()?
        };
        match looks.is_empty() {
            true => Err("looks: none are chosen; name some, or choose a bank or a tag".to_owned()),
            false => Ok(looks),
        }
    }

    /// Draws the form over the view.
    pub(super) fn draw(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let rows = self.form.fields.iter().filter(|field| field.shown).count() as u16;
        let inside = float(&self.title, WIDTH, rows + 5, theme, area, buffer);
        self.form.draw(theme, inside, buffer);
    }
}
