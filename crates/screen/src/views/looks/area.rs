//! The area of a layer on its span: one that has a name, or any, by numbers or with the mouse on the stage.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyEvent, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};
use splimo_core::engine::Snapshot;
use splimo_core::making::{AREAS, area_named, name_of_area};
use splimo_core::show::{Area, Look};

use super::panel::{FORM_HINTS, LookPanel, PanelContext, PanelReply, PanelRequest};
use crate::kit::form::{Field, Form, Reply, Value};
use crate::kit::theme::Theme;

/// The word for an area that has no name.
const OWN: &str = "of its own";
const AXES: [&str; 3] = ["both ways", "only across", "only down"];

/// The form of an area.
pub(super) struct AreaPanel {
    form: Form,
    grabbed: Option<Position>,
}

impl AreaPanel {
    pub(super) fn of(area: Area) -> Box<Self> {
        let names = AREAS.iter().map(|(name, _)| *name).chain([OWN]);
        let number = |id, label, value: f32, from| Field::number(id, label, f64::from(value), from, 10_000.0, 1.0);
        let mut form = Form::new(vec![
            Field::choice("area", "area", names, name_of_area(area).unwrap_or(OWN)),
            number("x", "from the left", area.x, -10_000.0),
            number("y", "from the top", area.y, -10_000.0),
            number("width", "width", area.width, 1.0),
            number("height", "height", area.height, 1.0),
            Field::choice("axis", "mouse moves it", AXES, AXES[0]),
        ]);
        for id in ["x", "y", "width", "height"] {
            form.hint(id, "% of the span".into());
        }
        form.hint("axis", "drag on the stage; the wheel sizes it".into());
        Box::new(Self { form, grabbed: None })
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
        let mut look = context.look.clone();
        for &index in context.layers {
            if let Some(layer) = look.layers.get_mut(index) {
                layer.area = area;
            }
        }
        look
    }
}

impl LookPanel for AreaPanel {
    fn title(&self) -> String {
        "the area of this layer on its span, in percent".to_owned()
    }

    fn hints(&self) -> Vec<(&'static str, &'static str)> {
        FORM_HINTS.to_vec()
    }

    fn key(&mut self, key: KeyEvent, context: &PanelContext<'_>) -> Option<PanelReply> {
        match self.form.key(key) {
            Reply::Pass => None,
            Reply::Quiet => PanelReply::stay(),
            Reply::Restore => PanelReply::close(PanelRequest::Drop),
            Reply::Keep => PanelReply::close(PanelRequest::Keep(self.look(context))),
            Reply::Changed => {
                self.follow();
                PanelReply::with(PanelRequest::Try(self.look(context)))
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
            MouseEventKind::Up(_) => {
                self.grabbed = None;
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
        PanelRequest::Try(self.look(context))
    }
}
