//! Exact decimal numbers for amounts: no float ever touches health.

use std::fmt;

/// How many steps one whole point has: four decimals.
const ONE: i64 = 10_000;

/// An exact decimal number with four places, kept in an `i64`.
///
/// *Units:* whatever the amount counts, mostly points of health or a plain multiplier.
/// *Overflow:* saturates at [`Fixed::MAX`] and [`Fixed::MIN`]; the ledger says so where it happens.
/// *Determinism:* whole-number arithmetic only, the same on every machine.
///
/// ```
/// use hammerstone::Fixed;
/// let weak_spot = Fixed::ratio(3, 2);
/// assert_eq!((Fixed::whole(13) * weak_spot).to_string(), "19.5000");
/// let mut sum: Fixed = ["0.25", "1.5"].into_iter().map(|text| text.parse::<Fixed>().unwrap()).sum();
/// sum += Fixed::from(2) / Fixed::try_from(0.5).unwrap();
/// assert_eq!(sum, Fixed::ratio(23, 4));
/// assert_eq!(sum.to_f64(), 5.75);
/// ```
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Fixed(i64);

impl Fixed {
    /// Nothing.
    pub const ZERO: Fixed = Fixed(0);
    /// One whole.
    pub const ONE: Fixed = Fixed(ONE);
    /// The largest number: about 922 million million.
    pub const MAX: Fixed = Fixed(i64::MAX);
    /// The smallest number.
    pub const MIN: Fixed = Fixed(i64::MIN);

    /// `points` whole points; saturates.
    pub const fn whole(points: i64) -> Fixed {
        Fixed(points.saturating_mul(ONE))
    }

    /// `part / whole`, rounded to the nearest fourth decimal, halves away from zero.
    /// A `whole` of 0 gives 0, so that a share of nothing is nothing.
    pub fn ratio(part: i64, whole: i64) -> Fixed {
        match part.checked_mul(ONE) {
            _ if whole == 0 => Fixed::ZERO,
            Some(product) => Fixed(divide_short(product, whole)),
            None => Fixed(divide(part as i128 * ONE as i128, whole as i128)),
        }
    }

    /// This number as a share of `whole`, rounded to the nearest fourth decimal, halves away from zero; 0 of a whole of 0.
    pub fn share_of(self, whole: Fixed) -> Fixed {
        Fixed::ratio(self.0, whole.0)
    }

    /// The number that counts ten-thousandths: `raw(15_000)` is 1.5.
    pub const fn raw(ten_thousandths: i64) -> Fixed {
        Fixed(ten_thousandths)
    }

    /// This number in ten-thousandths.
    pub const fn to_raw(self) -> i64 {
        self.0
    }

    /// The decimal written in `value`, if it is finite, fits, and has at most four decimals.
    ///
    /// For numbers that come out of files: 0.35 is read as exactly 0.3500.
    pub fn from_decimal(value: f64) -> Option<Fixed> {
        let scaled = value * ONE as f64;
        let near = scaled.round();
        let fits = near.abs() <= 9.0e15 && (scaled - near).abs() <= 1.0e-9 * scaled.abs().max(1.0);
        fits.then_some(Fixed(near as i64))
    }

    /// The nearest number in double precision, for displays. Never compute damage with it.
    pub fn to_f64(self) -> f64 {
        self.0 as f64 / ONE as f64
    }

    /// Without its sign; saturates.
    pub const fn abs(self) -> Fixed {
        Fixed(self.0.saturating_abs())
    }

    /// This number, or nothing if it is below.
    pub(crate) fn or_nothing(self) -> Fixed {
        if self.0 < 0 { Fixed::ZERO } else { self }
    }

    /// The whole number at or below this one.
    pub const fn floor(self) -> i64 {
        self.0.div_euclid(ONE)
    }

    /// The whole number at or above this one.
    pub const fn ceil(self) -> i64 {
        -(self.0.saturating_neg().div_euclid(ONE))
    }

    /// The nearest whole number, halves away from zero.
    pub fn nearest(self) -> i64 {
        divide_short(self.0, ONE)
    }

    /// Whether the number stands at one of its limits, which is where overflow ends.
    pub const fn is_saturated(self) -> bool {
        self.0 == i64::MAX || self.0 == i64::MIN
    }
}

/// As [`divide`], for what fits: most products do, and the machine divides them in one go.
fn divide_short(a: i64, b: i64) -> i64 {
    let (size, by) = (a.unsigned_abs(), b.unsigned_abs());
    // Neither sum nor quotient leaves an u64: a size is at most 2^63, and so is half of what it is divided by.
    let nearest = (size + by / 2) / by;
    let signed = if (a < 0) == (b < 0) { nearest as i128 } else { -(nearest as i128) };
    signed.clamp(i64::MIN as i128, i64::MAX as i128) as i64
}

/// `a / b` to the nearest whole number, halves away from zero, held within an `i64`.
fn divide(a: i128, b: i128) -> i64 {
    let (size, by) = (a.unsigned_abs(), b.unsigned_abs());
    let nearest = ((size + by / 2) / by) as i128;
    let signed = if (a < 0) == (b < 0) { nearest } else { -nearest };
    signed.clamp(i64::MIN as i128, i64::MAX as i128) as i64
}

impl std::ops::Add for Fixed {
    type Output = Fixed;
    fn add(self, other: Fixed) -> Fixed {
        Fixed(self.0.saturating_add(other.0))
    }
}

impl std::ops::Sub for Fixed {
    type Output = Fixed;
    fn sub(self, other: Fixed) -> Fixed {
        Fixed(self.0.saturating_sub(other.0))
    }
}

impl std::ops::Mul for Fixed {
    type Output = Fixed;
    fn mul(self, other: Fixed) -> Fixed {
        match self.0.checked_mul(other.0) {
            Some(product) => Fixed(divide_short(product, ONE)),
            None => Fixed(divide(self.0 as i128 * other.0 as i128, ONE as i128)),
        }
    }
}

/// To the nearest fourth decimal, halves away from zero; what is divided by 0 is 0, as a share of nothing is ([`Fixed::ratio`]).
impl std::ops::Div for Fixed {
    type Output = Fixed;
    fn div(self, other: Fixed) -> Fixed {
        Fixed::ratio(self.0, other.0)
    }
}

impl std::ops::Neg for Fixed {
    type Output = Fixed;
    fn neg(self) -> Fixed {
        Fixed(self.0.saturating_neg())
    }
}

macro_rules! assigned {
    ($($sort:ident $method:ident $sign:tt),*) => {$(
        impl std::ops::$sort for Fixed {
            fn $method(&mut self, other: Fixed) {
                *self = *self $sign other;
            }
        }
    )*};
}

assigned!(AddAssign add_assign +, SubAssign sub_assign -, MulAssign mul_assign *, DivAssign div_assign /);

macro_rules! from_whole_numbers {
    ($($whole:ty),*) => {$(
        impl From<$whole> for Fixed {
            fn from(points: $whole) -> Fixed {
                Fixed::whole(points.into())
            }
        }
    )*};
}

from_whole_numbers!(i8, i16, i32, u8, u16, u32);

impl std::iter::Sum for Fixed {
    fn sum<I: Iterator<Item = Fixed>>(all: I) -> Fixed {
        all.fold(Fixed::ZERO, |sum, one| sum + one)
    }
}

/// What is no exact number of four decimals.
#[derive(Clone, Copy, PartialEq, Eq, Debug, thiserror::Error)]
#[error("not a finite number of at most four decimals that fits; round it first")]
pub struct NotExact;

/// As [`Fixed::from_decimal`], up to 100 000 million: beyond, double precision does not tell one fourth decimal from the next.
impl TryFrom<f64> for Fixed {
    type Error = NotExact;
    fn try_from(value: f64) -> Result<Fixed, NotExact> {
        Fixed::from_decimal(value).filter(|fixed| fixed.0.abs() <= 1_000_000_000_000_000).ok_or(NotExact)
    }
}

/// A number as it is written, with at most four decimals: `12`, `-0.5`, `+1.2500`. Every number that is written so comes back.
impl std::str::FromStr for Fixed {
    type Err = NotExact;
    fn from_str(text: &str) -> Result<Fixed, NotExact> {
        let (negative, digits) = match text.as_bytes().first() {
            Some(b'-') => (true, &text[1..]),
            Some(b'+') => (false, &text[1..]),
            _ => (false, text),
        };
        let (whole, part) = digits.split_once('.').unwrap_or((digits, "0"));
        let plain = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
        if !plain(whole) || !plain(part) || part.len() > 4 {
            return Err(NotExact);
        }
        let number = |text: &str| text.parse::<i128>().map_err(|_| NotExact);
        let size = number(whole)?.checked_mul(ONE.into()).ok_or(NotExact)? + number(&format!("{part:0<4}"))?;
        let signed = if negative { -size } else { size };
        i64::try_from(signed).map(Fixed).map_err(|_| NotExact)
    }
}

impl fmt::Display for Fixed {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let size = self.0.unsigned_abs();
        let sign = if self.0 < 0 { "-" } else { "" };
        write!(f, "{sign}{}.{:04}", size / ONE as u64, size % ONE as u64)
    }
}

impl fmt::Debug for Fixed {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Display::fmt(self, f)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn decimals_are_read_exactly_or_not_at_all() {
        assert_eq!(Fixed::from_decimal(0.35), Some(Fixed::raw(3_500)));
        assert_eq!(Fixed::from_decimal(-1.0001), Some(Fixed::raw(-10_001)));
        for wrong in [0.00001, f64::NAN, f64::INFINITY, 1.0e17] {
            assert_eq!(Fixed::from_decimal(wrong), None, "{wrong}");
        }
    }

    #[test]
    fn short_and_long_division_agree() {
        let numbers =
            [0, 1, 4_999, 5_000, 10_000, 123_456_789, i64::MAX / 2, i64::MAX, i64::MIN + 1, i64::MIN];
        for a in numbers.into_iter().chain(numbers.map(i64::wrapping_neg)) {
            for b in numbers.into_iter().filter(|b| *b != 0) {
                assert_eq!(divide_short(a, b), divide(a.into(), b.into()), "{a} / {b}");
            }
        }
    }

    #[test]
    fn halves_round_away_from_zero_and_overflow_saturates() {
        assert_eq!(Fixed::raw(25_000).nearest(), 3);
        assert_eq!(Fixed::raw(-25_000).nearest(), -3);
        assert_eq!((Fixed::raw(-15_001).floor(), Fixed::raw(-15_001).ceil()), (-2, -1));
        assert_eq!(Fixed::MAX * Fixed::whole(2), Fixed::MAX);
        assert_eq!(Fixed::MIN * Fixed::whole(2), Fixed::MIN);
        assert!((Fixed::MAX + Fixed::ONE).is_saturated());
    }
}
