//! Orders: the one door into an encounter.

use crate::Fixed;
use crate::geometry::{Obstacle, Pose};
use crate::hooks::Listen;
use crate::ids::*;
use crate::ruleset::{By, Keep};
use crate::state::{Pending, Registrar};

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

/// Why an order was refused. A refused order changes nothing.
#[derive(Clone, Copy, PartialEq, Debug, thiserror::Error)]
pub enum Refusal {
    /// No such combatant was ever in the encounter.
    #[error("there is no such combatant")]
    Unknown,
    /// The combatant was removed.
    #[error("the combatant is gone")]
    Gone,
    /// The combatant has fallen.
    #[error("the combatant has fallen")]
    Fallen,
    /// The combatant is away.
    #[error("the combatant is away")]
    Away,
    /// The combatant stands already.
    #[error("the combatant stands already")]
    Standing,
    /// The combatant is in the middle of another swing.
    #[error("another swing is still running")]
    Busy,
    /// The pose, point or normal has a number that is not finite, or a turn or normal of no length.
    #[error("a number is not finite, or a turn or normal has no length")]
    NotFinite,
    /// The move goes farther in one tick than the ruleset allows.
    #[error("the move covers {metres} m in a tick, and {limit} m is the limit; place it instead")]
    TooFar {
        /// How far it would go in a tick, in metres.
        metres: f32,
        /// The limit, in metres.
        limit: f32,
    },
    /// A move over no ticks.
    #[error("a move takes at least one tick")]
    NoTicks,
    /// An amount below zero.
    #[error("the amount is below zero")]
    Negative,
    /// An id that this ruleset does not have.
    #[error("the ruleset has no such {0}")]
    NotInRuleset(&'static str),
    /// The combatant is stunned.
    #[error("the combatant is stunned")]
    Stunned,
    /// A press is waiting already for the chain's next step.
    #[error("a press is waiting already for the chain's next step")]
    Waiting,
    /// An attack that must be carried by a body, started by nobody.
    #[error("the attack needs a body to carry it")]
    NeedsBody,
    /// A marker, a release or guidance for a swing that takes none.
    #[error("the swing takes no such order: its attack is not {0}")]
    NotSo(&'static str),
    /// An obstacle that is no solid.
    #[error("the obstacle has a number that is not finite, or a size or normal of nothing")]
    NoSolid,
    /// An obstacle that is not there.
    #[error("there is no such obstacle")]
    NoObstacle,
    /// A part that the target does not have.
    #[error("the target has no such part")]
    NoSuchPart,
    /// A swing that has not started or has ended.
    #[error("there is no such swing, or it has ended")]
    NoSwing,
    /// A number that is out of its range.
    #[error("{0} is out of its range")]
    OutOfRange(&'static str),
    /// A change that the host did not make.
    #[error("nothing changes that stat for that reason")]
    NoChange,
    /// A status that the combatant does not have.
    #[error("the combatant has no such status")]
    NoStatus,
    /// Hooks led to this order through more orders than the ruleset allows.
    #[error("it is a cascade: hooks led here through more orders than the ruleset allows")]
    Cascade,
}

/// Gives orders to an encounter. From the host by [`crate::Encounter::orders`], and in hooks.
///
/// Ids of combatants and swings are reserved at once, so that later orders can name them;
/// the order itself takes effect, or is refused with a fact, when it is carried out.
#[derive(Debug)]
pub struct Orders<'a> {
    pub(crate) queue: &'a mut Vec<Pending>,
    pub(crate) registrar: &'a mut Registrar,
    /// The fact that was heard and the hook that heard it, for orders of hooks.
    pub(crate) heard: Option<(u64, HookId)>,
    pub(crate) depth: u16,
}

impl Orders<'_> {
    /// Gives any order. The number is the one that a refusal names.
    pub fn give(&mut self, order: Order) -> OrderId {
        let number = self.registrar.next_order();
        self.queue.push(Pending { order, number, heard: self.heard, depth: self.depth });
        number
    }

    /// A combatant made from `cast` joins at `pose`.
    ///
    /// Its stable key, on which rolls depend, comes from the cast entry's name and from how many
    /// of that entry were spawned before it.
    pub fn spawn(&mut self, cast: CastId, pose: Pose) -> CombatantId {
        self.spawn_as(cast, pose, None, None)
    }

    /// As [`spawn`](Self::spawn), for a team and an owner of your choosing.
    pub fn spawn_as(
        &mut self,
        cast: CastId,
        pose: Pose,
        team: Option<TeamId>,
        owner: Option<CombatantId>,
    ) -> CombatantId {
        let id = self.registrar.reserve();
        self.give(Order::Spawn { id, cast, team, pose, owner });
        id
    }

    /// `subject` moves to `pose` in this tick.
    pub fn move_to(&mut self, subject: CombatantId, pose: Pose) -> OrderId {
        self.give(Order::Move { subject, pose, ticks: 1 })
    }

    /// `subject` moves to `pose` evenly over `ticks`.
    pub fn move_over(&mut self, subject: CombatantId, pose: Pose, ticks: u32) -> OrderId {
        self.give(Order::Move { subject, pose, ticks })
    }

    /// `subject` is at `pose`, without a sweep.
    pub fn place(&mut self, subject: CombatantId, pose: Pose) -> OrderId {
        self.give(Order::Place { subject, pose })
    }

    /// `subject` starts `attack`. The first tick of the swing is the one in which the order is carried out,
    /// or, for orders of hooks, the next.
    pub fn start(&mut self, subject: CombatantId, attack: AttackId) -> SwingId {
        self.start_with(subject, attack, None)
    }

    /// As [`start`](Self::start), placed or aimed at a pose of the world: what is placed stays there, what is thrown leaves
    /// from there along its +Z.
    pub fn start_at(&mut self, subject: CombatantId, attack: AttackId, aim: Pose) -> SwingId {
        self.start_with(subject, attack, Some(aim))
    }

    fn start_with(&mut self, subject: CombatantId, attack: AttackId, aim: Option<Pose>) -> SwingId {
        let swing = self.registrar.next_swing();
        self.give(Order::Start { swing, subject, attack, aim });
        swing
    }

    /// An attack starts at `pose` that is nobody's and counts for `team`.
    pub fn unleash(&mut self, attack: AttackId, team: TeamId, pose: Pose) -> SwingId {
        let swing = self.registrar.next_swing();
        self.give(Order::Unleash { swing, attack, team, pose });
        swing
    }

    /// The host's animation has reached `marker`.
    pub fn mark(&mut self, swing: SwingId, marker: Marker) -> OrderId {
        self.give(Order::Mark { swing, marker })
    }

    /// `swing` is released from its charge.
    pub fn release(&mut self, swing: SwingId) -> OrderId {
        self.give(Order::Release { swing })
    }

    /// The volumes of `swing` go to `pose`, in the attacker's frame, in the course of the tick.
    pub fn guide(&mut self, swing: SwingId, pose: Pose) -> OrderId {
        self.give(Order::Guide { swing, pose })
    }

    /// An obstacle is there.
    pub fn obstruct(&mut self, obstacle: Obstacle) -> ObstacleId {
        let id = self.registrar.next_obstacle();
        self.give(Order::Obstruct { id, obstacle });
        id
    }

    /// An obstacle is gone.
    pub fn clear(&mut self, id: ObstacleId) -> OrderId {
        self.give(Order::Clear { id })
    }

    /// `swing` ends.
    pub fn cancel(&mut self, swing: SwingId) -> OrderId {
        self.give(Order::Cancel { swing })
    }

    /// The host's physics found that `swing` touches `part` of `target`.
    pub fn report(&mut self, swing: SwingId, target: CombatantId, part: u16, touch: Touch) -> OrderId {
        self.give(Order::Report { swing, target, part, touch })
    }

    /// Harm of `kind` for a named reason, with nobody to credit.
    pub fn harm(&mut self, target: CombatantId, kind: KindId, amount: Fixed, reason: ReasonId) -> OrderId {
        self.give(Order::Harm { target, kind, amount, reason, source: None, absolute: false })
    }

    /// As [`harm`](Self::harm), so that no reprieve can stop it.
    pub fn harm_absolutely(
        &mut self,
        target: CombatantId,
        kind: KindId,
        amount: Fixed,
        reason: ReasonId,
    ) -> OrderId {
        self.give(Order::Harm { target, kind, amount, reason, source: None, absolute: true })
    }

    /// Healing by `points` for a named reason.
    pub fn heal(&mut self, target: CombatantId, points: u32, reason: ReasonId) -> OrderId {
        self.give(Order::Heal { target, points, reason, source: None })
    }

    /// Applies `status` to `subject`, credited to `source`.
    pub fn apply(&mut self, subject: CombatantId, status: StatusId, source: Option<CombatantId>) -> OrderId {
        self.apply_at(subject, status, source, Fixed::ONE)
    }

    /// As [`apply`](Self::apply), at a strength of your choosing.
    pub fn apply_at(
        &mut self,
        subject: CombatantId,
        status: StatusId,
        source: Option<CombatantId>,
        strength: Fixed,
    ) -> OrderId {
        self.give(Order::Apply { subject, status, source, strength })
    }

    /// Lifts every status of the family `tag` from `subject`.
    pub fn lift_family(&mut self, subject: CombatantId, tag: TagId) -> OrderId {
        self.give(Order::LiftFamily { subject, tag })
    }

    /// Changes a stat of `subject` for a reason, until [`unchange`](Self::unchange).
    pub fn change(&mut self, subject: CombatantId, stat: StatId, by: By, reason: ReasonId) -> OrderId {
        self.give(Order::Change { subject, stat, by, reason })
    }

    /// Takes back what was changed for a reason.
    pub fn unchange(&mut self, subject: CombatantId, stat: StatId, reason: ReasonId) -> OrderId {
        self.give(Order::Unchange { subject, stat, reason })
    }

    /// The maximum of health of `subject` is another.
    pub fn set_maximum(&mut self, subject: CombatantId, points: u32, keep: Keep) -> OrderId {
        self.give(Order::SetMaximum { subject, points, keep })
    }

    /// A shield of `subject` has more points.
    pub fn raise_shield(&mut self, subject: CombatantId, shield: ShieldId, points: u32) -> OrderId {
        self.give(Order::RaiseShield { subject, shield, points })
    }

    /// Lifts `status` from `subject`.
    pub fn lift(&mut self, subject: CombatantId, status: StatusId) -> OrderId {
        self.give(Order::Lift { subject, status })
    }

    /// `subject` leaves for a while.
    pub fn send_away(&mut self, subject: CombatantId) -> OrderId {
        self.give(Order::SendAway { subject })
    }

    /// `subject`, fallen or away, stands again at `pose`.
    pub fn bring_back(&mut self, subject: CombatantId, pose: Pose) -> OrderId {
        self.give(Order::Return { subject, pose })
    }

    /// `subject` is removed for good.
    pub fn remove(&mut self, subject: CombatantId) -> OrderId {
        self.give(Order::Remove { subject })
    }

    /// `hook` listens.
    pub fn subscribe(&mut self, hook: HookId, listen: Listen) -> OrderId {
        self.give(Order::Subscribe { hook, listen })
    }

    /// `hook` listens no longer.
    pub fn unsubscribe(&mut self, hook: HookId, listen: Listen) -> OrderId {
        self.give(Order::Unsubscribe { hook, listen })
    }

    /// The encounter ends.
    pub fn end(&mut self, outcome: OutcomeId) -> OrderId {
        self.give(Order::End { outcome })
    }
}
