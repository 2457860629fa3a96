//! What comes after a death, for those who have several lives and for those who have one.

use crate::event::{CombatantAway, Why};
use crate::ids::*;
use crate::lifecycle;
use crate::ruleset::ReturnTo;
use crate::state::{Afterlife, Flow};
use crate::terms::Life;
use crate::work::Work;

/// One dies: of several lives one is spent, and the tick of the return is settled. Gives how many are left.
pub(crate) fn note_death(work: &mut Work<'_>, who: CombatantId) -> Option<u32> {
    let slot = who.slot();
    let state = &mut *work.state;
    let template = work.rules.template(state.combatants.template[slot]);
    let (lives, afterlife) = (template.lives?, state.combatants.afterlife(slot)?);
    let left = afterlife.spare;
    let away_for = template.corpse_time.unwrap_or(0).saturating_add(lives.delay);
    let back = (left > 0).then(|| state.tick.saturating_add(away_for));
    let spare = left.saturating_sub(1);
    state.combatants.set_afterlife(slot, Some(Afterlife { spare, back, ..afterlife }));
    if let (0, Some(outcome), Flow::Running) = (left, lives.last, state.flow) {
        state.flow = Flow::Ending(outcome);
    }
    Some(left)
}

/// The dead whose time is up are removed, or are away until they return.
pub(crate) fn lay_to_rest(work: &mut Work<'_>) {
    for slot in 0..work.state.combatants.slots() {
        let combatants = &work.state.combatants;
        if combatants.life[slot] != Life::Dead {
            continue;
        }
        let who = combatants.id(slot);
        let lain = work.state.tick - combatants.died[slot];
        let corpse_time = work.rules.template(combatants.template[slot]).corpse_time;
        match combatants.afterlife(slot).and_then(|afterlife| afterlife.back) {
            Some(back) if lain >= corpse_time.unwrap_or(0) && back > work.state.tick => {
                work.state.combatants.life[slot] = Life::Away;
                let seq = work.log.publish(CombatantAway { subject: who, why: Why::Died });
                lifecycle::end_subscriptions(work.state, &mut work.rooms.listeners, who, seq);
            }
            Some(_) => {}
            None if corpse_time.is_some_and(|corpse_time| lain >= corpse_time) => {
                lifecycle::remove(work, who, Why::Died)
            }
            None => {}
        }
    }
}

/// Those whose time of return has come stand again, at rest.
pub(crate) fn arise(work: &mut Work<'_>) {
    for slot in 0..work.state.combatants.slots() {
        let combatants = &work.state.combatants;
        if !matches!(combatants.life[slot], Life::Dead | Life::Away) {
            continue;
        }
        let Some(afterlife) = combatants.afterlife(slot) else { continue };
        let Some(lives) = work.rules.template(combatants.template[slot]).lives else { continue };
        if afterlife.back.is_some_and(|back| back <= work.state.tick) {
            let pose = match lives.to {
                ReturnTo::Home => afterlife.home,
                ReturnTo::WhereItDied => combatants.pose[slot],
                ReturnTo::Spot(spot) => work.rules.pose_of(spot),
            };
            let who = combatants.id(slot);
            work.log.begin_root();
            lifecycle::come_back(work, who, pose, lives.health, Why::Died);
        }
    }
}
