//! A desk to sit at: a tmux server of its own, in which the real program runs.

// Each file of tests uses what it needs of it.
#![allow(dead_code)]

pub(crate) mod node;
pub(crate) mod output;

use std::path::PathBuf;
use std::process::{Command, Output};
use std::sync::Arc;
use std::time::{Duration, Instant};

use nix::sys::signal::{Signal, kill};
use nix::unistd::Pid;
use serde_json::Value;

/// Long enough for a machine that gives us little of its time.
pub(crate) const PATIENCE: Duration = Duration::from_secs(60);

/// A tmux server of its own with one window that runs a shell.
pub(crate) struct Desk {
    socket: String,
    pub(crate) state: Arc<tempfile::TempDir>,
}

impl Desk {
    pub(crate) fn new(name: &str) -> Self {
        let state = tempfile::tempdir().expect("a folder");
        std::fs::create_dir(state.path().join("run")).expect("a folder");
        Self::in_folder(name, Arc::new(state))
    }

    /// Another terminal on the same machine: the sessions are the same.
    pub(crate) fn beside(&self, name: &str) -> Self {
        Self::in_folder(name, self.state.clone())
    }

    fn in_folder(name: &str, state: Arc<tempfile::TempDir>) -> Self {
        let desk = Self { socket: format!("splimo-{name}-{}", std::process::id()), state };
        let shell = desk.shell();
        desk.tmux(&["-f", "/dev/null", "new-session", "-d", "-x", "158", "-y", "48", "-s", "desk", &shell]);
        desk.tmux(&["set", "-g", "status", "off"]);
        desk.tmux(&["set", "-g", "window-size", "manual"]);
        desk.wait("a shell", |screen| screen.contains("ready$"));
        desk
    }

    fn sessions_folder(&self) -> PathBuf {
        self.state.path().join("run")
    }

    /// The program as it is run at this desk, but with its output to the test.
    pub(crate) fn splimo(&self, arguments: &[&str]) -> Output {
        let mut command = Command::new(env!("CARGO_BIN_EXE_splimo"));
        command.env("XDG_STATE_HOME", self.state.path()).env("XDG_RUNTIME_DIR", self.sessions_folder());
        command.env("XDG_CONFIG_HOME", self.state.path().join("config"));
        command.current_dir(self.state.path()).args(arguments).output().expect("it runs")
    }

    /// The processes of the sessions that were started at this desk, with their screens.
    pub(crate) fn sessions(&self) -> Vec<(String, u32, u64)> {
        let output = self.splimo(&["sessions", "--json"]);
        let list: Value = serde_json::from_slice(&output.stdout).expect("a list");
        let session = |session: &Value| {
            let name = session["name"].as_str().unwrap_or_default().to_owned();
            (name, session["pid"].as_u64().unwrap_or(0) as u32, session["screens"].as_u64().unwrap_or(0))
        };
        list.as_array().expect("a list").iter().map(session).collect()
    }

    /// Variables that keep the logs and the sessions of tests apart from those of the person who runs them.
    pub(crate) fn apart() -> [(&'static str, PathBuf); 3] {
        let folder = std::env::temp_dir().join("splimo-tests");
        let sessions = folder.join("run");
        std::fs::create_dir_all(&sessions).expect("a folder");
        let config = folder.join("config");
        [("XDG_STATE_HOME", folder), ("XDG_RUNTIME_DIR", sessions), ("XDG_CONFIG_HOME", config)]
    }

    /// Sends a signal to the only session.
    pub(crate) fn signal_session(&self, signal: Signal) {
        let sessions = self.sessions();
        assert_eq!(sessions.len(), 1, "{sessions:?}");
        assert!(send_signal(signal, sessions[0].1));
    }

    fn shell(&self) -> String {
        format!("cd {}; PS1='ready$ ' exec sh", self.state.path().display())
    }

    /// A fresh terminal with a shell in place of what is there.
    pub(crate) fn sit_down_anew(&self) {
        self.tmux(&["respawn-pane", "-k", "-t", "desk", &self.shell()]);
        self.wait("a shell", |screen| screen.trim() == "ready$");
    }

    pub(crate) fn tmux(&self, arguments: &[&str]) -> String {
        let mut command = Command::new("tmux");
        command.arg("-L").arg(&self.socket).args(arguments);
        command.env("XDG_STATE_HOME", self.state.path()).env("XDG_RUNTIME_DIR", self.sessions_folder());
        command.env("XDG_CONFIG_HOME", self.state.path().join("config"));
        command.env("COLORTERM", "truecolor").env("LC_ALL", "C.UTF-8");
        let Output { status, stdout, stderr } = command.output().expect("tmux is needed: run script/bootstrap");
        assert!(status.success(), "tmux {arguments:?}: {}", String::from_utf8_lossy(&stderr));
        String::from_utf8_lossy(&stdout).into_owned()
    }

    pub(crate) fn type_line(&self, line: &str) {
        self.tmux(&["send-keys", "-t", "desk", "-l", line]);
        self.keys(&["Enter"]);
    }

    pub(crate) fn keys(&self, keys: &[&str]) {
        for key in keys {
            self.tmux(&["send-keys", "-t", "desk", key]);
        }
    }

    pub(crate) fn screen(&self) -> String {
        self.tmux(&["capture-pane", "-p", "-t", "desk"])
    }

    /// The colours that are on the screen, red, green and blue.
    pub(crate) fn colours(&self) -> Vec<[u8; 3]> {
        let screen = self.tmux(&["capture-pane", "-e", "-p", "-t", "desk"]);
        let part = |text: &str| text.split(['m', ';', ':']).next()?.parse().ok();
        let parts = |text: &str| {
            let mut parts = text.splitn(3, ';').map(part);
            Some([parts.next()??, parts.next()??, parts.next()??])
        };
        screen.split("8;2;").skip(1).filter_map(parts).collect()
    }

    pub(crate) fn wait(&self, for_what: &str, holds: impl Fn(&str) -> bool) -> String {
        let start = Instant::now();
        loop {
            let screen = self.screen();
            if holds(&screen) {
                return screen;
            }
            assert!(start.elapsed() < PATIENCE, "waited in vain for {for_what}:\n{screen}");
            std::thread::sleep(Duration::from_millis(40));
        }
    }

    pub(crate) fn start(&self, variables: &str, command: &str) {
        self.type_line(&format!("{variables} {} {command}; echo EXIT=$?", env!("CARGO_BIN_EXE_splimo")));
    }

    /// Leaves the screen, and ends the show.
    pub(crate) fn leave(&self) {
        self.keys(&["C-q"]);
        self.wait("the question", |s| s.contains("leave Splimo?"));
        self.keys(&["Enter"]);
        self.is_as_it_was(0);
    }

    /// The program is gone with this exit code, and the terminal is as it was.
    pub(crate) fn is_as_it_was(&self, code: i32) {
        self.wait("the end", |screen| screen.contains(&format!("EXIT={code}")));
        let modes = "#{alternate_on}#{mouse_any_flag}#{?cursor_flag,1,0}";
        assert_eq!(self.tmux(&["display", "-p", "-t", "desk", modes]).trim(), "001");
        self.type_line("stty -a | tr ' ;' '\\n\\n' | grep -c -x -e icanon -e echo -e isig -e opost");
        self.wait("a cooked terminal", |screen| screen.lines().any(|line| line.trim() == "4"));
    }

    pub(crate) fn log(&self) -> String {
        std::fs::read_to_string(self.state.path().join("splimo/splimo.log")).unwrap_or_default()
    }

    /// The process of the screen.
    pub(crate) fn pid(&self) -> u32 {
        let shell = self.shell_pid();
        let children = std::fs::read_to_string(format!("/proc/{shell}/task/{shell}/children")).expect("a shell");
        children.trim().parse().expect("one child")
    }

    /// The process of the shell, or of what took its place.
    pub(crate) fn shell_pid(&self) -> u32 {
        self.tmux(&["display", "-p", "-t", "desk", "#{pane_pid}"]).trim().parse().expect("a process")
    }
}

/// Variables that keep the logs and the sessions of tests apart from those of the person who runs them.
pub(crate) fn apart() -> [(&'static str, PathBuf); 3] {
    let folder = std::env::temp_dir().join("splimo-tests");
    let sessions = folder.join("run");
    std::fs::create_dir_all(&sessions).expect("a folder");
    let config = folder.join("config");
    [("XDG_STATE_HOME", folder), ("XDG_RUNTIME_DIR", sessions), ("XDG_CONFIG_HOME", config)]
}

/// Sends a signal to a process; true if it was there.
pub(crate) fn send_signal(signal: Signal, process: u32) -> bool {
    kill(Pid::from_raw(process as i32), signal).is_ok()
}

/// True if there is a process.
pub(crate) fn is_there(process: u32) -> bool {
    kill(Pid::from_raw(process as i32), None).is_ok()
}

impl Drop for Desk {
    fn drop(&mut self) {
        // A test that failed leaves nothing behind.
        for (_, process, _) in self.sessions() {
            send_signal(Signal::SIGKILL, process);
        }
        let _ = Command::new("tmux").arg("-L").arg(&self.socket).arg("kill-server").output();
    }
}

/// The look that a tier shows on the view Play, at the width of 158 columns; empty where the tier is not seen.
pub(crate) fn on_tier(screen: &str, tier: &str) -> String {
    let mut lines = screen.lines().map(|line| line.chars().skip(114).collect::<String>());
    let line = lines.find(|line| line.split_whitespace().find(|word| *word != "▸") == Some(tier));
    line.unwrap_or_default().chars().skip(9).take(13).collect::<String>().trim().to_owned()
}
