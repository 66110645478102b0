//! Programs and sounds that a show starts. What may be started is a matter of this machine: a show that comes from elsewhere starts
//! nothing until somebody here has allowed it, and one that was changed since has to be allowed again.

use std::collections::BTreeMap;
use std::path::PathBuf;
use std::process::{Child, Command, Stdio};

use splimo_document::Outcome;
use splimo_show::command::Origin;
use splimo_show::{InputKind, Program};

use super::Session;
use super::dispatch::told;
use crate::files as show_files;
use crate::media::Library;
use crate::sound::SoundPlayer;

/// Programs that run at a time.
const MOST: usize = 16;

/// The origins that may start the programs of a show.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default)]
enum Allowed {
    /// Nobody.
    #[default]
    Off,
    /// People, and inputs of this machine.
    On,
    /// Inputs from the network as well.
    Network,
}

impl Allowed {
    fn named(word: &str) -> Option<Self> {
        match word {
            "off" => Some(Self::Off),
            "on" => Some(Self::On),
            "network" => Some(Self::Network),
            _ => None,
        }
    }

    fn name(self) -> &'static str {
        match self {
            Self::Off => "off",
            Self::On => "on",
            Self::Network => "network",
        }
    }
}

/// Something that was started.
enum Run {
    Program(Child),
    Sound(SoundPlayer),
}

/// The programs of a session.
#[derive(Default)]
pub(super) struct Programs {
    running: Vec<(String, Run)>,
    /// True if somebody was asked whether the network is really to start programs.
    asked_about_network: bool,
    /// The origins that may start the programs of a show, as far as that was looked up.
    known: Option<(String, Allowed)>,
}

impl Drop for Programs {
    fn drop(&mut self) {
        // What the show started ends with it.
        for (_, run) in &mut self.running {
            if let Run::Program(child) = run {
                let _ = child.kill();
                let _ = child.wait();
            }
        }
    }
}

impl Session {
    /// Starts a program of the show.
    pub(super) fn run_program(&mut self, name: &str, by: Origin) -> Outcome {
        let show = self.document.kept().clone();
        let Some(program) = show.programs.iter().find(|program| program.name == name) else {
            let known: Vec<&str> = show.programs.iter().map(|program| program.name.as_str()).collect();
            let known =
                if known.is_empty() { "it has none".to_owned() } else { format!("it has {}", known.join(", ")) };
            return Outcome::Nothing(format!("this show has no program \"{name}\"; {known}"));
        };
        let allowed = self.allowed();
        let needed = if self.is_of_network(by) { Allowed::Network } else { Allowed::On };
        if allowed < needed {
            return Outcome::Refused(match needed {
                Allowed::Network => {
                    format!("the network may not start {name} here: allow-programs network, twice, lets it")
                }
                Allowed::Off | Allowed::On => {
                    format!("{name} may not be started on this machine: allow-programs on lets it")
                }
            });
        }
        self.reap_programs();
        if self.programs.running.len() >= MOST {
            return Outcome::Refused(format!("{MOST} programs run already; end-run ends one"));
        }
        match self.started(program) {
            Ok(run) => {
                self.programs.running.push((name.to_owned(), run));
                told(&format!("{name} is started"))
            }
            Err(why) => Outcome::Refused(format!("{name} cannot be started: {why}")),
        }
    }

    fn started(&self, program: &Program) -> Result<Run, String> {
        if !program.sound.is_empty() {
            let path = Library::folder_of(self.path.as_deref()).join(&program.sound);
            return SoundPlayer::start(&path, self.troubles()).map(Run::Sound);
        }
        let [name, arguments @ ..] = program.command.as_slice() else { return Err("it has no command".to_owned()) };
        let mut command = Command::new(name);
        command.args(arguments).stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::null());
        command.current_dir(Library::folder_of(self.path.as_deref()));
        command.spawn().map(Run::Program).map_err(|e| format!("{name}: {e}"))
    }

    /// Ends a program that was started.
    pub(super) fn end_program(&mut self, name: &str) -> Outcome {
        self.reap_programs();
        let Some(place) = self.programs.running.iter().position(|(running, _)| running == name) else {
            return Outcome::Nothing(format!("{name} does not run"));
        };
        if let (_, Run::Program(mut child)) = self.programs.running.remove(place) {
            let _ = child.kill();
            let _ = child.wait();
        }
        told(&format!("{name} is ended"))
    }

    /// Allows programs of this show on this machine, or forbids them.
    pub(super) fn allow_programs(&mut self, word: &str) -> Outcome {
        let Some(allowed) = Allowed::named(word) else {
            return Outcome::Refused(format!("\"{word}\" is nothing to allow; write off, on or network"));
        };
        if allowed == Allowed::Network && !std::mem::replace(&mut self.programs.asked_about_network, true) {
            let why = "anybody on the network could then start what this show names; ask once more to allow it";
            return Outcome::Refused(why.to_owned());
        }
        self.programs.known = None;
        let mut all = read_allowed();
        all.insert(self.allowed_key(), allowed.name().to_owned());
        match write_allowed(&all) {
            Ok(()) => told(match allowed {
                Allowed::Off => "this show starts nothing on this machine",
                Allowed::On => "this show may start its programs on this machine",
                Allowed::Network => "this show may start its programs on this machine, for the network too",
            }),
            Err(error) => Outcome::Refused(format!("that cannot be kept: {error}")),
        }
    }

    fn allowed(&self) -> Allowed {
        read_allowed().get(&self.allowed_key()).and_then(|word| Allowed::named(word)).unwrap_or_default()
    }

    /// The word for what may start programs; `off` too where there are none.
    pub(super) fn allowed_word(&mut self) -> &'static str {
        if self.document.kept().programs.is_empty() {
            return Allowed::Off.name();
        }
        let key = self.allowed_key();
        let known = self.programs.known.take().filter(|(of, _)| *of == key);
        let known = known.unwrap_or_else(|| (key, self.allowed()));
        self.programs.known.insert(known).1.name()
    }

    /// The names of the programs that run.
    pub(super) fn running_programs(&self) -> Vec<String> {
        self.programs.running.iter().map(|(name, _)| name.clone()).collect()
    }

    /// The show, and what it would start: another program is not allowed because this one is.
    fn allowed_key(&self) -> String {
        let programs = serde_json::to_string(&self.document.kept().programs).unwrap_or_default();
        let mark = uuid::Uuid::new_v5(&uuid::Uuid::NAMESPACE_OID, programs.as_bytes());
        format!("{} {mark}", super::id_of(self.path.as_deref(), self.document.kept()))
    }

    /// True if somebody on the network asks.
    fn is_of_network(&self, by: Origin) -> bool {
        match by {
            Origin::ArtNet => true,
            Origin::Input(number) => {
                let name = self.inputs.names().get(usize::from(number));
                let kind = name.and_then(|name| self.inputs.kind_of(name));
                kind.is_none_or(InputKind::is_network)
            }
            Origin::Session
            | Origin::Screen(_)
            | Origin::CommandLine
            | Origin::Rotation
            | Origin::List(_)
            | Origin::Timeline(_)
            | Origin::Schedule => false,
        }
    }

    /// Forgets programs that have ended by themselves.
    pub(super) fn reap_programs(&mut self) {
        self.programs.running.retain_mut(|(_, run)| match run {
            Run::Program(child) => matches!(child.try_wait(), Ok(None)),
            Run::Sound(player) => !player.is_over(),
        });
    }
}

fn allowed_path() -> PathBuf {
    show_files::state_folder().join("allowed-programs.json")
}

fn read_allowed() -> BTreeMap<String, String> {
    let text = std::fs::read_to_string(allowed_path()).unwrap_or_default();
    serde_json::from_str(&text).unwrap_or_default()
}

fn write_allowed(all: &BTreeMap<String, String>) -> Result<(), String> {
    let text = serde_json::to_string_pretty(all).map_err(|e| e.to_string())?;
    std::fs::create_dir_all(show_files::state_folder()).map_err(|e| e.to_string())?;
    show_files::write(&allowed_path(), text.as_bytes()).map_err(|e| e.to_string())
}
