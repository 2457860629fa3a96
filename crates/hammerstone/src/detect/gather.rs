//! Every open volume and every body, on its way through the tick.

use crate::geometry::{Core, Motion, Pose, Swept};
use crate::ids::*;
use crate::ruleset::{Attack, Beam, Form, Rules};
use crate::state::{Life, State, Swing};
use crate::work::Work;

use super::{Body, Detection, OpenVolume, first_in_the_way};

pub(crate) fn gather_bodies(work: &Work<'_>, detection: &mut Detection) {
    detection.bodies.clear();
    let combatants = &work.state.combatants;
    for slot in 0..combatants.slots() {
        if combatants.life[slot] != Life::Standing || work.rules.cast(combatants.cast[slot]).layers == 0 {
            continue;
        }
        let motion = Motion::between(combatants.pose_before[slot], combatants.pose[slot]);
        let (id, cast, broken) = (combatants.id(slot), combatants.cast[slot], combatants.broken[slot]);
        detection.bodies.push(Body { id, cast, motion, broken });
    }
}

/// All open volumes, by swing, then by body, then by volume.
pub(crate) fn gather_volumes(work: &Work<'_>, detection: &mut Detection) {
    detection.volumes.clear();
    gather(work.rules, work.state, |swing| swing.window != 0, &mut detection.volumes);
}

/// The volumes of swings that run while no window is open, where they would be if one was.
pub(crate) fn gather_closed(rules: &Rules, state: &State, volumes: &mut Vec<OpenVolume>) {
    gather(rules, state, |swing| swing.window == 0, volumes);
}

fn gather(rules: &Rules, state: &State, which: impl Fn(&Swing) -> bool, volumes: &mut Vec<OpenVolume>) {
    for (place, swing) in state.swings.iter().enumerate() {
        if !which(swing) || swing.ended.is_some() {
            continue;
        }
        let attack = rules.attack(swing.attack);
        let open = Open { state, attack, swing, place: place as u32 };
        match attack.form {
            Form::Carried => open.carried(volumes),
            Form::Placed => open.placed(volumes),
            Form::Thrown(_) => open.thrown(volumes),
            Form::Beam(beam) => open.beam(&beam, volumes),
            Form::Touch => {
                if let Some(attacker) = swing.attacker {
                    let (combatants, slot) = (&state.combatants, attacker.slot());
                    let parts = rules.cast(combatants.cast[slot]).parts.iter().enumerate();
                    let cores = parts.filter_map(|(number, part)| {
                        let core = part.core_when(combatants.is_broken(slot, number as u16))?;
                        Some((number, *core))
                    });
                    open.touching(cores, volumes);
                }
            }
        }
    }
}

/// A swing whose volumes are gathered.
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

    fn volume(&self, volume: usize, group: u16, swept: Swept) -> OpenVolume {
        let start = swept.start();
        OpenVolume {
            id: self.swing.id,
            swing: self.place,
            attack: self.swing.attack,
            attacker: self.swing.attacker,
            body: 0,
            flying: 0,
            volume: volume as u16,
            group,
            layers: self.attack.layers(),
            swept,
            start,
            bounds: swept.bounds_from(&start),
            held_from: 2.0,
        }
    }

    fn carried(&self, volumes: &mut Vec<OpenVolume>) {
        let attacker = self.swing.attacker.map(|attacker| attacker.slot());
        let Some(slot) = attacker else { return };
        let combatants = &self.state.combatants;
        let carrier = Motion::between(combatants.pose_before[slot], combatants.pose[slot]);
        let local = match self.attack.guided {
            true => Motion::between(self.swing.guided[0], self.swing.guided[1]),
            false => {
                // While its clock stands, so do its volumes.
                let before = self.swing.clock.saturating_sub(u32::from(!self.swing.stands));
                self.attack.path.motion(before, self.swing.clock)
            }
        };
        for (i, volume) in self.attack.volumes.iter().enumerate() {
            volumes.push(self.volume(i, volume.group, Swept::on_path(volume.core, local, carrier)));
        }
    }

    /// Where it was started; if that was with its attacker, there is where they stood.
    fn placed(&self, volumes: &mut Vec<OpenVolume>) {
        let Some(carrier) = self.carrier() else { return };
        for (i, volume) in self.attack.volumes.iter().enumerate() {
            volumes.push(self.volume(i, volume.group, Swept::fixed(volume.core, carrier)));
        }
    }

    fn touching(&self, cores: impl Iterator<Item = (usize, Core)>, volumes: &mut Vec<OpenVolume>) {
        let Some(carrier) = self.carrier() else { return };
        for (i, core) in cores {
            volumes.push(self.volume(i, 0, Swept::fixed(core, carrier)));
        }
    }

    fn beam(&self, beam: &Beam, volumes: &mut Vec<OpenVolume>) {
        let Some(carrier) = self.carrier() else { return };
        let [x, y, z] = beam.from;
        let core = Core::line(beam.from, [x, y, z + beam.reach], beam.radius);
        volumes.push(self.volume(0, 0, Swept::fixed(core, carrier)));
    }

    fn thrown(&self, volumes: &mut Vec<OpenVolume>) {
        let first = self.state.flying.partition_point(|body| body.swing < self.swing.id);
        for (place, body) in self.state.flying.iter().enumerate().skip(first) {
            if body.swing != self.swing.id {
                break;
            }
            if body.ended.is_some() {
                continue;
            }
            let carrier = Motion::between(body.before, body.pose);
            let start = volumes.len();
            let mut held_from = 2.0;
            for (i, volume) in self.attack.volumes.iter().enumerate() {
                let swept = Swept::fixed(volume.core, carrier);
                if let Some((toi, _)) = first_in_the_way(&self.state.obstacles, &swept)
                    && toi < held_from
                {
                    held_from = toi;
                }
                let open = self.volume(i, volume.group, swept);
                volumes.push(OpenVolume { body: body.body, flying: place as u32, ..open });
            }
            // What holds one of its volumes holds the body.
            volumes[start..].iter_mut().for_each(|open| open.held_from = held_from);
        }
    }
}
