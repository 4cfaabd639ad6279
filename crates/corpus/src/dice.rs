//! Chance that is the same every time.

/// A small generator: the multiplier is that of Knuth's MMIX, the upper bits are used.
#[derive(Clone, Debug)]
pub struct Dice(u64);

impl Dice {
    /// A generator that gives the same numbers for the same seed.
    pub fn new(seed: u64) -> Self {
        let mut dice = Self(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) ^ 0x2545_f491_4f6c_dd1d);
        dice.roll(2);
        dice
    }

    /// A number below `sides`; 0 for none.
    pub fn roll(&mut self, sides: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        ((self.0 >> 33) as usize) % sides.max(1)
    }

    /// True in `percent` of all rolls.
    pub fn percent(&mut self, percent: usize) -> bool {
        self.roll(100) < percent
    }

    /// One of some things.
    pub fn pick<'a, T>(&mut self, of: &'a [T]) -> &'a T {
        &of[self.roll(of.len())]
    }
}
