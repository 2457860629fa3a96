//! A swing and a target that met.

use crate::geometry::Impact;
use crate::ids::*;

/// A swing and a target that met in this tick.
#[derive(Clone, Copy, Debug)]
pub(crate) struct HitCandidate {
    pub(crate) swing: SwingId,
    pub(crate) target: CombatantId,
    pub(crate) part: u16,
    pub(crate) impact: Impact,
    /// Which struck list of the swing it is on: a group or a body where these have their own, else 0.
    pub(crate) list: u16,
    /// The projectile, from 1; 0 if there is none.
    pub(crate) body: u16,
    /// How far along a beam, in metres; 0 unless it is a beam's.
    pub(crate) depth: f32,
    /// How fast hitbox and part close in where they touch, in metres a second; 0 unless the attack asks.
    pub(crate) speed: f32,
    /// What the attack prefers about the part; less is better.
    pub(crate) rank: i64,
}
