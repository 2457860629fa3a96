//! Starts of attacks that were refused.

use hammerstone::Ruleset;
use hammerstone::ids::{AttackId, CombatantId};
use hammerstone::orders::Refusal;
use serde::Serialize;

use crate::Names;
use crate::feed::begins;

/// A start that was refused; or several of the same attack in a row, for the same reason.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct RefusedStart {
    /// The attacker.
    pub attacker: String,
    /// The attack that would have started.
    pub attack: String,
    /// The tick of the first.
    pub tick: u32,
    /// When the first was refused, in seconds.
    pub from: f64,
    /// When the last was refused, in seconds.
    pub to: f64,
    /// How many there were.
    pub times: u32,
    /// Why, in words; of the last of them.
    pub why: String,
    /// From when on it would no longer be refused for this, in seconds, as things stood at the last; absent if that was not known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub until: Option<f64>,
}

/// Gathers them, those of a row together.
#[derive(Clone, Default, Debug)]
pub(super) struct Starts {
    rows: Vec<Row>,
}

#[derive(Clone, Debug)]
struct Row {
    of: (Option<CombatantId>, AttackId),
    attacker: String,
    /// None where a start waited, and its time was up.
    sort: Option<std::mem::Discriminant<Refusal>>,
    first: u32,
    last: u32,
    times: u32,
    why: String,
    until: Option<u32>,
    /// Whether a further one may belong to it.
    open: bool,
}

impl Starts {
    /// A start was refused in `tick`, for a reason that reads so.
    pub(super) fn refused(
        &mut self,
        attacker: Option<CombatantId>,
        attack: AttackId,
        (tick, why, text): (u32, Refusal, String),
        names: &Names,
    ) {
        let until = why.ticks().map(|ticks| tick.saturating_add(ticks));
        self.add((attacker, attack), Some(std::mem::discriminant(&why)), tick, text, until, names);
    }

    /// A start waited, and its time was up.
    pub(super) fn lapsed(&mut self, attacker: CombatantId, attack: AttackId, tick: u32, names: &Names) {
        let text = "it waited for its turn, or was next in a chain, and its time was up".to_owned();
        self.add((Some(attacker), attack), None, tick, text, None, names);
    }

    fn add(
        &mut self,
        of: (Option<CombatantId>, AttackId),
        sort: Option<std::mem::Discriminant<Refusal>>,
        tick: u32,
        why: String,
        until: Option<u32>,
        names: &Names,
    ) {
        let known = self.rows.iter_mut().rev().find(|row| row.of == of);
        if let Some(row) = known.filter(|row| row.open && row.sort == sort) {
            (row.last, row.times, row.why, row.until) = (tick, row.times + 1, why, until);
            return;
        }
        let attacker = of.0.map_or("environment", |who| names.of(who)).to_owned();
        self.rows.push(Row { of, attacker, sort, first: tick, last: tick, times: 1, why, until, open: true });
    }

    /// An attack has started: what is refused from now on is another row.
    pub(super) fn begun(&mut self, attacker: Option<CombatantId>, attack: AttackId) {
        if let Some(row) = self.rows.iter_mut().rev().find(|row| row.of == (attacker, attack)) {
            row.open = false;
        }
    }

    pub(super) fn finish(self, rules: &Ruleset) -> Vec<RefusedStart> {
        let finished = |row: Row| RefusedStart {
            attacker: row.attacker,
            attack: rules.attack_name(row.of.1).unwrap_or_default().to_owned(),
            tick: row.first,
            from: begins(row.first, rules),
            to: begins(row.last, rules),
            times: row.times,
            why: row.why,
            until: row.until.map(|until| begins(until, rules)),
        };
        self.rows.into_iter().map(finished).collect()
    }
}

impl RefusedStart {
    /// Whether some of them were refused between these two times, in seconds.
    pub fn is_between(&self, from: f64, to: f64) -> bool {
        self.from <= to && self.to >= from
    }
}
