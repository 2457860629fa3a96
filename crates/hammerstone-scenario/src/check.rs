//! What can be known of a file without running it: not wrong, but hardly meant.

use std::collections::{BTreeMap, BTreeSet};
use std::ops::Range;
use std::sync::Arc;

use hammerstone::Ruleset;
use hammerstone::flow::{Condition, Credit, Reaction};
use hammerstone::ids::{AttackId, LayerId, TeamId, TemplateId};
use hammerstone::orders::Order;
use hammerstone::template::Template;
use hammerstone_record::{loops, status_loops};
use miette::{Diagnostic, SourceSpan};
use toml::de::{DeTable, DeValue};

use crate::excerpt::{Excerpt, shown};
use crate::rules::RulesFile;
use crate::scenario::Scenario;
use crate::script::Act;

/// A sort of finding.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Finding {
    /// Its number, which stays.
    pub number: u16,
    /// What it is.
    pub name: &'static str,
    /// Why it matters.
    pub reason: &'static str,
}

const fn finding(number: u16, name: &'static str, reason: &'static str) -> Finding {
    Finding { number, name, reason }
}

/// All sorts of findings, by number.
pub const FINDINGS: [Finding; 21] = [
    finding(1, "an attack that no template uses", "it is tuned, but never used"),
    finding(2, "an attack that strikes no team", "it is refused at every target"),
    finding(
        3,
        "a pair that can never meet, by layer",
        "one side was set up without the other: no damage is dealt, and no error is shown",
    ),
    finding(4, "rules that set each other off within a tick", "only the limit on cascades ends it"),
    finding(5, "an attack that no combatant of the scenario starts", "it is available, but never used"),
    finding(6, "a rule that waits for a flag that is never raised", "it never fires"),
    finding(7, "a rule that waits for waves that are never started", "it never fires"),
    finding(
        8,
        "a rule that hears a topic of the host that is never published",
        "it never fires, unless the game publishes it",
    ),
    finding(
        9,
        "an attack that never leaves its attacker's body",
        "it can only hit a target inside of that body",
    ),
    finding(
        10,
        "a part on a layer that no attack meets",
        "one side was set up without the other: it cannot be hit",
    ),
    finding(11, "a status that is never applied", "it is tuned, but never used"),
    finding(12, "a status without an end that is never lifted", "its bearer keeps it for good"),
    finding(13, "a rule that hears a topic that is never published", "it never fires"),
    finding(14, "a rule that asks for a threshold that no combatant has", "it never fires"),
    finding(15, "a rule that asks for a template that never comes", "it never fires"),
    finding(16, "a flag or a counter that no rule asks for", "it is unheard, unless the game reads it"),
    finding(17, "statuses that bring each other back within a tick", "only the limit on cascades ends it"),
    finding(18, "combatants that follow each other in a circle", "the last of them is refused its leader"),
    finding(19, "a damaging status that a rule gives without credit", "a kill by it is credited to no one"),
    finding(20, "a chain that can go on before its attack strikes", "an early press cuts every hit off"),
    finding(
        21,
        "a path that turns about two axes",
        "between the two it takes the shorter way, whatever was meant",
    ),
];

/// Something in a file that is hardly meant, with its place and a mend.
#[derive(Debug, thiserror::Error, Diagnostic)]
#[error("finding {}: {message}", finding.number)]
#[diagnostic(severity(warning))]
pub struct Doubt {
    /// What sort of thing.
    pub finding: &'static Finding,
    /// What it is.
    pub message: String,
    /// What to do about it.
    #[help]
    pub mend: String,
    #[source_code]
    code: Excerpt,
    #[label("here")]
    span: SourceSpan,
}

impl Doubt {
    /// The file that it is about, and the line in it, from 1.
    pub fn place(&self) -> (&str, usize) {
        let before = self.code.text.get(..self.span.offset()).unwrap_or_default();
        (&self.code.file, before.matches('\n').count() + 1)
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

impl RulesFile {
    /// What is hardly meant in the ruleset alone: findings 1 to 4, 9, 10, 17 and 19 to 21 of [`FINDINGS`].
    pub fn check(&self) -> Vec<Doubt> {
        let rules: &Ruleset = &self.ruleset;
        let mut doubts = self.check_set_up();
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
                let mend = "open the input after the first window, or let it open later";
                doubts.push(self.doubt(20, id, message, mend));
            }
            if let Some((one, other)) = attack.unclear_turn() {
                let message = format!(
                    "the path of `{}` turns about one axis at tick {one} and about another at tick {other}",
                    attack.name()
                );
                let mend = "turn about one axis, or put a key without a turn between them";
                doubts.push(self.doubt(21, id, message, mend));
            }
        }
        for names in status_loops(rules) {
            let told: Vec<String> = names.iter().map(|name| format!("`{name}`")).collect();
            let message = format!("{} may bring each other back within a tick", told.join(" and "));
            let mend = "only the limit on cascades ends it; let none of them lift another that kills, or give it on another occasion";
            doubts.push(self.doubt_at(17, &["status", names[0]], message, mend));
        }
        for (place, rule) in rules.rules().iter().enumerate() {
            let about_two = rules.topics_of(rule).iter().any(|&topic| rules.topics().has_other(topic));
            for (_, action) in rule.reactions() {
                if let Reaction::Apply(_, status, _, Credit::Unsaid) = *action
                    && about_two
                    && let Some(status) = rules.statuses().get(status.index()).filter(|status| status.hurts())
                {
                    let message = format!(
                        "rule `{}` gives the damaging status `{}` without credit",
                        rule.name(),
                        status.name()
                    );
                    let mend =
                        "say `by = \"other\"` or `by = \"subject\"`; `by = \"nobody\"` if it is meant so";
                    doubts.push(self.doubt_of_rule(19, place, message, mend));
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
    pub(crate) fn users(&self) -> Vec<Vec<TemplateId>> {
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
                "attack `{}` of `{}` can never meet anybody: it strikes no team",
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
                let mend = match names.as_slice() {
                    [] => format!("`{}` has no parts; add one", other.name()),
                    _ => format!("its parts lie on {}; add that to `meets`", names.join(", ")),
                };
                doubts.push(self.doubt(3, attack, message, &mend));
            }
        }
        doubts
    }

    fn doubt_of_rule(&self, number: u16, place: usize, message: String, mend: &str) -> Doubt {
        doubt(number, &self.file, &self.text, self.rule_spans[place].clone(), message, mend)
    }

    /// Attacks that rules start.
    fn started_by_rules(&self) -> impl Iterator<Item = AttackId> {
        let reactions = self.ruleset.rules().iter().flat_map(|rule| rule.reactions());
        reactions.filter_map(|(_, action)| match *action {
            Reaction::Start(_, attack) | Reaction::SpawnAttack(attack, ..) => Some(attack),
            _ => None,
        })
    }

    fn doubt(&self, number: u16, attack: AttackId, message: String, mend: &str) -> Doubt {
        doubt(number, &self.file, &self.text, self.attack_spans[attack.index()].clone(), message, mend)
    }

    /// A doubt about what stands under some keys.
    pub(crate) fn doubt_at(&self, number: u16, keys: &[&str], message: String, mend: &str) -> Doubt {
        let places = self.places.get_or_init(|| places_of(&self.text));
        // Where the keys go on to what is no table, that is where it stands.
        let known = |depth: usize| {
            let keys: Vec<String> = keys[..depth].iter().map(|key| (*key).to_owned()).collect();
            places.get(&keys).cloned()
        };
        let span = (0..=keys.len()).rev().find_map(known).unwrap_or(0..0);
        doubt(number, &self.file, &self.text, span, message, mend)
    }
}

fn doubt(number: u16, file: &str, text: &Arc<str>, span: Range<usize>, message: String, mend: &str) -> Doubt {
    let code = Excerpt::new(file, text.clone());
    let finding = FINDINGS.iter().find(|finding| finding.number == number).unwrap_or(&FINDINGS[0]);
    Doubt { finding, message, mend: mend.to_owned(), span: shown(text, span).into(), code }
}

/// Where the keys of tables stand, one within the other, down to the fourth.
pub(crate) fn places_of(text: &str) -> BTreeMap<Vec<String>, Range<usize>> {
    fn walk(table: &DeTable<'_>, keys: &mut Vec<String>, places: &mut BTreeMap<Vec<String>, Range<usize>>) {
        for (key, value) in table {
            keys.push(key.get_ref().to_string());
            places.insert(keys.clone(), key.span());
            if let DeValue::Table(within) = value.get_ref()
                && keys.len() < 4
            {
                walk(within, keys, places);
            }
            keys.pop();
        }
    }
    let mut places = BTreeMap::new();
    if let Ok(table) = DeTable::parse(text) {
        walk(table.get_ref(), &mut Vec::new(), &mut places);
    }
    places
}

impl Scenario {
    /// What is hardly meant in the ruleset, and in the scenario under it: every sort of [`FINDINGS`].
    pub fn check(&self) -> Vec<Doubt> {
        let mut doubts = self.rules.check();
        let started: Vec<AttackId> = self
            .script
            .iter()
            .filter_map(|line| match line.act {
                Act::Start(attack, _) | Act::SpawnAttack(attack, ..) => Some(attack),
                _ => None,
            })
            .chain(self.rules.started_by_rules())
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
            doubts.push(self.rules.doubt(
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
            let mend = "take `follows` out of one of them";
            doubts.push(doubt(18, &self.file, &Arc::from(self.text.as_str()), span, message, mend));
        }
        doubts
    }

    /// Rules that can never fire in this scenario: they ask for a flag that nobody raises, or for waves that nobody starts, or hear a
    /// fact of the host's own that nobody publishes.
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
            for condition in rule.conditions() {
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
                    let mend = "let a rule or the script do it, or take the condition out";
                    let number = if matches!(condition, Condition::Flag(..)) { 6 } else { 7 };
                    doubts.push(self.rules.doubt_of_rule(number, place, message, mend));
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
                let mend = "let a rule or the script publish it, or name it under `outside` of [rules] if your game does";
                doubts.push(self.rules.doubt_of_rule(8, place, message, mend));
            }
        }
        doubts
    }
}
