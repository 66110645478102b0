//! Files as a person names them, as whole paths.

use std::path::{Path, absolute};

/// The whole path of a file as a person gave it on a command line: from where they sit, and not from where the session was started.
#[must_use]
pub fn whole_path(file: &str) -> String {
    absolute(file.trim()).map_or_else(|_| file.to_owned(), |path| path.display().to_string())
}

/// The whole path of a file as a person typed it on a screen: it is meant from the folder of the show on, so that what is
/// written lies beside it; a show that has no file leaves it where the screen was started.
#[must_use]
pub(crate) fn path_from(folder: &str, file: &str) -> String {
    match folder.is_empty() || file.trim().is_empty() {
        true => whole_path(file),
        false => Path::new(folder).join(file.trim()).display().to_string(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_typed_is_meant_from_the_folder_of_the_show() {
        assert_eq!(path_from("/shows", " patch.csv "), "/shows/patch.csv");
        assert_eq!(path_from("/shows", "/tmp/patch.csv"), "/tmp/patch.csv");
        assert!(path_from("", "patch.csv").starts_with('/'));
    }
}
