//! The gates, and the two values that disagreed at one.

use crate::event::SwingEnd;
use crate::ids::*;
use crate::level::InLevel;
use crate::named::named;
use crate::ruleset::def::{Relation, Relations, Side};
use crate::terms::Life;

named! {
    /// The gates that a meeting passes, in their order. The first that does not let it through refuses it.
    pub enum Gate {
        /// An attack does not strike the body that carries it.
        OwnBody = "own-body",
        /// The swing has ended.
        Ended = "ended",
        /// No window of the swing is open.
        Closed = "closed",
        /// The target has died.
        Dead = "dead",
        /// The target is away.
        Away = "away",
        /// The target is gone.
        Gone = "gone",
        /// The attack does not meet the part's layer.
        Layer = "layer",
        /// The attack does not strike those who stand so to the attacker.
        Team = "team",
        /// The target lacks a tag that the attack needs, or carries one that it spares.
        Tags = "tags",
        /// The attack does not come from the side that it must come from.
        Direction = "direction",
        /// An obstacle is between.
        Obstacle = "obstacle",
        /// The swing has struck the target already, as often as its policy allows.
        Struck = "already-struck",
        /// The target's next turn has not come.
        Interval = "interval",
        /// The swing has struck as many targets as it may, or its body has.
        MaxTargets = "max-targets",
        /// The target parried it.
        Parried = "parried",
        /// The target deflected it.
        Deflected = "deflected",
        /// The target is invulnerable.
        Invulnerable = "invulnerable",
        /// An intercept refused or deflected it.
        Intercepted = "intercepted",
    }
}

/// One of the two values that disagreed at a gate.
#[derive(Clone, Copy, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Operand {
    /// Another body than the attacker's.
    OtherBody,
    /// The attacker's own body.
    OwnBody,
    /// A running swing.
    Running,
    /// A swing that has ended, and why.
    SwingEnded(SwingEnd),
    /// An open window.
    OpenWindow,
    /// The swing's clock, in ticks, when no window was open.
    Clock(u32),
    /// Where a combatant stands between life and removal.
    Life(Life),
    /// Layers: bit `n` for layer number `n`.
    Layers(u32),
    /// A layer.
    Layer(LayerId),
    /// Relations that the attack strikes.
    Relations(Relations),
    /// The relation that was found.
    Relation(Relation),
    /// How many turns the swing has used up, or may use up, at this target (in this window, if that is the policy).
    Turns(u32),
    /// All of these tags: bit `n` for tag number `n`.
    AllTags(u64),
    /// None of these tags.
    NoTags(u64),
    /// The target's tags.
    Tags(u64),
    /// A side, and the least cosine of the angle to it.
    Side(Side, f32),
    /// The cosine of the angle that was found.
    Cosine(f32),
    /// Nothing in between.
    ClearLine,
    /// An obstacle in between.
    Behind(ObstacleId),
    /// Ticks since the last turn.
    Ticks(u32),
    /// How many targets.
    Targets(u32),
    /// No status that makes invulnerable, or only such as the attack ignores.
    Vulnerable,
    /// A status that makes invulnerable.
    Status(StatusId),
    /// An intercept that lets it pass.
    Passed,
    /// An intercept that refused it, and its reason.
    Refused(HookId, ReasonId),
    /// An intercept that deflected it.
    Deflected(HookId),
    /// An open window, by its number from 1.
    Window(u16),
    /// A shape of the level in between.
    BehindShape(InLevel),
    /// No status that parries or deflects it.
    NotParried,
}

/// What a gate wanted and found that let a hit pass.
#[derive(Clone, Copy, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct GatePassed {
    /// The fact of the hit.
    pub seq: u64,
    /// The gate.
    pub gate: Gate,
    /// What it wanted.
    pub wanted: Operand,
    /// What it found.
    pub found: Operand,
}
