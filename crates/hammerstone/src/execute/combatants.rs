//! Orders about combatants, where they are, and what stands in their way.

use super::settled;
use crate::Fixed;
use crate::event::{
    CombatantRetimed, CombatantSwitched, TacticsChose, TacticsDropped, TacticsRequested, Why,
};
use crate::geometry::Pose;
use crate::orders::Order;
use crate::orders::Pending;
use crate::state::Raised;
use crate::terms::NORMAL;
use crate::work::Work;
use crate::{holds, lifecycle, tempo};

pub(super) fn carry_out(work: &mut Work<'_>, pending: &Pending) {
    match pending.order {
        Order::Spawn { id, template, team, pose, owner } => {
            lifecycle::join(work, id, template, team, settled(pose), owner, None);
        }
        Order::SpawnKeyed { id, template, team, pose, owner, key } => {
            lifecycle::join(work, id, template, team, settled(pose), owner, Some(key));
        }
        Order::Move { subject, pose, ticks } => {
            let combatants = &mut work.state.combatants;
            combatants.goal[subject.slot()] = settled(pose);
            combatants.goal_ticks[subject.slot()] = ticks;
        }
        Order::Teleport { subject, pose } => {
            work.state.combatants.stand_still(subject.slot(), settled(pose));
            work.rooms.detection.posed.arrive(subject.slot());
        }
        Order::AddObstacle { id, obstacle } => {
            let place = work.state.obstacles.partition_point(|raised| raised.id < id);
            if let Some(obstacle) = obstacle.settled() {
                let still = Pose::IDENTITY;
                let raised = Raised {
                    id,
                    obstacle,
                    before: still,
                    pose: still,
                    goal: still,
                    goal_ticks: 0,
                    name: None,
                };
                work.state.obstacles.insert(place, raised);
            }
        }
        Order::MoveObstacle { id, pose, ticks } => {
            if let Some(raised) = work.state.raised_mut(id) {
                (raised.goal, raised.goal_ticks) = (settled(pose), ticks);
            }
        }
        Order::PlaceObstacle { id, pose } => {
            if let Some(raised) = work.state.raised_mut(id) {
                let pose = settled(pose);
                *raised = Raised { before: pose, pose, goal: pose, goal_ticks: 0, ..*raised };
            }
        }
        Order::NameObstacle { id, name } => {
            if let Some(raised) = work.state.raised_mut(id) {
                raised.name = Some(name);
            }
        }
        Order::OpenObstacle { id, open } => work.state.open_obstacle(id, open),
        Order::RemoveObstacle { id } => {
            work.state.obstacles.retain(|raised| raised.id != id);
            work.state.opened.0.retain(|raised| raised.id != id);
        }
        Order::ChangeTeam { subject, team } => {
            let from = std::mem::replace(&mut work.state.combatants.team[subject.slot()], team);
            if from != team {
                work.log.publish(CombatantSwitched { subject, from, to: team });
            }
        }
        Order::ScaleTime { subject, sixteenths } => {
            let from = tempo::set_scale(work.state, subject, sixteenths);
            if from != sixteenths {
                let share = |scale: u8| Fixed::ratio(scale.into(), NORMAL.into());
                let (from, to) = (share(from), share(sixteenths));
                work.log.publish(CombatantRetimed { subject, from, to });
            }
        }
        Order::Transform { subject, template } => lifecycle::transform(work, subject, template),
        Order::LetGo { subject } => holds::end_of(work, subject, Why::Ordered),
        Order::Request { subject, tactic, other } => {
            work.log.publish(TacticsRequested { subject, tactic, other });
        }
        Order::TellChoice { subject, other, dropped, texts } => {
            let [tactics, choice, last] = texts.map(|text| work.log.tell(text, &work.state.given_text));
            if dropped {
                work.log.publish(TacticsDropped { subject, other, tactics, choice, reason: last });
            } else {
                work.log.publish(TacticsChose { subject, other, tactics, choice, passed: last });
            }
        }
        Order::SendAway { subject } => lifecycle::go_away(work, subject),
        Order::Return { subject, pose, share } => {
            lifecycle::come_back(work, subject, settled(pose), share, Why::Ordered);
        }
        Order::Remove { subject } => lifecycle::remove(work, subject, Why::Ordered),
        Order::Attach { subject, value, amount } => {
            work.state.combatants.attach(subject.slot(), value, amount);
        }
        Order::ShowPart { subject, part, shown } => {
            let off = &mut work.state.combatants.off[subject.slot()];
            *off = if shown { *off & !(1 << part) } else { *off | 1 << part };
        }
        Order::Resize { subject, size } => work.state.combatants.size[subject.slot()] = size,
        Order::Label { subject, label } => work.state.combatants.label[subject.slot()] = label,
        Order::Follow { subject, leader } => work.state.combatants.follow(subject.slot(), leader),
        _ => {}
    }
}
