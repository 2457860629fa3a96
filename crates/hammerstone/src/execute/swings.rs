//! Orders about swings.

use glam::Vec3;

use super::settled;
use crate::detect::{Barrier, HitCandidate, Stop, held_at};
use crate::event::SwingEnd;
use crate::geometry::{Impact, Motion};
use crate::ids::*;
use crate::orders::Pending;
use crate::orders::{Marker, Order, Touch};
use crate::resolve;
use crate::ruleset::Prefer;
use crate::state::{ChainStep, Charging, Flying, Press, State};
use crate::swing::{self, Spawned};
use crate::work::Work;

pub(super) fn carry_out(work: &mut Work<'_>, pending: &Pending) {
    match pending.order {
        Order::Start { swing, subject, attack, aim } => {
            let aim = aim.map(settled);
            match work.state.step_of(subject) {
                Some(step) if work.state.press(subject, attack, work.state.tick).is_some() => {
                    let pressed = Some(swing);
                    work.state.set_step(subject, Some(ChainStep { pressed, ..step }));
                }
                _ => {
                    let until = work.state.tick.saturating_add(work.rules.attack(attack).buffer);
                    swing::start(work, subject, Press { swing, attack, aim, until });
                }
            }
        }
        Order::SpawnAttack { swing, attack, team, pose, credit } => {
            let whose = Spawned { team, credit };
            swing::begin_spawned(work.rules, work.state, work.log, swing, attack, whose, settled(pose));
        }
        Order::Marker { swing, marker } => {
            if let Some(index) = work.state.swing_index(swing) {
                let swing = &mut work.state.swings[index];
                let (open, opened, over) = &mut swing.markers;
                match marker {
                    Marker::Open => {
                        *opened = opened.saturating_add(1);
                        *open = *opened;
                        swing.opened_at = swing.clock;
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
                let State { swings, hitbox_poses, .. } = &mut *work.state;
                let swing = &mut swings[index];
                let hitboxes = work.rules.attack_plan(swing.attack).cores.len();
                let poses = (0..hitboxes).map(|_| settled(pose));
                // What comes in a pass is for the next tick, which begins there.
                match work.log.source.pass {
                    0 => work.rooms.detection.posed.guide(hitbox_poses, swing, poses),
                    _ => hitbox_poses.fill(&mut swing.guided, poses),
                }
            }
        }
        Order::Rewind { swing, ticks } => work.state.past.rewind(swing, ticks),
        Order::Cancel { swing } => {
            if let Some(index) = work.state.swing_index(swing) {
                swing::end_swing(work, index, SwingEnd::Cancelled);
            }
        }
        Order::StopBody { swing, touch } => stop(work, swing, &touch),
        Order::Report { swing, target, part, touch } => report(work, swing, target, part, touch),
        _ => {}
    }
}

/// The impact that the host tells of.
fn impact_of(touch: &Touch) -> Impact {
    let normal = Vec3::from_array(touch.normal);
    let normal = normal / normal.length() + 0.0;
    Impact { toi: touch.toi + 0.0, point: Vec3::from_array(touch.point) + 0.0, normal }
}

/// A wall that the host found holds a projectile; in a pass, when its way through the tick is over, it ends at once.
fn stop(work: &mut Work<'_>, swing: SwingId, touch: &Touch) {
    let impact = impact_of(touch);
    if work.log.source.pass == 0 {
        work.rooms.detection.stops.push(Stop { swing, body: touch.body, impact });
    } else if let Some(place) = work.state.flying_index(swing, touch.body) {
        let Flying { before, pose, .. } = work.state.flying[place];
        let at = held_at(&Motion::between(before, pose), &impact, Barrier::Host);
        swing::stop_body(work, place, &impact, Barrier::Host, at);
    }
}

/// What the host's physics found joins the meetings of the tick; in a pass, when those are over, it is resolved at once.
fn report(work: &mut Work<'_>, id: SwingId, target: CombatantId, part: u16, touch: Touch) {
    let Some(place) = work.state.swing_index(id) else { return };
    let (rules, state, swing) = (work.rules, &*work.state, &work.state.swings[place]);
    let attack = rules.attack(swing.attack);
    let impact = impact_of(&touch);
    let group = attack.hitboxes.get(usize::from(touch.hitbox)).map_or(0, |hitbox| hitbox.group);
    let rank = match attack.prefer {
        Prefer::First => impact.toi.to_bits().into(),
        Prefer::Multiplier if state.combatants.is_present(target) => {
            let slot = target.slot();
            let authored = &rules.template(state.combatants.template[slot]).parts[usize::from(part)];
            -authored.multiplier_when(state.combatants.is_broken(slot, part)).to_raw()
        }
        Prefer::Multiplier => 0,
        Prefer::Nearest => {
            let from = match (state.flying_index(id, touch.body), swing.anchor, swing.attacker) {
                (Some(body), ..) => state.flying[body].pose.at,
                (None, Some(anchor), _) => anchor.at,
                (None, None, Some(attacker)) => state.combatants.pose[attacker.slot()].at,
                (None, None, None) => touch.point,
            };
            (impact.point - Vec3::from_array(from)).length().to_bits().into()
        }
    };
    let (list, body) = (attack.list_of(group, touch.body), touch.body);
    let candidate =
        HitCandidate { swing: id, target, part, impact, list, body, depth: 0.0, speed: touch.speed, rank };
    if work.log.source.pass == 0 {
        work.rooms.detection.candidates.push(candidate);
    } else {
        resolve::blow(work, &candidate);
    }
}
