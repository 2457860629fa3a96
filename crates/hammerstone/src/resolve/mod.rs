//! What becomes of one blow: gates, amount, health, and the fall if health is gone.
//!
//! The files sort in the order of what they do.

mod r1_gates;
mod r2_amount;
mod r3_health;
mod r4_fall;

pub(crate) use r3_health::{apply_status, beat, heal, host_harm};

use crate::event::{Event, Means};
use crate::ids::*;
use crate::rolls::Occasion;
use crate::state::{Mark, next};
use crate::work::{Meeting, Work};

use r2_amount::Start;
use r3_health::Blow;

/// One meeting of a swing and a target: it lands, or the first gate that does not let it through refuses it.
pub(crate) fn blow(work: &mut Work<'_>, meeting: &Meeting) {
    let Some(index) = work.state.swing_index(meeting.swing) else { return };
    work.state.counts.attempts += 1;
    let mark = mark_of(work, index, meeting.target);
    match r1_gates::pass(work, index, mark, meeting) {
        Ok(()) => land(work, index, mark, meeting),
        Err(refused) => r1_gates::refuse(work, index, mark, meeting, refused),
    }
}

/// The place of what the swing remembers of the target in its present life.
fn mark_of(work: &mut Work<'_>, index: usize, target: CombatantId) -> usize {
    let state = &mut *work.state;
    let same_tenant = state.combatants.generation[target.slot()] == target.generation;
    let life = if same_tenant { state.combatants.lives[target.slot()] } else { 0 };
    let swing = &mut state.swings[index];
    state.marks.find(swing.marks, |mark| mark.target == target && mark.life == life).unwrap_or_else(|| {
        let new = Mark { target, life, hits: 0, hits_in_window: 0, window: 0, refused: 0 };
        state.marks.push(&mut swing.marks, new)
    })
}

fn land(work: &mut Work<'_>, index: usize, mark: usize, meeting: &Meeting) {
    let rules = work.rules;
    let state = &mut *work.state;
    let swing = state.swings[index];
    let attack = rules.attack(swing.attack);
    let target = meeting.target;
    let mark = state.marks.get_mut(mark);
    if mark.window != swing.window {
        (mark.window, mark.hits_in_window) = (swing.window, 0);
    }
    mark.hits += 1;
    mark.hits_in_window += 1;
    let (ordinal, life) = (mark.hits, mark.life);
    state.counts.hits += 1;
    let hit = next(&mut state.next_hit);
    let (attacker_key, target_key) =
        (state.combatants.key[swing.attacker.slot()], state.combatants.key[target.slot()]);
    let multiplier =
        rules.cast(state.combatants.cast[target.slot()]).parts[usize::from(meeting.part)].multiplier;
    work.publish(Event::HitLanded {
        hit,
        swing: swing.id,
        attack: swing.attack,
        attacker: swing.attacker,
        target,
        life,
        part: meeting.part,
        window: swing.window,
        point: meeting.impact.point.to_array(),
        normal: meeting.impact.normal.to_array(),
    });
    let occasion = Occasion {
        attacker: attacker_key,
        means: attack.key,
        start: swing.start.into(),
        target: target_key,
        ordinal: ordinal.into(),
    };
    let blow = Blow {
        target,
        source: Some(swing.attacker),
        means: Means::Attack(swing.attack),
        hit: Some(hit),
        part: Some(multiplier),
    };
    let harms = attack.harm.iter().map(|&harm| (harm.kind, Start::Rolled(harm, occasion)));
    let lives = r3_health::deal(work, &blow, harms);
    if lives {
        for &status in &attack.gives {
            apply_status(work, target, status, Some(swing.attacker));
        }
    }
}
