//! A sheet of cues that is read: first the file is named, then it is told what it would change and which lines fail, before anything
//! is done.

use std::io::Read;
use std::path::{Path, PathBuf};

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_document::making::{Sheet, read_sheet};
use splimo_show::{CueList, Show};

use super::forms::Reply;
use crate::kit::float::float;
use crate::kit::form::{self, Field, Form};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::folded;

/// The width of what is shown, in columns.
const WIDTH: u16 = 90;
/// The longest file that is read, in bytes.
const LONGEST: u64 = 16 << 20;

/// A sheet that is to be read into a list.
pub(super) struct Importing {
    list: usize,
    name: String,
    form: Form,
    read: Option<(PathBuf, Sheet)>,
    first: usize,
}

fn bytes_of(path: &Path) -> Result<Vec<u8>, String> {
    let told = |error: std::io::Error| format!("{} cannot be read: {error}", path.display());
    // A pipe would have the screen wait.
    if !std::fs::metadata(path).map_err(told)?.is_file() {
        return Err(format!("{} is not a file; name a CSV file", path.display()));
    }
    let mut bytes = Vec::new();
    std::fs::File::open(path).map_err(told)?.take(LONGEST).read_to_end(&mut bytes).map_err(told)?;
    Ok(bytes)
}

impl Importing {
    /// Asks for the file.
    pub(super) fn new(list: usize, of: &CueList) -> Self {
        let field = Field::text("file", "file", format!("{}.csv", of.name));
        Self { list, name: of.name.clone(), form: Form::new(vec![field]), read: None, first: 0 }
    }

    /// Writes a text into the field.
    pub(super) fn paste(&mut self, text: &str) {
        if self.read.is_none() {
            self.form.paste(text);
        }
    }

    /// Takes note of why the edit was refused.
    pub(super) fn refuse(&mut self, why: &str) {
        (self.read, self.form.error) = (None, Some(why.to_owned()));
    }

    /// Handles a key.
    pub(super) fn key(&mut self, key: KeyEvent, show: &Show) -> Reply {
        if self.read.is_some() {
            return self.key_of_preview(key, show);
        }
        match self.form.key(key) {
            form::Reply::Restore => return Reply::Close,
            form::Reply::Pass => return Reply::Pass,
            form::Reply::Changed | form::Reply::Quiet => {}
            form::Reply::Keep => {
                let path = PathBuf::from(self.form.text("file"));
                let sheet = bytes_of(&path)
                    .and_then(|bytes| read_sheet(&bytes, show).map_err(|why| format!("{}: {why}", path.display())));
                match sheet {
                    Ok(sheet) => self.read = Some((path, sheet)),
                    Err(why) => self.form.error = Some(why),
                }
            }
        }
        Reply::Stay
    }

    fn key_of_preview(&mut self, key: KeyEvent, show: &Show) -> Reply {
        match key.code {
            KeyCode::Esc => return Reply::Close,
            KeyCode::Down => self.first += 1,
            KeyCode::Up => self.first = self.first.saturating_sub(1),
            KeyCode::PageDown => self.first += 10,
            KeyCode::PageUp => self.first = self.first.saturating_sub(10),
            KeyCode::Enter => {
                let (Some((_, sheet)), Some(list)) = (&self.read, show.cue_lists.get(self.list)) else {
                    return Reply::Close;
                };
                let cues = sheet.cues.clone();
                let changed = CueList { cues, ..list.clone() };
                return Reply::Keep(Box::new(Edit::PutCueLists(vec![(self.list, changed)])));
            }
            _ => return Reply::Pass,
        }
        Reply::Stay
    }

    /// Draws it over the view.
    pub(super) fn draw(&mut self, show: &Show, theme: Theme, area: Rect, buffer: &mut Buffer) {
        let title = format!("a sheet of cues for {}", self.name);
        let Some((path, sheet)) = &self.read else {
            let inside = float(&title, WIDTH, 7, theme, area, buffer);
            return self.form.draw(theme, inside, buffer);
        };
        let inside = float(&title, WIDTH, area.height.saturating_sub(4), theme, area, buffer);
        let known = show.cue_lists.get(self.list).map(|list| list.cues.as_slice()).unwrap_or_default();
        let before = |number| known.iter().find(|cue| cue.number == number);
        let fresh = sheet.cues.iter().filter(|cue| before(cue.number).is_none()).count();
        let same = sheet.cues.iter().filter(|cue| before(cue.number) == Some(*cue)).count();
        let gone = known.iter().filter(|cue| sheet.cues.iter().all(|other| other.number != cue.number)).count();
        let changed = sheet.cues.len() - fresh - same;
        let mut lines = vec![
            (path.display().to_string(), theme.bright()),
            (format!("{fresh} new cues, {changed} changed, {same} the same, {gone} go"), theme.text()),
        ];
        match sheet.failures.len() {
            0 => lines.push(("every line can be read".to_owned(), theme.text())),
            count => lines.push((format!("{count} lines fail and are left out:"), theme.armed())),
        }
        lines.extend(sheet.failures.iter().map(|one| (format!("  line {}: {}", one.line, one.message), theme.text())));
        lines.push(("Enter keeps it, Esc does not".to_owned(), theme.bright()));
        lines.extend(sheet.cues.iter().map(|cue| {
            let words = super::words::says(&cue.tiers, cue.others_out);
            (format!("  {} {}: {words}", cue.number, cue.name), theme.dim())
        }));
        let width = usize::from(inside.width).max(20);
        let lines: Vec<_> = lines
            .iter()
            .flat_map(|(words, style)| folded(words, width).into_iter().map(|line| (line, *style)))
            .collect();
        let room = usize::from(inside.height);
        self.first = self.first.min(lines.len().saturating_sub(room));
        for (line, (words, style)) in lines.iter().skip(self.first).take(room).enumerate() {
            Pen::new(Rect { y: inside.y + line as u16, height: 1, ..inside }, buffer).put(words, *style);
        }
    }
}
