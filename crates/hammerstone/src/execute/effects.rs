//! Orders about damage, healing, statuses and what combatants come to.

use crate::event::{GaugeWhy, Why};
use crate::gauges::{self, Gauging};
use crate::orders::Order;
use crate::orders::Pending;
use crate::resolve;
use crate::ruleset::GaugeChange;
use crate::state::{HostChange, sharers};
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
            if let Some(index) = work.state.first_status(subject, status) {
                statuses::lift(work, index, Why::Ordered);
            }
        }
        Order::LiftFamily { subject, tag } => {
            statuses::lift_family(work, subject, tag.bit(), Why::Ordered);
        }
        Order::Change { subject, stat, by, reason } => {
            let changes = &mut work.state.combatants.host_changes;
            changes.take(subject.slot(), |known| (known.stat, known.reason) == (stat, reason), |_| ());
            changes.push(subject.slot(), HostChange { stat, reason, by });
            gauges::refresh_maximum(work.rules, work.state, work.log, subject, None);
            gauges::refresh_gauges(work.rules, work.state, work.log, subject);
        }
        Order::Unchange { subject, stat, reason } => {
            let is = |known: &HostChange| (known.stat, known.reason) == (stat, reason);
            work.state.combatants.host_changes.take(subject.slot(), is, |_| ());
            gauges::refresh_maximum(work.rules, work.state, work.log, subject, None);
            gauges::refresh_gauges(work.rules, work.state, work.log, subject);
        }
        Order::SetMaximum { subject, points, keep } => {
            work.state.combatants.own_max[subject.slot()] = points as i32;
            if let Some(pool) = work.rules.template(work.state.combatants.template[subject.slot()]).pool {
                for other in sharers(&work.state.pools, pool) {
                    work.state.combatants.own_max[other.slot()] = points as i32;
                }
            }
            gauges::refresh_maximum(work.rules, work.state, work.log, subject, Some(keep));
        }
        Order::ChangeGauge { subject, gauge, change, points, source } => {
            let gauging = Gauging { subject, gauge, why: GaugeWhy::Ordered, source };
            match change {
                GaugeChange::Fill => statuses::gauge_by(work, gauging, points),
                GaugeChange::Drain => statuses::gauge_by(work, gauging, -points),
                GaugeChange::Set => statuses::gauge_to(work, gauging, points),
            }
        }
        Order::RaiseShield { subject, shield, points } => {
            gauges::raise_shield(work.state, work.log, subject, shield, points.into(), None);
        }
        _ => {}
    }
}
