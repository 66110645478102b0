//! A serial port as a transport.

use std::ops::RangeInclusive;

use crate::{Destination, Field, FieldKind, FieldValue, Leaves, Numbering, Transport};

/// Splimo's own frames on a serial port.
#[derive(Debug, Clone, PartialEq)]
pub struct Serial {
    /// The speed of the port, in bits a second.
    pub baud: u32,
}

/// A serial port as usual.
pub static USUAL: Serial = Serial { baud: 1_000_000 };

/// The speeds that ports have, in bits a second.
const BAUDS: [u32; 9] = [115_200, 230_400, 460_800, 500_000, 921_600, 1_000_000, 1_500_000, 2_000_000, 3_000_000];

static FIELDS: [Field; 1] = [Field {
    name: "baud",
    label: "speed",
    about: "The speed of a serial port, in bits a second.",
    hint: "bits a second",
    behind: "white",
    kind: FieldKind::Whole { from: 1200, to: 12_000_000, offered: &BAUDS },
}];

impl Transport for Serial {
    fn leaves(&self) -> Leaves<'_> {
        Leaves::Port { baud: self.baud }
    }

    fn numbering(&self) -> Option<&Numbering> {
        None
    }

    fn numbering_mut(&mut self) -> Option<&mut Numbering> {
        None
    }

    fn numbers(&self) -> Option<RangeInclusive<u32>> {
        None
    }

    fn usual_number(&self, _universe: u32) -> u16 {
        0
    }

    fn number_form(&self, number: u16) -> String {
        number.to_string()
    }

    fn read_number(&self, text: &str) -> Option<u16> {
        text.trim().parse().ok()
    }

    fn reaches(&self, to: &Destination) -> bool {
        matches!(to, Destination::Port(_))
    }

    fn destination_mend(&self) -> &'static str {
        "write the path of the port, such as /dev/ttyUSB0"
    }

    fn destination_hint(&self) -> &'static str {
        "the path of the port, such as /dev/ttyUSB0"
    }

    fn usual_destination(&self) -> Destination {
        Destination::Port("/dev/ttyUSB0".to_owned())
    }

    fn fields(&self) -> &'static [Field] {
        &FIELDS
    }

    fn value(&self, _field: &str) -> FieldValue {
        FieldValue::Whole(self.baud)
    }

    fn set(&mut self, field: &str, value: FieldValue) {
        if field == "baud" {
            self.baud = value.whole();
        }
    }

    fn name(&self) -> &'static str {
        "serial"
    }

    fn universe(&self, _number: u16) -> String {
        "serial".to_owned()
    }

    fn universes(&self, _first: u16, _last: u16) -> String {
        format!("serial {}", self.baud)
    }

    fn universes_in_full(&self, _first: u16, _last: u16) -> String {
        format!("serial pixels, {} bits a second", self.baud)
    }
}
