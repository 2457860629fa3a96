//! Why orders are refused.

use crate::ids::{CombatantId, GaugeId, PoolId};

macro_rules! words {
    ($($(#[$doc:meta])* $name:ident { $($variant:ident $word:literal),* $(,)? })*) => {$(
        $(#[$doc])*
        #[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        #[non_exhaustive]
        pub enum $name {
            $(
                #[doc = concat!("It is ", $word, ".")]
                $variant,
            )*
        }

        impl $name {
            /// In words.
            pub const fn name(self) -> &'static str {
                match self {
                    $($name::$variant => $word,)*
                }
            }
        }
    )*};
}

words! {
    /// What an order names that a ruleset defines.
    Definition {
        Attack "attack",
        Counter "counter",
        DamageType "damage type",
        Family "family",
        Flag "flag",
        Line "line",
        Outcome "outcome",
        Reason "reason",
        Rule "rule",
        Score "score",
        Shield "shield",
        Stat "stat",
        Status "status",
        Tag "tag",
        Team "team",
        Template "template",
        Topic "topic",
        Value "value",
        Waves "waves",
        Obstacle "name of obstacles",
        Gauge "gauge",
        CombatantFlag "flag of combatants",
        CombatantCounter "counter of combatants",
        Filter "filter",
    }
    /// What the attack of a swing must be for an order.
    SwingTrait { Charging "being charged", Guided "guided", Marked "marked" }
    /// A number of an order that has a range.
    Quantity {
        Change "the change",
        Healing "the healing",
        Maximum "the maximum",
        ShareOfHealth "the share of health",
        Shield "the shield",
        Strength "the strength",
        TimeOfImpact "the time of impact",
        Size "the size",
        Gauge "the change of the gauge",
        TimeScale "the time scale, in sixteenths from 0 to 32,",
    }
}

/// Why an order was refused. A refused order changes nothing.
#[derive(Clone, Copy, PartialEq, Debug, thiserror::Error)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Refusal {
    /// No such combatant was ever in the encounter.
    #[error("there is no such combatant")]
    Unknown,
    /// The combatant was removed.
    #[error("the combatant is gone")]
    Gone,
    /// The combatant has died.
    #[error("the combatant is dead")]
    Dead,
    /// The combatant is away.
    #[error("the combatant is away")]
    Away,
    /// The combatant stands already.
    #[error("the combatant stands already")]
    Standing,
    /// The combatant is in the middle of another swing.
    #[error("another swing is still running{}", when(*.ticks))]
    Busy {
        /// In how many ticks its hands are free, if no hit stops its clock and nothing else comes between; [`NEVER`] if that is not known.
        ticks: u32,
    },
    /// The pose, point or normal has a number that is not finite, or a turn or normal of no length.
    #[error("a number is not finite, or a turn or normal has no length")]
    NotFinite,
    /// The move goes farther in one tick than the ruleset allows.
    #[error("the move covers {metres} m in a tick, and {limit} m is the limit; teleport it instead")]
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
    #[error("the ruleset has no such {}", .0.name())]
    NotInRuleset(Definition),
    /// The combatant is stunned.
    #[error("the combatant is stunned{}", when(*.ticks))]
    Stunned {
        /// In how many ticks it no longer is; [`NEVER`] if no time ends it.
        ticks: u32,
    },
    /// A press is waiting already for the chain's next step.
    #[error("a press is waiting already for the chain's next step")]
    Waiting,
    /// An attack that needs a body, started without an attacker.
    #[error("the attack needs a body to carry it")]
    NeedsBody,
    /// A marker, a release or guidance for a swing that takes none.
    #[error("the swing takes no such order: its attack is not {}", .0.name())]
    NotSo(SwingTrait),
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
    #[error("{} is out of its range", .0.name())]
    OutOfRange(Quantity),
    /// A change that the host did not make.
    #[error("nothing changes that stat for that reason")]
    NoChange,
    /// A status that the combatant does not have.
    #[error("the combatant has no such status")]
    NoStatus,
    /// There are no more ids: every place for combatants is taken, or there were too many resets.
    #[error(
        "there are no more ids of this sort: 16 million places for combatants, or 65 535 resets, are used up"
    )]
    NoMoreIds,
    /// An id that this encounter did not reserve for what the order brings into being, or that was used before.
    #[error("the id was not reserved here, or was used before; take ids from the orders that reserve them")]
    NotReserved,
    /// A hook that was not given for the tick, or one that does not hear facts.
    #[error("there is no such hook that hears facts; subscribe one of those with which the tick runs")]
    NoSuchHook,
    /// Values that the topic does not hold.
    #[error("value number {0} does not fit the field of the topic")]
    WrongValue(usize),
    /// Waves that are coming already.
    #[error("they are coming already")]
    Coming,
    /// Someone who would follow themselves, or follow through others.
    #[error("a combatant cannot follow itself, directly or through others")]
    FollowsItself,
    /// The encounter has ended: all that may still be ordered is a reset.
    #[error("the encounter has ended; all that may still be ordered is a reset")]
    Ended,
    /// It was ordered in answer to a reset.
    #[error("the encounter begins anew")]
    Resetting,
    /// A hook for one payload, and a subscription to facts of another.
    #[error("the hook takes facts of another sort; subscribe it to the topic of its payload")]
    OtherPayload,
    /// Poses for the parts of one whose template does not say that they are posed.
    #[error("the parts of its template are not posed; give the template `posed`")]
    NotPosed,
    /// Not as many poses as there are parts or hitboxes.
    #[error("{given} poses are given for {wanted} parts or hitboxes; give one for each")]
    PoseCount {
        /// How many were given, and are still there.
        given: u32,
        /// How many are wanted.
        wanted: u32,
    },
    /// A pose is farther from the body than its template says, or that of a hitbox than a move may go.
    #[error(
        "pose number {pose} is {metres} m from the body, and {limit} m is the limit; raise the template's `posed`, or for hitboxes the move limit"
    )]
    OutOfReach {
        /// Which pose, from 0.
        pose: u16,
        /// How far from the body's place, in metres.
        metres: f32,
        /// The limit, in metres.
        limit: f32,
    },
    /// A touch by a hitbox that the attack does not have.
    #[error("the attack has no such hitbox; they are counted from 0, in their order")]
    NoSuchHitbox,
    /// A touch by a projectile that does not fly.
    #[error("no such projectile of the swing is in flight; they are counted from 1, and 0 stands for none")]
    NoSuchBody,
    /// The combatant is invulnerable; for damage by rules.
    #[error("the combatant is invulnerable; lift the status that makes it so, or wait for its end")]
    Invulnerable,
    /// A gauge has less than the attack costs at its start.
    #[error("{found} of {wanted} points of a gauge that the attack costs are there{}", when(*.ticks))]
    NotEnough {
        /// Which gauge.
        gauge: GaugeId,
        /// What it costs.
        wanted: u32,
        /// What is there.
        found: u32,
        /// In how many ticks it fills up that far by itself; [`NEVER`] if it does not.
        ticks: u32,
    },
    /// The attack cools down.
    #[error("the attack cools down{}", when(*.ticks))]
    CoolingDown {
        /// In how many ticks it has; [`NEVER`] while the swing from whose end it counts runs.
        ticks: u32,
    },
    /// All uses of the attack are spent.
    #[error("all uses of the attack are spent{}", when(*.ticks))]
    NoUses {
        /// In how many ticks one comes back; [`NEVER`] if none does.
        ticks: u32,
    },
    /// The combatant is rooted.
    #[error("the combatant is rooted; teleport it, or lift the status")]
    Rooted,
    /// Waves that are not coming.
    #[error("no waves of the sequence are coming; start them first")]
    NotComing,
    /// A gauge that the template of the combatant does not have.
    #[error("the combatant has no such gauge; name it in its template")]
    NoGauge,
    /// The combatant is held, and is where its holder has it.
    #[error("the combatant is held; order `let-go` first")]
    Held,
    /// A combatant that holds no one and that no one holds.
    #[error("the combatant is in no hold; only a hit of an attack with `holds` makes one")]
    NotHeld,
    /// A pool that is shared by as many as may share one.
    #[error("{} combatants share the health of pool number {}, and no more may; remove one first", crate::gauge::Pool::MOST, .0.index())]
    PoolFull(PoolId),
    /// A stable key that another combatant has.
    #[error("the combatant in place {} has this stable key; give each one of its own", .0.slot())]
    KeyTaken(CombatantId),
    /// A swing would be rewound further than is kept.
    #[error(
        "{ticks} ticks ago is further back than is kept, and {limit} are; raise the ruleset's `rewind`, or take a tick that is kept"
    )]
    TooFarBack {
        /// How many ticks.
        ticks: u32,
        /// How many are kept.
        limit: u32,
    },
}

impl Refusal {
    /// Of a start: how many ticks later it would no longer be refused for this, as things stand. None if that is not known, or if no time
    /// changes it. It counts from the tick for which the order was given; for an order of a hook, which comes late in its tick, it may be
    /// one more than needed.
    pub const fn ticks(self) -> Option<u32> {
        match self {
            Refusal::Busy { ticks }
            | Refusal::Stunned { ticks }
            | Refusal::NotEnough { ticks, .. }
            | Refusal::CoolingDown { ticks }
            | Refusal::NoUses { ticks }
                if ticks != NEVER =>
            {
                Some(ticks)
            }
            _ => None,
        }
    }
}

impl Refusal {
    /// The same without [when](Self::ticks) it would pass: what was wrong, and not for how long.
    pub const fn timeless(mut self) -> Refusal {
        match &mut self {
            Refusal::Busy { ticks }
            | Refusal::Stunned { ticks }
            | Refusal::NotEnough { ticks, .. }
            | Refusal::CoolingDown { ticks }
            | Refusal::NoUses { ticks } => *ticks = NEVER,
            _ => {}
        }
        self
    }
}

/// In place of a number of ticks: not by itself.
pub const NEVER: u32 = u32::MAX;

/// When a start would no longer be refused.
fn when(ticks: u32) -> String {
    match ticks {
        NEVER => String::new(),
        1 => "; it could be started in 1 tick".to_owned(),
        ticks => format!("; it could be started in {ticks} ticks"),
    }
}
