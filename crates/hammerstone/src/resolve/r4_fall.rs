//! The fall: at once, whole, once. It is called where health reaches nothing, and nowhere else.

use crate::event::{Event, Range, SwingEnd, Why};
use crate::flow;
use crate::ids::*;
use crate::lifecycle;
use crate::state::Life;
use crate::work::Work;

use super::r2_amount::Blow;

pub(super) fn fall(work: &mut Work<'_>, blow: &Blow, overkill: i64) {
    let subject = blow.target;
    let slot = subject.slot();
    let assists = assists(work, slot, blow.source);
    let lately = || last_harmer(work, slot).filter(|_| blow.source.is_none());
    let credited = blow.source.or_else(lately).map(|source| work.state.combatants.root_owner(source));
    let credit = blow.credit.or(credited);
    let combatants = &mut work.state.combatants;
    combatants.life[slot] = Life::Fallen;
    combatants.fell[slot] = work.state.tick;
    let lives = flow::note_fall(work, subject);
    let values = values(work, subject);
    let combatants = &work.state.combatants;
    let (team, life, at) = (combatants.team[slot], combatants.lives[slot], combatants.pose[slot].at);
    let (killer, means) = (blow.source, blow.means);
    let seq = work.publish(Event::DeathFell {
        subject,
        team,
        life,
        killer,
        credit,
        means,
        assists,
        overkill,
        at,
        lives,
        values,
    });
    lifecycle::end_all_of(work, subject, SwingEnd::Fallen, Why::Fallen);
    lifecycle::end_subscriptions(work, subject, seq);
    lifecycle::lose_leader(work, subject, Why::Fallen);
}

/// What is attached to the fallen, by the order of the ruleset; what comes to nothing is left out.
fn values(work: &mut Work<'_>, who: CombatantId) -> Range {
    let start = work.scratch.values.len() as u32;
    for value in (0..work.rules.values.len()).map(ValueId::new) {
        let amount = work.state.value_of(work.rules, who, value);
        if amount != 0 {
            work.scratch.values.push((value, amount));
        }
    }
    Range { start, end: work.scratch.values.len() as u32 }
}

/// Who harmed the fallen last, if that was within the time that the ruleset gives for the credit of a fall by nobody.
fn last_harmer(work: &Work<'_>, slot: usize) -> Option<CombatantId> {
    let since = work.state.tick.saturating_sub(work.rules.fall_credit?);
    let combatants = &work.state.combatants;
    let lately = combatants.harmer_lists.items(combatants.harmers[slot]).filter(|h| h.tick >= since);
    lately.max_by_key(|harmer| (harmer.tick, std::cmp::Reverse(harmer.who))).map(|harmer| harmer.who)
}

/// Who harmed the fallen lately and is not the killer: the latest first, of equals the one in the lower place.
fn assists(work: &mut Work<'_>, slot: usize, killer: Option<CombatantId>) -> Range {
    let start = work.scratch.assists.len();
    let since = work.state.tick.saturating_sub(work.rules.assist_window);
    let combatants = &work.state.combatants;
    let lately = combatants.harmer_lists.items(combatants.harmers[slot]);
    let harmers = &mut work.scratch.harmers;
    harmers.clear();
    harmers.extend(lately.filter(|h| h.tick >= since && Some(h.who) != killer));
    harmers.sort_unstable_by_key(|harmer| (std::cmp::Reverse(harmer.tick), harmer.who));
    work.scratch.assists.extend(harmers.iter().map(|harmer| harmer.who));
    Range { start: start as u32, end: work.scratch.assists.len() as u32 }
}
