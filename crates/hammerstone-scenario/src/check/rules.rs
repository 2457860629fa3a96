//! Whatever is hardly meant in a ruleset by itself.

use std::collections::{BTreeMap, BTreeSet};
use std::ops::Deref;

use hammerstone::Ruleset;
use hammerstone::flow::{Credit, Reaction};
use hammerstone::ids::{AttackId, LayerId, TeamId, TemplateId};
use hammerstone::template::Template;
use hammerstone_record::{loops, status_loops};
use hammerstone_rules::RulesFile;

use super::{Doubt, doubt, places_of};

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
    Checked(file).check()
}

impl Checked<'_> {
    /// What is hardly meant in the ruleset alone: findings 1 to 4, 9, 10, 17 and 19 to 26 of [`FINDINGS`].
    pub(super) fn check(&self) -> Vec<Doubt> {
        let mut doubts = self.check_set_up();
        doubts.extend(self.uses_of_attacks());
        doubts.extend(self.times_of_attacks());
        doubts.extend(self.circles());
        doubts.extend(self.skeletons());
        doubts
    }

    /// Attacks that no combatant uses, and those that cannot strike their targets.
    fn uses_of_attacks(&self) -> Vec<Doubt> {
        let rules: &Ruleset = &self.ruleset;
        let mut doubts = Vec::new();
        let all_users = self.users();
        let sides = Sides::of(rules);
        let started: BTreeSet<&str> = rules.attacks().iter().flat_map(|other| other.started()).collect();
        for attack in rules.attacks() {
            let Some(id) = rules.find_attack(attack.name()) else { continue };
            let users = &all_users[id.index()];
            let by_another = started.contains(attack.name());
            if users.is_empty() && !by_another && !self.ownerless[id.index()] {
                let message = format!("no template uses attack `{}`", attack.name());
                doubts.push(self.doubt(
                    1,
                    id,
                    message,
                    "add it to the `attacks` of a template, write `ownerless = true` if no combatant uses it, or take it out",
                ));
            }
            for &user in users {
                doubts.extend(self.candidates(id, user, &sides));
            }
        }
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

    /// The targets that an attack of `user` can never meet: all of them, or a template that its relations allow, by layer.
    fn candidates(&self, attack: AttackId, user: TemplateId, sides: &Sides<'_>) -> Vec<Doubt> {
        let rules: &Ruleset = &self.ruleset;
        let authored = &rules.attacks()[attack.index()];
        let own = &rules.templates()[user.index()];
        let strikes = |team: &TeamId| {
            let relation = rules.relation(own.team(), *team);
            relation.is_some_and(|relation| authored.strikes_relation(relation))
        };
        let allowed: Vec<_> = sides.0.iter().filter(|((team, _), _)| strikes(team)).collect();
        if allowed.is_empty() {
            let message = format!(
                "attack `{}` of `{}` can never meet anyone: it strikes no team",
                authored.name(),
                own.name()
            );
            return vec![self.doubt(
                2,
                attack,
                message,
                "look at `strikes`, and at how the teams stand to each other",
            )];
        }
        let mut doubts = Vec::new();
        // All of a side are met or none.
        for ((_, layers), members) in allowed {
            if layers.iter().any(|&layer| authored.meets_layer(layer)) {
                continue;
            }
            let names: Vec<&str> = layers.iter().filter_map(|&layer| rules.layer_name(layer)).collect();
            for other in members {
                let pair = (authored.name(), own.name(), other.name());
                let message =
                    format!("attack `{}` of `{}` can never meet `{}`, by layer", pair.0, pair.1, pair.2);
                let fix = match names.as_slice() {
                    [] => format!("`{}` has no parts; add one", other.name()),
                    _ => format!("its parts lie on {}; add that to `meets`", names.join(", ")),
                };
                doubts.push(self.doubt(3, attack, message, &fix));
            }
        }
        doubts
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

/// Template entries by their team and the layers on which their parts lie.
struct Sides<'r>(BTreeMap<(TeamId, Vec<LayerId>), Vec<&'r Template>>);

impl<'r> Sides<'r> {
    fn of(rules: &'r Ruleset) -> Sides<'r> {
        let mut sides: BTreeMap<(TeamId, Vec<LayerId>), Vec<&Template>> = BTreeMap::new();
        for template in rules.templates() {
            let mut layers: Vec<LayerId> = template.parts().iter().map(|part| part.layer_of()).collect();
            layers.sort_unstable();
            layers.dedup();
            sides.entry((template.team(), layers)).or_default().push(template);
        }
        Sides(sides)
    }
}
