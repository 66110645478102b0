//! A file that something is to be taken over from: what it would change, and which parts of it fail, before anything is done.

use std::io::Read;
use std::path::{Path, PathBuf};

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_document::import::{Importer, Proposal};
use splimo_show::Show;

use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::folded;

/// A file that was read.
#[derive(Debug)]
pub(crate) struct Importing {
    importer: Box<dyn Importer>,
    path: PathBuf,
    bytes: Vec<u8>,
    proposal: Proposal,
    /// True if the show has gone on since the file was read.
    moved: bool,
    first: usize,
}

/// The outcome of Enter on a file that was read.
pub(crate) enum Keep {
    /// An edit, just as it is shown.
    Edit(Box<Edit>),
    /// Nothing would change.
    Nothing,
    /// The show has changed, and what is shown with it: a person looks first.
    Look,
}

/// The bytes of a file that is no longer than may be.
pub(crate) fn bytes_of(path: &Path, kind: &str, longest: u64) -> Result<Vec<u8>, String> {
    let said = |why: String| format!("{}: {why}", path.display());
    let unread = |error: std::io::Error| said(format!("it cannot be read: {error}"));
    let many = |count: u64| said(format!("{count} bytes are too many; at most {longest} are read"));
    // A pipe would have the screen wait.
    let metadata = std::fs::metadata(path).map_err(unread)?;
    if !metadata.is_file() {
        return Err(said(format!("it is not a file; name a {kind} file")));
    }
    if metadata.len() > longest {
        return Err(many(metadata.len()));
    }
    let mut bytes = Vec::new();
    std::fs::File::open(path).map_err(unread)?.take(longest + 1).read_to_end(&mut bytes).map_err(unread)?;
    // It may have grown meanwhile, or be of a kind that does not know its length.
    if bytes.len() as u64 > longest { Err(many(bytes.len() as u64)) } else { Ok(bytes) }
}

impl Importing {
    /// Reads a file.
    pub(crate) fn read(path: &Path, importer: Box<dyn Importer>, show: &Show) -> Result<Self, String> {
        let bytes = bytes_of(path, importer.file_kind(), importer.longest())?;
        let proposal = importer.propose(&bytes, show).map_err(|why| format!("{}: {why}", path.display()))?;
        Ok(Self { importer, path: path.to_owned(), bytes, proposal, moved: false, first: 0 })
    }

    /// The edit to keep. Where the show has gone on since the file was read, so that another would be kept than is shown, none: then
    /// what it would change now is shown, to be looked at first.
    pub(crate) fn keep(&mut self, show: &Show) -> Result<Keep, String> {
        let now = self.importer.propose(&self.bytes, show)?;
        if now != self.proposal {
            (self.proposal, self.moved, self.first) = (now, true, 0);
            return Ok(Keep::Look);
        }
        Ok(now.edit.map_or(Keep::Nothing, |edit| Keep::Edit(Box::new(edit))))
    }

    /// Scrolls. False for a key that does not.
    pub(crate) fn key(&mut self, key: KeyEvent) -> bool {
        match key.code {
            KeyCode::Down => self.first += 1,
            KeyCode::Up => self.first = self.first.saturating_sub(1),
            KeyCode::PageDown => self.first += 10,
            KeyCode::PageUp => self.first = self.first.saturating_sub(10),
            _ => return false,
        }
        true
    }

    pub(crate) fn draw(&mut self, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let proposal = &self.proposal;
        let mut lines = vec![(self.path.display().to_string(), theme.bright())];
        lines.extend(proposal.changes.iter().map(|words| (words.clone(), theme.text())));
        if self.moved {
            lines.push(("the show has changed meanwhile; this is what it would change now".to_owned(), theme.armed()));
        }
        let fails = if proposal.warnings.is_empty() { theme.text() } else { theme.armed() };
        lines.push((proposal.left_out(), fails));
        lines.extend(proposal.warnings.iter().map(|warning| (format!("  {warning}"), theme.text())));
        let keeps = if proposal.edit.is_some() { "Enter keeps it, Esc does not" } else { "nothing would change" };
        lines.push((keeps.to_owned(), theme.bright()));
        lines.extend(proposal.contents.iter().map(|words| (format!("  {words}"), theme.dim())));
        let width = usize::from(area.width).max(20);
        let lines: Vec<_> = lines
            .iter()
            .flat_map(|(words, style)| folded(words, width).into_iter().map(|line| (line, *style)))
            .collect();
        let room = usize::from(area.height);
        self.first = self.first.min(lines.len().saturating_sub(room));
        for (line, (words, style)) in lines.iter().skip(self.first).take(room).enumerate() {
            Pen::new(Rect { y: area.y + line as u16, height: 1, ..area }, buffer).put(words, *style);
        }
    }
}
