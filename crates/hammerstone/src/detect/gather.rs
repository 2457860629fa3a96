//! Every open hitbox and every body, on its way through the tick.

use crate::geometry::{Core, Motion, Pose, Swept};
use crate::ids::*;
use crate::ruleset::{Attack, Beam, Form, Rules};
use crate::state::{Life, State, Swing};

use super::{Body, Detection, OpenHitbox, first_in_the_way};

impl Detection {
    /// Every open hitbox, by swing, then by body, then by hitbox; and every body that could be struck, if any hitbox is open.
    pub(crate) fn gather(&mut self, rules: &Rules, state: &State) {
        self.hitboxes.clear();
        gather(rules, state, |swing| swing.window != 0, &mut self.hitboxes);
        if self.hitboxes.is_empty() {
            return;
        }
        self.bodies.clear();
        let combatants = &state.combatants;
        for slot in 0..combatants.slots() {
            if combatants.life[slot] != Life::Standing
                || rules.template(combatants.template[slot]).layers == 0
            {
                continue;
            }
            let motion = Motion::between(combatants.pose_before[slot], combatants.pose[slot]);
            let (id, template, broken) =
                (combatants.id(slot), combatants.template[slot], combatants.broken[slot]);
            self.bodies.push(Body { id, template, motion, broken });
        }
    }
}

/// The hitboxes of swings that run while no window is open, where they would be if one was.
pub(crate) fn gather_closed(rules: &Rules, state: &State, hitboxes: &mut Vec<OpenHitbox>) {
    gather(rules, state, |swing| swing.window == 0, hitboxes);
}

fn gather(rules: &Rules, state: &State, which: impl Fn(&Swing) -> bool, hitboxes: &mut Vec<OpenHitbox>) {
    for (place, swing) in state.swings.iter().enumerate() {
        if !which(swing) || swing.ended.is_some() {
            continue;
        }
        let attack = rules.attack(swing.attack);
        let open = Open { state, attack, swing, place: place as u32 };
        match attack.form {
            Form::Melee => open.melee(hitboxes),
            Form::Area => open.area(hitboxes),
            Form::Projectile(_) => open.projectile(hitboxes),
            Form::Beam(beam) => open.beam(&beam, hitboxes),
            Form::Touch => {
                if let Some(attacker) = swing.attacker {
                    let (combatants, slot) = (&state.combatants, attacker.slot());
                    let parts = rules.template(combatants.template[slot]).parts.iter().enumerate();
                    let cores = parts.filter_map(|(number, part)| {
                        let core = part.core_when(combatants.is_broken(slot, number as u16))?;
                        Some((number, *core))
                    });
                    open.touching(cores, hitboxes);
                }
            }
        }
    }
}

/// A swing whose hitboxes are gathered.
struct Open<'a> {
    state: &'a State,
    attack: &'a Attack,
    swing: &'a Swing,
    place: u32,
}

impl Open<'_> {
    /// The way of what carries it: its attacker, or the place where it was started.
    fn carrier(&self) -> Option<Motion> {
        let still = |pose: Pose| Motion::between(pose, pose);
        let with = |attacker: CombatantId| {
            let combatants = &self.state.combatants;
            Motion::between(combatants.pose_before[attacker.slot()], combatants.pose[attacker.slot()])
        };
        match (self.swing.attacker, self.swing.anchor) {
            (Some(attacker), None) => Some(with(attacker)),
            (_, Some(anchor)) => Some(still(anchor)),
            (None, None) => None,
        }
    }

    fn hitbox(&self, hitbox: usize, group: u16, swept: Swept) -> OpenHitbox {
        let start = swept.start();
        OpenHitbox {
            id: self.swing.id,
            swing: self.place,
            attack: self.swing.attack,
            attacker: self.swing.attacker,
            body: 0,
            flying: 0,
            hitbox: hitbox as u16,
            group,
            layers: self.attack.layers(),
            swept,
            start,
            bounds: swept.bounds_from(&start),
            held_from: 2.0,
        }
    }

    fn melee(&self, hitboxes: &mut Vec<OpenHitbox>) {
        let attacker = self.swing.attacker.map(|attacker| attacker.slot());
        let Some(slot) = attacker else { return };
        let combatants = &self.state.combatants;
        let carrier = Motion::between(combatants.pose_before[slot], combatants.pose[slot]);
        let local = match self.attack.guided {
            true => Motion::between(self.swing.guided[0], self.swing.guided[1]),
            false => {
                // While its clock stands, so do its hitboxes.
                let before = self.swing.clock.saturating_sub(u32::from(!self.swing.stands));
                self.attack.path.motion(before, self.swing.clock)
            }
        };
        for (i, hitbox) in self.attack.hitboxes.iter().enumerate() {
            hitboxes.push(self.hitbox(i, hitbox.group, Swept::on_path(hitbox.core, local, carrier)));
        }
    }

    /// Where it was started; if that was with its attacker, there is where they stood.
    fn area(&self, hitboxes: &mut Vec<OpenHitbox>) {
        let Some(carrier) = self.carrier() else { return };
        for (i, hitbox) in self.attack.hitboxes.iter().enumerate() {
            hitboxes.push(self.hitbox(i, hitbox.group, Swept::fixed(hitbox.core, carrier)));
        }
    }

    fn touching(&self, cores: impl Iterator<Item = (usize, Core)>, hitboxes: &mut Vec<OpenHitbox>) {
        let Some(carrier) = self.carrier() else { return };
        for (i, core) in cores {
            hitboxes.push(self.hitbox(i, 0, Swept::fixed(core, carrier)));
        }
    }

    fn beam(&self, beam: &Beam, hitboxes: &mut Vec<OpenHitbox>) {
        let Some(carrier) = self.carrier() else { return };
        let [x, y, z] = beam.from;
        let core = Core::line(beam.from, [x, y, z + beam.reach], beam.radius);
        hitboxes.push(self.hitbox(0, 0, Swept::fixed(core, carrier)));
    }

    fn projectile(&self, hitboxes: &mut Vec<OpenHitbox>) {
        let first = self.state.flying.partition_point(|body| body.swing < self.swing.id);
        for (place, body) in self.state.flying.iter().enumerate().skip(first) {
            if body.swing != self.swing.id {
                break;
            }
            if body.ended.is_some() {
                continue;
            }
            let carrier = Motion::between(body.before, body.pose);
            let start = hitboxes.len();
            let mut held_from = 2.0;
            for (i, hitbox) in self.attack.hitboxes.iter().enumerate() {
                let swept = Swept::fixed(hitbox.core, carrier);
                if let Some((toi, _)) = first_in_the_way(&self.state.obstacles, &swept)
                    && toi < held_from
                {
                    held_from = toi;
                }
                let open = self.hitbox(i, hitbox.group, swept);
                hitboxes.push(OpenHitbox { body: body.body, flying: place as u32, ..open });
            }
            // What holds one of its hitboxes holds the body.
            hitboxes[start..].iter_mut().for_each(|open| open.held_from = held_from);
        }
    }
}
