//! Swings, contacts and hits: each target is hit once per attack.

use super::*;

impl Auditor {
    /// Swings, contacts and hits.
    pub(super) fn of_swings(&mut self, event: &Event) {
        match *event {
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
            _ => {}
        }
    }

    pub(super) fn hit(
        &mut self,
        swing: SwingId,
        target: CombatantId,
        life: u32,
        window: u16,
        own: [Option<u16>; 2],
    ) {
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
            // Between two stays lies a tick without touch.
            (Policy::Entry(least), Some(before)) => tick - before >= least.max(2),
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

    pub(super) fn outlives(&self, swing: SwingId) -> bool {
        self.swings.get(&swing).is_some_and(|swing| self.rules.compiled().attack(swing.attack).outlives)
    }

    /// Whether a hit may land although its attacker does not stand: it outlives them, or both land.
    pub(super) fn goes_on(&self, swing: SwingId) -> bool {
        self.outlives(swing) || self.rules.compiled().both_land
    }

    /// Whether an attack may start for one who does not stand: as a child, or as what was deflected.
    pub(super) fn may_be_child(&self, attack: AttackId) -> bool {
        let child = self.rules.compiled().starts_as_child(attack);
        child || matches!(self.rules.compiled().attack(attack).form, Form::Projectile(_))
    }
}
