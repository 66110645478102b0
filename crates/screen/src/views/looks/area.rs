//! The area of a layer on its span: a preset, or any, by numbers or with the mouse on the stage; or a region, which has a name and
//! is shared with other layers.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};
use splimo_document::edit::Edit;
use splimo_document::making::{AREAS, area_named, name_of_area};
use splimo_document::reference;
use splimo_engine::Snapshot;
use splimo_show::reference::ReferenceKind;
use splimo_show::{Area, Layer, Look, Region, Show};

use super::action::Ask;
use super::panel::{FORM_HINTS, LookPanel, PanelContext, PanelReply, PanelRequest};
use crate::kit::form::{Field, Form, Reply, Value};
use crate::kit::theme::Theme;

/// The word for an area that has no name.
const OWN: &str = "of its own";
const AXES: [&str; 3] = ["both ways", "only across", "only down"];

/// The words for an area that is no region, for a region that is to be made, and for one that is of the canvas.
const ALONE: &str = "of this layer alone";
const NEW: &str = "a new region";
const CANVAS: &str = "the canvas";

/// The form of an area.
pub(super) struct AreaPanel {
    form: Form,
    grabbed: Option<Position>,
    /// The place on the stage from which a rectangle is being drawn.
    drawn: Option<Position>,
    /// The region as it was chosen, with its place in the show.
    region: Option<(usize, Region)>,
    title: String,
}

impl AreaPanel {
    pub(super) fn of(layer: &Layer, context: &PanelContext<'_>) -> Box<Self> {
        let show = context.show;
        let found = show.regions.iter().enumerate().find(|(_, region)| region.name == layer.region);
        let region = found.map(|(at, region)| (at, region.clone()));
        let area = region.as_ref().map_or(layer.area, |(_, region)| region.area);
        let regions = [ALONE].into_iter().chain(show.regions.iter().map(|region| region.name.as_str())).chain([NEW]);
        let of = [CANVAS].into_iter().chain(show.groups.iter().map(|group| group.name.as_str()));
        let of = of.chain(show.fixtures.iter().map(|fixture| fixture.name.as_str()));
        let named = region.as_ref().map_or("", |(_, region)| region.name.as_str());
        let names = AREAS.iter().map(|(name, _)| *name).chain([OWN]);
        let number = |id, label, value: f32, from| Field::number(id, label, f64::from(value), from, 10_000.0, 1.0);
        let mut form = Form::new(vec![
            Field::choice("region", "region", regions, if named.is_empty() { ALONE } else { named }),
            Field::text("name", "its name", named),
            Field::choice("of", "on", of, region.as_ref().map_or(CANVAS, |(_, region)| &region.of)),
            Field::choice("area", "area", names, name_of_area(area).unwrap_or(OWN)),
            number("x", "from the left", area.x, -10_000.0),
            number("y", "from the top", area.y, -10_000.0),
            number("width", "width", area.width, 1.0),
            number("height", "height", area.height, 1.0),
            Field::choice("axis", "mouse moves it", AXES, AXES[0]),
        ]);
        for id in ["x", "y", "width", "height"] {
            form.hint(id, "%".into());
        }
        form.hint("axis", "drag; wheel sizes; right draws".into());
        form.go_to("area");
        let mut panel = Self { form, grabbed: None, drawn: None, region, title: String::new() };
        panel.show_fields(show);
        Box::new(panel)
    }

    /// True if the form is about a region, one that is there or one that is to be made.
    fn of_region(&self) -> bool {
        self.form.text("region") != ALONE
    }

    fn show_fields(&mut self, show: &Show) {
        let of_region = self.of_region();
        self.form.show("name", of_region);
        self.form.show("of", of_region);
        self.title = match &self.region {
            Some((_, region)) if of_region => {
                let uses = reference::uses(show, ReferenceKind::Region, &region.name).len();
                format!(
                    "the region {}, in percent; {uses} {} it",
                    region.name,
                    if uses == 1 { "layer has" } else { "layers share" }
                )
            }
            _ if of_region => "a new region, in percent: other layers can take it".to_owned(),
            _ => "the area of this layer on its span, in percent".to_owned(),
        };
    }

    /// Takes over the region that was chosen.
    fn choose_region(&mut self, show: &Show) {
        let chosen = self.form.text("region");
        let found = show.regions.iter().enumerate().find(|(_, region)| region.name == chosen);
        self.region = found.map(|(at, region)| (at, region.clone()));
        if let Some((_, region)) = self.region.clone() {
            self.form.set_text("name", region.name);
            self.set(region.area);
            if let Some(field) = self.form.field_mut("of")
                && let Value::Choice { words, at } = &mut field.value
            {
                let wanted = if region.of.is_empty() { CANVAS } else { &region.of };
                *at = words.iter().position(|word| word == wanted).unwrap_or(0);
            }
        } else if chosen == NEW {
            self.form.set_text("name", free_name(show));
        }
    }

    /// The region as the form says.
    fn made(&self) -> Region {
        let of = self.form.text("of");
        let of = if of == CANVAS { String::new() } else { of };
        Region { name: self.form.text("name"), of, area: self.area() }
    }

    /// The edit of the region, where the form is about one and it is another than it was.
    fn edit(&self) -> Option<Edit> {
        let made = self.made();
        match &self.region {
            _ if !self.of_region() => None,
            Some((_, region)) if *region == made => None,
            Some((at, _)) => Some(Edit::PutRegion(*at, made)),
            None => Some(Edit::AddRegion(made)),
        }
    }

    fn keep(&mut self, context: &PanelContext<'_>) -> Option<PanelReply> {
        let Some(edit) = self.edit() else { return PanelReply::close(PanelRequest::Keep(self.look(context))) };
        match edit.apply(context.show) {
            Ok(_) => PanelReply::close(PanelRequest::KeepAfter(vec![Ask::edit(edit)], self.look(context))),
            Err(why) => {
                self.form.error = Some(why.to_string());
                PanelReply::stay()
            }
        }
    }

    /// Shows what the form says, as far as it can be seen before it is kept: the region in all its layers, or the layer.
    fn tried(&self, context: &PanelContext<'_>) -> PanelRequest {
        let layers = || context.layers.iter().filter_map(|&at| context.look.layers.get(at));
        let uses = |region: &Region| layers().any(|layer| layer.region == region.name);
        match (&self.region, self.edit()) {
            (Some((_, region)), Some(edit)) if uses(region) => PanelRequest::Ask(vec![Ask::try_edit(edit)]),
            (Some(_), Some(_)) | (None, Some(_)) => {
                // The layer has the rectangle, until the region is kept.
                let mut look = self.look(context);
                for &index in context.layers {
                    if let Some(layer) = look.layers.get_mut(index) {
                        layer.region.clear();
                    }
                }
                PanelRequest::Try(look)
            }
            (_, None) => PanelRequest::Try(self.look(context)),
        }
    }

    fn area(&self) -> Area {
        let n = |id| self.form.number(id) as f32;
        Area { x: n("x"), y: n("y"), width: n("width"), height: n("height") }
    }

    /// Makes the fields agree once one of them was changed.
    fn follow(&mut self) {
        if self.form.current() == "area" {
            if let Some(area) = area_named(&self.form.text("area")) {
                self.set(area);
            }
        } else {
            let name = name_of_area(self.area()).unwrap_or(OWN);
            if let Some(field) = self.form.field_mut("area")
                && let Value::Choice { words, at } = &mut field.value
            {
                *at = words.iter().position(|word| word == name).unwrap_or(0);
            }
        }
    }

    fn set(&mut self, area: Area) {
        for (id, number) in [("x", area.x), ("y", area.y), ("width", area.width), ("height", area.height)] {
            if let Some(field) = self.form.field_mut(id)
                && let Value::Number { value, .. } = &mut field.value
            {
                *value = f64::from((number * 100.0).round() / 100.0);
            }
        }
    }

    fn look(&self, context: &PanelContext<'_>) -> Look {
        let area = match area_named(&self.form.text("area")) {
            Some(area) => area,
            None => self.area(),
        };
        let region = if self.of_region() { self.form.text("name") } else { String::new() };
        let mut look = context.look.clone();
        for &index in context.layers {
            if let Some(layer) = look.layers.get_mut(index) {
                (layer.area, layer.region) = (area, region.clone());
            }
        }
        look
    }

    /// The rectangle between two places on the stage.
    fn between(from: Position, to: Position, stage: Rect) -> Area {
        let share = |place: u16, start: u16, of: u16| {
            (f32::from(place.saturating_sub(start)) / f32::from(of.max(1)) * 100.0).round()
        };
        let (left, right) = (from.x.min(to.x), from.x.max(to.x) + 1);
        let (top, bottom) = (from.y.min(to.y), from.y.max(to.y) + 1);
        let (x, y) = (share(left, stage.x, stage.width), share(top, stage.y, stage.height));
        let (width, height) = (share(right, stage.x, stage.width) - x, share(bottom, stage.y, stage.height) - y);
        Area { x, y, width: width.max(1.0), height: height.max(1.0) }
    }
}

/// A name that no region has yet.
fn free_name(show: &Show) -> String {
    let mut names = (1..).map(|number| format!("Region {number}"));
    names.find(|name| show.region(name).is_none()).unwrap_or_default()
}

impl LookPanel for AreaPanel {
    fn title(&self) -> String {
        self.title.clone()
    }

    fn hints(&self) -> Vec<(&'static str, &'static str)> {
        let mut hints = FORM_HINTS.to_vec();
        if self.region.is_some() && self.form.current() == "region" {
            hints.insert(2, ("Del", "take the region out"));
        }
        hints
    }

    fn key(&mut self, key: KeyEvent, context: &PanelContext<'_>) -> Option<PanelReply> {
        if let (KeyCode::Delete, "region", Some((at, _))) = (key.code, self.form.current(), &self.region) {
            // It is refused, with the layer that uses it, as long as one does.
            return PanelReply::with(PanelRequest::Ask(vec![Ask::edit(Edit::RemoveRegion(*at))]));
        }
        match self.form.key(key) {
            Reply::Pass => None,
            Reply::Quiet => PanelReply::stay(),
            Reply::Restore => PanelReply::close(PanelRequest::Drop),
            Reply::Keep => self.keep(context),
            Reply::Changed => {
                if self.form.current() == "region" {
                    self.choose_region(context.show);
                }
                self.follow();
                self.show_fields(context.show);
                PanelReply::with(self.tried(context))
            }
        }
    }

    fn draw(&mut self, _: &PanelContext<'_>, _: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer) {
        self.form.draw(theme, area, buffer);
    }

    fn mouse(&mut self, mouse: MouseEvent, stage: Rect, context: &PanelContext<'_>) -> PanelRequest {
        let at = Position::new(mouse.column, mouse.row);
        let axis = self.form.text("axis");
        let (across, down) = (axis != AXES[2], axis != AXES[1]);
        let mut area = self.area();
        match mouse.kind {
            MouseEventKind::Down(MouseButton::Left) if stage.contains(at) => {
                self.grabbed = Some(at);
                return PanelRequest::Nothing;
            }
            MouseEventKind::Down(MouseButton::Right) if stage.contains(at) => {
                self.drawn = Some(at);
                return PanelRequest::Nothing;
            }
            MouseEventKind::Drag(MouseButton::Right) => {
                let Some(from) = self.drawn else { return PanelRequest::Nothing };
                let inside = |at: u16, start: u16, end: u16| at.clamp(start, end.saturating_sub(1).max(start));
                let to = Position::new(inside(at.x, stage.x, stage.right()), inside(at.y, stage.y, stage.bottom()));
                area = Self::between(from, to, stage);
            }
            MouseEventKind::Up(_) => {
                (self.grabbed, self.drawn) = (None, None);
                return PanelRequest::Nothing;
            }
            MouseEventKind::Drag(MouseButton::Left) => {
                let Some(from) = self.grabbed.replace(at) else { return PanelRequest::Nothing };
                let moved =
                    |to: u16, from: u16, of: u16| (f32::from(to) - f32::from(from)) / f32::from(of.max(1)) * 100.0;
                area.x += if across { moved(at.x, from.x, stage.width).round() } else { 0.0 };
                area.y += if down { moved(at.y, from.y, stage.height).round() } else { 0.0 };
            }
            MouseEventKind::ScrollUp | MouseEventKind::ScrollDown if stage.contains(at) => {
                let by = if mouse.kind == MouseEventKind::ScrollUp { 10.0 } else { -10.0 };
                let grown = |start: &mut f32, size: &mut f32| {
                    let next = (*size + by).clamp(1.0, 10_000.0);
                    *start -= (next - *size) / 2.0;
                    *size = next;
                };
                if across {
                    grown(&mut area.x, &mut area.width);
                }
                if down {
                    grown(&mut area.y, &mut area.height);
                }
            }
            _ => return PanelRequest::Nothing,
        }
        self.form.go_to("x");
        self.set(area);
        self.follow();
        self.tried(context)
    }

    fn paste(&mut self, text: &str, context: &PanelContext<'_>) -> PanelRequest {
        self.form.paste(text);
        self.tried(context)
    }

    fn refused(&mut self, why: &str) {
        self.form.error = Some(why.to_owned());
    }
}
