//! Seeded random draws (SplitMix64; G. L. Steele, D. Lea and C. H. Flood, "Fast splittable pseudorandom number generators",
//! OOPSLA 2014).

/// A stream of draws; the same seed gives the same stream.
#[derive(Debug, Clone)]
pub struct Lot(u64);

impl Lot {
    /// The stream of a seed.
    #[must_use]
    pub fn new(seed: u64) -> Self {
        let mut lot = Self(seed ^ 0x5eed_c0de_0b5e_55ed);
        lot.next();
        lot
    }

    /// A stream of its own that begins here.
    pub fn split(&mut self) -> Self {
        Self::new(self.next())
    }

    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^ (z >> 31)
    }

    /// 0..1.
    pub fn unit(&mut self) -> f32 {
        (self.next() >> 40) as f32 / 16_777_216.0
    }

    /// -1..1.
    pub fn both(&mut self) -> f32 {
        self.unit() * 2.0 - 1.0
    }

    /// Evenly between two numbers.
    pub fn range(&mut self, low: f32, high: f32) -> f32 {
        low + (high - low) * self.unit()
    }

    /// Evenly between two positive numbers on a scale of their logarithm.
    pub fn scale(&mut self, low: f32, high: f32) -> f32 {
        (self.range(low.ln(), high.ln())).exp()
    }

    /// Around 0 with a deviation of about 1 (sum of twelve evens).
    pub fn bell(&mut self) -> f32 {
        (0..12).map(|_| self.unit()).sum::<f32>() - 6.0
    }

    /// Whether something of this probability is so.
    pub fn chance(&mut self, probability: f32) -> bool {
        self.unit() < probability
    }

    /// A whole number from 0 on, below `count`.
    pub fn below(&mut self, count: usize) -> usize {
        (self.next() % count.max(1) as u64) as usize
    }

    /// One of some things.
    ///
    /// # Panics
    /// Where there are none.
    pub fn pick<T: Copy>(&mut self, from: &[T]) -> T {
        from[self.below(from.len())]
    }
}
