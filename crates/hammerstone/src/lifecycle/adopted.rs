//! What follows, in the next tick, from a ruleset that was tuned.

use crate::event::{EncounterAdopted, SwingEnd};
use crate::gauges;
use crate::ids::CombatantId;
use crate::swing;
use crate::terms::Life;
use crate::work::Work;

/// Ends swings that are outdated, and brings maxima to what they are now.
pub(crate) fn settle_adopted(work: &mut Work<'_>) {
    let Some(keep) = work.state.adopted.take() else { return };
    work.log.publish(EncounterAdopted {});
    for (id, window) in std::mem::take(&mut work.state.outdated) {
        if let Some(index) = work.state.swing_index(id) {
            work.state.swings[index].window = window;
            swing::end_swing(work, index, SwingEnd::Adopted);
        }
    }
    let combatants = &work.state.combatants;
    let standing = (0..combatants.slots()).filter(|&slot| combatants.life[slot] == Life::Standing);
    let standing: Vec<CombatantId> = standing.map(|slot| combatants.id(slot)).collect();
    for who in standing {
        gauges::refresh_maximum(work.rules, work.state, work.log, who, Some(keep));
        gauges::change_gauges(work.rules, work.state, work.log, who);
    }
}
