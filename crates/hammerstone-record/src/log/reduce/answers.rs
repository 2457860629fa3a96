//! Answers of a host, found by their calls: so a part of a fight can be run in which some calls do not come.

use std::cell::RefCell;
use std::collections::{BTreeMap, VecDeque};

use hammerstone::Fixed;
use hammerstone::hooks::{
    Amendment, DeathAttempt, GivenPoses, Heard, HitContext, HookSort, PoseAnswer, PoseRequest, StepCall,
    Terms, Verdict,
};
use hammerstone::ids::{AttackId, CombatantId, HookId, OwnStepId, TopicId};
use hammerstone::orders::{Inputs, Order, Orders};
use hammerstone::prelude::Host;

use super::super::replay::answer_again;

/// What a host was asked, so far as it does not depend on what else happens.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub(super) enum Call {
    Hears(HookId, TopicId, [Option<CombatantId>; 2]),
    Attempt(AttackId, Option<CombatantId>, CombatantId, u16),
    Death(CombatantId),
    MayPrevent(CombatantId),
    Poses(CombatantId),
    Step(OwnStepId, Option<CombatantId>, CombatantId),
}

/// What it answered.
#[derive(Clone, Debug)]
pub(super) enum Answer {
    Orders(Inputs),
    Verdict(HookId, Verdict, Vec<Amendment>, Vec<(HookId, Order)>),
    Death(Option<(HookId, i64)>),
    MayPrevent(Option<HookId>),
    Poses(GivenPoses),
    Step(Option<Fixed>),
}

/// The answers of one tick.
pub(super) type Answers = BTreeMap<Call, VecDeque<Answer>>;

/// One tick of the part that is asked for.
#[derive(Clone, Debug, Default)]
pub(super) struct Asked {
    pub(super) inputs: Inputs,
    pub(super) answers: Answers,
    pub(super) hooks: BTreeMap<HookId, (Option<HookSort>, Option<&'static str>)>,
    pub(super) has_hooks: bool,
    pub(super) any_watches: bool,
}

/// Notes what a host answers.
pub(super) struct Noting<'a> {
    pub(super) host: &'a mut dyn Host,
    pub(super) asked: RefCell<&'a mut Asked>,
}

impl Noting<'_> {
    fn note(&self, call: Call, answer: Answer) {
        self.asked.borrow_mut().answers.entry(call).or_default().push_back(answer);
    }
}

impl Host for Noting<'_> {
    fn has_hooks(&self) -> bool {
        let has = self.host.has_hooks();
        self.asked.borrow_mut().has_hooks = has;
        has
    }

    fn hook(&self, hook: HookId) -> Option<HookSort> {
        let is = self.host.hook(hook);
        self.asked.borrow_mut().hooks.entry(hook).or_default().0 = is;
        is
    }

    fn any_watches(&self) -> bool {
        let any = self.host.any_watches();
        self.asked.borrow_mut().any_watches |= any;
        any
    }

    fn takes(&self, hook: HookId) -> Option<&'static str> {
        let takes = self.host.takes(hook);
        self.asked.borrow_mut().hooks.entry(hook).or_default().1 = takes;
        takes
    }

    fn hear(&mut self, hook: HookId, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        let (host, mut inputs) = (&mut *self.host, Inputs::new());
        orders.noting(&mut inputs, |orders| host.hear(hook, heard, orders));
        self.note(Call::hears(hook, heard), Answer::Orders(inputs));
    }

    fn intercept(&mut self, attempt: &HitContext<'_>, terms: &mut Terms<'_>) -> Verdict {
        let before = (terms.amendments().len(), terms.costs().len());
        let verdict = self.host.intercept(attempt, terms);
        let amendments = terms.amendments()[before.0..].to_vec();
        let costs = terms.costs()[before.1..].to_vec();
        self.note(Call::attempt(attempt), Answer::Verdict(terms.decides(), verdict, amendments, costs));
        verdict
    }

    fn prevent_death(&mut self, attempt: &DeathAttempt<'_>) -> Option<(HookId, i64)> {
        let answered = self.host.prevent_death(attempt);
        self.note(Call::Death(attempt.target), Answer::Death(answered));
        answered
    }

    fn may_prevent_death(&self, attempt: &DeathAttempt<'_>) -> Option<HookId> {
        let answered = self.host.may_prevent_death(attempt);
        self.note(Call::MayPrevent(attempt.target), Answer::MayPrevent(answered));
        answered
    }

    fn poses(&mut self, request: &PoseRequest<'_>, answer: &mut PoseAnswer<'_>) {
        let (host, mut given) = (&mut *self.host, GivenPoses::default());
        answer.noting(&mut given, |answer| host.poses(request, answer));
        self.note(Call::Poses(request.who), Answer::Poses(given));
    }

    fn own_step(&mut self, step: OwnStepId, call: &StepCall<'_>) -> Option<Fixed> {
        let answered = self.host.own_step(step, call);
        self.note(Call::Step(step, call.source, call.target), Answer::Step(answered));
        answered
    }
}

impl Call {
    fn hears(hook: HookId, heard: &Heard<'_>) -> Call {
        Call::Hears(hook, heard.event.topic(), [heard.event.subject(), heard.event.other()])
    }

    fn attempt(attempt: &HitContext<'_>) -> Call {
        Call::Attempt(attempt.attack, attempt.attacker, attempt.target, attempt.part)
    }
}

/// Answers what was answered to the same call. What was never asked gets the answer of a host that does nothing.
pub(super) struct Again<'a> {
    pub(super) asked: &'a Asked,
    pub(super) left: RefCell<Answers>,
}

impl Again<'_> {
    fn answer(&self, call: Call) -> Option<Answer> {
        self.left.borrow_mut().get_mut(&call)?.pop_front()
    }
}

impl Host for Again<'_> {
    fn has_hooks(&self) -> bool {
        self.asked.has_hooks
    }

    fn hook(&self, hook: HookId) -> Option<HookSort> {
        // One that nothing reached in this tick was not asked for; it is one all the same.
        self.asked.hooks.get(&hook).map_or(Some(HookSort::Reacts), |is| is.0)
    }

    fn any_watches(&self) -> bool {
        self.asked.any_watches
    }

    fn takes(&self, hook: HookId) -> Option<&'static str> {
        self.asked.hooks.get(&hook)?.1
    }

    fn hear(&mut self, hook: HookId, heard: &Heard<'_>, orders: &mut Orders<'_>) {
        if let Some(Answer::Orders(inputs)) = self.answer(Call::hears(hook, heard)) {
            // What it names is in it: it was noted.
            _ = orders.repeat(&inputs);
        }
    }

    fn intercept(&mut self, attempt: &HitContext<'_>, terms: &mut Terms<'_>) -> Verdict {
        let answer = self.answer(Call::attempt(attempt));
        let Some(Answer::Verdict(by, verdict, amendments, costs)) = answer else { return Verdict::Proceed };
        answer_again(terms, by, amendments, costs);
        verdict
    }

    fn prevent_death(&mut self, attempt: &DeathAttempt<'_>) -> Option<(HookId, i64)> {
        match self.answer(Call::Death(attempt.target))? {
            Answer::Death(answered) => answered,
            _ => None,
        }
    }

    fn may_prevent_death(&self, attempt: &DeathAttempt<'_>) -> Option<HookId> {
        match self.answer(Call::MayPrevent(attempt.target))? {
            Answer::MayPrevent(answered) => answered,
            _ => None,
        }
    }

    fn poses(&mut self, request: &PoseRequest<'_>, answer: &mut PoseAnswer<'_>) {
        if let Some(Answer::Poses(given)) = self.answer(Call::Poses(request.who))
            && let Some(frame) = given.frame
        {
            _ = answer.give(frame, &given.start, &given.end);
        }
    }

    fn own_step(&mut self, step: OwnStepId, call: &StepCall<'_>) -> Option<Fixed> {
        match self.answer(Call::Step(step, call.source, call.target))? {
            Answer::Step(answered) => answered,
            _ => None,
        }
    }
}
