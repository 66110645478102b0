//! Groups: made from what is chosen, renamed, recoloured, put in order, merged and taken out.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use ratatui::layout::Rect;
use splimo_document::edit::{Edit, Pick};
use splimo_show::{Group, Show, Tint};

use crate::kit::form::{Field, Form, Reply};
use crate::kit::pen::Pen;
use crate::kit::theme::Theme;

/// A request of a key in the list.
pub(super) enum Asked {
    Nothing,
    Close,
    Edit(Edit),
    /// To choose fixtures, by index.
    Choose(Vec<usize>),
    Say(String),
}

/// The list of groups, and the form of one.
#[derive(Debug, Clone, Default)]
pub(super) struct Groups {
    at: usize,
    marked: Vec<usize>,
    form: Option<Making>,
}

/// A group that is made or changed.
#[derive(Debug, Clone)]
struct Making {
    /// Its index; none for a new one.
    index: Option<usize>,
    form: Form,
    /// Whose names it has, before any pick.
    members: Vec<String>,
}

const PICKS: [&str; 7] =
    ["all, in order", "odd ones", "even ones", "every nth", "first half", "second half", "in reverse"];

impl Groups {
    /// The list with a new group of what is chosen under way.
    pub(super) fn of_chosen(show: &Show, chosen: &[usize]) -> Self {
        let names: Vec<String> = chosen.iter().filter_map(|&i| show.fixtures.get(i)).map(|f| f.name.clone()).collect();
        let mut groups = Self { at: show.groups.len(), ..Self::default() };
        groups.make(show, None, names, "");
        groups
    }

    fn make(&mut self, show: &Show, index: Option<usize>, members: Vec<String>, name: &str) {
        let tint =
            index.and_then(|i| show.groups[i].colour).unwrap_or_else(|| Tint::of(index.unwrap_or(show.groups.len())));
        let mut profiles: Vec<&str> = vec!["whatever the profile"];
        for fixture in &show.fixtures {
            if !profiles.contains(&fixture.profile.as_str()) {
                profiles.push(&fixture.profile);
            }
        }
        let mut form = Form::new(vec![
            Field::text("name", "name", name),
            Field::choice("pick", "members", PICKS, PICKS[0]),
            Field::number("nth", "n", 3.0, 1.0, 1000.0, 1.0),
            Field::choice("profile", "only with", profiles, "whatever the profile"),
            Field::text("colour", "colour", tint.to_string()),
        ]);
        form.show("nth", false);
        self.form = Some(Making { index, form, members });
    }

    pub(super) fn paste(&mut self, text: &str) {
        if let Some(making) = &mut self.form {
            making.form.paste(text);
        }
    }

    pub(super) fn types(&self) -> bool {
        self.form.is_some()
    }

    pub(super) fn key(&mut self, key: KeyEvent, show: &Show, chosen: &[usize]) -> Option<Asked> {
        if let Some(making) = &mut self.form {
            return match making.form.key(key) {
                Reply::Pass => None,
                Reply::Restore => {
                    self.form = None;
                    Some(if show.groups.is_empty() { Asked::Close } else { Asked::Nothing })
                }
                Reply::Keep => Some(self.keep(show)),
                Reply::Changed | Reply::Quiet => {
                    let nth = making.form.text("pick") == PICKS[3];
                    making.form.show("nth", nth);
                    Some(Asked::Nothing)
                }
            };
        }
        self.at = self.at.min(show.groups.len().saturating_sub(1));
        let group = show.groups.get(self.at);
        Some(match (key.code, group) {
            (KeyCode::Esc, _) => Asked::Close,
            (KeyCode::Up, _) => {
                self.at = self.at.saturating_sub(1);
                Asked::Nothing
            }
            (KeyCode::Down, _) => {
                self.at += 1;
                Asked::Nothing
            }
            (KeyCode::Char('n'), _) if chosen.is_empty() => {
                Asked::Say("choose fixtures first; n makes a group of them".into())
            }
            (KeyCode::Char('n'), _) => {
                *self = Self::of_chosen(show, chosen);
                Asked::Nothing
            }
            (KeyCode::Char('e'), Some(group)) => {
                let (members, name) = (group.members.clone(), group.name.clone());
                self.make(show, Some(self.at), members, &name);
                Asked::Nothing
            }
            (KeyCode::Char('x'), Some(_)) => {
                match self.marked.iter().position(|m| *m == self.at) {
                    Some(place) => drop(self.marked.remove(place)),
                    None => self.marked.push(self.at),
                }
                Asked::Nothing
            }
            (KeyCode::Char('m'), _) => {
                let merged = std::mem::take(&mut self.marked);
                // The group that comes of it stands in the place of the one that was marked first.
                if let Some(first) = merged.first() {
                    self.at = first - merged.iter().filter(|other| *other < first).count();
                }
                Asked::Edit(Edit::MergeGroups(merged))
            }
            (KeyCode::Char('r'), Some(group)) => {
                let members = Pick::Reversed.from(&group.members);
                Asked::Edit(Edit::PutGroup(self.at, Group { members, ..group.clone() }))
            }
            (KeyCode::Delete, Some(_)) => {
                self.marked.clear();
                Asked::Edit(Edit::RemoveGroup(self.at))
            }
            (KeyCode::Enter, Some(group)) => {
                let place = |name: &String| show.fixtures.iter().position(|f| f.name == *name);
                Asked::Choose(group.members.iter().filter_map(place).collect())
            }
            _ => return None,
        })
    }

    fn keep(&mut self, show: &Show) -> Asked {
        let Some(making) = &mut self.form else { return Asked::Nothing };
        let form = &making.form;
        let colour = match form.text("colour").parse::<Tint>() {
            Ok(tint) => Some(tint).filter(|_| form.touched("colour") || making.index.is_some()),
            Err(error) => {
                making.form.error = Some(error.to_string());
                return Asked::Nothing;
            }
        };
        let pick = match PICKS.iter().position(|pick| *pick == form.text("pick")) {
            Some(1) => Pick::Odd,
            Some(2) => Pick::Even,
            Some(3) => Pick::Every(form.whole("nth") as usize),
            Some(4) => Pick::FirstHalf,
            Some(5) => Pick::SecondHalf,
            Some(6) => Pick::Reversed,
            _ => Pick::All,
        };
        let wanted = form.text("profile");
        let fits = |name: &&String| {
            !form.touched("profile") || show.fixtures.iter().any(|f| f.name == **name && f.profile == wanted)
        };
        let members: Vec<String> = making.members.iter().filter(fits).cloned().collect();
        let group = Group { name: form.text("name"), members: pick.from(&members), colour };
        let edit = match making.index {
            None => Edit::AddGroup(group),
            Some(index) => Edit::PutGroup(index, group),
        };
        match edit.apply(show) {
            Ok(_) => {
                self.form = None;
                Asked::Edit(edit)
            }
            Err(refused) => {
                making.form.error = Some(refused.to_string());
                Asked::Nothing
            }
        }
    }

    pub(super) fn draw(&mut self, show: &Show, theme: Theme, area: Rect, buffer: &mut Buffer) {
        if let Some(making) = &mut self.form {
            let what = if making.index.is_some() { "change a group" } else { "a group of what is chosen" };
            let count = making.members.len();
            Pen::new(Rect { height: 1, ..area }, buffer)
                .put(&format!("{what}: {count} fixture{}", if count == 1 { "" } else { "s" }), theme.dim());
            let inside = Rect { y: area.y + 2, height: area.height.saturating_sub(2), ..area };
            making.form.draw(theme, inside, buffer);
            return;
        }
        self.at = self.at.min(show.groups.len().saturating_sub(1));
        if show.groups.is_empty() {
            Pen::new(Rect { y: area.y + 1, height: 1, ..area }, buffer)
                .put("No groups yet: choose fixtures, then n makes one.", theme.text());
        }
        let room = usize::from(area.height);
        let first = (self.at + 1).saturating_sub(room);
        for (line, (index, group)) in show.groups.iter().enumerate().skip(first).take(room).enumerate() {
            let mut pen = Pen::new(Rect { y: area.y + line as u16, height: 1, ..area }, buffer);
            let chosen = index == self.at;
            pen.put(if chosen { "▸ " } else { "  " }, theme.bright());
            pen.put(if self.marked.contains(&index) { "✓ " } else { "  " }, theme.bright());
            let tint = group.colour.unwrap_or_else(|| Tint::of(index)).0;
            pen.put("■ ", ratatui::style::Style::new().fg(theme.colour(theme.mark(tint))).bg(theme.ground()));
            pen.put(&format!("{:<20}", group.name), if chosen { theme.bright() } else { theme.text() });
            let first = group.members.first().map_or("", String::as_str);
            let last = group.members.last().map_or("", String::as_str);
            pen.put(&format!("{:>4}  {first} … {last}", group.members.len()), theme.dim());
        }
    }
}
