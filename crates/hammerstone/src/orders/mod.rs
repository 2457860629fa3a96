//! Orders: the one door into an encounter.

mod frames;
mod input;
mod order;
mod pending;
mod registrar;

pub use crate::terms::{Definition, OrderKind, Quantity, Refusal, SwingTrait};
pub(crate) use frames::{all_within, in_body, settled};
pub(crate) use input::Notes;
pub use input::{IdSort, Input, Inputs, MissingInput, Moved};
pub(crate) use order::tamed;
pub use order::{Marker, Order, Poses, Touch, Unsubscribe};
pub(crate) use pending::Pending;
pub(crate) use registrar::Registrar;

use crate::Fixed;
use crate::budget::Budget;
use crate::budget::Source;
use crate::event::{CutAt, Fact, Listener};
use crate::geometry::{Frame, Obstacle, Pose};
use crate::ids::*;
use crate::ruleset::def::{Count, GaugeChange, Keep, Modifier, Tactic};
use crate::terms::Listen;
use crate::terms::Spoken;
use crate::terms::{HostValue, Text};

/// Gives orders to an encounter. From the host by [`crate::Encounter::orders`], and in hooks.
///
/// Ids of combatants and swings are reserved at once, so that later orders can name them;
/// the order itself takes effect, or is refused with a fact, when it is carried out.
#[derive(Debug)]
pub struct Orders<'a> {
    pub(crate) queue: Queue<'a>,
    /// For orders of hooks.
    pub(crate) answer: Option<Answer<'a>>,
    /// Where what is asked is noted.
    pub(crate) notes: Notes<'a>,
}

/// Where orders wait.
#[derive(Debug)]
pub(crate) struct Queue<'a> {
    pub(crate) pending: &'a mut Vec<Pending>,
    pub(crate) registrar: &'a mut Registrar,
    /// Poses that orders name.
    pub(crate) given_poses: &'a mut Vec<Pose>,
    /// Texts that orders name.
    pub(crate) given_text: &'a mut Vec<u8>,
}

/// What the orders of a hook follow from, and the account of the tick that they are charged to.
#[derive(Debug)]
pub(crate) struct Answer<'a> {
    pub(crate) hook: HookId,
    pub(crate) heard: &'a Fact,
    /// The root of what is ordered. What the stages do by themselves has none; what a hook orders in answer to it has one, from the first
    /// order on.
    pub(crate) root: u32,
    pub(crate) budget: &'a mut Budget,
}

impl Answer<'_> {
    /// What the next order follows from; none if it is beyond the ruleset's limits.
    fn charge(&mut self) -> Option<Source> {
        if self.root == 0 {
            self.root = self.budget.root();
        }
        let (heard, listener) = (self.heard, Listener::Hook(self.hook));
        let source = Source {
            heard: Some((heard.seq, listener)),
            pass: heard.pass,
            depth: heard.depth + 1,
            root: self.root,
        };
        let place = || CutAt::Heard(listener, Some(heard.event.topic()));
        self.budget.allows(source, place).then_some(source)
    }
}

impl<'a> Orders<'a> {
    /// Gives any order. The number is the one that a refusal names.
    ///
    /// In a hook, an order beyond the ruleset's limits ([`crate::RulesetBuilder::cascade_limit`]) is dropped, and an id that was reserved
    /// for it lapses; the tick's `encounter.cut` says so.
    #[inline]
    pub fn give(&mut self, mut order: Order) -> OrderId {
        self.notes.note_order(&order);
        let number = self.queue.registrar.next_order();
        let source = match &mut self.answer {
            Some(answer) => answer.charge(),
            None => Some(Source::default()),
        };
        let Some(Source { heard, depth, root, .. }) = source else {
            self.queue.registrar.lapse(&order);
            return number;
        };
        self.queue.registrar.reserve_named(&order);
        order.tame_among(self.queue.given_poses);
        self.queue.pending.push(Pending { order, number, heard, depth, root });
        number
    }

    fn reserve_combatant(&mut self) -> Option<CombatantId> {
        self.notes.note(Input::Reserve(IdSort::Combatant));
        self.queue.registrar.reserve_combatant()
    }

    fn reserve_swing(&mut self) -> SwingId {
        self.notes.note(Input::Reserve(IdSort::Swing));
        self.queue.registrar.reserve_swing()
    }

    fn reserve_obstacle(&mut self) -> ObstacleId {
        self.notes.note(Input::Reserve(IdSort::Obstacle));
        self.queue.registrar.reserve_obstacle()
    }

    fn reserve_subscription(&mut self) -> SubscriptionId {
        self.notes.note(Input::Reserve(IdSort::Subscription));
        self.queue.registrar.reserve_subscription()
    }

    /// A combatant made from `template` joins at `pose`.
    ///
    /// Its stable key, on which rolls depend, comes from the template's name and from how many
    /// of that entry were spawned before it.
    pub fn spawn(&mut self, template: TemplateId, pose: Pose) -> CombatantId {
        self.spawn_as(template, pose, None, None)
    }

    /// As [`spawn`](Self::spawn), for a team and an owner of your choosing.
    pub fn spawn_as(
        &mut self,
        template: TemplateId,
        pose: Pose,
        team: Option<TeamId>,
        owner: Option<CombatantId>,
    ) -> CombatantId {
        let id = self.reserve_combatant().unwrap_or(CombatantId::NONE);
        self.give(Order::Spawn { id, template, team, pose, owner });
        id
    }

    /// As [`spawn_as`](Self::spawn_as), under a stable key of your choosing, such as the number of a player: its rolls and the keys of its facts then
    /// do not depend on who was spawned before it. For fights that are [rolled back](crate::rollback), where a late input may spawn.
    pub fn spawn_keyed(
        &mut self,
        template: TemplateId,
        pose: Pose,
        team: Option<TeamId>,
        owner: Option<CombatantId>,
        key: u64,
    ) -> CombatantId {
        let id = self.reserve_combatant().unwrap_or(CombatantId::NONE);
        self.give(Order::SpawnKeyed { id, template, team, pose, owner, key });
        id
    }

    /// `subject` moves to `pose` in this tick: no farther than the ruleset's move limit. So do the bodies of the dead, which nothing strikes.
    pub fn move_to(&mut self, subject: CombatantId, pose: Pose) -> OrderId {
        self.give(Order::Move { subject, pose, ticks: 1 })
    }

    /// `subject` moves to `pose` evenly over `ticks`.
    pub fn move_over(&mut self, subject: CombatantId, pose: Pose, ticks: u32) -> OrderId {
        self.give(Order::Move { subject, pose, ticks })
    }

    /// `subject` is at `pose`, without a sweep.
    pub fn teleport(&mut self, subject: CombatantId, pose: Pose) -> OrderId {
        self.give(Order::Teleport { subject, pose })
    }

    /// `subject` starts `attack`. The first tick of the swing is the one in which the order is carried out,
    /// or, for orders of hooks, the next.
    pub fn start(&mut self, subject: CombatantId, attack: AttackId) -> SwingId {
        self.start_with(subject, attack, None)
    }

    /// As [`start`](Self::start), at a pose of the world: an area stays there, a projectile leaves
    /// from there along its +Z.
    pub fn start_at(&mut self, subject: CombatantId, attack: AttackId, aim: Pose) -> SwingId {
        self.start_with(subject, attack, Some(aim))
    }

    fn start_with(&mut self, subject: CombatantId, attack: AttackId, aim: Option<Pose>) -> SwingId {
        let swing = self.reserve_swing();
        self.give(Order::Start { swing, subject, attack, aim });
        swing
    }

    /// An attack starts at `pose` that has no attacker and counts for `team`.
    pub fn spawn_attack(&mut self, attack: AttackId, team: TeamId, pose: Pose) -> SwingId {
        self.spawn_attack_by(attack, team, pose, None)
    }

    /// As [`spawn_attack`](Self::spawn_attack); what it does is credited to one, or to the owner of that one.
    pub fn spawn_attack_by(
        &mut self,
        attack: AttackId,
        team: TeamId,
        pose: Pose,
        credit: Option<CombatantId>,
    ) -> SwingId {
        let swing = self.reserve_swing();
        self.give(Order::SpawnAttack { swing, attack, team, pose, credit });
        swing
    }

    /// The host's animation has reached `marker`.
    pub fn marker(&mut self, swing: SwingId, marker: Marker) -> OrderId {
        self.give(Order::Marker { swing, marker })
    }

    /// From now on `swing` is tested against where its targets were `ticks` ago, as the player saw them who started it; no further back than
    /// the ruleset says ([`crate::RulesetBuilder::rewind`]). Give it with the start. Who has died since is refused.
    #[doc(alias("lag compensation"))]
    pub fn rewind(&mut self, swing: SwingId, ticks: u16) -> OrderId {
        self.give(Order::Rewind { swing, ticks })
    }

    /// `swing` is released from its charge.
    pub fn release(&mut self, swing: SwingId) -> OrderId {
        self.give(Order::Release { swing })
    }

    /// The hitboxes of `swing` go to `pose`, in the attacker's frame, in the course of the tick.
    pub fn guide(&mut self, swing: SwingId, pose: Pose) -> OrderId {
        self.give(Order::Guide { swing, pose })
    }

    /// Each hitbox of the swing, whose attack is [guided](crate::attack::Attack::guided), goes to a pose of its own in the course of the tick:
    /// one for each hitbox, in their order, no farther from the attacker than a move may go. They sweep there from where they were; the
    /// first poses are where the way begins. For all hitboxes at one pose there is [`guide`](Self::guide).
    pub fn guide_hitboxes(&mut self, swing: SwingId, frame: Frame, poses: &[Pose]) -> OrderId {
        let poses = self.poses(poses);
        self.give(Order::GuideHitboxes { swing, frame, poses })
    }

    /// The parts of `subject`, whose template is [posed](crate::template::Template::posed), go to these poses in the course of the tick: one
    /// for each part, in their order. They sweep there from where they were. Parts that are not posed again ride along with the body.
    ///
    /// In the frame of the [world](Frame::World) the poses are for where the body is when its moves of the tick are over. After a
    /// spawn, a return or a teleport the first poses are where the way begins. A hook's poses are for the next tick.
    pub fn pose_parts(&mut self, subject: CombatantId, frame: Frame, poses: &[Pose]) -> OrderId {
        let poses = self.poses(poses);
        self.give(Order::PoseParts { subject, frame, poses })
    }

    /// Hands over poses for an order that names them ([`Order::PoseParts`]). They are kept until that order is carried out.
    pub fn poses(&mut self, poses: &[Pose]) -> Poses {
        let first = self.queue.given_poses.len();
        let fits = u32::try_from(first + poses.len()).is_ok();
        let poses = if fits { poses } else { &[] };
        self.queue.given_poses.extend(poses.iter().copied().map(tamed));
        if let Some(inputs) = self.notes.open() {
            inputs.list.push(Input::Poses(poses.len() as u32));
            inputs.poses.extend_from_slice(poses);
        }
        Poses { first: first as u32, count: poses.len() as u32 }
    }

    /// An obstacle is there.
    pub fn add_obstacle(&mut self, obstacle: Obstacle) -> ObstacleId {
        let id = self.reserve_obstacle();
        self.give(Order::AddObstacle { id, obstacle });
        id
    }

    /// An obstacle goes to `pose` in the course of the coming tick: projectiles meet it on its way.
    ///
    /// A half-space that turns does so when the tick is over: projectiles meet it turned as it was.
    ///
    /// The pose is that of the frame in which the obstacle was given: of a door that was added where it stands, `Pose::at([0.0, 2.0, 0.0])`
    /// lifts it by two metres.
    pub fn move_obstacle(&mut self, id: ObstacleId, pose: Pose) -> OrderId {
        self.move_obstacle_over(id, pose, 1)
    }

    /// As [`move_obstacle`](Self::move_obstacle), evenly over so many ticks.
    pub fn move_obstacle_over(&mut self, id: ObstacleId, pose: Pose, ticks: u32) -> OrderId {
        self.give(Order::MoveObstacle { id, pose: tamed(pose), ticks })
    }

    /// An obstacle is at `pose`, without having swept there.
    pub fn place_obstacle(&mut self, id: ObstacleId, pose: Pose) -> OrderId {
        self.give(Order::PlaceObstacle { id, pose: tamed(pose) })
    }

    /// The host found a wall in the way of a projectile of `swing`, from 1: it ends at the point of the touch in the coming tick, as at an
    /// obstacle, and what its attack starts at obstacles starts there. What it touches later in the tick does not count.
    pub fn stop_body(&mut self, swing: SwingId, body: u16, touch: Touch) -> OrderId {
        self.give(Order::StopBody { swing, touch: touch.of_body(body) })
    }

    /// An obstacle lets everything through from the coming tick on: hitboxes, projectiles, beams, lines of sight. It is kept, goes on with its
    /// moves, and can be moved, placed and cleared away.
    pub fn open_obstacle(&mut self, id: ObstacleId) -> OrderId {
        self.give(Order::OpenObstacle { id, open: true })
    }

    /// An obstacle that was [opened](Self::open_obstacle) is in the way again, where it is then.
    pub fn close_obstacle(&mut self, id: ObstacleId) -> OrderId {
        self.give(Order::OpenObstacle { id, open: false })
    }

    /// An obstacle is gone.
    pub fn remove_obstacle(&mut self, id: ObstacleId) -> OrderId {
        self.give(Order::RemoveObstacle { id })
    }

    /// `swing` ends.
    pub fn cancel(&mut self, swing: SwingId) -> OrderId {
        self.give(Order::Cancel { swing })
    }

    /// The host's physics found that `swing` touches `part` of `target`.
    pub fn report(&mut self, swing: SwingId, target: CombatantId, part: u16, touch: Touch) -> OrderId {
        self.give(Order::Report { swing, target, part, touch })
    }

    /// Damage of `damage type` for a named reason, with no one to credit.
    pub fn damage(
        &mut self,
        target: CombatantId,
        damage_type: DamageTypeId,
        amount: Fixed,
        reason: ReasonId,
    ) -> OrderId {
        self.give(Order::Damage { target, damage_type, amount, reason, source: None, absolute: false })
    }

    /// As [`damage`](Self::damage), so that no prevention of death can stop it.
    pub fn damage_absolutely(
        &mut self,
        target: CombatantId,
        damage_type: DamageTypeId,
        amount: Fixed,
        reason: ReasonId,
    ) -> OrderId {
        self.give(Order::Damage { target, damage_type, amount, reason, source: None, absolute: true })
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
    pub fn change(&mut self, subject: CombatantId, stat: StatId, by: Modifier, reason: ReasonId) -> OrderId {
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

    /// `subject`, dead or away, stands again at `pose`.
    pub fn bring_back(&mut self, subject: CombatantId, pose: Pose) -> OrderId {
        self.bring_back_with(subject, pose, Fixed::ONE)
    }

    /// As [`bring_back`](Self::bring_back), with a share of health.
    pub fn bring_back_with(&mut self, subject: CombatantId, pose: Pose, share: Fixed) -> OrderId {
        self.give(Order::Return { subject, pose, share })
    }

    /// `subject` is removed for good.
    pub fn remove(&mut self, subject: CombatantId) -> OrderId {
        self.give(Order::Remove { subject })
    }

    /// `hook` listens. The handle ends the subscription ([`unsubscribe`](Self::unsubscribe)), unless it was there already.
    pub fn subscribe(&mut self, hook: HookId, listen: Listen) -> SubscriptionId {
        let id = self.reserve_subscription();
        self.give(Order::Subscribe { id, hook, listen });
        id
    }

    /// Subscriptions end, by handle, by what they ask for, by key, by hook or by owner.
    pub fn unsubscribe(&mut self, which: Unsubscribe) -> OrderId {
        self.give(Order::Unsubscribe { which })
    }

    /// All subscriptions end that belong to this number of the host's ([`Listen::owned_by_number`]).
    pub fn unsubscribe_number(&mut self, owner: u64) -> OrderId {
        self.unsubscribe(Unsubscribe::Number(owner))
    }

    /// Subscriptions hear nothing until they are [resumed](Self::resume). Pausing what is paused, or is not there, is harmless.
    pub fn pause(&mut self, which: Unsubscribe) -> OrderId {
        self.give(Order::Pause { which })
    }

    /// Subscriptions that were paused go on.
    pub fn resume(&mut self, which: Unsubscribe) -> OrderId {
        self.give(Order::Resume { which })
    }

    /// Hands over a text for a field of a fact of the host's own ([`publish`](Self::publish)); at most [4096 bytes](crate::event::Text::MOST). It is kept until
    /// the order that holds the value is carried out. A longer one is refused then.
    pub fn text(&mut self, text: &str) -> HostValue {
        HostValue::Text(self.hand_over(text))
    }

    fn hand_over(&mut self, text: &str) -> Text {
        let given = Text::hand_over(text, self.queue.given_text);
        if given != Text::NONE
            && let Some(inputs) = self.notes.open()
        {
            inputs.list.push(Input::Text(text.len() as u32));
            inputs.text.extend_from_slice(text.as_bytes());
        }
        given
    }

    /// A fact of the host's own, with up to four values.
    pub fn publish(&mut self, topic: HostTopicId, given: &[HostValue]) -> OrderId {
        let mut values = [HostValue::Nothing; 4];
        for (value, given) in values.iter_mut().zip(given) {
            *value = *given;
        }
        self.give(Order::Publish { topic, values })
    }

    /// A flag goes up, or down.
    pub fn set_flag(&mut self, flag: FlagId, up: bool) -> OrderId {
        self.give(Order::SetFlag { flag, up })
    }

    /// A counter changes.
    pub fn count(&mut self, counter: CounterId, count: Count) -> OrderId {
        self.give(Order::Count { counter, count })
    }

    /// `subject` goes over to another team.
    pub fn change_team(&mut self, subject: CombatantId, team: TeamId) -> OrderId {
        self.give(Order::ChangeTeam { subject, team })
    }

    /// The game's own minds are asked to do something with `subject`; `tactics.requested` tells them.
    pub fn request(&mut self, subject: CombatantId, tactic: Tactic, other: Option<CombatantId>) -> OrderId {
        self.give(Order::Request { subject, tactic, other })
    }

    /// A stand-in tells what it has chosen: `tactics.chose`, with the names of its tactics and of the choice, and what did not fit before it. Texts are at
    /// most [4096 bytes](crate::event::Text::MOST) each.
    pub fn tell_choice(
        &mut self,
        subject: CombatantId,
        other: Option<CombatantId>,
        [tactics, choice, passed]: [&str; 3],
    ) -> OrderId {
        let texts = [self.hand_over(tactics), self.hand_over(choice), self.hand_over(passed)];
        self.give(Order::TellChoice { subject, other, dropped: false, texts })
    }

    /// The same, of a choice that it does not carry out: `tactics.dropped`, with the reason.
    pub fn tell_dropped(
        &mut self,
        subject: CombatantId,
        other: Option<CombatantId>,
        [tactics, choice, reason]: [&str; 3],
    ) -> OrderId {
        let texts = [self.hand_over(tactics), self.hand_over(choice), self.hand_over(reason)];
        self.give(Order::TellChoice { subject, other, dropped: true, texts })
    }

    /// So many sixteenths of a tick pass for `subject` in one: for its swings from the next stage of swings on, for its statuses, cooldowns, uses
    /// and refills from the next tick on.
    #[doc(alias("slow motion", "hit slow", "bullet time"))]
    pub fn scale_time(&mut self, subject: CombatantId, sixteenths: u8) -> OrderId {
        self.give(Order::ScaleTime { subject, sixteenths })
    }

    /// `subject` becomes one of another template.
    #[doc(alias("polymorph", "phase change"))]
    pub fn transform(&mut self, subject: CombatantId, template: TemplateId) -> OrderId {
        self.give(Order::Transform { subject, template })
    }

    /// Holds between `subject` and others end, whoever holds.
    pub fn let_go(&mut self, subject: CombatantId) -> OrderId {
        self.give(Order::LetGo { subject })
    }

    /// No more waves of a sequence come.
    pub fn stop_waves(&mut self, waves: WaveId) -> OrderId {
        self.give(Order::StopWaves { waves })
    }

    /// A gauge of `subject` has so many points more or less, or is set to so many.
    pub fn change_gauge(
        &mut self,
        subject: CombatantId,
        gauge: GaugeId,
        change: GaugeChange,
        points: i64,
        source: Option<CombatantId>,
    ) -> OrderId {
        self.give(Order::ChangeGauge { subject, gauge, change, points, source })
    }

    /// A flag of `subject` goes up, or down.
    pub fn flag_combatant(&mut self, subject: CombatantId, flag: CombatantFlagId, up: bool) -> OrderId {
        self.give(Order::FlagCombatant { subject, flag, up })
    }

    /// A counter of `subject` changes.
    pub fn count_combatant(
        &mut self,
        subject: CombatantId,
        counter: CombatantCounterId,
        count: Count,
    ) -> OrderId {
        self.give(Order::CountCombatant { subject, counter, count })
    }

    /// Something is scored, to someone's credit.
    pub fn score(&mut self, score: ScoreId, points: i64, credit: Option<CombatantId>) -> OrderId {
        self.give(Order::Score { score, points, credit })
    }

    /// `subject` is worth so much of a value.
    pub fn attach(&mut self, subject: CombatantId, value: ValueId, amount: i64) -> OrderId {
        self.give(Order::Attach { subject, value, amount })
    }

    /// `subject` follows `leader`.
    pub fn follow(&mut self, subject: CombatantId, leader: Option<CombatantId>) -> OrderId {
        self.give(Order::Follow { subject, leader })
    }

    /// Gives an obstacle a name of the ruleset ([`crate::RulesetBuilder::obstacle_name`]), in place of the one that it had. Several may have
    /// the same: rules move, open, close and clear all of a name.
    pub fn name_obstacle(&mut self, id: ObstacleId, name: ObstacleNameId) -> OrderId {
        self.give(Order::NameObstacle { id, name })
    }

    /// A part of a combatant, by its place in the template, can be touched from now on; or cannot, until it is shown again. In a new life,
    /// it is as the template says. A posed part that comes back begins its way where it is.
    pub fn show_part(&mut self, subject: CombatantId, part: u16, shown: bool) -> OrderId {
        self.give(Order::ShowPart { subject, part, shown })
    }

    /// `subject` is so many times as large as its template says: its parts, and the hitboxes of its melee attacks with their paths. Poses of
    /// parts and hitboxes come as the host gives them, within so many times their limits; only the shapes in their frames grow.
    pub fn resize(&mut self, subject: CombatantId, size: Fixed) -> OrderId {
        self.give(Order::Resize { subject, size })
    }

    /// Labels one who is in the encounter with 64 bits of the host's own, in place of those before: the number of its entity, mostly.
    /// [`View::label`](crate::View::label) gives them back. They last until the combatant is removed, and are saved with it.
    #[doc(alias("user data"))]
    pub fn label(&mut self, subject: CombatantId, label: u64) -> OrderId {
        self.give(Order::Label { subject, label })
    }

    /// A sequence of waves begins.
    pub fn start_waves(&mut self, waves: WaveId) -> OrderId {
        self.give(Order::StartWaves { waves })
    }

    /// The next round begins.
    pub fn next_round(&mut self) -> OrderId {
        self.give(Order::NextRound)
    }

    /// A line is said.
    pub fn say(&mut self, line: LineId, subject: Option<CombatantId>) -> OrderId {
        self.give(Order::Say { spoken: Spoken::plain(line), subject })
    }

    /// As [`say`](Self::say), about two combatants and with numbers, for the [blanks](crate::flow::Line) of the line.
    pub fn say_about(&mut self, spoken: Spoken, subject: Option<CombatantId>) -> OrderId {
        self.give(Order::Say { spoken, subject })
    }

    /// The encounter begins anew when the tick is over: everything ends with its fact, and the next tick is the first again, with the
    /// orders that were given before it. Ids of those combatants are good again; no id of a swing comes again.
    pub fn reset(&mut self) -> OrderId {
        self.give(Order::Reset)
    }

    /// The encounter ends.
    pub fn end(&mut self, outcome: OutcomeId) -> OrderId {
        self.give(Order::End { outcome })
    }
}
