//! What answers a hit beside damage: facts for the host to act on. The core moves no one unless the attack says so.

use crate::event::{HitPushed, HitStaggered, HitStopped, Via};
use crate::log::Log;
use glam::Vec3;

use crate::Fixed;
use crate::detect::HitCandidate;
use crate::geometry::{Axis, Pose, in_bounds};
use crate::ids::*;
use crate::ruleset::{Away, Rules};
use crate::state::{State, Swing};
use crate::statuses::{self, Giving};
use crate::terms::Life;
use crate::work::Work;

use super::r2_amount::AmountContext;

/// Knock-back.
pub(super) fn push(
    rules: &Rules,
    state: &mut State,
    log: &mut Log,
    swing: &Swing,
    hit: u64,
    candidate: &HitCandidate,
    from: Pose,
) {
    let Some(push) = rules.attack(swing.attack).push else { return };
    let slot = candidate.target.slot();
    let up = Vec3::from_array(rules.up.vector());
    let pose = state.combatants.pose[slot];
    let level = |way: Vec3| {
        let level = way - up * up.dot(way);
        let length = level.length();
        (length > 1.0e-6).then(|| level / length)
    };
    let into = -candidate.impact.normal;
    let way = match push.away {
        Away::FromContact => into,
        Away::FromAttacker => level(Vec3::from_array(pose.at) - Vec3::from_array(from.at)).unwrap_or(into),
        Away::Forward => level(Vec3::from_array(from.direction(Axis::Z.vector()))).unwrap_or(into),
    };
    let impulse = way * push.metres + up * push.lift + 0.0;
    let ticks = push.ticks;
    if push.moves {
        let combatants = &mut state.combatants;
        let at = (Vec3::from_array(pose.at) + impulse).to_array();
        // Not out of the world.
        if in_bounds(&at) {
            combatants.goal[slot] = Pose { at, ..pose };
            combatants.goal_ticks[slot] = ticks;
        }
    }
    let (attacker, target, impulse) = (swing.attacker, candidate.target, impulse.to_array());
    log.publish(HitPushed { hit, attack: swing.attack, attacker, target, impulse, ticks });
}

/// Hit-stop: of several the longest counts.
pub(super) fn stop(
    rules: &Rules,
    state: &mut State,
    log: &mut Log,
    attack: AttackId,
    attacker: Option<CombatantId>,
    target: CombatantId,
    hit: u64,
) {
    let stop = rules.attack(attack).stop;
    let sides = [(Some(target), attacker, stop.target), (attacker, Some(target), stop.attacker)];
    for (subject, other, ticks) in sides {
        if let Some(subject) = subject.filter(|_| ticks > 0)
            && state.combatants.life_of(subject) == Life::Standing
        {
            let until = state.tick.saturating_add(ticks);
            let stopped = &mut state.combatants.stopped_until[subject.slot()];
            *stopped = if *stopped > until { *stopped } else { until };
            log.publish(HitStopped { hit, attack, subject, other, ticks });
        }
    }
}

/// Gathers damage, of which some wanes with time; where there is enough of it, the target staggers.
pub(super) fn stagger(work: &mut Work<'_>, blow: &AmountContext, hit: u64, lost: i64, share: Fixed) {
    let slot = blow.target.slot();
    let Some(stagger) = work.rules.template(work.state.combatants.template[slot]).stagger else { return };
    let tick = work.state.tick;
    let combatants = &mut work.state.combatants;
    let since = tick - combatants.gathered_at[slot];
    let waned =
        (stagger.recovers * Fixed::whole(since.into())).share_of(Fixed::whole(work.rules.rate.into()));
    let left = combatants.gathered[slot] - waned;
    let left = if left < Fixed::ZERO { Fixed::ZERO } else { left };
    let gathered = left + Fixed::whole(lost) * share;
    combatants.gathered_at[slot] = tick;
    if gathered < stagger.at {
        combatants.gathered[slot] = gathered;
        return;
    }
    combatants.gathered[slot] = Fixed::ZERO;
    let (attacker, target) = (blow.source, blow.target);
    if let Via::Attack(attack) = blow.via {
        work.log.publish(HitStaggered { hit, attack, attacker, target, gathered });
    }
    if let Some(status) = stagger.status {
        statuses::apply(work, Giving { credit: blow.credit, ..Giving::plain(target, status, attacker) });
    }
}
