//! A patch that is read from a table: what it would change, and which lines fail, before anything is done.

use std::path::PathBuf;

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_document::patch::csv::{self, Parsed};
use splimo_show::Show;

use super::fields;
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::folded;

/// A table that was read.
#[derive(Debug, Clone)]
pub(super) struct Importing {
    path: PathBuf,
    parsed: Parsed,
    fresh: usize,
    changed: usize,
    /// True if fixtures would be in other groups than they are.
    regroups: bool,
    first: usize,
}

impl Importing {
    /// Reads a table.
    pub(super) fn read(path: &str, show: &Show) -> Result<Self, String> {
        let path = PathBuf::from(path.trim());
        let bytes = fields::read(&path)?;
        let parsed = csv::read(&bytes, show).map_err(|e| format!("{}: {e}", path.display()))?;
        let known: std::collections::HashMap<&str, usize> =
            show.fixtures.iter().enumerate().map(|(i, f)| (f.name.as_str(), i)).collect();
        let (mut fresh, mut changed) = (0, 0);
        for (_, fixture) in &parsed.fixtures {
            match known.get(fixture.name.as_str()) {
                None => fresh += 1,
                Some(&index) => changed += usize::from(show.fixtures[index] != *fixture),
            }
        }
        let fixtures: Vec<_> = parsed.fixtures.iter().map(|(_, fixture)| fixture.clone()).collect();
        let moved = Edit::Import(fixtures, parsed.groups.clone()).apply(show);
        let regroups = moved.is_ok_and(|moved| moved.groups != show.groups);
        Ok(Self { path, parsed, fresh, changed, regroups, first: 0 })
    }

    /// The edit that takes over what can be read; none where nothing would change.
    pub(super) fn edit(&self) -> Option<Edit> {
        let fixtures = self.parsed.fixtures.iter().map(|(_, fixture)| fixture.clone()).collect();
        let edit = Edit::Import(fixtures, self.parsed.groups.clone());
        (self.fresh + self.changed > 0 || self.regroups).then_some(edit)
    }

    pub(super) fn key(&mut self, key: KeyEvent) -> bool {
        match key.code {
            KeyCode::Down => self.first += 1,
            KeyCode::Up => self.first = self.first.saturating_sub(1),
            KeyCode::PageDown => self.first += 10,
            KeyCode::PageUp => self.first = self.first.saturating_sub(10),
            _ => return false,
        }
        true
    }

    pub(super) fn draw(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let same = self.parsed.fixtures.len() - self.fresh - self.changed;
        let mut lines = vec![
            (self.path.display().to_string(), theme.bright()),
            (format!("{} new fixtures, {} changed, {same} the same", self.fresh, self.changed), theme.text()),
        ];
        if self.regroups {
            lines.push(("groups change with them".to_owned(), theme.text()));
        }
        let failures = &self.parsed.failures;
        if failures.is_empty() {
            lines.push(("every line can be read".to_owned(), theme.text()));
        } else {
            lines.push((format!("{} lines fail and are left out:", failures.len()), theme.armed()));
            lines.extend(failures.iter().map(|f| (format!("  line {}: {}", f.line, f.message), theme.text())));
        }
        lines.push((String::new(), theme.text()));
        let listed = self.parsed.fixtures.iter().map(|(line, f)| {
            let address = f.address.map_or_else(|| "not patched".to_owned(), |a| a.to_string());
            (format!("  line {line}: {} {} {} {address}", f.name, f.profile, f.shape), theme.dim())
        });
        lines.extend(listed);
        let width = usize::from(area.width).max(20);
        let fold = |(words, style): &(String, ratatui::style::Style)| -> Vec<(String, ratatui::style::Style)> {
            folded(words, width).into_iter().map(|line| (line, *style)).collect()
        };
        let lines: Vec<_> = lines.iter().flat_map(fold).collect();
        let room = usize::from(area.height);
        self.first = self.first.min(lines.len().saturating_sub(room));
        for (line, (words, style)) in lines.iter().skip(self.first).take(room).enumerate() {
            Pen::new(Rect { y: area.y + line as u16, height: 1, ..area }, buffer).put(words, *style);
        }
    }
}
