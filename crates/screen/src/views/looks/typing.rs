//! The keys, the text and the mouse that are the view's own.

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::Position;

use super::action::{Ask, LooksAction};
use super::rows::Row;
use super::state::{LooksView, Pane};
use crate::kit::text_field::{TextField, Typed};
use crate::view::Handled;

impl LooksView {
    /// Handles a key, where it is this view's own.
    pub(super) fn handle_key(&mut self, key: KeyEvent) -> Handled<LooksAction> {
        let held = key.modifiers & (KeyModifiers::CONTROL | KeyModifiers::ALT);
        if held == KeyModifiers::CONTROL && self.drafts.blind && matches!(key.code, KeyCode::Char('z' | 'y')) {
            return Handled::Done(self.step_blind(key.code == KeyCode::Char('z')));
        }
        if let Some(mut panel) = self.panel.take() {
            let reply = self.in_context(|context| panel.key(key, context)).flatten();
            self.panel = Some(panel);
            return reply.map_or(Handled::Not, |reply| Handled::Done(self.take_reply(reply)));
        }
        if self.filtering {
            if self.work.is_some() {
                // Another look may be the chosen one with the next letter.
                return Handled::First(self.keep_work());
            }
            return self.type_filter(key);
        }
        if self.pane == Pane::Lines && held.is_empty() {
            match self.type_value(key) {
                Handled::Not => {}
                handled @ (Handled::Done(_) | Handled::First(_)) => return handled,
            }
        }
        if self.work.is_some() && held.is_empty() {
            // What is being turned is kept or restored, and nothing else happens.
            match key.code {
                KeyCode::Esc => {
                    self.said = Some("as it was".to_owned());
                    return Handled::Done(self.drop_work());
                }
                KeyCode::Enter => return Handled::Done(self.keep_work()),
                _ => {}
            }
        }
        let nudges = matches!(key.code, KeyCode::Left | KeyCode::Right) && held.is_empty();
        if self.work.is_some() && !nudges {
            // What was nudged counts from now on, before anything else happens.
            return Handled::First(self.keep_work());
        }
        Handled::Not
    }

    fn type_filter(&mut self, key: KeyEvent) -> Handled<LooksAction> {
        match key.code {
            KeyCode::Enter | KeyCode::Down => self.filtering = false,
            KeyCode::Esc => {
                self.filtering = false;
                self.filter.clear();
            }
            // It goes on to another pane, where letters are keys again.
            KeyCode::Tab | KeyCode::BackTab => {
                self.filtering = false;
                return Handled::Not;
            }
            _ => {
                if self.filter.key_of_search(key) == Typed::Not {
                    return Handled::Not;
                }
            }
        }
        self.looks.chosen = 0;
        Handled::Done(Vec::new())
    }

    /// Digits replace the value of a line at once.
    fn type_value(&mut self, key: KeyEvent) -> Handled<LooksAction> {
        let (Some(row), Some(layer)) = (self.row(), self.layer()) else { return Handled::Not };
        let begins = matches!(key.code, KeyCode::Char('0'..='9')) && row.takes_digits(layer);
        let Some(typed) = &mut self.typed else {
            let (KeyCode::Char(digit), true) = (key.code, begins) else { return Handled::Not };
            self.typed = Some(TextField::at_end(&digit.to_string()));
            return Handled::Done(Vec::new());
        };
        match key.code {
            KeyCode::Esc => self.typed = None,
            KeyCode::Char('-') => {
                let turned = typed.text().strip_prefix('-').map_or_else(|| format!("-{}", typed.text()), str::to_owned);
                typed.set(&turned);
            }
            KeyCode::Enter | KeyCode::Up | KeyCode::Down | KeyCode::Tab => {
                let text = self.typed.take().unwrap_or_default();
                let asks = self.take_typed(row, text.text());
                return if key.code == KeyCode::Enter { Handled::Done(asks) } else { Handled::First(asks) };
            }
            _ => {
                if typed.key(key) == Typed::Not {
                    return Handled::Not;
                }
            }
        }
        Handled::Done(Vec::new())
    }

    fn take_typed(&mut self, row: Row, text: &str) -> Vec<Ask> {
        let (Some(look), Some(index)) = (self.look().cloned(), self.layer_index()) else { return Vec::new() };
        let mut look = look;
        match row.take(&mut look.layers[index], text) {
            Ok(()) => {
                self.work = Some(look);
                self.keep_work()
            }
            Err(why) => {
                self.said = Some(why);
                Vec::new()
            }
        }
    }

    pub(super) fn handle_paste(&mut self, text: &str) -> Vec<Ask> {
        let Some(mut panel) = self.panel.take() else {
            if !self.filtering {
                return Vec::new();
            }
            let kept = self.keep_work();
            self.filter.insert(text);
            return kept;
        };
        let request = self.in_context(|context| panel.paste(text, context));
        self.panel = Some(panel);
        request.map_or_else(Vec::new, |request| self.do_request(request))
    }

    /// Handles the mouse.
    pub(super) fn handle_mouse(&mut self, mouse: MouseEvent) -> Vec<Ask> {
        let at = Position::new(mouse.column, mouse.row);
        if let Some(mut panel) = self.panel.take() {
            let stage = self.stage.area();
            let request = self.in_context(|context| panel.mouse(mouse, stage, context));
            self.panel = Some(panel);
            return request.map_or_else(Vec::new, |request| self.do_request(request));
        }
        match mouse.kind {
            MouseEventKind::Down(MouseButton::Left) => {
                let kept = self.keep_work();
                let before = self.looks.chosen;
                if self.looks.click(at) {
                    self.pane = Pane::Looks;
                    self.more_looks.clear();
                    if before != self.looks.chosen {
                        self.another_look();
                    }
                } else if self.layers.click(at) {
                    self.pane = Pane::Layers;
                    self.more_layers.clear();
                    self.lines.chosen = 0;
                } else if self.lines.click(at) {
                    self.pane = Pane::Lines;
                } else if let Some(light) = self.stage.light_at(at, &self.rig) {
                    (self.light, self.values) = (light, true);
                }
                kept
            }
            MouseEventKind::ScrollUp | MouseEventKind::ScrollDown => {
                let up = mouse.kind == MouseEventKind::ScrollUp;
                // The wheel turns the value that it is over, and moves in the lists.
                if self.lines.click(at) {
                    self.pane = Pane::Lines;
                    return self.nudge(if up { 1 } else { -1 });
                }
                self.choose_by(if up { -1 } else { 1 })
            }
            _ => Vec::new(),
        }
    }
}
