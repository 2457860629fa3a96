//! What the fields of facts hold, and what is known of each.

use crate::terms::Spoken;
use std::num::NonZeroU32;

use super::{
    BarredBy, Cause, CutAt, CutBy, Echo, Gate, GaugeWhy, HealthChange, HostValue, Moved, Operand, Range,
    SwingEnd, Text, Via, Why,
};
use crate::Fixed;
use crate::geometry::Pose;
use crate::ids::*;
use crate::level::InLevel;
use crate::named::named;
use crate::ruleset::def::{FormKind, Policy, Tactic};
use crate::terms::{OrderKind, Refusal};

/// A marker for what a run counted so far: attempts, hits, and refusals by gate. It stands in [`Facts::counts`](super::Facts::counts).
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct CountsSoFar;

named! {
    /// In which direction health crossed a threshold.
    pub enum Crossing {
        /// Upwards: health was at it or below, and is above.
        Up = "up",
        /// Downwards.
        Down = "down",
    }
}

/// What a field of a fact holds, for writers that know nothing of the fact itself.
#[derive(Clone, Copy, PartialEq, Debug)]
#[non_exhaustive]
pub enum FieldValue {
    /// A combatant.
    Combatant(CombatantId),
    /// An attack.
    Attack(AttackId),
    /// A swing.
    Swing(SwingId),
    /// A contact.
    Contact(ContactId),
    /// An application of a status.
    Application(ApplicationId),
    /// An order.
    Order(OrderId),
    /// A status.
    Status(StatusId),
    /// A shield.
    Shield(ShieldId),
    /// A team.
    Team(TeamId),
    /// A template.
    Template(TemplateId),
    /// A damage type.
    DamageType(DamageTypeId),
    /// An obstacle.
    Obstacle(ObstacleId),
    /// A shape of the level, and which triangle of it.
    InLevel(InLevel),
    /// A gauge beside health.
    Gauge(GaugeId),
    /// A threshold of health.
    Threshold(ThresholdId),
    /// An outcome.
    Outcome(OutcomeId),
    /// A flag.
    Flag(FlagId),
    /// A counter.
    Counter(CounterId),
    /// A flag that each combatant has.
    CombatantFlag(CombatantFlagId),
    /// A counter that each combatant has.
    CombatantCounter(CombatantCounterId),
    /// A score.
    Score(ScoreId),
    /// A sequence of waves.
    Waves(WaveId),
    /// What is said.
    Spoken(Spoken),
    /// A rule.
    Rule(RuleId),
    /// A topic of the host's own.
    Topic(TopicId),
    /// A part of the fact's subject, by its number.
    Part(u16),
    /// A count, a number or a tick.
    Number(u64),
    /// A whole number with its sign.
    Whole(i64),
    /// An exact number.
    Exact(Fixed),
    /// Yes or no.
    Truth(bool),
    /// A share of the tick, 0 to 1.
    Share(f32),
    /// A place, a direction or a way.
    Vector([f32; 3]),
    /// A place and a turn.
    Pose(Pose),
    /// Tags: bit `n` for tag number `n`.
    Tags(u64),
    /// A word out of a closed list.
    Word(&'static str),
    /// A name that the ruleset knows, in a topic of the host's own.
    Name(WordId),
    /// Which policy a swing's struck lists follow.
    Policy(Policy),
    /// Why an order was refused.
    Refusal(Refusal),
    /// One of the two values that disagreed at a gate.
    Operand(Operand),
    /// Why a status was refused.
    BarredBy(BarredBy),
    /// How damage or healing came about.
    Via(Via),
    /// What brought a change about.
    Cause(Cause),
    /// The place at which reactions were cut.
    CutAt(CutAt),
    /// Lines of the ledger.
    Ledger(Range),
    /// Combatants that get an assist.
    Assists(Range),
    /// What led to a cut.
    Chain(Range),
    /// What was attached to the dead.
    Values(Range),
    /// What the run counted so far.
    Counts,
    /// The values of a topic of the host's own.
    Host([HostValue; 4]),
    /// A text of the tick.
    Text(Text),
    /// Lines of a table of the tick; the tags of the field say of which.
    Range(Range),
}

impl FieldValue {
    /// The combatant, if it is one.
    pub const fn combatant(&self) -> Option<CombatantId> {
        if let FieldValue::Combatant(who) = *self { Some(who) } else { None }
    }

    /// The attack, if it is one, or damage, healing or a death by one.
    pub const fn attack(&self) -> Option<AttackId> {
        match *self {
            FieldValue::Attack(attack) | FieldValue::Via(Via::Attack(attack)) => Some(attack),
            _ => None,
        }
    }

    /// The number, if it is one; one in single precision to the nearest ten-thousandth.
    pub fn number(&self) -> Option<Fixed> {
        match *self {
            FieldValue::Number(number) => i64::try_from(number).ok().map(Fixed::whole),
            FieldValue::Whole(number) => Some(Fixed::whole(number)),
            FieldValue::Exact(number) => Some(number),
            // Single precision has no number that is not within these, but for those that are none.
            FieldValue::Share(number) if number.abs() < 1.0e9 => {
                Some(Fixed::raw((f64::from(number) * 10_000.0).round() as i64))
            }
            _ => None,
        }
    }

    /// The status, if it is one, or damage, healing or a death by one.
    pub const fn status(&self) -> Option<StatusId> {
        match *self {
            FieldValue::Status(status) | FieldValue::Via(Via::Status(status)) => Some(status),
            _ => None,
        }
    }
}

/// A type that a field of a fact may have.
pub trait FieldType: Copy {
    /// What it is called in tables of fields.
    const NAME: &'static str;
    /// The type as Rust code that uses this crate writes it.
    const CODE: &'static str;
    /// The words of a closed list.
    const WORDS: &'static [&'static str] = &[];
    /// Whether there may be none.
    const OPTIONAL: bool = false;
    /// What the feed writes beside the field itself.
    const BESIDE: &'static [&'static str] = &[];
    /// What the feed writes in place of the field itself, if it is not written under its own name.
    const INSTEAD: &'static [&'static str] = &[];

    /// The value; none where there is none.
    fn value(self) -> Option<FieldValue>;
}

impl<T: FieldType> FieldType for Option<T> {
    const NAME: &'static str = T::NAME;
    const CODE: &'static str = T::CODE;
    const OPTIONAL: bool = true;
    const WORDS: &'static [&'static str] = T::WORDS;
    const BESIDE: &'static [&'static str] = T::BESIDE;
    const INSTEAD: &'static [&'static str] = T::INSTEAD;

    fn value(self) -> Option<FieldValue> {
        self?.value()
    }
}

macro_rules! field_types {
    ($($type:ty, $name:literal $(beside $beside:literal)* $(instead [$($instead:literal)*])? $(of $words:expr)? => |$value:ident| $to:expr;)*) => {$(
        impl FieldType for $type {
            const NAME: &'static str = $name;
            const CODE: &'static str = stringify!($type);
            const BESIDE: &'static [&'static str] = &[$($beside),*];
            $(const INSTEAD: &'static [&'static str] = &[$($instead),*];)?
            $(const WORDS: &'static [&'static str] = $words;)?

            fn value(self) -> Option<FieldValue> {
                let $value = self;
                Some($to)
            }
        }
    )*};
}

field_types! {
    CombatantId, "combatant" => |value| FieldValue::Combatant(value);
    AttackId, "attack" => |value| FieldValue::Attack(value);
    SwingId, "number" => |value| FieldValue::Swing(value);
    ContactId, "number" => |value| FieldValue::Contact(value);
    ApplicationId, "number" => |value| FieldValue::Application(value);
    ObstacleId, "obstacle" => |value| FieldValue::Obstacle(value);
    InLevel, "shape" beside "triangle" => |value| FieldValue::InLevel(value);
    OrderId, "number" => |value| FieldValue::Order(value);
    StatusId, "status" => |value| FieldValue::Status(value);
    ShieldId, "shield" => |value| FieldValue::Shield(value);
    TeamId, "team" => |value| FieldValue::Team(value);
    TemplateId, "template" => |value| FieldValue::Template(value);
    DamageTypeId, "damage type" => |value| FieldValue::DamageType(value);
    ThresholdId, "threshold" => |value| FieldValue::Threshold(value);
    GaugeId, "gauge" => |value| FieldValue::Gauge(value);
    OutcomeId, "outcome" => |value| FieldValue::Outcome(value);
    FlagId, "flag" => |value| FieldValue::Flag(value);
    CounterId, "counter" => |value| FieldValue::Counter(value);
    CombatantFlagId, "flag" => |value| FieldValue::CombatantFlag(value);
    CombatantCounterId, "counter" => |value| FieldValue::CombatantCounter(value);
    ScoreId, "score" => |value| FieldValue::Score(value);
    WaveId, "waves" => |value| FieldValue::Waves(value);
    Spoken, "text" beside "team" beside "lasts" beside "category" => |value| FieldValue::Spoken(value);
    RuleId, "rule" => |value| FieldValue::Rule(value);
    TopicId, "topic" => |value| FieldValue::Topic(value);
    Text, "text" => |value| FieldValue::Text(value);
    NonZeroU32, "number" => |value| FieldValue::Number(value.get().into());
    u64, "number" => |value| FieldValue::Number(value);
    u32, "number" => |value| FieldValue::Number(value.into());
    u16, "number" => |value| FieldValue::Number(value.into());
    i64, "number" => |value| FieldValue::Whole(value);
    Fixed, "exact number" => |value| FieldValue::Exact(value);
    bool, "true or false" => |value| FieldValue::Truth(value);
    f32, "number" => |value| FieldValue::Share(value);
    [f32; 3], "vector" => |value| FieldValue::Vector(value);
    Pose, "pose" instead ["at" "turn"] => |value| FieldValue::Pose(value);
    Range, "list" => |value| FieldValue::Range(value);
    FormKind, "form" of &FormKind::NAMES => |value| FieldValue::Word(value.name());
    Policy, "policy" beside "every" of &["once", "window", "interval", "life"] => |value| FieldValue::Policy(value);
    OrderKind, "order" => |value| FieldValue::Word(value.name());
    Refusal, "reason" beside "ticks" => |value| FieldValue::Refusal(value);
    SwingEnd, "reason" of &SwingEnd::NAMES => |value| FieldValue::Word(value.name());
    Why, "reason" => |value| FieldValue::Word(value.name());
    GaugeWhy, "reason" of &GaugeWhy::NAMES => |value| FieldValue::Word(value.name());
    HealthChange, "reason" of &HealthChange::NAMES => |value| FieldValue::Word(value.name());
    BarredBy, "reason" => |value| FieldValue::BarredBy(value);
    Gate, "gate" of &Gate::NAMES => |value| FieldValue::Word(value.name());
    Operand, "text" => |value| FieldValue::Operand(value);
    Moved, "word" of &Moved::NAMES => |value| FieldValue::Word(value.name());
    Echo, "word" of &Echo::NAMES => |value| FieldValue::Word(value.name());
    Tactic, "word" of &Tactic::NAMES => |value| FieldValue::Word(value.name());
    Crossing, "word" of &Crossing::NAMES => |value| FieldValue::Word(value.name());
    CutBy, "limit" of &CutBy::NAMES => |value| FieldValue::Word(value.name());
    Via, "word" beside "name" of &["attack", "status", "host", "rule"] => |value| FieldValue::Via(value);
    Cause, "word" beside "name" of &["template", "status", "host", "hook"] => |value| FieldValue::Cause(value);
    CutAt, "place" instead ["rule" "hook" "status" "attack" "template" "host" "on"] => |value| FieldValue::CutAt(value);
    CountsSoFar, "counts" instead ["attempts" "hits" "refusals"] => |_value| FieldValue::Counts;
    [HostValue; 4], "values" instead [] => |value| FieldValue::Host(value);
}

/// What else is known of a field.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[non_exhaustive]
pub enum Tag {
    /// It says which thing the fact is about: the same in a run that went another way.
    Identity,
    /// It says how it went.
    Content,
    /// Its combatant is the fact's subject.
    Subject,
    /// Its combatant is the fact's other party.
    Other,
    /// The fact belongs to this attack.
    Attack,
    /// The fact belongs to this status.
    Status,
    /// The fact belongs to this damage type, and so does its topic; the feed does not repeat it.
    DamageType,
    /// A tick, from 1.
    Tick,
    /// A number of ticks.
    Ticks,
    /// Whole points.
    Points,
    /// Metres, in the world.
    Metres,
    /// Of length 1, in the world.
    Direction,
    /// A share of the tick.
    TickShare,
    /// Metres.
    Length,
    /// Metres a second.
    Speed,
    /// Counted from 0 in code, and from 1 wherever it is written.
    FromOne,
    /// A part of the fact's subject, by its number.
    Part,
    /// Tags: bit `n` for tag number `n`.
    TagBits,
    /// Lines of the tick's ledgers.
    Ledger,
    /// Some of the tick's assists.
    Assists,
    /// Some of the tick's links of reactions.
    Chain,
    /// Some of the values that were attached to the dead.
    Values,
    /// The feed leaves it out where it is false.
    WhenTrue,
    /// The feed leaves it out.
    Unwritten,
}

/// What is known of a field of a fact.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct FieldInfo {
    /// Its name in code.
    pub name: &'static str,
    /// Its name in the feed.
    pub key: &'static str,
    /// What it means; with a space before it.
    pub(super) doc: &'static str,
    pub(super) type_name: &'static str,
    /// Its type in Rust, without the option around it.
    pub code: &'static str,
    /// The words that it may hold, where there is a closed list.
    pub words: &'static [&'static str],
    /// Whether it may be absent.
    pub optional: bool,
    pub(super) beside: &'static [&'static str],
    pub(super) instead: &'static [&'static str],
    /// What else is known of it.
    pub tags: &'static [Tag],
}

impl FieldInfo {
    /// Whether it holds a number that can be compared.
    pub fn is_number(&self) -> bool {
        let numbers = ["u64", "NonZeroU32", "u32", "u16", "i64", "Fixed", "f32"];
        numbers.contains(&self.code) && !self.tags.contains(&Tag::Part)
    }

    /// Whether it names something that a ruleset or a closed list has a word for.
    pub fn is_named(&self) -> bool {
        const NAMED: [&str; 19] = [
            "AttackId",
            "StatusId",
            "GaugeId",
            "ShieldId",
            "TeamId",
            "TemplateId",
            "DamageTypeId",
            "ThresholdId",
            "OutcomeId",
            "FlagId",
            "CounterId",
            "CombatantFlagId",
            "CombatantCounterId",
            "ScoreId",
            "WaveId",
            "Spoken",
            "RuleId",
            "Via",
            "Policy",
        ];
        NAMED.contains(&self.code)
    }

    /// What it means.
    pub fn meaning(&self) -> &'static str {
        self.doc.trim()
    }

    /// Whether it has this tag.
    pub fn is(&self, tag: Tag) -> bool {
        self.tags.contains(&tag)
    }

    /// Its unit; none for what has none.
    pub fn unit(&self) -> Option<&'static str> {
        self.tags.iter().find_map(|tag| match tag {
            Tag::Tick => Some("tick, from 1"),
            Tag::Ticks => Some("ticks"),
            Tag::Points => Some("points"),
            Tag::Metres => Some("metres, in the world"),
            Tag::Direction => Some("of length 1, in the world"),
            Tag::TickShare => Some("0 to 1 of the tick"),
            Tag::Length => Some("metres"),
            Tag::Speed => Some("metres a second"),
            Tag::FromOne => Some("from 1"),
            _ => None,
        })
    }

    /// What it holds, in a word.
    pub fn sort(&self) -> &'static str {
        let of_tag = self.tags.iter().find_map(|tag| match tag {
            Tag::Part => Some("part"),
            Tag::TagBits => Some("list of tags"),
            Tag::Ledger => Some("list of ledger lines"),
            Tag::Assists => Some("list of combatants"),
            Tag::Chain => Some("list of links"),
            Tag::Values => Some("values by name"),
            _ => None,
        });
        of_tag.unwrap_or(self.type_name)
    }

    /// A value of this field as what it stands for.
    pub(super) fn read(&self, value: FieldValue) -> FieldValue {
        match value {
            FieldValue::Number(number) if self.is(Tag::FromOne) => FieldValue::Number(number + 1),
            FieldValue::Number(part) if self.is(Tag::Part) => FieldValue::Part(part as u16),
            FieldValue::Number(bits) if self.is(Tag::TagBits) => FieldValue::Tags(bits),
            FieldValue::Range(range) => {
                let of_tag = self.tags.iter().find_map(|tag| match tag {
                    Tag::Ledger => Some(FieldValue::Ledger(range)),
                    Tag::Assists => Some(FieldValue::Assists(range)),
                    Tag::Chain => Some(FieldValue::Chain(range)),
                    Tag::Values => Some(FieldValue::Values(range)),
                    _ => None,
                });
                of_tag.unwrap_or(value)
            }
            value => value,
        }
    }

    /// The names under which the feed writes it; none if it does not.
    pub fn keys(&self) -> impl Iterator<Item = &'static str> {
        let written = !self.is(Tag::Unwritten) && !self.is(Tag::DamageType);
        let own = (written && self.instead.is_empty() && self.type_name != "values").then_some(self.key);
        own.into_iter().chain(self.instead.iter().copied()).chain(self.beside.iter().copied())
    }
}
