//! The words for the sources of modulators, and for what moves a counter.

use serde::{Deserialize, Serialize};

macro_rules! words {
    ($(#[$doc:meta])* $name:ident { $($(#[$inner:meta])* $variant:ident = $word:literal,)* }) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
        pub enum $name {
            $($(#[$inner])* #[serde(rename = $word)] $variant,)*
        }

        impl $name {
            /// Every one.
            pub const ALL: &[Self] = &[$(Self::$variant),*];

            /// The word for it.
            #[must_use]
            pub fn name(self) -> &'static str {
                match self { $(Self::$variant => $word,)* }
            }

            /// The one of a word.
            #[must_use]
            pub fn named(word: &str) -> Option<Self> {
                Self::ALL.iter().copied().find(|one| one.name() == word)
            }
        }
    };
}

words! {
    /// The kind of a modulator's source. Waves, random numbers and steps give -1..1, what is heard and the counter 0..1.
    ModulatorKind {
        /// A sine.
        Sine = "sine",
        /// Up and down in straight lines.
        Triangle = "triangle",
        /// Rises and falls back at once.
        SawUp = "saw up",
        /// Jumps up and falls.
        SawDown = "saw down",
        /// High for half of the cycle, then low.
        Square = "square",
        /// Another number drawn for each cycle.
        Random = "random",
        /// Wanders smoothly from one drawn number to the next.
        Drift = "drift",
        /// A number drawn on each beat.
        Draw = "draw",
        /// A list of steps of one's own.
        Steps = "steps",
        /// Loudness.
        Level = "level",
        /// The low bands.
        Bass = "bass",
        /// The middle bands.
        Mids = "mids",
        /// The high bands.
        Highs = "highs",
        /// One band.
        Band = "band",
        /// High at each attack that is heard, dying away.
        Onset = "onset",
        /// High on each beat, dying away.
        Beat = "beat",
        /// An incoming control.
        Control = "control",
        /// A counter that events move.
        Counter = "counter",
        /// A formula.
        Formula = "formula",
    }
}

words! {
    /// An event that moves a counter.
    #[derive(Default)]
    CountEvent {
        /// Nothing does.
        #[default]
        Never = "never",
        /// Each beat.
        Beat = "beat",
        /// Each bar.
        Bar = "bar",
        /// Each phrase.
        Phrase = "phrase",
        /// Each attack that is heard.
        Onset = "onset",
        /// Each look that lands.
        Landing = "landing",
        /// The action count-forward.
        Forward = "count-forward",
        /// The action count-back.
        Back = "count-back",
        /// The action count-reset.
        Reset = "count-reset",
    }
}

impl CountEvent {
    pub(super) fn is_never(&self) -> bool {
        *self == Self::Never
    }
}
