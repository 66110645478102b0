//! The palette: anything that can be done, and looks, fixtures and groups, found by name. What can be done here comes first,
//! everything else stands under the view it belongs to. What makes the stage flash or go dark is never what another word finds.

use ratatui::buffer::Buffer;
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use splimo_document::Command;
use splimo_document::input::Target;
use splimo_show::Show;
use splimo_show::command::{self, COMMANDS, CommandInfo, EngineCommand, SessionCommand};

use super::reply::OverlayReply;
use crate::frame::FrameAction;
use crate::keymap::Keys;
use crate::kit::float::float;
use crate::kit::pen::Pen;
use crate::kit::text_field::{TextField, Typed};
use crate::kit::theme::Theme;
use crate::kit::words::{columns, shortened};
use crate::model::Model;
use crate::ui_action::{ActionInfo, UiAction};
use crate::view::Ask;
use crate::views::{AnyAction, AnyAsk, ViewId};

/// Looks, fixtures and groups that are listed at the most.
const MOST_NAMES: usize = 12;

/// Letters of its name after which something that startles is meant by them.
const MEANT: usize = 4;

/// Something that can be chosen.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Entry<'a> {
    /// A command to the session.
    Command(&'static CommandInfo),
    /// An action of the frame.
    Frame(&'static ActionInfo),
    /// An action of a view.
    View(ViewId, &'static ActionInfo),
    /// A look, which is armed.
    Look(&'a str),
    /// A fixture or a group, which is chosen on the view Rig; and which of the two.
    Light(&'a str, &'static str),
}

impl<'a> Entry<'a> {
    fn name(&self) -> &'a str {
        match self {
            Self::Command(info) => info.name,
            Self::Frame(info) | Self::View(_, info) => info.name,
            Self::Look(name) | Self::Light(name, _) => name,
        }
    }

    fn help(&self) -> String {
        match self {
            Self::Command(info) => info.help().to_owned(),
            Self::Frame(info) | Self::View(_, info) => info.help().to_owned(),
            Self::Look(_) => "Arm this look".to_owned(),
            Self::Light(_, kind) => format!("Choose this {kind}"),
        }
    }

    /// The name of the argument, and what may be written for it.
    fn argument(&self) -> Option<(&'static str, &'static str)> {
        match self {
            Self::Command(info) => info.argument.map(|argument| (argument.name, argument.takes)),
            Self::Frame(info) | Self::View(_, info) => info.argument.map(|name| (name, name)),
            Self::Look(_) | Self::Light(..) => None,
        }
    }

    fn startles(&self) -> bool {
        match self {
            Self::Command(info) => info.startles,
            // These flash or hold lights too.
            Self::View(_, info) => matches!(info.name, "identify" | "walk" | "channel-test"),
            Self::Frame(_) | Self::Look(_) | Self::Light(..) => false,
        }
    }

    /// The view that it belongs to, where that is not the one that is looked at.
    fn elsewhere(&self, view: ViewId) -> Option<ViewId> {
        match self {
            Self::View(owner, _) => Some(*owner).filter(|owner| *owner != view),
            Self::Command(_) | Self::Frame(_) | Self::Look(_) | Self::Light(..) => None,
        }
    }

    /// The requests that choosing it makes.
    ///
    /// # Errors
    /// In words, where the argument is missing or wrong.
    fn asks(&self, argument: &str) -> Result<Vec<AnyAsk>, String> {
        match self {
            Self::Command(info) => {
                let text = format!("{} {argument}", info.name);
                let command: Command = text.parse().map_err(|bad: command::BadCommand| bad.to_string())?;
                Ok(vec![Ask::Command(command)])
            }
            Self::Frame(info) => {
                let action = FrameAction::parse(info.name, argument);
                action.map(|action| vec![Ask::Action(AnyAction::Frame(action))]).ok_or_else(|| missing(info, argument))
            }
            Self::View(owner, info) => {
                let action = owner.action(info.name, argument);
                action.map(|action| vec![Ask::Action(action)]).ok_or_else(|| missing(info, argument))
            }
            Self::Look(name) => Ok(vec![Ask::Command(EngineCommand::FireLook((*name).to_owned()).into())]),
            Self::Light(name, _) => {
                let choose = ViewId::Rig.action("choose", name).map(Ask::Action);
                Ok([Ask::GoTo(ViewId::Rig.spec().name)].into_iter().chain(choose).collect())
            }
        }
    }
}

fn missing(info: &ActionInfo, argument: &str) -> String {
    match info.argument {
        Some(name) if argument.is_empty() => format!("the {name} is missing"),
        Some(name) => format!("\"{argument}\" is no {name}"),
        None => format!("nothing is to stand behind {}", info.name),
    }
}

/// The distance of an entry from what was typed: the smaller, the better. None where it does not fit.
fn fit(entry: &Entry<'_>, typed: &str) -> Option<u32> {
    let name = entry.name().to_lowercase();
    let whole = typed.replace(' ', "-");
    if name == typed || name == whole {
        return Some(0);
    }
    if name.starts_with(typed) || name.starts_with(&whole) {
        return Some(1);
    }
    let help = entry.help().to_lowercase();
    let words: Vec<&str> = typed.split_whitespace().collect();
    let begins = |word: &&str| name.split(['-', ' ']).any(|part| part.starts_with(*word));
    if words.iter().all(begins) {
        return Some(2);
    }
    if words.iter().all(|word| name.contains(*word)) {
        return Some(3);
    }
    let in_help = |word: &&str| name.contains(*word) || help.split(' ').any(|part| part.starts_with(*word));
    if words.iter().all(in_help) {
        return Some(4);
    }
    // Letters may be left out, as long as the others come in their order.
    let letters: String = typed.chars().filter(|letter| !letter.is_whitespace()).collect();
    (letters.chars().count() >= 2 && has_in_order(&name, &letters)).then_some(5)
}

fn has_in_order(name: &str, letters: &str) -> bool {
    let mut rest = name.chars();
    letters.chars().all(|letter| rest.any(|other| other == letter))
}

/// The palette that is open.
#[derive(Default)]
pub(crate) struct Palette {
    text: TextField,
    chosen: usize,
    /// True if a person has moved in the list.
    moved: bool,
    refused: Option<String>,
}

impl Palette {
    /// The palette with a name already there, to be told what that needs.
    pub(crate) fn asking(name: &str) -> Self {
        Self { text: TextField::at_end(&format!("{name} ")), ..Self::default() }
    }

    /// The entries that fit what was typed, the best first.
    fn found<'a>(&self, view: ViewId, show: &'a Show) -> Vec<Entry<'a>> {
        let typed = self.text.text().trim().to_lowercase();
        let all = entries(view, show);
        if self.text.text().contains(' ') {
            let name = typed.split(' ').next().unwrap_or_default();
            let listed = all.iter().copied().find(|entry| entry.name() == name);
            // What usually only programs write is not listed, and yet understood.
            let entry = listed.or_else(|| command::info(name).map(Entry::Command));
            if let Some(entry) = entry.filter(|entry| entry.argument().is_some()) {
                return vec![entry];
            }
        }
        if typed.is_empty() {
            let plain = |entry: &Entry<'_>| !matches!(entry, Entry::Look(_) | Entry::Light(..));
            return all.into_iter().filter(plain).collect();
        }
        let mut fits: Vec<(u32, Entry<'a>)> =
            all.into_iter().filter_map(|entry| Some((fit(&entry, &typed)?, entry))).collect();
        // What can be done here comes before what can be done elsewhere, but for a name that was typed out.
        fits.sort_by_key(|(fit, entry)| (*fit > 0 && entry.elsewhere(view).is_some(), *fit, entry.startles()));
        let mut names = 0;
        fits.retain(|(_, entry)| {
            let named = matches!(entry, Entry::Look(_) | Entry::Light(..));
            names += usize::from(named);
            !named || names <= MOST_NAMES
        });
        fits.into_iter().map(|(_, entry)| entry).collect()
    }

    /// The chosen line; none where Enter is not to do anything yet.
    fn at(&self, found: &[Entry<'_>]) -> Option<usize> {
        let at = self.chosen.min(found.len().checked_sub(1)?);
        let typed = self.text.text().trim().to_lowercase();
        let word = typed.split(' ').next().unwrap_or_default();
        let meant = self.moved || (word.chars().count() >= MEANT && found[at].name().starts_with(word));
        (meant || !found[at].startles()).then_some(at)
    }

    pub(super) fn key(&mut self, key: KeyEvent, view: ViewId, model: &Model) -> OverlayReply {
        let held = key.modifiers & (KeyModifiers::CONTROL | KeyModifiers::ALT);
        self.refused = None;
        match key.code {
            KeyCode::Esc => return OverlayReply::Close,
            KeyCode::Char('p') if held == KeyModifiers::CONTROL => return OverlayReply::Close,
            KeyCode::Down => self.move_by(1, view, model),
            KeyCode::Up => self.move_by(-1, view, model),
            KeyCode::Enter => return self.choose(view, model),
            KeyCode::Char('k') if key.modifiers.contains(KeyModifiers::CONTROL) => return self.learn(view, model),
            _ => {
                if self.text.key(key) == Typed::Changed {
                    (self.chosen, self.moved) = (0, false);
                }
            }
        }
        OverlayReply::Stay
    }

    fn move_by(&mut self, by: i32, view: ViewId, model: &Model) {
        // The first press chooses the first line where none is chosen yet.
        let none = self.at(&self.found(view, model.document.kept())).is_none();
        if !(none && by > 0) {
            self.chosen = self.chosen.saturating_add_signed(by as isize);
        }
        self.moved = true;
    }

    pub(super) fn paste(&mut self, text: &str) {
        self.text.insert(text);
    }

    fn choose(&mut self, view: ViewId, model: &Model) -> OverlayReply {
        let found = self.found(view, model.document.kept());
        let Some(at) = self.at(&found) else {
            if let Some(entry) = found.first() {
                self.refused = Some(format!("{}: ↓ chooses it", entry.name()));
            }
            return OverlayReply::Stay;
        };
        let entry = found[at];
        if let Some(owner) = entry.elsewhere(view) {
            let spec = owner.spec();
            self.refused = Some(format!("that is for the view {}: F{} goes there", spec.name, spec.function_key));
            return OverlayReply::Stay;
        }
        let argument = self.text.text().trim().strip_prefix(entry.name()).map(str::trim).unwrap_or_default();
        match entry.asks(if entry.argument().is_some() { argument } else { "" }) {
            Ok(asks) => OverlayReply::CloseAsking(asks),
            Err(why) => {
                self.refused = Some(why).filter(|_| !argument.is_empty());
                // Its name stands there now, and what it needs is asked for.
                if argument.is_empty() {
                    self.text.set(&format!("{} ", entry.name()));
                    self.chosen = 0;
                }
                OverlayReply::Stay
            }
        }
    }

    /// Has the next control that is moved be bound to the chosen line.
    fn learn(&mut self, view: ViewId, model: &Model) -> OverlayReply {
        let found = self.found(view, model.document.kept());
        let Some(entry) = self.at(&found).map(|at| found[at]) else { return OverlayReply::Stay };
        let argument = self.text.text().trim().strip_prefix(entry.name()).map(str::trim).unwrap_or_default();
        let text = match entry {
            Entry::Command(info) => format!("{} {argument}", info.name).trim_end().to_owned(),
            Entry::Look(name) => format!("fire-look {name}"),
            Entry::Frame(_) | Entry::View(..) | Entry::Light(..) => {
                self.refused = Some("that only moves this screen; a command or a look can be learnt".to_owned());
                return OverlayReply::Stay;
            }
        };
        match Target::of(&text) {
            Ok(_) => OverlayReply::CloseAsking(vec![Ask::Command(SessionCommand::Learn(text).into())]),
            Err(why) => {
                self.refused = Some(why);
                OverlayReply::Stay
            }
        }
    }

    pub(super) fn draw(
        &mut self,
        (view, keys): (ViewId, &Keys),
        model: &Model,
        theme: Theme,
        area: Rect,
        buffer: &mut Buffer,
    ) {
        let found = self.found(view, model.document.kept());
        self.chosen = self.chosen.min(found.len().saturating_sub(1));
        let chosen = self.at(&found);
        let inside = float("any action", 100, 24, theme, area, buffer);
        let mut pen = Pen::new(Rect { height: 1, ..inside }, buffer);
        pen.put("› ", theme.dim());
        let width = (columns(self.text.text()) + 1).clamp(1, usize::from(inside.width).saturating_sub(4).max(1)) as u16;
        let at = Rect { x: inside.x + pen.column(), width, height: 1, ..inside };
        self.text.draw(theme, at, pen.buffer());
        pen.to(pen.column() + width);
        let asked = (found.len() == 1).then(|| found[0].argument()).flatten();
        if let Some(refused) = &self.refused {
            pen.put(&format!("  {refused}"), theme.armed());
        } else if let Some((_, takes)) = asked.filter(|_| self.text.text().ends_with(' ')) {
            pen.put(&format!("  type {takes}, then Enter; Ctrl-K learns it"), theme.dim());
        } else if chosen.is_none() && !found.is_empty() {
            pen.put("  ↓ chooses", theme.dim());
        }
        let room = usize::from(inside.height.saturating_sub(2));
        let first = self.chosen.saturating_sub(room.saturating_sub(1));
        for (line, (index, entry)) in found.iter().enumerate().skip(first).take(room).enumerate() {
            let row = Rect { y: inside.y + 2 + line as u16, height: 1, ..inside };
            draw_entry(entry, Some(index) == chosen, (view, keys), theme, row, buffer);
        }
        if found.is_empty() {
            Pen::new(Rect { y: inside.y + 2, height: 1, ..inside }, buffer)
                .put("Nothing is called so; Backspace takes letters back.", theme.text());
        }
    }
}

fn draw_entry(
    entry: &Entry<'_>,
    chosen: bool,
    (view, keys): (ViewId, &Keys),
    theme: Theme,
    row: Rect,
    buffer: &mut Buffer,
) {
    let mut pen = Pen::new(row, buffer);
    let name = match entry.argument() {
        Some((argument, _)) => format!("{} ({argument})", entry.name()),
        None => entry.name().to_owned(),
    };
    let elsewhere = entry.elsewhere(view);
    let plain = if elsewhere.is_some() { theme.dim() } else { theme.text() };
    pen.put(if chosen { "▸ " } else { "  " }, theme.bright());
    pen.put(&format!("{name:<24}"), if chosen { theme.bright() } else { plain });
    let keys = match elsewhere {
        Some(owner) => format!("on {}, F{}", owner.spec().name, owner.spec().function_key),
        None => keys_of(view, keys, entry.name()),
    };
    let column = row.width.saturating_sub(keys.chars().count() as u16);
    let room = usize::from(column).saturating_sub(28);
    pen.put(&shortened(&entry.help(), room), if chosen { theme.text() } else { theme.dim() });
    pen.to(column).put(&keys, theme.dim());
}

/// The keys that ask for something of a name.
fn keys_of(view: ViewId, keys: &Keys, name: &str) -> String {
    let is_it = |ask: &AnyAsk| match ask {
        Ask::Command(command) => command.name() == name,
        Ask::Action(AnyAction::Frame(action)) => action.name() == name,
        Ask::Action(AnyAction::View(action)) => action.name() == name,
        Ask::Palette(asked) => *asked == name,
        Ask::GoTo(_) | Ask::Say(_) => false,
    };
    let found = keys.told(view).into_iter().filter(|told| is_it(&told.ask));
    // Of what takes several settings the first is as good as none.
    found.map(|told| told.keys).next().filter(|_| name != "nudge").unwrap_or_default()
}

/// Everything that can be chosen, what can be done here first.
fn entries(view: ViewId, show: &Show) -> Vec<Entry<'_>> {
    let mut all: Vec<Entry<'_>> = view.actions().iter().map(|info| Entry::View(view, info)).collect();
    all.extend(COMMANDS.iter().filter(|info| info.is_for_people()).map(Entry::Command));
    all.extend(FrameAction::ALL.iter().map(Entry::Frame));
    for &other in ViewId::ALL.iter().filter(|other| **other != view) {
        all.extend(other.actions().iter().map(|info| Entry::View(other, info)));
    }
    all.extend(show.looks.iter().map(|look| Entry::Look(&look.name)));
    all.extend(show.groups.iter().map(|group| Entry::Light(&group.name, "group")));
    all.extend(show.fixtures.iter().map(|fixture| Entry::Light(&fixture.name, "fixture")));
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    fn show() -> Show {
        splimo_link::testing::lantern_quay()
    }

    fn first(text: &str, view: ViewId) -> (String, Option<usize>) {
        let palette = Palette { text: TextField::at_end(text), ..Palette::default() };
        let show = show();
        let found = palette.found(view, &show);
        (found.first().map(|entry| entry.name().to_owned()).unwrap_or_default(), palette.at(&found))
    }

    #[test]
    fn looks_fixtures_and_groups_are_found_by_name_and_gaps_are_no_harm() {
        assert_eq!(first("gale", ViewId::Play), ("Gale".into(), Some(0)));
        assert_eq!(first("undrtw", ViewId::Play), ("Undertow".into(), Some(0)));
        assert_eq!(first("sail 12", ViewId::Output), ("Sail 12".into(), Some(0)));
        assert_eq!(first("fire pad", ViewId::Play).0, "fire-pad");
        assert_eq!(first("frpd", ViewId::Play).0, "fire-pad");
    }

    #[test]
    fn what_can_be_done_here_comes_first() {
        let of_view = |view: ViewId| {
            let show = show();
            let palette = Palette { text: TextField::at_end("next"), ..Palette::default() };
            let found = palette.found(view, &show);
            matches!(found.first(), Some(Entry::View(owner, _)) if *owner == view)
        };
        assert!(of_view(ViewId::Output) && of_view(ViewId::Looks) && of_view(ViewId::Rig));
    }

    #[test]
    fn what_startles_is_never_what_another_word_finds() {
        for view in ViewId::ALL {
            for typed in
                ["dark", "out", "light", "flash", "black", "test", "all", "click", "end", "b", "e", "fl", "id", ""]
            {
                let show = show();
                let palette = Palette { text: TextField::at_end(typed), ..Palette::default() };
                let found = palette.found(*view, &show);
                let Some(at) = palette.at(&found) else { continue };
                let entry = found[at];
                let named = typed.len() >= MEANT && entry.name().starts_with(typed);
                assert!(!entry.startles() || named, "\"{typed}\" would start {} on {view:?}", entry.name());
            }
        }
        assert_eq!(first("blackout", ViewId::Play), ("blackout".into(), Some(0)), "its own name finds it");
    }
}
