//! What can be wrong with a ruleset. `build()` gives all of it at once.

use std::fmt;

use crate::Fixed;

/// Where in a ruleset something is wrong.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Place {
    /// The sort of entry: `rules`, `amount`, `attack`, `template`, `status`, `stat`, `shield`, `team`.
    pub sort: &'static str,
    /// The entry's name; empty where there is only one.
    pub name: String,
    /// What in the entry: `timeline`, `damage`, a part's name…
    pub field: String,
}

impl fmt::Display for Place {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.sort)?;
        if !self.name.is_empty() {
            write!(f, " `{}`", self.name)?;
        }
        if !self.field.is_empty() {
            write!(f, ", {}", self.field)?;
        }
        Ok(())
    }
}

/// What is wrong, with the value that is wrong and how to fix it.
#[derive(Clone, PartialEq, Debug, thiserror::Error)]
pub enum Problem {
    /// A name stands twice where each may stand once.
    #[error("the name is taken; give this one another")]
    TakenName,
    /// A name is empty.
    #[error("the name is empty; give it one")]
    NoName,
    /// An id does not belong to this ruleset.
    #[error("{what} number {index} is not in this ruleset; use an id that this builder gave")]
    UnknownId {
        /// Which sort of id.
        what: &'static str,
        /// Its index.
        index: usize,
    },
    /// More entries than ids.
    #[error("{count} is more than the {most} that there may be")]
    TooMany {
        /// How many there are.
        count: usize,
        /// How many there may be.
        most: usize,
    },
    /// A number is infinite or not a number.
    #[error("{value} is not a finite number")]
    NotFinite {
        /// The number.
        value: f32,
    },
    /// A number in single precision is larger than it may be: farther, faster or larger than anything.
    #[error("{value} exceeds {most}; keep within that")]
    TooLarge {
        /// The number.
        value: f32,
        /// The largest that it may be.
        most: f32,
    },
    /// Markers end a marked attack; there is nothing for a recovery to follow.
    #[error(
        "a marked attack has no recovery: its last marker ends it; take `recovery` out, or place that marker later"
    )]
    RecoveryUnused,
    /// A number is outside its range.
    #[error("{value} is outside {least} to {most}")]
    OutOfRange {
        /// The number.
        value: i64,
        /// The least that it may be.
        least: i64,
        /// The most that it may be.
        most: i64,
    },
    /// An exact number is outside its range.
    #[error("{value} is outside {least} to {most}")]
    ShareOutOfRange {
        /// The number.
        value: Fixed,
        /// The least that it may be.
        least: Fixed,
        /// The most that it may be.
        most: Fixed,
    },
    /// A radius that is not above zero.
    #[error("the radius or half edge {radius} is not above zero; give it a size")]
    NoRadius {
        /// The radius.
        radius: f32,
    },
    /// A capsule whose two ends are one.
    #[error("the capsule has no length; use a sphere")]
    NoLength,
    /// A pose whose turn has no length.
    #[error("the turn has no length, or a number of the pose is not finite")]
    NoTurn,
    /// An attack without a hitbox touches nothing.
    #[error("there is no hitbox, so it can hit nothing; add one")]
    NoHitbox,
    /// Hitboxes of an attack that has other means.
    #[error("a {0} attack has no hitboxes of its own; take them out")]
    HitboxesUnused(&'static str),
    /// A path of an attack that does not follow one.
    #[error("only a melee attack that the host does not guide follows a path; take it out")]
    PathUnused,
    /// Guidance of an attack that is not melee.
    #[error("only a melee attack can be guided")]
    OnlyMelee,
    /// A struck list for each body, of an attack without bodies.
    #[error("only a projectile attack has bodies with struck lists of their own")]
    OnlyProjectiles,
    /// A beam that goes nowhere.
    #[error("a beam needs a reach above zero and a radius not below zero; these are {reach} and {radius}")]
    NoReach {
        /// The reach.
        reach: f32,
        /// The radius.
        radius: f32,
    },
    /// Markers and a timeline.
    #[error("there are both markers and a timeline; keep one")]
    TwoTimelines,
    /// Markers for what has left the hand.
    #[error("markers cannot time a projectile or an area; give it a timeline")]
    MarkedNeedsHand,
    /// An attack that the ruleset does not have.
    #[error("there is no attack `{0}`")]
    UnknownAttack(String),
    /// A child that needs a body to carry it.
    #[error(
        "attack `{0}` needs a body to carry it, and a child has none; start a projectile, an area or a beam"
    )]
    NeedsBody(String),
    /// An attack without a timeline never opens.
    #[error("there is no window, so that it never opens; give it a timeline")]
    NoWindow,
    /// Keys of a path out of order.
    #[error("the key at tick {at} does not come after the one at tick {before}")]
    KeyOutOfOrder {
        /// The key's time.
        at: u32,
        /// The time of the one before.
        before: u32,
    },
    /// The least is above the most.
    #[error("the least, {low}, is above the most, {high}")]
    Reversed {
        /// The least.
        low: i64,
        /// The most.
        high: i64,
    },
    /// A step stands twice.
    #[error("the step `{0}` stands twice; keep one")]
    StepTwice(&'static str),
    /// A step is missing from its place.
    #[error("the step `{step}` must come {place}")]
    StepMissing {
        /// The step.
        step: &'static str,
        /// Where it must come.
        place: &'static str,
    },
    /// One that was promised and never added.
    #[error("its id was asked for, and it was never added; add it")]
    Promised,
    /// Statuses that bring each other back without an end.
    #[error("its grants on expiry lead back to itself; break the circle")]
    Circle,
    /// A grant on the expiry of what never expires.
    #[error(
        "it never expires, so that nothing is given then; say how long it lasts, or choose another occasion"
    )]
    NeverExpires,
    /// A topic or a family that no fact is published under.
    #[error("no fact is published under `{path}`; did you mean `{nearest}`?")]
    UnknownTopic {
        /// What was asked for.
        path: String,
        /// The path that is most like it.
        nearest: String,
    },
    /// A rule that does nothing.
    #[error("it does nothing; say what it does, or take it out")]
    DoesNothing,
    /// Waves that grow by a list without a size.
    #[error("the list of their sizes is empty; give one for each wave")]
    NoSizes,
    /// A brace in a line that has no like.
    #[error(
        "its text has a brace without its like; write `{{subject}}`, `{{other}}` or the name of a number in braces"
    )]
    StrayBrace,
    /// A line whose numbers are not as many as are given.
    #[error("the line has {count} numbers, and {given} are given; give one for each blank")]
    OtherBlanks {
        /// In the line.
        count: usize,
        /// Given.
        given: usize,
    },
    /// A status whose conditions can never hold.
    #[error("it is never given: {why}")]
    NeverGiven {
        /// Why not.
        why: &'static str,
    },
    /// Conditions that can never hold.
    #[error("it never holds: {why}")]
    NeverHolds {
        /// Why not.
        why: &'static str,
    },
    /// A rule that can never fire.
    #[error("it can never fire: {why}")]
    NeverFires {
        /// Why not.
        why: &'static str,
    },
    /// A cost of holding a charge, for an attack without one.
    #[error("it costs something to hold, and it has no charge")]
    NotCharged,
    /// A condition that lies too deep in others.
    #[error("conditions lie in each other at most {most} deep")]
    TooDeep {
        /// How deep they may lie.
        most: usize,
    },
    /// An amount of a rule that reads what is never there.
    #[error("there is never anything to read for its amount: {why}")]
    NeverRead {
        /// Why not.
        why: &'static str,
    },
    /// A step that damage cannot do without.
    #[error("the step `{step}` cannot be skipped")]
    NotSkipped {
        /// The step.
        step: &'static str,
    },
    /// A case of a choice that hears something else than the others.
    #[error("the cases of a choice hear the same topics at one priority")]
    OtherCase,
    /// An action that needs someone, of a rule whose facts are about no one.
    #[error("`{action}` is for the {party} of the fact, and the facts that it hears have none")]
    ForNobody {
        /// The action.
        action: &'static str,
        /// The subject or the other party.
        party: &'static str,
    },
    /// An action with a source that the facts do not have.
    #[error(
        "`{action}` is to be by the {party} of the fact, and the facts that it hears have none; write `by = \"nobody\"`"
    )]
    ByNobody {
        /// The action.
        action: &'static str,
        /// The subject or the other party.
        party: &'static str,
    },
    /// Waves without a place to come to.
    #[error("there is no spot to come to; name one")]
    NoSpot,
    /// A topic of the host's own elsewhere than under `host.`, or taken.
    #[error("a topic of the host's own begins with `host.`, and each path stands once")]
    NotOfHost,
    /// A value that a field does not take.
    #[error("value number {place} does not fit the field; the topic holds {fields}")]
    WrongValue {
        /// Which value, from 1.
        place: usize,
        /// What the topic holds.
        fields: String,
    },
    /// A thing is declared twice within an entry.
    #[error("`{0}` stands twice; keep one")]
    Twice(String),
}

/// One thing wrong, and where.
#[derive(Clone, PartialEq, Debug, thiserror::Error)]
#[error("{place}: {problem}")]
pub struct Finding {
    /// Where.
    pub place: Place,
    /// What.
    pub problem: Problem,
}

/// Everything that is wrong with a ruleset; never empty.
#[derive(Clone, PartialEq, Debug)]
pub struct Findings(pub Vec<Finding>);

impl fmt::Display for Findings {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        const SHOWN: usize = 100;
        write!(f, "the ruleset has {} finding(s)", self.0.len())?;
        self.0.iter().take(SHOWN).try_for_each(|finding| write!(f, "\n  {finding}"))?;
        match self.0.len().saturating_sub(SHOWN) {
            0 => Ok(()),
            more => write!(f, "\n  and {more} more"),
        }
    }
}

impl std::error::Error for Findings {}
