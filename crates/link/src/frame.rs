//! Frames: a message with its length before it. The length is four bytes, the least significant first; the message is
//! MessagePack with the names of fields, so that either side may know fields that the other does not.

use std::io::{self, Read, Write};

use serde::Serialize;

use crate::message::{Request, Update};

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

/// A message that is framed. Each is encoded and decoded in this crate alone: the code for a whole show takes longer to compile than
/// all that is done with it.
pub trait Framed: Sized {
    /// The message as a frame.
    ///
    /// # Errors
    /// [`FrameError::Strange`] for what cannot be written, such as a path that is no text, and [`FrameError::TooLong`].
    fn encode(&self) -> Result<Vec<u8>, FrameError>;

    /// The message of the bytes of a frame, without its length.
    ///
    /// # Errors
    /// [`FrameError::Strange`].
    fn decode(bytes: &[u8]) -> Result<Self, FrameError>;
}

macro_rules! framed {
    ($($message:ty),*) => {
        $(impl Framed for $message {
            fn encode(&self) -> Result<Vec<u8>, FrameError> {
                encode(self)
            }

            fn decode(bytes: &[u8]) -> Result<Self, FrameError> {
                rmp_serde::from_slice(bytes).map_err(|error| FrameError::Strange(error.to_string()))
            }
        })*
    };
}

framed!(Request, Update);

/// A frame of anything that can be written. Messages have [`Framed::encode`].
///
/// # Errors
/// As [`Framed::encode`].
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
/// As [`Framed::encode`], and [`FrameError::Broken`].
pub fn write(to: &mut impl Write, message: &impl Framed) -> Result<(), FrameError> {
    to.write_all(&message.encode()?)?;
    to.flush()?;
    Ok(())
}

/// Reads the next message, whose frame has at most `longest` bytes.
///
/// # Errors
/// [`FrameError`]; after one nothing more can be read.
pub fn read<T: Framed>(from: &mut impl Read, longest: usize) -> Result<T, FrameError> {
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
    T::decode(&bytes)
}
