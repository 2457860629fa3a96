//! Gauges beside health: what they hold, and the facts of how that changes. What follows from an empty or a full one is up to others.

use crate::Fixed;
use crate::event::{Crossing, GaugeChanged, GaugeCrossed, GaugeEmpty, GaugeFull, GaugeWhy};
use crate::ids::*;
use crate::log::Log;
use crate::ruleset::{GaugeMaximum, Rules};
use crate::sheet;
use crate::state::{GaugeRow, State};
use crate::terms::Life;

/// Where a gauge came to by a change.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Reached {
    Empty,
    Full,
    Between,
}

/// A change of a gauge, and whose doing it is.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Gauging {
    pub(crate) subject: CombatantId,
    pub(crate) gauge: GaugeId,
    pub(crate) why: GaugeWhy,
    pub(crate) source: Option<CombatantId>,
}

/// What a gauge of a combatant holds at most.
fn gauge_maximum(rules: &Rules, state: &State, slot: usize, gauge: GaugeId) -> i64 {
    let points = match rules.gauges[gauge.index()].maximum {
        GaugeMaximum::Points(points) => points,
        GaugeMaximum::Stat(stat) => sheet::stat(rules, state, slot, stat).floor(),
    };
    points.clamp(0, i64::from(i32::MAX))
}

/// The gauges of a combatant are as at the beginning of a life. Publishes nothing at its joining, but what changes with a return.
pub(crate) fn begin_gauges(
    rules: &Rules,
    state: &mut State,
    log: &mut Log,
    subject: CombatantId,
    joins: bool,
) {
    let slot = subject.slot();
    for &gauge in &rules.template(state.combatants.template[slot]).gauges {
        let authored = &rules.gauges[gauge.index()];
        let max = gauge_maximum(rules, state, slot, gauge);
        let points = (Fixed::whole(max) * authored.start).floor().clamp(0, max);
        let tick = state.tick;
        let row =
            GaugeRow { gauge, points: points as i32, max: max as i32, part: Fixed::ZERO, lost_at: tick };
        let gauges = &mut state.combatants.gauges;
        let known = gauges.find(slot, |row| row.gauge == gauge);
        let from = known.map_or(points, |place| i64::from(gauges.get_mut(place).points));
        match known {
            Some(place) => *gauges.get_mut(place) = row,
            None => _ = gauges.push(slot, row),
        }
        if !joins && from != points {
            let why = GaugeWhy::Life;
            log.publish(GaugeChanged {
                subject,
                gauge,
                from,
                to: points,
                max,
                why,
                source: None,
                kept: None,
            });
        }
    }
}

/// The gauges of one whose template has changed: those that both have keep their share, the others begin or are gone.
pub(crate) fn change_gauges(rules: &Rules, state: &mut State, log: &mut Log, subject: CombatantId) {
    let slot = subject.slot();
    let own = &rules.template(state.combatants.template[slot]).gauges;
    state.combatants.gauges.take(slot, |row| !own.contains(&row.gauge), |_| ());
    for &gauge in own {
        let max = gauge_maximum(rules, state, slot, gauge);
        let tick = state.tick;
        let start = (Fixed::whole(max) * rules.gauges[gauge.index()].start).floor().clamp(0, max);
        let gauges = &mut state.combatants.gauges;
        let Some(place) = gauges.find(slot, |row| row.gauge == gauge) else {
            let (points, max, part) = (start as i32, max as i32, Fixed::ZERO);
            gauges.push(slot, GaugeRow { gauge, points, max, part, lost_at: tick });
            continue;
        };
        let row = gauges.get_mut(place);
        let (points, old) = (i64::from(row.points), i64::from(row.max));
        row.max = max as i32;
        let kept = if old > 0 { Fixed::ratio(points * max, old).nearest() } else { start };
        let gauging = Gauging { subject, gauge, why: GaugeWhy::Maximum, source: None };
        set_gauge(rules, state, log, gauging, kept, 0);
    }
}

/// A gauge comes to `to`, within 0 and its maximum; `kept` of what was to be lost was kept. Gives where it came to, if it changed.
pub(crate) fn set_gauge(
    rules: &Rules,
    state: &mut State,
    log: &mut Log,
    gauging: Gauging,
    to: i64,
    kept: i64,
) -> Option<Reached> {
    let Gauging { subject, gauge, why, source } = gauging;
    let tick = state.tick;
    let gauges = &mut state.combatants.gauges;
    let place = gauges.find(subject.slot(), |row| row.gauge == gauge)?;
    let row = gauges.get_mut(place);
    let (from, max) = (i64::from(row.points), i64::from(row.max));
    let to = to.clamp(0, max);
    if to < from && why != GaugeWhy::Refill {
        (row.lost_at, row.part) = (tick, Fixed::ZERO);
    }
    if from == to {
        return None;
    }
    row.points = to as i32;
    let kept = std::num::NonZeroU32::new(kept.clamp(0, i64::from(u32::MAX)) as u32);
    log.publish(GaugeChanged { subject, gauge, from, to, max, why, source, kept });
    let thresholds = &rules.gauge_thresholds[gauge.index()];
    let mut cross = |threshold: &crate::ruleset::Threshold, downwards: bool| {
        let was = threshold.is_below(from, max);
        if was != downwards && threshold.is_below(to, max) == downwards {
            let direction = if downwards { Crossing::Down } else { Crossing::Up };
            log.publish(GaugeCrossed { subject, gauge, threshold: threshold.id, direction, source });
        }
    };
    thresholds.iter().for_each(|threshold| cross(threshold, true));
    thresholds.iter().rev().for_each(|threshold| cross(threshold, false));
    if to == 0 {
        log.publish(GaugeEmpty { subject, gauge, source });
        return Some(Reached::Empty);
    }
    if to == max {
        log.publish(GaugeFull { subject, gauge, source });
        return Some(Reached::Full);
    }
    Some(Reached::Between)
}

/// The share of what hits and rules drain that statuses of a combatant let through.
pub(crate) fn let_through(rules: &Rules, state: &State, slot: usize, gauge: GaugeId) -> Fixed {
    if !rules.uses.protects {
        return Fixed::ONE;
    }
    let kept = state.running_on(slot).flat_map(|application| &rules.status(application.status).protects);
    kept.filter(|(of, _)| *of == gauge).fold(Fixed::ONE, |left, (_, share)| left * (Fixed::ONE - *share))
}

/// The maxima that follow a stat are looked at anew. What is beyond one is lost.
pub(crate) fn refresh_gauges(rules: &Rules, state: &mut State, log: &mut Log, subject: CombatantId) {
    let slot = subject.slot();
    if !rules.uses.gauge_stats || state.combatants.life[slot] != Life::Standing {
        return;
    }
    for &gauge in &rules.template(state.combatants.template[slot]).gauges {
        let max = gauge_maximum(rules, state, slot, gauge);
        let gauges = &mut state.combatants.gauges;
        let Some(place) = gauges.find(slot, |row| row.gauge == gauge) else { continue };
        let row = gauges.get_mut(place);
        if i64::from(row.max) == max {
            continue;
        }
        row.max = max as i32;
        let points = i64::from(row.points);
        let gauging = Gauging { subject, gauge, why: GaugeWhy::Maximum, source: None };
        set_gauge(rules, state, log, gauging, points.min(max), 0);
    }
}
