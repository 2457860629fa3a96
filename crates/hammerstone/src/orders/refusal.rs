//! Why orders are refused.

use glam::Vec3;

use super::Order;
use crate::Fixed;
use crate::event::HostValue;
use crate::geometry::{Pose, in_bounds};
use crate::hooks::Topical;
use crate::ids::*;
use crate::ruleset::{Modifier, Rules};
use crate::state::{Charging, Flow, HostChange, Life, State, Swing};
use crate::statuses;
use crate::swing;

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
    #[error("another swing is still running")]
    Busy,
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
    #[error("the combatant is stunned")]
    Stunned,
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
    /// Somebody who would follow themselves, or follow through others.
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
}

/// Why an order would be refused as things stand, if it would.
pub(crate) fn refusal(rules: &Rules, state: &State, order: &Order) -> Result<(), Refusal> {
    if matches!(state.flow, Flow::Ended(_)) && *order != Order::Reset {
        return Err(Refusal::Ended);
    }
    match *order {
        Order::Spawn { id, template, team, pose, owner } => {
            if id == CombatantId::NONE {
                return Err(Refusal::NoMoreIds);
            }
            reserved(state, order)?;
            in_ruleset(Definition::Template, template.index(), rules.templates.len())?;
            if let Some(team) = team {
                in_ruleset(Definition::Team, team.index(), rules.teams.len())?;
            }
            known(state, owner)?;
            finite(pose)
        }
        Order::Move { subject, pose, ticks } => {
            standing(state, subject)?;
            finite(pose)?;
            if ticks == 0 {
                return Err(Refusal::NoTicks);
            }
            let now = Vec3::from_array(state.combatants.pose[subject.slot()].at);
            let metres = (Vec3::from_array(pose.at) - now).length() / ticks as f32;
            // Written so that a distance which overflows is too far as well.
            if metres <= rules.move_limit {
                Ok(())
            } else {
                Err(Refusal::TooFar { metres, limit: rules.move_limit })
            }
        }
        Order::Teleport { subject, pose } => {
            standing(state, subject)?;
            finite(pose)
        }
        Order::Start { subject, attack, aim, .. } => {
            in_ruleset(Definition::Attack, attack.index(), rules.attacks.len())?;
            standing(state, subject)?;
            aim.map_or(Ok(()), finite)?;
            if is_stunned(rules, state, subject) {
                return Err(Refusal::Stunned);
            }
            match swing::press(state, subject, attack) {
                Some(true) => return Err(Refusal::Waiting),
                Some(false) => {}
                None if rules.attack(attack).alongside => {}
                None if state.combatants.running[subject.slot()] > 0 => return Err(Refusal::Busy),
                None => {}
            }
            // Last, so that a host can ask with any id whether a combatant may attack.
            reserved(state, order)
        }
        Order::SpawnAttack { attack, team, pose, .. } => {
            in_ruleset(Definition::Attack, attack.index(), rules.attacks.len())?;
            in_ruleset(Definition::Team, team.index(), rules.teams.len())?;
            if rules.attack(attack).form.needs_body() {
                return Err(Refusal::NeedsBody);
            }
            finite(pose)?;
            reserved(state, order)
        }
        Order::Marker { swing, .. } => {
            let attack = rules.attack(running(state, swing)?.attack);
            if attack.marked.is_some() { Ok(()) } else { Err(Refusal::NotSo(SwingTrait::Marked)) }
        }
        Order::Release { swing } => match running(state, swing)?.charging {
            Charging::Held(..) => Ok(()),
            Charging::Released(_) => Err(Refusal::NotSo(SwingTrait::Charging)),
        },
        Order::Guide { swing, pose } => {
            let attack = rules.attack(running(state, swing)?.attack);
            if !attack.guided {
                return Err(Refusal::NotSo(SwingTrait::Guided));
            }
            finite(pose)
        }
        Order::AddObstacle { obstacle, .. } => {
            if obstacle.settled().is_none() {
                return Err(Refusal::NoSolid);
            }
            reserved(state, order)
        }
        Order::RemoveObstacle { id } => {
            let known = state.obstacles.iter().any(|(other, _)| *other == id);
            if known { Ok(()) } else { Err(Refusal::NoObstacle) }
        }
        Order::Cancel { swing } => running(state, swing).map(|_| ()),
        Order::Report { swing, target, part, touch } => {
            if state.swing_index(swing).is_none() {
                return Err(Refusal::NoSwing);
            }
            if !state.combatants.was_here(target) {
                return Err(Refusal::Unknown);
            }
            if state.combatants.life_of(target) != Life::Gone {
                let parts = &rules.template(state.combatants.template[target.slot()]).parts;
                if usize::from(part) >= parts.len() {
                    return Err(Refusal::NoSuchPart);
                }
            }
            let normal = Vec3::from_array(touch.normal);
            let sound = in_bounds(&touch.point) && normal.length().is_finite();
            if sound && normal.length() > 1.0e-6 { Ok(()) } else { Err(Refusal::NotFinite) }
        }
        Order::Damage { target, damage_type, amount, reason, source, .. } => {
            known(state, source)?;
            in_ruleset(Definition::DamageType, damage_type.index(), rules.damage_types.len())?;
            in_ruleset(Definition::Reason, reason.index(), rules.reasons.len())?;
            if amount < Fixed::ZERO {
                return Err(Refusal::Negative);
            }
            standing(state, target)
        }
        Order::Heal { target, reason, points, source } => {
            known(state, source)?;
            in_ruleset(Definition::Reason, reason.index(), rules.reasons.len())?;
            within(Quantity::Healing, Fixed::whole(points.into()), Fixed::ZERO, Fixed::whole(1_000_000_000))?;
            standing(state, target)
        }
        Order::Apply { subject, status, strength, source } => {
            known(state, source)?;
            in_ruleset(Definition::Status, status.index(), rules.statuses.len())?;
            within(Quantity::Strength, strength, Fixed::ZERO, Fixed::whole(1_000_000))?;
            standing(state, subject)
        }
        Order::LiftFamily { subject, tag } => {
            in_ruleset(Definition::Tag, tag.index(), rules.tags.len())?;
            standing(state, subject)?;
            let family = |status: StatusId| rules.status(status).tags & tag.bit() != 0;
            let statuses_of = state.running_on(subject.slot()).any(|application| family(application.status));
            if statuses_of { Ok(()) } else { Err(Refusal::NoStatus) }
        }
        Order::Change { subject, stat, by, reason } => {
            in_ruleset(Definition::Stat, stat.index(), rules.stats.len())?;
            in_ruleset(Definition::Reason, reason.index(), rules.reasons.len())?;
            let (least, most) = match by {
                Modifier::Add(_) | Modifier::Set(_) => {
                    (Fixed::whole(-1_000_000_000), Fixed::whole(1_000_000_000))
                }
                Modifier::AddShare(_) => (Fixed::whole(-1000), Fixed::whole(1000)),
                Modifier::Multiply(_) => (Fixed::ZERO, Fixed::whole(1000)),
            };
            within(Quantity::Change, by.value(), least, most)?;
            present(state, subject)
        }
        Order::Unchange { subject, stat, reason } => {
            in_ruleset(Definition::Stat, stat.index(), rules.stats.len())?;
            present(state, subject)?;
            let combatants = &state.combatants;
            let mut known = combatants.host_change_lists.items(combatants.host_changes[subject.slot()]);
            let is = |change: &HostChange| (change.stat, change.reason) == (stat, reason);
            if known.any(is) { Ok(()) } else { Err(Refusal::NoChange) }
        }
        Order::SetMaximum { subject, points, .. } => {
            within(Quantity::Maximum, Fixed::whole(points.into()), Fixed::ONE, Fixed::whole(1_000_000_000))?;
            standing(state, subject)
        }
        Order::RaiseShield { subject, shield, points } => {
            in_ruleset(Definition::Shield, shield.index(), rules.shields.len())?;
            within(Quantity::Shield, Fixed::whole(points.into()), Fixed::ZERO, Fixed::whole(1_000_000_000))?;
            standing(state, subject)
        }
        Order::Lift { subject, status } => {
            in_ruleset(Definition::Status, status.index(), rules.statuses.len())?;
            standing(state, subject)?;
            statuses::first_of(state, subject, status).map(|_| ()).ok_or(Refusal::NoStatus)
        }
        Order::SendAway { subject } => standing(state, subject),
        Order::Return { subject, pose, share } => {
            finite(pose)?;
            within(Quantity::ShareOfHealth, share, Fixed::raw(1), Fixed::ONE)?;
            match standing(state, subject) {
                Ok(()) => Err(Refusal::Standing),
                Err(Refusal::Dead | Refusal::Away) => Ok(()),
                Err(why) => Err(why),
            }
        }
        Order::Remove { subject } => present(state, subject),
        Order::Subscribe { listen, .. } => {
            match listen.topical {
                Topical::To(topic) => in_ruleset(Definition::Topic, topic.index(), rules.topics.count())?,
                Topical::Under(family) if rules.topics.members(family).is_empty() => {
                    return Err(Refusal::NotInRuleset(Definition::Family));
                }
                Topical::Under(_) | Topical::All => {}
            }
            if let Some(team) = listen.team {
                in_ruleset(Definition::Team, team.index(), rules.teams.len())?;
            }
            listen.owner.map_or(Ok(()), |owner| standing(state, owner))?;
            reserved(state, order)
        }
        // What is not there, or belongs to another ruleset, ends nothing.
        Order::Unsubscribe { .. } => Ok(()),
        Order::Publish { topic, values } => {
            in_ruleset(Definition::Topic, topic.index(), rules.host_topics.len())?;
            let fields = &rules.host_topics[topic.index()].fields;
            for (i, value) in values.iter().enumerate() {
                let sort = fields.get(i).map(|(_, sort)| *sort);
                let fits = value.sort().is_none_or(|found| Some(found) == sort);
                if !fits {
                    return Err(Refusal::WrongValue(i + 1));
                }
                if let HostValue::At(at) = value
                    && !in_bounds(at)
                {
                    return Err(Refusal::NotFinite);
                }
            }
            Ok(())
        }
        Order::SetFlag { flag, .. } => in_ruleset(Definition::Flag, flag.index(), rules.flags.len()),
        Order::Count { counter, .. } => {
            in_ruleset(Definition::Counter, counter.index(), rules.counters.len())
        }
        Order::Score { score, credit, .. } => {
            known(state, credit)?;
            in_ruleset(Definition::Score, score.index(), rules.scores.len())
        }
        Order::Attach { subject, value, .. } => {
            in_ruleset(Definition::Value, value.index(), rules.values.len())?;
            standing(state, subject)
        }
        Order::Follow { subject, leader } => {
            standing(state, subject)?;
            let Some(leader) = leader else { return Ok(()) };
            standing(state, leader)?;
            let mut above = Some(leader);
            while let Some(who) = above {
                if who == subject {
                    return Err(Refusal::FollowsItself);
                }
                above = state.combatants.leader_of(who.slot());
            }
            Ok(())
        }
        Order::StartWaves { waves } => {
            in_ruleset(Definition::Waves, waves.index(), rules.waves.len())?;
            if state.waves[waves.index()].running { Err(Refusal::Coming) } else { Ok(()) }
        }
        Order::NextRound => Ok(()),
        Order::Reset if state.registrar.epoch.0 >= Epoch::LAST => Err(Refusal::NoMoreIds),
        Order::Reset => Ok(()),
        Order::Say { line, subject } => {
            in_ruleset(Definition::Line, line.index(), rules.lines.len())?;
            subject.map_or(Ok(()), |subject| standing(state, subject))
        }
        Order::Fire { rule, .. } => in_ruleset(Definition::Rule, rule.index(), rules.rule_book.len()),
        Order::End { outcome } => in_ruleset(Definition::Outcome, outcome.index(), rules.outcomes.len()),
    }
}

fn reserved(state: &State, order: &Order) -> Result<(), Refusal> {
    if state.registrar.admits(order) { Ok(()) } else { Err(Refusal::NotReserved) }
}

fn in_ruleset(what: Definition, index: usize, count: usize) -> Result<(), Refusal> {
    if index < count { Ok(()) } else { Err(Refusal::NotInRuleset(what)) }
}

fn standing(state: &State, id: CombatantId) -> Result<(), Refusal> {
    state.combatants.standing(id)
}

/// Whether one to be credited, if there is one, was ever in the encounter.
fn known(state: &State, who: Option<CombatantId>) -> Result<(), Refusal> {
    let known = who.is_none_or(|who| state.combatants.was_here(who));
    if known { Ok(()) } else { Err(Refusal::Unknown) }
}

/// Whether one is in the encounter, standing or not.
fn present(state: &State, id: CombatantId) -> Result<(), Refusal> {
    match standing(state, id) {
        Err(Refusal::Dead | Refusal::Away) => Ok(()),
        otherwise => otherwise,
    }
}

fn within(what: Quantity, value: Fixed, least: Fixed, most: Fixed) -> Result<(), Refusal> {
    if (least..=most).contains(&value) { Ok(()) } else { Err(Refusal::OutOfRange(what)) }
}

fn finite(pose: Pose) -> Result<(), Refusal> {
    if pose.settled().is_some() { Ok(()) } else { Err(Refusal::NotFinite) }
}

fn running(state: &State, swing: SwingId) -> Result<&Swing, Refusal> {
    let found = state.swing_index(swing).map(|index| &state.swings[index]);
    found.filter(|swing| swing.ended.is_none()).ok_or(Refusal::NoSwing)
}

fn is_stunned(rules: &Rules, state: &State, who: CombatantId) -> bool {
    { state.running_on(who.slot()) }.any(|application| rules.status(application.status).stuns)
}
