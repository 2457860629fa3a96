//! Small numbers out of bytes; zeros when there are no more.

use hammerstone::Fixed;
use hammerstone::geometry::{Axis, Pose};

/// What is left of the input.
pub(crate) struct Bytes<'a>(pub(crate) &'a [u8]);

/// Numbers that hosts give by mistake, and ordinary ones.
const WILD: [f32; 16] = [
    0.0,
    0.5,
    1.0,
    -1.0,
    2.0,
    -3.0,
    10.0,
    100.0,
    9.9e5,
    -1.0e6,
    1.0e7,
    1.0e30,
    f32::NAN,
    f32::INFINITY,
    f32::MIN_POSITIVE,
    -0.0,
];

impl Bytes<'_> {
    pub(crate) fn is_over(&self) -> bool {
        self.0.is_empty()
    }

    pub(crate) fn byte(&mut self) -> u8 {
        let Some((&first, rest)) = self.0.split_first() else { return 0 };
        self.0 = rest;
        first
    }

    pub(crate) fn below(&mut self, most: usize) -> usize {
        usize::from(self.byte()) % most.max(1)
    }

    pub(crate) fn comes(&mut self, one_in: usize) -> bool {
        self.below(one_in) == 1
    }

    pub(crate) fn pick<T: Copy>(&mut self, all: &[T]) -> Option<T> {
        let place = self.below(all.len());
        all.get(place).copied()
    }

    /// Mostly near the origin, now and then out of this world.
    pub(crate) fn number(&mut self) -> f32 {
        match self.byte() {
            byte if byte < 224 => f32::from(byte % 16) * 0.25 - 2.0,
            byte => WILD[usize::from(byte) % WILD.len()],
        }
    }

    pub(crate) fn pose(&mut self) -> Pose {
        let at = [self.number(), 0.0, self.number()];
        match self.byte() {
            byte if byte < 250 => Pose::at(at).facing(Axis::Y, f32::from(byte) * 3.0),
            _ => Pose { at, turn: [self.number(), 0.0, self.number(), self.number()] },
        }
    }

    pub(crate) fn fixed(&mut self) -> Fixed {
        match self.byte() {
            byte if byte < 250 => Fixed::ratio(i64::from(byte), 20),
            250 => Fixed::MAX,
            251 => Fixed::MIN,
            byte => Fixed::raw(i64::from(byte) - 253),
        }
    }
}
