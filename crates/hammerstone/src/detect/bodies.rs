//! Every body that could be struck, on its way through the tick.

use glam::Vec3;

use crate::geometry::{Motion, Pose, larger, smaller};
use crate::ids::*;
use crate::ruleset::Rules;
use crate::side_by_side;
use crate::state::{Combatants, State};
use crate::terms::Life;

use super::{Body, Detection, OpenHitbox, PartsNow};

/// Someone who stands: the slot, and where the ways of its parts begin among those of posed bodies, if it is one.
#[derive(Clone, Copy, Debug)]
pub(super) struct Standing {
    slot: u32,
    posed: Option<u32>,
}

impl Detection {
    /// Takes in all who stand, have parts, and may come near an open hitbox.
    pub(crate) fn gather_bodies(&mut self, rules: &Rules, state: &State) {
        let Detection { division, standing, posed, hitboxes, bodies, ways, .. } = self;
        standing.clear();
        ways.clear();
        let combatants = &state.combatants;
        let about = About::all(hitboxes);
        for slot in 0..combatants.slots() {
            let template = combatants.template[slot];
            let plan = rules.template_plan(template);
            // The parts of those that may be posed are anywhere about them.
            let may_meet = || {
                rules.template(template).posed.is_some()
                    || about.meets_way(combatants, slot, plan.bounds.reach)
            };
            if combatants.life[slot] == Life::Standing && plan.layers != 0 && may_meet() {
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

/// A box along the axes about the ways of all open hitboxes: who stays out of it is in no pair.
struct About {
    low: Vec3,
    high: Vec3,
}

impl About {
    fn all(hitboxes: &[OpenHitbox]) -> About {
        let none = About { low: Vec3::INFINITY, high: Vec3::NEG_INFINITY };
        let About { low, high } =
            hitboxes.iter().map(|open| open.bounds).fold(none, |all, (middle, half)| About {
                low: smaller(middle - half, all.low),
                high: larger(middle + half, all.high),
            });
        // Far out a number is no finer than that.
        let coarse = larger(low.abs(), high.abs()) * 1.0e-6;
        About { low: low - coarse, high: high + coarse }
    }

    /// Whether the way of a combatant comes into it, which reaches so far about its place while it is as large as its template says.
    fn meets_way(&self, combatants: &Combatants, slot: usize, reach: f32) -> bool {
        let [from, to] = [combatants.pose_before[slot].at, combatants.pose[slot].at].map(Vec3::from_array);
        // A little more, so that none is lost to rounding.
        let reach = Vec3::splat(reach * combatants.times(slot) * 1.001 + 0.01);
        let (low, high) = (smaller(from, to) - reach, larger(from, to) + reach);
        low.cmple(self.high).all() && high.cmpge(self.low).all()
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
