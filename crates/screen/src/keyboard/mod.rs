//! The keyboard in front of the person: its layout, and the names of its keys.

mod layout;
mod name;
#[cfg(test)]
mod xkb;

pub use layout::Layout;
pub(crate) use layout::is_pad;
pub(crate) use name::{key_of, name_of};
