//! What each key does on each view: one table, from which keys are obeyed, hints drawn, and help and palette filled.

use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use splimo_core::action::{Action, View};

/// The keys of the pads, row by row; a bank has as many pads.
pub(super) const PAD_ROWS: [&str; 4] = ["1234567890", "qwertyuiop", "asdfghjkl", "zxcvbnm"];

/// How many pads a bank has.
#[must_use]
pub(super) fn pads_in_bank() -> usize {
    PAD_ROWS.iter().map(|row| row.len()).sum()
}

/// Where a key can be used.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Place {
    /// On every view.
    Everywhere,
    /// On one view.
    On(View),
}

/// A key and what it does.
pub(super) struct Binding {
    /// Where.
    pub place: Place,
    /// Which key.
    pub code: KeyCode,
    /// With which others held; Shift is not looked at for characters.
    pub with: KeyModifiers,
    /// How the key is called; empty for a second key that nobody needs to be told of.
    pub key: &'static str,
    /// What it does, in a word or two for the hint line; empty where it is not shown there.
    pub hint: &'static str,
    /// What it asks for.
    pub action: fn() -> Action,
}

const fn bind(place: Place, code: KeyCode, key: &'static str, hint: &'static str, action: fn() -> Action) -> Binding {
    Binding { place, code, with: KeyModifiers::NONE, key, hint, action }
}

const fn with(
    place: Place,
    with: KeyModifiers,
    code: KeyCode,
    key: &'static str,
    hint: &'static str,
    action: fn() -> Action,
) -> Binding {
    Binding { place, code, with, key, hint, action }
}

const ALL: Place = Place::Everywhere;
const PLAY: Place = Place::On(View::Play);
const OUTPUT: Place = Place::On(View::Output);
const LOOKS: Place = Place::On(View::Looks);
const INPUTS: Place = Place::On(View::Inputs);
const RIG: Place = Place::On(View::Rig);
const SHIFT: KeyModifiers = KeyModifiers::SHIFT;
const CTRL: KeyModifiers = KeyModifiers::CONTROL;
const ALT: KeyModifiers = KeyModifiers::ALT;

/// Every binding but the pads. The first that fits is obeyed and shown.
pub(super) const BINDINGS: &[Binding] = &[
    bind(ALL, KeyCode::Char(' '), "Space", "tap", || Action::Tap),
    bind(ALL, KeyCode::Enter, "Enter", "land now", || Action::Go),
    bind(ALL, KeyCode::Char('`'), "`", "black out", || Action::Blackout),
    bind(PLAY, KeyCode::Up, "↑", "", || Action::NudgeLanding(1)),
    bind(PLAY, KeyCode::Down, "↓", "lands on", || Action::NudgeLanding(-1)),
    bind(PLAY, KeyCode::Left, "←", "", || Action::PadBank(-1)),
    bind(PLAY, KeyCode::Right, "→", "bank", || Action::PadBank(1)),
    bind(ALL, KeyCode::Char(','), ",", "", || Action::NudgeFade(-1)),
    bind(ALL, KeyCode::Char('.'), ".", "fade", || Action::NudgeFade(1)),
    bind(ALL, KeyCode::Char('-'), "-", "", || Action::NudgeMaster(-5.0)),
    bind(ALL, KeyCode::Char('='), "=", "master", || Action::NudgeMaster(5.0)),
    bind(ALL, KeyCode::Char('+'), "", "", || Action::NudgeMaster(5.0)),
    bind(ALL, KeyCode::Char('/'), "/", "bar here", || Action::BarHere),
    bind(ALL, KeyCode::Char('\\'), "\\", "follow music", || Action::FollowMusic),
    bind(ALL, KeyCode::Char('|'), "|", "", || Action::PhraseHere),
    bind(ALL, KeyCode::Char('{'), "{", "", || Action::TempoTimes(0.5)),
    bind(ALL, KeyCode::Char('}'), "}", "", || Action::TempoTimes(2.0)),
    with(ALL, CTRL, KeyCode::Left, "Ctrl-←", "", || Action::NudgeBeat(-2)),
    with(ALL, CTRL, KeyCode::Right, "Ctrl-→", "", || Action::NudgeBeat(2)),
    bind(ALL, KeyCode::F(8), "F8", "", || Action::NextSection(1)),
    bind(INPUTS, KeyCode::Up, "↑", "", || Action::NudgeHearingGain(1.0)),
    bind(INPUTS, KeyCode::Down, "↓", "gain", || Action::NudgeHearingGain(-1.0)),
    bind(INPUTS, KeyCode::Left, "←", "", || Action::NudgeLatency(-1.0)),
    bind(INPUTS, KeyCode::Right, "→", "light earlier", || Action::NudgeLatency(1.0)),
    bind(INPUTS, KeyCode::PageUp, "PgUp", "", || Action::NudgeHearingFloor(3.0)),
    bind(INPUTS, KeyCode::PageDown, "PgDn", "floor", || Action::NudgeHearingFloor(-3.0)),
    bind(INPUTS, KeyCode::Char('c'), "c", "flash and click", || Action::FlashAndClick),
    bind(INPUTS, KeyCode::Char('b'), "b", "bands", || Action::NudgeBands(8)),
    bind(INPUTS, KeyCode::Char('B'), "B", "", || Action::NudgeBands(-8)),
    bind(INPUTS, KeyCode::Char('a'), "a", "", || Action::NudgeAttack(10.0)),
    bind(INPUTS, KeyCode::Char('A'), "A", "", || Action::NudgeAttack(-10.0)),
    bind(INPUTS, KeyCode::Char('d'), "d", "", || Action::NudgeDecay(20.0)),
    bind(INPUTS, KeyCode::Char('D'), "D", "", || Action::NudgeDecay(-20.0)),
    bind(INPUTS, KeyCode::Char('l'), "l", "who leads", || Action::NextLeader),
    bind(INPUTS, KeyCode::Char('p'), "p", "pause", || Action::PauseMusic),
    bind(INPUTS, KeyCode::Char('['), "[", "", || Action::SeekMusic(-10.0)),
    bind(INPUTS, KeyCode::Char(']'), "]", "seek", || Action::SeekMusic(10.0)),
    bind(RIG, KeyCode::Up, "↑", "", || Action::ChooseFixture(-1)),
    bind(RIG, KeyCode::Down, "↓", "choose", || Action::ChooseFixture(1)),
    with(RIG, SHIFT, KeyCode::Up, "Shift-↑", "", || Action::ChooseMore(-1)),
    with(RIG, SHIFT, KeyCode::Down, "Shift-↓", "more", || Action::ChooseMore(1)),
    bind(RIG, KeyCode::PageUp, "", "", || Action::ChooseFixture(-20)),
    bind(RIG, KeyCode::PageDown, "", "", || Action::ChooseFixture(20)),
    with(RIG, CTRL, KeyCode::Char('a'), "Ctrl-A", "", || Action::ChooseAll),
    bind(RIG, KeyCode::Char('a'), "a", "add", || Action::AddFixtures),
    bind(RIG, KeyCode::Char('e'), "e", "change", || Action::ChangeFixtures),
    bind(RIG, KeyCode::Char('m'), "m", "arrange", || Action::ArrangeFixtures),
    bind(RIG, KeyCode::Char('p'), "p", "patch", || Action::PatchFixtures),
    bind(RIG, KeyCode::Char('i'), "i", "identify", || Action::Identify),
    bind(RIG, KeyCode::Char('w'), "w", "walk", || Action::Walk),
    bind(RIG, KeyCode::Char('t'), "t", "channel test", || Action::HoldSlots),
    bind(RIG, KeyCode::Char('g'), "g", "groups", || Action::ShowGroups),
    bind(RIG, KeyCode::Char('k'), "k", "problems", || Action::ShowProblems),
    bind(RIG, KeyCode::Char('r'), "r", "profiles", || Action::ShowProfiles),
    bind(RIG, KeyCode::Char('c'), "c", "colour by", || Action::ColourLights),
    bind(RIG, KeyCode::Char('z'), "z", "", || Action::Zoom(1)),
    bind(RIG, KeyCode::Char('x'), "x", "zoom", || Action::Zoom(-1)),
    bind(RIG, KeyCode::Char('f'), "f", "fit", || Action::Fit),
    bind(RIG, KeyCode::Char('d'), "d", "", || Action::Duplicate),
    bind(RIG, KeyCode::Delete, "Del", "", || Action::Remove),
    bind(RIG, KeyCode::Char('s'), "s", "", || Action::SizeCanvas),
    bind(RIG, KeyCode::Char('I'), "I", "", || Action::Ask("import-patch".into())),
    bind(RIG, KeyCode::Char('O'), "O", "", || Action::Ask("export-patch".into())),
    bind(RIG, KeyCode::Left, "←", "", || Action::NextUniverse(-1)),
    bind(RIG, KeyCode::Right, "→", "universes", || Action::NextUniverse(1)),
    with(RIG, ALT, KeyCode::Left, "Alt-←", "", || Action::PanAcross(-1)),
    with(RIG, ALT, KeyCode::Right, "Alt-→", "", || Action::PanAcross(1)),
    with(RIG, ALT, KeyCode::Up, "Alt-↑", "", || Action::PanDown(-1)),
    with(RIG, ALT, KeyCode::Down, "Alt-↓", "", || Action::PanDown(1)),
    bind(OUTPUT, KeyCode::Tab, "Tab", "pane", || Action::NextPane),
    bind(OUTPUT, KeyCode::Up, "↑", "", || Action::ChooseRow(-1)),
    bind(OUTPUT, KeyCode::Down, "↓", "choose", || Action::ChooseRow(1)),
    bind(OUTPUT, KeyCode::Left, "←", "", || Action::ChooseSlot(-1)),
    bind(OUTPUT, KeyCode::Right, "→", "universe, slot", || Action::ChooseSlot(1)),
    bind(OUTPUT, KeyCode::PageUp, "PgUp", "", || Action::NextUniverse(-1)),
    bind(OUTPUT, KeyCode::PageDown, "PgDn", "", || Action::NextUniverse(1)),
    bind(OUTPUT, KeyCode::Char('a'), "a", "add route", || Action::AddRoute),
    bind(OUTPUT, KeyCode::Char('e'), "e", "change", || Action::ChangeRoute),
    bind(OUTPUT, KeyCode::Char('x'), "x", "on/off", || Action::SwitchRoute),
    bind(OUTPUT, KeyCode::Delete, "Del", "", || Action::RemoveRoute),
    bind(OUTPUT, KeyCode::Char('n'), "n", "route to node", || Action::RouteToNode),
    bind(OUTPUT, KeyCode::Char('p'), "p", "supplies", || Action::ShowSupplies),
    bind(OUTPUT, KeyCode::Char('v'), "v", "in/out", || Action::ShowReceived),
    bind(OUTPUT, KeyCode::Char('b'), "b", "bars", || Action::SlotBars),
    bind(OUTPUT, KeyCode::Char('r'), "r", "record", || Action::Ask("record".into())),
    bind(OUTPUT, KeyCode::Char('R'), "R", "", || Action::StopRecording),
    bind(LOOKS, KeyCode::Tab, "Tab", "pane", || Action::NextPane),
    bind(LOOKS, KeyCode::Up, "↑", "", || Action::ChooseRow(-1)),
    bind(LOOKS, KeyCode::Down, "↓", "choose", || Action::ChooseRow(1)),
    with(LOOKS, SHIFT, KeyCode::Up, "Shift-↑", "", || Action::ChooseMore(-1)),
    with(LOOKS, SHIFT, KeyCode::Down, "Shift-↓", "", || Action::ChooseMore(1)),
    bind(LOOKS, KeyCode::PageUp, "", "", || Action::ChooseRow(-10)),
    bind(LOOKS, KeyCode::PageDown, "", "", || Action::ChooseRow(10)),
    with(LOOKS, CTRL, KeyCode::Char('a'), "Ctrl-A", "", || Action::ChooseAll),
    bind(LOOKS, KeyCode::Left, "←", "", || Action::NudgeValue(-1)),
    bind(LOOKS, KeyCode::Right, "→", "nudge", || Action::NudgeValue(1)),
    with(LOOKS, SHIFT, KeyCode::Left, "", "", || Action::NudgeValue(-10)),
    with(LOOKS, SHIFT, KeyCode::Right, "", "", || Action::NudgeValue(10)),
    bind(LOOKS, KeyCode::Char('n'), "n", "new", || Action::NewLook),
    bind(LOOKS, KeyCode::Char('a'), "a", "add layer", || Action::AddLayer),
    bind(LOOKS, KeyCode::Char('e'), "e", "change", || Action::ChangeHere),
    bind(LOOKS, KeyCode::Char('m'), "m", "modulator", || Action::ShowModulator),
    bind(LOOKS, KeyCode::Char('c'), "c", "colours", || Action::ShowColours),
    bind(LOOKS, KeyCode::Char('p'), "p", "palette", || Action::ShowPalette),
    bind(LOOKS, KeyCode::Char('t'), "t", "target", || Action::TargetLayer),
    bind(LOOKS, KeyCode::Char('s'), "s", "span", || Action::NextSpan(1)),
    bind(LOOKS, KeyCode::Char('r'), "r", "area", || Action::ShowArea),
    bind(LOOKS, KeyCode::Char('b'), "b", "blind", || Action::EditBlind),
    bind(LOOKS, KeyCode::Char('v'), "v", "vary", || Action::Vary),
    bind(LOOKS, KeyCode::Char('z'), "z", "freeze", || Action::Freeze),
    bind(LOOKS, KeyCode::Char('i'), "i", "in turn", || Action::ChaseLooks),
    bind(LOOKS, KeyCode::Char('l'), "l", "arm", || Action::ArmLook),
    bind(LOOKS, KeyCode::Char('f'), "f", "find", || Action::FindLook),
    bind(LOOKS, KeyCode::Char('['), "[", "", || Action::MoveLayer(-1)),
    bind(LOOKS, KeyCode::Char(']'), "]", "", || Action::MoveLayer(1)),
    bind(LOOKS, KeyCode::Char('x'), "x", "", || Action::MuteLayer),
    bind(LOOKS, KeyCode::Char('o'), "o", "", || Action::SoloLayer),
    bind(LOOKS, KeyCode::Char('S'), "", "", || Action::NextSpan(-1)),
    bind(LOOKS, KeyCode::Char('T'), "T", "", || Action::Retarget),
    bind(LOOKS, KeyCode::Char('w'), "w", "", || Action::SpreadColours),
    bind(LOOKS, KeyCode::Char('k'), "k", "", || Action::Compare),
    bind(LOOKS, KeyCode::Char('y'), "y", "", || Action::CopyLayer),
    bind(LOOKS, KeyCode::Char('Y'), "Y", "", || Action::PasteLayer),
    bind(LOOKS, KeyCode::Char('g'), "g", "", || Action::ChangeMany),
    bind(LOOKS, KeyCode::Char('j'), "j", "", || Action::CentreLayer),
    bind(LOOKS, KeyCode::Char('J'), "J", "", || Action::RestartLayer),
    bind(LOOKS, KeyCode::Char('h'), "h", "", || Action::ShowValues),
    bind(LOOKS, KeyCode::Char(';'), ";", "", || Action::ChooseLight(-1)),
    bind(LOOKS, KeyCode::Char('\''), "'", "", || Action::ChooseLight(1)),
    bind(LOOKS, KeyCode::Char('d'), "d", "", || Action::Duplicate),
    bind(LOOKS, KeyCode::Delete, "Del", "", || Action::Remove),
    with(ALL, CTRL, KeyCode::Char('s'), "Ctrl-S", "", || Action::Save),
    with(ALL, CTRL, KeyCode::Char('w'), "Ctrl-W", "", || Action::Ask("save-as".into())),
    with(ALL, CTRL, KeyCode::Char('z'), "Ctrl-Z", "", || Action::Undo),
    with(ALL, CTRL, KeyCode::Char('y'), "Ctrl-Y", "", || Action::Redo),
    bind(ALL, KeyCode::F(2), "F2", "", || Action::ShowView(View::Rig)),
    bind(ALL, KeyCode::F(3), "F3", "", || Action::ShowView(View::Output)),
    bind(ALL, KeyCode::F(4), "F4", "", || Action::ShowView(View::Looks)),
    bind(ALL, KeyCode::F(6), "F6", "", || Action::ShowView(View::Play)),
    bind(ALL, KeyCode::F(7), "F7", "", || Action::ShowView(View::Inputs)),
    with(ALL, ALT, KeyCode::Char('6'), "Alt-6", "", || Action::ShowView(View::Inputs)),
    with(ALL, ALT, KeyCode::Char('1'), "Alt-1", "", || Action::ShowView(View::Rig)),
    with(ALL, ALT, KeyCode::Char('2'), "Alt-2", "", || Action::ShowView(View::Output)),
    with(ALL, ALT, KeyCode::Char('3'), "Alt-3", "", || Action::ShowView(View::Looks)),
    with(ALL, ALT, KeyCode::Char('5'), "Alt-5", "", || Action::ShowView(View::Play)),
    bind(ALL, KeyCode::F(1), "F1", "help", || Action::Help),
    with(ALL, CTRL, KeyCode::Char('p'), "Ctrl-P", "any action", || Action::FindAction),
    bind(ALL, KeyCode::Esc, "Esc", "", || Action::Back),
    with(ALL, CTRL, KeyCode::Char('q'), "Ctrl-Q", "quit", || Action::Quit),
    with(ALL, CTRL, KeyCode::Char('c'), "Ctrl-C", "", || Action::QuitNow),
];

/// The action of a key on a view. `bank` is the bank of pads that is shown.
#[must_use]
pub(super) fn action(view: View, bank: usize, key: KeyEvent) -> Option<Action> {
    // Of a letter Shift makes another letter; of an arrow it makes another key.
    let arrows = matches!(view, View::Rig | View::Looks) && !matches!(key.code, KeyCode::Char(_));
    let shift = if arrows { SHIFT } else { KeyModifiers::NONE };
    let held = key.modifiers & (CTRL | ALT | shift);
    let here = |place: Place| place == ALL || place == Place::On(view);
    let found = BINDINGS.iter().find(|b| here(b.place) && b.with == held && b.code == lower(key.code, held));
    if let Some(binding) = found {
        return Some((binding.action)());
    }
    match key.code {
        KeyCode::Char(letter) if view == View::Play && held.is_empty() => {
            pad_of(letter).map(|pad| Action::FirePad(bank * pads_in_bank() + pad))
        }
        _ => None,
    }
}

/// The keys that were pressed, one after the other. A terminal sends Alt and a key as it sends Escape and then the key,
/// and who is quick, or whose machine is slow, has pressed the two: so it is taken, but for what Alt is bound to, for digits,
/// which with Alt mean views, and for Backspace, before which nobody backs out.
pub(super) fn pressed(view: View, key: KeyEvent) -> impl Iterator<Item = KeyEvent> {
    let of_one_code = match key.code {
        KeyCode::Char(letter) => !letter.is_ascii_digit(),
        code => matches!(code, KeyCode::Enter | KeyCode::Tab),
    };
    let two = key.modifiers.contains(ALT) && of_one_code && action(view, 0, key).is_none();
    let escape = two.then(|| KeyEvent::from(KeyCode::Esc));
    let modifiers = if two { key.modifiers - ALT } else { key.modifiers };
    escape.into_iter().chain([KeyEvent { modifiers, ..key }])
}

/// Control codes come in either case, depending on the terminal.
fn lower(code: KeyCode, held: KeyModifiers) -> KeyCode {
    match code {
        KeyCode::Char(letter) if !held.is_empty() => KeyCode::Char(letter.to_ascii_lowercase()),
        other => other,
    }
}

/// The pad of a letter or number key within a bank; Shift makes no difference.
fn pad_of(letter: char) -> Option<usize> {
    let letter = letter.to_ascii_lowercase();
    PAD_ROWS.iter().flat_map(|row| row.chars()).position(|key| key == letter)
}

/// The keys of a view that belong together, such as both that move the master.
pub(super) struct Group {
    /// How the keys are called.
    pub(super) keys: String,
    /// What they do, in a word or two; empty where the hint line leaves them out.
    pub(super) hint: &'static str,
    /// What they ask for.
    pub(super) action: Action,
}

impl Group {
    /// What they do, in one line.
    pub(super) fn help(&self) -> String {
        match &self.action {
            Action::ShowView(view) => format!("The view {}", view.name()),
            Action::Ask(action) => {
                let info = splimo_core::action::ACTIONS.iter().find(|info| info.name == *action);
                info.map_or_else(String::new, |info| info.help().to_owned())
            }
            action => action.info().help().to_owned(),
        }
    }
}

/// The keys of a view, each once.
pub(super) fn groups(view: View) -> Vec<Group> {
    let mut groups: Vec<Group> = Vec::new();
    let here = |place: Place| place == ALL || place == Place::On(view);
    for binding in BINDINGS.iter().filter(|b| here(b.place) && !b.key.is_empty()) {
        let action = (binding.action)();
        let same = |group: &&mut Group| match action {
            Action::ShowView(_) | Action::Ask(_) => group.action == action,
            _ => group.action.info() == action.info(),
        };
        match groups.iter_mut().find(same) {
            Some(group) => {
                group.keys = format!("{} {}", group.keys, binding.key);
                group.hint = if group.hint.is_empty() { binding.hint } else { group.hint };
            }
            None => groups.push(Group { keys: binding.key.to_owned(), hint: binding.hint, action }),
        }
    }
    groups
}

/// The keys that ask for an action, for the palette.
pub(super) fn keys_of(view: View, name: &str) -> Option<String> {
    groups(view).into_iter().find(|group| group.action.info().name == name).map(|group| group.keys)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn press(view: View, code: KeyCode, modifiers: KeyModifiers) -> Option<Action> {
        action(view, 1, KeyEvent::new(code, modifiers))
    }

    #[test]
    fn letters_and_numbers_are_pads_on_play_and_nothing_else() {
        for (pad, key) in PAD_ROWS.iter().flat_map(|row| row.chars()).enumerate() {
            assert_eq!(press(View::Play, KeyCode::Char(key), KeyModifiers::NONE), Some(Action::FirePad(36 + pad)));
        }
        assert_eq!(press(View::Play, KeyCode::Char('Q'), KeyModifiers::SHIFT), Some(Action::FirePad(46)));
        assert_eq!(press(View::Output, KeyCode::Char('q'), KeyModifiers::NONE), None);
        assert_eq!(press(View::Play, KeyCode::Char('q'), KeyModifiers::CONTROL), Some(Action::Quit));
    }

    #[test]
    fn tap_land_and_blackout_are_one_key_on_every_view() {
        for view in View::ALL {
            assert_eq!(press(view, KeyCode::Char(' '), KeyModifiers::NONE), Some(Action::Tap));
            assert_eq!(press(view, KeyCode::Enter, KeyModifiers::NONE), Some(Action::Go));
            assert_eq!(press(view, KeyCode::Char('`'), KeyModifiers::NONE), Some(Action::Blackout));
        }
    }

    #[test]
    fn escape_and_a_key_in_one_breath_are_two_keys() {
        let (escape, p) = (KeyEvent::from(KeyCode::Esc), KeyEvent::from(KeyCode::Char('p')));
        let all = |code, held| pressed(View::Output, KeyEvent::new(code, held)).collect::<Vec<_>>();
        assert_eq!(all(KeyCode::Char('p'), ALT), [escape, p]);
        assert_eq!(all(KeyCode::Char('s'), ALT | CTRL), [escape, KeyEvent::new(KeyCode::Char('s'), CTRL)]);
        assert_eq!(all(KeyCode::Enter, ALT), [escape, KeyCode::Enter.into()]);
        assert_eq!(all(KeyCode::Char('p'), KeyModifiers::NONE), [p]);
        // Views, bound or not, stay what they are, and so does what a terminal has a code of its own for.
        for code in [KeyCode::Char('6'), KeyCode::Char('4'), KeyCode::Left, KeyCode::Backspace] {
            assert_eq!(all(code, ALT), [KeyEvent::new(code, ALT)]);
        }
    }

    #[test]
    fn no_two_bindings_share_a_key_in_one_place() {
        for (i, a) in BINDINGS.iter().enumerate() {
            for b in &BINDINGS[..i] {
                let meet = a.place == b.place || a.place == ALL || b.place == ALL;
                assert!(!(meet && a.code == b.code && a.with == b.with), "{} is bound twice", a.key);
            }
        }
    }
}
