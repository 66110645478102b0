//! The fault of a recording, in words.

use std::io::ErrorKind;

use symphonia::core::errors::Error;

use crate::file_error::without_number;

/// Words for a fault of a recording: the reader's own words are for those who write readers, and go to the log.
pub(super) fn damage(error: &Error) -> String {
    tracing::debug!("a recording: {error}");
    match error {
        Error::IoError(error) if error.kind() == ErrorKind::UnexpectedEof => "it ends too early".to_owned(),
        Error::IoError(error) => without_number(&error.to_string()).to_owned(),
        Error::SeekError(_) => "it cannot be gone to a place in".to_owned(),
        Error::Unsupported(what) if what.contains("no suitable format reader") => {
            "it begins like none of them".to_owned()
        }
        Error::Unsupported(_) => "it has something in it that is not known".to_owned(),
        Error::LimitError(_) => "a part of it is larger than such parts are".to_owned(),
        // What a decoder wants anew has changed within the recording.
        Error::ResetRequired => "it becomes another kind of sound on the way".to_owned(),
        Error::DecodeError(_) => "what it says of itself is damaged".to_owned(),
        _ => "it is damaged".to_owned(),
    }
}
