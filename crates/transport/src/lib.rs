//! The ways by which universes leave. A [`Transport`] has a folder of its own with all that is its own: the packets, the numbers that
//! universes have there, where it can go, its fields in files and forms, and the words for lists, drawings and the reference. To add
//! one takes its folder and its line in `any.rs`.
//!
//! | transport | folder | standard |
//! |---|---|---|
//! | Art-Net | [`artnet`] | Art-Net 4 |
//! | sACN | [`sacn`] | ANSI E1.31-2018 |
//! | serial | [`serial`] | Splimo's own, `docs/SERIAL.md` |
//!
//! Everything here is pure. Decoders take any bytes and return a value or an [`Error`]; they never panic.
//!
//! It may use `splimo-base`. Its main types: [`Transport`], the trait; [`AnyTransport`], one of them as data; [`burst::Burst`], the
//! packets of a frame.

mod any;
pub mod artnet;
pub mod burst;
mod data;
mod destination;
mod field;
mod numbering;
pub mod sacn;
pub mod serial;
mod transport;

pub use any::{AnyTransport, TransportKind, field_named, field_value};
pub use data::{Data, Protocol, data_of, parse};
pub use destination::{BadDestination, Destination, Destinations};
pub use field::{Field, FieldKind, FieldValue};
pub use numbering::{Numbering, net_form};
pub use transport::{Leaves, Packets, Transport};

/// The reason why bytes are not the packet that they were taken for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum Error {
    /// Fewer bytes than the packet needs.
    #[error("the packet is cut short")]
    Truncated,
    /// Not a packet of this protocol.
    #[error("it is no packet of this protocol")]
    NotThis,
    /// A field that has to hold one value holds another.
    #[error("a field holds a value that the standard does not allow: {0}")]
    Field(&'static str),
}

/// Slots of a universe (ANSI E1.11).
pub const SLOTS: usize = 512;

/// The bytes of a field; they have to be there, which `check_len` of a packet sees to.
fn field_of<const N: usize>(bytes: &[u8], range: std::ops::Range<usize>) -> [u8; N] {
    let mut field = [0; N];
    field.copy_from_slice(&bytes[range]);
    field
}

/// The text of a field, up to a zero or to what is no text.
fn text_of(field: &[u8]) -> &str {
    let field = &field[..field.iter().position(|&byte| byte == 0).unwrap_or(field.len())];
    match std::str::from_utf8(field) {
        Ok(text) => text,
        Err(error) => std::str::from_utf8(&field[..error.valid_up_to()]).unwrap_or_default(),
    }
}
