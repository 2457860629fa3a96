//! The gates, and the two values that disagreed at one.

use crate::event::SwingEnd;
use crate::ids::*;
use crate::ruleset::{Relation, Relations, Side};
use crate::state::Life;

/// The gates that a meeting passes, in their order. The first that does not let it through refuses it.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Gate {
    /// An attack does not strike the body that carries it.
    OwnBody,
    /// The swing has ended.
    Ended,
    /// No window of the swing is open.
    Closed,
    /// The target has died.
    Dead,
    /// The target is away.
    Away,
    /// The target is gone.
    Gone,
    /// The attack does not meet the part's layer.
    Layer,
    /// The attack does not strike those who stand so to the attacker.
    Team,
    /// The target lacks a tag that the attack needs, or carries one that it spares.
    Tags,
    /// The attack does not come from the side that it must come from.
    Direction,
    /// An obstacle is between.
    Obstacle,
    /// The swing has struck the target already, as often as its policy allows.
    Struck,
    /// The target's next turn has not come.
    Interval,
    /// The swing has struck as many targets as it may, or its body has.
    MaxTargets,
    /// The target is invulnerable.
    Invulnerable,
    /// An intercept refused or deflected it.
    Intercepted,
}

impl Gate {
    /// All gates, in their order.
    pub const ALL: [Gate; 16] = [
        Gate::OwnBody,
        Gate::Ended,
        Gate::Closed,
        Gate::Dead,
        Gate::Away,
        Gate::Gone,
        Gate::Layer,
        Gate::Team,
        Gate::Tags,
        Gate::Direction,
        Gate::Obstacle,
        Gate::Struck,
        Gate::Interval,
        Gate::MaxTargets,
        Gate::Invulnerable,
        Gate::Intercepted,
    ];

    /// The gate's name in the feed.
    pub const fn name(self) -> &'static str {
        match self {
            Gate::OwnBody => "own-body",
            Gate::Ended => "ended",
            Gate::Closed => "closed",
            Gate::Dead => "dead",
            Gate::Away => "away",
            Gate::Gone => "gone",
            Gate::Layer => "layer",
            Gate::Team => "team",
            Gate::Tags => "tags",
            Gate::Direction => "direction",
            Gate::Obstacle => "obstacle",
            Gate::Struck => "already-struck",
            Gate::Interval => "interval",
            Gate::MaxTargets => "max-targets",
            Gate::Invulnerable => "invulnerable",
            Gate::Intercepted => "intercepted",
        }
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
}
