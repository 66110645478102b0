//! The terminal screens. A screen is attached to a session that runs elsewhere: it is told what there is to show, and sends
//! commands. Whatever becomes of it, the lights run on.
//!
//! It may use `splimo-link`, the types of `splimo-wire`, and `splimo-document` with what that is built on; never the runtime. Its main
//! types: [`Link`], the way to a session; [`Options`], what a screen begins with; [`End`], why it ended.

#[cfg(test)]
mod any_input_test;
mod chrome;
mod compact;
pub mod config;
mod encoder;
pub mod events;
mod frame;
mod hearing_history;
mod importing;
pub mod keyboard;
mod keymap;
pub mod kit;
mod model;
mod overlay;
mod pace;
mod run;
pub mod start;
pub mod terminal;
#[cfg(test)]
mod tests;
mod tutorial;
mod typed_path;
mod ui;
mod ui_action;
mod view;
mod views;
mod writer;

pub use keymap::{BadKey, Keymap, Keys};
pub use run::{Elsewhere, End, Link, Options, Sending, THREAD, run};
pub use typed_path::whole_path;
