//! What one template publishes, and what answers it.

use std::collections::BTreeMap;

use hammerstone::Ruleset;
use hammerstone::event::{CombatantJoined, CombatantTransformed, Event, Listener};
use hammerstone::flow::{Condition, Group, Party, Rule};
use hammerstone::ids::{CombatantId, RuleId, TemplateId, TopicId};
use serde::Serialize;

use crate::{Record, Tick};

/// What the facts of a run have to do with combatants of one template. Facts must come with their deliveries
/// ([`keep_deliveries`](hammerstone::Encounter::keep_deliveries)).
#[derive(Clone, Debug)]
pub struct About {
    template: TemplateId,
    templates: BTreeMap<CombatantId, TemplateId>,
    counts: BTreeMap<TopicId, [u64; 2]>,
    answered: BTreeMap<(TopicId, RuleId), u64>,
}

/// A topic with what it has to do with a template.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct OfTemplate {
    /// The topic's path.
    pub topic: String,
    /// How often one of the template was its subject.
    pub subject: u64,
    /// How often one was its other party.
    pub other: u64,
    /// Rules that may answer such a fact, with how often they did.
    pub answers: BTreeMap<String, u64>,
}

impl About {
    /// Of a template; nothing was seen yet.
    pub fn new(template: TemplateId) -> About {
        About { template, templates: BTreeMap::new(), counts: BTreeMap::new(), answered: BTreeMap::new() }
    }

    /// The topics that it published, and those that a rule waits for in vain that only it could publish, in their order.
    pub fn topics(&self, rules: &Ruleset) -> Vec<OfTemplate> {
        let all = rules.topics().paths().iter().filter_map(|path| Some((path, rules.topics().find(path)?)));
        let of = |(path, topic): (&String, TopicId)| {
            let [subject, other] = self.counts.get(&topic).copied().unwrap_or_default();
            let mut answers = BTreeMap::new();
            let mut named = false;
            for rule in rules.rules() {
                let Some(id) = rules.find_rule(rule.name()) else { continue };
                if rules.topics_of(rule).contains(&topic)
                    && let Some(by_name) = may_answer(rules, rule, self.template, topic)
                {
                    named |= by_name;
                    let often = self.answered.get(&(topic, id)).copied().unwrap_or(0);
                    answers.insert(rule.name().to_owned(), often);
                }
            }
            let told = subject + other > 0 || named;
            told.then(|| OfTemplate { topic: path.clone(), subject, other, answers })
        };
        all.filter_map(of).collect()
    }
}

/// Whether a rule may answer facts about one of a template; and whether it names the template, its team or its tags.
fn may_answer(rules: &Ruleset, rule: &Rule, template: TemplateId, topic: TopicId) -> Option<bool> {
    let topics = rules.topics();
    // What must be so of a party, where the fact has it: none of the list is denied.
    let fits = |party: Party| -> Option<bool> {
        let there = match party {
            Party::Subject => topics.has_subject(topic),
            Party::Other => topics.has_other(topic),
        };
        let mut named = false;
        for condition in rule.conditions() {
            if let Condition::Is(of, group) = condition
                && *of == party
            {
                if !is_of(rules, template, group) {
                    return None;
                }
                named = true;
            }
        }
        there.then_some(named)
    };
    match (fits(Party::Subject), fits(Party::Other)) {
        (None, None) => None,
        (one, other) => Some(one == Some(true) || other == Some(true)),
    }
}

/// Whether combatants of a template, of its own team, are of a group. Tags that statuses add are not known here.
fn is_of(rules: &Ruleset, template: TemplateId, group: &Group) -> bool {
    let own = &rules.templates()[template.index()];
    group.template.is_none_or(|wanted| wanted == template)
        && group.team.is_none_or(|team| own.team() == team)
        && rules.tags_in(group.tags).all(|tag| own.has_tag(tag))
}

impl Record for About {
    fn observe(&mut self, tick: &Tick<'_>) {
        let facts = &tick.facts;
        for fact in facts.facts {
            match fact.event {
                Event::CombatantJoined(CombatantJoined { subject, template, .. })
                | Event::CombatantTransformed(CombatantTransformed { subject, to: template, .. }) => {
                    self.templates.insert(subject, template);
                }
                _ => {}
            }
            let is_one = |who: Option<CombatantId>| {
                who.is_some_and(|who| self.templates.get(&who) == Some(&self.template))
            };
            let parties = [is_one(fact.event.subject()), is_one(fact.event.other())];
            if parties.contains(&true) {
                let topic = fact.event.topic();
                let counts = self.counts.entry(topic).or_default();
                counts.iter_mut().zip(parties).for_each(|(count, is)| *count += u64::from(is));
                let of_fact = facts.deliveries.iter().filter(|delivery| delivery.seq == fact.seq);
                for delivery in of_fact {
                    if let Listener::Rule(rule) = delivery.listener {
                        *self.answered.entry((topic, rule)).or_default() += 1;
                    }
                }
            }
        }
    }
}
