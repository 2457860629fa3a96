//! Whether an order can be carried out as things stand; one file for each family of orders.

mod combatants;
mod effects;
mod encounter;
mod listening;
mod swings;

use crate::Fixed;
use crate::geometry::Pose;
use crate::ids::*;
use crate::orders::Order;
use crate::ruleset::Rules;
use crate::state::{Flow, State, Swing};
use crate::terms::{Definition, Quantity, Refusal};

/// Why an order would be refused as things stand, were it carried out in the tick `now`, if it would.
pub(crate) fn refusal(rules: &Rules, state: &State, order: &Order, now: u32) -> Result<(), Refusal> {
    if matches!(state.flow, Flow::Ended(_)) && *order != Order::Reset {
        return Err(Refusal::Ended);
    }
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
        | Order::RemoveObstacle { .. } => combatants::refusal(rules, state, order),
        Order::Start { .. }
        | Order::SpawnAttack { .. }
        | Order::Marker { .. }
        | Order::Rewind { .. }
        | Order::Release { .. }
        | Order::Guide { .. }
        | Order::GuideHitboxes { .. }
        | Order::Cancel { .. }
        | Order::StopBody { .. }
        | Order::Report { .. } => swings::refusal(rules, state, order, now),
        Order::Damage { .. }
        | Order::Heal { .. }
        | Order::Apply { .. }
        | Order::Lift { .. }
        | Order::LiftFamily { .. }
        | Order::Change { .. }
        | Order::Unchange { .. }
        | Order::SetMaximum { .. }
        | Order::ChangeGauge { .. }
        | Order::RaiseShield { .. } => effects::refusal(rules, state, order),
        Order::Subscribe { .. }
        | Order::Unsubscribe { .. }
        | Order::Pause { .. }
        | Order::Resume { .. }
        | Order::Publish { .. } => listening::refusal(rules, state, order),
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
        | Order::End { .. } => encounter::refusal(rules, state, order),
    }
}

/// Whether a rule may damage one.
pub(super) fn may_damage(rules: &Rules, state: &State, target: CombatantId) -> Result<(), Refusal> {
    standing(state, target)?;
    let mut running = rules.uses.invulnerable.then(|| state.running_on(target.slot())).into_iter().flatten();
    let invulnerable = running.any(|application| rules.status(application.status).invulnerable);
    if invulnerable { Err(Refusal::Invulnerable) } else { Ok(()) }
}

fn reserved(state: &State, order: &Order) -> Result<(), Refusal> {
    if state.registrar.admits(order) { Ok(()) } else { Err(Refusal::NotReserved) }
}

fn in_ruleset(what: Definition, index: usize, count: usize) -> Result<(), Refusal> {
    if index < count { Ok(()) } else { Err(Refusal::NotInRuleset(what)) }
}

fn standing(state: &State, id: CombatantId) -> Result<(), Refusal> {
    state.combatants.standing(id)
}

/// Whether one to be credited, if there is one, was ever in the encounter.
fn known(state: &State, who: Option<CombatantId>) -> Result<(), Refusal> {
    let known = who.is_none_or(|who| state.combatants.was_here(who));
    if known { Ok(()) } else { Err(Refusal::Unknown) }
}

/// Whether one is in the encounter, standing or not.
fn present(state: &State, id: CombatantId) -> Result<(), Refusal> {
    match standing(state, id) {
        Err(Refusal::Dead | Refusal::Away) => Ok(()),
        otherwise => otherwise,
    }
}

fn within(what: Quantity, value: Fixed, least: Fixed, most: Fixed) -> Result<(), Refusal> {
    if (least..=most).contains(&value) { Ok(()) } else { Err(Refusal::OutOfRange(what)) }
}

fn finite(pose: Pose) -> Result<(), Refusal> {
    if pose.settled().is_some() { Ok(()) } else { Err(Refusal::NotFinite) }
}

fn running(state: &State, swing: SwingId) -> Result<&Swing, Refusal> {
    let found = state.swing_index(swing).map(|index| &state.swings[index]);
    found.filter(|swing| swing.ended.is_none()).ok_or(Refusal::NoSwing)
}
