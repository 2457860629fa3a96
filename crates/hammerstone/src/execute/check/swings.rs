//! Orders about swings: why they would be refused.

use glam::Vec3;

use super::{finite, in_ruleset, known, reserved, running, standing};
use crate::geometry::{Pose, in_bounds};
use crate::orders::{Order, Touch, all_within};
use crate::ruleset::{Form, Rules};
use crate::sheet;
use crate::state::{Charging, State, Swing};
use crate::swing;
use crate::terms::Life;
use crate::terms::{Definition, NEVER, Quantity, Refusal, SwingTrait};

pub(super) fn refusal(rules: &Rules, state: &State, order: &Order, now: u32) -> Result<(), Refusal> {
    match *order {
        Order::Start { subject, attack, aim, .. } => {
            in_ruleset(Definition::Attack, attack.index(), rules.attacks.len())?;
            standing(state, subject)?;
            aim.map_or(Ok(()), finite)?;
            if sheet::is_stunned(rules, state, subject.slot()) {
                let until = sheet::stunned_until(rules, state, subject.slot());
                let ticks = until.map_or(NEVER, |until| (until + 1).saturating_sub(now));
                return Err(Refusal::Stunned { ticks });
            }
            match state.press(subject, attack, now) {
                Some(true) => return Err(Refusal::Waiting),
                Some(false) => {}
                // It waits as long as its attack says.
                None if rules.attack(attack).buffer > 0 => {}
                None => swing::may_start(rules, state, subject, attack, now)?,
            }
            // Last, so that a host can ask with any id whether a combatant may attack.
            reserved(state, order)
        }
        Order::SpawnAttack { attack, team, pose, credit, .. } => {
            known(state, credit)?;
            in_ruleset(Definition::Attack, attack.index(), rules.attacks.len())?;
            in_ruleset(Definition::Team, team.index(), rules.teams.len())?;
            if rules.attack(attack).form.needs_body() {
                return Err(Refusal::NeedsBody);
            }
            finite(pose)?;
            reserved(state, order)
        }
        Order::Marker { swing, .. } => {
            let attack = rules.attack(running(state, swing)?.attack);
            if attack.marked.is_some() { Ok(()) } else { Err(Refusal::NotSo(SwingTrait::Marked)) }
        }
        Order::Release { swing } => match running(state, swing)?.charging {
            Charging::Held(..) => Ok(()),
            Charging::Released(_) => Err(Refusal::NotSo(SwingTrait::Charging)),
        },
        Order::Guide { swing, pose } => {
            let attack = rules.attack(running(state, swing)?.attack);
            if !attack.guided {
                return Err(Refusal::NotSo(SwingTrait::Guided));
            }
            finite(pose)
        }
        Order::GuideHitboxes { swing, frame, poses } => {
            let swing = running(state, swing)?;
            let attack = rules.attack(swing.attack);
            if !attack.guided {
                return Err(Refusal::NotSo(SwingTrait::Guided));
            }
            let body = swing.attacker.map_or(Pose::IDENTITY, |who| state.combatants.pose[who.slot()]);
            let size = swing.attacker.map_or(1.0, |who| state.combatants.times(who.slot()));
            let poses = poses.of(&state.given_poses);
            all_within(poses, attack.hitboxes.len(), body, frame, rules.move_limit.0 * size)
        }
        Order::Cancel { swing } => running(state, swing).map(|_| ()),
        Order::Rewind { swing, ticks } => {
            running(state, swing)?;
            let limit = (state.past.ticks.len() as u32).min(rules.rewind.0);
            if u32::from(ticks) > limit {
                return Err(Refusal::TooFarBack { ticks: ticks.into(), limit });
            }
            Ok(())
        }
        Order::Report { swing, target, part, touch } => {
            let Some(place) = state.swing_index(swing) else { return Err(Refusal::NoSwing) };
            if !state.combatants.was_here(target) {
                return Err(Refusal::Unknown);
            }
            if state.combatants.life_of(target) != Life::Gone {
                let parts = &rules.template(state.combatants.template[target.slot()]).parts;
                if usize::from(part) >= parts.len() {
                    return Err(Refusal::NoSuchPart);
                }
            }
            let (swing, hitbox) = (&state.swings[place], usize::from(touch.hitbox));
            if hitbox > 0 && hitbox >= hitboxes_of(rules, state, swing) {
                return Err(Refusal::NoSuchHitbox);
            }
            if touch.body > 0 && state.flying_index(swing.id, touch.body).is_none() {
                return Err(Refusal::NoSuchBody);
            }
            sound(&touch)
        }
        Order::StopBody { swing, touch } => {
            running(state, swing)?;
            let body = state.flying_index(swing, touch.body).map(|place| state.flying[place]);
            if body.is_none_or(|body| body.ended.is_some()) {
                return Err(Refusal::NoSuchBody);
            }
            sound(&touch)
        }
        _ => Ok(()),
    }
}

/// Whether a touch has a time within the tick, and numbers that are some.
fn sound(touch: &Touch) -> Result<(), Refusal> {
    if !(0.0..=1.0).contains(&touch.toi) {
        return Err(Refusal::OutOfRange(Quantity::TimeOfImpact));
    }
    let normal = Vec3::from_array(touch.normal).length();
    let sound = in_bounds(&touch.point) && in_bounds(&[touch.speed]) && normal.is_finite() && normal > 1.0e-6;
    if sound { Ok(()) } else { Err(Refusal::NotFinite) }
}

/// How many hitboxes a swing has: its attack's, or for attacks by touch the parts of its attacker.
fn hitboxes_of(rules: &Rules, state: &State, swing: &Swing) -> usize {
    match (rules.attack(swing.attack).form, swing.attacker) {
        (Form::Touch, Some(who)) => rules.template(state.combatants.template[who.slot()]).parts.len(),
        _ => rules.attack(swing.attack).hitboxes.len(),
    }
}
