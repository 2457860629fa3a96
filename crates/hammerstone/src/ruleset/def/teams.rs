//! How teams stand to each other.

/// How one team stands towards another.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Relation {
    /// The same team.
    Own,
    /// A friend.
    Ally,
    /// Someone to be struck; what two teams are unless the ruleset says otherwise.
    Foe,
    /// Neither: crates, bystanders.
    Neutral,
}

impl Relation {
    /// The relation's name in files and in the feed.
    pub const fn name(self) -> &'static str {
        match self {
            Relation::Own => "own",
            Relation::Ally => "ally",
            Relation::Foe => "foe",
            Relation::Neutral => "neutral",
        }
    }

    /// All relations.
    pub const ALL: [Relation; 4] = [Relation::Own, Relation::Ally, Relation::Foe, Relation::Neutral];
}

/// A set of relations: whom an attack strikes.
///
/// ```
/// use hammerstone::team::{Relation, Relations};
/// let strikes = Relations::FOES.and(Relation::Neutral);
/// assert!(strikes.has(Relation::Neutral) && !strikes.has(Relation::Ally));
/// ```
#[doc(alias("friendly fire", "faction"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Relations(u8);

impl Relations {
    /// No one.
    pub const NONE: Relations = Relations(0);
    /// Foes only.
    pub const FOES: Relations = Relations(1 << Relation::Foe as u8);
    /// Everybody, whatever the team.
    pub const ANY: Relations = Relations(0b1111);

    /// These and `relation`.
    pub const fn and(self, relation: Relation) -> Relations {
        Relations(self.0 | 1 << relation as u8)
    }

    /// Whether `relation` is among these.
    pub const fn has(self, relation: Relation) -> bool {
        self.0 & 1 << relation as u8 != 0
    }

    /// The relations in the set.
    pub fn iter(self) -> impl Iterator<Item = Relation> {
        Relation::ALL.into_iter().filter(move |&relation| self.has(relation))
    }
}
