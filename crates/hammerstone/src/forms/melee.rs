//! Melee: hitboxes in the attacker's frame, on a path of their own or where the host guides them.

use super::{Swinging, Ways};
use crate::detect::OpenHitbox;
use crate::geometry::{Core, Motion, Pose, Swept};
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
        // Hitboxes grow with their attacker.
        let size = swing.attacker.map_or(1.0, |attacker| swinging.state.combatants.times(attacker.slot()));
        let grown = |core: &Core| if size == 1.0 { *core } else { core.scaled(size) };
        let cores = swinging.plan.cores.iter().map(|(core, group)| (grown(core), *group)).enumerate();
        if !swing.guided.is_empty() {
            let ways = swinging.posed.hitbox_ways(&swinging.state.hitbox_poses, swing);
            for ((i, (core, group)), local) in cores.zip(ways) {
                hitboxes.push(swinging.hitbox(i, group, Swept::on_path(core, local, carrier)));
            }
            return;
        }
        let local = if swinging.attack.guided {
            // Nothing has guided it yet.
            Motion::between(Pose::IDENTITY, Pose::IDENTITY)
        } else {
            // While its clock stands, so do its hitboxes. Where two of its ticks pass, they go straight from the first to the last.
            let before = swing.clock.saturating_sub(swing.steps.into());
            let motion = swinging.plan.path.motion(before, swing.clock);
            if size == 1.0 { motion } else { motion.scaled(size) }
        };
        for (i, (core, group)) in cores {
            hitboxes.push(swinging.hitbox(i, group, Swept::on_path(core, local, carrier)));
        }
    }
}
