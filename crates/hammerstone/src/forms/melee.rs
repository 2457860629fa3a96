//! Melee: hitboxes in the attacker's frame, on a path of their own or where the host guides them.

use super::{Swinging, Ways};
use crate::detect::OpenHitbox;
use crate::geometry::{Motion, Swept};
use crate::ruleset::{Attack, AttackPlan, Rules};

pub(super) struct Melee;

impl Ways for Melee {
    fn needs_body(&self) -> bool {
        true
    }

    fn reach(&self, rules: &Rules, attack: &Attack, plan: &AttackPlan) -> Option<f32> {
        (!attack.guided).then(|| rules.reach_of_hitboxes(attack, plan))
    }

    fn gather(&self, swinging: &Swinging<'_>, hitboxes: &mut Vec<OpenHitbox>) {
        let Some(carrier) = swinging.attacker() else { return };
        let swing = swinging.swing;
        let local = if swinging.attack.guided {
            Motion::between(swing.guided[0], swing.guided[1])
        } else {
            // While its clock stands, so do its hitboxes.
            let before = swing.clock.saturating_sub(u32::from(!swing.stands));
            swinging.plan.path.motion(before, swing.clock)
        };
        for (i, &(core, group)) in swinging.plan.cores.iter().enumerate() {
            hitboxes.push(swinging.hitbox(i, group, Swept::on_path(core, local, carrier)));
        }
    }
}
