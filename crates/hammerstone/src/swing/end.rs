//! How swings end, and the windows and contacts of one that ends.

use crate::event::{AttackClosed, AttackEnded, SwingEnd, Why};
use crate::gauges;
use crate::ids::*;
use crate::ruleset::Rules;
use crate::state::{State, SwingAt};
use crate::statuses;
use crate::work::Work;

use super::{part_contacts, press};

/// What a combatant carries is cancelled; what has left its hand goes on.
pub(crate) fn stun(work: &mut Work<'_>, subject: CombatantId) {
    work.state.set_step(subject, None);
    press::drop_press(work.state, subject);
    for index in SwingAt::all(&work.state.swings) {
        if work.state.swings[index].attacker == Some(subject) && !lives_on(work.rules, work.state, index) {
            end_swing(work, index, SwingEnd::Cancelled);
        }
    }
}

/// Whether the swing at `index` has left its attacker's hand, and may go on without them.
pub(crate) fn lives_on(rules: &Rules, state: &State, index: SwingAt) -> bool {
    let swing = &state.swings[index];
    let attack = rules.attack(swing.attack);
    attack.outlives && (swing.launched || (swing.window > 0 && attack.form.leaves_the_hand()))
}

/// The swing at `index` binds its attacker's hands no longer.
pub(crate) fn free_hands(state: &mut State, index: SwingAt) {
    let swing = &mut state.swings[index];
    if std::mem::take(&mut swing.busy)
        && let Some(attacker) = swing.attacker
    {
        state.combatants.running[attacker.slot()] -= 1;
    }
}

/// Ends the swing at `index`, unless it has ended: contacts part, the window closes, its bodies are gone, the swing ends.
pub(crate) fn end_swing(work: &mut Work<'_>, index: SwingAt, why: SwingEnd) {
    if work.state.swings[index].ended.is_some() {
        return;
    }
    close_window(work, index, Why::SwingEnded);
    free_hands(work.state, index);
    let swing = &mut work.state.swings[index];
    swing.ended = Some(why);
    let (subject, attack, id) = (swing.attacker, swing.attack, swing.id);
    if std::mem::take(&mut swing.bodies) > 0 {
        // They stand by rising swing.
        let flying = &mut work.state.flying;
        let first = flying.partition_point(|body| body.swing < id);
        for body in flying[first..].iter_mut().take_while(|body| body.swing == id) {
            body.ended.get_or_insert(why);
        }
    }
    work.log.publish(AttackEnded { subject, attack, swing: id, why });
    if let Some(attacker) = subject.filter(|_| work.rules.uses.readiness) {
        gauges::begin_cooldown(work.rules, work.state, attacker, attack);
    }
    if let Some(attacker) = subject.filter(|_| !work.rules.attack(attack).self_status.is_empty()) {
        statuses::lift_tied(work, attacker, id, Why::SwingEnded);
    }
}

/// Closes the window of the swing at `index`, if one is open.
pub(crate) fn close_window(work: &mut Work<'_>, index: SwingAt, why: Why) {
    part_contacts(work, index, why, |_| true);
    let swing = &mut work.state.swings[index];
    let window = std::mem::take(&mut swing.window);
    if window > 0 {
        let (subject, attack, swing) = (swing.attacker, swing.attack, swing.id);
        work.log.publish(AttackClosed { subject, attack, swing, window });
    }
}
