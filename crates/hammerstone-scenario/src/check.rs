//! What can be known of a file without running it: not wrong, but hardly meant.

use std::ops::Range;

use hammerstone::{Action, AttackId, CastId, Condition, Order, Rules};
use hammerstone_record::loops;
use miette::{Diagnostic, NamedSource, SourceSpan};
use toml::de::{DeTable, DeValue};

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
pub const FINDINGS: [Finding; 16] = [
    finding(1, "an attack that no cast entry uses", "it is tuned, and never seen"),
    finding(2, "an attack that strikes no team", "no gate of it ever opens"),
    finding(
        3,
        "a pair that can never meet, by layer",
        "one side was set up without the other: nothing is dealt, and nobody says so",
    ),
    finding(4, "rules that set each other off within a tick", "only the limit on cascades ends it"),
    finding(5, "an attack that nobody in the scenario starts", "its combatants could, and never do"),
    finding(6, "a rule that waits for a flag that nobody raises", "it never fires"),
    finding(7, "a rule that waits for waves that nobody starts", "it never fires"),
    finding(
        8,
        "a rule that hears a fact of the host's own that nobody publishes",
        "it never fires, unless the game publishes it",
    ),
    finding(
        9,
        "an attack that never leaves its attacker's body",
        "it can only strike who stands inside of that",
    ),
    finding(
        10,
        "a part on a layer that no attack meets",
        "one side was set up without the other: it cannot be struck",
    ),
    finding(11, "a status that nothing gives", "it is tuned, and never borne"),
    finding(12, "a status without an end that nothing lifts", "whoever bears it bears it for good"),
    finding(13, "a rule that hears what nothing can publish", "it is silent: it never fires"),
    finding(14, "a rule that asks for a threshold that nobody who comes has", "it never fires"),
    finding(15, "a rule that asks for a cast entry that never comes", "it never fires"),
    finding(16, "a flag or a counter that no rule asks for", "it is deaf, unless the game reads it"),
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
    code: NamedSource<String>,
    #[label("here")]
    span: SourceSpan,
}

impl Doubt {
    /// The file that it is about, and the line in it, from 1.
    pub fn place(&self) -> (&str, usize) {
        let before = self.code.inner().get(..self.span.offset()).unwrap_or_default();
        (self.code.name(), before.matches('\n').count() + 1)
    }
}

impl RulesFile {
    /// What is hardly meant in the ruleset alone: findings 1 to 4, 9 and 10 of [`FINDINGS`].
    pub fn check(&self) -> Vec<Doubt> {
        let rules: &Rules = &self.ruleset;
        let mut doubts = self.check_set_up();
        for attack in rules.attacks() {
            let Some(id) = rules.find_attack(attack.name()) else { continue };
            let users: Vec<CastId> = self.users(id).collect();
            let by_another = rules.attacks().iter().any(|other| other.starts(attack.name()));
            if users.is_empty() && !by_another && !self.unleashed[id.index()] {
                let message = format!("no cast entry uses attack `{}`", attack.name());
                doubts.push(self.doubt(
                    1,
                    id,
                    message,
                    "add it to the `attacks` of a cast entry, write `unleashed = true` if it is nobody's, or take it out",
                ));
            }
            for &user in &users {
                doubts.extend(self.meetings(id, user));
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

    fn users(&self, attack: AttackId) -> impl Iterator<Item = CastId> {
        let casts = self.ruleset.casts().iter().filter_map(|cast| self.ruleset.find_cast(cast.name()));
        casts.filter(move |cast| self.uses[cast.index()].contains(&attack))
    }

    /// Whom an attack of `user` can never meet: nobody at all, or a cast entry that its relations allow, by layer.
    fn meetings(&self, attack: AttackId, user: CastId) -> Vec<Doubt> {
        let rules: &Rules = &self.ruleset;
        let authored = &rules.attacks()[attack.index()];
        let own = &rules.casts()[user.index()];
        let allowed: Vec<_> = rules
            .casts()
            .iter()
            .filter(|other| {
                let relation = rules.relation(own.team(), other.team());
                relation.is_some_and(|relation| authored.strikes_relation(relation))
            })
            .collect();
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
        for other in allowed {
            let layers: Vec<&str> = other
                .parts()
                .iter()
                .map(|part| rules.layer_name(part.layer_of()).unwrap_or_default())
                .collect();
            let met = other.parts().iter().any(|part| authored.meets_layer(part.layer_of()));
            if !met {
                let names = (authored.name(), own.name(), other.name());
                let message =
                    format!("attack `{}` of `{}` can never meet `{}`, by layer", names.0, names.1, names.2);
                let mend = match layers.as_slice() {
                    [] => format!("`{}` has no parts; add one", other.name()),
                    _ => format!("its parts lie on {}; add that to `meets`", layers.join(", ")),
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
        let actions = self.ruleset.rules().iter().flat_map(|rule| rule.actions());
        actions.filter_map(|(_, action)| match *action {
            Action::Start(_, attack) | Action::Unleash(attack, ..) => Some(attack),
            _ => None,
        })
    }

    fn doubt(&self, number: u16, attack: AttackId, message: String, mend: &str) -> Doubt {
        doubt(number, &self.file, &self.text, self.attack_spans[attack.index()].clone(), message, mend)
    }

    /// A doubt about what stands under some keys.
    pub(crate) fn doubt_at(&self, number: u16, keys: &[&str], message: String, mend: &str) -> Doubt {
        let span = place_of(&self.text, keys);
        doubt(number, &self.file, &self.text, span, message, mend)
    }
}

fn doubt(number: u16, file: &str, text: &str, span: Range<usize>, message: String, mend: &str) -> Doubt {
    let code = NamedSource::new(file, text.to_owned()).with_language("toml");
    let finding = FINDINGS.iter().find(|finding| finding.number == number).unwrap_or(&FINDINGS[0]);
    Doubt { finding, message, mend: mend.to_owned(), code, span: span.into() }
}

/// Where the last of some keys stands, one within the other.
fn place_of(text: &str, keys: &[&str]) -> Range<usize> {
    let Ok(table) = DeTable::parse(text) else { return 0..0 };
    let mut table = table.get_ref();
    let mut span = 0..0;
    for key in keys {
        let Some((found, value)) = table.get_key_value(*key) else { break };
        span = found.span();
        match value.get_ref() {
            DeValue::Table(within) => table = within,
            _ => break,
        }
    }
    span
}

impl Scenario {
    /// What is hardly meant in the ruleset, and in the scenario under it: every sort of [`FINDINGS`].
    pub fn check(&self) -> Vec<Doubt> {
        let mut doubts = self.rules.check();
        let started: Vec<AttackId> = self
            .script
            .iter()
            .filter_map(|line| match line.act {
                Act::Start(attack, _) | Act::Unleash(attack, ..) => Some(attack),
                _ => None,
            })
            .chain(self.rules.started_by_rules())
            .collect();
        let mut unused: Vec<AttackId> = Vec::new();
        for placed in &self.placed {
            let uses = &self.rules.uses[placed.cast.index()];
            unused.extend(uses.iter().filter(|attack| !started.contains(attack)));
        }
        unused.sort_unstable();
        unused.dedup();
        for attack in unused {
            let name = self.rules.ruleset.attack_name(attack).unwrap_or_default();
            let message = format!("nobody in {} starts attack `{name}`", self.file);
            doubts.push(self.rules.doubt(
                5,
                attack,
                message,
                "add a line to the script, if it is meant to be used",
            ));
        }
        doubts.extend(self.idle_rules());
        doubts.extend(self.check_what_comes());
        doubts
    }

    /// Rules that can never fire in this scenario: they ask for a flag that nobody raises, or for waves that nobody starts, or hear a
    /// fact of the host's own that nobody publishes.
    fn idle_rules(&self) -> Vec<Doubt> {
        let rules: &Rules = &self.rules.ruleset;
        let actions = || rules.rules().iter().flat_map(|rule| rule.actions()).map(|(_, action)| action);
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
                        let raised = actions()
                            .any(|a| matches!(a, Action::Flag(flag, true) if *flag == wanted))
                            || orders()
                                .any(|o| matches!(o, Order::SetFlag { flag, up: true } if flag == wanted));
                        (!raised).then(|| {
                            format!(
                                "flag `{}` is up, and nobody raises it",
                                rules.flag_name(wanted).unwrap_or_default()
                            )
                        })
                    }
                    Condition::WavesOver(wanted) => {
                        let started = actions()
                            .any(|a| matches!(a, Action::Waves(waves) if *waves == wanted))
                            || orders().any(|o| matches!(o, Order::StartWaves { waves } if waves == wanted));
                        (!started).then(|| {
                            format!(
                                "waves `{}` are over, and nobody starts them",
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
            let hosts = || rule.topics().iter().filter_map(|&topic| rules.topics().host_topic(topic));
            let published = |wanted| {
                actions().any(|action| matches!(action, Action::Publish(topic, _) if *topic == wanted))
                    || self
                        .script
                        .iter()
                        .any(|line| matches!(line.act, Act::Publish(topic, _) if topic == wanted))
            };
            let outside = self.rules.outside.iter().any(|name| name == rule.listens_to().0);
            if rule.topics().len() == hosts().count() && !hosts().any(published) && !outside {
                let message =
                    format!("rule `{}` hears `{}`, which nobody publishes", rule.name(), rule.listens_to().0);
                let mend = "let a rule or the script publish it, or name it under `outside` of [rules] if your game does";
                doubts.push(self.rules.doubt_of_rule(8, place, message, mend));
            }
        }
        doubts
    }
}
