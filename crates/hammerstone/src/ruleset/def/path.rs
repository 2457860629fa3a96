//! The way of an attack's hitboxes in the attacker's frame.

use std::hash::{Hash, Hasher};

use glam::Vec3;

use crate::geometry::{Motion, Pose, between};

/// A pose at a tick of the swing.
#[derive(Clone, Copy, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Key {
    pub(crate) at: u32,
    pub(crate) pose: Pose,
    /// The axis and the degrees of its turn as they were written, if they were.
    pub(crate) turn: Option<([f32; 3], f32)>,
}

impl Hash for Key {
    fn hash<H: Hasher>(&self, hasher: &mut H) {
        let bits = self.turn.map(|([x, y, z], degrees)| [x, y, z, degrees].map(f32::to_bits));
        (self.at, self.pose, bits).hash(hasher);
    }
}

/// The path of an attack's hitboxes in their carrier's frame: poses at ticks from the swing's start.
///
/// Between two keys whose turns were written as degrees about one axis, it goes through the degrees as written, however many. Otherwise
/// it takes the shorter way.
#[derive(Clone, PartialEq, Debug, Default, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Path(pub(crate) Vec<Key>);

impl Path {
    /// The pose `clock` ticks after the start: between two keys on the way, beyond the ends at rest.
    pub(crate) fn at(&self, clock: u32) -> Pose {
        let after = self.0.partition_point(|key| key.at <= clock);
        match (after.checked_sub(1).map(|i| self.0[i]), self.0.get(after)) {
            (None, None) => Pose::IDENTITY,
            (None, Some(first)) => first.pose,
            (Some(last), None) => last.pose,
            (Some(from), Some(to)) => {
                let (part, whole) = (clock - from.at, to.at - from.at);
                let pose = between(from.pose, to.pose, part, whole);
                match long_turn(&from, to) {
                    Some((axis, start, degrees)) => {
                        pose.turned(axis, start + degrees * (part as f32 / whole as f32))
                    }
                    None => pose,
                }
            }
        }
    }

    /// The way from one tick of the swing to the next, or the rest at one.
    pub(crate) fn motion(&self, before: u32, after: u32) -> Motion {
        let (from, to) = (self.at(before), self.at(after));
        let next = self.0.partition_point(|key| key.at <= before);
        if before < after
            && let (Some(last), Some(next)) = (next.checked_sub(1).map(|i| self.0[i]), self.0.get(next))
            && let Some((axis, _, degrees)) = long_turn(&last, next)
        {
            let of_tick = degrees * ((after - before) as f32 / (next.at - last.at) as f32);
            if of_tick.abs() >= HALF {
                return Motion::turning(from, to, axis, of_tick);
            }
        }
        Motion::between(from, to)
    }

    /// The same with each turn at length 1; keys were checked.
    pub(crate) fn settled(&self) -> Path {
        let settled = |key: &Key| Key { pose: key.pose.settled().unwrap_or(key.pose), ..*key };
        Path(self.0.iter().map(settled).collect())
    }

    /// The most degrees that it turns in one tick.
    pub(crate) fn fastest(&self) -> f32 {
        let degrees = |pair: &[Key]| {
            long_turn(&pair[0], &pair[1])
                .map_or(0.0, |(.., degrees)| degrees.abs() / (pair[1].at - pair[0].at) as f32)
        };
        self.0.windows(2).map(degrees).fold(0.0, |most, one| if one > most { one } else { most })
    }

    /// The first two neighbours whose turns were written about different axes, so that the way between them is not what was written.
    pub(crate) fn unclear(&self) -> Option<(u32, u32)> {
        let unclear = |pair: &&[Key]| {
            matches!((pair[0].turn, pair[1].turn), (Some((one, a)), Some((other, b)))
                if a != 0.0 && b != 0.0 && alike(one, other).is_none())
        };
        self.0.windows(2).find(unclear).map(|pair| (pair[0].at, pair[1].at))
    }
}

const HALF: f32 = 180.0;

/// For a turn by half a turn or more: its axis, where it begins, and how far it goes, in degrees. What is less is the shorter way anyway.
fn long_turn(from: &Key, to: &Key) -> Option<([f32; 3], f32, f32)> {
    let ((one, start), (other, end)) = (from.turn?, to.turn?);
    let (axis, start, end) = match (start == 0.0, end == 0.0) {
        (true, _) => (other, 0.0, end),
        (_, true) => (one, start, 0.0),
        _ => (one, start, end * alike(one, other)?),
    };
    let degrees = end - start;
    (degrees.abs() >= HALF).then_some((axis, start, degrees))
}

/// 1 for two directions that are the same, −1 for opposite ones.
fn alike(one: [f32; 3], other: [f32; 3]) -> Option<f32> {
    let (one, other) = (Vec3::from_array(one), Vec3::from_array(other));
    let cosine = one.dot(other) / (one.length() * other.length());
    if cosine > 0.999_999 {
        Some(1.0)
    } else if cosine < -0.999_999 {
        Some(-1.0)
    } else {
        None
    }
}
