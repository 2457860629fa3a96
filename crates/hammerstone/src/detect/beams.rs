//! Beams: where they enter what they touch, and where they stop.

use glam::Vec3;

use super::{Detection, OpenHitbox, reach_of_beam};
use crate::geometry::{Core, Impact, Motion, Pose, Swept, sweep};
use crate::ids::*;
use crate::ruleset::{Beam, Form, Rules};
use crate::state::State;

/// A beam as it stood at the end of a tick, for drawing.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct BeamLine {
    /// Its swing.
    pub swing: SwingId,
    /// Where it begins, in metres in the world.
    pub from: [f32; 3],
    /// Where it stops: at its reach, at an obstacle, or at the target that it does not go through.
    pub to: [f32; 3],
}

impl BeamLine {
    /// Shortens it to `depth` metres, if it is longer.
    pub(crate) fn stop_at(&mut self, depth: f32) {
        let (from, to) = (Vec3::from_array(self.from), Vec3::from_array(self.to));
        let length = (to - from).length();
        if length > depth {
            self.to = (from + (to - from) * (depth / length)).to_array();
        }
    }
}

impl Detection {
    /// Takes out what beams touch behind an obstacle, notes where the beam enters the rest, and where it stops.
    ///
    /// Looked at when the beam first touches, and where that is behind an obstacle, once more at the end of the tick.
    pub(crate) fn cut_beams(&mut self, rules: &Rules, state: &State) {
        let Detection { hitboxes, bodies, touches, beams, .. } = self;
        let obstacles = &state.obstacles;
        beams.clear();
        touches.retain_mut(|touch| {
            let open = &hitboxes[touch.hitbox as usize];
            let Form::Beam(beam) = rules.attack(open.attack).form else { return true };
            let body = &bodies[touch.body as usize];
            let part = usize::from(touch.part);
            let parts = &rules.template(body.template).parts;
            let Some(&core) = parts[part].core_when(body.is_broken(part)) else { return false };
            let first = touch.impact.toi;
            [first, 1.0].into_iter().any(|t| {
                let (from, along) = beam_at(open, &beam, t);
                let (stop, _) = reach_of_beam(obstacles, from, along, beam.reach);
                let target = Swept::fixed(core, body.motion.at_rest(t));
                let entry = enter(&beam, from, along, &target);
                // What it only grazes, within the skin, it has no way into: then the touch itself is the place.
                let graze =
                    (t == first).then_some((along_beam(touch.impact.point, from, along), touch.impact));
                let Some((depth, impact)) = entry.or(graze) else { return false };
                (touch.depth, touch.impact) = (depth, Impact { toi: t, ..impact });
                depth <= stop + beam.radius
            })
        });
        for open in &*hitboxes {
            if let Form::Beam(beam) = rules.attack(open.attack).form {
                let (from, along) = beam_at(open, &beam, 1.0);
                let (stop, _) = reach_of_beam(obstacles, from, along, beam.reach);
                let to = (from + along * stop).to_array();
                beams.push(BeamLine { swing: open.id, from: from.to_array(), to });
            }
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
