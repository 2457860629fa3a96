//! Touch: the attacker's own parts, until the swing is cancelled or its windows close.

use super::{Swinging, Ways};
use crate::detect::{OpenHitbox, PartsNow};
use crate::geometry::Swept;
use crate::ruleset::{Attack, AttackPlan, Rules};

pub(super) struct Touch;

impl Ways for Touch {
    fn has_hitboxes(&self) -> bool {
        false
    }

    fn needs_body(&self) -> bool {
        true
    }

    fn reach(&self, _rules: &Rules, _attack: &Attack, _plan: &AttackPlan) -> Option<f32> {
        None
    }

    fn gather(&self, swinging: &Swinging<'_>, hitboxes: &mut Vec<OpenHitbox>) {
        let (Some(attacker), Some(carrier)) = (swinging.swing.attacker, swinging.carrier()) else { return };
        let (combatants, slot) = (&swinging.state.combatants, attacker.slot());
        if let Some(parts) = swinging.posed.parts(swinging.rules, combatants, slot, carrier) {
            let parts = parts.enumerate().filter_map(|(number, part)| Some((number, part?)));
            hitboxes.extend(parts.map(|(number, part)| swinging.hitbox(number, 0, part)));
            return;
        }
        let parts = &swinging.rules.template_plan(combatants.template[slot]).parts;
        let now = PartsNow::of(combatants, slot);
        for (number, part) in parts.iter().enumerate() {
            if let Some(core) = now.still(part, number) {
                hitboxes.push(swinging.hitbox(number, 0, Swept::fixed(core, carrier)));
            }
        }
    }
}
