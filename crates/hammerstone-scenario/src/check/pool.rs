//! Fights of one ruleset, looked through together: what one leaves alone another may use.

use std::collections::{BTreeMap, BTreeSet};

use hammerstone::Ruleset;
use hammerstone::attack::Form;
use hammerstone::flow::{Condition, Reaction};
use hammerstone::ids::{AttackId, LayerId, TeamId, TemplateId};
use hammerstone::orders::Order;
use hammerstone::team::Relations;
use hammerstone::template::Template;
use hammerstone_rules::{Allowed, RulesFile};

use super::Doubt;
use super::rules::Checked;
use crate::fight::{Act, Line, Scenario};
use crate::tactics::Tactics;

/// A ruleset with some or all of its fights.
pub struct Pool<'a> {
    pub(super) rules: Checked<'a>,
    pub(super) scenarios: Vec<&'a Scenario>,
}

/// What was found.
#[derive(Debug, Default)]
pub struct Looked {
    /// What is hardly meant.
    pub found: Vec<Doubt>,
    /// What is allowed in the files, with the reason that stands there.
    pub allowed: Vec<(Doubt, String)>,
}

impl<'a> Pool<'a> {
    /// A ruleset, and fights that use it.
    pub fn of(rules: &'a RulesFile, scenarios: impl IntoIterator<Item = &'a Scenario>) -> Pool<'a> {
        Pool { rules: Checked(rules), scenarios: scenarios.into_iter().collect() }
    }

    /// Every sort of [`FINDINGS`](crate::FINDINGS); without a fight those that the ruleset alone can have.
    pub fn check(&self) -> Looked {
        let mut doubts = self.rules.check();
        doubts.extend(self.uses_of_attacks());
        if !self.scenarios.is_empty() {
            doubts.extend(self.never_started());
            doubts.extend(self.idle_rules());
            doubts.extend(self.check_what_comes());
        }
        for scenario in &self.scenarios {
            doubts.extend(scenario.circles());
            doubts.extend(scenario.idle_tactics());
        }
        self.allow(doubts)
    }

    /// What stands under `allow` of the ruleset is taken out; an `allow` that fits nothing is found in its turn.
    fn allow(&self, doubts: Vec<Doubt>) -> Looked {
        let mut looked = Looked::default();
        let mut used = vec![false; self.rules.allow.len()];
        for doubt in doubts {
            let fits = |allowed: &Allowed| {
                allowed.finding == doubt.finding.number
                    && allowed.about.as_ref().is_none_or(|name| doubt.message.contains(&format!("`{name}`")))
            };
            let mut because = None;
            for (allowed, used) in self.rules.allow.iter().zip(&mut used).filter(|(allowed, _)| fits(allowed))
            {
                *used = true;
                because.get_or_insert_with(|| allowed.because.clone());
            }
            match because {
                Some(because) => looked.allowed.push((doubt, because)),
                None => looked.found.push(doubt),
            }
        }
        // With some of the fights only, an `allow` that is about use may have nothing to allow.
        let of_use =
            |allowed: &Allowed| super::FINDINGS.iter().any(|one| one.number == allowed.finding && one.of_use);
        let unused = self.rules.allow.iter().zip(used).filter(|(allowed, used)| !used && !of_use(allowed));
        for (allowed, _) in unused {
            let about = allowed.about.as_ref().map_or(String::new(), |name| format!(" about `{name}`"));
            let message = format!("finding {}{about} is allowed, and is not there", allowed.finding);
            let fix = "take the `allow` out, or name another number or name";
            looked.found.push(super::doubt(30, &self.rules.code, allowed.span.clone(), message, fix));
        }
        looked
    }

    /// Attacks that no combatant uses, and those that cannot strike their targets.
    fn uses_of_attacks(&self) -> Vec<Doubt> {
        let rules: &Ruleset = &self.rules.ruleset;
        let mut doubts = Vec::new();
        let all_users = self.rules.users();
        let sides = Sides::of(self);
        let mut started: BTreeSet<&str> = rules.attacks().iter().flat_map(|other| other.started()).collect();
        started.extend(self.rules.started_by_rules().filter_map(|attack| rules.attack_name(attack)));
        for attack in rules.attacks() {
            let Some(id) = rules.find_attack(attack.name()) else { continue };
            let users = &all_users[id.index()];
            let by_another = started.contains(attack.name()) || self.started_by_scripts(id);
            if users.is_empty() && !by_another && !self.rules.ownerless[id.index()] {
                let message = format!("no template uses attack `{}`", attack.name());
                doubts.push(self.rules.doubt(
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

    /// What keeps an attack of `user` from its targets: all of them, a template that its relations allow, or its own body.
    fn candidates(&self, attack: AttackId, user: TemplateId, sides: &Sides<'_>) -> Vec<Doubt> {
        let rules: &Ruleset = &self.rules.ruleset;
        let authored = &rules.attacks()[attack.index()];
        let own = &rules.templates()[user.index()];
        // What strikes no one is a stance.
        if authored.struck_relations() == Relations::NONE {
            return Vec::new();
        }
        let mut doubts = Vec::new();
        if authored.form() == Form::Touch && own.parts().is_empty() {
            let message = format!(
                "attack `{}` strikes with the parts of its bearer, and `{}` has none",
                authored.name(),
                own.name()
            );
            let fix = format!("give `{}` a part, or the attack another form", own.name());
            doubts.push(self.rules.doubt(27, attack, message, &fix));
        }
        let Some(teams) = self.teams_of(user) else { return doubts };
        let strikes = |team: &TeamId| {
            let relation = |own: &TeamId| rules.relation(*own, *team);
            teams.iter().filter_map(relation).any(|relation| authored.strikes_relation(relation))
        };
        let allowed: Vec<_> = sides.0.iter().filter(|((teams, _), _)| teams.iter().any(strikes)).collect();
        if allowed.is_empty() {
            let message = format!(
                "attack `{}` of `{}` can never meet anyone: it strikes no team",
                authored.name(),
                own.name()
            );
            let fix = "look at `strikes`, and at how the teams stand to each other; `strikes = []` says that it is to strike no one";
            doubts.push(self.rules.doubt(2, attack, message, fix));
            return doubts;
        }
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
                doubts.push(self.rules.doubt(3, attack, message, &fix));
            }
        }
        doubts
    }

    /// What the scripts do, of all fights.
    fn lines(&self) -> impl Iterator<Item = &'a Line> {
        self.scenarios.iter().flat_map(|scenario| &scenario.script)
    }

    /// Attacks that are started: by scripts, by rules, and by those that are started.
    fn started(&self) -> BTreeSet<AttackId> {
        let rules: &Ruleset = &self.rules.ruleset;
        let mut started: BTreeSet<AttackId> = self
            .lines()
            .filter_map(|line| match line.act {
                Act::Start(attack, ..) | Act::SpawnAttack(attack, ..) => Some(attack),
                _ => None,
            })
            .chain(self.started_by_tactics())
            .chain(self.rules.started_by_rules())
            .collect();
        let mut open: Vec<AttackId> = started.iter().copied().collect();
        while let Some(attack) = open.pop() {
            let next = rules.attacks()[attack.index()].started();
            open.extend(next.filter_map(|name| rules.find_attack(name)).filter(|&next| started.insert(next)));
        }
        started
    }

    /// Attacks of those who are placed that nothing starts.
    fn never_started(&self) -> Vec<Doubt> {
        let started = self.started();
        let placed = self.scenarios.iter().flat_map(|scenario| &scenario.placed);
        let uses = placed.flat_map(|placed| &self.rules.uses[placed.template.index()]);
        let unused: BTreeSet<AttackId> = uses.filter(|attack| !started.contains(attack)).copied().collect();
        let doubt = |attack: AttackId| {
            let name = self.rules.ruleset.attack_name(attack).unwrap_or_default();
            let message = format!("no combatant starts attack `{name}`");
            self.rules.doubt(
                5,
                attack,
                message,
                "add a line to a script or a choice to tactics, if it is meant to be used",
            )
        };
        unused.into_iter().map(doubt).collect()
    }

    /// The teams that members of a template may be in; none if that cannot be told.
    pub(super) fn teams_of(&self, template: TemplateId) -> Option<BTreeSet<TeamId>> {
        let rules: &Ruleset = &self.rules.ruleset;
        let mut changes = rules.rules().iter().flat_map(|rule| rule.reactions());
        let changed = changes.any(|(_, reaction)| matches!(reaction, Reaction::ChangeTeam(..)))
            || self.lines().any(|line| matches!(line.act, Act::ChangeTeam(_)));
        if changed {
            return None;
        }
        let placed = self.scenarios.iter().flat_map(|scenario| &scenario.placed);
        let placed = placed.filter(|placed| placed.template == template).filter_map(|placed| placed.team);
        Some(placed.chain([rules.templates()[template.index()].team()]).collect())
    }

    /// Attacks that stand-ins start.
    fn started_by_tactics(&self) -> impl Iterator<Item = AttackId> {
        self.scenarios.iter().flat_map(|scenario| scenario.tactics.iter()).flat_map(Tactics::starts)
    }

    /// Attacks that scripts and stand-ins start, by any combatant.
    pub(super) fn started_by_scripts(&self, attack: AttackId) -> bool {
        let mut by_tactics = self.started_by_tactics();
        by_tactics.any(|of| of == attack)
            || self
                .lines()
                .any(|line| matches!(line.act, Act::Start(of, ..) | Act::SpawnAttack(of, ..) if of == attack))
    }

    /// Rules that can never fire in these fights: they ask for a flag that no one raises, or for waves that no one starts, or hear a
    /// fact of the host's own that no one publishes.
    fn idle_rules(&self) -> Vec<Doubt> {
        let rules: &Ruleset = &self.rules.ruleset;
        let reactions = || rules.rules().iter().flat_map(|rule| rule.reactions()).map(|(_, action)| action);
        let orders = || {
            self.lines().filter_map(|line| if let Act::Order(order) = line.act { Some(order) } else { None })
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
                    doubts.push(self.rules.doubt_of_rule(number, place, message, fix));
                }
            }
            let hosts =
                || rules.topics_of(rule).into_iter().filter_map(|topic| rules.topics().host_topic(topic));
            let published = |wanted| {
                reactions().any(|action| matches!(action, Reaction::Publish(topic, _) if *topic == wanted))
                    || self.lines().any(|line| matches!(line.act, Act::Publish(topic, _) if topic == wanted))
            };
            let outside = self.rules.outside.iter().any(|name| name == rule.listens_to().0);
            if rules.topics_of(rule).len() == hosts().count() && !hosts().any(published) && !outside {
                let message = format!(
                    "rule `{}` hears `{}`, which is never published",
                    rule.name(),
                    rule.listens_to().0
                );
                let fix = "let a rule or the script publish it, or name it under `outside` of [rules] if your game does";
                doubts.push(self.rules.doubt_of_rule(8, place, message, fix));
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

/// Templates by the teams that their members may be in, and the layers on which their parts lie.
struct Sides<'r>(BTreeMap<(Vec<TeamId>, Vec<LayerId>), Vec<&'r Template>>);

impl<'r> Sides<'r> {
    fn of(pool: &'r Pool<'_>) -> Sides<'r> {
        let rules: &Ruleset = &pool.rules.ruleset;
        let mut sides: BTreeMap<_, Vec<&Template>> = BTreeMap::new();
        for template in rules.templates() {
            let Some(id) = rules.find_template(template.name()) else { continue };
            let mut layers: Vec<LayerId> = template.parts().iter().map(|part| part.layer_of()).collect();
            layers.sort_unstable();
            layers.dedup();
            let teams = pool.teams_of(id).unwrap_or_default().into_iter().collect();
            sides.entry((teams, layers)).or_default().push(template);
        }
        Sides(sides)
    }
}
