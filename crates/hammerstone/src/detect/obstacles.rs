//! What is in the way.

use glam::Vec3;

use crate::geometry::{Obstacle, Placement, Swept, sweep};
use crate::ids::ObstacleId;

/// When a hitbox first touches an obstacle in the tick, and which.
pub(crate) fn first_in_the_way(
    obstacles: &[(ObstacleId, Obstacle)],
    hitbox: &Swept,
) -> Option<(f32, ObstacleId)> {
    let mut first: Option<(f32, ObstacleId)> = None;
    for &(id, obstacle) in obstacles {
        if let Some(impact) = sweep(hitbox, &Swept::still(obstacle.into()))
            && first.is_none_or(|(toi, _)| impact.toi < toi)
        {
            first = Some((impact.toi, id));
        }
    }
    first
}

/// How far a ray from `from` along `along`, of length 1, goes before an obstacle stops it, at most `reach`; and which does.
pub(crate) fn reach_of_beam(
    obstacles: &[(ObstacleId, Obstacle)],
    from: Vec3,
    along: Vec3,
    reach: f32,
) -> (f32, Option<ObstacleId>) {
    let mut stop = (reach, None);
    for &(id, obstacle) in obstacles {
        if let Some(distance) = enters(&obstacle, from, along)
            && distance < stop.0
        {
            stop = (distance, Some(id));
        }
    }
    stop
}

/// Where a ray enters an obstacle, in metres from its start; 0 if it starts within.
fn enters(obstacle: &Obstacle, from: Vec3, along: Vec3) -> Option<f32> {
    match *obstacle {
        Obstacle::Sphere { at, radius } => {
            let away = from - Vec3::from_array(at);
            let (b, c) = (away.dot(along), away.dot(away) - radius * radius);
            if c <= 0.0 {
                return Some(0.0);
            }
            let root = b * b - c;
            (b < 0.0 && root >= 0.0).then(|| -b - root.sqrt())
        }
        Obstacle::HalfSpace { at, normal } => {
            let normal = Vec3::from_array(normal);
            let above = (from - Vec3::from_array(at)).dot(normal);
            let towards = -along.dot(normal);
            if above <= 0.0 {
                return Some(0.0);
            }
            (towards > 0.0).then(|| above / towards)
        }
        Obstacle::Box { pose, half } => {
            let placement = Placement::from(pose);
            let (local, along) = (placement.turn.back(from - placement.at), placement.turn.back(along));
            let (mut near, mut far) = (0.0f32, f32::INFINITY);
            for axis in 0..3 {
                if along[axis] == 0.0 {
                    if local[axis].abs() > half[axis] {
                        return None;
                    }
                    continue;
                }
                let (one, other) =
                    ((-half[axis] - local[axis]) / along[axis], (half[axis] - local[axis]) / along[axis]);
                let (enter, leave) = if one < other { (one, other) } else { (other, one) };
                near = if enter > near { enter } else { near };
                far = if leave < far { leave } else { far };
            }
            (near <= far).then_some(near)
        }
    }
}
