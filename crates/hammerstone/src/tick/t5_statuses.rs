//! Stage 5: statuses that are due beat, then expire; in the order in which they were applied.

use crate::event::Event;
use crate::resolve;
use crate::work::Work;

pub(super) fn beat_and_expire(work: &mut Work<'_>) {
    let tick = work.state.tick;
    let mut due = std::mem::take(&mut work.scratch.due);
    let is_due = |at: Option<u32>| at.is_some_and(|at| at <= tick);
    due.clear();
    due.extend(
        (0..work.state.applications.len())
            .filter(|&i| is_due(work.state.applications[i].due) || is_due(work.state.applications[i].ends)),
    );
    for &index in &due {
        // A beat before this one may have ended it, by the fall of its bearer.
        if !work.state.applications[index].over && is_due(work.state.applications[index].due) {
            resolve::beat(work, index);
        }
        let application = &work.state.applications[index];
        if !application.over && is_due(application.ends) {
            let (application, subject, status) = (application.id, application.subject, application.status);
            work.state.end_application(index);
            work.publish(Event::StatusExpired { application, subject, status });
        }
    }
    work.scratch.due = due;
}
