//! What is in the way: the level, obstacles, and walls that the host found.

use glam::Vec3;

use super::boxes_meet;
use crate::geometry::{Impact, Motion, Obstacle, Placement, Pose, Swept, sweep};
use crate::ids::*;
use crate::level::{InLevel, Level, enters};
use crate::state::Raised;

/// What stopped something.
#[derive(Clone, Copy, PartialEq, Debug)]
pub(crate) enum Barrier {
    /// A place in the level.
    Level(InLevel),
    Obstacle(ObstacleId),
    /// The host says so.
    Host,
}

/// Everything that may be in the way in a tick.
#[derive(Clone, Copy, Debug)]
pub(crate) struct InTheWay<'a> {
    pub(crate) level: &'a Level,
    pub(crate) obstacles: &'a [Raised],
    pub(crate) stops: &'a [Stop],
}

/// A body that the host stops in the tick.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Stop {
    pub(crate) swing: SwingId,
    pub(crate) body: u16,
    pub(crate) impact: Impact,
}

impl Raised {
    /// On its way through the tick.
    fn swept(&self) -> Swept {
        Swept::fixed(self.obstacle.into(), Motion::between(self.before, self.pose))
    }

    /// As it is at `t` of the tick, in the world.
    pub(crate) fn placed(&self, t: f32) -> Obstacle {
        let still = self.before == self.pose && self.pose == Pose::IDENTITY;
        if still {
            return self.obstacle;
        }
        self.obstacle.placed(Pose::from(Motion::between(self.before, self.pose).at(t)))
    }
}

impl InTheWay<'_> {
    /// When a hitbox first meets something in the tick, and what. At the same time the level comes first, then obstacles by their ids.
    pub(crate) fn first(&self, hitbox: &Swept) -> Option<(Impact, Barrier)> {
        let met = self.level.sweep_meets(hitbox);
        let mut first = met.map(|(impact, place)| (impact, Barrier::Level(place)));
        if self.obstacles.is_empty() {
            return first;
        }
        let about = hitbox.bounds_from(&hitbox.start());
        for raised in self.obstacles {
            let swept = raised.swept();
            let plane = matches!(raised.obstacle, Obstacle::HalfSpace { .. });
            if !plane && !boxes_meet(about, swept.bounds_from(&swept.start())) {
                continue;
            }
            if let Some(impact) = sweep(hitbox, &swept)
                && first.as_ref().is_none_or(|(best, _)| impact.toi < best.toi)
            {
                first = Some((impact, Barrier::Obstacle(raised.id)));
            }
        }
        first
    }

    /// Where the body of a swing, with these hitboxes, is held in the tick, and by what.
    pub(crate) fn holds(
        &self,
        (swing, body): (SwingId, u16),
        hitboxes: impl Iterator<Item = Swept>,
    ) -> Option<(Impact, Barrier)> {
        let stops = self.stops.iter().filter(|stop| (stop.swing, stop.body) == (swing, body));
        let of_host = stops.map(|stop| (stop.impact, Barrier::Host));
        let found = hitboxes.filter_map(|hitbox| self.first(&hitbox));
        found.chain(of_host).reduce(|one, other| if other.0.toi < one.0.toi { other } else { one })
    }

    /// How far a ray from `from` along `along`, of length 1, goes at `t` of the tick before something stops it, at most `reach`; and what
    /// does.
    pub(crate) fn reach_of_line(
        &self,
        from: Vec3,
        along: Vec3,
        reach: f32,
        t: f32,
    ) -> (f32, Option<Barrier>) {
        let met = self.level.line_meets(from, along, reach);
        let mut stop = met.map_or((reach, None), |(far, place)| (far, Some(Barrier::Level(place))));
        for raised in self.obstacles {
            if let Some(distance) = enters(&raised.placed(t), from, along)
                && distance < stop.0
            {
                stop = (distance, Some(Barrier::Obstacle(raised.id)));
            }
        }
        stop
    }
}

/// Where a body is that is held at an impact: as far on its way, or where the host says.
pub(crate) fn held_at(way: &Motion, impact: &Impact, by: Barrier) -> Pose {
    let there = way.at(impact.toi);
    match by {
        Barrier::Host => Pose::from(Placement { at: impact.point, ..there }),
        Barrier::Level(_) | Barrier::Obstacle(_) => Pose::from(there),
    }
}
