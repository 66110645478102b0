//! The mouse on a pattern: a click chooses, a drag moves an event, stretches it by its end, or chooses a time of some lanes.

use ratatui::crossterm::event::{MouseButton, MouseEvent, MouseEventKind};
use splimo_document::making::patterns;
use splimo_show::{PATTERN_BAR, Pattern, Show, TICKS, Ticks};

use super::drag::{Drag, Grip, Rows};
use super::{PatternPart, Reply, changed};

impl PatternPart {
    /// Handles the mouse.
    pub(crate) fn mouse(&mut self, mouse: MouseEvent, show: &Show) -> Reply {
        let Some((look, of, pattern)) = self.chosen(show) else { return Reply::NOTHING };
        match mouse.kind {
            MouseEventKind::Down(MouseButton::Left) => self.take(mouse, pattern),
            MouseEventKind::Drag(MouseButton::Left) => self.drag(mouse, pattern),
            MouseEventKind::Up(MouseButton::Left) => self.let_drop(show),
            MouseEventKind::Down(MouseButton::Right) => {
                if !self.go_to_pointer(mouse, pattern) {
                    return Reply::NOTHING;
                }
                self.with_event(look, of, pattern, |lane, event, at, _| patterns::split(lane, event, at))
            }
            MouseEventKind::ScrollUp => self.step(pattern, Ticks(PATTERN_BAR * TICKS), false),
            MouseEventKind::ScrollDown => self.step(pattern, Ticks(PATTERN_BAR * TICKS), true),
            _ => Reply::NOTHING,
        }
    }

    /// The place of the grid in a column.
    fn place(&self, column: u16, pattern: &Pattern) -> Ticks {
        let (area, step) = (self.window.area(), pattern.grid.ticks().0);
        let column = column.clamp(area.left(), area.right().saturating_sub(1).max(area.left()));
        let last = (pattern.length().0 - 1) / step;
        Ticks(((self.window.middle(column).max(0.0) as u32) / step).min(last) * step)
    }

    /// Puts the cursor where the pointer is; false where there is no lane.
    fn go_to_pointer(&mut self, mouse: MouseEvent, pattern: &Pattern) -> bool {
        let Rows { first, from, end } = self.rows;
        if !(first..end).contains(&mouse.row) || pattern.lanes.is_empty() {
            return false;
        }
        self.lane = (from + usize::from(mouse.row - first)).min(pattern.lanes.len() - 1);
        if mouse.column >= self.window.area().left() {
            self.at = self.place(mouse.column, pattern);
        }
        true
    }

    fn take(&mut self, mouse: MouseEvent, pattern: &Pattern) -> Reply {
        (self.mark, self.dragged) = (None, None);
        if !self.go_to_pointer(mouse, pattern) || mouse.column < self.window.area().left() {
            return Reply::NOTHING;
        }
        let lane = &pattern.lanes[self.lane];
        let grip = match lane.event_at(self.at) {
            None => Grip::Choice,
            Some(event) => {
                let columns = self.window.columns(lane.events[event].at, lane.events[event].end());
                let at_end = columns.len() > 1 && mouse.column + 1 == columns.end;
                if at_end { Grip::End(event) } else { Grip::Event(event) }
            }
        };
        self.dragged = Some(Drag { grip, lane: self.lane, from: self.at });
        Reply::NOTHING
    }

    fn drag(&mut self, mouse: MouseEvent, pattern: &Pattern) -> Reply {
        let Some(drag) = self.dragged else { return Reply::NOTHING };
        match drag.grip {
            Grip::Event(_) | Grip::End(_) => self.at = self.place(mouse.column, pattern),
            Grip::Choice => {
                self.go_to_pointer(mouse, pattern);
                self.mark = Some((drag.lane, drag.from));
            }
        }
        Reply::NOTHING
    }

    /// Does what was dragged, once it is let go: one step that is undone.
    fn let_drop(&mut self, show: &Show) -> Reply {
        let Some(drag) = self.dragged.take() else { return Reply::NOTHING };
        let Some((look, of, pattern)) = self.chosen(show) else { return Reply::NOTHING };
        let (at, step) = (self.at, pattern.grid.ticks());
        if at == drag.from {
            return Reply::NOTHING;
        }
        changed(look, of, |pattern| {
            let length = pattern.length();
            let lane = pattern.lanes.get_mut(drag.lane).ok_or("the lane is gone")?;
            match drag.grip {
                Grip::Event(event) => {
                    let begins = lane.events.get(event).ok_or("the event is gone")?.at.0;
                    let to = (i64::from(begins) + i64::from(at.0) - i64::from(drag.from.0)).max(0);
                    patterns::move_to(lane, event, Ticks(to as u32), length);
                }
                Grip::End(event) => patterns::end_at(lane, event, Ticks(at.0 + step.0), step, length),
                Grip::Choice => {}
            }
            Ok(())
        })
    }
}
