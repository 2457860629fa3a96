//! Facts: what became true, in the order in which it did.

mod cut;
mod fact;
mod gate;
mod host;
mod ledger;
mod why;

pub use cut::{CutAt, CutBy};
pub use fact::{Declined, Delivery, Fact, Facts, Link, Listener};
pub use gate::{Gate, Operand};
pub(crate) use host::HostTopic;
pub use host::{HostValue, ValueSort};
pub use ledger::{Cause, LedgerLine, LedgerStep, Note};
pub use why::{BarredBy, Echo, HealthChange, Range, SwingEnd, Via, Why};

use crate::Fixed;
use crate::ids::*;
use crate::ruleset::Policy;
use crate::topic;

/// Events. Each sort of event has fixed fields.
#[derive(Clone, Copy, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[expect(missing_docs, reason = "the fields are the feed's, and the page on the feed describes them once")]
pub enum Event {
    EncounterStarted,
    EncounterEnded {
        outcome: OutcomeId,
    },
    EncounterRound {
        round: u32,
    },
    /// Wave number `wave` of a sequence comes, with so many.
    EncounterWave {
        waves: WaveId,
        wave: u32,
        count: u32,
    },
    /// The encounter begins anew: the next tick is the first again.
    EncounterReset,
    /// Reactions at one place went beyond a limit and did not begin: so many. `chain` is what led to the first, the latest first.
    /// It comes once a tick for each place, and neither rules nor hooks hear it.
    EncounterCut {
        place: CutAt,
        by: CutBy,
        left_out: u32,
        depth: u16,
        chain: Range,
    },
    OrderRefused {
        order: OrderId,
        what: &'static str,
        subject: Option<CombatantId>,
        why: crate::Refusal,
    },
    CombatantJoined {
        subject: CombatantId,
        template: TemplateId,
        team: TeamId,
        health: i64,
        max: i64,
        life: u32,
    },
    CombatantAway {
        subject: CombatantId,
        why: Why,
    },
    CombatantReturned {
        subject: CombatantId,
        health: i64,
        max: i64,
        life: u32,
        why: Why,
    },
    /// A follower is told, once, that its leader has died or was removed.
    LeaderLost {
        subject: CombatantId,
        leader: CombatantId,
        why: Why,
    },
    CombatantRemoved {
        subject: CombatantId,
        why: Why,
    },
    AttackStarted {
        subject: Option<CombatantId>,
        attack: AttackId,
        swing: SwingId,
        policy: Policy,
    },
    AttackOpened {
        subject: Option<CombatantId>,
        attack: AttackId,
        swing: SwingId,
        window: u16,
    },
    AttackClosed {
        subject: Option<CombatantId>,
        attack: AttackId,
        swing: SwingId,
        window: u16,
    },
    AttackEnded {
        subject: Option<CombatantId>,
        attack: AttackId,
        swing: SwingId,
        why: SwingEnd,
    },
    /// The chain went on: `attack` starts as `swing`.
    AttackChained {
        subject: CombatantId,
        attack: AttackId,
        swing: SwingId,
    },
    /// The chain's input window closed without a press; `attack` would have been next.
    AttackLapsed {
        subject: CombatantId,
        attack: AttackId,
    },
    ContactMet {
        contact: ContactId,
        swing: SwingId,
        attacker: Option<CombatantId>,
        target: CombatantId,
        part: u16,
        point: [f32; 3],
        normal: [f32; 3],
        toi: f32,
    },
    /// Only for attacks that [tell it](crate::Attack::tells_held).
    ContactHeld {
        contact: ContactId,
        swing: SwingId,
        attacker: Option<CombatantId>,
        target: CombatantId,
        part: u16,
        point: [f32; 3],
        normal: [f32; 3],
    },
    ContactParted {
        contact: ContactId,
        swing: SwingId,
        attacker: Option<CombatantId>,
        target: CombatantId,
        part: u16,
        why: Why,
    },
    HitLanded {
        hit: u64,
        swing: SwingId,
        attack: AttackId,
        attacker: Option<CombatantId>,
        target: CombatantId,
        life: u32,
        part: u16,
        window: u16,
        /// The group of hitboxes, where groups have struck lists of their own.
        group: Option<u16>,
        /// The projectile, from 1.
        body: Option<u16>,
        point: [f32; 3],
        normal: [f32; 3],
    },
    /// Two swings met. Which of them ended, if any, follows.
    HitClashed {
        swing: SwingId,
        attack: AttackId,
        attacker: Option<CombatantId>,
        against: SwingId,
        target: Option<CombatantId>,
        point: [f32; 3],
        toi: f32,
    },
    /// An intercept turned a swing round; what flies back begins with the next tick.
    HitDeflected {
        swing: SwingId,
        attack: AttackId,
        attacker: Option<CombatantId>,
        target: CombatantId,
        part: u16,
        body: Option<u16>,
        point: [f32; 3],
        normal: [f32; 3],
    },
    /// The feed's rule holds here too: once for each swing, target and gate. All are counted.
    HitRefused {
        swing: SwingId,
        attack: AttackId,
        attacker: Option<CombatantId>,
        target: CombatantId,
        part: u16,
        gate: Gate,
        wanted: Operand,
        found: Operand,
    },
    DamageDealt {
        damage_type: DamageTypeId,
        blow: u64,
        hit: Option<u64>,
        source: Option<CombatantId>,
        target: CombatantId,
        via: Via,
        amount: i64,
        /// Whether the blow was critical.
        critical: bool,
        /// Whether it was passed on from another.
        echo: Option<Echo>,
        ledger: Range,
    },
    /// `excess` is what went beyond the maximum.
    HealApplied {
        source: Option<CombatantId>,
        target: CombatantId,
        via: Via,
        amount: i64,
        excess: i64,
        ledger: Range,
    },
    /// For the host to act on: `impulse` is how far the target is pushed, in metres in the world, over so many ticks.
    HitPushed {
        hit: u64,
        attacker: Option<CombatantId>,
        target: CombatantId,
        impulse: [f32; 3],
        ticks: u32,
    },
    /// Enough damage was gathered: so much.
    HitStaggered {
        hit: u64,
        attacker: Option<CombatantId>,
        target: CombatantId,
        gathered: Fixed,
    },
    /// The clock of `subject` stands for the next so many ticks; once for each side of a hit that stops.
    HitStopped {
        hit: u64,
        subject: CombatantId,
        other: Option<CombatantId>,
        ticks: u32,
    },
    /// A shield has so many points more, and so many in all.
    ShieldRaised {
        subject: CombatantId,
        shield: ShieldId,
        amount: i64,
        left: i64,
    },
    ShieldAbsorbed {
        subject: CombatantId,
        shield: ShieldId,
        amount: i64,
        left: i64,
    },
    ShieldBroken {
        subject: CombatantId,
        shield: ShieldId,
    },
    /// A shield ended with what brought it, and so many points with it.
    ShieldLapsed {
        subject: CombatantId,
        shield: ShieldId,
        amount: i64,
    },
    /// A guard has taken so much that it broke.
    GuardBroken {
        subject: CombatantId,
        status: StatusId,
        amount: Fixed,
    },
    /// A part lost its points, the last of them by a blow that came to so much.
    PartBroken {
        subject: CombatantId,
        part: u16,
        amount: i64,
    },
    HealthChanged {
        subject: CombatantId,
        from: i64,
        to: i64,
        max: i64,
        why: HealthChange,
    },
    /// Health went through a threshold.
    HealthCrossed {
        subject: CombatantId,
        threshold: ThresholdId,
        downwards: bool,
    },
    StatusApplied {
        application: ApplicationId,
        subject: CombatantId,
        source: Option<CombatantId>,
        status: StatusId,
        strength: Fixed,
        stacks: u16,
        ends: Option<u32>,
    },
    StatusRefreshed {
        application: ApplicationId,
        subject: CombatantId,
        status: StatusId,
        strength: Fixed,
        stacks: u16,
        ends: Option<u32>,
    },
    StatusStacked {
        application: ApplicationId,
        subject: CombatantId,
        status: StatusId,
        strength: Fixed,
        stacks: u16,
        ends: Option<u32>,
    },
    StatusPulsed {
        application: ApplicationId,
        subject: CombatantId,
        status: StatusId,
        strength: Fixed,
        stacks: u16,
    },
    StatusRefused {
        subject: CombatantId,
        source: Option<CombatantId>,
        status: StatusId,
        strength: Fixed,
        why: BarredBy,
    },
    /// Its bearer died or went away, and it waits for their return.
    StatusSuspended {
        application: ApplicationId,
        subject: CombatantId,
        status: StatusId,
        why: Why,
    },
    StatusResumed {
        application: ApplicationId,
        subject: CombatantId,
        status: StatusId,
        ends: Option<u32>,
    },
    StatusExpired {
        application: ApplicationId,
        subject: CombatantId,
        status: StatusId,
    },
    StatusLifted {
        application: ApplicationId,
        subject: CombatantId,
        status: StatusId,
        why: Why,
    },
    /// A death was prevented.
    CombatantSpared {
        subject: CombatantId,
        by: Cause,
    },
    CombatantDied {
        subject: CombatantId,
        team: TeamId,
        life: u32,
        killer: Option<CombatantId>,
        /// The root owner of the killer.
        credit: Option<CombatantId>,
        via: Via,
        assists: Range,
        overkill: i64,
        at: [f32; 3],
        /// How many lives are left, for those who have several.
        lives: Option<u32>,
        /// What was attached to it.
        values: Range,
    },
    FlagChanged {
        flag: FlagId,
        to: bool,
    },
    CounterChanged {
        counter: CounterId,
        from: i64,
        to: i64,
    },
    ScoreChanged {
        score: ScoreId,
        from: i64,
        to: i64,
        credit: Option<CombatantId>,
    },
    Said {
        line: LineId,
        subject: Option<CombatantId>,
    },
    RuleFired {
        rule: RuleId,
        subject: Option<CombatantId>,
        other: Option<CombatantId>,
    },
    /// A fact of the host's own. Its subject is the first combatant among the values, the other party the second.
    Host {
        topic: TopicId,
        values: [HostValue; 4],
    },
}

impl Event {
    /// The topic that the event is published under.
    pub fn topic(&self) -> TopicId {
        match self {
            Event::EncounterStarted => topic::ENCOUNTER_STARTED,
            Event::EncounterEnded { .. } => topic::ENCOUNTER_ENDED,
            Event::EncounterCut { .. } => topic::ENCOUNTER_CUT,
            Event::OrderRefused { .. } => topic::ORDER_REFUSED,
            Event::CombatantJoined { .. } => topic::COMBATANT_JOINED,
            Event::CombatantAway { .. } => topic::COMBATANT_AWAY,
            Event::CombatantReturned { .. } => topic::COMBATANT_RETURNED,
            Event::CombatantRemoved { .. } => topic::COMBATANT_REMOVED,
            Event::AttackStarted { .. } => topic::ATTACK_STARTED,
            Event::AttackOpened { .. } => topic::ATTACK_OPENED,
            Event::AttackClosed { .. } => topic::ATTACK_CLOSED,
            Event::AttackEnded { .. } => topic::ATTACK_ENDED,
            Event::AttackChained { .. } => topic::ATTACK_CHAINED,
            Event::AttackLapsed { .. } => topic::ATTACK_LAPSED,
            Event::ContactHeld { .. } => topic::CONTACT_HELD,
            Event::HitClashed { .. } => topic::HIT_CLASHED,
            Event::HitDeflected { .. } => topic::HIT_DEFLECTED,
            Event::ContactMet { .. } => topic::CONTACT_MET,
            Event::ContactParted { .. } => topic::CONTACT_PARTED,
            Event::HitLanded { .. } => topic::HIT_LANDED,
            Event::HitRefused { .. } => topic::HIT_REFUSED,
            Event::DamageDealt { damage_type, .. } => topic::damage(*damage_type),
            Event::HealApplied { .. } => topic::HEAL_APPLIED,
            Event::HealthChanged { .. } => topic::HEALTH_CHANGED,
            Event::StatusApplied { .. } => topic::STATUS_APPLIED,
            Event::HitPushed { .. } => topic::HIT_PUSHED,
            Event::HitStaggered { .. } => topic::HIT_STAGGERED,
            Event::HitStopped { .. } => topic::HIT_STOPPED,
            Event::ShieldRaised { .. } => topic::SHIELD_RAISED,
            Event::ShieldAbsorbed { .. } => topic::SHIELD_ABSORBED,
            Event::ShieldBroken { .. } => topic::SHIELD_BROKEN,
            Event::ShieldLapsed { .. } => topic::SHIELD_LAPSED,
            Event::GuardBroken { .. } => topic::GUARD_BROKEN,
            Event::PartBroken { .. } => topic::PART_BROKEN,
            Event::StatusStacked { .. } => topic::STATUS_STACKED,
            Event::StatusRefused { .. } => topic::STATUS_REFUSED,
            Event::StatusSuspended { .. } => topic::STATUS_SUSPENDED,
            Event::StatusResumed { .. } => topic::STATUS_RESUMED,
            Event::CombatantSpared { .. } => topic::COMBATANT_SPARED,
            Event::StatusRefreshed { .. } => topic::STATUS_REFRESHED,
            Event::StatusPulsed { .. } => topic::STATUS_PULSED,
            Event::StatusExpired { .. } => topic::STATUS_EXPIRED,
            Event::StatusLifted { .. } => topic::STATUS_LIFTED,
            Event::CombatantDied { .. } => topic::COMBATANT_DIED,
            Event::EncounterRound { .. } => topic::ENCOUNTER_ROUND,
            Event::EncounterWave { .. } => topic::ENCOUNTER_WAVE,
            Event::EncounterReset => topic::ENCOUNTER_RESET,
            Event::LeaderLost { .. } => topic::LEADER_LOST,
            Event::HealthCrossed { .. } => topic::HEALTH_CROSSED,
            Event::FlagChanged { .. } => topic::FLAG_CHANGED,
            Event::CounterChanged { .. } => topic::COUNTER_CHANGED,
            Event::ScoreChanged { .. } => topic::SCORE_CHANGED,
            Event::Said { .. } => topic::SAID,
            Event::RuleFired { .. } => topic::RULE_FIRED,
            Event::Host { topic, .. } => *topic,
        }
    }

    /// The subject of the event: the one it happens to, or the attacker of an attack.
    pub fn subject(&self) -> Option<CombatantId> {
        match *self {
            Event::EncounterStarted
            | Event::EncounterEnded { .. }
            | Event::EncounterCut { .. }
            | Event::EncounterRound { .. }
            | Event::EncounterWave { .. }
            | Event::EncounterReset
            | Event::FlagChanged { .. }
            | Event::CounterChanged { .. } => None,
            Event::ScoreChanged { credit, .. } => credit,
            Event::Said { subject, .. } | Event::RuleFired { subject, .. } => subject,
            Event::Host { values, .. } => combatants_in(&values).next(),
            Event::OrderRefused { subject, .. }
            | Event::AttackStarted { subject, .. }
            | Event::AttackOpened { subject, .. }
            | Event::AttackClosed { subject, .. }
            | Event::AttackEnded { subject, .. } => subject,
            Event::HitClashed { target, .. } => target,
            Event::CombatantJoined { subject, .. }
            | Event::LeaderLost { subject, .. }
            | Event::HealthCrossed { subject, .. }
            | Event::CombatantAway { subject, .. }
            | Event::CombatantReturned { subject, .. }
            | Event::CombatantRemoved { subject, .. }
            | Event::AttackChained { subject, .. }
            | Event::AttackLapsed { subject, .. }
            | Event::HealthChanged { subject, .. }
            | Event::StatusApplied { subject, .. }
            | Event::HitStopped { subject, .. }
            | Event::ShieldRaised { subject, .. }
            | Event::ShieldAbsorbed { subject, .. }
            | Event::ShieldBroken { subject, .. }
            | Event::ShieldLapsed { subject, .. }
            | Event::GuardBroken { subject, .. }
            | Event::PartBroken { subject, .. }
            | Event::StatusStacked { subject, .. }
            | Event::StatusRefused { subject, .. }
            | Event::StatusSuspended { subject, .. }
            | Event::StatusResumed { subject, .. }
            | Event::CombatantSpared { subject, .. }
            | Event::StatusRefreshed { subject, .. }
            | Event::StatusPulsed { subject, .. }
            | Event::StatusExpired { subject, .. }
            | Event::StatusLifted { subject, .. }
            | Event::CombatantDied { subject, .. } => Some(subject),
            Event::ContactMet { target, .. }
            | Event::ContactHeld { target, .. }
            | Event::HitDeflected { target, .. }
            | Event::ContactParted { target, .. }
            | Event::HitLanded { target, .. }
            | Event::HitRefused { target, .. }
            | Event::HitPushed { target, .. }
            | Event::HitStaggered { target, .. }
            | Event::DamageDealt { target, .. }
            | Event::HealApplied { target, .. } => Some(target),
        }
    }

    /// The status that the event is about.
    pub fn status(&self) -> Option<StatusId> {
        match *self {
            Event::StatusApplied { status, .. }
            | Event::StatusRefreshed { status, .. }
            | Event::StatusStacked { status, .. }
            | Event::StatusPulsed { status, .. }
            | Event::StatusRefused { status, .. }
            | Event::StatusSuspended { status, .. }
            | Event::StatusResumed { status, .. }
            | Event::StatusExpired { status, .. }
            | Event::StatusLifted { status, .. }
            | Event::GuardBroken { status, .. } => Some(status),
            _ => None,
        }
    }

    /// The attack that the event is about.
    pub fn attack(&self) -> Option<AttackId> {
        match *self {
            Event::AttackStarted { attack, .. }
            | Event::AttackOpened { attack, .. }
            | Event::AttackClosed { attack, .. }
            | Event::AttackEnded { attack, .. }
            | Event::AttackChained { attack, .. }
            | Event::AttackLapsed { attack, .. }
            | Event::HitLanded { attack, .. }
            | Event::HitClashed { attack, .. }
            | Event::HitDeflected { attack, .. }
            | Event::HitRefused { attack, .. } => Some(attack),
            _ => None,
        }
    }

    /// The other party: who attacked, dealt, healed, applied or killed.
    pub fn other(&self) -> Option<CombatantId> {
        match *self {
            Event::ContactMet { attacker, .. }
            | Event::ContactHeld { attacker, .. }
            | Event::ContactParted { attacker, .. }
            | Event::HitLanded { attacker, .. }
            | Event::HitClashed { attacker, .. }
            | Event::HitDeflected { attacker, .. }
            | Event::HitPushed { attacker, .. }
            | Event::HitStaggered { attacker, .. }
            | Event::HitRefused { attacker, .. } => attacker,
            Event::DamageDealt { source, .. }
            | Event::HealApplied { source, .. }
            | Event::StatusRefused { source, .. }
            | Event::StatusApplied { source, .. } => source,
            Event::HitStopped { other, .. } => other,
            Event::CombatantDied { killer, .. } => killer,
            Event::LeaderLost { leader, .. } => Some(leader),
            Event::RuleFired { other, .. } => other,
            Event::Host { values, .. } => combatants_in(&values).nth(1),
            _ => None,
        }
    }
}

fn combatants_in(values: &[HostValue; 4]) -> impl Iterator<Item = CombatantId> {
    values.iter().filter_map(|value| if let HostValue::Who(who) = *value { Some(who) } else { None })
}
