//! Parts that follow a skeleton: where they were as the tick began, and their ways through it.

use glam::Vec3;

use crate::geometry::{Motion, Pose, Solid, Swept};
use crate::orders::Pending;
use crate::ruleset::Rules;
use crate::state::Combatants;

/// Combatants that were posed in this tick. Between ticks it decides nothing: only current poses are in the state.
#[derive(Clone, Debug, Default)]
pub(crate) struct PosedParts {
    /// Orders to pose that wait until moves are over; those of hooks until the next tick.
    pub(crate) waiting: Vec<Pending>,
    /// By slot, with where the poses from before begin.
    posed: Vec<(u32, u32)>,
    before: Vec<Pose>,
    /// Slots to which someone came in this tick without a way.
    arrived: Vec<u32>,
}

/// A part of a posed combatant on its way through the tick.
#[derive(Clone, Copy, Debug)]
pub(crate) struct PosedPart {
    pub(crate) swept: Swept,
    /// Its core as the tick begins, seen from its carrier's place.
    pub(crate) start: Solid,
    /// A box about its whole way: its middle and half of its edges.
    pub(crate) bounds: (Vec3, Vec3),
}

impl PosedParts {
    /// Forgets the last tick, and keeps the memory.
    pub(crate) fn begin_tick(&mut self) {
        self.posed.clear();
        self.before.clear();
        self.arrived.clear();
    }

    /// Someone is in `slot` without a way there: the way of its parts begins with what they are posed in next.
    pub(crate) fn arrive(&mut self, slot: usize) {
        self.arrived.push(slot as u32);
    }

    /// The parts of the combatant in `slot` have other poses, in the frame of their body.
    pub(crate) fn pose(
        &mut self,
        combatants: &mut Combatants,
        slot: usize,
        poses: impl DoubleEndedIterator<Item = Pose> + ExactSizeIterator,
    ) {
        let number = slot as u32;
        let place = self.posed.binary_search_by_key(&number, |(slot, _)| *slot);
        let first_of_all = combatants.part_poses.is_empty(slot);
        if let Err(place) = place
            && !first_of_all
            && !self.arrived.contains(&number)
        {
            self.posed.insert(place, (number, self.before.len() as u32));
            self.before.extend(combatants.part_poses.iter(slot));
        }
        combatants.pose_parts(slot, poses);
        // A first pose is where the way of the tick begins, also if another follows it in the tick.
        if first_of_all {
            self.arrive(slot);
        }
    }

    /// The ways of the parts of a combatant in its own frame; none if it has not been posed.
    pub(crate) fn ways<'a>(
        &'a self,
        combatants: &'a Combatants,
        slot: usize,
    ) -> Option<impl Iterator<Item = Motion> + use<'a>> {
        if combatants.part_poses.is_empty(slot) {
            return None;
        }
        let place = self.posed.binary_search_by_key(&(slot as u32), |(slot, _)| *slot).ok();
        let first = place.map(|place| self.posed[place].1 as usize);
        let now = combatants.part_poses.iter(slot).enumerate();
        Some(now.map(move |(part, &now)| {
            let before = first.and_then(|first| self.before.get(first + part)).copied().unwrap_or(now);
            Motion::between(before, now)
        }))
    }

    /// The parts of the combatant in `slot`, which moves so, that are not broken and gone, by their numbers; none if they have not been
    /// posed.
    pub(crate) fn parts<'a>(
        &'a self,
        rules: &'a Rules,
        combatants: &'a Combatants,
        slot: usize,
        carrier: Motion,
    ) -> Option<impl Iterator<Item = Option<Swept>> + use<'a>> {
        let plans = rules.template_plan(combatants.template[slot]).parts.iter().enumerate();
        let ways = self.ways(combatants, slot)?;
        Some(plans.zip(ways).map(move |((number, plan), way)| {
            let core = plan.core_when(combatants.is_broken(slot, number as u16))?;
            Some(Swept::on_path(*core, way, carrier))
        }))
    }
}

impl PosedPart {
    pub(crate) fn of(swept: Swept) -> PosedPart {
        let start = swept.start();
        PosedPart { swept, start, bounds: swept.bounds_from(&start) }
    }
}

/// A box about all boxes: its middle and half of its edges; none if there are none.
pub(crate) fn box_about(boxes: impl Iterator<Item = (Vec3, Vec3)>) -> Option<(Vec3, Vec3)> {
    let corners = boxes.map(|(middle, half)| (middle - half, middle + half));
    let (low, high) = corners.reduce(|(low, high), (other_low, other_high)| {
        (crate::geometry::smaller(low, other_low), crate::geometry::larger(high, other_high))
    })?;
    Some(((low + high) * 0.5, (high - low) * 0.5))
}
