//! `timings --matchups`: every attack against every template that it may strike: damage, hits and time to kill.

use std::path::Path;

use hammerstone::Ruleset;
use hammerstone::amount::Luck;
use hammerstone::prelude::*;
use hammerstone_scenario::RulesFile;
use miette::IntoDiagnostic;

use super::timings::written;
use crate::args::TimingsOptions;
use crate::{Failure, Outcome, output};

const HEADS: [output::Column<'static>; 10] = [
    ("attack", false),
    ("by", false),
    ("at", false),
    ("part", false),
    ("least", true),
    ("most", true),
    ("health", true),
    ("hits", true),
    ("hits at most", true),
    ("seconds to kill", true),
];

/// How far apart both stand, in metres: what falls off with distance is told for this.
const APART: f32 = 1.5;

/// A row for each attack, template that uses it, template that it may strike, and part. Hits and seconds are from the most damage to the
/// least; the seconds are those to the last of the fewest hits, one a swing, as soon as hands and cooldown allow.
pub(super) fn matchups(path: &Path, file: &RulesFile, options: &TimingsOptions) -> Result<Outcome, Failure> {
    let rules: &Ruleset = &file.ruleset;
    let mut rows = Vec::new();
    for (place, template) in rules.templates().iter().enumerate() {
        let Some(user) = rules.find_template(template.name()) else { continue };
        for &attack in &file.uses[place] {
            for other in rules.templates() {
                let authored = &rules.attacks()[attack.index()];
                let relation = rules.relation(template.team(), other.team());
                let Some(target) = rules.find_template(other.name()) else { continue };
                if relation.is_some_and(|relation| authored.strikes_relation(relation)) {
                    rows.extend(pair(rules, (user, attack, target))?);
                }
            }
        }
    }
    let heading = format!(
        "{}: one blow from {APART} m, as all stand at the start; hits and seconds for one hit a swing\n",
        path.display()
    );
    written(options, &heading, &HEADS, &rows, &|_| Ok(()))?;
    Ok(Outcome::Fine)
}

/// The rows of one attack against one template: one for each part.
fn pair(
    rules: &Ruleset,
    (user, attack, target): (TemplateId, AttackId, TemplateId),
) -> Result<Vec<[String; 10]>, Failure> {
    let mut fight = Encounter::new(rules, 0);
    let (attacker, other) = {
        let mut orders = fight.orders();
        let attacker = orders.spawn(user, Pose::IDENTITY);
        // In front of each other, as pictures show them.
        let ahead = Pose::IDENTITY.direction([0.0, 0.0, APART]);
        (attacker, orders.spawn(target, Pose::at(ahead)))
    };
    fight.tick().into_diagnostic()?;
    let (own, others) = (&rules.templates()[user.index()], &rules.templates()[target.index()]);
    let health = fight.view().health(other).map_or(0, |(health, _)| health);
    let times = rules.timings(attack);
    let mut rows = Vec::new();
    for (number, part) in others.parts().iter().enumerate() {
        let amount = |luck| -> Option<i64> {
            let preview = fight.preview(attacker, attack, other, number as u16, luck).ok()?;
            Some(preview.health.0 - preview.health.1)
        };
        let (Some(least), Some(most)) = (amount(Luck::Least), amount(Luck::Most)) else { continue };
        // A blow that kills is told no longer than the health lasts.
        let hits = |damage: i64| (damage > 0).then(|| (health + damage - 1) / damage);
        let or_dash = |number: Option<String>| number.unwrap_or_else(|| "-".to_owned());
        let seconds = hits(most).zip(times.as_ref()).map(|(hits, times)| {
            let first = times.startup.unwrap_or(0);
            let ticks = i64::from(first) + (hits - 1) * i64::from(times.again);
            format!("{:.2}", ticks as f64 / f64::from(rules.rate()))
        });
        rows.push([
            rules.attack_name(attack).unwrap_or_default().to_owned(),
            own.name().to_owned(),
            others.name().to_owned(),
            part.name().to_owned(),
            least.to_string(),
            most.to_string(),
            health.to_string(),
            or_dash(hits(most).map(|hits| hits.to_string())),
            or_dash(hits(least).map(|hits| hits.to_string())),
            or_dash(seconds),
        ]);
    }
    Ok(rows)
}
