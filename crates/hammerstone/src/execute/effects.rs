//! Orders about damage, healing, statuses and what combatants come to.

use crate::event::Why;
use crate::gauges;
use crate::orders::Order;
use crate::resolve;
use crate::state::{HostChange, Pending};
use crate::statuses::{self, Giving};
use crate::work::Work;

pub(super) fn carry_out(work: &mut Work<'_>, pending: &Pending) {
    match pending.order {
        Order::Damage { target, damage_type, amount, reason, source, absolute } => {
            resolve::host_damage(work, target, damage_type, amount, reason, source, absolute);
        }
        Order::Heal { target, points, reason, source } => {
            resolve::host_heal(work, target, points, reason, source);
        }
        Order::Apply { subject, status, source, strength } => {
            statuses::apply(work, Giving { strength, ..Giving::plain(subject, status, source) });
        }
        Order::Lift { subject, status } => {
            if let Some(index) = statuses::first_of(work.state, subject, status) {
                statuses::lift(work, index, Why::Ordered);
            }
        }
        Order::LiftFamily { subject, tag } => {
            statuses::lift_family(work, subject, tag.bit(), Why::Ordered);
        }
        Order::Change { subject, stat, by, reason } => {
            let combatants = &mut work.state.combatants;
            let chain = &mut combatants.host_changes[subject.slot()];
            let lists = &mut combatants.host_change_lists;
            lists.take(chain, |known| (known.stat, known.reason) == (stat, reason), |_| ());
            lists.push(chain, HostChange { stat, reason, by });
            gauges::refresh_maximum(work.rules, work.state, work.log, subject, None);
        }
        Order::Unchange { subject, stat, reason } => {
            let combatants = &mut work.state.combatants;
            let chain = &mut combatants.host_changes[subject.slot()];
            let is = |known: &HostChange| (known.stat, known.reason) == (stat, reason);
            combatants.host_change_lists.take(chain, is, |_| ());
            gauges::refresh_maximum(work.rules, work.state, work.log, subject, None);
        }
        Order::SetMaximum { subject, points, keep } => {
            work.state.combatants.own_max[subject.slot()] = points as i32;
            gauges::refresh_maximum(work.rules, work.state, work.log, subject, Some(keep));
        }
        Order::RaiseShield { subject, shield, points } => {
            gauges::raise_shield(work.state, work.log, subject, shield, points.into(), None);
        }
        _ => {}
    }
}
