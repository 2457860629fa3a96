//! Facts to listeners: rules, then hooks.

use crate::conditions::Setting;
use crate::event::{Delivery, Fact, FactKey, Facts, Listener, TickFacts};
use crate::flow;
use crate::hooks::{Calls, Ear, Ears, HookSort, Kept, Reach, Reached};
use crate::ids::*;
use crate::level::Level;
use crate::log::Log;
use crate::rolls::Occasion;
use crate::ruleset::{Rules, Ruleset};
use crate::sheet;
use crate::state::{Pause, State, Subscription};
use crate::terms::Listen;
use crate::view::View;
use crate::work::Work;

use super::keys::key_of;
use super::listeners::Listeners;

/// Lets every fact that has not been heard be heard, in the order of the facts: by rules first; then by hooks, of each fact the higher
/// priority first, of equals the one that subscribed first.
pub(crate) fn deliver(work: &mut Work<'_>) {
    let rules = work.rules;
    let unheard = work.state.subscriptions.is_empty() && rules.rule_book.is_empty();
    if unheard || work.rooms.listeners.heard == work.log.tick.facts.len() {
        work.rooms.listeners.heard = work.log.tick.facts.len();
        return;
    }
    let first = work.log.tick.facts.first().map_or(0, |fact| fact.seq);
    if work.rooms.listeners.derive(rules, work.state, first) {
        work.rooms.listeners.note_heard(&mut work.log.heard_topics);
    }
    work.rooms.listeners.settle();
    work.rooms.listeners.reaches.clear();
    work.rooms.listeners.picked.clear();
    // Where deliveries are not kept and no hook only watches, all who listen without conditions hear.
    let kept = work.host.any_watches() || work.log.keep_deliveries;
    let first = std::mem::replace(&mut work.rooms.listeners.heard, work.log.tick.facts.len());
    for place in first..work.log.tick.facts.len() {
        let fact = &mut work.log.tick.facts[place];
        let topic = fact.event.topic();
        let audience = &work.rooms.listeners.by_topic[topic.index()];
        if !audience.wanted {
            continue;
        }
        let count = audience.ears.len() as u32;
        let all = count > 0 && audience.all_plain && !kept;
        if all {
            fact.reached += count;
            let reach = Reach { fact: place as u32, ears: Ears::All(topic) };
            work.rooms.listeners.reaches.push(reach);
        }
        if !rules.rules_by_topic[topic.index()].is_empty() {
            let fact = *fact;
            flow::hear(work, &fact, place);
        }
        if count > 0 && !all {
            gather(work, place, topic);
        }
        // Conditions ask for the last fact before the one that is heard.
        if let Some(remembered) = rules.remembers[topic.index()] {
            work.state.last_facts[usize::from(remembered)] = work.state.tick;
        }
    }
    call(work);
}

/// The listeners that the fact at `place` reaches, in the order of hearing. Hooks cannot change it: their orders wait.
fn gather(work: &mut Work<'_>, place: usize, topic: TopicId) {
    let Work { ruleset, level, state, log, rooms, host, .. } = work;
    let Listeners { by_topic, reaches, picked, watched, .. } = &mut rooms.listeners;
    let Log { tick: TickFacts { facts, deliveries, .. }, keep_deliveries, .. } = &mut **log;
    let fact = &mut facts[place];
    let watches = host.any_watches();
    let (first_kept, first_picked, mut shows) = (watched.len(), picked.len(), false);
    for &ear in &by_topic[topic.index()].ears {
        let Ear { subscription, hook, bound } = ear;
        let known = &state.subscriptions[subscription as usize];
        if !hears(ruleset, level, state, known, fact) {
            continue;
        }
        let Subscription { id, ref listen, .. } = *known;
        fact.reached += 1;
        if *keep_deliveries {
            let (listener, subscription) = (Listener::Hook(hook), Some(id));
            deliveries.push(Delivery { seq: fact.seq, listener, subscription, pass: fact.pass });
        }
        if listen.once {
            state.subscriptions[subscription as usize].until = Some(fact.seq + 1);
        }
        let (sort, is_reached) = (host.hook(hook), Reached { fact: place as u32, hook, bound });
        match sort.filter(|_| watches) {
            Some(HookSort::Watches) => watched.push(Kept { reached: is_reached, key: None }),
            Some(HookSort::Shows) => {
                shows = true;
                watched.push(Kept { reached: is_reached, key: Some(FactKey(0)) });
            }
            _ => picked.push(ear),
        }
    }
    let (first, count) = (first_picked as u32, (picked.len() - first_picked) as u32);
    if count > 0 {
        reaches.push(Reach { fact: place as u32, ears: Ears::Picked { first, count } });
    }
    if shows {
        let key = key_of(ruleset.compiled(), state, &mut rooms.known, facts, place);
        watched[first_kept..].iter_mut().filter_map(|kept| kept.key.as_mut()).for_each(|of| *of = key);
    }
}

/// Calls the hooks that react to what reached them.
fn call(work: &mut Work<'_>) {
    let Work { ruleset, state, log, rooms, host, .. } = work;
    let Listeners { reaches, by_topic, picked, .. } = &rooms.listeners;
    if reaches.is_empty() {
        return;
    }
    let Log { tick, budget, .. } = &mut **log;
    let facts = Facts { counts: state.counts, ..tick.as_facts() };
    let (view, queue) = View::beside_orders(ruleset, state);
    host.hear_all(Calls { reaches, by_topic, picked, facts, view, queue, budget });
}

/// As [`deliver`], for facts that were heard before.
#[cfg(feature = "figures")]
pub(crate) fn deliver_again(work: &mut Work<'_>) {
    work.rooms.listeners.heard = 0;
    work.rooms.listeners.watched.clear();
    deliver(work);
    work.state.pending.clear();
}

fn hears(ruleset: &Ruleset, level: &Level, state: &State, subscription: &Subscription, fact: &Fact) -> bool {
    let rules = ruleset.compiled();
    let Listen { subject, other, team, tag, filter, .. } = subscription.listen;
    fact.seq >= subscription.from
        && subscription.until.is_none_or(|until| fact.seq < until)
        && !Pause::of(&state.pauses, subscription.id).iter().any(|pause| pause.keeps(fact.seq))
        && (subject.is_none() || subject == fact.event.subject())
        && (other.is_none() || other == fact.event.other())
        && ((team.is_none() && tag.is_none()) || is_of(rules, state, fact.event.subject(), team, tag))
        && filter.is_none_or(|filter| fits(ruleset, level, state, filter, fact))
}

/// Whether a fact, of a topic of the filter, fits it now.
fn fits(ruleset: &Ruleset, level: &Level, state: &State, filter: FilterId, fact: &Fact) -> bool {
    let rules = ruleset.compiled();
    let (subject, other) = (fact.event.subject(), fact.event.other());
    let occasion = Occasion { attacker: 0, via: 0, start: 0, target: 0, ordinal: 0 };
    let fact = Some(&fact.event);
    let setting = Setting { ruleset, rules, state, level, subject, other, fact, hit: None, occasion };
    setting.look().first_lost(&rules.filters[filter.index()].when).is_none()
}

fn is_of(
    rules: &Rules,
    state: &State,
    who: Option<CombatantId>,
    team: Option<TeamId>,
    tag: Option<TagId>,
) -> bool {
    let combatants = &state.combatants;
    let here = who.filter(|&who| combatants.has_place(who));
    here.is_some_and(|who| {
        team.is_none_or(|team| combatants.team[who.slot()] == team)
            && tag.is_none_or(|tag| sheet::tags(rules, state, who.slot()) & tag.bit() != 0)
    })
}
