//! Gauges, and what attacks cost.

use hammerstone::Fixed;
use hammerstone::amount::Limits;
use hammerstone::attack::{Attack, Grip};
use hammerstone::gauge::{AtEnd, Cancel, CancelOn, Cooldown, Cost, Gauge, Pool, Uses};

use crate::raw;
use crate::rules::Resolver;

impl Resolver<'_, '_> {
    pub(crate) fn gauges(&mut self) {
        for (name, raw) in &self.raw.gauge {
            let entry = name.as_ref();
            self.note("gauge", entry, "", name.span());
            let mut gauge = match &raw.max {
                raw::GaugeMax::Points(points) => Gauge::new(entry, *points),
                raw::GaugeMax::Of(of) => {
                    let stat = self.reading.find_id("stat", &of.stat, &self.known.stats);
                    let gauge = Gauge::new(entry, 1);
                    stat.map_or(gauge.clone(), |stat| gauge.of_stat(stat))
                }
            };
            if let Some(start) = &raw.start {
                self.note("gauge", entry, "start", start.span());
                gauge = gauge.start(self.reading.exact(start).unwrap_or(Fixed::ONE));
            }
            if let Some(refill) = &raw.refill {
                self.note("gauge", entry, "refill", refill.per_second.span());
                let after =
                    refill.after.as_ref().map_or(Some(0), |after| self.reading.time(after, self.rate));
                if let Some((per_second, after)) = self.reading.exact(&refill.per_second).zip(after) {
                    gauge = gauge.refill(per_second, after);
                }
            }
            for (name, share) in &raw.thresholds {
                self.note("gauge", entry, "thresholds", name.span());
                let id = self.builder.threshold(name.as_ref());
                if !self.known.thresholds.iter().any(|(known, _)| known == name.as_ref()) {
                    self.known.thresholds.push((name.as_ref().clone(), id));
                }
                gauge = gauge.threshold(id, self.reading.exact(share).unwrap_or(Fixed::ZERO));
            }
            let empty = self.at_end(raw.on_empty.as_ref(), "full");
            let full = self.at_end(raw.on_full.as_ref(), "empty");
            let id = self.builder.gauge(gauge.at_empty(empty).at_full(full));
            self.known.gauges.push((entry.clone(), id));
        }
    }

    pub(crate) fn pools(&mut self) {
        for (name, raw) in &self.raw.pool {
            self.note("pool", name.as_ref(), "", name.span());
            self.note("pool", name.as_ref(), "max", raw.max.span());
            if let Some(gauge) = &raw.gauge
                && gauge.as_ref() != "health"
            {
                let message = format!("`{}` cannot be shared: a pool is one of health", gauge.as_ref());
                let fix = Some("write \"health\", or leave `gauge` out".to_owned());
                self.reading.problem(gauge.span(), "here", message, fix);
            }
            let pool = self.builder.pool(Pool::new(name.as_ref(), *raw.max.as_ref()));
            self.known.pools.push(pool);
        }
    }

    /// What follows when a gauge is empty or full; what it may become then is the other.
    fn at_end(&mut self, raw: Option<&raw::AtEnd>, other: &'static str) -> AtEnd {
        let Some(raw) = raw else { return AtEnd::default() };
        let grants = raw.grants.as_ref().and_then(|name| self.status_named(name));
        let becomes = raw.becomes.as_ref();
        let turns =
            becomes.is_some_and(|name| self.reading.find("end of a gauge", name, [(other, ())]).is_some());
        AtEnd { grants, turns }
    }

    fn grip(&mut self, raw: &raw::Grip) -> Option<Grip> {
        let pose = self.reading.pose(&raw.at, raw.facing.as_ref(), self.up)?;
        let mut grip = Grip::at(pose);
        if let Some(lasts) = &raw.lasts {
            grip = grip.lasts(self.reading.time(lasts, self.rate)?);
        }
        if let Some(points) = &raw.breaks_after {
            grip = grip.breaks_after(*points.as_ref());
        }
        if let Some(name) = &raw.status {
            grip = grip.status(self.status_named(name)?);
        }
        Some(grip)
    }

    /// What an attack drains and costs, and when it can be started.
    pub(crate) fn readiness(&mut self, entry: &str, raw: &raw::Attack, mut attack: Attack) -> Attack {
        for (name, points) in &raw.drains {
            self.note("attack", entry, "drains", points.span());
            if let Some(gauge) = self.reading.find_id("gauge", name, &self.known.gauges) {
                attack = attack.drains(gauge, *points.as_ref());
            }
        }
        for (name, cost) in &raw.costs {
            self.note("attack", entry, "costs", name.span());
            let held = cost.held.as_ref().map_or(Some(Fixed::ZERO), |held| self.reading.exact(held));
            let gauge = self.reading.find_id("gauge", name, &self.known.gauges);
            if let Some((gauge, held)) = gauge.zip(held) {
                let (start, landed) = (cost.start.unwrap_or(0), cost.landed.unwrap_or(0));
                attack = attack.costs(Cost { gauge, start, landed, held });
            }
        }
        if let Some(cooldown) = &raw.cooldown {
            self.note("attack", entry, "cooldown", cooldown.lasts.span());
            let known = [("start", false), ("end", true)];
            let from = cooldown.from.as_ref();
            let from_end =
                from.map_or(Some(false), |from| self.reading.find("beginning of a cooldown", from, known));
            let lasts = self.reading.time(&cooldown.lasts, self.rate);
            if let Some((lasts, from_end)) = lasts.zip(from_end) {
                let group = cooldown.group.as_ref().map(|group| group.as_ref().clone());
                attack = attack.cooldown(Cooldown { lasts, from_end, group });
            }
        }
        if let Some(uses) = &raw.uses {
            self.note("attack", entry, "uses", uses.max.span());
            let refill = uses.refill.as_ref().map(|refill| self.reading.time(refill, self.rate));
            attack = attack.uses(Uses { max: *uses.max.as_ref(), refill: refill.flatten() });
        }
        if let Some(limits) = &raw.limits {
            attack = attack.limits(self.limits("attack", entry, "limits", limits));
        }
        if let Some(grip) = &raw.holds {
            self.note("attack", entry, "holds", grip.at.span());
            attack = match self.grip(grip) {
                Some(grip) => attack.holds(grip),
                None => attack,
            };
        }
        if let Some(buffer) = &raw.buffer {
            self.note("attack", entry, "buffer", buffer.span());
            attack = attack.buffer(self.reading.time(buffer, self.rate).unwrap_or(0));
        }
        for cancel in &raw.cancels {
            self.note("attack", entry, "cancels", cancel.span());
            let raw = cancel.as_ref();
            for name in &raw.into {
                let known = self.raw.attack.keys().map(|name| (name.as_ref().as_str(), ()));
                self.reading.find("attack", name, known);
            }
            let from = raw.from.as_ref().map_or(Some(0), |from| self.reading.time(from, self.rate));
            let to = raw.to.as_ref().map_or(Some(10_000_000), |to| self.reading.time(to, self.rate));
            let known = CancelOn::ALL.map(|on| (on.name(), on));
            let on = raw
                .on
                .as_ref()
                .map_or(Some(CancelOn::Any), |on| self.reading.find("outcome of a swing", on, known));
            if let (Some(from), Some(to), Some(on)) = (from, to, on) {
                let into = raw.into.iter().map(|name| name.as_ref().clone()).collect();
                attack = attack.cancels(Cancel { into, from, to, on });
            }
        }
        attack
    }

    /// Limits beside those of the ruleset; one that is left out limits nothing.
    pub(crate) fn limits(
        &mut self,
        sort: &'static str,
        entry: &str,
        field: &'static str,
        raw: &raw::Limits,
    ) -> Limits {
        for limit in [&raw.floor, &raw.cap].into_iter().flatten() {
            self.note(sort, entry, field, limit.span());
        }
        let floor = raw.floor.as_ref().map_or(0, |floor| *floor.as_ref());
        Limits { floor, cap: raw.cap.as_ref().map_or(1_000_000_000, |cap| *cap.as_ref()) }
    }
}
