//! Stage 3: all open hitboxes against all parts, swept over the tick. Contacts meet, go on and part;
//! a swing and a target that meet are a meeting, for stage 4.

use crate::event::{ContactHeld, ContactMet, Why};
use glam::Vec3;

use crate::detect::HitCandidate;
use crate::detect::{
    BeamLine, Body, OpenHitbox, Touching, gather_bodies, gather_hitboxes, rank, reach_of_beam,
};
use crate::geometry::{Core, Impact, Motion, Pose, Swept, sweep};
use crate::ids::*;
use crate::ruleset::{Beam, Form};
use crate::state::{Contact, next};
use crate::swing;
use crate::work::Work;

pub(super) fn detect(work: &mut Work<'_>) {
    let mut detection = std::mem::take(&mut work.rooms.detection);
    gather_hitboxes(work, &mut detection);
    detection.beams.clear();
    if !detection.hitboxes.is_empty() {
        gather_bodies(work, &mut detection);
    }
    detection.find_touches(work.rules);
    let swings = &work.state.swings;
    detection.find_clashes(work.rules, |place| swings[place as usize].id);
    let (hitboxes, bodies) = (std::mem::take(&mut detection.hitboxes), std::mem::take(&mut detection.bodies));
    let mut touches = std::mem::take(&mut detection.touches);
    work.rooms.detection = detection;
    cut_beams(work, &hitboxes, &bodies, &mut touches);
    for run in touches.chunk_by(|a, b| (a.hitbox, a.body) == (b.hitbox, b.body)) {
        let (open, body) = (&hitboxes[run[0].hitbox as usize], &bodies[run[0].body as usize]);
        meet(work, open, body, run);
    }
    part_what_came_apart(work);
    work.rooms.detection.hitboxes = hitboxes;
    work.rooms.detection.bodies = bodies;
    work.rooms.detection.touches = touches;
}

/// Only the part that finds touches, for measuring.
#[cfg(feature = "figures")]
pub(crate) fn detect_only(work: &mut Work<'_>) -> usize {
    let mut detection = std::mem::take(&mut work.rooms.detection);
    gather_hitboxes(work, &mut detection);
    gather_bodies(work, &mut detection);
    detection.find_touches(work.rules);
    let touches = detection.touches.len();
    work.rooms.detection = detection;
    touches
}

/// One hitbox and one target, with the parts that touch: a contact, and a meeting on the part that the attack prefers.
fn meet(work: &mut Work<'_>, open: &OpenHitbox, body: &Body, run: &[Touching]) {
    let rules = work.rules;
    let attack = rules.attack(open.attack);
    let toi = |touch: &Touching| (touch.impact.toi.to_bits(), touch.part);
    let Some(first) = run.iter().min_by_key(|touch| toi(touch)) else { return };
    let best = |touch: &Touching| (rank(rules, attack, open, body, touch), toi(touch));
    let Some(preferred) = run.iter().min_by_key(|touch| best(touch)) else { return };
    touch(work, open, body.id, first.part, first.impact, attack.tells_held);
    work.rooms.detection.candidates.push(HitCandidate {
        swing: work.state.swings[open.swing as usize].id,
        target: body.id,
        part: preferred.part,
        // The time is that of the first touch; the place is on the preferred part.
        impact: Impact { toi: first.impact.toi, ..preferred.impact },
        list: open.list(attack),
        body: open.body,
        depth: first.depth,
        rank: best(preferred).0,
    });
}

/// Notes that a hitbox touches a target: a contact that meets or goes on.
fn touch(
    work: &mut Work<'_>,
    open: &OpenHitbox,
    target: CombatantId,
    part: u16,
    impact: Impact,
    tells: bool,
) {
    let Work { state, rooms, .. } = &mut *work;
    let (body, hitbox) = (open.body, open.hitbox);
    let is = |c: &Contact| (c.body, c.hitbox, c.over) == (body, hitbox, false);
    let index = open.swing as usize;
    let known = rooms.known.contacts.find(&state.contacts, &state.swings, index, target, is);
    let (tick, swing) = (state.tick, &mut state.swings[index]);
    let (swing_id, attacker) = (swing.id, swing.attacker);
    let (point, normal) = (impact.point.to_array(), impact.normal.to_array());
    if let Some(place) = known {
        let contact = state.contacts.get_mut(place);
        (contact.part, contact.seen) = (part, tick);
        let contact = contact.id;
        if tells {
            work.log.publish(ContactHeld { contact, swing: swing_id, attacker, target, part, point, normal });
        }
        return;
    }
    let id = ContactId::new(next(&mut state.next_contact), state.registrar.epoch);
    let contact = Contact { id, body, hitbox, target, part, seen: tick, over: false };
    let place = state.contacts.push(&mut swing.contacts, contact);
    rooms.known.contacts.add(swing_id, target, place);
    let toi = impact.toi;
    work.log.publish(ContactMet { contact: id, swing: swing_id, attacker, target, part, point, normal, toi });
}

fn part_what_came_apart(work: &mut Work<'_>) {
    let tick = work.state.tick;
    for index in 0..work.state.swings.len() {
        if !work.state.swings[index].contacts.is_empty() {
            swing::part_contacts(work, index, Why::Apart, |contact| contact.seen != tick);
        }
    }
}

/// Takes out what beams touch behind an obstacle, notes where the beam enters the rest, and where it stops.
///
/// Looked at when the beam first touches, and where that is behind an obstacle, once more at the end of the tick.
fn cut_beams(work: &mut Work<'_>, hitboxes: &[OpenHitbox], bodies: &[Body], touches: &mut Vec<Touching>) {
    let rules = work.rules;
    let obstacles = &work.state.obstacles;
    touches.retain_mut(|touch| {
        let open = &hitboxes[touch.hitbox as usize];
        let Form::Beam(beam) = rules.attack(open.attack).form else { return true };
        let body = &bodies[touch.body as usize];
        let part = usize::from(touch.part);
        let parts = &rules.template(body.template).parts;
        let Some(&core) = parts[part].core_when(body.is_broken(part)) else { return false };
        let first = touch.impact.toi;
        [first, 1.0].into_iter().any(|t| {
            let (from, along) = beam_at(open, &beam, t);
            let (stop, _) = reach_of_beam(obstacles, from, along, beam.reach);
            let target = Swept::fixed(core, body.motion.at_rest(t));
            let entry = enter(&beam, from, along, &target);
            // What it only grazes, within the skin, it has no way into: then the touch itself is the place.
            let graze = (t == first).then_some((along_beam(touch.impact.point, from, along), touch.impact));
            let Some((depth, impact)) = entry.or(graze) else { return false };
            (touch.depth, touch.impact) = (depth, Impact { toi: t, ..impact });
            depth <= stop + beam.radius
        })
    });
    for open in hitboxes {
        if let Form::Beam(beam) = rules.attack(open.attack).form {
            let (from, along) = beam_at(open, &beam, 1.0);
            let (stop, _) = reach_of_beam(obstacles, from, along, beam.reach);
            let swing = work.state.swings[open.swing as usize].id;
            let to = (from + along * stop).to_array();
            work.rooms.detection.beams.push(BeamLine { swing, from: from.to_array(), to });
        }
    }
}

/// How far along a beam it enters a target at rest: a ball of its thickness goes its way in one go.
fn enter(beam: &Beam, from: Vec3, along: Vec3, target: &Swept) -> Option<(f32, Impact)> {
    let pose = |at: Vec3| Pose::at(at.to_array());
    let way = Motion::between(pose(from), pose(from + along * beam.reach));
    let impact = sweep(&Swept::fixed(Core::line([0.0; 3], [0.0; 3], beam.radius), way), target)?;
    Some((impact.toi * beam.reach, impact))
}

fn beam_at(open: &OpenHitbox, beam: &Beam, t: f32) -> (Vec3, Vec3) {
    let placement = open.swept.carrier.at(t);
    (placement.apply(Vec3::from_array(beam.from)), placement.turn.rotate(Vec3::Z))
}

fn along_beam(point: Vec3, from: Vec3, along: Vec3) -> f32 {
    let depth = (point - from).dot(along);
    if depth > 0.0 { depth } else { 0.0 }
}
