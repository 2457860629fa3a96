//! Stage 4: the meetings of the tick, each alone through *resolve*, so that a death takes effect before the next.

use crate::resolve;
use crate::work::Work;

/// In order of impact; at one time, the swing that began first, then the target in the lower place.
pub(super) fn resolve_in_order_of_impact(work: &mut Work<'_>) {
    let mut meetings = std::mem::take(&mut work.scratch.meetings);
    // Times are not negative, so that their bits sort as they do. The sort is stable: of what was reported
    // and what was detected about one pair at one time, the report comes first.
    meetings.sort_by_key(|m| (m.swing, m.target, m.impact.toi.to_bits()));
    meetings.dedup_by_key(|m| (m.swing, m.target));
    meetings.sort_by_key(|m| (m.impact.toi.to_bits(), m.swing, m.target));
    for meeting in &meetings {
        resolve::blow(work, meeting);
    }
    meetings.clear();
    work.scratch.meetings = meetings;
}
