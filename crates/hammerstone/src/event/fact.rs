//! An event with its place in the order of things, and the facts of a tick.

use super::{Counts, Event, FactKey, GatePassed, LedgerLine, Range, Text};
use crate::Fixed;
use crate::ids::*;

/// An event with its place in the order of things.
#[doc(alias("event", "message"))]
#[derive(Clone, Copy, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Fact {
    /// Counts every fact of the encounter, from 0; also those that are not written.
    pub seq: u64,
    /// The `seq` of the fact that led here, through an order of a hook.
    pub cause: Option<u64>,
    /// The hook or the rule whose order led here.
    pub by: Option<Listener>,
    /// The pass of the tick, 0 for the tick's own stages.
    pub pass: u16,
    /// How many orders of hooks lie between this fact and the tick's own stages.
    pub depth: u16,
    /// How many rules and hooks it reached.
    pub reached: u32,
    /// The root of the tick from which it follows; 0 for what the stages do by themselves. Its number means nothing beyond the tick.
    pub root: u32,
    /// Events.
    pub event: Event,
}

/// Facts are copied often: they stay small.
const _: () = assert!(size_of::<Fact>() <= 128 && size_of::<Event>() <= 96);

/// Who hears facts.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Listener {
    /// A rule of the ruleset.
    Rule(RuleId),
    /// A hook of the host.
    Hook(HookId),
}

/// A fact that reached someone.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Delivery {
    /// The fact.
    pub seq: u64,
    /// Who heard it.
    pub listener: Listener,
    /// By which subscription, for hooks.
    pub subscription: Option<SubscriptionId>,
    /// In which pass of the tick.
    pub pass: u16,
}

/// A rule that listens to a fact, and did not fire.
#[derive(Clone, Copy, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Declined {
    /// The fact.
    pub seq: u64,
    /// The rule.
    pub rule: RuleId,
    /// Why it did not.
    pub why: NotFired,
    /// The conditions that decided it, in [`Facts::losses`]; none where conditions held.
    pub losses: Range,
}

/// Why a rule that heard a fact did not fire.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum NotFired {
    /// A condition did not hold.
    Conditions,
    /// Its limit was spent.
    Limit,
    /// An earlier case of its choice fired.
    EarlierCase(RuleId),
}

/// A condition that did not hold although it should, or held although it should not.
#[derive(Clone, Copy, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Loss {
    /// Which one, of [all conditions](crate::flow::Rule::all_conditions) of the rule.
    pub condition: u16,
    /// Whether it should have held.
    pub wanted: bool,
    /// The numbers that it looked at, where it looked at any: a share, a count, a tick, 1 for up; the second where two are compared.
    pub found: [Option<Fixed>; 2],
}

/// A link of what led to an order: a hook heard the fact `seq` and ordered.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Link {
    /// The fact that was heard.
    pub seq: u64,
    /// The hook or the rule that heard it.
    pub by: Listener,
    /// The topic of the fact.
    pub topic: TopicId,
    /// The subject of the fact.
    pub subject: Option<CombatantId>,
}

/// What a guard took of a blow.
#[derive(Clone, Copy, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Guarded {
    /// The hit, if it was one.
    pub hit: Option<u64>,
    /// Who guards.
    pub subject: CombatantId,
    /// The status that guards.
    pub status: StatusId,
    /// What it took, in points.
    pub took: Fixed,
}

/// Events in one tick, with the tables that facts point into. Borrowed until the next tick.
#[doc(alias("event list"))]
#[derive(Clone, Copy, Debug, Default)]
pub struct Facts<'a> {
    /// How many resets there were before.
    pub epoch: u32,
    /// The tick, from 1; after a reset again.
    pub tick: u32,
    /// The facts, in order.
    pub facts: &'a [Fact],
    /// Lines of ledgers; empty unless [`crate::Encounter::keep_ledgers`] is on.
    pub ledger: &'a [LedgerLine],
    /// Assists of deaths.
    pub assists: &'a [CombatantId],
    /// Chains of cascades.
    pub chains: &'a [Link],
    /// What was attached to the dead.
    pub values: &'a [(ValueId, i64)],
    /// Who heard what, in the order of hearing; empty unless [`crate::Encounter::keep_deliveries`] is on.
    pub deliveries: &'a [Delivery],
    /// Which rules listened and did not fire, in the order of hearing; empty unless [`crate::Encounter::keep_deliveries`] is on.
    pub declined: &'a [Declined],
    /// What decided that they did not.
    pub losses: &'a [Loss],
    /// What each gate wanted and found that let a hit pass, in the order of facts and gates; empty unless
    /// [`crate::Encounter::keep_gates`] is on.
    pub gates: &'a [GatePassed],
    /// The stable keys of the facts, in their order; empty unless [`crate::Encounter::keep_keys`] is on.
    pub keys: &'a [FactKey],
    /// Texts of facts of the host's own, one after the other.
    pub text: &'a str,
    /// Facts of the host's own, by the orders that published them, in the order of facts.
    pub published: &'a [(OrderId, u64)],
    /// What guards took, blow by blow.
    pub guards: &'a [Guarded],
    /// Attempts, hits and refusals since the start.
    pub counts: Counts,
}

/// The facts of one tick with their tables, owned: what is written, sent and read.
#[derive(Clone, PartialEq, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub struct TickFacts {
    /// As [`Facts::epoch`].
    pub epoch: u32,
    /// As [`Facts::tick`].
    pub tick: u32,
    /// As [`Facts::facts`].
    pub facts: Vec<Fact>,
    /// As [`Facts::ledger`].
    pub ledger: Vec<LedgerLine>,
    /// As [`Facts::assists`].
    pub assists: Vec<CombatantId>,
    /// As [`Facts::chains`].
    pub chains: Vec<Link>,
    /// As [`Facts::values`].
    pub values: Vec<(ValueId, i64)>,
    /// As [`Facts::deliveries`].
    pub deliveries: Vec<Delivery>,
    /// As [`Facts::declined`].
    pub declined: Vec<Declined>,
    /// As [`Facts::losses`].
    pub losses: Vec<Loss>,
    /// As [`Facts::gates`].
    pub gates: Vec<GatePassed>,
    /// As [`Facts::keys`].
    pub keys: Vec<FactKey>,
    /// As [`Facts::text`].
    pub text: String,
    /// As [`Facts::published`].
    pub published: Vec<(OrderId, u64)>,
    /// As [`Facts::guards`].
    pub guards: Vec<Guarded>,
    /// As [`Facts::counts`].
    pub counts: Counts,
}

impl From<&Facts<'_>> for TickFacts {
    fn from(facts: &Facts<'_>) -> TickFacts {
        let Facts {
            epoch,
            tick,
            facts,
            ledger,
            assists,
            chains,
            values,
            deliveries,
            declined,
            losses,
            gates,
            keys,
            text,
            published,
            guards,
            counts,
        } = *facts;
        TickFacts {
            epoch,
            tick,
            facts: facts.to_vec(),
            ledger: ledger.to_vec(),
            assists: assists.to_vec(),
            chains: chains.to_vec(),
            values: values.to_vec(),
            deliveries: deliveries.to_vec(),
            declined: declined.to_vec(),
            losses: losses.to_vec(),
            gates: gates.to_vec(),
            keys: keys.to_vec(),
            text: text.to_owned(),
            published: published.to_vec(),
            guards: guards.to_vec(),
            counts,
        }
    }
}

impl TickFacts {
    /// Becomes a copy of `other`, in the memory that it has.
    pub(crate) fn copy_from(&mut self, other: &TickFacts) {
        let TickFacts {
            epoch,
            tick,
            facts,
            ledger,
            assists,
            chains,
            values,
            deliveries,
            declined,
            losses,
            gates,
            keys,
            text,
            published,
            guards,
            counts,
        } = other;
        (self.epoch, self.tick, self.counts) = (*epoch, *tick, *counts);
        self.facts.clone_from(facts);
        self.ledger.clone_from(ledger);
        self.assists.clone_from(assists);
        self.chains.clone_from(chains);
        self.values.clone_from(values);
        self.deliveries.clone_from(deliveries);
        self.declined.clone_from(declined);
        self.losses.clone_from(losses);
        self.gates.clone_from(gates);
        self.keys.clone_from(keys);
        self.text.clone_from(text);
        self.published.clone_from(published);
        self.guards.clone_from(guards);
    }

    /// The facts, borrowed.
    pub fn as_facts(&self) -> Facts<'_> {
        Facts {
            epoch: self.epoch,
            tick: self.tick,
            facts: &self.facts,
            ledger: &self.ledger,
            assists: &self.assists,
            chains: &self.chains,
            values: &self.values,
            deliveries: &self.deliveries,
            declined: &self.declined,
            losses: &self.losses,
            gates: &self.gates,
            keys: &self.keys,
            text: &self.text,
            published: &self.published,
            guards: &self.guards,
            counts: self.counts,
        }
    }
}

impl<'a> Facts<'a> {
    /// What decided that a rule did not fire.
    pub fn losses_of(&self, declined: &Declined) -> &'a [Loss] {
        declined.losses.of(self.losses)
    }

    /// The text of a field of a fact of this tick.
    pub fn text_of(&self, text: Text) -> &'a str {
        text.of(self.text.as_bytes()).unwrap_or_default()
    }

    /// How many rules and hooks the fact reached that an order published ([`crate::orders::Orders::publish`]); none if the order published none in this
    /// tick.
    pub fn reached_by(&self, order: OrderId) -> Option<u32> {
        let (_, seq) = self.published.iter().find(|(by, _)| *by == order)?;
        self.of(*seq).map(|fact| fact.reached)
    }

    /// The events, in order.
    pub fn events(&self) -> impl Iterator<Item = &'a Event> + use<'a> {
        self.facts.iter().map(|fact| &fact.event)
    }

    /// The fact of a number, if it is one of these.
    pub fn of(&self, seq: u64) -> Option<&'a Fact> {
        let place = self.facts.binary_search_by_key(&seq, |fact| fact.seq).ok()?;
        Some(&self.facts[place])
    }

    /// The ledger lines of a range; none where ledgers are not kept.
    pub fn ledger_of(&self, range: Range) -> &'a [LedgerLine] {
        range.of(self.ledger)
    }

    /// What each gate wanted and found that let the hit with the fact `seq` pass, in their order. Gates that ask nothing of its attack
    /// are left out, and of the three that ask for a standing target the first stands for all.
    pub fn gates_of(&self, seq: u64) -> &'a [GatePassed] {
        let gates = self.gates;
        &gates[gates.partition_point(|gate| gate.seq < seq)..gates.partition_point(|gate| gate.seq <= seq)]
    }

    /// The assists of a death.
    pub fn assists_of(&self, range: Range) -> &'a [CombatantId] {
        range.of(self.assists)
    }

    /// What was attached to one who died.
    pub fn values_of(&self, range: Range) -> &'a [(ValueId, i64)] {
        range.of(self.values)
    }

    /// The links of a cascade.
    pub fn chain_of(&self, range: Range) -> &'a [Link] {
        range.of(self.chains)
    }
}
