//! The rows of the state that are not combatants.

use super::Chain;
use crate::Fixed;
use crate::event::SwingEnd;
use crate::geometry::{Bits, Obstacle, Pose};
use crate::ids::*;
use crate::orders::Unsubscribe;
use crate::terms::Listen;
use crate::terms::Topical;

/// One activation of an attack.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Swing {
    pub(crate) id: SwingId,
    pub(crate) attack: AttackId,
    /// No one for traps and weather.
    pub(crate) attacker: Option<CombatantId>,
    /// The attacker's team, root owner and stable key when the swing began: it may outlive the attacker.
    pub(crate) team: TeamId,
    pub(crate) credit: Option<CombatantId>,
    pub(crate) key: u64,
    /// What it is made from, for what it changes in amounts.
    pub(crate) template: Option<TemplateId>,
    /// Which start of this attack by this attacker it is, from 1.
    pub(crate) start: u32,
    /// Ticks since the start when the present tick is over; a charge comes before.
    pub(crate) clock: u32,
    /// Ticks since it began in which its attacker was not stopped.
    pub(crate) age: u32,
    /// The tick with which it is over, whatever stops it.
    pub(crate) last_tick: u32,
    /// Ticks of its own that pass in this tick: none while its attacker is stopped, two at most where its time goes faster. And sixteenths of
    /// one that are left over.
    pub(crate) steps: u8,
    pub(crate) left_over: u8,
    /// The open window, counted from 1; 0 while none is open.
    pub(crate) window: u16,
    pub(crate) ended: Option<SwingEnd>,
    /// Whether the attacker's hands are bound by it.
    pub(crate) busy: bool,
    pub(crate) charging: Charging,
    /// For swings that the host's markers time: the window that the last marker left open, how many were opened,
    /// and whether the last marker has come.
    pub(crate) markers: (u16, u16, bool),
    /// Its clock when the last marker opened a window.
    pub(crate) opened_at: u32,
    /// Where it was started: the place of an area, the aim of a projectile, and the frame of a swing without an attacker.
    pub(crate) anchor: Option<Pose>,
    /// Where its hitboxes are that the host has guided, in the attacker's frame: one for each, in their order.
    pub(crate) guided: Chain,
    /// Bodies that fly, and whether any has left.
    pub(crate) bodies: u16,
    pub(crate) launched: bool,
    /// How the last body ended.
    pub(crate) last_end: SwingEnd,
    /// Whether a guard took from any of its hits.
    pub(crate) guarded: bool,
    /// Different targets struck in the swing, and targets at which a beam stopped or which it went through in this tick.
    pub(crate) targets: u16,
    pub(crate) taken: u16,
    /// How many attacks led here by starting each other.
    pub(crate) links: u16,
    /// Stats and changes of its attacker when it began.
    pub(crate) captured: Chain,
    /// The struck list.
    pub(crate) struck: Chain,
    pub(crate) contacts: Chain,
}

/// What a swing knows of its attacker as it was when the swing began.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum Captured {
    Stat(StatId, Fixed),
    /// A status that changes amounts, with its strength and stack.
    Status(StatusId, Fixed, u16),
}

/// How far a charge has come.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum Charging {
    /// Held for so many ticks; whether the release has been ordered.
    Held(u32, bool),
    /// Released with this share of the full charge, 0 to 1. So begin attacks without a charge, at 0.
    Released(Fixed),
}

/// A start that waits until it can be carried out.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Press {
    pub(crate) swing: SwingId,
    pub(crate) attack: AttackId,
    pub(crate) aim: Option<Pose>,
    /// The last tick in which it is.
    pub(crate) until: u32,
}

/// A projectile on its way.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Flying {
    pub(crate) swing: SwingId,
    /// Which body of its swing, from 1.
    pub(crate) body: u16,
    pub(crate) before: Pose,
    pub(crate) pose: Pose,
    /// In metres a tick.
    pub(crate) velocity: Bits,
    /// Ticks that it may still fly.
    pub(crate) left: u32,
    /// Targets struck.
    pub(crate) struck: u16,
    pub(crate) ended: Option<SwingEnd>,
}

/// An obstacle, where it was as the tick began, where it is, and where it goes.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Raised {
    pub(crate) id: ObstacleId,
    /// In the frame of its pose.
    pub(crate) obstacle: Obstacle,
    pub(crate) before: Pose,
    pub(crate) pose: Pose,
    pub(crate) goal: Pose,
    /// In how many ticks it is there; 0 for one that goes nowhere.
    pub(crate) goal_ticks: u32,
    /// The name that the host gave it, for rules.
    pub(crate) name: Option<ObstacleNameId>,
}

/// The time scale of a combatant.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Tempo {
    pub(crate) who: CombatantId,
    /// Sixteenths of a tick that pass for it in one of the encounter's.
    pub(crate) scale: u8,
    /// Sixteenths that are left over from the ticks before.
    pub(crate) left_over: u8,
    /// Ticks of its own that pass in this tick: none, one or two.
    pub(crate) steps: u8,
}

/// One who is held by another.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Hold {
    /// From 1 in each epoch.
    pub(crate) number: u64,
    pub(crate) held: CombatantId,
    pub(crate) holder: CombatantId,
    /// The attack whose hit began it.
    pub(crate) attack: AttackId,
    pub(crate) since: u32,
    /// The tick in which it ends, if nothing ends it before.
    pub(crate) ends: Option<u32>,
    /// What its holder has lost of health since it began.
    pub(crate) lost: i64,
}

/// A swing that begins by itself in the next tick: a child of another, or what was deflected.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Child {
    pub(crate) attack: AttackId,
    pub(crate) attacker: Option<CombatantId>,
    pub(crate) team: TeamId,
    pub(crate) credit: Option<CombatantId>,
    pub(crate) key: u64,
    pub(crate) pose: Pose,
    pub(crate) links: u16,
    /// For what was deflected.
    pub(crate) back: Option<Back>,
}

/// What flies back, and what it keeps of the swing that was deflected.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Back {
    /// In metres a tick.
    pub(crate) velocity: Bits,
    pub(crate) charging: Charging,
    pub(crate) template: Option<TemplateId>,
    pub(crate) captured: Chain,
    pub(crate) struck: Chain,
    /// How many different targets it has struck, of those that it may.
    pub(crate) targets: u16,
}

/// What a swing remembers of one target, over all of its lives.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct StruckEntry {
    pub(crate) target: CombatantId,
    /// The life in which it was met last.
    pub(crate) life: u32,
    /// Which list of the swing: a group of hitboxes or a body, where they have lists of their own. Refusals are noted for all lists at one.
    pub(crate) list: u16,
    pub(crate) hits: u32,
    /// Turns that the swing has used up at the target: hits, and refusals that spend a turn.
    pub(crate) turns: u32,
    /// Turns in the window of the last, and which window that was.
    pub(crate) turns_in_window: u32,
    pub(crate) window: u16,
    /// The age of the swing at the last turn.
    pub(crate) last: u32,
    /// The tick in which they last met, and whether the stay that it belongs to has had its turn; for a policy by entry.
    pub(crate) seen: u32,
    pub(crate) stay_spent: bool,
    /// The gates whose refusal has been published: bit `n` for the gate at place `n` of their order.
    pub(crate) refused: u32,
}

impl StruckEntry {
    /// The list under which a swing notes what all of its lists share.
    pub(crate) const OF_ALL_LISTS: u16 = u16::MAX;

    pub(crate) fn new(target: CombatantId, list: u16) -> StruckEntry {
        StruckEntry {
            target,
            life: 0,
            list,
            hits: 0,
            turns: 0,
            turns_in_window: 0,
            window: 0,
            last: 0,
            seen: 0,
            stay_spent: false,
            refused: 0,
        }
    }
}

/// A hitbox of a swing that touches a target.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Contact {
    pub(crate) id: ContactId,
    /// Which body, 0 if it has none, and which hitbox.
    pub(crate) body: u16,
    pub(crate) hitbox: u16,
    pub(crate) target: CombatantId,
    pub(crate) part: u16,
    /// The tick in which the hitboxes first touched, and in which they last did.
    pub(crate) since: u32,
    pub(crate) seen: u32,
    /// Whether it has parted, and is only still in the list.
    pub(crate) over: bool,
}

/// The next step of a chain, for one who may still take it.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct ChainStep {
    /// The chain's first attack.
    pub(crate) opener: AttackId,
    pub(crate) from: AttackId,
    pub(crate) next: AttackId,
    /// The first tick in which it may be taken, and the first in which it may no longer.
    pub(crate) opens: u32,
    pub(crate) lapses: u32,
    /// A press that waits, with the swing that was reserved for it.
    pub(crate) pressed: Option<SwingId>,
}

/// One application of a status.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Application {
    pub(crate) id: ApplicationId,
    pub(crate) subject: CombatantId,
    pub(crate) status: StatusId,
    pub(crate) source: Option<CombatantId>,
    /// The root owner of the source, its team and its stable key, since it may be gone when the status still pulses; 0 without a source.
    pub(crate) credit: Option<CombatantId>,
    pub(crate) team: Option<TeamId>,
    pub(crate) source_key: u64,
    /// The strength that was given, what it comes to, and how often it counts.
    pub(crate) given: Fixed,
    pub(crate) strength: Fixed,
    pub(crate) stacks: u16,
    /// The swing with which it ends: an aura, or what an attacker bears.
    pub(crate) tied: Option<SwingId>,
    /// What its guard has taken.
    pub(crate) guarded: Fixed,
    /// The tick in which its bearer died or went away, if it waits for their return.
    pub(crate) suspended: Option<u32>,
    /// The tick in which it was applied.
    pub(crate) applied: u32,
    /// The last tick in which it still pulses.
    pub(crate) ends: Option<u32>,
    /// The tick of the next pulse.
    pub(crate) due: Option<u32>,
    pub(crate) pulses: u32,
    pub(crate) over: bool,
}

/// A hook that listens.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Subscription {
    pub(crate) id: SubscriptionId,
    pub(crate) hook: HookId,
    pub(crate) listen: Listen,
    /// The first fact that it may hear.
    pub(crate) from: u64,
    /// The first fact that it may no longer hear, once it has ended.
    pub(crate) until: Option<u64>,
}

/// A subscription that is paused, or was in this tick.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Pause {
    pub(crate) id: SubscriptionId,
    /// The first fact that it does not hear, and the first that it hears again.
    pub(crate) from: u64,
    pub(crate) to: Option<u64>,
}

impl Pause {
    /// Those of one subscription, of a list that is sorted by these.
    pub(crate) fn of(pauses: &[Pause], id: SubscriptionId) -> &[Pause] {
        let first = pauses.partition_point(|pause| pause.id < id);
        let count = pauses[first..].iter().take_while(|pause| pause.id == id).count();
        &pauses[first..first + count]
    }

    /// Whether it keeps a fact from its subscription.
    pub(crate) fn keeps(&self, seq: u64) -> bool {
        seq >= self.from && self.to.is_none_or(|to| seq < to)
    }
}

impl Subscription {
    /// Whether it is one of those that end.
    pub(crate) fn ends_by(&self, which: Unsubscribe) -> bool {
        match which {
            Unsubscribe::Handle(id) => self.id == id,
            Unsubscribe::Like(hook, listen) => (self.hook, self.listen) == (hook, listen),
            Unsubscribe::Key(hook, key) => (self.hook, self.listen.key) == (hook, Some(key)),
            Unsubscribe::Hook(hook) => self.hook == hook,
            Unsubscribe::Owner(owner) => self.listen.owner() == Some(owner),
            Unsubscribe::Number(owner) => self.listen.owner_number() == Some(owner),
            Unsubscribe::Topic(topic) => self.listen.topical == Topical::To(topic),
        }
    }
}

/// What a rule put off until a tick.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Delayed {
    pub(crate) due: u32,
    pub(crate) rule: RuleId,
    /// Which of the things that it does.
    pub(crate) place: u16,
    pub(crate) subject: Option<CombatantId>,
    pub(crate) other: Option<CombatantId>,
    /// The fact that the rule heard.
    pub(crate) cause: u64,
    /// Who gets the credit of each of the two, as it was when the rule fired.
    pub(crate) credits: [Option<CombatantId>; 2],
}

/// What a rule read when it heard a fact: one for each reading of its amounts, in their order.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Read {
    /// The fact.
    pub(crate) cause: u64,
    pub(crate) rule: RuleId,
    pub(crate) value: Fixed,
}

/// Whether a rule has fired, and in which round last.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Fired {
    pub(crate) ever: bool,
    pub(crate) round: u32,
}

/// How far a sequence of waves has come.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct WavesState {
    pub(crate) running: bool,
    /// How many have come.
    pub(crate) come: u32,
    /// The tick in which the next comes, once that is settled.
    pub(crate) due: Option<u32>,
}

impl Application {
    /// Whether it does anything: it is neither over nor suspended.
    pub(crate) fn runs(&self) -> bool {
        !self.over && self.suspended.is_none()
    }
}
