//! Projectile: bodies that leave when the first window opens and fly on their own. How they fly is in `swing/flight.rs`.

use super::{Swinging, Ways};
use crate::detect::OpenHitbox;
use crate::geometry::{Core, FARTHEST, Motion, Swept};
use crate::ruleset::{Attack, AttackPlan, Check, LONGEST, Projectile, Rules, Window};
use crate::state::{BodyAt, Flying, Swing};

impl Ways for Projectile {
    fn leaves_the_hand(&self) -> bool {
        true
    }

    fn check(&self, _attack: &Attack, check: &mut Check) {
        let [x, y, z] = self.from;
        for value in [self.speed, self.gravity, self.spread, x, y, z] {
            check.within("projectile", value, FARTHEST);
        }
        check.range("projectile, lifetime", self.lifetime.into(), 1, LONGEST);
        check.range("projectile, pellets", self.pellets.into(), 1, 1024);
    }

    /// What left the hand needs no more of it; the swing lasts as long as it flies.
    fn lay_out(&self, attack: &Attack, plan: &mut AttackPlan) {
        let opens = plan.windows.first().map_or(0, |window| window.opens);
        plan.frees = opens.saturating_add(attack.recovery);
        let flown = opens.saturating_add(self.lifetime);
        plan.total = if plan.frees > flown { plan.frees } else { flown };
        plan.windows.clear();
        plan.windows.push(Window { opens, closes: flown });
    }

    /// As far as it flies on the level.
    fn reach(&self, rules: &Rules, _attack: &Attack, _plan: &AttackPlan) -> Option<f32> {
        Some(rules.level(self.from.into()) + self.speed * self.lifetime as f32 / rules.rate as f32)
    }

    fn gather(&self, swinging: &Swinging<'_>, hitboxes: &mut Vec<OpenHitbox>) {
        let (swing, state) = (swinging.swing, swinging.state);
        let first = state.flying.partition_point(|body| body.swing < swing.id);
        for place in BodyAt::all(&state.flying).skip(first) {
            let body = &state.flying[place];
            if body.swing != swing.id {
                break;
            }
            if body.ended.is_some() {
                continue;
            }
            let carrier = Motion::between(body.before, body.pose);
            let cores = swinging.plan.cores.iter();
            let swept = |&(core, _): &(Core, u16)| Swept::fixed(core, carrier);
            // What holds one of its hitboxes holds the body.
            let held = swinging.in_the_way.holds((swing.id, body.body), cores.clone().map(swept));
            let held_from = held.map_or(2.0, |(impact, _)| impact.toi);
            for (i, core) in cores.enumerate() {
                let open = swinging.hitbox(i, core.1, swept(core));
                hitboxes.push(OpenHitbox { body: body.body, flying: place, held_from, ..open });
            }
        }
    }

    /// What the host reports of a projectile has no body, and is not limited so.
    fn went_through(&self, _swing: &Swing, body: Option<&Flying>) -> Option<(u32, u32)> {
        let may = u32::from(self.pierce) + 1;
        body.map(|body| (may, if body.ended.is_some() { may } else { body.struck.into() }))
    }
}
