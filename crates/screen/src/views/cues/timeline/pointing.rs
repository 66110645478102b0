//! The mouse on a timeline: the ruler is gone to, clips are chosen, moved, stretched by their ends, copied and split.

use ratatui::crossterm::event::{KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::Position;
use splimo_show::Show;

use super::drag::{Drag, Grip};
use super::{NONE, Reply, TimelinePart};

impl TimelinePart {
    /// Handles the mouse.
    pub(crate) fn mouse(&mut self, mouse: MouseEvent, show: &Show) -> Reply {
        let at = Position::new(mouse.column, mouse.row);
        let Some(line) = self.line(show) else { return Reply::Says(NONE) };
        match mouse.kind {
            MouseEventKind::Down(MouseButton::Left) if self.ruler.contains(at) => {
                return self.seek(line, line.snapped(self.window.place(mouse.column)));
            }
            MouseEventKind::Down(MouseButton::Left) => return self.take(mouse, show),
            MouseEventKind::Drag(MouseButton::Left) => {
                if let Some(drag) = &mut self.drag {
                    drag.to = mouse.column;
                }
            }
            MouseEventKind::Up(MouseButton::Left) => return self.drop_at(mouse.column, show),
            MouseEventKind::Down(MouseButton::Right) => {
                if let Some((_, clip)) = self.block_at(at) {
                    self.clip = clip;
                    return self.split_clip(show, clip, Some(self.window.place(mouse.column)));
                }
            }
            MouseEventKind::ScrollUp => self.window.zoom(1, self.window.place(mouse.column)),
            MouseEventKind::ScrollDown => self.window.zoom(-1, self.window.place(mouse.column)),
            _ => {}
        }
        Reply::NOTHING
    }

    fn block_at(&self, at: Position) -> Option<(ratatui::layout::Rect, usize)> {
        // What was drawn last lies above.
        self.blocks.iter().rev().find(|(area, _)| area.contains(at)).copied()
    }

    /// Takes the clip that is pointed at, or opens the form of a new one where there is none.
    fn take(&mut self, mouse: MouseEvent, show: &Show) -> Reply {
        let at = Position::new(mouse.column, mouse.row);
        if let Some((area, clip)) = self.block_at(at) {
            let end = area.width > 2 && mouse.column + 1 == area.right();
            let grip = if end { Grip::End } else { Grip::Whole };
            let copies = mouse.modifiers.contains(KeyModifiers::CONTROL) && grip == Grip::Whole;
            self.clip = clip;
            self.drag = Some(Drag { clip, grip, copies, from: mouse.column, to: mouse.column });
            return Reply::NOTHING;
        }
        let lane = self.lanes.iter().find(|(area, _)| area.contains(at)).map(|(_, tier)| tier.clone());
        let (Some(tier), Some(line)) = (lane, self.line(show)) else { return Reply::NOTHING };
        self.add_at(show, line.snapped(self.window.place(mouse.column)), tier)
    }

    fn drop_at(&mut self, column: u16, show: &Show) -> Reply {
        let Some(drag) = self.drag.take().map(|drag| Drag { to: column, ..drag }) else { return Reply::NOTHING };
        let window = self.window;
        let preview = self.line(show).and_then(|line| drag.preview(line, |column| window.place(column)));
        let Some((clip, at, length)) = preview.filter(|_| drag.from != column) else { return Reply::NOTHING };
        match drag.grip {
            Grip::Whole if drag.copies => self.copy_clip(show, clip, Some(at)),
            Grip::Whole => self.move_to(show, clip, at),
            Grip::End => self.stretch_to(show, clip, at + length),
        }
    }
}
