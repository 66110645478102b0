//! The kit that views are drawn with: theme, pen, bars, words, lists, forms, the stage and miniatures.

pub mod bars;
pub(crate) mod beams;
pub(crate) mod float;
pub(crate) mod form;
pub(crate) mod gallery;
pub(crate) mod hsb;
pub(crate) mod large;
pub(crate) mod list;
pub mod pen;
pub(crate) mod selection;
pub mod stage_map;
pub(crate) mod text_field;
pub mod theme;
pub(crate) mod words;
