//! Orders about the encounter as a whole: why they would be refused.

use super::{in_ruleset, known, present, standing};
use crate::ids::*;
use crate::orders::Order;
use crate::ruleset::Rules;
use crate::state::State;
use crate::terms::{Definition, Refusal};

pub(super) fn refusal(rules: &Rules, state: &State, order: &Order) -> Result<(), Refusal> {
    match *order {
        Order::SetFlag { flag, .. } => in_ruleset(Definition::Flag, flag.index(), rules.flags.len()),
        Order::Count { counter, .. } => {
            in_ruleset(Definition::Counter, counter.index(), rules.counters.len())
        }
        Order::FlagCombatant { subject, flag, .. } => {
            in_ruleset(Definition::CombatantFlag, flag.index(), rules.combatant_flags.len())?;
            present(state, subject)
        }
        Order::CountCombatant { subject, counter, .. } => {
            in_ruleset(Definition::CombatantCounter, counter.index(), rules.combatant_counters.len())?;
            present(state, subject)
        }
        Order::Score { score, credit, .. } => {
            known(state, credit)?;
            in_ruleset(Definition::Score, score.index(), rules.scores.len())
        }
        Order::StartWaves { waves } => {
            in_ruleset(Definition::Waves, waves.index(), rules.waves.len())?;
            if state.waves[waves.index()].running { Err(Refusal::Coming) } else { Ok(()) }
        }
        Order::StopWaves { waves } => {
            in_ruleset(Definition::Waves, waves.index(), rules.waves.len())?;
            if state.waves[waves.index()].running { Ok(()) } else { Err(Refusal::NotComing) }
        }
        Order::NextRound => Ok(()),
        Order::Reset if state.registrar.epoch.0 >= Epoch::LAST => Err(Refusal::NoMoreIds),
        Order::Reset => Ok(()),
        Order::Say { spoken, subject } => {
            in_ruleset(Definition::Line, spoken.line.index(), rules.lines.len())?;
            subject.map_or(Ok(()), |subject| standing(state, subject))
        }
        Order::Fire { rule, .. } => in_ruleset(Definition::Rule, rule.index(), rules.rule_book.len()),
        Order::End { outcome } => in_ruleset(Definition::Outcome, outcome.index(), rules.outcomes.len()),
        _ => Ok(()),
    }
}
