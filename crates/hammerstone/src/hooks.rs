//! Hooks: host code, called with the facts that its subscriptions ask for.

use crate::Fixed;
use crate::event::{Event, Fact, Facts, Listener, Means};
use crate::ids::*;
use crate::orders::{Order, Orders};
use crate::ruleset::By;
use crate::view::View;

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
    pub(crate) team: Option<TeamId>,
    pub(crate) tag: Option<TagId>,
    pub(crate) key: Option<u32>,
    pub(crate) stays: bool,
}

impl Listen {
    const fn new(topical: Topical) -> Listen {
        Listen {
            topical,
            subject: None,
            other: None,
            once: false,
            priority: 0,
            owner: None,
            team: None,
            tag: None,
            key: None,
            stays: false,
        }
    }

    /// Which facts it asks for.
    pub const fn topical(&self) -> Topical {
        self.topical
    }

    /// About whom, if about one only.
    pub const fn subject(&self) -> Option<CombatantId> {
        self.subject
    }

    /// By whom, if by one only.
    pub const fn other_party(&self) -> Option<CombatantId> {
        self.other
    }

    /// Of which team, if of one only.
    pub const fn team(&self) -> Option<TeamId> {
        self.team
    }

    /// With which tag, if with one only.
    pub const fn tag(&self) -> Option<TagId> {
        self.tag
    }

    /// Whether it asks for the first such fact only.
    pub const fn is_once(&self) -> bool {
        self.once
    }

    /// With whom it ends.
    pub const fn owner(&self) -> Option<CombatantId> {
        self.owner
    }

    /// Higher hears first.
    pub const fn priority_of(&self) -> i16 {
        self.priority
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

    /// Only where whoever the event is about is of this team.
    pub const fn of_team(mut self, team: TeamId) -> Listen {
        self.team = Some(team);
        self
    }

    /// Only where whoever the event is about carries this tag when it is heard, of its own or lent.
    pub const fn tagged(mut self, tag: TagId) -> Listen {
        self.tag = Some(tag);
        self
    }

    /// Under a key: a second subscription of the hook under the same key changes nothing, whatever it asks for.
    pub const fn keyed(mut self, key: u32) -> Listen {
        self.key = Some(key);
        self
    }

    /// It stays through resets.
    pub const fn stays(mut self) -> Listen {
        self.stays = true;
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
    /// It is refused for this reason, and the swing has used up this turn at the target.
    Refuse(&'static str),
    /// It is refused for this reason, and may be tried again in the next tick.
    Retry(&'static str),
    /// It is refused, and the swing, or its body, ends here. What was thrown flies back in the next tick, with the target's
    /// team and credit.
    Deflect,
}

/// What an intercept attaches to its verdict. Nothing of it takes place unless the hit lands.
#[derive(Debug)]
pub struct Terms<'a> {
    pub(crate) hook: HookId,
    pub(crate) kept: &'a mut KeptTerms,
}

/// What all intercepts attached so far.
#[derive(Clone, Debug, Default)]
pub(crate) struct KeptTerms {
    pub(crate) amends: Vec<Amend>,
    pub(crate) costs: Vec<(HookId, Order)>,
}

impl KeptTerms {
    pub(crate) fn clear(&mut self) {
        self.amends.clear();
        self.costs.clear();
    }
}

/// A change of the amounts of one blow.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Amend {
    pub(crate) hook: HookId,
    pub(crate) kind: Option<KindId>,
    pub(crate) by: By,
    pub(crate) note: &'static str,
}

impl Terms<'_> {
    /// Changes what the blow deals of every kind, in the step `amended`; the note stands in the ledger.
    pub fn amend(&mut self, by: By, note: &'static str) {
        self.kept.amends.push(Amend { hook: self.hook, kind: None, by, note });
    }

    /// As [`amend`](Self::amend), for one kind only.
    pub fn amend_kind(&mut self, kind: KindId, by: By, note: &'static str) {
        self.kept.amends.push(Amend { hook: self.hook, kind: Some(kind), by, note });
    }

    /// An order that is given when the hit lands, and carried out in a further pass of the tick.
    pub fn cost(&mut self, order: Order) {
        self.kept.costs.push((self.hook, order));
    }
}

/// What a step of the host's own looks at.
#[derive(Clone, Copy, Debug)]
pub struct StepCall<'a> {
    /// The amount so far.
    pub amount: Fixed,
    /// The kind of harm; none for healing.
    pub kind: Option<KindId>,
    /// Who deals or heals, if anybody.
    pub source: Option<CombatantId>,
    /// Who is harmed or healed.
    pub target: CombatantId,
    /// By what.
    pub means: Means,
    /// On which part, by its number, for blows.
    pub part: Option<u16>,
    /// The encounter as it stands.
    pub view: View<'a>,
}

/// A moment at which somebody is about to fall.
#[derive(Clone, Copy, Debug)]
pub struct Lethal<'a> {
    /// Who.
    pub target: CombatantId,
    /// By whom, if by anybody.
    pub source: Option<CombatantId>,
    /// By what.
    pub means: Means,
    /// The kind of harm that would do it.
    pub kind: KindId,
    /// How many points it comes to.
    pub amount: i64,
    /// The encounter as it stands; health is that before the blow.
    pub view: View<'a>,
}

type Reaction<W> = Box<dyn Fn(&mut W, &Heard<'_>, &mut Orders<'_>) + Send + Sync>;

type Watch<W> = Box<dyn Fn(&mut W, &Heard<'_>) + Send + Sync>;

/// Code that hears facts.
enum Ear<W> {
    Reacts(Reaction<W>),
    Watches(Watch<W>),
}

type Intercept<W> = Box<dyn Fn(&mut W, &Attempt<'_>, &mut Terms<'_>) -> Verdict + Send + Sync>;

type OwnStep<W> = Box<dyn Fn(&W, &StepCall<'_>) -> Fixed + Send + Sync>;

type Reprieve<W> = Box<dyn Fn(&mut W, &Lethal<'_>) -> Option<i64> + Send + Sync>;

/// The hooks of a host, kept beside the encounter. `W` is the host's own world, lent for the tick.
///
/// Hooks are `Fn`: what they remember lives in `W` or in the encounter, so that a tick can be run again.
pub struct Hooks<W> {
    names: Vec<String>,
    /// By number; none where a hook of another sort has the number.
    ears: Vec<Option<Ear<W>>>,
    any_watches: bool,
    /// With their priority, in the order in which they are asked.
    intercepts: Vec<(i16, HookId, Intercept<W>)>,
    steps: Vec<(OwnStepId, HookId, OwnStep<W>)>,
    /// With how often each may answer for one combatant in one life.
    reprieves: Vec<(u32, HookId, Reprieve<W>)>,
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
            names: Vec::new(),
            ears: Vec::new(),
            any_watches: false,
            intercepts: Vec::new(),
            steps: Vec::new(),
            reprieves: Vec::new(),
        }
    }

    fn named(&mut self, name: &str, ear: Option<Ear<W>>) -> HookId {
        self.names.push(name.to_owned());
        self.ears.push(ear);
        HookId::new(self.names.len() - 1)
    }

    /// Adds a hook that reacts: it may give orders, which are carried out in a further pass of the same tick.
    ///
    /// It hears nothing until it is subscribed ([`Orders::subscribe`]). A hook is its place in the order of adding,
    /// so a host that restores a saved encounter adds the same hooks in the same order.
    pub fn react<F>(&mut self, name: &str, reaction: F) -> HookId
    where
        F: Fn(&mut W, &Heard<'_>, &mut Orders<'_>) + Send + Sync + 'static,
    {
        self.named(name, Some(Ear::Reacts(Box::new(reaction))))
    }

    /// Adds a hook that only watches: for sound, particles, the display of a score. It gives no orders, and is called when the host
    /// confirms the tick ([`crate::Encounter::confirm`]), so that a tick which is simulated again is heard once.
    ///
    /// It is subscribed like one that reacts.
    pub fn watch<F>(&mut self, name: &str, watch: F) -> HookId
    where
        F: Fn(&mut W, &Heard<'_>) + Send + Sync + 'static,
    {
        self.any_watches = true;
        self.named(name, Some(Ear::Watches(Box::new(watch))))
    }

    /// Calls a hook that watches.
    pub(crate) fn show(&self, world: &mut W, hook: HookId, heard: &Heard<'_>) {
        if let Some(Some(Ear::Watches(watch))) = self.ears.get(hook.index()) {
            watch(world, heard);
        }
    }

    /// All hooks, with their names, in the order of adding.
    pub fn names(&self) -> impl Iterator<Item = (HookId, &str)> {
        self.names.iter().enumerate().map(|(place, name)| (HookId::new(place), name.as_str()))
    }

    /// Adds an intercept: it is asked at each attempt, as the last of the gates. The higher priority is asked first, of equals
    /// the one added first; the first that does not let pass decides. It needs no subscription.
    ///
    /// It may attach [`Terms`]: changes of the amount, and orders as a cost. Nothing of what any of them attached takes place unless
    /// the hit lands.
    pub fn intercept<F>(&mut self, name: &str, priority: i16, intercept: F) -> HookId
    where
        F: Fn(&mut W, &Attempt<'_>, &mut Terms<'_>) -> Verdict + Send + Sync + 'static,
    {
        let id = self.named(name, None);
        let place = self.intercepts.partition_point(|(other, ..)| *other >= priority);
        self.intercepts.insert(place, (priority, id, Box::new(intercept)));
        id
    }

    /// Adds the code of a step of the amount ([`crate::RulesetBuilder::own_step`]): it looks at the amount so far and gives the new one.
    /// It changes nothing, so that a preview can take it too. A step without code leaves the amount as it is, and the ledger says so.
    pub fn step<F>(&mut self, step: OwnStepId, name: &str, code: F) -> HookId
    where
        F: Fn(&W, &StepCall<'_>) -> Fixed + Send + Sync + 'static,
    {
        let id = self.named(name, None);
        self.steps.retain(|(of, ..)| *of != step);
        self.steps.push((step, id, Box::new(code)));
        id
    }

    /// Adds a reprieve: at a lethal moment it may say how many points of health are left instead, 1 or more. Those of statuses are
    /// asked first, then these in the order of adding; each answers for one combatant no more than `limit` times in one life.
    pub fn reprieve<F>(&mut self, name: &str, limit: u32, reprieve: F) -> HookId
    where
        F: Fn(&mut W, &Lethal<'_>) -> Option<i64> + Send + Sync + 'static,
    {
        let id = self.named(name, None);
        self.reprieves.push((limit, id, Box::new(reprieve)));
        id
    }

    /// The hook of a name, of any sort.
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
    /// Whether there is such a hook, and it is one that hears facts.
    fn knows(&self, hook: HookId) -> bool;
    /// Whether it only watches.
    fn watches(&self, hook: HookId) -> bool;
    /// Whether any hook only watches.
    fn any_watches(&self) -> bool;
    /// Calls hooks that react, one after the other, with the facts that reached them, by their place.
    fn hear(&mut self, reached: &[(u32, HookId)], facts: Facts<'_>, view: View<'_>, orders: Orders<'_>);
    /// The first intercept that does not let the attempt pass, and what it says.
    fn intercept(&mut self, attempt: &Attempt<'_>, kept: &mut KeptTerms) -> Option<(HookId, Verdict)>;
    /// The first reprieve of those that `may` still answer, and the health that it leaves.
    fn reprieve(&mut self, lethal: &Lethal<'_>, may: &dyn Fn(HookId, u32) -> bool) -> Option<(HookId, i64)>;
    /// What the host's code makes of an amount, if there is code for the step.
    fn own_step(&mut self, step: OwnStepId, call: &StepCall<'_>) -> Option<Fixed>;
}

/// No hooks at all.
pub(crate) struct Deaf;

impl Hearing for Deaf {
    fn knows(&self, _: HookId) -> bool {
        false
    }

    fn watches(&self, _: HookId) -> bool {
        false
    }

    fn any_watches(&self) -> bool {
        false
    }

    fn hear(&mut self, _: &[(u32, HookId)], _: Facts<'_>, _: View<'_>, _: Orders<'_>) {}

    fn intercept(&mut self, _: &Attempt<'_>, _: &mut KeptTerms) -> Option<(HookId, Verdict)> {
        None
    }

    fn reprieve(&mut self, _: &Lethal<'_>, _: &dyn Fn(HookId, u32) -> bool) -> Option<(HookId, i64)> {
        None
    }

    fn own_step(&mut self, _: OwnStepId, _: &StepCall<'_>) -> Option<Fixed> {
        None
    }
}

pub(crate) struct Lent<'a, W> {
    pub(crate) hooks: &'a Hooks<W>,
    pub(crate) world: &'a mut W,
}

impl<W> Hooks<W> {
    fn take_step(&self, world: &W, step: OwnStepId, call: &StepCall<'_>) -> Option<Fixed> {
        let (.., code) = self.steps.iter().find(|(of, ..)| *of == step)?;
        Some(code(world, call))
    }
}

/// Only the steps of the amount, for previews: the world is looked at and not changed.
pub(crate) struct Looking<'a, W> {
    pub(crate) hooks: &'a Hooks<W>,
    pub(crate) world: &'a W,
}

impl<W> Hearing for Looking<'_, W> {
    fn knows(&self, _: HookId) -> bool {
        false
    }

    fn watches(&self, _: HookId) -> bool {
        false
    }

    fn any_watches(&self) -> bool {
        false
    }

    fn hear(&mut self, _: &[(u32, HookId)], _: Facts<'_>, _: View<'_>, _: Orders<'_>) {}

    fn intercept(&mut self, _: &Attempt<'_>, _: &mut KeptTerms) -> Option<(HookId, Verdict)> {
        None
    }

    fn reprieve(&mut self, _: &Lethal<'_>, _: &dyn Fn(HookId, u32) -> bool) -> Option<(HookId, i64)> {
        None
    }

    fn own_step(&mut self, step: OwnStepId, call: &StepCall<'_>) -> Option<Fixed> {
        self.hooks.take_step(self.world, step, call)
    }
}

impl<W> Hearing for Lent<'_, W> {
    fn knows(&self, hook: HookId) -> bool {
        self.hooks.ears.get(hook.index()).is_some_and(Option::is_some)
    }

    fn watches(&self, hook: HookId) -> bool {
        matches!(self.hooks.ears.get(hook.index()), Some(Some(Ear::Watches(_))))
    }

    fn any_watches(&self) -> bool {
        self.hooks.any_watches
    }

    fn hear(&mut self, reached: &[(u32, HookId)], facts: Facts<'_>, view: View<'_>, mut orders: Orders<'_>) {
        let Some(&(first, _)) = reached.first() else { return };
        let fact = &facts.facts[first as usize];
        let mut heard = Heard { fact, event: &fact.event, facts, view };
        for &(place, hook) in reached {
            if let Some(Some(Ear::Reacts(reaction))) = self.hooks.ears.get(hook.index()) {
                let fact = &facts.facts[place as usize];
                (heard.fact, heard.event) = (fact, &fact.event);
                (orders.heard, orders.depth) = (Some((fact.seq, Listener::Hook(hook))), fact.depth + 1);
                reaction(self.world, &heard, &mut orders);
            }
        }
    }

    fn intercept(&mut self, attempt: &Attempt<'_>, kept: &mut KeptTerms) -> Option<(HookId, Verdict)> {
        self.hooks.intercepts.iter().find_map(|(_, hook, intercept)| {
            let mut terms = Terms { hook: *hook, kept: &mut *kept };
            match intercept(self.world, attempt, &mut terms) {
                Verdict::Pass => None,
                verdict => Some((*hook, verdict)),
            }
        })
    }

    fn reprieve(&mut self, lethal: &Lethal<'_>, may: &dyn Fn(HookId, u32) -> bool) -> Option<(HookId, i64)> {
        self.hooks.reprieves.iter().filter(|(limit, hook, _)| may(*hook, *limit)).find_map(
            |(_, hook, reprieve)| {
                let left = reprieve(self.world, lethal)?;
                Some((*hook, if left < 1 { 1 } else { left }))
            },
        )
    }

    fn own_step(&mut self, step: OwnStepId, call: &StepCall<'_>) -> Option<Fixed> {
        self.hooks.take_step(self.world, step, call)
    }
}
