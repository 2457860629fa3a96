//! Orders about the encounter as a whole.

use crate::event::{
    CombatantCounted, CombatantFlagged, CounterChanged, EncounterRound, FlagChanged, Said, ScoreChanged,
};
use crate::flow;
use crate::orders::Order;
use crate::orders::Pending;
use crate::ruleset::Audience;
use crate::state::Flow;
use crate::work::Work;

pub(super) fn carry_out(work: &mut Work<'_>, pending: &Pending) {
    match pending.order {
        Order::SetFlag { flag, up } => {
            let flag_was = std::mem::replace(&mut work.state.flags[flag.index()], up);
            if flag_was != up {
                work.log.publish(FlagChanged { flag, to: up });
            }
        }
        Order::Count { counter, count } => {
            let held = &mut work.state.counters[counter.index()];
            let from = *held;
            *held = count.of(from);
            let to = *held;
            if from != to {
                work.log.publish(CounterChanged { counter, from, to });
            }
        }
        Order::FlagCombatant { subject, flag, up } => {
            let changes = work.state.combatants.set_flag(subject.slot(), flag, up);
            if changes {
                work.log.publish(CombatantFlagged { subject, flag, to: up });
            }
        }
        Order::CountCombatant { subject, counter, count } => {
            let from = work.state.combatants.counted(subject.slot(), counter);
            let to = count.of(from);
            if from != to {
                work.state.combatants.set_count(subject.slot(), counter, to);
                work.log.publish(CombatantCounted { subject, counter, from, to });
            }
        }
        Order::Score { score, points, credit } => {
            let held = &mut work.state.scores[score.index()];
            let from = *held;
            *held = from.saturating_add(points);
            let to = *held;
            if from != to {
                work.log.publish(ScoreChanged { score, from, to, credit });
            }
        }
        Order::StartWaves { waves } => flow::start_waves(work.rules, work.state, waves),
        Order::StopWaves { waves } => {
            let state = &mut work.state.waves[waves.index()];
            (state.running, state.due) = (false, None);
        }
        Order::NextRound => {
            work.state.round = work.state.round.saturating_add(1);
            let round = work.state.round;
            work.log.publish(EncounterRound { round });
        }
        Order::Say { spoken, subject } => {
            let line = &work.rules.lines[spoken.line.index()];
            let listener = match line.audience {
                Audience::All | Audience::Team(_) => None,
                Audience::Subject => spoken.parties[0],
                Audience::Other => spoken.parties[1],
            };
            work.log.publish(Said { spoken, subject, listener });
        }
        Order::Fire { .. } => flow::fire(work, pending),
        Order::Reset => work.state.resets = true,
        Order::End { outcome } if work.state.flow == Flow::Running => {
            work.state.flow = Flow::Ending(outcome);
        }
        _ => {}
    }
}
