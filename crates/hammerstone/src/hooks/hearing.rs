//! Hooks as a tick calls them: with the world that was lent to them, or none at all.

use super::{DeathAttempt, Ear, Heard, HitContext, Hooks, KeptTerms, StepCall, Terms, Verdict};
use crate::Fixed;
use crate::event::Facts;
use crate::ids::*;
use crate::orders::Orders;
use crate::view::View;

/// Hooks with the world that was lent to them. Unless said, there are none.
pub(crate) trait Hearing {
    /// Whether there is such a hook, and it is one that hears facts.
    fn knows(&self, _hook: HookId) -> bool {
        false
    }

    /// The path of the only facts that a hook takes, if it is for one payload.
    fn takes(&self, _hook: HookId) -> Option<&'static str> {
        None
    }

    /// Whether there are no hooks at all.
    fn is_deaf(&self) -> bool {
        false
    }

    /// Whether it only watches.
    fn watches(&self, _hook: HookId) -> bool {
        false
    }

    /// Whether any hook only watches.
    fn any_watches(&self) -> bool {
        false
    }

    /// Calls hooks that react, one after the other, with the facts that reached them, by their place.
    fn hear(&mut self, _reached: &[(u32, HookId)], _facts: Facts<'_>, _view: View<'_>, _orders: Orders<'_>) {}

    /// The first intercept that does not let the attempt pass, and what it says.
    fn intercept(&mut self, _attempt: &HitContext<'_>, _kept: &mut KeptTerms) -> Option<(HookId, Verdict)> {
        None
    }

    /// The first prevention of death of those that `may` still answer, and the health that it leaves.
    fn prevents_death(
        &mut self,
        _lethal: &DeathAttempt<'_>,
        _may: &dyn Fn(HookId, u32) -> bool,
    ) -> Option<(HookId, i64)> {
        None
    }

    /// The first prevention of death that `may` still answer.
    fn may_prevent_death(&self, _may: &dyn Fn(HookId, u32) -> bool) -> Option<HookId> {
        None
    }

    /// What the host's code makes of an amount, if there is code for the step.
    fn own_step(&mut self, _step: OwnStepId, _call: &StepCall<'_>) -> Option<Fixed> {
        None
    }
}

/// No hooks at all.
pub(crate) struct Deaf;

impl Hearing for Deaf {
    fn is_deaf(&self) -> bool {
        true
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
    fn own_step(&mut self, step: OwnStepId, call: &StepCall<'_>) -> Option<Fixed> {
        self.hooks.take_step(self.world, step, call)
    }
}

impl<W> Hearing for Lent<'_, W> {
    fn may_prevent_death(&self, may: &dyn Fn(HookId, u32) -> bool) -> Option<HookId> {
        { self.hooks.prevented_deaths.iter() }
            .find(|(limit, hook, _)| may(*hook, *limit))
            .map(|(_, hook, _)| *hook)
    }

    fn knows(&self, hook: HookId) -> bool {
        self.hooks.ears.get(hook.index()).is_some_and(Option::is_some)
    }

    fn takes(&self, hook: HookId) -> Option<&'static str> {
        self.hooks.takes.get(hook.index()).copied().flatten()
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
                orders.answer(fact, hook);
                reaction(self.world, &heard, &mut orders);
            }
        }
    }

    fn intercept(&mut self, attempt: &HitContext<'_>, kept: &mut KeptTerms) -> Option<(HookId, Verdict)> {
        self.hooks.intercepts.iter().find_map(|(_, hook, intercept)| {
            let mut terms = Terms { hook: *hook, kept: &mut *kept };
            match intercept(self.world, attempt, &mut terms) {
                Verdict::Proceed => None,
                verdict => Some((*hook, verdict)),
            }
        })
    }

    fn prevents_death(
        &mut self,
        lethal: &DeathAttempt<'_>,
        may: &dyn Fn(HookId, u32) -> bool,
    ) -> Option<(HookId, i64)> {
        self.hooks.prevented_deaths.iter().filter(|(limit, hook, _)| may(*hook, *limit)).find_map(
            |(_, hook, prevents_death)| {
                let left = prevents_death(self.world, lethal)?;
                Some((*hook, if left < 1 { 1 } else { left }))
            },
        )
    }

    fn own_step(&mut self, step: OwnStepId, call: &StepCall<'_>) -> Option<Fixed> {
        self.hooks.take_step(self.world, step, call)
    }
}
