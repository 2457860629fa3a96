//! What a combatant is made from.

use glam::Vec3;

use crate::Fixed;
use crate::geometry::{Core, Placement, Pose, Shape};
use crate::ids::*;

/// A named volume that can be struck.
///
/// *Frame:* the combatant's. It lies on one layer; a multiplier of 1 is an ordinary part.
#[derive(Clone, Debug)]
pub struct Part {
    pub(crate) name: String,
    pub(crate) shape: Shape,
    pub(crate) layer: LayerId,
    pub(crate) multiplier: Fixed,
    pub(crate) core: Core,
}

impl Part {
    /// A part on the layer that every ruleset has, `body`, with a multiplier of 1.
    pub fn new(name: &str, shape: Shape) -> Part {
        Part { name: name.to_owned(), shape, layer: LayerId(0), multiplier: Fixed::ONE, core: shape.into() }
    }

    /// Puts the part on `layer`.
    pub fn layer(mut self, layer: LayerId) -> Part {
        self.layer = layer;
        self
    }

    /// What harm of a blow on this part is multiplied by; not below 0.
    pub fn multiplier(mut self, multiplier: Fixed) -> Part {
        self.multiplier = multiplier;
        self
    }

    /// The name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The layer that it lies on.
    pub fn layer_of(&self) -> LayerId {
        self.layer
    }
}

/// A cast entry: what combatants of one sort have in common.
#[derive(Clone, Debug)]
pub struct Cast {
    pub(crate) name: String,
    pub(crate) team: TeamId,
    pub(crate) health: i64,
    pub(crate) parts: Vec<Part>,
    pub(crate) tags: u64,
    pub(crate) resistance: Vec<(KindId, Fixed)>,
    pub(crate) lies: Option<u32>,
    pub(crate) key: u64,
    /// The layers of all parts together.
    pub(crate) layers: u32,
    pub(crate) bounds: Bounds,
}

/// What holds every part of a cast entry, in metres about the combatant's place. A little wider than need be, so that no touch is
/// lost to rounding.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Bounds {
    /// Whatever way it is turned.
    pub(crate) reach: f32,
    /// From the up axis through its place, and from where to where along it, if it is turned about that axis alone.
    pub(crate) wide: f32,
    pub(crate) low: f32,
    pub(crate) high: f32,
}

impl Bounds {
    pub(crate) fn of(parts: &[Part], up: usize) -> Bounds {
        const SLACK: f32 = 0.002;
        let mut bounds = Bounds::default();
        for (i, part) in parts.iter().enumerate() {
            let slack = part.core.radius + SLACK + part.core.size * 0.002;
            let (middle, half) = part.core.at(Placement::from(Pose::IDENTITY)).bounds();
            let (low, high) = (middle - half - Vec3::splat(slack), middle + half + Vec3::splat(slack));
            let corner = |axis: usize| if axis == up { 0.0 } else { farther(low[axis], high[axis]) };
            let wide = Vec3::new(corner(0), corner(1), corner(2)).length();
            bounds.reach = farther(bounds.reach, part.core.reach + slack);
            bounds.wide = farther(bounds.wide, wide);
            bounds.low = if i == 0 || low[up] < bounds.low { low[up] } else { bounds.low };
            bounds.high = if i == 0 || high[up] > bounds.high { high[up] } else { bounds.high };
        }
        bounds
    }
}

/// The one that is farther from 0, without its sign.
fn farther(one: f32, other: f32) -> f32 {
    let (one, other) = (one.abs(), other.abs());
    if other > one { other } else { one }
}

impl Cast {
    /// A cast entry of `team` with `health` whole points, no parts, and a body that lies until it is removed.
    pub fn new(name: &str, team: TeamId, health: i64) -> Cast {
        Cast {
            name: name.to_owned(),
            team,
            health,
            parts: Vec::new(),
            tags: 0,
            resistance: Vec::new(),
            lies: None,
            key: crate::rolls::name_key(name),
            layers: 0,
            bounds: Bounds::default(),
        }
    }

    /// Adds a part. Its place in the order of adding is its number in facts and reports.
    pub fn part(mut self, part: Part) -> Cast {
        self.parts.push(part);
        self
    }

    /// Carries `tag`.
    pub fn tag(mut self, tag: TagId) -> Cast {
        self.tags |= 1u64.checked_shl(tag.0.into()).unwrap_or(0);
        self
    }

    /// Resists `kind`: 0.25 takes a quarter off, 1 takes all, −0.5 is a weakness that adds half.
    pub fn resistance(mut self, kind: KindId, share: Fixed) -> Cast {
        self.resistance.push((kind, share));
        self
    }

    /// The fallen lie for `ticks` and are then removed.
    pub fn lies(mut self, ticks: u32) -> Cast {
        self.lies = Some(ticks);
        self
    }

    /// The name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The team.
    pub fn team(&self) -> TeamId {
        self.team
    }

    /// The parts, in their order.
    pub fn parts(&self) -> &[Part] {
        &self.parts
    }

    /// Whether it carries `tag`.
    pub fn has_tag(&self, tag: TagId) -> bool {
        self.tags & 1u64.checked_shl(tag.0.into()).unwrap_or(0) != 0
    }

    pub(crate) fn resistance_to(&self, kind: KindId) -> Fixed {
        self.resistance.iter().find(|(k, _)| *k == kind).map_or(Fixed::ZERO, |&(_, share)| share)
    }
}
