//! What answers a hit beside damage: pushes, stagger, stops.

use std::hash::{Hash, Hasher};

use crate::Fixed;
use crate::ids::*;

/// Which way a push goes.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Away {
    /// From where the attack comes from to the target, level.
    #[default]
    FromAttacker,
    /// Into the target, against the normal at the point of contact.
    FromContact,
    /// Along the attacker's forward, level.
    Forward,
}

impl Away {
    /// All ways.
    pub const ALL: [Away; 3] = [Away::FromAttacker, Away::FromContact, Away::Forward];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            Away::FromAttacker => "from-attacker",
            Away::FromContact => "from-contact",
            Away::Forward => "forward",
        }
    }
}

/// Knock-back: a fact for the host to act on. The core moves no one unless `moves` says so.
#[doc(alias("push", "launch", "impulse"))]
#[derive(Clone, Copy, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Knockback {
    /// How far, in metres.
    pub metres: f32,
    /// How much of that is added along the up axis, in metres.
    pub lift: f32,
    /// Which way.
    pub away: Away,
    /// Over how many ticks, at least 1.
    pub ticks: u32,
    /// Whether the target is moved by it, in place of what moves it at the time.
    pub moves: bool,
}

impl Hash for Knockback {
    fn hash<H: Hasher>(&self, hasher: &mut H) {
        let Knockback { metres, lift, ticks, away, moves } = *self;
        ([metres, lift].map(f32::to_bits), ticks, away, moves).hash(hasher);
    }
}

impl Knockback {
    /// A level push away from where the attack comes from, which moves no one by itself.
    pub const fn new(metres: f32, ticks: u32) -> Knockback {
        Knockback { metres, lift: 0.0, away: Away::FromAttacker, ticks, moves: false }
    }
}

/// Hit-stop: for how many ticks the clocks of both sides stand.
#[doc(alias("hit-stop", "hitstop", "freeze frames"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct HitStop {
    /// The attacker's.
    pub attacker: u32,
    /// The target's.
    pub target: u32,
}

/// Gathered damage that makes its bearer stagger.
#[doc(alias("poise", "stagger", "flinch"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Stagger {
    /// How much gathered damage it takes. Then it is gathered anew, from nothing.
    pub at: Fixed,
    /// How much of it wanes in a second.
    pub recovers: Fixed,
    /// A status that it brings.
    pub status: Option<StatusId>,
}

/// How the amount grows with the speed at which hitbox and part close in where they touch.
#[doc(alias("impact velocity", "momentum"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct ClosingSpeed {
    /// Up to this speed the least share is dealt, in metres a second.
    pub from: Fixed,
    /// From this speed on all of it; evenly in between.
    pub full: Fixed,
    /// The least share, 0 to 1.
    pub least: Fixed,
}

/// How the amount falls off with the distance from where the attack comes from.
#[doc(alias("damage falloff", "range"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct FallOff {
    /// Up to here nothing is lost, in metres.
    pub near: Fixed,
    /// From here on the least share is left, in metres; evenly in between.
    pub far: Fixed,
    /// The least share, 0 to 1.
    pub least: Fixed,
}
