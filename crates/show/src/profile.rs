//! Profiles: what the channels of a fixture do, and how its light answers to a value.

use serde::{Deserialize, Serialize};

use super::{Channel, Curve, Function, Power, SLOTS, Swivel};

/// The functions of a fixture's channels. Channels of the fixture as a whole come first (head) or last (tail); those of the
/// cells between them are a block, which is repeated until every cell of the fixture's shape has its channels.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Profile {
    /// The name by which fixtures refer to it.
    pub name: String,
    /// The channels in order.
    pub channels: Vec<Channel>,
    /// The way the light answers to a value.
    #[serde(default)]
    pub curve: Curve,
    /// The way white is taken out of a colour, where there is an emitter for it.
    #[serde(default, skip_serializing_if = "Extraction::is_usual")]
    pub white: Extraction,
    /// The brightness of a cell when it is to be found, 0..1.
    #[serde(default = "full", skip_serializing_if = "is_full")]
    pub highlight: f32,
    /// The current that a cell takes, where that is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub power: Option<Power>,
    /// The way it turns, where it has pan or tilt; without it, as most heads do.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub swivel: Option<Swivel>,
}

fn full() -> f32 {
    1.0
}

fn is_full(x: &f32) -> bool {
    *x == 1.0
}

/// The way white, and likewise amber, is taken out of a colour.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Extraction {
    /// The white emitter takes it over from the others.
    #[default]
    Replace,
    /// The white emitter adds to the others.
    Add,
    /// The white emitter stays dark.
    Off,
}

impl Extraction {
    /// Every way.
    pub const ALL: [Self; 3] = [Self::Replace, Self::Add, Self::Off];

    /// The word for it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Replace => "replace",
            Self::Add => "add",
            Self::Off => "off",
        }
    }

    fn is_usual(&self) -> bool {
        *self == Self::default()
    }
}

/// The way the channels of a profile are laid out, in slots.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Layout {
    /// Slots before the cells.
    pub head: u16,
    /// Slots of a block.
    pub block: u16,
    /// Cells of a block.
    pub cells: u16,
    /// Slots behind the cells.
    pub tail: u16,
}

impl Layout {
    /// The number of slots that a fixture of some cells takes.
    #[must_use]
    pub fn slots(self, cells: u64) -> u64 {
        let blocks = cells.div_ceil(u64::from(self.cells.max(1)));
        u64::from(self.head) + blocks * u64::from(self.block) + u64::from(self.tail)
    }
}

impl Profile {
    /// The number of channels that belong to the fixture as a whole at the beginning, and how many to its cells after that.
    fn parts(&self) -> (usize, usize) {
        let head = self.channels.iter().take_while(|c| c.cell == 0).count();
        let tail = self.channels[head..].iter().rev().take_while(|c| c.cell == 0).count();
        (head, self.channels.len() - head - tail)
    }

    /// The channels before the cells.
    #[must_use]
    pub fn head(&self) -> &[Channel] {
        &self.channels[..self.parts().0]
    }

    /// The channels of a block of cells.
    #[must_use]
    pub fn block(&self) -> &[Channel] {
        let (head, block) = self.parts();
        &self.channels[head..head + block]
    }

    /// The channels behind the cells.
    #[must_use]
    pub fn tail(&self) -> &[Channel] {
        let (head, block) = self.parts();
        &self.channels[head + block..]
    }

    /// The way its channels are laid out.
    #[must_use]
    pub fn layout(&self) -> Layout {
        let slots = |channels: &[Channel]| channels.iter().map(|c| c.slots()).fold(0, u16::saturating_add);
        let cells = self.block().iter().map(|c| c.cell).max().unwrap_or(1);
        Layout { head: slots(self.head()), block: slots(self.block()), cells, tail: slots(self.tail()) }
    }

    /// The number of slots of a block that lie before the first channel of one of its cells, counted from 0.
    #[must_use]
    pub fn slots_before(&self, cell: u16) -> u16 {
        self.block().iter().take_while(|c| c.cell != cell + 1).map(|c| c.slots()).sum()
    }

    /// True if it can point somewhere.
    #[must_use]
    pub fn aims(&self) -> bool {
        self.channels.iter().any(|c| matches!(c.does, Function::Pan | Function::Tilt))
    }

    /// The fault in it, as a message and its mend, if there is one.
    #[must_use]
    pub fn fault(&self) -> Option<(String, String)> {
        let layout = self.layout();
        let said = |message: String, mend: &str| Some((message, mend.to_owned()));
        if self.channels.is_empty() || self.block().is_empty() {
            return said("no channel belongs to a cell".into(), "give it a channel whose cell is 1 or more");
        }
        if self.channels.len() > usize::from(SLOTS) || layout.head.max(layout.block).max(layout.tail) > SLOTS {
            return said(format!("it has {} channels", self.channels.len()), "give it 1 to 512 slots");
        }
        if let Some(cell) = (1..=layout.cells).find(|cell| self.block().iter().all(|c| c.cell != *cell)) {
            return said(format!("cell {cell} has no channel"), "number the cells 1, 2, 3 and so on");
        }
        if let Some(channel) = self.channels.iter().find(|c| c.default.is_some_and(|d| d > c.full())) {
            let message = format!("the default of {} is over {}", channel.does.name(), channel.full());
            return said(message, "write a value that fits, or bits = 16");
        }
        if !(0.0..=1.0).contains(&self.highlight) {
            return said(format!("a highlight of {} is out of range", self.highlight), "write a number from 0 to 1");
        }
        if let Some(fault) = self.power.and_then(|power| power.fault()) {
            return said(fault, "correct its power");
        }
        if let Some(fault) = self.swivel.and_then(|swivel| swivel.fault()) {
            return said(fault, "write a number in that range");
        }
        self.curve.fault().map(|fault| (fault, "correct the curve".to_owned()))
    }
}
