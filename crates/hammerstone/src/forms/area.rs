//! Area: hitboxes that stay where they were started; if that was with the attacker, there is where the attacker stood.

use super::{Swinging, Ways};
use crate::detect::OpenHitbox;
use crate::ruleset::{Attack, AttackPlan, Rules};

pub(super) struct Area;

impl Ways for Area {
    fn leaves_the_hand(&self) -> bool {
        true
    }

    /// It lies there until its last window closes. The attacker's hands are free after the recovery, counted from the first.
    fn lay_out(&self, attack: &Attack, plan: &mut AttackPlan) {
        let opens = plan.windows.first().map_or(0, |window| window.opens);
        let closes = plan.windows.last().map_or(0, |window| window.closes);
        plan.frees = opens.saturating_add(attack.recovery);
        plan.total = if plan.frees > closes { plan.frees } else { closes };
    }

    fn reach(&self, rules: &Rules, attack: &Attack, plan: &AttackPlan) -> Option<f32> {
        Some(rules.reach_of_hitboxes(attack, plan))
    }

    fn gather(&self, swinging: &Swinging<'_>, hitboxes: &mut Vec<OpenHitbox>) {
        if let Some(carrier) = swinging.carrier() {
            swinging.fixed(carrier, hitboxes);
        }
    }
}
