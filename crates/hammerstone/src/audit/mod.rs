//! The auditor: checks what always holds, from the facts of each tick.
//!
//! It keeps its own account from the facts alone, so that it can catch the state being wrong, and changes no byte of it.
//! Attach it in a debug build by calling [`Auditor::observe`] after every tick.
//!
//! ```
//! use hammerstone::audit::Auditor;
//! use hammerstone::prelude::*;
//! # let mut b = Ruleset::builder(60);
//! # let masons = b.team("masons");
//! # let mason = b.template(Template::new("mason", masons, 40));
//! # let rules = b.build().unwrap();
//! let mut fight = Encounter::new(&rules, 7);
//! let mut auditor = Auditor::new(&rules);
//! fight.orders().spawn(mason, Pose::IDENTITY);
//! fight.tick()?;
//! auditor.observe(&fight.facts());
//! auditor.compare(&fight.view());
//! assert_eq!(auditor.breaches(), []);
//! # Ok::<(), TickError>(())
//! ```

#[cfg(feature = "serde")]
pub use crate::encounter::{AnySeal, seal_again};

use crate::event::{
    AttackChained, AttackEnded, AttackOpened, AttackStarted, Cause, CombatantAway, CombatantDied,
    CombatantJoined, CombatantRemoved, CombatantReturned, CombatantSpared, CombatantSwitched,
    CombatantTransformed, ContactMet, ContactParted, DamageDealt, Event, Fact, Facts, Gate, GaugeChanged,
    GaugeEmpty, GaugeFull, GaugeWhy, GuardBroken, HealApplied, HealthChange, HealthChanged, HealthCrossed,
    HitLanded, HitPushed, HitRefused, HitStaggered, HitStopped, HoldBegan, HoldEnded, LeaderLost, LedgerLine,
    PartBroken, ShieldAbsorbed, ShieldLapsed, ShieldRaised, StatusApplied, StatusExpired, StatusLifted,
    StatusPulsed, StatusRefreshed, StatusRefused, StatusResumed, StatusStacked, StatusSuspended, Why,
};
use std::collections::{BTreeMap, BTreeSet};

use crate::Fixed;
use crate::ids::*;
use crate::ruleset::{Form, Group, Policy, Ruleset, Sharing};
use crate::terms::Life;
use crate::view::View;

mod amounts;
mod combatants;
mod holds;
mod statuses;
mod swings;

/// What always holds, as far as facts show it.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub enum Law {
    /// Never more hits than the struck list's policy allows, per swing and target, over all lives.
    StruckOnce,
    /// Nothing is done to the dead and nothing starts from it; one death per life; its ends follow at once.
    DeadReactToNothing,
    /// Attempts are hits and refusals; a refusal is published once for each swing, target and gate.
    AttemptsAddUp,
    /// Health is what it was, with heals and without damage; ledgers join up; health stays within its bounds.
    HealthAddsUp,
    /// Each contact that met parts once.
    MetAndParted,
    /// Each swing, each application of a status and each hold ends once.
    BegunAndEnded,
    /// Who stands is who joined and returned, without those who died, went away or were removed.
    WhoStands,
    /// Facts are counted without a gap, and no cascade goes deeper than the ruleset allows.
    InOrder,
}

/// A law that did not hold.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Breach {
    /// Which law.
    pub law: Law,
    /// In which tick.
    pub tick: u32,
    /// The fact that showed it, if one did.
    pub seq: Option<u64>,
    /// What was wrong.
    pub what: &'static str,
}

impl std::fmt::Display for Breach {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{} (law {:?}, tick {}", self.what, self.law, self.tick)?;
        match self.seq {
            Some(seq) => write!(f, ", fact {seq})"),
            None => write!(f, ")"),
        }
    }
}

/// What the auditor knows of one combatant.
#[derive(Clone, Copy, Debug)]
struct Account {
    health: i64,
    /// Dealt and healed since health last changed.
    due: i64,
    life: Life,
    /// Which life.
    number: u32,
    team: TeamId,
    template: TemplateId,
}

/// What the auditor knows of one swing.
#[derive(Clone, Copy, Debug)]
struct SwingAccount {
    attacker: Option<CombatantId>,
    attack: AttackId,
}

/// Checks the laws over the facts of an encounter, from its first tick on.
#[derive(Clone, Debug)]
pub struct Auditor {
    rules: Ruleset,
    next: u64,
    hits: u64,
    accounts: BTreeMap<CombatantId, Account>,
    deaths: BTreeSet<(CombatantId, u32)>,
    swings: BTreeMap<SwingId, SwingAccount>,
    ended_swings: BTreeSet<SwingId>,
    /// The tick of the last hit, by swing, target, life, struck list and window.
    struck: BTreeMap<(SwingId, CombatantId, u32, u16, u16), u32>,
    /// Hits of each projectile.
    by_body: BTreeMap<(SwingId, u16), u32>,
    refused: BTreeSet<(SwingId, CombatantId, Gate)>,
    contacts: BTreeMap<ContactId, (SwingId, CombatantId)>,
    parted: BTreeSet<ContactId>,
    applications: BTreeMap<ApplicationId, CombatantId>,
    ended_applications: BTreeSet<ApplicationId>,
    suspended: BTreeSet<ApplicationId>,
    shields: BTreeMap<(CombatantId, ShieldId), i64>,
    /// Who is held and who holds, by the number of the hold.
    holds: BTreeMap<u64, (CombatantId, CombatantId)>,
    gauges: BTreeMap<(CombatantId, GaugeId), i64>,
    /// Parts by bearer and life.
    broken_parts: BTreeSet<(CombatantId, u32, u16)>,
    spared: BTreeMap<(CombatantId, u32, Cause), u32>,
    breaches: Vec<Breach>,
    epoch: u32,
    /// Whether the encounter has ended its epoch.
    reset: bool,
    /// Where the check is, for what it finds.
    at: (u32, Option<u64>),
}

impl Auditor {
    /// An auditor of an encounter in which no tick has run.
    pub fn new(rules: &Ruleset) -> Auditor {
        Auditor {
            rules: rules.clone(),
            next: 0,
            hits: 0,
            accounts: BTreeMap::new(),
            deaths: BTreeSet::new(),
            swings: BTreeMap::new(),
            ended_swings: BTreeSet::new(),
            struck: BTreeMap::new(),
            by_body: BTreeMap::new(),
            refused: BTreeSet::new(),
            contacts: BTreeMap::new(),
            parted: BTreeSet::new(),
            applications: BTreeMap::new(),
            ended_applications: BTreeSet::new(),
            suspended: BTreeSet::new(),
            shields: BTreeMap::new(),
            holds: BTreeMap::new(),
            gauges: BTreeMap::new(),
            broken_parts: BTreeSet::new(),
            spared: BTreeMap::new(),
            breaches: Vec::new(),
            epoch: 0,
            reset: false,
            at: (0, None),
        }
    }

    /// What did not hold so far.
    pub fn breaches(&self) -> &[Breach] {
        &self.breaches
    }

    /// Takes in the facts of the next tick.
    pub fn observe(&mut self, facts: &Facts<'_>) {
        if facts.epoch != self.epoch {
            self.at = (facts.tick, None);
            let reset = std::mem::take(&mut self.reset) && facts.epoch == self.epoch + 1;
            self.must(reset, Law::InOrder, "the encounter began anew without a reset");
            let breaches = std::mem::take(&mut self.breaches);
            *self = Auditor { breaches, epoch: facts.epoch, ..Auditor::new(&self.rules) };
        }
        for fact in facts.facts {
            self.at = (facts.tick, Some(fact.seq));
            self.order(fact);
            self.dead(&fact.event);
            self.event(&fact.event, facts);
        }
        self.at = (facts.tick, None);
        self.of_pools();
        self.end_of_tick(facts);
    }

    /// Holds the auditor's own account against the encounter.
    pub fn compare(&mut self, view: &View<'_>) {
        self.at = (view.tick(), None);
        for (who, account) in self.accounts.clone() {
            let life = view.life(who);
            self.must(life == account.life, Law::WhoStands, "the state and the facts differ on who stands");
            if let Some((health, max)) = view.health(who) {
                self.must(
                    health == account.health,
                    Law::HealthAddsUp,
                    "the state and the facts differ on health",
                );
                self.must((0..=max).contains(&health), Law::HealthAddsUp, "health is out of its bounds");
            }
        }
        for ((who, gauge), points) in self.gauges.clone() {
            let same =
                view.gauge(who, gauge).is_none_or(|(now, max)| now == points && (0..=max).contains(&now));
            self.must(same, Law::HealthAddsUp, "the state and the facts differ on a gauge");
        }
        for team in self.rules.clone().teams() {
            let standing = |account: &&Account| account.team == team && account.life == Life::Standing;
            let count = self.accounts.values().filter(standing).count();
            self.must(count == view.standing(team), Law::WhoStands, "the number of those who stand differs");
        }
        let rules = self.rules.clone();
        for tag in rules.tags_in(u64::MAX) {
            let group = Group::default().tagged(tag);
            let tagged =
                |account: &&Account| rules.compiled().template(account.template).tags & tag.bit() != 0;
            let stands = |account: &&Account| account.life == Life::Standing && tagged(account);
            let count = self.accounts.values().filter(stands).count();
            let same = count == view.all_of(&group).count();
            self.must(same, Law::WhoStands, "the number of those who stand with a tag differs");
        }
    }

    fn must(&mut self, holds: bool, law: Law, what: &'static str) {
        if !holds {
            let (tick, seq) = self.at;
            self.breaches.push(Breach { law, tick, seq, what });
        }
    }

    fn order(&mut self, fact: &Fact) {
        self.must(fact.seq == self.next, Law::InOrder, "the count of facts has a gap");
        self.next = fact.seq + 1;
        let reports = matches!(fact.event, Event::EncounterCut(_));
        let deep = fact.depth > self.rules.compiled().cascade_depth && !reports;
        self.must(!deep, Law::InOrder, "a cascade went deeper than the ruleset allows");
    }

    fn event(&mut self, event: &Event, facts: &Facts<'_>) {
        self.of_combatants(event);
        self.of_swings(event);
        self.of_amounts(event, facts);
        self.of_statuses(event);
        self.of_holds(event);
        self.of_encounter(event);
    }

    /// The end of everything.
    fn of_encounter(&mut self, event: &Event) {
        match *event {
            Event::EncounterEnded(_) | Event::EncounterReset(_) => {
                if matches!(event, Event::EncounterReset(_)) {
                    self.reset = true;
                    let nobody = self.accounts.values().all(|account| account.life == Life::Gone);
                    self.must(nobody, Law::WhoStands, "the encounter began anew and someone is left");
                }
                let running = self.swings.len() == self.ended_swings.len()
                    && self.applications.len() == self.ended_applications.len()
                    && self.holds.is_empty();
                self.must(running, Law::BegunAndEnded, "the encounter ended and something still runs");
                self.must(
                    self.contacts.is_empty(),
                    Law::MetAndParted,
                    "the encounter ended and a contact is open",
                );
            }
            _ => {}
        }
    }

    fn end_of_tick(&mut self, facts: &Facts<'_>) {
        let counts = facts.counts;
        let adds_up = counts.attempts == counts.hits + counts.refusals() && counts.hits == self.hits;
        self.must(adds_up, Law::AttemptsAddUp, "attempts are not hits and refusals");
        let settled = self.accounts.values().all(|account| account.due == 0);
        self.must(settled, Law::HealthAddsUp, "something was dealt or healed and health did not change");
        // A swing that has ended, or a combatant that does not stand, has nothing left that is open.
        let stands = |auditor: &Auditor, who: &CombatantId| {
            auditor.accounts.get(who).is_some_and(|account| account.life == Life::Standing)
        };
        let contacts = self.contacts.values().all(|(_, target)| stands(self, target));
        let mut swings = self.swings.iter().filter(|(id, _)| !self.ended_swings.contains(id));
        let swings = swings.all(|(id, account)| {
            self.outlives(*id) || account.attacker.is_none_or(|attacker| stands(self, &attacker))
        });
        let mut statuses = self.applications.iter().filter(|(id, _)| !self.ended_applications.contains(id));
        let statuses = statuses.all(|(id, bearer)| stands(self, bearer) || self.suspended.contains(id));
        let holds = self.holds.values().all(|(held, holder)| stands(self, held) && stands(self, holder));
        let shields = self.shields.iter().all(|((who, _), points)| *points == 0 || stands(self, who));
        self.must(
            contacts && swings && statuses && holds && shields,
            Law::DeadReactToNothing,
            "an end did not follow at once",
        );
        // What has ended is forgotten, so that long fights stay cheap.
        for swing in std::mem::take(&mut self.ended_swings) {
            self.swings.remove(&swing);
            self.struck.retain(|(of, ..), _| *of != swing);
            self.by_body.retain(|(of, _), _| *of != swing);
            self.refused.retain(|(of, ..)| *of != swing);
        }
        for application in std::mem::take(&mut self.ended_applications) {
            self.applications.remove(&application);
            self.suspended.remove(&application);
        }
        self.shields.retain(|_, points| *points != 0);
    }
}
