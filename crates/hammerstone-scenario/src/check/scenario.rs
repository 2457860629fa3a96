//! Whatever is hardly meant in one fight.

use super::{Doubt, Pool, doubt, places_of};
use crate::fight::{Act, Scenario, TakesTo};
use hammerstone::flow::{Group, Reaction};
use hammerstone::ids::{TeamId, TemplateId};
use hammerstone_rules::excerpt::Excerpt;

impl Scenario {
    /// What is hardly meant in the ruleset, and in the scenario under it: every sort of [`FINDINGS`](crate::FINDINGS), as if no other
    /// fight used the ruleset. [`Pool`] looks through several fights of one.
    pub fn check(&self) -> Vec<Doubt> {
        Pool::of(&self.rules, [self]).check().found
    }

    /// Tactics that no combatant has, and choices that are never reached.
    pub(super) fn idle_tactics(&self) -> Vec<Doubt> {
        let rules = &self.rules.ruleset;
        let waves = rules.waves().iter().map(|waves| (waves.template(), None));
        let becomes = |reaction: &Reaction| match reaction {
            Reaction::Transform(_, template) => Some((*template, None)),
            _ => None,
        };
        let rules_make =
            rules.rules().iter().flat_map(|rule| rule.reactions()).filter_map(|(_, made)| becomes(made));
        let script_makes = self.script.iter().filter_map(|line| match line.act {
            Act::Transform(template) => Some((template, None)),
            _ => None,
        });
        let placed = self.placed.iter().map(|placed| (placed.template, placed.team));
        let come: Vec<(TemplateId, Option<TeamId>)> =
            placed.chain(waves).chain(rules_make).chain(script_makes).collect();
        // Waves may have a team of their own.
        let changes_teams = !rules.waves().is_empty()
            || self.script.iter().any(|line| matches!(line.act, Act::ChangeTeam(_)))
            || rules
                .rules()
                .iter()
                .any(|rule| rule.reactions().any(|(_, of)| matches!(of, Reaction::ChangeTeam(..))));
        let places = places_of(&self.text);
        let excerpt = Excerpt::new(&self.file, self.text.as_str());
        let mut doubts = Vec::new();
        for (place, tactics) in self.tactics.iter().enumerate() {
            let key = ["tactics".to_owned(), tactics.name.clone()];
            let span = places.get(key.as_slice()).cloned().unwrap_or(0..0);
            let named = self.placed.iter().any(|placed| placed.tactics == Some(place))
                || self
                    .script
                    .iter()
                    .any(|line| matches!(line.act, Act::Tactics(TakesTo::Named(of)) if of == place));
            let fits = |group: &Group| {
                come.iter().any(|&(template, team)| {
                    let of = &rules.templates()[template.index()];
                    group.template.is_none_or(|wanted| wanted == template)
                        && (changes_teams || group.team.is_none_or(|wanted| team.unwrap_or(of.team()) == wanted))
                        // Statuses may add tags.
                        && (group.tags == 0
                            || !rules.statuses().is_empty()
                            || rules.tags_in(group.tags).all(|tag| of.has_tag(tag)))
                })
            };
            if !named && !tactics.group.as_ref().is_some_and(fits) {
                let message = format!("no combatant has the tactics `{}`", tactics.name);
                let fix = "write `for = { … }` with a group that comes, or `tactics = \"…\"` at a combatant";
                doubts.push(doubt(31, &excerpt, span.clone(), message, fix));
            }
            if let Some(choice) = tactics.last_reached() {
                let message = format!(
                    "`{}` of the tactics `{}` always fits, so that no choice after it is reached",
                    choice.name, tactics.name
                );
                doubts.push(doubt(32, &excerpt, span, message, "put it last, or give it a `when`"));
            }
        }
        doubts
    }

    /// Combatants that follow each other in a circle, one doubt for each.
    pub(super) fn circles(&self) -> Vec<Doubt> {
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
}
