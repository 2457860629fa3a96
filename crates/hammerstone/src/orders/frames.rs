//! Poses in the frame of a body or of the world: whether they may be, and as the state keeps them.

use glam::Vec3;

use crate::geometry::{Frame, Placement, Pose};
use crate::terms::Refusal;

/// The pose with its turn at length 1; its order was looked at before.
pub(crate) fn settled(pose: Pose) -> Pose {
    pose.settled().unwrap_or(Pose::IDENTITY)
}

/// A pose in the frame of a body, at length 1.
pub(crate) fn in_body(body: Placement, frame: Frame, pose: Pose) -> Pose {
    match frame {
        Frame::Body => settled(pose),
        Frame::World => settled(Pose::from(body.within(Placement::from(settled(pose))))),
    }
}

/// So many poses, each finite and no farther from the body than the limit, in metres.
pub(crate) fn all_within(
    poses: Option<&[Pose]>,
    wanted: usize,
    body: Pose,
    frame: Frame,
    limit: f32,
) -> Result<(), Refusal> {
    let poses = poses.unwrap_or_default();
    if poses.len() != wanted {
        return Err(Refusal::PoseCount { given: poses.len() as u32, wanted: wanted as u32 });
    }
    let from = match frame {
        Frame::Body => Vec3::ZERO,
        Frame::World => Vec3::from_array(body.at),
    };
    for (number, pose) in poses.iter().enumerate() {
        let pose = pose.settled().ok_or(Refusal::NotFinite)?;
        let metres = (Vec3::from_array(pose.at) - from).length();
        // Written so that a distance which overflows is too far as well.
        if metres <= limit {
            continue;
        }
        return Err(Refusal::OutOfReach { pose: number as u16, metres, limit });
    }
    Ok(())
}
