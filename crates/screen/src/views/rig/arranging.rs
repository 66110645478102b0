//! Moving, turning, mirroring and scaling what is chosen, live, as one step.

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use splimo_document::edit::{Arrangement, Axis, Edit, Refused, Side, bounds};
use splimo_show::{Fixture, Show};

use crate::kit::text_field::TextField;

/// An arrangement as far as it is done: the fixtures as they are to lie.
#[derive(Debug, Clone)]
pub(super) struct Arranging {
    chosen: Vec<usize>,
    show: Show,
    /// The last thing that was done, in words.
    pub(super) said: String,
    /// All that was done: the way, the turn in degrees, and the scale.
    moved: (f32, f32),
    turned: f32,
    scaled: f32,
    /// The place that is being typed.
    typed: Option<TextField>,
}

impl Arranging {
    pub(super) fn new(show: &Show, chosen: &[usize]) -> Self {
        Self {
            chosen: chosen.to_vec(),
            show: show.clone(),
            said: String::new(),
            moved: (0.0, 0.0),
            turned: 0.0,
            scaled: 1.0,
            typed: None,
        }
    }

    /// The keys and what they do.
    pub(super) const KEYS: [(&'static str, &'static str); 9] = [
        ("← → ↑ ↓", "move by a pitch; Shift by ten, Alt by a tenth"),
        ("[ ]", "turn by 5 degrees; { } by 45"),
        ("h v", "mirror left and right, top and bottom"),
        ("< >", "smaller, larger"),
        ("1 2 3", "align left, centre, right"),
        ("4 5 6", "align top, middle, bottom"),
        ("7 8", "distribute across, down"),
        ("p", "type the place of the middle: x y"),
        ("Enter Esc", "keep it, leave it as it was"),
    ];

    /// Does what a key asks for; none where it means nothing here.
    pub(super) fn key(&mut self, key: KeyEvent) -> Option<Result<(), Refused>> {
        let step = match key.modifiers {
            held if held.contains(KeyModifiers::SHIFT) => 10.0,
            held if held.contains(KeyModifiers::ALT) => 0.1,
            _ => 1.0,
        };
        if key.code == KeyCode::Char('p') {
            self.typed = Some(TextField::default());
            self.said = "the middle at x y, in pitches from the top left: ".to_owned();
            return Some(Ok(()));
        }
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
            Arrangement::Move(x, y) => {
                self.moved = (self.moved.0 + x, self.moved.1 + y);
                "moved".to_owned()
            }
            Arrangement::Turn(degrees) => {
                self.turned = (self.turned + degrees) % 360.0;
                "turned".to_owned()
            }
            Arrangement::Mirror(_) => "mirrored".to_owned(),
            Arrangement::Scale(factor) => {
                self.scaled *= factor;
                "scaled".to_owned()
            }
            Arrangement::Align(_) => "aligned".to_owned(),
            Arrangement::Distribute(_) => "distributed evenly".to_owned(),
        };
        Ok(())
    }

    /// True if a place is being typed.
    pub(super) fn types(&self) -> bool {
        self.typed.is_some()
    }

    /// Takes a key while a place is typed; what came of it where that is over.
    pub(super) fn type_key(&mut self, key: KeyEvent) -> Option<Result<(), String>> {
        let typed = self.typed.as_mut()?;
        match key.code {
            KeyCode::Esc => {
                self.typed = None;
                self.said = "not moved".to_owned();
                return None;
            }
            KeyCode::Enter => {
                let text = self.typed.take().unwrap_or_default();
                return Some(self.move_to(text.text()));
            }
            _ => drop(typed.key(key)),
        }
        let typed = self.typed.as_ref().map(TextField::with_cursor).unwrap_or_default();
        self.said = format!("the middle at x y, in pitches from the top left: {typed}");
        None
    }

    fn move_to(&mut self, text: &str) -> Result<(), String> {
        let numbers: Vec<Option<f32>> = text
            .split(|c: char| c.is_whitespace() || c == ',')
            .filter(|part| !part.is_empty())
            .map(|part| part.parse().ok().filter(|number: &f32| number.is_finite()))
            .collect();
        let [Some(x), Some(y)] = numbers.as_slice() else {
            return Err(format!("\"{text}\" is no place; type two numbers, such as 40 12.5"));
        };
        let Some(all) = bounds(&self.show, &self.chosen) else { return Ok(()) };
        let (from_x, from_y) = all.middle();
        self.arrange(Arrangement::Move(x - from_x, y - from_y)).map_err(|refused| refused.to_string())
    }

    /// All that was done, and where it leads to, in lines.
    pub(super) fn totals(&self) -> Vec<String> {
        let number = |number: f32| (f64::from(number) * 100.0).round() / 100.0 + 0.0;
        let mut done = Vec::new();
        if self.moved != (0.0, 0.0) {
            done.push(format!("{} across, {} down", number(self.moved.0), number(self.moved.1)));
        }
        if self.turned != 0.0 {
            done.push(format!("{} degrees", number(self.turned)));
        }
        if self.scaled != 1.0 {
            done.push(format!("{} times as large", number(self.scaled)));
        }
        let mut lines = Vec::new();
        if !done.is_empty() {
            lines.push(format!("in all {}", done.join(", ")));
        }
        if let Some(all) = bounds(&self.show, &self.chosen) {
            let (x, y) = all.middle();
            let size = (number(all.width() + 1.0), number(all.height() + 1.0));
            lines.push(format!("middle at {} {}, {} x {}", number(x), number(y), size.0, size.1));
        }
        lines
    }

    /// All of it as one edit.
    pub(super) fn edit(&self) -> Edit {
        let lies =
            |&index: &usize| -> Option<(usize, Fixture)> { Some((index, self.show.fixtures.get(index)?.clone())) };
        Edit::Put(self.chosen.iter().filter_map(lies).collect())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use ratatui::crossterm::event::KeyEvent;
    use splimo_document::file;

    fn arranging() -> Arranging {
        let text = "version = 1\nname = \"Two\"\n[[fixtures]]\nname = \"A\"\nprofile = \"rgb\"\nshape = { line = { cells = 9 } }\nx = 10.0\ny = 8.0\n[[fixtures]]\nname = \"B\"\nprofile = \"rgb\"\nshape = { line = { cells = 9 } }\nx = 30.0\ny = 12.0\n";
        Arranging::new(&file::read(text).expect("it is a show").show, &[0, 1])
    }

    fn press(arranging: &mut Arranging, keys: &str) {
        for letter in keys.chars() {
            let code = match letter {
                '→' => KeyCode::Right,
                '↓' => KeyCode::Down,
                '⏎' => KeyCode::Enter,
                letter => KeyCode::Char(letter),
            };
            match arranging.types() {
                true => {
                    if let Some(Err(why)) = arranging.type_key(code.into()) {
                        arranging.said = why;
                    }
                }
                false => drop(arranging.key(KeyEvent::new(code, KeyModifiers::NONE))),
            }
        }
    }

    #[test]
    fn totals_add_up_and_say_where_it_is_now() {
        let mut arranging = arranging();
        assert_eq!(arranging.totals(), ["middle at 20 10, 29 x 5"]);
        press(&mut arranging, "→→→↓]]]>");
        let totals = arranging.totals();
        assert_eq!(totals[0], "in all 3 across, 1 down, 15 degrees, 1.1 times as large");
        assert!(totals[1].starts_with("middle at 23 11, "), "{totals:?}");
    }

    #[test]
    fn a_place_is_typed_and_what_is_none_is_refused() {
        let mut arranging = arranging();
        press(&mut arranging, "p40.5, 20⏎");
        assert_eq!(arranging.totals(), ["in all 20.5 across, 10 down", "middle at 40.5 20, 29 x 5"]);
        press(&mut arranging, "pleft⏎");
        assert!(arranging.said.contains("\"left\" is no place"), "{}", arranging.said);
        assert_eq!(arranging.totals()[1], "middle at 40.5 20, 29 x 5");
    }
}
