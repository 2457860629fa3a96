//! Stage 2: the clocks of running swings. Children begin, chains go on or lapse, windows close and open, bodies leave and fly,
//! swings whose time is up end.

use crate::Fixed;
use crate::event::{AttackOpened, SwingEnd, Why};
use crate::geometry::Pose;
use crate::log::Log;
use crate::ruleset::{Attack, Form, Given, Rules, When};
use crate::state::{Charging, State, Swing, SwingAt};
use crate::statuses;
use crate::swing;
use crate::tempo;
use crate::terms::{FASTEST, NORMAL};
use crate::work::Work;

pub(super) fn advance(work: &mut Work<'_>) {
    swing::begin_children(work.rules, work.state, work.log, &mut work.rooms.known);
    swing::go_on_or_lapse(work);
    swing::start_waiting(work);
    for index in SwingAt::all(&work.state.swings) {
        if work.state.swings[index].ended.is_none() {
            work.log.begin_root();
            advance_one(work, index);
        }
    }
    swing::fly(work.rules, work.state);
    work.log.source.root = 0;
}

fn advance_one(work: &mut Work<'_>, index: SwingAt) {
    let tick = work.state.tick;
    let (left, stopped) = is_stopped(work.rules, work.state, index);
    let pace = tempo::pace(work.rules, work.state, index, left);
    let swing = &mut work.state.swings[index];
    (swing.taken, swing.steps) = (0, 0);
    if stopped {
        if tick >= swing.last_tick {
            swing::end_swing(work, index, SwingEnd::Expired);
        }
        return;
    }
    let due = swing.left_over + pace;
    if due < NORMAL {
        // Its own time stands, and so does the time when it would be over at the latest.
        (swing.left_over, swing.last_tick) = (due, swing.last_tick.saturating_add(1));
        return;
    }
    let mut steps = 0;
    while steps < (due / NORMAL).min(2) && (steps == 0 || window_stays(work, index)) {
        step(work, index);
        steps += 1;
        if work.state.swings[index].ended.is_some() {
            break;
        }
    }
    let swing = &mut work.state.swings[index];
    // What a window held up is made up for later, within two ticks.
    swing.left_over = (due - steps * NORMAL).min(FASTEST);
    swing.steps = steps;
}

/// Whether the next tick of the swing at `index` opens no window and closes none: each is swept for itself.
fn window_stays(work: &Work<'_>, index: SwingAt) -> bool {
    let swing = &work.state.swings[index];
    let (attack, plan) = (work.rules.attack(swing.attack), work.rules.attack_plan(swing.attack));
    attack.marked.is_some() || plan.open_window(swing.clock).map_or(0, |window| window + 1) == swing.window
}

/// One tick of the time of a swing.
fn step(work: &mut Work<'_>, index: SwingAt) {
    let tick = work.state.tick;
    let swing = &mut work.state.swings[index];
    let (attack, plan) = (work.rules.attack(swing.attack), work.rules.attack_plan(swing.attack));
    swing.age += 1;
    if matches!(swing.charging, Charging::Held(..)) {
        statuses::pay_held(work, index);
    }
    let swing = &mut work.state.swings[index];
    if swing.ended.is_some() {
        return;
    }
    if !released(swing, attack) {
        return;
    }
    let begins = swing.clock;
    swing.clock += 1;
    if attack.windows_last.is_some_and(|lasts| begins - swing.opened_at >= lasts) {
        swing.markers.0 = 0;
    }
    let window = match attack.marked {
        Some(_) => swing.markers.0,
        None if swing.launched && swing.bodies == 0 => 0,
        None => plan.open_window(begins).map_or(0, |window| window + 1),
    };
    if window != swing.window {
        swing::close_window(work, index, Why::Done);
        if window > 0 {
            open_window(work.rules, work.state, work.log, index, window);
        }
    }
    // With the last tick of its time, so that the attacker may start again with the next.
    if begins + 1 >= plan.frees {
        swing::free_hands(work.state, index);
    }
    bear(work, index, begins);
    let swing = &work.state.swings[index];
    let end = match (attack.marked, attack.form) {
        (Some(_), _) if swing.markers.2 => Some(SwingEnd::Done),
        (Some(_), _) if begins >= plan.total => Some(SwingEnd::Expired),
        (None, Form::Projectile(_)) if swing.launched => {
            (swing.bodies == 0 && begins >= plan.frees).then_some(swing.last_end)
        }
        (None, _) if begins >= plan.total => Some(SwingEnd::Done),
        // Nothing moves this end.
        _ if tick >= swing.last_tick => Some(SwingEnd::Expired),
        _ => None,
    };
    if let Some(why) = end {
        if let Some(pose) = place_of(work.state, index) {
            swing::child(work.rules, work.state, work.log, index, When::End, pose);
        }
        swing::end_swing(work, index, why);
    }
}

/// Whether the swing has left its attacker's hand; and whether its clock stands with its attacker's, which it does if it has not.
fn is_stopped(rules: &Rules, state: &State, index: SwingAt) -> (bool, bool) {
    let swing = &state.swings[index];
    let left = swing.launched || (swing.window > 0 && rules.attack(swing.attack).form.leaves_the_hand());
    let stopped = |attacker| state.is_stopped(attacker);
    (left, !left && swing.attacker.is_some_and(stopped))
}

/// What the attacker bears for a stretch of the swing comes and goes.
fn bear(work: &mut Work<'_>, index: SwingAt, begins: u32) {
    let swing = work.state.swings[index];
    let Some(attacker) = swing.attacker else { return };
    for self_status in &work.rules.attack(swing.attack).self_status {
        if begins == self_status.from {
            let given = [Given::always(self_status.status, Fixed::ONE)];
            statuses::give(work, &given, attacker, Some(attacker), swing.credit, Some(swing.id));
        }
        if begins == self_status.to {
            statuses::lift_one_tied(work, attacker, swing.id, self_status.status);
        }
    }
}

/// Whether the swing is past its charge. A release takes effect as soon as the least time has passed.
fn released(swing: &mut Swing, attack: &Attack) -> bool {
    let (Charging::Held(held, ordered), Some(charge)) = (swing.charging, attack.charge) else { return true };
    if held >= charge.most || (ordered && held >= charge.least) {
        let share = Fixed::ratio(i64::from(held - charge.least), i64::from(charge.most - charge.least));
        swing.charging = Charging::Released(share);
        return true;
    }
    swing.charging = Charging::Held(held + 1, ordered);
    false
}

fn open_window(rules: &Rules, state: &mut State, log: &mut Log, index: SwingAt, window: u16) {
    let swing = &mut state.swings[index];
    swing.window = window;
    let (subject, attack, id) = (swing.attacker, swing.attack, swing.id);
    let launched = swing.launched;
    log.publish(AttackOpened { subject, attack, swing: id, window });
    if let (Form::Projectile(projectile), false) = (rules.attack(attack).form, launched) {
        swing::launch(rules, state, index, &projectile);
    }
}

/// Where a swing is: where it was placed, or else with its attacker.
fn place_of(state: &State, index: SwingAt) -> Option<Pose> {
    let swing = &state.swings[index];
    let with = |attacker: crate::ids::CombatantId| {
        let stays = state.combatants.has_place(attacker);
        stays.then(|| state.combatants.pose[attacker.slot()])
    };
    swing.anchor.or_else(|| swing.attacker.and_then(with))
}
