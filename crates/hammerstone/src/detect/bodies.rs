//! Every body that could be struck, on its way through the tick.

use crate::geometry::{Motion, Pose};
use crate::ids::*;
use crate::ruleset::Rules;
use crate::side_by_side;
use crate::state::State;
use crate::terms::Life;

use super::{Body, Detection, PartsNow};

/// Someone who stands: the slot, and where the ways of its parts begin among those of posed bodies, if it is one.
#[derive(Clone, Copy, Debug)]
pub(super) struct Standing {
    slot: u32,
    posed: Option<u32>,
}

impl Detection {
    /// Takes in all who stand and have parts.
    pub(crate) fn gather_bodies(&mut self, rules: &Rules, state: &State) {
        let Detection { division, standing, posed, hitboxes, bodies, ways, .. } = self;
        standing.clear();
        ways.clear();
        let combatants = &state.combatants;
        for slot in 0..combatants.slots() {
            if combatants.life[slot] == Life::Standing
                && rules.template_plan(combatants.template[slot]).layers != 0
            {
                let first = ways.len() as u32;
                let posed = posed.ways(combatants, slot).map(|of_parts| {
                    ways.extend(of_parts);
                    first
                });
                standing.push(Standing { slot: slot as u32, posed });
            }
        }
        // Those of the last tick are written over.
        bodies.resize(standing.len(), Body::none());
        let length = standing.len().div_ceil(division.count(hitboxes.len())).max(1);
        side_by_side::fill(bodies, standing, length, |&Standing { slot, posed }, body| {
            let slot = slot as usize;
            let motion = Motion::between(combatants.pose_before[slot], combatants.pose[slot]);
            let (id, template) = (combatants.id(slot), combatants.template[slot]);
            let now = PartsNow::of(combatants, slot);
            let reach = rules.template(template).posed.filter(|_| posed.is_none());
            let asked = reach.map(|reach| (reach.0 + rules.template_plan(template).about()) * now.size());
            *body = Body { id, template, motion, now, posed, asked, back: 0 };
        });
    }
}

impl Body {
    /// Of none, at rest: written over before anything looks at it.
    fn none() -> Body {
        Body {
            id: CombatantId::NONE,
            template: TemplateId(0),
            motion: Motion::between(Pose::IDENTITY, Pose::IDENTITY),
            now: PartsNow::as_it_was(0, 0, crate::Fixed::ONE),
            posed: None,
            asked: None,
            back: 0,
        }
    }
}
