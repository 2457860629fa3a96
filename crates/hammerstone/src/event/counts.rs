//! Attempts, hits and refusals, counted.

use super::Gate;

/// Attempts, and what became of them, since the encounter began.
///
/// An attempt is one swing, one target and one tick in which they met.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Counts {
    /// Meetings in all.
    pub attempts: u64,
    /// Those that landed.
    pub hits: u64,
    pub(crate) refused: [u64; Gate::ALL.len()],
}

impl Counts {
    /// Those that `gate` refused.
    pub fn refused_by(&self, gate: Gate) -> u64 {
        self.refused[gate as usize]
    }

    /// Both together.
    pub fn plus(&self, other: &Counts) -> Counts {
        let mut sum =
            Counts { attempts: self.attempts + other.attempts, hits: self.hits + other.hits, ..*self };
        for (sum, more) in sum.refused.iter_mut().zip(other.refused) {
            *sum += more;
        }
        sum
    }

    /// Those that were refused, by any gate.
    pub fn refusals(&self) -> u64 {
        self.refused.iter().sum()
    }

    /// Refusals by gate, in the order of the gates, without those that refused nothing.
    pub fn refusals_by_gate(&self) -> impl Iterator<Item = (Gate, u64)> + '_ {
        Gate::ALL.into_iter().map(|gate| (gate, self.refused_by(gate))).filter(|&(_, count)| count > 0)
    }
}
