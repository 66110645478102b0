//! The terminal: taken over for the screen, and given back however the program ends.

use std::fs::OpenOptions;
use std::io::{self, IsTerminal, Write};
use std::os::fd::OwnedFd;
use std::path::Path;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, PoisonError};

use ratatui::crossterm::clipboard::CopyToClipboard;
use ratatui::crossterm::cursor::{Hide, Show};
use ratatui::crossterm::event::{
    DisableBracketedPaste, DisableFocusChange, DisableMouseCapture, EnableBracketedPaste, EnableFocusChange,
    EnableMouseCapture, KeyboardEnhancementFlags, PopKeyboardEnhancementFlags, PushKeyboardEnhancementFlags,
};
use ratatui::crossterm::terminal::{EnterAlternateScreen, LeaveAlternateScreen, disable_raw_mode, enable_raw_mode};
use ratatui::crossterm::{Command as _, execute};

/// True if the screen is ours at the moment.
static TAKEN: AtomicBool = AtomicBool::new(false);

/// The standard error to go back to when the screen is given back.
static MESSAGES: Mutex<Option<OwnedFd>> = Mutex::new(None);

/// The terminal while it is ours. Dropping it gives it back.
pub struct Taken(());

impl Taken {
    /// Takes the terminal over. What libraries write to standard error goes to `log` meanwhile, if there is one.
    ///
    /// # Errors
    /// If there is none.
    pub fn take(log: Option<&Path>) -> io::Result<Self> {
        enable_raw_mode()?;
        if let Some(log) = log {
            set_aside_messages(log);
        }
        TAKEN.store(true, Ordering::SeqCst);
        // From here on dropping gives back what was taken.
        let taken = Self(());
        begin()?;
        Ok(taken)
    }
}

/// Sets the terminal up for the screen. One that can is asked to tell when a key is let go (the keyboard protocol of kitty,
/// progressive enhancement); others do not know what that means, and do nothing.
fn begin() -> io::Result<()> {
    let flags = KeyboardEnhancementFlags::DISAMBIGUATE_ESCAPE_CODES | KeyboardEnhancementFlags::REPORT_EVENT_TYPES;
    execute!(io::stdout(), EnterAlternateScreen, EnableMouseCapture, EnableBracketedPaste, EnableFocusChange, Hide)?;
    if has_titles() {
        io::stdout().write_all(b"\x1b[22;0t")?;
    }
    execute!(io::stdout(), PushKeyboardEnhancementFlags(flags))
}

/// True if the terminal has a window with a title, that can be kept and brought back (xterm, control sequences 22 and 23 `t`). The
/// console of Linux and old terminals have none, and some would show what is meant for it.
fn has_titles() -> bool {
    let term = std::env::var("TERM").unwrap_or_default();
    !(term.is_empty() || ["linux", "vt", "ansi", "dumb", "cons"].iter().any(|none| term.starts_with(none)))
}

/// The bytes that give the window a title; none where it has none.
pub(crate) fn set_title(title: &str) -> Vec<u8> {
    let words = splimo_base::outside::Outside(title).line().into_owned();
    if has_titles() { format!("\x1b]2;{words}\x07").into_bytes() } else { Vec::new() }
}

/// The bytes that put a text where the person pastes from (xterm, operating system command 52).
pub(crate) fn copy_out(text: &str) -> Vec<u8> {
    let mut bytes = String::new();
    // Writing into memory does not fail.
    let _ = CopyToClipboard::to_clipboard_from(text).write_ansi(&mut bytes);
    bytes.into_bytes()
}

/// Takes the terminal over again after the process was stopped, as a shell then sets it up for itself. While the process is in the
/// background, the terminal is somebody else's and stays so.
pub(crate) fn take_again() -> io::Result<()> {
    let in_front = nix::unistd::tcgetpgrp(io::stdin()).is_ok_and(|front| front == nix::unistd::getpgrp());
    if !in_front || !TAKEN.load(Ordering::SeqCst) {
        return Ok(());
    }
    disable_raw_mode()?;
    enable_raw_mode()?;
    begin()
}

impl Drop for Taken {
    fn drop(&mut self) {
        give_back();
    }
}

/// Has what libraries write to standard error go to the log, as long as the screen stands where it would appear.
fn set_aside_messages(log: &Path) {
    if !io::stderr().is_terminal() {
        return;
    }
    let log = OpenOptions::new().create(true).append(true).open(log);
    if let (Ok(log), Ok(kept)) = (log, nix::unistd::dup(io::stderr()))
        && nix::unistd::dup2_stderr(log).is_ok()
    {
        *MESSAGES.lock().unwrap_or_else(PoisonError::into_inner) = Some(kept);
    }
}

/// Gives the terminal back, if it is ours; whether it was.
pub fn give_back() -> bool {
    if !TAKEN.swap(false, Ordering::SeqCst) {
        return false;
    }
    // A terminal that is gone cannot be put right.
    let _ = execute!(io::stdout(), PopKeyboardEnhancementFlags);
    if has_titles() {
        let _ = io::stdout().write_all(b"\x1b[23;0t");
    }
    let _ = execute!(
        io::stdout(),
        DisableFocusChange,
        DisableBracketedPaste,
        DisableMouseCapture,
        LeaveAlternateScreen,
        Show
    );
    let _ = disable_raw_mode();
    let _ = io::stdout().flush();
    if let Some(stderr) = MESSAGES.lock().unwrap_or_else(PoisonError::into_inner).take() {
        let _ = nix::unistd::dup2_stderr(stderr);
    }
    true
}

/// Checks that there is a terminal to draw on.
///
/// # Errors
/// A message with the mend, where there is none.
pub fn check() -> Result<(), String> {
    if io::stdout().is_terminal() && io::stdin().is_terminal() {
        return Ok(());
    }
    Err("the screen needs a terminal; without one use `splimo run SHOW` or `splimo demo --headless`".to_owned())
}
