//! The view Looks: the list of looks, the layers of one, everything about a layer edited in place, and the stage.

mod action;
mod area;
mod bulk_edit;
mod chooser;
mod colours;
mod drawing;
mod entry;
mod learning;
mod lines;
mod lists;
mod menu;
mod modulators;
mod panel;
mod perform;
mod rows;
mod spread;
mod stage;
mod staging;
mod state;
mod swatches;
mod target;
#[cfg(test)]
mod tests;
mod typing;
mod variations;
mod view;

pub(crate) use state::LooksView;
