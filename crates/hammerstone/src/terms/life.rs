//! Between joining and removal.

/// Where a combatant stands between joining and removal.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Life {
    /// In the fight.
    Standing,
    /// Dead, and lying where it died.
    Dead,
    /// Out of the fight for a while.
    Away,
    /// Removed, or never there.
    #[default]
    Gone,
}

impl Life {
    /// The state's name in the feed.
    pub const fn name(self) -> &'static str {
        match self {
            Life::Standing => "standing",
            Life::Dead => "dead",
            Life::Away => "away",
            Life::Gone => "gone",
        }
    }
}
