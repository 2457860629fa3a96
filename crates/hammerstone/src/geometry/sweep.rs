//! When two moving volumes first touch.

use glam::Vec3;

use super::near::nearest;
use super::pose::Placement;
use super::shape::{Core, Solid};
use super::{Motion, Pose};

/// Volumes of up to a metre that are nearer than this, in metres, touch: half of the millimetre by which a report may
/// be early. For larger ones it grows with their size.
const SKIN: f32 = 0.0005;

/// A volume on its way through one tick: a shape, a pose within its carrier, and the carrier's pose.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Swept {
    pub(crate) core: Core,
    pub(crate) carrier: Motion,
    /// The pose of the shape in the carrier's frame, for those that move in it.
    local: Option<Motion>,
    /// No point of the core moves faster about the carrier's place than this, in metres a tick.
    whirl: f32,
}

/// The first touch of two volumes within a tick.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Impact {
    /// When, from 0 at the start of the tick to 1 at its end.
    pub(crate) toi: f32,
    /// Where, on the surface of the target, in metres in the world.
    pub(crate) point: Vec3,
    /// Out of the target, of length 1.
    pub(crate) normal: Vec3,
}

impl Swept {
    pub(crate) fn fixed(core: Core, carrier: Motion) -> Swept {
        let whirl = if carrier.turns { carrier.spin() * core.reach } else { 0.0 };
        Swept { core, carrier, local: None, whirl }
    }

    pub(crate) fn on_path(core: Core, local: Motion, carrier: Motion) -> Swept {
        let travel = local.travel();
        // The local place is on a straight line, so the farther of its two ends bounds it.
        let (start, end) = (local.from.at.length(), (local.from.at + travel).length());
        let reach = (if end > start { end } else { start }) + core.reach;
        let whirl = carrier.spin() * reach + travel.length() + local.spin() * core.reach;
        Swept { core, carrier, local: Some(local), whirl }
    }

    /// What does not move at all.
    pub(crate) fn still(core: Core) -> Swept {
        Swept::fixed(core, Motion::between(Pose::IDENTITY, Pose::IDENTITY))
    }

    /// What is left of it when the tick is over: the same, at rest at its end.
    pub(crate) fn at_end(&self) -> Swept {
        let rest = |motion: &Motion| motion.at_rest();
        Swept { carrier: rest(&self.carrier), local: self.local.as_ref().map(rest), whirl: 0.0, ..*self }
    }

    /// A box along the axes that holds the whole sweep, its middle and half of its edges.
    ///
    /// About the boxes of both ends. Between them no point strays far from both: on a way of length `s` between places
    /// `c` apart, it keeps within an ellipsoid that is √(s² − c²) thick.
    pub(crate) fn bounds(&self) -> (Vec3, Vec3) {
        let (start, end) = (self.at(0.0, Vec3::ZERO), self.at(1.0, Vec3::ZERO));
        let ((middle, half), (end_middle, end_half)) = (start.bounds(), end.bounds());
        let (low, high) =
            (smaller(middle - half, end_middle - end_half), larger(middle + half, end_middle + end_half));
        // A little more than the skin, so that no pair is lost to rounding.
        let slack = self.core.radius + SKIN * 4.0 + self.core.size * 0.002;
        let stray = if self.whirl > 0.0 { self.stray(&start, &end) } else { 0.0 };
        ((low + high) * 0.5, (high - low) * 0.5 + Vec3::splat(slack + stray))
    }

    /// How far a point of the core may stray from the way straight between its places at both ends.
    fn stray(&self, start: &Solid, end: &Solid) -> f32 {
        let way = self.carrier.travel().length() + self.whirl;
        let chord = match (start, end) {
            (Solid::Line { from, to }, Solid::Line { from: from2, to: to2 }) => {
                let (one, other) = ((*from2 - *from).length(), (*to2 - *to).length());
                if one < other { one } else { other }
            }
            _ => 0.0,
        };
        let square = way * way - chord * chord;
        if square > 0.0 { square.sqrt() * 0.5 } else { 0.0 }
    }

    /// Where the core is at `t`, seen from `origin`.
    pub(crate) fn at(&self, t: f32, origin: Vec3) -> Solid {
        let mut placement = self.carrier.at(t);
        placement.at -= origin;
        match &self.local {
            None => self.core.at(placement),
            Some(local) => {
                let within = local.at(t);
                self.core
                    .at(Placement { at: placement.apply(within.at), turn: placement.turn.times(within.turn) })
            }
        }
    }

    /// No two points of the two come nearer faster than this, in metres a tick.
    pub(crate) fn closing_bound(&self, other: &Swept) -> f32 {
        (self.carrier.travel() - other.carrier.travel()).length() + self.whirl + other.whirl
    }

    /// How near counts as touching.
    fn skin(&self, other: &Swept) -> f32 {
        let (one, other) = (self.core.size, other.core.size);
        let size = if one > other { one } else { other };
        if size > 1.0 { SKIN * size } else { SKIN }
    }
}

fn smaller(one: Vec3, other: Vec3) -> Vec3 {
    let pick = |a: f32, b: f32| if a < b { a } else { b };
    Vec3::new(pick(one.x, other.x), pick(one.y, other.y), pick(one.z, other.z))
}

pub(crate) fn larger(one: Vec3, other: Vec3) -> Vec3 {
    let pick = |a: f32, b: f32| if a > b { a } else { b };
    Vec3::new(pick(one.x, other.x), pick(one.y, other.y), pick(one.z, other.z))
}

/// The first time within the tick at which `volume` and `part` touch, or `None`.
///
/// *Method:* conservative advancement with a bound on the closing speed along the line between the
/// nearest points (Mirtich, "Impulse-based dynamic simulation of rigid body systems", 1996): no step can
/// jump over a touch, whatever the speed. *Accuracy:* touching means nearer than half a millimetre, or 0.05 % of the
/// larger shape's size if that is more; no touch is missed. Volumes that overlap at the start touch at 0.
pub(crate) fn sweep(volume: &Swept, part: &Swept) -> Option<Impact> {
    // Near the target the numbers are small, and so is what rounding takes from them.
    let origin = part.carrier.from.at;
    let travel = volume.carrier.travel() - part.carrier.travel();
    let whirl = volume.whirl + part.whirl;
    let thick = volume.core.radius + part.core.radius;
    let skin = volume.skin(part);
    let mut t = 0.0f32;
    loop {
        let (solid, target) = (volume.at(t, origin), part.at(t, origin));
        let (near_volume, near_part) = nearest(&solid, &target);
        let apart = near_volume - near_part;
        let distance = apart.length();
        let gap = distance - thick;
        if gap > skin {
            let closing = whirl - travel.dot(apart) / distance;
            if closing <= 0.0 {
                return None;
            }
            let next = t + gap / closing;
            if next > 1.0 {
                return None;
            }
            // A step too small to count in single precision is as near as can be told.
            if next > t {
                t = next;
                continue;
            }
        }
        let normal = outward(apart, distance, &solid, &target);
        let point = origin + near_part + normal * part.core.radius + 0.0;
        return Some(Impact { toi: t, point, normal: normal + 0.0 });
    }
}

/// Out of the target. Where the cores overlap, away from the middle of the target; failing that, up.
fn outward(apart: Vec3, distance: f32, volume: &Solid, target: &Solid) -> Vec3 {
    const NEAR: f32 = 1.0e-6;
    if let Solid::HalfSpace { normal, .. } = target {
        return *normal;
    }
    if distance > NEAR {
        return apart / distance;
    }
    let away = volume.middle() - target.middle();
    let length = away.length();
    if length > NEAR { away / length } else { Vec3::Y }
}
