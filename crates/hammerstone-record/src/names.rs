//! What combatants and hooks are called in the feed.

use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};

use hammerstone::event::{CombatantJoined, Event, Facts};
use hammerstone::ids::{CombatantId, HookId, ObstacleId, TemplateId};
use hammerstone::level::InLevel;
use hammerstone::{Ruleset, View};

/// The names of combatants and hooks.
///
/// A name that was [given](Names::call) stays. A combatant that joins without one is called after its template,
/// with its number among these: `hound`, `hound#2`, `hound#3`.
#[derive(Clone, Debug, Default)]
pub struct Names {
    /// By place in the state, then by tenant of that place.
    combatants: Vec<Vec<String>>,
    counts: Vec<u32>,
    /// The template of each place's latest tenant.
    templates: Vec<Option<TemplateId>>,
    hooks: Vec<String>,
    /// By the number of the obstacle.
    obstacles: BTreeMap<u64, String>,
    /// By the number of the shape of the level.
    shapes: Vec<String>,
    /// Names that were given.
    given: BTreeSet<String>,
    /// Those who were named after their template in this epoch.
    learned: Vec<CombatantId>,
    epoch: u32,
    /// How often a combatant was named.
    namings: u64,
}

impl Names {
    /// No names.
    pub fn new() -> Names {
        Names::default()
    }

    /// Calls a combatant `name` from now on.
    pub fn call(&mut self, who: CombatantId, name: &str) {
        self.given.insert(name.to_owned());
        self.name(who, name);
    }

    /// How often a combatant was named so far: where it is the same, all are called as before.
    pub(crate) fn namings(&self) -> u64 {
        self.namings
    }

    fn name(&mut self, who: CombatantId, name: &str) {
        self.namings += 1;
        let (slot, generation) = (who.slot(), who.generation() as usize);
        if self.combatants.len() <= slot {
            self.combatants.resize(slot + 1, Vec::new());
        }
        let tenants = &mut self.combatants[slot];
        if tenants.len() <= generation {
            tenants.resize(generation + 1, String::new());
        }
        name.clone_into(&mut tenants[generation]);
    }

    /// Calls a hook `name`.
    pub fn call_hook(&mut self, hook: HookId, name: &str) {
        if self.hooks.len() <= hook.index() {
            self.hooks.resize(hook.index() + 1, String::new());
        }
        name.clone_into(&mut self.hooks[hook.index()]);
    }

    /// Calls an obstacle `name`.
    pub fn call_obstacle(&mut self, obstacle: ObstacleId, name: &str) {
        self.obstacles.insert(obstacle.number(), name.to_owned());
    }

    /// Calls a shape of the level, by its number, `name`.
    pub fn call_shape(&mut self, shape: u32, name: &str) {
        let place = shape as usize;
        if self.shapes.len() <= place {
            self.shapes.resize(place + 1, String::new());
        }
        name.clone_into(&mut self.shapes[place]);
    }

    /// The name of an obstacle, or its number.
    pub fn of_obstacle(&self, obstacle: ObstacleId) -> Cow<'_, str> {
        match self.obstacles.get(&obstacle.number()) {
            Some(name) => name.into(),
            None => format!("obstacle {}", obstacle.number()).into(),
        }
    }

    /// The name of a shape of the level, or its number.
    pub fn of_shape(&self, place: InLevel) -> Cow<'_, str> {
        match self.shapes.get(place.shape as usize).filter(|name| !name.is_empty()) {
            Some(name) => name.into(),
            None => format!("shape {} of the level", place.shape).into(),
        }
    }

    /// Takes in the combatants that joined in a tick.
    pub(crate) fn learn(&mut self, rules: &Ruleset, facts: &Facts<'_>) {
        if self.epoch != facts.epoch {
            // After a reset they join again, and are counted anew.
            self.epoch = facts.epoch;
            self.counts.clear();
            for who in std::mem::take(&mut self.learned) {
                self.name(who, "");
            }
        }
        for event in facts.events() {
            if let Event::CombatantJoined(CombatantJoined { subject, template, .. }) = *event {
                self.joined(rules, subject, template);
            }
        }
    }

    /// Takes in those who are there already, where a run is followed from its middle on.
    pub(crate) fn meet(&mut self, rules: &Ruleset, view: View<'_>) {
        for who in view.combatants() {
            if self.template_of(who).is_none()
                && let Some(template) = view.template(who)
            {
                self.joined(rules, who, template);
            }
        }
    }

    /// One is there that is made from a template; it is called after that, unless it has a name.
    fn joined(&mut self, rules: &Ruleset, who: CombatantId, template: TemplateId) {
        if self.templates.len() <= who.slot() {
            self.templates.resize(who.slot() + 1, None);
        }
        self.templates[who.slot()] = Some(template);
        if self.counts.len() <= template.index() {
            self.counts.resize(template.index() + 1, 0);
        }
        if !self.of(who).is_empty() {
            return;
        }
        self.learned.push(who);
        let after = rules.template_name(template).unwrap_or_default();
        let name = loop {
            self.counts[template.index()] += 1;
            let name = match self.counts[template.index()] {
                1 => after.to_owned(),
                number => format!("{after}#{number}"),
            };
            // Someone who was named may go by that already.
            if !self.given.contains(&name) {
                break name;
            }
        };
        self.name(who, &name);
    }

    /// The name of a combatant; empty for one that no one named.
    pub fn of(&self, who: CombatantId) -> &str {
        let tenants = self.combatants.get(who.slot());
        tenants.and_then(|tenants| tenants.get(who.generation() as usize)).map_or("", String::as_str)
    }

    /// The name of a part of a combatant that has joined.
    pub fn part<'a>(&self, rules: &'a Ruleset, who: CombatantId, part: u16) -> Option<&'a str> {
        let template = self.template_of(who)?;
        rules.templates()[template.index()].parts().get(usize::from(part)).map(|part| part.name())
    }

    /// What one who has joined is made from.
    pub fn template_of(&self, who: CombatantId) -> Option<TemplateId> {
        *self.templates.get(who.slot())?
    }

    /// The name of a hook; empty for one that no one named.
    pub fn of_hook(&self, hook: HookId) -> &str {
        self.hooks.get(hook.index()).map_or("", String::as_str)
    }
}
