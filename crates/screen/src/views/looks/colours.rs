//! The colours of a layer, or of an entry of the palette: one by one, by hue, saturation and brightness, red, green and blue,
//! as it is written, as a white of so many kelvin, or from the palette. All of it is seen while one turns it.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use ratatui::style::Style;
use splimo_base::colour::{Hex, to_screen};
use splimo_base::colour_words;
use splimo_base::ramp::{Mixing, Ramp, Stop};
use splimo_document::edit::Edit;
use splimo_engine::Snapshot;
use splimo_show::palette;
use splimo_show::{Look, Param, Swatch};

use super::action::Ask;
use super::panel::{LookPanel, PanelContext, PanelReply, PanelRequest};
use crate::kit::form::{Field, Form, Reply, Value};
use crate::kit::hsb;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;

/// The word for a colour that is not of the palette.
const OWN: &str = "its own";
/// The beginning of rulers in a line and their length, in cells.
const RULER: (u16, u16) = (27, 26);
/// Examples of written colours.
const WRITTEN: &str = "#ff8800, orange, 3200 K";
/// The most colours there may be.
const MOST: usize = 64;

/// Whose colours they are.
#[derive(Debug, Clone, PartialEq)]
pub(super) enum Whose {
    /// A gradient of the chosen layer, by the name of the parameter.
    Param(&'static str),
    /// An entry of the palette; without an index it is a new one.
    Swatch(Option<usize>, String),
}

/// A function from a share of a ruler to the colour there.
type Turned<'a> = &'a dyn Fn(f64) -> [u8; 3];

/// The colours.
pub(super) struct Colours {
    whose: Whose,
    texts: Vec<String>,
    at: usize,
    form: Form,
}

impl Colours {
    pub(super) fn of(whose: Whose, texts: Vec<String>, palette: &[Swatch]) -> Box<Self> {
        let number = |id, label, to: f64, step| Field::number(id, label, 0.0, 0.0, to, step);
        let mut fields = Vec::new();
        if let Whose::Swatch(_, name) = &whose {
            fields.push(Field::text("name", "name", name.as_str()));
        }
        fields.extend([
            Field::choice("which", "colour", ["1"], "1"),
            number("hue", "hue", 360.0, 2.0),
            number("saturation", "saturation", 100.0, 1.0),
            number("brightness", "brightness", 100.0, 1.0),
            number("red", "red", 255.0, 1.0),
            number("green", "green", 255.0, 1.0),
            number("blue", "blue", 255.0, 1.0),
            Field::text("hex", "written", ""),
            Field::number("kelvin", "white", 6500.0, 1700.0, 12_000.0, 100.0),
            number("opacity", "opacity", 100.0, 1.0),
            Field::text("place", "place", ""),
        ]);
        if matches!(whose, Whose::Param(_)) {
            let names = std::iter::once(OWN).chain(palette.iter().map(|swatch| swatch.name.as_str()));
            fields.insert(1, Field::choice("from", "palette", names, OWN));
        }
        let mut form = Form::new(fields);
        form.hint("which", "+ adds one behind it, Del takes it out".into());
        form.hint("kelvin", "K".into());
        form.hint("hex", WRITTEN.into());
        form.hint("place", "0 to 1, or room: x2; empty: evenly".into());
        form.hint("hue", "°".into());
        if matches!(whose, Whose::Swatch(..)) {
            form.go_to("name");
        }
        let mut panel = Self { whose, texts, at: 0, form };
        panel.show(palette);
        Box::new(panel)
    }

    /// The colour that is chosen, where the palette's stand in it as they are.
    fn stop(&self, palette: &[Swatch]) -> Stop {
        let text = self.texts.get(self.at).map_or("#000000", String::as_str);
        let stops = palette::stops(std::iter::once(text), palette);
        stops.ok().and_then(|stops| stops.first().copied()).unwrap_or(Stop::of(Hex([0, 0, 0, 255])))
    }

    fn put(&mut self, id: &str, number: f64) {
        if let Some(field) = self.form.field_mut(id)
            && let Value::Number { value, .. } = &mut field.value
        {
            *value = number;
        }
    }

    fn put_words(&mut self, id: &str, words: Vec<String>, chosen: usize) {
        if let Some(field) = self.form.field_mut(id) {
            field.value = Value::Choice { words, at: chosen };
        }
    }

    /// Fills the fields from the colour, but for the one that is being changed.
    fn show(&mut self, palette: &[Swatch]) {
        let stop = self.stop(palette);
        let [r, g, b, alpha] = stop.colour.0;
        let now = self.form.current();
        self.put_words("which", (1..=self.texts.len()).map(|n| n.to_string()).collect(), self.at);
        if !matches!(now, "hue" | "saturation" | "brightness") {
            let [hue, saturation, brightness] = hsb::hsb([r, g, b]);
            for (id, number) in [("hue", hue), ("saturation", saturation), ("brightness", brightness)] {
                self.put(id, number);
            }
        }
        if !matches!(now, "red" | "green" | "blue") {
            for (id, number) in [("red", r), ("green", g), ("blue", b)] {
                self.put(id, f64::from(number));
            }
        }
        if now != "hex" {
            self.form.set_text("hex", Hex([r, g, b, 255]).to_string());
        }
        if now != "opacity" {
            self.put("opacity", (f64::from(alpha) / 2.55).round());
        }
        if now != "place" {
            let place = match (stop.at, stop.room) {
                (Some(at), _) => at.to_string(),
                (None, 1.0) => String::new(),
                (None, room) => format!("x{room}"),
            };
            self.form.set_text("place", place);
        }
        let referred =
            self.texts.get(self.at).and_then(|text| palette::referred(text)).map(|(name, _)| name.to_owned());
        let place = referred.and_then(|name| palette.iter().position(|swatch| swatch.name == name));
        let names = std::iter::once(OWN.to_owned()).chain(palette.iter().map(|swatch| swatch.name.clone()));
        if self.form.field_mut("from").is_some() {
            self.put_words("from", names.collect(), place.map_or(0, |place| place + 1));
        }
    }

    /// Takes what a field says into the colour.
    fn take(&mut self, palette: &[Swatch]) -> Result<(), String> {
        let n = |id: &str| self.form.number(id);
        let mut stop = self.stop(palette);
        let alpha = stop.colour.0[3];
        let with = |[r, g, b]: [u8; 3]| Hex([r, g, b, alpha]);
        match self.form.current() {
            "which" => {
                let which: usize = self.form.text("which").parse().unwrap_or(1);
                self.at = which.saturating_sub(1).min(self.texts.len() - 1);
                return Ok(());
            }
            "from" => {
                let name = self.form.text("from");
                self.texts[self.at] = if name == OWN { stop.to_string() } else { palette::reference(&name) };
                return Ok(());
            }
            "hue" | "saturation" | "brightness" => {
                stop.colour = with(hsb::rgb([n("hue"), n("saturation"), n("brightness")]));
            }
            "red" | "green" | "blue" => stop.colour = with([n("red"), n("green"), n("blue")].map(|c| c as u8)),
            "kelvin" => stop.colour = with(hsb::white(n("kelvin"))),
            "opacity" => stop.colour.0[3] = (n("opacity") * 2.55).round() as u8,
            "hex" => {
                let text = self.form.text("hex");
                let completed = colour_words::completed(&text);
                self.form.hint("hex", completed.and_then(|(_, name)| name).unwrap_or(WRITTEN).to_owned());
                let Some((Hex([r, g, b, _]), _)) = completed else {
                    return Err(format!("\"{text}\" is not a colour yet; type {WRITTEN}"));
                };
                stop.colour = with([r, g, b]);
            }
            "place" => {
                let text = format!("{} {}", stop.colour, self.form.text("place"));
                stop = text.trim().parse::<Stop>().map_err(|e| e.to_string())?;
            }
            _ => return Ok(()),
        }
        self.texts[self.at] = stop.to_string();
        Ok(())
    }

    fn look(&self, context: &PanelContext<'_>) -> Look {
        let Whose::Param(name) = self.whose else { return context.look.clone() };
        let mut look = context.look.clone();
        for &index in context.layers {
            let Some(layer) = look.layers.get_mut(index) else { continue };
            let takes = super::rows::spec_of(layer).and_then(|spec| spec.params.iter().find(|p| p.name == name));
            if let Some(spec) = takes {
                splimo_document::making::set_value(layer, spec, Param::List(self.texts.clone()));
            }
        }
        look
    }

    fn swatch(&self) -> Swatch {
        Swatch { name: self.form.text("name"), colours: self.texts.clone() }
    }

    fn tried(&self, context: &PanelContext<'_>) -> PanelRequest {
        match &self.whose {
            Whose::Param(_) => PanelRequest::Try(self.look(context)),
            Whose::Swatch(Some(index), name) => {
                let swatch = Swatch { name: name.clone(), ..self.swatch() };
                PanelRequest::Ask(vec![Ask::try_edit(Edit::PutSwatch(*index, swatch))])
            }
            Whose::Swatch(None, _) => PanelRequest::Nothing,
        }
    }

    fn keep(&mut self, context: &PanelContext<'_>) -> Option<PanelReply> {
        let edit = match &self.whose {
            Whose::Param(_) => return PanelReply::close(PanelRequest::Keep(self.look(context))),
            Whose::Swatch(None, _) => Edit::AddSwatch(self.swatch()),
            Whose::Swatch(Some(index), _) => Edit::PutSwatch(*index, self.swatch()),
        };
        match edit.apply(context.show) {
            Ok(_) => PanelReply::close(PanelRequest::Ask(vec![Ask::edit(edit)])),
            Err(why) => {
                self.form.error = Some(why.to_string());
                PanelReply::stay()
            }
        }
    }

    /// Beside each field what becomes of the colour where it is turned, and where it stands.
    fn rulers(&self, palette: &[Swatch], theme: Theme, buffer: &mut Buffer) {
        let Hex([r, g, b, _]) = self.stop(palette).colour;
        let n = |id: &str| self.form.number(id);
        let (hue, saturation, brightness) = (n("hue"), n("saturation"), n("brightness"));
        let byte = |share: f64| (share * 255.0) as u8;
        let strips: [(&str, f64, Turned<'_>); 7] = [
            ("hue", hue / 360.0, &|t| hsb::rgb([t * 360.0, 100.0, 100.0])),
            ("saturation", saturation / 100.0, &|t| hsb::rgb([hue, t * 100.0, brightness.max(30.0)])),
            ("brightness", brightness / 100.0, &|t| hsb::rgb([hue, saturation, t * 100.0])),
            ("red", f64::from(r) / 255.0, &|t| [byte(t), g, b]),
            ("green", f64::from(g) / 255.0, &|t| [r, byte(t), b]),
            ("blue", f64::from(b) / 255.0, &|t| [r, g, byte(t)]),
            ("kelvin", (n("kelvin") - 1700.0) / 10_300.0, &|t| hsb::white(1700.0 + t * 10_300.0)),
        ];
        for (id, at, colour) in strips {
            let Some(row) = self.form.row_of(id).filter(|row| row.width > RULER.0 + RULER.1) else { continue };
            let mark = (at.clamp(0.0, 1.0) * f64::from(RULER.1 - 1)).round() as u16;
            for column in 0..RULER.1 {
                let Some(cell) = buffer.cell_mut((row.x + RULER.0 + column, row.y)) else { continue };
                let here = colour(f64::from(column) / f64::from(RULER.1 - 1));
                // The mark is seen on bright and on dark.
                let dark = here.iter().map(|c| u32::from(*c)).sum::<u32>() < 380;
                let ink = if dark { [255; 3] } else { [0; 3] };
                cell.set_symbol(if column == mark { "│" } else { " " });
                cell.set_fg(theme.colour(ink)).set_bg(theme.colour(here));
            }
        }
    }

    /// The colours side by side.
    fn strip(&self, palette: &[Swatch], theme: Theme, area: Rect, buffer: &mut Buffer) {
        let Ok(stops) = palette::stops(self.texts.iter().map(String::as_str), palette) else { return };
        let ramp = Ramp::open(&stops, Mixing::default());
        for column in 0..area.width {
            let [r, g, b, a] = ramp.at(f32::from(column) / f32::from(area.width.max(2) - 1));
            let colour = theme.colour(to_screen([r * a, g * a, b * a]));
            if let Some(cell) = buffer.cell_mut((area.x + column, area.y)) {
                cell.set_symbol(" ").set_bg(colour);
            }
        }
        let mut pen = Pen::new(Rect { y: area.y + 1, ..area }, buffer);
        for (index, text) in self.texts.iter().enumerate() {
            let one = palette::stops(std::iter::once(text.as_str()), palette).unwrap_or_default();
            let [r, g, b, _] = one.first().map_or([0; 4], |stop| stop.colour.0);
            let block = Style::new().bg(theme.colour([r, g, b]));
            pen.put(if index == self.at { "▸" } else { " " }, theme.bright());
            pen.put("   ", block);
            let name = palette::referred(text).map(|(name, _)| format!(" {name}"));
            pen.put(&name.unwrap_or_default(), theme.text());
        }
    }
}

impl LookPanel for Colours {
    fn title(&self) -> String {
        match &self.whose {
            Whose::Param(name) => format!("the {name} of this layer"),
            Whose::Swatch(None, _) => "a new entry of the palette".to_owned(),
            Whose::Swatch(Some(_), name) => format!("{name}, wherever it is used"),
        }
    }

    fn hints(&self) -> Vec<(&'static str, &'static str)> {
        vec![
            ("↑ ↓", "field"),
            ("← →", "turn; Shift coarse"),
            ("type", "replaces"),
            ("+", "another colour"),
            ("Del", "take out"),
            ("Enter", "keep"),
            ("Esc", "restore"),
        ]
    }

    fn key(&mut self, key: KeyEvent, context: &PanelContext<'_>) -> Option<PanelReply> {
        let palette = &context.show.palette;
        let own = !key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT);
        match key.code {
            KeyCode::Char('+') if own && self.texts.len() < MOST => {
                let again = self.stop(palette);
                self.texts.insert(self.at + 1, Stop { at: None, ..again }.to_string());
                self.at += 1;
            }
            KeyCode::Delete if own && self.texts.len() > 1 => {
                self.texts.remove(self.at);
                self.at = self.at.min(self.texts.len() - 1);
            }
            _ => match self.form.key(key) {
                Reply::Pass => return None,
                Reply::Quiet => return PanelReply::stay(),
                Reply::Restore => return PanelReply::close(PanelRequest::Drop),
                Reply::Keep => return self.keep(context),
                Reply::Changed => {
                    if let Err(why) = self.take(palette) {
                        self.form.error = Some(why);
                        return PanelReply::stay();
                    }
                    self.form.error = None;
                }
            },
        }
        self.show(palette);
        PanelReply::with(self.tried(context))
    }

    fn paste(&mut self, text: &str, context: &PanelContext<'_>) -> PanelRequest {
        self.form.paste(text);
        match self.take(&context.show.palette) {
            Ok(()) => {
                self.show(&context.show.palette);
                self.tried(context)
            }
            Err(why) => {
                self.form.error = Some(why);
                PanelRequest::Nothing
            }
        }
    }

    fn refused(&mut self, why: &str) {
        self.form.error = Some(why.to_owned());
    }

    fn draw(&mut self, context: &PanelContext<'_>, _: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let strip = Rect { height: 1, width: area.width.saturating_sub(2), ..area };
        self.strip(&context.show.palette, theme, strip, buffer);
        let form = Rect { y: area.y + 3, height: area.height.saturating_sub(3), ..area };
        self.form.draw(theme, form, buffer);
        self.rulers(&context.show.palette, theme, buffer);
    }
}
