//! What hooks are called with, and what they answer.

use crate::Fixed;
use crate::budget::Budget;
use crate::event::{Cause, Event, Fact, FactKey, Facts, Via};
use crate::ids::*;
use crate::orders::{Answer, Notes, Order, Orders, Queue};
use crate::ruleset::Modifier;
use crate::view::View;

use super::reach::{Audience, Ear, Ears, Reach};

/// What a hook is called with.
#[derive(Clone, Copy, Debug)]
pub struct Heard<'a> {
    /// The fact.
    pub fact: &'a Fact,
    /// Its event, for short.
    pub event: &'a Event,
    /// The number that is bound to the subscription by which it is heard ([`Listen::bound_to`](super::Listen::bound_to)).
    pub bound: u64,
    /// The tick's facts so far, with ledgers and assists.
    pub facts: Facts<'a>,
    /// The encounter as it stands now, which may be later than the fact.
    pub view: View<'a>,
}

/// What becomes of a fact that is shown before it is sure.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub enum Prediction {
    /// It came up for the first time.
    Shown,
    /// It is still there, and says something else, or names other ids: its tick is another, too.
    Changed,
    /// It has not happened after all. It is heard of no more.
    Retracted,
    /// It stands as it was last shown. It is heard of no more.
    Confirmed,
}

/// What a hook that shows is called with ([`super::Hooks::show`]).
#[derive(Clone, Copy, Debug)]
pub struct Predicted<'a> {
    /// What has become of the fact.
    pub what: Prediction,
    /// The number of the fact as this hook was shown it, from 1: the same in all calls that are about it.
    pub number: u64,
    /// In which tick it is: counted by the driver that rolls back, which a reset does not begin anew; without one that of the encounter.
    pub tick: u64,
    /// Its stable key, for games that compare theirs with another machine's.
    pub key: FactKey,
    /// The fact as it is now; of one that is retracted as it was.
    pub heard: Heard<'a>,
}

/// All that reached the hooks that react in one pass of a tick ([`super::Host::hear_all`]).
#[derive(Debug)]
pub struct Calls<'a> {
    /// In the order of hearing.
    pub(crate) reaches: &'a [Reach],
    pub(crate) by_topic: &'a [Audience],
    pub(crate) picked: &'a [Ear],
    pub(crate) facts: Facts<'a>,
    pub(crate) view: View<'a>,
    pub(crate) queue: Queue<'a>,
    pub(crate) budget: &'a mut Budget,
}

impl<'a> Calls<'a> {
    /// Makes the calls, in their order.
    #[inline]
    pub fn each(self, mut hear: impl FnMut(HookId, &Heard<'a>, &mut Orders<'_>)) {
        let Calls { reaches, by_topic, picked, facts, view, queue, budget } = self;
        let Some(first) = reaches.first() else { return };
        // Put together once: the slices of the tick are many, and the same for every call.
        let fact = &facts.facts[first.fact as usize];
        let mut heard = Heard { fact, event: &fact.event, bound: 0, facts, view };
        let answer = Answer { hook: HookId(0), heard: fact, root: 0, budget };
        let mut orders = Orders { queue, answer: Some(answer), notes: Notes::Off };
        for reach in reaches {
            let fact = &facts.facts[reach.fact as usize];
            (heard.fact, heard.event) = (fact, &fact.event);
            let ears = match reach.ears {
                Ears::All(topic) => &by_topic[topic.index()].ears[..],
                Ears::Picked { first, count } => &picked[first as usize..][..count as usize],
            };
            for &Ear { hook, bound, .. } in ears {
                heard.bound = bound;
                if let Some(answer) = &mut orders.answer {
                    (answer.hook, answer.heard, answer.root) = (hook, fact, fact.root);
                }
                hear(hook, &heard, &mut orders);
            }
        }
    }
}

/// A meeting that passed every other gate, before anything has come of it.
#[derive(Clone, Copy, Debug)]
pub struct HitContext<'a> {
    /// The swing.
    pub swing: SwingId,
    /// Its attack.
    pub attack: AttackId,
    /// Whose it is, if anyone's.
    pub attacker: Option<CombatantId>,
    /// The target.
    pub target: CombatantId,
    /// On which part, by its number.
    pub part: u16,
    /// The open window, from 1.
    pub window: u16,
    /// Where, in metres in the world.
    pub point: [f32; 3],
    /// Out of the target, of length 1.
    pub normal: [f32; 3],
    /// The encounter as it stands.
    pub view: View<'a>,
}

/// What an intercept says of an attempt.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
pub enum Verdict {
    /// It may land, as far as this intercept is concerned.
    #[default]
    Proceed,
    /// It is refused for this reason, and the swing has used up this turn at the target.
    Refuse(ReasonId),
    /// It is refused for this reason, and may be tried again in the next tick.
    Retry(ReasonId),
    /// It is refused, and the swing, or its body, ends here. A projectile flies back in the next tick, with the target's
    /// team and credit.
    Deflect,
}

/// What an intercept attaches to its verdict. Nothing of it takes place unless the hit lands.
#[derive(Debug)]
pub struct Terms<'a> {
    pub(crate) hook: HookId,
    pub(crate) kept: &'a mut KeptTerms,
}

/// What all intercepts attached so far.
#[derive(Clone, Debug, Default)]
pub(crate) struct KeptTerms {
    pub(crate) amends: Vec<Amendment>,
    pub(crate) costs: Vec<(HookId, Order)>,
}

impl KeptTerms {
    pub(crate) fn clear(&mut self) {
        self.amends.clear();
        self.costs.clear();
    }
}

/// A change of the amounts of one blow.
#[derive(Clone, Copy, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Amendment {
    /// Which hook makes it.
    pub hook: HookId,
    /// Of which damage type; none for all.
    pub damage_type: Option<DamageTypeId>,
    /// By how much.
    pub by: Modifier,
    /// What stands in the ledger.
    pub note: ReasonId,
}

impl Terms<'_> {
    /// From here on it is this hook that attaches terms, and that decides.
    pub fn by(&mut self, hook: HookId) {
        self.hook = hook;
    }

    /// Changes what the blow deals of every damage type, in the step `amended`; the note stands in the ledger.
    pub fn amend(&mut self, by: Modifier, note: ReasonId) {
        self.attach(Amendment { hook: self.hook, damage_type: None, by, note });
    }

    /// As [`amend`](Self::amend), for one damage type only.
    pub fn amend_damage_type(&mut self, damage_type: DamageTypeId, by: Modifier, note: ReasonId) {
        self.attach(Amendment { hook: self.hook, damage_type: Some(damage_type), by, note });
    }

    /// An order that is given when the hit lands, and carried out in a further pass of the tick.
    pub fn cost(&mut self, order: Order) {
        self.kept.costs.push((self.hook, order));
    }

    /// Changes the blow as an amendment says, whichever hook is deciding.
    pub fn attach(&mut self, amendment: Amendment) {
        self.kept.amends.push(amendment);
    }

    /// The hook that attaches terms now, and that decides.
    pub fn decides(&self) -> HookId {
        self.hook
    }

    /// The amendments that were attached so far, by whichever hook.
    pub fn amendments(&self) -> &[Amendment] {
        &self.kept.amends
    }

    /// The costs that were attached so far, and by which hooks.
    pub fn costs(&self) -> &[(HookId, Order)] {
        &self.kept.costs
    }
}

/// What a step of the host's own looks at.
#[derive(Clone, Copy, Debug)]
pub struct StepCall<'a> {
    /// The amount so far.
    pub amount: Fixed,
    /// The damage type; none for healing.
    pub damage_type: Option<DamageTypeId>,
    /// Who deals or heals, if anyone.
    pub source: Option<CombatantId>,
    /// Who is damaged or healed.
    pub target: CombatantId,
    /// By what.
    pub via: Via,
    /// On which part, by its number, for blows.
    pub part: Option<u16>,
    /// The encounter as it stands.
    pub view: View<'a>,
}

/// A moment at which a combatant is about to die.
#[derive(Clone, Copy, Debug)]
pub struct DeathAttempt<'a> {
    /// Who.
    pub target: CombatantId,
    /// The source, if there is one.
    pub source: Option<CombatantId>,
    /// By what.
    pub via: Via,
    /// The damage type that would do it.
    pub damage_type: DamageTypeId,
    /// How many points it comes to.
    pub amount: i64,
    /// The encounter as it stands; health is that before the blow.
    pub view: View<'a>,
}

impl DeathAttempt<'_> {
    /// How often a hook has prevented the death of the target in this life.
    pub fn prevented(&self, hook: HookId) -> u32 {
        self.view.combatants.prevents_death_by(self.target.slot(), Cause::Hook(hook))
    }
}
