//! Arithmetic that is written once, for one number and for several side by side.
//!
//! Every operation is one of IEEE 754, rounded once and never joined with another, so that a number has the same bits by itself and beside
//! others.

use std::ops::{Add, BitAnd, BitOr, Div, Mul, Neg, Not, Sub};

use glam::Vec3;
use wide::{f32x4, f32x8};

/// A number in single precision, or several side by side.
pub(crate) trait Number:
    Copy + Add<Output = Self> + Sub<Output = Self> + Mul<Output = Self> + Div<Output = Self> + Neg<Output = Self>
{
    /// Yes or no, for each.
    type Yes: Answers;

    /// The same number for each.
    fn all(number: f32) -> Self;
    /// The square root.
    fn root(self) -> Self;
    /// Whether it is above another; no, if either is no number.
    fn above(self, other: Self) -> Self::Yes;
    /// Whether it is above another or equal; no, if either is no number.
    fn at_least(self, other: Self) -> Self::Yes;
    /// The one where the answer is yes, the other where it is no.
    fn pick(yes: Self::Yes, one: Self, other: Self) -> Self;

    /// The lesser of the two; the other, if either is no number.
    #[inline(always)]
    fn lesser(self, other: Self) -> Self {
        Self::pick(other.above(self), self, other)
    }

    /// The greater of the two; the other, if either is no number.
    #[inline(always)]
    fn greater(self, other: Self) -> Self {
        Self::pick(self.above(other), self, other)
    }

    /// Held to 0..1, with one zero only; 0 for what is no number.
    #[inline(always)]
    fn share(self) -> Self {
        let (none, whole) = (Self::all(0.0), Self::all(1.0));
        Self::pick(self.above(none), Self::pick(whole.above(self), self, whole), none)
    }
}

/// Yes or no, for one number or for several.
pub(crate) trait Answers:
    Copy + BitAnd<Output = Self> + BitOr<Output = Self> + Not<Output = Self>
{
    /// Whether any is yes.
    fn any(self) -> bool;

    /// Whether each is yes.
    #[inline(always)]
    fn each(self) -> bool {
        !(!self).any()
    }
}

/// Several numbers side by side.
pub(crate) trait Lanes: Number {
    /// How many.
    const COUNT: usize;
    /// Their numbers in memory.
    type Row: Copy + AsRef<[f32]> + AsMut<[f32]> + std::fmt::Debug;

    /// From memory.
    fn load(row: &Self::Row) -> Self;
    /// To memory.
    fn store(self) -> Self::Row;
    /// Bit `n` for lane number `n`.
    fn bits(yes: Self::Yes) -> u32;
}

impl Answers for bool {
    #[inline(always)]
    fn any(self) -> bool {
        self
    }
}

impl Number for f32 {
    type Yes = bool;

    #[inline(always)]
    fn all(number: f32) -> f32 {
        number
    }

    #[inline(always)]
    fn root(self) -> f32 {
        self.sqrt()
    }

    #[inline(always)]
    fn above(self, other: f32) -> bool {
        self > other
    }

    #[inline(always)]
    fn at_least(self, other: f32) -> bool {
        self >= other
    }

    #[inline(always)]
    fn pick(yes: bool, one: f32, other: f32) -> f32 {
        if yes { one } else { other }
    }
}

/// Lanes of a safe vector: the machine's where it has them, an array where it has none.
macro_rules! lanes {
    ($($lanes:ident $count:literal)*) => {$(
        impl Lanes for $lanes {
            const COUNT: usize = $count;
            type Row = [f32; $count];

            #[inline(always)]
            fn load(row: &[f32; $count]) -> $lanes {
                $lanes::new(*row)
            }

            #[inline(always)]
            fn store(self) -> [f32; $count] {
                self.to_array()
            }

            #[inline(always)]
            fn bits(yes: $lanes) -> u32 {
                yes.to_bitmask()
            }
        }

        impl Answers for $lanes {
            #[inline(always)]
            fn any(self) -> bool {
                self.to_bitmask() != 0
            }
        }

        impl Number for $lanes {
            type Yes = $lanes;

            #[inline(always)]
            fn all(number: f32) -> $lanes {
                $lanes::splat(number)
            }

            #[inline(always)]
            fn root(self) -> $lanes {
                self.sqrt()
            }

            #[inline(always)]
            fn above(self, other: $lanes) -> $lanes {
                self.simd_gt(other)
            }

            #[inline(always)]
            fn at_least(self, other: $lanes) -> $lanes {
                self.simd_ge(other)
            }

            #[inline(always)]
            fn pick(yes: $lanes, one: $lanes, other: $lanes) -> $lanes {
                yes.select(one, other)
            }
        }
    )*};
}

lanes!(f32x4 4 f32x8 8);

/// A point or a way in space, or several side by side.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Triple<N> {
    pub(crate) x: N,
    pub(crate) y: N,
    pub(crate) z: N,
}

impl From<Vec3> for Triple<f32> {
    #[inline(always)]
    fn from(vector: Vec3) -> Triple<f32> {
        Triple { x: vector.x, y: vector.y, z: vector.z }
    }
}

impl From<Triple<f32>> for Vec3 {
    #[inline(always)]
    fn from(triple: Triple<f32>) -> Vec3 {
        Vec3::new(triple.x, triple.y, triple.z)
    }
}

impl<N: Number> Triple<N> {
    #[inline(always)]
    pub(crate) fn dot(self, other: Self) -> N {
        self.x * other.x + self.y * other.y + self.z * other.z
    }

    #[inline(always)]
    pub(crate) fn cross(self, other: Self) -> Self {
        Triple {
            x: self.y * other.z - other.y * self.z,
            y: self.z * other.x - other.z * self.x,
            z: self.x * other.y - other.x * self.y,
        }
    }

    #[inline(always)]
    pub(crate) fn length(self) -> N {
        self.dot(self).root()
    }

    /// The one where the answer is yes, the other where it is no.
    #[inline(always)]
    pub(crate) fn pick(yes: N::Yes, one: Self, other: Self) -> Self {
        Triple {
            x: N::pick(yes, one.x, other.x),
            y: N::pick(yes, one.y, other.y),
            z: N::pick(yes, one.z, other.z),
        }
    }
}

impl<N: Number> Add for Triple<N> {
    type Output = Self;

    #[inline(always)]
    fn add(self, other: Self) -> Self {
        Triple { x: self.x + other.x, y: self.y + other.y, z: self.z + other.z }
    }
}

impl<N: Number> Sub for Triple<N> {
    type Output = Self;

    #[inline(always)]
    fn sub(self, other: Self) -> Self {
        Triple { x: self.x - other.x, y: self.y - other.y, z: self.z - other.z }
    }
}

impl<N: Number> Neg for Triple<N> {
    type Output = Self;

    #[inline(always)]
    fn neg(self) -> Self {
        Triple { x: -self.x, y: -self.y, z: -self.z }
    }
}

impl<N: Number> Mul<N> for Triple<N> {
    type Output = Self;

    #[inline(always)]
    fn mul(self, times: N) -> Self {
        Triple { x: self.x * times, y: self.y * times, z: self.z * times }
    }
}

impl<N: Number> Div<N> for Triple<N> {
    type Output = Self;

    #[inline(always)]
    fn div(self, by: N) -> Self {
        Triple { x: self.x / by, y: self.y / by, z: self.z / by }
    }
}
