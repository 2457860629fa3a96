//! Stage 3: all open hitboxes against all parts, swept over the tick. Contacts meet, go on and part;
//! a swing and a target that meet are a meeting, for stage 4.

use glam::Vec3;

use crate::detect::{Body, Detection, HitCandidate, OpenHitbox, Touching, hide_parts, keep_past, rank};
use crate::event::{ContactHeld, ContactMet, Moved, Why};
use crate::forms;
use crate::geometry::{Impact, Motion, Swept};
use crate::hooks::{PoseAnswer, PoseRequest};
use crate::ids::*;
use crate::log::Log;
use crate::ruleset::Rules;
use crate::state::{Bearers, Contact, State, SwingAt, next};
use crate::swing::{self, Known};
use crate::view::View;
use crate::work::{Rooms, Work};

pub(super) fn detect(work: &mut Work<'_>) {
    hide(work);
    let Work { rules, level, state, rooms, .. } = work;
    let detection = &mut rooms.detection;
    keep_past(rules, state, &detection.posed);
    forms::gather_open(rules, level, state, detection);
    detection.find_pairs(rules);
    ask_for_poses(work);
    let Work { rules, level, state, log, rooms, .. } = work;
    let Rooms { detection, known, .. } = &mut **rooms;
    detection.find_touches(rules);
    detection.find_clashes(rules);
    forms::cut_beams(rules, level, state, detection);
    let Detection { hitboxes, bodies, ways, touches, candidates, .. } = detection;
    for run in touches.chunk_by(|a, b| (a.hitbox, a.body) == (b.hitbox, b.body)) {
        let (open, body) = (&hitboxes[run[0].hitbox as usize], &bodies[run[0].body as usize]);
        if let Some((first, candidate)) = meet(rules, open, (body, ways), run) {
            // Those who died or went since were there some ticks ago: a gate refuses them, and they are in no contact.
            if body.back == 0 || state.combatants.standing(body.id).is_ok() {
                touch(rules, state, log, known, open, first, (body, ways));
            }
            candidates.push(candidate);
        }
    }
    part_what_came_apart(work);
}

/// Hides and shows parts, as orders and statuses have it by now.
fn hide(work: &mut Work<'_>) {
    let Work { rules, state, rooms, .. } = work;
    let Detection { posed, hidden, .. } = &mut rooms.detection;
    hide_parts(rules, Bearers::from(&**state), posed, hidden);
    for &(slot, parts) in hidden.iter() {
        state.combatants.hidden[slot as usize] = parts;
    }
}

/// Asks the host for the parts of combatants that come near an open hitbox and have no poses by order.
fn ask_for_poses(work: &mut Work<'_>) {
    let Work { ruleset, rules, state, rooms, host, .. } = work;
    let detection = &mut rooms.detection;
    for place in detection.asked() {
        let Body { id: who, template, motion: carrier, .. } = detection.bodies[place as usize];
        let authored = rules.template(template);
        let (parts, limit) = (authored.parts.len(), authored.posed.map_or(0.0, |reach| reach.0));
        let ways = &mut detection.ways;
        let first = ways.len();
        let label = state.combatants.label[who.slot()];
        let limit = limit * state.combatants.times(who.slot());
        let view = View::of(ruleset, state);
        let mut answer = PoseAnswer { ways, first, parts, limit, carrier, given: None };
        host.poses(&PoseRequest { who, template, label, parts, view }, &mut answer);
        if detection.ways.len() > first {
            detection.bodies[place as usize].posed = Some(first as u32);
        }
    }
}

/// Only the part that finds touches, for measuring.
#[cfg(feature = "figures")]
pub(crate) fn detect_only(work: &mut Work<'_>) -> usize {
    let detection = &mut work.rooms.detection;
    forms::gather_open(work.rules, work.level, work.state, detection);
    detection.find_pairs(work.rules);
    detection.find_touches(work.rules);
    detection.touches.len()
}

/// One hitbox and one target, with the parts that touch: the first touch, and a meeting on the part that the attack prefers.
fn meet<'a>(
    rules: &Rules,
    open: &OpenHitbox,
    (body, ways): (&Body, &[Motion]),
    run: &'a [Touching],
) -> Option<(&'a Touching, HitCandidate)> {
    let attack = rules.attack(open.attack);
    let toi = |touch: &Touching| (touch.impact.toi.to_bits(), touch.part);
    let first = run.iter().min_by_key(|touch| toi(touch))?;
    let best = |touch: &Touching| (rank(rules, attack, open, body, touch), toi(touch));
    let preferred = run.iter().min_by_key(|touch| best(touch))?;
    let speed = match attack.closing_speed {
        Some(_) => closing(rules, open, body.part(rules, ways, preferred.part.into()), &preferred.impact),
        None => 0.0,
    };
    let candidate = HitCandidate {
        swing: open.id,
        target: body.id,
        part: preferred.part,
        // The time is that of the first touch; the place is on the preferred part.
        impact: Impact { toi: first.impact.toi, ..preferred.impact },
        list: attack.list_of(open.group, open.body),
        body: open.body,
        depth: first.depth,
        speed,
        rank: best(preferred).0,
    };
    Some((first, candidate))
}

/// How fast a hitbox and a part close in where they touch, in metres a second.
fn closing(rules: &Rules, open: &OpenHitbox, part: Option<Swept>, impact: &Impact) -> f32 {
    let Impact { toi, point, normal } = *impact;
    let of_part = part.map_or(Vec3::ZERO, |part| part.velocity(point, toi));
    (of_part - open.swept.velocity(point, toi)).dot(normal) * rules.rate as f32 + 0.0
}

/// Notes that a hitbox touches a target: a contact that meets or goes on.
fn touch(
    rules: &Rules,
    state: &mut State,
    log: &mut Log,
    known: &mut Known,
    open: &OpenHitbox,
    &Touching { part, impact, .. }: &Touching,
    (target_body, ways): (&Body, &[Motion]),
) {
    let target = target_body.id;
    let (body, hitbox) = (open.body, open.hitbox);
    let is = |c: &Contact| (c.body, c.hitbox, c.over) == (body, hitbox, false);
    let index = open.swing;
    let goes_on = known.contacts.find(&state.contacts, &state.swings, index, target, is);
    let (tick, swing) = (state.tick, &mut state.swings[index]);
    let (swing_id, attacker) = (swing.id, swing.attacker);
    let (point, normal) = (impact.point.to_array(), impact.normal.to_array());
    if let Some(place) = goes_on {
        let contact = state.contacts.get_mut(place);
        (contact.part, contact.seen) = (part, tick);
        let contact = contact.id;
        if rules.attack(open.attack).tells_held {
            let swept = target_body.part(rules, ways, part.into());
            let speed = closing(rules, open, swept, &impact);
            let depth = swept.map_or(0.0, |swept| open.swept.depth_in(&swept, impact.toi));
            log.publish(ContactHeld {
                contact,
                swing: swing_id,
                attack: open.attack,
                hitbox,
                attacker,
                target,
                part,
                point,
                normal,
                depth,
                speed,
            });
        }
        return;
    }
    let id = ContactId::new(next(&mut state.next_contact), state.registrar.epoch);
    let contact = Contact { id, body, hitbox, target, part, since: tick, seen: tick, over: false };
    let place = state.contacts.push(&mut swing.contacts, contact);
    known.contacts.add(swing_id, target, place);
    let toi = impact.toi;
    let swept = target_body.part(rules, ways, part.into());
    let moved = match (open.swept.moves(), swept.is_some_and(|swept| swept.moves())) {
        (false, false) => Moved::Neither,
        (true, false) => Moved::Attacker,
        (false, true) => Moved::Target,
        (true, true) => Moved::Both,
    };
    log.publish(ContactMet {
        contact: id,
        swing: swing_id,
        attack: open.attack,
        hitbox,
        attacker,
        target,
        part,
        point,
        normal,
        toi,
        from_start: toi == 0.0,
        depth: swept.map_or(0.0, |swept| open.swept.depth_in(&swept, toi)),
        speed: closing(rules, open, swept, &impact),
        moved,
    });
}

fn part_what_came_apart(work: &mut Work<'_>) {
    let tick = work.state.tick;
    for index in SwingAt::all(&work.state.swings) {
        if !work.state.swings[index].contacts.is_empty() {
            swing::part_contacts(work, index, Why::Apart, |contact| contact.seen != tick);
        }
    }
}
