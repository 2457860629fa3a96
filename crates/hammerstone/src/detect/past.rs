//! Targets as they were some ticks ago, for swings that are rewound.

use std::collections::BTreeSet;

use super::{Body, Detection, PartsNow};
use crate::geometry::Motion;
use crate::ids::SwingId;
use crate::ruleset::Rules;
use crate::state::{Past, PastBody, PastTick, Raised, State};
use crate::terms::Life;

use super::Posed;

/// Keeps where all are who could be struck in this tick, and what stands in the way. Does nothing where the ruleset rewinds nothing.
pub(crate) fn keep_past(rules: &Rules, state: &mut State, posed: &Posed) {
    let State { past, combatants, obstacles, swings, tick, .. } = state;
    // This tick, and so many before it.
    let kept = if rules.rewind.0 > 0 { rules.rewind.0 + 1 } else { 0 };
    let Some(next) = past.next(kept) else { return past.rewound.clear() };
    next.tick = *tick;
    for slot in 0..combatants.slots() {
        let template = combatants.template[slot];
        if combatants.life[slot] != Life::Standing || rules.template_plan(template).layers == 0 {
            continue;
        }
        let first = next.ways.len() as u32;
        let is_posed = posed.ways(combatants, slot).map(|ways| {
            next.ways.extend(ways.map(|way| [way.from.into(), way.end().into()]));
            first
        });
        next.bodies.push(PastBody {
            id: combatants.id(slot),
            template,
            before: combatants.pose_before[slot],
            pose: combatants.pose[slot],
            broken: combatants.broken[slot],
            hidden: combatants.hidden[slot],
            size: combatants.size[slot],
            posed: is_posed,
        });
    }
    next.obstacles.extend_from_slice(obstacles);
    // Those that ended in the last tick stood in the state until now, so that it could be told.
    let runs = |id: SwingId| swings.binary_search_by_key(&id, |swing| swing.id).is_ok();
    past.rewound.retain(|(swing, _)| runs(*swing));
}

/// A body as it was, with the ways of its parts among `ways`.
pub(crate) fn past_body(
    rules: &Rules,
    past: &PastTick,
    of: &PastBody,
    back: u16,
    ways: &mut Vec<Motion>,
) -> Body {
    let parts = rules.template_plan(of.template).parts.len();
    let posed = of.posed.and_then(|first| past.ways.get(first as usize..first as usize + parts));
    let first = ways.len() as u32;
    let posed = posed.map(|of_parts| {
        ways.extend(of_parts.iter().map(|[before, after]| Motion::between(*before, *after)));
        first
    });
    let motion = Motion::between(of.before, of.pose);
    let now = PartsNow::as_it_was(of.broken, of.hidden, of.size);
    Body { id: of.id, template: of.template, motion, now, posed, asked: None, back }
}

impl Detection {
    /// Adds the bodies that rewound hitboxes may touch: those of who is still in the encounter, as they were. One who has died since is met
    /// and refused; one of another template since has other parts, and is not.
    pub(crate) fn add_past(&mut self, rules: &Rules, state: &State) {
        let backs: BTreeSet<u16> =
            self.hitboxes.iter().map(|open| open.back).filter(|&back| back > 0).collect();
        for back in backs {
            let Some(past) = state.past.before(state.tick, back) else { continue };
            for of in &past.bodies {
                let combatants = &state.combatants;
                let there = combatants.is_present(of.id) && combatants.template[of.id.slot()] == of.template;
                if there {
                    self.bodies.push(past_body(rules, past, of, back, &mut self.ways));
                }
            }
        }
    }
}

/// What stands in the way of a swing that is rewound by so many ticks.
pub(crate) fn obstacles_of(past: &Past, now: u32, back: u16) -> Option<&[Raised]> {
    past.before(now, back).filter(|_| back > 0).map(|past| &past.obstacles[..])
}
