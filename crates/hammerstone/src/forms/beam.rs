//! Beam: a straight line in each tick of its windows; where it enters what it touches, and where it stops.

use glam::Vec3;

use super::{Swinging, Ways};
use crate::detect::{Barrier, BeamLine, Detection, InTheWay, OpenHitbox, obstacles_of};
use crate::geometry::{Core, FARTHEST, Impact, Motion, Pose, Swept, sweep};
use crate::level::Level;
use crate::ruleset::{Attack, AttackPlan, Beam, Check, Form, Problem, Rules};
use crate::state::{Flying, State, Swing};

impl Ways for Beam {
    fn has_hitboxes(&self) -> bool {
        false
    }

    fn check(&self, _attack: &Attack, check: &mut Check) {
        let [x, y, z] = self.from;
        for value in [self.reach, self.radius, x, y, z] {
            check.within("beam", value, FARTHEST);
        }
        if self.reach <= 0.0 || self.radius < 0.0 {
            check.find("beam", Problem::NoReach { reach: self.reach, radius: self.radius });
        }
    }

    fn reach(&self, rules: &Rules, _attack: &Attack, _plan: &AttackPlan) -> Option<f32> {
        let [x, y, z] = self.from;
        Some(rules.level(Vec3::new(x, y, z + self.reach)) + self.radius)
    }

    fn gather(&self, swinging: &Swinging<'_>, hitboxes: &mut Vec<OpenHitbox>) {
        let Some(carrier) = swinging.carrier() else { return };
        let [x, y, z] = self.from;
        let core = Core::line(self.from, [x, y, z + self.reach], self.radius);
        hitboxes.push(swinging.hitbox(0, 0, Swept::fixed(core, carrier)));
    }

    fn went_through(&self, swing: &Swing, _body: Option<&Flying>) -> Option<(u32, u32)> {
        Some((u32::from(self.pierce) + 1, swing.taken.into()))
    }
}

/// Takes out what beams touch behind an obstacle, notes where the beam enters the rest, and where it stops.
///
/// Looked at when the beam first touches, and where that is behind an obstacle, once more at the end of the tick.
pub(crate) fn cut_beams(rules: &Rules, level: &Level, state: &State, detection: &mut Detection) {
    let Detection { hitboxes, bodies, ways, touches, beams, .. } = detection;
    let in_the_way = |open: &OpenHitbox| {
        let past = obstacles_of(&state.past, state.tick, open.back);
        InTheWay { level, obstacles: past.unwrap_or(&state.obstacles), stops: &[] }
    };
    beams.clear();
    touches.retain_mut(|touch| {
        let open = &hitboxes[touch.hitbox as usize];
        let Form::Beam(beam) = rules.attack(open.attack).form else { return true };
        let body = &bodies[touch.body as usize];
        let part = usize::from(touch.part);
        let Some(part) = body.part(rules, ways, part) else { return false };
        let first = touch.impact.toi;
        [first, 1.0].into_iter().any(|t| {
            let (from, along) = beam_at(open, &beam, t);
            let (stop, _) = in_the_way(open).reach_of_line(from, along, beam.reach, t);
            let target = part.at_rest(t);
            let entry = enter(&beam, from, along, &target);
            // What it only grazes, within the skin, it has no way into: then the touch itself is the place.
            let graze = (t == first).then_some((along_beam(touch.impact.point, from, along), touch.impact));
            let Some((depth, impact)) = entry.or(graze) else { return false };
            (touch.depth, touch.impact) = (depth, Impact { toi: t, ..impact });
            depth <= stop + beam.radius
        })
    });
    for open in &*hitboxes {
        if let Form::Beam(beam) = rules.attack(open.attack).form {
            let (from, along) = beam_at(open, &beam, 1.0);
            let (stop, by) = in_the_way(open).reach_of_line(from, along, beam.reach, 1.0);
            let to = (from + along * stop).to_array();
            let (obstacle, shape) = match by {
                Some(Barrier::Obstacle(id)) => (Some(id), None),
                Some(Barrier::Level(place)) => (None, Some(place)),
                Some(Barrier::Host) | None => (None, None),
            };
            beams.push(BeamLine { swing: open.id, from: from.to_array(), to, obstacle, shape });
        }
    }
}

/// How far along a beam it enters a target at rest: a ball of its thickness goes its way in one go.
fn enter(beam: &Beam, from: Vec3, along: Vec3, target: &Swept) -> Option<(f32, Impact)> {
    let pose = |at: Vec3| Pose::at(at.to_array());
    let way = Motion::between(pose(from), pose(from + along * beam.reach));
    let impact = sweep(&Swept::fixed(Core::line([0.0; 3], [0.0; 3], beam.radius), way), target)?;
    Some((impact.toi * beam.reach, impact))
}

fn beam_at(open: &OpenHitbox, beam: &Beam, t: f32) -> (Vec3, Vec3) {
    let placement = open.swept.carrier.at(t);
    (placement.apply(Vec3::from_array(beam.from)), placement.turn.rotate(Vec3::Z))
}

fn along_beam(point: Vec3, from: Vec3, along: Vec3) -> f32 {
    let depth = (point - from).dot(along);
    if depth > 0.0 { depth } else { 0.0 }
}
