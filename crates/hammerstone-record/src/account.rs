//! Blows, beats, other harm and healing, taken apart.

use hammerstone::{Event, Facts, Range, Rules};
use serde::Serialize;

use crate::text::{begins, sentence};
use crate::words::{NoteText, means_name, step_name};
use crate::{Line, Names};

/// One blow, beat, other harm or healing, with everything that made its amounts.
#[derive(Clone, PartialEq, Debug, Default, Serialize)]
pub struct Account {
    /// The tick, and when it begins, in seconds.
    pub tick: u32,
    /// When the tick begins, in seconds.
    pub time: f64,
    /// The `seq` of its first fact.
    pub seq: u64,
    /// The blow's number; none for healing and for hits without harm.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub blow: Option<u64>,
    /// The hit's number, for blows of attacks.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hit: Option<u64>,
    /// Who struck, harmed or healed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub source: Option<String>,
    /// Who was struck, harmed or healed.
    pub target: String,
    /// `attack`, `status` or `host`.
    pub means: &'static str,
    /// The name of the attack, the status or the reason.
    pub name: String,
    /// The part that was struck.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub part: Option<String>,
    /// `reflected` or `transferred`, for what was passed on.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub echo: Option<&'static str>,
    /// Whether it was critical.
    pub critical: bool,
    /// What it came to, kind by kind.
    pub amounts: Vec<Amount>,
    /// Health before and after, and its maximum.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub health: Option<[i64; 3]>,
    /// What else came of it, in words.
    pub followed: Vec<String>,
}

/// What one kind of harm, or healing, came to.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Amount {
    /// The kind of harm; none for healing.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub kind: Option<String>,
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

/// Gathers accounts from the facts of each tick.
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

    /// Takes in the facts of one tick, in which ledgers were kept.
    pub fn take_in(&mut self, rules: &Rules, names: &Names, facts: &Facts<'_>) {
        let mut open: Option<Account> = None;
        for fact in facts.facts {
            let line = Line { fact, facts, rules, names };
            let new = |source: Option<_>, target| Account {
                tick: facts.tick,
                time: begins(facts.tick, rules),
                seq: fact.seq,
                source: source.map(|who| names.of(who).to_owned()),
                target: names.of(target).to_owned(),
                ..Account::default()
            };
            match fact.event {
                Event::HitLanded { hit, attack, attacker, target, part, .. } => {
                    self.all.extend(open.replace(Account {
                        hit: Some(hit),
                        means: "attack",
                        name: rules.attack_name(attack).to_owned(),
                        part: names.part(rules, target, part).map(str::to_owned),
                        ..new(attacker, target)
                    }));
                }
                Event::DamageDealt {
                    kind,
                    blow,
                    source,
                    target,
                    means,
                    amount,
                    critical,
                    echo,
                    ledger,
                    ..
                } => {
                    let goes_on = |open: &Account| open.blow == Some(blow) || waits(open, target, names);
                    if !open.as_ref().is_some_and(goes_on) {
                        self.all.extend(open.take());
                    }
                    let account = open.get_or_insert_with(|| {
                        let (means, name) = means_name(means, rules);
                        Account { means, name: name.to_owned(), ..new(source, target) }
                    });
                    (account.blow, account.critical) = (Some(blow), critical);
                    account.echo = echo.map(|echo| echo.name());
                    let kind = Some(rules.kind_name(kind).to_owned());
                    account.amounts.push(Amount { kind, amount, excess: None, ledger: rows(&line, ledger) });
                }
                Event::HealApplied { source, target, means, amount, excess, ledger } => {
                    let (means, name) = means_name(means, rules);
                    let same = |open: &Account| {
                        open.target == names.of(target) && open.name == name && open.means == means
                    };
                    if !open.as_ref().is_some_and(same) {
                        self.all.extend(open.take());
                    }
                    let account = open.get_or_insert_with(|| Account {
                        means,
                        name: name.to_owned(),
                        ..new(source, target)
                    });
                    let excess = Some(excess).filter(|&excess| excess > 0);
                    account.amounts.push(Amount { kind: None, amount, excess, ledger: rows(&line, ledger) });
                }
                Event::HealthChanged { subject, from, to, max, .. } => {
                    if let Some(account) = open.as_mut().filter(|open| open.target == names.of(subject)) {
                        let from = account.health.map_or(from, |[from, ..]| from);
                        account.health = Some([from, to, max]);
                    }
                }
                Event::StatusBeat { .. } | Event::StatusExpired { .. } | Event::OrderRefused { .. } => {
                    self.all.extend(open.take());
                }
                _ if answers(&fact.event) => {
                    if let (Some(account), Some((.., text))) = (&mut open, sentence(&line)) {
                        account.followed.push(text);
                    }
                }
                _ => {}
            }
        }
        self.all.extend(open);
    }
}

/// Whether a hit waits for the amounts of its blow.
fn waits(open: &Account, target: hammerstone::CombatantId, names: &Names) -> bool {
    open.hit.is_some() && open.blow.is_none() && open.target == names.of(target)
}

/// What tells more about the blow that it comes after.
fn answers(event: &Event) -> bool {
    matches!(
        event,
        Event::HitPushed { .. }
            | Event::HitStaggered { .. }
            | Event::ShieldAbsorbed { .. }
            | Event::ShieldBroken { .. }
            | Event::ShieldRaised { .. }
            | Event::GuardBroken { .. }
            | Event::PartBroken { .. }
            | Event::StatusApplied { .. }
            | Event::StatusRenewed { .. }
            | Event::StatusPiled { .. }
            | Event::StatusRefused { .. }
            | Event::StatusLifted { .. }
            | Event::DeathAverted { .. }
            | Event::DeathFell { .. }
    )
}

fn rows(line: &Line<'_>, ledger: Range) -> Vec<Row> {
    let (rules, names) = (line.rules, line.names);
    let row = |line: &hammerstone::LedgerLine| Row {
        step: step_name(line.step, rules).to_owned(),
        before: line.before.to_string(),
        after: line.after.to_string(),
        note: NoteText { note: line.note, rules, names }.to_string(),
    };
    line.facts.ledger_of(ledger).iter().map(row).collect()
}
