//! Whether a state that was read is one that an encounter may have written, as far as a later tick depends on it.
//!
//! Ids are those of the ruleset and of the state, rows stand in their order, lists are whole, numbers leave room to count on. It is no
//! check of whether the fight could have come to this.

use std::collections::{BTreeMap, BTreeSet};

use super::*;
use crate::Fixed;
use crate::event::Cause;
use crate::geometry::{FARTHEST, Pose, in_bounds};
use crate::hooks::Topical;
use crate::ruleset::{Form, Modifier, Rules};

type Found = Result<(), &'static str>;

/// Counts of what a fight does leave so much room.
const MOST: u64 = 1 << 40;
/// What lasts is over so many ticks from now at the latest.
const LONGEST: u32 = 200_000_000;

fn must(holds: bool, what: &'static str) -> Found {
    if holds { Ok(()) } else { Err(what) }
}

/// Looks through a state, and the one to which a reset returns.
pub(crate) fn validate(state: &State, first: Option<&State>, rules: &Rules) -> Found {
    sound(state, rules)?;
    match first {
        Some(first) => {
            must(first.flow == Flow::Prepared && first.tick == 0, "its first state has begun")?;
            let same = state.flow == Flow::Prepared || state.first_fingerprint == checksum(first);
            must(same, "its first state is another")?;
            sound(first, rules)
        }
        None => must(state.flow == Flow::Prepared, "its first state is missing"),
    }
}

fn sound(state: &State, rules: &Rules) -> Found {
    let check = Check { state, rules, slots: state.combatants.slots() };
    check.general()?;
    check.registrar()?;
    check.columns()?;
    check.combatants()?;
    check.lists_of_combatants()?;
    check.followers()?;
    check.swings()?;
    check.flying_and_children()?;
    check.applications()?;
    check.orders_and_listeners()?;
    check.flow()
}

struct Check<'a> {
    state: &'a State,
    rules: &'a Rules,
    slots: usize,
}

fn rises<T: Ord>(keys: impl IntoIterator<Item = T>) -> bool {
    keys.into_iter().is_sorted_by(|one, other| one < other)
}

impl Check<'_> {
    fn later(&self, tick: u32) -> bool {
        tick <= self.state.tick.saturating_add(LONGEST)
    }

    fn earlier(&self, tick: u32) -> bool {
        tick <= self.state.tick
    }

    /// The place of an id is one of the state, also if another combatant has it now.
    fn placed(&self, who: CombatantId) -> bool {
        who.slot() < self.slots
    }

    fn placed_if(&self, who: Option<CombatantId>) -> bool {
        who.is_none_or(|who| self.placed(who))
    }

    fn general(&self) -> Found {
        let State { tick, flow, next_fact, next_contact, next_hit, next_blow, next_application, .. } =
            self.state;
        must(*tick <= LAST_TICK, "its tick is beyond the last")?;
        let outcome = match *flow {
            Flow::Ending(outcome) | Flow::Ended(outcome) => outcome.index() < self.rules.outcomes.len(),
            Flow::Prepared | Flow::Running => true,
        };
        must(outcome, "its outcome is none of the ruleset")?;
        must(!matches!(flow, Flow::Ending(_)), "it is in the middle of a tick")?;
        let numbers = [*next_contact, *next_hit, *next_blow, *next_application];
        let sound = *next_fact <= u64::MAX / 4 && numbers.iter().all(|number| (1..=MOST).contains(number));
        must(sound, "a running number is out of bounds")?;
        must(!self.state.resets, "it is in the middle of a tick")?;
        let counts = self.state.counts;
        let small = [counts.attempts, counts.hits].into_iter().chain(counts.refused);
        must(small.into_iter().all(|count| count <= MOST), "its counts are out of bounds")?;
        must(counts.attempts == counts.hits + counts.refusals(), "its counts do not add up")
    }

    fn registrar(&self) -> Found {
        let Registrar { slots, free, swings, orders, obstacles, subscriptions, epoch, .. } =
            &self.state.registrar;
        let Registrar { reserved_combatants, reserved_swings, .. } = &self.state.registrar;
        let Registrar { reserved_obstacles, reserved_subscriptions, .. } = &self.state.registrar;
        must(epoch.0 <= Epoch::LAST, "its epoch is beyond the last")?;
        must(*slots <= Registrar::MOST_SLOTS && self.slots <= *slots as usize, "it has too many places")?;
        let numbers = [*swings, *orders, *obstacles, *subscriptions];
        must(numbers.iter().all(|number| *number <= MOST), "a running number is out of bounds")?;
        let combatants = &self.state.combatants;
        let mut given = BTreeSet::new();
        for id in free.iter().chain(&reserved_combatants.0) {
            let empty = match combatants.life.get(id.slot()) {
                Some(Life::Gone) => {
                    let tenant = combatants.generation.get(id.slot());
                    combatants.lives.get(id.slot()) == Some(&0)
                        || tenant.is_some_and(|tenant| tenant.number() < id.generation())
                }
                Some(_) => false,
                None => true,
            };
            let known = id.slot() < *slots as usize && id.generation.epoch() <= epoch.0;
            must(known && empty && given.insert(id.slot), "a place is taken and free at once")?;
        }
        let within = |number: u64, last: u64| (1..=last).contains(&number);
        let mut ids: Vec<SwingId> = reserved_swings.0.iter().copied().collect();
        ids.sort_unstable();
        must(rises(&ids) && ids.iter().all(|id| within(id.number(), *swings)), "a reserved swing is wrong")?;
        let taken = |id: &SwingId| ids.binary_search(id).is_ok();
        must(!self.state.swings.iter().any(|swing| taken(&swing.id)), "a swing is reserved and runs")?;
        let pressed = self.state.steps.iter().filter_map(|(_, step)| step.pressed.as_ref());
        must(!pressed.into_iter().any(taken), "a swing is reserved and waits")?;
        let mut ids: Vec<ObstacleId> = reserved_obstacles.0.iter().copied().collect();
        ids.extend(self.state.obstacles.iter().map(|(id, _)| *id));
        ids.sort_unstable();
        must(
            rises(&ids) && ids.iter().all(|id| within(id.number(), *obstacles)),
            "an obstacle's id is wrong",
        )?;
        let mut ids: Vec<SubscriptionId> = reserved_subscriptions.0.iter().copied().collect();
        ids.extend(self.state.subscriptions.iter().map(|subscription| subscription.id));
        ids.sort_unstable();
        let sound = rises(&ids) && ids.iter().all(|id| id.number() > 0 && id.number() <= MOST);
        must(sound, "a subscription's id is wrong")
    }

    /// All columns are as long as there are places.
    fn columns(&self) -> Found {
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
        let (rules, state) = (self.rules, self.state);
        let lengths = [
            (c.spawned.len(), rules.templates.len()),
            (state.unowned_starts.len(), rules.attacks.len()),
            (state.flags.len(), rules.flags.len()),
            (state.counters.len(), rules.counters.len()),
            (state.scores.len(), rules.scores.len()),
            (state.waves.len(), rules.waves.len()),
            (state.fired.len(), rules.rule_book.len()),
        ];
        must(lengths.iter().all(|(found, wanted)| found == wanted), "it has other entries than the ruleset")?;
        let few = |count: &u32| *count < u32::MAX / 2;
        must(c.spawned.iter().chain(&state.unowned_starts).all(few), "a count is out of bounds")
    }

    fn combatants(&self) -> Found {
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

    fn lists_of_combatants(&self) -> Found {
        let (rules, c) = (self.rules, &self.state.combatants);
        let heads = |column: &Vec<Chain>| column.clone();
        let whole = c.part_loss_lists.is_sound(heads(&c.part_losses))
            && c.pools.is_sound(heads(&c.shields))
            && c.host_change_lists.is_sound(heads(&c.host_changes))
            && c.prevented_death_counts.is_sound(heads(&c.prevented_deaths))
            && c.borne_lists.is_sound(heads(&c.statuses_of))
            && c.afterlife_list.is_sound(heads(&c.afterlives))
            && c.follower_lists.is_sound(heads(&c.followers))
            && c.value_lists.is_sound(heads(&c.values))
            && c.start_counts.is_sound(heads(&c.starts))
            && c.contributor_lists.is_sound(heads(&c.contributors));
        must(whole, "a list is not whole")?;
        for slot in 0..self.slots {
            let parts = rules.template(c.template[slot]).parts.len();
            let sound = { c.part_loss_lists.items(c.part_losses[slot]) }
                .all(|(part, lost)| usize::from(*part) < parts && *lost >= 0);
            must(sound, "a part has lost what it cannot")?;
            let sound = { c.pools.items(c.shields[slot]) }
                .all(|pool| pool.shield.index() < rules.shields.len() && pool.points >= 0);
            must(sound, "a shield is none of the ruleset")?;
            for change in c.host_change_lists.items(c.host_changes[slot]) {
                let known =
                    change.stat.index() < rules.stats.len() && change.reason.index() < rules.reasons.len();
                must(known && self.changes(change.by), "a change is none of the ruleset")?;
            }
            for (cause, count) in c.prevented_death_counts.items(c.prevented_deaths[slot]) {
                let known = match *cause {
                    Cause::Template(template) => template.index() < rules.templates.len(),
                    Cause::Status(status) => status.index() < rules.statuses.len(),
                    Cause::Host(reason) => reason.index() < rules.reasons.len(),
                    Cause::Hook(_) => true,
                };
                must(known && *count < u32::MAX / 2, "what kept one alive is none of the ruleset")?;
            }
            let mut afterlives = c.afterlife_list.items(c.afterlives[slot]);
            if let Some(afterlife) = afterlives.next() {
                let sound =
                    near_settled(afterlife.home) && afterlife.back.is_none_or(|back| self.later(back));
                must(sound && afterlives.next().is_none(), "a next life is out of bounds")?;
            }
            let sound =
                { c.value_lists.items(c.values[slot]) }.all(|(value, _)| value.index() < rules.values.len());
            must(sound, "a value is none of the ruleset")?;
            let sound = { c.start_counts.items(c.starts[slot]) }
                .all(|(attack, count)| attack.index() < rules.attacks.len() && *count < u32::MAX / 2);
            must(sound, "a count of starts is out of bounds")?;
            let contributors: Vec<&Contributor> = c.contributor_lists.items(c.contributors[slot]).collect();
            let sound = contributors
                .iter()
                .all(|contributor| self.placed(contributor.who) && self.earlier(contributor.tick));
            must(sound && contributors.len() <= 64, "a contributor is not known")?;
        }
        Ok(())
    }

    fn changes(&self, by: Modifier) -> bool {
        let most = Fixed::whole(1_000_000_000);
        let value = by.value();
        let least = if matches!(by, Modifier::Multiply(_)) { Fixed::ZERO } else { Fixed::ZERO - most };
        (least..=most).contains(&value)
    }

    /// Leaders are there, their lists say the same, and there is no circle of followers.
    fn followers(&self) -> Found {
        let c = &self.state.combatants;
        let mut listed = 0;
        for slot in 0..self.slots {
            for follower in c.follower_lists.items(c.followers[slot]) {
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

    fn swings(&self) -> Found {
        let State { swings, struck, contacts, captured, registrar, .. } = self.state;
        must(rises(swings.iter().map(|swing| swing.id)), "swings are out of order")?;
        must(captured.is_sound(swings.iter().map(|swing| swing.captured)), "a list is not whole")?;
        must(struck.is_sound(swings.iter().map(|swing| swing.struck)), "a list is not whole")?;
        must(contacts.is_sound(swings.iter().map(|swing| swing.contacts)), "a list is not whole")?;
        let mut running: BTreeMap<CombatantId, u16> = BTreeMap::new();
        let mut bodies: BTreeMap<SwingId, u16> = BTreeMap::new();
        for body in &self.state.flying {
            *bodies.entry(body.swing).or_default() += 1;
        }
        let mut met = BTreeSet::new();
        for swing in swings {
            self.swing(swing, registrar)?;
            let flies = bodies.get(&swing.id).copied().unwrap_or(0);
            must(swing.bodies == flies && (flies == 0 || swing.launched), "a swing has lost a body")?;
            if let (true, Some(attacker)) = (swing.busy, swing.attacker) {
                must(self.state.combatants.is_present(attacker), "hands are bound that are gone")?;
                *running.entry(attacker).or_default() += 1;
            }
            must(!swing.busy || swing.attacker.is_some(), "hands are bound, and no attacker is named")?;
            for contact in contacts.items(swing.contacts) {
                self.contact(swing, contact)?;
                must(met.insert(contact.id), "a contact comes twice")?;
            }
        }
        let c = &self.state.combatants;
        for slot in 0..self.slots {
            let bound = running.get(&c.id(slot)).copied().unwrap_or(0);
            let counted = c.life[slot] == Life::Gone || c.running[slot] == bound;
            must(counted, "hands are bound by no swing")?;
        }
        Ok(())
    }

    fn swing(&self, swing: &Swing, registrar: &Registrar) -> Found {
        let (rules, state) = (self.rules, self.state);
        must((1..=registrar.swings).contains(&swing.id.number()), "a swing was never reserved")?;
        must(swing.attack.index() < rules.attacks.len(), "an attack is none of the ruleset")?;
        let attack = rules.attack(swing.attack);
        let whose = self.placed_if(swing.attacker)
            && swing.team.index() < rules.teams.len()
            && swing.template.is_none_or(|template| template.index() < rules.templates.len());
        must(whose, "a swing names an attacker, a team or a template that is not there")?;
        // What is carried by one who is gone would move with another.
        let left = attack.form.leaves_the_hand() || swing.anchor.is_some() || swing.launched;
        let there = swing.attacker.is_none_or(|who| state.combatants.is_present(who));
        must(there || left, "the attacker of a swing is gone")?;
        let windows = if attack.marked.is_some() {
            u16::MAX as usize
        } else {
            self.rules.attack_plan(swing.attack).windows.len()
        };
        must(usize::from(swing.window) <= windows, "a window is none of the attack's")?;
        let short = [swing.clock, swing.age].into_iter().all(|ticks| ticks < LONGEST);
        must(short && self.later(swing.last_tick) && swing.ended.is_none(), "a swing never ends")?;
        must(usize::from(swing.links) <= usize::from(u16::MAX) - 2, "a swing has too many before it")?;
        must(swing.start < u32::MAX / 2, "a count of starts is out of bounds")?;
        match swing.charging {
            Charging::Held(held, _) => must(held < LONGEST && attack.charge.is_some(), "a charge is wrong")?,
            Charging::Released(share) => {
                must((Fixed::ZERO..=Fixed::ONE).contains(&share), "a charge is wrong")?
            }
        }
        let poses = swing.guided.iter().chain(&swing.anchor);
        must(poses.into_iter().all(|pose| near_settled(*pose)), "a pose is out of bounds")?;
        for captured in state.captured.items(swing.captured) {
            let known = match *captured {
                Captured::Stat(stat, _) => stat.index() < rules.stats.len(),
                Captured::Status(status, ..) => status.index() < rules.statuses.len(),
            };
            must(known, "what a swing knows is none of the ruleset")?;
        }
        for mark in state.struck.items(swing.struck) {
            let few = [mark.hits, mark.turns, mark.turns_in_window].into_iter().all(|count| count < LONGEST);
            must(self.placed(mark.target) && few && mark.last <= swing.age, "a struck entry is wrong")?;
        }
        Ok(())
    }

    fn contact(&self, swing: &Swing, contact: &Contact) -> Found {
        let c = &self.state.combatants;
        let number = (1..self.state.next_contact).contains(&contact.id.number());
        must(number && self.placed(contact.target) && self.earlier(contact.seen), "a contact is wrong")?;
        let slot = contact.target.slot();
        let part = usize::from(contact.part) < self.rules.template(c.template[slot]).parts.len();
        let there = contact.over || (c.is_present(contact.target) && part);
        must(there && swing.attacker != Some(contact.target), "a contact is with one who is not there")
    }

    fn flying_and_children(&self) -> Found {
        let State { flying, children, obstacles, steps, .. } = self.state;
        must(rises(flying.iter().map(|body| (body.swing, body.body))), "bodies are out of order")?;
        for body in flying {
            let Some(index) = self.state.swing_index(body.swing) else { return Err("a body has no swing") };
            let form = self.rules.attack(self.state.swings[index].attack).form;
            must(matches!(form, Form::Projectile(_)) && body.body > 0, "a body flies that cannot")?;
            let sound = near_settled(body.pose) && near_settled(body.before) && fast(body.velocity.0);
            must(sound && body.ended.is_none() && body.struck < u16::MAX, "a body is out of bounds")?;
        }
        for child in children {
            let known = child.attack.index() < self.rules.attacks.len()
                && child.team.index() < self.rules.teams.len();
            must(known && self.placed_if(child.attacker), "a swing is to begin that cannot")?;
            let velocity = child.velocity.is_none_or(|velocity| fast(velocity.0));
            must(
                near_settled(child.pose) && velocity && child.links < u16::MAX - 2,
                "a swing is out of bounds",
            )?;
        }
        must(rises(obstacles.iter().map(|(id, _)| *id)), "obstacles are out of order")?;
        must(obstacles.iter().all(|(_, obstacle)| obstacle.is_solid()), "an obstacle is no solid")?;
        must(rises(steps.iter().map(|(who, _)| *who)), "chains are out of order")?;
        for (who, step) in steps {
            let attacks = [step.opener, step.from, step.next];
            let known = attacks.iter().all(|attack| attack.index() < self.rules.attacks.len());
            must(
                known && self.state.combatants.is_present(*who),
                "a chain belongs to a combatant that is not there",
            )?;
            must(self.later(step.opens) && self.later(step.lapses), "a chain never lapses")?;
            let pressed = step.pressed.is_none_or(|swing| {
                let given = (1..=self.state.registrar.swings).contains(&swing.number());
                given && self.state.swing_index(swing).is_none()
            });
            must(pressed, "a press waits for what runs")?;
        }
        let presses = || steps.iter().filter_map(|(_, step)| step.pressed);
        must(presses().collect::<BTreeSet<_>>().len() == presses().count(), "two presses are one")
    }

    fn applications(&self) -> Found {
        let State { applications, combatants: c, .. } = self.state;
        must(rises(applications.iter().map(|application| application.id)), "statuses are out of order")?;
        for application in applications {
            let number = (1..self.state.next_application).contains(&application.id.number());
            must(number && c.is_present(application.subject), "a status is borne by one who is gone")?;
            must(application.status.index() < self.rules.statuses.len(), "a status is none of the ruleset")?;
            let team = application.team.is_none_or(|team| team.index() < self.rules.teams.len());
            must(team, "a team is none of the ruleset")?;
            let most = Fixed::whole(1_000_000_000_000);
            let strong = [application.given, application.strength, application.guarded];
            let sound = strong.iter().all(|strength| (Fixed::ZERO..=most).contains(strength));
            must(sound && (1..=1000).contains(&application.stacks), "a status is out of bounds")?;
            let earlier = [Some(application.applied), application.suspended];
            must(earlier.into_iter().flatten().all(|tick| self.earlier(tick)), "a status is yet to come")?;
            // A status that is given again and again may be lengthened for long; but it counts on, and does not begin anew.
            let due = application.due.is_none_or(|due| self.later(due));
            must(due && application.pulses < u32::MAX / 2 && !application.over, "a status is over")?;
        }
        let mut statuses_of = 0;
        for slot in 0..self.slots {
            for id in c.borne_lists.items(c.statuses_of[slot]) {
                let index = self.state.application_index(*id);
                let own = index.is_some_and(|index| applications[index].subject == c.id(slot));
                must(own, "a status belongs to another combatant")?;
                statuses_of += 1;
            }
            let ids: BTreeSet<ApplicationId> = c.borne_lists.items(c.statuses_of[slot]).copied().collect();
            must(ids.len() == c.borne_lists.items(c.statuses_of[slot]).count(), "a status is borne twice")?;
        }
        must(statuses_of == applications.len(), "a status has no bearer")
    }

    fn orders_and_listeners(&self) -> Found {
        let State { pending, subscriptions, registrar, .. } = self.state;
        for order in pending {
            let sound = (order.depth, order.root) == (0, 0) && order.order == order.order.tamed();
            must(sound && order.number.number() <= registrar.orders, "an order is out of bounds")?;
        }
        must(rises(subscriptions.iter().map(|subscription| subscription.id)), "listeners are out of order")?;
        for subscription in subscriptions {
            let known = match subscription.listen.topical {
                Topical::To(topic) => topic.index() < self.rules.topics.count(),
                Topical::Under(_) | Topical::All => true,
            };
            let from = subscription.from <= self.state.next_fact && subscription.until.is_none();
            must(known && from, "a listener hears what there is not")?;
        }
        Ok(())
    }

    fn flow(&self) -> Found {
        let (rules, state) = (self.rules, self.state);
        must(state.round > 0, "its round is none")?;
        for (waves, authored) in state.waves.iter().zip(&rules.waves) {
            let come = if waves.running { waves.come < authored.times } else { waves.come <= authored.times };
            must(come && waves.due.is_none_or(|due| self.later(due)), "a wave is out of bounds")?;
        }
        must(
            rises(state.fired_in_life.iter().map(|(who, rule, _)| (*who, *rule))),
            "rules are out of order",
        )?;
        let rule = |rule: RuleId| rule.index() < rules.rule_book.len();
        must(state.fired_in_life.iter().all(|(_, id, _)| rule(*id)), "a rule is none of the ruleset")?;
        for delayed in &state.delayed {
            let known = rule(delayed.rule)
                && usize::from(delayed.place) < rules.rule_book[delayed.rule.index()].does.len();
            must(known && self.later(delayed.due), "a delayed action is none of the ruleset")?;
        }
        Ok(())
    }
}

/// More places than there may be.
const MOST_PLACES: u32 = Registrar::MOST_SLOTS;

/// Whether a pose is finite, in bounds, and its turn of length 1 but for rounding.
fn near_settled(pose: Pose) -> bool {
    let square: f32 = pose.turn.iter().map(|x| x * x).sum();
    let length = (0.999..1.001).contains(&square);
    length && pose.at.iter().all(|x| x.abs() <= FARTHEST * 1.01)
}

/// Whether a velocity is one that a body may have.
fn fast(velocity: [f32; 3]) -> bool {
    in_bounds(&velocity.map(|x| x * 1.0e-3))
}
