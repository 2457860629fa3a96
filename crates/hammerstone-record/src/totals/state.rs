//! What stands at a time: flags, counters, scores, waves, and each combatant with its gauges and statuses.

use std::fmt::Write as _;

use hammerstone::Life;
use hammerstone::ids::CombatantId;
use serde::Serialize;

use crate::Tick;
use crate::feed::Short;

/// One thing that is known at a time.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct StateLine {
    /// The combatant of which it is; absent for what is of the encounter.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub of: Option<String>,
    /// What it is, such as `health` or `flag sluice-open`.
    pub what: String,
    /// How it stands.
    pub value: String,
}

/// Everything that is known at a time.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct StateTable {
    /// In seconds: the ticks until then are over.
    pub time: f64,
    /// The encounter first, then each combatant by its place.
    pub lines: Vec<StateLine>,
}

/// One thing that is otherwise at a later time.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct StateChange {
    /// The combatant of which it is; absent for what is of the encounter.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub of: Option<String>,
    /// What it is.
    pub what: String,
    /// How it stood; absent if it was not there.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub before: Option<String>,
    /// How it stands; absent if it is there no longer.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub now: Option<String>,
}

impl StateTable {
    /// How everything stands after a tick.
    pub fn of(tick: &Tick<'_>) -> StateTable {
        let mut table = StateTable::of_encounter(tick);
        let mut combatants: Vec<CombatantId> = tick.view().combatants().collect();
        combatants.sort_unstable();
        for who in combatants {
            table.combatant(tick, who, true);
        }
        table
    }

    /// How everything stands that is not of a combatant.
    pub(super) fn of_encounter(tick: &Tick<'_>) -> StateTable {
        let mut table = StateTable { time: tick.rules.seconds(tick.clock), lines: Vec::new() };
        table.encounter(tick);
        table
    }

    /// How a combatant stands, without what counts down: only what stays as it is until something happens.
    pub(super) fn lasting(tick: &Tick<'_>, who: CombatantId) -> StateTable {
        let mut table = StateTable { time: tick.rules.seconds(tick.clock), lines: Vec::new() };
        table.combatant(tick, who, false);
        table
    }

    fn add(&mut self, of: Option<&str>, what: impl Into<String>, value: impl Into<String>) {
        self.lines.push(StateLine { of: of.map(str::to_owned), what: what.into(), value: value.into() });
    }

    fn encounter(&mut self, tick: &Tick<'_>) {
        let (view, rules) = (tick.view(), tick.rules);
        self.add(None, "round", view.round().to_string());
        for flag in rules.flags() {
            let up = if view.flag(flag).unwrap_or_default() { "up" } else { "down" };
            self.add(None, format!("flag {}", rules.flag_name(flag).unwrap_or_default()), up);
        }
        for counter in rules.counters() {
            let name = rules.counter_name(counter).unwrap_or_default();
            self.add(None, format!("counter {name}"), view.counter(counter).unwrap_or_default().to_string());
        }
        for score in rules.scores() {
            let name = rules.score_name(score).unwrap_or_default();
            self.add(None, format!("score {name}"), view.score(score).unwrap_or_default().to_string());
        }
        for waves in rules.waves() {
            let state = rules.find_waves(waves.name()).and_then(|id| view.waves(id));
            if let Some((come, coming)) = state {
                let coming = if coming { ", more to come" } else { "" };
                self.add(
                    None,
                    format!("waves {}", waves.name()),
                    match waves.times_of() {
                        Some(times) => format!("{come} of {times}{coming}"),
                        None => format!("{come}, endless{coming}"),
                    },
                );
            }
        }
        for team in rules.teams() {
            let name = rules.team_name(team).unwrap_or_default();
            self.add(None, format!("standing of the {name}"), view.standing(team).to_string());
        }
    }

    fn combatant(&mut self, tick: &Tick<'_>, who: CombatantId, timed: bool) {
        let (view, rules) = (tick.view(), tick.rules);
        let name = Some(tick.names.of(who));
        let life = match view.life(who) {
            Life::Standing => "standing",
            Life::Dead => "dead",
            Life::Away => "away",
            Life::Gone => return,
        };
        let number = view.life_number(who).unwrap_or(1);
        let mut life = if number > 1 { format!("{life}, life {number}") } else { life.to_owned() };
        if let Some(ticks) = view.returns_in(who).filter(|_| timed) {
            let _ = write!(life, ", back in {:.2} s", rules.seconds(ticks));
        }
        self.add(name, "life", life);
        if let Some((left, _)) = view.lives(who) {
            self.add(name, "lives left", left.to_string());
        }
        if let Some(team) = view.team(who) {
            self.add(name, "team", rules.team_name(team).unwrap_or_default());
        }
        if let Some((health, max)) = view.health(who) {
            self.add(name, "health", format!("{health} of {max}"));
        }
        for (gauge, points, max) in view.gauges(who) {
            self.add(name, rules.gauge_name(gauge).unwrap_or_default(), format!("{points} of {max}"));
        }
        for (what, value) in between(tick, who) {
            self.add(name, what, value);
        }
        for (shield, points) in view.shields(who) {
            self.add(
                name,
                format!("shield {}", rules.shield_name(shield).unwrap_or_default()),
                points.to_string(),
            );
        }
        for flag in rules.combatant_flags().filter(|&flag| view.combatant_flag(who, flag)) {
            self.add(name, format!("flag {}", rules.combatant_flag_name(flag).unwrap_or_default()), "up");
        }
        for counter in rules.combatant_counters() {
            let count = view.combatant_counter(who, counter);
            if count != 0 {
                let counter = rules.combatant_counter_name(counter).unwrap_or_default();
                self.add(name, format!("counter {counter}"), count.to_string());
            }
        }
        for status in view.statuses_of(who) {
            let mut value = Vec::new();
            match status.time.left() {
                None => value.push("until it is lifted".to_owned()),
                Some(left) if timed => value.push(format!("{:.2} s left", rules.seconds(left))),
                Some(_) => {}
            }
            if status.stacks > 1 {
                value.push(format!("{} stacks", status.stacks));
            }
            if status.strength != hammerstone::Fixed::ONE {
                value.push(format!("strength {}", Short(status.strength)));
            }
            if let Some(source) = status.source {
                value.push(format!("from {}", tick.names.of(source)));
            }
            let status = rules.status_name(status.status).unwrap_or_default();
            self.add(name, format!("status {status}"), value.join(", "));
        }
    }

    /// All numbers that [`lasting`](Self::lasting) tells in words, at less cost: where they are the same, so are its lines.
    pub(super) fn lasting_numbers(tick: &Tick<'_>, who: CombatantId, numbers: &mut Vec<i64>) {
        let (view, rules) = (tick.view(), tick.rules);
        let some = |number: Option<i64>| [number.is_some().into(), number.unwrap_or(0)];
        numbers.push(view.life(who) as i64);
        numbers.extend(some(view.life_number(who).map(i64::from)));
        numbers.extend(some(view.lives(who).map(|(left, _)| left.into())));
        numbers.extend(some(view.team(who).map(|team| team.index() as i64)));
        numbers.extend(some(view.template(who).map(|template| template.index() as i64)));
        let (health, max) = view.health(who).unwrap_or_default();
        numbers.extend([health, max, view.time_scale(who).to_raw()]);
        numbers.extend(view.gauges(who).flat_map(|(gauge, points, max)| [gauge.index() as i64, points, max]));
        let held = |(holder, held)| [holder, held].contains(&who).then_some([holder, held]);
        numbers.extend(view.holds().filter_map(held).flatten().map(|who| who.to_bits() as i64));
        numbers
            .extend(view.shields(who).iter().flat_map(|&(shield, points)| [shield.index() as i64, points]));
        numbers.extend(rules.combatant_flags().map(|flag| i64::from(view.combatant_flag(who, flag))));
        numbers.extend(rules.combatant_counters().map(|counter| view.combatant_counter(who, counter)));
        for status in view.statuses_of(who) {
            let source = status.source.map(|source| source.to_bits() as i64);
            numbers.extend([status.status.index() as i64, status.time.left().is_some().into()]);
            numbers.extend([status.stacks.into(), status.strength.to_raw()]);
            numbers.extend(some(source));
        }
    }

    /// What is otherwise than in an earlier table, in the order of both: of what was there the earlier order, then what is new.
    pub fn since(&self, before: &StateTable) -> Vec<StateChange> {
        let key = |line: &StateLine| (line.of.clone(), line.what.clone());
        let mut then: Vec<Option<&StateLine>> = before.lines.iter().map(Some).collect();
        let mut changes = Vec::new();
        let mut gone = Vec::new();
        for line in &self.lines {
            let place = then.iter().position(|known| known.is_some_and(|known| key(known) == key(line)));
            let known = place.and_then(|place| then[place].take());
            if known.is_none_or(|known| known.value != line.value) {
                let (of, what) = key(line);
                let before = known.map(|known| known.value.clone());
                changes.push(StateChange { of, what, before, now: Some(line.value.clone()) });
            }
        }
        for line in then.into_iter().flatten() {
            let (of, what) = key(line);
            gone.push(StateChange { of, what, before: Some(line.value.clone()), now: None });
        }
        changes.extend(gone);
        changes
    }
}

/// What is between a combatant and others, and how its time goes, where that is not as usual.
pub(crate) fn between(tick: &Tick<'_>, who: CombatantId) -> Vec<(&'static str, String)> {
    let (view, rules) = (tick.view(), tick.rules);
    let mut all = Vec::new();
    let scale = view.time_scale(who);
    if scale != hammerstone::Fixed::ONE {
        all.push(("time", format!("x {}", Short(scale))));
    }
    for (holder, held) in view.holds() {
        if holder == who {
            all.push(("holds", tick.names.of(held).to_owned()));
        }
        if held == who {
            all.push(("held by", tick.names.of(holder).to_owned()));
        }
    }
    let template = view.template(who).and_then(|template| rules.templates().get(template.index()));
    if let Some(pool) = template.and_then(hammerstone::template::Template::pool_of) {
        all.push(("shares", rules.pool_name(pool).unwrap_or_default().to_owned()));
    }
    all
}
