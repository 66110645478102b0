//! The tutorial on the real screens: a panel with a step, which goes on once what it asks for is done. The steps are those of
//! `docs/tutorial.md`.

mod step;

use std::time::{Duration, Instant};

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

use crate::keymap::Keys;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::{columns, wrapped};
use crate::model::Model;
use crate::views::ViewId;
use step::Step;

/// The time that a step that is done is praised before the next one comes.
const PRAISE: Duration = Duration::from_millis(1200);

/// The steps, as they are read on paper.
const PAGES: &str = include_str!("../../../../docs/tutorial.md");

/// The tutorial as far as it is done.
pub(crate) struct Tutorial {
    steps: Vec<Step>,
    at: usize,
    done: Option<Instant>,
}

impl Tutorial {
    pub(crate) fn begin() -> Self {
        Self { steps: step::read(PAGES), at: 0, done: None }
    }

    /// Takes note of what the person did.
    pub(crate) fn sync(&mut self, model: &Model, view: ViewId) {
        let Some(step) = self.steps.get(self.at) else { return };
        if self.done.is_none() && step.is_done(model, view) {
            self.done = Some(Instant::now());
        }
    }

    /// Goes on where a step has been done for a moment; true if it did.
    pub(crate) fn tick(&mut self) -> bool {
        let goes_on = self.done.is_some_and(|done| done.elapsed() > PRAISE);
        if goes_on {
            self.skip(1);
        }
        goes_on
    }

    /// Goes on by so many steps, or back.
    pub(crate) fn skip(&mut self, by: i32) {
        self.done = None;
        self.at = (self.at as i64 + i64::from(by)).clamp(0, self.steps.len() as i64) as usize;
    }

    /// The lines that it takes of a height.
    pub(crate) fn height(&self, width: u16, height: u16) -> u16 {
        let words = self.steps.get(self.at).map_or(1, |step| wrapped(&step.words, usize::from(width) - 4).len());
        (words as u16 + 3).min(height / 3)
    }

    pub(crate) fn draw(&self, keys: &Keys, theme: Theme, area: Rect, buffer: &mut Buffer) {
        for x in area.left()..area.right() {
            buffer[(x, area.y)].set_symbol("─").set_style(theme.dim());
        }
        let row = |line: u16| Rect { x: area.x + 2, y: area.y + line, width: area.width.saturating_sub(3), height: 1 };
        let Some(step) = self.steps.get(self.at) else {
            let words = "That was the tutorial: the show is yours. Ctrl-Q leaves; F1 tells the keys of every place.";
            Pen::new(row(1), buffer).put(words, theme.bright());
            return;
        };
        let mut pen = Pen::new(Rect { y: area.y, ..row(0) }, buffer);
        pen.put(&format!(" {} of {}  {} ", self.at + 1, self.steps.len(), step.title), theme.bright());
        let rest = " Ctrl-P tutorial-skip goes on ";
        if usize::from(pen.width() - pen.column()) > columns(rest) {
            pen.to(pen.width() - columns(rest) as u16).put(rest, theme.dim());
        }
        let room = area.height.saturating_sub(2);
        for (line, words) in
            wrapped(&step.words, usize::from(area.width) - 4).iter().enumerate().take(usize::from(room))
        {
            Pen::new(row(1 + line as u16), buffer).put(words, theme.text());
        }
        let mut pen = Pen::new(row(area.height - 1), buffer);
        if self.done.is_some() {
            pen.put(" done ", theme.filled());
            return;
        }
        pen.put("press  ", theme.dim());
        for key in &step.keys {
            pen.put(&format!("{} ", keys.in_words(key)), theme.bright());
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_step_has_words_keys_and_something_to_do() {
        let steps = step::read(PAGES);
        assert!(steps.len() >= 10, "{}", steps.len());
        for step in &steps {
            assert!(!step.words.is_empty() && !step.keys.is_empty(), "{}", step.title);
            assert!(step.is_understood(), "{}: {:?}", step.title, step.wanted);
        }
    }

    #[test]
    fn one_goes_on_and_back_and_never_beyond_the_ends() {
        let mut tutorial = Tutorial::begin();
        tutorial.skip(-3);
        assert_eq!(tutorial.at, 0);
        tutorial.skip(1000);
        assert_eq!(tutorial.at, tutorial.steps.len());
        let area = Rect::new(0, 0, 80, 6);
        tutorial.draw(&Keys::default(), Theme::plain(), area, &mut Buffer::empty(area));
    }
}
