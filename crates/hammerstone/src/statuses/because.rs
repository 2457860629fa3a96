//! The hit for which statuses are given, and the conditions that ask about it.

use crate::Fixed;
use crate::conditions::{OfAHit, Setting};
use crate::event::HitLanded;
use crate::ids::*;
use crate::level::Level;
use crate::rolls::Occasion;
use crate::ruleset::{Condition, Ruleset};
use crate::state::State;
use crate::work::Work;

/// The hit for which statuses are given.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Because {
    pub(crate) landed: HitLanded,
    pub(crate) target: CombatantId,
    pub(crate) hit: OfAHit,
    /// What rolls of its conditions depend on.
    pub(crate) occasion: Occasion,
}

impl Because {
    /// A hit that took nothing yet.
    pub(crate) fn of(landed: HitLanded, charge: Fixed, occasion: Occasion) -> Because {
        let hit = OfAHit { critical: false, charge, amount: 0 };
        Because { landed, target: landed.target, hit, occasion }
    }

    /// Whether all conditions hold, the first of which has this number.
    pub(super) fn lets(
        &self,
        work: &Work<'_>,
        parties: [Option<CombatantId>; 2],
        when: &[Condition],
        number: u16,
    ) -> bool {
        holds(work.ruleset, work.level, work.state, Some(self), parties, when, number)
    }
}

/// Whether conditions hold for a hit, or without one.
pub(super) fn holds(
    ruleset: &Ruleset,
    level: &Level,
    state: &State,
    because: Option<&Because>,
    [subject, other]: [Option<CombatantId>; 2],
    when: &[Condition],
    number: u16,
) -> bool {
    let none = Occasion { attacker: 0, via: 0, start: 0, target: 0, ordinal: 0 };
    let fact = because.map(|because| because.landed.into());
    let looking = Setting {
        ruleset,
        rules: ruleset.compiled(),
        state,
        level,
        subject,
        other,
        fact: fact.as_ref(),
        hit: because.map(|because| because.hit),
        occasion: because.map_or(none, |because| because.occasion),
    }
    .look();
    looking.begin_at(number);
    looking.first_lost(when).is_none()
}
