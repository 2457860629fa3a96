//! Stage 1: orders, one by one, in the order given. Also what carries out the orders of hooks in later passes.

use crate::event::{
    CounterChanged, EncounterRound, EncounterStarted, FlagChanged, HostFact, HostValue, OrderRefused, Said,
    ScoreChanged, SwingEnd, Why,
};
use glam::Vec3;

use crate::budget::Source;
use crate::detect::HitCandidate;
use crate::flow;
use crate::gauges;
use crate::geometry::{Impact, Pose, between};
use crate::hooks::{Listen, Topical};
use crate::ids::*;
use crate::lifecycle;
use crate::orders::{Marker, Order, Refusal, Touch, refusal};
use crate::resolve;
use crate::ruleset::{Count, Rules};
use crate::state::{ChainStep, Charging, Flow, HostChange, Pending, Subscription};
use crate::statuses::{self, Giving};
use crate::swing;
use crate::work::Work;

pub(super) fn carry_out_orders(work: &mut Work<'_>) {
    if work.state.flow == Flow::Prepared {
        work.state.flow = Flow::Running;
        work.log.publish(EncounterStarted {});
    }
    let combatants = &mut work.state.combatants;
    combatants.pose_before.clone_from(&combatants.pose);
    for swing in &mut work.state.swings {
        swing.guided[0] = swing.guided[1];
    }
    flow::undelay(work);
    carry_out_all(work, 0);
    advance_moves(work);
}

/// Carries out all that is pending, in pass `pass`.
pub(super) fn carry_out_all(work: &mut Work<'_>, pass: u16) {
    let mut pending = std::mem::take(&mut work.state.pending);
    for order in pending.drain(..) {
        let Pending { heard, depth, root, .. } = order;
        let root = if pass == 0 { work.log.budget.root() } else { root };
        work.log.source = Source { heard, pass, depth, root };
        carry_out(work, &order);
    }
    // What a blow that was reported in a pass costs waits for the next pass.
    pending.append(&mut work.state.pending);
    work.state.pending = pending;
    work.log.source = Source { heard: None, pass, depth: 0, root: 0 };
}

/// Carries out an order that a rule gives, or refuses it.
pub(crate) fn carry_out_one(work: &mut Work<'_>, order: Order, source: Source) {
    let number = work.state.registrar.next_order();
    work.log.source = source;
    let Source { heard, depth, root, .. } = source;
    carry_out(work, &Pending { order, number, heard, depth, root });
    work.log.source = source;
}

fn carry_out(work: &mut Work<'_>, pending: &Pending) {
    let order = pending.order;
    if let Err(why) = refusal(work.rules, work.state, &order).and_then(|()| may_be_carried_out(work, pending))
    {
        return refuse(work, pending, why);
    }
    work.state.registrar.accept(&order);
    match order {
        Order::Spawn { id, template, team, pose, owner } => {
            lifecycle::join(work, id, template, team, settled(pose), owner);
        }
        Order::Move { subject, pose, ticks } => {
            let combatants = &mut work.state.combatants;
            combatants.goal[subject.slot()] = settled(pose);
            combatants.goal_ticks[subject.slot()] = ticks;
        }
        Order::Teleport { subject, pose } => {
            work.state.combatants.stand_still(subject.slot(), settled(pose));
        }
        Order::Start { swing, subject, attack, aim } => {
            let aim = aim.map(settled);
            match work.state.step_of(subject) {
                Some(step) if swing::press(work.state, subject, attack).is_some() => {
                    let pressed = Some(swing);
                    work.state.set_step(subject, Some(ChainStep { pressed, ..step }));
                }
                _ => swing::begin_ordered(work, swing, subject, attack, aim),
            }
        }
        Order::SpawnAttack { swing, attack, team, pose } => {
            swing::begin_spawned(work, swing, attack, team, settled(pose));
        }
        Order::Marker { swing, marker } => {
            if let Some(index) = work.state.swing_index(swing) {
                let (open, opened, over) = &mut work.state.swings[index].markers;
                match marker {
                    Marker::Open => {
                        *opened = opened.saturating_add(1);
                        *open = *opened;
                    }
                    Marker::Close => *open = 0,
                    Marker::End => (*open, *over) = (0, true),
                }
            }
        }
        Order::Release { swing } => {
            if let Some(index) = work.state.swing_index(swing)
                && let Charging::Held(_, ordered) = &mut work.state.swings[index].charging
            {
                *ordered = true;
            }
        }
        Order::Guide { swing, pose } => {
            if let Some(index) = work.state.swing_index(swing) {
                let (swing, pose) = (&mut work.state.swings[index], settled(pose));
                // Before the first, the hitboxes were nowhere. What comes in a pass is for the next tick, which begins there anyway.
                let first = !std::mem::replace(&mut swing.was_guided, true) && work.log.source.pass == 0;
                swing.guided = [if first { pose } else { swing.guided[0] }, pose];
            }
        }
        Order::AddObstacle { id, obstacle } => {
            let place = work.state.obstacles.partition_point(|(other, _)| *other < id);
            if let Some(obstacle) = obstacle.settled() {
                work.state.obstacles.insert(place, (id, obstacle));
            }
        }
        Order::RemoveObstacle { id } => work.state.obstacles.retain(|(other, _)| *other != id),
        Order::Cancel { swing } => {
            if let Some(index) = work.state.swing_index(swing) {
                swing::end_swing(work, index, SwingEnd::Cancelled);
            }
        }
        Order::Report { swing, target, part, touch } => report(work, swing, target, part, touch),
        Order::Damage { target, damage_type, amount, reason, source, absolute } => {
            resolve::host_damage(work, target, damage_type, amount, reason, source, absolute);
        }
        Order::Heal { target, points, reason, source } => {
            resolve::host_heal(work, target, points, reason, source);
        }
        Order::Apply { subject, status, source, strength } => {
            statuses::apply(work, Giving { strength, ..Giving::plain(subject, status, source) });
        }
        Order::Lift { subject, status } => {
            if let Some(index) = statuses::first_of(work.state, subject, status) {
                statuses::lift(work, index, Why::Ordered);
            }
        }
        Order::LiftFamily { subject, tag } => {
            statuses::lift_family(work, subject, tag.bit(), Why::Ordered);
        }
        Order::Change { subject, stat, by, reason } => {
            let combatants = &mut work.state.combatants;
            let chain = &mut combatants.host_changes[subject.slot()];
            let lists = &mut combatants.host_change_lists;
            lists.take(chain, |known| (known.stat, known.reason) == (stat, reason), |_| ());
            lists.push(chain, HostChange { stat, reason, by });
            gauges::refresh_maximum(work, subject, None);
        }
        Order::Unchange { subject, stat, reason } => {
            let combatants = &mut work.state.combatants;
            let chain = &mut combatants.host_changes[subject.slot()];
            let is = |known: &HostChange| (known.stat, known.reason) == (stat, reason);
            combatants.host_change_lists.take(chain, is, |_| ());
            gauges::refresh_maximum(work, subject, None);
        }
        Order::SetMaximum { subject, points, keep } => {
            work.state.combatants.own_max[subject.slot()] = points as i32;
            gauges::refresh_maximum(work, subject, Some(keep));
        }
        Order::RaiseShield { subject, shield, points } => {
            gauges::raise_shield(work, subject, shield, points.into(), None);
        }
        Order::SendAway { subject } => lifecycle::go_away(work, subject),
        Order::Return { subject, pose, share } => {
            lifecycle::come_back(work, subject, settled(pose), share, Why::Ordered);
        }
        Order::Remove { subject } => lifecycle::remove(work, subject, Why::Ordered),
        Order::Subscribe { id, hook, listen } => subscribe(work, id, hook, listen),
        Order::Unsubscribe { which } => {
            let now = work.log.next();
            for (place, known) in work.state.subscriptions.iter_mut().enumerate() {
                if known.until.is_some() {
                    continue;
                }
                if known.ends_by(which) {
                    work.rooms.listeners.ended(place);
                    known.until = Some(now);
                }
            }
        }
        Order::Publish { topic, values } => {
            let topic = work.rules.topics.of_host(topic);
            let settled = |value| match value {
                HostValue::At(at) => HostValue::At(at.map(|x| x + 0.0)),
                other => other,
            };
            work.log.publish(HostFact { topic, values: values.map(settled) });
        }
        Order::SetFlag { flag, up } => {
            if std::mem::replace(&mut work.state.flags[flag.index()], up) != up {
                work.log.publish(FlagChanged { flag, to: up });
            }
        }
        Order::Count { counter, count } => {
            let held = &mut work.state.counters[counter.index()];
            let from = *held;
            *held = match count {
                Count::Add(more) => from.saturating_add(more),
                Count::Set(to) => to,
            };
            let to = *held;
            if from != to {
                work.log.publish(CounterChanged { counter, from, to });
            }
        }
        Order::Score { score, points, credit } => {
            let held = &mut work.state.scores[score.index()];
            let from = *held;
            *held = from.saturating_add(points);
            let to = *held;
            if from != to {
                work.log.publish(ScoreChanged { score, from, to, credit });
            }
        }
        Order::Attach { subject, value, amount } => {
            work.state.combatants.attach(subject.slot(), value, amount);
        }
        Order::Follow { subject, leader } => work.state.combatants.follow(subject.slot(), leader),
        Order::StartWaves { waves } => flow::start_waves(work, waves),
        Order::NextRound => {
            work.state.round = work.state.round.saturating_add(1);
            let round = work.state.round;
            work.log.publish(EncounterRound { round });
        }
        Order::Say { line, subject } => {
            work.log.publish(Said { line, subject });
        }
        Order::Fire { .. } => flow::fire(work, pending),
        Order::Reset => work.state.resets = true,
        Order::End { outcome } => {
            if work.state.flow == Flow::Running {
                work.state.flow = Flow::Ending(outcome);
            }
        }
    }
}

/// What only the tick can tell of an order.
fn may_be_carried_out(work: &Work<'_>, pending: &Pending) -> Result<(), Refusal> {
    match pending.order {
        Order::Subscribe { hook, .. } if !work.hearing.knows(hook) => Err(Refusal::NoSuchHook),
        Order::Subscribe { hook, listen, .. } => match work.hearing.takes(hook) {
            Some(path) if !asks_only_for(work.rules, listen, path) => Err(Refusal::OtherPayload),
            _ => Ok(()),
        },
        _ => Ok(()),
    }
}

/// Whether all facts that a subscription asks for are of the topics under `path`.
fn asks_only_for(rules: &Rules, listen: Listen, path: &str) -> bool {
    let topics = rules.topics();
    let is = |&topic: &TopicId| topics.info(topic).is_some_and(|info| info.path == path);
    match listen.topical() {
        Topical::To(topic) => is(&topic),
        Topical::Under(family) => topics.members(family).iter().all(is),
        Topical::All => false,
    }
}

/// Publishes that an order was refused. The id that was reserved for it lapses.
pub(crate) fn refuse(work: &mut Work<'_>, pending: &Pending, why: Refusal) {
    let order = pending.order;
    work.state.registrar.lapse(&order);
    let (kind, subject) = (order.kind(), order.subject());
    work.log.publish(OrderRefused { order: pending.number, kind, subject, why });
}

/// The pose with its turn at length 1; its order was looked at before.
fn settled(pose: Pose) -> Pose {
    pose.settled().unwrap_or(Pose::IDENTITY)
}

/// What the host's physics found joins the meetings of the tick; in a pass, when those are over, it is resolved at once.
fn report(work: &mut Work<'_>, swing: SwingId, target: CombatantId, part: u16, touch: Touch) {
    let normal = Vec3::from_array(touch.normal);
    let normal = normal / normal.length() + 0.0;
    let impact = Impact { toi: 0.0, point: Vec3::from_array(touch.point) + 0.0, normal };
    let candidate = HitCandidate { swing, target, part, impact, list: 0, body: 0, depth: 0.0, rank: 0 };
    if work.log.source.pass == 0 {
        work.rooms.detection.candidates.push(candidate);
    } else {
        resolve::blow(work, &candidate);
    }
}

/// The same again changes nothing: one that asks for the same, or one of the same hook under the same key.
fn subscribe(work: &mut Work<'_>, id: SubscriptionId, hook: HookId, listen: Listen) {
    let state = &mut *work.state;
    let same = |known: &Subscription| {
        known.hook == hook
            && known.until.is_none()
            && (known.listen == listen || (listen.key.is_some() && known.listen.key == listen.key))
    };
    if !state.subscriptions.iter().any(same) {
        let from = work.log.next();
        let place = state.subscriptions.partition_point(|known| known.id < id);
        state.subscriptions.insert(place, Subscription { id, hook, listen, from, until: None });
        work.rooms.listeners.subscribed(work.rules, work.state, place);
    }
}

/// Moves under way go on by one tick.
fn advance_moves(work: &mut Work<'_>) {
    let combatants = &mut work.state.combatants;
    for slot in 0..combatants.slots() {
        let left = combatants.goal_ticks[slot];
        if left > 0 {
            combatants.goal_ticks[slot] = left - 1;
            combatants.pose[slot] = between(combatants.pose[slot], combatants.goal[slot], 1, left);
        }
    }
}
