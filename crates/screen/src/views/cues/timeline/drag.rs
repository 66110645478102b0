//! A clip that is dragged with the mouse.

use splimo_show::Timeline;

/// The part of a clip that is dragged.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Grip {
    Whole,
    End,
}

/// A clip that is dragged.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Drag {
    pub clip: usize,
    pub grip: Grip,
    /// True if a copy of it is.
    pub copies: bool,
    /// The columns where it was taken, and where it is.
    pub from: u16,
    pub to: u16,
}

impl Drag {
    /// The clip, and its beginning and length as they would be.
    pub(super) fn preview(&self, line: &Timeline, place: impl Fn(u16) -> f32) -> Option<(usize, f32, f32)> {
        let clip = line.clips.get(self.clip)?;
        let by = place(self.to) - place(self.from);
        Some(match self.grip {
            Grip::Whole => (self.clip, line.snapped((clip.at + by).max(0.0)), clip.length),
            Grip::End => {
                let end = line.snapped(clip.end() + by).max(line.beside(clip.at, 1));
                (self.clip, clip.at, end - clip.at)
            }
        })
    }
}
