//! A fight goes on under a ruleset that was tuned: between two ticks, or from a save of yesterday.

use std::collections::BTreeMap;
use std::sync::Arc;

use super::save::{Known, Saved};
use super::{Encounter, RestoreError};
use crate::checksum::checksum;
use crate::columns::Fills;
use crate::ids::*;
use crate::ruleset::{Keep, NameList, NotNumbered, Rules, Ruleset};
use crate::state::{self, Chain, Flow, Past, State};
use crate::terms::Life;
use crate::wire::{IdMap, Missing, SectionReader, SectionWriter};

/// Why a fight does not go on under another ruleset. It is as it was before the call.
#[derive(Clone, PartialEq, Eq, Debug, thiserror::Error)]
#[non_exhaustive]
pub enum AdoptError {
    /// A hook panicked in an earlier tick, so that there is no whole state.
    #[error("a hook panicked in tick {tick}, which was left half done; restore a saved state first")]
    Interrupted {
        /// The tick.
        tick: u32,
    },
    /// It has another number of ticks a second.
    #[error("the tuned ruleset has {tuned} ticks a second, and the fight {own}; begin anew for another rate")]
    OtherRate {
        /// That of the fight.
        own: u32,
        /// That of the ruleset.
        tuned: u32,
    },
    /// Names are not there any longer.
    #[error("the tuned ruleset lacks {}; leave them in, or begin anew", listed(.0))]
    Removed(Vec<RemovedName>),
    /// Something is put together otherwise, and the fight is in the middle of it.
    #[error("{what} `{name}` is put together otherwise, and is in use; wait until it is not, or begin anew")]
    OtherMake {
        /// What it is: an attack, a template, a choice.
        what: &'static str,
        /// Its name.
        name: String,
    },
    /// A damage type is new, so that the topics of the host's own would have other numbers.
    #[error(
        "the tuned ruleset has another number of damage types, which moves the topics of the host's own; begin anew"
    )]
    MovedTopics,
    /// The saved state has no names: it was not read from its bytes.
    #[error("the saved state does not say what its numbers mean; read it with `Saved::from_bytes`")]
    NoNames,
    /// The state does not fit the ruleset.
    #[error("the fight does not fit the tuned ruleset: {what}; tune less at a time, or begin anew")]
    Unfit {
        /// What does not fit.
        what: &'static str,
    },
    /// The saved state belongs elsewhere.
    #[error(transparent)]
    Restore(#[from] RestoreError),
}

/// A name that a tuned ruleset lacks.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct RemovedName {
    /// The list that it was in.
    pub list: String,
    /// The name.
    pub name: String,
    /// What of the state still uses it, by the names of its parts; empty if nothing does.
    pub used_by: Vec<String>,
}

fn listed(removed: &[RemovedName]) -> String {
    let one = |RemovedName { list, name, used_by }: &RemovedName| {
        let used =
            if used_by.is_empty() { String::new() } else { format!(" (used by {})", used_by.join(", ")) };
        format!("`{name}` of its {}{used}", list.replace('_', " "))
    };
    removed.iter().map(one).collect::<Vec<_>>().join(", ")
}

/// Names of numbers: where a name stands.
struct Positions<'a> {
    old: &'a [NameList],
    new: BTreeMap<&'static str, BTreeMap<&'a str, usize>>,
}

impl<'a> Positions<'a> {
    fn of(old: &'a [NameList], new: &'a [NameList]) -> Positions<'a> {
        let places = |list: &'a NameList| {
            // Of two of one name, the first.
            let names = list.names.iter().enumerate().rev();
            (list.list, names.map(|(place, name)| (name.as_str(), place)).collect())
        };
        Positions { old, new: new.iter().map(places).collect() }
    }

    /// For each number of a list what it becomes.
    fn moves(&self, list: &str) -> Vec<Option<usize>> {
        let names = self.old.iter().find(|old| old.list == list).map_or(&[][..], |old| &old.names);
        let new = self.new.get(list);
        names.iter().map(|name| new?.get(name.as_str()).copied()).collect()
    }

    fn map(&self) -> IdMap {
        let with_ids = self.old.iter().filter(|old| !old.ids.is_empty());
        IdMap::new(with_ids.map(|old| (old.ids, self.moves(old.list))).collect())
    }

    /// What is missing, by list and name, with what uses it.
    fn removed(&self, missing: &[Missing]) -> Vec<RemovedName> {
        let mut all: Vec<RemovedName> = Vec::new();
        for Missing { sort, number, section } in missing {
            let Some(list) = self.old.iter().find(|old| old.ids == *sort) else { continue };
            let name = list.names.get(*number as usize).cloned().unwrap_or_default();
            let used = section.replace('_', " ");
            match all.iter_mut().find(|known| known.list == list.list && known.name == name) {
                Some(known) => known.used_by.push(used),
                None => all.push(RemovedName { list: list.list.to_owned(), name, used_by: vec![used] }),
            }
        }
        all
    }
}

/// A column by id in another order; what is new has the value of none.
fn moved<T: Clone>(column: &[T], moves: &[Option<usize>], count: usize, none: T) -> Vec<T> {
    let mut other = vec![none; count];
    for (value, place) in column.iter().zip(moves) {
        if let Some(place) = place.filter(|&place| place < count) {
            other[place] = value.clone();
        }
    }
    other
}

/// The state with the numbers of another ruleset.
fn renumbered(state: &State, positions: &Positions<'_>, rules: &Rules) -> Result<State, AdoptError> {
    let mut bytes = Vec::new();
    let mut out = SectionWriter::new(&mut bytes, positions.map());
    state.put("state", &mut out);
    let unfit = |what| AdoptError::Unfit { what };
    let map = out.finish().ok_or(unfit("a number has no room"))?;
    if !map.missing.is_empty() {
        return Err(AdoptError::Removed(positions.removed(&map.missing)));
    }
    let damaged = |_| unfit("it cannot be written with other numbers");
    let mut from = SectionReader::new(&bytes).map_err(damaged)?;
    let mut other = State::take("state", &mut from).map_err(damaged)?;
    let moves = |list| positions.moves(list);
    other.combatants.spawned =
        moved(&other.combatants.spawned, &moves("templates"), rules.templates.len(), 0);
    other.unowned_starts = moved(&other.unowned_starts, &moves("attacks"), rules.attacks.len(), 0);
    other.flags = moved(&other.flags, &moves("flags"), rules.flags.len(), false);
    other.counters = moved(&other.counters, &moves("counters"), rules.counters.len(), 0);
    other.scores = moved(&other.scores, &moves("scores"), rules.scores.len(), 0);
    other.waves = moved(&other.waves, &moves("waves"), rules.waves.len(), Default::default());
    other.fired = moved(&other.fired, &moves("rule_book"), rules.rule_book.len(), Default::default());
    other.last_facts = moved(&other.last_facts, &moves("remembered"), rules.remembered.len(), 0);
    let cooldowns = moves("cooldowns");
    for slot in 0..other.combatants.slots() {
        let known: Vec<(u16, u32)> = other.combatants.cooldowns.iter(slot).copied().collect();
        let kept = known.into_iter().filter_map(|(key, until)| {
            Some((u16::try_from((*cooldowns.get(usize::from(key))?)?).ok()?, until))
        });
        let kept: Vec<(u16, u32)> = kept.collect();
        other.combatants.cooldowns.clear(slot);
        kept.into_iter().rev().for_each(|one| _ = other.combatants.cooldowns.push(slot, one));
    }
    // Lists that are sorted by an id.
    other.pools.sort_unstable();
    other.fired_in_life.sort_unstable_by_key(|(who, rule, _)| (*who, *rule));
    other.rolled.sort_unstable_by_key(|(who, rule, _)| (*who, *rule));
    Ok(other)
}

/// Parts are known by their numbers: those that a template had are still its first ones, or none of it is there.
fn parts_fit(state: &State, old: &[NameList], new: &[NameList], rules: &Rules) -> Result<(), AdoptError> {
    let of = |lists: &[NameList], name: &str| -> Vec<String> {
        let all = lists.iter().find(|list| list.list == "parts").map_or(&[][..], |list| &list.names);
        let own = all.iter().filter_map(|part| part.strip_prefix(name)?.strip_prefix('/'));
        own.map(str::to_owned).collect()
    };
    let combatants = &state.combatants;
    let there = (0..combatants.slots()).filter(|&slot| combatants.life[slot] != Life::Gone);
    let used: std::collections::BTreeSet<TemplateId> = there.map(|slot| combatants.template[slot]).collect();
    for template in used {
        let name = &rules.template(template).name;
        if !of(new, name).starts_with(&of(old, name)) {
            return Err(AdoptError::OtherMake { what: "template", name: name.clone() });
        }
    }
    Ok(())
}

/// What does not follow from numbers: poses of parts, maxima, swings that are outdated.
fn fit(state: &mut State, old: Option<&Ruleset>, lists: &[NameList], new: &Rules) -> Result<(), AdoptError> {
    let of = |list: &str| lists.iter().find(|known| known.list == list).map_or(&[][..], |known| &known.names);
    let healths = of("templates").iter().zip(of("healths")).filter_map(|(name, health)| {
        let health: i64 = health.parse().ok()?;
        Some((name, health))
    });
    let healths: BTreeMap<&String, i64> = healths.collect();
    let State { combatants, .. } = &mut *state;
    for slot in 0..combatants.slots() {
        if combatants.life[slot] == Life::Gone {
            continue;
        }
        let template = combatants.template[slot];
        let parts = new.template(template).parts.len();
        let posed = combatants.part_poses.iter(slot).count();
        if posed > 0 && posed != parts {
            combatants.part_poses.clear(slot);
        }
        // What the host has set stays.
        let before = healths.get(&new.template(template).name);
        if before == Some(&i64::from(combatants.own_max[slot])) {
            combatants.own_max[slot] = new.own_health(template) as i32;
        }
        let Some(old) = old.map(Ruleset::compiled) else { continue };
        if new.template(template).pool != old.template(template).pool {
            let name = new.template(template).name.clone();
            return Err(AdoptError::OtherMake { what: "template", name });
        }
    }
    for (waves, authored) in state.waves.iter_mut().zip(&new.waves) {
        if authored.times_of().is_some_and(|times| waves.come >= times) {
            (waves.running, waves.due) = (false, None);
        }
    }
    // Who stood where under the old ruleset had other parts.
    state.past = Past::default();
    state.outdated.clear();
    for place in 0..state.swings.len() {
        let swing = state.swings[place];
        let (attack, plan) = (new.attack(swing.attack), new.attack_plan(swing.attack));
        let made = |attack: &crate::ruleset::Attack| {
            let forms = std::mem::discriminant(&attack.form);
            (forms, attack.marked.is_some(), attack.charge.is_some(), attack.guided, attack.hitboxes.len())
        };
        let before = old.map(|old| made(old.compiled().attack(swing.attack)));
        let other = before.is_some_and(|before| before != made(attack));
        if other && swing.bodies > 0 {
            return Err(AdoptError::OtherMake { what: "attack", name: attack.name.clone() });
        }
        let past = attack.marked.is_none() && swing.clock > plan.total && swing.bodies == 0;
        let windows = if attack.marked.is_some() { usize::from(u16::MAX) } else { plan.windows.len() };
        if other || past || usize::from(swing.window) > windows {
            state.outdated.push((swing.id, swing.window));
            let swing = &mut state.swings[place];
            swing.window = swing.window.min(windows as u16);
            if attack.charge.is_none() && matches!(swing.charging, state::Charging::Held(..)) {
                swing.charging = state::Charging::Released(crate::Fixed::ZERO);
            }
            let mut guided = std::mem::take(&mut swing.guided);
            state.hitbox_poses.clear(&mut guided);
            debug_assert_eq!(guided, Chain::default());
        }
    }
    Ok(())
}

impl Encounter {
    /// Goes on under a ruleset that was tuned, between two ticks. The same names with other numbers go on; numbers that were given for names
    /// stay what they are, and new names come after them, also where the tuned ruleset has them in another order: so the ruleset of the
    /// fight ([`rules`](Self::rules)) may have another fingerprint than `tuned`.
    ///
    /// Running swings keep their clocks; those past their new end, and those of attacks that are put together otherwise, end in the next
    /// tick as [`Adopted`](crate::event::SwingEnd::Adopted). Statuses keep the time that they have left. Where a template has another maximum of
    /// health, what is there keeps its share or its points. All that follows is told in the next tick, after
    /// [`encounter.adopted`](crate::topic::ENCOUNTER_ADOPTED). The same ruleset again changes no byte.
    ///
    /// *Errors:* names that are not there any longer, with what still uses them; what is put together otherwise and is in use.
    ///
    /// ```
    /// use hammerstone::amount::Keep;
    /// use hammerstone::prelude::*;
    /// let rules = |health| {
    ///     let mut b = Ruleset::builder(60);
    ///     let masons = b.team("masons");
    ///     b.template(Template::new("mason", masons, health));
    ///     b.build()
    /// };
    /// let (rules, tuned) = (rules(40)?, rules(60)?);
    /// let mut fight = Encounter::new(&rules, 7);
    /// let odo = fight.orders().spawn(rules.find_template("mason").unwrap(), Pose::IDENTITY);
    /// fight.tick()?;
    /// fight.adopt(&tuned, Keep::Share)?;
    /// fight.tick()?;
    /// assert_eq!(fight.view().health(odo), Some((60, 60)));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[doc(alias("hot reload"))]
    pub fn adopt(&mut self, tuned: &Ruleset, keep: Keep) -> Result<(), AdoptError> {
        if self.interrupted {
            return Err(AdoptError::Interrupted { tick: self.state.tick });
        }
        if tuned.fingerprint() == self.rules.fingerprint() {
            return Ok(());
        }
        self.same_rate(tuned)?;
        let (own, theirs) = (self.rules.compiled(), tuned.compiled());
        if !own.host_topics.is_empty() && own.damage_types.len() != theirs.damage_types.len() {
            return Err(AdoptError::MovedTopics);
        }
        let old = self.rules.name_lists();
        let new = tuned.numbered_as(&self.rules).map_err(|error| match error {
            NotNumbered::Removed(removed) => {
                let uses = self.uses(&old, &removed);
                AdoptError::Removed(uses)
            }
            NotNumbered::Choice(name) => AdoptError::OtherMake { what: "choice", name },
            NotNumbered::Unsound => {
                AdoptError::Unfit { what: "the ruleset is none with the numbers of this one" }
            }
        })?;
        let mut state = self.adopted(&self.state, &old, &new, Some(&self.rules))?;
        let first = match &self.first {
            None => None,
            Some(first) => Some(Arc::new(self.adopted(first, &old, &new, Some(&self.rules))?)),
        };
        settle(&mut state, first.as_deref(), keep);
        state::validate(&state, first.as_deref(), new.compiled())
            .map_err(|what| AdoptError::Unfit { what })?;
        (self.rules, self.state, self.first) = (new, state, first);
        self.rooms.forget();
        self.log.forget_all_but_facts();
        self.note_adopted();
        Ok(())
    }

    /// As [`restore`](Self::restore), of a state that was saved under another ruleset, such as that of yesterday: what it names by number is
    /// found by name. The rules of [`adopt`](Self::adopt) hold; names that it does not use may be gone.
    pub fn restore_adopting(&mut self, saved: &Saved, keep: Keep) -> Result<(), AdoptError> {
        if saved.ruleset == self.rules.fingerprint() {
            return Ok(self.restore(saved)?);
        }
        let own = self.level.fingerprint();
        if saved.level != own {
            return Err(RestoreError::OtherLevel { saved: saved.level, own }.into());
        }
        let (old, rules) = match &saved.names {
            Known::No => return Err(AdoptError::NoNames),
            Known::Of(rules) => (rules.name_lists(), Some(rules)),
            Known::Read(lists) => (lists.known(&self.rules), None),
        };
        let new = self.rules.clone();
        if let Some(rules) = rules {
            self.same_rate(rules)?;
        }
        let mut state = self.adopted(&saved.state, &old, &new, None)?;
        let first = match &saved.first {
            None => None,
            Some(first) => Some(Arc::new(self.adopted(first, &old, &new, None)?)),
        };
        settle(&mut state, first.as_deref(), keep);
        state::validate(&state, first.as_deref(), new.compiled())
            .map_err(|what| AdoptError::Unfit { what })?;
        let adopted = Saved {
            state,
            first,
            ruleset: new.fingerprint(),
            level: own,
            names: Known::Of(new),
            ..Saved::default()
        };
        adopted.sound.get_or_init(|| ());
        Ok(self.restore(&adopted)?)
    }

    fn same_rate(&self, other: &Ruleset) -> Result<(), AdoptError> {
        let (own, tuned) = (self.rules.rate(), other.rate());
        if own == tuned { Ok(()) } else { Err(AdoptError::OtherRate { own, tuned }) }
    }

    /// A state under another ruleset.
    fn adopted(
        &self,
        state: &State,
        old: &[NameList],
        new: &Ruleset,
        rules: Option<&Ruleset>,
    ) -> Result<State, AdoptError> {
        let lists = new.name_lists();
        let mut other = renumbered(state, &Positions::of(old, &lists), new.compiled())?;
        parts_fit(&other, old, &lists, new.compiled())?;
        fit(&mut other, rules, old, new.compiled())?;
        Ok(other)
    }

    /// Names that are gone, with what still uses them.
    fn uses(&self, old: &[NameList], removed: &[(&'static str, String)]) -> Vec<RemovedName> {
        // As if only the others were there.
        let left = old.iter().map(|list| {
            let names = list.names.iter();
            let names = names.filter(|name| !removed.contains(&(list.list, (*name).clone())));
            NameList { names: names.cloned().collect(), ..*list }
        });
        let left: Vec<NameList> = left.collect();
        let positions = Positions::of(old, &left);
        let mut bytes = Vec::new();
        let mut out = SectionWriter::new(&mut bytes, positions.map());
        self.state.put("state", &mut out);
        let used = out.finish().map(|map| positions.removed(&map.missing)).unwrap_or_default();
        let one = |(list, name): &(&'static str, String)| {
            let known = used.iter().find(|used| used.list == *list && used.name == *name).cloned();
            known.unwrap_or_else(|| RemovedName {
                list: (*list).to_owned(),
                name: name.clone(),
                used_by: Vec::new(),
            })
        };
        removed.iter().map(one).collect()
    }
}

/// What follows comes in the next tick, unless none has run.
fn settle(state: &mut State, first: Option<&State>, keep: Keep) {
    if state.flow != Flow::Prepared {
        state.adopted = Some(keep);
    }
    if let Some(first) = first {
        state.first_fingerprint = checksum(first);
    }
}
