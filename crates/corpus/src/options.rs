//! What the programs of this crate are told on their command lines. They are tools for those who build Splimo.

/// What stands behind an option.
#[must_use]
pub fn text(name: &str) -> Option<String> {
    std::env::args().skip_while(|argument| argument != name).nth(1)
}

/// The number that stands behind an option; the usual one where none does.
#[must_use]
pub fn number(name: &str, usual: usize) -> usize {
    text(name).and_then(|text| text.parse().ok()).unwrap_or(usual)
}

/// Whether an option is there.
#[must_use]
pub fn given(name: &str) -> bool {
    std::env::args().any(|argument| argument == name)
}

/// The first argument, where it is no option.
#[must_use]
pub fn first() -> Option<String> {
    std::env::args().nth(1).filter(|argument| !argument.starts_with("--"))
}
