//! What may be ordered, as plain data.

mod about;

pub(crate) use about::tamed;

use crate::Fixed;
use crate::geometry::{Frame, Obstacle, Pose};
use crate::ids::*;
use crate::ruleset::def::{Count, GaugeChange, Keep, Modifier, Tactic};
use crate::terms::HostValue;
use crate::terms::Listen;
use crate::terms::OrderKind;
use crate::terms::Spoken;
use crate::terms::Text;

/// A touch that the host's own physics reports. Unless said, it was at the start of the tick, by the first hitbox, and by no projectile.
#[derive(Clone, Copy, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Touch {
    /// Where on the target, in metres in the world.
    pub point: [f32; 3],
    /// Out of the target; brought to length 1.
    pub normal: [f32; 3],
    /// When in the tick, from 0 to 1: earlier impacts win.
    pub toi: f32,
    /// By which hitbox of the attack, from 0; or which part of the attacker's for attacks by touch. Its group decides on which struck list it is.
    pub hitbox: u16,
    /// By which projectile of the swing, from 1; 0 for none.
    pub body: u16,
    /// How fast they close in where they touch, in metres a second.
    pub speed: f32,
}

impl Touch {
    /// A touch at a point in the world, with the way out of the target.
    pub const fn new(point: [f32; 3], normal: [f32; 3]) -> Touch {
        Touch { point, normal, toi: 0.0, hitbox: 0, body: 0, speed: 0.0 }
    }

    /// The same at a time of the tick, from 0 to 1.
    pub const fn at(self, toi: f32) -> Touch {
        Touch { toi, ..self }
    }

    /// The same by another hitbox.
    pub const fn by(self, hitbox: u16) -> Touch {
        Touch { hitbox, ..self }
    }

    /// The same by a projectile.
    pub const fn of_body(self, body: u16) -> Touch {
        Touch { body, ..self }
    }

    /// The same at a speed at which they close in, in metres a second, for attacks whose amount depends on it.
    pub const fn closing(self, speed: f32) -> Touch {
        Touch { speed, ..self }
    }

    /// All of it as bits.
    fn bits(&self) -> ([u32; 8], [u16; 2]) {
        let ([x, y, z], [u, v, w]) = (self.point, self.normal);
        ([x, y, z, u, v, w, self.toi, self.speed].map(f32::to_bits), [self.hitbox, self.body])
    }
}

impl PartialEq for Touch {
    fn eq(&self, other: &Touch) -> bool {
        self.bits() == other.bits()
    }
}

impl Eq for Touch {}

impl std::hash::Hash for Touch {
    fn hash<H: std::hash::Hasher>(&self, state: &mut H) {
        self.bits().hash(state);
    }
}

/// Poses that were handed to the orders of an encounter, for an order that names them. They are there until the order is carried out:
/// whoever records orders takes the poses along ([`crate::Encounter::poses`]).
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Poses {
    pub(crate) first: u32,
    pub(crate) count: u32,
}

impl Poses {
    /// No poses.
    pub(crate) const NONE: Poses = Poses { first: 0, count: 0 };

    /// The poses among all that were given, if they are there.
    pub(crate) fn of(self, given: &[Pose]) -> Option<&[Pose]> {
        given.get(self.first as usize..)?.get(..self.count as usize)
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

/// Which subscriptions end, pause or go on.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Unsubscribe {
    /// The one of a handle. A subscription that changed nothing left its handle without one.
    Handle(SubscriptionId),
    /// Those of a hook that ask for just that.
    Like(HookId, Listen),
    /// The one of a hook under a key.
    Key(HookId, u32),
    /// All of a hook.
    Hook(HookId),
    /// All that a combatant owns.
    Owner(CombatantId),
    /// All that a number of the host's owns.
    Number(u64),
    /// All that ask for just one topic.
    Topic(TopicId),
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
        template: TemplateId,
        /// Its team, if it is not the template's.
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
    Teleport {
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
        /// Where an area stays, or the place and aim of a projectile, if not the attacker's own pose.
        aim: Option<Pose>,
    },
    /// An attack starts without an attacker: a trap, the weather. Not one that needs a body to carry it.
    SpawnAttack {
        /// The id that was reserved for the swing.
        swing: SwingId,
        /// Which attack.
        attack: AttackId,
        /// The team that it counts for.
        team: TeamId,
        /// Where it starts, and which way it is turned.
        pose: Pose,
        /// Who gets the credit for what it does, if anyone does.
        credit: Option<CombatantId>,
    },
    /// A marker of the host's animation, for attacks that are [marked](crate::attack::Attack::marked).
    Marker {
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
    /// The hitboxes of a [guided](crate::attack::Attack::guided) attack go to this pose in the course of the tick.
    Guide {
        /// Which swing.
        swing: SwingId,
        /// Where to, in the attacker's frame.
        pose: Pose,
    },
    /// Each hitbox of a [guided](crate::attack::Attack::guided) attack goes to a pose of its own in the course of the tick, when moves are
    /// over. An order that a hook gives is for the next tick.
    GuideHitboxes {
        /// Which swing.
        swing: SwingId,
        /// The frame of the poses.
        frame: Frame,
        /// One for each hitbox, in their order ([`crate::orders::Orders::poses`]).
        poses: Poses,
    },
    /// The parts of a combatant whose template is [posed](crate::template::Template::posed) go to these poses in the course of the tick, all
    /// of them, when its moves are over. Of several orders in a tick the last counts. One that a hook gives is for the next tick.
    PoseParts {
        /// Who.
        subject: CombatantId,
        /// The frame of the poses.
        frame: Frame,
        /// One for each part, in their order ([`crate::orders::Orders::poses`]).
        poses: Poses,
    },
    /// An obstacle is there from now on.
    AddObstacle {
        /// The number that was reserved for it.
        id: ObstacleId,
        /// What it is.
        obstacle: Obstacle,
    },
    /// An obstacle goes to a pose, evenly over so many ticks.
    MoveObstacle {
        /// Which.
        id: ObstacleId,
        /// Where to: the pose of the frame in which it was given, which is the world's until it is moved.
        pose: Pose,
        /// Over how many ticks, at least 1.
        ticks: u32,
    },
    /// An obstacle is at this pose from now on, without having swept there.
    PlaceObstacle {
        /// Which.
        id: ObstacleId,
        /// Where.
        pose: Pose,
    },
    /// The host found a wall in the way of a projectile: it ends in this tick as at an obstacle, and touches nothing that comes later in the
    /// tick.
    StopBody {
        /// Which swing.
        swing: SwingId,
        /// Where and when, and which of its projectiles.
        touch: Touch,
    },
    /// An obstacle is gone.
    RemoveObstacle {
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
        /// The target that it touched.
        target: CombatantId,
        /// On which part, by its number.
        part: u16,
        /// Where.
        touch: Touch,
    },
    /// Damage that no attack and no status deals.
    Damage {
        /// Its target.
        target: CombatantId,
        /// The damage type.
        damage_type: DamageTypeId,
        /// The amount that goes through the ruleset's steps, not below 0.
        amount: Fixed,
        /// The reason.
        reason: ReasonId,
        /// Who is to be credited, if anyone.
        source: Option<CombatantId>,
        /// Whether no prevention of death can stop it.
        absolute: bool,
    },
    /// Healing by whole points, not below 0.
    Heal {
        /// Its target.
        target: CombatantId,
        /// How many points.
        points: u32,
        /// The reason.
        reason: ReasonId,
        /// Who is to be credited, if anyone.
        source: Option<CombatantId>,
    },
    /// A status is applied.
    Apply {
        /// The target.
        subject: CombatantId,
        /// Which.
        status: StatusId,
        /// The source, if there is one.
        source: Option<CombatantId>,
        /// How strong; 1 is as authored.
        strength: Fixed,
    },
    /// Every status of a family is lifted.
    LiftFamily {
        /// The combatant that loses it.
        subject: CombatantId,
        /// The tag of the family.
        tag: TagId,
    },
    /// The host changes a stat for a reason, in place of what it changed for the same reason before. It lasts across lives.
    Change {
        /// The combatant.
        subject: CombatantId,
        /// Which stat.
        stat: StatId,
        /// By how much.
        by: Modifier,
        /// The reason.
        reason: ReasonId,
    },
    /// The host no longer changes a stat for a reason.
    Unchange {
        /// The combatant.
        subject: CombatantId,
        /// Which stat.
        stat: StatId,
        /// The reason.
        reason: ReasonId,
    },
    /// The maximum of health, without what a stat adds, is another.
    SetMaximum {
        /// The combatant.
        subject: CombatantId,
        /// The new maximum, at least 1 point.
        points: u32,
        /// What health keeps.
        keep: Keep,
    },
    /// A shield has more points, which no status brought.
    RaiseShield {
        /// The combatant.
        subject: CombatantId,
        /// Which shield.
        shield: ShieldId,
        /// How many more.
        points: u32,
    },
    /// A status is lifted.
    Lift {
        /// The combatant that loses it.
        subject: CombatantId,
        /// Which.
        status: StatusId,
    },
    /// A standing combatant leaves the fight for a while.
    SendAway {
        /// Who.
        subject: CombatantId,
    },
    /// One who is dead or away stands again; after a death, in its next life.
    Return {
        /// Who.
        subject: CombatantId,
        /// Where.
        pose: Pose,
        /// With which share of health, above 0 to 1; at least 1 point.
        share: Fixed,
    },
    /// A combatant is removed for good. That is no death.
    Remove {
        /// Who.
        subject: CombatantId,
    },
    /// A hook listens from now on. The same subscription again changes nothing, nor does one under a key that the hook has.
    Subscribe {
        /// The handle that was reserved for it.
        id: SubscriptionId,
        /// Which hook.
        hook: HookId,
        /// To what.
        listen: Listen,
    },
    /// Subscriptions end. Ending what is not there is harmless.
    Unsubscribe {
        /// Which.
        which: Unsubscribe,
    },
    /// Subscriptions hear nothing until they go on. What came up to then they still hear.
    Pause {
        /// Which.
        which: Unsubscribe,
    },
    /// Subscriptions that were paused go on, with what comes from then on.
    Resume {
        /// Which.
        which: Unsubscribe,
    },
    /// A fact of the host's own is published.
    Publish {
        /// The topic.
        topic: HostTopicId,
        /// The values of its fields, in their order.
        values: [HostValue; 4],
    },
    /// A flag goes up or down.
    SetFlag {
        /// Which.
        flag: FlagId,
        /// Up.
        up: bool,
    },
    /// A counter changes.
    Count {
        /// Which.
        counter: CounterId,
        /// How.
        count: Count,
    },
    /// A combatant goes over to another team. Swings that run count for the team in which they began.
    ChangeTeam {
        /// Who.
        subject: CombatantId,
        /// Its team from now on.
        team: TeamId,
    },
    /// The game's own minds are asked to do something with a combatant.
    Request {
        /// Who.
        subject: CombatantId,
        /// What.
        tactic: Tactic,
        /// Whom it is about, if it is about anyone.
        other: Option<CombatantId>,
    },
    /// The time of a combatant goes slower or faster than the encounter's: for its swings from the next stage of swings on, for all else that is due to
    /// it from the next tick on.
    ScaleTime {
        /// Who.
        subject: CombatantId,
        /// Sixteenths of a tick that pass for it in one, from 0 to 32; 16 is as usual.
        sixteenths: u8,
    },
    /// A combatant becomes one of another template. Its swings end; its id, team, life, statuses, struck entries and shares of health and of
    /// gauges stay.
    Transform {
        /// Who.
        subject: CombatantId,
        /// What it becomes.
        template: TemplateId,
    },
    /// Holds between a combatant and others end, whoever holds.
    LetGo {
        /// Who.
        subject: CombatantId,
    },
    /// No more waves of a sequence come.
    StopWaves {
        /// Which sequence.
        waves: WaveId,
    },
    /// A gauge of a combatant changes.
    ChangeGauge {
        /// Whose.
        subject: CombatantId,
        /// Which.
        gauge: GaugeId,
        /// How.
        change: GaugeChange,
        /// By so many points, or to so many.
        points: i64,
        /// Who brings it about, if anyone does.
        source: Option<CombatantId>,
    },
    /// A flag of a combatant goes up or down.
    FlagCombatant {
        /// Whose.
        subject: CombatantId,
        /// Which.
        flag: CombatantFlagId,
        /// Up.
        up: bool,
    },
    /// A counter of a combatant changes.
    CountCombatant {
        /// Whose.
        subject: CombatantId,
        /// Which.
        counter: CombatantCounterId,
        /// How.
        count: Count,
    },
    /// Something is scored.
    Score {
        /// Which score.
        score: ScoreId,
        /// How much.
        points: i64,
        /// Who is credited, if anyone.
        credit: Option<CombatantId>,
    },
    /// A value is attached to a combatant, in place of what its template says, for the record of its death.
    Attach {
        /// The combatant.
        subject: CombatantId,
        /// Which value.
        value: ValueId,
        /// How much.
        amount: i64,
    },
    /// A combatant follows another from now on, or no one. The follower is told, once, when its leader dies or is removed.
    Follow {
        /// The follower.
        subject: CombatantId,
        /// The combatant that it follows, if any.
        leader: Option<CombatantId>,
    },
    /// The host labels a combatant with 64 bits of its own: the number of its entity, mostly.
    Label {
        /// Who.
        subject: CombatantId,
        /// The label.
        label: u64,
    },
    /// A part of a combatant can be touched from now on, or can not.
    ShowPart {
        /// The combatant.
        subject: CombatantId,
        /// Which part, in the order of the template.
        part: u16,
        /// Whether it can be touched.
        shown: bool,
    },
    /// A combatant is so many times as large as its template says.
    Resize {
        /// Who.
        subject: CombatantId,
        /// How many times, from a hundredth to a hundred.
        size: Fixed,
    },
    /// An obstacle gets a name of the ruleset, for rules that move and clear those of that name.
    NameObstacle {
        /// Which.
        id: ObstacleId,
        /// The name.
        name: ObstacleNameId,
    },
    /// A sequence of waves begins.
    StartWaves {
        /// Which.
        waves: WaveId,
    },
    /// The next round begins.
    NextRound,
    /// A line is said.
    Say {
        /// Which, and what its blanks stand for.
        spoken: Spoken,
        /// The speaker, if there is one.
        subject: Option<CombatantId>,
    },
    /// A rule does what it does, whatever it hears and what it provides for. So do rules themselves order.
    Fire {
        /// Which.
        rule: RuleId,
        /// The subject of its fact.
        subject: Option<CombatantId>,
        /// The other party.
        other: Option<CombatantId>,
    },
    /// The encounter begins anew when the tick is over.
    Reset,
    /// The encounter ends with this tick.
    End {
        /// How.
        outcome: OutcomeId,
    },
    /// A combatant joins, under a stable key of the host's own.
    SpawnKeyed {
        /// The id that was reserved for it.
        id: CombatantId,
        /// What it is made from.
        template: TemplateId,
        /// Its team, if it is not the template's.
        team: Option<TeamId>,
        /// Where it stands.
        pose: Pose,
        /// Who called it into the fight and gets credit for what it does.
        owner: Option<CombatantId>,
        /// Its stable key, which no other combatant has.
        key: u64,
    },
    /// From now on a swing is tested against where its targets, and obstacles, were so many ticks ago.
    Rewind {
        /// Which swing.
        swing: SwingId,
        /// How many ticks, at most as many as the ruleset says; 0 for the present.
        ticks: u16,
    },
    /// A stand-in tells what it has chosen, or why it does not do it.
    TellChoice {
        /// Who.
        subject: CombatantId,
        /// Its target, if it has one.
        other: Option<CombatantId>,
        /// Whether it does not do it after all.
        dropped: bool,
        /// The names of its tactics and of the choice; and what did not fit before it, or why it is dropped.
        texts: [Text; 3],
    },
    /// An obstacle lets everything through from now on, or is in the way again.
    OpenObstacle {
        /// Which.
        id: ObstacleId,
        /// Whether it lets everything through.
        open: bool,
    },
}
