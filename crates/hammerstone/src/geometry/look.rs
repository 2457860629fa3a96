//! A look at two hitboxes at one moment of a tick: whether they touch, and until when they surely do not.
//!
//! Written once, for one pair and for several side by side.

use super::near;
use super::number::{Answers, Number, Triple};
use super::shape::Solid;

/// Something without thickness at one moment, or several side by side.
pub(crate) trait Seen<N: Number>: Copy {
    /// The nearest points: on the one and on the other. Where the two overlap they are the same point, or nearly.
    fn nearest(&self, other: &Self) -> (Triple<N>, Triple<N>);
    /// The farthest that it lies along a direction.
    fn extent(&self, direction: Triple<N>) -> N;
    /// Its middle.
    fn middle(&self) -> Triple<N>;
    /// Whether it goes on without an end.
    fn is_endless(&self) -> bool;
    /// The one where the answer is yes, the other where it is no.
    fn pick(yes: N::Yes, one: &Self, other: &Self) -> Self;
}

/// A line, of no length for a sphere.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Line<N> {
    pub(crate) from: Triple<N>,
    pub(crate) to: Triple<N>,
}

impl<N: Number> Seen<N> for Line<N> {
    /// *Method:* the closed form with clamping (Ericson, "Real-Time Collision Detection", 2005, section 5.1.9), then each
    /// point once more against the other's: where the lines are all but parallel, the closed form is only near.
    #[inline(always)]
    fn nearest(&self, other: &Self) -> (Triple<N>, Triple<N>) {
        /// The square of a length below which a line counts as a point.
        const SHORT: f32 = 1.0e-12;
        /// The square of the sine of an angle below which lines count as all but parallel.
        const PARALLEL: f32 = 0.01;
        let (short, none) = (N::all(SHORT), N::all(0.0));
        let (d1, d2, r) = (self.to - self.from, other.to - other.from, self.from - other.from);
        let (a, e, f) = (d1.dot(d1), d2.dot(d2), d2.dot(r));
        let (c, b) = (d1.dot(r), d1.dot(d2));
        let crossing = a * e - b * b;
        let s = N::pick(crossing.above(none), ((b * f - c * e) / crossing).share(), none);
        let along = (b * s + f) / e;
        let long = a.above(short) & e.above(short);
        let within = along.at_least(none) & N::all(1.0).at_least(along);
        let done = long & within & crossing.above(N::all(PARALLEL) * a * e);
        if done.each() {
            return (self.from + d1 * s, other.from + d2 * along);
        }
        let again = ((b * along.share() - c) / a).share();
        let t = ((b * again + f) / e).share();
        let again = ((b * t - c) / a).share();
        let (s, t) = (N::pick(done, s, again), N::pick(done, along, t));
        // What is a point has one place only.
        let (is_point, other_is_point) = (!a.above(short), !e.above(short));
        let s = N::pick(is_point, none, N::pick(other_is_point, (-c / a).share(), s));
        let t = N::pick(other_is_point, none, N::pick(is_point, (f / e).share(), t));
        (self.from + d1 * s, other.from + d2 * t)
    }

    #[inline(always)]
    fn extent(&self, direction: Triple<N>) -> N {
        direction.dot(self.from).greater(direction.dot(self.to))
    }

    #[inline(always)]
    fn middle(&self) -> Triple<N> {
        (self.from + self.to) * N::all(0.5)
    }

    #[inline(always)]
    fn is_endless(&self) -> bool {
        false
    }

    #[inline(always)]
    fn pick(yes: N::Yes, one: &Self, other: &Self) -> Self {
        Line { from: Triple::pick(yes, one.from, other.from), to: Triple::pick(yes, one.to, other.to) }
    }
}

impl Seen<f32> for Solid {
    #[inline]
    fn nearest(&self, other: &Self) -> (Triple<f32>, Triple<f32>) {
        let (one, other) = near::nearest(self, other);
        (one.into(), other.into())
    }

    #[inline]
    fn extent(&self, direction: Triple<f32>) -> f32 {
        Solid::extent(self, direction.into())
    }

    #[inline]
    fn middle(&self) -> Triple<f32> {
        Solid::middle(self).into()
    }

    #[inline]
    fn is_endless(&self) -> bool {
        matches!(self, Solid::HalfSpace { .. })
    }

    #[inline]
    fn pick(yes: bool, one: &Self, other: &Self) -> Self {
        if yes { *one } else { *other }
    }
}

/// How one of two hitboxes moves in the tick, as far as bounds on how fast it closes in ask.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Mover<N> {
    /// Its carrier's place as the tick begins, seen from the origin.
    pub(crate) place: Triple<N>,
    /// Its carrier's way.
    pub(crate) travel: Triple<N>,
    /// The axis through its carrier's place about which it turns, of length 1.
    pub(crate) axis: Triple<N>,
    /// The most that it turns about the axis in a tick, in radians; below 0 where it does not turn about one.
    pub(crate) spin: N,
    /// No point of it moves faster about the carrier's place than this, in metres a tick.
    pub(crate) whirl: N,
    /// From its middle to its farthest point.
    pub(crate) size: N,
}

/// Two hitboxes that are brought together in the course of a tick: what stays the same all the while.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Two<N> {
    pub(crate) hitbox: Mover<N>,
    pub(crate) part: Mover<N>,
    /// How thick both are together.
    pub(crate) thick: N,
    /// How near counts as touching.
    pub(crate) skin: N,
    /// Touches that come later are not looked for.
    pub(crate) until: N,
}

/// What a look tells.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Look<N: Number> {
    /// They do not touch in this tick.
    pub(crate) apart: N::Yes,
    /// They touch now.
    pub(crate) touch: N::Yes,
    /// They do not touch before this time, where they neither touch nor are apart.
    pub(crate) next: N,
    /// The nearest point of the part, from there to the nearest of the hitbox, and how long that is.
    pub(crate) near_part: Triple<N>,
    pub(crate) away: Triple<N>,
    pub(crate) distance: N,
}

/// How fast two close in along a direction, or points of one move along it by turning, in metres a tick: no faster than `most` in the rest of
/// the tick, nor than what rises evenly from `now` to `last` at its end.
#[derive(Clone, Copy)]
struct Rate<N> {
    now: N,
    last: N,
    most: N,
}

impl<N: Number> Rate<N> {
    /// Whether they may come nearer by `room` in what is `left` of the tick. Numbers that are none say no.
    #[inline(always)]
    fn may_meet(&self, room: N, left: N) -> N::Yes {
        (self.most * left).at_least(room) & ((self.now + self.last) * N::all(0.5) * left).at_least(room)
    }

    /// The time that they need for `room` at least, where `left` is left of the tick; for two that may meet.
    #[inline(always)]
    fn in_time(&self, room: N, left: N) -> N {
        let steady = room / self.most;
        let rises = (self.last - self.now) / left;
        let two = N::all(2.0);
        let root = (self.now * self.now + two * rises * room).root();
        // The same root in two ways: neither takes near numbers from each other.
        let closes = self.now.above(N::all(0.0));
        let mut evenly = two * room / (self.now + root);
        if !closes.each() {
            evenly = N::pick(closes, evenly, (root - self.now) / rises);
        }
        evenly.greater(steady)
    }
}

impl<N: Number> Mover<N> {
    #[inline(always)]
    fn spins(&self) -> N::Yes {
        self.spin.at_least(N::all(0.0))
    }

    #[inline(always)]
    fn place_at(&self, t: N) -> Triple<N> {
        self.place + self.travel * t
    }

    /// How fast a point moves that is so far out, on the side to which it turns.
    #[inline(always)]
    fn turning(&self, farthest: N) -> N {
        let none = N::all(0.0);
        N::pick(farthest.above(none), self.spin * farthest, none)
    }

    /// How fast points of it, which is at `now` at `t`, move along `direction` by turning.
    ///
    /// A point at `r` from the place of a body that turns about `a` moves by `ω a × r`. Along a direction `d` that is
    /// `ω (d × a) · r`, which changes no faster than the point itself goes round.
    #[inline(always)]
    fn whirl_towards<S: Seen<N>>(&self, now: &S, direction: Triple<N>, t: N) -> Rate<N> {
        let whirl = self.whirl;
        let spins = self.spins();
        if !spins.any() {
            return Rate { now: whirl, last: whirl, most: whirl };
        }
        let across = direction.cross(self.axis);
        let farthest = now.extent(across) - across.dot(self.place_at(t));
        let last = self.turning(farthest + whirl * (N::all(1.0) - t));
        Rate {
            now: N::pick(spins, self.turning(farthest), whirl),
            last: N::pick(spins, last, whirl),
            most: N::pick(spins, last.lesser(whirl), whirl),
        }
    }

    #[inline(always)]
    fn pick(yes: N::Yes, one: &Self, other: &Self) -> Self {
        Mover {
            place: Triple::pick(yes, one.place, other.place),
            travel: Triple::pick(yes, one.travel, other.travel),
            axis: Triple::pick(yes, one.axis, other.axis),
            spin: N::pick(yes, one.spin, other.spin),
            whirl: N::pick(yes, one.whirl, other.whirl),
            size: N::pick(yes, one.size, other.size),
        }
    }
}

impl<N: Number> Two<N> {
    /// A look at the two at `t`, where they are at `hitbox` and at `part`.
    #[inline(always)]
    pub(crate) fn look<S: Seen<N>>(&self, t: N, hitbox: &S, part: &S) -> Look<N> {
        let (near_hitbox, near_part) = hitbox.nearest(part);
        let away = near_hitbox - near_part;
        let distance = away.length();
        let gap = distance - self.thick;
        let open = gap.above(self.skin);
        let mut look = Look { apart: open, touch: !open, next: t, near_part, away, distance };
        let towards = away / distance;
        // To half a skin before they touch: what rounding takes from the direction must not lead past the touch.
        let room = gap - self.skin * N::all(0.5);
        let left = N::all(1.0) - t;
        let travel = self.hitbox.travel - self.part.travel;
        let nearing = -travel.dot(towards);
        let closing = self.closing((hitbox, part), towards, nearing, t);
        let mut may = open & closing.may_meet(room, left);
        if !may.any() {
            return look;
        }
        let mut time = closing.in_time(room, left);
        // The plane between them may turn with the one that swings farther: that tells when the middle of a blade meets something small.
        let by_hitbox = self.hitbox.whirl.at_least(self.part.whirl);
        let seen_by = Mover::pick(by_hitbox, &self.hitbox, &self.part);
        let other = Mover::pick(by_hitbox, &self.part, &self.hitbox);
        let solid = S::pick(by_hitbox, part, hitbox);
        let towards = Triple::pick(by_hitbox, towards, -towards);
        let spins = seen_by.spins();
        // What has no end comes by at any speed.
        if spins.any() && !solid.is_endless() {
            let speed = travel.length() + other.whirl;
            let closing = closing_seen_by(&seen_by, &solid, &other, towards, (nearing, speed), t);
            may = may & (!spins | closing.may_meet(room, left));
            time = N::pick(spins, closing.in_time(room, left).greater(time), time);
        }
        let next = t + time;
        // Not within the time that is asked for; a number that is none ends it as well.
        may = may & self.until.at_least(next);
        look.apart = open & !may;
        // A step too small to count in single precision is as near as can be told.
        look.touch = !open | may & !next.above(t);
        look.next = next;
        look
    }

    /// How fast the two close in, seen from the world; they are `nearing` by their carriers' ways.
    #[inline(always)]
    fn closing<S: Seen<N>>(&self, (hitbox, part): (&S, &S), towards: Triple<N>, nearing: N, t: N) -> Rate<N> {
        let one = self.hitbox.whirl_towards(hitbox, -towards, t);
        let other = self.part.whirl_towards(part, towards, t);
        Rate {
            now: nearing + one.now + other.now,
            last: nearing + one.last + other.last,
            most: nearing + one.most + other.most,
        }
    }
}

/// How fast `other`, which is at `now` at `t`, closes in on `one`, seen by `one`, which turns; `towards` leads from `other` to `one`, and `other`
/// moves along it as fast as `nearing`, and no faster than `speed` in any direction.
///
/// The plane between them turns with `one`, and the points of `one` then stay where they are. With `y` from the place of `one` to a point of
/// `other`, turned about `a` by `ω`, that point comes by `ω (a × n) · y` along `n` beside what it moves by itself.
#[inline(always)]
fn closing_seen_by<N: Number, S: Seen<N>>(
    one: &Mover<N>,
    now: &S,
    other: &Mover<N>,
    towards: Triple<N>,
    (nearing, speed): (N, N),
    t: N,
) -> Rate<N> {
    let across = one.axis.cross(towards);
    let place = one.place_at(t);
    let own = other.whirl_towards(now, towards, t);
    let left = N::all(1.0) - t;
    let reach = (now.middle() - place).length() + other.size + speed * left;
    let farthest = now.extent(across) - across.dot(place);
    let first = nearing + one.turning(farthest) + own.now;
    // What it moves by itself turns away from the plane, and is farther out later.
    let rises = one.spin * (speed + one.spin * reach + speed) * left + own.last - own.now;
    Rate { now: first, last: first + rises, most: speed + one.spin * reach }
}
