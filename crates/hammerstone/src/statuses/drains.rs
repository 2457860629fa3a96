//! What gauges bring about: costs, drains, refills, and statuses that are given when one is empty or full.

use crate::Fixed;
use crate::event::{CutAt, GaugeWhy};
use crate::gauges::{self, Gauging, Reached};
use crate::ids::*;
use crate::ruleset::AtEnd;
use crate::state::{Charging, SwingAt};
use crate::tempo;
use crate::terms::Life;
use crate::work::Work;

use super::{Giving, apply};

/// A gauge comes to `to`, and what follows from that. Protection keeps some of what hits and rules drain.
pub(crate) fn gauge_to(work: &mut Work<'_>, gauging: Gauging, to: i64) {
    let Gauging { subject, gauge, why, .. } = gauging;
    let slot = subject.slot();
    let Some(from) = work.state.combatants.points_of(slot, gauge) else { return };
    let (mut to, mut kept) = (to, 0);
    if to < from && matches!(why, GaugeWhy::Hit | GaugeWhy::Ordered) {
        let share = gauges::let_through(work.rules, work.state, slot, gauge);
        if share != Fixed::ONE {
            let lost = (Fixed::whole(from - to) * share).nearest().clamp(0, from - to);
            kept = from - to - lost;
            to = from - lost;
        }
    }
    let Work { rules, state, log, .. } = &mut *work;
    let Some(reached) = gauges::set_gauge(rules, state, log, gauging, to, kept) else { return };
    let authored = &rules.gauges[gauge.index()];
    let (end, turned) = match reached {
        Reached::Empty => (authored.at_empty, work.state.combatants.max_of(slot, gauge)),
        Reached::Full => (authored.at_full, 0),
        Reached::Between => return,
    };
    at_end(work, gauging, end, turned);
}

/// What follows from an empty or a full gauge. One that has turned by itself turns no further.
fn at_end(work: &mut Work<'_>, gauging: Gauging, end: AtEnd, turned: i64) {
    let Gauging { subject, gauge, source, why } = gauging;
    if let Some(status) = end.grants
        && work.state.combatants.life_of(subject) == Life::Standing
        && work.log.allows(|| CutAt::AtEnd(status))
    {
        apply(work, Giving::plain(subject, status, source));
    }
    if end.turns && why != GaugeWhy::Turned {
        let gauging = Gauging { subject, gauge, why: GaugeWhy::Turned, source };
        gauge_to(work, gauging, turned);
    }
}

/// A gauge has so many points more, or less.
pub(crate) fn gauge_by(work: &mut Work<'_>, gauging: Gauging, points: i64) {
    if let Some(from) = work.state.combatants.points_of(gauging.subject.slot(), gauging.gauge) {
        gauge_to(work, gauging, from.saturating_add(points));
    }
}

/// What an attack costs at its start; it was seen that all of it is there.
pub(crate) fn pay_start(work: &mut Work<'_>, subject: CombatantId, attack: AttackId) {
    for cost in &work.rules.attack(attack).costs {
        if cost.start > 0 {
            let gauging = Gauging { subject, gauge: cost.gauge, why: GaugeWhy::Cost, source: None };
            gauge_by(work, gauging, -cost.start);
        }
    }
}

/// What the first hit of a swing costs, as far as it is there. What outlives its attacker costs the dead nothing.
pub(crate) fn pay_landed(work: &mut Work<'_>, subject: CombatantId, attack: AttackId) {
    if work.state.combatants.life_of(subject) != Life::Standing {
        return;
    }
    for cost in &work.rules.attack(attack).costs {
        if cost.landed > 0 {
            let gauging = Gauging { subject, gauge: cost.gauge, why: GaugeWhy::Cost, source: None };
            gauge_by(work, gauging, -cost.landed);
        }
    }
}

/// What it costs to hold a charge for a tick. A hold that cannot pay lets go.
pub(crate) fn pay_held(work: &mut Work<'_>, index: SwingAt) {
    let swing = work.state.swings[index];
    let (Some(subject), Charging::Held(held, false)) = (swing.attacker, swing.charging) else { return };
    let authored = work.rules.attack(swing.attack);
    if !authored.costs.iter().any(|cost| cost.held > Fixed::ZERO)
        || !work.state.combatants.is_present(subject)
    {
        return;
    }
    for cost in authored.costs.iter().filter(|cost| cost.held > Fixed::ZERO) {
        // Each has its own account, which the ticks that it was held make up.
        let rate = i64::from(work.rules.rate);
        let before = (cost.held * Fixed::whole(held.into())).floor() / rate;
        let after = (cost.held * Fixed::whole(i64::from(held) + 1)).floor() / rate;
        let wanted = after - before;
        let found = work.state.combatants.points_of(subject.slot(), cost.gauge).unwrap_or(0);
        let gauging = Gauging { subject, gauge: cost.gauge, why: GaugeWhy::Cost, source: None };
        gauge_by(work, gauging, -wanted.min(found));
        let spent = found < wanted || (found == wanted && wanted > 0);
        if let Charging::Held(held, _) = work.state.swings[index].charging
            && spent
        {
            work.state.swings[index].charging = Charging::Held(held, true);
        }
    }
}

/// Gauges fill, or run out, by themselves: of those who stand, by their places and in the order of the template.
pub(crate) fn refill(work: &mut Work<'_>) {
    if !work.rules.uses.refills {
        return;
    }
    let tick = work.state.tick;
    for slot in 0..work.state.combatants.slots() {
        if work.state.combatants.life[slot] != Life::Standing {
            continue;
        }
        let rules = work.rules;
        let own_ticks = match work.state.tempos.is_empty() {
            true => 1,
            false => tempo::own_ticks(work.state, work.state.combatants.id(slot)),
        };
        if own_ticks == 0 {
            continue;
        }
        for &gauge in &rules.template(work.state.combatants.template[slot]).gauges {
            let Some(refill) = rules.gauges[gauge.index()].refill else { continue };
            let gauges = &mut work.state.combatants.gauges;
            let Some(place) = gauges.find(slot, |row| row.gauge == gauge) else { continue };
            let row = gauges.get_mut(place);
            let rises = refill.per_second > Fixed::ZERO;
            let done = if rises { row.points >= row.max } else { row.points == 0 };
            if done || (rises && tick <= row.lost_at.saturating_add(refill.after)) {
                row.part = Fixed::ZERO;
                continue;
            }
            row.part += refill.per_second * Fixed::whole(own_ticks.into());
            let rate = i64::from(rules.rate);
            let whole = if rises { row.part.floor() / rate } else { -((-row.part).floor() / rate) };
            if whole == 0 {
                continue;
            }
            row.part -= Fixed::whole(whole * rate);
            let subject = work.state.combatants.id(slot);
            let gauging = Gauging { subject, gauge, why: GaugeWhy::Refill, source: None };
            work.log.begin_root();
            gauge_by(work, gauging, whole);
            if work.state.combatants.life[slot] != Life::Standing {
                break;
            }
        }
    }
    work.log.source.root = 0;
}
