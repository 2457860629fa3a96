//! What stands for skeletons where none is read.

use hammerstone::geometry::Pose;

use super::{Bones, Frame, Opener};
use crate::problem::Reading;
use crate::raw;

/// There is none of it: the feature `motion` is off.
#[derive(Clone, Debug)]
pub enum Skeleton {}

pub(super) fn read(
    reading: &mut Reading<'_>,
    _: &Opener<'_>,
    file: &raw::Name,
    _: Frame,
) -> Option<(String, Skeleton)> {
    let message = "this program reads no skeletons".to_owned();
    let fix = "build it with the feature `motion` of hammerstone-rules".to_owned();
    reading.problem(file.span(), "here", message, Some(fix));
    None
}

impl Bones for Skeleton {
    fn names_of_joints(&self) -> Vec<String> {
        match *self {}
    }

    fn names_of_animations(&self) -> Vec<String> {
        match *self {}
    }

    fn rest_poses(&self) -> Vec<Pose> {
        match *self {}
    }

    fn take_in_as(&mut self, _: Skeleton, _: &str) {
        match *self {}
    }

    fn mark_with(&mut self, _: &str, _: Vec<(String, f64)>) {
        match *self {}
    }

    fn offset_of(&self, _: usize, _: usize) -> Option<[f32; 3]> {
        match *self {}
    }

    fn farthest(&self, _: &[usize]) -> f32 {
        match *self {}
    }

    fn length(&self, _: usize) -> f64 {
        match *self {}
    }

    fn markers(&self, _: usize) -> Vec<(String, f64)> {
        match *self {}
    }
}
