//! Hooks: host code, called with the facts that its subscriptions ask for.

mod call;
mod host;
mod poses;
mod reach;

pub use crate::terms::{Listen, Topical};
pub(crate) use call::KeptTerms;
pub use call::{
    Amendment, Calls, DeathAttempt, Heard, HitContext, Predicted, Prediction, StepCall, Terms, Verdict,
};
pub(crate) use host::Looking;
pub use host::{HookSort, Host, Lent};
pub use poses::{GivenPoses, PoseAnswer, PoseRequest};
pub(crate) use reach::{Audience, Ear, Ears, Kept, Reach, Reached};

use crate::Fixed;
use crate::event::Payload;
use crate::ids::*;
use crate::orders::Orders;

type Reaction<W> = Box<dyn Fn(&mut W, &Heard<'_>, &mut Orders<'_>) + Send + Sync>;

type Watch<W> = Box<dyn Fn(&mut W, &Heard<'_>) + Send + Sync>;

type Show<W> = Box<dyn Fn(&mut W, &Predicted<'_>) + Send + Sync>;

/// Code that hears facts.
enum Code<W> {
    Reacts(Reaction<W>),
    Watches(Watch<W>),
    Shows(Show<W>),
}

type Intercept<W> = Box<dyn Fn(&mut W, &HitContext<'_>, &mut Terms<'_>) -> Verdict + Send + Sync>;

type OwnStep<W> = Box<dyn Fn(&W, &StepCall<'_>) -> Fixed + Send + Sync>;

type PoseSource<W> = Box<dyn Fn(&mut W, &PoseRequest<'_>, &mut PoseAnswer<'_>) + Send + Sync>;

type PreventsDeath<W> = Box<dyn Fn(&mut W, &DeathAttempt<'_>) -> Option<i64> + Send + Sync>;

/// The hooks of a host, kept beside the encounter. `W` is the host's own world, lent for the tick.
///
/// Hooks are `Fn`: what they remember lives in `W` or in the encounter, so that a tick can be run again.
#[doc(alias("callbacks", "event handlers", "listeners"))]
pub struct Hooks<W> {
    names: Vec<String>,
    /// By number; none where a hook of another sort has the number.
    ears: Vec<Option<Code<W>>>,
    /// By number: the path of the only facts that the hook takes, if it is for one payload.
    takes: Vec<Option<&'static str>>,
    any_watches: bool,
    /// With their priority, in the order in which they are asked.
    intercepts: Vec<(i16, HookId, Intercept<W>)>,
    steps: Vec<(OwnStepId, HookId, OwnStep<W>)>,
    /// With how often each may answer for one combatant in one life.
    prevented_deaths: Vec<(u32, HookId, PreventsDeath<W>)>,
    pose_source: Option<PoseSource<W>>,
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
            takes: Vec::new(),
            any_watches: false,
            intercepts: Vec::new(),
            steps: Vec::new(),
            prevented_deaths: Vec::new(),
            pose_source: None,
        }
    }

    fn named(&mut self, name: &str, ear: Option<Code<W>>) -> HookId {
        self.names.push(name.to_owned());
        self.ears.push(ear);
        self.takes.push(None);
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
        self.named(name, Some(Code::Reacts(Box::new(reaction))))
    }

    /// As [`react`](Self::react), for facts of one sort: the hook gets what they hold. A subscription of it to other facts is refused.
    ///
    /// ```
    /// use hammerstone::event::HitLanded;
    /// use hammerstone::prelude::*;
    ///
    /// let mut hooks = Hooks::<u32>::new();
    /// let count = hooks.on("count", |hits: &mut u32, _: &HitLanded, _, _| *hits += 1);
    /// # let rules = Ruleset::builder(60).build().unwrap();
    /// let mut fight = Encounter::new(&rules, 7);
    /// fight.orders().subscribe(count, Listen::to(topic::HIT_LANDED));
    /// ```
    pub fn on<P, F>(&mut self, name: &str, reaction: F) -> HookId
    where
        P: Payload,
        F: Fn(&mut W, &P, &Heard<'_>, &mut Orders<'_>) + Send + Sync + 'static,
    {
        let hook = self.react(name, move |world, heard, orders| {
            if let Some(payload) = P::of(heard.event) {
                reaction(world, payload, heard, orders);
            }
        });
        self.takes[hook.index()] = Some(P::INFO.path);
        hook
    }

    /// Adds a hook that only watches: for sound, particles, the display of a score. It gives no orders, and is called when the host
    /// confirms the tick ([`crate::Encounter::confirm`]), so that a tick which is simulated again is heard once.
    ///
    /// It is subscribed like one that reacts. Ticks that reached it are kept until they are confirmed or rolled back, however many.
    pub fn watch<F>(&mut self, name: &str, watch: F) -> HookId
    where
        F: Fn(&mut W, &Heard<'_>) + Send + Sync + 'static,
    {
        self.any_watches = true;
        self.named(name, Some(Code::Watches(Box::new(watch))))
    }

    /// Adds a hook that shows facts at once and corrects them: for sounds and numbers of a game that [rolls back](crate::rollback). It hears
    /// each fact as *shown* when its tick first runs; as *changed* or *retracted* when the tick is run again with other inputs, and it came
    /// out otherwise or not at all; and as *confirmed* when that can happen no more. Each fact is shown once, and retracted or confirmed
    /// once. It gives no orders.
    ///
    /// It is subscribed like the others. Without a driver that rolls back, it hears each fact as shown and as confirmed when the host confirms
    /// the tick.
    pub fn show<F>(&mut self, name: &str, show: F) -> HookId
    where
        F: Fn(&mut W, &Predicted<'_>) + Send + Sync + 'static,
    {
        self.any_watches = true;
        self.named(name, Some(Code::Shows(Box::new(show))))
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
        F: Fn(&mut W, &HitContext<'_>, &mut Terms<'_>) -> Verdict + Send + Sync + 'static,
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

    /// Adds a prevention of death: at a lethal moment it may say how many points of health are left instead, 1 or more. Those of statuses are
    /// asked first, then these in the order of adding; each answers for one combatant no more than `limit` times in one life.
    pub fn prevent_death<F>(&mut self, name: &str, limit: u32, prevents_death: F) -> HookId
    where
        F: Fn(&mut W, &DeathAttempt<'_>) -> Option<i64> + Send + Sync + 'static,
    {
        let id = self.named(name, None);
        self.prevented_deaths.push((limit, id, Box::new(prevents_death)));
        id
    }

    /// The source of poses for parts that no order poses: it is asked when a combatant comes near an open hitbox
    /// ([`Host::poses`]). Another takes the place of the one before.
    pub fn pose_source<F>(&mut self, source: F)
    where
        F: Fn(&mut W, &PoseRequest<'_>, &mut PoseAnswer<'_>) + Send + Sync + 'static,
    {
        self.pose_source = Some(Box::new(source));
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
