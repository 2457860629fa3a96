//! Blows, pulses, other damage and healing, taken apart.

use crate::{Record, Tick};
use hammerstone::event::Fact;
use hammerstone::event::{ContactMet, DamageDealt, HealApplied, HealthChanged, HitLanded};
use hammerstone::ids::CombatantId;
use std::collections::BTreeMap;

use hammerstone::event::{Event, Listener, Range};
use serde::Serialize;

use super::gates::{Passed, passed};
use crate::feed::sentence;
use crate::feed::{NoteText, step_name, via_name};
use crate::{Line, Names};

/// One blow, pulse, other damage or healing, with everything that made its amounts.
#[derive(Clone, PartialEq, Debug, Default, Serialize)]
pub struct Account {
    /// The tick, and when it begins, in seconds.
    pub tick: u32,
    /// When the tick begins, in seconds.
    pub time: f64,
    /// The tick, counted on through resets.
    #[serde(skip)]
    pub clock: u32,
    /// The `seq` of its first fact.
    pub seq: u64,
    /// The blow's number; none for healing and for hits without damage.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub blow: Option<u64>,
    /// The hit's number, for blows of attacks.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hit: Option<u64>,
    /// Who struck, damaged or healed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub source: Option<String>,
    /// Who was struck, damaged or healed.
    pub target: String,
    /// `attack`, `status` or `host`.
    pub via: &'static str,
    /// The name of the attack, the status or the reason.
    pub name: String,
    /// The part that was struck.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub part: Option<String>,
    /// By how many ticks its target was rewound, if it was.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rewound: Option<u16>,
    /// `reflected` or `transferred`, for what was passed on.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub echo: Option<&'static str>,
    /// Whether it was critical.
    pub critical: bool,
    /// What it came to, damage type by damage type.
    pub amounts: Vec<Amount>,
    /// Health before and after, and its maximum.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub health: Option<[i64; 3]>,
    /// For hits: what met, and where.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub contact: Option<Contact>,
    /// For hits: the gates that it passed, in their order, but those that ask nothing of this attack.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub gates: Vec<Passed>,
    /// What else came of it, in words.
    pub followed: Vec<String>,
    /// Who heard which of its facts, in the order of hearing; only where deliveries are kept.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub heard: Vec<Heard>,
    /// What those who heard did about it in the same tick, in words.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub answered: Vec<String>,
}

/// What met, and where.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Contact {
    /// The swing's number.
    pub swing: u64,
    /// Its window, from 1.
    pub window: u16,
    /// The projectile, from 1.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub body: Option<u16>,
    /// Which life of the target.
    pub life: u32,
    /// Where, in metres in the world.
    pub point: [f32; 3],
    /// Out of the part, of length 1.
    pub normal: [f32; 3],
    /// When within the tick, from 0 to 1, where this tick was the first of the contact.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub toi: Option<f32>,
}

/// A fact, and who heard it.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct Heard {
    /// The fact.
    pub seq: u64,
    /// Its topic.
    pub topic: String,
    /// The rules and hooks that heard it, in the order of hearing.
    pub by: Vec<String>,
}

/// What one damage type, or healing, came to.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Amount {
    /// The damage type; none for healing.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub damage_type: Option<String>,
    /// What health lost, or gained by healing, in points.
    pub amount: i64,
    /// What healing went beyond the maximum.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub excess: Option<i64>,
    /// Step by step; empty where ledgers were not kept.
    pub ledger: Vec<Row>,
}

/// One step of an amount.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct Row {
    /// The step.
    pub step: String,
    /// The exact amount before, with four decimals.
    pub before: String,
    /// The exact amount after.
    pub after: String,
    /// What made it so, in words; empty if there is nothing to add.
    pub note: String,
}

/// Gathers accounts. Ticks must run with their ledgers kept; gates and listeners are there if they were kept.
#[derive(Clone, Debug, Default)]
pub struct Accounts {
    all: Vec<Account>,
}

impl Accounts {
    /// No accounts yet.
    pub fn new() -> Accounts {
        Accounts::default()
    }

    /// All accounts, in order.
    pub fn all(&self) -> &[Account] {
        &self.all
    }

    /// Adds who heard the facts of this tick's accounts, which begin at `first`, and what they did about it.
    fn heard(&mut self, first: usize, tick: &Tick<'_>, belongs: &mut BTreeMap<u64, usize>) {
        let Tick { facts, rules, names, .. } = *tick;
        for delivery in facts.deliveries {
            let account = belongs.get(&delivery.seq).and_then(|&place| self.all.get_mut(place));
            let (Some(account), Some(fact)) = (account, facts.of(delivery.seq)) else { continue };
            let by = match delivery.listener {
                Listener::Rule(rule) => format!("rule {}", rules.rule_name(rule).unwrap_or_default()),
                Listener::Hook(hook) => format!("hook {}", names.of_hook(hook)),
            };
            match account.heard.iter_mut().find(|heard| heard.seq == delivery.seq) {
                Some(heard) => heard.by.push(by),
                None => {
                    let topic = rules.topics().path(fact.event.topic()).unwrap_or_default().to_owned();
                    account.heard.push(Heard { seq: delivery.seq, topic, by: vec![by] });
                }
            }
        }
        for account in &mut self.all[first..] {
            account.heard.sort_by_key(|heard| heard.seq);
        }
        for fact in facts.facts {
            // What an answer led to is an answer as well.
            let Some(place) = fact.cause.and_then(|cause| belongs.get(&cause).copied()) else { continue };
            belongs.entry(fact.seq).or_insert(place);
            let text = sentence(&tick.line(fact));
            if let (Some((.., text)), Some(account)) = (text, self.all.get_mut(place)) {
                account.answered.push(text);
            }
        }
    }
}

/// What becomes of the facts of one tick.
struct Gathering<'a> {
    tick: &'a Tick<'a>,
    all: &'a mut Vec<Account>,
    /// The account to which facts may still belong.
    open: Option<Account>,
}

impl Gathering<'_> {
    fn account(&self, fact: &Fact, source: Option<CombatantId>, target: CombatantId) -> Account {
        let names = self.tick.names;
        Account {
            tick: self.tick.facts.tick,
            time: self.tick.begins(),
            clock: self.tick.clock,
            seq: fact.seq,
            source: source.map(|who| names.of(who).to_owned()),
            target: names.of(target).to_owned(),
            ..Account::default()
        }
    }

    /// Closes the open account unless it `goes_on`.
    fn close_unless(&mut self, goes_on: impl Fn(&Account) -> bool) {
        if !self.open.as_ref().is_some_and(goes_on) {
            self.all.extend(self.open.take());
        }
    }

    /// Takes in a fact; whether it belongs to the account that is open then.
    fn fact(&mut self, fact: &Fact) -> bool {
        let line = self.tick.line(fact);
        match fact.event {
            Event::HitLanded(ref hit) => self.hit(fact, hit),
            Event::DamageDealt(ref damage) => self.damage(fact, damage),
            Event::HealApplied(ref healing) => self.healing(fact, healing),
            Event::HealthChanged(HealthChanged { subject, from, to, max, .. }) => {
                let names = self.tick.names;
                let open = self.open.as_mut().filter(|open| open.target == names.of(subject));
                let Some(account) = open else { return false };
                let from = account.health.map_or(from, |[from, ..]| from);
                account.health = Some([from, to, max]);
            }
            Event::StatusPulsed(_) | Event::StatusExpired(_) | Event::OrderRefused(_) => {
                self.all.extend(self.open.take());
                return false;
            }
            // What rules and hooks did about it is told apart.
            _ if answers(&fact.event) && fact.cause.is_none() => {
                if let (Some(account), Some((.., text))) = (&mut self.open, sentence(&line)) {
                    account.followed.push(text);
                }
            }
            _ => return false,
        }
        self.open.is_some()
    }

    fn hit(&mut self, fact: &Fact, hit: &HitLanded) {
        let Tick { rules, names, ref facts, .. } = *self.tick;
        let HitLanded { hit, swing, attack, attacker, target, part, .. } = *hit;
        let mut rewound = self.tick.view().rewound();
        let account = Account {
            hit: Some(hit),
            via: "attack",
            name: rules.attack_name(attack).unwrap_or_default().to_owned(),
            part: names.part(rules, target, part).map(str::to_owned),
            rewound: rewound.find(|(of, _)| *of == swing).map(|(_, ticks)| ticks),
            contact: contact(facts, &fact.event),
            gates: passed(facts, fact.seq, rules, names),
            ..self.account(fact, attacker, target)
        };
        self.all.extend(self.open.replace(account));
    }

    fn damage(&mut self, fact: &Fact, damage: &DamageDealt) {
        let Tick { rules, names, .. } = *self.tick;
        let DamageDealt { damage_type, blow, source, target, via, amount, critical, echo, ledger, .. } =
            *damage;
        self.close_unless(|open| open.blow == Some(blow) || waits(open, target, names));
        let (via, name) = via_name(via, rules);
        let new = Account { via, name: name.to_owned(), ..self.account(fact, source, target) };
        let ledger = rows(&self.tick.line(fact), ledger);
        let account = self.open.get_or_insert(new);
        (account.blow, account.critical) = (Some(blow), critical);
        account.echo = echo.map(|echo| echo.name());
        let damage_type = Some(rules.damage_type_name(damage_type).unwrap_or_default().to_owned());
        account.amounts.push(Amount { damage_type, amount, excess: None, ledger });
    }

    fn healing(&mut self, fact: &Fact, healing: &HealApplied) {
        let Tick { rules, names, .. } = *self.tick;
        let HealApplied { source, target, via, amount, excess, ledger, .. } = *healing;
        let (via, name) = via_name(via, rules);
        self.close_unless(|open| open.target == names.of(target) && open.name == name && open.via == via);
        let new = Account { via, name: name.to_owned(), ..self.account(fact, source, target) };
        let ledger = rows(&self.tick.line(fact), ledger);
        let excess = Some(excess).filter(|&excess| excess > 0);
        let account = self.open.get_or_insert(new);
        account.amounts.push(Amount { damage_type: None, amount, excess, ledger });
    }
}

impl Record for Accounts {
    fn observe(&mut self, tick: &Tick<'_>) {
        let first = self.all.len();
        // Which facts belong to which of this tick's accounts.
        let mut belongs: BTreeMap<u64, usize> = BTreeMap::new();
        let mut gathering = Gathering { tick, all: &mut self.all, open: None };
        for fact in tick.facts.facts {
            if gathering.fact(fact) {
                belongs.insert(fact.seq, gathering.all.len());
            }
        }
        let Gathering { all, open, .. } = gathering;
        all.extend(open);
        self.heard(first, tick, &mut belongs);
    }
}

/// What met in a hit, and where.
fn contact(facts: &hammerstone::event::Facts<'_>, event: &Event) -> Option<Contact> {
    let Event::HitLanded(HitLanded { swing, target, window, body, life, point, normal, .. }) = *event else {
        return None;
    };
    let toi = facts.events().find_map(|event| match *event {
        Event::ContactMet(ContactMet { swing: of, target: at, toi, .. }) => {
            ((of, at) == (swing, target)).then_some(toi)
        }
        _ => None,
    });
    Some(Contact { swing: swing.number(), window, body, life, point, normal, toi })
}

/// Whether a hit waits for the amounts of its blow.
fn waits(open: &Account, target: hammerstone::ids::CombatantId, names: &Names) -> bool {
    open.hit.is_some() && open.blow.is_none() && open.target == names.of(target)
}

/// What tells more about the blow that it comes after.
fn answers(event: &Event) -> bool {
    matches!(
        event,
        Event::HitPushed(_)
            | Event::HitStaggered(_)
            | Event::ShieldAbsorbed(_)
            | Event::ShieldBroken(_)
            | Event::ShieldRaised(_)
            | Event::GuardBroken(_)
            | Event::PartBroken(_)
            | Event::StatusApplied(_)
            | Event::StatusRefreshed(_)
            | Event::StatusStacked(_)
            | Event::StatusRefused(_)
            | Event::StatusLifted(_)
            | Event::CombatantSpared(_)
            | Event::HealthCrossed(_)
            | Event::CombatantDied(_)
    )
}

fn rows(line: &Line<'_>, ledger: Range) -> Vec<Row> {
    let (rules, names) = (line.rules, line.names);
    let row = |line: &hammerstone::event::LedgerLine| Row {
        step: step_name(line.step, rules).to_owned(),
        before: line.before.to_string(),
        after: line.after.to_string(),
        note: NoteText { note: line.note, rules, names }.to_string(),
    };
    line.facts.ledger_of(ledger).iter().map(row).collect()
}
