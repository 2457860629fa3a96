//! A death: at once, whole, once. It is called where health reaches 0, and nowhere else.

use crate::event::{CombatantDied, Range, SwingEnd, Why};
use crate::flow;
use crate::ids::*;
use crate::lifecycle;
use crate::state::Life;
use crate::work::Work;

use super::r2_amount::AmountContext;

pub(super) fn death(work: &mut Work<'_>, blow: &AmountContext, overkill: i64) {
    let subject = blow.target;
    let slot = subject.slot();
    let assists = assists(work, slot, blow.source);
    let lately = || last_contributor(work, slot).filter(|_| blow.source.is_none());
    let credited = blow.source.or_else(lately).map(|source| work.state.combatants.root_owner(source));
    let credit = blow.credit.or(credited);
    let combatants = &mut work.state.combatants;
    combatants.life[slot] = Life::Dead;
    combatants.died[slot] = work.state.tick;
    let lives = flow::note_death(work, subject);
    let values = values(work, subject);
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
    lifecycle::end_subscriptions(work, subject, seq);
    lifecycle::lose_leader(work, subject, Why::Died);
}

/// What is attached to the dead, by the order of the ruleset; what comes to nothing is left out.
fn values(work: &mut Work<'_>, who: CombatantId) -> Range {
    let start = work.log.tick.values.len() as u32;
    for value in (0..work.rules.values.len()).map(ValueId::new) {
        let amount = work.state.value_of(work.rules, who, value);
        if amount != 0 {
            work.log.tick.values.push((value, amount));
        }
    }
    Range { start, end: work.log.tick.values.len() as u32 }
}

/// Who damaged the dead last, if that was within the time that the ruleset gives for the credit of a death without a killer.
fn last_contributor(work: &Work<'_>, slot: usize) -> Option<CombatantId> {
    let since = work.state.tick.saturating_sub(work.rules.death_credit?);
    let combatants = &work.state.combatants;
    let lately =
        combatants.contributor_lists.items(combatants.contributors[slot]).filter(|h| h.tick >= since);
    lately
        .max_by_key(|contributor| (contributor.tick, std::cmp::Reverse(contributor.who)))
        .map(|contributor| contributor.who)
}

/// Who damaged the dead lately and is not the killer: the latest first, of equals the one in the lower place.
fn assists(work: &mut Work<'_>, slot: usize, killer: Option<CombatantId>) -> Range {
    let start = work.log.tick.assists.len();
    let since = work.state.tick.saturating_sub(work.rules.assist_window);
    let combatants = &work.state.combatants;
    let lately = combatants.contributor_lists.items(combatants.contributors[slot]);
    let contributors = &mut work.rooms.blows.contributors;
    contributors.clear();
    contributors.extend(lately.filter(|h| h.tick >= since && Some(h.who) != killer));
    contributors.sort_unstable_by_key(|contributor| (std::cmp::Reverse(contributor.tick), contributor.who));
    work.log.tick.assists.extend(contributors.iter().map(|contributor| contributor.who));
    Range { start: start as u32, end: work.log.tick.assists.len() as u32 }
}
