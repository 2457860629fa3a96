//! Where something is and which way it is turned, and how it gets from one such pose to the next.

use std::hash::{Hash, Hasher};

use glam::Vec3;

/// One of the three axes of space.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Axis {
    /// +X.
    X,
    /// +Y.
    Y,
    /// +Z.
    Z,
}

impl Axis {
    /// The axis as a unit vector.
    pub const fn vector(self) -> [f32; 3] {
        match self {
            Axis::X => [1.0, 0.0, 0.0],
            Axis::Y => [0.0, 1.0, 0.0],
            Axis::Z => [0.0, 0.0, 1.0],
        }
    }
}

/// A place and a turn in the frame of the world, or of a carrier.
///
/// *Units:* `at` in metres; `turn` is a unit quaternion `[x, y, z, w]`.
/// Two poses are equal when they are the same bits.
#[derive(Clone, Copy, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Pose {
    /// The place, in metres.
    pub at: [f32; 3],
    /// The turn, a quaternion `[x, y, z, w]`; brought to length 1 when an order carries it in.
    pub turn: [f32; 4],
}

impl Pose {
    /// The origin, not turned.
    pub const IDENTITY: Pose = Pose::at([0.0; 3]);

    /// At `place`, not turned.
    pub const fn at(place: [f32; 3]) -> Pose {
        Pose { at: place, turn: [0.0, 0.0, 0.0, 1.0] }
    }

    /// The same place, turned by `degrees` about `axis` (counter-clockwise seen from the axis's tip).
    ///
    /// Computed through `libm`, so that the bits are the same everywhere. An axis of no length gives no turn.
    pub fn turned(self, axis: [f32; 3], degrees: f32) -> Pose {
        let axis = Vec3::from_array(axis);
        let length = axis.length();
        if length == 0.0 {
            return self;
        }
        let half = degrees * (std::f32::consts::PI / 360.0);
        let (sine, cosine) = (libm::sinf(half), libm::cosf(half));
        let v = axis * (sine / length);
        Pose { turn: [v.x, v.y, v.z, cosine], ..self }
    }

    /// The same place, turned by `degrees` about the up axis `up`.
    pub fn facing(self, up: Axis, degrees: f32) -> Pose {
        self.turned(up.vector(), degrees)
    }

    /// The same place, turned further by `degrees` about an axis of its own frame.
    pub fn then_turned(self, axis: [f32; 3], degrees: f32) -> Pose {
        let (outer, inner) = (Placement::from(self), Placement::from(self.turned(axis, degrees)));
        Pose::from(Placement { at: outer.at, turn: outer.turn.times(inner.turn) })
    }

    /// The same place, turned further the shortest way that brings its own +Z to `direction`; as it is for a direction of no length.
    pub(crate) fn led_by(self, direction: Vec3) -> Pose {
        let placement = Placement::from(self);
        let ahead = placement.turn.rotate(Vec3::Z);
        let long = direction.length();
        // Written so that what is not a number turns nothing, either.
        if !(long > 0.0 && long.is_finite()) {
            return self;
        }
        let to = direction / long;
        let (v, w) = (ahead.cross(to), 1.0 + ahead.dot(to));
        let length = (v.dot(v) + w * w).sqrt();
        // The other way round it turns about its own +Y.
        let arc = match length > 1.0e-3 {
            true => Turn { v: v / length, w: w / length },
            false => Turn { v: placement.turn.rotate(Vec3::Y), w: 0.0 },
        };
        let turned = Pose::from(Placement { turn: arc.times(placement.turn), ..placement });
        turned.settled().unwrap_or(self)
    }

    /// The pose with its turn at length 1 and no negative zeros, or `None` if a number is not finite, the place is farther than
    /// [`super::FARTHEST`], or the turn has no length.
    pub fn settled(self) -> Option<Pose> {
        let turn = self.turn.map(|x| x + 0.0);
        let square = turn.iter().fold(0.0, |sum, x| sum + x * x);
        let finite = super::in_bounds(&self.at) && square.is_finite();
        if !finite || square < 1.0e-12 {
            return None;
        }
        let length = square.sqrt();
        // A turn that is already as long as rounding lets it be is kept as it is, so that settling twice changes nothing.
        let turn = if (square - 1.0).abs() <= 4.0 * f32::EPSILON { turn } else { turn.map(|x| x / length) };
        Some(Pose { at: self.at.map(|x| x + 0.0), turn })
    }

    /// Which way the pose's own `axis` points, as a unit vector in the outer frame.
    pub fn direction(self, axis: [f32; 3]) -> [f32; 3] {
        Placement::from(self).turn.rotate(Vec3::from_array(axis)).to_array()
    }
}

/// The frame in which a pose is given.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Frame {
    /// That of the body that it belongs to: a combatant.
    Body,
    /// That of the world.
    World,
}

impl PartialEq for Pose {
    fn eq(&self, other: &Pose) -> bool {
        self.at.map(f32::to_bits) == other.at.map(f32::to_bits)
            && self.turn.map(f32::to_bits) == other.turn.map(f32::to_bits)
    }
}

impl Eq for Pose {}

impl Hash for Pose {
    fn hash<H: Hasher>(&self, state: &mut H) {
        for x in self.at.iter().chain(&self.turn) {
            x.to_bits().hash(state);
        }
    }
}

/// Three numbers of the state, compared and hashed by their bits.
#[derive(Clone, Copy, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Bits(pub(crate) [f32; 3]);

impl PartialEq for Bits {
    fn eq(&self, other: &Bits) -> bool {
        self.0.map(f32::to_bits) == other.0.map(f32::to_bits)
    }
}

impl Eq for Bits {}

impl Hash for Bits {
    fn hash<H: Hasher>(&self, state: &mut H) {
        self.0.map(f32::to_bits).hash(state);
    }
}

/// A turn as a quaternion. Our own, since the bits of a tick may not depend on how a vector crate was built.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Turn {
    v: Vec3,
    w: f32,
}

impl Turn {
    /// Not turned.
    const NONE: Turn = Turn { v: Vec3::ZERO, w: 1.0 };

    pub(crate) fn rotate(self, point: Vec3) -> Vec3 {
        let cross = self.v.cross(point);
        point + (cross * self.w + self.v.cross(cross)) * 2.0
    }

    /// Undoes [`rotate`](Self::rotate).
    pub(crate) fn back(self, point: Vec3) -> Vec3 {
        Turn { v: -self.v, w: self.w }.rotate(point)
    }

    /// First `inner`, then `self`.
    pub(crate) fn times(self, inner: Turn) -> Turn {
        Turn {
            v: inner.v * self.w + self.v * inner.w + self.v.cross(inner.v),
            w: self.w * inner.w - self.v.dot(inner.v),
        }
    }

    fn dot(self, other: Turn) -> f32 {
        self.v.dot(other.v) + self.w * other.w
    }

    /// The turn as far from `self` to `to` as `t` says, along the shorter way, brought back to length 1.
    fn towards(self, to: Turn, t: f32) -> Turn {
        let v = self.v + (to.v - self.v) * t;
        let w = self.w + (to.w - self.w) * t;
        let length = (v.dot(v) + w * w).sqrt();
        Turn { v: v / length, w: w / length }
    }

    /// The one of the two quaternions of this turn that lies on the side of `other`.
    fn on_side_of(self, other: Turn) -> Turn {
        if self.dot(other) < 0.0 { Turn { v: -self.v, w: -self.w } } else { self }
    }
}

/// A pose ready for arithmetic.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Placement {
    pub(crate) at: Vec3,
    pub(crate) turn: Turn,
}

impl From<Pose> for Placement {
    fn from(pose: Pose) -> Placement {
        let [x, y, z, w] = pose.turn;
        Placement { at: Vec3::from_array(pose.at), turn: Turn { v: Vec3::new(x, y, z), w } }
    }
}

impl From<Placement> for Pose {
    fn from(placement: Placement) -> Pose {
        let Turn { v, w } = placement.turn;
        Pose { at: placement.at.to_array(), turn: [v.x, v.y, v.z, w] }
    }
}

impl Placement {
    pub(crate) fn apply(self, point: Vec3) -> Vec3 {
        self.at + self.turn.rotate(point)
    }

    /// Undoes [`apply`](Self::apply).
    pub(crate) fn unapply(self, point: Vec3) -> Vec3 {
        self.turn.back(point - self.at)
    }

    /// Something placed by `inner` within this frame, seen from outside.
    pub(crate) fn with_inner(self, inner: Placement) -> Placement {
        Placement { at: self.apply(inner.at), turn: self.turn.times(inner.turn) }
    }

    /// Something that is at `outer` outside, seen from within this frame.
    pub(crate) fn within(self, outer: Placement) -> Placement {
        let back = Turn { v: -self.turn.v, w: self.turn.w };
        Placement { at: back.rotate(outer.at - self.at), turn: back.times(outer.turn) }
    }
}

/// How a pose changes over one tick: straight from place to place, and along the shorter arc
/// from turn to turn, with the quaternions mixed evenly and brought back to length 1.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Motion {
    pub(crate) from: Placement,
    to: Placement,
    pub(crate) turns: bool,
    /// Where it turns by half a turn or more: how many equal arcs the way has; `to` is then turned by the first of them. Else 1.
    arcs: u16,
}

impl Motion {
    pub(crate) fn between(from: Pose, to: Pose) -> Motion {
        let (from, to) = (Placement::from(from), Placement::from(to));
        let to = Placement { turn: to.turn.on_side_of(from.turn), ..to };
        Motion { from, to, turns: from.turn != to.turn, arcs: 1 }
    }

    /// As [`between`](Self::between), with a turn of `degrees` about `axis` on the way, however many: evenly, in arcs of at most a
    /// quarter turn.
    pub(crate) fn turning(from: Pose, to: Pose, axis: [f32; 3], degrees: f32) -> Motion {
        let arcs = (degrees.abs() / 90.0) as u16 + 1;
        let arc = Placement::from(Pose::IDENTITY.turned(axis, degrees / f32::from(arcs))).turn;
        let from = Placement::from(from);
        let to = Placement { at: Vec3::from_array(to.at), turn: from.turn.times(arc) };
        Motion { from, to, turns: true, arcs }
    }

    /// The pose at `t` of the tick, 0 to 1.
    pub(crate) fn at(&self, t: f32) -> Placement {
        if t == 0.0 {
            return self.from;
        }
        if self.arcs > 1 {
            let back = Turn { v: -self.from.turn.v, w: self.from.turn.w };
            let arc = back.times(self.to.turn);
            let along = t * f32::from(self.arcs);
            let whole = if along < f32::from(self.arcs) { along as u16 } else { self.arcs - 1 };
            let turn = (0..whole).fold(self.from.turn, |turn, _| turn.times(arc));
            let turn = turn.times(Turn::NONE.towards(arc, along - f32::from(whole)));
            return Placement { at: self.from.at + (self.to.at - self.from.at) * t, turn };
        }
        let turn = if self.turns { self.from.turn.towards(self.to.turn, t) } else { self.from.turn };
        Placement { at: self.from.at + (self.to.at - self.from.at) * t, turn }
    }

    /// Where it is when the tick is over; of one that turns by several arcs, turned by the first.
    pub(crate) fn end(&self) -> Placement {
        self.to
    }

    /// The axis about which it turns, of length 1, and the most that it turns in a tick, in radians; none if it does not turn.
    pub(crate) fn whirling(&self) -> Option<(Vec3, f32)> {
        self.turns.then(|| (self.axis(), self.spin()))
    }

    /// The axis about which it turns, all the while, of length 1.
    fn axis(&self) -> Vec3 {
        let back = Turn { v: -self.from.turn.v, w: self.from.turn.w };
        let whole = self.to.turn.times(back).v;
        let length = whole.length();
        if length > 0.0 { whole / length } else { Vec3::ZERO }
    }

    /// The motion of something that moves by `inner` within this frame, which does not turn.
    pub(crate) fn with_inner(&self, inner: &Motion) -> Motion {
        let (from, to) = (self.from.with_inner(inner.from), self.to.with_inner(inner.to));
        Motion { from, to, turns: inner.turns, arcs: inner.arcs }
    }

    /// Whether it turns about the up axis alone, if at all, so that up stays up.
    pub(crate) fn is_upright(&self, up: usize) -> bool {
        let upright = |turn: &Turn| (0..3).all(|axis| axis == up || turn.v[axis] == 0.0);
        upright(&self.from.turn) && (!self.turns || upright(&self.to.turn)) && self.arcs == 1
    }

    /// The same way, so many times as far from the origin of its frame.
    pub(crate) fn scaled(&self, size: f32) -> Motion {
        let far = |placement: Placement| Placement { at: placement.at * size, ..placement };
        Motion { from: far(self.from), to: far(self.to), ..*self }
    }

    /// The first part of the way, until `t`.
    pub(crate) fn until(&self, t: f32) -> Motion {
        Motion { to: self.at(t), arcs: 1, ..*self }
    }

    /// At rest where it is at `t`.
    pub(crate) fn at_rest(&self, t: f32) -> Motion {
        Motion::resting(self.at(t))
    }

    /// At rest at a place.
    pub(crate) fn resting(place: Placement) -> Motion {
        Motion { from: place, to: place, turns: false, arcs: 1 }
    }

    /// How far the place moves in the tick.
    pub(crate) fn travel(&self) -> Vec3 {
        self.to.at - self.from.at
    }

    /// No point at distance 1 from the place ever turns faster than this, in metres a tick.
    ///
    /// With θ the angle between the two quaternions, an even mix turns fastest half way, at
    /// 4·tan(θ/2) radians a tick; the chord between them is 2·sin(θ/2).
    pub(crate) fn spin(&self) -> f32 {
        if !self.turns {
            return 0.0;
        }
        let (dv, dw) = (self.to.turn.v - self.from.turn.v, self.to.turn.w - self.from.turn.w);
        let sine = (dv.dot(dv) + dw * dw).sqrt() * 0.5;
        4.0 * sine / (1.0 - sine * sine).sqrt() * f32::from(self.arcs)
    }
}

/// The pose at `part` of `whole` of the way between two poses; for moves over several ticks and authored paths.
pub(crate) fn between(from: Pose, to: Pose, part: u32, whole: u32) -> Pose {
    if part >= whole {
        return to;
    }
    Pose::from(Motion::between(from, to).at(part as f32 / whole as f32))
}
