//! What must hold for something to happen.

use super::*;
use crate::ruleset::def::{Party, Portion, Reading};

/// Which combatants are meant; what is not said does not matter.
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Group {
    /// Of this team.
    pub team: Option<TeamId>,
    /// Made from this template.
    pub template: Option<TemplateId>,
    /// Carrying all of these tags of their template: bit `n` for tag number `n`.
    pub tags: u64,
}

impl Group {
    /// Those of a team.
    pub fn team(team: TeamId) -> Group {
        Group { team: Some(team), ..Group::default() }
    }

    /// Those made from a template.
    pub fn template(template: TemplateId) -> Group {
        Group { template: Some(template), ..Group::default() }
    }

    /// Those that also carry `tag`.
    pub fn tagged(mut self, tag: TagId) -> Group {
        self.tags |= tag.bit();
        self
    }
}

/// How deep conditions may lie in each other.
pub(crate) const DEEPEST: usize = 4;

/// Reading conditions out of bytes: they lie only so deep in each other, so that bytes of strangers cannot use up the stack.
#[cfg(feature = "serde")]
mod nesting {
    use std::cell::Cell;

    use serde::de::{Deserialize, Deserializer, Error};

    use super::DEEPEST;

    thread_local! {
        /// How deep the reader is on this thread. It is 0 again whenever a reader returns, and decides nothing else.
        static DEPTH: Cell<usize> = const { Cell::new(0) };
    }

    /// Leaves one level, however it is left.
    struct Level(usize);

    impl Drop for Level {
        fn drop(&mut self) {
            DEPTH.set(self.0);
        }
    }

    pub(super) fn read<'de, D: Deserializer<'de>, T: Deserialize<'de>>(from: D) -> Result<T, D::Error> {
        let level = Level(DEPTH.get());
        if level.0 >= DEEPEST {
            return Err(D::Error::custom("conditions lie too deep in each other"));
        }
        DEPTH.set(level.0 + 1);
        T::deserialize(from)
    }
}

/// What must hold for a rule to fire, looked at when it hears the fact.
///
/// A comparison with what cannot be read, since the party is not there or the fact lacks the field, does not hold.
#[derive(Clone, PartialEq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Condition {
    /// All of these hold.
    All(#[cfg_attr(feature = "serde", serde(deserialize_with = "nesting::read"))] Vec<Condition>),
    /// Any of these holds.
    Any(#[cfg_attr(feature = "serde", serde(deserialize_with = "nesting::read"))] Vec<Condition>),
    /// This does not hold.
    Not(#[cfg_attr(feature = "serde", serde(deserialize_with = "nesting::read"))] Box<Condition>),
    /// A party of the fact is one of these.
    Is(Party, Group),
    /// A reading is from one number to another.
    Between(Reading, Fixed, Fixed),
    /// Two readings compare so.
    Compare(Reading, Comparison, Reading),
    /// A flag of a party is up, or down.
    CombatantFlag(Party, CombatantFlagId, bool),
    /// A party has a swing that is in this phase; or none.
    Phase(Party, SwingPhase),
    /// Nothing solid stands between the middles of the parties, or something does.
    Sight(bool),
    /// The fact is about this threshold.
    Threshold(ThresholdId),
    /// It was crossed downwards, or upwards.
    Downwards(bool),
    /// What the fact counts went through a number: from below it to it or beyond, or from it or above to below it. The fact has `from` and
    /// `to`.
    Crossed(Fixed, Crossings),
    /// The fact is about this status.
    Status(StatusId),
    /// The fact is about this attack.
    Attack(AttackId),
    /// A flag is up, or down.
    Flag(FlagId, bool),
    /// The tick is from one to another.
    Time(u32, u32),
    /// The round is from one to another.
    Round(u32, u32),
    /// So many of a group stand, from one number to another.
    Alive(Group, u32, u32),
    /// None of a group stands, and none of it returns by itself.
    OutOfLives(Group),
    /// All waves of the sequence have come.
    WavesOver(WaveId),
    /// So many ticks ago there was a fact of a topic, by its path, before the one that is heard. One that has not come yet was endlessly long
    /// ago.
    Since(WordId, u32, u32),
    /// A field of the fact, by its name in the feed, holds this. All topics that the rule hears must have the field.
    Field(WordId, Held),
    /// A roll with this chance, from 0 to 1. It is rolled last: not where another condition fails.
    Chance(Fixed),
}

/// How two readings compare.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Comparison {
    /// The first is below the second.
    Below,
    /// The first is not above the second.
    AtMost,
    /// They are equal.
    Equals,
    /// The first is not below the second.
    AtLeast,
    /// The first is above the second.
    Above,
}

impl Comparison {
    /// All comparisons.
    pub const ALL: [Comparison; 5] =
        [Comparison::Below, Comparison::AtMost, Comparison::Equals, Comparison::AtLeast, Comparison::Above];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            Comparison::Below => "below",
            Comparison::AtMost => "at-most",
            Comparison::Equals => "is",
            Comparison::AtLeast => "at-least",
            Comparison::Above => "above",
        }
    }

    /// Whether two numbers compare so.
    pub fn holds(self, left: Fixed, right: Fixed) -> bool {
        match self {
            Comparison::Below => left < right,
            Comparison::AtMost => left <= right,
            Comparison::Equals => left == right,
            Comparison::AtLeast => left >= right,
            Comparison::Above => left > right,
        }
    }
}

/// In which direction a number is crossed.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Crossings {
    /// From below to it or above.
    Up,
    /// From it or above to below.
    Down,
    /// Either.
    Both,
}

impl Crossings {
    /// All of them.
    pub const ALL: [Crossings; 3] = [Crossings::Up, Crossings::Down, Crossings::Both];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            Crossings::Up => "up",
            Crossings::Down => "down",
            Crossings::Both => "both",
        }
    }
}

/// What a combatant is at.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum SwingPhase {
    /// It has no swing.
    Idle,
    /// A swing is being charged.
    Charging,
    /// Before the first window of a swing.
    Startup,
    /// A window is open.
    Active,
    /// Between two windows.
    Between,
    /// After the last window.
    Recovery,
}

impl SwingPhase {
    /// All of them.
    pub const ALL: [SwingPhase; 6] = [
        SwingPhase::Idle,
        SwingPhase::Charging,
        SwingPhase::Startup,
        SwingPhase::Active,
        SwingPhase::Between,
        SwingPhase::Recovery,
    ];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            SwingPhase::Idle => "idle",
            SwingPhase::Charging => "charging",
            SwingPhase::Startup => "startup",
            SwingPhase::Active => "active",
            SwingPhase::Between => "between",
            SwingPhase::Recovery => "recovery",
        }
    }
}

/// What a field of a fact holds.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Held {
    /// A number from one to another: a count, an amount, metres, metres a second. Numbers in single precision are taken to the nearest
    /// ten-thousandth.
    Between(Fixed, Fixed),
    /// Yes or no.
    Truth(bool),
    /// A word out of the field's list, or the name of what it names: a part, an attack, a counter.
    Word(WordId),
}

impl Condition {
    /// The subject's share of health is from one number to another.
    pub fn health(least: Fixed, most: Fixed) -> Condition {
        Condition::Between(Reading::Health(Party::Subject, Portion::Share), least, most)
    }

    /// A counter is from one number to another.
    pub fn counter(counter: CounterId, least: i64, most: i64) -> Condition {
        Condition::Between(Reading::Counter(counter), Fixed::whole(least), Fixed::whole(most))
    }

    /// A score is from one number to another.
    pub fn score(score: ScoreId, least: i64, most: i64) -> Condition {
        Condition::Between(Reading::Score(score), Fixed::whole(least), Fixed::whole(most))
    }

    /// The subject of the fact is one of these.
    pub fn subject(group: Group) -> Condition {
        Condition::Is(Party::Subject, group)
    }

    /// The other party of the fact is one of these.
    pub fn other(group: Group) -> Condition {
        Condition::Is(Party::Other, group)
    }

    /// This holds not.
    pub fn negated(self) -> Condition {
        Condition::Not(Box::new(self))
    }

    /// Those that lie directly in this one.
    pub fn inner(&self) -> &[Condition] {
        match self {
            Condition::All(inner) | Condition::Any(inner) => inner,
            Condition::Not(inner) => std::slice::from_ref(inner),
            _ => &[],
        }
    }

    /// This one and all that lie in it, each before those that lie in it. By their places in this order they are numbered.
    pub fn with_inner(&self) -> Vec<&Condition> {
        let mut all = vec![self];
        for inner in self.inner() {
            all.extend(inner.with_inner());
        }
        all
    }

    /// How deep others lie in it.
    pub(crate) fn depth(&self) -> usize {
        self.inner().iter().map(|inner| inner.depth() + 1).max().unwrap_or(0)
    }

    /// Whether it rolls.
    pub(crate) fn rolls(&self) -> bool {
        matches!(self, Condition::Chance(_)) || self.inner().iter().any(Condition::rolls)
    }

    /// What rolls comes last, at every depth.
    pub(crate) fn chances_last(conditions: &mut [Condition]) {
        for condition in &mut *conditions {
            match condition {
                Condition::All(inner) | Condition::Any(inner) => Condition::chances_last(inner),
                Condition::Not(inner) => Condition::chances_last(std::slice::from_mut(inner)),
                _ => {}
            }
        }
        conditions.sort_by_key(Condition::rolls);
    }

    /// The name in files.
    pub const fn name(&self) -> &'static str {
        match self {
            Condition::All(_) => "all",
            Condition::Any(_) => "any",
            Condition::Not(_) => "not",
            Condition::Is(party, _) | Condition::CombatantFlag(party, ..) | Condition::Phase(party, _) => {
                party.name()
            }
            Condition::Between(reading, ..) => match reading {
                Reading::Field(_) => "fact",
                Reading::Health(..) => "health",
                Reading::Gauge(..) => "gauges",
                Reading::Stat(..) => "stats",
                Reading::Counter(_) | Reading::CombatantCounter(..) => "counters",
                Reading::Score(_) => "scores",
                Reading::Distance => "distance",
            },
            Condition::Compare(..) => "compare",
            Condition::Sight(_) => "line-of-sight",
            Condition::Threshold(_) => "threshold",
            Condition::Downwards(_) => "direction",
            Condition::Crossed(..) => "crosses",
            Condition::Status(_) => "status",
            Condition::Attack(_) => "attack",
            Condition::Flag(..) => "flags",
            Condition::Time(..) => "time",
            Condition::Round(..) => "round",
            Condition::Alive(..) => "standing",
            Condition::OutOfLives(_) => "out-of-lives",
            Condition::WavesOver(_) => "waves-over",
            Condition::Since(..) => "since",
            Condition::Field(..) => "fact",
            Condition::Chance(_) => "chance",
        }
    }
}
