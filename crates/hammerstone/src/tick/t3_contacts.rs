//! Stage 3: all open volumes against all parts, swept over the tick. Contacts meet, go on and part;
//! each swing and target that meet are one meeting, for stage 4.

use glam::Vec3;

use crate::event::{Event, Why};
use crate::geometry::{Impact, Motion, Swept, first_touch};
use crate::ids::*;
use crate::lifecycle;
use crate::state::{Contact, Life, next};
use crate::work::{Meeting, Work};

/// Scratch memory of detection.
#[derive(Clone, Debug, Default)]
pub(crate) struct Detection {
    bodies: Vec<Body>,
    /// Contacts that are being parted.
    pub(crate) parted: Vec<Contact>,
    /// Combatants whose place is free when the tick is over.
    pub(crate) leaving: Vec<CombatantId>,
}

/// A standing combatant with parts, on its way through the tick.
#[derive(Clone, Copy, Debug)]
struct Body {
    id: CombatantId,
    cast: CastId,
    layers: u32,
    motion: Motion,
    /// A ball that holds the whole way of all its parts.
    middle: Vec3,
    radius: f32,
}

pub(super) fn detect(work: &mut Work<'_>) {
    let mut detection = std::mem::take(&mut work.scratch.detection);
    gather_bodies(work, &mut detection);
    work.scratch.detection = detection;
    for index in 0..work.state.swings.len() {
        if work.state.swings[index].window > 0 {
            sweep(work, index);
        }
    }
}

fn gather_bodies(work: &Work<'_>, detection: &mut Detection) {
    detection.bodies.clear();
    let combatants = &work.state.combatants;
    for slot in 0..combatants.slots() {
        let cast = work.rules.cast(combatants.cast[slot]);
        if combatants.life[slot] != Life::Standing || cast.layers == 0 {
            continue;
        }
        let motion = Motion::between(combatants.pose_before[slot], combatants.pose[slot]);
        let travel = motion.travel();
        detection.bodies.push(Body {
            id: combatants.id(slot),
            cast: combatants.cast[slot],
            layers: cast.layers,
            motion,
            middle: motion.from.at + travel * 0.5,
            radius: travel.length() * 0.5 + cast.reach,
        });
    }
}

/// The swing at `index`: each of its volumes against each body.
fn sweep(work: &mut Work<'_>, index: usize) {
    let rules = work.rules;
    let swing = work.state.swings[index];
    let attack = rules.attack(swing.attack);
    let slot = swing.attacker.slot();
    let combatants = &work.state.combatants;
    let carrier = Motion::between(combatants.pose_before[slot], combatants.pose[slot]);
    let local = Motion::between(attack.path.at(swing.clock - 1), attack.path.at(swing.clock));
    let first_meeting = work.scratch.meetings.len();
    for (volume, &core) in attack.cores.iter().enumerate() {
        let swept = Swept::on_path(core, local, carrier);
        let (middle, radius) = swept.ball();
        for body in 0..work.scratch.detection.bodies.len() {
            let body = work.scratch.detection.bodies[body];
            let near = radius + body.radius;
            let may_meet = body.layers & attack.layers() != 0
                && body.id != swing.attacker
                && (middle - body.middle).length_squared() <= near * near;
            if !may_meet {
                continue;
            }
            if let Some((part, impact)) = first_part(work, &swept, &body, attack.layers()) {
                touch(work, index, volume as u16, body.id, part, impact);
                let meeting = Meeting { swing: swing.id, target: body.id, part, impact };
                keep_earliest(&mut work.scratch.meetings, first_meeting, meeting);
            }
        }
    }
    let tick = work.state.tick;
    lifecycle::part_contacts(work, index, Why::Apart, |contact| contact.seen != tick);
}

/// The part that a volume touches first; of two at one time, the one named first.
fn first_part(work: &Work<'_>, volume: &Swept, body: &Body, layers: u32) -> Option<(u16, Impact)> {
    let mut first: Option<(u16, Impact)> = None;
    for (i, part) in work.rules.cast(body.cast).parts.iter().enumerate() {
        if layers & 1 << part.layer.0 == 0 {
            continue;
        }
        if let Some(impact) = first_touch(volume, &Swept::fixed(part.core, body.motion))
            && first.is_none_or(|(_, earlier)| impact.toi < earlier.toi)
        {
            first = Some((i as u16, impact));
        }
    }
    first
}

/// Notes that a volume of the swing at `index` touches a target: a contact that meets or goes on.
fn touch(work: &mut Work<'_>, index: usize, volume: u16, target: CombatantId, part: u16, impact: Impact) {
    let state = &mut *work.state;
    let (tick, swing) = (state.tick, &mut state.swings[index]);
    let known = state.contacts.find(swing.contacts, |c| c.volume == volume && c.target == target);
    if let Some(place) = known {
        let contact = state.contacts.get_mut(place);
        (contact.part, contact.seen) = (part, tick);
        return;
    }
    let id = ContactId(next(&mut state.next_contact));
    state.contacts.push(&mut swing.contacts, Contact { id, volume, target, part, seen: tick });
    let (swing, attacker) = (swing.id, swing.attacker);
    let Impact { toi, point, normal } = impact;
    let (point, normal) = (point.to_array(), normal.to_array());
    work.publish(Event::ContactMet { contact: id, swing, attacker, target, part, point, normal, toi });
}

/// One meeting for each swing and target: the earliest among those from `first` on.
fn keep_earliest(meetings: &mut Vec<Meeting>, first: usize, new: Meeting) {
    match meetings[first..].iter_mut().find(|known| known.target == new.target) {
        Some(known) if new.impact.toi < known.impact.toi => *known = new,
        Some(_) => {}
        None => meetings.push(new),
    }
}
