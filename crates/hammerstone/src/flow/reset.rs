//! Beginning anew: everything ends with its fact, then the state with which the first tick began returns.

use crate::event::{EncounterReset, SwingEnd, Why};
use crate::execute;
use crate::holds;
use crate::hub;
use crate::ids::*;
use crate::lifecycle;
use crate::orders::Order;
use crate::state::{Pause, State, StatusAt, Subscription, SwingAt};
use crate::statuses;
use crate::swing;
use crate::terms::Life;
use crate::terms::Refusal;
use crate::work::Work;

/// Every swing and every status ends.
pub(crate) fn end_everything(work: &mut Work<'_>, swings: SwingEnd, why: Why) {
    for index in SwingAt::all(&work.state.swings) {
        swing::end_swing(work, index, swings);
    }
    holds::end_all(work, why);
    for index in StatusAt::all(&work.state.applications) {
        statuses::lift(work, index, why);
    }
}

/// Everything and everyone ends, and who listens is told. What they order in answer is refused.
pub(crate) fn startup(work: &mut Work<'_>) {
    end_everything(work, SwingEnd::Reset, Why::Reset);
    for slot in 0..work.state.combatants.slots() {
        if work.state.combatants.life[slot] != Life::Gone {
            let who = work.state.combatants.id(slot);
            lifecycle::remove(work, who, Why::Reset);
        }
    }
    work.log.publish(EncounterReset {});
    hub::deliver(work);
    for place in 0..work.state.pending.len() {
        let pending = work.state.pending[place];
        execute::refuse(work, &pending, Refusal::Resetting);
    }
    work.state.pending.clear();
    work.rooms.reacting.resets = true;
}

/// Puts the state back to the one with which the first tick began. What is numbered from here on belongs to another epoch; and so do
/// the swings that are ordered again. Subscriptions that stay do, unless they are subscribed again anyway and are not paused.
pub(crate) fn begin_anew(state: &mut State, first: &State) {
    let again = |subscription: &Subscription| {
        first.pending.iter().any(|pending| {
            matches!(pending.order, Order::Subscribe { hook, listen, .. } if (hook, listen) == (subscription.hook, subscription.listen))
        })
    };
    let paused = |s: &Subscription| Pause::of(&state.pauses, s.id).iter().any(|pause| pause.to.is_none());
    let stays = |s: &&Subscription| s.listen.stays && s.until.is_none() && (!again(s) || paused(s));
    let kept: Vec<Subscription> = state.subscriptions.iter().filter(stays).copied().collect();
    let kept_id = |id: SubscriptionId| kept.iter().any(|subscription| subscription.id == id);
    let pauses: Vec<Pause> = { state.pauses.iter() }
        .filter(|pause| pause.to.is_none() && kept_id(pause.id))
        .map(|pause| Pause { from: 0, ..*pause })
        .collect();
    let epoch = Epoch(state.registrar.epoch.0 + 1);
    state.clone_from(first);
    state.registrar.enter(epoch);
    for pending in &mut state.pending {
        pending.order = pending.order.in_epoch(epoch);
    }
    state.pauses.extend(pauses);
    state.pauses.sort_unstable_by_key(|pause| pause.id);
    state.subscriptions.extend(kept.into_iter().map(|subscription| Subscription { from: 0, ..subscription }));
}
