//! Stage 1: orders, one by one, in the order given; then moves under way go on.

use crate::event::EncounterStarted;
use crate::execute;
use crate::flow;
use crate::geometry::between;
use crate::holds;
use crate::lifecycle;
use crate::state::{Flow, State};
use crate::tempo;
use crate::work::Work;

pub(super) fn carry_out_orders(work: &mut Work<'_>) {
    if work.state.flow == Flow::Prepared {
        work.state.flow = Flow::Running;
        work.log.publish(EncounterStarted {});
    }
    let combatants = &mut work.state.combatants;
    combatants.pose_before.clone_from(&combatants.pose);
    work.state.all_raised_mut().for_each(|raised| raised.before = raised.pose);
    work.rooms.detection.begin_tick();
    tempo::advance(work.state);
    lifecycle::settle_adopted(work);
    flow::undelay(work);
    execute::carry_out_all(work, 0);
    advance_moves(work.state);
    holds::carry(work.state, work.rules, &mut work.rooms.detection);
    execute::pose_all(work);
}

/// Moves under way go on by one tick.
fn advance_moves(state: &mut State) {
    let combatants = &mut state.combatants;
    for slot in 0..combatants.slots() {
        let left = combatants.goal_ticks[slot];
        if left > 0 {
            combatants.goal_ticks[slot] = left - 1;
            combatants.pose[slot] = between(combatants.pose[slot], combatants.goal[slot], 1, left);
        }
    }
    for raised in state.all_raised_mut().filter(|raised| raised.goal_ticks > 0) {
        raised.pose = between(raised.pose, raised.goal, 1, raised.goal_ticks);
        raised.goal_ticks -= 1;
    }
}
