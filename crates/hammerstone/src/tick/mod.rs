//! One tick: seven stages, one file each, whose names sort in the order of the tick.

mod t1_intake;
mod t2_swings;
mod t3_contacts;
mod t4_blows;
mod t5_statuses;
mod t6_passes;
mod t7_departures;

#[cfg(feature = "figures")]
pub(crate) use t3_contacts::detect_only;

use crate::event::Stage;
use crate::spans;
use crate::work::Work;

/// A stage: its name, and what it does.
type Run = (Stage, fn(&mut Work<'_>));

/// The tick, stage by stage.
const STAGES: [Run; 7] = [
    (Stage::Orders, t1_intake::carry_out_orders),
    (Stage::Swings, t2_swings::advance),
    (Stage::Contacts, t3_contacts::detect),
    (Stage::Blows, t4_blows::resolve_in_order_of_impact),
    (Stage::Statuses, t5_statuses::pulse_and_expire),
    (Stage::Passes, t6_passes::hear),
    (Stage::Departures, t7_departures::settle),
];

/// The tick.
pub(crate) fn run(work: &mut Work<'_>) {
    for (stage, run) in STAGES {
        work.log.stage = Some(stage);
        let _span = spans::begin_stage(stage);
        run(work);
    }
    work.log.stage = None;
}
