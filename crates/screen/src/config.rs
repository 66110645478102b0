//! The choices of a person, out of a file of their own (TOML): keys, layout of the keyboard, colours, and what else is the same for every
//! show. What of it is wrong is told with its line, and everything else counts.

use std::path::PathBuf;

use splimo_base::nearest::meant;
use toml::Spanned;
use toml::de::{DeString, DeTable, DeValue};

use crate::keyboard::Layout;
use crate::keymap::{Keys, what_of};
use crate::kit::theme::{Depth, Palette, Theme};
use crate::overlay::help_of;
use crate::views::{Told, Usual, ViewId};

/// The names of what a file may say, beside the tables.
const NAMES: [&str; 8] = ["layout", "theme", "ascii", "reduced-motion", "economy", "latency-ms", "log", "shows"];

/// The choices.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Config {
    /// The keyboard and its keys.
    pub keys: Keys,
    /// The colours of the chrome.
    pub palette: Palette,
    /// True if screens are of ASCII alone.
    pub ascii: bool,
    /// True if little is to move that is no light.
    pub reduced_motion: bool,
    /// True if screens begin with the line spared.
    pub economy: bool,
    /// The time by which light goes out earlier in new shows, in milliseconds.
    pub latency_ms: Option<f32>,
    /// The levels of the log.
    pub log: Option<String>,
    /// The folder in which new shows are made.
    pub shows: Option<PathBuf>,
}

/// Something in a file that does not count, with its line.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("line {line}: {message}")]
pub struct BadChoice {
    /// Its line, from 1.
    pub line: usize,
    /// The fault, and how it is mended.
    pub message: String,
}

/// The part of the environment that tells how a screen is to be.
#[derive(Debug, Clone, Default)]
pub struct Surroundings {
    /// The locale of letters (`LC_ALL`, `LC_CTYPE` or `LANG`).
    pub locale: String,
    /// The colours of the terminal (`COLORFGBG`), such as `0;15`.
    pub colours: String,
}

impl Surroundings {
    /// Those of this process.
    #[must_use]
    pub fn of_environment() -> Self {
        let var = |name: &str| std::env::var(name).ok().filter(|value| !value.is_empty());
        let locale = var("LC_ALL").or_else(|| var("LC_CTYPE")).or_else(|| var("LANG")).unwrap_or_default();
        Self { locale, colours: var("COLORFGBG").unwrap_or_default() }
    }

    /// True if letters beyond ASCII cannot be shown (POSIX: the locale names its code). A locale that says nothing is taken for one that
    /// can.
    fn is_ascii(&self) -> bool {
        let code = self.locale.split('.').nth(1).unwrap_or_default().split('@').next().unwrap_or_default();
        let code = code.to_lowercase().replace('-', "");
        match self.locale.as_str() {
            "C" | "POSIX" => true,
            _ => !code.is_empty() && code != "utf8",
        }
    }

    /// True if the ground of the terminal is light: the last of its colours is white or bright.
    fn is_light(&self) -> bool {
        matches!(self.colours.rsplit(';').next(), Some("7" | "15"))
    }
}

impl Config {
    /// The choices of nobody, where a screen is.
    #[must_use]
    pub fn usual(around: &Surroundings) -> Self {
        Self {
            keys: Keys { layout: Layout::of_locale(&around.locale), ..Keys::default() },
            palette: if around.is_light() { Palette::Light } else { Palette::Dark },
            ascii: around.is_ascii(),
            ..Self::default()
        }
    }

    /// Reads choices. What is wrong comes back with its line, and the rest counts.
    #[must_use]
    pub fn read(text: &str, around: &Surroundings) -> (Self, Vec<BadChoice>) {
        let mut reading = Reading { text, config: Self::usual(around), around, bad: Vec::new() };
        match DeTable::parse(text) {
            Ok(table) => reading.all(table.get_ref()),
            Err(error) => {
                let at = error.span().map_or(0, |span| span.start);
                let message = error.message().lines().next().unwrap_or("it is no TOML").to_owned();
                reading.fail(at, format!("{message}; none of the file counts until that is mended"));
            }
        }
        reading.bad.sort_by_key(|bad| bad.line);
        (reading.config, reading.bad)
    }

    /// The theme of a screen, in as many colours as its terminal has.
    #[must_use]
    pub fn theme(&self) -> Theme {
        Theme { depth: Depth::of_environment(), palette: self.palette }
    }
}

/// A file that is being read.
struct Reading<'t> {
    text: &'t str,
    config: Config,
    around: &'t Surroundings,
    bad: Vec<BadChoice>,
}

type Key<'t> = Spanned<DeString<'t>>;
type Value<'t> = Spanned<DeValue<'t>>;

impl Reading<'_> {
    fn fail(&mut self, at: usize, message: String) {
        let before = self.text.get(..at).unwrap_or(self.text);
        self.bad.push(BadChoice { line: before.matches('\n').count() + 1, message });
    }

    fn all(&mut self, table: &DeTable<'_>) {
        // Keys are meant as they are on the keyboard, wherever that is said.
        if let Some(value) = table.get("layout") {
            self.layout(value);
        }
        for (key, value) in table {
            let name: &str = key.get_ref();
            match name {
                "layout" => {}
                "theme" => self.theme(value),
                "ascii" => self.flag(name, value, |config, on| config.ascii = on),
                "reduced-motion" => self.flag(name, value, |config, on| config.reduced_motion = on),
                "economy" => self.flag(name, value, |config, on| config.economy = on),
                "latency-ms" => self.latency(value),
                "log" => self.words(name, value, |config, words| config.log = Some(words.to_owned())),
                "shows" => self.words(name, value, |config, words| config.shows = Some(at_home(words))),
                "keys" => self.keys(value),
                other => {
                    let near = meant(other, NAMES.into_iter().chain(["keys"]));
                    let all = NAMES.join(", ");
                    self.fail(key.span().start, format!("there is no \"{other}\"{near}; there are {all} and [keys]"));
                }
            }
        }
    }

    fn layout(&mut self, value: &Value<'_>) {
        let auto = Layout::of_locale(&self.around.locale);
        let names = || Layout::ALL.iter().map(|(name, ..)| *name).collect::<Vec<_>>();
        match value.get_ref().as_str() {
            Some("auto") => self.config.keys.layout = auto,
            Some(name) if Layout::named(name).is_some() => {
                self.config.keys.layout = Layout::named(name).unwrap_or(auto)
            }
            _ => self.fail(value.span().start, format!("layout: write one of auto, {}", names().join(", "))),
        }
    }

    fn theme(&mut self, value: &Value<'_>) {
        let name = value.get_ref().as_str().unwrap_or_default();
        let known = Palette::ALL.iter().find(|(own, ..)| *own == name);
        match known {
            Some((_, palette, _)) => self.config.palette = *palette,
            None if name == "auto" => {}
            None => {
                let all: Vec<&str> = Palette::ALL.iter().map(|(own, ..)| *own).collect();
                self.fail(value.span().start, format!("theme: write one of auto, {}", all.join(", ")));
            }
        }
    }

    fn flag(&mut self, name: &str, value: &Value<'_>, take: fn(&mut Config, bool)) {
        match value.get_ref().as_bool() {
            Some(on) => take(&mut self.config, on),
            None if value.get_ref().as_str() == Some("auto") => {}
            None => self.fail(value.span().start, format!("{name}: write true or false")),
        }
    }

    fn words(&mut self, name: &str, value: &Value<'_>, take: fn(&mut Config, &str)) {
        match value.get_ref().as_str() {
            Some(words) => take(&mut self.config, words),
            None => self.fail(value.span().start, format!("{name}: write words in quotation marks")),
        }
    }

    fn latency(&mut self, value: &Value<'_>) {
        const MOST: f32 = 500.0;
        let number = match value.get_ref() {
            DeValue::Integer(number) => number.as_str().parse::<f32>().ok(),
            DeValue::Float(number) => number.as_str().parse::<f32>().ok(),
            _ => None,
        };
        match number.filter(|number| (0.0..=MOST).contains(number)) {
            Some(number) => self.config.latency_ms = Some(number),
            None => self.fail(value.span().start, format!("latency-ms: write a number from 0 to {MOST}")),
        }
    }

    /// Keys for all views stand in the table itself, those for one in a table of its name.
    fn keys(&mut self, value: &Value<'_>) {
        let Some(table) = value.get_ref().as_table() else {
            return self.fail(value.span().start, "keys: write a table, [keys]".to_owned());
        };
        // Where each that was chosen stands, in the order in which they are chosen.
        let mut places = Vec::new();
        for (what, value) in table {
            match value.get_ref().as_table() {
                None => self.choose(None, what, value, &mut places),
                Some(of_view) => {
                    let view: &str = what.get_ref();
                    for (what, value) in of_view {
                        self.choose(Some(view), what, value, &mut places);
                    }
                }
            }
        }
        if let Some((place, why)) = self.config.keys.chosen.conflict(self.config.keys.layout) {
            let at = places.get(place).copied().unwrap_or(value.span().start);
            self.fail(at, why.to_string());
        }
    }

    fn choose(&mut self, view: Option<&str>, what: &Key<'_>, value: &Value<'_>, places: &mut Vec<usize>) {
        let at = what.span().start;
        let one = |value: &DeValue<'_>| value.as_str().map(str::to_owned);
        let keys: Option<Vec<String>> = match value.get_ref() {
            DeValue::Array(all) => all.iter().map(|key| one(key.get_ref())).collect(),
            single => one(single).map(|key| vec![key]),
        };
        let name: &str = what.get_ref();
        let Some(keys) = keys else {
            return self.fail(at, format!("{name}: write a key such as \"F5\", or several in brackets"));
        };
        match self.config.keys.choose(view, name, &keys) {
            Ok(()) => places.push(at),
            Err(why) => self.fail(at, why.to_string()),
        }
    }
}

/// A path from the home of the person on, where it begins with `~/`.
fn at_home(path: &str) -> PathBuf {
    match (path.strip_prefix("~/"), std::env::var_os("HOME")) {
        (Some(rest), Some(home)) => PathBuf::from(home).join(rest),
        _ => PathBuf::from(path),
    }
}

/// A file in which every choice stands as it is where nobody has chosen, each commented out and with its help.
#[must_use]
pub fn usual_file() -> String {
    let one_of = |all: Vec<&str>| all.join(", ");
    let layouts = one_of(Layout::ALL.iter().map(|(name, ..)| *name).collect());
    let themes = Palette::ALL.iter().map(|(name, _, help)| format!("#   {name}: {help}\n")).collect::<String>();
    let mut text = format!(
        "# The choices of Splimo, for every show: ~/.config/splimo/config.toml, or splimo/config.toml in $XDG_CONFIG_HOME.\n\
         # Every line that begins with # is a comment, or says what counts anyway.\n\n\
         # The layout of the keyboard: auto (by the locale), {layouts}. Pads follow its rows.\n\
         #layout = \"auto\"\n\n\
         # The colours: auto (light where COLORFGBG says so), or\n{themes}\
         #theme = \"auto\"\n\n\
         # Screens of ASCII alone: auto (where the locale is not of UTF-8), true or false.\n\
         #ascii = \"auto\"\n\n\
         # Little moves that is no light: miniatures stand still.\n\
         #reduced-motion = false\n\n\
         # Screens begin with the line spared, for slow connections.\n\
         #economy = false\n\n\
         # How much earlier light goes out in new shows, in milliseconds, for what lamps take.\n\
         #latency-ms = 0\n\n\
         # Levels of the log: error, warn, info, debug or trace, or levels by crate.\n\
         #log = \"info\"\n\n\
         # The folder in which the start screen makes new shows; without it, the one in which it is started.\n\
         #shows = \"~/shows\"\n\n\
         # Keys. What is on the left is what `splimo do` takes, or an action of the screen; any of either may be added. An empty list takes\n\
         # the keys away. Esc, Ctrl-C and Ctrl-Q stay what they are.\n\
         [keys]\n"
    );
    // The ways out cannot be chosen.
    let ways_out = ["Esc", "Ctrl-C", "Ctrl-Q"];
    table(&mut text, Usual::all(None).into_iter().filter(|told| !ways_out.contains(&told.keys.as_str())));
    for view in ViewId::ALL {
        text.push_str(&format!("\n[keys.{}]\n", view.spec().name));
        table(&mut text, Usual::all(Some(*view)).into_iter());
    }
    text
}

fn table(text: &mut String, all: impl Iterator<Item = Told>) {
    let mut rows: Vec<(String, Vec<String>, String)> = Vec::new();
    for told in all {
        let what = what_of(&told.ask);
        let keys = told.keys.split(' ').map(|key| toml::Value::from(key).to_string()).collect::<Vec<_>>();
        match rows.iter_mut().find(|(known, ..)| *known == what) {
            Some((_, known, _)) => known.extend(keys),
            None => rows.push((what, keys, help_of(&told.ask))),
        }
    }
    for (what, keys, help) in rows {
        let what = toml::Value::from(what).to_string();
        text.push_str(&format!("#{what} = [{}]   # {help}\n", keys.join(", ")));
    }
}

#[cfg(test)]
mod tests {
    use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

    use super::*;

    fn around(locale: &str) -> Surroundings {
        Surroundings { locale: locale.to_owned(), colours: String::new() }
    }

    fn read(text: &str) -> (Config, Vec<String>) {
        let (config, bad) = Config::read(text, &around("C.UTF-8"));
        (config, bad.iter().map(ToString::to_string).collect())
    }

    /// The request of a key on a view.
    fn asked(config: &Config, view: ViewId, code: KeyCode) -> Option<String> {
        config.keys.ask_of(view, KeyEvent::new(code, KeyModifiers::NONE)).map(|ask| what_of(&ask))
    }

    #[test]
    fn the_file_that_is_printed_says_what_counts_anyway() {
        let text = usual_file();
        let (config, bad) = read(&text);
        assert_eq!((config, bad), (Config::usual(&around("C.UTF-8")), Vec::new()));
        // Every line of it without its sign is read, and changes nothing but where new shows lie.
        let bare = |line: &str| match line.strip_prefix('#') {
            Some(rest) if !rest.starts_with(' ') => rest.to_owned(),
            _ => line.to_owned(),
        };
        let plain: String = text.lines().map(|line| bare(line) + "\n").collect();
        let (config, bad) = read(&plain);
        assert_eq!(bad, [""; 0]);
        for view in ViewId::ALL {
            for told in view.keys() {
                for name in told.keys.split(' ') {
                    let Some(key) = crate::keyboard::key_of(name) else { continue };
                    let here = config.keys.ask_of(*view, key).map(|ask| what_of(&ask));
                    assert_eq!(here, view.ask_of(key).map(|ask| what_of(&ask)), "{name} on {}", view.spec().name);
                }
            }
        }
    }

    #[test]
    fn keys_are_those_that_were_chosen() {
        let text = "[keys]\n\"blackout\" = [\"F10\", \"`\"]\n\"tap\" = \"F11\"\n\"fire-pad 3\" = \"Insert\"\n[keys.rig]\n\"add\" = \"n\"\n";
        let (config, bad) = read(text);
        assert_eq!(bad, [""; 0]);
        let of = |view, code| asked(&config, view, code);
        assert_eq!(of(ViewId::Play, KeyCode::F(10)).as_deref(), Some("blackout"));
        assert_eq!(of(ViewId::Output, KeyCode::Char('`')).as_deref(), Some("blackout"));
        assert_eq!(of(ViewId::Output, KeyCode::Char(' ')), None, "the usual key is free");
        assert_eq!(of(ViewId::Output, KeyCode::Insert).as_deref(), Some("fire-pad 3"));
        assert_eq!(of(ViewId::Rig, KeyCode::Char('n')).as_deref(), Some("add"));
        assert_ne!(of(ViewId::Rig, KeyCode::Char('a')).as_deref(), Some("add"));
        assert_eq!(config.keys.key_for("blackout").as_deref(), Some("F10"));
        let told = config.keys.told(ViewId::Rig);
        assert!(told.iter().any(|told| told.keys == "n" && what_of(&told.ask) == "add"));
        assert!(told.iter().any(|told| told.keys == "Insert"), "what was added is told too");
    }

    #[test]
    fn keys_are_meant_as_they_are_on_the_keyboard() {
        let text = "[keys]\n\"blackout\" = \"ß\"\n\"nudge-master 5\" = \"F10\"\n[keys.play]\n\"edit-pads\" = \"F11\"\n";
        let (config, bad) = Config::read(&format!("layout = \"de\"\n{text}"), &around("C.UTF-8"));
        assert_eq!(bad, []);
        // A key comes as one of a US keyboard, and is told as it is on this one.
        assert_eq!(asked(&config, ViewId::Output, KeyCode::Char('`')).as_deref(), Some("blackout"));
        assert_eq!(config.keys.key_for("blackout").as_deref(), Some("ß"));
        let told = config.keys.told(ViewId::Output);
        let master =
            told.iter().find(|told| what_of(&told.ask).starts_with("nudge-master")).map(|told| told.keys.as_str());
        assert_eq!(master, Some("- F10"), "the key that was moved is told, the other stays");
        // What is typed is never a way to the dark, unless it is the key for that alone.
        let key = |letter| KeyEvent::new(KeyCode::Char(letter), KeyModifiers::NONE);
        let (config, bad) = read("[keys]\n\"blackout\" = [\"`\", \"#\"]\n");
        assert_eq!(bad, [""; 0]);
        assert!(config.keys.always(key('#'), false).is_some() && config.keys.always(key('#'), true).is_none());
        assert!(config.keys.always(key('`'), true).is_some());
        for (text, words) in [
            ("[keys]\n\"blackout\" = \"x\"\n", "x is the key of \"a pad on play\" too"),
            ("[keys]\n\"tap\" = \"Ctrl-E\"\n", " on play\" too"),
            ("layout = \"de\"\nkeys.tap = \"ö\"\n", "ö is the key of \"move-layer -1 on looks\" too"),
        ] {
            let (_, bad) = read(text);
            assert!(bad.len() == 1 && bad[0].starts_with("line 2: ") && bad[0].contains(words), "{bad:?}");
        }
    }

    #[test]
    fn what_is_wrong_is_told_with_its_line_and_the_rest_counts() {
        let text = "layout = \"dvorak\"\ntheme = \"light\"\nteme = 3\neconomy = 1\nlatency-ms = -4\n[keys]\n\"blackuot\" = \"F10\"\n\"tap\" = \"Hyper-x\"\n\"go\" = \"Esc\"\n\"panic\" = \"Space\"\n[keys.nowhere]\n\"x\" = \"y\"\n";
        let (config, bad) = read(text);
        assert_eq!(config.palette, Palette::Light);
        let told = |line: usize, words: &str| {
            let begins = format!("line {line}: ");
            assert!(bad.iter().any(|bad| bad.starts_with(&begins) && bad.contains(words)), "{line}: {words}: {bad:?}");
        };
        told(1, "auto, us, gb, de");
        told(3, "\"theme\" may be meant");
        told(4, "true or false");
        told(5, "from 0 to 500");
        told(7, "\"blackout\" may be meant");
        told(8, "no key is called \"Hyper-x\"");
        told(9, "a way out");
        told(10, "Space is the key of \"tap\" too");
        told(12, "there is no view \"nowhere\"");
        assert_eq!(bad.len(), 9, "{bad:?}");
        let (config, bad) = read("layout = \n");
        assert_eq!((config, bad.len()), (Config::usual(&around("C.UTF-8")), 1));
        assert!(bad[0].starts_with("line 1: "), "{bad:?}");
    }

    #[test]
    fn the_surroundings_tell_what_nobody_chose() {
        let usual = |locale: &str, colours: &str| {
            Config::usual(&Surroundings { locale: locale.to_owned(), colours: colours.to_owned() })
        };
        assert_eq!(usual("de_DE.UTF-8", "15;0").keys.layout, Layout::De);
        assert_eq!(usual("fr_CH.UTF-8", "").keys.layout, Layout::Us);
        assert_eq!(
            ["C", "POSIX", "de_DE.ISO-8859-1", "C.UTF-8", ""].map(|locale| usual(locale, "").ascii),
            [true, true, true, false, false]
        );
        assert_eq!(usual("", "0;15").palette, Palette::Light);
        assert_eq!(usual("", "0;default;15").palette, Palette::Light);
        assert_eq!(usual("", "15;0").palette, Palette::Dark);
    }
}
