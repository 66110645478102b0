//! The forms of patterns, their lanes and events.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::KeyEvent;
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_document::making::patterns;
use splimo_show::{
    CueTier, EventShape, FASTEST_STROBE, Lane, LaneKind, Look, MOST_BARS, Note, Pattern, PatternEvent, Repeat, Show,
    Span, TICKS, Ticks,
};
use splimo_time::music::Section;

use crate::kit::float::float;
use crate::kit::form::{self, Field, Form};
use crate::kit::theme::Theme;
use crate::views::cues::forms::{Reply, answer};

/// The width of a form, in columns.
const WIDTH: u16 = 84;
/// The choice of no note.
const TOGETHER: &str = "together";
/// The orders in which lights may be later.
const ORDERS: [Span; 3] = [Span::Order, Span::OrderInGroup, Span::OrderInFixture];

/// The thing that a form is of.
enum Of {
    New,
    Pattern(Vec<usize>),
    NewLane,
    Lane(usize),
    /// An event of a lane, or a new one there.
    Event(usize, Box<PatternEvent>),
    /// A time of some lanes over whose events a shape is drawn.
    Shape(Vec<usize>, Ticks, Ticks),
    /// A time of some lanes that is repeated.
    Repeat(Vec<usize>, Ticks, Ticks),
}

/// A form of a pattern.
pub(crate) struct PatternForm {
    of: Of,
    /// The place of the look.
    look: usize,
    pub(crate) form: Form,
}

fn words<T: Copy>(all: &[T], name: impl Fn(T) -> &'static str) -> Vec<&'static str> {
    all.iter().map(|one| name(*one)).collect()
}

fn names(text: &str) -> Vec<String> {
    text.split(',').map(|name| name.trim().to_owned()).filter(|name| !name.is_empty()).collect()
}

fn pattern_fields(look: &Look, pattern: &Pattern) -> Vec<Field> {
    let fits: Vec<&str> = look.fits.iter().map(|section| section.name()).collect();
    let mut fields = vec![
        Field::text("name", "name", look.name.clone()),
        Field::number("bars", "bars", f64::from(pattern.bars), 1.0, f64::from(MOST_BARS), 1.0),
        Field::choice("grid", "grid", words(Note::ALL, Note::name), pattern.grid.name()),
        Field::flag("once", "plays once", pattern.once),
        Field::number("speed", "times faster", pattern.speed, 0.125, 8.0, 0.5),
        Field::text("tempo", "own tempo", pattern.tempo.map(|tempo| tempo.to_string()).unwrap_or_default()),
        Field::text("tags", "tags", look.tags.join(", ")),
        Field::text("fits", "fits", fits.join(", ")),
    ];
    fields[4].hint = "0.5 half, 2 double".to_owned();
    fields[5].hint = "beats a minute, or empty: the clock's".to_owned();
    fields[6].hint = "words with commas between".to_owned();
    fields[7].hint = "intro, build, drop, breakdown, outro; empty: all".to_owned();
    fields
}

fn lane_fields(lane: &Lane) -> Vec<Field> {
    // The finest first: runs are made of them.
    let later = std::iter::once(TOGETHER).chain(words(Note::ALL, Note::name).into_iter().rev());
    let mut fields = vec![
        Field::choice("of", "of", words(LaneKind::ALL, LaneKind::name), lane.kind.name()),
        Field::text("lights", "lights", lane.lights.join(", ")),
        Field::choice("later", "each later by", later, lane.later.map_or(TOGETHER, Note::name)),
        Field::choice("order", "in the order", words(&ORDERS, Span::name), lane.order.name()),
        Field::choice("turned", "turned", words(&Repeat::ALL, Repeat::name), lane.turned.name()),
        Field::text("mixed", "mixed by", lane.mixed.map(|seed| seed.to_string()).unwrap_or_default()),
        Field::text("rest", "without event", lane.rest.map(|rest| rest.to_string()).unwrap_or_default()),
    ];
    fields[1].hint = "groups and fixtures with commas between; empty: all".to_owned();
    fields[2].hint = "a run, light by light".to_owned();
    fields[5].hint = "a number mixes the order, empty: it goes along".to_owned();
    fields[6].hint = "percent of a level; empty: as below".to_owned();
    fields
}

fn event_fields(kind: LaneKind, event: &PatternEvent) -> Vec<Field> {
    let beats = |ticks: Ticks| (ticks.beats() * 1000.0).round() / 1000.0;
    let most = f64::from(MOST_BARS * 4);
    let mut fields = vec![
        Field::number("at", "at beat", beats(event.at), 0.0, most, 0.25),
        Field::number("length", "beats", beats(event.length), 0.0, most, 0.25),
    ];
    match kind {
        LaneKind::Level => {
            fields.push(Field::number("level", "level", f64::from(event.level.unwrap_or(100.0)), 0.0, 100.0, 5.0));
            fields.push(Field::choice("shape", "shape", words(EventShape::ALL, EventShape::name), event.shape.name()));
            let curve: Vec<String> = event.curve.iter().map(f32::to_string).collect();
            let mut field = Field::text("curve", "curve", curve.join(" "));
            field.hint = "for the shape curve: percents, such as 0 100 50".to_owned();
            fields.push(field);
        }
        LaneKind::Colour => {
            let mut field = Field::text("colour", "colour", event.colour.clone().unwrap_or_default());
            field.hint = "#ff8800, orange, 3200 K, {palette} or rainbow".to_owned();
            fields.push(field);
            fields.push(Field::flag("fades", "fades to the next", event.fades));
        }
        LaneKind::Look => fields.push(Field::text("look", "look", event.look.clone().unwrap_or_default())),
        LaneKind::Aim => {
            fields.push(Field::text("aim", "aim", event.aim.clone().unwrap_or_default()));
            let glide = event.glide.map_or(0.0, beats);
            let mut field = Field::number("glide", "glide, beats", glide, 0.0, most, 0.5);
            field.hint = "from where the heads were; 0: as fast as they can".to_owned();
            fields.push(field);
        }
        LaneKind::Strobe => {
            let rate = f64::from(event.rate.unwrap_or(8.0));
            fields.push(Field::number("rate", "flashes a second", rate, 0.1, f64::from(FASTEST_STROBE), 1.0));
        }
    }
    fields
}

/// The first field that tells what an event does.
fn first_of(kind: LaneKind) -> &'static str {
    match kind {
        LaneKind::Level => "level",
        LaneKind::Colour => "colour",
        LaneKind::Look => "look",
        LaneKind::Aim => "aim",
        LaneKind::Strobe => "rate",
    }
}

/// The name of the aim that a text begins.
fn aim_of(text: &str, show: &Show) -> Result<String, String> {
    let lower = text.trim().to_lowercase();
    let all = || show.aims.iter().map(|aim| aim.name.as_str());
    let found = all().find(|name| name.to_lowercase() == lower);
    let found = found.or_else(|| all().find(|name| !lower.is_empty() && name.to_lowercase().starts_with(&lower)));
    found.map(str::to_owned).ok_or_else(|| match show.aims.is_empty() {
        true => "aim: the show has none yet; record one among the aims (Tab)".to_owned(),
        false => format!("aim: there is no \"{}\"; there is {}", text.trim(), all().collect::<Vec<_>>().join(", ")),
    })
}

impl PatternForm {
    /// The form of a new pattern.
    pub(super) fn new(show: &Show) -> Self {
        let count = show.looks.iter().filter(|look| look.pattern.is_some()).count();
        let look = Look::new(&format!("Pattern {}", count + 1), Vec::new());
        Self { of: Of::New, look: show.looks.len(), form: Form::new(pattern_fields(&look, &Pattern::new(4))) }
    }

    /// The form of a pattern.
    /// With others that are marked, all of them get what is changed in it; names stay.
    pub(super) fn pattern(place: usize, look: &Look, pattern: &Pattern, others: Vec<usize>) -> Self {
        let mut fields = pattern_fields(look, pattern);
        fields[0].shown = others.is_empty();
        let mut form = Form::new(fields);
        if !others.is_empty() {
            form.go_to("bars");
        }
        Self { of: Of::Pattern(others), look: place, form }
    }

    /// The form of a new lane, for the lights of the one before it.
    pub(super) fn new_lane(look: usize, before: Option<&Lane>) -> Self {
        let lights = before.map(|lane| lane.lights.clone()).unwrap_or_default();
        let lane = Lane { lights, ..Lane::new(LaneKind::Level) };
        Self { of: Of::NewLane, look, form: Form::new(lane_fields(&lane)) }
    }

    /// The form of a lane.
    pub(super) fn lane(look: usize, place: usize, lane: &Lane) -> Self {
        Self { of: Of::Lane(place), look, form: Form::new(lane_fields(lane)) }
    }

    /// The form of an event of a lane, or of a new one.
    pub(super) fn event(look: usize, lane: usize, kind: LaneKind, event: &PatternEvent) -> Self {
        let mut form = Form::new(event_fields(kind, event));
        form.go_to(first_of(kind));
        Self { of: Of::Event(lane, Box::new(event.clone())), look, form }
    }

    /// The form that asks how often a time of some lanes is repeated.
    pub(super) fn repeat(look: usize, lanes: Vec<usize>, from: Ticks, to: Ticks) -> Self {
        let mut field = Field::number("every", "every", 1.0, 0.25, f64::from(MOST_BARS), 1.0);
        field.hint = "so many bars, to the end".to_owned();
        Self { of: Of::Repeat(lanes, from, to), look, form: Form::new(vec![field]) }
    }

    /// The form of a shape that is drawn over the events of a time of some lanes.
    pub(super) fn draw_over(look: usize, lanes: Vec<usize>, from: Ticks, to: Ticks) -> Self {
        let fields = vec![
            Field::choice("shape", "shape", words(EventShape::ALL, EventShape::name), EventShape::Up.name()),
            Field::number("level", "highest level", 100.0, 0.0, 100.0, 5.0),
        ];
        Self { of: Of::Shape(lanes, from, to), look, form: Form::new(fields) }
    }

    /// Handles a key.
    pub(crate) fn key(&mut self, key: KeyEvent, show: &Show) -> Reply {
        let reply = self.form.key(key);
        let edit = (reply == form::Reply::Keep).then(|| self.edit(show));
        answer(&mut self.form, reply, edit)
    }

    fn edit(&self, show: &Show) -> Result<Edit, String> {
        if matches!(self.of, Of::New) {
            let look = Look { pattern: Some(Pattern::new(4)), ..Look::new("", Vec::new()) };
            return Ok(Edit::AddLooks(show.looks.len(), vec![self.look_of(look)?]));
        }
        let mut look = show.looks.get(self.look).ok_or("the pattern is gone")?.clone();
        let pattern = look.pattern.as_mut().ok_or("the pattern is gone")?;
        let length = pattern.length();
        match &self.of {
            Of::New => {}
            Of::Pattern(others) => return self.edit_all(show, others),
            Of::Shape(lanes, from, to) => {
                let shape = EventShape::ALL.iter().find(|shape| shape.name() == self.form.text("shape"));
                let (shape, level) = (shape.copied().unwrap_or_default(), self.form.number("level") as f32);
                for lane in lanes {
                    let lane = pattern.lanes.get_mut(*lane).ok_or("the lane is gone")?;
                    patterns::draw_over(lane, *from, *to, shape, level)?;
                }
            }
            Of::NewLane => pattern.lanes.push(self.lane_of(Lane::new(LaneKind::Level), show)?),
            Of::Lane(place) => {
                let lane = pattern.lanes.get_mut(*place).ok_or("the lane is gone")?;
                *lane = self.lane_of(lane.clone(), show)?;
            }
            Of::Event(lane, before) => {
                let lane = pattern.lanes.get_mut(*lane).ok_or("the lane is gone")?;
                let event = self.event_of(lane.kind, before, show)?;
                patterns::clear(lane, before.at, before.end());
                patterns::put(lane, event, length)?;
            }
            Of::Repeat(lanes, from, to) => {
                let every = Ticks((self.form.number("every") * f64::from(4 * TICKS)).round() as u32);
                for lane in lanes {
                    patterns::repeat(
                        pattern.lanes.get_mut(*lane).ok_or("the lane is gone")?,
                        *from,
                        *to,
                        every,
                        length,
                    )?;
                }
            }
        }
        Ok(Edit::PutLooks(vec![(self.look, look)]))
    }

    /// The edit of the pattern, and of others along with it.
    fn edit_all(&self, show: &Show, others: &[usize]) -> Result<Edit, String> {
        let places = std::iter::once(self.look).chain(others.iter().copied());
        let looks = places.map(|place| {
            let look = show.looks.get(place).ok_or("the pattern is gone")?;
            Ok((place, self.look_of(look.clone()).map_err(|why| format!("{}: {why}", look.name))?))
        });
        Ok(Edit::PutLooks(looks.collect::<Result<_, String>>()?))
    }

    fn look_of(&self, known: Look) -> Result<Look, String> {
        let form = &self.form;
        // Of several, each keeps what nobody has touched.
        let many = matches!(&self.of, Of::Pattern(others) if !others.is_empty());
        let takes = |id: &str| !many || form.touched(id);
        let tempo = form.text("tempo");
        let tempo = match tempo.parse::<f64>() {
            _ if tempo.is_empty() => None,
            Ok(number) if (20.0..=400.0).contains(&number) => Some(number),
            _ => return Err(format!("own tempo: \"{tempo}\" cannot be; type 20 to 400, or nothing")),
        };
        let section = |name: &String| Section::ALL.into_iter().find(|one| one.name() == name);
        let fits = names(&form.text("fits"));
        if let Some(other) = fits.iter().find(|name| section(name).is_none()) {
            return Err(format!("fits: there is no part \"{other}\"; type intro, build, drop, breakdown or outro"));
        }
        let grid = Note::ALL.iter().find(|note| note.name() == form.text("grid"));
        let mut pattern = known.pattern.clone().unwrap_or_else(|| Pattern::new(4));
        if takes("bars") {
            pattern.bars = form.whole("bars");
        }
        if takes("grid") {
            pattern.grid = grid.copied().unwrap_or_default();
        }
        if takes("once") {
            pattern.once = form.flag("once");
        }
        if takes("speed") {
            pattern.speed = form.number("speed");
        }
        if takes("tempo") {
            pattern.tempo = tempo;
        }
        let length = pattern.length();
        if let Some(lane) =
            pattern.lanes.iter().position(|lane| lane.events.last().is_some_and(|last| last.end() > length))
        {
            return Err(format!(
                "bars: lane {} has events behind {} bars; take them out first",
                lane + 1,
                pattern.bars
            ));
        }
        let mut look = Look { pattern: Some(pattern), ..known };
        if !many {
            look.name = form.text("name");
        }
        if takes("tags") {
            look.tags = names(&form.text("tags"));
        }
        if takes("fits") {
            look.fits = fits.iter().filter_map(section).collect();
        }
        Ok(look)
    }

    fn lane_of(&self, known: Lane, show: &Show) -> Result<Lane, String> {
        let form = &self.form;
        let kind = LaneKind::ALL.iter().find(|kind| kind.name() == form.text("of")).copied().unwrap_or_default();
        if kind != known.kind && !known.events.is_empty() {
            return Err(format!("of: the lane has events of {}; take them out first, or add a lane", known.kind));
        }
        let lights = names(&form.text("lights"));
        let is_there = |name: &String| {
            show.groups.iter().any(|group| group.name == *name) || show.fixtures.iter().any(|one| one.name == *name)
        };
        if let Some(other) = lights.iter().find(|name| !is_there(name)) {
            return Err(format!("lights: there is no group or fixture \"{other}\"; type names with commas between"));
        }
        let number = |id: &str, label: &str, most: f32| {
            let text = form.text(id);
            match text.trim_end_matches('%').trim().parse::<f32>() {
                _ if text.is_empty() => Ok(None),
                Ok(number) if (0.0..=most).contains(&number) => Ok(Some(number)),
                _ => Err(format!("{label}: \"{text}\" cannot be; type a number from 0 to {most}, or nothing")),
            }
        };
        Ok(Lane {
            kind,
            lights,
            later: Note::ALL.iter().find(|note| note.name() == form.text("later")).copied(),
            order: ORDERS.into_iter().find(|span| span.name() == form.text("order")).unwrap_or(Span::Order),
            turned: Repeat::ALL.into_iter().find(|one| one.name() == form.text("turned")).unwrap_or_default(),
            mixed: number("mixed", "mixed by", 1e6)?.map(|seed| seed as u32),
            rest: number("rest", "without event", 100.0)?,
            ..known
        })
    }

    fn event_of(&self, kind: LaneKind, before: &PatternEvent, show: &Show) -> Result<PatternEvent, String> {
        let form = &self.form;
        let ticks = |id: &str| Ticks::of_beats(form.number(id)).ok_or_else(|| format!("{id}: that is too far"));
        let mut event = PatternEvent { at: ticks("at")?, length: ticks("length")?, ..before.clone() };
        match kind {
            LaneKind::Level => {
                event.level = Some(form.number("level") as f32);
                let shape = EventShape::ALL.iter().find(|shape| shape.name() == form.text("shape"));
                event.shape = shape.copied().unwrap_or_default();
                let curve = form.text("curve");
                let points = curve.split_whitespace().map(|point| point.parse::<f32>().map_err(|_| point));
                event.curve = points
                    .collect::<Result<_, _>>()
                    .map_err(|point| format!("curve: \"{point}\" is no number; type percents, such as 0 100 50"))?;
            }
            LaneKind::Colour => {
                let text = form.text("colour");
                let lower = text.to_lowercase();
                let named = show.palette.iter().find(|swatch| swatch.name.to_lowercase().starts_with(&lower));
                event.colour = match named.filter(|_| !text.is_empty() && !text.starts_with(['#', '{'])) {
                    Some(swatch) => Some(splimo_show::palette::reference(&swatch.name)),
                    None => Some(text),
                };
                event.fades = form.flag("fades");
            }
            LaneKind::Look => {
                let said = CueTier::of_words("look", &form.text("look"), &show.looks)?.and_then(|said| said.look);
                event.look = Some(said.ok_or("look: type the name of one, or its beginning")?);
            }
            LaneKind::Aim => {
                event.aim = Some(aim_of(&form.text("aim"), show)?);
                event.glide = Some(ticks("glide")?).filter(|glide| glide.0 > 0);
            }
            LaneKind::Strobe => event.rate = Some(form.number("rate") as f32),
        }
        Ok(event)
    }

    /// Draws it over the view.
    pub(crate) fn draw(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let title = match self.of {
            Of::New => "a new pattern",
            Of::Pattern(ref others) if !others.is_empty() => "the patterns: what is changed here is changed in all",
            Of::Pattern(_) => "the pattern",
            Of::Shape(..) => "a shape over the events",
            Of::NewLane => "a new lane",
            Of::Lane(_) => "the lane",
            Of::Event(..) => "the event",
            Of::Repeat(..) => "repeat what is chosen",
        };
        let inside = float(title, WIDTH, self.form.fields.len() as u16 + 5, theme, area, buffer);
        self.form.draw(theme, inside, buffer);
    }
}
