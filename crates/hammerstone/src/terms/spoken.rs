//! What is said.

use crate::Fixed;
use crate::ids::*;

/// A line, and what its blanks stand for.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Spoken {
    /// The line.
    pub line: LineId,
    /// The two combatants that it is about; for a rule the parties of the fact.
    pub parties: [Option<CombatantId>; 2],
    /// Its numbers, in the order of its blanks; 0 for those that it has not.
    pub values: [Fixed; 4],
}

impl Spoken {
    /// A line without blanks.
    pub fn plain(line: LineId) -> Spoken {
        Spoken { line, parties: [None; 2], values: [Fixed::ZERO; 4] }
    }
}
