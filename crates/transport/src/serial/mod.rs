//! Pixels on a serial port: the frames of the stream, and the port as a transport.

mod frames;
mod transport;

pub use frames::{MOST_CHANNELS, MOST_PAYLOAD, Packet, Reader};
pub use transport::{Serial, USUAL};
