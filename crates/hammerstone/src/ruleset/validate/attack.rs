//! What can be wrong with an attack.

use std::collections::BTreeMap;

use super::*;

impl Check {
    pub(in crate::ruleset) fn attack(
        &mut self,
        attack: &Attack,
        names: &BTreeMap<&str, Form>,
        sizes: &Sizes,
    ) {
        self.turn_to("attack", &attack.name);
        let ways = attack.form.ways();
        let own_hitboxes = ways.has_hitboxes();
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
        ways.check(attack, self);
        self.timeline(attack);
        self.path(attack);
        if let Policy::Interval(every) = attack.policy {
            self.range("policy", every.into(), 1, LONGEST);
        }
        if let Policy::Entry(least) = attack.policy {
            self.range("policy", least.into(), 0, LONGEST);
        }
        if let Some(ClosingSpeed { from, full, least }) = attack.closing_speed {
            self.share("closing-speed", least, Fixed::ZERO, Fixed::ONE);
            self.share("closing-speed", from, Fixed::ZERO, Fixed::whole(100_000));
            self.share("closing-speed", full, from + Fixed::raw(100), Fixed::whole(100_000));
        }
        if attack.sharing == Sharing::Body && !matches!(attack.form, Form::Projectile(_)) {
            self.find("sharing", Problem::OnlyProjectiles);
        }
        if let Some(most) = attack.max_targets {
            self.range("max-targets", most.into(), 1, u16::MAX.into());
        }
        if let Some(Within { cosine, .. }) = attack.direction
            && !cosine.is_finite()
        {
            self.find("only from", Problem::NotFinite { value: cosine });
        }
        if let Some(Grip { at, lasts, breaks_after, status }) = attack.holds {
            if at.settled().is_none() {
                self.find("holds", Problem::NoTurn);
            }
            if let Some(ticks) = lasts {
                self.range("holds", ticks.into(), 1, LONGEST);
            }
            if let Some(points) = breaks_after {
                self.range("holds", points, 1, LARGEST);
            }
            if let Some(status) = status {
                self.id("holds", "status", status.index(), sizes.statuses);
            }
        }
        if let Some(clash) = attack.clash {
            self.range("clash", clash.layer.into(), 0, 31);
        }
        self.damage(&attack.damage, sizes);
        self.answers(attack, sizes);
        for status in &attack.ignores {
            self.id("ignores", "status", status.index(), sizes.statuses);
        }
        for (_, child) in &attack.children {
            match names.get(child.as_str()) {
                None => self.find("children", Problem::UnknownAttack(child.clone())),
                Some(form) if form.needs_body() => self.find("children", Problem::NeedsBody(child.clone())),
                Some(_) => {}
            }
        }
        if let Some(chain) = &attack.chain {
            if !names.contains_key(chain.next.as_str()) {
                self.find("chain", Problem::UnknownAttack(chain.next.clone()));
            }
            self.range("chain", chain.lapses.into(), i64::from(chain.opens) + 1, LONGEST);
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

    pub(in crate::ruleset) fn timeline(&mut self, attack: &Attack) {
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
            if let Some(ticks) = attack.windows_last {
                self.range("windows_last", ticks.into(), 1, LONGEST);
            }
        } else if attack.gaps.is_empty() {
            self.find("timeline", Problem::NoWindow);
        } else if attack.windows_last.is_some() {
            self.find("windows_last", Problem::TwoTimelines);
        }
        for &[gap, window] in &attack.gaps {
            self.range("timeline", gap.into(), 0, LONGEST);
            self.range("timeline", window.into(), 1, LONGEST);
        }
        self.range("timeline", attack.recovery.into(), 0, LONGEST);
        if let Some(charge) = attack.charge {
            self.range("charge", charge.most.into(), i64::from(charge.least) + 1, LONGEST);
            self.share("charge", charge.full, Fixed::ZERO, Fixed::whole(1000));
        }
    }

    pub(in crate::ruleset) fn path(&mut self, attack: &Attack) {
        if !attack.path.0.is_empty() && (attack.form != Form::Melee || attack.guided) {
            self.find("path", Problem::PathUnused);
        }
        if attack.guided && attack.form != Form::Melee {
            self.find("guided", Problem::OnlyMelee);
        }
        let mut before: Option<u32> = None;
        for key in &attack.path.0 {
            let written = key.turn.is_none_or(|(axis, degrees)| {
                axis.iter().any(|&x| x != 0.0) && axis.iter().all(|x| x.is_finite()) && degrees.is_finite()
            });
            if !written || key.pose.settled().is_none() {
                self.find("path", Problem::NoTurn);
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
