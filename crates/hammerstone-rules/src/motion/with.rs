//! Skeletons out of files.

use hammerstone::geometry::Pose;
use hammerstone_motion::{Axes, Marker};

pub use hammerstone_motion::Skeleton;

use super::{Bones, Frame, Opener};
use crate::problem::Reading;
use crate::raw;

/// A skeleton's file, by its full name; what is wrong with it is noted where it is named.
pub(super) fn read(
    reading: &mut Reading<'_>,
    open: &Opener<'_>,
    file: &raw::Name,
    Frame { from, to, turn, scale }: Frame,
) -> Option<(String, Skeleton)> {
    let axes = Axes { from, to, turn, scale };
    let name = file.as_ref();
    let opened = open(name).map_err(|why| format!("the skeleton `{name}` cannot be read: {why}"));
    let told = opened.and_then(|(full, bytes)| {
        let folder = name.rfind('/').map_or("", |end| &name[..=end]);
        let mut beside = |other: &str| open(&format!("{folder}{other}")).map(|(_, bytes)| bytes);
        match Skeleton::from_bytes(&bytes, stem(name), axes, &mut beside) {
            Ok(skeleton) => Ok((full, skeleton)),
            Err(error) => Err(format!("`{full}`, {error}")),
        }
    });
    match told {
        Ok(read) => Some(read),
        Err(message) => {
            let fix = "name a glTF or BVH file, relative to this one".to_owned();
            reading.problem(file.span(), "this file", message, Some(fix));
            None
        }
    }
}

/// A file's name without folders and ending.
fn stem(name: &str) -> &str {
    let file = name.rsplit('/').next().unwrap_or(name);
    file.rsplit_once('.').map_or(file, |(stem, _)| stem)
}

impl Bones for Skeleton {
    fn names_of_joints(&self) -> Vec<String> {
        self.joints().iter().map(|joint| joint.name.clone()).collect()
    }

    fn names_of_animations(&self) -> Vec<String> {
        self.animations().iter().map(|animation| animation.name.clone()).collect()
    }

    fn rest_poses(&self) -> Vec<Pose> {
        self.poses(&self.rest())
    }

    fn take_in_as(&mut self, mut other: Skeleton, name: &str) {
        if other.animations().len() == 1 {
            other.rename(0, name);
        }
        self.take_in(other);
    }

    fn mark_with(&mut self, animation: &str, markers: Vec<(String, f64)>) {
        self.mark(animation, markers.into_iter().map(|(name, at)| Marker { name, at }));
    }

    fn offset_of(&self, from: usize, to: usize) -> Option<[f32; 3]> {
        self.offset(from, to)
    }

    fn farthest(&self, joints: &[usize]) -> f32 {
        self.reach(joints)
    }

    fn length(&self, animation: usize) -> f64 {
        self.animations()[animation].seconds
    }

    fn markers(&self, animation: usize) -> Vec<(String, f64)> {
        self.animations()[animation].markers.iter().map(|marker| (marker.name.clone(), marker.at)).collect()
    }
}
