//! Damage that is passed on: a share that another combatant takes, and what is thrown back.

use crate::Fixed;
use crate::event::{CutAt, Echo, Via};
use crate::ids::*;
use crate::log::Log;
use crate::ruleset::{Rules, SharedDamage};
use crate::state::{Application, State};
use crate::terms::Life;
use crate::work::Work;

use super::buffers::{Blows, Dealt, PassedDamage};
use super::r2_amount::{AmountContext, Ground, Start};
use super::r3_deal::deal;

/// The combatants that take a share of it, each with its points: the one to which it goes, or all that are linked with the target by the
/// status, by their places; what does not divide goes to the first.
pub(super) fn takers(
    ground: &Ground<'_>,
    target: CombatantId,
    passed: &PassedDamage,
) -> impl Iterator<Item = (CombatantId, i64)> + use<> {
    let PassedDamage { to, amount, status, .. } = *passed;
    let linked = ground.rules.status(status).transfers.is_some_and(|passing| passing.linked);
    let others = if linked { linked_with(ground.state, target, status) } else { Vec::new() };
    let count = others.len().max(1);
    let share = move |place: usize| {
        let (place, count) = (place as i64, count as i64);
        amount / count + i64::from(place < amount % count)
    };
    let taker = move |place: usize| (others.get(place).copied().unwrap_or(to), share(place));
    (0..count).map(taker).filter(|(_, points)| *points > 0)
}

/// Others who bear a status from a source from which `target` bears it, and stand.
fn linked_with(state: &State, target: CombatantId, status: StatusId) -> Vec<CombatantId> {
    let bears = |application: &&Application| application.status == status && application.runs();
    let own = state.running_on(target.slot()).find(|application| application.status == status);
    let Some(source) = own.map(|application| application.source) else { return Vec::new() };
    let same = state.applications.iter().filter(bears).filter(|application| application.source == source);
    let mut others: Vec<CombatantId> = same.map(|application| application.subject).collect();
    others.retain(|&who| who != target && state.combatants.life_of(who) == Life::Standing);
    others.sort_unstable();
    others.dedup();
    others
}

/// The share that someone takes for the target, by the first of the statuses that say so whose source stands.
pub(super) fn transferred(
    ground: &Ground<'_>,
    blow: &AmountContext,
    damage_type: DamageTypeId,
    amount: i64,
) -> Option<PassedDamage> {
    if blow.echo.is_some() || !ground.rules.uses.transfers {
        return None;
    }
    let state = ground.state;
    let mut first: Option<(ApplicationId, PassedDamage)> = None;
    for application in state.running_on(blow.target.slot()) {
        let Some(passing) = ground.rules.status(application.status).transfers else { continue };
        let to = match passing.linked {
            true => linked_with(state, blow.target, application.status).first().copied(),
            false => application.source.filter(|&to| to != blow.target),
        };
        let Some(to) = to else { continue };
        let share = passed_on(&passing, damage_type, amount);
        if share > 0
            && state.combatants.life_of(to) == Life::Standing
            && first.is_none_or(|(id, _)| application.id < id)
        {
            let AmountContext { source, credit, absolute, .. } = *blow;
            let (status, echo) = (application.status, Echo::Transferred);
            let damage =
                PassedDamage { to, source, credit, damage_type, amount: share, status, echo, absolute };
            first = Some((application.id, damage));
        }
    }
    first.map(|(_, damage)| damage)
}

/// Collects what statuses of `target` throw back at `source`, which damaged it.
pub(super) fn reflect(
    rules: &Rules,
    state: &State,
    log: &mut Log,
    blows: &mut Blows,
    target: CombatantId,
    source: CombatantId,
) {
    if !rules.uses.reflects || state.combatants.life_of(source) != Life::Standing {
        return;
    }
    let slot = target.slot();
    let credit = Some(state.combatants.credit[slot]);
    let Blows { dealt, echoes, .. } = blows;
    for application in state.running_on(slot) {
        let Some(passing) = rules.status(application.status).reflects else { continue };
        for &Dealt { damage_type, amount, .. } in &*dealt {
            let amount = passed_on(&passing, damage_type, amount);
            let (status, echo) = (application.status, Echo::Reflected);
            if amount > 0 && log.allows(|| CutAt::PassedOn(status, echo)) {
                let (to, source, absolute) = (source, Some(target), false);
                echoes.push(PassedDamage { to, source, credit, damage_type, amount, status, echo, absolute });
            }
        }
    }
}

fn passed_on(passing: &SharedDamage, damage_type: DamageTypeId, amount: i64) -> i64 {
    if passing.damage_type.is_none_or(|only| only == damage_type) {
        (Fixed::whole(amount) * passing.share).floor()
    } else {
        0
    }
}

/// What was passed on by the blow that is over reaches those to whom it goes, as long as they stand. It goes on no further.
pub(crate) fn deal_echoes(work: &mut Work<'_>) {
    work.rooms.blows.terms.clear();
    for place in 0..work.rooms.blows.echoes.len() {
        let PassedDamage { to, source, credit, damage_type, amount, status, echo, absolute } =
            work.rooms.blows.echoes[place];
        if work.state.combatants.life_of(to) == Life::Standing {
            let plain = AmountContext::plain(to, source, Via::Status(status));
            let blow = AmountContext { credit, echo: Some(echo), absolute, ..plain };
            deal(work, &blow, std::iter::once((damage_type, Start::Named(Fixed::whole(amount)))));
        }
    }
    work.rooms.blows.echoes.clear();
}
