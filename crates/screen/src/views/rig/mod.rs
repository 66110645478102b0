//! The view Rig: what hangs there, how it is wired, where it lies, and which channels it has.

mod action;
mod adding;
mod arranging;
mod camera;
mod canvas;
mod changing;
mod drawing;
mod fields;
mod groups;
mod list;
mod opening;
mod panel;
mod patching;
mod pointer;
mod pointing;
mod profiles;
mod state;
mod strips;
mod test_panel;
mod view;

pub(crate) use state::RigView;
