//! Orders about combatants, where they are, and what stands in their way: why they would be refused.

use glam::Vec3;

use super::{finite, in_ruleset, known, present, reserved, standing, within};
use crate::Fixed;
use crate::geometry::{Frame, Pose};
use crate::ids::*;
use crate::orders::{Order, Poses, all_within};
use crate::ruleset::{Pool, Rules};
use crate::sheet;
use crate::state::{Raised, SIZES, State, sharers};
use crate::terms::{Definition, FASTEST, Life, Quantity, Refusal};

pub(super) fn refusal(rules: &Rules, state: &State, order: &Order) -> Result<(), Refusal> {
    match *order {
        Order::Spawn { id, template, team, pose, owner } => {
            joins(rules, state, order, id, (template, team), pose, owner)
        }
        Order::SpawnKeyed { id, template, team, pose, owner, key } => {
            joins(rules, state, order, id, (template, team), pose, owner)?;
            key_is_free(state, key)
        }
        Order::Move { subject, pose, ticks } => {
            has_body(state, subject)?;
            if sheet::is_rooted(rules, state, subject.slot()) {
                return Err(Refusal::Rooted);
            }
            free(state, subject)?;
            may_move(rules, state.combatants.pose[subject.slot()], pose, ticks)
        }
        Order::Teleport { subject, pose } => {
            has_body(state, subject)?;
            free(state, subject)?;
            finite(pose)
        }
        Order::PoseParts { subject, frame, poses } => may_pose(rules, state, subject, frame, poses),
        Order::AddObstacle { obstacle, .. } => {
            if obstacle.settled().is_none() {
                return Err(Refusal::NoSolid);
            }
            reserved(state, order)
        }
        Order::RemoveObstacle { id } | Order::OpenObstacle { id, .. } => raised(state, id).map(|_| ()),
        Order::MoveObstacle { id, pose, ticks } => may_move(rules, raised(state, id)?.pose, pose, ticks),
        Order::PlaceObstacle { id, pose } => {
            raised(state, id)?;
            finite(pose)
        }
        Order::NameObstacle { id, name } => {
            raised(state, id)?;
            in_ruleset(Definition::Obstacle, name.index(), rules.obstacle_names.len())
        }
        Order::SendAway { subject } => standing(state, subject),
        Order::ChangeTeam { subject, team } => {
            in_ruleset(Definition::Team, team.index(), rules.teams.len())?;
            present(state, subject)
        }
        Order::ScaleTime { subject, sixteenths } => {
            if sixteenths > FASTEST {
                return Err(Refusal::OutOfRange(Quantity::TimeScale));
            }
            present(state, subject)
        }
        Order::Transform { subject, template } => {
            in_ruleset(Definition::Template, template.index(), rules.templates.len())?;
            standing(state, subject)?;
            let now = rules.template(state.combatants.template[subject.slot()]).pool;
            if now == rules.template(template).pool { Ok(()) } else { has_room(rules, state, template) }
        }
        Order::LetGo { subject } => {
            standing(state, subject)?;
            let any = state.holds.iter().any(|hold| hold.holder == subject || hold.held == subject);
            if any { Ok(()) } else { Err(Refusal::NotHeld) }
        }
        Order::Request { subject, other, .. } => {
            known(state, other)?;
            standing(state, subject)
        }
        Order::TellChoice { subject, other, texts, .. } => {
            known(state, other)?;
            match texts.iter().position(|text| text.of(&state.given_text).is_none()) {
                Some(place) => Err(Refusal::WrongValue(place + 1)),
                None => present(state, subject),
            }
        }
        Order::Return { subject, pose, share } => {
            finite(pose)?;
            within(Quantity::ShareOfHealth, share, Fixed::raw(1), Fixed::ONE)?;
            match standing(state, subject) {
                Ok(()) => Err(Refusal::Standing),
                Err(Refusal::Dead | Refusal::Away) => Ok(()),
                Err(why) => Err(why),
            }
        }
        Order::Remove { subject } | Order::Label { subject, .. } => present(state, subject),
        Order::Attach { subject, value, .. } => {
            in_ruleset(Definition::Value, value.index(), rules.values.len())?;
            standing(state, subject)
        }
        Order::ShowPart { subject, part, .. } => {
            has_body(state, subject)?;
            let parts = rules.template(state.combatants.template[subject.slot()]).parts.len();
            if usize::from(part) < parts.min(64) { Ok(()) } else { Err(Refusal::NoSuchPart) }
        }
        Order::Resize { subject, size } => {
            has_body(state, subject)?;
            within(Quantity::Size, size, SIZES.0, SIZES.1)
        }
        Order::Follow { subject, leader } => {
            standing(state, subject)?;
            let Some(leader) = leader else { return Ok(()) };
            standing(state, leader)?;
            let mut above = Some(leader);
            while let Some(who) = above {
                if who == subject {
                    return Err(Refusal::FollowsItself);
                }
                above = state.combatants.leader_of(who.slot());
            }
            Ok(())
        }
        _ => Ok(()),
    }
}

fn joins(
    rules: &Rules,
    state: &State,
    order: &Order,
    id: CombatantId,
    (template, team): (TemplateId, Option<TeamId>),
    pose: Pose,
    owner: Option<CombatantId>,
) -> Result<(), Refusal> {
    if id == CombatantId::NONE {
        return Err(Refusal::NoMoreIds);
    }
    reserved(state, order)?;
    in_ruleset(Definition::Template, template.index(), rules.templates.len())?;
    if let Some(team) = team {
        in_ruleset(Definition::Team, team.index(), rules.teams.len())?;
    }
    known(state, owner)?;
    finite(pose)?;
    has_room(rules, state, template)
}

fn key_is_free(state: &State, key: u64) -> Result<(), Refusal> {
    let combatants = &state.combatants;
    let of = |slot: &usize| combatants.life[*slot] != Life::Gone && combatants.key[*slot] == key;
    match (0..combatants.slots()).find(of) {
        Some(slot) => Err(Refusal::KeyTaken(combatants.id(slot))),
        None => Ok(()),
    }
}

/// Whether one more may share the pool of a template, if it names one.
fn has_room(rules: &Rules, state: &State, template: TemplateId) -> Result<(), Refusal> {
    match rules.template(template).pool {
        Some(pool) if sharers(&state.pools, pool).count() >= Pool::MOST => Err(Refusal::PoolFull(pool)),
        _ => Ok(()),
    }
}

/// Whether no one holds a combatant.
fn free(state: &State, subject: CombatantId) -> Result<(), Refusal> {
    if state.holds.iter().any(|hold| hold.held == subject) { Err(Refusal::Held) } else { Ok(()) }
}

/// The obstacle, if it is there.
fn raised(state: &State, id: ObstacleId) -> Result<&Raised, Refusal> {
    state.raised(id).ok_or(Refusal::NoObstacle)
}

/// Whether a move goes no farther in a tick than the ruleset allows.
fn may_move(rules: &Rules, now: Pose, to: Pose, ticks: u32) -> Result<(), Refusal> {
    finite(to)?;
    if ticks == 0 {
        return Err(Refusal::NoTicks);
    }
    let metres = (Vec3::from_array(to.at) - Vec3::from_array(now.at)).length() / ticks as f32;
    let limit = rules.move_limit.0;
    // Written so that a distance which overflows is too far as well.
    if metres <= limit { Ok(()) } else { Err(Refusal::TooFar { metres, limit }) }
}

/// Whether one stands, or lies where it died: bodies of the dead are moved by the host as well.
fn has_body(state: &State, subject: CombatantId) -> Result<(), Refusal> {
    match standing(state, subject) {
        Err(Refusal::Dead) => Ok(()),
        otherwise => otherwise,
    }
}

/// As many poses as there are parts, each within reach of the body.
fn may_pose(
    rules: &Rules,
    state: &State,
    subject: CombatantId,
    frame: Frame,
    poses: Poses,
) -> Result<(), Refusal> {
    has_body(state, subject)?;
    let combatants = &state.combatants;
    let template = rules.template(combatants.template[subject.slot()]);
    let limit = template.posed.ok_or(Refusal::NotPosed)?.0 * combatants.times(subject.slot());
    let body = combatants.pose[subject.slot()];
    all_within(poses.of(&state.given_poses), template.parts.len(), body, frame, limit)
}
