//! How one holds another.

use crate::geometry::Pose;
use crate::ids::*;

/// How a hit holds its target. While it is held it goes where its holder goes, and cannot be moved otherwise. Everyone has one holder at
/// most; one who holds and is held lets go first.
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Copy, PartialEq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Grip {
    pub(crate) at: Pose,
    pub(crate) lasts: Option<u32>,
    pub(crate) breaks_after: Option<i64>,
    pub(crate) status: Option<StatusId>,
}

impl Grip {
    /// At a pose in the frame of the holder, until it is let go.
    pub fn at(pose: Pose) -> Grip {
        Grip { at: pose, lasts: None, breaks_after: None, status: None }
    }

    /// For so many ticks.
    pub fn lasts(mut self, ticks: u32) -> Grip {
        self.lasts = Some(ticks);
        self
    }

    /// It breaks once its holder has lost so many points of health.
    pub fn breaks_after(mut self, points: i64) -> Grip {
        self.breaks_after = Some(points);
        self
    }

    /// The one who is held bears a status as long as it is; its source is the holder.
    pub fn status(mut self, status: StatusId) -> Grip {
        self.status = Some(status);
        self
    }
}
