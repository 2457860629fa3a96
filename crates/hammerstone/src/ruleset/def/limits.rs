//! The least and the most that damage may be, beside what the ruleset says.

/// The least and the most points of one damage type in one blow. The floor is for amounts above 0; where the two cross, the cap counts.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Limits {
    /// At least so many.
    pub floor: i64,
    /// At most so many.
    pub cap: i64,
}
