//! The list of transports.

use std::ops::{Deref, DerefMut};

use serde::{Deserialize, Serialize};

use crate::{Field, FieldValue, Transport, artnet, sacn, serial};

/// Makes the kinds and the values of the list. A line has what the transport is, its name here, its word in a file, and its folder,
/// which has a type of that name and a `USUAL` of it.
macro_rules! transports {
    ($($(#[doc = $about:literal])+ $name:ident = $key:literal in $folder:ident;)+) => {
        /// The kind of a transport.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
        pub enum TransportKind {
            $($(#[doc = $about])+ #[serde(rename = $key)] $name,)+
        }

        impl TransportKind {
            /// Every kind.
            pub const ALL: &[Self] = &[$(Self::$name),+];

            /// The word in a file.
            #[must_use]
            pub fn key(self) -> &'static str {
                match self { $(Self::$name => $key),+ }
            }

            /// What it is, as a sentence.
            #[must_use]
            pub fn about(self) -> &'static str {
                match self { $(Self::$name => concat!($($about),+).trim_ascii()),+ }
            }

            /// One of this kind, with everything as usual.
            #[must_use]
            pub fn usual(self) -> &'static dyn Transport {
                match self { $(Self::$name => &$folder::USUAL),+ }
            }
        }

        /// A transport of any kind, as data.
        #[derive(Debug, Clone, PartialEq)]
        pub enum AnyTransport {
            $($(#[doc = $about])+ $name($folder::$name),)+
        }

        impl AnyTransport {
            /// One of a kind, with everything as usual.
            #[must_use]
            pub fn of(kind: TransportKind) -> Self {
                match kind { $(TransportKind::$name => Self::$name($folder::USUAL.clone())),+ }
            }

            /// The kind.
            #[must_use]
            pub fn kind(&self) -> TransportKind {
                match self { $(Self::$name(_) => TransportKind::$name),+ }
            }
        }

        impl Deref for AnyTransport {
            type Target = dyn Transport;

            fn deref(&self) -> &Self::Target {
                match self { $(Self::$name(transport) => transport),+ }
            }
        }

        impl DerefMut for AnyTransport {
            fn deref_mut(&mut self) -> &mut Self::Target {
                match self { $(Self::$name(transport) => transport),+ }
            }
        }
    };
}

transports! {
    /// Art-Net 4.
    ArtNet = "art-net" in artnet;
    /// ANSI E1.31, streaming ACN.
    Sacn = "sacn" in sacn;
    /// Splimo's own frames on a serial port.
    Serial = "serial" in serial;
}

impl TransportKind {
    /// The name as it is written everywhere.
    #[must_use]
    pub fn name(self) -> &'static str {
        self.usual().name()
    }
}

/// The value that the field of a name usually has.
#[must_use]
pub fn field_value(name: &str) -> FieldValue {
    let has = |kind: &&TransportKind| kind.usual().fields().iter().any(|field| field.name == name);
    TransportKind::ALL.iter().find(has).map_or(FieldValue::Flag(false), |kind| kind.usual().value(name))
}

/// The field of a name, of whichever transport has one.
#[must_use]
pub fn field_named(name: &str) -> Option<&'static Field> {
    TransportKind::ALL.iter().flat_map(|kind| kind.usual().fields()).find(|field| field.name == name)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::FieldKind;
    use std::collections::BTreeSet;

    #[test]
    fn every_transport_has_words_of_its_own() {
        let words = |of: fn(&TransportKind) -> String| -> BTreeSet<String> {
            let all: BTreeSet<String> = TransportKind::ALL.iter().map(of).collect();
            assert!(all.iter().all(|word| !word.trim().is_empty()));
            all
        };
        let count = TransportKind::ALL.len();
        assert_eq!(words(|kind| kind.key().to_owned()).len(), count);
        assert_eq!(words(|kind| kind.name().to_owned()).len(), count);
        assert_eq!(words(|kind| kind.about().to_owned()).len(), count);
        assert_eq!(words(|kind| kind.usual().universe(1)).len(), count);
        assert_eq!(words(|kind| kind.usual().destination_mend().to_owned()).len(), count);
        assert_eq!(words(|kind| kind.usual().destination_hint().to_owned()).len(), count);
        for kind in TransportKind::ALL {
            assert_eq!(AnyTransport::of(*kind).kind(), *kind);
        }
    }

    #[test]
    fn numbers_are_read_as_they_are_written() {
        for transport in TransportKind::ALL.iter().map(|kind| kind.usual()) {
            assert_eq!(transport.numbers().is_some(), transport.numbering().is_some());
            let Some(numbers) = transport.numbers() else { continue };
            for number in numbers.clone() {
                let number = u16::try_from(number).expect("numbers have 16 bits");
                assert_eq!(transport.read_number(&transport.number_form(number)), Some(number));
            }
            for beyond in [numbers.end() + 1, 70_000] {
                assert_eq!(transport.read_number(&beyond.to_string()), None, "{} {beyond}", transport.name());
            }
            for universe in [0, 1, 2, 32_768, 40_000, 70_000] {
                assert!(numbers.contains(&u32::from(transport.usual_number(universe))), "{universe}");
            }
            for text in ["", "x", "1:2", "1:2:3:4", "-1", "0:16:0", "128:0:0"] {
                assert_eq!(transport.read_number(text), None, "{} {text}", transport.name());
            }
        }
    }

    #[test]
    fn each_goes_where_it_usually_goes() {
        for transport in TransportKind::ALL.iter().map(|kind| kind.usual()) {
            assert!(transport.reaches(&transport.usual_destination()), "{}", transport.name());
        }
    }

    #[test]
    fn fields_hold_what_is_put_into_them() {
        for kind in TransportKind::ALL {
            let mut transport = AnyTransport::of(*kind);
            for field in transport.fields() {
                let usual = transport.value(field.name);
                let other = match field.kind {
                    FieldKind::Whole { from, to, .. } => {
                        assert!((from..=to).contains(&usual.whole()));
                        FieldValue::Whole(if usual.whole() == to { from } else { to })
                    }
                    FieldKind::Flag => FieldValue::Flag(!usual.flag()),
                };
                transport.set(field.name, other);
                assert_eq!(transport.value(field.name), other, "{}", field.name);
                assert_ne!(transport, AnyTransport::of(*kind));
                transport.set(field.name, usual);
            }
            assert_eq!(transport, AnyTransport::of(*kind), "each has a place of its own");
        }
    }
}
