//! Who hears each topic, derived from the subscription table whenever that has changed. It decides nothing.

use crate::hooks::{Kept, Reached};
use crate::ids::*;
use crate::ruleset::Rules;
use crate::state::{Pause, State, Subscription};
use crate::terms::{Listen, Topical};

/// A subscription, by its place in the table, and its hook.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Ear {
    pub(crate) subscription: u32,
    pub(crate) hook: HookId,
    /// The number that is bound to the subscription.
    pub(crate) bound: u64,
}

#[derive(Clone, Debug, Default)]
pub(crate) struct Listeners {
    /// For each topic, who hears it, in the order of hearing.
    pub(crate) by_topic: Vec<Vec<Ear>>,
    /// By place in the table: whether it hears every fact of its topics from now on, without a look at the table. Only ever too
    /// careful.
    pub(crate) plain: Vec<bool>,
    /// Whether this still follows from the table. Set to false by whatever replaces the table.
    pub(crate) current: bool,
    /// Whether any was taken in since, of which `plain` is too careful.
    pub(crate) fresh: bool,
    /// How many of the tick's facts have been heard.
    pub(crate) heard: usize,
    /// What is being heard: facts by their place, and the hooks that they reach.
    pub(crate) reached: Vec<Reached>,
    /// What reached hooks in this tick that watch or show, likewise.
    pub(crate) watched: Vec<Kept>,
}

impl Listeners {
    /// Follows the table, if it does not. `first` is the first fact of the tick. Gives whether it had to.
    pub(crate) fn derive(&mut self, rules: &Rules, state: &State, first: u64) -> bool {
        if std::mem::replace(&mut self.current, true) {
            return false;
        }
        self.by_topic.iter_mut().for_each(Vec::clear);
        self.by_topic.resize(rules.topics.count(), Vec::new());
        self.plain.clear();
        for (place, subscription) in state.subscriptions.iter().enumerate() {
            self.observe(rules, &state.subscriptions, place);
            let Listen { subject, other, once, team, tag, filter, .. } = subscription.listen;
            let of_party = subject.is_some() || other.is_some() || team.is_some() || tag.is_some();
            let asks = once || of_party || filter.is_some();
            let yet = subscription.from <= first;
            let paused = !Pause::of(&state.pauses, subscription.id).is_empty();
            self.plain.push(!asks && !paused && subscription.until.is_none() && yet);
            self.fresh |= !yet;
        }
        true
    }

    /// Takes in the subscription at `place` of the table, if it is the last; else all are looked at anew.
    pub(crate) fn subscribed(&mut self, rules: &Rules, state: &State, place: usize) {
        if self.current && place + 1 == state.subscriptions.len() {
            self.observe(rules, &state.subscriptions, place);
            // In this tick it must not hear what came before it.
            self.plain.push(false);
            self.fresh = true;
        } else {
            self.current = false;
        }
    }

    /// Notes, by topic, whether any rule or hook may hear it; nothing where that is not known.
    pub(crate) fn note_heard(&self, rules: &Rules, heard: &mut Vec<bool>) {
        heard.clear();
        if self.current {
            let by_hooks = self.by_topic.iter().map(|ears| !ears.is_empty());
            let by_rules = rules.rules_by_topic.iter().map(|rules| !rules.is_empty());
            let remembered = rules.remembers.iter().map(Option::is_some);
            let all = by_hooks.zip(by_rules).zip(remembered);
            heard.extend(all.map(|((hooks, rules), remembered)| hooks || rules || remembered));
        }
    }

    /// The subscription at `place` of the table ends.
    pub(crate) fn ended(&mut self, place: usize) {
        if let Some(plain) = self.plain.get_mut(place) {
            *plain = false;
        }
    }

    /// Puts the subscription at `place`, which is later than all that are there, behind those of its priority.
    fn observe(&mut self, rules: &Rules, table: &[Subscription], place: usize) {
        let Subscription { hook, ref listen, .. } = table[place];
        let bound = listen.bound_number();
        let mut put = |topic: TopicId| {
            if listen.filter.is_some_and(|filter| !rules.filters_by_topic[filter.index()][topic.index()]) {
                return;
            }
            let list = &mut self.by_topic[topic.index()];
            let before = |ear: &Ear| table[ear.subscription as usize].listen.priority >= listen.priority;
            list.insert(list.partition_point(before), Ear { subscription: place as u32, hook, bound });
        };
        match listen.topical {
            Topical::To(topic) => put(topic),
            Topical::Under(family) => rules.topics.members(family).iter().copied().for_each(put),
            Topical::All => (0..rules.topics.count()).map(TopicId::new).for_each(put),
        }
    }
}
