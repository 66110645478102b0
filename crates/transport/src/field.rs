//! Fields that only some transports have, as data: files, forms, the check and the reference follow.

/// A field of a transport.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Field {
    /// The name in a file.
    pub name: &'static str,
    /// The name in a form.
    pub label: &'static str,
    /// What it is, as a sentence.
    pub about: &'static str,
    /// The hint behind it in a form.
    pub hint: &'static str,
    /// The field of a route behind which it stands in a file.
    pub behind: &'static str,
    /// What it holds.
    pub kind: FieldKind,
}

/// What a field holds.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum FieldKind {
    /// A whole number from one to another; where a form offers some, those.
    Whole {
        /// The least.
        from: u32,
        /// The most.
        to: u32,
        /// Those that a form offers; none for any.
        offered: &'static [u32],
    },
    /// True or false.
    Flag,
}

/// The value of a field.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum FieldValue {
    /// A whole number.
    Whole(u32),
    /// True or false.
    Flag(bool),
}

impl FieldValue {
    /// The whole number, or 0.
    #[must_use]
    pub fn whole(self) -> u32 {
        match self {
            Self::Whole(number) => number,
            Self::Flag(on) => u32::from(on),
        }
    }

    /// True if it is a flag that is set, or a number but 0.
    #[must_use]
    pub fn flag(self) -> bool {
        self.whole() != 0
    }
}
