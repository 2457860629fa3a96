//! Parts and hitboxes that the host poses: where they were as the tick began, and their ways through it.

use glam::Vec3;

use super::PartsNow;
use crate::geometry::{Motion, Pose, Swept, larger, smaller};
use crate::ids::*;
use crate::orders::Pending;
use crate::ruleset::{Bounds, Rules, TemplatePlan};
use crate::state::{Chains, Combatants, Swing};

/// Combatants and swings that were posed in this tick. Between ticks it decides nothing: only current poses are in the state.
#[derive(Clone, Debug, Default)]
pub(crate) struct Posed {
    /// Orders to pose that wait until moves are over; those of hooks until the next tick.
    pub(crate) waiting: Vec<Pending>,
    /// By slot, with where the poses from before begin.
    posed: Vec<(u32, u32)>,
    /// By swing, likewise.
    guided: Vec<(SwingId, u32)>,
    before: Vec<Pose>,
    /// Slots to which someone came in this tick without a way.
    arrived: Vec<u32>,
    /// By slot, parts that were hidden until this tick: their ways begin where they end.
    back: Vec<(u32, u64)>,
}

impl Posed {
    /// Forgets the last tick, and keeps the memory.
    pub(crate) fn begin_tick(&mut self) {
        self.posed.clear();
        self.guided.clear();
        self.before.clear();
        self.arrived.clear();
        self.back.clear();
    }

    /// Parts of the combatant in `slot` are seen again. Slots come in their order.
    pub(crate) fn come_back(&mut self, slot: usize, parts: u64) {
        if parts != 0 {
            self.back.push((slot as u32, parts));
        }
    }

    /// Someone is in `slot` without a way there: the way of its parts begins with what they are posed in next.
    pub(crate) fn arrive(&mut self, slot: usize) {
        self.arrived.push(slot as u32);
    }

    /// Everyone has come who comes before the parts are posed.
    pub(crate) fn begin_posing(&mut self) {
        self.arrived.sort_unstable();
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
            && self.arrived.binary_search(&number).is_err()
        {
            self.posed.insert(place, (number, self.before.len() as u32));
            self.before.extend(combatants.part_poses.iter(slot));
        }
        combatants.pose_parts(slot, poses);
        // A first pose is where the way of the tick begins, also if another follows it in the tick.
        if first_of_all && let Err(place) = self.arrived.binary_search(&number) {
            self.arrived.insert(place, number);
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
        let back = self.back.binary_search_by_key(&(slot as u32), |(slot, _)| *slot).ok();
        let back = back.map_or(0, |place| self.back[place].1);
        let now = combatants.part_poses.iter(slot).enumerate();
        Some(now.map(move |(part, &now)| match part < 64 && back >> part & 1 == 1 {
            true => Motion::between(now, now),
            false => self.way(first, part, now),
        }))
    }

    /// The hitboxes of a swing have other poses, in the frame of the attacker. The first are where its way begins.
    pub(crate) fn guide(
        &mut self,
        hitbox_poses: &mut Chains<Pose>,
        swing: &mut Swing,
        poses: impl DoubleEndedIterator<Item = Pose> + ExactSizeIterator,
    ) {
        let place = self.guided.binary_search_by_key(&swing.id, |(swing, _)| *swing);
        let first_of_all = swing.guided.is_empty();
        let start = self.before.len() as u32;
        if place.is_err() && !first_of_all {
            self.before.extend(hitbox_poses.items(swing.guided));
        }
        hitbox_poses.fill(&mut swing.guided, poses);
        if let Err(place) = place {
            self.guided.insert(place, (swing.id, start));
            if first_of_all {
                self.before.extend(hitbox_poses.items(swing.guided));
            }
        }
    }

    /// The ways of the hitboxes of a guided swing in the frame of the attacker; of one that has not been guided, none.
    pub(crate) fn hitbox_ways<'a>(
        &'a self,
        hitbox_poses: &'a Chains<Pose>,
        swing: &Swing,
    ) -> impl Iterator<Item = Motion> + use<'a> {
        let place = self.guided.binary_search_by_key(&swing.id, |(swing, _)| *swing).ok();
        let first = place.map(|place| self.guided[place].1 as usize);
        hitbox_poses.items(swing.guided).enumerate().map(move |(hitbox, &now)| self.way(first, hitbox, now))
    }

    /// The way of one of several that began at `first` of those from before.
    fn way(&self, first: Option<usize>, number: usize, now: Pose) -> Motion {
        let before = first.and_then(|first| self.before.get(first + number)).copied().unwrap_or(now);
        Motion::between(before, now)
    }

    /// The parts of the combatant in `slot`, which moves so, that are neither hidden nor broken and gone, by their numbers; none if they have not been
    /// posed.
    pub(crate) fn parts<'a>(
        &'a self,
        rules: &'a Rules,
        combatants: &'a Combatants,
        slot: usize,
        carrier: Motion,
    ) -> Option<impl Iterator<Item = Option<Swept>> + use<'a>> {
        let plans = rules.template_plan(combatants.template[slot]).parts.iter().enumerate();
        let now = PartsNow::of(combatants, slot);
        let ways = self.ways(combatants, slot)?;
        Some(
            plans.zip(ways).map(move |((number, plan), way)| {
                Some(Swept::on_path(now.posed(plan, number)?, way, carrier))
            }),
        )
    }
}

/// What holds the parts of a posed body all the while, in its own frame.
pub(super) fn posed_bounds(template: &TemplatePlan, ways: &[Motion], up: usize, size: f32) -> Bounds {
    // The farthest place and the largest part need not be of one part: the bound is a little wider then.
    let (mut low, mut high, mut square, mut largest) = (Vec3::ZERO, Vec3::ZERO, 0.0f32, 0.0f32);
    for (i, (part, way)) in template.parts.iter().zip(ways).enumerate() {
        let about = part.about * size;
        let ends = [way.from.at, way.from.at + way.travel()];
        for (end, place) in ends.into_iter().enumerate() {
            let (below, above) = (place - Vec3::splat(about), place + Vec3::splat(about));
            let first = i == 0 && end == 0;
            low = if first { below } else { smaller(low, below) };
            high = if first { above } else { larger(high, above) };
            let far = place.dot(place);
            square = if far > square { far } else { square };
        }
        largest = if about > largest { about } else { largest };
    }
    let widest = |axis: usize| match axis == up {
        true => 0.0,
        false if -low[axis] > high[axis] => -low[axis],
        false => high[axis],
    };
    let wide = Vec3::new(widest(0), widest(1), widest(2)).length();
    let reach = square.sqrt() * 1.0001 + largest;
    Bounds { reach, wide, low: low[up], high: high[up] }
}

/// A box about the way of a part, which a ball of radius `about` holds, in a frame that moves so, and turns so fast at most, in radians:
/// its place is on a way between two places, and so no farther from their middle than half of the way's length.
pub(super) fn box_of_way(about: f32, way: &Motion, carrier: &Motion, spin: f32) -> (Vec3, Vec3) {
    let start = carrier.from.apply(way.from.at);
    let end = carrier.end().apply(way.from.at + way.travel());
    let (one, other) = (way.from.at.length(), (way.from.at + way.travel()).length());
    let out = if one > other { one } else { other };
    let long = carrier.travel().length() + way.travel().length() + spin * out;
    ((start + end) * 0.5, Vec3::splat(long * 0.5 * 1.002 + about))
}
