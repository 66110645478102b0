//! The terminal: taken over for the screen, and given back however the program ends.

use std::fs::OpenOptions;
use std::io::{self, IsTerminal, Write};
use std::os::fd::OwnedFd;
use std::path::Path;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, PoisonError};

use ratatui::crossterm::cursor::{Hide, Show};
use ratatui::crossterm::event::{
    DisableBracketedPaste, DisableMouseCapture, EnableBracketedPaste, EnableMouseCapture, KeyboardEnhancementFlags,
    PopKeyboardEnhancementFlags, PushKeyboardEnhancementFlags,
};
use ratatui::crossterm::execute;
use ratatui::crossterm::terminal::{EnterAlternateScreen, LeaveAlternateScreen, disable_raw_mode, enable_raw_mode};

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
    execute!(io::stdout(), EnterAlternateScreen, EnableMouseCapture, EnableBracketedPaste, Hide)?;
    execute!(io::stdout(), PushKeyboardEnhancementFlags(flags))
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
    let _ = execute!(io::stdout(), DisableBracketedPaste, DisableMouseCapture, LeaveAlternateScreen, Show);
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
