//! Handles of parameters: each knows its place in an effect's declaration, which is found by its name while the program is
//! compiled. A name that is not there, or a parameter of another kind, does not compile.

use std::marker::PhantomData;

use super::{ParamKind, ParamSpec};

/// True if two texts are the same; `==` is not for constants yet.
const fn same(a: &str, b: &str) -> bool {
    let (a, b) = (a.as_bytes(), b.as_bytes());
    let mut at = 0;
    while at < a.len() && at < b.len() && a[at] == b[at] {
        at += 1;
    }
    at == a.len() && at == b.len()
}

/// The place of a name among parameters.
const fn place(params: &[ParamSpec], name: &str) -> usize {
    let mut at = 0;
    while at < params.len() {
        if same(params[at].name, name) {
            return at;
        }
        at += 1;
    }
    panic!("the effect has no parameter of this name")
}

macro_rules! handles {
    ($($(#[$doc:meta])* $handle:ident: $kind:pat,)*) => {
        $(
            $(#[$doc])*
            #[derive(Debug, Clone, Copy, PartialEq, Eq)]
            pub struct $handle(pub(in crate::effect) usize);

            impl $handle {
                /// The parameter of a name.
                pub(in crate::effect) const fn named(params: &[ParamSpec], name: &str) -> Self {
                    let place = place(params, name);
                    assert!(matches!(params[place].kind, $kind), "the parameter of this name is of another kind");
                    Self(place)
                }
            }
        )*
    };
}

handles! {
    /// The handle of a number.
    NumberParam: ParamKind::Number { .. },
    /// The handle of a rate.
    RateParam: ParamKind::Rate { .. },
    /// The handle of the stops of a gradient.
    ColoursParam: ParamKind::Colours { .. },
    /// The handle of a text.
    TextParam: ParamKind::Text { .. },
    /// The handle of names of looks.
    LooksParam: ParamKind::Looks,
    /// The handle of times of looks.
    TimesParam: ParamKind::Times,
    /// The handle of a file.
    FileParam: ParamKind::File { .. },
}

impl NumberParam {
    /// The number at a place of a declaration, if there is one.
    #[must_use]
    pub fn at(params: &[ParamSpec], place: usize) -> Option<Self> {
        matches!(params.get(place)?.kind, ParamKind::Number { .. }).then_some(Self(place))
    }
}

impl ColoursParam {
    /// The gradient at a place of a declaration, if there is one.
    #[must_use]
    pub fn at(params: &[ParamSpec], place: usize) -> Option<Self> {
        matches!(params.get(place)?.kind, ParamKind::Colours { .. }).then_some(Self(place))
    }
}

/// The words of a parameter that is one of some.
pub trait Choice: Copy {
    /// The words in their order; none where they are not listed here.
    const WORDS: &'static [&'static str];

    /// The one at a place among them; the first where there is none.
    fn nth(place: usize) -> Self;
}

/// The place itself, of a choice whose words are listed elsewhere.
impl Choice for usize {
    const WORDS: &'static [&'static str] = &[];

    fn nth(place: usize) -> Self {
        place
    }
}

/// Declares the words of a choice as an enum.
macro_rules! choices {
    ($(#[$doc:meta])* $name:ident { $($variant:ident = $word:literal,)* }) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq)]
        pub(in crate::effect) enum $name { $($variant,)* }

        impl $name {
            pub(in crate::effect) const WORDS: &'static [&'static str] = &[$($word),*];
        }

        impl $crate::effect::Choice for $name {
            const WORDS: &'static [&'static str] = Self::WORDS;

            fn nth(place: usize) -> Self {
                const ALL: &[$name] = &[$($name::$variant),*];
                ALL.get(place).copied().unwrap_or(ALL[0])
            }
        }
    };
}
pub(in crate::effect) use choices;

/// The handle of one of some words.
#[derive(Debug)]
pub struct ChoiceParam<C>(pub(in crate::effect) usize, PhantomData<C>);

impl<C> Clone for ChoiceParam<C> {
    fn clone(&self) -> Self {
        *self
    }
}

impl<C> Copy for ChoiceParam<C> {}

impl<C: Choice> ChoiceParam<C> {
    /// The parameter of a name, which has the words of `C`.
    pub(in crate::effect) const fn named(params: &[ParamSpec], name: &str) -> Self {
        let place = place(params, name);
        let ParamKind::Choice { options } = params[place].kind else {
            panic!("the parameter of this name is no choice")
        };
        let mut at = 0;
        while at < C::WORDS.len() {
            assert!(C::WORDS.len() == options.len() && same(C::WORDS[at], options[at]), "it has other words");
            at += 1;
        }
        Self(place, PhantomData)
    }
}
