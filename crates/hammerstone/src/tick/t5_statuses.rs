//! Stage 5: strengths follow their stats; then statuses that are due pulse, and expire, in the order in which they were applied; then
//! gauges fill by themselves.

use crate::holds;
use crate::state::StatusAt;
use crate::statuses;
use crate::work::Work;

pub(super) fn pulse_and_expire(work: &mut Work<'_>) {
    statuses::follow_stats(work.rules, work.state, work.log);
    let tick = work.state.tick;
    let is_due = |at: Option<u32>| at.is_some_and(|at| at <= tick);
    let first_new = work.state.applications.len() - work.rooms.statuses.roots_of_new.len();
    let mut looked_at = 0;
    // What is given while others expire comes last, and may pulse in the same tick.
    while looked_at < work.state.applications.len() {
        let due = &mut work.rooms.statuses.due;
        due.clear();
        let applications = &work.state.applications;
        due.extend(StatusAt::all(applications).skip(looked_at).filter(|&place| {
            let application = &applications[place];
            is_due(application.due) || is_due(application.ends)
        }));
        looked_at = applications.len();
        for place in 0..due.len() {
            let index = work.rooms.statuses.due[place];
            // What was given in this tick and acts at once follows from whatever gave it.
            let root = index
                .number()
                .checked_sub(first_new)
                .and_then(|new| work.rooms.statuses.roots_of_new.get(new));
            work.log.source.root = root.copied().unwrap_or_else(|| work.log.budget.root());
            // A pulse before this one may have ended it, by the death of its bearer.
            if work.state.applications[index].runs() && is_due(work.state.applications[index].due) {
                statuses::pulse(work, index);
            }
            if work.state.applications[index].runs() && is_due(work.state.applications[index].ends) {
                statuses::expire(work, index);
            }
        }
    }
    work.log.source.root = 0;
    holds::expire(work);
    statuses::refill(work);
}
