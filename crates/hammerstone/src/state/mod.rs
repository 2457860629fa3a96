//! The state of an encounter: plain data that decides everything to come.
//!
//! It is cloned, compared bit for bit, hashed, saved and restored; scratch memory, kept elsewhere, decides nothing.

mod bearers;
mod chains;
mod combatants;
mod fight;
mod lists;
mod opened;
mod past;
mod places;
#[cfg(feature = "serde")]
mod validate;

pub(crate) use bearers::Bearers;
pub(crate) use chains::{Chain, Chains};
pub(crate) use combatants::{
    Afterlife, Combatants, Contributor, GaugeRow, HostChange, Newcomer, SIZES, ShieldRow, UsesRow,
};
pub(crate) use fight::{
    Application, Back, Captured, ChainStep, Charging, Child, Contact, Delayed, Fired, Flying, Hold, Pause,
    Press, Raised, Read, StruckEntry, Subscription, Swing, Tempo, WavesState,
};
pub(crate) use lists::Lists;
pub(crate) use opened::Opened;
pub(crate) use past::{Past, PastBody, PastTick};
pub(crate) use places::{BodyAt, EntryAt, StatusAt, SwingAt};
#[cfg(feature = "serde")]
pub(crate) use validate::validate;

use crate::columns::{Fills, columns, fills_its_size};
use crate::event::Counts;
use crate::geometry::Pose;
use crate::ids::*;
use crate::orders::{Pending, Registrar};
use crate::ruleset::Rules;
use crate::ruleset::def::{Group, Keep};
use crate::terms::Life;

/// The last tick: whatever is authored to last ends before there are no more numbers for ticks.
pub(crate) const LAST_TICK: u32 = u32::MAX - 500_000_000;

/// How far an encounter has come.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum Flow {
    #[default]
    Prepared,
    Running,
    /// An end was ordered; it takes place when the tick is over.
    Ending(OutcomeId),
    Ended(OutcomeId),
}

fills_its_size!(Flow, Counts, Epoch, Option<Keep>);

columns! {
    /// The whole state.
    pub(crate) struct State {
        pub(crate) seed: u64,
        /// The tick that runs or ran last; 0 before the first.
        pub(crate) tick: u32,
        pub(crate) flow: Flow,
        /// The number of the next fact.
        pub(crate) next_fact: u64,
        pub(crate) next_contact: u64,
        pub(crate) next_hit: u64,
        pub(crate) next_blow: u64,
        pub(crate) next_application: u64,
        pub(crate) registrar: Registrar,
        pub(crate) pending: Vec<Pending>,
        /// Poses that orders which wait name.
        pub(crate) given_poses: Vec<Pose>,
        /// Texts that orders which wait name, one after the other.
        pub(crate) given_text: Vec<u8>,
        pub(crate) combatants: Combatants,
        /// Running swings, and those that ended in this tick, by rising id.
        pub(crate) swings: Vec<Swing>,
        /// Chains whose next step may still be taken, by place of their combatant.
        pub(crate) steps: Vec<(CombatantId, ChainStep)>,
        /// Starts that came too early and wait, by place of their combatant.
        pub(crate) presses: Vec<(CombatantId, Press)>,
        /// Time scales, by place of their combatant.
        pub(crate) tempos: Vec<Tempo>,
        /// Who has a template that names a pool, whether it stands or not; by pool, then by id.
        pub(crate) pools: Vec<(PoolId, CombatantId)>,
        /// By rising number.
        pub(crate) holds: Vec<Hold>,
        pub(crate) next_hold: u64,
        /// Projectile bodies, by swing and number.
        pub(crate) flying: Vec<Flying>,
        /// Swings that begin in the next tick.
        pub(crate) children: Vec<Child>,
        /// By rising number.
        pub(crate) obstacles: Vec<Raised>,
        /// How often each attack was started by no one, or by one who is gone.
        pub(crate) unowned_starts: Vec<u32>,
        /// What swings know of their attackers.
        pub(crate) captured: Chains<Captured>,
        /// The struck lists.
        pub(crate) struck: Chains<StruckEntry>,
        pub(crate) contacts: Chains<Contact>,
        /// Where hitboxes are that the host guides.
        pub(crate) hitbox_poses: Chains<Pose>,
        /// Statuses that last, by rising number of application.
        pub(crate) applications: Vec<Application>,
        /// By rising id.
        pub(crate) subscriptions: Vec<Subscription>,
        /// By subscription, then by time.
        pub(crate) pauses: Vec<Pause>,
        /// The round, from 1.
        pub(crate) round: u32,
        pub(crate) flags: Vec<bool>,
        pub(crate) counters: Vec<i64>,
        pub(crate) scores: Vec<i64>,
        pub(crate) waves: Vec<WavesState>,
        /// What rules have fired, by rule; and in which life of whom, by combatant and rule.
        pub(crate) fired: Vec<Fired>,
        pub(crate) fired_in_life: Vec<(CombatantId, RuleId, u32)>,
        /// How often each rule has rolled, by subject of the facts and rule.
        pub(crate) rolled: Vec<(Option<CombatantId>, RuleId, u32)>,
        /// When there was last a fact of each topic that a rule asks for; 0 before the first.
        pub(crate) last_facts: Vec<u32>,
        /// What rules read when they heard the facts that they have yet to answer, by rising number of the fact.
        pub(crate) readings: Vec<Read>,
        /// What rules put off, in the order in which they did.
        pub(crate) delayed: Vec<Delayed>,
        /// Whether a reset was ordered; it takes place when the tick is over.
        pub(crate) resets: bool,
        /// The checksum of the state with which the first tick began, to which a reset returns; 0 before.
        pub(crate) first_fingerprint: u64,
        /// What health keeps of what a tuned ruleset changes, in the tick after it was adopted.
        pub(crate) adopted: Option<Keep>,
        /// Swings that end then, each with the window that was open.
        pub(crate) outdated: Vec<(SwingId, u16)>,
        /// Where targets were in the last ticks, where the ruleset rewinds.
        pub(crate) past: Past,
        /// Obstacles that let everything through.
        pub(crate) opened: Opened,
        pub(crate) counts: Counts,
    }
}

impl State {
    pub(crate) fn new(seed: u64, rules: &Rules) -> State {
        let mut state = State { seed, ..State::default() };
        (state.next_contact, state.next_hit, state.next_blow, state.next_application) = (1, 1, 1, 1);
        state.next_hold = 1;
        state.combatants.spawned = vec![0; rules.templates.len()];
        state.unowned_starts = vec![0; rules.attacks.len()];
        state.round = 1;
        state.flags = vec![false; rules.flags.len()];
        state.counters = vec![0; rules.counters.len()];
        state.scores = vec![0; rules.scores.len()];
        state.waves = vec![WavesState::default(); rules.waves.len()];
        state.last_facts = vec![0; rules.remembered.len()];
        state.fired = vec![Fired::default(); rules.rule_book.len()];
        state
    }

    /// How many of a group stand.
    pub(crate) fn standing(&self, rules: &Rules, group: &Group) -> usize {
        let stands = |slot: &usize| self.combatants.life[*slot] == Life::Standing;
        (0..self.combatants.slots())
            .filter(stands)
            .filter(|&slot| self.combatants.is_of(rules, slot, group))
            .count()
    }

    /// What is attached to one who is in the encounter: by the host, or by the template.
    pub(crate) fn value_of(&self, rules: &Rules, who: CombatantId, value: ValueId) -> i64 {
        if !self.combatants.has_place(who) {
            return 0;
        }
        let attached = self.combatants.values.iter(who.slot());
        let template = rules.template(self.combatants.template[who.slot()]);
        let mut all = attached.chain(&template.values);
        all.find(|(of, _)| *of == value).map_or(0, |(_, amount)| *amount)
    }

    /// The chain's next step, for one who may still take it.
    pub(crate) fn step_of(&self, who: CombatantId) -> Option<ChainStep> {
        let place = self.steps.binary_search_by_key(&who, |(of, _)| *of).ok()?;
        Some(self.steps[place].1)
    }

    pub(crate) fn set_step(&mut self, who: CombatantId, step: Option<ChainStep>) {
        match (self.steps.binary_search_by_key(&who, |(of, _)| *of), step) {
            (Ok(place), Some(step)) => self.steps[place].1 = step,
            (Ok(place), None) => drop(self.steps.remove(place)),
            (Err(place), Some(step)) => self.steps.insert(place, (who, step)),
            (Err(_), None) => {}
        }
    }

    /// Whether a start of `attack` is a press for a chain that `subject` is in; whether one is waiting already.
    pub(crate) fn press(&self, subject: CombatantId, attack: AttackId, now: u32) -> Option<bool> {
        let step = self.step_of(subject)?;
        let is = (attack == step.opener || attack == step.next) && now < step.lapses;
        is.then_some(step.pressed.is_some())
    }

    /// The place of the first application of `status` that runs on `subject`.
    pub(crate) fn first_status(&self, subject: CombatantId, status: StatusId) -> Option<StatusAt> {
        let is = |&place: &StatusAt| {
            let application = &self.applications[place];
            application.status == status && application.runs()
        };
        self.statuses_on(subject).filter(is).last()
    }

    /// The statuses that run on the combatant in `slot`, the latest first.
    pub(crate) fn running_on(&self, slot: usize) -> impl Iterator<Item = &Application> {
        Bearers::from(self).running_on(slot)
    }

    /// The places of the statuses that `who` bears, also suspended ones, the latest first.
    pub(crate) fn statuses_on(&self, who: CombatantId) -> impl Iterator<Item = StatusAt> {
        Bearers::from(self).statuses_on(who)
    }

    /// Whether the clock of `who` stands in this tick.
    pub(crate) fn is_stopped(&self, who: CombatantId) -> bool {
        self.combatants.is_present(who) && self.combatants.stopped_until[who.slot()] >= self.tick
    }

    /// The team of one who is in the encounter.
    pub(crate) fn team_of(&self, source: Option<CombatantId>) -> Option<TeamId> {
        let present = source.filter(|&who| self.combatants.is_present(who))?;
        Some(self.combatants.team[present.slot()])
    }

    /// The place of a status that lasts, or ended in this tick.
    pub(crate) fn application_index(&self, id: ApplicationId) -> Option<StatusAt> {
        self.applications.binary_search_by_key(&id, |application| application.id).ok().map(StatusAt::new)
    }

    /// The status at `place` of the applications is over.
    pub(crate) fn end_application(&mut self, place: StatusAt) {
        let Application { id, subject, .. } = self.applications[place];
        self.applications[place].over = true;
        self.combatants.statuses_of.take(subject.slot(), |other| *other == id, |_| ());
    }

    /// The place in `flying` of a body that flies or ended in this tick.
    pub(crate) fn flying_index(&self, swing: SwingId, body: u16) -> Option<BodyAt> {
        let found = self.flying.binary_search_by_key(&(swing, body), |flying| (flying.swing, flying.body));
        found.ok().map(BodyAt::new)
    }

    /// The place in `swings` of a swing that runs or ended in this tick.
    pub(crate) fn swing_index(&self, id: SwingId) -> Option<SwingAt> {
        self.swings.binary_search_by_key(&id, |swing| swing.id).ok().map(SwingAt::new)
    }
}

/// The number in `counter`, which then moves on.
pub(crate) fn next(counter: &mut u64) -> u64 {
    *counter += 1;
    *counter - 1
}

/// Who shares a pool, whether it stands or not, by rising id.
pub(crate) fn sharers(
    pools: &[(PoolId, CombatantId)],
    pool: PoolId,
) -> impl Iterator<Item = CombatantId> + use<'_> {
    let from = pools.partition_point(|(of, _)| *of < pool);
    pools[from..].iter().take_while(move |(of, _)| *of == pool).map(|(_, who)| *who)
}
