//! Whatever is hardly meant in a ruleset by itself.

use std::ops::Deref;

use hammerstone::Ruleset;

use hammerstone::attack::{Attack, Timings};
use hammerstone::flow::{Credit, Reaction};
use hammerstone::ids::{AttackId, TemplateId};
use hammerstone::status::Trigger;
use hammerstone::template::Template;
use hammerstone_record::{loops, status_loops};
use hammerstone_rules::RulesFile;

use super::{Doubt, Pool, doubt, places_of};

/// A ruleset's file that is looked through.
pub(super) struct Checked<'a>(pub(super) &'a RulesFile);

impl Deref for Checked<'_> {
    type Target = RulesFile;

    fn deref(&self) -> &RulesFile {
        self.0
    }
}

/// Looks through a ruleset's file, whatever fights use it.
pub fn check_rules(file: &RulesFile) -> Vec<Doubt> {
    Pool::of(file, []).check().found
}

impl Checked<'_> {
    /// What is hardly meant whatever fights use the ruleset.
    pub(super) fn check(&self) -> Vec<Doubt> {
        let mut doubts = self.check_set_up();
        doubts.extend(self.times_of_attacks());
        doubts.extend(self.circles());
        doubts.extend(self.skeletons());
        doubts.extend(self.graceless());
        doubts
    }

    /// Chains that cut their attack off, and paths that are unclear.
    fn times_of_attacks(&self) -> Vec<Doubt> {
        let rules: &Ruleset = &self.ruleset;
        let mut doubts = Vec::new();
        for attack in rules.attacks() {
            let Some(id) = rules.find_attack(attack.name()) else { continue };
            let times = rules.timings(id);
            if let Some((first, _, next)) =
                times.as_ref().filter(|times| times.is_cut_off()).and_then(|times| times.chain.as_ref())
            {
                let message = format!(
                    "attack `{}` goes on to `{next}` from tick {first} on, before it can strike",
                    attack.name()
                );
                let fix = "open the input after the first window, or let it open later";
                doubts.push(self.doubt(20, id, message, fix));
            }
            if let Some((path, windows)) = times.as_ref().and_then(|times| beside(attack, times)) {
                let second = |tick: u32| f64::from(tick) / f64::from(rules.rate());
                let message = format!(
                    "the path of `{}` moves from {:.2} s to {:.2} s, and its windows are open from {:.2} s to {:.2} s",
                    attack.name(),
                    second(path.0),
                    second(path.1),
                    second(windows.0),
                    second(windows.1)
                );
                let fix = "move the keys of the path by as much as the startup has changed, so that most of the way lies in the windows";
                doubts.push(self.doubt(28, id, message, fix));
            }
            if let Some((one, other)) = attack.unclear_turn() {
                let message = format!(
                    "the path of `{}` turns about one axis at tick {one} and about another at tick {other}",
                    attack.name()
                );
                let fix = "turn about one axis, or put a key without a turn between them";
                doubts.push(self.doubt(21, id, message, fix));
            }
        }
        doubts
    }

    /// Templates that return without anything that spares them then.
    fn graceless(&self) -> Vec<Doubt> {
        let rules: &Ruleset = &self.ruleset;
        let returns = |rule: &&hammerstone::flow::Rule| {
            let topic = |&topic| rules.topics().path(topic) == Some("combatant.returned");
            rules.topics_of(rule).iter().any(topic)
                && rule.reactions().any(|(_, reaction)| matches!(reaction, Reaction::Apply(..)))
        };
        if rules.rules().iter().any(|rule| returns(&rule)) {
            return Vec::new();
        }
        let spared = |template: &Template| template.grants().iter().any(|grant| grant.on == Trigger::Returns);
        let several = |template: &&Template| template.lives_of().is_some_and(|lives| lives.count > 1);
        let graceless = rules.templates().iter().filter(several).filter(|template| !spared(template));
        let doubt = |template: &Template| {
            let message = format!("`{}` returns without a status that spares it", template.name());
            let fix = "give it one: `grants = [{ on = \"returns\", status = ... }]`, with a status that is `invulnerable` for a second or so";
            self.doubt_at(29, &["template", template.name(), "lives"], message, fix)
        };
        graceless.map(doubt).collect()
    }

    /// Statuses and rules that bring themselves back, and rules that give damage without credit.
    fn circles(&self) -> Vec<Doubt> {
        let rules: &Ruleset = &self.ruleset;
        let mut doubts = Vec::new();
        for names in status_loops(rules) {
            let told: Vec<String> = names.iter().map(|name| format!("`{name}`")).collect();
            let message = format!("{} may bring each other back within a tick", told.join(" and "));
            let fix = "only the limit on cascades ends it; let none of them lift another that kills, or give it on another occasion";
            doubts.push(self.doubt_at(17, &["status", names[0]], message, fix));
        }
        for (place, rule) in rules.rules().iter().enumerate() {
            let about_two = rules.topics_of(rule).iter().any(|&topic| rules.topics().has_other(topic));
            for (_, action) in rule.reactions() {
                if action.credit() != Some(Credit::Unsaid) || !about_two {
                    continue;
                }
                let given = match action {
                    Reaction::Apply(_, status, ..) => {
                        let status = rules.statuses().get(status.index()).filter(|status| status.hurts());
                        status.map(|status| format!("gives the damaging status `{}`", status.name()))
                    }
                    Reaction::Damage(..) => Some("deals damage".to_owned()),
                    Reaction::SpawnAttack(attack, ..) => {
                        let name = rules.attack_name(*attack).unwrap_or_default();
                        Some(format!("starts the attack `{name}`"))
                    }
                    _ => None,
                };
                if let Some(given) = given {
                    let message = format!("rule `{}` {given} without credit", rule.name());
                    let fix =
                        "say `by = \"other\"` or `by = \"subject\"`; `by = \"nobody\"` if it is meant so";
                    doubts.push(self.doubt_of_rule(19, place, message, fix));
                }
            }
        }
        for one in loops(rules).into_iter().filter(|one| one.within_a_tick) {
            let names: Vec<String> = one.rules.iter().map(|name| format!("`{name}`")).collect();
            let message = format!("rule {} may set itself off again within a tick", names.join(", then "));
            let place = rules.rules().iter().position(|rule| rule.name() == one.rules[0]).unwrap_or(0);
            doubts.push(self.doubt_of_rule(
                4,
                place,
                message,
                "only the limit on cascades ends it; give one of them a limit, a delay, or a condition that it undoes",
            ));
        }
        doubts
    }

    /// By attack, the templates that use it.
    pub(super) fn users(&self) -> Vec<Vec<TemplateId>> {
        let mut users = vec![Vec::new(); self.ruleset.attacks().len()];
        for template in self.ruleset.templates() {
            let Some(id) = self.ruleset.find_template(template.name()) else { continue };
            for attack in &self.uses[id.index()] {
                users[attack.index()].push(id);
            }
        }
        users
    }

    pub(super) fn doubt_of_rule(&self, number: u16, place: usize, message: String, fix: &str) -> Doubt {
        doubt(number, &self.code, self.rule_spans[place].clone(), message, fix)
    }

    /// Attacks that rules start.
    pub(super) fn started_by_rules(&self) -> impl Iterator<Item = AttackId> {
        let reactions = self.ruleset.rules().iter().flat_map(|rule| rule.reactions());
        reactions.filter_map(|(_, action)| match *action {
            Reaction::Start(_, attack) | Reaction::SpawnAttack(attack, ..) => Some(attack),
            _ => None,
        })
    }

    pub(super) fn doubt(&self, number: u16, attack: AttackId, message: String, fix: &str) -> Doubt {
        doubt(number, &self.code, self.attack_spans[attack.index()].clone(), message, fix)
    }

    /// A doubt about what stands under some keys.
    pub(super) fn doubt_at(&self, number: u16, keys: &[&str], message: String, fix: &str) -> Doubt {
        let places = self.places.get_or_init(|| places_of(&self.code.text));
        // Where the keys go on to what is no table, that is where it stands.
        let known = |depth: usize| {
            let keys: Vec<String> = keys[..depth].iter().map(|key| (*key).to_owned()).collect();
            places.get(&keys).cloned()
        };
        let span = (0..=keys.len()).rev().find_map(known).unwrap_or(0..0);
        doubt(number, &self.code, span, message, fix)
    }
}

/// From which tick to which a path moves and its windows are open, where most of neither lies in the other.
fn beside(attack: &Attack, times: &Timings) -> Option<((u32, u32), (u32, u32))> {
    let (path, windows) = (attack.path_ticks()?, &times.windows);
    let (first, last) = (windows.first()?.0 - 1, windows.last()?.1);
    let shared = |&(from, to): &(u32, u32)| to.min(path.1).saturating_sub((from - 1).max(path.0));
    let (within, open): (u32, u32) =
        (windows.iter().map(shared).sum(), windows.iter().map(|(from, to)| to + 1 - from).sum());
    let least = open.min(path.1 - path.0);
    (within * 2 < least).then_some((path, (first, last)))
}
