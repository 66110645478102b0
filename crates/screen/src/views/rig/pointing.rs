//! The mouse on the view.

use ratatui::crossterm::event::{KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::Position;
use splimo_document::edit::{Arrangement, Edit};

use super::action::{Ask, RigAction};
use super::camera::Fit;
use super::canvas;
use super::pointer::Drag;
use super::state::RigView;

impl RigView {
    pub(super) fn point(&mut self, mouse: MouseEvent) -> Vec<Ask> {
        let at = Position::new(mouse.column, mouse.row);
        let more = mouse.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::SHIFT);
        let place = self.camera.place(at.x, at.y);
        let inside = self.pointer.area.contains(at);
        match mouse.kind {
            MouseEventKind::ScrollUp if inside => self.camera.zoom(1, Some(place)),
            MouseEventKind::ScrollDown if inside => self.camera.zoom(-1, Some(place)),
            MouseEventKind::ScrollUp if self.list.contains(at) => {
                return vec![Ask::Action(RigAction::ChooseFixture(-1))];
            }
            MouseEventKind::ScrollDown if self.list.contains(at) => {
                return vec![Ask::Action(RigAction::ChooseFixture(1))];
            }
            MouseEventKind::Down(MouseButton::Left) if self.panel.is_none() => match self.list.fixture_at(at) {
                Some(index) => self.point_at(index, more),
                None if inside => self.press(at, place, more),
                None => {}
            },
            MouseEventKind::Down(_) if inside => self.pointer.drag = Some(Drag::Pan { last: place }),
            MouseEventKind::Drag(_) => return self.drag_to(at, place, more),
            MouseEventKind::Up(_) => return self.let_go(place, more),
            _ => {}
        }
        Vec::new()
    }

    fn point_at(&mut self, index: usize, more: bool) {
        if !more {
            self.choose_one(index);
            return;
        }
        match self.chosen.iter().position(|chosen| *chosen == index) {
            Some(place) => drop(self.chosen.remove(place)),
            None => self.chosen.push(index),
        }
        self.at = index;
    }

    fn press(&mut self, at: Position, place: (f32, f32), more: bool) {
        let rig = &self.derived.rig;
        let light = canvas::light_at(rig, &self.camera, place);
        let fixture = light.and_then(|led| rig.fixtures.iter().position(|f| f.leds().contains(&led)));
        match fixture {
            Some(index) => {
                if more || !self.chosen.contains(&index) {
                    self.point_at(index, more);
                }
                self.pointer.drag = Some(Drag::Move { from: place, moved: false });
            }
            None => {
                if !more {
                    self.chosen.clear();
                }
                self.pointer.drag = Some(Drag::Band { from: at, to: at });
            }
        }
    }

    fn moved(&self, from: (f32, f32), to: (f32, f32), one_axis: bool) -> Edit {
        // By whole pitches, so that what was in line stays so.
        let (mut across, mut down) = ((to.0 - from.0).round(), (to.1 - from.1).round());
        if one_axis {
            if across.abs() >= down.abs() { down = 0.0 } else { across = 0.0 }
        }
        Edit::Arrange(self.chosen.clone(), Arrangement::Move(across, down))
    }

    fn drag_to(&mut self, at: Position, place: (f32, f32), one_axis: bool) -> Vec<Ask> {
        match &mut self.pointer.drag {
            Some(Drag::Move { from, moved }) => {
                let from = *from;
                *moved |= (place.0 - from.0).abs() >= 0.5 || (place.1 - from.1).abs() >= 0.5;
                if *moved && !self.chosen.is_empty() {
                    // What is dragged is not to drag the camera along.
                    self.camera.fit = Fit::Free;
                    return vec![Ask::try_edit(self.moved(from, place, one_axis))];
                }
            }
            Some(Drag::Band { to, .. }) => *to = at,
            Some(Drag::Pan { last }) => {
                let by = (last.0 - place.0, last.1 - place.1);
                self.camera.shift(by.0, by.1);
                let last = self.camera.place(at.x, at.y);
                self.pointer.drag = Some(Drag::Pan { last });
            }
            None => {}
        }
        Vec::new()
    }

    fn let_go(&mut self, place: (f32, f32), one_axis: bool) -> Vec<Ask> {
        match self.pointer.drag.take() {
            Some(Drag::Move { from, moved: true }) if !self.chosen.is_empty() => {
                return vec![Ask::edit(self.moved(from, place, one_axis))];
            }
            Some(Drag::Band { from, to }) => {
                let (left, top) = self.camera.place(from.x.min(to.x), from.y.min(to.y));
                let (right, bottom) = self.camera.place(from.x.max(to.x), from.y.max(to.y));
                let rig = &self.derived.rig;
                let inside = |led: usize| {
                    let (x, y) = rig.position(led);
                    (left..=right).contains(&x) && (top..=bottom).contains(&y)
                };
                for (index, fixture) in rig.fixtures.iter().enumerate() {
                    if !self.chosen.contains(&index) && fixture.leds().any(inside) {
                        self.chosen.push(index);
                    }
                }
                self.at = self.chosen.first().copied().unwrap_or(self.at);
                self.strip = None;
            }
            _ => {}
        }
        Vec::new()
    }
}
