//! The link between a session and its screens: what each says to the other, as serialisable types with versions and framing.
//!
//! Pure: nothing here opens a socket, reads a clock or starts a thread. Frames are read from and written to anything that
//! is [`std::io::Read`] and [`std::io::Write`].
//!
//! It may use `splimo-document` and what that is built on, and the types of `splimo-wire`. Its main types: [`message::Request`], what
//! a screen asks; [`message::Update`], what a session tells; [`document::DocumentCopy`], a show that follows the edits.

pub mod advice;
mod bytes;
pub mod document;
pub mod frame;
pub mod inputs;
pub mod light;
pub mod listening;
pub mod media;
pub mod message;
pub mod network;
pub mod night;
pub mod outbox;
pub mod output;
pub mod subscription;
#[cfg(any(test, feature = "testing"))]
pub mod testing;
#[cfg(test)]
mod tests;
pub mod trouble;
