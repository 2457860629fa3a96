//! Joining, leaving and coming back; and how everything ends that ends with somebody.

use crate::Fixed;
use crate::event::{
    AttackClosed, AttackEnded, CombatantAway, CombatantJoined, CombatantRemoved, CombatantReturned,
    ContactParted, HealthChange, HealthChanged, LeaderLost, SwingEnd, Why,
};
use crate::geometry::Pose;
use crate::ids::*;
use crate::resolve;
use crate::rolls;
use crate::ruleset::Trigger;
use crate::state::{Afterlife, Contact, Life, Newcomer, Swing};
use crate::statuses;
use crate::work::Work;

pub(crate) fn join(
    work: &mut Work<'_>,
    id: CombatantId,
    template: TemplateId,
    team: Option<TeamId>,
    pose: Pose,
    owner: Option<CombatantId>,
) {
    let entry = work.rules.template(template);
    let combatants = &mut work.state.combatants;
    let ordinal = combatants.spawned[template.index()];
    combatants.spawned[template.index()] += 1;
    let credit = owner.map_or(id, |owner| combatants.root_owner(owner));
    let team = team.unwrap_or(entry.team);
    let key = rolls::spawn_key(entry.key, ordinal.into());
    combatants.seat(id, Newcomer { template, team, health: entry.health as i32, pose, key, credit });
    if let Some(lives) = entry.lives {
        let afterlife = Afterlife { home: pose, spare: lives.count - 1, back: None };
        combatants.set_afterlife(id.slot(), Some(afterlife));
    }
    combatants.leader[id.slot()] = id;
    combatants.follow(id.slot(), None);
    let max = fill_health(work, id, Fixed::ONE);
    let (subject, tags) = (id, entry.tags);
    work.publish(CombatantJoined { subject, template, team, tags, health: max, max, life: 1 });
    raise_shields(work, id);
    statuses::grants(work, Trigger::Joins, id, None);
}

/// Brings health up to a share of its maximum, as far as statuses that run and the host's changes make it; at least to 1 point.
/// Publishes nothing, and crosses no threshold.
fn fill_health(work: &mut Work<'_>, who: CombatantId, share: Fixed) -> i64 {
    let max = resolve::maximum_of(work, who);
    let health = (Fixed::whole(max) * share).floor().clamp(1, max);
    let combatants = &mut work.state.combatants;
    combatants.max[who.slot()] = max as i32;
    combatants.health[who.slot()] = health as i32;
    health
}

/// The shields of its template.
fn raise_shields(work: &mut Work<'_>, who: CombatantId) {
    let rules = work.rules;
    for &(shield, points) in &rules.template(work.state.combatants.template[who.slot()]).shields {
        resolve::raise_shield(work, who, shield, points, None);
    }
}

/// One who is dead or away stands again.
pub(crate) fn come_back(work: &mut Work<'_>, subject: CombatantId, pose: Pose, share: Fixed, why: Why) {
    let slot = subject.slot();
    let combatants = &mut work.state.combatants;
    let from = i64::from(combatants.health[slot]);
    let afterlife = combatants.afterlife(slot);
    // Who is away until the next life has died as well.
    if combatants.life[slot] == Life::Dead || afterlife.is_some_and(|afterlife| afterlife.back.is_some()) {
        combatants.lives[slot] += 1;
        combatants.begin_life(slot);
    }
    if let Some(afterlife) = afterlife {
        combatants.set_afterlife(slot, Some(Afterlife { back: None, ..afterlife }));
    }
    combatants.life[slot] = Life::Standing;
    combatants.stand_still(slot, pose);
    combatants.forget_contributors(slot);
    let life = combatants.lives[slot];
    let health = fill_health(work, subject, share);
    let max = work.state.combatants.max[slot].into();
    work.publish(CombatantReturned { subject, health, max, life, why });
    if from != health {
        work.publish(HealthChanged { subject, from, to: health, max, why: HealthChange::Return });
    }
    raise_shields(work, subject);
    statuses::resume(work, subject);
    statuses::grants(work, Trigger::Returns, subject, None);
}

/// The status that would have killed was lifted: its bearer is up again in the same life. What is given then waits among the steps of statuses.
pub(crate) fn rise(work: &mut Work<'_>, subject: CombatantId) {
    let combatants = &work.state.combatants;
    if combatants.life_of(subject) == Life::Standing {
        let slot = subject.slot();
        let (health, max) = (combatants.health[slot].into(), combatants.max[slot].into());
        let (life, why) = (combatants.lives[slot], Why::LiftedUp);
        work.publish(CombatantReturned { subject, health, max, life, why });
        statuses::add_grants(work, Trigger::Returns, subject, None);
    }
}

pub(crate) fn go_away(work: &mut Work<'_>, subject: CombatantId) {
    work.state.combatants.life[subject.slot()] = Life::Away;
    let seq = work.publish(CombatantAway { subject, why: Why::Ordered });
    end_all_of(work, subject, SwingEnd::Cancelled, Why::Away);
    end_subscriptions(work, subject, seq);
}

/// Those who follow one who dies or is removed are told, each once, by their places; they follow nobody from then on.
pub(crate) fn lose_leader(work: &mut Work<'_>, leader: CombatantId, why: Why) {
    let combatants = &work.state.combatants;
    let chain = combatants.followers[leader.slot()];
    if chain.is_empty() {
        return;
    }
    let mut followers: Vec<CombatantId> = combatants.follower_lists.items(chain).copied().collect();
    followers.sort_unstable();
    for subject in followers {
        work.state.combatants.follow(subject.slot(), None);
        if work.state.combatants.life_of(subject) == Life::Standing {
            work.publish(LeaderLost { subject, leader, why });
        }
    }
}

/// Takes effect at once; the place is free again when the tick is over.
pub(crate) fn remove(work: &mut Work<'_>, subject: CombatantId, why: Why) {
    let slot = subject.slot();
    work.state.combatants.life[slot] = Life::Gone;
    let seq = work.publish(CombatantRemoved { subject, why });
    end_all_of(work, subject, SwingEnd::Cancelled, Why::Removed);
    end_subscriptions(work, subject, seq);
    lose_leader(work, subject, why);
    work.state.combatants.follow(slot, None);
    work.state.combatants.unseat(slot);
    work.scratch.detection.leaving.push(subject);
}

/// Ends what a combatant has going, in this order: its move and chain, its swings, what touches it, its statuses, its shields.
pub(crate) fn end_all_of(work: &mut Work<'_>, subject: CombatantId, swings: SwingEnd, why: Why) {
    work.state.combatants.goal_ticks[subject.slot()] = 0;
    work.state.set_step(subject, None);
    for index in 0..work.state.swings.len() {
        if work.state.swings[index].attacker == Some(subject) {
            if lives_on(work, index) {
                free_hands(work, index);
            } else {
                end_swing(work, index, swings);
            }
        }
    }
    for index in 0..work.state.swings.len() {
        part_from(work, index, subject, why);
    }
    statuses::end_all(work, subject, why);
    resolve::lapse_shields(work, subject);
    work.state.combatants.be_at_rest(subject.slot());
}

/// Subscriptions that `owner` owns hear what came up to the fact `last` and nothing later.
pub(crate) fn end_subscriptions(work: &mut Work<'_>, owner: CombatantId, last: u64) {
    for (place, subscription) in work.state.subscriptions.iter_mut().enumerate() {
        if subscription.listen.owner == Some(owner) && subscription.until.is_none() {
            work.scratch.listeners.ended(place);
            subscription.until = Some(last + 1);
        }
    }
}

/// What a combatant carries is cancelled; what has left its hand goes on.
pub(crate) fn stun(work: &mut Work<'_>, subject: CombatantId) {
    work.state.set_step(subject, None);
    for index in 0..work.state.swings.len() {
        if work.state.swings[index].attacker == Some(subject) && !lives_on(work, index) {
            end_swing(work, index, SwingEnd::Cancelled);
        }
    }
}

/// Whether the swing at `index` has left its attacker's hand, and may go on without them.
fn lives_on(work: &Work<'_>, index: usize) -> bool {
    let swing = &work.state.swings[index];
    let attack = work.rules.attack(swing.attack);
    attack.outlives && (swing.launched || (swing.window > 0 && attack.form.leaves_the_hand()))
}

/// The swing at `index` binds its attacker's hands no longer.
pub(crate) fn free_hands(work: &mut Work<'_>, index: usize) {
    let swing = &mut work.state.swings[index];
    if std::mem::take(&mut swing.busy)
        && let Some(attacker) = swing.attacker
    {
        work.state.combatants.running[attacker.slot()] -= 1;
    }
}

/// Ends the swing at `index`, unless it has ended: contacts part, the window closes, its bodies are gone, the swing ends.
pub(crate) fn end_swing(work: &mut Work<'_>, index: usize, why: SwingEnd) {
    if work.state.swings[index].ended.is_some() {
        return;
    }
    close_window(work, index, Why::SwingEnded);
    free_hands(work, index);
    let swing = &mut work.state.swings[index];
    swing.ended = Some(why);
    let (subject, attack, id) = (swing.attacker, swing.attack, swing.id);
    if std::mem::take(&mut swing.bodies) > 0 {
        // They stand by rising swing.
        let flying = &mut work.state.flying;
        let first = flying.partition_point(|body| body.swing < id);
        for body in flying[first..].iter_mut().take_while(|body| body.swing == id) {
            body.ended.get_or_insert(why);
        }
    }
    work.publish(AttackEnded { subject, attack, swing: id, why });
    if let Some(attacker) = subject.filter(|_| !work.rules.attack(attack).self_status.is_empty()) {
        statuses::lift_tied(work, attacker, id, Why::SwingEnded);
    }
}

/// Closes the window of the swing at `index`, if one is open.
pub(crate) fn close_window(work: &mut Work<'_>, index: usize, why: Why) {
    part_contacts(work, index, why, |_| true);
    let swing = &mut work.state.swings[index];
    let window = std::mem::take(&mut swing.window);
    if window > 0 {
        let (subject, attack, swing) = (swing.attacker, swing.attack, swing.id);
        work.publish(AttackClosed { subject, attack, swing, window });
    }
}

/// Parts the contacts of the swing at `index` with one who leaves. They stay in the list, over, until it is next gone through, so that
/// this costs the same however many others the swing touches.
fn part_from(work: &mut Work<'_>, index: usize, target: CombatantId, why: Why) {
    let mut parted = std::mem::take(&mut work.scratch.detection.parted);
    let Work { state, scratch, .. } = &mut *work;
    let touches = |contact: &Contact| !contact.over;
    while let Some(place) = scratch.contacts.find(&state.contacts, &state.swings, index, target, touches) {
        parted.push(*state.contacts.get(place));
        state.contacts.get_mut(place).over = true;
    }
    work.scratch.detection.parted = parted;
    tell_parted(work, index, why);
}

/// Parts those contacts of the swing at `index` for which `goes` says so, in the order in which they met.
pub(crate) fn part_contacts(work: &mut Work<'_>, index: usize, why: Why, goes: impl Fn(&Contact) -> bool) {
    let mut parted = std::mem::take(&mut work.scratch.detection.parted);
    let Work { state, scratch, .. } = &mut *work;
    let swing = &mut state.swings[index];
    let gone = |contact: &Contact| contact.over || goes(contact);
    for contact in state.contacts.items(swing.contacts).filter(|contact| gone(contact)) {
        scratch.contacts.remove(&state.contacts, swing.id, contact.target, |contact| !gone(contact));
    }
    state.contacts.take(&mut swing.contacts, gone, |contact| {
        if !contact.over {
            parted.push(contact);
        }
    });
    work.scratch.detection.parted = parted;
    tell_parted(work, index, why);
}

/// Publishes the contacts of the swing at `index` that have parted, and lifts the auras that they kept.
fn tell_parted(work: &mut Work<'_>, index: usize, why: Why) {
    let mut parted = std::mem::take(&mut work.scratch.detection.parted);
    parted.sort_unstable_by_key(|contact| contact.id);
    let Swing { id: swing, attacker, attack, .. } = work.state.swings[index];
    for &Contact { id, target, part, .. } in &parted {
        work.publish(ContactParted { contact: id, swing, attacker, target, part, why });
    }
    if !work.rules.attack(attack).aura.is_empty() {
        for &Contact { target, .. } in &parted {
            let Work { state, scratch, .. } = &mut *work;
            let touches = |contact: &Contact| !contact.over;
            let left = scratch.contacts.find(&state.contacts, &state.swings, index, target, touches);
            if left.is_none() {
                statuses::lift_tied(work, target, swing, why);
            }
        }
    }
    parted.clear();
    work.scratch.detection.parted = parted;
}
