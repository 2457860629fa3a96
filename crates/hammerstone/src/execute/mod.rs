//! Carrying out orders, one file for each family of orders. Why they would be refused is asked of [`crate::orders`] first.

mod check;
mod combatants;
mod effects;
mod encounter;
mod listening;
mod poses;
mod swings;

pub(crate) use check::refusal;

use crate::Fixed;
use crate::budget::Source;
use crate::event::OrderRefused;
use crate::ids::*;
use crate::orders::Order;
use crate::orders::{Pending, settled};
use crate::resolve::{self, By};
use crate::ruleset::{Amount, Dealing};
use crate::terms::Refusal;
use crate::work::Work;

/// Carries out all that is pending, in pass `pass`.
pub(crate) fn carry_out_all(work: &mut Work<'_>, pass: u16) {
    let given = work.state.pending.len();
    for place in 0..given {
        let order = work.state.pending[place];
        let Pending { heard, depth, root, .. } = order;
        let root = if pass == 0 { work.log.budget.root() } else { root };
        work.log.source = Source { heard, pass, depth, root };
        carry_out(work, &order);
    }
    // Orders from here on are the costs of blows that were reported in a pass. They wait for the next.
    work.state.pending.drain(..given);
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

/// Damage by a rule, or why it is refused.
pub(crate) fn deal_for_rule(
    work: &mut Work<'_>,
    source: Source,
    by: By,
    target: CombatantId,
    dealing: &Dealing,
    values: &[Fixed],
) {
    let order = Order::Damage {
        target,
        damage_type: dealing.amounts[0].0,
        amount: Fixed::ZERO,
        reason: ReasonId::new(0),
        source: by.source,
        absolute: false,
    };
    let may = check::may_damage(work.rules, work.state, target);
    if admits(work, source, order, may) {
        resolve::rule_damage(work, by, target, dealing, values);
    }
    work.log.source = source;
}

/// Healing by a rule, or why it is refused.
pub(crate) fn heal_for_rule(
    work: &mut Work<'_>,
    source: Source,
    by: By,
    target: CombatantId,
    amount: &Amount,
    values: &[Fixed],
) {
    let reason = ReasonId::new(0);
    let order = Order::Heal { target, points: 0, reason, source: by.source };
    let may = work.state.combatants.standing(target);
    if admits(work, source, order, may) {
        resolve::rule_heal(work, by, target, amount, values);
    }
    work.log.source = source;
}

/// Whether what a rule does is carried out. If not, the refusal is published as that of the order that it would have been.
fn admits(work: &mut Work<'_>, source: Source, order: Order, may: Result<(), Refusal>) -> bool {
    let number = work.state.registrar.next_order();
    work.log.source = source;
    let Source { heard, depth, root, .. } = source;
    match may {
        Ok(()) => {
            work.log.load.orders += 1;
            true
        }
        Err(why) => {
            refuse(work, &Pending { order, number, heard, depth, root }, why);
            false
        }
    }
}

/// Carries out the orders to pose of this tick, when its moves are over: poses of the world are for where bodies are then.
pub(crate) fn pose_all(work: &mut Work<'_>) {
    work.rooms.detection.posed.begin_posing();
    for place in 0..work.rooms.detection.posed.waiting.len() {
        let pending = work.rooms.detection.posed.waiting[place];
        let Pending { heard, depth, .. } = pending;
        work.log.source = Source { heard, pass: 0, depth, root: work.log.budget.root() };
        match refusal(work.rules, work.state, &pending.order, work.state.tick) {
            Ok(()) => {
                work.log.load.orders += 1;
                poses::carry_out(work.state, &mut work.rooms.detection.posed, pending.order);
            }
            Err(why) => refuse(work, &pending, why),
        }
    }
    work.rooms.detection.posed.waiting.clear();
    work.log.source = Source::default();
}

fn carry_out(work: &mut Work<'_>, pending: &Pending) {
    let order = &pending.order;
    if matches!(order, Order::PoseParts { .. } | Order::GuideHitboxes { .. }) {
        return work.rooms.detection.posed.waiting.push(*pending);
    }
    let may = refusal(work.rules, work.state, order, work.state.tick)
        .and_then(|()| listening::hook_fits(work, order));
    if let Err(why) = may {
        return refuse(work, pending, why);
    }
    work.log.load.orders += 1;
    work.state.registrar.accept(order);
    match order {
        Order::Spawn { .. }
        | Order::SpawnKeyed { .. }
        | Order::Move { .. }
        | Order::Teleport { .. }
        | Order::SendAway { .. }
        | Order::ChangeTeam { .. }
        | Order::ScaleTime { .. }
        | Order::Transform { .. }
        | Order::LetGo { .. }
        | Order::Request { .. }
        | Order::TellChoice { .. }
        | Order::Return { .. }
        | Order::Remove { .. }
        | Order::Follow { .. }
        | Order::Attach { .. }
        | Order::Label { .. }
        | Order::ShowPart { .. }
        | Order::Resize { .. }
        | Order::PoseParts { .. }
        | Order::AddObstacle { .. }
        | Order::MoveObstacle { .. }
        | Order::PlaceObstacle { .. }
        | Order::NameObstacle { .. }
        | Order::OpenObstacle { .. }
        | Order::RemoveObstacle { .. } => combatants::carry_out(work, pending),
        Order::Start { .. }
        | Order::SpawnAttack { .. }
        | Order::Marker { .. }
        | Order::Rewind { .. }
        | Order::Release { .. }
        | Order::Guide { .. }
        | Order::GuideHitboxes { .. }
        | Order::Cancel { .. }
        | Order::StopBody { .. }
        | Order::Report { .. } => swings::carry_out(work, pending),
        Order::Damage { .. }
        | Order::Heal { .. }
        | Order::Apply { .. }
        | Order::Lift { .. }
        | Order::LiftFamily { .. }
        | Order::Change { .. }
        | Order::Unchange { .. }
        | Order::SetMaximum { .. }
        | Order::ChangeGauge { .. }
        | Order::RaiseShield { .. } => effects::carry_out(work, pending),
        Order::Subscribe { .. }
        | Order::Unsubscribe { .. }
        | Order::Pause { .. }
        | Order::Resume { .. }
        | Order::Publish { .. } => listening::carry_out(work, pending),
        Order::SetFlag { .. }
        | Order::Count { .. }
        | Order::FlagCombatant { .. }
        | Order::CountCombatant { .. }
        | Order::Score { .. }
        | Order::StartWaves { .. }
        | Order::StopWaves { .. }
        | Order::NextRound
        | Order::Say { .. }
        | Order::Fire { .. }
        | Order::Reset
        | Order::End { .. } => encounter::carry_out(work, pending),
    }
}

/// Publishes that an order was refused. The id that was reserved for it lapses.
pub(crate) fn refuse(work: &mut Work<'_>, pending: &Pending, why: Refusal) {
    let order = pending.order;
    work.log.load.orders += 1;
    work.log.load.refused_orders += 1;
    work.state.registrar.lapse(&order);
    let (kind, attack, subject) = (order.kind(), order.attack(), order.subject());
    work.log.publish(OrderRefused { order: pending.number, kind, attack, subject, why });
}
