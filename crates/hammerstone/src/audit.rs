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
pub use crate::encounter::AnySeal;

use crate::event::{
    AttackChained, AttackEnded, AttackOpened, AttackStarted, Cause, CombatantAway, CombatantDied,
    CombatantJoined, CombatantRemoved, CombatantReturned, CombatantSpared, ContactMet, ContactParted,
    DamageDealt, Event, Fact, Facts, Gate, GuardBroken, HealApplied, HealthChange, HealthChanged,
    HealthCrossed, HitLanded, HitPushed, HitRefused, HitStaggered, HitStopped, LeaderLost, LedgerLine,
    PartBroken, ShieldAbsorbed, ShieldLapsed, ShieldRaised, StatusApplied, StatusExpired, StatusLifted,
    StatusPulsed, StatusRefreshed, StatusRefused, StatusResumed, StatusStacked, StatusSuspended, Why,
};
use std::collections::{BTreeMap, BTreeSet};

use crate::Fixed;
use crate::ids::*;
use crate::ruleset::{Form, Group, Policy, Ruleset, Sharing};
use crate::state::Life;
use crate::view::View;

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
    /// Each swing and each application of a status ends once.
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

    /// Nothing that does something to somebody, or starts from somebody, names one who does not stand;
    /// but what has left its attacker's hand, and is declared to, goes on.
    fn dead(&mut self, event: &Event) {
        let (doer, target) = match *event {
            Event::HitLanded(HitLanded { swing, attacker, target, .. }) => {
                (attacker.filter(|_| !self.goes_on(swing)), Some(target))
            }
            Event::ContactMet(ContactMet { swing, attacker, target, .. }) => {
                (attacker.filter(|_| !self.outlives(swing)), Some(target))
            }
            Event::AttackStarted(AttackStarted { subject, attack, .. }) => {
                (subject.filter(|_| !self.may_be_child(attack)), None)
            }
            Event::AttackOpened(AttackOpened { subject, swing, .. }) => {
                (subject.filter(|_| !self.outlives(swing)), None)
            }
            Event::AttackChained(AttackChained { subject, .. }) => (Some(subject), None),
            Event::DamageDealt(DamageDealt { target, .. })
            | Event::HealApplied(HealApplied { target, .. }) => (None, Some(target)),
            Event::StatusApplied(StatusApplied { subject, .. })
            | Event::StatusRefreshed(StatusRefreshed { subject, .. })
            | Event::StatusPulsed(StatusPulsed { subject, .. })
            | Event::StatusStacked(StatusStacked { subject, .. })
            | Event::StatusRefused(StatusRefused { subject, .. })
            | Event::StatusResumed(StatusResumed { subject, .. })
            | Event::ShieldRaised(ShieldRaised { subject, .. })
            | Event::ShieldAbsorbed(ShieldAbsorbed { subject, .. })
            | Event::GuardBroken(GuardBroken { subject, .. })
            | Event::PartBroken(PartBroken { subject, .. })
            | Event::HitStopped(HitStopped { subject, .. })
            | Event::HitPushed(HitPushed { target: subject, .. })
            | Event::HitStaggered(HitStaggered { target: subject, .. })
            | Event::CombatantSpared(CombatantSpared { subject, .. })
            | Event::LeaderLost(LeaderLost { subject, .. })
            | Event::HealthCrossed(HealthCrossed { subject, .. })
            | Event::CombatantDied(CombatantDied { subject, .. }) => (None, Some(subject)),
            Event::HealthChanged(HealthChanged { subject, why, .. }) if why != HealthChange::Return => {
                (None, Some(subject))
            }
            _ => (None, None),
        };
        for party in [doer, target].into_iter().flatten() {
            let stands = self.accounts.get(&party).is_some_and(|account| account.life == Life::Standing);
            self.must(stands, Law::DeadReactToNothing, "something names one who does not stand");
        }
    }

    fn outlives(&self, swing: SwingId) -> bool {
        self.swings.get(&swing).is_some_and(|swing| self.rules.compiled().attack(swing.attack).outlives)
    }

    /// Whether a hit may land although its attacker does not stand: it outlives them, or both land.
    fn goes_on(&self, swing: SwingId) -> bool {
        self.outlives(swing) || self.rules.compiled().both_land
    }

    /// Whether an attack may start for one who does not stand: as a child, or as what was deflected.
    fn may_be_child(&self, attack: AttackId) -> bool {
        let child = self.rules.compiled().starts_as_child(attack);
        child || matches!(self.rules.compiled().attack(attack).form, Form::Projectile(_))
    }

    fn event(&mut self, event: &Event, facts: &Facts<'_>) {
        match *event {
            Event::CombatantJoined(CombatantJoined { subject, team, template, health, .. }) => {
                self.must(!self.accounts.contains_key(&subject), Law::WhoStands, "joined twice");
                let account = Account { health, due: 0, life: Life::Standing, number: 1, team, template };
                self.accounts.insert(subject, account);
            }
            Event::CombatantReturned(CombatantReturned { subject, life, why, .. }) => {
                if let Some(account) = self.accounts.get_mut(&subject) {
                    account.number = life;
                }
                let back = match self.stand(subject, Life::Standing) {
                    Some(Life::Dead | Life::Away) => true,
                    Some(Life::Standing) => why == Why::LiftedUp,
                    _ => false,
                };
                self.must(back, Law::WhoStands, "returned without having left");
            }
            Event::CombatantAway(CombatantAway { subject, why }) => {
                let from = if why == Why::Died { Life::Dead } else { Life::Standing };
                let stood = self.stand(subject, Life::Away) == Some(from);
                self.must(stood, Law::WhoStands, "went away without standing");
            }
            Event::CombatantRemoved(CombatantRemoved { subject, .. }) => {
                let there = self.stand(subject, Life::Gone).is_some_and(|life| life != Life::Gone);
                self.must(there, Law::WhoStands, "removed without being there");
            }
            Event::CombatantDied(CombatantDied { subject, life, .. }) => {
                self.stand(subject, Life::Dead);
                let first = self.deaths.insert((subject, life));
                self.must(first, Law::DeadReactToNothing, "died twice in one life");
                let empty = self.accounts.get(&subject).is_some_and(|account| account.health == 0);
                self.must(empty, Law::HealthAddsUp, "died with health left");
            }
            Event::AttackStarted(AttackStarted { subject, swing, attack, .. }) => {
                let account = SwingAccount { attacker: subject, attack };
                let new = self.swings.insert(swing, account).is_none();
                self.must(
                    new && !self.ended_swings.contains(&swing),
                    Law::BegunAndEnded,
                    "a swing's id came again",
                );
            }
            Event::AttackEnded(AttackEnded { swing, .. }) => {
                let ran = self.swings.contains_key(&swing) && self.ended_swings.insert(swing);
                self.must(ran, Law::BegunAndEnded, "a swing ended that was not running");
                let open = self.contacts.values().any(|(of, _)| *of == swing);
                self.must(!open, Law::MetAndParted, "a swing ended before its contacts parted");
            }
            Event::ContactMet(ContactMet { contact, swing, target, .. }) => {
                let new = self.contacts.insert(contact, (swing, target)).is_none();
                self.must(new && !self.parted.contains(&contact), Law::MetAndParted, "a contact met twice");
            }
            Event::ContactParted(ContactParted { contact, .. }) => {
                let open = self.contacts.remove(&contact).is_some() && self.parted.insert(contact);
                self.must(open, Law::MetAndParted, "a contact parted that was not open");
            }
            Event::HitLanded(HitLanded { swing, target, life, window, group, body, .. }) => {
                self.hit(swing, target, life, window, [group, body]);
            }
            Event::HitRefused(HitRefused { swing, target, gate, .. }) => {
                let first = self.refused.insert((swing, target, gate));
                self.must(first, Law::AttemptsAddUp, "a refusal was published twice");
            }
            Event::DamageDealt(DamageDealt { target, amount, ledger, .. }) => {
                self.due(target, -amount);
                self.ledger(facts.ledger_of(ledger), amount);
            }
            Event::ShieldRaised(ShieldRaised { subject, shield, amount, .. }) => {
                self.shield(subject, shield, amount)
            }
            Event::ShieldAbsorbed(ShieldAbsorbed { subject, shield, amount, .. })
            | Event::ShieldLapsed(ShieldLapsed { subject, shield, amount }) => {
                self.shield(subject, shield, -amount)
            }
            Event::PartBroken(PartBroken { subject, part, .. }) => {
                let life = self.accounts.get(&subject).map_or(0, |account| account.number);
                let first = self.broken_parts.insert((subject, life, part));
                self.must(first, Law::BegunAndEnded, "a part broke twice in one life");
            }
            Event::CombatantSpared(CombatantSpared { subject, by }) => {
                let life = self.accounts.get(&subject).map_or(0, |account| account.number);
                let times = self.spared.entry((subject, life, by)).or_default();
                *times += 1;
                let limit = match by {
                    Cause::Status(status) => {
                        self.rules.compiled().status(status).prevents_death.map_or(0, |r| r.limit)
                    }
                    _ => u32::MAX,
                };
                let within = *times <= limit;
                self.must(
                    within,
                    Law::HealthAddsUp,
                    "a death was prevented more often than it may in one life",
                );
            }
            Event::StatusSuspended(StatusSuspended { application, .. }) => {
                let new = self.suspended.insert(application);
                self.must(new, Law::BegunAndEnded, "a status was suspended twice");
            }
            Event::StatusResumed(StatusResumed { application, .. }) => {
                let waited = self.suspended.remove(&application);
                self.must(waited, Law::BegunAndEnded, "a status was resumed that was not suspended");
            }
            Event::HealApplied(HealApplied { target, amount, ledger, .. }) => {
                self.due(target, amount);
                self.ledger(facts.ledger_of(ledger), amount);
            }
            Event::HealthChanged(HealthChanged { subject, from, to, max, why }) => {
                self.health(subject, from, to, max, why)
            }
            Event::StatusApplied(StatusApplied { application, subject, .. }) => {
                let new = self.applications.insert(application, subject).is_none();
                self.must(new, Law::BegunAndEnded, "an application's number came again");
            }
            Event::StatusExpired(StatusExpired { application, .. })
            | Event::StatusLifted(StatusLifted { application, .. }) => {
                let ran = self.applications.contains_key(&application)
                    && self.ended_applications.insert(application);
                self.must(ran, Law::BegunAndEnded, "a status ended that was not running");
            }
            Event::EncounterEnded(_) | Event::EncounterReset(_) => {
                if matches!(event, Event::EncounterReset(_)) {
                    self.reset = true;
                    let nobody = self.accounts.values().all(|account| account.life == Life::Gone);
                    self.must(nobody, Law::WhoStands, "the encounter began anew and somebody is left");
                }
                let running = self.swings.len() == self.ended_swings.len()
                    && self.applications.len() == self.ended_applications.len();
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

    /// Notes where somebody stands now, and gives where they stood before.
    fn stand(&mut self, who: CombatantId, life: Life) -> Option<Life> {
        let account = self.accounts.get_mut(&who)?;
        Some(std::mem::replace(&mut account.life, life))
    }

    /// Each line begins where the one before ended, and the last ends at `amount`.
    fn ledger(&mut self, lines: &[LedgerLine], amount: i64) {
        let mut before = None;
        for line in lines {
            let joins = before.is_none_or(|before| before == line.before);
            self.must(joins, Law::HealthAddsUp, "a ledger line does not begin where the last ended");
            before = Some(line.after);
        }
        let ends = before.is_none_or(|last| last == Fixed::whole(amount));
        self.must(ends, Law::HealthAddsUp, "a ledger does not end at the amount");
    }

    fn shield(&mut self, who: CombatantId, shield: ShieldId, change: i64) {
        let points = self.shields.entry((who, shield)).or_default();
        *points += change;
        let sound = *points >= 0;
        self.must(sound, Law::HealthAddsUp, "a shield lost more than it had");
    }

    fn due(&mut self, who: CombatantId, amount: i64) {
        if let Some(account) = self.accounts.get_mut(&who) {
            account.due += amount;
        }
    }

    fn health(&mut self, who: CombatantId, from: i64, to: i64, max: i64, why: HealthChange) {
        let Some(account) = self.accounts.get_mut(&who) else { return };
        let (health, due) = (account.health, std::mem::take(&mut account.due));
        account.health = to;
        self.must(from == health, Law::HealthAddsUp, "health changed from what it was not");
        let adjusted = matches!(why, HealthChange::Return | HealthChange::Maximum) && due == 0;
        let adds_up = adjusted || health + due == to;
        self.must(adds_up, Law::HealthAddsUp, "health changed by other than what was dealt and healed");
        self.must((0..=max).contains(&to), Law::HealthAddsUp, "health is out of its bounds");
    }

    fn hit(&mut self, swing: SwingId, target: CombatantId, life: u32, window: u16, own: [Option<u16>; 2]) {
        self.hits += 1;
        let rules = self.rules.clone();
        let Some(attack) = self.swings.get(&swing).map(|account| rules.compiled().attack(account.attack))
        else {
            return self.must(false, Law::StruckOnce, "a swing struck that was not running");
        };
        let runs = !self.ended_swings.contains(&swing) || rules.compiled().both_land;
        self.must(runs, Law::StruckOnce, "a swing struck that was not running");
        let list = match attack.sharing {
            Sharing::Swing => 0,
            Sharing::Group => own[0].unwrap_or(0),
            Sharing::Body => own[1].unwrap_or(0),
        };
        let window = if attack.policy == Policy::Window { window } else { 0 };
        let tick = self.at.0;
        // Only a policy that says so counts anew in each life.
        let life = if attack.policy == Policy::Life { life } else { 0 };
        let before = self.struck.insert((swing, target, life, list, window), tick);
        let allowed = match (attack.policy, before) {
            (_, None) => true,
            (Policy::Interval(every), Some(before)) => tick - before >= every,
            (Policy::Once | Policy::Window | Policy::Life, Some(_)) => false,
        };
        self.must(allowed, Law::StruckOnce, "a target was struck more often than the policy allows");
        if let (Form::Projectile(projectile), Some(body)) = (attack.form, own[1]) {
            let hits = self.by_body.entry((swing, body)).or_default();
            *hits += 1;
            let within = *hits <= u32::from(projectile.pierce) + 1;
            self.must(within, Law::StruckOnce, "a projectile struck more targets than it may");
        }
        if let Some(most) = attack.max_targets {
            let targets: BTreeSet<CombatantId> =
                self.struck.keys().filter(|(of, ..)| *of == swing).map(|&(_, target, ..)| target).collect();
            let within = targets.len() <= usize::from(most);
            self.must(within, Law::StruckOnce, "a swing struck more targets than it may");
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
        let shields = self.shields.iter().all(|((who, _), points)| *points == 0 || stands(self, who));
        self.must(
            contacts && swings && statuses && shields,
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
