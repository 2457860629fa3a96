//! When two moving hitboxes first touch.

use glam::Vec3;

use super::look::{Line, Look, Mover, Two};
use super::near::nearest;
use super::shape::{Core, CoreForm, Solid};
use super::{Motion, Placement, Pose};

/// Hitboxes of up to a metre that are nearer than this, in metres, touch. A report may be early by a millimetre; the rest is left
/// for rounding. For larger hitboxes it grows with their size.
const SKIN: f32 = 0.0008;
/// The share of the way that two hitboxes swing in a tick within which they touch, if that is more: a millimetre for ten metres.
const SWUNG: f32 = 1.0e-4;
/// No pair takes more looks than this; [`sweep`] says why.
pub(crate) const MOST_LOOKS: u32 = 100_000;

/// A hitbox on its way through one tick: a shape, a pose within its carrier, and the carrier's pose.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Swept {
    pub(crate) core: Core,
    pub(crate) carrier: Motion,
    /// The pose of the shape in the carrier's frame, for those that move in it.
    local: Option<Motion>,
    /// No point of the core moves faster about the carrier's place than this, in metres a tick.
    whirl: f32,
    /// Where it turns about one axis through its carrier's place: that axis, and the most that it turns in a tick, in radians.
    spin: Option<(Vec3, f32)>,
}

/// A hitbox on its way as it is seen where it lies: its core, its carrier's way and its own within that, and how it turns, as in [`Swept`].
#[derive(Clone, Copy, Debug)]
pub(crate) struct Way<'a> {
    core: &'a Core,
    carrier: &'a Motion,
    local: Option<&'a Motion>,
    whirl: f32,
    spin: Option<(Vec3, f32)>,
}

impl<'a> Way<'a> {
    /// Fixed to a carrier, of which it is known how it turns.
    #[inline]
    pub(crate) fn carried(core: &'a Core, carrier: &'a Motion, spin: Option<(Vec3, f32)>) -> Way<'a> {
        let whirl = spin.map_or(0.0, |(_, spin)| spin * core.reach);
        Way { core, carrier, local: None, whirl, spin }
    }

    /// Fixed to a carrier, where no more is asked than where it is; no point of it turns faster than `whirl`.
    #[inline]
    pub(crate) fn whirled(core: &'a Core, carrier: &'a Motion, whirl: f32) -> Way<'a> {
        Way { core, carrier, local: None, whirl, spin: None }
    }

    /// As [`whirled`](Self::whirled), for one that moves within its carrier, which turns.
    #[inline]
    pub(crate) fn within(core: &'a Core, local: &'a Motion, carrier: &'a Motion, whirl: f32) -> Way<'a> {
        Way { core, carrier, local: Some(local), whirl, spin: None }
    }

    /// The carrier's place as the tick begins.
    pub(crate) fn place(&self) -> Vec3 {
        self.carrier.from.at
    }

    /// How thick it is about its core.
    pub(crate) fn radius(&self) -> f32 {
        self.core.radius
    }

    /// The core at the start of the tick, seen from its carrier's place.
    #[inline]
    pub(crate) fn start(&self) -> Solid {
        match (&self.core.form, self.local) {
            // The most of them, without a way round.
            (CoreForm::Line { from, to }, None) => {
                let Placement { turn, .. } = self.carrier.from;
                Solid::Line { from: Vec3::ZERO + turn.rotate(*from), to: Vec3::ZERO + turn.rotate(*to) }
            }
            _ => self.at(0.0, self.place()),
        }
    }

    /// Where the core is at `t`, seen from `origin`.
    #[inline]
    fn at(&self, t: f32, origin: Vec3) -> Solid {
        let mut placement = self.carrier.at(t);
        placement.at -= origin;
        match self.local {
            None => self.core.at(placement),
            Some(local) => self.core.at(placement.with_inner(local.at(t))),
        }
    }

    /// As [`at`](Self::at); `start` is the core at the start, as seen from the carrier's place.
    #[inline]
    fn later(&self, start: &Solid, t: f32, origin: Vec3) -> Solid {
        if self.whirl > 0.0 {
            return self.at(t, origin);
        }
        start.shifted(self.place() - origin + self.carrier.travel() * t)
    }

    /// As [`at`](Self::at), if it is a line.
    #[inline]
    pub(crate) fn line_at(&self, t: f32, origin: Vec3) -> Option<Line<f32>> {
        match self.whirl > 0.0 {
            true => self.at(t, origin).line(),
            false => self.later(&self.start(), t, origin).line(),
        }
    }

    /// How it moves, as far as a look at it asks.
    #[inline]
    fn mover(&self, origin: Vec3) -> Mover<f32> {
        let (axis, spin) = self.spin.unwrap_or((Vec3::ZERO, -1.0));
        Mover {
            place: (self.place() - origin).into(),
            travel: self.carrier.travel().into(),
            axis: axis.into(),
            spin,
            whirl: self.whirl,
            size: self.core.size,
        }
    }

    /// The two, seen from the part's place, for touches no later than `until`.
    #[inline]
    pub(crate) fn beside(&self, part: &Way<'_>, until: f32) -> Two<f32> {
        let origin = part.place();
        Two {
            hitbox: self.mover(origin),
            part: part.mover(origin),
            thick: self.core.radius + part.core.radius,
            skin: self.skin(part),
            until,
        }
    }

    /// How near counts as touching.
    #[inline]
    fn skin(&self, other: &Way<'_>) -> f32 {
        let (one, another) = (self.core.size, other.core.size);
        let size = if one > another { one } else { another };
        let skin = if size > 1.0 { SKIN * size } else { SKIN };
        // What swings far in a tick comes nearer in many small steps: long arms would take millions of looks.
        let swung = (self.whirl + other.whirl) * SWUNG;
        if swung > skin { swung } else { skin }
    }
}

/// The first touch of two hitboxes within a tick.
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
        let spin = carrier.whirling();
        let whirl = spin.map_or(0.0, |(_, spin)| spin * core.reach);
        Swept { core, carrier, local: None, whirl, spin }
    }

    pub(crate) fn on_path(core: Core, local: Motion, carrier: Motion) -> Swept {
        // Within a carrier that does not turn, both ways are one: places add up, and turns follow on each other.
        if !carrier.turns {
            return Swept::fixed(core, carrier.with_inner(&local));
        }
        let travel = local.travel();
        // The local place is on a straight line, so the farther of its two ends bounds it.
        let (start, end) = (local.from.at.length(), (local.from.at + travel).length());
        let reach = (if end > start { end } else { start }) + core.reach;
        let whirl = carrier.spin() * reach + travel.length() + local.spin() * core.reach;
        Swept { core, carrier, local: Some(local), whirl, spin: None }
    }

    /// What does not move at all.
    pub(crate) fn still(core: Core) -> Swept {
        Swept::fixed(core, Motion::between(Pose::IDENTITY, Pose::IDENTITY))
    }

    /// The core at the start of the tick, seen from its carrier's place.
    pub(crate) fn start(&self) -> Solid {
        self.way().start()
    }

    /// A box along the axes that holds the whole sweep, its middle and half of its edges; `start` is its core at the start, as
    /// seen from its carrier's place.
    ///
    /// About the boxes of both ends. Between them no point strays far from both: on a way of length `s` between places
    /// `c` apart, it keeps within an ellipsoid that is √(s² − c²) thick.
    pub(crate) fn bounds_from(&self, start: &Solid) -> (Vec3, Vec3) {
        let (middle, half) = start.bounds();
        let middle = middle + self.carrier.from.at;
        if self.whirl == 0.0 {
            let half_way = self.carrier.travel() * 0.5;
            let slack = self.core.radius + SKIN * 4.0 + self.core.size * 0.002;
            return (middle + half_way, half + half_way.abs() + Vec3::splat(slack));
        }
        let start = start.shifted(self.carrier.from.at);
        let end = self.at(1.0, Vec3::ZERO);
        let (end_middle, end_half) = end.bounds();
        let (low, high) =
            (smaller(middle - half, end_middle - end_half), larger(middle + half, end_middle + end_half));
        // A little more than the skin, so that no pair is lost to rounding.
        let slack = self.core.radius + SKIN * 4.0 + self.core.size * 0.002 + self.whirl * SWUNG;
        let stray = self.stray(&start, &end);
        ((low + high) * 0.5, (high - low) * 0.5 + Vec3::splat(slack + stray))
    }

    /// How far a point of the core gets from where it is as the tick begins, at most.
    pub(crate) fn farthest(&self) -> f32 {
        self.carrier.travel().length() + self.whirl
    }

    /// Whether a ball comes near where the core is as the tick begins, which is `start`, seen from its carrier's place: near enough to touch it
    /// anywhere on its way, of which `farthest` is the bound. The ball holds something all the while; it is seen in the world.
    pub(crate) fn comes_near(&self, start: &Solid, farthest: f32, middle: Vec3, radius: f32) -> bool {
        self.within(start, middle, radius + farthest)
    }

    /// As [`comes_near`](Self::comes_near), for a ball that moves by `travel`.
    pub(crate) fn may_reach(&self, start: &Solid, middle: Vec3, radius: f32, travel: Vec3) -> bool {
        self.within(start, middle, radius + (self.carrier.travel() - travel).length() + self.whirl)
    }

    /// Whether the core, where it is as the tick begins, is as near to a point as this beyond its own radius.
    fn within(&self, start: &Solid, point: Vec3, distance: f32) -> bool {
        let seen = point - self.carrier.from.at;
        let (apart, about) = match start {
            Solid::Line { from, to } => {
                let (along, out) = (*to - *from, seen - *from);
                let square = along.dot(along);
                let share = if square > 0.0 { (out.dot(along) / square).clamp(0.0, 1.0) } else { 0.0 };
                (out - along * share, 0.0)
            }
            other => (seen - other.middle(), self.core.size),
        };
        // A little more than the skin, so that no pair is lost to rounding.
        let near = (distance + self.core.radius + about) * 1.002 + self.core.size * 0.002 + SKIN * 4.0;
        let square = apart.dot(apart);
        square <= near * near || square.is_nan()
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

    /// As it is seen where it lies.
    #[inline]
    pub(crate) fn way(&self) -> Way<'_> {
        let Swept { core, carrier, local, whirl, spin } = self;
        Way { core, carrier, local: local.as_ref(), whirl: *whirl, spin: *spin }
    }

    /// Where the core is at `t`, seen from `origin`.
    pub(crate) fn at(&self, t: f32, origin: Vec3) -> Solid {
        self.way().at(t, origin)
    }

    /// The same at rest where it is at `t`.
    pub(crate) fn at_rest(&self, t: f32) -> Swept {
        let place = match &self.local {
            None => return Swept::fixed(self.core, self.carrier.at_rest(t)),
            Some(local) => self.carrier.at(t).with_inner(local.at(t)),
        };
        Swept::fixed(self.core, Motion::resting(place))
    }

    /// The first part of its way, until `t`.
    pub(crate) fn until(&self, t: f32) -> Swept {
        match &self.local {
            _ if t >= 1.0 => *self,
            None => Swept::fixed(self.core, self.carrier.until(t)),
            Some(local) => Swept::on_path(self.core, local.until(t), self.carrier.until(t)),
        }
    }

    /// How fast what of it is at `point` at `t` moves, in metres a tick: its carrier's way, and what it turns and goes about that, over a
    /// thirty-second of the tick. Before and after the tick it is taken to go on.
    pub(crate) fn velocity(&self, point: Vec3, t: f32) -> Vec3 {
        const STEP: f32 = 1.0 / 64.0;
        let carrier = self.carrier.at(t);
        let (before, after) = (self.carrier.at(t - STEP).turn, self.carrier.at(t + STEP).turn);
        let inner = carrier.turn.back(point - carrier.at);
        let about = match &self.local {
            None if !self.carrier.turns => return self.carrier.travel(),
            None => after.rotate(inner) - before.rotate(inner),
            Some(local) => {
                let inner = local.at(t).unapply(inner);
                after.rotate(local.at(t + STEP).apply(inner)) - before.rotate(local.at(t - STEP).apply(inner))
            }
        };
        self.carrier.travel() + about / (2.0 * STEP)
    }

    /// Whether any of it moves in the tick.
    pub(crate) fn moves(&self) -> bool {
        let travels = |motion: &Motion| motion.turns || motion.travel() != Vec3::ZERO;
        travels(&self.carrier) || self.local.as_ref().is_some_and(travels)
    }

    /// How deep it is in another at `t`, in metres, as far as the surfaces tell; 0 where they are apart.
    pub(crate) fn depth_in(&self, other: &Swept, t: f32) -> f32 {
        let origin = other.carrier.from.at;
        let (one, another) = nearest(&self.at(t, origin), &other.at(t, origin));
        let deep = self.core.radius + other.core.radius - (one - another).length();
        if deep > 0.0 { deep } else { 0.0 }
    }

    /// No two points of the two come nearer faster than this, in metres a tick.
    pub(crate) fn closing_bound(&self, other: &Swept) -> f32 {
        (self.carrier.travel() - other.carrier.travel()).length() + self.whirl + other.whirl
    }
}

pub(crate) fn smaller(one: Vec3, other: Vec3) -> Vec3 {
    let pick = |a: f32, b: f32| if a < b { a } else { b };
    Vec3::new(pick(one.x, other.x), pick(one.y, other.y), pick(one.z, other.z))
}

pub(crate) fn larger(one: Vec3, other: Vec3) -> Vec3 {
    let pick = |a: f32, b: f32| if a > b { a } else { b };
    Vec3::new(pick(one.x, other.x), pick(one.y, other.y), pick(one.z, other.z))
}

/// The first time within the tick at which `hitbox` and `part` touch, or `None`.
///
/// *Method:* conservative advancement with a bound on the closing speed along the line between the
/// nearest points (Mirtich, "Impulse-based dynamic simulation of rigid body systems", 1996): no step can
/// jump over a touch, whatever the speed. The bound may rise evenly from what it is now, and the plane between the two may turn with either of them; the
/// longest step that any of these allows is taken. *Accuracy:* touching means nearer than 0.8 millimetres, or 0.08 % of the
/// larger shape's size, or 0.01 % of how far the two swing in the tick, whichever is most; no touch is missed. Hitboxes that overlap at
/// the start touch at 0. *Looks:* each step is at least half of that distance at the speed of closing, so that there are no more than some
/// 20 000; one or two mostly, and three or four for a touch in the middle of a tick. Beyond a limit that no sound pair comes near, the answer is that they
/// do not touch.
pub(crate) fn sweep(hitbox: &Swept, part: &Swept) -> Option<Impact> {
    sweep_from(hitbox, part, hitbox.start(), part.start())
}

/// As [`sweep`], for those whose cores at the start are known, each as seen from its own carrier's place.
///
/// Everything is seen from the part's place: near the target the numbers are small, and so is what rounding takes from them.
pub(crate) fn sweep_from(hitbox: &Swept, part: &Swept, start: Solid, target: Solid) -> Option<Impact> {
    sweep_counted(&hitbox.way(), &part.way(), start, target, 1.0).0
}

/// As [`sweep_from`], for touches no later than `until`.
pub(crate) fn sweep_until(
    hitbox: &Swept,
    part: &Swept,
    start: Solid,
    target: Solid,
    until: f32,
) -> Option<Impact> {
    sweep_counted(&hitbox.way(), &part.way(), start, target, until).0
}

/// As [`sweep_from`], for ways that lie where they do.
pub(crate) fn sweep_ways(hitbox: &Way<'_>, part: &Way<'_>, start: Solid, target: Solid) -> Option<Impact> {
    sweep_counted(hitbox, part, start, target, 1.0).0
}

/// As [`sweep_from`], with the number of looks that it took.
#[inline]
fn sweep_counted(
    hitbox: &Way<'_>,
    part: &Way<'_>,
    start: Solid,
    target: Solid,
    until: f32,
) -> (Option<Impact>, u32) {
    let origin = part.place();
    let two = hitbox.beside(part, until);
    let (mut looks, mut t) = (1, 0.0);
    let (mut here, mut there) = (start.shifted(hitbox.place() - origin), target);
    loop {
        let look = two.look(t, &here, &there);
        if look.touch {
            return (Some(impact(t, (&here, &there), part, &look)), looks);
        }
        if look.apart || looks >= MOST_LOOKS {
            return (None, looks);
        }
        (looks, t) = (looks + 1, look.next);
        (here, there) = (hitbox.later(&start, t, origin), part.later(&target, t, origin));
    }
}

/// Where two touch at `t`, which are seen from the part's place, as a look tells.
#[inline]
pub(crate) fn impact(t: f32, (hitbox, target): (&Solid, &Solid), part: &Way<'_>, look: &Look<f32>) -> Impact {
    let normal = outward(look.away.into(), look.distance, hitbox, target);
    let point = part.place() + Vec3::from(look.near_part) + normal * part.radius() + 0.0;
    Impact { toi: t, point, normal: normal + 0.0 }
}

/// Out of the target. Where the cores overlap, away from the middle of the target; failing that, up.
fn outward(apart: Vec3, distance: f32, hitbox: &Solid, target: &Solid) -> Vec3 {
    const NEAR: f32 = 1.0e-6;
    if let Solid::HalfSpace { normal, .. } = target {
        return *normal;
    }
    if distance > NEAR {
        return apart / distance;
    }
    if let Some(side) = target.side_towards(hitbox.middle()) {
        return side;
    }
    let away = hitbox.middle() - target.middle();
    let length = away.length();
    if length > NEAR { away / length } else { Vec3::Y }
}

#[cfg(test)]
#[path = "sweep_tests.rs"]
mod tests;
