//! How sure a share or a mean of many runs is: intervals at 95 %.

use serde::Serialize;

/// The deviate of the normal distribution that 2.5 % lie beyond.
const Z: f64 = 1.959_963_984_540_054;

/// Between which values something lies, at 95 %.
#[derive(Clone, Copy, PartialEq, Debug, Serialize)]
pub struct Interval {
    /// The lower end.
    pub low: f64,
    /// The upper end.
    pub high: f64,
}

impl Interval {
    /// Whether a value lies in it.
    pub fn has(self, value: f64) -> bool {
        self.low <= value && value <= self.high
    }

    /// Half of its width.
    pub fn half(self) -> f64 {
        (self.high - self.low) / 2.0
    }

    /// Of a share that was found `count` times of `all`, by the score (Wilson, 1927); all of it where nothing was looked at.
    pub fn of_share(count: u64, all: u64) -> Interval {
        if all == 0 {
            return Interval { low: 0.0, high: 1.0 };
        }
        let (n, p, z2) = (all as f64, count as f64 / all as f64, Z * Z);
        let middle = (p + z2 / (2.0 * n)) / (1.0 + z2 / n);
        let half = Z / (1.0 + z2 / n) * (p * (1.0 - p) / n + z2 / (4.0 * n * n)).sqrt();
        Interval { low: (middle - half).max(0.0), high: (middle + half).min(1.0) }
    }

    /// Of a mean of these values, by Student's distribution; without bounds where there are fewer than two.
    pub fn of_mean(values: &[f64]) -> Interval {
        let n = values.len() as f64;
        if values.len() < 2 {
            return Interval { low: f64::NEG_INFINITY, high: f64::INFINITY };
        }
        let mean = values.iter().sum::<f64>() / n;
        let variance = values.iter().map(|value| (value - mean).powi(2)).sum::<f64>() / (n - 1.0);
        let half = deviate(n - 1.0) * (variance / n).sqrt();
        Interval { low: mean - half, high: mean + half }
    }

    /// Of how much larger the second of two shares is over the same seeds: it was there in the second only `gained` times, in the first only
    /// `lost` times, of `all`. By the normal distribution after half a run more of each sort (Agresti and Min, 2005), so that it is no point
    /// where no run differs.
    pub fn of_paired_shares(gained: usize, lost: usize, all: usize) -> Interval {
        let (n, b, c) = (all as f64 + 2.0, gained as f64 + 0.5, lost as f64 + 0.5);
        let (middle, half) = ((b - c) / n, Z * (((b + c) - (b - c).powi(2) / n).max(0.0)).sqrt() / n);
        Interval { low: (middle - half).max(-1.0), high: (middle + half).min(1.0) }
    }
}

/// The deviate of Student's distribution that 2.5 % lie beyond, for so many degrees of freedom, by an expansion (Abramowitz and Stegun,
/// 26.7.5), and by the table for the first four, where that is too coarse.
fn deviate(freedom: f64) -> f64 {
    if let Some(listed) = [12.706, 4.303, 3.182, 2.776].get(freedom as usize - 1) {
        return *listed;
    }
    let (z, z3, z5, z7) = (Z, Z.powi(3), Z.powi(5), Z.powi(7));
    z + (z3 + z) / (4.0 * freedom)
        + (5.0 * z5 + 16.0 * z3 + 3.0 * z) / (96.0 * freedom.powi(2))
        + (3.0 * z7 + 19.0 * z5 + 17.0 * z3 - 15.0 * z) / (384.0 * freedom.powi(3))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn intervals_are_those_of_the_tables() {
        let near = |one: f64, other: f64| assert!((one - other).abs() < 0.001, "{one} {other}");
        // Student's t at 97.5 %.
        for (freedom, wanted) in [(3.0, 3.182), (5.0, 2.571), (10.0, 2.228), (30.0, 2.042), (120.0, 1.980)] {
            assert!((deviate(freedom) - wanted).abs() < 0.004, "{freedom}: {}", deviate(freedom));
        }
        // 8 of 10, and none of 10, by the score.
        let some = Interval::of_share(8, 10);
        near(some.low, 0.490);
        near(some.high, 0.943);
        let none = Interval::of_share(0, 10);
        near(none.low, 0.0);
        near(none.high, 0.278);
        let mean = Interval::of_mean(&[4.0, 5.0, 6.0, 5.0]);
        near(mean.low, 5.0 - 3.182 * 0.8165 / 2.0);
        assert!(Interval::of_share(0, 0).has(0.5) && Interval::of_mean(&[1.0]).has(1.0e9));
        // No run differs: it is near zero, and no point.
        let same = Interval::of_paired_shares(0, 0, 100);
        assert!(same.has(0.0) && same.half() > 0.01 && same.half() < 0.05, "{same:?}");
        let gained = Interval::of_paired_shares(30, 5, 100);
        assert!(gained.low > 0.1 && gained.high < 0.4, "{gained:?}");
        assert_eq!(Interval::of_paired_shares(5, 30, 100).high, -gained.low);
    }
}
