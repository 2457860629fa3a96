//! Values that are counted one by one, in whole ticks or points: exact sums and quantiles of any number of them, in little memory.

use std::collections::BTreeMap;

use super::points::Spread;

/// How many values are kept apart. With more, neighbours are counted as one.
const MOST: usize = 1 << 14;

/// How often each value came.
#[derive(Clone, PartialEq, Eq, Default, Debug)]
pub(crate) struct Histogram {
    /// By the value, without its lowest bits.
    counts: BTreeMap<i64, u64>,
    /// How many of the lowest bits are left out. It depends on the values alone, and not on their order.
    coarse: u32,
    count: u64,
    sum: i128,
}

impl Histogram {
    pub(crate) fn add(&mut self, value: i64) {
        self.count += 1;
        self.sum += i128::from(value);
        *self.counts.entry(value >> self.coarse).or_default() += 1;
        while self.counts.len() > MOST {
            self.coarse += 1;
            let mut counts = BTreeMap::new();
            for (value, count) in std::mem::take(&mut self.counts) {
                *counts.entry(value >> 1).or_default() += count;
            }
            self.counts = counts;
        }
    }

    /// How the values are spread, by the nearest rank, each divided by `unit`; of none there is none.
    pub(crate) fn spread(&self, unit: f64) -> Option<Spread> {
        if self.count == 0 {
            return None;
        }
        let rank = |tenths: u64| {
            // As many values as that are no greater; the product of two such numbers is more than one of them holds.
            let wanted = (u128::from(self.count) * u128::from(tenths)).div_ceil(10);
            let mut seen = 0u128;
            let found = self.counts.iter().find(|(_, count)| {
                seen += u128::from(**count);
                seen >= wanted
            });
            found.map_or(0.0, |(value, _)| (value << self.coarse) as f64 / unit)
        };
        Some(Spread {
            low: rank(1),
            middle: rank(5),
            high: rank(9),
            mean: self.sum as f64 / self.count as f64 / unit,
            within: ((1i64 << self.coarse) - 1) as f64 / unit,
        })
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// Quantiles are the values at their rank, and the mean is that of all; in any order.
        #[test]
        fn spreads_are_those_of_the_sorted_values(mut values in proptest::collection::vec(-50i64..5000, 1..400)) {
            let mut histogram = Histogram::default();
            values.iter().for_each(|&value| histogram.add(value));
            let spread = histogram.spread(4.0).unwrap();
            let mut turned = Histogram::default();
            values.iter().rev().for_each(|&value| turned.add(value));
            prop_assert_eq!(&turned, &histogram);
            values.sort_unstable();
            let at = |share: f64| values[((share * values.len() as f64).ceil() as usize).max(1) - 1] as f64 / 4.0;
            // The share times the count is a whole number in some cases; then rounding may take the next one.
            let exact = values.len() % 10 != 0;
            prop_assert!(!exact || (spread.low, spread.high) == (at(0.1), at(0.9)));
            prop_assert_eq!(spread.middle, at(0.5));
            let mean = values.iter().sum::<i64>() as f64 / values.len() as f64 / 4.0;
            prop_assert!((spread.mean - mean).abs() < 1.0e-9);
            prop_assert_eq!(spread.within, 0.0);
        }
    }

    /// More values than are kept apart are told to within what is said, whatever their order.
    #[test]
    fn many_values_are_counted_in_bounded_memory() {
        let far = |n: i64| (n * 7_919) % 1_000_003 - 400_000;
        let (mut up, mut down) = (Histogram::default(), Histogram::default());
        for n in 0..200_000 {
            up.add(far(n));
            down.add(far(199_999 - n));
        }
        assert_eq!(up, down);
        assert!(up.counts.len() <= MOST && up.counts.len() > MOST / 4);
        let spread = up.spread(1.0).unwrap();
        assert!(spread.within >= 63.0);
        let mut values: Vec<i64> = (0..200_000).map(far).collect();
        values.sort_unstable();
        for (found, place) in [(spread.low, 19_999), (spread.middle, 99_999), (spread.high, 179_999)] {
            let wanted = values[place] as f64;
            assert!(found <= wanted && wanted <= found + spread.within, "{found} {wanted}");
        }
        assert_eq!(spread.mean, values.iter().sum::<i64>() as f64 / 200_000.0);
        assert!(Histogram::default().spread(1.0).is_none());
    }
}
