//! Actions of the screen: what only moves a screen, such as choosing a row, zooming or opening a form. Each is owned by one view,
//! or by the frame around all of them; the session and the core do not know them.

use std::fmt::Debug;

/// The description of an action.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct ActionInfo {
    /// The name by which it is asked for.
    pub(crate) name: &'static str,
    /// The help, as a doc comment.
    pub(crate) doc: &'static str,
    /// The name of its argument, if it takes one.
    pub(crate) argument: Option<&'static str>,
}

impl ActionInfo {
    /// The help, in one line.
    pub(crate) fn help(&self) -> &'static str {
        self.doc.trim_start()
    }
}

/// The actions of a view, or of the frame.
pub(crate) trait UiAction: Clone + PartialEq + Debug + 'static {
    /// Every one.
    const ALL: &'static [ActionInfo];

    /// The name by which it is asked for.
    fn name(&self) -> &'static str;

    /// Its name, and its argument behind it.
    fn text(&self) -> String;

    /// The action of a name and an argument; none where they are no action.
    fn parse(name: &str, argument: &str) -> Option<Self>;
}

/// An argument that can stand behind an action's name.
pub(crate) trait Argument: Sized {
    fn parse(text: &str) -> Option<Self>;
}

impl Argument for i32 {
    fn parse(text: &str) -> Option<Self> {
        if text.is_empty() { Some(1) } else { text.parse().ok() }
    }
}

impl Argument for String {
    fn parse(text: &str) -> Option<Self> {
        (!text.is_empty()).then(|| text.to_owned())
    }
}

/// Declares the actions of a view as an enum, with their names and help.
macro_rules! ui_actions {
    ($(#[$about:meta])* $kind:ident {
        $($(#[doc = $doc:literal])* $variant:ident $(($argument:ident: $type:ty))? = $name:literal;)*
    }) => {
        $(#[$about])*
        #[derive(Debug, Clone, PartialEq)]
        pub(crate) enum $kind {
            $($(#[doc = $doc])* $variant $(($type))?,)*
        }

        impl $crate::ui_action::UiAction for $kind {
            const ALL: &'static [$crate::ui_action::ActionInfo] = &[$($crate::ui_action::ActionInfo {
                name: $name,
                doc: concat!($($doc),*),
                argument: $crate::ui_action::ui_actions!(@name $($argument)?),
            },)*];

            fn name(&self) -> &'static str {
                match *self { $($crate::ui_action::ui_actions!(@pattern $kind $variant $($argument)?) => $name,)* }
            }

            fn text(&self) -> String {
                match self {
                    $($kind::$variant $(($argument))? => $crate::ui_action::ui_actions!(@text $name $($argument)?),)*
                }
            }

            fn parse(name: &str, argument: &str) -> Option<Self> {
                let _ = (name, argument);
                $(if name == $name {
                    return $crate::ui_action::ui_actions!(@parse $kind $variant argument $($type)?);
                })*
                None
            }
        }
    };
    (@text $name:literal) => { $name.to_owned() };
    (@text $name:literal $argument:ident) => { format!("{} {}", $name, $argument) };
    (@name) => { None };
    (@name $argument:ident) => { Some(stringify!($argument)) };
    (@pattern $kind:ident $variant:ident) => { $kind::$variant };
    (@pattern $kind:ident $variant:ident $argument:ident) => { $kind::$variant(_) };
    (@parse $kind:ident $variant:ident $text:ident) => { $text.is_empty().then_some($kind::$variant) };
    (@parse $kind:ident $variant:ident $text:ident $type:ty) => {
        <$type as $crate::ui_action::Argument>::parse($text).map($kind::$variant)
    };
}

pub(crate) use ui_actions;
