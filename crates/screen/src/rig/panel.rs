//! What is open on the view: a form, a list, or a proof on the lights. It has the keys first, and its edits are seen on
//! the lights while one makes them.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseEvent};
use ratatui::layout::{Position, Rect};
use splimo_core::action::{Action, View};
use splimo_core::edit::Edit;
use splimo_core::engine::{LightTest, Walked};
use splimo_core::rig::Rig;
use splimo_core::show::{Canvas, Show, Step};

use super::arranging::Arranging;
use super::groups::{Asked, Groups};
use super::importing::Importing;
use super::profiles::Profiles;
use super::proving::Proving;
use super::{Desk, RigView, adding, changing, patching};
use crate::kit::form::{Field, Form, Reply};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;
use crate::kit::words::folded;

/// What is open.
pub(super) enum Panel {
    Add(Form),
    Change(Form, Vec<usize>),
    Patch(Form, Vec<usize>),
    Canvas(Form),
    Arrange(Arranging),
    Groups(Groups),
    Profiles(Profiles),
    Problems(usize),
    LightTest(Proving),
    Import(Importing),
}

/// What a key in a panel leads to.
struct Answer {
    actions: Vec<Action>,
    open: bool,
}

impl Answer {
    fn stay(actions: Vec<Action>) -> Option<Self> {
        Some(Self { actions, open: true })
    }

    fn close(actions: Vec<Action>) -> Option<Self> {
        Some(Self { actions, open: false })
    }
}

impl Panel {
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
            Self::LightTest(Proving::Identify(_)) => "identify",
            Self::LightTest(Proving::Walk { .. }) => "walk",
            Self::LightTest(Proving::Hold { .. }) => "channel test",
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
            Self::LightTest(proving) => proving.hints(),
            Self::Import(_) => vec![("↑ ↓", "lines"), ("Enter", "take it over"), ("Esc", "leave it")],
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

    fn form(&mut self) -> Option<&mut Form> {
        match self {
            Self::Add(form) | Self::Change(form, _) | Self::Patch(form, _) | Self::Canvas(form) => Some(form),
            _ => None,
        }
    }

    /// What the form of the panel says.
    fn edit(&self, kept: &Show) -> Option<Result<Edit, String>> {
        Some(match self {
            Self::Add(form) => adding::edit(form),
            Self::Change(form, chosen) => changing::edit(form, kept, chosen),
            Self::Patch(form, chosen) => patching::edit(form, chosen),
            Self::Canvas(form) => {
                let (width, height) = (form.number("width") as f32, form.number("height") as f32);
                Ok(Edit::Canvas(Canvas { width, height }))
            }
            _ => return None,
        })
    }

    /// Shows what applies in the form, and tries what it says.
    fn form_changed(&mut self, kept: &Show) -> Vec<Action> {
        match self {
            Self::Add(form) => adding::show_fields(form),
            Self::Change(form, _) => changing::show_fields(form),
            Self::Patch(form, _) => patching::show_fields(form),
            _ => {}
        }
        let edit = self.edit(kept);
        let Some(form) = self.form() else { return Vec::new() };
        match edit {
            Some(Ok(edit)) => {
                form.error = None;
                vec![Action::TryEdit(edit)]
            }
            Some(Err(why)) => {
                form.error = Some(why);
                Vec::new()
            }
            None => Vec::new(),
        }
    }

    fn form_key(&mut self, key: KeyEvent, kept: &Show) -> Option<Answer> {
        match self.form()?.key(key) {
            Reply::Pass => None,
            Reply::Quiet => Answer::stay(Vec::new()),
            Reply::Restore => Answer::close(vec![Action::DropTried]),
            Reply::Changed => Answer::stay(self.form_changed(kept)),
            Reply::Keep => {
                let edit = self.edit(kept)?.and_then(|edit| match edit.apply(kept) {
                    Ok(_) => Ok(edit),
                    Err(refused) => Err(refused.to_string()),
                });
                match edit {
                    Ok(edit) => Answer::close(vec![Action::Edit(edit)]),
                    Err(why) => {
                        self.form()?.error = Some(why);
                        Answer::stay(Vec::new())
                    }
                }
            }
        }
    }

    pub(super) fn draw(
        &mut self,
        desk: &Desk,
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
            }
            Self::Groups(groups) => groups.draw(&desk.kept, theme, area, buffer),
            Self::Profiles(profiles) => profiles.draw(&desk.kept, theme, area, buffer),
            Self::Problems(at) => problems(desk, at, theme, area, buffer),
            Self::LightTest(proving) => proving.draw(&desk.show, rig, walked, theme, area, buffer),
            Self::Import(importing) => importing.draw(theme, area, buffer),
        }
    }
}

/// Every problem with its mend.
fn problems(desk: &Desk, at: &mut usize, theme: Theme, area: Rect, buffer: &mut Buffer) {
    *at = (*at).min(desk.problems.len().saturating_sub(1));
    if desk.problems.is_empty() {
        Pen::new(Rect { height: 1, ..area }, buffer).put("No problems.", theme.text());
    }
    let width = usize::from(area.width.saturating_sub(3)).max(10);
    let mut y = area.y;
    // The chosen one is always whole on the screen.
    let first = at.saturating_sub(usize::from(area.height) / 6);
    for (index, problem) in desk.problems.iter().enumerate().skip(first) {
        let chosen = index == *at;
        let word = match problem.severity {
            splimo_core::check::Severity::Warning => "warning",
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

impl RigView {
    /// Opens what an action opens.
    pub(super) fn open(&mut self, action: &Action) -> Vec<Action> {
        let show = self.desk.kept.clone();
        let meant = self.meant();
        let mut actions = self.leave();
        let needs_fixtures = matches!(
            action,
            Action::ChangeFixtures | Action::ArrangeFixtures | Action::PatchFixtures | Action::Identify | Action::Walk
        );
        if needs_fixtures && meant.is_empty() {
            self.said = Some("there is no fixture yet: a adds some".to_owned());
            return actions;
        }
        if needs_fixtures && self.chosen.is_empty() {
            self.chosen.clone_from(&meant);
        }
        let panel = match action {
            Action::AddFixtures => Some(Panel::Add(adding::form(&show))),
            Action::ChangeFixtures => changing::form(&show, &meant).map(|form| Panel::Change(form, meant)),
            Action::PatchFixtures => Some(Panel::Patch(patching::form(&show, &meant), meant)),
            Action::SizeCanvas => Some(Panel::Canvas(Form::new(vec![
                Field::number("width", "width", f64::from(show.canvas.width), 1.0, 100_000.0, 1.0),
                Field::number("height", "height", f64::from(show.canvas.height), 1.0, 100_000.0, 1.0),
            ]))),
            Action::ArrangeFixtures => Some(Panel::Arrange(Arranging::new(&show, &meant))),
            Action::ShowGroups => Some(Panel::Groups(Groups::default())),
            Action::ShowProfiles => Some(Panel::Profiles(Profiles::default())),
            Action::ShowProblems => Some(Panel::Problems(0)),
            Action::Identify => Some(Panel::LightTest(Proving::Identify(meant))),
            Action::Walk => Some(Panel::LightTest(Proving::walk(&meant))),
            Action::HoldSlots => Some(Panel::LightTest(Proving::hold(&show, meant.first().copied()))),
            Action::ImportPatch(path) => match Importing::read(path, &show) {
                Ok(importing) => Some(Panel::Import(importing)),
                Err(why) => {
                    self.said = Some(why);
                    None
                }
            },
            _ => None,
        };
        self.panel = panel;
        match &mut self.panel {
            // What will be added is seen at once.
            Some(panel @ Panel::Add(_)) => {
                actions.retain(|a| *a != Action::DropTried);
                self.camera.fit = super::Fit::Lights;
                actions.extend(panel.form_changed(&show));
            }
            // What is moved is not to drag the camera along.
            Some(Panel::Arrange(_) | Panel::Change(..)) if self.camera.fit == super::Fit::Chosen => {
                self.camera.holds = true;
            }
            Some(Panel::LightTest(proving)) => actions.push(Action::Prove(proving.proof())),
            _ => {}
        }
        actions
    }

    /// What a key asks for while a panel is open; none where it is not the panel's.
    pub(crate) fn key(&mut self, key: KeyEvent) -> Option<Vec<Action>> {
        let kept = self.desk.kept.clone();
        let answer = self.panel_key(key, &kept)?;
        if !answer.open {
            self.closed(&answer.actions);
        }
        Some(answer.actions)
    }

    fn panel_key(&mut self, key: KeyEvent, kept: &Show) -> Option<Answer> {
        let chosen = self.chosen.clone();
        let walked = self.walked;
        let held = key.modifiers.contains(KeyModifiers::CONTROL);
        match self.panel.as_mut()? {
            _ if held => None,
            panel @ (Panel::Add(_) | Panel::Change(..) | Panel::Patch(..) | Panel::Canvas(_)) => {
                panel.form_key(key, kept)
            }
            Panel::Arrange(arranging) => match key.code {
                KeyCode::Esc => Answer::close(vec![Action::DropTried]),
                KeyCode::Enter => Answer::close(vec![Action::Edit(arranging.edit())]),
                _ => match arranging.key(key)? {
                    Ok(()) => Answer::stay(vec![Action::TryEdit(arranging.edit())]),
                    Err(refused) => {
                        arranging.said = refused.to_string();
                        Answer::stay(Vec::new())
                    }
                },
            },
            Panel::Groups(groups) => {
                let asked = groups.key(key, kept, &chosen)?;
                self.asked(asked)
            }
            Panel::Profiles(profiles) => {
                let asked = profiles.key(key, kept)?;
                self.asked(asked)
            }
            Panel::Problems(at) => match key.code {
                KeyCode::Up => {
                    *at = at.saturating_sub(1);
                    Answer::stay(Vec::new())
                }
                KeyCode::Down => {
                    *at += 1;
                    Answer::stay(Vec::new())
                }
                KeyCode::Enter => {
                    let at = *at;
                    Answer::close(self.go_to_problem(at))
                }
                KeyCode::Esc => Answer::close(Vec::new()),
                _ => None,
            },
            Panel::LightTest(proving) => {
                let (actions, open) = proving.key(key, walked)?;
                if open { Answer::stay(actions) } else { Answer::close(vec![Action::Prove(LightTest::Off)]) }
            }
            Panel::Import(importing) => match key.code {
                KeyCode::Esc => Answer::close(Vec::new()),
                KeyCode::Enter => match importing.edit() {
                    None => {
                        self.said = Some("nothing was changed: there is nothing new in it".to_owned());
                        Answer::close(Vec::new())
                    }
                    Some(edit) => match edit.apply(kept) {
                        Ok(_) => Answer::close(vec![Action::Edit(edit)]),
                        Err(refused) => {
                            self.said = Some(refused.to_string());
                            Answer::stay(Vec::new())
                        }
                    },
                },
                _ => importing.key(key).then(|| Answer { actions: Vec::new(), open: true }),
            },
        }
    }

    fn asked(&mut self, asked: Asked) -> Option<Answer> {
        match asked {
            Asked::Nothing => Answer::stay(Vec::new()),
            Asked::Close => Answer::close(Vec::new()),
            Asked::Edit(edit) => Answer::stay(vec![Action::Edit(edit)]),
            Asked::Say(words) => {
                self.said = Some(words);
                Answer::stay(Vec::new())
            }
            Asked::Choose(fixtures) => {
                self.at = fixtures.first().copied().unwrap_or(self.at);
                self.chosen = fixtures;
                Answer::close(Vec::new())
            }
        }
    }

    /// What was added is chosen then.
    fn closed(&mut self, actions: &[Action]) {
        let panel = self.panel.take();
        let Some(Action::Edit(edit)) = actions.first() else { return };
        if let (Some(Panel::Patch(..)), Edit::Patch(fixtures, _)) = (&panel, edit)
            && let Ok(patched) = edit.apply(&self.desk.kept)
            && let Some(first) = fixtures.first().and_then(|&index| patched.fixtures.get(index))
        {
            let address = first.address.map_or_else(String::new, |a| a.to_string());
            self.said = Some(format!("{} begins at {address}", first.name));
        }
        if let (Some(Panel::Add(_)), Edit::Add(batch)) = (panel, edit) {
            let first = self.desk.kept.fixtures.len();
            self.coming = first..first + batch.count as usize;
            let count = batch.count;
            self.said = Some(format!("{count} added and chosen; Ctrl-Z takes them back"));
        }
    }

    /// Goes to where a problem lies.
    fn go_to_problem(&mut self, at: usize) -> Vec<Action> {
        let Some(problem) = self.desk.problems.get(at).cloned() else { return Vec::new() };
        self.said = Some(problem.mend.clone());
        let index = match problem.place.0.get(1) {
            Some(Step::Index(index)) => Some(*index),
            _ => None,
        };
        match (problem.place.0.first(), index) {
            (Some(Step::Key(list)), Some(index)) if list == "fixtures" => {
                self.choose_one(index.min(self.desk.kept.fixtures.len().saturating_sub(1)));
                self.camera.fit = super::Fit::Chosen;
                Vec::new()
            }
            (Some(Step::Key(list)), _) => match list.as_str() {
                "routes" => vec![Action::ShowView(View::Output)],
                "groups" => vec![Action::ShowGroups],
                "profiles" => vec![Action::ShowProfiles],
                "canvas" => vec![Action::SizeCanvas],
                _ => Vec::new(),
            },
            _ => Vec::new(),
        }
    }

    /// A paste goes into what is typed, and nowhere else.
    pub(crate) fn paste(&mut self, text: &str) -> Vec<Action> {
        let kept = self.desk.kept.clone();
        let Some(panel) = &mut self.panel else { return Vec::new() };
        match panel {
            Panel::Groups(groups) => groups.paste(text),
            Panel::Profiles(profiles) => profiles.paste(text),
            Panel::LightTest(proving) => proving.paste(text),
            _ => {}
        }
        match panel.form().is_some_and(|form| form.paste(text)) {
            true => panel.form_changed(&kept),
            false => Vec::new(),
        }
    }

    /// What the mouse asks for.
    pub(crate) fn mouse(&mut self, mouse: MouseEvent) -> Vec<Action> {
        let at = Position::new(mouse.column, mouse.row);
        if let Some(form) = self.panel.as_mut().and_then(Panel::form)
            && matches!(mouse.kind, ratatui::crossterm::event::MouseEventKind::Down(_))
            && form.click(at)
        {
            return Vec::new();
        }
        self.point(mouse)
    }

    /// Whether keys are typed into a field now.
    pub(crate) fn types(&self) -> bool {
        match &self.panel {
            Some(Panel::Groups(groups)) => groups.types(),
            Some(Panel::Profiles(profiles)) => profiles.types(),
            Some(Panel::LightTest(proving)) => proving.types(),
            Some(Panel::Add(_) | Panel::Change(..) | Panel::Patch(..) | Panel::Canvas(_)) => true,
            _ => false,
        }
    }
}
