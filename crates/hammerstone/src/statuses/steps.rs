//! What statuses bring about, one step after the other.
//!
//! A status that is applied may lift others; one that is lifted may bring its bearer back on its feet; that may give statuses, which are
//! applied. These steps wait on a stack, the next last, so that they come in the order of a recursion, whose depth the data does not decide.

use crate::conditions;
use crate::event::{CutAt, Why};
use crate::ids::*;
use crate::ruleset::{Rules, Trigger};
use crate::state::{Application, State};
use crate::terms::Life;
use crate::work::Work;

use super::because::{self, Because};
use super::queue::{Giving, Queue, StatusStep};
use super::{apply, end};

/// How many steps wait that are not one's own.
pub(super) fn waiting(work: &Work<'_>) -> usize {
    work.rooms.statuses.steps.len()
}

/// Does the steps that have been added since there were `before`.
pub(super) fn run(work: &mut Work<'_>, before: usize) {
    while work.rooms.statuses.steps.len() > before
        && let Some(step) = work.rooms.statuses.steps.pop()
    {
        match step {
            StatusStep::Apply(giving) => {
                if work.state.combatants.life_of(giving.subject) == Life::Standing {
                    apply::apply_one(work, giving);
                }
            }
            StatusStep::Lift(application, why) => {
                if let Some(index) = work.state.application_index(application)
                    && work.state.applications[index].runs()
                {
                    end::lift_one(work, index, why);
                }
            }
            StatusStep::TakeEffect(subject, status) => apply::take_effect(work, subject, status),
        }
    }
}

/// Adds a step.
pub(super) fn add(work: &mut Work<'_>, step: StatusStep) {
    work.rooms.statuses.steps.push(step);
}

/// Adds lifts, in the order of applying, of every status that runs on `subject` now and for which `goes` says so. What is given to the
/// subject in between is not looked at.
pub(super) fn add_lifts(
    rules: &Rules,
    state: &State,
    queue: &mut Queue,
    subject: CombatantId,
    why: Why,
    goes: impl Fn(&Rules, &Application) -> bool,
) {
    let steps = &mut queue.steps;
    let first = steps.len();
    let statuses_of = state.statuses_on(subject).map(|place| &state.applications[place]);
    let going = statuses_of.filter(|application| application.runs() && goes(rules, application));
    steps.extend(going.map(|application| StatusStep::Lift(application.id, why)));
    // The next comes last.
    steps[first..].sort_unstable_by_key(|step| match step {
        StatusStep::Lift(application, _) => std::cmp::Reverse(Some(*application)),
        _ => std::cmp::Reverse(None),
    });
}

/// On which occasion statuses are given.
#[derive(Clone, Copy)]
pub(crate) struct Granting<'a> {
    pub(crate) on: Trigger,
    pub(crate) bearer: CombatantId,
    pub(crate) other: Option<CombatantId>,
    /// The hit, if it was one.
    pub(crate) because: Option<&'a Because>,
}

impl Granting<'_> {
    /// Without another side, and without a hit.
    pub(crate) fn alone(on: Trigger, bearer: CombatantId) -> Granting<'static> {
        Granting { on, bearer, other: None, because: None }
    }
}

/// Adds what template and statuses of the bearer give on an occasion, as far as their conditions hold: the template's, then those of
/// statuses in the order of applying. Each counts as a reaction.
pub(crate) fn add_grants(work: &mut Work<'_>, granting: Granting<'_>) {
    let Granting { on, bearer, other, because } = granting;
    let Work { ruleset, rules, level, state, log, rooms, .. } = work;
    if !rules.uses.grants || state.combatants.life_of(bearer) != Life::Standing {
        return;
    }
    // What is given to one who was kept alive is from the one who would have killed them.
    let source = if on == Trigger::Spared { other } else { Some(bearer) };
    let credit = source.map(|source| state.combatants.root_owner(source));
    let steps = &mut rooms.statuses.steps;
    let first = steps.len();
    let template = rules.template(state.combatants.template[bearer.slot()]);
    let of_template = template.grants.iter().filter(|grant| grant.on == on);
    // The latest application comes first, so that all of this is gone through from its end.
    let of_statuses =
        state.running_on(bearer.slot()).map(|application| &rules.status(application.status).grants);
    let mut lists: Vec<_> = of_statuses.filter(|grants| grants.iter().any(|grant| grant.on == on)).collect();
    lists.reverse();
    let given = of_template.chain(lists.into_iter().flatten().filter(|grant| grant.on == on));
    // Each side of a hit rolls apart, and both apart from what the attack inflicts.
    let mut number = if on == Trigger::Struck { ROLLS_OF_STRUCK } else { ROLLS_OF_HITS };
    for grant in given {
        let Some(subject) = (if grant.to_other { other } else { Some(bearer) }) else { continue };
        let parties = [Some(bearer), other];
        let when = &grant.when;
        let holds = when.is_empty() || because::holds(ruleset, level, state, because, parties, when, number);
        number += when.iter().map(conditions::count).sum::<u16>();
        if holds && log.allows(|| CutAt::Given(grant.status, on)) {
            let (status, strength) = (grant.status, grant.strength);
            steps.push(StatusStep::Apply(Giving { subject, status, source, credit, strength, tied: None }));
        }
    }
    steps[first..].reverse();
}

/// From which numbers on the conditions of grants roll.
const ROLLS_OF_STRUCK: u16 = 0x4000;
const ROLLS_OF_HITS: u16 = 0x8000;

/// As [`add_grants`], and does them.
pub(crate) fn grants(work: &mut Work<'_>, granting: Granting<'_>) {
    let before = waiting(work);
    add_grants(work, granting);
    run(work, before);
}
