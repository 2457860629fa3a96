//! Parts with points of their own.

use crate::event::PartBroken;
use crate::ids::*;
use crate::log::Log;
use crate::ruleset::Rules;
use crate::state::State;

/// A part loses what health lost by a blow on it, and breaks once in a life.
pub(crate) fn wear_part(
    rules: &Rules,
    state: &mut State,
    log: &mut Log,
    subject: CombatantId,
    part: u16,
    amount: i64,
) {
    let slot = subject.slot();
    let combatants = &mut state.combatants;
    let authored = &rules.template(combatants.template[slot]).parts[usize::from(part)];
    let Some(points) = authored.points else { return };
    if combatants.is_broken(slot, part) {
        return;
    }
    let (_, lost) = combatants.part_losses.find_or_push(slot, |(of, _)| *of == part, (part, 0));
    *lost = lost.saturating_add(amount as i32);
    if i64::from(*lost) >= points {
        combatants.broken[slot] |= 1 << part;
        log.publish(PartBroken { subject, part, amount });
    }
}
