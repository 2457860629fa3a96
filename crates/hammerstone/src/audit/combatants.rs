//! Who stands: the dead react to nothing.

use super::*;

impl Auditor {
    /// Joining, leaving, dying and returning.
    pub(super) fn of_combatants(&mut self, event: &Event) {
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
            Event::CombatantSwitched(CombatantSwitched { subject, from, to }) => {
                let team =
                    self.accounts.get_mut(&subject).map(|account| std::mem::replace(&mut account.team, to));
                self.must(team == Some(from), Law::WhoStands, "went over from a team that was not its own");
            }
            Event::CombatantTransformed(CombatantTransformed { subject, from, to, .. }) => {
                let template = self.accounts.get_mut(&subject);
                let was = template.map(|account| std::mem::replace(&mut account.template, to));
                self.must(was == Some(from), Law::WhoStands, "became another than it was");
                // Its parts are whole, and gauges that it has no more are gone.
                self.broken_parts.retain(|(who, ..)| *who != subject);
                let own = &self.rules.compiled().template(to).gauges;
                self.gauges.retain(|(who, gauge), _| *who != subject || own.contains(gauge));
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
            _ => {}
        }
    }

    /// Notes where someone stands now, and gives where they stood before.
    pub(super) fn stand(&mut self, who: CombatantId, life: Life) -> Option<Life> {
        let account = self.accounts.get_mut(&who)?;
        Some(std::mem::replace(&mut account.life, life))
    }

    /// Nothing that does something to someone, or starts from someone, names one who does not stand;
    /// but what has left its attacker's hand, and is declared to, goes on.
    pub(super) fn dead(&mut self, event: &Event) {
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
            Event::GaugeEmpty(GaugeEmpty { subject, .. }) | Event::GaugeFull(GaugeFull { subject, .. }) => {
                (None, Some(subject))
            }
            Event::GaugeChanged(GaugeChanged { subject, why, .. }) if why != GaugeWhy::Life => {
                (None, Some(subject))
            }
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
}
