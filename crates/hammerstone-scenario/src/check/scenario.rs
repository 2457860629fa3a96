//! Whatever is hardly meant in a fight.

use hammerstone::Ruleset;
use hammerstone::flow::{Condition, Reaction};
use hammerstone::ids::AttackId;
use hammerstone::orders::Order;

use super::rules::Checked;
use super::{Doubt, doubt, places_of};
use crate::fight::{Act, Scenario};
use hammerstone_rules::excerpt::Excerpt;

impl Scenario {
    /// What is hardly meant in the ruleset, and in the scenario under it: every sort of [`FINDINGS`](crate::FINDINGS).
    pub fn check(&self) -> Vec<Doubt> {
        let mut doubts = Checked(&self.rules).check();
        let started: Vec<AttackId> = self
            .script
            .iter()
            .filter_map(|line| match line.act {
                Act::Start(attack, ..) | Act::SpawnAttack(attack, ..) => Some(attack),
                _ => None,
            })
            .chain(Checked(&self.rules).started_by_rules())
            .collect();
        let mut unused: Vec<AttackId> = Vec::new();
        for placed in &self.placed {
            let uses = &self.rules.uses[placed.template.index()];
            unused.extend(uses.iter().filter(|attack| !started.contains(attack)));
        }
        unused.sort_unstable();
        unused.dedup();
        for attack in unused {
            let name = self.rules.ruleset.attack_name(attack).unwrap_or_default();
            let message = format!("no combatant of {} starts attack `{name}`", self.file);
            doubts.push(Checked(&self.rules).doubt(
                5,
                attack,
                message,
                "add a line to the script, if it is meant to be used",
            ));
        }
        doubts.extend(self.circles());
        doubts.extend(self.idle_rules());
        doubts.extend(self.check_what_comes());
        doubts
    }

    /// Combatants that follow each other in a circle, one doubt for each.
    fn circles(&self) -> Vec<Doubt> {
        let mut doubts = Vec::new();
        let mut known = vec![false; self.placed.len()];
        for start in 0..self.placed.len() {
            let mut way = Vec::new();
            let mut at = Some(start);
            while let Some(place) = at.filter(|&place| !std::mem::replace(&mut known[place], true)) {
                way.push(place);
                at = self.placed[place].follows;
            }
            let Some(first) = at.and_then(|back| way.iter().position(|&place| place == back)) else {
                continue;
            };
            let names: Vec<String> =
                way[first..].iter().map(|&place| format!("`{}`", self.placed[place].name)).collect();
            let message = format!("{} follow each other in a circle", names.join(", "));
            let name = self.placed[way[first]].name.as_str();
            let own = name.split('#').next().unwrap_or(name);
            let places = places_of(&self.text);
            let key = |name: &str| places.get(&vec!["combatant".to_owned(), name.to_owned()]).cloned();
            let span = key(name).or_else(|| key(own)).unwrap_or(0..0);
            let fix = "take `follows` out of one of them";
            doubts.push(doubt(18, &Excerpt::new(&self.file, self.text.as_str()), span, message, fix));
        }
        doubts
    }

    /// Rules that can never fire in this scenario: they ask for a flag that no one raises, or for waves that no one starts, or hear a
    /// fact of the host's own that no one publishes.
    fn idle_rules(&self) -> Vec<Doubt> {
        let rules: &Ruleset = &self.rules.ruleset;
        let reactions = || rules.rules().iter().flat_map(|rule| rule.reactions()).map(|(_, action)| action);
        let orders = || {
            self.script
                .iter()
                .filter_map(|line| if let Act::Order(order) = line.act { Some(order) } else { None })
        };
        let mut doubts = Vec::new();
        for (place, rule) in rules.rules().iter().enumerate() {
            for condition in rule.conditions().iter().flat_map(must_hold) {
                let lacks = match *condition {
                    Condition::Flag(wanted, true) => {
                        let raised = reactions()
                            .any(|a| matches!(a, Reaction::Flag(flag, true) if *flag == wanted))
                            || orders()
                                .any(|o| matches!(o, Order::SetFlag { flag, up: true } if flag == wanted));
                        (!raised).then(|| {
                            format!(
                                "flag `{}` is up, but it is never raised",
                                rules.flag_name(wanted).unwrap_or_default()
                            )
                        })
                    }
                    Condition::WavesOver(wanted) => {
                        let started = reactions()
                            .any(|a| matches!(a, Reaction::Waves(waves) if *waves == wanted))
                            || orders().any(|o| matches!(o, Order::StartWaves { waves } if waves == wanted));
                        (!started).then(|| {
                            format!(
                                "waves `{}` are over, but they are never started",
                                rules.waves_name(wanted).unwrap_or_default()
                            )
                        })
                    }
                    _ => None,
                };
                if let Some(lacks) = lacks {
                    let message = format!("rule `{}` waits until {lacks}", rule.name());
                    let fix = "let a rule or the script do it, or take the condition out";
                    let number = if matches!(condition, Condition::Flag(..)) { 6 } else { 7 };
                    doubts.push(Checked(&self.rules).doubt_of_rule(number, place, message, fix));
                }
            }
            let hosts =
                || rules.topics_of(rule).into_iter().filter_map(|topic| rules.topics().host_topic(topic));
            let published = |wanted| {
                reactions().any(|action| matches!(action, Reaction::Publish(topic, _) if *topic == wanted))
                    || self
                        .script
                        .iter()
                        .any(|line| matches!(line.act, Act::Publish(topic, _) if topic == wanted))
            };
            let outside = self.rules.outside.iter().any(|name| name == rule.listens_to().0);
            if rules.topics_of(rule).len() == hosts().count() && !hosts().any(published) && !outside {
                let message = format!(
                    "rule `{}` hears `{}`, which is never published",
                    rule.name(),
                    rule.listens_to().0
                );
                let fix = "let a rule or the script publish it, or name it under `outside` of [rules] if your game does";
                doubts.push(Checked(&self.rules).doubt_of_rule(8, place, message, fix));
            }
        }
        doubts
    }
}

/// The condition, or those that lie in it and must hold as well.
fn must_hold(condition: &Condition) -> Vec<&Condition> {
    match condition {
        Condition::All(inner) => inner.iter().flat_map(must_hold).collect(),
        condition => vec![condition],
    }
}
