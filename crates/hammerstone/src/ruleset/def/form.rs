//! The forms that an attack may have, and what only some of them need.

use crate::named::named;
use std::hash::{Hash, Hasher};

/// How an attack reaches its targets.
#[doc(alias("hitscan", "AoE", "area of effect"))]
#[derive(Clone, Copy, PartialEq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Form {
    /// Its hitboxes are in the attacker's frame, on a path of their own.
    Melee,
    /// Its hitboxes fly away from the attacker, each body on its own way.
    Projectile(Projectile),
    /// A straight line from the attacker, there in each tick of its windows.
    Beam(Beam),
    /// Its hitboxes stay where it was started.
    Area,
    /// The attacker's own parts; they touch until the swing is cancelled or its windows close.
    Touch,
}

named! {
    /// The form of an attack, without its numbers.
    pub enum FormKind {
        /// [`Form::Melee`].
        Melee = "melee",
        /// [`Form::Projectile`].
        Projectile = "projectile",
        /// [`Form::Beam`].
        Beam = "beam",
        /// [`Form::Area`].
        Area = "area",
        /// [`Form::Touch`].
        Touch = "touch",
    }
}

impl Form {
    /// The form's name in files and in the feed.
    pub const fn name(&self) -> &'static str {
        self.kind().name()
    }

    /// The form without its numbers.
    pub const fn kind(&self) -> FormKind {
        match self {
            Form::Melee => FormKind::Melee,
            Form::Projectile(_) => FormKind::Projectile,
            Form::Beam(_) => FormKind::Beam,
            Form::Area => FormKind::Area,
            Form::Touch => FormKind::Touch,
        }
    }
}

/// How projectiles fly. They leave when the first window opens.
///
/// *Frame:* the attacker's; a body leaves along +Z. *Motion:* straight within a tick; speed changes from tick to tick.
#[doc(alias("bullet", "arrow", "missile", "shotgun"))]
#[derive(Clone, Copy, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Projectile {
    /// Where they leave, in metres.
    pub from: [f32; 3],
    /// How fast, in metres a second.
    pub speed: f32,
    /// How much they are drawn against the up axis, in metres a second, each second.
    pub gravity: f32,
    /// How long each flies at most, in ticks.
    pub lifetime: u32,
    /// How many targets each goes through before the one in which it stops.
    pub pierce: u16,
    /// How many bodies leave at once.
    pub pellets: u16,
    /// The fan in which they leave, about the up axis, in degrees from the first to the last.
    pub spread: f32,
    /// Whether each turns with its flight, so that its own +Z leads: an arrow. Else it keeps the turn with which it left.
    pub aligned: bool,
}

impl Hash for Projectile {
    fn hash<H: Hasher>(&self, hasher: &mut H) {
        let Projectile { from: [x, y, z], speed, gravity, lifetime, pierce, pellets, spread, aligned } =
            *self;
        [x, y, z, speed, gravity, spread].map(f32::to_bits).hash(hasher);
        (lifetime, pierce, pellets, aligned).hash(hasher);
    }
}

impl Projectile {
    /// One body at `speed` metres a second, for `lifetime` ticks, stopping in the first target.
    pub const fn new(speed: f32, lifetime: u32) -> Projectile {
        Projectile {
            from: [0.0; 3],
            speed,
            gravity: 0.0,
            lifetime,
            pierce: 0,
            pellets: 1,
            spread: 0.0,
            aligned: false,
        }
    }
}

/// A straight line along +Z of the attacker's frame. Obstacles stop it.
#[doc(alias("hitscan", "ray", "laser"))]
#[derive(Clone, Copy, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Beam {
    /// Where it begins, in metres.
    pub from: [f32; 3],
    /// How far it goes, in metres.
    pub reach: f32,
    /// How thick it is about its line, in metres; 0 for a ray.
    pub radius: f32,
    /// How many targets it goes through, in each tick, before the one at which it stops.
    pub pierce: u16,
}

impl Hash for Beam {
    fn hash<H: Hasher>(&self, hasher: &mut H) {
        let Beam { from: [x, y, z], reach, radius, pierce } = *self;
        [x, y, z, reach, radius].map(f32::to_bits).hash(hasher);
        pierce.hash(hasher);
    }
}

/// From which side an attack must come.
#[derive(Clone, Copy, PartialEq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Side {
    /// The touch is on top of the target: its normal is within the angle of the up axis.
    Above,
    /// The attacker stands behind the target: within the angle of its −Z.
    Behind,
    /// The attacker stands before the target: within the angle of its +Z.
    Before,
}

impl Side {
    /// All sides.
    pub const ALL: [Side; 3] = [Side::Above, Side::Behind, Side::Before];

    /// The side's name in files and in the feed.
    pub const fn name(self) -> &'static str {
        match self {
            Side::Above => "above",
            Side::Behind => "behind",
            Side::Before => "before",
        }
    }
}

/// A side and how far from it, as the cosine of the angle.
#[derive(Clone, Copy, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Within {
    pub(crate) side: Side,
    pub(crate) cosine: f32,
}

impl Hash for Within {
    fn hash<H: Hasher>(&self, hasher: &mut H) {
        (self.side, self.cosine.to_bits()).hash(hasher);
    }
}

/// Which part a blow is on, of those that were touched in one tick.
#[doc(alias("headshot", "hit priority"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Prefer {
    /// The one that was touched first; of two at one time, the one named first.
    #[default]
    First,
    /// The one with the highest multiplier.
    Multiplier,
    /// The one nearest to where the attack comes from.
    Nearest,
}

impl Prefer {
    /// All preferences.
    pub const ALL: [Prefer; 3] = [Prefer::First, Prefer::Multiplier, Prefer::Nearest];

    /// The preference's name in files.
    pub const fn name(self) -> &'static str {
        match self {
            Prefer::First => "first",
            Prefer::Multiplier => "multiplier",
            Prefer::Nearest => "nearest",
        }
    }
}

/// Whose struck list it is.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Sharing {
    /// All hitboxes and bodies of a swing share one.
    #[default]
    Swing,
    /// The hitboxes of each group share one.
    Group,
    /// Each projectile has its own.
    Body,
}

impl Sharing {
    /// All ways of sharing.
    pub const ALL: [Sharing; 3] = [Sharing::Swing, Sharing::Group, Sharing::Body];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            Sharing::Swing => "swing",
            Sharing::Group => "group",
            Sharing::Body => "body",
        }
    }
}

/// When an attack starts another.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum When {
    /// A hit landed: there.
    Hit,
    /// A projectile met an obstacle: there.
    Obstacle,
    /// A projectile's time was up: there.
    Expiry,
    /// The swing ended, its time being up: where it was.
    End,
}

impl When {
    /// All occasions.
    pub const ALL: [When; 4] = [When::Hit, When::Obstacle, When::Expiry, When::End];

    /// The occasion's name in files.
    pub const fn name(self) -> &'static str {
        match self {
            When::Hit => "hit",
            When::Obstacle => "obstacle",
            When::Expiry => "expiry",
            When::End => "end",
        }
    }
}

/// How an attack's hitboxes meet those of other attacks.
#[doc(alias("weapon clash", "parry"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Clash {
    /// The clash layer that its hitboxes lie on, 0 to 31.
    pub layer: u8,
    /// The clash layers that they meet, bit `n` for layer `n`. Two swings clash if either meets the other's layer.
    pub meets: u32,
    /// The lower one ends.
    pub priority: i16,
    /// What ends where both have the same.
    pub tie: Tie,
}

/// What ends when two attacks of one priority clash.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Tie {
    /// Both.
    #[default]
    Both,
    /// Neither. If the two attacks differ in this, neither ends.
    Neither,
}

/// A startup that waits to be released. It comes before the timeline.
#[doc(alias("charged attack", "hold"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Charge {
    /// Ticks before it can be released; a release that comes earlier waits for them. No charge yet.
    pub least: u32,
    /// Ticks after which it releases itself, fully charged.
    pub most: u32,
    /// What the base amount is multiplied by at full charge; at none it is 1.
    pub full: crate::Fixed,
}

/// The next step of a chain.
#[derive(Clone, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct ChainTo {
    pub(crate) next: String,
    /// The input window, in ticks from the swing's start.
    pub(crate) opens: u32,
    pub(crate) lapses: u32,
}
