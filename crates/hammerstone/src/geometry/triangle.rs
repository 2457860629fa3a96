//! Triangles: nearest points, and where a ray meets one.
//!
//! *Source:* Ericson, "Real-Time Collision Detection", 2005, section 5.1.5; Möller and Trumbore, "Fast, minimum storage ray/triangle
//! intersection", 1997.

use glam::Vec3;

use super::near::lines;

/// Three corners.
pub(crate) type Corners = [Vec3; 3];

/// Across a triangle: not of length 1, and of none where the corners lie on a line.
pub(crate) fn across([a, b, c]: &Corners) -> Vec3 {
    (*b - *a).cross(*c - *a)
}

/// The point of a triangle that is nearest to `point`.
fn nearest_to(point: Vec3, [a, b, c]: &Corners) -> Vec3 {
    let (ab, ac, ap) = (*b - *a, *c - *a, point - *a);
    let (d1, d2) = (ab.dot(ap), ac.dot(ap));
    if d1 <= 0.0 && d2 <= 0.0 {
        return *a;
    }
    let bp = point - *b;
    let (d3, d4) = (ab.dot(bp), ac.dot(bp));
    if d3 >= 0.0 && d4 <= d3 {
        return *b;
    }
    let vc = d1 * d4 - d3 * d2;
    if vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0 {
        return *a + ab * (d1 / (d1 - d3));
    }
    let cp = point - *c;
    let (d5, d6) = (ab.dot(cp), ac.dot(cp));
    if d6 >= 0.0 && d5 <= d6 {
        return *c;
    }
    let vb = d5 * d2 - d1 * d6;
    if vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0 {
        return *a + ac * (d2 / (d2 - d6));
    }
    let va = d3 * d6 - d5 * d4;
    if va <= 0.0 && d4 - d3 >= 0.0 && d5 - d6 >= 0.0 {
        return *b + (*c - *b) * ((d4 - d3) / ((d4 - d3) + (d5 - d6)));
    }
    let whole = va + vb + vc;
    *a + ab * (vb / whole) + ac * (vc / whole)
}

/// The nearest points of a line, possibly of no length, and a triangle.
pub(crate) fn line_and_triangle((from, to): (Vec3, Vec3), corners: &Corners) -> (Vec3, Vec3) {
    let mut best = (from, nearest_to(from, corners));
    if from == to {
        return best;
    }
    let way = to - from;
    if let Some(t) = crossing(from, way, corners).filter(|&t| t <= 1.0) {
        let point = from + way * t;
        return (point, point);
    }
    let mut least = (best.0 - best.1).length_squared();
    let mut hold = |pair: (Vec3, Vec3)| {
        let square = (pair.0 - pair.1).length_squared();
        if square < least {
            (best, least) = (pair, square);
        }
    };
    hold((to, nearest_to(to, corners)));
    let [a, b, c] = *corners;
    for edge in [(a, b), (b, c), (c, a)] {
        hold(lines((from, to), edge));
    }
    best
}

/// Where a ray meets a triangle, from either side, in lengths of `way`.
pub(crate) fn crossing(from: Vec3, way: Vec3, [a, b, c]: &Corners) -> Option<f32> {
    const EDGE: f32 = 1.0e-6;
    let (ab, ac) = (*b - *a, *c - *a);
    let across = way.cross(ac);
    let volume = ab.dot(across);
    // Along its plane the ray meets no side of it.
    if volume == 0.0 {
        return None;
    }
    let away = from - *a;
    let u = away.dot(across) / volume;
    let side = away.cross(ab);
    let v = way.dot(side) / volume;
    let t = ac.dot(side) / volume;
    // A little over its edges, so that no line slips between two that share one.
    (u >= -EDGE && v >= -EDGE && u + v <= 1.0 + EDGE && t >= 0.0).then_some(t)
}
