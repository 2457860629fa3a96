//! Who hears each topic, derived from the subscription table whenever that has changed. It decides nothing.

use crate::hooks::{Audience, Ear, Kept, Reach};
use crate::ids::*;
use crate::ruleset::Rules;
use crate::state::{Pause, State, Subscription};
use crate::terms::{Listen, Topical};

#[derive(Clone, Debug, Default)]
pub(crate) struct Listeners {
    pub(crate) by_topic: Vec<Audience>,
    /// By place in the table: whether it hears every fact of its topics from now on, without a look at the table. Only ever too
    /// careful.
    pub(crate) plain: Vec<bool>,
    /// Whether audiences may not be plain any more that say they are.
    less_plain: bool,
    /// Whether this still follows from the table. Set to false by whatever replaces the table.
    pub(crate) current: bool,
    /// Whether any was taken in since, of which `plain` is too careful.
    pub(crate) fresh: bool,
    /// How many of the tick's facts have been heard.
    pub(crate) heard: usize,
    /// What is being heard.
    pub(crate) reaches: Vec<Reach>,
    /// The hooks of those facts that do not reach all who listen to their topic.
    pub(crate) picked: Vec<Ear>,
    /// What reached hooks in this tick that watch or show, likewise.
    pub(crate) watched: Vec<Kept>,
}

impl Listeners {
    /// Follows the table, if it does not. `first` is the first fact of the tick. Gives whether it had to.
    pub(crate) fn derive(&mut self, rules: &Rules, state: &State, first: u64) -> bool {
        if std::mem::replace(&mut self.current, true) {
            return false;
        }
        self.by_topic.resize(rules.topics.count(), Audience::default());
        for (place, audience) in self.by_topic.iter_mut().enumerate() {
            audience.ears.clear();
            audience.wanted = !rules.rules_by_topic[place].is_empty() || rules.remembers[place].is_some();
        }
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
        self.less_plain = true;
        true
    }

    /// Finds out which audiences are plain, if that may have changed.
    pub(crate) fn settle(&mut self) {
        if std::mem::take(&mut self.less_plain) {
            let Listeners { by_topic, plain, .. } = self;
            for audience in by_topic {
                audience.all_plain = audience.ears.iter().all(|ear| plain[ear.subscription as usize]);
            }
        }
    }

    /// Takes in the subscription at `place` of the table, if it is the last; else all are looked at anew.
    pub(crate) fn subscribed(&mut self, rules: &Rules, state: &State, place: usize) {
        if self.current && place + 1 == state.subscriptions.len() {
            self.observe(rules, &state.subscriptions, place);
            // In this tick it must not hear what came before it.
            self.plain.push(false);
            (self.fresh, self.less_plain) = (true, true);
        } else {
            self.current = false;
        }
    }

    /// Notes, by topic, whether any rule or hook may hear it; nothing where that is not known.
    pub(crate) fn note_heard(&self, heard: &mut Vec<bool>) {
        heard.clear();
        if self.current {
            heard.extend(self.by_topic.iter().map(|audience| audience.wanted));
        }
    }

    /// The subscription at `place` of the table ends.
    pub(crate) fn ended(&mut self, place: usize) {
        if let Some(plain) = self.plain.get_mut(place) {
            *plain = false;
            self.less_plain = true;
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
            let Audience { ears: list, wanted, .. } = &mut self.by_topic[topic.index()];
            *wanted = true;
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
