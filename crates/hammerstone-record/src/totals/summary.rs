//! A run in short: blows with their damage, deaths, and refusals with their reasons.

use crate::{Record, Tick};
use hammerstone::event::{CombatantDied, DamageDealt, HitRefused};
use std::collections::BTreeMap;
use std::io::{self, Write};

use anstyle::Style;
use hammerstone::event::{Event, Gate, Operand, Via};
use hammerstone::ids::{AttackId, CombatantId, DamageTypeId};
use hammerstone::{Counts, Ruleset};

use crate::Names;
use crate::feed::begins;
use crate::feed::{OperandText, via_name};

const HEAD: Style = Style::new().bold();
const QUIET: Style = Style::new().dimmed();

/// How many lines of one table are written before the rest is gathered into one.
const MOST_LINES: usize = 24;

#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
struct Pair {
    source: Option<CombatantId>,
    target: CombatantId,
    /// Sort and number of the means.
    via: (u8, usize),
}

#[derive(Clone, Debug, Default)]
struct Dealt {
    times: u64,
    by_damage_type: BTreeMap<DamageTypeId, i64>,
}

#[derive(Clone, Copy, Debug)]
struct Fall {
    tick: u32,
    subject: CombatantId,
    killer: Option<CombatantId>,
    via: Via,
    overkill: i64,
}

#[derive(Clone, Copy, Debug)]
struct Refused {
    tick: u32,
    /// The last of its like, and how many there are.
    last: u32,
    times: u32,
    attacker: Option<CombatantId>,
    attack: AttackId,
    target: CombatantId,
    gate: Gate,
    wanted: Operand,
    found: Operand,
}

/// Gathers a summary from the facts of each tick.
#[derive(Clone, Debug, Default)]
pub struct Summary {
    dealt: BTreeMap<Pair, Dealt>,
    /// The means by their sort and number, for their names.
    via: BTreeMap<(u8, usize), Via>,
    deaths: Vec<Fall>,
    refused: Vec<Refused>,
    by_refusal: BTreeMap<(Option<CombatantId>, AttackId, CombatantId, Gate), usize>,
    counts: Counts,
    ticks: u32,
    /// In the epochs before.
    counts_before: Counts,
    orders_refused: u64,
}

impl Summary {
    fn ticks(&self) -> u32 {
        self.ticks
    }

    fn counts(&self) -> Counts {
        self.counts_before.plus(&self.counts)
    }

    /// Writes it. *Errors:* those of the writer.
    pub fn write(&self, out: &mut impl Write, rules: &Ruleset, names: &Names) -> io::Result<()> {
        let seconds = |tick: u32| format!("{:.2}s", begins(tick, rules));
        let who = |who: Option<CombatantId>| who.map_or("environment", |who| names.of(who));

        writeln!(out, "\n{HEAD}Damage by pair{HEAD:#}")?;
        let rows = self.dealt.iter().map(|(pair, dealt)| {
            let (_, name) = via_name(self.via[&pair.via], rules);
            let amounts: Vec<String> = dealt
                .by_damage_type
                .iter()
                .map(|(&damage_type, amount)| {
                    format!("{amount} {}", rules.damage_type_name(damage_type).unwrap_or_default())
                })
                .collect();
            [
                who(pair.source).to_owned(),
                names.of(pair.target).to_owned(),
                name.to_owned(),
                format!("{} x", dealt.times),
                amounts.join(", "),
            ]
        });
        table(out, rows)?;

        writeln!(out, "\n{HEAD}Deaths{HEAD:#}")?;
        let rows = self.deaths.iter().map(|death| {
            let (_, name) = via_name(death.via, rules);
            let overkill =
                if death.overkill > 0 { format!("overkill {}", death.overkill) } else { String::new() };
            let killer = death.killer.map_or(String::new(), |killer| format!("by {}", names.of(killer)));
            [
                names.of(death.subject).to_owned(),
                seconds(death.tick),
                killer,
                format!("with {name}"),
                overkill,
            ]
        });
        table(out, rows)?;

        writeln!(
            out,
            "\n{HEAD}Refusals{HEAD:#} {QUIET}(the first of each attacker, attack, target and gate, and how many swings met it){QUIET:#}"
        )?;
        let rows = self.refused.iter().map(|refused| {
            let (wanted, found) =
                (OperandText(refused.wanted, rules, names), OperandText(refused.found, rules, names));
            let times = match refused.times {
                1 => String::new(),
                times => format!(", {times} times until {}", seconds(refused.last)),
            };
            [
                seconds(refused.tick),
                refused.gate.name().to_owned(),
                format!(
                    "{}, {}",
                    who(refused.attacker),
                    rules.attack_name(refused.attack).unwrap_or_default()
                ),
                format!("at {}", names.of(refused.target)),
                format!("wanted {wanted}, found {found}{times}"),
            ]
        });
        table(out, rows)?;

        let (counts, ticks) = (self.counts(), self.ticks());
        let by_gate: Vec<String> =
            counts.refusals_by_gate().map(|(gate, count)| format!("{count} {}", gate.name())).collect();
        let by_gate = if by_gate.is_empty() { String::new() } else { format!(" ({})", by_gate.join(", ")) };
        let orders = match self.orders_refused {
            1 => "1 order".to_owned(),
            orders => format!("{orders} orders"),
        };
        let (died, time) = (self.deaths.len(), seconds(ticks + 1));
        writeln!(out, "\n{HEAD}{ticks} ticks, {time}{HEAD:#}: {died} died; {orders} refused")?;
        let (attempts, hits, refusals) = (counts.attempts, counts.hits, counts.refusals());
        writeln!(out, "{attempts} attempts = {hits} hits + {refusals} refusals{by_gate}")
    }
}

impl Record for Summary {
    fn observe(&mut self, tick: &Tick<'_>) {
        let facts = &tick.facts;
        if tick.anew {
            // Counts from before a reset are kept.
            self.counts_before = self.counts();
        }
        (self.ticks, self.counts) = (tick.clock, facts.counts);
        let mut last_blow = 0;
        for event in facts.events() {
            match *event {
                Event::DamageDealt(DamageDealt {
                    damage_type, blow, source, target, via, amount, ..
                }) => {
                    let key = match via {
                        Via::Attack(id) => (0, id.index()),
                        Via::Status(id) => (1, id.index()),
                        Via::Host(id) => (2, id.index()),
                        Via::Rule(id) => (3, id.index()),
                    };
                    self.via.insert(key, via);
                    let dealt = self.dealt.entry(Pair { source, target, via: key }).or_default();
                    *dealt.by_damage_type.entry(damage_type).or_default() += amount;
                    if blow != last_blow {
                        dealt.times += 1;
                    }
                    last_blow = blow;
                }
                Event::CombatantDied(CombatantDied { subject, killer, via, overkill, .. }) => {
                    self.deaths.push(Fall { tick: tick.clock, subject, killer, via, overkill });
                }
                Event::HitRefused(HitRefused { attack, attacker, target, gate, wanted, found, .. }) => {
                    let (tick, key) = (tick.clock, (attacker, attack, target, gate));
                    let place = *self.by_refusal.entry(key).or_insert(self.refused.len());
                    match self.refused.get_mut(place) {
                        Some(known) => (known.last, known.times) = (tick, known.times + 1),
                        None => {
                            let (last, times) = (tick, 1);
                            let new =
                                Refused { tick, last, times, attacker, attack, target, gate, wanted, found };
                            self.refused.push(new);
                        }
                    }
                }
                Event::OrderRefused(_) => self.orders_refused += 1,
                _ => {}
            }
        }
    }
}

/// Rows with their columns aligned; what goes beyond [`MOST_LINES`] is counted in a last line.
fn table(out: &mut impl Write, mut rows: impl Iterator<Item = [String; 5]>) -> io::Result<()> {
    let shown: Vec<[String; 5]> = rows.by_ref().take(MOST_LINES).collect();
    if shown.is_empty() {
        return writeln!(out, "  none");
    }
    let mut widths = [0; 5];
    for row in &shown {
        for (width, cell) in widths.iter_mut().zip(row) {
            *width = cell.chars().count().max(*width);
        }
    }
    for row in &shown {
        let mut line = String::from(" ");
        for (width, cell) in widths.iter().zip(row).filter(|(width, _)| **width > 0) {
            line.push_str(&format!(" {cell:width$} "));
        }
        writeln!(out, "{}", line.trim_end())?;
    }
    match rows.count() {
        0 => Ok(()),
        more => writeln!(out, "  {QUIET}and {more} more; --format jsonl has them all{QUIET:#}"),
    }
}
