//! The smallest part of a log that shows the same facts.
//!
//! Orders and combatants are left out, half of them at a time and then fewer (A. Zeller and R. Hildebrandt, "Simplifying and isolating
//! failure-inducing input", 2002), as long as the facts that were chosen come with the same keys and the same content. In the end none of what is
//! left can be left out alone.

mod answers;
mod case;

use std::cell::RefCell;
use std::collections::BTreeSet;

use hammerstone::event::{Fact, FactKey, Facts, TickFacts};
use hammerstone::hooks::Hooks;
use hammerstone::ids::CombatantId;
use hammerstone::orders::{Input, Order};
use hammerstone::prelude::Host;
use hammerstone::{Encounter, Ruleset, Saved, TickError};

pub use case::{Reduced, ReducedFact};

use super::reading::Log;
use super::recorder::{Flush, LogOptions, Named, Recorder};
use super::replay::{Replay, ReplayError};
use crate::{Line, Names, Run};
use answers::{Again, Asked, Noting};
use case::said;

/// What is to be kept of a log.
#[derive(Clone, PartialEq, Debug)]
pub struct ReduceOptions {
    /// Facts with this one as subject or other party, by name.
    pub about: String,
    /// Of the ticks that begin from this time on, in seconds.
    pub from: f64,
    /// Of those that begin before this time, in seconds.
    pub to: f64,
    /// Only facts of these topics, or below them; of all if none is named.
    pub topics: Vec<String>,
}

/// Why a log cannot be reduced.
#[derive(Clone, PartialEq, Debug, thiserror::Error)]
#[non_exhaustive]
pub enum ReduceError {
    /// It does not run again.
    #[error(transparent)]
    Replay(#[from] ReplayError),
    /// No tick of it is in the time that was asked for.
    #[error("the log has no tick from {from} to {to} s; those that count go from {first:.2} to {last:.2} s")]
    NoSuchTime {
        /// The time that was asked for.
        from: f64,
        /// Its end.
        to: f64,
        /// When its first tick begins, in seconds.
        first: f64,
        /// When its last begins.
        last: f64,
    },
    /// No fact is about the one who was named.
    #[error("no fact from {from} to {to} s is about `{about}`; there are facts about {others}")]
    Nothing {
        /// Who was named.
        about: String,
        /// The time that was asked for.
        from: f64,
        /// Its end.
        to: f64,
        /// The names that there are facts about.
        others: String,
    },
    /// In the time that was asked for another ruleset was adopted, or a state from elsewhere was restored.
    #[error(
        "at {at:.2} s another ruleset was adopted or a state from elsewhere restored; take a time that begins after it, or ends before"
    )]
    Restored {
        /// When, in seconds.
        at: f64,
    },
    /// Run with its answers found by their calls, it does not show the facts that it showed: something else decides.
    #[error(
        "the part that was asked for does not show the same facts when it is run on its own; take a time that begins earlier, or with code of your own the code that showed them"
    )]
    OfItsOwn,
    /// A part of it does not run.
    #[error(transparent)]
    Tick(#[from] TickError),
}

/// What may be left out.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
enum Item {
    /// A combatant that is there at the beginning, removed in the first tick.
    Combatant(CombatantId),
    /// The order at a place of the inputs of a tick.
    Order(usize, usize),
}

/// A fact that is kept.
type Kept = (usize, FactKey, usize);

/// The part of a log that is looked at.
struct Part<'a> {
    /// The game's own code, if it answers.
    own: Option<OwnHost<'a>>,
    start: Saved,
    fight: Encounter,
    ticks: Vec<Asked>,
    about: CombatantId,
    topics: Vec<String>,
    /// What the whole part shows: by tick of the part, key, and place among the facts of its tick.
    shown: Vec<Kept>,
    facts: Vec<TickFacts>,
    runs: usize,
}

/// Hands the host of a tick, of the first one of a run or of a later one.
type OwnHost<'a> = &'a mut dyn FnMut(bool, &mut dyn FnMut(&mut dyn Host));

/// Reduces a log to what shows the facts that are wanted.
///
/// It begins with the first tick of the time that is asked for, in the state in which that tick began. Ids that were reserved stay reserved, so
/// that orders that are left name what they named. A combatant of the beginning is left out by an order that removes it. What the host answered
/// is answered again to the same calls.
///
/// *Errors:* a log that does not run again, a time or a name that it does not know, a part that does not show the same on its own.
pub fn reduce(log: &Log, wanted: &ReduceOptions) -> Result<Reduced, ReduceError> {
    reduce_by(log, wanted, None)
}

/// As [`reduce`], with the game's own code in place of what it answered: so that what is left shows a fault of that code, too. The world is as it
/// was when the time that is asked for began; each run has a copy.
///
/// *Errors:* as of [`reduce`]; code that does not bring the same facts about.
pub fn reduce_with<W: Clone>(
    log: &Log,
    wanted: &ReduceOptions,
    hooks: &Hooks<W>,
    world: &W,
) -> Result<Reduced, ReduceError> {
    let mut now = world.clone();
    let mut own = |first: bool, run: &mut dyn FnMut(&mut dyn Host)| {
        if first {
            now = world.clone();
        }
        run(&mut hooks.with(&mut now));
    };
    reduce_by(log, wanted, Some(&mut own))
}

/// How many items are left of a log, and whether none of them can be left out alone.
#[cfg(test)]
pub(super) fn is_least(log: &Log, wanted: &ReduceOptions) -> Result<(usize, bool), ReduceError> {
    let mut part = Part::of(log, wanted, &mut Run::new(), None)?;
    let all = part.items();
    let left = part.least(&all)?;
    let mut least = part.shows_the_same(&left)?;
    for item in &left {
        let without = left.iter().copied().filter(|other| other != item).collect();
        least &= !part.shows_the_same(&without)?;
    }
    Ok((left.len(), least))
}

fn reduce_by(log: &Log, wanted: &ReduceOptions, own: Option<OwnHost<'_>>) -> Result<Reduced, ReduceError> {
    let mut run = Run::new();
    let mut part = Part::of(log, wanted, &mut run, own)?;
    let all = part.items();
    if !part.shows_the_same(&all.iter().copied().collect())? {
        return Err(ReduceError::OfItsOwn);
    }
    let left = part.least(&all)?;
    part.written(log, wanted, &run.names, &left, &all)
}

impl<'a> Part<'a> {
    fn of(
        log: &Log,
        wanted: &ReduceOptions,
        run: &mut Run,
        own: Option<OwnHost<'a>>,
    ) -> Result<Part<'a>, ReduceError> {
        let rate = f64::from(log.rules().rate());
        let begins = |tick: u32| f64::from(tick.saturating_sub(1)) / rate;
        let mut replay = Replay::of_branch(log);
        let (mut ticks, mut facts, mut start) = (Vec::<Asked>::new(), Vec::new(), None);
        let (mut first, mut last) = (f64::INFINITY, 0.0f64);
        replay.fight_mut().keep_keys(true);
        replay.fight_mut().keep_ledgers(true);
        loop {
            let next = replay.fight().view().tick() + 1;
            let is_in = begins(next) >= wanted.from && begins(next) < wanted.to;
            let before = if is_in && ticks.is_empty() { replay.fight().save().ok() } else { None };
            let mut asked = Asked::default();
            let noting = &mut |fight: &mut Encounter, host: &mut dyn Host| {
                fight.tick_for(&mut Noting { host, asked: RefCell::new(&mut asked) })
            };
            let ran = if is_in {
                replay.tick_through(&mut run.names, noting)?
            } else {
                replay.tick_named(&mut run.names)?
            };
            let Some(summary) = ran else { break };
            run.observe(replay.fight());
            let at = begins(summary.tick);
            (first, last) = (first.min(at), last.max(at));
            if !(is_in && at >= wanted.from && at < wanted.to) {
                if !ticks.is_empty() {
                    break;
                }
                continue;
            }
            if replay.began_elsewhere() && !ticks.is_empty() {
                return Err(ReduceError::Restored { at });
            }
            if ticks.is_empty() {
                start = before;
                if replay.began_elsewhere() {
                    return Err(ReduceError::Restored { at });
                }
            }
            asked.inputs = replay.inputs().clone().one_by_one();
            ticks.push(asked);
            facts.push(TickFacts::from(&replay.fight().facts()));
            if summary.reset {
                break;
            }
        }
        let (from, to) = (wanted.from, wanted.to);
        let Some(start) = start else {
            let first = if first.is_finite() { first } else { 0.0 };
            return Err(ReduceError::NoSuchTime { from, to, first, last });
        };
        let names = &run.names;
        let named = |who: &CombatantId| names.of(*who) == wanted.about;
        let events = || facts.iter().flat_map(|tick: &TickFacts| &tick.facts).map(|fact| &fact.event);
        let parties = || events().flat_map(|event| [event.subject(), event.other()]).flatten();
        let Some(about) = parties().find(named) else {
            let others: BTreeSet<&str> = parties().map(|who| names.of(who)).collect();
            let others = match others.len() {
                0 => "no one".to_owned(),
                _ => others.into_iter().take(12).collect::<Vec<_>>().join(", "),
            };
            return Err(ReduceError::Nothing { about: wanted.about.clone(), from, to, others });
        };
        let mut fight = replay.fight().clone();
        fight.keep_keys(true);
        fight.keep_ledgers(true);
        let topics = wanted.topics.clone();
        let mut part = Part { own, start, fight, ticks, about, topics, shown: Vec::new(), facts, runs: 0 };
        let rules = part.fight.rules().clone();
        for (at, tick) in part.facts.iter().enumerate() {
            let chosen = chosen(&rules, &part.topics, about, &tick.as_facts());
            part.shown.extend(chosen.into_iter().map(|(key, place)| (at, key, place)));
        }
        if part.shown.is_empty() {
            let about = format!("{} under {}", wanted.about, wanted.topics.join(", "));
            return Err(ReduceError::Nothing { about, from, to, others: "it under other topics".to_owned() });
        }
        Ok(part)
    }

    /// All that may be left out: combatants first, since much goes with one.
    fn items(&mut self) -> Vec<Item> {
        self.begin();
        let there = self.fight.view().combatants().filter(|&who| who != self.about).map(Item::Combatant);
        let orders = self.ticks.iter().enumerate().flat_map(|(at, asked)| {
            let is_order = move |(place, input): (usize, &Input)| {
                matches!(input, Input::Order(_)).then_some(Item::Order(at, place))
            };
            asked.inputs.list.iter().enumerate().filter_map(is_order)
        });
        there.chain(orders).collect()
    }

    /// To the beginning of the part: its state is one of this fight.
    fn begin(&mut self) {
        let rules = self.fight.rules().clone();
        _ = self.fight.restore_under(&rules, &self.start);
        self.runs += 1;
    }

    /// Runs the part from its beginning with these items, tick by tick by `run`, and hands each tick to `see`, until that says no.
    fn run(
        &mut self,
        with: &BTreeSet<Item>,
        run: &mut dyn FnMut(&mut Encounter, &mut dyn Host) -> Result<(), TickError>,
        see: &mut dyn FnMut(usize, &Encounter) -> bool,
    ) -> Result<(), ReduceError> {
        for (at, asked) in self.ticks.iter().enumerate() {
            if at == 0 {
                let there: Vec<CombatantId> = self.fight.view().combatants().collect();
                for who in there.into_iter().filter(|&who| who != self.about) {
                    if !with.contains(&Item::Combatant(who)) {
                        self.fight.orders().remove(who);
                    }
                }
            }
            let mut inputs = asked.inputs.clone();
            let mut place = 0..;
            let stays = |input: &Input| {
                let place = place.next().unwrap_or_default();
                !matches!(input, Input::Order(_)) || with.contains(&Item::Order(at, place))
            };
            inputs.list.retain(stays);
            // What it names is in it: it was read.
            _ = self.fight.repeat(&inputs);
            match &mut self.own {
                None => {
                    run(&mut self.fight, &mut Again { asked, left: RefCell::new(asked.answers.clone()) })?
                }
                Some(own) => {
                    let mut ran = Ok(());
                    own(at == 0, &mut |host| ran = run(&mut self.fight, host));
                    ran?;
                }
            }
            if !see(at, &self.fight) {
                break;
            }
        }
        Ok(())
    }

    /// Whether the part shows the same facts with these items only.
    fn shows_the_same(&mut self, with: &BTreeSet<Item>) -> Result<bool, ReduceError> {
        let (facts, shown) = (std::mem::take(&mut self.facts), std::mem::take(&mut self.shown));
        let (mut place, mut same) = (0, true);
        let (about, topics) = (self.about, self.topics.clone());
        let rules = self.fight.rules().clone();
        self.begin();
        let ran = self.run(with, &mut |fight, host| fight.tick_for(host).map(|_| ()), &mut |at, fight| {
            let now = fight.facts();
            let chosen = chosen(&rules, &topics, about, &now);
            let wanted = &shown[place..];
            let wanted = &wanted[..wanted.iter().take_while(|(tick, ..)| *tick == at).count()];
            place += wanted.len();
            let then = facts[at].as_facts();
            same &= chosen.len() == wanted.len()
                && chosen.iter().zip(wanted).all(|(&(key, now_place), &(_, wanted_key, then_place))| {
                    key == wanted_key
                        && then.says_the_same(&then.facts[then_place], &now, &now.facts[now_place])
                });
            same
        });
        (self.facts, self.shown) = (facts, shown);
        match ran {
            // Without some order the fight may not run.
            Err(ReduceError::Tick(_)) => Ok(false),
            Err(error) => Err(error),
            Ok(()) => Ok(same && place == self.shown.len()),
        }
    }

    /// The items that are left when none of them can be left out alone.
    fn least(&mut self, all: &[Item]) -> Result<BTreeSet<Item>, ReduceError> {
        let mut left: BTreeSet<Item> = all.iter().copied().collect();
        let mut size = left.len().div_ceil(2).max(1);
        loop {
            let (mut changed, list) = (false, left.iter().copied().collect::<Vec<_>>());
            for chunk in list.chunks(size) {
                let mut without = left.clone();
                chunk.iter().for_each(|item| _ = without.remove(item));
                if without.len() < left.len() && self.shows_the_same(&without)? {
                    left = without;
                    changed = true;
                }
            }
            match size {
                1 if !changed => return Ok(left),
                1 => {}
                _ => size = size.div_ceil(2),
            }
            if left.is_empty() {
                return Ok(left);
            }
        }
    }

    fn written(
        mut self,
        log: &Log,
        wanted: &ReduceOptions,
        names: &Names,
        left: &BTreeSet<Item>,
        all: &[Item],
    ) -> Result<Reduced, ReduceError> {
        let rules = self.fight.rules().clone();
        let rate = f64::from(rules.rate());
        let begins = |tick: u32| f64::from(tick.saturating_sub(1)) / rate;
        self.begin();
        let first = self.fight.view().tick() + 1;
        let mut orders = Vec::new();
        for item in left {
            if let Item::Order(at, place) = *item
                && let Input::Order(order) = self.ticks[at].inputs.list[place]
            {
                orders.push((begins(first + at as u32), said(&order, names, &rules)));
            }
        }
        let title = log.title.clone();
        let options = LogOptions {
            title,
            build: log.build.clone(),
            checksums: 1,
            packed: false,
            flush: Flush::EachTick,
        };
        let mut recorder = Recorder::begin(&mut self.fight, Vec::new(), &options);
        let there: Vec<CombatantId> = self.fight.view().combatants().collect();
        let spawned =
            self.ticks.iter().flat_map(|asked| &asked.inputs.list).filter_map(|input| match input {
                Input::Order(Order::Spawn { id, .. } | Order::SpawnKeyed { id, .. }) => Some(*id),
                _ => None,
            });
        // Also those who are named and gone.
        let named = self.shown.iter().flat_map(|&(at, _, place)| {
            let event = &self.facts[at].facts[place].event;
            [event.subject(), event.other()].into_iter().flatten()
        });
        for who in there.iter().copied().chain(spawned).chain(named).collect::<BTreeSet<_>>() {
            recorder.name(Named::Combatant(who), names.of(who));
        }
        for &hook in self.ticks.iter().flat_map(|asked| asked.hooks.keys()).collect::<BTreeSet<_>>() {
            recorder.name(Named::Hook(hook), names.of_hook(hook));
        }
        let (about, topics) = (self.about, self.topics.clone());
        let mut facts = Vec::new();
        self.run(left, &mut |fight, host| recorder.tick_for(fight, host).map(|_| ()), &mut |_, fight| {
            let now = fight.facts();
            for (_, place) in chosen(&rules, &topics, about, &now) {
                let line = Line { fact: &now.facts[place], facts: &now, rules: &rules, names, before: 0 };
                facts.push(ReducedFact::of(now.tick, &line));
            }
            true
        })?;
        let log = recorder.finish().unwrap_or_default();
        let is_left = |who: &&CombatantId| **who == self.about || left.contains(&Item::Combatant(**who));
        let combatants = (there.iter().filter(is_left).count(), there.len());
        let given = all.iter().filter(|item| matches!(item, Item::Order(..))).count();
        let (wanted, runs) = (wanted.clone(), self.runs);
        let title = options.title.clone();
        Ok(Reduced { log, facts, orders: (orders, given), combatants, runs, title, wanted })
    }
}

/// The facts of a tick that are asked for: their keys, and their places.
fn chosen(
    rules: &Ruleset,
    topics: &[String],
    about: CombatantId,
    facts: &Facts<'_>,
) -> Vec<(FactKey, usize)> {
    let is = |(place, fact): (usize, &Fact)| {
        let path = rules.topics().path(fact.event.topic()).unwrap_or_default();
        let below = |topic: &String| {
            path.strip_prefix(topic.as_str()).is_some_and(|rest| rest.is_empty() || rest.starts_with('.'))
        };
        let asked = topics.is_empty() || topics.iter().any(below);
        // Names are by place and tenant, in any epoch.
        let is = |who: &CombatantId| (who.slot(), who.generation()) == (about.slot(), about.generation());
        let party = [fact.event.subject(), fact.event.other()].iter().flatten().any(is);
        if asked && party { Some((*facts.keys.get(place)?, place)) } else { None }
    };
    facts.facts.iter().enumerate().filter_map(is).collect()
}
