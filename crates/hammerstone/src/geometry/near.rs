//! The nearest points of two solids at one moment.

use glam::{DVec3, Vec3};

use super::look::{Line, Seen};
use super::pose::Turn;
use super::shape::Solid;
use super::triangle::line_and_triangle;

/// The nearest points: on the one and on the other. Where the two overlap they are the same point, or nearly.
pub(crate) fn nearest(one: &Solid, other: &Solid) -> (Vec3, Vec3) {
    match (*one, *other) {
        (Solid::Line { from, to }, Solid::Line { from: from2, to: to2 }) => lines((from, to), (from2, to2)),
        (Solid::Line { from, to }, Solid::Block { middle, turn, half }) if from == to => {
            (from, in_block(from, middle, turn, half))
        }
        (Solid::Block { middle, turn, half }, Solid::Line { from, to }) if from == to => {
            (in_block(from, middle, turn, half), from)
        }
        (_, Solid::HalfSpace { at, normal }) => {
            let low = support(one, -normal.as_dvec3()).as_vec3();
            let above = (low - at).dot(normal);
            // Below the plane the two overlap; the deepest point is then shared.
            (low, if above > 0.0 { low - normal * above } else { low })
        }
        (Solid::HalfSpace { .. }, _) => {
            let (b, a) = nearest(other, one);
            (a, b)
        }
        (Solid::Line { from, to }, Solid::Triangle { corners }) => line_and_triangle((from, to), &corners),
        (Solid::Triangle { corners }, Solid::Line { from, to }) => {
            let (b, a) = line_and_triangle((from, to), &corners);
            (a, b)
        }
        _ => by_support(one, other),
    }
}

/// The point of a box that is nearest to `point`: in its frame, held to its edges.
fn in_block(point: Vec3, middle: Vec3, turn: Turn, half: Vec3) -> Vec3 {
    let local = turn.back(point - middle);
    let held = Vec3::new(hold(local.x, half.x), hold(local.y, half.y), hold(local.z, half.z));
    middle + turn.rotate(held)
}

fn hold(x: f32, most: f32) -> f32 {
    if x > most {
        most
    } else if x < -most {
        -most
    } else {
        x
    }
}

/// The nearest points of two lines, each possibly of no length.
pub(crate) fn lines((from, to): (Vec3, Vec3), (from2, to2): (Vec3, Vec3)) -> (Vec3, Vec3) {
    let line = |from: Vec3, to: Vec3| Line { from: from.into(), to: to.into() };
    let (one, other) = line(from, to).nearest(&line(from2, to2));
    (one.into(), other.into())
}

/// The point of a solid that lies farthest along `direction`.
fn support(solid: &Solid, direction: DVec3) -> DVec3 {
    match solid {
        Solid::Line { from, to } => {
            let (from, to) = (from.as_dvec3(), to.as_dvec3());
            if direction.dot(to - from) > 0.0 { to } else { from }
        }
        Solid::Block { middle, turn, half } => {
            let mut point = middle.as_dvec3();
            for (axis, edge) in [(Vec3::X, half.x), (Vec3::Y, half.y), (Vec3::Z, half.z)] {
                let axis = turn.rotate(axis * edge).as_dvec3();
                if direction.dot(axis) > 0.0 {
                    point += axis;
                } else {
                    point -= axis;
                }
            }
            point
        }
        Solid::HalfSpace { at, .. } => at.as_dvec3(),
        Solid::Triangle { corners } => {
            let [a, b, c] = corners.map(|corner| corner.as_dvec3());
            let farther = |one: DVec3, other: DVec3| {
                if direction.dot(other - one) > 0.0 { other } else { one }
            };
            farther(farther(a, b), c)
        }
    }
}

/// A corner of the simplex: a point of the difference of the two solids, and the points that it comes from.
#[derive(Clone, Copy)]
struct Corner {
    apart: DVec3,
    one: DVec3,
    other: DVec3,
}

/// The nearest points of any two solids, by their farthest points along directions.
///
/// *Method:* Gilbert, Johnson and Keerthi, "A fast procedure for computing the distance between complex objects in
/// three-dimensional space", 1988; the nearest point of a simplex by cases, as in Ericson, section 5.1.
/// In double precision, which leaves no doubt for shapes in single precision.
fn by_support(one: &Solid, other: &Solid) -> (Vec3, Vec3) {
    const CLOSE: f64 = 1.0e-10;
    const MOST_STEPS: u32 = 256;
    let corner = |direction: DVec3| {
        let (on_one, on_other) = (support(one, direction), support(other, -direction));
        Corner { apart: on_one - on_other, one: on_one, other: on_other }
    };
    let mut simplex = Simplex { corners: [corner(DVec3::X); 4], count: 1 };
    let mut weights = [1.0, 0.0, 0.0, 0.0];
    let mut nearest = simplex.corners[0].apart;
    // Each step brings the simplex nearer by more than rounding, or ends the search; a few are enough. The limit is a last defence:
    // the points are some of the two solids all the same, and no nearer than the nearest.
    for _ in 0..MOST_STEPS {
        let distance = nearest.length_squared();
        if distance <= CLOSE * CLOSE {
            break;
        }
        let new = corner(-nearest);
        if distance - nearest.dot(new.apart) <= CLOSE * distance || simplex.has(new.apart) {
            break;
        }
        let before = (simplex, weights);
        simplex.corners[simplex.count] = new;
        simplex.count += 1;
        let found = simplex.reduce();
        if let Some(found) = found {
            weights = found;
            // The origin is within: the two overlap, and share a point.
            if simplex.count == 4 {
                break;
            }
            nearest = simplex.mix(&weights, |corner| corner.apart);
        }
        if found.is_none() || nearest.length_squared() >= distance {
            // Rounding, and no longer progress: the last answer was the best.
            (simplex, weights) = before;
            break;
        }
    }
    let point = |of: fn(&Corner) -> DVec3| simplex.mix(&weights, of).as_vec3();
    (point(|corner| corner.one), point(|corner| corner.other))
}

#[derive(Clone, Copy)]
struct Simplex {
    corners: [Corner; 4],
    count: usize,
}

impl Simplex {
    fn has(&self, apart: DVec3) -> bool {
        self.corners[..self.count].iter().any(|corner| corner.apart == apart)
    }

    fn mix(&self, weights: &[f64; 4], of: impl Fn(&Corner) -> DVec3) -> DVec3 {
        let weighted = self.corners[..self.count].iter().zip(weights);
        weighted.fold(DVec3::ZERO, |sum, (corner, &weight)| sum + of(corner) * weight)
    }

    /// Keeps the corners of the side on which the point nearest to the origin lies, and gives its weights; all four if the origin is
    /// within. None if the corners are too flat to tell.
    fn reduce(&mut self) -> Option<[f64; 4]> {
        let mut best = (f64::INFINITY, [0.0; 4]);
        let at = |i: usize| self.corners[i].apart;
        // A point of a side is nearest to the origin within its corners alone; whichever side comes nearest is it.
        if self.count == 4
            && let Some(inside) = inside(at(0), at(1), at(2), at(3))
        {
            best = (0.0, inside);
        } else {
            for &(mask, side) in SIDES.iter().filter(|(mask, _)| mask >> self.count == 0) {
                // The newest corner is on every side that can be nearer than before.
                if mask >> (self.count - 1) & 1 == 0 {
                    continue;
                }
                let weights: Option<[(usize, f64); 3]> = match *side {
                    [a] => Some([(a, 1.0), (0, 0.0), (0, 0.0)]),
                    [a, b] => on_line(at(a), at(b)).map(|[u, v]| [(a, u), (b, v), (0, 0.0)]),
                    [a, b, c] => on_triangle(at(a), at(b), at(c)).map(|[u, v, w]| [(a, u), (b, v), (c, w)]),
                    _ => None,
                };
                let Some(weights) = weights else { continue };
                let mut all = [0.0; 4];
                weights.iter().for_each(|&(i, weight)| all[i] += weight);
                let distance = self.mix(&all, |corner| corner.apart).length_squared();
                if distance < best.0 {
                    best = (distance, all);
                }
            }
        }
        if best.0 == f64::INFINITY {
            return None;
        }
        let mut kept = [0.0; 4];
        let mut count = 0;
        for i in 0..self.count {
            if best.1[i] > 0.0 {
                self.corners[count] = self.corners[i];
                kept[count] = best.1[i];
                count += 1;
            }
        }
        self.count = count;
        Some(kept)
    }
}

/// The sides of a simplex: which corners, as bits and as a list.
const SIDES: [(usize, &[usize]); 14] = [
    (0b0001, &[0]),
    (0b0010, &[1]),
    (0b0100, &[2]),
    (0b1000, &[3]),
    (0b0011, &[0, 1]),
    (0b0101, &[0, 2]),
    (0b1001, &[0, 3]),
    (0b0110, &[1, 2]),
    (0b1010, &[1, 3]),
    (0b1100, &[2, 3]),
    (0b0111, &[0, 1, 2]),
    (0b1011, &[0, 1, 3]),
    (0b1101, &[0, 2, 3]),
    (0b1110, &[1, 2, 3]),
];

/// Weights of the point of the whole line through two points that is nearest to the origin, if it lies between them.
fn on_line(a: DVec3, b: DVec3) -> Option<[f64; 2]> {
    let ab = b - a;
    let t = -a.dot(ab) / ab.length_squared();
    (t > 0.0 && t < 1.0).then_some([1.0 - t, t])
}

/// The same for the plane through three points, if it lies within the triangle.
fn on_triangle(a: DVec3, b: DVec3, c: DVec3) -> Option<[f64; 3]> {
    let normal = (b - a).cross(c - a);
    let square = normal.length_squared();
    let u = b.cross(c).dot(normal) / square;
    let v = c.cross(a).dot(normal) / square;
    let w = 1.0 - u - v;
    (u > 0.0 && v > 0.0 && w > 0.0).then_some([u, v, w])
}

/// Weights of the origin within a tetrahedron, if it lies within.
fn inside(a: DVec3, b: DVec3, c: DVec3, d: DVec3) -> Option<[f64; 4]> {
    let hitbox = (b - a).cross(c - a).dot(d - a);
    let part = |b: DVec3, c: DVec3, d: DVec3| b.cross(c).dot(d) / hitbox;
    let weights = [part(b, c, d), part(a, d, c), part(a, b, d), part(a, c, b)];
    weights.iter().all(|&weight| weight > 0.0).then_some(weights)
}
