//! Packets that come in, and the sockets: what a receiver keeps count of, who is there and who is believed, OSC, MIDI and linear time
//! code. The packets that leave are those of `splimo-transport`, whose codecs are handed on here.
//!
//! Everything but `socket`, which the feature `sockets` adds, is pure. Decoders take any bytes and return a value or an [`Error`]; they never panic.
//!
//! It may use `splimo-transport` and `splimo-show`, for addresses. Its main types:
//! [`reception::Reception`], what a receiver keeps count of; [`directory::Directory`], who
//! is there; [`Error`], what is wrong with bytes.

pub mod arbitration;
pub mod belief;
pub mod directory;
pub mod guard;
pub mod interface;
pub mod ltc;
pub mod message;
pub mod midi;
pub mod osc;
pub mod reception;
#[cfg(feature = "sockets")]
pub mod socket;

pub use splimo_base::outside::shown;
pub use splimo_transport::sacn::USUAL_PRIORITY;
pub use splimo_transport::{Data, Error, Protocol, SLOTS, artnet, burst, data_of, parse, sacn, serial};
