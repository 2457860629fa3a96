//! Time scales of combatants.
//!
//! A time scale belongs to one combatant, in sixteenths. It is over its swings, the statuses that it bears, its cooldowns, uses and refills;
//! what has left its hand, moves, delayed rules and the encounter's clock go on as they did. In a tick of the encounter none, one or two of
//! its own pass. Where none does, all that is due to it is due a tick later; where two do, a tick earlier.

use crate::ids::*;
use crate::ruleset::Rules;
use crate::sheet;
use crate::state::{State, SwingAt, Tempo};
use crate::terms::{FASTEST, NEVER, NORMAL};

/// A tick begins: how much time passes in it for each combatant with a time scale.
pub(crate) fn advance(state: &mut State) {
    for place in 0..state.tempos.len() {
        let tempo = &mut state.tempos[place];
        let due = tempo.left_over + tempo.scale;
        (tempo.steps, tempo.left_over) = (due / NORMAL, due % NORMAL);
        let (who, steps) = (tempo.who, tempo.steps);
        if steps != 1 {
            shift(state, who, steps == 0);
        }
    }
}

/// All that is due to a combatant is due a tick later, or earlier.
fn shift(state: &mut State, who: CombatantId, later: bool) {
    let tick = state.tick;
    let moved = |at: u32| match at {
        NEVER => NEVER,
        at if later => at.saturating_add(1),
        at => at.saturating_sub(1),
    };
    let slot = who.slot();
    let places: Vec<_> = state.statuses_on(who).collect();
    for place in places {
        let application = &mut state.applications[place];
        if application.runs() {
            application.due = application.due.map(|due| if due >= tick { moved(due) } else { due });
            application.ends = application.ends.map(|ends| if ends >= tick { moved(ends) } else { ends });
        }
    }
    let combatants = &mut state.combatants;
    let places: Vec<usize> = combatants.cooldowns.places(slot).map(|(place, _)| place).collect();
    for place in places {
        let (_, until) = combatants.cooldowns.get_mut(place);
        *until = moved(*until);
    }
    // What has passed since counts up to the tick that is beginning.
    let since = |at: u32| moved(at).min(tick);
    let places: Vec<usize> = combatants.uses.places(slot).map(|(place, _)| place).collect();
    for place in places {
        let row = combatants.uses.get_mut(place);
        row.since = since(row.since);
    }
    let places: Vec<usize> = combatants.gauges.places(slot).map(|(place, _)| place).collect();
    for place in places {
        let row = combatants.gauges.get_mut(place);
        row.lost_at = since(row.lost_at);
    }
    if let Some((_, step)) = state.steps.iter_mut().find(|(of, _)| *of == who) {
        (step.opens, step.lapses) = (moved(step.opens), moved(step.lapses));
    }
    if let Some((_, press)) = state.presses.iter_mut().find(|(of, _)| *of == who) {
        press.until = moved(press.until);
    }
}

/// How the time of a combatant goes, in sixteenths.
pub(crate) fn scale_of(tempos: &[Tempo], who: CombatantId) -> u8 {
    tempos.iter().find(|tempo| tempo.who == who).map_or(NORMAL, |tempo| tempo.scale)
}

/// Ticks of its own that pass for a combatant in this tick.
pub(crate) fn own_ticks(state: &State, who: CombatantId) -> u8 {
    state.tempos.iter().find(|tempo| tempo.who == who).map_or(1, |tempo| tempo.steps)
}

/// Sets a time scale: what is due shifts from the next tick on, swings go by it at once. Gives what it was.
pub(crate) fn set_scale(state: &mut State, who: CombatantId, scale: u8) -> u8 {
    let tempos = &mut state.tempos;
    let place = match tempos.binary_search_by_key(&who, |tempo| tempo.who) {
        Ok(place) => {
            let before = tempos[place].scale;
            if scale == NORMAL {
                _ = tempos.remove(place)
            } else {
                tempos[place].scale = scale
            }
            return before;
        }
        Err(_) if scale == NORMAL => return NORMAL,
        Err(place) => place,
    };
    tempos.insert(place, Tempo { who, scale, left_over: 0, steps: 1 });
    NORMAL
}

/// Sixteenths of a tick that pass for the swing at `index` in this tick: as the time of its attacker goes, times the stat that is its speed.
pub(crate) fn pace(rules: &Rules, state: &State, index: SwingAt, left_the_hand: bool) -> u8 {
    let Some(attacker) = state.swings[index].attacker.filter(|_| !left_the_hand) else { return NORMAL };
    let scale = if state.tempos.is_empty() { NORMAL } else { scale_of(&state.tempos, attacker) };
    let Some(stat) = rules.attack_speed.filter(|_| state.combatants.is_present(attacker)) else {
        return scale;
    };
    let speed = sheet::stat(rules, state, attacker.slot(), stat);
    (crate::Fixed::whole(scale.into()) * speed).nearest().clamp(0, FASTEST.into()) as u8
}
