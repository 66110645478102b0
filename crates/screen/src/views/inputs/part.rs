//! The part of the view that has the keys.

/// The part of the view that has the keys.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) enum Part {
    /// The page of what is heard.
    #[default]
    Hearing,
    /// The list of inputs.
    Inputs,
    /// The list of bindings.
    Bindings,
    /// The list of values that leave; it takes the place of the bindings.
    ValuesOut,
    /// The list of programs and sounds; it takes the place of the bindings as well.
    Programs,
    /// The list of what came in last.
    Events,
}

impl Part {
    const ALL: [Self; 6] = [Self::Hearing, Self::Inputs, Self::Bindings, Self::ValuesOut, Self::Programs, Self::Events];

    /// The next one; the first follows the last.
    pub(super) fn next(self, by: i32) -> Self {
        let place = Self::ALL.iter().position(|part| *part == self).unwrap_or(0) as i32;
        Self::ALL[(place + by).rem_euclid(Self::ALL.len() as i32) as usize]
    }

    pub(super) fn name(self) -> &'static str {
        match self {
            Self::Hearing => "hearing",
            Self::Inputs => "inputs",
            Self::Bindings => "bindings",
            Self::ValuesOut => "values-out",
            Self::Programs => "programs",
            Self::Events => "events",
        }
    }

    pub(super) fn named(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|part| part.name() == name)
    }
}
