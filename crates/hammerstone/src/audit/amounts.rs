//! Damage, healing, shields and parts: health adds up.

use super::*;

impl Auditor {
    /// Damage, healing, shields and parts.
    pub(super) fn of_amounts(&mut self, event: &Event, facts: &Facts<'_>) {
        match *event {
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
            Event::HealApplied(HealApplied { target, amount, ledger, .. }) => {
                self.due(target, amount);
                self.ledger(facts.ledger_of(ledger), amount);
            }
            Event::HealthChanged(HealthChanged { subject, from, to, max, why }) => {
                self.health(subject, from, to, max, why)
            }
            Event::GaugeChanged(GaugeChanged { subject, gauge, from, to, max, .. }) => {
                // What it holds at first is in no fact.
                let before = self.gauges.insert((subject, gauge), to);
                let joins = before.is_none_or(|before| before == from) && from != to;
                self.must(joins, Law::HealthAddsUp, "a gauge changed from what it was not");
                self.must((0..=max).contains(&to), Law::HealthAddsUp, "a gauge is out of its bounds");
            }
            Event::GaugeEmpty(GaugeEmpty { subject, gauge, .. }) => {
                let empty = self.gauges.get(&(subject, gauge)) == Some(&0);
                self.must(empty, Law::HealthAddsUp, "a gauge is said to be empty and is not");
            }
            _ => {}
        }
    }

    /// Each line begins where the one before ended, and the last ends at `amount`.
    pub(super) fn ledger(&mut self, lines: &[LedgerLine], amount: i64) {
        let mut before = None;
        for line in lines {
            let joins = before.is_none_or(|before| before == line.before);
            self.must(joins, Law::HealthAddsUp, "a ledger line does not begin where the last ended");
            before = Some(line.after);
        }
        let ends = before.is_none_or(|last| last == Fixed::whole(amount));
        self.must(ends, Law::HealthAddsUp, "a ledger does not end at the amount");
    }

    pub(super) fn shield(&mut self, who: CombatantId, shield: ShieldId, change: i64) {
        let points = self.shields.entry((who, shield)).or_default();
        *points += change;
        let sound = *points >= 0;
        self.must(sound, Law::HealthAddsUp, "a shield lost more than it had");
    }

    pub(super) fn due(&mut self, who: CombatantId, amount: i64) {
        if let Some(account) = self.accounts.get_mut(&who) {
            account.due += amount;
        }
    }

    pub(super) fn health(&mut self, who: CombatantId, from: i64, to: i64, max: i64, why: HealthChange) {
        let Some(account) = self.accounts.get_mut(&who) else { return };
        let (health, due) = (account.health, std::mem::take(&mut account.due));
        account.health = to;
        self.must(from == health, Law::HealthAddsUp, "health changed from what it was not");
        let adjusted =
            matches!(why, HealthChange::Return | HealthChange::Maximum | HealthChange::Pool) && due == 0;
        let adds_up = adjusted || health + due == to;
        self.must(adds_up, Law::HealthAddsUp, "health changed by other than what was dealt and healed");
        self.must((0..=max).contains(&to), Law::HealthAddsUp, "health is out of its bounds");
    }
}
