//! What can be wrong with the conditions under which statuses are given.

use super::flow::MOST_OF_A_RULE;
use super::*;
use crate::ids::{TopicId, WordId};
use crate::topic::{HIT_LANDED, Topics};

impl Check {
    /// The conditions of all statuses that attacks inflict, and that templates and statuses grant.
    pub(in crate::ruleset) fn all_given(&mut self, rules: &Definitions, topics: &Topics) {
        for attack in &rules.attacks {
            self.turn_to("attack", &attack.name);
            for (field, list) in [("inflicts", &attack.inflicts), ("inflicts-self", &attack.inflicts_self)] {
                let lists: Vec<&[Condition]> = list.iter().map(|given| given.when.as_slice()).collect();
                self.asked_for(field, &lists, Asked::Hit, rules, topics);
            }
        }
        let templates = rules.templates.iter().map(|one| ("template", &one.name, &one.grants));
        let statuses = rules.statuses.iter().map(|one| ("status", &one.name, &one.grants));
        for (sort, name, grants) in templates.chain(statuses) {
            self.turn_to(sort, name);
            for grant in grants {
                let asked = match grant.on {
                    on if on.is_of_a_hit() => Asked::Hit,
                    on => Asked::Grant { other: matches!(on, Trigger::Spared | Trigger::Expiry) },
                };
                self.asked_for("grants", &[&grant.when], asked, rules, topics);
            }
        }
    }

    /// What is wrong with conditions that a host asks by themselves.
    pub(in crate::ruleset) fn question(
        rules: &Definitions,
        when: &[Condition],
        remembered: &[(WordId, TopicId)],
        topics: &Topics,
    ) -> Vec<Finding> {
        let name = String::new();
        let mut check = Check { found: Vec::new(), sort: "question", name, asked: Asked::Fact };
        let mut all = when.iter().flat_map(Condition::with_inner);
        let unknown = |condition: &Condition| {
            let known = |path| remembered.iter().any(|(known, _)| *known == path);
            matches!(*condition, Condition::Since(path, ..) if !known(path))
        };
        let why = if all.clone().any(unknown) {
            Some("no rule and no filter asks how long ago that was, so that it is not kept")
        } else {
            all.any(Condition::rolls).then_some("only rules and hits roll a chance")
        };
        if let Some(why) = why {
            check.find("when", Problem::NeverHolds { why });
            return check.found;
        }
        check.asked_for("when", &[when], Asked::Grant { other: true }, rules, topics);
        for finding in &mut check.found {
            if let Problem::NeverGiven { why } = finding.problem {
                finding.problem = Problem::NeverHolds { why };
            }
        }
        check.found
    }

    fn asked_for(
        &mut self,
        field: &str,
        lists: &[&[Condition]],
        asked: Asked,
        rules: &Definitions,
        topics: &Topics,
    ) {
        let count: usize =
            lists.iter().flat_map(|list| list.iter()).map(|condition| condition.with_inner().len()).sum();
        if count > MOST_OF_A_RULE {
            self.find(field, Problem::TooMany { count, most: MOST_OF_A_RULE });
        }
        self.asked = asked;
        let about = |is: &dyn Fn(crate::ids::TopicId) -> bool| asked == Asked::Hit && is(HIT_LANDED);
        for condition in lists.iter().flat_map(|list| list.iter()) {
            if condition.depth() >= DEEPEST {
                self.find(field, Problem::TooDeep { most: DEEPEST });
                continue;
            }
            let without_a_hit = asked != Asked::Hit && condition.rolls();
            let never = without_a_hit.then_some("a chance is for statuses that a hit gives");
            if let Some(why) = never.or(self.condition(condition, rules, topics, &about)) {
                self.find(field, Problem::NeverGiven { why });
            }
        }
        self.asked = Asked::Fact;
    }
}
