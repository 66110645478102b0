//! The terminal screens. A screen is attached to a session that runs elsewhere: it is told what there is to show, and sends
//! commands. It depends on the core and the link alone, and whatever becomes of it, the lights run on.

#[cfg(test)]
mod any_input_test;
mod chrome;
mod encoder;
mod frame;
mod hearing_history;
mod inputs;
pub mod kit;
mod looks;
mod model;
mod output;
mod overlay;
mod pace;
mod play;
mod registry;
mod rig;
mod run;
pub mod terminal;
#[cfg(test)]
mod tests;
mod ui;
mod ui_action;
mod view;
mod writer;

pub use run::{End, Link, Options, Sending, THREAD, run, whole_path};
