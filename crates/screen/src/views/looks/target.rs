//! The choice of a layer's lights: groups and fixtures, found by typing.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_engine::Snapshot;
use splimo_show::Show;

use super::panel::{BulkChange, LookPanel, PanelContext, PanelReply, PanelRequest};
use crate::kit::pen::Pen;
use crate::kit::text_field::{TextField, Typed};
use crate::kit::theme::Theme;

/// The list of groups and fixtures.
pub(super) struct Target {
    /// True if all layers of all chosen looks get it.
    whole_looks: bool,
    marked: Vec<String>,
    filter: TextField,
    at: usize,
    first: usize,
}

impl Target {
    pub(super) fn of(target: &[String], whole_looks: bool) -> Box<Self> {
        Box::new(Self { whole_looks, marked: target.to_vec(), filter: TextField::default(), at: 0, first: 0 })
    }

    fn found(&self, show: &Show) -> Vec<(String, usize)> {
        let wanted = self.filter.text().to_lowercase();
        let groups = show.groups.iter().map(|g| (g.name.clone(), g.members.len()));
        let all = groups.chain(show.fixtures.iter().map(|f| (f.name.clone(), 0)));
        let mut found: Vec<(String, usize)> = all.filter(|(name, _)| name.to_lowercase().contains(&wanted)).collect();
        found.sort_by_key(|(name, _)| !name.to_lowercase().starts_with(&wanted));
        found
    }

    fn mark(&mut self, name: &str) {
        match self.marked.iter().position(|marked| marked == name) {
            Some(place) => drop(self.marked.remove(place)),
            None => self.marked.push(name.to_owned()),
        }
    }

    fn request(&self, target: Vec<String>, context: &PanelContext<'_>, keep: bool) -> PanelRequest {
        if self.whole_looks {
            return match keep {
                true => PanelRequest::Each(retargeted, Box::new(BulkChange::Target(target))),
                false => PanelRequest::Try(retargeted(context.look, &[], &BulkChange::Target(target))),
            };
        }
        let mut look = context.look.clone();
        for &index in context.layers {
            if let Some(layer) = look.layers.get_mut(index) {
                layer.target.clone_from(&target);
            }
        }
        if keep { PanelRequest::Keep(look) } else { PanelRequest::Try(look) }
    }
}

fn retargeted(look: &splimo_show::Look, _: &[usize], bulk_change: &BulkChange) -> splimo_show::Look {
    let mut look = look.clone();
    if let BulkChange::Target(target) = bulk_change {
        look.layers.iter_mut().for_each(|layer| layer.target.clone_from(target));
    }
    look
}

impl LookPanel for Target {
    fn title(&self) -> String {
        let whose =
            if self.whole_looks { "the lights of all layers of the chosen looks" } else { "the lights of this layer" };
        match self.filter.text() {
            "" => format!("{whose}; type to find some"),
            _ => format!("{whose}   {}", self.filter.with_cursor()),
        }
    }

    fn hints(&self) -> Vec<(&'static str, &'static str)> {
        vec![
            ("↑ ↓", "choose"),
            ("→", "mark several"),
            ("type", "find"),
            ("Enter", "take"),
            ("Del", "every light"),
            ("Esc", "restore"),
        ]
    }

    fn key(&mut self, key: KeyEvent, context: &PanelContext<'_>) -> Option<PanelReply> {
        let found = self.found(context.show);
        self.at = self.at.min(found.len().saturating_sub(1));
        match key.code {
            KeyCode::Esc => return PanelReply::close(PanelRequest::Drop),
            KeyCode::Up => self.at = self.at.saturating_sub(1),
            KeyCode::Down => self.at = (self.at + 1).min(found.len().saturating_sub(1)),
            KeyCode::Delete => return PanelReply::close(self.request(Vec::new(), context, true)),
            KeyCode::Right | KeyCode::Left => {
                if let Some((name, _)) = found.get(self.at) {
                    // What was there before is kept only if it was marked on purpose.
                    self.mark(name);
                }
                return PanelReply::with(self.request(self.marked.clone(), context, false));
            }
            KeyCode::Enter => {
                let Some((name, _)) = found.get(self.at) else { return PanelReply::stay() };
                // With something typed the found one is meant; else what is marked.
                let untouched = self.filter.is_empty() && !self.marked.is_empty() && self.at == 0;
                let several = untouched || self.marked.contains(name);
                let target = if several { self.marked.clone() } else { vec![name.clone()] };
                return PanelReply::close(self.request(target, context, true));
            }
            _ => match self.filter.key_of_search(key) {
                Typed::Changed => self.at = 0,
                Typed::Moved => {}
                Typed::Not => return None,
            },
        }
        PanelReply::stay()
    }

    fn draw(&mut self, context: &PanelContext<'_>, _: &Snapshot, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let found = self.found(context.show);
        if found.is_empty() {
            let words = if context.show.fixtures.is_empty() {
                "There are no lights yet: F2, then a adds some.".to_owned()
            } else {
                format!("Nothing is called \"{}\". Backspace takes letters away.", self.filter.text())
            };
            Pen::new(Rect { height: 1, ..area }, buffer).put(&words, theme.text());
            return;
        }
        self.at = self.at.min(found.len() - 1);
        let rows = usize::from(area.height.max(1));
        self.first = self.first.min(self.at).max((self.at + 1).saturating_sub(rows));
        for (line, (name, members)) in found.iter().enumerate().skip(self.first).take(rows) {
            let row = Rect { y: area.y + (line - self.first) as u16, height: 1, ..area };
            let mut pen = Pen::new(row, buffer);
            let here = line == self.at;
            pen.put(if here { "▸ " } else { "  " }, theme.bright());
            pen.put(if self.marked.contains(name) { "■ " } else { "· " }, theme.text());
            pen.put(&format!(" {name} "), if here { theme.filled() } else { theme.text() });
            if *members > 0 {
                pen.put(&format!("  group of {members}"), theme.dim());
            }
        }
    }
}
