//! Two colours over the lights of a layer, straight or mirrored, and what one does with them next: where they meet, how much of
//! each, how sharply, how often, and whether they move. Colours are typed, and all of it is seen while one types.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::KeyEvent;
use ratatui::layout::Rect;
use ratatui::style::Style;
use splimo_base::colour::Hex;
use splimo_base::colour_words;
use splimo_base::ramp::Stop;
use splimo_document::edit::Edit;
use splimo_document::making;
use splimo_engine::Snapshot;
use splimo_light::effect::ParamSpec;
use splimo_light::layer::LayerMap;
use splimo_show::palette;
use splimo_show::{Layer, Look, Param};
use splimo_time::rate::LADDER;

use super::action::Ask;
use super::panel::{FORM_HINTS, LookPanel, PanelContext, PanelReply, PanelRequest};
use super::rows::spec_of;
use crate::kit::form::{Field, Form, Reply};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;

/// The effect that does it.
const EFFECT: &str = "gradient";
/// The colours to begin with.
const FIRST: [&str; 2] = ["#ff7a3d", "#2f6bff"];

/// The form.
pub(super) struct Spread {
    form: Form,
    /// The layer as it was, or as it begins.
    layer: Layer,
    /// Its place in the look, where it is there already.
    at: Option<usize>,
}

impl Spread {
    /// On the chosen layer where that has two colours already; else on a layer of its own, over the same lights.
    pub(super) fn of(context: &PanelContext<'_>, mirrored: bool) -> Box<Self> {
        let chosen = context.chosen();
        let own = chosen.filter(|layer| layer.effect == EFFECT && colours_of(layer).len() == 2);
        let layer = own.cloned().unwrap_or_else(|| begun(chosen, context));
        let colours = colours_of(&layer);
        let number = |name: &str| match param(&layer, name).map(|spec| making::value_of(&layer, spec)) {
            Some(Param::Number(number)) => number,
            _ => 0.0,
        };
        let word = |name: &str| match param(&layer, name).map(|spec| making::value_of(&layer, spec)) {
            Some(Param::Text(text)) => text,
            _ => String::new(),
        };
        let form_now = word("form");
        let speeds =
            LADDER.into_iter().map(str::to_owned).chain(Some(word("speed")).filter(|s| !LADDER.contains(&s.as_str())));
        let mut form = Form::new(vec![
            Field::text("first", "first", colour_alone(&colours[0])),
            Field::text("second", "second", colour_alone(&colours[1])),
            Field::choice("form", "form", ["straight", "mirrored"], if mirrored { "mirrored" } else { &form_now }),
            Field::choice("speed", "moves in", speeds, &word("speed")),
            Field::number("share", "of the second", share_of(&colours), 1.0, 99.0, 1.0),
            Field::number("sharpness", "sharpness", number("sharpness"), 0.0, 100.0, 1.0),
            Field::number("repeats", "repeats", number("repeats"), 0.05, 64.0, 1.0),
            Field::number("centre x", "centre x", number("centre x"), -200.0, 300.0, 1.0),
            Field::number("centre y", "centre y", number("centre y"), -200.0, 300.0, 1.0),
            Field::number("angle", "angle", number("angle"), -360.0, 360.0, 5.0),
        ]);
        for id in ["share", "sharpness", "centre x", "centre y"] {
            form.hint(id, "%".into());
        }
        form.hint("speed", "a length".into());
        form.hint("angle", "°, 0 across, 90 down".into());
        let mut panel = Self { form, layer, at: own.map(|_| context.layer) };
        panel.tell();
        Box::new(panel)
    }

    /// Says beside each colour what stands there, or what could.
    fn tell(&mut self) {
        for id in ["first", "second"] {
            let hint = match colour_words::completed(&self.form.text(id)) {
                Some((_, Some(name))) => name.to_owned(),
                Some((_, None)) => String::new(),
                None if self.form.text(id).starts_with('{') => String::new(),
                None => "such as red, #ff8800, 3200 K".to_owned(),
            };
            self.form.hint(id, hint);
        }
    }

    /// The layer as the form says.
    fn made(&self, context: &PanelContext<'_>) -> Result<Layer, String> {
        let share = self.form.number("share");
        let stop = |id: &str, share: f64| -> Result<String, String> {
            let text = self.form.text(id);
            let colour = match (palette::referred(&text), colour_words::completed(&text)) {
                (Some((name, _)), _) if context.show.palette.iter().any(|swatch| swatch.name == name) => text.clone(),
                (_, Some((_, Some(name)))) => name.to_owned(),
                (_, Some((colour, None))) if colour_words::parse(&text).is_none() => colour.to_string(),
                (_, Some((_, None))) => text.clone(),
                (_, None) => {
                    return Err(format!("\"{text}\" is not a colour: type #ff8800, a name such as orange, or 3200 K"));
                }
            };
            Ok(if share == 50.0 { colour } else { format!("{colour} x{}", share / 50.0) })
        };
        let colours = vec![stop("first", 100.0 - share)?, stop("second", share)?];
        let mut layer = self.layer.clone();
        let mut set = |name: &str, value: Param| {
            if let Some(spec) = param(&layer, name) {
                making::set_value(&mut layer, spec, value);
            }
        };
        set("colours", Param::List(colours));
        for name in ["form", "speed"] {
            set(name, Param::Text(self.form.text(name)));
        }
        for name in ["sharpness", "repeats", "centre x", "centre y", "angle"] {
            set(name, Param::Number(self.form.number(name)));
        }
        Ok(layer)
    }

    /// The look with the layer in it, and the place that it has there.
    fn look(&self, context: &PanelContext<'_>) -> Result<(Look, usize), String> {
        let layer = self.made(context)?;
        let mut look = context.look.clone();
        let at = self.at.filter(|at| *at < look.layers.len()).unwrap_or(look.layers.len());
        look.layers.splice(at..(at + 1).min(look.layers.len()), [layer]);
        Ok((look, at))
    }

    fn keep(&mut self, context: &PanelContext<'_>) -> Option<PanelReply> {
        match self.look(context) {
            // In a show without looks it is the first.
            Ok((look, _)) if context.show.looks.is_empty() => {
                let look = Look { name: "Two colours".to_owned(), ..look };
                PanelReply::close(PanelRequest::Ask(vec![Ask::edit(Edit::AddLooks(0, vec![look]))]))
            }
            Ok((look, at)) => PanelReply::close(PanelRequest::KeepAndGoTo(look, at)),
            Err(why) => {
                self.form.error = Some(why);
                PanelReply::stay()
            }
        }
    }

    fn tried(&mut self, context: &PanelContext<'_>) -> PanelRequest {
        self.tell();
        match self.look(context) {
            Ok((look, _)) => {
                self.form.error = None;
                PanelRequest::Try(look)
            }
            // It is said when one wants to keep it; a colour is typed letter by letter.
            Err(_) => PanelRequest::Nothing,
        }
    }
}

fn param(layer: &Layer, name: &str) -> Option<&'static ParamSpec> {
    spec_of(layer)?.params.iter().find(|param| param.name == name)
}

fn colours_of(layer: &Layer) -> Vec<String> {
    match param(layer, "colours").map(|spec| making::value_of(layer, spec)) {
        Some(Param::List(list)) => list,
        _ => Vec::new(),
    }
}

/// A layer of two colours over the lights of another, with the ends of its colours, along the longer side of its lights.
fn begun(chosen: Option<&Layer>, context: &PanelContext<'_>) -> Layer {
    // What ends in nothing is no second colour.
    let seen = |list: &Vec<String>| {
        list.len() > 1 && list.iter().all(|text| !text.parse::<Stop>().is_ok_and(|stop| stop.colour.0[3] < 255))
    };
    let ends = chosen.map(colours_of).filter(seen);
    let ends = ends.map_or(FIRST.map(str::to_owned), |list| [list[0].clone(), list[list.len() - 1].clone()]);
    let target = chosen.map_or_else(Vec::new, |layer| layer.target.clone());
    let mut layer = Layer { target, ..Layer::new(EFFECT) };
    layer.params.insert("colours".to_owned(), Param::List(ends.to_vec()));
    layer.params.insert("form".to_owned(), Param::Text("straight".to_owned()));
    let map = LayerMap::compile(&layer, context.show, context.rig);
    if map.pieces.first().is_some_and(|piece| piece.height > piece.width) {
        layer.params.insert("angle".to_owned(), Param::Number(90.0));
    }
    layer
}

/// A colour without its room or its place.
fn colour_alone(text: &str) -> String {
    match (palette::referred(text), text.parse::<Stop>()) {
        (Some((name, _)), _) => palette::reference(name),
        (None, Ok(stop)) if stop.room != 1.0 || stop.at.is_some() => {
            text.trim().rsplit_once(char::is_whitespace).map_or(text, |(colour, _)| colour).to_owned()
        }
        (None, _) => text.to_owned(),
    }
}

/// The share of the second of two colours, in percent.
fn share_of(colours: &[String]) -> f64 {
    let room = |text: &String| match palette::referred(text) {
        Some((_, behind)) => behind.strip_prefix('x').and_then(|room| room.parse().ok()).unwrap_or(1.0),
        None => text.parse::<Stop>().map_or(1.0, |stop| f64::from(stop.room)),
    };
    match colours {
        [first, second] => (room(second) / (room(first) + room(second)) * 100.0).round(),
        _ => 50.0,
    }
}

impl LookPanel for Spread {
    fn title(&self) -> String {
        match self.at {
            Some(_) => "the two colours of this layer".to_owned(),
            None => "two colours over the lights, on a layer of their own".to_owned(),
        }
    }

    fn hints(&self) -> Vec<(&'static str, &'static str)> {
        FORM_HINTS.to_vec()
    }

    fn key(&mut self, key: KeyEvent, context: &PanelContext<'_>) -> Option<PanelReply> {
        let before = self.form.current();
        let reply = self.form.key(key);
        // A beginning becomes the whole name where one leaves it.
        if before != self.form.current()
            && let Some((_, Some(name))) = colour_words::completed(&self.form.text(before))
        {
            self.form.set_text(before, name.to_owned());
            self.tell();
        }
        match reply {
            Reply::Pass => None,
            Reply::Quiet => PanelReply::stay(),
            Reply::Restore => PanelReply::close(PanelRequest::Drop),
            Reply::Keep => self.keep(context),
            Reply::Changed => PanelReply::with(self.tried(context)),
        }
    }

    fn paste(&mut self, text: &str, context: &PanelContext<'_>) -> PanelRequest {
        self.form.paste(text);
        self.tried(context)
    }

    fn refused(&mut self, why: &str) {
        self.form.error = Some(why.to_owned());
    }

    fn draw(&mut self, context: &PanelContext<'_>, _: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer) {
        self.form.draw(theme, area, buffer);
        for id in ["first", "second"] {
            let text = self.form.text(id);
            let stops = palette::stops(std::iter::once(text.as_str()), &context.show.palette).ok();
            let own = stops.and_then(|stops| stops.first().map(|stop| stop.colour));
            let colour = own.or_else(|| colour_words::completed(&text).map(|(colour, _)| colour));
            let (Some(Hex([r, g, b, _])), Some(row)) = (colour, self.form.row_of(id)) else { continue };
            let block = Rect { x: row.right().saturating_sub(6), width: 5.min(row.width), ..row };
            Pen::new(block, buffer).put("     ", Style::new().bg(theme.colour([r, g, b])));
        }
    }
}
