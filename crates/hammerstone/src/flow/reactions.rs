//! What rules do: orders, one by one, at once or after a delay.

use crate::budget::Source;
use crate::event::{CutAt, CutBy, HostValue, Listener, RuleFired};
use crate::execute;
use crate::ids::*;
use crate::orders::Order;
use crate::orders::Pending;
use crate::ruleset::{Credit, Reaction, RuleValue, ScoreValue, Target};
use crate::state::Delayed;
use crate::work::Work;

/// A rule fires: it does what it does in its order, and puts off what is to come later.
pub(crate) fn fire(work: &mut Work<'_>, fired: &Pending) {
    let Order::Fire { rule, subject, other } = fired.order else { return };
    let rules = work.rules;
    let source = work.log.source;
    let own = work.log.publish(RuleFired { rule, subject, other });
    let cause = source.heard.map_or(own, |(seq, _)| seq);
    let source = Source { heard: Some((cause, Listener::Rule(rule))), ..source };
    for (place, one) in rules.rule_book[rule.index()].does.iter().enumerate() {
        if one.after == 0 {
            act(work, rule, &one.action, subject, other, source);
            continue;
        }
        let due = work.state.tick.saturating_add(one.after);
        let place = place as u16;
        // Delayed rules may delay others without bound, although not within a tick.
        if work.state.delayed.len() < rules.cascade_per_tick as usize {
            work.state.delayed.push(Delayed { due, rule, place, subject, other, cause });
        } else {
            let topic = work.log.topic_of(cause);
            work.log.budget.note(source, CutBy::Waiting, CutAt::Heard(Listener::Rule(rule), topic));
        }
    }
}

/// What was put off until this tick is done, in the order in which it was put off. Those who have gone since are refused.
pub(crate) fn undelay(work: &mut Work<'_>) {
    let tick = work.state.tick;
    if work.state.delayed.iter().all(|delayed| delayed.due > tick) {
        return;
    }
    let rules = work.rules;
    // What these put off stands behind what was put off before.
    let due: Vec<Delayed> = work.state.delayed.extract_if(.., |delayed| delayed.due <= tick).collect();
    for Delayed { rule, place, subject, other, cause, .. } in due {
        let action = &rules.rule_book[rule.index()].does[usize::from(place)].action;
        let heard = Some((cause, Listener::Rule(rule)));
        let root = work.log.budget.root();
        act(work, rule, action, subject, other, Source { heard, pass: 0, depth: 0, root });
    }
}

/// Gives the orders of one reaction, and has each carried out or refused. Each counts as a reaction.
fn act(
    work: &mut Work<'_>,
    rule: RuleId,
    action: &Reaction,
    subject: Option<CombatantId>,
    other: Option<CombatantId>,
    source: Source,
) {
    work.log.source = source;
    let parties = [subject, other];
    match action.target() {
        None if action.obstacles().is_some() => {
            let named = work.state.obstacles.iter().filter(|raised| raised.name == action.obstacles());
            let ids: Vec<ObstacleId> = named.map(|raised| raised.id).collect();
            for id in ids {
                if may_act(work, rule) {
                    let order = for_obstacle(work, action, id);
                    work.rooms.reacting.orders.extend(order);
                }
            }
        }
        None => {
            if may_act(work, rule) {
                let order = for_nobody(work, action, subject, other);
                work.rooms.reacting.orders.extend(order);
            }
        }
        Some(Target::Subject) => each(work, rule, action, subject, parties),
        Some(Target::Other) => each(work, rule, action, other, parties),
        Some(Target::Followers) => {
            let combatants = &work.state.combatants;
            let led = subject.filter(|&who| combatants.has_place(who));
            let lists = led.map(|who| combatants.followers.iter(who.slot()));
            let mut followers: Vec<CombatantId> = lists.into_iter().flatten().copied().collect();
            followers.sort_unstable();
            followers.retain(|&who| action.is_for(combatants.life_of(who)));
            each(work, rule, action, followers, parties);
        }
        // A whole group whose turn does not come counts as one.
        Some(Target::Each(_)) if work.log.budget.is_spent(source) => _ = may_act(work, rule),
        Some(Target::Each(group)) => {
            for slot in 0..work.state.combatants.slots() {
                let combatants = &work.state.combatants;
                if action.is_for(combatants.life[slot])
                    && work.state.combatants.is_of(work.rules, slot, &group)
                {
                    let who = combatants.id(slot);
                    each(work, rule, action, [who], parties);
                }
            }
        }
    }
    for place in 0..work.rooms.reacting.orders.len() {
        let order = work.rooms.reacting.orders[place];
        execute::carry_out_one(work, order, source);
    }
    work.rooms.reacting.orders.clear();
}

/// Adds the orders of an action for these combatants, as far as they may follow.
fn each(
    work: &mut Work<'_>,
    rule: RuleId,
    action: &Reaction,
    who: impl IntoIterator<Item = CombatantId>,
    parties: [Option<CombatantId>; 2],
) {
    for who in who {
        if may_act(work, rule) {
            let order = for_one(work, action, who, parties);
            work.rooms.reacting.orders.extend(order);
        }
    }
}

/// Whether one action more of a rule may follow.
fn may_act(work: &mut Work<'_>, rule: RuleId) -> bool {
    let source = work.log.source;
    let spent = work.log.budget.is_spent(source);
    let topic = source.heard.filter(|_| spent).and_then(|(seq, _)| work.log.topic_of(seq));
    work.log.allows(|| CutAt::Heard(Listener::Rule(rule), topic))
}

/// An action for one combatant.
fn for_one(
    work: &mut Work<'_>,
    action: &Reaction,
    who: CombatantId,
    parties: [Option<CombatantId>; 2],
) -> Option<Order> {
    Some(match *action {
        Reaction::Apply(_, status, strength, credit) => {
            let source = match credit {
                Credit::Unsaid | Credit::Nobody => None,
                Credit::Subject => parties[0],
                Credit::Other => parties[1],
            };
            Order::Apply { subject: who, status, source, strength }
        }
        Reaction::Lift(_, status) => Order::Lift { subject: who, status },
        Reaction::Damage(_, damage_type, amount, reason) => {
            Order::Damage { target: who, damage_type, amount, reason, source: None, absolute: false }
        }
        Reaction::Heal(_, points, reason) => Order::Heal { target: who, points, reason, source: None },
        Reaction::Start(_, attack) => {
            let swing = work.state.registrar.reserve_swing();
            Order::Start { swing, subject: who, attack, aim: None }
        }
        Reaction::SendAway(_) => Order::SendAway { subject: who },
        Reaction::BringBack(_, spot) => {
            Order::Return { subject: who, pose: work.rules.pose_of(spot), share: crate::Fixed::ONE }
        }
        Reaction::Remove(_) => Order::Remove { subject: who },
        Reaction::Say(_, line) => Order::Say { line, subject: Some(who) },
        _ => return None,
    })
}

/// An action for one obstacle.
fn for_obstacle(work: &Work<'_>, action: &Reaction, id: ObstacleId) -> Option<Order> {
    let at = |spot| work.rules.pose_of(spot);
    Some(match *action {
        Reaction::MoveObstacle(_, spot, ticks) => Order::MoveObstacle { id, pose: at(spot), ticks },
        Reaction::PlaceObstacle(_, spot) => Order::PlaceObstacle { id, pose: at(spot) },
        Reaction::RemoveObstacle(_) => Order::RemoveObstacle { id },
        _ => return None,
    })
}

/// An action that is for no one.
fn for_nobody(
    work: &mut Work<'_>,
    action: &Reaction,
    subject: Option<CombatantId>,
    other: Option<CombatantId>,
) -> Option<Order> {
    Some(match *action {
        Reaction::Flag(flag, up) => Order::SetFlag { flag, up },
        Reaction::Count(counter, count) => Order::Count { counter, count },
        Reaction::Score(score, values) => {
            let points = match values {
                ScoreValue::Points(points) => points,
                ScoreValue::Value(value) => {
                    subject.map_or(0, |who| work.state.value_of(work.rules, who, value))
                }
            };
            let credit = other.map(|who| work.state.combatants.root_owner(who));
            Order::Score { score, points, credit }
        }
        Reaction::Waves(waves) => Order::StartWaves { waves },
        Reaction::NextRound => Order::NextRound,
        Reaction::SpawnAttack(attack, team, spot) => {
            let swing = work.state.registrar.reserve_swing();
            Order::SpawnAttack { swing, attack, team, pose: work.rules.pose_of(spot) }
        }
        Reaction::Publish(topic, given) => {
            let who = |who: Option<CombatantId>| who.map_or(HostValue::Nothing, HostValue::Who);
            let values = given.map(|value| match value {
                RuleValue::Value(value) => value,
                RuleValue::Subject => who(subject),
                RuleValue::Other => who(other),
                RuleValue::Counter(counter) => HostValue::Whole(work.state.counters[counter.index()]),
            });
            Order::Publish { topic, values }
        }
        Reaction::Say(_, line) => Order::Say { line, subject: None },
        Reaction::End(outcome) => Order::End { outcome },
        Reaction::Reset => Order::Reset,
        _ => return None,
    })
}
