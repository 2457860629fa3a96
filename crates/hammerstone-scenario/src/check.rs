//! What can be known of a file without running it: not wrong, but hardly meant.

use std::ops::Range;

use hammerstone::{AttackId, CastId, Rules};
use miette::{Diagnostic, NamedSource, SourceSpan};

use crate::rules::RulesFile;
use crate::scenario::Scenario;
use crate::script::Act;

/// Something in a file that is hardly meant, with its place and a mend.
#[derive(Debug, thiserror::Error, Diagnostic)]
#[error("{message}")]
#[diagnostic(severity(warning))]
pub struct Doubt {
    /// What it is.
    pub message: String,
    #[help]
    mend: String,
    #[source_code]
    code: NamedSource<String>,
    #[label("here")]
    span: SourceSpan,
}

impl RulesFile {
    /// Attacks that no cast entry uses, and pairs that can never meet.
    pub fn check(&self) -> Vec<Doubt> {
        let rules: &Rules = &self.ruleset;
        let mut doubts = Vec::new();
        for attack in rules.attacks() {
            let Some(id) = rules.find_attack(attack.name()) else { continue };
            let users: Vec<CastId> = self.users(id).collect();
            let by_another = rules.attacks().iter().any(|other| other.starts(attack.name()));
            if users.is_empty() && !by_another && !self.unleashed[id.index()] {
                let message = format!("no cast entry uses attack `{}`", attack.name());
                doubts.push(self.doubt(
                    id,
                    message,
                    "add it to the `attacks` of a cast entry, write `unleashed = true` if it is nobody's, or take it out",
                ));
            }
            for &user in &users {
                doubts.extend(self.meetings(id, user));
            }
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
            .filter(|other| authored.strikes_relation(rules.relation(own.team(), other.team())))
            .collect();
        if allowed.is_empty() {
            let message = format!(
                "attack `{}` of `{}` can never meet anybody: it strikes no team",
                authored.name(),
                own.name()
            );
            return vec![self.doubt(
                attack,
                message,
                "look at `strikes`, and at how the teams stand to each other",
            )];
        }
        let mut doubts = Vec::new();
        for other in allowed {
            let layers: Vec<&str> =
                other.parts().iter().map(|part| rules.layer_name(part.layer_of())).collect();
            let met = other.parts().iter().any(|part| authored.meets_layer(part.layer_of()));
            if !met {
                let names = (authored.name(), own.name(), other.name());
                let message =
                    format!("attack `{}` of `{}` can never meet `{}`, by layer", names.0, names.1, names.2);
                let mend = match layers.as_slice() {
                    [] => format!("`{}` has no parts; add one", other.name()),
                    _ => format!("its parts lie on {}; add that to `meets`", layers.join(", ")),
                };
                doubts.push(self.doubt(attack, message, &mend));
            }
        }
        doubts
    }

    fn doubt(&self, attack: AttackId, message: String, mend: &str) -> Doubt {
        doubt(&self.file, &self.text, self.attack_spans[attack.index()].clone(), message, mend)
    }
}

fn doubt(file: &str, text: &str, span: Range<usize>, message: String, mend: &str) -> Doubt {
    let code = NamedSource::new(file, text.to_owned()).with_language("toml");
    Doubt { message, mend: mend.to_owned(), code, span: span.into() }
}

impl Scenario {
    /// What is doubtful in its ruleset, and attacks that its combatants could use and nobody starts.
    pub fn check(&self) -> Vec<Doubt> {
        let mut doubts = self.rules.check();
        let started: Vec<AttackId> = self
            .script
            .iter()
            .filter_map(|line| match line.act {
                Act::Start(attack, _) | Act::Unleash(attack, ..) => Some(attack),
                _ => None,
            })
            .collect();
        let mut unused: Vec<AttackId> = Vec::new();
        for placed in &self.placed {
            let uses = &self.rules.uses[placed.cast.index()];
            unused.extend(uses.iter().filter(|attack| !started.contains(attack)));
        }
        unused.sort_unstable();
        unused.dedup();
        for attack in unused {
            let name = self.rules.ruleset.attack_name(attack);
            let message = format!("nobody in {} starts attack `{name}`", self.file);
            doubts.push(self.rules.doubt(
                attack,
                message,
                "add a line to the script, if it is meant to be used",
            ));
        }
        doubts
    }
}
