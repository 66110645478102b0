//! Frames: a message with its length before it. The length is four bytes, the least significant first; the message is
//! MessagePack with the names of fields, so that either side may know fields that the other does not.

use std::io::{self, Read, Write};

use serde::Serialize;
use serde::de::DeserializeOwned;

/// The longest request, in bytes: an import of the largest show.
pub const LONGEST_REQUEST: usize = 32 << 20;
/// The longest update, in bytes: the largest show.
pub const LONGEST_UPDATE: usize = 256 << 20;

/// The most that is read at once; memory is not taken for a length that is only said.
const PIECE: usize = 64 << 10;

/// The reason why a message could not be read.
#[derive(Debug, thiserror::Error)]
pub enum FrameError {
    /// The other side is gone, or the connection failed.
    #[error("the link broke: {0}")]
    Broken(#[from] io::Error),
    /// The frame says that it is longer than any message is.
    #[error("a message of {0} bytes is too long")]
    TooLong(usize),
    /// The bytes are no message.
    #[error("a message that is not understood: {0}")]
    Strange(String),
}

/// Encodes a message as a frame.
///
/// # Errors
/// [`FrameError::Strange`] for what cannot be written, such as a path that is no text, and [`FrameError::TooLong`].
pub fn encode(message: &impl Serialize) -> Result<Vec<u8>, FrameError> {
    let mut frame = vec![0; 4];
    let mut serializer = rmp_serde::Serializer::new(&mut frame).with_struct_map();
    message.serialize(&mut serializer).map_err(|error| FrameError::Strange(error.to_string()))?;
    let length = frame.len() - 4;
    let length = u32::try_from(length).map_err(|_| FrameError::TooLong(length))?;
    frame[..4].copy_from_slice(&length.to_le_bytes());
    Ok(frame)
}

/// Writes a message as a frame.
///
/// # Errors
/// As [`encode`], and [`FrameError::Broken`].
pub fn write(to: &mut impl Write, message: &impl Serialize) -> Result<(), FrameError> {
    to.write_all(&encode(message)?)?;
    to.flush()?;
    Ok(())
}

/// Reads the next message, whose frame has at most `longest` bytes.
///
/// # Errors
/// [`FrameError`]; after one nothing more can be read.
pub fn read<T: DeserializeOwned>(from: &mut impl Read, longest: usize) -> Result<T, FrameError> {
    let mut length = [0; 4];
    from.read_exact(&mut length)?;
    let length = u32::from_le_bytes(length) as usize;
    if length > longest {
        return Err(FrameError::TooLong(length));
    }
    let mut bytes = Vec::with_capacity(length.min(PIECE));
    while bytes.len() < length {
        let (start, piece) = (bytes.len(), (length - bytes.len()).min(PIECE));
        bytes.resize(start + piece, 0);
        from.read_exact(&mut bytes[start..])?;
    }
    rmp_serde::from_slice(&bytes).map_err(|error| FrameError::Strange(error.to_string()))
}

/// Bytes as MessagePack has them, one byte each.
pub(crate) mod bytes {
    use std::fmt;

    use serde::de::{SeqAccess, Visitor};
    use serde::{Deserializer, Serializer};

    pub(crate) fn serialize<S: Serializer>(bytes: &[u8], serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_bytes(bytes)
    }

    pub(crate) fn deserialize<'de, D: Deserializer<'de>>(deserializer: D) -> Result<Vec<u8>, D::Error> {
        struct Bytes;

        impl<'de> Visitor<'de> for Bytes {
            type Value = Vec<u8>;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("bytes")
            }

            fn visit_bytes<E>(self, bytes: &[u8]) -> Result<Vec<u8>, E> {
                Ok(bytes.to_vec())
            }

            fn visit_byte_buf<E>(self, bytes: Vec<u8>) -> Result<Vec<u8>, E> {
                Ok(bytes)
            }

            fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<Vec<u8>, A::Error> {
                let mut bytes = Vec::new();
                while let Some(byte) = seq.next_element()? {
                    bytes.push(byte);
                }
                Ok(bytes)
            }
        }

        deserializer.deserialize_byte_buf(Bytes)
    }
}
