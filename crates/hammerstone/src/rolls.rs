//! Chance as a pure function: one more roll elsewhere changes nothing here.

use xxhash_rust::xxh3::xxh3_64;

/// What a roll is for. Two purposes at one blow never share a roll.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Purpose {
    /// The base amount, drawn from its range.
    Base = 1,
    /// Whether a blow is critical.
    Critical = 2,
    /// The amount of healing, drawn from its range.
    Heal = 3,
    /// Whether a condition with a chance holds.
    Chance = 4,
    /// What the host rolls for itself.
    Host = 5,
}

/// The occasion of a roll: all that it depends on beside the seed, the damage type and the purpose.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Occasion {
    /// The stable key of the attacker (see [`crate::orders::Orders::spawn`]); 0 for damage without one.
    pub(crate) attacker: u64,
    /// The stable key of what the attacker used, and how often it has started it.
    pub(crate) via: u64,
    pub(crate) start: u64,
    pub(crate) target: u64,
    /// Which hit of this swing, or pulse of this status, at this target.
    pub(crate) ordinal: u64,
}

impl Occasion {
    /// What its rolls have in common. Each part is folded in by the finishing step of SplitMix64
    /// (Steele, Lea and Flood, "Fast splittable pseudorandom number generators", 2014).
    pub(crate) fn drawn(&self, seed: u64) -> Drawn {
        let parts = [self.attacker, self.via, self.start, self.target, self.ordinal];
        Drawn(parts.iter().fold(mix(seed), |so_far, &part| fold(so_far, part)))
    }

    /// As [`Drawn::whole`].
    pub(crate) fn whole(&self, seed: u64, damage_type: u64, purpose: Purpose, low: i64, high: i64) -> i64 {
        self.drawn(seed).whole(damage_type, purpose, low, high)
    }
}

/// An occasion under a seed: all that its rolls have in common.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Drawn(u64);

impl Drawn {
    /// A whole number from `low` to `high`, both included, each equally likely
    /// to within one part in 2^64 / (high − low).
    pub(crate) fn whole(self, damage_type: u64, purpose: Purpose, low: i64, high: i64) -> i64 {
        let bits = fold(fold(self.0, damage_type), purpose as u64);
        let span = (high as i128 - low as i128 + 1) as u128;
        (low as i128 + ((bits as u128 * span) >> 64) as i128) as i64
    }
}

/// One step of the folding of [`Occasion::drawn`].
pub(crate) fn fold(so_far: u64, part: u64) -> u64 {
    mix(so_far ^ mix(part))
}

fn mix(value: u64) -> u64 {
    let z = value.wrapping_add(0x9E37_79B9_7F4A_7C15);
    let z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    let z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
    z ^ (z >> 31)
}

/// The stable key of a name: the same in every ruleset that uses it.
pub(crate) fn name_key(name: &str) -> u64 {
    xxh3_64(name.as_bytes())
}

/// The stable key of the `ordinal`-th combatant made from a template.
pub(crate) fn spawn_key(template: u64, ordinal: u64) -> u64 {
    mix(template ^ mix(ordinal))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_range_is_filled_evenly_and_never_left() {
        let mut seen = [0u32; 5];
        for ordinal in 0..50_000 {
            let occasion = Occasion { attacker: 1, via: 2, start: 3, target: 4, ordinal };
            seen[(occasion.whole(7, 0, Purpose::Base, 12, 16) - 12) as usize] += 1;
        }
        assert!(seen.iter().all(|&n| (9_500..10_500).contains(&n)), "{seen:?}");
    }
}
