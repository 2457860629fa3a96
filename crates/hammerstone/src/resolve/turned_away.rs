//! What becomes of attacks that are parried or deflected.

use glam::Vec3;

use crate::budget::Source;
use crate::detect::HitCandidate;
use crate::event::{CutAt, CutBy, Gate, HitDeflected, Operand, SwingEnd};
use crate::geometry::{Bits, Pose};
use crate::ruleset::{Sharing, Trigger};
use crate::state::{Back, Chain, Child, State, StruckEntry, Swing, SwingAt};
use crate::statuses::{self, Granting};
use crate::swing;
use crate::work::Work;

/// A status of the target parried or deflected the swing: it goes on, ends or turns back; then what that gives is given.
pub(super) fn turn_away(
    work: &mut Work<'_>,
    index: SwingAt,
    candidate: &HitCandidate,
    gate: Gate,
    found: Operand,
) {
    let swing = &mut work.state.swings[index];
    swing.guarded = true;
    let (attacker, bearer) = (swing.attacker, candidate.target);
    if gate == Gate::Deflected {
        deflect(work, index, candidate);
    } else {
        parry(work, index, candidate, found);
    }
    let on = if gate == Gate::Deflected { Trigger::Deflects } else { Trigger::Parries };
    statuses::grants(work, Granting { on, bearer, other: attacker, because: None });
}

/// A body that is parried ends; a swing does if the status says so.
fn parry(work: &mut Work<'_>, index: SwingAt, candidate: &HitCandidate, found: Operand) {
    if let Some(flying) = work.state.flying_index(candidate.swing, candidate.body) {
        let pose = Pose { at: candidate.impact.point.to_array(), ..work.state.flying[flying].pose };
        return swing::end_body(work, flying, SwingEnd::Parried, pose);
    }
    let Operand::Status(status) = found else { return };
    if work.rules.status(status).parries.as_ref().is_some_and(|parry| parry.ends_swing) {
        swing::end_swing(work, index, SwingEnd::Parried);
    }
}

/// The swing, or its body, ends here. A projectile flies back from here in the next tick, mirrored at the target: it is the target's now,
/// and keeps the stats with which it was sent, and whom it has struck.
pub(super) fn deflect(work: &mut Work<'_>, index: SwingAt, candidate: &HitCandidate) {
    let swing = work.state.swings[index];
    let HitCandidate { target, part, impact, .. } = *candidate;
    let (point, normal) = (impact.point.to_array(), impact.normal.to_array());
    let (attack, attacker, body) =
        (swing.attack, swing.attacker, (candidate.body > 0).then_some(candidate.body));
    work.log.publish(HitDeflected { swing: swing.id, attack, attacker, target, part, body, point, normal });
    let Some(flying) = work.state.flying_index(swing.id, candidate.body) else {
        return swing::end_swing(work, index, SwingEnd::Deflected);
    };
    let body = work.state.flying[flying];
    let velocity = Vec3::from_array(body.velocity.0);
    let back = velocity - impact.normal * (2.0 * velocity.dot(impact.normal)) + 0.0;
    let pose = Pose { at: point, turn: body.pose.turn };
    let slot = target.slot();
    let links = swing.links + 1;
    if links <= work.rules.child_limit {
        let of_bodies = work.rules.attack(attack).sharing == Sharing::Body;
        let back = keep(work.state, &swing, candidate.list, of_bodies, Bits(back.to_array()));
        let combatants = &work.state.combatants;
        let child = Child {
            attack,
            attacker: Some(target),
            team: combatants.team[slot],
            credit: Some(combatants.credit[slot]),
            key: combatants.key[slot],
            pose,
            links,
            back: Some(back),
        };
        work.state.children.push(child);
    } else {
        let source = Source { depth: links, ..work.log.source };
        work.log.budget.note(source, CutBy::Links, CutAt::Deflected(attack));
    }
    swing::end_body(work, flying, SwingEnd::Deflected, pose);
}

/// What flies back keeps: the stats of the swing, and its struck list. It has one body, the first.
fn keep(state: &mut State, swing: &Swing, list: u16, of_bodies: bool, velocity: Bits) -> Back {
    let captured: Vec<_> = state.captured.items(swing.captured).copied().collect();
    let struck: Vec<_> =
        state.struck.items(swing.struck).filter(|entry| entry.list == list).copied().collect();
    let mut back = Back {
        velocity,
        charging: swing.charging,
        template: swing.template,
        captured: Chain::default(),
        struck: Chain::default(),
        targets: swing.targets,
    };
    // They are pushed to the front.
    for captured in captured.into_iter().rev() {
        state.captured.push(&mut back.captured, captured);
    }
    for entry in struck.into_iter().rev() {
        let list = if of_bodies { 1 } else { entry.list };
        // Its clock begins anew.
        let kept = StruckEntry { list, window: 0, turns_in_window: entry.turns, last: 0, seen: 0, ..entry };
        state.struck.push(&mut back.struck, kept);
    }
    back
}
