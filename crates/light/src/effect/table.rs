//! A curve as a table, so that looking it up costs the same however it was made.

use splimo_base::maths::round_to_bits;

/// Entries of a table; the last bit of its steps is far below what is seen.
pub(super) const ENTRIES: usize = 512;
const MASK: u32 = ENTRIES as u32 - 1;

/// Values from 0 to 1.
#[derive(Debug, Clone)]
pub(super) struct Table(Box<[f32; ENTRIES]>);

impl Default for Table {
    fn default() -> Self {
        Self(Box::new([0.0; ENTRIES]))
    }
}

impl Table {
    /// Fills it from a curve over 0..1.
    pub(super) fn fill(&mut self, curve: impl Fn(f32) -> f32) {
        for (i, entry) in self.0.iter_mut().enumerate() {
            *entry = curve(i as f32 / MASK as f32);
        }
    }

    /// The value at a share, which is clamped to 0..1.
    #[inline(always)]
    pub(super) fn at(&self, share: f32) -> f32 {
        self.0[round_to_bits::<MASK>(share.clamp(0.0, 1.0) * MASK as f32) as usize & (ENTRIES - 1)]
    }
}
