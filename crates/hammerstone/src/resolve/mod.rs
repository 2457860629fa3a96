//! What becomes of one blow: gates, intercepts, amount, health, and the fall if health is gone.
//!
//! The files sort in the order of what they do.

mod r1_gates;
mod r2_amount;
mod r3_health;
mod r4_fall;

pub(crate) use r3_health::{apply_status, beat, heal, host_harm};

use crate::Fixed;
use crate::encounter::View;
use crate::event::{Event, Gate, Means, Operand, SwingEnd};
use crate::geometry::{Bits, Pose};
use crate::hooks::{Attempt, Hearing, Verdict};
use crate::ids::*;
use crate::lifecycle;
use crate::rolls::Occasion;
use crate::ruleset::{Form, Sharing, When};
use crate::state::{Charging, Child, Mark, next};
use crate::swing;
use crate::work::{Meeting, Work};

use r1_gates::Refused;
use r2_amount::Start;
use r3_health::Blow;

/// One meeting of a swing and a target: it lands, or the first gate that does not let it through refuses it.
pub(crate) fn blow<H: Hearing>(work: &mut Work<'_>, hearing: &mut H, meeting: &Meeting) {
    let Some(index) = work.state.swing_index(meeting.swing) else { return };
    work.state.counts.attempts += 1;
    let mark = mark_of(work, index, meeting);
    match r1_gates::pass(work, index, mark, meeting) {
        Ok(()) => match ask_intercepts(work, hearing, index, meeting) {
            None => land(work, index, mark, meeting),
            Some((hook, verdict)) => intercepted(work, index, mark, meeting, hook, verdict),
        },
        Err(refused) => {
            let passing = refused.gate == Gate::Invulnerable;
            r1_gates::refuse(work, index, mark, meeting, refused);
            let attack = work.rules.attack(work.state.swings[index].attack);
            if passing && attack.passing_spends {
                spend_turn(work, index, mark);
            }
        }
    }
}

/// The place of what the swing remembers of the target in its present life, on the meeting's struck list.
fn mark_of(work: &mut Work<'_>, index: usize, meeting: &Meeting) -> usize {
    let state = &mut *work.state;
    let (target, list) = (meeting.target, meeting.list);
    let same_tenant = state.combatants.generation[target.slot()] == target.generation;
    let life = if same_tenant { state.combatants.lives[target.slot()] } else { 0 };
    let swing = &mut state.swings[index];
    let is = |mark: &Mark| (mark.target, mark.life, mark.list) == (target, life, list);
    state.marks.find(swing.marks, is).unwrap_or_else(|| {
        let new = Mark {
            target,
            life,
            list,
            hits: 0,
            turns: 0,
            turns_in_window: 0,
            window: 0,
            last: 0,
            refused: 0,
        };
        state.marks.push(&mut swing.marks, new)
    })
}

fn ask_intercepts<H: Hearing>(
    work: &Work<'_>,
    hearing: &mut H,
    index: usize,
    meeting: &Meeting,
) -> Option<(HookId, Verdict)> {
    let swing = &work.state.swings[index];
    hearing.intercept(&Attempt {
        swing: swing.id,
        attack: swing.attack,
        attacker: swing.attacker,
        target: meeting.target,
        part: meeting.part,
        window: swing.window,
        point: meeting.impact.point.to_array(),
        normal: meeting.impact.normal.to_array(),
        view: View::of(work.rules, work.state),
    })
}

fn intercepted(
    work: &mut Work<'_>,
    index: usize,
    mark: usize,
    meeting: &Meeting,
    hook: HookId,
    verdict: Verdict,
) {
    let deflected = verdict == Verdict::Deflect;
    let found = if deflected { Operand::Deflected(hook) } else { Operand::Refused(hook) };
    let refused = Refused { gate: Gate::Intercepted, wanted: Operand::Passed, found };
    r1_gates::refuse(work, index, mark, meeting, refused);
    if verdict != Verdict::Retry {
        spend_turn(work, index, mark);
    }
    if deflected {
        deflect(work, index, meeting);
    }
}

/// The swing, or its body, ends here. What was thrown flies back from here in the next tick, mirrored at the target.
fn deflect(work: &mut Work<'_>, index: usize, meeting: &Meeting) {
    let swing = work.state.swings[index];
    let Meeting { target, part, impact, .. } = *meeting;
    let (point, normal) = (impact.point.to_array(), impact.normal.to_array());
    let (attack, attacker, body) = (swing.attack, swing.attacker, (meeting.body > 0).then_some(meeting.body));
    work.publish(Event::HitDeflected {
        swing: swing.id,
        attack,
        attacker,
        target,
        part,
        body,
        point,
        normal,
    });
    let Some(flying) = work.state.flying_index(swing.id, meeting.body) else {
        return lifecycle::end_swing(work, index, SwingEnd::Deflected);
    };
    let body = work.state.flying[flying];
    let velocity = glam::Vec3::from_array(body.velocity.0);
    let back = velocity - impact.normal * (2.0 * velocity.dot(impact.normal)) + 0.0;
    let pose = Pose { at: point, turn: body.pose.turn };
    let slot = target.slot();
    let links = swing.links + 1;
    if links <= work.rules.child_limit {
        let combatants = &work.state.combatants;
        let child = Child {
            attack,
            attacker: Some(target),
            team: combatants.team[slot],
            credit: Some(combatants.credit[slot]),
            key: combatants.key[slot],
            pose,
            links,
            velocity: Some(Bits(back.to_array())),
        };
        work.state.children.push(child);
    }
    swing::end_body(work, flying, SwingEnd::Deflected, pose);
}

/// The swing has used up a turn at the target.
fn spend_turn(work: &mut Work<'_>, index: usize, mark: usize) {
    let (window, tick) = (work.state.swings[index].window, work.state.tick);
    let mark = work.state.marks.get_mut(mark);
    if mark.window != window {
        (mark.window, mark.turns_in_window) = (window, 0);
    }
    mark.turns += 1;
    mark.turns_in_window += 1;
    mark.last = tick;
}

fn land(work: &mut Work<'_>, index: usize, mark: usize, meeting: &Meeting) {
    let rules = work.rules;
    spend_turn(work, index, mark);
    let state = &mut *work.state;
    let swing = &mut state.swings[index];
    let attack = rules.attack(swing.attack);
    let target = meeting.target;
    let mark = state.marks.get_mut(mark);
    swing.targets = swing.targets.saturating_add(u16::from(mark.hits == 0));
    mark.hits += 1;
    let (ordinal, life) = (mark.hits, mark.life);
    state.counts.hits += 1;
    take_target(work, index, meeting);
    let state = &mut *work.state;
    let hit = next(&mut state.next_hit);
    let swing = state.swings[index];
    let target_key = state.combatants.key[target.slot()];
    let multiplier =
        rules.cast(state.combatants.cast[target.slot()]).parts[usize::from(meeting.part)].multiplier;
    let pose = Pose { at: meeting.impact.point.to_array(), ..Pose::IDENTITY };
    work.publish(Event::HitLanded {
        hit,
        swing: swing.id,
        attack: swing.attack,
        attacker: swing.attacker,
        target,
        life,
        part: meeting.part,
        window: swing.window,
        group: (attack.sharing == Sharing::Group).then_some(meeting.list),
        body: (meeting.body > 0).then_some(meeting.body),
        point: meeting.impact.point.to_array(),
        normal: meeting.impact.normal.to_array(),
    });
    let occasion = Occasion {
        attacker: swing.key,
        means: attack.key,
        start: swing.start.into(),
        target: target_key,
        ordinal: ordinal.into(),
    };
    let charge = match (swing.charging, attack.charge) {
        (Charging::Released(share), Some(charge)) => Some(Fixed::ONE + share * (charge.full - Fixed::ONE)),
        _ => None,
    };
    let blow = Blow {
        target,
        source: swing.attacker,
        credit: swing.credit,
        means: Means::Attack(swing.attack),
        hit: Some(hit),
        part: Some(multiplier),
        charge,
    };
    let harms = attack.harm.iter().map(|&harm| (harm.kind, Start::Rolled(harm, occasion)));
    let lives = r3_health::deal(work, &blow, harms);
    if lives {
        for &status in &attack.gives {
            apply_status(work, target, status, swing.attacker);
        }
    }
    swing::child(work, index, When::Hit, pose);
    count_body_hit(work, meeting, attack.form);
}

/// A beam went through one more target in this tick, or stops at it: then it is drawn no farther.
fn take_target(work: &mut Work<'_>, index: usize, meeting: &Meeting) {
    let swing = &mut work.state.swings[index];
    swing.taken = swing.taken.saturating_add(1);
    let Form::Beam(beam) = work.rules.attack(swing.attack).form else { return };
    if swing.taken == beam.pierce.saturating_add(1) {
        for line in work.scratch.detection.beams.iter_mut().filter(|line| line.swing == meeting.swing) {
            line.stop_at(meeting.depth);
        }
    }
}

/// A thrown body that has struck as many as it can ends.
fn count_body_hit(work: &mut Work<'_>, meeting: &Meeting, form: Form) {
    let Form::Thrown(throw) = form else { return };
    let Some(place) = work.state.flying_index(meeting.swing, meeting.body) else { return };
    let body = &mut work.state.flying[place];
    body.struck += 1;
    if body.struck > throw.pierce {
        let pose = Pose { at: meeting.impact.point.to_array(), ..body.pose };
        swing::end_body(work, place, SwingEnd::Spent, pose);
    }
}
