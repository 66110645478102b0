//! Moving, turning, mirroring and scaling what is chosen, live, as one step.

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use splimo_core::edit::{Arrangement, Axis, Edit, Refused, Side};
use splimo_core::show::{Fixture, Show};

/// An arrangement as far as it is done: the fixtures as they are to lie.
#[derive(Debug, Clone)]
pub(super) struct Arranging {
    chosen: Vec<usize>,
    show: Show,
    /// The last thing that was done, in words.
    pub(super) said: String,
}

impl Arranging {
    pub(super) fn new(show: &Show, chosen: &[usize]) -> Self {
        Self { chosen: chosen.to_vec(), show: show.clone(), said: String::new() }
    }

    /// The keys and what they do.
    pub(super) const KEYS: [(&'static str, &'static str); 8] = [
        ("← → ↑ ↓", "move by a pitch; Shift by ten, Alt by a tenth"),
        ("[ ]", "turn by 5 degrees; { } by 45"),
        ("h v", "mirror left and right, top and bottom"),
        ("< >", "smaller, larger"),
        ("1 2 3", "align left, centre, right"),
        ("4 5 6", "align top, middle, bottom"),
        ("7 8", "distribute across, down"),
        ("Enter Esc", "keep it, leave it as it was"),
    ];

    /// Does what a key asks for; none where it means nothing here.
    pub(super) fn key(&mut self, key: KeyEvent) -> Option<Result<(), Refused>> {
        let step = match key.modifiers {
            held if held.contains(KeyModifiers::SHIFT) => 10.0,
            held if held.contains(KeyModifiers::ALT) => 0.1,
            _ => 1.0,
        };
        let how = match key.code {
            KeyCode::Left => Arrangement::Move(-step, 0.0),
            KeyCode::Right => Arrangement::Move(step, 0.0),
            KeyCode::Up => Arrangement::Move(0.0, -step),
            KeyCode::Down => Arrangement::Move(0.0, step),
            KeyCode::Char('[') => Arrangement::Turn(-5.0),
            KeyCode::Char(']') => Arrangement::Turn(5.0),
            KeyCode::Char('{') => Arrangement::Turn(-45.0),
            KeyCode::Char('}') => Arrangement::Turn(45.0),
            KeyCode::Char('h') => Arrangement::Mirror(Axis::X),
            KeyCode::Char('v') => Arrangement::Mirror(Axis::Y),
            KeyCode::Char('<') => Arrangement::Scale(1.0 / 1.1),
            KeyCode::Char('>') => Arrangement::Scale(1.1),
            KeyCode::Char('1') => Arrangement::Align(Side::Left),
            KeyCode::Char('2') => Arrangement::Align(Side::Centre),
            KeyCode::Char('3') => Arrangement::Align(Side::Right),
            KeyCode::Char('4') => Arrangement::Align(Side::Top),
            KeyCode::Char('5') => Arrangement::Align(Side::Middle),
            KeyCode::Char('6') => Arrangement::Align(Side::Bottom),
            KeyCode::Char('7') => Arrangement::Distribute(Axis::X),
            KeyCode::Char('8') => Arrangement::Distribute(Axis::Y),
            _ => return None,
        };
        Some(self.arrange(how))
    }

    /// Goes on by one arrangement.
    pub(super) fn arrange(&mut self, how: Arrangement) -> Result<(), Refused> {
        self.show = Edit::Arrange(self.chosen.clone(), how).apply(&self.show)?;
        self.said = match how {
            Arrangement::Move(x, y) => format!("moved by {x} across, {y} down"),
            Arrangement::Turn(degrees) => format!("turned by {degrees} degrees"),
            Arrangement::Mirror(_) => "mirrored".to_owned(),
            Arrangement::Scale(factor) => format!("scaled by {factor:.2}"),
            Arrangement::Align(_) => "aligned".to_owned(),
            Arrangement::Distribute(_) => "distributed evenly".to_owned(),
        };
        Ok(())
    }

    /// All of it as one edit.
    pub(super) fn edit(&self) -> Edit {
        let lies =
            |&index: &usize| -> Option<(usize, Fixture)> { Some((index, self.show.fixtures.get(index)?.clone())) };
        Edit::Put(self.chosen.iter().filter_map(lies).collect())
    }
}
