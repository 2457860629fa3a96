//! Numbers that are read in a fight, and amounts that are made of them.

use crate::Fixed;
use crate::ids::*;
use crate::terms::ValueSort;

/// One of the two combatants that a fact is about.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Party {
    /// The subject of the fact.
    Subject,
    /// The other party of the fact.
    Other,
}

impl Party {
    /// Both.
    pub const ALL: [Party; 2] = [Party::Subject, Party::Other];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            Party::Subject => "subject",
            Party::Other => "other",
        }
    }
}

/// What is read of health and other gauges.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Portion {
    /// The points that it has.
    Points,
    /// These as a share of the maximum, 0 to 1.
    Share,
    /// The maximum, in points.
    Maximum,
}

/// A number that rules read when they hear a fact.
///
/// What cannot be read, since the party is not there or the fact lacks the field, is 0 in an amount, and no comparison with it holds.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Reading {
    /// A field of the fact that holds a number, by its name in the feed.
    Field(WordId),
    /// Health of a party.
    Health(Party, Portion),
    /// A gauge of a party; none if its template has none of that name.
    Gauge(Party, GaugeId, Portion),
    /// A stat of a party.
    Stat(Party, StatId),
    /// A counter.
    Counter(CounterId),
    /// A counter of a party.
    CombatantCounter(Party, CombatantCounterId),
    /// A score.
    Score(ScoreId),
    /// How far the parties stand from each other, in metres, to the nearest centimetre.
    Distance,
}

/// What a hit that lands is known to be, beside the fields of `hit.landed`, where statuses are given for it: whether it was critical, how
/// far it was charged (0 to 1), and what the target's health lost.
pub const OF_A_HIT: [(&str, ValueSort); 3] =
    [("critical", ValueSort::Truth), ("charge", ValueSort::Exact), ("amount", ValueSort::Whole)];

/// A reading, and how often it counts.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Term {
    /// What is read.
    pub of: Reading,
    /// What it is multiplied by.
    pub times: Fixed,
}

/// An amount: a number, and readings that are added to it.
///
/// The sum is exact to four decimals; then come the floor, the cap and what is made of the amount. A sum below 0 is 0, unless it is
/// counted. Everything is read when the fact is heard, also for what happens later.
///
/// ```
/// use hammerstone::Fixed;
/// use hammerstone::flow::{Amount, Reading};
/// let mut b = hammerstone::Ruleset::builder(60);
/// let lost = Reading::Field(b.word("amount"));
/// // A quarter of what was dealt, and 8 at most.
/// let amount = Amount::of(lost, Fixed::ratio(1, 4)).cap(8);
/// assert_eq!(amount.readings().count(), 1);
/// ```
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Amount {
    pub(crate) base: Fixed,
    pub(crate) terms: Vec<Term>,
    pub(crate) floor: Option<i64>,
    pub(crate) cap: Option<i64>,
}

impl From<Fixed> for Amount {
    fn from(base: Fixed) -> Amount {
        Amount { base, ..Amount::default() }
    }
}

impl Amount {
    /// A reading times a number.
    pub fn of(reading: Reading, times: Fixed) -> Amount {
        Amount::default().plus(reading, times)
    }

    /// And a reading times a number.
    pub fn plus(mut self, reading: Reading, times: Fixed) -> Amount {
        self.terms.push(Term { of: reading, times });
        self
    }

    /// At least so much, in points.
    pub fn floor(mut self, points: i64) -> Amount {
        self.floor = Some(points);
        self
    }

    /// At most so much, in points.
    pub fn cap(mut self, points: i64) -> Amount {
        self.cap = Some(points);
        self
    }

    /// What is read, in the order in which it is added.
    pub fn readings(&self) -> impl Iterator<Item = Reading> {
        self.terms.iter().map(|term| term.of)
    }

    /// What it comes to, out of a value for each reading.
    pub(crate) fn worked_out(&self, values: &[Fixed]) -> Fixed {
        let sum =
            self.terms.iter().zip(values).fold(self.base, |sum, (term, &value)| sum + value * term.times);
        let raised = self.floor.map_or(sum, |floor| sum.max(Fixed::whole(floor)));
        self.cap.map_or(raised, |cap| raised.min(Fixed::whole(cap)))
    }
}
