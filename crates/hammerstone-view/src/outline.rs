//! Shapes as outlines, seen from above or from the side.

use hammerstone::geometry::{Axis, Obstacle, Shape};

/// From where a fight is looked at: from above or from the side, with a direction on the ground that lies to the right.
#[derive(Clone, Copy, PartialEq, Debug)]
pub(crate) struct Seen {
    pub(crate) from_the_side: bool,
    /// Of length 1, on the ground as it is seen from above with its first axis to the right.
    pub(crate) along: [f32; 2],
}

impl Seen {
    /// From above, with the first axis of the ground to the right.
    pub(crate) const ABOVE: Seen = Seen { from_the_side: false, along: [1.0, 0.0] };

    pub(crate) fn sideways(self) -> Seen {
        Seen { from_the_side: true, ..self }
    }

    /// With the longer side of what lies there to the right.
    pub(crate) fn lengthwise([left, low, right, high]: [f32; 4]) -> Seen {
        let along = if high - low > (right - left) * 1.05 { [0.0, -1.0] } else { [1.0, 0.0] };
        Seen { from_the_side: false, along }
    }

    /// With the way from one place to another to the right; none if one lies above the other.
    pub(crate) fn along(from: [f32; 3], to: [f32; 3], up: Axis) -> Option<Seen> {
        let [from, to] = [from, to].map(|place| ground(place, up));
        let [x, y] = [to[0] - from[0], to[1] - from[1]];
        let length = (x * x + y * y).sqrt();
        (length > 0.05).then(|| Seen { from_the_side: false, along: [x / length, y / length] })
    }
}

/// A place on the ground, seen from above with the first of its axes to the right; and how high it is.
fn ground([x, y, z]: [f32; 3], up: Axis) -> [f32; 3] {
    match up {
        Axis::Y => [x, -z, y],
        Axis::Z => [x, y, z],
        Axis::X => [y, z, x],
    }
}

/// Names of the axes across and up the picture; those of a direction that is no axis are said in words.
pub(crate) fn axes(up: Axis, seen: Seen) -> [&'static str; 2] {
    let ([right, back, high], [other_right, other_back]) = match up {
        Axis::Y => (["x", "−z", "y"], ["−x", "z"]),
        Axis::Z => (["x", "y", "z"], ["−x", "−y"]),
        Axis::X => (["y", "z", "x"], ["−y", "−z"]),
    };
    let [x, y] = seen.along;
    let across = match (x, y) {
        _ if x > 0.999 => [right, back],
        _ if x < -0.999 => [other_right, other_back],
        _ if y > 0.999 => [back, other_right],
        _ if y < -0.999 => [other_back, right],
        _ => ["the way to the target", "its left"],
    };
    if seen.from_the_side { [across[0], high] } else { across }
}

/// A place in the world as metres across and up the picture; what stands out of the picture is left out.
pub(crate) fn flat(place: [f32; 3], up: Axis, seen: Seen) -> [f32; 2] {
    let [x, y, high] = ground(place, up);
    let [along, across] = seen.along;
    let right = x * along + y * across;
    if seen.from_the_side { [right, high] } else { [right, y * along - x * across] }
}

/// A window onto the world: metres to pixels.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Window {
    pub(crate) up: Axis,
    pub(crate) seen: Seen,
    /// What lies in its middle, in metres across and up.
    pub(crate) middle: [f32; 2],
    /// Pixels of a metre.
    pub(crate) scale: f32,
    /// Left, top, right, bottom, in pixels.
    pub(crate) area: [f32; 4],
}

impl Window {
    pub(crate) fn at(&self, place: [f32; 3]) -> [f32; 2] {
        self.pixel(flat(place, self.up, self.seen))
    }

    fn pixel(&self, [u, v]: [f32; 2]) -> [f32; 2] {
        let [left, top, right, bottom] = self.area;
        let x = (left + right) / 2.0 + (u - self.middle[0]) * self.scale;
        let y = (top + bottom) / 2.0 - (v - self.middle[1]) * self.scale;
        [x, y]
    }

    /// Whether a place on the page lies in it.
    pub(crate) fn holds(&self, [x, y]: [f32; 2]) -> bool {
        let [left, top, right, bottom] = self.area;
        x >= left && x <= right && y >= top && y <= bottom
    }

    /// The outline of a shape, as the data of a path.
    pub(crate) fn outline(&self, shape: &Shape) -> String {
        match *shape {
            Shape::Sphere { at, radius } => ball(self.at(at), radius * self.scale),
            Shape::Capsule { from, to, radius } => rod(self.at(from), self.at(to), radius * self.scale),
            Shape::Box { pose, half } => {
                let hull = hull(corners(pose, half).map(|corner| self.at(corner)).to_vec());
                polygon(&hull)
            }
        }
    }

    /// A triangle.
    pub(crate) fn triangle(&self, corners: &[[f32; 3]; 3]) -> String {
        polygon(&corners.map(|corner| self.at(corner)))
    }

    /// The outline of an obstacle. Of a plane, what lies in it within the window; nothing of one that is seen from the front.
    pub(crate) fn obstacle(&self, obstacle: &Obstacle) -> Option<String> {
        match *obstacle {
            Obstacle::Box { pose, half } => Some(self.outline(&Shape::Box { pose, half })),
            Obstacle::Sphere { at, radius } => Some(self.outline(&Shape::Sphere { at, radius })),
            Obstacle::Capsule { from, to, radius } => {
                Some(self.outline(&Shape::Capsule { from, to, radius }))
            }
            Obstacle::HalfSpace { at, normal } => {
                let [nx, ny] = flat(normal, self.up, self.seen);
                let length = (nx * nx + ny * ny).sqrt();
                if length < 0.2 {
                    return None;
                }
                // On the page up is the other way.
                let (normal, on) = ([nx / length, -ny / length], self.at(at));
                let [left, top, right, bottom] = self.area;
                let corners = [[left, top], [right, top], [right, bottom], [left, bottom]];
                let height = |[x, y]: [f32; 2]| (x - on[0]) * normal[0] + (y - on[1]) * normal[1];
                let mut kept = Vec::new();
                for (i, &corner) in corners.iter().enumerate() {
                    let next = corners[(i + 1) % 4];
                    let (here, there) = (height(corner), height(next));
                    if here <= 0.0 {
                        kept.push(corner);
                    }
                    if (here < 0.0) != (there < 0.0) {
                        let t = here / (here - there);
                        kept.push([
                            corner[0] + (next[0] - corner[0]) * t,
                            corner[1] + (next[1] - corner[1]) * t,
                        ]);
                    }
                }
                (kept.len() > 2).then(|| polygon(&kept))
            }
        }
    }
}

/// The outline of a shape as points around it, in metres across and up.
pub(crate) fn around(shape: &Shape, up: Axis, seen: Seen) -> Vec<[f32; 2]> {
    const CORNERS: usize = 14;
    let (points, radius): (Vec<[f32; 3]>, f32) = match *shape {
        Shape::Sphere { at, radius } => (vec![at], radius),
        Shape::Capsule { from, to, radius } => (vec![from, to], radius),
        Shape::Box { pose, half } => (corners(pose, half).to_vec(), 0.0),
    };
    let mut all = Vec::new();
    for [u, v] in points.into_iter().map(|point| flat(point, up, seen)) {
        if radius <= 0.0 {
            all.push([u, v]);
            continue;
        }
        all.extend((0..CORNERS).map(|corner| {
            let (sine, cosine) = (corner as f32 / CORNERS as f32 * std::f32::consts::TAU).sin_cos();
            [u + cosine * radius, v + sine * radius]
        }));
    }
    hull(all)
}

/// The least and the most of a shape across and up, in metres.
pub(crate) fn extent(shape: &Shape, up: Axis, seen: Seen) -> [f32; 4] {
    let (points, radius): (Vec<[f32; 3]>, f32) = match *shape {
        Shape::Sphere { at, radius } => (vec![at], radius),
        Shape::Capsule { from, to, radius } => (vec![from, to], radius),
        Shape::Box { pose, half } => (corners(pose, half).to_vec(), 0.0),
    };
    points.into_iter().map(|point| flat(point, up, seen)).fold(NOTHING, |[a, b, c, d], [u, v]| {
        [a.min(u - radius), b.min(v - radius), c.max(u + radius), d.max(v + radius)]
    })
}

/// An extent of nothing.
pub(crate) const NOTHING: [f32; 4] = [f32::INFINITY, f32::INFINITY, f32::NEG_INFINITY, f32::NEG_INFINITY];

/// Both extents.
pub(crate) fn both(one: [f32; 4], other: [f32; 4]) -> [f32; 4] {
    [one[0].min(other[0]), one[1].min(other[1]), one[2].max(other[2]), one[3].max(other[3])]
}

fn corners(pose: hammerstone::geometry::Pose, half: [f32; 3]) -> [[f32; 3]; 8] {
    let axes = [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]].map(|axis| pose.direction(axis));
    std::array::from_fn(|corner| {
        let mut place = pose.at;
        for (axis, direction) in axes.iter().enumerate() {
            let sign = if corner >> axis & 1 == 1 { half[axis] } else { -half[axis] };
            for (place, along) in place.iter_mut().zip(direction) {
                *place += along * sign;
            }
        }
        place
    })
}

fn ball([x, y]: [f32; 2], radius: f32) -> String {
    let radius = radius.max(0.6);
    format!(
        "M{:.1} {y:.1}a{radius:.1} {radius:.1} 0 1 0 {:.1} 0a{radius:.1} {radius:.1} 0 1 0 {:.1} 0z",
        x - radius,
        radius * 2.0,
        -radius * 2.0
    )
}

fn rod(from: [f32; 2], to: [f32; 2], radius: f32) -> String {
    let radius = radius.max(0.6);
    let (dx, dy) = (to[0] - from[0], to[1] - from[1]);
    let length = (dx * dx + dy * dy).sqrt();
    if length < 0.2 {
        return ball(from, radius);
    }
    let (nx, ny) = (-dy / length * radius, dx / length * radius);
    format!(
        "M{:.1} {:.1}L{:.1} {:.1}A{radius:.1} {radius:.1} 0 0 0 {:.1} {:.1}L{:.1} {:.1}A{radius:.1} {radius:.1} 0 0 0 {:.1} {:.1}z",
        from[0] + nx,
        from[1] + ny,
        to[0] + nx,
        to[1] + ny,
        to[0] - nx,
        to[1] - ny,
        from[0] - nx,
        from[1] - ny,
        from[0] + nx,
        from[1] + ny
    )
}

fn polygon(points: &[[f32; 2]]) -> String {
    let mut data = String::new();
    for (i, [x, y]) in points.iter().enumerate() {
        data.push_str(&format!("{}{x:.1} {y:.1}", if i == 0 { "M" } else { "L" }));
    }
    data + "z"
}

/// The convex hull, by the monotone chain (Andrew, 1979).
fn hull(mut points: Vec<[f32; 2]>) -> Vec<[f32; 2]> {
    points.sort_by(|a, b| a[0].total_cmp(&b[0]).then(a[1].total_cmp(&b[1])));
    let turns =
        |a: [f32; 2], b: [f32; 2], c: [f32; 2]| (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
    let mut hull: Vec<[f32; 2]> = Vec::new();
    let (forward, back) = (points.clone(), points.into_iter().rev().collect::<Vec<_>>());
    for way in [forward, back] {
        let start = hull.len();
        for point in way {
            while hull.len() >= start + 2 && turns(hull[hull.len() - 2], hull[hull.len() - 1], point) <= 0.0 {
                hull.pop();
            }
            hull.push(point);
        }
        hull.pop();
    }
    hull
}
