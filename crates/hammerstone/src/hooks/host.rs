//! The one seam between a tick and the code of its host.

use super::{
    Calls, Code, DeathAttempt, Heard, HitContext, Hooks, PoseAnswer, PoseRequest, Predicted, StepCall, Terms,
    Verdict,
};
use crate::Fixed;
use crate::ids::*;
use crate::orders::Orders;

/// What a hook does with facts.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub enum HookSort {
    /// It is called in the tick, and may give orders.
    Reacts,
    /// It is called when the host confirms the tick, and gives none.
    Watches,
    /// It is called as a tick first runs and where it is corrected, and gives none ([`Hooks::show`]).
    Shows,
}

/// The host's side of a tick: code that hears facts, has a say in hits and deaths, and takes steps of amounts.
///
/// Every method has a default that does nothing, and `()` is a host without any code. [`Hooks`] are closures for a world that is lent
/// ([`Hooks::with`]); a type of one's own may borrow whatever it likes for the tick. Recorders and players wrap one host in another.
///
/// *Determinism:* the same calls must get the same answers, or a tick that is run again comes to something else.
///
/// ```
/// use hammerstone::prelude::*;
/// use hammerstone::hooks::HookSort;
/// use hammerstone::ids::HookId;
///
/// struct Sounds<'a> {
///     played: &'a mut Vec<&'static str>,
/// }
///
/// const THUD: HookId = HookId::numbered(0);
///
/// impl Host for Sounds<'_> {
///     fn hook(&self, hook: HookId) -> Option<HookSort> {
///         (hook == THUD).then_some(HookSort::Reacts)
///     }
///
///     fn hear(&mut self, _hook: HookId, _heard: &Heard<'_>, _orders: &mut Orders<'_>) {
///         self.played.push("thud");
///     }
/// }
///
/// # let mut b = Ruleset::builder(60);
/// # let masons = b.team("masons");
/// # let mason = b.template(Template::new("mason", masons, 40));
/// # let rules = b.build().unwrap();
/// let mut played = Vec::new();
/// let mut fight = Encounter::new(&rules, 7);
/// fight.orders().subscribe(THUD, Listen::to(topic::COMBATANT_JOINED));
/// fight.orders().spawn(mason, Pose::IDENTITY);
/// fight.tick_for(&mut Sounds { played: &mut played })?;
/// assert_eq!(played, ["thud"]);
/// # Ok::<(), TickError>(())
/// ```
#[doc(alias("callbacks", "event bus"))]
pub trait Host {
    /// Whether it has hooks at all. Without any, a tick does not run while something subscribes.
    fn has_hooks(&self) -> bool {
        true
    }

    /// What a hook does with facts; none if there is no such hook, or it hears no facts. Unless said, there are none.
    fn hook(&self, _hook: HookId) -> Option<HookSort> {
        None
    }

    /// Whether any hook only watches, or shows.
    fn any_watches(&self) -> bool {
        false
    }

    /// The path of the only facts that a hook takes, if it is for one payload. A subscription of it to other facts is refused.
    fn takes(&self, _hook: HookId) -> Option<&'static str> {
        None
    }

    /// A hook that reacts hears a fact. Its orders are carried out in a further pass of the tick.
    fn hear(&mut self, _hook: HookId, _heard: &Heard<'_>, _orders: &mut Orders<'_>) {}

    /// All that reached the hooks that react in one pass. Unless said, they [hear](Self::hear) it one call after the other; there is
    /// hardly a reason to say otherwise. It is one method so that a host is asked once a pass.
    fn hear_all(&mut self, calls: Calls<'_>) {
        calls.each(|hook, heard, orders| self.hear(hook, heard, orders));
    }

    /// A hook that watches hears a fact of a tick that is confirmed ([`crate::Encounter::confirm_for`]).
    fn watch(&mut self, _hook: HookId, _heard: &Heard<'_>) {}

    /// A hook that shows hears that a fact is shown, changed, retracted or confirmed.
    fn show(&mut self, _hook: HookId, _predicted: &Predicted<'_>) {}

    /// An attempt has passed every other gate: what becomes of it? The terms say which hook decides ([`Terms::by`]).
    fn intercept(&mut self, _attempt: &HitContext<'_>, _terms: &mut Terms<'_>) -> Verdict {
        Verdict::Proceed
    }

    /// A combatant is about to die, and no status of its own prevents it: the hook that does, and how many points of health it leaves,
    /// 1 or more. How often a hook has answered is in the [attempt](DeathAttempt::prevented).
    fn prevent_death(&mut self, _attempt: &DeathAttempt<'_>) -> Option<(HookId, i64)> {
        None
    }

    /// The hook that would be asked first about such a death, where the tick's budget is spent so that none is: the report of what was
    /// cut names it.
    fn may_prevent_death(&self, _attempt: &DeathAttempt<'_>) -> Option<HookId> {
        None
    }

    /// The poses of a combatant's parts, where its template is [posed](crate::template::Template::posed) and no order has posed it.
    ///
    /// Asked once a tick, before contacts are found, on one thread, in the order of ids, and only for combatants with a reach that meets
    /// the box about the way of an open hitbox. The answer is for this tick and never enters the state. Without an answer the parts are where
    /// the template has them; so are the parts of an attacker by touch.
    fn poses(&mut self, _request: &PoseRequest<'_>, _answer: &mut PoseAnswer<'_>) {}

    /// What the host's code makes of an amount, if it has code for the step.
    fn own_step(&mut self, _step: OwnStepId, _call: &StepCall<'_>) -> Option<Fixed> {
        None
    }
}

/// No code at all.
impl Host for () {
    fn has_hooks(&self) -> bool {
        false
    }
}

/// Hooks with the world that was lent to them; made by [`Hooks::with`].
#[derive(Debug)]
pub struct Lent<'a, W> {
    hooks: &'a Hooks<W>,
    world: &'a mut W,
}

impl<W> Hooks<W> {
    /// These hooks with a world, as a host for a tick.
    pub fn with<'a>(&'a self, world: &'a mut W) -> Lent<'a, W> {
        Lent { hooks: self, world }
    }

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

impl<W> Host for Looking<'_, W> {
    fn own_step(&mut self, step: OwnStepId, call: &StepCall<'_>) -> Option<Fixed> {
        self.hooks.take_step(self.world, step, call)
    }
}

impl<W> Host for Lent<'_, W> {
    fn hook(&self, hook: HookId) -> Option<HookSort> {
        match self.hooks.ears.get(hook.index())?.as_ref()? {
            Code::Reacts(_) => Some(HookSort::Reacts),
            Code::Watches(_) => Some(HookSort::Watches),
            Code::Shows(_) => Some(HookSort::Shows),
        }
    }

    fn any_watches(&self) -> bool {
        self.hooks.any_watches
    }

    fn takes(&self, hook: HookId) -> Option<&'static str> {
        self.hooks.takes.get(hook.index()).copied().flatten()
    }

    fn hear(&mut self, hook: HookId, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        if let Some(Some(Code::Reacts(reaction))) = self.hooks.ears.get(hook.index()) {
            reaction(self.world, heard, orders);
        }
    }

    fn watch(&mut self, hook: HookId, heard: &Heard<'_>) {
        if let Some(Some(Code::Watches(watch))) = self.hooks.ears.get(hook.index()) {
            watch(self.world, heard);
        }
    }

    fn show(&mut self, hook: HookId, predicted: &Predicted<'_>) {
        if let Some(Some(Code::Shows(show))) = self.hooks.ears.get(hook.index()) {
            show(self.world, predicted);
        }
    }

    fn intercept(&mut self, attempt: &HitContext<'_>, terms: &mut Terms<'_>) -> Verdict {
        for (_, hook, intercept) in &self.hooks.intercepts {
            terms.by(*hook);
            let verdict = intercept(self.world, attempt, terms);
            if verdict != Verdict::Proceed {
                return verdict;
            }
        }
        Verdict::Proceed
    }

    fn poses(&mut self, request: &PoseRequest<'_>, answer: &mut PoseAnswer<'_>) {
        if let Some(source) = &self.hooks.pose_source {
            source(self.world, request, answer);
        }
    }

    fn prevent_death(&mut self, attempt: &DeathAttempt<'_>) -> Option<(HookId, i64)> {
        let may = |(limit, hook, _): &&(u32, HookId, _)| attempt.prevented(*hook) < *limit;
        self.hooks.prevented_deaths.iter().filter(may).find_map(|(_, hook, prevents_death)| {
            let left = prevents_death(self.world, attempt)?;
            Some((*hook, left))
        })
    }

    fn may_prevent_death(&self, attempt: &DeathAttempt<'_>) -> Option<HookId> {
        let may = |(limit, hook, _): &&(u32, HookId, _)| attempt.prevented(*hook) < *limit;
        self.hooks.prevented_deaths.iter().find(may).map(|(_, hook, _)| *hook)
    }

    fn own_step(&mut self, step: OwnStepId, call: &StepCall<'_>) -> Option<Fixed> {
        self.hooks.take_step(self.world, step, call)
    }
}
