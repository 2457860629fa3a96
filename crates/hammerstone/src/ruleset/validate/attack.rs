//! What can be wrong with an attack.

use std::collections::BTreeMap;

use super::*;

impl Check {
    pub(in crate::ruleset) fn attack(
        &mut self,
        attack: &mut Attack,
        names: &BTreeMap<String, (AttackId, Form)>,
        sizes: &Sizes,
    ) {
        self.turn_to("attack", &attack.name);
        let own_hitboxes = matches!(attack.form, Form::Melee | Form::Projectile(_) | Form::Area);
        if own_hitboxes && attack.hitboxes.is_empty() {
            self.find("hitboxes", Problem::NoHitbox);
        }
        if !own_hitboxes && !attack.hitboxes.is_empty() {
            self.find("hitboxes", Problem::HitboxesUnused(attack.form.name()));
        }
        for hitbox in &attack.hitboxes {
            self.range("group", hitbox.group.into(), 0, i64::from(u16::MAX) - 1);
            self.shape("hitboxes", hitbox.shape);
        }
        match attack.form {
            Form::Projectile(projectile) => self.projectile(&projectile),
            Form::Beam(beam) => self.beam(&beam),
            Form::Melee | Form::Area | Form::Touch => {}
        }
        self.timeline(attack);
        self.path(attack);
        if let Policy::Interval(every) = attack.policy {
            self.range("policy", every.into(), 1, LONGEST);
        }
        if attack.sharing == Sharing::Body && !matches!(attack.form, Form::Projectile(_)) {
            self.find("sharing", Problem::OnlyProjectiles);
        }
        if let Some(most) = attack.max_targets {
            self.range("max-targets", most.into(), 1, u16::MAX.into());
        }
        if let Some(Direction { cosine, .. }) = attack.direction
            && !cosine.is_finite()
        {
            self.find("only from", Problem::NotFinite { value: cosine });
        }
        if let Some(clash) = attack.clash {
            self.range("clash", clash.layer.into(), 0, 31);
        }
        self.damage(&attack.damage, sizes);
        self.answers(attack, sizes);
        for status in &attack.ignores {
            self.id("ignores", "status", status.index(), sizes.statuses);
        }
        attack.child_ids.clear();
        for (when, child) in &attack.children {
            match names.get(child) {
                None => self.find("children", Problem::UnknownAttack(child.clone())),
                Some((_, form)) if form.needs_body() => {
                    self.find("children", Problem::NeedsBody(child.clone()))
                }
                Some((id, _)) => attack.child_ids.push((*when, *id)),
            }
        }
        if let Some(chain) = &mut attack.chain {
            chain.next_id = names.get(&chain.next).map(|(id, _)| *id);
            let (next, opens, lapses) = (chain.next.clone(), chain.opens, chain.lapses);
            if chain.next_id.is_none() {
                self.find("chain", Problem::UnknownAttack(next));
            }
            self.range("chain", lapses.into(), i64::from(opens) + 1, LONGEST);
        }
    }

    /// Numbers, statuses and answers of an attack.
    pub(in crate::ruleset) fn answers(&mut self, attack: &Attack, sizes: &Sizes) {
        if let Some((low, high)) = attack.heals {
            self.points("heals", low, high);
        }
        for draw in &attack.scaling {
            self.id("scaling", "stat", draw.stat.index(), sizes.stats);
            self.amount("scaling", draw.adds);
            self.amount("scaling", draw.shares);
            if let Some(damage_type) = draw.damage_type {
                self.id("scaling", "damage type", damage_type.index(), sizes.damage_types);
            }
        }
        if let Chance::Own(critical) = attack.critical {
            self.critical(&critical, sizes);
        }
        if let Some(fall_off) = attack.fall_off {
            self.share("fall-off", fall_off.least, Fixed::ZERO, Fixed::ONE);
            self.share("fall-off", fall_off.near, Fixed::ZERO, Fixed::whole(100_000));
            self.share("fall-off", fall_off.far, fall_off.near + Fixed::raw(100), Fixed::whole(100_000));
        }
        self.given("inflicts", &attack.inflicts, sizes);
        self.given("inflicts-self", &attack.inflicts_self, sizes);
        self.given("aura", &attack.aura, sizes);
        for self_status in &attack.self_status {
            self.id("self-status", "status", self_status.status.index(), sizes.statuses);
            self.range("self-status", self_status.to.into(), i64::from(self_status.from) + 1, LONGEST);
        }
        if let Some(push) = attack.push {
            self.within("push", push.metres, FARTHEST);
            self.within("push", push.lift, FARTHEST);
            self.range("push", push.ticks.into(), 1, LONGEST);
        }
        self.range("stop", attack.stop.attacker.into(), 0, LONGEST);
        self.range("stop", attack.stop.target.into(), 0, LONGEST);
        self.share("stagger-damage", attack.stagger_damage, Fixed::ZERO, Fixed::whole(1000));
    }

    pub(in crate::ruleset) fn projectile(&mut self, projectile: &Projectile) {
        let numbers = [
            projectile.speed,
            projectile.gravity,
            projectile.spread,
            projectile.from[0],
            projectile.from[1],
            projectile.from[2],
        ];
        for value in numbers {
            self.within("projectile", value, FARTHEST);
        }
        self.range("projectile, lifetime", projectile.lifetime.into(), 1, LONGEST);
        self.range("projectile, pellets", projectile.pellets.into(), 1, 1024);
    }

    pub(in crate::ruleset) fn beam(&mut self, beam: &Beam) {
        let numbers = [beam.reach, beam.radius, beam.from[0], beam.from[1], beam.from[2]];
        for value in numbers {
            self.within("beam", value, FARTHEST);
        }
        if beam.reach <= 0.0 || beam.radius < 0.0 {
            self.find("beam", Problem::NoReach { reach: beam.reach, radius: beam.radius });
        }
    }

    pub(in crate::ruleset) fn timeline(&mut self, attack: &mut Attack) {
        if let Some(guaranteed_end) = attack.marked {
            self.range("marked", guaranteed_end.into(), 1, LONGEST);
            if attack.recovery > 0 {
                self.find("recovery", Problem::RecoveryUnused);
            }
            if !attack.gaps.is_empty() {
                self.find("timeline", Problem::TwoTimelines);
            }
            if attack.form.leaves_the_hand() {
                self.find("marked", Problem::MarkedNeedsHand);
            }
        } else if attack.gaps.is_empty() {
            self.find("timeline", Problem::NoWindow);
        }
        let mut clock = 0u32;
        attack.windows.clear();
        for &[gap, window] in &attack.gaps {
            self.range("timeline", gap.into(), 0, LONGEST);
            self.range("timeline", window.into(), 1, LONGEST);
            let opens = clock.saturating_add(gap);
            clock = opens.saturating_add(window);
            attack.windows.push(Window { opens, closes: clock });
        }
        self.range("timeline", attack.recovery.into(), 0, LONGEST);
        let end = clock.saturating_add(attack.recovery);
        (attack.total, attack.frees) = (end, end);
        if let Some(guaranteed_end) = attack.marked {
            (attack.total, attack.frees) = (guaranteed_end, guaranteed_end);
        }
        let opens = attack.windows.first().map_or(0, |window| window.opens);
        match attack.form {
            // What left the hand needs no more of it; it lasts as long as it flies, or lies there.
            Form::Projectile(projectile) => {
                attack.frees = opens.saturating_add(attack.recovery);
                let flown = opens.saturating_add(projectile.lifetime);
                attack.total = if attack.frees > flown { attack.frees } else { flown };
                attack.windows.clear();
                attack.windows.push(Window { opens, closes: flown });
            }
            Form::Area => {
                attack.frees = opens.saturating_add(attack.recovery);
                attack.total = if attack.frees > clock { attack.frees } else { clock };
            }
            Form::Melee | Form::Beam(_) | Form::Touch => {}
        }
        if let Some(charge) = attack.charge {
            self.range("charge", charge.most.into(), i64::from(charge.least) + 1, LONGEST);
            self.share("charge", charge.full, Fixed::ZERO, Fixed::whole(1000));
        }
    }

    pub(in crate::ruleset) fn path(&mut self, attack: &mut Attack) {
        if !attack.path.0.is_empty() && (attack.form != Form::Melee || attack.guided) {
            self.find("path", Problem::PathUnused);
        }
        if attack.guided && attack.form != Form::Melee {
            self.find("guided", Problem::OnlyMelee);
        }
        let mut before: Option<u32> = None;
        for key in &mut attack.path.0 {
            let written = key.turn.is_none_or(|(axis, degrees)| {
                axis.iter().any(|&x| x != 0.0) && axis.iter().all(|x| x.is_finite()) && degrees.is_finite()
            });
            match key.pose.settled().filter(|_| written) {
                Some(settled) => key.pose = settled,
                None => self.find("path", Problem::NoTurn),
            }
            if let Some(before) = before.filter(|&before| before >= key.at) {
                self.find("path", Problem::KeyOutOfOrder { at: key.at, before });
            }
            before = Some(key.at);
        }
        if attack.path.0.is_sorted_by(|one, other| one.at < other.at) {
            self.within("path, degrees a tick", attack.path.fastest(), MOST_DEGREES);
        }
    }
}
