//! What lists of combatants hold.

use super::*;
use crate::terms::NEVER;

/// Who damaged a combatant, and when last.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Contributor {
    pub(crate) who: CombatantId,
    pub(crate) tick: u32,
}

/// Points of a shield that someone has.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct ShieldRow {
    pub(crate) shield: ShieldId,
    /// The status that brought them, if one did.
    pub(crate) application: Option<ApplicationId>,
    pub(crate) points: i32,
}

/// What the host changes in a stat, for a reason.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct HostChange {
    pub(crate) stat: StatId,
    pub(crate) reason: ReasonId,
    pub(crate) by: Modifier,
}

/// What becomes of one who has several lives.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Afterlife {
    /// Where it joined.
    pub(crate) home: Pose,
    /// Lives that are left after this one.
    pub(crate) spare: u32,
    /// The tick in which it returns, while it is dead or away and will.
    pub(crate) back: Option<u32>,
}

/// What a gauge of a combatant holds.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct GaugeRow {
    pub(crate) gauge: GaugeId,
    pub(crate) points: i32,
    pub(crate) max: i32,
    /// What has come together by itself of the next point: it is there when this is as many points as a second has ticks.
    pub(crate) part: Fixed,
    /// The tick of the last loss but by itself.
    pub(crate) lost_at: u32,
}

impl GaugeRow {
    /// In how many ticks it holds so many points by itself.
    pub(crate) fn ticks_to(&self, rules: &Rules, now: u32, points: i64) -> u32 {
        let Some(refill) = rules.gauges[self.gauge.index()].refill else { return NEVER };
        if refill.per_second <= Fixed::ZERO || points > i64::from(self.max) {
            return NEVER;
        }
        let missing = Fixed::whole((points - i64::from(self.points)) * i64::from(rules.rate)) - self.part;
        let per_second = refill.per_second.to_raw();
        let filling = (missing.to_raw().max(0) + per_second - 1) / per_second;
        // The first tick after the wait is one in which it fills.
        let fills_from = self.lost_at.saturating_add(refill.after).saturating_add(1);
        let waiting = i64::from(fills_from.saturating_sub(now));
        (filling + waiting).clamp(1, i64::from(NEVER) - 1) as u32
    }
}

/// How often an attack was used that has only so many uses.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct UsesRow {
    pub(crate) attack: AttackId,
    /// Uses that were spent at `since`.
    pub(crate) spent: u16,
    /// From when on they come back, one after the other.
    pub(crate) since: u32,
}

impl UsesRow {
    pub(crate) fn new(attack: AttackId, since: u32) -> UsesRow {
        UsesRow { attack, spent: 0, since }
    }

    /// Uses that are spent now.
    pub(crate) fn spent_at(&self, now: u32, refill: Option<u32>) -> u16 {
        let back = refill.map_or(0, |refill| now.saturating_sub(self.since) / refill);
        self.spent.saturating_sub(u16::try_from(back).unwrap_or(u16::MAX))
    }

    /// When the next one comes back.
    pub(crate) fn comes_at(&self, now: u32, refill: u32) -> u32 {
        let back = now.saturating_sub(self.since) / refill;
        self.since.saturating_add((back + 1).saturating_mul(refill))
    }
}
