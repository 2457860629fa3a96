//! Joining, leaving and coming back; and how everything ends that ends with someone.

mod adopted;
mod transform;

pub(crate) use adopted::settle_adopted;
pub(crate) use transform::transform;

use crate::Fixed;
use crate::event::{
    CombatantAway, CombatantJoined, CombatantRemoved, CombatantReturned, HealthChange, HealthChanged,
    LeaderLost, SwingEnd, Why,
};
use crate::gauges;
use crate::geometry::Pose;
use crate::hub::Listeners;
use crate::ids::*;
use crate::log::Log;
use crate::rolls;
use crate::ruleset::{Rules, Trigger};
use crate::state::{Afterlife, Newcomer, State, SwingAt};
use crate::statuses::{self, Granting};
use crate::swing::{drop_press, end_swing, free_hands, lives_on, part_from};
use crate::terms::Life;
use crate::terms::NORMAL;
use crate::work::Work;
use crate::{holds, tempo};

pub(crate) fn join(
    work: &mut Work<'_>,
    id: CombatantId,
    template: TemplateId,
    team: Option<TeamId>,
    pose: Pose,
    owner: Option<CombatantId>,
    key: Option<u64>,
) {
    let entry = work.rules.template(template);
    let combatants = &mut work.state.combatants;
    let credit = owner.map_or(id, |owner| combatants.root_owner(owner));
    let team = team.unwrap_or(entry.team);
    // One that has a key of its own counts for no other.
    let key = key.unwrap_or_else(|| {
        let ordinal = &mut combatants.spawned[template.index()];
        *ordinal += 1;
        rolls::spawn_key(work.rules.template_plan(template).key, (*ordinal - 1).into())
    });
    work.rooms.detection.posed.arrive(id.slot());
    combatants.seat(
        id,
        Newcomer { template, team, health: work.rules.own_health(template) as i32, pose, key, credit },
    );
    if let Some(lives) = entry.lives {
        let afterlife = Afterlife { home: pose, spare: lives.count - 1, back: None };
        combatants.set_afterlife(id.slot(), Some(afterlife));
    }
    gauges::share_pool(work.rules, work.state, id, true);
    let combatants = &mut work.state.combatants;
    let hidden = entry.hidden_at_first();
    (combatants.off[id.slot()], combatants.hidden[id.slot()]) = (hidden, hidden);
    combatants.leader[id.slot()] = id;
    combatants.follow(id.slot(), None);
    let max = fill_health(work.rules, work.state, id, Fixed::ONE);
    let (subject, tags) = (id, entry.tags);
    work.log.publish(CombatantJoined { subject, template, team, tags, health: max, max, life: 1, pose });
    gauges::begin_gauges(work.rules, work.state, work.log, id, true);
    raise_shields(work.rules, work.state, work.log, id);
    statuses::grants(work, Granting::alone(Trigger::Joins, id));
}

/// Brings health up to a share of its maximum, or to what is left of the pool that it shares, as far as statuses that run and the host's changes make it; at least to 1 point.
/// Publishes nothing, and crosses no threshold.
fn fill_health(rules: &Rules, state: &mut State, who: CombatantId, share: Fixed) -> i64 {
    let pooled = gauges::pooled(rules, state, who);
    let max = pooled.map_or_else(|| gauges::maximum_of(rules, state, who), |(_, max)| max);
    let own = (Fixed::whole(max) * share).floor().clamp(1, max);
    let health = pooled.map_or(own, |(health, _)| health);
    let combatants = &mut state.combatants;
    if pooled.is_some() {
        combatants.own_max[who.slot()] = max as i32;
    }
    combatants.max[who.slot()] = max as i32;
    combatants.health[who.slot()] = health as i32;
    health
}

/// The shields of its template.
fn raise_shields(rules: &Rules, state: &mut State, log: &mut Log, who: CombatantId) {
    for &(shield, points) in &rules.template(state.combatants.template[who.slot()]).shields {
        gauges::raise_shield(state, log, who, shield, points, None);
    }
}

/// One who is dead or away stands again.
pub(crate) fn come_back(work: &mut Work<'_>, subject: CombatantId, pose: Pose, share: Fixed, why: Why) {
    let slot = subject.slot();
    let combatants = &mut work.state.combatants;
    let from = i64::from(combatants.health[slot]);
    let afterlife = combatants.afterlife(slot);
    // Who is away until the next life has died as well.
    let new_life =
        combatants.life[slot] == Life::Dead || afterlife.is_some_and(|afterlife| afterlife.back.is_some());
    if new_life {
        combatants.lives[slot] += 1;
        let hidden = work.rules.template(combatants.template[slot]).hidden_at_first();
        combatants.begin_life(slot, hidden);
    }
    if let Some(afterlife) = afterlife {
        combatants.set_afterlife(slot, Some(Afterlife { back: None, ..afterlife }));
    }
    combatants.life[slot] = Life::Standing;
    combatants.stand_still(slot, pose);
    work.rooms.detection.posed.arrive(slot);
    combatants.forget_contributors(slot);
    let life = combatants.lives[slot];
    let health = fill_health(work.rules, work.state, subject, share);
    let max = work.state.combatants.max[slot].into();
    work.log.publish(CombatantReturned { subject, health, max, life, why, pose });
    if from != health {
        work.log.publish(HealthChanged { subject, from, to: health, max, why: HealthChange::Return });
    }
    if new_life {
        gauges::begin_gauges(work.rules, work.state, work.log, subject, false);
    }
    raise_shields(work.rules, work.state, work.log, subject);
    statuses::resume(work, subject);
    statuses::grants(work, Granting::alone(Trigger::Returns, subject));
}

/// The status that would have killed was lifted: its bearer is up again in the same life. What is given then waits among the steps of statuses.
pub(crate) fn rise(work: &mut Work<'_>, subject: CombatantId) {
    let combatants = &work.state.combatants;
    if combatants.life_of(subject) == Life::Standing {
        let slot = subject.slot();
        let (health, max) = (combatants.health[slot].into(), combatants.max[slot].into());
        let (life, why) = (combatants.lives[slot], Why::LiftedUp);
        let pose = combatants.pose[slot];
        work.log.publish(CombatantReturned { subject, health, max, life, why, pose });
        statuses::add_grants(work, Granting::alone(Trigger::Returns, subject));
    }
}

pub(crate) fn go_away(work: &mut Work<'_>, subject: CombatantId) {
    work.state.combatants.life[subject.slot()] = Life::Away;
    let seq = work.log.publish(CombatantAway { subject, why: Why::Ordered });
    end_all_of(work, subject, SwingEnd::Cancelled, Why::Away);
    end_subscriptions(work.state, &mut work.rooms.listeners, subject, seq);
}

/// Those who follow one who dies or is removed are told, each once, by their places; they follow no one from then on.
pub(crate) fn lose_leader(state: &mut State, log: &mut Log, leader: CombatantId, why: Why) {
    let combatants = &state.combatants;
    if combatants.followers.is_empty(leader.slot()) {
        return;
    }
    let mut followers: Vec<CombatantId> = combatants.followers.iter(leader.slot()).copied().collect();
    followers.sort_unstable();
    for subject in followers {
        state.combatants.follow(subject.slot(), None);
        if state.combatants.life_of(subject) == Life::Standing {
            log.publish(LeaderLost { subject, leader, why });
        }
    }
}

/// Takes effect at once; the place is free again when the tick is over.
pub(crate) fn remove(work: &mut Work<'_>, subject: CombatantId, why: Why) {
    let slot = subject.slot();
    work.state.combatants.life[slot] = Life::Gone;
    let label = Some(work.state.combatants.label[subject.slot()]).filter(|&label| label != 0);
    let seq = work.log.publish(CombatantRemoved { subject, why, label });
    end_all_of(work, subject, SwingEnd::Cancelled, Why::Removed);
    end_subscriptions(work.state, &mut work.rooms.listeners, subject, seq);
    lose_leader(work.state, work.log, subject, why);
    work.state.combatants.follow(slot, None);
    tempo::set_scale(work.state, subject, NORMAL);
    gauges::share_pool(work.rules, work.state, subject, false);
    work.state.combatants.unseat(slot);
    work.rooms.departures.leaving.push(subject);
}

/// Ends what a combatant has going, in this order: its move and chain, its swings, what touches it, its statuses, its shields.
pub(crate) fn end_all_of(work: &mut Work<'_>, subject: CombatantId, swings: SwingEnd, why: Why) {
    work.state.combatants.goal_ticks[subject.slot()] = 0;
    work.state.set_step(subject, None);
    drop_press(work.state, subject);
    for index in SwingAt::all(&work.state.swings) {
        if work.state.swings[index].attacker == Some(subject) {
            if lives_on(work.rules, work.state, index) {
                free_hands(work.state, index);
            } else {
                end_swing(work, index, swings);
            }
        }
    }
    for index in SwingAt::all(&work.state.swings) {
        part_from(work, index, subject, why);
    }
    holds::end_of(work, subject, why);
    statuses::end_all(work, subject, why);
    gauges::lapse_shields(work.state, work.log, subject);
    work.state.combatants.be_at_rest(subject.slot());
}

/// Subscriptions that `owner` owns hear what came up to the fact `last` and nothing later.
pub(crate) fn end_subscriptions(state: &mut State, listeners: &mut Listeners, owner: CombatantId, last: u64) {
    for (place, subscription) in state.subscriptions.iter_mut().enumerate() {
        if subscription.listen.owner() == Some(owner) && subscription.until.is_none() {
            listeners.ended(place);
            subscription.until = Some(last + 1);
        }
    }
}
