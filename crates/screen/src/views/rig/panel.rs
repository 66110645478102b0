//! The panel that is open on the view: a form, a list, or a test on the lights. It has the keys first, and its edits are seen on
//! the lights while one makes them.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::KeyEvent;
use ratatui::layout::Rect;
use splimo_document::edit::Edit;
use splimo_document::edit::off_canvas;
use splimo_engine::Walked;
use splimo_light::rig::Rig;
use splimo_show::{Canvas, Show};

use super::action::Ask;
use super::arranging::Arranging;
use super::groups::Groups;
use super::profiles::Profiles;
use super::test_panel::TestPanel;
use super::{adding, changing, patching};
use crate::importing::Importing;
use crate::kit::form::{Form, Reply};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::folded;
use crate::model::EditedShow;

/// The words for lights that stay where they are on another canvas, and for those that come along.
pub(super) const STAY: &str = "stay where they are";
pub(super) const ALONG: &str = "come along";

/// The fixtures that hang off the canvas of a show, in words.
fn hanging_off(show: &Show) -> String {
    match off_canvas(show).as_slice() {
        [] => String::new(),
        [one] => format!("{one} hangs off it"),
        [first, rest @ ..] => format!("{first} and {} more hang off it", rest.len()),
    }
}

/// The panel that is open.
pub(super) enum RigPanel {
    Add(Form),
    Change(Form, Vec<usize>),
    Patch(Form, Vec<usize>),
    Canvas(Form),
    Arrange(Box<Arranging>),
    Groups(Groups),
    Profiles(Profiles),
    Problems(usize),
    Test(TestPanel),
    Import(Box<Importing>),
}

/// The reply of a panel to a key.
pub(super) struct PanelReply {
    pub(super) actions: Vec<Ask>,
    pub(super) open: bool,
}

impl PanelReply {
    pub(super) fn stay(actions: Vec<Ask>) -> Option<Self> {
        Some(Self { actions, open: true })
    }

    pub(super) fn close(actions: Vec<Ask>) -> Option<Self> {
        Some(Self { actions, open: false })
    }
}

impl RigPanel {
    pub(super) fn title(&self) -> &'static str {
        match self {
            Self::Add(_) => "add fixtures",
            Self::Change(..) => "change",
            Self::Patch(..) => "patch",
            Self::Canvas(_) => "canvas",
            Self::Arrange(_) => "arrange",
            Self::Groups(_) => "groups",
            Self::Profiles(_) => "profiles",
            Self::Problems(_) => "problems",
            Self::Test(TestPanel::Identify(_)) => "identify",
            Self::Test(TestPanel::Walk { .. }) => "walk",
            Self::Test(TestPanel::Hold { .. }) => "channel test",
            Self::Import(_) => "import a patch",
        }
    }

    pub(super) fn hints(&self) -> Vec<(&'static str, &'static str)> {
        const FORM: [(&str, &str); 5] = [
            ("↑ ↓", "field"),
            ("← →", "nudge; Shift coarse"),
            ("type", "replaces"),
            ("Enter", "keep"),
            ("Esc", "restore"),
        ];
        match self {
            Self::Add(_) => {
                vec![("↑ ↓", "field"), ("← →", "nudge"), ("type", "replaces"), ("Enter", "add them"), ("Esc", "do not")]
            }
            Self::Change(..) | Self::Patch(..) | Self::Canvas(_) => FORM.to_vec(),
            Self::Arrange(_) => Arranging::KEYS.to_vec(),
            Self::Groups(groups) if groups.types() => FORM.to_vec(),
            Self::Groups(_) => vec![
                ("Enter", "choose its lights"),
                ("n", "new"),
                ("e", "change"),
                ("r", "reverse"),
                ("x", "mark"),
                ("m", "merge marked"),
                ("Del", "take out"),
                ("Esc", "close"),
            ],
            Self::Profiles(profiles) if profiles.types() => FORM.to_vec(),
            Self::Profiles(_) => vec![("n", "new"), ("e", "change"), ("Del", "take out"), ("Esc", "close")],
            Self::Problems(_) => vec![("↑ ↓", "problem"), ("Enter", "go there"), ("Esc", "close")],
            Self::Test(test_panel) => test_panel.hints(),
            Self::Import(_) => vec![("↑ ↓", "lines"), ("Enter", "take it over"), ("Esc", "leave it")],
        }
    }

    /// True if keys are typed into a field now.
    pub(super) fn types(&self) -> bool {
        match self {
            Self::Groups(groups) => groups.types(),
            Self::Profiles(profiles) => profiles.types(),
            Self::Test(test) => test.types(),
            Self::Add(_) | Self::Change(..) | Self::Patch(..) | Self::Canvas(_) => true,
            Self::Arrange(arranging) => arranging.types(),
            Self::Problems(_) | Self::Import(_) => false,
        }
    }

    pub(super) fn refused(&mut self, why: &str) {
        match self {
            Self::Add(form) | Self::Change(form, _) | Self::Patch(form, _) | Self::Canvas(form) => {
                form.error = Some(why.to_owned());
            }
            Self::Arrange(arranging) => why.clone_into(&mut arranging.said),
            _ => {}
        }
    }

    pub(super) fn form(&mut self) -> Option<&mut Form> {
        match self {
            Self::Add(form) | Self::Change(form, _) | Self::Patch(form, _) | Self::Canvas(form) => Some(form),
            _ => None,
        }
    }

    /// The edit that the form of the panel says.
    fn edit(&self, kept: &Show) -> Option<Result<Edit, String>> {
        Some(match self {
            Self::Add(form) => adding::edit(form, kept),
            Self::Change(form, chosen) => changing::edit(form, kept, chosen),
            Self::Patch(form, chosen) => patching::edit(form, kept, chosen),
            Self::Canvas(form) => {
                let (width, height) = (form.number("width") as f32, form.number("height") as f32);
                let canvas = Canvas { width, height };
                Ok(if form.text("lights") == ALONG { Edit::FitCanvas(canvas) } else { Edit::Canvas(canvas) })
            }
            _ => return None,
        })
    }

    /// Shows what applies in the form, and tries what it says.
    pub(super) fn form_changed(&mut self, kept: &Show) -> Vec<Ask> {
        match self {
            Self::Add(form) => adding::show_fields(form, kept),
            Self::Change(form, _) => changing::show_fields(form, kept),
            Self::Patch(form, _) => patching::show_fields(form, kept),
            _ => {}
        }
        let edit = self.edit(kept);
        if let (Self::Canvas(form), Some(Ok(edit))) = (&mut *self, &edit) {
            form.hint("lights", edit.apply(kept).map_or_else(|_| String::new(), |show| hanging_off(&show)));
        }
        let Some(form) = self.form() else { return Vec::new() };
        match edit {
            Some(Ok(edit)) => {
                form.error = None;
                vec![Ask::try_edit(edit)]
            }
            Some(Err(why)) => {
                form.error = Some(why);
                Vec::new()
            }
            None => Vec::new(),
        }
    }

    pub(super) fn form_key(&mut self, key: KeyEvent, kept: &Show) -> Option<PanelReply> {
        match self.form()?.key(key) {
            Reply::Pass => None,
            Reply::Quiet => PanelReply::stay(Vec::new()),
            Reply::Restore => PanelReply::close(vec![Ask::drop_tried()]),
            Reply::Changed => PanelReply::stay(self.form_changed(kept)),
            Reply::Keep => {
                let edit = self.edit(kept)?.and_then(|edit| match edit.apply(kept) {
                    Ok(_) => Ok(edit),
                    Err(refused) => Err(refused.to_string()),
                });
                match edit {
                    Ok(edit) => PanelReply::close(vec![Ask::edit(edit)]),
                    Err(why) => {
                        self.form()?.error = Some(why);
                        PanelReply::stay(Vec::new())
                    }
                }
            }
        }
    }

    pub(super) fn draw(
        &mut self,
        edited: &EditedShow,
        rig: &Rig,
        walked: Option<Walked>,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
    ) {
        match self {
            Self::Add(form) | Self::Change(form, _) | Self::Patch(form, _) | Self::Canvas(form) => {
                form.draw(theme, area, buffer);
            }
            Self::Arrange(arranging) => {
                for (line, (keys, does)) in Arranging::KEYS.iter().enumerate().take(usize::from(area.height)) {
                    let mut pen = Pen::new(Rect { y: area.y + line as u16, height: 1, ..area }, buffer);
                    pen.put(&format!("{keys:<10}"), theme.bright());
                    pen.put(does, theme.dim());
                }
                let said = area.y + Arranging::KEYS.len() as u16 + 1;
                if said < area.bottom() {
                    Pen::new(Rect { y: said, height: 1, ..area }, buffer).put(&arranging.said, theme.text());
                }
                for (line, words) in arranging.totals().iter().enumerate() {
                    let y = said + 1 + line as u16;
                    if y < area.bottom() {
                        Pen::new(Rect { y, height: 1, ..area }, buffer).put(words, theme.bright());
                    }
                }
            }
            Self::Groups(groups) => groups.draw(&edited.kept, theme, area, buffer),
            Self::Profiles(profiles) => profiles.draw(&edited.kept, theme, area, buffer),
            Self::Problems(at) => problems(edited, at, theme, area, buffer),
            Self::Test(test_panel) => test_panel.draw(&edited.show, rig, walked, theme, area, buffer),
            Self::Import(importing) => importing.draw(theme, area, buffer),
        }
    }
}

/// Every problem with its mend.
fn problems(edited: &EditedShow, at: &mut usize, theme: Theme, area: Rect, buffer: &mut Buffer) {
    *at = (*at).min(edited.problems.len().saturating_sub(1));
    if edited.problems.is_empty() {
        Pen::new(Rect { height: 1, ..area }, buffer).put("No problems.", theme.text());
    }
    let width = usize::from(area.width.saturating_sub(3)).max(10);
    let mut y = area.y;
    // The chosen one is always whole on the screen.
    let first = at.saturating_sub(usize::from(area.height) / 6);
    for (index, problem) in edited.problems.iter().enumerate().skip(first) {
        let chosen = index == *at;
        let word = match problem.severity {
            splimo_show::Severity::Warning => "warning",
            _ => "error",
        };
        let mut lines = vec![(format!("{word}: {problem}"), if chosen { theme.bright() } else { theme.text() })];
        lines.push((format!("mend: {}", problem.mend), theme.dim()));
        for (part, (words, style)) in lines.iter().enumerate() {
            for (row, piece) in folded(words, width).into_iter().enumerate() {
                if y >= area.bottom() {
                    return;
                }
                let mut pen = Pen::new(Rect { y, height: 1, ..area }, buffer);
                pen.put(if chosen && part == 0 && row == 0 { "▸ " } else { "  " }, theme.bright());
                pen.put(&piece, *style);
                y += 1;
            }
        }
    }
}
