//! Columns of combatants and their lists.

use super::*;
use crate::state::SIZES;
use crate::terms::NEVER;

impl Check<'_> {
    /// All columns are as long as there are places.
    pub(super) fn columns(&self) -> Found {
        let c = &self.state.combatants;
        let lengths = [
            c.generation.len(),
            c.life.len(),
            c.lives.len(),
            c.template.len(),
            c.team.len(),
            c.health.len(),
            c.max.len(),
            c.own_max.len(),
            c.pose_before.len(),
            c.pose.len(),
            c.goal.len(),
            c.goal_ticks.len(),
            c.died.len(),
            c.key.len(),
            c.credit.len(),
            c.running.len(),
            c.stopped_until.len(),
            c.gathered.len(),
            c.gathered_at.len(),
            c.broken.len(),
            c.off.len(),
            c.hidden.len(),
            c.size.len(),
            c.part_losses.len(),
            c.shields.len(),
            c.host_changes.len(),
            c.prevented_deaths.len(),
            c.statuses_of.len(),
            c.afterlives.len(),
            c.leader.len(),
            c.followers.len(),
            c.values.len(),
            c.starts.len(),
            c.contributors.len(),
        ];
        must(lengths.iter().all(|&length| length == self.slots), "its columns are of different lengths")?;
        let lengths = [c.gauges.len(), c.cooldowns.len(), c.uses.len(), c.flags.len(), c.counters.len()];
        must(lengths.iter().all(|&length| length <= self.slots), "a list has no combatant")?;
        let (rules, state) = (self.rules, self.state);
        let lengths = [
            (c.spawned.len(), rules.templates.len()),
            (state.unowned_starts.len(), rules.attacks.len()),
            (state.flags.len(), rules.flags.len()),
            (state.counters.len(), rules.counters.len()),
            (state.scores.len(), rules.scores.len()),
            (state.waves.len(), rules.waves.len()),
            (state.fired.len(), rules.rule_book.len()),
            (state.last_facts.len(), rules.remembered.len()),
        ];
        must(lengths.iter().all(|(found, wanted)| found == wanted), "it has other entries than the ruleset")?;
        let few = |count: &u32| *count < u32::MAX / 2;
        must(c.spawned.iter().chain(&state.unowned_starts).all(few), "a count is out of bounds")
    }

    pub(super) fn combatants(&self) -> Found {
        let (rules, c) = (self.rules, &self.state.combatants);
        for slot in 0..self.slots {
            let known =
                c.template[slot].index() < rules.templates.len() && c.team[slot].index() < rules.teams.len();
            must(known, "a combatant is made from nothing of the ruleset")?;
            let epoch = c.generation[slot].epoch() <= self.state.registrar.epoch.0;
            must(epoch && c.lives[slot] < u32::MAX / 2, "a combatant's life is out of bounds")?;
            let health = (0..=c.max[slot]).contains(&c.health[slot]);
            match c.life[slot] {
                Life::Gone => {}
                Life::Standing => must(health && c.health[slot] >= 1, "one who stands has no health")?,
                Life::Dead | Life::Away => must(health, "health is out of its bounds")?,
            }
            if c.life[slot] != Life::Gone {
                must(c.lives[slot] > 0 && c.max[slot] >= 1 && c.own_max[slot] >= 1, "a life has no health")?;
                must(self.placed(c.credit[slot]) || c.credit[slot].slot < MOST_PLACES, "a credit is wrong")?;
            }
            let poses = [c.pose[slot], c.pose_before[slot], c.goal[slot]];
            // An interpolated turn is of length 1 but for rounding, and need not be settled to the bit.
            must(poses.iter().all(|pose| near_settled(*pose)), "a pose is out of bounds")?;
            must(
                self.earlier(c.died[slot]) && self.earlier(c.gathered_at[slot]),
                "something is yet to come",
            )?;
            must(self.later(c.stopped_until[slot]), "a stop never ends")?;
            must(c.gathered[slot] >= Fixed::ZERO, "what is gathered is below nothing")?;
        }
        Ok(())
    }

    pub(super) fn lists_of_combatants(&self) -> Found {
        let (rules, c) = (self.rules, &self.state.combatants);
        let whole = c.part_losses.is_sound()
            && c.shields.is_sound()
            && c.host_changes.is_sound()
            && c.prevented_deaths.is_sound()
            && c.statuses_of.is_sound()
            && c.afterlives.is_sound()
            && c.followers.is_sound()
            && c.values.is_sound()
            && c.gauges.is_sound()
            && c.cooldowns.is_sound()
            && c.uses.is_sound()
            && c.flags.is_sound()
            && c.counters.is_sound()
            && c.starts.is_sound()
            && c.contributors.is_sound()
            && c.part_poses.is_sound();
        must(whole, "a list is not whole")?;
        for slot in 0..self.slots {
            let parts = rules.template(c.template[slot]).parts.len();
            let sound =
                { c.part_losses.iter(slot) }.all(|(part, lost)| usize::from(*part) < parts && *lost >= 0);
            must(sound, "a part has lost what it cannot")?;
            let mask = u64::MAX.checked_shl(parts as u32).unwrap_or(0);
            must((c.off[slot] | c.hidden[slot]) & mask == 0, "a part is hidden that is none")?;
            must((SIZES.0..=SIZES.1).contains(&c.size[slot]), "a combatant has no size")?;
            let posed = c.part_poses.iter(slot).count();
            let may = posed == 0 || posed == parts && rules.template(c.template[slot]).posed.is_some();
            let sound = may && c.part_poses.iter(slot).all(|pose| super::near_settled(*pose));
            must(sound, "parts are posed that cannot be")?;
            let sound = { c.shields.iter(slot) }
                .all(|pool| pool.shield.index() < rules.shields.len() && pool.points >= 0);
            must(sound, "a shield is none of the ruleset")?;
            for change in c.host_changes.iter(slot) {
                let known =
                    change.stat.index() < rules.stats.len() && change.reason.index() < rules.reasons.len();
                must(known && self.changes(change.by), "a change is none of the ruleset")?;
            }
            for (cause, count) in c.prevented_deaths.iter(slot) {
                let known = match *cause {
                    Cause::Template(template) => template.index() < rules.templates.len(),
                    Cause::Status(status) => status.index() < rules.statuses.len(),
                    Cause::Host(reason) => reason.index() < rules.reasons.len(),
                    Cause::Hook(_) => true,
                };
                must(known && *count < u32::MAX / 2, "what kept one alive is none of the ruleset")?;
            }
            let mut afterlives = c.afterlives.iter(slot);
            if let Some(afterlife) = afterlives.next() {
                let sound =
                    near_settled(afterlife.home) && afterlife.back.is_none_or(|back| self.later(back));
                must(sound && afterlives.next().is_none(), "a next life is out of bounds")?;
            }
            let sound = { c.values.iter(slot) }.all(|(value, _)| value.index() < rules.values.len());
            must(sound, "a value is none of the ruleset")?;
            self.gauges_of(slot)?;
            let sound = { c.flags.iter(slot) }.all(|flag| flag.index() < rules.combatant_flags.len()) && {
                c.counters.iter(slot)
            }
            .all(|(of, _)| of.index() < rules.combatant_counters.len());
            must(sound, "a flag or a counter of a combatant is none of the ruleset")?;
            let sound = { c.starts.iter(slot) }
                .all(|(attack, count)| attack.index() < rules.attacks.len() && *count < u32::MAX / 2);
            must(sound, "a count of starts is out of bounds")?;
            let contributors: Vec<&Contributor> = c.contributors.iter(slot).collect();
            let sound = contributors
                .iter()
                .all(|contributor| self.placed(contributor.who) && self.earlier(contributor.tick));
            must(sound && contributors.len() <= 64, "a contributor is not known")?;
        }
        Ok(())
    }

    /// The gauges of a template, each once; cooldowns and uses of attacks that have them.
    fn gauges_of(&self, slot: usize) -> Found {
        let (rules, c) = (self.rules, &self.state.combatants);
        let own = &rules.template(c.template[slot]).gauges;
        for row in c.gauges.iter(slot) {
            let sound = own.contains(&row.gauge) && row.max >= 0 && (0..=row.max).contains(&row.points);
            let part = row.part.abs() <= Fixed::whole(2_000_000);
            must(sound && part && self.earlier(row.lost_at), "a gauge is out of bounds")?;
        }
        let gauges: BTreeSet<GaugeId> = c.gauges.iter(slot).map(|row| row.gauge).collect();
        must(gauges.len() == c.gauges.iter(slot).count(), "a gauge is there twice")?;
        let keys: Vec<u16> = (0..rules.attacks.len())
            .filter_map(|attack| rules.attack_plan(AttackId::new(attack)).cooldown)
            .collect();
        let sound = { c.cooldowns.iter(slot) }
            .all(|(key, until)| keys.contains(key) && (*until == NEVER || self.later(*until)));
        must(sound, "a cooldown is none of the ruleset")?;
        let sound = { c.uses.iter(slot) }.all(|row| {
            let uses = rules.attacks.get(row.attack.index()).and_then(|attack| attack.uses);
            uses.is_some_and(|uses| row.spent <= uses.max) && self.earlier(row.since)
        });
        must(sound, "uses are none of the ruleset")
    }

    pub(super) fn changes(&self, by: Modifier) -> bool {
        let most = Fixed::whole(1_000_000_000);
        let value = by.value();
        let least = if matches!(by, Modifier::Multiply(_)) { Fixed::ZERO } else { Fixed::ZERO - most };
        (least..=most).contains(&value)
    }

    /// Leaders are there, their lists say the same, and there is no circle of followers.
    pub(super) fn followers(&self) -> Found {
        let c = &self.state.combatants;
        let mut listed = 0;
        for slot in 0..self.slots {
            for follower in c.followers.iter(slot) {
                let known = c.is_present(*follower) && c.leader_of(follower.slot()) == Some(c.id(slot));
                must(known, "a follower follows another")?;
                listed += 1;
            }
        }
        let led = (0..self.slots).filter(|&slot| c.life[slot] != Life::Gone && c.leader_of(slot).is_some());
        must(led.count() == listed, "a leader does not know all who follow")?;
        // 0 not looked at, 1 on the way, 2 known to lead to no circle.
        let mut known = vec![0u8; self.slots];
        for start in 0..self.slots {
            let mut way = Vec::new();
            let mut at = Some(start);
            while let Some(slot) = at.filter(|&slot| known[slot] == 0) {
                known[slot] = 1;
                way.push(slot);
                at = if c.life[slot] == Life::Gone { None } else { c.leader_of(slot).map(|who| who.slot()) };
            }
            must(at.is_none_or(|slot| known[slot] != 1), "followers go round in a circle")?;
            way.into_iter().for_each(|slot| known[slot] = 2);
        }
        Ok(())
    }
}
