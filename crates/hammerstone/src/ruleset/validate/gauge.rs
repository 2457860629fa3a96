//! What can be wrong with gauges, and with what attacks cost.

use std::collections::BTreeMap;

use super::*;

/// The most that a gauge fills by in a second.
const FASTEST: Fixed = Fixed::whole(1_000_000);

impl Check {
    pub(in crate::ruleset) fn gauge(&mut self, gauge: &Gauge, rules: &Definitions, sizes: &Sizes) {
        self.turn_to("gauge", &gauge.name);
        match gauge.maximum {
            GaugeMaximum::Points(points) => self.range("max", points, 1, LARGEST),
            GaugeMaximum::Stat(stat) => _ = self.id("max", "stat", stat.index(), sizes.stats),
        }
        self.share("start", gauge.start, Fixed::ZERO, Fixed::ONE);
        if let Some(refill) = gauge.refill {
            self.share("refill", refill.per_second, Fixed::ZERO - FASTEST, FASTEST);
            self.range("refill", refill.after.into(), 0, LONGEST);
            if refill.per_second == Fixed::ZERO {
                self.find("refill", Problem::DoesNothing);
            }
        }
        for (i, threshold) in gauge.thresholds.iter().enumerate() {
            self.id("thresholds", "threshold", threshold.id.index(), rules.thresholds.len());
            self.share("thresholds", threshold.share, Fixed::ZERO, Fixed::raw(9_999));
            if gauge.thresholds[..i].iter().any(|other| other.id == threshold.id) {
                let known = rules.thresholds.get(threshold.id.index());
                self.find("thresholds", Problem::Twice(known.cloned().unwrap_or_default()));
            }
        }
        for (field, end) in [("on-empty", gauge.at_empty), ("on-full", gauge.at_full)] {
            if let Some(status) = end.grants {
                self.id(field, "status", status.index(), sizes.statuses);
            }
        }
    }

    /// What an attack drains and costs, and when it can be started.
    pub(in crate::ruleset) fn readiness(
        &mut self,
        attack: &Attack,
        names: &BTreeMap<&str, Form>,
        sizes: &Sizes,
    ) {
        for (i, &(gauge, points)) in attack.drains.iter().enumerate() {
            self.id("drains", "gauge", gauge.index(), sizes.gauges);
            self.range("drains", points, 0, LARGEST);
            if attack.drains[..i].iter().any(|(other, _)| *other == gauge) {
                self.find("drains", Problem::Twice(format!("gauge number {}", gauge.index())));
            }
        }
        for (i, cost) in attack.costs.iter().enumerate() {
            self.id("costs", "gauge", cost.gauge.index(), sizes.gauges);
            self.range("costs", cost.start, 0, LARGEST);
            self.range("costs", cost.landed, 0, LARGEST);
            self.share("costs", cost.held, Fixed::ZERO, FASTEST);
            if attack.costs[..i].iter().any(|other| other.gauge == cost.gauge) {
                self.find("costs", Problem::Twice(format!("gauge number {}", cost.gauge.index())));
            }
            if cost.held > Fixed::ZERO && attack.charge.is_none() {
                self.find("costs", Problem::NotCharged);
            }
        }
        if let Some(cooldown) = &attack.cooldown {
            self.range("cooldown", cooldown.lasts.into(), 1, LONGEST);
        }
        if let Some(uses) = attack.uses {
            self.range("uses", uses.max.into(), 1, i64::from(u16::MAX) / 2);
            if let Some(refill) = uses.refill {
                self.range("uses", refill.into(), 1, LONGEST);
            }
        }
        self.limits("limits", attack.limits);
        self.range("buffer", attack.buffer.into(), 0, LONGEST);
        for cancel in &attack.cancels {
            self.range("cancels", cancel.to.into(), i64::from(cancel.from) + 1, LONGEST + 1);
            for name in cancel.into.iter().filter(|name| !names.contains_key(name.as_str())) {
                self.find("cancels", Problem::UnknownAttack(name.clone()));
            }
            if cancel.into.is_empty() {
                self.find("cancels", Problem::DoesNothing);
            }
        }
    }

    /// Limits beside those of the ruleset.
    pub(in crate::ruleset) fn limits(&mut self, field: &str, limits: Option<Limits>) {
        if let Some(Limits { floor, cap }) = limits {
            self.points(field, floor, cap);
        }
    }
}
