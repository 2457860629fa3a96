//! What rules do: orders, one by one, at once or after a delay.

use glam::Vec3;

use crate::Fixed;
use crate::budget::Source;
use crate::event::{CutAt, CutBy, HostValue, Listener, RuleFired, Text, ValueSort};
use crate::execute;
use crate::geometry::Pose;
use crate::ids::*;
use crate::orders::Order;
use crate::orders::Pending;
use crate::resolve::By;
use crate::ruleset::{Amount, Credit, Reaction, RuleValue, ScoreValue, Target};
use crate::state::{Delayed, Read, State};
use crate::terms::Spoken;
use crate::work::Work;

use super::rules;

/// A rule that acts, and why.
#[derive(Clone, Copy)]
struct Acting<'a> {
    rule: RuleId,
    /// Which of the things that it does.
    place: usize,
    action: &'a Reaction,
    /// Subject and other party of the fact.
    parties: [Option<CombatantId>; 2],
    /// Who gets the credit for what each of them does.
    credits: [Option<CombatantId>; 2],
    source: Source,
}

impl Acting<'_> {
    /// The party of the fact that one is not.
    fn party_beside(&self, who: CombatantId) -> Option<CombatantId> {
        let [subject, other] = self.parties;
        if subject == Some(who) { other } else { subject }
    }

    /// The source of what is done, and who gets the credit for it.
    fn by(&self, credit: Credit) -> [Option<CombatantId>; 2] {
        match credit {
            Credit::Unsaid | Credit::Nobody => [None, None],
            Credit::Subject => [self.parties[0], self.credits[0]],
            Credit::Other => [self.parties[1], self.credits[1]],
        }
    }
}

/// A rule fires: it does what it does in its order, and puts off what is to come later.
pub(crate) fn fire(work: &mut Work<'_>, fired: &Pending) {
    let Order::Fire { rule, subject, other } = fired.order else { return };
    let rules = work.rules;
    let source = work.log.source;
    let own = work.log.publish(RuleFired { rule, subject, other });
    let cause = source.heard.map_or(own, |(seq, _)| seq);
    let source = Source { heard: Some((cause, Listener::Rule(rule))), ..source };
    let parties = [subject, other];
    let combatants = &work.state.combatants;
    let credits = parties.map(|who| who.map(|who| combatants.root_owner(who)));
    if !rules.rule_plans[rule.index()].readings.is_empty() && values(work.state, rule, cause).is_empty() {
        // It was not heard: an order of the host fires it.
        rules::read_amounts(work, rule, None, parties, cause);
    }
    for (place, one) in rules.rule_book[rule.index()].does.iter().enumerate() {
        if one.after == 0 {
            act(work, Acting { rule, place, action: &one.action, parties, credits, source });
            continue;
        }
        let due = work.state.tick.saturating_add(one.after);
        let place = place as u16;
        // Delayed rules may delay others without bound, although not within a tick.
        if work.state.delayed.len() < rules.cascade_per_tick as usize {
            work.state.delayed.push(Delayed { due, rule, place, subject, other, cause, credits });
        } else {
            let topic = work.log.topic_of(cause);
            work.log.budget.note(source, CutBy::Waiting, CutAt::Heard(Listener::Rule(rule), topic));
        }
    }
}

/// What a rule read when it heard a fact.
fn values(state: &State, rule: RuleId, cause: u64) -> &[Read] {
    let first = state.readings.partition_point(|read| read.cause < cause);
    let of_fact = &state.readings[first..];
    let of_fact = &of_fact[..of_fact.partition_point(|read| read.cause == cause)];
    let from = of_fact.iter().position(|read| read.rule == rule).unwrap_or(of_fact.len());
    let count = of_fact[from..].iter().take_while(|read| read.rule == rule).count();
    &of_fact[from..from + count]
}

/// What was read for facts that have been answered is forgotten.
pub(crate) fn forget_readings(state: &mut State) {
    if state.readings.is_empty() {
        return;
    }
    let mut waiting: Vec<(u64, RuleId)> = Vec::new();
    waiting.extend(state.delayed.iter().map(|delayed| (delayed.cause, delayed.rule)));
    waiting.extend(state.pending.iter().filter_map(|pending| match (pending.order, pending.heard) {
        (Order::Fire { rule, .. }, Some((seq, _))) => Some((seq, rule)),
        _ => None,
    }));
    waiting.sort_unstable();
    state.readings.retain(|read| waiting.binary_search(&(read.cause, read.rule)).is_ok());
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
    for Delayed { rule, place, subject, other, cause, credits, .. } in due {
        let place = usize::from(place);
        let action = &rules.rule_book[rule.index()].does[place].action;
        let heard = Some((cause, Listener::Rule(rule)));
        let root = work.log.budget.root();
        let source = Source { heard, pass: 0, depth: 0, root };
        act(work, Acting { rule, place, action, parties: [subject, other], credits, source });
    }
}

/// Has one reaction carried out, for each of its targets, or refused. Each counts as a reaction.
fn act(work: &mut Work<'_>, acting: Acting<'_>) {
    let Acting { rule, place, action, parties: [subject, other], source, .. } = acting;
    work.log.source = source;
    let plan = &work.rules.rule_plans[rule.index()];
    if !plan.readings.is_empty() {
        let cause = source.heard.map_or(0, |(seq, _)| seq);
        let first = usize::from(plan.firsts[place]);
        let count: usize = action.amounts().map(|amount| amount.terms.len()).sum();
        let Work { state, rooms, .. } = &mut *work;
        rooms.reacting.values.clear();
        let read = values(state, rule, cause).iter().skip(first).take(count);
        rooms.reacting.values.extend(read.map(|read| read.value));
    }
    match action.target() {
        None if action.obstacles().is_some() => {
            let named = work.state.all_raised().filter(|raised| raised.name == action.obstacles());
            let mut ids: Vec<ObstacleId> = named.map(|raised| raised.id).collect();
            ids.sort_unstable();
            for id in ids {
                if may_act(work, rule) {
                    let order = for_obstacle(work, action, id);
                    work.rooms.reacting.orders.extend(order);
                }
            }
        }
        None => {
            if may_act(work, rule) {
                let order = for_nobody(work, acting);
                work.rooms.reacting.orders.extend(order);
            }
        }
        Some(Target::Subject) => each(work, acting, subject),
        Some(Target::Other) => each(work, acting, other),
        Some(Target::Followers) => {
            let combatants = &work.state.combatants;
            let led = subject.filter(|&who| combatants.has_place(who));
            let lists = led.map(|who| combatants.followers.iter(who.slot()));
            let mut followers: Vec<CombatantId> = lists.into_iter().flatten().copied().collect();
            followers.sort_unstable();
            followers.retain(|&who| action.is_for(combatants.life_of(who)));
            each(work, acting, followers);
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
                    each(work, acting, [who]);
                }
            }
        }
    }
    for place in 0..work.rooms.reacting.targets.len() {
        let target = work.rooms.reacting.targets[place];
        deal_or_heal(work, acting, target);
    }
    work.rooms.reacting.targets.clear();
    for place in 0..work.rooms.reacting.orders.len() {
        let order = work.rooms.reacting.orders[place];
        execute::carry_out_one(work, order, source);
    }
    work.rooms.reacting.orders.clear();
}

/// Adds the orders of an action for these combatants, as far as they may follow.
fn each(work: &mut Work<'_>, acting: Acting<'_>, who: impl IntoIterator<Item = CombatantId>) {
    for who in who {
        if may_act(work, acting.rule) {
            if matches!(acting.action, Reaction::Damage(..) | Reaction::Heal(..)) {
                work.rooms.reacting.targets.push(who);
                continue;
            }
            let order = for_one(work, acting, who);
            work.rooms.reacting.orders.extend(order);
        }
    }
}

/// Damage or healing by a rule, for one combatant: amounts whose terms were read when the fact was heard.
fn deal_or_heal(work: &mut Work<'_>, acting: Acting<'_>, target: CombatantId) {
    let Acting { rule, action, source, .. } = acting;
    let values = std::mem::take(&mut work.rooms.reacting.values);
    match action {
        Reaction::Damage(_, dealing) => {
            let [by, credit] = acting.by(dealing.by);
            let from = By { rule, source: by, credit };
            execute::deal_for_rule(work, source, from, target, dealing, &values);
        }
        Reaction::Heal(_, healing) => {
            let [by, credit] = acting.by(healing.by);
            let from = By { rule, source: by, credit };
            execute::heal_for_rule(work, source, from, target, &healing.amount, &values);
        }
        _ => {}
    }
    work.rooms.reacting.values = values;
}

/// Whether one action more of a rule may follow.
fn may_act(work: &mut Work<'_>, rule: RuleId) -> bool {
    let source = work.log.source;
    let spent = work.log.budget.is_spent(source);
    let topic = source.heard.filter(|_| spent).and_then(|(seq, _)| work.log.topic_of(seq));
    work.log.allows(|| CutAt::Heard(Listener::Rule(rule), topic))
}

/// An action for one combatant.
fn for_one(work: &mut Work<'_>, acting: Acting<'_>, who: CombatantId) -> Option<Order> {
    Some(match *acting.action {
        Reaction::Apply(_, status, strength, credit) => {
            let [source, _] = acting.by(credit);
            Order::Apply { subject: who, status, source, strength }
        }
        Reaction::Gauge(_, gauge, change, ref amount, credit) => {
            let points = whole(work, amount).max(0);
            let [source, _] = acting.by(credit);
            Order::ChangeGauge { subject: who, gauge, change, points, source }
        }
        Reaction::CombatantFlag(_, flag, up) => Order::FlagCombatant { subject: who, flag, up },
        Reaction::CombatantCount(_, counter, how, ref amount) => {
            let count = how.by(whole(work, amount));
            Order::CountCombatant { subject: who, counter, count }
        }
        Reaction::Lift(_, status) => Order::Lift { subject: who, status },
        Reaction::Start(_, attack) => {
            let swing = work.state.registrar.reserve_swing();
            Order::Start { swing, subject: who, attack, aim: None }
        }
        Reaction::Teleport(_, spot) => Order::Teleport { subject: who, pose: work.rules.pose_of(spot) },
        Reaction::Push(_, metres, ticks) => pushed(work, acting, who, metres, ticks)?,
        Reaction::ChangeTeam(_, team) => Order::ChangeTeam { subject: who, team },
        Reaction::ScaleTime(_, sixteenths) => Order::ScaleTime { subject: who, sixteenths },
        Reaction::Transform(_, template) => Order::Transform { subject: who, template },
        Reaction::LetGo(_) => Order::LetGo { subject: who },
        Reaction::Request(_, tactic) => {
            Order::Request { subject: who, tactic, other: acting.party_beside(who) }
        }
        Reaction::SendAway(_) => Order::SendAway { subject: who },
        Reaction::BringBack(_, spot) => {
            Order::Return { subject: who, pose: work.rules.pose_of(spot), share: crate::Fixed::ONE }
        }
        Reaction::Remove(_) => Order::Remove { subject: who },
        Reaction::Say(_, line, ref numbers) => {
            Order::Say { spoken: spoken(work, acting, line, numbers), subject: Some(who) }
        }
        _ => return None,
    })
}

/// A move away from the other party, on the level: of one who stands just where it does nothing comes.
fn pushed(work: &Work<'_>, acting: Acting<'_>, who: CombatantId, metres: Fixed, ticks: u32) -> Option<Order> {
    let combatants = &work.state.combatants;
    let other = acting.party_beside(who).filter(|&other| combatants.has_place(other))?;
    let (from, pose) = (combatants.pose[other.slot()], combatants.pose[who.slot()]);
    let up = Vec3::from_array(work.rules.up.vector());
    let way = Vec3::from_array(pose.at) - Vec3::from_array(from.at);
    let level = way - up * way.dot(up);
    let length = level.length();
    if length == 0.0 {
        return None;
    }
    let at = Vec3::from_array(pose.at) + level * (metres.to_f64() as f32 / length);
    Some(Order::Move { subject: who, pose: Pose { at: at.to_array(), ..pose }, ticks })
}

/// An action for one obstacle.
fn for_obstacle(work: &Work<'_>, action: &Reaction, id: ObstacleId) -> Option<Order> {
    let at = |spot| work.rules.pose_of(spot);
    Some(match *action {
        Reaction::MoveObstacle(_, spot, ticks) => Order::MoveObstacle { id, pose: at(spot), ticks },
        Reaction::PlaceObstacle(_, spot) => Order::PlaceObstacle { id, pose: at(spot) },
        Reaction::OpenObstacle(_, open) => Order::OpenObstacle { id, open },
        Reaction::RemoveObstacle(_) => Order::RemoveObstacle { id },
        _ => return None,
    })
}

/// What an amount comes to in whole points.
fn whole(work: &Work<'_>, amount: &Amount) -> i64 {
    work.rules.rounding.whole(amount.worked_out(&work.rooms.reacting.values))
}

/// A line, with the names of the parties and its numbers as they were read.
fn spoken(work: &Work<'_>, acting: Acting<'_>, line: LineId, numbers: &[Amount]) -> Spoken {
    let mut spoken = Spoken { parties: acting.parties, ..Spoken::plain(line) };
    let mut read = work.rooms.reacting.values.as_slice();
    for (value, amount) in spoken.values.iter_mut().zip(numbers) {
        let (own, rest) = read.split_at_checked(amount.terms.len()).unwrap_or((read, &[]));
        (*value, read) = (amount.worked_out(own), rest);
    }
    spoken
}

/// The values of a topic of the host's own: amounts of what was read when the fact was heard, texts handed over as the host does.
fn published(
    work: &mut Work<'_>,
    acting: Acting<'_>,
    topic: HostTopicId,
    given: &[RuleValue; 4],
) -> [HostValue; 4] {
    let who = |who: Option<CombatantId>| who.map_or(HostValue::Nothing, HostValue::Who);
    let Work { rules, state, rooms, .. } = work;
    let fields = &rules.host_topics[topic.index()].fields;
    let mut read = rooms.reacting.values.as_slice();
    let mut values = [HostValue::Nothing; 4];
    for (place, (value, given)) in values.iter_mut().zip(given).enumerate() {
        *value = match *given {
            RuleValue::Value(value) => value,
            RuleValue::Subject => who(acting.parties[0]),
            RuleValue::Other => who(acting.parties[1]),
            RuleValue::Counter(counter) => HostValue::Whole(state.counters[counter.index()]),
            RuleValue::Amount(ref amount) => {
                let (own, rest) = read.split_at_checked(amount.terms.len()).unwrap_or((read, &[]));
                read = rest;
                let exact = amount.worked_out(own);
                match fields.get(place) {
                    Some((_, ValueSort::Whole)) => HostValue::Whole(rules.rounding.whole(exact)),
                    _ => HostValue::Exact(exact),
                }
            }
            RuleValue::Text(word) => {
                HostValue::Text(Text::hand_over(&rules.words[word.index()], &mut state.given_text))
            }
        };
    }
    values
}

/// An action that is for no one.
fn for_nobody(work: &mut Work<'_>, acting: Acting<'_>) -> Option<Order> {
    let [subject, _] = acting.parties;
    Some(match *acting.action {
        Reaction::Flag(flag, up) => Order::SetFlag { flag, up },
        Reaction::Count(counter, count) => Order::Count { counter, count },
        Reaction::CountAmount(counter, how, ref amount) => {
            Order::Count { counter, count: how.by(whole(work, amount)) }
        }
        Reaction::Score(score, ref values) => {
            let points = match *values {
                ScoreValue::Points(points) => points,
                ScoreValue::Value(value) => {
                    subject.map_or(0, |who| work.state.value_of(work.rules, who, value))
                }
                ScoreValue::Amount(ref amount) => whole(work, amount),
            };
            Order::Score { score, points, credit: acting.credits[1] }
        }
        Reaction::Waves(waves) => Order::StartWaves { waves },
        Reaction::StopWaves(waves) => Order::StopWaves { waves },
        Reaction::NextRound => Order::NextRound,
        Reaction::SpawnAttack(attack, team, spot, credit) => {
            let swing = work.state.registrar.reserve_swing();
            let [_, credit] = acting.by(credit);
            Order::SpawnAttack { swing, attack, team, pose: work.rules.pose_of(spot), credit }
        }
        Reaction::Publish(topic, ref given) => {
            Order::Publish { topic, values: published(work, acting, topic, given) }
        }
        Reaction::Say(_, line, ref numbers) => {
            Order::Say { spoken: spoken(work, acting, line, numbers), subject: None }
        }
        Reaction::End(outcome) => Order::End { outcome },
        Reaction::Reset => Order::Reset,
        _ => return None,
    })
}
