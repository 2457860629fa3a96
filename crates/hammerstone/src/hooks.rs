//! Hooks: host code, called with the facts that its subscriptions ask for.

use crate::encounter::View;
use crate::event::{Event, Fact, Facts};
use crate::ids::*;
use crate::orders::Orders;

/// Which facts a subscription asks for.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Topical {
    /// One topic.
    Exact(TopicId),
    /// A path and all below it.
    Family(FamilyId),
    /// Every fact.
    Everything,
}

/// A subscription: what to hear, when, and for how long. Two that are equal are one.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Listen {
    pub(crate) topical: Topical,
    pub(crate) subject: Option<CombatantId>,
    pub(crate) other: Option<CombatantId>,
    pub(crate) once: bool,
    pub(crate) priority: i16,
    pub(crate) owner: Option<CombatantId>,
}

impl Listen {
    const fn new(topical: Topical) -> Listen {
        Listen { topical, subject: None, other: None, once: false, priority: 0, owner: None }
    }

    /// To one topic.
    pub const fn exact(topic: TopicId) -> Listen {
        Listen::new(Topical::Exact(topic))
    }

    /// To a path and all below it; see [`crate::topic::Topics::family`].
    pub const fn family(family: FamilyId) -> Listen {
        Listen::new(Topical::Family(family))
    }

    /// To every fact.
    pub const fn everything() -> Listen {
        Listen::new(Topical::Everything)
    }

    /// Only where the event is about `subject`.
    pub const fn about(mut self, subject: CombatantId) -> Listen {
        self.subject = Some(subject);
        self
    }

    /// Only where the other party of the event is `other`.
    pub const fn by(mut self, other: CombatantId) -> Listen {
        self.other = Some(other);
        self
    }

    /// Only the first such fact.
    pub const fn once(mut self) -> Listen {
        self.once = true;
        self
    }

    /// Higher hears first; equals hear in the order of subscribing.
    pub const fn priority(mut self, priority: i16) -> Listen {
        self.priority = priority;
        self
    }

    /// Ends when `owner` falls or leaves; what came up to that moment is still heard.
    pub const fn owned_by(mut self, owner: CombatantId) -> Listen {
        self.owner = Some(owner);
        self
    }
}

/// What a hook is called with.
#[derive(Clone, Copy, Debug)]
pub struct Heard<'a> {
    /// The fact.
    pub fact: &'a Fact,
    /// Its event, for short.
    pub event: &'a Event,
    /// The tick's facts so far, with ledgers and assists.
    pub facts: Facts<'a>,
    /// The encounter as it stands now, which may be later than the fact.
    pub view: View<'a>,
}

/// A meeting that passed every other gate, before anything has come of it.
#[derive(Clone, Copy, Debug)]
pub struct Attempt<'a> {
    /// The swing.
    pub swing: SwingId,
    /// Its attack.
    pub attack: AttackId,
    /// Whose it is, if anybody's.
    pub attacker: Option<CombatantId>,
    /// Whom it meets.
    pub target: CombatantId,
    /// On which part, by its number.
    pub part: u16,
    /// The open window, from 1.
    pub window: u16,
    /// Where, in metres in the world.
    pub point: [f32; 3],
    /// Out of the target, of length 1.
    pub normal: [f32; 3],
    /// The encounter as it stands.
    pub view: View<'a>,
}

/// What an intercept says of an attempt.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
pub enum Verdict {
    /// It may land, as far as this intercept is concerned.
    #[default]
    Pass,
    /// It is refused, and the swing has used up this turn at the target.
    Refuse,
    /// It is refused, and may be tried again in the next tick.
    Retry,
    /// It is refused, and the swing, or its body, ends here. What was thrown flies back in the next tick, with the target's
    /// team and credit.
    Deflect,
}

type Reaction<W> = Box<dyn Fn(&mut W, &Heard<'_>, &mut Orders<'_>) + Send + Sync>;

type Intercept<W> = Box<dyn Fn(&mut W, &Attempt<'_>) -> Verdict + Send + Sync>;

/// The hooks of a host, kept beside the encounter. `W` is the host's own world, lent for the tick.
///
/// Hooks are `Fn`: what they remember lives in `W` or in the encounter, so that a tick can be run again.
pub struct Hooks<W> {
    reactions: Vec<Reaction<W>>,
    names: Vec<String>,
    /// With their priority, in the order in which they are asked.
    intercepts: Vec<(i16, HookId, Intercept<W>)>,
    intercept_names: Vec<String>,
}

impl<W> std::fmt::Debug for Hooks<W> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_list().entries(&self.names).finish()
    }
}

impl<W> Default for Hooks<W> {
    fn default() -> Hooks<W> {
        Hooks::new()
    }
}

impl<W> Hooks<W> {
    /// No hooks.
    pub fn new() -> Hooks<W> {
        Hooks {
            reactions: Vec::new(),
            names: Vec::new(),
            intercepts: Vec::new(),
            intercept_names: Vec::new(),
        }
    }

    /// Adds a hook that reacts: it may give orders, which are carried out in a further pass of the same tick.
    ///
    /// It hears nothing until it is subscribed ([`Orders::subscribe`]). A hook is its place in the order of adding,
    /// so a host that restores a saved encounter adds the same hooks in the same order.
    pub fn react<F>(&mut self, name: &str, reaction: F) -> HookId
    where
        F: Fn(&mut W, &Heard<'_>, &mut Orders<'_>) + Send + Sync + 'static,
    {
        self.reactions.push(Box::new(reaction));
        self.names.push(name.to_owned());
        HookId::new(self.reactions.len() - 1)
    }

    /// Adds an intercept: it is asked at each attempt, as the last of the gates. The higher priority is asked first, of equals
    /// the one added first; the first that does not let pass decides. It needs no subscription.
    ///
    /// Intercepts have numbers of their own, in the order of adding.
    pub fn intercept<F>(&mut self, name: &str, priority: i16, intercept: F) -> HookId
    where
        F: Fn(&mut W, &Attempt<'_>) -> Verdict + Send + Sync + 'static,
    {
        let id = HookId::new(self.intercept_names.len());
        self.intercept_names.push(name.to_owned());
        let place = self.intercepts.partition_point(|(other, ..)| *other >= priority);
        self.intercepts.insert(place, (priority, id, Box::new(intercept)));
        id
    }

    /// The name of an intercept, by the number that a refusal gives ([`crate::Operand::Refused`]).
    pub fn intercept_name(&self, intercept: HookId) -> Option<&str> {
        self.intercept_names.get(intercept.index()).map(String::as_str)
    }

    /// The hook of a name.
    pub fn find(&self, name: &str) -> Option<HookId> {
        self.names.iter().position(|known| known == name).map(HookId::new)
    }

    /// The name of a hook.
    pub fn name(&self, hook: HookId) -> Option<&str> {
        self.names.get(hook.index()).map(String::as_str)
    }
}

/// Hooks with the world that was lent to them.
pub(crate) trait Hearing {
    fn count(&self) -> usize;
    fn hear(&mut self, hook: HookId, heard: &Heard<'_>, orders: &mut Orders<'_>);
    /// The first intercept that does not let the attempt pass, and what it says.
    fn intercept(&mut self, attempt: &Attempt<'_>) -> Option<(HookId, Verdict)>;
}

/// No hooks at all.
pub(crate) struct Deaf;

impl Hearing for Deaf {
    fn count(&self) -> usize {
        0
    }

    fn hear(&mut self, _: HookId, _: &Heard<'_>, _: &mut Orders<'_>) {}

    fn intercept(&mut self, _: &Attempt<'_>) -> Option<(HookId, Verdict)> {
        None
    }
}

pub(crate) struct Lent<'a, W> {
    pub(crate) hooks: &'a Hooks<W>,
    pub(crate) world: &'a mut W,
}

impl<W> Hearing for Lent<'_, W> {
    fn count(&self) -> usize {
        self.hooks.reactions.len()
    }

    fn hear(&mut self, hook: HookId, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        (self.hooks.reactions[hook.index()])(self.world, heard, orders);
    }
    fn intercept(&mut self, attempt: &Attempt<'_>) -> Option<(HookId, Verdict)> {
        self.hooks.intercepts.iter().find_map(|(_, id, intercept)| match intercept(self.world, attempt) {
            Verdict::Pass => None,
            verdict => Some((*id, verdict)),
        })
    }
}
