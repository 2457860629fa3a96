//! What may be ordered, as plain data.

use crate::Fixed;
use crate::geometry::{Obstacle, Pose};
use crate::hooks::Listen;
use crate::ids::*;
use crate::ruleset::{By, Keep};

/// A touch that the host's own physics reports.
#[derive(Clone, Copy, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Touch {
    /// Where on the target, in metres in the world.
    pub point: [f32; 3],
    /// Out of the target; brought to length 1.
    pub normal: [f32; 3],
}

impl PartialEq for Touch {
    fn eq(&self, other: &Touch) -> bool {
        let bits = |touch: &Touch| (touch.point.map(f32::to_bits), touch.normal.map(f32::to_bits));
        bits(self) == bits(other)
    }
}

impl Eq for Touch {}

impl std::hash::Hash for Touch {
    fn hash<H: std::hash::Hasher>(&self, state: &mut H) {
        (self.point.map(f32::to_bits), self.normal.map(f32::to_bits)).hash(state);
    }
}

/// What a marker of the host's animation says.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Marker {
    /// A window opens; if one is open, the next opens in its place.
    Open,
    /// The window closes.
    Close,
    /// The swing is over.
    End,
}

/// An order to an encounter, as plain data. Orders are carried out one by one, in the order given,
/// at the start of the next tick; those of hooks in a further pass of the same tick.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Order {
    /// A combatant joins.
    Spawn {
        /// The id that was reserved for it.
        id: CombatantId,
        /// What it is made from.
        cast: CastId,
        /// Its team, if it is not the cast entry's.
        team: Option<TeamId>,
        /// Where it stands.
        pose: Pose,
        /// Who called it into the fight and gets credit for what it does.
        owner: Option<CombatantId>,
    },
    /// A combatant moves from its pose to this one, evenly over so many ticks; attacks and parts sweep along.
    Move {
        /// Who.
        subject: CombatantId,
        /// Where to.
        pose: Pose,
        /// Over how many ticks, at least 1.
        ticks: u32,
    },
    /// A combatant is at this pose from now on, without having swept there.
    Place {
        /// Who.
        subject: CombatantId,
        /// Where.
        pose: Pose,
    },
    /// A combatant starts an attack.
    Start {
        /// The id that was reserved for the swing.
        swing: SwingId,
        /// Who.
        subject: CombatantId,
        /// Which attack.
        attack: AttackId,
        /// Where it is placed, or the place and aim of a throw, if not the attacker's own pose.
        aim: Option<Pose>,
    },
    /// An attack starts that is nobody's: a trap, the weather. Not one that needs a body to carry it.
    Unleash {
        /// The id that was reserved for the swing.
        swing: SwingId,
        /// Which attack.
        attack: AttackId,
        /// The team that it counts for.
        team: TeamId,
        /// Where it starts, and which way it is turned.
        pose: Pose,
    },
    /// A marker of the host's animation, for attacks that are [marked](crate::Attack::marked).
    Mark {
        /// Which swing.
        swing: SwingId,
        /// Which marker.
        marker: Marker,
    },
    /// A swing that is being charged is released.
    Release {
        /// Which swing.
        swing: SwingId,
    },
    /// The volumes of a [guided](crate::Attack::guided) attack go to this pose in the course of the tick.
    Guide {
        /// Which swing.
        swing: SwingId,
        /// Where to, in the attacker's frame.
        pose: Pose,
    },
    /// An obstacle is there from now on.
    Obstruct {
        /// The number that was reserved for it.
        id: ObstacleId,
        /// What it is.
        obstacle: Obstacle,
    },
    /// An obstacle is gone.
    Clear {
        /// Which.
        id: ObstacleId,
    },
    /// A swing ends now.
    Cancel {
        /// Which swing.
        swing: SwingId,
    },
    /// A swing touched a target, as the host's own physics found; it passes the same gates as what is detected here.
    Report {
        /// Which swing.
        swing: SwingId,
        /// Whom it touched.
        target: CombatantId,
        /// On which part, by its number.
        part: u16,
        /// Where.
        touch: Touch,
    },
    /// Harm that no attack and no status deals.
    Harm {
        /// Whom it harms.
        target: CombatantId,
        /// The kind.
        kind: KindId,
        /// The amount that goes through the ruleset's steps, not below 0.
        amount: Fixed,
        /// The reason.
        reason: ReasonId,
        /// Who is to be credited, if anybody.
        source: Option<CombatantId>,
        /// Whether no reprieve can stop it.
        absolute: bool,
    },
    /// Healing by whole points, not below 0.
    Heal {
        /// Whom it heals.
        target: CombatantId,
        /// How many points.
        points: u32,
        /// The reason.
        reason: ReasonId,
        /// Who is to be credited, if anybody.
        source: Option<CombatantId>,
    },
    /// A status is applied.
    Apply {
        /// To whom.
        subject: CombatantId,
        /// Which.
        status: StatusId,
        /// By whom, if by anybody.
        source: Option<CombatantId>,
        /// How strong; 1 is as authored.
        strength: Fixed,
    },
    /// Every status of a family is lifted.
    LiftFamily {
        /// From whom.
        subject: CombatantId,
        /// The tag of the family.
        tag: TagId,
    },
    /// The host changes a stat for a reason, in place of what it changed for the same reason before. It lasts across lives.
    Change {
        /// Whose.
        subject: CombatantId,
        /// Which stat.
        stat: StatId,
        /// By how much.
        by: By,
        /// The reason.
        reason: ReasonId,
    },
    /// The host no longer changes a stat for a reason.
    Unchange {
        /// Whose.
        subject: CombatantId,
        /// Which stat.
        stat: StatId,
        /// The reason.
        reason: ReasonId,
    },
    /// The maximum of health, without what a stat adds, is another.
    SetMaximum {
        /// Whose.
        subject: CombatantId,
        /// The new maximum, at least 1 point.
        points: u32,
        /// What health keeps.
        keep: Keep,
    },
    /// A shield has more points, which no status brought.
    RaiseShield {
        /// Whose.
        subject: CombatantId,
        /// Which shield.
        shield: ShieldId,
        /// How many more.
        points: u32,
    },
    /// A status is lifted.
    Lift {
        /// From whom.
        subject: CombatantId,
        /// Which.
        status: StatusId,
    },
    /// A standing combatant leaves the fight for a while.
    SendAway {
        /// Who.
        subject: CombatantId,
    },
    /// One who is fallen or away stands again, at full health; after a fall, in its next life.
    Return {
        /// Who.
        subject: CombatantId,
        /// Where.
        pose: Pose,
    },
    /// A combatant is removed for good. That is no death.
    Remove {
        /// Who.
        subject: CombatantId,
    },
    /// A hook listens from now on. The same subscription again changes nothing.
    Subscribe {
        /// Which hook.
        hook: HookId,
        /// To what.
        listen: Listen,
    },
    /// A hook listens no longer. Ending what is not there is harmless.
    Unsubscribe {
        /// Which hook.
        hook: HookId,
        /// To what.
        listen: Listen,
    },
    /// The encounter ends with this tick.
    End {
        /// How.
        outcome: OutcomeId,
    },
}

impl Order {
    /// The order's name in the feed.
    pub const fn name(&self) -> &'static str {
        match self {
            Order::Spawn { .. } => "spawn",
            Order::Move { .. } => "move",
            Order::Place { .. } => "place",
            Order::Start { .. } => "start",
            Order::Unleash { .. } => "unleash",
            Order::Mark { .. } => "mark",
            Order::Release { .. } => "release",
            Order::Guide { .. } => "guide",
            Order::Obstruct { .. } => "obstruct",
            Order::Clear { .. } => "clear",
            Order::Cancel { .. } => "cancel",
            Order::Report { .. } => "report",
            Order::Harm { .. } => "harm",
            Order::Heal { .. } => "heal",
            Order::Apply { .. } => "apply",
            Order::Lift { .. } => "lift",
            Order::LiftFamily { .. } => "lift-family",
            Order::Change { .. } => "change",
            Order::Unchange { .. } => "unchange",
            Order::SetMaximum { .. } => "set-maximum",
            Order::RaiseShield { .. } => "raise-shield",
            Order::SendAway { .. } => "send-away",
            Order::Return { .. } => "return",
            Order::Remove { .. } => "remove",
            Order::Subscribe { .. } => "subscribe",
            Order::Unsubscribe { .. } => "unsubscribe",
            Order::End { .. } => "end",
        }
    }

    /// Whom the order is about, if it is about a combatant.
    pub const fn subject(&self) -> Option<CombatantId> {
        match *self {
            Order::Spawn { id, .. } => Some(id),
            Order::Move { subject, .. }
            | Order::Place { subject, .. }
            | Order::Start { subject, .. }
            | Order::Apply { subject, .. }
            | Order::Lift { subject, .. }
            | Order::LiftFamily { subject, .. }
            | Order::Change { subject, .. }
            | Order::Unchange { subject, .. }
            | Order::SetMaximum { subject, .. }
            | Order::RaiseShield { subject, .. }
            | Order::SendAway { subject }
            | Order::Return { subject, .. }
            | Order::Remove { subject } => Some(subject),
            Order::Report { target, .. } | Order::Harm { target, .. } | Order::Heal { target, .. } => {
                Some(target)
            }
            Order::Cancel { .. }
            | Order::Unleash { .. }
            | Order::Mark { .. }
            | Order::Release { .. }
            | Order::Guide { .. }
            | Order::Obstruct { .. }
            | Order::Clear { .. }
            | Order::Subscribe { .. }
            | Order::Unsubscribe { .. }
            | Order::End { .. } => None,
        }
    }
}
