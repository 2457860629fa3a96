//! Orders about subscriptions and the host's own facts.

use crate::event::{HostFact, HostValue};
use crate::ids::*;
use crate::orders::Order;
use crate::orders::Pending;
use crate::ruleset::Rules;
use crate::state::{Pause, State, Subscription};
use crate::terms::Refusal;
use crate::terms::{Listen, Topical};
use crate::work::Work;

pub(super) fn carry_out(work: &mut Work<'_>, pending: &Pending) {
    match pending.order {
        Order::Subscribe { id, hook, listen } => subscribe(work, id, hook, listen),
        Order::Unsubscribe { which } => {
            let now = work.log.next();
            for (place, known) in work.state.subscriptions.iter_mut().enumerate() {
                if known.until.is_some() {
                    continue;
                }
                if known.ends_by(which) {
                    work.rooms.listeners.ended(place);
                    known.until = Some(now);
                }
            }
        }
        Order::Pause { which } => {
            let now = work.log.next();
            let State { subscriptions, pauses, .. } = &mut *work.state;
            for (place, known) in subscriptions.iter().enumerate() {
                let last = pauses.partition_point(|pause| pause.id <= known.id);
                let open = pauses[..last].last().is_some_and(|p| p.id == known.id && p.to.is_none());
                if known.until.is_none() && known.ends_by(which) && !open {
                    work.rooms.listeners.ended(place);
                    pauses.insert(last, Pause { id: known.id, from: now, to: None });
                }
            }
        }
        Order::Resume { which } => {
            let now = work.log.next();
            let State { subscriptions, pauses, .. } = &mut *work.state;
            for pause in pauses.iter_mut().filter(|pause| pause.to.is_none()) {
                let known = subscriptions.binary_search_by_key(&pause.id, |known| known.id);
                if known.is_ok_and(|place| subscriptions[place].ends_by(which)) {
                    pause.to = Some(now);
                }
            }
        }
        Order::Publish { topic, values } => {
            let topic = work.rules.topics.of_host(topic);
            let (given, log) = (&work.state.given_text, &mut work.log);
            let settled = |value| match value {
                HostValue::At(at) => HostValue::At(at.map(|x| x + 0.0)),
                // From here on it is one of the tick's.
                HostValue::Text(text) => HostValue::Text(log.tell(text, given)),
                other => other,
            };
            let values = values.map(settled);
            let seq = work.log.publish(HostFact { topic, values });
            work.log.tick.published.push((pending.number, seq));
        }
        _ => {}
    }
}

/// Whether the hook of a subscription was given for the tick, and takes what it would hear.
pub(super) fn hook_fits(work: &Work<'_>, order: &Order) -> Result<(), Refusal> {
    match *order {
        Order::Subscribe { hook, .. } if work.host.hook(hook).is_none() => Err(Refusal::NoSuchHook),
        Order::Subscribe { hook, listen, .. } => match work.host.takes(hook) {
            Some(path) if !asks_only_for(work.rules, listen, path) => Err(Refusal::OtherPayload),
            _ => Ok(()),
        },
        _ => Ok(()),
    }
}

/// Whether all facts that a subscription asks for are of the topics under `path`.
fn asks_only_for(rules: &Rules, listen: Listen, path: &str) -> bool {
    let topics = &rules.topics;
    let is = |&topic: &TopicId| topics.info(topic).is_some_and(|info| info.path == path);
    match listen.topical() {
        Topical::To(topic) => is(&topic),
        Topical::Under(family) => topics.members(family).iter().all(is),
        Topical::All => false,
    }
}

/// The same again changes nothing: one that asks for the same, or one of the same hook under the same key.
fn subscribe(work: &mut Work<'_>, id: SubscriptionId, hook: HookId, listen: Listen) {
    let state = &mut *work.state;
    let same = |known: &Subscription| {
        known.hook == hook
            && known.until.is_none()
            && (known.listen == listen || (listen.key.is_some() && known.listen.key == listen.key))
    };
    if !state.subscriptions.iter().any(same) {
        let from = work.log.next();
        let place = state.subscriptions.partition_point(|known| known.id < id);
        state.subscriptions.insert(place, Subscription { id, hook, listen, from, until: None });
        let listeners = &mut work.rooms.listeners;
        listeners.subscribed(work.rules, work.state, place);
        listeners.note_heard(&mut work.log.heard_topics);
    }
}
