//! What has become of the parts of a body: which are broken, which are hidden, and how large they are.

use crate::Fixed;
use crate::geometry::Core;
use crate::ids::*;
use crate::ruleset::{PartPlan, Rules};
use crate::state::{Bearers, Combatants};
use crate::terms::Life;

use super::Posed;

/// The parts of a body as they are: bit `n` for part number `n`.
#[derive(Clone, Copy, Debug)]
pub(crate) struct PartsNow {
    broken: u64,
    hidden: u64,
    size: f32,
}

impl PartsNow {
    pub(crate) fn of(combatants: &Combatants, slot: usize) -> PartsNow {
        let (broken, hidden) = (combatants.broken[slot], combatants.hidden[slot]);
        PartsNow { broken, hidden, size: combatants.times(slot) }
    }

    /// As they were.
    pub(crate) fn as_it_was(broken: u64, hidden: u64, size: Fixed) -> PartsNow {
        PartsNow { broken, hidden, size: if size == Fixed::ONE { 1.0 } else { size.to_f64() as f32 } }
    }

    pub(crate) fn is_broken(&self, part: usize) -> bool {
        part < 64 && self.broken >> part & 1 == 1
    }

    /// How many times as large as its template says.
    pub(crate) fn size(&self) -> f32 {
        self.size
    }

    /// A part in the frame of its pose; none if it is hidden, or broken and gone.
    pub(crate) fn posed(&self, plan: &PartPlan, part: usize) -> Option<Core> {
        self.with_posed(plan, part, |core| *core)
    }

    /// A part in the frame of a body that has not been posed; none if it is hidden, or broken and gone.
    pub(crate) fn still(&self, plan: &PartPlan, part: usize) -> Option<Core> {
        self.with_still(plan, part, |core| *core)
    }

    /// Asks something of a part as [`still`](Self::still) gives it.
    #[inline]
    pub(crate) fn with_still<T>(
        &self,
        plan: &PartPlan,
        part: usize,
        ask: impl FnOnce(&Core) -> T,
    ) -> Option<T> {
        self.with(part, plan.still_when(self.is_broken(part)), ask)
    }

    /// Asks something of a part as [`posed`](Self::posed) gives it.
    #[inline]
    pub(crate) fn with_posed<T>(
        &self,
        plan: &PartPlan,
        part: usize,
        ask: impl FnOnce(&Core) -> T,
    ) -> Option<T> {
        self.with(part, plan.core_when(self.is_broken(part)), ask)
    }

    #[inline]
    fn with<T>(&self, part: usize, core: Option<&Core>, ask: impl FnOnce(&Core) -> T) -> Option<T> {
        let core = core.filter(|_| part >= 64 || self.hidden >> part & 1 == 0)?;
        Some(if self.size == 1.0 { ask(core) } else { ask(&core.scaled(self.size)) })
    }
}

/// Works out which parts are hidden in this tick, by order and by statuses, and notes those that come back: the way of their poses begins
/// where it ends.
pub(crate) fn hide_parts(
    rules: &Rules,
    bearers: Bearers<'_>,
    posed: &mut Posed,
    hidden: &mut Vec<(u32, u64)>,
) {
    hidden.clear();
    let combatants = bearers.combatants;
    for slot in 0..combatants.slots() {
        let (off, before) = (combatants.off[slot], combatants.hidden[slot]);
        if off | before == 0 && !rules.uses.hides_parts
            || !matches!(combatants.life[slot], Life::Standing | Life::Dead)
        {
            continue;
        }
        let now = hidden_now(rules, bearers, slot);
        if now != before {
            hidden.push((slot as u32, now));
            posed.come_back(slot, before & !now);
        }
    }
}

/// What order and statuses hide of the combatant in `slot`: what a status hides is hidden, and what a status shows is not, whatever
/// was ordered.
fn hidden_now(rules: &Rules, bearers: Bearers<'_>, slot: usize) -> u64 {
    let combatants = bearers.combatants;
    let off = combatants.off[slot];
    if !rules.uses.hides_parts {
        return off;
    }
    let (mut hides, mut shows) = (0, 0);
    for application in bearers.running_on(slot) {
        let status = rules.status(application.status);
        (hides, shows) = (hides | status.hides_parts, shows | status.shows_parts);
    }
    let template = combatants.template[slot];
    off & !parts_with(rules, template, shows) | parts_with(rules, template, hides)
}

/// The parts of a template, of the first 64, that carry one of these tags.
fn parts_with(rules: &Rules, template: TemplateId, tags: u64) -> u64 {
    let parts = rules.template(template).parts.iter().take(64).enumerate();
    parts.filter(|(_, part)| part.tags & tags != 0).fold(0, |mask, (number, _)| mask | 1 << number)
}
