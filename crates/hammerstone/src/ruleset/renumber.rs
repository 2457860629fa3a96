//! A ruleset whose ids are those of another that it was tuned from.

use std::collections::BTreeMap;

use super::compile::Rules;
use super::validate::Check;
use super::{NameList, Ruleset};
use crate::ruleset::def::Definitions;
use crate::wire::{self, IdMap, Writer};

/// Why a ruleset cannot have the ids of another.
#[derive(Clone, PartialEq, Eq, Debug)]
pub(crate) enum NotNumbered {
    /// Of a list, names that it has not.
    Removed(Vec<(&'static str, String)>),
    /// A choice has other cases, which must stand next to each other.
    Choice(String),
    /// What came of it is no sound ruleset.
    Unsound,
}

impl Ruleset {
    /// The names of everything that is known by a number, in the order of the numbers.
    pub(crate) fn name_lists(&self) -> Vec<NameList> {
        let mut all = self.defined_names();
        let rules = self.compiled();
        let paths = rules.topics.paths().to_vec();
        let remembered = rules.remembered.iter().filter_map(|(_, topic)| rules.topics.path(*topic));
        let remembered = remembered.map(str::to_owned).collect();
        let families = rules.topics.family_paths().map(str::to_owned).collect();
        let mut cooldowns = Vec::new();
        for (number, attack) in rules.attacks.iter().enumerate() {
            let Some(key) = rules.attack_plan(crate::ids::AttackId::new(number)).cooldown else { continue };
            if usize::from(key) == cooldowns.len() {
                let group = attack.cooldown.as_ref().and_then(|cooldown| cooldown.group.as_ref());
                cooldowns.push(
                    group.map_or_else(|| format!("attack {}", attack.name), |group| format!("group {group}")),
                );
            }
        }
        let parts = rules.templates.iter().flat_map(|template| {
            template.parts.iter().map(|part| format!("{}/{}", template.name, part.name))
        });
        let parts = parts.collect();
        // With which a template joins: who has another was given it by the game.
        let healths = rules.templates.iter().enumerate();
        let healths = healths
            .map(|(place, _)| rules.own_health(crate::ids::TemplateId::new(place)).to_string())
            .collect();
        let others = [
            ("healths", "", healths),
            ("topics", "TopicId", paths),
            ("families", "FamilyId", families),
            ("remembered", "", remembered),
            ("cooldowns", "", cooldowns),
            ("parts", "", parts),
        ];
        all.extend(others.map(|(list, ids, names)| NameList { list, ids, names }));
        all
    }

    /// The same ruleset, in which all that `other` has, too, has the number that it has there; what is new comes after.
    pub(crate) fn numbered_as(&self, other: &Ruleset) -> Result<Ruleset, NotNumbered> {
        let (own, known) = (self.defined_names(), other.defined_names());
        let (mut places, mut sorts, mut removed) = (BTreeMap::new(), Vec::new(), Vec::new());
        for (own, known) in own.iter().zip(&known) {
            let at: BTreeMap<&str, usize> =
                own.names.iter().enumerate().map(|(place, name)| (name.as_str(), place)).collect();
            let mut order = Vec::new();
            for name in &known.names {
                match at.get(name.as_str()) {
                    Some(place) => order.push(*place),
                    None => removed.push((own.list, name.clone())),
                }
            }
            let mut numbers = vec![None; own.names.len()];
            order.iter().enumerate().for_each(|(number, &place)| numbers[place] = Some(number));
            for (place, number) in numbers.iter_mut().enumerate() {
                if number.is_none() {
                    *number = Some(order.len());
                    order.push(place);
                }
            }
            sorts.push((own.ids, numbers));
            places.insert(own.list, order);
        }
        if !removed.is_empty() {
            return Err(NotNumbered::Removed(removed));
        }
        if places.values().all(|order| order.iter().enumerate().all(|(number, &place)| number == place)) {
            return Ok(self.clone());
        }
        let mut bytes = Vec::new();
        let def = self.reordered(&places);
        let mut writer = Writer::new(&mut bytes, IdMap::new(sorts));
        serde::Serialize::serialize(&def, &mut writer).map_err(|_| NotNumbered::Unsound)?;
        let def: Definitions = wire::read(&bytes).map_err(|_| NotNumbered::Unsound)?;
        // Cases of a choice stand next to each other, so that none is new but in a choice that is.
        let choices: Vec<_> = def.rule_book.iter().map(|rule| rule.choice).collect();
        let runs = choices.chunk_by(|one, other| one == other).filter_map(|run| run[0]);
        let mut seen = std::collections::BTreeSet::new();
        for choice in runs {
            if !seen.insert(choice) {
                return Err(NotNumbered::Choice(def.choices[choice.index()].clone()));
            }
        }
        if !Check::of(&def).found.is_empty() {
            return Err(NotNumbered::Unsound);
        }
        Ok(Ruleset::new(Rules::new(def)))
    }
}
