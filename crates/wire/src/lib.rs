//! Light on its way: the packets of Art-Net 4 and ANSI E1.31 as views and representations with exact bytes, the
//! packets of a whole frame, what a receiver keeps count of, and the sockets.
//!
//! Everything but `socket`, which the feature `sockets` adds, is pure. Decoders take any bytes and return a value or an [`Error`]; they never panic.
//!
//! It may use `splimo-transport`, whose codecs it hands on, and `splimo-show`, for addresses. Its main types:
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
