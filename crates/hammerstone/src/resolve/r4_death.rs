//! A death: at once, whole, once. It is called where health reaches 0, and nowhere else.

use super::buffers::Blows;
use crate::event::{CombatantDied, Range, SwingEnd, Why};
use crate::flow;
use crate::gauges;
use crate::ids::*;
use crate::lifecycle;
use crate::log::Log;
use crate::ruleset::Rules;
use crate::state::State;
use crate::terms::Life;
use crate::work::Work;

use super::r2_amount::AmountContext;

/// The target of a blow dies, and with it all who share its health, in the order of their ids.
pub(super) fn death(work: &mut Work<'_>, blow: &AmountContext, overkill: i64) {
    let slot = blow.target.slot();
    let Some(pool) = work.rules.template(work.state.combatants.template[slot]).pool else {
        return one_death(work, blow, overkill);
    };
    let dying: Vec<CombatantId> = gauges::standing_sharers(work.state, pool).collect();
    for target in dying {
        let overkill = if target == blow.target { overkill } else { 0 };
        one_death(work, &AmountContext { target, ..*blow }, overkill);
    }
}

fn one_death(work: &mut Work<'_>, blow: &AmountContext, overkill: i64) {
    let subject = blow.target;
    let slot = subject.slot();
    let assists =
        assists(work.rules, work.state, work.log, &mut work.rooms.blows, slot, blow.source.or(blow.credit));
    let lately = || last_contributor(work.rules, work.state, slot).filter(|_| blow.source.is_none());
    let credited = blow.source.or_else(lately).map(|source| work.state.combatants.root_owner(source));
    let credit = blow.credit.or(credited);
    let combatants = &mut work.state.combatants;
    combatants.life[slot] = Life::Dead;
    combatants.died[slot] = work.state.tick;
    let lives = flow::note_death(work, subject);
    let values = values(work.rules, work.state, work.log, subject);
    let combatants = &work.state.combatants;
    let (team, life, at) = (combatants.team[slot], combatants.lives[slot], combatants.pose[slot].at);
    let (killer, via) = (blow.source, blow.via);
    let seq = work.log.publish(CombatantDied {
        subject,
        team,
        life,
        killer,
        credit,
        via,
        assists,
        overkill,
        at,
        lives,
        values,
    });
    lifecycle::end_all_of(work, subject, SwingEnd::Died, Why::Died);
    lifecycle::end_subscriptions(work.state, &mut work.rooms.listeners, subject, seq);
    lifecycle::lose_leader(work.state, work.log, subject, Why::Died);
}

/// What is attached to the dead, by the order of the ruleset; what comes to nothing is left out.
fn values(rules: &Rules, state: &State, log: &mut Log, who: CombatantId) -> Range {
    let start = log.tick.values.len() as u32;
    for value in (0..rules.values.len()).map(ValueId::new) {
        let amount = state.value_of(rules, who, value);
        if amount != 0 {
            log.tick.values.push((value, amount));
        }
    }
    Range { start, end: log.tick.values.len() as u32 }
}

/// Who damaged the dead last, if that was within the time that the ruleset gives for the credit of a death without a killer.
fn last_contributor(rules: &Rules, state: &State, slot: usize) -> Option<CombatantId> {
    let since = state.tick.saturating_sub(rules.death_credit?);
    let combatants = &state.combatants;
    let lately = combatants.contributors.iter(slot).filter(|h| h.tick >= since);
    lately
        .max_by_key(|contributor| (contributor.tick, std::cmp::Reverse(contributor.who)))
        .map(|contributor| contributor.who)
}

/// Who damaged the dead lately and is not the killer: the latest first, of equals the one in the lower place.
fn assists(
    rules: &Rules,
    state: &State,
    log: &mut Log,
    blows: &mut Blows,
    slot: usize,
    killer: Option<CombatantId>,
) -> Range {
    let start = log.tick.assists.len();
    let since = state.tick.saturating_sub(rules.assist_window);
    let combatants = &state.combatants;
    let lately = combatants.contributors.iter(slot);
    let contributors = &mut blows.contributors;
    contributors.clear();
    contributors.extend(lately.filter(|h| h.tick >= since && Some(h.who) != killer));
    contributors.sort_unstable_by_key(|contributor| (std::cmp::Reverse(contributor.tick), contributor.who));
    log.tick.assists.extend(contributors.iter().map(|contributor| contributor.who));
    Range { start: start as u32, end: log.tick.assists.len() as u32 }
}
