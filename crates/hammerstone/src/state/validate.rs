//! Whether a state that was read is one that an encounter may have written, as far as a later tick depends on it.
//!
//! Ids are those of the ruleset and of the state, rows stand in their order, lists are whole, numbers leave room to count on. It is no
//! check of whether the fight could have come to this.

mod combatants;

mod swings;

use std::collections::{BTreeMap, BTreeSet};

use super::*;
use crate::Fixed;
use crate::checksum::checksum;
use crate::event::Cause;
use crate::geometry::{FARTHEST, Pose, in_bounds};
use crate::orders::tamed;
use crate::ruleset::def::{Form, Modifier};
use crate::ruleset::{Pool, Rules};
use crate::terms::{FASTEST, NORMAL, Topical};

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
    check.past()?;
    check.applications()?;
    check.pools()?;
    check.tempos_and_holds()?;
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
        must(*tick <= LAST_TICK, "its tick is after the last")?;
        let outcome = match *flow {
            Flow::Ending(outcome) | Flow::Ended(outcome) => outcome.index() < self.rules.outcomes.len(),
            Flow::Prepared | Flow::Running => true,
        };
        must(outcome, "its outcome is none of the ruleset")?;
        must(!matches!(flow, Flow::Ending(_)), "it is in the middle of a tick")?;
        let numbers = [*next_contact, *next_hit, *next_blow, *next_application, self.state.next_hold];
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
        must(epoch.0 <= Epoch::LAST, "its epoch is after the last")?;
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
        let pressed = pressed.chain(self.state.presses.iter().map(|(_, press)| &press.swing));
        must(!pressed.into_iter().any(taken), "a swing is reserved and waits")?;
        let mut ids: Vec<ObstacleId> = reserved_obstacles.0.iter().copied().collect();
        ids.extend(self.state.all_raised().map(|raised| raised.id));
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

    fn pools(&self) -> Found {
        let (c, rules) = (&self.state.combatants, self.rules);
        let shares = |slot: &usize| c.life[*slot] != Life::Gone;
        let of = |slot: usize| rules.template(c.template[slot]).pool.map(|pool| (pool, c.id(slot)));
        let mut all: Vec<_> = (0..self.slots).filter(shares).filter_map(of).collect();
        all.sort_unstable();
        must(all == self.state.pools, "a pool is shared by others than have its templates")?;
        let standing = |who: &CombatantId| c.life_of(*who) == Life::Standing;
        for share in all.chunk_by(|one, other| one.0 == other.0) {
            must(share.len() <= Pool::MOST, "a pool is shared by too many")?;
            let mut health = share.iter().map(|(_, who)| *who).filter(standing).map(|who| {
                let slot = who.slot();
                (c.health[slot], c.max[slot], c.own_max[slot])
            });
            let first = health.next();
            must(health.all(|other| Some(other) == first), "a pool holds more for one than for another")?;
        }
        Ok(())
    }

    fn tempos_and_holds(&self) -> Found {
        let State { tempos, holds, combatants: c, .. } = self.state;
        must(rises(tempos.iter().map(|tempo| tempo.who)), "time scales are out of order")?;
        for tempo in tempos {
            let known = c.is_present(tempo.who) && tempo.scale <= FASTEST && tempo.scale != NORMAL;
            must(known && tempo.left_over < NORMAL && tempo.steps <= 2, "a time scale is wrong")?;
        }
        must(rises(holds.iter().map(|hold| hold.number)), "holds are out of order")?;
        for hold in holds {
            let number = (1..self.state.next_hold).contains(&hold.number);
            let stand = [hold.held, hold.holder].into_iter().all(|who| c.life_of(who) == Life::Standing);
            let attack = hold.attack.index() < self.rules.attacks.len()
                && self.rules.attack(hold.attack).holds.is_some();
            must(number && stand && attack && hold.held != hold.holder, "a hold is wrong")?;
            let others = holds.iter().filter(|other| other.held == hold.held || other.held == hold.holder);
            must(others.count() == 1, "one who is held holds, or is held twice")?;
            let ends = hold.ends.is_none_or(|ends| self.later(ends));
            must(ends && self.earlier(hold.since) && hold.lost >= 0, "a hold is out of bounds")?;
        }
        Ok(())
    }

    fn applications(&self) -> Found {
        let State { applications, combatants: c, .. } = self.state;
        must(rises(applications.iter().map(|application| application.id)), "statuses are out of order")?;
        for application in applications {
            let number = (1..self.state.next_application).contains(&application.id.number());
            must(number && c.is_present(application.subject), "a status is on one who is gone")?;
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
            for id in c.statuses_of.iter(slot) {
                let index = self.state.application_index(*id);
                let own = index.is_some_and(|index| applications[index].subject == c.id(slot));
                must(own, "a status belongs to another combatant")?;
                statuses_of += 1;
            }
            let ids: BTreeSet<ApplicationId> = c.statuses_of.iter(slot).copied().collect();
            must(ids.len() == c.statuses_of.iter(slot).count(), "a status is listed twice")?;
        }
        must(statuses_of == applications.len(), "a status has no bearer")
    }

    fn orders_and_listeners(&self) -> Found {
        let State { pending, subscriptions, registrar, .. } = self.state;
        for order in pending {
            let mut kept = order.order;
            kept.tame();
            let sound = (order.depth, order.root) == (0, 0) && order.order == kept;
            must(sound && order.number.number() <= registrar.orders, "an order is out of bounds")?;
            let mut named = order.order;
            let there = named.poses().is_none_or(|poses| poses.of(&self.state.given_poses).is_some());
            must(there, "an order names poses that are not there")?;
        }
        let tame = self.state.given_poses.iter().all(|&pose| pose == tamed(pose));
        must(tame, "a pose of an order is out of bounds")?;
        must(rises(subscriptions.iter().map(|subscription| subscription.id)), "listeners are out of order")?;
        for subscription in subscriptions {
            let known = match subscription.listen.topical {
                Topical::To(topic) => topic.index() < self.rules.topics.count(),
                Topical::Under(_) | Topical::All => true,
            };
            let filter = subscription.listen.filter;
            let known = known && filter.is_none_or(|filter| filter.index() < self.rules.filters.len());
            let from = subscription.from <= self.state.next_fact && subscription.until.is_none();
            must(known && from, "a listener hears what there is not")?;
        }
        must(rises(self.state.pauses.iter().map(|pause| pause.id)), "pauses are out of order")?;
        for pause in &self.state.pauses {
            let own = subscriptions.binary_search_by_key(&pause.id, |known| known.id).is_ok();
            let open = pause.to.is_none() && pause.from <= self.state.next_fact;
            must(own && open, "a listener is paused that is not there")?;
        }
        Ok(())
    }

    fn flow(&self) -> Found {
        let (rules, state) = (self.rules, self.state);
        must(state.round > 0, "its round is none")?;
        for (waves, authored) in state.waves.iter().zip(&rules.waves) {
            let come = match authored.times_of() {
                Some(times) if waves.running => waves.come < times,
                Some(times) => waves.come <= times,
                None => waves.come < u32::MAX,
            };
            must(come && waves.due.is_none_or(|due| self.later(due)), "a wave is out of bounds")?;
        }
        must(
            rises(state.fired_in_life.iter().map(|(who, rule, _)| (*who, *rule))),
            "rules are out of order",
        )?;
        let rule = |rule: RuleId| rule.index() < rules.rule_book.len();
        must(state.fired_in_life.iter().all(|(_, id, _)| rule(*id)), "a rule is none of the ruleset")?;
        must(rises(state.rolled.iter().map(|(who, rule, _)| (*who, *rule))), "rolls are out of order")?;
        must(state.rolled.iter().all(|(_, id, _)| rule(*id)), "a rule is none of the ruleset")?;
        must(state.last_facts.iter().all(|&tick| self.earlier(tick)), "a fact is yet to come")?;
        let in_order = state.readings.is_sorted_by_key(|read| read.cause);
        must(in_order && state.readings.iter().all(|read| rule(read.rule)), "a reading is out of order")?;
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
