//! One tick: seven stages, one file each, whose names sort in the order of the tick.

mod t1_intake;
mod t2_swings;
mod t3_contacts;
mod t4_blows;
mod t5_statuses;
mod t6_passes;
mod t7_departures;

pub(crate) use t1_intake::{carry_out_one as carry_out, refuse};
#[cfg(feature = "figures")]
pub(crate) use t3_contacts::detect_only;
pub(crate) use t6_passes::deliver;
#[cfg(feature = "figures")]
pub(crate) use t6_passes::deliver_again;

use crate::work::Work;

/// The tick.
pub(crate) fn run(work: &mut Work<'_>) {
    t1_intake::carry_out_orders(work);
    t2_swings::advance(work);
    t3_contacts::detect(work);
    t4_blows::resolve_in_order_of_impact(work);
    t5_statuses::pulse_and_expire(work);
    t6_passes::hear(work);
    t7_departures::settle(work);
}
