//! A beam as it stood at the end of a tick.

use glam::Vec3;

use crate::ids::*;
use crate::level::InLevel;

/// A beam as it stood at the end of a tick, for drawing.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct BeamLine {
    /// Its swing.
    pub swing: SwingId,
    /// Where it begins, in metres in the world.
    pub from: [f32; 3],
    /// Where it stops: at its reach, at an obstacle, or at the target that it does not go through.
    pub to: [f32; 3],
    /// The obstacle that stops it, if one does.
    pub obstacle: Option<ObstacleId>,
    /// The shape of the level that stops it, if one does.
    pub shape: Option<InLevel>,
}

impl BeamLine {
    /// Shortens it to `depth` metres, if it is longer.
    pub(crate) fn stop_at(&mut self, depth: f32) {
        let (from, to) = (Vec3::from_array(self.from), Vec3::from_array(self.to));
        let length = (to - from).length();
        if length > depth {
            self.to = (from + (to - from) * (depth / length)).to_array();
            (self.obstacle, self.shape) = (None, None);
        }
    }
}
