//! Projectile bodies: they leave, fly, and end.

use glam::Vec3;

use crate::detect::Barrier;
use crate::event::{ProjectileStopped, SwingEnd, Why};
use crate::geometry::{Axis, Bits, Impact, Pose, in_bounds};
use crate::ruleset::{Form, Projectile, Rules, When};
use crate::state::{BodyAt, Flying, State, Swing, SwingAt};
use crate::work::Work;

use super::begin;

/// The bodies of the swing at `index` leave, from its aim or from its attacker as the tick begins.
pub(crate) fn launch(rules: &Rules, state: &mut State, index: SwingAt, projectile: &Projectile) {
    let swing = state.swings[index];
    let attacker = swing.attacker.map(|attacker| state.combatants.pose_before[attacker.slot()]);
    let Some(pose) = swing.anchor.or(attacker) else { return };
    let up = rules.up;
    let from = Vec3::from_array(pose.at) + Vec3::from_array(pose.direction(projectile.from)) + 0.0;
    let forward = Vec3::from_array(pose.direction(Axis::Z.vector()));
    let speed = projectile.speed / rules.rate as f32;
    for i in 0..projectile.pellets {
        let along = turned(forward, up, fan(projectile, i));
        let mut body = Pose { at: from.to_array(), turn: pose.turn };
        if projectile.aligned {
            body = body.led_by(along);
        }
        send(state, index, i + 1, body, Bits((along * speed + 0.0).to_array()), projectile.lifetime);
    }
}

/// What was deflected leaves at once, whatever its timeline says.
pub(crate) fn launch_back(rules: &Rules, state: &mut State, index: SwingAt, pose: Pose, velocity: Bits) {
    let attack = state.swings[index].attack;
    let opens = rules.attack_plan(attack).windows.first().map_or(0, |window| window.opens);
    if let Form::Projectile(projectile) = rules.attack(attack).form {
        state.swings[index].clock = opens;
        let pose = if projectile.aligned { pose.led_by(Vec3::from_array(velocity.0)) } else { pose };
        send(state, index, 1, pose, velocity, projectile.lifetime);
    }
}

fn send(state: &mut State, index: SwingAt, body: u16, pose: Pose, velocity: Bits, lifetime: u32) {
    let swing = &mut state.swings[index];
    swing.bodies += 1;
    swing.launched = true;
    let flying = Flying {
        swing: swing.id,
        body,
        before: pose,
        pose,
        velocity,
        left: lifetime,
        struck: 0,
        ended: None,
    };
    let list = &mut state.flying;
    let place = list.partition_point(|other| (other.swing, other.body) < (flying.swing, flying.body));
    list.insert(place, flying);
}

/// How far body `i` leaves from the middle of the fan: the sine and cosine of the angle.
fn fan(projectile: &Projectile, i: u16) -> (f32, f32) {
    if projectile.pellets < 2 {
        return (0.0, 1.0);
    }
    let share = f32::from(i) / f32::from(projectile.pellets - 1) - 0.5;
    let angle = projectile.spread * share * (std::f32::consts::PI / 180.0);
    (libm::sinf(angle), libm::cosf(angle))
}

/// A direction turned about the up axis.
fn turned(direction: Vec3, up: Axis, (sine, cosine): (f32, f32)) -> Vec3 {
    let up = Vec3::from_array(up.vector());
    let level = up * up.dot(direction);
    level + (direction - level) * cosine + up.cross(direction) * sine
}

/// Every body flies on by one tick.
pub(crate) fn fly(rules: &Rules, state: &mut State) {
    let up = Vec3::from_array(rules.up.vector());
    let rate = rules.rate as f32;
    for index in 0..state.flying.len() {
        let body = &mut state.flying[index];
        body.before = body.pose;
        body.left = body.left.saturating_sub(1);
        let velocity = Vec3::from_array(body.velocity.0);
        let next = (Vec3::from_array(body.pose.at) + velocity + 0.0).to_array();
        if !in_bounds(&next) {
            // It leaves the world, and ends where it was.
            body.left = 0;
            continue;
        }
        body.pose.at = next;
        let swing = body.swing;
        if let Some(place) = state.swing_index(swing)
            && let Form::Projectile(projectile) = rules.attack(state.swings[place].attack).form
        {
            let drawn = velocity - up * (projectile.gravity / (rate * rate)) + 0.0;
            let body = &mut state.flying[index];
            body.velocity = Bits(drawn.to_array());
            if projectile.aligned {
                body.pose = body.pose.led_by(drawn);
            }
        }
    }
}

/// The body at `index` meets something in its way, and ends at `pose`.
pub(crate) fn stop_body(work: &mut Work<'_>, index: BodyAt, impact: &Impact, by: Barrier, pose: Pose) {
    let Flying { swing, body, ended, .. } = work.state.flying[index];
    if let Some(place) = work.state.swing_index(swing).filter(|_| ended.is_none()) {
        let Swing { attack, attacker, .. } = work.state.swings[place];
        let (obstacle, shape) = match by {
            Barrier::Obstacle(id) => (Some(id), None),
            Barrier::Level(shape) => (None, Some(shape)),
            Barrier::Host => (None, None),
        };
        let Impact { toi, point, normal } = *impact;
        let (point, normal) = (point.to_array(), normal.to_array());
        let stopped =
            ProjectileStopped { swing, attack, attacker, body, obstacle, shape, point, normal, toi };
        work.log.publish(stopped);
    }
    end_body(work, index, SwingEnd::Obstacle, pose);
}

/// The body at `index` ends, at `pose`; with the last one ends its swing, unless that still binds its attacker's hands.
pub(crate) fn end_body(work: &mut Work<'_>, index: BodyAt, why: SwingEnd, pose: Pose) {
    let body = &mut work.state.flying[index];
    if body.ended.is_some() {
        return;
    }
    body.ended = Some(why);
    let (number, swing) = (body.body, body.swing);
    let Some(place) = work.state.swing_index(swing) else { return };
    super::part_contacts(work, place, Why::SwingEnded, |contact| contact.body == number);
    match why {
        SwingEnd::Obstacle => begin::child(work.rules, work.state, work.log, place, When::Obstacle, pose),
        SwingEnd::Expired => begin::child(work.rules, work.state, work.log, place, When::Expiry, pose),
        _ => {}
    }
    let swing: &mut Swing = &mut work.state.swings[place];
    swing.bodies -= 1;
    swing.last_end = why;
    if swing.bodies == 0 && !swing.busy {
        super::end_swing(work, place, why);
    }
}
